"""Steps about running orders: phases, what they show, how long they last and what comes then."""

from __future__ import annotations

from typing import Any

import msgspec

from avelt.core.edits import phases
from avelt.core.errors import FormatError, NotFound
from avelt.core.model.curves import Line
from avelt.core.model.find import find_frame, frame_by_id
from avelt.core.model.phases import (
    MAIN,
    Deed,
    ForMs,
    Lasts,
    Once,
    Phase,
    Rounds,
    Rule,
    ShowBlend,
    ShowLoops,
    ShowMotion,
    ShowPose,
    Shows,
    Track,
    Until,
    poses_of,
)
from avelt.core.model.triggers import STAYS
from avelt.core.model.values import Frame, Project, Transition
from avelt.core.steps.names import curve_of, layer_of, nearest
from avelt.core.steps.properties import numbers
from avelt.core.steps.said import Said, Site
from avelt.core.steps.triggers import action_of, trigger_of

replace = msgspec.structs.replace
_SHOWS = {"pose": (), "loops": (), "motion": ("duration", "length", "curve"), "blend": ("by", "lag", "curve")}
_RULE = ("if", "on", "to", "finish_round", "duration", "length", "curve")


def do_phase(project: Project, said: Said, site: Site) -> Project:
    """A phase of a running order, or changes of the one of the same name.

    A rule may name a phase that a later step makes: it is there from then on, and shows its stage's first pose until it
    is said what it shows.
    """
    name, track_name = said["name"], said.get("track", MAIN)
    found = phases.track_named(project, track_name)
    if found is None:
        project, track_id = phases.add_track(project, track_name)
    else:
        track_id = found.id
    shows = _shows(project, said["shows"]) if "shows" in said else None
    project, ident = _phase_named(project, track_id, name, shows)
    pose = frame_by_id(project, poses_of(shows or phases.phase_by_id(project, ident)[1].shows)[-1])
    rules = said.get("then")
    if rules is not None:
        for rule in rules if isinstance(rules, list) else [rules]:
            if not isinstance(rule, dict) or not isinstance(rule.get("to"), str):
                raise FormatError('A rule is an object such as {"if": "pull > 1", "to": "rest"}.')
            project, _ = _phase_named(project, track_id, rule["to"], None)
    if "layers" in said:
        origins = tuple(_origin(project, wanted) for wanted in said["layers"])
        project = phases.edit_track(project, track_id, lambda old: replace(old, layers=origins))
    track = phases.track_by_id(project, track_id)

    def change(old: Phase) -> Phase:
        new = replace(old, shows=shows or old.shows)
        if "lasts" in said:
            new = replace(new, lasts=_lasts(said["lasts"]))
        elif isinstance(shows, ShowMotion):
            new = replace(new, lasts=Once())
        if rules is not None:
            listed = rules if isinstance(rules, list) else [rules]
            new = replace(new, then=tuple(_rule(project, track, pose, rule) for rule in listed))
        for key in ("entering", "leaving"):
            if key in said:
                new = replace(new, **{key: _deeds(project, said[key])})
        return new

    return phases.edit_phase(project, ident, change)


def _phase_named(project: Project, track_id: str, name: str, shows: Shows | None) -> tuple[Project, str]:
    """The phase of a name, made when there is none."""
    track = phases.track_by_id(project, track_id)
    known = next((phase for phase in track.phases if phase.name == name), None)
    if known is None:
        return phases.add_phase(project, track_id, name, shows)
    if shows is not None and len(track.phases) > 1 and _is_bare(project, known):
        # It was only named by a rule until now: its place is after those that were told before it.
        told = [phase for phase in track.phases if phase is not known and not _is_bare(project, phase)]
        project = phases.move_phase(project, known.id, len(told))
    return project, known.id


def _is_bare(project: Project, phase: Phase) -> bool:
    return phase == Phase(phase.id, phase.name, ShowPose(project.first or project.frames[0].id))


def _origin(project: Project, wanted: str) -> str:
    """The origin of a layer of some pose."""
    for frame in project.frames:
        try:
            return layer_of(frame, wanted).origin
        except NotFound:
            continue
    return layer_of(project.frames[0], wanted).origin  # raises with what is near


