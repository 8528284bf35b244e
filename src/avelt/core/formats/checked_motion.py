"""Whether motion read from outside holds together: curves, cues, ties, triggers, running orders."""

from __future__ import annotations

import math
from itertools import pairwise

import msgspec

from avelt.core.curves.drawn import is_sound as drawn_wrong
from avelt.core.errors import FormatError
from avelt.core.formats.sound import number_is_sound, unique
from avelt.core.model import expressions
from avelt.core.model.curves import Curve, Drawn, Drops, Handles, Hold, Named, Points, Ring, Spring, Steps
from avelt.core.model.limits import MAX_MS, MAX_ROUNDS
from avelt.core.model.motion import Away, Cue, Transition
from avelt.core.model.phases import ForMs, Phase, Rounds, ShowBlend, ShowMotion, Track, poses_of
from avelt.core.model.properties import KEYED
from avelt.core.model.triggers import MOST_LAG, Trigger, trigger_row
from avelt.core.timing.schedule import circle
from avelt.core.words import tr

replace = msgspec.structs.replace


def curve_is_sound(curve: Curve, named: set[str], place: str) -> None:
    """Raise ``FormatError`` unless the curve can be evaluated; ``named`` are the curves that are there."""
    if isinstance(curve, Named):
        if curve.id not in named:
            raise FormatError(tr("The named curve {id!r} is not there.", id=curve.id), place)
    elif isinstance(curve, Handles):
        for value in (curve.x1, curve.x2):
            number_is_sound(value, place, 1.0, 0.0)
        for value in (curve.y1, curve.y2):
            number_is_sound(value, place, 1e6)
    elif isinstance(curve, Points):
        if not curve.points:
            raise FormatError(tr("A curve of points needs points."), place)
        last = -math.inf
        for at, value in curve.points:
            number_is_sound(at, place, 1e6)
            number_is_sound(value, place, 1e6)
            if at < last:
                raise FormatError(tr("The points of a curve must go forward."), place)
            last = at
    elif isinstance(curve, Steps):
        number_is_sound(curve.count, f"{place}.count", 10_000, 2 if curve.jump == "none" else 1)
    elif isinstance(curve, Drawn):
        for at, value in curve.points:
            number_is_sound(at, place, 1.0, 0.0)
            number_is_sound(value, place, 1e6)
        if wrong := drawn_wrong(curve.points):
            raise FormatError(wrong, place)
    elif isinstance(curve, Drops):
        number_is_sound(curve.count, f"{place}.count", 12, 0)
        number_is_sound(curve.keep, f"{place}.keep", 0.95, 0.0)
    elif isinstance(curve, Ring):
        number_is_sound(curve.swings, f"{place}.swings", 40, 0.0)
        number_is_sound(curve.decay, f"{place}.decay", 60, 0.0)
    elif isinstance(curve, Hold):
        number_is_sound(curve.at, f"{place}.at", 1.0, 0.0)
    elif isinstance(curve, Spring):
        number_is_sound(curve.bounce, f"{place}.bounce", 1.0)
        number_is_sound(curve.speed, f"{place}.speed", 100.0)


def transition_is_sound(transition: Transition, place: str, curves: set[str]) -> None:
    """Raise ``FormatError`` unless a transition can be played; ``curves`` are the named ones that are there."""
    if transition.duration is not None:
        number_is_sound(transition.duration, f"{place}.duration", MAX_MS, 0.0)
    for name in ("curve", "leave_curve", "enter_curve"):
        curve: Curve | None = getattr(transition, name)
        if curve is not None:
            curve_is_sound(curve, curves, f"{place}.{name}")
    for k, cue in enumerate(transition.cues):
        where = f"{place}.cues[{k}]"
        for time in (cue.start, cue.end):
            if time is not None:
                number_is_sound(time, where, MAX_MS, 0.0)
        if cue.curve is not None:
            curve_is_sound(cue.curve, curves, f"{where}.curve")
        keys_are_sound(cue, where, curves)
    for k, entry in enumerate(transition.absents):
        _away(entry.pose, f"{place}.absents[{k}].pose")
    _away(transition.leave, f"{place}.leave")
    _away(transition.enter, f"{place}.enter")
    for k, settled in enumerate(transition.settled):
        for share in (settled.swap_at, settled.order_at, settled.shift):
            if share is not None:
                number_is_sound(share, f"{place}.settled[{k}]", 1.0, 0.0)
    _hung(transition, place, curves)


