"""Edits of the tree of layers: grouping, masks, order, copies. Nothing moves on screen by them."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import msgspec

from avelt.core.arrays import Floats
from avelt.core.edits.frames import free_name, put_frame, remove_layer, without_layers
from avelt.core.edits.place import inside, pivoted, reboxed, space_of
from avelt.core.errors import EditError, NotFound
from avelt.core.geometry import affine
from avelt.core.geometry.bezier import union
from avelt.core.geometry.flatten import Flat, flatten
from avelt.core.geometry.place import local_of, with_matrix
from avelt.core.model.find import frame_by_id, layer_index, walk
from avelt.core.model.kinds import kind_of
from avelt.core.model.tree import change_layers
from avelt.core.model.values import Frame, Group, Layer, Project
from avelt.core.words import tr

replace = msgspec.structs.replace
_SAME = 1e-6  # px


def topmost_chosen(frame: Frame, ids: Sequence[str]) -> list[str]:
    """The chosen layers in paint order, without those that lie in another chosen one."""
    flat = flatten(frame)
    wanted = set(ids)
    found = []
    for i, layer in enumerate(flat.layers):
        up = int(flat.parent[i])
        while up >= 0 and flat.layers[up].id not in wanted:
            up = int(flat.parent[up])
        if layer.id in wanted and up < 0:
            found.append(layer.id)
    if not found:
        raise EditError(tr("Choose a layer first."))
    return found


def parent_of(flat: Flat, layer_id: str) -> str:
    """The id of the group that a layer lies in; empty for the frame."""
    up = int(flat.parent[flat.index[layer_id]])
    return flat.layers[up].id if up >= 0 else ""


def children_of(frame: Frame, parent: str) -> tuple[Layer, ...]:
    """What lies right in a group, or (empty id) in the frame."""
    return layer_index(frame)[parent].children if parent else frame.layers


def with_children(frame: Frame, parent: str, children: tuple[Layer, ...]) -> Frame:
    """The frame with what lies right in a group (empty id: in the frame) exchanged."""
    if not parent:
        return replace(frame, layers=children)

    def change(layer: Layer) -> Layer:
        body = layer.body
        if not isinstance(body, Group):
            return layer
        mask = body.mask if any(child.id == body.mask for child in children) else ""
        return replace(layer, body=replace(body, children=children, mask=mask))

    return change_layers(frame, {parent: change})


def _taken_out(frame: Frame, ids: Sequence[str]) -> Frame:
    """Without the layers; masks that go with them are no masks any more."""
    gone = set(ids)
    for parent in {parent_of(flatten(frame), ident) for ident in ids}:
        frame = with_children(frame, parent, tuple(c for c in children_of(frame, parent) if c.id not in gone))
    return frame


def group_layers(project: Project, frame_id: str, ids: Sequence[str], name: str = "") -> tuple[Project, str]:
    """The layers in a group of their own, where the topmost of them stood; its id too."""
    frame = frame_by_id(project, frame_id)
    chosen = topmost_chosen(frame, ids)
    flat = flatten(frame)
    parent = parent_of(flat, chosen[-1])
    space = space_of(flat, parent)
    members = [inside(flat, ident, space) for ident in chosen]
    x, y, w, h = _around(members)
    ident = f"L{project.next_id}"
    moved = tuple(replace(member, x=member.x - x, y=member.y - y) for member in members)
    title = name or free_name([layer.name for layer in flat.layers], f"Group {_next_number(frame)}")
    made = Layer(ident, ident, title, Group(moved), x, y, w, h)
    siblings = children_of(frame, parent)
    after = next(k for k, entry in enumerate(siblings) if entry.id == chosen[-1])
    place = sum(1 for entry in siblings[:after] if entry.id not in chosen)
    frame = _taken_out(frame, chosen)
    rest = children_of(frame, parent)
    frame = with_children(frame, parent, (*rest[:place], made, *rest[place:]))
    return replace(put_frame(project, frame), next_id=project.next_id + 1), ident


def _next_number(frame: Frame) -> int:
    return 1 + sum(kind_of(layer).holds for layer in walk(frame.layers))


def _around(layers: Sequence[Layer]) -> tuple[float, float, float, float]:
    boxes = []
    for layer in layers:
        a, b, c, d = (float(v) for v in affine.box_bounds(local_of(layer), layer.w, layer.h))
        boxes.append((a, b, c, d))
    return union(boxes)


def ungroup(project: Project, frame_id: str, group_id: str) -> Project:
    """The group's layers in its place; its opacity goes on to them, its mask lies among them."""
    frame = frame_by_id(project, frame_id)
    flat = flatten(frame)
    group = _group(frame, group_id)
    parent = parent_of(flat, group_id)
    space = space_of(flat, parent)
    freed = tuple(
        replace(made := inside(flat, child.id, space), opacity=made.opacity * group.opacity) for child in group.children
    )
    siblings = children_of(frame, parent)
    place = next(k for k, entry in enumerate(siblings) if entry.id == group_id)
    frame = with_children(frame, parent, (*siblings[:place], *freed, *siblings[place + 1 :]))
    return without_layers(put_frame(project, frame), frame_id, {group_id})


