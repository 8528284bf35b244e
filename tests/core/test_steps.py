"""Steps: edits by name, all or none, with the step and the nearest name in what is refused."""

import json
import tempfile
import unittest
from pathlib import Path
from typing import Any

from avelt.core.edits.project import new_project
from avelt.core.errors import AveltError, FormatError
from avelt.core.formats.checked import check
from avelt.core.formats.project_file import from_json, to_json
from avelt.core.model.curves import Line, Named
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.triggers import (
    Crosses,
    DoubleTap,
    Drag,
    Ends,
    GoBack,
    Hold,
    HoverIn,
    HoverOut,
    Key,
    Loading,
    Pointer,
    PutAway,
    Release,
    ReplaceOver,
    Scroll,
    SendSignal,
    SetInput,
    ShowOver,
    Signal,
    Tap,
    Timer,
)
from avelt.core.steps.properties import PROPERTIES
from avelt.core.steps.read import applied, schema, steps_of
from avelt.core.steps.said import Site
from avelt.core.steps.verbs import VERBS
from avelt.core.timing.compile import compile_route
from avelt.core.timing.sampling import sample

SITE = Site(Path("."))
DRAWN: list[dict[str, Any]] = [
    {"do": "frame", "name": "a", "size": [200, 200]},
    {"do": "draw", "in": "a", "kind": "box", "name": "Card", "position": [20, 30], "size": [60, 40], "fill": "red"},
    {"do": "draw", "in": "a", "kind": "text", "name": "Word", "text": "Pier", "position": [20, 90], "font_size": 20},
    {"do": "draw", "in": "a", "kind": "path", "name": "Wave", "d": "M0 0 C 20 -20 40 20 60 0", "stroke": "#000"},
    {"do": "frame", "name": "b", "copy": "a"},
    {"do": "set", "in": "b", "layer": "Card", "opacity": 0.5, "position": [120, 40], "fill": "blue"},
    {"do": "input", "name": "pull", "kind": "number"},
    {"do": "input", "name": "news", "kind": "signal"},
    {"do": "route", "from": "a", "to": "b", "trigger": {"tap": "Card"}, "then": "go", "length": 400, "curve": "linear"},
]


def made(*more: Any) -> Any:
    return applied(new_project("Steps"), [*DRAWN, *more], SITE)


def card(project: Any, frame: str = "a") -> Any:
    return find_layer(find_frame(project, frame), "Card")


