"""Pictures of our own to paint on, in the coordinates of the device, and what is done with them."""

from __future__ import annotations

from PySide6.QtCore import QRect, Qt
from PySide6.QtGui import QImage, QPainter, QPainterPath, QTransform

from avelt.core.record import Mutable
from avelt.paint.effects import FORMAT

HINTS = QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform
Mode = QPainter.CompositionMode


class Canvas(Mutable):
    """Where is painted: a painter in the device's coordinates, what it covers, and its pixels when they are ours."""

    painter: QPainter
    area: QRect
    image: QImage | None = None


class Sheet(Canvas):
    """A canvas of our own, whose pixels are at hand."""

    image: QImage


def pixels_of(canvas: Canvas) -> QImage:
    """The pixels of a sheet of our own; only what is painted on another device has none."""
    if canvas.image is None:
        raise TypeError("this canvas has no pixels of its own")
    return canvas.image


def sheet_over(area: QRect) -> Sheet:
    """An empty picture over the area, and a painter that paints it in the device's coordinates."""
    image = QImage(area.size(), FORMAT)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHints(HINTS)
    painter.setViewTransformEnabled(True)
    painter.setWindow(area)
    painter.setViewport(QRect(0, 0, area.width(), area.height()))
    return Sheet(painter, area, image)


def put(canvas: Canvas, sheet: Sheet) -> None:
    """A sheet, done, onto a canvas."""
    sheet.painter.end()
    canvas.painter.setTransform(QTransform())
    canvas.painter.setOpacity(1.0)
    canvas.painter.drawImage(sheet.area.topLeft(), sheet.image)


def keep_inside(canvas: Canvas, shape: QPainterPath) -> None:
    """Take away what is outside of a shape (device coordinates)."""
    mask = sheet_over(canvas.area)
    mask.painter.fillPath(shape, Qt.GlobalColor.black)
    mask.painter.end()
    canvas.painter.setTransform(QTransform())
    canvas.painter.setOpacity(1.0)
    canvas.painter.setCompositionMode(Mode.CompositionMode_DestinationIn)
    canvas.painter.drawImage(canvas.area.topLeft(), mask.image)
    canvas.painter.setCompositionMode(Mode.CompositionMode_SourceOver)
