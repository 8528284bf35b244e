"""What a preset carries, piece by piece, in words; and a preset without some of it.

A piece that is left out is not in the preset any more, and what it is put on keeps its own there: ``left_out`` of the
preset says so, as does ``How.left_out`` for one use.
"""

from __future__ import annotations

from collections.abc import Collection, Iterable
from typing import NamedTuple

from msgspec.structs import replace

from avelt.core.errors import EditError
from avelt.core.model.motion import Cue, Transition
from avelt.core.model.properties import BY_KEY, PROPERTIES
from avelt.core.model.values import Loop, Pose
from avelt.core.presets.moves import OF_CHANGES, OF_POSE, of_loop
from avelt.core.presets.values import Preset, PresetCue, Recorded
from avelt.core.words import tr

LENGTH, TIMES, CURVES, WAYS = "length", "times", "curves", "ways"
TIES, STAGGERS, CONTENT, WAITS, PHASES = "ties", "staggers", "content", "waits", "phases"
ALWAYS = (LENGTH, TIMES, CURVES, WAYS)  # what every motion has, also where it is as usual
_STILL = Pose()


class Piece(NamedTuple):
    """A piece of a preset: the word by which it is left out, and what it is in words."""

    key: str
    words: str


def pieces(preset: Preset) -> tuple[Piece, ...]:
    """What the preset carries beside its kind; empty where it is one thing only."""
    if preset.recorded is not None:
        return tuple(_of_recorded(preset, preset.recorded))
    if preset.loop is not None:
        return tuple(_of_loop(preset.loop.loop))
    if preset.part is not None:
        part = preset.part.parts[-1]
        count = len(part.tracks)
        return (Piece(PHASES, tr("{n} running orders", "{n} running order", count)),) if count else ()
    return tuple(_of_layer(preset))


def without(preset: Preset, keys: Collection[str]) -> Preset:
    """The preset without some pieces. ``EditError`` for one that it does not carry, or when nothing would be left."""
    known = [piece.key for piece in pieces(preset)]
    for key in keys:
        if key not in known and key not in preset.left_out:
            there = tr("it carries {known}", known=", ".join(known)) if known else tr("it is one thing only")
            raise EditError(tr("“{preset}” carries no {key!r}: {there}.", preset=preset.name, key=key, there=there))
    gone = {key for key in keys if key in known}
    if not gone:
        return preset
    if gone == set(known):
        raise EditError(tr("Nothing would be left of “{preset}”.", preset=preset.name))
    made = replace(preset, left_out=tuple(dict.fromkeys((*preset.left_out, *keys))))
    if preset.recorded is not None:
        return replace(made, recorded=_less_recorded(preset.recorded, gone))
    if preset.loop is not None:
        return replace(made, loop=replace(preset.loop, loop=_less_loop(preset.loop.loop, gone)))
    if preset.part is not None:
        *inner, part = preset.part.parts
        return replace(made, part=replace(preset.part, parts=(*inner, replace(part, tracks=()))))
    absent, absent_px = (None, None) if WAYS in gone else (preset.absent, preset.absent_px)
    return replace(made, cues=tuple(_less_cues(preset.cues, gone)), absent=absent, absent_px=absent_px)


def as_it_was(old: Transition, new: Transition, left_out: Collection[str]) -> Transition:
    """A motion after a preset was put on it, with the pieces that were left out as they were before."""
    if not left_out:
        return new
    gone = set(left_out)
    before, there = {cue.key: cue for cue in old.cues}, {cue.key for cue in new.cues}
    cues = [_cue_as_it_was(cue, before.get(cue.key, Cue(*cue.key)), gone) for cue in new.cues if cue.prop not in gone]
    cues += [cue for cue in old.cues if cue.prop in gone]
    others = (cue for cue in old.cues if cue.prop not in gone and cue.key not in there)
    cues += [_cue_as_it_was(Cue(*cue.key), cue, gone) for cue in others]
    made = replace(new, cues=tuple(cue for cue in cues if not cue.empty))
    for key, names in _FIELDS.items():
        if key in gone:
            made = replace(made, **{name: getattr(old, name) for name in names})
    return made


#: What of a transition belongs to a piece beside its cues.
_FIELDS: dict[str, tuple[str, ...]] = {
    CURVES: ("curve", "leave_curve", "enter_curve"),
    WAYS: ("leave", "enter", "absents"),
    TIES: ("ties",),
    STAGGERS: ("staggers",),
    CONTENT: ("settled",),
}


def _cue_as_it_was(cue: Cue, before: Cue, gone: set[str]) -> Cue:
    if TIMES in gone:
        cue = replace(cue, start=before.start, end=before.end)
    return replace(cue, curve=before.curve) if CURVES in gone and not cue.prop else cue


# In words


