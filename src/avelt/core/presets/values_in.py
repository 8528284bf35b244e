"""CSS properties as numbers of a layer: how far a keyframe is from the layer at rest."""

from __future__ import annotations

import math
import re

import msgspec

from avelt.core.blending import colour
from avelt.core.errors import FormatError
from avelt.core.model.curves import Handles
from avelt.core.record import Mutable
from avelt.core.words import tr

EASE = Handles(0.25, 0.1, 0.25, 1.0)
BOX = 100.0  # px: the stand-in that percentages of a layer are counted on
#: CSS properties by the property of a layer that they are.
PROPERTIES = {
    "opacity": "opacity",
    "translate": "position",
    "transform": "position",
    "left": "position",
    "top": "position",
    "x": "position",
    "y": "position",
    "rotate": "rotation",
    "scale": "scale",
    "width": "size",
    "height": "size",
    "border-radius": "corner",
    "rx": "corner",
    "background": "fill",
    "background-color": "fill",
    "color": "fill",
    "fill": "fill",
    "stroke": "stroke",
    "stroke-width": "stroke",
    "border-color": "stroke",
    "box-shadow": "shadow",
    "filter": "blur",
    "clip-path": "cut",
}
_LENGTH = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?)(px|%|em|rem|vw|vh|)")
_ANGLE = re.compile(r"([+-]?(?:\d+\.?\d*|\.\d+))(deg|turn|rad|grad|)")
_CALL = re.compile(r"([a-zA-Z0-9-]+)\(([^()]*)\)")
_TURNS = {"deg": 1.0, "": 1.0, "turn": 360.0, "rad": 180.0 / math.pi, "grad": 0.9}


class Values(Mutable):
    """What a keyframe says; ``None`` is as the layer is. Shifts in px, ``cut`` shares of the box."""

    shift_x: float | None = None
    shift_y: float | None = None
    rotation: float | None = None
    scale_x: float | None = None
    scale_y: float | None = None
    opacity: float | None = None
    blur: float | None = None
    fill: tuple[float, float, float, float] | None = None
    cut: tuple[float, float, float, float] | None = None
    other: set[str] = msgspec.field(default_factory=set)  # said, and only its time is taken


def values_of(values: Values, name: str, text: str) -> bool:
    """Put what a declaration says into values; whether it is read at all."""
    text = text.strip()
    if name == "opacity":
        values.opacity = min(1.0, max(0.0, _share(text)))
    elif name == "translate":
        _shift(values, [] if text == "none" else text.split())
    elif name == "rotate":
        values.rotation = 0.0 if text == "none" else _angle(text)
    elif name == "scale":
        parts = [1.0] if text == "none" else [_share(part) for part in text.split()]
        values.scale_x, values.scale_y = parts[0], parts[-1] if len(parts) < 3 else parts[1]
    elif name == "transform":
        return _transform(values, text)
    elif name == "filter":
        calls = dict(_CALL.findall(text))
        values.blur = _length(calls["blur"], BOX) if calls.get("blur") else 0.0
        return not (set(calls) - {"blur"})
    elif name in ("background-color", "fill", "color", "background"):
        values.fill = colour.parse(text)
    elif name == "clip-path":
        return _clip(values, text)
    elif name in PROPERTIES:
        values.other.add(PROPERTIES[name])
    else:
        return name in ("transform-origin", "visibility", "will-change", "animation-composition")
    return True


def _transform(values: Values, text: str) -> bool:
    if text == "none":
        values.shift_x = values.shift_y = values.rotation = 0.0
        values.scale_x = values.scale_y = 1.0
        return True
    whole = True
    for name, inner in _CALL.findall(text):
        parts = [part.strip() for part in re.split(r"[,\s]+", inner.strip()) if part.strip()]
        low = name.lower()
        if low in ("translate", "translate3d"):
            _shift(values, parts[:2])
        elif low == "translatex":
            values.shift_x = _length(parts[0], BOX)
        elif low == "translatey":
            values.shift_y = _length(parts[0], BOX)
        elif low in ("rotate", "rotatez"):
            values.rotation = _angle(parts[0])
        elif low in ("scale", "scale3d"):
            values.scale_x, values.scale_y = _share(parts[0]), _share(parts[1] if len(parts) > 1 else parts[0])
        elif low == "scalex":
            values.scale_x = _share(parts[0])
        elif low == "scaley":
            values.scale_y = _share(parts[0])
        elif low not in ("translatez", "perspective"):
            whole = False
    return whole


def _shift(values: Values, parts: list[str]) -> None:
    values.shift_x = _length(parts[0], BOX) if parts else 0.0
    values.shift_y = _length(parts[1], BOX) if len(parts) > 1 else 0.0


def _clip(values: Values, text: str) -> bool:
    call = re.fullmatch(r"inset\(([^()]*)\)", text)
    if text == "none":
        values.cut = (0.0, 0.0, 0.0, 0.0)
        return True
    if call is None:
        return False
    parts = [_length(part, BOX) / BOX for part in call.group(1).split("round")[0].split()]
    if not 1 <= len(parts) <= 4:
        return False
    top, right, bottom, left = (*parts, *{1: parts * 3, 2: parts, 3: parts[1:2], 4: []}[len(parts)])
    values.cut = tuple(min(1.0, max(0.0, v)) for v in (top, right, bottom, left))  # type: ignore[assignment]
    return True


def _length(text: str, of: float) -> float:
    found = _LENGTH.fullmatch(text.strip())
    if found is None:
        raise FormatError(tr("{words!r} is no length.", words=text))
    number, unit = float(found.group(1)), found.group(2)
    if not math.isfinite(number) or abs(number) > 1e6:
        raise FormatError(tr("{words!r} is too large.", words=text))
    if unit in ("", "px"):
        return number
    if unit == "%":
        return number * of / 100.0
    if unit in ("em", "rem"):
        return number * 16.0
    raise FormatError(tr("{words!r} hangs on the size of the window.", words=text))


def _angle(text: str) -> float:
    found = _ANGLE.fullmatch(text.strip())
    if found is None:
        raise FormatError(tr("{words!r} is no angle.", words=text))
    return float(found.group(1)) * _TURNS[found.group(2)]


def _share(text: str) -> float:
    text = text.strip()
    try:
        number = float(text.removesuffix("%")) / (100.0 if text.endswith("%") else 1.0)
    except ValueError:
        raise FormatError(tr("{words!r} is no number.", words=text)) from None
    if not math.isfinite(number) or abs(number) > 1e4:
        raise FormatError(tr("{words!r} is too large.", words=text))
    return number
