"""Edits of keyframes and motion paths: what a cue passes between its ends, and along which path."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import msgspec

from avelt.core.arrays import Floats, np
from avelt.core.curves.named import plain
from avelt.core.edits.cues import change_cues
from avelt.core.edits.ends import put_end
from avelt.core.errors import EditError
from avelt.core.geometry.motion_path import ArcLengthPath, drawn, polyline
from avelt.core.model.curves import Curve, Hold
from avelt.core.model.find import route_by_id
from avelt.core.model.motion import CueKey, Keyframe, MotionPath
from avelt.core.model.properties import COLUMN, KEYED, SCALARS
from avelt.core.model.values import Project
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.schedule import Timed, timed
from avelt.core.timing.tracks import MotionPathTrack, followed, motion_path_of, pivots, points_between
from avelt.core.words import tr

replace = msgspec.structs.replace
_NEAR = 0.002  # of a cue's time: two keys that near are one
_RATIOS = ("size", "scale", "opacity", "corner", "stroke", "type")
_TINY = 1e-9
_NONE = np.zeros(7, np.intp)
HOLDS = Hold(1.0)  # the curve of a key that is reached by a jump


def _timed(project: Project, route_id: str, key: CueKey) -> Timed:
    return timed(project, route_by_id(project, route_id).transition, *key)


def value_at(program: Program, slot: int, prop: str, ms: float) -> tuple[float, ...]:
    """The numbers of a property at a moment, as a key holds them."""
    return _value_in(program, slot, prop, program.at(ms))


def ends_of(program: Program, slot: int, prop: str) -> tuple[tuple[float, ...], tuple[float, ...]]:
    """The numbers of a property where it leaves and where it arrives, as a key holds them."""
    first, last = (
        _value_in(program, slot, prop, program.scene_of(vector.copy(), 0.0)) for vector in (program.start, program.end)
    )
    return first, last


def _value_in(program: Program, slot: int, prop: str, scene: Scene) -> tuple[float, ...]:
    if prop == "fill":
        fills = program.contents[slot].fills
        if not fills or fills[-1].kind != "solid":
            raise EditError(tr("Only a fill of one colour can have keyframes."))
        return tuple(float(v) for v in scene.colours[fills[-1].colour])
    names = KEYED.get(prop)
    if names is None:
        raise EditError(tr("This can have no keyframes: choose one property of a layer."))
    return tuple(float(scene.scalars[slot, COLUMN[name]]) for name in names)


def put_keyframe(
    project: Project, route_id: str, cue: CueKey, at: float, value: tuple[float, ...], curve: Curve | None = None
) -> Project:
    """A key at a share of the cue's time; one that is there already takes the value and keeps its curve."""
    if not KEYED.get(cue.prop):
        raise EditError(tr("This can have no keyframes: choose one property of a layer."))
    if not 0.0 < at < 1.0:
        raise EditError(tr("A keyframe lies between the start and the end of its cue."))
    keys = list(_timed(project, route_id, cue).keyframes)
    same = next((k for k in keys if abs(k.at - at) < _NEAR), None)
    if same is not None:
        keys[keys.index(same)] = replace(same, value=value)
    else:
        keys.append(Keyframe(at, value, curve))
    return change_cues(project, route_id, [cue], keyframes=tuple(sorted(keys, key=lambda k: k.at)))


def key_or_end(
    project: Project, route_id: str, cue: CueKey, at: float, value: tuple[float, ...], curve: Curve | None = None
) -> tuple[Project, str]:
    """The same; at the very start or end of the cue the value is that of the end, and changes there.

    Gives what was changed elsewhere, in words; empty for a key.
    """
    if 0.0 < at < 1.0 or not KEYED.get(cue.prop):
        return put_keyframe(project, route_id, cue, at, value, curve), ""
    if cue.prop == "position" and _timed(project, route_id, cue).motion_path is not None:
        raise EditError(tr("A motion path begins and ends where the layer stands in its frames: move it there."))
    return put_end(project, route_id, cue, 0 if at <= 0.0 else 1, value)


