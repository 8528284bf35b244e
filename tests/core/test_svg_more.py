"""SVG files in, the corners: every filter primitive, selectors, markers, windows, letters, and drawings as programs write them."""

import math
import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.errors import FormatError
from avelt.core.formats import css_shape, svg_marker, xml_tree
from avelt.core.formats.css_shadow import css_shadow
from avelt.core.formats.report import Notes
from avelt.core.formats.svg_filter import Effects, evaluated
from avelt.core.formats.svg_style import Sheet
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import find_layer, walk
from avelt.core.model.values import Group, Pattern, Shadow, Solid
from tests.core.test_svg_in import one, read, says

HEAD = '<svg xmlns="http://www.w3.org/2000/svg"><filter id="f" {}>{}</filter></svg>'
ALPHA = '<feColorMatrix in="SourceAlpha" values="0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 127 0" result="hard"/>'


def worked(inner: str, attrs: str = "", box: Any = (0.0, 0.0, 100.0, 50.0)) -> Effects:
    """What a filter comes to over a box."""
    root = xml_tree.parse(HEAD.format(attrs, inner).encode(), "x")
    node = next(root.children())
    return evaluated(node, Sheet(root, Notes()), box)


class Primitives(unittest.TestCase):
    def test_what_each_comes_to(self) -> None:
        graphic = '<feMerge><feMergeNode/><feMergeNode in="SourceGraphic"/></feMerge>'
        cases = {
            '<feGaussianBlur stdDeviation="4 4"/>': Effects(4.0),
            '<feGaussianBlur stdDeviation="-3"/>': Effects(),
            '<feColorMatrix type="saturate" values="1"/>': Effects(),
            '<feColorMatrix type="hueRotate" values="360"/>': Effects(),
            '<feColorMatrix values="1 0 0 0 0 0 1 0 0 0 0 0 1 0 0 0 0 0 .25 0"/>': Effects(opacity=0.25),
            '<feComponentTransfer><feFuncA type="linear" slope=".5"/></feComponentTransfer>': Effects(opacity=0.5),
            '<feComponentTransfer><feFuncA type="table" tableValues="0 .4"/></feComponentTransfer>': Effects(
                opacity=0.4
            ),
            '<feOffset in="SourceAlpha" dx="2"/>' + graphic: Effects(shadows=(Shadow("#000000", 2.0),)),
            '<feFlood flood-color="red"/><feComposite in2="SourceAlpha" operator="in"/><feOffset dy="3"/>'
            + graphic: Effects(shadows=(Shadow("#ff0000", 0.0, 3.0),)),
            '<feBlend in="SourceGraphic" in2="nothing" mode="normal"/>': None,
            '<feFlood flood-opacity="0"/><feBlend in="SourceGraphic" mode="multiply"/>': Effects(),
            '<feComposite operator="over" in2="SourceGraphic" in="BackgroundImage"/>': Effects(),
            '<feComposite operator="arithmetic" k2="1" in2="SourceAlpha"/>': Effects(),
            "": Effects(opacity=0.0),
            '<feFlood flood-opacity="0"/>': Effects(opacity=0.0),
        }
        for inner, wanted in cases.items():
            with self.subTest(inner):
                found = worked(inner)
                if wanted is not None:
                    self.assertEqual(
                        (found.blur, found.shadows, found.opacity, found.tone),
                        (wanted.blur, wanted.shadows, wanted.opacity, ""),
                    )

    def test_ways_to_an_inner_shadow(self) -> None:
        ways = (
            '<feOffset dy="3"/><feGaussianBlur stdDeviation="2" result="b"/><feComposite in="SourceGraphic" in2="b" operator="out"/>'
            '<feColorMatrix values="0 0 0 0 1 0 0 0 0 0 0 0 0 0 0 0 0 0 .5 0"/><feBlend in2="SourceGraphic"/>',
            '<feComponentTransfer in="SourceAlpha"><feFuncA type="table" tableValues="1 0"/></feComponentTransfer>'
            '<feGaussianBlur stdDeviation="2"/><feOffset dy="3" result="o"/><feFlood flood-color="red" flood-opacity=".5"/>'
            '<feComposite in2="o" operator="in"/><feComposite in2="SourceAlpha" operator="in"/>'
            '<feMerge><feMergeNode in="SourceGraphic"/><feMergeNode/></feMerge>',
            f'{ALPHA}<feOffset dy="3"/><feGaussianBlur stdDeviation="2"/><feComposite in2="hard" operator="arithmetic" k2="-1" k3="1"/>'
            '<feColorMatrix values="0 0 0 0 1 0 0 0 0 0 0 0 0 0 0 0 0 0 .5 0"/><feBlend in2="SourceGraphic"/>',
        )
        for inner in ways:
            with self.subTest(inner[:40]):
                (shadow,) = worked(inner, 'color-interpolation-filters="sRGB"').shadows
                self.assertEqual(shadow, Shadow("rgb(255 0 0 / 0.5)", 0, 3, 2, True))

    def test_shares_of_the_box_and_uneven_blurs(self) -> None:
        found = worked('<feGaussianBlur stdDeviation=".1 .1"/>', 'primitiveUnits="objectBoundingBox"')
        self.assertAlmostEqual(found.blur, math.sqrt(10 * 5))
        self.assertIn("even", found.notes[0])
        moved = worked('<feDropShadow dx=".1" dy=".2" stdDeviation=".02"/>', 'primitiveUnits="objectBoundingBox"')
        self.assertEqual((moved.shadows[0].x, moved.shadows[0].y, moved.shadows[0].blur), (10, 10, 2))

    def test_a_blur_over_all_is_taken_off_the_shadows_own(self) -> None:
        found = worked(
            '<feGaussianBlur stdDeviation="3" result="g"/><feDropShadow in="g" dx="4" dy="0" stdDeviation="4"/>'
        )
        self.assertEqual((found.blur, round(found.shadows[0].blur, 6)), (3.0, 4.0))
        twice = worked('<feDropShadow dx="4" dy="0" stdDeviation="4"/><feGaussianBlur stdDeviation="3"/>')
        self.assertEqual((twice.blur, twice.shadows[0].blur), (3.0, 4.0))

    def test_what_cannot_be_said_says_why(self) -> None:
        for inner, words in (
            ('<feComponentTransfer><feFuncR type="linear" slope="2"/></feComponentTransfer>', "colours"),
            ('<feComponentTransfer><feFuncA type="gamma" exponent="2"/></feComponentTransfer>', "transparency"),
            ('<feColorMatrix type="luminanceToAlpha"/>', "colours"),
            ('<feColorMatrix values="1 0 0 0 0 0 1 0 0 0 0 0 1 0 0 .2 .7 .1 0 0"/>', "transparency from colours"),
            ('<feComposite in2="SourceAlpha" operator="arithmetic" k1="1"/>', "pixels"),
            ('<feFlood/><feBlend in="SourceGraphic" mode="screen"/>', "blends"),
            ('<feMorphology radius="2"/><feImage/>', "feImage"),
            ("<feMerge>" + '<feMergeNode in="SourceGraphic"/>' * 80 + "</feMerge>", "too much"),
            (
                '<feFlood result="a"/><feMerge><feMergeNode in="SourceGraphic"/><feMergeNode in="a"/></feMerge>',
                "neither a shadow",
            ),
        ):
            with self.subTest(words), self.assertRaisesRegex(FormatError, words):
                worked(inner)
        self.assertIn("keeps its size", worked('<feMorphology radius="2"/>').notes[0])


