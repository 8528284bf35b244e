"""Edits of tryouts: other versions of a route's transition, kept beside it until one is chosen."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import msgspec

from avelt.core.edits.cues import curve_cues, time_cues
from avelt.core.edits.frames import free_name
from avelt.core.edits.routes import edit_route, set_base_curve, set_duration
from avelt.core.edits.ties_and_staggers import make_stagger, set_stagger
from avelt.core.errors import EditError
from avelt.core.model.curves import Curve
from avelt.core.model.find import frame_of_entrance, phase_of_motion, route_by_id
from avelt.core.model.motion import CueKey, Stagger, Transition, Tryout
from avelt.core.model.values import Project, Route
from avelt.core.record import Record
from avelt.core.timing.schedule import duration_of, timed
from avelt.core.words import tr

replace = msgspec.structs.replace
#: Versions beside the transition itself: four in all.
MOST = 3


def version(route: Route, tryout_id: str) -> Transition:
    """A version of a route's motion: that of a tryout, or for an empty id the route's own."""
    if not tryout_id:
        return route.transition
    for entry in route.tryouts:
        if entry.id == tryout_id:
            return entry.transition
    raise EditError(tr("The tryout is not there any more."))


def add_tryout(project: Project, route_id: str, copied: str = "", name: str = "") -> tuple[Project, str]:
    """One version more, like another one to begin with; gives its id."""
    if frame_of_entrance(route_id) or phase_of_motion(route_id):
        raise EditError(tr("Tryouts are for transitions: an entrance or a phase has none."))
    route = route_by_id(project, route_id)
    if len(route.tryouts) >= MOST:
        raise EditError(tr("Four versions are as many as can be compared: delete one first."))
    ident = f"V{project.next_id}"
    taken = [entry.name for entry in route.tryouts]
    letters = next(letter for letter in "BCDE" if f"Version {letter}" not in taken)
    entry = Tryout(ident, free_name(taken, name.strip() or f"Version {letters}"), version(route, copied))
    project = replace(project, next_id=project.next_id + 1)
    return edit_route(project, route_id, lambda r: replace(r, tryouts=(*r.tryouts, entry))), ident


def edit_version(project: Project, route_id: str, tryout_id: str, change: Callable[[Project], Project]) -> Project:
    """A version changed by any edit of the route's motion; the others stay as they are."""
    if not tryout_id:
        return change(project)
    route = route_by_id(project, route_id)
    own = version(route, tryout_id)
    tried = change(edit_route(project, route_id, lambda r: replace(r, transition=own)))
    made = route_by_id(tried, route_id).transition
    return edit_route(
        tried,
        route_id,
        lambda r: replace(
            r,
            transition=route.transition,
            tryouts=tuple(replace(e, transition=made) if e.id == tryout_id else e for e in route.tryouts),
        ),
    )


def name_tryout(project: Project, route_id: str, tryout_id: str, name: str) -> Project:
    """Another name for a version."""
    wanted = name.strip()
    if not wanted:
        return project
    return edit_route(
        project,
        route_id,
        lambda r: replace(r, tryouts=tuple(replace(e, name=wanted) if e.id == tryout_id else e for e in r.tryouts)),
    )


def drop_tryout(project: Project, route_id: str, tryout_id: str) -> Project:
    """Without a version."""
    return edit_route(project, route_id, lambda r: replace(r, tryouts=tuple(e for e in r.tryouts if e.id != tryout_id)))


def keep_one(project: Project, route_id: str, tryout_id: str) -> Project:
    """A version becomes the transition (an empty id: it stays what it is); the others are deleted."""
    motion = version(route_by_id(project, route_id), tryout_id)
    return edit_route(project, route_id, lambda r: replace(r, transition=motion, tryouts=()))


class Feel(Record, frozen=True):
    """What is compared between versions: ms, a curve, and the step of a stagger (``None`` without one)."""

    length: float
    curve: Curve
    step: float | None


def _stagger(motion: Transition, cues: Sequence[CueKey]) -> Stagger | None:
    """The stagger that is meant: the one that the last cue is in; of the whole the only one."""
    if not cues:
        return motion.staggers[0] if len(motion.staggers) == 1 else None
    return next((rule for rule in motion.staggers if cues[-1] in rule.cues), None)


def feel(project: Project, motion: Transition, cues: Sequence[CueKey]) -> Feel:
    """Length, curve and step of a version: of the last of some cues, or without cues of the whole."""
    rule = _stagger(motion, cues)
    step = rule.ms if rule is not None else None
    if not cues:
        return Feel(duration_of(motion, project), motion.curve, step)
    when = timed(project, motion, *cues[-1])
    return Feel(when.duration, when.curve, step if step is not None or len(cues) < 2 else 0.0)


def lasting(project: Project, route_id: str, tryout_id: str, cues: Sequence[CueKey], ms: float) -> Project:
    """A version whose cues last so long, each from its own start; without cues the whole is stretched."""

    def change(p: Project) -> Project:
        if not cues:
            return set_duration(p, route_id, ms)
        motion = route_by_id(p, route_id).transition
        starts = {key: timed(p, motion, *key).start for key in cues}
        for key, start in starts.items():
            p = time_cues(p, route_id, [key], start, start + ms)
        return p

    return edit_version(project, route_id, tryout_id, change)


def curved(project: Project, route_id: str, tryout_id: str, cues: Sequence[CueKey], curve: Curve) -> Project:
    """A version whose cues have a curve; without cues it is the base curve."""

    def change(p: Project) -> Project:
        return curve_cues(p, route_id, cues, curve) if cues else set_base_curve(p, route_id, curve)

    return edit_version(project, route_id, tryout_id, change)


def stepped(project: Project, route_id: str, tryout_id: str, cues: Sequence[CueKey], ms: float) -> Project:
    """A version whose stagger has another step; several cues that have none get one."""

    def change(p: Project) -> Project:
        rule = _stagger(route_by_id(p, route_id).transition, cues)
        if rule is not None:
            return set_stagger(p, route_id, replace(rule, ms=ms))
        return make_stagger(p, route_id, list(cues), Stagger("", (), ms=ms))[0]

    return edit_version(project, route_id, tryout_id, change)
