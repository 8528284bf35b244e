"""Layers that show a picture."""

from __future__ import annotations

import unittest

from PySide6.QtCore import QBuffer, QIODevice
from PySide6.QtGui import QImage

from avelt.core.arrays import np
from avelt.core.model.values import Asset, Frame, Picture
from avelt.core.timing.compile import compile_still
from avelt.paint.effects import FORMAT, from_pixels, pixels
from avelt.paint.painter import ScenePainter
from avelt.paint.pictures import Pictures
from tests.support import box

SIDE = 64


def asset(image: QImage) -> Asset:
    held = QBuffer()
    held.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(held, "PNG")
    return Asset("checks", "png", SIDE, SIDE, bytes(held.data().data()))


def checks() -> QImage:
    """Black and white by turns, a pixel each."""
    light = np.indices((SIDE, SIDE)).sum(0) % 2 * 255
    return from_pixels(np.dstack([light, light, light, np.full_like(light, 255)]).astype(np.uint8))


class PictureLayers(unittest.TestCase):
    def painted(self, size: float) -> np.ndarray:
        """What a layer of a size shows of the checks."""
        frame = Frame("A", "A", size, size, layers=(box("p", 0, 0, size, size, body=Picture("checks")),))
        return pixels(ScenePainter((asset(checks()),)).render(compile_still(frame).at(0.0)))[..., :3].astype(int)

    def test_at_its_own_size_it_is_there_to_the_pixel(self) -> None:
        self.assertTrue(np.array_equal(self.painted(SIDE), pixels(checks())[..., :3]))

    def test_much_smaller_all_of_it_counts(self) -> None:
        for size in (15.0, 5.0):
            self.assertLess(np.abs(self.painted(size) - 127).max(), 40, size)

    def test_it_is_read_once_and_in_the_form_that_is_painted(self) -> None:
        pictures = Pictures((asset(checks().convertToFormat(QImage.Format.Format_RGB888)),))
        self.assertEqual(pictures.of(Picture("checks")).format(), FORMAT)
        self.assertIs(pictures.of(Picture("checks")), pictures.of(Picture("checks")))

    def test_what_is_none_shows_nothing(self) -> None:
        pictures = Pictures((Asset("broken", "png", 9, 9, b"no picture"),))
        for name in ("broken", "gone"):
            self.assertTrue(pictures.of(Picture(name)).isNull(), name)
            frame = Frame("A", "A", 9, 9, "#ffffff", layers=(box("p", 0, 0, 9, 9, body=Picture(name)),))
            image = ScenePainter(pictures.assets).render(compile_still(frame).at(0.0))
            self.assertEqual(set(pixels(image).ravel().tolist()), {255})
