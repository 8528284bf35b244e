"""What rests together, as pictures that are kept: painted once, and where it goes with the scrolling moved."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRect, QRectF
from PySide6.QtGui import QTransform

from avelt.core.timing.painted import Item
from avelt.core.timing.resting import Resting
from avelt.paint.kept import Kept, Run
from avelt.paint.outlines import beneath, own_transform, reach
from avelt.paint.shades import as_painted
from avelt.paint.sheets import Canvas

_LARGEST = 4.0  # canvases that something taken along may be large, to be kept


class Together:
    """Paints the parts of one drawing that rest."""

    def __init__(
        self,
        kept: Kept,
        make: Callable[[Resting, QTransform, QRect], Run],
        draw: Callable[[Canvas, Item, QTransform], None],
        canvas: Canvas,
        base: QTransform,
        offset: tuple[float, ...],
        gently: bool,
    ) -> None:
        """``make`` makes the picture of a part, inside of an area of the device; ``draw`` draws one item. ``offset``:
        how far it is scrolled.

        ``gently``: other pictures follow at once. One part is painted to be kept in each, and what is not kept yet is
        painted as it is: none takes much longer than the others.
        """
        self._kept, self._make, self._draw = kept, make, draw
        self._canvas, self._base, self._offset, self._gently = canvas, base, offset, gently
        area = canvas.area.getRect()
        self._key = (base.m11(), base.m12(), base.m21(), base.m22(), base.dx(), base.dy(), area)
        self._made = False

    def paint(self, part: Resting) -> None:
        """Paint one of them, and keep it if it may be wanted again."""
        across, down = self._moved(part)
        if not self._kept.runs.has((part,), self._key):
            area = self._area(part)
            if not area.translated(round(across), round(down)).intersects(self._canvas.area):
                return
            if (self._gently and self._made) or self._too_large(area):
                for item, matrix in self._standing(part):
                    self._draw(self._canvas, item, matrix * QTransform.fromTranslate(across, down))
                return
            self._made = True
        run = self._kept.runs.get((part,), self._key, lambda: self._run_of(part))
        if not run.image.isNull():
            painter = self._canvas.painter
            painter.setTransform(QTransform())
            painter.setOpacity(1.0)
            painter.drawImage(run.left + round(across), run.top + round(down), run.image)

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
            return self._canvas.area
        whole = QRectF()
        for item, matrix in self._standing(part):
            whole = whole.united(reach(item, matrix))
        return whole.toAlignedRect()

    def _too_large(self, area: QRect) -> bool:
        canvas = self._canvas.area
        return area.width() * area.height() > _LARGEST * canvas.width() * canvas.height()

    def _run_of(self, part: Resting) -> Run:
        """What rests in another program, too, looks the same there: a motion that is broken off has much of it."""
        area = self._area(part)
        where = area.getRect()
        seen = [as_painted(item, matrix, where) for item, matrix in self._standing(part)]
        known = [entry for entry in seen if entry is not None]
        if len(known) < len(seen):
            return self._make(part, self._base, area)
        held, key = tuple(layer for layers, _ in known for layer in layers), tuple(key for _, key in known)
        return self._kept.alike.get(held, key, lambda: self._make(part, self._base, area))
