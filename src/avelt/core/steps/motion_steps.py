"""Steps that make and change routes and how they move.

Every ``do_...`` takes the project, the step as it was said and what it stands beside; it gives the new project.
"""

from __future__ import annotations

from typing import Any, Literal, get_args

import msgspec

from avelt.core.arrays import np
from avelt.core.edits import entrances, keyframes, routes
from avelt.core.edits import ties_and_staggers as order
from avelt.core.edits.cues import change_cues
from avelt.core.edits.ends import away_now
from avelt.core.errors import EditError, FormatError
from avelt.core.model.find import entrance_id, layer_index, route_by_id
from avelt.core.model.motion import ContentChange, Stagger
from avelt.core.model.triggers import STAYS, Tap, hot_area
from avelt.core.model.values import Group, Layer, Project
from avelt.core.model.values import Path as PathBody
from avelt.core.steps.drawing import drawn
from avelt.core.steps.names import cue_of, curve_of, find_frame, find_route, layer_of
from avelt.core.steps.properties import away_of, key_of, numbers
from avelt.core.steps.said import Said, Site, ms_of
from avelt.core.steps.triggers import action_of, trigger_of
from avelt.core.timing.compile import compile_route
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import timed
from avelt.core.timing.tracks import motion_path_of

replace = msgspec.structs.replace


# Routes and cues


def do_route(project: Project, said: Said, site: Site) -> Project:
    """A route, or changes of the one with the same frames and trigger."""
    left, right = find_frame(project, said["from"]), find_frame(project, said["to"])
    trigger = trigger_of(project, left, said["trigger"]) if "trigger" in said else None
    action = action_of(project, said["then"]) if "then" in said else None
    there = [r for r in project.routes if (r.leaves, r.arrives) == (left.id, right.id)]
    same = [r for r in there if r.trigger == trigger] if trigger is not None else there
    if trigger is not None and not same and len(there) == 1 and there[0].trigger == Tap() and not said.get("add"):
        same = there  # the one that import made takes its trigger
    if len(same) == 1 and not said.get("add"):
        ident = same[0].id
        if trigger is not None:
            project = routes.set_trigger(project, ident, trigger)
        if action is not None:
            project = routes.set_action(project, ident, action)
    elif len(same) > 1 and not said.get("add"):
        raise EditError(f"{len(same)} routes go from {left.name} to {right.name}: say the trigger, or “add”.")
    else:
        if left.id == right.id and not isinstance(action, STAYS):
            raise EditError("A route that stays in its frame sets an input or sends a signal.")
        project, ident = routes.add_route(project, left.id, right.id, trigger or Tap(), None, action)
        if trigger is not None and hot_area(trigger) and hot_area(trigger) not in layer_index(left):
            raise EditError("The layer is not in the frame that is left.")
    length, wait = ms_of(said, "duration", "length"), ms_of(said, "wait", "delay")
    if length is not None:
        project = routes.set_duration(project, ident, length)
    if wait is not None:
        project = routes.set_delay(project, ident, wait)
    if "curve" in said:
        project = routes.set_base_curve(project, ident, curve_of(project, said["curve"]))
    if "scroll" in said:
        if said["scroll"] not in ("keep", "reset"):
            raise FormatError("“scroll” is keep or reset.")
        project = routes.set_scroll_on_arrival(project, ident, said["scroll"])
    if "only_if" in said:
        project = routes.set_condition(project, ident, said["only_if"])
    return project


def do_cue(project: Project, said: Said, site: Site) -> Project:
    """When and how a layer, or one of its properties, moves."""
    route = find_route(project, said["route"])
    key = cue_of(project, route, said["layer"], said.get("property", ""))
    own: dict[str, Any] = {}
    if "curve" in said:
        own["curve"] = curve_of(project, said["curve"])
    for name in ("start", "end"):
        if name in said:
            own[name] = ms_of(said, name)
    if "shortest" in said:
        own["shortest"] = bool(said["shortest"])
    project = routes.set_cue(project, route.id, key, **own)
    fields = {name: said[name] for name in ("muted", "space") if name in said}
    return change_cues(project, route.id, [key], **fields) if fields else project


def do_keyframe(project: Project, said: Said, site: Site) -> Project:
    """A value that a property passes at a moment, ms of the transition; at an end of its cue it is that end."""
    route = find_route(project, said["route"])
    key = cue_of(project, route, said["layer"], said["property"])
    when = timed(project, route.transition, *key)
    at = (numbers(said["at"], 1, 1, "at")[0] - when.start) / max(when.duration, 1e-9)
    if not 0.0 <= at <= 1.0:
        raise EditError(f"The cue goes from {when.start:g} to {when.end:g} ms: a keyframe lies in it.")
    curve = curve_of(project, said["curve"]) if "curve" in said else None
    on_path = key.prop == "position" and when.motion_path is not None
    value = tuple(numbers(said["value"], 1, 1, "value")) if on_path else key_of(key.prop, said["value"])
    return keyframes.key_or_end(project, route.id, key, at, value, curve)[0]


