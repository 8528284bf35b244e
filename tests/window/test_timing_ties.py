"""Ties, staggers, copied and mirrored timing, muting: by mouse and keys in the cue sheet, read off state and pixels."""

import unittest
from typing import Any

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtTest import QTest

from avelt.core.model.properties import COLUMN
from avelt.core.timing.schedule import duration_of, timed
from avelt.window.timing import threads
from tests.support import WindowCase, click, drag, pixel, send, type_into

ALSO, MORE = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier
FREE = Qt.KeyboardModifier.AltModifier
NONE = Qt.KeyboardModifier.NoModifier


class SheetCase(WindowCase):
    def setUp(self) -> None:
        super().setUp()
        self.loosen()
        self.window.go("timing")
        self.settle()
        self.station = self.window.stations["timing"]
        self.body = self.station.sheet.body

    def place(self, name: str) -> int:
        return next(k for k, row in enumerate(self.body.rows) if name in (row.left_name, row.right_name))

    def key(self, name: str) -> Any:
        return self.body.rows[self.place(name)].key

    def rect(self, name: str) -> Any:
        return self.body.ribbon_rect(self.place(name))

    def when(self, name: str) -> Any:
        return timed(self.project, self.workspace.route.transition, *self.key(name))

    def choose(self, *names: str) -> None:
        for k, name in enumerate(names):
            click(self.body, QPointF(150, self.place(name) * 29 + 14), ALSO if k else NONE)

    def press(self, key: Any, keys: Any = NONE) -> None:
        self.body.setFocus()
        QTest.keyClick(self.body, key, keys)
        self.settle()

    @property
    def motion(self) -> Any:
        return self.station.context.route.transition


class Ties(SheetCase, unittest.TestCase):
    def tie(self, first: str, then: str) -> None:
        """Draw from the end of one ribbon to the start of another, as a person does."""
        rect, other = self.rect(first), self.rect(then)
        send(self.body, QEvent.Type.MouseMove, rect.center(), down=False)  # the knobs are seen where the mouse is
        drag(self.body, threads.knob(rect, "end"), QPointF(other.left() + 6, other.center().y()))

    def test_a_thread_is_drawn_from_an_end_to_a_start_and_follows_it(self) -> None:
        start = self.when("Sandray card").start
        self.tie("Header", "Sandray card")
        (made,) = self.motion.ties
        self.assertEqual((made.cue, made.to), (self.key("Sandray card"), self.key("Header")))
        self.assertEqual((made.at, made.to_at), ("start", "end"))
        self.assertEqual(self.when("Sandray card").start, start)
        self.assertEqual(self.workspace.session.undo_label, "tie Sandray card")
        rect = self.rect("Header")
        edge = QPointF(rect.right() - 1, rect.center().y())
        travel = self.body.scale.x(60.0, self.body.width()) - self.body.scale.x(0.0, self.body.width())
        drag(self.body, edge, edge + QPointF(travel, 0), keys=FREE)
        self.assertAlmostEqual(self.when("Sandray card").start, start + 60, delta=2)
        self.window.do("undo")
        self.window.do("undo")
        self.assertEqual(self.motion.ties, ())

    def test_the_offset_is_typed_beside_its_label_and_untied_there(self) -> None:
        self.tie("Header", "Sandray card")
        (thread,) = self.body.seen_ties()
        click(self.body, thread.label.center())
        form = self.station.ties.tie_form
        self.assertTrue(form.isVisible())
        self.assertEqual(form.heading.text(), "Sandray card starts after Header ends")
        type_into(form.offset, "25")
        self.assertEqual(self.when("Sandray card").start, self.when("Header").end + 25)
        click(form.untie)
        self.assertEqual(self.motion.ties, ())
        self.assertEqual(self.when("Sandray card").start, self.when("Header").end + 25)

    def test_a_circle_is_refused_with_names(self) -> None:
        self.tie("Header", "Sandray card")
        self.tie("Sandray card", "Header")
        self.assertEqual(len(self.motion.ties), 1)
        self.assertIn("Header", self.window.said.text())
        self.assertIn("Sandray card", self.window.said.text())

    def test_threads_are_seen(self) -> None:
        self.tie("Header", "Sandray card")
        image = self.body.grab().toImage()
        thread = self.body.seen_ties()[0]
        now = self.workspace.theme.now
        self.assertEqual(pixel(image, thread.first.x(), thread.first.y()), (now.red(), now.green(), now.blue()))

    def test_one_after_the_other_by_a_key(self) -> None:
        self.choose("Header", "Outer Holm card", "Sandray card")
        self.press(Qt.Key.Key_A)
        self.assertEqual(self.when("Outer Holm card").start, self.when("Header").end)
        self.assertEqual(self.when("Sandray card").start, self.when("Outer Holm card").end)
        self.station.ties.loosen()
        self.assertEqual(self.motion.ties, ())

    def test_one_alone_hangs_on_the_row_above(self) -> None:
        self.choose("Header")
        self.press(Qt.Key.Key_A)
        self.assertEqual(self.when("Header").start, self.when("Backdrop").end)

    def test_menus_offer_what_the_keys_do(self) -> None:
        self.choose("Header", "Sandray card")
        words = [action.text().split("\t")[0] for action in self.station.ties.menu().actions() if action.text()]
        for wanted in (
            "Copy timing",
            "Mirror timing",
            "Stagger…",
            "Tie",
            "Delete keyframes",
            "Back to inherited time and curve",
        ):
            self.assertIn(wanted, words)
        menu = self.station.ties.follow_menu()
        next(action for action in menu.actions() if action.text() == "All with the first").trigger()
        self.assertEqual(self.when("Sandray card").start, self.when("Header").start)