class Selectors(unittest.TestCase):
    def colours(self, css: str, inner: str) -> list[Any]:
        frame = read(f"<style>{css}</style>{inner}").frame
        return [
            layer.fills[0].color if layer.fills else None
            for layer in walk(frame.layers)
            if not isinstance(layer.body, Group)
        ]

    def test_places_and_their_weight(self) -> None:
        inner = "<g><rect width='1' height='1'/><rect width='1' height='1' class='k'/><rect width='1' height='1'/></g>"
        found = self.colours("rect:first-child{fill:#f00}rect:last-child{fill:#00f}.k{fill:#0f0}", inner)
        self.assertEqual(found, ["#ff0000", "#00ff00", "#0000ff"])
        self.assertEqual(
            self.colours(":root{color:#123456}rect{fill:currentColor}", "<rect width='1' height='1'/>"), ["#123456"]
        )

    def test_variables_are_inherited_nested_and_can_be_missing(self) -> None:
        css = ":root{--a:#f00;--b:var(--a)}rect{fill:var(--b)}#x{fill:var(--none, var(--a))}"
        self.assertEqual(
            self.colours(css, "<rect width='1' height='1'/><rect id='x' width='1' height='1'/>"), ["#ff0000"] * 2
        )
        self.assertEqual(self.colours("rect{fill:var(--gone)}", "<rect width='1' height='1'/>"), [None])

    def test_what_is_not_known_is_named(self) -> None:
        self.assertIn("nth-child", says("<style>rect:nth-child(2){fill:red}</style><rect width='1' height='1'/>"))
        self.assertIn("@media", says("<style>@media print{rect{fill:red}}</style><rect width='1' height='1'/>"))


