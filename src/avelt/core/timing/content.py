"""How the content of one layer becomes that of its partner, where they have no common form."""

from __future__ import annotations

from functools import lru_cache
from typing import Literal

from avelt.core.arrays import np
from avelt.core.blending.reshape import Outline, fits_node_by_node
from avelt.core.blending.rolling import can_roll
from avelt.core.geometry.outlines import outline
from avelt.core.model.kinds import kind_of
from avelt.core.model.values import Body, Box, ContentChange, Layer, Oval, Path, Picture, Settled, Text, Use
from avelt.core.record import Record
from avelt.core.words import tr

#: Empty: both have one form, and their numbers alone are blended.
Change = Literal["", "swap", "cross-fade", "roll", "reshape"]
_SHAPES = (Box, Oval, Path)
_MEET = 1e-3  # of the box: ends nearer than this are one


class Choice(Record, frozen=True):
    """One way to get from content to content, and what it looks like in a few words."""

    key: ContentChange
    words: str
    says: str


CHOICES = {
    "swap": Choice("swap", "swaps", tr("One content until a moment, the other from then on")),
    "cross-fade": Choice("cross-fade", "cross-fades", tr("One content fades out as the other fades in")),
    "roll": Choice("roll", "rolls", tr("The number counts up or down, digit by digit")),
    "reshape": Choice("reshape", "reshapes", tr("The one outline becomes the other")),
}


def same_form(left: Layer, right: Layer) -> bool:
    """Whether blending numbers is enough to get from one to the other."""
    a, b = left.body, right.body
    if isinstance(a, Text) and isinstance(b, Text):
        return a.words == b.words
    if isinstance(a, Picture) and isinstance(b, Picture):
        return a.asset == b.asset and a.fit == b.fit
    if isinstance(a, Use) and isinstance(b, Use):
        return a.part == b.part
    if isinstance(a, Path) and isinstance(b, Path):
        filled = bool(left.fills), bool(right.fills)
        return _nodes_fit(a, left.w, left.h, b, right.w, right.h, filled)
    return type(a) is type(b)


@lru_cache(maxsize=2048)
def _nodes_fit(a: Path, aw: float, ah: float, b: Path, bw: float, bh: float, filled: tuple[bool, bool]) -> bool:
    """Whether two paths can be blended node by node; remembered, as an edit of a cue asks again for all."""
    if [(len(s.points), s.closed) for s in a.subpaths] != [(len(s.points), s.closed) for s in b.subpaths]:
        return False
    if a == b:
        return True
    one, two = _in_shares(a, aw, ah), _in_shares(b, bw, bh)
    if all(filled):
        one, two = _closed_by_fill(one), _closed_by_fill(two)
    return a.rule == b.rule and fits_node_by_node(one, two)


def choices(left: Layer, right: Layer) -> tuple[Choice, ...]:
    """What can be chosen for this couple, the usual first; none where blending numbers is enough."""
    if same_form(left, right) or kind_of(left).holds or kind_of(right).holds:
        return ()
    keys = ["cross-fade", "swap"]
    if kind_of(left).shape and kind_of(right).shape:
        keys.insert(0, "reshape")
    elif isinstance(left.body, Text) and isinstance(right.body, Text) and can_roll(left.body.words, right.body.words):
        keys.insert(0, "roll")
    return tuple(CHOICES[key] for key in keys)


def change_of(left: Layer, right: Layer, settled: Settled | None = None) -> Change:
    """What happens: what was chosen, when it can be done, else the usual."""
    possible = [choice.key for choice in choices(left, right)]
    if not possible:
        # Node by node the start is given; to begin elsewhere the outlines must be laid along each other.
        turned = settled is not None and settled.shift and kind_of(left).shape
        return "reshape" if turned else ""
    if settled is not None and settled.content in possible:
        return settled.content
    return possible[0]


def outline_of(layer: Layer) -> Outline:
    """The outline of a box, oval or path in shares of its box: subpaths (n, 2) with whether they are closed.

    What a fill closes counts as closed, with or without a final Z: but for lines that a stroke shows the ends of.
    """
    body, w, h = layer.body, layer.w or 1.0, layer.h or 1.0
    made = _in_shares(body, w, h)
    return _closed_by_fill(made, everywhere=layer.stroke is None) if layer.fills else made


def rule_of(layer: Layer) -> str:
    """The fill rule of its outline."""
    return layer.body.rule if isinstance(layer.body, Path) else "nonzero"


def _closed_by_fill(outline: Outline, everywhere: bool = True) -> Outline:
    """Subpaths that a fill closes as closed ones: all of them, or only those that end where they begin."""
    return [(points, closed or (len(points) >= 7 and (everywhere or _ends_meet(points)))) for points, closed in outline]


def _ends_meet(points: np.ndarray) -> bool:
    return bool(np.abs(points[0] - points[-1]).max() < _MEET)


def _in_shares(body: Body, w: float, h: float) -> Outline:
    size = np.array([w or 1.0, h or 1.0])
    return [(points / size, closed) for points, closed in outline(body, w, h) or []]
