"""A prototype that answers the hand: scrolled, dragged, hovered, turned round; and what was done is done again."""

import math
import unittest
from typing import Any

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt, QThreadPool
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avelt.core.edits.frames import set_first
from avelt.core.model.find import find_frame, find_layer, find_route
from avelt.core.model.properties import COLUMN
from avelt.window.rehearse.tape_panel import BEFORE
from tests.support import WindowCase, click, send, type_into
from tests.xvfb import needs_xvfb, run_in_xvfb


class DoThatAgain(WindowCase, unittest.TestCase):
    """In one window, on the demo."""

    def test_the_afternoon(self) -> None:
        self.window.go("rehearse")
        self.settle()
        self.station = self.window.stations["rehearse"]
        self.station.clock.stop()
        self.walk(
            self.a_list_scrolls_and_its_header_shrinks_softly,
            self.a_star_lights_up_shrinks_and_goes_on_by_itself,
            self.a_card_is_dragged_half_way_and_springs_to_the_nearer_end,
            self.a_tap_in_the_middle_turns_it_round_without_a_jump,
            self.a_page_comes_to_life_when_it_is_ready,
            self.somebody_says_do_that_again,
            self.a_curve_is_changed_and_it_goes_on_at_the_same_moment,
            self.before_and_after_are_compared,
        )

    # What a hand does

    def at(self, x: float, y: float) -> QPointF:
        return self.station.stage.to_widget().map(QPointF(x, y))

    def wheel(self, turns: int) -> None:
        stage = self.station.stage
        event = QWheelEvent(
            self.at(180, 400),
            stage.mapToGlobal(self.at(180, 400)),
            QPoint(),
            QPoint(0, -120 * turns),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(stage, event)

    def play(self, ms: float) -> None:
        while ms > 0:
            self.station.clock.advance(min(16.0, ms))
            ms -= 16.0

    def move(self, x: float, y: float) -> None:
        send(self.station.stage, QEvent.Type.MouseMove, self.at(x, y))

    def tap(self, x: float, y: float) -> None:
        click(self.station.stage, self.at(x, y))

    def value(self, name: str, column: str) -> float:
        scene = self.station.stage.scene
        sides = (
            (s, side) for s, content in enumerate(scene.program.contents) for side in (content.left, content.right)
        )
        slot = next(s for s, side in sides if side is not None and side.name == name)
        return float(scene.scalars[slot, COLUMN[column]])

    def shown(self, frame: str) -> None:
        """Rehearse from a frame."""
        ident = find_frame(self.project, frame).id
        self.workspace.do("first", lambda p: set_first(p, ident))
        self.settle()
        self.station.clock.stop()
        self.station.start_over()

    @property
    def player(self) -> Any:
        return self.station.player

    # The walk

    def a_list_scrolls_and_its_header_shrinks_softly(self) -> None:
        self.shown("All sailings")
        self.play(100)
        self.wheel(4)  # a jump of 192 px
        self.assertEqual(self.player.world.actor.scroll[1], 192)
        self.assertEqual(self.value("Row 3", "y"), find(self.project, "All sailings", "Row 3").y - 192)
        self.assertEqual(self.value("Bar", "h"), 168)
        self.play(40)
        half = 168 - 60 * (1 - math.exp(-40 / 40))
        self.assertAlmostEqual(self.value("Bar", "h"), half, delta=2.0)
        self.play(600)
        self.assertAlmostEqual(self.value("Bar", "h"), 108, delta=0.01)
        self.assertEqual(self.value("Bar", "y"), 0)
        self.wheel(-4)
        self.play(600)
        self.assertAlmostEqual(self.value("Bar", "h"), 168, delta=0.01)

    def a_star_lights_up_shrinks_and_goes_on_by_itself(self) -> None:
        self.move(310, 286)
        self.play(200)
        self.assertIn(("hover", "Star 1"), [(entry.what, entry.stage) for entry in self.player.log])
        send(self.station.stage, QEvent.Type.MouseButtonPress, self.at(310, 286))
        self.play(120)
        star = next(child for child in self.player.world.children.values() if child.name == "Star 1")
        self.assertEqual(star.world.actor.frame.name, "pressed")
        send(self.station.stage, QEvent.Type.MouseButtonRelease, self.at(310, 286))
        self.play(800)
        star = next(child for child in self.player.world.children.values() if child.name == "Star 1")
        self.assertEqual(star.world.actor.frame.name, "kept")

    def a_card_is_dragged_half_way_and_springs_to_the_nearer_end(self) -> None:
        self.shown("Which deck")
        stage = self.station.stage
        send(stage, QEvent.Type.MouseButtonPress, self.at(58, 560))
        for x in range(58, 200, 10):
            self.move(float(x), 560)
            self.play(16)
        self.play(500)
        self.assertAlmostEqual(self.value("Knob", "x"), 38 + 140, delta=3)
        self.move(110, 560)
        self.play(500)
        self.assertAlmostEqual(self.value("Knob", "x"), 38 + 52, delta=3)
        send(stage, QEvent.Type.MouseButtonRelease, self.at(110, 560))
        self.play(700)
        self.assertEqual((self.player.frame.name, self.value("Knob", "x")), ("Which deck", 38))

    def a_tap_in_the_middle_turns_it_round_without_a_jump(self) -> None:
        self.shown("Sailings")
        self.play(300)
        self.tap(180, 320)
        self.play(352)
        before = self.value("Hero card", "h")
        self.tap(40, 56)
        self.assertAlmostEqual(self.value("Hero card", "h"), before, delta=0.5)
        self.assertIn("goes back", [entry.what for entry in self.player.log])
        self.play(900)
        self.assertEqual(self.player.frame.name, "Sailings")

    def a_page_comes_to_life_when_it_is_ready(self) -> None:
        self.shown("Boarding pass")
        type_into(self.station.loading, "400")
        self.station.clock.stop()
        self.play(300)
        waves = [
            c.layer.name for c in self.station.stage.scene.program.contents if c.layer.name.startswith("Code wave")
        ]
        self.assertEqual(waves, [])
        self.play(200)
        self.assertIn("Boarding pass (entrance)", [line.name for line in self.station.runs.lines])
        type_into(self.station.loading, "0")
        self.station.clock.stop()

    def somebody_says_do_that_again(self) -> None:
        self.shown("Sailings")
        self.play(400)
        self.tap(180, 320)
        self.play(1000)
        self.seen = [self.station.rehearsal.seen(ms).scene().vector.copy() for ms in (450.0, 620.0, 1300.0)]
        click(self.station.tape.keep)
        type_into(self.station.tape.name, "The card opens")
        click(self.station.top.again)
        self.station.clock.stop()
        self.pick(self.station.tape.tapes, "The card opens")
        self.station.clock.stop()
        click(self.station.tape.replay)
        self.station.clock.stop()
        self.play(1400)
        again = [self.station.rehearsal.seen(ms).scene().vector for ms in (450.0, 620.0, 1300.0)]
        for old, new in zip(self.seen, again, strict=True):
            self.assertEqual(old.tolist(), new.tolist())

    def a_curve_is_changed_and_it_goes_on_at_the_same_moment(self) -> None:
        self.station.clock.seek(600.0)
        before = self.value("Hero card", "h")
        self.workspace.choose_route(find_route(self.project, "Sailings > Sailing detail").id)
        self.window.go("timing")
        self.settle()
        timing = self.window.stations["timing"]
        row = next(row for row in timing.sheet.body.rows if row.right_name == "Hero card" and not row.prop)
        timing.pick(row.key)
        type_into(timing.curve_editor.words, "cubic-bezier(0.9, 0, 0.9, 0.1)")
        self.window.go("rehearse")
        self.settle()
        self.station.clock.stop()
        self.assertEqual(self.station.clock.ms, 600.0)
        self.assertNotAlmostEqual(self.value("Hero card", "h"), before, delta=5.0)
        self.assertEqual(self.station.rehearsal.missed, [])

    def before_and_after_are_compared(self) -> None:
        self.station.compare(BEFORE)
        QThreadPool.globalInstance().waitForDone(60_000)
        self.settle()
        self.assertIn("They part at 0.", self.station.beside.says.text())
        click(self.station.beside.there)
        self.assertTrue(400.0 < self.station.clock.ms < 900.0)
        self.assertFalse(self.window.grab().isNull())
        QTest.keyClick(self.station, Qt.Key.Key_Space)
        self.station.clock.stop()
        self.station.compare("")


def find(project: Any, frame: str, name: str) -> Any:
    return find_layer(find_frame(project, frame), name)


class OnARealDisplay(unittest.TestCase):
    @needs_xvfb
    def test_the_afternoon_in_a_real_window(self) -> None:
        run_in_xvfb(self, "tests.stories.test_rehearse.DoThatAgain")


if __name__ == "__main__":
    unittest.main()
