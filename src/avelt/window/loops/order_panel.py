"""The running order of a stage as a table: a row a phase, the chosen one opened to be edited, side tracks below."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Signal
from PySide6.QtWidgets import QInputDialog, QLabel, QMenu, QVBoxLayout, QWidget

from avelt.core.checks.routes import troubles
from avelt.core.edits import phases
from avelt.core.model.find import phase_motion_id
from avelt.core.model.phases import MAIN, Phase, Track
from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.window.common.menus import open_at, open_under
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import button, label, row, scrolled
from avelt.window.loops.order_rows import PhaseLine, columns
from avelt.window.loops.phase_editor import PhaseEditor

_BAR = 11  # what the scroll bar takes beside the rows


class Heads(QWidget):
    """What the columns are, over the columns."""

    def __init__(self) -> None:
        super().__init__()
        self.setFixedHeight(34)
        self.labels = [label(text, "heading") for text in (tr("Phase"), tr("Shows"), tr("Lasts"), tr("Then"))]
        for made in self.labels:
            made.setParent(self)

    def resizeEvent(self, event: object) -> None:
        for made, left in zip(self.labels, columns(self.width() - _BAR), strict=True):
            made.move(round(left), 8)
            made.adjustSize()


class OrderPanel(QWidget):
    """Edits go through the workspace; ``began`` asks for a phase to begin now (track, phase)."""

    began = Signal(str, str)
    chose = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.chosen = ""
        self.lines: dict[str, PhaseLine] = {}
        self.editor = PhaseEditor()
        self.editor.wanted.connect(self._change)
        self.editor.refused.connect(workspace.said)
        self.editor.sheet.clicked.connect(lambda: workspace.motion_wanted.emit(phase_motion_id(self.chosen)))
        self._shape: tuple[object, ...] = ()
        self.says = QLabel()
        self.says.setWordWrap(True)
        self.says.setProperty("role", "quiet")
        self.says.setContentsMargins(16, 8, 16, 10)
        self.empty = QLabel(
            tr(
                "No running order yet: this stage is driven by its routes. Press New phase, and say "
                "what is shown, how long, and what comes then."
            )
        )
        self.empty.setWordWrap(True)
        self.empty.setProperty("role", "quiet")
        self.empty.setContentsMargins(16, 16, 16, 16)
        holder = QWidget()
        self.rows = QVBoxLayout(holder)
        self.rows.setContentsMargins(0, 0, 0, 0)
        self.rows.setSpacing(0)
        self.heads = Heads()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 4, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.heads)
        self.scroller = scrolled(holder)
        layout.addWidget(self.scroller, 1)

    # Showing

    @property
    def project(self) -> Project:
        """The stage."""
        return self.workspace.project

    def refresh(self) -> None:
        """Take everything over from the project."""
        project = self.project
        known = {phase.id for track in project.tracks for phase in track.phases}
        if self.chosen not in known:
            self.chosen = ""
        shape = (tuple((t.id, t.name, tuple(p.id for p in t.phases)) for t in project.tracks), self.chosen)
        if shape != self._shape:
            self._shape = shape
            self._lay_out(project)
        found = [trouble for trouble in troubles(project) if trouble.phases]
        by_phase = {ident: trouble.says for trouble in reversed(found) for ident in trouble.phases[:1]}
        for track in project.tracks:
            for phase in track.phases:
                line = self.lines[phase.id]
                line.is_chosen = phase.id == self.chosen
                line.show_phase(project, track, phase, by_phase.get(phase.id, ""))
                if line.is_chosen:
                    self.editor.show_phase(project, track, phase)
        self.says.setText("\n".join(dict.fromkeys(trouble.says for trouble in found[:4])))
        self.says.setVisible(bool(found))
        self.heads.setVisible(bool(known))

    def _lay_out(self, project: Project) -> None:
        self.editor.setParent(None)
        self.says.setParent(None)
        self.empty.setParent(None)
        while self.rows.count():
            item = self.rows.takeAt(0)
            gone = item.widget() if item is not None else None
            if gone is not None and not isinstance(gone, PhaseLine):
                gone.hide()
                gone.deleteLater()
        known = {phase.id for track in project.tracks for phase in track.phases}
        for ident in [ident for ident in self.lines if ident not in known]:
            gone_line = self.lines.pop(ident)
            gone_line.hide()
            gone_line.deleteLater()
        for track in project.tracks:
            if track.name != MAIN:
                self.rows.addWidget(self._head_of(track))
            for phase in track.phases:
                self.rows.addWidget(self._line(phase))
                if phase.id == self.chosen:
                    self.rows.addWidget(self.editor)
                    self.editor.show()
        if not known:
            self.rows.addWidget(self.empty)
            self.empty.show()
        self.rows.addStretch(1)
        self.rows.addWidget(self.says)

    def _line(self, phase: Phase) -> PhaseLine:
        made = self.lines.get(phase.id)
        if made is None:
            made = self.lines[phase.id] = PhaseLine(self.workspace.theme)
            made.chosen.connect(lambda ident: self.choose("" if ident == self.chosen else ident))
            made.began.connect(self._begin)
            made.moved.connect(self._move)
            made.removed.connect(self._remove)
            made.menu_wanted.connect(self._menu)
        made.show()
        return made

    def _head_of(self, track: Track) -> QWidget:
        head = QWidget()
        add = button(tr("New phase"), tr("A phase of {track}", track=track.name))
        add.clicked.connect(lambda: self.new_phase(track.id))
        more = button("…", tr("Layers and name of {track}", track=track.name))
        more.setFixedWidth(32)
        more.clicked.connect(lambda: self._track_menu(track.id, more))
        made = row(label(tr("Side track: {track}", track=track.name), "heading"), None, add, more)
        made.setContentsMargins(16, 10, 12, 6)
        head.setLayout(made)
        return head

    def light(self, running: Mapping[str, str], fired: Mapping[str, int]) -> None:
        """Light the phases that run (by track), and the rules that led to them (by phase)."""
        now = set(running.values())
        for ident, line in self.lines.items():
            state = (ident in now, fired.get(ident, -1))
            if state != (line.runs, line.fired):
                line.runs, line.fired = state
                line.update()

    def choose(self, phase_id: str) -> None:
        """Open a phase, or none."""
        if phase_id != self.chosen:
            self.chosen = phase_id
            self.refresh()
            self.chose.emit(phase_id)
            line = self.lines.get(phase_id)
            if line is not None:
                self.scroller.ensureWidgetVisible(self.editor)

    # Doing

    def _change(self, says: str, change: Callable[[Phase], Phase]) -> None:
        ident = self.chosen
        if ident and not self.workspace.do(says, lambda p: phases.edit_phase(p, ident, change)):
            self.refresh()

    def new_phase(self, track_id: str = "") -> None:
        """A phase at the end of a track (the main order, made when there is none), opened."""

        def edit(project: Project) -> tuple[Project, str]:
            ident = track_id or next((track.id for track in project.tracks if track.name == MAIN), "")
            if not ident:
                project, ident = phases.add_track(project)
            return phases.add_phase(project, ident)

        made = self.workspace.make(tr("new phase"), edit)
        if made is not None:
            self.choose(made)
            self.editor.name.setFocus()
            self.editor.name.selectAll()

    def new_track(self, name: str = "") -> None:
        """A side track with a phase, opened."""
        taken = [track.name for track in self.project.tracks]
        wanted = name or next(tr("side track {k}", k=k) for k in range(1, 99) if f"side track {k}" not in taken)

        def edit(project: Project) -> tuple[Project, str]:
            project, ident = phases.add_track(project, wanted)
            return phases.add_phase(project, ident)

        made = self.workspace.make(tr("new side track"), edit)
        if made is not None:
            self.choose(made)

    def _begin(self, phase_id: str) -> None:
        track, _ = phases.phase_by_id(self.project, phase_id)
        self.began.emit(track.id, phase_id)

    def _move(self, phase_id: str, by: int) -> None:
        track, _ = phases.phase_by_id(self.project, phase_id)
        place = [phase.id for phase in track.phases].index(phase_id)
        there = min(max(0, place + by), len(track.phases) - 1)
        if there != place:
            self.workspace.do(tr("move a phase"), lambda p: phases.move_phase(p, phase_id, there))
            self.lines[phase_id].setFocus()

    def remove_chosen(self) -> bool:
        """Remove the chosen phase; whether there is one."""
        if self.chosen:
            self._remove(self.chosen)
        return bool(self.chosen)

    def _remove(self, phase_id: str) -> None:
        self.workspace.do(tr("remove a phase"), lambda p: phases.remove_phase(p, phase_id))

    def _menu(self, phase_id: str, where: QPoint) -> None:
        menu = QMenu(self)
        for words, does in (
            (tr("Begin with it now\tCtrl+Return"), lambda: self._begin(phase_id)),
            (tr("Move up\tAlt+Up"), lambda: self._move(phase_id, -1)),
            (tr("Move down\tAlt+Down"), lambda: self._move(phase_id, 1)),
            (tr("Remove\tDel"), lambda: self._remove(phase_id)),
        ):
            menu.addAction(words).triggered.connect(lambda _=False, d=does: d())
        open_at(menu, where)

    def _track_menu(self, track_id: str, under: QWidget) -> None:
        track = phases.track_by_id(self.project, track_id)
        menu = QMenu(self)
        menu.addAction(tr("Rename…")).triggered.connect(lambda _=False: self._rename_track(track))
        chosen = self.workspace.chosen_here
        layers = {layer.id: layer.origin for frame in self.project.frames for layer in frame.layers}
        origins = tuple(layers[ident] for ident in chosen if ident in layers)
        take = menu.addAction(tr("Move the chosen layers"))
        take.setEnabled(bool(origins))
        take.triggered.connect(lambda _=False: self._edit_track(track, layers=origins))
        decide = menu.addAction(tr("Move what differs among its poses"))
        decide.setEnabled(bool(track.layers))
        decide.triggered.connect(lambda _=False: self._edit_track(track, layers=()))
        menu.addSeparator()
        menu.addAction(tr("Remove the side track")).triggered.connect(
            lambda _=False: self.workspace.do(tr("remove a side track"), lambda p: phases.remove_track(p, track_id))
        )
        open_under(menu, under)

    def _rename_track(self, track: Track) -> None:
        name, meant = QInputDialog.getText(self, tr("Side track"), tr("Name"), text=track.name)
        if meant and name.strip():
            self._edit_track(track, name=name.strip())

    def _edit_track(self, track: Track, **own: object) -> None:
        self.workspace.do(tr("side track"), lambda p: phases.edit_track(p, track.id, lambda old: replace(old, **own)))
