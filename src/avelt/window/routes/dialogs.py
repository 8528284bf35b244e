"""The dialogs of Routes: every frame to every other, and the inputs."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QAbstractItemView, QDialog, QHeaderView, QLineEdit, QTableWidget, QVBoxLayout, QWidget
from rapidfuzz import fuzz

from avelt.core.edits import inputs
from avelt.core.edits.wiring import every_to_every, relatives_of_touch
from avelt.core.errors import AveltError
from avelt.core.model.find import layer_index
from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Frame, Group, Layer, Project, Text
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import button, label, row, scrolled
from avelt.window.controls.forms import Form
from avelt.window.controls.input_field import input_field
from avelt.window.controls.layer_pick import add_layers, with_depth
from avelt.window.controls.painted import Pick, Tick

_FITS = 84  # of 100: how alike a layer's name and a frame's must be to be proposed


def proposed(frames: Sequence[Frame]) -> dict[str, str]:
    """For each frame to go to: the layer of any of the others that most looks meant.

    By name or words: a tab called "Deck" for a frame called "Seat deck".
    """
    found: dict[str, str] = {}
    for frame in frames:
        layers = [layer for other in frames if other is not frame for layer, _ in with_depth(other.layers)]
        scored = [(_likeness(layer, frame.name), -k, layer) for k, layer in enumerate(layers)]
        best = max(scored, default=None, key=lambda entry: entry[:2])
        if best is not None and best[0] >= _FITS:
            found[frame.id] = best[2].id
    return found


def _likeness(layer: Layer, wanted: str) -> float:
    names = [layer.name]
    if isinstance(layer.body, Group):
        names += [c.body.words for c in layer.children if isinstance(c.body, Text)]
    elif isinstance(layer.body, Text):
        names.append(layer.body.words)
    best = max(
        (fuzz.token_set_ratio(name.casefold(), wanted.casefold()) for name in names if name.strip()), default=0.0
    )
    # Of equals the group is meant: all of a tab can be tapped, not only its word; a whole tab rather than a card.
    bonus = 6.0 if isinstance(layer.body, Group) and "tab" in layer.name.casefold() else 0.0
    return float(best) + bonus + (1.0 if isinstance(layer.body, Group) else 0.0)


class EveryDialog(Form):
    """Which frames go to each other, and what is tapped for each of them."""

    def __init__(self, parent: QWidget, project: Project, chosen: Sequence[str]) -> None:
        super().__init__(parent, tr("Every one to every one"), tr("Make the routes"))
        self.project = project
        self.setMinimumSize(520, 380)
        self.table = QTableWidget(len(project.frames), 2)
        self.table.setHorizontalHeaderLabels([tr("Frame"), tr("Is gone to by a tap on")])
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.table.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.table.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(34)
        self.table.setShowGrid(False)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.ticks: list[Tick] = []
        self.touches: list[Pick] = []
        for k, frame in enumerate(project.frames):
            tick = Tick(frame.name)
            tick.setChecked(frame.id in chosen)
            tick.toggled.connect(self._show)
            self.ticks.append(tick)
            self.table.setCellWidget(k, 0, _padded(tick))
            pick = Pick()
            self.touches.append(pick)
            self.table.setCellWidget(k, 1, pick)
        self.says = label("", "quiet")
        self.says.setWordWrap(True)
        words = label(
            tr("In each of these frames the same layer is tapped: what is chosen once is found in the others."), "quiet"
        )
        words.setWordWrap(True)
        for widget in (words, self.table, self.says):
            self.fields.addRow(widget)
        self._show()

    def frames(self) -> list[Frame]:
        """The ticked frames."""
        return [frame for frame, tick in zip(self.project.frames, self.ticks, strict=True) if tick.isChecked()]

    def _show(self) -> None:
        frames = self.frames()
        guess = proposed(frames)
        for frame, pick in zip(self.project.frames, self.touches, strict=True):
            kept = pick.currentData()
            pick.clear()
            pick.setEnabled(frame in frames)
            others = [other for other in frames if other is not frame]
            meant = guess.get(frame.id, "")
            home = next((other for other in others if meant in layer_index(other)), others[0] if others else None)
            pick.addItem(tr("anywhere"), "")
            if home is not None and frame in frames:
                add_layers(pick, home.layers)
            wanted = kept if kept and pick.findData(kept) >= 0 else meant
            pick.setCurrentIndex(max(0, pick.findData(wanted)))
        n = len(frames)
        there = {(route.leaves, route.arrives) for route in self.project.routes}
        new = sum((a.id, b.id) not in there for a in frames for b in frames if a is not b)
        old = n * (n - 1) - new
        words = tr("{n} routes will be made", "{n} route will be made", new)
        self.says.setText(words + (tr("; {old} are there already and stay as they are.", old=old) if old else "."))
        self.ok.setEnabled(new > 0)

    def edit(self, project: Project) -> tuple[Project, list[str]]:
        """The project with the routes, and their ids."""
        ids = [frame.id for frame in self.frames()]
        chosen = {
            frame.id: pick.currentData()
            for frame, pick in zip(self.project.frames, self.touches, strict=True)
            if frame.id in ids and pick.currentData()
        }
        return every_to_every(project, ids, relatives_of_touch(project, ids, chosen))


def _padded(widget: QWidget) -> QWidget:
    holder = QWidget()
    inside = QVBoxLayout(holder)
    inside.setContentsMargins(8, 0, 4, 0)
    inside.addWidget(widget)
    return holder


class InputsDialog(QDialog):
    """The inputs: names, kinds, what they start as, and who uses them. Every change is an edit of its own."""

    KINDS = ("yes/no", "number", "text", "signal")

    def __init__(self, parent: QWidget, workspace: Workspace) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Inputs"))
        self.setMinimumSize(560, 340)
        self.workspace = workspace
        self.trouble = label("", "trouble")
        self.trouble.setWordWrap(True)
        self.holder = QWidget()
        self.rows = QVBoxLayout(self.holder)
        self.rows.setContentsMargins(0, 0, 8, 0)
        self.add = button(tr("New input"), tr("An input that triggers and conditions can read"), "strong")
        self.ready = button(tr("Done"), "Esc")
        self.ready.clicked.connect(self.accept)
        self.add.clicked.connect(lambda: self._do(tr("new input"), lambda p: inputs.add_input(p)[0]))
        whole = QVBoxLayout(self)
        whole.setContentsMargins(18, 16, 18, 14)
        whole.setSpacing(10)
        says = label(tr("Conditions name inputs by their names; a signal has no value, it is only sent."), "quiet")
        whole.addWidget(says)
        whole.addWidget(scrolled(self.holder), 1)
        whole.addWidget(self.trouble)
        whole.addLayout(row(self.add, None, self.ready))
        self.names: list[QLineEdit] = []
        self.kinds: list[Pick] = []
        self._show()

    def _do(self, words: str, edit) -> None:  # type: ignore[no-untyped-def]
        try:
            project = self.workspace.stages.edited(self.workspace.whole, edit)
        except AveltError as error:
            self.trouble.setText(str(error))
            self.trouble.show()
        else:
            self.trouble.hide()
            self.workspace.session.do(words, project)
        self._show()

    def _show(self) -> None:
        while self.rows.count():
            item = self.rows.takeAt(0)
            gone = item.widget() if item is not None else None
            if gone is not None:
                gone.hide()
                gone.deleteLater()
        self.names, self.kinds = [], []
        project = self.workspace.project
        for entry in project.inputs:
            ident = entry.id
            name = QLineEdit(entry.name)
            name.setAccessibleName(tr("Name"))
            name.editingFinished.connect(
                lambda ident=ident, name=name: (
                    self._do(tr("rename input"), lambda p: inputs.rename_input(p, ident, name.text()))
                    if name.isModified()
                    else None
                )
            )
            kind = Pick()
            kind.addItems([tr(words) for words in self.KINDS])
            kind.setCurrentIndex(self.KINDS.index(entry.kind))
            kind.activated.connect(
                lambda k, ident=ident: self._do(
                    tr("kind of input"),
                    lambda p: inputs.set_input_kind(p, ident, self.KINDS[k]),  # type: ignore[arg-type]
                )
            )
            users, fed = len(inputs.used_by(project, ident)), len(inputs.fed_in(project, ident))
            says = tr("{n} routes", "{n} route", users)
            used = label(
                tr("{says}, feeds in {n} frames", "{says}, feeds in {n} frame", fed, says=says) if fed else says,
                "quiet",
            )
            remove = button(tr("Remove"), tr("What reads it will be shown as trouble"))
            remove.clicked.connect(
                lambda _=False, ident=ident: self._do(tr("remove input"), lambda p: inputs.remove_input(p, ident))
            )
            line = QWidget()
            inside = row(
                name, kind, label(tr("starts as"), "quiet"), self._start(ident, entry.kind, entry.start), used, remove
            )
            inside.setContentsMargins(0, 2, 0, 2)
            line.setLayout(inside)
            self.rows.addWidget(line)
            self.names.append(name)
            self.kinds.append(kind)
        if not project.inputs:
            self.rows.addWidget(label(tr("There are no inputs yet."), "quiet"))
        self.rows.addStretch(1)

    def _start(self, ident: str, kind: str, start: InputValue) -> QWidget:
        def put(value: InputValue) -> None:
            self._do(tr("start of input"), lambda p: inputs.set_start(p, ident, value))

        if kind == "signal":
            return label(tr("nothing"), "quiet")
        field, show = input_field(kind, put)
        show(start)
        return field
