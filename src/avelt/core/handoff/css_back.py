"""What somebody typed into a delivered style sheet: lengths, delays and curves of its animations, and nothing else."""

from __future__ import annotations

import re
from collections.abc import Sequence

from avelt.core.curves.text import parse
from avelt.core.errors import AveltError, FormatError
from avelt.core.model.curves import PlainCurve
from avelt.core.record import Record
from avelt.core.words import tr

_VARIABLE = re.compile(r"^\s*--((?:length|curve)-\d+):\s*(.+?);\s*$")
_NAME = re.compile(r"^/\* (.+) \*/$")
_ROW = re.compile(
    r"^\s*(?:animation:\s*)?(?P<name>[\w-]+)\s+(?P<length>var\(--length-\d+\)|[\d.]+m?s)\s+"
    r"(?P<curve>.+?)\s+(?P<delay>-?[\d.]+m?s)(?P<more>\s+(?:infinite|[\d.]+))?\s+(?:both|forwards)\s*[,;]\s*$"
)
_TIME = re.compile(r"^(-?\d+\.?\d*|-?\.\d+)(ms|s)$")
#: The end of an animation's name -> the property whose cue it is.
_PROPS = {"position": "position", "opacity": "opacity", "shape": "shape", "width": "size", "height": "size"}
ONLY = "Only lengths, delays and curves are taken back; all else is made by Avelt."


class Typed(Record, frozen=True):
    """One animation of a layer that was typed otherwise: what it was and what it shall be (ms), its line (from 1), and
    the property (empty: of the whole layer). ``curve`` is ``None`` where it is as it was."""

    layer: str
    prop: str
    line: int
    was: tuple[float, float]
    start: float
    end: float
    curve: PlainCurve | None


class _Row(Record, frozen=True):
    layer: str
    name: str
    line: int
    length: float
    delay: float
    curve: str
    repeats: bool


def typed(old: str, new: str) -> list[Typed]:
    """The animations that are otherwise in ``new``; ``FormatError`` with the line of what cannot be taken back."""
    before, after = old.split("\n"), new.split("\n")
    if len(before) != len(after):
        raise FormatError(ONLY, tr("line {before}", before=_first_other(before, after)))
    for number, (one, other) in enumerate(zip(before, after, strict=True), 1):
        if one != other and not _may_differ(one, other):
            raise FormatError(ONLY, tr("line {number}", number=number))
    rows = list(zip(_rows(before), _rows(after), strict=True))
    of_layer: dict[str, int] = {}
    changed: dict[str, int] = {}
    for was, now in rows:
        of_layer[was.layer] = of_layer.get(was.layer, 0) + 1
        changed[was.layer] = changed.get(was.layer, 0) + _differs(was, now)
    found: dict[tuple[str, str], Typed] = {}
    for was, now in rows:
        if not _differs(was, now):
            continue
        if was.repeats:
            raise FormatError(tr("Loops are changed in Loops."), tr("line {line}", line=now.line))
        whole = changed[was.layer] == of_layer[was.layer]
        prop = "" if whole else _PROPS.get(was.name.rsplit("-", 1)[-1], "")
        curve = None if was.curve == now.curve else _curve(now.curve, now.line)
        times = (was.delay, was.delay + was.length)
        made = Typed(was.layer, prop, now.line, times, now.delay, now.delay + now.length, curve)
        found.setdefault((was.layer, prop), made)
    return list(found.values())


def _first_other(before: Sequence[str], after: Sequence[str]) -> int:
    pairs = zip(before, after, strict=False)
    return next((k for k, (a, b) in enumerate(pairs, 1) if a != b), min(len(before), len(after)) + 1)


def _may_differ(one: str, other: str) -> bool:
    a, b = _VARIABLE.match(one), _VARIABLE.match(other)
    if a and b:
        return a.group(1) == b.group(1)
    a, b = _ROW.match(one), _ROW.match(other)
    return bool(a and b and a.group("name") == b.group("name") and a.group("more") == b.group("more"))


def _rows(lines: Sequence[str]) -> list[_Row]:
    values = {found.group(1): found.group(2) for line in lines if (found := _VARIABLE.match(line))}
    made: list[_Row] = []
    layer = ""
    for number, line in enumerate(lines, 1):
        if found := _NAME.match(line):
            layer = found.group(1)
        elif found := _ROW.match(line):
            length = _ms(_value(found.group("length"), values), number)
            delay, curve = _ms(found.group("delay"), number), _value(found.group("curve"), values)
            name = found.group("name")
            if not name.endswith("-there"):  # when something is there at all: made by Avelt
                made.append(_Row(layer, name, number, length, delay, curve, bool(found.group("more"))))
        elif line.startswith("}"):
            layer = ""
    return made


def _value(text: str, values: dict[str, str]) -> str:
    name = text.strip().removeprefix("var(--").removesuffix(")")
    return values.get(name, text.strip()) if text.strip().startswith("var(") else text.strip()


def _ms(text: str, line: int) -> float:
    found = _TIME.match(text)
    if found is None:
        raise FormatError(tr("{words!r} is no time, such as 350ms or 0.35s.", words=text), tr("line {line}", line=line))
    return float(found.group(1)) * (1000.0 if found.group(2) == "s" else 1.0)


def _curve(text: str, line: int) -> PlainCurve:
    try:
        return parse(text)
    except AveltError as error:
        raise error.at(f"line {line}") from None


def _differs(one: _Row, other: _Row) -> bool:
    return (one.length, one.delay, one.curve) != (other.length, other.delay, other.curve)
