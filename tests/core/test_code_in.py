"""Motion that was written as code, taken in as presets."""

import json
import tempfile
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from avelt.core.errors import AveltError, FormatError
from avelt.core.handoff.delivery import Wanted
from avelt.core.handoff.web import web_animations
from avelt.core.model.curves import Handles, Line, Points, Steps
from avelt.core.presets.code_in import from_code, split, words
from avelt.core.presets.files import from_text, read_file
from avelt.core.presets.picture import picture_of
from avelt.core.presets.values import Preset
from avelt.core.timing.compile import compile_route
from avelt.paint.letters import QtLetters
from tests.verify.cases import CASES


def only(text: str) -> Preset:
    """The one preset of a text that is understood wholly."""
    presets, troubles = from_code(text, "x.css")
    assert not troubles, troubles
    assert len(presets) == 1, presets
    return presets[0]


class Css(unittest.TestCase):
    def test_easing_alone_is_a_curve(self) -> None:
        self.assertEqual(only("cubic-bezier(0.2, 0, 0.1, 1);").curve, Handles(0.2, 0, 0.1, 1))
        self.assertEqual(only("linear(0, 0.5 20%, 1)").curve, Points(((0, 0), (0.2, 0.5), (1, 1))))
        self.assertEqual(only("steps(4, jump-none)").curve, Steps(4, "none"))

    def test_what_ends_at_rest_enters(self) -> None:
        made = only(
            "@keyframes rise { from { opacity: 0; transform: translateY(24px) scale(.9) } }\n"
            ".card { animation: rise .4s cubic-bezier(0.2, 0, 0.1, 1) 100ms both }"
        )
        self.assertEqual((made.kind, made.name, made.duration), ("enter", "rise", 500.0))
        self.assertEqual((made.absent.shift_y, made.absent_px.shift_y, made.absent.scale_x), (0.24, 24.0, 0.9))
        self.assertEqual((made.absent.opacity, made.absent.rotation), (0.0, 0.0))
        whole = made.cues[0]
        self.assertEqual((whole.start, whole.end, whole.start_ms, whole.end_ms), (0.2, 1.0, 100.0, 500.0))
        self.assertEqual(whole.curve, Handles(0.2, 0, 0.1, 1))

    def test_what_begins_at_rest_leaves_and_reverse_turns_it(self) -> None:
        text = "@keyframes go { to { opacity: 0; translate: 50%% -20px; rotate: .25turn } } .x { animation: 200ms linear go %s }"
        made = only(text % "")
        self.assertEqual(
            (made.kind, made.absent.shift_x, made.absent_px.shift_y, made.absent.rotation), ("leave", 0.5, -20, 90)
        )
        self.assertEqual(only(text % "reverse").kind, "enter")

    def test_keyframes_on_the_way_are_kept_as_how_far_they_are_off(self) -> None:
        made = only(
            "@keyframes hop { 0% { opacity: 0; scale: 0 } 60% { opacity: 1; scale: 1.2; animation-timing-function: ease-in }"
            " 100% { opacity: 1; scale: 1 } } .a { animation: hop 300ms ease-out }"
        )
        scale = next(cue for cue in made.cues if cue.prop == "scale")
        self.assertEqual((scale.keyframes[0].at, scale.first, scale.last), (0.6, (0, 0), (1, 1)))
        self.assertAlmostEqual(scale.keyframes[0].value[0], 1.2 / 0.6)
        self.assertEqual(scale.curve, Handles(0.42, 0.0, 1.0, 1.0))
        self.assertEqual(scale.keyframes[0].curve, Handles(0.0, 0.0, 0.58, 1.0))

    def test_what_repeats_is_a_loop(self) -> None:
        made = only(
            "@keyframes bob { to { transform: translateY(-12px) rotate(5deg) } }\n.b { animation: bob 1s infinite alternate }"
        )
        loop = made.loop.loop
        self.assertEqual((loop.offset.shift_y, loop.offset.rotation, loop.duration), (-12, 5, 2000))
        self.assertEqual((loop.direction, loop.rounds, loop.keyframes), ("there and back", 0, ()))
        made = only(
            "@keyframes shake { 0%, 100% { translate: 0 } 25% { translate: -6px } 75% { translate: 6px } }"
            " i { animation: shake 400ms linear 3; animation-delay: 100ms }"
        )
        loop = made.loop.loop
        self.assertEqual((loop.rounds, [key.far for key in loop.keyframes]), (3, [0, 1, -1, 0]))
        made = only(
            "@keyframes s { from { rotate: 0deg } to { rotate: 360deg } } i { animation: s 2s linear infinite -500ms }"
        )
        self.assertEqual((made.loop.loop.start_offset, made.loop.loop.direction), (500, "one way"))

    def test_transitions_are_times_of_properties(self) -> None:
        made = only(".card, .x { transition: opacity 200ms linear, transform .3s ease-in 100ms, background-color 1s }")
        self.assertEqual((made.kind, made.name, made.duration), ("layer motion", "card", 1000.0))
        by = {cue.prop: cue for cue in made.cues}
        self.assertEqual((by["opacity"].end_ms, by["opacity"].curve), (200, Line()))
        self.assertEqual((by["position"].start_ms, by["position"].end_ms), (100, 400))
        self.assertEqual(by["fill"].end, 1.0)

    def test_custom_properties_longhands_and_nested_rules(self) -> None:
        made = only(
            ":root { --t: 320ms; --c: cubic-bezier(0.1, 0.2, 0.3, 0.4) }\n@media screen { .a { animation-name: up;"
            " animation-duration: var(--t); animation-timing-function: var(--c, linear) } }\n"
            "@keyframes up { from { translate: 0 40px } }\n@media (prefers-reduced-motion: reduce) { .a { animation: none } }"
        )
        self.assertEqual((made.duration, made.cues[0].curve), (320, Handles(0.1, 0.2, 0.3, 0.4)))

    def test_what_is_not_understood_is_named_with_its_line(self) -> None:
        presets, troubles = from_code(
            "@keyframes a {\n  from { opacity: 0; offset-path: none }\n  to { opacity: 1 }\n}\n.x { animation: a 1s }\n"
            ".y { animation: gone 1s }\n.z { animation: a wobbly(2) 1s }",
            "x.css",
        )
        self.assertEqual(len(presets), 2)
        said = [trouble.says for trouble in troubles]
        self.assertIn("line 2: offset-path is not read.", said)
        self.assertTrue(any(s.startswith("line 6:") and "gone" in s for s in said), said)
        self.assertTrue(any(s.startswith("line 7:") for s in said), said)

    def test_nothing_that_moves_is_refused(self) -> None:
        for text in (
            "",
            "body { color: red }",
            "{",
            "[]",
            "[1, 2",
            '{"keyframes": 3}',
            "\0",
            "@keyframes x { from { opacity: 0 } }",
        ):
            with self.subTest(text), self.assertRaises(FormatError):
                from_code(text, "x")
        with self.assertRaises(FormatError):
            from_code("a" * 30_000_000, "x")

    @given(st.text(alphabet="@keyframes {}from to:;0123456789.%msabc()-,\n\"'/*var", max_size=300))
    def test_hostile_text_is_a_sentence(self, text: str) -> None:
        try:
            from_code("@keyframes a { from { opacity: 0 } } .x { animation: a 1s } " + text, "x")
        except AveltError as error:
            self.assertTrue(error.sentence)

    def test_deep_and_endless_text(self) -> None:
        for text in (
            "a{" * 3000,
            ":root{--a:var(--b)var(--b);--b:var(--a)var(--a)} .x{animation: var(--a) 1s}",
            "(" * 5000,
        ):
            with self.assertRaises(FormatError):
                from_code(text, "x")

    def test_every_taken_preset_can_be_shown(self) -> None:
        for text in (
            "@keyframes a { from { opacity: 0; filter: blur(4px); clip-path: inset(0 50% 0 0) } } .x { animation: a 1s }",
            "@keyframes a { to { background: #ff0000 } } .x { animation: a 1s infinite alternate }",
            "@keyframes a { from { left: 0 } to { left: 40px } } .x { animation: a 1s }",
        ):
            preset = from_code(text, "x")[0][0]
            self.assertGreater(picture_of(preset).duration, 0)

    def test_lists_are_parted_outside_of_brackets(self) -> None:
        self.assertEqual(split("a (1, 2), b"), ["a (1, 2)", "b"])
        self.assertEqual(words("a  b(1, 2) c"), ["a", "b(1, 2)", "c"])


