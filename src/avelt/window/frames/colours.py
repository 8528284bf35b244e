"""Choosing colours: by hex, by sliders of lightness, chroma and hue, from swatches, from a frame; and gradients."""

from __future__ import annotations

import math

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QLinearGradient, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFrame, QGridLayout, QLineEdit, QVBoxLayout, QWidget

from avelt.core.arrays import np
from avelt.core.blending import colour, conversions
from avelt.core.errors import FormatError
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.controls.fields import Choice, button, label
from avelt.window.controls.lines import Lines
from avelt.window.controls.short_label import ShortLabel
from avelt.window.theme import Theme

MOST_CHROMA = 0.37  # beyond it no screen of today shows anything
KINDS = ("none", "solid", "linear", "radial", "conic")
_KIND_WORDS = (tr("None"), tr("Solid"), tr("Linear"), tr("Radial"), tr("Conic"))


def to_lch(text: str) -> tuple[float, float, float, float]:
    """A colour as lightness 0..1, chroma, hue in degrees, and alpha (OKLCH of CSS Color 4)."""
    r, g, b, alpha = colour.parse(text)
    light, x, y = (float(v) for v in conversions.to_oklab(np.array([r, g, b])))
    return light, math.hypot(x, y), math.degrees(math.atan2(y, x)) % 360.0, alpha


def from_lch(light: float, chroma: float, hue: float, alpha: float) -> str:
    """The nearest colour that sRGB has: chroma is taken back until it fits."""
    angle = math.radians(hue)
    low, high = 0.0, chroma

    def rgb(c: float) -> np.ndarray:
        return conversions.from_oklab(np.array([light, c * math.cos(angle), c * math.sin(angle)]))

    if not _fits(rgb(chroma)):
        for _ in range(18):
            middle = (low + high) / 2
            low, high = (middle, high) if _fits(rgb(middle)) else (low, middle)
        chroma = low
    return colour.to_text((*np.clip(rgb(chroma), 0.0, 1.0), alpha))


def _fits(rgb: np.ndarray) -> bool:
    return bool((rgb >= -1e-4).all() and (rgb <= 1.0001).all())


class Slider(QWidget):
    """A strip of colours with a knob; keys move it too."""

    moved = Signal(float)
    let_go = Signal()
    cancelled = Signal()

    def __init__(self, theme: Theme, name: str) -> None:
        super().__init__()
        self.theme = theme
        self.value = 0.0
        self.tones: list[QColor] = []
        self.setFixedHeight(22)
        self.gestures = GestureHost(self)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(name)
        self.setToolTip(tr("{name} (arrow keys; Shift for more)", name=name))

    def show_value(self, value: float, tones: list[QColor]) -> None:
        """The knob's place 0..1 and the colours along the strip."""
        self.value, self.tones = min(1.0, max(0.0, value)), tones
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        strip = QRectF(8, 6, self.width() - 16, 10)
        painter.setPen(QPen(self.theme.line, 1))
        fill = QLinearGradient(strip.topLeft(), strip.topRight())
        for k, tone in enumerate(self.tones):
            fill.setColorAt(k / max(1, len(self.tones) - 1), tone)
        painter.setBrush(self.theme.sheet)
        painter.drawRoundedRect(strip, 5, 5)
        painter.setBrush(fill)
        painter.drawRoundedRect(strip, 5, 5)
        at = QPointF(strip.left() + self.value * strip.width(), strip.center().y())
        painter.setPen(QPen(self.theme.now if self.hasFocus() else self.theme.ink, 2))
        painter.setBrush(self.theme.sheet)
        painter.drawEllipse(at, 6, 6)

    def _set(self, value: float) -> None:
        self.value = min(1.0, max(0.0, value))
        self.update()
        self.moved.emit(self.value)

    def _slide(self, event: QMouseEvent) -> None:
        self._set((event.position().x() - 8) / max(1.0, self.width() - 16))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.gestures.begin(Drag(self._slide, lambda _: self.let_go.emit(), self.cancelled.emit))
        self._slide(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.gestures.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: -1, Qt.Key.Key_Down: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Up: 1}
        if event.key() not in steps:
            super().keyPressEvent(event)
            return
        size = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.01
        self._set(self.value + steps[Qt.Key(event.key())] * size)
        self.let_go.emit()


