"""Runs of CSS properties as keyframes of Lottie: times in frames, values as lists of numbers, cubic Bezier easing."""

from __future__ import annotations

import json
import math
from typing import Any

from avelt.core.arrays import Floats
from avelt.core.curves.measure import straight_pieces
from avelt.core.handoff.nodes import Moved, Run
from avelt.core.model.curves import Handles, Hold, Line, PlainCurve, Steps

RATE = 60.0  # frames a second
_TOLERANCE = 0.002
_APART = 1e-3  # frames between two keyframes that are a jump
_MOST_KEYS = 20_000
Key = tuple[float, list[float], PlainCurve]
Json = dict[str, Any]


def as_numbers(values: Floats) -> list[str]:
    """Rows of numbers as texts that keep them (signals say texts)."""
    return [json.dumps([round(v, 5) for v in row]) for row in values.tolist()]


def frames_of(ms: float) -> float:
    """A time in frames."""
    return ms * RATE / 1000.0


def fixed(value: Any) -> dict[str, Any]:
    """A property that never changes."""
    return {"a": 0, "k": value}


def still() -> Json:
    """The transform of a layer that stands."""
    return {"a": fixed([0, 0]), "p": fixed([0, 0]), "s": fixed([100, 100]), "r": fixed(0), "o": fixed(100)}


def still_group(opacity: Json | None = None) -> Json:
    """The same as an item of a group, with an opacity."""
    made = {"ty": "tr", **still(), "sk": fixed(0), "sa": fixed(0)}
    return made if opacity is None else {**made, "o": opacity}


def keyed(moved: Moved | None, first: str, until: float) -> tuple[list[Key], list[float]]:
    """The keyframes (ms, values, the curve that leads on) of a property until a time, and its first value."""
    start: list[float] = json.loads(first)
    if moved is None:
        return [], start
    keys: list[Key] = []
    for run in moved.runs:
        begins = run.delay
        keys = [key for key in keys if key[0] < begins - 1e-9]
        keys += _of_run(run, until)
    return keys[:_MOST_KEYS], start


def _of_run(run: Run, until: float) -> list[Key]:
    rounds = run.iterations
    if math.isinf(rounds):
        rounds = math.ceil(max(0.0, until - run.delay) / run.duration) if run.duration > 0.0 else 1
    made: list[Key] = []
    for n in range(max(1, int(min(rounds, 2000)))):
        base = run.delay + n * run.duration
        if base > until and made:
            break
        made += [(base + key.at * run.duration, json.loads(key.text), key.curve) for key in run.keys]
    return made


def property_of(keys: list[Key], first: list[float], single: bool = False) -> dict[str, Any]:
    """Keyframes as a property; ``single``: of one number."""
    if not keys:
        return fixed(first[0] if single else first)
    made: list[dict[str, Any]] = []
    for k, (ms, value, curve) in enumerate(keys):
        after = keys[k + 1] if k + 1 < len(keys) else None
        if after is None:
            _add(made, ms, value, None)
            continue
        _between(made, (ms, value), after[:2], curve)
    return {"a": 1, "k": made}


def _between(made: list[dict[str, Any]], one: tuple[float, Any], two: tuple[float, Any], curve: PlainCurve) -> None:
    """The keyframes from one to another, by a curve that Lottie may not have."""
    (ms, value), (end, there) = one, two
    if isinstance(curve, Handles):
        _add(made, ms, value, (curve.x1, curve.y1, curve.x2, curve.y2))
    elif isinstance(curve, Line) or end <= ms or value == there:
        _add(made, ms, value, (0.0, 0.0, 1.0, 1.0))
    elif isinstance(curve, Steps | Hold):
        from avelt.core.curves import easing

        count = curve.count if isinstance(curve, Steps) else 2
        marks = [k / count for k in range(count)] if isinstance(curve, Steps) else [0.0, curve.at]
        for share in marks:
            eased = float(easing.at(curve, min(1.0, share + 1e-6)))
            _add(made, ms + share * (end - ms), _mixed(value, there, eased), None)
    else:
        for share, eased in straight_pieces(curve, _TOLERANCE)[0][:-1]:
            _add(made, ms + share * (end - ms), _mixed(value, there, eased), (0.0, 0.0, 1.0, 1.0))


def _mixed(one: Any, two: Any, share: float) -> Any:
    return [a + (b - a) * share for a, b in zip(one, two, strict=True)]


def _add(made: list[dict[str, Any]], ms: float, value: Any, curve: tuple[float, ...] | None) -> None:
    t = frames_of(ms)
    if made and t <= made[-1]["t"] + 1e-9:
        if made[-1]["s"] == value:
            made.pop()
        else:
            # A jump: what was there holds until just before.
            made[-1]["t"] = t - _APART
            made[-1].pop("i", None)
            made[-1].pop("o", None)
            made[-1]["h"] = 1
    entry: dict[str, Any] = {"t": round(t, 4), "s": value}
    if curve is None:
        entry["h"] = 1
    else:
        entry["o"], entry["i"] = {"x": [curve[0]], "y": [curve[1]]}, {"x": [curve[2]], "y": [curve[3]]}
    made.append(entry)


def shape_of(numbers: list[float], lengths: tuple[int, ...], closed: tuple[bool, ...]) -> list[dict[str, Any]]:
    """Outlines (points of cubics, one subpath after the other) as Bezier shapes with tangents beside their nodes."""
    made, first = [], 0
    for length, shut in zip(lengths, closed, strict=True):
        flat = numbers[2 * first : 2 * (first + length)]
        points = [(flat[k], flat[k + 1]) for k in range(0, len(flat), 2)]
        first += length
        nodes = points[::3]
        outs = [_less(points[k + 1], points[k]) if k + 1 < length else [0.0, 0.0] for k in range(0, length, 3)]
        ins = [_less(points[k - 1], points[k]) if k else [0.0, 0.0] for k in range(0, length, 3)]
        if shut and len(nodes) > 1:
            # The last node is the first one again, in every shape of the same structure.
            ins[0] = ins[-1]
            nodes, ins, outs = nodes[:-1], ins[:-1], outs[:-1]
        made.append({"c": shut, "v": [list(p) for p in nodes], "i": ins, "o": outs})
    return made


def _less(a: tuple[float, float], b: tuple[float, float]) -> list[float]:
    return [round(a[0] - b[0], 4), round(a[1] - b[1], 4)]
