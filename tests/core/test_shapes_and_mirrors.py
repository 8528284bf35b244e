"""Outlines that a fill closes, holes on their way, mirrors and scales said in different ways: what is seen in between."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from avelt.core.blending.nesting import as_nonzero, containers, holes
from avelt.core.edits.layers import set_value
from avelt.core.formats.svg_in import read_svg
from avelt.core.geometry import affine
from avelt.core.geometry.stretch import without_scale
from avelt.core.model.curves import Line
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Frame, Layer, Path, Project, Subpath, Transition
from avelt.core.timing.compile import compile_frames
from avelt.core.timing.items import items
from avelt.core.timing.painted import Item
from avelt.core.timing.program import Program, Scene
from tests.support import box


def line(*corners: tuple[float, float], closed: bool = False) -> Subpath:
    """Straight lines through corners."""
    points: list[float] = [*corners[0]]
    ends = [*corners[1:], corners[0]] if closed else corners[1:]
    at = corners[0]
    for end in ends:
        for share in (1 / 3, 2 / 3, 1.0):
            points += [at[0] + (end[0] - at[0]) * share, at[1] + (end[1] - at[1]) * share]
        at = end
    return Subpath(tuple(points), closed)


def between(left: Layer, right: Layer, share: float) -> Item:
    """The one item some way between two layers."""
    program = moving(left, right)
    (item,) = items(program.at(100.0 * share))
    return item


def moving(left: Layer, right: Layer) -> Program:
    frames = (Frame("L", "L", 200, 200, layers=(left,)), Frame("R", "R", 200, 200, layers=(replace(right, id="r"),)))
    return compile_frames(None, *frames, Transition(100.0, Line()))


def inked(item: Item, size: int = 100) -> float:
    """The area that an item's outline fills, by counting windings at pixel centres."""
    assert item.outline is not None
    x, y = np.meshgrid(np.arange(size) + 0.5, np.arange(size) + 0.5)
    turns = np.zeros_like(x)
    for points, _ in item.outline:
        curves = np.stack([points[:-1:3], points[1::3], points[2::3], points[3::3]], 1)
        t = np.linspace(0, 1, 17)[:-1, None]
        flat = np.concatenate(
            [
                c[0] * (1 - t) ** 3 + 3 * c[1] * t * (1 - t) ** 2 + 3 * c[2] * t**2 * (1 - t) + c[3] * t**3
                for c in curves
            ]
        )
        for (ax, ay), (bx, by) in zip(flat, np.roll(flat, -1, 0), strict=True):
            side = (bx - ax) * (y - ay) - (by - ay) * (x - ax)
            turns += ((ay <= y) & (by > y) & (side > 0)) * 1.0 - ((ay > y) & (by <= y) & (side < 0)) * 1.0
    return float((turns % 2 != 0).sum() if item.rule == "evenodd" else (turns != 0).sum())


def shape(ident: str, *subs: Subpath, rule: Any = "nonzero", **own: Any) -> Layer:
    return box(ident, 0, 0, 100, 100, body=Path(subs, rule), name="Shape", origin="o", **own)


SQUARE = ((20, 20), (80, 20), (80, 80), (20, 80))
SMALL = ((40, 40), (60, 40), (60, 60), (40, 60))


class ClosedByAFill(unittest.TestCase):
    def test_open_filled_outlines_do_not_collapse(self) -> None:
        head = line((20, 80), (20, 40), (50, 10), (80, 40), (80, 80))
        mark = line((70, 15), (30, 15), (30, 90), (50, 70), (70, 90))
        least = min(inked(between(shape("a", head), shape("b", mark), 0.0)), inked(shape_item(mark)))
        for one, two in ((head, mark), (mark, head)):
            for share in (0.25, 0.5, 0.75):
                self.assertGreater(inked(between(shape("a", one), shape("b", two), share)), 0.6 * least)

    def test_with_or_without_a_final_z_is_the_same_motion(self) -> None:
        other = line((10, 50), (50, 10), (90, 50), (50, 90), closed=True)
        opened = line(*SQUARE, SQUARE[0])
        half = [inked(between(shape("a", sub), shape("b", other), 0.5)) for sub in (opened, line(*SQUARE, closed=True))]
        self.assertAlmostEqual(half[0], half[1], delta=20)

    def test_a_turned_over_chevron_does_not_vanish(self) -> None:
        down, up = line((20, 30), (50, 70), (80, 30)), line((20, 70), (50, 30), (80, 70))
        self.assertGreater(inked(between(shape("a", down), shape("b", up), 0.5)), 300)
        thick = line((20, 30), (50, 60), (80, 30), (80, 45), (50, 75), (20, 45), closed=True)
        over = line((20, 75), (50, 45), (80, 75), (80, 60), (50, 30), (20, 60), closed=True)
        self.assertGreater(inked(between(shape("a", thick), shape("b", over), 0.5)), 300)

    def test_the_ends_of_a_stroked_line_stay_open(self) -> None:
        from avelt.core.model.values import Solid, Stroke

        bent, tall = line((10, 10), (50, 60), (90, 10)), line((10, 90), (50, 40), (60, 50), (90, 90))
        pen = Stroke(Solid("#000000"), 2.0)
        item = between(shape("a", bent, stroke=pen), shape("b", tall, stroke=pen), 0.5)
        assert item.outline is not None
        self.assertEqual([closed for _, closed in item.outline], [False])


