"""Loops: keyframes of a round, paths, jitter, copies in step, seams, common periods, second poses edited like layers."""

import math
import random
import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace

from avelt.core.edits.layers import set_value
from avelt.core.edits.loops import add_loop, along_layer, close_seam, copy_loop, edit_loop, shift_phase
from avelt.core.edits.project import new_project
from avelt.core.edits.second_pose import in_pose, pose_stage, second_layer
from avelt.core.edits.structure import fit_groups
from avelt.core.errors import AveltError, EditError
from avelt.core.formats.checked import check
from avelt.core.formats.project_file import from_json, to_json
from avelt.core.model.curves import Hold, Line, Steps
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.values import LayerChanges, Loop, Pose, RoundKey, Solid, Stroke
from avelt.core.running.player import Player
from avelt.core.steps.read import applied
from avelt.core.timing.compile import compile_still
from avelt.core.timing.loops import chance, distance, round_duration
from avelt.core.timing.rounds import common_period, in_step, seam
from avelt.core.timing.sampling import records_of
from tests.core.test_steps import SITE

PLAIN = Loop("o", "o", "l", "loop", Pose(shift_x=10.0), 1000.0, curve=Line())
STEPS: list[dict[str, Any]] = [
    {"do": "frame", "name": "a", "size": [200, 200]},
    {"do": "draw", "in": "a", "kind": "box", "name": "One", "position": [10, 10], "size": [20, 20], "fill": "red"},
    {"do": "draw", "in": "a", "kind": "box", "name": "Two", "position": [50, 10], "size": [40, 20], "fill": "red"},
    {"do": "draw", "in": "a", "kind": "path", "name": "Wave", "d": "M0 100 C20 90 40 90 60 100", "stroke": "blue"},
]


def made(*more: dict[str, Any]) -> Any:
    project = applied(new_project("Loops"), [*STEPS, *more], SITE)
    check(project)
    return project


def place(project: Any, name: str, ms: float) -> tuple[float, float, float]:
    records = records_of(compile_still(find_frame(project, "a"), project).from_start(ms))
    found = next(record for record in records if record["name"] == name)
    return found["x"], found["y"], found["turn"]


class Distance(unittest.TestCase):
    def far(self, loop: Loop, *moments: float) -> list[float]:
        return [round(float(v), 6) for v in distance(loop, list(moments))]

    def test_keyframes_with_holds(self) -> None:
        loop = replace(PLAIN, keyframes=(RoundKey(0.2, 1.0), RoundKey(0.6, 1.0), RoundKey(1.0, 0.25)))
        self.assertEqual(self.far(loop, 0, 100, 200, 400, 600, 800, 999.999999), [0, 0.5, 1, 1, 1, 0.625, 0.25])
        self.assertEqual(self.far(loop, 1000, 1100), [0, 0.5])
        waits = replace(loop, wait=500.0, wait_when="before each round")
        self.assertEqual(self.far(waits, 250, 600, 1500, 1600), [0, 0.5, 0, 0])
        holds = replace(waits, at_rest="hold")
        self.assertEqual(self.far(holds, 250, 1500, 1750), [0, 0.25, 0.25])
        ends = replace(loop, rounds=2)
        self.assertEqual(self.far(ends, 1999, 2000, 9000)[1:], [0, 0])
        self.assertEqual(self.far(replace(ends, at_rest="hold"), 2000, 9000), [0.25, 0.25])

    def test_a_keyframe_at_the_start_and_one_reached_at_once(self) -> None:
        loop = replace(
            PLAIN, keyframes=(RoundKey(0.0, 0.5), RoundKey(0.5, 0.5), RoundKey(0.5, 1.0), RoundKey(1.0, 0.0))
        )
        self.assertEqual(self.far(loop, 0, 499, 500, 750), [0.5, 0.5, 1.0, 0.5])

    def test_jitter_keeps_rounds_in_step(self) -> None:
        loop = replace(PLAIN, wait=1000.0, wait_when="before each round", jitter=0.5, seed=3)
        whole = round_duration(loop)
        begins = []
        for number in range(40):
            moments = np.arange(whole) + number * whole
            moves = np.flatnonzero(distance(loop, moments) > 1e-6)
            begins.append(float(moves[0]))
            self.assertLess(moves[-1], whole)
        self.assertGreaterEqual(min(begins), 500.0)
        self.assertLessEqual(max(begins), 1001.0)
        self.assertGreater(max(begins) - min(begins), 200.0)
        self.assertEqual(self.far(loop, 36_000_000.0 + 777.0), self.far(loop, 36_000_000.0 + 777.0))
        self.assertNotEqual(chance(1, np.arange(5.0)).tolist(), chance(2, np.arange(5.0)).tolist())

    def test_chance_is_even(self) -> None:
        found = chance(9, np.arange(20_000.0))
        self.assertTrue(((found >= 0) & (found < 1)).all())
        self.assertAlmostEqual(float(found.mean()), 0.5, 2)
        self.assertAlmostEqual(float(found.std()), math.sqrt(1 / 12), 2)

    @given(st.floats(1, 5000), st.floats(0, 5000), st.floats(0, 1e5))
    def test_after_ten_hours_it_is_where_it_was(self, duration: float, wait: float, ms: float) -> None:
        loop = replace(PLAIN, duration=duration, wait=wait, wait_when="before each round")
        whole = round_duration(loop)
        later = round(36_000_000.0 / whole) * whole
        away = abs(float(distance(loop, ms)) - float(distance(loop, ms + later))) * 0.5
        self.assertLess(min(away, abs(1.0 - away)), 1e-6 * max(1.0, 4 * whole / duration))


