"""Cues, programs and scenes."""

import unittest
from typing import Any

import msgspec
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from avelt.core.blending import colour, spaces
from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import set_cue
from avelt.core.edits.wiring import return_trip
from avelt.core.model.curves import Handles, Line, Named
from avelt.core.model.find import frame_of_layer
from avelt.core.model.motion import CueKey
from avelt.core.model.properties import COLUMN, PROPERTIES, PROPERTY_OF_COLUMN, SCALARS
from avelt.core.model.values import Absent, Away, Box, Cue, Linear, Path, Solid, Stop, Stroke, Subpath, Transition
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.items import items
from avelt.core.timing.over import ends
from avelt.core.timing.sampling import records_of, sample
from avelt.core.timing.schedule import duration_of, end_of, timed
from avelt.core.timing.snapshot import snapshot
from avelt.demo.build import build_demo
from tests.support import box, group, project_of, text

replace = msgspec.structs.replace
A = box("a", 0, 0, 20, 10, "#ff0000", name="Card")
B = box("b", 100, 50, 40, 30, "#0000ff", name="Card")


def compiled(left: Any = (A,), right: Any = (B,), **own: Any) -> Any:
    own.setdefault("duration", 100.0)
    own.setdefault("curve", Line())
    project = project_of(tuple(left), tuple(right), Transition(**own))
    return compile_route(project, project.routes[0])


def at(program: Any, ms: Any, name: Any = "Card") -> Any:
    return next(entry for entry in sample(program, ms) if entry["name"] == name)


class Cascade(unittest.TestCase):
    def setUp(self) -> None:
        cues = (Cue("a", "b", "", 20.0, None, Named("swell")), Cue("a", "b", "size", None, 60.0, None))
        self.project = project_of((A,), (B,), Transition(100.0, Named("settle"), cues))
        self.transition = self.project.routes[0].transition

    def test_property_over_layer_over_transition(self) -> None:
        size, place = (timed(self.project, self.transition, "a", "b", prop) for prop in ("size", "position"))
        self.assertEqual((size.start, size.end, size.curve), (20.0, 60.0, Named("swell")))
        self.assertEqual((place.start, place.end), (20.0, 100.0))
        self.assertEqual((size.own_time, size.own_curve, place.own_time), (True, False, False))
        other = timed(self.project, self.transition, "x", None, "")
        self.assertEqual((other.start, other.end, other.curve), (0.0, 100.0, Named("settle")))

    def test_length_is_own_or_the_last_cue(self) -> None:
        self.assertEqual(duration_of(self.transition), 100.0)
        self.assertEqual(duration_of(replace(self.transition, duration=None)), 60.0)
        self.assertEqual(duration_of(Transition(duration=None)), 300.0)
        self.assertEqual(end_of(replace(self.transition, duration=50.0)), 60.0)

    def test_the_table_of_properties_covers_every_number(self) -> None:
        self.assertEqual(len(PROPERTY_OF_COLUMN), len(SCALARS))
        self.assertEqual(len({p.key for p in PROPERTIES}), len(PROPERTIES))


