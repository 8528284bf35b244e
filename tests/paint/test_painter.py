"""Scenes in pixels."""

import io
import unittest
from typing import Any
from unittest import mock

import msgspec
import numpy as np
from PIL import Image
from PySide6.QtCore import Qt
from PySide6.QtGui import QPainter

from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.formats.pictures_in import read_picture
from avelt.core.formats.svg_in import read_svg
from avelt.core.model.curves import Line
from avelt.core.model.values import (
    Box,
    Frame,
    Group,
    Linear,
    Picture,
    Pose,
    Radial,
    Run,
    Solid,
    Stop,
    Stroke,
    Text,
    Transition,
)
from avelt.core.timing.compile import compile_frames, compile_route, compile_still
from avelt.core.timing.over import ends
from avelt.demo.build import build_demo
from avelt.paint.effects import pixels as to_pixels
from avelt.paint.fonts import ensure_gui, load_house_font, measure_text, set_text
from avelt.paint.moving import moments, to_pillow
from avelt.paint.painter import ScenePainter
from avelt.paint.pictures import fit_rects
from tests.core.test_running import prototype
from tests.support import box, group, oval, pixel, project_of, text

replace = msgspec.structs.replace


def paint(*layers: Any, scale: float = 1.0, size: float = 40, background: str = "#ffffff", assets: Any = ()) -> Any:
    """A still frame of layers as a picture."""
    frame = Frame("F", "F", size, size, background, layers=tuple(layers))
    return ScenePainter(assets).render(compile_still(frame).at(0.0), scale)


def paint_svg(inner: str, size: int = 40) -> Any:
    frame = read_svg(
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{size}" height="{size}">{inner}</svg>'.encode(), "t"
    ).frame
    return ScenePainter().render(compile_still(replace(frame, background="#ffffff")).at(0.0))


class Shapes(unittest.TestCase):
    def test_box_and_background(self) -> None:
        image = paint(box("a", 10, 10, 20, 20, "#ff0000"), background="#00ff00")
        self.assertEqual(
            (pixel(image, 5, 5), pixel(image, 20, 20), pixel(image, 29, 29)), ((0, 255, 0), (255, 0, 0), (255, 0, 0))
        )

    def test_edges_are_smoothed(self) -> None:
        image = paint(box("a", 10.5, 10, 20, 20, "#000000"))
        self.assertAlmostEqual(pixel(image, 10, 20)[0], 128, delta=3)

    def test_twice_the_scale_is_twice_as_fine(self) -> None:
        layer = oval("a", 10, 10, 20, 20, "#000000")
        small, large = paint(layer), paint(layer, scale=2.0)
        self.assertEqual((large.width(), large.height()), (80, 80))
        half = np.asarray(to_pillow(large).resize((40, 40), Image.Resampling.BOX), float)
        self.assertLess(np.abs(half - np.asarray(to_pillow(small), float)).mean(), 1.0)

    def test_rounded_corners_and_turns(self) -> None:
        image = paint(box("a", 0, 0, 40, 40, "#000000", body=Box((20.0,) * 4)))
        self.assertEqual(pixel(image, 1, 1), (255, 255, 255))
        turned = paint(box("a", 10, 18, 20, 4, "#000000", rotation=90))
        self.assertEqual((pixel(turned, 20, 12), pixel(turned, 12, 20)), ((0, 0, 0), (255, 255, 255)))

    def test_zero_sizes_paint_nothing(self) -> None:
        image = paint(box("a", 10, 10, 0, 20, "#000"), oval("b", 0, 0, 30, 0, "#000"))
        self.assertEqual(np.asarray(to_pillow(image)).min(), 255)

    def test_gradients(self) -> None:
        fill = (Linear((Stop(0, "#000000"), Stop(1, "#ffffff"))),)
        image = paint(replace(box("a", 0, 0, 40, 40), fills=fill))
        self.assertLess(pixel(image, 1, 20)[0], 12)
        self.assertAlmostEqual(pixel(image, 20, 20)[0], 128, delta=6)
        ring = (Radial((Stop(0, "#ffffff"), Stop(1, "#000000"))),)
        image = paint(replace(box("a", 0, 0, 40, 40), fills=ring))
        self.assertGreater(pixel(image, 20, 20)[0], 235)
        self.assertLess(pixel(image, 1, 1)[0], 5)

    def test_clear_to_colour_does_not_darken(self) -> None:
        # SVG blends stops without multiplying alpha in: half way from clear black to red is dark red at half.
        fill = (Linear((Stop(0, "rgb(0 0 0 / 0)"), Stop(1, "#ff0000"))),)
        image = paint(replace(box("a", 0, 0, 40, 40), fills=fill))
        red, green, _ = pixel(image, 20, 20)
        self.assertAlmostEqual(red, 192, delta=6)
        self.assertAlmostEqual(green, 128, delta=6)

    def test_strokes_dashes_and_caps(self) -> None:
        svg = '<path d="M0 20H40" stroke="#000" stroke-width="4" stroke-dasharray="10 10"/>'
        image = paint_svg(svg)
        self.assertEqual([pixel(image, x, 20)[0] for x in (5, 15, 25, 35)], [0, 255, 0, 255])

    def test_group_opacity_is_of_the_whole(self) -> None:
        inner = (box("a", 0, 0, 30, 30, "#000000"), box("b", 10, 10, 30, 30, "#000000"))
        image = paint(group("g", 0, 0, inner, opacity=0.5))
        self.assertEqual(pixel(image, 5, 5), pixel(image, 20, 20))
        self.assertAlmostEqual(pixel(image, 20, 20)[0], 127, delta=2)

    def test_fill_and_stroke_fade_as_one(self) -> None:
        layer = replace(box("a", 10, 10, 20, 20, "#000000"), stroke=Stroke(Solid("#000000"), 8.0), opacity=0.5)
        image = paint(layer)
        self.assertAlmostEqual(pixel(image, 11, 20)[0], pixel(image, 20, 20)[0], delta=2)


