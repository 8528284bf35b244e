"""Routes: the matrix, and the card of what is chosen in it, with its moving picture."""

from __future__ import annotations

from PySide6.QtCore import QPoint
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QMenu, QStackedWidget, QVBoxLayout, QWidget

from avelt.core.checks.routes import in_words, troubles
from avelt.core.edits.frames import set_first
from avelt.core.edits.put_routes import copy_motion
from avelt.core.edits.routes import add_route
from avelt.core.edits.wiring import BackCurve, move_frames, remove_routes, return_trip
from avelt.core.model.find import frame_by_id, layer_index, route_by_id, route_title
from avelt.core.model.triggers import STAYS, TRIGGERS, SetInput, Tap
from avelt.core.model.values import Project, Route
from avelt.core.timing.schedule import end_of
from avelt.core.words import tr
from avelt.window.common.menus import open_at
from avelt.window.common.station_keys import press
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import bar, button, label, panel, row
from avelt.window.controls.painted import Pick, Tick
from avelt.window.controls.views import SceneView
from avelt.window.routes.card import RouteCard
from avelt.window.routes.cells import Filter, of_column, of_row, of_trigger
from avelt.window.routes.dialogs import EveryDialog, InputsDialog
from avelt.window.routes.keys import KEYS
from avelt.window.routes.many import ManyCard, copied_words
from avelt.window.routes.matrix import Matrix

_RETURN = {"same": tr("the same curves"), "mirrored": tr("mirrored curves"), "quicker": tr("quicker")}
_PICTURE, _SMALL = 232, 120  # px high, for one route and for many


