"""What a point meets: boxes whole, lines near enough, outlines without a fill only at their line."""

from __future__ import annotations

import random
import unittest
from itertools import pairwise
from math import hypot

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avelt.core.geometry import tilt
from avelt.core.geometry.flatten import layer_at
from avelt.core.geometry.meeting import distance, meets
from avelt.core.model.properties import COLUMN
from avelt.core.model.triggers import STAYS
from avelt.core.model.values import Frame, Layer, Path, Solid, Stroke, Subpath
from avelt.core.running.hits import paint_order, slots_at
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.program import Scene
from avelt.demo.build import build_demo
from tests.support import box

_SIDE = 100.0


def ring(side: float = _SIDE, fills: tuple[Solid, ...] = (), width: float = 2.0) -> Layer:
    """A square of straight cubics, clockwise from the top left."""
    corners = ((0.0, 0.0), (side, 0.0), (side, side), (0.0, side), (0.0, 0.0))
    points = list(corners[0])
    for (x0, y0), (x1, y1) in pairwise(corners):
        points += [x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3, x1 - (x1 - x0) / 3, y1 - (y1 - y0) / 3, x1, y1]
    outline = Path((Subpath(tuple(points), closed=True),))
    return replace(box("ring", 0, 0, side, side), body=outline, fills=fills, stroke=Stroke(Solid("red"), width))


class Meets(unittest.TestCase):
    def test_a_box_counts_whole_and_nothing_beside_it(self) -> None:
        whole = box("a", 0, 0, 40, 30)
        for x, y, met in ((0, 0, True), (40, 30, True), (20, 15, True), (40.1, 15, False), (20, -0.1, False)):
            self.assertEqual(meets(whole, 40, 30, x, y), met, (x, y))
        self.assertTrue(meets(replace(whole, fills=()), 40, 30, 20, 15))  # a place to touch that is not seen

    def test_beside_a_thin_line_is_near_enough(self) -> None:
        line = box("a", 0, 0, 50, 0)
        for x, y, met in (
            (25, 3, True),
            (25, -3, True),
            (25, 3.1, False),
            (53, 0, True),
            (-3, 0, True),
            (53.1, 0, False),
        ):
            self.assertEqual(meets(line, 50, 0, x, y), met, (x, y))
        self.assertTrue(meets(box("b", 0, 0, 50, 5), 50, 5, 25, 7.5))
        self.assertFalse(meets(box("b", 0, 0, 50, 6), 50, 6, 25, 6.5))

    def test_inside_an_outline_without_a_fill_is_what_lies_beneath(self) -> None:
        for x, y, met in ((50, 50, False), (50, 12, True), (50, 12.5, False), (88, 50, True), (87, 50, False)):
            self.assertEqual(meets(ring(), _SIDE, _SIDE, x, y), met, (x, y))
            self.assertTrue(meets(ring(fills=(Solid("blue"),)), _SIDE, _SIDE, x, y))
        self.assertTrue(meets(ring(width=60.0), _SIDE, _SIDE, 50, 29))
        self.assertFalse(meets(ring(width=60.0), _SIDE, _SIDE, 50, 31))

    def test_a_small_one_counts_whole(self) -> None:
        for w, met in ((20.0, True), (24.0, True), (25.0, False)):
            side = Path((Subpath((0.0, 0.0, 0.0, 70.0, 0.0, 140.0, 0.0, 200.0)),))  # the left side alone
            line = replace(box("side", 0, 0, w, 200), body=side, fills=())
            self.assertEqual(meets(line, w, 200, w - 1, 100), met, w)
        self.assertTrue(meets(ring(24.0), 24, 24, 12, 12))
        self.assertFalse(meets(ring(25.0), 25, 25, 12.5, 12.5))

    def test_a_bend_is_followed(self) -> None:
        arch = Path((Subpath((0.0, 200.0, 0.0, -66.0, 200.0, -66.0, 200.0, 200.0)),))  # its top is at (100, 0.5)
        bent = replace(box("arch", 0, 0, 200, 200), body=arch, fills=())
        for x, y, met in ((100, 12, True), (100, 13, False), (10, 110, True), (40, 150, False)):
            self.assertEqual(meets(bent, 200, 200, x, y), met, (x, y))

    def test_it_is_as_large_as_it_is_now(self) -> None:
        self.assertTrue(meets(ring(), 2 * _SIDE, _SIDE, 190, 50))
        self.assertFalse(meets(ring(), 2 * _SIDE, _SIDE, 100, 50))
        self.assertTrue(meets(ring(), 20, 20, 10, 10))

    def test_a_click_and_a_tap_meet_what_is_seen_inside(self) -> None:
        frame = Frame("A", "A", 200, 200, layers=(box("beneath", 40, 40, 20, 20), ring()))
        self.assertEqual(getattr(layer_at(frame, 50, 50), "id", ""), "beneath")
        self.assertEqual(getattr(layer_at(frame, 50, 2), "id", ""), "ring")
        scene = compile_still(frame).at(0.0)
        for y, met in ((50.0, "beneath"), (2.0, "ring")):
            (slot,) = slots_at(scene, 50.0, y)
            self.assertEqual(scene.program.contents[slot].layer.id, met)


