"""Presets: taken from one layer, put on another, kept in files."""

import json
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import msgspec

from avelt.core.edits.cues import change_cues, space_of_cues
from avelt.core.edits.keyframes import put_keyframe
from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import set_absent, set_cue, set_duration, settle
from avelt.core.edits.ties_and_staggers import make_stagger, tie
from avelt.core.errors import AveltError, FormatError
from avelt.core.model.curves import Handles, Named, Spring
from avelt.core.model.find import layer_index
from avelt.core.model.motion import CueKey, MotionPath, Stagger
from avelt.core.model.values import Away, Pose
from avelt.core.presets.capture import capture, left_out, put
from avelt.core.presets.picture import picture_of
from avelt.core.presets.shelf import Listing, Shelf, built_in, file_name, read_preset
from avelt.core.presets.values import ENDING, Preset, from_json, to_json
from avelt.core.timing.schedule import timed
from tests.support import box, project_of

replace = msgspec.structs.replace
PAIR, OTHER = ("a", "b"), ("c", "d")


def tuned() -> Any:
    """Two pairs and a layer that enters (40 x 20) and one that leaves (80 x 50)."""
    project = project_of(
        (
            box("a", 0, 0, 10, 10, name="One"),
            box("c", 50, 50, 20, 20, name="Two"),
            box("out", 0, 150, 80, 50, name="Out"),
        ),
        (
            box("b", 90, 0, 10, 10, name="One"),
            box("d", 0, 50, 20, 20, name="Two"),
            box("in", 150, 0, 40, 20, "#0f0", name="Newcomer"),
        ),
    )
    project = set_duration(project, "R", 400.0)
    project = set_cue(project, "R", CueKey(*PAIR, ""), start=100.0, curve=Spring(0.3))
    project = set_cue(project, "R", CueKey(*PAIR, "size"), end=300.0, curve=Named("swell"))
    return set_absent(project, "R", "in", Pose(shift_x=20.0, shift_y=-10.0, opacity=0.0))


class Applying(unittest.TestCase):
    def test_a_cue_set_gives_the_other_pair_the_same_motion(self) -> None:
        project = tuned()
        preset = capture(project, "R", PAIR, "Mine")
        new = put(project, "R", OTHER, preset)
        for prop in ("", "size", "position"):
            a, b = (timed(new, new.routes[0].transition, *ends, prop) for ends in (PAIR, OTHER))
            self.assertEqual((a.start, a.end, a.plain), (b.start, b.end, b.plain))

    def test_times_follow_the_length_or_stay_as_recorded(self) -> None:
        preset = capture(tuned(), "R", PAIR, "Mine")
        short = set_duration(
            project_of((box("c", 0, 0, 9, 9, name="x"),), (box("d", 5, 5, 9, 9, name="x"),)), "R", 200.0
        )
        follows = put(short, "R", OTHER, preset).routes[0].transition
        self.assertEqual(timed(short, follows, *OTHER, "").start, 50.0)
        recorded = put(short, "R", OTHER, preset, "recorded").routes[0].transition
        self.assertEqual(timed(short, recorded, *OTHER, "").start, 100.0)

    def test_what_was_inherited_is_written_out(self) -> None:
        preset = capture(tuned(), "R", OTHER, "Plain")
        self.assertEqual((preset.cues[0].start, preset.cues[0].end), (0.0, 1.0))
        self.assertIsNotNone(preset.cues[0].curve)
        self.assertNotIsInstance(preset.cues[0].curve, Named)

    def test_an_enter_follows_the_size_of_its_new_layer(self) -> None:
        project = tuned()
        preset = capture(project, "R", (None, "in"), "Tide in")
        self.assertEqual((preset.kind, preset.absent.shift_x, preset.absent.shift_y), ("enter", 0.5, -0.5))
        new = put(project, "R", ("out", None), preset)
        absent = {entry.layer: entry.pose for entry in new.routes[0].transition.absents}
        self.assertEqual((absent["out"].shift_x, absent["out"].shift_y), (40.0, -25.0))
        recorded = put(project, "R", ("out", None), preset, "recorded")
        absent = {entry.layer: entry.pose for entry in recorded.routes[0].transition.absents}
        self.assertEqual(absent["out"].shift_x, 20.0)

    def test_old_cues_give_way(self) -> None:
        project = set_cue(tuned(), "R", CueKey(*OTHER, "rotation"), start=7.0)
        new = put(project, "R", OTHER, capture(project, "R", PAIR, "Mine"))
        self.assertNotIn(CueKey(*OTHER, "rotation"), [cue.key for cue in new.routes[0].transition.cues])

    def test_its_picture_moves(self) -> None:
        for ends in (PAIR, (None, "in"), ("out", None)):
            program = picture_of(capture(tuned(), "R", ends, "x")).program
            self.assertTrue((program.moving < program.dense).any())
            self.assertEqual(program.duration, 400.0)


