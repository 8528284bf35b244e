"""Keyframes of somebody else's code as a preset: what comes, goes, repeats, or only moves."""

from __future__ import annotations

import math
from itertools import pairwise
from typing import Any

from avelt.core.arrays import np
from avelt.core.blending import colour
from avelt.core.edits.keyframes import amounts
from avelt.core.errors import FormatError
from avelt.core.model.curves import Line, PlainCurve
from avelt.core.model.layers import Box, Solid
from avelt.core.model.motion import Away, Keyframe, Pose
from avelt.core.model.second import LayerChanges
from avelt.core.model.values import Layer, Loop, RoundKey
from avelt.core.presets.values import LoopOf, Preset, PresetCue
from avelt.core.presets.values_in import BOX, Values
from avelt.core.record import Record
from avelt.core.words import tr

Frames = list[tuple[float, Values, PlainCurve | None]]
_REST = Values(0.0, 0.0, 0.0, 1.0, 1.0, 1.0, 0.0, None, (0.0,) * 4)
_NUMBERS = ("shift_x", "shift_y", "rotation", "scale_x", "scale_y", "opacity", "blur")
#: The properties of a layer by what of the values they are.
_OF = {
    "position": ("shift_x", "shift_y"),
    "rotation": ("rotation",),
    "scale": ("scale_x", "scale_y"),
    "opacity": ("opacity",),
    "blur": ("blur",),
}
_NEAR = 1e-3
_GREY = "#8aa0a6"


class Motion(Record, frozen=True):
    """An animation as its code says it: ms, how often, which way; keyframes with the curve that leads on from each."""

    name: str
    line: int
    duration: float
    delay: float
    rounds: float
    direction: str
    frames: Frames


def preset_of(motion: Motion) -> tuple[Preset, list[str]]:
    """The preset, and sentences about what of it is not in it."""
    if motion.duration <= 0.0 or not motion.frames:
        raise FormatError(tr("it has no length or no keyframes."))
    if motion.duration > 3_600_000.0 or abs(motion.delay) > 3_600_000.0:
        raise FormatError(tr("it is longer than an hour."))
    frames = _whole(motion)
    lost: list[str] = []
    if motion.rounds > 1.0 or math.isinf(motion.rounds) or motion.direction.startswith("alternate"):
        made = _loop(motion, frames)
        if made is not None:
            return made, lost
        lost.append(tr("{motion}: its keyframes are not all on one way; one round of it is taken.", motion=motion.name))
    return _once(motion, frames, lost), lost


def _whole(motion: Motion) -> Frames:
    """Keyframes from 0 to 1 in order, every value said in each: missing ones lie between their neighbours."""
    frames = sorted(motion.frames, key=lambda frame: frame[0])
    if motion.direction in ("reverse", "alternate-reverse"):
        curves = [curve for _, _, curve in frames]
        frames = [
            (1.0 - at, values, curves[-k - 2] if k + 1 < len(frames) else None)
            for k, (at, values, _) in enumerate(reversed(frames))
        ]
    if frames[0][0] > 0.0:
        frames.insert(0, (0.0, Values(), frames[0][2]))
    if frames[-1][0] < 1.0:
        frames.append((1.0, Values(), None))
    made: Frames = [(at, Values(other=set(values.other)), curve) for at, values, curve in frames]
    for name in (*_NUMBERS, "fill", "cut"):
        said = [(k, getattr(values, name)) for k, (_, values, _) in enumerate(frames)]
        known = [(k, v) for k, v in said if v is not None]
        if not known:
            continue
        rest = getattr(_REST, name)
        if known[0][0] != 0:
            known.insert(0, (0, rest if rest is not None else known[0][1]))
        if known[-1][0] != len(frames) - 1:
            known.append((len(frames) - 1, rest if rest is not None else known[-1][1]))
        for (low, a), (high, b) in pairwise(known):
            for k in range(low, high + 1):
                span = frames[high][0] - frames[low][0]
                share = (frames[k][0] - frames[low][0]) / span if span > 0.0 else 1.0
                setattr(made[k][1], name, _between(a, b, share))
    return made


def _between(a: object, b: object, share: float) -> object:
    if isinstance(a, tuple) and isinstance(b, tuple):
        return tuple(x + (y - x) * share for x, y in zip(a, b, strict=True))
    return a + (b - a) * share  # type: ignore[operator]


def _value(values: Values, name: str) -> float:
    found = getattr(values, name)
    return float(found if found is not None else getattr(_REST, name))


def _is_rest(values: Values) -> bool:
    plain = all(abs(_value(values, name) - getattr(_REST, name)) < _NEAR for name in _NUMBERS)
    return plain and not any(values.cut or ())


