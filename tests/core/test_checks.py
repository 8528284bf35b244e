"""Every check: a project in which it fires, and one like it in which it stays silent; mending, muting, SARIF."""

from __future__ import annotations

import io
import json
import tempfile
import unittest
from contextlib import redirect_stdout
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from avelt import cli
from avelt.core.checks.seen import contrast, flashes, luminance
from avelt.core.checks.table import BY_CODE, CHECKS, Finding, all_findings, findings, mute
from avelt.core.edits.frames import remove_layer
from avelt.core.edits.mending import MENDS, mended
from avelt.core.edits.project import new_project
from avelt.core.errors import EditError
from avelt.core.formats.project_file import from_json, save_project, to_json
from avelt.core.model.find import find_layer
from avelt.core.model.links import Carried, Link
from avelt.core.model.motion import Cue
from avelt.core.model.values import Asset, Picture, Project
from avelt.core.steps.read import applied
from avelt.demo.shipped import shipped_demo
from tests.core.test_steps import SITE

replace = msgspec.structs.replace
Steps = list[dict[str, Any]]


def box(frame: str, name: str, at: tuple[float, float] = (20, 20), **more: Any) -> dict[str, Any]:
    return {"do": "draw", "in": frame, "kind": "box", "name": name, "position": list(at), "size": [60, 60]} | {
        "fill": "#205060",
        **more,
    }


def words(frame: str, name: str, text: str, **more: Any) -> dict[str, Any]:
    made = {
        "do": "draw",
        "in": frame,
        "kind": "text",
        "name": name,
        "text": text,
        "position": [20, 120],
        "size": [80, 20],
    }
    return made | {"fill": "#101010"} | more


def route(left: str, right: str, touched: str = "Card", **more: Any) -> dict[str, Any]:
    return {"do": "route", "from": left, "to": right, "trigger": {"tap": touched}, "length": 300} | more


PAIR: Steps = [
    {"do": "frame", "name": "a"},
    box("a", "Card"),
    {"do": "frame", "name": "b", "copy": "a"},
    {"do": "set", "in": "b", "layer": "Card", "position": [200, 300]},
]
BOTH_WAYS: Steps = [*PAIR, route("a", "b"), route("b", "a")]
PART: Steps = [*BOTH_WAYS, {"do": "part", "in": "a", "layers": ["Card"], "name": "Lamp", "pose": "off"}]
ORDER: Steps = [
    *PART,
    {"do": "pose", "part": "Lamp", "name": "on", "copy": "off"},
    {"do": "set", "in": "Lamp/on", "layer": "Card", "fill": "#e08020"},
    {"do": "input", "part": "Lamp", "name": "level", "kind": "number"},
    {"do": "use", "in": "a", "layer": "Lamp", "inputs": {"level": 2}},
]
SCROLLS: Steps = [*BOTH_WAYS, {"do": "set", "in": "a", "content": [360, 900], "scroll": "down"}]


def made(*steps: dict[str, Any]) -> Project:
    return applied(new_project("p"), list(steps), SITE)


def cue(**more: Any) -> dict[str, Any]:
    return {"do": "cue", "route": "a > b", "layer": "Card", **more}


def loop(**more: Any) -> dict[str, Any]:
    given = {"name": "rock", "pose": {"position": [10, 0]}, "length": 800, "both_ways": True, **more}
    return {"do": "loop", "in": "a", "layer": "Card", **given}


def phase(name: str, **more: Any) -> dict[str, Any]:
    return {"do": "phase", "part": "Lamp", "name": name, **more}


