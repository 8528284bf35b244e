"""The scene of one moment is one value while somebody holds it, with all that was worked out for it."""

from __future__ import annotations

import gc
import unittest
from weakref import ref

from msgspec.structs import replace

from avelt.core.arrays import np
from avelt.core.model.curves import Line
from avelt.core.model.find import find_frame
from avelt.core.model.values import Frame, Loop, Pose, Transition
from avelt.core.running.player import Player
from avelt.core.running.scenes import scene_of, without
from avelt.core.running.step import passed
from avelt.core.running.work import Work
from avelt.core.timing.compile import compile_frames, compile_still
from avelt.core.timing.items import items
from avelt.core.timing.program import Program, Scene
from avelt.demo.build import build_demo
from tests.support import box

PLAIN = Transition(100.0, Line())


class OneMoment(unittest.TestCase):
    def program(self, *loops: Loop) -> Program:
        left = Frame("A", "A", 200, 200, layers=(box("card", 0, 0, 20, 20),))
        right = Frame("B", "B", 200, 200, layers=(box("card B", 90, 0, 20, 20, name="card"),))
        return compile_frames(None, replace(left, loops=loops), right, PLAIN)

    def test_the_same_moment_is_the_same_value(self) -> None:
        program = self.program()
        one = program.at(40.0)
        self.assertTrue(program.at(40.0) is one)
        other = program.at(41.0)
        self.assertTrue(other is not one)
        self.assertEqual((one.at, other.at), (40.0, 41.0))
        self.assertEqual(one.scalars[0, 0] + 0.9, other.scalars[0, 0])

    def test_a_clock_that_does_not_run_is_no_other_moment(self) -> None:
        program = self.program(Loop("sways", "sways", "card", "Sways", Pose(shift_y=10.0)))
        self.assertEqual(len(program.clocks.origins), 1)
        one = program.at(40.0)
        self.assertTrue(program.at(40.0) is one)
        (origin,) = program.clocks.origins
        runs = program.while_running(40.0, {origin: 25.0})
        self.assertTrue(runs is not one)
        self.assertTrue(program.while_running(40.0, {origin: 25.0}) is runs)
        self.assertTrue(program.while_running(40.0, {origin: 26.0}) is not runs)

    def test_nobody_holds_it_but_who_asked(self) -> None:
        program = self.program()
        held = ref(program.at(40.0))
        gc.collect()
        self.assertIsNone(held())

    def test_with_another_scene_in_a_slot_it_is_another(self) -> None:
        program, inner = self.program(), self.program()
        one, two = inner.at(10.0), inner.at(20.0)
        first = program.while_running(40.0, {}, {0: one})
        self.assertTrue(program.while_running(40.0, {}, {0: one}) is first)
        for inside in ({0: two}, {1: one}, {0: one, 1: two}, {}):
            self.assertTrue(program.while_running(40.0, {}, inside) is not first, inside.keys())
            first = program.while_running(40.0, {}, {0: one})

    def test_a_motion_with_another_speed_has_its_own(self) -> None:
        program = self.program()
        one = program.at(40.0)
        speed = program.start * 0.0
        speed[0] = 0.1
        faster = program.carrying(speed)
        self.assertTrue(faster.at(40.0) is not one)
        self.assertNotEqual(faster.at(40.0).scalars[0, 0], one.scalars[0, 0])

    def test_its_items_are_made_once(self) -> None:
        scene = self.program().at(40.0)
        self.assertTrue(items(scene)[0] is items(scene)[0])
        self.assertTrue(items(scene)[0] is not items(scene.program.at(41.0))[0])


class PartsInIt(unittest.TestCase):
    def test_what_is_touched_is_what_was_shown(self) -> None:
        player = Player(build_demo())
        player.advance(1500.0)
        there = find_frame(player.project, "All sailings").id
        work = Work(player.rules, player.world)
        work.go(next(r for r in player.rules.routes_of(player.frame) if r.arrives == there))
        world = work.world()

        def shown(ms: float) -> Scene:
            return scene_of(player.rules, passed(world, player.now + ms))

        one = shown(90.0)
        parts = [scene.program for scene in one.inside.values()]
        self.assertGreater(max(map(parts.count, parts)), 2)  # stars: one part, worked out together
        self.assertTrue(shown(90.0) is one)
        inside = dict(one.inside)
        later = shown(106.0)
        self.assertTrue(later is not one)
        self.assertTrue(later.at == one.at + 16.0 and later.inside.keys() == inside.keys())

    def test_so_it_is_where_a_condition_hides_something(self) -> None:
        layers = (box("a", 0, 0, 9, 9, only_if="n"), box("b", 9, 9, 9, 9, only_if="n"))
        scene = compile_still(Frame("A", "A", 50, 50, layers=layers)).at(0.0)
        self.assertTrue(without(scene, []) is scene)
        hidden = without(scene, [1])
        self.assertTrue(without(scene, [1]) is hidden)
        self.assertEqual([item.layer.id for item in items(hidden)], ["a"])
        other = without(scene, [0])
        self.assertEqual([item.layer.id for item in items(other)], ["b"])
        self.assertEqual([item.layer.id for item in items(without(scene, [1]))], ["a"])

    def test_of_parts_worked_out_together_all_must_be_there_still(self) -> None:
        card = Frame("A", "A", 50, 50, layers=(box("card", 0, 0, 20, 20),))
        sways = replace(card, loops=(Loop("sways", "sways", "card", "Sways", Pose(shift_y=10.0)),))
        program = compile_frames(None, sways, sways, Transition(0.0, Line()))
        times = np.array([[0.0, 10.0], [0.0, 20.0]])
        made, _, _ = program.scenes_at(times)
        again = program.last_scenes_at(times.copy())
        self.assertTrue(len(again) == 2 and all(one is other for one, other in zip(made, again, strict=True)))
        self.assertEqual(program.last_scenes_at(times + 1.0), [])
        self.assertEqual(program.last_scenes_at(times[:1]), [])
        del again, made[0]
        gc.collect()
        self.assertEqual(program.last_scenes_at(times), [])


if __name__ == "__main__":
    unittest.main()
