"""The unrolled strip: each loop's rounds along time, with its waits."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avelt.core.model.values import Loop
from avelt.core.timing.loops import round_duration, total_length
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import draw_rest, draw_wait, shortened
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
    while t < until and len(found) < _MOST_PIECES and (not loop.rounds or number < loop.rounds):
        if loop.wait_when == "before each round" and loop.wait > 0:
            found.append(("waits", t, t + loop.wait))
            t += loop.wait
        if loop.direction == "one way":
            found.append(("there", t, t + loop.duration))
        else:
            found += [("there", t, t + loop.duration / 2), ("back", t + loop.duration / 2, t + loop.duration)]
        t += loop.duration
        number += 1
    if loop.rounds and number >= loop.rounds and t < until:
        found.append(("rests", t, until))
    return [(what, max(0.0, a), min(until, b)) for what, a, b in found if b > 0 and a < until]


def shown_time(loops: tuple[Loop, ...], chosen: Loop | None) -> float:
    """How much time the strip shows: three rounds of the chosen (else the longest) loop."""
    base = chosen or max(loops, key=round_duration, default=None)
    if base is None:
        return 3000.0
    once = base.wait if base.wait_when == "once" else 0.0
    return max(200.0, min(once + _ROUNDS * round_duration(base), max(total_length(base), 200.0)))


class Strip(QWidget):
    """The canvas; a click chooses a loop, the playhead shows where the clock is."""

    picked = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.loops: tuple[Loop, ...] = ()
        self.chosen = ""
        self.now = 0.0
        self.setAccessibleName("Rounds")

    def show_loops(self, loops: tuple[Loop, ...], chosen: str) -> None:
        """Show a frame's loops."""
        self.loops, self.chosen = loops, chosen
        self.setMinimumHeight(_HEAD + len(loops) * _ROW + 8)
        self.update()

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
                    painter.setPen(Qt.PenStyle.NoPen)
                    painter.setBrush(theme.loop if what == "there" else theme.loop_light)
                    painter.drawRoundedRect(rect.adjusted(0.5, 0, -0.5, 0), 3, 3)
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
            painter.drawText(QRectF(x + 6, 0, 90, _HEAD - 2), Qt.AlignmentFlag.AlignVCenter, f"round {number + 1}")
            number += 1

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = int((event.position().y() - _HEAD) // _ROW)
        if 0 <= place < len(self.loops):
            self.picked.emit(self.loops[place].id)
