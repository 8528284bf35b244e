"""Edits of routes and of the motion on them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from typing import Literal

import msgspec

from avelt.core.edits.phases import with_transition
from avelt.core.errors import EditError, FormatError
from avelt.core.model.curves import Curve, Named, PlainCurve
from avelt.core.model.expressions import names_in, parse
from avelt.core.model.find import frame_by_id, frame_of_entrance, layer_index, phase_of_motion, route_by_id
from avelt.core.model.kinds import kind_of
from avelt.core.model.limits import MAX_MS
from avelt.core.model.triggers import STAYS, Action, Drag, Go, Tap, Trigger, hot_area
from avelt.core.model.values import (
    Absent,
    Away,
    ContentChange,
    Cue,
    CueKey,
    Decision,
    Layer,
    NamedCurve,
    Path,
    Pose,
    Project,
    Route,
    Settled,
    Transition,
)
from avelt.core.timing.over import ends_by_id
from avelt.core.timing.schedule import cue_index, duration_of
from avelt.core.words import tr

replace = msgspec.structs.replace


def add_route(
    project: Project,
    leaves: str,
    arrives: str,
    trigger: Trigger | None = None,
    transition: Transition | None = None,
    action: Action | None = None,
) -> tuple[Project, str]:
    """A new route and its id: tap anywhere, go there, 300 ms. Only what stays may arrive at its own frame."""
    frame_by_id(project, leaves)
    frame_by_id(project, arrives)
    if leaves == arrives and not isinstance(action, STAYS):
        raise EditError(tr("A route goes to another frame; motion inside a frame is a loop."))
    ident = f"R{project.next_id}"
    trigger = trigger or Tap()
    route = Route(ident, leaves, arrives, trigger, transition or usual_motion(), action or Go())
    return replace(project, routes=(*project.routes, route), next_id=project.next_id + 1), ident


def usual_motion() -> Transition:
    """What a new route has: what stays eases both ways, what leaves speeds up, what enters slows down."""
    return Transition(300.0, Named("settle"), leave_curve=Named("leave"), enter_curve=Named("arrive"))


def remove_route(project: Project, route_id: str) -> Project:
    """Without the route."""
    return replace(project, routes=tuple(route for route in project.routes if route.id != route_id))


def edit_route(project: Project, route_id: str, change: Callable[[Route], Route]) -> Project:
    """One route changed."""
    old = route_by_id(project, route_id)
    new = change(old)
    if new is old or new == old:
        return project
    if phase_id := phase_of_motion(route_id):
        return with_transition(project, phase_id, new.transition)
    if frame_id := frame_of_entrance(route_id):
        frame = frame_by_id(project, frame_id)
        if frame.entrance is None:
            return project
        entrance = replace(frame.entrance, transition=new.transition)
        made = replace(frame, entrance=entrance)
        return replace(project, frames=tuple(made if f.id == frame_id else f for f in project.frames))
    return replace(project, routes=tuple(new if route.id == route_id else route for route in project.routes))


def edit_transition(project: Project, route_id: str, change: Callable[[Transition], Transition]) -> Project:
    """One route's transition changed."""
    return edit_route(project, route_id, lambda route: replace(route, transition=change(route.transition)))


def set_trigger(project: Project, route_id: str, trigger: Trigger) -> Project:
    """Another trigger; the layer that is touched must be in the frame left."""
    route = route_by_id(project, route_id)
    touched = hot_area(trigger)
    if touched and touched != hot_area(route.trigger):
        _in_frame(project, route, touched)
    if isinstance(trigger, Drag) and trigger.path and trigger.path != getattr(route.trigger, "path", ""):
        path = _in_frame(project, route, trigger.path)
        if not isinstance(path.body, Path):
            raise EditError(tr("{path} is no path that could be dragged along.", path=path.name))
    return edit_route(project, route_id, lambda route: replace(route, trigger=trigger))


def _in_frame(project: Project, route: Route, layer_id: str) -> Layer:
    layer = layer_index(frame_by_id(project, route.leaves)).get(layer_id)
    if layer is None:
        raise EditError(tr("The layer is not in the frame that is left."))
    return layer


def set_action(project: Project, route_id: str, action: Action) -> Project:
    """Another thing that happens; a route of its own frame can only do what stays there."""
    route = route_by_id(project, route_id)
    if route.leaves == route.arrives and not isinstance(action, STAYS):
        raise EditError(tr("This route stays in its frame: it can set an input or send a signal."))
    return edit_route(project, route_id, lambda route: replace(route, action=action))


