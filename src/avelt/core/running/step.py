"""What happens, one thing at a time: a world and what falls due (or what somebody does) give the next world.

Every function here is pure from outside: it takes a frozen ``World`` and gives another, with what is to be logged.
Inside, a working copy is changed and frozen again at the end.
"""

from __future__ import annotations

from typing import Literal

from msgspec.structs import replace

from avelt.core.model.find import frame_by_id
from avelt.core.model.triggers import Timer, hot_area
from avelt.core.model.values import Route
from avelt.core.running import phasing
from avelt.core.running.scenes import layers_at, use_at
from avelt.core.running.work import MOST_STEPS, Step, Work, begin, from_child, send, set_input
from avelt.core.running.world import Due, LogEntry, Rules, World

Taken = Route | Literal["phase"] | None  # a tap is taken by a route, by a rule of a running order, or by nothing

__all__ = [
    "MOST_STEPS",
    "Step",
    "begin",
    "jump",
    "loaded",
    "passed",
    "press",
    "release",
    "send",
    "set_input",
    "step",
    "tapped",
]


def step(rules: Rules, world: World, found: Due) -> Step:
    """Do what falls due. After ``MOST_STEPS`` of them at one moment the chain is cut, and the log says where."""
    work = Work(rules, world)
    work.now = max(world.now, found.at)
    if found.kind == "phase" and found.inner is None:
        phasing.fell_due(work, found.track)
    elif found.inner is not None:
        work.in_child(found.child, lambda rules, world: step(rules, world, found.inner))  # type: ignore[arg-type]
    elif not work.counts(f"{work.frame.name}: what goes on by itself"):
        pass
    elif found.kind == "motion" and work.motion is not None:
        work.arrive(frame_by_id(rules.project, work.motion.route.arrives), work.motion)
    elif found.kind == "loading":
        work.loaded()
    elif found.route is not None and isinstance(found.route.trigger, Timer):
        work.fired = work.fired | {found.route.id}
        work.note("timer", f"after {found.route.trigger.after:g} ms")
        work.go(found.route)
    return work.done()


def passed(world: World, to_ms: float) -> World:
    """Time goes on, and nothing falls due before."""
    return replace(world, now=max(world.now, to_ms))


def loaded(rules: Rules, world: World) -> Step:
    """The loading of the frame that is shown is done now."""
    work = Work(rules, world)
    work.loaded()
    return work.done()


def jump(rules: Rules, world: World, track: str, phase: str) -> Step:
    """A phase of a running order (by their ids) begins now, whatever runs."""
    work = Work(rules, replace(world, halted=False, steps=0))
    phasing.jump(work, track, phase)
    return work.done()


def press(rules: Rules, world: World, x: float, y: float) -> World:
    """The pointer goes down at a place in the frame; in the innermost part there, too."""
    found = use_at(rules, world, x, y)
    made = replace(world, pressed=layers_at(rules, world, x, y), halted=False, steps=0, held="")
    if found is None:
        return made
    origin, inner_x, inner_y = found
    child = world.children[origin]
    there = press(rules.of(child), child.now(world.now), inner_x, inner_y)
    return replace(made, held=origin, children={**world.children, origin: replace(child, world=there)})


def release(rules: Rules, world: World, x: float, y: float) -> tuple[World, tuple[LogEntry, ...], Taken]:
    """The pointer goes up: a tap when it went down on the same thing. Gives what took it, too.

    The innermost part has the tap first; what it does not take goes up.
    """
    pressed = world.pressed
    if pressed is None:
        return world, (), None
    found = use_at(rules, world, x, y) if world.held in world.children else None
    if found is not None and found[0] == world.held:
        child = world.children[world.held]
        there, log, route = release(rules.of(child), child.now(world.now), *found[1:])
        children = {**world.children, world.held: replace(child, world=there)}
        if route is not None:
            told = tuple(from_child(entry, child, world.now) for entry in log)
            return replace(world, pressed=None, held="", children=children), told, route
        world = replace(world, children=children)
    here, went_down = layers_at(rules, world, x, y), {_origin(rules, ident) for ident in pressed}
    shared = tuple(ident for ident in here if _origin(rules, ident) in went_down)
    route = tapped(rules, world, shared)
    work = Work(rules, replace(world, pressed=None))
    name = work.name_of(shared[0]) if shared else "nothing"
    if route is not None:
        work.note("tap", work.name_of(hot) if (hot := hot_area(route.trigger)) else name)
        work.go(route)
        return *work.done(), route
    place = len(work.log)
    by_order = phasing.tapped(work, shared)
    touched = work.name_of(by_order) if by_order else name
    says = touched if by_order is not None else f"{touched}, nothing happens"
    work.log.insert(place, LogEntry(work.now, "tap", says))
    return *work.done(), None if by_order is None else "phase"


def _origin(rules: Rules, layer_id: str) -> str:
    """What a layer is, whatever the pose: its origin where a running order goes from pose to pose, or its id."""
    return rules.orders.origins.get(layer_id, layer_id) if rules.orders is not None else layer_id


def tapped(rules: Rules, world: World, layers: tuple[str, ...]) -> Route | None:
    """The route that a tap starts: the innermost hot area wins, anywhere comes last."""
    mine = [(route, trigger) for route, trigger in rules.taps(world.actor.frame) if rules.may(world, route)]
    for ident in (*layers, ""):
        for route, trigger in mine:
            if trigger.layer == ident:
                return route
    return None
