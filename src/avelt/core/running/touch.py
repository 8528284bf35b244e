"""What somebody does with a pointer and with keys: the innermost part has it first, what it does not take goes up.

A tap is done as the pointer goes up, on what it went down on: on all of it when the pointer stood still, whatever moved
away beneath it meanwhile, else on what it is still over. A press that was held long enough for a route is none. Of two
taps the second is a double tap where a route waits for one. Hovering is known from the last place of the pointer: a
layer that comes to it by itself is hovered once it moves again, and left when that takes the pointer off it.
"""

from __future__ import annotations

from collections.abc import Callable
from math import hypot
from typing import Literal

from msgspec.structs import replace

from avelt.core.model.triggers import DoubleTap, HoverIn, HoverOut, Key, Release, Tap, Trigger, hot_area
from avelt.core.model.values import Route
from avelt.core.running import phasing
from avelt.core.running.part_work import from_child
from avelt.core.running.rules import Rules
from avelt.core.running.scenes import layers_at, point_in, use_at
from avelt.core.running.stage_work import Step
from avelt.core.running.work import Work
from avelt.core.running.world import LogEntry, What, World
from avelt.core.words import mark, tr

#: What somebody does is taken by a route, by a rule of a running order, by what it drags or closes, or by nothing.
Taken = Route | Literal["phase", "drag", "closes"] | None
Done = tuple[World, tuple[LogEntry, ...], Taken]
_STILL = 4.0  # px that a pointer may move, and stands still


def _touched(world: World) -> World:
    """Somebody does something: what was cut goes on."""
    return replace(world, halted=False, steps=0)


def press(rules: Rules, world: World, x: float, y: float) -> Step:
    """The pointer goes down at a place in the frame; in the innermost part there, too.

    Outside of what is shown over something it closes that, where it may. What can be dragged there is held.
    """
    work = Work(rules, replace(_touched(world), pointer=(x, y)))
    if work.closes_over(x, y) and work.close_over():
        return replace(work.world(), pressed=None, grip=None, held=""), tuple(work.log)
    found = use_at(rules, world, x, y)
    here = layers_at(rules, world, x, y)
    made = replace(_touched(world), pressed=here, pressed_at=world.now, holds=frozenset(), held="", grip=None)
    made = replace(made, pointer=(x, y), inside=True, pressed_spot=(x, y))
    log: tuple[LogEntry, ...] = ()
    taken = False
    if found is not None:
        origin, inner_x, inner_y = found
        child = world.children[origin]
        there, own = press(rules.of(child), child.now(world.now), inner_x, inner_y)
        log = tuple(from_child(entry, child, world.now) for entry in own)
        taken = drags(there)
        made = replace(made, held=origin, children={**world.children, origin: replace(child, world=there)})
    work = Work(rules, made)
    if not taken:
        work.gripped(here, x, y)
    made, own = work.done()
    return made, (*log, *own)


def drags(world: World) -> bool:
    """Whether something in a stage is held, or in a part there."""
    child = world.children.get(world.held)
    return world.grip is not None or (child is not None and drags(child.world))


def release(rules: Rules, world: World, x: float, y: float) -> Done:
    """The pointer goes up: what was dragged is let go, or it is a tap when it went down on the same thing. Gives what
    took it, too."""
    pressed = world.pressed
    if pressed is None:
        return world, (), None
    told: tuple[LogEntry, ...] = ()
    stood = hypot(x - world.pressed_spot[0], y - world.pressed_spot[1]) <= _STILL
    if world.held in world.children:
        child = world.children[world.held]
        found = use_at(rules, world, x, y)
        inside = found[1:] if found is not None and found[0] == world.held else None
        inside = child.world.pressed_spot if stood and child.world.pressed is not None else inside
        if inside is not None:
            there, log, taken = release(rules.of(child), child.now(world.now), *inside)
        else:
            there, log, taken = _dropped(rules.of(child), child.now(world.now))
        told = tuple(from_child(entry, child, world.now) for entry in log)
        world = replace(world, children={**world.children, world.held: replace(child, world=there)})
        if taken is not None:
            return replace(world, pressed=None, held="", grip=None), told, taken
    if world.grip is not None:
        work = Work(rules, world)
        dragged = work.let_off()
        world, own = work.done()
        told = (*told, *own)
        if dragged:
            return replace(world, pressed=None, held=""), told, "drag"
    shared = pressed if stood else _still_under(rules, world, pressed, x, y)
    made, own, taken = _let_go(rules, replace(world, pressed=None), pressed, shared, bool(world.holds))
    return made, (*told, *own), taken


