"""Several cues edited at once."""

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st

from avelt.core.edits.cues import curve_cues, inherit_cues, shift_cues, time_cues, times_of
from avelt.core.edits.routes import set_cue
from avelt.core.model.curves import Line, Spring
from avelt.core.model.motion import CueKey
from avelt.core.model.values import Transition
from tests.support import box, project_of

KEYS = tuple(CueKey(f"a{k}", f"b{k}", "") for k in range(3))


def cued(*times: Any) -> Any:
    left = tuple(box(f"a{k}", 10 * k, 0, 9, 9, name=str(k)) for k in range(3))
    right = tuple(box(f"b{k}", 10 * k, 50, 9, 9, name=str(k)) for k in range(3))
    project = project_of(left, right, Transition(1000.0, Line()))
    for key, (start, end) in zip(KEYS, times, strict=False):
        project = set_cue(project, "R", key, start=float(start), end=float(end))
    return project


class Together(unittest.TestCase):
    def test_what_is_inherited_counts_as_it_is(self) -> None:
        self.assertEqual(times_of(cued((10, 20)), "R", KEYS[:2]), {KEYS[0]: (10, 20), KEYS[1]: (0, 1000)})

    @given(
        st.lists(st.tuples(st.integers(0, 900), st.integers(0, 400)), min_size=3, max_size=3),
        st.integers(-1200, 1200),
        st.integers(-1200, 1200),
    )
    def test_none_begins_before_nothing_or_ends_before_it_begins(self, found: Any, by_start: Any, by_end: Any) -> None:
        project = cued(*((start, start + length) for start, length in found))
        base = times_of(project, "R", KEYS)
        for start, end in times_of(shift_cues(project, "R", base, by_start, by_end), "R", KEYS).values():
            self.assertGreaterEqual(start, 0.0)
            self.assertGreaterEqual(end, start)

    @given(
        st.lists(st.tuples(st.integers(0, 900), st.integers(0, 400)), min_size=3, max_size=3), st.integers(-1200, 1200)
    )
    def test_moving_keeps_lengths_and_a_drag_back_brings_all_back(self, found: Any, by: Any) -> None:
        project = cued(*((start, start + length) for start, length in found))
        base = times_of(project, "R", KEYS)
        moved = shift_cues(project, "R", base, by, by)
        for key, (start, end) in times_of(moved, "R", KEYS).items():
            self.assertEqual(end - start, base[key][1] - base[key][0])
        self.assertEqual(times_of(shift_cues(moved, "R", base, 0.0, 0.0), "R", KEYS), base)

    def test_one_time_one_curve_and_all_inherited_again(self) -> None:
        project = time_cues(cued(), "R", KEYS, 100.0, 300.0)
        project = curve_cues(project, "R", KEYS[1:], Spring(0.3))
        cues = {cue.key: cue for cue in project.routes[0].transition.cues}
        self.assertEqual({(cue.start, cue.end) for cue in cues.values()}, {(100.0, 300.0)})
        self.assertEqual([cues[key].curve for key in KEYS], [None, Spring(0.3), Spring(0.3)])
        self.assertEqual(inherit_cues(project, "R", KEYS).routes[0].transition.cues, ())
        self.assertEqual(
            times_of(time_cues(project, "R", KEYS[:1], 500.0, 200.0), "R", KEYS[:1]), {KEYS[0]: (500, 500)}
        )