class Staggers(SheetCase, unittest.TestCase):
    names = ("Header", "Outer Holm card", "Sandray card")

    def setUp(self) -> None:
        super().setUp()
        self.choose(*self.names)
        self.press(Qt.Key.Key_G)
        self.form = self.station.ties.stagger_form

    def starts(self) -> Any:
        return [self.when(name).start for name in self.names]

    def test_a_key_makes_one_of_what_is_chosen_and_opens_its_rule(self) -> None:
        self.assertTrue(self.form.isVisible())
        self.assertEqual(self.form.heading.text(), "Stagger of 3 cues")
        type_into(self.form.ms, "45")
        self.assertEqual(self.starts(), [0.0, 45.0, 90.0])
        self.pick(self.form.spread, "in all")
        self.assertEqual(self.starts(), [0.0, 22.5, 45.0])
        self.form.backwards.click()
        self.assertEqual(self.starts(), [45.0, 22.5, 0.0])

    def test_its_marks_stand_at_the_starts_and_open_it_again(self) -> None:
        type_into(self.form.ms, "60")
        self.form.hide()
        (marks,) = self.body.seen_staggers()
        self.assertEqual([round(p.x()) for p in marks.points], [round(self.rect(n).left()) for n in self.names])
        image = self.body.grab().toImage()
        now = self.workspace.theme.now
        point = marks.points[1]
        self.assertEqual(pixel(image, point.x(), point.y() + 5), (now.red(), now.green(), now.blue()))
        click(self.body, marks.label.center())
        self.assertTrue(self.form.isVisible())

    def test_by_distance_from_a_point_picked_on_the_frame(self) -> None:
        self.pick(self.form.order, "By distance")
        self.form.point.click()
        self.assertIn("distances", self.station.now.lit)
        now = self.station.now
        click(now, now.to_widget().map(QPointF(180, 560)))
        rule = self.motion.staggers[0]
        self.assertAlmostEqual(rule.point[0], 180, delta=2)
        self.assertAlmostEqual(rule.point[1], 560, delta=2)
        self.assertEqual(now.lit, "")
        # From the bottom of the screen: the header is the farthest, so it is the last.
        self.assertEqual(sorted(range(3), key=lambda k: self.starts()[k])[-1], 0)

    def test_another_chance_is_another_order_and_all_is_undone(self) -> None:
        self.pick(self.form.order, "Random")
        seen = {tuple(self.starts())}
        for _ in range(6):
            self.form.seed.click()
            seen.add(tuple(self.starts()))
        self.assertGreater(len(seen), 1)
        while self.workspace.session.undo_label:
            self.window.do("undo")
        self.assertEqual(self.motion.staggers, ())
        self.assertEqual(self.starts(), [0.0, 20.0, 0.0])

    def test_loose_again_they_stay_where_they_are(self) -> None:
        type_into(self.form.ms, "50")
        before = self.starts()
        self.form.undo.click()
        self.assertEqual((self.motion.staggers, self.starts()), ((), before))


