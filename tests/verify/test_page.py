"""The clickable page: its player does what the core's does, with the same tapes."""

import json
import re
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace

from avelt.browser.headless import Browser, has_browser
from avelt.core.curves import easing
from avelt.core.curves.text import css
from avelt.core.edits.project import new_project
from avelt.core.errors import FormatError
from avelt.core.handoff.delivery import Delivery, Wanted
from avelt.core.handoff.page import page, script
from avelt.core.handoff.page_rules import ast_value
from avelt.core.model import expressions
from avelt.core.model.curves import Handles, Hold, Line, Points, Spring, Steps
from avelt.core.model.tapes import Press, Release, Start, Tape
from avelt.core.model.values import Loop, Pose, Project
from avelt.core.running.seeds import seeded
from avelt.core.running.tape import read_tape
from avelt.core.steps.read import applied
from avelt.core.timing.quieter import quieter
from avelt.demo.build import build_demo
from avelt.paint.fonts import measure_text
from avelt.paint.letters import QtLetters
from avelt.verify.compare import written
from avelt.verify.pages import replayed
from tests.core.test_phases import BESIDE, GULLS, WHOLE, single, told
from tests.core.test_phases import project_of as orders_of
from tests.core.test_steps import SITE
from tests.core.test_tapes import project_of, tape

READY = (
    "new Promise(done => { const wait = setInterval(() => { if (window.avelt) { clearInterval(wait); done(0) } }, 5) })"
)
#: An order that waits out its rounds, sets an input on its way, and is entered anew.
SETTING: list[dict[str, Any]] = [
    {"name": "a", "shows": {"loops": "a"}, "then": [{"if": "x > 2", "finish_round": True, "to": "b", "duration": 150}]},
    {"name": "b", "shows": {"motion": ["a", "b"], "duration": 300}, "lasts": {"rounds": 2}, "then": [{"if": "on", "to": "c"}]},
    {"name": "c", "shows": {"pose": "b"}, "then": [{"if": "x < 1", "to": "a", "duration": 250, "curve": "linear"}]},
]  # fmt: skip
LAMPS: list[dict[str, Any]] = [
    {"do": "frame", "name": "screen", "size": [200, 200]},
    {"do": "part", "name": "Lamp", "size": [80, 80], "pose": "Off"},
    {"do": "draw", "in": "Lamp", "kind": "box", "name": "Glow", "size": [80, 80],
     "fill": "linear-gradient(180deg, #ff0000, #0000ff)"},
    {"do": "pose", "part": "Lamp", "name": "On", "copy": "Off"},
    {"do": "set", "in": "Lamp/On", "layer": "Glow", "fill": "linear-gradient(180deg, #00ff00, #ffff00)"},
    {"do": "route", "part": "Lamp", "from": "Off", "to": "On", "trigger": {"timer": 300}, "length": 600, "curve": "linear"},
    {"do": "use", "in": "screen", "part": "Lamp", "name": "One"},
    {"do": "use", "in": "screen", "part": "Lamp", "name": "Two", "position": [100, 100], "clock": {"speed": 0.3}},
]  # fmt: skip

SWAYS: list[dict[str, Any]] = [
    {"do": "frame", "name": "a", "size": [200, 200]},
    {"do": "draw", "in": "a", "kind": "box", "name": "Boat", "position": [10, 10], "size": [50, 50], "fill": "#123456"},
    {"do": "loop", "in": "a", "layer": "Boat", "name": "sway", "pose": {"position": [90, 90]}, "length": 1700},
]


PASSES: list[dict[str, Any]] = [
    {"do": "frame", "name": "a", "size": [200, 200]},
    {"do": "draw", "in": "a", "kind": "box", "name": "Boat", "position": [10, 10], "size": [20, 20], "fill": "#123456"},
    {"do": "frame", "name": "b", "copy": "a"},
    {"do": "set", "in": "b", "layer": "Boat", "position": [170, 10]},
    {"do": "route", "from": "a", "to": "b", "trigger": {"timer": 100}, "length": 400, "curve": "linear"},
]  # fmt: skip


