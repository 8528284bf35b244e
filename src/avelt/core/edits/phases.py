"""Edits of running orders: of the project's own, or inside a part (``parts.in_stage``) of that part's."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from avelt.core.edits.frames import free_name
from avelt.core.errors import EditError, FormatError
from avelt.core.model.expressions import parse, parse_value
from avelt.core.model.find import frame_by_id, walk
from avelt.core.model.limits import MAX_MS, MAX_ROUNDS
from avelt.core.model.phases import (
    MAIN,
    ForMs,
    Phase,
    Rounds,
    Rule,
    ShowBlend,
    ShowMotion,
    ShowPose,
    Shows,
    Track,
    poses_of,
    without_phases,
)
from avelt.core.model.values import Project, Transition
from avelt.core.words import tr

replace = msgspec.structs.replace


def track_named(project: Project, name: str) -> Track | None:
    """The track of a name, or of an id."""
    return next((track for track in project.tracks if name in (track.name, track.id)), None)


def track_by_id(project: Project, track_id: str) -> Track:
    """The track of an id; ``EditError`` when it is gone."""
    found = next((track for track in project.tracks if track.id == track_id), None)
    if found is None:
        raise EditError(tr("The running order is not there any more."))
    return found


def phase_by_id(project: Project, phase_id: str) -> tuple[Track, Phase]:
    """A phase and the track that it is in."""
    for track in project.tracks:
        for phase in track.phases:
            if phase.id == phase_id:
                return track, phase
    raise EditError(tr("The phase is not there any more."))


def add_track(project: Project, name: str = MAIN, layers: tuple[str, ...] = ()) -> tuple[Project, str]:
    """A running order without phases and its id: the main one, or a side track beside it."""
    name = name.strip()
    if not name:
        raise EditError(tr("A side track needs a name."))
    if track_named(project, name) is not None:
        raise EditError(
            tr("There is a side track “{name}” already.", name=name)
            if name != MAIN
            else tr("There is a main order already.")
        )
    ident = f"T{project.next_id}"
    track = Track(ident, name, (), layers)
    tracks = (track, *project.tracks) if name == MAIN else (*project.tracks, track)
    return replace(project, tracks=tracks, next_id=project.next_id + 1), ident


def edit_track(project: Project, track_id: str, change: Callable[[Track], Track]) -> Project:
    """One track changed."""
    old = track_by_id(project, track_id)
    new = change(old)
    if new.name != old.name and any(track.name == new.name for track in project.tracks):
        raise EditError(tr("There is a track “{new}” already.", new=new.name))
    origins = {layer.origin for frame in project.frames for layer in walk(frame.layers)}
    if any(origin not in origins for origin in new.layers if origin not in old.layers):
        raise EditError(tr("A side track moves layers of its poses."))
    return (
        project
        if new == old
        else replace(project, tracks=tuple(new if track.id == track_id else track for track in project.tracks))
    )


def remove_track(project: Project, track_id: str) -> Project:
    """Without a running order and its phases."""
    track_by_id(project, track_id)
    return replace(project, tracks=tuple(track for track in project.tracks if track.id != track_id))


def add_phase(
    project: Project, track_id: str, name: str = "", shows: Shows | None = None, at: int | None = None
) -> tuple[Project, str]:
    """A phase at the end of a track (or at a place in it), and its id."""
    track = track_by_id(project, track_id)
    names = [phase.name for phase in track.phases]
    if name and name in names:
        raise EditError(tr("There is a phase “{name}” already.", name=name))
    ident = f"H{project.next_id}"
    shown = shows or ShowPose(project.first or project.frames[0].id)
    phase = _sound(project, Phase(ident, name or free_name(names, "phase"), shown))
    place = len(track.phases) if at is None else at
    phases = (*track.phases[:place], phase, *track.phases[place:])
    project = replace(project, next_id=project.next_id + 1)
    return edit_track(project, track_id, lambda old: replace(old, phases=phases)), ident


def edit_phase(project: Project, phase_id: str, change: Callable[[Phase], Phase]) -> Project:
    """One phase changed, kept inside what can be played; ``EditError`` for what cannot be."""
    track, old = phase_by_id(project, phase_id)
    new = _sound(project, change(old))
    if not new.name.strip():
        raise EditError(tr("A phase needs a name."))
    if any(phase.name == new.name and phase.id != phase_id for phase in track.phases):
        raise EditError(tr("There is a phase “{new}” already.", new=new.name))
    ids = {phase.id for phase in track.phases}
    if any(rule.to not in ids for rule in new.then if rule not in old.then):
        raise EditError(tr("What comes then is a phase of the same running order."))
    phases = tuple(new if phase.id == phase_id else phase for phase in track.phases)
    return edit_track(project, track.id, lambda found: replace(found, phases=phases))


def with_transition(project: Project, phase_id: str, transition: Transition) -> Project:
    """A phase whose motion (or blend) goes by another transition."""

    def change(old: Phase) -> Phase:
        if not isinstance(old.shows, ShowMotion | ShowBlend):
            raise EditError(tr("Nothing moves in {old}.", old=old.name))
        return replace(old, shows=replace(old.shows, transition=transition))

    return edit_phase(project, phase_id, change)


def _sound(project: Project, phase: Phase) -> Phase:
    """A phase whose numbers are in their limits and whose expressions can be read."""
    for pose in poses_of(phase.shows):
        frame_by_id(project, pose)
    shows, lasts = phase.shows, phase.lasts
    if isinstance(shows, ShowBlend):
        _readable(shows.by, value=True)
        shows = replace(shows, lag=min(MAX_MS, max(0.0, shows.lag)))
    if isinstance(lasts, ForMs):
        lasts = ForMs(min(MAX_MS, max(0.0, lasts.ms)))
    elif isinstance(lasts, Rounds):
        lasts = Rounds(min(MAX_ROUNDS, max(1, int(lasts.count))))
    then = []
    for rule in phase.then:
        _readable(rule.only_if)
        then.append(replace(rule, duration=min(MAX_MS, max(0.0, rule.duration))))
    return replace(phase, shows=shows, lasts=lasts, then=tuple(then))


def _readable(text: str, value: bool = False) -> None:
    try:
        parse_value(text) if value else parse(text)
    except FormatError as error:
        raise EditError(str(error)) from None


def move_phase(project: Project, phase_id: str, place: int) -> Project:
    """A phase at another place of its track; the first is what the track begins with."""
    track, phase = phase_by_id(project, phase_id)
    rest = [entry for entry in track.phases if entry.id != phase_id]
    rest.insert(min(max(0, place), len(rest)), phase)
    return edit_track(project, track.id, lambda old: replace(old, phases=tuple(rest)))


def remove_phase(project: Project, phase_id: str) -> Project:
    """Without a phase, and without the rules that lead to it."""
    track, _ = phase_by_id(project, phase_id)
    kept = without_phases(track.phases, {phase_id})
    return edit_track(project, track.id, lambda old: replace(old, phases=kept))


def map_expressions(project: Project, change: Callable[[str], str]) -> Project:
    """Every expression of the running orders changed."""

    def of_phase(phase: Phase) -> Phase:
        shows = phase.shows
        if isinstance(shows, ShowBlend):
            shows = replace(shows, by=change(shows.by))
        return replace(phase, shows=shows, then=tuple(_rule(rule, change) for rule in phase.then))

    tracks = tuple(replace(t, phases=tuple(of_phase(phase) for phase in t.phases)) for t in project.tracks)
    return replace(project, tracks=tracks) if tracks != project.tracks else project


def _rule(rule: Rule, change: Callable[[str], str]) -> Rule:
    return replace(rule, only_if=change(rule.only_if)) if rule.only_if else rule
