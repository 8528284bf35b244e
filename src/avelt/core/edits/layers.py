"""Edits of layers: values, moving and resizing."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Literal, get_args

import msgspec

from avelt.core.arrays import np
from avelt.core.edits.frames import put_frame
from avelt.core.edits.paints import read_paint
from avelt.core.edits.place import pivoted
from avelt.core.errors import EditError, FormatError
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import flatten
from avelt.core.geometry.resize import resized as resized
from avelt.core.model.find import frame_by_id
from avelt.core.model.limits import MAX_COORDINATE
from avelt.core.model.tree import change_layers
from avelt.core.model.values import (
    Blend,
    Box,
    Cap,
    Conic,
    Frame,
    Group,
    Join,
    Layer,
    Linear,
    Paint,
    Pattern,
    Picture,
    Project,
    Radial,
    Run,
    Shadow,
    Solid,
    Stroke,
    Text,
    Use,
)
from avelt.core.words import tr

replace = msgspec.structs.replace
ALWAYS_SEEN = "always"  # how the table says that no condition hides a layer


def edit_layer(project: Project, frame_id: str, layer_id: str, change: Callable[[Layer], Layer]) -> Project:
    """The project with one layer changed."""
    frame = frame_by_id(project, frame_id)
    new = change_layers(frame, {layer_id: change})
    return project if new is frame else put_frame(project, new)


def move_in_frame(frame: Frame, layer_id: str, dx: float, dy: float) -> Frame:
    """The layer moved by px of the frame, whatever it lies in."""
    flat = flatten(frame)
    i = flat.index[layer_id]
    up = int(flat.parent[i])
    if up >= 0:
        back = affine.invert(flat.world[up])
        if back is None:
            raise EditError(tr("The layer lies in a group without size and cannot be moved."))
        back = np.array([*back[:4], 0.0, 0.0])
        dx, dy = (float(v) for v in affine.apply(back, (dx, dy)))
    return change_layers(frame, {layer_id: lambda layer: replace(layer, x=layer.x + dx, y=layer.y + dy)})


_PAINTS = (Solid, Linear, Radial, Conic, Pattern)


def _set_fill(layer: Layer, value: object) -> Layer:
    """The topmost fill; what lies under it stays."""
    paint = value if isinstance(value, _PAINTS) else read_paint(str(value), layer.w, layer.h, _top(layer))
    if paint is None:
        return replace(layer, fills=layer.fills[:-1])
    return replace(layer, fills=(*layer.fills[:-1], paint))


def _top(layer: Layer) -> Paint | None:
    return layer.fills[-1] if layer.fills else None


def _set_stroke(layer: Layer, value: object) -> Layer:
    before = layer.stroke.paint if layer.stroke else None
    paint = value if isinstance(value, _PAINTS) else read_paint(str(value), layer.w, layer.h, before)
    if paint is None:
        return replace(layer, stroke=None)
    return replace(layer, stroke=replace(layer.stroke or Stroke(paint, 1.0), paint=paint))


def _set_stroke_width(layer: Layer, value: object) -> Layer:
    width = max(0.0, float(str(value)))
    if layer.stroke is None:
        return replace(layer, stroke=Stroke(Solid("#22302f"), width)) if width > 0 else layer
    return replace(layer, stroke=replace(layer.stroke, width=width))


def _stroke_part(layer: Layer) -> Stroke:
    if layer.stroke is None:
        raise EditError(tr("“{layer}” has no stroke: give it a stroke colour first.", layer=layer.name))
    return layer.stroke


def _set_line(layer: Layer, value: object) -> Layer:
    """Caps, joins and dashes in words: ``round, bevel, 4 2``."""
    stroke = _stroke_part(layer)
    caps: dict[str, Cap] = {"butt": "butt", "round": "round", "square": "square"}
    joins: dict[str, Join] = {"miter": "miter", "bevel": "bevel"}
    made = replace(stroke, dashes=())
    for word in str(value).replace(",", " ").split():
        if word in caps:
            made = replace(made, cap=caps[word], join="round" if word == "round" else made.join)
        elif word in joins:
            made = replace(made, join=joins[word])
        elif word not in ("solid", "plain"):
            made = replace(made, dashes=(*made.dashes, max(0.0, _plain_number(word))))
    if made.dashes and sum(made.dashes) <= 0:
        made = replace(made, dashes=())
    return replace(layer, stroke=made)


def _set_trim(layer: Layer, value: object) -> Layer:
    """Start and end in per cent, and by how much both are shifted: ``0 60`` or ``0 60 25``."""
    stroke = _stroke_part(layer)
    words = str(value).replace("%", " ").replace(",", " ").replace("to", " ").split()
    if not 2 <= len(words) <= 3:
        raise FormatError(tr("A trim is its start and its end in per cent."))
    shares = [_plain_number(word) / 100 for word in words]
    start, end = (min(1.0, max(0.0, share)) for share in shares[:2])
    offset = shares[2] if len(shares) > 2 else 0.0
    return replace(layer, stroke=replace(stroke, trim_start=start, trim_end=end, trim_offset=offset))


def _plain_number(word: str) -> float:
    try:
        value = float(word)
    except ValueError:
        raise FormatError(tr("“{word}” is not a number.", word=word)) from None
    if not abs(value) <= MAX_COORDINATE:
        raise FormatError(tr("“{word}” is not a usable number.", word=word))
    return value


def shadow_text(shadow: Shadow) -> str:
    """A shadow as it can be typed again."""
    numbers = " ".join(f"{v:.6g}" for v in (shadow.x, shadow.y, shadow.blur))
    return f"{'inset ' if shadow.inner else ''}{numbers} {shadow.color}"


def read_shadows(text: str) -> tuple[Shadow, ...]:
    """``0 4 12 #0004`` and the like, several parted by commas; ``none`` for none."""
    from avelt.core.formats.css_shadow import css_shadow

    if text.strip().lower() in ("none", ""):
        return ()
    parts: list[str] = [""]
    depth = 0
    for letter in text:
        depth += (letter == "(") - (letter == ")")
        if letter == "," and depth == 0:
            parts.append("")
        else:
            parts[-1] += letter
    return tuple(css_shadow(part) for part in parts)