class Animations(unittest.TestCase):
    def test_both_forms_of_keyframes(self) -> None:
        listed = json.dumps({"keyframes": [{"opacity": 0}, {"opacity": 1, "easing": "ease-in"}], "options": 250})
        made = only(listed)
        self.assertEqual((made.kind, made.duration, made.absent.opacity), ("enter", 250, 0))
        lists = json.dumps(
            [
                {
                    "keyframes": {"transform": ["none", "scale(2)", "none"]},
                    "options": {"duration": 400, "iterations": "Infinity"},
                }
            ]
        )
        loop = only(lists).loop.loop
        self.assertEqual([(key.at, key.far) for key in loop.keyframes], [(0, 0), (0.5, 1), (1, 0)])
        self.assertEqual((loop.offset.scale_x, loop.rounds), (2, 0))

    def test_what_avelt_delivers_comes_back(self) -> None:
        project = CASES["held"]()
        delivery = web_animations(compile_route(project, project.routes[0]), project, QtLetters(), Wanted())
        presets, _ = from_text(delivery.files["motion.json"].decode(), "motion.json")
        self.assertTrue(any(preset.duration == 300 for preset in presets))

    def test_files_by_their_endings(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            css = Path(name) / "a.css"
            css.write_text(".a { transition: opacity 1s }")
            self.assertEqual(read_file(css)[0][0].duration, 1000)
            tokens = Path(name) / "b.json"
            tokens.write_text('{"x": {"$type": "cubicBezier", "$value": [0, 0, 1, 1]}}')
            self.assertEqual(read_file(tokens)[0][0].kind, "curve")
            css.write_bytes(b"\xff\xfe")
            with self.assertRaises(FormatError):
                read_file(css)


if __name__ == "__main__":
    unittest.main()
