"""What a painter keeps from one picture to the next."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterator
from contextlib import contextmanager
from typing import Generic, TypeVar

from PySide6.QtGui import QImage

from avelt.core.arrays import np
from avelt.core.cache import Cache
from avelt.core.record import Mutable
from avelt.paint.effects import alpha_of
from avelt.paint.sheets import Sheet

V = TypeVar("V")
_KEPT_RUNS, _ROOM_OF_RUNS = 4096, 96e6  # runs, and bytes of them
_KEPT, _ROOM = 1024, 48e6  # shadows (and sheets), and bytes of them
_OWNERS = 4096  # things that were seen last, and are known


class Run(Mutable):
    """A picture of something, and where it stands on the device."""

    image: QImage
    left: int
    top: int


class Kept:
    """All of it: what stands still together, shadows, and the sheets of what only fades."""

    def __init__(self) -> None:
        self.runs: Cache[Run] = Cache(_KEPT_RUNS, _bytes_of, _ROOM_OF_RUNS)
        self.alike: Cache[Run] = Cache(_KEPT_RUNS, _bytes_of, _ROOM_OF_RUNS)  # the same, by what is seen of them
        self.shades: KeptShades[Run] = KeptShades(_bytes_of)
        self.sheets: KeptShades[Sheet | None] = KeptShades(_bytes_of)

    @property
    def filled(self) -> float:
        """How many times over it was filled, with shadows or with what stands still."""
        return max(self.runs.filled, self.shades.filled)

    def next_picture(self) -> None:
        """Another picture is painted now."""
        self.shades.next_picture()
        self.sheets.next_picture()

    @contextmanager
    def ahead(self) -> Iterator[None]:
        """What is painted meanwhile may be wanted later: it is kept, although no other picture wants it."""
        self.shades.ahead = self.sheets.ahead = True
        try:
            yield
        finally:
            self.shades.ahead = self.sheets.ahead = False


def _bytes_of(made: Run | Sheet | None) -> int:
    return made.image.sizeInBytes() if made is not None else 0


class KeptShades(Generic[V]):
    """Shadows that may be wanted again: those of layers that only move. Sheets are kept alike.

    One that was wanted for a single picture, and is another one in a later, is let go at once: of a layer that grows
    every picture has its own, and they would push out the others. Not what is painted ``ahead``.
    """

    def __init__(self, weigh: Callable[[V], float]) -> None:
        self._kept: Cache[V] = Cache(_KEPT, weigh, _ROOM)
        self._last: dict[Hashable, tuple[int, tuple[object, ...], Hashable]] = {}  # that were wanted once
        self._picture = 0
        self.ahead = False

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
        elif not self.ahead:
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


def cut_to_ink(sheet: Sheet) -> Run:
    """The part of a sheet that has ink on it."""
    alpha = alpha_of(sheet.image)
    rows, columns = np.flatnonzero(alpha.any(1)), np.flatnonzero(alpha.any(0))
    if not len(rows):
        return Run(QImage(), 0, 0)
    top, bottom, left, right = int(rows[0]), int(rows[-1]), int(columns[0]), int(columns[-1])
    image = sheet.image.copy(left, top, right - left + 1, bottom - top + 1)
    return Run(image, sheet.area.x() + left, sheet.area.y() + top)