class ClipsAndMasks(unittest.TestCase):
    def test_a_group_clips_to_its_box_also_when_turned(self) -> None:
        wide = box("a", 0, 0, 100, 10, "#000000")
        for turn in (0.0, 45.0):
            clipped = replace(group("g", 10, 15, (wide,), clips=True, rotation=turn), w=10.0)
            image = paint(clipped)
            self.assertEqual(pixel(image, 15, 20), (0, 0, 0))
            self.assertEqual(pixel(image, 36, 20), (255, 255, 255))

    def test_layers_of_layers_land_where_they_belong(self) -> None:
        # Each fading, masked or turned group is painted on a sheet of its own that is only as large as it must be.
        inner = group("i", 5, 5, (box("m", 0, 0, 10, 10), box("a", 0, 0, 20, 20, "#000000")))
        inner = replace(inner, body=Group(inner.children, mask="m"))
        faded = group("f", 10, 10, (inner, box("b", 0, 20, 5, 5, "#ff0000")), opacity=0.5)
        image = paint(replace(faded, x=8.0, y=6.0))
        self.assertAlmostEqual(pixel(image, 17, 15)[0], 127, delta=2)
        self.assertEqual((pixel(image, 26, 24), pixel(image, 11, 9)), ((255, 255, 255), (255, 255, 255)))
        self.assertAlmostEqual(pixel(image, 10, 28)[1], 127, delta=2)

    def test_what_lies_outside_costs_nothing_and_shows_nothing(self) -> None:
        image = paint(group("g", 500, 500, (box("a", 0, 0, 9, 9), box("b", 3, 3, 9, 9)), opacity=0.5))
        self.assertEqual(np.asarray(to_pillow(image)).min(), 255)

    def test_clip_paths_are_smooth(self) -> None:
        image = paint_svg(
            '<clipPath id="c"><circle cx="20" cy="20" r="10"/></clipPath><rect width="40" height="40" clip-path="url(#c)"/>'
        )
        self.assertEqual((pixel(image, 20, 20), pixel(image, 5, 5)), ((0, 0, 0), (255, 255, 255)))
        edge = {pixel(image, x, y)[0] for x in range(8, 33) for y in range(8, 33)}
        self.assertGreater(len(edge), 10)

    def test_masks_by_light_and_by_alpha(self) -> None:
        mask = '<mask id="m"{}><rect width="20" height="40" fill="#fff"/><rect x="20" width="20" height="40" fill="#000"/></mask>'
        image = paint_svg(mask.format("") + '<rect width="40" height="40" mask="url(#m)"/>')
        self.assertEqual((pixel(image, 10, 20), pixel(image, 30, 20)), ((0, 0, 0), (255, 255, 255)))
        image = paint_svg(mask.format(' style="mask-type:alpha"') + '<rect width="40" height="40" mask="url(#m)"/>')
        self.assertEqual((pixel(image, 10, 20), pixel(image, 30, 20)), ((0, 0, 0), (0, 0, 0)))

    def test_an_empty_mask_hides_all(self) -> None:
        image = paint_svg('<clipPath id="c"/><rect width="40" height="40" clip-path="url(#c)"/>')
        self.assertEqual(np.asarray(to_pillow(image)).min(), 255)