OTHER = {"fill": "#d0a020", "size": [9, 90]}
LOW, HIGH = {"pose": "off"}, {"pose": "on"}
#: Code -> steps in which it fires, and steps like them in which it stays silent.
CASES: dict[str, tuple[Steps, Steps]] = {
    "path gone": (
        [
            *PAIR,
            box("a", "Rail"),
            route("a", "b", trigger={"drag": "Card", "along": "Rail"}),
            {"do": "remove", "in": "a", "layer": "Rail"},
        ],
        [
            *PAIR,
            {"do": "draw", "in": "a", "kind": "path", "name": "Rail", "d": "M0 0 L 90 0"},
            route("a", "b", trigger={"drag": "Card", "along": "Rail"}),
        ],
    ),
    "layer gone": (
        [*BOTH_WAYS, box("a", "Star"), route("a", "b", "Star"), {"do": "remove", "in": "a", "layer": "Star"}],
        BOTH_WAYS,
    ),
    "input gone": (
        [
            *BOTH_WAYS,
            {"do": "input", "name": "n", "kind": "number"},
            route("a", "b", trigger={"crosses": "n", "value": 3}),
            {"do": "remove", "input": "n"},
        ],
        [
            *BOTH_WAYS,
            {"do": "input", "name": "n", "kind": "number"},
            route("a", "b", trigger={"crosses": "n", "value": 3}),
        ],
    ),
    "motion gone": (
        [
            *BOTH_WAYS,
            loop(rounds=2),
            route("a", "b", trigger={"ends": "rock"}),
            {"do": "remove", "in": "a", "loop": "rock"},
        ],
        [*BOTH_WAYS, loop(rounds=2), route("a", "b", trigger={"ends": "rock"})],
    ),
    "same trigger": (
        [*BOTH_WAYS, {"do": "frame", "name": "c"}, route("a", "c"), route("c", "a", "")],
        [
            *BOTH_WAYS,
            {"do": "frame", "name": "c"},
            route("a", "c", trigger={"double tap": "Card"}),
            route("c", "a", ""),
        ],
    ),
    "unreachable": ([*BOTH_WAYS, {"do": "frame", "name": "c"}], BOTH_WAYS),
    "dead end": ([*PAIR, route("a", "b")], BOTH_WAYS),
    "not over": (
        [*PAIR, route("a", "b"), route("b", "a", then="put away")],
        [*PAIR, route("a", "b", then={"show over": {}}), route("b", "a", then="put away")],
    ),
    "no way there": (
        [*PAIR, route("a", "b", then={"show over": {}}), route("b", "a", then="back")],
        [*PAIR, route("a", "b"), route("b", "a", then="back")],
    ),
    "circle": (
        [
            *BOTH_WAYS,
            {"do": "input", "name": "s", "kind": "signal"},
            route("a", "a", trigger={"signal": "s"}, then={"send": "s"}, add=True),
        ],
        [
            *BOTH_WAYS,
            {"do": "input", "name": "s", "kind": "signal"},
            {"do": "input", "name": "t", "kind": "signal"},
            route("a", "a", trigger={"signal": "s"}, then={"send": "t"}, add=True),
        ],
    ),
    "timer early": (
        [*BOTH_WAYS, loop(length=2500), route("a", "b", trigger={"timer": 2200})],
        [*BOTH_WAYS, loop(length=2500), route("a", "b", trigger={"timer": 2500})],
    ),
    "delay in vain": (
        [*PAIR, route("a", "b", trigger={"drag": "Card", "along": "up"}, delay=90), route("b", "a")],
        [*PAIR, route("a", "b", trigger={"drag": "Card", "along": "up"}), route("b", "a")],
    ),
    "out of reach": (
        [*SCROLLS, route("a", "b", trigger={"scroll": "down", "start": 0, "end": 900})],
        [*SCROLLS, route("a", "b", trigger={"scroll": "down", "start": 0, "end": 160})],
    ),
    "near name": (
        [*BOTH_WAYS, box("a", "Harbour", (0, 500)), box("b", "Quay", (0, 500)), box("b", "Harbor", (280, 20), **OTHER)],
        [*BOTH_WAYS, box("a", "Harbour", (0, 500)), box("b", "Quay", (0, 500)), box("b", "Island", (280, 20), **OTHER)],
    ),
    "only cuts": (
        [
            *PAIR,
            words("a", "Line", "Sailing"),
            words("b", "Line", "Boarding"),
            route("a", "b"),
            route("b", "a"),
            {"do": "pair", "route": "a > b", "layer": "Line", "with": "Line", "content": "swap"},
        ],
        [*PAIR, words("a", "Line", "Sailing"), words("b", "Line", "Boarding"), route("a", "b"), route("b", "a")],
    ),
    "flips": ([*BOTH_WAYS, {"do": "set", "in": "b", "layer": "Card", "blend": "multiply"}], BOTH_WAYS),
    "cue idle": (
        [*BOTH_WAYS, cue(property="rotation", start=0, end=90)],
        [*BOTH_WAYS, cue(property="position", start=0, end=200)],
    ),
    "dead wait": ([*BOTH_WAYS, cue(start=170, end=300)], [*BOTH_WAYS, cue(start=60, end=300)]),
    "dead rest": ([*BOTH_WAYS, cue(start=0, end=120)], [*BOTH_WAYS, cue(start=0, end=220)]),
    "out of sight": (
        [
            *BOTH_WAYS,
            {"do": "set", "in": "a", "layer": "Card", "position": [-200, 0]},
            {"do": "set", "in": "b", "layer": "Card", "position": [-90, 50]},
        ],
        [
            *BOTH_WAYS,
            {"do": "set", "in": "a", "layer": "Card", "position": [-200, 0]},
            {"do": "set", "in": "b", "layer": "Card", "position": [-30, 50]},
        ],
    ),
    "too long": (
        [*PAIR, route("a", "b", length=1800), route("b", "a")],
        [*PAIR, route("a", "b", length=1400), route("b", "a")],
    ),
    "flashes": (
        [
            *BOTH_WAYS,
            {"do": "set", "in": "a", "layer": "Card", "size": [300, 300]},
            loop(pose={"opacity": 0}, length=200),
        ],
        [
            *BOTH_WAYS,
            {"do": "set", "in": "a", "layer": "Card", "size": [300, 300]},
            loop(pose={"opacity": 0}, length=400),
        ],
    ),
    "seam open": ([*BOTH_WAYS, loop(both_ways=False)], [*BOTH_WAYS, loop()]),
    "rounds apart": (
        [*BOTH_WAYS, loop(length=2201, both_ways=True), loop(name="nod", length=2503)],
        [*BOTH_WAYS, loop(length=2200), loop(name="nod", length=2500), loop(name="by chance", length=2503, jitter=0.3)],
    ),
    "hover only": (
        [*BOTH_WAYS[:-2], route("a", "b", trigger={"hover in": "Card"}), route("b", "a")],
        [*BOTH_WAYS, route("a", "b", trigger={"hover in": "Card"})],
    ),
    "loop idle": ([*BOTH_WAYS, loop(pose={"position": [0, 0]})], [*BOTH_WAYS, loop()]),
    "goes nowhere": (
        [*SCROLLS, {"do": "follow", "in": "a", "layer": "Card", "value": {"scroll": "down"}, "from": 0, "to": 200}],
        [
            *SCROLLS,
            {
                "do": "follow",
                "in": "a",
                "layer": "Card",
                "value": {"scroll": "down"},
                "from": 0,
                "to": 200,
                "pose": {"position": [0, 9]},
            },
        ],
    ),
    "phase unreached": (
        [*ORDER, phase("x", shows=LOW), phase("y", shows=HIGH)],
        [*ORDER, phase("x", shows=LOW, then={"if": "level > 1", "to": "y"}), phase("y", shows=HIGH)],
    ),
    "phase stuck": ([*ORDER, phase("x", shows=LOW, lasts={"ms": 90})], [*ORDER, phase("x", shows=LOW)]),
    "rule in vain": (
        [
            *ORDER,
            phase("x", shows=LOW, then=[{"if": "level > 1", "to": "y"}, {"if": "level > 3", "to": "y"}]),
            phase("y", shows=HIGH),
        ],
        [
            *ORDER,
            phase("x", shows=LOW, then=[{"if": "level > 3", "to": "y"}, {"if": "level > 1", "to": "y"}]),
            phase("y", shows=HIGH),
        ],
    ),
    "phase jumps": (
        [*ORDER, phase("x", shows={"motion": ["off", "on"]}, lasts="once", then={"to": "y"}), phase("y", shows=LOW)],
        [*ORDER, phase("x", shows={"motion": ["off", "on"]}, lasts="once", then={"to": "y"}), phase("y", shows=HIGH)],
    ),
    "input unset": (
        [*[s for s in ORDER if s["do"] != "use"], phase("x", shows={"blend": ["off", "on"], "by": "level"})],
        [*ORDER, phase("x", shows={"blend": ["off", "on"], "by": "level"})],
    ),
    "part unused": ([*PART, {"do": "remove", "in": "a", "layer": "Lamp"}], PART),
    "tape": (
        [*BOTH_WAYS, {"do": "tape", "name": "Tour", "start": {"frame": "gone"}, "events": [], "until": 90}],
        [*BOTH_WAYS, {"do": "tape", "name": "Tour", "start": {"frame": "a"}, "events": [], "until": 90}],
    ),
}
CASES["unreadable"] = (
    [
        *PAIR,
        box("a", "Ground", (0, 100), size=[360, 80], fill="#101010"),
        words("a", "Line", "Sailing", fill="#f0f0f0"),
        box("b", "Ground", (0, 100), size=[360, 80], fill="#f0f0f0"),
        words("b", "Line", "Sailing"),
        route("a", "b", length=1400, curve="linear"),
        route("b", "a"),
    ],
    [
        *PAIR,
        box("a", "Ground", (0, 100), size=[360, 80], fill="#f0f0f0"),
        words("a", "Line", "Sailing", fill="#101010"),
        box("b", "Ground", (0, 100), size=[360, 80], fill="#d0e0f0"),
        words("b", "Line", "Sailing", fill="#203040"),
        route("a", "b", length=1000),
        route("b", "a"),
    ],
)


