"""Ties and staggers."""

import unittest
from typing import Any

import msgspec
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.edits.afterwards import beside
from avelt.core.edits.cues import mirror_cues, place_cue, retime_cues, shift_cues, time_cues, times_of
from avelt.core.edits.put_routes import copy_motion
from avelt.core.edits.put_timing import put_timing
from avelt.core.edits.routes import inherit_cue, set_cue, set_duration
from avelt.core.edits.ties_and_staggers import (
    chain,
    dissolve,
    line_up,
    make_stagger,
    set_offset,
    set_stagger,
    stagger_of,
    tie,
    untie,
)
from avelt.core.edits.wiring import mirrored
from avelt.core.errors import EditError, FormatError
from avelt.core.formats.checked import check
from avelt.core.model.curves import Handles, Line
from avelt.core.model.motion import CueKey, Stagger, Tie, Transition
from avelt.core.timing.compile import compile_route
from avelt.core.timing.schedule import circle, duration_of, end_of, plan_of
from tests.support import box, project_of

replace = msgspec.structs.replace
COUNT = 4
KEYS = tuple(CueKey(f"a{k}", f"b{k}", "") for k in range(COUNT))
SPOTS = ((0, 0), (200, 0), (100, 300), (200, 300))


def made(times: Any = ((0, 100),) * COUNT, **own: Any) -> Any:
    left = tuple(box(f"a{k}", x, y, 20, 20, name=f"Box {k}") for k, (x, y) in enumerate(SPOTS))
    right = tuple(box(f"b{k}", x, y + 50, 20, 20, name=f"Box {k}") for k, (x, y) in enumerate(SPOTS))
    own.setdefault("duration", 1000.0)
    project = project_of(left, right, Transition(curve=Line(), **own))
    for key, (start, end) in zip(KEYS, times, strict=False):
        project = set_cue(project, "R", key, start=float(start), end=float(end))
    return project


def times(project: Any, keys: Any = KEYS) -> Any:
    return list(times_of(project, "R", keys).values())


