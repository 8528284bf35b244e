"""Files on the disk: read within limits, written whole or not at all."""

from __future__ import annotations

import contextlib
import os
import tempfile
from pathlib import Path

from avelt.core.errors import FileError

#: Endings of the files that can be brought in as frames.
SCREEN_ENDINGS = (".svg", ".png", ".jpg", ".jpeg", ".webp", ".gif")


def read_bytes(path: Path, most: int) -> bytes:
    """A file's bytes; ``FileError`` in one sentence when it cannot be read or is too large."""
    try:
        if not path.is_file():
            raise FileError("There is no such file.", str(path))
        size = path.stat().st_size
        if size > most:
            raise FileError(f"The file is larger than {most // 2**20} MB.", str(path))
        return path.read_bytes()
    except OSError as error:
        raise FileError(f"The file cannot be read: {error.strerror or error}.", str(path)) from None


def write_atomically(path: Path, data: bytes) -> None:
    """Write beside, flush to the disk, rename; ``FileError`` in one sentence when that cannot be done."""
    temporary = ""
    try:
        handle, temporary = tempfile.mkstemp(prefix=f".{path.name}.", dir=path.parent or None)
        with os.fdopen(handle, "wb") as stream:
            stream.write(data)
            stream.flush()
            os.fsync(stream.fileno())
        os.chmod(temporary, 0o644)
        os.replace(temporary, path)
    except OSError as error:
        if temporary:
            with contextlib.suppress(OSError):
                os.unlink(temporary)
        raise FileError(f"The file cannot be written: {error.strerror or error}.", str(path)) from None
