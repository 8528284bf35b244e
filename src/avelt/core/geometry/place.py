"""A layer's own transform, and putting another in its place."""

from __future__ import annotations

import msgspec

from avelt.core.arrays import ArrayLike, Floats
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import parts_of
from avelt.core.model.values import Layer

_DIGITS = 9  # below this places of numbers that were worked out are noise


def local_of(layer: Layer) -> Floats:
    """The layer's transform (6,) to its parent."""
    return affine.compose(parts_of(layer))


def with_matrix(layer: Layer, matrix: ArrayLike, typed: float | None = None) -> Layer:
    """The layer under another transform to its parent.

    Its turn is the way of saying the angle that is nearest to ``typed`` degrees (as it was, unless given).
    """
    turn, scale_x, scale_y, skew = affine.decompose(matrix)
    turn += 360.0 * round(((layer.rotation if typed is None else typed) - turn) / 360.0)
    x, y = affine.place_for(matrix, layer.w, layer.h, layer.pivot)
    clean = [round(v, _DIGITS) + 0.0 for v in (x, y, turn, scale_x, scale_y, skew)]
    return msgspec.structs.replace(
        layer, x=clean[0], y=clean[1], rotation=clean[2], scale_x=clean[3], scale_y=clean[4], skew=clean[5]
    )
