"""Colours against CSS Color 4, and paints brought to one form."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.blending import colour, conversions, spaces
from avelt.core.blending.paints import couple, form, mean_colour
from avelt.core.errors import FormatError
from avelt.core.model.values import Linear, Radial, Solid, Stop

channel = st.floats(0, 1)
rgba = st.tuples(channel, channel, channel, channel)


class Reading(unittest.TestCase):
    def test_one_colour_is_the_same_as_in_a_batch(self) -> None:
        chance = np.random.default_rng(2)
        some = chance.uniform([-0.1, -0.4, -0.4, 0.0], [1.1, 0.4, 0.4, 1.1], (400, 4))
        some = np.concatenate([some, [[0, 0, 0, 0], [0.3, 0.1, 0, -0.2], [0, 0, 0, 1], [1, 0, 0, 1]]])
        batch = conversions.from_premultiplied_oklab(some)
        one = np.array([conversions.one_from_premultiplied_oklab(row) for row in some.tolist()])
        np.testing.assert_allclose(one, batch, atol=2e-12)

    def test_css_text_in_many_spaces(self) -> None:
        cases = {
            "#f80": (1, 0.5333, 0, 1),
            "rgb(255 0 0 / 50%)": (1, 0, 0, 0.5),
            "hsl(120 100% 25%)": (0, 0.5, 0, 1),
            "rebeccapurple": (0.4, 0.2, 0.6, 1),
            "lab(100 0 0)": (1, 1, 1, 1),
            "oklch(0 0 0)": (0, 0, 0, 1),
            "oklab(0.627955 0.224863 0.125846)": (1, 0, 0, 1),
            "color(srgb-linear 0.5 0.5 0.5)": (0.7354,) * 3 + (1,),
            "color(display-p3 0.5 0.5 0.5)": (0.5, 0.5, 0.5, 1),
            "lch(54.29 106.84 40.86)": (1, 0, 0, 1),
            "transparent": (0, 0, 0, 0),
            "color(xyz-d50 0.9643 1 0.8251)": (1, 1, 1, 1),
        }
        for text, wanted in cases.items():
            with self.subTest(text):
                np.testing.assert_allclose(colour.parse(text), wanted, atol=2e-3)

    def test_the_way_it_is_written_here_reads_as_any_css_does(self) -> None:
        for text in ("rgb(0 0 0 / 0)", "rgb(255 128 7 / 0.5)", "rgb(1 22 255 / .125)", "rgb(9 9 9 / 1)"):
            slow = text.replace("rgb(", "RGB( ")  # the same to CSS, and not the way it is written here
            self.assertEqual(colour.parse(text), colour.parse(slow))
        for text in ("rgb(256 0 0 / 0.5)", "rgb(999 0 0 / 0.5)"):
            self.assertEqual(colour.parse(text), colour.parse(text.replace("rgb(", "RGB( ")))

    def test_no_colour_is_refused(self) -> None:
        for bad in ("", "none", "url(#a)", "#12345", "currentColor", "rgb(1)", "blurple"):
            with self.subTest(bad), self.assertRaises(FormatError):
                colour.parse(bad)

    @given(rgba)
    def test_text_reads_back_to_eight_bits(self, value: Any) -> None:
        again = colour.parse(colour.to_text(value))
        np.testing.assert_allclose(again, value, atol=0.5 / 255 + 1e-3)


class Blending(unittest.TestCase):
    @given(rgba, rgba, st.sampled_from(spaces.SPACES))
    def test_both_ends_are_the_colours_themselves(self, a: Any, b: Any, space: Any) -> None:
        ends = spaces.blend(a, b, [0.0, 1.0], space)
        for found, wanted in zip(ends, (a, b), strict=True):
            self.assertAlmostEqual(found[3], wanted[3], delta=1e-9)
            if wanted[3] > 1e-3:
                np.testing.assert_allclose(found[:3], wanted[:3], atol=1e-6)

    @given(rgba)
    def test_oklab_there_and_back(self, value: Any) -> None:
        np.testing.assert_allclose(
            conversions.from_oklab(conversions.to_oklab(np.array(value[:3]))), value[:3], atol=1e-9
        )

    def test_known_middles(self) -> None:
        red, blue = colour.parse("red"), colour.parse("blue")
        np.testing.assert_allclose(spaces.blend(red, blue, 0.5, "srgb")[:3], (0.5, 0, 0.5), atol=1e-9)
        np.testing.assert_allclose(spaces.blend(red, blue, 0.5, "srgb-linear")[:3], (0.7354, 0, 0.7354), atol=1e-3)
        np.testing.assert_allclose(spaces.blend(red, blue, 0.5, "oklab")[:3], (0.5503, 0.3256, 0.6365), atol=2e-3)

    def test_alpha_is_multiplied_in(self) -> None:
        clear_red, blue = colour.parse("rgb(255 0 0 / 0)"), colour.parse("blue")
        middle = spaces.blend(clear_red, blue, 0.5, "oklab")
        np.testing.assert_allclose(middle, (0, 0, 1, 0.5), atol=1e-6)

    def test_a_grey_takes_over_the_others_hue(self) -> None:
        middle = conversions.to_oklab(
            spaces.blend(colour.parse("white"), colour.parse("oklch(0.6 0.1 150)"), 0.5, "oklch")[:3]
        )
        self.assertAlmostEqual(float(np.degrees(np.arctan2(middle[2], middle[1]))), 150, delta=0.5)

    def test_hue_goes_the_short_way(self) -> None:
        middle = conversions.to_oklab(
            spaces.blend(colour.parse("oklch(0.7 0.1 350)"), colour.parse("oklch(0.7 0.1 20)"), 0.5, "oklch")[:3]
        )
        self.assertAlmostEqual(float(np.degrees(np.arctan2(middle[2], middle[1]))), 5, delta=0.5)


class Paints(unittest.TestCase):
    RED, BLUE = Solid("#ff0000"), Solid("#0000ff")
    LINES = Linear((Stop(0, "#fff"), Stop(0.5, "#888"), Stop(1, "#000")))

    def test_solid_to_gradient_becomes_two_gradients(self) -> None:
        (pair,) = couple((self.RED,), (self.LINES,))
        self.assertEqual((pair.left.kind, pair.right.kind, len(pair.left.at)), ("linear", "linear", 3))
        np.testing.assert_allclose(pair.left.colours, np.tile([1, 0, 0, 1], (3, 1)))

    def test_other_stops_are_added_by_reading_between(self) -> None:
        two = Linear((Stop(0, "#000"), Stop(1, "#fff")))
        (pair,) = couple((two,), (self.LINES,))
        self.assertEqual(pair.left.at.tolist(), [0, 0.5, 1])
        np.testing.assert_allclose(pair.left.colours[1, :3], 0.5)

    def test_what_one_side_lacks_fades(self) -> None:
        (pair,) = couple((self.RED,), ())
        np.testing.assert_allclose(pair.right.colours, [[1, 0, 0, 0]])

    def test_linear_against_radial_is_cross_faded(self) -> None:
        found = couple((self.LINES,), (Radial((Stop(0, "#fff"), Stop(1, "#000"))),))
        self.assertEqual([entry.show for entry in found], ["left", "right"])

    def test_mean_colour(self) -> None:
        np.testing.assert_allclose(mean_colour(self.LINES)[:3], [0.511] * 3, atol=2e-3)
        self.assertEqual(form(self.BLUE).kind, "solid")
