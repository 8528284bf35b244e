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
from avelt.core.geometry.used import as_used
from avelt.core.model.curves import Curve
from avelt.core.model.expressions import Condition, Expression, holds, number_of, parse, parse_value, value_of
from avelt.core.model.find import frame_of_entrance
from avelt.core.model.parts import as_stage, part_by_id
from avelt.core.model.phases import Phase
from avelt.core.model.triggers import Ends, Hold, InputValue, Timer, Trigger
from avelt.core.model.values import Frame, Input, Part, Project, Route, Use
from avelt.core.record import Record
from avelt.core.running.orders import Orders
from avelt.core.running.played import unplayed_by_frame
from avelt.core.timing.loops import total_length
from avelt.core.timing.program import Program

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
    "stopped",
    "not played",
]
#: What falls due by itself; at one moment in this order.
Kind = Literal["motion", "loading", "timer", "hold", "loop", "phase"]
KINDS: tuple[Kind, ...] = ("motion", "loading", "timer", "hold", "loop", "phase")


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


class UnderWay(Record, frozen=True):
    """A transition under way, and the picture that it ends in."""

    route: Route
    program: Program
    shown: Frame
    start: float
    end: float


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
    ``ready_at``: when its loading is over.
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
        return replace(self.world, now=max(self.world.now, self.local(ms)))


def since_of(world: World) -> dict[str, float]:
    """For how long each loop (by origin) runs; one that rests stays where its last round ended."""
    ends = world.actor.ends
    return {
        origin: (min(world.now, ends[origin]) if origin in ends else world.now) - at
        for origin, at in world.actor.loops.items()
    }


def leaving(origin: str) -> str:
    """Under which name a part at work is kept while another takes its place, by the origin of their use."""
    return origin + "\0"


