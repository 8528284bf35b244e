"""Earlier versions of the open file: when, what differs from now, and opening one beside."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QPixmap
from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QVBoxLayout, QWidget

from avelt.core.errors import AveltError
from avelt.core.formats.differences import differences
from avelt.core.formats.project_file import open_project, read_preview
from avelt.core.formats.versions import Version
from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.window.controls.fields import button, chosen_row, label, row

_PICTURE = 220, 300  # px
_KEPT = tr(
    "Kept at each save: of the last hour one each five minutes, of the last day one an "
    "hour, of the last week one a day."
)


class VersionsForm(QDialog):
    """The list; accepted with ``chosen`` when a version shall be opened beside."""

    def __init__(self, parent: QWidget, project: Project, known: tuple[Version, ...], now: float) -> None:
        super().__init__(parent)
        self.project, self.known = project, known
        self.setWindowTitle(tr("Versions"))
        self.resize(620, 420)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Versions, the newest first"))
        self.list.addItems([when(version.at, now) for version in known])
        self.picture = label("")
        self.picture.setFixedSize(*_PICTURE)
        self.picture.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.says = label("", "quiet")
        self.says.setWordWrap(True)
        self.beside = button(tr("Open beside"), tr("In a window of its own; the file stays as it is"), "strong")
        close = button(tr("Close"))
        right = QVBoxLayout()
        right.addWidget(self.picture, 0, Qt.AlignmentFlag.AlignHCenter)
        right.addWidget(self.says)
        right.addStretch(1)
        body = QHBoxLayout()
        body.addWidget(self.list, 1)
        body.addLayout(right, 1)
        layout = QVBoxLayout(self)
        words = label(_KEPT, "quiet")
        words.setWordWrap(True)
        layout.addWidget(words)
        layout.addLayout(body, 1)
        layout.addLayout(row(None, close, self.beside, spacing=8))
        close.clicked.connect(self.reject)
        self.beside.clicked.connect(self.accept)
        self.list.itemActivated.connect(lambda _: self.accept())
        self.list.currentRowChanged.connect(self._show)
        self.list.setCurrentRow(0)

    @property
    def chosen(self) -> Version | None:
        """The version whose row is chosen."""
        return chosen_row(self.list, self.known)

    def _show(self) -> None:
        version = self.chosen
        self.beside.setEnabled(version is not None)
        if version is None:
            return
        picture = QPixmap()
        picture.loadFromData(read_preview(version.path))
        if not picture.isNull():
            keep, smooth = Qt.AspectRatioMode.KeepAspectRatio, Qt.TransformationMode.SmoothTransformation
            picture = picture.scaled(*_PICTURE, keep, smooth)
        self.picture.setPixmap(picture)
        self.says.setText(_differs(self.project, version.path))


def _differs(project: Project, path: Path) -> str:
    try:
        found = differences(project, open_project(path))
    except AveltError as error:
        return tr("It cannot be read: {sentence}", sentence=error.sentence)
    return (
        tr("There, compared with now: {found}.", found="; ".join(found)) if found else tr("It holds the same as now.")
    )


def when(at: float, now: float) -> str:
    """A time in words, from now: minutes, the hour of today, the day."""
    age = max(0.0, now - at)
    clock, today = datetime.fromtimestamp(at), datetime.fromtimestamp(now)
    if age < 90.0:
        return tr("just now, {clock:%H:%M}", clock=clock)
    if age < 3_600.0:
        return tr("{round} minutes ago, {clock:%H:%M}", round=round(age / 60.0), clock=clock)
    if clock.date() == today.date():
        return tr("today, {clock:%H:%M}", clock=clock)
    return f"{clock:%A %d %B, %H:%M}"
