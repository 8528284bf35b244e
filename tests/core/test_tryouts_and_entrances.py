"""Versions of a motion beside each other, and entrances after the arrival."""

import unittest
from typing import Any

import msgspec
import numpy as np

from avelt.core.edits.cues import curve_cues, time_cues
from avelt.core.edits.entrances import make_entrance, remove_entrance, set_layers, set_when
from avelt.core.edits.frames import remove_layer
from avelt.core.edits.inputs import add_input
from avelt.core.edits.routes import add_route, set_cue, set_duration
from avelt.core.edits.ties_and_staggers import make_stagger
from avelt.core.edits.tryouts import (
    Feel,
    add_tryout,
    curved,
    drop_tryout,
    edit_version,
    feel,
    keep_one,
    lasting,
    name_tryout,
    stepped,
    version,
)
from avelt.core.errors import EditError, FormatError
from avelt.core.formats.checked import check
from avelt.core.formats.project_file import pack, unpack
from avelt.core.model.curves import Line, Spring
from avelt.core.model.find import entrance_id, frame_by_id, layer_index, route_by_id
from avelt.core.model.motion import CueKey, Stagger, Transition
from avelt.core.model.triggers import Loading, SetInput, Timer
from avelt.core.model.values import Group
from avelt.core.running.player import Player
from avelt.core.timing.compile import compile_frames, compile_route
from avelt.core.timing.over import at_arrival, ends
from avelt.core.timing.schedule import end_of, timed
from tests.support import box, group, project_of

replace = msgspec.structs.replace
KEY = CueKey("a", "b", "")


def made() -> Any:
    left = (box("a", 0, 0, 20, 20, name="Card"),)
    right = (
        box("b", 100, 0, 20, 20, name="Card"),
        box("c", 10, 120, 30, 10, name="Low"),
        box("d", 10, 60, 30, 10, name="High"),
        group("g", 50, 50, (box("e", 0, 0, 9, 9), box("f", 0, 10, 9, 9))),
    )
    return project_of(left, right, Transition(100.0, Line()))


class Tryouts(unittest.TestCase):
    def setUp(self) -> None:
        self.project, self.second = add_tryout(made(), "R")

    def test_versions_are_changed_apart(self) -> None:
        project = edit_version(self.project, "R", self.second, lambda p: curve_cues(p, "R", [KEY], Spring(0.4)))
        project = edit_version(project, "R", self.second, lambda p: set_duration(p, "R", 250.0))
        route = project.routes[0]
        self.assertEqual((route.transition.duration, route.transition.cues), (100.0, ()))
        tried = version(route, self.second)
        self.assertEqual((tried.duration, tried.cues[0].curve), (250.0, Spring(0.4)))
        project, third = add_tryout(project, "R", self.second)
        self.assertEqual(version(project.routes[0], third), tried)
        check(project)
        self.assertEqual(unpack(pack(project), "here"), project)

    def test_a_stagger_in_a_version_looks_at_the_frames(self) -> None:
        keys = [CueKey(None, "c", ""), CueKey(None, "d", "")]
        rule = Stagger("", (), "top to bottom", ms=50.0)
        project = edit_version(self.project, "R", self.second, lambda p: make_stagger(p, "R", keys, rule)[0])
        route = project.routes[0]
        tried = version(route, self.second)
        starts = [timed(project, tried, *key).start for key in keys]
        self.assertEqual(starts, [50.0, 0.0])
        program = compile_frames(project, *ends(project, route), tried)
        self.assertEqual(len(program.contents), len(compile_route(project, route).contents))

    def test_one_is_kept_and_the_others_go(self) -> None:
        project = edit_version(self.project, "R", self.second, lambda p: set_duration(p, "R", 250.0))
        project = name_tryout(project, "R", self.second, "Slow")
        self.assertEqual(project.routes[0].tryouts[0].name, "Slow")
        kept = keep_one(project, "R", self.second).routes[0]
        self.assertEqual((kept.transition.duration, kept.tryouts), (250.0, ()))
        self.assertEqual(keep_one(project, "R", "").routes[0].transition.duration, 100.0)
        self.assertEqual(drop_tryout(project, "R", self.second).routes[0].tryouts, ())

    def test_four_are_the_most(self) -> None:
        project = self.project
        for _ in range(2):
            project, _ = add_tryout(project, "R")
        self.assertEqual([e.name for e in project.routes[0].tryouts], ["Version B", "Version C", "Version D"])
        with self.assertRaisesRegex(EditError, "Four versions"):
            add_tryout(project, "R")

    def test_what_hung_on_a_layer_goes_from_versions_too(self) -> None:
        project = edit_version(self.project, "R", self.second, lambda p: set_cue(p, "R", KEY, start=5.0))
        self.assertEqual(version(remove_layer(project, "A", "a").routes[0], self.second).cues, ())


