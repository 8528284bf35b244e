"""Paints as text that can be typed (CSS Images 4 for gradients), and the handles of gradients."""

from __future__ import annotations

import math

import msgspec

from avelt.core.arrays import np
from avelt.core.blending import colour, conversions
from avelt.core.blending.paints import form
from avelt.core.errors import EditError, FormatError
from avelt.core.geometry import affine
from avelt.core.model.values import Conic, Gradient, Linear, Matrix, Paint, Pattern, Radial, Solid, Stop
from avelt.core.words import tr

replace = msgspec.structs.replace
_SIDES = {"top": (0.0, -1.0), "right": (1.0, 0.0), "bottom": (0.0, 1.0), "left": (-1.0, 0.0)}
_MOST_STOPS = 64
Point = tuple[float, float]


def paint_text(paint: Paint | None, w: float, h: float) -> str:
    """A paint over a box of w x h as it can be typed again."""
    if paint is None:
        return "none"
    if isinstance(paint, Solid):
        return colour.to_text(colour.parse(paint.color))
    if isinstance(paint, Pattern):
        return "pattern"
    stops = ", ".join(f"{colour.to_text(colour.parse(s.color))} {_short(s.at * 100)}%" for s in paint.stops)
    if isinstance(paint, Linear):
        (x0, y0), (x1, y1) = ends(paint)
        angle = math.degrees(math.atan2((x1 - x0) * w, -(y1 - y0) * h)) % 360.0
        return f"linear-gradient({_short(angle)}deg, {stops})"
    return f"{'radial' if isinstance(paint, Radial) else 'conic'}-gradient({stops})"


def _short(value: float) -> str:
    text = f"{value:.2f}".rstrip("0").rstrip(".")
    return "0" if text in ("-0", "") else text


def read_paint(text: str, w: float, h: float, before: Paint | None = None) -> Paint | None:
    """What was typed as a paint over a box of w x h; ``None`` for none. ``FormatError`` for anything else.

    A gradient of the kind that was there before keeps its place when no direction is typed.
    """
    plain = text.strip()
    if plain.lower() in ("none", ""):
        return None
    import tinycss2

    tokens = [t for t in tinycss2.parse_component_value_list(plain) if t.type not in ("whitespace", "comment")]
    if len(tokens) == 1 and tokens[0].type == "function" and tokens[0].lower_name.endswith("-gradient"):
        return _read_gradient(tokens[0].lower_name, tokens[0].arguments, w, h, before)
    return Solid(colour.to_text(colour.parse(plain)))


def _read_gradient(name: str, arguments: list[object], w: float, h: float, before: Paint | None) -> Paint:
    import tinycss2

    parts: list[str] = [""]
    for token in arguments:
        if token.type == "literal" and token.value == ",":  # type: ignore[attr-defined]
            parts.append("")
        else:
            parts[-1] += tinycss2.serialize([token])
    parts = [part.strip() for part in parts]
    direction = None
    if name == "linear-gradient" and _direction(parts[0], w, h) is not None:
        direction = _direction(parts.pop(0), w, h)
    stops = _read_stops(parts, name)
    if name == "linear-gradient":
        if direction is None and isinstance(before, Linear):
            return replace(before, stops=stops)
        dx, dy = direction or (0.0, 1.0)
        reach = (abs(w * dx) + abs(h * dy)) / 2
        start, end = (w / 2 - dx * reach, h / 2 - dy * reach), (w / 2 + dx * reach, h / 2 + dy * reach)
        return with_ends(Linear(stops), (start[0] / w, start[1] / h), (end[0] / w, end[1] / h), w, h)
    kinds: dict[str, type[Radial] | type[Conic]] = {"radial-gradient": Radial, "conic-gradient": Conic}
    if name not in kinds:
        raise FormatError(tr("“{name}” is not a gradient that is known here.", name=name))
    if isinstance(before, kinds[name]):
        return replace(before, stops=stops)
    return kinds[name](stops)


def _direction(text: str, w: float, h: float) -> Point | None:
    words = text.lower().split()
    if words and words[0] == "to" and 1 < len(words) <= 3 and all(word in _SIDES for word in words[1:]):
        x, y = (sum(_SIDES[word][k] for word in words[1:]) for k in (0, 1))
        if x and y:
            # The magic corners of CSS Images: the middle colour runs through the two other corners.
            x, y = x * h, y * w
        size = math.hypot(x, y)
        return (x / size, y / size) if size else None
    for unit, factor in (("deg", 1.0), ("turn", 360.0), ("grad", 0.9), ("rad", 180 / math.pi)):
        if text.lower().endswith(unit):
            try:
                angle = math.radians(float(text[: -len(unit)]) * factor)
            except ValueError:
                return None
            return math.sin(angle), -math.cos(angle)
    return None


