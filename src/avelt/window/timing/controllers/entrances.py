"""Which motion Timing shows, a route's or a frame's entrance, and what is done about the latter."""

from __future__ import annotations

from PySide6.QtWidgets import QMenu, QWidget

from avelt.core.edits.entrances import remove_entrance, set_layers, set_when
from avelt.core.model.find import frame_by_id, frame_of_entrance
from avelt.core.model.triggers import Go
from avelt.core.model.values import Frame
from avelt.core.words import tr
from avelt.window.common.menus import open_under
from avelt.window.timing.context import TimingContext
from avelt.window.timing.controllers.base import Controller
from avelt.window.timing.top_bar import WHENS, TimingBar, trigger_words


class EntranceController(Controller):
    """Carries out what the menus of transitions and entrances ask for."""

    def __init__(self, context: TimingContext, window: QWidget, bar: TimingBar) -> None:
        super().__init__(context, window)
        self.bar = bar
        bar.other.clicked.connect(lambda: self._open(self.routes_menu()))
        bar.back.clicked.connect(lambda: self.show(""))
        bar.when.activated.connect(self._set_when)

    def _frame(self, ident: str) -> Frame | None:
        return next((frame for frame in self.workspace.project.frames if frame.id == ident), None)

    def show(self, frame_id: str) -> None:
        """Show a frame's entrance; an empty id shows the route again."""
        self.context.show_entrance(frame_id)

    def _open(self, menu: QMenu) -> None:
        button = self.bar.other
        open_under(menu, button)

    def routes_menu(self) -> QMenu:
        """All routes, then the entrances."""
        menu, project = QMenu(self.window), self.workspace.project
        for route in project.routes:
            left, right = (frame_by_id(project, ident) for ident in (route.leaves, route.arrives))
            action = menu.addAction(f"{left.name} → {right.name}   {trigger_words(project, route)}")
            action.triggered.connect(lambda _=False, ident=route.id: self._choose(ident))
        living = [frame for frame in project.frames if frame.entrance is not None]
        if living:
            menu.addSeparator()
        for frame in living:
            action = menu.addAction(tr("{frame} (entrance)", frame=frame.name))
            action.triggered.connect(lambda _=False, ident=frame.id: self.show(ident))
        return menu

    def _choose(self, route_id: str) -> None:
        self.context.show(route_id)

    def add_to(self, menu: QMenu) -> None:
        """What the menu of the chosen rows says about entrances."""
        route = self.context.route
        if route is None:
            return
        keys = self.context.keys
        chosen = [key.to_id for key in keys if key.to_id is not None]
        if frame_of_entrance(route.id):
            menu.addSeparator()
            menu.addAction(tr("Not part of the entrance")).triggered.connect(lambda _=False: self.leave_out(chosen))
        elif chosen and isinstance(route.action, Go):
            menu.addSeparator()
            words = tr("Entrance after the arrival")
            menu.addAction(words).triggered.connect(lambda _=False: self.bring(chosen))

    def bring(self, layers: list[str]) -> None:
        """Layers join the entrance after the arrival, beside those that are in it; their sheet is shown."""
        route = self.context.route
        frame = self._frame(route.arrives) if route is not None else None
        if frame is None:
            return
        known = frame.entrance.layers if frame.entrance is not None else ()
        if self.workspace.do(tr("entrance"), lambda p: set_layers(p, frame.id, (*known, *layers))):
            self.show(frame.id)
            self.workspace.said.emit(
                tr("{frame} is arrived at without them; then they come as this sheet says.", frame=frame.name)
            )

    def leave_out(self, layers: list[str]) -> None:
        """Layers are there at once again; with none left the frame has no entrance."""
        frame = self._frame(self.context.entrance_id)
        if frame is None or frame.entrance is None:
            return
        rest = [ident for ident in frame.entrance.layers if ident not in layers]
        if rest:
            self.workspace.do(tr("there at once"), lambda p: set_layers(p, frame.id, rest))
        elif self.workspace.do(tr("there at once"), lambda p: remove_entrance(p, frame.id)):
            self.show("")

    def _set_when(self, place: int) -> None:
        when = WHENS[place]
        self.workspace.do(tr("entrance {when}", when=when), lambda p: set_when(p, self.context.entrance_id, when))  # type: ignore[arg-type]
