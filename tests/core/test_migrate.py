"""Files of all formats that ever were: what they said then they say now, and nothing in them is lost in silence."""

from __future__ import annotations

import hashlib
import json
import unittest
import zipfile
from pathlib import Path
from typing import Any

import msgspec

from avelt.core.errors import FormatError
from avelt.core.formats.migrate import migrated, migrated_preset
from avelt.core.formats.project_file import from_json, open_project, to_json
from avelt.core.model import curves, follows, layers, motion, second, tapes, triggers, values
from avelt.core.model.motion import CueKey, Keyframe, MotionPath
from avelt.core.model.triggers import ReplaceOver, Timer
from avelt.core.model.value import Value
from avelt.core.presets.links import uses
from avelt.core.presets.shelf import read_preset
from avelt.core.record import Record
from avelt.core.timing.compile import compile_route
from avelt.core.timing.sampling import records_of

FILES = Path(__file__).resolve().parent.parent / "files"


def document(name: str) -> Any:
    with zipfile.ZipFile(FILES / name) as archive:
        return json.loads(archive.read("project.json"))


def near(value: Any) -> Any:
    """Numbers to four digits: the last ones are the processor's."""
    if isinstance(value, float):
        return round(value, 4) + 0.0
    if isinstance(value, list):
        return [near(entry) for entry in value]
    return {key: near(entry) for key, entry in value.items()} if isinstance(value, dict) else value


def digest(project: values.Project, route: values.Route) -> str:
    """What the samples of a route come to; the kept ones were made by the Avelt of each format's time."""
    program = compile_route(project, route)
    found = [{"at": ms, "layers": near(records_of(program.at(ms)))} for ms in (0.0, 60.0, 150.5, 240.0, 400.0, 520.0)]
    return hashlib.sha256(json.dumps(found, sort_keys=True).encode()).hexdigest()[:16]


class KeptFiles(unittest.TestCase):
    def test_they_move_as_they_did(self) -> None:
        kept = json.loads((FILES / "samples.json").read_text())
        for number in ("1", "2", "3"):
            project = open_project(FILES / f"format_{number}.avelt")
            for route in project.routes:
                with self.subTest(format=number, route=route.id):
                    self.assertEqual(digest(project, route), kept[number][route.id])

    def test_three_and_four_are_the_same_project(self) -> None:
        self.assertEqual(open_project(FILES / "format_3.avelt"), open_project(FILES / "format_4.avelt"))

    def test_today_writes_what_the_kept_file_of_today_says(self) -> None:
        project = open_project(FILES / "format_9.avelt")
        self.assertEqual(json.loads(to_json(project)), document("format_9.avelt"))
        self.assertEqual(project.muted[0].reason, "meant so")
        self.assertEqual([use.own for use in uses(project)], [("fill",), (), ()])
        self.assertEqual(project.parts[0].links[0].left_out, ("position",))

    def test_five_to_nine_only_add(self) -> None:
        for number in ("4", "5", "6", "7", "8"):
            project = open_project(FILES / f"format_{number}.avelt")
            self.assertEqual(json.loads(to_json(project)), {**document(f"format_{number}.avelt"), "format": 9})
        today = open_project(FILES / "format_6.avelt")
        self.assertEqual((today.frames[0].scroll, [tape.name for tape in today.tapes]), ("down", ["Tour"]))
        self.assertEqual([follow.name for frame in today.frames for follow in frame.follows][:2], ["sink", "tug"])
        tide = open_project(FILES / "format_5.avelt").parts[0]
        self.assertEqual([track.name for track in tide.tracks], ["main", "gulls"])

    def test_every_renamed_value_arrives(self) -> None:
        project = open_project(FILES / "format_3.avelt")
        alpha, beta, _ = project.frames
        card, words = alpha.layers[0], alpha.layers[3]
        self.assertEqual((card.rotation, card.rotation_x, card.rotation_y), (15.0, 0.0, 5.0))
        assert isinstance(words.body, values.Text)
        self.assertEqual(words.body.letter_spacing, 0.5)
        rock, flash = alpha.loops
        self.assertEqual((rock.offset.rotation, rock.duration, rock.start_offset), (8.0, 1200.0, 150.0))
        self.assertEqual((flash.direction, flash.duration), ("one way", 700.0))
        assert beta.source is not None
        self.assertEqual(beta.source.base[0].rotation, 3.0)
        first = project.routes[0]
        self.assertEqual((first.delay, first.on_arrival, first.transition.duration), (120.0, "restart", 520.0))
        cues = {cue.prop: cue for cue in first.transition.cues if cue.from_id in ("la1", "la3") and cue.prop}
        assert isinstance(first.transition.cues[0].motion_path, MotionPath)
        self.assertTrue(first.transition.cues[0].motion_path.rotates)
        self.assertEqual([key.at for key in cues["rotation"].keyframes], [0.25, 0.6])
        self.assertEqual(cues["position"].keyframes[0].value, (50.0, 90.0))
        self.assertIsInstance(cues["position"].keyframes[0], Keyframe)
        self.assertIn("rotation_xy", cues)
        self.assertEqual(first.transition.absents[0].pose.rotation, -8.0)
        self.assertEqual(first.transition.ties[0].to, CueKey("la1", "lb1", "position"))
        distance, chance = first.transition.staggers
        self.assertEqual((distance.reversed, chance.order), (True, "random"))
        self.assertEqual([entry.transition.duration for entry in first.tryouts], [900.0, 520.0])
        self.assertEqual(project.routes[4].action, ReplaceOver())
        self.assertEqual(project.routes[7].trigger, Timer(2000.0))

    def test_an_old_preset(self) -> None:
        preset = read_preset(FILES / "format_1.avelt-preset")
        self.assertEqual((preset.duration, [cue.prop for cue in preset.cues]), (400.0, ["position", "rotation", ""]))
        assert preset.absent is not None and preset.absent_px is not None
        self.assertEqual((preset.absent.rotation, preset.absent_px.shift_x), (-8.0, 30.0))


