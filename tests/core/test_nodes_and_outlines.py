"""Nodes, combined outlines, paints as text, values taken over."""

import unittest
from typing import Any

import msgspec
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.edits import nodes
from avelt.core.edits.layers import SETTERS, read_shadows, shadow_text
from avelt.core.edits.outlines import combine, flattened, to_path
from avelt.core.edits.paints import add_stop, as_kind, ends, paint_text, read_paint, remove_stop, with_ends, with_stop
from avelt.core.edits.shapes import add_layer, new_box, new_line, new_path, new_text, used_colours
from avelt.core.edits.values import copy_value
from avelt.core.errors import AveltError, EditError, FormatError
from avelt.core.geometry import affine, arc
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import layer_index
from avelt.core.model.values import Conic, Linear, Path, Radial, Shadow, Solid, Stop, Stroke, Subpath
from tests.support import box, group, oval, project_of, text

replace = msgspec.structs.replace
share = st.floats(0.02, 0.98)


def no_text(layer: Any) -> Any:
    return []


def triangle() -> Any:
    points = [(0.0, 0.0)]
    for corner in ((60.0, 0.0), (60.0, 40.0), (0.0, 0.0)):
        from avelt.core.geometry.bezier import line_to

        points += line_to(points[-1], corner)
    layer = new_path(points, True)
    return replace(layer, id="t", origin="t", x=30.0, y=20.0, rotation=25.0, scale_x=2.0)


def on_screen(layer: Any) -> Any:
    """The outline in the parent's space."""
    matrix = affine.compose(
        [layer.x, layer.y, layer.w, layer.h, *layer.pivot, layer.rotation, layer.scale_x, layer.scale_y, layer.skew]
    )
    return [affine.apply(matrix, points) for points, _ in nodes.outline_of(layer)]


def area(points: Any) -> Any:
    """What a closed outline covers, by its chords; a hole goes reversed and counts less than nothing."""
    there = arc.at(arc.cubics(points), np.linspace(0, 1, 33)[:-1]).reshape(-1, 2)
    x, y = there.T
    return float(x @ np.roll(y, -1) - y @ np.roll(x, -1)) / 2


class Nodes(unittest.TestCase):
    @given(st.integers(0, 2), share)
    def test_a_node_more_changes_nothing_on_screen(self, segment: Any, t: Any) -> None:
        layer = triangle()
        more = nodes.add_node(layer, 0, segment, t)
        self.assertEqual(nodes.count(nodes.outline_of(more), 0), 4)
        self.assertAlmostEqual(area(on_screen(more)[0]), area(on_screen(layer)[0]), places=5)
        less = nodes.remove_node(more, 0, segment + 1)
        self.assertAlmostEqual(area(on_screen(less)[0]), area(on_screen(layer)[0]), places=4)

    def test_only_what_is_moved_moves(self) -> None:
        layer = triangle()
        moved = nodes.move_node(layer, 0, 1, 10, -30)
        before, after = on_screen(layer)[0], on_screen(moved)[0]
        np.testing.assert_allclose(after[[0, 6, 9]], before[[0, 6, 9]], atol=1e-6)
        self.assertGreater(np.abs(after[3] - before[3]).max(), 5)
        self.assertEqual((moved.rotation, moved.scale_x, moved.h), (25.0, 2.0, 70.0))

    def test_the_seam_of_a_closed_part_is_one_node(self) -> None:
        moved = nodes.outline_of(nodes.move_node(triangle(), 0, 0, 5, 5))[0][0]
        np.testing.assert_allclose(moved[0], moved[-1])
        self.assertEqual(nodes.count([(moved, True)], 0), 3)

    def test_smooth_corner_and_mirrored_handles(self) -> None:
        soft = nodes.smooth_node(triangle(), 0, 1)
        points = nodes.outline_of(soft)[0][0]
        self.assertTrue(nodes.is_smooth(points, 3, True))
        self.assertFalse(nodes.is_smooth(nodes.outline_of(nodes.corner_node(soft, 0, 1))[0][0], 3, True))
        turned = nodes.outline_of(nodes.move_handle(soft, 0, 4, 80, 30, True))[0][0]
        self.assertTrue(nodes.is_smooth(turned, 3, True))
        loose = nodes.outline_of(nodes.move_handle(soft, 0, 4, 80, 30, False))[0][0]
        self.assertFalse(nodes.is_smooth(loose, 3, True))

    def test_break_close_and_start(self) -> None:
        layer = triangle()
        opened = nodes.break_node(layer, 0, 1)
        self.assertFalse(nodes.outline_of(opened)[0][1])
        np.testing.assert_allclose(on_screen(opened)[0][0], on_screen(layer)[0][3], atol=1e-6)
        two = nodes.break_node(opened, 0, 1)
        self.assertEqual([nodes.count(nodes.outline_of(two), k) for k in (0, 1)], [2, 3])
        self.assertTrue(nodes.outline_of(nodes.close_part(opened, 0))[0][1])
        self.assertAlmostEqual(area(on_screen(nodes.set_start(layer, 0, 2))[0]), area(on_screen(layer)[0]), places=6)
        with self.assertRaises(EditError):
            nodes.set_start(opened, 0, 1)

    def test_the_last_nodes_cannot_go(self) -> None:
        line = replace(new_line(0, 0, 10, 10), id="l")
        with self.assertRaises(EditError):
            nodes.remove_node(line, 0, 0)
        with self.assertRaisesRegex(EditError, "no nodes"):
            nodes.outline_of(box("a", 0, 0, 5, 5))

    def test_the_nearest_place_on_an_outline(self) -> None:
        sub, segment, t, away = nodes.nearest(nodes.outline_of(triangle()), 30, -4)
        self.assertEqual((sub, segment, away), (0, 0, 4.0))
        self.assertAlmostEqual(t, 0.5, delta=0.02)


