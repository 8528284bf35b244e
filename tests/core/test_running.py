"""Loops and the player."""

import unittest
from collections.abc import Callable
from typing import Any

import msgspec
import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from avelt.core.edits.frames import next_state
from avelt.core.edits.inputs import add_input
from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.edits.routes import add_route, set_condition, set_delay, set_on_arrival
from avelt.core.errors import AveltError
from avelt.core.model.curves import Line
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.properties import COLUMN
from avelt.core.model.triggers import TRIGGERS, Crosses, Ends, PutAway, SetInput, ShowOver, Signal, Tap, Timer
from avelt.core.model.values import Frame, Loop, Pose, Project, Transition
from avelt.core.running.player import Player
from avelt.core.timing.loops import distance, round_duration, stage, total_length
from avelt.demo.build import build_demo
from tests.support import box, project_of

replace = msgspec.structs.replace


def loop(**own: Any) -> Loop:
    own.setdefault("curve", Line())
    own.setdefault("duration", 100.0)
    return Loop("O", "O", "a", "loop", Pose(shift_x=10), **own)


class Loops(unittest.TestCase):
    def test_there_and_back(self) -> None:
        np.testing.assert_allclose(distance(loop(), [0, 25, 50, 75, 100, 125]), [0, 0.5, 1, 0.5, 0, 0.5])

    def test_wait_once_and_before_each_round(self) -> None:
        once = loop(wait=40.0)
        np.testing.assert_allclose(distance(once, [0, 39, 90, 140, 190]), [0, 0, 1, 0, 1])
        each = loop(wait=40.0, wait_when="before each round")
        np.testing.assert_allclose(distance(each, [20, 90, 140, 160, 230]), [0, 1, 0, 0, 1])
        self.assertEqual((round_duration(once), round_duration(each)), (100, 140))

    def test_rounds_end(self) -> None:
        ended = loop(rounds=2)
        np.testing.assert_allclose(distance(ended, [150, 199, 201, 1e6]), [1, 0.02, 0, 0])
        self.assertEqual(total_length(ended), 200)
        self.assertEqual(total_length(loop()), float("inf"))

    def test_one_way_jumps_or_stays(self) -> None:
        jump = loop(direction="one way", wait=50.0, wait_when="before each round", rounds=2)
        np.testing.assert_allclose(distance(jump, [49, 100, 149, 175, 400]), [0, 0.5, 0.99, 0, 0])
        hold = replace(jump, at_rest="hold")
        np.testing.assert_allclose(distance(hold, [49, 100, 175, 400]), [0, 0.5, 1, 1])

    @settings(deadline=None)
    @given(st.floats(1, 500), st.floats(0, 300), st.integers(0, 4), st.floats(0, 3000), st.booleans())
    def test_there_and_back_never_jumps(self, length: Any, wait: Any, rounds: Any, ms: Any, each: Any) -> None:
        when = "before each round" if each else "once"
        own = loop(duration=length, wait=wait, rounds=rounds, wait_when=when)
        step = length / 1000
        self.assertLess(abs(float(distance(own, ms + step)) - float(distance(own, ms))), 0.01)

    def test_stages_say_what_it_does(self) -> None:
        own = loop(wait=40.0, wait_when="before each round", rounds=2)
        self.assertEqual(
            [stage(own, ms).doing for ms in (10, 50, 120, 150, 300)], ["waits", "there", "back", "waits", "done"]
        )
        self.assertEqual(stage(own, 150).round, 1)
        self.assertAlmostEqual(stage(own, 10).left, 30)


def prototype() -> Project:
    """A (button at 0,0 20x20; backdrop) -> B on tap of the button; B -> A by itself after 500 ms."""
    left = (box("bg", 0, 0, 200, 200, name="Backdrop"), box("btn", 0, 0, 20, 20, "#f00", name="Button"))
    right = (box("bg2", 0, 0, 200, 200, name="Backdrop"), box("btn2", 100, 0, 20, 20, "#f00", name="Button"))
    project = replace(project_of(left, right), routes=())
    project, _ = add_route(project, "A", "B", Tap("btn"), Transition(100.0, Line()))
    project, _ = add_route(project, "B", "A", Timer(500.0), Transition(200.0, Line()))
    return project


