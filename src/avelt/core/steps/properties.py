"""Properties of layers in steps: their values as numbers, lists or the text that the value table takes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import msgspec

from avelt.core.blending import colour
from avelt.core.edits.layers import SETTERS
from avelt.core.errors import FormatError
from avelt.core.model.expressions import parse
from avelt.core.model.motion import Away
from avelt.core.model.properties import KEYED
from avelt.core.model.values import Layer, LayerChanges, Loop, Path, Pose
from avelt.core.steps.drawing import outlined

replace = msgspec.structs.replace
Setter = Callable[[Layer, object], Layer]


def numbers(value: object, low: int, high: int, what: str) -> list[float]:
    """A number or a list of ``low`` to ``high`` numbers."""
    found: list[Any] = value if isinstance(value, list) else [value]
    if not low <= len(found) <= high or any(isinstance(v, bool) or not isinstance(v, int | float) for v in found):
        count = str(low) if low == high else f"{low} to {high}"
        raise FormatError(f"{what} takes {count} number{'s' if high > 1 else ''}, not {_short(value)}.")
    return [float(v) for v in found]


def _short(value: object) -> str:
    return msgspec.json.encode(value).decode()[:60]


def _each(*names: str, least: int | None = None) -> Setter:
    """Numbers for several values of a layer; one alone is for all of them where fewer may be said."""

    def change(layer: Layer, value: object) -> Layer:
        found = numbers(value, least or len(names), len(names), names[0])
        found = found * len(names) if len(found) == 1 else found
        for name, number in zip(names, found, strict=True):
            layer = SETTERS[name](layer, number)
        return layer

    return change


def _text(name: str) -> Setter:
    def change(layer: Layer, value: object) -> Layer:
        if value is None:
            value = "none"
        if not isinstance(value, str):
            raise FormatError(f"{name} takes text, not {_short(value)}.")
        return SETTERS[name](layer, value)

    return change


def _joined(name: str, factor: float, low: int, high: int) -> Setter:
    """Numbers as the text that a setter reads, or that text."""

    def change(layer: Layer, value: object) -> Layer:
        if isinstance(value, str):
            return SETTERS[name](layer, value)
        found = numbers(value, low, high, name)
        return SETTERS[name](layer, ", ".join(f"{number * factor:.12g}" for number in found))

    return change


def _flag(name: str) -> Setter:
    def change(layer: Layer, value: object) -> Layer:
        if not isinstance(value, bool):
            raise FormatError(f"{name} is true or false, not {_short(value)}.")
        return SETTERS[name](layer, "yes" if value else "no")

    return change


def _condition(layer: Layer, value: object) -> Layer:
    if not isinstance(value, str):
        raise FormatError(f"only_if takes a condition, not {_short(value)}.")
    parse(value)
    return replace(layer, only_if=value)


def _outline(layer: Layer, value: object) -> Layer:
    if not isinstance(value, str):
        raise FormatError(f"d takes SVG path data, not {_short(value)}.")
    if not isinstance(layer.body, Path):
        raise FormatError(f"{layer.name} is no path: its outline cannot be drawn.")
    return outlined(layer, value)


#: Everything of a layer that steps can set, by its name there.
PROPERTIES: dict[str, Setter] = {
    "name": _text("name"),
    "position": _each("x", "y"),
    "size": _each("w", "h"),
    "rotation": _each("rotation"),
    "rotation_x": _each("rotation_x"),
    "rotation_y": _each("rotation_y"),
    "scale": _each("scale_x", "scale_y", least=1),
    "skew": _each("skew"),
    "pivot": _joined("pivot", 100.0, 2, 2),
    "opacity": _each("opacity"),
    "radii": _joined("corner", 1.0, 1, 4),
    "fill": _text("fill"),
    "stroke": _text("stroke"),
    "stroke_width": _each("stroke_width"),
    "dashes": _joined("line", 1.0, 0, 32),
    "trim": _joined("trim", 100.0, 2, 3),
    "shadow": _text("shadow"),
    "blur": _each("blur"),
    "back_blur": _each("back_blur"),
    "blend": _text("blend"),
    "text": _text("words"),
    "font_size": _each("type"),
    "letter_spacing": _each("letter_spacing"),
    "line_height": _each("line_height"),
    "weight": _each("weight"),
    "align": _text("align"),
    "hidden": _flag("hidden"),
    "only_if": _condition,
    "d": _outline,
}


def changed(layer: Layer, name: str, value: object) -> Layer:
    """The layer with one property set."""
    try:
        return PROPERTIES[name](layer, value)
    except (ValueError, TypeError) as error:
        raise FormatError(f"{name} cannot be {_short(value)}: {error}.") from None


#: What in a pose is a shift from the layer; every other value is the pose's own.
_SHIFTS = ("position", "rotation")


def pose_of(layer: Layer, said: dict[str, object]) -> tuple[Pose, LayerChanges]:
    """A second pose of a layer: position and rotation are shifts from it, every other value the pose's own."""
    dx, dy = numbers(said["position"], 2, 2, "position") if "position" in said else (0.0, 0.0)
    turn = numbers(said["rotation"], 1, 1, "rotation")[0] if "rotation" in said else 0.0
    made = layer
    for name, value in said.items():
        if name not in _SHIFTS:
            made = changed(made, name, value)
    dx, dy = dx + made.x - layer.x, dy + made.y - layer.y  # another outline may begin at another place
    pose = Pose(
        dx,
        dy,
        turn,
        _ratio(made.scale_x, layer.scale_x),
        _ratio(made.scale_y, layer.scale_y),
        _ratio(made.opacity, layer.opacity),
    )
    names = LayerChanges.__struct_fields__
    own = {name: getattr(made, name) for name in names if getattr(made, name) != getattr(layer, name)}
    return pose, LayerChanges(**own)


