"""For people who see or use it differently: every painted view tells its items, every control has a name, and what is
written stands out from its ground."""

from __future__ import annotations

import re
import unittest

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt, QThreadPool
from PySide6.QtGui import QAccessible, QColor, QNativeGestureEvent, QPointingDevice, QWheelEvent
from PySide6.QtWidgets import QAbstractButton, QAbstractScrollArea, QApplication, QComboBox, QLineEdit, QWidget

from avelt.core.checks.seen import contrast, luminance
from avelt.core.model.find import find_layer
from avelt.window.common import accessible_tree
from avelt.window.shell.commands import STATIONS
from avelt.window.theme import DARK, LIGHT, Palette, style_sheet
from avelt.window.timing.curve_canvas import CurveCanvas
from tests.support import WindowCase

#: What is written on what: text needs 4.5 to 1 (WCAG 2.2, 1.4.3).
TEXTS = [
    *(("ink", ground) for ground in ("desk", "bar", "sheet", "faint", "chosen", "differs")),
    *(("quiet", ground) for ground in ("desk", "bar", "sheet", "chosen")),
    *((text, ground) for text in ("leaves_text", "arrives_text", "loop_text") for ground in ("bar", "sheet")),
    *(("trouble", ground) for ground in ("desk", "bar", "sheet", "chosen")),
    ("now", "sheet"),
    ("sheet", "ink"),
]
#: Marks and edges of what is used need 3 to 1 (1.4.11).
MARKS = [(mark, "sheet") for mark in ("leaves", "arrives", "now", "loop", "trouble", "quiet")]


def ratio(palette: Palette, one: str, other: str) -> float:
    light = []
    for name in (one, other):
        colour = QColor(getattr(palette, name))
        light.append(luminance(np.array([colour.redF(), colour.greenF(), colour.blueF()])))
    return float(contrast(*light))


class Contrast(unittest.TestCase):
    def test_what_is_written_can_be_read(self) -> None:
        for name, palette in (("light", LIGHT), ("dark", DARK)):
            for text, ground in TEXTS:
                with self.subTest(theme=name, text=text, ground=ground):
                    self.assertGreaterEqual(ratio(palette, text, ground), 4.5)

    def test_marks_stand_out(self) -> None:
        for name, palette in (("light", LIGHT), ("dark", DARK)):
            for mark, ground in MARKS:
                with self.subTest(theme=name, mark=mark, ground=ground):
                    self.assertGreaterEqual(ratio(palette, mark, ground), 3.0)

    def test_everything_that_takes_the_focus_shows_it(self) -> None:
        sheet = style_sheet(LIGHT)
        for kind in ("QPushButton", "QToolButton", "QLineEdit", "QComboBox", "QCheckBox"):
            self.assertRegex(sheet, rf"{kind}:focus", kind)


def tree(widget: QWidget) -> list[str]:
    """The items of a painted view as assistive technology hears them."""
    face = QAccessible.queryAccessibleInterface(widget)
    return [face.child(k).text(QAccessible.Text.Name) for k in range(face.childCount())]


