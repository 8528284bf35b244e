"""Running orders: phases that wait, repeat and decide, made by steps and played by tapes."""

import json
import math
import random
import unittest
from itertools import pairwise
from typing import Any

import numpy as np
from msgspec.structs import replace

from avelt.core.edits import phases as edits
from avelt.core.edits.parts import use_other
from avelt.core.edits.project import new_project
from avelt.core.errors import AveltError, EditError
from avelt.core.formats.checked import check
from avelt.core.formats.project_file import from_json, to_json
from avelt.core.model.find import find_frame
from avelt.core.model.parts import as_stage, find_part
from avelt.core.model.phases import ForMs, Rounds, Rule
from avelt.core.model.values import Transition
from avelt.core.running.player import Player
from avelt.core.running.splitting import moved_by
from avelt.core.running.step import MOST_STEPS
from avelt.core.running.tape import played, read_tape
from avelt.core.steps.read import applied
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.sampling import records_of
from tests.core.test_steps import SITE

BESIDE: list[dict[str, Any]] = [
    {"do": "frame", "name": "a", "size": [100, 100]},
    {"do": "draw", "in": "a", "kind": "box", "name": "Card", "size": [10, 10], "fill": "red"},
    {"do": "draw", "in": "a", "kind": "box", "name": "Gull", "position": [50, 0], "size": [10, 10], "fill": "black"},
    {"do": "frame", "name": "b", "copy": "a"},
    {"do": "set", "in": "b", "layer": "Card", "position": [80, 0]},
    {"do": "frame", "name": "low", "copy": "a"},
    {"do": "set", "in": "low", "layer": "Gull", "position": [50, 50]},
    {"do": "route", "from": "a", "to": "b", "trigger": {"timer": 100}, "length": 200, "curve": "linear"},
    {"do": "phase", "track": "gulls", "name": "sink", "lasts": "once",
     "shows": {"motion": ["a", "low"], "duration": 1000, "curve": "linear"}},
]  # fmt: skip
PULL: list[dict[str, Any]] = [
    {"do": "frame", "name": "screen", "size": [200, 200]},
    {"do": "input", "name": "finger", "kind": "number", "start": 0},
    {"do": "input", "name": "down"},
    {"do": "input", "name": "news", "kind": "signal"},
    {"do": "part", "name": "Tide", "size": [100, 100], "pose": "Flat"},
    {"do": "draw", "in": "Tide", "kind": "box", "name": "Boat", "position": [0, 80], "size": [20, 20], "fill": "red"},
    {"do": "draw", "in": "Tide", "kind": "box", "name": "Gull", "position": [80, 0], "size": [10, 4], "fill": "black"},
    {"do": "pose", "part": "Tide", "name": "Drawn", "copy": "Flat"},
    {"do": "set", "in": "Tide/Drawn", "layer": "Boat", "position": [0, 20]},
    {"do": "pose", "part": "Tide", "name": "Away", "copy": "Drawn"},
    {"do": "set", "in": "Tide/Away", "layer": "Boat", "position": [60, 20]},
    {"do": "loop", "in": "Tide/Drawn", "layer": "Boat", "name": "rock", "pose": {"position": [4, 0]}, "length": 400},
    {"do": "loop", "in": "Tide/Away", "layer": "Boat", "name": "bob", "pose": {"position": [0, -8]}, "length": 900},
    {"do": "input", "part": "Tide", "name": "pull", "kind": "number", "start": 0},
    {"do": "input", "part": "Tide", "name": "held"},
    {"do": "input", "part": "Tide", "name": "news", "kind": "signal"},
    {"do": "use", "in": "screen", "part": "Tide", "position": [50, 50],
     "inputs": {"pull": "finger / 100", "held": "down", "news": "news"}},
    {"do": "phase", "part": "Tide", "name": "rest", "shows": {"pose": "Flat"}, "then": {"if": "pull > 0 and held", "to": "draw"}},
    {"do": "phase", "part": "Tide", "name": "draw", "shows": {"blend": ["Flat", "Drawn"], "by": "pull"},
     "then": [{"if": "pull >= 0.7 and held", "to": "haul"},
              {"if": "held = no", "to": "rest", "duration": 200, "curve": "linear"}]},
    {"do": "phase", "part": "Tide", "name": "haul", "shows": {"loops": "Drawn"},
     "then": [{"if": "not held", "finish_round": True, "to": "leap"}]},
    {"do": "phase", "part": "Tide", "name": "leap", "shows": {"motion": ["Drawn", "Away"], "duration": 420, "curve": "linear"},
     "then": {"to": "sail"}},
    {"do": "phase", "part": "Tide", "name": "sail", "shows": {"loops": "Away"},
     "then": {"on": {"signal": "news"}, "finish_round": True, "to": "moor"}},
    {"do": "phase", "part": "Tide", "name": "moor", "shows": {"motion": ["Away", "Flat"], "duration": 560}, "lasts": "once",
     "then": {"to": "rest"}},
]  # fmt: skip
GULLS: list[dict[str, Any]] = [
    {"do": "pose", "part": "Tide", "name": "Gull low", "copy": "Flat"},
    {"do": "set", "in": "Tide/Gull low", "layer": "Gull", "position": [80, 40]},
    {"do": "phase", "part": "Tide", "track": "gulls", "name": "sink",
     "shows": {"motion": ["Flat", "Gull low"], "duration": 1000, "curve": "linear"}, "lasts": "once",
     "then": {"to": "rise"}},
    {"do": "phase", "part": "Tide", "track": "gulls", "name": "rise",
     "shows": {"motion": ["Gull low", "Flat"], "duration": 500, "curve": "linear"}, "lasts": "once",
     "then": {"to": "sink"}},
]  # fmt: skip


def project_of(*more: Any) -> Any:
    project = applied(new_project("Phases"), [*PULL, *more], SITE)
    check(project)
    return project


