"""A preset made to measure before it is put on: slower or quicker, weaker or stronger, another way."""

from __future__ import annotations

import math
from typing import Literal, get_args

import msgspec

from avelt.core.errors import EditError
from avelt.core.model.curves import Curve, Handles, PlainCurve, Spring
from avelt.core.model.find import layer_index
from avelt.core.model.motion import Cue, Keyframe, MotionPath, Transition
from avelt.core.model.values import Away, Loop, Pose
from avelt.core.presets.values import Preset, PresetCue, Recorded
from avelt.core.record import Record
from avelt.core.words import tr

replace = msgspec.structs.replace
Direction = Literal["", "right", "left", "up", "down", "up right", "up left", "down right", "down left"]
DIRECTIONS: tuple[Direction, ...] = get_args(Direction)[1:]
_WAYS = {"right": (1.0, 0.0), "left": (-1.0, 0.0), "down": (0.0, 1.0), "up": (0.0, -1.0)}
_EDGES = {"right": "left", "left": "right", "down": "top", "up": "bottom"}  # where one comes from that moves so
_FORTH = {"right": "right", "left": "left", "down": "bottom", "up": "top"}  # where one goes to


class How(Record, frozen=True):
    """How a preset is put on. ``follow``: times as shares of the target's length and distances of its layers; else what
    was recorded. ``stretch`` multiplies times, ``strength`` distances and overshoot. ``direction`` is where the layer
    moves to, ``start`` when it begins, ms (``None``: as recorded). ``step``: how much later each of several begins.
    ``left_out``: the pieces of it (see ``pieces.py``) that are not put on."""

    follow: bool = True
    stretch: float = 1.0
    strength: float = 1.0
    direction: Direction = ""
    start: float | None = None
    step: float = 0.0
    left_out: tuple[str, ...] = ()


def direction_of(text: str) -> Direction:
    """A direction as somebody types it; ``EditError`` for none."""
    plain = text.strip().lower().replace("-", " ")
    turned = " ".join(reversed(plain.split()))
    for known in DIRECTIONS:
        if known in (plain, turned):
            return known
    raise EditError(tr("There is no direction {words!r}: {directions}.", words=text, directions=", ".join(DIRECTIONS)))


def adjusted(preset: Preset, how: How) -> Preset:
    """The preset with other times and distances."""
    if not (0.01 <= how.stretch <= 100.0):
        raise EditError(tr("A preset is stretched 0.01 to 100 times."))
    if not (0.0 <= how.strength <= 10.0):
        raise EditError(tr("The strength of a preset is 0 to 10 times."))
    times, far = how.stretch, how.strength
    made = replace(
        preset,
        duration=preset.duration * times,
        cues=tuple(_cue(cue, times, far) for cue in preset.cues),
        absent=_away(preset.absent, far, how.direction, preset.kind == "enter"),
        absent_px=_away(preset.absent_px, far, how.direction, preset.kind == "enter"),
        curve=_stronger(preset.curve, far) if preset.curve is not None else None,
        motion_path=_path(preset.motion_path, far),
        stagger=replace(preset.stagger, ms=preset.stagger.ms * times) if preset.stagger is not None else None,
    )
    if preset.loop is not None:
        made = replace(made, loop=replace(preset.loop, loop=_loop(preset.loop.loop, times, far, how.direction)))
    if preset.recorded is not None:
        made = replace(
            made,
            recorded=replace(
                preset.recorded,
                transition=_transition(preset.recorded, times, far, how.direction),
                delay=preset.recorded.delay * times,
            ),
        )
    return made


def _stronger(curve: PlainCurve, far: float) -> PlainCurve:
    """A curve that goes more (or less) beyond its ends."""
    if far == 1.0:
        return curve
    if isinstance(curve, Handles):
        return replace(curve, y1=_beyond(curve.y1, far), y2=_beyond(curve.y2, far))
    if isinstance(curve, Spring):
        return replace(curve, bounce=min(1.0, max(-1.0, curve.bounce * far)))
    return curve


def _beyond(y: float, far: float) -> float:
    return 1.0 + (y - 1.0) * far if y > 1.0 else y * far if y < 0.0 else y


def _any(curve: Curve | None, far: float) -> Curve | None:
    return _stronger(curve, far) if isinstance(curve, PlainCurve) else curve


