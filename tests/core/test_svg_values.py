"""The small languages in SVG's attributes, by their properties."""

import re
import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.errors import FormatError
from avelt.core.formats.report import Notes
from avelt.core.formats.svg_style import Sheet, computed
from avelt.core.formats.svg_values import fit_view, length, numbers, path_data, transform
from avelt.core.formats.xml_tree import parse
from avelt.core.geometry import affine

number = st.floats(-500, 500).map(lambda v: round(v, 2))
_COUNT = {"L": 2, "H": 1, "V": 1, "C": 6, "S": 4, "Q": 4, "T": 2}


@st.composite
def absolute_paths(draw: Any) -> Any:
    """Path data in absolute commands: (command, numbers) in turn, beginning with a move."""
    commands = [("M", [draw(number), draw(number)])]
    for _ in range(draw(st.integers(1, 8))):
        key = draw(st.sampled_from(list(_COUNT)))
        commands.append((key, [draw(number) for _ in range(_COUNT[key])]))
    return commands


def written(commands: Any, relative: bool) -> str:
    """The commands as text, absolute or relative to the pen."""
    x = y = 0.0
    parts = []
    for key, values in commands:
        if not relative:
            parts.append(f"{key}{' '.join(f'{v:.2f}' for v in values)}")
        elif key == "H":
            parts.append(f"h{values[0] - x:.6f}")
        elif key == "V":
            parts.append(f"v{values[0] - y:.6f}")
        else:
            shifted = [v - (x if k % 2 == 0 else y) for k, v in enumerate(values)]
            parts.append(f"{key.lower()}{' '.join(f'{v:.6f}' for v in shifted)}")
        x, y = (values[0], y) if key == "H" else (x, values[0]) if key == "V" else (values[-2], values[-1])
    return "".join(parts)


class PathData(unittest.TestCase):
    @given(absolute_paths())
    def test_relative_commands_draw_the_same(self, commands: Any) -> None:
        (first, trouble), (second, _) = path_data(written(commands, False)), path_data(written(commands, True))
        self.assertEqual((trouble, len(first)), ("", len(second)))
        for (a, _), (b, _) in zip(first, second, strict=True):
            np.testing.assert_allclose(a, b, atol=1e-3)

    @given(absolute_paths())
    def test_separators_do_not_matter(self, commands: Any) -> None:
        plain = written(commands, False)
        spaced = re.sub(r"([A-Z])", r" \1 , ", plain).replace(", -", ",-").replace(" ,", " ")
        np.testing.assert_array_equal(path_data(plain)[0][0][0], path_data(spaced)[0][0][0])

    def test_closing_starts_the_next_subpath_where_this_began(self) -> None:
        (first, closed), (second, _) = path_data("M10 10h20v20z l5 5")[0]
        self.assertTrue(closed)
        np.testing.assert_array_equal(first[-1], (10, 10))
        np.testing.assert_array_equal(second[0], (10, 10))

    def test_a_smooth_handle_mirrors_only_its_own_kind(self) -> None:
        points = path_data("M0 0C0 10 10 10 10 0S20 -10 20 0")[0][0][0]
        np.testing.assert_array_equal(points[4], (10, -10))
        points = path_data("M0 0Q5 10 10 0S20 -10 20 0")[0][0][0]
        np.testing.assert_array_equal(points[4], (10, 0))

    def test_empty_and_lone_moves_draw_nothing(self) -> None:
        for text in ("", "   ", "M5 5", "M1 1M2 2z"):
            self.assertLessEqual(len(path_data(text)[0]), 1)

    def test_flags_may_stand_close(self) -> None:
        self.assertEqual(path_data("M0 0a5 5 0 0110 0")[1], "")
        self.assertIn("flag", path_data("M0 0a5 5 0 2 1 10 0")[1])