def _set_shadow(layer: Layer, value: object) -> Layer:
    return replace(layer, shadows=read_shadows(str(value)))


def _set_blend(layer: Layer, value: object) -> Layer:
    modes = get_args(Blend)
    text = str(value).strip().lower().replace(" ", "-")
    if text not in modes:
        raise FormatError(tr("“{value}” is not a blend mode; known are {modes}.", value=value, modes=", ".join(modes)))
    return replace(layer, blend=text)


def _set_pivot(layer: Layer, value: object) -> Layer:
    words = str(value).replace("%", " ").replace(",", " ").split()
    if len(words) != 2:
        raise FormatError(tr("A pivot is two shares of the box, such as 50, 100."))
    x, y = (_plain_number(word) / 100 for word in words)
    return pivoted(layer, (x, y))


def _text_part(name: str, low: float, high: float) -> Callable[[Layer, object], Layer]:
    def change(layer: Layer, value: object) -> Layer:
        if not isinstance(layer.body, Text):
            raise EditError(tr("A {kind} has no words.", kind=tr(layer.kind)))
        number = min(high, max(low, float(str(value))))
        lines = layer.body.words.count("\n") + 1
        body = replace(layer.body, **{name: int(number) if name == "weight" else number})
        return replace(layer, body=body, h=body.size * body.line_height * lines)

    return change


def _set_words(layer: Layer, value: object) -> Layer:
    """Other words in the look of the first run; the box follows where its fonts are known (``fit_text``)."""
    if not isinstance(layer.body, Text):
        raise EditError(tr("A {kind} has no words.", kind=tr(layer.kind)))
    first = layer.body.runs[0] if layer.body.runs else Run("")
    text = str(value).replace("\\n", "\n")
    body = replace(layer.body, runs=(replace(first, text=text),))
    share = max(1, len(text)) / max(1, len(layer.body.words))
    lines = text.count("\n") + 1
    return replace(layer, body=body, w=layer.w * share, h=body.size * body.line_height * lines)


def fit_text(layer: Layer, measure: Callable[[Text], float]) -> Layer:
    """A text's box as wide as its words; the side that it is aligned to stays."""
    if not isinstance(layer.body, Text):
        return layer
    lines = layer.body.words.count("\n") + 1
    w, h = measure(layer.body), layer.body.size * layer.body.line_height * lines
    keep = {"left": 0.0, "center": 0.5, "right": 1.0}[layer.body.align]
    return replace(layer, x=layer.x + (layer.w - w) * keep, w=w, h=h)


def _set_align(layer: Layer, value: object) -> Layer:
    words: dict[str, Literal["left", "center", "right"]] = {
        "left": "left",
        "center": "center",
        "centre": "center",
        "middle": "center",
        "right": "right",
    }
    if not isinstance(layer.body, Text) or str(value).strip().lower() not in words:
        raise FormatError(tr("A text is aligned left, centre or right."))
    return replace(layer, body=replace(layer.body, align=words[str(value).strip().lower()]))


_YES, _NO = frozenset(("yes", "true", "on", "1")), frozenset(("no", "false", "off", "0"))


def _yes(value: object) -> bool:
    word = str(value).strip().lower()
    if word not in _YES | _NO:
        raise FormatError(tr("“{value}” is neither yes nor no.", value=value))
    return word in _YES


def _set_clip(layer: Layer, value: object) -> Layer:
    if not isinstance(layer.body, Group):
        raise EditError(tr("A {kind} holds nothing that it could clip.", kind=tr(layer.kind)))
    return replace(layer, body=replace(layer.body, clips=_yes(value)))


