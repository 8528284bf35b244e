"""The kinds of easing curve, on 0..1; values may leave it. How they are evaluated is in ``core/curves``."""

from __future__ import annotations

from typing import Literal

from avelt.core.model.value import Value


class Line(Value, frozen=True, tag_field="curve", tag="line"):
    """Steady all the way."""


class Handles(Value, frozen=True, tag_field="curve", tag="handles"):
    """A cubic Bezier from 0,0 to 1,1 with two handles; x in 0..1."""

    x1: float
    y1: float
    x2: float
    y2: float


class Points(Value, frozen=True, tag_field="curve", tag="points"):
    """Straight from point to point: (at, value)."""

    points: tuple[tuple[float, float], ...]


class Steps(Value, frozen=True, tag_field="curve", tag="steps"):
    """Stairs."""

    count: int = 4
    jump: Literal["start", "end", "none", "both"] = "end"


class Spring(Value, frozen=True, tag_field="curve", tag="spring"):
    """A damped spring; damping ratio is 1 - bounce. ``speed`` is the slope at the start."""

    bounce: float = 0.2
    speed: float = 0.0


class Drawn(Value, frozen=True, tag_field="curve", tag="drawn"):
    """Drawn by hand: cubic Beziers from time 0 to time 1, points (time, value) as node, handle, handle, node and so on.

    Time goes forward only; handles that lie between their nodes make sure of that.
    """

    points: tuple[tuple[float, float], ...] = (
        (0.0, 0.0),
        (0.2, 0.0),
        (0.3, 0.55),
        (0.45, 0.6),
        (0.62, 0.66),
        (0.7, 1.0),
        (1.0, 1.0),
    )


class Drops(Value, frozen=True, tag_field="curve", tag="drops"):
    """A fall that ends in ``count`` bounces; each keeps the share ``keep`` of the height before."""

    count: int = 3
    keep: float = 0.3


class Ring(Value, frozen=True, tag_field="curve", tag="ring"):
    """Swings about its end, dying away: ``swings`` of them in all, by a rate ``decay``."""

    swings: float = 2.5
    decay: float = 5.0


class Hold(Value, frozen=True, tag_field="curve", tag="hold"):
    """Nothing until the share ``at`` of its time, all from then on."""

    at: float = 0.5


class Named(Value, frozen=True, tag_field="curve", tag="named"):
    """A use of one of the project's named curves."""

    id: str


PlainCurve = Line | Handles | Points | Steps | Drawn | Spring | Drops | Ring | Hold
Curve = Line | Handles | Points | Steps | Drawn | Spring | Drops | Ring | Hold | Named
