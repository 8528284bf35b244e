"""The small languages inside SVG attributes: numbers, lengths, transforms, view boxes, path data."""

from __future__ import annotations

import math
import re
from collections.abc import Callable

from avelt.core.arrays import Floats, np
from avelt.core.errors import FormatError
from avelt.core.geometry import affine
from avelt.core.geometry.bezier import arc_to, line_to
from avelt.core.model.limits import MAX_COORDINATE, MAX_PATH_NUMBERS
from avelt.core.words import tr

NUMBER = r"[+-]?(?:\d+\.?\d*|\.\d+)(?:[eE][+-]?\d+)?"
_NUMBER = re.compile(NUMBER)
_LENGTH = re.compile(rf"\s*({NUMBER})\s*([a-z%]*)\s*", re.I)
#: CSS Values 4: absolute lengths in px. em and ex stand for the font size, handled by the caller.
_PX = {"": 1.0, "px": 1.0, "pt": 96 / 72, "pc": 16.0, "mm": 96 / 25.4, "cm": 96 / 2.54, "in": 96.0, "q": 96 / 101.6}


def numbers(text: str) -> list[float]:
    """All numbers in a list of them."""
    return [usable(float(found)) for found in _NUMBER.findall(text)]


def usable(value: float) -> float:
    """The number, or ``FormatError`` when it is not finite or beyond any screen."""
    if not math.isfinite(value) or abs(value) > MAX_COORDINATE:
        raise FormatError(tr("{value:g} is not a usable number", value=value))
    return value


def length(text: str, whole: float, font_size: float = 16.0) -> float:
    """A length in px; per cent of ``whole``."""
    found = _LENGTH.fullmatch(text)
    if found is None:
        raise FormatError(tr("“{strip}” is not a length", strip=text.strip()[:40]))
    value, unit = float(found.group(1)), found.group(2).lower()
    if unit == "%":
        return usable(value / 100 * whole)
    if unit in ("em", "rem"):
        return usable(value * (font_size if unit == "em" else 16.0))
    if unit in ("ex", "ch"):
        return usable(value * font_size / 2)
    if unit not in _PX:
        raise FormatError(tr("“{unit}” is not a unit that is known here", unit=unit))
    return usable(value * _PX[unit])


_CALL = re.compile(r"\s*,?\s*([a-zA-Z]+)\s*\(([^)]*)\)")


def transform(text: str) -> Floats:
    """A transform list as one affine (6,)."""
    out, at = affine.identity(), 0
    text = text.strip()
    if text in ("", "none"):
        return out
    while at < len(text):
        call = _CALL.match(text, at)
        if call is None:
            if text[at:].strip(" ,"):
                raise FormatError(tr("“{strip}” is not a transform", strip=text[at : at + 40].strip()))
            break
        out = affine.multiply(out, _one_transform(call.group(1), call.group(2)))
        at = call.end()
    for value in out:
        usable(float(value))
    return out


def typed_turn(text: str) -> float:
    """The sum of the turns in a transform list, degrees, as they were typed."""
    total = 0.0
    for call in _CALL.finditer(text):
        if call.group(1).lower() == "rotate":
            m = _one_transform("rotate", call.group(2))
            angle = math.degrees(math.atan2(m[1], m[0]))
            found = _NUMBER.search(call.group(2))
            unit = {"rad": 180 / math.pi, "turn": 360.0, "grad": 0.9}
            typed = (
                float(found.group()) * next((f for u, f in unit.items() if u in call.group(2)), 1.0) if found else 0.0
            )
            total += angle + 360.0 * round((typed - angle) / 360.0)
    return total