#: A button under a ring without a fill, and a line, both of which grow on the way to b.
RING: list[dict[str, Any]] = [
    {"do": "frame", "name": "a", "size": [200, 300]},
    {"do": "draw", "in": "a", "kind": "box", "name": "Button", "position": [60, 60], "size": [60, 60], "fill": "#123456"},
    {"do": "draw", "in": "a", "kind": "path", "name": "Ring", "position": [30, 30], "stroke": "#ff0000", "fill": "none",
     "d": "M0 60 C0 0 120 0 120 60 C120 120 0 120 0 60 Z"},
    {"do": "draw", "in": "a", "kind": "path", "name": "Rule", "position": [20, 220], "stroke": "#ff0000", "d": "M0 0 L 120 0"},
    {"do": "frame", "name": "b", "copy": "a"},
    {"do": "set", "in": "b", "layer": "Ring", "size": [150, 180]},
    {"do": "set", "in": "b", "layer": "Rule", "position": [60, 270]},
    {"do": "route", "from": "a", "to": "b", "trigger": {"timer": 900}, "length": 800, "curve": "linear"},
]  # fmt: skip


def page_of(project: Project, words: str = "outlines") -> Delivery:
    """The page of a project."""
    return page(None, project, QtLetters(), Wanted(name=project.name, words=words))  # type: ignore[arg-type]


