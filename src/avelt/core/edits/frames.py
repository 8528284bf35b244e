"""Edits of whole frames."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Any

import msgspec

from avelt.core.edits.tape_names import frame_renamed
from avelt.core.errors import EditError
from avelt.core.model.curves import Named
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.kinds import mask_of
from avelt.core.model.motion import CueKey
from avelt.core.model.phases import without_pose
from avelt.core.model.tree import change_layers
from avelt.core.model.triggers import Tap
from avelt.core.model.values import Asset, Follow, Frame, Group, Layer, Loop, Project, Route, Transition
from avelt.core.words import tr

replace = msgspec.structs.replace


def put_frame(project: Project, frame: Frame) -> Project:
    """The project with a frame of the same id exchanged."""
    frames = tuple(frame if old.id == frame.id else old for old in project.frames)
    return replace(project, frames=frames)


def free_name(taken: Sequence[str], wanted: str) -> str:
    """The name, or with a number behind it when it is taken."""
    if wanted not in taken:
        return wanted
    number = 2
    while f"{wanted} {number}" in taken:
        number += 1
    return f"{wanted} {number}"


def renumber(frame: Frame, next_id: int, keep_origins: bool) -> tuple[Frame, int]:
    """The frame with fresh ids for itself, its layers and loops. Layers of a copy may keep their origins."""
    fresh: dict[str, str] = {}

    def number(prefix: str) -> str:
        nonlocal next_id
        next_id += 1
        return f"{prefix}{next_id - 1}"

    def layer(old: Layer) -> Layer:
        ident = fresh[old.id] = fresh.get(old.id) or number("L")
        body = old.body
        if isinstance(body, Group):
            children = tuple(layer(child) for child in body.children)
            body = replace(body, children=children, mask=fresh.get(body.mask, ""))
        return replace(old, id=ident, origin=old.origin if keep_origins else ident, body=body)

    def loop(old: Loop) -> Loop:
        ident = number("O")
        return replace(old, id=ident, origin=old.origin if keep_origins else ident, layer=fresh[old.layer])

    def follow(old: Follow) -> Follow:
        ident = number("W")
        origin = old.origin if keep_origins else ident
        return replace(old, id=ident, origin=origin, layer=fresh[old.layer], by=with_ids(old.by, fresh))

    ident = number("F")
    layers = tuple(layer(entry) for entry in frame.layers)
    loops = tuple(loop(entry) for entry in frame.loops)
    follows = tuple(follow(entry) for entry in frame.follows)
    source = frame.source
    if source is not None:
        base = layers if source.base is frame.layers else tuple(layer(entry) for entry in source.base)
        source = replace(source, base=base)
    entrance = with_ids(frame.entrance, fresh)
    made = replace(frame, id=ident, layers=layers, loops=loops, source=source, entrance=entrance, follows=follows)
    return made, next_id


def with_ids(value: Any, fresh: Mapping[str, str]) -> Any:
    """A value of the model with ids exchanged, however deep they stand in it."""
    if isinstance(value, str):
        return fresh.get(value, value)
    if isinstance(value, tuple):
        inside = [with_ids(entry, fresh) for entry in value]
        return type(value)(*inside) if hasattr(value, "_fields") else tuple(inside)
    if isinstance(value, msgspec.Struct):
        fields = {name: with_ids(getattr(value, name), fresh) for name in value.__struct_fields__}
        return replace(value, **fields)
    return value


def add_frames(project: Project, frames: Sequence[Frame], assets: Sequence[Asset]) -> Project:
    """Frames that were brought in, with new ids, behind those that are there."""
    known = {asset.id for asset in project.assets}
    new_assets = {asset.id: asset for asset in assets if asset.id not in known}
    made: list[Frame] = []
    next_id = project.next_id
    names = [frame.name for frame in project.frames]
    for frame in frames:
        numbered, next_id = renumber(frame, next_id, keep_origins=False)
        numbered = replace(numbered, name=free_name(names, numbered.name))
        names.append(numbered.name)
        made.append(numbered)
    first = project.first or (made[0].id if made else "")
    return replace(
        project,
        frames=(*project.frames, *made),
        assets=(*project.assets, *new_assets.values()),
        next_id=next_id,
        first=first,
    )


def chain_routes(project: Project) -> Project:
    """One route per neighbouring couple of frames, tap anywhere, 300 ms; only where there are none yet."""
    if project.routes or len(project.frames) < 2:
        return project
    next_id = project.next_id
    routes = []
    for left, right in zip(project.frames, project.frames[1:], strict=False):
        routes.append(Route(f"R{next_id}", left.id, right.id, Tap(), Transition(300.0, Named("settle"))))
        next_id += 1
    return replace(project, routes=tuple(routes), next_id=next_id)


def next_state(project: Project, frame_id: str, name: str = "") -> Project:
    """A copy of the frame right behind it; its layers keep their origins, so they pair for certain."""
    old = frame_by_id(project, frame_id)
    copy, next_id = renumber(old, project.next_id, keep_origins=True)
    names = [frame.name for frame in project.frames]
    copy = replace(copy, name=free_name(names, name or f"{old.name}, next"), source=None)
    place = project.frames.index(old) + 1
    frames = (*project.frames[:place], copy, *project.frames[place:])
    return replace(project, frames=frames, next_id=next_id)


def rename_frame(project: Project, frame_id: str, name: str) -> Project:
    """Another name; no two frames share one."""
    name = name.strip()
    frame = frame_by_id(project, frame_id)
    if not name or name == frame.name:
        return project
    taken = [other.name for other in project.frames if other.id != frame_id]
    if name in taken:
        raise EditError(tr("There is a frame “{name}” already.", name=name))
    return frame_renamed(put_frame(project, replace(frame, name=name)), frame.name, name)


def remove_frame(project: Project, frame_id: str) -> Project:
    """Without the frame, the routes from and to it, and the phases that show it."""
    frames = tuple(frame for frame in project.frames if frame.id != frame_id)
    routes = tuple(route for route in project.routes if frame_id not in (route.leaves, route.arrives))
    first = project.first if project.first != frame_id else (frames[0].id if frames else "")
    tracks = without_pose(project.tracks, frame_id)
    return replace(project, frames=frames, routes=routes, first=first, tracks=tracks)


def set_first(project: Project, frame_id: str) -> Project:
    """The frame that a rehearsal begins with."""
    frame_by_id(project, frame_id)
    return project if project.first == frame_id else replace(project, first=frame_id)


def remove_layer(project: Project, frame_id: str, layer_id: str) -> Project:
    """Without the layer, its loops, and what hung on it in routes."""
    frame = frame_by_id(project, frame_id)
    gone = {layer_id, *(layer.id for layer in _inside(layer_index(frame)[layer_id]))}

    def without_mask(layer: Layer) -> Layer:
        if mask_of(layer) in gone:
            return replace(layer, body=replace(layer.body, mask=""))
        return layer

    keep: dict[str, object] = dict.fromkeys(layer_index(frame), without_mask)
    keep[layer_id] = lambda layer: None
    frame = change_layers(frame, keep)  # type: ignore[arg-type]
    return without_layers(put_frame(project, frame), frame_id, gone)


def without_layers(project: Project, frame_id: str, gone: set[str]) -> Project:
    """Without the loops, follows, cues and decisions of layers that are gone."""
    frame = frame_by_id(project, frame_id)
    loops = tuple(loop for loop in frame.loops if loop.layer not in gone)
    follows = tuple(follow for follow in frame.follows if follow.layer not in gone)
    if len(loops) != len(frame.loops) or len(follows) != len(frame.follows):
        project = put_frame(project, replace(frame, loops=loops, follows=follows))
    if frame.entrance is not None and gone & set(frame.entrance.layers):
        layers = tuple(ident for ident in frame.entrance.layers if ident not in gone)
        entrance = replace(frame.entrance, layers=layers, transition=_motion_without(frame.entrance.transition, gone))
        project = put_frame(project, replace(frame_by_id(project, frame_id), entrance=entrance if layers else None))
    routes = tuple(_without(route, gone) for route in project.routes)
    return replace(project, routes=routes)


def _inside(layer: Layer) -> list[Layer]:
    return [entry for child in layer.children for entry in (child, *_inside(child))]


def _without(route: Route, gone: set[str]) -> Route:
    """What hung on the layers goes. The trigger stays: that its layer is gone is shown as trouble."""
    transition = _motion_without(route.transition, gone)
    tryouts = tuple(replace(entry, transition=_motion_without(entry.transition, gone)) for entry in route.tryouts)
    if transition is route.transition and tryouts == route.tryouts:
        return route
    return replace(route, transition=transition, tryouts=tryouts)


def _motion_without(old: Transition, gone: set[str]) -> Transition:
    def stays(key: CueKey) -> bool:
        return key.from_id not in gone and key.to_id not in gone

    staggers = (replace(e, cues=tuple(key for key in e.cues if stays(key))) for e in old.staggers)
    transition = replace(
        old,
        ties=tuple(tie for tie in old.ties if stays(tie.cue) and stays(tie.to)),
        staggers=tuple(entry for entry in staggers if len(entry.cues) > 1),
        cues=tuple(c for c in old.cues if c.from_id not in gone and c.to_id not in gone),
        decisions=tuple(d for d in old.decisions if d.from_id not in gone and d.to_id not in gone),
        absents=tuple(a for a in old.absents if a.layer not in gone),
        settled=tuple(e for e in old.settled if e.from_id not in gone and e.to_id not in gone),
    )
    return old if transition == old else transition
