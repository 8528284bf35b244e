"""Packs: presets that go from hand to hand in one zip, with a manifest."""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Sequence

import msgspec

from avelt.core.errors import FormatError
from avelt.core.model.limits import MAX_PACK_BYTES, MAX_PRESET_BYTES, MAX_ZIP_ENTRIES
from avelt.core.model.value import Value
from avelt.core.presets.shelf import Trouble, file_name
from avelt.core.presets.values import Preset, from_json, to_json
from avelt.core.words import tr

FORMAT = 1
PACK_ENDING = ".avelt-pack"
_MANIFEST = "manifest.json"
_EPOCH = (1980, 1, 1, 0, 0, 0)  # so that the same pack has the same bytes


class Manifest(Value, frozen=True):
    """What is in a pack, and whose it is. ``presets`` are the names of its files, in its order."""

    presets: tuple[str, ...]
    author: str = ""
    licence: str = ""
    notes: str = ""
    format: int = FORMAT


def pack(presets: Sequence[Preset], author: str = "", licence: str = "", notes: str = "") -> bytes:
    """Presets as a pack."""
    names: list[str] = []
    for preset in presets:
        names.append(file_name(preset.name, names))
    manifest = msgspec.to_builtins(Manifest(tuple(names), author, licence, notes)) | {"format": FORMAT}
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        _put(archive, _MANIFEST, msgspec.json.format(msgspec.json.encode(manifest), indent=2) + b"\n")
        for name, preset in zip(names, presets, strict=True):
            _put(archive, name, to_json(preset))
    return buffer.getvalue()


def _put(archive: zipfile.ZipFile, name: str, data: bytes) -> None:
    info = zipfile.ZipInfo(name, _EPOCH)
    info.compress_type = zipfile.ZIP_DEFLATED
    archive.writestr(info, data)


def unpack(data: bytes, place: str) -> tuple[Manifest, tuple[Preset, ...], tuple[Trouble, ...]]:
    """What a pack holds, and what in it is no preset. ``FormatError`` when it is no pack at all."""
    if len(data) > MAX_PACK_BYTES:
        raise FormatError(
            tr("The pack is larger than {max_pack_bytes} MB.", max_pack_bytes=MAX_PACK_BYTES // 2**20), place
        )
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            infos = {info.filename: info for info in archive.infolist()[:MAX_ZIP_ENTRIES]}
            manifest = _manifest(archive, infos, place)
            presets: list[Preset] = []
            troubles: list[Trouble] = []
            for name in dict.fromkeys(manifest.presets):
                try:
                    if name not in infos:
                        raise FormatError(tr("The pack does not hold this file."), name)
                    presets.append(from_json(_entry(archive, infos[name]), name))
                except FormatError as error:
                    troubles.append(Trouble(name, str(error)))
    except zipfile.BadZipFile:
        raise FormatError(
            tr("This is not a pack ({pack_ending}): it is no zip file.", pack_ending=PACK_ENDING), place
        ) from None
    return manifest, tuple(presets), tuple(troubles)


def _manifest(archive: zipfile.ZipFile, infos: dict[str, zipfile.ZipInfo], place: str) -> Manifest:
    if _MANIFEST not in infos:
        raise FormatError(tr("This is not a pack: it has no {manifest}.", manifest=_MANIFEST), place)
    try:
        manifest = msgspec.json.decode(_entry(archive, infos[_MANIFEST]), type=Manifest)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise FormatError(
            tr("The manifest of the pack is broken: {rstrip}.", rstrip=str(error).rstrip(".")), place
        ) from None
    if manifest.format > FORMAT:
        raise FormatError(tr("The pack was written by a newer Avelt (format {format}).", format=manifest.format), place)
    return manifest


def _entry(archive: zipfile.ZipFile, info: zipfile.ZipInfo) -> bytes:
    """One file of it; never more than a preset may have, whatever its head says."""
    try:
        with archive.open(info) as stream:
            data = stream.read(MAX_PRESET_BYTES + 1)
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, ValueError, NotImplementedError, RuntimeError):
        raise FormatError(tr("This file of the pack cannot be read."), info.filename) from None
    if len(data) > MAX_PRESET_BYTES:
        raise FormatError(tr("This file of the pack is too large."), info.filename)
    return data


def is_pack(name: str) -> bool:
    """Whether a file's name is that of a pack."""
    return name.lower().endswith(PACK_ENDING)
