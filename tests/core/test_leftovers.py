"""Pairs that follow from layers which went together: the right one of many like rows, and the last ones of a card."""

from __future__ import annotations

import unittest
from typing import Any

from avelt.core.model.values import Frame, Layer, Run, Solid, Text
from avelt.core.pairing.engine import pair_frames
from avelt.core.pairing.facts import is_generic
from tests.support import box, group, oval


def words(ident: str, text: str, x: float, y: float, name: str = "") -> Layer:
    body = Text((Run(text),), size=14.0)
    return Layer(ident, ident, name or text, body, x, y, 80.0, 18.0, fills=(Solid("#222222"),))


def row(ident: str, text: str, y: float) -> Layer:
    inside = (
        box(f"{ident}g", 0, 0, 300, 60, "#ffffff", name="Row ground"),
        words(f"{ident}t", text, 20, 20, "Label"),
        oval(f"{ident}o", 250, 20, 20, 20, "#0e7c74", name="Knob"),
    )
    return group(f"{ident}", 10, y, inside, f"{text} row")


def frame(ident: str, *layers: Layer, **own: Any) -> Frame:
    return Frame(ident, ident, 320, 640, layers=layers, **own)


class GrowsIntoAPage(unittest.TestCase):
    ROWS = ("Outer Holm", "Grey Stack", "Sandray", "Kelp Bay")

    def test_the_row_whose_words_became_the_page_brings_its_ground(self) -> None:
        left = frame("L", *(row(f"r{k}", text, 80.0 * k) for k, text in enumerate(self.ROWS)))
        for k, text in enumerate(self.ROWS):
            page = (
                box("pg", 0, 0, 320, 640, "#ffffff", name="Row ground"),
                words("pt", text, 30, 300, "Heading"),
                oval("po", 140, 420, 44, 44, "#0e7c74", name="Knob"),
                box("new", 0, 600, 320, 40, "#d98e32", name="Foot"),
            )
            pairing = pair_frames(left, frame("R", *page))
            self.assertEqual({pairing.from_of.get(ident) for ident in ("pg", "pt", "po")}, {f"r{k}{c}" for c in "gto"})
            self.assertNotIn("new", pairing.from_of)

    def test_the_last_shape_left_in_both_is_one_thing_whatever_it_is_called(self) -> None:
        card = group(
            "c",
            10,
            10,
            (
                words("a", "Sandray", 0, 0, "Title"),
                words("b", "9:15", 0, 30, "Time"),
                box("x", 0, 60, 40, 40, "#c9681c", name="Stamp"),
            ),
            "Card",
        )
        page = (
            words("a2", "Sandray", 100, 500, "Title"),
            words("b2", "9:15", 220, 40, "Time"),
            box("x2", 10, 400, 300, 80, "#c9681c", name="Zulorka"),
        )
        pairing = pair_frames(frame("L", card), frame("R", *page))
        self.assertEqual(pairing.to_of.get("x"), "x2")
        self.assertLess(pairing.by_left["x"].confidence, 0.9)
        other = (*page[:2], box("x2", 10, 400, 300, 80, "#0044ff", name="Zulorka"))
        self.assertNotIn("x", pair_frames(frame("L", card), frame("R", *other)).to_of)
        two = (*page, box("x3", 20, 200, 300, 80, "#c9681c", name="Temika"))
        self.assertNotIn("x", pair_frames(frame("L", card), frame("R", *two)).to_of)


class Names(unittest.TestCase):
    def test_a_layer_called_after_its_kind_is_named_when_it_is_the_only_one(self) -> None:
        for name in ("box", "card", "star"):
            self.assertFalse(is_generic(name, "", 1), name)
        self.assertTrue(is_generic("box", "", 2))
        self.assertFalse(is_generic("card", "", 2))
        for name in ("box 3", "rect12", "g", "", "12", "use"):
            self.assertTrue(is_generic(name, "", 1), name)

    def test_and_is_found_again_by_it(self) -> None:
        left = frame("L", box("a", 0, 0, 50, 50, "#ff0000", name="box"), box("b", 100, 0, 50, 50, name="card"))
        right = frame("R", box("c", 200, 500, 90, 20, "#00ff00", name="box"), box("d", 0, 0, 50, 50, name="card"))
        self.assertEqual(pair_frames(left, right).to_of, {"a": "c", "b": "d"})


if __name__ == "__main__":
    unittest.main()