def many(step: float) -> Steps:
    """Twenty boxes that go, each by its own way or all alike."""
    steps: Steps = [
        {"do": "frame", "name": "a"},
        *(box("a", f"Card {k}", (15 * k, 20), size=[10, 10]) for k in range(20)),
    ]
    steps.append({"do": "frame", "name": "b", "copy": "a"})
    steps += [{"do": "set", "in": "b", "layer": f"Card {k}", "position": [15 * k, 200 + step * k]} for k in range(20)]
    return [*steps, route("a", "b", "Card 1"), route("b", "a", "Card 1")]


CASES["too many"] = many(19.0), many(0.0)


def condition(project: Project, text: str) -> Project:
    return replace(project, routes=(replace(project.routes[0], only_if=text), *project.routes[1:]))


def heavy(shown: float) -> Project:
    project = made(*BOTH_WAYS)
    frame = project.frames[0]
    layer = replace(frame.layers[0], body=Picture("x" * 64), w=shown, h=shown)
    asset = Asset("x" * 64, "png", 2000, 2000, bytes(600_000))
    return replace(project, frames=(replace(frame, layers=(layer,)), *project.frames[1:]), assets=(asset,))


def linked(carried: bool, quieter: str) -> Project:
    document = json.dumps({"name": "Rise", "quieter": quieter})
    project = made(*BOTH_WAYS)
    presets = (Carried("Rise", document),) if carried else ()
    return replace(project, presets=presets, links=(Link("K1", "Rise", project.routes[0].id),))


