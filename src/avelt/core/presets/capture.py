"""Taking motion off a layer and putting it on another. Both are pure."""

from __future__ import annotations

from typing import Literal

import msgspec

from avelt.core.curves.named import plain
from avelt.core.edits.routes import edit_transition, set_absent, with_cue
from avelt.core.errors import EditError
from avelt.core.model.find import layer_index, route_by_id
from avelt.core.model.motion import CueKey, PairKey
from avelt.core.model.values import Away, Cue, Layer, Project, Route, Transition
from avelt.core.presets.values import Preset, PresetCue
from avelt.core.timing import over
from avelt.core.timing.schedule import base_curve, duration_of, plan_of

replace = msgspec.structs.replace


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
    kept = tuple(_kept(project, cue, length) for cue in [whole, *(cue for cue in cues if cue.prop)])
    kind: Literal["cue set", "enter", "leave"] = (
        "enter" if ends[0] is None else "leave" if ends[1] is None else "cue set"
    )
    absent = absent_px = None
    if kind != "cue set":
        layer = _layer(project, route, ends)
        usual = transition.leave if kind == "leave" else transition.enter
        absent_px = next((a.pose for a in transition.absents if a.layer == layer.id), usual)
        absent = _in_shares(absent_px, layer)
    return Preset(name.strip(), kind, length, kept, absent, absent_px, note)


def left_out(project: Project, route_id: str, ends: PairKey) -> str:
    """What of a pair's motion a preset does not keep, as a sentence; empty when it keeps all."""
    motion = route_by_id(project, route_id).transition
    cues = [cue for cue in motion.cues if cue.key.pair == ends]
    found = [
        words
        for words, there in (
            ("keyframes", any(cue.keyframes for cue in cues)),
            ("the motion path", any(cue.motion_path is not None for cue in cues)),
            ("the space of its colours", any(cue.space is not None for cue in cues)),
            ("what it is tied to", any(tie.cue.pair == ends for tie in motion.ties)),
            ("the rule of its stagger", any(key.pair == ends for rule in motion.staggers for key in rule.cues)),
        )
        if there
    ]
    return f"A preset does not keep {', '.join(found)}: times and curves are kept as they are now." if found else ""


def _kept(project: Project, cue: Cue, length: float) -> PresetCue:
    def share(ms: float | None) -> float | None:
        return None if ms is None else (ms / length if length > 0 else 0.0)

    curve = plain(project, cue.curve) if cue.curve is not None else None
    return PresetCue(cue.prop, share(cue.start), share(cue.end), cue.start, cue.end, curve, cue.shortest)


def _layer(project: Project, route: Route, ends: PairKey) -> Layer:
    left, right = over.ends(project, route)
    layer = layer_index(left if ends[0] is not None else right).get((ends[0] if ends[0] is not None else ends[1]) or "")
    if layer is None:
        raise EditError("The layer is not in the route's frames.")
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

    def cue(entry: PresetCue) -> Cue:
        if how == "recorded":
            start, end = entry.start_ms, entry.end_ms
        else:
            start = entry.start * length if entry.start is not None else None
            end = entry.end * length if entry.end is not None else None
        return Cue(ends[0], ends[1], entry.prop, start, end, entry.curve, entry.shortest)

    def change(old: Transition) -> Transition:
        new = replace(old, cues=tuple(c for c in old.cues if (c.from_id, c.to_id) != ends))
        for entry in preset.cues:
            new = with_cue(new, cue(entry))
        return new

    project = edit_transition(project, route_id, change)
    pose = preset.absent_px if how == "recorded" else preset.absent
    if pose is None or (ends[0] is not None and ends[1] is not None):
        return project
    layer = _layer(project, route, ends)
    if how == "follow":
        pose = replace(pose, shift_x=pose.shift_x * (layer.w or 1.0), shift_y=pose.shift_y * (layer.h or 1.0))
    return set_absent(project, route_id, layer.id, pose)