def run(project: Any, events: Any, moments: Any, step: float = 0.0) -> list[tuple[Any, ...]]:
    """What is there at moments: the phases, and where the layers stand (x, y)."""
    tape = read_tape(json.dumps({"format": 1, "events": events, "until": 20_000}).encode(), "t")
    found = []
    for ms, player in played(project, tape, moments, step):
        places = {record["name"]: (record["x"], record["y"]) for record in records_of(player.scene())}
        found.append((ms, player.phases(), places, list(player.log)))
    return found


def told(at: float, name: str, value: Any) -> dict[str, Any]:
    return {"at": at, "do": "input", "name": name, "value": value}


WHOLE = [
    told(500, "down", True),
    told(510, "finger", 20),
    told(600, "finger", 50),
    told(700, "finger", 90),
    told(1000, "down", False),
    told(1000, "finger", 0),
    {"at": 2000, "do": "signal", "name": "news"},
]


class ThePull(unittest.TestCase):
    def test_it_follows_strains_lets_go_runs_and_moors(self) -> None:
        moments = [0, 499, 550, 650, 750, 1099, 1101, 1310, 1600, 2419, 2421, 2979, 2981]
        seen = run(project_of(), WHOLE, moments)
        phases = [entry[1]["Tide"]["main"] for entry in seen]
        # The strain's round is 400 ms from 700 on: let go at 1000 it ends at 1100. The leap ends at 1520; the first
        # whole round of 900 ms after the news (2000) ends at 1520 + 900 = 2420.
        wanted = [
            "rest",
            "rest",
            "draw",
            "draw",
            "haul",
            "haul",
            "leap",
            "leap",
            "sail",
            "sail",
            "moor",
            "moor",
            "rest",
        ]
        self.assertEqual(phases, wanted)
        boat = [entry[2]["Boat"] for entry in seen]
        self.assertEqual(boat[0], (50.0, 130.0))
        for place, want in ((3, (50.0, 100.0)), (7, (50 + 60 * 210 / 420, 70.0))):
            self.assertAlmostEqual(boat[place][0], want[0], 6)
            self.assertAlmostEqual(boat[place][1], want[1], 6)

    def test_let_go_too_soon_it_springs_back_by_its_own_transition(self) -> None:
        events = [told(100, "down", True), told(110, "finger", 50), told(300, "down", False), told(450, "finger", 0)]
        seen = run(project_of(), events, [299, 300, 400, 500, 501])
        self.assertEqual([entry[1]["Tide"]["main"] for entry in seen], ["draw", "rest", "rest", "rest", "rest"])
        for (_, _, places, _), y in zip(seen, (50 + 50, 50 + 50, 50 + 65, 50 + 80, 50 + 80), strict=True):
            self.assertAlmostEqual(places["Boat"][1], y, 6)

    def test_what_is_logged(self) -> None:
        log = run(project_of(), WHOLE, [3000])[0][3]
        entered = [(entry.at, entry.phase, entry.track, entry.stage) for entry in log if entry.what == "phase"]
        self.assertEqual([name for _, name, _, _ in entered], ["rest", "draw", "haul", "leap", "sail", "moor", "rest"])
        self.assertIn((1100.0, "leap", "main", "Tide"), entered)
        self.assertIn((1520.0, "sail", "main", "Tide"), entered)
        self.assertIn((2420.0, "moor", "main", "Tide"), entered)

    def test_the_step_of_the_clock_changes_nothing(self) -> None:
        project = project_of(*GULLS)
        moments = [0, 333, 777, 1234, 2500, 2999, 7777]
        plain = run(project, WHOLE, moments)
        for step in (1.0, 7.3, 400.0):
            self.assertEqual(run(project, WHOLE, moments, step), plain)

    def test_a_tape_can_set_what_is_a_parts_own(self) -> None:
        loose = {"do": "use", "in": "screen", "layer": "Tide", "name": "Pull", "inputs": {"pull": 0}}
        events = [told(100, "down", True), {**told(200, "pull", 0.5), "part": "Pull"}]
        seen = run(project_of(loose), events, [150, 250])
        self.assertEqual([entry[1]["Pull"]["main"] for entry in seen], ["rest", "draw"])
        with self.assertRaises(AveltError) as caught:
            run(project_of(loose), [{**told(200, "pull", 0.5), "part": "Tide"}], [250])
        self.assertIn("event 1", str(caught.exception))
        sent = {"at": 10, "do": "signal", "name": "news", "part": "Pull"}
        log = run(project_of(loose), [sent], [250])[0][3]
        self.assertIn(("signal", "news", "Pull"), [(entry.what, entry.says, entry.stage) for entry in log])

    def test_a_file_keeps_it(self) -> None:
        project = project_of(*GULLS)
        self.assertEqual(from_json(to_json(project), "x"), project)