def _kind(said: object, known: Any, what: str) -> tuple[str, dict[str, Any]]:
    """The one key of an object that says of which kind it is."""
    if not isinstance(said, dict) or not said:
        raise FormatError(f"“{what}” is an object such as {{{next(iter(known))!r}: ...}}.")
    kind = next((key for key in said if key in known), "")
    if not kind:
        wanted = str(next(iter(said)))
        raise FormatError(f"“{what}” has no {wanted!r}.", hint=nearest(wanted, known))
    return kind, said


def _shows(project: Project, said: object) -> Shows:
    kind, own = _kind(said, _SHOWS, "shows")
    for key in own:
        if key != kind and key not in _SHOWS[kind]:
            raise FormatError(f"What shows a {kind} has no {key!r}.", hint=nearest(key, _SHOWS[kind]))
    if kind in ("pose", "loops"):
        pose = find_frame(project, _text(own[kind], kind)).id
        return ShowPose(pose) if kind == "pose" else ShowLoops(pose)
    ends = own[kind]
    if not isinstance(ends, list) or len(ends) != 2:
        raise FormatError(f"A {kind} is between two poses, such as [“a”, “b”].")
    leaves, arrives = (find_frame(project, _text(name, kind)).id for name in ends)
    curve = curve_of(project, own["curve"]) if "curve" in own else None
    if kind == "motion":
        given = own.get("duration", own.get("length"))
        usual = Transition()
        duration = usual.duration if given is None else numbers(given, 1, 1, "duration")[0]
        return ShowMotion(leaves, arrives, replace(usual, duration=duration, curve=curve or usual.curve))
    by = own.get("by")
    if not isinstance(by, str):
        raise FormatError("A blend needs “by”: an expression of inputs.")
    lag = numbers(own["lag"], 1, 1, "lag")[0] if "lag" in own else 0.0
    return ShowBlend(leaves, arrives, by, lag, Transition(1000.0, curve or Line()))


def _text(value: object, what: str) -> str:
    if not isinstance(value, str):
        raise FormatError(f"“{what}” takes the name of a pose.")
    return value


def _lasts(said: object) -> Lasts:
    if said == "until":
        return Until()
    if said == "once":
        return Once()
    if isinstance(said, dict) and len(said) == 1:
        if "ms" in said:
            return ForMs(numbers(said["ms"], 1, 1, "ms")[0])
        if "rounds" in said:
            return Rounds(int(numbers(said["rounds"], 1, 1, "rounds")[0]))
    raise FormatError('“lasts” is "until", "once", {"ms": n} or {"rounds": n}.')


def _rule(project: Project, track: Track, pose: Frame, said: dict[str, Any]) -> Rule:
    for key in said:
        if key not in _RULE:
            raise FormatError(f"A rule has no {key!r}.", hint=nearest(key, _RULE))
    to = next(phase.id for phase in track.phases if phase.name == said["to"])
    given = said.get("duration", said.get("length", 0.0))
    made = Rule(
        to,
        said.get("if", ""),
        trigger_of(project, pose, said["on"]) if "on" in said else None,
        bool(said.get("finish_round", False)),
        numbers(given, 1, 1, "duration")[0],
    )
    if not isinstance(made.only_if, str):
        raise FormatError("“if” is a condition.")
    return replace(made, curve=curve_of(project, said["curve"])) if "curve" in said else made


def _deeds(project: Project, said: object) -> tuple[Deed, ...]:
    found = []
    for entry in said if isinstance(said, list) else [said]:
        action = action_of(project, entry)
        if not isinstance(action, STAYS):
            raise FormatError("Entering and leaving a phase can set an input or send a signal.")
        found.append(action)
    return tuple(found)  # type: ignore[arg-type]


def track_of(project: Project, wanted: str) -> Track:
    """A track by its name."""
    found = phases.track_named(project, wanted)
    if found is None:
        raise NotFound(f"There is no track {wanted!r}.", hint=nearest(wanted, [track.name for track in project.tracks]))
    return found


def phase_of(project: Project, said: Said) -> str:
    """The id of a phase by its name, in the track that is said or in any."""
    wanted = said["phase"]
    tracks = [track for track in project.tracks if said.get("track", track.name) == track.name]
    names = [phase.name for track in tracks for phase in track.phases]
    for track in tracks:
        for phase in track.phases:
            if wanted in (phase.name, phase.id):
                return phase.id
    raise NotFound(f"There is no phase {wanted!r}.", hint=nearest(str(wanted), names))