def _one_transform(name: str, inner: str) -> list[float]:
    units = re.sub(r"(?<=[\d.])(px|deg)\b", "", inner)
    turned = re.search(rf"({NUMBER})\s*(rad|turn|grad)\b", inner)
    v = numbers(re.sub(r"(rad|turn|grad)\b", "", units))
    if turned:
        v[0] *= {"rad": 180 / math.pi, "turn": 360.0, "grad": 0.9}[turned.group(2)]
    n, key = len(v), name.lower()
    if key == "matrix" and n == 6:
        return v
    if key == "translate" and n in (1, 2):
        return [1, 0, 0, 1, v[0], v[1] if n == 2 else 0.0]
    if key in ("translatex", "translatey") and n == 1:
        return [1, 0, 0, 1, v[0] if key[-1] == "x" else 0.0, v[0] if key[-1] == "y" else 0.0]
    if key == "scale" and n in (1, 2):
        return [v[0], 0, 0, v[1] if n == 2 else v[0], 0, 0]
    if key == "rotate" and n in (1, 3):
        cos, sin = math.cos(math.radians(v[0])), math.sin(math.radians(v[0]))
        x, y = (v[1], v[2]) if n == 3 else (0.0, 0.0)
        return [cos, sin, -sin, cos, x - cos * x + sin * y, y - sin * x - cos * y]
    if key == "skewx" and n == 1:
        return [1, 0, math.tan(math.radians(v[0])), 1, 0, 0]
    if key == "skewy" and n == 1:
        return [1, math.tan(math.radians(v[0])), 0, 1, 0, 0]
    raise FormatError(tr("“{name}({strip})” is not a transform", name=name, strip=inner.strip()[:30]))


def fit_view(view: list[float], width: float, height: float, keep: str) -> Floats:
    """The transform from a viewBox to a viewport (SVG 2, preserveAspectRatio)."""
    x, y, w, h = view
    sx, sy = width / w, height / h
    words = keep.split() or ["xMidYMid"]
    if words[0] == "defer":
        words = words[1:] or ["xMidYMid"]
    if words[0] == "none":
        return np.array([sx, 0, 0, sy, -x * sx, -y * sy])
    s = max(sx, sy) if "slice" in words else min(sx, sy)
    share = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    dx = (width - w * s) * share.get(words[0][1:4], 0.5)
    dy = (height - h * s) * share.get(words[0][5:8], 0.5)
    return np.array([s, 0, 0, s, dx - x * s, dy - y * s])


_ARGUMENTS = {"m": 2, "l": 2, "h": 1, "v": 1, "c": 6, "s": 4, "q": 4, "t": 2, "a": 7, "z": 0}


def path_data(text: str) -> tuple[list[tuple[Floats, bool]], str]:
    """Subpaths (points, closed) of path data, and what is wrong with it ("" when nothing is).

    As SVG says, a faulty path is drawn up to the fault.
    """
    reader = _PathReader()
    trouble = ""
    try:
        reader.read(text)
    except FormatError as error:
        trouble = error.sentence
    reader.finish()
    return [(np.array(points), closed) for points, closed in reader.done], trouble


