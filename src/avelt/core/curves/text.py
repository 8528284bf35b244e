"""Curves as text: CSS easing functions in and out, and ``spring(bounce, speed)`` of our own."""

from __future__ import annotations

import itertools
import math
import re
from collections.abc import Callable
from functools import lru_cache

from avelt.core.arrays import np
from avelt.core.curves.drawn import is_sound as drawn_wrong
from avelt.core.curves.measure import straight_pieces
from avelt.core.errors import FormatError
from avelt.core.model.curves import Drawn, Drops, Handles, Hold, Line, PlainCurve, Points, Ring, Spring, Steps
from avelt.core.words import tr

#: CSS Easing Functions Level 1, the keywords.
KEYWORDS: dict[str, PlainCurve] = {
    "linear": Line(),
    "line": Line(),
    "ease": Handles(0.25, 0.1, 0.25, 1.0),
    "ease-in": Handles(0.42, 0.0, 1.0, 1.0),
    "ease-out": Handles(0.0, 0.0, 0.58, 1.0),
    "ease-in-out": Handles(0.42, 0.0, 0.58, 1.0),
    "step-start": Steps(1, "start"),
    "step-end": Steps(1, "end"),
}
_JUMPS = {
    "jump-start": "start",
    "start": "start",
    "jump-end": "end",
    "end": "end",
    "jump-none": "none",
    "jump-both": "both",
}
_CALL = re.compile(r"([a-z-]+)\(([^()]*)\)")
_MAX_STEPS = 10_000
_MAX_POINTS = 10_000


def parse(text: str) -> PlainCurve:
    """The curve that the text means; ``FormatError`` says what is wrong with it."""
    plain = text.strip().lower()
    if plain in KEYWORDS:
        return KEYWORDS[plain]
    call = _CALL.fullmatch(plain)
    if call is None or call.group(1) not in _READERS:
        known = ", ".join([*KEYWORDS, *(f"{name}()" for name in _READERS)])
        raise FormatError(
            tr("{strip!r} is not a curve.", strip=text.strip()), hint=tr("Known are {known}.", known=known)
        )
    try:
        return _READERS[call.group(1)]([part.strip() for part in call.group(2).split(",")])
    except FormatError as error:
        raise FormatError(
            tr("{strip!r} is not a curve: {sentence}", strip=text.strip(), sentence=error.sentence)
        ) from None


def _number(text: str) -> float:
    if not re.fullmatch(r"[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d+)?", text):
        raise FormatError(tr("{words!r} is not a number.", words=text))
    value = float(text)
    if not math.isfinite(value) or abs(value) > 1e6:
        raise FormatError(tr("{words!r} is too large.", words=text))
    return value


def _read_handles(parts: list[str]) -> PlainCurve:
    if len(parts) != 4:
        raise FormatError(tr("cubic-bezier() takes four numbers."))
    x1, y1, x2, y2 = (_number(part) for part in parts)
    if not (0 <= x1 <= 1 and 0 <= x2 <= 1):
        raise FormatError(tr("the first and third number must lie in 0..1."))
    return Handles(x1, y1, x2, y2)


def _read_steps(parts: list[str]) -> PlainCurve:
    jump = "jump-end" if len(parts) == 1 else parts[1]
    if len(parts) > 2 or jump not in _JUMPS:
        raise FormatError(tr("steps() takes a count and one of {names}.", names=", ".join(_JUMPS)))
    if not re.fullmatch(r"\+?\d+", parts[0]):
        raise FormatError(tr("the count must be a whole number."))
    count = int(parts[0])
    least = 2 if jump == "jump-none" else 1
    if not least <= count <= _MAX_STEPS:
        raise FormatError(tr("the count must be {least} to {max_steps}.", least=least, max_steps=_MAX_STEPS))
    return Steps(count, _JUMPS[jump])  # type: ignore[arg-type]


def _read_spring(parts: list[str]) -> PlainCurve:
    if not 1 <= len(parts) <= 2:
        raise FormatError(tr("spring() takes a bounce and, if wanted, a start speed."))
    values = [_number(part) for part in parts]
    if not -1 <= values[0] <= 1:
        raise FormatError(tr("the bounce must lie in -1..1."))
    if len(values) == 2 and abs(values[1]) > 100:
        raise FormatError(tr("the start speed must lie in -100..100."))
    return Spring(*values)


def _limited(parts: list[str], what: str, limits: tuple[tuple[float, float], ...]) -> list[float]:
    """Numbers inside their limits, as many as there are limits or fewer."""
    if not 1 <= len(parts) <= len(limits):
        raise FormatError(tr("{what} takes {n} numbers.", "{what} takes {n} number.", len(limits), what=what))
    values = [_number(part) for part in parts]
    for value, (low, high) in zip(values, limits, strict=False):
        if not low <= value <= high:
            raise FormatError(tr("{value:g} does not lie in {low:g}..{high:g}.", value=value, low=low, high=high))
    return values


def _read_drops(parts: list[str]) -> PlainCurve:
    values = _limited(parts, "drops()", ((0, 12), (0, 0.95)))
    if values[0] != round(values[0]):
        raise FormatError(tr("the count must be a whole number."))
    return Drops(int(values[0]), *values[1:])


