"""SVG files in: shapes, transforms, styles, text, and everything that can be wrong with them."""

import random
import unittest
from typing import Any
from unittest import mock

import numpy as np

from avelt.core.errors import AveltError, FormatError
from avelt.core.formats import svg_values
from avelt.core.formats.svg_in import read_svg
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import find_layer, walk
from avelt.core.model.values import Box, Group, Linear, Oval, Path, Radial, Solid, Text

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '


def read(inner: str, attrs: str = 'width="100" height="100"') -> Any:
    """The import of a document around some elements."""
    return read_svg(f"{HEAD}{attrs}>{inner}</svg>".encode(), "test")


def one(inner: str, attrs: str = 'width="100" height="100"') -> Any:
    """The only layer of such a document."""
    (layer,) = read(inner, attrs).frame.layers
    return layer


def says(inner: str) -> str:
    return " | ".join(note.says for note in read(inner).report.notes)


class Shapes(unittest.TestCase):
    def test_basic_shapes_become_their_kinds(self) -> None:
        box = one('<rect id="r" x="1" y="2" width="30" height="40" rx="5"/>')
        self.assertEqual((box.name, box.body, box.x, box.y, box.w, box.h), ("r", Box((5.0,) * 4), 1, 2, 30, 40))
        oval = one('<ellipse cx="50" cy="40" rx="20" ry="10"/>')
        self.assertEqual((oval.body, oval.x, oval.y, oval.w, oval.h), (Oval(), 30, 30, 40, 20))
        self.assertIsInstance(one('<polygon points="0,0 10,0 10,10"/>').body, Path)
        self.assertTrue(one('<polygon points="0,0 10,0 10,10"/>').body.subpaths[0].closed)
        self.assertFalse(one('<polyline points="0 0 10 0 10 10"/>').body.subpaths[0].closed)
        line = one('<line x1="10" y1="5" x2="10" y2="25" stroke="red" stroke-width="3"/>')
        self.assertEqual((line.x, line.y, line.w, line.h, line.stroke.width), (10, 5, 0, 20, 3))

    def test_a_box_with_two_radii_becomes_a_path(self) -> None:
        self.assertIsInstance(one('<rect width="30" height="40" rx="5" ry="15"/>').body, Path)
        self.assertEqual(one('<rect width="30" height="30" rx="99"/>').body, Box((15.0,) * 4))

    def test_all_path_commands_draw_where_they_should(self) -> None:
        cases = {
            "M10 10L20 10 20 30": (10, 10, 10, 20),
            "m10 10 10 0 0 20z": (10, 10, 10, 20),
            "M10 10h5v5h-5z": (10, 10, 5, 5),
            "M0 0Q10 20 20 0": (0, 0, 20, 10),
            "M0 0Q5 10 10 0T20 0": (0, -5, 20, 10),
            "M0 0C0 10 10 10 10 0S20-10 20 0": (0, -7.5, 20, 15),
            "M10 0A10 10 0 0 1 10 20": (10, 0, 10, 20),
            "M10,0a10,10 0 0110 10": (10, 0, 10, 10),
            "M1e1.5.5-3": (0.5, -3, 9.5, 3.5),
        }
        for data, wanted in cases.items():
            with self.subTest(data):
                layer = one(f'<path d="{data}"/>')
                np.testing.assert_allclose((layer.x, layer.y, layer.w, layer.h), wanted, atol=0.01)

    def test_a_faulty_path_is_drawn_up_to_the_fault(self) -> None:
        imported = read('<path id="p" d="M0 0L10 10L oops"/>')
        self.assertEqual(imported.frame.layers[0].w, 10)
        self.assertIn("number is missing", imported.report.notes[0].says)
        self.assertEqual(imported.report.notes[0].element, "path#p")
        self.assertEqual(read('<path d="L1 1"/>').frame.layers, ())


