"""Outlines between our cubics and Qt's paths, where ink can be, what is kept, and pictures of odd things."""

import unittest
from typing import Any

import msgspec
import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from PySide6.QtCore import QRect
from PySide6.QtGui import QPainterPath, QTransform

from avelt.core.geometry.bezier import box_outline, oval_outline
from avelt.core.model.curves import Line
from avelt.core.model.values import (
    Frame,
    Group,
    Layer,
    Linear,
    Path,
    Pattern,
    Shadow,
    Solid,
    Stop,
    Stroke,
    Subpath,
    Transition,
)
from avelt.core.timing.compile import compile_frames, compile_still
from avelt.core.timing.items import items
from avelt.core.timing.resting import Resting, mixes, opens, plan_of
from avelt.paint.effects import pixels
from avelt.paint.fonts import ensure_gui, measure_text, set_text
from avelt.paint.outlines import as_path, from_path, own_transform, reach, scale_of, shift_of
from avelt.paint.painter import ScenePainter
from avelt.window.frames.layer_commands import text_outline
from tests.support import box, group, oval, pixel, text

replace = msgspec.structs.replace
number = st.floats(-100, 100).map(lambda v: round(v, 3))


def item_of(layer: Layer) -> Any:
    (item,) = items(compile_still(Frame("F", "F", 200, 200, layers=(layer,))).at(0.0))
    return item


class Paths(unittest.TestCase):
    @given(st.lists(st.tuples(number, number), min_size=4, max_size=4), st.booleans())
    def test_there_and_back(self, points: Any, closed: Any) -> None:
        outline = [(np.array(points), closed)]
        ((back, _),) = from_path(as_path(outline)) or [(np.zeros((4, 2)), closed)]
        if len({tuple(p) for p in points}) == 4:
            np.testing.assert_allclose(back[:4], points, atol=1e-6)

    def test_boxes_ovals_and_lines_of_qt(self) -> None:
        for points in (box_outline(30, 20, (4.0, 0, 2, 9)), oval_outline(30, 20)):
            ((back, closed),) = from_path(as_path([(points, True)]))
            self.assertTrue(closed)
            np.testing.assert_allclose(back.min(0), points.min(0), atol=1e-6)
        path = QPainterPath()
        path.moveTo(0, 0)
        path.lineTo(30, 0)
        path.moveTo(0, 10)
        path.lineTo(30, 10)
        self.assertEqual([len(points) for points, _ in from_path(path)], [4, 4])
        self.assertEqual(from_path(QPainterPath()), [])

    def test_a_texts_outline_is_where_it_is_painted(self) -> None:
        ensure_gui()
        layer = replace(text("t", "Hull", size=40), w=90)
        outline = text_outline(layer)
        low = np.min([points.min(0) for points, _ in outline], 0)
        high = np.max([points.max(0) for points, _ in outline], 0)
        drawn = set_text(layer.body, 40, 0, 1.2, 90)[0].path.boundingRect()
        np.testing.assert_allclose((low[0], low[1], high[0], high[1]), drawn.getCoords(), atol=0.6)

    def test_the_space_behind_the_last_letter_counts(self) -> None:
        ensure_gui()
        plain = text("t", "abc").body
        self.assertAlmostEqual(measure_text(replace(plain, letter_spacing=5.0)) - measure_text(plain), 15.0, delta=0.1)


class Reach(unittest.TestCase):
    def test_it_holds_all_ink(self) -> None:
        layers = (
            box("a", 60, 60, 50, 40, "#000000", rotation=30.0, stroke=Stroke(Solid("#000000"), 9)),
            box("b", 60, 60, 50, 40, "#000000", blur=4.0, shadows=(Shadow("#000000", 9, -7, 5),)),
            group("g", 50, 50, (oval("o", 0, 0, 30, 30, "#000000"), box("p", 20, 20, 30, 30, "#000000")), blur=3.0),
            box("t", 60, 60, 60, 60, "#000000", rotation_y=50.0),
        )
        for layer in layers:
            with self.subTest(layer.id):
                item = item_of(layer)
                area = reach(item, own_transform(item))
                frame = Frame("F", "F", 200, 200, layers=(layer,))
                image = ScenePainter().render(compile_still(frame).at(0.0), background=False)
                rows, columns = np.nonzero(pixels(image)[..., 3] > 4)
                self.assertTrue(area.left() - 1 <= columns.min() and columns.max() <= area.right() + 1)
                self.assertTrue(area.top() - 1 <= rows.min() and rows.max() <= area.bottom() + 1)

    def test_scales_and_shifts_of_transforms(self) -> None:
        self.assertAlmostEqual(scale_of(QTransform.fromScale(4, 9)), 6.0)
        self.assertEqual(shift_of(QTransform(0, 2, -2, 0, 5, 5), 3, 1), (-2.0, 6.0))


