"""A storm of presses, drags, keys, wheels and menus over the whole window: whatever is done, nothing is raised, the
project stays one that can be saved, and all of it can be taken back."""

from __future__ import annotations

import random
import sys
import unittest
from typing import Any
from unittest import mock

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QContextMenuEvent, QMouseEvent, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QDialog, QFileDialog, QInputDialog, QMenu, QMessageBox, QWidget

from avelt.core.formats.checked import check
from avelt.core.formats.project_file import to_json
from tests.support import WindowCase

KEYS = (
    *(Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Tab, Qt.Key.Key_Return),
    *(Qt.Key.Key_Escape, Qt.Key.Key_Delete, Qt.Key.Key_Space, Qt.Key.Key_Home, Qt.Key.Key_End, Qt.Key.Key_F2),
    *(getattr(Qt.Key, f"Key_{letter}") for letter in "ABCDEGHIKLMNOPRTVWXY059"),
)
HELD = (
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.NoModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)
STATIONS = ("frames", "routes", "pairs", "timing", "loops", "rehearse", "handoff")
LEFT, NO = Qt.MouseButton.LeftButton, Qt.MouseButton.NoButton


class Storm:
    """Random events on random widgets of a window, the same ones for the same seed."""

    def __init__(self, window: QWidget, seed: int) -> None:
        self.window, self.dice = window, random.Random(seed)

    def widget(self) -> QWidget | None:
        """One of what is seen."""
        seen = [w for w in self.window.findChildren(QWidget) if w.isVisible() and w.width() > 4 and w.height() > 4]
        return self.dice.choice(seen) if seen else None

    def point(self, widget: QWidget) -> QPointF:
        return QPointF(self.dice.uniform(0, widget.width()), self.dice.uniform(0, widget.height()))

    def mouse(self, widget: QWidget, kind: QEvent.Type, at: QPointF, button: Any, down: Any, held: Any) -> None:
        glob = QPointF(widget.mapToGlobal(at.toPoint()))
        QApplication.sendEvent(widget, QMouseEvent(kind, at, glob, button, down, held))

    def press(self, widget: QWidget) -> None:
        at, held = self.point(widget), self.dice.choice(HELD)
        self.mouse(widget, QEvent.Type.MouseButtonPress, at, LEFT, LEFT, held)
        if self.dice.random() < 0.5:
            for _ in range(self.dice.randint(1, 4)):
                at = self.point(widget)
                self.mouse(widget, QEvent.Type.MouseMove, at, NO, LEFT, held)
        if self.dice.random() < 0.1:
            QTest.keyClick(widget, Qt.Key.Key_Escape)
        self.mouse(widget, QEvent.Type.MouseButtonRelease, at, LEFT, NO, held)
        if self.dice.random() < 0.2:
            self.mouse(widget, QEvent.Type.MouseButtonDblClick, at, LEFT, LEFT, held)
            self.mouse(widget, QEvent.Type.MouseButtonRelease, at, LEFT, NO, held)

    def key(self, widget: QWidget) -> None:
        target = QApplication.focusWidget() or widget
        held = self.dice.choice(HELD[:4])
        key = self.dice.choice(KEYS)
        if held == Qt.KeyboardModifier.ControlModifier and key in (Qt.Key.Key_W, Qt.Key.Key_O, Qt.Key.Key_N):
            return  # those leave the window, or its project
        QTest.keyClick(target, key, held)

    def menu(self, widget: QWidget) -> None:
        at = self.point(widget).toPoint()
        event = QContextMenuEvent(QContextMenuEvent.Reason.Mouse, at, widget.mapToGlobal(at))
        QApplication.sendEvent(widget, event)
        found = [m for m in self.window.findChildren(QMenu) if m.isVisible()]
        for menu in found:
            actions = [a for a in menu.actions() if a.isEnabled() and not a.isSeparator() and a.menu() is None]
            if actions and self.dice.random() < 0.6:
                self.dice.choice(actions).trigger()
            menu.close()

    def wheel(self, widget: QWidget) -> None:
        at = self.point(widget)
        turned = QPoint(0, self.dice.choice((-120, 120)))
        glob = QPointF(widget.mapToGlobal(at.toPoint()))
        held = self.dice.choice(HELD)
        event = QWheelEvent(at, glob, QPoint(), turned, NO, held, Qt.ScrollPhase.NoScrollPhase, False)
        QApplication.sendEvent(widget, event)

    def blow(self) -> None:
        """One event."""
        widget = self.widget()
        if widget is not None:
            self.dice.choices((self.press, self.key, self.menu, self.wheel), (6, 5, 2, 1))[0](widget)


class AnyWeather(WindowCase, unittest.TestCase):
    def weather(self, seed: int, gusts: int) -> None:
        storm = Storm(self.window, seed)
        raised: list[BaseException] = []
        hook, sys.excepthook = sys.excepthook, lambda kind, error, trace: raised.append(error)
        self.addCleanup(setattr, sys, "excepthook", hook)
        for k in range(gusts):
            if k % 25 == 0:
                self.window.go(storm.dice.choice(STATIONS))
            storm.blow()
            if k % 10 == 0:
                self.app.processEvents()
            if raised:
                raise AssertionError(f"seed {seed}, event {k}") from raised[0]
        self.settle()
        self.assertEqual(raised, [])
        check(self.project)

    def setUp(self) -> None:
        super().setUp()
        # The menu of a button waits until it is closed: somebody must.
        self.closer = QTimer(self.window)
        self.closer.timeout.connect(self.close_popup)
        self.closer.start(0)
        for owner, name, answer in (
            (QInputDialog, "getText", ("", False)),
            (QInputDialog, "getMultiLineText", ("", False)),
            (QFileDialog, "getOpenFileName", ("", "")),
            (QFileDialog, "getOpenFileNames", ([], "")),
            (QFileDialog, "getSaveFileName", ("", "")),
            (QFileDialog, "getExistingDirectory", ""),
            (QDialog, "exec", 0),
            (QMessageBox, "exec", 0),
        ):
            patch = mock.patch.object(owner, name, return_value=answer)
            patch.start()
            self.addCleanup(patch.stop)

    @staticmethod
    def close_popup() -> None:
        popup = QApplication.activePopupWidget()
        if popup is not None:
            popup.close()

    def test_nothing_is_raised_and_all_of_it_can_be_taken_back(self) -> None:
        first = self.project
        for seed in (1, 2):
            self.weather(seed, 200)
        last, count = to_json(self.project), 0
        while self.workspace.session.undo_label:
            self.workspace.session.undo()
            count += 1
        self.assertEqual(to_json(self.project), to_json(first))
        for _ in range(count):
            self.workspace.session.redo()
        self.assertEqual(to_json(self.project), last)  # to the byte

    def test_a_table_walked_by_keys_then_loops(self) -> None:
        self.window.go("frames")
        table = self.window.stations["frames"].values.table
        table.setFocus()
        for key in (Qt.Key.Key_Down, Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Tab) * 3:
            QTest.keyClick(table, key)
        self.window.go("loops")
        self.settle()
        self.weather(7, 60)


if __name__ == "__main__":
    unittest.main()