class Timing(SheetCase, unittest.TestCase):
    def test_a_timing_is_copied_onto_others_and_mirrored(self) -> None:
        self.choose("Sandray card")
        self.press(Qt.Key.Key_C, ALSO)
        self.choose("Header", "Outer Holm card")
        self.press(Qt.Key.Key_V, ALSO)
        wanted = self.when("Sandray card")
        for name in ("Header", "Outer Holm card"):
            self.assertEqual((self.when(name).start, self.when(name).end), (wanted.start, wanted.end))
        self.press(Qt.Key.Key_X)
        length = duration_of(self.motion, self.project)
        for name in ("Header", "Outer Holm card"):
            self.assertEqual((self.when(name).start, self.when(name).end), (length - wanted.end, length - wanted.start))

    def test_muted_it_stands_still_and_is_drawn_empty(self) -> None:
        self.choose("Sandray card")
        self.press(Qt.Key.Key_M)
        self.assertTrue(self.when("Sandray card").muted)
        self.assertEqual(self.workspace.session.undo_label, "mute")
        image, rect = self.body.grab().toImage(), self.rect("Sandray card")
        sheet = self.workspace.theme.sheet
        self.assertEqual(pixel(image, rect.left() + 20, rect.center().y()), (sheet.red(), sheet.green(), sheet.blue()))
        self.press(Qt.Key.Key_M)
        self.assertFalse(self.when("Sandray card").muted)

    def test_watched_alone_the_rest_fades(self) -> None:
        self.choose("Grey Stack card")
        self.station.clock.seek(0.0)
        whole = self.station.now.scene.scalars.copy()
        self.press(Qt.Key.Key_W)
        faded = self.station.now.scene.scalars
        slot = self.station.now.slot
        opacity = COLUMN["opacity"]
        self.assertEqual(faded[slot, opacity], whole[slot, opacity])
        self.assertLess(faded[:, opacity].sum(), whole[:, opacity].sum())
        self.press(Qt.Key.Key_W)
        self.assertTrue((self.station.now.scene.scalars == whole).all())

    def test_both_ends_at_once(self) -> None:
        rect = self.rect("Sandray card")
        edge = QPointF(rect.right() - 1, rect.center().y())
        before = self.when("Sandray card")
        travel = self.body.scale.x(20.0, self.body.width()) - self.body.scale.x(0.0, self.body.width())
        drag(self.body, edge, edge - QPointF(travel, 0), keys=ALSO | FREE)
        after = self.when("Sandray card")
        self.assertAlmostEqual(after.start - before.start, before.end - after.end, delta=1e-6)
        self.assertGreater(after.start, before.start + 10)

    def test_a_grid_that_can_be_turned_off(self) -> None:
        rect = self.rect("Outer Holm card")
        edge = QPointF(rect.right() - 1, rect.center().y())
        to = QPointF(self.body.scale.x(318.0, self.body.width()), edge.y())
        drag(self.body, edge, to)
        self.assertEqual(self.when("Outer Holm card").end, 320.0)
        self.press(Qt.Key.Key_G, MORE)
        self.assertEqual(self.body.grid, 0.0)
        rect = self.rect("Outer Holm card")
        edge = QPointF(rect.right() - 1, rect.center().y())
        drag(self.body, edge, edge - QPointF(self.body.scale.x(57.0, self.body.width()) - 300.0, 0))
        self.assertNotEqual(self.when("Outer Holm card").end % 10, 0)

    def test_a_row_is_carried_in_the_view_only(self) -> None:
        project = self.project
        top = self.place("Header")
        drag(self.body, QPointF(80, top * 29 + 14), QPointF(80, self.place("Grey Stack card") * 29 + 2))
        self.assertGreater(self.place("Header"), self.place("Outer Holm card"))
        self.assertIs(self.project, project)
        self.choose("Header")
        before = self.place("Header")
        self.press(Qt.Key.Key_Up, FREE)
        self.assertLess(self.place("Header"), before)
        self.assertIs(self.project, project)


