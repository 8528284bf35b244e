"""Pictures that move in one file, written picture by picture: GIF, APNG and WebP. Of each picture only what changed is
written. Pillow compresses; the containers are simple enough to be written here, and so take no more room the longer
they are.

Sources: the GIF89a specification; PNG (third edition, 2025), 4.9; the WebP container specification (RFC 9649).
"""

from __future__ import annotations

import io
import struct
import zlib
from collections.abc import Iterator
from typing import BinaryIO, Protocol

from PIL import Image

from avelt.core.arrays import np

Pixels = np.ndarray  # (h, w, 4) bytes: red, green, blue, alpha
_TICK = 10.0  # ms: a GIF counts in hundredths of a second


class Writer(Protocol):
    """Takes pictures one after the other, each with how long it stays (ms)."""

    def add(self, picture: Pixels, stays: float) -> None:
        """The next picture."""

    def close(self) -> None:
        """All pictures are there."""


def changed_box(before: Pixels | None, now: Pixels) -> tuple[int, int, int, int]:
    """The part (x, y, w, h) of a picture that is another than before; one pixel at least."""
    h, w = now.shape[:2]
    if before is None:
        return 0, 0, w, h
    other = (before != now).any(-1)
    rows, columns = np.flatnonzero(other.any(1)), np.flatnonzero(other.any(0))
    if not len(rows):
        return 0, 0, 1, 1
    x, y = int(columns[0]), int(rows[0])
    return x, y, int(columns[-1]) - x + 1, int(rows[-1]) - y + 1


class GifWriter:
    """GIF: 256 colours a picture, whole hundredths of a second whose sum is right, transparent or not."""

    def __init__(self, stream: BinaryIO, w: int, h: int, again: bool, clear: bool) -> None:
        self._stream, self._clear = stream, clear
        self._before: Pixels | None = None
        self._now, self._said = 0.0, 0
        stream.write(b"GIF89a" + struct.pack("<HHBBB", w, h, 0x70, 0, 0))
        if again:
            stream.write(b"\x21\xff\x0bNETSCAPE2.0\x03\x01\x00\x00\x00")

    def add(self, picture: Pixels, stays: float) -> None:
        """The next picture."""
        self._now += stays
        ticks = max(1, round(self._now / _TICK) - self._said)
        self._said += ticks
        x, y, w, h = (0, 0, *picture.shape[1::-1]) if self._clear else changed_box(self._before, picture)
        part = np.ascontiguousarray(picture[y : y + h, x : x + w])
        palette, data, clear = _indexed(part, self._clear)
        flags = ((2 if self._clear else 1) << 2) | (1 if clear >= 0 else 0)
        out = self._stream
        out.write(b"\x21\xf9\x04" + struct.pack("<BHB", flags, ticks, max(0, clear)) + b"\x00")
        out.write(b"\x2c" + struct.pack("<HHHHB", x, y, w, h, 0x87) + palette + data)
        self._before = picture

    def close(self) -> None:
        """All pictures are there."""
        self._stream.write(b"\x3b")


def _indexed(part: Pixels, clear: bool) -> tuple[bytes, bytes, int]:
    """A picture of at most 256 colours: its palette (768 bytes), its compressed data, and the number that is clear
    (-1: none)."""
    h, w = part.shape[:2]
    image = Image.frombytes("RGBA", (w, h), part.tobytes()).convert("RGB")
    many = 255 if clear else 256
    plain = image.quantize(many, Image.Quantize.MEDIANCUT, dither=Image.Dither.NONE)
    number = -1
    if clear:
        index = np.asarray(plain).copy()
        index[part[..., 3] < 128] = number = 255
        palette = plain.getpalette() or []
        plain = Image.fromarray(index, "P")
        plain.putpalette(palette)
    colours = bytes(plain.getpalette() or [])[:768].ljust(768, b"\0")
    buffer = io.BytesIO()
    plain.save(buffer, "GIF", optimize=False, interlace=0)
    return colours, _gif_data(buffer.getvalue()), number


def _gif_data(data: bytes) -> bytes:
    """The compressed pixels of a GIF of one picture, with the size of their codes in front."""
    place = 13 + (3 << ((data[10] & 7) + 1) if data[10] & 0x80 else 0)
    while data[place] == 0x21:
        place += 2
        while data[place]:
            place += 1 + data[place]
        place += 1
    flags = data[place + 9]
    place += 10 + (3 << ((flags & 7) + 1) if flags & 0x80 else 0)
    return data[place:-1]


