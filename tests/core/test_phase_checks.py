"""What the checks say about running orders, and running orders in words."""

import unittest
from typing import Any

from avelt.core.checks.phase_words import event_words, phase_words, rule_words, shows_words
from avelt.core.checks.table import findings
from avelt.core.model.phases import Rule
from avelt.core.model.triggers import Tap
from avelt.core.steps.read import applied
from tests.core.test_phases import GULLS, project_of, single
from tests.core.test_steps import SITE


def codes(project: Any) -> list[str]:
    return [found.check.code for found in findings(project)]


def says(project: Any, code: str) -> list[str]:
    return [found.line for found in findings(project) if found.check.code == code]


THERE = {"name": "b", "shows": {"pose": "b"}}


class Checked(unittest.TestCase):
    def test_a_sound_order_has_no_trouble(self) -> None:
        self.assertEqual(codes(project_of()), [])

    def test_a_phase_that_nobody_reaches(self) -> None:
        project = single({"name": "a", "shows": {"pose": "a"}}, THERE)
        self.assertEqual(says(project, "phase unreached"), ["b: no rule leads here."])

    def test_a_phase_that_ends_and_does_not_go_on(self) -> None:
        project = single({"name": "a", "shows": {"pose": "a"}, "lasts": {"ms": 3}})
        self.assertEqual(len(says(project, "phase stuck")), 1)
        self.assertEqual(codes(single({"name": "a", "shows": {"pose": "a"}})), [])

    def test_rules_of_which_one_comes_first(self) -> None:
        for lasts, rules, without in (
            ("until", [{"if": "x > 3", "to": "b"}, {"if": "x > 5", "to": "b"}], True),
            ("until", [{"if": "x > 5", "to": "b"}, {"if": "x > 3", "to": "b"}], False),
            ("until", [{"to": "b"}, {"if": "on", "to": "b"}], True),
            ("until", [{"if": "on", "to": "b"}, {"if": "on and x > 2", "to": "b"}], True),
            ("until", [{"if": "on", "finish_round": True, "to": "b"}, {"if": "on and x > 2", "to": "b"}], False),
            ("until", [{"if": "on", "to": "b"}, {"on": {"signal": "go"}, "if": "on", "to": "b"}], True),
            ({"ms": 100}, [{"if": "on", "to": "b"}, {"on": {"signal": "go"}, "if": "on", "to": "b"}], False),
            ("until", [{"on": {"signal": "go"}, "to": "b"}, {"on": {"signal": "go"}, "if": "on", "to": "b"}], True),
            ("until", [{"on": {"signal": "go"}, "to": "b"}, {"if": "on", "to": "b"}], False),
            ("until", [{"if": "word = 'C'", "to": "b"}, {"if": "word != 'C'", "to": "b"}], False),
            ("until", [{"if": "x * 2 > 4", "to": "b"}, {"if": "x > 2", "to": "b"}], True),
        ):
            with self.subTest(rules=rules, lasts=lasts):
                project = single({"name": "a", "shows": {"pose": "a"}, "lasts": lasts, "then": rules}, THERE)
                self.assertEqual("rule in vain" in codes(project), without)

    def test_expressions(self) -> None:
        for text, code in (
            ("y > 3", "no input"),
            ("go", "signal"),
            ("word > 3", "text with a number"),
            ("1 / x > 2", "by 0"),
        ):
            with self.subTest(text=text):
                project = single({"name": "a", "shows": {"pose": "a"}, "then": {"if": text, "to": "b"}}, THERE)
                self.assertIn(code, " ".join(says(project, "expression")))
        project = single({"name": "a", "shows": {"blend": ["a", "b"], "by": "y / 10"}})
        self.assertEqual(len(says(project, "expression")), 1)

    def test_a_motion_that_ends_where_the_next_phase_does_not_begin(self) -> None:
        motion = {"name": "a", "shows": {"motion": ["a", "b"], "duration": 100}}
        for shows, then, jumps in (
            ({"pose": "b"}, {"to": "b"}, False),
            ({"pose": "a"}, {"to": "b"}, True),
            ({"pose": "a"}, {"to": "b", "duration": 50}, False),
            ({"motion": ["a", "b"]}, {"to": "b"}, True),
        ):
            with self.subTest(shows=shows, then=then):
                project = single({**motion, "then": then}, {"name": "b", "shows": shows})
                self.assertEqual("phase jumps" in codes(project), jumps)

    def test_an_input_that_nobody_sets(self) -> None:
        loose = {"do": "use", "in": "screen", "layer": "Tide", "inputs": {}}
        project = project_of(loose)
        self.assertEqual(says(project, "input unset"), [])
        steps = [{"do": "input", "part": "Tide", "name": "wind", "kind": "number"},
                 {"do": "phase", "part": "Tide", "name": "sail", "then": {"if": "wind > 3", "to": "moor"}}]  # fmt: skip
        project = applied(project, steps, SITE)
        self.assertEqual(len(says(project, "input unset")), 1)
        fed = {"do": "use", "in": "screen", "layer": "Tide", "inputs": {"wind": 4}}
        self.assertEqual(says(applied(project, [fed], SITE), "input unset"), [])

    def test_two_tracks_that_move_one_layer(self) -> None:
        named = {"do": "phase", "part": "Tide", "track": "gulls", "name": "sink", "layers": ["Boat"]}
        self.assertEqual(says(project_of(*GULLS), "two tracks"), [])
        self.assertIn("both move Boat", says(project_of(*GULLS, named), "two tracks")[0])

    def test_events_that_are_not_played_yet(self) -> None:
        project = single(
            {"name": "a", "shows": {"pose": "a"}, "then": {"on": {"loading": "is ready"}, "to": "b"}}, THERE
        )
        self.assertEqual(len(says(project, "event")), 1)

    def test_parts_that_nothing_uses_or_that_are_gone(self) -> None:
        empty = {"do": "part", "name": "Spare", "size": [10, 10]}
        self.assertEqual(codes(project_of(empty)), ["part unused"])

    def test_a_condition_of_a_layer_and_a_feed(self) -> None:
        hidden = {"do": "set", "in": "screen", "layer": "Tide", "only_if": "wind > 3"}
        self.assertIn("wind", says(project_of(hidden), "expression")[0])