class World(Record, frozen=True):
    """A moment: ms since the start, the inputs, the actor, and what the pointer went down on. ``children`` are the
    parts at work, by the origin of their use; ``held`` is the one that the pointer went down in. ``tracks`` says where
    each running order is, the main one first. ``holds`` are the routes that the press was long enough for, ``last_tap``
    when and on what the last tap was, ``hovered`` the layers under the pointer, ``over`` the part there.

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
    holds: frozenset[str] = frozenset()
    last_tap: tuple[float, tuple[str, ...]] | None = None
    hovered: tuple[str, ...] = ()
    over: str = ""


class Due(Record, frozen=True):
    """What falls due first: ordered by time, depth, paint order, kind. ``child``: in which part, and what there."""

    at: float
    kind: Kind
    route: Route | None = None
    depth: int = 0
    place: int = 0
    child: str = ""
    inner: Due | None = None
    track: str = ""

    @property
    def order(self) -> tuple[float, int, int, int]:
        """What comes before what."""
        return self.at, self.depth, self.place, KINDS.index(self.kind)


class Rules:
    """A project made ready to be played: routes by frame and kind of trigger, conditions parsed once."""

    def __init__(self, project: Project, loading: float = 0.0) -> None:
        #: Its running orders, if it has any.
        self.orders = Orders(project) if any(track.phases for track in project.tracks) else None
        self.project = project = self.orders.project if self.orders is not None else project
        #: How long frames take to load, ms.
        self.loading = loading
        #: What cannot be played yet, in words, by the id of the frame.
        self.unplayed = unplayed_by_frame(project)
        self._parts: dict[int, tuple[Part, Rules]] = {}
        self._routes: dict[tuple[str, type], list[Route]] = {}
        self._conditions: dict[str, Condition | None] = {}
        self._values: dict[str, Expression | None] = {}
        self._by_frame: dict[str, list[Route]] = {}
        # A stage with a main order is driven by that alone.
        for route in () if self.orders is not None and self.orders.main is not None else project.routes:
            self._routes.setdefault((route.leaves, type(route.trigger)), []).append(route)
            self._by_frame.setdefault(route.leaves, []).append(route)

    def of(self, child: Child) -> Rules:
        """The rules of a part at work."""
        return self.of_use(child.use, *child.size)

    def of_use(self, use: Use, w: float, h: float) -> Rules:
        """The rules of a part as a use of a size has it."""
        part = as_used(part_by_id(self.project, use.part), use, w, h)
        found = self._parts.get(id(part))
        if found is None or found[0] is not part:
            found = self._parts[id(part)] = part, Rules(as_stage(self.project, part), self.loading)
        return found[1]

    def routes_of(self, frame: Frame) -> list[Route]:
        """The routes of a frame, whatever starts them, in their order."""
        return self._by_frame.get(frame.id, [])

    def of_kind(self, frame: Frame, kind: type[Trigger]) -> list[Route]:
        """The routes of a frame that one kind of trigger starts."""
        return self._routes.get((frame.id, kind), [])

    def origin(self, layer_id: str) -> str:
        """What a layer is, whatever the pose: its origin where a running order goes from pose to pose, or its id."""
        return self.orders.origins.get(layer_id, layer_id) if self.orders is not None else layer_id

    def input_named(self, name: str, signal: bool) -> Input | None:
        """The input, or the signal, of a name."""
        fitting = (e for e in self.project.inputs if (e.kind == "signal") == signal)
        return next((entry for entry in fitting if entry.name == name), None)

    def may(self, world: World, route: Route) -> bool:
        """Whether a route can start now: its condition holds, and what is done once only is not done yet."""
        return route.id not in world.actor.fired and self.holds(route.only_if, world.inputs)

    def holds(self, text: str, inputs: Mapping[str, InputValue]) -> bool:
        """Whether a condition holds; one that cannot be read does not (checks say what is wrong with it)."""
        if text not in self._conditions:
            try:
                self._conditions[text] = parse(text)
            except FormatError:
                self._conditions[text] = None
        condition = self._conditions[text]
        return condition is not None and holds(condition, inputs)

    def value(self, text: str, inputs: Mapping[str, InputValue]) -> InputValue | None:
        """What an expression works out; ``None`` for one that cannot be read."""
        if text not in self._values:
            try:
                self._values[text] = parse_value(text)
            except FormatError:
                self._values[text] = None
        found = self._values[text]
        return value_of(found, inputs) if found is not None else None

    def share(self, text: str, inputs: Mapping[str, InputValue]) -> float:
        """What an expression works out as a share of the way, 0..1."""
        self.value(text, inputs)
        found = self._values[text]
        return min(1.0, max(0.0, number_of(found, inputs))) if found is not None else 0.0


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
    found += touches_due(rules, world)
    for place, state in enumerate(world.tracks):
        at = next_of(rules, state)
        if at < math.inf:
            found.append(Due(max(at, world.now), "phase", place=place, track=state.track))
    for place, (origin, child) in enumerate(world.children.items()):
        inner = due(rules.of(child), child.world)
        at = child.above(inner.at) if inner is not None else math.inf
        if inner is not None and at < math.inf:
            found.append(Due(max(at, world.now), inner.kind, None, inner.depth + 1, place, origin, inner))
    return min(found, key=lambda entry: entry.order, default=None)


def touches_due(rules: Rules, world: World) -> list[Due]:
    """Presses that last, and loops that end, where a route waits for it."""
    frame, found = world.actor.frame, []
    for route in rules.of_kind(frame, Hold) if world.pressed is not None else ():
        on = route.trigger
        waits = isinstance(on, Hold) and on.layer in (*world.pressed, "") if world.pressed is not None else False
        if isinstance(on, Hold) and waits and route.id not in world.holds and rules.may(world, route):
            found.append(Due(world.pressed_at + on.after, "hold", route))
    ends = rules.of_kind(frame, Ends)
    if ends and route_of(world) is None:
        by_id = {loop.id: loop for loop in world.actor.shown.loops if loop.rounds and loop.origin in world.actor.loops}
        for route in ends:
            loop = by_id.get(getattr(route.trigger, "motion", ""))
            if loop is not None and rules.may(world, route):
                at = world.actor.loops[loop.origin] + total_length(loop) - loop.start_offset
                found.append(Due(max(at, world.actor.arrived), "loop", route))
    return [Due(max(due.at, world.now), due.kind, due.route) for due in found]


def next_of(rules: Rules, state: OnTrack) -> float:
    """When something falls due on a track: a round that was waited for, a timer, the end of the phase's time."""
    orders = rules.orders
    if orders is None:
        return math.inf
    phase = orders.phase(state.track, state.phase)
    times = [math.inf if state.ended else state.began + orders.end(state.track, phase)]
    if state.waits is not None:
        times.append(state.waits[1])
    times += [state.began + after for _, after in timers_of(phase, state)]
    return min(times)


def timers_of(phase: Phase, state: OnTrack) -> list[tuple[int, float]]:
    """The timers of a phase that did not go off yet: the number of the rule, ms since the phase began."""
    rules = ((k, rule.on) for k, rule in enumerate(phase.then) if k not in state.fired)
    return [(k, on.after) for k, on in rules if isinstance(on, Timer)]


def next_timer(rules: Rules, world: World) -> tuple[Route, float] | None:
    """The timer that falls due first and when, ms since the start; none while a transition is under way."""
    if route_of(world) is not None:
        return None
    actor = world.actor
    timers = ((k, route, route.trigger) for k, route in enumerate(rules.of_kind(actor.frame, Timer)))
    waiting = [
        (actor.arrived + trigger.after, k, route)
        for k, route, trigger in timers
        if isinstance(trigger, Timer) and rules.may(world, route)
    ]
    if not waiting:
        return None
    when, _, route = min(waiting, key=lambda entry: entry[:2])
    return route, when


def route_of(world: World) -> Route | None:
    """The route under way; none while a frame's own entrance plays."""
    motion = world.actor.motion
    return motion.route if motion is not None and not frame_of_entrance(motion.route.id) else None
