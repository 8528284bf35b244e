"""Edits of loops."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from avelt.core.edits.frames import free_name, put_frame
from avelt.core.errors import EditError, NotFound
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.limits import MAX_MS
from avelt.core.model.values import Loop, Pose, Project

replace = msgspec.structs.replace


def add_loop(project: Project, frame_id: str, layer_id: str, pose: Pose | None = None) -> tuple[Project, str]:
    """A new loop on a layer and its id: there and back, endless, at rest until a second pose is given to it."""
    frame = frame_by_id(project, frame_id)
    layer = layer_index(frame).get(layer_id)
    if layer is None:
        raise EditError("Choose a layer of the frame first.")
    ident = f"O{project.next_id}"
    name = free_name([loop.name for loop in frame.loops], f"{layer.name} loop")
    loop = Loop(ident, ident, layer_id, name, pose or Pose(), 1600.0)
    frame = replace(frame, loops=(*frame.loops, loop))
    return replace(put_frame(project, frame), next_id=project.next_id + 1), ident


def edit_loop(project: Project, frame_id: str, loop_id: str, change: Callable[[Loop], Loop]) -> Project:
    """One loop changed, kept inside what can be played."""
    frame = frame_by_id(project, frame_id)
    if all(loop.id != loop_id for loop in frame.loops):
        raise NotFound(f"There is no loop {loop_id!r}.")

    def done(old: Loop) -> Loop:
        new = change(old)
        return replace(
            new,
            duration=min(MAX_MS, max(1.0, new.duration)),
            wait=min(MAX_MS, max(0.0, new.wait)),
            rounds=max(0, int(new.rounds)),
        )

    loops = tuple(done(loop) if loop.id == loop_id else loop for loop in frame.loops)
    return project if loops == frame.loops else put_frame(project, replace(frame, loops=loops))


def remove_loop(project: Project, frame_id: str, loop_id: str) -> Project:
    """Without the loop."""
    frame = frame_by_id(project, frame_id)
    return put_frame(project, replace(frame, loops=tuple(loop for loop in frame.loops if loop.id != loop_id)))