class Entrances(unittest.TestCase):
    def setUp(self) -> None:
        self.project = make_entrance(made(), "B", ["c", "d", "g", "e"])
        self.ident = entrance_id("B")

    def entrance(self, project: Any = None) -> Any:
        return frame_by_id(project or self.project, "B").entrance

    def test_layers_come_from_top_to_bottom(self) -> None:
        self.assertEqual(self.entrance().layers, ("c", "d", "g"))  # of a group and its layer, the group
        motion = self.entrance().transition
        starts = {key: timed(self.project, motion, None, key, "").start for key in ("c", "d", "g")}
        self.assertLess(starts["d"], starts["c"])
        self.assertEqual(end_of(motion, self.project), 320.0 + 2 * 60.0)
        check(self.project)
        self.assertEqual(unpack(pack(self.project), "here"), self.project)

    def test_the_frame_is_arrived_at_without_them(self) -> None:
        _, right = ends(self.project, self.project.routes[0])
        self.assertEqual(set(layer_index(right)), {"b"})
        left, whole = ends(self.project, route_by_id(self.project, self.ident))
        self.assertIs(left, right)
        self.assertIs(whole, frame_by_id(self.project, "B"))
        program = compile_route(self.project, route_by_id(self.project, self.ident))
        self.assertEqual({p.layer.id for p in program.contents if p.left is None}, {"c", "d", "g", "e", "f"})
        still = at_arrival(frame_by_id(self.project, "A"))
        self.assertIs(still, frame_by_id(self.project, "A"))

    def test_its_cues_are_edited_as_those_of_a_route(self) -> None:
        project = time_cues(self.project, self.ident, [CueKey(None, "d", "")], 500.0, 700.0)
        self.assertEqual(timed(project, self.entrance(project).transition, None, "d", "").start, 500.0)
        self.assertEqual(end_of(self.entrance(project).transition, project), 700.0)

    def test_it_plays_after_the_arrival(self) -> None:
        player = Player(self.project)
        player.tap(5, 5)
        player.advance(100.0)
        self.assertEqual([e.what for e in player.log], ["arrives", "tap", "starts", "arrives", "entrance"])
        self.assertEqual(player.frame.id, "B")
        middle = player.scene()
        self.assertTrue(any(middle.program.is_absent(s, middle.at) for s in range(len(middle.program.contents))))
        player.advance(1000.0)
        self.assertEqual(player.log[-1].says, "of B is over")
        self.assertEqual(len(player.scene().program.contents), 6)
        self.assertIsNone(player.under_way())

    def test_it_can_wait_for_the_loading(self) -> None:
        project = set_when(self.project, "B", "after loading")
        player = Player(project, loading=400.0)
        player.advance(450.0)
        player.tap(5, 5)
        player.advance(900.0)
        self.assertNotIn("entrance", [e.what for e in player.log])
        player.advance(951.0)
        self.assertEqual([e.what for e in player.log][-2:], ["loaded", "entrance"])
        at_once = Player(project)
        at_once.tap(5, 5)
        at_once.advance(101.0)
        self.assertEqual(at_once.log[-1].what, "entrance")

    def test_timers_count_from_the_arrival_and_touches_are_answered_meanwhile(self) -> None:
        project, _ = add_route(self.project, "B", "A", Timer(200.0))
        player = Player(project)
        player.tap(5, 5)
        player.advance(305.0)
        self.assertEqual(player.frame.id, "A")
        self.assertIn("goes back", [e.what for e in player.log])
        player.advance(2000.0)
        self.assertEqual(len(player.scene().program.contents), 1)

    def test_what_loading_starts_still_starts(self) -> None:
        project, _ = add_route(self.project, "B", "A", Loading("is ready"))
        player = Player(project)
        player.tap(5, 5)
        player.advance(99.0)
        player.advance(450.0)
        self.assertEqual(player.frame.id, "A")

    def test_the_first_frame_comes_to_life_too(self) -> None:
        player = Player(replace(self.project, first="B"))
        self.assertEqual([e.what for e in player.log], ["arrives", "entrance"])

    def test_layers_join_and_leave_it(self) -> None:
        project = set_layers(self.project, "B", ["c"])
        self.assertEqual(self.entrance(project).layers, ("c",))
        self.assertEqual(self.entrance(project).transition.staggers, ())
        self.assertIsNone(self.entrance(set_layers(project, "B", [])))
        self.assertIsNone(self.entrance(remove_entrance(project, "B")))
        self.assertEqual(self.entrance(remove_layer(self.project, "B", "c")).layers, ("d", "g"))
        with self.assertRaises(EditError):
            make_entrance(made(), "B", ["a"])

    def test_masks_do_not_come_without_their_group(self) -> None:
        inner = (box("m", 0, 0, 9, 9), box("n", 0, 0, 9, 9))
        masked = replace(group("h", 0, 0, inner), body=Group(inner, False, "m"))
        project = made()
        project = replace(project, frames=(project.frames[0], replace(project.frames[1], layers=(masked,))))
        self.assertEqual(self.entrance(make_entrance(project, "B", ["m", "n"])).layers, ("n",))

    def test_a_layer_of_another_frame_is_refused_in_a_file(self) -> None:
        frame = frame_by_id(self.project, "B")
        bad = replace(frame, entrance=replace(frame.entrance, layers=("a",)))
        with self.assertRaisesRegex(FormatError, r"frames\[1\].entrance.layers\[0\]"):
            check(replace(self.project, frames=(self.project.frames[0], bad)))

    def test_both_ends_are_the_frames(self) -> None:
        program = compile_route(self.project, route_by_id(self.project, self.ident))
        np.testing.assert_array_equal(program.at(program.last).vector, program.end)
        self.assertTrue(all(program.is_absent(s, 0.0) for s, p in enumerate(program.contents) if p.left is None))
        with self.assertRaises(EditError):
            add_tryout(self.project, self.ident)

    def test_a_route_that_only_sets_something_hides_nothing(self) -> None:
        project, name = add_input(self.project, "seen", "yes/no")
        project, ident = add_route(project, "B", "B", Loading("is ready"), Transition(0.0), SetInput(name, True))
        frame = frame_by_id(project, "B")
        self.assertEqual(ends(project, route_by_id(project, ident)), (frame, frame))


