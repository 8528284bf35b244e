"""The grid of presets: a card each, with its moving picture."""

from __future__ import annotations

import math
from collections.abc import Sequence
from typing import Literal

from PySide6.QtCore import QByteArray, QMimeData, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QDrag, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PySide6.QtWidgets import QApplication, QWidget

from avelt.core.presets.tokens import curve_of
from avelt.core.presets.values import Preset
from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import curve_path, shortened
from avelt.window.shelf.card_pictures import CardPictures
from avelt.window.theme import font

CARD_WIDE, CARD_HIGH, _GAP = 150.0, 130.0, 10.0
_PICTURE = 68.0
_REST_MS = 500.0  # that a moving picture stands at its end
_DOT = 3.5


class Shown(Record, frozen=True):
    """A preset as the shelf shows it, and where it lies (empty: it does not matter)."""

    preset: Preset
    place: Literal["", "mine", "team", "built in"]

    @property
    def mine(self) -> bool:
        """Whether it lies on the person's own shelf."""
        return self.place == "mine"

    @property
    def name(self) -> str:
        """Its name."""
        return self.preset.name


MIME = "application/x-avelt-shelf-name"
_DRAGGED = 84  # px
_TIP = tr("Drag one onto a layer, a ribbon or a cell. Arrows choose, Return puts on, F makes a favourite, A moves all")


def dragged(name: str) -> QMimeData:
    """What goes with the pointer: the name of a preset on the shelf."""
    made = QMimeData()
    made.setData(MIME, QByteArray(name.encode()))
    return made


def name_in(data: QMimeData) -> str:
    """The name of the preset that goes with the pointer; empty when it is something else."""
    return bytes(data.data(MIME).data()).decode(errors="replace") if data.hasFormat(MIME) else ""


