"""What happened in a rehearsal, one thing under the other."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget

from avelt.core.running.deeds import Deed
from avelt.core.running.player import LogEntry
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import shortened
from avelt.window.rehearse.time_strip import event_colour
from avelt.window.theme import font

_LINE = 40


class LogView(QWidget):
    """What happened, in order; what came after the moment that is looked at is faint. A click goes to its moment."""

    picked = Signal(float)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.entries: list[LogEntry] = []
        self.now = 0.0
        for stays in (Qt.WidgetAttribute.WA_OpaquePaintEvent, Qt.WidgetAttribute.WA_StaticContents):
            self.setAttribute(stays)  # what is in sight is moved, not painted again

    def show_entries(self, entries: list[LogEntry]) -> None:
        """Show a log; it is only ever longer, or another."""
        same = 0
        while same < min(len(entries), len(self.entries)) and entries[same] == self.entries[same]:
            same += 1
        self.entries = list(entries)
        self.setMinimumHeight(len(entries) * _LINE + 16)
        self.update(0, (same - 1) * _LINE, self.width(), self.height())  # the line before is tied to the next

    def show_now(self, ms: float) -> None:
        """The moment that is looked at."""
        for k, entry in enumerate(self.entries):
            if (entry.at <= ms) != (entry.at <= self.now):
                self.update(0, k * _LINE, self.width(), _LINE)
        self.now = ms

    def resizeEvent(self, event: QResizeEvent) -> None:
        if event.size().width() != event.oldSize().width():
            self.update()  # words are cut elsewhere

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = int(event.position().y() // _LINE)
        if 0 <= place < len(self.entries):
            self.picked.emit(self.entries[place].at)

    def spoken(self) -> list[Spoken]:
        """The lines for assistive technology."""
        return [
            Spoken(f"{entry.at:.0f} ms, {entry.says}", QRectF(0, k * _LINE, self.width(), _LINE))
            for k, entry in enumerate(self.entries)
        ]

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        painter.fillRect(event.rect(), theme.sheet)
        if self.entries:
            painter.setPen(QPen(theme.line, 2))
            painter.drawLine(QPointF(58, 16), QPointF(58, 16 + (len(self.entries) - 1) * _LINE))
        seen = event.rect()
        first, last = max(0, seen.top() // _LINE), seen.bottom() // _LINE + 1
        for k, entry in enumerate(self.entries[first:last], first):
            y = 16.0 + k * _LINE
            painter.setOpacity(1.0 if entry.at <= self.now else 0.55)
            painter.setFont(font(11))
            painter.setPen(theme.quiet)
            painter.drawText(
                QRectF(0, y - 9, 46, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{entry.at / 1000:.2f}",
            )
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(event_colour(theme, entry.what))
            painter.drawEllipse(QPointF(58, y), 5, 5)
            painter.setFont(font(12.5, 600))
            painter.setPen(theme.ink)
            painter.drawText(QRectF(74, y - 16, 200, 18), Qt.AlignmentFlag.AlignVCenter, tr(entry.what))
            painter.setFont(font(12))
            painter.setPen(theme.quiet)
            room = self.width() - 82
            painter.drawText(
                QRectF(74, y, room, 18), Qt.AlignmentFlag.AlignVCenter, shortened(painter, told(entry), room)
            )


def with_scrolls(log: list[LogEntry], deeds: list[Deed], now: float) -> list[LogEntry]:
    """What happened, with the scrolling that made nothing happen but that."""
    turns = [LogEntry(deed.start, "scroll", deed.says) for deed in deeds if deed.word == "scroll" and deed.start <= now]
    return sorted((*log, *turns), key=lambda entry: entry.at) if turns else log


def told(entry: LogEntry) -> str:
    """What an event is about, with the part that it was in."""
    return f"{entry.stage}: {entry.says}" if entry.stage else entry.says
