"""Paint and shadows between two layers as numbers that are blended: brought to one form, and remembered."""

from __future__ import annotations

from functools import lru_cache

from avelt.core.arrays import Floats, np
from avelt.core.blending import colour, spaces
from avelt.core.blending.paints import Form, couple
from avelt.core.model.motion import Space
from avelt.core.model.values import Paint, Pattern, Shadow
from avelt.core.record import Record

_TRACE = 1e-5  # of opacity: too little to be seen, enough to carry a colour


class Coupled(Record, frozen=True):
    """One layer of paint between two stacks as the numbers that are blended."""

    kind: str
    spread: str
    show: str
    left: np.ndarray  # vectors of the space (k, 4)
    right: np.ndarray
    tails: tuple[tuple[float, float], ...]
    pattern: Pattern | None
    others: tuple[tuple[Floats, Floats] | None, ...]  # what else it becomes: by how much its numbers differ then


@lru_cache(maxsize=8192)
def coupled(
    left: tuple[Paint, ...],
    right: tuple[Paint, ...],
    space: Space,
    others: tuple[tuple[tuple[Paint, ...], bool], ...] = (),
) -> tuple[Coupled, ...]:
    """Two stacks of paint brought to one form, remembered: an edit of a cue changes no paint."""
    made: list[Coupled] = []
    for entry in couple(left, right, others):
        tails: tuple[tuple[float, float], ...] = ()
        if entry.left.kind != "solid":
            tails = tuple(zip(_tail(entry.left), _tail(entry.right), strict=True))
        one, two = spaces.between(_tinted(entry.left), _tinted(entry.right), space)
        more = tuple(
            None if other is None else _differs(entry.right if of_right else entry.left, other, space)
            for other, (_, of_right) in zip(entry.others, others, strict=True)
        )
        kind, pattern = entry.left.kind, entry.left.pattern
        made.append(Coupled(kind, entry.right.spread, entry.show, one, two, tails, pattern, more))
    return tuple(made)


def _differs(base: Form, other: Form, space: Space) -> tuple[Floats, Floats]:
    """By how much the colours (k, 4) and the loose numbers of a second pose's paint differ from the layer's own."""
    one, two = spaces.between(_tinted(base), _tinted(other), space)
    tail = np.zeros(0) if base.kind == "solid" else np.array(_tail(other)) - np.array(_tail(base))
    return two - one, tail


@lru_cache(maxsize=1024)
def tints(left: str, right: str, space: Space) -> tuple[Floats, Floats]:
    """Two colours as vectors (1, 4) of the space that they blend in."""
    one, two = (np.array([colour.parse(text)]) for text in (left, right))
    return spaces.between(one, two, space)


def _tinted(f: Form) -> np.ndarray:
    """The form's colours; the clear stops of a gradient keep a trace of theirs, as stops between blend into it."""
    if f.kind == "solid":
        return f.colours
    colours = f.colours.copy()
    colours[:, 3] = np.maximum(colours[:, 3], _TRACE)
    return colours


def cleared(shadow: Shadow) -> Shadow:
    """The same shadow, not to be seen."""
    r, g, b, _ = colour.parse(shadow.color)
    return Shadow(colour.to_text((r, g, b, 0.0)), shadow.x, shadow.y, shadow.blur, shadow.inner)


def _tail(f: Form) -> list[float]:
    return [*f.at.tolist(), *f.matrix, *f.focus]
