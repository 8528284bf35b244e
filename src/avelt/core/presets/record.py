"""Keeping motion that is more (or less) than one layer's: whole transitions, pairs of one, loops, rules, parts."""

from __future__ import annotations

from base64 import b64encode
from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any, TypeVar, cast

import msgspec

from avelt.core.curves.named import plain
from avelt.core.errors import EditError, NotFound
from avelt.core.geometry.flatten import flatten
from avelt.core.model.curves import Curve, Named
from avelt.core.model.find import frame_by_id, layer_index, route_by_id, walk
from avelt.core.model.kinds import asset_of
from avelt.core.model.motion import Cue, CueKey, Decision, PairKey, Transition
from avelt.core.model.parts import part_by_id, parts_in
from avelt.core.model.values import (
    Box,
    Frame,
    Layer,
    LayerChanges,
    Loop,
    Pattern,
    Picture,
    Project,
    Run,
    Solid,
    Text,
    Use,
)
from avelt.core.presets.values import LoopOf, PartOf, Preset, PresetAsset, Recorded
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import duration_of, timed
from avelt.core.words import tr

replace = msgspec.structs.replace
T = TypeVar("T")
_NEUTRAL = (Solid("#9fb4b2"),)


def capture_transition(project: Project, route_id: str, name: str, note: str = "") -> Preset:
    """All of a route's motion: length, curves by role, ways to come and go, cues, ties, staggers."""
    route = route_by_id(project, route_id)
    left, right = ends(project, route)
    pairing = pairing_of(project, route)
    kept = Recorded(
        _stand_in(left, "left"),
        _stand_in(right, "right"),
        _told(_plain(project, route.transition), pairing.to_of),
        route.delay,
    )
    return Preset(name.strip(), "transition", duration_of(route.transition, project), note=note, recorded=kept)


def capture_shared(project: Project, route_id: str, pairs: Sequence[PairKey], name: str, note: str = "") -> Preset:
    """Some pairs of a route with their ties and staggers; each plays a role, by name, kind and place."""
    if not pairs:
        raise EditError(tr("Choose the layers that play a role in it."))
    route = route_by_id(project, route_id)
    left, right = ends(project, route)
    wanted = set(pairs)
    motion = _plain(project, route.transition)
    cues: list[Cue] = []
    for pair in pairs:
        whole = timed(project, route.transition, *pair, "")
        own = next((cue for cue in motion.cues if cue.key == CueKey(*pair, "")), Cue(*pair))
        cues.append(replace(own, start=whole.start, end=whole.end, curve=own.curve or plain(project, whole.curve)))
        cues += [cue for cue in motion.cues if cue.key.pair == pair and cue.prop]
    ties = tuple(tie for tie in motion.ties if tie.cue.pair in wanted and tie.to.pair in wanted)
    rules = ((rule, tuple(key for key in rule.cues if key.pair in wanted)) for rule in motion.staggers)
    staggers = tuple(replace(rule, cues=keys) for rule, keys in rules if len(keys) > 1)
    alone = {pair[0] or pair[1] for pair in pairs if None in pair}
    motion = replace(
        motion,
        cues=tuple(cues),
        ties=ties,
        staggers=staggers,
        absents=tuple(entry for entry in motion.absents if entry.layer in alone),
        settled=tuple(e for e in motion.settled if (e.from_id, e.to_id) in wanted),
    )
    both = {pair[0]: pair[1] for pair in pairs if pair[0] is not None and pair[1] is not None}
    kept = Recorded(
        _only(left, {pair[0] for pair in pairs}, "left"),
        _only(right, {pair[1] for pair in pairs}, "right"),
        _told(motion, both),
    )
    return Preset(name.strip(), "shared", duration_of(route.transition, project), note=note, recorded=kept)


def _plain(project: Project, motion: Transition) -> Transition:
    """A motion whose length is said and whose curves need no project."""
    return _written(project, replace(motion, duration=duration_of(motion, project)))


def _told(motion: Transition, to_of: Mapping[str, str]) -> Transition:
    """The motion with its pairs told: stand-ins have nothing else that says so."""
    return replace(motion, decisions=tuple(Decision(a, b, True) for a, b in to_of.items()))


def _stand_in(frame: Frame, ident: str) -> Frame:
    """A frame of stand-ins: names, kinds and boxes of the layers, nothing of what they show."""
    layers = tuple(_neutral(layer) for layer in frame.layers)
    return Frame(ident, ident.capitalize(), frame.w, frame.h, frame.background, layers=layers)


def _neutral(layer: Layer) -> Layer:
    body = layer.body
    if isinstance(body, Text):
        body = replace(body, runs=(Run(" "),))
    elif isinstance(body, Picture | Use):
        body = Box()
    children = layer.children
    if children:
        body = replace(body, children=tuple(_neutral(child) for child in children))
    return replace(layer, body=body, fills=_NEUTRAL if layer.fills else (), stroke=None, shadows=(), only_if="")


