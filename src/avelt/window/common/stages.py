"""Which part is open. While one is, everything in the window is about it, as about a project of its own."""

from __future__ import annotations

from collections.abc import Callable
from typing import TypeVar

from avelt.core.edits.session import Change
from avelt.core.errors import AveltError
from avelt.core.model.moves import moves_of
from avelt.core.model.parts import as_stage
from avelt.core.model.values import Part, Project
from avelt.core.words import tr

T = TypeVar("T")
_KEPT = 4  # looks at parts: the same project gives the same value, by which programs are kept


_POSE = tr("second pose:")


def pose_step(frame_id: str, loop_id: str) -> str:
    """The step of a path that opens the second pose of a loop."""
    return f"{_POSE}{frame_id}:{loop_id}"


def _pose_of(step: str) -> tuple[str, str] | None:
    """The frame and the loop whose second pose a step opens; ``None`` for a part."""
    if not step.startswith(_POSE):
        return None
    frame, _, loop = step[len(_POSE) :].partition(":")
    return frame, loop


class Stages:
    """The parts that are open in each other, outermost first; none: the project itself. Innermost may be the second
    pose of a loop."""

    def __init__(self) -> None:
        self.path: tuple[str, ...] = ()
        self._seen: list[tuple[Project, tuple[str, ...], Project]] = []

    def part(self, whole: Project) -> Part | None:
        """The part that is open."""
        inner = next((step for step in reversed(self.path) if _pose_of(step) is None), "")
        return next((part for part in whole.parts if part.id == inner), None)

    @property
    def in_pose(self) -> bool:
        """Whether the second pose of a loop is open."""
        return bool(self.path) and _pose_of(self.path[-1]) is not None

    def seen(self, whole: Project) -> Project:
        """The project, or what is open of it as one."""
        return self._at(whole, self.path)

    def _at(self, whole: Project, path: tuple[str, ...]) -> Project:
        if not path:
            return whole
        for known, there, stage in self._seen:
            if known is whole and there == path:
                return stage
        pose = _pose_of(path[-1])
        if pose is not None:
            from avelt.core.edits.second_pose import pose_stage

            made = pose_stage(self._at(whole, path[:-1]), *pose)
        else:
            part = next((part for part in whole.parts if part.id == path[-1]), None)
            made = as_stage(whole, part) if part is not None else whole
        self._seen = [(whole, path, made), *self._seen[: _KEPT - 1]]
        return made

    def names(self, whole: Project) -> tuple[str, ...]:
        """The project's name and those of what is open."""
        by_id = {part.id: part.name for part in whole.parts}
        found = [whole.name]
        for place, step in enumerate(self.path):
            pose = _pose_of(step)
            if pose is not None:
                found.append(self._at(whole, self.path[: place + 1]).frames[0].name + tr(", second pose"))
            elif step in by_id:
                found.append(by_id[step])
        return tuple(found)

    def mend(self, whole: Project) -> None:
        """What went (an undo, another project) is not open any more."""
        known = {part.id for part in whole.parts}
        for place, step in enumerate(self.path):
            pose = _pose_of(step)
            if pose is None:
                there = step in known
            else:
                frames = self._at(whole, self.path[:place]).frames
                there = any(f.id == pose[0] and any(e.id == pose[1] for e in moves_of(f)) for f in frames)
            if not there:
                self.path = self.path[:place]
                return

    def change(self, change: Change) -> Change:
        """What the window hears of a change: that of what is open."""
        if not self.path:
            return change
        try:
            before = self.seen(change.before)
        except AveltError:  # what is open was not there before
            before = change.before
        return Change(before, self.seen(change.after), change.label, change.origin)

    def edited(self, whole: Project, edit: Callable[[Project], Project]) -> Project:
        """The project after an edit of what is open."""
        return self._edited(whole, self.path, edit)

    def _edited(self, whole: Project, path: tuple[str, ...], edit: Callable[[Project], Project]) -> Project:
        if not path:
            return edit(whole)
        pose = _pose_of(path[-1])
        if pose is not None:
            from avelt.core.edits.second_pose import in_pose

            return self._edited(whole, path[:-1], lambda stage: in_pose(stage, *pose, edit))
        from avelt.core.edits.parts import in_stage  # an empty window opens without it

        return in_stage(whole, path[-1], edit)

    def made(self, whole: Project, edit: Callable[[Project], tuple[Project, T]]) -> tuple[Project, T]:
        """The same for an edit that gives something beside."""
        given: list[T] = []

        def only(project: Project) -> Project:
            project, made = edit(project)
            given.append(made)
            return project

        return self.edited(whole, only), given[0]