def shape_item(*subs: Subpath) -> Item:
    return between(shape("a", *subs), shape("b", *subs), 0.5)


class Holes(unittest.TestCase):
    def test_a_hole_stays_one_whichever_way_the_other_side_is_drawn(self) -> None:
        ring = shape("a", line(*SQUARE, closed=True), line(*SMALL[::-1], closed=True))
        diamond, inner = ((50, 10), (90, 50), (50, 90), (10, 50)), ((50, 35), (65, 50), (50, 65), (35, 50))
        for outer, hole in ((diamond, inner[::-1]), (diamond[::-1], inner)):
            other = shape("b", line(*outer, closed=True), line(*hole, (36, 49), closed=True))
            for share in (0.2, 0.5, 0.8, 0.97):
                item = between(ring, other, share)
                whole = inked(replace_outline(item, item.outline[:1]))  # type: ignore[index]
                self.assertGreater(whole - inked(item), 200, (outer[0], share))

    def test_a_hole_that_only_one_side_has_opens_at_once(self) -> None:
        ring = shape("b", line(*SQUARE[::-1], closed=True), line(*SMALL, closed=True))
        plain = shape("a", line((10, 10), (90, 10), (90, 90), (10, 90), closed=True))
        item = between(plain, ring, 0.9)
        self.assertGreater(inked(replace_outline(item, item.outline[:1])) - inked(item), 200)  # type: ignore[index]

    def test_other_fill_rules_do_not_flip_a_hole_away(self) -> None:
        # By the even-odd rule both run the same way; by nonzero they must not.
        evenodd = shape("a", line(*SQUARE, closed=True), line(*SMALL, closed=True), rule="evenodd")
        nonzero = shape("b", line(*SQUARE, closed=True), line(*SMALL[::-1], closed=True))
        for one, two in ((evenodd, nonzero), (nonzero, evenodd)):
            for share in (0.3, 0.49, 0.51, 0.7):
                self.assertAlmostEqual(inked(between(one, two, share)), 3600 - 400, delta=60)

    def test_what_lies_in_what(self) -> None:
        outline = [
            (np.array(line(*corners, closed=True).points).reshape(-1, 2), True)
            for corners in (SQUARE, SMALL, ((45, 45), (55, 45), (55, 55), (45, 55)), ((0, 0), (9, 0), (9, 9)))
        ]
        inside = containers(outline)
        self.assertEqual(inside, [[], [0], [0, 1], []])
        self.assertEqual(holes(outline, "evenodd", inside), [False, True, False, False])
        self.assertEqual(holes(outline, "nonzero", inside), [False] * 4)
        turned = as_nonzero(outline, "evenodd")
        self.assertEqual(holes(turned, "nonzero", containers(turned)), [False, True, False, False])


def replace_outline(item: Item, outline: Any) -> Item:
    made = Item(item.slot, item.layer, item.matrix, 1.0, item.w, item.h, outline=outline, rule=item.rule)
    return made


def frame_of(svg: str) -> Frame:
    head = '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="200" viewBox="0 0 200 200">'
    return read_svg(f"{head}{svg}</svg>".encode(), "x").frame


def half(left: str, right: str, share: float = 0.5) -> Scene:
    return compile_frames(None, frame_of(left), frame_of(right), Transition(100.0, Line())).at(100.0 * share)


class Mirrors(unittest.TestCase):
    @given(st.floats(-170, 170), st.floats(0.2, 4), st.floats(0.2, 4), st.booleans(), st.floats(-40, 40))
    @settings(max_examples=60)
    def test_composing_what_was_decomposed(self, turn: float, sx: float, sy: float, flip: bool, skew: float) -> None:
        matrix = affine.compose([3, 4, 10, 20, 0.5, 0.5, turn, -sx if flip else sx, sy, skew])
        parts = affine.decompose(matrix)
        x, y = affine.place_for(matrix, 10, 20, (0.5, 0.5))
        np.testing.assert_allclose(affine.compose([x, y, 10, 20, 0.5, 0.5, *parts]), matrix, atol=1e-9)
        self.assertEqual(sum(part < 0 for part in parts[1:3]), int(flip))

    def test_a_mirrored_layer_mirrors_in_place(self) -> None:
        rect = '<rect id="r" x="20" y="20" width="60" height="30" fill="red" transform="{}"/>'
        for mirror, axis in (("translate(100 0) scale(-1 1)", "scale_x"), ("translate(0 70) scale(1 -1)", "scale_y")):
            scene = half(rect.format(""), rect.format(mirror), 0.25)
            row = scene.scalars[0]
            self.assertAlmostEqual(row[COLUMN["rotation"]], 0.0)
            self.assertAlmostEqual(row[COLUMN[axis]], 0.5)
            np.testing.assert_allclose(affine.apply(scene.world()[0], (30, 15)), (50, 35), atol=1e-6)

    def test_angles_out_of_a_matrix_go_the_shorter_way(self) -> None:
        def turned(angle: float, how: str) -> str:
            c, s = np.cos(np.radians(angle)), np.sin(np.radians(angle))
            by = f"rotate({angle})" if how == "rotate" else f"matrix({c} {s} {-s} {c} 0 0)"
            return f'<rect id="r" width="60" height="30" fill="red" transform="translate(100 100) {by}"/>'

        for how, wanted in (("matrix", 180.0), ("rotate", 0.0)):
            row = half(turned(170, how), turned(-170, how)).scalars[0]
            self.assertAlmostEqual(row[COLUMN["rotation"]], wanted)

    def test_what_is_typed_afterwards_counts_as_typed(self) -> None:
        frame = frame_of('<rect id="r" width="9" height="9" fill="red" transform="matrix(0 1 -1 0 50 50)"/>')
        layer = frame.layers[0]
        self.assertTrue(layer.any_turn)
        project = set_value(Project(name="", frames=(frame,)), frame.id, layer.id, "rotation", 450.0)
        self.assertFalse(project.frames[0].layers[0].any_turn)


