"""The state of a rehearsal as a value, and what of a project does not change while it is played.

A ``World`` is frozen: any moment of a rehearsal can be kept, compared and gone back to.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Literal

import msgspec
from msgspec.structs import replace

from avelt.core.model.curves import Curve
from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Frame, Route, Use
from avelt.core.record import Record
from avelt.core.running.following import Following
from avelt.core.timing.clocks import Clocks
from avelt.core.timing.followers import WHOLE
from avelt.core.timing.program import CARRIED, Program
from avelt.core.timing.scrolling import ACROSS, AT_TOP, DOWN, Offset

What = Literal[
    "arrives",
    "tap",
    "timer",
    "goes back",
    "starts",
    "input",
    "signal",
    "entrance",
    "loaded",
    "phase",
    "double tap",
    "hold",
    "release",
    "hover",
    "key",
    "drag",
    "let go",
    "scroll",
    "closes",
    "stopped",
    "not played",
]


class LogEntry(Record, frozen=True):
    """One thing that happened: ms since the start, a word, and what it was about; and in which part: the names of the
    uses that lead there, empty for the project itself. ``frame`` is the frame arrived at, ``phase`` the phase that
    began on ``track``."""

    at: float
    what: What
    says: str
    stage: str = ""
    frame: str = ""
    phase: str = ""
    track: str = ""


class Left(Record, frozen=True):
    """A stage as it was before a motion that follows a value went on to the frame arrived at: what it comes back to
    when the value does."""

    frame: Frame
    shown: Frame
    arrived: float
    fired: frozenset[str]
    scroll: Offset
    beneath: tuple[tuple[Frame, Frame], ...]
    history: tuple[str, ...]


class UnderWay(Record, frozen=True):
    """A transition under way: ``to`` is the frame arrived at, ``shown`` the picture that it ends in.

    ``base``: how far what it arrives at was scrolled when it was worked out. ``following``: it goes with a value, not
    by the clock; ``home`` is the picture that it leaves then, ``left`` what it left once it is sure to arrive.
    """

    route: Route
    program: Program
    to: Frame
    shown: Frame
    start: float
    end: float
    base: Offset = AT_TOP
    following: Following | None = None
    home: Frame | None = None
    left: Left | None = None

    @property
    def may_arrive(self) -> bool:
        """Whether it is on its way to the frame arrived at; not while it follows a value that may go back."""
        return self.following is None or self.left is not None

    def moment(self, now: float) -> float:
        """The time of its program, ms."""
        if self.following is None:
            return now - self.start
        return self.following.at(now) * (self.end - self.start)

    def rate(self, now: float) -> float:
        """How fast that time goes: 1 is by the clock."""
        return 1.0 if self.following is None else self.following.speed_at(now) * (self.end - self.start)

    def over_at(self) -> float:
        """When it is over; never while it follows a value that is between the ends."""
        return self.end if self.following is None else self.following.ends_at()


class Lead(Record, frozen=True):
    """The short transition into a phase: what was on screen in each place of its track, with the program that moved it,
    the program's time and its speed (0: it stood); from ``start`` to ``end``."""

    left: Mapping[str, Frame]
    old: Mapping[str, tuple[Program, float, float]]
    start: float
    end: float
    curve: Curve


class OnTrack(Record, frozen=True):
    """Where a track is: its phase, since when. ``ended``: its time is over and no rule held then.

    ``waits``: the rule (by its number) that begins when the round is over, and when. ``wanted`` is how far a blend
    shall be; it was at ``share`` at ``since`` and follows by ``lag`` ms. ``fired`` are its timers that went off.
    ``by``: the phase and the rule of it (by its number) that led here.
    """

    track: str
    phase: str
    began: float
    lead: Lead | None = None
    ended: bool = False
    waits: tuple[int, float] | None = None
    wanted: float = 0.0
    share: float = 0.0
    since: float = 0.0
    lag: float = 0.0
    fired: frozenset[int] = frozenset()
    by: tuple[str, int] = ("", -1)


class Actor(Record, frozen=True):
    """What plays one stage: the project, or a part.

    ``frame`` is shown, or arrived at next; ``shown`` the picture of it, over another one perhaps, and ``still`` its
    program. ``beneath`` are the frames that it lies over, with their pictures. ``loops`` says since when each loop (by
    origin) runs, ``ends`` when one rests because its condition holds. ``fired`` are routes that are done once only.
    ``ready_at``: when its loading is over. ``scroll`` is how far the frame is scrolled, ``places`` how far each was (by
    its id) when it was left, ``history`` the ids of the frames that were before. ``follows`` says how far each layer
    that follows a value is (by the clock that it hangs on), ``returns`` the motion that goes back when the value does
    by which this frame was arrived at, ``passed`` the routes that set or send at the end of a value that is there.
    """

    frame: Frame
    shown: Frame
    still: Program
    arrived: float
    motion: UnderWay | None = None
    beneath: tuple[tuple[Frame, Frame], ...] = ()
    loops: Mapping[str, float] = msgspec.field(default_factory=dict)
    ends: Mapping[str, float] = msgspec.field(default_factory=dict)
    fired: frozenset[str] = frozenset()
    wants_entrance: bool = False
    ready_at: float | None = None
    scroll: Offset = AT_TOP
    places: Mapping[str, Offset] = {}
    history: tuple[str, ...] = ()
    follows: Mapping[str, Following] = {}
    returns: UnderWay | None = None
    passed: frozenset[str] = frozenset()


