"""Motion of several layers at once on other frames: who plays which role is found by the pairing engine."""

from __future__ import annotations

from typing import NamedTuple

import msgspec

from avelt.core.edits.put_routes import copy_motion
from avelt.core.edits.routes import edit_route, edit_transition
from avelt.core.errors import EditError
from avelt.core.model.find import layer_index, route_by_id
from avelt.core.model.motion import CueKey, PairKey, Transition
from avelt.core.model.values import Layer, Project, Route
from avelt.core.pairing.engine import Pairing, pair_frames
from avelt.core.presets.adjusted import How, in_time
from avelt.core.presets.pieces import LENGTH
from avelt.core.presets.places import Done, Where, first_route
from avelt.core.presets.values import Preset, Recorded
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import duration_of
from avelt.core.words import tr

replace = msgspec.structs.replace
_SOURCE = "preset route"


class Role(NamedTuple):
    """A pair of stand-ins, and the pair that plays it elsewhere; ``None``: nobody does."""

    source: PairKey
    player: PairKey | None


def roles(project: Project, preset: Preset, where: Where) -> list[Role]:
    """Who plays which role of a preset on a route: whom the pairing engine finds for it; of the pairs that were chosen,
    those that it found no role for take the roles that are left, in the order in which they were chosen."""
    source, target = _recorded(preset), route_by_id(project, first_route(where))
    pairing, frames = pairing_of(project, target), ends(project, target)
    left, right = (
        dict(pair_frames(one, other, ()).to_of) for one, other in zip((source.left, source.right), frames, strict=True)
    )
    motion, mine = source.transition, layer_index(source.left)
    alone = (PairKey(e.layer, None) if e.layer in mine else PairKey(None, e.layer) for e in motion.absents)
    wanted = dict.fromkeys((*(cue.key.pair for cue in motion.cues), *alone))
    found: dict[PairKey, PairKey | None] = {role: _player(role, left, right, pairing) for role in wanted}
    free = [pair for pair in where.pairs if pair not in found.values()]
    for role in wanted:
        player = found[role]
        if player is not None and (not where.pairs or player in where.pairs):
            continue
        same = (pair for pair in free if (pair[0] is None, pair[1] is None) == (role[0] is None, role[1] is None))
        chosen = next(same, None)
        if chosen is not None:
            free.remove(chosen)
        if where.pairs:
            found[role] = chosen
    return [Role(role, player) for role, player in found.items()]


def _player(role: PairKey, left: dict[str, str], right: dict[str, str], pairing: Pairing) -> PairKey | None:
    first = left.get(role.from_id) if role.from_id is not None else None
    second = right.get(role.to_id) if role.to_id is not None else None
    if role.to_id is None:
        return PairKey(first, None) if first in pairing.leaves else None
    if role.from_id is None:
        return PairKey(None, second) if second in pairing.enters else None
    return PairKey(first, second) if first is not None and pairing.to_of.get(first) == second else None


def role_words(project: Project, preset: Preset, where: Where) -> list[tuple[str, str]]:
    """The roles and who plays them, by the names of the layers; an empty name for nobody."""
    source, target = _recorded(preset), ends(project, route_by_id(project, first_route(where)))
    ours = layer_index(source.left) | layer_index(source.right)
    theirs = layer_index(target[0]) | layer_index(target[1])

    def name(pair: PairKey | None, layers: dict[str, Layer]) -> str:
        ident = next((ident for ident in pair or () if ident is not None), "")
        return layers[ident].name if ident in layers else ""

    return [(name(role.source, ours), name(role.player, theirs)) for role in roles(project, preset, where)]


def on_routes(project: Project, preset: Preset, where: Where, how: How) -> Done:
    """A whole transition on routes, in the place of what they had."""
    source, placed, missed = _recorded(preset), 0, 0
    for route_id in where.routes or (first_route(where),):
        route = route_by_id(project, route_id)
        own = _as_long(source, preset, route, project, how) if LENGTH in preset.left_out else source
        made, more, less = copy_motion(_with_source(project, own), _SOURCE, [route_id])
        motion = route_by_id(made, route_id).transition
        project = edit_route(
            project,
            route_id,
            lambda old, motion=motion, own=own: replace(old, transition=motion, delay=own.delay),  # type: ignore[misc]
        )
        placed, missed = placed + more, missed + less
    return Done(project, _missed(placed, missed))