class Outlines(unittest.TestCase):
    def pair(self) -> Any:
        return project_of((box("a", 0, 0, 40, 40), box("b", 20, 20, 40, 40, "#ff0000"), box("c", 100, 0, 5, 5)), ())

    def test_areas_of_the_four_combinations(self) -> None:
        for how, wanted in (("union", 2800), ("subtract", 1200), ("intersect", 400), ("exclude", 2400)):
            with self.subTest(how):
                project = combine(self.pair(), "A", ["a", "b"], how, no_text)
                index = layer_index(project.frames[0])
                self.assertEqual(list(index), ["a", "c"])
                made = index["a"]
                self.assertEqual((made.fills, made.origin), ((Solid("#336699"),), "a"))
                total = sum(area(points) for points, _ in nodes.outline_of(made))
                self.assertAlmostEqual(abs(total), wanted, places=2)

    def test_turned_and_nested_layers_combine_where_they_are_seen(self) -> None:
        project = project_of(
            (box("a", 0, 0, 40, 40, rotation=90.0), group("g", 10, 10, (oval("o", 0, 0, 20, 20),))), ()
        )
        made = layer_index(combine(project, "A", ["a", "o"], "subtract", no_text).frames[0])["a"]
        total = sum(area(points) for points, _ in nodes.outline_of(made))
        self.assertAlmostEqual(abs(total), 1600 - 314.16, delta=1.0)

    def test_nothing_left_is_said(self) -> None:
        far = project_of((box("a", 0, 0, 4, 4), box("b", 50, 50, 4, 4)), ())
        with self.assertRaisesRegex(EditError, "Nothing is left"):
            combine(far, "A", ["a", "b"], "intersect", no_text)

    def test_a_flattened_group_covers_what_was_seen(self) -> None:
        line = replace(new_line(0, 0, 40, 0), id="l", origin="l", stroke=Stroke(Solid("#000000"), 4.0))
        inner = group(
            "g", 10, 10, (box("a", 0, 10, 20, 20), box("b", 10, 10, 20, 20), line, box("h", 0, 60, 9, 9, hidden=True))
        )
        project = flattened(project_of((inner,), ()), "A", "g", no_text)
        (made,) = project.frames[0].layers
        self.assertIsInstance(made.body, Path)
        self.assertAlmostEqual(abs(sum(area(p) for p, _ in nodes.outline_of(made))), 600 + 160, delta=0.5)
        self.assertEqual((made.id, made.fills, made.x, made.y), ("g", (Solid("#336699"),), 10, 8))

    def test_boxes_and_ovals_become_paths_in_place(self) -> None:
        project = project_of((box("a", 5, 6, 40, 30, rotation=20.0), oval("o", 0, 0, 20, 20), text("t", "Hi")), ())
        made = to_path(project, "A", ["a", "o"], no_text)
        before, after = flatten(project.frames[0]), flatten(made.frames[0])
        np.testing.assert_allclose(after.bounds[:2], before.bounds[:2], atol=1e-4)
        with self.assertRaises(EditError):
            to_path(made, "A", ["a"], no_text)


