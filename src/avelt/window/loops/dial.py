"""The dial: all loops of a pose as rings of one round, edited by dragging; the playhead turns."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avelt.core.model.values import Loop
from avelt.core.timing.loops import round_duration
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.gestures import GestureHost
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import shortened
from avelt.window.loops.grips import Grip, changed, grip_at
from avelt.window.loops.strip import pieces
from avelt.window.theme import font

MOST_RINGS = 24
_RING, _GAP = 13.0, 5.0
_LEGEND = 118


class Dial(QWidget):
    """``picked`` is a click on a ring; ``dragging`` and ``dropped`` say how a loop shall be."""

    picked = Signal(str)
    dragging = Signal(str, object)
    dropped = Signal()
    cancelled = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.loops: tuple[Loop, ...] = ()
        self.chosen = ""
        self.now = 0.0
        self.gestures = GestureHost(self)
        self.setMouseTracking(True)
        self.setMinimumHeight(150)
        self.setAccessibleName(tr("One round as a dial"))

    def spoken(self) -> list[Spoken]:
        """The rings for assistive technology."""
        made = []
        middle, _ = self._middle()
        for place, loop in enumerate(self.loops):
            r, _ = self._ring(place)
            rect = QRectF(middle.x() - r, middle.y() - r, 2 * r, 2 * r)
            made.append(
                Spoken(
                    tr("{loop}, {loop2:g} ms a round", loop=loop.name, loop2=round_duration(loop)),
                    rect,
                    loop.id == self.chosen,
                )
            )
        return made

    def show_loops(self, loops: tuple[Loop, ...], chosen: str) -> None:
        """Show loops as rings, the first outermost."""
        self.loops, self.chosen = loops[:MOST_RINGS], chosen
        self.update()

    def whole(self) -> float:
        """What one turn is: the longest round, ms."""
        return max((round_duration(loop) for loop in self.loops), default=1000.0)

    def _middle(self) -> tuple[QPointF, float]:
        room = min(self.width() - _LEGEND, self.height()) - 6.0
        radius = max(20.0, room / 2)
        return QPointF(3 + radius, self.height() / 2), radius

    def _ring(self, place: int) -> tuple[float, float]:
        """The middle of a ring's band, and its width."""
        _, radius = self._middle()
        count = max(1, len(self.loops))
        each = min(_RING + _GAP, (radius - 10) / count)
        band = max(1.5, each * _RING / (_RING + _GAP))
        return radius - band / 2 - place * each, band

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        middle, radius = self._middle()
        whole = self.whole()
        for place, loop in enumerate(self.loops):
            r, band = self._ring(place)
            rect = QRectF(middle.x() - r, middle.y() - r, 2 * r, 2 * r)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.faint, band, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
            painter.drawEllipse(rect)
            painter.setOpacity(0.35 if loop.muted else 1.0)
            for what, start, end in pieces(loop, whole):
                if what in ("there", "back"):
                    painter.setPen(
                        QPen(
                            theme.loop if what == "there" else theme.loop_light,
                            band,
                            Qt.PenStyle.SolidLine,
                            Qt.PenCapStyle.FlatCap,
                        )
                    )
                    span = (end - start) / whole
                    painter.drawArc(rect, round((0.25 - start / whole) * 5760), -round(span * 5760))
            painter.setOpacity(1.0)
            if loop.id == self.chosen:
                painter.setPen(QPen(theme.ink, 1.2))
                painter.drawEllipse(rect.adjusted(-band / 2, -band / 2, band / 2, band / 2))
        if self.loops:
            angle = (self.now % whole) / whole * 2 * math.pi
            tip = middle + QPointF(math.sin(angle), -math.cos(angle)) * (radius + 1)
            painter.setPen(QPen(theme.now, 1.8))
            painter.drawLine(middle, tip)
            painter.setBrush(theme.now)
            painter.drawEllipse(middle, 3, 3)
        self._paint_names(painter)

    def _paint_names(self, painter: QPainter) -> None:
        theme = self.workspace.theme
        left = self.width() - _LEGEND + 10
        painter.setFont(font(12))
        step = min(20.0, (self.height() - 8) / max(1, len(self.loops)))
        for place, loop in enumerate(self.loops):
            painter.setPen(theme.ink if loop.id == self.chosen else theme.quiet)
            later = -loop.start_offset % max(1e-9, round_duration(loop))
            more = f" +{later:g}" if later and not loop.rounds else ""
            text = shortened(painter, loop.name + more, _LEGEND - 12)
            painter.drawText(QRectF(left, 4 + place * step, _LEGEND - 10, step), Qt.AlignmentFlag.AlignVCenter, text)

    # Pointer

    def _place_at(self, at: QPointF) -> int:
        middle, _ = self._middle()
        far = math.hypot(at.x() - middle.x(), at.y() - middle.y())
        for place in range(len(self.loops)):
            r, band = self._ring(place)
            if abs(far - r) <= max(2.0, band * 0.7):
                return place
        return -1

    def _ms_at(self, at: QPointF) -> float:
        middle, _ = self._middle()
        angle = math.atan2(at.x() - middle.x(), -(at.y() - middle.y()))
        return (angle / (2 * math.pi)) % 1.0 * self.whole()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = self._place_at(event.position())
        if place < 0 or event.button() != Qt.MouseButton.LeftButton:
            return
        loop, ms = self.loops[place], self._ms_at(event.position())
        self.picked.emit(loop.id)
        near = self.whole() * 7.0 / (2 * math.pi * max(1.0, self._ring(place)[0]))
        self.gestures.begin(_Turn(self, loop, grip_at(loop, ms, near, self.whole()), ms))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.gestures.move(event):
            return
        place = self._place_at(event.position())
        self.setCursor(Qt.CursorShape.ArrowCursor if place < 0 else Qt.CursorShape.PointingHandCursor)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)


class _Turn:
    """A drag round the dial: what is turned over the top goes on."""

    def __init__(self, dial: Dial, loop: Loop, grip: Grip, ms: float) -> None:
        self.dial, self.loop, self.grip = dial, loop, grip
        self.last, self.travel = ms, 0.0

    def move(self, event: QMouseEvent) -> None:
        """The pointer goes round."""
        dial = self.dial
        ms, whole = dial._ms_at(event.position()), dial.whole()
        step = (ms - self.last + whole / 2) % whole - whole / 2
        self.last, self.travel = ms, self.travel + step
        fine = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        dial.dragging.emit(self.loop.id, changed(self.loop, self.grip, self.travel, fine))

    def end(self, event: QMouseEvent) -> None:
        """It stays so."""
        self.dial.dropped.emit()

    def cancel(self) -> None:
        """It is as it was."""
        self.dial.cancelled.emit()