def button_x(player: Player) -> float:
    scene = player.scene()
    slot = next(s for s, part in enumerate(scene.program.contents) if part.layer.name == "Button")
    return float(scene.world()[slot][4])


class Playing(unittest.TestCase):
    def test_taps_go_where_routes_say(self) -> None:
        player = Player(prototype())
        self.assertIsNone(player.tap(150, 150))
        self.assertEqual(player.frame.name, "A")
        player.advance(1000)
        self.assertIsNotNone(player.tap(10, 10))
        player.advance(1050)
        self.assertAlmostEqual(button_x(player), 50)
        player.advance(1100)
        self.assertEqual((player.frame.name, player.route), ("B", None))
        self.assertEqual(button_x(player), 100)

    def test_a_press_that_slides_off_is_no_tap(self) -> None:
        player = Player(prototype())
        player.press(10, 10)
        self.assertIsNone(player.release(150, 150))

    def test_every_trigger_plays(self) -> None:
        for kind in TRIGGERS:
            project, level = add_input(replace(prototype(), routes=()), "level", "number")
            project, news = add_input(project, "news", "signal")
            own = {Tap: {"layer": "btn"}, Crosses: {"input": level}, Signal: {"input": news}}.get(kind.make, {})
            made = kind.make(**own)
            project, _ = add_route(project, "A", "B", made, Transition(100.0, Line()))
            if kind.make is Ends:  # it waits for another motion: see Touches
                continue
            player = Player(project)
            player.move(10, 10)
            player.move(project.frames[0].w, 150)
            player.out()
            player.key("Enter")
            player.press(10, 10)
            player.advance(600)
            player.release(10, 10)
            for ms in (700, 800):
                player.advance(ms)
                player.tap(10, 10)
            player.press(10, 10)
            player.move(10, 300)
            player.release(10, 300)
            player.scroll(0, 200)
            player.set_input("level", 2.0)
            player.send("news")
            player.advance(5_000)
            with self.subTest(kind.word):
                self.assertIn("B", [entry.frame for entry in player.log])

    def test_timers_wait_from_the_arrival(self) -> None:
        player = Player(prototype())
        player.tap(10, 10)
        player.advance(599)
        self.assertIsNone(player.route)
        self.assertEqual(player.next_timer()[1], 600)
        player.advance(650)
        self.assertAlmostEqual(button_x(player), 75)
        player.advance(5000)
        self.assertEqual(player.frame.name, "A")
        whats = [(entry.at, entry.what) for entry in player.log]
        self.assertEqual(
            whats,
            [
                (0, "arrives"),
                (0, "tap"),
                (0, "starts"),
                (100, "arrives"),
                (600, "timer"),
                (600, "starts"),
                (800, "arrives"),
            ],
        )

    @settings(deadline=None, max_examples=25)
    @given(
        st.lists(st.tuples(st.integers(0, 400), st.integers(0, 199), st.integers(0, 199)), max_size=8),
        st.integers(1, 7),
    )
    def test_same_events_same_scenes_however_time_is_cut(self, events: Any, cuts: Any) -> None:
        def run(pieces: int) -> Any:
            player, now = Player(prototype()), 0.0
            for gap, x, y in events:
                for k in range(pieces):
                    player.advance(now + gap * k / pieces)
                now += gap
                player.advance(now)
                player.tap(x, y)
            player.advance(now + 37)
            return player

        first, second = run(1), run(cuts)
        self.assertEqual(first.log, second.log)
        np.testing.assert_allclose(first.scene().scalars, second.scene().scalars, atol=1e-9)

    def test_the_innermost_hot_layer_wins_and_anywhere_comes_last(self) -> None:
        project = prototype()
        project, wide = add_route(project, "A", "B", Tap(""), Transition(50.0, Line()))
        self.assertEqual(Player(project).tap(150, 150).id, wide)
        self.assertNotEqual(Player(project).tap(10, 10).id, wide)

    def test_interrupted_it_starts_from_what_is_on_screen_with_its_speed(self) -> None:
        project = prototype()
        project, _ = add_route(project, "B", "A", Tap(""), Transition(100.0, Line()))
        player = Player(project)
        player.tap(10, 10)
        player.advance(60)
        before = button_x(player)
        player.tap(150, 150)
        self.assertAlmostEqual(button_x(player), before, delta=1e-6)
        player.advance(61)
        self.assertAlmostEqual(button_x(player) - before, 1.0, delta=0.05)
        player.advance(2000)
        self.assertEqual(button_x(player), 0)
        self.assertIn("goes back", [entry.what for entry in player.log])

    def test_no_frames_no_play(self) -> None:
        with self.assertRaises(AveltError):
            Player(Project("empty"))


