"""Pictures that fill in, and garbage that waits until nothing happens."""

from __future__ import annotations

import gc
import os
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest.mock import patch

from msgspec.structs import replace
from PySide6.QtCore import QPoint, QSize
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication

from avelt.core.model.values import Frame
from avelt.core.presets.shelf import built_in
from avelt.core.timing.compile import compile_still
from avelt.paint.painter import ScenePainter
from avelt.window.common import tidy
from avelt.window.common.pictures import AT_ONCE, Pictures
from avelt.window.common.tidy import Tidy
from avelt.window.shelf.card_pictures import CardPictures
from avelt.window.shelf.card_pictures import tidy as remove_old
from avelt.window.start import application
from tests.support import box, group


def frame(ident: str, count: int, shift: float = 0.0) -> Frame:
    """A frame of so many boxes, in groups of ten."""
    cards = []
    for c in range(count // 11):
        inner = tuple(box(f"{ident}{c}.{k}", 4.0 * k + shift * (c == 3), 0, 6, 6) for k in range(10))
        cards.append(group(f"{ident}{c}", 2.0, 3.0 * c, inner))
    return Frame(ident, ident, 60, 200, layers=tuple(cards))


class OfCards(unittest.TestCase):
    """The stills of presets: one while the cards are drawn, the others after, all of them on the disk."""

    SIZE = QSize(144, 68)

    def setUp(self) -> None:
        application()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name) / "pictures"
        self.presets = built_in()[:4]

    def pictures(self) -> CardPictures:
        return CardPictures(QApplication.instance(), lambda: self.folder)  # type: ignore[arg-type]

    def files(self) -> list[str]:
        return sorted(path.name for path in self.folder.glob("*"))

    def settle(self, pictures: CardPictures) -> None:
        while pictures.waiting():
            pictures._next()
        pictures._next()

    def test_they_fill_in_and_are_kept(self) -> None:
        pictures, heard = self.pictures(), []
        pictures.made.connect(lambda: heard.append(1))
        first = [pictures.still(preset, self.SIZE) for preset in self.presets]
        self.assertEqual([image is None for image in first], [False, True, True, True])
        self.settle(pictures)
        self.assertEqual((len(heard), len(self.files())), (3, 4))
        stills = [pictures.still(preset, self.SIZE) for preset in self.presets]
        assert stills[1] is not None
        self.assertEqual(stills[1].size(), self.SIZE)
        again = self.pictures()
        with patch("avelt.window.shelf.card_pictures.still_of", side_effect=AssertionError("made again")):
            renamed = replace(self.presets[0], name="Another name")
            self.assertEqual(again.still(renamed, self.SIZE), stills[0])

    def test_another_motion_or_size_is_another_picture(self) -> None:
        pictures = self.pictures()
        curve = replace(self.presets[0], duration=self.presets[0].duration + 100.0)
        for preset, size in ((self.presets[0], self.SIZE), (curve, self.SIZE), (self.presets[0], self.SIZE * 2)):
            pictures.still(preset, size)
            self.settle(pictures)
        self.assertEqual(len(self.files()), 3)

    def test_a_broken_file_and_a_folder_that_cannot_be_are_no_trouble(self) -> None:
        pictures = self.pictures()
        good = pictures.still(self.presets[0], self.SIZE)
        (self.folder / self.files()[0]).write_bytes(b"no picture")
        self.assertEqual(self.pictures().still(self.presets[0], self.SIZE), good)
        blocked = CardPictures(pictures, lambda: self.folder / self.files()[0])
        self.assertEqual(blocked.still(self.presets[0], self.SIZE), good)

    def test_the_oldest_go(self) -> None:
        self.folder.mkdir()
        for k in range(5):
            file = self.folder / f"{k}.png"
            file.touch()
            os.utime(file, (k, k))
        remove_old(self.folder, 3)
        self.assertEqual(self.files(), ["2.png", "3.png", "4.png"])

    def test_what_is_not_seen_any_more_is_not_made(self) -> None:
        pictures = self.pictures()
        for preset in self.presets:
            pictures.still(preset, self.SIZE)
        pictures.forget_queue()
        self.settle(pictures)
        self.assertEqual(len(self.files()), 1)


