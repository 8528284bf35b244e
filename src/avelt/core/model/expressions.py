"""Expressions: what conditions, blends and feeds say. Parsed, never evaluated as code.

A condition is an expression that is yes or no: ``boarded and (delay >= 10 or deck = "C")``. A name alone stands for a
yes/no input; ``is`` means ``=``; texts stand in quotes of either kind. A value is worked out with ``+ - * /``,
``min(a, b)``, ``max(a, b)`` and ``clamp(low, value, high)``: ``clamp(0, pull * 2 - 1, 1)``. ``or`` binds less than
``and``, ``and`` less than ``not``, that less than comparisons, those less than sums, sums less than products.

Yes counts as 1 and no as 0 where a number is needed, a text as 0. What is divided by 0 is 0.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Container, Iterator, Mapping
from typing import Literal

from avelt.core.errors import FormatError
from avelt.core.model.triggers import InputValue
from avelt.core.record import Record
from avelt.core.words import tr

MAX_LENGTH = 2_000
MAX_DEPTH = 40
NAME = re.compile(r"[^\W\d][\w-]*")
_TOKEN = re.compile(
    r"\s*(?:(?P<number>\d+(?:\.\d+)?|\.\d+)|(?P<text>\"[^\"]*\"|'[^']*')|(?P<op><=|>=|!=|=|<|>)"
    r"|(?P<mark>[()+*/,-])|(?P<word>[^\W\d][\w-]*))"
)
_KEPT = {"and", "or", "not", "is", "yes", "no"}
FUNCTIONS = ("min", "max", "clamp")
Op = Literal["=", "!=", "<", ">", "<=", ">="]


class InputName(Record, frozen=True):
    """An input, by name; ``at`` is where it stands in the text."""

    name: str
    at: int


class Chain(Record, frozen=True):
    """A sum or a product: the first operand, then each with what is done with it."""

    first: Expression
    rest: tuple[tuple[Literal["+", "-", "*", "/"], Expression], ...]


class Call(Record, frozen=True):
    """The least or the greatest of some numbers, or (``clamp``) the middle one of three."""

    name: str
    of: tuple[Expression, ...]


class Comparison(Record, frozen=True):
    """Two operands and what is between them."""

    left: Expression
    op: Op
    right: Expression


class Joined(Record, frozen=True):
    """Conditions of which all (``and``) or at least one (``or``) must hold."""

    word: Literal["and", "or"]
    parts: tuple[Condition, ...]


class Not(Record, frozen=True):
    """The opposite of a condition."""

    part: Condition


Condition = Comparison | Joined | Not
Expression = InputName | bool | float | str | Chain | Call | Condition
ALWAYS = Joined("and", ())


def parse(text: str) -> Condition:
    """The condition that a text says; an empty one always holds. ``FormatError`` with the place of a mistake."""
    if not text.strip():
        return ALWAYS
    reader = _Reader(text, "condition")
    return reader.truth(reader.whole())


def parse_value(text: str) -> Expression:
    """The value that a text works out. ``FormatError`` with the place of a mistake."""
    return _Reader(text, "expression").whole()


def may_be_name(name: str) -> bool:
    """Whether conditions can name an input so: letters, digits, ``_`` and ``-``, beginning with a letter."""
    return bool(NAME.fullmatch(name)) and name not in _KEPT


def _inner(part: Expression) -> tuple[Expression, ...]:
    """What an expression is made of."""
    if isinstance(part, Joined):
        return part.parts
    if isinstance(part, Not):
        return (part.part,)
    if isinstance(part, Comparison):
        return part.left, part.right
    if isinstance(part, Chain):
        return (part.first, *(term for _, term in part.rest))
    return part.of if isinstance(part, Call) else ()


def walk(expression: Expression) -> Iterator[Expression]:
    """An expression and everything in it, in the order of the text."""
    yield expression
    for part in _inner(expression):
        yield from walk(part)


def names_in(expression: Expression) -> tuple[str, ...]:
    """The inputs that it reads, each once, in the order of the text."""
    return tuple(dict.fromkeys(part.name for part in walk(expression) if isinstance(part, InputName)))


def names_read(text: str) -> frozenset[str]:
    """The inputs that a text reads; none where it is empty or cannot be read."""
    try:
        return frozenset(names_in(parse_value(text))) if text.strip() else frozenset()
    except FormatError:
        return frozenset()


def unknown_in(expression: Expression, known: Container[str]) -> InputName | None:
    """The first input that it reads and that is not among those known."""
    names = (part for part in walk(expression) if isinstance(part, InputName))
    return next((name for name in names if name.name not in known), None)


def holds(condition: Condition, values: Mapping[str, InputValue]) -> bool:
    """Whether it holds for these inputs. Values of different kinds are never equal and have no order."""
    if isinstance(condition, Joined):
        results = (holds(part, values) for part in condition.parts)
        return all(results) if condition.word == "and" else any(results)
    if isinstance(condition, Not):
        return not holds(condition.part, values)
    left, right = value_of(condition.left, values), value_of(condition.right, values)
    if _kind(left) != _kind(right):
        return condition.op == "!="
    if condition.op in ("=", "!="):
        return (left == right) == (condition.op == "=")
    if isinstance(left, bool | str) or isinstance(right, bool | str):
        return False
    return {"<": left < right, ">": left > right, "<=": left <= right, ">=": left >= right}[condition.op]


def value_of(expression: Expression, values: Mapping[str, InputValue]) -> InputValue:
    """What it is for these inputs; an input that is not there is no."""
    if isinstance(expression, InputName):
        return values.get(expression.name, False)
    if isinstance(expression, Chain):
        total = number_of(expression.first, values)
        for op, term in expression.rest:
            by = number_of(term, values)
            total = {"+": total + by, "-": total - by, "*": total * by}[op] if op != "/" else total / by if by else 0.0
        return total if math.isfinite(total) else 0.0
    if isinstance(expression, Call):
        numbers = sorted(number_of(part, values) for part in expression.of)
        return numbers[{"min": 0, "max": -1, "clamp": 1}[expression.name]]
    if isinstance(expression, Comparison | Joined | Not):
        return holds(expression, values)
    return expression


def number_of(expression: Expression, values: Mapping[str, InputValue]) -> float:
    """What it is as a number: yes is 1, no is 0, and so is a text."""
    found = value_of(expression, values)
    return 0.0 if isinstance(found, str) else float(found)


def divides_by_zero(expression: Expression, values: Mapping[str, InputValue]) -> bool:
    """Whether something is divided by 0 for these inputs."""
    chains = (part for part in walk(expression) if isinstance(part, Chain))
    return any(op == "/" and number_of(term, values) == 0.0 for chain in chains for op, term in chain.rest)


def renamed(text: str, old: str, new: str) -> str:
    """The text of an expression in which an input has another name; texts in quotes stay."""
    out, at = [], 0
    for kind, word, start, end in _tokens(text, "condition"):
        out.append(text[at:start])
        out.append(new if kind == "word" and word == old else text[start:end])
        at = end
    return "".join(out) + text[at:]


def _kind(value: InputValue) -> str:
    return "yes/no" if isinstance(value, bool) else "number" if isinstance(value, int | float) else "text"


_Token = tuple[str, str, int, int]


def _tokens(text: str, what: str) -> list[_Token]:
    if len(text) > MAX_LENGTH:
        raise FormatError(
            tr("At most {max_length:,} letters can be said in one {what}.", max_length=MAX_LENGTH, what=what)
        )
    found: list[_Token] = []
    at = 0
    while text[at:].strip():
        match = _TOKEN.match(text, at)
        if match is None or match.lastgroup is None:
            rest = text[at:].lstrip()
            raise FormatError(
                tr("“{rest}” cannot be read.", rest=rest[:12]),
                tr("letter {count} of the {what}", count=len(text) - len(rest) + 1, what=what),
            )
        kind = match.lastgroup
        found.append((kind, match.group(kind), match.start(kind), match.end(kind)))
        at = match.end()
    return found


class _Reader:
    """Recursive descent, one method a level."""

    def __init__(self, text: str, what: str) -> None:
        self.tokens, self.text, self.what, self.place = _tokens(text, what), text, what, 0

    def whole(self) -> Expression:
        """Everything that was written."""
        made = self.either(0)
        if self.place < len(self.tokens):
            raise self.wrong(tr("Nothing more was expected"))
        return made

    def wrong(self, says: str) -> FormatError:
        at = self.tokens[self.place][2] if self.place < len(self.tokens) else len(self.text)
        return FormatError(f"{says}.", tr("letter {at} of the {what}", at=at + 1, what=self.what))

    def truth(self, made: Expression) -> Condition:
        """An expression as one that is yes or no."""
        if isinstance(made, Comparison | Joined | Not):
            return made
        if isinstance(made, InputName | bool):
            return Comparison(made, "=", True)
        raise self.wrong(tr("A comparison was expected"))

    def next_is(self, *words: str) -> bool:
        """Whether the next token is one of these words or marks."""
        if self.place >= len(self.tokens):
            return False
        kind, word, _, _ = self.tokens[self.place]
        return kind in ("word", "op", "mark") and word in words

    def take(self, *words: str) -> str:
        """The next token when it is one of these words or marks; empty otherwise."""
        if not self.next_is(*words):
            return ""
        self.place += 1
        return self.tokens[self.place - 1][1]

    def either(self, depth: int) -> Expression:
        if depth > MAX_DEPTH:
            raise self.wrong(tr("The {what} is too deep", what=self.what))
        return self.joined("or", self.both, depth)

    def both(self, depth: int) -> Expression:
        return self.joined("and", self.one, depth)

    def joined(self, word: Literal["and", "or"], inner: Callable[[int], Expression], depth: int) -> Expression:
        """Some conditions with a word between them, or the one expression that stands there."""
        first = inner(depth)
        if not self.next_is(word):
            return first
        parts = [self.truth(first)]
        while self.take(word):
            parts.append(self.truth(inner(depth)))
        return Joined(word, tuple(parts))

    def one(self, depth: int) -> Expression:
        if depth > MAX_DEPTH:
            raise self.wrong(tr("The {what} is too deep", what=self.what))
        if self.take("not"):
            return Not(self.truth(self.one(depth + 1)))
        left = self.sum(depth)
        if self.take("is"):
            op: str = "!=" if self.take("not") else "="
        else:
            op = self.take("<=", ">=", "!=", "=", "<", ">")
        return Comparison(left, op, self.sum(depth)) if op else left  # type: ignore[arg-type]

    def sum(self, depth: int) -> Expression:
        return self.chain(("+", "-"), self.product, depth)

    def product(self, depth: int) -> Expression:
        return self.chain(("*", "/"), self.signed, depth)

    def chain(self, ops: tuple[str, str], inner: Callable[[int], Expression], depth: int) -> Expression:
        """Operands with signs of one kind between them."""
        first = inner(depth)
        rest = []
        while op := self.take(*ops):
            rest.append((op, inner(depth)))
        return Chain(first, tuple(rest)) if rest else first  # type: ignore[arg-type]

    def signed(self, depth: int) -> Expression:
        negative = False
        while self.take("-"):
            negative = not negative
        made = self.operand(depth)
        if not negative:
            return made
        return -made if type(made) is float else Chain(0.0, (("-", made),))

    def operand(self, depth: int) -> Expression:
        if self.place >= len(self.tokens):
            raise self.wrong(tr("An input, a number or a text is missing"))
        if self.take("("):
            made = self.either(depth + 1)
            self.close()
            return made
        kind, word, at, _ = self.tokens[self.place]
        if kind in ("op", "mark") or (kind == "word" and word in _KEPT - {"yes", "no"}):
            raise self.wrong(tr("An input, a number or a text was expected, not “{word}”", word=word))
        self.place += 1
        if kind == "number":
            return min(float(word), 1e300)
        if kind == "text":
            return word[1:-1]
        if word in FUNCTIONS and self.take("("):
            return self.call(word, depth)
        return word == "yes" if word in ("yes", "no") else InputName(word, at)

    def call(self, name: str, depth: int) -> Call:
        """What a function is of, after its “(”."""
        of = [self.either(depth + 1)]
        while self.take(","):
            of.append(self.either(depth + 1))
        if name == "clamp" and len(of) != 3:
            raise self.wrong(tr("clamp takes three numbers"))
        self.close()
        return Call(name, tuple(of))

    def close(self) -> None:
        if not self.take(")"):
            raise self.wrong(tr("A “)” is missing"))