def do_path(project: Project, said: Said, site: Site) -> Project:
    """The path that a layer takes, as SVG path data, laid on where the layer stands; without any it goes straight."""
    route = find_route(project, said["route"])
    key = cue_of(project, route, said["layer"], "position")
    program = compile_route(project, route)
    slot = program.slot_of(key.from_id, key.to_id)
    if not said.get("d"):
        return keyframes.set_motion_path(project, route.id, key, program, slot, None)
    layer = drawn(said["d"])
    body = layer.body
    if not isinstance(body, PathBody):
        raise FormatError("The path data draw nothing.")
    points = np.array(body.subpaths[0].points, float).reshape(-1, 2)
    first, last = (keyframes.motion_path_points(program, slot, None)[k] for k in (0, -1))
    points = points - points[0] + first  # it begins where the layer stands, and ends where that arrives
    points[-1] = last
    way = motion_path_of(points, bool(said.get("rotate", False)))
    return keyframes.set_motion_path(project, route.id, key, program, slot, way)


def do_stagger(project: Project, said: Said, site: Site) -> Project:
    """The starts of several layers' cues spread by a rule."""
    route = find_route(project, said["route"])
    keys = [cue_of(project, route, name) for name in said["layers"]]
    total, step = ms_of(said, "total"), ms_of(said, "step")
    rule = Stagger(
        "",
        (),
        said.get("order", "sheet"),
        bool(said.get("reversed", False)),
        total if total is not None else step if step is not None else 40.0,
        "total" if total is not None else "step",
        seed=int(said.get("seed", 1)),
    )
    if "curve" in said:
        rule = replace(rule, curve=curve_of(project, said["curve"]))
    return order.make_stagger(project, route.id, keys, rule)[0]


def do_tie(project: Project, said: Said, site: Site) -> Project:
    """An end of a layer's cue hung on an end of another's."""
    route = find_route(project, said["route"])
    own, other = cue_of(project, route, said["layer"]), cue_of(project, route, said["to"])
    moments = said.get("at", "start"), said.get("to_at", "end")
    if any(moment not in ("start", "end") for moment in moments):
        raise FormatError("“at” and “to_at” are start or end.")
    return order.tie(project, route.id, own, other, *moments, ms_of(said, "by"))


def _pair(project: Project, said: Said, together: bool) -> Project:
    route = find_route(project, said["route"])
    left, right = ends(project, route)
    first, second = layer_of(left, said["layer"]), layer_of(right, str(said.get("with", said["layer"])))
    return routes.decide(project, route.id, first.id, second.id, together)


def do_pair(project: Project, said: Said, site: Site) -> Project:
    """Two layers are one thing; and how the content of the one becomes that of the other."""
    project = _pair(project, said, True)
    if "content" not in said:
        return project
    if said["content"] not in get_args(ContentChange):
        raise FormatError(f"“content” is one of {', '.join(get_args(ContentChange)[1:])}.")
    route = find_route(project, said["route"])
    left, right = ends(project, route)
    first, second = layer_of(left, said["layer"]), layer_of(right, str(said.get("with", said["layer"])))
    return routes.settle(project, route.id, (first.id, second.id), content=said["content"])


def do_apart(project: Project, said: Said, site: Site) -> Project:
    """Two layers are kept apart."""
    return _pair(project, said, False)


def _away(project: Project, said: Said, side: Literal["leave", "enter"]) -> Project:
    route = find_route(project, said["route"])
    if "layer" not in said:
        old = getattr(route.transition, side)
        return routes.set_all_absent(project, route.id, side, away_of(Layer("", "", "", Group()), said["pose"], old))
    key = cue_of(project, route, said["layer"])
    if key.from_id is not None and key.to_id is not None:
        raise EditError(f"{said['layer']} is in both frames: it neither leaves nor enters.")
    frame = ends(project, route)[0 if key.from_id else 1]
    layer = layer_index(frame)[key.from_id or key.to_id or ""]
    return routes.set_absent(
        project, route.id, layer.id, away_of(layer, said["pose"], away_now(project, route.id, key))
    )


def do_leave(project: Project, said: Said, site: Site) -> Project:
    """How a layer goes, or all that leave."""
    return _away(project, said, "leave")


def do_enter(project: Project, said: Said, site: Site) -> Project:
    """How a layer comes, or all that enter."""
    return _away(project, said, "enter")


def do_entrance(project: Project, said: Said, site: Site) -> Project:
    """Layers of a frame that come after it was arrived at."""
    frame = find_frame(project, said["in"])
    layers = [layer_of(frame, name) for name in said["layers"]]
    project = entrances.make_entrance(project, frame.id, [layer.id for layer in layers])
    if "when" in said:
        if said["when"] not in ("on arrival", "after loading"):
            raise FormatError("“when” is on arrival or after loading.")
        project = entrances.set_when(project, frame.id, said["when"])
    ident = entrance_id(frame.id)
    length = ms_of(said, "duration", "length")
    if length is not None:
        project = routes.set_duration(project, ident, length)
    if "curve" in said:
        project = routes.set_base_curve(project, ident, curve_of(project, said["curve"]), "enters")
    if "pose" in said:
        old = route_by_id(project, ident).transition.enter
        for layer in layers:
            project = routes.set_absent(project, ident, layer.id, away_of(layer, said["pose"], old))
    return project
