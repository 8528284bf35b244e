"""Edits of where layers stand: aligning, spreading, repeating, guides."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from avelt.core.edits.frames import free_name, put_frame
from avelt.core.edits.layers import move_in_frame
from avelt.core.edits.place import space_of
from avelt.core.edits.structure import children_of, fresh_copy, parent_of, shifted, topmost_chosen, with_children
from avelt.core.errors import EditError
from avelt.core.geometry.bezier import union
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import frame_by_id, layer_index, walk
from avelt.core.model.values import Frame, Project
from avelt.core.words import tr

replace = msgspec.structs.replace
Box = tuple[float, float, float, float]

#: How layers can be aligned: the side's words, the axis (0: x, 1: y), and the share of the box that lines up.
ALIGNMENTS: dict[str, tuple[str, int, float]] = {
    "left": (tr("left edges"), 0, 0.0),
    "centre": ("centres", 0, 0.5),
    "right": (tr("right edges"), 0, 1.0),
    "top": (tr("top edges"), 1, 0.0),
    "middle": ("middles", 1, 0.5),
    "bottom": (tr("bottom edges"), 1, 1.0),
}
MOST_COPIES = 400


def boxes_in_frame(frame: Frame, ids: Sequence[str]) -> list[Box]:
    """The upright boxes (x, y, w, h) of layers in the frame."""
    flat = flatten(frame)
    found = []
    for ident in ids:
        x, y, w, h = (float(v) for v in flat.bounds[flat.index[ident]])
        found.append((x, y, w, h))
    return found


def align(project: Project, frame_id: str, ids: Sequence[str], how: str) -> Project:
    """Several layers lined up along the box around them; one alone along its frame."""
    frame = frame_by_id(project, frame_id)
    chosen = topmost_chosen(frame, ids)
    _, axis, share = ALIGNMENTS[how]
    boxes = boxes_in_frame(frame, chosen)
    around = union(boxes) if len(chosen) > 1 else (0.0, 0.0, frame.w, frame.h)
    line = around[axis] + around[axis + 2] * share
    for ident, box in zip(chosen, boxes, strict=True):
        away = line - (box[axis] + box[axis + 2] * share)
        frame = move_in_frame(frame, ident, away if axis == 0 else 0.0, away if axis == 1 else 0.0)
    return put_frame(project, frame)


def distribute(project: Project, frame_id: str, ids: Sequence[str], axis: int) -> Project:
    """Equal gaps between three or more layers along x (0) or y (1); the outer two stay."""
    frame = frame_by_id(project, frame_id)
    chosen = topmost_chosen(frame, ids)
    if len(chosen) < 3:
        raise EditError(tr("Choose three layers or more to spread them."))
    boxes = dict(zip(chosen, boxes_in_frame(frame, chosen), strict=True))
    order = sorted(chosen, key=lambda ident: boxes[ident][axis] + boxes[ident][axis + 2] / 2)
    first, last = boxes[order[0]], boxes[order[-1]]
    room = last[axis] + last[axis + 2] - first[axis] - sum(boxes[ident][axis + 2] for ident in order)
    gap, at = room / (len(order) - 1), first[axis]
    for ident in order:
        away = at - boxes[ident][axis]
        frame = move_in_frame(frame, ident, away if axis == 0 else 0.0, away if axis == 1 else 0.0)
        at += boxes[ident][axis + 2] + gap
    return put_frame(project, frame)


def repeat(
    project: Project, frame_id: str, layer_id: str, across: int, down: int, gap_x: float, gap_y: float
) -> tuple[Project, tuple[str, ...]]:
    """The layer in rows and columns with gaps between (px); the ids of the copies too."""
    if across < 1 or down < 1 or across * down > MOST_COPIES:
        raise EditError(tr("A grid has 1 to {most_copies} places.", most_copies=MOST_COPIES))
    frame = frame_by_id(project, frame_id)
    flat = flatten(frame)
    layer = layer_index(frame).get(layer_id)
    if layer is None:
        raise EditError(tr("Choose a layer first."))
    (_, _, w, h) = boxes_in_frame(frame, [layer_id])[0]
    parent = parent_of(flat, layer_id)
    space = space_of(flat, parent)
    names = [entry.name for entry in walk(frame.layers)]
    next_id, made = project.next_id, []
    for row in range(down):
        for column in range(across):
            if row == column == 0:
                continue
            copy, next_id = fresh_copy(layer, next_id, keep_origins=False)
            copy = replace(copy, name=free_name(names, layer.name))
            names.append(copy.name)
            made.append(shifted(copy, space, column * (w + gap_x), row * (h + gap_y)))
    siblings = children_of(frame, parent)
    place = next(k for k, entry in enumerate(siblings) if entry.id == layer_id) + 1
    frame = with_children(frame, parent, (*siblings[:place], *made, *siblings[place:]))
    project = replace(put_frame(project, frame), next_id=next_id)
    return project, tuple(entry.id for entry in made)


def move_layers_by(project: Project, frame_id: str, ids: Sequence[str], dx: float, dy: float) -> Project:
    """All the layers moved by px of the frame."""
    frame = frame_by_id(project, frame_id)
    for ident in topmost_chosen(frame, ids):
        frame = move_in_frame(frame, ident, dx, dy)
    return put_frame(project, frame)


def set_guides(project: Project, frame_id: str, axis: str, places: Sequence[float]) -> Project:
    """Another set of guides at places along "x" or "y", in order."""
    frame = frame_by_id(project, frame_id)
    clean = tuple(sorted({round(place, 2) for place in places}))
    return put_frame(project, replace(frame, **{f"guides_{axis}": clean}))
