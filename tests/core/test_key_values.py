"""Values of keyframes and ends: one number space, ends that change, copies, and paths bent under the hand."""

import unittest
from typing import Any

import msgspec
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.edits.ends import move_end, put_end, set_end
from avelt.core.edits.keyframes import (
    bend_motion_path,
    ends_of,
    key_or_end,
    key_to_end,
    keyframe_here,
    put_keyframe,
    rebased,
    shape_motion_path,
    value_at,
)
from avelt.core.edits.put_routes import copy_motion
from avelt.core.edits.put_timing import put_timing
from avelt.core.edits.routes import inherit_cue, set_cue
from avelt.core.edits.wiring import mirrored, return_trip
from avelt.core.errors import EditError, FormatError
from avelt.core.formats.checked import check
from avelt.core.geometry.motion_path import with_node
from avelt.core.model.curves import Handles, Line
from avelt.core.model.find import layer_index
from avelt.core.model.motion import Cue, CueKey, Keyframe, MotionPath, Transition
from avelt.core.model.properties import KEYED
from avelt.core.timing.compile import compile_route
from avelt.core.timing.schedule import timed
from avelt.window.timing.rows import value_text
from tests.support import box, group, project_of

replace = msgspec.structs.replace
CARD = CueKey("a", "b", "")


def made(curve: Any = None, **own: Any) -> Any:
    """Two cards in a group that is moved, scaled and only moves on one side."""
    left = (group("ga", 50, 60, (box("a", 10, 20, 20, 10, name="Card", opacity=0.8),), name="Hold", scale_x=2.0),)
    right = (group("gb", 150, 90, (box("b", 40, 20, 20, 10, name="Card", opacity=0.6),), name="Hold", scale_x=2.0),)
    return project_of(left, right, Transition(100.0, curve or Line(), **own))


def program_of(project: Any, k: int = 0) -> Any:
    return compile_route(project, project.routes[k])


def there(project: Any, ident: str) -> Any:
    return next(index[ident] for f in project.frames if ident in (index := layer_index(f)))


class OneNumberSpace(unittest.TestCase):
    def test_sheet_key_and_file_say_the_same_place(self) -> None:
        project = made()
        program = program_of(project)
        slot = program.slot_of("a", "b")
        self.assertEqual([value_text(program, slot, "position", side) for side in (0, 1)], ["10, 20", "40, 20"])
        self.assertEqual(ends_of(program, slot, "position"), ((10.0, 20.0), (40.0, 20.0)))
        keyed = keyframe_here(project, "R", CARD.of("position"), program, slot, 50.0)
        self.assertEqual(keyed.routes[0].transition.cues[0].keyframes[0].value, (25.0, 20.0))
        self.assertEqual((there(project, "a").x, there(project, "b").x), (10, 40))

    def test_what_is_typed_comes_back(self) -> None:
        project, words = set_end(made(), "R", CARD.of("position"), 1, "44, 12")
        self.assertEqual(words, "Changed in B: the position of Card.")
        self.assertEqual((there(project, "b").x, there(project, "b").y), (44, 12))
        self.assertEqual(
            value_text(program_of(project), program_of(project).slot_of("a", "b"), "position", 1), "44, 12"
        )

    def test_a_layer_that_changes_its_group_moves_by_px_of_the_frame(self) -> None:
        left = (group("ga", 50, 60, (box("a", 10, 20, 20, 10, name="Card"),), name="Hold", scale_x=2.0, pivot=(0, 0)),)
        project = project_of(left, (box("b", 100, 100, 20, 10, name="Card"),), Transition(100.0, Line()))
        program = program_of(project)
        slot = program.slot_of("a", "b")
        self.assertTrue(program.merged.slots[slot].lifted)
        before = ends_of(program, slot, "position")[0]
        moved = move_end(project, "R", CARD, 0, program, 8.0, -3.0)
        self.assertEqual((there(moved, "a").x, there(moved, "a").y), (14, 17))
        after = ends_of(program_of(moved), slot, "position")[0]
        np.testing.assert_allclose(np.subtract(after, before), (8.0, -3.0))

    @given(st.sampled_from(sorted(set(KEYED) - {"cut", "trim", "stroke", "fill", "type", "corner"})), st.integers(0, 1))
    def test_ends_take_the_numbers_of_a_key(self, prop: str, side: int) -> None:
        project = made()
        wanted = tuple(0.5 + 0.25 * k for k in range(len(KEYED[prop])))
        changed, _ = put_end(project, "R", CARD.of(prop), side, wanted)
        program = program_of(changed)
        np.testing.assert_allclose(ends_of(program, program.slot_of("a", "b"), prop)[side], wanted)

    def test_paints_corners_and_trims_too(self) -> None:
        project = made()
        for prop, wanted in (("fill", (1.0, 0.0, 0.0, 1.0)), ("corner", (1.0, 2.0, 3.0, 4.0))):
            changed, _ = put_end(project, "R", CARD.of(prop), 0, wanted)
            program = program_of(changed)
            self.assertEqual(ends_of(program, program.slot_of("a", "b"), prop)[0], wanted)
        with self.assertRaisesRegex(EditError, "Frames"):
            put_end(project, "R", CARD.of("cut"), 0, (0.0, 0.0, 0.0, 0.5))

    def test_where_it_is_absent_its_way_changes(self) -> None:
        project = project_of((box("a", 10, 20, 20, 10, name="Card"),), (), Transition(100.0, Line()))
        cue = CueKey("a", None, "position")
        changed, words = put_end(project, "R", cue, 1, (60.0, 25.0))
        self.assertIn("how Card goes", words)
        program = program_of(changed)
        self.assertEqual(ends_of(program, 0, "position")[1], (60.0, 25.0))
        for prop, value in (("opacity", (0.5,)), ("scale", (0.5, 2.0)), ("rotation", (30.0,)), ("blur", (3.0, 0.0))):
            changed, _ = put_end(project, "R", cue.of(prop), 1, value)
            self.assertEqual(ends_of(program_of(changed), 0, prop)[1], value)


