"""A world being changed: what it is made of, and what every change of it needs."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from avelt.core.model.find import frame_of_entrance, layer_index
from avelt.core.model.triggers import Trigger
from avelt.core.model.values import Frame, Route
from avelt.core.running.rules import Rules
from avelt.core.running.world import LogEntry, OnTrack, What, World
from avelt.core.words import tr

MOST_STEPS = 1_000  # at one moment; a chain that goes on beyond is cut
Step = tuple[World, tuple[LogEntry, ...]]


class StageWork:
    """A world being changed; ``done`` freezes it again. Its fields are those of ``World`` and of its ``Actor``."""

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
        self.scroll, self.places, self.history = actor.scroll, dict(actor.places), actor.history
        self.follows, self.returns, self.passed = dict(actor.follows), actor.returns, actor.passed
        self.grip, self.pointer = world.grip, world.pointer
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
        actor = replace(
            self.before.actor,
            frame=self.frame,
            shown=self.shown,
            still=self.still,
            arrived=self.arrived,
            motion=self.motion,
            beneath=tuple(self.beneath),
            loops=dict(self.loops),
            ends=dict(self.ends),
            fired=self.fired,
            wants_entrance=self.wants_entrance,
            ready_at=self.ready_at,
            scroll=self.scroll,
            places=dict(self.places),
            history=self.history,
            follows=dict(self.follows),
            returns=self.returns,
            passed=self.passed,
        )
        return replace(
            self.before,
            now=self.now,
            inputs=dict(self.inputs),
            actor=actor,
            pressed=self.pressed,
            steps=self.steps,
            steps_at=self.steps_at,
            halted=self.halted,
            children=dict(self.children),
            held=self.held,
            tracks=tuple(self.tracks.values()),
            holds=self.holds,
            grip=self.grip,
            pointer=self.pointer,
        )

    def done(self) -> Step:
        """The world and what is to be logged."""
        return self.world(), tuple(self.log)

    def may(self, route: Route) -> bool:
        """Whether a route can start now."""
        return self.rules.may(self.world(), route)

    @property
    def leaving(self) -> bool:
        """Whether a route is under way; an entrance is none, nor is a motion that may still go back."""
        motion = self.motion
        return motion is not None and motion.may_arrive and not frame_of_entrance(motion.route.id)

    def note(self, what: What, says: str, frame: str = "", phase: str = "", track: str = "") -> None:
        """One line of the log."""
        self.log.append(LogEntry(self.now, what, says, "", frame, phase, track))

    def counts(self, what: str) -> bool:
        """One thing more is done at this moment; false when it is one too many, and the chain is cut."""
        self.steps = self.steps + 1 if self.steps_at == self.now else 1
        self.steps_at = self.now
        if self.steps > MOST_STEPS:
            self.halted = True
            self.note(
                "stopped", tr("{what} came {most_steps:,} times at this moment", what=what, most_steps=MOST_STEPS)
            )
        return not self.halted

    def name_of(self, layer_id: str) -> str:
        """The name of a layer of the frame, for the log."""
        layer = layer_index(self.frame).get(layer_id)
        if layer is None and self.rules.orders is not None:
            return self.rules.orders.names.get(layer_id, "nothing")
        return layer.name if layer else "nothing"

    def shows(self) -> tuple[Frame, ...]:
        """The frames that are on screen, or come to it: of each track what its phase shows."""
        orders = self.rules.orders
        if orders is None:
            return (self.shown,) if self.motion is None else (self.shown, self.motion.shown)
        poses = [p for s in self.tracks.values() for p in orders.poses(orders.phase(s.track, s.phase))]
        return tuple(poses) if orders.main is not None else (self.shown, *poses)
