"""Several rows of the cue sheet chosen and changed together; rows found, narrowed and sorted in the window."""

import unittest
from typing import Any

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from avelt.core.model.curves import Named
from avelt.core.model.motion import CueKey
from avelt.core.timing.schedule import timed
from tests.support import WindowCase, click, drag, pixel, type_into

ALSO, MORE = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
FREE = Qt.KeyboardModifier.AltModifier


class Many(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.loosen()
        self.window.go("timing")
        self.settle()
        self.station = self.window.stations["timing"]
        self.body = self.station.sheet.body
        self.names = ("Header", "Outer Holm card", "Sandray card")
        for k, name in enumerate(self.names):
            click(self.body, self.spot(name), ALSO if k else Qt.KeyboardModifier.NoModifier)

    def place(self, name: str) -> int:
        return next(k for k, row in enumerate(self.body.rows) if row.left_name == name and not row.prop)

    def spot(self, name: str) -> QPointF:
        return QPointF(150, self.place(name) * 29 + 14)

    def when(self, name: str) -> Any:
        return timed(self.project, self.workspace.route.transition, *self.body.rows[self.place(name)].key)

    def test_they_are_chosen_tinted_and_taken_out_again(self) -> None:
        self.assertEqual(len(self.station.context.keys), 3)
        self.assertIn("3 cues", self.station.curve_editor.subject.text())
        image = self.body.grab().toImage()
        tint = self.workspace.theme.chosen
        for name in self.names:
            self.assertEqual(pixel(image, 8, self.place(name) * 29 + 6), (tint.red(), tint.green(), tint.blue()))
        click(self.body, self.spot("Header"), ALSO)
        self.assertEqual(len(self.station.context.keys), 2)
        click(self.body, self.spot("Tab bar"))
        self.assertEqual(len(self.station.context.keys), 1)

    def test_one_ribbon_dragged_moves_all_as_one_entry(self) -> None:
        before = {name: self.when(name) for name in self.names}
        place = self.place("Sandray card")
        rect = self.body.ribbon_rect(place)
        travel = self.body.scale.x(60.0, self.body.width()) - self.body.scale.x(0.0, self.body.width())
        drag(self.body, rect.center(), rect.center() + QPointF(travel, 0), keys=FREE)
        for name in self.names:
            self.assertAlmostEqual(self.when(name).start - before[name].start, 60, delta=2)
            self.assertAlmostEqual(self.when(name).duration, before[name].duration, delta=1e-6)
        self.assertEqual(self.workspace.session.undo_label, "time 3 cues")
        self.window.do("undo")
        self.assertEqual({name: self.when(name).start for name in self.names}, {n: w.start for n, w in before.items()})

    def test_ends_are_stretched_together_and_a_plain_click_chooses_one(self) -> None:
        before = {name: self.when(name) for name in self.names}
        rect = self.body.ribbon_rect(self.place("Header"))
        drag(
            self.body,
            QPointF(rect.right() - 1, rect.center().y()),
            QPointF(rect.right() + 40, rect.center().y()),
            keys=FREE,
        )
        for name in self.names:
            self.assertGreater(self.when(name).end, before[name].end + 10)
            self.assertEqual(self.when(name).start, before[name].start)
        click(self.body, QPointF(rect.center().x(), rect.center().y()))
        self.assertEqual(len(self.station.context.keys), 1)

    def test_times_curves_and_inheritance_for_all(self) -> None:
        type_into(self.station.curve_editor.start, "40")
        self.assertEqual({self.when(name).start for name in self.names}, {40.0})
        type_into(self.station.curve_editor.lasts, "200")
        self.assertEqual({self.when(name).end for name in self.names}, {240.0})
        self.pick(self.station.curve_editor.kind, "Sink")
        self.assertEqual({self.when(name).curve for name in self.names}, {Named("sink")})
        self.body.setFocus()
        QTest.keyClick(self.body, Qt.Key.Key_Right, MORE)
        self.assertEqual({self.when(name).start for name in self.names}, {50.0})
        keys = self.station.context.keys
        click(self.station.curve_editor.back)
        for key in keys:
            when = timed(self.project, self.workspace.route.transition, *key)
            self.assertEqual((when.start, when.end, when.own_time, when.own_curve), (0.0, 480.0, False, False))

    def test_the_keyboard_chooses_more(self) -> None:
        click(self.body, self.spot("Header"))
        self.body.setFocus()
        QTest.keyClick(self.body, Qt.Key.Key_Down, MORE)
        QTest.keyClick(self.body, Qt.Key.Key_Down, MORE)
        self.assertEqual(len(self.station.context.keys), 3)

    def test_rows_are_found_narrowed_and_sorted(self) -> None:
        whole = len(self.body.rows)
        type_into(self.station.search, "sun")
        self.assertEqual([row.left_name for row in self.body.rows], ["Grey Stack sun"])
        self.station.search.clear()
        self.assertEqual(len(self.body.rows), whole)
        self.pick(self.station.shows, "what enters")
        self.assertEqual({row.role for row in self.body.rows}, {"enters"})
        self.pick(self.station.shows, "own cues")
        self.pick(self.station.sorts, "by start")
        starts = [row.timed.start for row in self.body.rows]
        self.assertEqual(starts, sorted(starts))


class Turns(WindowCase, unittest.TestCase):
    def test_the_tick_shows_for_angles_only_and_turns_the_short_way(self) -> None:
        from avelt.core.edits.layers import set_value

        detail = next(f for f in self.project.frames if f.name == "Sailing detail")
        photo = next(e for e in detail.layers if e.name == "Hero card")
        self.workspace.do("rotation", lambda p: set_value(p, detail.id, photo.id, "rotation", 350.0))
        self.window.go("timing")
        self.settle()
        station = self.window.stations["timing"]
        ends = next(r.ends for r in station.sheet.body.rows if r.right_name == "Hero card")
        station.toggle(ends)
        station.pick(CueKey(*ends, "position"))
        self.assertFalse(station.curve_editor.shortest.isVisible())
        station.pick(CueKey(*ends, "rotation"))
        self.assertTrue(station.curve_editor.shortest.isVisible())
        click(station.curve_editor.shortest, QPointF(8, station.curve_editor.shortest.height() / 2))
        self.assertTrue(timed(self.project, self.workspace.route.transition, *ends, "rotation").shortest)
        self.window.do("undo")
        self.assertFalse(timed(self.project, self.workspace.route.transition, *ends, "rotation").shortest)
