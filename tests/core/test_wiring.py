"""Triggers, actions, inputs, many routes at once, the way back, and what is wrong with the wiring."""

import unittest
from typing import Any

import msgspec

from avelt.core.checks.routes import in_words, of_route, troubles
from avelt.core.curves.easing import at
from avelt.core.curves.named import STARTERS
from avelt.core.edits import frames, inputs, routes, wiring
from avelt.core.edits.put_routes import copy_cue, copy_decisions, copy_motion, copy_ways
from avelt.core.errors import AveltError, EditError, FormatError
from avelt.core.formats.project_file import pack, unpack
from avelt.core.model.curves import Handles, Line, Named, Spring
from avelt.core.model.find import find_route, frame_by_id, layer_index, route_by_id
from avelt.core.model.motion import CueKey, Decision
from avelt.core.model.triggers import (
    ACTIONS,
    TRIGGERS,
    Crosses,
    DoubleTap,
    Drag,
    Ends,
    Go,
    GoBack,
    Hold,
    Key,
    Loading,
    Pointer,
    PutAway,
    ReplaceOver,
    Scroll,
    SendSignal,
    SetInput,
    ShowOver,
    Signal,
    Tap,
    Timer,
    as_kind,
    hot_area,
    same_touch,
    trigger_row,
)
from avelt.core.model.values import Away, Frame, Path, Project, Subpath, Transition
from avelt.core.model.wording import action_words, trigger_words
from avelt.core.timing.compile import compile_route, pairing_of
from avelt.core.timing.over import ends, place_of, scrim_id, sheet_id
from avelt.core.timing.schedule import duration_of
from tests.support import box, group, project_of, text

replace = msgspec.structs.replace


def tabs(n: int = 4) -> Project:
    """n frames, each with the same bar of n tabs and a card of its own."""
    made = []
    for k in range(n):
        bar = tuple(box(f"f{k}t{j}", 50 * j, 0, 40, 20, name=f"tab {j}") for j in range(n))
        card = box(f"f{k}card", 10, 10, 100, 60 + 10 * k, name="Card")
        made.append(Frame(f"F{k}", f"Screen {k}", 200, 200, layers=(card, group(f"f{k}bar", 0, 180, bar, name="Tabs"))))
    return Project("Tabs", frames=tuple(made), curves=STARTERS, first="F0", next_id=100)


def wired() -> Project:
    """Two frames: a pair, one that leaves, one that enters, with cues, a decision and ways of their own."""
    left = (box("a", 0, 0, 20, 20, name="Card"), box("gone", 100, 0, 20, 20, name="Old"))
    right = (box("b", 50, 90, 60, 20, name="Card"), text("new", "Hello", 10, 150))
    project = project_of(left, right, Transition(400.0, Handles(0.5, 0.0, 0.9, 0.4)))
    project = routes.set_cue(project, "R", CueKey("a", "b", ""), start=100.0, end=300.0)
    project = routes.set_cue(project, "R", CueKey(None, "new", ""), start=250.0, curve=Spring(0.3))
    project = routes.set_absent(project, "R", "gone", Away(shift_x=-40.0))
    project = routes.settle(project, "R", ("a", "b"), order_at=0.2)
    return routes.set_trigger(project, "R", Tap("a"))


class Tables(unittest.TestCase):
    def test_every_kind_survives_the_file(self) -> None:
        project, _ = inputs.add_input(project_of((box("a", 0, 0, 9, 9),), ()), "delay", "number", 3.0)
        for row in TRIGGERS:
            made, ident = routes.add_route(project, "A", "B", row.make())
            self.assertEqual(unpack(pack(made), "x"), made)
            self.assertEqual(trigger_row(route_by_id(made, ident).trigger), row)
            self.assertTrue(all(trigger_words(made, route_by_id(made, ident))), row.word)
        for row in ACTIONS:
            made = routes.set_action(project, "R", row.make())
            self.assertEqual(unpack(pack(made), "x"), made)
            self.assertTrue(action_words(made, made.routes[0].action))

    def test_every_field_of_a_row_is_one_of_its_struct(self) -> None:
        for row in (*TRIGGERS, *ACTIONS):
            self.assertEqual([f.name for f in row.fields], list(row.make.__struct_fields__), row.word)
        self.assertEqual(len({row.word for row in TRIGGERS}), len(TRIGGERS))

    def test_another_kind_keeps_what_both_know(self) -> None:
        rows = {row.make: row for row in TRIGGERS}
        self.assertEqual(as_kind(Hold("a", 900.0), rows[DoubleTap]), DoubleTap("a"))
        self.assertEqual(as_kind(Timer(900.0), rows[Tap]), Tap())
        self.assertEqual(as_kind(Scroll(start=50.0), rows[Pointer]), Pointer())

    def test_the_same_touch(self) -> None:
        for one, other, same in (
            (Tap("a"), Tap("a"), True),
            (Tap("a"), Tap("b"), False),
            (Tap("a"), DoubleTap("a"), False),
            (Drag("a", "down"), Drag("a", "up"), False),
            (Drag("a", travel=9.0), Drag("a", travel=8.0), True),
            (Timer(1.0), Timer(2.0), True),
            (Key("a"), Key("b"), False),
            (Loading("starts"), Loading(), False),
        ):
            self.assertIs(same_touch(one, other), same, (one, other))


