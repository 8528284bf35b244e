"""The command line: what other programs rely on."""

import contextlib
import io
import json
import logging
import os
import subprocess
import sys
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from dulwich.repo import Repo
from PIL import Image

from avelt.cli import main
from avelt.core.formats.project_file import open_project
from avelt.core.timing.schedule import duration_of

A = '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100"><rect id="Card" x="10" y="10" width="20" height="20" fill="red"/></svg>'
B = '<svg xmlns="http://www.w3.org/2000/svg" width="100" height="100"><rect id="Card" x="60" y="10" width="40" height="20" fill="blue"/><circle id="Dot" r="5"/></svg>'


class Commands(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        (self.folder / "a.svg").write_text(A)
        (self.folder / "b.svg").write_text(B)
        self.file = self.folder / "p.avelt"
        home = mock.patch.dict(os.environ, {"XDG_DATA_HOME": str(self.folder / "home")})
        home.start()
        self.addCleanup(home.stop)

    def run_it(self, *args: object, code: int = 0) -> str:
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            try:
                found = main([str(arg) for arg in args])
            except SystemExit as stop:
                found = int(stop.code or 0)
        self.errors = err.getvalue()
        self.assertEqual(found, code, err.getvalue())
        return out.getvalue()

    def data(self, *args: object) -> Any:
        return json.loads(self.run_it(*args, "--json"))

    def imported(self) -> Path:
        self.run_it("import", self.file, self.folder / "a.svg", self.folder / "b.svg")
        return self.file

    def test_edit_takes_all_steps_or_none(self) -> None:
        steps = self.folder / "steps.json"
        steps.write_text(json.dumps([{"do": "set", "in": "b", "layer": "Card", "opacity": 0.5}]))
        before = self.imported().read_bytes()
        out = self.folder / "out.avelt"
        told = self.data("edit", self.file, steps, "-o", out)
        self.assertEqual((told["steps"], told["frames"]), (1, ["a", "b"]))
        self.assertEqual(self.file.read_bytes(), before)
        self.assertEqual(open_project(out).frames[1].layers[0].opacity, 0.5)
        self.run_it("edit", self.file, steps)
        self.assertEqual(open_project(self.file).frames[1].layers[0].opacity, 0.5)
        after = self.file.read_bytes()
        good = {"do": "set", "in": "b", "layer": "Card", "opacity": 0.1}
        steps.write_text(json.dumps([good, {"do": "set", "in": "b", "layer": "Crad", "opacity": 1}]))
        self.run_it("edit", self.file, steps, code=2)
        self.assertIn("step 2: There is no layer 'Crad' in b. Did you mean 'Card'?", self.errors)
        self.assertEqual((self.file.read_bytes(), self.errors.count("\n")), (after, 1))
        self.run_it("edit", self.folder / "no.avelt", steps, code=2)
        self.assertIn("-o", self.errors)
        steps.write_text('[{"do": "frame", "name": "one"}]')
        self.run_it("edit", self.folder / "no.avelt", steps, "-o", self.folder / "new.avelt")
        self.assertEqual([f.name for f in open_project(self.folder / "new.avelt").frames], ["one"])

    def test_parts_are_told_rendered_sampled_and_played(self) -> None:
        steps = self.folder / "steps.json"
        steps.write_text(
            json.dumps(
                [
                    {"do": "part", "in": "a", "layers": ["Card"], "name": "Chip", "pose": "up"},
                    {"do": "pose", "part": "Chip", "name": "down", "copy": "up"},
                    {"do": "set", "in": "Chip/down", "layer": "Card", "opacity": 0.5, "fill": "#00f"},
                    {
                        "do": "route",
                        "part": "Chip",
                        "from": "up",
                        "to": "down",
                        "trigger": {"tap": "Card"},
                        "length": 100,
                    },
                ]
            )
        )
        self.run_it("edit", self.imported(), steps)
        (told,) = self.data("info", self.file)["parts"]
        self.assertEqual(
            (told["name"], told["poses"], told["routes"], told["used_by"]), ("Chip", ["up", "down"], 1, ["a"])
        )
        (sampled,) = self.data("sample", self.file, "--part", "Chip", "--pose", "down", "--at", 0)["samples"]
        self.assertEqual([(r["name"], r["opacity"]) for r in sampled["layers"]], [("Card", 0.5)])
        picture = self.folder / "p.png"
        for pose, colour in ((None, (255, 0, 0, 255)), ("down", (0, 0, 255, 127))):
            self.run_it("render", self.file, "--part", "Chip", *(("--pose", pose) if pose else ()), "-o", picture)
            with Image.open(picture) as found:
                self.assertEqual((found.size, found.convert("RGBA").getpixel((10, 10))), ((20, 20), colour))
        tape = self.folder / "t.avelt-tape"
        press = {"at": 50, "do": "press", "x": 20, "y": 15}
        tape.write_text(json.dumps({"events": [press, {**press, "do": "release", "at": 60}], "until": 500}))
        told = self.data("play", self.file, tape, "--at", "500")
        self.assertEqual([e["stage"] for e in told["log"] if e["what"] == "tap"], ["Chip"])
        inner = [r for r in told["samples"][0]["layers"] if r["path"][-1] == "Card" and len(r["path"]) == 2]
        self.assertEqual([r["opacity"] for r in inner], [0.5])
        for args in (("--part", "Chop"), ("--part", "Chip", "--pose", "sideways"), ()):
            self.run_it("sample", self.file, *args, "--at", 0, code=2)
        self.run_it("render", self.file, "--part", "Chip", "--at", "0,5", "-o", picture, code=2)

    def test_play_samples_and_logs(self) -> None:
        tape = self.folder / "t.avelt-tape"
        press = {"at": 50, "do": "press", "x": 20, "y": 15}
        tape.write_text(json.dumps({"events": [press, {**press, "do": "release", "at": 60}], "until": 500}))
        self.imported()
        told = self.data("play", self.file, tape, "--at", "0,210,500")
        self.assertEqual([sample["frame"] for sample in told["samples"]], ["a", "b", "b"])
        self.assertEqual([entry["what"] for entry in told["log"]], ["arrives", "tap", "starts", "arrives"])
        self.assertEqual({entry["stage"] for entry in told["log"]}, {""})
        card = next(r for r in told["samples"][1]["layers"] if r["name"] == "Card")
        self.assertTrue(10 < card["x"] < 60)
        self.assertEqual(card["path"], ["Card"])
        every = self.run_it("play", self.file, tape, "--every", 50, "--json")
        self.assertEqual(self.run_it("play", self.file, tape, "--every", 50, "--step", 7.3, "--json"), every)
        self.assertEqual(len(json.loads(every)["samples"]), 11)
        self.run_it("play", self.file, tape, tape, "--at", "0,210", "--frames", self.folder / "f", "--scale", 2)
        pictures = sorted((self.folder / "f").rglob("*.png"))
        self.assertEqual([path.name for path in pictures], ["000000.png", "000210.png"])
        with Image.open(pictures[0]) as picture:
            self.assertEqual(picture.size, (200, 200))
        self.assertIn("tap: Card", self.run_it("play", self.file, tape))
        for more, words in (
            (("--at", "x"), "numbers"),
            (("--every", "0"), "above 0"),
            (("--step", "-1"), "above 0"),
            (("--scale", "99"), "scale"),
        ):
            self.run_it("play", self.file, tape, *more, code=2)
            self.assertIn(words, self.errors)
        tape.write_text('{"events": [{"at": 1, "do": "input", "name": "x", "value": 1}], "until": 5}')
        self.run_it("play", self.file, tape, code=2)
        self.assertIn("event 1", self.errors)

    def test_info_tells_the_inputs(self) -> None:
        self.run_it("demo", "--out", self.folder / "demo")
        file = next((self.folder / "demo").glob("*.avelt"))
        info = self.data("info", file)
        self.assertEqual(
            [(entry["name"], entry["kind"], entry["start"]) for entry in info["inputs"]],
            [
                ("boarded", "yes/no", False),
                ("minutes-late", "number", 20.0),
                ("told", "yes/no", False),
                ("pull", "number", 0.0),
                ("held", "yes/no", False),
                ("news-is-in", "yes/no", False),
                ("news", "signal", False),
                ("over-seat", "number", 0.0),
            ],
        )
        self.assertIn("input minutes-late: number, starts as 20.0", self.run_it("info", file))
        timer = next(r["trigger"] for r in info["routes"] if r["trigger"]["trigger"] == "timer")
        self.assertEqual((timer["after"], timer["wait"]), (2400.0, 2400.0))

    def test_a_fault_is_one_line_and_in_the_log(self) -> None:
        state = {"XDG_STATE_HOME": str(self.folder / "state")}
        with (
            mock.patch.dict(os.environ, state),
            mock.patch("avelt.cli_info.open_project", side_effect=KeyError("oops")),
        ):
            self.run_it("info", self.folder / "x.avelt", code=2)
        log = self.folder / "state" / "avelt" / "avelt.log"
        self.assertEqual(len(self.errors.splitlines()), 1)
        self.assertIn(str(log), self.errors)
        self.assertIn("KeyError: 'oops'", log.read_text())
        for handler in list(logging.getLogger("avelt").handlers):
            logging.getLogger("avelt").removeHandler(handler)
            handler.close()

    def test_a_drawing_of_several_screens_is_taken_apart_when_asked(self) -> None:
        card = '<g id="{0}" transform="translate({1} 20)"><rect width="200" height="300" fill="#fff"/><rect x="9" y="9" width="50" height="50"/></g>'
        inner = card.format("List", 20) + card.format("Pass", 250)
        board = self.folder / "Board.svg"
        board.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" width="480" height="340">{inner}</svg>')
        self.assertEqual(self.data("import", self.file, board)["frames"], ["Board"])
        found = self.data("import", self.file, board, "--apart")
        self.assertEqual(found["frames"], ["List", "Pass"])
        self.assertEqual([report["counts"] for report in found["reports"]], [{"box": 2}] * 2)
        self.assertEqual(len(open_project(self.file).routes), 1)

    def test_effects_are_sampled_and_painted(self) -> None:
        (self.folder / "b.svg").write_text(
            B.replace(
                'fill="blue"',
                'fill="blue" style="filter:drop-shadow(0 4px 6px #00000080) blur(2px);mix-blend-mode:multiply"',
            )
        )
        file = self.imported()
        layers = self.data("sample", file, "a > b", "--at", "300")["samples"][0]["layers"]
        card = next(layer for layer in layers if layer["name"] == "Card")
        self.assertEqual((card["blur"], card["shadows"][0]["y"]), (2.0, 4.0))
        out = self.folder / "x.png"
        self.run_it("render", file, "--frame", "b", "-o", out)
        with Image.open(out) as image:
            self.assertNotEqual(image.convert("RGB").getpixel((80, 36)), (255, 255, 255))

    def test_import_makes_frames_and_a_route_of_300_ms(self) -> None:
        found = self.data("import", self.file, self.folder / "a.svg", self.folder / "b.svg")
        self.assertEqual(found["frames"], ["a", "b"])
        self.assertEqual(found["reports"][1]["counts"], {"box": 1, "oval": 1})
        project = open_project(self.file)
        self.assertEqual((project.routes[0].transition.duration, project.routes[0].trigger.layer), (300.0, ""))
        info = self.data("info", self.file)
        self.assertEqual([frame["layers"] for frame in info["frames"]], [1, 2])
        self.assertEqual(info["routes"][0]["title"], "a > b")

    def test_pair_tells_all(self) -> None:
        found = self.data("pair", self.imported(), "a > b")
        (pair,) = found["pairs"]
        self.assertEqual((pair["from"]["name"], pair["to"]["name"], pair["by"]), ("Card", "Card", "evidence"))
        self.assertEqual(pair["from"]["box"], [10, 10, 20, 20])
        self.assertEqual((pair["from"]["kind"], pair["from"]["path"]), ("box", [0]))
        self.assertTrue(all(0 <= e["score"] <= 1 and e["says"] for e in pair["evidence"]))
        self.assertEqual([layer["name"] for layer in found["enters"]], ["Dot"])
        self.assertEqual(found["leaves"], [])

    def test_sample_gives_values_in_the_frame(self) -> None:
        found = self.data("sample", self.imported(), "a > b", "--at", "0,150,300", "--layer", "Card")
        self.assertEqual((found["length"], [s["at"] for s in found["samples"]]), (300, [0, 150, 300]))
        first, _, last = (s["layers"][0] for s in found["samples"])
        self.assertEqual([first[k] for k in "xywh"], [10, 10, 20, 20])
        self.assertEqual((last["matrix"], last["fill"], last["opacity"]), ([1, 0, 0, 1, 60, 10], "#0000ff", 1))
        self.assertIn("Card: 10.00, 10.00", self.run_it("sample", self.file, "a > b", "--at", "0"))

    def test_render_frames_and_moments(self) -> None:
        out = self.folder / "x.png"
        self.run_it("render", self.imported(), "--frame", "b", "-o", out, "--scale", "2")
        with Image.open(out) as image:
            self.assertEqual((image.size, image.convert("RGB").getpixel((160, 40))), ((200, 200), (0, 0, 255)))
        self.run_it("render", self.file, "--route", "a > b", "--at", "150", "-o", out)
        self.run_it("render", self.file, "--all-frames", "-o", self.folder / "all")
        self.assertEqual(sorted(p.name for p in (self.folder / "all").iterdir()), ["a.png", "b.png"])

    def test_export_gif_and_pictures(self) -> None:
        self.run_it(
            "export", self.imported(), "--as", "gif", "--route", "a > b", "-o", self.folder / "x.gif", "--rate", "10"
        )
        with Image.open(self.folder / "x.gif") as image:
            self.assertEqual(image.n_frames, 4)
        self.run_it("export", self.file, "--as", "png", "--route", "a > b", "-o", self.folder / "strip", "--rate", "10")
        self.assertEqual(len(list((self.folder / "strip").glob("*.png"))), 4)
        self.run_it("export", self.file, "--as", "png", "-o", self.folder / "stills")
        self.assertEqual(len(list((self.folder / "stills").glob("*.png"))), 2)

    def test_curve_and_blend(self) -> None:
        found = self.data("curve", "linear", "steps(2)", "spring(0)", "--at", "0,0.5,1", "--measure")
        self.assertEqual(found["curves"][0]["values"], [0, 0.5, 1])
        self.assertEqual(found["curves"][1], {**found["curves"][1], "curve": "steps(2)", "values": [0, 0.5, 1]})
        self.assertEqual(found["curves"][2]["measure"]["overshoot"], 0)
        found = self.data("blend", "red", "rgb(0 0 255 / 0)", "--at", "0.5", "--in", "srgb")
        self.assertEqual(found["rgb"], [1, 0, 0, 0.5])
        self.assertEqual(self.run_it("blend", "#000", "#fff", "--at", "0,1").split(), ["#000000", "#ffffff"])

    def test_presets_from_file_to_file(self) -> None:
        file = self.imported()
        self.run_it("preset", "save", file, "a > b", "--layer", "Card", "--name", "My way")
        self.assertEqual(self.data("preset", "list", "--where", "mine")["presets"][0]["name"], "My way")
        self.assertEqual(self.data("preset", "show", "my way")["kind"], "layer motion")
        given = self.folder / "given.avelt-preset"
        self.run_it("preset", "export", "My way", "-o", given)
        self.run_it("preset", "import", given)
        out = self.folder / "q.avelt"
        self.run_it("preset", "apply", file, "a > b", "--layer", "Dot", "--preset", "My way", "-o", out)
        self.assertEqual(open_project(out).routes[0].transition.cues[0].to_id, open_project(out).frames[1].layers[1].id)
        self.run_it("preset", "show", "No way", code=2)
        self.assertIn("My way", self.errors)
        self.run_it("preset", "remove", "My way")
        self.assertEqual(self.data("preset", "list", "--where", "mine"), {"presets": [], "troubles": []})

    def test_presets_of_every_kind(self) -> None:
        file = self.imported()
        self.run_it("preset", "save", file, "a > b", "--name", "Whole", "--tag", "calm", "--note", "For all")
        self.run_it("preset", "save", file, "a > b", "--kind", "curve", "--name", "Feel")
        self.run_it("preset", "save", file, "a > b", "--layer", "Card", "--layer", "Dot", "--name", "Two")
        rows = self.data("preset", "list", "--where", "mine")["presets"]
        self.assertEqual(
            [(r["name"], r["kind"]) for r in rows], [("Feel", "curve"), ("Two", "shared"), ("Whole", "transition")]
        )
        self.assertEqual((rows[2]["tags"], rows[2]["where"], rows[2]["uses"]), (["calm"], "mine", 0))
        self.assertEqual(len(self.data("preset", "list", "--where", "mine", "--kind", "curve")["presets"]), 1)
        picture = self.folder / "whole.webp"
        self.run_it("preset", "show", "Whole", "-o", picture)
        with Image.open(picture) as moving:
            self.assertGreater(getattr(moving, "n_frames", 1), 5)
        out = self.folder / "q.avelt"
        said = self.run_it("preset", "put", file, "a > b", "--preset", "Whole", "--stretch", "2", "-o", out)
        self.assertIn("Whole is on", said)
        before, after = (open_project(path).routes[0].transition for path in (file, out))
        self.assertEqual(after.duration, 2 * duration_of(before))
        self.run_it("preset", "put", file, "a > b", "--preset", "Two", "--direction", "north", code=2)
        self.assertIn("up left", self.errors)
        linked = self.folder / "linked.avelt"
        self.run_it("preset", "put", file, "a > b", "--preset", "Whole", "--linked", "-o", linked)
        self.assertEqual([link.preset for link in open_project(linked).links], ["Whole"])
        (row,) = self.data("preset", "list", "--where", linked)["presets"]
        self.assertEqual((row["name"], row["uses"]), ("Whole", 1))
        counts = {row["name"]: row["uses"] for row in self.data("preset", "list", "--where", "mine")["presets"]}
        self.assertEqual((counts["Whole"], counts["Two"]), (1, 0))
        self.run_it("preset", "put", linked, "a > b", "--preset", "Whole")
        linked.rename(self.folder / "elsewhere.avelt")
        self.assertEqual(self.data("preset", "list", "--where", "mine")["presets"][-1]["uses"], 0)
        self.run_it("preset", "save", file, "a > b", "--name", "Less", "--without", "length", "--without", "ways")
        self.assertEqual(self.data("preset", "show", "Less")["left_out"], ["length", "ways"])
        self.run_it("preset", "put", file, "a > b", "--preset", "Whole", "--without", "sparkle", code=2)
        self.assertIn("length, ", self.errors)
        self.run_it("preset", "save", file, "a", "--loop", "Bob", "--name", "x", code=2)
        self.assertIn("no loop", self.errors)
        self.run_it("preset", "save", file, "nowhere", "--name", "x", code=2)

    def test_the_shelf_of_a_team(self) -> None:
        file, there = self.imported(), self.folder / "team.git"
        there.mkdir()
        Repo.init_bare(str(there)).close()
        self.assertIsNone(self.data("shelf", "status")["kind"])
        self.run_it("shelf", "sync", code=2)
        self.assertIn("joined", self.errors)
        self.run_it("preset", "save", file, "a > b", "--name", "Whole")
        self.run_it("shelf", "join", there)
        self.run_it("shelf", "publish", "Whole")
        status = self.data("shelf", "status")
        self.assertEqual((status["kind"], status["ahead"], status["waiting"]), ("git", 1, ["Whole"]))
        self.run_it("shelf", "sync")
        (version,) = self.data("shelf", "history", "Whole")["versions"]
        self.assertEqual((version["name"], set(version)), ("Whole", {"version", "who", "when", "name"}))
        self.assertEqual(self.data("preset", "list", "--where", "team")["presets"][0]["where"], "team")
        with mock.patch.dict(os.environ, {"XDG_DATA_HOME": str(self.folder / "other")}):
            self.run_it("shelf", "join", there)
            self.run_it("preset", "put", file, "a > b", "--preset", "Whole", "--where", "team")
            self.run_it("preset", "save", file, "a > b", "--name", "Whole", "--kind", "curve")
            self.run_it("shelf", "publish", "Whole")
            self.run_it("shelf", "sync")
        self.run_it("preset", "save", file, "a > b", "--name", "Whole", "--tag", "mine")
        self.run_it("shelf", "publish", "Whole")
        self.run_it("shelf", "sync", code=3)
        self.assertIn("Whole was changed here and there", self.errors)
        out = io.StringIO()
        with contextlib.redirect_stdout(out), self.assertRaises(SystemExit) as stop:
            main(["shelf", "status", "--json"])
        self.assertEqual(stop.exception.code, 3)
        (clash,) = json.loads(out.getvalue())["conflicts"]
        self.assertEqual(clash, {"name": "Whole", "mine": "Whole", "theirs": "Whole"})
        self.run_it("shelf", "settle", "Whole", code=2)
        self.run_it("shelf", "settle", "Whole", "--keep", "both")
        self.run_it("shelf", "sync")
        self.assertEqual(len(self.data("preset", "list", "--where", "team")["presets"]), 2)
        self.run_it("shelf", "restore", "Whole", version["version"])
        self.run_it("shelf", "take-back", "Whole 2")
        self.run_it("shelf", "sync")
        self.assertEqual(self.data("preset", "show", "Whole", "--where", "team")["kind"], "transition")
        there.rename(self.folder / "away")
        self.run_it("shelf", "sync", code=2)
        self.assertEqual(self.errors.strip().count("cannot be reached"), 1)
        self.run_it("shelf", "leave")
        self.assertEqual(self.data("preset", "list", "--where", "team")["presets"], [])

    def test_packs_and_tokens_go_out_and_come_in(self) -> None:
        file = self.imported()
        self.run_it("preset", "save", file, "a > b", "--name", "Whole")
        self.run_it("preset", "save", file, "a > b", "--layer", "Card", "--name", "My way")
        for ending in (".avelt-pack", ".tokens.json"):
            given = self.folder / f"given{ending}"
            self.run_it("preset", "export", "Whole", "My way", "-o", given, "--author", "Skerry Line")
            self.assertEqual(len(self.data("preset", "list", "--where", given)["presets"]), 2)
            said = self.run_it("preset", "import", given)
            self.assertEqual(said.count("already"), 2, said)
            self.run_it("preset", "remove", "Whole")
            self.assertIn("Whole is on the shelf", self.run_it("preset", "import", given))
        self.run_it("preset", "export", "Whole", "My way", "-o", self.folder / "x.avelt-preset", code=2)
        (self.folder / "bad.avelt-pack").write_bytes(b"nothing")
        self.run_it("preset", "import", self.folder / "bad.avelt-pack", code=2)
        self.assertIn("bad.avelt-pack", self.errors)

    def test_the_demo_is_written_whole(self) -> None:
        self.run_it("demo", "--out", self.folder / "out")
        names = {p.suffix for p in (self.folder / "out").iterdir()}
        self.assertLessEqual({".avelt", ".png", ".gif", ".avelt-preset", ".svg", ".mp4", ".webm", ".json", ""}, names)
        self.assertEqual(len(open_project(self.folder / "out" / "Skerry Line.avelt").frames), 9)

    def test_errors_are_one_line_and_code_two(self) -> None:
        (self.folder / "bad.svg").write_text("<svg")
        file = self.imported()
        for args in (
            ("info", self.folder / "none.avelt"),
            ("info", self.folder / "a.svg"),
            ("pair", file, "a > z"),
            ("pair", file, "zz"),
            ("import", self.folder / "o.avelt", self.folder / "bad.svg"),
            ("render", file, "--frame", "zz", "-o", "x.png"),
            ("render", file, "--route", "a > b", "-o", self.folder / "x.png"),
            ("curve", "wobble", "--at", "0"),
            ("blend", "goo", "red", "--at", "0"),
            ("sample", file, "a > b", "--at", "0", "--layer", "Crad"),
            ("export", file, "--as", "gif", "-o", self.folder / "no" / "x.gif"),
            ("render", file, "--frame", "a", "-o", self.folder / "y.png", "--scale", "999"),
        ):
            with self.subTest(args[0:2]):
                out = self.run_it(*args, code=2)
                self.assertEqual((out, self.errors.count("\n")), ("", 1), self.errors)
        self.assertFalse((self.folder / "o.avelt").exists())

    def test_wrong_arguments_show_usage(self) -> None:
        for args in (
            ("sample", "x", "y"),
            ("curve", "linear", "--at", "a"),
            ("export", "x", "--as", "mov", "-o", "y"),
            ("preset",),
        ):
            self.run_it(*args, code=2)
            self.assertIn("usage", self.errors)

    def test_as_a_module_without_a_display(self) -> None:
        env = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
        done = subprocess.run([sys.executable, "-m", "avelt", "--version"], capture_output=True, text=True, env=env)
        self.assertTrue(done.stdout.startswith("avelt "))
        done = subprocess.run([sys.executable, "-m", "avelt", "--demo"], capture_output=True, text=True, env=env)
        self.assertEqual((done.returncode, done.stderr.count("\n")), (2, 1))