def _group(frame: Frame, group_id: str) -> Layer:
    group = layer_index(frame).get(group_id)
    if group is None:
        raise NotFound(tr("There is no layer {group_id!r}.", group_id=group_id))
    if not isinstance(group.body, Group):
        raise EditError(tr("“{group}” is a {kind}, not a group.", group=group.name, kind=tr(group.kind)))
    return group


def use_as_mask(project: Project, frame_id: str, ids: Sequence[str]) -> tuple[Project, str]:
    """The topmost of the chosen layers masks the others; gives the group that they are now."""
    frame = frame_by_id(project, frame_id)
    chosen = topmost_chosen(frame, ids)
    if len(chosen) < 2:
        raise EditError(tr("Choose the layers and, above them, the one that masks them."))
    top = chosen[-1]
    name = layer_index(frame)[chosen[0]].name
    project, ident = group_layers(project, frame_id, chosen, f"{name}, masked")
    frame = change_layers(
        frame_by_id(project, frame_id),
        {ident: lambda layer: _fitted(replace(layer, body=replace(layer.body, mask=top)))},
    )
    return put_frame(project, frame), ident


def unmask(project: Project, frame_id: str, group_id: str) -> Project:
    """The group without its mask, which lies among its layers again."""
    frame = frame_by_id(project, frame_id)
    body = _group(frame, group_id).body
    if not isinstance(body, Group) or not body.mask:
        return project
    return put_frame(
        project, change_layers(frame, {group_id: lambda g: _fitted(replace(g, body=replace(body, mask="")))})
    )


def move_layers(project: Project, frame_id: str, ids: Sequence[str], parent: str, place: int) -> Project:
    """The layers into a group (empty id: the frame), before the child that stands at ``place`` now."""
    frame = frame_by_id(project, frame_id)
    chosen = topmost_chosen(frame, ids)
    flat = flatten(frame)
    up = parent
    while up:
        if up in chosen:
            raise EditError(tr("A group cannot go into itself."))
        up = parent_of(flat, up)
    space = space_of(flat, parent)
    moved = [flat.layers[flat.index[i]] if parent_of(flat, i) == parent else inside(flat, i, space) for i in chosen]
    siblings = children_of(frame, parent)
    place = sum(1 for entry in siblings[: max(0, place)] if entry.id not in chosen)
    mask = layer_index(frame)[parent].body.mask if parent else ""  # type: ignore[union-attr]
    frame = _taken_out(frame, chosen)
    rest = children_of(frame, parent)
    frame = with_children(frame, parent, (*rest[:place], *moved, *rest[place:]))
    if mask in chosen:
        frame = change_layers(frame, {parent: lambda g: replace(g, body=replace(g.body, mask=mask))})
    return project if frame == frame_by_id(project, frame_id) else put_frame(project, frame)


def reorder(project: Project, frame_id: str, ids: Sequence[str], how: str) -> Project:
    """The layers one step up or down among their siblings, or to the "top" or the "bottom"."""
    frame = frame_by_id(project, frame_id)
    flat = flatten(frame)
    chosen = topmost_chosen(frame, ids)
    for parent in dict.fromkeys(parent_of(flat, ident) for ident in chosen):
        own = list(children_of(frame, parent))
        order = [layer.id for layer in own]
        mine = [ident for ident in order if ident in chosen]
        others = [ident for ident in order if ident not in chosen]
        if how in ("top", "bottom"):
            order = [*others, *mine] if how == "top" else [*mine, *others]
        else:
            step = 1 if how == "up" else -1
            for ident in reversed(mine) if step > 0 else mine:
                k = order.index(ident)
                if 0 <= k + step < len(order) and order[k + step] not in chosen:
                    order[k], order[k + step] = order[k + step], order[k]
        by_id = {layer.id: layer for layer in own}
        frame = with_children(frame, parent, tuple(by_id[ident] for ident in order))
    return project if frame == frame_by_id(project, frame_id) else put_frame(project, frame)


def edit_layers(project: Project, frame_id: str, ids: Sequence[str], change: Callable[[Layer], Layer]) -> Project:
    """Several layers of a frame changed alike."""
    frame = frame_by_id(project, frame_id)
    new = change_layers(frame, dict.fromkeys(ids, change))
    return project if new is frame or new == frame else put_frame(project, new)


def remove_layers(project: Project, frame_id: str, ids: Sequence[str]) -> Project:
    """Without the layers and what hung on them."""
    for ident in topmost_chosen(frame_by_id(project, frame_id), ids):
        project = remove_layer(project, frame_id, ident)
    return project


def fit_groups(project: Project, frame_id: str, ids: Sequence[str]) -> Project:
    """The groups around layers that were moved or shaped, fitted to what they hold. Nothing moves on screen.

    A group that clips keeps its box: it says what is seen; a masked one has the box of its mask.
    """
    frame = frame_by_id(project, frame_id)
    flat = flatten(frame)
    above: dict[str, int] = {}
    for ident in ids:
        up = int(flat.parent[flat.index[ident]]) if ident in flat.index else -1
        while up >= 0:
            above[flat.layers[up].id] = int(flat.depth[up])
            up = int(flat.parent[up])
    fitted = frame
    for ident in sorted(above, key=lambda i: -above[i]):
        fitted = change_layers(fitted, {ident: _fitted})
    return project if fitted is frame else put_frame(project, fitted)


