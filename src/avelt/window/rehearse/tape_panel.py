"""The tape: what happened, which tape it is, and what can be done with it."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QLineEdit, QMenu, QProgressBar, QSizePolicy, QVBoxLayout

from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.window.common.menus import open_under
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import button, label, row, scrolled
from avelt.window.controls.painted import Pick
from avelt.window.rehearse.log_view import LogView

RUNNING = tr("This rehearsal")
BEFORE = tr("before the last edit")


class TapePanel(QFrame):
    """The left of the station."""

    chosen = Signal(str)  # the name of a kept tape; empty for what is rehearsed now
    kept = Signal()
    replayed = Signal()
    compared = Signal(str)  # with a kept tape, or BEFORE; empty ends it
    renamed = Signal(str)
    removed = Signal()
    exported = Signal(str)  # "gif", "file"
    opened = Signal()
    stopped = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.setProperty("role", "panel")
        self.setFixedWidth(318)
        self.comparing = ""
        self.may_compare_before = False
        self._names: list[str] = []
        self.tapes = Pick()
        self.tapes.setAccessibleName(tr("Tape"))
        self.tapes.setToolTip(tr("What is rehearsed now, or a tape that the project keeps"))
        self.name = QLineEdit()
        self.name.setAccessibleName(tr("Name of the tape"))
        self.name.hide()
        for field in (self.tapes, self.name):
            field.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.more = button(tr("More"), tr("Rename, remove, export, open a tape"))
        self.more.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Fixed)
        self.count = label("", "quiet")
        self.log = LogView(workspace)
        self.scroller = scrolled(self.log)
        self.keep = button(tr("Keep"), tr("Keep this tape in the project (K)"))
        self.replay = button(tr("Replay"), tr("Play it again from its start (R)"))
        self.compare = button(tr("Compare…"), tr("Beside another tape, or the same before the last edit, in step"))
        self.missed = label("", "quiet")
        self.missed.setWordWrap(True)
        self.missed.hide()
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedHeight(6)
        self.stop = button(tr("Stop"))
        self._busy(False)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(14, 10, 8, 12)
        inside.addLayout(row(self.tapes, self.name, self.more))
        inside.addLayout(row(label(tr("What happened"), "heading"), None, self.count))
        inside.addWidget(self.scroller, 1)
        inside.addWidget(self.missed)
        inside.addLayout(row(self.progress, self.stop))
        inside.addLayout(row(self.keep, self.replay, self.compare, None))
        self._connect()
        self.show_project(workspace.project, "")

    def _connect(self) -> None:
        self.tapes.activated.connect(lambda k: self.chosen.emit(self._names[k - 1] if k else ""))
        self.keep.clicked.connect(self.kept)
        self.replay.clicked.connect(self.replayed)
        self.compare.clicked.connect(self._ask_compare)
        self.more.clicked.connect(self._ask_more)
        self.name.editingFinished.connect(self._rename)
        self.stop.clicked.connect(self.stopped)

    def show_project(self, project: Project, name: str) -> None:
        """Which tapes there are, and which is shown."""
        names = [tape.name for tape in project.tapes]
        if names != self._names or not self.tapes.count():
            self._names = names
            self.tapes.clear()
            self.tapes.addItems([RUNNING, *names])
        self.tapes.setCurrentIndex(names.index(name) + 1 if name in names else 0)

    @property
    def tape_name(self) -> str:
        """The name of the kept tape that is shown; empty for what is rehearsed now."""
        k = self.tapes.currentIndex()
        return self._names[k - 1] if k > 0 else ""

    def show_missed(self, missed: list[str]) -> None:
        """What of the tape means nothing in the project."""
        more = tr(" And {count} more.", count=len(missed) - 2) if len(missed) > 2 else ""
        self.missed.setText(" ".join(missed[:2]) + more)
        self.missed.setVisible(bool(missed))

    def ask_name(self) -> None:
        """Let the tape be named."""
        self.name.setText(self.tape_name)
        self.tapes.hide()
        self.name.show()
        self.name.selectAll()
        self.name.setFocus()

    def _rename(self) -> None:
        if self.name.isHidden():
            return
        self.name.hide()
        self.tapes.show()
        if self.name.text().strip() != self.tape_name:
            self.renamed.emit(self.name.text().strip())

    def show_busy(self, done: int = 0, whole: int = 0) -> None:
        """How far long work is; none when ``whole`` is 0."""
        self._busy(whole > 0)
        self.progress.setRange(0, max(1, whole))
        self.progress.setValue(done)

    def _busy(self, on: bool) -> None:
        self.progress.setVisible(on)
        self.stop.setVisible(on)

    def compare_menu(self) -> QMenu:
        """What this tape can be compared with."""
        menu = QMenu(self)
        if self.comparing:
            menu.addAction(tr("End comparing")).triggered.connect(lambda: self.compared.emit(""))
        before = menu.addAction(tr("This tape before the last edit"))
        before.setEnabled(self.may_compare_before)
        before.triggered.connect(lambda: self.compared.emit(BEFORE))
        for name in self._names:
            if name != self.tape_name:
                menu.addAction(name).triggered.connect(lambda _=False, n=name: self.compared.emit(n))
        return menu

    def _ask_compare(self) -> None:
        open_under(self.compare_menu(), self.compare)

    def more_menu(self) -> QMenu:
        """What else can be done."""
        menu = QMenu(self)
        for words, does, always in (
            (tr("Rename"), self.ask_name, False),
            (tr("Remove"), self.removed.emit, False),
            (tr("Save as a file…"), lambda: self.exported.emit("file"), True),
            (tr("Save as a moving picture (GIF)…"), lambda: self.exported.emit("gif"), True),
            (tr("Open a tape file…"), self.opened.emit, True),
        ):
            action = menu.addAction(words)
            action.setEnabled(always or bool(self.tape_name))
            action.triggered.connect(lambda _=False, d=does: d())
        return menu

    def _ask_more(self) -> None:
        open_under(self.more_menu(), self.more)
