"""The player: a prototype run by events and time. Same events, same scenes, always.

Time only goes on by ``advance``; between two calls everything that falls due (a timer, the end of a
transition) is done in the order of its time.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from avelt.core.errors import EditError, FormatError
from avelt.core.geometry.affine import Floats
from avelt.core.model.conditions import holds, parse
from avelt.core.model.find import entrance_route, frame_by_id, frame_of_entrance, layer_index
from avelt.core.model.properties import SCALARS
from avelt.core.model.triggers import (
    InputValue,
    Loading,
    PutAway,
    ReplaceOver,
    SendSignal,
    SetInput,
    ShowOver,
    Tap,
    Timer,
)
from avelt.core.model.values import Frame, Loop, Project, Route
from avelt.core.model.wording import value_words
from avelt.core.running.hits import slots_at
from avelt.core.timing.compile import compile_frames, compile_route, compile_still
from avelt.core.timing.loops import LoopState, distance, round_duration, stage
from avelt.core.timing.over import at_arrival, ends, how_shown, overlaid
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.schedule import end_of
from avelt.core.timing.snapshot import snapshot

What = Literal["arrives", "tap", "timer", "goes back", "starts", "input", "signal", "entrance", "loaded"]


@dataclass(frozen=True)
class LogEntry:
    """One thing that happened: ms since the start, a word, and what it was about."""

    at: float
    what: What
    says: str


@dataclass(frozen=True)
class Running:
    """A loop at work: where it is in its round."""

    loop: Loop
    since: float
    stage: LoopState
    share: float  # of its round that is over


@dataclass
class _RunningTransition:
    """A transition under way, and the picture that it ends in."""

    route: Route
    program: Program
    shown: Frame
    start: float
    end: float


class Player:
    """Plays a project from its first frame."""

    def __init__(self, project: Project, loading: float = 0.0) -> None:
        if not project.frames:
            raise EditError("There is no frame to begin with.")
        self.project = project
        self.now = 0.0
        self.log: list[LogEntry] = []
        self.inputs: dict[str, InputValue] = {entry.name: entry.start for entry in project.inputs}
        self._frame = frame_by_id(project, project.first or project.frames[0].id)
        self._shown = self._frame  # the frame, or the picture of it over another
        self._beneath: list[tuple[Frame, Frame]] = []  # what lies under it: frames and their pictures
        self._still = compile_still(self._shown)
        self._transition: _RunningTransition | None = None
        self._clocks: dict[str, float] = {}
        #: How long frames take to load, ms.
        self.loading = loading
        self._wants_entrance = False
        self._ready_at: float | None = None
        self._pressed: tuple[str, ...] | None = None
        self._arrive(self._frame, first=True)

    # Reading

    @property
    def frame(self) -> Frame:
        """The frame that is shown, or arrived at next."""
        return self._frame

    @property
    def route(self) -> Route | None:
        """The route under way; none while a frame's own entrance plays."""
        return self._transition.route if self._transition and not frame_of_entrance(self._transition.route.id) else None

    def scene(self) -> Scene:
        """What is on screen now."""
        program, ms = (
            (self._transition.program, self.now - self._transition.start) if self._transition else (self._still, 0.0)
        )
        return program.at(ms, self._loop_distances(program, ms))

    def running(self) -> list[Running]:
        """The loops of the frame that is shown, with where they are."""
        found = []
        for loop in self._shown.loops:
            since = self._clocks.get(loop.origin)
            if since is not None:
                where = stage(loop, self.now - since)
                share = 1.0 if where.doing == "done" else _round_share(loop, self.now - since)
                found.append(Running(loop, since, where, share))
        return found

    def under_way(self) -> float | None:
        """How much of the transition's time is over, 0..1; ``None`` when none is under way."""
        if self._transition is None:
            return None
        return min(1.0, (self.now - self._transition.start) / max(self._transition.end - self._transition.start, 1e-9))

    def still_loads(self) -> float | None:
        """For how many ms the frame that is shown still loads; ``None`` when it is loaded."""
        return None if self._ready_at is None or self._ready_at <= self.now else self._ready_at - self.now

    def next_timer(self) -> tuple[Route, float] | None:
        """The timer that falls due first and when (ms since the start)."""
        if self.route is not None:
            return None
        due = [
            (self._arrived + route.trigger.after, k, route)
            for k, route in enumerate(self.project.routes)
            if route.leaves == self._frame.id and isinstance(route.trigger, Timer) and self._may(route)
        ]
        if not due:
            return None
        when, _, route = min(due, key=lambda entry: entry[:2])
        return route, when

    # Time

    def advance(self, to_ms: float) -> None:
        """Go on to a time; never back."""
        while True:
            when = self._next_due()
            if when is None or when > to_ms:
                break
            self.now = max(self.now, when)
            if self._transition is not None and when >= self._transition.end:
                self._arrive(frame_by_id(self.project, self._transition.route.arrives), self._transition)
            elif self._ready_at is not None and when >= self._ready_at:
                self.loaded()
            else:
                timer = self.next_timer()
                if timer is None:
                    return
                self._fired.add(timer[0].id)
                self._note(
                    "timer", f"after {timer[0].trigger.after:g} ms" if isinstance(timer[0].trigger, Timer) else ""
                )
                self._go(timer[0])
        self.now = max(self.now, to_ms)

    def _next_due(self) -> float | None:
        timer = self.next_timer()
        due = (self._transition.end if self._transition else None, self._ready_at, timer[1] if timer else None)
        return min((when for when in due if when is not None), default=None)

    # Events

    def loaded(self) -> None:
        """The loading of the frame that is shown is done: what waited for it begins."""
        self._ready_at = None
        if self.loading > 0.0:
            self._note("loaded", self._frame.name)
        self._start_loading_routes("is ready")
        if self._wants_entrance and self._transition is None:
            self._enter()

    def press(self, x: float, y: float) -> None:
        """The pointer goes down at a place in the frame."""
        self._pressed = self._layers_at(x, y)

    def release(self, x: float, y: float) -> Route | None:
        """The pointer goes up: a tap when it went down on the same thing. Gives the route that starts."""
        pressed, self._pressed = self._pressed, None
        if pressed is None:
            return None
        here = self._layers_at(x, y)
        shared = tuple(ident for ident in here if ident in pressed)
        route = self._tapped(shared)
        name = self._name_of(shared[0]) if shared else "nothing"
        if route is not None and isinstance(route.trigger, Tap) and route.trigger.layer:
            name = self._name_of(route.trigger.layer)
        self._note("tap", name if route is not None else f"{name}, nothing happens")
        if route is not None:
            self._go(route)
        return route

    def tap(self, x: float, y: float) -> Route | None:
        """A press and a release at one place."""
        self.press(x, y)
        return self.release(x, y)

    def hot_areas(self) -> tuple[str, ...]:
        """Layers of the frame that can be tapped; an empty id stands for anywhere."""
        return tuple(
            route.trigger.layer
            for route in self.project.routes
            if route.leaves == self._frame.id and isinstance(route.trigger, Tap) and self._may(route)
        )

    def _tapped(self, layers: tuple[str, ...]) -> Route | None:
        """The route that a tap starts: the innermost hot layer wins, anywhere comes last."""
        mine = [
            route
            for route in self.project.routes
            if route.leaves == self._frame.id and isinstance(route.trigger, Tap) and self._may(route)
        ]
        for ident in (*layers, ""):
            for route in mine:
                if isinstance(route.trigger, Tap) and route.trigger.layer == ident:
                    return route
        return None

    def _layers_at(self, x: float, y: float) -> tuple[str, ...]:
        """Ids of the frame's layers under a point, innermost first. While it comes, the arriving frame's."""
        scene = self.scene()
        found: list[str] = []
        for slot in slots_at(scene, x, y):
            layer = scene.program.contents[slot].right if self._transition else scene.program.contents[slot].left
            if layer is not None:
                found.append(layer.id)
        return tuple(found)

    def _name_of(self, layer_id: str) -> str:
        layer = layer_index(self._frame).get(layer_id)
        return layer.name if layer else "nothing"

    # Going

    def _may(self, route: Route) -> bool:
        """Whether a route can start now: its condition holds, and a timer that stays in its frame fires once."""
        if route.id in self._fired:
            return False
        try:
            return holds(parse(route.only_if), self.inputs)
        except FormatError:
            return False  # checks say what is wrong with it

    def _go(self, route: Route) -> None:
        action = route.action
        if isinstance(action, SetInput | SendSignal):
            self._stay(action)
            return
        target = frame_by_id(self.project, route.arrives)
        shown = self._picture_after(route, target)
        self._wants_entrance, self._ready_at = False, None
        if self._transition is None:
            usual = ends(self.project, route)
            if usual[0] is self._shown and usual[1] is shown:
                program = compile_route(self.project, route)
            else:
                program = compile_frames(self.project, self._shown, shown, route.transition)
            for loop in self._shown.loops:
                self._clocks.setdefault(loop.origin, self.now)
        else:
            program = self._turned(route, shown, self._transition)
            share = (self.now - self._transition.start) / max(self._transition.program.duration, 1e-9)
            self._note("goes back", f"at {min(1.0, share):.0%}, keeps its speed")
        self._note("starts", f"to {target.name}, {program.duration:g} ms")
        self._frame = target
        length = max(program.duration, end_of(route.transition, self.project))
        start = self.now + route.delay
        self._transition = _RunningTransition(route, program, shown, start, start + length)

    def _picture_after(self, route: Route, target: Frame) -> Frame:
        """What is on screen after a route; keeps what lies beneath what is shown over."""
        action = route.action
        here = (self._frame, self._transition.shown if self._transition is not None else self._shown)
        if isinstance(action, ShowOver):
            self._beneath.append(here)
            return overlaid(here[1], target, action)
        if isinstance(action, ReplaceOver) and self._beneath:
            under, picture = self._beneath[-1]
            return overlaid(picture, target, how_shown(self.project, self._frame.id, under.id))
        if isinstance(action, PutAway) and self._beneath and self._beneath[-1][0] is target:
            return self._beneath.pop()[1]
        self._beneath.clear()
        return at_arrival(target)

    def _stay(self, action: SetInput | SendSignal) -> None:
        entry = next((e for e in self.project.inputs if e.id == action.input), None)
        if entry is None:
            return
        if isinstance(action, SetInput):
            self.inputs[entry.name] = action.value
            self._note("input", f"{entry.name} becomes {value_words(action.value)}")
        else:
            self._note("signal", entry.name)

    def _turned(self, route: Route, shown: Frame, running: _RunningTransition) -> Program:
        """A program that begins with what is on screen, as fast as that moves."""
        scene = self.scene()
        program = compile_frames(self.project, snapshot(scene, running.shown), shown, route.transition)
        if program.duration > 0:
            program.start_velocity = _start_velocity(running.program, self.now - running.start, program)
        return program

    def _arrive(self, frame: Frame, running: _RunningTransition | None = None, first: bool = False) -> None:
        shown = running.shown if running is not None else at_arrival(frame)
        starts_over = running is not None and running.route.on_arrival == "restart"
        kept = {loop.origin for loop in shown.loops} - ({loop.origin for loop in frame.loops} if starts_over else set())
        self._clocks = {origin: at for origin, at in self._clocks.items() if origin in kept}
        for loop in shown.loops:
            self._clocks.setdefault(loop.origin, self.now)
        self._frame, self._shown, self._transition = frame, shown, None
        entered = running is not None and bool(frame_of_entrance(running.route.id))
        self._fired: set[str] = self._fired if entered else set()
        self._still = compile_still(shown)
        if entered:
            self._note("entrance", f"of {frame.name} is over")
            return
        self._arrived = self.now
        self._note("arrives", frame.name if not first else f"{frame.name}, the first")
        self._wants_entrance = shown is at_arrival(frame) and frame.entrance is not None
        self._ready_at = self.now + self.loading
        self._start_loading_routes("starts")
        waits = frame.entrance is not None and frame.entrance.when == "after loading"
        if self._wants_entrance and self._transition is None and not waits:
            self._enter()
        if self.loading <= 0.0 and self.route is None:
            self.loaded()

    def _start_loading_routes(self, when: str) -> None:
        """What stays in the frame is all done; of what leaves it the first."""
        loaded = [
            route
            for route in self.project.routes
            if route.leaves == self._frame.id and isinstance(route.trigger, Loading) and route.trigger.when == when
        ]
        for route in sorted(loaded, key=lambda route: not isinstance(route.action, SetInput | SendSignal)):
            if self.route is None and self._may(route):
                self._go(route)

    def _enter(self) -> None:
        """The frame's own layers come: its entrance. Touches meanwhile are answered as in any transition."""
        frame = self._frame
        route = entrance_route(frame)
        self._wants_entrance = False
        self._note("entrance", f"of {frame.name}")
        program = compile_route(self.project, route)
        length = max(program.duration, end_of(route.transition, self.project))
        self._transition = _RunningTransition(route, program, frame, self.now, self.now + length)

    def _note(self, what: What, says: str) -> None:
        self.log.append(LogEntry(self.now, what, says))

    def _loop_distances(self, program: Program, ms: float) -> Floats | None:
        """How far each loop of a program is: those left behind fade out, shared ones run on."""
        if not program.loops:
            return None
        going_on = {entry.loop.origin for entry in program.loops if entry.side == "to"}
        far = np.zeros(len(program.loops))
        share = min(1.0, max(0.0, ms / program.duration)) if program.duration > 0 else 1.0
        stays = 1.0 - share * share * (3.0 - 2.0 * share)
        for k, entry in enumerate(program.loops):
            since = self._clocks.get(entry.loop.origin)
            if since is None:
                continue
            value = float(distance(entry.loop, self.now - since, self.project))
            if self._transition is None:
                far[k] = value
            elif entry.side == "from":
                far[k] = 0.0 if entry.loop.origin in going_on else value * stays
            elif any(other.side == "from" and other.loop.origin == entry.loop.origin for other in program.loops):
                far[k] = value
        return far


