"""Whether a project read from outside holds together: sizes, numbers, ids and references."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from typing import Any

import msgspec

from avelt.core.errors import FormatError
from avelt.core.formats.checked_motion import curve_is_sound, tracks_are_sound, transition_is_sound, trigger_is_sound
from avelt.core.formats.sound import colour_is_sound, number_is_sound, size_is_sound, unique
from avelt.core.model import expressions
from avelt.core.model.limits import MAX_DEPTH, MAX_FRAMES, MAX_LAYERS, MAX_MS, MAX_PATH_NUMBERS, MAX_PRESET_BYTES
from avelt.core.model.links import MOST_LINKS, Link
from avelt.core.model.parts import all_links, refuse_circles
from avelt.core.model.tape_sound import tape_is_sound
from avelt.core.model.triggers import MOST_LAG, STAYS, ShowOver
from avelt.core.model.values import (
    Body,
    Box,
    Follow,
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
from avelt.core.words import tr

replace = msgspec.structs.replace
_LONGEST_REASON = 2_000  # letters
#: What a picture may be called: deliveries have files of these names.
_FILE_NAME, _FILE_ENDING = re.compile(r"[A-Za-z0-9_-]{1,100}"), re.compile(r"[A-Za-z0-9]{1,8}")


def check(project: Project) -> None:
    """Raise ``FormatError`` with the place of the first thing that is wrong."""
    if len(project.frames) > MAX_FRAMES:
        raise FormatError(tr("There are more than {max_frames} frames.", max_frames=MAX_FRAMES), "frames")
    assets = {asset.id for asset in project.assets}
    for k, asset in enumerate(project.assets):
        if not _FILE_NAME.fullmatch(asset.id) or not _FILE_ENDING.fullmatch(asset.ext):
            raise FormatError(tr("The picture's id or ending is no name of a file."), f"assets[{k}]")
    curves = {curve.id for curve in project.curves}
    unique([curve.id for curve in project.curves], "curves")
    unique([asset.id for asset in project.assets], "assets")
    unique([frame.id for frame in project.frames], "frames")
    unique([route.id for route in project.routes], "routes")
    for k, named in enumerate(project.curves):
        curve_is_sound(named.curve, curves, f"curves[{k}]")
    owner: dict[str, str] = {}
    for k, frame in enumerate(project.frames):
        _frame(frame, f"frames[{k}]", assets, curves, owner)
    unique([entry.id for entry in project.inputs], "inputs")
    unique([entry.name for entry in project.inputs], "inputs")
    for k, entry in enumerate(project.inputs):
        _input(entry, f"inputs[{k}]")
    unique([part.id for part in project.parts], "parts")
    unique([part.name for part in project.parts], "parts")
    for k, part in enumerate(project.parts):
        _part(part, f"parts[{k}]", assets, curves, owner)
    refuse_circles(project)
    frames = {frame.id for frame in project.frames}
    for k, route in enumerate(project.routes):
        _route(route, f"routes[{k}]", frames, curves)
    tracks_are_sound(project.tracks, "tracks", frames, curves)
    unique([tape.name for tape in project.tapes], "tapes")
    for k, tape in enumerate(project.tapes):
        try:
            tape_is_sound(tape)
        except FormatError as error:
            raise error.at(f"tapes[{k}]") from None
    unique([entry.name for entry in project.presets], "presets")
    unique([link.id for link in all_links(project)], "links")
    _links(project)
    if len(project.muted) > MOST_LINKS or any(len(entry.reason) > _LONGEST_REASON for entry in project.muted):
        raise FormatError(tr("There is more muted than can be."), "muted")
    for k, swatch in enumerate(project.swatches):
        colour_is_sound(swatch, f"swatches[{k}]")
    number_is_sound(project.grid, "grid", 10_000, 0.0)
    if project.first and project.first not in frames:
        raise FormatError(tr("The first frame {first!r} is not there.", first=project.first), "first")


def _links(project: Project) -> None:
    """Linked presets are of a size that can be, and what links to them says numbers that can be."""
    if len(all_links(project)) > MOST_LINKS:
        raise FormatError(tr("There are more than {most_links} links.", most_links=MOST_LINKS), "links")
    for k, entry in enumerate(project.presets):
        if not entry.name.strip() or len(entry.document) > MAX_PRESET_BYTES:
            raise FormatError(
                tr("A preset that is carried needs a name, and is not larger than one may be."), f"presets[{k}]"
            )
    _these_links(project.links, "links")
    for n, part in enumerate(project.parts):
        _these_links(part.links, f"parts[{n}].links")


def _these_links(links: tuple[Link, ...], place: str) -> None:
    for k, link in enumerate(links):
        for value in (link.stretch, link.strength, link.start or 0.0, link.step):
            number_is_sound(value, f"{place}[{k}]", MAX_MS, -MAX_MS)


def _part(part: Part, place: str, assets: set[str], curves: set[str], owner: dict[str, str]) -> None:
    size_is_sound(part.w, part.h, place)
    if not part.poses:
        raise FormatError(tr("A part has at least one pose."), f"{place}.poses")
    unique([pose.id for pose in part.poses], f"{place}.poses")
    for k, pose in enumerate(part.poses):
        _frame(pose, f"{place}.poses[{k}]", assets, curves, owner)
    poses = {pose.id for pose in part.poses}
    unique([route.id for route in part.routes], f"{place}.routes")
    for k, route in enumerate(part.routes):
        _route(route, f"{place}.routes[{k}]", poses, curves)
    unique([entry.id for entry in part.inputs], f"{place}.inputs")
    unique([entry.name for entry in part.inputs], f"{place}.inputs")
    for k, entry in enumerate(part.inputs):
        _input(entry, f"{place}.inputs[{k}]")
    if part.first and part.first not in poses:
        raise FormatError(tr("The first pose {first!r} is not there.", first=part.first), f"{place}.first")
    tracks_are_sound(part.tracks, f"{place}.tracks", poses, curves)


def layers_are_sound(layers: tuple[Layer, ...], place: str, assets: set[str]) -> None:
    """Raise ``FormatError`` unless a tree of layers can be used; ``assets`` are the pictures that are there."""
    _tree(layers, place, assets)


def frame_is_sound(frame: Frame, place: str, assets: set[str]) -> None:
    """Raise ``FormatError`` unless a frame that belongs to no project yet can be used."""
    _frame(frame, place, assets, set(), {})


def _frame(frame: Frame, place: str, assets: set[str], curves: set[str], owner: dict[str, str]) -> None:
    size_is_sound(frame.w, frame.h, place)
    colour_is_sound(frame.background, f"{place}.background")
    number_is_sound(frame.perspective, f"{place}.perspective", least=0.0)
    for value in (*frame.guides_x, *frame.guides_y):
        number_is_sound(value, f"{place}.guides")
    layers: dict[str, Layer] = {}
    for layer, where in _tree(frame.layers, f"{place}.layers", assets):
        if not layer.id or layer.id in owner:
            raise FormatError(tr("The layer id {id!r} is there twice.", id=layer.id), f"{where}.id")
        owner[layer.id] = frame.id
        layers[layer.id] = layer
    if frame.source is not None:
        _tree(frame.source.base, f"{place}.source.base", assets)
    unique([loop.id for loop in frame.loops], f"{place}.loops")
    if frame.entrance is not None:
        for k, ident in enumerate(frame.entrance.layers):
            if owner.get(ident) != frame.id:
                raise FormatError(
                    tr("The layer {ident!r} is not in the frame.", ident=ident), f"{place}.entrance.layers[{k}]"
                )
        transition_is_sound(frame.entrance.transition, f"{place}.entrance.transition", curves)
    for k, follow in enumerate(frame.follows):
        _follow(follow, f"{place}.follows[{k}]", layers, curves, assets)
    unique([follow.id for follow in frame.follows], f"{place}.follows")
    for value in frame.content:
        number_is_sound(value, f"{place}.content", 100_000.0, 0.0)
    for k, loop in enumerate(frame.loops):
        _loop(loop, f"{place}.loops[{k}]", layers, curves, assets)


def _tree(layers: tuple[Layer, ...], place: str, assets: set[str]) -> list[tuple[Layer, str]]:
    """All layers of a tree with their places, each of them sound."""
    found: list[tuple[Layer, str]] = []
    for layer, where in _layers(layers, place, 1):
        if len(found) >= MAX_LAYERS:
            raise FormatError(tr("There are more than {max_layers} layers in one frame.", max_layers=MAX_LAYERS), place)
        _layer(layer, where, assets)
        found.append((layer, where))
    return found


def _layers(layers: tuple[Layer, ...], place: str, depth: int) -> Iterator[tuple[Layer, str]]:
    if depth > MAX_DEPTH:
        raise FormatError(tr("Groups lie more than {max_depth} deep in each other.", max_depth=MAX_DEPTH), place)
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
    if len(layer.only_if) > expressions.MAX_LENGTH:
        raise FormatError(tr("The condition is too long."), f"{place}.only_if")
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
        colour_is_sound(shadow.color, f"{place}.shadows[{k}].color")
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
            raise FormatError(tr("A subpath needs 2 + 6 n numbers."), f"{place}.subpaths[{k}]")
        for value in sub.points:
            number_is_sound(value, f"{place}.subpaths[{k}]")
    if total > MAX_PATH_NUMBERS:
        raise FormatError(tr("The path has too many numbers."), place)


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
        raise FormatError(tr("The picture {asset!r} is not in the file.", asset=body.asset[:12]), f"{place}.asset")


def _group(body: Group, place: str, assets: set[str]) -> None:
    if body.mask and body.mask not in {child.id for child in body.children}:
        raise FormatError(tr("The mask is not one of the group's layers."), f"{place}.mask")


def _use(body: Use, place: str, assets: set[str]) -> None:
    """A part that is not there is no error: the use is kept, and shown as trouble until another is chosen."""
    number_is_sound(body.speed, f"{place}.speed", 1000.0, 0.0)
    number_is_sound(body.offset, f"{place}.offset", MAX_MS)
    for k, change in enumerate(body.changes):
        if change.asset is not None and change.asset not in assets:
            raise FormatError(
                tr("The picture {asset!r} is not in the file.", asset=change.asset[:12]), f"{place}.changes[{k}].asset"
            )
        for n, paint in enumerate(change.fills or ()):
            _paint(paint, f"{place}.changes[{k}].fills[{n}]", assets)
    for k, feed in enumerate(body.feeds):
        if len(feed.expression) > expressions.MAX_LENGTH:
            raise FormatError(tr("The expression is too long."), f"{place}.feeds[{k}].expression")


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
        colour_is_sound(paint.color, place)
        return
    for value in paint.matrix:
        number_is_sound(value, f"{place}.matrix", 1e9)
    if isinstance(paint, Pattern):
        for name in ("w", "h"):
            number_is_sound(getattr(paint, name), f"{place}.{name}", least=1e-6)
        _tree(paint.layers, f"{place}.layers", assets)
        return
    if not paint.stops:
        raise FormatError(tr("A gradient needs colours."), place)
    for k, stop in enumerate(paint.stops):
        number_is_sound(stop.at, f"{place}.stops[{k}].at", 1.0, 0.0)
        colour_is_sound(stop.color, f"{place}.stops[{k}].color")
    if isinstance(paint, Radial):
        for value in (*paint.focus, paint.focus_radius):
            number_is_sound(value, f"{place}.focus", 1e6)


def _follow(follow: Follow, place: str, layers: dict[str, Layer], curves: set[str], assets: set[str]) -> None:
    for name in ("start", "end"):
        number_is_sound(getattr(follow, name), f"{place}.{name}")
    number_is_sound(follow.lag, f"{place}.lag", MOST_LAG, 0.0)
    _second_pose(follow, place, layers, curves, assets)


def _second_pose(
    moves: Loop | Follow, place: str, layers: dict[str, Layer], curves: set[str], assets: set[str]
) -> None:
    """What moves a layer to a second pose of it."""
    if moves.layer not in layers:
        raise FormatError(tr("Its layer {layer!r} is not in the frame.", layer=moves.layer), f"{place}.layer")
    for name in ("shift_x", "shift_y", "rotation", "scale_x", "scale_y", "opacity"):
        number_is_sound(getattr(moves.offset, name), f"{place}.offset.{name}")
    if isinstance(moves.changes.body, Group):
        raise FormatError(tr("A second pose does not change what lies in a group."), f"{place}.changes.body")
    _layer(moves.changes.of(layers[moves.layer]), f"{place}.changes", assets)
    curve_is_sound(moves.curve, curves, f"{place}.curve")


def _loop(loop: Loop, place: str, layers: dict[str, Layer], curves: set[str], assets: set[str]) -> None:
    _second_pose(loop, place, layers, curves, assets)
    number_is_sound(loop.duration, f"{place}.duration", MAX_MS, 1.0)
    number_is_sound(loop.wait, f"{place}.wait", MAX_MS, 0.0)
    number_is_sound(loop.start_offset, f"{place}.start_offset", MAX_MS)
    number_is_sound(loop.rounds, f"{place}.rounds", 1e9, 0)
    number_is_sound(loop.jitter, f"{place}.jitter", 1.0, 0.0)
    number_is_sound(loop.seed, f"{place}.seed", 2**31, 0)
    if len(loop.until) > expressions.MAX_LENGTH:
        raise FormatError(tr("The condition is too long."), f"{place}.until")
    if len(loop.path) % 3:
        raise FormatError(tr("A path needs 3 n points."), f"{place}.path")
    for point in loop.path:
        for value in point:
            number_is_sound(value, f"{place}.path")
    last = 0.0
    for k, key in enumerate(loop.keyframes):
        number_is_sound(key.at, f"{place}.keyframes[{k}].at", 1.0, 0.0)
        number_is_sound(key.far, f"{place}.keyframes[{k}].far", 1e6)
        if key.at < last:
            raise FormatError(tr("Keyframes must be in the order of their time."), f"{place}.keyframes[{k}].at")
        last = key.at
        if key.curve is not None:
            curve_is_sound(key.curve, curves, f"{place}.keyframes[{k}].curve")


def _route(route: Route, place: str, frames: set[str], curves: set[str]) -> None:
    for name in ("leaves", "arrives"):
        if getattr(route, name) not in frames:
            raise FormatError(tr("The frame {route!r} is not there.", route=getattr(route, name)), f"{place}.{name}")
    trigger_is_sound(route.trigger, f"{place}.trigger")
    _action(route, f"{place}.action")
    number_is_sound(route.delay, f"{place}.wait", MAX_MS, 0.0)
    if len(route.only_if) > expressions.MAX_LENGTH:
        raise FormatError(tr("The condition is too long."), f"{place}.only_if")
    transition_is_sound(route.transition, f"{place}.transition", curves)
    unique([entry.id for entry in route.tryouts], f"{place}.tryouts")
    for k, tried in enumerate(route.tryouts):
        transition_is_sound(tried.transition, f"{place}.tryouts[{k}].transition", curves)


def _action(route: Route, place: str) -> None:
    action = route.action
    if route.leaves == route.arrives and not isinstance(action, STAYS):
        raise FormatError(tr("A route to its own frame can only set an input or send a signal."), place)
    if isinstance(action, ShowOver):
        number_is_sound(action.x, f"{place}.x")
        number_is_sound(action.y, f"{place}.y")
        if action.scrim:
            colour_is_sound(action.scrim, f"{place}.scrim")


def _input(entry: Input, place: str) -> None:
    if not expressions.may_be_name(entry.name):
        raise FormatError(tr("{entry!r} cannot be an input's name.", entry=entry.name), f"{place}.name")
    if isinstance(entry.start, float):
        number_is_sound(entry.start, f"{place}.start", 1e15)
