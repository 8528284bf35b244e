"""Loops of many uses, worked out together: the same as one after the other."""

from __future__ import annotations

import random
import unittest
from typing import Any

import numpy as np
from msgspec.structs import replace

from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.model.curves import Handles, Line, Spring, Steps
from avelt.core.model.values import Pose
from avelt.core.timing.compile import compile_still
from avelt.core.timing.loops_together import LoopsTogether
from avelt.core.timing.program import Program
from tests.support import box, project_of

CURVES = (Line(), Handles(0.2, -0.4, 0.1, 1.3), Handles(0.9, 0.0, 0.1, 1.0), Spring(0.3), Steps(3))


def looping(dice: random.Random, count: int) -> Program:
    """A frame in which layers loop, each with settings of its own; some twice."""
    layers = [box(f"l{k}", 10.0 * k, 5.0, 8.0, 8.0, "#205080", name=f"L{k}") for k in range(count)]
    project = project_of(tuple(layers), ())
    frame = project.frames[0]
    for k in range(count):
        for _ in range(1 + (dice.random() < 0.2)):
            pose = Pose(dice.uniform(-9, 9), 4.0, dice.uniform(-90, 90), 0.7, 1.5, dice.uniform(0.0, 1.5))
            project, ident = add_loop(project, frame.id, f"l{k}", pose)
            changes: dict[str, Any] = {
                "duration": dice.choice((0.0, 300.0, 730.0, 1111.0)),
                "wait": dice.choice((0.0, 120.0, 900.0)),
                "wait_when": dice.choice(("once", "before each round")),
                "rounds": dice.choice((0, 0, 2)),
                "start_offset": dice.choice((0.0, 55.0, 400.0)),
                "direction": dice.choice(("one way", "there and back")),
                "at_rest": dice.choice(("jump", "hold")),
                "jitter": dice.choice((0.0, 0.0, 0.5)),
                "curve": dice.choice(CURVES),
            }
            project = edit_loop(project, frame.id, ident, lambda loop, changes=changes: replace(loop, **changes))
    return compile_still(project.frames[0], project)


class Together(unittest.TestCase):
    def test_they_say_what_they_say_one_by_one(self) -> None:
        dice, together = random.Random(5), 0
        for _ in range(40):
            program = looping(dice, dice.randint(1, 6))
            times = np.array(
                [[0.0, *(dice.uniform(-200.0, 6000.0) for _ in program.clocks.origins)] for _ in range(70)]
            )
            times[dice.randrange(70), 1:] = np.nan
            many = program.numbers(times)
            for row, vector in zip(times, many, strict=True):
                np.testing.assert_allclose(vector, program.numbers(row), rtol=0, atol=1e-9)
            together += len(LoopsTogether(program.tracks).tracks)
        self.assertGreater(together, 40)

    def test_only_those_that_are_alone_in_their_places_are_added_together(self) -> None:
        dice = random.Random(5)
        for _ in range(20):
            program = looping(dice, 5)
            found = LoopsTogether(program.tracks)
            places = np.concatenate([np.zeros(0), *(track.written for track in found.tracks)])
            self.assertEqual(len(places), len(set(places.tolist())))
            for track in program.loops:
                if track not in found.tracks and not track.loop.jitter and track.loop.duration > 0.0:
                    others = [other for other in program.loops if other is not track]
                    self.assertTrue(any(set(track.written.tolist()) & set(o.written.tolist()) for o in others))


if __name__ == "__main__":
    unittest.main()
