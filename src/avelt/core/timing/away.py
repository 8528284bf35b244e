"""A layer where it is absent: its numbers moved by the way in which it leaves or enters."""

from __future__ import annotations

from avelt.core.arrays import np
from avelt.core.geometry import affine
from avelt.core.geometry.flatten import Flat
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Away, Pose

_SIDES = {"top": (0.5, 0.0), "right": (1.0, 0.5), "bottom": (0.5, 1.0), "left": (0.0, 0.5)}


def posed(row: list[float], pose: Pose, flat: Flat, index: int, lifted: bool) -> list[float]:
    """The dense numbers of a layer moved by a pose. ``lifted``: the row is in the frame's space."""
    out = row.copy()
    out[COLUMN["x"]] += pose.shift_x
    out[COLUMN["y"]] += pose.shift_y
    out[COLUMN["rotation"]] += pose.rotation
    out[COLUMN["scale_x"]] *= pose.scale_x
    out[COLUMN["scale_y"]] *= pose.scale_y
    out[COLUMN["opacity"]] *= pose.opacity
    if not isinstance(pose, Away):
        return out
    out[COLUMN["blur"]] += pose.blur
    for name, share in zip(("cut_top", "cut_right", "cut_bottom", "cut_left"), pose.cut, strict=True):
        out[COLUMN[name]] = share
    if pose.side:
        dx, dy = _held(row, pose, _SIDES[pose.side])
        out[COLUMN["x"]] += dx
        out[COLUMN["y"]] += dy
    if pose.edge:
        dx, dy = beyond(flat, index, pose.edge, lifted)
        out[COLUMN["x"]] += dx
        out[COLUMN["y"]] += dy
    return out


def _held(row: list[float], pose: Pose, point: tuple[float, float]) -> tuple[float, float]:
    """The shift that keeps a point of the box (shares) where it was while the layer is scaled about its pivot."""
    before = affine.compose(np.array(row[:10]))
    scaled = list(row[:10])
    scaled[7] *= pose.scale_x
    scaled[8] *= pose.scale_y
    spot = np.array([point[0] * row[COLUMN["w"]], point[1] * row[COLUMN["h"]]])
    moved = affine.apply(before, spot) - affine.apply(affine.compose(np.array(scaled)), spot)
    return float(moved[0]), float(moved[1])


def beyond(flat: Flat, index: int, edge: str, lifted: bool) -> tuple[float, float]:
    """The shift, in the space of the layer's parent, that takes it wholly beyond an edge of the frame."""
    x, y, w, h = (float(v) for v in flat.bounds[index])
    frame = flat.frame
    far = {"left": (-(x + w), 0.0), "right": (frame.w - x, 0.0), "top": (0.0, -(y + h)), "bottom": (0.0, frame.h - y)}[
        edge
    ]
    up = int(flat.parent[index])
    if lifted or up < 0:
        return far
    back = affine.invert(flat.world[up])
    if back is None:
        return far
    return back[0] * far[0] + back[2] * far[1], back[1] * far[0] + back[3] * far[1]