class SideTracks(unittest.TestCase):
    def test_it_moves_what_the_main_order_does_not(self) -> None:
        project = project_of(*GULLS)
        plain = run(project_of(), WHOLE, [0, 650, 1310, 2500])
        seen = run(project, WHOLE, [0, 650, 1310, 2500])
        for (_, phases, places, _), (_, _, alone, _) in zip(seen, plain, strict=True):
            self.assertEqual(places["Boat"], alone["Boat"])
            self.assertEqual(set(phases["Tide"]), {"main", "gulls"})
        gull = [entry[2]["Gull"] for entry in seen]
        for place, y in zip(gull, (0, 26, 40 * (1 - 310 / 500), 40), strict=True):
            self.assertEqual(place[0], 130.0)
            self.assertAlmostEqual(place[1], 50 + y, 6)

    def test_it_runs_beside_routes_when_there_is_no_main_order(self) -> None:
        project = applied(new_project("Beside"), BESIDE, SITE)
        seen = run(project, [], [0, 200, 500, 2000])
        self.assertEqual([entry[2]["Card"][0] for entry in seen], [0.0, 40.0, 80.0, 80.0])
        self.assertEqual([round(entry[2]["Gull"][1], 9) for entry in seen], [0.0, 10.0, 25.0, 50.0])

    def test_taps_reach_the_layers_of_a_side_track(self) -> None:
        rule = {"do": "phase", "part": "Tide", "track": "gulls", "name": "sink",
                "then": [{"on": {"tap": "Gull"}, "to": "rise"}]}  # fmt: skip
        project = project_of(*GULLS, rule)
        player = Player(project)
        player.advance(100)
        player.tap(132, 55)
        self.assertEqual(player.phases()["Tide"]["gulls"], "rise")
        self.assertEqual([(e.what, e.says) for e in player.log if e.what == "tap"], [("tap", "Gull")])

    def test_it_moves_what_is_not_in_all_of_its_poses_and_what_loops(self) -> None:
        rope = [
            {"do": "draw", "in": "Tide/Gull low", "kind": "box", "name": "Rope", "position": [5, 5], "size": [2, 2]},
            {
                "do": "loop",
                "in": "Tide/Flat",
                "layer": "Boat",
                "name": "sways",
                "pose": {"position": [9, 0]},
                "length": 400,
            },
            {"do": "phase", "part": "Tide", "track": "gulls", "name": "hang", "shows": {"loops": "Flat"}},
        ]
        project = project_of(*GULLS, *rope)
        stage = as_stage(project, project.parts[0])
        names = {layer.origin: layer.name for frame in stage.frames for layer in frame.layers}
        self.assertEqual({names[origin] for origin in moved_by(stage, stage.tracks[1])}, {"Gull", "Rope", "Boat"})
        seen = run(project, [], [0, 500, 999])
        self.assertEqual(["Rope" in entry[2] for entry in seen], [False, True, True])

    def test_named_layers_are_its_own(self) -> None:
        named = {"do": "phase", "part": "Tide", "track": "gulls", "name": "sink", "layers": ["Boat"]}
        seen = run(project_of(*GULLS, named), [told(100, "finger", 50), told(100, "down", True)], [650])
        # The boat stands as the gulls' poses say, the gull as the main order's.
        self.assertEqual(seen[0][2]["Boat"], (50.0, 130.0))
        self.assertEqual(seen[0][2]["Gull"], (130.0, 50.0))


def single(*phases: dict[str, Any], more: tuple[dict[str, Any], ...] = ()) -> Any:
    """A project that is driven by a running order of its own."""
    steps: list[dict[str, Any]] = [
        {"do": "frame", "name": "a", "size": [100, 100]},
        {"do": "draw", "in": "a", "kind": "box", "name": "Card", "size": [10, 10]},
        {"do": "frame", "name": "b", "copy": "a"},
        {"do": "set", "in": "b", "layer": "Card", "position": [80, 0]},
        {"do": "loop", "in": "a", "layer": "Card", "name": "long", "pose": {"position": [0, 10]}, "length": 300,
         "wait": 100, "wait_when": "each", "curve": "linear"},
        {"do": "loop", "in": "a", "layer": "Card", "name": "short", "pose": {"rotation": 90}, "length": 250},
        {"do": "input", "name": "x", "kind": "number", "start": 0},
        {"do": "input", "name": "on"},
        {"do": "input", "name": "word", "kind": "text", "start": "C"},
        {"do": "input", "name": "go", "kind": "signal"},
        *more,
    ]  # fmt: skip
    return applied(new_project("One"), [*steps, *({"do": "phase", **phase} for phase in phases)], SITE)


def entered(project: Any, events: Any = (), until: float = 5000) -> list[tuple[float, str]]:
    log = run(project, list(events), [until])[0][3]
    return [(entry.at, entry.phase) for entry in log if entry.what == "phase"]


