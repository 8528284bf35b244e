"""Layers that show a picture: which part of it, and where."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter

from avelt.core.model.values import Asset, Picture
from avelt.core.timing.painted import Item
from avelt.paint.effects import FORMAT


class Pictures:
    """The pictures of a project, read when they are painted first."""

    def __init__(self, assets: tuple[Asset, ...]) -> None:
        self.assets = assets
        self._read: dict[str, QImage] = {}

    def of(self, picture: Picture) -> QImage:
        """A layer's picture; an empty one when there is none."""
        ident = picture.asset
        if ident not in self._read:
            asset = next((asset for asset in self.assets if asset.id == ident), None)
            if asset is None:
                return QImage()
            image = QImage.fromData(asset.data)
            self._read[ident] = image.convertToFormat(FORMAT) if not image.isNull() else image
        return self._read[ident]


def draw_picture(painter: QPainter, image: QImage, item: Item) -> None:
    """A picture in its layer's box, by how it fits."""
    if item.picture is None or image.isNull() or item.w <= 0 or item.h <= 0:
        return
    target, source = fit_rects(image.width(), image.height(), item.w, item.h, item.picture.fit)
    shown = painter.transform().mapRect(target)
    if shown.width() < source.width() / 2 and source.width() >= 2:
        # Bilinear sampling skips pixels below half size: shrink by area first.
        factor = max(shown.width() / source.width(), 1.0 / source.width())
        small = image.copy(source.toAlignedRect()).scaled(
            max(1, round(source.width() * factor)),
            max(1, round(source.height() * factor)),
            Qt.AspectRatioMode.IgnoreAspectRatio,
            Qt.TransformationMode.SmoothTransformation,
        )
        painter.drawImage(target, small)
        return
    painter.drawImage(target, image, source)


def fit_rects(pw: int, ph: int, w: float, h: float, fit: str) -> tuple[QRectF, QRectF]:
    """Where in a box a picture goes, and which part of it, by how it fits."""
    whole = QRectF(0, 0, pw, ph)
    if fit == "inside":
        factor = min(w / pw, h / ph)
        return QRectF((w - pw * factor) / 2, (h - ph * factor) / 2, pw * factor, ph * factor), whole
    if fit == "cover":
        factor = max(w / pw, h / ph)
        sw, sh = w / factor, h / factor
        return QRectF(0, 0, w, h), QRectF((pw - sw) / 2, (ph - sh) / 2, sw, sh)
    return QRectF(0, 0, w, h), whole
