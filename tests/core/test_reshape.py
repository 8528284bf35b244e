"""Outlines of any structure into each other, and rolling numbers."""

import math
import unittest
from typing import Any

import msgspec
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.blending.reshape import alike, fits_node_by_node, signed_area
from avelt.core.blending.rolling import can_roll, columns
from avelt.core.geometry import arc
from avelt.core.geometry.bezier import box_outline, line_to, oval_outline
from avelt.core.model.values import Picture
from avelt.core.timing.content import change_of
from tests.support import box


def polygon(points: Any) -> np.ndarray:
    made = [points[0]]
    for start, end in zip(points, [*points[1:], points[0]], strict=True):
        made += line_to(start, end)
    return np.array(made, float)


def star(points: int, inner: float, turn: float = 0.0) -> np.ndarray:
    found = []
    for k in range(points * 2):
        r, angle = (0.5 if k % 2 == 0 else inner / 2), math.pi * k / points + turn
        found.append((0.5 + r * math.sin(angle), 0.5 - r * math.cos(angle)))
    return polygon(found)


BOX = box_outline(1, 1, (0.1,) * 4)
OVAL = oval_outline(1, 1)
SQUARE = polygon([(0, 0), (1, 0), (1, 1), (0, 1)])
TRIANGLE = polygon([(0.5, 0), (1, 1), (0, 1)])


def area(points: Any) -> float:
    """What the outline itself encloses, not only its nodes."""
    there = arc.at(arc.cubics(points), np.linspace(0, 1, 33)[:-1]).reshape(-1, 2)
    return signed_area(np.repeat(there, 3, 0)) / 2


def areas(a: Any, b: Any, count: int = 11) -> Any:
    (one, _), (two, _) = a[0], b[0]
    return [area(one * (1 - t) + two * t) for t in np.linspace(0, 1, count)]


class OneStructure(unittest.TestCase):
    def test_both_keep_their_own_shape(self) -> None:
        for first, second in ((BOX, OVAL), (SQUARE, star(5, 0.4)), (TRIANGLE, OVAL), (star(7, 0.6), BOX)):
            a, b = alike([(first, True)], [(second, True)])
            self.assertEqual(a[0][0].shape, b[0][0].shape)
            for made, own in ((a[0][0], first), (b[0][0], second)):
                self.assertAlmostEqual(arc.length(made), arc.length(own), delta=2e-3 * arc.length(own))
                self.assertAlmostEqual(abs(area(made)), abs(area(own)), delta=0.01)
                np.testing.assert_allclose(made[0], made[-1], atol=1e-9)

    def test_nothing_collapses_on_the_way(self) -> None:
        shapes = [BOX, OVAL, SQUARE, TRIANGLE, star(5, 0.45), star(6, 0.5, 0.3)]
        for first in shapes:
            for second in shapes:
                for way in (second, second[::-1]):
                    found = areas(*alike([(first, True)], [(way, True)]))
                    least = min(abs(found[0]), abs(found[-1]))
                    self.assertGreater(min(abs(v) for v in found), 0.75 * least)
                    self.assertEqual(len({v > 0 for v in found}), 1)

    def test_where_an_outline_begins_does_not_matter(self) -> None:
        for turn in (1, 2, 3):
            other = polygon([(0, 0), (1, 0), (1, 1), (0, 1)][turn:] + [(0, 0), (1, 0), (1, 1), (0, 1)][:turn])
            a, b = alike([(SQUARE, True)], [(other, True)])
            np.testing.assert_allclose(a[0][0], b[0][0], atol=1e-6)

    def test_the_start_can_be_shifted(self) -> None:
        a, b = alike([(SQUARE, True)], [(SQUARE, True)], shift=0.25)
        moved = np.linalg.norm(a[0][0][0] - b[0][0][0])
        self.assertAlmostEqual(moved, 1.0, places=3)

    def test_an_open_line_runs_the_shorter_way(self) -> None:
        line = np.array([[0, 0], [1, 0], [2, 0], [3, 0]], float)
        a, b = alike([(line, False)], [(line[::-1] + np.array([0, 1]), False)])
        np.testing.assert_allclose(b[0][0] - a[0][0], [[0, 1]] * 4, atol=1e-9)
        self.assertFalse(a[0][1])

    def test_what_one_side_lacks_grows_out_of_a_point(self) -> None:
        hole = SQUARE * 0.2 + 0.4
        a, b = alike([(SQUARE, True)], [(SQUARE, True), (hole, True)])
        self.assertEqual([len(p) for p, _ in a], [len(p) for p, _ in b])
        np.testing.assert_allclose(a[1][0], [[0.5, 0.5]] * len(hole), atol=1e-9)

    def test_empty_and_pointlike_outlines(self) -> None:
        self.assertEqual(alike([], []), ([], []))
        a, b = alike([(np.array([[0.5, 0.5]]), False)], [(SQUARE, True)])
        self.assertEqual(a[0][0].shape, b[0][0].shape)
        self.assertTrue(np.isfinite(a[0][0]).all())

    @given(
        st.lists(st.tuples(st.floats(0, 1), st.floats(0, 1)), min_size=2, max_size=9),
        st.lists(st.tuples(st.floats(0, 1), st.floats(0, 1)), min_size=2, max_size=9),
        st.booleans(),
        st.booleans(),
    )
    def test_any_two_come_to_one_structure(self, first: Any, second: Any, close_a: Any, close_b: Any) -> None:
        a, b = alike([(polygon(first), close_a)], [(polygon(second), close_b)])
        self.assertEqual([p.shape for p, _ in a], [p.shape for p, _ in b])
        for points, _ in (*a, *b):
            self.assertTrue(np.isfinite(points).all())


