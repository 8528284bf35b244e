"""Edits of ties and staggers: what starts after, with or before what."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from itertools import pairwise
from typing import Literal

import msgspec

from avelt.core.edits.afterwards import cue_name, lengths_kept, plan
from avelt.core.edits.cues import place_cue
from avelt.core.edits.routes import edit_transition
from avelt.core.errors import EditError
from avelt.core.model.find import route_by_id
from avelt.core.model.motion import CueKey, Moment, Stagger, Tie
from avelt.core.model.values import Project
from avelt.core.timing.schedule import circle, refuse_circle
from avelt.core.words import tr

replace = msgspec.structs.replace


@lengths_kept
def tie(
    project: Project,
    route_id: str,
    cue: CueKey,
    to: CueKey,
    at: Moment = "start",
    to_at: Moment = "end",
    by: float | None = None,
) -> Project:
    """Hang an end of a cue on an end of another. Without ``by`` it stays where it is now.

    It takes the place of what that end was tied to, and the cue leaves its stagger: the offset is all of it.
    ``EditError`` with the names when the cues would be tied to each other in a circle, or it would have no time left.
    """
    own = plan(project, route_id).of(cue)
    project = _out_of_staggers(project, route_id, [cue])
    if by is None:
        other = plan(project, route_id).of(to)
        by = (own[0] if at == "start" else own[1]) - (other[0] if to_at == "start" else other[1])
    new = Tie(cue, to, at, to_at, by)
    found = circle(route_by_id(project, route_id).transition, new)
    if found:
        raise refuse_circle(tuple(cue_name(project, route_id, key) for key in found))
    return edit_transition(
        project, route_id, lambda old: replace(old, ties=(*(t for t in old.ties if (t.cue, t.at) != (cue, at)), new))
    )


@lengths_kept
def set_offset(project: Project, route_id: str, cue: CueKey, at: Moment, by: float) -> Project:
    """Another offset for a tie, ms; below zero it overlaps."""
    return edit_transition(
        project,
        route_id,
        lambda old: replace(old, ties=tuple(replace(t, by=by) if (t.cue, t.at) == (cue, at) else t for t in old.ties)),
    )


def untie(project: Project, route_id: str, keys: Iterable[CueKey]) -> Project:
    """Cues that are tied to nothing any more and stay where they are."""
    for key in keys:
        start, end = plan(project, route_id).of(key)
        gone = edit_transition(
            project,
            route_id,
            lambda old, key=key: replace(old, ties=tuple(t for t in old.ties if t.cue != key)),  # type: ignore[misc]
        )
        project = place_cue(gone, route_id, key, start, end) if gone is not project else project
    return project


def chain(
    project: Project, route_id: str, keys: Sequence[CueKey], how: Literal["after", "with", "before"], by: float = 0.0
) -> Project:
    """Each of the cues after, with or before the one in front of it. It keeps its length: what its other end was tied
    to, it leaves. Where there is too little time before the first for those that come before it, all start later."""
    ends: dict[str, tuple[Moment, Moment]] = {
        "after": ("start", "end"),
        "with": ("start", "start"),
        "before": ("end", "start"),
    }
    at, to_at = ends[how]
    if how == "before" and keys:
        now = plan(project, route_id)
        times = {key: now.of(key) for key in keys}
        first, last = times[keys[0]]
        needed = sum(end - start - by for start, end in (times[key] for key in keys[1:]))
        if needed > first:
            project = place_cue(project, route_id, keys[0], needed, needed + last - first)
    for previous, key in pairwise(keys):
        project = tie(untie(project, route_id, [key]), route_id, key, previous, at, to_at, by)
    return project


@lengths_kept
def make_stagger(project: Project, route_id: str, keys: Sequence[CueKey], rule: Stagger) -> tuple[Project, str]:
    """A rule that spreads the starts of cues, from the earliest of them on; gives its id.

    Cues that were in another stagger leave it, and are tied to nothing any more: the rule says all of their starts.
    """
    if len(keys) < 2:
        raise EditError(tr("A stagger needs at least two cues."))
    project = untie(_out_of_staggers(project, route_id, keys), route_id, keys)
    now = plan(project, route_id)
    times = {key: now.of(key) for key in keys}
    first = min(start for start, _ in times.values())
    for key, (start, end) in times.items():
        project = place_cue(project, route_id, key, first, first + end - start)
    ident = f"G{project.next_id}"
    made = replace(rule, id=ident, cues=tuple(keys))
    project = replace(project, next_id=project.next_id + 1)
    return edit_transition(project, route_id, lambda old: replace(old, staggers=(*old.staggers, made))), ident


def _out_of_staggers(project: Project, route_id: str, keys: Iterable[CueKey]) -> Project:
    gone = set(keys)
    for entry in route_by_id(project, route_id).transition.staggers:
        if gone & set(entry.cues):
            rest = tuple(key for key in entry.cues if key not in gone)
            project = set_stagger(project, route_id, replace(entry, cues=rest))
    return project


@lengths_kept
def set_stagger(project: Project, route_id: str, rule: Stagger) -> Project:
    """A stagger changed; with fewer than two cues it goes."""
    return edit_transition(
        project,
        route_id,
        lambda old: replace(
            old,
            staggers=tuple(new for new in (rule if e.id == rule.id else e for e in old.staggers) if len(new.cues) > 1),
        ),
    )


def dissolve(project: Project, route_id: str, stagger_id: str) -> Project:
    """Without the rule; every cue stays where it put it."""
    transition = route_by_id(project, route_id).transition
    rule = next((entry for entry in transition.staggers if entry.id == stagger_id), None)
    if rule is None:
        return project
    now = plan(project, route_id)
    times = {key: now.of(key) for key in rule.cues}
    project = edit_transition(
        project, route_id, lambda old: replace(old, staggers=tuple(e for e in old.staggers if e.id != stagger_id))
    )
    for key, (start, end) in times.items():
        project = place_cue(project, route_id, key, start, end)
    return project


def line_up(project: Project, route_id: str, stagger_id: str) -> Project:
    """The cues of a stagger that were moved by themselves stand where the rule puts them again."""
    rule = next((e for e in route_by_id(project, route_id).transition.staggers if e.id == stagger_id), None)
    if rule is None:
        return project
    now = plan(project, route_id)
    line, moved = now.line(rule), now.moved(rule)
    for key in moved:
        start, end = now.of(key)
        late = now.late.get(key, 0.0)
        project = place_cue(project, route_id, key, line + late, line + late + end - start)
    return project


def stagger_of(project: Project, route_id: str, key: CueKey) -> Stagger | None:
    """The stagger that a cue is in."""
    staggers = route_by_id(project, route_id).transition.staggers
    return next((entry for entry in staggers if key in entry.cues), None)
