"""The unrolled strip: each loop's rounds along time, with its waits."""

from __future__ import annotations

from collections.abc import Mapping
from itertools import pairwise

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avelt.core.model.values import Loop
from avelt.core.timing.loops import round_duration, total_length
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import draw_rest, draw_wait, shortened
from avelt.window.loops.grips import changed, grip_at
from avelt.window.theme import font

_NAMES = 150
_HEAD = 22
_ROW = 46
_ROUNDS = 3
_MOST_PIECES = 400

Piece = tuple[str, float, float]  # waits, there, back or rests; start and end in ms


def pieces(loop: Loop, until: float) -> list[Piece]:
    """What a loop does from its start until a time, in order."""
    found: list[Piece] = []
    t = -loop.start_offset
    if loop.wait_when == "once" and loop.wait > 0:
        found.append(("waits", t, t + loop.wait))
        t += loop.wait
    number = 0
    legs = _legs(loop)
    while t < until and len(found) < _MOST_PIECES and (not loop.rounds or number < loop.rounds):
        if loop.wait_when == "before each round" and loop.wait > 0:
            found.append(("waits", t, t + loop.wait))
            t += loop.wait
        found += [(what, t + first * loop.duration, t + last * loop.duration) for what, first, last in legs]
        t += loop.duration
        number += 1
    if loop.rounds and number >= loop.rounds and t < until:
        found.append(("rests", t, until))
    return [(what, max(0.0, a), min(until, b)) for what, a, b in found if b > 0 and a < until]


def _legs(loop: Loop) -> list[Piece]:
    """What one round consists of, as shares of it: there, back, and where keyframes hold, waits."""
    if not loop.keyframes:
        return [("there", 0.0, 1.0)] if loop.direction == "one way" else [("there", 0.0, 0.5), ("back", 0.5, 1.0)]
    marks = [(key.at, key.far) for key in loop.keyframes]
    marks = [(0.0, 0.0), *marks] if marks[0][0] > 0.0 else marks
    legs = [("waits" if a[1] == b[1] else "there" if b[1] > a[1] else "back", a[0], b[0]) for a, b in pairwise(marks)]
    return [*legs, ("waits", marks[-1][0], 1.0)] if marks[-1][0] < 1.0 else legs


def shown_time(loops: tuple[Loop, ...], chosen: Loop | None) -> float:
    """How much time the strip shows: three rounds of the chosen (else the longest) loop."""
    base = chosen or max(loops, key=round_duration, default=None)
    if base is None:
        return 3000.0
    once = base.wait if base.wait_when == "once" else 0.0
    return max(200.0, min(once + _ROUNDS * round_duration(base), max(total_length(base), 200.0)))


def loop_words(loop: Loop) -> str:
    """A loop as it is said."""
    wait = tr(", waits {wait:g} ms {wait_when}", wait=loop.wait, wait_when=tr(loop.wait_when)) if loop.wait else ""
    rounds = tr(", {rounds} rounds", rounds=loop.rounds) if loop.rounds else ""
    muted = tr(", muted") if loop.muted else ""
    return f"{loop.name}, {loop.duration:g} ms {tr(loop.direction)}{wait}{rounds}{muted}"


