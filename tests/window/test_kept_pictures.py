"""The pictures of frames that are kept from one opening to the next: the same ones, and only while they are right."""

from __future__ import annotations

import os
import subprocess
import sys
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import QRectF
from PySide6.QtGui import QColor, QImage, QPainter

from avelt.core.edits.frames import rename_frame
from avelt.core.formats.project_file import open_project, save_project
from avelt.core.model.parts import uses_in
from avelt.core.model.values import Frame
from avelt.demo.shipped import shipped_demo
from avelt.window.common import kept_pictures, opening_cache
from avelt.window.common.pictures import Pictures
from avelt.window.frames.frame_painter import FramePainter
from avelt.window.start import application, open_window
from tests.window.own_cache import OwnCache

HEAVY = (
    "numpy",
    "PIL",
    "tinycss2",
    "rapidfuzz",
    "avelt.paint.painter",
    "avelt.core.timing.compile",
    "avelt.core.pairing",
)
AGAIN = """
import sys
from avelt.window.start import open_window, application
window = open_window(None, True, False); application().processEvents(); window.grab()
print([name for name in sys.modules if name.startswith({heavy!r})]); window.close()
"""


def half(color: str, w: int = 40, h: int = 30) -> QImage:
    made = QImage(w, h, QImage.Format.Format_ARGB32_Premultiplied)
    made.fill(QColor(color))
    made.setPixelColor(1, 2, QColor(0, 0, 0, 128))
    return made


def large(pages: FramePainter, frame: Frame) -> tuple[QImage, QImage]:
    """A frame so large that only what is seen of it is painted, and what lies around it."""
    pages.outside = True
    found = []
    for around in (False, True):
        image = QImage(1000, 1500, QImage.Format.Format_ARGB32)
        image.fill(0)
        painter = QPainter(image)
        place = QRectF(-1000, -1000, frame.w * 8, frame.h * 8)
        if around:
            pages.draw_outside(painter, frame, place, 1.0)
        else:
            pages.draw_page(painter, frame, place, False, 1.0)
        painter.end()
        found.append(image)
    return found[0], found[1]