class OnAFrame(unittest.TestCase):
    def test_a_path_and_turning_along_it(self) -> None:
        path = {"do": "loop", "in": "a", "layer": "One", "name": "round", "d": "M0 0 C0 0 40 0 40 0", "rotate": False,
                "length": 1000, "both_ways": False, "curve": "linear"}  # fmt: skip
        project = made(path)
        self.assertEqual(find_frame(project, "a").loops[0].path, ((0.0, 0.0), (40.0, 0.0), (40.0, 0.0)))
        self.assertEqual([round(place(project, "One", ms)[0], 3) for ms in (0, 500, 999.9999)], [10.0, 30.0, 50.0])
        self.assertEqual(place(project, "One", 500)[2], 0.0)
        circle = {
            **path,
            "d": "M0 0 C0 22 18 40 40 40 C62 40 80 22 80 0 C80 -22 62 -40 40 -40 C18 -40 0 -22 0 0",
            "rotate": True,
        }
        project = made(circle)
        self.assertAlmostEqual(place(project, "One", 500)[2] % 360.0, 180.0, 0)
        self.assertEqual(from_json(to_json(project), "x"), project)

    def test_along_a_layer_of_the_frame_from_inside_a_group(self) -> None:
        loop = {"do": "loop", "in": "a", "layer": "One", "name": "rides", "length": 1000}
        project = made({"do": "group", "in": "a", "layers": ["One", "Two"], "name": "Pair"},
                       {"do": "set", "in": "a", "layer": "Pair", "scale": 2}, loop)  # fmt: skip
        frame = find_frame(project, "a")
        wave = find_layer(frame, "Wave")
        project = along_layer(project, frame.id, frame.loops[0].id, wave.id)
        path = find_frame(project, "a").loops[0].path
        self.assertEqual(path[-1], (30.0, 0.0))  # 60 px of the frame are 30 in a group twice as large
        self.assertEqual(find_frame(along_layer(project, frame.id, frame.loops[0].id, ""), "a").loops[0].path, ())
        with self.assertRaises(EditError):
            along_layer(project, frame.id, frame.loops[0].id, find_layer(frame, "Two").id)

    def test_a_muted_loop_rests(self) -> None:
        loop = {"do": "loop", "in": "a", "layer": "One", "pose": {"position": [9, 0]}, "length": 800}
        self.assertNotEqual(place(made(loop), "One", 300)[0], 10.0)
        self.assertEqual(place(made({**loop, "muted": True}), "One", 300)[0], 10.0)

    def test_another_outline_from_another_place(self) -> None:
        d = "M0 110 C20 120 40 120 60 110"
        loop = {
            "do": "loop",
            "in": "a",
            "layer": "Wave",
            "name": "sways",
            "pose": {"d": d},
            "length": 1000,
            "curve": "linear",
        }
        project = made(loop)
        there = find_layer(find_frame(made({"do": "set", "in": "a", "layer": "Wave", "d": d}), "a"), "Wave")
        x, y, _ = place(project, "Wave", 500)
        self.assertAlmostEqual(x, there.x, 6)
        self.assertAlmostEqual(y, there.y, 6)

    def test_copies_are_in_step(self) -> None:
        loop = {
            "do": "loop",
            "in": "a",
            "layer": "One",
            "name": "One swells",
            "pose": {"size": [30, 40]},
            "length": 600,
        }
        project = made(loop, {"do": "copy loop", "in": "a", "loop": "One swells", "layers": ["Two"], "step": 200})
        first, second = find_frame(project, "a").loops
        self.assertEqual((second.name, second.start_offset), ("Two swells", -200.0))
        self.assertEqual((second.changes.w, second.changes.h), (60.0, 40.0))  # its share of the layer's own size
        self.assertEqual(float(distance(first, 450.0)), float(distance(second, 650.0)))
        with self.assertRaises(EditError):
            copy_loop(project, find_frame(project, "a").id, first.id, [first.layer])

    def test_what_cannot_be_is_refused(self) -> None:
        for own, says in (
            ({"keyframes": [{"at": 2, "far": 1}]}, "0 to 1"),
            ({"keyframes": [{"at": 0.2}]}, "far"),
            ({"d": "nonsense"}, "draw nothing"),
            ({"pose": {"d": "M0 0 L1 1"}}, "no path"),
        ):
            with self.assertRaises(AveltError) as caught:
                made({"do": "loop", "in": "a", "layer": "One", **own})
            self.assertIn(says, str(caught.exception))

    def test_numbers_are_kept_in_their_limits(self) -> None:
        project = made()
        frame = find_frame(project, "a")
        project, ident = add_loop(project, frame.id, frame.layers[0].id)
        project = edit_loop(
            project, frame.id, ident,
            lambda o: replace(o, duration=0.0, wait=-5.0, jitter=7.0, rounds=-3, keyframes=(RoundKey(0.9, 1), RoundKey(0.1, 0))),
        )  # fmt: skip
        loop = find_frame(project, "a").loops[0]
        self.assertEqual((loop.duration, loop.wait, loop.jitter, loop.rounds), (1.0, 0.0, 1.0, 0))
        self.assertEqual([key.at for key in loop.keyframes], [0.1, 0.9])
        long = replace(loop, duration=1.0, rounds=10**9, wait=3_600_000.0, wait_when="before each round")
        self.assertEqual(float(distance(long, 5.0)), 0.0)


