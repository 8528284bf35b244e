"""Moving a cue keeps its duration, and a layer without a partner stays where it was drawn."""

from __future__ import annotations

import unittest

from msgspec.structs import replace

from avelt.core.arrays import np
from avelt.core.edits.cues import place_cue, retime_cues, shift_cues, time_cues, times_of
from avelt.core.edits.routes import set_absent, set_cue
from avelt.core.edits.ties_and_staggers import chain, make_stagger, tie
from avelt.core.errors import EditError
from avelt.core.model.motion import CueKey, Stagger
from avelt.core.model.values import Away, Oval, Project
from avelt.core.timing.compile import compile_route
from avelt.core.timing.schedule import plan_of
from tests.support import box, group, project_of

KEYS = tuple(CueKey(n, f"{n}2", "") for n in "abc")


def three(*times: tuple[float, float]) -> Project:
    """Three pairs that move, each with times of its own."""
    left = tuple(box(n, 0, 20.0 * k, 10, 10) for k, n in enumerate("abc"))
    right = tuple(box(f"{n}2", 100, 20.0 * k, 10, 10, origin=n) for k, n in enumerate("abc"))
    project = project_of(left, right)
    for key, (start, end) in zip(KEYS, times, strict=True):
        project = set_cue(project, "R", key, start=start, end=end)
    return project


def times(project: Project) -> list[tuple[float, float]]:
    plan = plan_of(project, project.routes[0].transition)
    return [plan.of(key) for key in KEYS]


class Staggered(unittest.TestCase):
    def setUp(self) -> None:
        project, _ = make_stagger(three((0, 320), (0, 320), (0, 320)), "R", KEYS, Stagger("", (), ms=60.0))
        self.project = project
        self.assertEqual(times(project), [(0, 320), (60, 380), (120, 440)])

    def test_a_cue_that_is_moved_keeps_its_duration(self) -> None:
        for by in (-300.0, -30.0, 40.0):
            base = times_of(self.project, "R", KEYS[1:2])
            made = times(shift_cues(self.project, "R", base, by, by))[1]
            self.assertEqual(made[1] - made[0], 320.0)
            self.assertEqual(made[0], max(60.0, 60.0 + by))
        all_of_them = shift_cues(self.project, "R", times_of(self.project, "R", KEYS), -50.0, -50.0)
        self.assertEqual([end - start for start, end in times(all_of_them)], [320.0] * 3)

    def test_a_start_before_what_the_rule_allows_is_refused(self) -> None:
        with self.assertRaisesRegex(EditError, "c starts 120 ms after the others of its stagger"):
            retime_cues(self.project, "R", KEYS[2:], "start", lambda _: 100.0)
        with self.assertRaises(EditError):
            time_cues(self.project, "R", KEYS[1:2], 10.0, 400.0)
        later = retime_cues(self.project, "R", KEYS[2:], "start", lambda _: 200.0)
        self.assertEqual(times(later)[2], (200.0, 520.0))
        self.assertEqual(times(place_cue(self.project, "R", KEYS[1], 60.0, 500.0))[1], (60.0, 500.0))


class Tied(unittest.TestCase):
    def test_each_before_the_one_above_shifts_the_rest(self) -> None:
        made = times(chain(three((0, 100), (0, 200), (0, 50)), "R", KEYS, "before"))
        self.assertEqual(made, [(250, 350), (50, 250), (0, 50)])
        made = times(chain(three((500, 600), (0, 200), (0, 50)), "R", KEYS, "before"))
        self.assertEqual(made, [(500, 600), (300, 500), (250, 300)])
        made = times(chain(three((100, 200), (0, 200), (0, 50)), "R", KEYS[:2], "before", by=-20.0))
        self.assertEqual(made[:2], [(220, 320), (0, 200)])

    def test_what_would_leave_no_room_before_a_tied_cue_is_refused(self) -> None:
        project = chain(three((300, 400), (0, 200), (0, 50)), "R", KEYS[:2], "before")
        with self.assertRaisesRegex(EditError, "b lasts 200 ms and would begin before 0"):
            shift_cues(project, "R", times_of(project, "R", KEYS[:1]), -250.0, -250.0)
        with self.assertRaisesRegex(EditError, "b lasts 200 ms"):
            tie(three((100, 200), (0, 200), (0, 50)), "R", KEYS[1], KEYS[0], "end", "start", 0.0)
        near = shift_cues(project, "R", times_of(project, "R", KEYS[:1]), -100.0, -100.0)
        self.assertEqual(times(near)[:2], [(200, 300), (0, 200)])


class WithoutPartner(unittest.TestCase):
    """Frames whose root group has other bounds: what leaves or enters in it stands still all the same."""

    def project(self, grows: bool = True, pose: Away | None = None) -> Project:
        more = (box("far2", 150, 150, 44, 20, "#eecc11"),) if grows else ()
        left = group("g", 20, 40, (box("in", 10, 10, 30, 30), box("gone", 5, 60, 12, 12, "#cc2222", body=Oval())), "g")
        right = group("g2", 60, 10, (box("in2", 10, 10, 30, 30, origin="in"), *more), "g", origin="g")
        right = replace(right, w=right.w, h=right.h) if grows else replace(right, w=left.w, h=left.h)
        project = project_of((left,), (right,))
        return project if pose is None else set_absent(project, "R", "gone", pose)

    def places(self, project: Project, name: str) -> np.ndarray:
        program = compile_route(project, project.routes[0])
        ids = [part.layer.id for part in program.contents]
        slot = ids.index(name)
        return np.array([program.at(ms).world()[slot][4:] for ms in np.linspace(0.0, program.duration, 9)])

    def test_it_stands_still_where_its_group_has_other_bounds(self) -> None:
        for pose in (None, Away(opacity=0.0), Away(opacity=0.0, scale_x=0.5, scale_y=0.5)):
            project = self.project(pose=pose)
            own = set_cue(project, "R", CueKey("g", "g2", ""), start=20.0, end=70.0)
            for one in (project, own):
                found = self.places(one, "gone")
                if pose is None or pose.scale_x == 1.0:
                    self.assertLess(np.abs(found - (25.0, 100.0)).max(), 1e-6)
                self.assertLess(np.abs(self.places(one, "far2")[-1] - (210.0, 160.0)).max(), 1e-6)
            self.assertLess(np.abs(self.places(project, "far2") - (210.0, 160.0)).max(), 1e-6)

    def test_its_exit_moves_it_by_as_much_as_it_says(self) -> None:
        found = self.places(self.project(pose=Away(shift_x=30.0, opacity=0.0)), "gone")
        self.assertLess(np.abs(found[0] - (25.0, 100.0)).max(), 1e-6)
        self.assertLess(np.abs(found[-1] - (55.0, 100.0)).max(), 1e-6)

    def test_a_group_that_moves_as_one_thing_takes_it_along(self) -> None:
        found = self.places(self.project(grows=False), "gone")
        self.assertLess(np.abs(found[-1] - found[0] - (40.0, -30.0)).max(), 1e-6)

    def test_in_a_group_that_leaves_it_goes_with_the_group(self) -> None:
        left = group("g", 20, 40, (box("gone", 5, 60, 12, 12),), "g")
        project = set_absent(project_of((left,), ()), "R", "g", Away(shift_x=50.0))
        found = self.places(project, "gone")
        self.assertLess(np.abs(found[-1] - found[0] - (50.0, 0.0)).max(), 1e-6)


if __name__ == "__main__":
    unittest.main()
