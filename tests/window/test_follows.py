"""What scrolls and what follows a value, made in the real window."""

import unittest
from typing import Any

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtTest import QTest

from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.follows import ByDrag, ByInput, ByPointer
from avelt.core.steps.read import applied
from avelt.window.frames import layer_commands
from avelt.window.frames.dialogs import FrameDialog
from tests.core.test_steps import SITE
from tests.support import WindowCase, click, drag, send, type_into
from tests.window.test_frames import FramesCase


class LongFrames(FramesCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("frames")
        self.frame = find_frame(self.project, "Sailings")
        self.workspace.choose(self.frame.id)
        self.settle()

    def now(self) -> Any:
        return find_frame(self.project, "Sailings")

    def test_the_handle_at_its_lower_edge_makes_it_longer(self) -> None:
        viewport = self.board.viewport
        place = viewport.more(self.now())["down"].center()
        scale = viewport.scale()
        drag(self.board, place, place + QPointF(0, 200 * scale))
        made = self.now()
        self.assertAlmostEqual(made.content[1], 840, delta=2)
        self.assertEqual((made.scroll, made.h), ("down", 640))
        rect = viewport.rect_of(made)
        self.assertAlmostEqual(rect.height(), made.content[1] * scale, delta=0.5)
        self.assertFalse(self.board.grab().isNull())
        self.window.do("undo")
        self.assertEqual(self.now().content, (0.0, 0.0))
        self.window.do("redo")
        self.station.commands.flip_whole()
        self.assertAlmostEqual(viewport.rect_of(self.now()).height(), 640 * scale, delta=0.5)
        self.station.commands.flip_whole()
        viewport.pan_by(QPointF(0, 300))
        place = viewport.more(self.now())["down"].center()
        drag(self.board, place, place - QPointF(0, 400 * scale))
        self.assertEqual((self.now().content, self.now().scroll), ((0.0, 0.0), ""))

    def test_wider_too_and_esc_gives_it_up(self) -> None:
        place = self.board.viewport.more(self.now())["right"].center()
        scale = self.board.viewport.scale()
        send(self.board, QEvent.Type.MouseButtonPress, place)
        send(self.board, QEvent.Type.MouseMove, place + QPointF(100 * scale, 0))
        self.assertEqual(self.now().scroll, "right")
        QTest.keyClick(self.board, Qt.Key.Key_Escape)
        self.assertEqual(self.now().scroll, "")

    def test_layers_are_edited_below_what_is_seen(self) -> None:
        self.workspace.do("x", lambda p: applied(p, [{"do": "set", "in": "Sailings", "content": [360, 1000]}], SITE))
        self.board.state.use("box")
        drag(self.board, self.at(40, 700), self.at(200, 780))
        box = self.now().layers[-1]
        self.assertAlmostEqual(box.y, 700, delta=2)
        self.assertAlmostEqual(box.h, 80, delta=3)

    def test_a_layer_stays_put_by_menu_and_by_the_table(self) -> None:
        self.choose("Tab bar")
        layer_commands.flip_put(self.workspace)
        self.assertTrue(self.layer("Tab bar").stays_put)
        self.assertEqual(self.cell("stays put", 1).text(), "yes")
        layer_commands.flip_put(self.workspace)
        self.assertFalse(self.layer("Tab bar").stays_put)
        self.choose("Grey Stack card")  # it lies in a group
        layer_commands.flip_put(self.workspace)
        self.assertFalse(self.layer("Grey Stack card").stays_put)
        self.assertIn("in no group", self.window.said.text())

    def test_by_numbers_in_the_dialog(self) -> None:
        def answer(dialog: FrameDialog) -> bool:
            type_into(dialog.content_h, "1200")
            dialog.scrolls.setCurrentIndex(1)
            return True

        self.station.commands.ask = answer
        self.station.commands.ask_frame()
        self.assertEqual((self.now().content, self.now().scroll), ((360.0, 1200.0), "down"))


class FollowsInLoops(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.workspace.do("x", lambda p: applied(p, [{"do": "input", "name": "tug", "kind": "number"}], SITE))
        self.window.go("loops")
        self.station = self.window.stations["loops"]
        self.workspace.choose(find_frame(self.project, "Sailings").id)
        click(self.station.views.button(2))
        self.settle()
        self.station.clock.stop()
        self.panel = self.station.follows

    def frame(self) -> Any:
        return find_frame(self.project, "Sailings")

    def made(self) -> Any:
        self.pick(self.panel.layers, "Header")
        click(self.panel.add)
        return self.frame().follows[-1]

    def test_made_told_what_and_where_to(self) -> None:
        follow = self.made()
        self.assertEqual((follow.name, self.panel.follow_id), ("Header follows", follow.id))
        self.assertIn("its second pose is the layer as it is", self.trouble())
        type_into(self.panel.end, "120")
        type_into(self.panel.lag, "80")
        type_into(self.panel.pose["shift_y"], "40")
        type_into(self.panel.pose["opacity"], "20")
        type_into(self.panel.name, "sinks")
        now = self.frame().follows[-1]
        self.assertEqual((now.end, now.lag, now.name), (120, 80, "sinks"))
        self.assertEqual((now.offset.shift_y, now.offset.opacity), (40, 0.2))
        self.assertEqual(self.trouble(), "")
        self.assertIn("scrolling down, 0 to 120, lag 80 ms", self.panel.list.item(0).text())
        type_into(self.panel.end, "0")
        self.assertIn("two values", self.window.said.text())
        self.assertEqual(self.frame().follows[-1].end, 120)

    def trouble(self) -> str:

        from avelt.core.checks.table import findings

        return " ".join(found.trouble.says for found in findings(self.project) if "follows" in found.trouble.says)

    def test_every_value(self) -> None:
        self.made()
        self.pick(self.panel.source, "a drag")
        by = self.frame().follows[-1].by
        self.assertEqual(by, ByDrag(find_layer(self.frame(), "Header").id))
        self.pick(self.panel.way, "right")
        self.pick(self.panel.let_go, "stay")
        self.assertEqual(self.frame().follows[-1].by, ByDrag(by.layer, "right", "", "stay"))
        self.assertTrue(self.panel.let_go.isVisible())
        self.pick(self.panel.source, "the pointer")
        self.pick(self.panel.layer, "anywhere")
        self.assertEqual(self.frame().follows[-1].by, ByPointer(""))
        self.assertEqual((self.frame().follows[-1].start, self.frame().follows[-1].end), (0.0, 1.0))
        self.pick(self.panel.source, "an input")
        self.assertIsInstance(self.frame().follows[-1].by, ByInput)
        self.pick(self.panel.input, "tug")
        tug = next(entry.id for entry in self.project.inputs if entry.name == "tug")
        self.assertEqual(self.frame().follows[-1].by, ByInput(tug))
        self.assertFalse(self.panel.way.isVisible())
        click(self.panel.remove)
        self.assertEqual(self.frame().follows, ())

    def test_driven_by_hand_with_its_trail(self) -> None:
        follow = self.made()
        type_into(self.panel.end, "100")
        type_into(self.panel.pose["shift_x"], "50")
        type_into(self.panel.lag, "100")
        travel, station = self.station.travel, self.station
        header = find_layer(self.frame(), "Header")
        drag(travel, QPointF(travel.x_of(0) + 10, 24), QPointF(travel.x_of(60), 24))
        self.assertAlmostEqual(travel.value, 60, delta=1)
        self.assertEqual(travel.shares[follow.id], 0.0)
        station.clock.seek(station.clock.ms + 100)
        self.assertAlmostEqual(travel.shares[follow.id], 0.6 * (1 - 0.36788), delta=0.01)
        scene = station.view.scene
        slot = next(s for s, c in enumerate(scene.program.contents) if c.layer.id == header.id)
        self.assertAlmostEqual(scene.scalars[slot, 0] - header.x, 50 * travel.shares[follow.id], delta=0.01)
        self.assertFalse(travel.grab().isNull())
        end = QPointF(travel.x_of(100), travel.y_of(0))
        drag(travel, end, QPointF(travel.x_of(80), end.y()))
        self.assertAlmostEqual(self.frame().follows[-1].end, 80, delta=1.5)
        self.window.do("undo")
        self.assertEqual(self.frame().follows[-1].end, 100)
        travel.setFocus()
        QTest.keyClick(travel, Qt.Key.Key_Right)
        self.assertGreater(travel.value, 60)

    def test_the_second_pose_is_edited_on_the_frame(self) -> None:
        self.made()
        click(self.panel.pose_button)
        self.settle()
        self.assertEqual(self.window.current, "frames")
        header = find_layer(self.workspace.project.frames[0], "Header")
        QTest.keyClick(self.window.stations["frames"].board, Qt.Key.Key_Down, Qt.KeyboardModifier.ShiftModifier)
        self.assertEqual(find_layer(self.workspace.project.frames[0], "Header").y, header.y + 10)
        self.workspace.close_part(0)
        self.assertEqual(self.frame().follows[-1].offset.shift_y, 10)
        self.assertEqual(find_layer(self.frame(), "Header").y, header.y)


class ScrolledThere(WindowCase, unittest.TestCase):
    def test_a_route_says_whether_it_stays_scrolled(self) -> None:
        steps = [{"do": "set", "in": "Sailing detail", "content": [360, 1000]}]
        self.workspace.do("x", lambda p: applied(p, steps, SITE))
        self.window.go("routes")
        self.settle()
        card = self.window.stations["routes"].one
        routes = {(r.leaves, r.arrives): r for r in self.project.routes}
        a, b = (find_frame(self.project, name).id for name in ("Sailings", "Sailing detail"))
        self.workspace.choose_route(routes[a, b].id)
        self.settle()
        self.assertFalse(card.scrolls.isHidden())
        self.pick(card.scrolls, "begins at the top")
        self.assertEqual(self.workspace.route.scroll, "reset")
        self.workspace.choose_route(routes[b, a].id)
        self.settle()
        self.assertTrue(card.scrolls.isHidden())


if __name__ == "__main__":
    unittest.main()