class AtTheEnds(unittest.TestCase):
    def test_a_key_at_an_end_is_that_end(self) -> None:
        cue = CARD.of("opacity")
        project, words = key_or_end(made(), "R", cue, 1.0, (0.25,))
        self.assertEqual((there(project, "b").opacity, words), (0.25, "Changed in B: the opacity of Card."))
        self.assertEqual(project.routes[0].transition.cues, ())
        project, words = key_or_end(made(), "R", cue, 0.5, (0.25,))
        self.assertEqual((len(project.routes[0].transition.cues), words), (1, ""))

    def test_a_key_moved_there_becomes_it(self) -> None:
        cue = CARD.of("opacity")
        project, words = key_to_end(put_keyframe(made(), "R", cue, 0.4, (0.1,)), "R", cue, 0, 0)
        self.assertEqual((there(project, "a").opacity, project.routes[0].transition.cues), (0.1, ()))
        self.assertIn("in A", words)

    def test_on_a_motion_path_there_is_nothing_to_change(self) -> None:
        project = made(cues=(Cue("a", "b", "position", motion_path=MotionPath()),))
        with self.assertRaisesRegex(EditError, "begins and ends where the layer stands"):
            key_or_end(project, "R", CARD.of("position"), 0.0, (0.5,))

    def test_inheriting_leaves_keys_and_paths(self) -> None:
        cue = CARD.of("position")
        project = put_keyframe(set_cue(made(), "R", cue, start=10.0, end=50.0, curve=Line()), "R", cue, 0.5, (1.0, 2.0))
        project = replace_cue(project, muted=True)
        kept = inherit_cue(project, "R", cue).routes[0].transition.cues[0]
        self.assertEqual((kept.start, kept.end, kept.curve), (None, None, None))
        self.assertEqual((len(kept.keyframes), kept.muted), (1, True))


class Copies(unittest.TestCase):
    def test_sizes_go_by_ratio_and_places_by_difference(self) -> None:
        straight = ((0.0, 0.0), (100.0, 0.0))
        self.assertEqual(rebased("position", 0.5, (50.0, 30.0), straight, ((0.0, 9.0), (0.0, 9.0))), (0.0, 39.0))
        self.assertEqual(rebased("scale", 0.5, (1.2, 1.2), ((1.0, 1.0),) * 2, ((0.5, 2.0),) * 2), (0.6, 2.4))
        self.assertEqual(rebased("opacity", 0.5, (0.0,), ((1.0,),) * 2, ((0.4,),) * 2), (0.0,))
        self.assertEqual(rebased("size", 0.5, (5.0, 5.0), ((0.0, 1.0),) * 2, ((2.0, 3.0),) * 2), (7.0, 15.0))
        self.assertEqual(rebased("fill", 0.5, (1, 0, 0, 1), ((0,) * 4,) * 2, ((1,) * 4,) * 2), (1, 0, 0, 1))

    def test_pasted_timing_takes_keys_along_between_its_own_ends(self) -> None:
        left = (box("a", 0, 0, 10, 10, name="A"), box("c", 0, 50, 10, 10, name="C"))
        right = (box("b", 100, 0, 10, 10, name="A"), box("d", 20, 50, 10, 10, name="C"))
        project = project_of(left, right, Transition(100.0, Line()))
        cue, other = CueKey("a", "b", "position"), CueKey("c", "d", "position")
        project = put_keyframe(project, "R", cue, 0.5, (50.0, -30.0))
        pasted = put_timing(project, "R", cue, [cue, other])
        self.assertEqual(timed(pasted, pasted.routes[0].transition, *other).keyframes, (Keyframe(0.5, (10.0, 20.0)),))
        bare = put_timing(pasted, "R", cue.of("opacity"), [other])
        self.assertEqual(len(timed(bare, bare.routes[0].transition, *other).keyframes), 1)

    def test_cells_copied_onto_cells_do_too(self) -> None:
        project = put_keyframe(made(), "R", CARD.of("opacity"), 0.5, (0.35,))  # half of the blend, 0.7
        other = replace(
            project.routes[0],
            id="S",
            transition=Transition(200.0),
            leaves=project.frames[1].id,
            arrives=project.frames[0].id,
        )
        copied, placed, _ = copy_motion(replace(project, routes=(*project.routes, other)), "R", ["S"])
        self.assertEqual(placed, 1)
        key = copied.routes[1].transition.cues[0]
        self.assertEqual((key.from_id, key.to_id), ("b", "a"))
        self.assertAlmostEqual(key.keyframes[0].value[0], 0.35)
        back, ident = return_trip(project, "R")
        cue = next(r for r in back.routes if r.id == ident).transition.cues[0]
        self.assertEqual(cue.keyframes, (Keyframe(0.5, (0.35,)),))


