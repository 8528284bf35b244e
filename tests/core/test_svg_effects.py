"""SVG files in: filters, blend modes, patterns, markers, windows, and what is painted in which order."""

import unittest
from typing import Any

import numpy as np

from avelt.core.errors import FormatError
from avelt.core.formats.css_shadow import css_shadow
from avelt.core.formats.svg_filter import css_functions
from avelt.core.formats.svg_marker import stands
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import find_layer
from avelt.core.model.values import Group, Pattern, Picture, Shadow, Solid
from tests.core.test_svg_in import one, read, says

BOX = '<rect id="r" width="50" height="40" filter="url(#f)"/>'


def filtered(inner: str, attrs: str = "", element: str = BOX) -> Any:
    """The layer that a filter was put on."""
    frame = read(f'<filter id="f" x="-9" y="-9" width="19" height="19" {attrs}>{inner}</filter>{element}').frame
    return find_layer(frame, "r")


class Filters(unittest.TestCase):
    def test_a_blur(self) -> None:
        self.assertEqual(filtered('<feGaussianBlur stdDeviation="3"/>').blur, 3.0)
        self.assertEqual(filtered('<feGaussianBlur stdDeviation="2"/><feGaussianBlur stdDeviation="1.5"/>').blur, 2.5)

    def test_a_blur_grows_with_the_scale_that_is_worked_in(self) -> None:
        layer = filtered('<feGaussianBlur stdDeviation="3"/>', "", f'<g transform="scale(2)">{BOX}</g>')
        self.assertEqual((layer.w, layer.blur), (100.0, 6.0))

    def test_a_drop_shadow(self) -> None:
        layer = filtered('<feDropShadow dx="1" dy="4" stdDeviation="3" flood-color="#f00" flood-opacity=".5"/>')
        self.assertEqual(layer.shadows, (Shadow("rgb(255 0 0 / 0.5)", 1, 4, 3),))

    def test_the_chain_of_offset_blur_colour_and_merge(self) -> None:
        layer = filtered(
            '<feGaussianBlur in="SourceAlpha" stdDeviation="2" result="b"/><feOffset in="b" dx="3" dy="5" result="o"/>'
            '<feFlood flood-color="#00f" flood-opacity=".25"/><feComposite in2="o" operator="in"/>'
            '<feMerge><feMergeNode/><feMergeNode in="SourceGraphic"/></feMerge>'
        )
        self.assertEqual(layer.shadows, (Shadow("rgb(0 0 255 / 0.25)", 3, 5, 2),))

    def test_the_chain_by_colour_matrix_with_an_inner_shadow(self) -> None:
        hard = '<feColorMatrix in="SourceAlpha" values="0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 127 0" result="h"/>'
        layer = filtered(
            f'<feFlood flood-opacity="0" result="bg"/>{hard}<feOffset dy="4"/><feGaussianBlur stdDeviation="2"/>'
            '<feComposite in2="h" operator="out"/>'
            '<feColorMatrix values="0 0 0 0 1 0 0 0 0 0 0 0 0 0 0 0 0 0 0.2 0"/><feBlend in2="bg" result="drop"/>'
            f'<feBlend in="SourceGraphic" in2="drop" result="shape"/>{hard}<feOffset dx="-1"/>'
            '<feGaussianBlur stdDeviation="3"/><feComposite in2="h" operator="arithmetic" k2="-1" k3="1"/>'
            '<feColorMatrix values="0 0 0 0 1 0 0 0 0 1 0 0 0 0 1 0 0 0 0.5 0"/><feBlend in2="shape"/>',
            'color-interpolation-filters="sRGB"',
        )
        outer, inner = layer.shadows
        self.assertEqual(outer, Shadow("rgb(255 0 0 / 0.2)", 0, 4, 2))
        self.assertEqual(inner, Shadow("rgb(255 255 255 / 0.5)", -1, 0, 3, True))

    def test_colours_of_a_matrix_are_linear_light_unless_it_says_otherwise(self) -> None:
        matrix = '<feColorMatrix in="SourceAlpha" values="0 0 0 0 .2140 0 0 0 0 0 0 0 0 0 0 0 0 0 1 0"/><feMerge><feMergeNode/><feMergeNode in="SourceGraphic"/></feMerge>'
        self.assertEqual(filtered(matrix).shadows[0].color, "#7f0000")

    def test_what_has_no_equal_is_named_and_left_out(self) -> None:
        for inner, words in (
            ("<feTurbulence/>", "feTurbulence"),
            ('<feColorMatrix type="saturate" values="0"/>', "colours"),
            ('<feOffset dx="4"/>', "moves"),
            ('<feGaussianBlur stdDeviation="x y"/><feComposite operator="xor" in2="SourceGraphic"/>', "xor"),
        ):
            with self.subTest(inner):
                self.assertIn(words, says(f'<filter id="f">{inner}</filter>{BOX}'))

    def test_only_a_shadow_is_the_shape_in_one_colour(self) -> None:
        layer = filtered('<feOffset in="SourceAlpha" dy="2"/><feGaussianBlur stdDeviation="1"/>')
        self.assertEqual((layer.fills, layer.y, layer.blur), ((Solid("#000000"),), 2.0, 1.0))

    def test_a_region_that_is_seen_to_cut_clips(self) -> None:
        frame = read(f'<filter id="f"><feGaussianBlur stdDeviation="20"/></filter>{BOX}').frame
        (outer,) = frame.layers
        self.assertTrue(outer.body.clips)
        self.assertEqual((outer.x, outer.y, outer.w, outer.h), (-5, -4, 60, 48))

    def test_css_functions(self) -> None:
        ids, effects = css_functions("url(#a) blur(2px) drop-shadow(0 4px 6px rgb(0 0 0 / .5)) opacity(50%)", 16)
        self.assertEqual((ids, effects.blur, effects.opacity), (["a"], 2.0, 0.5))
        self.assertEqual(effects.shadows, (Shadow("rgb(0 0 0 / 0.5)", 0, 4, 6),))
        for text in ("sepia(1)", "blur(x)", "7"):
            with self.assertRaises(FormatError):
                css_functions(text, 16)
        self.assertTrue(css_shadow("inset 1px 2px red").inner)


