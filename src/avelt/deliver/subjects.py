"""What can be delivered of a project: transitions, frames with their entrance and loops, parts, tapes, and all."""

from __future__ import annotations

import math

from avelt.core.errors import FormatError, NotFound
from avelt.core.handoff.delivery import Wanted
from avelt.core.handoff.nodes import Names
from avelt.core.model.find import by_identity, entrance_route, find_frame, find_route, frame_by_id, route_title
from avelt.core.model.parts import as_stage, find_part, pose_of
from avelt.core.model.tapes import Tape
from avelt.core.model.values import Frame, Part, Project, Route, Transition
from avelt.core.model.wording import trigger_words
from avelt.core.record import Record
from avelt.core.running.player import Player
from avelt.core.running.rehearsal import Rehearsal
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.followers import moved_by_clocks
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.quieter import quieter
from avelt.core.words import tr
from avelt.deliver.shows import Show, show_of

_LONGEST = 20_000.0  # ms that a running order is followed for


class Subject(Record, frozen=True):
    """One thing to deliver. ``name`` is what it is called, ``what`` its kind in a word, ``says`` what starts it.

    ``program`` is its motion where that is one (not for tapes); ``show`` is what is seen of it.
    """

    key: str
    name: str
    what: str
    says: str
    program: Program | None
    show: Show
    transition: Transition | None = None


def of_route(project: Project, route: Route) -> Subject:
    """A transition."""
    program = compile_route(project, route)
    left, right = (frame_by_id(project, ident).name for ident in (route.leaves, route.arrives))
    says = ", ".join(part for part in trigger_words(project, route) if part)
    return Subject(
        f"route:{route.id}", f"{left} to {right}", "transition", says, program, show_of(program), route.transition
    )


def of_frame(project: Project, frame: Frame) -> Subject:
    """A frame by itself: its entrance where it has one, and its loops."""
    if frame.entrance is not None:
        route = entrance_route(frame)
        program = compile_route(project, route)
        transition: Transition | None = route.transition
        says = "arriving" if frame.entrance.when == "on arrival" else tr("being loaded")
    else:
        program, transition, says = compile_still(frame, project), None, ""
    return Subject(f"frame:{frame.id}", frame.name, "frame", says, program, show_of(program), transition)


def of_part(project: Project, part: Part) -> Subject:
    """A part: what its running order does with the inputs that it starts with, or the loops of its first pose."""
    stage = as_stage(project, part)
    program = compile_still(pose_of(part), stage)
    show = _running(stage, part) if part.tracks else show_of(program)
    return Subject(f"part:{part.id}", part.name, "part", "", program, show)


def _running(stage: Project, part: Part) -> Show:
    """One round of a running order: from when a phase begins until it begins again; else what happens at first."""
    player = Player(stage)
    player.advance(_LONGEST)
    begins: dict[tuple[str, str], list[float]] = {}
    for entry in player.log:
        if entry.phase and entry.what == "phase":
            begins.setdefault((entry.track, entry.phase), []).append(entry.at)
    rounds = [times for times in begins.values() if len(times) >= 2 and times[-1] > times[0]]
    if rounds:
        times = max(rounds, key=lambda entry: entry[1] - entry[0])
        first, period = times[0], times[1] - times[0]
        return Show(part.w, part.h, 0.0, period, lambda ms: player.moment(first + ms).scene())
    last = max((entry.at for entry in player.log), default=0.0)
    return Show(part.w, part.h, min(_LONGEST, last + 1000.0), 0.0, lambda ms: player.moment(ms).scene())


def of_tape(project: Project, tape: Tape) -> Subject:
    """What a tape shows."""
    rehearsal = Rehearsal(project, tape)
    w, h = rehearsal.player.scene().size

    def scene_at(ms: float) -> Scene:
        return rehearsal.seen(ms).scene()

    show = Show(w, h, max(1.0, tape.until), 0.0, scene_at)
    return Subject(f"tape:{tape.name}", tape.name or tr("Tape"), "tape", "", None, show)


def find_subject(
    project: Project,
    route: str | None = None,
    frame: str | None = None,
    part: str | None = None,
    tape: str | None = None,
) -> Subject:
    """What is asked for by name; the first transition (or frame) where nothing is."""
    if part is not None:
        return of_part(project, find_part(project, part))
    if frame is not None:
        return of_frame(project, find_frame(project, frame))
    if tape is not None:
        found = next((entry for entry in project.tapes if entry.name == tape), None)
        if found is None:
            raise NotFound(tr("There is no tape {tape!r}.", tape=tape))
        return of_tape(project, found)
    if route is not None:
        return of_route(project, find_route(project, route))
    if project.routes:
        return of_route(project, project.routes[0])
    if not project.frames:
        raise FormatError(tr("The project has no frame."))
    return of_frame(project, project.frames[0])


ALL = "all"
_calmed = by_identity(quieter, 8)


def as_wanted(project: Project, wanted: Wanted) -> Project:
    """The project that is delivered: as it is, or its variant with less motion."""
    return _calmed(project) if wanted.calm else project


def less_of(project: Project, subject: Subject) -> Program | None:
    """The motion of a subject in the project's variant with less of it."""
    return subject_of(_calmed(project), subject.key).program


def offers(project: Project) -> list[tuple[str, str]]:
    """All that can be delivered by itself, as (key, name): nothing is worked out yet."""
    names = {frame.id: frame.name for frame in project.frames}
    found = [(f"route:{r.id}", f"{names[r.leaves]} → {names[r.arrives]}") for r in project.routes]
    moving = (f for f in project.frames if f.entrance is not None or moved_by_clocks(f))
    found += [(f"frame:{f.id}", f.name) for f in moving]
    found += [(f"part:{part.id}", part.name) for part in project.parts]
    return found + [(f"tape:{tape.name}", tape.name) for tape in project.tapes]


def subject_of(project: Project, key: str) -> Subject:
    """What a key of ``offers`` means; ``NotFound`` when it is not there any more."""
    what, _, ident = key.partition(":")
    if what == "route":
        return find_subject(project, route=ident)
    if what == "frame":
        return find_subject(project, frame=ident)
    if what == "part":
        return find_subject(project, part=ident)
    return find_subject(project, tape=ident)


def every_subject(project: Project) -> list[Subject]:
    """All that moves: transitions, frames that move by themselves, parts and tapes, each with a name of its own."""
    found = [of_route(project, route) for route in project.routes]
    found += [of_frame(project, f) for f in project.frames if f.entrance is not None or moved_by_clocks(f)]
    found += [of_part(project, part) for part in project.parts]
    found += [of_tape(project, tape) for tape in project.tapes]
    return found


def subjects_for(subjects: list[Subject], kind: str, looks: bool) -> list[Subject]:
    """Those that a kind can be made of: a program or pictures, and for a vector animation something that moves."""
    found = [one for one in subjects if one.program is not None or looks]
    return [one for one in found if one.show.whole(1) > 0.0] if kind == "lottie" else found


def file_names(subjects: list[Subject]) -> list[str]:
    """A name for the file or folder of each."""
    names = Names()
    return [names.of(subject.name, subject.what) for subject in subjects]


def length_words(show: Show) -> str:
    """How long it is, in words."""
    if show.length > 0.0:
        return f"{show.length:g} ms"
    return tr("a round of {period:g} ms", period=show.period) if show.period and math.isfinite(show.period) else "still"


__all__ = ["Subject", "every_subject", "file_names", "find_subject", "length_words", "route_title", "subjects_for"]
