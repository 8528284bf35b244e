"""Rows of a running order as sentences, drawn: what each phase shows, how long it lasts, what comes then."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QApplication, QWidget

from avelt.core.checks.phase_words import lasts_words, rule_words, shows_words
from avelt.core.model.phases import Phase, Track, kind_of
from avelt.core.model.values import Project
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.controls.drawing import shortened
from avelt.window.theme import Theme, font

HEIGHT = 46
_MARK = 4
#: Where the columns begin: the name, what is shown, how long, then. Shares of what is right of the name.
NAME, SHARES = 44, (0.0, 0.34, 0.47)
_NAME_WIDTH = 118


def columns(width: float) -> tuple[float, float, float, float]:
    """Where the four columns begin in a row of a width."""
    left = NAME + _NAME_WIDTH
    room = width - left - 12
    return (NAME, *(left + share * room for share in SHARES))  # type: ignore[return-value]


class PhaseLine(QWidget):
    """One phase. A click chooses it, a double click begins it, a drag moves it; so do the keys."""

    chosen = Signal(str)
    began = Signal(str)
    moved = Signal(str, int)  # by how many rows
    removed = Signal(str)
    menu_wanted = Signal(str, object)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.phase_id = ""
        self.texts = ("", "", "", "")
        self.rules: tuple[str, ...] = ()
        self.glyph = "pose"
        self.is_chosen = self.runs = False
        self.fired = -1  # the rule that just led on
        self.trouble = ""
        self.gestures = GestureHost(self)
        self._pressed = 0.0
        self._dragged = False
        self.setFixedHeight(HEIGHT)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_phase(self, project: Project, track: Track, phase: Phase, trouble: str) -> None:
        """Take over a phase as it is now."""
        names = {entry.id: entry.name for entry in track.phases}
        self.phase_id, self.glyph, self.trouble = phase.id, kind_of(phase.shows), trouble
        self.rules = tuple(rule_words(project, names, rule) for rule in phase.then)
        self.texts = (phase.name, shows_words(project, phase), lasts_words(phase), "  ·  ".join(self.rules))
        lines = [f"{phase.name}: {self.texts[1]}, {self.texts[2]}", *self.rules]
        self.setToolTip("\n".join([*lines, trouble] if trouble else lines))
        self.setAccessibleName("; ".join(text for text in (*self.texts, trouble) if text))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, rect = self.theme, QRectF(self.rect())
        if self.runs:
            lit = QColor(theme.loop)
            lit.setAlphaF(0.14)
            painter.fillRect(rect, lit)
            painter.fillRect(QRectF(0, 0, _MARK, rect.height()), theme.loop)
        elif self.is_chosen:
            painter.fillRect(rect, theme.chosen)
        painter.setPen(QPen(theme.faint, 1))
        painter.drawLine(QPointF(0, rect.bottom() - 0.5), QPointF(rect.right(), rect.bottom() - 0.5))
        draw_glyph(painter, theme, self.glyph, QPointF(24, rect.center().y()))
        starts = (*columns(rect.width()), rect.width() - 8)
        for place, text in enumerate(self.texts[:3]):
            painter.setFont(font(13.5, 600) if place == 0 else font(12.5))
            painter.setPen(theme.ink if place < 2 else theme.quiet)
            self._text(painter, text, starts[place], starts[place + 1] - 10)
        self._paint_rules(painter, starts[3], starts[4])
        if self.hasFocus():
            painter.setPen(QPen(theme.quiet, 1.2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(rect.adjusted(2.5, 2.5, -2.5, -2.5), 4, 4)

    def _paint_rules(self, painter: QPainter, left: float, right: float) -> None:
        top, height = 0.0, float(self.height())
        if self.trouble:  # what is wrong stands under what comes then
            painter.setFont(font(11.5))
            painter.setPen(self.theme.trouble)
            says = self.trouble.partition(": ")[2] or self.trouble
            under = height / 2 - 1 if self.rules else 0.0
            self._text(painter, says, left, right, under, height / 2 - 4 if self.rules else height)
            top, height = 4.0, height / 2
        for place, text in enumerate(self.rules):
            lit = place == self.fired
            more = "  ·  " if place + 1 < len(self.rules) else ""
            painter.setPen(self.theme.loop_text if lit else self.theme.quiet)
            painter.setFont(font(12.5, 700 if lit else 400))
            self._text(painter, text + more, left, right, top, height)
            left += painter.fontMetrics().horizontalAdvance(text + more)
            if left >= right - 20:
                break

    def _text(
        self, painter: QPainter, text: str, left: float, right: float, top: float = 0.0, height: float = HEIGHT
    ) -> None:
        room = QRectF(left, top, max(0.0, right - left), height)
        painter.drawText(room, Qt.AlignmentFlag.AlignVCenter, shortened(painter, text, room.width()))

    # Pointer and keys

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._pressed, self._dragged = event.globalPosition().y(), False
        self.gestures.begin(Drag(self._drag, self._drop))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.gestures.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.began.emit(self.phase_id)

    def contextMenuEvent(self, event: object) -> None:
        self.chosen.emit(self.phase_id)
        self.menu_wanted.emit(self.phase_id, event.globalPos())  # type: ignore[attr-defined]

    def _drag(self, event: QMouseEvent) -> None:
        if abs(event.globalPosition().y() - self._pressed) > QApplication.startDragDistance():
            self._dragged = True
            self.setCursor(Qt.CursorShape.ClosedHandCursor)

    def _drop(self, event: QMouseEvent) -> None:
        self.unsetCursor()
        rows = round((event.globalPosition().y() - self._pressed) / HEIGHT)
        if self._dragged and rows:
            self.moved.emit(self.phase_id, rows)
        elif not self._dragged:
            self.setFocus()
            self.chosen.emit(self.phase_id)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        alt = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            by = -1 if event.key() == Qt.Key.Key_Up else 1
            if alt:
                self.moved.emit(self.phase_id, by)
            else:
                self.focusNextPrevChild(by > 0)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                self.began.emit(self.phase_id)
            else:
                self.chosen.emit(self.phase_id)
        elif event.key() == Qt.Key.Key_Delete:
            self.removed.emit(self.phase_id)
        else:
            super().keyPressEvent(event)


def draw_glyph(painter: QPainter, theme: Theme, kind: str, at: QPointF) -> None:
    """The mark of what is shown: a bar for a pose, an arrow for a motion, a ring for loops, two ends for a blend."""
    painter.save()
    painter.translate(at)
    if kind == "pose":
        painter.fillRect(QRectF(-7, -2, 14, 4), theme.quiet)
    elif kind == "motion":
        painter.setPen(QPen(theme.ink, 2.2))
        painter.drawLine(QPointF(-9, 0), QPointF(7, 0))
        painter.drawPolyline([QPointF(3, -4), QPointF(8, 0), QPointF(3, 4)])
    elif kind == "loops":
        painter.setPen(QPen(theme.loop, 2.4))
        painter.drawArc(QRectF(-7, -7, 14, 14), 60 * 16, 300 * 16)
        painter.drawPolyline([QPointF(0.5, -10), QPointF(5, -6.4), QPointF(0.5, -2.6)])
    else:
        painter.setPen(QPen(theme.leaves, 2.0))
        painter.drawLine(QPointF(-7, 5), QPointF(7, -5))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.leaves)
        painter.drawEllipse(QPointF(-7, 5), 3.6, 3.6)
        painter.setBrush(theme.arrives)
        painter.drawEllipse(QPointF(7, -5), 3.6, 3.6)
    painter.restore()
