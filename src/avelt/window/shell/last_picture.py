"""How a project looked when its window was closed: shown while it is opened again. Kept in the XDG cache folder."""

from __future__ import annotations

from pathlib import Path

import msgspec
from PySide6.QtGui import QPixmap

from avelt.window.common.opening_cache import Packed, opening_file, pack, write

MOST = 6  # pictures that are kept
_ENDING = ".look"


def _file(path: Path | None, dark: bool) -> Path:
    return opening_file(path, f"-dark{_ENDING}" if dark else _ENDING)


def load(path: Path | None, dark: bool, width: int, height: int) -> QPixmap | None:
    """The picture of a file (``None``: the demo), if there is one of this size that is not older than the file."""
    file = _file(path, dark)
    try:
        if path is not None and file.stat().st_mtime < path.stat().st_mtime:
            return None
        packed = msgspec.msgpack.decode(file.read_bytes(), type=Packed)
    except (OSError, msgspec.MsgspecError, ValueError):
        return None
    image = packed.image() if (packed.w, packed.h) == (width, height) else None
    return QPixmap.fromImage(image) if image is not None else None


def keep(path: Path | None, dark: bool, picture: QPixmap) -> None:
    """Keep a picture; where it cannot be written there is none the next time."""
    write(_file(path, dark), pack(picture.toImage(), quickly=True), _ENDING, MOST)
