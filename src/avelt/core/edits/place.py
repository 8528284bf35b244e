"""Putting layers into other spaces without their moving on screen."""

from __future__ import annotations

import msgspec

from avelt.core.arrays import Floats, np
from avelt.core.errors import EditError
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import Flat
from avelt.core.geometry.place import local_of, with_matrix
from avelt.core.model.values import Layer
from avelt.core.words import tr

replace = msgspec.structs.replace


def space_of(flat: Flat, layer_id: str) -> Floats:
    """The transform to the frame of the space inside a group (empty id: the frame itself)."""
    return flat.world[flat.index[layer_id]] if layer_id else affine.identity()


def inside(flat: Flat, layer_id: str, parent: Floats) -> Layer:
    """The layer as it must be to look the same inside a space that has this transform to the frame."""
    i = flat.index[layer_id]
    back = affine.invert(parent)
    if back is None:
        raise EditError(tr("A group without size cannot take layers in."))
    return with_matrix(flat.layers[i], affine.multiply(back, flat.world[i]))


def pivoted(layer: Layer, pivot: tuple[float, float]) -> Layer:
    """The layer with another pivot, standing where it stood."""
    return with_matrix(replace(layer, pivot=pivot), local_of(layer))


def reboxed(layer: Layer, x: float, y: float, w: float, h: float) -> Layer:
    """The layer with another box in its own px (x, y, w, h); what it shows is shifted by the caller.

    The pivot stays where it is on screen.
    """
    matrix = affine.multiply(local_of(layer), [1.0, 0.0, 0.0, 1.0, x, y])
    px, py = layer.pivot[0] * layer.w - x, layer.pivot[1] * layer.h - y
    pivot = (px / w if w else 0.5, py / h if h else 0.5)
    return with_matrix(replace(layer, w=w, h=h, pivot=(float(pivot[0]), float(pivot[1]))), np.asarray(matrix))