def _once(motion: Motion, frames: Frames, lost: list[str]) -> Preset:
    first, last = frames[0][1], frames[-1][1]
    whole = max(0.0, motion.delay) + motion.duration
    start = max(0.0, motion.delay) / whole
    curve = frames[0][2] or Line()
    cues = [PresetCue("", start, 1.0, max(0.0, motion.delay), whole, curve)]
    for prop, names in _OF.items():
        if not any(getattr(first, name) is not None for name in names):
            continue
        ends = tuple(_value(first, name) for name in names), tuple(_value(last, name) for name in names)
        if prop == "blur":
            ends = (*ends[0], 0.0), (*ends[1], 0.0)
        keys = []
        for k, (at, values, _) in enumerate(frames[1:-1], 1):
            value = tuple(_value(values, name) for name in names) + ((0.0,) if prop == "blur" else ())
            keys.append(Keyframe(at, amounts(prop, at, value, ends), frames[k - 1][2]))
        if keys:
            into_last = frames[-2][2] or curve
            cues.append(
                PresetCue(
                    prop,
                    start,
                    1.0,
                    max(0.0, motion.delay),
                    whole,
                    into_last,
                    keyframes=tuple(keys),
                    first=ends[0],
                    last=ends[1],
                )
            )
    if first.fill is not None and len(frames) > 2:
        keys = [Keyframe(at, v.fill, frames[k - 1][2]) for k, (at, v, _) in enumerate(frames[1:-1], 1) if v.fill]
        cues.append(PresetCue("fill", start, 1.0, max(0.0, motion.delay), whole, curve, keyframes=tuple(keys)))
    if _is_rest(last) and not _is_rest(first):
        return Preset(motion.name, "enter", whole, tuple(cues), *_away(first), size=(BOX, BOX))
    if _is_rest(first) and not _is_rest(last):
        return Preset(motion.name, "leave", whole, tuple(cues), *_away(last), size=(BOX, BOX))
    if not _is_rest(first):
        says = tr("neither its first nor its last keyframe is the layer at rest; only its times are taken.")
        lost.append(f"{motion.name}: {says}")
    return Preset(motion.name, "layer motion", whole, tuple(cues), size=(BOX, BOX))


def _away(values: Values) -> tuple[Away, Away]:
    """Where a layer is absent: shifts as shares of the layer, and as they were written."""
    number: dict[str, Any] = {n: _value(values, n) for n in ("rotation", "scale_x", "scale_y", "opacity", "blur")}
    x, y = _value(values, "shift_x"), _value(values, "shift_y")
    cut = values.cut or (0.0,) * 4
    number["blur"] = max(0.0, number["blur"])
    return (Away(shift_x=x / BOX, shift_y=y / BOX, cut=cut, **number), Away(shift_x=x, shift_y=y, cut=cut, **number))


def _loop(motion: Motion, frames: Frames) -> Preset | None:
    """A loop: all keyframes on the way between the layer at rest and one second pose."""

    def away(values: Values) -> list[float]:
        made = [_value(values, name) - getattr(_REST, name) for name in _NUMBERS]
        return [made[0] / BOX, made[1] / BOX, made[2] / 90.0, *made[3:6], made[6] / 10.0]

    far = max(frames, key=lambda frame: sum(v * v for v in away(frame[1])))[1]
    way = away(far)
    size = sum(v * v for v in way)
    fills = [values.fill for _, values, _ in frames if values.fill is not None]
    if size < _NEAR and not fills:
        return None
    if any(values.cut and any(values.cut) for _, values, _ in frames):
        return None
    keys = []
    for k, (at, values, _) in enumerate(frames):
        own = away(values)
        share = sum(a * b for a, b in zip(own, way, strict=True)) / size if size >= _NEAR else 0.0
        if any(abs(a - share * b) > _NEAR for a, b in zip(own, way, strict=True)):
            return None
        keys.append(RoundKey(at, round(share, 6), frames[k - 1][2] if k else None))
    if fills and size < _NEAR:
        keys = [RoundKey(at, float(k % 2), frames[k - 1][2] if k else None) for k, (at, _, _) in enumerate(frames)]
        if len(set(fills)) != 2:
            return None
    names = ("shift_x", "shift_y", "rotation", "scale_x", "scale_y", "opacity")
    pose = Pose(*(_value(far, name) for name in names))
    changes = LayerChanges(
        blur=_value(far, "blur") if far.blur else None,
        fills=(Solid(colour.to_text(np.array(fills[1 if len(fills) > 1 else 0]))),) if fills else None,
    )
    both = motion.direction.startswith("alternate")
    simple = len(keys) == 2 and keys[0].far == 0.0 and keys[1].far == 1.0
    duration = motion.duration * (2.0 if both else 1.0)
    rounds = 0 if math.isinf(motion.rounds) else max(1, round(motion.rounds / (2.0 if both else 1.0)))
    if both and not simple:
        there = [RoundKey(key.at / 2.0, key.far, key.curve) for key in keys]
        back = [
            RoundKey(1.0 - key.at / 2.0, key.far, keys[k + 1].curve) for k, key in reversed(list(enumerate(keys[:-1])))
        ]
        keys = [*there, *back]
    curve = frames[0][2] or Line()
    loop = Loop(
        "l",
        "l",
        "s",
        motion.name,
        pose,
        duration,
        "there and back" if both and simple else "one way",
        wait=max(0.0, motion.delay),
        rounds=rounds,
        start_offset=max(0.0, -motion.delay),
        curve=curve,
        changes=changes,
        keyframes=() if simple else tuple(keys),
    )
    layer = Layer("s", "s", "Layer", Box(), 20.0, 20.0, BOX, BOX, fills=(Solid(_GREY),))
    return Preset(motion.name, "loop", duration, size=(BOX, BOX), loop=LoopOf(loop, layer))
