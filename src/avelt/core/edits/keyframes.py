"""Edits of keyframes and motion paths: what a cue passes between its ends, and along which path."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import msgspec
import numpy as np

from avelt.core.edits.cues import change_cues
from avelt.core.errors import EditError
from avelt.core.geometry.affine import Floats
from avelt.core.geometry.motion_path import ArcLengthPath, polyline
from avelt.core.model.curves import Curve, Hold
from avelt.core.model.find import route_by_id
from avelt.core.model.motion import CueKey, Keyframe, MotionPath
from avelt.core.model.properties import COLUMN, KEYED, SCALARS
from avelt.core.model.values import Project
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import Timed, timed
from avelt.core.timing.tracks import MotionPathTrack, motion_path_of, pivots, points_between

replace = msgspec.structs.replace
_NEAR = 0.002  # of a cue's time: two keys that near are one
HOLDS = Hold(1.0)  # the curve of a key that is reached by a jump


def _timed(project: Project, route_id: str, key: CueKey) -> Timed:
    return timed(project, route_by_id(project, route_id).transition, *key)


def value_at(program: Program, slot: int, prop: str, ms: float) -> tuple[float, ...]:
    """The numbers of a property at a moment, as a key holds them."""
    scene = program.at(ms)
    if prop == "fill":
        fills = program.contents[slot].fills
        if not fills or fills[-1].kind != "solid":
            raise EditError("Only a fill of one colour can have keyframes.")
        return tuple(float(v) for v in scene.colours[fills[-1].colour])
    names = KEYED.get(prop)
    if names is None:
        raise EditError("This can have no keyframes: choose one property of a layer.")
    return tuple(float(scene.scalars[slot, COLUMN[name]]) for name in names)


def put_keyframe(
    project: Project, route_id: str, cue: CueKey, at: float, value: tuple[float, ...], curve: Curve | None = None
) -> Project:
    """A key at a share of the cue's time; one that is there already takes the value and keeps its curve."""
    if not KEYED.get(cue.prop):
        raise EditError("This can have no keyframes: choose one property of a layer.")
    if not 0.0 < at < 1.0:
        raise EditError("A keyframe lies between the start and the end of its cue.")
    keys = list(_timed(project, route_id, cue).keyframes)
    same = next((k for k in keys if abs(k.at - at) < _NEAR), None)
    if same is not None:
        keys[keys.index(same)] = replace(same, value=value)
    else:
        keys.append(Keyframe(at, value, curve))
    return change_cues(project, route_id, [cue], keyframes=tuple(sorted(keys, key=lambda k: k.at)))


def keyframe_here(project: Project, route_id: str, cue: CueKey, program: Program, slot: int, ms: float) -> Project:
    """A key with the value that the property has at a moment, so that nothing else changes there."""
    when = _timed(project, route_id, cue)
    at = (ms - when.start) / when.duration if when.duration > 0 else 0.0
    if when.motion_path is not None and cue.prop == "position":
        return put_keyframe(project, route_id, cue, at, (float(_share_at(program, slot, ms)),))
    return put_keyframe(project, route_id, cue, at, value_at(program, slot, cue.prop, ms))


def _share_at(program: Program, slot: int, ms: float) -> float:
    for course in program.tracks:
        if isinstance(course, MotionPathTrack) and course.places[0] == slot * len(SCALARS):
            return float(course.along.at(np.array(ms))[0])
    raise EditError("The layer follows no motion path.")


def change_keyframe(
    project: Project,
    route_id: str,
    cue: CueKey,
    place: int,
    *,
    at: float | None = None,
    value: tuple[float, ...] | None = None,
    curve: Curve | str | None = "keep",
) -> tuple[Project, int]:
    """Moment, value or curve of a key (by its place among the cue's); gives its place afterwards."""
    keys = list(_timed(project, route_id, cue).keyframes)
    old = keys.pop(place)
    new = replace(
        old,
        at=old.at if at is None else min(0.999, max(0.001, at)),
        value=old.value if value is None else value,
        curve=old.curve if curve == "keep" else curve,
    )
    keys = sorted([*keys, new], key=lambda k: k.at)
    return change_cues(project, route_id, [cue], keyframes=tuple(keys)), keys.index(new)


