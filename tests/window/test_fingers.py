"""Touch screens: fingers driven through events on the window, as the system sends them."""

from __future__ import annotations

import unittest
from typing import Any
from unittest import mock

from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QInputDevice
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from avelt.window.common.fingers import Fingers, touched
from avelt.window.start import application, make_window


class Heard(QObject):
    """What a widget is told."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget)
        self.kinds: list[QEvent.Type] = []
        widget.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        self.kinds.append(event.type())
        return False

    def count(self, kind: QEvent.Type) -> int:
        return self.kinds.count(kind)


class Touch(unittest.TestCase):
    device: Any

    @classmethod
    def setUpClass(cls) -> None:
        application()
        cls.device = QTest.createTouchDevice()

    def setUp(self) -> None:
        self.window = make_window(None, True, False)
        self.window.show()
        QApplication.processEvents()
        self.window.hear_fingers()  # it does so by itself a moment after it is active
        assert self.window.fingers is not None
        self.fingers = self.window.fingers

    def tearDown(self) -> None:
        self.window.workspace.session.saved()
        self.window.close()

    def at(self, widget: QWidget, x: float, y: float) -> QPoint:
        return widget.mapTo(self.window, QPoint(round(x), round(y)))

    def touch(self, *fingers: tuple[str, QPoint]) -> None:
        """One event: what each finger does (press, move, release) and where, in px of the window."""
        event = QTest.touchEvent(self.window.windowHandle(), self.device, False)
        for k, (what, point) in enumerate(fingers):
            getattr(event, what)(k, point, self.window.windowHandle())
        event.commit(True)

    def tap(self, point: QPoint) -> None:
        self.touch(("press", point))
        self.touch(("release", point))

    def board(self) -> Any:
        return self.window.stations["frames"].board  # type: ignore[attr-defined]

    def test_a_tap_chooses_and_a_drag_moves(self) -> None:
        board = self.board()
        workspace = self.window.workspace
        frame = workspace.project.frames[0]
        rect = board.viewport.rect_of(frame)
        point = self.at(board, rect.left() + rect.width() * 0.3, rect.top() + rect.height() * 0.36)
        self.tap(point)
        layer = workspace.layer
        assert layer is not None
        self.fingers._tapped.invalidate()  # some time later: else it is a second tap, which goes deeper
        self.touch(("press", point))
        for step in range(1, 9):
            self.touch(("move", point + QPoint(5 * step, 0)))
        self.touch(("release", point + QPoint(40, 0)))
        moved = workspace.layer
        assert moved is not None
        self.assertEqual(moved.id, layer.id)
        self.assertGreater(moved.x, layer.x + 20.0)
        workspace.session.undo()
        self.assertEqual(workspace.session.undo_label, "")

    def test_a_finger_that_hardly_moves_drags_nothing(self) -> None:
        board = self.board()
        rect = board.viewport.rect_of(self.window.workspace.project.frames[0])
        point = self.at(board, rect.center().x(), rect.top() + rect.height() * 0.42)
        self.tap(point)
        project = self.window.workspace.project
        self.touch(("press", point))
        self.touch(("move", point + QPoint(3, 2)))
        self.touch(("release", point + QPoint(3, 2)))
        self.assertIs(self.window.workspace.project, project)

    def test_held_still_it_asks_for_the_menu_and_nothing_is_pressed_after(self) -> None:
        board = self.board()
        rect = board.viewport.rect_of(self.window.workspace.project.frames[0])
        point = self.at(board, rect.center().x(), rect.top() + rect.height() * 0.42)
        asked: list[QPoint] = []
        station: Any = self.window.stations["frames"]
        board.menu_wanted.disconnect()
        board.menu_wanted.connect(asked.append)
        self.touch(("press", point))
        self.assertEqual(self.fingers.mode, "rests")
        self.fingers._held.timeout.emit()
        self.assertEqual([self.window.mapFromGlobal(where) for where in asked], [point])
        self.assertIsNotNone(self.window.workspace.layer)
        heard = Heard(board)
        self.touch(("move", point + QPoint(60, 0)))
        self.touch(("release", point + QPoint(60, 0)))
        self.assertEqual(heard.count(QEvent.Type.MouseButtonPress), 0)
        self.assertEqual(self.fingers.mode, "")
        self.assertIs(station.board, board)

    def test_two_fingers_zoom_about_their_middle_and_move_what_is_shown(self) -> None:
        board = self.board()
        middle = self.at(board, board.width() / 2, board.height() / 2)
        before = board.viewport.scale()
        a, b = middle - QPoint(50, 0), middle + QPoint(50, 0)
        self.touch(("press", a))
        self.touch(("move", a), ("press", b))
        self.assertEqual(self.fingers.mode, "two")
        project = self.window.workspace.project
        self.touch(("move", a - QPoint(50, 0)), ("move", b + QPoint(50, 0)))
        self.assertAlmostEqual(board.viewport.scale(), before * 2.0, 3)
        shown = board.viewport.rect_of(project.frames[1]).left()
        self.touch(("move", a - QPoint(80, 0)), ("move", b + QPoint(20, 0)))
        self.assertAlmostEqual(board.viewport.rect_of(project.frames[1]).left(), shown - 30.0, 0)
        self.touch(("move", a), ("release", b))
        self.touch(("release", a))
        self.assertEqual(self.fingers.mode, "")
        self.assertIs(self.window.workspace.project, project)

    def test_a_drag_that_has_begun_is_not_disturbed_by_a_second_finger(self) -> None:
        board = self.board()
        rect = board.viewport.rect_of(self.window.workspace.project.frames[0])
        point = self.at(board, rect.center().x(), rect.top() + rect.height() * 0.42)
        before = board.viewport.scale()
        self.touch(("press", point))
        self.touch(("move", point + QPoint(30, 0)))
        self.touch(("move", point + QPoint(30, 0)), ("press", point + QPoint(100, 0)))
        self.touch(("move", point + QPoint(30, 0)), ("move", point + QPoint(180, 0)))
        self.assertEqual((self.fingers.mode, board.viewport.scale()), ("drags", before))
        self.touch(("release", point), ("release", point))
        self.assertEqual(self.fingers.mode, "")

    def test_lists_scroll_under_two_fingers(self) -> None:
        tree: Any = self.window.stations["frames"].tree.tree  # type: ignore[attr-defined]
        tree.expandAll()
        QApplication.processEvents()
        bar = tree.verticalScrollBar()
        self.assertGreater(bar.maximum(), 0)
        middle = self.at(tree.viewport(), 60, 120)
        self.touch(("press", middle))
        self.touch(("move", middle), ("press", middle + QPoint(20, 0)))
        for step in range(1, 6):
            up = QPoint(0, -20 * step)
            self.touch(("move", middle + up), ("move", middle + QPoint(20, 0) + up))
        self.assertGreater(bar.value(), 0)
        self.touch(("release", middle), ("release", middle))

    def test_a_finger_on_the_rehearsed_screen_presses_at_once(self) -> None:
        self.window.go("rehearse")
        QApplication.processEvents()
        stage: Any = self.window.stations["rehearse"].stage  # type: ignore[attr-defined]
        pressed: list[tuple[float, float]] = []
        stage.pressed.connect(lambda x, y: pressed.append((x, y)))
        point = self.at(stage, *stage.to_widget().map(QPointF(180.0, 320.0)).toTuple())
        self.touch(("press", point))
        self.assertEqual(len(pressed), 1)
        self.assertAlmostEqual(pressed[0][0], 180.0, delta=2.0)
        self.assertFalse(self.fingers._held.isActive())
        self.touch(("release", point))

    def test_two_taps_soon_after_each_other_are_a_double_click(self) -> None:
        board = self.board()
        rect = board.viewport.rect_of(self.window.workspace.project.frames[0])
        point = self.at(board, rect.center().x(), rect.top() + rect.height() * 0.42)
        far = self.at(board, rect.center().x(), rect.top() + rect.height() * 0.8)
        heard = Heard(board)
        for where, once, twice in ((point, 1, 0), (far, 2, 0), (far, 2, 1), (far, 3, 1)):
            self.tap(where)
            found = heard.count(QEvent.Type.MouseButtonPress), heard.count(QEvent.Type.MouseButtonDblClick)
            self.assertEqual(found, (once, twice))

    def test_a_touch_that_the_system_takes_lets_go(self) -> None:
        self.fingers._begin(QPointF(300.0, 300.0))
        self.fingers._move(QPointF(360.0, 300.0))
        self.assertEqual(self.fingers.mode, "drags")
        self.fingers._stop()
        self.assertEqual((self.fingers.mode, self.fingers._held.isActive()), ("", False))
        self.assertEqual(QGuiApplication.mouseButtons(), Qt.MouseButton.NoButton)

    def test_without_a_touch_screen_nothing_is_heard(self) -> None:
        with mock.patch.object(QInputDevice, "devices", return_value=[]):
            self.assertIsNone(touched(self.window))
        self.assertIsInstance(touched(self.window), Fingers)


if __name__ == "__main__":
    unittest.main()
