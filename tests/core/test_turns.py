"""Long work lets others go first, at the points where it makes something."""

from __future__ import annotations

import threading
import unittest

from avelt.core.cache import Cache
from avelt.core.formats.project_file import from_json, to_json
from avelt.core.pairing.engine import pair_frames
from avelt.core.timing.compile import compile_frames
from avelt.core.turns import going_after, others_first
from avelt.demo.build import build_demo


class Turns(unittest.TestCase):
    def test_who_works_alone_waits_for_nobody(self) -> None:
        waited: list[int] = []
        others_first()
        with going_after(lambda: waited.append(1)):
            others_first()
            with going_after(lambda: waited.append(2)):
                others_first()
            others_first()
            other = threading.Thread(target=others_first)
            other.start()
            other.join()
            self.assertEqual(waited, [1, 2, 1])
        others_first()
        self.assertEqual(waited, [1, 2, 1])

    def test_it_is_over_also_where_the_work_fails(self) -> None:
        def fails() -> None:
            raise KeyError

        with self.assertRaises(KeyError), going_after(fails):
            others_first()
        others_first()

    def test_what_is_kept_asks_before_it_is_made_and_not_when_it_is_there(self) -> None:
        happened: list[str] = []
        cache: Cache[str] = Cache(4)

        def make() -> str:
            happened.append("made")
            return "x"

        with going_after(lambda: happened.append("asked")):
            for _ in range(3):
                cache.get((self,), 1, make)
        self.assertEqual(happened, ["asked", "made"])

    def test_no_step_of_a_program_is_long(self) -> None:
        """Counted, not timed: of pairing and of laying out, each of the large steps asks."""
        project = from_json(to_json(build_demo()), "demo")  # values that nothing is kept of yet
        left, right = project.frames[:2]
        asked = dict.fromkeys(("pair", "whole"), 0)

        def count(name: str) -> None:
            asked[name] += 1

        with going_after(lambda: count("pair")):
            pair_frames(left, right)
        with going_after(lambda: count("whole")):
            program = compile_frames(project, left, right, project.routes[0].transition)
        self.assertGreater(asked["pair"], 20)
        self.assertGreater(asked["whole"], len(program.contents))
