"""The log paints what is new and moves the rest, and looks as if all of it were painted anew."""

from __future__ import annotations

import unittest
from unittest import mock

from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QScrollArea

from avelt.core.running.player import LogEntry
from avelt.window.rehearse import log_view
from avelt.window.rehearse.log_view import LogView
from tests.support import WindowCase


class PaintedWhereItChanged(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.log, self.area = LogView(self.workspace), QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setWidget(self.log)
        self.area.resize(260, 300)
        self.addCleanup(self.area.deleteLater)
        self.area.show()
        self.words: list[str] = []

        def shortened(painter: QPainter, text: str, width: float) -> str:
            self.words.append(text)
            return text

        self.enterContext(mock.patch.object(log_view, "shortened", shortened))

    def show(self, count: int) -> None:
        """So many entries, and the last in sight."""
        self.words.clear()
        self.log.show_entries([LogEntry(100.0 * k, "tap", f"Row {k} of the sailing list") for k in range(count)])
        self.area.verticalScrollBar().setValue(self.area.verticalScrollBar().maximum())
        self.log.show_now(100.0 * count)
        self.settle()

    def assertPaintedAnew(self) -> None:
        """What stands on the screen is what all of it would be."""
        seen = self.area.viewport()
        on_screen = self.area.screen().grabWindow(self.area.winId()).toImage().copy(seen.geometry())
        anew = seen.grab().toImage()
        self.assertEqual(*(image.convertToFormat(QImage.Format.Format_RGB32) for image in (on_screen, anew)))

    def test_it_looks_as_if_it_were_painted_anew(self) -> None:
        for count in (1, 2, 5, 7, 8, 9, 14, 15, 3):
            self.show(count)
            self.assertPaintedAnew()
        self.show(12)
        self.log.show_now(1000.0)
        self.settle()
        self.assertPaintedAnew()
        self.area.resize(220, 280)
        self.settle()
        self.assertPaintedAnew()

    def test_what_is_in_sight_is_not_painted_again(self) -> None:
        self.show(12)
        self.show(13)
        self.assertEqual({word.split()[1] for word in self.words}, {"11", "12"})
        self.area.verticalScrollBar().setValue(0)
        self.settle()
        self.words.clear()
        self.area.resize(240, 300)
        self.settle()
        self.assertGreaterEqual({word.split()[1] for word in self.words}, {"0", "1", "2", "3", "4", "5", "6"})


if __name__ == "__main__":
    unittest.main()
