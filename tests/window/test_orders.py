"""Running orders and parts in the window: what is set and sent, tracks, keys, uses with other words and sizes."""

import unittest
from typing import Any, cast
from unittest import mock

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QDialog, QMenu

from avelt.core.edits.frames import remove_frame
from avelt.core.edits.inputs import add_input
from avelt.core.edits.layers import set_value
from avelt.core.edits.second_pose import second_layer
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.parts import find_part
from avelt.core.model.phases import ForMs, Once, Rounds, ShowPose, Until
from avelt.core.model.triggers import SendSignal, SetInput, Tap, Timer
from avelt.core.model.values import Use
from avelt.window.controls.expression_edit import ExpressionEdit
from avelt.window.frames.part_dialogs import PartDialog, UseDialog
from avelt.window.frames.values import value_rows
from avelt.window.loops.round_keys import keys_text, read_keys
from tests.support import WindowCase, click, type_into
from tests.window.test_frames import FramesCase

KEY = Qt.Key
CTRL = Qt.KeyboardModifier.ControlModifier


class OrderCase(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.workspace.open_part(find_part(self.workspace.whole, "Tide pull").id)
        self.window.go("loops")
        self.settle()
        self.station = self.window.stations["loops"]
        self.station.clock.stop()
        self.orders, self.editor = self.station.orders, self.station.orders.editor

    def phase(self, name: str) -> Any:
        return next(phase for track in self.project.tracks for phase in track.phases if phase.name == name)

    def open(self, name: str) -> None:
        self.orders.choose(self.phase(name).id)
        self.settle()

    def act(self, menu: QMenu, *words: str) -> None:
        """Choose an entry of a menu, by the words that lead there."""
        for word in words[:-1]:
            menu = cast("QMenu", next(action.menu() for action in menu.actions() if action.text() == word))
        next(action for action in menu.actions() if action.text() == words[-1]).trigger()
        for shown in self.window.findChildren(QMenu):
            shown.close()
        self.settle()

    def menu_of(self, press: Any) -> QMenu:
        press()
        found = [menu for menu in self.window.findChildren(QMenu) if menu.isVisible()]
        self.assertTrue(found)
        return found[0]

    def test_a_part_with_an_order_opens_on_it(self) -> None:
        self.assertTrue(self.station.ordered)
        self.assertEqual(len(self.orders.lines), 10)
        self.assertTrue(self.orders.lines[self.phase("rest").id].runs)
        self.workspace.close_part()
        self.settle()
        self.assertFalse(self.station.ordered)

    def test_how_long_a_phase_lasts(self) -> None:
        self.open("rest")
        self.pick(self.editor.lasts, "some time")
        type_into(self.editor.amount, "1.5s")
        self.assertEqual(self.phase("rest").lasts, ForMs(1500.0))
        self.pick(self.editor.lasts, "some rounds")
        type_into(self.editor.amount, "4")
        self.assertEqual(self.phase("rest").lasts, Rounds(4))
        self.pick(self.editor.lasts, "once")
        self.assertEqual(self.phase("rest").lasts, Once())
        self.pick(self.editor.lasts, "until a rule holds")
        self.assertEqual(self.phase("rest").lasts, Until())

    def test_what_is_set_and_sent(self) -> None:
        self.open("sail")
        menu = self.menu_of(lambda: click(self.editor.add_deed))
        self.act(menu, "On entering", "send news")
        menu = self.menu_of(lambda: click(self.editor.add_deed))
        self.act(menu, "On leaving", "set pull")
        sail = self.phase("sail")
        news, pull = (next(e.id for e in self.project.inputs if e.name == name) for name in ("news", "pull"))
        self.assertEqual((sail.entering, sail.leaving), ((SendSignal(news),), (SetInput(pull, 0.0),)))
        fields = [self.editor.deed_place.itemAt(k).widget() for k in range(self.editor.deed_place.count())]
        value = next(child for child in fields[1].children() if child.isWidgetType() and child.accessibleName())
        type_into(value, "0.4")
        self.assertEqual(self.phase("sail").leaving, (SetInput(pull, 0.4),))

    def test_events_of_rules(self) -> None:
        self.open("rest")
        line = self.editor.rules[0]
        self.pick(line.event_pick, "tap on Boat")
        on = self.phase("rest").then[0].on
        assert isinstance(on, Tap)
        self.assertEqual(on.layer, find_layer(find_frame(self.project, "Flat"), "Boat").id)
        self.pick(self.editor.rules[0].event_pick, "after …")
        type_into(self.editor.rules[0].after, "2500")
        self.assertEqual(self.phase("rest").then[0].on, Timer(2500.0))
        click(self.editor.rules[0].gone)
        self.assertEqual(self.phase("rest").then, ())

    def test_a_tap_in_the_picture_is_one_in_the_part(self) -> None:
        self.open("rest")
        self.pick(self.editor.rules[0].event_pick, "tap anywhere")
        condition = self.editor.rules[0].condition
        condition.setFocus()
        condition.selectAll()
        QTest.keyClick(condition, KEY.Key_Delete)
        QTest.keyClick(condition, KEY.Key_Return)
        self.assertEqual(self.phase("rest").then[0].only_if, "")
        self.station.play_of.set_input("held", True)  # or it would go back at once
        self.assertEqual(self.station.play_of.player.phases()[""]["main"], "rest")
        view = self.station.view
        click(view, QPointF(view.width() / 2, view.height() / 2))
        self.assertEqual(self.station.play_of.player.phases()[""]["main"], "draw")

    def test_keys_and_the_menu_of_a_row(self) -> None:
        line = self.orders.lines[self.phase("haul").id]
        QTest.keyClick(line, KEY.Key_Return, CTRL)
        self.station.clock.stop()
        self.assertEqual(self.station.play_of.phases()[self.project.tracks[0].id], self.phase("haul").id)
        QTest.keyClick(line, KEY.Key_Return)
        self.assertEqual(self.orders.chosen, self.phase("haul").id)
        self.act(self.menu_of(lambda: self.orders._menu(self.phase("haul").id, line.mapToGlobal(line.rect().center()))),
                 "Move up\tAlt+Up")  # fmt: skip
        self.assertEqual([phase.name for phase in self.project.tracks[0].phases][:3], ["rest", "haul", "draw"])
        QTest.keyClick(self.orders.lines[self.phase("haul").id], KEY.Key_Delete)
        self.assertNotIn("haul", [phase.name for phase in self.project.tracks[0].phases])
        self.assertIn("No rule", self.orders.says.text().replace("no rule", "No rule"))
        self.window.do("undo")
        self.window.do("undo")

    def test_a_side_track_is_renamed_given_layers_and_removed(self) -> None:
        gulls = self.project.tracks[1]
        with mock.patch("avelt.window.loops.order_panel.QInputDialog.getText", return_value=("birds", True)):
            self.act(self.menu_of(lambda: self.orders._track_menu(gulls.id, self.orders)), "Rename…")
        self.assertEqual(self.project.tracks[1].name, "birds")
        flat = find_frame(self.project, "Flat")
        self.workspace.choose(flat.id, find_layer(flat, "Small gull").id)
        self.act(self.menu_of(lambda: self.orders._track_menu(gulls.id, self.orders)), "Move the chosen layers")
        self.assertEqual(self.project.tracks[1].layers, (find_layer(flat, "Small gull").origin,))
        self.act(self.menu_of(lambda: self.orders._track_menu(gulls.id, self.orders)), "Remove the side track")
        self.assertEqual(len(self.project.tracks), 1)

    def test_an_edit_while_it_runs_goes_on_in_the_same_phase(self) -> None:
        self.station.play_of.set_input("held", True)
        self.station.play_of.set_input("pull", 0.5)
        self.open("draw")
        type_into(self.editor.lag, "90")
        self.assertEqual(self.station.play_of.player.phases()[""]["main"], "draw")
        self.assertEqual(self.station.play_of.player.inputs["pull"], 0.5)

    def test_a_name_that_is_taken_is_refused(self) -> None:
        before = self.project
        self.open("rest")
        type_into(self.editor.name, "sail")
        self.assertIs(self.project, before)
        self.assertIn("sail", self.window.said.text())
        self.assertEqual(self.editor.name.text(), "rest")

    def test_a_phase_of_a_removed_pose_goes(self) -> None:
        aside = find_frame(self.project, "Gulls aside")
        self.workspace.choose(aside.id)
        self.window.go("frames")
        self.workspace.do("remove", lambda p: remove_frame(p, aside.id))
        self.window.go("loops")
        self.settle()
        self.assertEqual([phase.name for phase in self.project.tracks[1].phases], ["here"])
        self.assertIsInstance(self.phase("here").shows, ShowPose)


class LoopsByHand(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.workspace.open_part(find_part(self.workspace.whole, "Buoys").id)
        self.window.go("loops")
        self.settle()
        self.station = self.window.stations["loops"]
        self.station.clock.stop()
        self.panel = self.station.loops

    def loops(self) -> dict[str, Any]:
        return {loop.name: loop for loop in self.project.frames[0].loops}

    def test_copied_and_pasted_with_an_offset(self) -> None:
        self.station.choose(self.loops()["Buoy 1 nods"].id)
        self.station.setFocus()
        QTest.keyClick(self.station, KEY.Key_C, CTRL)
        stripes = [find_layer(self.project.frames[0], f"Stripe {k}").id for k in (1, 2)]
        self.workspace.choose_several([(self.project.frames[0].id, ident) for ident in stripes])
        type_into(self.panel.step, "150")
        self.station.setFocus()
        QTest.keyClick(self.station, KEY.Key_V, CTRL)
        made = list(self.loops().values())[-2:]
        self.assertEqual([loop.layer for loop in made], stripes)
        self.assertEqual([loop.start_offset for loop in made], [-150.0, -300.0])

    def test_along_a_path_of_the_frame(self) -> None:
        self.station.choose(self.loops()["Buoy 1 nods"].id)
        self.settle()
        self.pick(self.panel.along, "Body 3")
        path = self.loops()["Buoy 1 nods"].path
        self.assertGreater(len(path), 2)
        click(self.panel.rotates, QPointF(8, 10))
        self.assertTrue(self.loops()["Buoy 1 nods"].rotates)
        self.pick(self.panel.along, "a straight line")
        self.assertEqual(self.loops()["Buoy 1 nods"].path, ())

    def test_muted_alone_and_until(self) -> None:
        loop = self.loops()["Buoy 1 nods"]
        self.station.choose(loop.id)
        self.settle()
        self.station.clock.seek(700.0)
        moving = self.station.view.scene.scalars.copy()
        click(self.panel.alone, QPointF(8, 10))
        only = self.station.view.scene.scalars.copy()
        self.assertTrue((only != moving).any())
        click(self.panel.muted, QPointF(8, 10))
        self.assertTrue(self.loops()["Buoy 1 nods"].muted)
        self.workspace.make("input", lambda p: add_input(p, "calm"))
        type_into(self.panel.until, "calm")
        self.assertEqual(self.loops()["Buoy 1 nods"].until, "calm")

    def test_bringing_loops_in_step(self) -> None:
        type_into(self.panel.fields["duration"], "601")
        self.settle()
        self.assertTrue(self.station.fit.isVisible())
        click(self.station.fit)
        self.assertFalse(self.station.fit.isVisible())
        self.assertIn("One round of all", self.station.period.text())


class SecondPoses(FramesCase, unittest.TestCase):
    def test_esc_goes_out_and_the_second_pose_stays(self) -> None:
        self.workspace.open_part(find_part(self.workspace.whole, "Lantern").id)
        pose = self.project.frames[0]
        loop = pose.loops[0]
        self.workspace.open_pose(pose.id, loop.id)
        self.settle()
        self.assertEqual([frame.name for frame in self.project.frames], [f"{pose.name}: flash"])
        self.assertEqual(self.workspace.layer.name, "Glow")
        cell = self.cell("opacity", 1)
        self.assertEqual(cell.text(), "85 %")
        cell.setText("40 %")
        self.settle()
        self.board.setFocus()
        QTest.keyClick(self.board, KEY.Key_Return, CTRL | Qt.KeyboardModifier.ShiftModifier)
        self.settle()
        pose = self.project.frames[0]
        glow = find_layer(pose, "Glow")
        self.assertEqual(glow.opacity, 0.1)
        self.assertAlmostEqual(second_layer(glow, pose.loops[0]).opacity, 0.4)


class Uses(FramesCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.sea = find_frame(self.project, "On the water")
        self.choose("Tide pull", frame="On the water")

    def use(self) -> Any:
        return find_layer(find_frame(self.project, "On the water"), "Tide pull")

    def test_size_words_and_expressions_in_the_dialog(self) -> None:
        def ask(dialog: QDialog) -> bool:
            assert isinstance(dialog, PartDialog)
            dialog.fit.setCurrentIndex(1)
            fields = {entry.name: field for entry, field in dialog.inputs}
            self.assertEqual(fields["pull"].text(), "clamp(0, pull, 1)")
            fields["pull"].setText("pull / 2")
            words = {layer.name: line for layer, line in dialog.words}
            self.assertEqual(words["Words"].placeholderText(), "Pull for news")
            words["Words"].setText("Ask again")
            return True

        self.station.commands.ask = ask
        self.station.do("part_settings")
        body = self.use().body
        assert isinstance(body, Use)
        self.assertEqual((body.fit, body.feeds[0].expression), ("stretch", "pull / 2"))
        self.assertEqual([change.text for change in body.changes], ["Ask again"])

    def test_another_part_in_its_place(self) -> None:
        def ask(dialog: QDialog) -> bool:
            assert isinstance(dialog, UseDialog)
            dialog.pick.setCurrentText("Waves")
            return True

        self.station.commands.ask = ask
        self.station.do("part_other")
        self.assertEqual(self.use().body, Use(find_part(self.project, "Waves").id))

    def test_a_condition_of_a_layer(self) -> None:
        def seen(text: str) -> bool:
            edit = self.workspace.do("seen", lambda p: set_value(p, self.sea.id, self.use().id, "only_if", text))
            return bool(edit)

        self.assertTrue(seen("held"))
        self.assertEqual(self.use().only_if, "held")
        rows = {row.name: row for row in value_rows(self.project, find_frame(self.project, "On the water"), self.use())}
        cells = [cell.text for cell in rows["only_if"].cells if cell.layer_id == self.use().id]
        self.assertEqual(cells, ["held"])
        self.assertFalse(seen("held >"))
        self.assertTrue(seen("always"))
        self.assertEqual(self.use().only_if, "")


class Small(unittest.TestCase):
    def test_keys_of_a_round_as_text(self) -> None:
        keys = read_keys("20% 1, 60%: 1, 100% 0.25")
        self.assertEqual(keys_text(keys), "20% 1, 60% 1, 100% 0.25")
        self.assertEqual(read_keys(" "), ())
        for text in ("20 1", "120% 1", "20% x"):
            with self.assertRaises(ValueError):
                read_keys(text)


class Expressions(WindowCase, unittest.TestCase):
    def test_what_is_wrong_with_a_text(self) -> None:
        edit = ExpressionEdit(is_condition=False)
        edit.show_text("pull", ["pull", "held"])
        self.assertEqual(edit.wrong("pull * 2 - 1"), ("", 0))
        self.assertEqual(edit.wrong("pull-1")[1], 0)
        self.assertIn("spaces around a minus", edit.wrong("pull-1")[0])
        self.assertEqual(edit.wrong("pull * wind")[1], 7)
        self.assertEqual(edit.wrong("")[0], "An expression is missing.")
        self.assertEqual(ExpressionEdit().wrong(""), ("", 0))


if __name__ == "__main__":
    unittest.main()
