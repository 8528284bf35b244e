"""Rows that go on in a second line, and labels that say what they have room for."""

from __future__ import annotations

import unittest

from PySide6.QtWidgets import QLabel, QSizePolicy, QWidget

from avelt.window.controls.lines import Lines
from avelt.window.controls.short_label import ShortLabel
from avelt.window.start import application


class Block(QWidget):
    """A control of a fixed size."""

    def __init__(self, wide: int, high: int = 20) -> None:
        super().__init__()
        self.setFixedSize(wide, high)


class LinesTest(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.whole = QWidget()
        self.lines = Lines(self.whole, spacing=10, between=4)
        self.lines.setContentsMargins(0, 0, 0, 0)

    def spots(self, wide: int, *blocks: QWidget) -> list[tuple[int, int]]:
        self.whole.resize(wide, self.lines.heightForWidth(wide))
        self.whole.show()
        self.lines.activate()
        return [(block.x(), block.y()) for block in blocks]

    def test_what_has_room_stands_in_one_line_and_the_rest_at_the_right(self) -> None:
        one, two, three = Block(50), Block(60), Block(40)
        self.lines.addWidget(one)
        self.lines.addWidget(two)
        self.lines.add_gap()
        self.lines.addWidget(three)
        self.assertEqual(self.lines.sizeHint().width(), 170)
        self.assertEqual(self.spots(300, one, two, three), [(0, 0), (60, 0), (260, 0)])
        self.assertEqual(self.lines.heightForWidth(170), 20)
        self.assertEqual(self.spots(169, one, two, three), [(0, 0), (60, 0), (0, 24)])
        self.assertEqual(self.spots(100, one, two, three), [(0, 0), (0, 24), (0, 48)])
        self.assertEqual(self.lines.heightForWidth(100), 68)

    def test_a_space_is_none_at_the_start_of_a_line_and_hidden_ones_take_none(self) -> None:
        one, two = Block(50), Block(50)
        self.lines.addWidget(one)
        self.lines.add_space(30)
        self.lines.addWidget(two)
        self.assertEqual(self.spots(150, one, two), [(0, 0), (100, 0)])
        self.assertEqual(self.spots(95, one, two), [(0, 0), (0, 24)])
        one.hide()
        self.assertEqual(self.spots(95, two), [(0, 0)])

    def test_a_hint_takes_what_is_left_and_makes_no_line(self) -> None:
        one, hint, two = Block(50), QLabel("a hint much longer than there is room for"), Block(40)
        hint.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        for block in (one, hint, two):
            self.lines.addWidget(block)
        self.assertEqual(self.spots(200, one, two), [(0, 0), (160, 0)])
        self.assertEqual(hint.width(), 90)


class ShortLabelTest(unittest.TestCase):
    def setUp(self) -> None:
        application()
        self.label = ShortLabel()

    def test_what_has_no_room_is_left_out_and_is_the_tip(self) -> None:
        self.label.setText("Sailings and what comes after")
        wide = self.label.sizeHint().width()
        self.label.resize(wide, 20)
        self.label.show()
        self.assertEqual((self.label.text(), self.label.toolTip()), (self.label.whole, ""))
        self.label.resize(wide // 2, 20)
        self.assertTrue(self.label.text().startswith("Sail") and self.label.text().endswith("…"))
        self.assertEqual(self.label.toolTip(), "Sailings and what comes after")
        self.assertLessEqual(self.label.fontMetrics().horizontalAdvance(self.label.text()), wide // 2)
        self.label.resize(wide, 20)
        self.assertEqual((self.label.text(), self.label.toolTip()), (self.label.whole, ""))

    def test_a_name_with_angles_is_no_mark(self) -> None:
        self.label.setText("Fares 3 < 5 and 7 > 6, all of them")
        self.label.resize(self.label.sizeHint().width() - 30, 20)
        self.label.show()
        self.assertTrue(self.label.text().startswith("Fares 3 < 5 and 7 > 6"))
        self.assertEqual(self.label.toolTip(), self.label.whole)

    def test_marks_stay_around_what_is_kept(self) -> None:
        self.label.setText("<b style='color:#A84F0C'>From</b> Sailings and more")
        self.label.resize(self.label.sizeHint().width() - 40, 20)
        self.label.show()
        self.assertTrue(self.label.text().startswith("<b style='color:#A84F0C'>From</b> Sail"))
        self.assertEqual(self.label.toolTip(), "From Sailings and more")


if __name__ == "__main__":
    unittest.main()
