"""What could begin now, worked out before anybody touches anything."""

from __future__ import annotations

from collections.abc import Iterator

from avelt.core.model.find import entrance_route
from avelt.core.model.triggers import STAYS, Drag, Pointer, Scroll
from avelt.core.running.rules import Rules
from avelt.core.running.step import passed
from avelt.core.running.work import Work
from avelt.core.running.world import World
from avelt.core.timing.broken_off import pairs_as_drawn
from avelt.core.timing.compile import compile_route
from avelt.core.timing.over import at_arrival
from avelt.core.timing.program import Program

_BEGUN = 0.5  # how far a value goes, so that what follows it begins


def motions_from(rules: Rules, world: World) -> Iterator[Program]:
    """The programs that the routes of the frame in front would start now, in their order, for a stage at rest.

    The player takes them from where they are kept, as long as the world stands as it does: scrolled so far, with
    these inputs. The entrance of a frame arrived at is worked out with its route.
    """
    for route in rules.routes_of(world.actor.frame):
        if isinstance(route.action, STAYS) or not rules.may(world, route):
            continue
        work = Work(rules, world)
        if isinstance(route.trigger, Drag | Scroll | Pointer):
            work.aim(route, _BEGUN, 0.0, held=True)
        else:
            work.go(route)
        motion = work.motion
        if motion is None:
            continue
        if motion.to.entrance is not None and motion.shown is at_arrival(motion.to):
            compile_route(rules.project, entrance_route(motion.to))
        yield motion.program


def motions_inside(rules: Rules, world: World) -> Iterator[None]:
    """Works out what a touch may start in the parts at work: the ways between all their poses, as these were drawn.
    Yields after each: what is kept then is there."""
    parts = {id(inner.project): (inner, child.world) for child in world.children.values() if (inner := rules.of(child))}
    for inner, there in parts.values():
        for route in inner.project.routes:
            if not isinstance(route.action, STAYS):
                compile_route(inner.project, route)
                yield
        yield from motions_inside(inner, there)


def pairs_on_the_way(rules: Rules, world: World) -> Iterator[None]:
    """Finds what a motion needs that breaks off one of those that could begin now: the pairs between what is seen on
    the way and where it leads. Yields after each: what is kept then is there."""
    for route in rules.routes_of(world.actor.frame):
        if isinstance(route.action, STAYS) or isinstance(route.trigger, Drag | Scroll | Pointer):
            continue
        if not rules.may(world, route):
            continue
        begun = Work(rules, world)
        begun.go(route)
        motion = begun.motion
        if motion is None:
            continue
        there = passed(begun.world(), (motion.start + motion.end) / 2.0)
        for other in rules.routes_of(motion.to):
            if isinstance(other.action, STAYS) or not rules.may(there, other):
                continue
            work = Work(rules, there)
            way = work.way_back(other)
            for _ in pairs_as_drawn(motion.program.drawn, work.arrival(way).end, way.transition):
                yield