class Editing(unittest.TestCase):
    def test_what_cannot_be_is_refused(self) -> None:
        project = wired()
        for edit in (
            lambda: routes.add_route(project, "A", "A"),
            lambda: routes.set_trigger(project, "R", Tap("b")),
            lambda: routes.set_trigger(project, "R", Drag("a", "path", path="gone")),
            lambda: routes.set_condition(project, "R", "delay > 3"),
            lambda: routes.set_condition(project, "R", "delay >"),
            lambda: inputs.add_input(project, "2nd"),
            lambda: wiring.return_trip(routes.add_route(project, "A", "A", action=SetInput())[0], "R100"),
        ):
            with self.assertRaises(AveltError):
                edit()

    def test_a_route_may_stay_in_its_frame_to_set_an_input(self) -> None:
        project, ident = routes.add_route(wired(), "A", "A", Tap("a"), action=SetInput())
        self.assertEqual(unpack(pack(project), "x"), project)
        with self.assertRaises(AveltError):
            routes.set_action(project, ident, Go())

    def test_a_drag_along_a_path(self) -> None:
        way = replace(box("way", 0, 0, 50, 50), body=Path((Subpath((0, 0, 10, 10, 20, 20, 50, 50)),)))
        project = project_of((way,), ())
        project = routes.set_trigger(project, "R", Drag("way", "path", "way"))
        self.assertEqual(of_route(project, "R"), ())

    def test_an_unknown_input_is_named_with_the_nearest(self) -> None:
        project, _ = inputs.add_input(wired(), "delay", "number")
        with self.assertRaises(FormatError) as caught:
            routes.set_condition(project, "R", "dealy > 10")
        self.assertIn("Did you mean “delay”?", str(caught.exception))

    def test_renaming_an_input_renames_it_in_conditions(self) -> None:
        project, ident = inputs.add_input(wired(), "delay", "number")
        project = routes.set_condition(project, "R", "delay > 10")
        project = inputs.rename_input(project, ident, "late-by")
        self.assertEqual(project.routes[0].only_if, "late-by > 10")
        self.assertEqual(inputs.used_by(project, ident), ("R",))
        gone = inputs.remove_input(project, ident)
        self.assertIn("no such input", of_route(gone, "R")[0].says)

    def test_frames_take_another_order(self) -> None:
        project = tabs()
        moved = wiring.move_frames(project, ["F3", "F1"], "F0")
        self.assertEqual([f.id for f in moved.frames], ["F1", "F3", "F0", "F2"])
        self.assertEqual([f.id for f in wiring.move_frames(moved, ["F1"], "").frames], ["F3", "F0", "F2", "F1"])
        self.assertIs(wiring.move_frames(project, ["F3"], ""), project)


