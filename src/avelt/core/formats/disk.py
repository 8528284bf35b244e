"""Files on the disk: read within limits, written whole or not at all."""

from __future__ import annotations

import contextlib
import fcntl
import os
import shutil
import stat
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from avelt.core.errors import FileError
from avelt.core.record import Record
from avelt.core.stopping import removed_on_stop
from avelt.core.words import tr

#: Endings of the files that can be brought in as frames.
SCREEN_ENDINGS = (".svg", ".png", ".jpg", ".jpeg", ".webp", ".gif", ".json")
_PART = ".avelt-part"  # how the names of files that are being written end
_YOUNG = 5.0  # s in which whoever made such a file may not hold its lock yet


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
    try:
        target = Path(os.path.realpath(path))
        remove_leftovers(target.parent)
        temporary = target.parent / f".{os.urandom(6).hex()}{_PART}"
        with removed_on_stop(lambda: temporary.unlink(missing_ok=True)):
            _write_beside(path, target, temporary, data, check)
        _flush_folder(target.parent)
    except OSError as error:
        raise FileError(
            tr("The file cannot be written: {strerror}.", strerror=error.strerror or error), str(path)
        ) from None


def _write_beside(
    path: Path, target: Path, temporary: Path, data: bytes, check: Callable[[bytes], object] | None
) -> None:
    """Write a temporary file, look at what the disk kept, and rename it; it is gone when that cannot be done."""
    try:
        with os.fdopen(os.open(temporary, os.O_RDWR | os.O_CREAT | os.O_EXCL, 0o666), "w+b") as stream:
            with contextlib.suppress(OSError):
                fcntl.flock(stream, fcntl.LOCK_EX | fcntl.LOCK_NB)
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
    finally:
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


@contextmanager
def unfinished_folder(parent: Path) -> Iterator[Path]:
    """A hidden folder to write into, locked while it is used and gone afterwards; raises ``OSError``."""
    remove_leftovers(parent)
    folder = parent / f".{os.urandom(6).hex()}{_PART}"
    folder.mkdir()
    handle = os.open(folder, os.O_RDONLY)
    try:
        with removed_on_stop(lambda: shutil.rmtree(folder, ignore_errors=True)):
            with contextlib.suppress(OSError):
                fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
            yield folder
    finally:
        os.close(handle)
        shutil.rmtree(folder, ignore_errors=True)


def remove_leftovers(folder: Path) -> None:
    """Remove the files and folders that a process which was killed left half written: those that nobody locks."""
    with contextlib.suppress(OSError):
        for entry in os.scandir(folder):
            if not entry.name.endswith(_PART) or entry.is_symlink():
                continue
            with contextlib.suppress(OSError):
                if time.time() - entry.stat().st_mtime < _YOUNG:
                    continue
                handle = os.open(entry.path, os.O_RDONLY | os.O_NONBLOCK)
                try:
                    fcntl.flock(handle, fcntl.LOCK_EX | fcntl.LOCK_NB)
                    if entry.is_dir():
                        shutil.rmtree(entry.path, ignore_errors=True)
                    else:
                        os.unlink(entry.path)
                finally:
                    os.close(handle)


def _flush_folder(folder: Path) -> None:
    """The new name to the disk; some file systems cannot be asked for that."""
    with contextlib.suppress(OSError):
        handle = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(handle)
        finally:
            os.close(handle)
