"""The styles of the transition beside its sheet: made anew with every edit, the chosen layer marked, typed into."""

from __future__ import annotations

from PySide6.QtCore import QTimer, Signal
from PySide6.QtWidgets import QFrame, QVBoxLayout

from avelt.core.handoff.delivery import Wanted
from avelt.core.handoff.web import styles
from avelt.core.model.find import entrance_route, frame_of_entrance, route_by_id
from avelt.core.model.values import Project, Route
from avelt.core.timing.compile import compile_route
from avelt.core.words import tr
from avelt.paint.letters import QtLetters
from avelt.window.common.jobs import Job, Latest
from avelt.window.controls.code_view import CodeView, take_code
from avelt.window.controls.fields import button, label, row
from avelt.window.timing.context import TimingContext

_WIDE = 400  # px
_AFTER = 250  # ms after an edit: the picture comes first


class CodeJob(Job):
    """Makes the styles of a transition; the answer is their text."""

    def __init__(self, project: Project, route: Route) -> None:
        super().__init__((project, route))
        self.project, self.route = project, route

    def work(self) -> str:
        program = compile_route(self.project, self.route)
        return styles(program, QtLetters(), Wanted(name="transition"))


class CodePanel(QFrame):
    """Hidden until it is wanted."""

    closed = Signal()

    def __init__(self, context: TimingContext) -> None:
        super().__init__()
        self.context, self.workspace = context, context.workspace
        self.setProperty("role", "panel")
        self.setFixedWidth(_WIDE)
        self.code = CodeView(self.workspace)
        copy = button(tr("Copy"), tr("All of it into the clipboard"))
        close = button(tr("Close"), tr("Close the code"))
        says = label(tr("Type lengths, delays and curves; Ctrl+Return takes them"), "caption")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 8, 8, 8)
        layout.setSpacing(6)
        layout.addLayout(row(label(tr("Styles"), "heading"), None, copy, close, spacing=6))
        layout.addWidget(says)
        layout.addWidget(self.code, 1)
        self.work = Latest(self)
        self.work.answered.connect(self._take)
        self.work.failed.connect(self.workspace.said)
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(_AFTER)
        self._soon.timeout.connect(self.look)
        copy.clicked.connect(self.code.copy_all)
        close.clicked.connect(self.closed)
        self.code.typed.connect(self._typed)
        context.selected.connect(self._mark)
        context.shown.connect(self._later)
        self.workspace.changed.connect(lambda _: self._later())
        self.hide()

    def open(self) -> None:
        """Show it."""
        self.show()
        self.look()

    def _later(self) -> None:
        if self.isVisible():
            self._soon.start()

    def look(self) -> None:
        """Make the styles of what is shown."""
        self._soon.stop()
        route = self.context.route
        if self.isVisible() and route is not None:
            self.work.start(CodeJob(self.workspace.project, self._as_kept(route)))

    def _as_kept(self, route: Route) -> Route:
        frame = frame_of_entrance(route.id)
        if frame:
            return next(entrance_route(f) for f in self.workspace.project.frames if f.id == frame)
        return route_by_id(self.workspace.project, route.id)

    def _take(self, text: object) -> None:
        if not self.code.is_changed:
            self.code.show_code(str(text), self._layer(), open_to=True)

    def _layer(self) -> str:
        """The chosen layer as the styles call it: by its name where it arrives."""
        key, program = self.context.key, self.context.program
        slot = program.slot_of(*key.pair) if key is not None and program is not None else -1
        return program.contents[slot].layer.name if program is not None and slot >= 0 else ""

    def _mark(self) -> None:
        if self.isVisible() and self.code.whole and not self.code.is_changed:
            self.code.mark(self._layer())

    def _typed(self, text: str) -> None:
        route = self.context.route
        if route is not None:
            take_code(self.workspace, route.id, self.code.whole, text)
