"""Blur, shadows, blend modes, tilt, trim and patterns in pixels."""

import math
import unittest
from typing import Any

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QImage, QPainter, QTransform

from avelt.core.geometry.bezier import line_to
from avelt.core.model.curves import Line
from avelt.core.model.values import (
    Conic,
    Frame,
    Group,
    Layer,
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
from avelt.paint.effects import FORMAT, blurred, mixed, pixels
from avelt.paint.outlines import reach
from avelt.paint.painter import ScenePainter
from tests.support import box, group, oval, pixel


def paint(*layers: Any, scale: Any = 1.0, size: Any = 100, **own: Any) -> QImage:
    frame = Frame("F", "F", size, size, layers=tuple(layers), **own)
    return ScenePainter().render(compile_still(frame).at(0.0), scale)


def near(case: Any, found: Any, wanted: Any, by: Any = 2) -> None:
    for a, b in zip(found, wanted, strict=True):
        case.assertAlmostEqual(a, b, delta=by)


class Blur(unittest.TestCase):
    def test_an_edge_becomes_the_normal_distribution(self) -> None:
        image = paint(box("a", 50, -200, 400, 500, "#000000", blur=8.0), size=100)
        for x in (34, 42, 50, 58, 66):
            wanted = 255 * (1 - 0.5 * (1 + math.erf((x + 0.5 - 50) / (8 * math.sqrt(2)))))
            self.assertAlmostEqual(pixel(image, x, 50)[0], wanted, delta=4)

    def test_it_scales_with_the_picture(self) -> None:
        small = paint(oval("a", 30, 30, 40, 40, "#000000", blur=4.0))
        large = paint(oval("a", 30, 30, 40, 40, "#000000", blur=4.0), scale=2.0)
        for x in (20, 28, 34, 50):
            self.assertAlmostEqual(pixel(small, x, 50)[0], pixel(large, 2 * x, 100)[0], delta=8)

    def test_colours_never_exceed_their_alpha(self) -> None:
        image = QImage(40, 40, FORMAT)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.fillRect(10, 10, 7, 7, Qt.GlobalColor.red)
        painter.end()
        soft = pixels(blurred(image, 3.3))
        self.assertTrue((soft[..., :3] <= soft[..., 3:]).all() and soft.any())

    def test_what_lies_beneath_is_blurred_inside_the_shape_only(self) -> None:
        stripes = tuple(box(f"s{k}", 4 * k, 0, 2, 100, "#000000") for k in range(25))
        glass = box("g", 50, 0, 50, 100, "rgb(255 255 255 / 0)", back_blur=6.0)
        image = paint(*stripes, glass)
        self.assertEqual({pixel(image, 20, 50), pixel(image, 22, 50)}, {(0, 0, 0), (255, 255, 255)})
        near(self, pixel(image, 74, 50), (127, 127, 127), 12)

    def test_a_blur_without_measure_takes_no_memory_without_measure(self) -> None:
        item = items(compile_still(Frame("F", "F", 100, 100, layers=(box("a", 0, 0, 50, 50, blur=1e5),))).at(0.0))[0]
        area = reach(item, QTransform.fromScale(4.0, 4.0))
        self.assertLess(area.width(), 2000)
        image = paint(
            box("a", 0, 0, 100, 100, "#000000", blur=1e5, shadows=(Shadow("#000000", 9e4, 0, 9e4),)), scale=4.0
        )
        self.assertEqual(image.width(), 400)


class Shadows(unittest.TestCase):
    def test_under_the_shape_in_its_colour_and_shifted(self) -> None:
        image = paint(box("a", 20, 20, 40, 40, "#00ff00", shadows=(Shadow("#0000ff", 10, 10, 0),)))
        self.assertEqual(pixel(image, 30, 30), (0, 255, 0))
        self.assertEqual(pixel(image, 65, 65), (0, 0, 255))
        self.assertEqual(pixel(image, 75, 75), (255, 255, 255))

    def test_inside_the_edge(self) -> None:
        image = paint(box("a", 20, 20, 60, 60, "#ffffff", shadows=(Shadow("#000000", 6, 0, 0, True),)))
        self.assertEqual([pixel(image, x, 50) for x in (15, 22, 40)], [(255,) * 3, (0,) * 3, (255,) * 3])

    def test_the_first_lies_over_the_second(self) -> None:
        both = (Shadow("#ff0000", 5, 5), Shadow("#0000ff", 10, 10))
        self.assertEqual(pixel(paint(box("a", 20, 20, 40, 40, shadows=both)), 63, 63), (255, 0, 0))

    def test_it_turns_with_the_layer(self) -> None:
        image = paint(box("a", 40, 40, 20, 20, "#00ff00", rotation=90.0, shadows=(Shadow("#000000", 25, 0),)))
        self.assertEqual(pixel(image, 50, 75), (0, 0, 0))

    def test_a_moving_one_is_kept_and_looks_the_same(self) -> None:
        def frame(ident: Any, x: Any) -> Any:
            card = box(ident, x, 20, 30, 30, "#ffffff", origin="c", shadows=(Shadow("#000000", 0, 4, 5),))
            return Frame(ident, ident, 120, 100, layers=(card,))

        program = compile_frames(None, frame("A", 10), frame("B", 50), Transition(100.0, Line()))
        painter = ScenePainter()
        painter.render(program.at(25.0))
        kept = len(painter._kept.shades)
        moved = painter.render(program.at(50.0))
        self.assertEqual((kept, len(painter._kept.shades)), (1, 1))
        fresh = ScenePainter().render(compile_still(frame("C", 30)).at(0.0))
        away = np.abs(pixels(moved).astype(int) - pixels(fresh).astype(int)).max()
        self.assertLessEqual(away, 3)

    def test_those_of_a_growing_one_do_not_push_out_the_others(self) -> None:
        def frame(ident: str, w: float) -> Frame:
            cast = (Shadow("#000000", 0, 4, 5),)
            still = box("still", 10, 70, 20, 20, "#ffffff", shadows=cast, name="moves")
            moves = replace(still, id=f"moves{ident}", origin="moves", x=w)
            grown = box(f"grown{ident}", 10, 10, w, 30, "#ffffff", origin="grows", shadows=cast)
            return Frame(ident, ident, 120, 100, layers=(grown, moves))

        program = compile_frames(None, frame("A", 20), frame("B", 70), Transition(100.0, Line()))
        painter = ScenePainter()
        for ms in range(5, 100, 5):
            painter.render(program.at(float(ms)))
        self.assertEqual(len(painter._kept.shades), 2)  # of the one that moves, and the last of the one that grows
        self.assertLess(painter.filled, 0.01)

    def test_a_shadow_that_one_side_lacks_fades_in(self) -> None:
        plain = Frame("A", "A", 100, 100, layers=(box("a", 20, 20, 40, 40, origin="c"),))
        cast = Frame(
            "B", "B", 100, 100, layers=(box("b", 20, 20, 40, 40, origin="c", shadows=(Shadow("#000000", 20, 20),)),)
        )
        program = compile_frames(None, plain, cast, Transition(100.0, Line()))
        near(self, pixel(ScenePainter().render(program.at(50.0)), 70, 70), (127, 127, 127), 3)


class Mixing(unittest.TestCase):
    BELOW = box("b", 0, 0, 100, 100, "#80c040")

    def test_modes_against_their_formulas(self) -> None:
        cases = {
            "multiply": lambda s, b: s * b,
            "screen": lambda s, b: s + b - s * b,
            "darken": min,
            "lighten": max,
            "difference": lambda s, b: abs(s - b),
            "exclusion": lambda s, b: s + b - 2 * s * b,
            "plus-lighter": lambda s, b: min(1.0, s + b),
        }
        below, above = (0x80 / 255, 0xC0 / 255, 0x40 / 255), (0x30 / 255, 0x90 / 255, 0xE0 / 255)
        for mode, formula in cases.items():
            with self.subTest(mode):
                image = paint(self.BELOW, box("a", 20, 20, 50, 50, "#3090e0", blend=mode))
                near(self, pixel(image, 40, 40), [255 * formula(s, b) for s, b in zip(above, below, strict=True)])

    def test_luminosity_takes_the_light_and_keeps_the_hue(self) -> None:
        image = paint(self.BELOW, box("a", 20, 20, 50, 50, "#ffffff", blend="luminosity"))
        near(self, pixel(image, 40, 40), (255, 255, 255))
        grey = paint(self.BELOW, box("a", 20, 20, 50, 50, "#777777", blend="color"))
        r, g, b = pixel(grey, 40, 40)
        self.assertTrue(r == g == b)
        self.assertAlmostEqual(r, 0.3 * 0x80 + 0.59 * 0xC0 + 0.11 * 0x40, delta=2)

    def test_over_nothing_every_mode_is_the_source(self) -> None:
        source, empty = QImage(2, 2, FORMAT), QImage(2, 2, FORMAT)
        source.fill(Qt.GlobalColor.red)
        empty.fill(Qt.GlobalColor.transparent)
        for mode in ("hue", "saturation", "color", "luminosity"):
            self.assertEqual(pixel(mixed(source, empty, mode), 0, 0), (255, 0, 0))

    def test_an_isolated_group_and_an_isolated_frame_keep_it_to_themselves(self) -> None:
        layer = box("a", 20, 20, 50, 50, "#ffffff", blend="difference")
        near(self, pixel(paint(layer), 40, 40), (0, 0, 0))
        near(self, pixel(paint(layer, isolates=True), 40, 40), (255, 255, 255))
        alone = Layer("g", "g", "g", Group((layer,), isolates=True), w=100, h=100)
        near(self, pixel(paint(self.BELOW, alone), 40, 40), (255, 255, 255))
        near(self, pixel(paint(self.BELOW, group("g", 0, 0, (layer,))), 40, 40), (127, 63, 191))

    def test_onto_a_foreign_painter_it_is_the_same(self) -> None:
        frame = Frame("F", "F", 100, 100, layers=(self.BELOW, box("a", 20, 20, 50, 50, "#777777", blend="hue")))
        scene = compile_still(frame).at(0.0)
        image = QImage(100, 100, FORMAT)
        image.fill(Qt.GlobalColor.white)
        painter = QPainter(image)
        ScenePainter().paint(painter, scene, QTransform(), QRect(0, 0, 100, 100))
        painter.end()
        np.testing.assert_array_equal(pixels(image), pixels(ScenePainter().render(scene)))


class Forms(unittest.TestCase):
    def test_a_conic_gradient_goes_clockwise_from_the_top(self) -> None:
        stops = (Stop(0, "#ff0000"), Stop(0.25, "#00ff00"), Stop(0.5, "#0000ff"), Stop(1, "#ffffff"))
        layer = box("a", 0, 0, 100, 100)
        image = paint(Layer("a", "a", "a", layer.body, w=100, h=100, fills=(Conic(stops),)))
        near(self, pixel(image, 51, 2), (255, 0, 0), 12)
        near(self, pixel(image, 98, 50), (0, 255, 0), 12)
        near(self, pixel(image, 50, 98), (0, 0, 255), 12)

    def test_a_pattern_repeats_and_moves(self) -> None:
        tile = Pattern((box("t", 0, 0, 5, 10, "#ff0000"),), 10, 10, (0.01, 0, 0, 0.01, 0.02, 0))
        layer = Layer("a", "a", "a", box("x", 0, 0, 1, 1).body, w=100, h=100, fills=(tile,))
        image = paint(layer)
        self.assertEqual(
            [pixel(image, x, 50) for x in (4, 9, 14, 19, 94)], [(255, 0, 0), (255,) * 3] * 2 + [(255, 0, 0)]
        )

    def test_a_clear_stop_keeps_its_colour(self) -> None:
        from avelt.core.model.values import Linear

        fade = Linear((Stop(0, "#ff0000"), Stop(1, "rgb(255 0 0 / 0)")))
        image = paint(Layer("a", "a", "a", box("x", 0, 0, 1, 1).body, w=100, h=100, fills=(fade,)))
        near(self, pixel(image, 50, 50), (255, 127, 127), 4)

    def test_a_trimmed_line_shows_its_share(self) -> None:
        line = Path((Subpath(tuple(v for p in [(0.0, 0.0), *line_to((0, 0), (80, 0))] for v in p)),))
        layer = Layer(
            "a", "a", "a", line, 10, 50, 80, 0, stroke=Stroke(Solid("#000000"), 6, trim_end=0.5, trim_offset=0.25)
        )
        image = paint(layer)
        self.assertEqual([pixel(image, x, 50)[0] for x in (20, 40, 60, 80)], [255, 0, 0, 255])

    def test_a_stroke_under_its_fill_shows_outside_only(self) -> None:
        layer = box("a", 30, 30, 40, 40, "#00ff00", stroke=Stroke(Solid("#000000"), 10, under=True))
        image = paint(layer)
        self.assertEqual((pixel(image, 33, 50), pixel(image, 27, 50)), ((0, 255, 0), (0, 0, 0)))

    def test_a_tilted_layer_narrows_towards_the_far_side(self) -> None:
        image = paint(box("a", 10, 10, 80, 80, "#000000", rotation_y=60.0), perspective=100.0)
        columns = [sum(pixel(image, x, y)[0] < 128 for y in range(100)) for x in (38, 56)]
        self.assertGreater(columns[0], columns[1] + 8)
        self.assertEqual(pixel(image, 12, 50), (255, 255, 255))
