"""Edits of many routes at once, return trips, and copying motion from one route to others."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from typing import Literal

import msgspec

from avelt.core.curves.easing import reversed_curve
from avelt.core.curves.named import plain
from avelt.core.edits.routes import add_route, condition_is_sound, edit_route, set_duration
from avelt.core.errors import EditError
from avelt.core.model.curves import Curve, Named
from avelt.core.model.find import frame_by_id, layer_index, route_by_id
from avelt.core.model.limits import MAX_MS
from avelt.core.model.motion import CueKey, Keyframe, Moment, MotionPath, Tie
from avelt.core.model.triggers import (
    Action,
    Drag,
    Go,
    GoBack,
    PutAway,
    Scroll,
    ShowOver,
    Tap,
    Trigger,
    hot_area,
    on_layer,
    trigger_row,
)
from avelt.core.model.values import Cue, Decision, Project, Route, Settled, Transition
from avelt.core.pairing.engine import Pairing
from avelt.core.timing.compile import paired, pairing_of
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import duration_of, plan_of, timed
from avelt.core.timing.stagger import offsets as stagger_offsets
from avelt.core.words import tr

replace = msgspec.structs.replace
BackCurve = Literal["same", "mirrored", "quicker"]
QUICKER = 0.75  # of the way there: what goes away should not be waited for


# Many at once


def change_durations(
    project: Project, ids: Iterable[str], *, to: float | None = None, times: float = 1.0, add: float = 0.0
) -> Project:
    """The lengths of several routes: all the same (``to``), or each times a factor plus some ms."""
    for ident in ids:
        length = to if to is not None else duration_of(route_by_id(project, ident).transition, project) * times + add
        project = set_duration(project, ident, length)
    return project


def change_all(project: Project, ids: Iterable[str], change: Callable[[Route], Route]) -> Project:
    """Each of several routes changed."""
    for ident in ids:
        project = edit_route(project, ident, change)
    return project


def change_curves(project: Project, ids: Iterable[str], curve: Curve) -> Project:
    """One base curve for several routes."""
    return change_all(project, ids, lambda r: replace(r, transition=replace(r.transition, curve=curve)))


def change_triggers(project: Project, ids: Iterable[str], trigger: Trigger) -> Project:
    """One kind of trigger for several routes; each keeps the layer that is touched."""

    def change(route: Route) -> Route:
        touched = hot_area(route.trigger)
        return replace(route, trigger=on_layer(trigger, touched))

    return change_all(project, ids, change)


def change_conditions(project: Project, ids: Iterable[str], text: str) -> Project:
    """One condition for several routes."""
    condition_is_sound(project, text)
    return change_all(project, ids, lambda route: replace(route, only_if=text.strip()))


def change_delays(project: Project, ids: Iterable[str], delay: float) -> Project:
    """One delay for several routes, ms."""
    delay = min(MAX_MS, max(0.0, delay))
    return change_all(project, ids, lambda route: replace(route, delay=delay))


def remove_routes(project: Project, ids: Iterable[str]) -> Project:
    """Without these routes."""
    gone = set(ids)
    return replace(project, routes=tuple(route for route in project.routes if route.id not in gone))


def every_to_every(
    project: Project, frame_ids: Sequence[str], touched: Mapping[tuple[str, str], str] | None = None
) -> tuple[Project, list[str]]:
    """A route from each of these frames to each other one that has none yet; gives the new ids.

    ``touched``: the layer to tap by (frame left, frame arrived at); without one it is a tap anywhere.
    """
    made: list[str] = []
    there = {(route.leaves, route.arrives) for route in project.routes}
    for left in frame_ids:
        for right in frame_ids:
            if left == right or (left, right) in there:
                continue
            layer = (touched or {}).get((left, right), "")
            project, ident = add_route(project, left, right, Tap(layer))
            made.append(ident)
    return project, made


def relatives_of_touch(
    project: Project, frame_ids: Sequence[str], chosen: Mapping[str, str]
) -> dict[tuple[str, str], str]:
    """The layer to tap in every frame to get to each other one.

    ``chosen``: for a frame to go to, the layer of any one frame that is tapped for it; in the other frames its
    relative is taken (same origin, or what pairing finds). Where there is none the couple is missing.
    """
    found: dict[tuple[str, str], str] = {}
    frames = [frame_by_id(project, ident) for ident in frame_ids]
    for target, layer_id in chosen.items():
        home = next((frame for frame in frames if layer_id in layer_index(frame)), None)
        if home is None:
            continue
        for frame in frames:
            if frame.id == target:
                continue
            ident = layer_id if frame is home else paired(home, frame, _PLAIN).to_of.get(layer_id, "")
            if ident:
                found[frame.id, target] = ident
    return found


_PLAIN = Transition()


# The way back


def return_trip(project: Project, route_id: str, how: BackCurve = "mirrored") -> tuple[Project, str]:
    """The way back with mirrored cues; gives its id. A way back that is there keeps its trigger and gets the motion."""
    route = route_by_id(project, route_id)
    if route.leaves == route.arrives:
        raise EditError(tr("This route stays in its frame: there is no way back."))
    there = next((r for r in project.routes if (r.leaves, r.arrives) == (route.arrives, route.leaves)), None)
    action = _back_action(route.action)
    if there is None:
        trigger = _back_trigger(route.trigger, pairing_of(project, route))
        project, ident = add_route(project, route.arrives, route.leaves, trigger, action=action)
    else:
        ident = there.id
        project = edit_route(project, ident, lambda r: replace(r, action=action))
    motion = mirrored(project, route, how)
    project = edit_route(project, ident, lambda r: replace(r, transition=motion))
    return _same_pairs(project, route, ident), ident


def _back_action(action: Action) -> Action:
    return PutAway() if isinstance(action, ShowOver) else GoBack() if isinstance(action, Go | GoBack) else Go()


_BACK = {"right": "left", "left": "right", "up": "down", "down": "up", "path": "path"}


def _back_trigger(trigger: Trigger, pairing: Pairing) -> Trigger:
    """The same touch on the layer's partner, a drag the other way; a tap anywhere when there is no partner."""
    partner = pairing.to_of.get(hot_area(trigger), "")
    if isinstance(trigger, Drag):
        return replace(trigger, layer=partner, along=_BACK[trigger.along], path=pairing.to_of.get(trigger.path, ""))
    if isinstance(trigger, Scroll):
        return replace(trigger, start=trigger.end, end=trigger.start)
    if partner and hasattr(trigger, "layer"):
        return on_layer(trigger, partner)
    return Tap() if not trigger_row(trigger).follows else trigger