def away_of(layer: Layer, said: dict[str, object], old: Away) -> Away:
    """How a layer is where it is absent: position and rotation are shifts, the rest the pose's own."""
    known = {"position", "rotation", "scale", "opacity", "blur"}
    for name in said:
        if name not in known:
            raise FormatError(f"A way to leave and enter has no {name!r}; it has {', '.join(sorted(known))}.")
    if "position" in said:
        dx, dy = numbers(said["position"], 2, 2, "position")
        old = replace(old, shift_x=dx, shift_y=dy, edge="")
    if "rotation" in said:
        old = replace(old, rotation=numbers(said["rotation"], 1, 1, "rotation")[0])
    if "scale" in said:
        x, *more = numbers(said["scale"], 1, 2, "scale")
        y = more[0] if more else x
        old = replace(old, scale_x=_ratio(x, layer.scale_x), scale_y=_ratio(y, layer.scale_y))
    if "opacity" in said:
        share = min(1.0, max(0.0, numbers(said["opacity"], 1, 1, "opacity")[0]))
        old = replace(old, opacity=min(1.0, _ratio(share, layer.opacity)))
    if "blur" in said:
        old = replace(old, blur=max(0.0, numbers(said["blur"], 1, 1, "blur")[0] - layer.blur))
    return old


def _ratio(number: float, of: float) -> float:
    return number / of if of else number


def key_of(prop: str, value: object) -> tuple[float, ...]:
    """The numbers of a keyframe of a cue's property."""
    if prop == "fill":
        if not isinstance(value, str):
            raise FormatError(f"A keyframe of a fill takes a colour, not {_short(value)}.")
        return tuple(float(v) for v in colour.parse(value))
    count = len(KEYED.get(prop, ()))
    if not count:
        raise FormatError(f"{prop or 'A layer as a whole'} can have no keyframes.")
    found = numbers(value, 1, count, prop)
    if len(found) == 1 and prop in ("scale", "corner", "size"):
        found *= count
    if len(found) < count and prop in ("blur", "trim", "type"):
        raise FormatError(f"A keyframe of {prop} takes {count} numbers: {', '.join(KEYED[prop])}.")
    if len(found) != count:
        raise FormatError(f"A keyframe of {prop} takes {count} numbers.")
    return tuple(found)


def in_second_pose(loop: Loop, layer: Layer, said: dict[str, object]) -> Loop:
    """A loop with another second pose."""
    offset, changes = pose_of(layer, said)
    return replace(loop, offset=offset, changes=changes)
