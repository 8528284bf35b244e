"""When a frame's file changed: what is new, gone and changed, before and after, and taking in what is ticked."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
from PySide6.QtCore import QFileSystemWatcher, QObject, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QImage, QPainter, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from avelt.core.cache import Cache
from avelt.core.edits.sources import FRAME, SourceChange, differences
from avelt.core.errors import AveltError, FormatError
from avelt.core.geometry.flatten import flatten
from avelt.core.model.values import Asset, Frame, Project
from avelt.core.record import Mutable, Record
from avelt.core.timing.compile import compile_still
from avelt.core.words import tr
from avelt.paint.fonts import measure_text
from avelt.paint.painter import ScenePainter
from avelt.window.common.jobs import AT_ONCE, Job, Latest
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import draw_frame
from avelt.window.controls.fields import button, label, row
from avelt.window.controls.painted import TickDelegate

if TYPE_CHECKING:
    from avelt.core.formats.svg_in import Imported

_SETTLED = 350  # ms without another change before a file is read
_WORDS = {"new": tr("New"), "gone": tr("Gone"), "changed": tr("Changed")}


class FoundChanges(Record, frozen=True):
    """What came of looking at a frame's file again."""

    frame_id: str
    imported: Imported | None = None
    changes: tuple[SourceChange, ...] = ()
    trouble: str = ""


def look(frame: Frame) -> FoundChanges:
    """Read the frame's file and compare; what is wrong with it is a sentence."""
    from avelt.core.formats.screen_file import read_screen
    from avelt.core.formats.screens import apart, screens_in

    source = frame.source
    if source is None or not source.path:
        return FoundChanges(frame.id, trouble=tr("“{frame}” did not come from a file.", frame=frame.name))
    try:
        imported = read_screen(Path(source.path), measure_text)
        if source.screen:
            parts = apart(imported, screens_in(imported.frame))
            part = next((p for p in parts if p.frame.source and p.frame.source.screen == source.screen), None)
            if part is None:
                raise FormatError(
                    tr("The drawing has no screen “{screen}” any more.", screen=source.screen), source.path
                )
            imported = part
    except AveltError as error:
        return FoundChanges(frame.id, trouble=str(error))
    return FoundChanges(frame.id, imported, differences(frame, imported.frame))


def is_large(frame: Frame) -> bool:
    """Whether reading the frame's file would be felt."""
    try:
        return frame.source is not None and Path(frame.source.path).stat().st_size > AT_ONCE
    except OSError:
        return False


class CompareJob(Job):
    """Looks at frames' files in the background; the answer is a tuple of ``FoundChanges``."""

    def __init__(self, frames: tuple[Frame, ...]) -> None:
        super().__init__(frames)
        self.frames = frames

    def work(self) -> tuple[FoundChanges, ...]:
        found: list[FoundChanges] = []
        for done, frame in enumerate(self.frames):
            if not self.go_on(done, len(self.frames)):
                break
            found.append(look(frame))
        return tuple(found)


class Watcher(QObject):
    """Watches the files that frames came from; ``found`` comes when one of them says something new."""

    found = Signal(object)  # FoundChanges

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self._files = QFileSystemWatcher(self)
        self._files.fileChanged.connect(self._touched)
        self._touched_paths: set[str] = set()
        self._wait = QTimer(self)
        self._wait.setSingleShot(True)
        self._wait.setInterval(_SETTLED)
        self._wait.timeout.connect(self.look_at_touched)
        self.jobs = Latest(self)
        self.jobs.answered.connect(self._answered)
        self.jobs.failed.connect(workspace.said)
        workspace.changed.connect(lambda change: self.follow() if change.touched.frames else None)
        self.follow()

    def follow(self) -> None:
        """Watch the files of the frames that are there now."""
        wanted = {f.source.path for f in self.workspace.project.frames if f.source is not None and f.source.path}
        have = set(self._files.files())
        gone, more = have - wanted, [path for path in wanted - have if Path(path).is_file()]
        if gone:
            self._files.removePaths(sorted(gone))
        if more:
            self._files.addPaths(sorted(more))

    def _touched(self, path: str) -> None:
        self._touched_paths.add(path)
        self._wait.start()

    def look_at_touched(self) -> None:
        """Read the files that changed; programs that write a new file in place of the old are followed too."""
        paths, self._touched_paths = self._touched_paths, set()
        self.follow()
        frames = tuple(f for f in self.workspace.project.frames if f.source is not None and f.source.path in paths)
        if frames:
            self.jobs.start(CompareJob(frames))

    def _answered(self, found: tuple[FoundChanges, ...]) -> None:
        for entry in found:
            self.found.emit(entry)


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
                from avelt.window.controls.views import box_polygon

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


class Offers(Mutable):
    """Files that said something new and were not looked at yet, by frame."""

    by_frame: dict[str, FoundChanges] = msgspec.field(default_factory=dict)

    def put(self, looked: FoundChanges) -> None:
        """One more, or none any more for that frame."""
        if looked.changes:
            self.by_frame[looked.frame_id] = looked
        else:
            self.by_frame.pop(looked.frame_id, None)

    def keep_to(self, project: Project) -> None:
        """Without frames that are gone."""
        known = {frame.id for frame in project.frames}
        self.by_frame = {k: v for k, v in self.by_frame.items() if k in known}
