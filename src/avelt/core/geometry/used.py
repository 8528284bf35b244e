"""A part as one use has it: other words, pictures and fills, at another size, in the pose that it begins with."""

from __future__ import annotations

from typing import TypeVar

import msgspec

from avelt.core.cache import Cache
from avelt.core.geometry.resize import resized
from avelt.core.model.find import walk
from avelt.core.model.parts import pose_of
from avelt.core.model.phases import MAIN, ShowLoops, poses_of
from avelt.core.model.tree import map_layers
from avelt.core.model.values import Follow, Frame, Layer, Loop, Part, PartChange, Picture, Run, Text, Use

replace = msgspec.structs.replace
_parts: Cache[Part] = Cache(256)
_poses: Cache[Frame] = Cache(256)


def as_used(part: Part, use: Use, w: float, h: float) -> Part:
    """The part with what a use changes of it, for a box of a size; the part itself when that is nothing."""
    stretched = use.fit == "stretch" and (w, h) != (part.w, part.h) and w > 0.0 and h > 0.0
    if not use.changes and not stretched:
        return part
    size = (w, h) if stretched else None
    return _parts.get((part,), (use.changes, size), lambda: _changed(part, use.changes, size))


def _changed(part: Part, changes: tuple[PartChange, ...], size: tuple[float, float] | None) -> Part:
    by_origin = {change.origin: change for change in changes}
    poses = part.poses
    if by_origin:
        poses = tuple(_with_changes(pose, by_origin) for pose in poses)
    if size is None:
        return replace(part, poses=poses)
    x, y = size[0] / part.w, size[1] / part.h
    return replace(part, poses=tuple(_stretched(pose, x, y) for pose in poses), w=size[0], h=size[1])


def _with_changes(pose: Frame, changes: dict[str, PartChange]) -> Frame:
    found = {layer.id: changes[layer.origin] for layer in walk(pose.layers) if layer.origin in changes}
    layers = map_layers(pose.layers, {ident: lambda old, c=change: _of(old, c) for ident, change in found.items()})  # type: ignore[misc]
    return replace(pose, layers=layers)


def _of(layer: Layer, change: PartChange) -> Layer:
    body = layer.body
    if change.text is not None and isinstance(body, Text):
        first = body.runs[0] if body.runs else Run("")
        body = replace(body, runs=(replace(first, text=change.text),))
    if change.asset is not None and isinstance(body, Picture):
        body = replace(body, asset=change.asset)
    return replace(layer, body=body, fills=layer.fills if change.fills is None else change.fills)


def _stretched(pose: Frame, x: float, y: float) -> Frame:
    """A pose whose layers are resized, as those of a group are: strokes, type and corners stay as they are."""
    layers = tuple(
        replace(resized(layer, layer.w * x, layer.h * y), x=layer.x * x, y=layer.y * y) for layer in pose.layers
    )
    loops = tuple(
        replace(_stretched_moves(loop, x, y), path=tuple((a * x, b * y) for a, b in loop.path)) for loop in pose.loops
    )
    follows = tuple(_stretched_moves(follow, x, y) for follow in pose.follows)
    return replace(pose, w=pose.w * x, h=pose.h * y, layers=layers, loops=loops, follows=follows)


_Moves = TypeVar("_Moves", Loop, Follow)


def _stretched_moves(moves: _Moves, x: float, y: float) -> _Moves:
    """What has a second pose, where its layer is stretched."""
    offset = replace(moves.offset, shift_x=moves.offset.shift_x * x, shift_y=moves.offset.shift_y * y)
    changes = moves.changes
    if changes.body is not None:
        unit = resized(Layer("", "", "", changes.body, w=1.0, h=1.0), x, y)
        changes = replace(changes, body=unit.body)
    wide = None if changes.w is None else changes.w * x
    high = None if changes.h is None else changes.h * y
    return replace(moves, offset=offset, changes=replace(changes, w=wide, h=high))


def first_pose(part: Part, use: Use) -> Frame:
    """What a use shows before anything happens: the pose that it begins with; where a running order drives the part,
    that of its first phase, with loops only if that shows them."""
    main = next((track for track in part.tracks if track.name == MAIN and track.phases), None)
    if main is None:
        return pose_of(part, use.pose)
    known = {pose.id for pose in part.poses}
    begins = (phase for phase in main.phases if use.pose and poses_of(phase.shows)[0] == use.pose)
    phase = next(begins, main.phases[0])
    pose_id = poses_of(phase.shows)[0]
    pose = pose_of(part, pose_id if pose_id in known else "")
    if isinstance(phase.shows, ShowLoops) or not pose.loops:
        return pose
    return _poses.get((pose,), "still", lambda: replace(pose, loops=()))
