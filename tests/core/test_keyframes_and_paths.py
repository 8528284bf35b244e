"""Keyframes, motion paths, spaces of colours, muted cues, curves by role."""

import unittest
from typing import Any

import msgspec
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.blending import colour, conversions, spaces
from avelt.core.edits.cues import mute_cues, space_of_cues
from avelt.core.edits.keyframes import (
    HOLDS,
    change_keyframe,
    keyframe_here,
    motion_path_points,
    put_keyframe,
    remove_keyframes,
    rotate_keyframes,
    set_motion_path,
    shape_motion_path,
)
from avelt.core.edits.routes import add_route, set_cue, settle
from avelt.core.edits.wiring import mirrored
from avelt.core.errors import EditError, FormatError
from avelt.core.formats.checked import check
from avelt.core.geometry import motion_path as paths
from avelt.core.geometry.motion_path import ArcLengthPath
from avelt.core.model.curves import Handles, Line, Named, Spring
from avelt.core.model.motion import CueKey, Keyframe, MotionPath, Transition
from avelt.core.model.properties import COLUMN, KEYED
from avelt.core.model.values import Oval
from avelt.core.timing.compile import compile_route
from avelt.core.timing.content import change_of
from avelt.core.timing.schedule import timed
from avelt.core.timing.tracks import motion_path_of, points_between
from tests.support import box, project_of

replace = msgspec.structs.replace
A = box("a", 0, 0, 20, 10, "#ff0000", name="Card", pivot=(0.0, 0.0))
B = box("b", 100, 0, 20, 10, "#0000ff", name="Card", pivot=(0.0, 0.0))
PLACE = CueKey("a", "b", "position")


def made(left: Any = A, right: Any = B, **own: Any) -> Any:
    own.setdefault("duration", 100.0)
    return project_of((left,), (right,), Transition(curve=Line(), **own))


def number(project: Any, name: Any, *moments: Any) -> Any:
    program = compile_route(project, project.routes[0])
    table = program.table(np.array(moments, float))
    for ms, row in zip(moments, table, strict=True):
        np.testing.assert_allclose(program.at(float(ms)).vector, row, atol=1e-9)  # one at a time, or all at once
    return [float(v) for v in table[:, COLUMN[name]]]


def program_of(project: Any) -> Any:
    return compile_route(project, project.routes[0])