class Many(unittest.TestCase):
    def test_four_tabs_in_one_step(self) -> None:
        project = tabs()
        touched = wiring.relatives_of_touch(project, ["F0", "F1", "F2", "F3"], {f"F{k}": f"f0t{k}" for k in range(4)})
        project, made = wiring.every_to_every(project, ["F0", "F1", "F2", "F3"], touched)
        self.assertEqual(len(made), 12)
        for route in project.routes:
            k, j = int(route.leaves[1]), int(route.arrives[1])
            self.assertEqual(route.trigger, Tap(f"f{k}t{j}"))
        self.assertEqual(troubles(project), ())
        self.assertEqual(wiring.every_to_every(project, ["F0", "F1"], touched)[1], [])

    def test_lengths_together(self) -> None:
        project, made = wiring.every_to_every(tabs(), ["F0", "F1", "F2"])
        project = wiring.change_durations(project, made, to=50.0)
        self.assertEqual({duration_of(r.transition) for r in project.routes}, {50.0})
        project = wiring.change_durations(project, made[:1], times=1.2, add=10.0)
        self.assertEqual(sorted({duration_of(r.transition) for r in project.routes}), [50.0, 70.0])

    def test_everything_else_together(self) -> None:
        project, made = wiring.every_to_every(tabs(), ["F0", "F1", "F2"], {("F0", "F1"): "f0t1"})
        project, _ = inputs.add_input(project, "calm")
        project = wiring.change_curves(project, made, Named("steady"))
        project = wiring.change_triggers(project, made, Hold(after=700.0))
        project = wiring.change_conditions(project, made, "calm")
        project = wiring.change_delays(project, made, 80.0)
        self.assertEqual({r.transition.curve for r in project.routes}, {Named("steady")})
        self.assertEqual({(r.only_if, r.delay) for r in project.routes}, {("calm", 80.0)})
        self.assertEqual(find_route(project, "Screen 0 > Screen 1").trigger, Hold("f0t1", 700.0))
        self.assertEqual(wiring.remove_routes(project, made).routes, ())

    def test_motion_is_copied_pair_by_pair(self) -> None:
        project = tabs(3)
        project, made = wiring.every_to_every(project, ["F0", "F1", "F2"])
        source, target = made[0], next(r.id for r in project.routes if (r.leaves, r.arrives) == ("F1", "F2"))
        project = routes.set_cue(project, source, CueKey("f0card", "f1card", ""), start=40.0, curve=Line())
        project = routes.set_cue(project, source, CueKey("f0t2", None, ""), start=10.0)
        project = routes.set_duration(project, source, 250.0)
        project, placed, missed = copy_motion(project, source, [source, target])
        motion = route_by_id(project, target).transition
        self.assertEqual([(c.from_id, c.to_id) for c in motion.cues], [("f1card", "f2card")])
        self.assertEqual((placed, missed, duration_of(motion)), (1, 1, 250.0))

    def test_only_some_of_it_leaves_the_rest_alone(self) -> None:
        project = tabs(3)
        project, made = wiring.every_to_every(project, ["F0", "F1", "F2"])
        source, target = made[0], next(r.id for r in project.routes if (r.leaves, r.arrives) == ("F1", "F2"))
        project = routes.set_cue(project, source, CueKey("f0card", "f1card", ""), start=40.0, curve=Line())
        project = routes.decide(project, source, "f0card", "f1card", False)
        project = routes.set_absent(project, source, "f0t2", Away(shift_x=7.0))
        project = routes.set_all_absent(project, source, "enter", Away(shift_y=5.0))
        project = routes.set_cue(project, target, CueKey("f1card", "f2card", "size"), end=90.0)
        before = route_by_id(project, target).transition

        cued, placed, missed = copy_cue(project, source, CueKey("f0card", "f1card", ""), [source, target])
        motion = route_by_id(cued, target).transition
        self.assertEqual((placed, missed, motion.duration), (1, 0, before.duration))
        self.assertEqual([cue.key for cue in motion.cues], [before.cues[0].key, CueKey("f1card", "f2card", "")])
        self.assertEqual((motion.cues[1].start, motion.cues[0]), (40.0, before.cues[0]))
        with self.assertRaises(EditError):
            copy_cue(project, source, CueKey("f0card", "f1card", "fill"), [target])

        decided, placed, missed = copy_decisions(project, source, [target])
        motion = route_by_id(decided, target).transition
        self.assertEqual((placed, missed), (1, 0))
        self.assertEqual(motion.decisions, (Decision("f1card", "f2card", False),))
        self.assertEqual(replace(motion, decisions=()), before)

        ways, placed, missed = copy_ways(project, source, [target])
        motion = route_by_id(ways, target).transition
        self.assertEqual((placed + missed, motion.enter, motion.cues), (1, Away(shift_y=5.0), before.cues))


