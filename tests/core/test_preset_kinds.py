"""Presets of every kind: taken, written, read, put elsewhere, made to measure, handed on."""

import io
import json
import tempfile
import unittest
import zipfile
from pathlib import Path
from typing import Any

from msgspec.structs import replace

from avelt.core.edits.cues import change_cues
from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.edits.parts import add_use
from avelt.core.edits.routes import add_route, set_absent, set_cue, set_duration
from avelt.core.edits.ties_and_staggers import make_stagger, set_offset, tie
from avelt.core.errors import AveltError, EditError, FormatError
from avelt.core.model.curves import Handles, Line, Named, Spring
from avelt.core.model.find import frame_by_id, route_by_id
from avelt.core.model.motion import CueKey, MotionPath, PairKey, Stagger
from avelt.core.model.triggers import Tap
from avelt.core.model.values import Away, Frame, Part, Pose, Project
from avelt.core.presets import packs, record, tokens
from avelt.core.presets.adjusted import DIRECTIONS, How, adjusted, direction_of
from avelt.core.presets.capture import capture
from avelt.core.presets.picture import picture_of
from avelt.core.presets.places import Where
from avelt.core.presets.put_on import put_preset
from avelt.core.presets.roles import role_words
from avelt.core.presets.shelf import Shelf, built_in
from avelt.core.presets.values import KINDS, Preset, from_json, to_json
from avelt.core.timing.schedule import plan_of
from tests.support import box, project_of, text

A, B = PairKey("a", "b"), PairKey("c", "d")


def scene() -> Project:
    """Two pairs, tied and staggered, a layer that enters, a loop, a part; and another route of larger frames on which
    layers of the same names are."""
    project = project_of(
        (box("a", 0, 0, 10, 10, name="One"), box("c", 50, 50, 20, 20, name="Two"), text("t", "Hello", 0, 150)),
        (box("b", 90, 0, 10, 10, name="One"), box("d", 0, 50, 20, 20, name="Two"), box("in", 150, 0, 40, 20, name="N")),
    )
    more = (
        Frame("C", "C", 400, 400, layers=(box("e", 0, 0, 20, 40, name="One"), box("g", 90, 90, 40, 40, name="Two"))),
        Frame("D", "D", 400, 400, layers=(box("f", 99, 0, 20, 40, name="One"), box("h", 0, 90, 40, 40, name="Two"))),
    )
    project = replace(project, frames=(*project.frames, *more))
    project, _ = add_route(project, "C", "D", Tap())
    project = set_duration(project, "R", 400.0)
    project = set_cue(project, "R", CueKey(*A, ""), start=100.0, end=200.0, curve=Spring(0.3))
    project = change_cues(
        project, "R", [CueKey(*A, "position")], motion_path=MotionPath(((0.5, 0.0, -20.0), (0.7, 0.0, -20.0)))
    )
    project = tie(project, "R", CueKey(*B, ""), CueKey(*A, ""), "start", "end")
    project = set_offset(project, "R", CueKey(*B, ""), "start", 20.0)
    return set_absent(project, "R", "in", Away(shift_x=20.0, shift_y=-10.0, opacity=0.0))


def other(project: Project) -> str:
    """The id of the other route."""
    return project.routes[1].id


def again(preset: Preset) -> Preset:
    """The preset out of its file."""
    return from_json(to_json(preset), "x")


