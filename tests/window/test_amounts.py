"""Typed amounts mean the same in every number field, for one and for many."""

from __future__ import annotations

import unittest
from typing import Any

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtTest import QTest

from avelt.core.edits.cues import retime_cues, times_of
from avelt.core.errors import EditError, FormatError
from avelt.core.model.motion import CueKey
from avelt.core.model.values import Frame, Project
from avelt.core.timing.schedule import duration_of
from avelt.window.controls.fields import NumberField
from avelt.window.controls.number_text import Amount, is_relative, read_amount
from avelt.window.frames.values import set_from_text
from avelt.window.start import application
from avelt.window.timing.row_paint import ROW
from tests.support import WindowCase, box, project_of, send


class Reading(unittest.TestCase):
    def test_what_multiplies_adds_and_is(self) -> None:
        for text, unit, wanted in (
            ("1.5x", "ms", Amount("times", 1.5)),
            ("2 ×", "px", Amount("times", 2.0)),
            ("150%", "ms", Amount("times", 1.5)),
            ("-10%", "°", Amount("times", 0.9)),
            ("+10 %", "%", Amount("times", 1.1)),
            ("+40", "px", Amount("by", 40.0)),
            ("+0.1s", "ms", Amount("by", 100.0)),
            ("-40", "px", Amount("is", -40.0)),
            ("40%", "%", Amount("is", 40.0)),
            ("2*(8+4)", "", Amount("is", 24.0)),
        ):
            found = read_amount(text, unit)
            self.assertEqual((found.how, round(found.value, 9)), (wanted.how, wanted.value), text)
            self.assertEqual(is_relative(text), wanted.how != "is" or text == "40%", text)
        for text in ("x", "1.5xx", "+", "%", "3 furlongs"):
            with self.assertRaises(FormatError):
                read_amount(text, "ms")

    def test_a_field_applies_it_to_its_value(self) -> None:
        application()
        field = NumberField("ms", low=0.0)
        field.show_value(400.0)
        heard: list[float] = []
        field.committed.connect(heard.append)
        for text in ("1.5x", "50%", "+40", "-10%", "-99"):
            field.selectAll()
            QTest.keyClicks(field, text)
            QTest.keyClick(field, Qt.Key.Key_Return)
        self.assertEqual(heard, [600.0, 300.0, 340.0, 306.0, 0.0])


class Table(unittest.TestCase):
    def value(self, name: str, text: str, **own: Any) -> Any:
        layer = box("a", 10.0, 20.0, 40.0, 30.0, **own)
        project = Project(name="", frames=(Frame("F", "F", layers=(layer,)),))
        return set_from_text(project, "F", "a", name, text).frames[0].layers[0]

    def test_the_same_in_the_table(self) -> None:
        made = self.value("size", "1.5x")
        self.assertEqual((made.w, made.h), (60.0, 45.0))
        made = self.value("size", "+10, 50%")
        self.assertEqual((made.w, made.h), (50.0, 15.0))
        made = self.value("size", "120 x 40")
        self.assertEqual((made.w, made.h), (120.0, 40.0))
        made = self.value("position", "+5, -20")
        self.assertEqual((made.x, made.y), (15.0, -20.0))
        self.assertEqual(self.value("rotation", "+15", rotation=30.0).rotation, 45.0)
        self.assertEqual(self.value("rotation", "-10%", rotation=30.0).rotation, 27.0)
        self.assertEqual(self.value("opacity", "-10%", opacity=0.5).opacity, 0.45)
        self.assertEqual(self.value("opacity", "40%", opacity=0.5).opacity, 0.4)
        self.assertEqual(self.value("scale", "1.5x", scale_x=2.0, scale_y=2.0).scale_x, 3.0)
        self.assertEqual(self.value("blur", "200%", blur=4.0).blur, 8.0)


