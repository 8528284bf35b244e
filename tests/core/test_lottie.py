"""Lottie JSON: its numbers at any moment are those of the program, and its structure is that of the specification."""

import json
import unittest
from itertools import pairwise
from typing import Any

from msgspec.structs import replace

from avelt.core.curves import easing
from avelt.core.errors import FormatError
from avelt.core.handoff.delivery import Delivery, Wanted
from avelt.core.handoff.lottie import lottie
from avelt.core.handoff.lottie_keys import property_of, shape_of
from avelt.core.model.curves import Handles, Hold, Line, Spring, Steps
from avelt.core.model.values import Project, Solid, Stroke, Transition
from avelt.core.timing.compile import compile_route
from avelt.core.timing.sampling import sample
from avelt.deliver.subjects import every_subject, subjects_for
from avelt.demo.build import build_demo
from avelt.paint.fonts import measure_text
from avelt.paint.letters import QtLetters
from tests.support import box, project_of
from tests.verify.cases import CASES

LAYERS = {0: {"refId", "w", "h"}, 2: {"refId"}, 4: {"shapes"}}
SHAPES = {
    "gr": {"it"},
    "sh": {"ks"},
    "fl": {"c", "o"},
    "st": {"c", "o", "w"},
    "gf": {"s", "e", "g", "t"},
    "gs": {"s", "e", "g", "t", "w"},
    "tr": {"a", "p", "s", "r", "o"},
    "tm": {"s", "e", "o"},
    "rc": {"p", "s", "r"},
}


def made(project: Project, **own: Any) -> tuple[dict[str, Any], Delivery]:
    """The first route as a document."""
    program = compile_route(project, project.routes[0])
    delivery = lottie(program, project, QtLetters(), Wanted(name="It", **own))
    return json.loads(delivery.files[delivery.main]), delivery


def value(prop: dict[str, Any], frame: float) -> list[float]:
    """A property's value at a frame, by the rules of the specification."""
    if not prop["a"]:
        return prop["k"] if isinstance(prop["k"], list) else [prop["k"]]
    keys = prop["k"]
    if frame <= keys[0]["t"]:
        return keys[0]["s"]
    for one, two in pairwise(keys):
        if one["t"] <= frame < two["t"]:
            if one.get("h"):
                return one["s"]
            o, i = one["o"], one["i"]
            curve = Handles(o["x"][0], o["y"][0], i["x"][0], i["y"][0])
            share = float(easing.at(curve, (frame - one["t"]) / (two["t"] - one["t"])))
            return [a + (b - a) * share for a, b in zip(one["s"], two["s"], strict=True)]
    return keys[-1]["s"]