class Paints(unittest.TestCase):
    def test_what_is_shown_can_be_typed_again(self) -> None:
        for words in (
            "#ff8800",
            "rgb(1 2 3 / 0.5)",
            "linear-gradient(90deg, #ff0000 0%, #0000ff 100%)",
            "linear-gradient(33.5deg, #ff0000 10%, #00ff00 50%, #0000ff 100%)",
            "radial-gradient(#ff0000 0%, #0000ff 100%)",
            "conic-gradient(#ff0000 0%, #0000ff 100%)",
        ):
            with self.subTest(words):
                self.assertEqual(paint_text(read_paint(words, 80, 30), 80, 30), words)
        self.assertIsNone(read_paint("none", 1, 1))

    def test_directions_of_css(self) -> None:
        to_right = read_paint("linear-gradient(to right, red, blue)", 80, 40)
        self.assertEqual(ends(to_right), ((0.0, 0.5), (1.0, 0.5)))
        corner = read_paint("linear-gradient(to bottom right, red, white, blue)", 80, 40)
        self.assertEqual([stop.at for stop in corner.stops], [0, 0.5, 1])
        # The line through the two other corners has the middle colour: both are square to the direction.
        (x0, y0), (x1, y1) = ends(corner)
        self.assertAlmostEqual((x1 - x0) * 80 * 80 + (y1 - y0) * 40 * -40, 0.0, places=6)

    def test_nonsense(self) -> None:
        for words in ("linear-gradient(red)", "wobble-gradient(red, blue)", "#12", "linear-gradient(to nowhere, red)"):
            with self.assertRaises(FormatError):
                read_paint(words, 10, 10)

    @given(st.tuples(share, share, share, share))
    def test_ends_are_where_they_are_put(self, places: Any) -> None:
        a, b, c, d = places
        if np.hypot(a - c, b - d) < 0.05:
            return
        stops = (Stop(0, "#fff"), Stop(1, "#000"))
        for paint in (Linear(stops), Radial(stops), Conic(stops)):
            start, end = ends(with_ends(paint, (a, b), (c, d), 70, 30))
            np.testing.assert_allclose((*start, *end), places, atol=1e-9)

    def test_stops(self) -> None:
        paint = read_paint("linear-gradient(0deg, #000000, #ffffff)", 10, 10)
        more = add_stop(paint, 0.5)
        self.assertEqual((more.stops[1].at, more.stops[1].color), (0.5, "#808080"))
        self.assertEqual(with_stop(more, 1, at=7.0).stops[1].at, 1.0)
        self.assertEqual(remove_stop(more, 1), paint)
        with self.assertRaises(EditError):
            remove_stop(paint, 0)
        self.assertEqual(as_kind(paint, "solid", 10, 10), Solid("#000000"))
        self.assertEqual(len(as_kind(Solid("#336699"), "radial", 10, 10).stops), 2)

    def test_shadows(self) -> None:
        found = read_shadows("0 4 12 rgb(0 0 0 / .25), inset 1px 1px red")
        self.assertEqual(found, (Shadow("rgb(0 0 0 / 0.25)", 0, 4, 12), Shadow("#ff0000", 1, 1, 0, True)))
        self.assertEqual(read_shadows(", ".join(shadow_text(s) for s in found)), found)
        with self.assertRaises(FormatError):
            read_shadows("4")


