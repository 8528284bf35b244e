"""What makes opening quick: pictures of each project in the XDG cache folder, removable at any time.

Pictures are kept as they are, large ones packed by zlib at its quickest: a PNG takes several times as long to read.
"""

from __future__ import annotations

import contextlib
import os
import zlib
from pathlib import Path

import msgspec
from PySide6.QtGui import QImage

from avelt.core.record import Record

_CLEAR, _FULL = QImage.Format.Format_ARGB32_Premultiplied, QImage.Format.Format_RGB32
_PLAIN = 8_000_000  # bytes of a picture that is not packed, where time counts more than room
_MOST_BYTES = 128_000_000  # of one picture: 6000 x 5000 pixels


class Packed(Record, frozen=True):
    """A picture: its size in pixels, its bytes (four a pixel) as they are or packed, and whether something can be seen
    through it."""

    w: int
    h: int
    data: bytes
    packed: bool
    clear: bool

    def image(self) -> QImage | None:
        """The picture; ``None`` when it is damaged."""
        size = self.w * self.h * 4
        if not (0 < self.w < 32_768 and 0 < self.h < 32_768 and size <= _MOST_BYTES):
            return None
        data = _unpacked(self.data, size) if self.packed else self.data
        if len(data) != size:
            return None
        return QImage(data, self.w, self.h, self.w * 4, _CLEAR if self.clear else _FULL).copy()


def _unpacked(data: bytes, size: int) -> bytes:
    """No more than that; nothing when it is damaged."""
    unpacking = zlib.decompressobj()
    try:
        found = unpacking.decompress(data, size + 1)
    except zlib.error:
        return b""
    return found if unpacking.eof else b""


def pack(image: QImage, quickly: bool = False) -> Packed:
    """The picture packed; ``quickly``: not, unless it is large."""
    clear = image.hasAlphaChannel()
    plain = image.convertToFormat(_CLEAR if clear else _FULL)
    packed = not quickly or plain.sizeInBytes() > _PLAIN
    data = zlib.compress(plain.constBits(), 1) if packed else bytes(plain.constBits())
    return Packed(plain.width(), plain.height(), data, packed, clear)


def folder() -> Path:
    """Where they are kept."""
    base = os.environ.get("XDG_CACHE_HOME") or ""
    return (Path(base) if base.startswith("/") else Path.home() / ".cache") / "avelt" / "opening"


def opening_file(path: Path | None, ending: str) -> Path:
    """The file of one kind (its ``ending``) for a project's file; ``None`` is the demo."""
    name = str(path.resolve()) if path is not None else "demo"
    # FNV-1a, 64 bits: a name for a file, which keeps no secret.
    number = 0xCBF29CE484222325
    for byte in name.encode("utf-8", "surrogateescape"):
        number = ((number ^ byte) * 0x100000001B3) & 0xFFFFFFFFFFFFFFFF
    return folder() / f"{number:016x}{ending}"


def write(file: Path, value: Record, ending: str, most: int) -> None:
    """Write one, and keep only the newest of its kind. Where it cannot be written there is none the next time."""
    with contextlib.suppress(OSError):
        file.parent.mkdir(parents=True, exist_ok=True)
        part = file.with_name(f"{file.name}.{os.getpid()}")
        part.write_bytes(msgspec.msgpack.encode(value))
        part.replace(file)
        kept = sorted(folder().glob(f"*{ending}"), key=lambda entry: entry.stat().st_mtime, reverse=True)
        for old in kept[most:]:
            old.unlink()
