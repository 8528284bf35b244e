"""Edits of several cues at once, also across layers. Copying one cue's motion is in ``put_timing.py``."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from typing import Literal

import msgspec

from avelt.core.curves.easing import reversed_curve
from avelt.core.curves.named import plain
from avelt.core.edits.afterwards import cue_name, lengths_kept
from avelt.core.edits.routes import edit_transition, inherit_cue, set_cue, with_cue
from avelt.core.errors import EditError
from avelt.core.model.curves import Curve, Named
from avelt.core.model.find import route_by_id
from avelt.core.model.motion import Cue, CueKey, Space, Transition
from avelt.core.model.values import Project
from avelt.core.timing.schedule import cue_index, duration_of, plan_of, timed
from avelt.core.words import tr

replace = msgspec.structs.replace
_ALIKE = 1e-6  # ms
_LEAST = 1.0  # ms that a cue keeps when its ends are drawn together
Times = Mapping[CueKey, tuple[float, float]]


def times_of(project: Project, route_id: str, keys: Iterable[CueKey]) -> dict[CueKey, tuple[float, float]]:
    """When cues start and end now, ms, whether that is their own or inherited."""
    transition = route_by_id(project, route_id).transition
    found = {key: timed(project, transition, *key) for key in keys}
    return {key: (when.start, when.end) for key, when in found.items()}


def place_cue(project: Project, route_id: str, key: CueKey, start: float, end: float) -> Project:
    """A cue that starts and ends then, ms. Where it is tied to another its offset changes, so that it is still tied;
    in a stagger it is moved against the rest."""
    transition = route_by_id(project, route_id).transition
    plan = plan_of(project, transition)
    start, end = max(0.0, start), max(0.0, start, end)
    if key not in plan.hung:
        return set_cue(project, route_id, key, start=start, end=end)
    now, late, base = plan.of(key), plan.late.get(key, 0.0), plan.base(key)
    hung = [tie.at for tie in transition.ties if tie.cue == key]

    def moved(old: Transition) -> Transition:
        by = {"start": start - now[0], "end": end - now[1]}
        return replace(old, ties=tuple(replace(t, by=t.by + by[t.at]) if t.cue == key else t for t in old.ties))

    if hung:
        project = edit_transition(project, route_id, moved)
        # The untied end is where the length puts it.
        return set_cue(project, route_id, key, start=base[0], end=base[0] + end - start)
    if start < late - _ALIKE:
        raise EditError(
            tr(
                "{name} starts {late:g} ms after the others of its stagger, and not before: change the stagger first.",
                name=cue_name(project, route_id, key),
                late=late,
            )
        )
    start = max(0.0, start - late)
    return set_cue(project, route_id, key, start=start, end=max(start, end - late))


@lengths_kept
def shift_cues(project: Project, route_id: str, base: Times, by_start: float, by_end: float) -> Project:
    """Starts and ends moved by so many ms from what they were (``base``); none begins before 0, and none of a stagger
    earlier than the rule puts it off.

    When both move alike, a cue that meets the beginning keeps its length; else it keeps at least ``_LEAST`` of it.
    """
    now = plan_of(project, route_by_id(project, route_id).transition)
    for key, (start, end) in base.items():
        first = 0.0 if (key, "start") in now.ties or (key, "end") in now.ties else min(start, now.late.get(key, 0.0))
        alike = abs(by_start - by_end) < _ALIKE
        kept = end - start if alike else min(_LEAST, end - start)
        if by_start and not by_end:
            stops = end
            begins = max(first, min(start + by_start, stops - kept))
        else:
            begins = max(first, start + by_start)
            stops = max(begins + kept, end + by_end)
        project = place_cue(project, route_id, key, begins, stops)
    return project


@lengths_kept
def time_cues(project: Project, route_id: str, keys: Iterable[CueKey], start: float, end: float) -> Project:
    """One start and end for several cues."""
    for key in keys:
        project = place_cue(project, route_id, key, start, max(start, end))
    return project


TimeOf = Literal["start", "end", "length"]


@lengths_kept
def retime_cues(
    project: Project, route_id: str, keys: Iterable[CueKey], which: TimeOf, to: Callable[[float], float]
) -> Project:
    """Another start, end or length for several cues, each worked out from its own: a start takes the length along, an
    end and a length leave the start where it is. ``EditError`` for an end before the start."""
    for key, (start, end) in times_of(project, route_id, tuple(keys)).items():
        if which == "start":
            begins = max(0.0, to(start))
            project = place_cue(project, route_id, key, begins, begins + end - start)
        else:
            stops = to(end) if which == "end" else start + max(0.0, to(end - start))
            if stops < start:
                name = cue_name(project, route_id, key)
                raise EditError(
                    tr(
                        "{name} starts at {start:g} ms and cannot end before that, at {stops:g}.",
                        name=name,
                        start=start,
                        stops=stops,
                    )
                )
            project = place_cue(project, route_id, key, start, stops)
    return project


def curve_cues(project: Project, route_id: str, keys: Iterable[CueKey], curve: Curve) -> Project:
    """One curve for several cues."""
    for key in keys:
        project = set_cue(project, route_id, key, curve=curve)
    return project


@lengths_kept
def inherit_cues(project: Project, route_id: str, keys: Iterable[CueKey]) -> Project:
    """Several cues back to what they inherit."""
    for key in keys:
        project = inherit_cue(project, route_id, key)
    return project


def change_cues(project: Project, route_id: str, cues: Iterable[CueKey], **fields: object) -> Project:
    """Fields of several cues."""

    def change(old: Transition) -> Transition:
        for key in cues:
            old = with_cue(old, replace(cue_index(old).get(key, Cue(*key)), **fields))
        return old

    return edit_transition(project, route_id, change)


def mute_cues(project: Project, route_id: str, keys: Iterable[CueKey], muted: bool) -> Project:
    """Cues that do not move, or move again."""
    return change_cues(project, route_id, keys, muted=muted)


def space_of_cues(project: Project, route_id: str, keys: Iterable[CueKey], space: Space | None) -> Project:
    """The space in which the colours of cues blend; ``None`` is inherited."""
    return change_cues(project, route_id, keys, space=space)


@lengths_kept
def mirror_cues(project: Project, route_id: str, keys: Iterable[CueKey]) -> Project:
    """Cues with their time and curve mirrored in the transition: what began first ends last, run backwards."""
    transition = route_by_id(project, route_id).transition
    length = duration_of(transition, project)
    for key in keys:
        when = timed(project, transition, *key)
        back = reversed_curve(when.plain)
        named = next((Named(entry.id) for entry in project.curves if entry.curve == back), back)
        curve = when.curve if plain(project, when.curve) == back else named
        moments = sorted(1.0 - k.at for k in when.keyframes)
        keyed = tuple(replace(k, at=at) for k, at in zip(when.keyframes, moments, strict=True))
        project = place_cue(project, route_id, key, length - when.end, length - when.start)
        project = change_cues(project, route_id, [key], curve=curve, keyframes=keyed)
    return project
