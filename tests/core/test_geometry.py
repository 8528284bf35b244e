"""Affine transforms, outlines and flat frames."""

import unittest
from typing import Any

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from avelt.core.geometry import affine, bezier
from avelt.core.geometry.flatten import flatten, layer_at
from avelt.core.model.values import Frame
from tests.support import box, group

number = st.floats(-50, 50)
matrices = st.tuples(number, number, number, number, number, number)


class Affine(unittest.TestCase):
    @given(matrices, st.floats(0, 300), st.floats(0, 300), st.tuples(st.floats(0, 1), st.floats(0, 1)))
    def test_parts_compose_back_to_the_transform(self, m: Any, w: Any, h: Any, pivot: Any) -> None:
        assume(abs(m[0] * m[3] - m[1] * m[2]) > 1e-2)
        turn, scale_x, scale_y, skew = affine.decompose(m)
        x, y = affine.place_for(m, w, h, pivot)
        again = affine.compose([x, y, w, h, *pivot, turn, scale_x, scale_y, skew])
        np.testing.assert_allclose(again, m, atol=1e-5 * (1 + abs(w) + abs(h)))

    @given(matrices)
    def test_inverse_undoes(self, m: Any) -> None:
        assume(abs(m[0] * m[3] - m[1] * m[2]) > 0.1)
        np.testing.assert_allclose(affine.multiply(affine.invert(m), m), affine.identity(), atol=1e-6)

    def test_a_flat_transform_has_no_inverse(self) -> None:
        self.assertIsNone(affine.invert([1, 2, 2, 4, 0, 0]))

    def test_turn_is_clockwise_about_the_pivot(self) -> None:
        m = affine.compose([10, 20, 40, 20, 0.5, 0.5, 90, 1, 1, 0])
        np.testing.assert_allclose(affine.apply(m, (20, 10)), (30, 30))
        np.testing.assert_allclose(affine.apply(m, (40, 10)), (30, 50), atol=1e-9)

    def test_bounds_of_a_turned_box(self) -> None:
        m = affine.compose([10, 20, 40, 20, 0.5, 0.5, 90, 1, 1, 0])
        np.testing.assert_allclose(affine.box_bounds(m, 40, 20), (20, 10, 20, 40), atol=1e-9)


class Outlines(unittest.TestCase):
    def test_bounds_reach_the_bulge_of_a_curve(self) -> None:
        x, y, w, h = bezier.bounds(np.array([(0, 0), (0, 100), (100, 100), (100, 0)], float))
        self.assertEqual((x, y, w), (0, 0, 100))
        self.assertAlmostEqual(h, 75)

    @settings(deadline=None)
    @given(st.lists(st.tuples(number, number), min_size=4, max_size=4))
    def test_bounds_hold_every_point(self, points: Any) -> None:
        p = np.array(points)
        x, y, _, h = bezier.bounds(p)
        t = np.linspace(0, 1, 60)[:, None]
        on = (1 - t) ** 3 * p[0] + 3 * (1 - t) ** 2 * t * p[1] + 3 * (1 - t) * t * t * p[2] + t**3 * p[3]
        self.assertGreaterEqual(on[:, 0].min(), x - 1e-6)
        self.assertLessEqual(on[:, 1].max(), y + h + 1e-6)

    def test_an_arc_keeps_its_radius(self) -> None:
        points = np.array([(10, 0), *bezier.arc_to((10, 0), 10, 10, 0, False, True, (0, 10))])
        t = np.linspace(0, 1, 40)[:, None]
        on = (
            (1 - t) ** 3 * points[0]
            + 3 * (1 - t) ** 2 * t * points[1]
            + 3 * (1 - t) * t * t * points[2]
            + t**3 * points[3]
        )
        np.testing.assert_allclose(np.hypot(on[:, 0], on[:, 1]), 10, rtol=3e-4)

    def test_arcs_of_no_size_and_radii_too_small(self) -> None:
        self.assertEqual(bezier.arc_to((1, 1), 5, 5, 0, True, True, (1, 1)), [])
        self.assertEqual(bezier.arc_to((0, 0), 0, 5, 0, True, True, (9, 0))[-1], (9, 0))
        grown = np.array([(0, 0), *bezier.arc_to((0, 0), 1, 1, 0, False, True, (20, 0))])
        self.assertAlmostEqual(bezier.bounds(grown)[3], 10, delta=0.02)

    def test_radii_that_overlap_shrink_together(self) -> None:
        np.testing.assert_allclose(bezier.fit_radii((80.0, 80, 80, 80), 100, 40), [20] * 4)
        self.assertEqual(bezier.box_outline(50, 20, (0.0,) * 4).shape, (25, 2))


class FlatFrames(unittest.TestCase):
    def setUp(self) -> None:
        inner = box("in", 5, 5, 10, 10)
        self.frame = Frame(
            "F", "F", 100, 100, layers=(box("back", 0, 0, 100, 100), group("g", 20, 30, (inner,), opacity=0.5))
        )

    def test_world_transform_and_opacity_go_through_groups(self) -> None:
        flat = flatten(self.frame)
        i = flat.index["in"]
        np.testing.assert_allclose(flat.bounds[i], (25, 35, 10, 10))
        self.assertEqual(flat.opacity[i], 0.5)
        self.assertEqual(flat.path[i], (1, 0))
        self.assertIs(flatten(self.frame), flat)

    def test_the_topmost_layer_under_a_point(self) -> None:
        self.assertEqual(layer_at(self.frame, 30, 40).id, "in")
        self.assertEqual(layer_at(self.frame, 30, 40, deep=False).id, "g")
        self.assertEqual(layer_at(self.frame, 90, 90).id, "back")
        self.assertIsNone(layer_at(self.frame, 200, 90))
