"""Rehearse in the real window: by mouse, wheel, finger and keys; tapes kept, moved, compared; and back from an edit."""

import unittest
from collections.abc import Callable, Iterator
from itertools import repeat
from pathlib import Path
from time import perf_counter
from typing import Any, cast
from unittest import mock

import numpy as np
from msgspec.structs import replace
from PIL import Image, ImageSequence
from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, Qt, QThreadPool
from PySide6.QtGui import QImage, QRegion, QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import add_route, set_duration
from avelt.core.geometry import affine
from avelt.core.model.find import find_frame, find_layer, find_route
from avelt.core.model.properties import COLUMN
from avelt.core.model.tapes import Move
from avelt.core.model.triggers import HoverIn
from avelt.core.model.triggers import Key as KeyTrigger
from avelt.core.running.player import LogEntry, Player
from avelt.core.steps.read import applied
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.scrolling import DOWN
from avelt.core.turns import others_first
from avelt.window.common.jobs import Answer
from avelt.window.common.pictures_first import pictures
from avelt.window.rehearse.ahead import Ahead, Step
from avelt.window.rehearse.ahead import _Compile as Compile
from avelt.window.rehearse.tape_panel import BEFORE
from avelt.window.rehearse.time_strip import TimeStrip
from tests.core.test_steps import SITE
from tests.support import WindowCase, click, drag, send, type_into


def at_once(done: list[Scene]) -> Callable[[Scene], Iterator[None]]:
    """Painting in a single step, and what was painted."""

    def paint(scene: Scene) -> Iterator[None]:
        done.append(scene)
        yield

    return paint


