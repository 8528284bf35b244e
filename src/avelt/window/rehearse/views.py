"""What Rehearse shows: the screen, what happened, and what runs now."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from avelt.core.geometry.affine import box_bounds
from avelt.core.model.properties import COLUMN
from avelt.core.running.player import LogEntry
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import shortened
from avelt.window.controls.views import SceneView
from avelt.window.rehearse.time_strip import event_colour
from avelt.window.theme import font

_LINE = 40


class Preview(SceneView):
    """The screen that is rehearsed on; what can be tapped may be outlined."""

    moved = Signal(float, float)
    gone = Signal()  # the pointer left it

    def __init__(self, workspace: Workspace) -> None:
        super().__init__(workspace)
        self.setMouseTracking(True)
        self.hot: tuple[str, ...] = ()
        self.show_hot = True

    def paint_over(self, painter: QPainter, rect: QRectF) -> None:
        if self.scene is None or not self.show_hot:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(rect)
        painter.setPen(QPen(self.workspace.theme.now, 1.8, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        world, to = self.scene.world(), self.to_widget()
        for slot, part in enumerate(self.scene.program.contents):
            layer = part.right or part.left
            if layer is None or layer.id not in self.hot or self.scene.program.is_absent(slot, self.scene.at):
                continue
            row_ = self.scene.scalars[slot]
            x, y, w, h = (float(v) for v in box_bounds(world[slot], row_[COLUMN["w"]], row_[COLUMN["h"]]))
            painter.drawRoundedRect(to.mapRect(QRectF(x, y, w, h)).adjusted(-3, -3, 3, 3), 8, 8)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.scene is not None:
            self.moved.emit(*self.in_frame(event))

    def leaveEvent(self, event: QEvent) -> None:
        self.gone.emit()


class LogView(QWidget):
    """What happened, in order; what came after the moment that is looked at is faint. A click goes to its moment."""

    picked = Signal(float)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.entries: list[LogEntry] = []
        self.now = 0.0

    def show_entries(self, entries: list[LogEntry]) -> None:
        """Show a log; it is only ever longer, or another."""
        self.entries = list(entries)
        self.setMinimumHeight(len(entries) * _LINE + 16)
        self.update()

    def show_now(self, ms: float) -> None:
        """The moment that is looked at."""
        if any((entry.at <= ms) != (entry.at <= self.now) for entry in self.entries):
            self.update()
        self.now = ms

    def mousePressEvent(self, event: QMouseEvent) -> None:
        place = int(event.position().y() // _LINE)
        if 0 <= place < len(self.entries):
            self.picked.emit(self.entries[place].at)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        if self.entries:
            painter.setPen(QPen(theme.line, 2))
            painter.drawLine(QPointF(58, 16), QPointF(58, 16 + (len(self.entries) - 1) * _LINE))
        for k, entry in enumerate(self.entries):
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
            painter.drawText(QRectF(74, y - 16, 200, 18), Qt.AlignmentFlag.AlignVCenter, entry.what)
            painter.setFont(font(12))
            painter.setPen(theme.quiet)
            room = self.width() - 82
            painter.drawText(
                QRectF(74, y, room, 18), Qt.AlignmentFlag.AlignVCenter, shortened(painter, told(entry), room)
            )


def told(entry: LogEntry) -> str:
    """What an event is about, with the part that it was in."""
    return f"{entry.stage}: {entry.says}" if entry.stage else entry.says


class NowRuns(QWidget):
    """What runs now: the route under way, timers, phases, loops. More than fit are drawn closer together."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.lines: list[tuple[str, str, float, str]] = []

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        step = self.step()
        for k, (name, words, share, kind) in enumerate(self.lines):
            y = k * step
            painter.setFont(font(12.5, 500))
            painter.setPen(theme.ink)
            painter.drawText(
                QRectF(0, y, self.width() - 120, 18),
                Qt.AlignmentFlag.AlignVCenter,
                shortened(painter, name, self.width() - 124),
            )
            painter.setFont(font(12))
            painter.setPen(theme.quiet)
            painter.drawText(
                QRectF(self.width() - 150, y, 150, 18),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                words,
            )
            if kind == "phase":
                continue
            thick = 8.0 if step > 30.0 else 3.0
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.faint)
            under = y + min(22.0, step - thick - 2.0)
            painter.drawRoundedRect(QRectF(0, under, self.width(), thick), thick / 2, thick / 2)
            painter.setBrush({"loop": theme.loop, "timer": theme.hatch_line}.get(kind, theme.arrives))
            full = max(0.0, self.width() * min(1.0, share))
            painter.drawRoundedRect(QRectF(0, under, full, thick), thick / 2, thick / 2)

    def step(self) -> float:
        """How far one line is under the other."""
        return max(24.0, min(46.0, self.height() / max(1, len(self.lines))))
