"""The table of kinds, and that every room that has one of its own has a row for each."""

from __future__ import annotations

import typing
import unittest

from avelt.core.formats.checked import BODIES
from avelt.core.geometry.outlines import OUTLINES, outline
from avelt.core.model.kinds import KINDS, asset_of, group_of, kind_of, mask_of, words_of
from avelt.core.model.values import KIND_WORDS, Body, Box, Group, Oval, Path, Picture, Run, Subpath, Text
from avelt.core.timing.items import FORMS
from tests.support import box, group, oval, text


class Kinds(unittest.TestCase):
    def test_every_kind_has_a_row_in_every_table(self) -> None:
        bodies = set(typing.get_args(Body))
        self.assertEqual({kind.body for kind in KINDS}, bodies)
        self.assertEqual(set(KIND_WORDS), bodies)
        self.assertEqual(set(BODIES), bodies)
        self.assertEqual(set(FORMS), bodies)
        self.assertEqual(set(OUTLINES), bodies - {Text, Group})

    def test_words_are_those_of_the_values(self) -> None:
        self.assertEqual({kind.body: kind.word for kind in KINDS}, KIND_WORDS)

    def test_what_a_kind_can_do(self) -> None:
        made = {kind.word: kind for kind in KINDS}
        self.assertEqual([w for w, k in made.items() if k.holds], ["group"])
        self.assertEqual([w for w, k in made.items() if k.shape], ["box", "oval", "path"])
        self.assertEqual([w for w, k in made.items() if k.makes_path], ["box", "oval", "text"])
        self.assertEqual([w for w, k in made.items() if not k.painted], ["picture", "group", "use"])

    def test_questions_about_a_layer(self) -> None:
        inner = box("a", 0, 0, 9, 9)
        masked = box("g", 0, 0, 9, 9, body=Group((inner,), mask="a"))
        self.assertEqual((mask_of(masked), mask_of(inner), mask_of(group("h", 0, 0, (inner,)))), ("a", "", ""))
        self.assertEqual(group_of(masked), masked.body)
        self.assertIsNone(group_of(inner))
        self.assertEqual((words_of(text("t", "Hi")), words_of(inner)), ("Hi", ""))
        self.assertEqual((asset_of(box("p", 0, 0, 9, 9, body=Picture("x"))), asset_of(inner)), ("x", ""))
        self.assertEqual(kind_of(oval("o", 0, 0, 9, 9)).word, "oval")

    def test_outlines_stand_in_their_box(self) -> None:
        line = Path((Subpath((0.0, 0.0, 1.0, 1.0, 2.0, 2.0, 3.0, 3.0)),))
        for body, closed in ((Box((2.0, 2.0, 2.0, 2.0)), True), (Oval(), True), (Picture("x"), True)):
            ((points, is_closed),) = outline(body, 40.0, 30.0) or []
            self.assertEqual(is_closed, closed)
            self.assertEqual(points.min(axis=0).round(6).tolist(), [0.0, 0.0])
            self.assertEqual(points.max(axis=0).round(6).tolist(), [40.0, 30.0])
        ((points, is_closed),) = outline(line, 3.0, 3.0) or []
        self.assertEqual((points[-1].tolist(), is_closed), ([3.0, 3.0], False))
        self.assertIsNone(outline(Text((Run("a"),)), 9.0, 9.0))
        self.assertIsNone(outline(Group(), 9.0, 9.0))
