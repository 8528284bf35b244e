"""Layers on the way from one place to another: cut, copied, pasted, between projects too."""

from __future__ import annotations

from collections.abc import Sequence

import msgspec

from avelt.core.edits.frames import put_frame
from avelt.core.edits.place import inside
from avelt.core.edits.structure import fresh_copy, topmost_chosen
from avelt.core.errors import FormatError
from avelt.core.formats.pictures_in import read_picture
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import frame_by_id, layer_index, walk
from avelt.core.model.limits import MAX_PROJECT_JSON_BYTES
from avelt.core.model.value import Value
from avelt.core.model.values import Asset, Layer, Pattern, Picture, Project
from avelt.core.words import tr

replace = msgspec.structs.replace
MIME = "application/x-avelt-layers+json"


class Clip(Value, frozen=True):
    """Layers in the space of their frame, with the pictures they use."""

    layers: tuple[Layer, ...]
    assets: tuple[Asset, ...] = ()


def pictures_in(layers: Sequence[Layer]) -> set[str]:
    """The ids of all pictures that layers use, those of their patterns too."""
    found: set[str] = set()
    for layer in walk(tuple(layers)):
        if isinstance(layer.body, Picture):
            found.add(layer.body.asset)
        paints = [*layer.fills, *([layer.stroke.paint] if layer.stroke else [])]
        for paint in paints:
            if isinstance(paint, Pattern):
                found |= pictures_in(paint.layers)
    return found


def copied(project: Project, frame_id: str, ids: Sequence[str]) -> Clip:
    """The chosen layers as a clip."""
    frame = frame_by_id(project, frame_id)
    flat = flatten(frame)
    layers = tuple(inside(flat, ident, affine.identity()) for ident in topmost_chosen(frame, ids))
    used = pictures_in(layers)
    return Clip(layers, tuple(asset for asset in project.assets if asset.id in used))


def to_bytes(clip: Clip) -> bytes:
    """The clip as JSON."""
    return msgspec.json.encode(clip)


def from_bytes(data: bytes) -> Clip:
    """A clip from anywhere, checked; ``FormatError`` for anything else."""
    from avelt.core.formats.checked import layers_are_sound

    if len(data) > MAX_PROJECT_JSON_BYTES:
        raise FormatError(tr("What was copied is too large."))
    try:
        clip = msgspec.json.decode(data, type=Clip)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise FormatError(tr("What was copied cannot be read: {rstrip}.", rstrip=str(error).rstrip("."))) from None
    assets = []
    for asset in clip.assets:
        found = read_picture(asset.data, "copied picture")
        if found.id != asset.id:
            raise FormatError(tr("A copied picture is damaged."))
        assets.append(found)
    layers_are_sound(clip.layers, "copied", {asset.id for asset in assets})
    return Clip(clip.layers, tuple(assets))


def pasted(
    project: Project, frame_id: str, clip: Clip, dx: float = 0.0, dy: float = 0.0
) -> tuple[Project, tuple[str, ...]]:
    """The clip's layers on top of a frame, shifted by px; their new ids too.

    They keep their origins where the frame has none of them yet, so that what is pasted into another frame is the
    same thing there.
    """
    frame = frame_by_id(project, frame_id)
    taken = {layer.origin for layer in walk(frame.layers)}
    known = {layer.origin for other in project.frames for layer in layer_index(other).values()}
    next_id, made = project.next_id, []
    for layer in clip.layers:
        origins = {entry.origin for entry in walk((layer,))}
        copy, next_id = fresh_copy(layer, next_id, keep_origins=bool(origins <= known) and not origins & taken)
        made.append(replace(copy, x=copy.x + dx, y=copy.y + dy))
    have = {asset.id for asset in project.assets}
    assets = (*project.assets, *(asset for asset in clip.assets if asset.id not in have))
    frame = replace(frame, layers=(*frame.layers, *made))
    project = replace(put_frame(project, frame), assets=assets, next_id=next_id)
    return project, tuple(layer.id for layer in made)