class Lasting(unittest.TestCase):
    def test_once_ms_and_rounds(self) -> None:
        there = {"name": "b", "shows": {"pose": "b"}}
        for shows, lasts, ends in (
            ({"motion": ["a", "b"], "duration": 320}, "once", 320),
            ({"motion": ["a", "b"], "duration": 320}, {"rounds": 3}, 960),
            ({"motion": ["a", "b"], "duration": 320}, {"ms": 1000}, 1000),
            ({"loops": "a"}, "once", 400),
            ({"loops": "a"}, {"rounds": 2}, 800),
            ({"pose": "a"}, {"ms": 70}, 70),
            ({"pose": "a"}, "once", 0),
            ({"pose": "a"}, {"rounds": 5}, 0),
        ):
            with self.subTest(shows=shows, lasts=lasts):
                project = single({"name": "a", "shows": shows, "lasts": lasts, "then": {"to": "b"}}, there)
                self.assertEqual(entered(project), [(0, "a"), (float(ends), "b")])

    def test_a_motion_of_many_rounds_begins_anew(self) -> None:
        shows = {"motion": ["a", "b"], "duration": 200, "curve": "linear"}
        seen = run(single({"name": "a", "shows": shows, "lasts": {"rounds": 2}}), [], [100, 250, 399, 400, 900])
        self.assertEqual([round(entry[2]["Card"][0], 6) for entry in seen], [40.0, 20.0, 79.6, 80.0, 80.0])

    def test_rules_that_do_not_hold_at_the_end_are_read_at_every_change(self) -> None:
        project = single({"name": "a", "shows": {"pose": "a"}, "lasts": {"ms": 100}, "then": {"if": "x > 2", "to": "b"}},
                         {"name": "b", "shows": {"pose": "b"}})  # fmt: skip
        events = [told(50, "x", 3), told(60, "x", 1), told(200, "x", 2), told(300, "x", 2.5)]
        self.assertEqual(entered(project, events), [(0, "a"), (300, "b")])

    def test_before_its_end_no_rule_is_read_but_events_are_taken(self) -> None:
        rules = [{"if": "x > 2", "to": "b"}, {"on": {"signal": "go"}, "if": "on", "to": "c"}]
        project = single({"name": "a", "shows": {"pose": "a"}, "lasts": {"ms": 500}, "then": rules},
                         {"name": "b", "shows": {"pose": "b"}}, {"name": "c", "shows": {"pose": "b"}})  # fmt: skip
        sent = {"at": 200, "do": "signal", "name": "go"}
        self.assertEqual(entered(project, [told(50, "x", 3), sent]), [(0, "a"), (500, "b")])
        self.assertEqual(entered(project, [told(50, "x", 3), told(60, "on", True), sent]), [(0, "a"), (200, "c")])

    def test_a_finished_round(self) -> None:
        rule = {"if": "on", "finish_round": True, "to": "b"}
        for shows, at, ends in (
            ({"loops": "a"}, 410, 800),
            ({"loops": "a"}, 400, 800),  # that round is over already, and the next one has begun
            ({"loops": "a"}, 399, 400),
            ({"pose": "a"}, 123, 123),
            ({"motion": ["a", "b"], "duration": 320}, 100, 320),
            ({"motion": ["a", "b"], "duration": 320}, 400, 400),  # it stands at its end: there is no round
        ):
            with self.subTest(shows=shows, at=at):
                project = single({"name": "a", "shows": shows, "lasts": "until", "then": rule},
                                 {"name": "b", "shows": {"pose": "b"}})  # fmt: skip
                events = [told(at, "on", True), told(at + 1, "on", False)]
                self.assertEqual(entered(project, events), [(0, "a"), (float(ends), "b")])

    def test_an_earlier_rule_wins_over_one_that_waits_for_its_round(self) -> None:
        rules = [{"if": "x > 5", "to": "c"}, {"if": "on", "finish_round": True, "to": "b"}]
        project = single({"name": "a", "shows": {"loops": "a"}, "then": rules},
                         {"name": "b", "shows": {"pose": "b"}}, {"name": "c", "shows": {"pose": "b"}})  # fmt: skip
        self.assertEqual(entered(project, [told(10, "on", True), told(20, "x", 6)]), [(0, "a"), (20, "c")])

    def test_the_first_event_is_kept(self) -> None:
        rules = [{"if": "x > 5", "finish_round": True, "to": "b"}, {"if": "on", "finish_round": True, "to": "c"}]
        project = single({"name": "a", "shows": {"loops": "a"}, "then": rules},
                         {"name": "b", "shows": {"pose": "b"}}, {"name": "c", "shows": {"pose": "b"}})  # fmt: skip
        events = [told(410, "on", True), told(450, "x", 6), told(460, "on", False)]
        self.assertEqual(entered(project, events), [(0, "a"), (800, "c")])

    def test_some_ms_and_then_the_round(self) -> None:
        rule = {"finish_round": True, "to": "b"}
        for lasts, ends in (({"ms": 500}, 800), ({"rounds": 1}, 400), ("once", 400)):
            project = single({"name": "a", "shows": {"loops": "a"}, "lasts": lasts, "then": rule},
                             {"name": "b", "shows": {"pose": "b"}})  # fmt: skip
            self.assertEqual(entered(project), [(0, "a"), (float(ends), "b")])

    def test_a_wait_before_the_first_round_alone(self) -> None:
        slow = {
            "do": "loop",
            "in": "a",
            "layer": "Card",
            "name": "slow",
            "pose": {"position": [0, 9]},
            "length": 600,
            "wait": 250,
        }
        for lasts, ends in (("once", 850), ({"rounds": 2}, 1450)):
            project = single({"name": "a", "shows": {"loops": "a"}, "lasts": lasts, "then": {"to": "b"}},
                             {"name": "b", "shows": {"pose": "b"}}, more=(slow,))  # fmt: skip
            self.assertEqual(entered(project), [(0, "a"), (float(ends), "b")])
        rule = {"if": "on", "finish_round": True, "to": "b"}
        project = single(
            {"name": "a", "shows": {"loops": "a"}, "then": rule}, {"name": "b", "shows": {"pose": "b"}}, more=(slow,)
        )
        self.assertEqual(entered(project, [told(100, "on", True)]), [(0, "a"), (850, "b")])
        self.assertEqual(entered(project, [told(900, "on", True)]), [(0, "a"), (1450, "b")])

    def test_a_timer_and_a_crossing(self) -> None:
        rules = [{"on": {"timer": 700}, "if": "not on", "to": "b"}, {"on": {"crosses": "x", "value": 3}, "to": "c"}]
        project = single({"name": "a", "shows": {"pose": "a"}, "then": rules},
                         {"name": "b", "shows": {"pose": "b"}}, {"name": "c", "shows": {"pose": "b"}})  # fmt: skip
        self.assertEqual(entered(project), [(0, "a"), (700, "b")])
        self.assertEqual(entered(project, [told(10, "on", True), told(900, "x", 4)]), [(0, "a"), (900, "c")])
        self.assertEqual(entered(project, [told(10, "on", True), told(900, "x", 2)]), [(0, "a")])


class SettingAndSending(unittest.TestCase):
    def test_on_entering_and_leaving(self) -> None:
        project = single(
            {"name": "a", "shows": {"pose": "a"}, "lasts": {"ms": 100}, "leaving": {"set": "x", "value": 7},
             "then": {"to": "b"}},
            {"name": "b", "shows": {"pose": "b"}, "entering": [{"send": "go"}], "then": {"if": "x = 7", "to": "c"}},
            {"name": "c", "shows": {"pose": "b"}},
            {"name": "wait", "track": "side", "shows": {"pose": "a"}, "then": {"on": {"signal": "go"}, "to": "went"}},
            {"name": "went", "track": "side", "shows": {"pose": "b"}},
        )  # fmt: skip
        self.assertEqual(entered(project), [(0, "a"), (0, "wait"), (100, "b"), (100, "went"), (100, "c")])

    def test_a_chain_that_takes_no_time_is_cut_and_said(self) -> None:
        for lasts in ("until", "once", {"ms": 0}):
            project = single({"name": "a", "shows": {"pose": "a"}, "lasts": lasts, "then": {"to": "b"}},
                             {"name": "b", "shows": {"pose": "b"}, "lasts": lasts, "then": {"to": "a"}})  # fmt: skip
            log = run(project, [told(200, "x", 1)], [300])[0][3]
            stops = [entry for entry in log if entry.what == "stopped"]
            self.assertIn(f"{MOST_STEPS:,} times", stops[0].says)
            self.assertIn("main: ", stops[0].says)
            self.assertEqual(stops[0].at, 0.0)

    def test_a_chain_by_signals_is_cut_too(self) -> None:
        rule = {"on": {"signal": "go"}, "to": "a"}
        project = single({"name": "a", "shows": {"pose": "a"}, "entering": {"send": "go"}, "then": rule})
        log = run(project, [{"at": 5, "do": "signal", "name": "go"}], [300])[0][3]
        self.assertTrue(any(entry.what == "stopped" for entry in log))


