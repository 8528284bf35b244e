"""How a project looked when its window was closed: shown while it is opened again. Kept in the XDG cache folder."""

from __future__ import annotations

import contextlib
import os
from pathlib import Path

from PySide6.QtGui import QPixmap

_MOST = 12  # pictures that are kept
_QUICK = 85  # of 100: the less it is packed, the sooner the window is closed


def folder() -> Path:
    """Where they are kept."""
    base = os.environ.get("XDG_CACHE_HOME") or ""
    return (Path(base) if base.startswith("/") else Path.home() / ".cache") / "avelt" / "opening"


def _file(path: Path | None, dark: bool) -> Path:
    name = str(path.resolve()) if path is not None else "demo"
    # FNV-1a, 64 bits: a name for a file, which keeps no secret.
    number = 0xCBF29CE484222325
    for byte in name.encode("utf-8", "surrogateescape"):
        number = ((number ^ byte) * 0x100000001B3) & 0xFFFFFFFFFFFFFFFF
    return folder() / f"{number:016x}{'-dark' if dark else ''}.png"


def load(path: Path | None, dark: bool, width: int, height: int) -> QPixmap | None:
    """The picture of a file (``None``: the demo), if there is one of this size that is not older than the file."""
    file = _file(path, dark)
    try:
        if path is not None and file.stat().st_mtime < path.stat().st_mtime:
            return None
    except OSError:
        return None
    picture = QPixmap(str(file))
    return picture if not picture.isNull() and (picture.width(), picture.height()) == (width, height) else None


def keep(path: Path | None, dark: bool, picture: QPixmap) -> None:
    """Keep a picture; where it cannot be written there is none the next time."""
    file = _file(path, dark)
    with contextlib.suppress(OSError):
        file.parent.mkdir(parents=True, exist_ok=True)
        picture.save(str(file), "PNG", _QUICK)
        kept = sorted(file.parent.glob("*.png"), key=lambda entry: entry.stat().st_mtime, reverse=True)
        for old in kept[_MOST:]:
            old.unlink()
