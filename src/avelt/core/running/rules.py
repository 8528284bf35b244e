"""What of a project does not change while it is played."""

from __future__ import annotations

from collections.abc import Mapping

from avelt.core.cache import Cache
from avelt.core.errors import FormatError
from avelt.core.geometry.used import as_used
from avelt.core.model.expressions import Condition, Expression, holds, number_of, parse, parse_value, value_of
from avelt.core.model.find import layer_index
from avelt.core.model.follows import ByPointer
from avelt.core.model.parts import as_stage, part_by_id
from avelt.core.model.triggers import InputValue, Pointer, Trigger
from avelt.core.model.values import Frame, Input, Part, Project, Route, Use
from avelt.core.record import lazy
from avelt.core.running.orders import Orders
from avelt.core.running.world import Child, World

_MOST_USES = 4096  # that are known with what plays in them


class Rules:
    """A project made ready to be played: routes by frame and kind of trigger, conditions parsed once."""

    def __init__(self, project: Project, loading: float = 0.0) -> None:
        #: Its running orders, if it has any.
        self.orders = Orders(project) if any(track.phases for track in project.tracks) else None
        self.project = project = self.orders.project if self.orders is not None else project
        #: How long frames take to load, ms.
        self.loading = loading
        self._parts: dict[int, tuple[Part, Rules]] = {}
        self._uses: Cache[Rules] = Cache(_MOST_USES)
        self._routes: dict[tuple[str, type], list[Route]] = {}
        self._conditions: dict[str, Condition | None] = {}
        self._values: dict[str, Expression | None] = {}
        self._by_frame: dict[str, list[Route]] = {}
        #: Whether something in it goes with the pointer.
        self.feels_pointer = any(isinstance(route.trigger, Pointer) for route in project.routes) or any(
            isinstance(follow.by, ByPointer) for frame in project.frames for follow in frame.follows
        )
        # A stage with a main order is driven by that alone.
        for route in () if self.orders is not None and self.orders.main is not None else project.routes:
            self._routes.setdefault((route.leaves, type(route.trigger)), []).append(route)
            self._by_frame.setdefault(route.leaves, []).append(route)

    def of(self, child: Child) -> Rules:
        """The rules of a part at work."""
        return self.of_use(child.use, *child.size)

    def of_use(self, use: Use, w: float, h: float) -> Rules:
        """The rules of a part as a use of a size has it."""
        return self._uses.get((use,), (w, h), lambda: self._made(use, w, h))

    def _made(self, use: Use, w: float, h: float) -> Rules:
        part = as_used(part_by_id(self.project, use.part), use, w, h)
        found = self._parts.get(id(part))
        if found is None or found[0] is not part:
            found = self._parts[id(part)] = part, Rules(as_stage(self.project, part), self.loading)
        return found[1]

    def routes_of(self, frame: Frame) -> list[Route]:
        """The routes of a frame, whatever starts them, in their order."""
        return self._by_frame.get(frame.id, [])

    def of_kind(self, frame: Frame, kind: type[Trigger]) -> list[Route]:
        """The routes of a frame that one kind of trigger starts."""
        return self._routes.get((frame.id, kind), [])

    def origin(self, layer_id: str) -> str:
        """What a layer is, whatever frame or pose it is in: its origin."""
        known = self.orders.origins if self.orders is not None else self._origins
        return known.get(layer_id, layer_id)

    @lazy
    def _origins(self) -> dict[str, str]:
        return {layer.id: layer.origin for frame in self.project.frames for layer in layer_index(frame).values()}

    def input_named(self, name: str, signal: bool) -> Input | None:
        """The input, or the signal, of a name."""
        fitting = (e for e in self.project.inputs if (e.kind == "signal") == signal)
        return next((entry for entry in fitting if entry.name == name), None)

    def may(self, world: World, route: Route) -> bool:
        """Whether a route can start now: its condition holds, and what is done once only is not done yet."""
        return route.id not in world.actor.fired and self.holds(route.only_if, world.inputs)

    def holds(self, text: str, inputs: Mapping[str, InputValue]) -> bool:
        """Whether a condition holds; one that cannot be read does not (checks say what is wrong with it)."""
        if text not in self._conditions:
            try:
                self._conditions[text] = parse(text)
            except FormatError:
                self._conditions[text] = None
        condition = self._conditions[text]
        return condition is not None and holds(condition, inputs)

    def value(self, text: str, inputs: Mapping[str, InputValue]) -> InputValue | None:
        """What an expression works out; ``None`` for one that cannot be read."""
        if text not in self._values:
            try:
                self._values[text] = parse_value(text)
            except FormatError:
                self._values[text] = None
        found = self._values[text]
        return value_of(found, inputs) if found is not None else None

    def share(self, text: str, inputs: Mapping[str, InputValue]) -> float:
        """What an expression works out as a share of the way, 0..1."""
        self.value(text, inputs)
        found = self._values[text]
        return min(1.0, max(0.0, number_of(found, inputs))) if found is not None else 0.0