class Mixing(unittest.TestCase):
    def test_blend_modes_and_isolation(self) -> None:
        frame = read(
            '<g style="isolation:isolate"><rect id="r" width="5" height="5" style="mix-blend-mode:multiply"/></g>'
        ).frame
        self.assertEqual(find_layer(frame, "r").blend, "multiply")
        self.assertTrue(frame.layers[0].body.isolates and frame.isolates)
        self.assertFalse(read('<rect width="5" height="5" style="mix-blend-mode:normal"/>').frame.isolates)
        self.assertIn("wobble", says('<rect width="5" height="5" style="mix-blend-mode:wobble"/>'))

    def test_filter_then_clip_then_opacity(self) -> None:
        (outer,) = read(
            '<clipPath id="c"><rect width="20" height="20"/></clipPath>'
            '<g id="g" filter="drop-shadow(0 2px 3px #000)" clip-path="url(#c)" opacity=".5" style="mix-blend-mode:screen">'
            '<rect width="40" height="40"/></g>'
        ).frame.layers
        self.assertEqual((outer.opacity, outer.blend, outer.shadows), (0.5, "screen", ()))
        self.assertTrue(outer.body.mask)
        self.assertEqual(len(outer.children[1].shadows), 1)

    def test_paint_order_and_lines_that_keep_their_width(self) -> None:
        self.assertTrue(one('<rect width="5" height="5" stroke="red" paint-order="stroke"/>').stroke.under)
        self.assertFalse(one('<rect width="5" height="5" stroke="red" paint-order="fill stroke"/>').stroke.under)
        fixed = 'stroke="red" stroke-width="2" vector-effect="non-scaling-stroke"'
        self.assertEqual(
            one(f'<rect width="5" height="5" {fixed}/>', 'width="100" height="100" viewBox="0 0 10 10"').stroke.width, 2
        )
        baked = one(f'<g transform="scale(4 1)"><circle cx="5" cy="5" r="5" {fixed}/></g>')
        (inner,) = baked.children
        self.assertEqual((inner.stroke.width, inner.w, inner.h, baked.scale_x), (2.0, 40.0, 10.0, 1.0))


