"""The kinds of delivery: ticked ones are written, the chosen one is looked at."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QWidget

from avelt.core.words import tr
from avelt.deliver.kinds import BY_KEY, KINDS
from avelt.window.common.accessible import Spoken
from avelt.window.common.workspace import Workspace
from avelt.window.theme import font

_ROW, _HEAD, _GAP = 40.0, 24.0, 12.0
_TICK = 16.0


class KindList(QWidget):
    """A row a kind, under the heading of whom it is for. Space ticks, the arrow keys choose."""

    chose = Signal(str)
    ticked = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.kind = KINDS[0].key
        self.marked: tuple[str, ...] = ()
        self.size_of: Callable[[str], str] = lambda kind: ""
        self._rows: list[tuple[float, str]] = []
        self._heads: list[tuple[float, str]] = []
        y = 10.0
        for group in dict.fromkeys(kind.group for kind in KINDS):
            self._heads.append((y, group))
            y += _HEAD
            for kind in KINDS:
                if kind.group == group:
                    self._rows.append((y, kind.key))
                    y += _ROW
            y += _GAP
        self._height = y
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setProperty("ownSpace", True)  # it ticks, and does not play
        self.setAccessibleName(tr("Kinds of delivery"))
        self.setToolTip(
            tr("A click on a tick writes it or not; a click on a row looks at it. Space ticks, arrows choose")
        )
        self.setMinimumHeight(int(y))

    def sizeHint(self) -> QSize:
        return QSize(288, int(self._height))

    def show_choice(self, kind: str, marked: tuple[str, ...]) -> None:
        """Show what is chosen and ticked."""
        self.kind, self.marked = kind, marked
        self.update()

    def row_rect(self, key: str) -> QRectF:
        """Where the row of a kind stands."""
        y = next(y for y, kind in self._rows if kind == key)
        return QRectF(0, y, self.width(), _ROW)

    def spoken(self) -> list[Spoken]:
        """The kinds for assistive technology."""
        return [
            Spoken(
                f"{BY_KEY[key].title}, {BY_KEY[key].says}, {self.size_of(key)}"
                + (tr(", will be written") if key in self.marked else ""),
                self.row_rect(key),
                key == self.kind,
            )
            for _, key in self._rows
        ]

    def tick_rect(self, key: str) -> QRectF:
        """Where the tick of a kind stands."""
        row = self.row_rect(key)
        return QRectF(16, row.center().y() - _TICK / 2, _TICK, _TICK)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        painter.setFont(font(12))
        painter.setPen(theme.quiet)
        for y, words in self._heads:
            painter.drawText(QRectF(16, y, self.width() - 32, _HEAD), int(Qt.AlignmentFlag.AlignVCenter), words)
        for _, key in self._rows:
            self._paint_row(painter, key)

    def _paint_row(self, painter: QPainter, key: str) -> None:
        theme, kind, rect = self.workspace.theme, BY_KEY[key], self.row_rect(key)
        if key == self.kind:
            painter.fillRect(rect, theme.chosen)
            if self.hasFocus():
                painter.setPen(QPen(theme.ink, 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(rect.adjusted(1, 0.5, -1, -0.5))
        box, on = self.tick_rect(key), key in self.marked
        painter.setPen(QPen(theme.ink if on else theme.quiet, 1.2))
        painter.setBrush(theme.ink if on else theme.sheet)
        painter.drawRoundedRect(box, 4, 4)
        if on:
            c = box.center()
            painter.setPen(QPen(theme.sheet, 1.8))
            painter.drawPolyline(QPolygonF([c + QPointF(-3.6, 0.2), c + QPointF(-1.0, 2.9), c + QPointF(3.8, -2.9)]))
        size = self.size_of(key)
        painter.setFont(font(12))
        wide = painter.fontMetrics().horizontalAdvance(size)
        painter.setPen(theme.quiet)
        right = rect.adjusted(0, 0, -14, 0)
        painter.drawText(right, int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight), size)
        room = rect.width() - 44 - 24 - wide
        painter.setPen(theme.ink)
        painter.setFont(font(13, QFont.Weight.Medium))
        title = painter.fontMetrics().elidedText(kind.title, Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(44, rect.top() + 4, room, 18), int(Qt.AlignmentFlag.AlignVCenter), title)
        painter.setPen(theme.quiet)
        painter.setFont(font(11))
        says = painter.fontMetrics().elidedText(kind.says, Qt.TextElideMode.ElideRight, int(room))
        painter.drawText(QRectF(44, rect.top() + 20, room, 16), int(Qt.AlignmentFlag.AlignVCenter), says)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        key = next((k for _, k in self._rows if self.row_rect(k).contains(event.position())), "")
        if not key or event.button() != Qt.MouseButton.LeftButton:
            return
        if self.tick_rect(key).adjusted(-10, -8, 10, 8).contains(event.position()):
            self._tick(key)
        else:
            self._choose(key)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = [key for _, key in self._rows]
        place = keys.index(self.kind)
        if event.key() == Qt.Key.Key_Space:
            self._tick(self.kind)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            step = 1 if event.key() == Qt.Key.Key_Down else -1
            self._choose(keys[max(0, min(len(keys) - 1, place + step))])
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: object) -> None:
        self.update()

    def focusOutEvent(self, event: object) -> None:
        self.update()

    def _tick(self, key: str) -> None:
        wanted = set(self.marked) ^ {key}
        marked = [kind.key for kind in KINDS if kind.key in wanted]
        self.marked = tuple(marked)
        self.update()
        self.ticked.emit()

    def _choose(self, key: str) -> None:
        if key != self.kind:
            self.kind = key
            self.update()
            self.chose.emit(key)
