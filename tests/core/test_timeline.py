"""The timeline for exporters says the same as the program's table."""

from __future__ import annotations

import unittest
from itertools import pairwise

import numpy as np
from msgspec.structs import replace

from avelt.core.curves import easing
from avelt.core.edits.keyframes import put_keyframe, set_motion_path
from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.model.curves import Handles
from avelt.core.model.motion import CueKey, MotionPath
from avelt.core.model.values import Pose, Project
from avelt.core.running.player import Player
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.loops import distance
from avelt.core.timing.program import Program
from avelt.core.timing.timeline import Animation, LoopAnimation, Timeline, timeline_of
from avelt.demo.build import build_demo
from tests.core.test_running import prototype
from tests.support import box, project_of


def played(animation: Animation | LoopAnimation, shares: np.ndarray) -> np.ndarray:
    """Values (moments, n) of its keyframes at shares of its duration, by the rules of Web Animations."""
    frames = animation.keyframes
    out = np.repeat(np.array(frames[0].values)[None], len(shares), 0)
    for before, after in pairwise(frames):
        inside = (shares >= before.at) & (shares <= after.at) if after.at > before.at else shares >= after.at
        share = (shares[inside] - before.at) / ((after.at - before.at) or 1.0)
        eased = easing.at(after.curve, np.clip(share, 0.0, 1.0))[:, None]
        out[inside] = np.array(before.values) * (1 - eased) + np.array(after.values) * eased
    out[shares >= frames[-1].at] = frames[-1].values
    return out


def table_of(timeline: Timeline, program: Program, times: np.ndarray) -> np.ndarray:
    """The program's table worked out from the timeline alone."""
    out = np.repeat(program.start[None], len(times), 0)
    for entry in timeline.animations:
        since = times - entry.delay
        shares = since / entry.duration if entry.duration > 1e-9 else np.where(since >= 0, 2.0, -1.0)
        out[:, list(entry.places)] = played(entry, shares)
    return out


class SaysTheSame(unittest.TestCase):
    def agrees(self, program: Program, exact: bool | None = None) -> Timeline:
        timeline = timeline_of(program)
        times = np.linspace(-10.0, program.last + 10.0, 173)
        near = table_of(timeline, program, times)
        allowed = np.full(len(program.start), 1e-9)
        for entry in timeline.animations:
            allowed[list(entry.places)] = max(1e-9, entry.error * 1.05 + (0.0 if entry.exact else 0.03))
        self.assertTrue((np.abs(near - program.table(times)) <= allowed).all())
        if exact is not None:
            self.assertEqual(all(entry.exact for entry in timeline.animations), exact)
        return timeline

    def test_every_route_of_the_demo(self) -> None:
        project = build_demo()
        for route in project.routes:
            with self.subTest(route.id):
                self.agrees(compile_route(project, route))

    def test_plain_cues_are_exact_and_touch_every_number_once(self) -> None:
        project = prototype()
        program = compile_route(project, project.routes[0])
        timeline = self.agrees(program, exact=True)
        places = [place for entry in timeline.animations for place in entry.places]
        self.assertEqual(sorted(places), program.touched.tolist())
        self.assertEqual([element.parent for element in timeline.elements], program.parent.tolist())

    def test_keyframes_are_exact_and_a_motion_path_says_its_error(self) -> None:
        project = project_of((box("a", 0, 0, 20, 20),), (box("b", 200, 50, 40, 40, name="a"),))
        route = project.routes[0]
        key = CueKey("a", "b", "opacity")
        project = put_keyframe(project, route.id, key, 0.4, (0.25,))
        timeline = self.agrees(compile_route(project, project.routes[0]), exact=True)
        (opacity,) = [e for e in timeline.animations if e.prop == "opacity"]
        self.assertEqual([(frame.at, frame.values) for frame in opacity.keyframes][1], (0.4, (0.25,)))
        program = compile_route(project, project.routes[0])
        bent = MotionPath(((0.3, 0.0, -80.0), (0.6, 40.0, -80.0)))
        slot = program.slot_of("a", "b")
        project = set_motion_path(project, route.id, CueKey("a", "b", "position"), program, slot, bent)
        timeline = self.agrees(compile_route(project, project.routes[0]), exact=False)
        (position,) = [e for e in timeline.animations if not e.exact]
        self.assertTrue(0.0 < position.error <= 0.05)
        self.assertLess(len(position.keyframes), 60)

    def test_what_an_interruption_carries_is_sampled(self) -> None:
        player = Player(prototype())
        player.tap(5, 5)
        player.advance(40.0)
        player.tap(5, 5)
        self.agrees(player.scene().program)


class Rounds(unittest.TestCase):
    def test_one_round_repeated_is_the_loop(self) -> None:
        project = Project(name="", frames=(replace(prototype().frames[0], loops=()),))
        frame = project.frames[0]
        project, ident = add_loop(project, frame.id, frame.layers[0].id, Pose(shift_y=40.0, opacity=0.5))
        for own in (
            {"direction": "one way", "wait": 90.0, "wait_when": "before each round", "rounds": 3},
            {"direction": "there and back", "wait": 90.0, "wait_when": "once"},
            {"direction": "one way", "at_rest": "hold", "rounds": 2, "start_offset": 130.0},
        ):
            edited = edit_loop(
                project,
                frame.id,
                ident,
                lambda old, own=own: replace(old, duration=400.0, curve=Handles(0.3, 0, 0.2, 1.4), **own),
            )
            loop = edited.frames[0].loops[0]
            (found,) = [e for element in timeline_of(compile_still(edited.frames[0])).elements for e in element.loops]
            times = np.linspace(0.0, 1900.0, 77) + 0.13
            turns = (times - found.delay) / found.duration
            inside = (turns >= 0.0) & (turns < found.iterations)
            far = np.where(turns < 0, 0.0, found.after)
            far[inside] = played(found, turns[inside] % 1.0)[:, 0]
            np.testing.assert_allclose(far, distance(loop, times), atol=1e-9)
            self.assertEqual((found.added, found.ratios, found.begins), ((40.0,), (0.5,), 0.0))


if __name__ == "__main__":
    unittest.main()