def set_condition(project: Project, route_id: str, text: str) -> Project:
    """When it happens at all; ``FormatError`` unless the text is a condition on inputs that are there."""
    condition_is_sound(project, text)
    return edit_route(project, route_id, lambda route: replace(route, only_if=text.strip()))


def condition_is_sound(project: Project, text: str) -> None:
    """Raise ``FormatError`` unless a condition can be read and its inputs are there."""
    known = [entry.name for entry in project.inputs if entry.kind != "signal"]
    for name in names_in(parse(text)):
        if name not in known:
            from rapidfuzz import process

            near = process.extractOne(name, known, score_cutoff=60)
            raise FormatError(
                tr("There is no input “{name}”.", name=name),
                tr("the condition"),
                hint=tr("Did you mean “{near}”?", near=near[0]) if near else "",
            )


def set_delay(project: Project, route_id: str, delay: float) -> Project:
    """How long after its trigger it starts, ms."""
    return edit_route(project, route_id, lambda route: replace(route, delay=min(MAX_MS, max(0.0, delay))))


def set_on_arrival(project: Project, route_id: str, on_arrival: Literal["continue", "restart"]) -> Project:
    """What loops and parts of the frame arrived at do."""
    return edit_route(project, route_id, lambda route: replace(route, on_arrival=on_arrival))


def set_scroll_on_arrival(project: Project, route_id: str, scroll: Literal["keep", "reset"]) -> Project:
    """Whether the frame arrived at stays scrolled or begins at its top."""
    return edit_route(project, route_id, lambda route: replace(route, scroll=scroll))


def set_duration(project: Project, route_id: str, duration: float) -> Project:
    """Another duration; all cues are stretched with it."""
    duration = min(MAX_MS, max(0.0, duration))

    def change(old: Transition) -> Transition:
        before = duration_of(old, project)
        if before == duration and old.duration is not None:
            return old
        factor = duration / before if before > 0 else 1.0
        cues = tuple(
            replace(
                cue,
                start=cue.start * factor if cue.start is not None else None,
                end=cue.end * factor if cue.end is not None else None,
            )
            for cue in old.cues
        )
        ties = tuple(replace(tie, by=tie.by * factor) for tie in old.ties)
        staggers = tuple(replace(entry, ms=entry.ms * factor) for entry in old.staggers)
        return replace(old, duration=duration, cues=cues, ties=ties, staggers=staggers)

    return edit_transition(project, route_id, change)


def set_base_curve(
    project: Project, route_id: str, curve: Curve | None, role: Literal["both", "leaves", "enters"] = "both"
) -> Project:
    """The curve that cues without one of their own have; of what leaves or enters, ``None`` is that of the rest."""
    name = {"both": "curve", "leaves": "leave_curve", "enters": "enter_curve"}[role]
    return edit_transition(project, route_id, lambda old: replace(old, **{name: curve}))


def move_end(project: Project, route_id: str, duration: float | None) -> Project:
    """Another duration that leaves all cues where they are; ``None``: as long as the last cue."""
    duration = None if duration is None else min(MAX_MS, max(0.0, duration))
    return edit_transition(project, route_id, lambda old: replace(old, duration=duration))


def set_cue(
    project: Project,
    route_id: str,
    key: CueKey,
    *,
    start: float | str | None = "keep",
    end: float | str | None = "keep",
    curve: Curve | str | None = "keep",
    shortest: bool | str | None = "keep",
) -> Project:
    """Give a cue its own start, end, curve or way of turning; ``None`` is inherited, "keep" leaves it."""

    def change(old: Transition) -> Transition:
        cue = cue_index(old).get(key, Cue(*key))
        fields: dict[str, object] = {}
        if start != "keep":
            fields["start"] = _ms(start)
        if end != "keep":
            fields["end"] = _ms(end)
        if curve != "keep":
            fields["curve"] = curve
        if shortest != "keep":
            fields["shortest"] = shortest
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
    """No time and curve of its own any more, and tied to nothing. Its keyframes and motion path stay: they inherit
    nothing, and go by commands of their own."""

    def change(old: Transition) -> Transition:
        ties = tuple(tie for tie in old.ties if tie.cue != key)
        if len(ties) != len(old.ties):
            old = replace(old, ties=ties)
        now = cue_index(old).get(key, Cue(*key))
        return with_cue(old, Cue(*key, muted=now.muted, keyframes=now.keyframes, motion_path=now.motion_path))

    return edit_transition(project, route_id, change)


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
    left_frame, right_frame = ends_by_id(project, route_id)
    left, right = layer_index(left_frame).get(from_id), layer_index(right_frame).get(to_id)
    if left is None or right is None:
        raise EditError(tr("Both layers must be in the route's frames."))
    if together and kind_of(left).holds != kind_of(right).holds:
        raise EditError(tr("A group pairs with a group only: pair the layers inside it."))

    def change(old: Transition) -> Transition:
        def gives_way(d: Decision) -> bool:
            if (d.from_id, d.to_id) == (from_id, to_id):
                return True
            return together and d.together and (d.from_id == from_id or d.to_id == to_id)

        kept = tuple(d for d in old.decisions if not gives_way(d))
        return replace(old, decisions=(*kept, Decision(from_id, to_id, together)))

    return edit_transition(project, route_id, change)