class Blending(unittest.TestCase):
    def test_an_expression_with_a_lag(self) -> None:
        shows = {"blend": ["a", "b"], "by": "clamp(0, x / 10, 1)", "lag": 100}
        project = single({"name": "a", "shows": shows})
        seen = run(project, [told(100, "x", 5), told(200, "x", 20)], [100, 150, 200, 250, 5000])
        q = 0.5 * (1 - math.exp(-1))
        wanted = (0.0, 0.5 * (1 - math.exp(-0.5)), q, 1 + (q - 1) * math.exp(-0.5), 1.0)
        for (_, _, places, _), share in zip(seen, wanted, strict=True):
            self.assertAlmostEqual(places["Card"][0], 80 * share, 9)

    def test_a_transition_leads_into_what_moves_already(self) -> None:
        project = single(
            {
                "name": "still",
                "shows": {"pose": "b"},
                "then": {"if": "on", "to": "go", "duration": 100, "curve": "linear"},
            },
            {"name": "go", "shows": {"motion": ["a", "b"], "duration": 400, "curve": "linear"}},
        )
        seen = run(project, [told(0, "on", True)], [0, 50, 100, 200])
        # Half way between where it stood (80) and where the motion is by then (10).
        self.assertEqual([round(entry[2]["Card"][0], 6) for entry in seen], [80.0, 45.0, 20.0, 40.0])

    def test_an_interrupted_motion_goes_on_with_its_speed(self) -> None:
        project = single(
            {"name": "go", "shows": {"motion": ["a", "b"], "duration": 400, "curve": "linear"},
             "then": {"on": {"signal": "go"}, "to": "back", "duration": 400, "curve": "settle"}},
            {"name": "back", "shows": {"pose": "a"}},
        )  # fmt: skip
        sent = [{"at": 200, "do": "signal", "name": "go"}]
        seen = [entry[2]["Card"][0] for entry in run(project, sent, [198, 199, 200, 201, 202, 600])]
        steps = [later - sooner for sooner, later in pairwise(seen[:5])]
        for step in steps:
            self.assertAlmostEqual(step, 0.2, delta=0.01)  # 80 px in 400 ms, before and after
        self.assertEqual(seen[-1], 0.0)

    def test_what_divides_by_zero_or_compares_words_with_numbers_does_nothing(self) -> None:
        project = single(
            {"name": "a", "shows": {"blend": ["a", "b"], "by": "1 / x"}, "then": {"if": "word > 3", "to": "b"}},
            {"name": "b", "shows": {"pose": "b"}},
        )
        seen = run(project, [told(100, "word", "D")], [50, 150])
        self.assertEqual([entry[2]["Card"][0] for entry in seen], [0.0, 0.0])


class Shown(unittest.TestCase):
    def test_a_layer_is_seen_while_its_condition_holds(self) -> None:
        project = single(more=({"do": "set", "in": "a", "layer": "Card", "only_if": "x > 3"},))
        tape = read_tape(
            json.dumps({"format": 1, "events": [told(100, "x", 4), told(200, "x", 3)], "until": 1}).encode(), "t"
        )
        shown = [records_of(player.scene())[0]["opacity"] for _, player in played(project, tape, [0, 150, 250])]
        self.assertEqual(shown, [0.0, 1.0, 0.0])

    def test_a_number_feeds_yes_or_no(self) -> None:
        fed = {"do": "use", "in": "screen", "layer": "Tide", "inputs": {"held": "finger - 5", "pull": 1}}
        project = project_of(fed)
        player = Player(project)
        child = next(iter(player.world.children.values()))
        self.assertIs(child.world.inputs["held"], True)
        player.set_input("finger", 5)
        child = next(iter(player.world.children.values()))
        self.assertIs(child.world.inputs["held"], False)
        self.assertEqual(child.world.inputs["pull"], 1.0)

    def test_a_use_begins_anew_when_it_comes_back(self) -> None:
        ring = [
            {"do": "input", "name": "fresh"},
            {"do": "part", "name": "Ring", "size": [10, 10]},
            {"do": "draw", "in": "Ring", "kind": "box", "name": "Dot", "size": [10, 10]},
            {"do": "loop", "in": "Ring", "layer": "Dot", "name": "pulse", "pose": {"position": [100, 0]}, "length": 1000,
             "both_ways": False, "curve": "linear"},
            {"do": "use", "in": "a", "part": "Ring", "position": [0, 0], "if": "fresh"},
        ]  # fmt: skip
        project = single(more=tuple(ring))
        events = [told(300, "fresh", True), told(600, "fresh", False), told(900, "fresh", True)]
        seen = run(project, events, [100, 400, 700, 1000])
        self.assertEqual([entry[2]["Dot"][0] if "Dot" in entry[2] else None for entry in seen][1::2], [10.0, 10.0])
        self.assertEqual(len(Player(project).running()), 2)  # those of the frame: the part is not there yet


