"""Another tape beside what is rehearsed, in step with it; and where the two part."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avelt.core.model.tapes import Tape
from avelt.core.model.values import Project
from avelt.core.running.comparing import Parting
from avelt.core.running.rehearsal import Rehearsal
from avelt.core.words import tr
from avelt.window.common.jobs import Latest
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import button, label, row
from avelt.window.rehearse.preview import Preview
from avelt.window.rehearse.tape_job import CompareJob, Two


class Beside(QWidget):
    """The other tape; hidden while there is none."""

    wanted = Signal(float)  # the moment where they part

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.rehearsal: Rehearsal | None = None
        self.parting: Parting | None = None
        self.jobs = Latest(self)
        self.stage = Preview(workspace)
        self.stage.setAccessibleName(tr("The other tape"))
        self.stage.setEnabled(False)
        self.title = label("", "quiet")
        self.title.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.says = label("", "")
        self.says.setWordWrap(True)
        self.there = button(tr("Go there"), tr("Go to the first moment where both part"))
        self.there.hide()
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(self.title)
        inside.addWidget(self.stage, 1)
        inside.addLayout(row(self.says, self.there))
        self.there.clicked.connect(lambda: self.wanted.emit(self.parting.at) if self.parting else None)
        self.jobs.answered.connect(self._found)
        self.jobs.failed.connect(self.says.setText)
        self.hide()

    def open(self, title: str, one: tuple[Project, Tape], other: tuple[Project, Tape]) -> None:
        """Show another tape, and look for where it parts from the first."""
        self.rehearsal = Rehearsal(*other)
        self.parting = None
        self.title.setText(title)
        self.says.setText(tr("Looking for where they part…"))
        self.there.hide()
        self.show()
        self.jobs.start(CompareJob(Two(one, other)))

    def close_it(self) -> None:
        """Nothing stands beside."""
        self.jobs.stop()
        self.rehearsal = self.parting = None
        self.hide()

    def _found(self, parting: object) -> None:
        self.parting = parting if isinstance(parting, Parting) else None
        if self.parting is None:
            self.says.setText(tr("They show the same from start to end."))
        else:
            self.says.setText(tr("They part at {at:.2f} s. {says}", at=self.parting.at / 1000, says=self.parting.says))
        self.there.setVisible(self.parting is not None)

    def show_moment(self, ms: float) -> None:
        """The same moment as the first shows."""
        if self.rehearsal is not None:
            self.stage.show_scene(self.rehearsal.seen(ms).scene())