class LoopsInPlay(unittest.TestCase):
    def setUp(self) -> None:
        project = prototype()
        project, ident = add_loop(project, "B", "btn2", Pose(shift_y=40.0))
        project = edit_loop(project, "B", ident, lambda old: replace(old, duration=400.0, curve=Line()))
        self.project = project

    def y(self, player: Player) -> float:
        scene = player.scene()
        slot = next(s for s, part in enumerate(scene.program.contents) if part.layer.name == "Button")
        return float(scene.scalars[slot, COLUMN["y"]])

    def test_a_loop_starts_on_arrival_and_fades_when_left(self) -> None:
        player = Player(self.project)
        player.tap(10, 10)
        player.advance(99)
        self.assertEqual(self.y(player), 0)
        player.advance(300)
        self.assertAlmostEqual(self.y(player), 40)
        self.assertEqual(player.running()[0].stage.doing, "back")
        last = self.y(player)
        for ms in np.arange(300, 900, 4.0):
            player.advance(ms)
            self.assertLess(abs(self.y(player) - last), 1.6)
            last = self.y(player)
        self.assertEqual(last, 0)

    def test_a_copied_frames_loop_runs_on(self) -> None:
        project = next_state(self.project, "B")
        copy = project.frames[2]
        project = replace(project, routes=project.routes[:1])
        project, _ = add_route(project, "B", copy.id, Timer(0.0), Transition(100.0, Line()))
        player = Player(project)
        player.tap(10, 10)
        for ms in (150, 200, 250, 350):
            player.advance(ms)
            wanted = 40 * float(distance(project.frames[1].loops[0], ms - 100))
            self.assertAlmostEqual(self.y(player), wanted, delta=1e-6)

    def test_the_demo_can_be_rehearsed(self) -> None:
        project = build_demo()
        player = Player(project)
        player.advance(3000)
        self.assertEqual(player.frame.name, "Delay notice")
        fine = find_layer(find_frame(project, "Delay notice"), "Fine button")
        self.assertIn(fine.id, player.hot_areas())
        self.assertIs(player.inputs["told"], True)
        self.assertIsNotNone(player.tap(180, 340 + 244))
        player.advance(9000)
        self.assertEqual(player.frame.name, "Sailings")
        self.assertIsNotNone(player.tap(180, 320))
        player.advance(10_000)
        self.assertEqual({entry.loop.name for entry in player.running()}, {"boat rock", "swell", "seat blink"})
        player.tap(40, 56)
        player.advance(11_000)
        self.assertEqual(player.frame.name, "Sailings")
        self.assertEqual([e.what for e in player.log if e.what == "timer"], ["timer"])