def mirrored(project: Project, route: Route, how: BackCurve = "mirrored") -> Transition:
    """The route's transition run backwards: what began last ends last no more, but begins first."""
    old = route.transition
    length = duration_of(old, project)
    factor = QUICKER if how == "quicker" else 1.0

    def curve(value: Curve, leaves: bool) -> Curve:
        turn = how == "mirrored" or (how == "quicker" and leaves)
        return _mirror(project, value) if turn else value

    plan = plan_of(project, old)
    staggers = tuple(
        replace(e, cues=tuple(_key_back(key) for key in e.cues), reversed=not e.reversed, ms=e.ms * factor)
        for e in old.staggers
    )
    frames = ends(project, route)
    late: dict[CueKey, float] = {}
    for entry in staggers:
        for key, by in stagger_offsets(entry, (frames[1], frames[0])).items():
            late[key] = late.get(key, 0.0) + by

    def cue(entry: Cue) -> Cue:
        back = entry.to_id is None or entry.from_id is None
        start, end = plan.of(entry.key)
        inherits = entry.start is None and entry.end is None and entry.key not in plan.hung
        by = late.get(_key_back(entry.key), 0.0)  # the stagger puts it off by this again
        entry = _with_curves(project, old, entry)
        whole = entry.curve if not entry.keyframes or entry.keyframes[0].curve is None else entry.keyframes[0].curve
        keys = _keys_back(entry, lambda value: curve(value, back))
        if keys and entry.keyframes[0].curve is not None and entry.curve is not None:
            keys = (replace(keys[0], curve=curve(entry.curve, back)), *keys[1:])
        return Cue(
            entry.to_id,
            entry.from_id,
            entry.prop,
            None if inherits else max(0.0, (length - end) * factor - by),
            None if inherits else max(0.0, (length - start) * factor - by),
            curve(whole, back) if whole is not None else None,
            entry.shortest,
            entry.space,
            entry.muted,
            keys,
            _way_back(entry.motion_path),
        )

    def moment(share: float | None) -> float | None:
        return None if share is None else 1.0 - share

    return replace(
        old,
        duration=length * factor if old.duration is not None else None,
        curve=curve(old.curve, False),
        cues=tuple(cue(plan.cues.get(key, Cue(*key))) for key in dict.fromkeys((*plan.cues, *plan.hung))),
        decisions=tuple(Decision(d.to_id, d.from_id, d.together) for d in old.decisions),
        leave=old.enter,
        enter=old.leave,
        leave_curve=None if old.enter_curve is None else curve(old.enter_curve, True),
        enter_curve=None if old.leave_curve is None else curve(old.leave_curve, True),
        ties=tuple(_tie_back(tie, factor) for tie in old.ties),
        staggers=staggers,
        settled=tuple(
            Settled(s.to_id, s.from_id, s.content, moment(s.swap_at), moment(s.order_at), (1.0 - s.shift) % 1.0)
            for s in old.settled
        ),
    )