class Until(unittest.TestCase):
    def seen(self, loop: dict[str, Any], told: list[tuple[float, bool]], moments: list[float]) -> list[float]:
        steps = {"do": "loop", "in": "a", "layer": "One", "name": "moves", "pose": {"position": [100, 0]}, "length": 1000,
                 "curve": "linear", "until": "done", **loop}  # fmt: skip
        player = Player(made({"do": "input", "name": "done"}, steps))
        found = []
        for ms in moments:
            while told and told[0][0] <= ms:
                at, value = told.pop(0)
                player.advance(at)
                player.set_input("done", value)
            player.advance(ms)
            found.append(round(records_of(player.scene())[0]["x"] - 10.0, 3))
        return found

    def test_the_round_is_finished_and_it_rests(self) -> None:
        told = [(1200.0, True)]
        self.assertEqual(self.seen({}, told, [250, 1250, 1750, 2000, 2250, 9000]), [50, 50, 50, 0, 0, 0])

    def test_it_begins_anew_when_the_condition_ends(self) -> None:
        told = [(1200.0, True), (3100.0, False)]
        self.assertEqual(self.seen({}, told, [2500, 3100, 3350]), [0, 0, 50])
        told = [(1200.0, True), (1300.0, False)]  # before its round was over: it goes on
        self.assertEqual(self.seen({}, told, [2250]), [50])

    def test_what_holds_stays_at_its_end(self) -> None:
        one_way = {"both_ways": False, "at_rest": "hold"}
        self.assertEqual(self.seen(one_way, [(1200.0, True)], [1500, 2000, 7000]), [50, 100, 100])

    def test_it_does_not_begin_while_the_condition_holds(self) -> None:
        steps = {"do": "loop", "in": "a", "layer": "One", "pose": {"position": [9, 0]}, "length": 800, "until": "done"}
        player = Player(made({"do": "input", "name": "done", "start": True}, steps))
        player.advance(300)
        self.assertEqual(records_of(player.scene())[0]["x"], 10.0)
        self.assertEqual(player.running(), [])
        with self.assertRaises(AveltError):
            made({**steps, "until": "done >"})