class Placing(unittest.TestCase):
    def test_moves_and_even_scales_are_worked_in(self) -> None:
        layer = one(
            '<g transform="translate(10 20) scale(2)"><rect x="1" y="2" width="3" height="4" stroke="red"/></g>'
        )
        inner = layer.children[0]
        self.assertEqual((layer.x, layer.y, layer.w, layer.h), (12, 24, 6, 8))
        self.assertEqual((inner.x, inner.w, inner.stroke.width, inner.scale_x), (0, 6, 2, 1))

    def test_a_turn_stays_a_turn(self) -> None:
        layer = one('<rect x="10" y="10" width="40" height="20" transform="rotate(30 30 20)"/>')
        self.assertAlmostEqual(layer.rotation, 30)
        np.testing.assert_allclose((layer.x, layer.y, layer.w, layer.h), (10, 10, 40, 20), atol=1e-9)

    def test_turns_are_kept_as_typed(self) -> None:
        rect = '<rect width="9" height="9" transform="rotate({})"/>'
        for typed in (405, 360, 720, -450, 180, -180, 0):
            self.assertAlmostEqual(one(rect.format(typed)).rotation, typed, places=6)
        group = one('<g transform="rotate(360)"><rect width="9" height="9" transform="rotate(0.5turn)"/></g>')
        self.assertEqual((group.rotation, group.children[0].rotation), (360, 180))
        group = one('<g transform="translate(5 5)"><rect width="9" height="9" transform="rotate(360) rotate(30)"/></g>')
        self.assertEqual((group.rotation, round(group.children[0].rotation, 6)), (0, 390))

    def test_any_transform_puts_corners_where_svg_does(self) -> None:
        texts = ["matrix(1 .5 -.3 2 10 5)", "skewX(20) rotate(40)", "scale(-1 2)", "translate(3) scale(2 .5) skewY(10)"]
        for text in texts:
            with self.subTest(text):
                frame = read(f'<g transform="{text}"><rect x="5" y="6" width="20" height="10"/></g>').frame
                flat = flatten(frame)
                wanted = svg_values.transform(text)
                i = len(flat.layers) - 1
                m = flat.world[i]
                from avelt.core.geometry import affine

                corners = affine.apply(wanted, [(5, 6), (25, 6), (25, 16), (5, 16)])
                found = affine.apply(
                    m, [(0, 0), (flat.layers[i].w, 0), (flat.layers[i].w, flat.layers[i].h), (0, flat.layers[i].h)]
                )
                np.testing.assert_allclose(found, corners, atol=1e-6)

    def test_view_box_and_aspect_ratio(self) -> None:
        layer = one('<rect width="10" height="10"/>', 'viewBox="0 0 10 20" width="100" height="100"')
        self.assertEqual((layer.x, layer.y, layer.w, layer.h), (25, 0, 50, 50))
        layer = one(
            '<rect width="10" height="20"/>', 'viewBox="0 0 10 20" width="100" height="100" preserveAspectRatio="none"'
        )
        np.testing.assert_allclose(flatten(read("").frame).world.shape, (0, 6))
        self.assertEqual(layer.kind, "box")
        frame = read("", 'viewBox="0 0 30 60"').frame
        self.assertEqual((frame.w, frame.h), (30, 60))
        frame = read("", 'viewBox="0 0 30 60" width="60"').frame
        self.assertEqual((frame.w, frame.h), (60, 120))

    def test_units(self) -> None:
        layer = one('<rect width="1in" height="10mm" x="25%" y="1pc"/>')
        np.testing.assert_allclose((layer.w, layer.h, layer.x, layer.y), (96, 37.795, 25, 16), atol=1e-3)

    def test_nested_svg_symbol_and_use(self) -> None:
        frame = read(
            '<defs><symbol id="s" viewBox="0 0 10 10"><rect width="10" height="10"/></symbol></defs>'
            '<use id="u" href="#s" x="20" y="30" width="40" height="40"/>'
            '<svg x="5" y="5" width="50" height="50" viewBox="0 0 5 5"><circle cx="2" cy="2" r="1"/></svg>'
        ).frame
        flat = flatten(frame)
        np.testing.assert_allclose(flat.bounds[1], (20, 30, 40, 40))
        np.testing.assert_allclose(flat.bounds[3], (15, 15, 20, 20))
        self.assertEqual(frame.layers[0].name, "u")