def _details(cues: Iterable[Cue | PresetCue]) -> str:
    found = list(cues)
    words = [tr("path")] if any(cue.motion_path is not None for cue in found) else []
    keys = sum(len(cue.keyframes) for cue in found)
    words += [tr("{n} keyframes", "{n} keyframe", keys)] if keys else []
    return f" ({', '.join(words)})" if words else ""


def _props(cues: Iterable[Cue | PresetCue]) -> Iterable[Piece]:
    found = list(cues)
    for prop in PROPERTIES:
        mine = [cue for cue in found if cue.prop == prop.key]
        if mine:
            yield Piece(prop.key, f"{prop.label}{_details(mine)}")


def _of_layer(preset: Preset) -> Iterable[Piece]:
    times = [(cue.start_ms, cue.end_ms) for cue in preset.cues if cue.start_ms is not None or cue.end_ms is not None]
    if times:
        first = min(start or 0.0 for start, _ in times)
        last = max(end if end is not None else preset.duration for _, end in times)
        yield Piece(TIMES, tr("times, {first:g} to {last:g} ms", first=first, last=last))
    if any(cue.curve is not None for cue in preset.cues if not cue.prop):
        yield Piece(CURVES, tr("curve"))
    if preset.absent is not None or preset.absent_px is not None:
        yield Piece(WAYS, tr("way to come") if preset.kind == "enter" else tr("way to go"))
    yield from _props(preset.cues)


def _of_recorded(preset: Preset, recorded: Recorded) -> Iterable[Piece]:
    motion = recorded.transition
    whole = preset.kind == "transition"
    if whole and LENGTH not in preset.left_out:
        wait = tr(", after {ms:g} ms", ms=recorded.delay) if recorded.delay else ""
        yield Piece(LENGTH, tr("length, {duration:g} ms{wait}", duration=preset.duration, wait=wait))
    if any(cue.start is not None or cue.end is not None for cue in motion.cues):
        yield Piece(TIMES, tr("times of its layers"))
    if CURVES not in preset.left_out and (whole or any(cue.curve for cue in motion.cues if not cue.prop)):
        yield Piece(CURVES, tr("curves"))
    if WAYS not in preset.left_out and (whole or motion.absents):
        yield Piece(WAYS, tr("ways to come and go"))
    yield from _props(motion.cues)
    for key, words, found in (
        (TIES, tr("{n} ties", "{n} tie", len(motion.ties)), motion.ties),
        (STAGGERS, tr("{n} staggers", "{n} stagger", len(motion.staggers)), motion.staggers),
        (CONTENT, tr("how {n} contents change", "how {n} content change", len(motion.settled)), motion.settled),
    ):
        if found:
            yield Piece(key, words)


def _of_loop(loop: Loop) -> Iterable[Piece]:
    moved = of_loop(loop)
    for prop in PROPERTIES:
        if prop.key in moved:
            path = tr(" (path)") if prop.key == "position" and loop.path else ""
            yield Piece(prop.key, f"{prop.label}{path}")
    if loop.wait or loop.jitter:
        yield Piece(WAITS, tr("wait of {wait:g} ms", wait=loop.wait))


# Less of it


def _less_cues(cues: Iterable[PresetCue], gone: set[str]) -> Iterable[PresetCue]:
    for cue in cues:
        if cue.prop in gone:
            continue
        if TIMES in gone:
            cue = replace(cue, start=None, end=None, start_ms=None, end_ms=None)
        yield replace(cue, curve=None) if CURVES in gone and not cue.prop else cue


def _less_recorded(recorded: Recorded, gone: set[str]) -> Recorded:
    motion, plain = recorded.transition, Transition()
    cues = tuple(_cue_as_it_was(cue, Cue(*cue.key), gone) for cue in motion.cues if cue.prop not in gone)
    motion = replace(motion, cues=cues)
    for key, names in _FIELDS.items():
        if key in gone:
            motion = replace(motion, **{name: getattr(plain, name) for name in names})
    # What a tie or a stagger hangs on may be a cue that was left out.
    props = {prop for prop in gone if prop in BY_KEY}
    ties = tuple(tie for tie in motion.ties if tie.cue.prop not in props and tie.to.prop not in props)
    rules = ((rule, tuple(key for key in rule.cues if key.prop not in props)) for rule in motion.staggers)
    motion = replace(motion, ties=ties, staggers=tuple(replace(r, cues=keys) for r, keys in rules if len(keys) > 1))
    return replace(recorded, transition=motion, delay=0.0 if LENGTH in gone else recorded.delay)


def _less_loop(loop: Loop, gone: set[str]) -> Loop:
    still = {name: getattr(_STILL, name) for name, prop in OF_POSE.items() if prop in gone}
    same: dict[str, None] = {name: None for name, prop in OF_CHANGES.items() if prop in gone}
    made = replace(loop, offset=replace(loop.offset, **still), changes=replace(loop.changes, **same))
    if "position" in gone:
        made = replace(made, path=(), rotates=False)
    return replace(made, wait=0.0, jitter=0.0) if WAITS in gone else made