class Shapes(unittest.TestCase):
    def test_css_shapes_clip(self) -> None:
        for text, box_ in (
            ("circle(40px at 50px 50px)", (10, 10, 80, 80)),
            ("inset(10px 20px 30px 5px)", (5, 10, 75, 60)),
            ("ellipse(25% 10%)", (25, 40, 50, 20)),
            ("polygon(0 0, 50% 0, 0 50%)", (0, 0, 50, 50)),
        ):
            with self.subTest(text):
                layer = one(f'<rect width="100" height="100" style="clip-path:{text}"/>')
                mask = next(c for c in layer.children if c.id == layer.body.mask)
                np.testing.assert_allclose((layer.x, layer.y, layer.w, layer.h), box_, atol=0.02)
                np.testing.assert_allclose((mask.x, mask.y, mask.w, mask.h), (0, 0, *box_[2:]), atol=0.02)
        self.assertIn("not supported", says('<rect width="9" height="9" style="clip-path:wobble(3)"/>'))

    def test_an_ellipses_dashes_begin_where_svg_begins_it(self) -> None:
        layer = one('<circle cx="50" cy="50" r="10" stroke="red" stroke-dasharray="4" stroke-dashoffset="1"/>')
        points = np.array(layer.body.subpaths[0].points).reshape(-1, 2)
        np.testing.assert_allclose(points[[0, 3, -1]], [(20, 10), (10, 20), (20, 10)], atol=1e-9)
        self.assertEqual((layer.kind, layer.stroke.dash_offset), ("path", 1))


class Letters(unittest.TestCase):
    def test_letters_with_places_of_their_own(self) -> None:
        layer = one('<text id="T" font-size="10" y="40" x="5 30 60">abc</text>')
        self.assertEqual([(c.body.words, layer.x + c.x) for c in layer.children], [("a", 5), ("b", 30), ("c", 60)])
        natural = one('<text font-size="10" y="40" x="5 10.6">ab</text>')
        self.assertEqual((natural.kind, natural.body.words), ("text", "ab"))

    def test_turned_letters_and_letters_on_a_path(self) -> None:
        turned = one('<text font-size="10" x="10" y="40" rotate="20">ab</text>')
        self.assertEqual([c.rotation for c in turned.children], [20, 20])
        frame = read(
            '<path id="p" d="M0 50H40V100"/><text font-size="10"><textPath href="#p" startOffset="30">wave</textPath></text>'
        ).frame
        layer = frame.layers[1]
        self.assertEqual((layer.name, "".join(c.body.words for c in layer.children)), ("Text 'wave'", "wave"))
        self.assertEqual((layer.children[0].rotation, layer.children[-1].rotation), (0, 90))
        self.assertIn("set straight", says('<text><textPath href="#no">x</textPath></text>'))


class Patterns(unittest.TestCase):
    def test_units_and_transform(self) -> None:
        layer = one(
            '<pattern id="p" x="5" y="0" width="10" height="20" patternUnits="userSpaceOnUse" patternTransform="scale(2)">'
            '<circle cx="10" cy="5" r="5"/></pattern><rect x="20" y="20" width="40" height="80" fill="url(#p)"/>'
        )
        (paint,) = layer.fills
        self.assertIsInstance(paint, Pattern)
        self.assertEqual((paint.w, paint.h), (10, 20))
        # The tile's corner 5, 0 stands at 10, 0 of the drawing, and its px are twice as large.
        np.testing.assert_allclose(paint.matrix, (2 / 40, 0, 0, 2 / 80, (10 - 20) / 40, -20 / 80))
        (dot,) = paint.layers
        self.assertEqual((dot.x, dot.y, dot.w), (0, 0, 10))

    def test_shares_of_the_box_and_a_view_box(self) -> None:
        layer = one(
            '<pattern id="p" width=".5" height=".25" viewBox="0 0 4 4"><rect width="4" height="4"/></pattern>'
            '<rect width="40" height="80" fill="url(#p)" fill-opacity=".5"/>'
        )
        (paint,) = layer.fills
        self.assertEqual((paint.w, paint.h), (20, 20))
        self.assertEqual((paint.layers[0].opacity, paint.layers[0].children[0].w), (0.5, 20))

    def test_a_picture_fill(self) -> None:
        from tests.core.test_svg_in import EmbeddedPictures

        imported = read(
            '<pattern id="p" width="1" height="1" patternContentUnits="objectBoundingBox"><image width="1" height="1" '
            f'href="data:image/png;base64,{EmbeddedPictures.PIXEL}"/></pattern><rect width="9" height="9" fill="url(#p)"/>'
        )
        (paint,) = imported.frame.layers[0].fills
        self.assertIsInstance(paint.layers[0].body, Picture)
        self.assertEqual((paint.layers[0].w, paint.layers[0].h), (9, 9))

    def test_a_pattern_of_itself_and_one_without_size(self) -> None:
        self.assertIn(
            "itself",
            says(
                '<pattern id="p" width="1" height="1"><rect width="1" height="1" fill="url(#p)"/></pattern><rect width="9" height="9" fill="url(#p)"/>'
            ),
        )
        self.assertEqual(
            one(
                '<pattern id="p" width="0" height="1"><rect/></pattern><rect width="9" height="9" fill="url(#p)"/>'
            ).fills,
            (),
        )