class WrittenOut(unittest.TestCase):
    """Uses are counted before they are written out, whatever they come to."""

    def nested(self, levels: int) -> str:
        groups = ['<g id="u0"><rect width="9" height="9"/></g>']
        for k in range(1, levels + 1):
            groups.append(f'<g id="u{k}">' + f'<use href="#u{k - 1}"/>' * 10 + "</g>")
        return f'<defs>{"".join(groups)}</defs><use href="#u{levels}"/>'

    def test_ten_levels_of_ten_are_refused_before_any_is_read(self) -> None:
        with (
            mock.patch("avelt.core.formats.svg_reader.Reader.element", side_effect=AssertionError("it is read")),
            self.assertRaisesRegex(FormatError, "more than 20000 layers"),
        ):
            read(self.nested(10))
        self.assertEqual(len(read(self.nested(2)).frame.layers), 1)

    def test_a_use_of_itself_comes_to_nothing(self) -> None:
        found = read('<g id="a"><use href="#a"/><rect width="9" height="9"/></g><use href="#none"/>')
        self.assertEqual(len(found.frame.layers), 1)


class Grounds(unittest.TestCase):
    def test_a_drawing_without_a_ground_is_clear_and_one_with_keeps_it(self) -> None:
        rect = '<rect width="20" height="20" fill="#123456"/>'
        self.assertEqual(read(rect).frame.background, "#ffffff00")
        own = read(rect, 'width="100" height="100" style="background:#336699"')
        self.assertEqual(own.frame.background, "#336699")


class Looks(unittest.TestCase):
    def test_cascade_of_sheets_attributes_and_styles(self) -> None:
        frame = read(
            "<style>rect{fill:red} .k{fill:lime} #b{fill:blue} g > .d{fill:#123456} .no::before{x:1}</style>"
            '<rect fill="gray"/><rect class="k" width="1" height="1"/><rect id="b" class="k" width="1" height="1"/>'
            '<rect class="k" style="fill:gold" width="1" height="1"/><g><circle class="d" r="3"/></g>'
        ).frame
        fills = [layer.fills[0].color for layer in walk(frame.layers) if layer.fills]
        self.assertEqual(fills, ["#ff0000", "#00ff00", "#0000ff", "#ffd700", "#123456"])

    def test_inheritance_current_colour_and_opacity(self) -> None:
        group = one(
            '<g fill="currentColor" color="teal" opacity=".5" fill-opacity=".25"><rect width="9" height="9"/></g>'
        )
        self.assertEqual(group.opacity, 0.5)
        self.assertEqual(group.children[0].fills, (Solid("rgb(0 128 128 / 0.25)"),))

    def test_gradients_with_href_units_and_focus(self) -> None:
        frame = read(
            '<linearGradient id="a"><stop stop-color="red"/><stop offset="1" stop-color="blue"/></linearGradient>'
            '<linearGradient id="b" xlink:href="#a" gradientUnits="userSpaceOnUse" x1="10" x2="50" spreadMethod="reflect"/>'
            '<radialGradient id="c" href="#a" cx=".5" cy=".5" r=".5" fx=".25"/>'
            '<rect x="10" y="20" width="40" height="20" fill="url(#b)"/><circle r="5" fill="url(#c)"/>'
            '<rect width="5" height="5" fill="url(#gone) lime"/>'
        ).frame
        first = frame.layers[0].fills[0]
        self.assertIsInstance(first, Linear)
        np.testing.assert_allclose(first.matrix, (1, 0, 0, 2, 0, -1), atol=1e-9)
        self.assertEqual(first.spread, "reflect")
        second = frame.layers[1].fills[0]
        self.assertIsInstance(second, Radial)
        self.assertAlmostEqual(second.focus[0], -0.5)
        self.assertEqual(frame.layers[2].fills, (Solid("#00ff00"),))

    def test_strokes(self) -> None:
        stroke = one(
            '<path d="M0 0h9" stroke="red" stroke-width="3" stroke-linecap="round" stroke-linejoin="bevel" '
            'stroke-dasharray="4 2 1" stroke-dashoffset="2" stroke-opacity=".5"/>'
        ).stroke
        self.assertEqual((stroke.width, stroke.cap, stroke.join, stroke.dash_offset), (3, "round", "bevel", 2))
        self.assertEqual(stroke.dashes, (4, 2, 1, 4, 2, 1))
        self.assertEqual(stroke.paint, Solid("rgb(255 0 0 / 0.5)"))

    def test_clip_paths_and_masks_become_a_groups_mask(self) -> None:
        frame = read(
            '<clipPath id="c"><circle cx="5" cy="5" r="5"/></clipPath><mask id="m"><rect width="9" height="9" fill="#fff"/></mask>'
            '<g id="G" clip-path="url(#c)"><rect width="20" height="20"/></g><rect id="R" width="5" height="5" mask="url(#m)"/>'
        ).frame
        clipped, masked = frame.layers
        self.assertEqual((clipped.name, clipped.body.mask_by), ("G", "alpha"))
        self.assertEqual(clipped.children[0].id, clipped.body.mask)
        self.assertEqual(masked.body.mask_by, "luminance")
        self.assertEqual([child.name for child in masked.children], ["m", "R"])

    def test_hidden_things_stay_as_hidden_layers(self) -> None:
        frame = read(
            '<rect display="none" width="1" height="1"/><rect visibility="hidden" width="1" height="1"/>'
        ).frame
        self.assertEqual([layer.hidden for layer in frame.layers], [True, True])


