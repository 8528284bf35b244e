"""Edits are pure, share what they do not touch, and undo to the very same value."""

import unittest
from typing import Any

import msgspec
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from avelt.core.edits import frames, layers, loops, routes
from avelt.core.edits.session import Session
from avelt.core.errors import AveltError
from avelt.core.geometry.flatten import flatten
from avelt.core.model.curves import Handles, Named, Spring
from avelt.core.model.find import find_frame, find_route, frame_by_id, layer_index, route_title
from avelt.core.model.motion import CueKey
from avelt.core.model.triggers import Tap, Timer
from avelt.core.model.values import Away, Box, Cue, Decision, Path, Pose, Solid, Subpath, Transition
from avelt.demo.build import build_demo
from tests.support import box, group, project_of, text

replace = msgspec.structs.replace


def sample_project() -> Any:
    inner = box("in", 5, 5, 10, 10, body=Path((Subpath((0, 0, 3, 3, 6, 6, 10, 10), False),)))
    left = (box("back", 0, 0, 200, 200), group("g", 20, 30, (inner, text("t", "hi", 0, 20)), name="Card"))
    return project_of(left, (box("other", 10, 10, 50, 50, name="Card"),))


class Frames(unittest.TestCase):
    def test_next_state_keeps_origins_and_gives_new_ids(self) -> None:
        project = sample_project()
        project, _ = loops.add_loop(project, "A", "g")
        new = frames.next_state(project, "A")
        old, copy = new.frames[0], new.frames[1]
        self.assertEqual([f.name for f in new.frames], ["A", "A, next", "B"])
        self.assertFalse(set(layer_index(old)) & set(layer_index(copy)))
        self.assertEqual([e.origin for e in layer_index(old).values()], [e.origin for e in layer_index(copy).values()])
        self.assertEqual(copy.loops[0].origin, old.loops[0].origin)
        self.assertIn(copy.loops[0].layer, layer_index(copy))
        self.assertIs(new.frames[0], project.frames[0])

    def test_names_stay_apart(self) -> None:
        project = frames.next_state(frames.next_state(sample_project(), "A"), "A")
        self.assertEqual(len({f.name for f in project.frames}), 4)
        with self.assertRaises(AveltError):
            frames.rename_frame(project, "A", "B")
        self.assertEqual(frames.rename_frame(project, "A", " Start ").frames[0].name, "Start")

    def test_removing_a_frame_takes_its_routes(self) -> None:
        project = frames.remove_frame(sample_project(), "A")
        self.assertEqual((len(project.frames), project.routes, project.first), (1, (), "B"))

    def test_removing_a_layer_takes_what_hung_on_it(self) -> None:
        project = sample_project()
        project, _ = loops.add_loop(project, "A", "in")
        project = routes.set_trigger(project, "R", Tap("g"))
        project = routes.set_cue(project, "R", CueKey("g", None, ""), start=10.0)
        project = routes.set_absent(project, "R", "t", Pose(shift_x=3))
        gone = frames.remove_layer(project, "A", "g")
        self.assertEqual(set(layer_index(gone.frames[0])), {"back"})
        route = gone.routes[0]
        self.assertEqual((gone.frames[0].loops, route.trigger, route.transition.cues), ((), Tap("g"), ()))
        self.assertEqual(route.transition.absents, ())

    def test_routes_are_chained_only_where_there_are_none(self) -> None:
        bare = replace(sample_project(), routes=())
        self.assertEqual(len(frames.chain_routes(bare).routes), 1)
        project = sample_project()
        self.assertIs(frames.chain_routes(project), project)