class Keys(unittest.TestCase):
    def test_a_key_is_passed_at_its_moment(self) -> None:
        project = put_keyframe(made(), "R", PLACE, 0.5, (30.0, 80.0))
        self.assertEqual(number(project, "x", 0, 25, 50, 75, 100), [0, 15, 30, 65, 100])
        self.assertEqual(number(project, "y", 0, 25, 50, 75, 100), [0, 40, 80, 40, 0])

    def test_keys_stay_at_their_share_when_the_cue_moves(self) -> None:
        project = put_keyframe(made(), "R", PLACE, 0.5, (30.0, 80.0))
        project = set_cue(project, "R", PLACE, start=40.0, end=80.0)
        self.assertEqual(number(project, "x", 40, 60, 80), [0, 30, 100])

    def test_a_curve_leads_into_each(self) -> None:
        project = put_keyframe(made(), "R", PLACE, 0.5, (50.0, 0.0), Handles(0.5, 0.0, 1.0, 0.5))
        slow, even = number(project, "x", 25, 75)
        self.assertLess(slow, 15.0)
        self.assertAlmostEqual(even, 75.0)
        project = put_keyframe(made(), "R", PLACE, 0.5, (50.0, 0.0), HOLDS)
        self.assertEqual(number(project, "x", 1, 49, 50), [0, 0, 50])

    def test_both_ends_are_exact_whatever_the_keys(self) -> None:
        project = put_keyframe(
            put_keyframe(made(), "R", PLACE, 0.2, (-7.0, 3.0)), "R", PLACE, 0.9, (300.0, 1.0), Spring(0.5)
        )
        program = program_of(project)
        np.testing.assert_array_equal(program.at(0.0).vector, program.start)
        np.testing.assert_array_equal(program.at(100.0).vector, program.end)

    @given(st.sampled_from(sorted(set(KEYED) - {"fill"})), st.floats(0.05, 0.95), st.floats(0.01, 5.0))
    def test_every_property_can_have_keys(self, prop: Any, at: Any, number_: Any) -> None:
        key = CueKey("a", "b", prop)
        project = put_keyframe(made(), "R", key, at, (number_,) * len(KEYED[prop]))
        check(project)
        row = program_of(project).at(100.0 * at).scalars[0]
        for name in KEYED[prop]:
            self.assertAlmostEqual(row[COLUMN[name]], number_)

    def test_a_fill_passes_a_colour(self) -> None:
        project = put_keyframe(made(), "R", CueKey("a", "b", "fill"), 0.5, colour.parse("#00ff00"))
        program = program_of(project)
        for ms, wanted in ((0, "#ff0000"), (50, "#00ff00"), (100, "#0000ff")):
            self.assertEqual(colour.to_text(program.at(ms).colours[0]), wanted)

    def test_what_does_not_change_between_the_frames_can_change_on_the_way(self) -> None:
        project = put_keyframe(made(), "R", CueKey("a", "b", "opacity"), 0.5, (0.25,))
        self.assertEqual(number(project, "opacity", 0, 50, 100), [1, 0.25, 1])
        self.assertFalse(program_of(project).stands.still[0])

    def test_a_key_here_changes_nothing_here(self) -> None:
        project = set_cue(made(), "R", PLACE, curve=Handles(0.2, 0.0, 0.1, 1.0))
        before = number(project, "x", 30)
        project = keyframe_here(project, "R", PLACE, program_of(project), 0, 30.0)
        self.assertEqual(number(project, "x", 30), before)
        with self.assertRaisesRegex(EditError, "the value that it leaves with"):
            keyframe_here(project, "R", PLACE, program_of(project), 0, 0.0)
        with self.assertRaises(EditError):
            keyframe_here(project, "R", CueKey("a", "b", ""), program_of(project), 0, 30.0)

    def test_keys_are_moved_turned_and_taken_away(self) -> None:
        project = put_keyframe(put_keyframe(made(), "R", PLACE, 0.25, (0.0, 40.0)), "R", PLACE, 0.75, (0.0, 60.0))
        project, place = change_keyframe(project, "R", PLACE, 0, at=0.9, curve=HOLDS)
        self.assertEqual(place, 1)
        keys = project.routes[0].transition.cues[0].keyframes
        self.assertEqual([(k.at, k.value) for k in keys], [(0.75, (0.0, 60.0)), (0.9, (0.0, 40.0))])
        project = rotate_keyframes(project, "R", PLACE, (0, 1), 90.0, 2.0)
        keys = project.routes[0].transition.cues[0].keyframes
        np.testing.assert_allclose([k.value for k in keys], [(-20.0, 50.0), (20.0, 50.0)], atol=1e-9)
        self.assertEqual(remove_keyframes(project, "R", PLACE, (0, 1)).routes[0].transition.cues, ())

    def test_files_with_wrong_keys_are_refused(self) -> None:
        good = put_keyframe(made(), "R", PLACE, 0.5, (1.0, 2.0))
        cue = good.routes[0].transition.cues[0]

        def with_cue(**own: Any) -> Any:
            motion = replace(good.routes[0].transition, cues=(replace(cue, **own),))
            return replace(good, routes=(replace(good.routes[0], transition=motion),))

        for bad in (
            {"keyframes": (Keyframe(0.5, (1.0,)),)},
            {"keyframes": (Keyframe(0.5, (1.0, 2.0)), Keyframe(0.2, (1.0, 2.0)))},
            {"prop": ""},
            {"keyframes": (Keyframe(2.0, (1.0, 2.0)),)},
            {"motion_path": MotionPath(((0.0, 0.0, 0.0),))},
            {"prop": "shadow"},
        ):
            with self.assertRaises(FormatError, msg=bad) as caught:
                check(with_cue(**bad))
            self.assertIn("cues[0]", str(caught.exception))

    def test_run_backwards_the_same_places_are_passed(self) -> None:
        project = put_keyframe(made(), "R", PLACE, 0.3, (10.0, 50.0), Handles(0.5, 0.0, 1.0, 0.5))
        project = put_keyframe(project, "R", PLACE, 0.6, (20.0, 90.0))
        route = project.routes[0]
        back = replace(route, leaves="B", arrives="A", transition=mirrored(project, route))
        other = replace(project, routes=(back,))
        moments = (5, 20, 30, 45, 60, 80, 99)
        there, again = number(project, "y", *moments), number(other, "y", *(100 - ms for ms in moments))
        np.testing.assert_allclose(there, again, atol=1e-6)