class Words(unittest.TestCase):
    def test_spans_are_runs_and_spaces_collapse(self) -> None:
        layer = one(
            '<text x="10" y="50" font-size="20">Hello\n   <tspan font-weight="bold" fill="red">you</tspan> </text>'
        )
        self.assertIsInstance(layer.body, Text)
        self.assertEqual([run.text for run in layer.body.runs], ["Hello ", "you"])
        self.assertEqual((layer.body.runs[1].weight, layer.body.runs[1].fill), (700, Solid("#ff0000")))
        self.assertAlmostEqual(layer.y, 50 - 20 * (0.6 + 0.35))
        self.assertEqual(layer.name, "Text 'Hello you'")

    def test_anchor_spacing_and_relative_sizes(self) -> None:
        layer = one(
            '<g font-size="10"><text x="50" y="9" text-anchor="middle" letter-spacing="2" font-size="2em">ab</text></g>'
        )
        inner = layer.children[0]
        self.assertEqual((inner.body.align, inner.body.letter_spacing, inner.body.size), ("center", 2, 20))
        self.assertAlmostEqual(layer.x + inner.x + inner.w / 2, 50)

    def test_even_lines_are_one_text_and_scattered_ones_are_not(self) -> None:
        layer = one('<text font-size="10"><tspan x="5" y="20">one</tspan><tspan x="5" dy="15">two</tspan></text>')
        self.assertEqual((layer.body.words, layer.body.line_height), ("one\ntwo", 1.5))
        scattered = one('<text id="T"><tspan x="5" y="20">one</tspan><tspan x="50" y="90">two</tspan></text>')
        self.assertIsInstance(scattered.body, Group)
        self.assertEqual([child.body.words for child in scattered.children], ["one", "two"])


class Names(unittest.TestCase):
    def test_label_title_id_and_kind(self) -> None:
        frame = read(
            '<g xmlns:inkscape="i" id="g1" inkscape:label="Card"/><rect data-name="Box A" id="z" width="1" height="1"/>'
            '<circle r="2"><title>Sun</title></circle><circle r="2"/><circle r="2"/>'
        ).frame
        self.assertEqual([layer.name for layer in frame.layers], ["Card", "Box A", "Sun", "Oval 2", "Oval 3"])