class InWords(unittest.TestCase):
    def test_what_a_rule_waits_for(self) -> None:
        project = single()
        layer = project.frames[0].layers[0]
        self.assertEqual(event_words(project, Rule("x", on=Tap(layer.id))), "tap on Card")
        self.assertEqual(event_words(project, Rule("x", on=Tap())), "tap")
        self.assertEqual(event_words(project, Rule("x", on=Tap("gone"))), "tap on ?")
        self.assertEqual(event_words(project, Rule("x")), "")

    def test_a_row_reads_as_a_sentence(self) -> None:
        from avelt.core.model.parts import as_stage

        project = project_of()
        stage = as_stage(project, project.parts[0])
        phases = stage.tracks[0].phases
        names = {phase.id: phase.name for phase in phases}
        self.assertEqual(shows_words(stage, phases[1]), "Flat ⇄ Drawn, follows pull")
        self.assertEqual([rule_words(stage, names, rule) for rule in phases[1].then],
                         ["pull >= 0.7 and held → haul", "held = no → rest in 200 ms"])  # fmt: skip
        self.assertEqual(
            phase_words(stage, names, phases[4]), "sail: loops of Away: bob. Then news is sent, finish the round → moor"
        )
        self.assertEqual(shows_words(stage, phases[3]), "Drawn to Away, 420 ms, Line")
        self.assertEqual(phase_words(stage, names, phases[5]).split(" (")[1], "once). Then → rest")