class Told(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        accessible_tree.install()

    def station(self, ident: str) -> QWidget:
        self.window.go(ident)
        self.settle()
        return self.window.stations[ident]

    def test_frames_and_layers_of_the_board(self) -> None:
        board = self.station("frames").board
        told = tree(board)
        self.assertEqual(
            len([words for words in told if words.startswith("frame ")]), len(self.workspace.project.frames)
        )
        self.assertIn("group Grey Stack card", told)
        layer = find_layer(self.workspace.frame, "Sailing list")
        self.workspace.choose(self.workspace.frame.id, layer.id)
        face = QAccessible.queryAccessibleInterface(board)
        chosen = [face.child(k) for k in range(face.childCount()) if face.child(k).state().selected]
        self.assertEqual([item.text(QAccessible.Text.Name) for item in chosen], ["group Sailing list"])
        self.assertEqual((face.role(), chosen[0].role()), (QAccessible.Role.List, QAccessible.Role.ListItem))

    def test_an_item_is_where_it_is_painted(self) -> None:
        body = self.station("timing").sheet.body
        face = QAccessible.queryAccessibleInterface(body)
        for k in (0, 3):
            rect = face.child(k).rect()
            self.assertEqual(body.row_at(body.mapFromGlobal(rect.center()).y()), body.rows[k])
            self.assertEqual(face.indexOfChild(face.childAt(rect.center().x(), rect.center().y())), k)

    def test_ribbons_are_said_with_their_times(self) -> None:
        told = tree(self.station("timing").sheet.body)
        self.assertIn("Hero card, 130 to 480 ms", told)
        self.assertTrue(any(re.fullmatch(r"Header leaves, 0 to 110 ms", words) for words in told))

    def test_routes_pairs_loops_and_curves(self) -> None:
        self.assertTrue(
            any("Sailings to Sailing detail, tap" in words for words in tree(self.station("routes").matrix))
        )
        self.assertTrue(any(re.search(r"is .*, sure by \d+%", words) for words in tree(self.station("pairs").threads)))
        self.workspace.choose(next(frame for frame in self.workspace.project.frames if frame.loops).id)
        loops = self.station("loops")
        self.assertEqual(len(tree(loops.strip)), len(self.workspace.frame.loops))
        self.assertEqual(len(tree(loops.dial)), len(self.workspace.frame.loops))
        canvas = self.station("timing").findChild(CurveCanvas)
        self.assertEqual([words[:8] for words in tree(canvas)], ["handle 1", "handle 2"])

    def test_rehearse_handoff_and_shelf(self) -> None:
        rehearse = self.station("rehearse")
        rehearse.rehearsal.player.press(100.0, 250.0)
        rehearse.rehearsal.player.release(100.0, 250.0)
        rehearse.log.show_entries(list(rehearse.rehearsal.player.log))
        self.assertTrue(any("nothing happens" in words for words in tree(rehearse.log)))
        kinds = tree(self.station("handoff").kinds)
        self.assertTrue(any(words.startswith("Moving drawing, svg") for words in kinds))
        QThreadPool.globalInstance().waitForDone()
        self.window.do("shelf")
        self.settle()
        self.assertEqual(len(tree(self.window.shelf.cards)), len(self.window.shelf.cards.entries))
        self.assertIn("enter, built in", " ".join(tree(self.window.shelf.cards)))

    def test_items_that_are_gone_are_said_to_be(self) -> None:
        body = self.station("timing").sheet.body
        item = QAccessible.queryAccessibleInterface(body).child(len(body.rows) - 1)
        self.assertTrue(item.isValid())
        body.show_rows(body.rows[:2])
        self.assertFalse(item.isValid())
        self.assertEqual(item.text(QAccessible.Text.Name), "")

    def pinch(self, view: QWidget, by: float, at: QPointF) -> None:
        device = QPointingDevice.primaryPointingDevice()
        kind = Qt.NativeGestureType.ZoomNativeGesture
        event = QNativeGestureEvent(kind, device, 2, at, at, QPointF(view.mapToGlobal(at)), by, QPointF())
        QApplication.sendEvent(view, event)

    def test_two_fingers_zoom(self) -> None:
        board = self.station("frames").board
        before = board.viewport.scale()
        self.pinch(board, 0.5, QPointF(200, 200))
        self.assertAlmostEqual(board.viewport.scale(), before * 1.5)
        self.pinch(board, -9.0, QPointF(200, 200))
        self.assertAlmostEqual(board.viewport.scale(), before * 1.5 / 4.0)
        sheet = self.station("timing").sheet
        shown, spot = sheet.head.scale.shown, QPointF(500, 40)
        under = sheet.head.scale.ms(spot.x(), sheet.body.width())
        self.pinch(sheet.body, 0.25, spot)
        self.assertLess(sheet.head.scale.shown, shown)
        self.assertAlmostEqual(sheet.head.scale.ms(spot.x(), sheet.body.width()), under, 3)
        now = self.station("timing").now
        self.pinch(now, 1.0, QPointF(80, 90))
        self.assertAlmostEqual(now.zoom, 2.0)
        matrix = self.station("routes").matrix
        matrix.set_zoom(0.5)
        self.pinch(matrix.viewport(), 0.5, QPointF(80, 90))
        self.assertAlmostEqual(matrix.grid.zoom, 0.75)
        self.pinch(matrix.viewport(), 3.0, QPointF(80, 90))
        self.assertAlmostEqual(matrix.grid.zoom, 1.5)

    def turn(self, view: QWidget, across: int, down: int) -> None:
        at, turned = QPointF(80, 90), QPoint(across, down)
        held, phase = Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase
        none = Qt.MouseButton.NoButton
        QApplication.sendEvent(
            view, QWheelEvent(at, QPointF(view.mapToGlobal(at)), QPoint(), turned, none, held, phase, False)
        )

    def test_two_fingers_move_what_is_shown(self) -> None:
        sheet = self.station("timing").sheet
        self.pinch(sheet.body, 1.0, QPointF(500, 40))
        first = sheet.head.scale.first
        rows = sheet.scroller.viewport()
        self.turn(rows, 0, -120)
        self.assertEqual(sheet.head.scale.first, first)
        self.turn(rows, -120, 10)
        self.assertGreater(sheet.head.scale.first, first)
        now = self.station("timing").now
        self.turn(now, 40, 60)
        self.assertEqual(now.shift, QPointF())
        now.set_zoom(2.0)
        before = QPointF(now.shift)
        self.turn(now, 40, 60)
        self.assertEqual(now.shift - before, QPointF(20.0, 30.0))

    def test_every_control_has_a_name(self) -> None:
        self.window.do("shelf")
        self.window.do("checks")
        QThreadPool.globalInstance().waitForDone()
        nameless: set[str] = set()
        for ident, _ in STATIONS:
            self.station(ident)
            for widget in self.window.findChildren(QWidget):
                if not widget.isVisible() or (isinstance(widget, QAbstractScrollArea) and not widget.accessibleName()):
                    continue
                if not isinstance(widget, QAbstractButton | QComboBox | QLineEdit):
                    continue
                face = QAccessible.queryAccessibleInterface(widget)
                named = face.text(QAccessible.Text.Name) or widget.toolTip() or face.text(QAccessible.Text.Description)
                if isinstance(widget, QLineEdit | QComboBox) and not named:
                    named = getattr(widget, "placeholderText", str)()
                if not named:
                    where = type(widget.parentWidget()).__name__
                    nameless.add(f"{ident}: {type(widget).__name__} in {where}, {widget.objectName()}")
        QThreadPool.globalInstance().waitForDone()
        self.assertEqual(sorted(nameless), [])


if __name__ == "__main__":
    unittest.main()