class _PathReader:
    def __init__(self) -> None:
        self.done: list[tuple[list[tuple[float, float]], bool]] = []
        self.points: list[tuple[float, float]] = []
        self.at = self.start = (0.0, 0.0)
        self.handle: tuple[str, tuple[float, float]] | None = None
        self.count = 0

    def finish(self) -> None:
        if len(self.points) > 1:
            self.done.append((self.points, False))
        self.points = []

    def read(self, text: str) -> None:
        place, command = 0, ""
        while True:
            place = _skip(text, place)
            if place >= len(text):
                return
            if text[place] in "MmZzLlHhVvCcSsQqTtAa":
                command = text[place]
                place += 1
                if not self.done and not self.points and command not in "Mm" and self.count == 0:
                    raise FormatError(tr("the path does not begin with M"))
                self.count += 1
                if command in "Zz":
                    self._close()
                    continue
            elif not command or command in "Zz":
                raise FormatError(tr("“{words}” is not path data", words=text[place : place + 12]))
            values, place = self._arguments(text, place, command.lower())
            self._draw(command, values)
            command = {"M": "L", "m": "l"}.get(command, command)
            self.count += len(values)
            if self.count > MAX_PATH_NUMBERS:
                raise FormatError(tr("the path has too many numbers"))

    def _arguments(self, text: str, place: int, command: str) -> tuple[list[float], int]:
        values: list[float] = []
        for k in range(_ARGUMENTS[command]):
            place = _skip(text, place)
            if command == "a" and k in (3, 4):
                if place >= len(text) or text[place] not in "01":
                    raise FormatError(tr("an arc's flag is neither 0 nor 1"))
                values.append(float(text[place]))
                place += 1
                continue
            found = _NUMBER.match(text, place)
            if found is None:
                raise FormatError(tr("a number is missing at “{words}”", words=text[place : place + 12]))
            values.append(usable(float(found.group())))
            place = found.end()
        return values, place

    def _close(self) -> None:
        if self.points:
            if self.at != self.start:
                self.points += line_to(self.at, self.start)
            self.done.append((self.points, True))
            self.points = []
        self.at = self.start
        self.handle = None

    def _draw(self, command: str, v: list[float]) -> None:
        x, y = self.at
        if command.islower():
            v = _absolute(command, v, x, y)
        key = command.lower()
        if key == "m":
            self.finish()
            self.at = self.start = (v[0], v[1])
            self.points = [self.at]
            self.handle = None
            return
        if not self.points:
            self.points = [self.at]
        mirrored = self._mirrored(key)
        new, handle = _SEGMENTS[key](self.at, mirrored, v)
        self.points += new
        if new:
            self.at = new[-1]
        self.handle = ("c" if key in "cs" else "q", handle) if handle else None

    def _mirrored(self, key: str) -> tuple[float, float]:
        kind = {"s": "c", "t": "q"}.get(key)
        if kind and self.handle and self.handle[0] == kind:
            hx, hy = self.handle[1]
            return 2 * self.at[0] - hx, 2 * self.at[1] - hy
        return self.at


_Point = tuple[float, float]
_Made = tuple[list[_Point], _Point | None]


def _quadratic(start: _Point, handle: _Point, end: _Point) -> list[_Point]:
    (x0, y0), (hx, hy), (x1, y1) = start, handle, end
    return [
        (x0 + (hx - x0) * 2 / 3, y0 + (hy - y0) * 2 / 3),
        (x1 + (hx - x1) * 2 / 3, y1 + (hy - y1) * 2 / 3),
        (x1, y1),
    ]


_SEGMENTS: dict[str, Callable[[_Point, _Point, list[float]], _Made]] = {
    "l": lambda at, _, v: (line_to(at, (v[0], v[1])), None),
    "h": lambda at, _, v: (line_to(at, (v[0], at[1])), None),
    "v": lambda at, _, v: (line_to(at, (at[0], v[0])), None),
    "c": lambda at, _, v: ([(v[0], v[1]), (v[2], v[3]), (v[4], v[5])], (v[2], v[3])),
    "s": lambda at, m, v: ([m, (v[0], v[1]), (v[2], v[3])], (v[0], v[1])),
    "q": lambda at, _, v: (_quadratic(at, (v[0], v[1]), (v[2], v[3])), (v[0], v[1])),
    "t": lambda at, m, v: (_quadratic(at, m, (v[0], v[1])), m),
    "a": lambda at, _, v: (arc_to(at, v[0], v[1], v[2], bool(v[3]), bool(v[4]), (v[5], v[6])), None),
}


def _absolute(command: str, v: list[float], x: float, y: float) -> list[float]:
    if command == "h":
        return [v[0] + x]
    if command == "v":
        return [v[0] + y]
    if command == "a":
        return [*v[:5], v[5] + x, v[6] + y]
    return [value + (x if k % 2 == 0 else y) for k, value in enumerate(v)]


def _skip(text: str, place: int) -> int:
    while place < len(text) and text[place] in " \t\r\n\f,":
        place += 1
    return place
