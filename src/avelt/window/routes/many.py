"""The card of several routes: what they share, and changes to all of them together."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from avelt.core.edits import put_routes, wiring
from avelt.core.edits.afterwards import cue_name
from avelt.core.model.curves import Named
from avelt.core.model.find import route_by_id, route_title
from avelt.core.model.limits import MAX_MS
from avelt.core.model.motion import CueKey
from avelt.core.model.triggers import TRIGGERS, trigger_row
from avelt.core.model.values import Project, Route
from avelt.core.timing.schedule import duration_of
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import NumberField, button, label, row, scrolled
from avelt.window.controls.painted import Pick
from avelt.window.routes.cells import read_change, shared

_DIFFER = tr("they differ")


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
        self.length.setToolTip(tr("All the same: 50 ms. Or each changed: 1.2x, 80%, +40, -40"))
        self.wait = NumberField("ms", 10.0, 0.0, MAX_MS, 0)
        self.curve, self.trigger = Pick(), Pick()
        self.only_if = QLineEdit()
        self.only_if.setToolTip(tr("One condition for all of them; empty for always"))
        self.back = Pick()
        self.back.addItems(
            [tr("Return trips…"), tr("with the same curves"), tr("with mirrored curves"), tr("quicker, as one leaves")]
        )
        self.source, self.what = Pick(), Pick()
        self.source.setAccessibleName(tr("Source of the motion"))
        self.source.setToolTip(tr("The route whose motion is put on the chosen ones"))
        self.what.setAccessibleName(tr("What is put on them"))
        self.copy = button(tr("Put on all"), tr("Put it on the chosen routes; the rest of each stays"), "strong")
        self.source_id = ""
        self.remove = button(tr("Remove all"), tr("Remove these routes (Delete)"))
        grid = QGridLayout()
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(1, 1)
        grid.setColumnMinimumWidth(0, 92)
        for place, (words, field) in enumerate(
            (
                (tr("When"), self.trigger),
                (tr("Delay"), self.wait),
                (tr("Duration"), self.length),
                (tr("Base curve"), self.curve),
                (tr("Only if"), self.only_if),
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
        whole.addWidget(label(tr("Change them together"), "heading"))
        whole.addLayout(grid)
        whole.addWidget(label(tr("Put motion on them"), "heading"))
        origin = QGridLayout()
        origin.setVerticalSpacing(8)
        origin.setColumnStretch(1, 1)
        origin.setColumnMinimumWidth(0, 92)
        for place, (words, field) in enumerate(((tr("From"), self.source), (tr("What"), self.what))):
            field.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            field.setMinimumContentsLength(12)
            origin.addWidget(label(words, "quiet"), place, 0)
            origin.addWidget(field, place, 1)
        whole.addLayout(origin)
        whole.addLayout(row(None, self.copy))
        whole.addLayout(row(self.back, None, self.remove))
        self._connect()

    def _connect(self) -> None:
        self.length.returnPressed.connect(self._set_length)
        self.length.editingFinished.connect(lambda: self._set_length() if self.length.isModified() else None)
        self.wait.committed.connect(
            lambda ms: self._do(tr("change delays"), lambda p: wiring.change_delays(p, self.ids, ms))
        )
        self.wait.refused.connect(self.workspace.said)
        self.curve.activated.connect(self._set_curve)
        self.trigger.activated.connect(self._set_trigger)
        self.only_if.editingFinished.connect(self._set_condition)
        self.back.activated.connect(self._go_back)
        self.source.activated.connect(self._pick_source)
        self.copy.clicked.connect(self._copy)

    def _do(self, words: str, edit: Callable[[Project], Project]) -> bool:
        return self.workspace.do(tr("{words} of {count} routes", words=words, count=len(self.ids)), edit)

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
            self.trigger,
            [(tr(entry.word), entry) for entry in TRIGGERS],
            shared(trigger_row(r.trigger) for r in routes),
        )
        curves = [(entry.name, Named(entry.id)) for entry in project.curves]
        self._fill(self.curve, curves, shared(route.transition.curve for route in routes))
        only_if = shared(route.only_if for route in routes)
        self.only_if.setText(only_if if isinstance(only_if, str) else "")
        self.only_if.setPlaceholderText(tr("always") if only_if == "" else _DIFFER)
        self.only_if.setModified(False)
        self._show_source()

    def _show_source(self) -> None:
        """The routes whose motion can be put on the chosen ones, and what there is of it."""
        project = self.workspace.project
        known = {route.id for route in project.routes}
        self.source_id = self.source_id if self.source_id in known else ""
        what = self.what.currentData()
        self.source.clear()
        self.source.addItem(tr("choose a route…"), "")
        for route in project.routes:
            self.source.addItem(route_title(project, route).replace(" > ", " → "), route.id)
        self.source.setCurrentIndex(max(0, self.source.findData(self.source_id)))
        self.what.clear()
        for words, key in _WHAT:
            self.what.addItem(words, key)
        source = next((route for route in project.routes if route.id == self.source_id), None)
        for cue in source.transition.cues if source is not None else ():
            self.what.addItem(tr("only {project}", project=cue_name(project, self.source_id, cue.key)), cue.key)
        self.what.setCurrentIndex(max(0, self.what.findData(what)))
        count = sum(ident != self.source_id for ident in self.ids)
        self.copy.setText(tr("Put on {n} routes", "Put on {n} route", count))
        self.copy.setEnabled(bool(self.source_id) and count > 0)

    def _pick_source(self, place: int) -> None:
        self.source_id = self.source.itemData(place)
        self._show_source()

    def _fill(self, pick: Pick, entries: list, value: object) -> None:  # type: ignore[type-arg]
        pick.clear()
        places = [entry for _, entry in entries]
        if value not in places:
            pick.addItem(_DIFFER if value is None else tr("own"), None)
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
            self.workspace.said.emit(tr("“{words}” is no duration: try 50 ms, 1.2x, 80% or +40.", words=text))
            self.show_routes(self.ids)
            return

        def edit(project: Project) -> Project:
            for route in self._routes():
                project = wiring.change_durations(project, [route.id], to=change(duration_of(route.transition)))
            return project

        if self._do(tr("change durations"), edit):
            self.show_routes(self.ids)

    def _set_curve(self, place: int) -> None:
        curve = self.curve.itemData(place)
        if curve is not None:
            self._do(tr("change curves"), lambda p: wiring.change_curves(p, self.ids, curve))

    def _set_trigger(self, place: int) -> None:
        entry = self.trigger.itemData(place)
        if entry is not None:
            self._do(tr("change triggers"), lambda p: wiring.change_triggers(p, self.ids, entry.make()))

    def _set_condition(self) -> None:
        if not self.only_if.isModified():
            return
        text = self.only_if.text()
        self.only_if.setModified(False)
        if not self._do(tr("change conditions"), lambda p: wiring.change_conditions(p, self.ids, text)):
            self.show_routes(self.ids)

    def _copy(self) -> None:
        source, what, ids = self.source_id, self.what.currentData(), self.ids

        def edit(project: Project) -> tuple[Project, tuple[int, int]]:
            if isinstance(what, tuple):
                made, placed, missed = put_routes.copy_cue(project, source, CueKey(*what), ids)
            else:
                made, placed, missed = _PUTS[what](project, source, ids)
            return made, (placed, missed)

        count = sum(ident != source for ident in ids)
        found = self.workspace.make(tr("put motion on {count} routes", count=count), edit)
        if found is not None:
            self.workspace.said.emit(copied_words(*found, what))

    def _go_back(self, place: int) -> None:
        self.back.setCurrentIndex(0)
        if place:
            self.back_wanted.emit(("same", "mirrored", "quicker")[place - 1])


_WHAT = (
    (tr("the whole motion"), "motion"),
    (tr("pair decisions"), "decisions"),
    (tr("ways to leave and enter"), "ways"),
)
_PUTS = {"motion": put_routes.copy_motion, "decisions": put_routes.copy_decisions, "ways": put_routes.copy_ways}
_OF = {"motion": tr("cues and ways"), "decisions": tr("decisions"), "ways": tr("single ways")}


def copied_words(placed: int, missed: int, what: object = "motion") -> str:
    """What became of the parts when motion was put on other routes."""
    words = _OF.get(what, "cues") if isinstance(what, str) else "cues"
    if not placed and not missed:
        return {
            "motion": tr("Duration and curve were copied; there were no cues."),
            "ways": tr("How all leave and enter was copied; no layer has a way of its own."),
        }.get(str(what), tr("The source has no {words}.", words=words))
    tail = tr(" {missed} found no layers for it.", missed=missed) if missed else ""
    return tr(
        "{placed} of {placed2} {words} found their place.{tail}",
        placed=placed,
        placed2=placed + missed,
        words=words,
        tail=tail,
    )
