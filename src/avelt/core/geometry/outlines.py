"""The outline that a kind of layer has by itself, whatever it is painted with."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from avelt.core.arrays import Floats, np
from avelt.core.geometry.bezier import box_outline, oval_outline
from avelt.core.model.values import Body, Box, Oval, Path, Picture, Use

Outline = list[tuple[Floats, bool]]


def _box(body: Box, w: float, h: float) -> Outline:
    return [(box_outline(w, h, body.radii), True)]


def _oval(body: Oval, w: float, h: float) -> Outline:
    return [(oval_outline(w, h), True)]


def _path(body: Path, w: float, h: float) -> Outline:
    return [(np.array(s.points, float).reshape(-1, 2), s.closed) for s in body.subpaths]


def _use(body: Use, w: float, h: float) -> Outline:
    return [(box_outline(w, h, (0.0,) * 4), True)]


def _picture(body: Picture, w: float, h: float) -> Outline:
    return [(box_outline(w, h, (0.0,) * 4), True)]


#: By the type of the body; texts have theirs from the fonts, groups from what lies in them.
OUTLINES: dict[type[Body], Callable[[Any, float, float], Outline]] = {
    Box: _box,
    Oval: _oval,
    Path: _path,
    Picture: _picture,
    Use: _use,
}


def outline(body: Body, w: float, h: float) -> Outline | None:
    """Subpaths (n, 2) of cubic Beziers in px of a box w x h, each with whether it is closed; ``None``: see above."""
    make = OUTLINES.get(type(body))
    return make(body, w, h) if make is not None else None
