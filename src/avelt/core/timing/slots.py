"""Where a program keeps the numbers of each layer, and what it shows apart from them."""

from __future__ import annotations

from dataclasses import dataclass

from avelt.core.model.values import Layer, Pattern, Stroke
from avelt.core.timing.content import Change


@dataclass(frozen=True)
class PaintSlot:
    """Where one layer of paint has its numbers: first colour and count, first loose number (stops at,
    matrix, focus x y r; none for solid). ``show``: whose it is when cross-faded."""

    kind: str
    colour: int
    count: int
    loose: int
    spread: str
    show: str
    pattern: Pattern | None = None


@dataclass(frozen=True)
class ShadowSlot:
    """Where a shadow has its numbers: its colour, and the first of three loose ones (x, y, blur)."""

    colour: int
    loose: int
    inner: bool


@dataclass(frozen=True)
class OutlineSlot:
    """Where an outline's numbers start and how many points each subpath has; ``unit``: shares of the box."""

    loose: int
    lengths: tuple[int, ...]
    closed: tuple[bool, ...]
    unit: bool


@dataclass(frozen=True)
class SlotContents:
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


@dataclass(frozen=True)
class FrameSlot:
    """Where the numbers of the frame itself are: the place of its background among the colours, and of its width
    among the loose numbers; its height, its perspective and whether contents are flipped (0 or 1) come after that."""

    colour: int
    loose: int

    @property
    def numbers(self) -> slice:
        """The four loose numbers."""
        return slice(self.loose, self.loose + 4)