class Reports(unittest.TestCase):
    def test_what_is_not_supported_is_named_with_its_element(self) -> None:
        imported = read(
            '<filter id="f"><feTurbulence/></filter><rect id="a" filter="url(#f)" width="9" height="9"/><foreignObject id="b"/>'
            '<image id="c" href="http://example.org/a.png" width="9" height="9"/>'
            '<rect id="d" fill="url(#p)" width="9" height="9"/><mesh id="p"/>'
        )
        found = {note.element: note.says for note in imported.report.notes}
        self.assertEqual(set(found), {"rect#a", "foreignObject#b", "image#c", "rect#d", "mesh#p"})
        self.assertEqual(imported.report.counts, {"box": 2})
        self.assertTrue(any("line 1" in line for line in imported.report.lines()))

    def test_numbers_that_cannot_be_used(self) -> None:
        self.assertIn("cannot be used", says('<rect x="NaN" width="5" height="5"/>'))
        self.assertIn("not a usable number", says('<rect x="1e308" width="5" height="5"/>'))
        self.assertIn("negative", says('<rect width="-5" height="5"/>'))
        self.assertIn("usable", says('<path d="M0 0L1e308 1"/>'))
        self.assertIn("transform", says('<rect transform="wobble(3)" width="5" height="5"/>'))
        self.assertIn("uses itself", says('<g id="a"><use href="#a"/></g>'))

    def test_zero_size_layers_are_kept(self) -> None:
        layer = one('<rect width="0" height="10"/>')
        self.assertEqual((layer.w, layer.h), (0, 10))


class EmbeddedPictures(unittest.TestCase):
    PIXEL = "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg=="

    def test_they_come_in_with_their_fit(self) -> None:
        imported = read(
            f'<image id="p" href="data:image/png;base64,{self.PIXEL}" x="5" width="20" height="10" preserveAspectRatio="none"/>'
        )
        layer = imported.frame.layers[0]
        self.assertEqual((layer.kind, layer.body.fit, layer.x, layer.w, layer.h), ("picture", "stretch", 5, 20, 10))
        self.assertEqual(imported.assets[0].id, layer.body.asset)

    def test_what_is_none_is_named(self) -> None:
        for link in ("data:image/png;base64,!!!", "data:image/png;base64,aGVsbG8=", "data:,hello"):
            imported = read(f'<image id="p" href="{link}" width="9" height="9"/>')
            self.assertEqual((imported.frame.layers, imported.report.notes[0].element), ((), "image#p"))


