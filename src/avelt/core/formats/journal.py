"""A project file and what changed in it since, a line each: keeping an edit costs what the edit touched.

A line is a checksum and one JSON object, packed. It says of which record it is a change, so that lines which a stop
left behind beside a newer record count for nothing; what was written half, and all after it, counts for nothing either.
"""

from __future__ import annotations

import base64
import io
import os
import zipfile
import zlib
from collections.abc import Mapping
from typing import Any

import msgspec

from avelt.core.errors import FormatError
from avelt.core.formats.project_file import pack, pack_document, unpack
from avelt.core.model.limits import MAX_PROJECT_JSON_BYTES
from avelt.core.model.values import Project
from avelt.core.words import tr

NOTE = "recovery.json"
#: Lists of a project whose entries have ids of their own, which stay when an entry changes.
_BY_ID = ("assets", "curves", "inputs", "parts", "frames", "routes", "tracks")


class Note(msgspec.Struct):
    """What stands beside the project in a record: ``of`` names the record, ``path`` the file that it belongs to."""

    of: str = ""
    path: str | None = None


class _Line(msgspec.Struct):
    of: str
    path: str | None
    values: dict[str, msgspec.Raw]
    entries: dict[str, dict[str, msgspec.Raw]]
    order: dict[str, list[str]]
    data: dict[str, str]


def record_of(project: Project, path: str | None) -> tuple[bytes, str]:
    """A whole record, and its name for the lines that come after it."""
    name = os.urandom(8).hex()
    return pack(project, more={NOTE: msgspec.json.encode(Note(name, path))}), name


def line_of(before: Project, after: Project, of: str, path: str | None) -> bytes:
    """What changed, as one line. What is the same object on both sides is not looked into."""
    line = _Line(of, path, {}, {}, {}, {})
    for name in Project.__struct_fields__:
        old, new = getattr(before, name), getattr(after, name)
        if old is new:
            continue
        if name not in _BY_ID:
            line.values[name] = msgspec.Raw(msgspec.json.encode(new))
            continue
        known = {entry.id: entry for entry in old}
        line.order[name] = [entry.id for entry in new]
        changed = [entry for entry in new if known.get(entry.id) is not entry]
        if name == "assets":
            line.data = {asset.id: base64.b64encode(asset.data).decode() for asset in changed}
            changed = [msgspec.structs.replace(asset, data=b"") for asset in changed]
        line.entries[name] = {entry.id: msgspec.Raw(msgspec.json.encode(entry)) for entry in changed}
    text = base64.b64encode(zlib.compress(msgspec.json.encode(line), 1))
    return b"%08x %s\n" % (zlib.crc32(text), text)


def replayed(record: bytes, lines: bytes, place: str) -> tuple[Project, Note]:
    """The project of a record with its changes; ``FormatError`` for anything else.

    Lines that belong to another record are skipped; the first that is damaged ends it.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(record)) as archive:
            note = _note(archive)
            known = list(_changes(lines, note.of))
            if not known:
                return unpack(record, place), note
            if archive.getinfo("project.json").file_size > MAX_PROJECT_JSON_BYTES:
                raise FormatError(tr("The project is too large."), place)
            document = msgspec.json.decode(archive.read("project.json"))
            names = [name for name in archive.namelist() if name.startswith("assets/")]
            assets = {name.split("/")[1].split(".")[0]: archive.read(name) for name in names}
    except (zipfile.BadZipFile, KeyError, msgspec.DecodeError, OSError, EOFError, RuntimeError, ValueError) as error:
        raise FormatError(tr("What was kept aside cannot be read: {error}.", error=error), place) from None
    for line in known:
        _apply(document, line)
        assets |= {ident: base64.b64decode(data) for ident, data in line.data.items()}
        note = Note(note.of, line.path)
    return unpack(pack_document(document, assets), place), note


def _note(archive: zipfile.ZipFile) -> Note:
    return msgspec.json.decode(archive.read(NOTE), type=Note) if NOTE in archive.namelist() else Note()


def _changes(lines: bytes, of: str) -> list[_Line]:
    found: list[_Line] = []
    for row in lines.split(b"\n")[:-1]:  # what comes after the last end of a line was cut off
        check, _, text = row.partition(b" ")
        if check != b"%08x" % zlib.crc32(text):
            break
        try:
            line = msgspec.json.decode(zlib.decompress(base64.b64decode(text)), type=_Line)
        except (msgspec.DecodeError, ValueError, zlib.error):
            break
        if line.of == of:
            found.append(line)
    return found


def _apply(document: dict[str, Any], line: _Line) -> None:
    for name, value in line.values.items():
        document[name] = msgspec.json.decode(value)
    for name, order in line.order.items():
        entries: Mapping[str, Any] = {entry["id"]: entry for entry in document.get(name, ())}
        changed = {ident: msgspec.json.decode(raw) for ident, raw in line.entries[name].items()}
        there = {**entries, **changed}
        document[name] = [there[ident] for ident in order if ident in there]
