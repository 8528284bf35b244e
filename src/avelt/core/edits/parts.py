"""Edits of parts: made from layers, used, dissolved; and any edit done inside one.

A part that changes changes all frames and parts that use it: they become other values, so that nothing that is kept by
their identity shows the old one.
"""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from avelt.core.curves.named import used_by as curve_users
from avelt.core.edits.frames import free_name, put_frame, with_ids, without_layers
from avelt.core.edits.layers import edit_layer
from avelt.core.edits.structure import fresh_copy, group_layers, ungroup
from avelt.core.errors import EditError, FormatError
from avelt.core.model.expressions import names_in, parse_value
from avelt.core.model.find import frame_by_id, layer_index, walk
from avelt.core.model.kinds import part_of
from avelt.core.model.parts import (
    as_stage,
    fits,
    linked_names,
    part_by_id,
    parts_in,
    pose_of,
    refuse_circles,
    used_by,
    uses_in,
)
from avelt.core.model.triggers import InputValue, hot_area, on_layer
from avelt.core.model.values import CLEAR, Feed, Frame, Group, Input, Layer, Part, Project, Use
from avelt.core.words import tr

replace = msgspec.structs.replace
FIRST_POSE = "at rest"


def make_part(
    project: Project, frame_id: str, ids: list[str], name: str = "", pose_name: str = FIRST_POSE
) -> tuple[Project, str, str]:
    """Layers become a part, and one use of it stands in their place; gives the ids of the part and of the use.

    Loops of the layers go along, and what of them follows a value. Routes that one of them is touched for are touched
    on the use from then on; what else routes say of them goes.
    """
    frame = frame_by_id(project, frame_id)
    if not ids:
        raise EditError(tr("Choose the layers that shall become a part."))
    index = layer_index(frame)
    inner = {layer.id for ident in ids if ident in index for layer in walk((index[ident],))}
    title = free_name([part.name for part in project.parts], name or index[ids[0]].name)
    project, group_id = group_layers(project, frame_id, ids, title)
    frame = frame_by_id(project, frame_id)
    group = layer_index(frame)[group_id]
    loops = tuple(loop for loop in frame.loops if loop.layer in inner)
    follows = tuple(follow for follow in frame.follows if follow.layer in inner)
    pose = Frame("", pose_name, group.w, group.h, layers=group.children, loops=loops, follows=follows)
    project, part_id = _with_part(project, title, pose)
    project = edit_layer(project, frame_id, group_id, lambda layer: replace(layer, body=Use(part_id)))
    routes = tuple(
        replace(r, trigger=on_layer(r.trigger, group_id))
        if r.leaves == frame_id and hot_area(r.trigger) in inner
        else r
        for r in project.routes
    )
    project = without_layers(replace(project, routes=routes), frame_id, inner)
    refuse_circles(project)
    return project, part_id, group_id


def new_part(project: Project, name: str, w: float, h: float, pose_name: str = FIRST_POSE) -> tuple[Project, str]:
    """An empty part of a size; gives its id. ``EditError`` when there is one of the name."""
    if any(part.name == name for part in project.parts):
        raise EditError(tr("There is a part {name!r} already.", name=name))
    return _with_part(project, name, Frame("", pose_name, w, h))


def _with_part(project: Project, name: str, pose: Frame) -> tuple[Project, str]:
    part_id, pose_id = f"P{project.next_id}", f"F{project.next_id + 1}"
    pose = replace(pose, id=pose_id, w=max(1.0, pose.w), h=max(1.0, pose.h), background=CLEAR, clips=False)
    part = Part(part_id, name, pose.w, pose.h, (pose,), first=pose_id)
    return replace(project, parts=(*project.parts, part), next_id=project.next_id + 2), part_id