class Layout(unittest.TestCase):
    def layout(self, left: Any, right: Any) -> Any:
        frames = [Frame(k, k, 100, 100, layers=layers) for k, layers in (("A", left), ("B", right))]
        program = compile_frames(None, *frames, Transition(100.0, Line()))
        found = []
        for part in plan_of(program.at(50.0)).parts:
            if isinstance(part, Resting):
                found += [(placed.item.layer.origin, True) for placed in part.placed]
            else:
                found.append((program.contents[part.slot].layer.origin, False))
        return found

    def test_plain_groups_are_opened_where_something_moves(self) -> None:
        left = (group("g", 0, 0, (box("a", 0, 0, 9, 9), box("b", 20, 0, 9, 9), box("e", 60, 0, 9, 9)), origin="g"),)
        right = (
            group(
                "h",
                0,
                0,
                (
                    box("c", 0, 0, 9, 9, origin="a"),
                    box("d", 40, 0, 9, 9, origin="b"),
                    box("f", 60, 0, 9, 9, origin="e"),
                ),
                origin="g",
            ),
        )
        self.assertEqual(self.layout(left, right), [("a", True), ("b", False), ("e", True)])
        self.assertEqual(self.layout(left, left), [("g", True)])

    def test_what_mixes_with_what_lies_beneath_is_never_kept(self) -> None:
        glow = box("a", 0, 0, 9, 9, blend="screen")
        self.assertEqual(
            self.layout((glow, box("b", 0, 0, 5, 5)), (glow, box("b", 9, 0, 5, 5))), [("a", False), ("b", False)]
        )
        held = Layer("g", "g", "g", Group((glow,), isolates=True), w=9, h=9)
        self.assertFalse(mixes(item_of(held)))
        self.assertTrue(mixes(item_of(group("g", 0, 0, (glow,)))))
        self.assertFalse(opens(item_of(held)))
        self.assertFalse(opens(item_of(group("g", 0, 0, (glow,), blur=2.0))))


class Odd(unittest.TestCase):
    def paint(self, *layers: Any, scale: Any = 1.0) -> Any:
        return ScenePainter().render(compile_still(Frame("F", "F", 60, 60, layers=layers)).at(0.0), scale)

    def test_effects_on_nothing_paint_nothing(self) -> None:
        empty = (
            box("a", 10, 10, 0, 0, blur=5.0),
            group("g", 0, 0, (), blur=4.0, shadows=(Shadow("#000000"),)),
            replace(box("b", 5, 5, 20, 20), fills=(), shadows=(Shadow("#000000", 4, 4, 2),)),
            box("c", 500, 500, 20, 20, blur=3.0),
            box("d", 10, 10, 20, 20, opacity=0.0, back_blur=9.0),
        )
        image = self.paint(*empty)
        self.assertTrue((pixels(image)[..., :3] == 255).all())

    def test_a_blurred_layer_half_outside_bleeds_in(self) -> None:
        image = self.paint(box("a", -30, 0, 28, 60, "#000000", blur=6.0))
        self.assertLess(pixel(image, 1, 30)[0], 190)

    def test_a_masked_shadowed_group_casts_the_masks_shape(self) -> None:
        inner = (box("p", 0, 0, 40, 40, "#00ff00"), oval("m", 10, 10, 20, 20, "#000000"))
        look = Layer("g", "g", "g", Group(inner, mask="m"), 10, 10, 40, 40, shadows=(Shadow("#ff0000", 15, 0),))
        image = self.paint(look)
        self.assertEqual((pixel(image, 30, 30), pixel(image, 43, 30)), ((0, 255, 0), (255, 0, 0)))
        self.assertEqual(pixel(image, 12, 12), (255, 255, 255))

    def test_a_pattern_in_a_pattern_and_one_under_a_stroke(self) -> None:
        inner = Pattern((box("s", 0, 0, 2, 4, "#ff0000"),), 4, 4, (0.1, 0, 0, 0.05, 0, 0))
        tile = Pattern((replace(box("t", 0, 0, 10, 20), fills=(inner,)),), 20, 20, (1 / 60, 0, 0, 1 / 60, 0, 0))
        image = self.paint(replace(box("a", 0, 0, 60, 60), fills=(tile,)), scale=2.0)
        self.assertEqual([pixel(image, x, 9) for x in (1, 6, 30)], [(255, 0, 0), (255, 255, 255), (255, 255, 255)])
        lined = replace(
            box("b", 10, 10, 40, 40), fills=(), stroke=Stroke(replace(inner, matrix=(1 / 40, 0, 0, 1 / 40, 0, 0)), 8)
        )
        reds = {pixel(self.paint(lined), x, 10) for x in range(12, 48)}
        self.assertIn((255, 0, 0), reds)

    def test_a_stroke_of_a_gradient_and_a_trimmed_oval(self) -> None:
        ring = replace(
            oval("o", 10, 10, 40, 40),
            fills=(),
            stroke=Stroke(Linear((Stop(0, "#ff0000"), Stop(1, "#0000ff"))), 6, "round", trim_end=0.5),
        )
        image = self.paint(ring)
        right, left = pixel(image, 50, 30), pixel(image, 10, 30)
        self.assertGreater(right[2], 200)
        self.assertEqual(left, (255, 255, 255))

    def test_area_painting_is_bounded_by_its_area(self) -> None:
        frame = Frame("F", "F", 60, 60, layers=(box("a", 0, 0, 60, 60, "#000000", blend="multiply"),))
        from PySide6.QtGui import QImage, QPainter

        image = QImage(60, 60, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(0xFFFFFFFF)
        painter = QPainter(image)
        ScenePainter().paint(painter, compile_still(frame).at(0.0), QTransform(), QRect(0, 0, 30, 60))
        painter.end()
        self.assertEqual([pixel(image, x, 30)[0] for x in (10, 50)], [0, 255])

    def test_a_path_of_one_point_is_no_trouble(self) -> None:
        layer = replace(
            box("a", 0, 0, 5, 5), body=Path((Subpath((1.0, 1.0)),)), stroke=Stroke(Solid("#000000"), 3, trim_end=0.5)
        )
        self.assertFalse(self.paint(layer).isNull())