class Scenes(unittest.TestCase):
    def test_what_is_looked_at_first_leaves_out_nothing(self) -> None:
        # Of most slots their upright box says that they are not meant: the answer is that of looking at each.
        project = build_demo()
        chance, met = random.Random(4), 0
        for route in project.routes[::3]:
            if isinstance(route.action, STAYS):
                continue
            program = compile_route(project, route)
            for share in (0.0, 0.35, 0.8):
                scene = program.at(program.duration * share)
                for _ in range(12):
                    x, y = chance.uniform(-5, 365), chance.uniform(-5, 645)
                    chain = slots_at(scene, x, y)
                    self.assertEqual(chain[0] if chain else None, self.topmost(scene, x, y), (route.id, share, x, y))
                    met += bool(chain)
        self.assertGreater(met, 100)

    def topmost(self, scene: Scene, x: float, y: float) -> int | None:
        tilts, world, opacity = scene.tilts(), scene.world(), scene.world_opacity()
        for slot in reversed(paint_order(scene)):
            gone = opacity[slot] < 1 / 255 or scene.program.is_absent(slot, scene.at)
            back = tilt.back_to(tilts.get(slot, world[slot]), x, y)
            if scene.order.get(slot) or gone or back is None:
                continue
            w, h = (float(scene.scalars[slot, COLUMN[name]]) for name in ("w", "h"))
            if meets(scene.program.contents[slot].layer, w, h, *back):
                return slot
        return None

    def test_turned_out_of_the_plane_and_flat(self) -> None:
        layers = (
            box("under", 0, 0, 200, 200),
            box("turned", 50, 50, 100, 100, rotation_y=60.0),
            box("flat", 20, 20, 160, 160, scale_x=0.0),
            box("round", 10, 10, 60, 2, rotation=90.0),
        )
        scene = compile_still(Frame("A", "A", 200, 200, layers=layers, perspective=300.0)).at(0.0)
        for x in range(0, 200, 7):
            for y in range(0, 200, 9):
                chain = slots_at(scene, x, y)
                self.assertEqual(chain[0] if chain else None, self.topmost(scene, x, y), (x, y))


class Distance(unittest.TestCase):
    @given(
        st.lists(st.tuples(*[st.floats(-50, 50)] * 4), min_size=1, max_size=5), st.floats(-80, 80), st.floats(-80, 80)
    )
    def test_no_point_of_the_lines_is_nearer_and_one_is_as_near(
        self, lines: list[tuple[float, float, float, float]], x: float, y: float
    ) -> None:
        numbers = np.array(lines, float)
        found = distance(numbers[:, :2], numbers[:, 2:], x, y)
        shares = np.linspace(0.0, 1.0, 401)
        tried = min(
            hypot(x0 + (x1 - x0) * t - x, y0 + (y1 - y0) * t - y) for x0, y0, x1, y1 in lines for t in shares.tolist()
        )
        self.assertLessEqual(found, tried + 1e-9)
        self.assertGreaterEqual(found, tried - 0.3)  # of a step of the tried ones

    def test_of_nothing(self) -> None:
        self.assertEqual(distance(np.zeros((0, 2)), np.zeros((0, 2)), 1.0, 2.0), float("inf"))


if __name__ == "__main__":
    unittest.main()