class Kept(OwnCache):
    def setUp(self) -> None:
        super().setUp()
        self.file = self.folder / "ferry.avelt"
        save_project(shipped_demo(), self.file)

    def kept(self) -> Path:
        return opening_cache.opening_file(self.file, kept_pictures.ENDING)

    def test_they_come_back_to_the_pixel(self) -> None:
        made = half("#2080c0")
        kept_pictures.keep(self.file, self.file, [("F1", 0.5, made), ("F2", 2.0, half("#ffffff", 3, 5))])
        found = kept_pictures.load(self.file, self.file)
        self.assertEqual([(name, scale) for name, scale, _ in found], [("F1", 0.5), ("F2", 2.0)])
        self.assertEqual(found[0][2], made)
        self.assertEqual(found[0][2].pixelColor(1, 2).alpha(), 128)

    def test_they_do_not_count_for_another_file_program_or_fonts(self) -> None:
        kept_pictures.keep(self.file, self.file, [("F1", 1.0, half("#2080c0"))])
        self.assertEqual(len(kept_pictures.load(self.file, self.file)), 1)
        with mock.patch.object(kept_pictures, "__version__", "0.0.9"):
            self.assertEqual(kept_pictures.load(self.file, self.file), [])
        with mock.patch.object(kept_pictures, "_fonts", lambda: 1):
            self.assertEqual(kept_pictures.load(self.file, self.file), [])
        self.assertEqual(kept_pictures.load(self.folder / "other.avelt", self.file), [])
        save_project(shipped_demo(), self.file)
        self.assertEqual(kept_pictures.load(self.file, self.file), [])

    def test_what_is_cut_off_or_damaged_is_none(self) -> None:
        kept_pictures.keep(self.file, self.file, [("F1", 1.0, half("#2080c0"))])
        data = self.kept().read_bytes()
        for length in range(len(data)):
            self.kept().write_bytes(data[:length])
            self.assertEqual(kept_pictures.load(self.file, self.file), [], length)
        for at in range(len(data)):
            self.kept().write_bytes(data[:at] + bytes([data[at] ^ 0x5A]) + data[at + 1 :])
            for _, _, image in kept_pictures.load(self.file, self.file):
                self.assertGreater(image.width() * image.height(), 0)

    def test_sizes_that_do_not_fit_the_bytes_are_refused(self) -> None:
        good = opening_cache.pack(half("#2080c0"))
        assert good.image() is not None
        for w, h in ((41, 30), (40, 29), (0, 30), (-40, -30), (40_000, 1), (30_000, 30_000)):
            self.assertIsNone(replace(good, w=w, h=h).image(), (w, h))
        self.assertIsNone(replace(good, data=good.data[:-3]).image())
        self.assertIsNone(replace(good, data=b"no").image())
        plain = opening_cache.pack(half("#2080c0"), quickly=True)
        self.assertEqual((plain.image(), len(plain.data)), (good.image(), 40 * 30 * 4))
        self.assertIsNone(replace(plain, data=plain.data[:-1]).image())
        with mock.patch.object(opening_cache, "_PLAIN", 100):
            self.assertEqual(opening_cache.pack(half("#2080c0"), quickly=True), good)

    def test_only_so_much_is_kept_of_one_project_and_of_so_many(self) -> None:
        with mock.patch.object(kept_pictures, "ROOM", 40 * 30 * 4 * 2):
            kept_pictures.keep(self.file, self.file, [(f"F{k}", 1.0, half("#2080c0")) for k in range(5)])
        self.assertEqual(len(kept_pictures.load(self.file, self.file)), 2)
        for k in range(kept_pictures.MOST + 3):
            kept_pictures.keep(self.folder / f"{k}.avelt", self.file, [])
        self.assertEqual(len(list(opening_cache.folder().glob(f"*{kept_pictures.ENDING}"))), kept_pictures.MOST)

    def test_opened_again_nothing_is_painted_and_all_looks_the_same(self) -> None:
        window = open_window(self.file, False, False)
        application().processEvents()
        looked = window.stations["frames"].grab().toImage()
        window.close()
        with mock.patch.object(Pictures, "_make", side_effect=AssertionError("painted anew")):
            again = open_window(self.file, False, False)
            application().processEvents()
            self.assertEqual(again.stations["frames"].grab().toImage(), looked)
        again.close()

    def test_at_another_size_it_stands_in_until_it_is_painted(self) -> None:
        application()
        frame, painted = shipped_demo().frames[0], []

        def paint(frame: Frame, scale: float) -> QImage:
            painted.append(scale)
            return half("#ff0000")

        pictures = Pictures(paint)
        pictures.take(frame, 0.5, half("#2080c0"))
        self.assertTrue(pictures.was_taken(frame))
        self.assertEqual(pictures.picture(frame, 0.5), half("#2080c0"))
        self.assertEqual(pictures.soon(frame, 0.7), half("#2080c0"))
        self.assertEqual((painted, pictures.waiting()), ([], 1))
        pictures._next()
        self.assertEqual((painted, pictures.waiting()), ([0.7], 0))
        self.assertEqual(pictures.soon(frame, 0.7), half("#ff0000"))
        self.assertFalse(pictures.was_taken(frame))
        self.assertEqual(pictures.newest([frame]), [(frame.id, 0.7, half("#ff0000"))])
        self.assertEqual(pictures.newest([replace(frame, name="Elsewhere")]), [])

    def test_a_frame_is_painted_anew_when_a_part_in_it_changed(self) -> None:
        window = open_window(self.file, False, False)
        workspace = window.workspace
        frame = next(frame for frame in workspace.project.frames if uses_in(frame))
        other = next(frame for frame in workspace.project.frames if not uses_in(frame))
        before = [workspace.pictures.picture(entry, 0.4) for entry in (frame, other)]
        pages = FramePainter(workspace)
        wide = [large(pages, entry) for entry in (frame, other)]
        empty = tuple(
            replace(part, poses=tuple(replace(pose, layers=(), loops=()) for pose in part.poses))
            for part in workspace.whole.parts
        )
        workspace.session.do("empty the parts", replace(workspace.whole, parts=empty))
        self.assertIn(frame, workspace.project.frames)
        with mock.patch.object(workspace.pictures, "_paint", wraps=workspace.pictures._paint) as painted:
            after = [workspace.pictures.picture(entry, 0.4) for entry in (frame, other)]
        self.assertEqual(painted.call_count, 1)
        self.assertEqual((before[0] == after[0], before[1] == after[1]), (False, True))
        now = [large(pages, entry) for entry in (frame, other)]
        self.assertTrue(all(one != new for one, new in zip(wide[0], now[0], strict=True)))
        self.assertEqual(wide[1], now[1])
        workspace.session.saved()
        window.close()

    def test_what_was_changed_and_not_saved_is_not_kept(self) -> None:
        window = open_window(self.file, False, False)
        application().processEvents()
        frame = window.workspace.project.frames[0]
        window.workspace.do("rename", lambda project: rename_frame(project, frame.id, "Elsewhere"))
        self.assertTrue(window.workspace.session.changed)
        with mock.patch.object(type(window), "may_lose", lambda self: True):
            window.close()
        self.assertFalse(self.kept().exists())

    def test_what_somebody_else_wrote_meanwhile_gets_no_pictures_of_ours(self) -> None:
        window = open_window(self.file, False, False)
        application().processEvents()
        self.assertTrue(window.is_as_in_file())
        theirs = shipped_demo()
        frames = (replace(theirs.frames[0], background="#ff0000"), *theirs.frames[1:])
        save_project(replace(theirs, frames=frames), self.file)
        self.assertFalse(window.is_as_in_file())
        window.close()
        self.assertFalse(self.kept().exists())

    def test_a_demo_that_gave_way_to_another_project_is_not_kept(self) -> None:
        window = open_window(None, True, False)
        application().processEvents()
        other = open_project(self.file)
        window.show_project(other, None)
        application().processEvents()
        window.close()
        self.assertFalse(opening_cache.opening_file(None, kept_pictures.ENDING).exists())

    def test_the_demo_opened_again_loads_nothing_that_draws(self) -> None:
        env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        found: list[Any] = [
            subprocess.run(
                [sys.executable, "-c", AGAIN.format(heavy=HEAVY)], check=True, capture_output=True, text=True, env=env
            ).stdout.strip()
            for _ in range(2)
        ]
        self.assertIn("'numpy'", found[0])
        self.assertEqual(found[1], "[]")


if __name__ == "__main__":
    unittest.main()