class Grip(Record, frozen=True):
    """What somebody drags: where the pointer went down (px of the stage), on which layer (empty: anywhere), and how far
    what follows the drag was then: the motion under way, and layers (by origin). ``recent`` are the last places with
    their times, ``ways`` where along each path layer it went down (by id); ``moved``: it is no tap any more."""

    x: float
    y: float
    layer: str
    share: float = 0.0
    follows: Mapping[str, float] = {}
    recent: tuple[tuple[float, float, float], ...] = ()
    ways: Mapping[str, float] = {}
    moved: bool = False


class Child(Record, frozen=True):
    """A part at work in a use: its world, by its own clock, which was at ``offset`` when that of the stage above was at
    ``began``."""

    use: Use
    size: tuple[float, float]  # of the use's box
    name: str
    world: World
    began: float

    @property
    def speed(self) -> float:
        """How fast its clock goes."""
        return self.use.speed

    @property
    def offset(self) -> float:
        """What its clock began at, ms."""
        return self.use.offset

    def local(self, ms: float) -> float:
        """The part's time at a time of the stage above."""
        return (ms - self.began) * self.speed + self.offset

    def above(self, local: float) -> float:
        """The time of the stage above at a time of the part; never, where its clock stands."""
        return self.began + (local - self.offset) / self.speed if self.speed > 0.0 else math.inf

    def now(self, ms: float) -> World:
        """The part's world at a time of the stage above."""
        return replace(self.world, now=self.moment(ms))

    def moment(self, ms: float) -> float:
        """The part's time at a time of the stage above; it never runs back."""
        return max(self.world.now, self.local(ms))


def since_of(world: World, at_moment: float | None = None) -> dict[str, float]:
    """What the clocks of what is shown say, beside the transition's own: for how long each loop (by origin) runs (one
    that rests stays where its last round ended), how far what follows a value has come, how far it is scrolled.
    ``at_moment``: at another time than the world's, at which nothing else has happened."""
    actor = world.actor
    ends, now = actor.ends, world.now if at_moment is None else at_moment
    found = {origin: (min(now, ends[origin]) if origin in ends else now) - at for origin, at in actor.loops.items()}
    for clock, following in actor.follows.items():
        found[clock] = following.at(now) * WHOLE
    motion = actor.motion
    base = AT_TOP if motion is None else motion.base
    if actor.scroll != base:
        found[ACROSS], found[DOWN] = actor.scroll[0] - base[0], actor.scroll[1] - base[1]
    if motion is not None and motion.following is not None:
        found[CARRIED] = now - motion.start
    return found


def begun_of(world: World, clocks: Clocks) -> list[float] | None:
    """When each of some clocks began in a world that stands (``nan``: it does not run); ``None`` where clocks say
    something else than a time since then. Kept with the world."""
    kept: tuple[Clocks, list[float] | None] | None = world.__dict__.get("begun")
    if kept is None or kept[0] is not clocks:
        actor = world.actor
        plain = not actor.ends and not actor.follows and actor.motion is None and actor.scroll == AT_TOP
        kept = clocks, [actor.loops.get(origin, math.nan) for origin in clocks.origins] if plain else None
        world.__dict__["begun"] = kept
    return kept[1]


def leaving(origin: str) -> str:
    """Under which name a part at work is kept while another takes its place, by the origin of their use."""
    return origin + "\0"


class World(Record, frozen=True):
    """A moment: ms since the start, the inputs, the actor, and what the pointer went down on. ``children`` are the
    parts at work, by the origin of their use; ``held`` is the one that the pointer went down in. ``tracks`` says where
    each running order is, the main one first. ``holds`` are the routes that the press was long enough for, ``last_tap``
    when and on what the last tap was, ``hovered`` the layers under the pointer, ``over`` the part there.

    ``grip`` is what is dragged, ``pointer`` where the pointer is, ``inside`` whether on the screen,
    ``pressed_spot`` where it went down.

    ``steps`` counts what was done by itself at the moment ``steps_at``; ``halted``: an endless chain was cut, and
    nothing more is done by itself before somebody touches something.
    """

    now: float
    inputs: Mapping[str, InputValue]
    actor: Actor
    pressed: tuple[str, ...] | None = None
    steps: int = 0
    steps_at: float = -1.0
    halted: bool = False
    children: Mapping[str, Child] = {}
    held: str = ""
    tracks: tuple[OnTrack, ...] = ()
    pressed_at: float = 0.0
    pressed_spot: tuple[float, float] = (0.0, 0.0)
    holds: frozenset[str] = frozenset()
    last_tap: tuple[float, tuple[str, ...]] | None = None
    hovered: tuple[str, ...] = ()
    over: str = ""
    grip: Grip | None = None
    pointer: tuple[float, float] | None = None
    inside: bool = False
