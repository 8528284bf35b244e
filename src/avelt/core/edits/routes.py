"""Edits of routes and of the motion on them."""

from __future__ import annotations

from collections.abc import Callable

import msgspec

from avelt.core.errors import EditError
from avelt.core.model.find import frame_by_id, layer_index, route_by_id
from avelt.core.model.limits import MAX_MS
from avelt.core.model.values import (
    FADED,
    Absent,
    Cue,
    CueKey,
    Curve,
    Decision,
    Group,
    Named,
    NamedCurve,
    PlainCurve,
    Pose,
    Project,
    Route,
    Tap,
    Transition,
    Trigger,
)  # fmt: skip
from avelt.core.timing.schedule import cue_index, length_of

replace = msgspec.structs.replace


def add_route(
    project: Project, leaves: str, arrives: str, trigger: Trigger | None = None, transition: Transition | None = None
) -> tuple[Project, str]:
    """A new route and its id: tap anywhere, 300 ms."""
    frame_by_id(project, leaves)
    frame_by_id(project, arrives)
    if leaves == arrives:
        raise EditError("A route goes to another frame; motion inside a frame is a loop.")
    ident = f"R{project.next_id}"
    route = Route(ident, leaves, arrives, trigger or Tap(), transition or Transition(300.0, Named("settle")))
    return replace(project, routes=(*project.routes, route), next_id=project.next_id + 1), ident


def remove_route(project: Project, route_id: str) -> Project:
    """Without the route."""
    return replace(project, routes=tuple(route for route in project.routes if route.id != route_id))


def edit_route(project: Project, route_id: str, change: Callable[[Route], Route]) -> Project:
    """One route changed."""
    old = route_by_id(project, route_id)
    new = change(old)
    if new is old or new == old:
        return project
    return replace(project, routes=tuple(new if route.id == route_id else route for route in project.routes))


def edit_transition(project: Project, route_id: str, change: Callable[[Transition], Transition]) -> Project:
    """One route's transition changed."""
    return edit_route(project, route_id, lambda route: replace(route, transition=change(route.transition)))


def set_trigger(project: Project, route_id: str, trigger: Trigger) -> Project:
    """Another trigger; a tap's layer must be in the frame left."""
    route = route_by_id(project, route_id)
    if (
        isinstance(trigger, Tap)
        and trigger.layer
        and trigger.layer not in layer_index(frame_by_id(project, route.leaves))
    ):
        raise EditError("The layer to tap is not in the frame that is left.")
    return edit_route(project, route_id, lambda route: replace(route, trigger=trigger))


def set_length(project: Project, route_id: str, length: float) -> Project:
    """Another length; all cues are stretched with it."""
    length = min(MAX_MS, max(0.0, length))

    def change(old: Transition) -> Transition:
        before = length_of(old)
        if before == length and old.length is not None:
            return old
        factor = length / before if before > 0 else 1.0
        cues = tuple(
            replace(
                cue,
                start=cue.start * factor if cue.start is not None else None,
                end=cue.end * factor if cue.end is not None else None,
            )
            for cue in old.cues
        )
        return replace(old, length=length, cues=cues)

    return edit_transition(project, route_id, change)


def set_base_curve(project: Project, route_id: str, curve: Curve) -> Project:
    """The curve that cues without one of their own have."""
    return edit_transition(project, route_id, lambda old: replace(old, curve=curve))


def set_cue(
    project: Project, route_id: str, key: CueKey, *, start: float | str | None = "keep",
    end: float | str | None = "keep", curve: Curve | str | None = "keep",
) -> Project:  # fmt: skip
    """Give a cue its own start, end or curve; ``None`` goes back to what is inherited, "keep" leaves it."""

    def change(old: Transition) -> Transition:
        cue = cue_index(old).get(key, Cue(*key))
        fields: dict[str, object] = {}
        if start != "keep":
            fields["start"] = _ms(start)
        if end != "keep":
            fields["end"] = _ms(end)
        if curve != "keep":
            fields["curve"] = curve
        return with_cue(old, replace(cue, **fields))

    return edit_transition(project, route_id, change)


def _ms(value: object) -> float | None:
    return None if value is None else min(MAX_MS, max(0.0, float(str(value))))


def with_cue(transition: Transition, cue: Cue) -> Transition:
    """The transition with the cue in its place; an empty one is taken out."""
    others = tuple(old for old in transition.cues if old.key != cue.key)
    if cue.empty:
        return transition if len(others) == len(transition.cues) else replace(transition, cues=others)
    found = [k for k, old in enumerate(transition.cues) if old.key == cue.key]
    if found:
        cues = tuple(cue if k == found[0] else old for k, old in enumerate(transition.cues))
        return replace(transition, cues=cues)
    return replace(transition, cues=(*transition.cues, cue))


def inherit_cue(project: Project, route_id: str, key: CueKey) -> Project:
    """Nothing of its own any more."""
    return set_cue(project, route_id, key, start=None, end=None, curve=None)


def edit_named_curve(project: Project, curve_id: str, curve: PlainCurve) -> Project:
    """A named curve changed: all that use it follow."""
    curves = tuple(replace(old, curve=curve) if old.id == curve_id else old for old in project.curves)
    return replace(project, curves=curves)


def name_curve(project: Project, name: str, curve: PlainCurve) -> tuple[Project, str]:
    """A new named curve and its id."""
    ident = f"C{project.next_id}"
    entry = NamedCurve(ident, name.strip() or f"Curve {project.next_id}", curve)
    return replace(project, curves=(*project.curves, entry), next_id=project.next_id + 1), ident


def decide(project: Project, route_id: str, from_id: str, to_id: str, together: bool) -> Project:
    """Pair two layers by hand or keep them apart; older decisions about them give way."""
    route = route_by_id(project, route_id)
    left = layer_index(frame_by_id(project, route.leaves)).get(from_id)
    right = layer_index(frame_by_id(project, route.arrives)).get(to_id)
    if left is None or right is None:
        raise EditError("Both layers must be in the route's frames.")
    if together and isinstance(left.body, Group) != isinstance(right.body, Group):
        raise EditError("A group pairs with a group only: pair the layers inside it.")

    def change(old: Transition) -> Transition:
        def gives_way(d: Decision) -> bool:
            if (d.from_id, d.to_id) == (from_id, to_id):
                return True
            return together and d.together and (d.from_id == from_id or d.to_id == to_id)

        kept = tuple(d for d in old.decisions if not gives_way(d))
        return replace(old, decisions=(*kept, Decision(from_id, to_id, together)))

    return edit_transition(project, route_id, change)


def undecide(project: Project, route_id: str, from_id: str | None, to_id: str | None) -> Project:
    """Leave it to Avelt again."""

    def change(old: Transition) -> Transition:
        kept = tuple(d for d in old.decisions if d.from_id != from_id and d.to_id != to_id)
        return old if len(kept) == len(old.decisions) else replace(old, decisions=kept)

    return edit_transition(project, route_id, change)


def set_absent(project: Project, route_id: str, layer_id: str, pose: Pose | None) -> Project:
    """How a leaving or entering layer looks where it is not; ``None`` is the plain fade."""

    def change(old: Transition) -> Transition:
        others = tuple(entry for entry in old.absents if entry.layer != layer_id)
        if pose is None or pose == FADED:
            return old if len(others) == len(old.absents) else replace(old, absents=others)
        return replace(old, absents=(*others, Absent(layer_id, pose)))

    return edit_transition(project, route_id, change)
