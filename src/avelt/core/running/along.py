"""How far along the outline of a layer a point is."""

from __future__ import annotations

from avelt.core.arrays import np
from avelt.core.geometry.motion_path import ArcLengthPath
from avelt.core.model.values import Path
from avelt.core.timing.program import Scene


def along(scene: Scene, layer_id: str, x: float, y: float) -> tuple[float, float] | None:
    """The share (0..1) of a path layer's first line that is nearest to a point (px of the frame), and the length of the
    line, px; ``None`` where the layer is no path or not there."""
    for slot, content in enumerate(scene.program.contents):
        layer = content.left if content.left is not None else content.right
        if layer is None or layer.id != layer_id or not isinstance(layer.body, Path) or not layer.body.subpaths:
            continue
        points = np.array(layer.body.subpaths[0].points, float).reshape(-1, 2)
        if len(points) < 4:
            return None
        a, b, c, d, e, f = scene.world()[slot].tolist()
        course = ArcLengthPath(points @ np.array([(a, b), (c, d)]) + (e, f))
        return course.length_near(x, y), course.length
    return None