class Between(unittest.TestCase):
    def test_numbers_go_straight(self) -> None:
        half = at(compiled(), 50)
        self.assertEqual([half[k] for k in "xywh"], [50, 25, 30, 20])
        self.assertEqual(half["pair"], ["a", "b"])

    def test_both_ends_hold_exactly(self) -> None:
        curve = Handles(0.3, -0.7, 0.2, 1.9)
        left = (replace(A, rotation=33.3, opacity=0.7), text("t", "hello", 3.3, 7.7, 13.1))
        right = (replace(B, rotation=721.1, opacity=0.1), text("u", "hello", 91.7, 3.1, 29.9))
        program = compiled(left, right, curve=curve)
        for ms, vector in ((0.0, program.start), (100.0, program.end), (-5.0, program.start), (1e6, program.end)):
            np.testing.assert_array_equal(program.at(ms).vector, vector)

    def test_turns_are_kept_as_typed(self) -> None:
        program = compiled((replace(A, rotation=0.0),), (replace(B, rotation=360.0),))
        self.assertAlmostEqual(at(program, 50)["turn"], 180.0)
        self.assertAlmostEqual(at(program, 75)["turn"], 270.0)

    def test_colours_blend_in_oklab(self) -> None:
        found = colour.parse(at(compiled(), 50)["fill"])
        wanted = spaces.blend(colour.parse("#ff0000"), colour.parse("#0000ff"), 0.5)
        np.testing.assert_allclose(found[:3], wanted[:3], atol=0.003)

    def test_radii_stroke_and_type_size(self) -> None:
        left = (replace(A, body=Box((0, 0, 0, 0)), stroke=Stroke(Solid("#000"), 2.0)), text("t", "hi", size=10))
        right = (replace(B, body=Box((10, 20, 30, 40)), stroke=Stroke(Solid("#000"), 6.0)), text("u", "hi", size=30))
        program = compiled(left, right)
        half = at(program, 50)
        self.assertEqual((half["radii"], half["stroke_width"]), ([5, 10, 15, 20], 4))
        self.assertEqual(at(program, 50, "u")["type_size"], 20)

    def test_a_property_cue_moves_its_property_only(self) -> None:
        cues = (Cue("a", "b", "size", 50.0, 100.0), Cue("a", "b", "position", 0.0, 50.0))
        half = at(compiled(cues=cues), 50)
        self.assertEqual([half[k] for k in "xywh"], [100, 50, 20, 10])

    def test_before_its_start_nothing_after_its_end_all(self) -> None:
        program = compiled(cues=(Cue("a", "b", "", 40.0, 60.0),))
        self.assertEqual([at(program, ms)["x"] for ms in (0, 39.9, 50, 60, 90)], [0, 0, 50, 100, 100])

    def test_transitions_without_time(self) -> None:
        program = compiled(duration=0.0)
        self.assertEqual(at(program, 0.0)["x"], 100)
        self.assertEqual(at(compiled(cues=(Cue("a", "b", "", 30.0, 30.0),)), 30.0)["x"], 100)

    @settings(deadline=None, max_examples=50)
    @given(st.lists(st.floats(-10, 120), min_size=1, max_size=6), st.floats(0, 90), st.floats(0, 90))
    def test_a_table_is_every_moment_by_itself(self, times: Any, start: Any, length: Any) -> None:
        program = compiled(cues=(Cue("a", "b", "", start, start + length, Handles(0.4, 0, 0.1, 1.2)),))
        table = program.table(np.array(times))
        for k, ms in enumerate(times):
            np.testing.assert_allclose(table[k], program.at(ms).vector, rtol=1e-12, atol=1e-12)

    def test_paths_of_one_structure_move_point_by_point(self) -> None:
        def path(ident: Any, x: Any, points: Any) -> Any:
            return box(ident, x, 0, 10, 10, name="P", body=Path((Subpath(points, True),)))

        first, second = (0.0, 0, 0, 5, 5, 10, 10, 10), (2.0, 0, 0, 8, 5, 9, 10, 6)
        program = compiled((path("a", 0, first),), (path("b", 100, second),))
        (item,) = items(program.at(50.0))
        np.testing.assert_allclose(item.outline[0][0].ravel(), (np.array(first) + second) / 2)

    def test_gradients_blend_stop_by_stop(self) -> None:
        def fill(first: Any) -> Any:
            return Linear((Stop(0, first), Stop(1, "#000000")), (1, 0, 0, 1, 0, 0))

        program = compiled((replace(A, fills=(fill("#ffffff"),)),), (replace(B, fills=(Solid("#000000"),)),))
        (item,) = items(program.at(50.0))
        self.assertEqual(item.fills[0].kind, "linear")
        self.assertLess(item.fills[0].colours[0, 0], 0.6)


class ComingAndGoing(unittest.TestCase):
    def test_fade_by_default_and_gone_at_the_end(self) -> None:
        program = compiled((A,), ())
        self.assertAlmostEqual(at(program, 50)["opacity"], 0.5)
        self.assertEqual(sample(program, 100), [])
        program = compiled((), (B,))
        self.assertEqual(sample(program, 0), [])
        self.assertAlmostEqual(at(program, 25)["opacity"], 0.25)

    def test_an_absent_pose_of_its_own(self) -> None:
        absent = Absent("a", Away(shift_x=40, rotation=90, scale_x=2, scale_y=2, opacity=1.0))
        found = at(compiled((A,), (), absents=(absent,)), 50)
        self.assertEqual((found["w"], found["turn"], found["opacity"]), (30, 45, 1.0))
        self.assertEqual(found["x"] + found["w"] / 2, 30)

    def test_a_leaving_group_fades_as_one(self) -> None:
        program = compiled((group("g", 0, 0, (A,)),), ())
        found = {entry["name"]: entry["opacity"] for entry in sample(program, 50)}
        self.assertEqual(found, {"g": 0.5, "Card": 0.5})


