"""Both frames with a thread from layer to layer, and evidence as bars."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QWidget

from avelt.core.geometry.flatten import flatten, layer_at
from avelt.core.model.values import Frame
from avelt.core.pairing.engine import Pair, Pairing
from avelt.window.controls.drawing import draw_frame
from avelt.window.controls.views import box_polygon, fit
from avelt.window.shell.desk import UNSURE, Desk
from avelt.window.theme import Theme, font


@dataclass(frozen=True)
class Chosen:
    """The layers that are looked at: one of either side, or one alone."""

    left: str = ""
    right: str = ""


class Threads(QWidget):
    """Both frames with a thread from layer to layer."""

    picked = Signal(str, str)  # side, layer id
    paired = Signal(str, str)  # dragged from one to the other

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.pairing: Pairing | None = None
        self.frames: tuple[Frame, Frame] | None = None
        self.chosen = Chosen()
        self._drag: tuple[str, str, QPointF] | None = None
        self._at = QPointF()

    def places(self) -> tuple[QRectF, QRectF]:
        """Where the two frames stand."""
        assert self.frames is not None
        area = QRectF(self.rect()).adjusted(30, 14, -30, -14)
        half = (area.width() - 150) / 2
        made = []
        for k, frame in enumerate(self.frames):
            room = QRectF(area.left() + k * (half + 150), area.top(), half, area.height())
            made.append(fit(QRectF(0, 0, frame.w, frame.h).size(), room))
        return made[0], made[1]

    def _middle(self, side: int, layer_id: str) -> QPointF | None:
        assert self.frames is not None
        frame, rect = self.frames[side], self.places()[side]
        flat = flatten(frame)
        if layer_id not in flat.index:
            return None
        x, y, w, h = (float(v) for v in flat.bounds[flat.index[layer_id]])
        scale = rect.width() / frame.w
        return QPointF(
            min(rect.right(), max(rect.left(), rect.left() + (x + w / 2) * scale)),
            min(rect.bottom(), max(rect.top(), rect.top() + (y + h / 2) * scale)),
        )

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.frames is None or self.pairing is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.desk.theme
        sides = ((theme.leaves, self.chosen.left), (theme.arrives, self.chosen.right))
        for frame, rect, (colour, layer_id) in zip(self.frames, self.places(), sides, strict=True):
            scale = rect.width() / frame.w
            draw_frame(painter, self.desk.picture(frame, scale * self.devicePixelRatioF()), rect, colour, 1.8)
            flat = flatten(frame)
            if layer_id in flat.index:
                i = flat.index[layer_id]
                to = QTransform(scale, 0, 0, scale, rect.left(), rect.top())
                painter.setClipRect(rect.adjusted(-2, -2, 2, 2))
                painter.setPen(QPen(theme.now, 2))
                painter.drawPolygon(box_polygon(flat.to_frame(i), flat.layers[i].w, flat.layers[i].h, to))
                painter.setClipping(False)
        for pair in self.pairing.pairs:
            if pair.from_id != self.chosen.left:
                self._thread(painter, theme, pair, False)
        for pair in self.pairing.pairs:
            if pair.from_id == self.chosen.left:
                self._thread(painter, theme, pair, True)
        if self._drag is not None:
            painter.setPen(QPen(theme.now, 1.8, Qt.PenStyle.DashLine))
            painter.drawLine(self._drag[2], self._at)

    def _thread(self, painter: QPainter, theme: Theme, pair: Pair, chosen: bool) -> None:
        start, end = self._middle(0, pair.from_id), self._middle(1, pair.to_id)
        if start is None or end is None:
            return
        unsure = pair.confidence < UNSURE
        colour = QColor(theme.now if chosen else theme.trouble if unsure else theme.quiet)
        colour.setAlphaF(1.0 if chosen or unsure else 0.35)
        path = QPainterPath(start)
        bend = max(40.0, (end.x() - start.x()) / 2)
        path.cubicTo(start + QPointF(bend, 0), end - QPointF(bend, 0), end)
        style = Qt.PenStyle.DashLine if unsure else Qt.PenStyle.SolidLine
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour, 2.2 if chosen else 1.8 if unsure else 1.2, style))
        painter.drawPath(path)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        for point in (start, end):
            painter.drawEllipse(point, 3, 3)
        if unsure or chosen:
            middle = path.pointAtPercent(0.5)
            pill = QRectF(middle.x() - 21, middle.y() - 11, 42, 22)
            painter.setBrush(theme.sheet)
            painter.setPen(QPen(colour, 1.4))
            painter.drawRoundedRect(pill, 11, 11)
            painter.setFont(font(11.5, 600))
            painter.drawText(pill, Qt.AlignmentFlag.AlignCenter, f"{pair.confidence:.2f}")

    def _under(self, point: QPointF) -> tuple[str, str] | None:
        if self.frames is None:
            return None
        for side, (frame, rect) in zip(("from", "to"), zip(self.frames, self.places(), strict=True), strict=True):
            if rect.contains(point):
                scale = rect.width() / frame.w
                layer = layer_at(frame, (point.x() - rect.left()) / scale, (point.y() - rect.top()) / scale)
                return (side, layer.id) if layer is not None else None
        return None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        found = self._under(event.position())
        if found is not None:
            self.picked.emit(*found)
            self._drag = (*found, event.position())
            self._at = event.position()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._drag is not None:
            self._at = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        drag, self._drag = self._drag, None
        found = self._under(event.position())
        if drag is not None and found is not None and found[0] != drag[0]:
            left, right = (drag[1], found[1]) if drag[0] == "from" else (found[1], drag[1])
            self.paired.emit(left, right)
        self.update()


class Bars(QWidget):
    """The evidence as bars with a sentence each."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.entries: list[tuple[str, float, str]] = []

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.desk.theme
        for k, (what, score, says) in enumerate(self.entries):
            y = k * 19.5
            painter.setFont(font(12))
            painter.setPen(theme.quiet)
            painter.drawText(QRectF(0, y, 116, 18), Qt.AlignmentFlag.AlignVCenter, what)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.faint)
            painter.drawRoundedRect(QRectF(120, y + 6, 110, 7), 3.5, 3.5)
            painter.setBrush(theme.quiet)
            painter.drawRoundedRect(QRectF(120, y + 6, max(0.0, 110 * score), 7), 3.5, 3.5)
            painter.setPen(theme.ink)
            painter.drawText(QRectF(240, y, 34, 18), Qt.AlignmentFlag.AlignVCenter, f"{score:.2f}")
            painter.drawText(QRectF(282, y, self.width() - 282, 18), Qt.AlignmentFlag.AlignVCenter, says)
