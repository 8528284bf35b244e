"""Drawn, dropping, ringing and holding curves, their text and numbers, and the curves that a project begins with."""

import unittest
from itertools import pairwise
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.curves import drawn, easing, text
from avelt.core.curves.measure import measure, straight_pieces
from avelt.core.curves.named import KIND_TITLES, STARTERS, used_by
from avelt.core.curves.numbers import NUMBERS, numbers_of, with_number
from avelt.core.edits.project import new_project
from avelt.core.errors import FormatError
from avelt.core.formats.checked_motion import curve_is_sound
from avelt.core.formats.project_file import pack, unpack
from avelt.core.model.curves import Drawn, Drops, Handles, Hold, Line, Ring, Spring, Steps
from avelt.demo.build import build_demo

KINDS = (Drawn(), Drops(), Ring(), Hold(), Drops(0, 0.0), Drops(12, 0.95), Ring(0.0, 0.0), Hold(0.0), Hold(1.0))
share = st.floats(0, 1, allow_nan=False)


@st.composite
def drawings(draw: Any) -> Any:
    """Drawn curves of one to five stretches, time going forward."""
    count = draw(st.integers(1, 5))
    nodes = [0.0, *sorted(draw(st.lists(st.floats(0.01, 0.99), min_size=count - 1, max_size=count - 1))), 1.0]
    value = st.floats(-2, 3)
    points = [(0.0, draw(value))]
    for start, end in pairwise(nodes):
        points += [(start + (end - start) * draw(share), draw(value)) for _ in range(2)]
        points.append((end, draw(value)))
    return Drawn(tuple(points))


class Values(unittest.TestCase):
    def test_all_begin_at_nothing_and_end_at_all(self) -> None:
        for curve in KINDS:
            self.assertEqual(float(easing.at(curve, 1.0)), 1.0, curve)
            if curve != Hold(0.0):
                self.assertEqual(float(easing.at(curve, 0.0)), 0.0, curve)
            self.assertTrue(np.isfinite(easing.at(curve, np.linspace(-1, 2, 400))).all(), curve)

    def test_a_ball_that_drops(self) -> None:
        curve = Drops(2, 0.25)
        # A fall of time 1, then bounces of 2 sqrt(1/4) = 1 and 2 sqrt(1/16) = 1/2: 2.5 in all.
        np.testing.assert_allclose(
            easing.at(curve, [0.2, 0.4, 0.6, 0.8, 0.9, 1.0]), [0.25, 1.0, 0.75, 1.0, 0.9375, 1.0], atol=1e-9
        )
        y = easing.at(curve, np.linspace(0, 1, 5001))
        self.assertLessEqual(float(y.max()), 1.0)
        speeds = np.abs(np.diff(y))
        self.assertLess(float(np.abs(np.diff(y, 2)).max()), float(speeds.max()) * 2.1)

    def test_a_ring_swings_as_often_as_it_says(self) -> None:
        y = easing.at(Ring(3.0, 4.0), np.linspace(0, 1, 4001)) - 1.0
        crossings = int((np.sign(y[1:-1])[1:] != np.sign(y[1:-1])[:-1]).sum())
        self.assertEqual(crossings, 6)
        self.assertGreater(measure(Ring(3.0, 4.0)).overshoot, 0.4)

    def test_a_hold_switches_at_its_moment(self) -> None:
        np.testing.assert_array_equal(easing.at(Hold(0.4), [0.0, 0.399, 0.4, 1.0]), [0, 0, 1, 1])

    def test_a_drawn_curve_of_one_stretch_is_the_curve_of_two_handles(self) -> None:
        t = np.linspace(0, 1, 101)
        two = Handles(0.3, -0.2, 0.1, 1.3)
        np.testing.assert_allclose(
            easing.at(Drawn(((0, 0), (0.3, -0.2), (0.1, 1.3), (1, 1))), t), easing.at(two, t), atol=1e-9
        )

    @given(st.sampled_from([c for c in KINDS if not isinstance(c, Hold)]), share)
    def test_reversed_is_the_motion_backwards(self, curve: Any, t: Any) -> None:
        back = easing.reversed_curve(curve)
        limit = 1e-9 if isinstance(curve, Drawn) else 0.12
        self.assertAlmostEqual(float(easing.at(back, t)), 1.0 - float(easing.at(curve, 1.0 - t)), delta=limit)

    def test_many_at_once_are_the_same_as_one_by_one(self) -> None:
        table = easing.CurveTable([*KINDS, Line(), Spring(0.3)])
        t = np.random.default_rng(1).random((7, table.count))
        found = table.at(t)
        for k, curve in enumerate([*KINDS, Line(), Spring(0.3)]):
            np.testing.assert_allclose(found[:, k], easing.at(curve, t[:, k]))


