"""Any screen file as a frame: SVG, a picture, or Lottie JSON with its motion as loops."""

from __future__ import annotations

import hashlib
from pathlib import Path as FilePath

from avelt.core.errors import FormatError
from avelt.core.formats.disk import SCREEN_ENDINGS, read_bytes
from avelt.core.formats.lottie_in import is_lottie, read_lottie
from avelt.core.formats.pictures_in import read_picture
from avelt.core.formats.svg_in import Imported, read_svg
from avelt.core.formats.svg_text import TextMeasure, rough_width
from avelt.core.model.limits import MAX_PICTURE_BYTES, MAX_SVG_BYTES
from avelt.core.model.values import CLEAR, Frame, Layer, Picture, Source
from avelt.core.words import tr


def read_screen(path: FilePath, measure: TextMeasure = rough_width) -> Imported:
    """A screen file as a frame named after the file."""
    data = read_bytes(path, max(MAX_SVG_BYTES, MAX_PICTURE_BYTES))
    if path.suffix.lower() == ".svg" or _looks_like_svg(data):
        return read_svg(data, path.stem, measure, str(path))
    if path.suffix.lower() == ".json" or is_lottie(data):
        return read_lottie(data, path.stem, str(path))
    if path.suffix.lower() not in SCREEN_ENDINGS and not _looks_like_picture(data):
        raise FormatError(
            tr(
                "Files like this cannot be brought in; known are {screen_endings}.",
                screen_endings=", ".join(SCREEN_ENDINGS),
            ),
            str(path),
        )
    asset = read_picture(data, str(path))
    layer = Layer("i1", "i1", path.stem, Picture(asset.id), 0.0, 0.0, float(asset.w), float(asset.h))
    size = (float(asset.w), float(asset.h))
    source = Source(str(path), hashlib.sha256(data).hexdigest(), base=(layer,), size=size, background=CLEAR)
    frame = Frame("", path.stem, float(asset.w), float(asset.h), CLEAR, layers=(layer,), source=source)
    return Imported(frame, (asset,))


def _looks_like_svg(data: bytes) -> bool:
    head = data[:1024].lstrip(b"\xef\xbb\xbf \t\r\n")
    return head.startswith((b"<svg", b"<?xml", b"<!DOCTYPE svg")) or b"<svg" in head


def _looks_like_picture(data: bytes) -> bool:
    return data.startswith((b"\x89PNG", b"\xff\xd8\xff", b"GIF8")) or data[8:12] == b"WEBP"