class Layers(unittest.TestCase):
    @settings(deadline=None)
    @given(st.floats(-90, 90), st.floats(-90, 90), st.floats(-180, 180), st.floats(0.2, 3))
    def test_moving_is_in_the_frames_space(self, dx: Any, dy: Any, turn: Any, scale: Any) -> None:
        project = sample_project()
        frame = project.frames[0]
        turned = replace(frame.layers[1], rotation=turn, scale_x=scale, scale_y=scale)
        frame = replace(frame, layers=(frame.layers[0], turned))
        before = flatten(frame).bounds[2]
        after = flatten(layers.move_in_frame(frame, "in", dx, dy)).bounds[2]
        np.testing.assert_allclose(after - before, (dx, dy, 0, 0), atol=1e-6)

    def test_resizing_stretches_what_is_inside(self) -> None:
        project = layers.set_value(sample_project(), "A", "g", "w", 200)
        index = layer_index(project.frames[0])
        factor = 200 / layer_index(sample_project().frames[0])["g"].w
        self.assertAlmostEqual(index["in"].x, 5 * factor)
        self.assertAlmostEqual(index["in"].body.subpaths[0].points[-2], 10 * factor)

    def test_values_are_kept_in_their_limits_and_refused_where_they_make_no_sense(self) -> None:
        project = sample_project()
        self.assertEqual(layer_index(layers.set_value(project, "A", "g", "opacity", 7).frames[0])["g"].opacity, 1.0)
        self.assertEqual(
            layer_index(layers.set_value(project, "A", "back", "corner", 9).frames[0])["back"].body, Box((9.0,) * 4)
        )
        self.assertEqual(
            layer_index(layers.set_value(project, "A", "back", "fill", "red").frames[0])["back"].fills,
            (Solid("#ff0000"),),
        )
        self.assertEqual(layer_index(layers.set_value(project, "A", "t", "type", 32).frames[0])["t"].body.size, 32)
        for layer, name, value in (("t", "corner", 3), ("g", "type", 3), ("back", "fill", "goo")):
            with self.assertRaises(AveltError):
                layers.set_value(project, "A", layer, name, value)


class Routes(unittest.TestCase):
    KEY = CueKey("g", None, "")

    def test_cues_are_made_changed_and_inherited_again(self) -> None:
        project = routes.set_cue(sample_project(), "R", self.KEY, start=10.0, curve=Spring(0.3))
        project = routes.set_cue(project, "R", self.KEY, end=80.0)
        self.assertEqual(project.routes[0].transition.cues, (Cue(*self.KEY, 10.0, 80.0, Spring(0.3)),))
        project = routes.set_cue(project, "R", self.KEY, start=None, end=None)
        self.assertEqual(project.routes[0].transition.cues, (Cue(*self.KEY, None, None, Spring(0.3)),))
        self.assertEqual(routes.inherit_cue(project, "R", self.KEY).routes[0].transition.cues, ())

    def test_another_length_stretches_all_cues(self) -> None:
        project = routes.set_cue(sample_project(), "R", self.KEY, start=10.0, end=50.0)
        cue = routes.set_duration(project, "R", 300.0).routes[0].transition.cues[0]
        self.assertEqual((cue.start, cue.end), (30.0, 150.0))

    def test_a_named_curve_moves_all_that_use_it(self) -> None:
        project = routes.set_base_curve(sample_project(), "R", Named("settle"))
        project = routes.edit_named_curve(project, "settle", Handles(0, 0, 1, 1))
        self.assertEqual(project.curves[0].curve, Handles(0, 0, 1, 1))
        project, ident = routes.name_curve(project, "Mine", Spring(0.1))
        self.assertEqual(project.curves[-1].id, ident)

    def test_decisions_give_way_to_newer_ones(self) -> None:
        project = project_of((box("a", 0, 0, 9, 9), box("c", 0, 0, 9, 9)), (box("b", 0, 0, 9, 9),))
        project = routes.decide(project, "R", "a", "b", True)
        project = routes.decide(project, "R", "c", "b", True)
        self.assertEqual(project.routes[0].transition.decisions, (Decision("c", "b", True),))
        project = routes.decide(project, "R", "a", "b", False)
        self.assertEqual(len(project.routes[0].transition.decisions), 2)
        self.assertEqual(routes.undecide(project, "R", None, "b").routes[0].transition.decisions, ())

    def test_what_cannot_be_is_refused(self) -> None:
        project = sample_project()
        for edit in (
            lambda: routes.add_route(project, "A", "A"),
            lambda: routes.add_route(project, "A", "Z"),
            lambda: routes.set_trigger(project, "R", Tap("other")),
            lambda: routes.decide(project, "R", "g", "other", True),
            lambda: routes.decide(project, "R", "zz", "other", True),
            lambda: loops.add_loop(project, "A", "other"),
            lambda: loops.edit_loop(project, "A", "none", lambda loop: loop),
        ):
            with self.assertRaises(AveltError):
                edit()

    def test_triggers_and_absent_poses(self) -> None:
        project = routes.set_trigger(sample_project(), "R", Timer(500.0))
        self.assertEqual(project.routes[0].trigger, Timer(500.0))
        project = routes.set_absent(project, "R", "g", Pose(shift_y=9))
        self.assertEqual(project.routes[0].transition.absents[0].pose, Away(shift_y=9))
        self.assertEqual(routes.set_absent(project, "R", "g", None).routes[0].transition.absents, ())
        self.assertEqual(routes.remove_route(project, "R").routes, ())

    def test_routes_are_found_by_title(self) -> None:
        project, second = routes.add_route(sample_project(), "A", "B", transition=Transition(50.0))
        self.assertEqual(find_route(project, "a > b").id, "R")
        self.assertEqual(find_route(project, "A > B#2").id, second)
        self.assertEqual(route_title(project, project.routes[0]), "A > B")
        for bad in ("A", "A > Z", "A > B#3", "B > A"):
            with self.assertRaises(AveltError):
                find_route(project, bad)

    def test_loops_stay_playable(self) -> None:
        project, ident = loops.add_loop(sample_project(), "A", "g")
        project = loops.edit_loop(project, "A", ident, lambda loop: replace(loop, duration=-5.0, wait=-1.0, rounds=-3))
        made = project.frames[0].loops[0]
        self.assertEqual((made.duration, made.wait, made.rounds), (1.0, 0.0, 0))
        self.assertEqual(loops.remove_loop(project, "A", ident).frames[0].loops, ())