def _read_ring(parts: list[str]) -> PlainCurve:
    return Ring(*_limited(parts, "ring()", ((0, 40), (0, 60))))


def _read_hold(parts: list[str]) -> PlainCurve:
    return Hold(*_limited(parts, "hold()", ((0, 1),)))


def _read_drawn(parts: list[str]) -> PlainCurve:
    """Points as "time value", parted by commas."""
    points = []
    for part in parts:
        words = part.split()
        if len(words) != 2:
            raise FormatError(tr("{part!r} is not a point (a time and a value).", part=part))
        points.append((_number(words[0]), _number(words[1])))
    wrong = drawn_wrong(tuple(points))
    if wrong or len(points) > _MAX_POINTS:
        raise FormatError((wrong or tr("There are too many points.")).rstrip("."))
    return Drawn(tuple(points))


def _read_points(parts: list[str]) -> PlainCurve:
    """CSS Easing Level 2, "create a linear easing function": gaps are filled, order is forced."""
    if len(parts) > _MAX_POINTS:
        raise FormatError(tr("more than {max_points} points.", max_points=_MAX_POINTS))
    stops: list[list[float | None]] = []
    largest = -math.inf
    for i, part in enumerate(parts):
        words = part.split()
        shares = [word for word in words if word.endswith("%")]
        numbers = [word for word in words if not word.endswith("%")]
        ordered = words[1:-1] == [] or words[0] in numbers or words[-1] in numbers
        if len(numbers) != 1 or len(shares) > 2 or not ordered or (len(shares) == 2 and words[1] in numbers):
            raise FormatError(tr("{part!r} is not a point (a number and up to two percentages).", part=part))
        value = _number(numbers[0])
        inputs: list[float | None] = []
        for share in shares:
            largest = max(_number(share[:-1]) / 100, largest)
            inputs.append(largest)
        if not shares:
            inputs = [None]
            if i == 0:
                largest = 0.0
                inputs = [0.0]
            elif i == len(parts) - 1:
                largest = max(1.0, largest)
                inputs = [largest]
        stops += [[at, value] for at in inputs]
    if len(parts) < 2:
        raise FormatError(tr("linear() takes two points or more."))
    known = [i for i, stop in enumerate(stops) if stop[0] is not None]
    for low, high in itertools.pairwise(known):
        filled = np.linspace(float(stops[low][0] or 0), float(stops[high][0] or 0), high - low + 1)
        for i in range(low + 1, high):
            stops[i][0] = float(filled[i - low])
    return Points(tuple((float(at or 0.0), float(value or 0.0)) for at, value in stops))


_READERS: dict[str, Callable[[list[str]], PlainCurve]] = {
    "cubic-bezier": _read_handles,
    "steps": _read_steps,
    "linear": _read_points,
    "spring": _read_spring,
    "drawn": _read_drawn,
    "drops": _read_drops,
    "ring": _read_ring,
    "hold": _read_hold,
}


_FORMATS = [f"%.{digits}f" for digits in range(16)]  # half as long as a format with another in it


def number(value: float, digits: int = 4) -> str:
    """A number as CSS writes it: no needless zeros, no minus zero."""
    text = _FORMATS[digits] % value
    if digits:
        text = text.rstrip("0").rstrip(".")
    return "0" if text == "-0" else text


@lru_cache(maxsize=512)
def css(curve: PlainCurve, tolerance: float = 0.002) -> str:
    """The curve as a CSS easing function; what CSS cannot say becomes a fitted ``linear()``."""
    if isinstance(curve, Line):
        return "linear"
    if isinstance(curve, Handles):
        return f"cubic-bezier({', '.join(number(v) for v in (curve.x1, curve.y1, curve.x2, curve.y2))})"
    if isinstance(curve, Steps):
        return f"steps({curve.count}, jump-{curve.jump})"
    if isinstance(curve, Hold):
        if curve.at in (0.0, 1.0):
            return f"steps(1, jump-{'start' if curve.at == 0.0 else 'end'})"
        at = number(curve.at * 100, 2)
        return f"linear(0 0%, 0 {at}%, 1 {at}%, 1 100%)"
    points = curve.points if isinstance(curve, Points) else straight_pieces(curve, tolerance)[0]
    return "linear(" + ", ".join(f"{number(value)} {number(at * 100, 2)}%" for at, value in points) + ")"


def own(curve: PlainCurve) -> str:
    """The curve as text that ``parse`` takes back without loss of kind."""
    if isinstance(curve, Spring):
        return f"spring({number(curve.bounce)}{', ' + number(curve.speed) if curve.speed else ''})"
    if isinstance(curve, Drops):
        return f"drops({curve.count}, {number(curve.keep)})"
    if isinstance(curve, Ring):
        return f"ring({number(curve.swings)}, {number(curve.decay)})"
    if isinstance(curve, Hold):
        return f"hold({number(curve.at)})"
    if isinstance(curve, Drawn):
        return "drawn(" + ", ".join(f"{number(x)} {number(y)}" for x, y in curve.points) + ")"
    return css(curve)
