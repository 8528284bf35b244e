"""Edits of layers that follow a value, of frames that are larger than what is seen, and of layers that stay put."""

from __future__ import annotations

from collections.abc import Callable
from typing import Literal

import msgspec

from avelt.core.edits.frames import free_name, put_frame
from avelt.core.edits.layers import edit_layer
from avelt.core.errors import EditError, NotFound
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.follows import ByDrag, ByScroll, Source
from avelt.core.model.triggers import MOST_LAG
from avelt.core.model.values import Follow, Frame, Project
from avelt.core.words import tr

replace = msgspec.structs.replace
Axes = Literal["", "down", "right", "both"]


def add_follow(project: Project, frame_id: str, layer_id: str, by: Source | None = None) -> tuple[Project, str]:
    """A layer that follows a value, and the id of that: it goes nowhere until a second pose is given to it."""
    frame = frame_by_id(project, frame_id)
    layer = layer_index(frame).get(layer_id)
    if layer is None:
        raise EditError(tr("Choose a layer of the frame first."))
    ident = f"W{project.next_id}"
    name = free_name([entry.name for entry in frame.follows], f"{layer.name} follows")
    by = by or ByScroll()
    if isinstance(by, ByDrag) and not by.layer:
        by = replace(by, layer=layer_id)
    follow = Follow(ident, ident, layer_id, name, by)
    frame = replace(frame, follows=(*frame.follows, follow))
    return replace(put_frame(project, frame), next_id=project.next_id + 1), ident


def follow_by_id(frame: Frame, follow_id: str) -> Follow:
    """What follows a value in a frame, by its id; ``NotFound`` when there is none."""
    for entry in frame.follows:
        if entry.id == follow_id:
            return entry
    raise NotFound(tr("Nothing that follows a value has the id {follow_id!r}.", follow_id=follow_id))


def edit_follow(project: Project, frame_id: str, follow_id: str, change: Callable[[Follow], Follow]) -> Project:
    """One of them changed, kept inside what can be played."""
    frame = frame_by_id(project, frame_id)
    old = follow_by_id(frame, follow_id)
    new = change(old)
    if new.start == new.end:
        raise EditError(tr("From and to are two values."))
    new = replace(new, lag=min(MOST_LAG, max(0.0, new.lag)))
    follows = tuple(new if entry.id == follow_id else entry for entry in frame.follows)
    return project if new == old else put_frame(project, replace(frame, follows=follows))


def remove_follow(project: Project, frame_id: str, follow_id: str) -> Project:
    """Without it."""
    frame = frame_by_id(project, frame_id)
    follow_by_id(frame, follow_id)
    return put_frame(project, replace(frame, follows=tuple(e for e in frame.follows if e.id != follow_id)))


def set_content(project: Project, frame_id: str, w: float, h: float, axes: Axes | None = None) -> Project:
    """How large a frame is beyond what is seen of it, and along which axes it is scrolled (where nothing is said those
    along which it is larger)."""
    frame = frame_by_id(project, frame_id)
    if not (0.0 <= w <= 100_000.0 and 0.0 <= h <= 100_000.0):
        raise EditError(tr("What a frame holds is at most 100 000 px wide and high."))
    w, h = max(w, frame.w), max(h, frame.h)
    if axes is None:
        axes = "both" if w > frame.w and h > frame.h else "right" if w > frame.w else "down" if h > frame.h else ""
    content = (w, h) if (w, h) != (frame.w, frame.h) else (0.0, 0.0)
    made = replace(frame, content=content, scroll=axes)
    return project if made == frame else put_frame(project, made)


def set_scroll(project: Project, frame_id: str, axes: Axes) -> Project:
    """Along which axes a frame is scrolled."""
    frame = frame_by_id(project, frame_id)
    return project if frame.scroll == axes else put_frame(project, replace(frame, scroll=axes))


def set_stays_put(project: Project, frame_id: str, layer_id: str, stays: bool) -> Project:
    """Whether a layer stays where it is when its frame is scrolled; ``EditError`` for one that lies in a group."""
    frame = frame_by_id(project, frame_id)
    if stays and all(layer.id != layer_id for layer in frame.layers):
        raise EditError(tr("Only a layer that lies in no group can stay put."))
    return edit_layer(project, frame_id, layer_id, lambda layer: replace(layer, stays_put=stays))