class Swatches(QWidget):
    """Rows of small colours; a click takes one."""

    taken = Signal(str)
    dropped = Signal(str)

    def __init__(self, theme: Theme, across: int = 12) -> None:
        super().__init__()
        self.theme, self.across = theme, across
        self.tones: tuple[str, ...] = ()

    def show_tones(self, tones: tuple[str, ...]) -> None:
        """Other colours."""
        self.tones = tones
        rows = max(1, math.ceil(len(tones) / self.across))
        self.setFixedHeight(rows * 20)
        self.update()

    def _rect(self, k: int) -> QRectF:
        return QRectF((k % self.across) * 20 + 1, (k // self.across) * 20 + 1, 17, 17)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for k, text in enumerate(self.tones):
            painter.setPen(QPen(self.theme.line, 1))
            painter.setBrush(QColor.fromRgbF(*colour.parse(text)))
            painter.drawRoundedRect(self._rect(k), 3, 3)

    def spoken(self) -> list[Spoken]:
        """The colours for assistive technology."""
        return [Spoken(text, self._rect(k)) for k, text in enumerate(self.tones)]

    def _at(self, point: QPointF) -> str:
        return next((text for k, text in enumerate(self.tones) if self._rect(k).contains(point)), "")

    def mousePressEvent(self, event: QMouseEvent) -> None:
        text = self._at(event.position())
        if text and event.button() == Qt.MouseButton.RightButton:
            self.dropped.emit(text)
        elif text:
            self.taken.emit(text)


class ColourPanel(QFrame):
    """The panel over the window. ``changed`` comes while it is chosen, ``settled`` when a choice is made.

    ``kind_wanted`` asks for another kind of paint; the caller shows the colour that is edited then.
    """

    changed = Signal(str)
    settled = Signal()
    cancelled = Signal()  # a slider's drag was given up
    kind_wanted = Signal(str)
    pick_wanted = Signal()
    swatch_kept = Signal(str)
    swatch_dropped = Signal(str)

    def __init__(self, theme: Theme, parent: QWidget) -> None:
        super().__init__(parent)
        self.setProperty("role", "panel")
        self.theme = theme
        self.text = "#000000"
        self._lch = to_lch(self.text)
        self.heading = ShortLabel("heading")
        self.kinds = Choice(_KIND_WORDS)
        self.hex = QLineEdit()
        self.hex.setAccessibleName(tr("Colour as text"))
        self.hex.setToolTip(tr("Any CSS colour: #rrggbb, rgb(), oklch(), a name"))
        self.trouble = label("", "trouble")
        self.trouble.hide()
        self.sliders = [Slider(theme, name) for name in (tr("Lightness"), tr("Chroma"), tr("Hue"), tr("Opacity"))]
        self.kept, self.used = Swatches(theme, 13), Swatches(theme, 13)
        self.pick = button(tr("Take from a frame"), tr("The next click on a frame takes its colour there"))
        self.keep = button(tr("Keep"), tr("Add this colour to the project's swatches; right-click a swatch to drop it"))
        self.close_button = button(tr("Done"), tr("Close (Esc)"))
        self._lay_out()
        self._connect()
        self.setFixedWidth(304)
        for place in range(len(KINDS)):
            self.kinds.button(place).setProperty("room", "tight")
        self.hide()

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.setSpacing(7)
        layout.addWidget(self.heading)
        layout.addWidget(self.kinds)
        layout.addWidget(self.hex)
        layout.addWidget(self.trouble)
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(1, 1)
        for k, slider in enumerate(self.sliders):
            grid.addWidget(label(slider.accessibleName(), "caption"), k, 0)
            grid.addWidget(slider, k, 1)
        layout.addLayout(grid)
        layout.addWidget(label(tr("Swatches of this project"), "caption"))
        layout.addWidget(self.kept)
        layout.addWidget(label(tr("In use"), "caption"))
        layout.addWidget(self.used)
        buttons = Lines()
        for made in (self.pick, self.keep, self.close_button):
            buttons.addWidget(made)
        layout.addLayout(buttons)

    def _connect(self) -> None:
        self.kinds.picked.connect(lambda place: self.kind_wanted.emit(KINDS[place]))
        self.hex.returnPressed.connect(self._typed)
        for k, slider in enumerate(self.sliders):
            slider.moved.connect(lambda value, k=k: self._slid(k, value))
            slider.let_go.connect(self.settled)
            slider.cancelled.connect(self.cancelled)
        for swatches in (self.kept, self.used):
            swatches.taken.connect(self.take)
        self.kept.dropped.connect(self.swatch_dropped)
        self.pick.clicked.connect(self.pick_wanted)
        self.keep.clicked.connect(lambda: self.swatch_kept.emit(self.text))
        self.close_button.clicked.connect(self.hide)

    def show_colour(self, heading: str, kind: str, text: str, kept: tuple[str, ...], used: tuple[str, ...]) -> None:
        """Show what is edited: a colour of a paint of some kind."""
        self.heading.setText(heading)
        self.kinds.show_picked(KINDS.index(kind) if kind in KINDS else 1)
        self.kept.show_tones(kept)
        self.used.show_tones(used)
        if text != self.text:
            self._lch = to_lch(text)
        self.text = text
        self._show()

    def _show(self) -> None:
        light, chroma, hue, alpha = self._lch
        if not self.hex.hasFocus() or not self.hex.isModified():
            self.hex.setText(self.text)
        self.trouble.hide()
        places = (light, chroma / MOST_CHROMA, hue / 360.0, alpha)
        for k, slider in enumerate(self.sliders):
            tones = [self._tone(k, t) for t in np.linspace(0, 1, 13 if k == 2 else 7)]
            slider.show_value(places[k], tones)

    def _with(self, k: int, share: float) -> tuple[float, float, float, float]:
        parts = list(self._lch)
        parts[k] = (share, share * MOST_CHROMA, share * 360.0, share)[k]
        return parts[0], parts[1], parts[2], parts[3]

    def _tone(self, k: int, share: float) -> QColor:
        return QColor.fromRgbF(*colour.parse(from_lch(*self._with(k, share))))

    def _slid(self, k: int, share: float) -> None:
        self._lch = self._with(k, share)
        self.text = from_lch(*self._lch)
        self._show()
        self.changed.emit(self.text)

    def _typed(self) -> None:
        try:
            text = colour.to_text(colour.parse(self.hex.text().strip()))
        except FormatError as error:
            self.trouble.setText(str(error))
            self.trouble.show()
            return
        self.hex.setModified(False)
        self.take(text)

    def take(self, text: str) -> None:
        """A colour as it is."""
        self.text, self._lch = text, to_lch(text)
        self._show()
        self.changed.emit(text)
        self.settled.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
            return
        super().keyPressEvent(event)
