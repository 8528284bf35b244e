"""New layers, and the settings of frames and of the project that belong to drawing."""

from __future__ import annotations

from collections import Counter

import msgspec

from avelt.core.blending import colour
from avelt.core.edits.frames import free_name, put_frame
from avelt.core.edits.place import space_of
from avelt.core.edits.structure import children_of, with_children
from avelt.core.errors import EditError
from avelt.core.geometry import affine
from avelt.core.geometry.bezier import bounds_of, line_to
from avelt.core.geometry.flatten import flatten
from avelt.core.geometry.place import with_matrix
from avelt.core.model.find import frame_by_id, walk
from avelt.core.model.kinds import kind_of
from avelt.core.model.limits import MAX_COORDINATE
from avelt.core.model.values import (
    Asset,
    Body,
    Box,
    Frame,
    Layer,
    Oval,
    Path,
    Picture,
    Project,
    Run,
    Solid,
    Stroke,
    Subpath,
    Text,
)
from avelt.core.words import tr

replace = msgspec.structs.replace
FILL = Solid("#8fb6b0")
INK = "#22302f"
TYPE_SIZE = 18.0
Points = list[tuple[float, float]]


def add_layer(project: Project, frame_id: str, layer: Layer, parent: str = "") -> tuple[Project, str]:
    """A layer (its numbers in the frame's space) on top of a frame or in one of its groups, with a new id."""
    frame = frame_by_id(project, frame_id)
    ident = f"L{project.next_id}"
    names = [entry.name for entry in walk(frame.layers)]
    made = replace(layer, id=ident, origin=ident, name=free_name(names, layer.name or layer.kind.capitalize()))
    if parent:
        flat = flatten(frame)
        back = affine.invert(space_of(flat, parent))
        if back is None:
            raise EditError(tr("A group without size cannot take layers in."))
        made = with_matrix(made, affine.multiply(back, [1.0, 0.0, 0.0, 1.0, made.x, made.y]))
    frame = with_children(frame, parent, (*children_of(frame, parent), made))
    return replace(put_frame(project, frame), next_id=project.next_id + 1), ident


def _new(body: Body, x: float, y: float, w: float, h: float, name: str) -> Layer:
    return Layer("", "", name, body, x, y, w, h)


def new_box(x: float, y: float, w: float, h: float) -> Layer:
    """A box in a quiet colour."""
    return replace(_new(Box(), x, y, w, h, "Box"), fills=(FILL,))


def new_oval(x: float, y: float, w: float, h: float) -> Layer:
    """An oval in a quiet colour."""
    return replace(_new(Oval(), x, y, w, h, "Oval"), fills=(FILL,))


def new_line(x0: float, y0: float, x1: float, y1: float) -> Layer:
    """A straight line with a stroke."""
    return new_path([(x0, y0), *line_to((x0, y0), (x1, y1))], False, "Line")


def new_path(points: Points, closed: bool, name: str = "Path") -> Layer:
    """A path through points (start, then two handles and an end for each cubic); closed ones are filled."""
    import numpy as np

    array = np.array(points, float)
    x, y, w, h = bounds_of([array])
    body = Path((Subpath(tuple((array - (x, y)).ravel().tolist()), closed),))
    layer = _new(body, x, y, w, h, name)
    return replace(layer, fills=(FILL,)) if closed else replace(layer, stroke=Stroke(Solid(INK), 2.0, "round", "round"))


def new_text(x: float, y: float, words: str, width: float) -> Layer:
    """A text of one run; ``width`` is what the words take."""
    body = Text((Run(words),), "Hanken Grotesk, sans-serif", TYPE_SIZE)
    height = TYPE_SIZE * body.line_height * (words.count("\n") + 1)
    short = " ".join(words.split())
    name = f"Text '{short if len(short) <= 40 else short[:39] + '…'}'"
    return replace(_new(body, x, y, width, height, name), fills=(Solid(INK),))


def add_picture(project: Project, frame_id: str, asset: Asset, name: str, x: float, y: float) -> tuple[Project, str]:
    """A picture in its own size, made smaller where it is larger than the frame."""
    frame = frame_by_id(project, frame_id)
    factor = min(1.0, frame.w / max(1, asset.w), frame.h / max(1, asset.h))
    layer = _new(Picture(asset.id), x, y, asset.w * factor, asset.h * factor, name)
    if all(known.id != asset.id for known in project.assets):
        project = replace(project, assets=(*project.assets, asset))
    return add_layer(project, frame_id, layer)


# Frames and the project


def new_frame(project: Project, name: str, w: float, h: float) -> tuple[Project, str]:
    """An empty frame behind the others, and its id."""
    ident = f"F{project.next_id}"
    frame = Frame(ident, free_name([f.name for f in project.frames], name), max(1.0, w), max(1.0, h))
    first = project.first or ident
    frames = (*project.frames, frame)
    return replace(project, frames=frames, first=first, next_id=project.next_id + 1), ident


def set_frame_size(project: Project, frame_id: str, w: float, h: float) -> Project:
    """Another size; the layers stay where they are."""
    if not (1.0 <= w <= 100_000 and 1.0 <= h <= 100_000):
        raise EditError(tr("A frame is 1 to 100 000 px wide and high."))
    return put_frame(project, replace(frame_by_id(project, frame_id), w=w, h=h))


def set_background(project: Project, frame_id: str, text: str) -> Project:
    """Another background colour."""
    return put_frame(project, replace(frame_by_id(project, frame_id), background=colour.to_text(colour.parse(text))))


def set_perspective(project: Project, frame_id: str, distance: float) -> Project:
    """Another distance of the eye, px; 0 is very far away."""
    distance = min(MAX_COORDINATE, max(0.0, distance))
    return put_frame(project, replace(frame_by_id(project, frame_id), perspective=distance))


def set_frame_clips(project: Project, frame_id: str, clips: bool) -> Project:
    """Whether what lies outside of the frame is cut off."""
    return put_frame(project, replace(frame_by_id(project, frame_id), clips=clips))


def add_swatch(project: Project, text: str) -> Project:
    """A colour among the project's swatches, once."""
    tone = colour.to_text(colour.parse(text))
    return project if tone in project.swatches else replace(project, swatches=(*project.swatches, tone))


def remove_swatch(project: Project, text: str) -> Project:
    """Without that swatch."""
    return replace(project, swatches=tuple(tone for tone in project.swatches if tone != text))


def used_colours(project: Project, most: int = 24) -> tuple[str, ...]:
    """The colours that the project's layers are painted with, the most used first."""
    counts: Counter[str] = Counter()
    for frame in project.frames:
        counts[colour.to_text(colour.parse(frame.background))] += 1
        for layer in walk(frame.layers):
            paints = [*layer.fills, *([layer.stroke.paint] if layer.stroke else [])]
            for paint in paints:
                if isinstance(paint, Solid) and not kind_of(layer).holds:
                    counts[colour.to_text(colour.parse(paint.color))] += 1
    return tuple(text for text, _ in counts.most_common(most))