def _key_back(key: CueKey) -> CueKey:
    return CueKey(key.to_id, key.from_id, key.prop)


def _tie_back(tie: Tie, factor: float) -> Tie:
    """What began after an end now ends before a start."""
    turned: dict[Moment, Moment] = {"start": "end", "end": "start"}
    return Tie(_key_back(tie.cue), _key_back(tie.to), turned[tie.at], turned[tie.to_at], -tie.by * factor)


def _keys_back(cue: Cue, turn: Callable[[Curve], Curve]) -> tuple[Keyframe, ...]:
    """Keys met from the other side: each is reached by the curve that led on from it."""
    onward = [key.curve for key in cue.keyframes[1:]] + [None]
    return tuple(
        Keyframe(
            1.0 - key.at,
            (1.0 - key.value[0],) if cue.motion_path is not None else key.value,
            None if c is None else turn(c),
        )
        for key, c in zip(reversed(cue.keyframes), reversed(onward[: len(cue.keyframes)]), strict=True)
    )


def _with_curves(project: Project, old: Transition, cue: Cue) -> Cue:
    """The cue with every curve written out, where a key has one of its own."""
    if all(key.curve is None for key in cue.keyframes):
        return cue
    usual = timed(project, old, *cue.key).curve
    keys = tuple(replace(key, curve=key.curve or usual) for key in cue.keyframes)
    return replace(cue, keyframes=keys, curve=usual)


def _way_back(way: MotionPath | None) -> MotionPath | None:
    if way is None:
        return None
    points = tuple((1.0 - u, dx, dy) for u, dx, dy in reversed(way.points))
    return replace(way, points=points, pace=tuple(1.0 - share for share in reversed(way.pace)))


def _mirror(project: Project, curve: Curve) -> Curve:
    """The curve run backwards, as a named one when the project has it, as itself when it is the same both ways."""
    value = plain(project, curve)
    back = reversed_curve(value)
    if back == value:
        return curve
    for entry in project.curves:
        if entry.curve == back:
            return Named(entry.id)
    return back


def _same_pairs(project: Project, there: Route, back_id: str) -> Project:
    """Where the engine would pair otherwise on the way back, what it paired on the way there is decided."""
    forward = pairing_of(project, there)
    back = pairing_of(project, route_by_id(project, back_id))
    other = [(p.to_id, p.from_id) for p in forward.pairs if back.to_of.get(p.to_id) != p.from_id]
    known = set(back.left.flat.index) | set(back.right.flat.index)
    new = tuple(Decision(a, b, True) for a, b in other if a in known and b in known)
    if not new:
        return project
    return edit_route(
        project,
        back_id,
        lambda r: replace(r, transition=replace(r.transition, decisions=(*r.transition.decisions, *new))),
    )


# The order of frames


def move_frames(project: Project, ids: Sequence[str], before: str) -> Project:
    """Frames put in front of another, or at the end for an empty ``before``; they keep their order."""
    moved = [frame for frame in project.frames if frame.id in ids]
    rest = [frame for frame in project.frames if frame.id not in ids]
    place = next((k for k, frame in enumerate(rest) if frame.id == before), len(rest))
    frames = (*rest[:place], *moved, *rest[place:])
    return project if frames == project.frames else replace(project, frames=frames)
