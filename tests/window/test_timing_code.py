"""The styles beside the sheet of Timing: live, marked, typed into."""

import unittest

from PySide6.QtCore import Qt, QThreadPool
from PySide6.QtTest import QTest

from avelt.core.edits.routes import set_duration
from tests.support import WindowCase, click


class CodeInTiming(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("timing")
        self.settle()
        self.station = self.window.stations["timing"]
        row = next(r for r in self.station.sheet.body.rows if r.right_name == "Hero card" and not r.prop)
        self.station.pick(row.key)
        self.key = row.key

    def made(self) -> None:
        self.station.code.look()
        QThreadPool.globalInstance().waitForDone()
        self.settle()

    def open(self) -> None:
        click(self.station.strip.code)
        self.made()

    def test_it_comes_and_goes_and_marks_what_is_chosen(self) -> None:
        self.assertFalse(self.station.code.isVisible())
        self.open()
        code = self.station.code.code
        self.assertIn("hero-card-position", code.whole)
        lines = code.whole.split("\n")
        self.assertTrue(code.marked and any("#hero-card {" in lines[k] for k in code.marked))
        other = next(r for r in self.station.sheet.body.rows if r.left_name == "Header")
        self.station.pick(other.key)
        self.assertTrue(any("#header {" in lines[k] for k in code.marked))
        QTest.keyClick(self.station, Qt.Key.Key_C, Qt.KeyboardModifier.ShiftModifier)
        self.assertFalse(self.station.code.isVisible())

    def test_it_goes_with_every_edit(self) -> None:
        self.open()
        before = self.station.code.code.whole
        route = self.project.routes[0].id
        self.workspace.do("longer", lambda p: set_duration(p, route, 960.0))
        self.made()
        self.assertNotEqual(self.station.code.code.whole, before)
        self.assertIn("260ms both", self.station.code.code.whole)

    def test_what_is_typed_is_in_the_sheet(self) -> None:
        self.open()
        code = self.station.code.code
        line = next(row for row in code.whole.split("\n") if "hero-card-position var(" in row)
        code.setPlainText(code.whole.replace(line, line.replace("130ms", "60ms")))
        QTest.keyClick(code, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        row = next(r for r in self.station.sheet.body.rows if r.key == self.key)
        self.assertEqual((row.timed.start, row.timed.end), (60.0, 410.0))
        self.made()
        self.assertIn("60ms both", code.toPlainText())
        code.setFocus()
        self.settle()
        code.setPlainText("nothing")
        self.station.sheet.body.setFocus()
        self.settle()
        self.assertIn("Only lengths", self.window.said.text())

    def test_the_entrance_of_a_frame_has_styles_too(self) -> None:
        frame = next(f for f in self.project.frames if f.entrance is not None)
        self.station.context.show_entrance(frame.id)
        self.open()
        self.assertIn("animation:", self.station.code.code.whole)


if __name__ == "__main__":
    unittest.main()