class Many(unittest.TestCase):
    KEYS = (CueKey("a", "c", "position"), CueKey("b", "d", "position"))

    def setUp(self) -> None:
        left = (box("a", 0, 0, 9, 9), box("b", 20, 0, 9, 9))
        right = (box("c", 50, 0, 9, 9, name="a"), box("d", 70, 0, 9, 9, name="b"))
        self.project = project_of(left, right)
        for key, start, length in zip(self.KEYS, (20.0, 60.0), (100.0, 40.0), strict=True):
            self.project = retime_cues(self.project, "R", (key,), "start", lambda _, v=start: v)
            self.project = retime_cues(self.project, "R", (key,), "length", lambda _, v=length: v)

    def times(self, which: Any, amount: Amount) -> list[tuple[float, float]]:
        made = retime_cues(self.project, "R", self.KEYS, which, amount.of)
        return list(times_of(made, "R", self.KEYS).values())

    def test_each_keeps_what_was_not_typed(self) -> None:
        self.assertEqual(self.times("length", Amount("is", 80.0)), [(20.0, 100.0), (60.0, 140.0)])
        self.assertEqual(self.times("length", Amount("times", 1.5)), [(20.0, 170.0), (60.0, 120.0)])
        self.assertEqual(self.times("start", Amount("by", 40.0)), [(60.0, 160.0), (100.0, 140.0)])
        self.assertEqual(self.times("start", Amount("is", 10.0)), [(10.0, 110.0), (10.0, 50.0)])
        self.assertEqual(self.times("end", Amount("is", 150.0)), [(20.0, 150.0), (60.0, 150.0)])
        with self.assertRaisesRegex(EditError, "b · position starts at 60 ms and cannot end before that, at 30"):
            self.times("end", Amount("is", 30.0))


class InTiming(WindowCase, unittest.TestCase):
    def test_lasts_changes_the_lengths_of_all_that_are_chosen(self) -> None:
        self.loosen()
        self.window.go("timing")
        station = self.window.stations["timing"]
        rows = [row.key for row in station.sheet.body.rows if row.changes and not row.prop][:2]
        station.pick(rows[0])
        station.context.select(station.context.selection.__class__(cues=tuple(rows)))
        before = times_of(self.project, self.project.routes[0].id, rows)
        field = station.curve_editor.lasts
        field.selectAll()
        QTest.keyClicks(field, "1.5x")
        QTest.keyClick(field, Qt.Key.Key_Return)
        after = times_of(self.project, self.project.routes[0].id, rows)
        for key in rows:
            self.assertAlmostEqual(after[key][0], before[key][0])
            self.assertAlmostEqual(after[key][1] - after[key][0], 1.5 * (before[key][1] - before[key][0]))

    def test_shift_takes_a_range_and_ctrl_a_all(self) -> None:
        self.window.go("timing")
        station = self.window.stations["timing"]
        body = station.sheet.body
        rows = [row.key for row in body.rows if row.changes]
        places = {row.key: k for k, row in enumerate(body.rows)}
        station.pick(rows[0])
        spot = QPointF(60.0, (places[rows[3]] + 0.5) * ROW)
        send(body, QEvent.Type.MouseButtonPress, spot, Qt.KeyboardModifier.ShiftModifier)
        send(body, QEvent.Type.MouseButtonRelease, spot, Qt.KeyboardModifier.ShiftModifier, down=False)
        self.assertEqual(set(station.context.selection.cues), set(rows[:4]))
        self.assertEqual(station.context.key, rows[3])
        QTest.keyClick(body, Qt.Key.Key_A, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(set(station.context.selection.cues), set(rows))

    def test_the_length_says_what_plays(self) -> None:
        self.loosen()
        self.window.go("timing")
        station = self.window.stations["timing"]
        route = self.project.routes[0]
        key = next(row.key for row in station.sheet.body.rows if row.changes)
        long = duration_of(route.transition, self.project) + 160.0
        self.workspace.do("later", lambda p: retime_cues(p, route.id, (key,), "end", lambda _: long))
        self.settle()
        self.assertTrue(station.length.text().endswith(f", plays {long:.0f}"), station.length.text())
        station.length.setFocus()
        station.length.selectAll()
        QTest.keyClicks(station.length, "700")
        QTest.keyClick(station.length, Qt.Key.Key_Return)
        self.assertEqual(duration_of(self.project.routes[0].transition, self.project), 700.0)


if __name__ == "__main__":
    unittest.main()
