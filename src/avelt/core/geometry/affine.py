"""Affine transforms of the plane as six numbers (a, b, c, d, e, f): x' = a x + c y + e, y' = b x + d y + f.

The functions broadcast over leading axes; the last axis has the six numbers. The order and meaning are
those of ``matrix()`` in CSS Transforms Level 1.
"""

from __future__ import annotations

from functools import cache

from avelt.core.arrays import ArrayLike, Floats, np


@cache
def identity() -> Floats:
    """The transform (6,) that changes nothing; always the same array."""
    return np.array([1.0, 0.0, 0.0, 1.0, 0.0, 0.0])


def multiply(outer: ArrayLike, inner: ArrayLike) -> Floats:
    """The transform that does ``inner`` first, then ``outer``.

    >>> multiply([2, 0, 0, 2, 0, 0], [1, 0, 0, 1, 5, 0]).tolist()
    [2.0, 0.0, 0.0, 2.0, 10.0, 0.0]
    """
    m, n = np.asarray(outer, float), np.asarray(inner, float)
    out = np.empty(np.broadcast_shapes(m.shape, n.shape))
    out[..., 0] = m[..., 0] * n[..., 0] + m[..., 2] * n[..., 1]
    out[..., 1] = m[..., 1] * n[..., 0] + m[..., 3] * n[..., 1]
    out[..., 2] = m[..., 0] * n[..., 2] + m[..., 2] * n[..., 3]
    out[..., 3] = m[..., 1] * n[..., 2] + m[..., 3] * n[..., 3]
    out[..., 4] = m[..., 0] * n[..., 4] + m[..., 2] * n[..., 5] + m[..., 4]
    out[..., 5] = m[..., 1] * n[..., 4] + m[..., 3] * n[..., 5] + m[..., 5]
    return out


def invert(matrix: ArrayLike) -> Floats | None:
    """The inverse of one transform; ``None`` when it flattens the plane."""
    a, b, c, d, e, f = (float(v) for v in np.asarray(matrix, float))
    det = a * d - b * c
    if abs(det) < 1e-14 or not np.isfinite(det):
        return None
    return np.array([d, -b, -c, a, c * f - d * e, b * e - a * f]) / det


def apply(matrix: ArrayLike, points: ArrayLike) -> Floats:
    """Points (..., 2) moved by one transform."""
    m, p = np.asarray(matrix, float), np.asarray(points, float)
    return np.stack(
        (
            m[..., 0] * p[..., 0] + m[..., 2] * p[..., 1] + m[..., 4],
            m[..., 1] * p[..., 0] + m[..., 3] * p[..., 1] + m[..., 5],
        ),
        axis=-1,
    )


def compose(parts: ArrayLike) -> Floats:
    """The transform of layers from (..., 10): x, y, w, h, pivot x, pivot y, turn, scale x, scale y, skew.

    About the pivot (a fraction of the box): scale, then skew along x, then turn; then the place.
    """
    p = np.asarray(parts, float)
    x, y, w, h, pivot_x, pivot_y, turn, scale_x, scale_y, skew = np.moveaxis(p, -1, 0)
    turn = np.deg2rad(turn)
    cos, sin, tan = np.cos(turn), np.sin(turn), np.tan(np.deg2rad(skew))
    out = np.empty((*p.shape[:-1], 6))
    out[..., 0] = cos * scale_x
    out[..., 1] = sin * scale_x
    out[..., 2] = (cos * tan - sin) * scale_y
    out[..., 3] = (sin * tan + cos) * scale_y
    px, py = pivot_x * w, pivot_y * h
    out[..., 4] = x + px - out[..., 0] * px - out[..., 2] * py
    out[..., 5] = y + py - out[..., 1] * px - out[..., 3] * py
    return out


def decompose(matrix: ArrayLike) -> tuple[float, float, float, float]:
    """(turn, scale x, scale y, skew) of one transform, such that ``compose`` gives it back.

    The 2D decomposition of CSS Transforms Level 1 (turn, then skew along x, then scale). Of a mirroring transform the
    axis that it mirrors gets the negative scale, so that it mirrors in place and is not taken for half a turn. Of a
    flat one (no area) only the first column that is not zero composes back.

    >>> decompose((-1.0, 0.0, 0.0, 1.0, 0.0, 0.0))
    (0.0, -1.0, 1.0, 0.0)
    """
    a, b, c, d = (float(v) for v in np.asarray(matrix, float)[:4])
    scale_x = float(np.hypot(a, b))
    if a * d - b * c < 0.0 and a < d:
        scale_x = -scale_x
    if scale_x == 0.0:
        scale_y = float(np.hypot(c, d))
        turn = float(np.degrees(np.arctan2(-c, d))) if scale_y else 0.0
        return turn, 0.0, scale_y, 0.0
    cos, sin = a / scale_x, b / scale_x
    along = c * cos + d * sin  # the part of the second column along the first
    scale_y = d * cos - c * sin
    skew = float(np.degrees(np.arctan2(along, scale_y))) if scale_y > 0 else 0.0
    if scale_y < 0:
        skew = float(np.degrees(np.arctan(along / scale_y)))
    return float(np.degrees(np.arctan2(sin, cos))) + 0.0, scale_x, float(scale_y), skew + 0.0


def place_for(matrix: ArrayLike, w: float, h: float, pivot: tuple[float, float]) -> tuple[float, float]:
    """The (x, y) that makes ``compose`` give the transform's translation, for a box and pivot."""
    m = np.asarray(matrix, float)
    px, py = pivot[0] * w, pivot[1] * h
    x = float(m[4] - px + m[0] * px + m[2] * py)
    y = float(m[5] - py + m[1] * px + m[3] * py)
    return x, y


def box_bounds(matrix: ArrayLike, w: ArrayLike, h: ArrayLike) -> Floats:
    """Upright bounds (..., 4) as x, y, w, h of the boxes (0, 0, w, h) under transforms (..., 6)."""
    m = np.asarray(matrix, float)
    w_, h_ = np.asarray(w, float), np.asarray(h, float)
    xs = np.stack([m[..., 4], m[..., 4] + m[..., 0] * w_, m[..., 4] + m[..., 2] * h_], -1)
    ys = np.stack([m[..., 5], m[..., 5] + m[..., 1] * w_, m[..., 5] + m[..., 3] * h_], -1)
    xs = np.concatenate([xs, (xs[..., 1] + xs[..., 2] - xs[..., 0])[..., None]], -1)
    ys = np.concatenate([ys, (ys[..., 1] + ys[..., 2] - ys[..., 0])[..., None]], -1)
    x, y = xs.min(-1), ys.min(-1)
    return np.stack([x, y, xs.max(-1) - x, ys.max(-1) - y], -1)
