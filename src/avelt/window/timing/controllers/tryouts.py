"""Tryouts in Timing: versions of a transition playing in step side by side, or as frames at equal times."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from avelt.core.edits import tryouts as edits
from avelt.core.edits.routes import edit_route
from avelt.core.edits.tryouts import MOST
from avelt.core.model.curves import Curve
from avelt.core.model.find import frame_by_id, route_by_id
from avelt.core.model.motion import CueKey
from avelt.core.model.values import Project, Route
from avelt.core.timing.compile import compile_route
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import end_of
from avelt.core.words import tr
from avelt.window.timing.context import TimingContext
from avelt.window.timing.controllers.base import Controller
from avelt.window.timing.strip import Strip
from avelt.window.timing.tryout_view import TryoutPanel, VersionView


class TryoutController(Controller):
    """Opens the panel over the sheet and carries out what it asks for. ``closed`` is told when the sheet is back."""

    closed = Signal()

    def __init__(self, context: TimingContext, window: QWidget, strip: Strip) -> None:
        super().__init__(context, window)
        self.strip = strip
        self.open = False
        self.cues: tuple[CueKey, ...] = ()  # what was chosen when the panel was opened
        self._programs: dict[str, tuple[Project, Program]] = {}
        self.panel = TryoutPanel(self.workspace, self.context.clock)
        self.panel.hide()
        panel = self.panel
        panel.more.clicked.connect(self.add)
        panel.back.clicked.connect(self.toggle)
        panel.scope.picked.connect(lambda _: self.refresh())
        panel.wishes.named.connect(self._name)
        panel.wishes.dropped.connect(self._drop)
        panel.wishes.kept.connect(self._keep)
        panel.wishes.lasting.connect(self._last)
        panel.wishes.curved.connect(self._curve)
        panel.wishes.stepped.connect(self._step)
        panel.wishes.cancelled.connect(self.workspace.cancel_gesture)

    # Opening

    def toggle(self) -> None:
        """Versions side by side, or the sheet again; what was made is kept with the project."""
        if self.open:
            self._back()
            return
        route = self.workspace.route
        if route is None or self.context.route is not route:
            self.workspace.said.emit(tr("Versions are for transitions: an entrance or a phase has none."))
            return
        if not route.tryouts and not self.workspace.do(tr("try a version"), lambda p: edits.add_tryout(p, route.id)[0]):
            return
        self.cues = self.context.keys
        self.open = True
        self.strip.from_here.setChecked(False)
        self.panel.scope.show_picked(1 if len(self.cues) > 1 else 0)
        self.context.refresh_wanted.emit()
        self.panel.setFocus()

    def _back(self) -> None:
        """The sheet again, with the keyboard."""
        self.close()
        self.context.refresh_wanted.emit()
        self.closed.emit()

    def close(self) -> None:
        """Hide the panel."""
        self.open = False
        self._programs.clear()
        self.panel.hide()

    # Showing

    def _versions(self) -> list[tuple[str, str]]:
        """Ids and names, the transition itself first."""
        route = self.workspace.route
        return [("", tr("As it is")), *((entry.id, entry.name) for entry in route.tryouts)] if route is not None else []

    def _scope(self) -> tuple[CueKey, ...]:
        return self.cues if self.panel.whole_or_cues() else ()

    def _compiled(self, route: Route, ident: str) -> Program:
        """A version's program; compiled anew when the project changed."""
        kept = self._programs.get(ident)
        if kept is None or kept[0] is not self.workspace.project:
            motion = edits.version(route, ident)
            project = edit_route(self.workspace.project, route.id, lambda r: _with(r, motion))
            kept = (self.workspace.project, compile_route(project, route_by_id(project, route.id)))
            self._programs[ident] = kept
        return kept[1]

    def longest(self) -> float:
        """ms of the longest version; 0 while they are not shown."""
        route = self.workspace.route
        if not self.open or route is None:
            return 0.0
        return max(end_of(edits.version(route, ident), self.workspace.project) for ident, _ in self._versions())

    def refresh(self) -> None:
        """Take the versions over from the project."""
        route, project = self.workspace.route, self.workspace.project
        if not self.open or route is None:
            return
        left, right = frame_by_id(project, route.leaves), frame_by_id(project, route.arrives)
        names = [self.context.name(key) for key in self.cues]
        self.panel.show_scope(tr("Versions of {left} → {right}", left=left.name, right=right.name), names)
        scope = self._scope()
        views = [
            VersionView(
                ident,
                name,
                self._compiled(route, ident),
                edits.feel(project, edits.version(route, ident), scope),
                end_of(edits.version(route, ident), project),
            )
            for ident, name in self._versions()
        ]
        self.panel.show_versions(views, self.longest(), len(views) <= MOST)
        self.tick(self.context.clock.ms)

    def tick(self, ms: float) -> None:
        """All versions at one moment."""
        self.panel.tick(ms)

    # Editing

    @property
    def _route_id(self) -> str:
        return self.workspace.route.id if self.workspace.route is not None else ""

    def add(self) -> None:
        """One version more, like the last one."""
        last = self._versions()[-1][0]
        self.workspace.do(tr("try a version"), lambda p: edits.add_tryout(p, self._route_id, last)[0])

    def _name(self, ident: str, name: str) -> None:
        self.workspace.do(tr("name version"), lambda p: edits.name_tryout(p, self._route_id, ident, name))

    def _drop(self, ident: str) -> None:
        if self.workspace.do(tr("delete version"), lambda p: edits.drop_tryout(p, self._route_id, ident)):
            route = self.workspace.route
            if route is not None and not route.tryouts:
                self.toggle()

    def _keep(self, ident: str) -> None:
        name = dict(self._versions()).get(ident, "")
        if self.workspace.do(tr("keep version"), lambda p: edits.keep_one(p, self._route_id, ident)):
            self.workspace.said.emit(
                tr("“{name}” is the transition now; the others are deleted. Undo brings them back.", name=name)
            )
        self._back()

    def _change(self, words: str, edit: object, final: bool) -> None:
        self.workspace.gesture(words, edit)  # type: ignore[arg-type]
        if final:
            self.workspace.end_gesture()

    def _last(self, ident: str, ms: float, final: bool) -> None:
        scope = self._scope()
        self._change(tr("duration of version"), lambda p: edits.lasting(p, self._route_id, ident, scope, ms), final)

    def _curve(self, ident: str, curve: Curve) -> None:
        scope = self._scope()
        self._change(tr("curve of version"), lambda p: edits.curved(p, self._route_id, ident, scope, curve), True)

    def _step(self, ident: str, ms: float, final: bool) -> None:
        scope = self._scope()
        self._change(tr("stagger of version"), lambda p: edits.stepped(p, self._route_id, ident, scope, ms), final)


def _with(route: Route, motion: object) -> Route:
    return edits.replace(route, transition=motion)