def remove_keyframes(project: Project, route_id: str, cue: CueKey, places: Iterable[int]) -> Project:
    """Without some keys."""
    gone = set(places)
    keys = tuple(k for n, k in enumerate(_timed(project, route_id, cue).keyframes) if n not in gone)
    return change_cues(project, route_id, [cue], keyframes=keys)


def rotate_keyframes(
    project: Project, route_id: str, cue: CueKey, places: Iterable[int], degrees: float, factor: float
) -> Project:
    """Keys of a place turned about their common middle and drawn apart from it."""
    keys, chosen = list(_timed(project, route_id, cue).keyframes), sorted(set(places))
    values = np.array([keys[n].value for n in chosen], float)
    if values.ndim != 2 or values.shape[1] != 2:
        raise EditError("Only keyframes of a position can be turned.")
    middle, angle = values.mean(0), np.radians(degrees)
    matrix = np.array([[np.cos(angle), np.sin(angle)], [-np.sin(angle), np.cos(angle)]]) * factor
    for n, new in zip(chosen, (values - middle) @ matrix + middle, strict=True):
        keys[n] = replace(keys[n], value=(float(new[0]), float(new[1])))
    return change_cues(project, route_id, [cue], keyframes=tuple(keys))


# Ways


def motion_path_points(program: Program, slot: int, way: MotionPath | None) -> Floats:
    """The points (1 + 3 n, 2) of a slot's way in its parent's space; the straight one without a way."""
    rows = [v[: program.dense].reshape(-1, len(SCALARS)) for v in (program.start, program.end)]
    first, last = pivots(rows[0], rows[1], slot)
    return points_between(way or MotionPath(), first, last)


def set_motion_path(
    project: Project, route_id: str, cue: CueKey, program: Program, slot: int, way: MotionPath | None
) -> Project:
    """Another way, or the straight one (``None``). Keys stay at their moments: places become shares of the way."""
    old = _timed(project, route_id, cue)
    keys = old.keyframes
    if way is not None and old.motion_path is None and keys:
        course = ArcLengthPath(motion_path_points(program, slot, way))
        spots = [_pivot_at(program, slot, old.start + key.at * old.duration) for key in keys]
        keys = tuple(replace(k, value=(course.share_near(*spot),)) for k, spot in zip(keys, spots, strict=True))
    elif way is None and old.motion_path is not None and keys:
        keys = tuple(
            replace(k, value=value_at(program, slot, "position", old.start + k.at * old.duration)) for k in keys
        )
    return change_cues(project, route_id, [cue], motion_path=way, keyframes=keys)


def _pivot_at(program: Program, slot: int, ms: float) -> tuple[float, float]:
    row = program.at(ms).scalars[slot]
    return float(row[0] + row[4] * row[2]), float(row[1] + row[5] * row[3])


def shape_motion_path(
    project: Project, route_id: str, cue: CueKey, program: Program, slot: int, change: Callable[[Floats], Floats]
) -> Project:
    """A way whose points are changed. Without one, the path that the layer takes now is taken as one first."""
    when = _timed(project, route_id, cue)
    points = motion_path_points(program, slot, when.motion_path)
    if when.motion_path is None and when.keyframes:
        spots = [_pivot_at(program, slot, when.start + key.at * when.duration) for key in when.keyframes]
        points = polyline(np.array([points[0], *spots, points[-1]]))
    turns = when.motion_path.rotates if when.motion_path is not None else False
    return set_motion_path(project, route_id, cue, program, slot, motion_path_of(change(points), turns))
