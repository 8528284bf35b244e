"""The top bar: project, menus, the trail of stations, Shelf and Find."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QButtonGroup, QFrame, QHBoxLayout, QMenu, QSizePolicy, QToolButton, QVBoxLayout, QWidget

from avelt.core.words import tr
from avelt.window.controls.fields import button
from avelt.window.controls.short_label import ShortLabel
from avelt.window.shell.commands import STATIONS
from avelt.window.theme import Theme


class Mark(QWidget):
    """Avelt's mark: two cards, one turning into the other."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.setFixedSize(28, 28)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        for colour, x, y in ((self.theme.leaves, 1, 2), (self.theme.arrives, 10, 11)):
            painter.setBrush(colour)
            painter.drawRoundedRect(QRectF(x, y, 15, 15), 3.5, 3.5)
        painter.setBrush(self.theme.ink)
        painter.drawRoundedRect(QRectF(10, 11, 6, 6), 1.5, 1.5)


class Dash(QWidget):
    """The short line between two stations."""

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.setFixedSize(14, 20)

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setPen(self.theme.line)
        painter.drawLine(QPointF(0, 10), QPointF(14, 10))


class TopBar(QFrame):
    """Emits which station is wanted; the shell decides."""

    wanted = Signal(str)

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.setProperty("role", "topbar")
        self.setFixedHeight(48)
        self.name, self.state = ShortLabel(), ShortLabel("caption")
        for short in (self.name, self.state):
            short.setMaximumWidth(130)
        self.menus: dict[str, QMenu] = {}
        self.dashes: list[Dash] = []
        self.stations: dict[str, QToolButton] = {}
        self.shelf = button(tr("Shelf"), tr("Presets: what is kept, and putting it on (Ctrl+Shift+F)"), checkable=True)
        self.finder = button(tr("Find   Ctrl K"), tr("Find a command, frame, layer, route or preset (Ctrl+K)"))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 0, 14, 0)
        layout.setSpacing(8)
        layout.addWidget(Mark(theme))
        words = QVBoxLayout()
        words.setSpacing(0)
        words.addStretch(1)
        words.addWidget(self.name)
        words.addWidget(self.state)
        words.addStretch(1)
        layout.addLayout(words)
        for name in (tr("File"), tr("Edit"), tr("View"), tr("Help")):
            tool = QToolButton()
            tool.setText(name)
            tool.setProperty("role", "flat")
            tool.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
            menu = QMenu(tool)
            tool.setMenu(menu)
            self.menus[name] = menu
            layout.addWidget(tool)
        layout.addStretch(1)
        group = QButtonGroup(self)
        for place, (ident, word) in enumerate(STATIONS):
            if place:
                self.dashes.append(Dash(theme))
                layout.addWidget(self.dashes[-1])
            tool = QToolButton()
            tool.setText(word)
            tool.setCheckable(True)
            tool.setProperty("role", "station")
            tool.setToolTip(tr("{word} (Ctrl+{place})", word=word, place=place + 1))
            tool.setCursor(Qt.CursorShape.PointingHandCursor)
            tool.setSizePolicy(QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Fixed)
            tool.clicked.connect(lambda _=False, ident=ident: self.wanted.emit(ident))
            group.addButton(tool)
            self.stations[ident] = tool
            layout.addWidget(tool)
        layout.addStretch(1)
        layout.addWidget(self.shelf)
        layout.addWidget(self.finder)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._make_room()

    def _make_room(self) -> None:
        """Dashes between the stations are the first to go where words are long."""
        layout = self.layout()
        if layout is None:
            return
        wide = layout.sizeHint().width()
        if self.dashes[0].isHidden():
            wide += len(self.dashes) * (self.dashes[0].width() + layout.spacing())
        for dash in self.dashes:
            dash.setVisible(wide <= self.width())

    def show_station(self, ident: str) -> None:
        """Mark where we are."""
        self.stations[ident].setChecked(True)

    def show_project(self, name: str, state: str) -> None:
        """The project's name and whether it is saved."""
        self.name.setText(name)
        self.state.setText(state)

    def show_trouble(self, ident: str, count: int) -> None:
        """How many things want to be looked at in a station."""
        word = dict(STATIONS)[ident]
        self.stations[ident].setText(f"{word}  {count}" if count else word)
        self._make_room()

    def sizeHint(self) -> QSize:
        return QSize(1280, 48)
