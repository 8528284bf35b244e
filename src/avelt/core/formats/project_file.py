"""The ``.avelt`` file: a ZIP with ``mimetype``, ``project.json``, the assets and a preview.

Reading trusts nothing; writing is atomic: a temporary file beside, flushed to the disk, renamed over.
"""

from __future__ import annotations

import io
import zipfile
import zlib
from collections.abc import Iterable, Mapping
from pathlib import Path
from typing import Any

import msgspec

from avelt.core.errors import FileError, FormatError
from avelt.core.formats.disk import read_bytes, write_atomically
from avelt.core.formats.migrate import migrated
from avelt.core.formats.pictures_in import read_picture
from avelt.core.model.limits import (
    MAX_FILE_BYTES,
    MAX_PICTURE_BYTES,
    MAX_PROJECT_JSON_BYTES,
    MAX_ZIP_ENTRIES,
    MAX_ZIP_RATIO,
)
from avelt.core.model.values import FORMAT, Asset, Project
from avelt.core.words import tr

MIMETYPE = b"application/x-avelt"
_EPOCH = (2026, 1, 1, 0, 0, 0)  # one date for all entries, so that the same project gives the same bytes


def to_json(project: Project) -> bytes:
    """The project as its document, without the assets' bytes."""
    bare = msgspec.structs.replace(
        project, frames=(), assets=tuple(msgspec.structs.replace(asset, data=b"") for asset in project.assets)
    )
    # The format is written always: a value that is left out because it is the default says nothing in the next version.
    parts = [b'{"format":%d,' % FORMAT + msgspec.json.encode(bare)[1:-1]]
    # Frame by frame: one call for all would hold Python as long, and a window whose work is kept aside would stand.
    frames = [msgspec.json.encode(frame) for frame in project.frames]
    if frames:
        parts += [b',"frames":[', b",".join(frames), b"]"]
    return b"".join((*parts, b"}"))


def from_json(data: bytes, place: str) -> Project:
    """A project from its document, not yet checked as a whole."""
    if len(data) > MAX_PROJECT_JSON_BYTES:
        raise FormatError(tr("The project is too large."), place)
    try:
        version = msgspec.json.decode(data, type=_Version)
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise FormatError(tr("This is not an Avelt project: {error}.", error=_plain(error)), place) from None
    if version.format > FORMAT:
        raise FormatError(
            tr(
                "The file was written by a newer Avelt (format {format}, this one reads up to {format2}).",
                format=version.format,
                format2=FORMAT,
            ),
            place,
        )
    if version.format < 1:
        raise FormatError(tr("There is no project format {format}.", format=version.format), place)
    try:
        if version.format < FORMAT:
            return msgspec.convert(migrated(msgspec.json.decode(data), version.format), Project)
        return msgspec.json.decode(data, type=Project)
    except FormatError as error:
        raise error.at(place) from None
    except (msgspec.DecodeError, RecursionError, UnicodeDecodeError) as error:
        raise FormatError(tr("The project cannot be read: {error}.", error=_plain(error)), place) from None


class _Version(msgspec.Struct):
    format: int = 1


def _plain(error: BaseException) -> str:
    return str(error).rstrip(".") or type(error).__name__


def pack(project: Project, preview: bytes = b"", more: Mapping[str, bytes] | None = None) -> bytes:
    """The file's bytes; ``preview`` is a PNG, ``more`` entries that are no part of the project."""
    return _packed(
        to_json(project), [(f"{asset.id}.{asset.ext}", asset.data) for asset in project.assets], preview, more
    )


def pack_document(document: dict[str, Any], data: Mapping[str, bytes]) -> bytes:
    """The file's bytes of a document as it stands; ``data`` are the assets' bytes by id. Nothing is checked."""
    known = document.get("assets", ())
    assets = [(f"{asset.get('id')}.{asset.get('ext')}", data.get(str(asset.get("id")), b"")) for asset in known]
    return _packed(msgspec.json.encode(document), assets)


def _packed(
    document: bytes, assets: Iterable[tuple[str, bytes]], preview: bytes = b"", more: Mapping[str, bytes] | None = None
) -> bytes:
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w") as archive:
        _put(archive, "mimetype", MIMETYPE, zipfile.ZIP_STORED)
        _put(archive, "project.json", document, zipfile.ZIP_DEFLATED)
        for name, asset in assets:
            _put(archive, f"assets/{name}", asset, zipfile.ZIP_STORED)
        if preview:
            _put(archive, "preview.png", preview, zipfile.ZIP_STORED)
        for name, data in (more or {}).items():
            _put(archive, name, data, zipfile.ZIP_DEFLATED)
    return buffer.getvalue()


def _put(archive: zipfile.ZipFile, name: str, data: bytes, how: int) -> None:
    info = zipfile.ZipInfo(name, _EPOCH)
    info.compress_type = how
    info.external_attr = 0o644 << 16
    archive.writestr(info, data)


