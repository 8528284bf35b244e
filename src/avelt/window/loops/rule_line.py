"""One rule of a phase, to be chosen and typed: when, which phase then, how."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PySide6.QtWidgets import QHBoxLayout, QWidget

from avelt.core.checks.phase_words import event_words
from avelt.core.model.find import find_frame, walk
from avelt.core.model.phases import Phase, Rule, Track, poses_of
from avelt.core.model.triggers import Signal as SignalSent
from avelt.core.model.triggers import Tap, Timer, Trigger
from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.window.controls.expression_edit import ExpressionEdit
from avelt.window.controls.fields import NumberField, button, label
from avelt.window.controls.painted import Pick, Tick

Change = Callable[[Callable[[Rule], Rule]], None]


class RuleLine(QWidget):
    """``change`` is told how the rule shall be, ``remove`` that it shall go."""

    def __init__(self, change: Change, remove: Callable[[], None], refused: Callable[[str], None]) -> None:
        super().__init__()
        self.change = change
        self.event_pick = Pick()
        self.event_pick.setToolTip(tr("What it waits for; nothing: it is read whenever an input changes"))
        self.event_pick.setFixedWidth(150)
        self.after = NumberField("ms", 50.0, 0.0, 3_600_000.0, 0)
        self.condition = ExpressionEdit()
        self.condition.setPlaceholderText(tr("always"))
        self.condition.setToolTip(tr("Only while this holds, such as: pull >= 0.7 and held"))
        self.to = Pick()
        self.to.setFixedWidth(120)
        self.to.setToolTip(tr("The phase that follows"))
        self.finish = Tick(tr("finish the round"))
        self.over = NumberField("ms", 20.0, 0.0, 3_600_000.0, 0)
        self.over.setToolTip(tr("How long a transition leads into the phase that follows; 0 is at once"))
        self.gone = button("×", tr("Remove this rule"))
        self.gone.setFixedWidth(28)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(7)
        parts = (label(tr("when"), "quiet"), self.event_pick, self.after, self.condition, label("→", "quiet"), self.to)
        for widget in (*parts, self.finish, label(tr("in"), "quiet"), self.over, self.gone):
            layout.addWidget(widget)
        layout.setStretchFactor(self.condition, 1)
        for widget, name in (
            (self.event_pick, tr("Event")),
            (self.condition, tr("Condition")),
            (self.to, tr("Phase that follows")),
            (self.over, tr("Transition into it")),
        ):
            widget.setAccessibleName(name)
        self.event_pick.activated.connect(self._set_event)
        self.after.committed.connect(lambda ms: change(lambda old: replace(old, on=Timer(ms))))
        self.condition.meant.connect(lambda text: change(lambda old: replace(old, only_if=text)))
        self.to.activated.connect(lambda k: change(lambda old: replace(old, to=self.to.itemData(k))))
        self.finish.clicked.connect(lambda on: change(lambda old: replace(old, finish_round=bool(on))))
        self.over.committed.connect(lambda ms: change(lambda old: replace(old, duration=ms)))
        self.gone.clicked.connect(remove)
        for field in (self.after, self.condition, self.over):
            field.refused.connect(refused)

    def show_rule(self, project: Project, track: Track, phase: Phase, rule: Rule) -> None:
        """Take over a rule as it is now."""
        events: list[tuple[str, Trigger | None]] = [("—", None)]
        events += [(tr("{e} is sent", e=e.name), SignalSent(e.id)) for e in project.inputs if e.kind == "signal"]
        pose = find_frame(project, poses_of(phase.shows)[-1])
        events += [(tr("tap on {layer}", layer=layer.name), Tap(layer.id)) for layer in walk(pose.layers)]
        events += [
            (tr("tap anywhere"), Tap()),
            (tr("after …"), rule.on if isinstance(rule.on, Timer) else Timer(1000.0)),
        ]
        if rule.on is not None and rule.on not in [on for _, on in events]:
            events.append((event_words(project, rule), rule.on))
        self._events = [on for _, on in events]
        self.event_pick.clear()
        self.event_pick.addItems([words for words, _ in events])
        self.event_pick.setCurrentIndex(self._events.index(rule.on))
        self.after.setVisible(isinstance(rule.on, Timer))
        if isinstance(rule.on, Timer):
            self.after.show_value(rule.on.after)
        names = [entry.name for entry in project.inputs if entry.kind != "signal"]
        self.condition.show_text(rule.only_if, names)
        self.to.clear()
        for entry in track.phases:
            self.to.addItem(entry.name, entry.id)
        self.to.setCurrentIndex(self.to.findData(rule.to))
        self.finish.setChecked(rule.finish_round)
        self.over.show_value(rule.duration)

    def _set_event(self, place: int) -> None:
        on = self._events[place]
        self.change(lambda old: replace(old, on=on))