class Kinds(unittest.TestCase):
    """Each kind is taken, goes through its file, moves in its picture and arrives on something else."""

    def check(self, preset: Preset) -> Preset:
        back = again(preset)
        self.assertEqual(back, preset)
        picture = picture_of(back)
        self.assertGreater(picture.duration, 0.0)
        picture.program.at(picture.duration / 2)
        return back

    def test_a_transition_brings_length_times_ties_and_ways(self) -> None:
        project = scene()
        preset = self.check(record.capture_transition(project, "R", "All"))
        self.assertEqual((preset.kind, preset.duration), ("transition", 400.0))
        done = put_preset(project, preset, Where((other(project),)))
        motion = route_by_id(done.project, other(project)).transition
        self.assertEqual(motion.duration, 400.0)
        plan = plan_of(done.project, motion)
        self.assertEqual(plan.of(CueKey("e", "f", ""))[:2], (100.0, 200.0))
        self.assertEqual(plan.of(CueKey("g", "h", ""))[0], 220.0)  # it is tied to the end of the first
        self.assertIn("1 of", done.says)  # nothing enters there

    def test_what_was_recorded_shows_nothing_of_its_content(self) -> None:
        data = to_json(record.capture_transition(scene(), "R", "All"))
        self.assertNotIn(b"Hello", data)
        self.assertNotIn(b"#336699", data)

    def test_roles_are_shown_before(self) -> None:
        project = scene()
        preset = record.capture_transition(project, "R", "All")
        found = role_words(project, preset, Where((other(project),)))
        self.assertEqual(found, [("One", "One"), ("N", "")])
        both = record.capture_shared(project, "R", [A, B], "Both")
        self.assertEqual(role_words(project, both, Where((other(project),))), [("One", "One"), ("Two", "Two")])

    def test_roles_are_given_by_hand_in_the_order_of_what_is_chosen(self) -> None:
        project = scene()
        preset = record.capture_shared(project, "R", [A], "One only")
        second = PairKey("g", "h")
        where = Where((other(project),), (second,))
        self.assertEqual(role_words(project, preset, where), [("One", "Two")])
        motion = route_by_id(put_preset(project, preset, where).project, other(project)).transition
        self.assertEqual({cue.key.pair for cue in motion.cues}, {second})
        with self.assertRaises(EditError):  # nothing that is chosen can play it: it stays on both frames
            put_preset(project, preset, Where(("R",), (PairKey(None, "in"),)))

    def test_shared_layers_keep_ties_and_follow_the_length(self) -> None:
        project = set_duration(scene(), "R", 400.0)
        preset = self.check(record.capture_shared(project, "R", [A, B], "Both"))
        short = set_duration(project, other(project), 100.0)
        motion = route_by_id(put_preset(short, preset, Where((other(project),))).project, other(project)).transition
        plan = plan_of(short, motion)
        self.assertEqual(plan.of(CueKey("e", "f", ""))[:2], (25.0, 50.0))
        self.assertEqual(plan.of(CueKey("g", "h", ""))[0], 55.0)
        recorded = put_preset(short, preset, Where((other(project),)), How(follow=False)).project
        plan = plan_of(recorded, route_by_id(recorded, other(project)).transition)
        self.assertEqual(plan.of(CueKey("e", "f", ""))[:2], (100.0, 200.0))

    def test_shared_layers_leave_the_others_alone_and_put_twice_is_put_once(self) -> None:
        project = scene()
        project = set_cue(project, other(project), CueKey("g", "h", "size"), start=7.0)
        preset = record.capture_shared(project, "R", [A], "One only")
        once = put_preset(project, preset, Where((other(project),))).project
        kept = [cue for cue in route_by_id(once, other(project)).transition.cues if cue.from_id == "g"]
        self.assertEqual([cue.start for cue in kept], [7.0])
        twice = put_preset(once, preset, Where((other(project),))).project
        self.assertEqual(
            route_by_id(twice, other(project)).transition.cues, route_by_id(once, other(project)).transition.cues
        )
        with self.assertRaises(EditError):
            put_preset(
                replace(project, frames=(*project.frames[:2], *map(_empty, project.frames[2:]))),
                preset,
                Where((other(project),)),
            )

    def test_a_stagger_stays_a_rule(self) -> None:
        project, ident = make_stagger(
            scene(), "R", [CueKey(*A, ""), CueKey(*B, "")], Stagger("", (), "left to right", True, 70.0)
        )
        preset = self.check(record.capture_stagger(project, "R", ident, "Rush"))
        pairs = (PairKey("e", "f"), PairKey("g", "h"))
        done = put_preset(project, preset, Where((other(project),), pairs), How(stretch=2.0)).project
        (rule,) = route_by_id(done, other(project)).transition.staggers
        self.assertEqual((rule.order, rule.reversed, rule.ms), ("left to right", True, 140.0))
        self.assertEqual([key.pair for key in rule.cues], list(pairs))
        with self.assertRaises(EditError):
            put_preset(project, preset, Where((other(project),), pairs[:1]))
        with self.assertRaises(AveltError):
            record.capture_stagger(project, "R", "none", "x")

    def test_a_curve_goes_on_cues_or_under_the_whole(self) -> None:
        project = scene()
        preset = self.check(record.capture_curve(project, Named("settle"), "Soft"))
        self.assertIsInstance(preset.curve, Handles)
        done = put_preset(project, preset, Where((other(project),))).project
        self.assertEqual(route_by_id(done, other(project)).transition.curve, preset.curve)
        done = put_preset(project, preset, Where(("R",), (B,))).project
        cue = next(cue for cue in route_by_id(done, "R").transition.cues if cue.key == CueKey(*B, ""))
        self.assertEqual(cue.curve, preset.curve)

    def test_a_motion_path_is_as_large_as_the_layer(self) -> None:
        project = scene()
        preset = self.check(record.capture_path(project, "R", A, "Hop"))
        pair = PairKey("e", "f")
        done = put_preset(project, preset, Where((other(project),), (pair,)), How(strength=0.5)).project
        cue = next(c for c in route_by_id(done, other(project)).transition.cues if c.prop == "position")
        # The layer is 4 times as high as the one that it was drawn for; half as strong.
        self.assertEqual(cue.motion_path.points[0], (0.5, 0.0, -40.0) if cue.motion_path else None)
        with self.assertRaises(EditError):
            record.capture_path(project, "R", B, "straight")
        with self.assertRaises(EditError):
            put_preset(project, preset, Where(("R",), (PairKey(None, "in"),)))

    def test_a_loop_goes_on_many_layers_each_a_little_later(self) -> None:
        project, ident = add_loop(scene(), "A", "a", Pose(shift_x=5.0, rotation=10.0))
        project = edit_loop(project, "A", ident, lambda old: replace(old, duration=800.0))
        preset = self.check(record.capture_loop(project, "A", ident, "Bob"))
        done = put_preset(project, preset, Where(frame="C", layers=("e", "g")), How(step=100.0, stretch=2.0)).project
        first, second = frame_by_id(done, "C").loops
        self.assertEqual((first.layer, first.offset.shift_x, first.duration), ("e", 10.0, 1600.0))
        self.assertEqual((second.offset.shift_x, first.start_offset - second.start_offset), (20.0, 100.0))
        self.assertEqual(second.offset.rotation, 10.0)
        recorded = put_preset(project, preset, Where(frame="C", layers=("e",)), How(follow=False)).project
        self.assertEqual(frame_by_id(recorded, "C").loops[0].offset.shift_x, 5.0)
        with self.assertRaises(EditError):
            put_preset(project, preset, Where(frame="C"))

    def test_a_part_comes_with_what_it_uses_and_once_only(self) -> None:
        lamp = Part("P1", "Lamp", 10, 10, (Frame("F1", "Off", 10, 10, layers=(box("L1", 0, 0, 9, 9),)),))
        pose = Frame("F2", "Idle", 40, 40, layers=(box("L2", 0, 0, 40, 40),))
        project = replace(scene(), parts=(lamp, Part("P2", "Buoy", 40, 40, (pose,))))
        project = replace(project, parts=(lamp, replace(project.parts[1], poses=(_with_use(project, "P1", pose),))))
        preset = self.check(record.capture_part(project, "P2", "Buoy"))
        self.assertEqual([part.name for part in preset.part.parts] if preset.part else [], ["Lamp", "Buoy"])
        empty = scene()
        done = put_preset(empty, preset, Where(frame="C", at=(30.0, 40.0))).project
        self.assertEqual([part.name for part in done.parts], ["Lamp", "Buoy"])
        use = frame_by_id(done, "C").layers[-1]
        self.assertEqual((use.x, use.y, use.w), (30.0, 40.0, 40.0))
        twice = put_preset(done, preset, Where(frame="D")).project
        self.assertEqual(len(twice.parts), 2)
        with self.assertRaises(EditError):
            put_preset(empty, preset, Where())

    def test_ways_fit_what_comes_or_goes_only(self) -> None:
        project = scene()
        preset = self.check(capture(project, "R", PairKey(None, "in"), "Tide"))
        done = put_preset(project, preset, Where(("R",), (A, PairKey(None, "in"))))
        self.assertIn("1 of 2", done.says)
        with self.assertRaises(EditError) as caught:
            put_preset(project, preset, Where(("R",), (A,)))
        self.assertIn("comes or goes", str(caught.exception))
        where = Where(("R",), (PairKey("t", None), PairKey(None, "in")))
        done = put_preset(project, preset, where, How(direction="right"))
        poses = {e.layer: e.pose for e in route_by_id(done.project, "R").transition.absents}
        self.assertLess(poses["in"].shift_x, 0.0)  # it comes from the left, and goes to the right
        self.assertGreater(poses["t"].shift_x, 0.0)
        self.assertEqual(done.says, "")

    def test_a_kind_holds_what_it_is(self) -> None:
        for kind in KINDS:
            if kind not in ("layer motion", "enter", "leave"):
                with self.subTest(kind), self.assertRaises(FormatError):
                    from_json(to_json(Preset("x", kind, 100.0)), "x")