class ApngWriter:
    """Animated PNG: every pixel as it is. What comes first is how many pictures there are, so that is told before."""

    def __init__(self, stream: BinaryIO, w: int, h: int, again: bool, count: int) -> None:
        self._stream, self._number = stream, 0
        self._before: Pixels | None = None
        stream.write(b"\x89PNG\r\n\x1a\n")
        self._chunk(b"IHDR", struct.pack(">IIBBBBB", w, h, 8, 6, 0, 0, 0))
        self._chunk(b"acTL", struct.pack(">II", count, 0 if again else 1))

    def add(self, picture: Pixels, stays: float) -> None:
        """The next picture."""
        first = self._before is None
        x, y, w, h = changed_box(self._before, picture)
        part = np.ascontiguousarray(picture[y : y + h, x : x + w])
        thousandths = max(1, min(65535, round(stays)))
        exact = abs(thousandths - stays) < 1e-3
        top, bottom = (thousandths, 1000) if exact else (max(1, min(65535, round(stays * 10))), 10_000)
        head = struct.pack(">IIIIIHHBB", self._next(), w, h, x, y, top, bottom, 0, 0)
        self._chunk(b"fcTL", head)
        buffer = io.BytesIO()
        Image.frombytes("RGBA", (w, h), part.tobytes()).save(buffer, "PNG")
        for kind, data in _png_chunks(buffer.getvalue()):
            if kind == b"IDAT":
                if first:
                    self._chunk(b"IDAT", data)
                else:
                    self._chunk(b"fdAT", struct.pack(">I", self._next()) + data)
        self._before = picture

    def close(self) -> None:
        """All pictures are there."""
        self._chunk(b"IEND", b"")

    def _next(self) -> int:
        self._number += 1
        return self._number - 1

    def _chunk(self, kind: bytes, data: bytes) -> None:
        self._stream.write(struct.pack(">I", len(data)) + kind + data)
        self._stream.write(struct.pack(">I", zlib.crc32(kind + data)))


def _png_chunks(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    place = 8
    while place < len(data):
        (length,) = struct.unpack_from(">I", data, place)
        yield data[place + 4 : place + 8], data[place + 8 : place + 8 + length]
        place += 12 + length


class WebpWriter:
    """Animated WebP; lossless unless a quality (1 to 100) is wanted."""

    def __init__(self, stream: BinaryIO, w: int, h: int, again: bool, quality: int) -> None:
        self._stream, self._quality = stream, quality
        self._before: Pixels | None = None
        self._now, self._said = 0.0, 0
        stream.write(b"RIFF\0\0\0\0WEBP")
        size = struct.pack("<I", w - 1)[:3] + struct.pack("<I", h - 1)[:3]
        self._chunk(b"VP8X", b"\x12\0\0\0" + size)
        self._chunk(b"ANIM", b"\0\0\0\0" + struct.pack("<H", 0 if again else 1))

    def add(self, picture: Pixels, stays: float) -> None:
        """The next picture."""
        self._now += stays
        ms = max(1, round(self._now) - self._said)
        self._said += ms
        # Places are counted in twos. A lossy picture is whole, or its edges would show.
        x, y, w, h = changed_box(None if self._quality else self._before, picture)
        w, h, x, y = w + x % 2, h + y % 2, x - x % 2, y - y % 2
        part = np.ascontiguousarray(picture[y : y + h, x : x + w])
        buffer = io.BytesIO()
        image = Image.frombytes("RGBA", (w, h), part.tobytes())
        if self._quality:
            image.save(buffer, "WEBP", quality=self._quality, method=4)
        else:
            image.save(buffer, "WEBP", lossless=True, exact=True, quality=60, method=2)
        inner = b"".join(
            kind + struct.pack("<I", len(data)) + data + b"\0" * (len(data) % 2)
            for kind, data in _webp_chunks(buffer.getvalue())
            if kind in (b"ALPH", b"VP8 ", b"VP8L")
        )
        head = b"".join(struct.pack("<I", v)[:3] for v in (x // 2, y // 2, w - 1, h - 1, min(ms, 0xFFFFFF)))
        self._chunk(b"ANMF", head + b"\x02" + inner)  # pixels stand in for what was there, and stay
        self._before = picture

    def close(self) -> None:
        """All pictures are there."""
        end = self._stream.tell()
        self._stream.seek(4)
        self._stream.write(struct.pack("<I", end - 8))
        self._stream.seek(end)

    def _chunk(self, kind: bytes, data: bytes) -> None:
        self._stream.write(kind + struct.pack("<I", len(data)) + data + b"\0" * (len(data) % 2))


def _webp_chunks(data: bytes) -> Iterator[tuple[bytes, bytes]]:
    place = 12
    while place + 8 <= len(data):
        kind = data[place : place + 4]
        (length,) = struct.unpack_from("<I", data, place + 4)
        yield kind, data[place + 8 : place + 8 + length]
        place += 8 + length + length % 2
