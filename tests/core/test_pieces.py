"""What a preset carries, piece by piece: ticked off when it is saved and when it is put on."""

import json
import unittest

from msgspec.structs import replace

from avelt.core.edits.cues import change_cues
from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.edits.routes import edit_transition, set_absent, set_cue, set_delay, set_duration
from avelt.core.edits.ties_and_staggers import make_stagger
from avelt.core.errors import EditError, FormatError
from avelt.core.model.curves import Line, Spring
from avelt.core.model.find import frame_by_id, route_by_id
from avelt.core.model.motion import CueKey, Keyframe, PairKey, Stagger
from avelt.core.model.second import LayerChanges
from avelt.core.model.values import Away, Pose, Project
from avelt.core.presets import record
from avelt.core.presets.adjusted import How
from avelt.core.presets.capture import capture
from avelt.core.presets.links import put_linked, take_changed, uses
from avelt.core.presets.pieces import pieces, without
from avelt.core.presets.places import Where
from avelt.core.presets.put_on import put_preset
from avelt.core.presets.values import Preset, from_json, to_json
from avelt.core.timing.schedule import timed
from tests.core.test_preset_kinds import A, B, other, scene

OWN = Spring(-0.2)
THERE, COMES = PairKey("e", "f"), PairKey(None, "in")


def keys(preset: Preset) -> list[str]:
    return [piece.key for piece in pieces(preset)]


class OfLayers(unittest.TestCase):
    def setUp(self) -> None:
        self.project = change_cues(scene(), "R", [CueKey(*A, "opacity")], keyframes=(Keyframe(0.5, (0.4,)),))
        self.preset = capture(self.project, "R", A, "Hop")
        self.route = other(self.project)
        self.pair = THERE

    def test_words(self) -> None:
        self.assertEqual(
            [piece.words for piece in pieces(self.preset)],
            ["times, 100 to 200 ms", "curve", "position (path)", "opacity (1 keyframe)"],
        )

    def test_what_is_left_out_is_not_in_the_file_and_stays_as_it_is_there(self) -> None:
        less = from_json(to_json(without(self.preset, ["position", "times", "curves"])), "x")
        self.assertEqual(keys(less), ["opacity"])
        self.assertEqual(less.left_out, ("position", "times", "curves"))
        self.assertNotIn("motion_path", to_json(less).decode())
        project = set_cue(self.project, self.route, CueKey(*self.pair, ""), start=11.0, end=77.0, curve=OWN)
        project = set_cue(project, self.route, CueKey(*self.pair, "position"), curve=Line())
        for made in (
            put_preset(project, less, Where((self.route,), (self.pair,))).project,
            put_preset(
                project, self.preset, Where((self.route,), (self.pair,)), How(left_out=("position", "times", "curves"))
            ).project,
        ):
            whole = timed(made, route_by_id(made, self.route).transition, *self.pair, "")
            self.assertEqual((whole.start, whole.end, whole.curve), (11.0, 77.0, OWN))
            cues = {cue.prop: cue for cue in route_by_id(made, self.route).transition.cues}
            self.assertEqual((cues["position"].curve, cues["position"].motion_path), (Line(), None))
            self.assertEqual(len(cues["opacity"].keyframes), 1)

    def test_each_one_alone(self) -> None:
        project = set_cue(self.project, self.route, CueKey(*self.pair, ""), start=11.0, end=77.0, curve=OWN)
        for gone, kept in (("times", (11.0, 77.0, Spring(0.3))), ("curves", (100.0, 200.0, OWN))):
            how = How(False, left_out=(gone,))
            made = put_preset(project, self.preset, Where((self.route,), (self.pair,)), how).project
            whole = timed(made, route_by_id(made, self.route).transition, *self.pair, "")
            self.assertEqual((whole.start, whole.end, whole.curve), kept)

    def test_the_way_it_comes(self) -> None:
        enter = capture(self.project, "R", COMES, "Comes")
        self.assertIn(("ways", "way to come"), pieces(enter))
        project = set_absent(self.project, "R", "in", Away(rotation=33.0))
        made = put_preset(project, enter, Where(("R",), (COMES,)), How(left_out=("ways",))).project
        (entry,) = route_by_id(made, "R").transition.absents
        self.assertEqual(entry.pose.rotation, 33.0)

    def test_bad_wishes(self) -> None:
        with self.assertRaises(EditError) as caught:
            without(self.preset, ["sparkle"])
        self.assertIn("times, curves, position, opacity", str(caught.exception))
        with self.assertRaises(EditError):
            without(self.preset, keys(self.preset))
        with self.assertRaises(EditError):
            without(record.capture_curve(self.project, OWN, "C"), ["curves"])
        self.assertIs(without(self.preset, []), self.preset)
        long = json.loads(to_json(self.preset)) | {"left_out": ["x" * 2000]}
        with self.assertRaises(FormatError):
            from_json(json.dumps(long).encode(), "x")