def two_tracks(shared: bool) -> Project:
    steps = [*ORDER, phase("x", shows={"motion": ["off", "on"]}, lasts="once", then={"to": "x"})]
    layers = {"layers": ["Card"]} if shared else {}
    steps.append(
        {
            "do": "phase",
            "part": "Lamp",
            "track": "side",
            "name": "z",
            "shows": {"motion": ["on", "off"]},
            "then": {"to": "z"},
            **layers,
        }
    )
    return made(*(steps if shared else steps[:-1]))


def other_part(gone: bool) -> Project:
    project = made(*PART)
    return replace(project, parts=()) if gone else project


#: The same for what no step makes.
PROJECTS: dict[str, tuple[Project, Project]] = {
    "condition": (condition(made(*BOTH_WAYS), "nothing > 3"), condition(made(*BOTH_WAYS), "")),
    "expression": (
        made(*ORDER, phase("x", shows={"blend": ["off", "on"], "by": "1 / (level - level)"})),
        made(*ORDER, phase("x", shows={"blend": ["off", "on"], "by": "level / 2"})),
    ),
    "event": (
        made(
            *ORDER,
            {"do": "input", "part": "Lamp", "name": "go", "kind": "signal"},
            phase("x", shows=LOW, then={"on": {"signal": "go"}, "to": "y"}),
            phase("y", shows=HIGH),
            {"do": "remove", "part": "Lamp", "input": "go"},
        ),
        made(
            *ORDER,
            {"do": "input", "part": "Lamp", "name": "go", "kind": "signal"},
            phase("x", shows=LOW, then={"on": {"signal": "go"}, "to": "y"}),
            phase("y", shows=HIGH),
        ),
    ),
    "two tracks": (two_tracks(True), two_tracks(False)),
    "part gone": (other_part(True), other_part(False)),
    "link gone": (linked(False, "Fade"), linked(True, "Fade")),
    "no quieter": (linked(True, ""), linked(True, "Fade")),
    "picture heavy": (heavy(300.0), heavy(900.0)),
}


