"""The drawer of named curves: each with its picture and how many use it, by what they are good for."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QToolTip, QVBoxLayout, QWidget

from avelt.core.curves.named import used_by
from avelt.core.model.curves import PlainCurve
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import curve_path, curve_points, shortened
from avelt.window.controls.fields import button, label, row, scrolled
from avelt.window.theme import font

_ACROSS, _W, _H, _GAP, _HEAD = 6, 104.0, 84.0, 8.0, 24.0
_FEELS = (
    ("arrives", tr("Arrives")),
    ("leaves", tr("Leaves")),
    ("stays", tr("Stays and moves")),
    ("playful", tr("Playful")),
    ("mechanical", tr("Mechanical")),
    ("", tr("Of this project")),
)


class Card(Record, frozen=True):
    """One named curve and where it stands."""

    id: str
    name: str
    curve: PlainCurve
    note: str
    used: int
    rect: QRectF


class CardLayout(Record, frozen=True):
    """All cards, the headings over them, and how high it is."""

    cards: tuple[Card, ...]
    heads: tuple[tuple[str, float], ...]
    height: float


def lay_cards(project: Project) -> CardLayout:
    """The named curves by what they are good for, six beside each other."""
    cards: list[Card] = []
    heads: list[tuple[str, float]] = []
    y = 0.0
    for feel, words in _FEELS:
        mine = [entry for entry in project.curves if entry.feel == feel]
        if not mine:
            continue
        heads.append((words, y))
        y += _HEAD
        for k, entry in enumerate(mine):
            place = QRectF(k % _ACROSS * (_W + _GAP), y + k // _ACROSS * (_H + _GAP), _W, _H)
            cards.append(Card(entry.id, entry.name, entry.curve, entry.note, used_by(project, entry.id), place))
        y += ((len(mine) - 1) // _ACROSS + 1) * (_H + _GAP) + 6.0
    return CardLayout(tuple(cards), tuple(heads), y)


def _square(curve: PlainCurve, room: QRectF) -> QRectF:
    """The rectangle of 0..1 by 0..1 so that the whole curve, overshoot and all, fits into a room."""
    values = [value for _, value in curve_points(curve, 81)]
    low, high = min(0.0, *values), max(1.0, *values)
    unit = room.height() / (high - low)
    return QRectF(room.left(), room.top() + (high - 1.0) * unit, room.width(), unit)


class Cards(QWidget):
    """The painted cards; a click or Return takes one."""

    taken = Signal(str)
    left = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.card_layout = CardLayout((), (), 0.0)
        self.chosen = ""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Named curves"))

    def show_curves(self, project: Project, chosen: str) -> None:
        """Take over the project's curves; ``chosen`` is the id of the one in use."""
        self.card_layout, self.chosen = lay_cards(project), chosen
        self.setFixedSize(QSize(round(_ACROSS * (_W + _GAP)), round(self.card_layout.height)))
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        painter.setFont(font(12, 600))
        painter.setPen(theme.quiet)
        for words, y in self.card_layout.heads:
            painter.drawText(QRectF(0, y, 300, _HEAD - 4), Qt.AlignmentFlag.AlignVCenter, words)
        for card in self.card_layout.cards:
            mine = card.id == self.chosen
            painter.setBrush(theme.chosen if mine else theme.bar)
            painter.setPen(QPen(theme.ink if mine else theme.line, 1.6 if mine else 1.0))
            painter.drawRoundedRect(card.rect.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
            inner = _square(card.curve, card.rect.adjusted(16, 8, -16, -28))
            painter.setPen(QPen(theme.faint, 1))
            painter.drawLine(inner.bottomLeft(), inner.bottomRight())
            painter.drawLine(inner.topLeft(), inner.topRight())
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(theme.arrives, 1.8))
            painter.drawPath(curve_path(card.curve, inner, 81))
            low = QRectF(card.rect.left() + 8, card.rect.bottom() - 22, card.rect.width() - 16, 18)
            painter.setFont(font(11.5, 600))
            painter.setPen(theme.ink)
            room = low.width() - (22 if card.used else 0)
            painter.drawText(low, Qt.AlignmentFlag.AlignVCenter, shortened(painter, card.name, room))
            if card.used:
                painter.setFont(font(11))
                painter.setPen(theme.quiet)
                where = Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight
                painter.drawText(low, where, f"{card.used}×")

    def _at(self, point: QPointF) -> Card | None:
        return next((card for card in self.card_layout.cards if card.rect.contains(point)), None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        card = self._at(event.position())
        if card is not None:
            self.chosen = card.id
            self.taken.emit(card.id)
            self.update()

    def event(self, event: object) -> bool:
        if isinstance(event, QHelpEvent):
            card = self._at(QPointF(event.pos()))
            words = tr("{note}\nUsed {used} times", note=card.note, used=card.used) if card is not None else ""
            QToolTip.showText(event.globalPos(), words.strip(), self)
            return True
        return bool(super().event(event))  # type: ignore[arg-type]

    def keyPressEvent(self, event: QKeyEvent) -> None:
        ids = [card.id for card in self.card_layout.cards]
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: -_ACROSS, Qt.Key.Key_Down: _ACROSS}
        if event.key() in steps and ids:
            at = ids.index(self.chosen) if self.chosen in ids else 0
            self.chosen = ids[min(len(ids) - 1, max(0, at + steps[Qt.Key(event.key())]))]
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen:
            self.taken.emit(self.chosen)
        elif event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)


class CurveDrawer(QFrame):
    """The drawer over the station."""

    taken = Signal(str)
    keep_wanted = Signal()
    rename_wanted = Signal(str)
    remove_wanted = Signal(str)

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.setProperty("role", "panel")
        self.cards = Cards(workspace)
        self.keep = button(tr("Keep this cue's curve…"), tr("Give the curve a name, so that others can use it"))
        self.rename = button(tr("Rename…"), tr("Another name for the chosen curve"))
        self.remove = button(tr("Remove"), tr("Delete the chosen curve, when nothing uses it"))
        self.shut = button(tr("Close"), "Esc", "strong")
        inside = QVBoxLayout(self)
        inside.setContentsMargins(16, 12, 12, 12)
        inside.setSpacing(8)
        inside.addLayout(
            row(label(tr("Named curves"), "heading"), None, label(tr("a number says how many use it"), "quiet"))
        )
        inside.addWidget(scrolled(self.cards), 1)
        inside.addLayout(row(self.keep, self.rename, self.remove, None, self.shut))
        self.cards.taken.connect(self.taken)
        self.cards.left.connect(self.hide)
        self.shut.clicked.connect(self.hide)
        self.keep.clicked.connect(self.keep_wanted)
        self.rename.clicked.connect(lambda: self.rename_wanted.emit(self.cards.chosen))
        self.remove.clicked.connect(lambda: self.remove_wanted.emit(self.cards.chosen))
        self.hide()

    def open_over(self, parent: QWidget) -> None:
        """Show it over a station, at its right."""
        w, h = min(720, parent.width() - 24), min(560, parent.height() - 70)
        self.setGeometry(parent.width() - w - 12, 54, w, h)
        self.show()
        self.raise_()
        self.cards.setFocus()
