"""The player's world as a value: moments kept, chains cut, speeds kept; and loops where no player is."""

from __future__ import annotations

import unittest
from typing import Any

import msgspec
import numpy as np

from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.edits.routes import add_route
from avelt.core.model.curves import Line
from avelt.core.model.properties import COLUMN
from avelt.core.model.triggers import Timer
from avelt.core.model.values import Frame, Pose, Project, Transition
from avelt.core.running import step as steps
from avelt.core.running.due import due
from avelt.core.running.player import Player
from avelt.core.running.rules import Rules
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.loops import distance
from avelt.core.timing.program import Scene
from avelt.core.timing.sampling import sample
from avelt.demo.build import build_demo
from tests.core.test_running import prototype
from tests.core.test_tapes import tape
from tests.support import box, group, project_of, tapped

replace = msgspec.structs.replace


def value(scene: Scene, name: str, layer: str) -> float:
    slot = next(s for s, part in enumerate(scene.program.contents) if part.layer.name == layer)
    return float(scene.scalars[slot, COLUMN[name]])


class Chains(unittest.TestCase):
    def chased(self, delay: float = 0.0) -> Project:
        """Two frames whose timers of 0 ms start at each other, in no time; a tap beside on B."""
        project = replace(project_of((box("a", 0, 0, 50, 50),), (box("b", 0, 0, 50, 50),)), routes=())
        project, _ = add_route(project, "A", "B", Timer(delay), Transition(0.0, Line()))
        project, _ = add_route(project, "B", "A", Timer(delay), Transition(0.0, Line()))
        return project

    def test_an_endless_chain_is_cut_and_said(self) -> None:
        player = Player(self.chased())
        player.advance(50.0)
        self.assertEqual(player.now, 50.0)
        self.assertEqual([entry.what for entry in player.log].count("stopped"), 1)
        self.assertIn("1,000 times", player.log[-1].says)
        self.assertEqual(player.log[-1].at, 0.0)
        count = len(player.log)
        player.advance(10_000.0)
        self.assertEqual(len(player.log), count)

    def test_a_touch_lets_it_go_on_and_it_is_cut_again(self) -> None:
        player = Player(self.chased())
        player.advance(50.0)
        player.tap(10, 10)
        player.advance(60.0)
        self.assertEqual([entry.at for entry in player.log if entry.what == "stopped"], [0.0, 50.0])

    def test_a_long_chain_that_takes_time_is_no_endless_one(self) -> None:
        player = Player(self.chased(1.0))
        player.advance(1_500.0)
        self.assertNotIn("stopped", {entry.what for entry in player.log})
        self.assertGreater([entry.what for entry in player.log].count("timer"), 1_000)


class Moments(unittest.TestCase):
    def played(self) -> Player:
        player = Player(build_demo())
        for at, x, y in tape(4):
            player.advance(at)
            player.tap(x, y)
        player.advance(player.now + 300.0)
        return player

    def test_any_moment_is_as_it_was(self) -> None:
        kept: list[tuple[float, Any, int]] = []
        player = Player(build_demo())
        for at, x, y in tape(4):
            player.advance(at - 0.001)
            kept.append((player.now, player.scene().scalars.copy(), len(player.log)))
            player.advance(at)
            player.tap(x, y)
        log = list(player.log)
        for at, scalars, count in kept:
            then = player.moment(at)
            np.testing.assert_allclose(then.scene().scalars, scalars, atol=1e-9)
            self.assertEqual(then.log, log[:count])
        self.assertEqual(player.log, log)

    def test_what_is_gone_back_over_can_be_lived_again(self) -> None:
        player, again = self.played(), self.played()
        half = player.now / 2
        again.rewind(half)
        self.assertEqual(again.now, half)
        self.assertTrue(all(entry.at <= half for entry in again.log))
        for at, x, y in tape(4):
            if at > half:
                again.advance(at)
                again.tap(x, y)
        again.advance(player.now)
        self.assertEqual(again.log, player.log)
        np.testing.assert_allclose(again.scene().scalars, player.scene().scalars, atol=1e-9)

    def test_before_the_start_is_the_start_and_later_is_now(self) -> None:
        player = self.played()
        self.assertEqual(player.moment(-5.0).frame.name, Player(build_demo()).frame.name)
        self.assertEqual(player.moment(player.now + 99.0).now, player.now)

    def test_a_step_leaves_the_world_it_began_with(self) -> None:
        rules = Rules(prototype())
        first, _ = steps.begin(rules)
        pressed, _ = steps.press(rules, first, 10, 10)
        started, log, route = steps.release(rules, pressed, 10, 10)
        self.assertIsNotNone(route)
        self.assertEqual([entry.what for entry in log], ["tap", "starts"])
        self.assertIsNone(first.actor.motion)
        self.assertIsNone(first.pressed)
        found = due(rules, started)
        assert found is not None
        self.assertEqual((found.at, found.kind), (100.0, "motion"))
        after, _ = steps.step(rules, started, found)
        self.assertEqual(after.actor.frame.id, "B")
        self.assertEqual(started.actor.still, first.actor.still)


