"""Where a program keeps the numbers of each layer, and what it shows apart from them."""

from __future__ import annotations

from avelt.core.arrays import np
from avelt.core.model.find import by_identity
from avelt.core.model.values import Layer, Pattern, Stroke
from avelt.core.record import Record
from avelt.core.timing.content import Change


class PaintSlot(Record, frozen=True):
    """Where one layer of paint has its numbers: first colour and count, first loose number (stops at,
    matrix, focus x y r; none for solid). ``show``: whose it is when cross-faded."""

    kind: str
    colour: int
    count: int
    loose: int
    spread: str
    show: str
    pattern: Pattern | None = None

    def moved(self, colours: int, loose: int) -> PaintSlot:
        """The same, so many places further on."""
        at = self.loose + loose if self.loose >= 0 else -1
        return PaintSlot(self.kind, self.colour + colours, self.count, at, self.spread, self.show, self.pattern)


class ShadowSlot(Record, frozen=True):
    """Where a shadow has its numbers: its colour, and the first of three loose ones (x, y, blur)."""

    colour: int
    loose: int
    inner: bool

    def moved(self, colours: int, loose: int) -> ShadowSlot:
        """The same, so many places further on."""
        return ShadowSlot(self.colour + colours, self.loose + loose, self.inner)


class OutlineSlot(Record, frozen=True):
    """Where an outline's numbers start and how many points each subpath has; ``unit``: shares of the box."""

    loose: int
    lengths: tuple[int, ...]
    closed: tuple[bool, ...]
    unit: bool

    def moved(self, loose: int) -> OutlineSlot:
        """The same, so many places further on."""
        return OutlineSlot(self.loose + loose, self.lengths, self.closed, self.unit)


class SlotContents(Record, frozen=True):
    """What one slot shows, apart from its numbers."""

    left: Layer | None
    right: Layer | None
    fills: tuple[PaintSlot, ...]
    stroke: tuple[PaintSlot, ...]
    outline: OutlineSlot | None
    change: Change  # how two contents without a common form become each other
    shadows: tuple[ShadowSlot, ...] = ()
    dashes: tuple[int, int] | None = None  # first loose number and count, where dashes become others
    pen: Stroke | None = None  # how its stroke is where the layer that is shown has none

    @property
    def layer(self) -> Layer:
        """The layer arrived at, or the one that leaves."""
        layer = self.right or self.left
        if layer is None:
            raise LookupError("a slot without a layer")
        return layer

    @property
    def both(self) -> tuple[Layer, Layer] | None:
        """The layer left and the layer arrived at; ``None`` for what only leaves or enters."""
        return (self.left, self.right) if self.left is not None and self.right is not None else None


class FrameSlot(Record, frozen=True):
    """Where the numbers of the frame itself are: the place of its background among the colours, and of its width among
    the loose numbers. Its height, 1 over its perspective, and whether contents are flipped (0 or 1) come after that."""

    colour: int
    loose: int

    @property
    def numbers(self) -> slice:
        """The four loose numbers."""
        return slice(self.loose, self.loose + 4)


class Owners(Record, frozen=True):
    """Which slot stretches of the vector belong to: ``slots``, ``first`` and ``count`` (n,), all but the dense ones.
    ``blend`` and ``alone`` (k,) are the slots that change whatever their numbers do: whose paints fade over each other,
    and layers that come or go."""

    slots: np.ndarray
    first: np.ndarray
    count: np.ndarray
    blend: np.ndarray
    alone: np.ndarray


def owners(contents: tuple[SlotContents, ...], dense: int, colours_end: int) -> Owners:
    """The owners of a vector's stretches, remembered with the contents."""
    relative = _stretches(contents)
    first = np.where(relative.colour, dense + relative.first, colours_end + relative.first)
    return Owners(relative.slots, first, relative.count, relative.blend, relative.alone)


class _Stretches(Record, frozen=True):
    slots: np.ndarray
    first: np.ndarray  # within the colours, or within the loose numbers
    count: np.ndarray
    colour: np.ndarray
    blend: np.ndarray
    alone: np.ndarray


def _of_contents(contents: tuple[SlotContents, ...]) -> _Stretches:
    found: list[tuple[int, int, int, bool]] = []
    blend: list[int] = []
    alone: list[int] = []
    for s, part in enumerate(contents):
        if part.left is None or part.right is None:
            alone.append(s)
        for paint in (*part.fills, *part.stroke):
            found.append((s, 4 * paint.colour, 4 * paint.count, True))
            if paint.loose >= 0:
                found.append((s, paint.loose, paint.count + 9, False))
            if paint.show != "both":
                blend.append(s)
        for shadow in part.shadows:
            found += [(s, 4 * shadow.colour, 4, True), (s, shadow.loose, 3, False)]
        if part.dashes is not None:
            found.append((s, *part.dashes, False))
        if part.outline is not None:
            found.append((s, part.outline.loose, 2 * sum(part.outline.lengths), False))
    table = np.array(found, np.intp).reshape(-1, 4)
    changes = (np.array(slots, np.intp) for slots in (blend, alone))
    return _Stretches(table[:, 0], table[:, 1], table[:, 2], table[:, 3] > 0, *changes)


_stretches = by_identity(_of_contents)


def _mixing(contents: tuple[SlotContents, ...]) -> bool:
    sides = (side for part in contents for side in (part.left, part.right) if side is not None)
    return any(side.blend != "normal" or side.back_blur > 0.0 for side in sides)


#: Whether some layer must see what lies beneath it to be painted.
mixing = by_identity(_mixing)
