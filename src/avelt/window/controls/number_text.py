"""What a person types into a number field: arithmetic and units, read without ``eval``."""

from __future__ import annotations

import re
from typing import Literal

from avelt.core.errors import FormatError
from avelt.core.record import Record
from avelt.core.words import tr


class Amount(Record, frozen=True):
    """What was typed: a value, or what it does to the value that is there."""

    how: Literal["is", "by", "times"]
    value: float

    def of(self, before: float) -> float:
        """The new value."""
        return self.value if self.how == "is" else before + self.value if self.how == "by" else before * self.value


_TIMES = re.compile(r"([-+*/().\d\s,]+?)\s*[x×]", re.I)


def is_relative(text: str) -> bool:
    """Whether a text says what to do to a value: ``+40``, ``-10%``, ``150%``, ``1.5x``."""
    plain = text.strip()
    return plain[:1] == "+" or plain[-1:] == "%" or bool(_TIMES.fullmatch(plain))


def read_amount(text: str, unit: str = "") -> Amount:
    """What is meant by ``text``, the same in every field.

    ``1.5x`` and ``150%`` multiply, ``+40`` adds, ``+10%`` and ``-10%`` make it a tenth more or less; all else is the
    value itself. In a field of percents an unsigned percent is the value.

    >>> [read_amount(text, "ms").of(200.0) for text in ("1.5x", "150%", "+40", "-10%", "0.3s", "-40")]
    [300.0, 300.0, 240.0, 180.0, 300.0, -40.0]
    >>> [read_amount(text, "%").of(50.0) for text in ("80%", "1.5x", "+10", "-10%")]
    [80.0, 75.0, 60.0, 45.0]
    """
    plain = text.strip().replace("−", "-")
    if found := _TIMES.fullmatch(plain):
        return Amount("times", read_number(found.group(1)))
    if plain[-1:] == "%" and plain[:1] in ("+", "-"):
        return Amount("times", 1.0 + read_number(plain[:-1]) / 100.0)
    if plain[-1:] == "%" and unit != "%":
        return Amount("times", read_number(plain[:-1]) / 100.0)
    if plain[:1] == "+":
        return Amount("by", read_number(plain[1:], unit))
    return Amount("is", read_number(plain, unit))


_comma = False


def show_comma(on: bool) -> None:
    """From now on decimals are shown with a comma, or with a point."""
    global _comma
    _comma = on


def with_sign(text: str) -> str:
    """A number's text with the decimal sign that is wanted."""
    return text.replace(".", ",") if _comma else text


_TOKEN = re.compile(r"\s*(?:(\d+\.?\d*|\.\d+)\s*([a-z°%×]*)|([-+*/()]))", re.I)


def read_number(text: str, unit: str = "") -> float:
    """The number meant by ``text`` in the field's unit: ``0.4s``, ``400ms``, ``50%``, ``2*(8+4)``.

    Units: ms and s for times, px and ° are taken as they are, % is a hundredth (for "%" fields: itself).

    >>> read_number("0.4s", "ms"), read_number("2*(8+4)"), read_number("50%")
    (400.0, 24.0, 0.5)
    """
    tokens: list[float | str] = []
    at = 0
    text = text.strip().replace(",", ".").replace("−", "-")
    while at < len(text):
        found = _TOKEN.match(text, at)
        if found is None or found.end() == at:
            raise FormatError(tr("“{words}” is not a number.", words=text))
        if found.group(3):
            tokens.append(found.group(3))
        else:
            tokens.append(float(found.group(1)) * _factor(found.group(2).lower(), unit, text))
        at = found.end()
    reader = _Reader(tokens, text)
    value = reader.sum()
    if reader.at != len(tokens):
        raise FormatError(tr("“{words}” is not a number.", words=text))
    if not abs(value) < 1e9:
        raise FormatError(tr("“{words}” is too large.", words=text))
    return value


def _factor(word: str, unit: str, text: str) -> float:
    if word in ("", unit, "px", "°", "deg"):
        return 1.0
    if unit == "ms" and word in ("ms", "s"):
        return 1000.0 if word == "s" else 1.0
    if word == "%":
        return 1.0 if unit == "%" else 0.01
    raise FormatError(tr("“{words}”: {word} is not a unit of this field.", words=text, word=word))


class _Reader:
    """A small recursive reader of sums, products and signs."""

    def __init__(self, tokens: list[float | str], text: str) -> None:
        self.tokens, self.text, self.at = tokens, text, 0

    def _next(self) -> float | str | None:
        return self.tokens[self.at] if self.at < len(self.tokens) else None

    def sum(self, depth: int = 0) -> float:
        value = self.product(depth)
        while self._next() in ("+", "-"):
            sign = self.tokens[self.at]
            self.at += 1
            other = self.product(depth)
            value = value + other if sign == "+" else value - other
        return value

    def product(self, depth: int) -> float:
        value = self.one(depth)
        while self._next() in ("*", "/"):
            sign = self.tokens[self.at]
            self.at += 1
            other = self.one(depth)
            if sign == "/" and other == 0:
                raise FormatError(tr("“{words}” divides by zero.", words=self.text))
            value = value * other if sign == "*" else value / other
        return value

    def one(self, depth: int) -> float:
        token = self._next()
        self.at += 1
        if isinstance(token, float):
            return token
        if token in ("-", "+") and depth < 50:
            value = self.one(depth + 1)
            return -value if token == "-" else value
        if token == "(" and depth < 50:
            value = self.sum(depth + 1)
            if self._next() == ")":
                self.at += 1
                return value
        raise FormatError(tr("“{words}” is not a number.", words=self.text))
