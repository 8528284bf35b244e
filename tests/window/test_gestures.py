"""Every drag can be given up with Esc: all is as before the press, and there is no entry of undo."""

from __future__ import annotations

import unittest
from typing import Any

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from avelt.core.edits.loops import add_loop
from avelt.core.model.curves import Spring
from avelt.core.model.find import find_frame, find_layer
from avelt.window.common.gestures import Drag, GestureHost
from tests.support import WindowCase, send


class GivenUp(WindowCase, unittest.TestCase):
    """Drags of the whole window."""

    def begin(self, widget: QWidget, start: QPointF, travel: QPointF) -> None:
        """Press and move, and do not let go."""
        send(widget, QEvent.Type.MouseButtonPress, start)
        for k in range(1, 5):
            send(widget, QEvent.Type.MouseMove, start + travel * k / 4)
        QApplication.processEvents()

    def give_up(self, widget: QWidget, start: QPointF, travel: QPointF, changes: bool = True) -> None:
        """Drag, Esc, let go: the project and the past are as they were; ``changes``: the drag showed something."""
        before, past = self.project, self.workspace.session.undo_label
        self.begin(widget, start, travel)
        if changes:
            self.assertIsNot(self.project, before)
        QTest.keyClick(QApplication.focusWidget() or widget, Qt.Key.Key_Escape)
        self.assertIs(self.project, before)
        send(widget, QEvent.Type.MouseMove, start + travel * 2)
        send(widget, QEvent.Type.MouseButtonRelease, start + travel * 2, down=False)
        QApplication.processEvents()
        self.assertIs(self.project, before)
        self.assertEqual(self.workspace.session.undo_label, past)

    def test_on_the_board_of_frames(self) -> None:
        self.window.go("frames")
        self.settle()
        board = self.window.stations["frames"].board
        frame = self.project.frames[0]
        card = find_layer(frame, "Grey Stack card")
        self.workspace.choose(frame.id, card.id)
        self.settle()
        rect = board.viewport.rect_of(frame)
        spot = board.viewport.to_widget(frame, rect).map(QPointF(40.0, 60.0))
        grip = board.grip("grip", (1.0, 1.0))
        self.give_up(board, grip, QPointF(12, 9))
        self.give_up(board, board.grip("rotation"), QPointF(30, 4))
        header = board.viewport.to_widget(frame, rect).map(QPointF(300.0, 60.0))
        self.give_up(board, header, QPointF(15, 10))
        board.state.use("box")
        self.give_up(board, spot, QPointF(40, 30))
        self.assertIsNone(board.gestures.active)

    def test_in_the_sheet_and_on_the_ruler(self) -> None:
        self.window.go("timing")
        self.loosen()
        station = self.window.stations["timing"]
        body, head = station.sheet.body, station.sheet.head
        place = next(k for k, row in enumerate(body.rows) if row.changes and row.timed.duration > 100)
        ribbon = body.ribbon_rect(place)
        self.give_up(body, ribbon.center(), QPointF(40, 0))
        self.give_up(body, QPointF(ribbon.right() - 1, ribbon.center().y()), QPointF(-30, 0))
        end = QPointF(head.scale.x(head.end, head.width()), 20)
        station.clock.seek(50.0)
        self.give_up(head, end, QPointF(60, 0))
        self.assertEqual(head.end, 480.0)
        self.give_up(head, QPointF(head.scale.x(50.0, head.width()), 20), QPointF(90, 0), changes=False)
        self.assertEqual(station.clock.ms, 50.0)

    def test_a_tie_and_a_row_change_nothing_before_they_are_let_go(self) -> None:
        self.window.go("timing")
        self.loosen()
        body = self.window.stations["timing"].sheet.body
        rows = [k for k, row in enumerate(body.rows) if row.changes and not row.prop]
        first = body.ribbon_rect(rows[0])
        order = [row.key for row in body.rows]
        knob = QPointF(first.right() + 5, first.center().y())
        self.give_up(body, knob, QPointF(0, 30), changes=False)
        self.give_up(body, QPointF(60, first.center().y()), QPointF(0, 70), changes=False)
        self.assertEqual([row.key for row in body.rows], order)
        self.assertIsNone(body.gestures.active)

    def test_a_keyframe_keeps_its_moment(self) -> None:
        self.window.go("timing")
        self.loosen()
        station = self.window.stations["timing"]
        station.clock.seek(200.0)
        station.keyframes.keyframe_here()
        self.settle()
        row = next(k for k, row in enumerate(station.sheet.body.rows) if row.timed.keyframes)
        entry = station.sheet.body.rows[row]
        at = entry.timed.start + entry.timed.keyframes[0].at * entry.timed.duration
        middle = station.sheet.body.ribbon_rect(row).center().y()
        spot = QPointF(station.sheet.body.scale.x(at, station.sheet.body.width()), middle)
        self.give_up(station.sheet.body, spot, QPointF(50, 0))

    def test_a_curve_and_its_numbers(self) -> None:
        self.window.go("timing")
        self.settle()
        station = self.window.stations["timing"]
        canvas = station.curve_editor.canvas
        before = canvas.curve
        self.give_up(canvas, canvas.place_of(canvas._spots()[0]), QPointF(25, -30))
        self.assertEqual(canvas.curve, before)
        station.cues.choose_curve(Spring(0.3))
        self.settle()
        number = next(field for field in station.curve_editor.numbers if field.isVisible())
        shown = number.text()
        self.give_up(number, QPointF(10, 8), QPointF(30, 0))
        self.assertEqual(number.text(), shown)

    def test_a_layer_in_the_now_view(self) -> None:
        self.window.go("timing")
        self.settle()
        station = self.window.stations["timing"]
        station.clock.seek(0.0)
        now = station.now
        row = now.scene.scalars[now.slot]
        world = now.scene.world()[now.slot]
        middle = now.to_widget().map(
            QPointF(
                float(world[0] * row[2] / 2 + world[2] * row[3] / 2 + world[4]),
                float(world[1] * row[2] / 2 + world[3] * row[3] / 2 + world[5]),
            )
        )
        self.give_up(now, middle, QPointF(20, 15))

    def test_a_ghost_and_a_pair(self) -> None:
        self.window.go("pairs")
        self.settle()
        station = self.window.stations["pairs"]
        threads = station.threads
        ghost = threads.ghosts[0]
        threads.picked.emit("to" if ghost.side == "from" else "from", ghost.layer.id)
        self.settle()
        if threads.ghost is None:
            station.pick("to" if ghost.side == "from" else "from", ghost.layer.id)
        self.assertIsNotNone(threads.ghost)
        grip = threads.grips(threads.ghost)["rotation"]
        self.give_up(threads, QPointF(grip), QPointF(40, 10))

    def test_a_route_carried_to_another_cell(self) -> None:
        self.window.go("routes")
        self.settle()
        matrix = self.window.stations["routes"].matrix
        start = matrix.cell_rect(0, 1).center()
        aim = matrix.cell_rect(0, 2).center()
        self.give_up(matrix.viewport(), start, aim - start, changes=False)

    def test_a_number_of_a_loop(self) -> None:
        frame = find_frame(self.project, "Sailings")
        layer = find_layer(frame, "Grey Stack card")
        self.workspace.do("loop", lambda p: add_loop(p, frame.id, layer.id)[0])
        self.workspace.choose(frame.id, layer.id)
        self.window.go("loops")
        self.settle()
        field = self.window.stations["loops"].loops.fields["duration"]
        shown = field.text()
        self.give_up(field, QPointF(10, 8), QPointF(40, 0))
        self.assertEqual(field.text(), shown)

    def test_a_slider_of_colours(self) -> None:
        self.window.go("frames")
        frame = self.project.frames[0]
        layer = find_layer(frame, "Backdrop")
        self.workspace.choose(frame.id, layer.id)
        self.settle()
        station = self.window.stations["frames"]
        station.colours.open("fill", station.mapToGlobal(station.rect().center()))
        self.settle()
        slider = station.colours.panel.sliders[0] if hasattr(station.colours.panel, "sliders") else None
        assert slider is not None
        self.give_up(slider, QPointF(30, 10), QPointF(60, 0))

    def test_esc_still_lets_go_of_what_is_no_drag(self) -> None:
        self.window.go("frames")
        frame = self.project.frames[0]
        self.workspace.choose(frame.id, find_layer(frame, "Grey Stack card").id)
        board = self.window.stations["frames"].board
        board.setFocus()
        QTest.keyClick(board, Qt.Key.Key_Escape)
        QTest.keyClick(board, Qt.Key.Key_Escape)
        self.assertIsNone(self.workspace.layer)


