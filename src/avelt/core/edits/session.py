"""The open project with its past and future. Every change goes through here; undo is a list of values."""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.model.values import Frame, Project, Route
from avelt.core.record import Record, lazy
from avelt.core.words import tr


class Touched(Record, frozen=True):
    """What differs between two projects: ids of frames and of routes (changed, new or gone), and fields of the project.

    ``fields`` are all fields that are another value, "frames" and "routes" among them.
    """

    frames: frozenset[str]
    routes: frozenset[str]
    fields: frozenset[str]


def touched(before: Project, after: Project) -> Touched:
    """Compared by identity: edits share what they leave alone, so this costs as much as there are frames and routes."""
    fields = frozenset(name for name in Project.__struct_fields__ if getattr(before, name) is not getattr(after, name))
    return Touched(_differ(before.frames, after.frames), _differ(before.routes, after.routes), fields)


def _differ(
    before: tuple[Frame, ...] | tuple[Route, ...], after: tuple[Frame, ...] | tuple[Route, ...]
) -> frozenset[str]:
    if before is after:
        return frozenset()
    old, new = {value.id: value for value in before}, {value.id: value for value in after}
    return frozenset(ident for ident in old.keys() | new.keys() if old.get(ident) is not new.get(ident))


class Change(Record, frozen=True):
    """What listeners hear: the project before and after, why, and who began it (to know the echo of one's own)."""

    before: Project
    after: Project
    label: str
    origin: object = None

    @lazy
    def touched(self) -> Touched:
        """What of the project is another value now."""
        return touched(self.before, self.after)

    def concerns(self, route: Route | None) -> bool:
        """Whether what a route looks like may be another: its motion, its frames, or what all of them share."""
        if route is None or self.touched.routes or self.touched.fields & _SHARED:
            return True
        return bool(self.touched.frames & {route.leaves, route.arrives})


_SHARED = {"curves", "assets", "inputs", "name", "first"}  # what any transition may depend on


class _Entry(Record, frozen=True):
    project: Project
    label: str  # of the edit that led away from this project


Listener = Callable[[Change], None]


class Session:
    """Holds the project. ``do`` makes an entry; a gesture makes one however often it changes its mind."""

    def __init__(self, project: Project) -> None:
        self._project = project
        self._past: list[_Entry] = []
        self._future: list[_Entry] = []
        self._saved: Project | None = project
        self._gesture: tuple[str, Project] | None = None
        self._listeners: list[Listener] = []

    @property
    def project(self) -> Project:
        """The project as it is now."""
        return self._project

    @property
    def changed(self) -> bool:
        """Whether it differs from what was saved last."""
        return self._project is not self._saved

    @property
    def undo_label(self) -> str:
        """What undo would take back; empty when there is nothing. A gesture counts from its first change on: nobody is
        told when it ends."""
        if self._gesture is not None and self._gesture[1] is not self._project:
            return self._gesture[0]
        return self._past[-1].label if self._past else ""

    @property
    def redo_label(self) -> str:
        """What redo would do again; empty when there is nothing."""
        return self._future[-1].label if self._future else ""

    def listen(self, listener: Listener) -> Callable[[], None]:
        """Call ``listener`` on every change; gives a function that ends it."""
        self._listeners.append(listener)
        return lambda: self._listeners.remove(listener)

    def do(self, label: str, project: Project, origin: object = None) -> None:
        """Take over an edited project as one entry. The same value again is no entry."""
        self.end_gesture()
        if project is self._project:
            return
        self._past.append(_Entry(self._project, label))
        self._future.clear()
        self._set(project, label, origin)

    def gesture(self, label: str, project: Project, origin: object = None) -> None:
        """Show an edit while a gesture goes on; all of one label since its start are one entry."""
        if self._gesture is not None and self._gesture[0] != label:
            self.end_gesture()
        if self._gesture is None:
            self._gesture = (label, self._project)
        self._set(project, label, origin)

    def end_gesture(self) -> None:
        """The gesture is over: keep it as one entry."""
        if self._gesture is None:
            return
        label, before = self._gesture
        self._gesture = None
        if before is not self._project:
            self._past.append(_Entry(before, label))
            self._future.clear()

    def cancel_gesture(self) -> bool:
        """The gesture was given up: all is as before it; whether there was one."""
        if self._gesture is None:
            return False
        label, before = self._gesture
        self._gesture = None
        self._set(before, label, None)
        return True

    def undo(self) -> None:
        """Take back the last entry."""
        self.end_gesture()
        if self._past:
            entry = self._past.pop()
            self._future.append(_Entry(self._project, entry.label))
            self._set(entry.project, tr("Undo {label}", label=entry.label), None)

    def redo(self) -> None:
        """Do again what was taken back last."""
        self.end_gesture()
        if self._future:
            entry = self._future.pop()
            self._past.append(_Entry(self._project, entry.label))
            self._set(entry.project, tr("Redo {label}", label=entry.label), None)

    def saved(self) -> None:
        """What is there now is on the disk."""
        self.end_gesture()
        self._saved = self._project

    def unsaved(self) -> None:
        """What is there is nowhere on the disk as the person's own file."""
        self._saved = None

    def replace(self, project: Project) -> None:
        """Open another project: nothing to undo, nothing changed."""
        self._gesture = None
        self._past.clear()
        self._future.clear()
        self._saved = project
        self._set(project, "", None)

    def _set(self, project: Project, label: str, origin: object) -> None:
        change = Change(self._project, project, label, origin)
        self._project = project
        for listener in tuple(self._listeners):
            listener(change)