class Compared(unittest.TestCase):
    """Length, curve and stagger of versions, of the whole or of some cues."""

    def setUp(self) -> None:
        self.project, self.route = made(), "R"
        self.project, self.ident = add_tryout(self.project, self.route)
        self.own = version(route_by_id(self.project, self.route), "")

    def motion(self, project: Any) -> Any:
        return version(route_by_id(project, self.route), self.ident)

    def test_of_the_whole(self) -> None:
        project = lasting(self.project, self.route, self.ident, (), 900.0)
        project = curved(project, self.route, self.ident, (), Spring(0.4))
        self.assertEqual(feel(project, self.motion(project), ()), Feel(900.0, Spring(0.4), None))
        self.assertEqual(version(route_by_id(project, self.route), ""), self.own)

    def test_of_one_cue(self) -> None:
        project = time_cues(self.project, self.route, [KEY], 30.0, 90.0)
        project, ident = add_tryout(project, self.route)
        project = lasting(project, self.route, ident, (KEY,), 200.0)
        project = curved(project, self.route, ident, (KEY,), Line())
        motion = version(route_by_id(project, self.route), ident)
        when = timed(project, motion, *KEY)
        self.assertEqual((when.start, when.end, when.curve), (30.0, 230.0, Line()))
        self.assertEqual(feel(project, motion, (KEY,)), Feel(200.0, Line(), None))

    def test_several_cues_get_a_stagger_when_a_step_is_typed(self) -> None:
        keys = (CueKey(None, "c", ""), CueKey(None, "d", ""))
        self.assertEqual(feel(self.project, self.own, keys).step, 0.0)
        project = stepped(self.project, self.route, self.ident, keys, 45.0)
        motion = self.motion(project)
        starts = sorted(timed(project, motion, *key).start for key in keys)
        self.assertEqual(starts[1] - starts[0], 45.0)
        project = stepped(project, self.route, self.ident, keys, 20.0)
        self.assertEqual([rule.ms for rule in self.motion(project).staggers], [20.0])
        self.assertEqual(feel(project, self.motion(project), ()).step, 20.0)
        self.assertEqual(version(route_by_id(project, self.route), "").staggers, ())


if __name__ == "__main__":
    unittest.main()