class Ties(unittest.TestCase):
    def test_a_start_follows_the_end_it_hangs_on_and_keeps_its_length(self) -> None:
        project = tie(made(((0, 100), (500, 700))), "R", KEYS[1], KEYS[0], by=80.0)
        self.assertEqual(times(project)[1], (180.0, 380.0))
        project = set_cue(project, "R", KEYS[0], end=300.0)
        self.assertEqual(times(project)[1], (380.0, 580.0))

    def test_without_an_offset_it_stays_where_it_is(self) -> None:
        project = tie(made(((0, 100), (500, 700))), "R", KEYS[1], KEYS[0])
        self.assertEqual(times(project)[1], (500.0, 700.0))
        self.assertEqual(project.routes[0].transition.ties, (Tie(KEYS[1], KEYS[0], by=400.0),))

    def test_both_ends_tied_stretch_it(self) -> None:
        project = made(((100, 200), (600, 700), (0, 50)))
        project = tie(project, "R", KEYS[2], KEYS[0], "start", "end", 0.0)
        project = tie(project, "R", KEYS[2], KEYS[1], "end", "start", -20.0)
        self.assertEqual(times(project)[2], (200.0, 580.0))

    def test_a_circle_is_refused_with_the_names_in_it(self) -> None:
        project = chain(made(), "R", KEYS[:3], "after")
        self.assertEqual(times(project)[:3], [(0, 100), (100, 200), (200, 300)])
        with self.assertRaisesRegex(EditError, "Box 0 is tied to Box 2 is tied to Box 1 is tied to Box 0"):
            tie(project, "R", KEYS[0], KEYS[2])
        with self.assertRaisesRegex(EditError, "Box 1 cannot be tied to itself"):
            tie(project, "R", KEYS[1], KEYS[1], "end", "start")

    def test_a_property_cannot_hang_on_what_hangs_on_its_layer(self) -> None:
        project = tie(made(), "R", KEYS[0], KEYS[1])
        with self.assertRaises(EditError):
            tie(project, "R", KEYS[1], CueKey("a0", "b0", "size"))

    @given(st.permutations(range(COUNT)), st.lists(st.integers(-300, 300), min_size=COUNT, max_size=COUNT))
    def test_chains_of_any_order_hold_their_offsets(self, order: Any, offsets: Any) -> None:
        project = made(tuple((400 * k, 400 * k + 100 + k) for k in range(COUNT)))
        for k in range(1, COUNT):
            project = tie(project, "R", KEYS[order[k]], KEYS[order[k - 1]], by=float(offsets[k]))
        found = times(project)
        for k in range(1, COUNT):
            before, now = found[order[k - 1]], found[order[k]]
            self.assertAlmostEqual(now[0], max(0.0, before[1] + offsets[k]))
            self.assertAlmostEqual(now[1] - now[0], 100 + order[k])
        check(project)

    @given(st.lists(st.tuples(st.integers(0, 3), st.integers(0, 3)), max_size=8))
    def test_whatever_is_tied_there_is_no_circle(self, wanted: Any) -> None:
        project = made()
        for a, b in wanted:
            try:
                project = tie(project, "R", KEYS[a], KEYS[b])
            except EditError:
                self.assertTrue(circle(project.routes[0].transition, Tie(KEYS[a], KEYS[b])))
        check(project)

    def test_dragging_what_hangs_changes_its_offset(self) -> None:
        project = tie(made(((0, 100), (500, 700))), "R", KEYS[1], KEYS[0])
        base = times_of(project, "R", KEYS[1:2])
        for by in (30.0, 90.0):  # a drag tells where it is from where it began, again and again
            project = shift_cues(project, "R", base, by, by)
        self.assertEqual(times(project)[1], (590.0, 790.0))
        self.assertEqual(project.routes[0].transition.ties[0].by, 490.0)
        project = shift_cues(project, "R", times_of(project, "R", KEYS[1:2]), 0.0, 60.0)
        self.assertEqual(times(project)[1], (590.0, 850.0))

    def test_untied_it_stays_and_inherited_again_it_hangs_no_more(self) -> None:
        project = set_offset(tie(made(), "R", KEYS[1], KEYS[0]), "R", KEYS[1], "start", 33.0)
        self.assertEqual(times(untie(project, "R", KEYS[1:2]))[1], (133.0, 233.0))
        self.assertEqual(times(inherit_cue(project, "R", KEYS[1]))[1], (0.0, 1000.0))

    def test_a_length_of_none_follows_what_hangs(self) -> None:
        project = chain(made(duration=None), "R", KEYS, "after", 50.0)
        self.assertEqual(duration_of(project.routes[0].transition), 550.0)
        self.assertEqual(compile_route(project, project.routes[0]).duration, 550.0)

    def test_a_file_with_a_circle_is_refused_with_its_place(self) -> None:
        ties = (Tie(KEYS[0], KEYS[1]), Tie(KEYS[1], KEYS[0]))
        with self.assertRaisesRegex(FormatError, r"ties\[1\]"):
            check(made(ties=ties))
        self.assertEqual(len(times(made(ties=ties))), COUNT)  # and nothing runs on for ever

    def test_with_and_before(self) -> None:
        project = chain(made(((200, 300), (0, 50), (0, 80))), "R", KEYS[:2], "with", 10.0)
        project = chain(project, "R", (KEYS[0], KEYS[2]), "before")
        self.assertEqual(times(project)[:3], [(200, 300), (210, 260), (120, 200)])


