"""The player: a prototype run by events and time. Same events, same scenes, always.

It keeps a frozen ``World`` (``world.py``) and goes from one to the next (``step.py``). Every world that it came through
is kept, so that any moment can be looked at again, and gone on from.
"""

from __future__ import annotations

from bisect import bisect_right
from collections.abc import Mapping
from copy import copy

from avelt.core.errors import EditError
from avelt.core.model.follows import ByDrag
from avelt.core.model.triggers import TOUCHED, InputValue, hot_area
from avelt.core.model.values import Frame, Loop, Project, Route
from avelt.core.record import Record
from avelt.core.running import due as dues
from avelt.core.running import step as steps
from avelt.core.running import world as worlds
from avelt.core.running.rules import Rules
from avelt.core.running.scenes import scene_of
from avelt.core.running.seeds import USUAL, seeded
from avelt.core.running.world import LogEntry, World
from avelt.core.timing.loops import LoopState, round_duration, stage
from avelt.core.timing.program import Scene
from avelt.core.words import tr

__all__ = ["LogEntry", "Player", "Running"]


class Running(Record, frozen=True):
    """A loop at work: where it is in its round, and in which part (the names of the uses that lead there)."""

    loop: Loop
    since: float
    stage: LoopState
    share: float  # of its round that is over
    inside: str = ""


def running_in(rules: Rules, world: World, inside: str = "") -> list[Running]:
    """The loops at work in a stage, and in the parts there."""
    orders = rules.orders
    actor, began = world.actor, []
    if orders is None or orders.main is None:
        # One that rests, because what it runs until holds, does not run.
        resting = {origin for origin, ends in actor.ends.items() if ends <= world.now}
        at_work = (loop for loop in actor.shown.loops if loop.origin in actor.loops and not loop.muted)
        began = [(loop, actor.loops[loop.origin]) for loop in at_work if loop.origin not in resting]
    if orders is not None:
        for state in world.tracks:
            phase = orders.phase(state.track, state.phase)
            began += [(loop, state.began) for loop in orders.loops(state.track, phase)]
    found = []
    for loop, since in began:
        where = stage(loop, world.now - since)
        share = 1.0 if where.doing == "done" else _round_share(loop, world.now - since)
        found.append(Running(loop, since, where, share, inside))
    for child in world.children.values():
        name = f"{inside}/{child.name}" if inside else child.name
        found += running_in(rules.of(child), child.now(world.now), name)
    return found


def phases_in(rules: Rules, world: World, inside: str = "") -> dict[str, dict[str, str]]:
    """Which phase runs on which track, by names, in a stage and in the parts there that have a running order."""
    orders = rules.orders
    here = {}
    for state in world.tracks if orders is not None else ():
        here[orders.track(state.track).name] = orders.phase(state.track, state.phase).name  # type: ignore[union-attr]
    found = {inside: here} if here or not inside else {}
    for child in world.children.values():
        name = f"{inside}/{child.name}" if inside else child.name
        found |= phases_in(rules.of(child), child.now(world.now), name)
    return found