def accept_all(project: Project, route_id: str, pairs: Iterable[tuple[str, str]]) -> Project:
    """Make pairs that Avelt found decisions, so that later edits cannot change them."""
    for left, right in pairs:
        project = decide(project, route_id, left, right, True)
    return project


def undecide(project: Project, route_id: str, from_id: str | None, to_id: str | None) -> Project:
    """Decide automatically again; with neither, everything that was decided on the route."""

    def change(old: Transition) -> Transition:
        if from_id is None and to_id is None:
            return replace(old, decisions=()) if old.decisions else old
        kept = tuple(d for d in old.decisions if d.from_id != from_id and d.to_id != to_id)
        return old if len(kept) == len(old.decisions) else replace(old, decisions=kept)

    return edit_transition(project, route_id, change)


def set_absent(project: Project, route_id: str, layer_id: str, pose: Pose | None) -> Project:
    """How a leaving or entering layer looks where it is not; ``None`` is as all on its side."""
    away = None if pose is None else as_away(pose)

    def change(old: Transition) -> Transition:
        others = tuple(entry for entry in old.absents if entry.layer != layer_id)
        if away is None:
            return old if len(others) == len(old.absents) else replace(old, absents=others)
        if len(others) == len(old.absents):
            return replace(old, absents=(*others, Absent(layer_id, away)))
        return replace(old, absents=tuple(Absent(layer_id, away) if e.layer == layer_id else e for e in old.absents))

    return edit_transition(project, route_id, change)


def as_away(pose: Pose) -> Away:
    """A pose as a way to leave or enter."""
    if isinstance(pose, Away):
        return pose
    return Away(pose.shift_x, pose.shift_y, pose.rotation, pose.scale_x, pose.scale_y, pose.opacity)


def set_all_absent(
    project: Project, route_id: str, side: Literal["leave", "enter"], pose: Away, keep_own: bool = True
) -> Project:
    """How all leaving or all entering layers go and come; those with a way of their own keep it, if wanted."""
    left, right = ends_by_id(project, route_id)
    frame = left if side == "leave" else right

    def change(old: Transition) -> Transition:
        new = replace(old, **{side: pose})
        if not keep_own:
            mine = layer_index(frame)
            new = replace(new, absents=tuple(a for a in new.absents if a.layer not in mine))
        return new

    return edit_transition(project, route_id, change)


def settle(
    project: Project,
    route_id: str,
    ends: tuple[str, str],
    *,
    content: ContentChange | None = None,
    swap_at: float | Literal["keep"] | None = "keep",
    order_at: float | Literal["keep"] | None = "keep",
    shift: float | None = None,
) -> Project:
    """How a pair's content turns into the other, and when; ``None`` moments are half way."""

    def change(old: Transition) -> Transition:
        now = next((s for s in old.settled if (s.from_id, s.to_id) == ends), Settled(*ends))
        new = replace(
            now,
            content=now.content if content is None else content,
            swap_at=now.swap_at if swap_at == "keep" else _share(swap_at),
            order_at=now.order_at if order_at == "keep" else _share(order_at),
            shift=now.shift if shift is None else shift % 1.0,
        )
        others = tuple(s for s in old.settled if (s.from_id, s.to_id) != ends)
        plain = new == Settled(*ends)
        if plain and len(others) == len(old.settled):
            return old
        return replace(old, settled=others if plain else (*others, new))

    return edit_transition(project, route_id, change)


def _share(value: float | None) -> float | None:
    return None if value is None else min(1.0, max(0.0, value))
