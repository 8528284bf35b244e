"""Opening: a window that is there at once, without what draws; how the work looked last; the demo that is shipped."""

from __future__ import annotations

import json
import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QColor, QDragEnterEvent, QDropEvent, QPixmap

from avelt.core.errors import AveltError
from avelt.core.formats.checked import check
from avelt.core.formats.project_file import save_project, to_json
from avelt.demo.build import build_demo
from avelt.demo.shipped import shipped_demo
from avelt.paint.fonts import measure_text
from avelt.window.common.opening_cache import folder
from avelt.window.shell import last_picture
from avelt.window.start import application, make_window, open_window
from tests.window.own_cache import OwnCache

HEAVY = ("numpy", "scipy", "PIL", "rapidfuzz", "avelt.paint.painter", "avelt.core.timing", "avelt.window.frames")
LOOK = """
import sys
from avelt.window.start import make_window, application
window = make_window(None, False, False); window.show(); application().processEvents()
print([name for name in sys.modules if name.startswith({heavy!r})])
"""


def near(first: Any, second: Any) -> bool:
    """The same but for what other fonts of the system change: numbers within a hundredth."""
    if isinstance(first, dict) and isinstance(second, dict):
        return first.keys() == second.keys() and all(near(first[key], second[key]) for key in first)
    if isinstance(first, list) and isinstance(second, list):
        return len(first) == len(second) and all(near(a, b) for a, b in zip(first, second, strict=True))
    if isinstance(first, int | float) and isinstance(second, int | float):
        return abs(first - second) < 0.01
    return bool(first == second)


class Light(unittest.TestCase):
    def test_an_empty_window_opens_without_what_draws(self) -> None:
        env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
        code = LOOK.format(heavy=HEAVY)
        found = subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, text=True, env=env)
        self.assertEqual(found.stdout.strip(), "[]")

    def test_work_in_the_background_gives_the_window_its_turn_soon(self) -> None:
        make_window(None, False, False)
        self.assertLess(sys.getswitchinterval(), 0.001)

    def test_the_landing_takes_files_and_gives_way_to_the_station(self) -> None:
        window = make_window(None, False, False)
        window.show()
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "pier.svg"
            path.write_text(
                '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 20 20"><rect id="r" width="9" height="9"/></svg>'
            )
            data = QMimeData()
            data.setUrls([QUrl.fromLocalFile(str(path))])
            args = (Qt.DropAction.CopyAction, data, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
            enter = QDragEnterEvent(QPointF(5, 5).toPoint(), *args)
            window.landing.dragEnterEvent(enter)
            self.assertTrue(enter.isAccepted())
            window.landing.dropEvent(QDropEvent(QPointF(5, 5), *args))
        self.assertEqual([frame.name for frame in window.workspace.project.frames], ["pier"])
        self.assertIs(window.stack.currentWidget(), window.stations["frames"])
        window.workspace.session.saved()
        window.close()

    def test_the_landings_button_asks_for_files(self) -> None:
        window = make_window(None, False, False)
        with mock.patch("PySide6.QtWidgets.QFileDialog.getOpenFileNames", return_value=([], "")) as asked:
            window.landing.empty.button.click()
        asked.assert_called_once()
        window.close()


class LastPicture(OwnCache):
    def picture(self, color: str) -> QPixmap:
        made = QPixmap(30, 20)
        made.fill(QColor(color))
        return made

    def test_kept_by_file_and_theme_and_dropped_when_the_file_is_newer(self) -> None:
        file = self.folder / "a.avelt"
        file.write_bytes(b"x")
        last_picture.keep(file, False, self.picture("#ff0000"))
        shown = last_picture.load(file, False, 30, 20)
        assert shown is not None
        self.assertEqual(shown.toImage().pixelColor(3, 3).name(), "#ff0000")
        self.assertIsNone(last_picture.load(file, True, 30, 20))
        self.assertIsNone(last_picture.load(file, False, 31, 20))
        self.assertIsNone(last_picture.load(self.folder / "b.avelt", False, 30, 20))
        later = file.stat().st_mtime + 60
        os.utime(file, (later, later))
        self.assertIsNone(last_picture.load(file, False, 30, 20))

    def test_only_the_newest_are_kept(self) -> None:
        for k in range(last_picture.MOST + 5):
            last_picture.keep(self.folder / f"{k}.avelt", False, self.picture("#00ff00"))
        self.assertEqual(len(list(folder().glob("*.look"))), last_picture.MOST)

    def test_a_folder_that_cannot_be_written_is_no_trouble(self) -> None:
        (self.folder / "cache").write_text("a file")
        last_picture.keep(None, False, self.picture("#00ff00"))
        self.assertIsNone(last_picture.load(None, False, 30, 20))

    def test_a_project_opened_again_begins_as_it_looked(self) -> None:
        file = self.folder / "ferry.avelt"
        save_project(build_demo(measure_text), file)
        window = open_window(file, False, False)
        self.assertEqual((window.workspace.path, window.workspace.project.name), (file, "Skerry Line"))
        self.assertIs(window.stack.currentWidget(), window.stations["frames"])
        looked = window.stack.grab().toImage()
        window.close()
        seen: list[Any] = []
        with mock.patch("avelt.window.shell.landing.Landing.show_opening", seen.append):
            open_window(file, False, False).close()
        self.assertEqual(seen[0].toImage().size(), looked.size())
        middle = looked.rect().center()
        self.assertEqual(seen[0].toImage().pixelColor(middle), looked.pixelColor(middle))

    def test_a_file_that_cannot_be_read_leaves_no_window(self) -> None:
        bad = self.folder / "bad.avelt"
        bad.write_bytes(b"not a project")
        before = {id(widget) for widget in application().topLevelWidgets() if widget.isVisible()}
        with self.assertRaises(AveltError):
            open_window(bad, False, False)
        after = {id(widget) for widget in application().topLevelWidgets() if widget.isVisible()}
        self.assertEqual(after - before, set())


class Shipped(unittest.TestCase):
    def test_it_is_what_the_screens_and_their_wiring_make(self) -> None:
        application()
        made, shipped = (json.loads(to_json(project)) for project in (build_demo(measure_text), shipped_demo()))
        check(shipped_demo())  # opened, it is taken as sound
        self.assertTrue(near(made, shipped), "Write it anew: python -m avelt.tools.demo_file")


if __name__ == "__main__":
    unittest.main()
