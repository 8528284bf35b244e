"""What goes to the clipboard and comes from it: our layers, SVG, pictures, files."""

from __future__ import annotations

import atexit
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec
from PySide6.QtCore import QMimeData
from PySide6.QtGui import QGuiApplication, QImage

from avelt.core.edits.clip import MIME, Clip, from_bytes, to_bytes
from avelt.core.edits.frames import add_frames
from avelt.core.formats.disk import SCREEN_ENDINGS
from avelt.core.geometry.bezier import union
from avelt.core.model.values import Asset, Frame, Group, Layer, Picture, Project
from avelt.core.record import Record

if TYPE_CHECKING:
    from avelt.core.formats.svg_text import TextMeasure

replace = msgspec.structs.replace


class Found(Record, frozen=True):
    """What the clipboard holds: a clip of layers, a frame read from SVG or a picture, or files."""

    clip: Clip | None = None
    frame: Frame | None = None
    assets: tuple[Asset, ...] = ()
    paths: tuple[Path, ...] = ()


def put(clip: Clip) -> None:
    """Layers to the clipboard."""
    data = QMimeData()
    data.setData(MIME, to_bytes(clip))
    data.setText(", ".join(layer.name for layer in clip.layers))
    _clear_at_exit()
    QGuiApplication.clipboard().setMimeData(data)


@lru_cache(maxsize=1)
def _clear_at_exit() -> None:
    """Data of ours that the clipboard still holds when Python ends is freed twice: take it back before."""
    atexit.register(_clear)


def _clear() -> None:
    if QGuiApplication.instance() is None:
        return
    held = QGuiApplication.clipboard().mimeData()
    if held is not None and held.hasFormat(MIME):
        QGuiApplication.clipboard().clear()


def take(measure: TextMeasure) -> Found | None:
    """What can be pasted, ``None`` when nothing can; an ``AveltError`` for what is broken."""
    data = QGuiApplication.clipboard().mimeData()
    if data is None:
        return None
    if data.hasFormat(MIME):
        return Found(from_bytes(bytes(data.data(MIME).data())))
    paths = tuple(Path(url.toLocalFile()) for url in data.urls() if url.isLocalFile())
    paths = tuple(path for path in paths if path.suffix.lower() in SCREEN_ENDINGS)
    if paths:
        return Found(paths=paths)
    svg = bytes(data.data("image/svg+xml").data()) if data.hasFormat("image/svg+xml") else b""
    if not svg and "<svg" in data.text()[:4000]:
        svg = data.text().strip().encode()
    if svg:
        from avelt.core.formats.svg_in import read_svg

        imported = read_svg(svg, "Pasted", measure)
        return Found(frame=replace(imported.frame, source=None), assets=imported.assets)
    if data.hasImage():
        return _picture(QImage(data.imageData()))
    return None


def _picture(image: QImage) -> Found | None:
    from avelt.core.formats.pictures_in import read_picture
    from avelt.paint.moving import png_bytes

    if image.isNull():
        return None
    asset = read_picture(png_bytes(image), "pasted picture")
    layer = Layer("i1", "i1", "Pasted picture", Picture(asset.id), 0.0, 0.0, float(asset.w), float(asset.h))
    return Found(frame=Frame("", "Pasted", float(asset.w), float(asset.h), layers=(layer,)), assets=(asset,))


def as_clip(found: Found) -> Clip:
    """What was found as layers; a drawing of several is one group."""
    if found.clip is not None or found.frame is None:
        return found.clip or Clip(())
    layers = found.frame.layers
    if len(layers) != 1:
        layers = (Layer("i0", "i0", "Pasted drawing", Group(layers), 0.0, 0.0, found.frame.w, found.frame.h),)
    return Clip(layers, found.assets)


def as_frame(found: Found) -> tuple[Frame, tuple[Asset, ...]]:
    """What was found as a frame of its own, just large enough for layers."""
    if found.frame is not None or found.clip is None:
        return found.frame or Frame("", "Pasted"), found.assets
    x, y, w, h = union([(layer.x, layer.y, layer.w, layer.h) for layer in found.clip.layers])
    layers = tuple(replace(layer, x=layer.x - x, y=layer.y - y) for layer in found.clip.layers)
    return Frame("", "Pasted", max(1.0, w), max(1.0, h), layers=layers), found.clip.assets


def add(project: Project, made: tuple[Frame, tuple[Asset, ...]]) -> Project:
    """The frame behind the others."""
    return add_frames(project, [made[0]], made[1])