class Ways(unittest.TestCase):
    ARCH = motion_path_of(np.array([(0, 0), (0, 60), (100, 60), (100, 0)], float))

    def on_way(self, project: Any = None, way: Any = ARCH) -> Any:
        project = project or made()
        return set_motion_path(project, "R", PLACE, program_of(project), 0, way)

    def test_a_layer_follows_its_way_by_length(self) -> None:
        project = self.on_way()
        xs, ys = number(project, "x", *range(0, 101, 10)), number(project, "y", *range(0, 101, 10))
        steps = np.hypot(np.diff(xs), np.diff(ys))
        self.assertLess(np.ptp(steps) / steps.mean(), 0.02)  # chords of a bent way are not quite its length
        self.assertAlmostEqual(ys[5], 45.0, places=6)
        self.assertEqual((xs[0], ys[0], xs[-1], ys[-1]), (0, 0, 100, 0))

    def test_the_shape_makes_no_keys_and_stays_when_an_end_moves(self) -> None:
        project = self.on_way()
        self.assertEqual(project.routes[0].transition.cues[0].keyframes, ())
        frames = (project.frames[0], replace(project.frames[1], layers=(replace(B, x=160.0, y=30.0),)))
        moved = replace(project, frames=frames)
        points = motion_path_points(program_of(moved), 0, self.ARCH)
        np.testing.assert_allclose(points[[0, -1]], [(0, 0), (160, 30)])
        self.assertGreater(points[1, 1], 55.0)

    def test_it_is_the_pivot_that_follows_also_when_the_size_has_its_own_time(self) -> None:
        left, right = replace(A, pivot=(0.5, 0.5)), replace(B, pivot=(0.5, 0.5), w=60.0, h=50.0)
        project = set_cue(
            self.on_way(made(left, right), motion_path_of(np.array([(10, 5), (10, 65), (130, 65), (130, 25.0)]))),
            "R",
            CueKey("a", "b", "size"),
            start=0.0,
            end=20.0,
        )
        course = ArcLengthPath(
            motion_path_points(program_of(project), 0, project.routes[0].transition.cues[0].motion_path)
        )
        for ms in (10, 20, 50, 90):
            row = program_of(project).at(ms).scalars[0]
            middle = row[0] + row[2] / 2, row[1] + row[3] / 2
            np.testing.assert_allclose(middle, course.at(np.array(ms / 100)), atol=1e-9)

    def test_leaning_into_it_holds_at_both_ends(self) -> None:
        project = self.on_way(way=replace(self.ARCH, rotates=True))
        turns = number(project, "rotation", 0, 0.001, 20, 50, 80, 99.999, 100)
        np.testing.assert_allclose([turns[0], turns[1], turns[5], turns[6]], 0.0, atol=0.01)
        self.assertGreater(abs(turns[2]), 5.0)
        self.assertAlmostEqual(turns[2], -turns[4], places=3)

    def test_a_whole_round_turns_once(self) -> None:
        k = 0.5523 * 50
        ring = np.array(
            [
                (0, 0),
                (k, 0),
                (50, 50 - k),
                (50, 50),
                (50, 50 + k),
                (k, 100),
                (0, 100),
                (-k, 100),
                (-50, 50 + k),
                (-50, 50),
                (-50, 50 - k),
                (-k, 0),
                (0, 0),
            ],
            float,
        )
        course = ArcLengthPath(ring)
        self.assertAlmostEqual(course.length, 2 * np.pi * 50, delta=0.1)
        np.testing.assert_allclose(course.lean(np.array([0, 0.25, 0.5, 1.0])), [0, 90, 180, 360], atol=0.1)

    def test_beyond_the_ends_it_goes_straight_on(self) -> None:
        course = ArcLengthPath(np.array([(0, 0), (10, 0), (20, 0), (30, 0)], float))
        np.testing.assert_allclose(course.at(np.array([-0.5, 1.5])), [(-15, 0), (45, 0)], atol=1e-9)
        self.assertAlmostEqual(course.share_near(15, 40), 0.5, delta=0.01)

    def test_a_way_of_no_length_stands_still(self) -> None:
        still = ArcLengthPath(np.zeros((4, 2)))
        np.testing.assert_array_equal(still.at(np.array([0.0, 0.5, 1.0])), 0.0)
        self.assertEqual(still.share_near(3, 3), 0.0)

    @given(st.lists(st.tuples(st.integers(-50, 50), st.integers(-50, 50)), min_size=4, max_size=4, unique=True))
    def test_lengths_are_those_of_many_small_chords(self, nodes: Any) -> None:
        points = np.array(nodes, float)
        t = np.linspace(0, 1, 20001)[:, None]
        fine = sum(
            c * p for c, p in zip(((1 - t) ** 3, 3 * t * (1 - t) ** 2, 3 * t * t * (1 - t), t**3), points, strict=True)
        )
        wanted = np.hypot(*np.diff(fine, axis=0).T).sum()
        self.assertAlmostEqual(ArcLengthPath(points).length / wanted, 1.0, delta=1e-4)

    @given(st.lists(st.tuples(st.floats(-99, 99), st.floats(-99, 99)), min_size=7, max_size=7))
    def test_a_way_gives_its_points_again(self, nodes: Any) -> None:
        points = np.round(np.array(nodes, float), 3)
        np.testing.assert_allclose(points_between(motion_path_of(points), points[0], points[-1]), points, atol=1e-4)

    def test_keys_of_places_become_shares_and_places_again(self) -> None:
        project = put_keyframe(made(), "R", PLACE, 0.5, (50.0, 40.0))
        bent = shape_motion_path(project, "R", PLACE, program_of(project), 0, lambda points: points)
        cue = bent.routes[0].transition.cues[0]
        self.assertEqual((len(cue.motion_path.points), len(cue.keyframes[0].value)), (5, 1))
        self.assertAlmostEqual(number(bent, "y", 50)[0], 40.0, places=4)
        again = set_motion_path(bent, "R", PLACE, program_of(bent), 0, None)
        np.testing.assert_allclose(again.routes[0].transition.cues[0].keyframes[0].value, (50, 40), atol=1e-3)
        more = keyframe_here(bent, "R", PLACE, program_of(bent), 0, 80.0)
        self.assertEqual([len(k.value) for k in more.routes[0].transition.cues[0].keyframes], [1, 1])
        check(more)

    def test_points_are_moved_added_smoothed_and_taken_away(self) -> None:
        points = motion_path_points(program_of(made()), 0, None)
        more, k = paths.with_node(points, 0.5)
        np.testing.assert_allclose(more[k], (50, 0), atol=0.5)
        up = paths.moved(more, k, (50.0, 30.0))
        np.testing.assert_allclose(up[k - 1] - more[k - 1], (0, 30), atol=1e-9)
        round_ = paths.smoothed(up, k)
        np.testing.assert_allclose(round_[[k - 1, k + 1], 1], 30.0, atol=1e-9)
        pulled = paths.moved(round_, k + 1, tuple(round_[k] + (0.0, 12.0)))
        np.testing.assert_allclose(pulled[k - 1], round_[k] - (0, np.hypot(*(round_[k - 1] - round_[k]))), atol=1e-6)
        flat = paths.straightened(pulled, k)
        self.assertAlmostEqual(ArcLengthPath(flat).length, 2 * np.hypot(50, 30), delta=0.5)
        np.testing.assert_array_equal(paths.without_node(flat, k)[[0, -1]], flat[[0, -1]])
        self.assertEqual(len(paths.without_node(flat, k)), 4)
        np.testing.assert_array_equal(paths.moved(points, 0, (9.0, 9.0)), points)  # the ends are the frames'