class Host(unittest.TestCase):
    """The host of gestures alone."""

    def setUp(self) -> None:
        self.widget = QWidget()
        self.host = GestureHost(self.widget)
        self.said: list[str] = []

    def tearDown(self) -> None:
        self.widget.deleteLater()

    def gesture(self, name: str) -> Drag:
        def told(what: str) -> Any:
            return lambda *_: self.said.append(f"{name} {what}")

        return Drag(told("moved"), told("ended"), told("given up"))

    def test_one_at_a_time_and_each_ends_once(self) -> None:
        self.host.begin(self.gesture("one"))
        self.host.begin(self.gesture("two"))
        self.assertEqual(self.said, ["one given up"])
        self.assertTrue(self.host.cancel())
        self.assertFalse(self.host.cancel())
        self.assertEqual(self.said, ["one given up", "two given up"])

    def test_keys_are_heard_only_while_it_works(self) -> None:
        QTest.keyClick(self.widget, Qt.Key.Key_Escape)
        self.assertEqual(self.said, [])
        self.host.begin(self.gesture("one"))
        QTest.keyClick(self.widget, Qt.Key.Key_A)
        self.assertIsNotNone(self.host.active)
        QTest.keyClick(self.widget, Qt.Key.Key_Escape)
        self.assertIsNone(self.host.active)
        self.assertEqual(self.said, ["one given up"])
