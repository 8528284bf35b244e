"""What runs now is painted where it changed, and looks as if all of it were painted anew."""

from __future__ import annotations

import unittest
from unittest import mock

from msgspec.structs import replace
from PySide6.QtGui import QImage, QPainter

from avelt.window.rehearse import now_runs
from avelt.window.rehearse.now_runs import Line, NowRuns
from tests.support import WindowCase


class PaintedWhereItChanged(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.runs = NowRuns(self.workspace)
        self.addCleanup(self.runs.deleteLater)

    def lines(self, share: float, count: int, name: str = "Quay header gone") -> list[Line]:
        kinds = ("follow", "loop", "phase")
        return [
            Line(f"{name} {k}", f"{share * k:.0%} of 240 ms", share, kinds[k % 3], 1 - share if k % 3 == 0 else None)
            for k in range(count)
        ]

    def shown(self) -> tuple[QImage, QImage]:
        """As it stands on the screen, and painted all anew."""
        self.settle()
        self.assertTrue(self.runs.isVisible())
        on_screen = (
            self.runs.screen().grabWindow(self.runs.winId()).toImage().convertToFormat(QImage.Format.Format_RGB32)
        )
        return on_screen, self.runs.grab().toImage().convertToFormat(QImage.Format.Format_RGB32)

    def test_it_looks_as_if_it_were_painted_anew(self) -> None:
        for height, count in ((300, 4), (230, 9), (250, 7)):
            with self.subTest(height=height, count=count):
                self.runs.resize(260, height)
                self.runs.show_lines(self.lines(0.2, count))
                self.runs.show()
                first, _ = self.shown()
                for share in (0.9, 0.45, 0.5):
                    self.runs.show_lines(self.lines(share, count))
                    on_screen, anew = self.shown()
                    self.assertNotEqual(on_screen, first)
                    self.assertEqual(on_screen, anew)
                self.runs.show_lines(self.lines(0.5, count, "Deck"))
                on_screen, anew = self.shown()
                self.assertEqual(on_screen, anew)

    def test_names_that_stay_are_not_painted_again(self) -> None:
        self.runs.resize(260, 300)
        self.runs.show_lines(self.lines(0.2, 4))
        self.runs.show()
        self.settle()
        words: list[str] = []

        def shortened(painter: QPainter, text: str, width: float) -> str:
            words.append(text)
            return text

        with mock.patch.object(now_runs, "shortened", shortened):
            lines = self.lines(0.2, 4)
            self.runs.show_lines([lines[0], *self.lines(0.7, 4)[1:3], lines[3]])
            self.settle()
            self.assertEqual(words, ["70% of 240 ms", "140% of 240 ms"])
            words.clear()
            self.runs.show_lines([replace(line, leads=("timing", "R1")) for line in lines])
            self.settle()
            self.assertEqual(len(words), 8)


if __name__ == "__main__":
    unittest.main()