class Together(unittest.TestCase):
    def loops(self, *rounds: float) -> list[Loop]:
        return [replace(PLAIN, id=str(k), duration=ms) for k, ms in enumerate(rounds)]

    def test_one_round_of_all(self) -> None:
        self.assertEqual(common_period(self.loops(2200, 2500)).ms, 55_000)
        self.assertEqual(common_period(self.loops(1200, 800, 600)).ms, 2400)
        self.assertEqual(common_period([]).ms, 0)
        none = common_period(self.loops(2201, 2503))
        self.assertEqual(none.ms, 0)
        self.assertLessEqual(none.nearest, 60_000)
        mended = [in_step(loop, one) for loop, one in zip(self.loops(2201, 2503), none.rounds, strict=True)]
        for loop, old in zip(mended, (2201, 2503), strict=True):
            self.assertLess(abs(round_duration(loop) / old - 1), 0.03)
            self.assertAlmostEqual(none.nearest / round_duration(loop), round(none.nearest / round_duration(loop)), 9)

    def test_brought_in_step_they_come_round_together(self) -> None:
        chance = random.Random(5)
        for _ in range(200):
            loops = self.loops(*(chance.randrange(200, 9000) for _ in range(chance.randrange(2, 5))))
            before = common_period(loops)
            if not before.ms and before.nearest <= 60_000:
                made = [in_step(loop, one) for loop, one in zip(loops, before.rounds, strict=True)]
                after = common_period(made)
                self.assertTrue(after.ms and before.nearest % after.ms == 0, (before, after))
                for loop in made:
                    self.assertAlmostEqual(round_duration(loop), round(round_duration(loop)), 9)

    def test_in_step_keeps_the_shares_of_a_round(self) -> None:
        loop = replace(PLAIN, duration=300.0, wait=700.0, wait_when="before each round")
        made = in_step(loop, 2000.0)
        self.assertEqual((made.duration, made.wait), (600.0, 1400.0))
        self.assertEqual(in_step(replace(loop, wait_when="once"), 600.0).wait, 700.0)

    def test_a_later_phase_stays_inside_the_round(self) -> None:
        self.assertEqual(shift_phase(PLAIN, 300.0).start_offset, 700.0)
        self.assertEqual(shift_phase(shift_phase(PLAIN, 300.0), 900.0).start_offset, 800.0)
        self.assertEqual(shift_phase(replace(PLAIN, rounds=2), 300.0).start_offset, -300.0)
        self.assertAlmostEqual(float(distance(shift_phase(PLAIN, 300.0), 500.0)), float(distance(PLAIN, 200.0)))

    def test_seams(self) -> None:
        layer = find_layer(find_frame(made(), "a"), "One")
        one_way = replace(PLAIN, direction="one way", offset=Pose(3.0, 4.0, 8.0, 1.5, 1.5, 0.5))
        self.assertEqual(seam(layer, one_way), ("position by 5 px", "rotation by 8°", "scale by 50%", "opacity by 50%"))
        self.assertEqual(seam(layer, replace(PLAIN, offset=one_way.offset)), ())
        self.assertEqual(seam(layer, replace(one_way, offset=Pose(rotation=720.0))), ())
        for changes in (LayerChanges(rotation_x=360.0), LayerChanges(rotation_y=-720.0)):
            self.assertEqual(seam(layer, replace(one_way, offset=Pose(), changes=changes)), ())
        self.assertEqual(
            seam(layer, replace(one_way, offset=Pose(), changes=LayerChanges(rotation_x=90.0))), ("rotation x",)
        )
        pulse = replace(one_way, offset=Pose(scale_x=2.0, scale_y=2.0, opacity=0.0))
        self.assertEqual(seam(layer, pulse), ())  # nothing is seen of it at its end
        grows, fades = (replace(pulse, offset=Pose(scale_x=2.0)), replace(pulse, id="f", offset=Pose(opacity=0.0)))
        self.assertTrue(seam(layer, grows))
        self.assertEqual(seam(layer, grows, None, (fades,)), ())
        self.assertTrue(seam(layer, grows, None, (replace(fades, duration=fades.duration * 2),)))
        self.assertEqual(seam(layer, replace(one_way, curve=Steps(4))), ())
        self.assertEqual(seam(layer, replace(one_way, curve=Hold(0.5))), ())
        held = (RoundKey(0.5, 0.5, Hold(1.0)), RoundKey(1.0, 1.0, Steps(2)))
        self.assertEqual(seam(layer, replace(one_way, keyframes=held)), ())
        self.assertTrue(seam(layer, replace(one_way, keyframes=(*held[:1], RoundKey(1.0, 1.0)))))
        self.assertEqual(seam(layer, replace(one_way, rounds=1)), ())
        keyed = replace(PLAIN, keyframes=(RoundKey(0.5, 1.0), RoundKey(1.0, 0.5)))
        self.assertEqual(seam(layer, keyed), ("position by 5 px",))
        ring = Stroke(Solid("red"), trim_end=0.25)
        drawn = replace(one_way, offset=Pose(), changes=LayerChanges(stroke=replace(ring, trim_offset=1.0)))
        self.assertEqual(seam(layer, drawn), ())  # once round its outline is where it was
        self.assertEqual(
            seam(layer, replace(drawn, changes=LayerChanges(stroke=replace(ring, trim_offset=0.5)))), ("stroke",)
        )
        for loop in (one_way, keyed, replace(one_way, path=((1.0, 1.0), (2.0, 2.0), (9.0, 9.0)), offset=Pose())):
            self.assertTrue(seam(layer, loop))
            self.assertEqual(seam(layer, close_seam(loop)), ())
        self.assertEqual(close_seam(replace(keyed, keyframes=(RoundKey(0.5, 1.0),))).keyframes[-1], RoundKey(1.0, 0.0))