def keyframe_here(project: Project, route_id: str, cue: CueKey, program: Program, slot: int, ms: float) -> Project:
    """A key with the value that the property has at a moment, so that nothing else changes there.

    ``EditError`` where there is none to make: at the ends stands what the frames say.
    """
    when = _timed(project, route_id, cue)
    at = (ms - when.start) / when.duration if when.duration > 0 else 0.0
    if not 0.0 < at < 1.0:
        verb = tr("leaves with") if at <= 0.0 else tr("arrives with")
        raise EditError(
            tr("Here stands the value that it {verb}: change that one, or move the playhead into the cue.", verb=verb)
        )
    if when.motion_path is not None and cue.prop == "position":
        return put_keyframe(project, route_id, cue, at, (float(_share_at(program, slot, ms)),))
    return put_keyframe(project, route_id, cue, at, value_at(program, slot, cue.prop, ms))


def _share_at(program: Program, slot: int, ms: float) -> float:
    for course in program.tracks:
        if isinstance(course, MotionPathTrack) and course.places[0] == slot * len(SCALARS):
            return float(course.along.at(np.array(ms))[0])
    raise EditError(tr("The layer follows no motion path."))


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
    """Moment, value or curve of a key (by its place among the cue's); gives its place afterwards. It stays between the
    ends: ``key_to_end`` makes it one."""
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


def key_to_end(project: Project, route_id: str, cue: CueKey, place: int, side: int) -> tuple[Project, str]:
    """A key put at the very start (``side`` 0) or end (1): its value is that of the end from now on; and what was
    changed, in words."""
    key = _timed(project, route_id, cue).keyframes[place]
    made, words = key_or_end(project, route_id, cue, float(side), key.value)
    return remove_keyframes(made, route_id, cue, [place]), words


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
        raise EditError(tr("Only keyframes of a position can be turned."))
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


def path_course(program: Program, slot: int, way: MotionPath) -> ArcLengthPath:
    """A slot's way made ready to be followed, in its parent's space."""
    return ArcLengthPath(motion_path_points(program, slot, way), way.pace)


def set_motion_path(
    project: Project, route_id: str, cue: CueKey, program: Program, slot: int, way: MotionPath | None
) -> Project:
    """Another way, or the straight one (``None``). Keys stay at their moments: places become shares of the way."""
    keys = _keys_on(_timed(project, route_id, cue), program, slot, way)
    return change_cues(project, route_id, [cue], motion_path=way, keyframes=keys)


def _keys_on(old: Timed, program: Program, slot: int, way: MotionPath | None) -> tuple[Keyframe, ...]:
    """A cue's keys when it gets another way."""
    keys = old.keyframes
    if way is not None and old.motion_path is None and keys:
        course = path_course(program, slot, way)
        spots = [_pivot_at(program, slot, old.start + key.at * old.duration) for key in keys]
        return tuple(replace(k, value=(course.share_near(*spot),)) for k, spot in zip(keys, spots, strict=True))
    if way is None and old.motion_path is not None and keys:
        return tuple(
            replace(k, value=value_at(program, slot, "position", old.start + k.at * old.duration)) for k in keys
        )
    return keys


def _pivot_at(program: Program, slot: int, ms: float) -> tuple[float, float]:
    row = program.at(ms).scalars[slot]
    return float(row[0] + row[4] * row[2]), float(row[1] + row[5] * row[3])


def _points_now(program: Program, slot: int, when: Timed) -> Floats:
    """The points of the way that a slot takes; without one, of the path from key to key."""
    points = motion_path_points(program, slot, when.motion_path)
    if when.motion_path is None and when.keyframes:
        spots = [_pivot_at(program, slot, when.start + key.at * when.duration) for key in when.keyframes]
        points = polyline(np.array([points[0], *spots, points[-1]]))
    return points


