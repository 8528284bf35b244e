"""The shelf: presets with their moving pictures, over any station."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QFileSystemWatcher, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QFileDialog, QFrame, QHBoxLayout, QLineEdit, QWidget

from avelt.core.errors import AveltError
from avelt.core.formats.disk import write_atomically
from avelt.core.model.curves import Handles, PlainCurve
from avelt.core.model.motion import PairKey
from avelt.core.presets.capture import put
from avelt.core.presets.picture import H, W, picture_program
from avelt.core.presets.shelf import file_name, read_preset
from avelt.core.presets.values import ENDING, Preset, to_json
from avelt.core.timing.program import Program
from avelt.paint.painter import ScenePainter
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.controls.drawing import curve_path, shortened
from avelt.window.controls.fields import Choice, button, column, label, row, scrolled
from avelt.window.theme import font

_CARD_W, _CARD_H, _GAP = 168.0, 146.0, 12.0
_PICTURE = 84.0
_GHOSTS = 5
_HIGH, _SIDE = 184, 264  # px of the drawer, and of the columns at its sides


class Cards(QWidget):
    """The grid of presets; the chosen one and the one under the pointer move, the others stand half way."""

    picked = Signal(str)
    used = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.presets: tuple[Preset, ...] = ()
        self.chosen = ""
        self.ms = 0.0
        self._hover = ""
        self._programs: dict[str, Program] = {}
        self._painters: dict[str, ScenePainter] = {}
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Presets")

    def show_presets(self, presets: tuple[Preset, ...], chosen: str) -> None:
        """Show other presets."""
        if presets != self.presets:
            self._programs = {preset.name: picture_program(preset) for preset in presets}
            self._painters = {preset.name: ScenePainter() for preset in presets}
        self.presets, self.chosen = presets, chosen
        rows = -(-len(presets) // self.columns()) if presets else 0
        self.setMinimumHeight(int(rows * (_CARD_H + _GAP)) + 8)
        self.update()

    def columns(self) -> int:
        """How many cards stand beside each other."""
        return max(1, int((self.width() + _GAP) // (_CARD_W + _GAP)))

    def card_rect(self, place: int) -> QRectF:
        """Where a card stands."""
        n = self.columns()
        return QRectF((place % n) * (_CARD_W + _GAP) + 1, (place // n) * (_CARD_H + _GAP) + 1, _CARD_W, _CARD_H)

    def _at(self, point: QPointF) -> str:
        return next((p.name for k, p in enumerate(self.presets) if self.card_rect(k).contains(point)), "")

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        theme = self.workspace.theme
        for k, preset in enumerate(self.presets):
            rect = self.card_rect(k)
            if not rect.intersects(QRectF(event.rect())):
                continue
            chosen = preset.name == self.chosen
            painter.setBrush(theme.sheet)
            painter.setPen(QPen(theme.ink if chosen else theme.line, 2 if chosen else 1))
            painter.drawRoundedRect(rect, 8, 8)
            self._paint_picture(
                painter, preset, QRectF(rect.left() + 7, rect.top() + 7, rect.width() - 14, _PICTURE - 7)
            )
            painter.setFont(font(12.5, 600))
            painter.setPen(theme.ink)
            painter.drawText(
                QRectF(rect.left() + 10, rect.top() + 90, rect.width() - 20, 18),
                Qt.AlignmentFlag.AlignVCenter,
                shortened(painter, preset.name, rect.width() - 20),
            )
            painter.setFont(font(11.5))
            painter.setPen(theme.quiet)
            low = QRectF(rect.left() + 10, rect.top() + 108, rect.width() - 20, 16)
            painter.drawText(low, Qt.AlignmentFlag.AlignVCenter, preset.kind)
            painter.drawText(
                QRectF(low.left(), rect.bottom() - 22, low.width(), 16),
                Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
                f"{preset.duration:g} ms",
            )
            painter.setPen(QPen(theme.arrives, 1.8))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(curve_path(_curve_of(preset), QRectF(low.left(), rect.bottom() - 20, 44, 12)))

    def _paint_picture(self, painter: QPainter, preset: Preset, rect: QRectF) -> None:
        program = self._programs[preset.name]
        moves = preset.name in (self.chosen, self._hover)
        span = program.duration + 500.0
        scale = rect.width() / W * self.devicePixelRatioF()
        place = QRectF(rect.left(), rect.top(), rect.width(), rect.width() * H / W)
        render = self._painters[preset.name].render
        if moves:
            image = render(program.at(min(program.duration, self.ms % span)), scale)
            painter.drawImage(place, image, QRectF(image.rect()))
            return
        # Standing, a card shows the way as steps over each other, the latest strongest.
        painter.fillRect(place, QColor.fromRgbF(*program.at(0.0).background.tolist()))
        start, end = _span_of(preset)
        for k in range(_GHOSTS):
            image = render(program.at(start + (end - start) * (k + 0.5) / _GHOSTS), scale, background=False)
            painter.setOpacity(
                0.25 + 0.75 * k / (_GHOSTS - 1) if preset.kind != "leave" else 1.0 - 0.75 * k / (_GHOSTS - 1)
            )
            painter.drawImage(place, image, QRectF(image.rect()))
        painter.setOpacity(1.0)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        name = self._at(event.position())
        if name:
            self.picked.emit(name)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        name = self._at(event.position())
        if name:
            self.used.emit(name)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._hover = self._at(event.position())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        names = [preset.name for preset in self.presets]
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
        else:
            super().keyPressEvent(event)


def _span_of(preset: Preset) -> tuple[float, float]:
    """When the layer itself moves, ms."""
    whole = next((cue for cue in preset.cues if not cue.prop), None)
    start = whole.start if whole is not None and whole.start is not None else 0.0
    end = whole.end if whole is not None and whole.end is not None else 1.0
    return start * preset.duration, end * preset.duration


def _curve_of(preset: Preset) -> PlainCurve:
    return next((cue.curve for cue in preset.cues if cue.curve is not None), Handles(0.2, 0.0, 0.1, 1.0))


class ShelfPanel(QFrame):
    """A drawer under any station, which keeps its room: nothing of it is covered."""

    closed = Signal()

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.ends: PairKey | None = None
        self.setProperty("role", "panel")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find a preset by name or kind")
        self.bring = button("Import…", "Take a preset file onto the shelf")
        self.close_button = button("Close", "Close the shelf (Esc)")
        self.target = label("", "quiet")
        self.note = label("", "quiet")
        self.note.setWordWrap(True)
        self.cards = Cards(workspace)
        self.scroller = scrolled(self.cards)
        self.name = label("", "heading")
        self.how = Choice(
            ["follow my layer", "as recorded"],
            ["Times as shares of this transition, shifts as shares of the layer", "The recorded ms and px"],
        )
        self.use = button("Put on the layer", "Give the chosen layer this motion (Return)", "strong")
        self.give = button("Save to file…", "Write a preset file to give away")
        self.remove = button("Remove", "Take it off the shelf")
        self.setFixedHeight(_HIGH)
        left = column(spacing=8)
        left.addLayout(row(label("Shelf", "heading"), None, self.bring, self.close_button, spacing=6))
        left.addWidget(self.search)
        left.addWidget(self.target)
        left.addWidget(self.note)
        left.addStretch(1)
        right = column(spacing=8)
        right.addWidget(self.name)
        right.addWidget(label("Sizes and times", "quiet"))
        right.addLayout(row(self.how, None))
        right.addStretch(1)
        right.addLayout(row(self.use, None))
        right.addLayout(row(self.give, self.remove, None))
        self.target.setWordWrap(True)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 12, 16, 12)
        layout.setSpacing(16)
        for side in (left, right):
            holder = QWidget()
            side.setContentsMargins(0, 0, 0, 0)
            holder.setLayout(side)
            holder.setFixedWidth(_SIDE)
            layout.addWidget(holder)
        layout.insertWidget(1, self.scroller, 1)
        self.clock = Clock(self)
        self.clock.endless = True
        self.watcher = QFileSystemWatcher(self)
        self._connect()
        self.hide()

    def _connect(self) -> None:
        self.clock.ticked.connect(self._ticked)
        self.search.textChanged.connect(self.refresh)
        self.cards.picked.connect(self.choose)
        self.cards.used.connect(self._use)
        self.use.clicked.connect(lambda: self._use(self.cards.chosen))
        self.give.clicked.connect(self._give)
        self.bring.clicked.connect(self._bring)
        self.remove.clicked.connect(self._remove)
        self.close_button.clicked.connect(self.close_shelf)
        self.watcher.directoryChanged.connect(lambda _: self.refresh())
        self.workspace.theme.changed.connect(self.refresh)

    def open_for(self, ends: PairKey | None, words: str) -> None:
        """Come in, with what a preset would be put on."""
        self.ends = ends
        self.target.setText(words)
        if self.workspace.shelf.folder.is_dir() and not self.watcher.directories():
            self.watcher.addPath(str(self.workspace.shelf.folder))
        self.show()
        self.raise_()
        self.refresh()
        self.clock.play()
        self.cards.setFocus()

    def close_shelf(self) -> None:
        """Go away."""
        self.clock.stop()
        self.hide()
        self.closed.emit()

    def refresh(self) -> None:
        """Read the shelf again."""
        if not self.isVisible():
            return
        listing = self.workspace.shelf.read()
        wanted = self.search.text().casefold().strip()
        presets = tuple(p for p in listing.presets if wanted in p.name.casefold() or wanted in p.kind)
        names = [preset.name for preset in presets]
        chosen = self.cards.chosen if self.cards.chosen in names else (names[0] if names else "")
        self.cards.show_presets(presets, chosen)
        empty = "Nothing is kept yet. Choose a cue in Timing and press “Save as preset”."
        trouble = " ".join(trouble.says for trouble in listing.troubles[:2])
        self.note.setText(
            trouble or (empty if not listing.presets else "" if presets else "No preset fits these words.")
        )
        self._show_chosen()

    def choose(self, name: str) -> None:
        """Choose a preset."""
        self.clock.ms = 0.0
        self.cards.chosen = name
        self.cards.update()
        self._show_chosen()

    def _show_chosen(self) -> None:
        chosen = bool(self.cards.chosen)
        self.name.setText(self.cards.chosen)
        self.use.setEnabled(chosen and self.ends is not None and self.workspace.route is not None)
        self.give.setEnabled(chosen)
        self.remove.setEnabled(chosen)

    def _ticked(self, ms: float) -> None:
        self.cards.ms = ms
        self.cards.update()

    def _use(self, name: str) -> None:
        preset = next((p for p in self.cards.presets if p.name == name), None)
        route, ends = self.workspace.route, self.ends
        if preset is None or route is None or ends is None:
            self.workspace.said.emit("Choose a layer's row in Timing first, then put the preset on it.")
            return
        how = "follow" if self.how.button(0).isChecked() else "recorded"
        self.workspace.do(f"put {name} on", lambda p: put(p, route.id, ends, preset, how))  # type: ignore[arg-type]

    def _give(self) -> None:
        preset = next((p for p in self.cards.presets if p.name == self.cards.chosen), None)
        if preset is None:
            return
        path, _ = QFileDialog.getSaveFileName(
            self, "Save the preset", str(Path.home() / file_name(preset.name)), f"Presets (*{ENDING})"
        )
        if path:
            self.save_to(preset, Path(path))

    def save_to(self, preset: Preset, path: Path) -> None:
        """Write a preset file to give away."""
        try:
            write_atomically(path, to_json(preset))
        except AveltError as error:
            self.workspace.said.emit(str(error))

    def _bring(self) -> None:
        paths, _ = QFileDialog.getOpenFileNames(self, "Import presets", str(Path.home()), f"Presets (*{ENDING})")
        self.import_presets([Path(path) for path in paths])

    def import_presets(self, paths: list[Path]) -> None:
        """Take preset files onto the shelf."""
        for path in paths:
            try:
                preset = read_preset(path)
                self.workspace.shelf.keep(preset)
                self.cards.chosen = preset.name
            except AveltError as error:
                self.workspace.said.emit(str(error))
        self.refresh()

    def _remove(self) -> None:
        try:
            self.workspace.shelf.remove(self.cards.chosen)
        except AveltError as error:
            self.workspace.said.emit(str(error))
        self.refresh()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close_shelf()
        else:
            super().keyPressEvent(event)
