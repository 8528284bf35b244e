"""Running orders: phases that follow each other by rules, in a main order and in side tracks beside it.

A phase shows something, lasts, and its rules say what comes then. Poses are named by the ids of the stage's frames,
inputs by their ids in actions and by their names in expressions. Times are ms since the phase began.
"""

from __future__ import annotations

from typing import Literal

from msgspec.structs import replace

from avelt.core.model.curves import Curve, Line, Named
from avelt.core.model.motion import Transition
from avelt.core.model.triggers import SendSignal, SetInput, Trigger
from avelt.core.model.value import Value

MAIN = "main"  # the name of the order that drives a stage


class ShowPose(Value, frozen=True, tag_field="shows", tag="pose"):
    """A pose at rest."""

    pose: str


class ShowLoops(Value, frozen=True, tag_field="shows", tag="loops"):
    """A pose with its loops at work; they begin with the phase."""

    pose: str


class ShowMotion(Value, frozen=True, tag_field="shows", tag="motion"):
    """The motion from one pose to another."""

    leaves: str
    arrives: str
    transition: Transition = Transition()


class ShowBlend(Value, frozen=True, tag_field="shows", tag="blend"):
    """Between two poses, as far as an expression says: 0 is the first, 1 the other.

    With a lag (ms) it comes after: what is left of the way shrinks to 1/e of it in that time.
    """

    leaves: str
    arrives: str
    by: str
    lag: float = 0.0
    transition: Transition = Transition(1000.0, Line())


Shows = ShowPose | ShowLoops | ShowMotion | ShowBlend


class Until(Value, frozen=True, tag_field="lasts", tag="until"):
    """Until one of its rules holds: they are read on entering, and whenever an input changes."""


class Once(Value, frozen=True, tag_field="lasts", tag="once"):
    """As long as its motion, or one round of its longest loop; then its rules are read."""


class ForMs(Value, frozen=True, tag_field="lasts", tag="ms"):
    """So many ms; then its rules are read."""

    ms: float


class Rounds(Value, frozen=True, tag_field="lasts", tag="rounds"):
    """So many rounds of its longest loop, or of its motion; then its rules are read."""

    count: int


Lasts = Until | Once | ForMs | Rounds


class Rule(Value, frozen=True):
    """What comes then: the phase ``to``, when the condition holds, or when the event ``on`` comes while it holds.

    ``finish_round``: the round is gone through first. A transition of ``duration`` ms leads into the phase that follows
    while that runs already.
    """

    to: str
    only_if: str = ""
    on: Trigger | None = None
    finish_round: bool = False
    duration: float = 0.0
    curve: Curve = Named("settle")


Deed = SetInput | SendSignal


class Phase(Value, frozen=True):
    """One row of a running order. ``entering`` and ``leaving`` is what is set or sent then."""

    id: str
    name: str
    shows: Shows
    lasts: Lasts = Until()
    then: tuple[Rule, ...] = ()
    entering: tuple[Deed, ...] = ()
    leaving: tuple[Deed, ...] = ()


class Track(Value, frozen=True):
    """Phases, of which one runs at a time: the first to begin with.

    ``layers`` (origins) are those that a side track moves; empty: those that differ among the poses that it shows, or
    loop in them.
    """

    id: str
    name: str = MAIN
    phases: tuple[Phase, ...] = ()
    layers: tuple[str, ...] = ()


def poses_of(shows: Shows) -> tuple[str, ...]:
    """The ids of the poses that are shown: one, or the first and the last."""
    return (shows.pose,) if isinstance(shows, ShowPose | ShowLoops) else (shows.leaves, shows.arrives)


def without_pose(tracks: tuple[Track, ...], pose_id: str) -> tuple[Track, ...]:
    """Running orders after a pose was removed: phases that showed it go, and rules that led to them."""
    gone = {phase.id for track in tracks for phase in track.phases if pose_id in poses_of(phase.shows)}
    return tuple(replace(track, phases=without_phases(track.phases, gone)) for track in tracks) if gone else tracks


def without_phases(phases: tuple[Phase, ...], gone: set[str]) -> tuple[Phase, ...]:
    """Phases without some, and without the rules that lead to them."""
    return tuple(
        replace(phase, then=tuple(rule for rule in phase.then if rule.to not in gone))
        for phase in phases
        if phase.id not in gone
    )


Kind = Literal["pose", "loops", "motion", "blend"]


def kind_of(shows: Shows) -> Kind:
    """The word for what is shown."""
    kinds: dict[type, Kind] = {ShowPose: "pose", ShowLoops: "loops", ShowMotion: "motion", ShowBlend: "blend"}
    return kinds[type(shows)]
