"""The card of one route: its moving picture, when it starts, what happens, and how long it takes."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QLineEdit, QSizePolicy, QVBoxLayout, QWidget

from avelt.core.checks.routes import of_route
from avelt.core.edits.routes import (
    set_action,
    set_base_curve,
    set_condition,
    set_delay,
    set_duration,
    set_on_arrival,
    set_scroll_on_arrival,
    set_trigger,
)
from avelt.core.model.curves import Named
from avelt.core.model.find import frame_by_id
from avelt.core.model.limits import MAX_MS
from avelt.core.model.triggers import ACTIONS, STAYS, TRIGGERS, action_row, as_kind, trigger_row
from avelt.core.model.values import Route
from avelt.core.timing.schedule import duration_of
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.curve_pick import show_named
from avelt.window.controls.fields import NumberField, button, label, row, scrolled
from avelt.window.controls.lines import Lines
from avelt.window.controls.painted import Pick
from avelt.window.routes.form import TableForm

_PARTS = ("continue", "restart")
_SCROLLS = ("keep", "reset")
_LEAST = 80  # px of a field


class RouteCard(QWidget):
    """Everything about the chosen route. Edits go through the workspace."""

    back_wanted = Signal(str)  # a return trip: same, mirrored, quicker
    input_wanted = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.route_id = ""
        self._make()
        self._connect()

    def _make(self) -> None:
        self.trouble = label("", "trouble")
        self.trouble.setWordWrap(True)
        inside = QWidget()
        holder = QVBoxLayout(inside)
        holder.setContentsMargins(0, 0, 8, 0)
        holder.addWidget(self.trouble)
        holder.addLayout(self._grid(self._fields()))
        holder.addStretch(1)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(8)
        whole.addWidget(scrolled(inside), 1)
        self._make_deeds(whole)

    def _fields(self) -> dict[str, QWidget]:
        """The fields, by what they set."""
        self.trigger, self.action, self.curve, self.parts, self.scrolls = Pick(), Pick(), Pick(), Pick(), Pick()
        for entry in TRIGGERS:
            self.trigger.addItem(tr(entry.word))
            self.trigger.setItemData(self.trigger.count() - 1, entry.says, Qt.ItemDataRole.ToolTipRole)
        self.parts.addItems([tr(words) for words in _PARTS])
        self.parts.setToolTip(tr("Whether loops and parts of the frame arrived at continue or restart"))
        self.scrolls.addItems([tr("stays where it is"), tr("begins at the top")])
        self.scrolls.setToolTip(tr("Whether the frame arrived at stays scrolled, where it can be"))
        self.trigger_form, self.action_form = TableForm(), TableForm()
        self.wait = NumberField("ms", 10.0, 0.0, MAX_MS, 0)
        self.wait.setToolTip(tr("What passes between the trigger and the motion, apart from its duration"))
        self.length = NumberField("ms", 10.0, 0.0, MAX_MS, 0)
        self.only_if = QLineEdit()
        self.only_if.setPlaceholderText(tr("always"))
        self.only_if.setToolTip(tr("A condition on inputs, such as: boarded and minutes-late >= 15"))
        return {
            "trigger": self.trigger,
            "action": self.action,
            "wait": self.wait,
            "length": self.length,
            "curve": self.curve,
            "only_if": self.only_if,
            "parts": self.parts,
            "scroll": self.scrolls,
        }

    def _grid(self, fields: dict[str, QWidget]) -> QGridLayout:
        """The fields with their names; what a trigger and an action ask for stands below them."""
        words = {
            "trigger": tr("When"),
            "action": tr("Then"),
            "wait": tr("Delay"),
            "length": tr("Duration"),
            "curve": tr("Base curve"),
            "only_if": tr("Only if"),
            "parts": tr("Parts there"),
            "scroll": tr("Scrolled there"),
        }
        self.names = {key: label(word, "quiet") for key, word in words.items()}
        below: dict[str, QWidget] = {"trigger": self.trigger_form, "action": self.action_form}
        grid = QGridLayout()
        grid.setVerticalSpacing(6)
        grid.setHorizontalSpacing(10)
        grid.setColumnStretch(1, 1)
        grid.setColumnMinimumWidth(0, 92)
        place = 0
        for key, field in fields.items():
            field.setMinimumWidth(_LEAST)  # the longest entry of a list is no reason to scroll sideways
            field.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            field.setMaximumWidth(16_777_215)
            field.setAccessibleName(self.names[key].text())
            grid.addWidget(self.names[key], place, 0)
            grid.addWidget(field, place, 1)
            if key in below:
                place += 1
                grid.addWidget(below[key], place, 0, 1, 2)
            place += 1
        return grid

    def _make_deeds(self, whole: QVBoxLayout) -> None:
        self.time = button(tr("Open in Timing"), tr("Tune this transition (double-click its cell)"), "strong")
        self.pair = button(tr("Pairs"), tr("What moves into what here"))
        self.back = Pick()
        self.back.addItems(
            [tr("Return trip…"), tr("with the same curves"), tr("with mirrored curves"), tr("quicker, as one leaves")]
        )
        self.back.setToolTip(tr("Make the way back with mirrored cues (R: mirrored curves)"))
        self.remove = button(tr("Remove"), tr("Remove this route (Delete)"))
        doing = Lines()
        for made in (self.time, self.pair, self.remove):
            doing.addWidget(made)
        whole.addLayout(doing)
        whole.addLayout(row(self.back))

    def _connect(self) -> None:
        self.trigger.activated.connect(self._set_kind)
        self.action.activated.connect(self._set_action_kind)
        self.trigger_form.changed.connect(
            lambda v: self._do(tr("change trigger"), lambda p: set_trigger(p, self.route_id, v))
        )
        self.action_form.changed.connect(
            lambda v: self._do(tr("change what happens"), lambda p: set_action(p, self.route_id, v))
        )
        for form in (self.trigger_form, self.action_form):
            form.refused.connect(self.workspace.said)
            form.input_wanted.connect(self.input_wanted)
        self.wait.committed.connect(lambda v: self._do(tr("change delay"), lambda p: set_delay(p, self.route_id, v)))
        self.length.committed.connect(
            lambda v: self._do(tr("change duration"), lambda p: set_duration(p, self.route_id, v))
        )
        for field in (self.wait, self.length):
            field.refused.connect(self.workspace.said)
        self.curve.activated.connect(self._set_curve)
        self.parts.activated.connect(
            lambda k: self._do(tr("change parts"), lambda p: set_on_arrival(p, self.route_id, _PARTS[k]))  # type: ignore[arg-type]
        )
        self.scrolls.activated.connect(
            lambda k: self._do(tr("change scrolling"), lambda p: set_scroll_on_arrival(p, self.route_id, _SCROLLS[k]))  # type: ignore[arg-type]
        )
        self.only_if.editingFinished.connect(self._set_condition)
        self.time.clicked.connect(lambda: self.workspace.motion_wanted.emit(self.route_id))
        self.pair.clicked.connect(lambda: self.workspace.station_wanted.emit("pairs"))
        self.back.activated.connect(self._go_back)

    def _do(self, words: str, edit) -> bool:  # type: ignore[no-untyped-def]
        return bool(self.route_id) and self.workspace.do(words, edit)

    def show_route(self, route: Route) -> None:
        """Take over a route."""
        project = self.workspace.project
        self.route_id = route.id
        stays = route.leaves == route.arrives
        found = of_route(project, route.id)
        says = list(dict.fromkeys(t.says + (" Choose another below." if t.mend else "") for t in found))
        more = [tr("And {count} more.", count=len(says) - 3)] if len(says) > 3 else []
        self.trouble.setText("\n".join(says[:3] + more))
        self.trouble.setVisible(bool(found))
        kind = trigger_row(route.trigger)
        self.trigger.setCurrentIndex(TRIGGERS.index(kind))
        self.trigger.setToolTip(kind.says)
        self.trigger_form.show_value(project, route, kind, route.trigger)
        does = action_row(route.action)
        self.action.clear()
        for entry in ACTIONS:
            if not stays or entry.make in STAYS:
                self.action.addItem(tr(entry.word), entry)
        self.action.setCurrentIndex(self.action.findData(does))
        self.action.setToolTip(does.says)
        self.action_form.show_value(project, route, does, route.action)
        self.wait.show_value(route.delay)
        self.length.show_value(duration_of(route.transition))
        show_named(self.curve, project, route.transition.curve)
        if not (self.only_if.hasFocus() and self.only_if.isModified()):
            self.only_if.setText(route.only_if)
            self.only_if.setCursorPosition(0)
        self.parts.setCurrentIndex(_PARTS.index(route.on_arrival))
        self.scrolls.setCurrentIndex(_SCROLLS.index(route.scroll))
        there = frame_by_id(project, route.arrives)
        for widget in (self.names["scroll"], self.scrolls):
            widget.setVisible(bool(there.scroll) and not stays)
        for key in ("length", "curve", "parts"):
            self.names[key].setVisible(not stays)
        for field in (self.length, self.curve, self.parts, self.time, self.pair, self.back):
            field.setVisible(not stays)

    def _route(self) -> Route:
        return next(route for route in self.workspace.project.routes if route.id == self.route_id)

    def _set_kind(self, place: int) -> None:
        trigger = as_kind(self._route().trigger, TRIGGERS[place])
        self._do(tr("change trigger"), lambda p: set_trigger(p, self.route_id, trigger))

    def _set_action_kind(self, place: int) -> None:
        made = self.action.itemData(place).make()
        self._do(tr("change what happens"), lambda p: set_action(p, self.route_id, made))

    def _set_curve(self, place: int) -> None:
        ident = self.curve.itemData(place)
        if ident is not None:
            self._do(tr("change base curve"), lambda p: set_base_curve(p, self.route_id, Named(ident)))

    def _set_condition(self) -> None:
        if not self.only_if.isModified():
            return
        text = self.only_if.text()
        self.only_if.setModified(False)
        if not self._do(tr("change condition"), lambda p: set_condition(p, self.route_id, text)):
            self.only_if.setText(self._route().only_if)

    def _go_back(self, place: int) -> None:
        self.back.setCurrentIndex(0)
        if place:
            self.back_wanted.emit(("same", "mirrored", "quicker")[place - 1])