class Over(unittest.TestCase):
    """Frames over others, conditions, waits and inputs as the player has them."""

    def setUp(self) -> None:
        sheet = Frame("S", "Sheet", 200, 80, "#ff0000", layers=(box("ok", 10, 10, 50, 50),))
        project = project_of((box("a", 0, 0, 50, 50), box("stay", 100, 0, 50, 50)), (box("b", 0, 0, 50, 50),))
        project = replace(project, frames=(*project.frames, sheet), routes=())
        project, _ = add_route(project, "A", "S", Tap("a"), Transition(100.0, Line()), ShowOver("bottom", scrim=""))
        self.project, _ = add_route(project, "S", "A", Tap("ok"), Transition(100.0, Line()), PutAway())

    def test_put_away_with_nothing_beneath_goes_to_the_frame_itself(self) -> None:
        player = Player(replace(self.project, first="S"))
        player.tap(20, 20)
        player.advance(300)
        self.assertEqual(player.frame.id, "A")
        self.assertEqual({part.layer.id for part in player.scene().program.contents}, {"a", "stay"})

    def test_what_lies_beneath_is_still_there(self) -> None:
        player = Player(self.project)
        player.tap(10, 10)
        player.advance(150)
        scene = player.scene()
        names = {part.layer.id for part in scene.program.contents}
        self.assertLessEqual({"a", "stay", "ok"}, names)
        self.assertEqual(player.frame.id, "S")
        self.assertIsNone(player.tap(150, 140))
        self.assertIsNotNone(player.tap(20, 140))
        player.advance(300)
        self.assertEqual((player.frame.id, player.scene().program.left), ("A", self.project.frames[0]))

    def test_a_press_outside_or_escape_closes_it_as_it_came(self) -> None:
        closes: list[Callable[[Player], object]] = [lambda p: p.press(10, 10), lambda p: p.key("Escape")]
        for close in closes:
            player = Player(replace(self.project, routes=self.project.routes[:1]))
            player.tap(10, 10)
            player.advance(150)
            close(player)
            self.assertEqual((player.log[-2].what, player.log[-2].says), ("closes", "Sheet"))
            player.advance(200)
            self.assertAlmostEqual(player.under_way(), 0.5)
            player.advance(300)
            self.assertEqual((player.frame.id, player.world.actor.beneath), ("A", ()))

    def test_what_shall_not_close_by_a_press_outside_stays(self) -> None:
        first = self.project.routes[0]
        stays = replace(first, action=replace(first.action, outside_closes=False))
        player = Player(replace(self.project, routes=(stays, *self.project.routes[1:])))
        player.tap(10, 10)
        player.advance(150)
        player.tap(10, 10)
        player.key("Escape")
        player.advance(500)
        self.assertEqual(player.frame.id, "S")

    def test_turning_round_half_way_keeps_what_lies_beneath(self) -> None:
        player = Player(self.project)
        player.tap(10, 10)
        player.advance(50)
        self.assertIsNotNone(player.tap(20, 140))
        self.assertIn("stay", {part.layer.id for part in player.scene().program.contents})
        player.advance(500)
        self.assertEqual(player.frame.id, "A")

    def test_a_condition_decides(self) -> None:
        project, ident = add_input(self.project, "calm")
        project = set_condition(project, project.routes[0].id, "calm")
        self.assertIsNone(Player(project).tap(10, 10))
        project, _ = add_route(project, "A", "A", Tap("stay"), action=SetInput(ident, True))
        player = Player(project)
        player.tap(110, 10)
        self.assertEqual((player.inputs, player.frame.id), ({"calm": True}, "A"))
        self.assertIsNotNone(player.tap(10, 10))

    def test_a_wait_passes_before_anything_moves(self) -> None:
        project = set_delay(self.project, self.project.routes[0].id, 80.0)
        player = Player(project)
        player.tap(10, 10)
        player.advance(79)
        self.assertTrue(player.scene().program.is_absent(len(player.scene().program.contents) - 1, player.scene().at))
        player.advance(181)
        self.assertIsNone(player.under_way())

    def test_loops_start_over_when_the_route_says_so(self) -> None:
        project, _ = add_loop(self.project, "B", "b", Pose(shift_y=40.0))
        project = next_state(project, "B")
        other = project.frames[2]
        for parts, since in (("continue", 0.0), ("restart", 400.0)):
            made, route = add_route(project, "B", other.id, Timer(200.0), Transition(200.0, Line()))
            player = Player(replace(set_on_arrival(made, route, parts), first="B"))
            player.advance(500)
            self.assertEqual([running.since for running in player.running()], [since])
