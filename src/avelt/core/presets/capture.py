"""Taking motion off a layer and putting it on another. Both are pure."""

from __future__ import annotations

from typing import Literal

import msgspec

from avelt.core.curves.named import plain
from avelt.core.edits.keyframes import amounts, ends_of, values_of
from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import edit_transition, set_absent, with_cue
from avelt.core.errors import EditError
from avelt.core.model.find import frame_of_layer, layer_index, route_by_id
from avelt.core.model.motion import CueKey, Keyframe, PairKey
from avelt.core.model.values import Away, Cue, Layer, Project, Route, Transition
from avelt.core.presets.values import Preset, PresetCue
from avelt.core.timing import over
from avelt.core.timing.compile import compile_route
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import base_curve, duration_of, plan_of
from avelt.core.words import tr

replace = msgspec.structs.replace
_HALF, _FULL = 180.0, 360.0  # degrees


def capture(project: Project, route_id: str, ends: PairKey, name: str, note: str = "") -> Preset:
    """The motion of one pair (from id, to id; one of them None for what leaves or enters) as a preset.

    What the layer inherits is kept too: its curve and its time are written out, so that the preset feels
    the same wherever it is put.
    """
    route = route_by_id(project, route_id)
    transition = route.transition
    length = duration_of(transition, project)
    cues = [cue for cue in transition.cues if (cue.from_id, cue.to_id) == ends]
    times = plan_of(project, transition).of(CueKey(*ends, ""))
    whole = next((cue for cue in cues if not cue.prop), Cue(*ends))
    whole = replace(
        whole,
        start=times[0],
        end=times[1],
        curve=whole.curve if whole.curve is not None else base_curve(transition, *ends),
    )
    program = compile_route(project, route)
    kept = tuple(_kept(project, cue, length, program) for cue in [whole, *(cue for cue in cues if cue.prop)])
    kept = (*kept, *_typed_turn(project, cues, program, ends))
    layer = _layer(project, route, ends)
    kind: Literal["layer motion", "enter", "leave"] = (
        "enter" if ends[0] is None else "leave" if ends[1] is None else "layer motion"
    )
    absent = absent_px = None
    if kind != "layer motion":
        usual = transition.leave if kind == "leave" else transition.enter
        absent_px = replace(next((a.pose for a in transition.absents if a.layer == layer.id), usual), behind="")
        absent = _in_shares(absent_px, layer)
    return Preset(name.strip(), kind, length, kept, absent, absent_px, note, (layer.w, layer.h))


def left_out(project: Project, route_id: str, ends: PairKey) -> str:
    """What of a pair's motion a preset does not keep, as a sentence; empty when it keeps all."""
    motion = route_by_id(project, route_id).transition
    alone = ends[0] or ends[1] if None in ends else None
    found = [
        words
        for words, there in (
            (tr("what it is tied to"), any(tie.cue.pair == ends for tie in motion.ties)),
            (tr("the rule of its stagger"), any(key.pair == ends for rule in motion.staggers for key in rule.cues)),
            (tr("what it is painted behind"), any(e.layer == alone and e.pose.behind for e in motion.absents)),
            (tr("how its content changes"), any((e.from_id, e.to_id) == ends for e in motion.settled)),
        )
        if there
    ]
    return (
        tr("A preset does not keep {found}: times and curves are kept as they are now.", found=", ".join(found))
        if found
        else ""
    )


def _kept(project: Project, cue: Cue, length: float, program: Program) -> PresetCue:
    def share(ms: float | None) -> float | None:
        return None if ms is None else (ms / length if length > 0 else 0.0)

    first: tuple[float, ...] = ()
    last: tuple[float, ...] = ()
    keys = tuple(replace(key, curve=plain(project, key.curve) if key.curve else None) for key in cue.keyframes)
    if keys and not (cue.prop == "position" and cue.motion_path is not None):
        first, last = ends_of(program, program.slot_of(cue.from_id, cue.to_id), cue.prop)
        keys = tuple(replace(key, value=amounts(cue.prop, key.at, key.value, (first, last))) for key in keys)
    return PresetCue(
        cue.prop,
        share(cue.start),
        share(cue.end),
        cue.start,
        cue.end,
        plain(project, cue.curve) if cue.curve is not None else None,
        cue.shortest,
        cue.space,
        cue.muted,
        keys,
        first,
        last,
        cue.motion_path,
        _turn(program, cue.key) if cue.prop == "rotation" else None,
    )


