"""The table of ways, and what changes between two layers."""

import unittest
from typing import Any

from avelt.core.model.values import FADED, Away, Box, Frame
from avelt.core.pairing.engine import pair_frames
from avelt.core.timing.changes import what_changes
from avelt.core.timing.leave_enter import BY_KEY, WAYS, leave_enter_of, mixed, taken, words_of
from tests.support import box, oval, text


class Ways(unittest.TestCase):
    def test_each_is_found_again_and_says_itself_for_both_sides(self) -> None:
        for way in WAYS:
            self.assertEqual(leave_enter_of(way.pose), way)
            self.assertEqual((words_of(way.pose, True), words_of(way.pose, False)), (way.leaves, way.enters))
            self.assertIn("behind", words_of(taken(Away(behind="x"), way), True))
        self.assertEqual(len({way.pose for way in WAYS}), len(WAYS))
        self.assertEqual(words_of(Away(rotation=7.0), True), "own")

    def test_mixing_changes_only_what_a_way_is_about(self) -> None:
        both = mixed(mixed(FADED, BY_KEY["edge left"]), BY_KEY["blur"])
        self.assertEqual(both, Away(opacity=0.0, edge="left", blur=12.0))
        self.assertEqual(mixed(both, BY_KEY["stay"]), Away())
        self.assertEqual(taken(Away(rotation=9.0, behind="x"), BY_KEY["fade"]), Away(opacity=0.0, behind="x"))


class Changes(unittest.TestCase):
    def between(self, left: Any, right: Any) -> Any:
        pairing = pair_frames(
            *(Frame(i, i, 200, 200, layers=tuple(layers)) for i, layers in (("A", left), ("B", right)))
        )
        return what_changes(pairing, left[0].id, right[0].id)

    def test_only_what_differs_is_named(self) -> None:
        same = box("a", 0, 0, 20, 20, name="x")
        self.assertEqual(self.between([same], [box("b", 0, 0, 20, 20, name="x")]), ())
        other = box("b", 9, 0, 40, 20, "#ff0000", name="x", body=Box((4.0,) * 4), opacity=0.5, rotation=10.0)
        found = self.between([same], [other])
        self.assertLessEqual({"position", "size", "fill", "corners", "opacity", "rotation"}, set(found))
        self.assertNotIn("stroke", found)

    def test_words_kinds_and_order(self) -> None:
        self.assertIn("words", self.between([text("a", "one", name="x")], [text("b", "two", name="x")]))
        self.assertIn("content", self.between([box("a", 0, 0, 9, 9, name="x")], [oval("b", 0, 0, 9, 9, name="x")]))
        a, b = (box(i, 0, 0, 9, 9, name=i[0]) for i in ("p1", "q1"))
        c, d = (box(i, 0, 0, 9, 9, name=i[0]) for i in ("q2", "p2"))
        self.assertEqual(self.between([a, b], [d, c][::-1][::-1]), ())
        pairing = pair_frames(Frame("A", "A", layers=(a, b)), Frame("B", "B", layers=(c, d)))
        self.assertEqual(what_changes(pairing, "p1", "p2"), ("order",))