def _round_share(loop: Loop, ms: float) -> float:
    once = loop.wait if loop.wait_when == "once" else 0.0
    whole = round_duration(loop)
    return ((ms + loop.start_offset - once) % whole) / whole if whole > 0 and ms + loop.start_offset >= once else 0.0


def _start_velocity(old: Program, ms: float, new: Program) -> Floats:
    """What to add to the new program's own start speed so that nothing changes its speed at once.

    Speeds are per ms, measured over the last and the first millisecond. Only slots that lie in the same
    parent before and after are carried: others have another space.
    """
    width = len(SCALARS)
    before = (old.numbers(ms) - old.numbers(ms - 1.0))[: old.dense].reshape(-1, width)
    own = (new.numbers(1.0) - new.numbers(0.0))[: new.dense].reshape(-1, width)
    start_velocity = np.zeros_like(own)
    where = {part.layer.id: s for s, part in enumerate(old.contents)}

    def parent_id(program: Program, slot: int) -> str:
        up = int(program.parent[slot])
        return program.contents[up].layer.id if up >= 0 else ""

    for s, part in enumerate(new.contents):
        if part.left is None or part.left.id not in where:
            continue
        t = where[part.left.id]
        up = int(new.parent[s])
        new_parent = ""
        if up >= 0:
            left = new.contents[up].left
            new_parent = left.id if left else "none"
        if parent_id(old, t) == new_parent:
            start_velocity[s] = before[t] - own[s]
    start_velocity[:, list(_WITHOUT_VELOCITY)] = 0.0
    return start_velocity.ravel()


_WITHOUT_VELOCITY = tuple(SCALARS.index(name) for name in ("opacity", "mix", "pivot_x", "pivot_y", "w", "h"))