def _set_fit(layer: Layer, value: object) -> Layer:
    fits: dict[str, Literal["stretch", "inside", "cover"]] = {
        "stretch": "stretch",
        "inside": "inside",
        "cover": "cover",
    }
    word = str(value).strip().lower()
    if not isinstance(layer.body, Picture) or word not in fits:
        raise FormatError(tr("A picture fits by stretch, inside or cover."))
    return replace(layer, body=replace(layer.body, fit=fits[word]))


def _number(name: str, low: float = -MAX_COORDINATE, high: float = MAX_COORDINATE) -> Callable[[Layer, object], Layer]:
    def change(layer: Layer, value: object) -> Layer:
        return replace(layer, **{name: min(high, max(low, float(str(value))))})

    return change


def _typed_rotation(layer: Layer, value: object) -> Layer:
    """A rotation that somebody says counts as typed: 720 is two turns."""
    return msgspec.structs.replace(_number("rotation", -1e6, 1e6)(layer, value), any_turn=False)


def _set_corner(layer: Layer, value: object) -> Layer:
    if not isinstance(layer.body, Box):
        raise EditError(tr("A {kind} has no corners to round.", kind=tr(layer.kind)))
    words = str(value).replace(",", " ").split()
    radii = [max(0.0, _plain_number(word)) for word in words]
    if len(radii) == 1:
        radii *= 4
    if len(radii) != 4:
        raise FormatError(tr("Corners are one radius or four, from the top left clockwise."))
    return replace(layer, body=Box((radii[0], radii[1], radii[2], radii[3])))


def _set_type(layer: Layer, value: object) -> Layer:
    if not isinstance(layer.body, Text):
        raise EditError(tr("A {kind} has no type size.", kind=tr(layer.kind)))
    size = max(0.1, float(str(value)))
    factor = size / layer.body.size if layer.body.size else 1.0
    return replace(layer, body=replace(layer.body, size=size), w=layer.w * factor, h=layer.h * factor)


def _set_name(layer: Layer, value: object) -> Layer:
    name = str(value).strip()
    return replace(layer, name=name) if name else layer


def _set_only_if(layer: Layer, value: object) -> Layer:
    """The condition under which it is seen; always when it is empty."""
    from avelt.core.model.expressions import parse

    text = str(value).strip()
    text = "" if text == ALWAYS_SEEN else text
    parse(text)
    return replace(layer, only_if=text)


def _set_part_fit(layer: Layer, value: object) -> Layer:
    fits: dict[str, Literal["scale", "stretch", "keep"]] = {"scale": "scale", "stretch": "stretch", "keep": "keep"}
    if not isinstance(layer.body, Use):
        raise EditError(tr("A {kind} is no use of a part.", kind=tr(layer.kind)))
    if str(value) not in fits:
        raise FormatError(tr("A part fits by scale, stretch or keep."))
    return replace(layer, body=replace(layer.body, fit=fits[str(value)]))


#: What can be set on a layer by name. Places are those in its parent; the table adds what is needed.
SETTERS: Mapping[str, Callable[[Layer, object], Layer]] = {
    "name": _set_name,
    "x": _number("x"),
    "y": _number("y"),
    "w": lambda layer, value: resized(layer, float(str(value)), layer.h),
    "h": lambda layer, value: resized(layer, layer.w, float(str(value))),
    "rotation": _typed_rotation,
    "scale_x": _number("scale_x", -1000, 1000),
    "scale_y": _number("scale_y", -1000, 1000),
    "skew": _number("skew", -89, 89),
    "opacity": _number("opacity", 0.0, 1.0),
    "corner": _set_corner,
    "fill": _set_fill,
    "rotation_x": _number("rotation_x", -1e6, 1e6),
    "rotation_y": _number("rotation_y", -1e6, 1e6),
    "pivot": _set_pivot,
    "blend": _set_blend,
    "blur": _number("blur", 0.0, 1000.0),
    "back_blur": _number("back_blur", 0.0, 1000.0),
    "shadow": _set_shadow,
    "stroke": _set_stroke,
    "stroke_width": _set_stroke_width,
    "line": _set_line,
    "trim": _set_trim,
    "type": _set_type,
    "weight": _text_part("weight", 1, 1000),
    "line_height": _text_part("line_height", 0.1, 20),
    "letter_spacing": _text_part("letter_spacing", -1000, 1000),
    "align": _set_align,
    "words": _set_words,
    "hidden": lambda layer, value: replace(layer, hidden=_yes(value)),
    "clip": _set_clip,
    "fit": _set_fit,
    "part_fit": _set_part_fit,
    "only_if": _set_only_if,
}


def set_value(project: Project, frame_id: str, layer_id: str, name: str, value: object) -> Project:
    """One value of one layer; ``EditError`` or ``FormatError`` when it has none of that kind."""
    return edit_layer(project, frame_id, layer_id, lambda layer: SETTERS[name](layer, value))
