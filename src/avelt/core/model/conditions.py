"""Conditions of routes: small comparisons of inputs joined by ``and``, ``or`` and ``not``. Parsed, never evaluated
as code.

``boarded and (delay >= 10 or deck = "C")``. A name alone stands for a yes/no input; ``is`` means ``=``; texts stand in
quotes of either kind. ``or`` binds less than ``and``, ``and`` less than ``not``.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Literal

from avelt.core.errors import FormatError
from avelt.core.model.triggers import InputValue
from avelt.core.record import Record

MAX_LENGTH = 2_000
MAX_DEPTH = 40
NAME = re.compile(r"[^\W\d][\w-]*")
_TOKEN = re.compile(
    r"\s*(?:(?P<number>-?\d+(?:\.\d+)?)|(?P<text>\"[^\"]*\"|'[^']*')|(?P<op><=|>=|!=|=|<|>)|(?P<mark>[()])"
    r"|(?P<word>[^\W\d][\w-]*))"
)
_KEPT = {"and", "or", "not", "is", "yes", "no"}
Op = Literal["=", "!=", "<", ">", "<=", ">="]


class InputName(Record, frozen=True):
    """An input, by name; ``at`` is where it stands in the text."""

    name: str
    at: int


Operand = InputName | bool | float | str


class Comparison(Record, frozen=True):
    """Two operands and what is between them."""

    left: Operand
    op: Op
    right: Operand


class Joined(Record, frozen=True):
    """Conditions of which all (``and``) or at least one (``or``) must hold."""

    word: Literal["and", "or"]
    parts: tuple[Condition, ...]


class Not(Record, frozen=True):
    """The opposite of a condition."""

    part: Condition


Condition = Comparison | Joined | Not
ALWAYS = Joined("and", ())


def parse(text: str) -> Condition:
    """The condition that a text says; an empty one always holds. ``FormatError`` with the place of a mistake."""
    if len(text) > MAX_LENGTH:
        raise FormatError(f"A condition has at most {MAX_LENGTH} letters.")
    reader = _Reader(_tokens(text), text)
    if not reader.tokens:
        return ALWAYS
    made = reader.either(0)
    if reader.place < len(reader.tokens):
        raise reader.wrong("Nothing more was expected")
    return made


def may_be_name(name: str) -> bool:
    """Whether conditions can name an input so: letters, digits, ``_`` and ``-``, beginning with a letter."""
    return bool(NAME.fullmatch(name)) and name not in _KEPT


def names_in(condition: Condition) -> tuple[str, ...]:
    """The inputs that it reads, each once, in the order of the text."""
    found: dict[str, None] = {}

    def look(part: Condition) -> None:
        if isinstance(part, Joined):
            for inner in part.parts:
                look(inner)
        elif isinstance(part, Not):
            look(part.part)
        else:
            for side in (part.left, part.right):
                if isinstance(side, InputName):
                    found[side.name] = None

    look(condition)
    return tuple(found)


def holds(condition: Condition, values: Mapping[str, InputValue]) -> bool:
    """Whether it holds for these inputs. Values of different kinds are never equal and have no order."""
    if isinstance(condition, Joined):
        results = (holds(part, values) for part in condition.parts)
        return all(results) if condition.word == "and" else any(results)
    if isinstance(condition, Not):
        return not holds(condition.part, values)
    left, right = _value(condition.left, values), _value(condition.right, values)
    if _kind(left) != _kind(right):
        return condition.op == "!="
    if condition.op in ("=", "!="):
        return (left == right) == (condition.op == "=")
    if isinstance(left, bool | str) or isinstance(right, bool | str):
        return False
    return {"<": left < right, ">": left > right, "<=": left <= right, ">=": left >= right}[condition.op]


def renamed(text: str, old: str, new: str) -> str:
    """The text of a condition in which an input has another name; texts in quotes stay."""
    out, at = [], 0
    for kind, word, start, end in _tokens(text):
        out.append(text[at:start])
        out.append(new if kind == "word" and word == old else text[start:end])
        at = end
    return "".join(out) + text[at:]


def _value(side: Operand, values: Mapping[str, InputValue]) -> InputValue:
    if isinstance(side, InputName):
        return values.get(side.name, False)
    return side


def _kind(value: InputValue) -> str:
    return "yes/no" if isinstance(value, bool) else "number" if isinstance(value, int | float) else "text"


_Token = tuple[str, str, int, int]


def _tokens(text: str) -> list[_Token]:
    found: list[_Token] = []
    at = 0
    while text[at:].strip():
        match = _TOKEN.match(text, at)
        if match is None or match.lastgroup is None:
            rest = text[at:].lstrip()
            raise FormatError(f"“{rest[:12]}” cannot be read.", f"letter {len(text) - len(rest) + 1} of the condition")
        kind = match.lastgroup
        found.append((kind, match.group(kind), match.start(kind), match.end(kind)))
        at = match.end()
    return found


class _Reader:
    """Recursive descent, one method a level."""

    def __init__(self, tokens: list[_Token], text: str) -> None:
        self.tokens, self.text, self.place = tokens, text, 0

    def wrong(self, says: str) -> FormatError:
        at = self.tokens[self.place][2] if self.place < len(self.tokens) else len(self.text)
        return FormatError(f"{says}.", f"letter {at + 1} of the condition")

    def take(self, *words: str) -> str:
        """The next token when it is one of these words or marks; empty otherwise."""
        if self.place < len(self.tokens):
            kind, word, _, _ = self.tokens[self.place]
            if kind in ("word", "op", "mark") and word in words:
                self.place += 1
                return word
        return ""

    def either(self, depth: int) -> Condition:
        if depth > MAX_DEPTH:
            raise self.wrong("The condition is too deep")
        parts = [self.both(depth)]
        while self.take("or"):
            parts.append(self.both(depth))
        return parts[0] if len(parts) == 1 else Joined("or", tuple(parts))

    def both(self, depth: int) -> Condition:
        parts = [self.one(depth)]
        while self.take("and"):
            parts.append(self.one(depth))
        return parts[0] if len(parts) == 1 else Joined("and", tuple(parts))

    def one(self, depth: int) -> Condition:
        if depth > MAX_DEPTH:
            raise self.wrong("The condition is too deep")
        if self.take("not"):
            return Not(self.one(depth + 1))
        if self.take("("):
            made = self.either(depth + 1)
            if not self.take(")"):
                raise self.wrong("A “)” is missing")
            return made
        left = self.operand()
        if self.take("is"):
            op: str = "!=" if self.take("not") else "="
        else:
            op = self.take("<=", ">=", "!=", "=", "<", ">")
        if op:
            return Comparison(left, op, self.operand())  # type: ignore[arg-type]
        if isinstance(left, InputName | bool):
            return Comparison(left, "=", True)
        raise self.wrong("A comparison was expected")

    def operand(self) -> Operand:
        if self.place >= len(self.tokens):
            raise self.wrong("An input, a number or a text is missing")
        kind, word, at, _ = self.tokens[self.place]
        if kind in ("op", "mark") or (kind == "word" and word in _KEPT - {"yes", "no"}):
            raise self.wrong(f"An input, a number or a text was expected, not “{word}”")
        self.place += 1
        if kind == "number":
            return float(word)
        if kind == "text":
            return word[1:-1]
        return word == "yes" if word in ("yes", "no") else InputName(word, at)