class BadFiles(unittest.TestCase):
    def refuse(self, data: bytes, words: str) -> None:
        with self.assertRaises(AveltError) as caught:
            read_svg(data, "bad", path="bad.svg")
        text = str(caught.exception)
        self.assertIn(words, text)
        self.assertTrue(text.startswith("bad.svg"), text)
        self.assertNotIn("\n", text)

    def test_empty_foreign_and_broken(self) -> None:
        self.refuse(b"", "empty")
        self.refuse(b"   \n", "empty")
        self.refuse(b"<html/>", "not <svg>")
        self.refuse(b"<svg xmlns='http://www.w3.org/2000/svg'>\n<g>\n</svg>", "line 3")
        self.refuse(b"\x89PNG\r\n\x1a\n", "XML")
        self.refuse(b"hello", "XML")

    def test_entities_and_outside_references(self) -> None:
        bomb = b'<!DOCTYPE svg [<!ENTITY a "aaaa"><!ENTITY b "&a;&a;&a;">]><svg xmlns="http://www.w3.org/2000/svg"><text>&b;</text></svg>'
        self.refuse(bomb, "entities")
        outside = b'<!DOCTYPE svg [<!ENTITY x SYSTEM "file:///etc/hostname">]><svg xmlns="http://www.w3.org/2000/svg"><text>&x;</text></svg>'
        self.refuse(outside, "entities")

    def test_plain_entities_and_the_name_of_a_dtd_are_read(self) -> None:
        data = (
            b'<!DOCTYPE svg PUBLIC "-//W3C//DTD SVG 1.1//EN" "http://example.org/svg11.dtd" [<!ENTITY red "#f00">]>'
            b'<svg xmlns="http://www.w3.org/2000/svg"><rect width="5" height="5" fill="&red;"/></svg>'
        )
        (layer,) = read_svg(data, "old").frame.layers
        self.assertEqual(layer.fills, (Solid("#ff0000"),))

    def test_too_deep_too_many_too_large(self) -> None:
        deep = b"<g>" * 10_000 + b"</g>" * 10_000
        self.refuse(HEAD.encode() + b">" + deep + b"</svg>", "deep")
        self.refuse(HEAD.encode() + b">" + b"<g/>" * 30_000 + b"</svg>", "more than")
        self.refuse(HEAD.encode() + b">" + b" " * (25 * 2**20) + b"</svg>", "larger")

    def test_attributes_of_many_megabytes_are_refused_with_their_line(self) -> None:
        for name, value in (("id", "x"), ("d", "M0 0 L1 1 "), ("style", "fill:red;"), ("transform", "rotate(3) ")):
            long = value * (20 * 2**20 // len(value))
            self.refuse(f'{HEAD}>\n<path {name}="{long}"/></svg>'.encode(), rf"attribute {name} is longer than 4 MB")

    def test_uses_that_multiply_are_stopped(self) -> None:
        ten = [f'<use href="#l{k}"/>' * 10 for k in range(8)]
        levels = "".join(f'<g id="l{k}">{ten[k - 1]}</g>' for k in range(1, 9))
        self.refuse(f'{HEAD}><rect id="l0" width="1" height="1"/>{levels}</svg>'.encode(), "more than")

    def test_mutated_files_raise_only_our_own_errors(self) -> None:
        good = (
            f'{HEAD}viewBox="0 0 90 90"><style>.a{{fill:red}}</style><defs><linearGradient id="g"><stop offset="5%"/>'
            '<stop offset="1" stop-color="#fff"/></linearGradient><clipPath id="c"><path d="M0 0h9v9z"/></clipPath></defs>'
            '<g id="G" transform="rotate(5)" clip-path="url(#c)"><rect class="a" x="3" width="20" height="5" rx="2"/></g>'
            '<path d="M0 0C1 2 3 4 5 6A3 3 0 0 1 9 9z" fill="url(#g)" stroke="teal" stroke-dasharray="3 1"/>'
            '<text x="4" y="9">Ahoy <tspan dx="3">there</tspan></text><use href="#G" x="4"/></svg>'
        )
        dice = random.Random(20261123)
        pieces = [
            "<",
            ">",
            '"',
            "NaN",
            "1e999",
            "-",
            "%",
            "url(#G)",
            "&",
            "\x00",
            "é",
            "none",
            "0",
            "#c",
            "matrix(",
            "M",
        ]
        read_well = 0
        for _ in range(300):
            text = good
            for _ in range(dice.randint(1, 4)):
                at = dice.randrange(len(text))
                cut = dice.randrange(0, 6)
                text = text[:at] + dice.choice(pieces) * dice.randint(0, 2) + text[at + cut :]
            try:
                read_svg(text.encode(), "mutant")
                read_well += 1
            except AveltError:
                pass
        self.assertGreater(read_well, 20)


class FindLayers(unittest.TestCase):
    def test_a_near_miss_is_suggested(self) -> None:
        frame = read('<rect id="Hero card" width="1" height="1"/>').frame
        self.assertEqual(find_layer(frame, "hero CARD").name, "Hero card")
        with self.assertRaises(AveltError) as caught:
            find_layer(frame, "Hero crd")
        self.assertIn("Hero card", str(caught.exception))
