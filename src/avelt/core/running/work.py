"""A world being changed: what happens in it, and what that makes happen, until all of it is done."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from msgspec.structs import replace

from avelt.core.errors import EditError
from avelt.core.model.find import entrance_route, frame_by_id, frame_of_entrance, layer_index
from avelt.core.model.parts import fits, uses_in
from avelt.core.model.triggers import (
    Crosses,
    Ends,
    InputValue,
    Loading,
    PutAway,
    ReplaceOver,
    SendSignal,
    SetInput,
    ShowOver,
    Signal,
    Trigger,
)
from avelt.core.model.values import Feed, Frame, Input, Route, Use
from avelt.core.model.wording import value_words
from avelt.core.running import phasing
from avelt.core.running.carrying import carried_speed
from avelt.core.running.crossing import crosses
from avelt.core.running.played import unplayed_count
from avelt.core.running.scenes import scene_of, uses_shown
from avelt.core.running.world import Actor, Child, LogEntry, OnTrack, Rules, UnderWay, What, World, leaving
from avelt.core.timing.compile import compile_frames, compile_route, compile_still
from avelt.core.timing.loops import round_end
from avelt.core.timing.over import at_arrival, ends, how_shown, overlaid
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import end_of
from avelt.core.timing.snapshot import snapshot

MOST_STEPS = 1_000  # at one moment; a chain that goes on beyond is cut
Step = tuple[World, tuple[LogEntry, ...]]


def from_child(entry: LogEntry, child: Child, now: float) -> LogEntry:
    """What a part logged, as the stage above says it."""
    return replace(entry, at=now, stage=f"{child.name}/{entry.stage}" if entry.stage else child.name)


def begin(rules: Rules, first: str = "", told: Mapping[str, InputValue] | None = None) -> Step:
    """The first frame of a project (or another, by its id), arrived at, with inputs as they start or are told."""
    project = rules.project
    frame = frame_by_id(project, first or project.first or project.frames[0].id)
    actor = Actor(frame, frame, compile_still(frame, project), 0.0)
    inputs = {entry.name: entry.start for entry in project.inputs} | dict(told or {})
    work = Work(rules, World(0.0, inputs, actor))
    if rules.orders is not None and rules.orders.main is not None:
        phasing.begin(work, first)
    else:
        work.arrive(frame, first=True)
        phasing.begin(work)
    if unknown := unplayed_count(project):
        work.note("not played", unknown)
    return work.done()


def set_input(rules: Rules, world: World, name: str, value: InputValue) -> Step:
    """Somebody gives an input a value; what waited for it begins. ``EditError`` for what is none."""
    entry = rules.input_named(name, signal=False)
    if entry is None:
        raise EditError(f"There is no input {name!r}.")
    if not fits(entry, value):
        raise EditError(f"The input {name!r} is a {entry.kind}: {value!r} is none.")
    work = Work(rules, replace(world, halted=False, steps=0))
    work.become(entry, float(value) if entry.kind == "number" else value)
    return work.done()


def send(rules: Rules, world: World, name: str) -> Step:
    """Somebody sends a signal. ``EditError`` when there is none of that name."""
    entry = rules.input_named(name, signal=True)
    if entry is None:
        raise EditError(f"There is no signal {name!r}.")
    work = Work(rules, replace(world, halted=False, steps=0))
    work.signal(entry)
    return work.done()


def within(rules: Rules, world: World, path: str, does: Callable[[Rules, World], Step]) -> Step:
    """Something done in the part at the end of a path of use names (``Boat/Sail``); ``EditError`` when it is not at
    work. An empty path is the stage itself."""
    if not path:
        return does(rules, world)
    name, _, rest = path.partition("/")
    origin = next((origin for origin, child in world.children.items() if child.name == name), None)
    if origin is None:
        raise EditError(f"No part {name!r} is at work.")
    work = Work(rules, replace(world, halted=False, steps=0))
    work.in_child(origin, lambda inner, there: within(inner, there, rest, does))
    return work.done()


class Work:
    """A world being changed; ``done`` freezes it again."""

    def __init__(self, rules: Rules, world: World) -> None:
        self.rules, self.project = rules, rules.project
        self.before = world
        self.now, self.inputs, self.pressed = world.now, dict(world.inputs), world.pressed
        self.steps, self.steps_at, self.halted = world.steps, world.steps_at, world.halted
        actor = world.actor
        self.frame, self.shown, self.still = actor.frame, actor.shown, actor.still
        self.arrived, self.motion, self.beneath = actor.arrived, actor.motion, list(actor.beneath)
        self.loops, self.ends, self.fired = dict(actor.loops), dict(actor.ends), actor.fired
        self.wants_entrance, self.ready_at = actor.wants_entrance, actor.ready_at
        self.log: list[LogEntry] = []
        self.children, self.held = dict(world.children), world.held
        self.waiting: list[Route] = []  # what inputs and signals started, one after the other
        self.starting = False
        self.holds = world.holds
        self.tracks: dict[str, OnTrack] = {state.track: state for state in world.tracks}
        self.unread: dict[str, None] = {}  # tracks whose rules are to be read
        self.events: list[Callable[[Trigger], bool]] = []  # what came while something was done
        self.reading = False

    def world(self) -> World:
        """The world as it is now."""
        actor = Actor(
            self.frame,
            self.shown,
            self.still,
            self.arrived,
            self.motion,
            tuple(self.beneath),
            dict(self.loops),
            dict(self.ends),
            self.fired,
            self.wants_entrance,
            self.ready_at,
        )
        return World(
            self.now,
            dict(self.inputs),
            actor,
            self.pressed,
            self.steps,
            self.steps_at,
            self.halted,
            dict(self.children),
            self.held,
            tuple(self.tracks.values()),
            self.before.pressed_at,
            self.holds,
            self.before.last_tap,
            self.before.hovered,
            self.before.over,
        )

    def done(self) -> Step:
        """The world and what is to be logged."""
        return self.world(), tuple(self.log)

    def may(self, route: Route) -> bool:
        """Whether a route can start now."""
        return self.rules.may(self.world(), route)

    @property
    def leaving(self) -> bool:
        """Whether a route is under way; an entrance is none."""
        return self.motion is not None and not frame_of_entrance(self.motion.route.id)

    def note(self, what: What, says: str, frame: str = "", phase: str = "", track: str = "") -> None:
        """One line of the log."""
        self.log.append(LogEntry(self.now, what, says, "", frame, phase, track))

    def counts(self, what: str) -> bool:
        """One thing more is done at this moment; false when it is one too many, and the chain is cut."""
        self.steps = self.steps + 1 if self.steps_at == self.now else 1
        self.steps_at = self.now
        if self.steps > MOST_STEPS:
            self.halted = True
            self.note("stopped", f"{what} came {MOST_STEPS:,} times at this moment")
        return not self.halted

    # Parts

    def in_child(self, origin: str, does: Callable[[Rules, World], Step]) -> None:
        """Something that happens in a part."""
        child = self.children[origin]
        world, log = does(self.rules.of(child), child.now(self.now))
        self.children[origin] = replace(child, world=world)
        self.log += [from_child(entry, child, self.now) for entry in log]

    def begin_parts(self, frame: Frame, at: float, again: bool = False) -> None:
        """The parts that a frame uses begin, where they do not run already (or all of them ``again``)."""
        known = {part.id for part in self.project.parts}
        for layer in uses_shown(self.rules, frame, self.world()):
            use = layer.body
            if not isinstance(use, Use) or use.part not in known:
                continue
            there = self.children.get(layer.origin)
            if there is not None and there.use.part == use.part and not again:
                if self.motion is None:
                    self.children[layer.origin] = self.refitted(there, use, (layer.w, layer.h))
                continue
            if there is not None and there.use.part != use.part:
                self.children[leaving(layer.origin)] = there
            rules = self.rules.of_use(use, layer.w, layer.h)
            poses = {pose.id for pose in rules.project.frames}
            world, log = begin(rules, use.pose if use.pose in poses else "", self.fed(use, rules))
            child = Child(use, (layer.w, layer.h), layer.name, world, at)
            self.children[layer.origin] = child
            self.log += [from_child(entry, child, self.now) for entry in log if entry.what != "arrives"]

    def refitted(self, child: Child, use: Use, size: tuple[float, float]) -> Child:
        """A part that goes on in another frame, with what the use there shows of it; its clock goes on as it did."""
        kept = replace(use, speed=child.use.speed, offset=child.use.offset)
        before, after = self.rules.of(child), self.rules.of_use(kept, *size)
        child = replace(child, use=kept, size=size)
        actor = child.world.actor
        if before is after or actor.motion is not None or actor.beneath:
            return child
        frame = frame_by_id(after.project, actor.frame.id)
        shown = at_arrival(frame)
        actor = replace(actor, frame=frame, shown=shown, still=compile_still(shown, after.project))
        return replace(child, world=replace(child.world, actor=actor))

    def keep_parts(self, *frames: Frame) -> None:
        """Only the parts that are seen in some frames go on."""
        world = self.world()
        there = {layer.origin for frame in frames for layer in uses_shown(self.rules, frame, world)}
        self.children = {origin: child for origin, child in self.children.items() if origin in there}

    def fed(self, use: Use, rules: Rules) -> dict[str, InputValue]:
        """What the inputs of a part are fed with now, by their names."""
        names = {entry.id: entry for entry in rules.project.inputs if entry.kind != "signal"}
        found: dict[str, InputValue] = {}
        for feed in use.feeds:
            entry = names.get(feed.input)
            value = self.fed_value(feed, entry)
            if entry is not None and value is not None and fits(entry, value):
                found[entry.name] = value
        return found

    def fed_value(self, feed: Feed, entry: Input | None) -> InputValue | None:
        """What a feed gives now, as its input takes it."""
        if not feed.expression:
            return self.inputs.get(feed.name) if feed.name else feed.value
        value = self.rules.value(feed.expression, self.inputs)
        if entry is None or value is None or isinstance(value, str):
            return value
        return float(value) if entry.kind == "number" else value != 0

    def shows(self) -> tuple[Frame, ...]:
        """The frames that are on screen, or come to it: of each track what its phase shows."""
        orders = self.rules.orders
        if orders is None:
            return (self.shown,) if self.motion is None else (self.shown, self.motion.shown)
        poses = [p for s in self.tracks.values() for p in orders.poses(orders.phase(s.track, s.phase))]
        return tuple(poses) if orders.main is not None else (self.shown, *poses)

    def look_at_loops(self) -> None:
        """Loops rest at the end of their round once what they run until holds, and begin anew when it does not."""
        for loop in self.shown.loops:
            began = self.loops.get(loop.origin)
            if not loop.until or began is None:
                continue
            if self.rules.holds(loop.until, self.inputs):
                self.ends.setdefault(loop.origin, began + round_end(loop, self.now - began))
            elif self.ends.pop(loop.origin, self.now + 1.0) <= self.now:
                self.loops[loop.origin] = self.now

    def look_at_parts(self) -> None:
        """Parts come and go by the conditions of their uses."""
        frames = self.shows()
        if any(layer.only_if for frame in frames for layer in layer_index(frame).values()):
            self.keep_parts(*frames)
            for frame in frames:
                self.begin_parts(frame, self.now)

    def at_work(self) -> list[tuple[str, Use, Child]]:
        """The parts at work in what is shown: the origin of the use, what it says, its world."""
        uses = {layer.origin: layer.body for frame in self.shows() for layer in uses_in(frame)}.items()
        return [(o, use, self.children[o]) for o, use in uses if isinstance(use, Use) and o in self.children]

    def feed_parts(self) -> None:
        """Inputs of this stage that changed go on to the parts that they feed."""
        for origin, use, child in self.at_work():
            for name, value in self.fed(use, self.rules.of(child)).items():
                if child.world.inputs.get(name) != value:
                    self.in_child(origin, lambda r, w, n=name, v=value: set_input(r, w, n, v))  # type: ignore[misc]

    def signal_parts(self, signal: str) -> None:
        """A signal of this stage goes on to the parts that it feeds."""
        for origin, use, child in self.at_work():
            inputs = {entry.id: entry for entry in self.rules.of(child).project.inputs}
            for feed in use.feeds:
                entry = inputs.get(feed.input)
                if feed.name == signal and entry is not None and entry.kind == "signal":
                    self.in_child(origin, lambda r, w, n=entry.name: send(r, w, n))  # type: ignore[misc]

    def name_of(self, layer_id: str) -> str:
        layer = layer_index(self.frame).get(layer_id)
        if layer is None and self.rules.orders is not None:
            return self.rules.orders.names.get(layer_id, "nothing")
        return layer.name if layer else "nothing"

    def loaded(self) -> None:
        """The loading of the frame that is shown is done: what waited for it begins."""
        self.ready_at = None
        if self.rules.loading > 0.0:
            self.note("loaded", self.frame.name)
        self.start_loading_routes("is ready")
        if self.wants_entrance and self.motion is None:
            self.enter()

    def go(self, route: Route) -> None:
        action = route.action
        if isinstance(action, SetInput | SendSignal):
            self.stay(action)
            return
        target = frame_by_id(self.project, route.arrives)
        shown = self.picture_after(route, target)
        self.wants_entrance, self.ready_at = False, None
        if self.motion is None:
            usual = ends(self.project, route)
            if usual[0] is self.shown and usual[1] is shown:
                program = compile_route(self.project, route)
            else:
                program = compile_frames(self.project, self.shown, shown, route.transition)
            for loop in self.shown.loops:
                self.loops.setdefault(loop.origin, self.now)
        else:
            program = self.turned(route, shown, self.motion)
            share = (self.now - self.motion.start) / max(self.motion.program.duration, 1e-9)
            self.note("goes back", f"at {min(1.0, share):.0%}, keeps its speed")
        self.note("starts", f"to {target.name}, {program.duration:g} ms")
        self.frame = target
        length = max(program.duration, end_of(route.transition, self.project))
        start = self.now + route.delay
        self.begin_parts(shown, start)
        self.motion = UnderWay(route, program, shown, start, start + length)

    def picture_after(self, route: Route, target: Frame) -> Frame:
        """What is on screen after a route; keeps what lies beneath what is shown over."""
        action = route.action
        here = (self.frame, self.motion.shown if self.motion is not None else self.shown)
        if isinstance(action, ShowOver):
            self.beneath.append(here)
            return overlaid(here[1], target, action)
        if isinstance(action, ReplaceOver) and self.beneath:
            under, picture = self.beneath[-1]
            return overlaid(picture, target, how_shown(self.project, self.frame.id, under.id))
        if isinstance(action, PutAway) and self.beneath and self.beneath[-1][0] is target:
            return self.beneath.pop()[1]
        self.beneath.clear()
        return at_arrival(target)

    def stay(self, action: SetInput | SendSignal) -> None:
        """Set an input or send a signal."""
        entry = next((e for e in self.project.inputs if e.id == action.input), None)
        if entry is None:
            return
        if isinstance(action, SetInput):
            self.become(entry, action.value)
        else:
            self.signal(entry)

    def become(self, entry: Input, value: InputValue) -> None:
        """An input has another value: the routes that wait for it start."""
        old = self.inputs.get(entry.name, entry.start)
        self.inputs[entry.name] = value
        self.note("input", f"{entry.name} becomes {value_words(value)}")
        if old != value:
            self.look_at_loops()
            self.look_at_parts()
            self.feed_parts()
            self.start_by(lambda on: isinstance(on, Crosses) and on.input == entry.id and crosses(on, old, value))
            phasing.became(self, entry, old, value)

    def signal(self, entry: Input) -> None:
        """A signal goes out: the routes that wait for it start."""
        self.note("signal", entry.name)
        self.signal_parts(entry.name)

        def sent(on: Trigger) -> bool:
            return isinstance(on, Signal) and on.input == entry.id

        self.start_by(sent)
        phasing.happened(self, sent)

    def start_by(self, fits: Callable[[Trigger], bool]) -> None:
        """Start the routes of the frame that wait for something that happened."""
        self.start([route for route in self.rules.routes_of(self.frame) if fits(route.trigger)])

    def start(self, routes: list[Route]) -> None:
        """Start what an input or a signal started: all that stays in the frame, of what leaves it the first.

        What is set and sent by that may start more; after ``MOST_STEPS`` at one moment the chain is cut.
        """
        self.waiting += sorted(routes, key=lambda route: not isinstance(route.action, SetInput | SendSignal))
        if self.starting:
            return  # one thing after the other, so that a long chain is no deep one
        self.starting = True
        while self.waiting and not self.halted:
            route = self.waiting.pop(0)
            counts = self.counts(f"{self.frame.name}: what sets and sends")
            if counts and route.leaves == self.frame.id and self.may(route):
                self.go(route)
        self.waiting, self.starting = [], False

    def turned(self, route: Route, shown: Frame, running: UnderWay) -> Program:
        """A program that begins with what is on screen, as fast as that moves."""
        scene = scene_of(self.rules, self.world())
        program = compile_frames(self.project, snapshot(scene, running.shown), shown, route.transition)
        return program.carrying(carried_speed(running.program, self.now - running.start, program))

    def arrive(self, frame: Frame, running: UnderWay | None = None, first: bool = False) -> None:
        shown = running.shown if running is not None else at_arrival(frame)
        starts_over = running is not None and running.route.on_arrival == "restart"
        kept = {loop.origin for loop in shown.loops} - ({loop.origin for loop in frame.loops} if starts_over else set())
        self.loops = {origin: at for origin, at in self.loops.items() if origin in kept}
        for loop in shown.loops:
            self.loops.setdefault(loop.origin, self.now)
        self.frame, self.shown, self.motion = frame, shown, None
        self.ends = {origin: at for origin, at in self.ends.items() if origin in self.loops}
        self.look_at_loops()
        entered = running is not None and bool(frame_of_entrance(running.route.id))
        self.fired = self.fired if entered else frozenset()
        self.still = compile_still(shown, self.project)
        self.keep_parts(*self.shows())
        self.begin_parts(shown, self.now, again=starts_over)
        self.feed_parts()
        if entered:
            self.note("entrance", f"of {frame.name} is over")
            return
        self.arrived = self.now
        self.note("arrives", frame.name if not first else f"{frame.name}, the first", frame=frame.name)
        self.wants_entrance = shown is at_arrival(frame) and frame.entrance is not None
        self.ready_at = self.now + self.rules.loading
        self.start_loading_routes("starts")
        if running is not None:
            ended = running.route.id
            self.start_by(lambda on: isinstance(on, Ends) and on.motion == ended)
        waits = frame.entrance is not None and frame.entrance.when == "after loading"
        if self.wants_entrance and self.motion is None and not waits:
            self.enter()
        if self.rules.loading <= 0.0 and not self.leaving:
            self.loaded()

    def start_loading_routes(self, when: str) -> None:
        """What stays in the frame is all done; of what leaves it the first."""
        routes = self.rules.of_kind(self.frame, Loading)
        loaded = [route for route in routes if isinstance(route.trigger, Loading) and route.trigger.when == when]
        for route in sorted(loaded, key=lambda route: not isinstance(route.action, SetInput | SendSignal)):
            if not self.leaving and self.may(route):
                self.go(route)

    def enter(self) -> None:
        """The frame's own layers come: its entrance. Touches meanwhile are answered as in any transition."""
        frame = self.frame
        route = entrance_route(frame)
        self.wants_entrance = False
        self.note("entrance", f"of {frame.name}")
        program = compile_route(self.project, route)
        length = max(program.duration, end_of(route.transition, self.project))
        self.motion = UnderWay(route, program, frame, self.now, self.now + length)