class Frames(unittest.TestCase):
    def test_what_is_drawn_and_set_is_there(self) -> None:
        project = made()
        check(project)
        self.assertEqual([frame.name for frame in project.frames], ["a", "b"])
        first, second = card(project), card(project, "b")
        self.assertEqual((first.x, first.y, first.w, first.h), (20, 30, 60, 40))
        self.assertEqual((second.x, second.opacity, second.origin), (120, 0.5, first.origin))
        wave = find_layer(find_frame(project, "a"), "Wave")
        self.assertEqual((wave.kind, wave.w), ("path", 60))
        self.assertEqual(from_json(to_json(project), "x"), project)

    def test_every_property_can_be_set(self) -> None:
        values: dict[str, Any] = {
            "name": "Hull",
            "position": [1, 2],
            "size": [30, 20],
            "rotation": 720,
            "rotation_x": 10,
            "rotation_y": 20,
            "scale": 2,
            "skew": 5,
            "pivot": [0, 1],
            "opacity": 0.25,
            "radii": [1, 2, 3, 4],
            "fill": "#00ff00",
            "stroke": "#112233",
            "stroke_width": 3,
            "dashes": [4, 2],
            "trim": [0.1, 0.6, 0.25],
            "shadow": "2px 3px 4px #000",
            "blur": 2,
            "back_blur": 1,
            "blend": "multiply",
            "hidden": True,
            "only_if": "true_north > 3",
        }
        words = {"d", "text", "font_size", "letter_spacing", "line_height", "weight", "align"}
        self.assertEqual(set(values) | words, set(PROPERTIES))
        project = made({"do": "set", "in": "a", "layer": "Card", **values})
        layer = find_layer(find_frame(project, "a"), "Hull")
        self.assertEqual((layer.rotation, layer.any_turn, layer.scale_x, layer.scale_y), (720, False, 2, 2))
        self.assertEqual((layer.body.radii, layer.stroke.dashes, layer.blend), ((1, 2, 3, 4), (4, 2), "multiply"))
        self.assertAlmostEqual(layer.stroke.trim_end, 0.6)
        self.assertEqual((layer.pivot, layer.hidden), ((0.0, 1.0), True))
        said = {
            "text": "Quay",
            "font_size": 30,
            "letter_spacing": 1,
            "line_height": 1.5,
            "weight": 700,
            "align": "middle",
        }
        word = find_layer(find_frame(made({"do": "set", "in": "a", "layer": "Word", **said}), "a"), "Word").body
        self.assertEqual((word.words, word.size, word.weight, word.line_height), ("Quay", 30, 700, 1.5))

    def test_frames_groups_names_and_paths_of_names(self) -> None:
        project = made(
            {"do": "draw", "in": "a", "kind": "oval", "name": "Card", "position": [5, 5]},
            {"do": "group", "in": "a", "layers": ["Word", "Wave"], "name": "List"},
            {"do": "set", "in": "a", "layer": "Card#2", "opacity": 0.1},
            {"do": "rename", "in": "a", "layer": "List/Word", "name": "Line"},
            {"do": "set", "in": "b", "background": "#123456", "size": [300, 100], "clips": False, "first": True},
            {"do": "rename", "frame": "b", "name": "Two"},
            {"do": "rename", "input": "pull", "name": "draw"},
        )
        frame = find_frame(project, "a")
        self.assertEqual([layer.opacity for layer in frame.layers if layer.name.startswith("Card")], [1.0, 0.1])
        self.assertEqual([child.name for child in find_layer(frame, "List").children], ["Line", "Wave"])
        second = find_frame(project, "Two")
        self.assertEqual((second.background, second.w, second.clips, project.first), ("#123456", 300, False, second.id))
        self.assertEqual([entry.name for entry in project.inputs], ["draw", "news"])

    def test_files_beside_the_steps_only(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            inner = Path(folder) / "in"
            inner.mkdir()
            svg = '<svg xmlns="http://www.w3.org/2000/svg" width="90" height="80"><rect id="r" width="9" height="9"/></svg>'
            for place in (Path(folder) / "out.svg", inner / "pic.svg"):
                place.write_text(svg)
            project = applied(new_project("x"), [{"do": "import", "asset": "pic.svg", "name": "Pic"}], Site(inner))
            self.assertEqual((project.frames[0].name, project.frames[0].w), ("Pic", 90))
            with self.assertRaisesRegex(FormatError, "step 1: .*beside the steps"):
                applied(new_project("x"), [{"do": "import", "asset": "../out.svg"}], Site(inner))

    def test_removing(self) -> None:
        project = made({"do": "loop", "in": "a", "layer": "Wave", "name": "rock"})
        for step in (
            {"do": "remove", "route": "a > b"},
            {"do": "remove", "in": "a", "loop": "rock"},
            {"do": "remove", "in": "a", "layer": "Word"},
            {"do": "remove", "input": "news"},
            {"do": "remove", "frame": "b"},
        ):
            project = applied(project, [step], SITE)
        self.assertEqual((len(project.frames), project.routes, project.frames[0].loops), (1, (), ()))
        self.assertEqual([layer.name for layer in project.frames[0].layers], ["Card", "Wave"])
        with self.assertRaisesRegex(FormatError, "Say one of"):
            applied(project, [{"do": "remove", "in": "a"}], SITE)


class Motion(unittest.TestCase):
    def test_cues_keyframes_and_paths(self) -> None:
        project = made(
            {"do": "cue", "route": "a > b", "layer": "Card", "property": "opacity", "start": 100, "end": 300},
            {"do": "keyframe", "route": "a > b", "layer": "Card", "property": "opacity", "at": 200, "value": 0.2},
            {"do": "motion path", "route": "a > b", "layer": "Card", "d": "M0 0 C 0 -60 100 -60 100 10"},
        )
        program = compile_route(project, project.routes[0])
        record = next(r for r in sample(program, 200.0) if r["name"] == "Card")
        self.assertAlmostEqual(record["opacity"], 0.2)
        self.assertLess(record["y"], 20)  # over the arch
        for ms, x in ((0.0, 20), (400.0, 120)):
            self.assertAlmostEqual(next(r for r in sample(program, ms) if r["name"] == "Card")["x"], x)
        straight = applied(project, [{"do": "motion path", "route": "a > b", "layer": "Card"}], SITE)
        self.assertEqual([c for c in straight.routes[0].transition.cues if c.motion_path is not None], [])
        ended = applied(
            project,
            [{"do": "keyframe", "route": "a > b", "layer": "Card", "property": "scale", "at": 400, "value": 2}],
            SITE,
        )
        self.assertEqual(card(ended, "b").scale_x, 2.0)

    def test_order_pairs_and_ways(self) -> None:
        project = made(
            {"do": "draw", "in": "b", "kind": "box", "name": "New", "opacity": 0.5},
            {"do": "cue", "route": "a > b", "layer": "Word", "start": 0, "end": 100},
            {"do": "cue", "route": "a > b", "layer": "Wave", "start": 0, "end": 100, "muted": True, "space": "lab"},
            {"do": "tie", "route": "a > b", "layer": "Word", "to": "Card", "at": "start", "to_at": "start", "by": 40},
            {"do": "stagger", "route": "a > b", "layers": ["Card", "Wave"], "step": 50, "order": "sheet"},
            {"do": "apart", "route": "a > b", "layer": "Wave"},
            {"do": "enter", "route": "a > b", "layer": "New", "pose": {"position": [0, 30], "opacity": 0}},
            {"do": "leave", "route": "a > b", "pose": {"opacity": 0, "scale": 0.5}},
            {
                "do": "entrance",
                "in": "b",
                "layers": ["Word"],
                "when": "after loading",
                "duration": 500,
                "curve": "settle",
            },
        )
        motion = project.routes[0].transition
        self.assertEqual([(tie.at, tie.to_at, tie.by) for tie in motion.ties], [("start", "start", 40.0)])
        self.assertEqual((len(motion.staggers), motion.staggers[0].ms), (1, 50.0))
        self.assertFalse(motion.decisions[0].together)
        self.assertEqual((motion.absents[0].pose.shift_y, motion.leave.scale_x), (30.0, 0.5))
        self.assertEqual(find_frame(project, "b").entrance.when, "after loading")
        again = applied(project, [{"do": "pair", "route": "a > b", "layer": "Wave", "with": "Wave"}], SITE)
        self.assertTrue(again.routes[0].transition.decisions[-1].together)

    def test_a_route_is_changed_or_added(self) -> None:
        project = made({"do": "route", "from": "a", "to": "b", "trigger": {"tap": "Card"}, "duration": 250, "wait": 30})
        self.assertEqual((len(project.routes), project.routes[0].transition.duration), (1, 250.0))
        self.assertEqual((project.routes[0].delay, project.routes[0].transition.curve), (30.0, Line()))
        project = applied(
            project,
            [
                {"do": "route", "from": "a", "to": "b", "trigger": {"timer": 900}, "add": True, "only_if": "pull < 1"},
                {"do": "route", "from": "a", "to": "b", "trigger": {"tap": "Card"}, "curve": "settle"},
            ],
            SITE,
        )
        self.assertEqual([route.trigger for route in project.routes][1], Timer(900.0))
        self.assertEqual((project.routes[1].only_if, project.routes[0].transition.curve), ("pull < 1", Named("settle")))
        with self.assertRaisesRegex(AveltError, "2 routes go from a to b"):
            applied(project, [{"do": "route", "from": "a", "to": "b", "wait": 5}], SITE)
        with self.assertRaisesRegex(AveltError, "stays in its frame"):
            applied(project, [{"do": "route", "from": "a", "to": "a", "then": "go"}], SITE)

    def test_every_trigger_and_action_as_it_is_spelled(self) -> None:
        base = made({"do": "loop", "in": "a", "layer": "Wave", "name": "rock"})
        ident, wave = card(base).id, find_layer(find_frame(base, "a"), "Wave").id
        pull, news = (entry.id for entry in base.inputs)
        loop = find_frame(base, "a").loops[0].id
        for said, wanted in (
            ({"tap": ""}, Tap()),
            ({"double tap": "Card"}, DoubleTap(ident)),
            ({"hold": "Card", "after": 600}, Hold(ident, 600.0)),
            ({"release": "Card"}, Release(ident)),
            ({"hover in": "Card"}, HoverIn(ident)),
            ({"hover out": "Card"}, HoverOut(ident)),
            ({"key": "Enter"}, Key("Enter")),
            ({"timer": 800}, Timer(800.0)),
            ({"loading": "is ready"}, Loading("is ready")),
            ({"crosses": "pull", "value": 10, "way": "falling"}, Crosses(pull, 10.0, "falling")),
            ({"signal": "news"}, Signal(news)),
            ({"ends": "rock"}, Ends(loop)),
            ({"ends": "a > b"}, Ends(base.routes[0].id)),
            ({"drag": "Card", "along": "up", "travel": 400}, Drag(ident, "up", "", 400.0)),
            ({"drag": "Card", "along": "Wave"}, Drag(ident, "path", wave)),
            ({"scroll": "down", "start": 0, "end": 160}, Scroll("down", 0.0, 160.0)),
            ({"pointer": "Card", "axis": "down"}, Pointer(ident, "down")),
        ):
            step: Any = {"do": "route", "from": "a", "to": "b", "trigger": said, "add": True}
            self.assertEqual(applied(base, [step], SITE).routes[-1].trigger, wanted, said)
        for then, action in (
            ("back", GoBack()),
            ("put away", PutAway()),
            ("replace over", ReplaceOver()),
            ("show over", ShowOver()),
            ({"show over": {"at": "middle", "scrim": ""}}, ShowOver("middle", scrim="")),
            ({"set": "pull", "value": 3}, SetInput(pull, 3.0)),
            ({"send": "news"}, SendSignal(news)),
        ):
            to = "a" if isinstance(action, SetInput | SendSignal) else "b"
            step = {"do": "route", "from": "a", "to": to, "then": then, "trigger": {"key": "x"}, "add": True}
            self.assertEqual(applied(base, [step], SITE).routes[-1].action, action, then)

    def test_loops_have_second_poses(self) -> None:
        step = {
            "do": "loop",
            "in": "a",
            "layer": "Card",
            "name": "rock",
            "pose": {
                "rotation": 8,
                "position": [0, -6],
                "opacity": 0.5,
                "fill": "#00ff00",
                "size": [90, 40],
                "scale": 1.5,
            },
            "length": 1600,
            "both_ways": False,
            "wait": 300,
            "wait_when": "each",
            "rounds": 3,
            "phase": 120,
            "at_rest": "hold",
            "curve": "linear",
        }
        project = made(step)
        (loop,) = find_frame(project, "a").loops
        self.assertEqual(
            (loop.offset.rotation, loop.offset.shift_y, loop.offset.opacity, loop.offset.scale_x), (8, -6, 0.5, 1.5)
        )
        self.assertEqual((loop.changes.w, loop.changes.h, loop.changes.fills[0].color), (90, None, "#00ff00"))
        self.assertEqual(
            (loop.duration, loop.direction, loop.wait, loop.wait_when), (1600, "one way", 300, "before each round")
        )
        self.assertEqual((loop.rounds, loop.start_offset, loop.at_rest, loop.curve), (3, 120, "hold", Line()))
        again = applied(project, [{"do": "loop", "in": "a", "layer": "Card", "name": "rock", "wait": 50}], SITE)
        self.assertEqual([entry.wait for entry in find_frame(again, "a").loops], [50])


class Refused(unittest.TestCase):
    def refused(self, step: Any, words: str) -> None:
        project = made()
        with self.assertRaises(AveltError) as caught:
            applied(project, [{"do": "set", "in": "a", "layer": "Card", "opacity": 1}, step], SITE, "steps.json")
        self.assertIn("steps.json, step 2", str(caught.exception))
        self.assertIn(words, str(caught.exception))

    def test_each_with_its_step_and_the_nearest_name(self) -> None:
        for step, words in (
            ({}, "“do” is missing"),
            ({"do": "sett"}, "Did you mean 'set'?"),
            ({"do": "set", "in": "a", "layer": "Crad", "opacity": 1}, "Did you mean 'Card'?"),
            ({"do": "set", "in": "a", "layer": "Card", "opacty": 1}, "Did you mean 'opacity'?"),
            ({"do": "set", "in": "zz", "layer": "Card"}, "no frame 'zz'"),
            ({"do": "set", "in": "a", "opacity": 1}, "Say which layer"),
            ({"do": "set", "layer": "Card"}, "needs 'in'"),
            ({"do": "set", "in": "a", "layer": "Card", "position": [1]}, "takes 2 numbers"),
            ({"do": "set", "in": "a", "layer": "Card", "fill": 7}, "takes text"),
            ({"do": "set", "in": "a", "layer": "Card", "opacity": "much"}, "opacity"),
            ({"do": "set", "in": "a", "layer": "Card", "hidden": 1}, "true or false"),
            ({"do": "frame", "name": "a"}, "already"),
            ({"do": "frame", "name": 7}, "is text"),
            ({"do": "draw", "in": "a", "kind": "blob"}, "no kind 'blob'"),
            ({"do": "draw", "in": "a", "kind": "path", "d": ""}, "draw nothing"),
            ({"do": "cue", "route": "a > c", "layer": "Card"}, "no frame 'c'"),
            ({"do": "cue", "route": "a > b", "layer": "Card", "property": "opacit"}, "Did you mean 'opacity'?"),
            (
                {"do": "keyframe", "route": "a > b", "layer": "Card", "property": "opacity", "at": 900, "value": 1},
                "lies in it",
            ),
            (
                {"do": "keyframe", "route": "a > b", "layer": "Card", "property": "shadow", "at": 9, "value": 1},
                "no keyframes",
            ),
            ({"do": "route", "from": "a", "to": "b", "trigger": {"tapp": "Card"}}, "no trigger 'tapp'"),
            ({"do": "route", "from": "a", "to": "b", "trigger": {"tap": "Card", "after": 3}}, "has no 'after'"),
            ({"do": "route", "from": "a", "to": "b", "then": "gone"}, "Did you mean 'go'?"),
            ({"do": "route", "from": "a", "to": "b", "only_if": "pul < 1"}, "pul"),
            ({"do": "route", "from": "a", "to": "b", "curve": "bouncy(3)"}, "bouncy"),
            ({"do": "input", "name": "x", "kind": "list"}, "no kind 'list'"),
            ({"do": "input", "name": "x", "kind": "number", "start": "one"}, "cannot start"),
            ({"do": "loop", "in": "a", "layer": "Card", "wait_when": "often"}, "once or each"),
            ({"do": "enter", "route": "a > b", "layer": "Card", "pose": {}}, "in both frames"),
            ({"do": "stagger", "route": "a > b", "layers": []}, "a list of names"),
            ({"do": "apart", "route": "a > b", "layer": "Card", "with": "Nobody"}, "no layer 'Nobody'"),
        ):
            with self.subTest(step):
                self.refused(step, words)

    def test_files_that_are_no_steps(self) -> None:
        for data in (b"", b"{", b"7", b'{"do": "set"}', b"[1]", b"[" * 3000, b"\xff"):
            with self.assertRaises(FormatError, msg=data[:9]):
                steps_of(data, "s.json")
        self.assertEqual(steps_of(b'{"steps": []}', "s.json"), [])

    def test_the_schema_says_what_the_table_does(self) -> None:
        items = schema()["items"]["oneOf"]
        self.assertEqual([entry["properties"]["do"]["const"] for entry in items], [verb.name for verb in VERBS])
        self.assertEqual(items[0]["required"], ["do", "name"])
        json.dumps(schema())


if __name__ == "__main__":
    unittest.main()