class Bending(unittest.TestCase):
    def test_a_pace_is_checked_turned_round_and_kept_by_other_nodes(self) -> None:
        project = self.far(Line())
        program = program_of(project)
        project = bend_motion_path(project, "R", CARD.of("position"), program, 0, 100.0, (30.0, 0.0))
        check(project)
        pace = project.routes[0].transition.cues[0].motion_path.pace
        self.assertEqual(pace, (0.25,))
        self.assertEqual(mirrored(project, project.routes[0]).cues[0].motion_path.pace, (0.75,))
        more = shape_motion_path(
            project, "R", CARD.of("position"), program_of(project), 0, lambda points: with_node(points, 0.6)[0]
        )
        wide = more.routes[0].transition.cues[0].motion_path.pace
        self.assertEqual((len(wide), wide[0]), (2, 0.25))
        there, same = (value_at(program_of(p), 0, "position", 300.0) for p in (project, more))
        np.testing.assert_allclose(there, same, atol=2.0)
        for bad, words in (((0.5, 0.6), "for each node"), ((1.5,), "for each node")):
            way = replace(project.routes[0].transition.cues[0].motion_path, pace=bad)
            with self.assertRaisesRegex(FormatError, words):
                check(replace_cue(project, motion_path=way))
        way = replace(more.routes[0].transition.cues[0].motion_path, pace=(0.6, 0.3))
        with self.assertRaisesRegex(FormatError, "go up"):
            check(replace_cue(more, motion_path=way))

    def off(self, project: Any, ms: float, by: Any) -> float:
        """How far the layer is from where it was dragged, px."""
        program = program_of(project)
        slot = program.slot_of("a", "b")
        bent = bend_motion_path(project, "R", CARD.of("position"), program, slot, ms, by)
        before, after = value_at(program, slot, "position", ms), value_at(program_of(bent), slot, "position", ms)
        return float(np.hypot(*(np.subtract(after, before) - by)))

    def far(self, curve: Any) -> Any:
        left = (box("a", 20, 300, 40, 20, name="Card"),)
        return project_of(left, (box("b", 300, 60, 80, 60, name="Card"),), Transition(400.0, curve))

    @given(st.floats(60.0, 340.0), st.floats(-120.0, 120.0), st.floats(-120.0, 120.0))
    def test_the_layer_stays_under_the_pointer(self, ms: float, dx: float, dy: float) -> None:
        self.assertLess(self.off(self.far(Handles(0.3, 0.0, 0.2, 1.0)), ms, (dx, dy)), 0.1)

    def test_also_with_keys_on_the_way(self) -> None:
        project = put_keyframe(self.far(Line()), "R", CARD.of("position"), 0.5, (100.0, 100.0))
        self.assertLess(self.off(project, 200.0, (30.0, 20.0)), 0.2)
        program = program_of(project)
        bent = bend_motion_path(project, "R", CARD.of("position"), program, 0, 120.0, (0.0, 40.0))
        self.assertLess(self.off(bent, 220.0, (10.0, -25.0)), 0.2)


def replace_cue(project: Any, **own: Any) -> Any:
    route = project.routes[0]
    cues = tuple(replace(cue, **own) for cue in route.transition.cues)
    return replace(project, routes=(replace(route, transition=replace(route.transition, cues=cues)),))


if __name__ == "__main__":
    unittest.main()