class Markers(unittest.TestCase):
    def test_angles_of_closed_parts_and_of_handles_that_lie_on_nodes(self) -> None:
        square = np.array(
            [(0, 0), (0, 0), (10, 0), (10, 0), (10, 0), (10, 10), (10, 10), (10, 10), (0, 0), (0, 0)], float
        )
        found = svg_marker.stands([(square, True)])
        self.assertEqual([s.role for s in found], ["start", "mid", "mid", "end"])
        self.assertAlmostEqual(found[0].angle, found[-1].angle)
        self.assertAlmostEqual(found[1].angle, 45.0)
        self.assertEqual(svg_marker.stands([]), [])

    def test_units_reference_and_overflow(self) -> None:
        marker = '<marker id="m" markerUnits="userSpaceOnUse" refX="center" refY="bottom" viewBox="0 0 4 4" markerWidth="8" markerHeight="8" {}><rect width="9" height="4"/></marker>'
        line = '<line x1="10" y1="10" x2="50" y2="10" stroke="red" stroke-width="7" marker-start="url(#m)"/>'
        group = one(marker.format("") + line)
        frame = read(marker.format("") + line).frame
        flat = flatten(frame)
        box = flat.bounds[flat.index[group.children[1].id]]
        np.testing.assert_allclose(box, (6, 2, 8, 8), atol=1e-9)
        self.assertTrue(group.children[1].body.clips)
        self.assertFalse(one(marker.format('overflow="visible"') + line).children[1].body.clips)

    def test_colours_of_the_line(self) -> None:
        layer = one(
            '<marker id="m"><circle r="1" fill="context-stroke"/></marker><path d="M0 0L9 9" fill="none" stroke="#ff0000" marker-end="url(#m)"/>'
        )
        dot = next(x for x in walk(layer.children) if x.kind == "oval")
        self.assertEqual(dot.fills, (Solid("#ff0000"),))

    def test_a_marker_in_itself_and_one_without_size(self) -> None:
        self.assertEqual(
            one(
                '<marker id="m"><path d="M0 0L1 1" marker-end="url(#m)"/></marker><path d="M0 0L9 9" stroke="red" marker-end="url(#m)"/>'
            ).kind,
            "group",
        )
        self.assertIn(
            "without size",
            says(
                '<marker id="m" markerWidth="0"><circle r="1"/></marker><path d="M0 0L9 9" stroke="red" marker-end="url(#m)"/>'
            ),
        )


class ShapesOfCss(unittest.TestCase):
    @given(st.floats(1, 200), st.floats(1, 200))
    def test_a_plain_circle_reaches_the_closest_side(self, w: Any, h: Any) -> None:
        ((points, closed),), rule = css_shape.outline("circle()", w, h)
        self.assertTrue(closed and rule == "nonzero")
        np.testing.assert_allclose(points.max(0) - points.min(0), (min(w, h),) * 2, rtol=1e-9)

    def test_sides_words_and_rules(self) -> None:
        ((points, _),), _ = css_shape.outline("inset(10% 20px)", 100, 50)
        self.assertEqual((points.min(0).tolist(), points.max(0).tolist()), ([20, 5], [80, 45]))
        ((points, _),), _ = css_shape.outline("ellipse(farthest-side closest-side at right 25%)", 100, 40)
        self.assertEqual((points[:, 0].max() - points[:, 0].min(), points[:, 1].max() - points[:, 1].min()), (200, 20))
        _, rule = css_shape.outline("polygon(evenodd, 0 0, 9px 0, 0 9px)", 9, 9)
        self.assertEqual(rule, "evenodd")
        for text in ("polygon(0 0, 1 1)", "polygon(0, 1 1, 2 2)", "path('M0 0')", "circle(x)", "circle"):
            with self.subTest(text), self.assertRaises(FormatError):
                css_shape.outline(text, 9, 9)

    def test_shadows_in_all_orders(self) -> None:
        for text in ("red 1px 2px 3px", "1px 2px 3px red", "1px 2px 3px rgb(255 0 0)"):
            self.assertEqual(css_shadow(text), Shadow("#ff0000", 1, 2, 3))
        self.assertEqual(css_shadow("1em 0", 20).x, 20)
        for text in ("", "1px", "1px 2px 3px 4px", "1px 2px wobble"):
            with self.subTest(text), self.assertRaises(FormatError):
                css_shadow(text)


