"""The state of a rehearsal as a value, and what of a project does not change while it is played.

A ``World`` is frozen: any moment of a rehearsal can be kept, compared and gone back to.
"""

from __future__ import annotations

import math
from collections.abc import Mapping
from typing import Literal

import msgspec
from msgspec.structs import replace

from avelt.core.errors import FormatError
from avelt.core.model.conditions import Condition, holds, parse
from avelt.core.model.find import frame_of_entrance
from avelt.core.model.parts import as_stage, part_by_id
from avelt.core.model.triggers import Crosses, InputValue, Loading, Signal, Tap, Timer
from avelt.core.model.values import Frame, Input, Project, Route
from avelt.core.record import Record
from avelt.core.running.played import unplayed_by_frame
from avelt.core.timing.program import Program

What = Literal[
    "arrives", "tap", "timer", "goes back", "starts", "input", "signal", "entrance", "loaded", "stopped", "not played"
]
#: What falls due by itself; at one moment in this order.
Kind = Literal["motion", "loading", "timer"]
KINDS: tuple[Kind, ...] = ("motion", "loading", "timer")


class LogEntry(Record, frozen=True):
    """One thing that happened: ms since the start, a word, and what it was about; and in which part: the names of the
    uses that lead there, empty for the project itself."""

    at: float
    what: What
    says: str
    stage: str = ""


class UnderWay(Record, frozen=True):
    """A transition under way, and the picture that it ends in."""

    route: Route
    program: Program
    shown: Frame
    start: float
    end: float


class Actor(Record, frozen=True):
    """What plays one stage: today the project itself is the only one.

    ``frame`` is shown, or arrived at next; ``shown`` the picture of it, over another one perhaps, and ``still`` its
    program. ``beneath`` are the frames that it lies over, with their pictures. ``loops`` says since when each loop (by
    origin) runs. ``fired`` are routes that are done once only. ``ready_at``: when its loading is over.
    """

    frame: Frame
    shown: Frame
    still: Program
    arrived: float
    motion: UnderWay | None = None
    beneath: tuple[tuple[Frame, Frame], ...] = ()
    loops: Mapping[str, float] = msgspec.field(default_factory=dict)
    fired: frozenset[str] = frozenset()
    wants_entrance: bool = False
    ready_at: float | None = None


class Child(Record, frozen=True):
    """A part at work in a use: its world, by its own clock, which was at ``offset`` when that of the stage above was at
    ``began``."""

    part: str
    name: str
    world: World
    began: float
    speed: float
    offset: float

    def local(self, ms: float) -> float:
        """The part's time at a time of the stage above."""
        return (ms - self.began) * self.speed + self.offset

    def above(self, local: float) -> float:
        """The time of the stage above at a time of the part; never, where its clock stands."""
        return self.began + (local - self.offset) / self.speed if self.speed > 0.0 else math.inf

    def now(self, ms: float) -> World:
        """The part's world at a time of the stage above."""
        return replace(self.world, now=max(self.world.now, self.local(ms)))


