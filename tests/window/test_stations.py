"""Every station of the real window, used with mouse and keyboard, then looked at."""

import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QContextMenuEvent, QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QMenu, QMessageBox

from avelt.core.geometry.flatten import flatten
from avelt.core.model.curves import Spring
from avelt.core.model.find import find_frame, find_layer, find_route, layer_index
from avelt.core.timing.schedule import timed
from avelt.window.shell.commands import COMMANDS, STATIONS
from tests.support import WindowCase, click, drag, send, type_into


class Shell(WindowCase, unittest.TestCase):
    def test_the_trail_enters_every_station_by_click_and_key(self) -> None:
        for place, (ident, _) in enumerate(STATIONS):
            click(self.window.top.stations[ident])
            self.assertIs(self.window.stack.currentWidget(), self.window.stations[ident])
            QTest.keyClick(self.window, Qt.Key(Qt.Key.Key_1 + place), Qt.KeyboardModifier.ControlModifier)
            self.settle()
            self.assertEqual(self.window.current, ident)
            self.assertFalse(self.window.grab().isNull())

    def test_every_command_has_its_method_menu_and_its_own_keys(self) -> None:
        for command in COMMANDS:
            self.assertTrue(callable(getattr(self.window, f"do_{command.id}")))
            self.assertIn(self.window.actions_by_id[command.id], self.window.top.menus[command.menu].actions())
        keys = [QKeySequence(c.keys).toString() for c in COMMANDS if c.keys]
        self.assertEqual(len(keys), len(set(keys)))

    def test_undo_says_what_it_takes_back(self) -> None:
        self.workspace.do("move Grey Stack card", lambda p: __import__("msgspec").structs.replace(p, name="Other"))
        self.assertEqual(self.window.actions_by_id["undo"].text(), "Undo move Grey Stack card")
        QTest.keyClick(self.window, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.assertEqual(self.project.name, "Skerry Line")
        self.assertEqual(self.window.actions_by_id["redo"].text(), "Redo move Grey Stack card")

    def test_save_open_and_files_that_are_not_ours(self) -> None:
        path = Path(self.folder.name) / "a.avelt"
        self.assertTrue(self.window.save_to(path))
        before = self.project
        (Path(self.folder.name) / "bad.avelt").write_bytes(b"nonsense")
        self.assertFalse(self.window.open_file(Path(self.folder.name) / "bad.avelt"))
        self.assertIs(self.project, before)
        self.assertIn("not an Avelt project", self.window.said.text())
        self.assertTrue(self.window.open_file(path))
        self.assertEqual(self.project, before)
        self.assertFalse(self.window.save_to(Path(self.folder.name) / "no" / "a.avelt"))

    def test_leaving_asks_when_there_are_changes(self) -> None:
        self.workspace.do("x", lambda p: __import__("msgspec").structs.replace(p, name="Other"))
        with mock.patch.object(QMessageBox, "question", return_value=QMessageBox.StandardButton.Cancel) as asked:
            self.assertFalse(self.window.close())
            self.window.do("new")
        self.assertEqual((asked.call_count, self.project.name), (2, "Other"))

    def test_find_reaches_layers_and_commands(self) -> None:
        QTest.keyClick(self.window, Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.assertTrue(self.window.finder.isVisible())
        QTest.keyClicks(self.window.finder.field, "board this")
        QTest.keyClicks(self.window.finder.field, "")
        self.window.finder.field.setText("Sandray card")
        QTest.keyClick(self.window.finder.field, Qt.Key.Key_Return)
        self.assertEqual((self.workspace.layer.name, self.window.current), ("Sandray card", "frames"))

    def test_dark_and_light(self) -> None:
        click(self.window.top.stations["timing"])
        light = self.window.grab().toImage().pixelColor(640, 790)
        self.window.do("dark")
        self.settle()
        dark = self.window.grab().toImage().pixelColor(640, 790)
        self.window.do("dark")
        self.assertGreater(light.lightness(), 200)
        self.assertLess(dark.lightness(), 60)


class EmptyWindow(WindowCase, unittest.TestCase):
    demo = False

    def test_every_empty_place_says_what_to_do(self) -> None:
        for ident, _ in STATIONS:
            self.window.go(ident)
            self.settle()
            place = self.window.landing if ident == "frames" else self.window.stations[ident]
            self.assertTrue(place.empty.isVisible(), ident)
            self.assertGreater(len(self.window.stations[ident].empty.words.text()), 20)
        self.window.go("timing")
        click(self.window.stations["timing"].empty.button)
        self.assertEqual(self.window.current, "routes")

    def test_bad_screens_are_told_and_good_ones_come_in(self) -> None:
        folder = Path(self.folder.name)
        (folder / "good.svg").write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"><rect width="5" height="5" filter="url(#f)"/></svg>'
        )
        (folder / "bad.svg").write_text("<svg")
        self.window.import_files([folder / "good.svg", folder / "bad.svg"])
        self.assertEqual([f.name for f in self.project.frames], ["good"])
        self.assertIn("bad.svg", self.window.said.text())
        self.assertIn("import report", self.window.said.text())
        self.assertEqual(self.workspace.session.undo_label, "import good")


class Frames(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.station = self.window.stations["frames"]
        self.board = self.station.board
        self.frame = find_frame(self.project, "Sailings")

    def spot(self, name: str) -> QPointF:
        """The middle of a layer of the first frame on the board."""
        flat = flatten(self.project.frames[0])
        x, y, w, h = flat.bounds[flat.index[find_layer(self.project.frames[0], name).id]]
        frame, rect = self.board.viewport.places()[0]
        return self.board.viewport.to_widget(frame, rect).map(QPointF(x + w / 2, y + h / 2))

    def place(self, name: str) -> Any:
        frame = self.project.frames[0]
        flat = flatten(frame)
        return flat.bounds[flat.index[find_layer(frame, name).id]].round(3).tolist()

    def test_click_chooses_and_shows_relatives_and_values(self) -> None:
        click(self.board, self.spot("Grey Stack card"))
        self.assertEqual(self.workspace.layer.name, "Grey Stack card")
        names = [self.station.values.table.item(0, c).text() for c in range(1, 4)]
        self.assertEqual(names, ["Grey Stack card", "Hero card", "—"])
        self.assertEqual(self.station.tree.tree.currentItem().text(0), "Grey Stack card")

    def test_dragging_moves_as_one_entry(self) -> None:
        before = self.place("Grey Stack card")
        click(self.board, self.spot("Grey Stack card"))
        start = self.spot("Grey Stack card") + QPointF(20, 8)
        drag(
            self.board,
            start,
            start + QPointF(20, 30) * self.board.viewport.scale(),
            keys=Qt.KeyboardModifier.AltModifier,
        )
        after = self.place("Grey Stack card")
        self.assertAlmostEqual(after[0] - before[0], 20, delta=1)
        self.assertAlmostEqual(after[1] - before[1], 30, delta=1)
        self.assertEqual(self.workspace.session.undo_label, "move Grey Stack card")
        self.window.do("undo")
        self.assertEqual(self.place("Grey Stack card"), before)

    def test_grips_resize(self) -> None:
        click(self.board, self.spot("Grey Stack card"))
        grip = self.board.grip("grip", (1, 1))
        before = self.place("Grey Stack card")
        drag(self.board, grip, grip + QPointF(-40, -20) * self.board.viewport.scale())
        after = self.place("Grey Stack card")
        self.assertAlmostEqual(before[2] - after[2], 40, delta=1.5)
        self.assertAlmostEqual(before[3] - after[3], 20, delta=1.5)
        self.assertEqual(after[:2], before[:2])

    def test_escape_gives_a_drag_up(self) -> None:
        click(self.board, self.spot("Header"))
        chosen = self.workspace.layer.name
        before = self.project
        send(self.board, QEvent.Type.MouseButtonPress, self.spot(chosen))
        send(self.board, QEvent.Type.MouseMove, self.spot(chosen) + QPointF(30, 0))
        self.assertIsNot(self.project, before)
        QTest.keyClick(self.board, Qt.Key.Key_Escape)
        self.assertIs(self.project, before)

    def test_cells_are_edited_and_nonsense_restored(self) -> None:
        click(self.board, self.spot("Grey Stack card"))
        table = self.station.values.table
        rows = {table.item(r, 0).text(): r for r in range(table.rowCount())}
        table.item(rows["position"], 1).setText("30, 2*100")
        self.assertEqual(self.place("Grey Stack card")[:2], [30, 200])
        table.item(rows["opacity"], 1).setText("50 %")
        self.assertEqual(self.workspace.layer.opacity, 0.5)
        table.item(rows["size"], 1).setText("big")
        self.assertIn("not", self.window.said.text())
        self.assertEqual(table.item(rows["size"], 1).text(), "320 × 112")

    def test_next_state_rename_first_and_remove(self) -> None:
        self.workspace.choose(self.frame.id)
        click(self.station.strip.next)
        self.assertEqual(self.project.frames[1].name, "Sailings, next")
        with mock.patch("PySide6.QtWidgets.QInputDialog.getText", return_value=("Pulled", True)):
            self.station.commands.rename(self.project.frames[1].id)
        self.assertEqual(self.project.frames[1].name, "Pulled")
        click(self.station.strip.first)
        self.assertEqual(self.project.first, self.project.frames[1].id)
        self.window.do("remove")
        self.assertEqual(len(self.project.frames), 9)

    def test_keys_nudge_and_double_click_goes_deeper(self) -> None:
        click(self.board, self.spot("Grey Stack time"))
        QTest.mouseDClick(
            self.board,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
            self.spot("Grey Stack time").toPoint(),
        )
        self.assertEqual(self.workspace.layer.name, "Grey Stack time")
        before = self.place("Grey Stack time")
        self.board.setFocus()
        QTest.keyClick(self.board, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(self.place("Grey Stack time")[0], before[0] + 10)

    def test_delete_removes_the_layer_then_the_frame(self) -> None:
        click(self.board, self.spot("Sandray card"))
        QTest.keyClick(self.board, Qt.Key.Key_Delete)
        self.assertEqual(
            [e.name for e in layer_index(self.project.frames[0]).values() if e.name.startswith("Sandray")], []
        )
        self.assertEqual(self.workspace.session.undo_label, "remove Sandray card")
        self.workspace.choose(self.project.frames[0].id)
        names = [f.name for f in self.project.frames]
        for wanted, left in ((False, names), (True, names[1:])):
            with mock.patch("avelt.window.frames.frame_commands.ask", return_value=wanted) as asked:
                QTest.keyClick(self.board, Qt.Key.Key_Delete)
            self.assertIn("routes", asked.call_args.args[2])
            self.assertEqual([f.name for f in self.project.frames], left)
        self.assertFalse([r for r in self.project.routes if r.id == "R209"])
        self.window.do("undo")
        self.window.do("undo")
        self.assertEqual(len(self.project.routes), 29)

    def test_search_narrows_the_tree(self) -> None:
        self.station.tree.search.setText("sandray n")
        shown = [i.text(0) for i in self.station.tree.items() if not i.isHidden()]
        self.assertIn("Sandray name", shown)
        self.assertNotIn("Header", shown)


class Timing(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("timing")
        self.settle()
        self.station = self.window.stations["timing"]
        self.sheet = self.station.sheet.body

    def key_of(self, name: str) -> Any:
        return next(row.key for row in self.sheet.rows if name in (row.left_name, row.right_name) and not row.prop)

    def place_of(self, name: str) -> int:
        return [row.key for row in self.sheet.rows].index(self.key_of(name))

    def when(self, key: Any) -> Any:
        return timed(self.project, self.workspace.route.transition, *key)

    def test_a_ribbon_is_dragged_and_stretched(self) -> None:
        key, place = self.key_of("Header"), self.place_of("Header")
        rect = self.sheet.ribbon_rect(place)
        ms = (self.sheet.width() - 540) / 480
        drag(self.sheet, rect.center(), rect.center() + QPointF(100 * ms, 0), keys=Qt.KeyboardModifier.AltModifier)
        when = self.when(key)
        self.assertAlmostEqual(when.start, 100, delta=2)
        self.assertAlmostEqual(when.duration, 110, delta=0.01)
        rect = self.sheet.ribbon_rect(place)
        drag(
            self.sheet,
            QPointF(rect.right() - 1, rect.center().y()),
            QPointF(rect.right() + 50 * ms, rect.center().y()),
            keys=Qt.KeyboardModifier.AltModifier,
        )
        self.assertAlmostEqual(self.when(key).end, 260, delta=3)
        self.assertEqual(self.workspace.session.undo_label, "time Header")
        self.window.do("undo")
        self.window.do("undo")
        self.assertEqual(self.when(key).start, 0)

    def test_ends_snap_to_the_playhead(self) -> None:
        self.station.clock.seek(333.0)
        place = self.place_of("Header")
        rect = self.sheet.ribbon_rect(place)
        x = self.sheet.scale.x(333.0, self.sheet.width())
        drag(self.sheet, QPointF(rect.right() - 1, rect.center().y()), QPointF(x + 3, rect.center().y()))
        self.assertEqual(self.when(self.key_of("Header")).end, 333.0)

    def test_the_playhead_snaps_stays_whole_and_goes_to_the_end_on_a_click(self) -> None:
        head, clock = self.station.sheet.head, self.station.clock
        end = self.when(self.key_of("Header")).end
        x = head.scale.x(end, head.width())
        click(head, QPointF(x + 4, 8))
        self.assertEqual(clock.ms, end)
        click(head, QPointF(x + 5, 8), Qt.KeyboardModifier.AltModifier)
        self.assertGreater(clock.ms, end)
        self.assertEqual(clock.ms, round(clock.ms))
        free = head.scale.x(end + 25, head.width())
        click(head, QPointF(free, 8))
        self.assertAlmostEqual(clock.ms, end + 25, delta=1)
        self.assertEqual(clock.ms, round(clock.ms))
        before = self.project
        click(head, QPointF(head.scale.x(480.0, head.width()), 8))
        self.assertEqual(clock.ms, 480.0)
        self.assertIs(self.project, before)
        self.assertEqual(self.workspace.session.undo_label, "")

    def test_a_right_click_on_the_ruler_goes_there_and_offers_what_keys_do(self) -> None:
        head = self.station.sheet.head
        at = QPoint(round(head.scale.x(300.0, head.width())), 8)
        QApplication.sendEvent(head, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, head.mapToGlobal(at)))
        there = self.station.clock.ms
        self.assertAlmostEqual(there, 300, delta=3)
        menu = self.station.findChildren(QMenu)[-1]
        self.assertTrue(menu.isVisible())
        words = [action.text() for action in menu.actions() if action.text()]
        self.assertIn("The part that plays begins here\tI", words)
        next(action for action in menu.actions() if action.text().endswith("\tI")).trigger()
        menu.close()
        self.assertEqual(self.station.clock.play_range[0], there)

    def test_the_playhead_snaps_to_keyframes(self) -> None:
        self.station.pick(self.key_of("Grey Stack time")._replace(prop="position"))
        self.station.clock.seek(303.0)
        self.station.keyframes.keyframe_here()
        self.station.clock.seek(0.0)
        head = self.station.sheet.head
        click(head, QPointF(head.scale.x(303.0, head.width()) + 4, 8))
        self.assertEqual(self.station.clock.ms, 303.0)

    def test_the_playhead_is_typed_in_ms_or_in_frames(self) -> None:
        panel, clock = self.station.panel, self.station.clock
        type_into(panel.big, "123.5")
        self.assertEqual((clock.ms, panel.big.text(), panel.of_length.text()), (123.5, "123.5", "/ 480 ms"))
        panel.rate.setCurrentIndex(panel.rate.findData(25))
        panel.rate.activated.emit(panel.rate.currentIndex())
        self.assertEqual((panel.big.text(), panel.of_length.text()), ("3", "/ 12.0 frames"))
        type_into(panel.big, "6")
        self.assertEqual(clock.ms, 240.0)
        clock.step(1)
        self.assertEqual((clock.ms, panel.big.text()), (280.0, "7"))

    def test_properties_open_with_values_left_and_right(self) -> None:
        place = self.place_of("Grey Stack time")
        click(self.sheet, QPointF(30, place * 29 + 14))
        props = {row.left_name: row for row in self.sheet.rows if row.prop}
        self.assertEqual((props["type size"].left_value, props["type size"].right_value), ("27", "46"))
        self.assertTrue(props["position"].timed.own_time)
        self.assertFalse(props["type size"].timed.own_time)

    def test_a_handle_dragged_while_it_plays_changes_the_next_picture(self) -> None:
        self.station.pick(self.key_of("Grey Stack time"))
        self.station.clock.play()
        self.station.clock.ms = 200.0
        self.station.clock.advance(1.0)
        before = self.station.now.scene.scalars.copy()
        canvas = self.station.curve_editor.canvas
        send(canvas, QEvent.Type.MouseButtonPress, canvas.place_of((0.2, 0.0)))
        send(canvas, QEvent.Type.MouseMove, canvas.place_of((0.9, 0.0)))
        self.assertTrue(self.station.clock.playing)
        self.assertTrue((self.station.now.scene.scalars != before).any())
        send(canvas, QEvent.Type.MouseButtonRelease, canvas.place_of((0.9, 0.0)), down=False)
        self.station.clock.stop()
        self.assertEqual(self.workspace.session.undo_label, "curve of Grey Stack time")
        self.assertTrue(self.when(self.station.context.key).own_curve)
        click(self.station.curve_editor.back)
        self.assertFalse(self.when(self.station.context.key).own_curve)

    def test_kind_numbers_and_typed_times(self) -> None:
        self.station.pick(self.key_of("Header"))
        kind = self.station.curve_editor.kind
        place = kind.findText("Spring")
        kind.setCurrentIndex(place)
        kind.activated.emit(place)
        self.assertIsInstance(self.when(self.station.context.key).curve, Spring)
        type_into(self.station.curve_editor.numbers[0], "0.4")
        self.assertEqual(self.when(self.station.context.key).curve, Spring(0.4))
        type_into(self.station.curve_editor.start, "50")
        type_into(self.station.curve_editor.lasts, "0.1s")
        self.assertEqual(
            (self.when(self.station.context.key).start, self.when(self.station.context.key).end), (50, 150)
        )
        type_into(self.station.length, "960")
        self.assertEqual((self.when(self.station.context.key).start, self.station.clock.length), (100, 960))

    def test_space_comma_and_stop_play_and_step(self) -> None:
        self.sheet.setFocus()
        QTest.keyClick(self.sheet, Qt.Key.Key_Space)
        self.assertTrue(self.station.clock.playing)
        QTest.keyClick(self.sheet, Qt.Key.Key_Space)
        self.station.clock.seek(100)
        QTest.keyClick(self.sheet, Qt.Key.Key_Period)
        self.assertEqual(self.station.clock.ms, 117.0)
        QTest.keyClick(self.sheet, Qt.Key.Key_Comma)
        self.assertAlmostEqual(self.station.clock.ms, 100, delta=0.01)
        QTest.keyClick(self.sheet, Qt.Key.Key_Down)
        QTest.keyClick(self.sheet, Qt.Key.Key_Right, Qt.KeyboardModifier.ShiftModifier)
        self.assertTrue(self.workspace.session.undo_label.startswith("time"))

    def test_space_in_a_text_field_is_a_space(self) -> None:
        self.station.curve_editor.words.setFocus()
        QTest.keyClick(QApplication.focusWidget(), Qt.Key.Key_Space)
        self.assertFalse(self.station.clock.playing)
        self.assertIsInstance(QApplication.focusWidget(), QLineEdit)

    def test_scrubbing_and_choosing_in_the_frames(self) -> None:
        head = self.station.sheet.head
        click(head, QPointF(self.sheet.scale.x(240.0, head.width()), 10))
        self.assertAlmostEqual(self.station.clock.ms, 240, delta=2)
        view = self.station.from_view
        scale = view.place().width() / 360
        click(view, QPointF(view.place().left() + 60 * scale, view.place().top() + 80 * scale))
        self.assertEqual(self.station.context.key, self.key_of("Header"))
        rect = self.station.now.place()
        click(self.station.now, QPointF(rect.left() + 20, rect.bottom() - 100))
        self.assertEqual(self.station.now.slot >= 0, True)

    def test_a_pair_at_its_exact_place_in_the_now_view(self) -> None:
        self.station.clock.seek(0)
        image = self.station.now.grab().toImage()
        rect = self.station.now.place()
        scale = rect.width() / 360
        colour = image.pixelColor(int(rect.left() + 316 * scale), int(rect.top() + 76 * scale))
        self.assertGreater(colour.lightness(), 230)

    def test_other_routes_are_chosen(self) -> None:
        self.workspace.choose_route(find_route(self.project, "Sailings > Delay notice").id)
        self.settle()
        self.assertEqual(self.station.bar.trigger.text(), "by itself after 2.4 s")
        self.assertEqual(self.station.clock.length, 420)


class Loops(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        detail = find_frame(self.project, "Sailing detail")
        self.workspace.choose(detail.id, find_layer(detail, "Back").id)
        self.window.go("loops")
        self.settle()
        self.station = self.window.stations["loops"]
        self.station.clock.stop()

    def loops(self) -> Any:
        return find_frame(self.project, "Sailing detail").loops

    def test_a_loop_is_made_set_and_removed(self) -> None:
        click(self.station.loops.add)
        made = self.loops()[-1]
        self.assertEqual(layer_index(find_frame(self.project, "Sailing detail"))[made.layer].name, "Back")
        type_into(self.station.loops.fields["duration"], "800")
        type_into(self.station.loops.fields["rotation"], "12")
        type_into(self.station.loops.fields["wait"], "0.3s")
        type_into(self.station.loops.fields["rounds"], "3")
        click(self.station.loops.wait_when.button(1))
        click(self.station.loops.way.button(1))
        made = self.loops()[-1]
        self.assertEqual((made.duration, made.offset.rotation, made.wait, made.rounds), (800, 12, 300, 3))
        self.assertEqual((made.wait_when, made.direction), ("before each round", "one way"))
        self.assertTrue(self.station.loops.at_rest.isVisible())
        click(self.station.loops.remove)
        self.assertEqual(len(self.loops()), 3)

    def test_the_frame_runs(self) -> None:
        before = self.station.view.scene.scalars.copy()
        self.station.clock.advance(50)
        self.station.clock.advance(400)
        self.assertTrue((self.station.view.scene.scalars != before).any())

    def test_the_strip_chooses(self) -> None:
        click(self.station.strip, QPointF(400, 22 + 46 + 20))
        self.assertEqual(self.station.loop().name, "swell")
        self.assertIn("2925 ms", self.station.strip_note.text())
