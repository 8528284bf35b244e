"""Conditions: what they say, and what is wrong with a text."""

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from avelt.core.errors import FormatError
from avelt.core.model.expressions import (
    ALWAYS,
    MAX_DEPTH,
    divides_by_zero,
    holds,
    may_be_name,
    names_in,
    parse,
    parse_value,
    renamed,
    value_of,
)

VALUES = {"boarded": True, "delay": 12.0, "deck": "C", "rough": False}


class Holding(unittest.TestCase):
    def test_what_holds_and_what_does_not(self) -> None:
        for text, wanted in (
            ("", True),
            ("boarded", True),
            ("not boarded", False),
            ("delay >= 12", True),
            ("delay > 12", False),
            ("delay < -3.5", False),
            ("12 = delay", True),
            ("deck = 'C' and not rough", True),
            ('deck is "C"', True),
            ("deck is not 'C'", False),
            ("rough or boarded and delay > 20", False),
            ("(rough or boarded) and delay > 10", True),
            ("not not boarded", True),
            ("boarded = yes and rough = no", True),
            ("unknown", False),
            ("not unknown", True),
        ):
            self.assertIs(holds(parse(text), VALUES), wanted, text)

    def test_values_of_other_kinds_are_neither_equal_nor_ordered(self) -> None:
        for text in ("deck = 3", "deck < 3", "boarded = 1", "boarded > 0", "deck < 'D'"):
            self.assertFalse(holds(parse(text), VALUES), text)
        self.assertTrue(holds(parse("deck != 3"), VALUES))

    def test_or_binds_less_than_and_and_not_most(self) -> None:
        for a in (True, False):
            for b in (True, False):
                for c in (True, False):
                    values = {"a": a, "b": b, "c": c}
                    self.assertEqual(holds(parse("a or b and not c"), values), a or (b and not c))

    def test_the_inputs_that_it_reads(self) -> None:
        self.assertEqual(names_in(parse("b and (a > 1 or b) and 'x' = c")), ("b", "a", "c"))
        self.assertEqual(names_in(ALWAYS), ())

    def test_renaming_leaves_texts_and_longer_names_alone(self) -> None:
        self.assertEqual(renamed("deck = 'deck' and  deck-2 > 1", "deck", "level"), "level = 'deck' and  deck-2 > 1")

    def test_names(self) -> None:
        for name, good in (
            ("delay", True),
            ("deck-2", True),
            ("über_7", True),
            ("2nd", False),
            ("and", False),
            ("a b", False),
            ("", False),
        ):
            self.assertIs(may_be_name(name), good, name)


class Values(unittest.TestCase):
    def test_what_is_worked_out(self) -> None:
        for text, wanted in (
            ("1 + 2 * 3 - 4 / 2", 5.0),
            ("(1 + 2) * 3", 9.0),
            ("10 - 2 - 3", 5.0),
            ("-delay + 20", 8.0),
            ("--2", 2.0),
            ("2 * -delay", -24.0),
            ("-.5", -0.5),
            ("min(3, delay, 7)", 3.0),
            ("max(3, delay)", 12.0),
            ("clamp(0, delay, 10)", 10.0),
            ("clamp(delay, 0, 10)", 10.0),
            ("boarded + 1", 2.0),
            ("deck + 1", 1.0),
            ("1 / 0 + 3", 3.0),
            ("delay / rough", 0.0),
            ("delay > 3", True),
            ("deck", "C"),
            ("unknown", False),
            ("(delay > 3) * 5", 5.0),
            ("min", False),
        ):
            self.assertEqual(value_of(parse_value(text), VALUES), wanted, text)

    def test_in_conditions(self) -> None:
        for text, wanted in (
            ("delay - 2 = 10", True),
            ("delay * 2 > 24", False),
            ("max(delay, 20) = 20 and boarded", True),
        ):
            self.assertIs(holds(parse(text), VALUES), wanted, text)

    def test_what_never_ends_is_a_number(self) -> None:
        huge = "9" * 400
        self.assertEqual(value_of(parse_value(f"{huge} * {huge}"), {}), 0.0)
        self.assertEqual(value_of(parse_value(" + ".join(["1"] * 400)), {}), 400.0)

    def test_mistakes(self) -> None:
        for text, at in (("1 +", 4), ("clamp(1, 2)", 11), ("min(1", 6), ("(1", 3), ("1 2", 3), ("", 1), ("* 2", 1)):
            with self.assertRaises(FormatError) as caught:
                parse_value(text)
            self.assertIn(f"letter {at} of the expression", str(caught.exception), text)
        with self.assertRaises(FormatError):
            parse("delay + 1")  # a number is no condition

    def test_divided_by_zero(self) -> None:
        self.assertTrue(divides_by_zero(parse_value("3 / (delay - 12)"), VALUES))
        self.assertFalse(divides_by_zero(parse_value("3 / delay - 12"), VALUES))
        self.assertTrue(divides_by_zero(parse("boarded and 2 / rough > 1"), VALUES))


class Mistakes(unittest.TestCase):
    def test_each_has_a_sentence_and_a_place(self) -> None:
        for text, at in (
            ("delay >", 8),
            ("and boarded", 1),
            ("boarded boarded", 9),
            ("(boarded", 9),
            ("boarded)", 8),
            ("delay & 3", 7),
            ("3", 2),
            ("not", 4),
            ("deck = 'C", 8),
        ):
            with self.assertRaises(FormatError) as caught:
                parse(text)
            self.assertIn(f"letter {at} of", str(caught.exception), text)

    def test_too_deep_and_too_long_are_refused(self) -> None:
        for text in (
            "(" * (MAX_DEPTH + 5) + "a" + ")" * (MAX_DEPTH + 5),
            "not " * (MAX_DEPTH + 5) + "a",
            "a or " * 900 + "a",
        ):
            with self.assertRaises(FormatError):
                parse(text)

    @given(st.text(alphabet="ab01 ()<>=!'\"andornotis-", max_size=40))
    def test_any_text_is_read_or_refused(self, text: Any) -> None:
        try:
            condition = parse(text)
        except FormatError:
            return
        self.assertIsInstance(holds(condition, {"a": 1.0, "b": True}), bool)