class World(Record, frozen=True):
    """A moment: ms since the start, the inputs, the actor, and what the pointer went down on. ``children`` are the
    parts at work, by the origin of their use; ``held`` is the one that the pointer went down in.

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


class Due(Record, frozen=True):
    """What falls due first: ordered by time, depth, paint order, kind. ``child``: in which part, and what there."""

    at: float
    kind: Kind
    route: Route | None = None
    depth: int = 0
    place: int = 0
    child: str = ""
    inner: Due | None = None

    @property
    def order(self) -> tuple[float, int, int, int]:
        """What comes before what."""
        return self.at, self.depth, self.place, KINDS.index(self.kind)


class Rules:
    """A project made ready to be played: routes by frame and kind of trigger, conditions parsed once."""

    def __init__(self, project: Project, loading: float = 0.0) -> None:
        self.project = project
        #: How long frames take to load, ms.
        self.loading = loading
        #: What cannot be played yet, in words, by the id of the frame.
        self.unplayed = unplayed_by_frame(project)
        self._parts: dict[str, Rules] = {}
        self._routes: dict[tuple[str, type], list[Route]] = {}
        self._conditions: dict[str, Condition | None] = {}
        for route in project.routes:
            self._routes.setdefault((route.leaves, type(route.trigger)), []).append(route)
            try:
                self._conditions[route.id] = parse(route.only_if)
            except FormatError:
                self._conditions[route.id] = None  # checks say what is wrong with it

    def of_part(self, part_id: str) -> Rules:
        """The rules of a part."""
        found = self._parts.get(part_id)
        if found is None:
            found = Rules(as_stage(self.project, part_by_id(self.project, part_id)), self.loading)
            self._parts[part_id] = found
        return found

    def timers(self, frame: Frame) -> list[tuple[Route, Timer]]:
        """The timers of a frame."""
        found = self._routes.get((frame.id, Timer), [])
        return [(route, route.trigger) for route in found if isinstance(route.trigger, Timer)]

    def taps(self, frame: Frame) -> list[tuple[Route, Tap]]:
        """What can be tapped on a frame."""
        found = self._routes.get((frame.id, Tap), [])
        return [(route, route.trigger) for route in found if isinstance(route.trigger, Tap)]

    def crossings(self, frame: Frame, input_id: str) -> list[tuple[Route, Crosses]]:
        """The routes of a frame that an input's value starts."""
        found = self._routes.get((frame.id, Crosses), [])
        mine = [(route, route.trigger) for route in found if isinstance(route.trigger, Crosses)]
        return [(route, trigger) for route, trigger in mine if trigger.input == input_id]

    def signals(self, frame: Frame, input_id: str) -> list[Route]:
        """The routes of a frame that a signal starts."""
        found = self._routes.get((frame.id, Signal), [])
        return [route for route in found if isinstance(route.trigger, Signal) and route.trigger.input == input_id]

    def input_named(self, name: str, signal: bool) -> Input | None:
        """The input, or the signal, of a name."""
        fitting = (e for e in self.project.inputs if (e.kind == "signal") == signal)
        return next((entry for entry in fitting if entry.name == name), None)

    def loadings(self, frame: Frame, when: str) -> list[Route]:
        """The routes on a frame's loading."""
        found = self._routes.get((frame.id, Loading), [])
        return [route for route in found if isinstance(route.trigger, Loading) and route.trigger.when == when]

    def may(self, world: World, route: Route) -> bool:
        """Whether a route can start now: its condition holds, and what is done once only is not done yet."""
        condition = self._conditions.get(route.id)
        return route.id not in world.actor.fired and condition is not None and holds(condition, world.inputs)


def due(rules: Rules, world: World) -> Due | None:
    """The first thing that falls due by itself; ``None`` when nothing will."""
    if world.halted:
        return None
    actor = world.actor
    found: list[Due] = []
    if actor.motion is not None:
        found.append(Due(actor.motion.end, "motion"))
    if actor.ready_at is not None:
        found.append(Due(actor.ready_at, "loading"))
    timer = next_timer(rules, world)
    if timer is not None:
        found.append(Due(timer[1], "timer", timer[0]))
    for place, (origin, child) in enumerate(world.children.items()):
        inner = due(rules.of_part(child.part), child.world)
        at = child.above(inner.at) if inner is not None else math.inf
        if inner is not None and at < math.inf:
            found.append(Due(max(at, world.now), inner.kind, None, inner.depth + 1, place, origin, inner))
    return min(found, key=lambda entry: entry.order, default=None)


def next_timer(rules: Rules, world: World) -> tuple[Route, float] | None:
    """The timer that falls due first and when, ms since the start; none while a transition is under way."""
    if route_of(world) is not None:
        return None
    actor = world.actor
    waiting = [
        (actor.arrived + trigger.after, k, route)
        for k, (route, trigger) in enumerate(rules.timers(actor.frame))
        if rules.may(world, route)
    ]
    if not waiting:
        return None
    when, _, route = min(waiting, key=lambda entry: entry[:2])
    return route, when


def route_of(world: World) -> Route | None:
    """The route under way; none while a frame's own entrance plays."""
    motion = world.actor.motion
    return motion.route if motion is not None and not frame_of_entrance(motion.route.id) else None