def _only(frame: Frame, ids: Iterable[str | None], ident: str) -> Frame:
    """Stand-ins of some layers, out of their groups, where they are in the frame."""
    wanted, flat = {name for name in ids if name}, flatten(frame)
    kept = []
    for i, layer in enumerate(flat.layers):
        if layer.id in wanted:
            x, y, w, h = (float(v) for v in flat.bounds[i])
            body = layer.body if not layer.children else Box()
            kept.append(_neutral(replace(layer, body=body, x=x, y=y, w=w, h=h, rotation=0.0, scale_x=1.0, scale_y=1.0)))
    return Frame(ident, ident.capitalize(), frame.w, frame.h, frame.background, layers=tuple(kept))


def capture_loop(project: Project, frame_id: str, loop_id: str, name: str, note: str = "") -> Preset:
    """A loop with its second pose, path, keyframes and times."""
    frame = frame_by_id(project, frame_id)
    loop = next((entry for entry in frame.loops if entry.id == loop_id), None)
    if loop is None:
        raise NotFound(tr("There is no loop {loop_id!r}.", loop_id=loop_id))
    layer = layer_index(frame)[loop.layer]
    stands = replace(
        _neutral(replace(layer, body=layer.body if not layer.children else Box())), x=layer.w * 1.5, y=layer.h * 0.5
    )
    curve = plain(project, loop.curve)
    keys = tuple(
        replace(key, curve=plain(project, key.curve) if key.curve is not None else None) for key in loop.keyframes
    )
    kept = replace(loop, curve=curve, keyframes=keys, until="", changes=_without_assets(loop))
    return Preset(name.strip(), "loop", loop.duration, note=note, loop=LoopOf(kept, stands), size=(layer.w, layer.h))


def _without_assets(loop: Loop) -> LayerChanges:
    """What a loop changes, without pictures: those belong to a project."""
    changes = loop.changes
    if any(isinstance(paint, Pattern) for paint in changes.fills or ()):
        changes = replace(changes, fills=None)
    return replace(changes, body=None) if isinstance(changes.body, Picture | Use) else changes


def capture_stagger(project: Project, route_id: str, stagger_id: str, name: str, note: str = "") -> Preset:
    """The rule of a stagger."""
    route = route_by_id(project, route_id)
    rule = next((entry for entry in route.transition.staggers if entry.id == stagger_id), None)
    if rule is None:
        raise NotFound(tr("There is no stagger {stagger_id!r}.", stagger_id=stagger_id))
    kept = replace(rule, cues=(), curve=plain(project, rule.curve))
    return Preset(name.strip(), "stagger", duration_of(route.transition, project), note=note, stagger=kept)


def capture_curve(project: Project, curve: Curve, name: str, note: str = "") -> Preset:
    """A curve."""
    return Preset(name.strip(), "curve", 0.0, note=note, curve=plain(project, curve))


def capture_path(project: Project, route_id: str, pair: PairKey, name: str, note: str = "") -> Preset:
    """The motion path of a pair."""
    route = route_by_id(project, route_id)
    when = timed(project, route.transition, *pair, "position")
    if when.motion_path is None:
        raise EditError(tr("The layer goes straight: there is no path to keep."))
    layer = layer_index(ends(project, route)[0]).get(pair[0] or "")
    size = (layer.w, layer.h) if layer is not None else (0.0, 0.0)
    path = when.motion_path
    return Preset(name.strip(), "motion path", when.end - when.start, note=note, motion_path=path, size=size)


def capture_part(project: Project, part_id: str, name: str, note: str = "") -> Preset:
    """A part with all that it uses: other parts, pictures, curves written out."""
    part = part_by_id(project, part_id)
    found = [part]
    for entry in found:
        known = {one.id for one in found}
        found += [part_by_id(project, ident) for ident in dict.fromkeys(parts_in(entry)) if ident not in known]
    wanted = {ident for entry in found for pose in entry.poses for ident in _pictures(pose.layers)}
    assets = tuple(
        PresetAsset(a.id, a.ext, a.w, a.h, b64encode(a.data).decode()) for a in project.assets if a.id in wanted
    )
    parts = tuple(replace(_written(project, entry), links=()) for entry in reversed(found))
    return Preset(name.strip(), "part", 0.0, note=note, part=PartOf(parts, assets), size=(part.w, part.h))


def _pictures(layers: Iterable[Layer]) -> Iterator[str]:
    """The ids of the pictures that layers show, in their fills too."""
    for layer in walk(tuple(layers)):
        if asset_of(layer):
            yield asset_of(layer)
        for paint in layer.fills:
            if isinstance(paint, Pattern):
                yield from _pictures(paint.layers)


def _written(project: Project, value: T) -> T:
    """A value of the model whose named curves are written out."""
    made: Any = value
    if isinstance(value, Named):
        made = plain(project, value)
    elif isinstance(value, tuple) and not hasattr(value, "_fields"):
        made = tuple(_written(project, entry) for entry in value)
    elif isinstance(value, msgspec.Struct):
        made = replace(value, **{name: _written(project, getattr(value, name)) for name in value.__struct_fields__})
    return cast("T", made)
