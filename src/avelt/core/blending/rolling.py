"""Numbers that roll from one to the other digit by digit, with carry, as mechanical counters do."""

from __future__ import annotations

import re

from avelt.core.record import Record

_NUMBER = re.compile(r"(?P<before>[^\d]*?)(?P<sign>[-\u2212]?)(?P<digits>\d[\d.,\u202f\u00a0 ]*\d|\d)(?P<after>[^\d]*)")
_MOST_DIGITS = 15


class Column(Record, frozen=True):
    """One place of a rolling number: what stands there, what comes up from below, and how far it is up, 0..1.

    ``seen`` is how much of the place shows: leading places come and go.
    """

    now: str
    coming: str = ""
    up: float = 0.0
    seen: float = 1.0


class _Parsed(Record, frozen=True):
    before: str
    value: int
    marks: tuple[tuple[int, str], ...]  # marks by the number of digits to their right
    digits: int
    after: str


def can_roll(first: str, second: str) -> bool:
    """Whether both texts are one number each, written alike (the same words round it, the same decimals)."""
    a, b = _parse(first), _parse(second)
    if a is None or b is None or (a.before, a.after) != (b.before, b.after):
        return False
    return _decimals(a) == _decimals(b)


def columns(first: str, second: str, share: float) -> tuple[Column, ...]:
    """The places from left to right when ``share`` of the way is done (0: ``first``, 1: ``second``)."""
    a, b = _parse(first), _parse(second)
    if a is None or b is None:
        return tuple(Column(letter) for letter in (first if share < 0.5 else second))
    value = max(0.0, a.value + (b.value - a.value) * share)
    count = max(a.digits, b.digits)
    wide = a if a.digits >= b.digits else b
    marks = dict(wide.marks)
    made = [Column(letter) for letter in a.before]
    for place in range(count - 1, -1, -1):
        made.append(_column(value, place, place < min(a.digits, b.digits)))
        if place in marks:
            shown = made[-1].seen if place >= min(a.digits, b.digits) else 1.0
            made.append(Column(marks[place], seen=shown))
    return (*made, *(Column(letter) for letter in a.after))


def _column(value: float, place: int, always: bool) -> Column:
    """A digit; it turns while all digits below it go from 9 to 0."""
    unit = 10**place
    whole = int(value // unit)
    below = value / unit - whole  # 0..1: how near the next digit is
    # The last digit turns all the time; the others only in the last unit of the digits below.
    up = below if place == 0 else max(0.0, 1.0 - (1.0 - below) * unit)
    seen = 1.0 if always else min(1.0, max(0.0, value / unit))
    if not always and whole == 0:
        seen = up
    return Column(str(whole % 10), str((whole + 1) % 10) if up > 0.0 else "", up, seen)


def _parse(text: str) -> _Parsed | None:
    match = _NUMBER.fullmatch(text)
    if match is None or match.group("sign"):
        return None
    body = match.group("digits")
    digits = [letter for letter in body if letter.isdigit()]
    if len(digits) > _MOST_DIGITS or not all(letter in "0123456789" for letter in digits):
        return None
    marks, right = [], len(digits)
    for letter in body:
        if letter.isdigit():
            right -= 1
        else:
            marks.append((right, letter))
    if len({place for place, _ in marks}) != len(marks):
        return None
    return _Parsed(match.group("before"), int("".join(digits)), tuple(marks), len(digits), match.group("after"))


def _decimals(parsed: _Parsed) -> tuple[int, str] | None:
    """The decimal mark: the last mark when it does not part thousands."""
    if not parsed.marks:
        return None
    place, letter = parsed.marks[-1]
    return None if place == 3 and letter != "." else (place, letter)
