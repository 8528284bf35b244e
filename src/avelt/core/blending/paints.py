"""Bringing two paints to one form, so that their numbers can be blended one by one.

Normalise first, then blend: solid against gradient becomes two gradients of one kind with the same stops;
gradients with other stops get stops added by evaluation. Linear against radial has no common form, nor has a
pattern with other paints: both are kept and cross-faded.
"""

from __future__ import annotations

from typing import Literal

from msgspec.structs import replace

from avelt.core.arrays import Floats, np
from avelt.core.blending import colour
from avelt.core.model.values import IDENTITY, Conic, Linear, Matrix, Paint, Pattern, Solid, Spread
from avelt.core.record import Record

Kind = Literal["solid", "linear", "radial", "conic", "pattern"]


class Form(Record, frozen=True):
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


class Couple(Record, frozen=True):
    """One layer of paint on its way: forms with equal counts. ``show`` says whose it is when cross-faded.

    ``others`` are the forms of what it also becomes (see ``couple``); ``None`` where it does not.
    """

    left: Form
    right: Form
    show: Literal["both", "left", "right"] = "both"
    others: tuple[Form | None, ...] = ()


Stack = tuple[Paint, ...]


def couple(left: Stack, right: Stack, others: tuple[tuple[Stack, bool], ...] = ()) -> tuple[Couple, ...]:
    """The layers of paint between two stacks; what one side lacks fades in or out.

    ``others`` are stacks that one of the two also becomes for a while (a loop's second pose), with whether it is the
    right one. They are brought to the same form; what has none in common with it comes as a layer of its own.
    """
    couples: list[Couple] = []
    for i in range(max(len(left), len(right), *(len(stack) for stack, _ in others), 0)):
        known = [form(stack[i]) if i < len(stack) else None for stack in (left, right, *(stack for stack, _ in others))]
        some = next(entry for entry in known if entry is not None)
        a, b = known[0] or (known[1] or some).clear(), known[1] or (known[0] or some).clear()
        rows = [Couple(a, a, "left"), Couple(b, b, "right")] if _apart(a, b) else [Couple(a, b)]
        couples += _with_others(rows, known[2:], tuple(of_right for _, of_right in others))
    return tuple(couples)


def _with_others(rows: list[Couple], others: list[Form | None], of_right: tuple[bool, ...]) -> list[Couple]:
    """Layers of paint with all forms of each brought to one structure."""
    if not others:
        return [replace(row, left=both[0], right=both[1]) for row in rows for both in [_alike(row.left, row.right)]]
    found: list[list[Form | None]] = [[None] * len(others) for _ in rows]
    made: list[Couple] = []
    for k, other in enumerate(others):
        row = len(rows) - 1 if of_right[k] else 0
        base = rows[row].right if of_right[k] else rows[row].left
        alone = other is not None and any(_apart(other, f) for f in (rows[row].left, rows[row].right, *found[row]) if f)
        found[row][k] = base.clear() if other is None or alone else other
        if other is not None and alone:
            only = (*(None for _ in range(k)), other, *(None for _ in range(len(others) - k - 1)))
            made.append(Couple(other.clear(), other.clear(), "both", only))
    return [_one_structure(replace(row, others=tuple(found[k]))) for k, row in enumerate(rows)] + made


def _one_structure(entry: Couple) -> Couple:
    """The same with equal counts in every form."""
    forms = [entry.left, entry.right, *(f for f in entry.others if f is not None)]
    whole = forms[0]
    for f in forms[1:]:
        whole = _alike(f, whole)[1]
    forms = [_alike(f, whole)[0] for f in forms]
    rest = iter(forms[2:])
    return Couple(forms[0], forms[1], entry.show, tuple(None if f is None else next(rest) for f in entry.others))


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
