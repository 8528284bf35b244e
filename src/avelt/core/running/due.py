"""What falls due by itself, and when."""

from __future__ import annotations

import math
from typing import Literal

from avelt.core.model.find import frame_of_entrance
from avelt.core.model.phases import Phase
from avelt.core.model.triggers import Ends, Hold, Timer
from avelt.core.model.values import Route
from avelt.core.record import Record
from avelt.core.running.rules import Rules
from avelt.core.running.world import OnTrack, World
from avelt.core.timing.loops import total_length

#: What falls due by itself; at one moment in this order.
Kind = Literal["motion", "loading", "timer", "hold", "loop", "phase"]
KINDS: tuple[Kind, ...] = ("motion", "loading", "timer", "hold", "loop", "phase")


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


def due(rules: Rules, world: World) -> Due | None:
    """The first thing that falls due by itself; ``None`` when nothing will."""
    if world.halted:
        return None
    actor = world.actor
    found: list[Due] = []
    if actor.motion is not None:
        over = actor.motion.over_at()
        if over < math.inf:
            found.append(Due(max(over, world.now), "motion"))
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
        down = {rules.origin(ident) for ident in world.pressed or ()} | {""}
        waits = isinstance(on, Hold) and rules.origin(on.layer) in down
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
    """The route under way; none while a frame's own entrance plays, or a motion follows a value that may go back."""
    motion = world.actor.motion
    if motion is None or not motion.may_arrive or frame_of_entrance(motion.route.id):
        return None
    return motion.route
