"""Reading presets from a file of any kind: a preset, a pack, Design Tokens, code."""

from __future__ import annotations

from pathlib import Path

from avelt.core.errors import FormatError
from avelt.core.formats.disk import read_bytes
from avelt.core.formats.lottie_in import is_lottie
from avelt.core.model.limits import MAX_PACK_BYTES
from avelt.core.presets import packs, tokens
from avelt.core.presets.code_in import from_code
from avelt.core.presets.shelf import Trouble
from avelt.core.presets.values import Preset, from_json, to_json
from avelt.core.words import tr


def read_file(path: Path) -> tuple[tuple[Preset, ...], tuple[Trouble, ...]]:
    """The presets of a file, by its ending, and what in it is none. ``AveltError`` when the file as a whole is none."""
    data = read_bytes(path, MAX_PACK_BYTES)
    if packs.is_pack(path.name):
        return packs.unpack(data, str(path))[1:]
    if path.name.lower().endswith((".css", ".txt")):
        return from_code(_text(data, str(path)), str(path))
    if path.name.lower().endswith(".json"):
        return from_text(_text(data, str(path)), str(path))
    return (from_json(data, str(path)),), ()


def from_text(text: str, place: str) -> tuple[tuple[Preset, ...], tuple[Trouble, ...]]:
    """The presets of a text that was pasted or read: tokens, CSS, easing alone, Web Animations."""
    if is_lottie(text.encode()):
        raise FormatError(
            tr("This is a Lottie animation."), place, hint=tr("It comes in as a frame with loops: Import screens…")
        )
    if '"$value"' in text or '"$type"' in text:
        return tokens.from_tokens(text.encode(), place)
    return from_code(text, place)


def _text(data: bytes, place: str) -> str:
    try:
        return data.decode()
    except UnicodeDecodeError:
        raise FormatError(tr("This is no text in UTF-8."), place) from None


def as_file(preset: Preset, name: str) -> bytes:
    """A preset as a file of this name: a preset, a pack or Design Tokens, as its ending says."""
    if packs.is_pack(name):
        return packs.pack([preset])
    if name.lower().endswith(".json"):
        return tokens.to_tokens([preset])[0]
    return to_json(preset)
