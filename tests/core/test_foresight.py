"""What could begin now is worked out before: the player takes that very program when it does."""

from __future__ import annotations

import random
import unittest
from unittest import mock

from msgspec.structs import replace

from avelt.core.arrays import np
from avelt.core.geometry import affine
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.properties import COLUMN
from avelt.core.model.triggers import STAYS, Drag, Loading, Tap, Timer
from avelt.core.model.values import Frame, Project, Route
from avelt.core.running import work
from avelt.core.running.foresight import motions_from, motions_inside, pairs_on_the_way
from avelt.core.running.hits import slots_at
from avelt.core.running.player import Player
from avelt.core.running.world import UnderWay
from avelt.core.timing import compile as compiling
from avelt.core.timing.program import Program
from avelt.demo.build import build_demo


class Foresight(unittest.TestCase):
    project: Project

    @classmethod
    def setUpClass(cls) -> None:
        cls.project = build_demo()

    def at_rest(self, frame: str, project: Project | None = None) -> Player:
        """A player that stands in a frame of the demo (or of a project); nothing leaves it by itself."""
        project = project or self.project
        stays = tuple(r for r in project.routes if not isinstance(r.trigger, Timer | Loading))
        player = Player(replace(project, routes=stays), first=find_frame(project, frame).id)
        while player.under_way() is not None:
            player.advance(player.now + 50.0)
        return player

    def test_what_a_touch_starts_in_a_part_is_there_before_it(self) -> None:
        player = self.at_rest("All sailings")
        for _ in motions_inside(player.rules, player.world):
            pass
        begun: list[Program] = []
        for child in player.world.children.values():
            inner = player.rules.of(child)
            for route in inner.routes_of(child.world.actor.frame):
                if isinstance(route.action, STAYS):
                    continue
                made = work.Work(inner, child.world)
                with mock.patch.object(compiling, "compile_frames", side_effect=AssertionError):
                    made.go(route)
                assert made.motion is not None
                begun.append(made.motion.program)
        self.assertGreater(len(begun), 9)
        self.assertEqual(list(motions_inside(player.rules, replace(player.world, children={}))), [])

    def test_what_moves_in_a_part_moves(self) -> None:
        player = self.at_rest("All sailings")
        self.assertFalse(player.moves)
        origin, child = next(iter(player.world.children.items()))
        inner = player.rules.of(child)
        route = next(r for r in inner.project.routes if not isinstance(r.action, STAYS))
        made = work.Work(inner, child.world)
        made.go(route)
        there = replace(child, world=made.world())
        player.world = replace(player.world, children={**player.world.children, origin: there})
        self.assertIsNone(player.under_way())
        self.assertTrue(player.moves)

    def foreseen(self, player: Player) -> list[Program]:
        return list(motions_from(player.rules, player.world))

    def program(self, player: Player) -> Program:
        motion = player.world.actor.motion
        assert motion is not None
        return motion.program

    def place(self, player: Player, layer: str) -> tuple[float, float]:
        scene = player.scene()
        slot = next(s for s, part in enumerate(scene.program.contents) if part.layer.id == layer)
        w, h = scene.scalars[slot, COLUMN["w"]], scene.scalars[slot, COLUMN["h"]]
        for share in range(400):  # what lies over it is not everywhere
            x, y = affine.apply(scene.world()[slot], [w * (share % 20) / 20, h * (share // 20) / 20]).tolist()
            if slot in slots_at(scene, x, y):
                return x, y
        raise AssertionError(f"{layer} cannot be met")

    def routes(self, player: Player) -> list[Route]:
        return [r for r in player.rules.routes_of(player.frame) if not isinstance(r.action, STAYS)]

    def tap_to(self, player: Player, frame: str) -> tuple[int, str]:
        """The number of the route that a tap starts and that goes to a frame, and what is tapped."""
        wanted = find_frame(self.project, frame).id
        for k, route in enumerate(self.routes(player)):
            if isinstance(route.trigger, Tap) and route.arrives == wanted:
                return k, route.trigger.layer
        raise AssertionError(f"no tap leads to {frame}")

    def test_a_tap_starts_what_was_foreseen(self) -> None:
        tapped = 0
        for frame in self.project.frames:
            for k, route in enumerate(self.routes(self.at_rest(frame.name))):
                if not isinstance(route.trigger, Tap):
                    continue
                player = self.at_rest(frame.name)
                programs = self.foreseen(player)
                player.tap(*self.place(player, route.trigger.layer))
                self.assertIs(self.program(player), programs[k], (frame.name, k))
                tapped += 1
        self.assertGreater(tapped, 8)

    def test_a_drag_begins_what_was_foreseen(self) -> None:
        player = self.at_rest("Which deck")
        (dragged,) = (k for k, r in enumerate(self.routes(player)) if isinstance(r.trigger, Drag))
        programs = self.foreseen(player)
        self.assertEqual(len(programs), len(self.routes(player)))
        knob = find_layer(player.frame, "Knob")
        x, y = self.place(player, knob.id)
        player.press(x, y)
        player.move(x + 20, y - 20)
        self.assertIs(self.program(player), programs[dragged])

    def test_a_scrolled_frame_is_left_as_it_is_seen(self) -> None:
        player = self.at_rest("All sailings")
        back, layer = self.tap_to(player, "Sailings")
        at_top = self.foreseen(player)[back]
        player.scroll(0.0, 60.0)
        scrolled = self.foreseen(player)[back]
        player.tap(*self.place(player, layer))
        self.assertIs(self.program(player), scrolled)
        self.assertIsNot(scrolled, at_top)

    def test_what_follows_a_value_there_is_where_that_says(self) -> None:
        for over in (0.0, 1.0):  # the note hides as long as nothing is over the seat
            player = self.at_rest("Sailings")
            player.set_input("over-seat", over)
            seats, layer = self.tap_to(player, "Seat deck")
            programs = self.foreseen(player)
            self.assertEqual(programs[seats].right is find_frame(self.project, "Seat deck"), over == 1.0)
            player.tap(*self.place(player, layer))
            self.assertIs(self.program(player), programs[seats])

    def test_the_entrance_of_what_is_arrived_at_is_there_too(self) -> None:
        player = self.at_rest("Sailing detail")
        _, layer = self.tap_to(player, "Boarding pass")
        self.foreseen(player)
        with mock.patch.object(compiling, "compile_frames", wraps=compiling.compile_frames) as compiled:
            player.tap(*self.place(player, layer))
            while player.under_way() is not None:
                player.advance(player.now + 50.0)
        self.assertIn("entrance", [entry.what for entry in player.log])
        self.assertFalse([call for call in compiled.call_args_list if call.args[1] is not call.args[2]])

    def test_pairs_are_found_of_what_may_break_off_something(self) -> None:
        player = self.at_rest("Sailings")
        route = self.routes(player)[0]
        away = next(r for r in player.project.routes if r.leaves == route.arrives and isinstance(r.trigger, Tap))

        def found(*off: Route) -> int:
            routes = tuple(replace(r, only_if="boarded") if r in off else r for r in player.project.routes)
            other = self.at_rest("Sailings", replace(player.project, routes=routes))
            return len(list(pairs_on_the_way(other.rules, other.world)))

        there = len(list(self.routes(self.at_rest(next(f.name for f in self.project.frames if f.id == route.arrives)))))
        self.assertGreater(there, 1)
        self.assertGreater(found(), found(away))
        self.assertGreater(found(away), found(route))
        self.assertGreater(found(route), 0)
        self.assertIsNone(player.under_way())

    def test_only_what_may_start_is_worked_out(self) -> None:
        player = self.at_rest("Sailings")
        route = self.routes(player)[0]
        off = replace(player.project, routes=(replace(route, only_if="boarded"), *player.project.routes[1:]))
        self.assertEqual(player.project.routes[0], route)
        other = Player(off)
        before = self.foreseen(other)
        other.set_input("boarded", True)
        self.assertEqual(len(self.foreseen(other)), len(before) + 1)

    def test_a_finger_that_goes_up_starts_what_was_foreseen(self) -> None:
        player = self.at_rest("Sailings")
        _, layer = self.tap_to(player, "Sailing detail")
        there = self.place(player, layer)
        self.assertIsNone(player.foreseen())  # nothing is pressed
        player.move(*there)
        self.assertIsNone(player.foreseen())
        player.press(*there)
        world, log, marks = player.world, list(player.log), player.marks
        then = player.foreseen()
        assert then is not None
        self.assertEqual((player.world is world, player.log, player.marks), (True, log, marks))
        self.assertEqual(then.frame.name, "Sailing detail")
        player.advance(player.now)  # it is the same moment
        player.release(*there)
        self.assertIs(self.program(player), self.program(then))
        self.assertEqual([entry.what for entry in then.log], [entry.what for entry in player.log[len(log) :]])

    def test_in_the_middle_of_a_motion_too(self) -> None:
        def under_way() -> Player:
            player = self.at_rest("Sailings")
            player.tap(*self.place(player, self.tap_to(player, "Sailing detail")[1]))
            player.advance(player.now + 300.0)
            player.press(30.0, 50.0)  # back
            return player

        for late, aside, known in ((0.0, 0.0, True), (1.0, 0.0, False), (0.0, 0.5, True)):
            player, plain = under_way(), under_way()
            then = player.foreseen()
            assert then is not None
            self.assertIsNot(self.program(then), self.program(player))
            for one in (player, plain):
                one.advance(one.now + late)
                x, y = one.world.pressed_spot
                if aside:
                    one.move(x + aside, y)  # a hand is never quite still
                one.release(x + aside, y)
                work._turned.clear()  # the other one works it out by itself
                one.advance(one.now + 40.0)
            self.assertEqual(self.program(player) is self.program(then), known)
            self.assertEqual(player.log, plain.log)
            self.assertEqual(player.scene().vector.tobytes(), plain.scene().vector.tobytes())

    def test_what_takes_over_is_another_one_where_anything_else_is(self) -> None:
        player = self.at_rest("Sailings")
        player.tap(*self.place(player, self.tap_to(player, "Sailing detail")[1]))
        player.advance(player.now + 300.0)
        motion = player.world.actor.motion
        assert motion is not None
        home, other = find_frame(self.project, "Sailings"), find_frame(self.project, "Delay notice")

        def turned(route: Route = motion.route, shown: Frame = home) -> Program:
            return work.Work(player.rules, player.world).turned(route, shown, motion)

        plain = turned()
        self.assertIs(turned(), plain)
        longer = replace(motion.route, transition=replace(motion.route.transition, duration=999.0))
        self.assertEqual(turned(longer).duration, 999.0)
        self.assertIs(turned(shown=other).drawn[0], other)
        with mock.patch.object(UnderWay, "rate", return_value=3.0):
            faster = turned()
        self.assertGreater(np.abs(faster.at(1.0).vector - plain.at(1.0).vector).max(), 0.1)
        earlier = motion.program.at(100.0)
        with mock.patch.object(work, "scene_of", return_value=earlier):
            self.assertFalse(np.array_equal(turned().start, plain.start))

    def test_what_is_played_is_the_same_with_it_to_the_bit(self) -> None:
        for seed in range(6):
            plain, seen = (self.played(seed, foresight) for foresight in (False, True))
            self.assertTrue(plain == seen, seed)

    def played(self, seed: int, foresight: bool) -> list[object]:
        """What is on screen after each of some touches, and the log."""
        for kept in (compiling._pairings, compiling._stills, compiling._between, work._standing, work._turned):
            kept.clear()
        chance, player = random.Random(seed), Player(self.project)
        found: list[object] = []
        for _ in range(12):
            player.advance(player.now + chance.choice((5.0, 150.0, 900.0)) * chance.random())
            if foresight:
                self.foreseen(player)
                list(pairs_on_the_way(player.rules, player.world))
            x, y = chance.uniform(0, 360), chance.uniform(0, 640)
            if chance.random() < 0.7:
                player.press(x, y)
                player.advance(player.now + chance.choice((0.0, 30.0)))
                if foresight:
                    player.foreseen()
                player.advance(player.now + chance.choice((0.0, 0.0, 30.0)))
                player.release(x, y)
            else:
                player.scroll(0.0, chance.uniform(-50, 200))
            found.append(player.scene().vector.tobytes())
        player.advance(player.now + 2000.0)
        return [*found, player.scene().vector.tobytes(), player.log]

    def test_nothing_of_the_stage_is_changed(self) -> None:
        player = self.at_rest("Sailings")
        world, log = player.world, list(player.log)
        self.foreseen(player)
        self.assertIs(player.world, world)
        self.assertEqual((player.log, player.under_way()), (log, None))
