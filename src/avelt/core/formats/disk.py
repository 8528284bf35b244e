"""Files on the disk: read within limits, written whole or not at all."""

from __future__ import annotations

import contextlib
import os
import stat
import time
from collections.abc import Callable
from pathlib import Path

from avelt.core.errors import FileError
from avelt.core.record import Record
from avelt.core.words import tr

#: Endings of the files that can be brought in as frames.
SCREEN_ENDINGS = (".svg", ".png", ".jpg", ".jpeg", ".webp", ".gif", ".json")
_PART = ".avelt-part"  # how the names of files that are being written end
_OLD = 3600.0  # s after which such a file was left over by a stop


def read_bytes(path: Path, most: int) -> bytes:
    """A file's bytes; ``FileError`` in one sentence when it cannot be read or is too large."""
    try:
        if not path.is_file():
            raise FileError(tr("There is no such file."), str(path))
        size = path.stat().st_size
        if size > most:
            raise FileError(tr("The file is larger than {most} MB.", most=most // 2**20), str(path))
        return path.read_bytes()
    except OSError as error:
        raise FileError(
            tr("The file cannot be read: {strerror}.", strerror=error.strerror or error), str(path)
        ) from None


def write_atomically(
    path: Path, data: bytes, check: Callable[[bytes], object] | None = None, over_read_only: bool = False
) -> None:
    """Write beside, flush to the disk, read back, rename; ``FileError`` in one sentence when that cannot be done.

    A symbolic link stays one: what it points to is written. A file keeps its mode, a new one has what the umask leaves.
    ``check`` is given what was read back, and raises when it is not good: then the old file stays.
    """
    if is_read_only(path) and not over_read_only:
        raise FileError(tr("The file is read-only."), str(path))
    temporary: Path | None = None
    try:
        target = Path(os.path.realpath(path))
        _clean(target.parent)
        temporary = target.parent / f".{os.urandom(6).hex()}{_PART}"
        with os.fdopen(os.open(temporary, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o666), "w+b") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
            stream.seek(0)
            back = stream.read()
        if back != data:
            raise FileError(tr("The disk did not keep what was written."), str(path))
        if check is not None:
            check(back)
        with contextlib.suppress(FileNotFoundError):
            os.chmod(temporary, stat.S_IMODE(target.stat().st_mode))
        os.replace(temporary, target)
        temporary = None
        _flush_folder(target.parent)
    except OSError as error:
        raise FileError(
            tr("The file cannot be written: {strerror}.", strerror=error.strerror or error), str(path)
        ) from None
    finally:
        if temporary is not None:
            with contextlib.suppress(OSError):
                temporary.unlink()


def append(path: Path, data: bytes) -> None:
    """Put bytes at the end of a file, which is made where it is not there, and flush them to the disk.

    A stop half way leaves the beginning of them; raises ``FileError`` when it cannot be done.
    """
    try:
        is_new = not path.exists()
        with open(path, "ab") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        if is_new:
            _flush_folder(path.parent)
    except OSError as error:
        raise FileError(
            tr("The file cannot be written: {strerror}.", strerror=error.strerror or error), str(path)
        ) from None


def is_read_only(path: Path) -> bool:
    """Whether a file is there that nobody may write, as its mode says (whoever asks: root could)."""
    try:
        return not path.stat().st_mode & 0o222
    except OSError:
        return False


class Stamp(Record, frozen=True):
    """What a file was like when it was read or written last: to see whether somebody else wrote it since."""

    inode: int
    size: int
    changed: int  # ns


def stamp_of(path: Path) -> Stamp | None:
    """The stamp of a file; ``None`` when there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return Stamp(found.st_ino, found.st_size, found.st_mtime_ns)


def _clean(folder: Path) -> None:
    """Remove what an earlier stop left half written."""
    with contextlib.suppress(OSError):
        for entry in os.scandir(folder):
            if entry.name.endswith(_PART) and time.time() - entry.stat().st_mtime > _OLD:
                os.unlink(entry.path)


def _flush_folder(folder: Path) -> None:
    """The new name to the disk; some file systems cannot be asked for that."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
