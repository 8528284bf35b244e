"""Turns out of the plane: transforms of the plane with perspective, as 3x3 matrices for column vectors (x, y, 1).

A tilted layer turns about its pivot, seen from straight above the pivot at the frame's perspective distance: what
``perspective(d) rotateX(a) rotateY(b)`` does in CSS Transforms Level 2 before the layer's own 2D transform.
"""

from __future__ import annotations

from avelt.core.arrays import ArrayLike, Floats, np
from avelt.core.geometry import affine

_NEAR = 1e-3  # of the way to the eye: points beyond are kept just before it


def as_3x3(matrix: ArrayLike) -> Floats:
    """An affine transform (6,) as a 3x3 matrix."""
    a, b, c, d, e, f = (float(v) for v in np.asarray(matrix, float))
    return np.array([[a, c, e], [b, d, f], [0.0, 0.0, 1.0]])


def tilted(parts: ArrayLike, turn_x: float, turn_y: float, distance: float) -> Floats:
    """The transform (3, 3) of a layer from its parts (10,) and its turns about x and y, degrees.

    ``distance`` is that of the eye in px; 0 is an eye very far away.
    """
    p = np.asarray(parts, float)
    flat = as_3x3(affine.compose(p))
    a, b = np.deg2rad(turn_x), np.deg2rad(turn_y)
    px, py = float(p[0] + p[4] * p[2]), float(p[1] + p[5] * p[3])
    near = 1.0 / distance if distance > 0 else 0.0
    lean = np.array(
        [
            [np.cos(b), 0.0, 0.0],
            [np.sin(b) * np.sin(a), np.cos(a), 0.0],
            [np.sin(b) * np.cos(a) * near, -np.sin(a) * near, 1.0],
        ]
    )
    there = np.array([[1.0, 0.0, px], [0.0, 1.0, py], [0.0, 0.0, 1.0]])
    back = np.array([[1.0, 0.0, -px], [0.0, 1.0, -py], [0.0, 0.0, 1.0]])
    return np.asarray(there @ lean @ back @ flat)


def apply(matrix: ArrayLike, points: ArrayLike) -> Floats:
    """Points (..., 2) through a 3x3 matrix; what lies behind the eye is kept just before it."""
    m, p = np.asarray(matrix, float), np.asarray(points, float)
    made = p @ m[:, :2].T + m[:, 2]
    depth = np.maximum(made[..., 2:], _NEAR)
    return np.asarray(made[..., :2] / depth)


def worlds(local: Floats, parts: Floats, turns: Floats, parent: np.ndarray, distance: float) -> dict[int, Floats]:
    """Row -> transform (3, 3) to the frame, for the rows that are tilted or lie in something tilted.

    ``local`` (n, 6), ``parts`` (n, 10), ``turns`` (n, 2) about x and y; parents stand before their children.
    """
    own = np.flatnonzero((turns != 0.0).any(1))
    if not len(own):
        return {}
    tilts = {int(i): tilted(parts[i], float(turns[i, 0]), float(turns[i, 1]), distance) for i in own}
    made: dict[int, Floats] = {}
    whole: dict[int, Floats] = {}
    for i in range(len(local)):
        up = int(parent[i])
        step = tilts.get(i)
        step = as_3x3(local[i]) if step is None else step
        whole[i] = whole[up] @ step if up >= 0 else step
        if i in tilts or up in made:
            made[i] = whole[i]
    return made


def corners(matrix: Floats, w: float, h: float) -> Floats:
    """The corners (4, 2) of a box (0, 0, w, h), clockwise from its top left, under an affine (6,) or a 3x3 matrix."""
    box = np.array([(0.0, 0.0), (w, 0.0), (w, h), (0.0, h)])
    return apply(matrix, box) if np.shape(matrix) == (3, 3) else affine.apply(matrix, box)


def back_to(matrix: Floats, x: float, y: float) -> tuple[float, float] | None:
    """The point of the layer's own box that stands at (x, y); ``None`` when the transform is flat."""
    if np.shape(matrix) == (3, 3):
        if abs(float(np.linalg.det(matrix))) < 1e-14:
            return None
        u, v, w = (float(n) for n in np.linalg.inv(matrix) @ np.array([x, y, 1.0]))
        return (u / w, v / w) if abs(w) > 1e-12 else None
    inverse = affine.invert(matrix)
    if inverse is None:
        return None
    px, py = affine.apply(inverse, (x, y))
    return float(px), float(py)
