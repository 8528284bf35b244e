"""Parts at work in a world that is being changed: they begin, are fed, go on and end."""

from __future__ import annotations

from abc import abstractmethod
from collections.abc import Callable, Mapping

from msgspec.structs import replace

from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.parts import fits, uses_in
from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Feed, Frame, Input, Use
from avelt.core.running.rules import Rules
from avelt.core.running.scenes import uses_shown
from avelt.core.running.stage_work import StageWork, Step
from avelt.core.running.world import Child, LogEntry, World, leaving
from avelt.core.timing.compile import compile_still
from avelt.core.timing.over import at_arrival


def from_child(entry: LogEntry, child: Child, now: float) -> LogEntry:
    """What a part logged, as the stage above says it."""
    return replace(entry, at=now, stage=f"{child.name}/{entry.stage}" if entry.stage else child.name)


class PartWork(StageWork):
    """The world with its parts."""

    @abstractmethod
    def begun(self, rules: Rules, pose: str, told: Mapping[str, InputValue]) -> Step:
        """A part that begins."""

    @abstractmethod
    def told(self, rules: Rules, world: World, name: str, value: InputValue) -> Step:
        """An input of a part has another value."""

    @abstractmethod
    def sent(self, rules: Rules, world: World, name: str) -> Step:
        """A signal of a part goes out."""

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
            world, log = self.begun(rules, use.pose if use.pose in poses else "", self.fed(use, rules))
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
                    self.in_child(origin, lambda r, w, n=name, v=value: self.told(r, w, n, v))  # type: ignore[misc]

    def signal_parts(self, signal: str) -> None:
        """A signal of this stage goes on to the parts that it feeds."""
        for origin, use, child in self.at_work():
            inputs = {entry.id: entry for entry in self.rules.of(child).project.inputs}
            for feed in use.feeds:
                entry = inputs.get(feed.input)
                if feed.name == signal and entry is not None and entry.kind == "signal":
                    self.in_child(origin, lambda r, w, n=entry.name: self.sent(r, w, n))  # type: ignore[misc]
