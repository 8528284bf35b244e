"""Tapes as documents: read, refused, played; inputs and signals; the same for every step of the clock."""

import json
import random
import unittest
from typing import Any

from avelt.core.edits.project import new_project
from avelt.core.errors import AveltError, EditError, FormatError
from avelt.core.model.tapes import FORMAT, MOST_EVENTS
from avelt.core.model.triggers import Crosses
from avelt.core.running.crossing import crosses
from avelt.core.running.player import Player
from avelt.core.running.step import MOST_STEPS
from avelt.core.running.tape import played, read_tape
from avelt.core.steps.read import applied
from avelt.core.timing.sampling import records_of
from tests.core.test_steps import DRAWN, SITE

WIRED: list[dict[str, Any]] = [
    *DRAWN,
    {"do": "input", "name": "boarded"},
    {"do": "route", "from": "b", "to": "a", "trigger": {"signal": "news"}, "length": 200},
    {"do": "route", "from": "b", "to": "b", "trigger": {"crosses": "pull", "value": 0.5}, "then": {"send": "news"}},
    {"do": "route", "from": "a", "to": "b", "trigger": {"timer": 3000}, "add": True, "only_if": "boarded"},
    {"do": "loop", "in": "a", "layer": "Wave", "pose": {"position": [0, -8]}, "length": 700},
]
EVENTS = [
    {"at": 100, "do": "move", "x": 40, "y": 45},
    {"at": 110, "do": "press", "x": 40, "y": 45},
    {"at": 150, "do": "release", "x": 40, "y": 45},
    {"at": 300, "do": "out"},
    {"at": 700, "do": "input", "name": "pull", "value": 0.7},
    {"at": 950, "do": "input", "name": "boarded", "value": True},
    {"at": 960, "do": "key", "key": "Enter"},
    {"at": 961, "do": "scroll", "dy": 20},
]


def project_of(*more: Any) -> Any:
    return applied(new_project("Tapes"), [*WIRED, *more], SITE)


def tape(events: Any = EVENTS, **own: Any) -> Any:
    own.setdefault("until", 5000)
    return read_tape(json.dumps({"format": 1, "events": events, **own}).encode(), "t")


def outcome(project: Any, made: Any, moments: Any, step: float = 0.0) -> Any:
    seen, player = [], None
    for ms, player in played(project, made, moments, step):
        seen.append((ms, player.frame.name, dict(player.inputs), records_of(player.scene())))
    return seen, [(entry.at, entry.what, entry.says) for entry in player.log]


class Played(unittest.TestCase):
    def test_taps_inputs_signals_and_timers(self) -> None:
        seen, log = outcome(project_of(), tape(), [0, 350, 600, 800, 1000, 5000])
        self.assertEqual([frame for _, frame, _, _ in seen], ["a", "b", "b", "a", "a", "b"])
        self.assertIn((700.0, "input", "pull becomes 0.7"), log)
        self.assertIn((700.0, "signal", "news"), log)
        self.assertIn((3900.0, "timer", "after 3000 ms"), log)
        self.assertEqual(seen[4][2]["boarded"], True)

    def test_the_same_for_every_step_of_the_clock(self) -> None:
        project, dice = project_of(), random.Random(4)
        for _ in range(4):
            events, at = [], 0.0
            for _ in range(12):
                at = round(at + dice.choice((0, 3, 60, 400)) + dice.random(), 3)
                spot = {"x": dice.uniform(0, 200), "y": dice.uniform(0, 100)}
                events.append(
                    dice.choice(
                        (
                            {"at": at, "do": "press", **spot},
                            {"at": at, "do": "release", **spot},
                            {"at": at, "do": "input", "name": "pull", "value": dice.random()},
                            {"at": at, "do": "signal", "name": "news"},
                        )
                    )
                )
            made = tape(events, until=4000)
            moments = sorted(dice.uniform(0, 4000) for _ in range(9))
            whole = outcome(project, made, moments)
            for step in (0.7, 16.0, 333.3):
                self.assertEqual(outcome(project, made, moments, step), whole)

    def test_it_starts_where_it_says(self) -> None:
        made = tape([], start={"frame": "b", "inputs": {"pull": 2}, "loading": 50}, until=10)
        seen, log = outcome(project_of(), made, [10])
        self.assertEqual((seen[0][1], seen[0][2]["pull"]), ("b", 2.0))
        self.assertEqual(log[0], (0.0, "arrives", "b, the first"))

    def test_chains_without_end_are_cut(self) -> None:
        project = project_of(
            {"do": "input", "name": "ping", "kind": "signal"},
            {"do": "route", "from": "a", "to": "a", "trigger": {"signal": "ping"}, "then": {"send": "ping"}},
        )
        _, log = outcome(project, tape([{"at": 5, "do": "signal", "name": "ping"}], until=20), [20])
        self.assertEqual(sum(what == "stopped" for _, what, _ in log), 1)
        self.assertLessEqual(sum(what == "signal" for _, what, _ in log), MOST_STEPS + 1)


