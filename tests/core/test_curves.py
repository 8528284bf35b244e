"""Curves against the CSS Easing specifications, and the properties they must have."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from avelt.core.curves import easing, handles, measure, spring, text
from avelt.core.curves.named import plain, title
from avelt.core.errors import FormatError
from avelt.core.model.curves import Handles, Line, Named, Points, Spring, Steps
from avelt.core.model.values import NamedCurve, Project

unit = st.floats(0, 1)
wide = st.floats(-2, 3)


def values(css: str, *at: float) -> list[float]:
    return easing.at(text.parse(css), list(at)).tolist()


class TwoHandles(unittest.TestCase):
    @settings(deadline=None)
    @given(unit, wide, unit, wide, unit)
    def test_solver_inverts_x_to_seven_digits(self, x1: Any, y1: Any, x2: Any, y2: Any, s: Any) -> None:
        x = ((1 + 3 * x1 - 3 * x2) * s + 3 * x2 - 6 * x1) * s * s + 3 * x1 * s
        found = float(handles.parameter(x1, x2, x))
        again = ((1 + 3 * x1 - 3 * x2) * found + 3 * x2 - 6 * x1) * found * found + 3 * x1 * found
        self.assertAlmostEqual(again, x, delta=1e-7)

    @settings(deadline=None)
    @given(unit, wide, unit, wide)
    def test_ends_hold_to_the_bit(self, x1: Any, y1: Any, x2: Any, y2: Any) -> None:
        self.assertEqual(easing.at(Handles(x1, y1, x2, y2), [0.0, 1.0]).tolist(), [0.0, 1.0])

    def test_known_values_of_the_keywords(self) -> None:
        self.assertAlmostEqual(values("ease", 0.25)[0], 0.40851, delta=1e-5)
        self.assertAlmostEqual(values("ease-in", 0.5)[0], 0.315357, delta=1e-5)
        self.assertAlmostEqual(values("ease-in-out", 0.5)[0], 0.5, delta=1e-9)

    def test_outside_it_goes_on_along_the_tangent(self) -> None:
        self.assertAlmostEqual(values("cubic-bezier(0.5, 1, 0.5, 0)", -0.5)[0], -1.0)
        self.assertAlmostEqual(values("cubic-bezier(0.5, 1, 0.5, 0)", 1.5)[0], 2.0)
        self.assertEqual(values("cubic-bezier(0, 1, 1, 0)", -1.0, 2.0), [0.0, 1.0])
        self.assertAlmostEqual(values("cubic-bezier(0, 0, 0.5, 1)", -0.5)[0], -1.0)

    def test_slope_agrees_with_differences(self) -> None:
        curve = Handles(0.3, -0.2, 0.1, 1.3)
        t = np.linspace(0.05, 0.95, 19)
        rough = (easing.at(curve, t + 1e-6) - easing.at(curve, t - 1e-6)) / 2e-6
        np.testing.assert_allclose(easing.slope(curve, t), rough, rtol=1e-4)

    def test_a_triple_root_is_found(self) -> None:
        self.assertAlmostEqual(values("cubic-bezier(1, 0, 0, 1)", 0.5)[0], 0.5, delta=1e-6)


class StepsAndPoints(unittest.TestCase):
    def test_all_jump_terms(self) -> None:
        self.assertEqual(values("steps(2, jump-start)", 0, 0.49, 0.5, 1), [0.5, 0.5, 1, 1])
        self.assertEqual(values("steps(2, jump-end)", 0, 0.49, 0.5, 1), [0, 0, 0.5, 1])
        self.assertEqual(values("steps(3, jump-none)", 0, 0.34, 0.67, 1), [0, 0.5, 1, 1])
        both = values("steps(2, jump-both)", 0, 0.5, 1)
        np.testing.assert_allclose(both, [1 / 3, 2 / 3, 1])
        self.assertEqual(values("step-start", 0, 0.5), [1, 1])
        self.assertEqual(values("steps(4, start)", 0.0), values("steps(4, jump-start)", 0.0))

    def test_linear_fills_gaps_and_forces_order(self) -> None:
        curve = text.parse("linear(0, 0.25, 1)")
        self.assertEqual(curve, Points(((0.0, 0.0), (0.5, 0.25), (1.0, 1.0))))
        curve = text.parse("linear(0, 0.5 60%, 0.7 40%, 1)")
        self.assertEqual([at for at, _ in curve.points], [0.0, 0.6, 0.6, 1.0])
        curve = text.parse("linear(0, 0.5 20% 40%, 1)")
        self.assertEqual([at for at, _ in curve.points], [0.0, 0.2, 0.4, 1.0])

    def test_linear_at_a_jump_takes_the_later_value(self) -> None:
        self.assertEqual(values("linear(0 0%, 0 50%, 1 50%, 1 100%)", 0.5, 0.4999)[0], 1.0)

    def test_linear_goes_on_outside_its_points(self) -> None:
        np.testing.assert_allclose(values("linear(0 20%, 1 80%)", 0.2, 0.5, 0.8), [0, 0.5, 1])
        np.testing.assert_allclose(values("linear(0 25%, 1 75%)", 0.0, 1.0), [-0.5, 1.5])

    def test_what_is_no_curve_is_refused_in_one_sentence(self) -> None:
        for bad in (
            "",
            "wobble",
            "cubic-bezier(1,2,3)",
            "cubic-bezier(2,0,0,1)",
            "cubic-bezier(nan,0,0,1)",
            "steps(0)",
            "steps(1, jump-none)",
            "steps(2.5)",
            "linear()",
            "linear(0)",
            "linear(0 0% 100%)",
            "linear(0% 1 50%, 1)",
            "spring(2)",
            "spring()",
            "linear(0, 1e999)",
            "cubic-bezier(0 0 1 1)",
            "steps(2, sideways)",
        ):
            with self.subTest(bad), self.assertRaises(FormatError) as caught:
                text.parse(bad)
            self.assertNotIn("\n", str(caught.exception))


class Springs(unittest.TestCase):
    @settings(deadline=None, max_examples=60)
    @given(st.floats(-1, 0.95), st.floats(-3, 6))
    def test_it_has_settled_when_its_time_is_over(self, bounce: Any, speed: Any) -> None:
        damping, own, settle, _ = spring.natural(bounce, speed)
        later = spring.position(damping, own, np.linspace(settle, settle * 3, 500))
        self.assertLessEqual(float(np.abs(later - 1).max()), spring.SETTLED * 1.01)
        self.assertEqual(easing.at(Spring(bounce, speed), [0.0, 1.0]).tolist(), [0.0, 1.0])

    def test_it_obeys_its_equation(self) -> None:
        damping, tau, h = 0.6, np.linspace(0.1, 8, 200), 1e-4
        x = [spring.position(damping, 0.5, tau + k * h) for k in (-1, 0, 1)]
        second, first = (x[2] - 2 * x[1] + x[0]) / h**2, (x[2] - x[0]) / (2 * h)
        np.testing.assert_allclose(second + 2 * damping * first + x[1], 1.0, atol=1e-5)

    def test_start_speed_is_the_slope_at_the_start(self) -> None:
        for speed in (-1.0, 0.0, 2.0, 5.0):
            self.assertAlmostEqual(float(easing.slope(Spring(0.3, speed), [0.0])[0]), speed, delta=0.05)

    def test_bounce_overshoots_and_none_does_not(self) -> None:
        self.assertGreater(measure.measure(Spring(0.4)).overshoot, 0.05)
        self.assertLess(measure.measure(Spring(0.0)).overshoot, 0.001)
        self.assertLess(measure.measure(Spring(-0.6)).overshoot, 0.001)


class Together(unittest.TestCase):
    CURVES = (
        Line(),
        Handles(0.2, 0, 0.1, 1),
        Handles(0.5, -0.4, 0.7, 1.4),
        Steps(3, "both"),
        Spring(0.3),
        Points(((0.0, 0.0), (0.4, 0.9), (1.0, 1.0))),
    )

    def test_a_table_evaluates_as_each_curve_alone(self) -> None:
        table = easing.CurveTable(self.CURVES)
        t = np.random.default_rng(5).random((40, len(self.CURVES)))
        alone = np.stack([easing.at(curve, t[:, k]) for k, curve in enumerate(self.CURVES)], -1)
        np.testing.assert_allclose(table.at(t), alone, atol=1e-12)

    def test_reversed_runs_the_same_way_back(self) -> None:
        t = np.linspace(0.003, 0.997, 101)
        for curve in self.CURVES:
            if isinstance(curve, Steps):
                continue
            back = easing.at(easing.reversed_curve(curve), t)
            np.testing.assert_allclose(back, 1 - easing.at(curve, 1 - t), atol=2e-3)

    @settings(deadline=None, max_examples=30)
    @given(st.floats(-1, 0.9), st.sampled_from([0.01, 0.002, 0.0005]))
    def test_fitted_pieces_keep_their_promise(self, bounce: Any, tolerance: Any) -> None:
        points, error = measure.straight_pieces(Spring(bounce), tolerance)
        self.assertLess(error, tolerance * 1.5)
        t = np.linspace(0, 1, 7001)
        off = np.abs(np.interp(t, *zip(*points, strict=True)) - easing.at(Spring(bounce), t)).max()
        self.assertAlmostEqual(float(off), error, delta=tolerance * 0.3)

    def test_text_of_a_curve_reads_back(self) -> None:
        for curve in self.CURVES:
            again = text.parse(text.own(curve))
            t = np.linspace(0, 1, 50)
            np.testing.assert_allclose(easing.at(again, t), easing.at(curve, t), atol=1e-3)
            self.assertIs(type(again), type(curve))

    def test_measure_of_known_curves(self) -> None:
        line = measure.measure(Line())
        self.assertAlmostEqual(line.half, 0.5)
        self.assertAlmostEqual(line.ninety, 0.9)
        self.assertAlmostEqual(line.peak_speed, 1.0)
        self.assertEqual((line.overshoot, line.undershoot), (0.0, 0.0))
        self.assertAlmostEqual(measure.measure(Handles(0.5, -0.5, 0.5, 1.5)).overshoot, 0.08095, delta=1e-4)

    def test_a_named_curve_is_looked_up(self) -> None:
        project = Project("P", curves=(NamedCurve("mine", "Mine", Spring(0.1)),))
        self.assertEqual(plain(project, Named("mine")), Spring(0.1))
        self.assertEqual(title(project, Named("mine")), "Mine")
        self.assertEqual(title(project, Steps(2)), "Steps")