def shape_motion_path(
    project: Project, route_id: str, cue: CueKey, program: Program, slot: int, change: Callable[[Floats], Floats]
) -> Project:
    """A way whose points are changed. Without one, the path that the layer takes now is taken as one first. A layer
    comes by nodes that stay when it did."""
    when = _timed(project, route_id, cue)
    old = when.motion_path or MotionPath()
    before = _points_now(program, slot, when)
    points, pace = change(before), old.pace
    if pace and len(points) != len(before):
        course = ArcLengthPath(before, pace)
        pace = tuple(round(course.share_near(float(x), float(y)), 6) for x, y in points[3:-1:3])
    return set_motion_path(project, route_id, cue, program, slot, motion_path_of(points, old.rotates, pace))


def bend_motion_path(
    project: Project, route_id: str, cue: CueKey, program: Program, slot: int, ms: float, by: tuple[float, float]
) -> Project:
    """The way drawn so that the layer is so many px from where it is at a moment. No key is made: the curve says how
    far it is, and the way's pace where that is."""
    when = _timed(project, route_id, cue)
    points = _points_now(program, slot, when)
    if when.motion_path is None:
        way = motion_path_of(points)
        when = replace(when, motion_path=way, keyframes=_keys_on(when, program, slot, way))
        project = set_motion_path(project, route_id, cue, program, slot, way)
    old = when.motion_path or MotionPath()
    rows = [v[: program.dense].reshape(-1, len(SCALARS))[slot] for v in (program.start, program.end)]
    track = followed(_NONE, rows[0], rows[1], when, lambda curve: plain(project, curve), program.last)
    share = float(track.along.at(np.array(ms))[0])
    x, y = _pivot_at(program, slot, ms)
    points, pace = drawn(points, old.pace, share, (x + by[0], y + by[1]))
    return change_cues(project, route_id, [cue], motion_path=motion_path_of(points, old.rotates, pace))


Ends = tuple[tuple[float, ...], tuple[float, ...]]


def amounts(prop: str, at: float, value: tuple[float, ...], own: Ends) -> tuple[float, ...]:
    """How far a key's numbers are from the straight blend of its ends there, which are the layer's own state.

    Sizes, scales and opacities as ratios, the rest as differences; a colour stays the colour that was chosen, and so
    does a ratio to nothing.
    """
    if prop == "fill":
        return value
    made = []
    for k, number in enumerate(value):
        here = own[0][k] * (1.0 - at) + own[1][k] * at
        made.append(number / here if _by_ratio(prop, here) else number - here)
    return tuple(made)


def values_of(prop: str, at: float, amount: tuple[float, ...], own: Ends, other: Ends) -> tuple[float, ...]:
    """The numbers of such a key between other ends; ``own`` are those it was taken from."""
    if prop == "fill":
        return amount
    made = []
    for k, number in enumerate(amount):
        here, there = (pair[0][k] * (1.0 - at) + pair[1][k] * at for pair in (own, other))
        made.append(number * there if _by_ratio(prop, here) else number + there)
    return tuple(round(number, 6) for number in made)


def _by_ratio(prop: str, here: float) -> bool:
    return prop in _RATIOS and abs(here) > _TINY


def rebased(prop: str, at: float, value: tuple[float, ...], own: Ends, other: Ends) -> tuple[float, ...]:
    """A key's numbers for another pair: as far from the straight blend of its own ends there as they are here."""
    return values_of(prop, at, amounts(prop, at, value, own), own, other)


def keys_for(
    keys: tuple[Keyframe, ...], cue: CueKey, source: Program, target: Program, key: CueKey
) -> tuple[Keyframe, ...]:
    """The keys of a cue of one program for a cue of another, or of the same (see ``rebased``)."""
    slots = source.slot_of(cue.from_id, cue.to_id), target.slot_of(key.from_id, key.to_id)
    if min(slots) < 0 or any(len(k.value) != len(KEYED.get(cue.prop, ())) for k in keys):
        return keys  # shares of a way are relative already
    try:
        own, other = ends_of(source, slots[0], cue.prop), ends_of(target, slots[1], key.prop)
    except EditError:
        return keys
    return tuple(replace(k, value=rebased(cue.prop, k.at, k.value, own, other)) for k in keys)
