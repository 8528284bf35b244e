"""Pictures as other libraries and files have them, and the moments that moving pictures of presets are taken at."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtGui import QImage

from avelt.core.arrays import np

if TYPE_CHECKING:
    from PIL import Image


def moments(length: float, rate: float) -> list[float]:
    """The times of all pictures in ms: from 0 to the end, the end always among them."""
    count = max(1, round(length * rate / 1000.0))
    return [length * k / count for k in range(count + 1)]


def to_pillow(image: QImage) -> Image.Image:
    """A QImage as an opaque Pillow picture."""
    from PIL import Image

    plain = image.convertToFormat(QImage.Format.Format_RGBX8888)
    bits = np.asarray(plain.constBits()).reshape(plain.height(), plain.bytesPerLine())
    return Image.frombytes(
        "RGBX", (plain.width(), plain.height()), bits.tobytes(), "raw", "RGBX", plain.bytesPerLine()
    ).convert("RGB")


def png_bytes(image: QImage) -> bytes:
    """A picture as PNG."""
    from PySide6.QtCore import QBuffer, QIODevice

    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(buffer.data().data())
