"""What a kept shadow depends on."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

from PySide6.QtGui import QTransform

from avelt.core.cache import Cache
from avelt.core.timing.painted import Item, Shade

V = TypeVar("V")
_KEPT, _ROOM = 1024, 48e6  # shadows, and bytes of them
_OWNERS = 4096  # layers whose last shadow is known


class KeptShades(Generic[V]):
    """Shadows that may be wanted again: those of layers that only move.

    One that was wanted for a single picture, and is another one in a later, is let go at once: of a layer that grows
    every picture has its own, and they would push out the others.
    """

    def __init__(self, weigh: Callable[[V], float]) -> None:
        self._kept: Cache[V] = Cache(_KEPT, weigh, _ROOM)
        self._last: dict[Hashable, tuple[int, tuple[object, ...], Hashable]] = {}  # that were wanted once
        self._picture = 0

    def next_picture(self) -> None:
        """Another picture is painted now."""
        self._picture += 1
        if len(self._last) > _OWNERS:
            self._last.clear()

    def get(self, owner: Hashable, held: tuple[object, ...], key: Hashable, make: Callable[[], V]) -> V:
        """The shadow of an owner, by all that it depends on."""
        last = self._last.get(owner)
        if self._kept.has(held, key):
            if last is not None and last[0] < self._picture and last[2] == key:
                del self._last[owner]
        else:
            if last is not None and last[0] < self._picture:
                self._kept.drop(*last[1:])
            self._last[owner] = self._picture, held, key
        return self._kept.get(held, key, make)

    def __len__(self) -> int:
        return len(self._kept)

    @property
    def filled(self) -> float:
        """How many times over the room was filled."""
        return self._kept.filled


def bare(item: Item) -> Item:
    """The item without its effects."""
    return Item(
        item.slot,
        item.layer,
        item.matrix,
        1.0,
        item.w,
        item.h,
        pen=item.pen,
        outline=item.outline,
        text=item.text,
        type_size=item.type_size,
        picture=item.picture,
        free=item.free,
        rolling=item.rolling,
    )


def shade_key(item: Item, matrix: QTransform, entry: Shade) -> tuple[object, ...]:
    """All that a shadow's picture depends on, apart from where it stands."""
    outline = tuple(points.tobytes() for points, _ in item.outline or ())
    pen = (item.pen.width, item.pen.trim, item.pen.brush.colours.tobytes()) if item.pen is not None else None
    turn = tuple(round(v, 5) for v in (matrix.m11(), matrix.m12(), matrix.m21(), matrix.m22()))
    fills = tuple(brush.colours.tobytes() for brush in item.fills)
    return (
        item.form,
        item.rolling,
        item.w,
        item.h,
        outline,
        pen,
        turn,
        fills,
        item.type_size,
        item.letter_spacing,
        entry.colour.tobytes(),
        entry.blur,
    )