class Staggers(unittest.TestCase):
    def rule(self, project: Any = None, **own: Any) -> Any:
        return make_stagger(project or made(), "R", KEYS, Stagger("", (), **own))

    def test_a_step_in_the_sheets_order_and_a_total(self) -> None:
        project, ident = self.rule(ms=40.0)
        self.assertEqual([start for start, _ in times(project)], [0, 40, 80, 120])
        rule = stagger_of(project, "R", KEYS[2])
        self.assertEqual(rule.id, ident)
        project = set_stagger(project, "R", replace(rule, spread="total", ms=60.0, reversed=True))
        self.assertEqual([round(start, 9) for start, _ in times(project)], [60, 40, 20, 0])
        self.assertEqual({round(end - start, 9) for start, end in times(project)}, {100})

    def test_orders_look_at_where_layers_are(self) -> None:
        cases = {"left to right": [0, 100, 50, 100], "top to bottom": [0, 0, 50, 50], "paint": [0, 50, 100, 150]}
        for order, wanted in cases.items():
            project, _ = self.rule(order=order, ms=50.0)
            levels = len(set(wanted)) - 1
            whole = 150.0
            self.assertEqual([start for start, _ in times(project)], [w / (50 * levels) * whole for w in wanted], order)

    def test_distance_is_measured_from_the_point(self) -> None:
        project, _ = self.rule(order="distance", point=(210.0, 310.0), ms=100.0, spread="total")
        starts = [start for start, _ in times(project)]
        self.assertEqual(starts[3], 0.0)
        self.assertEqual(starts[0], 100.0)
        self.assertAlmostEqual(starts[2], 100 * 100 / (210**2 + 310**2) ** 0.5, delta=8)

    def test_chance_has_a_seed(self) -> None:
        first, second = (times(self.rule(order="random", seed=s)[0]) for s in (1, 1))
        self.assertEqual(first, second)
        self.assertGreater(len({tuple(times(self.rule(order="random", seed=s)[0])) for s in range(12)}), 3)
        self.assertEqual(sorted(start for start, _ in first), [0, 40, 80, 120])

    def test_a_curve_bends_the_shares(self) -> None:
        project, _ = self.rule(ms=90.0, spread="total", curve=Handles(0.4, 0.0, 1.0, 1.0))
        starts = [start for start, _ in times(project)]
        self.assertLess(starts[1], 30.0)
        self.assertEqual((starts[0], starts[-1]), (0.0, 90.0))

    @given(
        st.sampled_from(["sheet", "paint", "left to right", "top to bottom", "distance", "random"]),
        st.booleans(),
        st.integers(0, 200),
        st.sampled_from(["step", "total"]),
    )
    def test_every_rule_keeps_lengths_and_begins_with_the_first(
        self, order: Any, backwards: Any, ms: Any, spread: Any
    ) -> None:
        project, ident = self.rule(
            made(((50, 150), (80, 200), (60, 65), (90, 91))),
            order=order,
            reversed=backwards,
            ms=float(ms),
            spread=spread,
        )
        found = times(project)
        self.assertAlmostEqual(min(start for start, _ in found), 50.0)
        for (start, end), length in zip(found, (100, 120, 5, 1), strict=True):
            self.assertAlmostEqual(end - start, length)
        loose = dissolve(project, "R", ident)
        self.assertEqual(loose.routes[0].transition.staggers, ())
        for one, other in zip(times(loose), found, strict=True):
            self.assertAlmostEqual(one[0], other[0])

    def test_one_that_is_dragged_moves_against_the_rest(self) -> None:
        project, _ = self.rule()
        base = times_of(project, "R", KEYS[2:3])
        project = shift_cues(project, "R", base, 15.0, 15.0)
        self.assertEqual([start for start, _ in times(project)], [0, 40, 95, 120])

    def test_what_joins_another_leaves_the_first(self) -> None:
        project, first = self.rule()
        project, second = make_stagger(project, "R", KEYS[:2], Stagger("", (), ms=10.0))
        rules = {rule.id: rule.cues for rule in project.routes[0].transition.staggers}
        self.assertEqual(rules, {first: KEYS[2:], second: KEYS[:2]})
        with self.assertRaises(EditError):
            make_stagger(project, "R", KEYS[:1], Stagger("", ()))

    def test_ties_may_hang_on_what_is_staggered(self) -> None:
        project, _ = make_stagger(made(), "R", KEYS[:3], Stagger("", (), ms=40.0))
        project = tie(project, "R", KEYS[3], KEYS[2], by=5.0)
        self.assertEqual(times(project)[3], (185.0, 285.0))

    def test_a_longer_transition_stretches_them(self) -> None:
        project, _ = self.rule()
        project = set_duration(tie(project, "R", CueKey("a0", "b0", "size"), KEYS[3], by=8.0), "R", 2000.0)
        self.assertEqual(times(project), [(0, 200), (80, 280), (160, 360), (240, 440)])
        self.assertEqual(project.routes[0].transition.ties[0].by, 16.0)