def dissolve(project: Project, frame_id: str, layer_id: str) -> Project:
    """The layers of the pose that a use starts with stand in its place again, as layers of their own."""
    frame = frame_by_id(project, frame_id)
    use = layer_index(frame).get(layer_id)
    if use is None or not isinstance(use.body, Use):
        raise EditError(tr("Choose the use of a part to dissolve it."))
    pose = pose_of(part_by_id(project, use.body.part), use.body.pose)
    children, next_id = [], project.next_id
    for layer in pose.layers:
        made, next_id = fresh_copy(layer, next_id, keep_origins=False)
        children.append(made)
    fresh = dict(zip((e.id for e in walk(pose.layers)), (e.id for e in walk(tuple(children))), strict=True))
    loops = []
    for loop in pose.loops:
        ident = f"O{next_id}"
        next_id += 1
        loops.append(replace(loop, id=ident, origin=ident, layer=fresh[loop.layer]))
    follows = []
    for follow in pose.follows:
        ident = f"W{next_id}"
        next_id += 1
        by = with_ids(follow.by, fresh)
        follows.append(replace(follow, id=ident, origin=ident, layer=fresh[follow.layer], by=by))
    x, y = (a / b if b else 1.0 for a, b in ((use.w, pose.w), (use.h, pose.h)))

    def opened(layer: Layer) -> Layer:
        pivot = (layer.pivot[0], layer.pivot[1])
        moved = replace(
            layer,
            body=Group(tuple(children)),
            w=pose.w,
            h=pose.h,
            x=layer.x + (layer.w - pose.w) * pivot[0],
            y=layer.y + (layer.h - pose.h) * pivot[1],
        )
        return replace(moved, scale_x=layer.scale_x * x, scale_y=layer.scale_y * y)

    project = edit_layer(replace(project, next_id=next_id), frame_id, layer_id, opened)
    frame = frame_by_id(project, frame_id)
    frame = replace(frame, loops=(*frame.loops, *loops), follows=(*frame.follows, *follows))
    return ungroup(put_frame(project, frame), frame_id, layer_id)


def add_use(
    project: Project, frame_id: str, part_id: str, x: float = 0.0, y: float = 0.0, use: Use | None = None
) -> tuple[Project, str]:
    """A use of a part on top of a frame, as large as the part is; gives its id."""
    part, frame = part_by_id(project, part_id), frame_by_id(project, frame_id)
    ident = f"L{project.next_id}"
    names = [layer.name for layer in walk(frame.layers)]
    body = replace(use, part=part_id) if use is not None else Use(part_id)
    layer = Layer(ident, ident, free_name(names, part.name), body, x, y, part.w, part.h)
    project = put_frame(project, replace(frame, layers=(*frame.layers, layer)))
    return replace(project, next_id=project.next_id + 1), ident


def edit_use(project: Project, frame_id: str, layer_id: str, change: Callable[[Use], Use]) -> Project:
    """What a use says of its part; ``EditError`` for a layer that is none."""

    def changed(layer: Layer) -> Layer:
        if not isinstance(layer.body, Use):
            raise EditError(tr("{layer} is no use of a part.", layer=layer.name))
        return replace(layer, body=change(layer.body))

    return edit_layer(project, frame_id, layer_id, changed)


def use_other(project: Project, frame_id: str, layer_id: str, part_id: str) -> Project:
    """Another part in the place of a use; what feeds an input of the old part feeds that of the same name."""
    part = part_by_id(project, part_id)
    old = next(
        (p for p in project.parts if p.id == part_of(layer_index(frame_by_id(project, frame_id))[layer_id])), None
    )
    names = {entry.id: entry.name for entry in old.inputs} if old is not None else {}
    by_name = {entry.name: entry.id for entry in part.inputs}

    def change(use: Use) -> Use:
        feeds = tuple(
            replace(feed, input=by_name[names[feed.input]]) for feed in use.feeds if names.get(feed.input) in by_name
        )
        return replace(use, part=part_id, pose="", feeds=feeds, changes=())

    project = edit_use(project, frame_id, layer_id, change)
    refuse_circles(project)
    return project


def feed(project: Project, frame_id: str, layer_id: str, name: str, by: InputValue | None) -> Project:
    """What an input of the use's part (by name) gets: an input of this stage by its name, what an expression of those
    works out (for numbers, and yes and no), a value, or nothing."""
    use = layer_index(frame_by_id(project, frame_id))[layer_id]
    part = part_by_id(project, part_of(use))
    entry = next((e for e in part.inputs if name in (e.name, e.id)), None)
    if entry is None:
        raise EditError(tr("{part} has no input {name!r}.", part=part.name, name=name))
    if by is None:
        return edit_use(
            project,
            frame_id,
            layer_id,
            lambda old: replace(old, feeds=tuple(f for f in old.feeds if f.input != entry.id)),
        )
    source = next((e for e in project.inputs if isinstance(by, str) and by in (e.name, e.id)), None)
    if source is not None and source.kind != entry.kind:
        raise EditError(
            tr(
                "{part} wants a {kind} for {entry}, and {source} is a {kind2}.",
                part=part.name,
                kind=tr(entry.kind),
                entry=entry.name,
                source=source.name,
                kind2=tr(source.kind),
            )
        )
    worked_out = source is None and isinstance(by, str) and entry.kind in ("number", "yes/no")
    if worked_out:
        _check_expression(project, part, entry, str(by))
    elif source is None and not fits(entry, by):
        raise EditError(
            tr(
                "{part} wants a {kind} for {entry}: {by!r} is none, and no input.",
                part=part.name,
                kind=tr(entry.kind),
                entry=entry.name,
                by=by,
            )
        )
    made = Feed(entry.id, source.name) if source is not None else Feed(entry.id, "", by)
    made = Feed(entry.id, expression=str(by)) if worked_out else made

    def change(old: Use) -> Use:
        if any(f.input == entry.id for f in old.feeds):
            return replace(old, feeds=tuple(made if f.input == entry.id else f for f in old.feeds))
        return replace(old, feeds=(*old.feeds, made))

    return edit_use(project, frame_id, layer_id, change)