class TheRuler(SheetCase, unittest.TestCase):
    def test_marks_keep_playing_inside_a_part(self) -> None:
        self.station.clock.seek(120.0)
        self.press(Qt.Key.Key_I)
        self.station.clock.seek(300.0)
        self.press(Qt.Key.Key_O)
        self.assertEqual(self.station.clock.play_range, (120.0, 300.0))
        self.station.clock.seek(0.0)
        self.station.clock.play()
        self.assertEqual(self.station.clock.ms, 120.0)
        self.station.clock.advance(400.0)
        self.assertEqual(self.station.clock.ms, 300.0)
        self.station.clock.stop()
        head = self.station.sheet.head
        x = head.scale.x(300.0, head.width())
        drag(head, QPointF(x, 10), QPointF(head.scale.x(240.0, head.width()), 10))
        self.assertAlmostEqual(self.station.clock.play_range[1], 240.0, delta=2)
        self.press(Qt.Key.Key_I, MORE)
        self.assertIsNone(self.station.clock.play_range)

    def test_there_and_back(self) -> None:
        self.pick(self.station.panel.rounds, "there and back")
        clock = self.station.clock
        clock.seek(0.0)
        clock.play()
        for _ in range(12):
            clock.advance(100.0)
        self.assertLess(clock.ms, clock.length)
        self.assertTrue(clock.playing)
        clock.stop()

    def test_the_line_at_the_end_stretches_all_or_only_the_end(self) -> None:
        head = self.station.sheet.head
        x = head.scale.x(480.0, head.width())
        before = self.when("Sandray card")
        self.station.clock.seek(100.0)
        drag(head, QPointF(x, 20), QPointF(head.scale.x(360.0, head.width()), 20))
        length = duration_of(self.motion, self.project)
        self.assertAlmostEqual(length, 360.0, delta=2)
        self.assertAlmostEqual(self.when("Sandray card").end, before.end * length / 480.0, delta=0.5)
        self.window.do("undo")
        drag(head, QPointF(x, 20), QPointF(head.scale.x(400.0, head.width()), 20), keys=FREE)
        self.assertAlmostEqual(duration_of(self.motion, self.project), 400.0, delta=2)
        self.assertEqual(self.when("Sandray card").end, before.end)

    def test_the_time_is_zoomed_by_keys_and_fitted(self) -> None:
        self.station.clock.seek(240.0)
        scale, width = self.body.scale, self.body.width()
        x = scale.x(240.0, width)
        self.body.setFocus()
        QTest.keyClicks(self.body, "+++")
        self.assertAlmostEqual(scale.x(240.0, width), x, delta=1.0)
        self.assertAlmostEqual(scale.shown, 480.0 / 1.25**3, delta=1e-6)
        self.press(Qt.Key.Key_0)
        self.assertEqual(scale.shown, 480.0)

    def test_only_the_now_view(self) -> None:
        before = self.station.now.height()
        self.press(Qt.Key.Key_F)
        self.assertFalse(self.station.sheet.isVisible())
        self.assertGreater(self.station.now.height(), before * 1.5)
        QTest.keyClick(self.station.now, Qt.Key.Key_Escape)
        self.settle()
        self.assertTrue(self.station.sheet.isVisible())
        self.assertEqual(self.station.now.height(), before)
