"""Whether a point meets a layer: what somebody who touches or clicks there means."""

from __future__ import annotations

from avelt.core.arrays import Floats, np
from avelt.core.geometry import arc
from avelt.core.model.find import by_identity
from avelt.core.model.values import Layer, Path

_THIN = 3.0  # px beside a thin layer that still meet it
_LINE = 12.0  # px beside a line that still meet it: half of what a fingertip covers
_CHORDS = 16  # straight lines to a cubic


def meets(layer: Layer, w: float, h: float, x: float, y: float) -> bool:
    """Whether a point of a layer's own px meets it, ``w`` by ``h`` px large as it is now.

    Its box counts, so that small things are easy to meet. A line has hardly a box: what is near enough to be meant
    counts. An outline without a fill is only its line: what lies inside of it is seen, and meant.
    """
    edge = _THIN if min(w, h) < 2 * _THIN else 0.0
    if not (-edge <= x <= w + edge and -edge <= y <= h + edge):
        return False
    line = line_of(layer)
    if line is None or min(w, h) <= 2 * _LINE:
        return True
    starts, ends = _segments(line)
    grown = np.array([w / max(layer.w, 1e-9), h / max(layer.h, 1e-9)])
    return distance(starts * grown, ends * grown, x, y) <= near(layer)


def line_of(layer: Layer) -> Path | None:
    """The path of a layer that is only its line; none for one that counts whole."""
    return layer.body if isinstance(layer.body, Path) and not layer.fills else None


def near(layer: Layer) -> float:
    """How far from its line a point still meets it, px."""
    return max(_LINE, layer.stroke.width / 2 if layer.stroke is not None else 0.0)


def distance(starts: Floats, ends: Floats, x: float, y: float) -> float:
    """How far a point is from the nearest of some straight lines, from ``starts`` (n, 2) to ``ends`` (n, 2).

    >>> float(distance(np.array([[0.0, 0.0]]), np.array([[10.0, 0.0]]), 13.0, 4.0))
    5.0
    """
    if not len(starts):
        return float("inf")
    along, to = ends - starts, np.array([x, y]) - starts
    share = np.clip((to * along).sum(1) / np.maximum((along**2).sum(1), 1e-12), 0.0, 1.0)
    return float(np.min(np.linalg.norm(to - share[:, None] * along, axis=1)))


def _lines(path: Path) -> tuple[Floats, Floats]:
    starts, ends = [np.zeros((0, 2))], [np.zeros((0, 2))]
    for subpath in path.subpaths:
        points = np.reshape(np.array(subpath.points, float), (-1, 2))
        on_it = arc.at(arc.cubics(points), np.linspace(0.0, 1.0, _CHORDS + 1))
        starts.append(on_it[:, :-1].reshape(-1, 2))
        ends.append(on_it[:, 1:].reshape(-1, 2))
    return np.concatenate(starts), np.concatenate(ends)


_segments = by_identity(_lines)