class Values(unittest.TestCase):
    def test_every_setter_refuses_nonsense_with_a_sentence(self) -> None:
        for name, setter in SETTERS.items():
            for layer in (box("a", 0, 0, 10, 10), text("t", "Hi"), group("g", 0, 0, ())):
                if name in ("name", "words"):
                    continue
                with self.subTest(name=name, kind=layer.kind), self.assertRaises((AveltError, ValueError)):
                    setter(layer, "wobble!")

    def test_what_is_typed(self) -> None:
        layer = box("a", 0, 0, 10, 10)
        self.assertEqual(SETTERS["corner"](layer, "1 2 3 4").body.radii, (1, 2, 3, 4))
        lined = SETTERS["stroke"](layer, "red")
        lined = SETTERS["line"](SETTERS["trim"](lined, "10 60 5"), "round, 4 2")
        self.assertEqual((lined.stroke.trim_start, lined.stroke.trim_end, lined.stroke.trim_offset), (0.1, 0.6, 0.05))
        self.assertEqual((lined.stroke.cap, lined.stroke.join, lined.stroke.dashes), ("round", "round", (4, 2)))
        self.assertEqual(SETTERS["blend"](layer, "Soft light").blend, "soft-light")
        kept = SETTERS["pivot"](replace(layer, rotation=40.0), "0, 100")
        self.assertEqual(kept.pivot, (0.0, 1.0))
        self.assertEqual(SETTERS["words"](text("t", "Hi"), "Two\\nlines").body.words, "Two\nlines")
        with self.assertRaisesRegex(EditError, "no stroke"):
            SETTERS["trim"](layer, "0 50")

    def test_one_value_goes_to_many_and_the_others_stay(self) -> None:
        project = project_of(
            (box("a", 1, 2, 30, 40, opacity=0.5),),
            (group("g", 50, 50, (box("b", 5, 5, 10, 10, "#ff0000"),), scale_x=2.0),),
        )
        spots = [("B", "b"), ("B", "g")]
        made = copy_value(project, ("A", "a"), spots, "opacity")
        self.assertEqual([layer_index(made.frames[1])[i].opacity for i in ("b", "g")], [0.5, 0.5])
        placed = copy_value(project, ("A", "a"), [("B", "b")], "position")
        flat = flatten(placed.frames[1])
        np.testing.assert_allclose(flat.bounds[flat.index["b"]][:2], (1, 2), atol=1e-9)
        sized = copy_value(project, ("A", "a"), [("B", "b")], "size")
        self.assertEqual(layer_index(sized.frames[1])["b"].h, 40)
        with self.assertRaisesRegex(EditError, "no such value"):
            copy_value(project, ("A", "a"), [("B", "g")], "corner")

    def test_new_layers_and_the_colours_in_use(self) -> None:
        project = project_of((group("g", 50, 0, (box("a", 0, 0, 5, 5),), scale_x=2.0),), ())
        project, first = add_layer(project, "A", new_box(10, 10, 20, 20))
        project, second = add_layer(project, "A", new_text(60, 0, "Hello", 44), "g")
        flat = flatten(project.frames[0])
        np.testing.assert_allclose(flat.bounds[flat.index[second]][:2], (60, 0), atol=1e-9)
        self.assertEqual(layer_index(project.frames[0])[second].name, "Text 'Hello'")
        self.assertIn("#8fb6b0", used_colours(project))
        self.assertEqual(layer_index(project.frames[0])[first].origin, first)

    def test_an_open_path_with_a_closed_flag_gets_its_last_side(self) -> None:
        layer = replace(
            box("p", 0, 0, 10, 10), body=Path((Subpath((0, 0, 1, 0, 9, 0, 10, 0, 10, 1, 10, 9, 10, 10), True),))
        )
        points = nodes.outline_of(layer)[0][0]
        np.testing.assert_allclose(points[0], points[-1])