def refuse_to_overwrite(path: Path, hint: str = "") -> None:
    """Raise ``FileError`` when a file is there that is not empty and no project: it is not written over."""
    if not path.exists() or (path.is_file() and path.stat().st_size == 0):
        return
    try:
        with zipfile.ZipFile(path) as archive, archive.open("mimetype") as stream:
            if stream.read(200) == MIMETYPE:
                return
    except (OSError, KeyError, zipfile.BadZipFile, EOFError, NotImplementedError, RuntimeError, ValueError):
        pass
    raise FileError(tr("This is no Avelt project, and is not overwritten by one."), str(path), hint)


def unpack(data: bytes, place: str, ours: bool = False) -> Project:
    """A project from a file's bytes, checked as a whole; ``FormatError`` for anything else.

    ``ours``: the file is shipped with the program, whose tests have checked it.
    """
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            return _read(archive, place, ours)
    except zipfile.BadZipFile:
        raise FormatError(tr("This is not an Avelt project, or it is cut off."), place) from None
    except (OSError, EOFError, NotImplementedError, RuntimeError, ValueError) as error:
        raise FormatError(tr("The file cannot be unpacked: {error}.", error=_plain(error)), place) from None


def _read(archive: zipfile.ZipFile, place: str, ours: bool) -> Project:
    entries = {info.filename: info for info in archive.infolist()}
    if len(entries) > MAX_ZIP_ENTRIES:
        raise FormatError(tr("There are too many entries in the file."), place)
    if "mimetype" not in entries or _entry(archive, entries["mimetype"], 200, place) != MIMETYPE:
        raise FormatError(tr("This is not an Avelt project."), place)
    if "project.json" not in entries:
        raise FormatError(tr("The file has no project in it."), place)
    project = from_json(_entry(archive, entries["project.json"], MAX_PROJECT_JSON_BYTES, place), place)
    assets: list[Asset] = []
    for asset in project.assets:
        info = entries.get(f"assets/{asset.id}.{asset.ext}")
        if info is None:
            raise FormatError(tr("The picture {id} is missing from the file.", id=asset.id[:12]), place)
        found = read_picture(_entry(archive, info, MAX_PICTURE_BYTES, place), f"{place}, {info.filename}")
        if found.id != asset.id:
            raise FormatError(tr("The picture {id} is damaged.", id=asset.id[:12]), place)
        assets.append(msgspec.structs.replace(asset, data=found.data, w=found.w, h=found.h))
    project = msgspec.structs.replace(project, assets=tuple(assets))
    if ours:
        return project
    from avelt.core.formats.checked import check

    try:
        check(project)
    except FormatError as error:
        raise error.at(place) from None
    return project


def _entry(archive: zipfile.ZipFile, info: zipfile.ZipInfo, most: int, place: str) -> bytes:
    """An entry's bytes, never more than it says nor than is allowed."""
    packed = max(1, info.compress_size)
    if info.file_size > most or (info.file_size > 2**20 and info.file_size / packed > MAX_ZIP_RATIO):
        raise FormatError(tr("The entry {filename!r} unpacks to too much.", filename=info.filename[:60]), place)
    try:
        with archive.open(info) as stream:
            data = stream.read(info.file_size + 1)
    except (zipfile.BadZipFile, zlib.error, EOFError, OSError, ValueError, NotImplementedError, RuntimeError) as error:
        raise FormatError(tr("The file is damaged: {error}.", error=_plain(error)), place) from None
    if len(data) != info.file_size:
        raise FormatError(tr("The file is damaged: an entry is not as long as it says."), place)
    return data


def open_project(path: Path) -> Project:
    """Read a project file."""
    return unpack(read_bytes(path, MAX_FILE_BYTES), str(path))


def read_preview(path: Path) -> bytes:
    """The PNG of a project file's preview; empty when there is none that can be read."""
    try:
        with zipfile.ZipFile(path) as archive:
            return _entry(archive, archive.getinfo("preview.png"), MAX_PICTURE_BYTES, str(path))
    except (OSError, KeyError, zipfile.BadZipFile, FormatError, ValueError):
        return b""


def save_project(project: Project, path: Path, preview: bytes = b"", over_read_only: bool = False) -> None:
    """Write a project file atomically; what stood there stays whole until the new one is on the disk and opens."""

    def opens(data: bytes) -> None:
        try:
            back = unpack(data, path.name)
        except FormatError as error:
            raise FileError(
                tr("What would be saved does not open again: {sentence}", sentence=error.sentence), str(path)
            ) from None
        if back != project:
            raise FileError(tr("What would be saved is not the project that is open."), str(path))

    write_atomically(path, pack(project, preview), opens, over_read_only)


def schema() -> dict[str, Any]:
    """The JSON Schema of ``project.json``, made from the types."""
    return msgspec.json.schema(Project)