class Amounts(unittest.TestCase):
    """What is not the layer's own state is kept as ratios and differences, and typed turns are kept."""

    def test_keyframes_are_between_the_ends_of_the_other_pair(self) -> None:
        project = put_keyframe(tuned(), "R", CueKey(*PAIR, "opacity"), 0.5, (0.5,))
        project = put_keyframe(project, "R", CueKey(*PAIR, "position"), 0.5, (45.0, -30.0))
        preset = from_json(to_json(capture(project, "R", PAIR, "Hop")), "x")
        self.assertEqual(preset.size, (10, 10))
        new = put(project, "R", OTHER, preset)
        cues = {cue.key: cue for cue in new.routes[0].transition.cues}
        self.assertEqual(cues[CueKey(*OTHER, "opacity")].keyframes[0].value, (0.5,))
        # Half way the other is at (25, 50); the hop is twice as high, as the layer is.
        self.assertEqual(cues[CueKey(*OTHER, "position")].keyframes[0].value, (25.0, -10.0))
        recorded = put(project, "R", OTHER, preset, "recorded").routes[0].transition
        cue = next(cue for cue in recorded.cues if cue.key == CueKey(*OTHER, "position"))
        self.assertEqual(cue.keyframes[0].value, (25.0, 20.0))
        back = put(project, "R", PAIR, preset).routes[0].transition
        kept = next(cue for cue in back.cues if cue.key == CueKey(*PAIR, "position"))
        self.assertEqual(kept.keyframes[0].value, (45.0, -30.0))

    def test_motion_paths_colour_spaces_and_what_is_muted(self) -> None:
        way = MotionPath(((0.3, 0.0, -20.0), (0.7, 0.0, -20.0)), True)
        project = change_cues(tuned(), "R", [CueKey(*PAIR, "position")], motion_path=way, muted=True)
        project = space_of_cues(project, "R", [CueKey(*PAIR, "fill")], "lab")
        cues = {
            cue.prop: cue
            for cue in put(project, "R", OTHER, capture(project, "R", PAIR, "x")).routes[0].transition.cues
        }
        self.assertEqual((cues["fill"].space, cues["position"].muted), ("lab", True))
        self.assertEqual(cues["position"].motion_path.points[0], (0.3, 0.0, -40.0))

    def test_typed_turns_go_round_as_often(self) -> None:
        project = set_value(tuned(), "B", "b", "rotation", 730.0)
        preset = capture(project, "R", PAIR, "Spin")
        self.assertEqual([cue.turned for cue in preset.cues if cue.prop == "rotation"], [730.0])
        new = put(set_value(project, "B", "d", "rotation", 20.0), "R", OTHER, preset)
        self.assertEqual(layer_index(new.frames[1])["d"].rotation, 740.0)
        plain = capture(tuned(), "R", PAIR, "Plain")
        self.assertEqual(put(project, "R", OTHER, plain).frames, project.frames)

    def test_what_lies_behind_stays_behind(self) -> None:
        project = set_absent(tuned(), "R", "in", Away(shift_x=9.0, behind="a"))
        self.assertEqual(capture(project, "R", (None, "in"), "x").absent_px.behind, "")
        self.assertIn("behind", left_out(project, "R", (None, "in")))

    def test_bad_amounts_are_refused(self) -> None:
        good = capture(put_keyframe(tuned(), "R", CueKey(*PAIR, "size"), 0.5, (5.0, 5.0)), "R", PAIR, "x")
        plain = json.loads(to_json(good))
        spot = next(k for k, cue in enumerate(plain["cues"]) if cue.get("keyframes"))
        for key, bad in (("first", [1.0]), ("turned", 1e300), ("keyframes", [{"at": 0.5, "value": [1.0]}])):
            broken = json.loads(to_json(good))
            broken["cues"][spot][key] = bad
            with self.assertRaises(FormatError):
                from_json(json.dumps(broken).encode(), "x")


class LeftOut(unittest.TestCase):
    def test_what_a_preset_does_not_keep_is_said(self) -> None:
        project = tuned()
        self.assertEqual(left_out(project, "R", PAIR), "")
        settled = settle(project, "R", PAIR, order_at=0.2)
        self.assertIn("content", left_out(settled, "R", PAIR))
        self.assertEqual(left_out(settled, "R", OTHER), "")
        tied = tie(project, "R", CueKey(*OTHER, ""), CueKey(*PAIR, ""), "start", "end")
        self.assertIn("tied", left_out(tied, "R", OTHER))
        spread = make_stagger(project, "R", [CueKey(*PAIR, ""), CueKey(*OTHER, "")], Stagger("", ()))[0]
        self.assertIn("stagger", left_out(spread, "R", OTHER))


