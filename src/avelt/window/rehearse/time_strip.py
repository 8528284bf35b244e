"""The time of a rehearsal along a line: what happened when, where it is now, and a handle to look back."""

from __future__ import annotations

from bisect import bisect_left, bisect_right

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from avelt.core.running.deeds import Deed
from avelt.core.running.player import LogEntry
from avelt.core.running.world import What
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.theme import Theme, font

_SIDE = 14.0
_DEED = 11.0  # the middle of what was done, from the top
_LINE = 30.0  # that of the line
_LEAST = 1_000.0  # ms that the line has room for at least
_NEAR = 6.0  # px around a thing that belong to it
_NUDGE = 10.0  # ms that a key moves a deed by


#: The role of an event's colour; all others have one together.
_ROLES: dict[What, str] = {
    "arrives": "arrives",
    "tap": "leaves",
    "timer": "leaves",
    "goes back": "now",
    "entrance": "arrives",
    "drag": "leaves",
    "let go": "leaves",
    "scroll": "leaves",
    "key": "leaves",
    "closes": "now",
    "stopped": "trouble",
}


def event_colour(theme: Theme, what: What) -> QColor:
    """The colour of an event, here and in the log."""
    found: QColor = getattr(theme, _ROLES.get(what, "ribbon_from"))
    return found