@unittest.skipUnless(has_browser(), "there is no Chromium on this machine")
class ThePage(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.browser = Browser()
        cls.browser.__enter__()
        cls.addClassCleanup(cls.browser.close)
        cls.demo = build_demo(measure_text)
        cls.pages = {0: page_of(project_of(0)), 1: page_of(project_of(1)), "demo": page_of(cls.demo)}

    def open(self, delivery: Delivery, fragment: str = "#hold") -> None:
        """Show a page, as it is after it has begun."""
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        written(delivery.files, Path(folder.name))
        self.browser.open(Path(folder.name) / delivery.main, 360, 640, 1.0, fragment)
        if "hold" in fragment:
            self.browser.run(READY)

    def test_tapes_with_taps_everywhere_leave_the_same_log(self) -> None:
        # Number 1 breaks a motion off twice within 30 ms: there the page only comes near.
        for number in (0, 2, 3, 5, 6, 8, 12, 14, 17, 19, 28):
            events: list[Any] = []
            for at, x, y in tape(number):
                events += [Press(at, x, y), Release(at, x, y)]
            start = Start(loading=300.0 if number % 5 == 0 else 0.0)
            whole = Tape(start=start, events=tuple(events), until=events[-1].at + 3000.0)
            which = 0 if number % 3 == 0 else 1
            replay = replayed(self.pages[which], project_of(number), whole, [whole.until], self.browser)
            with self.subTest(tape=number):
                self.assertEqual(replay.designed, replay.delivered)

    def test_what_a_tap_meets_is_the_same(self) -> None:
        project = applied(new_project("Ring"), RING, SITE)
        spots = [(x, y) for y in (32, 48, 90, 150, 210, 218, 223, 262, 272) for x in (36, 50, 90, 140, 160)]
        events: list[Any] = []
        for k in range(3 * len(spots)):  # at rest, on the way, and there
            events += [Press(40.0 + 15.0 * k, *spots[k % len(spots)]), Release(48.0 + 15.0 * k, *spots[k % len(spots)])]
        one = Tape(events=tuple(events), until=events[-1].at + 100.0)
        replay = replayed(page_of(project), project, one, [one.until], self.browser)
        self.assertEqual(replay.designed, replay.delivered)
        met = {line[2].partition(",")[0] for line in replay.designed if line[1] == "tap"}
        self.assertLessEqual({"Button", "Ring", "Rule"}, met)

    def test_a_tap_on_what_moves_away_meanwhile_is_the_same(self) -> None:
        project = applied(new_project("Boat"), PASSES, SITE)
        events: list[Any] = []
        for k in range(8):  # the pointer stands still, or nearly, or does not
            at, x = 105.0 + 50.0 * k, 22.0 + 20.0 * k
            events += [Press(at, x, 20.0), Release(at + 45.0, x - (0.0, 3.9, 4.1)[k % 3], 20.0)]
        one = Tape(events=tuple(events), until=events[-1].at + 100.0)
        replay = replayed(page_of(project), project, one, [one.until], self.browser)
        self.assertEqual(replay.designed, replay.delivered)
        taps = [line[2].partition(",")[0] for line in replay.designed if line[1] == "tap"]
        self.assertEqual(taps, ["Boat", "Boat", "nothing", "Boat", "Boat", "nothing", "Boat", "Boat"])

    def test_tapes_of_the_demo_leave_the_same_log_and_pictures(self) -> None:
        for one in self.demo.tapes:
            moments = [one.until * (k + 0.5) / 12 for k in range(12)]
            replay = replayed(self.pages["demo"], self.demo, one, moments, self.browser)
            with self.subTest(one.name):
                self.assertEqual(replay.designed, replay.delivered)
                self.assertTrue(replay.verdict.holds, (replay.verdict.mean, replay.verdict.off))
                self.assertGreaterEqual(len(replay.designed), 4)

    def test_an_interrupted_motion_goes_on_from_what_is_on_screen(self) -> None:
        events = (Press(100, 180, 310), Release(110, 180, 310), Press(330, 24, 30), Release(340, 24, 30))
        one = Tape(events=events, until=1500.0)
        moments = [250.0, 345.0, 360.0, 400.0, 480.0, 1400.0]
        replay = replayed(self.pages["demo"], self.demo, one, moments, self.browser)
        self.assertEqual(replay.designed, replay.delivered)
        self.assertLess(replay.verdict.worst.mean, 1.5)

    def test_less_motion_is_the_quieter_variant(self) -> None:
        one = self.demo.tapes[0]
        moments = [one.until * (k + 0.5) / 12 for k in range(12)]
        calm = replayed(self.pages["demo"], self.demo, one, moments, self.browser, less_motion=True)
        self.assertEqual(calm.designed, calm.delivered)
        self.assertTrue(calm.verdict.holds, (calm.verdict.mean, calm.verdict.off))
        full = replayed(self.pages["demo"], self.demo, one, moments, self.browser)
        self.assertNotEqual(full.designed, calm.designed)
        for orders, events in ((orders_of(), WHOLE), (orders_of(*GULLS), WHOLE)):
            told_once = read_tape(json.dumps({"format": 1, "events": events, "until": 4000}).encode(), "whole")
            replay = replayed(page_of(orders), orders, told_once, moments[:4], self.browser, less_motion=True)
            self.assertEqual(replay.designed, replay.delivered)
            self.assertLess(replay.verdict.worst.mean, 0.3)

    def test_who_asks_for_less_motion_sees_it(self) -> None:
        sways = page_of(applied(new_project("Sways"), SWAYS, SITE))
        for value, loops in (("reduce", False), ("no-preference", True)):
            self.browser.ask(
                "Emulation.setEmulatedMedia", features=[{"name": "prefers-reduced-motion", "value": value}]
            )
            self.open(sways, "")
            wait = "new Promise(done => setTimeout(() => done(0), 600))"
            seen = []
            for _ in range(2):
                self.browser.run(wait)
                seen.append(self.browser.picture())
            self.assertEqual(seen[0] != seen[1], loops, value)
        self.browser.ask("Emulation.setEmulatedMedia", features=[])

    def test_waits_by_chance_are_those_of_every_seed(self) -> None:
        project = applied(new_project("Chance"), SWAYS, SITE)
        frame = project.frames[0]
        (sways,) = frame.loops
        layers, loops = [], []
        for k, more in enumerate(
            (
                Loop("", "", "", "", wait=200.0, jitter=0.5),
                Loop("", "", "", "", wait=700.0, wait_when="before each round", jitter=0.9, seed=12),
                Loop(
                    "", "", "", "", wait=500.0, wait_when="before each round", jitter=0.4, rounds=4, start_offset=130.0
                ),
            )
        ):
            way: dict[str, Any] = {"direction": "one way", "at_rest": "hold"} if k else {}
            layers.append(
                replace(frame.layers[0], id=f"x{k}", origin=f"x{k}", name=f"X{k}", x=10.0 + 60 * k, y=90.0, w=20.0)
            )
            own = {"id": f"o{k}", "origin": f"o{k}", "layer": f"x{k}", "name": f"o{k}", "duration": 400.0, **way}
            loops.append(replace(more, offset=Pose(rotation=70.0), curve=sways.curve, **own))
        frame = replace(frame, layers=(*frame.layers, *layers), loops=(sways, *loops))
        project = replace(project, frames=(frame,))
        self.assertTrue(any(loop.jitter for loop in project.frames[0].loops))
        delivery = page_of(project)
        moments = [k * 331 + 0.41 for k in range(11)] + [61_234.0, 600_321.0]
        for seed in (1, 2**31 - 2):
            one = Tape(start=Start(seed=seed), until=moments[-1] + 1.0)
            replay = replayed(delivery, project, one, moments, self.browser)
            self.assertLess(replay.verdict.worst.mean, 0.3, seed)
        other = replayed(delivery, seeded(project, 5), Tape(until=moments[-1] + 1.0), moments, self.browser)
        self.assertGreater(other.verdict.worst.mean, 1.0)

    def test_running_orders_leave_the_same_log_and_pictures(self) -> None:
        soon = [told(100, "down", True), told(110, "finger", 50), told(300, "down", False), told(450, "finger", 0)]
        rule = {"do": "phase", "part": "Tide", "track": "gulls", "name": "sink",
                "then": [{"on": {"tap": "Gull"}, "to": "rise"}]}  # fmt: skip
        after = {"do": "phase", "part": "Tide", "name": "draw",
                 "shows": {"blend": ["Flat", "Drawn"], "by": "pull", "lag": 120}}  # fmt: skip
        cases = {
            "pulled": (orders_of(), WHOLE),
            "with gulls": (orders_of(*GULLS), WHOLE),
            "let go too soon": (orders_of(), soon),
            "a gull tapped": (orders_of(*GULLS, rule), []),
            "coming after": (orders_of(after), WHOLE),
            "waiting and setting": (single(*SETTING), [told(500, "x", 3), told(600, "on", True), told(1500, "x", 0)]),
            "beside routes": (applied(new_project("Beside"), BESIDE, SITE), []),
        }
        self.compare(cases)

    def test_a_part_that_is_shown_twice_has_its_own_gradient_each_time(self) -> None:
        self.compare({"lamps": (applied(new_project("Lamps"), LAMPS, SITE), [])})

    def compare(self, cases: dict[str, tuple[Project, list[Any]]]) -> None:
        for name, (project, events) in cases.items():
            one = read_tape(json.dumps({"format": 1, "events": events, "until": 4000}).encode(), name)
            if name == "a gull tapped":
                one = Tape(events=(Press(100, 132, 55), Release(110, 132, 55)), until=4000)
            moments = [k * 97 + 0.37 for k in range(36)]
            replay = replayed(page_of(project), project, one, moments, self.browser)
            with self.subTest(name):
                self.assertEqual(replay.designed, replay.delivered)
                self.assertLess(replay.verdict.worst.mean, 0.3)
                self.assertTrue(replay.designed)

    def test_without_hold_nothing_global_is_there_and_time_goes(self) -> None:
        self.open(self.pages["demo"], "")
        before = self.browser.run("new Promise(done => setTimeout(() => done(window.avelt === undefined), 300))")
        self.assertTrue(before)
        self.assertGreater(self.browser.run("document.querySelectorAll('svg path').length"), 3)

    def test_what_can_be_tapped_is_a_button_for_keys_and_readers(self) -> None:
        self.open(self.pages["demo"], "")
        found = self.browser.run(
            "new Promise(done => setTimeout(() => done([...document.querySelectorAll('[role=button]')]"
            ".map(e => [e.getAttribute('aria-label'), e.getAttribute('tabindex')])), 300))"
        )
        self.assertTrue(found)
        self.assertTrue(all(name and place == "0" for name, place in found))
        self.assertEqual(self.browser.run("document.querySelector('svg').getAttribute('aria-label')"), "Skerry Line")

    def test_inputs_can_be_told_from_a_panel(self) -> None:
        self.open(self.pages["demo"], "?inputs")
        count = self.browser.run(
            "new Promise(d => setTimeout(() => d(document.querySelectorAll('form label').length), 300))"
        )
        self.assertEqual(count, len(self.demo.inputs))

    def test_curves_are_those_of_the_core(self) -> None:
        shares = np.linspace(0, 1, 41)
        for curve in (
            Handles(0.2, 0, 0.1, 1),
            Handles(0.9, -0.5, 0.1, 1.5),
            Steps(4, "none"),
            Steps(3, "both"),
            Points(((0, 0), (0.2, 0.7), (1, 1))),
            Spring(0.4),
            Hold(0.3),
            Line(),
        ):
            text = css(curve)
            player = f"(() => {{ const play = {self.player()}; return play({json.dumps(self.empty([text]))}, null).curve }})()"
            got = self.browser.run(f"{json.dumps(shares.tolist())}.map({player}(0))")
            with self.subTest(text[:40]):
                self.assertLess(np.abs(np.array(got)[1:-1] - easing.at(curve, shares)[1:-1]).max(), 0.003)

    def player(self) -> str:
        text = script("player.js")
        return text[text.index("const play = ") + len("const play = ") :].rstrip().rstrip(";")

    def empty(self, curves: list[str]) -> dict[str, Any]:
        return {
            "curves": curves,
            "channels": [],
            "programs": [],
            "parts": {},
            "project": {"inputs": [], "states": [], "frames": {}},
        }

    def test_expressions_are_those_of_the_core(self) -> None:
        inputs = {"on": True, "n": 3.0, "word": "C"}
        for text in (
            "n * 2 - 1",
            "clamp(0, n / 0, 1)",
            'on and (n >= 3 or word = "D")',
            "not on",
            'n = "3"',
            "word != 3",
            "min(n, 2, -1)",
            "on + 1",
            "n > word",
            "on > no",
            "-n - -2",
            "missing",
            "max(word, 2)",
        ):
            player = (
                f"(() => {{ const play = {self.player()}; return play({json.dumps(self.empty([]))}, null).value }})()"
            )
            got = self.browser.run(f"{player}({json.dumps(ast_value(text))}, {json.dumps(inputs)})")
            with self.subTest(text):
                self.assertEqual(got, expressions.value_of(expressions.parse_value(text), inputs))


class AsText(unittest.TestCase):
    def test_it_asks_nothing_of_the_network_and_is_small(self) -> None:
        demo = build_demo(measure_text)
        delivery = page_of(demo, "text")
        text = delivery.files["page.html"].decode()
        self.assertEqual(re.findall(r"(?:src|href)=\"(?!data:)[^\"]+", text), [])
        self.assertNotIn("fetch(", text)
        self.assertNotIn("import ", re.sub(r"PACKED = \"[^\"]*\"", "", text).split("<script>")[1][:200])
        fonts = sum(len(font) for font in re.findall(r"data:font/woff;base64,([A-Za-z0-9+/=]*)", text))
        pictures = len(re.findall(r"const PICTURES = (.*);\n", text)[0])
        self.assertLess(len(text.encode()) - fonts - pictures, 150_000)
        self.assertEqual(page_of(demo, "text").files, delivery.files)

    def test_where_nothing_would_differ_there_is_no_second_variant(self) -> None:
        project = applied(new_project("Still"), [{"do": "frame", "name": "one", "size": [50, 50]}], SITE)
        both = [len(page_of(made).files["page.html"]) for made in (project, quieter(project))]
        self.assertEqual(both[0], both[1])
        moving = project_of(0)
        quiet = page_of(quieter(moving)).files["page.html"]
        self.assertGreater(len(page_of(moving).files["page.html"]), len(quiet) + 500)
        asked = page(None, quieter(moving), QtLetters(), Wanted(name=moving.name, words="outlines", calm=True))
        self.assertLess(len(asked.files["page.html"]), len(quiet))

    def test_names_cannot_leave_their_place(self) -> None:
        from tests.verify.cases import CASES

        text = page_of(CASES["names"](), "text").files["page.html"].decode()
        self.assertEqual(text.count("</script>"), 1)
        self.assertEqual(text.count("<script"), 1)

    @given(
        st.recursive(
            st.sampled_from(["n", "on", "2", '"C"', "yes"]),
            lambda inner: st.tuples(inner, st.sampled_from(["+", "*", "-", "/", "=", "<", "and", "or"]), inner).map(
                lambda t: f"({t[0]} {t[1]} {t[2]})"
            ),
            max_leaves=6,
        )
    )
    @settings(max_examples=60)
    def test_every_expression_becomes_a_tree(self, text: str) -> None:
        try:
            expressions.parse_value(text)
        except FormatError:
            self.assertEqual(ast_value(text), 0)
        else:
            self.assertIsNotNone(json.dumps(ast_value(text)))


if __name__ == "__main__":
    unittest.main()