class Interrupted(unittest.TestCase):
    def sized(self, away: float) -> Player:
        """A to B makes the box wide in 100 ms; B to A narrow again, in ``away`` ms."""
        left = (box("a", 0, 0, 20, 20, name="Box"),)
        right = (box("b", 0, 0, 120, 20, name="Box", origin="a", opacity=0.5),)
        return Player(tapped(project_of(left, right).frames, ("A", "B", 100.0), ("B", "A", away)))

    def test_a_size_keeps_its_speed(self) -> None:
        player = self.sized(400.0)
        player.tap(5, 5)
        player.advance(50.0)
        self.assertAlmostEqual(value(player.scene(), "w", "Box"), 70.0)
        player.tap(5, 5)
        player.advance(51.0)
        self.assertAlmostEqual(value(player.scene(), "w", "Box"), 71.0, delta=0.05)
        player.advance(1_000.0)
        self.assertEqual(value(player.scene(), "w", "Box"), 20.0)

    def test_what_moves_in_a_group_keeps_its_speed(self) -> None:
        left = (group("g", 0, 0, (box("a", 0, 0, 20, 20, name="Box"), box("c", 180, 0, 20, 20)), "Group"),)
        right = (group("h", 0, 0, (box("b", 80, 0, 20, 20, name="Box"), box("d", 180, 0, 20, 20)), "Group"),)
        player = Player(tapped(project_of(left, right).frames, ("A", "B", 100.0), ("B", "A", 400.0)))
        player.tap(5, 5)
        player.advance(50.0)
        self.assertAlmostEqual(value(player.scene(), "x", "Box"), 40.0)
        player.tap(5, 5)
        player.advance(51.0)
        self.assertAlmostEqual(value(player.scene(), "x", "Box"), 40.8, delta=0.05)

    def test_speed_carries_nothing_beyond_what_there_is(self) -> None:
        def standing(ident: str, w: float, opacity: float) -> Frame:
            return Frame(
                ident, ident, 200, 200, layers=(box(ident, 0, 0, w, 20, name="Box", origin="a", opacity=opacity),)
            )

        frames = standing("A", 200.0, 0.2), standing("B", 1.0, 1.0), standing("C", 1.0, 1.0)
        player = Player(tapped(frames, ("A", "B", 40.0), ("B", "C", 900.0)))
        player.tap(5, 5)
        player.advance(38.0)
        player.tap(100, 100)
        widths, opacities = [], []
        for ms in range(39, 600, 2):
            player.advance(float(ms))
            widths.append(value(player.scene(), "w", "Box"))
            opacities.append(value(player.scene(), "opacity", "Box"))
        self.assertEqual((min(widths), max(opacities)), (0.0, 1.0))


class LoopsInFiles(unittest.TestCase):
    """Where there is no player, loops begin with the route, or with the frame that stands."""

    def setUp(self) -> None:
        project = replace(prototype(), routes=prototype().routes[:1])
        for frame, layer in (("A", "btn"), ("B", "bg2")):
            project, ident = add_loop(project, frame, layer, Pose(shift_y=40.0))
            project = edit_loop(project, frame, ident, lambda old: replace(old, duration=400.0, curve=Line()))
        self.project = project
        self.program = compile_route(project, project.routes[0])

    def y(self, ms: float, layer: str = "Button") -> float:
        return value(self.program.from_start(ms), "y", layer)

    def test_what_is_left_fades_out_with_the_route(self) -> None:
        loop = self.project.frames[0].loops[0]
        for ms, stays in ((0.0, 1.0), (50.0, 0.5), (100.0, 0.0)):
            self.assertAlmostEqual(self.y(ms), 40.0 * float(distance(loop, ms)) * stays)
        self.assertGreater(self.y(50.0), 1.0)

    def test_what_is_arrived_at_begins_at_the_arrival(self) -> None:
        self.assertEqual(self.y(99.0, "Backdrop"), 0.0)
        self.assertAlmostEqual(self.y(100.0 + 50.0, "Backdrop"), 10.0)

    def test_what_both_have_runs_on(self) -> None:
        first, second = self.project.frames
        shared = replace(first.loops[0], layer="btn2")
        project = replace(self.project, frames=(first, replace(second, loops=(shared,))))
        program = compile_route(project, project.routes[0])
        for ms in (40.0, 100.0, 160.0):
            here = value(program.from_start(ms), "y", "Button")
            self.assertAlmostEqual(here, 40.0 * float(distance(shared, ms)))

    def test_a_frame_that_stands_moves_by_its_loops(self) -> None:
        still = compile_still(self.project.frames[0])
        self.assertAlmostEqual(value(still.from_start(100.0), "y", "Button"), 20.0)
        self.assertFalse(still.from_start(0.0).looping)
        self.assertFalse(compile_still(build_demo().frames[0]).from_start(100.0).looping)

    def test_samples_show_it(self) -> None:
        records = {record["name"]: record for record in sample(self.program, 50.0)}
        self.assertAlmostEqual(records["Button"]["y"], self.y(50.0))

    def test_a_loop_of_no_length_rests(self) -> None:
        first = self.project.frames[0]
        dead = replace(first.loops[0], duration=0.0)
        project = replace(self.project, frames=(replace(first, loops=(dead,)), self.project.frames[1]))
        scene = compile_route(project, project.routes[0]).from_start(50.0)
        self.assertEqual(value(scene, "y", "Button"), 0.0)


if __name__ == "__main__":
    unittest.main()
