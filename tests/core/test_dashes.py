"""Dashes that become others, on strokes of any pair."""

import unittest
from math import lcm
from typing import Any

import msgspec
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.blending.dashes import alike
from avelt.core.edits.routes import set_cue
from avelt.core.model.curves import Line
from avelt.core.model.motion import CueKey
from avelt.core.model.values import Solid, Stroke, Transition
from avelt.core.timing.compile import compile_route
from avelt.core.timing.items import items
from avelt.core.timing.snapshot import snapshot
from avelt.window.timing.rows import moving_properties
from tests.support import box, project_of

LISTS = st.lists(st.floats(0.5, 20.0), max_size=6).map(tuple)


def dashed(ident: str, dashes: Any, width: float = 2.0) -> Any:
    made = box(ident, 10, 10, 80, 40, "#ffffff", name="Line")
    return msgspec.structs.replace(made, stroke=Stroke(Solid("#112233"), width, dashes=dashes))


def program_of(first: Any, second: Any) -> Any:
    project = project_of((dashed("a", first),), (dashed("b", second),), Transition(100.0, Line()))
    return project, compile_route(project, project.routes[0])


def shown(program: Any, ms: float) -> Any:
    return items(program.at(ms))[0].pen.dashes


class Alike(unittest.TestCase):
    @given(LISTS, LISTS)
    def test_both_get_one_even_length_and_say_what_they_said(self, first: Any, second: Any) -> None:
        found = alike(first, second)
        if first == second:
            self.assertIsNone(found)
            return
        if found is None:
            self.assertGreater(lcm(2 * len(first) or 1, 2 * len(second) or 1), 20)
            return
        one, two = found
        self.assertEqual((len(one), len(one) % 2), (len(two), 0))
        for made, given_ in ((one, first), (two, second)):
            for k, value in enumerate(made):
                if given_:
                    self.assertEqual(value, given_[k % len(given_)])
                elif k % 2:
                    self.assertEqual(value, 0.0)  # a whole line has gaps of nothing

    def test_css_repeats_to_the_least_common_multiple(self) -> None:
        self.assertEqual(alike((5.0, 10.0), (1.0, 2.0, 3.0, 4.0)), ((5.0, 10.0) * 2, (1.0, 2.0, 3.0, 4.0)))


class OnTheWay(unittest.TestCase):
    def test_half_way_they_are_half_way(self) -> None:
        _, program = program_of((4.0, 2.0), (8.0, 6.0))
        self.assertEqual(shown(program, 50.0), (6.0, 4.0))

    def test_at_both_ends_they_are_as_the_strokes_have_them(self) -> None:
        for first, second in (((4.0, 2.0), (9.0,)), ((), (4.0, 2.0)), ((3.0,), ())):
            _, program = program_of(first, second)
            self.assertEqual((shown(program, 0.0), shown(program, 100.0)), (first, second))

    def test_a_line_breaks_up(self) -> None:
        _, program = program_of((), (4.0, 4.0))
        self.assertEqual(shown(program, 25.0), (7.0, 1.0))
        self.assertEqual(shown(program, 75.0), (5.0, 3.0))

    def test_they_go_by_the_cue_of_the_stroke_and_are_listed_there(self) -> None:
        project, program = program_of((4.0, 2.0), (8.0, 6.0))
        self.assertEqual(moving_properties(program), {0: ("stroke",)})
        self.assertFalse(program.stands.still[0])
        made = set_cue(project, project.routes[0].id, CueKey("a", "b", "stroke"), start=50.0, end=100.0)
        program = compile_route(made, made.routes[0])
        self.assertEqual((shown(program, 50.0), shown(program, 75.0)), ((4.0, 2.0), (6.0, 4.0)))

    def test_an_interrupted_motion_keeps_them(self) -> None:
        project, program = program_of((4.0, 2.0), (8.0, 6.0))
        self.assertEqual(snapshot(program.at(50.0), project.frames[1]).layers[0].stroke.dashes, (6.0, 4.0))

    def test_the_same_dashes_cost_nothing(self) -> None:
        _, program = program_of((4.0, 2.0), (4.0, 2.0))
        self.assertIsNone(program.contents[0].dashes)


if __name__ == "__main__":
    unittest.main()
