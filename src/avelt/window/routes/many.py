"""The card of several routes: what they share, and changes to all of them together."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from avelt.core.edits import wiring
from avelt.core.model.curves import Named
from avelt.core.model.find import route_by_id, route_title
from avelt.core.model.limits import MAX_MS
from avelt.core.model.triggers import TRIGGERS, trigger_row
from avelt.core.model.values import Project, Route
from avelt.core.timing.schedule import duration_of
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import NumberField, button, label, row, scrolled
from avelt.window.controls.painted import Pick
from avelt.window.routes.cells import read_change, shared

_SHORT = 26  # letters of a route's title that a button has room for
_DIFFER = "they differ"


class ManyCard(QWidget):
    """Edits of all chosen routes at once, each one entry."""

    back_wanted = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.ids: list[str] = []
        self.list = label("", "quiet")
        self.list.setWordWrap(True)
        self.list.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.length = QLineEdit()
        self.length.setToolTip("All the same: 50 ms. Or each changed: 1.2x, 80%, +40, -40")
        self.wait = NumberField("ms", 10.0, 0.0, MAX_MS, 0)
        self.curve, self.trigger = Pick(), Pick()
        self.only_if = QLineEdit()
        self.only_if.setToolTip("One condition for all of them; empty for always")
        self.back = Pick()
        self.back.addItems(["Return trips…", "with the same curves", "with mirrored curves", "quicker, as one leaves"])
        self.copy = button("Copy motion…", "The motion of the last chosen route, pair by pair", "strong")
        self.remove = button("Remove all", "Remove these routes (Delete)")
        grid = QGridLayout()
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(1, 1)
        grid.setColumnMinimumWidth(0, 92)
        for place, (words, field) in enumerate(
            (
                ("When", self.trigger),
                ("Delay", self.wait),
                ("Duration", self.length),
                ("Base curve", self.curve),
                ("Only if", self.only_if),
            )
        ):
            field.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            field.setMaximumWidth(16_777_215)
            field.setAccessibleName(words)
            grid.addWidget(label(words, "quiet"), place, 0)
            grid.addWidget(field, place, 1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(10)
        whole.addWidget(scrolled(self.list), 1)
        whole.addWidget(label("Change them together", "heading"))
        whole.addLayout(grid)
        whole.addLayout(row(self.copy, None))
        whole.addLayout(row(self.back, None, self.remove))
        self._connect()

    def _connect(self) -> None:
        self.length.returnPressed.connect(self._set_length)
        self.length.editingFinished.connect(lambda: self._set_length() if self.length.isModified() else None)
        self.wait.committed.connect(
            lambda ms: self._do("change delays", lambda p: wiring.change_delays(p, self.ids, ms))
        )
        self.wait.refused.connect(self.workspace.said)
        self.curve.activated.connect(self._set_curve)
        self.trigger.activated.connect(self._set_trigger)
        self.only_if.editingFinished.connect(self._set_condition)
        self.back.activated.connect(self._go_back)
        self.copy.clicked.connect(self._copy)

    def _do(self, words: str, edit: Callable[[Project], Project]) -> bool:
        return self.workspace.do(f"{words} of {len(self.ids)} routes", edit)

    def _routes(self) -> list[Route]:
        return [route_by_id(self.workspace.project, ident) for ident in self.ids]

    def show_routes(self, ids: list[str]) -> None:
        """Take over the chosen routes."""
        self.ids = list(ids)
        project, routes = self.workspace.project, self._routes()
        titles = [route_title(project, route).replace(" > ", " → ") for route in routes]
        self.list.setText("\n".join(titles))
        length = shared(duration_of(route.transition) for route in routes)
        self.length.setText(f"{length:g} ms" if isinstance(length, float) else "")
        self.length.setPlaceholderText(_DIFFER)
        self.length.setModified(False)
        wait = shared(route.delay for route in routes)
        self.wait.show_value(wait if isinstance(wait, float) else 0.0)
        self._fill(
            self.trigger, [(entry.word, entry) for entry in TRIGGERS], shared(trigger_row(r.trigger) for r in routes)
        )
        curves = [(entry.name, Named(entry.id)) for entry in project.curves]
        self._fill(self.curve, curves, shared(route.transition.curve for route in routes))
        only_if = shared(route.only_if for route in routes)
        self.only_if.setText(only_if if isinstance(only_if, str) else "")
        self.only_if.setPlaceholderText("always" if only_if == "" else _DIFFER)
        self.only_if.setModified(False)
        source = titles[-1] if titles else ""
        self.copy.setText(f"Copy motion from {source}" if len(source) <= _SHORT else "Copy motion from the last")
        self.copy.setToolTip(f"Copy the motion of {source} onto the others, pair by pair" if titles else "")

    def _fill(self, pick: Pick, entries: list, value: object) -> None:  # type: ignore[type-arg]
        pick.clear()
        places = [entry for _, entry in entries]
        if value not in places:
            pick.addItem(_DIFFER if value is None else "own", None)
        for words, entry in entries:
            pick.addItem(words, entry)
        pick.setCurrentIndex(places.index(value) if value in places else 0)

    def _set_length(self) -> None:
        text = self.length.text()
        if not text.strip() or not self.length.isModified():
            return
        self.length.setModified(False)
        try:
            change = read_change(text)
        except ValueError:
            self.workspace.said.emit(f"“{text}” is no duration: try 50 ms, 1.2x, 80% or +40.")
            self.show_routes(self.ids)
            return

        def edit(project: Project) -> Project:
            for route in self._routes():
                project = wiring.change_durations(project, [route.id], to=change(duration_of(route.transition)))
            return project

        if self._do("change durations", edit):
            self.show_routes(self.ids)

    def _set_curve(self, place: int) -> None:
        curve = self.curve.itemData(place)
        if curve is not None:
            self._do("change curves", lambda p: wiring.change_curves(p, self.ids, curve))

    def _set_trigger(self, place: int) -> None:
        entry = self.trigger.itemData(place)
        if entry is not None:
            self._do("change triggers", lambda p: wiring.change_triggers(p, self.ids, entry.make()))

    def _set_condition(self) -> None:
        if not self.only_if.isModified():
            return
        text = self.only_if.text()
        self.only_if.setModified(False)
        if not self._do("change conditions", lambda p: wiring.change_conditions(p, self.ids, text)):
            self.show_routes(self.ids)

    def _copy(self) -> None:
        def edit(project: Project) -> tuple[Project, tuple[int, int]]:
            made, placed, missed = wiring.copy_motion(project, self.ids[-1], self.ids[:-1])
            return made, (placed, missed)

        found = self.workspace.make(f"copy motion to {len(self.ids) - 1} routes", edit)
        if found is not None:
            self.workspace.said.emit(copied_words(*found))

    def _go_back(self, place: int) -> None:
        self.back.setCurrentIndex(0)
        if place:
            self.back_wanted.emit(("same", "mirrored", "quicker")[place - 1])


def copied_words(placed: int, missed: int) -> str:
    """What became of the cues when motion was copied."""
    if not placed and not missed:
        return "Duration and curve were copied; there were no cues."
    tail = f" {missed} found no layers for it." if missed else ""
    return f"{placed} of {placed + missed} cues and motion paths found their place.{tail}"