def _check_expression(project: Project, part: Part, entry: Input, text: str) -> None:
    """Raise ``EditError`` unless a text works out a value of an input from those of the stage."""
    known = {e.name for e in project.inputs}
    try:
        names = names_in(parse_value(text))
    except FormatError as error:
        raise EditError(
            tr(
                "{part} wants a {kind} for {entry}. {error}",
                part=part.name,
                kind=tr(entry.kind),
                entry=entry.name,
                error=error,
            )
        ) from None
    for name in names:
        if name not in known:
            raise EditError(
                tr(
                    "{part} wants a {kind} for {entry}: {words!r} is none, and there is no input {name!r}.",
                    part=part.name,
                    kind=tr(entry.kind),
                    entry=entry.name,
                    words=text,
                    name=name,
                )
            )


def rename_part(project: Project, part_id: str, name: str) -> Project:
    """Another name; no two parts share one."""
    name = name.strip()
    if not name:
        raise EditError(tr("A part needs a name."))
    if any(part.name == name and part.id != part_id for part in project.parts):
        raise EditError(tr("There is a part {name!r} already.", name=name))
    return put_part(project, replace(part_by_id(project, part_id), name=name))


def remove_part(project: Project, part_id: str) -> Project:
    """Without a part that nothing uses; ``EditError`` with the names of what does."""
    names = used_by(project, part_id)
    part = part_by_id(project, part_id)
    if names:
        some = ", ".join(names[:3])
        raise EditError(
            tr("{part} is used in {some} and more.", part=part.name, some=some)
            if len(names) > 3
            else tr("{part} is used in {some}.", part=part.name, some=some)
        )
    return replace(project, parts=tuple(entry for entry in project.parts if entry.id != part_id))


def in_stage(project: Project, part_id: str, edit: Callable[[Project], Project]) -> Project:
    """Any edit of a project done inside a part, on its poses as if they were frames."""
    part = part_by_id(project, part_id)
    stage = as_stage(project, part)
    made = edit(stage)
    if made is stage:
        return project
    if not made.frames:
        raise EditError(tr("{part} needs at least one pose.", part=part.name))
    first = made.first if any(pose.id == made.first for pose in made.frames) else made.frames[0].id
    size = next(pose for pose in made.frames if pose.id == first)
    changed = replace(
        part_by_id(made, part_id) if any(p.id == part_id for p in made.parts) else part,
        poses=made.frames,
        routes=made.routes,
        inputs=made.inputs,
        tracks=made.tracks,
        links=made.links,
        first=first,
        w=size.w,
        h=size.h,
    )
    outer = replace(
        made,
        name=project.name,
        frames=project.frames,
        routes=project.routes,
        inputs=project.inputs,
        tracks=project.tracks,
        first=project.first,
        tapes=project.tapes,
        links=project.links,
    )
    made = put_part(outer, changed)
    # Inside one sees only the presets that are linked to from there.
    names, wanted = {entry.name for entry in made.presets}, linked_names(made)
    others = tuple(e for e in project.presets if e.name in wanted and e.name not in names)
    made = replace(made, presets=(*made.presets, *others)) if others else made
    for entry in project.curves:
        if not any(e.id == entry.id for e in made.curves) and (count := curve_users(made, entry.id)):
            raise EditError(
                tr(
                    "“{entry}” is used {n} times outside of the part.",
                    "“{entry}” is used {n} time outside of the part.",
                    count,
                    entry=entry.name,
                )
            )
    return made


def put_part(project: Project, part: Part) -> Project:
    """A part in the place of the one with its id. Frames and parts that use it are other values from then on."""
    parts = tuple(part if entry.id == part.id else entry for entry in project.parts)
    touched = {part.id}
    grown = True
    while grown:  # what uses it, what uses that, and so on
        more = {entry.id for entry in parts if entry.id not in touched and touched & set(parts_in(entry))}
        touched |= more
        grown = bool(more)

    def again(frame: Frame) -> Frame:
        return replace(frame) if any(part_of(use) in touched for use in uses_in(frame)) else frame

    made = replace(
        project,
        frames=tuple(again(frame) for frame in project.frames),
        parts=tuple(replace(e, poses=tuple(again(pose) for pose in e.poses)) if e.id in touched else e for e in parts),
    )
    try:
        refuse_circles(made)
    except FormatError as error:
        raise EditError(error.sentence) from None
    return made
