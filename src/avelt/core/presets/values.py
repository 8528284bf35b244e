"""A preset: motion kept for other layers. Times are shares of a length, shifts shares of the layer."""

from __future__ import annotations

from typing import Any, Literal

import msgspec

from avelt.core.errors import FormatError
from avelt.core.formats.checked_motion import away_is_sound, curve_is_sound, keys_are_sound
from avelt.core.formats.migrate import migrated_preset
from avelt.core.formats.sound import number_is_sound
from avelt.core.model.curves import PlainCurve
from avelt.core.model.limits import MAX_MS, MAX_PRESET_BYTES
from avelt.core.model.motion import Cue, Keyframe, MotionPath, Space
from avelt.core.model.properties import KEYED
from avelt.core.model.value import Value
from avelt.core.model.values import Away

FORMAT = 2
ENDING = ".avelt-preset"


class PresetCue(Value, frozen=True):
    """A cue of one property (empty: of the layer). ``start`` and ``end`` are shares of the length, the
    ``_ms`` ones what was recorded; ``None`` is inherited.

    The values of ``keyframes`` are how far they are from the straight blend between the layer's own states (see
    ``edits.keyframes.amounts``), which were ``first`` and ``last``; on a motion path they are shares of it. ``turned``:
    by how many degrees a rotation was typed to go.
    """

    prop: str = ""
    start: float | None = None
    end: float | None = None
    start_ms: float | None = None
    end_ms: float | None = None
    curve: PlainCurve | None = None
    shortest: bool | None = None
    space: Space | None = None
    muted: bool = False
    keyframes: tuple[Keyframe, ...] = ()
    first: tuple[float, ...] = ()
    last: tuple[float, ...] = ()
    motion_path: MotionPath | None = None
    turned: float | None = None


class Preset(Value, frozen=True):
    """``absent`` (enters and leaves) has its shifts as shares of the layer's width and height, and
    ``absent_px`` as they were recorded. ``duration`` is that of the transition it was recorded in, ms; ``size`` the
    width and height of the layer, px: what its keyframes and motion paths say in px follows the size of another."""

    name: str
    kind: Literal["cue set", "enter", "leave"]
    duration: float
    cues: tuple[PresetCue, ...] = ()
    absent: Away | None = None
    absent_px: Away | None = None
    note: str = ""
    size: tuple[float, float] = (0.0, 0.0)
    format: int = FORMAT


def to_json(preset: Preset) -> bytes:
    """The preset as a document."""
    plain = msgspec.to_builtins(preset)
    plain["format"] = preset.format
    return msgspec.json.format(msgspec.json.encode(plain), indent=2) + b"\n"


def from_json(data: bytes, place: str) -> Preset:
    """A preset from a document; ``FormatError`` with the place of what is wrong."""
    if len(data) > MAX_PRESET_BYTES:
        raise FormatError("The preset is too large.", place)
    try:
        version = msgspec.json.decode(data, type=_Version)
        if version.format > FORMAT:
            raise FormatError(
                f"The preset was written by a newer Avelt (format {version.format}, this one reads up to {FORMAT}).",
                place,
            )
        if version.format < FORMAT:
            preset = msgspec.convert(migrated_preset(msgspec.json.decode(data), version.format), Preset)
        else:
            preset = msgspec.json.decode(data, type=Preset)
    except FormatError as error:
        raise error.at(place) from None
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise FormatError(f"This is not a preset: {str(error).rstrip('.')}.", place) from None
    try:
        _check(preset)
    except FormatError as error:
        raise error.at(place) from None
    return preset


class _Version(msgspec.Struct):
    format: int = 1


def _check(preset: Preset) -> None:
    if not preset.name.strip() or len(preset.name) > 200:
        raise FormatError("A preset needs a name of up to 200 letters.", "name")
    number_is_sound(preset.duration, "length", MAX_MS, 0.0)
    for k, cue in enumerate(preset.cues):
        for share in (cue.start, cue.end):
            if share is not None:
                number_is_sound(share, f"cues[{k}]", 1000.0, 0.0)
        for ms in (cue.start_ms, cue.end_ms):
            if ms is not None:
                number_is_sound(ms, f"cues[{k}]", MAX_MS, 0.0)
        if cue.curve is not None:
            curve_is_sound(cue.curve, set(), f"cues[{k}].curve")
        if cue.turned is not None:
            number_is_sound(cue.turned, f"cues[{k}].turned")
        keys_are_sound(Cue(None, None, cue.prop, keyframes=cue.keyframes, motion_path=cue.motion_path), f"cues[{k}]")
        count = len(KEYED.get(cue.prop, ()))
        for name, ends in (("first", cue.first), ("last", cue.last)):
            if ends and len(ends) != count:
                raise FormatError(f"This needs {count} numbers.", f"cues[{k}].{name}")
            for value in ends:
                number_is_sound(value, f"cues[{k}].{name}")
    for value in preset.size:
        number_is_sound(value, "size")
    for pose in (preset.absent, preset.absent_px):
        if pose is not None:
            for name in ("shift_x", "shift_y", "rotation", "scale_x", "scale_y", "opacity"):
                number_is_sound(getattr(pose, name), f"absent.{name}")
            away_is_sound(pose, "absent")


def schema() -> dict[str, Any]:
    """The JSON Schema of a preset file, made from the types."""
    return msgspec.json.schema(Preset)
