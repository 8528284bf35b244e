"""Outlines by their length, and turns out of the plane."""

import math
import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.geometry import affine, arc, tilt
from avelt.core.geometry.bezier import box_outline, box_outlines, line_to, oval_outline
from avelt.core.geometry.flatten import flatten, layer_at
from avelt.core.model.values import Frame
from avelt.core.timing.compile import compile_frames, compile_still
from avelt.core.timing.items import items
from tests.support import box, group

share = st.floats(0.0, 1.0)
LINE = np.array([(0.0, 0.0), *line_to((0.0, 0.0), (60.0, 80.0))])


class Lengths(unittest.TestCase):
    def test_a_line_and_a_circle(self) -> None:
        self.assertAlmostEqual(arc.length(LINE), 100.0, places=9)
        self.assertAlmostEqual(arc.length(oval_outline(200.0, 200.0)), 200 * math.pi, delta=0.3)

    def test_many_boxes_at_once_are_the_same(self) -> None:
        boxes = [(80.0, 50.0, (12.0, 4.0, 0.0, 20.0)), (30.0, 20.0, (30.0, 8.0, -3.0, 9.0)), (-4.0, 9.0, (2.0,) * 4)]
        w, h = (np.array([box[k] for box in boxes]) for k in (0, 1))
        together = box_outlines(w, h, np.array([radii for _, _, radii in boxes]))
        for points, (wide, high, radii) in zip(together, boxes, strict=True):
            np.testing.assert_array_equal(points, box_outline(max(0.0, wide), high, radii))

    @given(share, share)
    def test_a_stretch_is_as_long_as_it_says(self, a: Any, b: Any) -> None:
        outline = box_outline(80.0, 50.0, (12.0, 4.0, 0.0, 20.0))
        whole = arc.length(outline)
        low, high = sorted((a * whole, b * whole))
        self.assertAlmostEqual(arc.length(arc.between(outline, low, high)), high - low, delta=0.02 * whole / 8)

    def test_a_line_is_cut_where_it_says(self) -> None:
        piece = arc.between(LINE, 25.0, 50.0)
        np.testing.assert_allclose(piece[[0, -1]], [(15, 20), (30, 40)], atol=1e-6)


class Trimming(unittest.TestCase):
    def test_nothing_is_cut_from_the_whole_and_all_of_nothing(self) -> None:
        outline = [(LINE, False)]
        self.assertIs(arc.trimmed(outline, 0.0, 1.0, 0.3), outline)
        self.assertEqual(arc.trimmed(outline, 0.4, 0.4, 0.0), [])

    def test_over_the_seam_a_closed_outline_goes_on_and_an_open_one_is_two(self) -> None:
        ring = arc.trimmed([(oval_outline(10, 10), True)], 0.0, 0.5, 0.75)
        self.assertEqual([closed for _, closed in ring], [False])
        self.assertAlmostEqual(arc.length(ring[0][0]), 5 * math.pi, delta=0.02)
        self.assertEqual(len(arc.trimmed([(LINE, False)], 0.0, 0.5, 0.75)), 2)

    @given(share, share, st.floats(-2.0, 2.0))
    def test_what_is_left_has_the_wanted_share(self, a: Any, b: Any, offset: Any) -> None:
        left = sum(arc.length(points) for points, _ in arc.trimmed([(LINE, False)], a, b, offset))
        self.assertAlmostEqual(left, 100.0 * abs(b - a), delta=0.05)


class Tilting(unittest.TestCase):
    PARTS = (10.0, 20.0, 100.0, 40.0, 0.5, 0.5, 0.0, 1.0, 1.0, 0.0)

    def test_without_tilt_it_is_the_affine_transform(self) -> None:
        parts = (10.0, 20.0, 100.0, 40.0, 0.2, 0.9, 33.0, 1.5, 0.5, 12.0)
        corners = tilt.corners(tilt.tilted(parts, 0.0, 0.0, 500.0), 100, 40)
        np.testing.assert_allclose(corners, tilt.corners(affine.compose(parts), 100, 40), atol=1e-9)

    def test_figures_of_a_turn_about_y(self) -> None:
        # rotateY(60deg) at 200 px: the right edge, 50 px from the middle, goes back by 50 sin 60 and shrinks.
        corners = tilt.corners(tilt.tilted(self.PARTS, 0.0, 60.0, 200.0), 100, 40)
        depth = 1 + 50 * math.sin(math.radians(60)) / 200
        self.assertAlmostEqual(corners[1][0], 60 + 25 / depth, places=9)
        self.assertAlmostEqual(corners[1][1], 40 - 20 / depth, places=9)

    def test_from_very_far_there_is_no_perspective(self) -> None:
        corners = tilt.corners(tilt.tilted(self.PARTS, 60.0, 0.0, 0.0), 100, 40)
        np.testing.assert_allclose(corners, [(10, 30), (110, 30), (110, 50), (10, 50)], atol=1e-9)

    def test_a_layer_is_hit_where_it_is_seen(self) -> None:
        leaning = group("g", 50, 50, (box("a", 0, 0, 100, 100),), rotation_y=60.0)
        frame = Frame("F", "F", 200, 200, layers=(leaning,))
        flat = flatten(frame)
        self.assertEqual(set(flat.tilts), {0, 1})
        self.assertEqual(layer_at(frame, 100, 100).id, "a")
        self.assertIsNone(layer_at(frame, 60, 100))
        self.assertGreater(flat.bounds[0][0], 60)

    def test_back_to_undoes_the_transform(self) -> None:
        matrix = tilt.tilted(self.PARTS, 40.0, -30.0, 300.0)
        ((x, y),) = tilt.apply(matrix, np.array([(70.0, 11.0)]))
        np.testing.assert_allclose(tilt.back_to(matrix, x, y), (70.0, 11.0), atol=1e-6)

    def test_a_tilt_moves_like_any_number(self) -> None:
        left = Frame("A", "A", 100, 100, layers=(box("a", 0, 0, 10, 10),))
        right = Frame(
            "B", "B", 100, 100, layers=(box("b", 0, 0, 10, 10, origin="a", rotation_x=360.0),), perspective=400.0
        )
        from avelt.core.model.curves import Line
        from avelt.core.model.values import Transition

        program = compile_frames(None, left, right, Transition(100.0, Line()))
        (item,) = items(program.at(25.0))
        self.assertEqual(len(item.matrix), 9)
        self.assertAlmostEqual(program.at(25.0).perspective, 640.0)
        np.testing.assert_allclose(
            item.matrix, tilt.tilted((0, 0, 10, 10, 0.5, 0.5, 0, 1, 1, 0), 90, 0, 640).ravel(), atol=1e-9
        )
        self.assertEqual(len(items(compile_still(left).at(0.0))[0].matrix), 6)