class Rolling(unittest.TestCase):
    def read(self, first: str, second: str, share: float) -> str:
        return "".join(c.now for c in columns(first, second, share) if c.seen > 0.5)

    def test_what_can_roll(self) -> None:
        for first, second, good in (
            ("12", "140", True),
            ("€ 12.50", "€ 9.75", True),
            ("1,200 m", "980 m", True),
            ("Deck 3", "Deck 12", True),
            ("09:15", "07:40", False),
            ("12 km", "12 m", False),
            ("12.5", "12.50", False),
            ("one", "two", False),
            ("", "3", False),
            ("-3", "4", False),
            ("7.5", "75", False),
        ):
            self.assertIs(can_roll(first, second), good, (first, second))

    @given(st.integers(0, 10**9), st.integers(0, 10**9))
    def test_both_ends_are_the_texts_themselves(self, first: Any, second: Any) -> None:
        self.assertEqual(self.read(f"€ {first:,}", f"€ {second:,}", 0.0), f"€ {first:,}")
        self.assertEqual(self.read(f"€ {first:,}", f"€ {second:,}", 1.0), f"€ {second:,}")

    def test_the_carry_turns_only_in_the_last_unit(self) -> None:
        tens, ones = columns("10", "30", 0.4)  # 18
        self.assertEqual((tens.now, tens.up, ones.now), ("1", 0.0, "8"))
        tens, ones = columns("10", "30", 0.475)  # 19.5
        self.assertEqual((tens.now, tens.coming, ones.now, ones.coming), ("1", "2", "9", "0"))
        self.assertAlmostEqual(tens.up, 0.5)
        self.assertAlmostEqual(ones.up, 0.5)

    def test_it_never_jumps(self) -> None:
        def far(share: float) -> float:
            """The number that the wheels show, turned part and all."""
            found = columns("95", "205", share)
            return sum(
                (int(c.now or 0) + (c.up if k == len(found) - 1 else 0)) * 10 ** (len(found) - 1 - k)
                for k, c in enumerate(found)
            )

        steps = np.diff([far(s) for s in np.linspace(0, 1, 600)])
        self.assertTrue((np.abs(steps) < 0.25).all())


class NodeByNode(unittest.TestCase):
    def test_outlines_whose_nodes_do_not_answer_each_other_are_laid_along_their_length(self) -> None:
        same = [(SQUARE, True)]
        moved = [(SQUARE * 0.8 + 0.1, True)]
        turned = [(polygon([(1, 1), (0, 1), (0, 0), (1, 0)]), True)]
        self.assertTrue(fits_node_by_node(same, moved))
        self.assertFalse(fits_node_by_node(same, turned))
        self.assertFalse(fits_node_by_node(same, [(TRIANGLE, True)]))
        self.assertFalse(fits_node_by_node(same, [(SQUARE, False)]))
        self.assertTrue(fits_node_by_node([], []))


class Pictures(unittest.TestCase):
    def test_another_fit_of_the_same_picture_cross_fades(self) -> None:
        left, right = (
            msgspec.structs.replace(box(ident, 0, 0, 40, 20), body=Picture("p", fit))
            for ident, fit in (("a", "stretch"), ("b", "cover"))
        )
        self.assertEqual(change_of(left, right, None), "cross-fade")
        self.assertEqual(change_of(left, left, None), "")