def _fitted(group: Layer) -> Layer:
    body = group.body
    if not isinstance(body, Group) or not body.children or body.clips:
        return group
    mask = tuple(child for child in body.children if child.id == body.mask)
    x, y, w, h = _around(mask or body.children)
    if max(abs(x), abs(y), abs(w - group.w), abs(h - group.h)) < _SAME:
        return group
    made = reboxed(group, x, y, w, h)
    plain = group.rotation == 0 and group.skew == 0 and (group.scale_x, group.scale_y) == (1.0, 1.0)
    if plain and group.pivot == (0.5, 0.5):
        made = pivoted(made, (0.5, 0.5))
    children = tuple(replace(child, x=child.x - x, y=child.y - y) for child in body.children)
    return replace(made, body=replace(body, children=children))


# Copies


def fresh_copy(layer: Layer, next_id: int, keep_origins: bool) -> tuple[Layer, int]:
    """A copy with new ids throughout; it may keep the origins, so that it is the same thing elsewhere."""
    ident = f"L{next_id}"
    next_id += 1
    body = layer.body
    if isinstance(body, Group):
        children, mask = [], ""
        for child in body.children:
            made, next_id = fresh_copy(child, next_id, keep_origins)
            mask = made.id if child.id == body.mask else mask
            children.append(made)
        body = replace(body, children=tuple(children), mask=mask)
    return replace(layer, id=ident, origin=layer.origin if keep_origins else ident, body=body), next_id


def duplicate(
    project: Project, frame_id: str, ids: Sequence[str], dx: float = 0.0, dy: float = 0.0
) -> tuple[Project, tuple[str, ...]]:
    """Copies right above their layers, shifted by px of the frame, as things of their own; their ids too."""
    frame = frame_by_id(project, frame_id)
    chosen = topmost_chosen(frame, ids)
    next_id, made = project.next_id, []
    for ident in chosen:
        flat = flatten(frame)
        parent = parent_of(flat, ident)
        copy, next_id = fresh_copy(layer_index(frame)[ident], next_id, keep_origins=False)
        copy = replace(copy, name=free_name([layer.name for layer in walk(frame.layers)], copy.name))
        copy = shifted(copy, space_of(flat, parent), dx, dy)
        siblings = children_of(frame, parent)
        place = next(k for k, entry in enumerate(siblings) if entry.id == ident) + 1
        frame = with_children(frame, parent, (*siblings[:place], copy, *siblings[place:]))
        made.append(copy.id)
    return replace(put_frame(project, frame), next_id=next_id), tuple(made)


def shifted(layer: Layer, space: Floats, dx: float, dy: float) -> Layer:
    """The layer moved by px of the frame; ``space`` is its parent's transform to the frame."""
    back = affine.invert([*space[:4], 0.0, 0.0])
    if back is None:
        raise EditError(tr("The layer lies in a group without size and cannot be moved."))
    mx, my = affine.apply(back, (dx, dy))
    return replace(layer, x=layer.x + float(mx), y=layer.y + float(my))


def carry(project: Project, frame_id: str, ids: Sequence[str], to_frames: Sequence[str]) -> Project:
    """Copies in other frames at the same place, of the same origin, so that they pair for certain.

    They go into the relative of the group that they lie in, when there is one, else onto the frame. Where a frame
    has a layer of that origin already, that one is left as it is.
    """
    source = frame_by_id(project, frame_id)
    flat = flatten(source)
    chosen = topmost_chosen(source, ids)
    next_id, carried = project.next_id, 0
    for target in to_frames:
        if target == frame_id:
            continue
        frame = frame_by_id(project, target)
        for ident in chosen:
            layer = layer_index(source)[ident]
            if any(other.origin == layer.origin for other in walk(frame.layers)):
                continue
            parent = _same_group(source, flat, ident, frame)
            there = flatten(frame)
            made = with_matrix(layer, affine.multiply(_inverse(space_of(there, parent)), flat.world[flat.index[ident]]))
            made, next_id = fresh_copy(made, next_id, keep_origins=True)
            frame = with_children(frame, parent, (*children_of(frame, parent), made))
            carried += 1
        project = put_frame(project, frame)
    if not carried:
        raise EditError(tr("The other frames have this layer already."))
    return replace(project, next_id=next_id)


def _same_group(source: Frame, flat: Flat, ident: str, frame: Frame) -> str:
    up = parent_of(flat, ident)
    if not up:
        return ""
    origin = layer_index(source)[up].origin
    found = (layer for layer in walk(frame.layers) if layer.origin == origin and isinstance(layer.body, Group))
    return next((layer.id for layer in found), "")


def _inverse(matrix: Floats) -> Floats:
    back = affine.invert(matrix)
    if back is None:
        raise EditError(tr("A group without size cannot take layers in."))
    return back