class Undo(unittest.TestCase):
    def test_do_look_undo_look(self) -> None:
        first = sample_project()
        session = Session(first)
        session.do("move Card", layers.set_value(first, "A", "g", "x", 99))
        second = session.project
        self.assertEqual((session.undo_label, session.changed), ("move Card", True))
        session.undo()
        self.assertIs(session.project, first)
        self.assertEqual((session.undo_label, session.redo_label, session.changed), ("", "move Card", False))
        session.redo()
        self.assertIs(session.project, second)

    def test_a_gesture_is_one_entry_and_can_be_given_up(self) -> None:
        first = sample_project()
        session = Session(first)
        for x in range(30):
            session.gesture("drag", layers.set_value(first, "A", "g", "x", x))
        session.end_gesture()
        session.undo()
        self.assertIs(session.project, first)
        session.gesture("drag", layers.set_value(first, "A", "g", "x", 5))
        session.cancel_gesture()
        self.assertIs(session.project, first)
        self.assertEqual(session.undo_label, "")
        self.assertEqual(session.redo_label, "drag")

    def test_nothing_done_is_no_entry_and_new_edits_clear_the_future(self) -> None:
        session = Session(sample_project())
        session.do("nothing", session.project)
        self.assertEqual(session.undo_label, "")
        session.do("one", frames.next_state(session.project, "A"))
        session.undo()
        session.do("two", frames.next_state(session.project, "B"))
        self.assertEqual((session.undo_label, session.redo_label), ("two", ""))

    def test_listeners_hear_what_changed_and_from_whom(self) -> None:
        session, heard = Session(sample_project()), []
        stop = session.listen(heard.append)
        session.do("one", frames.next_state(session.project, "A"), origin="me")
        stop()
        session.undo()
        self.assertEqual([(c.label, c.origin, len(c.after.frames)) for c in heard], [("one", "me", 3)])

    def test_saving_is_remembered_across_undo(self) -> None:
        session = Session(sample_project())
        session.do("one", frames.next_state(session.project, "A"))
        session.saved()
        session.undo()
        self.assertTrue(session.changed)
        session.redo()
        self.assertFalse(session.changed)

    @settings(deadline=None, max_examples=20)
    @given(st.lists(st.sampled_from(["next", "move", "cue", "undo", "redo", "loop"]), max_size=15))
    def test_undoing_everything_gives_the_first_project(self, steps: Any) -> None:
        first = build_demo()
        session = Session(first)
        frame = find_frame(first, "Sailings")
        layer = frame.layers[1].id
        for k, step in enumerate(steps):
            p = session.project
            if step == "undo":
                session.undo()
            elif step == "redo":
                session.redo()
            elif step == "next":
                session.do(step, frames.next_state(p, frame.id))
            elif step == "move":
                session.do(step, frames.put_frame(p, layers.move_in_frame(frame_by_id(p, frame.id), layer, k, 1)))
            elif step == "cue":
                session.do(step, routes.set_duration(p, p.routes[0].id, 100.0 + k))
            else:
                session.do(step, loops.add_loop(p, frame.id, layer)[0])
        while session.undo_label:
            session.undo()
        self.assertIs(session.project, first)