def _empty(frame: Frame) -> Frame:
    return replace(frame, layers=())


def _with_use(project: Project, part: str, pose: Frame) -> Frame:
    """A pose with a use of a part in it."""
    stage = replace(project, frames=(pose,))
    return add_use(stage, pose.id, part)[0].frames[0]


class ToMeasure(unittest.TestCase):
    """Slower, stronger, another way, another start."""

    def setUp(self) -> None:
        self.project = scene()
        self.enter = capture(self.project, "R", PairKey(None, "in"), "Tide")

    def test_stretch_multiplies_times(self) -> None:
        preset = capture(self.project, "R", A, "Mine")
        route = other(self.project)
        project = set_duration(self.project, route, 200.0)
        done = put_preset(project, preset, Where((route,), (PairKey("e", "f"),)), How(stretch=2.0)).project
        plan = plan_of(done, route_by_id(done, route).transition)
        self.assertEqual(plan.of(CueKey("e", "f", ""))[:2], (100.0, 200.0))

    def test_strength_multiplies_shifts_and_overshoot(self) -> None:
        made = adjusted(self.enter, How(strength=2.0))
        self.assertEqual((made.absent_px or Away()).shift_x, 40.0)
        self.assertEqual((made.absent_px or Away()).opacity, 0.0)
        curve = replace(capture(self.project, "R", A, "x"), curve=Handles(0.2, -0.1, 0.4, 1.5))
        stronger = adjusted(curve, How(strength=2.0)).curve
        self.assertEqual(stronger, Handles(0.2, -0.2, 0.4, 2.0))
        self.assertEqual(adjusted(replace(curve, curve=Spring(0.3)), How(strength=0.5)).curve, Spring(0.15))
        self.assertEqual(adjusted(replace(curve, curve=Line()), How(strength=0.5)).curve, Line())

    def test_a_direction_is_where_the_layer_goes(self) -> None:
        far = (20.0**2 + 10.0**2) ** 0.5
        for direction, x, y in (("right", -far, 0.0), ("up", 0.0, far), ("down left", far / 2**0.5, -far / 2**0.5)):
            pose: Any = adjusted(self.enter, How(direction=direction_of(direction))).absent_px
            self.assertAlmostEqual(pose.shift_x, x)
            self.assertAlmostEqual(pose.shift_y, y)
        edge = replace(self.enter, absent=Away(edge="top"))
        self.assertEqual((adjusted(edge, How(direction="right")).absent or Away()).edge, "left")
        leave = replace(edge, kind="leave")
        self.assertEqual((adjusted(leave, How(direction="right")).absent or Away()).edge, "right")

    def test_whole_screens_go_that_way_and_what_has_no_way_says_so(self) -> None:
        berth = next(preset for preset in built_in() if preset.name == "Next berth")
        done = put_preset(self.project, berth, Where(("R",)), How(direction="down")).project
        motion = route_by_id(done, "R").transition
        self.assertEqual((motion.leave.edge, motion.enter.edge), ("bottom", "top"))
        with self.assertRaises(EditError):
            put_preset(self.project, capture(self.project, "R", A, "x"), Where(("R",), (B,)), How(direction="up"))

    def test_directions_are_read_as_people_write_them(self) -> None:
        self.assertEqual(len(DIRECTIONS), 8)
        self.assertEqual((direction_of("Left-Up"), direction_of(" down right ")), ("up left", "down right"))
        with self.assertRaises(EditError):
            direction_of("north")

    def test_start_and_step_put_it_off(self) -> None:
        preset = capture(self.project, "R", A, "Mine")
        where = Where((other(self.project),), (PairKey("e", "f"), PairKey("g", "h")))
        done = put_preset(self.project, preset, where, How(follow=False, start=30.0, step=50.0)).project
        plan = plan_of(done, route_by_id(done, other(self.project)).transition)
        self.assertEqual([plan.of(CueKey(*pair, ""))[:2] for pair in where.pairs], [(30.0, 130.0), (80.0, 180.0)])

    def test_measures_out_of_reach_are_refused(self) -> None:
        for how in (How(stretch=0.0), How(strength=-1.0), How(stretch=float("nan"))):
            with self.assertRaises(EditError):
                adjusted(self.enter, how)