def _as_long(source: Recorded, preset: Preset, route: Route, project: Project, how: How) -> Recorded:
    """What was recorded in the length of a route, with its wait; its times as shares of that when they follow."""
    length, motion = duration_of(route.transition, project), source.transition
    if how.follow and preset.duration > 0.0 and length > 0.0:
        motion = in_time(motion, length / preset.duration)
    return replace(source, transition=replace(motion, duration=route.transition.duration), delay=route.delay)


def on_roles(project: Project, preset: Preset, where: Where, how: How) -> Done:
    """Some pairs with their ties and staggers: only their cues take the place of what was there."""
    route_id, source = first_route(where), _recorded(preset)
    if how.follow:
        length = duration_of(route_by_id(project, route_id).transition, project)
        own = preset.duration / how.stretch
        if own > 0.0 and length > 0.0:
            source = replace(source, transition=in_time(source.transition, length / own))
    cast = {
        a: b
        for role in roles(project, preset, where)
        for a, b in zip(role.source, role.player or (None, None), strict=True)
        if a is not None and b is not None
    }
    made, placed, missed = copy_motion(_with_source(project, source), _SOURCE, [route_id], cast)
    new = route_by_id(made, route_id).transition
    wanted = set(where.pairs)
    touched = {cue.key.pair for cue in new.cues if not wanted or cue.key.pair in wanted}
    if not touched:
        raise EditError(tr("“{preset}” finds none of its layers here.", preset=preset.name))
    return Done(edit_transition(project, route_id, lambda old: _instead(old, new, touched)), _missed(placed, missed))


def _instead(old: Transition, new: Transition, pairs: set[PairKey]) -> Transition:
    """A motion with some pairs' share of another: what hung on them is gone, what hangs on them there comes."""
    alone = {pair[0] or pair[1] for pair in pairs if None in pair}

    def inside(*keys: CueKey) -> bool:
        return all(key.pair in pairs for key in keys)

    def outside(*keys: CueKey) -> bool:
        return not any(key.pair in pairs for key in keys)

    taken = [rule.id for rule in old.staggers]
    rules = []
    for rule in new.staggers:
        if inside(*rule.cues):
            ident = next(f"{rule.id}{n or ''}" for n in range(len(taken) + 1) if f"{rule.id}{n or ''}" not in taken)
            taken.append(ident)
            rules.append(replace(rule, id=ident))
    return replace(
        old,
        cues=(*(c for c in old.cues if outside(c.key)), *(c for c in new.cues if inside(c.key))),
        ties=(*(t for t in old.ties if outside(t.cue, t.to)), *(t for t in new.ties if inside(t.cue, t.to))),
        staggers=(*(rule for rule in old.staggers if outside(*rule.cues)), *rules),
        absents=(
            *(entry for entry in old.absents if entry.layer not in alone),
            *(entry for entry in new.absents if entry.layer in alone),
        ),
    )


def _recorded(preset: Preset) -> Recorded:
    if preset.recorded is None:
        raise EditError(tr("“{preset}” holds no transition.", preset=preset.name))
    return preset.recorded


def _with_source(project: Project, source: Recorded) -> Project:
    """The project with what was recorded beside it, for the time of putting it on."""
    left, right = (replace(frame, id=f"preset {frame.id}") for frame in (source.left, source.right))
    route = Route(_SOURCE, left.id, right.id, transition=source.transition)
    return replace(project, frames=(*project.frames, left, right), routes=(*project.routes, route))


def _missed(placed: int, missed: int) -> str:
    return tr("{missed} of {placed} cues find no layer here.", missed=missed, placed=placed + missed) if missed else ""
