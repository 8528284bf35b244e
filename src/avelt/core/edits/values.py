"""One value of a layer taken over by others: along a row of the table, into all frames."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

import msgspec

from avelt.core.edits.frames import put_frame
from avelt.core.edits.layers import move_in_frame, resized
from avelt.core.edits.place import pivoted
from avelt.core.errors import EditError
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.tree import change_layers
from avelt.core.model.values import Body, Box, Group, Layer, Picture, Project, Stroke, Text
from avelt.core.words import tr

replace = msgspec.structs.replace
#: A layer of a frame: the frame's id and the layer's.
Spot = tuple[str, str]


def _own(*names: str) -> Callable[[Layer, Layer], Layer]:
    return lambda source, target: replace(target, **{name: getattr(source, name) for name in names})


def _of_body(kind: type[Body], *names: str) -> Callable[[Layer, Layer], Layer]:
    def copy(source: Layer, target: Layer) -> Layer:
        if not isinstance(source.body, kind) or not isinstance(target.body, kind):
            raise EditError(
                tr("“{target}” has no such value: it is a {kind}.", target=target.name, kind=tr(target.kind))
            )
        return replace(target, body=replace(target.body, **{name: getattr(source.body, name) for name in names}))

    return copy


def _of_stroke(*names: str) -> Callable[[Layer, Layer], Layer]:
    def copy(source: Layer, target: Layer) -> Layer:
        if source.stroke is None:
            return replace(target, stroke=None)
        own = target.stroke or Stroke(source.stroke.paint, source.stroke.width)
        return replace(target, stroke=replace(own, **{name: getattr(source.stroke, name) for name in names}))

    return copy


def _words(source: Layer, target: Layer) -> Layer:
    copied = _of_body(Text, "runs")(source, target)
    return replace(copied, w=source.w, h=source.h)


#: How each row of the value table goes from one layer to another. Place is worked out in the frame.
COPIES: Mapping[str, Callable[[Layer, Layer], Layer]] = {
    "name": _own("name"),
    "size": lambda source, target: resized(target, source.w, source.h),
    "pivot": lambda source, target: pivoted(target, source.pivot),
    "rotation": _own("rotation"),
    "rotation_x": _own("rotation_x"),
    "rotation_y": _own("rotation_y"),
    "scale": _own("scale_x", "scale_y"),
    "skew": _own("skew"),
    "corner": _of_body(Box, "radii"),
    "opacity": _own("opacity"),
    "hidden": _own("hidden"),
    "stays_put": _own("stays_put"),
    "blend": _own("blend"),
    "fill": _own("fills"),
    "stroke": _of_stroke("paint"),
    "stroke_width": _of_stroke("width"),
    "line": _of_stroke("cap", "join", "dashes", "dash_offset"),
    "trim": _of_stroke("trim_start", "trim_end", "trim_offset"),
    "shadow": _own("shadows"),
    "blur": _own("blur"),
    "back_blur": _own("back_blur"),
    "words": _words,
    "type": _of_body(Text, "size"),
    "weight": _of_body(Text, "weight"),
    "line_height": _of_body(Text, "line_height"),
    "letter_spacing": _of_body(Text, "letter_spacing"),
    "align": _of_body(Text, "align"),
    "clip": _of_body(Group, "clips"),
    "fit": _of_body(Picture, "fit"),
}


def copy_value(project: Project, source: Spot, targets: Sequence[Spot], key: str) -> Project:
    """One value of a layer given to others; layers that cannot have it are left as they are.

    ``EditError`` when none of them can have it.
    """
    frame = frame_by_id(project, source[0])
    layer = layer_index(frame)[source[1]]
    flat = flatten(frame)
    x, y = (float(v) for v in flat.bounds[flat.index[layer.id]][:2])
    done, trouble = 0, ""
    for frame_id, layer_id in targets:
        if (frame_id, layer_id) == source:
            continue
        other = frame_by_id(project, frame_id)
        if key == "position":
            there = flatten(other)
            bx, by = (float(v) for v in there.bounds[there.index[layer_id]][:2])
            project = put_frame(project, move_in_frame(other, layer_id, x - bx, y - by))
            done += 1
            continue
        try:
            made = change_layers(other, {layer_id: lambda target: COPIES[key](layer, target)})
        except EditError as error:
            trouble = error.sentence
            continue
        project = put_frame(project, made)
        done += 1
    if not done:
        raise EditError(trouble or tr("There is no other layer to take the value over."))
    return project
