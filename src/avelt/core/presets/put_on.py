"""Putting a preset of any kind on what was chosen: pairs, routes, layers, frames. Everything here is pure."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial
from typing import Literal

import msgspec

from avelt.core.edits.cues import change_cues
from avelt.core.edits.loops import paste_loop
from avelt.core.edits.parts import add_use
from avelt.core.edits.routes import edit_transition, set_cue
from avelt.core.edits.ties_and_staggers import make_stagger
from avelt.core.errors import EditError
from avelt.core.model.find import frame_by_id, layer_index, route_by_id
from avelt.core.model.motion import Cue, CueKey, PairKey, Transition
from avelt.core.model.values import Layer, Loop, Project
from avelt.core.presets.adjusted import How, adjusted
from avelt.core.presets.capture import put
from avelt.core.presets.pieces import as_it_was, without
from avelt.core.presets.places import Done, Where, first_route
from avelt.core.presets.roles import on_roles, on_routes
from avelt.core.presets.take_part import take_part
from avelt.core.presets.values import Preset, as_project
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import plan_of
from avelt.core.words import tr

replace = msgspec.structs.replace
_NO_DIRECTION = ("layer motion", "stagger", "curve", "motion path", "part")
_KINDS: tuple[Literal["leave", "enter"], ...] = ("leave", "enter")  # by whether the layer enters


def put_preset(project: Project, preset: Preset, where: Where, how: How | None = None) -> Done:
    """The preset on what was chosen. ``EditError`` where it cannot be put there at all."""
    how = how or How()
    preset, before = without(preset, how.left_out), project
    done = _put(project, preset, where, how)
    project = done.project
    for route_id in where.routes if preset.left_out else ():
        project = edit_transition(project, route_id, partial(_own_kept, before, route_id, preset.left_out))
    return replace(done, project=project)


def _own_kept(before: Project, route_id: str, left_out: tuple[str, ...], new: Transition) -> Transition:
    """A motion that was put on, where what was left out is as the route had it."""
    return as_it_was(route_by_id(before, route_id).transition, new, left_out)


def _put(project: Project, preset: Preset, where: Where, how: How) -> Done:
    if how.direction and preset.kind in _NO_DIRECTION:
        raise EditError(tr("“{preset}” goes where its layers go: it has no direction of its own.", preset=preset.name))
    if preset.kind in ("enter", "leave", "layer motion"):
        return _on_layers(project, preset, where, how)
    return _BY_KIND[preset.kind](project, adjusted(preset, how), where, how)


def _on_layers(project: Project, preset: Preset, where: Where, how: How) -> Done:
    """A layer's motion on pairs; a way to come or go on layers that do either, there and back the same way."""
    route_id, placed = first_route(where), 0
    wanted = _fitting(preset, where.pairs)
    for place, pair in enumerate(wanted):
        made = adjusted(preset if None not in pair else replace(preset, kind=_KINDS[pair[0] is None]), how)
        project = put(project, route_id, pair, made, "follow" if how.follow else "recorded")
        if how.start is not None:
            project = _begin_at(project, route_id, pair, how.start + how.step * place)
        elif how.step and place:
            project = _shifted(project, route_id, pair, how.step * place)
        placed += 1
    if not placed:
        words = tr("that moves") if preset.kind == "layer motion" else tr("that comes or goes")
        raise EditError(tr("“{preset}” is for a layer {words}: choose one.", preset=preset.name, words=words))
    missed = len(where.pairs) - placed
    return Done(
        project,
        tr("{missed} of {count} layers are of another kind.", missed=missed, count=len(where.pairs)) if missed else "",
    )


def _fitting(preset: Preset, pairs: Sequence[PairKey]) -> list[PairKey]:
    return [pair for pair in pairs if preset.kind == "layer motion" or None in pair]


def _times(project: Project, route_id: str, pair: PairKey) -> float:
    """When a pair begins: the earliest of its cues."""
    transition = route_by_id(project, route_id).transition
    keys = {cue.key for cue in transition.cues if cue.key.pair == pair} | {CueKey(*pair, "")}
    plan = plan_of(project, transition)
    return min(plan.of(key)[0] for key in keys)


def _begin_at(project: Project, route_id: str, pair: PairKey, ms: float) -> Project:
    return _shifted(project, route_id, pair, ms - _times(project, route_id, pair))