class Strip(QWidget):
    """The canvas; a click chooses a loop, a drag changes its duration, wait or phase, the playhead is the clock.

    A press beside the rows takes the playhead.
    """

    picked = Signal(str)
    dragging = Signal(str, object)
    dropped = Signal()
    cancelled = Signal()
    sought = Signal(float)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.loops: tuple[Loop, ...] = ()
        self.chosen = ""
        self.now = 0.0
        self.jumps: dict[str, str] = {}  # what jumps at the end of a loop's round, in words
        self.gestures = GestureHost(self)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Rounds"))

    def show_loops(self, loops: tuple[Loop, ...], chosen: str, jumps: Mapping[str, str] | None = None) -> None:
        """Show a frame's loops, and where their seams are open."""
        self.loops, self.chosen, self.jumps = loops, chosen, dict(jumps or {})
        self.setMinimumHeight(_HEAD + len(loops) * _ROW + 8)
        self.update()

    def spoken(self) -> list[Spoken]:
        """The loops for assistive technology."""
        return [
            Spoken(loop_words(loop), QRectF(0, _HEAD + k * _ROW, self.width(), _ROW), loop.id == self.chosen)
            for k, loop in enumerate(self.loops)
        ]

    def span(self) -> float:
        """The time that is shown, ms."""
        return shown_time(self.loops, next((loop for loop in self.loops if loop.id == self.chosen), None))

    def x_of(self, ms: float) -> float:
        """Where a time stands."""
        return _NAMES + ms / self.span() * (self.width() - _NAMES - 16)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        span = self.span()
        base = next((loop for loop in self.loops if loop.id == self.chosen), None)
        base = base or max(self.loops, key=round_duration, default=None)
        self._paint_rounds(painter, base, span)
        for k, loop in enumerate(self.loops):
            top = _HEAD + k * _ROW
            if loop.id == self.chosen:
                painter.fillRect(QRectF(0, top + 2, _NAMES - 8, _ROW - 4), theme.chosen)
            painter.setFont(font(12.5, 500))
            painter.setPen(theme.ink)
            painter.drawText(
                QRectF(12, top, _NAMES - 24, _ROW),
                Qt.AlignmentFlag.AlignVCenter,
                shortened(painter, loop.name, _NAMES - 26),
            )
            for what, start, end in pieces(loop, span):
                rect = QRectF(self.x_of(start), top + 9, self.x_of(end) - self.x_of(start), _ROW - 18)
                if what == "waits":
                    draw_wait(painter, theme, rect.adjusted(0, 6, 0, -6))
                elif what == "rests":
                    draw_rest(painter, theme, rect.left(), rect.right(), rect.center().y())
                else:
                    painter.setOpacity(0.35 if loop.muted else 1.0)
                    painter.setPen(Qt.PenStyle.NoPen)
                    painter.setBrush(theme.loop if what == "there" else theme.loop_light)
                    painter.drawRoundedRect(rect.adjusted(0.5, 0, -0.5, 0), 3, 3)
                    painter.setOpacity(1.0)
            if loop.id in self.jumps:
                self._paint_seams(painter, loop, top, span)
        if self.loops:
            x = self.x_of(self.now % span if span else 0.0)
            painter.setPen(QPen(theme.now, 1.8))
            painter.drawLine(QPointF(x, 6), QPointF(x, _HEAD + len(self.loops) * _ROW))

    def _paint_rounds(self, painter: QPainter, base: Loop | None, span: float) -> None:
        if base is None:
            return
        theme = self.workspace.theme
        once = base.wait if base.wait_when == "once" else 0.0
        whole = round_duration(base)
        number = 0
        while whole > 0 and once + number * whole < span and number < 60:
            x = self.x_of(once + number * whole)
            pen = QPen(theme.quiet, 1.2, Qt.PenStyle.DotLine)
            painter.setPen(pen)
            painter.drawLine(QPointF(x, 2), QPointF(x, _HEAD + len(self.loops) * _ROW))
            painter.setFont(font(11))
            painter.setPen(theme.quiet)
            painter.drawText(
                QRectF(x + 6, 0, 90, _HEAD - 2), Qt.AlignmentFlag.AlignVCenter, tr("round {number}", number=number + 1)
            )
            number += 1

    def _paint_seams(self, painter: QPainter, loop: Loop, top: float, span: float) -> None:
        """A mark where a round ends and the next one jumps."""
        whole, end = round_duration(loop), -loop.start_offset + (loop.wait if loop.wait_when == "once" else 0.0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.workspace.theme.trouble)
        for number in range(1, 60):
            ms = end + number * whole
            if ms > span or whole <= 0.0:
                break
            if ms > 0.0:
                x = self.x_of(ms)
                painter.drawPolygon([QPointF(x - 4, top + 4), QPointF(x + 4, top + 4), QPointF(x, top + 10)])

    def ms_of(self, x: float) -> float:
        """The time at a place."""
        return (x - _NAMES) / max(1.0, self.width() - _NAMES - 16) * self.span()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place, x = int((event.position().y() - _HEAD) // _ROW), event.position().x()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if not 0 <= place < len(self.loops) or event.position().y() < _HEAD:
            self.gestures.begin(Drag(self._seek))
            self._seek(event)
            return
        loop = self.loops[place]
        self.picked.emit(loop.id)
        if x >= _NAMES:
            grip = grip_at(loop, self.ms_of(x), self.ms_of(_NAMES + 6.0), self.span())
            scale = self.ms_of(_NAMES + 1.0)  # ms a pixel: kept, though the strip may show another time meanwhile
            ident = loop.id

            def drag(moved: QMouseEvent) -> None:
                fine = bool(moved.modifiers() & Qt.KeyboardModifier.AltModifier)
                self.dragging.emit(ident, changed(loop, grip, (moved.position().x() - x) * scale, fine))

            self.gestures.begin(Drag(drag, lambda _: self.dropped.emit(), self.cancelled.emit))

    def _seek(self, event: QMouseEvent) -> None:
        if event.position().x() >= _NAMES:
            self.sought.emit(max(0.0, self.ms_of(event.position().x())))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.gestures.move(event):
            return
        place = int((event.position().y() - _HEAD) // _ROW)
        shape = Qt.CursorShape.ArrowCursor
        if 0 <= place < len(self.loops) and event.position().x() >= _NAMES and event.position().y() >= _HEAD:
            ms = self.ms_of(event.position().x())
            grip = grip_at(self.loops[place], ms, self.ms_of(_NAMES + 6.0), self.span())
            shape = Qt.CursorShape.OpenHandCursor if grip == "phase" else Qt.CursorShape.SizeHorCursor
        self.setCursor(shape)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip:
            place = int((event.pos().y() - _HEAD) // _ROW)  # type: ignore[attr-defined]
            loop = self.loops[place] if 0 <= place < len(self.loops) else None
            says = self.jumps.get(loop.id, "") if loop is not None else ""
            self.setToolTip(tr("Its seam jumps: {says}", says=says) if says else "")
        return super().event(event)
