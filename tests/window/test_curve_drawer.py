"""Named curves in their drawer, edits of them for all, and the handles of every kind of curve in the curve editor."""

import unittest
from typing import Any
from unittest import mock

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avelt.core.curves.named import STARTERS, used_by
from avelt.core.edits import curves
from avelt.core.edits.project import new_project
from avelt.core.errors import EditError
from avelt.core.model.curves import Drawn, Drops, Handles, Hold, Named, Points, Ring, Spring, Steps
from avelt.core.timing.schedule import timed
from avelt.demo.build import build_demo
from avelt.window.timing.drawer import lay_cards
from tests.support import WindowCase, click, drag, type_into


class Edits(unittest.TestCase):
    def setUp(self) -> None:
        self.project = build_demo()
        self.route = self.project.routes[0]
        self.key = next(cue.key for cue in self.route.transition.cues if cue.curve == Named("arrive"))

    def test_keeping_renaming_and_giving_up(self) -> None:
        project, ident = curves.keep_curve(self.project, self.route.id, self.key, Spring(0.4), "Tide")
        self.assertEqual((curves.curve_by_id(project, ident).curve, used_by(project, ident)), (Spring(0.4), 1))
        again, other = curves.keep_curve(project, self.route.id, self.key, Named("leave"), "Tide")
        self.assertEqual(curves.curve_by_id(again, other).name, "Tide 2")
        project = curves.rename_curve(project, ident, " Ebb ")
        self.assertEqual(curves.curve_by_id(project, ident).name, "Ebb")
        with self.assertRaises(EditError):
            curves.rename_curve(project, ident, "Settle")
        with self.assertRaises(EditError) as caught:
            curves.remove_curve(project, ident)
        self.assertIn("used 1 time", str(caught.exception))
        own = curves.make_own(project, self.route.id, self.key, Named(ident))
        self.assertEqual(used_by(own, ident), 0)
        self.assertNotIn(ident, [entry.id for entry in curves.remove_curve(own, ident).curves])

    def test_its_own_stays_when_the_name_changes(self) -> None:
        from avelt.core.edits.routes import edit_named_curve

        own = curves.make_own(self.project, self.route.id, self.key, Named("arrive"))
        changed = edit_named_curve(own, "arrive", Handles(0, 0, 1, 1))
        route = changed.routes[0]
        self.assertEqual(timed(changed, route.transition, *self.key).plain, Handles(0.05, 0.7, 0.2, 1.0))

    def test_cards_stand_under_what_they_are_good_for_and_do_not_meet(self) -> None:
        layout = lay_cards(new_project("x"))
        self.assertEqual(len(layout.cards), len(STARTERS))
        self.assertEqual(
            [words for words, _ in layout.heads], ["Arrives", "Leaves", "Stays and moves", "Playful", "Mechanical"]
        )
        for k, card in enumerate(layout.cards):
            self.assertFalse(any(card.rect.intersects(other.rect) for other in layout.cards[:k]))
        self.assertLessEqual(max(card.rect.bottom() for card in layout.cards), layout.height)


