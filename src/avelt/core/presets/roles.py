"""Motion of several layers at once on other frames: who plays which role is found by the pairing engine."""

from __future__ import annotations

import msgspec

from avelt.core.edits.put_routes import copy_motion
from avelt.core.edits.routes import edit_route, edit_transition
from avelt.core.errors import EditError
from avelt.core.model.find import layer_index, route_by_id
from avelt.core.model.motion import CueKey, PairKey, Transition
from avelt.core.model.values import Project, Route
from avelt.core.pairing.engine import pair_frames
from avelt.core.presets.adjusted import How, in_time
from avelt.core.presets.places import Done, Where, first_route
from avelt.core.presets.values import Preset, Recorded
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import duration_of

replace = msgspec.structs.replace
_SOURCE = "preset route"


def roles(project: Project, preset: Preset, route_id: str) -> list[tuple[str, str]]:
    """Which layer plays which role: names of the stand-ins, and of the layers of a route's frames (empty: none)."""
    if preset.recorded is None:
        return []
    target, source = route_by_id(project, route_id), preset.recorded
    found: list[tuple[str, str]] = []
    for one, other in zip((source.left, source.right), ends(project, target), strict=True):
        there, to_of = layer_index(other), pair_frames(one, other, ()).to_of
        for layer in layer_index(one).values():
            partner = there.get(to_of.get(layer.id, ""))
            row = (layer.name, partner.name if partner is not None else "")
            if row not in found:
                found.append(row)
    return found


def on_routes(project: Project, preset: Preset, where: Where, how: How) -> Done:
    """A whole transition on routes, in the place of what they had."""
    source, placed, missed = _recorded(preset), 0, 0
    for route_id in where.routes or (first_route(where),):
        made, more, less = copy_motion(_with_source(project, source), _SOURCE, [route_id])
        motion = route_by_id(made, route_id).transition
        project = edit_route(
            project,
            route_id,
            lambda old, motion=motion: replace(old, transition=motion, delay=source.delay),  # type: ignore[misc]
        )
        placed, missed = placed + more, missed + less
    return Done(project, _missed(placed, missed))


def on_roles(project: Project, preset: Preset, where: Where, how: How) -> Done:
    """Some pairs with their ties and staggers: only their cues take the place of what was there."""
    route_id, source = first_route(where), _recorded(preset)
    if how.follow:
        length = duration_of(route_by_id(project, route_id).transition, project)
        own = preset.duration / how.stretch
        if own > 0.0 and length > 0.0:
            source = replace(source, transition=in_time(source.transition, length / own))
    made, placed, missed = copy_motion(_with_source(project, source), _SOURCE, [route_id])
    new = route_by_id(made, route_id).transition
    wanted = set(where.pairs)
    touched = {cue.key.pair for cue in new.cues if not wanted or cue.key.pair in wanted}
    if not touched:
        raise EditError(f"“{preset.name}” finds none of its layers here.")
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
        raise EditError(f"“{preset.name}” holds no transition.")
    return preset.recorded


def _with_source(project: Project, source: Recorded) -> Project:
    """The project with what was recorded beside it, for the time of putting it on."""
    left, right = (replace(frame, id=f"preset {frame.id}") for frame in (source.left, source.right))
    route = Route(_SOURCE, left.id, right.id, transition=source.transition)
    return replace(project, frames=(*project.frames, left, right), routes=(*project.routes, route))


def _missed(placed: int, missed: int) -> str:
    return f"{missed} of {placed + missed} cues find no layer here." if missed else ""
