"""What rests together, as pictures that are kept: painted once, and where it goes with the scrolling moved."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Iterable

from PySide6.QtCore import QRect, QRectF
from PySide6.QtGui import QImage, QTransform

from avelt.core.timing.painted import Item
from avelt.core.timing.resting import Resting
from avelt.paint.kept import Kept, Run
from avelt.paint.outlines import beneath, own_transform, reach
from avelt.paint.shades import as_painted
from avelt.paint.sheets import Canvas

_NOTHING = Run(QImage(), 0, 0)
_AT_A_TIME = 5  # layers: no more is painted to be kept in one picture, once there are so many
_LARGEST = 4.0  # canvases that something taken along may be large, to be kept


class Together:
    """Paints the parts of one drawing that rest."""

    def __init__(
        self,
        kept: Kept,
        make: Callable[[list[tuple[Item, QTransform]], QRect], Run],
        draw: Callable[[Canvas, Item, QTransform], None],
        base: QTransform,
        area: QRect,
        offset: tuple[float, ...],
        along: bool,
    ) -> None:
        """``make`` makes the picture of items as they stand on the device, inside of an area of it; ``draw`` draws one.
        ``base`` takes the frame to the device, ``area`` bounds that. ``offset``: how far it is scrolled.

        ``along``: it is being scrolled, and other pictures follow at once. Only some layers are painted to be kept in
        each, and what is not kept yet is painted as it is: none takes much longer than the others.
        """
        self._kept, self._make, self._draw = kept, make, draw
        self._base, self._device, self._offset, self._along = base, area, offset, along
        self._key = (base.m11(), base.m12(), base.m21(), base.m22(), base.dx(), base.dy(), area.getRect())
        self._made = 0  # layers that were painted to be kept
        self.complete = True  # whether all of it is kept that may be

    def paint(self, canvas: Canvas, part: Resting) -> None:
        """Paint one of them, and keep it if it may be wanted again."""
        across, down = self._moved(part)
        run = self._run(part, across, down, self._along)
        if run is None:
            for item, matrix in self._standing(part):
                self._draw(canvas, item, matrix * QTransform.fromTranslate(across, down))
        elif not run.image.isNull():
            painter = canvas.painter
            painter.setTransform(QTransform())
            painter.setOpacity(1.0)
            painter.drawImage(run.left + round(across), run.top + round(down), run.image)

    def prepare(self, parts: Iterable[Resting]) -> bool:
        """Paint some of what is not kept yet, without showing it; gives whether all is kept now that may be."""
        for part in parts:
            self._run(part, *self._moved(part), gently=True)
            if not self.complete:
                return False
        return True

    def _run(self, part: Resting, across: float, down: float, gently: bool) -> Run | None:
        """The picture of a part that stands so far from where it was made; ``None`` where it is not to be kept now."""
        key: Hashable = self._key
        area = self._device
        if not self._kept.runs.has((part,), key):
            area = self._area(part)
            if not area.translated(round(across), round(down)).intersects(self._device):
                return _NOTHING
            if self._too_large(area):
                if self._along:
                    return None
                key, area = (*self._key, "in sight"), self._device  # what is in sight is kept while it stands there
            if gently and self._made >= _AT_A_TIME:
                self.complete = False
                return None
        return self._kept.runs.get((part,), key, lambda: self._run_of(part, area))

    def _moved(self, part: Resting) -> tuple[float, float]:
        """How far from where it was made a part stands now, px of the device."""
        if not part.scrolled:
            return 0.0, 0.0
        (x, y), (now_x, now_y), base = part.scrolled, self._offset, self._base
        return (x - now_x) * base.m11() + (y - now_y) * base.m21(), (x - now_x) * base.m12() + (y - now_y) * base.m22()

    def _standing(self, part: Resting) -> list[tuple[Item, QTransform]]:
        return [(p.item, own_transform(p.item) * beneath(p.above, self._base)) for p in part.placed]

    def _area(self, part: Resting) -> QRect:
        """Where it is painted: what is taken along also where it is out of sight now."""
        if not part.scrolled:
            return self._device
        whole = QRectF()
        for item, matrix in self._standing(part):
            whole = whole.united(reach(item, matrix))
        return whole.toAlignedRect()

    def _too_large(self, area: QRect) -> bool:
        return area.width() * area.height() > _LARGEST * self._device.width() * self._device.height()

    def _run_of(self, part: Resting, area: QRect) -> Run:
        """What rests in another program, too, looks the same there: a motion that is broken off has much of it."""
        self._made += len(part.placed)
        where = area.getRect()
        standing = self._standing(part)
        seen = [as_painted(item, matrix, where) for item, matrix in standing]
        known = [entry for entry in seen if entry is not None]
        if len(known) < len(seen):
            return self._make(standing, area)
        held, key = tuple(layer for layers, _ in known for layer in layers), tuple(key for _, key in known)
        return self._kept.alike.get(held, key, lambda: self._make(standing, area))