class RoutesStation(QWidget):
    """The station."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.clock = Clock(self)
        self._looked = ""
        self.matrix = Matrix(workspace)
        self.strip = self._make_strip()
        self.card = self._make_card()
        self.empty = EmptyPlace(
            tr("There are no frames to go between yet. Import screens first."),
            tr("Go to Frames"),
            lambda: workspace.station_wanted.emit("frames"),
        )
        self.body = QWidget()
        inner = QHBoxLayout(self.body)
        inner.setContentsMargins(0, 0, 12, 12)
        inner.addWidget(self.matrix, 1)
        side = QVBoxLayout()
        side.setContentsMargins(0, 12, 0, 0)
        side.addWidget(self.card)
        inner.addLayout(side)
        lay_out(self, self.strip, self.body, self.empty)
        self._connect()

    def _make_strip(self) -> QWidget:
        strip, layout = bar()
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Find frames"))
        self.search.setClearButtonEnabled(True)
        self.search.setFixedWidth(150)
        self.only = Pick()
        self.only.addItem(tr("all triggers"), "")
        for entry in TRIGGERS:
            self.only.addItem(tr(entry.word), entry.word)
        self.only.setToolTip(tr("Show the routes on one kind of trigger only"))
        self.only_trouble = Tick(tr("with trouble"))
        self.summary = label("", "quiet")
        self.every = button(
            tr("Every one to every one…"), tr("Routes from each of some frames to each other, in one step (E)")
        )
        self.inputs = button(tr("Inputs…"), tr("What triggers and conditions read (I)"))
        self.smaller = button("−", tr("Smaller cells (-)"))
        self.fit = button(tr("Fit"), tr("Fit the cells to the window (0)"))
        self.larger = button("+", tr("Larger cells (+)"))
        for widget in (self.search, self.only, self.only_trouble, self.summary):
            layout.addWidget(widget)
        layout.addStretch(1)
        for made in (self.every, self.inputs, self.smaller, self.fit, self.larger):
            layout.addWidget(made)
        return strip

    def _make_card(self) -> QWidget:
        card = panel()
        card.setFixedWidth(308)
        self.leaves_name, self.arrives_name = label("", "leaves"), label("", "arrives")
        self.arrow = label("→", "quiet")
        self.view = SceneView(self.workspace)
        self.view.setMinimumHeight(_SMALL)
        self.view.setMaximumHeight(_PICTURE)
        self.one, self.many = RouteCard(self.workspace), ManyCard(self.workspace)
        self.stack = QStackedWidget()
        self.hint = label(
            tr(
                "Choose a route, or make one: click an empty cell, or drag from a layer in a row's picture to a column."
            ),
            "quiet",
        )
        self.hint.setWordWrap(True)
        holder = QWidget()
        inside = QVBoxLayout(holder)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(self.hint)
        inside.addStretch(1)
        for page in (self.one, self.many, holder):
            self.stack.addWidget(page)
        layout = QVBoxLayout(card)
        layout.setContentsMargins(14, 12, 14, 12)
        layout.setSpacing(8)
        layout.addLayout(row(self.leaves_name, self.arrow, self.arrives_name, None, spacing=6))
        layout.addWidget(self.view, 2)
        layout.addWidget(self.stack, 3)
        return card

    def _connect(self) -> None:
        workspace, matrix = self.workspace, self.matrix
        workspace.changed.connect(lambda _: self.refresh() if self.isVisible() else None)
        workspace.routed.connect(lambda: self.refresh() if self.isVisible() else None)
        workspace.theme.changed.connect(lambda: self.refresh() if self.isVisible() else None)
        matrix.wanted.connect(self.make)
        matrix.chose.connect(self._choose)
        matrix.looked.connect(self._look)
        matrix.opened.connect(self._open)
        matrix.removed.connect(self.remove)
        matrix.copied.connect(self.copy)
        matrix.moved.connect(
            lambda ids, before: workspace.do(tr("reorder frames"), lambda p: move_frames(p, ids, before))
        )
        matrix.menu_wanted.connect(self._menu)
        self.clock.ticked.connect(self._ticked)
        for page in (self.one, self.many):
            page.back_wanted.connect(self.go_back)
            page.remove.clicked.connect(self.remove)
        self.one.input_wanted.connect(self.show_inputs)
        for signal in (self.search.textChanged, self.only.activated, self.only_trouble.toggled):
            signal.connect(lambda *_: self._filter())
        self.every.clicked.connect(self.every_to_every)
        self.inputs.clicked.connect(self.show_inputs)
        self.smaller.clicked.connect(lambda: matrix.step_zoom(-1))
        self.larger.clicked.connect(lambda: matrix.step_zoom(1))
        self.fit.clicked.connect(lambda: matrix.set_zoom(None))

    # Showing

    def enter(self) -> None:
        """The station comes to the front: the chosen transition plays in its card."""
        self.refresh()
        if self._shown() is not None:
            self.clock.play()

    def leave(self) -> None:
        """Another station comes to the front."""
        self.clock.stop()

    def refresh(self) -> None:
        """Take everything over from the project."""
        some = bool(self.workspace.project.frames)
        self.body.setVisible(some)
        self.strip.setVisible(some)
        self.empty.setVisible(not some)
        self.matrix.refresh()
        self._show_summary()
        self._show_card()

    def _show_summary(self) -> None:
        project = self.workspace.project
        count, found = len(project.routes), troubles(project)
        words = tr("{n} routes", "{n} route", count)
        self.summary.setText(tr("{words}, {count} to look at", words=words, count=len(found)) if found else words)
        self.summary.setToolTip("\n".join(in_words(project, trouble) for trouble in found[:12]))

    def _shown(self) -> Route | None:
        """The route whose motion plays: the one under the pointer, else the chosen one."""
        project = self.workspace.project
        if self._looked and any(route.id == self._looked for route in project.routes):
            return route_by_id(project, self._looked)
        return self.workspace.route

    def _show_card(self) -> None:
        project, route, chosen = self.workspace.project, self.workspace.route, self.matrix.chosen
        shown = self._shown()
        for widget in (self.leaves_name, self.arrow, self.arrives_name, self.view):
            widget.setVisible(shown is not None)
        if shown is not None:
            several = len(chosen) > 1 and not self._looked
            left, right = frame_by_id(project, shown.leaves).name, frame_by_id(project, shown.arrives).name
            self.leaves_name.setText(tr("{count} routes", count=len(chosen)) if several else left)
            self.arrow.setText("" if several else "→" if shown.leaves != shown.arrives else tr("stays"))
            self.arrives_name.setText("" if several or shown.leaves == shown.arrives else right)
            self.clock.set_duration(shown.delay + end_of(shown.transition, self.workspace.project))
            self._ticked(self.clock.ms)
        if len(chosen) > 1:
            self.many.show_routes(chosen)
            self.stack.setCurrentWidget(self.many)
            self.view.setMaximumHeight(_SMALL)
        elif route is not None:
            self.view.setMaximumHeight(_PICTURE)
            self.one.show_route(route)
            self.stack.setCurrentWidget(self.one)
        else:
            self.stack.setCurrentIndex(2)

    def _ticked(self, ms: float) -> None:
        route = self._shown()
        if route is not None:
            self.view.show_scene(self.workspace.program(route).from_start(ms - route.delay))

    def _filter(self) -> None:
        self.matrix.show_filter(
            Filter(self.search.text(), self.only.currentData() or "", self.only_trouble.isChecked())
        )

    def _look(self, route_id: str) -> None:
        """The pointer is over a route, or over none: its motion plays in the card."""
        if route_id != self._looked:
            self._looked = route_id
            if self.workspace.route is None or route_id != self.workspace.route.id:
                self.clock.seek(0.0)
            self._show_card()
            if self._shown() is not None and not self.clock.playing:
                self.clock.play()

    def _choose(self, chosen: list[str]) -> None:
        self._looked = ""
        if self.workspace.route is None or self.workspace.route.id != chosen[-1]:
            self.clock.seek(0.0)
            self.workspace.choose_route(chosen[-1])
        self.matrix.chosen = list(chosen)
        self._show_card()
        self.clock.play()

    # Doing

    def make(self, leaves: str, arrives: str, layer_id: str = "") -> None:
        """A new route between two frames: tap on a layer, on the chosen one if it is in the frame left, or anywhere."""
        workspace, project = self.workspace, self.workspace.project
        if (
            not layer_id
            and workspace.layer is not None
            and workspace.frame is not None
            and workspace.frame.id == leaves
        ):
            layer_id = workspace.layer.id
        left, right = frame_by_id(project, leaves), frame_by_id(project, arrives)
        action = SetInput() if leaves == arrives else None
        made = workspace.make(
            tr("route {left} to {right}", left=left.name, right=right.name),
            lambda p: add_route(p, leaves, arrives, Tap(layer_id), action=action),
        )
        if made is not None:
            self._choose([made])
            on = layer_index(left)[layer_id].name if layer_id else tr("anywhere")
            workspace.said.emit(
                tr(
                    "Tap {also} goes from {left} to {right}.",
                    also="on " + on if layer_id else on,
                    left=left.name,
                    right=right.name,
                )
            )

    def remove(self) -> None:
        """Remove the chosen routes."""
        chosen = [ident for ident in self.matrix.chosen if ident]
        if chosen:
            words = tr("remove route") if len(chosen) == 1 else tr("remove {count} routes", count=len(chosen))
            self.workspace.do(words, lambda p: remove_routes(p, chosen))

    def copy(self, route_id: str, leaves: str, arrives: str) -> None:
        """A route's motion onto the routes of a cell; an empty cell gets a route first."""
        project = self.workspace.project
        source = route_by_id(project, route_id)
        targets = [r.id for r in project.routes if (r.leaves, r.arrives) == (leaves, arrives)]

        def edit(p: Project) -> tuple[Project, tuple[int, int, str]]:
            ids = list(targets)
            if not ids:
                p, ident = add_route(p, leaves, arrives, Tap(), source.transition.__class__())
                ids = [ident]
            p, placed, missed = copy_motion(p, route_id, ids)
            return p, (placed, missed, ids[-1])

        made = self.workspace.make(tr("copy motion of {project}", project=route_title(project, source)), edit)
        if made is not None:
            placed, missed, ident = made
            self._choose([ident])
            self.workspace.said.emit(copied_words(placed, missed))

    def go_back(self, how: BackCurve = "mirrored") -> None:
        """The way back of every chosen route."""
        chosen = [i for i in self.matrix.chosen if not isinstance(route_by_id(self.workspace.project, i).action, STAYS)]

        def edit(p: Project) -> tuple[Project, list[str]]:
            made: list[str] = []
            for ident in chosen:
                p, back = return_trip(p, ident, how)
                made.append(back)
            return p, list(dict.fromkeys(made))

        made = self.workspace.make(tr("return trip, {value}", value=_RETURN[how]), edit) if chosen else None
        if made:
            self._choose(made)

    def every_to_every(self) -> None:
        """Ask for frames, and make a route from each to each."""
        project = self.workspace.project
        chosen = {route.leaves for route in project.routes if route.id in self.matrix.chosen}
        dialog = EveryDialog(self, project, list(chosen) if len(chosen) > 1 else [frame.id for frame in project.frames])
        if dialog.exec() and dialog.frames():
            made = self.workspace.make(
                tr("every one of {count} frames to every other", count=len(dialog.frames())), dialog.edit
            )
            if made:
                self._choose(list(made))

    def _open(self, station: str) -> None:
        """Another station, with what is chosen here."""
        if station == "timing" and self.matrix.chosen:
            self.workspace.motion_wanted.emit(list(self.matrix.chosen)[-1])
        else:
            self.workspace.station_wanted.emit(station)

    def show_inputs(self) -> None:
        """The inputs and what they start as."""
        InputsDialog(self, self.workspace).exec()
        self.refresh()

    def _menu(self, place: tuple[int, int], where: QPoint) -> None:
        open_at(self.menu_of(place), where)

    def menu_of(self, place: tuple[int, int]) -> QMenu:
        """What can be done with a cell (row, column), or a head (-1 for the other)."""
        menu, matrix, table = QMenu(self), self.matrix, self.matrix.table
        if min(place) < 0:
            frame = table.frames[max(place)]
            ids = of_row(table, place[0]) if place[1] < 0 else of_column(table, place[1])
            first = menu.addAction(tr("Start with this frame"))
            first.setEnabled(self.workspace.project.first != frame.id)
            first.triggered.connect(
                lambda: self.workspace.do(tr("start with {frame}", frame=frame.name), lambda p: set_first(p, frame.id))
            )
            pick = menu.addAction(tr("Choose its routes"))
            pick.setEnabled(bool(ids))
            pick.triggered.connect(lambda: self._choose(ids))
            menu.addAction(tr("A route that stays here")).triggered.connect(lambda: self.make(frame.id, frame.id))
            return menu
        left, right = table.frames[place[0]], table.frames[place[1]]
        routes = table.at(*place)
        menu.addAction(tr("One more route here") if routes else tr("Make a route")).triggered.connect(
            lambda: self.make(left.id, right.id)
        )
        if routes:
            for cell in routes if len(routes) > 1 else ():
                menu.addAction(tr("Show {trigger}: {on}", trigger=cell.trigger, on=cell.on)).triggered.connect(
                    lambda _=False, ident=cell.route_id: self._choose([ident])
                )
            same = of_trigger(table, routes[0].trigger)
            menu.addAction(tr("Choose all on {trigger}", trigger=routes[0].trigger)).triggered.connect(
                lambda: self._choose(same)
            )
            menu.addSeparator()
            if place[0] != place[1]:
                for how, words in _RETURN.items():
                    menu.addAction(tr("Return trip, {words}", words=words)).triggered.connect(
                        lambda _=False, how=how: self.go_back(how)
                    )
                menu.addSeparator()
            menu.addAction(tr("Remove")).triggered.connect(matrix.removed)
        return menu

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not press(KEYS, self, event):
            super().keyPressEvent(event)