class Station(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("timing")
        self.settle()
        self.station = self.window.stations["timing"]
        self.bench, self.canvas = self.station.curve_editor, self.station.curve_editor.canvas
        row = next(r for r in self.station.sheet.body.rows if r.left_name == "Header" and not r.prop)
        self.station.pick(row.key)
        self.key = row.key

    def curve(self) -> Any:
        return timed(self.project, self.workspace.route.transition, *self.key).curve


class Drawer(Station):
    def card(self, ident: str) -> QPointF:
        cards = self.station.curves.drawer.cards
        return next(card.rect.center() for card in cards.card_layout.cards if card.id == ident)

    def test_it_opens_shows_what_is_in_use_and_takes_by_click_and_keys(self) -> None:
        click(self.bench.drawer)
        cards = self.station.curves.drawer.cards
        self.assertTrue(self.station.curves.drawer.isVisible())
        self.assertEqual(cards.chosen, "leave")
        click(cards, self.card("sink"))
        self.assertEqual(self.curve(), Named("sink"))
        QTest.keyClick(cards, Qt.Key.Key_Right)
        QTest.keyClick(cards, Qt.Key.Key_Return)
        self.assertEqual(self.curve(), Named("slip-away"))
        self.assertFalse(self.station.curves.drawer.grab().isNull())
        QTest.keyClick(cards, Qt.Key.Key_Escape)
        self.assertFalse(self.station.curves.drawer.isVisible())

    def test_keeping_renaming_and_removing_from_it(self) -> None:
        self.bench.chosen.emit(Ring(2.0, 4.0))
        self.station.curves.open_drawer()
        with mock.patch("avelt.window.timing.controllers.curves.QInputDialog.getText", return_value=("Pier", True)):
            click(self.station.curves.drawer.keep)
        kept = self.curve()
        self.assertEqual(curves.curve_by_id(self.project, kept.id).curve, Ring(2.0, 4.0))
        with mock.patch("avelt.window.timing.controllers.curves.QInputDialog.getText", return_value=("Mole", True)):
            click(self.station.curves.drawer.rename)
        self.assertEqual(curves.curve_by_id(self.project, kept.id).name, "Mole")
        click(self.station.curves.drawer.remove)
        self.assertIn("is used 1 time", self.window.said.text())

    def test_a_handle_dragged_for_all_moves_all_also_while_playing(self) -> None:
        count = used_by(self.project, "leave")
        self.assertIn(str(count), self.bench.for_all.text())
        self.bench.for_all.setChecked(True)
        self.station.clock.play()
        spot = self.canvas.place_of((0.5, 0.0))
        drag(self.canvas, spot, spot + QPointF(-30, -20))
        self.station.clock.stop()
        self.assertEqual(self.curve(), Named("leave"))
        self.assertNotEqual(curves.curve_by_id(self.project, "leave").curve, Handles(0.5, 0.0, 0.9, 0.4))
        self.assertEqual(self.workspace.session.undo_label, "curve Leave, for all")
        self.window.do("undo")
        self.assertEqual(curves.curve_by_id(self.project, "leave").curve, Handles(0.5, 0.0, 0.9, 0.4))

    def test_a_handle_dragged_for_one_makes_it_its_own(self) -> None:
        spot = self.canvas.place_of((0.5, 0.0))
        drag(self.canvas, spot, spot + QPointF(-30, -20))
        self.assertIsInstance(self.curve(), Handles)
        self.assertEqual(curves.curve_by_id(self.project, "leave").curve, Handles(0.5, 0.0, 0.9, 0.4))

    def test_making_it_its_own_by_the_button(self) -> None:
        click(self.bench.make_own)
        self.assertEqual(self.curve(), Handles(0.5, 0.0, 0.9, 0.4))
        self.assertFalse(self.bench.make_own.isEnabled())


class EveryKind(Station):
    def pick_fresh(self, words: str) -> None:
        """A kind as it begins: a line has no shape that it would be fitted to."""
        type_into(self.bench.words, "linear")
        self.pick(self.bench.kind, words)

    def test_another_kind_is_fitted_and_says_how_near_it_is(self) -> None:
        said: list[str] = []
        self.workspace.said.connect(said.append)
        type_into(self.bench.words, "cubic-bezier(0.42, 0, 0.58, 1)")
        self.pick(self.bench.kind, "Drawn")
        self.assertEqual(self.curve(), Drawn(((0.0, 0.0), (0.42, 0.0), (0.58, 1.0), (1.0, 1.0))))
        self.assertEqual(said[-1], "Drawn: the same curve.")
        self.pick(self.bench.kind, "Ring")
        self.assertRegex(said[-1], r"Ring: fitted to the curve, at most \d+\.\d % away")

    def double_click(self, point: QPointF) -> None:
        event = QMouseEvent(
            QEvent.Type.MouseButtonDblClick,
            point,
            self.canvas.mapToGlobal(point),
            Qt.MouseButton.LeftButton,
            Qt.MouseButton.LeftButton,
            Qt.KeyboardModifier.NoModifier,
        )
        QApplication.sendEvent(self.canvas, event)

    def test_a_drawn_curve_is_dragged_gets_a_node_and_loses_it(self) -> None:
        self.pick_fresh("Drawn")
        node = self.canvas.place_of(Drawn().points[3])
        drag(self.canvas, node, node + QPointF(10, -25))
        self.assertGreater(self.curve().points[3][1], Drawn().points[3][1])
        self.double_click(self.canvas.place_of((0.8, 0.5)))
        self.assertEqual(len(self.curve().points), 10)
        self.canvas._focus = 6
        self.canvas.setFocus()
        QTest.keyClick(self.canvas, Qt.Key.Key_Delete)
        self.assertEqual(len(self.curve().points), 7)

    def test_points_are_added_and_taken_away(self) -> None:
        self.pick_fresh("Points")
        self.double_click(self.canvas.place_of((0.8, 0.5)))
        self.assertEqual(len(self.curve().points), 5)
        self.canvas.setFocus()
        QTest.keyClick(self.canvas, Qt.Key.Key_Delete)
        self.assertEqual(len(self.curve().points), 4)

    def test_numbers_of_the_others_are_typed_and_a_hold_is_dragged(self) -> None:
        for words, values, wanted in (
            ("Drops", ("5", "0.4"), Drops(5, 0.4)),
            ("Ring", ("4", "6"), Ring(4.0, 6.0)),
            ("Hold", ("0.3",), Hold(0.3)),
            ("Steps", ("7",), Steps(7, "end")),
            ("Spring", ("0.5", "2"), Spring(0.5, 2.0)),
        ):
            self.pick_fresh(words)
            for field, value in zip(self.bench.numbers, values, strict=False):
                type_into(field, value)
            self.assertEqual(self.curve(), wanted)
        self.pick_fresh("Hold")
        spot = self.canvas.place_of((0.5, 0.5))
        drag(self.canvas, spot, spot + QPointF(20, 0))
        self.assertGreater(self.curve().at, 0.55)

    def test_text_of_every_kind_is_taken_and_shown_again(self) -> None:
        for words in (
            "drops(2, 0.4)",
            "ring(1.5, 3)",
            "hold(0.25)",
            "drawn(0 0, 0.2 0, 0.6 1.2, 1 1)",
            "steps(3, jump-both)",
        ):
            type_into(self.bench.words, words)
            self.bench.words.clearFocus()
            self.assertEqual(self.bench.words.text(), words)
        type_into(self.bench.words, "drops(2.5)")
        self.assertIn("whole number", self.window.said.text())

    def test_the_readouts_say_overshoot_settling_half_and_speed(self) -> None:
        type_into(self.bench.words, "spring(0.4)")
        words = " ".join(entry.text() for entry in self.bench.readout)
        for part in ("Overshoots", "Settles at", "Half at", "peak"):
            self.assertIn(part, words)
        self.assertEqual(len(Points(((0, 0), (1, 1))).points), 2)