def _star(painter: QPainter, middle: QPointF, ink: QColor, ground: QColor) -> None:
    """The mark of a favourite: a small star on a disc."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(ground)
    painter.drawEllipse(middle, 9, 9)
    painter.setBrush(ink)
    corners = []
    for k in range(10):
        far, turn = (6.2 if k % 2 == 0 else 2.7), math.pi * k / 5.0
        corners.append(middle + QPointF(math.sin(turn) * far, -math.cos(turn) * far))
    painter.drawPolygon(QPolygonF(corners))


class Cards(QWidget):
    """The chosen card and the one under the pointer move (with A all do), the others stand half way."""

    picked = Signal(str)
    used = Signal(str)
    liked = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.favourites: frozenset[str] = frozenset()
        self._pressed: QPointF | None = None
        self.workspace = workspace
        self.entries: tuple[Shown, ...] = ()
        self.chosen = ""
        self.ms = 0.0
        self.all_move = False
        self._hover = ""
        self.pictures = CardPictures(self)
        self.pictures.made.connect(self.update)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Presets"))
        self.setToolTip(_TIP)

    @property
    def presets(self) -> tuple[Preset, ...]:
        """The presets that are shown."""
        return tuple(entry.preset for entry in self.entries)

    def show_entries(self, entries: Sequence[Shown], chosen: str) -> None:
        """Show other presets."""
        self.entries, self.chosen = tuple(entries), chosen
        self.pictures.forget_queue()
        self._sized()
        self.update()

    def _sized(self) -> None:
        rows = -(-len(self.entries) // self.columns())
        self.setMinimumHeight(int(rows * (CARD_HIGH + _GAP)))

    def resizeEvent(self, event: object) -> None:
        self._sized()

    def columns(self) -> int:
        """How many cards stand beside each other."""
        return max(1, int((self.width() + _GAP) // (CARD_WIDE + _GAP)))

    def card_rect(self, place: int) -> QRectF:
        """Where a card stands."""
        n = self.columns()
        return QRectF((place % n) * (CARD_WIDE + _GAP) + 1, (place // n) * (CARD_HIGH + _GAP) + 1, CARD_WIDE, CARD_HIGH)

    def spoken(self) -> list[Spoken]:
        """The cards for assistive technology."""
        return [
            Spoken(
                f"{e.name}, {tr(e.preset.kind)}, {tr(e.place)}".rstrip(", "), self.card_rect(k), e.name == self.chosen
            )
            for k, e in enumerate(self.entries)
        ]

    def _at(self, point: QPointF) -> str:
        return next((e.name for k, e in enumerate(self.entries) if self.card_rect(k).contains(point)), "")

    def go_on(self, ms: float) -> None:
        """Another moment: only the cards that move are painted anew."""
        self.ms = ms
        for k, entry in enumerate(self.entries):
            if self._moves(entry):
                self.update(self.card_rect(k).toAlignedRect())

    def _moves(self, entry: Shown) -> bool:
        return self.all_move or entry.name in (self.chosen, self._hover)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        for k, entry in enumerate(self.entries):
            rect = self.card_rect(k)
            if rect.intersects(QRectF(event.rect())):
                self._paint_card(painter, entry, rect)

    def _paint_card(self, painter: QPainter, entry: Shown, rect: QRectF) -> None:
        theme, preset = self.workspace.theme, entry.preset
        chosen = entry.name == self.chosen
        painter.setBrush(theme.sheet)
        painter.setPen(QPen(theme.ink if chosen else theme.line, 2 if chosen else 1))
        painter.drawRoundedRect(rect, 8, 8)
        self._paint_picture(painter, entry, QRectF(rect.left() + 6, rect.top() + 6, rect.width() - 12, _PICTURE))
        name = QRectF(rect.left() + 10, rect.top() + _PICTURE + 11, rect.width() - 20, 18)
        painter.setFont(font(12.5, 600))
        painter.setPen(theme.ink)
        painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, shortened(painter, preset.name, name.width() - 12))
        if entry.place in ("mine", "team"):
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.leaves if entry.mine else theme.arrives)
            painter.drawEllipse(QPointF(name.right() - _DOT, name.center().y()), _DOT, _DOT)
        if entry.name in self.favourites:
            _star(painter, QPointF(rect.right() - 16, rect.top() + 16), theme.ink, theme.sheet)
        low = QRectF(name.left(), rect.bottom() - 28, name.width(), 18)
        painter.setFont(font(11.5))
        painter.setPen(theme.quiet)
        words = f"{preset.duration:g} ms" if preset.duration else ""
        painter.drawText(low, Qt.AlignmentFlag.AlignVCenter, tr(preset.kind))
        if preset.kind == "curve":
            painter.setPen(QPen(theme.arrives, 1.8))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(curve_path(curve_of(preset), QRectF(low.right() - 40, low.top() + 3, 40, 12)))
        painter.drawText(low, Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight, words)

    def _paint_picture(self, painter: QPainter, entry: Shown, rect: QRectF) -> None:
        size = (rect.size() * self.devicePixelRatioF()).toSize()
        image: QImage | None
        if self._moves(entry):
            duration = self.pictures.moving(entry.preset).duration
            span = duration + (0.0 if entry.preset.kind == "loop" else _REST_MS)
            image = self.pictures.at(entry.preset, min(duration, self.ms % span), size)
        else:
            image = self.pictures.still(entry.preset, size)
        if image is None:
            painter.fillRect(rect, self.workspace.theme.bar)
        else:
            painter.drawImage(rect, image, QRectF(image.rect()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        name = self._at(event.position())
        self._pressed = event.position() if name and event.button() == Qt.MouseButton.LeftButton else None
        if name:
            self.picked.emit(name)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pressed = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        name = self._at(event.position())
        if name:
            self.used.emit(name)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        start = self._pressed
        if start is not None and (event.position() - start).manhattanLength() >= QApplication.startDragDistance():
            self._pressed = None
            self._drag()
            return
        self._point_at(self._at(event.position()))

    def _drag(self) -> None:
        """The chosen preset goes with the pointer, to be put on what it is dropped on."""
        drag = QDrag(self)
        drag.setMimeData(dragged(self.chosen))
        place = next((k for k, entry in enumerate(self.entries) if entry.name == self.chosen), -1)
        if place >= 0:
            drag.setPixmap(self.grab(self.card_rect(place).toAlignedRect()).scaledToWidth(_DRAGGED))
        drag.exec(Qt.DropAction.CopyAction)

    def leaveEvent(self, event: object) -> None:
        self._point_at("")

    def _point_at(self, name: str) -> None:
        if name != self._hover:
            self._hover = name
            self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        names = [entry.name for entry in self.entries]
        step = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -self.columns(),
            Qt.Key.Key_Down: self.columns(),
        }
        if event.key() in step and names:
            at = names.index(self.chosen) if self.chosen in names else 0
            self.picked.emit(names[min(len(names) - 1, max(0, at + step[Qt.Key(event.key())]))])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.chosen:
            self.used.emit(self.chosen)
        elif event.key() == Qt.Key.Key_F and self.chosen:
            self.liked.emit(self.chosen)
        elif event.key() == Qt.Key.Key_A:
            self.all_move = not self.all_move
            self.update()
        else:
            super().keyPressEvent(event)
