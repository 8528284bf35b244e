"""The chosen phase, made in its row by choosing and typing: what it shows, how long it lasts, what comes then."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLineEdit, QMenu, QVBoxLayout, QWidget

from avelt.core.checks.phase_words import deed_words
from avelt.core.model.curves import Line, Named
from avelt.core.model.motion import Transition
from avelt.core.model.phases import (
    Deed,
    ForMs,
    Lasts,
    Once,
    Phase,
    Rounds,
    Rule,
    ShowBlend,
    ShowLoops,
    ShowMotion,
    ShowPose,
    Shows,
    Track,
    Until,
    kind_of,
    poses_of,
)
from avelt.core.model.triggers import InputValue, SendSignal, SetInput
from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.window.common.menus import open_under
from avelt.window.controls.curve_pick import show_named
from avelt.window.controls.expression_edit import ExpressionEdit
from avelt.window.controls.fields import NumberField, button, label, row
from avelt.window.controls.input_field import input_field
from avelt.window.controls.painted import Pick
from avelt.window.loops.rule_line import RuleLine

KINDS = ("pose", "loops", "motion", "blend")
_KIND_WORDS = (tr("a pose"), tr("loops of"), tr("a motion"), tr("a blend"))
_LASTS: tuple[type[Lasts], ...] = (Until, Once, ForMs, Rounds)
_LASTS_WORDS = (tr("until a rule holds"), tr("once"), tr("some time"), tr("some rounds"))


class PhaseEditor(QWidget):
    """``wanted`` comes with what an entry of undo says, and how the phase shall be changed."""

    wanted = Signal(str, object)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.rules: list[RuleLine] = []
        self._shape: tuple[object, ...] = ()
        self._make()
        self._connect()

    def _make(self) -> None:
        self.name = QLineEdit()
        self.name.setAccessibleName(tr("Name"))
        self.name.setFixedWidth(130)
        self.kind, self.first, self.last = Pick(), Pick(), Pick()
        self.kind.addItems(_KIND_WORDS)
        self.arrow = label("→", "quiet")
        self.duration = NumberField("ms", 20.0, 0.0, 3_600_000.0, 0)
        self.curve = Pick()
        self.by = ExpressionEdit(is_condition=False)
        self.by.setToolTip(tr("How far: 0 is the first pose, 1 the other, such as: pull / 120"))
        self.by_label, self.lag_label = label(tr("by"), "quiet"), label(tr("lag"), "quiet")
        self.lag = NumberField("ms", 10.0, 0.0, 60_000.0, 0)
        self.lasts = Pick()
        self.lasts.addItems(_LASTS_WORDS)
        self.amount = NumberField("ms", 50.0, 0.0, 3_600_000.0, 0)
        self.sheet = button(tr("Open in Timing"), tr("What moves in this phase, as a cue sheet"))
        self.add_rule = button(tr("Add a rule"), tr("What may come then"))
        self.add_deed = button(tr("Set or send…"), tr("What is set or sent when the phase begins or ends"))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(44, 2, 14, 12)
        layout.setSpacing(8)
        layout.addLayout(
            row(
                label(tr("Name"), "quiet"),
                self.name,
                label(tr("Shows"), "quiet"),
                self.kind,
                self.first,
                self.arrow,
                self.last,
                self.duration,
                self.curve,
                self.by_label,
                self.by,
                self.lag_label,
                self.lag,
                None,
            )
        )
        layout.addLayout(
            row(label(tr("Lasts"), "quiet"), self.lasts, self.amount, None, self.sheet, self.add_deed, self.add_rule)
        )
        self.rule_place, self.deed_place = QVBoxLayout(), QVBoxLayout()
        for place in (self.rule_place, self.deed_place):
            place.setSpacing(6)
            layout.addLayout(place)
        named = (
            (self.name, tr("Name of the phase")),
            (self.kind, tr("What it shows")),
            (self.first, tr("First pose")),
            (self.last, tr("Last pose")),
            (self.by, tr("How far")),
            (self.lasts, tr("How long it lasts")),
        )
        for widget, words in named:
            widget.setAccessibleName(words)

    def _connect(self) -> None:
        self.name.editingFinished.connect(self._rename)
        self.kind.activated.connect(lambda _: self._shows())
        self.first.activated.connect(lambda _: self._shows())
        self.last.activated.connect(lambda _: self._shows())
        self.duration.committed.connect(lambda _: self._shows())
        self.lag.committed.connect(lambda _: self._shows())
        self.curve.activated.connect(lambda _: self._shows())
        self.by.meant.connect(lambda _: self._shows())
        self.lasts.activated.connect(lambda _: self._set_lasts())
        self.amount.committed.connect(lambda _: self._set_lasts())
        self.add_rule.clicked.connect(self._new_rule)
        self.add_deed.clicked.connect(self._deed_menu)
        for field in (self.duration, self.lag, self.amount, self.by):
            field.refused.connect(self.refused)

    # Showing

    def show_phase(self, project: Project, track: Track, phase: Phase) -> None:
        """Take over a phase as it is now."""
        self.project, self.track, self.phase = project, track, phase
        if not (self.name.hasFocus() and self.name.isModified()):
            self.name.setText(phase.name)
        shown, kind = poses_of(phase.shows), kind_of(phase.shows)
        self.kind.setCurrentIndex(KINDS.index(kind))
        for pick, pose in ((self.first, shown[0]), (self.last, shown[-1])):
            pick.clear()
            for frame in project.frames:
                pick.addItem(frame.name, frame.id)
            pick.setCurrentIndex(pick.findData(pose))
        two = isinstance(phase.shows, ShowMotion | ShowBlend)
        between: tuple[QWidget, ...] = (self.arrow, self.last, self.sheet)
        of_motion: tuple[QWidget, ...] = (self.duration, self.curve)
        of_blend: tuple[QWidget, ...] = (self.by, self.by_label, self.lag, self.lag_label)
        for widgets, seen in ((between, two), (of_motion, kind == "motion"), (of_blend, kind == "blend")):
            for widget in widgets:
                widget.setVisible(seen)
        if isinstance(phase.shows, ShowMotion):
            self.duration.show_value(phase.shows.transition.duration or 0.0)
            show_named(self.curve, project, phase.shows.transition.curve)
        if isinstance(phase.shows, ShowBlend):
            self.by.show_text(phase.shows.by, [e.name for e in project.inputs if e.kind != "signal"])
            self.lag.show_value(phase.shows.lag)
        self.lasts.setCurrentIndex(_LASTS.index(type(phase.lasts)))
        self.amount.setVisible(isinstance(phase.lasts, ForMs | Rounds))
        self.amount.unit = "ms" if isinstance(phase.lasts, ForMs) else ""
        if isinstance(phase.lasts, ForMs | Rounds):
            self.amount.show_value(phase.lasts.ms if isinstance(phase.lasts, ForMs) else float(phase.lasts.count))
        self._show_rules()
        self._show_deeds()

    def _show_rules(self) -> None:
        while len(self.rules) > len(self.phase.then):
            gone = self.rules.pop()
            self.rule_place.removeWidget(gone)
            gone.hide()
            gone.deleteLater()
        while len(self.rules) < len(self.phase.then):
            place = len(self.rules)
            made = RuleLine(
                lambda change, k=place: self._change_rule(k, change),  # type: ignore[misc]
                lambda k=place: self._remove_rule(k),  # type: ignore[misc]
                self.refused.emit,
            )
            self.rules.append(made)
            self.rule_place.addWidget(made)
        for line, rule in zip(self.rules, self.phase.then, strict=True):
            line.show_rule(self.project, self.track, self.phase, rule)

    def _show_deeds(self) -> None:
        shape = (self.phase.entering, self.phase.leaving, self.project.inputs)
        if shape == self._shape:
            return
        self._shape = shape
        while self.deed_place.count():
            item = self.deed_place.takeAt(0)
            gone = item.widget() if item is not None else None
            if gone is not None:
                gone.hide()
                gone.deleteLater()
        for when in ("entering", "leaving"):
            for number, deed in enumerate(getattr(self.phase, when)):
                self.deed_place.addWidget(self._deed_line(when, number, deed))

    def _deed_line(self, when: str, number: int, deed: Deed) -> QWidget:
        line = QWidget()
        gone = button("×", tr("Take this away"))
        gone.setFixedWidth(28)
        gone.clicked.connect(lambda: self._set_deed(when, number, None))
        entry = next((e for e in self.project.inputs if e.id == deed.input), None)
        words = label(tr("on {when}:", when=when), "quiet")
        if isinstance(deed, SetInput) and entry is not None:
            ident = deed.input

            def put(value: InputValue) -> None:
                self._set_deed(when, number, SetInput(ident, value))

            field, show = input_field(entry.kind, put)
            show(deed.value)
            field.setAccessibleName(tr("Value of {entry}", entry=entry.name))
            made = row(words, label(tr("{entry} becomes", entry=entry.name)), field, gone, None)
        else:
            made = row(words, label(deed_words(self.project, deed)), gone, None)
        made.setContentsMargins(0, 0, 0, 0)
        line.setLayout(made)
        return line

    # Doing

    def _ask(self, says: str, change: Callable[[Phase], Phase]) -> None:
        self.wanted.emit(says, change)

    def _rename(self) -> None:
        name = self.name.text().strip()
        self.name.setModified(False)
        if name and name != self.phase.name:
            self._ask(tr("name of a phase"), lambda old: replace(old, name=name))

    def _shows(self) -> None:
        old, kind = self.phase.shows, KINDS[self.kind.currentIndex()]
        first, last = self.first.currentData(), self.last.currentData()
        made: Shows
        if kind == "pose":
            made = ShowPose(first)
        elif kind == "loops":
            made = ShowLoops(first)
        else:
            if first == last and kind != kind_of(old):  # a motion goes somewhere
                last = next((frame.id for frame in self.project.frames if frame.id != first), last)
            if kind == "motion":
                transition = old.transition if isinstance(old, ShowMotion) else Transition()
                if isinstance(old, ShowMotion):
                    named = self.curve.currentData()
                    curve = Named(named) if named is not None else transition.curve
                    transition = replace(transition, duration=self.duration.value, curve=curve)
                made = ShowMotion(first, last, transition)
            elif isinstance(old, ShowBlend):
                made = replace(old, leaves=first, arrives=last, by=self.by.text().strip() or old.by, lag=self.lag.value)
            else:
                numbers = [entry.name for entry in self.project.inputs if entry.kind == "number"]
                made = ShowBlend(first, last, numbers[0] if numbers else "0", 0.0, Transition(1000.0, Line()))
        lasts = Once() if kind == "motion" and kind_of(old) != "motion" else self.phase.lasts
        self._ask(tr("what a phase shows"), lambda phase: replace(phase, shows=made, lasts=lasts))

    def _set_lasts(self) -> None:
        kind = _LASTS[self.lasts.currentIndex()]
        same = kind is type(self.phase.lasts)
        if kind is ForMs:
            made: Lasts = ForMs(self.amount.value if same else 1000.0)
        elif kind is Rounds:
            made = Rounds(max(1, round(self.amount.value)) if same else 2)
        else:
            made = kind()  # type: ignore[call-arg]
        self._ask(tr("how long a phase lasts"), lambda old: replace(old, lasts=made))

    def _new_rule(self) -> None:
        others = [entry.id for entry in self.track.phases if entry.id != self.phase.id]
        to = others[0] if others else self.phase.id
        place = [entry.id for entry in self.track.phases].index(self.phase.id)
        if place + 1 < len(self.track.phases):
            to = self.track.phases[place + 1].id
        self._ask(tr("new rule"), lambda old: replace(old, then=(*old.then, Rule(to))))

    def _change_rule(self, number: int, change: Callable[[Rule], Rule]) -> None:
        self._ask(
            tr("rule of a phase"),
            lambda old: replace(old, then=tuple(change(r) if k == number else r for k, r in enumerate(old.then))),
        )

    def _remove_rule(self, number: int) -> None:
        self._ask(
            tr("remove a rule"), lambda old: replace(old, then=tuple(r for k, r in enumerate(old.then) if k != number))
        )

    def _deed_menu(self) -> None:
        menu = QMenu(self)
        for when in ("entering", "leaving"):
            inner = menu.addMenu(tr("On {when}", when=when))
            for entry in self.project.inputs:
                if entry.kind == "signal":
                    deed: Deed = SendSignal(entry.id)
                else:
                    deed = SetInput(entry.id, True if entry.kind == "yes/no" else entry.start)
                words = (
                    deed_words(self.project, deed) if entry.kind == "signal" else tr("set {entry}", entry=entry.name)
                )
                action = inner.addAction(words)
                action.triggered.connect(lambda _=False, w=when, d=deed: self._add_deed(w, d))
            inner.setEnabled(bool(self.project.inputs))
        if not self.project.inputs:
            menu.addAction(tr("There is no input yet.")).setEnabled(False)
        open_under(menu, self.add_deed)

    def _add_deed(self, when: str, deed: Deed) -> None:
        self._ask(tr("set or send"), lambda old: replace(old, **{when: (*getattr(old, when), deed)}))

    def _set_deed(self, when: str, number: int, deed: Deed | None) -> None:
        def change(old: Phase) -> Phase:
            deeds = [deed if k == number else entry for k, entry in enumerate(getattr(old, when))]
            return replace(old, **{when: tuple(entry for entry in deeds if entry is not None)})

        self._ask(tr("set or send"), change)