class Crossings(unittest.TestCase):
    def test_numbers_words_and_yes_and_no(self) -> None:
        for way, value, old, new, wanted in (
            ("rising", 1.0, 0.0, 1.0, True),
            ("rising", 1.0, 1.0, 2.0, False),
            ("rising", 1.0, 2.0, 0.0, False),
            ("falling", 1.0, 2.0, 1.0, True),
            ("falling", 1.0, 1.0, 0.0, False),
            ("either way", 1.0, 0.0, 3.0, True),
            ("either way", 1.0, 3.0, 0.0, True),
            ("rising", True, False, True, True),
            ("falling", True, True, False, True),
            ("rising", "C", "A", "C", True),
            ("falling", "C", "C", "A", True),
            ("rising", "C", "C", "C", False),
        ):
            self.assertEqual(crosses(Crosses("i", value, way), old, new), wanted, (way, value, old, new))

    def test_what_cannot_be_told(self) -> None:
        player = Player(project_of())
        for name, value in (("pul", 1.0), ("news", True), ("pull", "far"), ("pull", True), ("boarded", 1)):
            with self.assertRaises(EditError):
                player.set_input(name, value)
        with self.assertRaises(EditError):
            player.send("pull")
        player.set_input("pull", 3)
        self.assertEqual(player.inputs["pull"], 3.0)


class Refused(unittest.TestCase):
    def test_hostile_tapes_get_one_sentence_with_the_event(self) -> None:
        late = [{"at": 5, "do": "out"}, {"at": 4, "do": "out"}]
        for events, words in (
            ([{"at": 1, "do": "prss", "x": 1, "y": 1}], "event 1"),
            ([{"at": 1, "do": "out"}, {"at": 2, "do": "press", "x": 1}], "event 2"),
            ([{"at": 1, "do": "press", "x": 1, "y": "far"}], "event 1"),
            ([{"at": 1, "do": "press", "x": 1, "y": 2e6}], "event 1"),
            ([{"at": -1, "do": "out"}], "event 1"),
            ([{"at": 1, "do": "out", "why": 1}], "event 1"),
            (late, "event 2"),
            (5, "events"),
        ):
            with self.assertRaises(FormatError) as caught:
                tape(events)
            self.assertIn(words, str(caught.exception))
        for data in (b"", b"[]", b"{", b'{"until": NaN}', b'{"until": -1}', b'{"format": 2}', b'{"until": 1e300}'):
            with self.assertRaises(FormatError, msg=data):
                read_tape(data, "t")
        with self.assertRaisesRegex(FormatError, "at most"):
            read_tape(b'{"events": [' + b",".join([b"{}"] * (MOST_EVENTS + 1)) + b"]}", "t")
        self.assertEqual(read_tape(b"{}", "t").format, FORMAT)

    def test_names_that_are_not_there(self) -> None:
        for made in (
            tape([{"at": 1, "do": "input", "name": "pul", "value": 1}]),
            tape([{"at": 1, "do": "signal", "name": "olds"}]),
            tape([], start={"frame": "zz"}),
            tape([], start={"inputs": {"pul": 1}}),
            tape([], start={"inputs": {"pull": "far"}}),
        ):
            with self.assertRaises(AveltError):
                outcome(project_of(), made, [10])


if __name__ == "__main__":
    unittest.main()
