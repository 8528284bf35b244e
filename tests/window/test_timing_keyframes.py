"""The Now view and keyframes: layers, paths and keyframes dragged, values typed, things made from what is there."""

import unittest
from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from avelt.core.edits.keyframes import HOLDS
from avelt.core.model.curves import Named
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.motion import CueKey
from avelt.core.model.properties import COLUMN
from avelt.core.timing.schedule import timed
from avelt.window.shell.shelf_target import target_of
from avelt.window.timing.row_paint import keyframes, value_rect
from tests.support import click, drag, pixel, send, type_into
from tests.window.test_timing_ties import FREE, NONE, SheetCase

MORE = Qt.KeyboardModifier.ShiftModifier


class NowCase(SheetCase):
    """The card that grows into the hero, at 200 ms."""

    def setUp(self) -> None:
        super().setUp()
        self.choose("Grey Stack card")
        self.station.clock.seek(200.0)
        self.now = self.station.now

    def middle(self) -> QPointF:
        """The chosen layer's middle in the Now view."""
        row = self.now.scene.scalars[self.now.slot]
        world = self.now.scene.world()[self.now.slot]
        from avelt.core.geometry import affine

        x, y = affine.apply(world, np.array([row[COLUMN["w"]] / 2, row[COLUMN["h"]] / 2]))
        return self.now.to_widget().map(QPointF(float(x), float(y)))

    def of(self, prop: str) -> Any:
        return timed(self.project, self.workspace.route.transition, *self.station.context.key[:2], prop)

    def pull(self, dx: float, dy: float, start: QPointF | None = None, keys: Any = NONE) -> None:
        """Drag the chosen layer by so many px of the frame."""
        scale = self.now.to_widget().m11()
        first = start or self.middle()
        drag(self.now, first, first + QPointF(dx * scale, dy * scale), keys=keys)
        self.settle()


class Dragged(NowCase, unittest.TestCase):
    def test_in_between_the_way_bends_through_there_and_no_key_is_made(self) -> None:
        before = self.middle()
        self.pull(40, 0)
        when = self.of("position")
        self.assertIsNotNone(when.motion_path)
        self.assertEqual(when.keyframes, ())
        wanted = before + QPointF(40 * self.now.to_widget().m11(), 0)
        back = self.now.to_widget().inverted()[0].map(wanted)
        far = np.hypot(*(self.now.track() - (back.x(), back.y())).T).min()
        self.assertLess(far, 3.0)  # the path passes there
        self.assertGreater(self.middle().x() - before.x(), 6)  # and the layer goes with it
        for ms, bend in ((0.0, 0.0), (self.station.clock.length, 0.0)):
            self.station.clock.seek(ms)
            row = self.now.scene.scalars[self.now.slot]
            end = self.station.context.program.start if ms == 0 else self.station.context.program.end
            self.assertEqual(float(row[0]) - float(end[self.now.slot * len(row)]), bend)
        self.window.do("undo")
        self.assertIsNone(self.of("position").motion_path)

    def test_with_the_switch_lit_it_becomes_a_key(self) -> None:
        click(self.station.strip.keep)
        self.assertIn("becomes a key", self.now.lit)
        self.pull(30, 20)
        (key,) = self.of("position").keyframes
        self.assertIsNone(self.of("position").motion_path)
        when = self.of("position")
        self.assertAlmostEqual(when.start + key.at * when.duration, 200, delta=0.1)
        self.assertEqual(self.workspace.session.undo_label, "keyframe")
        click(self.station.strip.keep)
        self.assertEqual(self.now.lit, "")

    def test_at_an_end_the_frame_itself_changes_and_says_so(self) -> None:
        self.station.clock.seek(0.0)
        frame = find_frame(self.project, "Sailings")
        x = find_layer(frame, "Grey Stack card").x
        self.pull(10, 0)
        self.assertAlmostEqual(find_layer(find_frame(self.project, "Sailings"), "Grey Stack card").x, x + 10, delta=1)
        self.assertIn("in Sailings itself", self.window.said.text())

    def test_arrow_keys_do_the_same(self) -> None:
        self.station.clock.seek(self.station.clock.length)
        self.now.setFocus()
        y = find_layer(find_frame(self.project, "Sailing detail"), "Hero card").y
        QTest.keyClick(self.now, Qt.Key.Key_Down, MORE)
        self.assertEqual(find_layer(find_frame(self.project, "Sailing detail"), "Hero card").y, y + 10)

    def test_another_layer_is_chosen_by_a_click(self) -> None:
        self.station.clock.seek(0.0)
        layer = find_layer(find_frame(self.project, "Sailings"), "Header")
        click(self.now, self.now.to_widget().map(QPointF(layer.x + 20, layer.y + 15)))
        self.assertEqual(self.station.context.key, self.key("Header"))


