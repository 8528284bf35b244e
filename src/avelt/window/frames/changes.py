"""What changed in a frame's file: what is new, gone and changed, before and after; what is ticked is taken in."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from avelt.core.cache import Cache
from avelt.core.edits.sources import FRAME, SourceChange
from avelt.core.geometry.flatten import flatten
from avelt.core.model.values import Asset, Frame
from avelt.core.timing.compile import compile_still
from avelt.core.words import tr
from avelt.paint.painter import ScenePainter
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import box_polygon, draw_frame
from avelt.window.controls.fields import button, label, row
from avelt.window.controls.painted import TickDelegate
from avelt.window.frames.file_watch import FoundChanges

_WORDS = {"new": tr("New"), "gone": tr("Gone"), "changed": tr("Changed")}


class _Compare(QWidget):
    """The frame as it is and as its file has it, with a layer outlined in both."""

    def __init__(self, workspace: Workspace, left: Frame, right: Frame, assets: tuple[Asset, ...]) -> None:
        super().__init__()
        self.workspace, self.sides = workspace, (left, right)
        self.painter = ScenePainter((*workspace.project.assets, *assets))
        self.change: SourceChange | None = None
        self._images: Cache[QImage] = Cache(24)
        self.setMinimumSize(QSize(420, 300))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        theme = self.workspace.theme
        tones = (theme.leaves, theme.arrives)
        ids = self._ids()
        for k, frame in enumerate(self.sides):
            room = QRectF(k * (self.width() + 12) / 2, 22, (self.width() - 12) / 2, self.height() - 24)
            scale = min(room.width() / frame.w, room.height() / frame.h)
            rect = QRectF(room.left() + 1, room.top(), frame.w * scale - 2, frame.h * scale - 2)
            painter.setPen(tones[k])
            painter.drawText(
                QRectF(room.left(), 0, room.width(), 18), Qt.AlignmentFlag.AlignLeft, ("now", tr("in the file"))[k]
            )
            draw_frame(painter, self._image(frame, scale * self.devicePixelRatioF()), rect, tones[k], 1.6)
            painter.setClipping(False)
            flat = flatten(frame)
            if ids[k] in flat.index:
                to = QTransform(scale, 0, 0, scale, rect.left(), rect.top())
                i = flat.index[ids[k]]
                painter.setPen(QPen(theme.now, 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawPolygon(box_polygon(flat.to_frame(i), flat.layers[i].w, flat.layers[i].h, to))

    def _ids(self) -> tuple[str, str]:
        change = self.change
        if change is None or change.key == FRAME:
            return "", ""
        return change.target if change.before is not None else "", change.after.id if change.after is not None else ""

    def _image(self, frame: Frame, scale: float) -> QImage:
        return self._images.get(
            (frame,), round(scale, 3), lambda: self.painter.render(compile_still(frame).at(0.0), scale)
        )


class ChangesDialog(QDialog):
    """The list of differences with ticks, and the two frames beside each other."""

    def __init__(self, parent: QWidget, workspace: Workspace, frame: Frame, looked: FoundChanges) -> None:
        super().__init__(parent)
        if looked.imported is None:
            return
        self.workspace, self.frame, self.looked = workspace, frame, looked
        self.setWindowTitle(tr("What changed in the file of {frame}", frame=frame.name))
        self.resize(940, 560)
        source = frame.source
        count = len(looked.changes)
        said = tr(
            "{n} differences to {also}",
            "{n} difference to {also}",
            count,
            also=Path(source.path).name if source else "",
        )
        self.list = QListWidget()
        self.list.setItemDelegate(TickDelegate(self.list))
        self.list.setAccessibleName(tr("Differences"))
        self.compare = _Compare(workspace, frame, looked.imported.frame, looked.imported.assets)
        self.says = label("", "quiet")
        self.says.setWordWrap(True)
        self.says.setMinimumHeight(54)
        self.says.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.take = button(
            tr("Update what is ticked"), tr("Cues, decisions and what you changed by hand stay"), "strong"
        )
        self.leave = button(tr("Leave it"), tr("Esc: it is offered again when you look again"))
        left = QVBoxLayout()
        left.addWidget(label(said, "heading"))
        left.addWidget(self.list, 1)
        left.addWidget(self.says)
        upper = QHBoxLayout()
        upper.setSpacing(16)
        upper.addLayout(left, 4)
        upper.addWidget(self.compare, 5)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(16, 14, 16, 14)
        whole.addLayout(upper, 1)
        whole.addLayout(row(None, self.leave, self.take))
        self._fill()
        self.list.currentRowChanged.connect(self._show)
        self.take.clicked.connect(self.accept)
        self.leave.clicked.connect(self.reject)
        self.list.setCurrentRow(0)

    def _fill(self) -> None:
        for change in self.looked.changes:
            words = f"{_WORDS[change.kind]}: {change.name}"
            item = QListWidgetItem(words + (" (frame)" if change.key == FRAME else ""), self.list)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked)

    def _show(self, row: int) -> None:
        if not 0 <= row < len(self.looked.changes):
            return
        change = self.looked.changes[row]
        parts = [", ".join(change.says)] if change.says else []
        if change.by_hand:
            parts.append(tr("Changed by hand and left as it is: {by_hand}.", by_hand=", ".join(change.by_hand)))
        if change.kind == "gone":
            parts.append(tr("Its loops and cues go with it."))
        self.says.setText("\n".join(parts))
        self.compare.change = change
        self.compare.update()

    def keys(self) -> list[str]:
        """The ticked differences."""
        return [
            change.key
            for row, change in enumerate(self.looked.changes)
            if self.list.item(row).checkState() == Qt.CheckState.Checked
        ]