class AsProgramsWriteThem(unittest.TestCase):
    def test_a_screen_with_a_clip_a_shadow_and_symbols(self) -> None:
        frame = read(
            '<g id="Screen" clip-path="url(#c)"><rect width="100" height="100" fill="white"/><g id="Card" filter="url(#f)">'
            '<rect id="Paper" x="10" y="10" width="80" height="40" rx="6" fill="white"/></g><use id="Icon" href="#i" x="70" y="70"/></g>'
            '<defs><clipPath id="c"><rect width="100" height="100"/></clipPath><filter id="f" x="0" y="4" width="100" height="60" '
            'filterUnits="userSpaceOnUse" color-interpolation-filters="sRGB"><feFlood flood-opacity="0" result="bg"/>'
            f'{ALPHA}<feOffset dy="4"/><feGaussianBlur stdDeviation="3"/><feColorMatrix values="0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0.25 0"/>'
            '<feBlend in2="bg" result="e"/><feBlend in="SourceGraphic" in2="e"/></filter>'
            '<symbol id="i" viewBox="0 0 24 24"><path d="M2 2H22V22H2Z"/></symbol></defs>'
        ).frame
        names = [layer.name for layer in walk(frame.layers)]
        self.assertLessEqual({"Screen", "Card", "Paper", "Icon"}, set(names))
        self.assertEqual(find_layer(frame, "Card").shadows, (Shadow("rgb(0 0 0 / 0.25)", 0, 4, 3),))
        self.assertTrue(find_layer(frame, "Screen").body.mask)

    def test_switches_links_and_animations(self) -> None:
        layer = one('<switch><g systemLanguage="xx"/><a href="x"><rect id="r" width="5" height="5"/></a></switch>')
        self.assertIn("group", layer.kind)
        self.assertIn("animation", says('<g><animateTransform/><rect width="5" height="5"/></g>'))

    def test_a_hidden_part_is_kept_and_hidden(self) -> None:
        frame = read(
            '<g display="none" id="off"><rect width="5" height="5"/></g><rect id="v" width="5" height="5" visibility="hidden"/>'
        ).frame
        self.assertEqual([layer.hidden for layer in frame.layers], [True, True])

    def test_an_opacity_of_the_whole_drawing(self) -> None:
        frame = read('<rect width="5" height="5"/>', 'width="10" height="10" opacity=".5"').frame
        self.assertEqual((frame.layers[0].kind, frame.layers[0].opacity), ("group", 0.5))

    def test_a_pattern_that_takes_over_another(self) -> None:
        layer = one(
            '<pattern id="a" width="8" height="8" patternUnits="userSpaceOnUse"><rect width="4" height="8"/></pattern>'
            '<pattern id="b" href="#a" patternTransform="translate(3 0)"/><rect width="80" height="40" fill="url(#b)"/>'
        )
        (paint,) = layer.fills
        self.assertIsInstance(paint, Pattern)
        self.assertEqual((paint.w, round(paint.matrix[4] * 80, 9), len(paint.layers)), (8, 3, 1))

    def test_pictures_without_a_size_and_with_one_side(self) -> None:
        from tests.core.test_svg_in import EmbeddedPictures

        link = f"data:image/png;base64,{EmbeddedPictures.PIXEL}"
        self.assertEqual((one(f'<image href="{link}"/>').w, one(f'<image href="{link}" height="30"/>').w), (1, 30))

    def test_a_drawing_too_large_to_be_a_screen_is_refused(self) -> None:
        with self.assertRaises(FormatError):
            read('<rect width="5" height="5"/>', 'width="1000000" height="10"')