def _still_under(rules: Rules, world: World, pressed: tuple[str, ...], x: float, y: float) -> tuple[str, ...]:
    """What lies under a point of what the pointer went down on, the innermost first."""
    went_down = {rules.origin(ident) for ident in pressed}
    return tuple(ident for ident in layers_at(rules, world, x, y) if rules.origin(ident) in went_down)


def _dropped(rules: Rules, world: World) -> Done:
    """The pointer goes up elsewhere: what was dragged in a part is let go."""
    log: tuple[LogEntry, ...] = ()
    child = world.children.get(world.held)
    taken: Taken = None
    if child is not None:
        there, own, taken = _dropped(rules.of(child), child.now(world.now))
        log = tuple(from_child(entry, child, world.now) for entry in own)
        world = replace(world, children={**world.children, world.held: replace(child, world=there)})
    work = Work(rules, replace(world, pressed=None, held=""))
    dragged = work.let_off()
    made, own = work.done()
    return made, (*log, *own), "drag" if dragged else taken


def _let_go(rules: Rules, world: World, pressed: tuple[str, ...], shared: tuple[str, ...], was_held: bool) -> Done:
    """The pointer went up over some layers that it went down on: the second of two taps, a tap, or a release."""
    last = world.last_tap

    def twice(on: Trigger) -> bool:
        return (
            isinstance(on, DoubleTap)
            and last is not None
            and world.now - last[0] <= on.within
            and (not on.layer or rules.origin(on.layer) in {rules.origin(ident) for ident in last[1]})
        )

    kinds: list[tuple[What, tuple[str, ...], Callable[[Trigger], bool]]] = [
        ("release", pressed, lambda on: isinstance(on, Release))
    ]
    if not was_held:
        taps: list[tuple[What, tuple[str, ...], Callable[[Trigger], bool]]] = [
            ("double tap", shared, twice),
            ("tap", shared, lambda on: isinstance(on, Tap)),
        ]
        kinds = [*taps, *kinds]
    for what, layers, fits in kinds:
        work = Work(rules, replace(world, last_tap=None if what == "double tap" or was_held else (world.now, shared)))
        taken, name = _taken(work, (*layers, ""), fits)
        if taken is not None:
            work.log.insert(0, LogEntry(work.now, what, name))
            return *work.done(), taken
    work = Work(rules, replace(world, last_tap=None if was_held else (world.now, shared)))
    if not was_held:
        name = work.name_of(shared[0]) if shared else "nothing"
        work.note("tap", tr("{name}, nothing happens", name=name))
    return *work.done(), None


def _taken(work: Work, layers: tuple[str, ...], fits: Callable[[Trigger], bool]) -> tuple[Taken, str]:
    """What takes something done on layers (ids, innermost first; ``""`` is anywhere), and the name of the layer."""
    routes = [route for route in work.rules.routes_of(work.frame) if fits(route.trigger) and work.may(route)]
    same = work.rules.origin
    touched = {route.id: same(hot_area(route.trigger)) for route in routes}
    route = next((route for ident in layers for route in routes if touched[route.id] == same(ident)), None)
    if route is not None:
        name = work.name_of(hot_area(route.trigger) or layers[0])
        work.go(route)
        return route, name
    by_order = phasing.touched(work, layers, fits)
    return (None, "") if by_order is None else ("phase", work.name_of(by_order or layers[0]))


def move(rules: Rules, world: World, x: float, y: float) -> Step:
    """The pointer is at a place in the frame: what it comes over and what it leaves is told, what it holds goes along,
    and so does what follows it."""
    found = use_at(rules, world, x, y)
    log: tuple[LogEntry, ...] = ()
    origin = found[0] if found is not None else ""
    rested, rested_in = _at_rest(rules, world)
    for there in dict.fromkeys((world.over, rested_in, origin, world.held)):
        child = world.children.get(there)
        if child is None:
            continue
        inner, now = rules.of(child), child.now(world.now)
        point = found[1:] if found is not None and there == origin else None
        if point is None and there == world.held:
            point = point_in(rules, world, there, x, y)
        made, own = move(inner, now, *point) if point is not None else out(inner, now)
        world = replace(world, children={**world.children, there: replace(child, world=made)})
        log += tuple(from_child(entry, child, world.now) for entry in own)
    here = layers_at(rules, world, x, y)
    made, own = _hovered(rules, replace(world, over=origin, pointer=(x, y), inside=True), here, rested)
    if made.grip is None and not rules.feels_pointer:
        return made, (*log, *own)
    work = Work(rules, made)
    work.dragged(x, y)
    work.pointed()
    made, then = work.done()
    return made, (*log, *own, *then)


