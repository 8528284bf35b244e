"""The pictures of a project's frames as they were when it was closed: opened again, none of them is painted anew.

Kept in the XDG cache folder beside how the window looked. They count for the very file they were made of, and for the
program, the Qt and the fonts that painted them.
"""

from __future__ import annotations

import zlib
from collections.abc import Iterable
from functools import cache
from pathlib import Path

import msgspec
from PySide6.QtCore import qVersion
from PySide6.QtGui import QFontDatabase, QImage

from avelt import __version__
from avelt.core.formats.disk import stamp_of
from avelt.core.record import Record
from avelt.window.common.opening_cache import Packed, opening_file, pack, write

ENDING = ".frames"
MOST = 12  # projects of which pictures are kept
ROOM = 24_000_000  # bytes of pictures of one project, before they are packed; more are painted again


class _Frame(Record, frozen=True):
    frame_id: str
    scale: float  # pixels a px of the frame
    picture: Packed


class _Kept(Record, frozen=True):
    made_by: str
    frames: tuple[_Frame, ...]


def keep(path: Path | None, source: Path, pictures: Iterable[tuple[str, float, QImage]]) -> None:
    """Keep pictures (frame, scale, picture) of the project that ``source`` holds; ``path`` is ``None`` for the demo."""
    frames, room = [], ROOM
    for frame_id, scale, image in pictures:
        room -= image.sizeInBytes()
        if room < 0:
            break
        frames.append(_Frame(frame_id, scale, pack(image)))
    write(opening_file(path, ENDING), _Kept(_made_by(source), tuple(frames)), ENDING, MOST)


def load(path: Path | None, source: Path) -> list[tuple[str, float, QImage]]:
    """The pictures that count for the project as ``source`` holds it now; none when there are none."""
    made_by = _made_by(source)
    try:
        kept = msgspec.msgpack.decode(opening_file(path, ENDING).read_bytes(), type=_Kept)
    except (OSError, msgspec.MsgspecError, ValueError):
        return []
    if kept.made_by != made_by:
        return []
    found = ((entry.frame_id, entry.scale, entry.picture.image()) for entry in kept.frames)
    return [(frame_id, scale, image) for frame_id, scale, image in found if image is not None]


@cache
def _fonts() -> int:
    """The fonts of the system, when they are asked for first: what the program and the project bring comes later."""
    return zlib.crc32("\n".join(QFontDatabase.families()).encode())


def _made_by(source: Path) -> str:
    return f"{__version__} {qVersion()} {_fonts()} {stamp_of(source)}"
