"""What runs now: motions, waits, what follows a value, loops, phases and timers; a click leads to where it is made."""

from __future__ import annotations

from math import ceil

from PySide6.QtCore import QEvent, QRectF, Qt, Signal
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QRegion
from PySide6.QtWidgets import QToolTip, QWidget

from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import shortened
from avelt.window.theme import font

_NAME = 18.0  # px that a line's words are high


class Line(Record, frozen=True):
    """One thing that runs: what it is called, where it is in words, its share, and of which kind it is.

    ``wanted``: how far a thing that lags shall be. ``leads``: where it is made, as (kind, ids).
    """

    name: str
    words: str
    share: float
    kind: str
    wanted: float | None = None
    leads: tuple[str, ...] = ()


class NowRuns(QWidget):
    """A line a thing. More than fit are drawn closer together."""

    picked = Signal(object)  # Line

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.lines: list[Line] = []
        self.at = -1
        self._hover = -1
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName(tr("What runs now"))

    def show_lines(self, lines: list[Line]) -> None:
        """Show what runs."""
        if lines == self.lines:
            return
        before, self.lines = self.lines, lines
        self.at = min(self.at, len(lines) - 1)
        self.setAccessibleDescription("; ".join(f"{line.name}: {line.words}" for line in lines))
        if [(line.name, line.leads) for line in before] != [(line.name, line.leads) for line in lines]:
            self.update()
            return
        for k, (old, new) in enumerate(zip(before, lines, strict=True)):
            if old != new:  # all but its name: names take the most to paint, and stay
                name, whole = self._name_rect(k), self._rect(k)
                self.update(QRegion(whole.toAlignedRect()) - QRegion(name.toRect()))

    def spoken(self) -> list[Spoken]:
        """The lines for assistive technology."""
        each = self.height() / max(1, len(self.lines))
        return [
            Spoken(f"{tr(line.kind)} {line.name}: {line.words}", QRectF(0, k * each, self.width(), each), k == self.at)
            for k, line in enumerate(self.lines)
        ]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        if not self.lines:
            painter.setFont(font(12.5))
            painter.setPen(theme.quiet)
            painter.drawText(QRectF(0, 0, self.width(), 22), Qt.AlignmentFlag.AlignVCenter, tr("Nothing moves."))
        again = event.region()
        painter.setPen(theme.ink)
        for k, line in enumerate(self.lines):
            if again.intersects(self._name_rect(k).toRect()):
                self._paint_name(painter, k, line)
        painter.setFont(font(12))
        for k, line in enumerate(self.lines):
            if again.intersects(self._rect(k).toAlignedRect()):
                self._paint_state(painter, k, line)

    def _rect(self, k: int) -> QRectF:
        return QRectF(0, k * self.step(), self.width(), self.step())

    def _name_rect(self, k: int) -> QRectF:
        return QRectF(0, k * self.step(), self.width() - self._words_room(), _NAME)

    def _words_room(self) -> float:
        return min(150.0, self.width() / 2)

    def _paint_name(self, painter: QPainter, k: int, line: Line) -> None:
        marked = line.leads and (k == self._hover or (k == self.at and self.hasFocus()))
        painter.setFont(font(12.5, 600 if marked else 500))
        where = self._name_rect(k)
        painter.drawText(where, Qt.AlignmentFlag.AlignVCenter, shortened(painter, line.name, where.width() - 6))

    def _paint_state(self, painter: QPainter, k: int, line: Line) -> None:
        theme, step, y = self.workspace.theme, self.step(), k * self.step()
        room = self._words_room()
        painter.setPen(theme.quiet)
        painter.drawText(
            QRectF(self.width() - room, y, room, _NAME),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            shortened(painter, line.words, room),
        )
        if line.kind == "phase":
            return
        thick = 8.0 if step > 30.0 else 3.0
        under = y + min(22.0, step - thick - 2.0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.faint)
        painter.drawRoundedRect(QRectF(0, under, self.width(), thick), thick / 2, thick / 2)
        colour = {"loop": theme.loop, "timer": theme.hatch_line, "follow": theme.leaves}.get(line.kind, theme.arrives)
        if line.wanted is not None and abs(line.wanted - line.share) > 1e-3:
            low, high = sorted((line.share, line.wanted))
            painter.setBrush(theme.ribbon_from)
            painter.drawRect(QRectF(self.width() * low, under, self.width() * (high - low), thick))
        painter.setBrush(colour)
        full = max(0.0, self.width() * min(1.0, line.share))
        painter.drawRoundedRect(QRectF(0, under, full, thick), thick / 2, thick / 2)
        if line.wanted is not None:
            painter.setPen(QPen(theme.now, 2))
            x = min(self.width() - 1.0, max(1.0, self.width() * line.wanted))
            top = max(int(under - 2), ceil(y + _NAME) + 1)  # its end is a px thick, too
            painter.drawLine(int(x), top, int(x), int(under + thick + 2))

    def step(self) -> float:
        """How far one line is under the other."""
        return max(24.0, min(46.0, self.height() / max(1, len(self.lines))))

    def line_at(self, y: float) -> int:
        """The number of the line at a height; -1 for none."""
        k = int(y // self.step())
        return k if 0 <= k < len(self.lines) else -1

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        k = self.line_at(event.position().y())
        leads = k >= 0 and bool(self.lines[k].leads)
        self.setCursor(Qt.CursorShape.PointingHandCursor if leads else Qt.CursorShape.ArrowCursor)
        if k != self._hover:
            self._hover = k
            self.update()

    def leaveEvent(self, event: QEvent) -> None:
        self._hover = -1
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pick(self.line_at(event.position().y()))

    def _pick(self, k: int) -> None:
        if 0 <= k < len(self.lines) and self.lines[k].leads:
            self.at = k
            self.picked.emit(self.lines[k])

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and self.lines:
            by = 1 if event.key() == Qt.Key.Key_Down else -1
            self.at = min(len(self.lines) - 1, max(0, self.at + by))
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._pick(self.at)
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and isinstance(event, QHelpEvent):
            k = self.line_at(event.pos().y())
            words = f"{self.lines[k].name}: {self.lines[k].words}" if k >= 0 else ""
            QToolTip.showText(
                event.globalPos(), words + (tr(". Click to go there") if k >= 0 and self.lines[k].leads else "")
            )
            return True
        return super().event(event)
