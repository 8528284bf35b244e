"""A preset: motion kept for other layers, frames and projects. Times are shares of a length, shifts of a layer."""

from __future__ import annotations

from base64 import b64decode
from hashlib import sha256
from typing import Any, Literal, get_args

import msgspec
from msgspec.structs import replace

from avelt.core.curves.named import STARTERS
from avelt.core.errors import FormatError
from avelt.core.formats.checked import check
from avelt.core.formats.checked_motion import away_is_sound, curve_is_sound, keys_are_sound
from avelt.core.formats.migrate import migrated_preset
from avelt.core.formats.sound import number_is_sound
from avelt.core.model.curves import PlainCurve
from avelt.core.model.limits import MAX_MS, MAX_PRESET_BYTES
from avelt.core.model.motion import Cue, Keyframe, MotionPath, Space, Stagger, Transition
from avelt.core.model.properties import KEYED
from avelt.core.model.value import Value
from avelt.core.model.values import Asset, Away, Frame, Layer, Loop, Part, Project, Route
from avelt.core.words import tr

FORMAT = 4
ENDING = ".avelt-preset"
STARTER_IDS = {curve.id for curve in STARTERS}
_MOST_WORDS = 1_000


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


class Recorded(Value, frozen=True):
    """A whole transition, or some pairs of one: stand-ins of the layers that it was recorded on (their names, kinds and
    boxes say who plays which role elsewhere), and the motion between them."""

    left: Frame
    right: Frame
    transition: Transition
    delay: float = 0.0


class LoopOf(Value, frozen=True):
    """A loop, and a stand-in of the layer that it was on."""

    loop: Loop
    layer: Layer


class PresetAsset(Value, frozen=True):
    """A picture that a part shows, in base64."""

    id: str
    ext: str
    w: int
    h: int
    data: str


class PartOf(Value, frozen=True):
    """A part, and before it the parts that it uses."""

    parts: tuple[Part, ...]
    assets: tuple[PresetAsset, ...] = ()


Kind = Literal[
    "layer motion", "enter", "leave", "shared", "transition", "loop", "stagger", "curve", "motion path", "part"
]
KINDS: tuple[Kind, ...] = get_args(Kind)
#: What is put on pairs of a route.
ON_PAIRS: tuple[Kind, ...] = ("layer motion", "enter", "leave", "shared", "stagger", "curve", "motion path")


class Preset(Value, frozen=True):
    """``absent`` (enters and leaves) has its shifts as shares of the layer's width and height, and
    ``absent_px`` as they were recorded. ``duration`` is that of the transition it was recorded in, ms; ``size`` the
    width and height of the layer, px: what its keyframes and motion paths say in px follows the size of another.

    ``when`` and ``not_when`` say in a sentence when to use it and when not, ``quieter`` names the preset that stands in
    for it where less motion is asked for. ``left_out``: the pieces (see ``pieces.py``) that were left out when it was
    saved: what it is put on keeps its own there. Of the others only what its kind holds is there.
    """

    name: str
    kind: Kind
    duration: float
    cues: tuple[PresetCue, ...] = ()
    absent: Away | None = None
    absent_px: Away | None = None
    note: str = ""
    size: tuple[float, float] = (0.0, 0.0)
    format: int = FORMAT
    tags: tuple[str, ...] = ()
    when: str = ""
    not_when: str = ""
    quieter: str = ""
    recorded: Recorded | None = None
    loop: LoopOf | None = None
    stagger: Stagger | None = None
    curve: PlainCurve | None = None
    motion_path: MotionPath | None = None
    part: PartOf | None = None
    left_out: tuple[str, ...] = ()


def to_json(preset: Preset) -> bytes:
    """The preset as a document."""
    plain = msgspec.to_builtins(preset)
    plain["format"] = preset.format
    return msgspec.json.format(msgspec.json.encode(plain), indent=2) + b"\n"