def _read_stops(parts: list[str], name: str) -> tuple[Stop, ...]:
    found: list[tuple[str, float | None]] = []
    for part in parts:
        tone, space, at = part.rpartition(" ")
        if space and at.endswith("%"):
            try:
                found.append((tone, float(at[:-1]) / 100))
                continue
            except ValueError:
                pass
        found.append((part, None))
    if not 2 <= len(found) <= _MOST_STOPS:
        raise FormatError(tr("A {name} needs two colours or more.", name=name))
    known = [(k, at) for k, (_, at) in enumerate(found) if at is not None]
    ks = [k for k, _ in known]
    ats = [at for _, at in known]
    if 0 not in ks:
        ks, ats = [0, *ks], [0.0, *ats]
    if len(found) - 1 not in ks:
        ks, ats = [*ks, len(found) - 1], [*ats, 1.0]
    places = np.clip(np.maximum.accumulate(np.interp(range(len(found)), ks, ats)), 0.0, 1.0)
    return tuple(
        Stop(float(at), colour.to_text(colour.parse(tone))) for (tone, _), at in zip(found, places, strict=True)
    )


# Handles on the frame


def ends(paint: Gradient) -> tuple[Point, Point]:
    """Where a gradient begins and ends, in fractions of the box: a linear one's ends, else the middle and its edge."""
    a, b, _, d, e, f = paint.matrix
    if isinstance(paint, Conic):
        return (e, f), (e - paint.matrix[2], f - d)  # towards its first colour, which is at the top
    return (e, f), (e + a, f + b)


def with_ends(paint: Gradient, start: Point, end: Point, w: float, h: float) -> Gradient:
    """The gradient with its ends elsewhere (fractions of a box of w x h).

    A linear one runs square to its line on screen; a radial or conic one keeps its shape and is turned and scaled.
    """
    w, h = w or 1.0, h or 1.0
    dx, dy = (end[0] - start[0]) * w, (end[1] - start[1]) * h
    if math.hypot(dx, dy) < 1e-6:
        raise EditError(tr("A gradient needs some length."))
    if isinstance(paint, Linear):
        return replace(paint, matrix=(dx / w, dy / h, -dy / w, dx / h, start[0], start[1]))
    (ox, oy), (px, py) = ends(paint)
    old = np.array([(px - ox) * w, (py - oy) * h])
    size = float(np.hypot(*old)) or 1.0
    cos = float(old @ (dx, dy)) / (size * size)
    sin = float(old[0] * dy - old[1] * dx) / (size * size)
    to_px, to_box = np.array([w, 0, 0, h, 0, 0]), np.array([1 / w, 0, 0, 1 / h, 0, 0])
    linear = np.array([*paint.matrix[:4], 0.0, 0.0])
    made = affine.multiply(to_box, affine.multiply([cos, sin, -sin, cos, 0, 0], affine.multiply(to_px, linear)))
    a, b, c, d = (float(v) for v in made[:4])
    matrix: Matrix = (a, b, c, d, start[0], start[1])
    return replace(paint, matrix=matrix)


def as_kind(paint: Paint | None, kind: str, w: float, h: float) -> Paint | None:
    """The paint as another kind with its colours: "none", "solid", "linear", "radial" or "conic"."""
    if kind == "none":
        return None
    f = form(paint) if paint is not None and not isinstance(paint, Pattern) else None
    tones = [colour.to_text(c) for c in f.colours] if f is not None else ["#8fb6b0"]
    if kind == "solid":
        return Solid(tones[0])
    ats = f.at.tolist() if f is not None and len(tones) > 1 else [0.0, 1.0]
    if len(tones) == 1:
        r, g, b, a = colour.parse(tones[0])
        lab = conversions.to_oklab(np.array([r, g, b]))
        lab[0] = max(0.0, lab[0] - 0.25) if lab[0] > 0.5 else min(1.0, lab[0] + 0.25)
        tones = [tones[0], colour.to_text((*np.clip(conversions.from_oklab(lab), 0, 1), a))]
    stops = tuple(Stop(float(at), tone) for at, tone in zip(ats, tones, strict=True))
    if kind == "linear":
        return with_ends(Linear(stops), (0.5, 0.0), (0.5, 1.0), w, h)
    return Radial(stops) if kind == "radial" else Conic(stops)


def with_stop(paint: Gradient, place: int, at: float | None = None, tone: str | None = None) -> Gradient:
    """One colour of a gradient moved or changed; the stops stay in order."""
    stops = list(paint.stops)
    old = stops[place]
    share = old.at if at is None else at
    low = stops[place - 1].at if place > 0 else 0.0
    high = stops[place + 1].at if place + 1 < len(stops) else 1.0
    stops[place] = Stop(min(high, max(low, share)), old.color if tone is None else tone)
    return replace(paint, stops=tuple(stops))


def add_stop(paint: Gradient, at: float) -> Gradient:
    """One colour more, the one that the gradient has there."""
    if len(paint.stops) >= _MOST_STOPS:
        raise EditError(tr("A gradient has at most {most_stops} colours.", most_stops=_MOST_STOPS))
    f = form(paint)
    tone = colour.to_text([float(np.interp(at, f.at, f.colours[:, k])) for k in range(4)])
    stops = [*paint.stops, Stop(at, tone)]
    return replace(paint, stops=tuple(sorted(stops, key=lambda stop: stop.at)))


def remove_stop(paint: Gradient, place: int) -> Gradient:
    """One colour less; two stay."""
    if len(paint.stops) <= 2:
        raise EditError(tr("A gradient needs two colours or more."))
    return replace(paint, stops=(*paint.stops[:place], *paint.stops[place + 1 :]))