class Wrong(unittest.TestCase):
    def test_steps_are_refused_with_what_is_wrong(self) -> None:
        for phase, says in (
            ({"name": "p", "shows": {"pose": "aa"}}, "aa"),
            ({"name": "p", "shows": {"turns": "a"}}, "turns"),
            ({"name": "p", "shows": {"blend": ["a", "b"]}}, "by"),
            ({"name": "p", "shows": {"blend": ["a", "b"], "by": "x +"}}, "letter 4"),
            ({"name": "p", "shows": {"motion": ["a"]}}, "two poses"),
            ({"name": "p", "lasts": "forever"}, "until"),
            ({"name": "p", "then": [{"if": "x >", "to": "p"}]}, "letter 4"),
            ({"name": "p", "then": [{"to": "p", "when": 3}]}, "when"),
            ({"name": "p", "then": [{"if": "on"}]}, "rule"),
            ({"name": "p", "entering": {"set": "y", "value": 1}}, "'y'"),
            ({"name": "p", "entering": "go"}, "set an input"),
            ({"name": "p", "track": "side", "layers": ["Sail"]}, "Sail"),
        ):
            with self.subTest(phase=phase), self.assertRaises(AveltError) as caught:
                single(phase)
            self.assertIn(says, str(caught.exception))

    def test_a_file_with_a_phase_that_leads_nowhere_is_refused(self) -> None:
        plain = json.loads(to_json(single({"name": "a", "shows": {"pose": "a"}, "then": {"to": "b"}})))
        plain["tracks"][0]["phases"][0]["then"][0]["to"] = "H99"
        with self.assertRaises(AveltError) as caught:
            check(from_json(json.dumps(plain).encode(), "x"))
        self.assertIn("tracks[0].phases[0].then[0].to", str(caught.exception))

    def test_edits_that_cannot_be(self) -> None:
        project = single({"name": "a", "shows": {"pose": "a"}}, {"name": "b", "shows": {"pose": "b"}})
        (track,) = project.tracks
        one, two = track.phases

        def edited(**own: Any) -> Any:
            return edits.edit_phase(project, one.id, lambda old: replace(old, **own))

        for wrong in (
            lambda: edited(then=(Rule("H99"),)),
            lambda: edited(name="b"),
            lambda: edited(name="  "),
            lambda: edited(then=(Rule(two.id, only_if="x >"),)),
            lambda: edits.add_track(project),
            lambda: edits.add_track(project, " "),
            lambda: edits.add_phase(project, track.id, "a"),
            lambda: edits.edit_track(project, track.id, lambda old: replace(old, layers=("nothing",))),
            lambda: edits.with_transition(project, one.id, Transition()),
            lambda: edits.remove_track(project, "T99"),
            lambda: edits.phase_by_id(project, "H99"),
        ):
            with self.assertRaises(EditError):
                wrong()
        self.assertEqual(edited(lasts=ForMs(-4.0)).tracks[0].phases[0].lasts, ForMs(0.0))
        self.assertEqual(edited(lasts=Rounds(0)).tracks[0].phases[0].lasts, Rounds(1))
        moved = edits.move_phase(project, two.id, -3)
        self.assertEqual([phase.name for phase in moved.tracks[0].phases], ["b", "a"])
        self.assertIs(edits.move_phase(project, two.id, 9), project)

    def test_removing_and_renaming(self) -> None:
        project = applied(project_of(*GULLS), [
            {"do": "rename", "part": "Tide", "phase": "sail", "name": "run"},
            {"do": "rename", "part": "Tide", "input": "pull", "name": "drag"},
            {"do": "remove", "part": "Tide", "phase": "draw"},
            {"do": "remove", "part": "Tide", "frame": "Gull low"},
        ], SITE)  # fmt: skip
        check(project)
        main, gulls = project.parts[0].tracks
        self.assertEqual([phase.name for phase in main.phases], ["rest", "haul", "leap", "run", "moor"])
        self.assertEqual(main.phases[0].then, ())
        self.assertEqual(gulls.phases, ())
        renamed = applied(project_of(), [{"do": "rename", "part": "Tide", "input": "pull", "name": "drag"}], SITE)
        draw = renamed.parts[0].tracks[0].phases[1]
        self.assertEqual((draw.shows.by, draw.then[0].only_if), ("drag", "drag >= 0.7 and held"))


class AnyStep(unittest.TestCase):
    def test_random_orders_and_tapes_are_the_same_for_every_step(self) -> None:
        for seed in range(6):
            chance = random.Random(seed)
            names = [f"p{k}" for k in range(5)]
            phases = []
            for track in ("main", "side"):
                for name in names:
                    shows = chance.choice([
                        {"pose": "a"}, {"loops": "a"}, {"motion": ["a", "b"], "duration": chance.randrange(0, 400)},
                        {"blend": ["b", "a"], "by": "x / 10", "lag": chance.choice([0, 120])},
                    ])  # fmt: skip
                    lasts = chance.choice(["until", "once", {"ms": chance.randrange(300)}, {"rounds": 2}])
                    rules: list[dict[str, Any]] = [
                        {"to": chance.choice(names), **chance.choice([{"if": "x > 4"}, {"if": "not on"}, {}, {"on": {"signal": "go"}}]),
                         "finish_round": chance.random() < 0.4, "duration": chance.choice([0, 0, 150])}
                        for _ in range(2)
                    ]  # fmt: skip
                    phases.append({"name": name, "track": track, "shows": shows, "lasts": lasts, "then": rules})
            more = ({"do": "draw", "in": "a", "kind": "box", "name": "Gull", "size": [5, 5]},)
            project = single(*phases, more=more)
            events = sorted(
                [told(chance.randrange(3000), "x", chance.randrange(10)) for _ in range(12)]
                + [told(chance.randrange(3000), "on", chance.random() < 0.5) for _ in range(6)]
                + [{"at": chance.randrange(3000), "do": "signal", "name": "go"} for _ in range(6)],
                key=lambda event: event["at"],
            )
            moments = [0, 500, 1111, 2345, 4000]
            with self.subTest(seed=seed):
                plain = run(project, events, moments)
                self.assertEqual(run(project, events, moments, 3.7), plain)