def plan(project: Any) -> Any:
    return plan_of(project, project.routes[0].transition)


class NothingInSilence(unittest.TestCase):
    """What an edit undoes of others is said; no cue loses all its time."""

    def test_what_is_tied_leaves_its_stagger_and_stays(self) -> None:
        project, _ = make_stagger(made(), "R", KEYS[:3], Stagger("", (), ms=40.0))
        tied = tie(project, "R", KEYS[2], KEYS[3], "start", "end")
        self.assertEqual(times(tied)[2], (80.0, 180.0))
        self.assertEqual(plan(tied).late.get(KEYS[2], 0.0), 0.0)
        self.assertEqual(tied.routes[0].transition.ties[0].by, -20.0)
        self.assertEqual(beside(project, tied, "R"), "Box 2 left its stagger.")

    def test_a_chain_takes_the_place_of_older_ties(self) -> None:
        project = made(((0, 100), (100, 200), (300, 400), (500, 600)))
        project = tie(project, "R", KEYS[1], KEYS[3], "end", "start")
        chained = chain(project, "R", (KEYS[2], KEYS[1]), "after")
        self.assertEqual(times(chained)[1], (400.0, 500.0))
        self.assertEqual(beside(project, chained, "R"), "Box 1 is no longer tied to Box 3.")
        self.assertEqual(beside(project, project, "R"), "")
        moved = set_offset(chained, "R", KEYS[1], "start", 7.0)
        self.assertEqual(beside(chained, moved, "R"), "")

    def test_a_stagger_unties(self) -> None:
        project = tie(made(), "R", KEYS[1], KEYS[0], by=30.0)
        staggered, _ = make_stagger(project, "R", KEYS[:2], Stagger("", (), ms=10.0))
        self.assertEqual(staggered.routes[0].transition.ties, ())
        self.assertEqual([start for start, _ in times(staggered)[:2]], [0.0, 10.0])
        self.assertEqual(beside(project, staggered, "R"), "Box 1 is no longer tied to Box 0.")
        pair, _ = make_stagger(made(), "R", KEYS[:2], Stagger("", (), ms=10.0))
        said = beside(pair, tie(pair, "R", KEYS[0], KEYS[3]), "R")
        self.assertEqual(said, "The stagger of Box 0, Box 1 is gone.")

    def test_what_is_between_two_ties_keeps_some_time(self) -> None:
        project = made(((0, 100), (100, 200), (300, 400)))
        project = tie(project, "R", KEYS[1], KEYS[0])
        project = tie(project, "R", KEYS[1], KEYS[2], "end", "start")
        self.assertEqual(times(project)[1], (100.0, 200.0))
        late = {KEYS[0]: (0.0, 100.0)}
        self.assertEqual(times(shift_cues(project, "R", late, 99.0, 99.0))[1], (199.0, 200.0))
        for by in (100.0, 250.0):
            with self.assertRaisesRegex(EditError, "Box 1 would have no time left between Box 0 and Box 2"):
                shift_cues(project, "R", late, by, by)
        with self.assertRaisesRegex(EditError, "Box 1"):
            set_offset(project, "R", KEYS[1], "end", -400.0)

    def test_an_end_before_the_start_is_refused_and_names_it(self) -> None:
        project = made(((200, 300), (0, 100)))
        with self.assertRaisesRegex(EditError, "Box 0 starts at 200 ms and cannot end before that, at 150"):
            retime_cues(project, "R", KEYS[:2], "end", lambda _: 150.0)

    def test_ends_drawn_together_leave_one_ms(self) -> None:
        project = made(((200, 300), (0, 20)))
        base = times_of(project, "R", KEYS[:2])
        self.assertEqual(times(shift_cues(project, "R", base, 0.0, -90.0))[:2], [(200, 210), (0, 1)])
        self.assertEqual(times(shift_cues(project, "R", base, 150.0, 0.0))[:2], [(299, 300), (19, 20)])

    def test_an_inherited_end_is_pushed(self) -> None:
        inner = CueKey("a0", "b0", "size")
        project = set_cue(made(((0, 100),)), "R", inner, start=400.0)
        self.assertEqual(times(project, [inner]), [(400.0, 500.0)])
        project = set_cue(made(((300, 400),)), "R", inner, end=250.0)
        self.assertEqual(times(project, [inner]), [(150.0, 250.0)])

    def test_a_stagger_knows_what_was_moved(self) -> None:
        project, ident = make_stagger(made(), "R", KEYS, Stagger("", (), ms=40.0))
        rule = project.routes[0].transition.staggers[0]
        self.assertEqual(plan(project).moved(rule), ())
        moved = place_cue(project, "R", KEYS[2], 200.0, 300.0)
        self.assertEqual(plan(moved).moved(rule), (KEYS[2],))
        self.assertEqual(times(moved)[2], (200.0, 300.0))
        longer = set_stagger(moved, "R", replace(rule, ms=50.0))
        self.assertEqual(times(longer)[2:], [(220.0, 320.0), (150.0, 250.0)])
        lined = line_up(moved, "R", ident)
        self.assertEqual(times(lined), times(project))
        self.assertEqual(line_up(moved, "R", "none"), moved)