def from_json(data: bytes, place: str) -> Preset:
    """A preset from a document; ``FormatError`` with the place of what is wrong."""
    if len(data) > MAX_PRESET_BYTES:
        raise FormatError(tr("The preset is too large."), place)
    try:
        version = msgspec.json.decode(data, type=_Version)
        if version.format > FORMAT:
            raise FormatError(
                tr(
                    "The preset was written by a newer Avelt (format {format}, this one reads up to {format2}).",
                    format=version.format,
                    format2=FORMAT,
                ),
                place,
            )
        if version.format < FORMAT:
            preset = msgspec.convert(migrated_preset(msgspec.json.decode(data), version.format), Preset)
        else:
            preset = msgspec.json.decode(data, type=Preset)
    except FormatError as error:
        raise error.at(place) from None
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise FormatError(tr("This is not a preset: {rstrip}.", rstrip=str(error).rstrip(".")), place) from None
    try:
        _check(preset)
    except FormatError as error:
        raise error.at(place) from None
    return preset


class _Version(msgspec.Struct):
    format: int = 1


def _check(preset: Preset) -> None:
    if not preset.name.strip() or len(preset.name) > 200:
        raise FormatError(tr("A preset needs a name of up to 200 letters."), "name")
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
                raise FormatError(tr("This needs {count} numbers.", count=count), f"cues[{k}].{name}")
            for value in ends:
                number_is_sound(value, f"cues[{k}].{name}")
    for value in preset.size:
        number_is_sound(value, "size")
    for words in (*preset.tags, *preset.left_out, preset.when, preset.not_when, preset.quieter, preset.note):
        if len(words) > _MOST_WORDS:
            raise FormatError(tr("Words of a preset are at most {most_words} letters.", most_words=_MOST_WORDS))
    _check_kind(preset)
    for pose in (preset.absent, preset.absent_px):
        if pose is not None:
            for name in ("shift_x", "shift_y", "rotation", "scale_x", "scale_y", "opacity"):
                number_is_sound(getattr(pose, name), f"absent.{name}")
            away_is_sound(pose, "absent")


def _check_kind(preset: Preset) -> None:
    """What its kind holds is there, and holds together."""
    holds = {
        "shared": preset.recorded,
        "transition": preset.recorded,
        "loop": preset.loop,
        "stagger": preset.stagger,
        "curve": preset.curve,
        "motion path": preset.motion_path,
        "part": preset.part,
    }
    if preset.kind in holds and holds[preset.kind] is None:
        raise FormatError(tr("A preset of the kind “{kind}” holds one.", kind=tr(preset.kind)), preset.kind)
    if preset.curve is not None:
        curve_is_sound(preset.curve, set(), "curve")
    if preset.motion_path is not None:
        keys_are_sound(Cue(None, None, "position", motion_path=preset.motion_path), "motion_path")
    if preset.stagger is not None:
        number_is_sound(preset.stagger.ms, "stagger.ms", MAX_MS, 0.0)
        curve_is_sound(preset.stagger.curve, STARTER_IDS, "stagger.curve")
    check(as_project(preset))


def as_project(preset: Preset) -> Project:
    """What a preset holds of frames, loops and parts, as a project of its own."""
    project = Project(preset.name, curves=STARTERS)
    if preset.recorded is not None:
        found = preset.recorded
        route = Route("r", found.left.id, found.right.id, transition=found.transition, delay=found.delay)
        return replace(project, frames=(found.left, found.right), routes=(route,))
    if preset.loop is not None:
        layer = preset.loop.layer
        frame = Frame("f", "Frame", max(1.0, layer.w * 4), max(1.0, layer.h * 2), layers=(layer,))
        return replace(project, frames=(replace(frame, loops=(preset.loop.loop,)),))
    if preset.part is not None:
        assets = tuple(asset_of(entry) for entry in preset.part.assets)
        return replace(project, parts=preset.part.parts, assets=assets)
    return project


def asset_of(entry: PresetAsset) -> Asset:
    """A picture of a preset; ``FormatError`` when its bytes are none, or are not those that its id says."""
    try:
        data = b64decode(entry.data, validate=True)
    except ValueError:
        raise FormatError(tr("A picture of it is broken."), "assets") from None
    if sha256(data).hexdigest() != entry.id:
        raise FormatError(tr("A picture of it is not the one that it says."), "assets")
    return Asset(entry.id, entry.ext, entry.w, entry.h, data)


def schema() -> dict[str, Any]:
    """The JSON Schema of a preset file, made from the types."""
    return msgspec.json.schema(Preset)
