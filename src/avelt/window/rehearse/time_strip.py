"""The time of a rehearsal along a line: what happened when, where it is now, and a handle to look back."""

from __future__ import annotations

from bisect import bisect_left, bisect_right

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avelt.core.running.player import LogEntry
from avelt.core.running.world import What
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.theme import Theme, font

_SIDE = 14.0
_LINE = 16.0  # from the top
_LEAST = 1_000.0  # ms that the line has room for at least


def event_colour(theme: Theme, what: What) -> QColor:
    """The colour of an event, here and in the log."""
    roles = {
        "arrives": theme.arrives,
        "tap": theme.leaves,
        "timer": theme.leaves,
        "goes back": theme.now,
        "entrance": theme.arrives,
        "stopped": theme.trouble,
    }
    return roles.get(what, theme.ribbon_from)


class TimeStrip(QWidget):
    """Drag the handle, or go from event to event with the arrow keys. It moves the station's clock."""

    def __init__(self, workspace: Workspace, clock: Clock) -> None:
        super().__init__()
        self.workspace, self.clock = workspace, clock
        self.entries: list[LogEntry] = []
        self.last = 0.0
        self.gestures = GestureHost(self)
        self.setFixedHeight(46)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName("Time of the rehearsal")
        self.setToolTip(
            "Drag to look back; ← and → go from event to event. Going on from there forgets what came later"
        )

    def show_time(self, entries: list[LogEntry], last: float) -> None:
        """Show what happened until the last moment."""
        self.entries, self.last = entries, last
        self.update()

    def x_of(self, ms: float) -> float:
        """Where a time stands."""
        return _SIDE + ms / max(self.last, _LEAST) * (self.width() - 2 * _SIDE)

    def ms_at(self, x: float) -> float:
        """The time at a place; what has not happened yet cannot be looked at."""
        share = (x - _SIDE) / max(1.0, self.width() - 2 * _SIDE)
        return min(self.last, max(0.0, share * max(self.last, _LEAST)))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        now = self.x_of(self.clock.ms)
        round_cap = Qt.PenCapStyle.RoundCap
        painter.setPen(QPen(theme.line, 4, Qt.PenStyle.SolidLine, round_cap))
        painter.drawLine(QPointF(_SIDE, _LINE), QPointF(self.width() - _SIDE, _LINE))
        painter.setPen(QPen(theme.quiet, 4, Qt.PenStyle.SolidLine, round_cap))
        painter.drawLine(QPointF(_SIDE, _LINE), QPointF(now, _LINE))
        painter.setPen(QPen(theme.desk, 1.5))
        for entry in self.entries:
            painter.setOpacity(1.0 if entry.at <= self.clock.ms else 0.55)
            painter.setBrush(event_colour(theme, entry.what))
            painter.drawEllipse(QPointF(self.x_of(entry.at), _LINE), 5, 5)
        painter.setOpacity(1.0)
        painter.setPen(QPen(theme.now, 2))
        painter.drawLine(QPointF(now, 3), QPointF(now, 29))
        painter.setPen(theme.now if self.hasFocus() else theme.quiet)
        painter.setFont(font(11))
        wide = 120.0
        left = min(max(0.0, now - wide / 2), self.width() - wide)
        words = f"{self.clock.ms / 1000:.2f} s"
        if self.clock.ms < self.last:
            words += f" of {self.last / 1000:.2f} s"
        painter.drawText(QRectF(left, 29, wide, 16), Qt.AlignmentFlag.AlignCenter, words)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        was, played = self.clock.ms, self.clock.playing

        def seek(moved: QMouseEvent) -> None:
            self.clock.seek(self.ms_at(moved.position().x()))

        def give_up() -> None:
            self.clock.seek(was)
            if played:
                self.clock.play()

        self.clock.stop()
        self.gestures.begin(Drag(seek, seek, give_up))
        seek(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.gestures.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Left:
            self.to_event(-1)
        elif event.key() == Qt.Key.Key_Right:
            self.to_event(1)
        else:
            super().keyPressEvent(event)

    def to_event(self, way: int) -> None:
        """Stand at the event before (-1) or after (1) this moment; after the last there is the last moment."""
        times = sorted({entry.at for entry in self.entries} | {0.0, self.last})
        place = bisect_left(times, self.clock.ms) - 1 if way < 0 else bisect_right(times, self.clock.ms)
        self.clock.stop()
        if 0 <= place < len(times):
            self.clock.seek(times[place])