class TimeStrip(QWidget):
    """Drag the handle, or go from event to event with the arrow keys; it moves the station's clock. What was done
    stands above the line: dragged, it is done earlier or later."""

    retimed = Signal(object, float)  # a deed, and by how many ms

    def __init__(self, workspace: Workspace, clock: Clock) -> None:
        super().__init__()
        self.workspace, self.clock = workspace, clock
        self.entries: list[LogEntry] = []
        self.deeds: list[Deed] = []
        self.last = 0.0
        self.mark: float | None = None  # where two tapes part
        self._dragged: tuple[Deed, float] | None = None
        self.gestures = GestureHost(self)
        self.setFixedHeight(60)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(tr("Time of the rehearsal"))
        self.setToolTip(
            tr("Drag to look back; ← and → go from event to event, with Shift they move what was done at this moment")
        )

    def show_time(self, entries: list[LogEntry], last: float, deeds: list[Deed] | None = None) -> None:
        """Show what happened, and what was done, until the last moment."""
        self.entries, self.last, self.deeds = entries, last, deeds or []
        self.update()

    def spoken(self) -> list[Spoken]:
        """What was done and what happened, for assistive technology."""
        made = [
            Spoken(
                tr("{deed} at {start:.0f} ms", deed=tr(deed.word), start=deed.start),
                QRectF(self.x_of(deed.start) - 5, _DEED - 5, 10, 10),
            )
            for deed in self.deeds
        ]
        return made + [
            Spoken(f"{entry.says}, {entry.at:.0f} ms", QRectF(self.x_of(entry.at) - 4, _LINE - 4, 8, 8))
            for entry in self.entries
        ]

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
            painter.drawEllipse(QPointF(self.x_of(entry.at), _LINE), 4, 4)
        painter.setOpacity(1.0)
        for deed in self.deeds:
            self._paint_deed(painter, deed)
        if self.mark is not None:
            painter.setPen(QPen(theme.trouble, 2, Qt.PenStyle.DashLine))
            painter.drawLine(QPointF(self.x_of(self.mark), 2), QPointF(self.x_of(self.mark), 42))
        painter.setPen(QPen(theme.now, 2))
        painter.drawLine(QPointF(now, 3), QPointF(now, 43))
        painter.setPen(theme.now if self.hasFocus() else theme.quiet)
        painter.setFont(font(11))
        wide = 120.0
        left = min(max(0.0, now - wide / 2), self.width() - wide)
        words, last = f"{self.clock.ms / 1000:.2f} s", self.last / 1000
        if self.clock.ms < self.last:
            words = tr("{words} of {last:.2f} s", words=words, last=last)
        painter.drawText(QRectF(left, 43, wide, 16), Qt.AlignmentFlag.AlignCenter, words)

    def _paint_deed(self, painter: QPainter, deed: Deed) -> None:
        """A tap is a dot, what lasts a bar, a key a square, a value or signal a diamond."""
        theme = self.workspace.theme
        by = self._dragged[1] if self._dragged is not None and self._dragged[0].first == deed.first else 0.0
        left, right = self.x_of(deed.start + by), self.x_of(deed.end + by)
        painter.setPen(QPen(theme.ink, 1.2))
        painter.setBrush(theme.now if by else theme.sheet)
        if deed.word in ("drag", "scroll", "hold", "press") and right - left > 8.0:
            painter.drawRoundedRect(QRectF(left, _DEED - 4, right - left, 8), 4, 4)
        elif deed.word == "key":
            painter.drawRect(QRectF(left - 4, _DEED - 4, 8, 8))
        elif deed.word in ("input", "signal", "loaded"):
            painter.drawPolygon(
                [QPointF(left - 5, _DEED), QPointF(left, _DEED - 5), QPointF(left + 5, _DEED), QPointF(left, _DEED + 5)]
            )
        else:
            painter.drawEllipse(QPointF(left, _DEED), 4, 4)

    def deed_at(self, x: float, y: float) -> Deed | None:
        """What was done at a place of the widget."""
        if y > _LINE - 8.0:
            return None
        near = (d for d in self.deeds if self.x_of(d.start) - _NEAR <= x <= self.x_of(d.end) + _NEAR)
        return min(near, key=lambda d: abs((self.x_of(d.start) + self.x_of(d.end)) / 2 - x), default=None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        deed = self.deed_at(event.position().x(), event.position().y())
        if deed is not None:
            self._drag_deed(deed, event.position().x())
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

    def _drag_deed(self, deed: Deed, x: float) -> None:
        """What was done is done earlier or later."""

        def by(moved: QMouseEvent) -> float:
            return (moved.position().x() - x) * max(self.last, _LEAST) / max(1.0, self.width() - 2 * _SIDE)

        def drag(moved: QMouseEvent) -> None:
            self._dragged = deed, by(moved)
            self.update()

        def end(moved: QMouseEvent) -> None:
            self._dragged = None
            self.update()
            if abs(by(moved)) >= 1.0:
                self.retimed.emit(deed, by(moved))

        def give_up() -> None:
            self._dragged = None
            self.update()

        self.clock.stop()
        self.gestures.begin(Drag(drag, end, give_up))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.gestures.move(event)
        deed = self.deed_at(event.position().x(), event.position().y())
        if deed is not None and not event.buttons():
            QToolTip.showText(
                event.globalPosition().toPoint(),
                tr("{deed} {says}: drag to another time", deed=tr(deed.word), says=deed.says),
                self,
            )

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        sideways = {Qt.Key.Key_Left: -_NUDGE, Qt.Key.Key_Right: _NUDGE}.get(Qt.Key(event.key()), 0.0)
        if sideways and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            here = (d for d in self.deeds if d.start - 0.5 <= self.clock.ms <= d.end + 0.5)
            deed = next(here, None)
            if deed is not None:
                self.clock.stop()
                self.retimed.emit(deed, sideways)
        elif event.key() == Qt.Key.Key_Left:
            self.to_event(-1)
        elif event.key() == Qt.Key.Key_Right:
            self.to_event(1)
        else:
            super().keyPressEvent(event)

    def to_event(self, way: int) -> None:
        """Stand at the event before (-1) or after (1) this moment; after the last there is the last moment."""
        times = sorted({e.at for e in self.entries} | {deed.start for deed in self.deeds} | {0.0, self.last})
        place = bisect_left(times, self.clock.ms) - 1 if way < 0 else bisect_right(times, self.clock.ms)
        self.clock.stop()
        if 0 <= place < len(times):
            self.clock.seek(times[place])