class Drawing(unittest.TestCase):
    @given(drawings(), st.integers(0, 15), st.floats(-1, 2), st.floats(-3, 4))
    def test_however_it_is_dragged_time_goes_forward(self, curve: Any, k: Any, x: Any, y: Any) -> None:
        moved = drawn.moved(curve, min(k, len(curve.points) - 1), x, y)
        self.assertEqual(drawn.is_sound(moved.points), "")
        self.assertTrue(np.isfinite(easing.at(moved, np.linspace(0, 1, 33))).all())

    @given(drawings(), st.floats(0.02, 0.98))
    def test_one_node_more_changes_nothing_and_can_be_taken_away(self, curve: Any, x: Any) -> None:
        more = drawn.with_node(curve, x)
        t = np.linspace(0, 1, 41)
        gap = np.abs(t[:, None] - np.array(curve.points)[::3, 0]).min(1)
        clear = (gap > 1e-6) & (np.abs(t - x) > 1e-6)
        np.testing.assert_allclose(easing.at(more, t)[clear], easing.at(curve, t)[clear], atol=1e-5)
        self.assertEqual((len(more.points), drawn.is_sound(more.points)), (len(curve.points) + 3, ""))
        node = next(k for k in range(3, len(more.points), 3) if abs(more.points[k][0] - x) < 1e-6)
        self.assertEqual(len(drawn.without_node(more, node).points), len(curve.points))

    def test_the_ends_stay_where_time_begins_and_ends(self) -> None:
        self.assertEqual(drawn.moved(Drawn(), 0, 0.5, 0.2).points[0], (0.0, 0.2))
        self.assertEqual(drawn.without_node(Drawn(), 0), Drawn())

    def test_what_is_no_drawn_curve_is_said(self) -> None:
        for points in (
            ((0, 0), (1, 1)),
            ((0, 0), (0, 0), (1, 1), (0.9, 1)),
            ((0, 0), (0.5, 0), (0.2, 1), (1, 1), (0.3, 0), (0.6, 1), (1, 1)),
        ):
            self.assertTrue(drawn.is_sound(points))
        self.assertIn("forward", drawn.is_sound(((0, 0), (-0.1, 0), (0.2, 1), (1, 1))))


class Words(unittest.TestCase):
    def test_text_goes_there_and_back(self) -> None:
        for curve in (*KINDS, Drops(5, 0.5), Ring(1.5, 3.0), Hold(0.25)):
            again = text.parse(text.own(curve))
            self.assertEqual(type(again), type(curve))
            np.testing.assert_allclose(
                easing.at(again, [0.1, 0.5, 0.77]), easing.at(curve, [0.1, 0.5, 0.77]), atol=1e-3
            )

    def test_css_is_fitted_within_its_tolerance(self) -> None:
        t = np.linspace(0, 1, 997)
        for curve in (Drawn(), Drops(), Ring()):
            for tolerance in (0.01, 0.002):
                fitted = text.parse(text.css(curve, tolerance))
                self.assertLess(float(np.abs(easing.at(fitted, t) - easing.at(curve, t)).max()), tolerance + 2e-4)
                self.assertLess(straight_pieces(curve, tolerance)[1], tolerance * 1.05)
        self.assertEqual([text.css(Hold(at)) for at in (0.0, 1.0)], ["steps(1, jump-start)", "steps(1, jump-end)"])
        np.testing.assert_array_equal(easing.at(text.parse(text.css(Hold(0.4))), [0.39, 0.41]), [0, 1])

    def test_what_cannot_be_is_refused_with_a_sentence(self) -> None:
        for words in (
            "drops(-1)",
            "drops(2.5)",
            "drops(3, 1)",
            "ring(90)",
            "hold(2)",
            "hold()",
            "drawn(0 0, 1 1)",
            "drawn(0 0, 2 0, 1 1, 1 1)",
            "ring(1, 2, 3)",
            "drawn(0, 1, 2, 3)",
        ):
            with self.assertRaises(FormatError, msg=words):
                text.parse(words)
        for curve in (Drops(-1), Drops(2, 2.0), Ring(-1.0), Hold(1.5), Drawn(((0, 0), (1, 1)))):
            with self.assertRaises(FormatError, msg=curve):
                curve_is_sound(curve, set(), "x")


class Library(unittest.TestCase):
    def test_about_twenty_five_with_a_sentence_each(self) -> None:
        self.assertGreaterEqual(len(STARTERS), 25)
        for names in ([e.id for e in STARTERS], [e.name for e in STARTERS], [e.note for e in STARTERS]):
            self.assertEqual(len(set(names)), len(STARTERS))
        for entry in STARTERS:
            curve_is_sound(entry.curve, set(), entry.name)
            self.assertTrue(entry.note.endswith("."))
            self.assertIn(entry.feel, ("arrives", "leaves", "stays", "playful", "mechanical"))
        self.assertEqual(set(KIND_TITLES), {type(e.curve) for e in STARTERS} | set(KIND_TITLES))
        self.assertEqual({type(e.curve) for e in STARTERS}, set(KIND_TITLES))

    def test_what_arrives_slows_down_and_what_leaves_speeds_up(self) -> None:
        for entry in STARTERS:
            y = easing.at(entry.curve, np.array([0.0, 0.1, 0.9, 1.0]))
            first, last = y[1] - y[0], y[3] - y[2]
            if entry.feel == "arrives":
                self.assertGreater(first, abs(last), entry.name)
            elif entry.feel == "leaves":
                self.assertGreater(last, first, entry.name)

    def test_they_survive_the_file_and_uses_are_counted(self) -> None:
        project = new_project("x")
        self.assertEqual(unpack(pack(project), "x"), project)
        demo = build_demo()
        self.assertGreater(used_by(demo, "leave"), 5)
        self.assertEqual(used_by(demo, "gear"), 0)

    def test_numbers_are_those_of_the_structs_and_stay_in_their_limits(self) -> None:
        for kind, numbers in NUMBERS.items():
            curve = kind()
            self.assertEqual([n.name for n, _ in numbers_of(curve)], [n.name for n in numbers])
            for place, number in enumerate(numbers):
                for value in (-1e6, 1e6, 3.3):
                    made = with_number(curve, place, value)
                    self.assertTrue(number.low <= getattr(made, number.name) <= number.high)
                    curve_is_sound(made, set(), "x")
        self.assertEqual(with_number(Steps(4, "none"), 0, 1.0), Steps(2, "none"))
        self.assertEqual(numbers_of(Line()), ())