class Markers(unittest.TestCase):
    ARROW = '<marker id="m" viewBox="0 0 10 10" refX="10" refY="5" markerWidth="5" markerHeight="5" orient="auto"><path d="M0 0L10 5L0 10z"/></marker>'

    def test_where_they_stand_and_how_they_are_turned(self) -> None:
        corner = np.array([(0, 0), (3, 0), (6, 0), (10, 0), (10, 3), (10, 6), (10, 10)], float)
        found = stands([(corner, False)])
        self.assertEqual(
            [(s.role, s.x, s.y, s.angle) for s in found], [("start", 0, 0, 0), ("mid", 10, 0, 45), ("end", 10, 10, 90)]
        )

    def test_an_arrow_at_the_end_of_a_line(self) -> None:
        group = one(
            f'{self.ARROW}<line id="l" x1="10" y1="50" x2="60" y2="50" stroke="red" stroke-width="2" marker-end="url(#m)"/>'
        )
        line, arrow = group.children
        self.assertEqual((group.name, line.kind), ("l", "path"))
        frame = read(
            f'{self.ARROW}<line id="l" x1="10" y1="50" x2="60" y2="50" stroke="red" stroke-width="2" marker-end="url(#m)"/>'
        ).frame
        flat = flatten(frame)
        # Ten px wide and high (5 x 5 strokes of 2), its tip at the line's end.
        np.testing.assert_allclose(flat.bounds[flat.index[arrow.id]], (50, 45, 10, 10), atol=1e-9)

    def test_a_marker_that_is_missing_is_named(self) -> None:
        self.assertIn("marker", says('<line x2="5" marker-mid="url(#nowhere)" stroke="red"/>'))


class Windows(unittest.TestCase):
    def test_what_stands_out_of_a_nested_drawing_is_clipped(self) -> None:
        layer = one('<svg x="10" y="10" width="20" height="20"><rect x="-5" width="50" height="10"/></svg>')
        self.assertTrue(layer.body.clips)
        self.assertEqual((layer.x, layer.y, layer.w, layer.h, layer.children[0].x), (10, 10, 20, 20, -5))
        self.assertFalse(one('<svg x="10" width="20" height="20"><rect width="20" height="10"/></svg>').body.clips)
        self.assertFalse(
            one('<svg width="20" height="20" overflow="visible"><rect width="50" height="10"/></svg>').body.clips
        )

    def test_a_symbol_in_its_window(self) -> None:
        layer = one(
            '<symbol id="s" viewBox="0 0 10 10"><circle cx="5" cy="5" r="8"/></symbol><use href="#s" width="40" height="40"/>'
        )
        self.assertTrue(layer.body.clips)
        self.assertEqual((layer.w, layer.h), (40, 40))


class Styles(unittest.TestCase):
    def test_variables_and_transform_origin(self) -> None:
        layer = one(
            '<g style="--tone: #f00"><rect width="4" height="4" style="fill:var(--tone);stroke:var(--no, #00f)"/></g>'
        ).children[0]
        self.assertEqual((layer.fills[0].color, layer.stroke.paint.color), ("#ff0000", "#0000ff"))
        turned = one(
            '<rect width="20" height="20" style="transform:rotate(90deg);transform-origin:center;transform-box:fill-box"/>'
        )
        np.testing.assert_allclose((turned.x, turned.y, turned.rotation), (0, 0, 90), atol=1e-9)

    def test_names_that_several_share_are_told(self) -> None:
        imported = read('<g data-name="Card"/><g data-name="Card"/>')
        (note,) = imported.report.notes
        self.assertEqual((note.what, note.says), ("named twice", "several layers are called “Card” (2)"))
        self.assertIsInstance(imported.frame.layers[0].body, Group)