class Trees(unittest.TestCase):
    def test_children_of_a_pair_move_inside_it(self) -> None:
        left = group("g", 0, 0, (box("a", 5, 5, 10, 10, name="Inner"),), name="Card")
        right = group("h", 100, 0, (box("b", 5, 5, 10, 10, name="Inner"),), name="Card")
        program = compiled((left,), (right,), cues=(Cue("g", "h", "", 0.0, 50.0),))
        self.assertEqual(at(program, 50, "Inner")["x"], 105)
        self.assertEqual(program.merged.slots[1].parent, 0)

    def test_a_layer_that_changes_its_group_moves_in_the_frame(self) -> None:
        left = (group("g", 10, 10, (replace(A, x=5, y=5),), name="Old", rotation=0.0, opacity=0.5),)
        right = (replace(B, x=100, y=50), box("z", 0, 0, 1, 1, name="Elsewhere"))
        program = compiled(left, right)
        first, last = at(program, 0.0001), at(program, 99.9999)
        self.assertAlmostEqual(first["x"], 15, delta=0.01)
        self.assertAlmostEqual(first["opacity"], 0.5, delta=0.01)
        self.assertAlmostEqual(last["x"], 100, delta=0.01)

    def test_paint_order_flips_half_way(self) -> None:
        left = (box("a", 0, 0, 9, 9, name="One"), box("c", 0, 0, 9, 9, name="Two"))
        right = (box("d", 0, 0, 9, 9, name="Two"), box("b", 0, 0, 9, 9, name="One"))
        program = compiled(left, right)
        order = [[entry["name"] for entry in sample(program, ms)] for ms in (10, 90)]
        self.assertEqual(order, [["One", "Two"], ["Two", "One"]])

    def test_what_enters_stands_above_what_it_covers(self) -> None:
        left = (box("a", 0, 0, 9, 9, name="Back"), box("c", 0, 0, 9, 9, name="Front"))
        right = (
            box("b", 0, 0, 9, 9, name="Back"),
            box("n", 0, 0, 9, 9, "#0f0", name="New"),
            box("d", 0, 0, 9, 9, name="Front"),
        )
        names = [entry["name"] for entry in sample(compiled(left, right), 10)]
        self.assertEqual(names, ["Back", "New", "Front"])

    def test_other_words_are_cross_faded(self) -> None:
        left, right = text("t", "one", name="Label"), text("u", "two", name="Label")
        (first, second) = items(compiled((left,), (right,)).at(25.0))
        self.assertEqual((first.text.words, second.text.words), ("one", "two"))
        self.assertAlmostEqual(first.opacity, 0.75)
        self.assertAlmostEqual(second.opacity, 0.25)


class WholeDemo(unittest.TestCase):
    def test_every_route_begins_and_ends_as_its_frames_stand(self) -> None:
        project = build_demo()
        for route in project.routes:
            program = compile_route(project, route)
            stands = ends(project, route)
            for side, (ms, frame) in enumerate(((0.0, stands[0]), (end_of(route.transition), stands[1]))):
                there = records_of(compile_still(frame, project).at(0.0))
                wanted = {entry["pair"][0]: entry for entry in there if entry["opacity"] > 0}
                moved = {entry["pair"][side]: entry for entry in records_of(program.at(ms)) if entry["opacity"] > 0}
                self.assertEqual(set(wanted), set(moved))
                for ident, entry in moved.items():
                    np.testing.assert_allclose(entry["matrix"], wanted[ident]["matrix"], atol=1e-6)
                    self.assertAlmostEqual(entry["opacity"], wanted[ident]["opacity"])

    def test_still_layers_are_known(self) -> None:
        program = compiled((A, box("s", 5, 5, 9, 9, name="Stays")), (B, box("t", 5, 5, 9, 9, name="Stays")))
        self.assertEqual(program.stands.still.tolist(), [False, True])

    def test_an_edit_moves_nothing_else(self) -> None:
        project = build_demo()
        route = project.routes[0]
        before = compile_route(project, route).at(200.0).vector
        cue = next(c for c in route.transition.cues if c.prop == "position" and c.to_id and c.from_id)
        edited = set_cue(project, route.id, cue.key, start=150.0)
        after = compile_route(edited, edited.routes[0]).at(200.0).vector
        changed = np.flatnonzero(before != after)
        self.assertTrue(len(changed))
        self.assertLessEqual({PROPERTY_OF_COLUMN[c % len(SCALARS)] for c in changed}, {"position"})
        self.assertIs(edited.frames, project.frames)