class Rehearse(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("rehearse")
        self.settle()
        self.station = self.window.stations["rehearse"]
        self.station.clock.stop()
        self.station.start_over()

    def tap(self, x: float, y: float) -> None:
        stage = self.station.stage
        click(stage, stage.to_widget().map(QPointF(x, y)))

    def test_taps_timers_and_the_log(self) -> None:
        self.station.clock.advance(100)
        self.tap(180, 320)
        self.assertEqual(self.station.player.frame.name, "Sailing detail")
        for _ in range(40):
            self.station.clock.advance(90)
        self.assertEqual([line.name for line in self.station.runs.lines], ["boat rock", "swell", "seat blink"])
        self.tap(40, 56)
        self.station.clock.advance(90)
        self.assertEqual(self.station.player.frame.name, "Sailings")
        for _ in range(40):
            self.station.clock.advance(90)
        self.assertEqual(self.station.player.frame.name, "Delay notice")
        self.assertIn("timer", [entry.what for entry in self.station.log.entries])
        self.tap(180, 584)
        self.station.clock.advance(90)
        self.assertEqual(self.station.player.frame.name, "Sailings")

    def test_what_waits_for_loading_comes_to_life_then(self) -> None:
        type_into(self.station.loading, "400")
        self.station.clock.stop()
        self.assertEqual(self.station.runs.lines[0].name, "loading")
        self.tap(180, 320)
        for _ in range(12):
            self.station.clock.advance(90)
        self.tap(180, 600)  # the button that shows the pass
        for _ in range(8):
            self.station.clock.advance(90)
        player = self.station.player
        self.assertEqual(player.frame.name, "Boarding pass")
        waves = [s for s, part in enumerate(player.scene().program.contents) if part.layer.name.startswith("Code wave")]
        self.assertEqual(waves, [])
        while player.still_loads() is not None:
            self.station.clock.advance(30)
        self.station.clock.advance(60)
        self.assertIn("Boarding pass (entrance)", [line.name for line in self.station.runs.lines])
        for _ in range(10):
            self.station.clock.advance(90)
        self.assertIn("loaded", [entry.what for entry in self.station.log.entries])
        self.assertEqual(self.station.log.entries[-1].says, "of Boarding pass is over")

    def test_start_over_and_slower(self) -> None:
        click(self.station.top.speeds.button(3))
        self.station.clock.advance(100)
        self.assertAlmostEqual(self.station.player.now, 10)
        self.tap(180, 320)
        click(self.station.top.again)
        self.assertEqual((self.station.player.now, self.station.player.frame.name), (0, "Sailings"))

    def play(self, ms: float) -> None:
        """Time goes on, as the clock brings it."""
        while ms > 0:
            self.station.clock.advance(min(90.0, ms))
            ms -= 90.0

    def rehearsed(self) -> TimeStrip:
        """A tap at 900 ms, then 2.7 s on Sailing detail; time stands."""
        self.play(900)
        self.tap(180, 320)
        self.play(2700)
        return cast(TimeStrip, self.station.strip)

    def test_what_was_is_looked_at_again_and_nothing_is_lost(self) -> None:
        strip = self.rehearsed()
        player, log = self.station.player, list(self.station.player.log)
        scene = self.station.stage.scene.scalars.copy()
        send(strip, QEvent.Type.MouseButtonPress, QPointF(strip.x_of(3000), 30))
        send(strip, QEvent.Type.MouseMove, QPointF(strip.x_of(1000), 30))
        self.assertAlmostEqual(self.station.clock.ms, 1000, delta=12)
        self.assertAlmostEqual(self.station.stage.scene.at, 100, delta=12)
        self.assertEqual(self.station.runs.lines[0].name, "to Sailing detail")
        send(strip, QEvent.Type.MouseButtonRelease, QPointF(strip.x_of(0), 30))
        self.assertEqual(self.station.stage.scene.program.left.name, "Sailings")
        self.assertTrue(self.station.top.hold.isChecked())
        self.assertEqual((self.station.player, self.station.log.entries), (player, log))
        drag(strip, QPointF(strip.x_of(0), 30), QPointF(strip.width() + 50, 30))
        self.assertEqual(self.station.clock.ms, 3600)
        np.testing.assert_array_equal(self.station.stage.scene.scalars, scene)

    def test_going_on_from_there_plays_it_again_until_something_else_is_done(self) -> None:
        strip = self.rehearsed()
        click(strip, QPointF(strip.x_of(400), 30))
        QTest.keyClick(strip, Qt.Key.Key_Space)
        self.station.clock.stop()
        self.assertLess(self.station.stage.scene.at, 900)
        self.play(700)
        self.assertEqual(self.station.runs.lines[0].name, "to Sailing detail")
        self.assertEqual(self.station.player.now, 3600)
        click(self.station.log, QPointF(60, 12))
        self.assertEqual(self.station.clock.ms, 0)
        self.tap(180, 320)
        self.assertEqual((self.station.player.now, self.station.player.frame.name), (0, "Sailing detail"))
        self.assertEqual([deed.word for deed in strip.deeds], ["tap"])

    def test_arrow_keys_go_from_event_to_event(self) -> None:
        strip = self.rehearsed()
        arrival = self.station.player.log[-1].at
        strip.setFocus()
        seen = []
        for key in (Qt.Key.Key_Left, Qt.Key.Key_Left, Qt.Key.Key_Left, Qt.Key.Key_Left, Qt.Key.Key_Right):
            QTest.keyClick(strip, key)
            seen.append(self.station.clock.ms)
        self.assertEqual(seen, [arrival, 900, 0, 0, 900])

    def test_esc_gives_a_look_back_up(self) -> None:
        strip = self.rehearsed()
        send(strip, QEvent.Type.MouseButtonPress, QPointF(strip.x_of(400), 30))
        self.assertAlmostEqual(self.station.clock.ms, 400, delta=12)
        QTest.keyClick(strip, Qt.Key.Key_Escape)
        self.assertEqual(self.station.clock.ms, 3600)

    def test_a_look_back_stays_while_another_station_is_in_front(self) -> None:
        strip = self.rehearsed()
        click(strip, QPointF(strip.x_of(400), 30))
        self.window.go("loops")
        self.window.go("rehearse")
        self.assertFalse(self.station.clock.playing)
        self.assertEqual(self.station.player.now, 3600)

    def test_pointer_and_keys_reach_the_prototype(self) -> None:
        project, sailings = self.project, find_frame(self.project, "Sailings")
        card = find_layer(sailings, "Sandray card").id
        detail = find_frame(project, "Sailing detail").id
        for trigger in (HoverIn(card), KeyTrigger("ArrowRight")):
            self.workspace.make("r", lambda p, t=trigger: add_route(p, sailings.id, detail, t))
        self.station.clock.stop()
        self.station.start_over()
        stage = self.station.stage
        stage.moved.emit(180.0, 430.0)
        self.assertEqual(self.station.player.frame.name, "Sailing detail")
        self.assertEqual(self.station.player.log[-2].what, "hover")
        self.station.start_over()
        self.station.clock.stop()
        stage.gone.emit()
        self.station.setFocus()
        QTest.keyClick(self.station, Qt.Key.Key_Right)
        self.assertEqual(self.station.player.frame.name, "Sailing detail")

    def test_the_screen_answers_a_touch_before_what_stands_beside_it(self) -> None:
        self.station.clock.stop()
        self.station.start_over()
        self.station.clock.stop()
        done: list[str] = []
        with (
            mock.patch.object(self.station.stage, "repaint", lambda: done.append("screen")),
            mock.patch.object(self.station.log, "show_entries", lambda _: done.append("log")),
        ):
            self.station._press(180, 320)
            self.assertEqual(done, [])
            self.station._release(180, 320)
            self.assertEqual(done, ["screen", "log"])
            self.station._show()
            self.assertEqual(done.count("screen"), 1)
        self.assertIsNotNone(self.station.player.under_way())

    def test_what_is_dragged_waits_for_the_next_picture(self) -> None:
        deck = find_frame(self.project, "Which deck")
        self.station.clock.stop()
        self.workspace.do("first", lambda p: replace(p, first=deck.id))
        self.station.start_over()
        self.station.clock.stop()
        knob = find_layer(deck, "Knob")
        scene = self.station.player.scene()
        slot = next(s for s, c in enumerate(scene.program.contents) if c.layer.id == knob.id)
        x, y = affine.apply(scene.world()[slot], [knob.w / 2, knob.h / 2]).tolist()
        with mock.patch.object(self.station.stage, "repaint") as painted:
            self.station._press(x, y)
            for k in range(1, 20):
                self.station._move(x + 2 * k, y - 2 * k)
            self.assertTrue(self.station.player.holds)
            with mock.patch.object(self.station.player, "foreseen") as foreseen:
                self.station.clock.advance(16.0)
            self.assertFalse(foreseen.called)  # every move is another one
            painted.reset_mock()
            self.station._move(x, y)
        self.assertFalse(painted.called)  # the pointer moves more often than the display can show

    def test_what_a_touch_may_start_is_worked_out_before_it_comes(self) -> None:
        QThreadPool.globalInstance().waitForDone(30_000)  # the station's own has looked already
        player = self.station.player
        with mock.patch("avelt.window.rehearse.ahead.motions_from", return_value=()) as asked:
            still = [False]
            ahead = Ahead(self.station, lambda scene: (), lambda: still[0], lambda: (1.0, 0))

            def look() -> int:
                asked.reset_mock()
                ahead.look(player)
                ahead._next()
                QThreadPool.globalInstance().waitForDone(30_000)
                return asked.call_count

            self.assertEqual(look(), 0)  # something moves
            still[0] = True
            self.assertEqual(look(), 1)
            asked.assert_called_with(player.rules, player.world)
            player.move(5, 5)
            self.assertEqual(look(), 0)
            player.set_input("pull", 0.5)
            self.assertEqual(look(), 1)
            player = Player(replace(self.project, name="Edited"))
            self.assertEqual(look(), 1)

    def test_of_very_many_only_as_many_as_are_kept_are_worked_out(self) -> None:
        endless = repeat(compile_still(self.project.frames[0]))
        still = [True]
        with mock.patch("avelt.window.rehearse.ahead.motions_from", return_value=endless):
            ahead = Ahead(self.station, lambda scene: (), lambda: still[0], lambda: (1.0, 0))
            ahead.look(self.station.player)
            ahead._next()
            still[0] = False
            QThreadPool.globalInstance().waitForDone(30_000)
            self.settle()
        self.assertEqual(ahead.waiting(), 24)

    def test_the_pairs_of_what_takes_over_are_found_next(self) -> None:
        QThreadPool.globalInstance().waitForDone(30_000)
        first = compile_still(self.project.frames[0])
        done, still = list[Scene](), [True]
        with (
            mock.patch("avelt.window.rehearse.ahead.motions_from", side_effect=lambda *_: iter([first])),
            mock.patch("avelt.window.rehearse.ahead.motions_inside", side_effect=lambda *_: iter([None])) as inside,
            mock.patch("avelt.window.rehearse.ahead.pairs_on_the_way", side_effect=lambda *_: iter([None])) as pairs,
        ):
            ahead = Ahead(self.station, at_once(done), lambda: still[0], lambda: (1.0, 0))
            here = (self.station.player.rules, self.station.player.world)

            def goes_on() -> tuple[int, int, int]:
                ahead._next()
                QThreadPool.globalInstance().waitForDone(30_000)
                self.settle()
                return inside.call_count, pairs.call_count, len(done)

            ahead.look(self.station.player)
            self.assertEqual((goes_on(), ahead.waiting()), ((0, 0, 0), 1))
            still[0] = False
            self.assertEqual((goes_on(), ahead.waiting()), ((0, 0, 0), 1))  # nothing is begun beside what moves
            still[0] = True
            self.assertEqual((goes_on(), ahead.waiting()), ((1, 0, 0), 1))
            inside.assert_called_once_with(*here)
            self.assertEqual(goes_on(), (1, 1, 0))
            pairs.assert_called_once_with(*here)
            still[0] = False
            self.assertEqual((goes_on(), ahead.waiting()), ((1, 1, 0), 1))  # nor painted
            still[0] = True
            with mock.patch("avelt.window.rehearse.ahead.pictures") as first_of_all:
                self.assertEqual((goes_on(), ahead.waiting()), ((1, 1, 1), 0))
            first_of_all.begin.assert_called_once()
            self.assertEqual([scene.program for scene in done], [first])
            ahead._steps.append(Step(lambda *_: iter(()), 1))
            ahead.jobs.job = mock.Mock()
            ahead._next()
            self.assertEqual(len(ahead._steps), 1)  # one after the other
            ahead._waiting.append(first)
            ahead._next()
            self.assertEqual(len(done), 2)  # a picture may be painted beside it

    def test_a_finger_that_is_down_says_what_comes(self) -> None:
        station = self.station
        done: list[Scene] = []
        station.ahead = Ahead(station, at_once(done), lambda: False, lambda: (1.0, 0))
        self.tap(180, 320)
        for _ in range(20):
            station.clock.advance(16.0)
        with mock.patch.object(station.stage, "repaint") as painted:
            station.clock.advance(1.0)
        self.assertFalse(painted.called)  # nobody touches it
        back = station.stage.to_widget().map(QPointF(30, 50))
        with mock.patch("avelt.window.rehearse.ahead.drawing_of") as drawn:
            for forth in (False, True):
                drawn.reset_mock()
                done.clear()
                station.clock.play()
                send(station.stage, QEvent.Type.MouseButtonPress, back)
                send(station.stage, QEvent.Type.MouseMove, back)
                station.clock.stop()
                self.assertEqual((drawn.call_count, len(done)), (0, 0))  # first what was done is shown
                with mock.patch.object(station.stage, "repaint") as painted:
                    station.clock.advance(16.0)
                painted.assert_called_once()  # before something is worked out
                self.assertEqual((drawn.call_count, len(done)), (1, 0))
                station.clock.advance(16.0)
                self.assertEqual((drawn.call_count, len(done)), (1, 1))  # the second is painted
                station.clock.advance(16.0)
                self.assertEqual((drawn.call_count, len(done)), (2, 1))
                motion = drawn.call_args.args[0].program
                playing = station.player.world.actor.motion
                self.assertIsNot(motion, playing and playing.program)
                self.assertEqual(drawn.call_args.args[0].at, 16.0)
                send(station.stage, QEvent.Type.MouseButtonRelease, back)
                self.assertIs(station.player.world.actor.motion.program, motion)
                station.clock.advance(16.0)
                self.assertEqual((drawn.call_count, len(done)), (2, 1))  # nothing is down
                self.assertEqual(station.player.frame.name, "Sailing detail" if forth else "Sailings")
                for _ in range(40):
                    station.clock.advance(16.0)
                back = station.stage.to_widget().map(QPointF(180, 320))  # and there again, from rest

    def test_what_is_there_or_does_nothing_is_not_foreseen(self) -> None:
        station = self.station
        station.ahead = ahead = Ahead(station, lambda scene: (), lambda: False, lambda: (1.0, 0))
        at = station.stage.to_widget().map(QPointF(180, 320))
        with mock.patch("avelt.window.rehearse.ahead.drawing_of") as drawn:
            send(station.stage, QEvent.Type.MouseButtonPress, at)
            station.clock.advance(16.0)
            self.assertEqual(drawn.call_count, 1)
            program = drawn.call_args.args[0].program
            ahead._painted.get((program,), (1.0, 0), lambda: program)
            station.clock.advance(16.0)
            station.clock.advance(16.0)
            self.assertEqual(drawn.call_count, 1)  # it was painted already
            ahead._painted.clear()
            station.clock.advance(16.0)
            self.assertEqual(drawn.call_count, 2)
            station.clock.advance(400.0)  # who holds so long does not tap
            self.assertEqual(drawn.call_count, 2)
            send(station.stage, QEvent.Type.MouseButtonRelease, at)
            station.clock.advance(16.0)
            self.assertIsNotNone(station.player.under_way())
            nowhere = station.stage.to_widget().map(QPointF(350, 5))
            send(station.stage, QEvent.Type.MouseButtonPress, nowhere)
            station.clock.advance(16.0)
            self.assertIsNotNone(station.player.foreseen())
            self.assertEqual(drawn.call_count, 2)  # there a tap does nothing

    def test_nobody_waits_for_what_is_worked_out_for_another_frame(self) -> None:
        here = self.station.player.rules, self.station.player.world
        job = Compile((Step(lambda *_: repeat(compile_still(self.project.frames[0])), 24), *here))
        self.assertEqual(len(job.work()), 24)
        job.stop()
        self.assertEqual(len(job.work()), 1)

    def test_what_is_done_makes_a_picture(self) -> None:
        made = list[bool]()
        pictures._none.set()
        with mock.patch.object(self.station.rehearsal, "do", side_effect=lambda event: made.append(pictures.made)):
            self.station._do(lambda ms: Move(ms, 5, 5))
        self.assertEqual(made, [False])

    def test_what_happens_on_a_tape_is_shown_before_what_stands_beside_it(self) -> None:
        station = self.station
        station.open_tape(station.workspace.project.tapes[0].name)
        station.clock.stop()
        first = station.rehearsal.events[0].at
        with mock.patch.object(station.stage, "repaint") as painted:
            calls = []
            while len(station.player.log) < 2 and station.clock.ms < first + 2000.0:
                before = len(station.player.log)
                painted.reset_mock()
                station.clock.advance(16.0)
                calls.append((painted.called, len(station.player.log) > before))
        self.assertIn((True, True), calls)
        self.assertIn((False, False), calls)
        self.assertEqual({a == b for a, b in calls}, {True})

    def test_what_is_scrolled_settles_also_while_time_stands(self) -> None:
        station = self.station
        station.clock.stop()
        still = compile_still(find_frame(self.project, "All sailings"), self.project)
        for size in ("fit", (300.0, 500.0)):
            station.stage.size_mode = size
            for down in (0.0, 40.0, 63.3):
                station.stage.show_scene(still.while_running(0.0, {DOWN: down}))
                station.stage.repaint()
            painter, count = station.stage.painter, 0
            self.assertTrue(painter.settles)
            while station.stage._settling.isActive() and count < 40:
                station.stage._settling.stop()
                station.stage.repaint()
                count += 1
            self.assertFalse(painter.settles)
            self.assertGreater(count, 3)
            self.assertLess(count, 40)
        station.stage.show_scene(still.while_running(0.0, {DOWN: 71.3}))
        station.stage.repaint()
        with mock.patch.object(station.stage, "paintEvent") as painted:
            station.stage._settling.stop()
            station.stage._settling.timeout.emit()
            QApplication.processEvents()
        painted.assert_called_once()

    def test_what_moves(self) -> None:
        station = self.station
        self.assertTrue(station._still())
        with mock.patch.object(station, "looks_back", return_value=True):
            self.assertTrue(station._still())  # a tape that plays is as good as a hand
        self.tap(180, 320)
        self.assertTrue(station.player.moves)
        self.assertFalse(station._still())
        station.rehearsal = None
        self.assertFalse(station._still())

    def test_what_is_not_wanted_any_more_ends_in_the_middle_of_a_program(self) -> None:
        here = self.station.player.rules, self.station.player.world
        first, begun = compile_still(self.project.frames[0]), list[int]()

        def find(*_: object) -> Iterator[Program]:
            yield first
            begun.append(1)
            others_first()
            begun.append(2)
            job.stop()
            others_first()
            begun.append(3)
            yield first

        job = Compile((Step(find, 24), *here))
        answers = list[Answer]()
        job.answered.connect(answers.append)
        with mock.patch.object(job._patience, "wait") as waits:
            job.run()
        self.assertEqual(waits.call_count, 3)  # those two, and after the first program
        self.assertEqual((begun, [answer.value for answer in answers]), ([1, 2], [(first,)]))

    def test_an_answer_that_comes_after_another_frame_is_in_front_is_dropped(self) -> None:
        QThreadPool.globalInstance().waitForDone(30_000)
        program = compile_still(self.project.frames[0])
        with mock.patch("avelt.window.rehearse.ahead.motions_from", side_effect=lambda *_: iter([program])):
            ahead = Ahead(self.station, lambda scene: (), lambda: True, lambda: (1.0, 0))
            ahead.look(self.station.player)
            ahead._next()
            QThreadPool.globalInstance().waitForDone(30_000)
            ahead.look(Player(replace(self.project, name="Edited")))
            self.settle()
        self.assertEqual(ahead.waiting(), 0)

    def test_it_asks_again_only_while_there_is_something_to_do(self) -> None:
        ahead = Ahead(self.station, lambda scene: (), lambda: True, lambda: (1.0, 0))
        ahead.look(self.station.player)
        self.assertTrue(ahead._calm.isActive())
        self.assertTrue(ahead._calm.isSingleShot())
        ahead.look(self.station.player)
        self.assertFalse(ahead._turn.isActive())  # until nothing has changed for a while
        ahead._calm.stop()
        with mock.patch.object(ahead.jobs, "start"):
            for left in (2, 1, 0):
                ahead._next()
                self.assertEqual(len(ahead._steps), left)
                self.assertFalse(ahead._turn.isActive())  # until the next picture is shown
                ahead.look(self.station.player)
                self.assertEqual(ahead._turn.isActive(), left > 0)
                if left:
                    self.assertEqual(ahead._turn.interval(), 0)  # right after it is painted
                    self.assertTrue(ahead._turn.isSingleShot())
                ahead._turn.stop()
        ahead.look(Player(replace(self.project, name="Edited")))
        ahead._calm.stop()
        ahead._turn.start(60_000)
        ahead.look(Player(replace(self.project, name="Edited again")))
        self.assertTrue(ahead._calm.isActive())
        self.assertFalse(ahead._turn.isActive())

    def test_early_pictures_are_painted_ahead_while_nothing_moves(self) -> None:
        painted: list[Scene] = []
        resting, keeps = [False], [(200.0, 0)]
        ahead = Ahead(self.station, at_once(painted), lambda: resting[0], lambda: keeps[0])
        project = self.project
        leaving = [compile_route(project, r) for r in project.routes if r.leaves == project.first]
        ahead._compiled(tuple(leaving))
        ahead._next()
        self.assertEqual((painted, ahead.waiting()), ([], len(leaving)))
        resting[0] = True
        for _ in range(len(leaving) + 1):
            ahead._next()
        self.assertEqual([scene.program for scene in painted], leaving)
        self.assertTrue(all(0.0 < scene.at < scene.program.duration for scene in painted if scene.program.duration))
        ahead._compiled(tuple(leaving))
        self.assertEqual(ahead.waiting(), 0)  # they are known
        for other in ((300.0, 0), (200.0, 1)):  # at another size, or after much else was painted
            keeps[0] = other
            ahead._waiting.clear()
            ahead._compiled(tuple(leaving))
            self.assertEqual(ahead.waiting(), len(leaving))
        ahead.look(Player(replace(project, name="Edited")))
        self.assertEqual(ahead.waiting(), 0)

    def test_a_picture_is_painted_ahead_a_little_at_a_turn(self) -> None:
        steps, spent, keeps = list[tuple[Program, int]](), [0.0], [(200.0, 0)]

        def paint(scene: Scene) -> Iterator[None]:
            for k in range(5):
                steps.append((scene.program, k))
                spent[0] += 0.0018
                yield

        ahead = Ahead(self.station, paint, lambda: True, lambda: keeps[0])
        one, other = (compile_still(frame) for frame in self.project.frames[:2])
        ahead._compiled((one, other))
        with mock.patch("avelt.window.rehearse.ahead.perf_counter", side_effect=lambda: spent[0]):
            ahead._turn.stop()
            ahead._next()
            self.assertEqual(steps, [(one, 0), (one, 1), (one, 2)])  # the third took it over its time
            self.assertTrue(ahead._turn.isActive())
            self.assertEqual(ahead.waiting(), 2)
            ahead._next()
            self.assertEqual((steps[3:], ahead.waiting()), ([(one, 3), (one, 4)], 1))
            ahead._next()
            keeps[0] = (300.0, 0)  # in the middle of it
            ahead._next()
            self.assertEqual((steps[5:], ahead.waiting()), ([(other, k) for k in range(5)], 0))
            ahead._compiled((one, other))
            self.assertEqual(ahead.waiting(), 2)  # all of it at one size
            keeps[0] = (200.0, 0)
            ahead._waiting.clear()
            ahead._compiled((one, other))
            self.assertEqual(ahead.waiting(), 0)
            keeps[0] = (300.0, 0)
            ahead._compiled((one,))
            ahead._next()
            ahead.look(Player(replace(self.project, name="Edited")))
            ahead._compiled((other,))
            steps.clear()
            ahead._steps.clear()
            ahead._next()
            self.assertEqual(steps, [(other, 0), (other, 1), (other, 2)])  # of what waits now, from its beginning

    def test_late_pictures_are_counted_and_the_slowest_is_named(self) -> None:
        pace, now = self.station.pace, [perf_counter() + 10.0]
        pace.begin()
        with mock.patch("avelt.window.rehearse.pace.perf_counter", side_effect=lambda: now[0]):
            for gap, what, playing in (
                (0.0, "first", True),
                (16.0, "swell", True),
                (24.9, "swell", True),  # one tick and a half is not late yet
                (26.0, "Bar", True),
                (70.0, "Days: to Weekend", True),
                (40.0, "swell", True),
                (500.0, "held", False),
                (900.0, "held", True),  # it did not run before
                (16.0, "swell", True),
            ):
                now[0] += gap / 1000.0
                pace.tick(playing, what)
            now[0] += 1.0
            pace.tick(False, "")
        self.assertEqual((pace.lates.text(), pace.longest.whole), ("3 of 6", "70 ms: Days: to Weekend"))
        pace.begin()
        pace.show_words()
        self.assertEqual((pace.lates.text(), pace.longest.whole), ("0 of 0", "–"))

    def test_only_what_is_new_in_the_log_is_painted(self) -> None:
        log = self.station.log
        log.resize(260, 400)
        first, other, last = (LogEntry(at, "tap", f"at {at:.0f}") for at in (100.0, 200.0, 300.0))
        log.show_entries([first, other])
        log.show_now(250.0)

        def asked(work: Callable[[], None]) -> list[tuple[int, int]]:
            """The first and the last line of each place that is painted anew."""
            with mock.patch.object(log, "update") as update:
                work()
            places = [call.args or (0, 0, log.width(), log.height()) for call in update.call_args_list]
            self.assertTrue(all((x, wide) == (0, log.width()) for x, _, wide, _ in places))
            return [(max(0, y // 40), min(2, (y + high - 1) // 40)) for _, y, _, high in places]

        def painted(*place: int) -> list[str]:
            words: list[str] = []
            with mock.patch("avelt.window.rehearse.log_view.told", side_effect=lambda e: words.append(e.says) or ""):
                log.render(QImage(260, 400, QImage.Format.Format_ARGB32), QPoint(), QRegion(QRect(*place)))
            return words

        self.assertEqual(asked(lambda: log.show_entries([first, other, last])), [(1, 2)])  # and what ties it to it
        self.assertEqual(asked(lambda: log.show_entries([first, last])), [(0, 2)])
        self.assertEqual(asked(lambda: log.show_entries([first, other, last])), [(0, 2)])
        self.assertEqual(asked(lambda: log.show_now(280.0)), [])
        self.assertEqual(asked(lambda: log.show_now(300.0)), [(2, 2)])
        self.assertEqual(asked(lambda: log.show_now(150.0)), [(1, 1), (2, 2)])
        self.assertEqual(painted(0, 0, 260, 400), ["at 100", "at 200", "at 300"])
        self.assertEqual(painted(0, 40, 260, 40), ["at 200"])
        self.assertEqual(painted(0, 39, 260, 41), ["at 100", "at 200"])
        self.assertEqual(painted(0, 70, 260, 11), ["at 200", "at 300"])
        self.assertEqual(painted(0, 200, 260, 40), [])

    def test_a_line_that_is_there_stays_as_the_log_grows(self) -> None:
        log, seen = self.station.log, list[QRect]()
        entries = [LogEntry(100.0 * k, "tap", f"{k}") for k in range(6)]
        log.show_entries(entries[:5])
        self.settle()
        painted = log.paintEvent
        with mock.patch.object(
            log, "paintEvent", side_effect=lambda e: (seen.append(e.rect()), painted(e)), create=True
        ):
            log.show_entries(entries)
            self.settle()
        self.assertTrue(seen)
        self.assertGreaterEqual(min(place.top() for place in seen), 4 * 40)

    def test_what_is_done_while_it_plays_is_seen_to_go_on_at_once(self) -> None:
        clock, stage = self.station.clock, self.station.stage
        clock.advance(100)
        clock.play()
        with mock.patch.object(clock, "_since", mock.Mock(nsecsElapsed=lambda: 9_000_000)):
            send(stage, QEvent.Type.MouseButtonPress, stage.to_widget().map(QPointF(180, 320)))
            pressed = clock.ms
            send(stage, QEvent.Type.MouseButtonRelease, stage.to_widget().map(QPointF(180, 320)))
        clock.stop()
        self.assertAlmostEqual(stage.scene.at, 9.0)  # of a motion that began at the moment that was seen
        self.assertEqual((self.station.rehearsal.events[-1].at, clock.ms), (pressed, pressed + 9.0))

    def test_the_screen_shows_the_picture_as_it_was_painted(self) -> None:
        stage = self.station.stage
        self.station.clock.stop()
        for size in ((640, 480), (641, 477), (433, 612)):
            stage.setFixedSize(*size)
            self.settle()
            place = stage.place()
            self.assertEqual(place, QRectF(place.toRect()), size)
            shown = stage.grab().toImage().convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)
            made = stage.painter.render(stage.scene, place.width() / stage.scene.size[0])
            self.assertEqual((made.width(), made.height()), (place.width(), place.height()))
            inside = place.toRect().adjusted(12, 12, -12, -12)  # without its border and round corners
            self.assertTrue(shown.copy(inside) == made.copy(inside.translated(-place.topLeft().toPoint())), size)

    def test_what_was_painted_ahead_is_what_is_painted(self) -> None:
        stage = self.station.stage
        route = next(r for r in self.project.routes if r.leaves == self.project.first)
        program = compile_route(self.project, route)
        self.assertIs(compile_route(self.project, route), program)
        for _ in stage.painting_ahead(program.at(16.0)):
            pass
        scale = stage.place().width() / program.at(16.0).size[0]
        for ms in (0.0, 16.0, program.duration / 2):
            fresh = self.workspace.painter().render(program.at(ms), scale)
            self.assertEqual(stage.painter.render(program.at(ms), scale), fresh)

    def test_after_an_edit_it_goes_on_at_the_same_moment(self) -> None:
        strip = self.rehearsed()
        old, now = self.station.player, self.station.clock.ms
        self.window.go("frames")
        detail = find_frame(self.project, "Sailing detail")
        button = find_layer(detail, "Board button")
        self.workspace.do("move", lambda p: set_value(p, detail.id, button.id, "x", 11.0))
        self.window.go("rehearse")
        self.station.clock.stop()
        self.assertIsNot(self.station.player, old)
        self.assertEqual((self.station.player.frame.name, self.station.clock.ms), ("Sailing detail", now))
        scene = self.station.stage.scene
        slot = next(s for s, c in enumerate(scene.program.contents) if c.layer.id == button.id)
        self.assertEqual(scene.scalars[slot, COLUMN["x"]], 11.0)
        self.assertEqual([deed.word for deed in strip.deeds], ["tap"])

    # Tapes

    def test_a_tape_is_kept_named_replayed_and_taken_back(self) -> None:
        self.rehearsed()
        click(self.station.tape.keep)
        name = self.station.tape.name
        self.assertTrue(name.isVisible())
        type_into(name, "Card opens")
        self.assertEqual(self.project.tapes[-1].name, "Card opens")
        self.assertEqual(self.station.tape.tape_name, "Card opens")
        click(self.station.top.again)
        self.station.clock.stop()
        self.assertEqual(self.station.tape.tape_name, "")
        self.pick(self.station.tape.tapes, "Card opens")
        self.station.clock.stop()
        self.assertEqual((self.station.clock.ms, self.station.player.frame.name), (0, "Sailings"))
        self.play(1400)
        self.assertEqual(self.station.player.frame.name, "Sailing detail")
        click(self.station.tape.replay)
        self.station.clock.stop()
        self.assertEqual(self.station.stage.scene.program.left.name, "Sailings")
        for _ in range(2):
            self.window.do("undo")
        self.assertEqual((len(self.project.tapes), self.station.tape.tape_name), (2, ""))

    def test_a_deed_is_done_at_another_time(self) -> None:
        strip = self.rehearsed()
        first = strip.deeds[0]
        y = 11.0
        drag(strip, QPointF(strip.x_of(first.start), y), QPointF(strip.x_of(1900), y))
        self.assertAlmostEqual(strip.deeds[0].start, 1900, delta=12)
        self.station.clock.seek(1500)
        self.assertEqual(self.station.stage.scene.program.left.name, "Sailings")
        self.station.clock.seek(2600)
        self.assertEqual(self.station.stage.scene.program.left.name, "Sailing detail")
        strip.setFocus()
        self.station.clock.seek(strip.deeds[0].start)
        at = strip.deeds[0].start
        QTest.keyClick(strip, Qt.Key.Key_Left, Qt.KeyboardModifier.ShiftModifier)
        self.assertAlmostEqual(strip.deeds[0].start, at - 10)
        self.assertAlmostEqual(self.station.clock.ms, at - 10)

    def test_two_tapes_are_compared_in_step(self) -> None:
        self.rehearsed()
        self.station.keep()
        type_into(self.station.tape.name, "One")
        self.station.start_over()
        self.station.clock.stop()
        self.play(1800)
        self.tap(180, 320)
        self.play(1200)
        self.station.compare("One")
        QThreadPool.globalInstance().waitForDone(60_000)
        self.settle()
        beside = self.station.beside
        self.assertTrue(beside.isVisible())
        self.assertIn("One is in Sailings, the other in Sailing detail", beside.says.text())
        click(beside.there)
        self.assertAlmostEqual(self.station.clock.ms, 900, delta=2)
        self.assertEqual(beside.stage.scene.program.right.name, "Sailing detail")
        self.station.compare("")
        self.assertFalse(beside.isVisible())

    def test_the_same_tape_before_and_after_an_edit(self) -> None:
        self.rehearsed()
        self.assertFalse(self.station.tape.compare_menu().actions()[0].isEnabled())
        route = find_route(self.project, "Sailings > Sailing detail")
        self.workspace.do("slower", lambda p: set_duration(p, route.id, 900))
        self.settle()
        self.station.clock.stop()
        self.assertTrue(self.station.tape.compare_menu().actions()[0].isEnabled())
        self.station.compare(BEFORE)
        QThreadPool.globalInstance().waitForDone(60_000)
        self.settle()
        self.assertIn("They part at 0.9", self.station.beside.says.text())
        self.station.clock.seek(1300)
        self.assertGreater(self.station.beside.stage.scene.program.duration, 0)
        self.assertNotEqual(self.station.beside.stage.scene.program.duration, self.station.stage.scene.program.duration)

    def test_tapes_in_files(self) -> None:
        self.rehearsed()
        path = Path(self.folder.name) / "a.avelt-tape"
        self.station.files.write(path, self.station.rehearsal.tape("A"))
        self.station.start_over()
        self.station.files.read(path, self.station._take_over)
        self.station.clock.stop()
        self.assertEqual([deed.word for deed in self.station.strip.deeds], ["tap"])
        events, player = list(self.station.rehearsal.events), self.station.player
        path.write_text('{"events": [{"at": 5, "do": "press", "x": 1}]}')
        self.station.files.read(path, self.station._take_over)
        self.assertIn("event 1", self.window.said.text())
        self.assertEqual((self.station.rehearsal.events, self.station.player), (events, player))
        gif = Path(self.folder.name) / "a.gif"
        tape = replace(self.station.rehearsal.tape("A"), until=1300.0)
        self.station.files.write_gif(gif, self.project, tape)
        QThreadPool.globalInstance().waitForDone(120_000)
        self.settle()
        self.assertIn("written", self.window.said.text())
        with Image.open(gif) as picture:
            self.assertEqual(picture.size, (360, 640))
            length = 0
            for frame in ImageSequence.Iterator(picture):  # pictures that are alike are one that lasts longer
                length += frame.info["duration"]
        self.assertEqual(length, 1300 + 50 + 600)  # the last picture is one more, and rests

    # The hand

    def put(self, *steps: dict[str, Any]) -> None:
        """Other steps on the demo; the rehearsal begins anew."""
        self.workspace.do("steps", lambda p: applied(p, list(steps), SITE))
        self.settle()
        self.station.clock.stop()
        self.station.start_over()

    def at(self, x: float, y: float) -> QPointF:
        return self.station.stage.to_widget().map(QPointF(x, y))

    LIST = (
        {"do": "frame", "name": "Long", "size": [360, 640]},
        {"do": "draw", "in": "Long", "kind": "box", "name": "Row", "position": [20, 400], "size": [320, 80]},
        {"do": "set", "in": "Long", "content": [360, 1400], "first": True},
        {"do": "route", "from": "Long", "to": "Sailings", "trigger": {"tap": "Row"}, "add": True},
    )

    def test_wheel_keys_and_a_finger_scroll(self) -> None:
        self.put(*self.LIST)
        stage, player = self.station.stage, self.station.player
        turn = QWheelEvent(
            self.at(100, 300),
            stage.mapToGlobal(self.at(100, 300)),
            QPoint(),
            QPoint(0, -120),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(stage, turn)
        self.assertEqual(player.world.actor.scroll, (0, 48))
        self.station.setFocus()
        QTest.keyClick(self.station, Qt.Key.Key_Down)
        self.assertEqual(player.world.actor.scroll, (0, 88))
        QTest.keyClick(self.station, Qt.Key.Key_PageUp)
        self.assertEqual(player.world.actor.scroll, (0, 0))
        click(self.station.top.hands.button(1))
        send(stage, QEvent.Type.MouseMove, self.at(180, 430))
        self.assertEqual(player.world.pointer, None)
        send(stage, QEvent.Type.MouseButtonPress, self.at(180, 430))
        send(stage, QEvent.Type.MouseMove, self.at(180, 330))
        send(stage, QEvent.Type.MouseMove, self.at(180, 310))
        self.assertAlmostEqual(player.world.actor.scroll[1], 120, delta=2)
        send(stage, QEvent.Type.MouseButtonRelease, self.at(180, 310))
        self.assertEqual(player.frame.name, "Long")
        self.tap(180, 320)
        self.assertEqual(player.frame.name, "Sailings")

    def test_a_drag_goes_with_the_mouse_and_is_on_the_tape(self) -> None:
        drag_it = {"drag": "Grey Stack card", "along": "down", "travel": 200, "lag": 60}
        self.put({"do": "route", "from": "Sailings", "to": "Sailing detail", "trigger": drag_it, "add": True})
        stage, player = self.station.stage, self.station.player
        send(stage, QEvent.Type.MouseButtonPress, self.at(180, 320))
        self.station.clock.advance(16)
        send(stage, QEvent.Type.MouseMove, self.at(180, 440))
        self.station.clock.advance(40)
        line = self.station.runs.lines[0]
        self.assertEqual((line.name, line.kind), ("to Sailing detail", "follow"))
        self.assertAlmostEqual(line.wanted, 0.6, delta=0.01)
        self.assertTrue(0.0 < line.share < 0.6)
        self.window.grab()
        send(stage, QEvent.Type.MouseButtonRelease, self.at(180, 440))
        self.play(1000)
        self.assertEqual(player.frame.name, "Sailing detail")
        self.assertEqual(self.station.strip.deeds[0].word, "drag")

    def test_a_touch_that_meets_nothing_shows_what_could_be_touched(self) -> None:
        stage = self.station.stage
        self.assertFalse(stage.outlines)
        self.tap(180, 20)
        self.assertTrue(stage.outlines)
        stage._missed.stop()
        self.tap(180, 320)
        self.assertFalse(stage.outlines)
        click(self.station.top.hot)
        self.assertTrue(stage.outlines)

    def test_the_fingertip_shows_where_it_is_down(self) -> None:
        click(self.station.top.finger)
        before = self.station.stage.grab().toImage()
        send(self.station.stage, QEvent.Type.MouseButtonPress, self.at(180, 60))
        x, y, down = self.station.stage.finger
        self.assertEqual((round(x), round(y), down), (180, 60, True))
        at = self.at(180, 60).toPoint()
        self.assertNotEqual(self.station.stage.grab().toImage().pixel(at), before.pixel(at))

    def test_pictures_step_by_step_and_back(self) -> None:
        self.play(600)
        self.tap(180, 320)
        self.play(100)
        click(self.station.top.on)
        at = self.station.clock.ms
        click(self.station.top.back)
        click(self.station.top.back)
        self.assertAlmostEqual(at - self.station.clock.ms, 2000 / 60, delta=1.0)
        self.assertLess(self.station.stage.scene.at, at - 600)

    def test_sizes(self) -> None:
        sizes, stage = self.station.top.sizes, self.station.stage
        as_designed = stage.place()
        self.pick(sizes, "1:1")
        self.assertEqual(stage.place().width() * stage.devicePixelRatioF(), 360)
        self.put({"do": "frame", "name": "Small", "size": [320, 480]})
        self.station.enter()
        self.station.clock.stop()
        self.pick(sizes, "320 × 480")
        screen = stage.screen_place()
        self.assertAlmostEqual(screen.width() / screen.height(), 320 / 480, delta=0.01)
        self.assertAlmostEqual(stage.place().width(), screen.width(), delta=0.01)
        self.assertGreater(stage.place().height(), screen.height())
        self.assertFalse(stage.grab().isNull())
        self.tap(180, 320)
        self.assertEqual(self.station.player.frame.name, "Sailing detail")
        self.pick(sizes, "As designed")
        self.assertEqual(stage.place(), as_designed)
        click(self.station.top.whole)
        self.settle()
        self.assertFalse(self.station.tape.isVisible())
        self.assertGreater(stage.width(), 1000)

    def test_seed_quieter_and_ready_by_hand(self) -> None:
        self.play(500)
        self.tap(180, 320)
        self.play(200)
        self.station.setup.quieter.click()
        self.assertEqual(self.station.player.frame.name, "Sailing detail")
        self.assertEqual(self.station.clock.ms, 700)
        self.station.setup.quieter.click()
        type_into(self.station.setup.seed, "9")
        self.station.clock.stop()
        self.assertEqual((self.station.rehearsal.start.seed, self.station.player.now), (9, 0))
        type_into(self.station.loading, "5000")
        self.station.clock.stop()
        self.play(300)
        click(self.station.setup.now)
        self.assertIn("loaded", [entry.what for entry in self.station.player.log])

    def test_a_line_leads_to_where_it_is_made(self) -> None:
        self.play(900)
        self.tap(180, 320)
        self.play(200)
        runs = self.station.runs
        click(runs, QPointF(30, 8))
        self.assertEqual((self.window.current, self.workspace.route.id), ("timing", runs.lines[0].leads[1]))
        self.window.go("rehearse")
        self.station.clock.stop()
        self.play(2000)
        place = [line.name for line in runs.lines].index("boat rock")
        runs.setFocus()
        for _ in range(place + 1):
            QTest.keyClick(runs, Qt.Key.Key_Down)
        QTest.keyClick(runs, Qt.Key.Key_Return)
        self.assertEqual(self.window.current, "loops")

    def test_letters_do_what_their_tips_say(self) -> None:
        self.station.setFocus()
        QTest.keyClick(self.station, Qt.Key.Key_H)
        QTest.keyClick(self.station, Qt.Key.Key_F)
        self.assertTrue(self.station.stage.show_hot and self.station.stage.show_finger)
        QTest.keyClick(self.station, Qt.Key.Key_K)
        self.assertEqual(len(self.project.tapes), 3)


if __name__ == "__main__":
    unittest.main()
