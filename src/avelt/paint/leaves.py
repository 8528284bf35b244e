"""Layers as simple as most, many at a time: what uses of a part that play together are made of."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QTransform

from avelt.core.arrays import Floats
from avelt.core.timing.painted import Item, Leaf
from avelt.paint.outlines import as_path

_MOST = 4096


class LeafPainter:
    """Paints them; outlines that only move are made once."""

    def __init__(self) -> None:
        self._paths: dict[int, tuple[Floats, QPainterPath]] = {}

    def draw_in(self, painter: QPainter, item: Item, matrix: QTransform) -> None:
        """The leaves of an item that stands upright, inside its box where it clips."""
        if not item.clips:
            self.draw(painter, item.leaves, matrix)
            return
        painter.save()
        painter.setTransform(matrix)
        painter.setClipRect(QRectF(0, 0, item.w, item.h), Qt.ClipOperation.IntersectClip)
        self.draw(painter, item.leaves, matrix)
        painter.restore()

    def draw(self, painter: QPainter, leaves: Sequence[Leaf], above: QTransform) -> None:
        """Each at its place; ``above`` takes what they lie in to the device."""
        transform, rect, fill, colour = painter.setTransform, painter.fillRect, painter.fillPath, QColor.fromRgbF
        before, dx, dy = -1.0, above.dx(), above.dy()
        only_moved = not above.isScaling() and not above.isRotating()
        for opacity, matrix, w, h, outline, tone in leaves:
            if opacity != before:
                painter.setOpacity(opacity)
                before = opacity
            if only_moved:
                a, b, c, d, e, f = matrix
                transform(QTransform(a, b, c, d, e + dx, f + dy))
            else:
                transform(QTransform(*matrix) * above)
            if outline is None:
                rect(QRectF(0.0, 0.0, w, h), colour(*tone))
            else:
                kept = self._paths.get(id(outline))
                fill(kept[1] if kept is not None else self._path(outline), QBrush(colour(*tone)))

    def _path(self, outline: Floats) -> QPainterPath:
        if len(self._paths) > _MOST:
            self._paths.clear()
        made = as_path([(outline, True)])
        self._paths[id(outline)] = outline, made  # the outline is held, so that no other one gets its id
        return made