class WayBack(unittest.TestCase):
    def test_cues_are_mirrored_in_time(self) -> None:
        project, back = wiring.return_trip(wired(), "R")
        route = route_by_id(project, back)
        self.assertEqual((route.leaves, route.arrives, route.trigger, route.action), ("B", "A", Tap("b"), GoBack()))
        cues = {(c.from_id, c.to_id): c for c in route.transition.cues}
        self.assertEqual((cues["b", "a"].start, cues["b", "a"].end), (100.0, 300.0))
        self.assertEqual((cues["new", None].start, cues["new", None].end), (0.0, 150.0))
        self.assertEqual(route.transition.settled[0].order_at, 0.8)

    def test_mirrored_motion_is_the_way_there_backwards(self) -> None:
        project, back = wiring.return_trip(wired(), "R", "mirrored")
        there, again = (compile_route(project, route_by_id(project, ident)) for ident in ("R", back))
        for ms in (0.0, 60.0, 180.0, 260.0, 333.0, 400.0):
            one, other = there.at(400.0 - ms), again.at(ms)
            for s, part in enumerate(there.contents):
                t = next(k for k, p in enumerate(again.contents) if (p.right, p.left) == (part.left, part.right))
                for have, want in zip(other.scalars[t].tolist(), one.scalars[s].tolist(), strict=True):
                    self.assertAlmostEqual(have, want, places=2)

    def test_the_choices_of_curve(self) -> None:
        same = route_by_id(*wiring.return_trip(wired(), "R", "same")).transition
        self.assertEqual((same.curve, duration_of(same)), (Handles(0.5, 0.0, 0.9, 0.4), 400.0))
        quick = route_by_id(*wiring.return_trip(wired(), "R", "quicker")).transition
        self.assertEqual(duration_of(quick), 400.0 * wiring.QUICKER)
        mirrored = route_by_id(*wiring.return_trip(wired(), "R")).transition.curve
        self.assertAlmostEqual(float(at(mirrored, 0.3)), 1.0 - float(at(Handles(0.5, 0.0, 0.9, 0.4), 0.7)), places=9)

    def test_a_way_back_that_is_there_keeps_its_trigger(self) -> None:
        project, own = routes.add_route(wired(), "B", "A", Key("Escape"))
        project, back = wiring.return_trip(project, "R")
        self.assertEqual((back, route_by_id(project, back).trigger), (own, Key("Escape")))
        self.assertEqual(len(project.routes), 2)

    def test_hand_made_pairs_go_back_too(self) -> None:
        project = routes.decide(wired(), "R", "gone", "new", True)
        project, back = wiring.return_trip(project, "R")
        self.assertEqual(pairing_of(project, route_by_id(project, back)).to_of["new"], "gone")

    def test_what_was_dragged_down_is_dragged_up(self) -> None:
        project = routes.set_trigger(wired(), "R", Drag("a", "down"))
        project = routes.set_action(project, "R", ShowOver())
        project, back = wiring.return_trip(project, "R")
        self.assertEqual(route_by_id(project, back).action, PutAway())
        self.assertEqual(getattr(route_by_id(project, back).trigger, "along", ""), "up")