class Spaces(unittest.TestCase):
    rgba = st.tuples(*[st.floats(0, 1)] * 4)

    @given(rgba, rgba, st.sampled_from(spaces.SPACES), st.floats(0, 1))
    def test_a_program_blends_as_the_function_does(self, a: Any, b: Any, space: Any, t: Any) -> None:
        left, right = (box(i, 0, 0, 9, 9, colour.to_text(c), name="C") for i, c in (("a", a), ("b", b)))
        project = space_of_cues(made(left, right), "R", [CueKey("a", "b", "fill")], space)
        found = program_of(project).at(100.0 * t).colours[0]
        one, two = (colour.parse(colour.to_text(c)) for c in (a, b))
        wanted = np.clip(spaces.blend(one, two, t, space), 0, 1)
        np.testing.assert_allclose(found, wanted, atol=1e-6)

    def test_both_ends_are_the_frames_colours_in_every_space(self) -> None:
        for space in spaces.SPACES:
            program = program_of(space_of_cues(made(), "R", [CueKey("a", "b", "")], space))
            self.assertEqual([colour.to_text(program.at(ms).colours[0]) for ms in (0, 100)], ["#ff0000", "#0000ff"])

    def test_lab_as_in_css_color_4(self) -> None:
        for text in ("red", "#336699", "white", "black", "lab(40 30 -50)"):
            rgb = np.array(colour.parse(text)[:3])
            np.testing.assert_allclose(conversions.from_lab(conversions.to_lab(rgb)), rgb, atol=1e-9)
        np.testing.assert_allclose(conversions.to_lab(np.array([1.0, 0, 0])), (54.29, 80.8, 69.89), atol=0.02)


