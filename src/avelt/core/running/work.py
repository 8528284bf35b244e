"""A world being changed: what happens in it, and what that makes happen, until all of it is done."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import NamedTuple

from msgspec.structs import replace

from avelt.core.cache import Cache
from avelt.core.errors import EditError
from avelt.core.model.find import entrance_route, frame_by_id, frame_of_entrance
from avelt.core.model.parts import fits
from avelt.core.model.triggers import (
    Action,
    Crosses,
    Ends,
    Go,
    GoBack,
    InputValue,
    Loading,
    PutAway,
    ReplaceOver,
    SendSignal,
    SetInput,
    ShowOver,
    Signal,
    Trigger,
    hot_area,
)
from avelt.core.model.values import Frame, Input, Route, Transition
from avelt.core.model.wording import value_words
from avelt.core.running import phasing
from avelt.core.running.carrying import carried_speed
from avelt.core.running.crossing import crosses
from avelt.core.running.drag_work import DragWork
from avelt.core.running.rules import Rules
from avelt.core.running.scenes import scene_of
from avelt.core.running.stage_work import Step
from avelt.core.running.world import Actor, UnderWay, World
from avelt.core.timing.broken_off import from_screen
from avelt.core.timing.compile import compile_between, compile_still
from avelt.core.timing.followers import WHOLE, clock_of
from avelt.core.timing.loops import round_end
from avelt.core.timing.over import at_arrival, entrance_ends, how_shown, overlaid, place_of
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import duration_of, end_of
from avelt.core.timing.scrolling import AT_TOP, Offset, most_scrolled, scrolled
from avelt.core.timing.scrolling import within as within_limits
from avelt.core.timing.snapshot import snapshot
from avelt.core.words import tr

_MOST_HISTORY = 1_000
_standing: Cache[Frame] = Cache(32)
_turned: Cache[Program] = Cache(4)  # the last moment at which something could take over, on few stages


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
    return work.done()


def set_input(rules: Rules, world: World, name: str, value: InputValue) -> Step:
    """Somebody gives an input a value; what waited for it begins. ``EditError`` for what is none."""
    entry = rules.input_named(name, signal=False)
    if entry is None:
        raise EditError(tr("There is no input {name!r}.", name=name))
    if not fits(entry, value):
        raise EditError(
            tr("The input {name!r} is a {kind}: {value!r} is none.", name=name, kind=tr(entry.kind), value=value)
        )
    work = Work(rules, replace(world, halted=False, steps=0))
    work.become(entry, float(value) if entry.kind == "number" else value)
    return work.done()


def send(rules: Rules, world: World, name: str) -> Step:
    """Somebody sends a signal. ``EditError`` when there is none of that name."""
    entry = rules.input_named(name, signal=True)
    if entry is None:
        raise EditError(tr("There is no signal {name!r}.", name=name))
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
        raise EditError(tr("No part {name!r} is at work.", name=name))
    work = Work(rules, replace(world, halted=False, steps=0))
    work.in_child(origin, lambda inner, there: within(inner, there, rest, does))
    return work.done()


class Arrival(NamedTuple):
    """Where a route leads: the frame and how far it is scrolled, its picture and what lies beneath that; and the end of
    the motion, the picture as it is seen."""

    frame: Frame
    scroll: Offset
    shown: Frame
    beneath: tuple[tuple[Frame, Frame], ...]
    end: Frame


class Work(DragWork):
    """A world being changed; ``done`` freezes it again."""

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

    def loaded(self) -> None:
        """The loading of the frame that is shown is done: what waited for it begins."""
        self.ready_at = None
        if self.rules.loading > 0.0:
            self.note("loaded", self.frame.name)
        self.start_loading_routes("is ready")
        if self.wants_entrance and self.motion is None:
            self.enter()

    # Parts begin and hear of things as stages do

    def begun(self, rules: Rules, pose: str, told: Mapping[str, InputValue]) -> Step:
        return begin(rules, pose, told)

    def told(self, rules: Rules, world: World, name: str, value: InputValue) -> Step:
        return set_input(rules, world, name, value)

    def sent(self, rules: Rules, world: World, name: str) -> Step:
        return send(rules, world, name)

    # Going somewhere

    def go(self, route: Route) -> None:
        action = route.action
        if isinstance(action, SetInput | SendSignal):
            self.stay(action)
            return
        route = self.way_back(route)
        target, offset, shown, beneath, right = self.arrival(route)
        self.wants_entrance, self.ready_at, self.returns = False, None, None
        if self.motion is None:
            left = scrolled(self.shown, self.scroll)
            program = compile_between(self.project, left, right, route.transition)
            for loop in self.shown.loops:
                self.loops.setdefault(loop.origin, self.now)
        else:
            program = self.turned(route, right, self.motion)
            length = max(self.motion.end - self.motion.start, 1e-9)
            self.note(
                "goes back", tr("at {min:.0%}, keeps its speed", min=min(1.0, self.motion.moment(self.now) / length))
            )
        self.note("starts", tr("to {target}, {duration:g} ms", target=target.name, duration=program.duration))
        self.places[self.frame.id] = self.scroll
        self.history, self.beneath = self.history_after(action), list(beneath)
        self.frame, self.scroll = target, offset
        length = max(program.duration, end_of(route.transition, self.project))
        start = self.now + route.delay
        self.begin_parts(shown, start)
        self.motion = UnderWay(route, program, target, shown, start, start + length, offset)

    def arrival(self, route: Route) -> Arrival:
        """Where a route leads from here."""
        target = self.target_of(route)
        offset = self.offset_at(route, target)
        shown, beneath = self.picture_after(route, target)
        return Arrival(target, offset, shown, beneath, self.as_it_stands(target, scrolled(shown, offset), offset))

    def way_back(self, route: Route) -> Route:
        """Of several routes that go back at the same touch, the one to the frame that was before."""
        before = self.history[-1] if self.history else ""
        if not isinstance(route.action, GoBack) or route.arrives == before:
            return route
        others = (r for r in self.rules.routes_of(self.frame) if isinstance(r.action, GoBack) and r.arrives == before)
        same = (r for r in others if type(r.trigger) is type(route.trigger))
        return next((r for r in same if hot_area(r.trigger) == hot_area(route.trigger) and self.may(r)), route)

    def target_of(self, route: Route) -> Frame:
        """Where a route goes: back is to the frame that was before, whichever that was."""
        known = {frame.id for frame in self.project.frames}
        back = isinstance(route.action, GoBack) and self.history and self.history[-1] in known
        return frame_by_id(self.project, self.history[-1] if back else route.arrives)

    def offset_at(self, route: Route, target: Frame) -> Offset:
        """How far the frame arrived at is scrolled: as this one where both can be, else as it was left."""
        if isinstance(route.action, ShowOver | ReplaceOver) or route.scroll == "reset":
            return AT_TOP
        here, there = most_scrolled(self.frame), most_scrolled(target)
        back = isinstance(route.action, GoBack | PutAway)
        if not back and any(a > 0.0 and b > 0.0 for a, b in zip(here, there, strict=True)):
            return within_limits(target, self.scroll)
        known = self.places.get(target.id, AT_TOP)
        return within_limits(target, known) if there != AT_TOP else known if back else AT_TOP

    def history_after(self, action: Action) -> tuple[str, ...]:
        """The frames that were before, once a route with this action is taken."""
        if isinstance(action, GoBack | PutAway):
            return self.history[:-1]
        if isinstance(action, ReplaceOver) or (isinstance(action, Go) and self.beneath):
            return self.history  # what lies beneath is the frame that was before
        return (*self.history, self.frame.id)[-_MOST_HISTORY:]

    def picture_after(self, route: Route, target: Frame) -> tuple[Frame, tuple[tuple[Frame, Frame], ...]]:
        """What is on screen after a route, and what lies beneath it: what is shown over something keeps that."""
        action, beneath = route.action, tuple(self.beneath)
        motion = self.motion
        here = motion.shown if motion is not None and motion.may_arrive else self.shown
        if isinstance(action, ShowOver):
            return overlaid(scrolled(here, self.scroll), target, action), (*beneath, (self.frame, here))
        if isinstance(action, ReplaceOver) and beneath:
            under, picture = beneath[-1]
            below = scrolled(picture, self.places.get(under.id, AT_TOP))
            return overlaid(below, target, how_shown(self.project, self.frame.id, under.id)), beneath
        if isinstance(action, PutAway | GoBack) and beneath and beneath[-1][0] is target:
            return beneath[-1][1], beneath[:-1]
        return at_arrival(target), ()

    def as_it_stands(self, target: Frame, picture: Frame, offset: Offset) -> Frame:
        """The picture arrived at with what follows a value there already where that says: nothing jumps on arrival."""
        own = {clock_of(follow) for frame in self.shows() for follow in frame.follows}
        if not any(clock_of(follow) not in own for follow in picture.follows):
            return picture
        there = replace(self.before, actor=replace(self.before.actor, scroll=offset, follows={}, shown=picture))
        work = type(self)(self.rules, there)
        work.frame, work.shown, work.inputs, work.motion = target, picture, self.inputs, None
        work.look_at_follows(anew=True)
        clocks = {clock: f.wanted * WHOLE for clock, f in work.follows.items() if clock not in own and f.wanted}
        if not clocks:
            return picture

        def make() -> Frame:
            stands = snapshot(compile_still(picture, self.project).while_running(0.0, clocks), picture)
            return replace(stands, follows=tuple(f for f in picture.follows if clock_of(f) not in clocks))

        return _standing.get((picture, self.project), tuple(clocks.items()), make)

    def closes_over(self, x: float, y: float) -> bool:
        """Whether a press there is outside of what is shown over something, and closes it."""
        if not self.beneath or not self._closable():
            return False
        under, over = self.beneath[-1][1], self.frame
        left, top = place_of((under.w, under.h), (over.w, over.h), self._how())
        return not (left <= x < left + over.w and top <= y < top + over.h)

    def _how(self) -> ShowOver:
        return how_shown(self.project, self.frame.id, self.beneath[-1][0].id)

    def _closable(self) -> bool:
        return bool(self.beneath) and self._how().outside_closes

    def close_over(self) -> bool:
        """What is shown over something goes, by the route that puts it away, or as it came; gives whether it did."""
        if not self._closable():
            return False
        under = self.beneath[-1][0]
        away = (r for r in self.rules.routes_of(self.frame) if isinstance(r.action, PutAway) and r.arrives == under.id)
        route = next(away, None)
        if route is None:
            came = (r for r in self.project.routes if r.arrives == self.frame.id and isinstance(r.action, ShowOver))
            shown_by = next((r for r in came if r.leaves == under.id), None)
            motion = shown_by.transition if shown_by is not None else Transition()
            plain = Transition(duration_of(motion, self.project), motion.curve)
            route = Route("", self.frame.id, under.id, transition=plain, action=PutAway())
        self.note("closes", self.frame.name)
        self.go(route)
        return True

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
        self.note("input", tr("{entry} becomes {value}", entry=entry.name, value=value_words(value)))
        if old != value:
            self.look_at_loops()
            self.look_at_follows()
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
            counts = self.counts(tr("{frame}: what sets and sends", frame=self.frame.name))
            if counts and route.leaves == self.frame.id and self.may(route):
                self.go(route)
        self.waiting, self.starting = [], False

    def turned(self, route: Route, shown: Frame, running: UnderWay) -> Program:
        """A program that begins with what is on screen, as fast as that moves. From the very same scene it is the very
        same one: a release takes what was foreseen."""
        scene = scene_of(self.rules, self.world())
        home = running.shown if running.may_arrive or running.home is None else running.home
        moment = running.moment(self.now), running.rate(self.now)

        def make() -> Program:
            program = from_screen(self.project, scene, home, shown, route.transition)
            return program.carrying(carried_speed(running.program, moment[0], program, moment[1]))

        held = (scene, running.program, self.project, home, shown, route.transition)
        return _turned.get(held, moment, make)

    def arrive(self, frame: Frame, running: UnderWay | None = None, first: bool = False) -> None:
        shown = running.shown if running is not None else at_arrival(frame)
        starts_over = running is not None and running.route.on_arrival == "restart"
        kept = {loop.origin for loop in shown.loops} - ({loop.origin for loop in frame.loops} if starts_over else set())
        self.loops = {origin: at for origin, at in self.loops.items() if origin in kept}
        for loop in shown.loops:
            self.loops.setdefault(loop.origin, self.now)
        self.frame, self.shown, self.motion = frame, shown, None
        self.ends = {origin: at for origin, at in self.ends.items() if origin in self.loops}
        self.returns = None
        self.look_at_loops()
        self.look_at_follows(anew=True)
        entered = running is not None and bool(frame_of_entrance(running.route.id))
        self.fired = self.fired if entered else frozenset()
        self.still = compile_still(shown, self.project)
        self.keep_parts(*self.shows())
        self.begin_parts(shown, self.now, again=starts_over)
        self.feed_parts()
        if entered:
            self.note("entrance", tr("of {frame} is over", frame=frame.name))
            return
        self.arrived = self.now
        self.note("arrives", frame.name if not first else tr("{frame}, the first", frame=frame.name), frame=frame.name)
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
        self.note("entrance", tr("of {frame}", frame=frame.name))
        left, right = (scrolled(end, self.scroll) for end in entrance_ends(frame))
        program = compile_between(self.project, left, right, route.transition)
        length = max(program.duration, end_of(route.transition, self.project))
        self.motion = UnderWay(route, program, frame, frame, self.now, self.now + length, self.scroll)