class FillIn(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.painted: list[tuple[str, float]] = []
        painter = ScenePainter()

        def paint(entry: Frame, scale: float) -> QImage:
            self.painted.append((entry.id, scale))
            return painter.render(compile_still(entry).at(0.0), scale, pieces=True)

        self.pictures = Pictures(paint)
        self.heard = 0
        self.pictures.made.connect(self._hear)

    def _hear(self) -> None:
        self.heard += 1

    def settle(self) -> None:
        while self.pictures.waiting():
            self.pictures._next()

    def test_large_ones_beyond_the_first_come_later_and_stand_in_until_then(self) -> None:
        frames = [frame(ident, AT_ONCE - 100) for ident in "AB"]
        shown = [self.pictures.soon(entry, 1.0) for entry in frames]
        self.assertEqual([(image.width(), image.height()) for image in shown], [(60, 200), (1, 1)])
        self.assertEqual((self.painted, self.pictures.waiting()), ([("A", 1.0)], 1))
        self.settle()
        self.assertEqual((self.painted, self.heard), ([("A", 1.0), ("B", 1.0)], 1))
        self.assertEqual(self.pictures.soon(frames[1], 1.0), self.pictures.picture(frames[1], 1.0))
        self.assertEqual(len(self.painted), 2)

    def test_small_ones_never_wait(self) -> None:
        for k in range(40):
            self.assertEqual(self.pictures.soon(frame(f"F{k}", 110), 1.0).width(), 60)
        self.assertEqual(self.pictures.waiting(), 0)

    def test_an_edited_one_stands_in_as_it_was(self) -> None:
        first = frame("A", 990)
        before = self.pictures.picture(first, 1.0)
        self.pictures.picture(frame("B", 990), 1.0)
        edited = frame("A", 990, 5.0)
        self.assertEqual(self.pictures.soon(edited, 1.0), before)
        self.settle()
        self.assertNotEqual(self.pictures.soon(edited, 1.0), before)

    def test_a_smaller_one_is_made_of_a_larger(self) -> None:
        large = frame("A", 990)
        self.pictures.picture(large, 2.0)
        self.assertEqual(self.pictures.soon(large, 1.0).width(), 60)
        self.assertEqual(self.painted, [("A", 2.0)])
        self.pictures.picture(large, 4.0)
        self.assertEqual(len(self.painted), 2)


class Pieces(unittest.TestCase):
    def test_an_edit_paints_the_piece_that_it_touched(self) -> None:
        application()
        painter = ScenePainter()
        painter.render(compile_still(frame("A", 990)).at(0.0), pieces=True)
        whole = frame("A", 990)
        first = painter.render(compile_still(whole).at(0.0), pieces=True)
        edited = replace(whole, layers=(*whole.layers[:3], frame("A", 990, 5.0).layers[3], *whole.layers[4:]))
        with patch.object(painter, "_make_run", wraps=painter._make_run) as made:
            second = painter.render(compile_still(edited).at(0.0), pieces=True)
        self.assertEqual(made.call_count, 1)
        self.assertNotEqual(first, second)
        self.assertEqual(second, ScenePainter().render(compile_still(edited).at(0.0)))


class TidyUp(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.plays = False
        self.tidy = Tidy(lambda: self.plays)

    def look(self, **limits: Any) -> bool:
        with patch.multiple(tidy, **limits), patch.object(gc, "collect") as collected, patch.object(gc, "freeze"):
            done = self.tidy.look()
            self.assertEqual(bool(collected.call_count), done)
        return done

    def test_only_when_nobody_does_anything_and_only_once(self) -> None:
        self.assertFalse(self.look(IDLE=60_000))
        self.plays = True
        self.assertFalse(self.look(IDLE=0))
        self.plays = False
        self.assertTrue(self.look(IDLE=0))
        self.assertFalse(self.look(IDLE=0))
        self.tidy.touch()
        self.assertTrue(self.look(IDLE=0))
        self.tidy._spot += QPoint(3, 0)
        self.assertFalse(self.look(IDLE=60_000))
        self.assertTrue(self.look(IDLE=0))

    def test_at_last_anyway(self) -> None:
        self.plays = True
        self.assertTrue(self.look(IDLE=60_000, ANYWAY=0))


if __name__ == "__main__":
    unittest.main()