def _cue(cue: PresetCue, times: float, far: float) -> PresetCue:
    scaled = {
        name: None if (value := getattr(cue, name)) is None else value * times
        for name in ("start", "end", "start_ms", "end_ms")
    }
    keys = cue.keyframes
    if far != 1.0 and cue.motion_path is None:
        keys = tuple(_key(key, cue.prop, far) for key in keys)
    curve = _stronger(cue.curve, far) if cue.curve is not None else None
    return replace(cue, **scaled, curve=curve, keyframes=keys, motion_path=_path(cue.motion_path, far))


def _key(key: Keyframe, prop: str, far: float) -> Keyframe:
    """A keyframe that is further from the straight way; colours stay."""
    return key if prop == "fill" else replace(key, value=tuple(v * far for v in key.value))


def _path(path: MotionPath | None, far: float) -> MotionPath | None:
    if path is None or far == 1.0:
        return path
    return replace(path, points=tuple((u, dx * far, dy * far) for u, dx, dy in path.points))


def _away(pose: Away | None, far: float, direction: Direction, enters: bool) -> Away | None:
    """A way to come or go, as far and where to it is wanted."""
    if pose is None:
        return None
    x, y = pose.shift_x * far, pose.shift_y * far
    pose = replace(
        pose,
        rotation=pose.rotation * far,
        scale_x=1.0 + (pose.scale_x - 1.0) * far,
        scale_y=1.0 + (pose.scale_y - 1.0) * far,
        blur=pose.blur * far,
    )
    if direction:
        x, y = _turned(math.hypot(x, y), direction, -1.0 if enters else 1.0)
        main = direction.split()[0]
        if pose.edge:
            pose = replace(pose, edge=(_EDGES if enters else _FORTH)[main])  # type: ignore[arg-type]
    return replace(pose, shift_x=x, shift_y=y)


def _turned(far: float, direction: Direction, sign: float) -> tuple[float, float]:
    ways = [_WAYS[word] for word in direction.split()]
    dx, dy = sum(way[0] for way in ways), sum(way[1] for way in ways)
    size = math.hypot(dx, dy)
    return sign * far * dx / size, sign * far * dy / size


def _loop(loop: Loop, times: float, far: float, direction: Direction) -> Loop:
    pose = loop.offset
    x, y = pose.shift_x * far, pose.shift_y * far
    if direction:
        x, y = _turned(math.hypot(x, y), direction, 1.0)
    offset = Pose(
        x,
        y,
        pose.rotation * far,
        1.0 + (pose.scale_x - 1.0) * far,
        1.0 + (pose.scale_y - 1.0) * far,
        min(1.0, max(0.0, 1.0 + (pose.opacity - 1.0) * far)),
    )
    curve = _any(loop.curve, far)
    return replace(
        loop,
        offset=offset,
        duration=loop.duration * times,
        wait=loop.wait * times,
        start_offset=loop.start_offset * times,
        path=tuple((a * far, b * far) for a, b in loop.path),
        curve=loop.curve if curve is None else curve,
    )


def in_time(motion: Transition, times: float) -> Transition:
    """A motion whose times are all multiplied."""

    def scaled(ms: float | None) -> float | None:
        return None if ms is None else ms * times

    return replace(
        motion,
        duration=scaled(motion.duration),
        cues=tuple(replace(cue, start=scaled(cue.start), end=scaled(cue.end)) for cue in motion.cues),
        ties=tuple(replace(tie, by=tie.by * times) for tie in motion.ties),
        staggers=tuple(replace(rule, ms=rule.ms * times) for rule in motion.staggers),
    )


def _transition(recorded: Recorded, times: float, far: float, direction: Direction) -> Transition:
    def cue(old: Cue) -> Cue:
        return replace(old, curve=_any(old.curve, far), motion_path=_path(old.motion_path, far))

    motion, leaves = in_time(recorded.transition, times), layer_index(recorded.left)

    absents = (
        replace(entry, pose=_away(entry.pose, far, direction, entry.layer not in leaves) or entry.pose)
        for entry in motion.absents
    )
    return replace(
        motion,
        curve=_any(motion.curve, far) or motion.curve,
        leave_curve=_any(motion.leave_curve, far),
        enter_curve=_any(motion.enter_curve, far),
        cues=tuple(cue(entry) for entry in motion.cues),
        leave=_away(motion.leave, far, direction, False) or motion.leave,
        enter=_away(motion.enter, far, direction, True) or motion.enter,
        absents=tuple(absents),
    )