class Player:
    """Plays a project from its first frame."""

    def __init__(
        self,
        project: Project,
        loading: float = 0.0,
        first: str = "",
        inputs: Mapping[str, InputValue] | None = None,
        seed: int = USUAL,
    ) -> None:
        if not project.frames:
            raise EditError(tr("There is no frame to begin with."))
        self.rules = Rules(seeded(project, seed), loading)
        self.world, log = steps.begin(self.rules, first, inputs)
        self.log: list[LogEntry] = list(log)
        self._kept: list[tuple[World, int]] = [(self.world, len(self.log))]

    # Reading

    @property
    def project(self) -> Project:
        """What is played."""
        return self.rules.project

    @property
    def loading(self) -> float:
        """How long frames take to load, ms."""
        return self.rules.loading

    @property
    def now(self) -> float:
        """ms since the start."""
        return self.world.now

    @property
    def inputs(self) -> Mapping[str, InputValue]:
        """The inputs by name, with their values now."""
        return self.world.inputs

    @property
    def frame(self) -> Frame:
        """The frame that is shown, or arrived at next."""
        return self.world.actor.frame

    @property
    def route(self) -> Route | None:
        """The route under way; none while a frame's own entrance plays."""
        return dues.route_of(self.world)

    def scene(self) -> Scene:
        """What is on screen now."""
        return scene_of(self.rules, self.world)

    def running(self) -> list[Running]:
        """The loops at work in what is shown, with where they are; those of parts, too."""
        return running_in(self.rules, self.world)

    def phases(self) -> dict[str, dict[str, str]]:
        """Which phase runs: by the names of the uses that lead to a stage, its track, the phase."""
        return phases_in(self.rules, self.world)

    def under_way(self) -> float | None:
        """How much of the transition's time is over, 0..1; ``None`` when none is under way."""
        motion = self.world.actor.motion
        if motion is None:
            return None
        return min(1.0, max(0.0, motion.moment(self.now) / max(motion.end - motion.start, 1e-9)))

    @property
    def moves(self) -> bool:
        """Whether a motion is under way, in the stage or in a part at work in it; loops may run at any time."""
        return _moves(self.world)

    def still_loads(self) -> float | None:
        """For how many ms the frame that is shown still loads; ``None`` when it is loaded."""
        ready = self.world.actor.ready_at
        return None if ready is None or ready <= self.now else ready - self.now

    def next_timer(self) -> tuple[Route, float] | None:
        """The timer that falls due first and when (ms since the start)."""
        return dues.next_timer(self.rules, self.world)

    def hot_areas(self) -> tuple[str, ...]:
        """Layers of the frame that can be touched; an empty id stands for anywhere."""
        touched = (r for r in self.rules.routes_of(self.frame) if isinstance(r.trigger, TOUCHED) and self._may(r))
        dragged = (follow.by.layer for follow in self.world.actor.shown.follows if isinstance(follow.by, ByDrag))
        return tuple(dict.fromkeys((*(hot_area(route.trigger) for route in touched), *dragged)))

    def _may(self, route: Route) -> bool:
        return self.rules.may(self.world, route)

    # Time

    def advance(self, to_ms: float) -> None:
        """Go on to a time; never back."""
        while (found := dues.due(self.rules, self.world)) is not None and found.at <= to_ms:
            self._take(*steps.step(self.rules, self.world, found))
        self.world = steps.passed(self.world, to_ms)

    def moment(self, ms: float) -> Player:
        """The rehearsal as it was at a time, by itself: this one stays as it is."""
        made = copy(self)
        world, count = self._kept[self._place(ms)]
        made.log = self.log[:count]
        made._kept = [(world, count)]
        made.world = steps.passed(world, min(max(ms, 0.0), self.now))
        return made

    def rewind(self, ms: float) -> None:
        """Back to how it was at a time; what came after it is forgotten."""
        place = self._place(ms)
        world, count = self._kept[place]
        del self._kept[place + 1 :], self.log[count:]
        self.world = steps.passed(world, min(ms, self.now))

    # Events

    def loaded(self) -> None:
        """The loading of the frame that is shown is done: what waited for it begins."""
        self._take(*steps.loaded(self.rules, self.world))

    def press(self, x: float, y: float) -> None:
        """The pointer goes down at a place in the frame."""
        self._take(*steps.press(self.rules, self.world, x, y))

    def release(self, x: float, y: float) -> steps.Taken:
        """The pointer goes up: a tap when it went down on the same thing. Gives what took it."""
        world, log, taken = steps.release(self.rules, self.world, x, y)
        self._take(world, log)
        return taken

    def foreseen(self) -> Player | None:
        """The rehearsal as it would be if what the pointer holds were let go here and now, by itself: this one stays as
        it is. ``None`` where nothing is pressed. A release at this moment takes the motion that was worked out."""
        at = self.world.pointer
        if self.world.pressed is None or at is None:
            return None
        made = copy(self)
        made.log, made._kept = [], [(self.world, 0)]
        made._take(*steps.release(self.rules, self.world, *at)[:2])
        return made

    def move(self, x: float, y: float) -> None:
        """The pointer is at a place in the frame."""
        self._take(*steps.move(self.rules, self.world, x, y))

    def scroll(self, dx: float, dy: float) -> None:
        """What lies under the pointer is scrolled by so many px."""
        self._take(*steps.scroll(self.rules, self.world, dx, dy))

    def out(self) -> None:
        """The pointer leaves the screen."""
        self._take(*steps.out(self.rules, self.world))

    def key(self, pressed: str) -> steps.Taken:
        """A key goes down, by its name in UI Events. Gives what took it."""
        world, log, taken = steps.key(self.rules, self.world, pressed)
        self._take(world, log)
        return taken

    def tap(self, x: float, y: float) -> steps.Taken:
        """A press and a release at one place."""
        self.press(x, y)
        return self.release(x, y)

    def set_input(self, name: str, value: InputValue, part: str = "") -> None:
        """An input gets a value; of a part at work, where a path of use names is said. ``EditError`` for what cannot
        be."""
        self._take(*steps.within(self.rules, self.world, part, lambda r, w: steps.set_input(r, w, name, value)))

    def send(self, name: str, part: str = "") -> None:
        """A signal is sent, in a part at work where one is said. ``EditError`` when there is none of that name."""
        self._take(*steps.within(self.rules, self.world, part, lambda r, w: steps.send(r, w, name)))

    def jump(self, track: str, phase: str) -> None:
        """A phase of a running order of the project (by their ids) begins now."""
        self._take(*steps.jump(self.rules, self.world, track, phase))

    def note(self, what: worlds.What, says: str) -> None:
        """Something that only the log knows."""
        self.log.append(LogEntry(self.now, what, says))

    def _place(self, ms: float) -> int:
        """The last kept moment that is not after a time."""
        return max(0, bisect_right(self._kept, ms, key=lambda entry: entry[0].now) - 1)

    @property
    def holds(self) -> bool:
        """Whether the pointer holds something that can be dragged."""
        return steps.drags(self.world)

    @property
    def marks(self) -> int:
        """How many moments are kept: one more after everything that changed something."""
        return len(self._kept)

    def _take(self, world: World, log: tuple[LogEntry, ...]) -> None:
        last, self.world = self.world, world
        if not log and _stands(last, world):
            return  # the pointer went where nothing feels it
        self.log.extend(log)
        self._kept.append((world, len(self.log)))


def _stands(one: World, other: World) -> bool:
    """Whether nothing happened from one world to the next, but time and where the pointer is."""
    return (
        one.actor is other.actor
        and one.pressed is other.pressed
        and one.hovered == other.hovered
        and one.grip is other.grip
        and one.children.keys() == other.children.keys()
        and all(_stands(child.world, other.children[origin].world) for origin, child in one.children.items())
    )


def _moves(world: World) -> bool:
    return world.actor.motion is not None or any(_moves(child.world) for child in world.children.values())


def _round_share(loop: Loop, ms: float) -> float:
    once = loop.wait if loop.wait_when == "once" else 0.0
    whole = round_duration(loop)
    return ((ms + loop.start_offset - once) % whole) / whole if whole > 0 and ms + loop.start_offset >= once else 0.0