class Reading(unittest.TestCase):
    """A shelf reads what changed, and no longer than it is given."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.shelf = Shelf(Path(folder.name))
        for name in ("One", "Two", "Three"):
            self.shelf.keep(replace(built_in()[0], name=name))

    def test_what_is_as_it_was_is_the_very_same(self) -> None:
        first = {preset.name: preset for preset in self.shelf.read().presets}
        self.shelf.keep(replace(first["Two"], duration=77.0))
        again = {preset.name: preset for preset in self.shelf.read().presets}
        self.assertIs(again["One"], first["One"])
        self.assertEqual(again["Two"].duration, 77.0)
        (self.shelf.folder / file_name("Three")).write_bytes(b"no preset")
        listing = self.shelf.read()
        self.assertEqual(([p.name for p in listing.presets], len(listing.troubles)), (["One", "Two"], 1))
        self.assertEqual(self.shelf.read(), listing)
        self.shelf.remove("One")
        self.assertEqual([p.name for p in self.shelf.read().presets], ["Two"])

    def test_it_goes_on_where_it_stopped(self) -> None:
        self.assertEqual(self.shelf.read(0.0), Listing((), (), True))
        with mock.patch("avelt.core.presets.shelf.time.monotonic", side_effect=[0.0, 0.0, 2.0, 2.0]):
            listing = self.shelf.read(1.0)
        self.assertEqual((len(listing.presets), listing.more), (1, True))
        with mock.patch("avelt.core.presets.shelf.time.monotonic", side_effect=[0.0, 0.0, 0.0]):
            listing = self.shelf.read(1.0)
        self.assertEqual((len(listing.presets), listing.more), (3, False))


class Files(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.shelf = Shelf(Path(folder.name) / "presets")
        self.preset = capture(tuned(), "R", PAIR, "Rise & settle")

    def test_it_reads_back_the_same(self) -> None:
        self.assertEqual(from_json(to_json(self.preset), "x"), self.preset)
        self.assertEqual(json.loads(to_json(self.preset))["format"], 4)

    def test_the_shelf_keeps_finds_and_forgets(self) -> None:
        self.assertEqual(self.shelf.read().presets, ())
        path = self.shelf.keep(self.preset)
        self.assertEqual(path.suffix, ENDING)
        self.assertEqual(Shelf(self.shelf.folder).find("RISE & settle"), self.preset)
        self.shelf.keep(replace(self.preset, duration=9.0))
        self.assertEqual(len(self.shelf.read().presets), 1)
        self.shelf.remove("Rise & settle")
        with self.assertRaises(AveltError):
            self.shelf.find("Rise & settle")

    def test_a_near_name_is_suggested(self) -> None:
        self.shelf.keep(self.preset)
        with self.assertRaises(AveltError) as caught:
            self.shelf.find("Rise and settl")
        self.assertIn("Rise & settle", str(caught.exception))

    def test_bad_files_get_a_sentence_and_do_not_hide_good_ones(self) -> None:
        self.shelf.keep(self.preset)
        bad = {
            "newer": b'{"name":"x","kind":"enter","length":1,"format":7}',
            "broken": b"{",
            "kind": b'{"name":"x","kind":"dance","length":1}',
            "number": b'{"name":"x","kind":"enter","length":1e99}',
            "noname": b'{"name":" ","kind":"enter","length":1}',
            "curve": b'{"name":"x","kind":"enter","length":9,"cues":[{"curve":{"curve":"handles","x1":4,"y1":0,"x2":0,"y2":0}}]}',
        }
        for name, data in bad.items():
            path = self.shelf.folder / f"{name}{ENDING}"
            path.write_bytes(data)
            with self.subTest(name), self.assertRaises(AveltError) as caught:
                read_preset(path)
            self.assertIn(name, str(caught.exception))
        listing = self.shelf.read()
        self.assertEqual(len(listing.presets), 1)
        self.assertEqual(len(listing.troubles), len(bad))
        self.assertTrue(any("newer Avelt" in trouble.says for trouble in listing.troubles))

    def test_file_names_are_safe(self) -> None:
        self.assertEqual(file_name("../../etc/Pass wd"), f"etcpass-wd{ENDING}")
        self.assertEqual(file_name("///"), f"preset{ENDING}")

    def test_curves_survive(self) -> None:
        preset = Preset(
            "c", "layer motion", 100.0, (msgspec.structs.replace(self.preset.cues[0], curve=Handles(0.1, 2, 0.3, -1)),)
        )
        self.assertEqual(from_json(to_json(preset), "x").cues[0].curve, Handles(0.1, 2, 0.3, -1))