class Shelves(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.shelf = Shelf(Path(folder.name))
        self.preset = capture(scene(), "R", A, "Mine")

    def test_the_same_is_taken_once_and_another_of_the_name_as_wanted(self) -> None:
        self.assertIsNotNone(self.shelf.take(self.preset)[0])
        made, says = self.shelf.take(replace(self.preset, name="Other name"))
        self.assertIsNone(made)
        self.assertIn("as Mine", says)
        changed = replace(self.preset, duration=9.0)
        self.assertIsNone(self.shelf.take(changed, "skip")[0])
        self.assertEqual([p.duration for p in self.shelf.read().presets], [400.0])
        self.shelf.take(changed, "keep")
        self.assertEqual([p.name for p in self.shelf.read().presets], ["Mine", "Mine 2"])
        self.shelf.take(replace(changed, duration=8.0), "replace")
        self.assertEqual([p.duration for p in self.shelf.read().presets], [8.0, 9.0])


class Packs(unittest.TestCase):
    def setUp(self) -> None:
        project = scene()
        self.presets = (capture(project, "R", A, "Mine"), record.capture_transition(project, "R", "Mine!"))

    def test_a_pack_reads_back_and_is_always_the_same(self) -> None:
        data = packs.pack(self.presets, "Skerry Line", "CC0-1.0", "For the harbour")
        manifest, found, troubles = packs.unpack(data, "x")
        self.assertEqual((found, troubles), (self.presets, ()))
        self.assertEqual(
            (manifest.author, manifest.licence, manifest.notes), ("Skerry Line", "CC0-1.0", "For the harbour")
        )
        self.assertEqual(len(set(manifest.presets)), 2)
        self.assertEqual(packs.pack(self.presets, "Skerry Line", "CC0-1.0", "For the harbour"), data)

    def test_what_is_broken_in_it_is_named_and_the_rest_is_read(self) -> None:
        data = packs.pack(self.presets)
        first = packs.unpack(data, "x")[0].presets[0]
        _, found, troubles = packs.unpack(_changed(data, {first: b"{"}), "x")
        self.assertEqual(found, self.presets[1:])
        self.assertEqual([trouble.file for trouble in troubles], [first])
        _, found, troubles = packs.unpack(_changed(data, {first: None}), "x")
        self.assertEqual((len(found), len(troubles)), (1, 1))
        huge = _changed(data, {first: b" " * (3 * 2**20)})
        self.assertLess(len(huge), 2**20)
        self.assertEqual(len(packs.unpack(huge, "x")[2]), 1)

    def test_no_pack_is_one_sentence(self) -> None:
        data = packs.pack(self.presets)
        newer = b'{"presets": [], "format": 9}'
        for bad in (
            b"",
            b"PK",
            _changed(data, {"manifest.json": None}),
            _changed(data, {"manifest.json": b"["}),
            _changed(data, {"manifest.json": newer}),
        ):
            with self.assertRaises(FormatError) as caught:
                packs.unpack(bad, "some.avelt-pack")
            self.assertIn("some.avelt-pack", str(caught.exception))


def _changed(data: bytes, files: dict[str, bytes | None]) -> bytes:
    """A zip with other files, or without some."""
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for name in old.namelist():
            content = files.get(name, old.read(name))
            if content is not None:
                new.writestr(name, content)
    return out.getvalue()


class Tokens(unittest.TestCase):
    def test_presets_come_back_whole(self) -> None:
        project = scene()
        presets = (capture(project, "R", A, "Mine"), record.capture_curve(project, Handles(0.1, 0.2, 0.3, 0.4), "Soft"))
        data, near = tokens.to_tokens(presets)
        plain = json.loads(data)
        self.assertEqual(plain["Soft"]["$type"], "cubicBezier")
        self.assertEqual(plain["Soft"]["$value"], [0.1, 0.2, 0.3, 0.4])
        value = plain["Mine"]["$value"]
        self.assertEqual((value["delay"], value["duration"]), ({"value": 100.0, "unit": "ms"},) * 2)
        self.assertEqual(len(near), 1)  # a spring is no cubic Bezier
        self.assertEqual(tokens.from_tokens(data, "x"), (presets, ()))

    def test_tokens_of_others(self) -> None:
        document = {
            "ease": {"$type": "cubicBezier", "out": {"$value": [0, 0, 0.2, 1]}},
            "time": {"quick": {"$type": "duration", "$value": {"value": 0.2, "unit": "s"}}},
            "move": {
                "in": {
                    "$type": "transition",
                    "$value": {"duration": "{time.quick}", "delay": "50ms", "timingFunction": "{ease.out}"},
                }
            },
            "bad": {"$type": "cubicBezier", "$value": [0, 0, 2, 1]},
            "round": {"$type": "cubicBezier", "$value": "{round}"},
            "gone": {"$type": "transition", "$value": {"duration": "{time.slow}"}},
            "red": {"$type": "color", "$value": "#f00"},
        }
        presets, troubles = tokens.from_tokens(json.dumps(document).encode(), "x")
        self.assertEqual(
            [(p.name, p.kind, p.duration) for p in presets],
            [("ease out", "curve", 0.0), ("move in", "layer motion", 250.0)],
        )
        (cue,) = presets[1].cues
        self.assertEqual((cue.start_ms, cue.end_ms, cue.start, cue.curve), (50.0, 250.0, 0.2, Handles(0, 0, 0.2, 1)))
        self.assertEqual({trouble.file for trouble in troubles}, {"time.quick", "bad", "round", "gone"})

    def test_no_tokens_file_is_one_sentence(self) -> None:
        for bad in (b"{", b"[]", b"\xff"):
            with self.assertRaises(FormatError):
                tokens.from_tokens(bad, "x")


if __name__ == "__main__":
    unittest.main()
