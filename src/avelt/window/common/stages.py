"""Which part is open. While one is, everything in the window is about it, as about a project of its own."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from avelt.core.edits.session import Change
from avelt.core.model.parts import as_stage
from avelt.core.model.values import Part, Project

T = TypeVar("T")
_KEPT = 4  # looks at parts: the same project gives the same value, by which programs are kept


class Stages:
    """The parts that are open in each other, outermost first; none: the project itself."""

    def __init__(self) -> None:
        self.path: tuple[str, ...] = ()
        self._seen: list[tuple[Project, str, Project]] = []

    def part(self, whole: Project) -> Part | None:
        """The part that is open."""
        return next((part for part in whole.parts if self.path and part.id == self.path[-1]), None)

    def seen(self, whole: Project) -> Project:
        """The project, or the open part as one."""
        part = self.part(whole)
        if part is None:
            return whole
        for known, part_id, stage in self._seen:
            if known is whole and part_id == part.id:
                return stage
        made = as_stage(whole, part)
        self._seen = [(whole, part.id, made), *self._seen[: _KEPT - 1]]
        return made

    def names(self, whole: Project) -> tuple[str, ...]:
        """The project's name and those of the open parts."""
        by_id = {part.id: part.name for part in whole.parts}
        return (whole.name, *(by_id[ident] for ident in self.path if ident in by_id))

    def mend(self, whole: Project) -> None:
        """Parts that went (an undo, another project) are not open any more."""
        known = {part.id for part in whole.parts}
        gone = next((k for k, ident in enumerate(self.path) if ident not in known), len(self.path))
        self.path = self.path[:gone]

    def change(self, change: Change) -> Change:
        """What the window hears of a change: that of the open part."""
        if not self.path:
            return change
        return Change(self.seen(change.before), self.seen(change.after), change.label, change.origin)

    def edited(self, whole: Project, edit: Callable[[Project], Project]) -> Project:
        """The project after an edit of what is open."""
        if not self.path:
            return edit(whole)
        from avelt.core.edits.parts import in_stage  # an empty window opens without it

        return in_stage(whole, self.path[-1], edit)

    def made(self, whole: Project, edit: Callable[[Project], tuple[Project, T]]) -> tuple[Project, T]:
        """The same for an edit that gives something beside."""
        given: list[T] = []

        def only(project: Project) -> Project:
            project, made = edit(project)
            given.append(made)
            return project

        return self.edited(whole, only), given[0]
