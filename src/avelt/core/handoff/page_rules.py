"""What of a project the page's player is told: frames, routes, loops, follows and expressions, as plain data."""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

import msgspec

from avelt.core.curves.named import plain as plain_curve
from avelt.core.errors import FormatError
from avelt.core.model import expressions
from avelt.core.model.curves import PlainCurve
from avelt.core.model.expressions import Call, Chain, Comparison, Expression, InputName, Joined, Not
from avelt.core.model.find import walk
from avelt.core.model.phases import Phase, Rounds, ShowBlend, Track, poses_of
from avelt.core.model.values import Follow, Frame, Layer, Loop, Path, Project, Route, Use
from avelt.core.running.orders import Orders
from avelt.core.timing.followers import clock_of
from avelt.core.timing.loops import round_duration, total_length
from avelt.core.timing.scrolling import most_scrolled

Json = dict[str, Any]


def chance_row(loop: Loop) -> list[list[float]]:
    """[[jitter, seed, by how much its clock is ahead, round, duration]]; nothing where no chance is in it."""
    if not loop.jitter:
        return []
    before = loop.start_offset - (loop.wait if loop.wait_when == "once" else 0.0)
    return [[loop.jitter, loop.seed, before, round_duration(loop), loop.duration]]


def loop_row(loop: Loop) -> list[Any]:
    """[origin, id, how long in all (0: endless), start offset, condition until which it runs, round, wait once]."""
    whole = total_length(loop)
    return [
        loop.origin,
        loop.id,
        0 if math.isinf(whole) else whole,
        loop.start_offset,
        ast(loop.until) if loop.until else 0,
        round_duration(loop),
        loop.wait if loop.wait_when == "once" else 0,
        int(loop.at_rest == "hold" and loop.direction == "one way"),
    ]


def follow_row(follow: Follow) -> list[Any]:
    """[its clock, what it follows, from, to, lag]."""
    return [clock_of(follow), _whole(follow.by, "by"), follow.start, follow.end, follow.lag]


def frame_row(project: Project, frame: Frame) -> Json:
    """A frame: its size, how far it scrolls, the names and origins of its layers, the parts that it uses."""
    uses = [
        [
            layer.origin,
            layer.body.part,
            layer.name,
            layer.body.speed,
            layer.body.offset,
            layer.body.pose,
            [[f.input, f.name, f.value, ast_value(f.expression)] for f in layer.body.feeds],
            part_key(layer),
            ast(layer.only_if) if layer.only_if else 0,
        ]
        for layer in walk(frame.layers)
        if isinstance(layer.body, Use)
    ]
    return {
        "name": frame.name,
        "w": frame.w,
        "h": frame.h,
        "most": list(most_scrolled(frame)),
        "names": {layer.id: [layer.name, layer.origin] for layer in walk(frame.layers)},
        "ways": _ways(project, frame),
        "uses": uses,
    }


def _ways(project: Project, frame: Frame) -> Json:
    """The first lines of the path layers that something is dragged along, by their ids."""
    wanted = {getattr(route.trigger, "path", "") for route in project.routes if route.leaves == frame.id}
    wanted |= {getattr(follow.by, "path", "") for follow in frame.follows}
    return {
        layer.id: list(layer.body.subpaths[0].points)
        for layer in walk(frame.layers)
        if layer.id in wanted and isinstance(layer.body, Path) and layer.body.subpaths
    }


def part_key(layer: Layer) -> str:
    """Uses that show the same of a part share its stage."""
    body = layer.body
    if not isinstance(body, Use):
        return ""
    changes = msgspec.json.encode(body.changes).decode()
    size = f"{layer.w:g}x{layer.h:g}" if body.fit == "stretch" else ""
    return f"{body.part}|{size}|{changes if body.changes else ''}"


def _whole(value: msgspec.Struct, tag: str) -> Json:
    """A trigger or an action with all its values, also those that are as usual."""
    return {tag: value.__struct_config__.tag, **{name: getattr(value, name) for name in value.__struct_fields__}}


def route_row(route: Route) -> Json:
    """A route: what starts it, what it does, and under what condition."""
    return {
        "id": route.id,
        "leaves": route.leaves,
        "arrives": route.arrives,
        "on": _whole(route.trigger, "trigger"),
        "does": _whole(route.action, "does"),
        "delay": route.delay,
        "only_if": ast(route.only_if) if route.only_if else 0,
        "restart": int(route.on_arrival == "restart"),
        "reset": int(route.scroll == "reset"),
    }


def phase_row(orders: Orders, track: Track, phase: Phase, curve: Callable[[PlainCurve], int]) -> Json:
    """A phase of a running order: what it shows, how long it lasts, what comes then. 0 stands for what never comes."""
    shows = phase.shows
    lead, one, over = orders.round_of(track.id, phase)
    end = orders.end(track.id, phase)
    return {
        "id": phase.id,
        "name": phase.name,
        "at": orders.ends(track.id, phase, orders.places(track.id)[0])[1].id,
        "poses": list(poses_of(shows)),
        "kind": str(shows.__struct_config__.tag),
        "by": ast_value(shows.by) if isinstance(shows, ShowBlend) else 0,
        "lag": shows.lag if isinstance(shows, ShowBlend) else 0,
        "length": orders.length(track.id, phase),
        "round": [lead, one, over if math.isfinite(over) else 0],
        "end": end if math.isfinite(end) else -1,
        "lasts": str(phase.lasts.__struct_config__.tag),
        "count": phase.lasts.count if isinstance(phase.lasts, Rounds) else 0,
        "loops": [loop.origin for loop in orders.loops(track.id, phase)],
        "then": [
            {
                "to": rule.to,
                "if": ast(rule.only_if) if rule.only_if else 0,
                "on": _whole(rule.on, "trigger") if rule.on is not None else None,
                "finish": rule.finish_round,
                "ms": rule.duration,
                "curve": curve(plain_curve(orders.project, rule.curve)),
            }
            for rule in phase.then
        ],
        "in": [_whole(deed, "does") for deed in phase.entering],
        "out": [_whole(deed, "does") for deed in phase.leaving],
    }


# Expressions


def ast(text: str) -> Any:
    """A condition as nested lists; one that cannot be read never holds."""
    try:
        return _tree(expressions.parse(text))
    except FormatError:
        return ["|"]


def ast_value(text: str) -> Any:
    """An expression as nested lists; 0 for none."""
    if not text:
        return 0
    try:
        return _tree(expressions.parse_value(text))
    except FormatError:
        return 0


def _tree(part: Expression) -> Any:
    if isinstance(part, InputName):
        return ["$", part.name]
    if isinstance(part, Joined):
        return ["&" if part.word == "and" else "|", *(_tree(p) for p in part.parts)]
    if isinstance(part, Not):
        return ["!", _tree(part.part)]
    if isinstance(part, Comparison):
        return [part.op, _tree(part.left), _tree(part.right)]
    if isinstance(part, Chain):
        made = _tree(part.first)
        for op, term in part.rest:
            made = [op, made, _tree(term)]
        return made
    if isinstance(part, Call):
        return [part.name, *(_tree(p) for p in part.of)]
    return part