class Lottie(unittest.TestCase):
    def sound(self, document: dict[str, Any]) -> None:
        """What the specification requires of a document, its layers, shapes and keyframes."""
        for key in ("v", "fr", "ip", "op", "w", "h", "layers", "assets"):
            self.assertIn(key, document)
        known = {asset["id"] for asset in document["assets"]}
        lists = [document["layers"], *(asset["layers"] for asset in document["assets"] if "layers" in asset)]
        for layers in lists:
            self.assertEqual(len({layer["ind"] for layer in layers}), len(layers))
            for layer in layers:
                self.assertLessEqual(LAYERS[layer["ty"]] | {"ks", "ip", "op", "st", "nm"}, layer.keys())
                self.assertLess(layer["ip"], layer["op"])
                if "refId" in layer:
                    self.assertIn(layer["refId"], known)
                self.walk(layer)
                for shape in layer.get("shapes", ()):
                    self.shape(shape)

    def shape(self, shape: dict[str, Any]) -> None:
        self.assertLessEqual(SHAPES[shape["ty"]], shape.keys())
        if shape["ty"] == "gr":
            self.assertEqual(shape["it"][-1]["ty"], "tr")
            for inner in shape["it"]:
                self.shape(inner)

    def walk(self, node: Any) -> None:
        """Keyframes go forward in time, and have tangents or hold."""
        if isinstance(node, dict):
            if node.get("a") == 1 and isinstance(node.get("k"), list):
                times = [key["t"] for key in node["k"]]
                self.assertEqual(times, sorted(set(times)))
                for key in node["k"]:
                    self.assertTrue(key.get("h") or {"o", "i"} <= key.keys())
            for inner in node.values():
                self.walk(inner)
        elif isinstance(node, list):
            for inner in node:
                self.walk(inner)

    def test_every_case_is_sound(self) -> None:
        for name, case in CASES.items():
            with self.subTest(name):
                self.sound(made(case())[0])
        self.sound(made(build_demo(measure_text))[0])

    def test_layers_are_where_the_program_has_them(self) -> None:
        for name in ("turned", "own_cues", "keyed", "on_path", "held", "skewed"):
            project = CASES[name]()
            document, _ = made(project)
            program = compile_route(project, project.routes[0])
            layer = next(layer for layer in document["layers"] if layer["nm"] == "b")["ks"]
            for ms in (0.0, 37.0, 120.0, 260.0, program.duration):
                record = next(r for r in sample(program, ms) if r["name"] == "b")
                frame = ms * 0.06
                place, anchor = value(layer["p"], frame), value(layer["a"], frame)
                centre = [record["x"] + record["w"] * 0, record["y"]]
                with self.subTest(name=name, ms=ms):
                    self.assertAlmostEqual(value(layer["o"], frame)[0], record["opacity"] * 100, delta=0.2)
                    self.assertAlmostEqual(value(layer["r"], frame)[0], record["turn"], delta=0.1)
                    if name != "turned":
                        self.assertAlmostEqual(
                            place[0] - anchor[0] * value(layer["s"], frame)[0] / 100, centre[0], delta=0.25
                        )

    def test_curves_that_bezier_cannot_say(self) -> None:
        for curve, share in ((Spring(0.5), 0.003), (Steps(3, "end"), 1e-6), (Hold(0.4), 1e-6), (Line(), 1e-6)):
            prop = property_of([(0.0, [0.0], curve), (500.0, [10.0], Line())], [0.0])
            for at in (0.05, 0.31, 0.45, 0.77, 0.99):
                with self.subTest(curve=curve, at=at):
                    self.assertAlmostEqual(value(prop, at * 30)[0], 10 * float(easing.at(curve, at)), delta=10 * share)

    def test_outlines_have_their_tangents_beside_their_nodes(self) -> None:
        [shape] = shape_of([0, 0, 1, 0, 2, 1, 2, 2, 2, 3, 0, 3, 0, 0], (7,), (True,))
        self.assertEqual(shape["v"], [[0, 0], [2, 2]])
        self.assertEqual((shape["o"], shape["i"]), ([[1, 0], [0, 1]], [[0, 3], [0, -1]]))

    def test_masks_and_clips_are_compositions(self) -> None:
        document, _ = made(CASES["masks"]())
        inside = next(asset for asset in document["assets"] if any("tt" in layer for layer in asset["layers"]))[
            "layers"
        ]
        self.assertEqual((inside[0]["td"], inside[1]["tt"]), (1, 1))
        document, _ = made(CASES["light_masks"]())
        self.assertTrue(any(layer.get("tt") == 3 for asset in document["assets"] for layer in asset["layers"]))
        document, _ = made(CASES["clips"]())
        layer = next(layer for layer in document["layers"] if layer["ty"] == 0)
        self.assertEqual(layer["masksProperties"][0]["mode"], "a")

    def test_what_it_cannot_say_is_named(self) -> None:
        said = {
            name: {entry.what for entry in made(CASES[name]())[1].report.left_out}
            for name in ("shadows", "blurs", "tilts", "rolls", "conic", "blends", "turned")
        }
        self.assertIn("its shadow", said["shadows"])
        self.assertIn("its blur", said["blurs"])
        self.assertIn("its turn out of the plane", said["tilts"])
        self.assertIn("rolling digits", said["rolls"])
        self.assertIn("a conic paint", said["conic"])
        self.assertIn("its blend mode", said["blends"])
        self.assertEqual(said["turned"], set())

    def test_grounds(self) -> None:
        document, _ = made(CASES["turned"]())
        self.assertEqual(document["layers"][-1]["nm"], "background")
        self.assertNotEqual(made(CASES["turned"](), background="none")[0]["layers"][-1]["nm"], "background")
        fill = made(CASES["turned"](), background="#ff0000")[0]["layers"][-1]["shapes"][0]["it"][1]
        self.assertEqual(fill["c"]["k"], [1, 0, 0])


class WhatPlayersNeed(unittest.TestCase):
    def test_dashes_have_names_and_come_in_pairs(self) -> None:
        line = box("a", 0, 0, 50, 50, stroke=Stroke(Solid("#123456"), 2.0, dashes=(4.0, 2.0, 1.0)))
        document, _ = made(project_of((line,), (replace(line, id="b", x=90.0),)))
        text = json.dumps(document)
        dashes = document["layers"][0]["shapes"]
        found = [entry for entry in _walked(dashes) if entry.get("ty") == "st"]
        self.assertEqual(len(found), 1, text)
        self.assertEqual([entry["n"] for entry in found[0]["d"]], ["d", "g", "d", "g", "d", "g", "o"])
        names = [entry["nm"] for entry in found[0]["d"]]
        self.assertEqual(len(set(names)), len(names))
        self.assertTrue(all(names))

    def test_where_nothing_moves_it_is_refused(self) -> None:
        project = project_of((box("a", 0, 0, 50, 50),), ())
        still = replace(project.routes[0], id="S", arrives="A", transition=Transition(300.0))
        with self.assertRaisesRegex(FormatError, "Nothing moves in It"):
            made(replace(project, routes=(still,)))
        subjects = every_subject(replace(project, routes=(still, *project.routes)))
        kept = subjects_for(subjects, "lottie", False)
        self.assertEqual([one.key for one in kept], ["route:R"])


def _walked(value: Any) -> Any:
    if isinstance(value, dict):
        yield value
        for inner in value.values():
            yield from _walked(inner)
    elif isinstance(value, list):
        for inner in value:
            yield from _walked(inner)


if __name__ == "__main__":
    unittest.main()
