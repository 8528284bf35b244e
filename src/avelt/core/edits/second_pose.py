"""The second pose of a loop edited like any layer: a stage of one frame in which the layer stands so."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec

from avelt.core.edits.follows import edit_follow
from avelt.core.edits.loops import edit_loop
from avelt.core.errors import EditError, NotFound
from avelt.core.model.find import frame_by_id, layer_index, walk
from avelt.core.model.moves import Moves, moves_of
from avelt.core.model.tree import change_layers
from avelt.core.model.values import Follow, Frame, Group, Layer, LayerChanges, Loop, Pose, Project
from avelt.core.words import tr

replace = msgspec.structs.replace


def _loop(project: Project, frame_id: str, loop_id: str) -> tuple[Frame, Moves]:
    frame = frame_by_id(project, frame_id)
    for loop in moves_of(frame):
        if loop.id == loop_id:
            return frame, loop
    raise NotFound(tr("There is no loop {loop_id!r}.", loop_id=loop_id))


def _path(loop: Moves) -> tuple[tuple[float, float], ...]:
    return loop.path if isinstance(loop, Loop) else ()


def second_layer(layer: Layer, loop: Moves) -> Layer:
    """A layer as it stands at the whole distance of a loop, or of what follows a value."""
    path = _path(loop)
    shift, end = loop.offset, path[-1] if path else (loop.offset.shift_x, loop.offset.shift_y)
    return replace(
        loop.changes.of(layer),
        x=layer.x + end[0],
        y=layer.y + end[1],
        rotation=layer.rotation + shift.rotation,
        scale_x=layer.scale_x * shift.scale_x,
        scale_y=layer.scale_y * shift.scale_y,
        opacity=min(1.0, max(0.0, layer.opacity * shift.opacity)),
    )


def pose_stage(project: Project, frame_id: str, loop_id: str) -> Project:
    """The frame with the layer of a loop in its second pose, as a project of its own."""
    frame, loop = _loop(project, frame_id, loop_id)
    posed = change_layers(frame, {loop.layer: lambda layer: second_layer(layer, loop)})
    posed = replace(posed, name=f"{frame.name}: {loop.name}", loops=(), follows=(), entrance=None, source=None)
    return replace(project, frames=(posed,), routes=(), tracks=(), first=frame.id)


def in_pose(project: Project, frame_id: str, loop_id: str, edit: Callable[[Project], Project]) -> Project:
    """Any edit done on the second pose of a loop; ``EditError`` for one of something else."""
    frame, loop = _loop(project, frame_id, loop_id)
    stage = pose_stage(project, frame_id, loop_id)
    made = edit(stage)
    if made is stage:
        return project
    base = layer_index(frame)[loop.layer]
    before, after = layer_index(stage.frames[0]), layer_index(made.frames[0]) if made.frames else {}
    posed = after.get(loop.layer)
    above = [layer for layer in walk(stage.frames[0].layers) if _holds(layer, loop.layer)]
    if posed is None or set(before) != set(after) or len(made.frames) != 1:
        raise EditError(tr("This is the second pose of {base}: nothing comes or goes here.", base=base.name))
    for ident, layer in before.items():
        if ident != loop.layer and layer not in above and _but_place(layer) != _but_place(after[ident]):
            raise EditError(
                tr(
                    "This is the second pose of {base}: {layer} is changed in the frame itself.",
                    base=base.name,
                    layer=layer.name,
                )
            )
    # A group grows with what lies in it: what it went itself its layers went, too.
    moved = [(after[layer.id].x - layer.x, after[layer.id].y - layer.y) for layer in above]
    posed = replace(posed, x=posed.x + sum(dx for dx, _ in moved), y=posed.y + sum(dy for _, dy in moved))
    rest = replace(project, assets=made.assets, curves=made.curves, swatches=made.swatches, next_id=made.next_id)
    if isinstance(loop, Follow):
        return edit_follow(rest, frame_id, loop_id, lambda old: replace(old, **_second(base, posed)))
    return edit_loop(rest, frame_id, loop_id, lambda old: _told(old, base, posed))


def _holds(layer: Layer, ident: str) -> bool:
    return isinstance(layer.body, Group) and any(child.id == ident for child in walk(layer.body.children))


def _but_place(layer: Layer) -> Layer:
    """A layer without where it is and what lies in it: a group that is fitted anew changes that."""
    body = replace(layer.body, children=()) if isinstance(layer.body, Group) else layer.body
    return replace(layer, x=0.0, y=0.0, body=body)


def _second(base: Layer, posed: Layer) -> dict[str, Any]:
    """How a layer differs from its second pose: ``offset`` and ``changes``."""

    def ratio(new: float, old: float) -> float:
        return new / old if old else 1.0

    offset = Pose(
        round(posed.x - base.x, 9),
        round(posed.y - base.y, 9),
        round(posed.rotation - base.rotation, 9),
        ratio(posed.scale_x, base.scale_x),
        ratio(posed.scale_y, base.scale_y),
        ratio(posed.opacity, base.opacity),
    )
    names = [name for name in LayerChanges.__struct_fields__ if getattr(posed, name) != getattr(base, name)]
    if isinstance(base.body, Group) and "body" in names:
        names.remove("body")
    return {"offset": offset, "changes": LayerChanges(**{name: getattr(posed, name) for name in names})}


def _told(loop: Loop, base: Layer, posed: Layer) -> Loop:
    """A loop whose second pose is a layer as it stands."""
    made = replace(loop, **_second(base, posed))
    path, offset = loop.path, made.offset
    if path and (offset.shift_x, offset.shift_y) != path[-1]:
        path = (*path[:-1], (offset.shift_x, offset.shift_y))
        offset = replace(offset, shift_x=0.0, shift_y=0.0)
    elif path:
        offset = replace(offset, shift_x=loop.offset.shift_x, shift_y=loop.offset.shift_y)
    return replace(made, offset=offset, path=path)