class UsedOtherwise(unittest.TestCase):
    def one(self, *more: Any) -> dict[str, dict[str, Any]]:
        sign = [
            {"do": "frame", "name": "a", "size": [300, 300]},
            {"do": "part", "name": "Sign", "size": [100, 50]},
            {"do": "draw", "in": "Sign", "kind": "box", "name": "Board", "position": [10, 10], "size": [80, 30],
             "fill": "#ff0000", "stroke": "black", "stroke_width": 2},
            {"do": "draw", "in": "Sign", "kind": "text", "name": "Words", "text": "Pier", "position": [20, 15]},
            {"do": "use", "in": "a", "part": "Sign", "position": [100, 100], "size": [200, 50], **dict(*more)},
        ]  # fmt: skip
        project = applied(new_project("Sign"), sign, SITE)
        check(project)
        self.assertEqual(from_json(to_json(project), "x"), project)
        return {record["name"]: record for record in records_of(Player(project).scene())}

    def test_it_scales_stretches_or_keeps_its_size(self) -> None:
        scaled, stretched, kept = self.one(), self.one({"fit": "stretches"}), self.one({"fit": "keep"})
        boxes = [[round(found["Board"][key], 6) for key in ("x", "y", "w", "h")] for found in (scaled, stretched, kept)]
        self.assertEqual(boxes, [[120, 110, 160, 30], [120, 110, 160, 30], [110, 110, 80, 30]])
        self.assertEqual([found["Words"]["scale"][0] for found in (scaled, stretched, kept)], [2.0, 1.0, 1.0])

    def test_loops_are_stretched_too(self) -> None:
        steps = [
            {"do": "frame", "name": "a", "size": [300, 300]},
            {"do": "part", "name": "Sign", "size": [100, 50]},
            {"do": "draw", "in": "Sign", "kind": "box", "name": "Board", "position": [10, 10], "size": [20, 30]},
            {"do": "loop", "in": "Sign", "layer": "Board", "length": 1000, "curve": "linear",
             "pose": {"position": [40, 10], "size": [30, 15]}},
            {"do": "use", "in": "a", "part": "Sign", "position": [0, 0], "size": [200, 50], "fit": "stretch"},
        ]  # fmt: skip
        player = Player(applied(new_project("Sign"), steps, SITE))
        player.advance(500)
        board = next(record for record in records_of(player.scene()) if record["name"] == "Board")
        self.assertEqual([round(board[key], 6) for key in ("x", "y", "w", "h")], [100, 20, 60, 15])

    def test_other_words_and_fills(self) -> None:
        found = self.one({"changes": {"Words": {"text": "Far side"}, "Board": {"fill": "#0000ff"}}})
        self.assertEqual((found["Words"]["text"], found["Board"]["fill"]), ("Far side", "#0000ff"))

    def test_what_a_part_has_not_is_refused(self) -> None:
        for own, says in (({"changes": {"Word": {"text": "x"}}}, "Words"), ({"fit": "fill"}, "scale"),
                          ({"changes": {"Words": {"size": 3}}}, "text, asset or fill")):  # fmt: skip
            with self.assertRaises(AveltError) as caught:
                self.one(own)
            self.assertIn(says, str(caught.exception))

    def test_a_driven_part_shows_its_first_phase_in_pictures(self) -> None:
        order = [{"do": "phase", "part": "Tide", "name": "off", "shows": {"pose": "Away"}}]
        project = applied(project_of(), [{"do": "remove", "part": "Tide", "track": "main"}, *order], SITE)
        scene = compile_still(find_frame(project, "screen"), project).from_start(450.0)
        places = {record["name"]: (record["x"], record["y"]) for record in records_of(scene)}
        self.assertEqual(places["Boat"], (110.0, 70.0))  # its loop does not run: the phase shows the pose alone


class TheCueSheet(unittest.TestCase):
    def test_what_moves_in_a_phase_has_cues_of_its_own(self) -> None:
        cue = {"do": "cue", "part": "Tide", "route": "phase leap", "layer": "Boat", "property": "position",
               "start": 210, "end": 420, "curve": "linear"}  # fmt: skip
        project = project_of(cue)
        boat = [entry[2]["Boat"][0] for entry in run(project, WHOLE, [1200, 1310, 1415, 1600])]
        self.assertEqual([round(x, 6) for x in boat], [50.0, 50.0, 80.0, 110.0])
        self.assertEqual(from_json(to_json(project), "x"), project)

    def test_a_phase_that_does_not_move_has_none(self) -> None:
        with self.assertRaises(AveltError) as caught:
            project_of({"do": "cue", "part": "Tide", "route": "phase sail", "layer": "Boat", "start": 3})
        self.assertIn("sail", str(caught.exception))


class OnePartForAnother(unittest.TestCase):
    def test_both_are_seen_while_one_gives_way(self) -> None:
        steps: list[dict[str, Any]] = [{"do": "frame", "name": "a", "size": [100, 100]}]
        for name, fill in (("Red", "#ff0000"), ("Blue", "#0000ff")):
            steps += [
                {"do": "part", "name": name, "size": [20, 20]},
                {"do": "draw", "in": name, "kind": "box", "name": f"{name} box", "size": [20, 20], "fill": fill},
                {"do": "loop", "in": name, "layer": f"{name} box", "name": f"{name} loop", "pose": {"position": [10, 0]},
                 "length": 1000, "both_ways": False, "curve": "linear"},
            ]  # fmt: skip
        steps += [
            {"do": "use", "in": "a", "part": "Red", "position": [0, 0], "name": "Sign"},
            {"do": "frame", "name": "b", "copy": "a"},
            {"do": "set", "in": "b", "layer": "Sign", "position": [50, 0]},
            {"do": "route", "from": "a", "to": "b", "trigger": {"timer": 400}, "length": 200, "curve": "linear"},
        ]
        project = applied(new_project("Signs"), steps, SITE)
        blue = find_part(project, "Blue")
        frame = find_frame(project, "b")
        project = use_other(project, frame.id, frame.layers[0].id, blue.id)
        seen = run(project, [], [399, 500, 700])
        # Half way both are there, each by its own clock: the red one since 500 ms, the blue one since 100.
        self.assertEqual(seen[0][2].keys(), {"Sign", "Red box"})
        self.assertEqual(seen[1][2].keys(), {"Sign", "Red box", "Blue box"})
        self.assertEqual((round(seen[1][2]["Red box"][0], 6), round(seen[1][2]["Blue box"][0], 6)), (30.0, 26.0))
        self.assertEqual(seen[2][2].keys(), {"Sign", "Blue box"})
        tape = read_tape(json.dumps({"format": 1, "events": [], "until": 900}).encode(), "t")
        (player,) = [player.moment(500.0) for _, player in played(project, tape, [500])]
        dims = {record["name"]: round(record["opacity"], 6) for record in records_of(player.scene())}
        self.assertEqual((dims["Red box"], dims["Blue box"]), (0.5, 0.5))