class Scales(unittest.TestCase):
    """A size said by a scale, or by the numbers, is the same size all the way."""

    CARD = '<g id="g" transform="{}"><rect id="a" x="{}" y="{}" width="{}" height="{}" fill="red"/></g>'

    def boxes(self, left: str, right: str) -> list[float]:
        found = []
        for share in (0.0, 0.25, 0.5, 0.75, 1.0):
            scene = half(left, right, share)
            slot = next(s for s, part in enumerate(scene.program.contents) if part.layer.name == "a")
            world, row = scene.world()[slot], scene.scalars[slot]
            a, b, c, d = world[:4]
            found.append(abs(float(a * d - b * c)) * row[COLUMN["w"]] * row[COLUMN["h"]])
        return found

    def test_even_uneven_and_turned_on_one_side(self) -> None:
        for scale, factors in (("scale(4)", (4, 4)), ("scale(4 2)", (4, 2))):
            kept = self.CARD.format(scale, 5, 5, 10, 8)
            baked = self.CARD.format("", 5 * factors[0], 5 * factors[1], 10 * factors[0], 8 * factors[1])
            np.testing.assert_allclose(self.boxes(kept, baked), 80 * factors[0] * factors[1], rtol=1e-6)
        turned = self.CARD.format("translate(100 20) rotate(40) scale(4)", 5, 5, 10, 8)
        np.testing.assert_allclose(self.boxes(turned, self.CARD.format("", 20, 20, 40, 32)), 1280, rtol=1e-6)

    def test_it_looks_the_same_with_its_scale_worked_in(self) -> None:
        for own in (
            {"rotation": 30.0, "scale_x": 3.0, "scale_y": 3.0},
            {"rotation": 30.0, "scale_x": 3.0, "scale_y": 2.0, "skew": 10.0},
            {"scale_x": -2.0, "scale_y": 2.0, "rotation": -20.0},
        ):
            layer = box("a", 7, 9, 20, 10, pivot=(0.2, 0.7), **own)
            made = without_scale(layer)
            self.assertEqual((abs(made.scale_x), abs(made.scale_y)), (1.0, 1.0))
            for corner in ((0.0, 0.0), (1.0, 0.0), (0.5, 1.0)):
                before, after = (self.corner(entry, corner) for entry in (layer, made))
                np.testing.assert_allclose(before, after, atol=1e-6)

    def corner(self, layer: Layer, share: tuple[float, float]) -> Any:
        from avelt.core.geometry.place import local_of

        return affine.apply(local_of(layer), (share[0] * layer.w, share[1] * layer.h))

    def test_what_cannot_be_stretched_keeps_its_scale(self) -> None:
        from avelt.core.model.values import Box, Run, Solid, Stroke, Text

        for own in (
            {"body": Box((4.0,) * 4)},
            {"body": Text((Run("Pier"),))},
            {"stroke": Stroke(Solid("#000000"), 2.0)},
            {"blur": 2.0},
        ):
            layer = box("a", 0, 0, 20, 10, scale_x=3.0, scale_y=2.0, **own)
            self.assertIs(without_scale(layer), layer)
            self.assertEqual(without_scale(replace(layer, scale_y=3.0)).scale_y, 1.0)


class OfTheMoment(unittest.TestCase):
    def test_blend_modes_are_isolated_as_the_frame_of_that_half_is(self) -> None:
        layer = box("a", 0, 0, 9, 9, blend="multiply")
        left = Frame("L", "L", 20, 20, layers=(layer,), isolates=True)
        right = Frame("R", "R", 20, 20, layers=(replace(layer, id="b"),))
        program = compile_frames(None, left, right, Transition(100.0, Line()))
        self.assertEqual([program.at(ms).isolates for ms in (0.0, 49.0, 51.0)], [True, True, False])


if __name__ == "__main__":
    unittest.main()