class PicturesAndText(unittest.TestCase):
    def test_pictures_fit(self) -> None:
        buffer = io.BytesIO()
        Image.new("RGB", (20, 10), "#ff0000").save(buffer, "PNG")
        asset = read_picture(buffer.getvalue(), "x")
        inside = paint(box("p", 0, 0, 40, 40, body=Picture(asset.id, "inside")), assets=(asset,))
        self.assertEqual((pixel(inside, 20, 20), pixel(inside, 20, 4)), ((255, 0, 0), (255, 255, 255)))
        cover = paint(box("p", 0, 0, 40, 40, body=Picture(asset.id, "cover")), assets=(asset,))
        self.assertEqual(pixel(cover, 20, 2), (255, 0, 0))
        target, source = fit_rects(20, 10, 40, 40, "cover")
        self.assertEqual((target.width(), source.width()), (40, 10))

    def test_text_stands_on_its_baseline(self) -> None:
        ensure_gui()
        layer = text("t", "H", 5, 0, 20)
        image = paint(replace(layer, fills=(Solid("#000000"),)))
        rows = np.flatnonzero((np.asarray(to_pillow(image))[..., 0] < 128).any(1))
        self.assertAlmostEqual(int(rows[-1]) + 1, 20 * (0.6 + 0.35), delta=1.0)

    def test_type_grows_smoothly(self) -> None:
        body = Text((Run("Sailing detail"),))
        widths = [measure_text(replace(body, size=10 + k / 10)) for k in range(30)]
        steps = np.diff(widths)
        np.testing.assert_allclose(steps, steps[0], rtol=1e-6)

    def test_alignment_and_lines(self) -> None:
        body = Text((Run("one\nthree"),), align="right")
        runs = set_text(body, 16, 0, 1.5, 100)
        self.assertEqual([round(run.path.boundingRect().right()) // 3 for run in runs], [33, 33])
        self.assertAlmostEqual(runs[1].path.boundingRect().bottom() - runs[0].path.boundingRect().bottom(), 24, delta=1)
        self.assertTrue(load_house_font())


class StillnessAndEnds(unittest.TestCase):
    def test_what_stands_still_is_painted_once(self) -> None:
        left = (box("s", 0, 0, 40, 40, "#00ff00", name="Stays"), box("a", 0, 0, 10, 10, name="Goes"))
        right = (box("t", 0, 0, 40, 40, "#00ff00", name="Stays"), box("b", 30, 30, 10, 10, name="Goes"))
        project = project_of(left, right)
        program, painter = compile_route(project, project.routes[0]), ScenePainter()
        painter.render(program.at(10.0))
        kept = dict(painter._kept.runs._kept)
        painter.render(program.at(40.0))
        self.assertEqual(len(kept), 1)
        self.assertEqual(list(painter._kept.runs._kept.values()), list(kept.values()))

    def test_both_ends_paint_as_the_frames(self) -> None:
        project = build_demo(measure_text)
        painter = ScenePainter()
        for route in project.routes:
            program = compile_route(project, route)
            for ms, frame in zip((0.0, program.duration), ends(project, route), strict=True):
                still = painter.render(compile_still(frame, project).at(0.0))
                self.assertEqual(painter.render(program.at(ms)), still, f"{route.id} at {ms}")

    def test_a_motion_begins_with_what_stood_there(self) -> None:
        """Its first moment is the frame itself, and a hair later nothing has jumped."""
        project = build_demo(measure_text)
        painter, near = ScenePainter(), 0
        for route in project.routes:
            program = compile_route(project, route)
            if program.lifts or program.uses or not program.duration:
                continue
            first, then = (to_pixels(painter.render(program.at(ms))) for ms in (0.0, 1e-7))
            if first.shape == then.shape:
                near += 1
                # A word and its single digits come out of the font rounded to 1/64 px each: 4 levels of 255 at an edge.
                self.assertLessEqual(int(np.abs(first.astype(int) - then).max()), 6, route.id)
        self.assertGreater(near, 5)

    def test_the_last_picture_of_what_stands_is_kept(self) -> None:
        one, other = (
            Frame(name, name, 40, 40, "#ffffff", layers=(box("a", 0, 0, 9, 9, tone),))
            for name, tone in (("A", "#ff0000"), ("B", "#00ff00"))
        )
        painter = ScenePainter()
        scene = compile_still(one).at(0.0)
        first = painter.render(scene)
        inner = QPainter(first)
        inner.fillRect(0, 0, 40, 40, Qt.GlobalColor.black)
        inner.end()
        with mock.patch.object(painter, "_rendered", wraps=painter._rendered) as painted:
            self.assertEqual(pixel(painter.render(scene), 4, 4), (255, 0, 0))
            self.assertEqual(pixel(painter.render(compile_still(one).at(0.0)), 4, 4), (255, 0, 0))
            self.assertEqual(painted.call_count, 0)
            self.assertEqual(painter.render(scene, 2.0).width(), 80)
            self.assertEqual(pixel(painter.render(compile_still(other).at(0.0)), 4, 4), (0, 255, 0))
            self.assertEqual(pixel(painter.render(scene, background=False), 30, 30), (0, 0, 0))
            self.assertEqual(painted.call_count, 3)
            moving = compile_frames(None, one, other, Transition(100.0, Line()))
            for ms in (50.0, 50.0, 60.0):
                painter.render(moving.at(ms))
            self.assertEqual(painted.call_count, 5)
            painter.render(scene)
            painter.render(scene)
            self.assertEqual(painted.call_count, 6)  # of the last one only

    def test_keeping_does_not_change_the_picture(self) -> None:
        project = build_demo(measure_text)
        program = compile_route(project, project.routes[0])
        painter = ScenePainter()
        for ms in (100.0, 200.0, 300.0):
            self.assertEqual(painter.render(program.at(ms)), ScenePainter().render(program.at(ms)))

    def test_frames_of_other_sizes(self) -> None:
        a, b = Frame("A", "A", 20, 20, "#ff0000"), Frame("B", "B", 60, 40, "#0000ff")
        program = compile_frames(None, a, b, Transition(100.0, Line()))
        image = ScenePainter().render(program.at(50.0))
        self.assertEqual((image.width(), image.height()), (40, 30))

    def test_a_mask_that_moves_away_hides(self) -> None:
        inner = (box("m", 0, 0, 10, 10), box("a", 0, 0, 40, 40, "#000000"))
        masked = group("g", 0, 0, inner)
        masked = replace(masked, body=Group(inner, mask="m"))
        image = paint(masked)
        self.assertEqual((pixel(image, 5, 5), pixel(image, 20, 20)), ((0, 0, 0), (255, 255, 255)))


class MovingPictures(unittest.TestCase):
    def test_loops_move_in_it(self) -> None:
        project = prototype()
        project, ident = add_loop(project, "A", "btn", Pose(shift_y=40.0))
        project = edit_loop(project, "A", ident, lambda old: replace(old, duration=400.0, curve=Line()))
        program = compile_route(project, project.routes[0])
        images = [ScenePainter().render(program.from_start(ms)) for ms in moments(program.duration, 20.0)]
        # At 50 ms the button stands at x 50, and lower by half of what its loop moves it.
        self.assertNotEqual(pixel(images[1], 60, 2), (255, 0, 0))
        self.assertEqual(pixel(images[1], 60, 20), (255, 0, 0))