def keys_are_sound(cue: Cue, place: str, curves: set[str] = frozenset()) -> None:  # type: ignore[assignment]
    """Raise ``FormatError`` unless the keyframes and the motion path of a cue can be used."""
    if cue.motion_path is not None:
        if len(cue.motion_path.points) % 3 != 2:
            raise FormatError(tr("A motion path needs 2 + 3 n points."), f"{place}.motion_path")
        for point in cue.motion_path.points:
            for value in point:
                number_is_sound(value, f"{place}.motion_path")
        pace = cue.motion_path.pace
        if pace and (len(pace) != len(cue.motion_path.points) // 3 or not all(0.0 < v < 1.0 for v in pace)):
            raise FormatError(tr("A pace is a share between 0 and 1 for each node."), f"{place}.motion_path.pace")
        if any(later < sooner for sooner, later in pairwise(pace)):
            raise FormatError(tr("The shares of a pace go up."), f"{place}.motion_path.pace")
    count = 1 if cue.motion_path is not None and cue.prop == "position" else len(KEYED.get(cue.prop, ()))
    if cue.keyframes and not count:
        raise FormatError(tr("This cue cannot have keyframes."), f"{place}.keyframes")
    last = 0.0
    for k, key in enumerate(cue.keyframes):
        number_is_sound(key.at, f"{place}.keyframes[{k}].at", 1.0, 0.0)
        if key.at < last:
            raise FormatError(tr("Keyframes must be in the order of their time."), f"{place}.keyframes[{k}].at")
        last = key.at
        if len(key.value) != count:
            raise FormatError(
                tr("This keyframe needs {n} numbers.", "This keyframe needs {n} number.", count),
                f"{place}.keyframes[{k}].value",
            )
        for value in key.value:
            number_is_sound(value, f"{place}.keyframes[{k}].value")
        if key.curve is not None:
            curve_is_sound(key.curve, curves, f"{place}.keyframes[{k}].curve")


def _hung(transition: Transition, place: str, curves: set[str]) -> None:
    made = replace(transition, ties=())
    for k, tie in enumerate(transition.ties):
        number_is_sound(tie.by, f"{place}.ties[{k}].by", MAX_MS)
        if circle(made, tie):
            raise FormatError(tr("Ties go in a circle."), f"{place}.ties[{k}]")
        made = replace(made, ties=(*made.ties, tie))
    unique([entry.id for entry in transition.staggers], f"{place}.staggers")
    for k, entry in enumerate(transition.staggers):
        where = f"{place}.staggers[{k}]"
        number_is_sound(entry.ms, f"{where}.ms", MAX_MS, 0.0)
        number_is_sound(entry.seed, f"{where}.seed", 2**31, 0)
        for value in entry.point:
            number_is_sound(value, f"{where}.point")
        curve_is_sound(entry.curve, curves, f"{where}.curve")


def _away(pose: Away, place: str) -> None:
    for name in ("shift_x", "shift_y", "rotation", "scale_x", "scale_y", "opacity"):
        number_is_sound(getattr(pose, name), f"{place}.{name}")
    away_is_sound(pose, place)


def away_is_sound(pose: Away, place: str) -> None:
    """Raise ``FormatError`` unless what only ways to leave and enter have is in its limits."""
    number_is_sound(pose.blur, f"{place}.blur", 1e5, 0.0)
    for share in pose.cut:
        number_is_sound(share, f"{place}.cut", 1.0, 0.0)


def trigger_is_sound(trigger: Trigger, place: str) -> None:
    """Layers, inputs and motions may be gone: that is shown as trouble. Numbers must be in their limits."""
    for field in trigger_row(trigger).fields:
        value, where = getattr(trigger, field.name), f"{place}.{field.name}"
        if field.kind == "ms":
            number_is_sound(value, where, MOST_LAG if field.name == "lag" else MAX_MS, 0.0)
        elif field.kind == "px":
            number_is_sound(value, where)
        elif field.kind == "share":
            number_is_sound(value, where, 100.0)
        elif field.kind == "value" and isinstance(value, float):
            number_is_sound(value, where, 1e15)


def tracks_are_sound(tracks: tuple[Track, ...], place: str, poses: set[str], curves: set[str]) -> None:
    """Raise ``FormatError`` unless running orders hold together; ``poses`` are those of their stage.

    Inputs and layers may be gone: that is shown as trouble.
    """
    unique([track.id for track in tracks], place)
    unique([track.name for track in tracks], place)
    for k, track in enumerate(tracks):
        unique([phase.id for phase in track.phases], f"{place}[{k}].phases")
        ids = {phase.id for phase in track.phases}
        for n, phase in enumerate(track.phases):
            _phase(phase, f"{place}[{k}].phases[{n}]", poses, ids, curves)


def _phase(phase: Phase, place: str, poses: set[str], phases: set[str], curves: set[str]) -> None:
    shows = phase.shows
    for pose in poses_of(shows):
        if pose not in poses:
            raise FormatError(tr("The pose {pose!r} is not there.", pose=pose), f"{place}.shows")
    if isinstance(shows, ShowMotion | ShowBlend):
        transition_is_sound(shows.transition, f"{place}.shows.transition", curves)
    if isinstance(shows, ShowBlend):
        number_is_sound(shows.lag, f"{place}.shows.lag", MAX_MS, 0.0)
        _short(shows.by, f"{place}.shows.by")
    if isinstance(phase.lasts, ForMs):
        number_is_sound(phase.lasts.ms, f"{place}.lasts.ms", MAX_MS, 0.0)
    if isinstance(phase.lasts, Rounds):
        number_is_sound(phase.lasts.count, f"{place}.lasts.count", MAX_ROUNDS, 1)
    for k, rule in enumerate(phase.then):
        where = f"{place}.then[{k}]"
        if rule.to not in phases:
            raise FormatError(tr("The phase {to!r} is not in this running order.", to=rule.to), f"{where}.to")
        _short(rule.only_if, f"{where}.only_if")
        number_is_sound(rule.duration, f"{where}.duration", MAX_MS, 0.0)
        curve_is_sound(rule.curve, curves, f"{where}.curve")
        if rule.on is not None:
            trigger_is_sound(rule.on, f"{where}.on")


def _short(text: str, place: str) -> None:
    if len(text) > expressions.MAX_LENGTH:
        raise FormatError(tr("The expression is too long."), place)