def _shifted(project: Project, route_id: str, pair: PairKey, by: float) -> Project:
    def change(old: Transition) -> Transition:
        return replace(old, cues=tuple(_later(cue, by) if cue.key.pair == pair else cue for cue in old.cues))

    return edit_transition(project, route_id, change)


def _later(cue: Cue, by: float) -> Cue:
    start = None if cue.start is None else max(0.0, cue.start + by)
    return replace(cue, start=start, end=None if cue.end is None else max(start or 0.0, cue.end + by))


def _on_curves(project: Project, preset: Preset, where: Where, how: How) -> Done:
    """A curve on the cues of pairs, or as the base curve of routes."""
    if not where.pairs:
        for route_id in where.routes or (first_route(where),):
            project = edit_transition(project, route_id, lambda old: replace(old, curve=preset.curve or old.curve))
        return Done(project)
    for pair in where.pairs:
        project = set_cue(project, first_route(where), CueKey(*pair, ""), curve=preset.curve)
    return Done(project)


def _on_paths(project: Project, preset: Preset, where: Where, how: How) -> Done:
    """A motion path on the positions of pairs; as large as their layers are."""
    route_id = first_route(where)
    left = layer_index(ends(project, route_by_id(project, route_id))[0])
    pairs = [pair for pair in where.pairs if None not in pair]
    if not pairs or preset.motion_path is None:
        raise EditError(tr("“{preset}” is for a layer that is on both frames: choose one.", preset=preset.name))
    for pair in pairs:
        layer = left.get(pair[0] or "")
        grown = (1.0, 1.0)
        if how.follow and layer is not None and all(preset.size):
            grown = layer.w / preset.size[0], layer.h / preset.size[1]
        points = tuple((u, dx * grown[0], dy * grown[1]) for u, dx, dy in preset.motion_path.points)
        path = replace(preset.motion_path, points=points)
        project = change_cues(project, route_id, [CueKey(*pair, "position")], motion_path=path)
    missed = len(where.pairs) - len(pairs)
    return Done(project, tr("{missed} layers are only on one frame.", missed=missed) if missed else "")


def _on_rules(project: Project, preset: Preset, where: Where, how: How) -> Done:
    """A stagger over pairs, in the order in which they are given."""
    if preset.stagger is None or len(where.pairs) < 2:
        raise EditError(tr("“{preset}” spreads several layers: choose two or more.", preset=preset.name))
    keys = [CueKey(*pair, "") for pair in where.pairs]
    return Done(make_stagger(project, first_route(where), keys, preset.stagger)[0])


def _on_frames(project: Project, preset: Preset, where: Where, how: How) -> Done:
    """A loop on layers of a frame, each a little later."""
    if preset.loop is None or not where.layers:
        raise EditError(tr("“{preset}” is a loop: choose layers of a frame.", preset=preset.name))
    loop, of = preset.loop.loop, preset.loop.layer
    if how.start is not None:
        loop = replace(loop, start_offset=-how.start)
    index = layer_index(frame_by_id(project, where.frame))
    for place, ident in enumerate(ident for ident in where.layers if ident in index):
        own = _as_large(loop, of, index[ident]) if how.follow else loop
        own = replace(own, name=f"{of.name} {preset.name.lower()}", start_offset=own.start_offset - how.step * place)
        project = paste_loop(project, where.frame, own, of, [ident])[0]
    return Done(project)


def _as_large(loop: Loop, of: Layer, layer: Layer) -> Loop:
    """A loop's shifts, keyframes and path as shares of another layer."""
    x, y = layer.w / of.w if of.w else 1.0, layer.h / of.h if of.h else 1.0
    offset = replace(loop.offset, shift_x=loop.offset.shift_x * x, shift_y=loop.offset.shift_y * y)
    return replace(loop, offset=offset, path=tuple((a * x, b * y) for a, b in loop.path))


def _as_use(project: Project, preset: Preset, where: Where, how: How) -> Done:
    """A part on a frame, as a use; a part of the same content that is there already is used."""
    if preset.part is None:
        raise EditError(tr("“{preset}” holds no part.", preset=preset.name))
    if not where.frame:
        raise EditError(tr("Choose a frame first."))
    project, ident = take_part(project, as_project(preset))
    return Done(add_use(project, where.frame, ident, *where.at)[0])


_BY_KIND: dict[str, Callable[[Project, Preset, Where, How], Done]] = {
    "shared": on_roles,
    "transition": on_routes,
    "loop": _on_frames,
    "stagger": _on_rules,
    "curve": _on_curves,
    "motion path": _on_paths,
    "part": _as_use,
}