class NothingIsDropped(unittest.TestCase):
    def test_an_unknown_key_is_refused_with_its_place(self) -> None:
        for name in ("format_3.avelt", "format_4.avelt"):
            made = document(name)
            made["frames"][1]["layers"][2]["sparkle"] = 3
            with self.assertRaises(FormatError) as caught:
                from_json(json.dumps(made).encode(), "x.avelt")
            self.assertIn("sparkle", str(caught.exception))
            self.assertIn("$.frames[1].layers[2]", str(caught.exception))

    def test_a_key_of_the_new_format_in_an_old_file_is_refused(self) -> None:
        made = document("format_3.avelt")
        made["frames"][0]["layers"][4]["body"]["children"][1]["rotation"] = 9.0
        with self.assertRaises(FormatError) as caught:
            from_json(json.dumps(made).encode(), "x.avelt")
        self.assertIn("frames[0].layers[4]", str(caught.exception))

    def test_an_old_key_in_a_new_file_is_refused(self) -> None:
        made = document("format_4.avelt")
        made["routes"][0]["wait"] = 9.0
        with self.assertRaises(FormatError):
            from_json(json.dumps(made).encode(), "x.avelt")

    def test_every_value_of_the_model_refuses_what_it_does_not_know(self) -> None:
        for module in (curves, follows, layers, motion, second, tapes, triggers, values):
            for name, kind in vars(module).items():
                if isinstance(kind, type) and issubclass(kind, msgspec.Struct) and not issubclass(kind, Record):
                    self.assertTrue(issubclass(kind, Value), name)
                    self.assertTrue(kind.__struct_config__.forbid_unknown_fields, name)

    def test_the_format_is_written_always_and_a_newer_one_refused(self) -> None:
        made = document("format_9.avelt")
        self.assertEqual(made["format"], 9)
        made["format"] = 10
        with self.assertRaises(FormatError) as caught:
            from_json(json.dumps(made).encode(), "x.avelt")
        self.assertIn("newer", str(caught.exception))


class Steps(unittest.TestCase):
    def test_wrong_values_pass_through_to_where_they_are_refused(self) -> None:
        odd: dict[str, Any] = {
            "frames": [3, {"layers": "none", "loops": [None], "source": 7, "entrance": []}],
            "routes": [{"transition": {"cues": [{"prop": 4, "way": "far"}], "ties": [{"cue": 1}], "staggers": [{}]}}],
        }
        made = migrated(odd, 1)
        self.assertEqual(made["frames"][0], 3)
        self.assertEqual(made["routes"][0]["transition"]["cues"][0], {"prop": 4, "motion_path": "far"})
        with self.assertRaises(FormatError):
            from_json(json.dumps(odd).encode(), "x.avelt")

    def test_what_is_given_is_left_alone(self) -> None:
        before = document("format_3.avelt")
        copy = json.loads(json.dumps(before))
        migrated(before, 3)
        self.assertEqual(before, copy)
        preset = {"name": "x", "length": 3.0, "cues": [{"prop": "turn"}]}
        self.assertEqual(migrated_preset(preset, 1)["cues"], [{"prop": "rotation"}])
        self.assertEqual(preset["cues"], [{"prop": "turn"}])

    def test_a_pattern_and_a_run_in_old_files(self) -> None:
        tile = {"paint": "pattern", "w": 1, "h": 1, "layers": [{"turn": 5}]}
        made = migrated({"frames": [{"layers": [{"fills": [tile], "stroke": {"paint": tile}}]}]}, 2)
        layer = made["frames"][0]["layers"][0]
        self.assertEqual(layer["fills"][0]["layers"], [{"rotation": 5}])
        self.assertEqual(layer["stroke"]["paint"]["layers"], [{"rotation": 5}])
        text = {"body": {"kind": "text", "tracking": 2, "runs": [{"text": "a", "fill": tile}]}}
        body = migrated({"frames": [{"layers": [text]}]}, 3)["frames"][0]["layers"][0]["body"]
        self.assertEqual((body["letter_spacing"], body["runs"][0]["fill"]["layers"]), (2, [{"rotation": 5}]))