def case(code: str, side: int) -> Project:
    return PROJECTS[code][side] if code in PROJECTS else made(*CASES[code][side])


def codes(project: Project) -> list[str]:
    return [found.check.code for found in findings(project)]


def found_of(project: Project, code: str) -> Finding:
    return next(found for found in findings(project) if found.check.code == code)


class EveryCheck(unittest.TestCase):
    def test_each_has_its_cases(self) -> None:
        self.assertEqual(sorted([*CASES, *PROJECTS]), sorted(BY_CODE))
        self.assertEqual(len(BY_CODE), len(CHECKS))

    def test_each_fires_and_stays_silent(self) -> None:
        for code in BY_CODE:
            with self.subTest(code):
                self.assertIn(code, codes(case(code, 0)))
                self.assertNotIn(code, codes(case(code, 1)))

    def test_the_demo_has_no_finding(self) -> None:
        self.assertEqual([found.line for found in findings(shipped_demo())], [])

    def test_the_two_numbers_are_said(self) -> None:
        self.assertIn("2200 ms", found_of(case("timer early", 0), "timer early").line)
        self.assertIn("2500 ms", found_of(case("timer early", 0), "timer early").line)

    def test_entrances_finite_loops_and_delays_count_too(self) -> None:
        steps = [*BOTH_WAYS, {"do": "entrance", "in": "a", "layers": ["Card"], "pose": {"opacity": 0}, "length": 700}]
        self.assertIn("timer early", codes(made(*steps, route("a", "b", trigger={"timer": 600}))))
        self.assertNotIn("timer early", codes(made(*steps, route("a", "b", trigger={"timer": 600}, delay=100))))
        twice = loop(length=400, rounds=2, wait=200)
        self.assertIn("timer early", codes(made(*BOTH_WAYS, twice, route("a", "b", trigger={"timer": 999}))))
        self.assertNotIn("timer early", codes(made(*BOTH_WAYS, twice, route("a", "b", trigger={"timer": 1000}))))

    def test_a_cue_that_others_hang_on_is_needed(self) -> None:
        steps = [*BOTH_WAYS, box("a", "Two"), box("b", "Two", (200, 90)), cue(property="rotation", start=0, end=90)]
        project = made(*steps)
        self.assertIn("cue idle", codes(project))
        old = project.routes[0].transition
        cues = (*old.cues, Cue(old.cues[0].from_id, old.cues[0].to_id, "position", 0.0, 200.0))
        project = replace(
            project, routes=(replace(project.routes[0], transition=replace(old, cues=cues)), project.routes[1])
        )
        self.assertEqual([found.trouble.cue.prop for found in findings(project)], ["rotation"])


class Numbers(unittest.TestCase):
    def test_luminance_and_contrast_are_those_of_wcag(self) -> None:
        white, black, grey = (np.array(c) for c in ([1.0, 1, 1], [0.0, 0, 0], [0x77 / 255.0] * 3))
        self.assertAlmostEqual(float(contrast(luminance(white), luminance(black))), 21.0)
        self.assertAlmostEqual(float(contrast(luminance(grey), luminance(white))), 4.478, 3)

    def test_flashes_in_the_worst_second(self) -> None:
        def wave(count: float, low: float = 0.0, high: float = 0.6) -> np.ndarray:
            t = np.arange(0, 2, 1 / 60)
            return low + (high - low) * (0.5 - 0.5 * np.cos(2 * np.pi * count * t))

        self.assertEqual(flashes(wave(2.0)), 2)
        self.assertEqual(flashes(wave(3.0)), 3)
        self.assertGreater(flashes(wave(5.0)), 3)
        self.assertEqual(flashes(wave(5.0, 0.3, 0.38)), 0)  # less than a tenth
        self.assertEqual(flashes(wave(5.0, 0.82, 1.0)), 0)  # too light to hurt
        self.assertEqual(flashes(np.linspace(0.0, 1.0, 60)), 0)