class OverAnArrival(unittest.TestCase):
    def test_a_part_goes_on_with_what_the_use_there_says(self) -> None:
        steps: list[dict[str, Any]] = [
            {"do": "frame", "name": "a", "size": [100, 100]},
            {"do": "part", "name": "Sign", "size": [50, 20]},
            {"do": "draw", "in": "Sign", "kind": "text", "name": "Words", "text": "Pier"},
            {"do": "draw", "in": "Sign", "kind": "box", "name": "Dot", "size": [4, 4]},
            {"do": "loop", "in": "Sign", "layer": "Dot", "pose": {"position": [40, 0]}, "length": 1000, "curve": "linear"},
            {"do": "input", "part": "Sign", "name": "n", "kind": "number"},
            {"do": "use", "in": "a", "part": "Sign", "name": "Sign", "inputs": {"n": 1}},
            {"do": "frame", "name": "b", "copy": "a"},
            {"do": "use", "in": "b", "layer": "Sign", "inputs": {"n": 2}, "changes": {"Words": {"text": "Quay"}},
             "fit": "stretch", "size": [100, 20]},
            {"do": "route", "from": "a", "to": "b", "trigger": {"timer": 100}, "length": 100},
        ]  # fmt: skip
        player = Player(applied(new_project("Signs"), steps, SITE))

        def seen() -> dict[str, Any]:
            return {record["name"]: record for record in records_of(player.scene())}

        player.advance(50)
        self.assertEqual(seen()["Words"]["text"], "Pier")
        player.advance(250)
        (child,) = player.world.children.values()
        self.assertEqual((seen()["Words"]["text"], child.world.inputs["n"]), ("Quay", 2.0))
        # Its clock goes on: a quarter of the round, half of the way there, twice as wide here.
        self.assertAlmostEqual(seen()["Dot"]["x"], 40.0, 6)


class AnOutlineForAPart(unittest.TestCase):
    def project(self, *more: dict[str, Any], **own: Any) -> Any:
        steps: list[dict[str, Any]] = [
            {"do": "frame", "name": "a", "size": [100, 100]},
            {"do": "part", "name": "Dot", "size": [20, 20]},
            {
                "do": "draw",
                "in": "Dot",
                "kind": "oval",
                "name": "Round",
                "position": [2, 4],
                "size": [10, 12],
                "fill": "red",
            },
            *more,
            {"do": "frame", "name": "b", "size": [100, 100]},
            {"do": "use", "in": "a", "part": "Dot", "position": [10, 10], "size": [40, 40], "name": "Mark", **own},
            {"do": "draw", "in": "b", "kind": "path", "name": "Mark", "d": "M0 0 L30 0 L30 30 L0 30 Z", "fill": "red"},
            {"do": "route", "from": "a", "to": "b", "trigger": {"timer": 0}, "length": 100, "curve": "linear"},
            {"do": "pair", "route": "a > b", "layer": "Mark", "with": "Mark"},
        ]
        return applied(new_project("Dot"), steps, SITE)

    def middle(self, project: Any, ms: float = 50.0) -> list[dict[str, Any]]:
        return records_of(compile_route(project, project.routes[0]).at(ms))

    def test_one_reshapes_into_the_other(self) -> None:
        (mark,) = self.middle(self.project())
        self.assertEqual((mark["content"], mark["kind"]), ("reshape", "path"))
        # From (14, 18) and 20 x 24, as the part stands in its box, to the square.
        self.assertEqual([round(mark[key], 6) for key in ("x", "y", "w", "h")], [7.0, 9.0, 25.0, 27.0])

    def test_what_is_more_than_an_outline_cross_fades(self) -> None:
        for more, own in (
            (({"do": "draw", "in": "Dot", "kind": "box", "name": "Second", "size": [5, 5]},), {}),
            (({"do": "loop", "in": "Dot", "layer": "Round", "pose": {"rotation": 9}},), {}),
            (({"do": "set", "in": "Dot", "layer": "Round", "rotation": 30},), {}),
            (({"do": "set", "in": "Dot", "layer": "Round", "stroke": "black"},), {"size": [40, 20]}),
        ):
            with self.subTest(more=more):
                mark = self.middle(self.project(*more, **own))[0]
                self.assertEqual(mark["content"], "cross-fade")

    def test_both_ends_look_as_the_frames(self) -> None:
        turned = {"rotation": 40, "opacity": 0.5, "pivot": [0.2, 0.8]}
        for own in ({}, turned, {"fit": "keep"}):
            project = self.project(
                {"do": "set", "in": "Dot", "layer": "Round", "stroke": "black", "opacity": 0.5}, **own
            )
            (mark,) = self.middle(project, 0.0)
            frame = find_frame(project, "a")
            inner = records_of(compile_still(frame, project).at(0.0))[1]
            scale = [inner["matrix"][k] * inner["own"][k // 2 % 2] for k in (0, 3)]
            mine = [mark["matrix"][k] * mark["own"][k // 2 % 2] for k in (0, 3)]
            np.testing.assert_allclose(mine, scale, atol=1e-9)
            np.testing.assert_allclose(mark["matrix"][4:], inner["matrix"][4:], atol=1e-9)
            self.assertAlmostEqual(mark["opacity"], inner["opacity"])
            self.assertAlmostEqual(mark["stroke_width"], inner["stroke_width"] * (1.0 if own.get("fit") else 2.0))