class Ways(NowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.pull(40, 0)

    def test_a_handle_is_dragged(self) -> None:
        before = self.of("position").motion_path.points
        spot = self.now.spots()[1]
        drag(self.now, spot, spot + QPointF(-15, 10))
        after = self.of("position").motion_path.points
        self.assertNotEqual(before[0], after[0])
        self.assertEqual(self.of("position").keyframes, ())

    def test_points_come_and_go(self) -> None:
        count = len(self.now.way)
        track = self.now.track()
        spot = self.now.to_widget().map(QPointF(*track[len(track) // 6]))
        send(self.now, __import__("PySide6.QtCore", fromlist=["QEvent"]).QEvent.Type.MouseButtonDblClick, spot)
        self.settle()
        self.assertEqual(len(self.now.way), count + 3)
        self.now.setFocus()
        QTest.keyClick(self.now, Qt.Key.Key_Delete)
        self.assertEqual(len(self.now.way), count)

    def test_straight_leaning_and_along_a_path(self) -> None:
        menu = self.station.motion_paths.menu()
        by = {action.text(): action for action in menu.actions()}
        by["Rotates along the path"].trigger()
        self.assertTrue(self.of("position").motion_path.rotates)
        swell = next(word for word in by if word.startswith("Along "))
        by[swell].trigger()
        self.assertGreater(len(self.of("position").motion_path.points), 2)
        self.assertTrue(self.of("position").motion_path.rotates)
        self.station.motion_paths.straight()
        self.assertIsNone(self.of("position").motion_path)

    def test_beats_ghosts_and_skins_are_painted(self) -> None:
        plain = self.now.grab().toImage()
        self.station.panel.skins.click()
        with_skins = self.now.grab().toImage()
        self.assertNotEqual(plain, with_skins)
        type_into(self.station.panel.count, "6")
        self.assertEqual(self.now.skins, 6)
        self.station.panel.ghosts.click()
        self.assertNotEqual(self.now.grab().toImage(), with_skins)

    def test_it_is_zoomed_about_the_mouse(self) -> None:
        spot = self.middle()
        back = self.now.to_widget().inverted()[0]
        there = back.map(spot)
        self.now.set_zoom(2.0, spot)
        again = self.now.to_widget().map(there)
        self.assertAlmostEqual((again - spot).manhattanLength(), 0.0, delta=0.5)
        self.station.fit()
        self.assertEqual(self.now.zoom, 1.0)


class Keys(NowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.body.setFocus()
        QTest.keyClick(self.body, Qt.Key.Key_K)
        self.settle()

    def row_of_place(self) -> int:
        return next(k for k, row in enumerate(self.body.rows) if row.key == self.station.context.key)

    def spot(self, which: int = 0) -> QPointF:
        place = self.row_of_place()
        return keyframes(self.body.scale, self.body.rows[place], place, self.body.width())[which]

    def test_a_key_keeps_the_value_at_the_playhead(self) -> None:
        self.assertEqual(self.station.context.key[2], "position")
        (key,) = self.of("position").keyframes
        row = self.now.scene.scalars[self.now.slot]
        self.assertAlmostEqual(key.value[0], float(row[0]), delta=0.51)
        self.assertEqual(self.station.context.selection.keyframe, 0)
        self.assertIn("Into keyframe 1", self.station.curve_editor.subject.text())
        now = self.workspace.theme.now
        image = self.body.grab().toImage()
        self.assertEqual(pixel(image, self.spot().x(), self.spot().y()), (now.red(), now.green(), now.blue()))

    def test_a_key_is_dragged_typed_and_gets_a_curve(self) -> None:
        drag(self.body, self.spot(), self.spot() + QPointF(60, 0), keys=FREE)
        self.assertGreater(self.of("position").keyframes[0].at, 70 / 350 + 0.05)
        send(self.body, _double(), self.spot())
        form = self.station.keyframes.form
        self.assertTrue(form.isVisible())
        type_into(form.moment, "240")
        self.assertAlmostEqual(self.of("position").keyframes[0].at * 350 + 130, 240, delta=1e-6)
        type_into(form.numbers[0], "33")
        self.assertEqual(self.of("position").keyframes[0].value[0], 33.0)
        self.pick(form.curve, "Sink")
        self.assertEqual(self.of("position").keyframes[0].curve, Named("sink"))
        place = next(k for k in range(form.curve.count()) if form.curve.itemData(k) == HOLDS)
        form.curve.setCurrentIndex(place)
        form.curve.activated.emit(place)
        self.assertEqual(self.of("position").keyframes[0].curve, HOLDS)
        self.station.clock.seek(180.0)
        program = self.station.context.program
        held = float(program.at(180.0).scalars[self.now.slot][0])
        self.assertEqual(held, float(program.at(0.0).scalars[self.now.slot][0]))

    def test_by_keys_alone(self) -> None:
        """Chosen, moved on, copied, put elsewhere, opened: without the mouse."""
        at = self.of("position").keyframes[0].at
        self.press(Qt.Key.Key_Right, MORE)
        self.assertAlmostEqual(self.of("position").keyframes[0].at - at, 10 / 350, delta=1e-6)
        value = self.of("position").keyframes[0].value
        self.press(Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
        self.station.clock.seek(400.0)
        self.press(Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual([key.value for key in self.of("position").keyframes], [value, value])
        self.press(Qt.Key.Key_N)
        self.assertEqual(self.station.context.selection.keyframe, 1)
        self.press(Qt.Key.Key_N, MORE)
        self.assertEqual(self.station.context.selection.keyframe, 0)
        self.press(Qt.Key.Key_Return)
        self.assertTrue(self.station.keyframes.form.isVisible())
        self.station.keyframes.form.hide()

    def test_a_turn_and_a_size_become_keys_by_the_layers_grips(self) -> None:
        click(self.station.strip.keep)
        turner, far = self.now.layer_grips()
        drag(self.now, turner, turner + QPointF(14, 22))
        self.settle()
        (key,) = self.of("rotation").keyframes
        self.assertGreater(key.value[0], 3.0)
        self.assertLess(key.value[0], 60.0)
        self.window.do("undo")
        far = self.now.layer_grips()[1]
        before = self.now.scene.scalars[self.now.slot].copy()
        drag(self.now, far, far + QPointF(-20, -10))
        (key,) = self.of("size").keyframes
        scale = self.now.to_widget().m11()
        self.assertAlmostEqual(key.value[0], float(before[2]) - 20 / scale, delta=1.5)
        self.assertAlmostEqual(key.value[1], float(before[3]) - 10 / scale, delta=1.5)
        self.assertEqual(self.of("rotation").keyframes, ())

    def test_delete_takes_the_key_and_then_the_cue(self) -> None:
        QTest.keyClick(self.body, Qt.Key.Key_Delete)
        self.assertEqual(self.of("position").keyframes, ())
        self.assertEqual(self.workspace.session.undo_label, "delete keyframe")

    def test_the_bench_shapes_the_curve_into_a_key(self) -> None:
        self.pick(self.station.curve_editor.kind, "Two handles")
        self.assertIsNotNone(self.of("position").keyframes[0].curve)
        self.assertFalse(self.of("position").own_curve and False)
        self.window.do("undo")
        self.assertIsNone(self.of("position").keyframes[0].curve)

    def test_the_bench_types_the_keys_moment_and_the_cues_end(self) -> None:
        start = self.of("position").start
        type_into(self.station.curve_editor.ends, "250")
        when = self.of("position")
        self.assertAlmostEqual(when.start + when.keyframes[0].at * when.duration, 250.0, delta=1e-6)
        self.assertEqual(when.start, start)
        self.station.pick(self.station.context.key)  # the cue itself, without its key
        type_into(self.station.curve_editor.ends, "400")
        self.assertEqual((self.of("position").start, self.of("position").end), (start, 400.0))

    def test_several_keys_on_the_path_are_moved_and_turned_together(self) -> None:
        self.station.clock.seek(300.0)
        self.body.setFocus()
        QTest.keyClick(self.body, Qt.Key.Key_K)
        self.settle()
        before = [key.value for key in self.of("position").keyframes]
        self.assertEqual(len(before), 2)
        spots = self.now.keyframe_spots()
        click(self.now, spots[0])
        click(self.now, spots[1], MORE)
        self.assertEqual(self.now.keyframes_chosen, (0, 1))
        drag(self.now, spots[1], spots[1] + QPointF(20, 0))
        moved = [key.value for key in self.of("position").keyframes]
        by = [b[0] - a[0] for a, b in zip(before, moved, strict=True)]
        self.assertAlmostEqual(by[0], by[1], delta=0.02)
        self.assertGreater(by[0], 5)
        knob = self.now.turner()
        drag(self.now, knob, knob + QPointF(0, 40))
        turned = [key.value for key in self.of("position").keyframes]
        self.assertNotEqual(turned, moved)
        self.assertEqual(self.workspace.session.undo_label, "rotate keyframes")


class Values(SheetCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.choose("Grey Stack card")
        self.station.toggle(self.station.context.key[:2])

    def type_value(self, prop: str, side: int, words: str) -> None:
        ends = self.key("Grey Stack card")[:2]
        place = next(k for k, row in enumerate(self.body.rows) if row.key == CueKey(*ends, prop))
        send(self.body, _double(), QPointF(value_rect(side, place, self.body.width()).center()))
        field = self.body.findChild(QLineEdit)
        self.assertIsNotNone(field)
        type_into(field, words)
        self.settle()

    def test_a_typed_value_changes_the_frames_layer_and_says_so(self) -> None:
        self.type_value("position", 0, "30, 250")
        self.assertIn("Changed in Sailings", self.window.said.text())
        row = next(r for r in self.body.rows if r.prop == "position")
        self.assertEqual(row.left_value, "30, 250")
        self.type_value("size", 1, "300 x 200")
        layer = find_layer(find_frame(self.project, "Sailing detail"), "Hero card")
        self.assertEqual((layer.w, layer.h), (300.0, 200.0))

    def test_a_value_is_typed_by_keys_alone(self) -> None:
        self.station.pick(self.key("Grey Stack card").of("size"))
        self.press(Qt.Key.Key_E, MORE)
        field = self.body.findChild(QLineEdit)
        type_into(field, "340 x 260")
        layer = find_layer(find_frame(self.project, "Sailing detail"), "Hero card")
        self.assertEqual((layer.w, layer.h), (340.0, 260.0))
        self.settle()
        self.press(Qt.Key.Key_E)
        field = next(f for f in self.body.findChildren(QLineEdit) if f.isVisible())
        QTest.keyClicks(field, "9")
        QTest.keyClick(field, Qt.Key.Key_Escape)
        self.assertEqual(self.workspace.session.undo_label, "value of Grey Stack card · size")
        self.assertEqual(find_layer(find_frame(self.project, "Sailings"), "Grey Stack card").w, 320.0)

    def test_what_cannot_be_typed_is_said(self) -> None:
        project = self.project
        self.type_value("size", 1, "wide")
        self.assertIs(self.project, project)
        self.assertIn("wide", self.window.said.text())

    def test_everything_lists_what_does_not_change(self) -> None:
        rows = len(self.body.rows)
        self.pick(self.station.shows, "everything")
        self.assertGreater(len(self.body.rows), rows)
        self.assertTrue(any(row.prop == "rotation" and not row.changes for row in self.body.rows))


class FromHere(SheetCase, unittest.TestCase):
    def test_an_entering_layer_is_dragged_to_where_it_comes_from(self) -> None:
        self.choose("Deck note")
        self.station.clock.seek(300.0)
        click(self.station.strip.from_here)
        now = self.station.now
        self.assertIn("come from", now.lit)
        # The arriving frame stands complete.
        layer = find_layer(find_frame(self.project, "Sailing detail"), "Deck note")
        row = now.scene.scalars[now.slot]
        self.assertEqual(float(row[COLUMN["opacity"]]), layer.opacity)
        spot = now.to_widget().map(QPointF(layer.x + 20, layer.y + 20))
        shift = float(now.scene.scalars[now.slot][1]) - layer.y
        spot += QPointF(0, shift * now.to_widget().m11())
        drag(now, spot, spot + QPointF(0, 80 * now.to_widget().m11()))
        self.settle()
        key = self.station.context.key
        self.assertEqual((key[0], key[1]), (None, layer.id))
        when = timed(self.project, self.workspace.route.transition, *key)
        self.assertEqual(when.end, 300.0)
        self.assertLess(when.start, 300.0)
        absent = next(e for e in self.workspace.route.transition.absents if e.layer == layer.id)
        self.assertAlmostEqual(absent.pose.shift_y, shift + 80, delta=3)
        click(self.station.strip.from_here)
        self.assertEqual(now.lit, "")

    def test_a_leaving_layer_is_dragged_to_where_it_goes(self) -> None:
        self.choose("Header")
        self.station.clock.seek(100.0)
        click(self.station.strip.from_here)
        now = self.station.now
        layer = find_layer(find_frame(self.project, "Sailings"), "Header")
        spot = now.to_widget().map(QPointF(layer.x + layer.w / 2, layer.y + layer.h / 2))
        drag(now, spot, spot + QPointF(-40 * now.to_widget().m11(), 0))
        self.settle()
        when = timed(self.project, self.workspace.route.transition, *self.station.context.key)
        self.assertEqual(when.start, 100.0)
        absent = next(e for e in self.workspace.route.transition.absents if e.layer == layer.id)
        self.assertAlmostEqual(absent.pose.shift_x, -40, delta=3)

    def test_what_is_in_both_frames_comes_from_where_it_was(self) -> None:
        self.choose("Grey Stack card")
        click(self.station.strip.from_here)
        project = self.project
        now = self.station.now
        row = now.scene.scalars[now.slot]
        w, h = int(row[COLUMN["w"]]), int(row[COLUMN["h"]])
        spots = [(float(row[0]) + x, float(row[1]) + y) for x in range(5, w, 10) for y in range(5, h, 10)]
        free = next(at for at in spots if now.slot in now.chain_at(*at))
        spot = now.to_widget().map(QPointF(*free))
        drag(now, spot, spot + QPointF(20, 0))
        self.assertIs(self.project, project)
        self.assertIn("in both frames", self.window.said.text())


class Roles(SheetCase, unittest.TestCase):
    def test_what_enters_and_what_leaves_have_base_curves_of_their_own(self) -> None:
        click(self.station.roles)
        picks = self.station.cues.bases.picks
        self.pick(picks["leaves"], "Sink")
        self.assertEqual(self.motion.leave_curve, Named("sink"))
        self.assertIn("(1)", self.station.roles.text())
        self.pick(picks["leaves"], "as what stays")
        self.assertIsNone(self.motion.leave_curve)
        self.station.cues.bases.hide()


def _double() -> Any:
    from PySide6.QtCore import QEvent

    return QEvent.Type.MouseButtonDblClick


class Tryouts(SheetCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.choose("Sandray card")
        self.body.setFocus()
        QTest.keyClick(self.body, Qt.Key.Key_T)
        self.settle()
        self.panel = self.station.tryouts.panel

    def test_two_play_in_step_and_one_is_kept(self) -> None:
        self.assertTrue(self.panel.isVisible())
        self.assertEqual([view.name for view in self.panel.views], ["As it is", "Version B"])
        column = self.panel.columns[1]
        type_into(column.length, "800")
        self.pick(column.curve, "Buoy")
        self.assertEqual(self.station.clock.length, 800.0)
        self.station.clock.seek(300.0)
        one, two = (part.scene.scene for part in self.panel.columns)
        self.assertEqual((one.at, two.at), (300.0, 300.0))
        self.assertTrue((one.scalars != two.scalars).any())
        self.station.clock.seek(700.0)
        self.assertEqual(self.panel.columns[0].scene.scene.at, 480.0)
        click(column.keep)
        self.assertFalse(self.panel.isVisible())
        self.assertEqual((self.motion.duration, self.motion.curve), (800.0, Named("buoy")))
        self.assertEqual(self.workspace.route.tryouts, ())
        self.window.do("undo")
        self.assertEqual(len(self.workspace.route.tryouts), 1)

    def test_more_are_named_thrown_away_and_kept_with_the_project(self) -> None:
        click(self.panel.more)
        click(self.panel.more)
        self.assertEqual(len(self.panel.views), 4)
        self.assertFalse(self.panel.more.isEnabled())
        type_into(self.panel.columns[1].name, "Calm one")
        self.assertEqual(self.workspace.route.tryouts[0].name, "Calm one")
        click(self.panel.columns[2].drop)
        self.assertEqual([v.name for v in self.panel.views], ["As it is", "Calm one", "Version D"])
        click(self.panel.back)
        self.assertTrue(self.station.sheet.isVisible())
        self.assertEqual(len(self.workspace.route.tryouts), 2)

    def test_only_the_chosen_cue(self) -> None:
        click(self.panel.scope.button(1))
        column = self.panel.columns[1]
        key = self.station.tryouts.cues[-1]
        type_into(column.length, "111")
        version = self.workspace.route.tryouts[0].transition
        self.assertEqual(timed(self.project, version, *key).duration, 111.0)
        self.assertEqual(version.duration, self.motion.duration)

    def test_as_frames_at_equal_times(self) -> None:
        click(self.panel.shown.button(1))
        for _ in range(40):
            self.settle()
        for row in self.panel.frame_rows:
            self.assertGreaterEqual(len(row.moments), 6)
            self.assertEqual(len(row.pictures), len(row.moments))
            steps = np.diff(row.moments)
            self.assertAlmostEqual(float(np.ptp(steps)), 0.0, places=6)
        self.assertNotEqual(self.panel.frame_rows[0].pictures[0], self.panel.frame_rows[0].pictures[-1])

    def test_esc_goes_back(self) -> None:
        QTest.keyClick(self.panel, Qt.Key.Key_Escape)
        self.settle()
        self.assertTrue(self.station.sheet.isVisible())


class ComesToLife(SheetCase, unittest.TestCase):
    def bring(self, *names: str) -> None:
        self.choose(*names)
        menu = self.station.ties.menu()
        next(a for a in menu.actions() if a.text() == "Entrance after the arrival").trigger()
        self.settle()

    def test_layers_come_to_life_with_a_sheet_of_their_own(self) -> None:
        self.bring("Deck note", "Board button")
        frame = find_frame(self.project, "Sailing detail")
        self.assertEqual(len(frame.entrance.layers), 2)
        self.assertEqual(self.station.bar.arrives_name.text(), "Sailing detail (entrance)")
        self.assertEqual({row.role for row in self.body.rows}, {"enters"})
        starts = sorted(row.timed.start for row in self.body.rows if not row.prop)
        self.assertEqual(starts, [0.0, 60.0])
        rect = self.rect("Deck note")
        drag(self.body, rect.center(), rect.center() + QPointF(80, 0), keys=FREE)
        self.assertGreater(self.motion.cues[0].start or self.body.rows[0].timed.start, 0)
        self.pick(self.station.bar.when, "after loading")
        self.assertEqual(find_frame(self.project, "Sailing detail").entrance.when, "after loading")
        self.assertEqual(target_of(self.window).where.pairs, ())
        click(self.station.bar.back)
        self.assertEqual(self.station.context.route.id, self.workspace.route.id)
        self.assertNotIn("Deck note", [row.right_name for row in self.body.rows])

    def test_it_is_reached_again_and_given_up(self) -> None:
        self.bring("Deck note")
        click(self.station.bar.back)
        menu = self.station.entrances.routes_menu()
        next(a for a in menu.actions() if a.text() == "Sailing detail (entrance)").trigger()
        self.settle()
        self.choose("Deck note")
        menu = self.station.ties.menu()
        next(a for a in menu.actions() if a.text() == "Not part of the entrance").trigger()
        self.assertIsNone(find_frame(self.project, "Sailing detail").entrance)
        self.assertIsNone(self.station.context.entrance)
        self.window.do("undo")
        self.assertIsNotNone(find_frame(self.project, "Sailing detail").entrance)