class Elsewhere(unittest.TestCase):
    def hung(self) -> Any:
        project, _ = make_stagger(
            made(), "R", KEYS[:3], Stagger("", (), ms=40.0, curve=Handles(0.4, 0.0, 1.0, 1.0), order="left to right")
        )
        return tie(project, "R", KEYS[3], KEYS[0], by=25.0)

    def test_the_way_back_is_the_way_there_mirrored(self) -> None:
        project = self.hung()
        route = project.routes[0]
        back = mirrored(project, route)
        other = replace(project, routes=(replace(route, leaves=route.arrives, arrives=route.leaves, transition=back),))
        there = times(project)
        for key, (start, end) in zip(KEYS, there, strict=True):
            found = times_of(other, "R", [CueKey(key[1], key[0], "")])[CueKey(key[1], key[0], "")]
            self.assertAlmostEqual(found[0], 1000 - end)
            self.assertAlmostEqual(found[1], 1000 - start)

    def test_they_are_copied_with_the_motion(self) -> None:
        project = self.hung()
        second = replace(project.routes[0], id="S", transition=Transition(500.0))
        project = replace(project, routes=(*project.routes, second))
        copied, _, missed = copy_motion(project, "R", ["S"])
        self.assertEqual(copied.routes[1].transition.ties, copied.routes[0].transition.ties)
        self.assertEqual(copied.routes[1].transition.staggers, copied.routes[0].transition.staggers)
        self.assertEqual(missed, 0)

    def test_timing_is_copied_and_mirrored(self) -> None:
        project = set_cue(made(((100, 300), (0, 50))), "R", KEYS[0], curve=Handles(0.1, 0.2, 0.3, 1.0))
        project = put_timing(project, "R", KEYS[0], KEYS[:2])
        self.assertEqual(times(project)[1], (100, 300))
        self.assertEqual(project.routes[0].transition.cues[1].curve, Handles(0.1, 0.2, 0.3, 1.0))
        project = mirror_cues(project, "R", KEYS[:1])
        self.assertEqual(times(project)[0], (700, 900))
        curve = project.routes[0].transition.cues[0].curve
        self.assertAlmostEqual(curve.x1, 0.7)
        self.assertEqual(end_of(project.routes[0].transition), 1000.0)
        self.assertEqual(times(time_cues(project, "R", KEYS[:2], 5.0, 6.0))[:2], [(5, 6), (5, 6)])