class Rest(unittest.TestCase):
    def test_what_is_muted_stays_until_the_end(self) -> None:
        project = mute_cues(put_keyframe(made(), "R", PLACE, 0.5, (3.0, 3.0)), "R", [PLACE], True)
        self.assertEqual(number(project, "x", 0, 50, 99, 100), [0, 0, 0, 100])
        whole = mute_cues(made(), "R", [CueKey("a", "b", "")], True)
        self.assertTrue(timed(whole, whole.routes[0].transition, "a", "b", "fill").muted)
        self.assertEqual(number(mute_cues(project, "R", [PLACE], False), "x", 50), [3.0])

    def test_what_leaves_enters_and_stays_have_their_own_base_curves(self) -> None:
        project, ident = add_route(made(), "A", "B")
        motion = next(r for r in project.routes if r.id == ident).transition
        curves = [timed(project, motion, *ends, "").curve for ends in (("a", "b"), ("a", None), (None, "b"))]
        self.assertEqual(curves, [Named("settle"), Named("leave"), Named("arrive")])

    def test_they_are_what_moves_the_layers(self) -> None:
        fade = {"leave_curve": Handles(0.9, 0.0, 1.0, 0.1), "enter_curve": Handles(0.0, 0.9, 0.1, 1.0)}
        left, right = replace(A, name="One", origin="o"), replace(B, name="Two", origin="p", body=Oval(), y=150.0)
        program = program_of(made(left, right, **fade))
        opacity = {p.layer.name: program.at(50.0).scalars[s, COLUMN["opacity"]] for s, p in enumerate(program.contents)}
        self.assertGreater(opacity["One"], 0.8)
        self.assertGreater(opacity["Two"], 0.8)

    def test_the_start_of_an_outline_can_be_moved_on(self) -> None:
        self.assertEqual(change_of(A, B), "")
        project = settle(made(), "R", ("a", "b"), shift=0.25)
        program = program_of(project)
        self.assertEqual(program.contents[0].change, "reshape")
        plain = program_of(made()).at(50.0)
        self.assertIsNotNone(plain)
        turned = program.at(50.0).loose
        outline = np.array(turned[: 2 * sum(program.contents[0].outline.lengths)]).reshape(-1, 2)
        # A quarter on, the corners meet half way in the middles of the sides.
        self.assertLess(np.hypot(*(outline - 0.5).T).max(), 0.6)
        check(project)


if __name__ == "__main__":
    unittest.main()
