"""Properties of a Lottie file: what stands still as numbers, what moves as loops of one round.

Source: the Lottie specification 1.0 (Lottie Animation Community), "Properties" and "Keyframes". One property that moves
is one loop: several loops of a layer add up, as its properties do.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any

from avelt.core.arrays import np
from avelt.core.curves.handles import parameter
from avelt.core.geometry.arc import halves
from avelt.core.geometry.motion_path import ArcLengthPath
from avelt.core.model.curves import Curve, Handles, Hold, Line
from avelt.core.model.values import Pose, RoundKey
from avelt.core.record import Record

Json = Any
Note = Callable[[str], None]
_FLAT = 1e-3  # px: positions nearer to a line than this are on it
_SAME = 1e-9


class Keyed(Record, frozen=True):
    """A property that moves: ``times`` (k,) in frames, ``values`` (k, n), the curve into each but the first, and for
    positions the handles of each stretch (out of its start, into its end), px from those."""

    times: tuple[float, ...]
    values: tuple[tuple[float, ...], ...]
    curves: tuple[Curve, ...]
    handles: tuple[tuple[tuple[float, float], tuple[float, float]], ...]


class Moves(Record, frozen=True):
    """What a loop does: how far, over which keyframes, and along which path."""

    offset: Pose
    keyframes: tuple[RoundKey, ...]
    path: tuple[tuple[float, float], ...] = ()


def number(value: Json, usual: float = 0.0) -> float:
    """A finite number; the usual one for anything else."""
    if isinstance(value, list):
        value = value[0] if value else usual
    if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
        return usual
    return float(value)


def numbers(value: Json, count: int, usual: float = 0.0) -> tuple[float, ...]:
    """So many numbers."""
    given = value if isinstance(value, list) else [value]
    return tuple(number(given[k], usual) if k < len(given) else usual for k in range(count))


def moving(prop: Json) -> bool:
    """Whether a property has keyframes."""
    if not isinstance(prop, dict):
        return False
    k = prop.get("k")
    return isinstance(k, list) and bool(k) and isinstance(k[0], dict) and "t" in k[0]


def first(prop: Json, count: int, usual: float = 0.0) -> tuple[float, ...]:
    """What a property is at the start."""
    if not isinstance(prop, dict):
        return (usual,) * count
    if moving(prop):
        key = prop["k"][0]
        return numbers(key.get("s", key.get("e", usual)), count, usual)
    return numbers(prop.get("k", usual), count, usual)


def keyed(prop: Json, count: int) -> Keyed | None:
    """The keyframes of a property; ``None`` where it stands still."""
    if not moving(prop):
        return None
    times: list[float] = []
    values: list[tuple[float, ...]] = []
    curves: list[Curve] = []
    handles: list[tuple[tuple[float, float], tuple[float, float]]] = []
    keys = [key for key in prop["k"] if isinstance(key, dict)]
    for k, key in enumerate(keys):
        before = keys[k - 1] if k else {}
        value = key.get("s", before.get("e"))  # the last one of older files says nothing: it ends as the one before
        times.append(number(key.get("t")))
        values.append(numbers(value, count) if value is not None else values[-1])
        if k:
            curves.append(_curve(before))
            out, into = (numbers(before.get(name, [0.0, 0.0]), 2) for name in ("to", "ti"))
            handles.append(((out[0], out[1]), (into[0], into[1])))
    order = np.argsort(times, kind="stable").tolist()
    if order != sorted(order):
        return None
    return Keyed(tuple(times), tuple(values), tuple(curves), tuple(handles))


def _curve(key: Json) -> Curve:
    """The easing out of a key: the two handles of a cubic Bezier, or a jump at the end."""
    if key.get("h") in (1, True):
        return Hold(1.0)
    out, into = key.get("o"), key.get("i")
    if not isinstance(out, dict) or not isinstance(into, dict):
        return Line()
    x1, y1 = number(out.get("x"), 0.0), number(out.get("y"), 0.0)
    x2, y2 = number(into.get("x"), 1.0), number(into.get("y"), 1.0)
    x1, x2 = min(1.0, max(0.0, x1)), min(1.0, max(0.0, x2))
    return Line() if (x1, y1) == (y1, x1) and (x2, y2) == (y2, x2) else Handles(x1, y1, x2, y2)


def round_keys(found: Keyed, fars: list[float], begins: float, length: float) -> tuple[RoundKey, ...]:
    """Keyframes of one round (frames ``begins`` on, ``length`` of them) that pass how far it is. A stretch that goes
    beyond the round is cut where the round begins or ends."""
    times = [(t - begins) / length for t in found.times]
    if times[-1] <= 0.0 or times[0] >= 1.0:
        far = fars[-1] if times[-1] <= 0.0 else fars[0]
        return (RoundKey(0.0, far), RoundKey(1.0, far, Line()))
    made: list[RoundKey] = []
    if times[0] >= 0.0:
        made.append(RoundKey(0.0, fars[0]))
        if times[0] > 0.0:
            made.append(RoundKey(times[0], fars[0], Line()))
    for k, curve in enumerate(found.curves):
        start, end, low, high = times[k], times[k + 1], fars[k], fars[k + 1]
        if end <= 0.0 or start >= 1.0 or end <= start:
            if end == start == 0.0:
                made[-1] = RoundKey(0.0, high)  # a round begins after the jump
            elif end <= start and 0.0 <= end <= 1.0:
                made.append(RoundKey(end, high, Line()))  # two keys at one time: a jump
            continue
        first_share, last_share = max(0.0, -start / (end - start)), min(1.0, (1.0 - start) / (end - start))
        from_far, to_far, part = cut(curve, first_share, last_share)
        if start < 0.0:
            made.append(RoundKey(0.0, low + (high - low) * from_far))
        made.append(RoundKey(min(1.0, end), low + (high - low) * to_far, part))
    if made[-1].at < 1.0:
        made.append(RoundKey(1.0, made[-1].far, Line()))
    return tuple(made)


def cut(curve: Curve, start: float, end: float) -> tuple[float, float, Curve]:
    """A stretch of a curve, from a share of its time to another: what it is there, and the curve between."""
    if (start, end) == (0.0, 1.0):
        return 0.0, 1.0, curve
    if not isinstance(curve, Handles):
        return (0.0, float(end >= 1.0), curve) if isinstance(curve, Hold) else (start, end, Line())
    points = np.array([[0.0, 0.0], [curve.x1, curve.y1], [curve.x2, curve.y2], [1.0, 1.0]])
    low, high = parameter(curve.x1, curve.x2, [start, end]).tolist()
    part = halves(halves(points, high)[0], low / high if high > 0.0 else 0.0)[1]
    (x0, y0), (x3, y3) = part[0], part[3]
    if abs(y3 - y0) <= _SAME or x3 - x0 <= _SAME:
        return float(y0), float(y3), Line()
    inner = (part[1:3] - part[0]) / [x3 - x0, y3 - y0]
    x1, x2 = (min(1.0, max(0.0, float(x))) for x in inner[:, 0])
    return float(y0), float(y3), Handles(x1, float(inner[0, 1]), x2, float(inner[1, 1]))


def along_a_line(found: Keyed, column: int = 0) -> tuple[float, float, list[float]]:
    """A number that moves: what it is at first, how far it goes at most, and which share of that it is at each key."""
    values = [value[column] for value in found.values]
    base = values[0]
    most = max((value - base for value in values), key=abs)
    return base, most, [(value - base) / most if most else 0.0 for value in values]


def of_number(found: Keyed, begins: float, length: float, pose: Callable[[float, float], Pose]) -> Moves | None:
    """A single number; ``pose`` makes the second pose of its first value and its farthest way."""
    base, most, fars = along_a_line(found)
    return Moves(pose(base, most), round_keys(found, fars, begins, length)) if abs(most) > _SAME else None


def of_position(found: Keyed, begins: float, length: float) -> Moves | None:
    """A place: a straight shift where all keys lie on one line, else a path through them."""
    points = np.array([value[:2] for value in found.values])
    ways = points - points[0]
    far = np.hypot(ways[:, 0], ways[:, 1])
    most = ways[int(far.argmax())]
    size = float(np.hypot(*most))
    if size <= _SAME and not any(any(pair) for stretch in found.handles for pair in stretch):
        return None
    bent = any(abs(v) > _FLAT for stretch in found.handles for pair in stretch for v in pair)
    if not bent and size > 0.0:
        aside = np.abs(ways[:, 0] * most[1] - ways[:, 1] * most[0]) / size
        if float(aside.max()) <= _FLAT:
            shares = (ways @ most / size**2).tolist()
            return Moves(
                Pose(shift_x=float(most[0]), shift_y=float(most[1])), round_keys(found, shares, begins, length)
            )
    nodes: list[tuple[float, float]] = []
    lengths = [0.0]
    for k, (out, into) in enumerate(found.handles):
        start, end = ways[k], ways[k + 1]
        one, two = start + np.array(out), end + np.array(into)
        nodes += [tuple(one.tolist()), tuple(two.tolist()), tuple(end.tolist())]  # type: ignore[list-item]
        stretch = ArcLengthPath(np.array([start, one, two, end]))
        lengths.append(lengths[-1] + stretch.length)
    whole = lengths[-1]
    if whole <= _SAME:
        return None
    return Moves(Pose(), round_keys(found, [length / whole for length in lengths], begins, length), tuple(nodes))


def of_scale(found: Keyed, begins: float, length: float, column: int) -> tuple[float, Moves | None]:
    """One of the two scales: what the layer itself has (never 0), and how it is multiplied."""
    values = [value[column] for value in found.values]
    base = next((value for value in values if abs(value) > _SAME), 0.0)
    if base == 0.0 or max(values) - min(values) <= _SAME:
        return values[0], None
    ratios = [value / base for value in values]
    most = max((ratio - 1.0 for ratio in ratios), key=abs)
    fars = [(ratio - 1.0) / most for ratio in ratios]
    pose = Pose(scale_x=1.0 + most) if column == 0 else Pose(scale_y=1.0 + most)
    return base, Moves(pose, round_keys(found, fars, begins, length))


def of_opacity(found: Keyed, begins: float, length: float) -> tuple[float, Moves | None]:
    """Opacity in shares: the layer's own is the highest, and the second pose is clear."""
    values = [min(1.0, max(0.0, value[0])) for value in found.values]
    top = max(values)
    if top <= 0.0 or top - min(values) <= _SAME:
        return top, None
    fars = [1.0 - value / top for value in values]
    return top, Moves(Pose(opacity=0.0), round_keys(found, fars, begins, length))