class SecondPose(unittest.TestCase):
    def setUp(self) -> None:
        loop = {
            "do": "loop",
            "in": "a",
            "layer": "One",
            "name": "swells",
            "pose": {"position": [5, 0], "opacity": 0.5},
            "length": 600,
        }
        self.project = made(loop)
        self.frame = find_frame(self.project, "a")
        self.loop = self.frame.loops[0]

    def edited(self, name: str, value: object, layer: str = "One") -> Any:
        ident = find_layer(self.frame, layer).id
        edit = in_pose(
            self.project, self.frame.id, self.loop.id, lambda p: set_value(p, self.frame.id, ident, name, value)
        )
        return find_frame(edit, "a")

    def test_it_is_a_stage_of_one_frame(self) -> None:
        stage = pose_stage(self.project, self.frame.id, self.loop.id)
        layer = find_layer(stage.frames[0], "One")
        self.assertEqual((layer.x, layer.opacity), (15.0, 0.5))
        self.assertEqual((len(stage.frames), stage.frames[0].loops, stage.routes), (1, (), ()))

    def test_every_property_comes_back_as_the_loop(self) -> None:
        for name, value in (("x", 40.0), ("opacity", 0.25), ("rotation", 30.0), ("scale_x", 2.0), ("fill", "#00ff00"),
                            ("corner", "4"), ("blur", 3.0), ("w", 44.0), ("skew", 9.0), ("shadow", "1px 2px 3px black"),
                            ("stroke", "#112233"), ("rotation_x", 12.0)):  # fmt: skip
            with self.subTest(name=name):
                frame = self.edited(name, value)
                wanted = set_value(pose_stage(self.project, self.frame.id, self.loop.id), self.frame.id,
                                   find_layer(self.frame, "One").id, name, value)  # fmt: skip
                self.assertEqual(frame.layers, self.frame.layers)  # the layer itself stays
                self.assertEqual(
                    second_layer(find_layer(frame, "One"), frame.loops[0]), find_layer(wanted.frames[0], "One")
                )

    def test_a_layer_in_a_group_that_is_fitted_anew(self) -> None:
        steps = {"do": "group", "in": "a", "layers": ["One", "Two"], "name": "Pair"}
        loop = {"do": "loop", "in": "a", "layer": "One", "name": "swells", "pose": {"rotation": 5}, "length": 600}
        project = made(steps, loop)
        frame = find_frame(project, "a")
        one = find_layer(frame, "One")

        def edit(stage: Any) -> Any:  # as a drag on the board does it: the group grows to the left
            moved = set_value(stage, frame.id, one.id, "x", one.x - 30.0)
            return fit_groups(moved, frame.id, [one.id])

        loop_after = find_frame(in_pose(project, frame.id, frame.loops[0].id, edit), "a").loops[0]
        self.assertEqual((loop_after.offset.shift_x, loop_after.offset.rotation), (-30.0, 5.0))

    def test_on_a_path_its_end_is_moved(self) -> None:
        frame = self.frame
        path = ((1.0, 0.0), (2.0, 0.0), (30.0, 0.0))
        project = edit_loop(self.project, frame.id, self.loop.id, lambda o: replace(o, path=path))
        ident = find_layer(frame, "One").id

        def after(name: str, value: object) -> Loop:
            edit = in_pose(project, frame.id, self.loop.id, lambda p: set_value(p, frame.id, ident, name, value))
            return find_frame(edit, "a").loops[0]

        self.assertEqual(after("x", 50.0).path, (*path[:-1], (40.0, 0.0)))
        self.assertEqual((after("blur", 2.0).path, after("blur", 2.0).offset.shift_x), (path, 5.0))

    def test_nothing_else_is_changed_there(self) -> None:
        with self.assertRaises(EditError) as caught:
            self.edited("fill", "#00ff00", "Two")
        self.assertIn("second pose of One", str(caught.exception))
        self.assertIs(in_pose(self.project, self.frame.id, self.loop.id, lambda p: p), self.project)


if __name__ == "__main__":
    unittest.main()