class Over(unittest.TestCase):
    def setUp(self) -> None:
        sheet = Frame("S", "Sheet", 120, 80, "#ff0000", layers=(box("in", 5, 5, 20, 20),))
        other = Frame("O", "Other", 120, 60, "#00ff00")
        project = project_of((box("a", 0, 0, 50, 50),), ())
        project = replace(project, frames=(*project.frames, sheet, other))
        self.project, self.shown = routes.add_route(project, "A", "S", action=ShowOver("bottom"))

    def test_nine_points_and_a_place_by_hand(self) -> None:
        for point, wanted in (
            ("top left", (0, 0)),
            ("top", (40, 0)),
            ("middle", (40, 60)),
            ("bottom right", (80, 120)),
            ("left", (0, 60)),
        ):
            self.assertEqual(place_of((200, 200), (120, 80), ShowOver(point)), wanted)
        self.assertEqual(place_of((200, 200), (120, 80), ShowOver("by hand", 7.0, 9.0)), (7.0, 9.0))

    def test_what_lies_beneath_stays(self) -> None:
        route = route_by_id(self.project, self.shown)
        left, right = ends(self.project, route)
        self.assertIs(left, frame_by_id(self.project, "A"))
        index = layer_index(right)
        self.assertEqual([index[sheet_id("S")].x, index[sheet_id("S")].y], [40.0, 120.0])
        self.assertIn(scrim_id("S"), index)
        pairing = pairing_of(self.project, route)
        self.assertEqual(pairing.to_of, {"a": "a"})
        self.assertIn("in", pairing.enters)
        self.assertIs(ends(self.project, route)[1], right)

    def test_putting_away_is_the_same_picture_backwards(self) -> None:
        project, away = wiring.return_trip(self.project, self.shown)
        left, right = ends(project, route_by_id(project, away))
        self.assertIs(left, ends(project, route_by_id(project, self.shown))[1])
        self.assertIs(right, frame_by_id(project, "A"))

    def test_swapping_keeps_what_lies_beneath_both(self) -> None:
        project, swap = routes.add_route(self.project, "S", "O", action=ReplaceOver())
        left, right = ends(project, route_by_id(project, swap))
        self.assertIn("a", layer_index(left))
        self.assertIn(sheet_id("O"), layer_index(right))
        self.assertEqual(pairing_of(project, route_by_id(project, swap)).to_of["a"], "a")

    def test_without_a_scrim(self) -> None:
        project = routes.set_action(self.project, self.shown, ShowOver(scrim=""))
        self.assertNotIn(scrim_id("S"), layer_index(ends(project, route_by_id(project, self.shown))[1]))


class Troubles(unittest.TestCase):
    def codes(self, project: Any) -> list[str]:
        return [trouble.code for trouble in troubles(project)]

    def test_a_deleted_layer_is_kept_as_trouble(self) -> None:
        project = frames.remove_layer(wired(), "A", "a")
        self.assertEqual(hot_area(project.routes[0].trigger), "a")
        trouble = of_route(project, "R")[0]
        self.assertEqual((trouble.code, trouble.mend), ("layer gone", "choose another"))
        self.assertIn("A > B", in_words(project, trouble))
        self.assertEqual(unpack(pack(project), "x"), project)

    def test_two_routes_on_one_touch(self) -> None:
        project, _ = routes.add_route(wired(), "A", "B", Tap("a"))
        self.assertIn("same trigger", self.codes(project))
        project, _ = inputs.add_input(project, "calm")
        project = routes.set_condition(project, "R", "calm")
        self.assertNotIn("same trigger", self.codes(project))

    def test_unreachable_frames_and_dead_ends(self) -> None:
        project = tabs(3)
        project, _ = routes.add_route(project, "F0", "F1")
        found = {(t.code, t.frames) for t in troubles(project)}
        self.assertEqual(found, {("unreachable", ("F2",)), ("dead end", ("F1",))})
        shown = routes.set_action(project, "R100", ShowOver())
        self.assertNotIn("dead end", self.codes(shown))

    def test_circles_of_inputs_and_signals(self) -> None:
        project, a = inputs.add_input(tabs(2), "a", "number")
        project, b = inputs.add_input(project, "b", "number")
        project, s = inputs.add_input(project, "go", "signal")
        project, _ = routes.add_route(project, "F0", "F0", Crosses(a), action=SetInput(b, 1.0))
        self.assertNotIn("circle", self.codes(project))
        project, _ = routes.add_route(project, "F0", "F0", Crosses(b), action=SendSignal(s))
        project, _ = routes.add_route(project, "F0", "F0", Signal(s), action=SetInput(a, 1.0))
        found = [t for t in troubles(project) if t.code == "circle"]
        self.assertEqual((len(found), len(found[0].routes)), (1, 3))
        self.assertIn("→", found[0].says)

    def test_what_has_no_ground(self) -> None:
        for action, trigger, code in (
            (PutAway(), Tap(), "not over"),
            (GoBack(), Tap(), "no way there"),
            (SetInput("x"), Tap(), "input gone"),
            (Go(), Signal("x"), "input gone"),
            (Go(), Ends("nothing"), "motion gone"),
        ):
            project = routes.set_action(routes.set_trigger(wired(), "R", trigger), "R", action)
            self.assertIn(code, [t.code for t in of_route(project, "R")], code)

    def test_a_condition_that_cannot_be_read(self) -> None:
        project = wired()
        project = replace(project, routes=(replace(project.routes[0], only_if="delay >"),))
        self.assertIn("cannot be read", of_route(project, "R")[0].says)