class OfTransitions(unittest.TestCase):
    def setUp(self) -> None:
        project = set_delay(scene(), "R", 90.0)
        project, _ = make_stagger(project, "R", [CueKey(*A, "fill"), CueKey(*B, "fill")], Stagger("", (), ms=30.0))
        self.project = edit_transition(project, "R", lambda old: replace(old, leave=Away(shift_y=9.0), curve=OWN))
        self.preset = record.capture_transition(self.project, "R", "All of it")
        self.route = other(self.project)

    def put(self, *left_out: str, follow: bool = True) -> Project:
        project = set_duration(self.project, self.route, 800.0)
        return put_preset(project, self.preset, Where((self.route,)), How(follow, left_out=left_out)).project

    def test_what_it_carries(self) -> None:
        self.assertEqual(
            [piece.words for piece in pieces(self.preset)],
            [
                "length, 400 ms, after 90 ms",
                "times of its layers",
                "curves",
                "ways to come and go",
                "position (path)",
                "fill",
                "1 tie",
                "1 stagger",
            ],
        )

    def test_the_length_may_be_the_routes_own_and_times_follow_it(self) -> None:
        whole, less = self.put(), self.put("length")
        self.assertEqual((route_by_id(whole, self.route).transition.duration, _delay(whole, self.route)), (400.0, 90.0))
        self.assertEqual((route_by_id(less, self.route).transition.duration, _delay(less, self.route)), (800.0, 0.0))
        first = next(cue for cue in route_by_id(less, self.route).transition.cues if not cue.prop)
        self.assertEqual((first.start, first.end), (200.0, 400.0))
        as_recorded = self.put("length", follow=False)
        first = next(cue for cue in route_by_id(as_recorded, self.route).transition.cues if not cue.prop)
        self.assertEqual((first.start, first.end), (100.0, 200.0))

    def test_curves_ways_and_rules(self) -> None:
        old = route_by_id(self.project, self.route).transition
        less = route_by_id(self.put("curves", "ways", "ties", "staggers"), self.route).transition
        self.assertEqual((less.curve, less.leave, less.ties, less.staggers), (old.curve, old.leave, (), ()))
        self.assertTrue(less.cues)
        whole = route_by_id(self.put(), self.route).transition
        self.assertEqual((whole.curve, whole.leave), (OWN, Away(shift_y=9.0)))
        self.assertEqual((len(whole.ties), len(whole.staggers)), (1, 1))

    def test_rules_go_with_the_cues_that_they_are_about(self) -> None:
        less = without(self.preset, ["fill"])
        assert less.recorded is not None
        self.assertEqual(less.recorded.transition.staggers, ())
        self.assertEqual(len(less.recorded.transition.ties), 1)


class OfLoops(unittest.TestCase):
    def test_what_is_left_out_does_not_move(self) -> None:
        project, loop = add_loop(scene(), "A", "a", Pose())
        pose = Pose(shift_x=20.0, rotation=30.0)
        project = edit_loop(
            project, "A", loop, lambda old: replace(old, offset=pose, wait=200.0, changes=LayerChanges(blur=4.0))
        )
        preset = record.capture_loop(project, "A", loop, "Sway")
        self.assertEqual(keys(preset), ["position", "rotation", "blur", "waits"])
        made = put_preset(project, preset, Where(frame="C", layers=("e",)), How(left_out=("rotation", "waits"))).project
        (found,) = frame_by_id(made, "C").loops
        self.assertEqual((found.offset.rotation, found.wait, found.changes.blur), (0.0, 0.0, 4.0))
        self.assertNotEqual(found.offset.shift_x, 0.0)


class Linked(unittest.TestCase):
    def test_a_use_goes_on_without_what_it_left_out(self) -> None:
        project = scene()
        preset, route = capture(project, "R", A, "Hop"), other(project)
        pair = THERE
        made = put_linked(project, preset, Where((route,), (pair,)), How(False, left_out=("times",))).project
        self.assertEqual((made.links[0].left_out, uses(made)[0].own), (("times",), ()))
        later = replace(preset, cues=tuple(replace(cue, end_ms=150.0, curve=OWN) for cue in preset.cues))
        made, _ = take_changed(made, later)
        whole = timed(made, route_by_id(made, route).transition, *pair, "")
        self.assertEqual((whole.start, whole.end, whole.curve), (0.0, 300.0, OWN))


def _delay(project: Project, route: str) -> float:
    return route_by_id(project, route).delay


if __name__ == "__main__":
    unittest.main()
