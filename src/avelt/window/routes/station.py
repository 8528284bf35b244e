"""Routes: the matrix, and the card of the chosen route with its moving picture."""

from __future__ import annotations

from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from avelt.core.edits.routes import add_route, remove_route, set_base_curve, set_length, set_trigger
from avelt.core.model.find import frame_by_id, walk
from avelt.core.model.triggers import Tap, Timer, Trigger
from avelt.core.model.values import Named, Project, Route
from avelt.core.timing.schedule import end_of, length_of
from avelt.window.controls.clock import Clock
from avelt.window.controls.curve_pick import show_named
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import NumberField, button, label, panel, row, scrolled
from avelt.window.controls.painted import Pick
from avelt.window.controls.views import SceneView
from avelt.window.routes.matrix import Matrix
from avelt.window.shell.desk import Desk


class RoutesStation(QWidget):
    """The station."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.clock = Clock(self)
        self.matrix = Matrix(desk)
        self.card = self._make_card()
        self.empty = EmptyPlace(
            "There are no frames to go between yet. Bring in screens first.", "Go to Frames",
            lambda: desk.station_wanted.emit("frames"),
        )  # fmt: skip
        self.body = QWidget()
        inner = QHBoxLayout(self.body)
        inner.setContentsMargins(0, 12, 12, 12)
        inner.addWidget(scrolled(self.matrix), 1)
        inner.addWidget(self.card)
        lay_out(self, None, self.body, self.empty)
        self._connect()

    def _make_card(self) -> QWidget:
        card = panel()
        card.setFixedWidth(296)
        self.leaves_name, self.arrives_name = label("", "leaves"), label("", "arrives")
        self.arrow = label("→", "quiet")
        self.view = SceneView(self.desk)
        self.view.setMinimumHeight(180)
        self.trigger = Pick()
        self.trigger.addItems(["tap", "timer"])
        self.trigger.setToolTip("What starts the route")
        self.on = Pick()
        self.on.setToolTip("The layer to tap")
        self.wait = NumberField("ms", 50.0, 0.0, 3_600_000.0, 0)
        self.wait.setToolTip("How long it waits on the frame before it starts by itself")
        self.length = NumberField("ms", 10.0, 0.0, 3_600_000.0, 0)
        self.curve = Pick()
        self.names = {key: label(words, "quiet") for key, words in (
            ("trigger", "When"), ("on", "On"), ("wait", "Waits first"), ("length", "Length"), ("curve", "Base curve"),
        )}  # fmt: skip
        form = QGridLayout()
        form.setVerticalSpacing(8)
        form.setColumnStretch(1, 1)
        fields = {
            "trigger": self.trigger, "on": self.on, "wait": self.wait, "length": self.length, "curve": self.curve
        }  # fmt: skip
        for chooser in (self.trigger, self.on, self.curve):
            chooser.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
            chooser.setMinimumContentsLength(16)
        for k, (key, field) in enumerate(fields.items()):
            form.addWidget(self.names[key], k, 0)
            form.addWidget(field, k, 1)
        self.time = button("Open in Timing", "Tune this transition (double-click its cell)", "strong")
        self.remove = button("Remove", "Remove this route (Delete)")
        self.hint = label("Choose a route, or click an empty cell to make one.", "quiet")
        self.hint.setWordWrap(True)
        layout = QVBoxLayout(card)
        layout.setContentsMargins(14, 12, 14, 14)
        layout.setSpacing(10)
        layout.addLayout(row(self.leaves_name, self.arrow, self.arrives_name, None, spacing=6))
        layout.addWidget(self.hint)
        layout.addWidget(self.view, 1)
        layout.addLayout(form)
        layout.addLayout(row(self.time, self.remove, None))
        return card

    def _connect(self) -> None:
        desk = self.desk
        desk.changed.connect(lambda _: self.refresh() if self.isVisible() else None)
        desk.routed.connect(lambda: self.refresh() if self.isVisible() else None)
        desk.theme.changed.connect(lambda: self.refresh() if self.isVisible() else None)
        self.matrix.wanted.connect(self.make)
        self.matrix.picked.connect(desk.choose_route)
        self.matrix.opened.connect(desk.station_wanted)
        self.matrix.removed.connect(self._remove)
        self.clock.ticked.connect(self._ticked)
        self.trigger.activated.connect(self._set_trigger)
        self.on.activated.connect(self._set_trigger)
        self.wait.committed.connect(self._set_trigger)
        self.length.committed.connect(self._set_length)
        for field in (self.wait, self.length):
            field.refused.connect(desk.said)
        self.curve.activated.connect(self._set_curve)
        self.time.clicked.connect(lambda: desk.station_wanted.emit("timing"))
        self.remove.clicked.connect(lambda: self._remove(desk.route.id) if desk.route else None)

    def enter(self) -> None:
        """The station comes to the front: the chosen transition plays in its card."""
        self.refresh()
        if self.desk.route is not None:
            self.clock.play()

    def leave(self) -> None:
        """Another station comes to the front."""
        self.clock.stop()

    def refresh(self) -> None:
        """Take everything over from the project."""
        some = len(self.desk.project.frames) > 1
        self.body.setVisible(some)
        self.empty.setVisible(not some)
        self.matrix.refresh()
        route = self.desk.route
        names = (self.leaves_name, self.arrow, self.arrives_name, *self.names.values())
        for widget in (*names, self.view, self.trigger, self.length, self.curve, self.time, self.remove):
            widget.setVisible(route is not None)
        self.hint.setVisible(route is None)
        is_tap = route is not None and isinstance(route.trigger, Tap)
        for key, field, shown in (("on", self.on, is_tap), ("wait", self.wait, route is not None and not is_tap)):
            self.names[key].setVisible(shown)
            field.setVisible(shown)
        if route is not None:
            self._show(route)

    def _show(self, route: Route) -> None:
        project = self.desk.project
        left, right = frame_by_id(project, route.leaves), frame_by_id(project, route.arrives)
        self.leaves_name.setText(left.name)
        self.arrives_name.setText(right.name)
        self.trigger.setCurrentIndex(0 if isinstance(route.trigger, Tap) else 1)
        self.on.clear()
        self.on.addItem("anywhere", "")
        for layer in walk(left.layers):
            self.on.addItem(layer.name, layer.id)
        if isinstance(route.trigger, Tap):
            self.on.setCurrentIndex(max(0, self.on.findData(route.trigger.layer)))
        elif isinstance(route.trigger, Timer):
            self.wait.show_value(route.trigger.wait)
        self.length.show_value(length_of(route.transition))
        show_named(self.curve, project, route.transition.curve)
        self.clock.set_length(end_of(route.transition))
        self._ticked(self.clock.ms)

    def _ticked(self, ms: float) -> None:
        route = self.desk.route
        if route is not None:
            self.view.show_scene(self.desk.program(route).at(ms))

    # Doing

    def make(self, leaves: str, arrives: str) -> None:
        """A new route between two frames: tap on the chosen layer if it is in the frame left, else anywhere."""
        project = self.desk.project
        layer = self.desk.layer
        on = layer.id if layer is not None and self.desk.frame is not None and self.desk.frame.id == leaves else ""
        left, right = frame_by_id(project, leaves), frame_by_id(project, arrives)
        made: list[str] = []

        def edit(p: Project) -> Project:
            new, ident = add_route(p, leaves, arrives, Tap(on))
            made.append(ident)
            return new

        if self.desk.do(f"route {left.name} to {right.name}", edit):
            self.desk.choose_route(made[-1])
            self.clock.seek(0.0)
            self.clock.play()

    def _remove(self, route_id: str) -> None:
        self.desk.do("remove route", lambda p: remove_route(p, route_id))

    def _set_trigger(self) -> None:
        route = self.desk.route
        if route is None:
            return
        trigger: Trigger
        if self.trigger.currentIndex() == 0:
            trigger = Tap(self.on.currentData() or "" if isinstance(route.trigger, Tap) else "")
        else:
            trigger = Timer(self.wait.value if isinstance(route.trigger, Timer) else 2000.0)
        self.desk.do("change trigger", lambda p: set_trigger(p, route.id, trigger))

    def _set_length(self, value: float) -> None:
        route = self.desk.route
        if route is not None:
            self.desk.do("change length", lambda p: set_length(p, route.id, value))

    def _set_curve(self, place: int) -> None:
        route, ident = self.desk.route, self.curve.itemData(place)
        if route is not None and ident is not None:
            self.desk.do("change base curve", lambda p: set_base_curve(p, route.id, Named(ident)))
