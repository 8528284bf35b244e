"""Whether a project read from outside holds together: sizes, numbers, ids and references."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from itertools import pairwise
from typing import Any

import msgspec

from avelt.core.blending import colour
from avelt.core.curves.drawn import is_sound as drawn_wrong
from avelt.core.errors import FormatError
from avelt.core.model import conditions
from avelt.core.model.curves import Curve, Drawn, Drops, Handles, Hold, Named, Points, Ring, Spring, Steps
from avelt.core.model.limits import MAX_COORDINATE, MAX_DEPTH, MAX_FRAMES, MAX_LAYERS, MAX_MS, MAX_PATH_NUMBERS
from avelt.core.model.motion import Cue, Transition
from avelt.core.model.parts import refuse_circles
from avelt.core.model.properties import KEYED
from avelt.core.model.triggers import STAYS, ShowOver, Trigger, trigger_row
from avelt.core.model.values import (
    Away,
    Body,
    Box,
    Frame,
    Group,
    Input,
    Layer,
    Loop,
    Oval,
    Paint,
    Part,
    Path,
    Pattern,
    Picture,
    Project,
    Radial,
    Route,
    Solid,
    Text,
    Use,
)
from avelt.core.timing.schedule import circle

replace = msgspec.structs.replace


def check(project: Project) -> None:
    """Raise ``FormatError`` with the place of the first thing that is wrong."""
    if len(project.frames) > MAX_FRAMES:
        raise FormatError(f"There are more than {MAX_FRAMES} frames.", "frames")
    assets = {asset.id for asset in project.assets}
    curves = {curve.id for curve in project.curves}
    _unique([curve.id for curve in project.curves], "curves")
    _unique([asset.id for asset in project.assets], "assets")
    _unique([frame.id for frame in project.frames], "frames")
    _unique([route.id for route in project.routes], "routes")
    for k, named in enumerate(project.curves):
        curve_is_sound(named.curve, curves, f"curves[{k}]")
    owner: dict[str, str] = {}
    for k, frame in enumerate(project.frames):
        _frame(frame, f"frames[{k}]", assets, curves, owner)
    _unique([entry.id for entry in project.inputs], "inputs")
    _unique([entry.name for entry in project.inputs], "inputs")
    for k, entry in enumerate(project.inputs):
        _input(entry, f"inputs[{k}]")
    _unique([part.id for part in project.parts], "parts")
    _unique([part.name for part in project.parts], "parts")
    for k, part in enumerate(project.parts):
        _part(part, f"parts[{k}]", assets, curves, owner)
    refuse_circles(project)
    frames = {frame.id for frame in project.frames}
    for k, route in enumerate(project.routes):
        _route(route, f"routes[{k}]", frames, curves)
    for k, swatch in enumerate(project.swatches):
        _colour(swatch, f"swatches[{k}]")
    number_is_sound(project.grid, "grid", 10_000, 0.0)
    if project.first and project.first not in frames:
        raise FormatError(f"The first frame {project.first!r} is not there.", "first")


def _part(part: Part, place: str, assets: set[str], curves: set[str], owner: dict[str, str]) -> None:
    size_is_sound(part.w, part.h, place)
    if not part.poses:
        raise FormatError("A part has at least one pose.", f"{place}.poses")
    _unique([pose.id for pose in part.poses], f"{place}.poses")
    for k, pose in enumerate(part.poses):
        _frame(pose, f"{place}.poses[{k}]", assets, curves, owner)
    poses = {pose.id for pose in part.poses}
    _unique([route.id for route in part.routes], f"{place}.routes")
    for k, route in enumerate(part.routes):
        _route(route, f"{place}.routes[{k}]", poses, curves)
    _unique([entry.id for entry in part.inputs], f"{place}.inputs")
    _unique([entry.name for entry in part.inputs], f"{place}.inputs")
    for k, entry in enumerate(part.inputs):
        _input(entry, f"{place}.inputs[{k}]")
    if part.first and part.first not in poses:
        raise FormatError(f"The first pose {part.first!r} is not there.", f"{place}.first")


def _unique(ids: list[str], place: str) -> None:
    seen: set[str] = set()
    for k, ident in enumerate(ids):
        if not ident or ident in seen:
            raise FormatError(f"The id {ident!r} is there twice." if ident else "An id is empty.", f"{place}[{k}].id")
        seen.add(ident)


def layers_are_sound(layers: tuple[Layer, ...], place: str, assets: set[str]) -> None:
    """Raise ``FormatError`` unless a tree of layers can be used; ``assets`` are the pictures that are there."""
    _tree(layers, place, assets)


def number_is_sound(value: float, place: str, most: float = MAX_COORDINATE, least: float | None = None) -> None:
    """Raise ``FormatError`` unless the number is finite and inside its limits."""
    if not math.isfinite(value) or abs(value) > most or (least is not None and value < least):
        raise FormatError(f"{value:g} is not a number that can be used here.", place)


def size_is_sound(w: float, h: float, place: str) -> None:
    """Raise ``FormatError`` unless a frame can be so wide and high."""
    number_is_sound(w, f"{place}.w", 100_000, 1e-3)
    number_is_sound(h, f"{place}.h", 100_000, 1e-3)


def _frame(frame: Frame, place: str, assets: set[str], curves: set[str], owner: dict[str, str]) -> None:
    size_is_sound(frame.w, frame.h, place)
    _colour(frame.background, f"{place}.background")
    number_is_sound(frame.perspective, f"{place}.perspective", least=0.0)
    for value in (*frame.guides_x, *frame.guides_y):
        number_is_sound(value, f"{place}.guides")
    layers: dict[str, Layer] = {}
    for layer, where in _tree(frame.layers, f"{place}.layers", assets):
        if not layer.id or layer.id in owner:
            raise FormatError(f"The layer id {layer.id!r} is there twice.", f"{where}.id")
        owner[layer.id] = frame.id
        layers[layer.id] = layer
    if frame.source is not None:
        _tree(frame.source.base, f"{place}.source.base", assets)
    _unique([loop.id for loop in frame.loops], f"{place}.loops")
    if frame.entrance is not None:
        for k, ident in enumerate(frame.entrance.layers):
            if owner.get(ident) != frame.id:
                raise FormatError(f"The layer {ident!r} is not in the frame.", f"{place}.entrance.layers[{k}]")
        _transition(frame.entrance.transition, f"{place}.entrance.transition", curves)
    for k, loop in enumerate(frame.loops):
        _loop(loop, f"{place}.loops[{k}]", layers, curves, assets)


def _tree(layers: tuple[Layer, ...], place: str, assets: set[str]) -> list[tuple[Layer, str]]:
    """All layers of a tree with their places, each of them sound."""
    found: list[tuple[Layer, str]] = []
    for layer, where in _layers(layers, place, 1):
        if len(found) >= MAX_LAYERS:
            raise FormatError(f"There are more than {MAX_LAYERS} layers in one frame.", place)
        _layer(layer, where, assets)
        found.append((layer, where))
    return found


def _layers(layers: tuple[Layer, ...], place: str, depth: int) -> Iterator[tuple[Layer, str]]:
    if depth > MAX_DEPTH:
        raise FormatError(f"Groups lie more than {MAX_DEPTH} deep in each other.", place)
    for k, layer in enumerate(layers):
        yield layer, f"{place}[{k}]"
        yield from _layers(layer.children, f"{place}[{k}].body.children", depth + 1)


def _layer(layer: Layer, place: str, assets: set[str]) -> None:
    for name in (
        "x",
        "y",
        "w",
        "h",
        "rotation",
        "rotation_x",
        "rotation_y",
        "scale_x",
        "scale_y",
        "skew",
        "blur",
        "back_blur",
    ):
        least = 0.0 if name in ("w", "h", "blur", "back_blur") else None
        number_is_sound(getattr(layer, name), f"{place}.{name}", least=least)
    for value in layer.pivot:
        number_is_sound(value, f"{place}.pivot", 1e6)
    number_is_sound(layer.opacity, f"{place}.opacity", 1.0, 0.0)
    for k, paint in enumerate(layer.fills):
        _paint(paint, f"{place}.fills[{k}]", assets)
    if layer.stroke is not None:
        number_is_sound(layer.stroke.width, f"{place}.stroke.width", least=0.0)
        number_is_sound(layer.stroke.miter, f"{place}.stroke.miter", least=0.0)
        for name in ("trim_start", "trim_end", "trim_offset"):
            number_is_sound(getattr(layer.stroke, name), f"{place}.stroke.{name}", 1e6)
        _paint(layer.stroke.paint, f"{place}.stroke.paint", assets)
        for value in layer.stroke.dashes:
            number_is_sound(value, f"{place}.stroke.dashes", least=0.0)
    for k, shadow in enumerate(layer.shadows):
        _colour(shadow.color, f"{place}.shadows[{k}].color")
        for value in (shadow.x, shadow.y, shadow.blur):
            number_is_sound(value, f"{place}.shadows[{k}]", 1e5)
        number_is_sound(shadow.blur, f"{place}.shadows[{k}].blur", least=0.0)
    BODIES[type(layer.body)](layer.body, f"{place}.body", assets)


def _box(body: Box, place: str, assets: set[str]) -> None:
    for value in body.radii:
        number_is_sound(value, f"{place}.radii")


def _oval(body: Oval, place: str, assets: set[str]) -> None:
    """An oval has no numbers of its own."""


def _path(body: Path, place: str, assets: set[str]) -> None:
    total = 0
    for k, sub in enumerate(body.subpaths):
        total += len(sub.points)
        if len(sub.points) < 2 or (len(sub.points) - 2) % 6:
            raise FormatError("A subpath needs 2 + 6 n numbers.", f"{place}.subpaths[{k}]")
        for value in sub.points:
            number_is_sound(value, f"{place}.subpaths[{k}]")
    if total > MAX_PATH_NUMBERS:
        raise FormatError("The path has too many numbers.", place)


def _text(body: Text, place: str, assets: set[str]) -> None:
    number_is_sound(body.size, f"{place}.size", 10_000, 0.0)
    number_is_sound(body.line_height, f"{place}.line_height", 1_000, 0.0)
    number_is_sound(body.letter_spacing, f"{place}.letter_spacing", 10_000)
    for run in body.runs:
        if run.size is not None:
            number_is_sound(run.size, f"{place}.runs", 10_000, 0.0)
        if run.fill is not None:
            _paint(run.fill, f"{place}.runs", assets)


def _picture(body: Picture, place: str, assets: set[str]) -> None:
    if body.asset not in assets:
        raise FormatError(f"The picture {body.asset[:12]!r} is not in the file.", f"{place}.asset")


def _group(body: Group, place: str, assets: set[str]) -> None:
    if body.mask and body.mask not in {child.id for child in body.children}:
        raise FormatError("The mask is not one of the group's layers.", f"{place}.mask")


def _use(body: Use, place: str, assets: set[str]) -> None:
    """A part that is not there is no error: the use is kept, and shown as trouble until another is chosen."""
    number_is_sound(body.speed, f"{place}.speed", 1000.0, 0.0)
    number_is_sound(body.offset, f"{place}.offset", MAX_MS)


#: What must hold for each kind of layer, by the type of its body; the layers in a group are checked by the walk.
BODIES: dict[type[Body], Callable[[Any, str, set[str]], None]] = {
    Box: _box,
    Oval: _oval,
    Path: _path,
    Text: _text,
    Picture: _picture,
    Group: _group,
    Use: _use,
}


def _paint(paint: Paint, place: str, assets: set[str]) -> None:
    if isinstance(paint, Solid):
        _colour(paint.color, place)
        return
    for value in paint.matrix:
        number_is_sound(value, f"{place}.matrix", 1e9)
    if isinstance(paint, Pattern):
        for name in ("w", "h"):
            number_is_sound(getattr(paint, name), f"{place}.{name}", least=1e-6)
        _tree(paint.layers, f"{place}.layers", assets)
        return
    if not paint.stops:
        raise FormatError("A gradient needs colours.", place)
    for k, stop in enumerate(paint.stops):
        number_is_sound(stop.at, f"{place}.stops[{k}].at", 1.0, 0.0)
        _colour(stop.color, f"{place}.stops[{k}].color")
    if isinstance(paint, Radial):
        for value in (*paint.focus, paint.focus_radius):
            number_is_sound(value, f"{place}.focus", 1e6)


def _colour(text: str, place: str) -> None:
    try:
        colour.parse(text)
    except FormatError as error:
        raise FormatError(error.sentence, place) from None


def curve_is_sound(curve: Curve, named: set[str], place: str) -> None:
    """Raise ``FormatError`` unless the curve can be evaluated; ``named`` are the curves that are there."""
    if isinstance(curve, Named):
        if curve.id not in named:
            raise FormatError(f"The named curve {curve.id!r} is not there.", place)
    elif isinstance(curve, Handles):
        for value in (curve.x1, curve.x2):
            number_is_sound(value, place, 1.0, 0.0)
        for value in (curve.y1, curve.y2):
            number_is_sound(value, place, 1e6)
    elif isinstance(curve, Points):
        if not curve.points:
            raise FormatError("A curve of points needs points.", place)
        last = -math.inf
        for at, value in curve.points:
            number_is_sound(at, place, 1e6)
            number_is_sound(value, place, 1e6)
            if at < last:
                raise FormatError("The points of a curve must go forward.", place)
            last = at
    elif isinstance(curve, Steps):
        number_is_sound(curve.count, f"{place}.count", 10_000, 2 if curve.jump == "none" else 1)
    elif isinstance(curve, Drawn):
        for at, value in curve.points:
            number_is_sound(at, place, 1.0, 0.0)
            number_is_sound(value, place, 1e6)
        if wrong := drawn_wrong(curve.points):
            raise FormatError(wrong, place)
    elif isinstance(curve, Drops):
        number_is_sound(curve.count, f"{place}.count", 12, 0)
        number_is_sound(curve.keep, f"{place}.keep", 0.95, 0.0)
    elif isinstance(curve, Ring):
        number_is_sound(curve.swings, f"{place}.swings", 40, 0.0)
        number_is_sound(curve.decay, f"{place}.decay", 60, 0.0)
    elif isinstance(curve, Hold):
        number_is_sound(curve.at, f"{place}.at", 1.0, 0.0)
    elif isinstance(curve, Spring):
        number_is_sound(curve.bounce, f"{place}.bounce", 1.0)
        number_is_sound(curve.speed, f"{place}.speed", 100.0)


def _loop(loop: Loop, place: str, layers: dict[str, Layer], curves: set[str], assets: set[str]) -> None:
    if loop.layer not in layers:
        raise FormatError(f"The loop's layer {loop.layer!r} is not in the frame.", f"{place}.layer")
    number_is_sound(loop.duration, f"{place}.duration", MAX_MS, 1.0)
    number_is_sound(loop.wait, f"{place}.wait", MAX_MS, 0.0)
    number_is_sound(loop.start_offset, f"{place}.start_offset", MAX_MS)
    number_is_sound(loop.rounds, f"{place}.rounds", 1e9, 0)
    for name in ("shift_x", "shift_y", "rotation", "scale_x", "scale_y", "opacity"):
        number_is_sound(getattr(loop.offset, name), f"{place}.offset.{name}")
    changed = loop.changes.of(layers[loop.layer])
    if isinstance(loop.changes.body, Group):
        raise FormatError("A loop does not change what lies in a group.", f"{place}.changes.body")
    _layer(changed, f"{place}.changes", assets)
    curve_is_sound(loop.curve, curves, f"{place}.curve")


def _route(route: Route, place: str, frames: set[str], curves: set[str]) -> None:
    for name in ("leaves", "arrives"):
        if getattr(route, name) not in frames:
            raise FormatError(f"The frame {getattr(route, name)!r} is not there.", f"{place}.{name}")
    _trigger(route.trigger, f"{place}.trigger")
    _action(route, f"{place}.action")
    number_is_sound(route.delay, f"{place}.wait", MAX_MS, 0.0)
    if len(route.only_if) > conditions.MAX_LENGTH:
        raise FormatError("The condition is too long.", f"{place}.only_if")
    _transition(route.transition, f"{place}.transition", curves)
    _unique([entry.id for entry in route.tryouts], f"{place}.tryouts")
    for k, tried in enumerate(route.tryouts):
        _transition(tried.transition, f"{place}.tryouts[{k}].transition", curves)


def _transition(transition: Transition, place: str, curves: set[str]) -> None:
    if transition.duration is not None:
        number_is_sound(transition.duration, f"{place}.duration", MAX_MS, 0.0)
    for name in ("curve", "leave_curve", "enter_curve"):
        curve: Curve | None = getattr(transition, name)
        if curve is not None:
            curve_is_sound(curve, curves, f"{place}.{name}")
    for k, cue in enumerate(transition.cues):
        where = f"{place}.cues[{k}]"
        for time in (cue.start, cue.end):
            if time is not None:
                number_is_sound(time, where, MAX_MS, 0.0)
        if cue.curve is not None:
            curve_is_sound(cue.curve, curves, f"{where}.curve")
        keys_are_sound(cue, where, curves)
    for k, entry in enumerate(transition.absents):
        _away(entry.pose, f"{place}.absents[{k}].pose")
    _away(transition.leave, f"{place}.leave")
    _away(transition.enter, f"{place}.enter")
    for k, settled in enumerate(transition.settled):
        for share in (settled.swap_at, settled.order_at, settled.shift):
            if share is not None:
                number_is_sound(share, f"{place}.settled[{k}]", 1.0, 0.0)
    _hung(transition, place, curves)


def keys_are_sound(cue: Cue, place: str, curves: set[str] = frozenset()) -> None:  # type: ignore[assignment]
    """Raise ``FormatError`` unless the keyframes and the motion path of a cue can be used."""
    if cue.motion_path is not None:
        if len(cue.motion_path.points) % 3 != 2:
            raise FormatError("A motion path needs 2 + 3 n points.", f"{place}.motion_path")
        for point in cue.motion_path.points:
            for value in point:
                number_is_sound(value, f"{place}.motion_path")
        pace = cue.motion_path.pace
        if pace and (len(pace) != len(cue.motion_path.points) // 3 or not all(0.0 < v < 1.0 for v in pace)):
            raise FormatError("A pace is a share between 0 and 1 for each node.", f"{place}.motion_path.pace")
        if any(later < sooner for sooner, later in pairwise(pace)):
            raise FormatError("The shares of a pace go up.", f"{place}.motion_path.pace")
    count = 1 if cue.motion_path is not None and cue.prop == "position" else len(KEYED.get(cue.prop, ()))
    if cue.keyframes and not count:
        raise FormatError("This cue cannot have keyframes.", f"{place}.keyframes")
    last = 0.0
    for k, key in enumerate(cue.keyframes):
        number_is_sound(key.at, f"{place}.keyframes[{k}].at", 1.0, 0.0)
        if key.at < last:
            raise FormatError("Keyframes must be in the order of their time.", f"{place}.keyframes[{k}].at")
        last = key.at
        if len(key.value) != count:
            raise FormatError(
                f"This keyframe needs {count} number{'s' if count != 1 else ''}.", f"{place}.keyframes[{k}].value"
            )
        for value in key.value:
            number_is_sound(value, f"{place}.keyframes[{k}].value")
        if key.curve is not None:
            curve_is_sound(key.curve, curves, f"{place}.keyframes[{k}].curve")


def _hung(transition: Transition, place: str, curves: set[str]) -> None:
    made = replace(transition, ties=())
    for k, tie in enumerate(transition.ties):
        number_is_sound(tie.by, f"{place}.ties[{k}].by", MAX_MS)
        if circle(made, tie):
            raise FormatError("Ties go in a circle.", f"{place}.ties[{k}]")
        made = replace(made, ties=(*made.ties, tie))
    _unique([entry.id for entry in transition.staggers], f"{place}.staggers")
    for k, entry in enumerate(transition.staggers):
        where = f"{place}.staggers[{k}]"
        number_is_sound(entry.ms, f"{where}.ms", MAX_MS, 0.0)
        number_is_sound(entry.seed, f"{where}.seed", 2**31, 0)
        for value in entry.point:
            number_is_sound(value, f"{where}.point")
        curve_is_sound(entry.curve, curves, f"{where}.curve")


def _away(pose: Away, place: str) -> None:
    for name in ("shift_x", "shift_y", "rotation", "scale_x", "scale_y", "opacity"):
        number_is_sound(getattr(pose, name), f"{place}.{name}")
    away_is_sound(pose, place)


def away_is_sound(pose: Away, place: str) -> None:
    """Raise ``FormatError`` unless what only ways to leave and enter have is in its limits."""
    number_is_sound(pose.blur, f"{place}.blur", 1e5, 0.0)
    for share in pose.cut:
        number_is_sound(share, f"{place}.cut", 1.0, 0.0)


def _trigger(trigger: Trigger, place: str) -> None:
    """Layers, inputs and motions may be gone: that is shown as trouble. Numbers must be in their limits."""
    for field in trigger_row(trigger).fields:
        value, where = getattr(trigger, field.name), f"{place}.{field.name}"
        if field.kind == "ms":
            number_is_sound(value, where, MAX_MS, 0.0)
        elif field.kind == "px":
            number_is_sound(value, where)
        elif field.kind == "share":
            number_is_sound(value, where, 100.0)
        elif field.kind == "value" and isinstance(value, float):
            number_is_sound(value, where, 1e15)


def _action(route: Route, place: str) -> None:
    action = route.action
    if route.leaves == route.arrives and not isinstance(action, STAYS):
        raise FormatError("A route to its own frame can only set an input or send a signal.", place)
    if isinstance(action, ShowOver):
        number_is_sound(action.x, f"{place}.x")
        number_is_sound(action.y, f"{place}.y")
        if action.scrim:
            _colour(action.scrim, f"{place}.scrim")


def _input(entry: Input, place: str) -> None:
    if not conditions.may_be_name(entry.name):
        raise FormatError(f"{entry.name!r} cannot be an input's name.", f"{place}.name")
    if isinstance(entry.start, float):
        number_is_sound(entry.start, f"{place}.start", 1e15)
