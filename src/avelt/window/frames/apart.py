"""A drawing that holds several screens: asking, with a preview, whether to take it apart."""

from __future__ import annotations

from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from avelt.core.timing.compile import compile_still
from avelt.core.words import tr
from avelt.paint.painter import ScenePainter
from avelt.window.controls.drawing import draw_frame, shortened
from avelt.window.controls.fields import button, label, row
from avelt.window.controls.painted import TickDelegate
from avelt.window.theme import Theme, font

if TYPE_CHECKING:
    from avelt.core.formats.screens import Screen
    from avelt.core.formats.svg_in import Imported


class _Preview(QWidget):
    """The drawing with its screens outlined and numbered."""

    def __init__(self, theme: Theme, imported: Imported, screens: tuple[Screen, ...], chosen: QListWidget) -> None:
        super().__init__()
        self.theme, self.frame, self.screens, self.chosen = theme, imported.frame, screens, chosen
        self.painter = ScenePainter(imported.assets)
        self.setMinimumSize(QSize(520, 260))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        frame = self.frame
        scale = min(self.width() / frame.w, self.height() / frame.h)
        rect = QRectF(0, 0, frame.w * scale, frame.h * scale)
        image = self.painter.render(compile_still(frame).at(0.0), scale * self.devicePixelRatioF())
        draw_frame(painter, image, rect, self.theme.line, 1.0, 4.0)
        painter.setClipping(False)
        painter.setFont(font(11, 600))
        for k, screen in enumerate(self.screens):
            on = self.chosen.item(k).checkState() == Qt.CheckState.Checked
            x, y, w, h = (v * scale for v in screen.box)
            painter.setPen(QPen(self.theme.now if on else self.theme.quiet, 2.0 if on else 1.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(x, y, w, h))
            words = shortened(painter, self.chosen.item(k).text(), w - 8)
            tag = QRectF(x, y, painter.fontMetrics().horizontalAdvance(words) + 10, 18)
            painter.fillRect(tag, self.theme.now if on else self.theme.quiet)
            painter.setPen(self.theme.sheet)
            painter.drawText(tag, Qt.AlignmentFlag.AlignCenter, words)


class ApartDialog(QDialog):
    """Which of the screens become frames, and under which names."""

    def __init__(self, parent: QWidget, theme: Theme, imported: Imported, screens: tuple[Screen, ...]) -> None:
        super().__init__(parent)
        self.screens = screens
        self.setWindowTitle(tr("Several screens in one drawing"))
        self.resize(820, 440)
        self.list = QListWidget()
        self.list.setItemDelegate(TickDelegate(self.list))
        self.list.setAccessibleName(tr("Screens"))
        for screen in screens:
            item = QListWidgetItem(screen.name, self.list)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable | Qt.ItemFlag.ItemIsEditable)
            item.setCheckState(Qt.CheckState.Checked)
        self.preview = _Preview(theme, imported, screens, self.list)
        self.apart = button("", tr("Each ticked screen becomes a frame"), "strong")
        self.whole = button(tr("Keep as one frame"), tr("The drawing stays as it is (Esc)"))
        words = label(
            tr(
                "“{frame}” holds {count} screens beside each other. Shall each be a frame of its "
                "own? Double-click a name to change it.",
                frame=imported.frame.name,
                count=len(screens),
            ),
            "quiet",
        )
        words.setWordWrap(True)
        side = QVBoxLayout()
        side.addWidget(words)
        side.addWidget(self.list, 1)
        upper = QHBoxLayout()
        upper.setSpacing(16)
        upper.addLayout(side, 3)
        upper.addWidget(self.preview, 7)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(16, 14, 16, 14)
        layout.addLayout(upper, 1)
        layout.addLayout(row(None, self.whole, self.apart))
        self.list.itemChanged.connect(lambda _: self._show())
        self.apart.clicked.connect(self.accept)
        self.whole.clicked.connect(self.reject)
        self._show()

    def _show(self) -> None:
        count = len(self.wanted())
        self.apart.setText(tr("Make {n} frames", "Make {n} frame", count))
        self.apart.setEnabled(count > 0)
        self.preview.update()

    def wanted(self) -> tuple[Screen, ...]:
        """The ticked screens under their names."""
        return tuple(
            replace(screen, name=self.list.item(k).text().strip() or screen.name)
            for k, screen in enumerate(self.screens)
            if self.list.item(k).checkState() == Qt.CheckState.Checked
        )
