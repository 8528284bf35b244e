"""Bringing two paints to one form, so that their numbers can be blended one by one.

Normalise first, then blend: solid against gradient becomes two gradients of one kind with the same stops;
gradients with other stops get stops added by evaluation. Linear against radial has no common form, nor has a
pattern with other paints: both are kept and cross-faded.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Literal

import numpy as np

from avelt.core.blending import colour
from avelt.core.geometry.affine import Floats
from avelt.core.model.values import IDENTITY, Conic, Linear, Matrix, Paint, Pattern, Solid, Spread

Kind = Literal["solid", "linear", "radial", "conic", "pattern"]


@dataclass(frozen=True)
class Form:
    """A paint as numbers: colours (k, 4) sRGB, ``at`` (k,), a matrix and a focus (x, y, radius).

    A pattern has one white colour, whose alpha is how much of it shows.
    """

    kind: Kind
    colours: Floats
    at: Floats
    matrix: Matrix = IDENTITY
    focus: tuple[float, float, float] = (0.0, 0.0, 0.0)
    spread: Spread = "pad"
    pattern: Pattern | None = None

    def clear(self) -> Form:
        """The same paint, letting everything through."""
        colours = self.colours.copy()
        colours[:, 3] = 0.0
        return replace(self, colours=colours)


def form(paint: Paint) -> Form:
    """A paint as numbers."""
    if isinstance(paint, Solid):
        return Form("solid", np.array([colour.parse(paint.color)]), np.zeros(1))
    if isinstance(paint, Pattern):
        return Form("pattern", np.ones((1, 4)), np.zeros(1), paint.matrix, pattern=paint)
    stops = paint.stops
    colours = np.array([colour.parse(stop.color) for stop in stops], float).reshape(-1, 4)
    at = np.maximum.accumulate(np.clip(np.array([stop.at for stop in stops], float), 0.0, 1.0))
    if isinstance(paint, Linear):
        return Form("linear", colours, at, paint.matrix, spread=paint.spread)
    if isinstance(paint, Conic):
        return Form("conic", colours, at, paint.matrix)
    return Form("radial", colours, at, paint.matrix, (*paint.focus, paint.focus_radius), paint.spread)


@dataclass(frozen=True)
class Couple:
    """One layer of paint on its way: forms with equal counts. ``show`` says whose it is when cross-faded."""

    left: Form
    right: Form
    show: Literal["both", "left", "right"] = "both"


def couple(left: tuple[Paint, ...], right: tuple[Paint, ...]) -> tuple[Couple, ...]:
    """The layers of paint between two stacks; what one side lacks fades in or out."""
    couples: list[Couple] = []
    for i in range(max(len(left), len(right))):
        a = form(left[i]) if i < len(left) else None
        b = form(right[i]) if i < len(right) else None
        a, b = (a or (b.clear() if b else None)), (b or (a.clear() if a else None))
        if a is None or b is None:
            continue
        if _apart(a, b):
            couples += [Couple(a, a, "left"), Couple(b, b, "right")]
        else:
            couples.append(Couple(*_alike(a, b)))
    return tuple(couples)


def _apart(a: Form, b: Form) -> bool:
    """Whether two paints have no common form: gradients of two kinds, a pattern and anything else."""
    if "pattern" in (a.kind, b.kind):
        return a.pattern is None or b.pattern is None or not _same_tile(a.pattern, b.pattern)
    return a.kind != b.kind and "solid" not in (a.kind, b.kind)


def _same_tile(a: Pattern, b: Pattern) -> bool:
    return (a.layers, a.w, a.h) == (b.layers, b.w, b.h)


def _alike(a: Form, b: Form) -> tuple[Form, Form]:
    if a.kind == b.kind and a.kind in ("solid", "pattern"):
        return a, b
    if a.kind == "solid":
        return Form(b.kind, np.repeat(a.colours, len(b.at), 0), b.at, b.matrix, b.focus, b.spread), b
    if b.kind == "solid":
        return a, Form(a.kind, np.repeat(b.colours, len(a.at), 0), a.at, a.matrix, a.focus, a.spread)
    if len(a.at) == len(b.at):
        return a, b
    at = np.union1d(a.at, b.at)
    return _with_stops(a, at), _with_stops(b, at)


def _with_stops(f: Form, at: Floats) -> Form:
    """The same gradient with stops at other places, its colours read off between its own."""
    colours = np.stack([np.interp(at, f.at, f.colours[:, i]) for i in range(4)], -1)
    return Form(f.kind, colours, at, f.matrix, f.focus, f.spread)


def mean_colour(paint: Paint) -> Floats:
    """One colour (4,) that stands for the paint: itself, or the mean of its stops."""
    colours = form(paint).colours
    return np.asarray(colours.mean(0)) if len(colours) else np.zeros(4)