class Mending(unittest.TestCase):
    def test_what_can_be_mended_is_not_found_again(self) -> None:
        for code in MENDS:
            with self.subTest(code):
                project = case(code, 0)
                found = found_of(project, code)
                after = mended(project, found.part, found.trouble)
                self.assertNotIn((code, found.about), [(f.check.code, f.about) for f in findings(after)])

    def test_inside_a_part(self) -> None:
        project = made(
            *PART,
            {
                "do": "loop",
                "in": "Lamp",
                "layer": "Card",
                "name": "rock",
                "pose": {"position": [9, 0]},
                "both_ways": False,
            },
        )
        found = found_of(project, "seam open")
        self.assertTrue(found.part and found.line.startswith("Lamp: "))
        self.assertNotIn("seam open", codes(mended(project, found.part, found.trouble)))

    def test_what_needs_a_hand_says_so(self) -> None:
        found = found_of(case("unreachable", 0), "unreachable")
        with self.assertRaises(EditError):
            mended(case("unreachable", 0), found.part, found.trouble)


class Muting(unittest.TestCase):
    def test_it_is_kept_with_its_reason_and_taken_back(self) -> None:
        project = case("dead rest", 0)
        found = found_of(project, "dead rest")
        quiet = mute(project, found, " read the note ")
        self.assertEqual([f.reason for f in findings(quiet) if f.check.code == "dead rest"], ["read the note"])
        self.assertEqual(from_json(to_json(quiet), "p"), quiet)
        self.assertEqual(mute(quiet, found_of(quiet, "dead rest"), ""), project)

    def test_another_finding_of_the_check_is_not_muted(self) -> None:
        project = made(*BOTH_WAYS, cue(start=0, end=120), {**cue(start=0, end=120), "route": "b > a"})
        both = [found for found in findings(project) if found.check.code == "dead rest"]
        quiet = mute(project, both[0], "meant")
        self.assertEqual([found.reason for found in findings(quiet) if found.check.code == "dead rest"], ["meant", ""])

    def test_findings_are_kept_for_the_same_project_and_can_be_stopped(self) -> None:
        project = case("dead rest", 0)
        self.assertIs(all_findings(project), all_findings(project))
        self.assertEqual(findings(project, lambda done, whole: False), ())


class CommandLine(unittest.TestCase):
    def run_on(self, project: Project, *args: str) -> tuple[int, str]:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "p.avelt"
            save_project(project, path)
            out = io.StringIO()
            with redirect_stdout(out):
                code = cli.main(["check", str(path), *args])
        return code, out.getvalue()

    def test_json_has_stable_codes(self) -> None:
        code, text = self.run_on(case("dead rest", 0), "--json")
        problems = json.loads(text)["problems"]
        self.assertEqual((code, [p["code"] for p in problems]), (1, ["dead rest"]))
        self.assertEqual((problems[0]["severity"], problems[0]["station"]), ("warning", "timing"))

    def test_muted_ones_do_not_count_and_are_suppressed_in_sarif(self) -> None:
        project = case("dead rest", 0)
        quiet = mute(project, found_of(project, "dead rest"), "meant")
        self.assertEqual(self.run_on(quiet), (0, "Nothing is wrong.\n"))
        code, text = self.run_on(quiet, "--muted", "--json")
        self.assertEqual((code, json.loads(text)["problems"][0]["muted"]), (0, "meant"))
        code, text = self.run_on(quiet, "--sarif")
        log = json.loads(text)
        result = log["runs"][0]["results"][0]
        self.assertEqual((code, log["version"], result["ruleId"]), (0, "2.1.0", "dead-rest"))
        self.assertEqual(result["suppressions"][0]["justification"], "meant")
        rules = {rule["id"] for rule in log["runs"][0]["tool"]["driver"]["rules"]}
        self.assertEqual(len(rules), len(CHECKS))
        self.assertIn(result["ruleId"], rules)

    def test_without_sarif_suppression(self) -> None:
        code, text = self.run_on(case("dead rest", 0), "--sarif")
        self.assertEqual(code, 1)
        self.assertNotIn("suppressions", json.loads(text)["runs"][0]["results"][0])

    def test_layers_are_named_where_there_are_any(self) -> None:
        project = case("near name", 0)
        gone = remove_layer(project, project.frames[0].id, find_layer(project.frames[0], "Harbour").id)
        self.assertNotIn("near name", codes(gone))
        self.assertEqual(len(json.loads(self.run_on(project, "--json")[1])["problems"][0].get("layers", [])) % 2, 0)


if __name__ == "__main__":
    unittest.main()