def scroll(rules: Rules, world: World, dx: float, dy: float) -> Step:
    """What lies under the pointer is scrolled by so many px: the innermost part that can be, or the frame. A press is
    no tap then."""
    child = world.children.get(world.over)
    if child is not None and dx * dx + dy * dy > 0.0:
        made, own = scroll(rules.of(child), child.now(world.now), dx, dy)
        if made.actor.scroll != child.world.actor.scroll or made.children != child.world.children:
            log = tuple(from_child(entry, child, world.now) for entry in own)
            return replace(world, children={**world.children, world.over: replace(child, world=made)}), log
    work = Work(rules, _touched(world))
    if work.scroll_by(dx, dy) and not (work.grip is not None and work.grip.moved):
        work.pressed = work.grip = None
    return work.done()


def out(rules: Rules, world: World) -> Step:
    """The pointer leaves the screen."""
    log: tuple[LogEntry, ...] = ()
    rested, rested_in = _at_rest(rules, world)
    for there in dict.fromkeys((world.over, rested_in)):
        child = world.children.get(there)
        if child is not None:
            made, own = out(rules.of(child), child.now(world.now))
            world = replace(world, children={**world.children, there: replace(child, world=made)})
            log += tuple(from_child(entry, child, world.now) for entry in own)
    made, own = _hovered(rules, replace(world, over="", inside=False), (), rested)
    return made, (*log, *own)


def _at_rest(rules: Rules, world: World) -> tuple[tuple[str, ...], str]:
    """The layers, and the part, that lie under the pointer where it has been since it last moved: some may have come
    there by themselves. Looked at only where something waits for the pointer to leave."""
    waits = rules.orders is not None or bool(rules.of_kind(Work(rules, world).frame, HoverOut)) or bool(world.children)
    if world.pointer is None or not world.inside or not waits:
        return (), ""
    found = use_at(rules, world, *world.pointer)
    return layers_at(rules, world, *world.pointer), found[0] if found is not None else ""


def _hovered(rules: Rules, world: World, here: tuple[str, ...], rested: tuple[str, ...] = ()) -> Step:
    """The layers under the pointer are others: what waits for that begins. ``rested``: layers that came under it while
    it did not move."""
    before = world.hovered
    known, now = {rules.origin(ident) for ident in before}, {rules.origin(ident) for ident in here}
    all_before = (*before, *(ident for ident in rested if rules.origin(ident) not in known))
    left = tuple(ident for ident in all_before if rules.origin(ident) not in now)
    if before == here and not left:
        return world, ()
    work = Work(rules, replace(_touched(world), hovered=here))
    came = tuple(ident for ident in here if rules.origin(ident) not in known)
    sides: tuple[tuple[tuple[str, ...], type[Trigger], str, bool], ...] = (
        (left, HoverOut, mark("off {name}"), bool(all_before and not here)),
        (came, HoverIn, mark("over {name}"), bool(here and not before)),
    )
    for layers, kind, word, anywhere in sides:
        place = len(work.log)
        taken, name = _taken(work, (*layers, "") if anywhere else layers, lambda on, k=kind: isinstance(on, k))  # type: ignore[misc]
        if taken is not None:
            work.log.insert(place, LogEntry(work.now, "hover", tr(word, name=name)))
    return work.done()


def key(rules: Rules, world: World, pressed: str) -> Done:
    """A key goes down: the stage has it first, then the parts in it, in paint order."""
    work = Work(rules, _touched(world))
    taken, _ = _taken(work, ("",), lambda on: isinstance(on, Key) and on.key == pressed)
    if taken is not None:
        work.log.insert(0, LogEntry(work.now, "key", pressed))
        return *work.done(), taken
    for origin, child in world.children.items():
        there, log, taken = key(rules.of(child), child.now(world.now), pressed)
        if taken is not None:
            told = tuple(from_child(entry, child, world.now) for entry in log)
            return replace(world, children={**world.children, origin: replace(child, world=there)}), told, taken
    if pressed == "Escape" and work.close_over():
        return *work.done(), "closes"
    return world, (), None