def _turn(program: Program, key: CueKey) -> float | None:
    """By how many degrees a rotation is typed to go, when that is more than half a turn."""
    slot = program.slot_of(key.from_id, key.to_id)
    if slot < 0 or None in key.pair:
        return None
    (first,), (last,) = ends_of(program, slot, "rotation")
    return last - first if abs(last - first) > _HALF else None


def _typed_turn(project: Project, cues: list[Cue], program: Program, ends: PairKey) -> tuple[PresetCue, ...]:
    """A rotation that is typed to go round without a cue of its own."""
    turned = _turn(program, CueKey(*ends, "rotation"))
    if turned is None or any(cue.prop == "rotation" for cue in cues):
        return ()
    return (PresetCue("rotation", turned=turned),)


def _layer(project: Project, route: Route, ends: PairKey) -> Layer:
    left, right = over.ends(project, route)
    layer = layer_index(left if ends[0] is not None else right).get((ends[0] if ends[0] is not None else ends[1]) or "")
    if layer is None:
        raise EditError(tr("The layer is not in the route's frames."))
    return layer


def _in_shares(pose: Away, layer: Layer) -> Away:
    return replace(pose, shift_x=pose.shift_x / (layer.w or 1.0), shift_y=pose.shift_y / (layer.h or 1.0))


def put(
    project: Project, route_id: str, ends: PairKey, preset: Preset, how: Literal["follow", "recorded"] = "follow"
) -> Project:
    """The preset on a pair: its cues take the place of the pair's own.

    ``follow``: times are shares of this transition's length and shifts shares of this layer's size;
    ``recorded``: the milliseconds and pixels that were recorded.
    """
    route = route_by_id(project, route_id)
    length = duration_of(route.transition, project)
    ends = PairKey(*ends)
    target = _layer(project, route, ends)
    grown = tuple(
        b / a if how == "follow" and a else 1.0 for a, b in zip(preset.size, (target.w, target.h), strict=True)
    )
    project = _turned(project, route_id, ends, preset)
    program = compile_route(project, route_by_id(project, route_id)) if any(e.keyframes for e in preset.cues) else None

    def cue(entry: PresetCue) -> Cue:
        if how == "recorded":
            start, end = entry.start_ms, entry.end_ms
        else:
            start = entry.start * length if entry.start is not None else None
            end = entry.end * length if entry.end is not None else None
        way = entry.motion_path
        if way is not None:
            points = tuple((u, dx * grown[0], dy * grown[1]) for u, dx, dy in way.points)
            way = replace(way, points=points)
        keys = entry.keyframes
        if keys and entry.first and program is not None:
            keys = _keys(entry, program, ends, grown)
        return Cue(*ends, entry.prop, start, end, entry.curve, entry.shortest, entry.space, entry.muted, keys, way)

    def change(old: Transition) -> Transition:
        new = replace(old, cues=tuple(c for c in old.cues if (c.from_id, c.to_id) != ends))
        for entry in preset.cues:
            new = with_cue(new, cue(entry))
        return new

    project = edit_transition(project, route_id, change)
    pose = preset.absent_px if how == "recorded" else preset.absent
    if pose is None or (ends[0] is not None and ends[1] is not None):
        return project
    if how == "follow":
        pose = replace(pose, shift_x=pose.shift_x * (target.w or 1.0), shift_y=pose.shift_y * (target.h or 1.0))
    return set_absent(project, route_id, target.id, pose)


def _keys(entry: PresetCue, program: Program, ends: PairKey, grown: tuple[float, ...]) -> tuple[Keyframe, ...]:
    """A preset's keyframes as those of a pair."""
    own, other = (entry.first, entry.last), ends_of(program, program.slot_of(*ends), entry.prop)
    factors = grown if entry.prop == "position" else (1.0,) * len(entry.first)
    return tuple(
        replace(
            key,
            value=values_of(
                entry.prop, key.at, tuple(v * f for v, f in zip(key.value, factors, strict=True)), own, other
            ),
        )
        for key in entry.keyframes
    )


def _turned(project: Project, route_id: str, ends: PairKey, preset: Preset) -> Project:
    """A rotation that was typed to go round goes round as often here: whole turns are put to where it arrives, which
    look the same there."""
    turned = next((entry.turned for entry in preset.cues if entry.turned is not None), None)
    if turned is None or ends.from_id is None or ends.to_id is None:
        return project
    route = route_by_id(project, route_id)
    left, right = over.ends(project, route)
    first, last = layer_index(left)[ends.from_id], layer_index(right)[ends.to_id]
    home = frame_of_layer(project, last.id)
    rounds = round((turned - (last.rotation - first.rotation)) / _FULL)
    if home is None or not rounds:
        return project
    return set_value(project, home.id, last.id, "rotation", last.rotation + rounds * _FULL)
