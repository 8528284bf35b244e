"""Presets as Design Tokens: the types ``transition``, ``cubicBezier`` and ``duration`` of the Design Tokens Format
Module of the Design Tokens Community Group. What a token cannot say travels in its ``$extensions``, so that a preset
comes back whole."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import Any

import msgspec

from avelt.core.curves.handles_of import nearest_handles
from avelt.core.curves.text import css
from avelt.core.errors import FormatError
from avelt.core.formats.plain_json import plain_json
from avelt.core.model.curves import Handles, Line, PlainCurve
from avelt.core.model.limits import MAX_MS, MAX_PRESET_BYTES
from avelt.core.presets.shelf import Trouble
from avelt.core.presets.values import Preset, PresetCue, from_json, to_json
from avelt.core.words import tr

TOKENS_ENDING = ".tokens.json"
_OURS = "avelt.preset"
_DEEP = 20  # references that refer on
_UNITS = {"ms": 1.0, "s": 1000.0}
Plain = dict[str, Any]


def to_tokens(presets: Sequence[Preset]) -> tuple[bytes, tuple[str, ...]]:
    """The presets as a tokens file, and a sentence for each curve that is only near the one that is meant."""
    document: Plain = {}
    near: list[str] = []
    for preset in presets:
        curve = curve_of(preset)
        handles, error = nearest_handles(curve)
        if error:
            near.append(
                tr(
                    "{preset}: a token says the curve only nearly; {curve} is in its extensions.",
                    preset=preset.name,
                    curve=css(curve),
                )
            )
        if preset.kind == "curve":
            token: Plain = {"$type": "cubicBezier", "$value": handles}
        else:
            start, end = span_of(preset)
            token = {
                "$type": "transition",
                "$value": {"duration": _ms(end - start), "delay": _ms(start), "timingFunction": handles},
            }
        words = preset.when or preset.note
        token |= {"$description": words} if words else {}
        token["$extensions"] = {_OURS: msgspec.json.decode(to_json(preset))}
        document[preset.name.translate({ord(letter): "-" for letter in "{}."}).lstrip("$")] = token
    return msgspec.json.format(msgspec.json.encode(document), indent=2) + b"\n", tuple(near)


def curve_of(preset: Preset) -> PlainCurve:
    """The curve that a preset feels like: that of its layer as a whole, else the first that there is."""
    curves: list[object] = [preset.curve, *(cue.curve for cue in preset.cues)]
    if preset.recorded is not None:
        curves.append(preset.recorded.transition.curve)
    if preset.loop is not None:
        curves.append(preset.loop.loop.curve)
    if preset.stagger is not None:
        curves.append(preset.stagger.curve)
    return next((curve for curve in curves if isinstance(curve, PlainCurve)), Line())


def span_of(preset: Preset) -> tuple[float, float]:
    """When its layer moves as a whole, ms; all of its length where it says nothing."""
    whole = next((cue for cue in preset.cues if not cue.prop), PresetCue())
    start = whole.start if whole.start is not None else 0.0
    end = whole.end if whole.end is not None else 1.0
    return start * preset.duration, end * preset.duration


def _ms(value: float) -> Plain:
    return {"value": round(value, 3), "unit": "ms"}


def from_tokens(data: bytes, place: str) -> tuple[tuple[Preset, ...], tuple[Trouble, ...]]:
    """The presets of a tokens file, and what in it was not understood, by its path. ``FormatError`` when it is none."""
    document = plain_json(data, MAX_PRESET_BYTES, tr("tokens file"), place)
    if not isinstance(document, dict):
        raise FormatError(tr("This is not a tokens file: it begins with no object."), place)
    presets: list[Preset] = []
    troubles: list[Trouble] = []
    for path, token, kind in _tokens(document, (), ""):
        name = ".".join(path)
        if kind not in ("transition", "cubicBezier"):
            if kind == "duration":
                troubles.append(Trouble(name, tr("{name}: a duration alone moves nothing.", name=name)))
            continue
        try:
            presets.append(_preset(document, path, token, kind))
        except FormatError as error:
            troubles.append(Trouble(name, str(error.at(name))))
    return tuple(presets), tuple(troubles)


def _tokens(group: Plain, path: tuple[str, ...], kind: str) -> Iterator[tuple[tuple[str, ...], Plain, str]]:
    """All tokens of a group, with their types; a type is inherited."""
    if len(path) > _DEEP:
        return
    own = group.get("$type")
    kind = own if isinstance(own, str) else kind
    if "$value" in group:
        yield path, group, kind
        return
    for name, value in group.items():
        if not name.startswith("$") and isinstance(value, dict):
            yield from _tokens(value, (*path, name), kind)


def _preset(document: Plain, path: tuple[str, ...], token: Plain, kind: str) -> Preset:
    extensions = token.get("$extensions")
    if isinstance(extensions, dict) and _OURS in extensions:
        return from_json(msgspec.json.encode(extensions[_OURS]), ".".join(path))
    value = _resolved(document, token["$value"])
    words = token.get("$description")
    note = words if isinstance(words, str) else ""
    name = " ".join(path)
    if kind == "cubicBezier":
        made = Preset(name, "curve", 0.0, note=note, curve=_curve(value))
    else:
        if not isinstance(value, dict):
            raise FormatError(tr("A transition has duration, delay and timingFunction."))
        lasts, waits = (_time(document, value.get(key, 0)) for key in ("duration", "delay"))
        curve = _curve(_resolved(document, value.get("timingFunction", [0, 0, 1, 1])))
        whole = lasts + waits
        start = waits / whole if whole else 0.0
        cue = PresetCue("", start, 1.0, waits, whole, curve)
        made = Preset(name, "layer motion", whole, (cue,), note=note)
    return from_json(to_json(made), ".".join(path))


def _resolved(document: Plain, value: Any) -> Any:
    """A value, or that of the token that it refers to."""
    for _ in range(_DEEP):
        if not (isinstance(value, str) and value.startswith("{") and value.endswith("}")):
            return value
        found: Any = document
        for step in value[1:-1].split("."):
            found = found.get(step) if isinstance(found, dict) else None
        if not isinstance(found, dict) or "$value" not in found:
            raise FormatError(tr("There is no token {value}.", value=value))
        value = found["$value"]
    raise FormatError(tr("Its references go round in a circle."))


def _curve(value: Any) -> Handles:
    if not (isinstance(value, list) and len(value) == 4 and all(_is_number(entry) for entry in value)):
        raise FormatError(tr("A cubicBezier has four numbers."))
    return Handles(*(float(entry) for entry in value))


def _time(document: Plain, value: Any) -> float:
    """A duration in ms: ``{"value": 200, "unit": "ms"}``, or as older files say it, "200ms"."""
    value = _resolved(document, value)
    if isinstance(value, str):
        unit = "ms" if value.endswith("ms") else "s" if value.endswith("s") else ""
        try:
            value = {"value": float(value.removesuffix(unit)), "unit": unit}
        except ValueError:
            raise FormatError(tr("{value!r} is no duration.", value=value)) from None
    if value == 0:
        return 0.0
    if not (isinstance(value, dict) and _is_number(value.get("value")) and value.get("unit") in _UNITS):
        raise FormatError(tr("A duration has a value and a unit, ms or s."))
    ms = float(value["value"]) * _UNITS[value["unit"]]
    if not 0.0 <= ms <= MAX_MS:
        raise FormatError(tr("A duration is between 0 and an hour."))
    return ms


def _is_number(value: Any) -> bool:
    return isinstance(value, int | float) and not isinstance(value, bool)