class Transforms(unittest.TestCase):
    @given(number, number, st.floats(-360, 360).map(lambda v: round(v, 3)))
    def test_turning_about_a_point_is_move_turn_move_back(self, x: Any, y: Any, angle: Any) -> None:
        about = transform(f"rotate({angle} {x} {y})")
        steps = transform(f"translate({x},{y}) rotate({angle}) translate({-x} {-y})")
        np.testing.assert_allclose(about, steps, atol=1e-6)

    @given(st.lists(st.tuples(number, number), min_size=1, max_size=4))
    def test_a_list_is_the_product_from_left_to_right(self, moves: Any) -> None:
        text = " ".join(f"translate({x} {y}) scale(1.5)" for x, y in moves)
        product = affine.identity()
        for x, y in moves:
            product = affine.multiply(affine.multiply(product, [1, 0, 0, 1, x, y]), [1.5, 0, 0, 1.5, 0, 0])
        np.testing.assert_allclose(transform(text), product, rtol=1e-9, atol=1e-9)

    def test_units_and_forms_of_style_sheets(self) -> None:
        np.testing.assert_allclose(transform("rotate(0.25turn)"), transform("rotate(90)"), atol=1e-12)
        np.testing.assert_allclose(transform("translate(5px, 6px) translateX(2px)"), (1, 0, 0, 1, 7, 6))
        np.testing.assert_allclose(transform("none"), affine.identity())
        for bad in ("rotate()", "wobble(1)", "matrix(1 2 3)", "scale(1e300)", "rotate(1) x"):
            with self.subTest(bad), self.assertRaises(FormatError):
                transform(bad)

    def test_lengths(self) -> None:
        self.assertEqual(
            (length("50%", 80), length("2em", 0, 12), length("1e1", 0), length(" 3 px", 0)), (40, 24, 10, 3)
        )
        self.assertEqual(numbers("1,2 -3.5e1.5"), [1, 2, -35, 0.5])
        for bad in ("", "px", "3 parsecs", "1e400", "NaN"):
            with self.subTest(bad), self.assertRaises(FormatError):
                length(bad, 10)

    @given(
        st.floats(1, 500), st.floats(1, 500), st.floats(1, 500), st.floats(1, 500), st.sampled_from(["meet", "slice"])
    )
    def test_a_view_is_fitted_whole_or_covering(self, vw: Any, vh: Any, w: Any, h: Any, how: Any) -> None:
        m = fit_view([10, 20, vw, vh], w, h, f"xMidYMid {how}")
        corners = affine.apply(m, [(10, 20), (10 + vw, 20 + vh)])
        size = corners[1] - corners[0]
        np.testing.assert_allclose((corners[0] + corners[1]) / 2, (w / 2, h / 2), atol=1e-6)
        self.assertAlmostEqual(size[0] / vw, size[1] / vh, places=9)
        if how == "meet":
            self.assertTrue((size <= np.array([w, h]) + 1e-6).all())
        else:
            self.assertTrue((size >= np.array([w, h]) - 1e-6).all())


class Styles(unittest.TestCase):
    def declared(self, css: str, inner: str, tag: str = "rect") -> Any:
        root = parse(f'<svg xmlns="http://www.w3.org/2000/svg"><style>{css}</style>{inner}</svg>'.encode(), "t")
        notes = Notes()
        sheet = Sheet(root, notes)
        node = next(node for node in root.all() if node.tag == tag)
        return sheet.declared(node), notes

    def test_weight_then_order(self) -> None:
        css = "rect{fill:a} .k{fill:b} rect.k{fill:c} #i{fill:d} rect{fill:e}"
        self.assertEqual(self.declared(css, '<rect class="k" id="i"/>')[0]["fill"], "d")
        self.assertEqual(self.declared(css, '<rect class="k"/>')[0]["fill"], "c")
        self.assertEqual(self.declared(css, "<rect/>")[0]["fill"], "e")

    def test_important_wins_over_the_style_attribute(self) -> None:
        css = ".k{fill:b!important}"
        self.assertEqual(self.declared(css, '<rect class="k" style="fill:c"/>')[0]["fill"], "b")
        self.assertEqual(self.declared(css, '<rect style="fill:c" fill="d"/>')[0]["fill"], "c")

    def test_descendants_children_and_attributes(self) -> None:
        css = "g rect{fill:a} svg > rect{stroke:b} rect[width='3']{opacity:c} rect[height]{display:d}"
        found = self.declared(css, '<g><a><rect width="3" height="1"/></a></g>')[0]
        self.assertEqual(
            (found["fill"], found.get("stroke"), found["opacity"], found["display"]), ("a", None, "c", "d")
        )
        self.assertEqual(self.declared(css, "<rect/>")[0]["stroke"], "b")

    def test_what_cannot_be_read_is_noted(self) -> None:
        _, notes = self.declared("rect:hover{fill:a} @media print{rect{fill:b}}", "<rect/>")
        self.assertEqual(sorted(note.what for note in notes.found), ["left out", "left out"])

    def test_inheritance_and_its_words(self) -> None:
        parent = {"fill": "red", "opacity": "0.5", "color": "teal", "stroke": "blue"}
        found = computed(parent, {"opacity": "inherit", "stroke": "initial", "color": "currentColor"})
        self.assertEqual(found, {"fill": "red", "opacity": "0.5", "color": "teal"})

    def test_the_font_shorthand(self) -> None:
        found = computed({}, {"font": "italic 700 12px/1.5 'Hanken Grotesk', sans-serif"})
        self.assertEqual((found["font-size"], found["font-weight"], found["font-style"]), ("12px", "700", "italic"))
        self.assertIn("Hanken", found["font-family"])


class Xml(unittest.TestCase):
    def test_lines_text_and_prefixes(self) -> None:
        root = parse(
            b'<s:svg xmlns:s="http://www.w3.org/2000/svg" xmlns:o="urn:other">\n<s:g id="x">a<s:b/>c</s:g>\n<o:thing/></s:svg>',
            "t",
        )
        group, other = list(root.children())
        self.assertEqual((root.tag, group.tag, group.line, group.text(), group.says), ("svg", "g", 2, "ac", "g#x"))
        self.assertEqual((other.tag, other.line), ("o:thing", 3))
        self.assertEqual([node.tag for node in root.all()], ["svg", "g", "b", "o:thing"])
        self.assertIs(group.parent, root)
