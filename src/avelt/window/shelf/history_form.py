"""The versions of a team's preset: who and when, each moving, with what differs; one comes back as a new one."""

from __future__ import annotations

from collections.abc import Callable
from datetime import datetime

from PySide6.QtWidgets import QDialog, QHBoxLayout, QListWidget, QVBoxLayout, QWidget

from avelt.core.errors import AveltError
from avelt.core.presets.differs import differences
from avelt.core.presets.team_state import Version
from avelt.core.presets.values import Preset
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.controls.fields import button, chosen_row, label, row
from avelt.window.shelf.cards import CARD_HIGH, CARD_WIDE, Cards, Shown


class HistoryForm(QDialog):
    """Accepted with ``chosen`` when a version shall come back. ``read`` gives the preset as it was in a version."""

    def __init__(
        self,
        workspace: Workspace,
        parent: QWidget,
        now: Preset,
        known: tuple[Version, ...],
        read: Callable[[str], Preset],
    ) -> None:
        super().__init__(parent)
        self.now, self.known, self._read = now, known, read
        self._presets: dict[str, Preset | None] = {}
        self.setWindowTitle(tr("Versions of {now}", now=now.name))
        self.resize(560, 360)
        self.list = QListWidget()
        self.list.setAccessibleName(tr("Versions, the newest first"))
        self.list.addItems([_line(version) for version in known])
        self.cards = Cards(workspace)
        self.cards.setFixedSize(int(CARD_WIDE) + 4, int(CARD_HIGH) + 4)
        self.says = label("", "quiet")
        self.says.setWordWrap(True)
        self.back = button(tr("Put it back"), tr("As a new version: nothing of the history is lost"), "strong")
        close = button(tr("Close"))
        right = QVBoxLayout()
        right.addWidget(self.cards)
        right.addWidget(self.says)
        right.addStretch(1)
        body = QHBoxLayout()
        body.setSpacing(16)
        body.addWidget(self.list, 1)
        body.addLayout(right)
        whole = QVBoxLayout(self)
        whole.addLayout(body, 1)
        whole.addLayout(row(None, close, self.back, spacing=8))
        self.clock = Clock(self)
        self.clock.endless = True
        self.clock.ticked.connect(self.cards.go_on)
        close.clicked.connect(self.reject)
        self.back.clicked.connect(self.accept)
        self.list.currentRowChanged.connect(self._show)
        self.list.setCurrentRow(0)
        if not workspace.settings.less_motion:
            self.clock.play()

    @property
    def chosen(self) -> Version | None:
        """The version whose row is chosen."""
        return chosen_row(self.list, self.known)

    def _show(self) -> None:
        version = self.chosen
        preset = self._preset(version) if version is not None else None
        self.cards.show_entries([Shown(preset, "")] if preset is not None else [], preset.name if preset else "")
        if preset is None:
            self.says.setText(tr("It was taken back, or cannot be read.") if version is not None else "")
        else:
            found = differences(self.now, preset)
            told = tr("Compared with now: {found}", found=" ".join(found))
            self.says.setText(told if found else tr("It is the same as now."))
        self.back.setEnabled(preset is not None and bool(differences(self.now, preset)))

    def _preset(self, version: Version) -> Preset | None:
        """What a version holds; read once."""
        if version.version not in self._presets:
            try:
                self._presets[version.version] = self._read(version.version) if version.name else None
            except AveltError:
                self._presets[version.version] = None
        return self._presets[version.version]


def _line(version: Version) -> str:
    when = datetime.fromisoformat(version.when).astimezone()
    return f"{when:%d %B %Y, %H:%M}  {version.who}" + ("" if version.name else tr(", taken back"))