class Moments(unittest.TestCase):
    def test_a_snapshot_shows_what_the_scene_shows(self) -> None:
        project = build_demo()
        program = compile_route(project, project.routes[0])
        scene = program.at(170.0)
        frozen = snapshot(scene, project.frames[1])
        again = {e["name"]: e for e in sample(compile_still(frozen), 0.0)}
        for entry in sample(program, 170.0):
            if entry["opacity"] < 0.01 or entry["name"] not in again:
                continue
            np.testing.assert_allclose(again[entry["name"]]["matrix"], entry["matrix"], atol=1e-6)
            self.assertAlmostEqual(again[entry["name"]]["opacity"], entry["opacity"], delta=1e-6)

    def test_dense_columns_are_where_they_are_said_to_be(self) -> None:
        program = compiled()
        row = program.at(0.0).scalars[0]
        self.assertEqual([row[COLUMN[name]] for name in ("x", "w", "opacity", "scale_x")], [0, 20, 1, 1])


class Turning(unittest.TestCase):
    def turned(self, by: float, shortest: bool, ms: float) -> float:
        left, right = replace(A, rotation=0.0), replace(B, rotation=by)
        cues = (Cue(A.id, B.id, "rotation", shortest=True),) if shortest else ()
        return float(compiled((left,), (right,), cues=cues).at(ms).scalars[0, COLUMN["rotation"]])

    def test_as_typed_or_the_shortest_way(self) -> None:
        for by, typed, short in ((360.0, 180.0, 0.0), (350.0, 175.0, -5.0), (-270.0, -135.0, 45.0), (90.0, 45.0, 45.0)):
            self.assertAlmostEqual(self.turned(by, False, 50.0), typed)
            self.assertAlmostEqual(self.turned(by, True, 50.0), short)
            self.assertAlmostEqual((self.turned(by, True, 100.0) - by) % 360.0, 0.0)

    def test_it_is_a_cues_own_and_goes_with_the_way_back(self) -> None:
        cue = Cue("a", "b", "rotation", shortest=True)
        self.assertFalse(cue.empty)
        project = project_of(
            (replace(A, rotation=10.0),), (replace(B, rotation=350.0),), Transition(100.0, Line(), (cue,))
        )
        self.assertTrue(timed(project, project.routes[0].transition, "a", "b", "rotation").shortest)
        self.assertFalse(timed(project, project.routes[0].transition, "a", "b", "position").shortest)
        project, back = return_trip(project, "R")
        self.assertTrue(next(r for r in project.routes if r.id == back).transition.cues[0].shortest)


class Kept(unittest.TestCase):
    """What an edit of times and curves leaves alone."""

    def setUp(self) -> None:
        self.project = build_demo()
        self.route = self.project.routes[0]
        self.before = compile_route(self.project, self.route)
        self.key = next(c.key for c in self.route.transition.cues if c.from_id and c.to_id and not c.keyframes)

    def after(self, **own: Any) -> Any:
        made = set_cue(self.project, self.route.id, self.key, **own)
        return compile_route(made, made.routes[0])

    def test_times_and_curves_keep_the_layout(self) -> None:
        for own in ({"start": 5.0}, {"end": 333.0}, {"curve": Line()}):
            after = self.after(**own)
            self.assertIs(after.contents, self.before.contents)
            self.assertTrue(after.stands_like(self.before))
            self.assertTrue((after.at(300.0).vector != self.before.at(300.0).vector).any(), own)

    def test_what_changes_the_numbers_does_not(self) -> None:
        ends = self.key[:2]
        turned = compile_route(*self.with_turn(350.0))
        short = compile_route(*self.with_turn(350.0, shortest=True))
        self.assertIsNot(turned.contents, short.contents)
        slot = next(s for s, part in enumerate(turned.contents) if (part.left and part.left.id) == ends[0])
        ends_at = [program.at(program.last).scalars[slot, COLUMN["rotation"]] for program in (turned, short)]
        self.assertEqual(ends_at, [350.0, -10.0])

    def with_turn(self, degrees: float, **own: Any) -> Any:
        frame = frame_of_layer(self.project, self.key[1])
        made = set_value(self.project, frame.id, self.key[1], "rotation", degrees)
        if own:
            made = set_cue(made, self.route.id, CueKey(*self.key[:2], "rotation"), **own)
        return made, made.routes[0]

    def test_another_drawing_is_laid_out_anew(self) -> None:
        made, route = self.with_turn(10.0)
        self.assertFalse(compile_route(made, route).stands_like(self.before))

    def test_a_few_slots_at_many_moments_are_as_all_of_them(self) -> None:
        times = np.linspace(-20.0, self.before.last + 20.0, 31)
        whole = self.before.table(times)[:, : self.before.dense].reshape(len(times), -1, len(SCALARS))
        for slots in ([0], [3, 1], list(range(len(self.before.contents)))):
            np.testing.assert_allclose(self.before.rows_of(slots, times), whole[:, slots], atol=1e-9)


if __name__ == "__main__":
    unittest.main()
