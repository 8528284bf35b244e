"""Lottie JSON in: layers, loops of what moves, what is named because it has no place; our own deliveries come back."""

from __future__ import annotations

import base64
import copy
import io
import json
import random
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image

from avelt.core.curves import easing
from avelt.core.edits.frames import add_frames
from avelt.core.edits.project import new_project
from avelt.core.errors import AveltError, FormatError
from avelt.core.formats.checked import check
from avelt.core.formats.lottie_in import read_lottie
from avelt.core.formats.lottie_moves import cut
from avelt.core.formats.screen_file import read_screen
from avelt.core.formats.svg_in import Imported
from avelt.core.handoff.delivery import Wanted
from avelt.core.handoff.lottie import lottie
from avelt.core.model.curves import Handles, Hold, Line
from avelt.core.model.find import find_layer, walk
from avelt.core.model.parts import as_stage, pose_of
from avelt.core.model.values import Box, Group, Oval, Solid, Text
from avelt.core.model.values import Path as PathBody
from avelt.core.presets.files import from_text
from avelt.core.timing.compile import compile_still
from avelt.core.timing.sampling import sample
from avelt.deliver.films import rgba
from avelt.demo.shipped import shipped_demo
from avelt.paint.letters import QtLetters
from avelt.paint.painter import ScenePainter

Json = dict[str, Any]
EASE = {"o": {"x": [0.3], "y": [0.0]}, "i": {"x": [0.6], "y": [1.0]}}


def fixed(value: Any) -> Json:
    return {"a": 0, "k": value}


def keys(*rows: tuple[float, Any]) -> Json:
    made = [{"t": t, "s": value if isinstance(value, list) else [value], **EASE} for t, value in rows]
    return {"a": 1, "k": made}


def rectangle(**ks: Json) -> Json:
    """A shape layer of one box, 40 by 20 about its own middle."""
    shapes = [
        {
            "ty": "gr",
            "nm": "Card",
            "it": [
                {"ty": "rc", "p": fixed([0, 0]), "s": fixed([40, 20]), "r": fixed(4)},
                {"ty": "fl", "c": fixed([1, 0, 0, 1]), "o": fixed(100)},
                {"ty": "tr"},
            ],
        }
    ]
    usual = {"a": fixed([0, 0]), "p": fixed([100, 50]), "s": fixed([100, 100]), "r": fixed(0), "o": fixed(100)}
    return {"ty": 4, "nm": "Box", "ind": 1, "ip": 0, "op": 60, "st": 0, "ks": usual | ks, "shapes": shapes}


def document(*layers: Json, **more: Any) -> Json:
    return {"v": "5.9", "fr": 60, "ip": 0, "op": 60, "w": 200, "h": 100, "layers": list(layers), "assets": [], **more}


def read(value: Any) -> Imported:
    return read_lottie(json.dumps(value).encode(), "motion")


def at(found: Imported, ms: float) -> dict[str, tuple[float, float, float]]:
    """Where the middle of each named layer is, and how far it is turned."""
    made = {}
    for record in sample(compile_still(found.frame), ms):
        m, (w, h) = record["matrix"], record["own"]
        middle = m[0] * w / 2 + m[2] * h / 2 + m[4], m[1] * w / 2 + m[3] * h / 2 + m[5]
        made[record["name"]] = (*middle, record["turn"])
    return made


class Layers(unittest.TestCase):
    def test_a_shape_where_it_is_with_its_paint(self) -> None:
        found = read(document(rectangle()))
        group = found.frame.layers[0]
        self.assertEqual((found.frame.w, found.frame.h, group.name), (200, 100, "Box"))
        card = group.children[0]
        self.assertIsInstance(card.body, Box)
        self.assertEqual((card.body.radii[0], card.fills, card.w, card.h), (4.0, (Solid("#ff0000"),), 40.0, 20.0))
        self.assertEqual(at(found, 0)["Card"][:2], (100.0, 50.0))
        self.assertEqual((found.frame.loops, found.frame.source.notes), ((), ()))

    def test_the_first_layer_lies_on_top(self) -> None:
        low = {**rectangle(), "nm": "Low", "ind": 2}
        self.assertEqual([layer.name for layer in read(document(rectangle(), low)).frame.layers], ["Low", "Box"])

    def test_transforms_about_the_anchor(self) -> None:
        found = read(document(rectangle(a=fixed([20, 10]), r=fixed(90), s=fixed([200, 100]))))
        x, y, turn = at(found, 0)["Card"]
        # The anchor (20, 10) stands at (100, 50); the middle is (-20, -10) from it, made twice as wide, then turned.
        self.assertAlmostEqual(x, 110.0, 6)
        self.assertAlmostEqual(y, 10.0, 6)
        self.assertAlmostEqual(turn % 360.0, 90.0, 6)

    def test_parents_carry_without_their_opacity(self) -> None:
        null = {"ty": 3, "nm": "Rig", "ind": 2, "ip": 0, "op": 60, "ks": {"p": fixed([10, 5]), "o": fixed(0)}}
        found = read(document({**rectangle(), "parent": 2}, null))
        self.assertEqual(at(found, 0)["Card"][:2], (110.0, 55.0))
        self.assertEqual([layer.opacity for layer in walk(found.frame.layers)], [1.0, 1.0, 1.0])

    def test_a_circle_of_parents_is_no_end(self) -> None:
        one, other = {**rectangle(), "parent": 2}, {**rectangle(), "nm": "Other", "ind": 2, "parent": 1}
        self.assertEqual(len(read(document(one, other)).frame.layers), 2)

    def test_solids_ovals_stars_paths_and_text(self) -> None:
        solid = {"ty": 1, "nm": "Ground", "ind": 3, "sw": 200, "sh": 100, "sc": "#336699", "ks": {}}
        path = {"v": [[0, 0], [40, 0], [0, 30]], "i": [[0, 0]] * 3, "o": [[0, 0]] * 3, "c": True}
        shapes = [
            {
                "ty": "gr",
                "nm": "Sun",
                "it": [
                    {"ty": "el", "p": fixed([5, 5]), "s": fixed([10, 10])},
                    {"ty": "st", "c": fixed([0, 0, 1, 1]), "w": fixed(2), "o": fixed(50), "lc": 2, "lj": 2},
                ],
            },
            {"ty": "gr", "nm": "Sail", "it": [{"ty": "sh", "ks": fixed(path)}, {"ty": "fl", "c": fixed([0, 1, 0, 1])}]},
            {
                "ty": "gr",
                "nm": "Star",
                "it": [
                    {"ty": "sr", "sy": 1, "pt": fixed(5), "or": fixed(10), "ir": fixed(4), "p": fixed([0, 0])},
                    {"ty": "fl", "c": fixed([0, 0, 0, 1])},
                ],
            },
        ]
        text = {
            "ty": 5,
            "nm": "Words",
            "ind": 4,
            "ks": {},
            "t": {"d": {"k": [{"t": 0, "s": {"t": "Ahoy", "s": 20, "fc": [1, 1, 1], "j": 2, "lh": 24}}]}},
        }
        found = read(document({**rectangle(), "shapes": shapes}, solid, text))
        bodies = {layer.name: layer.body for layer in walk(found.frame.layers) if not isinstance(layer.body, Group)}
        self.assertEqual(
            [type(bodies[n]) for n in ("Sun", "Sail", "Star", "Ground", "Words")], [Oval, PathBody, PathBody, Box, Text]
        )
        sun = find_layer(found.frame, "Sun")
        self.assertEqual((sun.stroke.paint, sun.stroke.width, sun.stroke.cap), (Solid("#0000ff80"), 2.0, "round"))
        self.assertEqual(bodies["Words"].words, "Ahoy")

    def test_one_fill_for_several_outlines_keeps_holes(self) -> None:
        it = [
            {"ty": "el", "p": fixed([0, 0]), "s": fixed([40, 40])},
            {"ty": "el", "p": fixed([0, 0]), "s": fixed([20, 20])},
            {"ty": "fl", "c": fixed([0, 0, 0, 1]), "r": 2},
        ]
        layer = {**rectangle(), "shapes": [{"ty": "gr", "nm": "Ring", "it": it}]}
        ring = find_layer(read(document(layer)).frame, "Ring")
        self.assertEqual((len(ring.body.subpaths), ring.body.rule), (2, "evenodd"))

    def test_gradients(self) -> None:
        it = [
            {"ty": "rc", "p": fixed([0, 0]), "s": fixed([40, 20])},
            {
                "ty": "gf",
                "t": 1,
                "s": fixed([-20, 0]),
                "e": fixed([20, 0]),
                "g": {"p": 2, "k": fixed([0, 1, 0, 0, 1, 0, 0, 1, 0, 1, 1, 0.5])},
            },
        ]
        fill = find_layer(
            read(document({**rectangle(), "shapes": [{"ty": "gr", "nm": "G", "it": it}]})).frame, "G"
        ).fills[0]
        self.assertEqual([(stop.at, stop.color) for stop in fill.stops], [(0.0, "#ff0000ff"), (1.0, "#0000ff80")])
        self.assertEqual(fill.matrix[:2] + fill.matrix[4:], (1.0, 0.0, 0.0, 0.5))

    def test_pictures_in_the_file_and_compositions(self) -> None:
        stream = io.BytesIO()
        Image.new("RGB", (4, 4), "red").save(stream, "PNG")
        data = "data:image/png;base64," + base64.b64encode(stream.getvalue()).decode()
        assets = [{"id": "pic", "w": 40, "h": 40, "p": data, "e": 1}, {"id": "comp", "layers": [rectangle()]}]
        picture = {"ty": 2, "nm": "Photo", "ind": 1, "refId": "pic", "ks": {}}
        comp = {"ty": 0, "nm": "Inner", "ind": 2, "refId": "comp", "w": 200, "h": 100, "ks": {"p": fixed([7, 0])}}
        found = read(document(picture, comp, assets=assets))
        self.assertEqual((len(found.assets), find_layer(found.frame, "Photo").w), (1, 40.0))
        self.assertEqual(at(found, 0)["Card"][:2], (107.0, 50.0))

    def test_masks_and_mattes(self) -> None:
        path = {"v": [[0, 0], [10, 0], [10, 10]], "i": [[0, 0]] * 3, "o": [[0, 0]] * 3, "c": True}
        masked = {**rectangle(), "masksProperties": [{"mode": "a", "pt": fixed(path)}]}
        group = read(document(masked)).frame.layers[0]
        self.assertEqual(group.body.mask, group.children[0].id)
        matte = {**rectangle(), "nm": "Matte", "ind": 1, "td": 1}
        shown = {**rectangle(), "nm": "Shown", "ind": 2, "tt": 1}
        through = read(document(matte, shown)).frame.layers[0]
        self.assertEqual([child.name for child in through.children], ["Matte", "Shown"])
        self.assertEqual(through.body.mask, through.children[0].id)


class Motion(unittest.TestCase):
    def test_each_property_is_a_loop_as_long_as_the_file(self) -> None:
        moving = rectangle(
            p=keys((0, [100, 50]), (30, [150, 50]), (60, [100, 50])),
            r=keys((0, 0), (60, 180)),
            s=keys((0, [100, 100]), (60, [200, 200])),
            o=keys((0, 100), (60, 0)),
        )
        found = read(document(moving))
        self.assertEqual({loop.duration for loop in found.frame.loops}, {1000.0})
        self.assertEqual(len(found.frame.loops), 4)
        self.assertAlmostEqual(at(found, 500.0)["Card"][0], 150.0, 3)
        eased = float(easing.at(Handles(0.3, 0.0, 0.6, 1.0), 0.5))
        self.assertAlmostEqual(at(found, 250.0)["Card"][0], 100.0 + 50.0 * eased, 3)
        self.assertAlmostEqual(
            at(found, 250.0)["Card"][2], 180.0 * float(easing.at(Handles(0.3, 0.0, 0.6, 1.0), 0.25)), 3
        )

    def test_positions_in_two_numbers_and_along_a_path(self) -> None:
        apart = {"s": True, "x": keys((0, 10), (60, 60)), "y": fixed(20)}
        found = read(document(rectangle(p=apart)))
        self.assertEqual([loop.offset.shift_x for loop in found.frame.loops], [50.0])
        bent = keys((0, [0, 0]), (60, [80, 0]))
        bent["k"][0] |= {"to": [0, 40], "ti": [0, 40]}
        loop = read(document(rectangle(p=bent))).frame.loops[0]
        self.assertEqual(loop.path, ((0.0, 40.0), (80.0, 40.0), (80.0, 0.0)))

    def test_held_keys_jump(self) -> None:
        held = keys((0, 0), (30, 90), (60, 90))
        held["k"][0]["h"] = 1
        found = read(document(rectangle(r=held)))
        self.assertEqual((at(found, 499.0)["Card"][2], at(found, 501.0)["Card"][2]), (0.0, 90.0))

    def test_what_is_there_for_a_while_only(self) -> None:
        found = read(document({**rectangle(), "ip": 15, "op": 45}))
        program = compile_still(found.frame)
        seen = [float(program.from_start(ms).world_opacity()[0]) for ms in (100.0, 400.0, 800.0)]
        self.assertEqual(seen, [0.0, 1.0, 0.0])

    def test_keys_beyond_the_round_are_cut_where_it_ends(self) -> None:
        found = read(document(rectangle(r=keys((-30, 0), (90, 120)))))
        curve = Handles(0.3, 0.0, 0.6, 1.0)
        for ms in (0.0, 300.0, 999.0):
            share = (ms / 1000.0 * 60.0 + 30.0) / 120.0
            self.assertAlmostEqual(at(found, ms)["Card"][2], 120.0 * float(easing.at(curve, share)), 2)

    def test_a_cut_curve_is_the_curve(self) -> None:
        curve = Handles(0.2, 0.1, 0.7, 1.3)
        low, high, part = cut(curve, 0.3, 0.8)
        for share in (0.0, 0.25, 0.5, 1.0):
            whole = float(easing.at(curve, 0.3 + 0.5 * share))
            self.assertAlmostEqual(low + (high - low) * float(easing.at(part, share)), whole, 5)
        self.assertEqual(cut(Line(), 0.25, 0.5), (0.25, 0.5, Line()))
        self.assertEqual(cut(Hold(1.0), 0.25, 0.5)[:2], (0.0, 0.0))

    def test_colours_widths_trims_sizes_and_outlines(self) -> None:
        a = {"v": [[0, 0], [40, 0], [0, 30]], "i": [[0, 0]] * 3, "o": [[0, 0]] * 3, "c": True}
        b = {**a, "v": [[0, 0], [60, 0], [0, 60]]}
        it = [
            {"ty": "sh", "ks": keys((0, [a]), (60, [b]))},
            {"ty": "st", "c": keys((0, [1, 0, 0, 1]), (60, [0, 0, 1, 1])), "w": keys((0, 1), (60, 9)), "o": fixed(100)},
            {"ty": "tm", "s": fixed(0), "e": keys((0, 0), (60, 100)), "o": fixed(0)},
        ]
        box = {
            "ty": "gr",
            "nm": "B",
            "it": [
                {"ty": "rc", "p": fixed([0, 0]), "s": keys((0, [20, 20]), (60, [40, 20]))},
                {"ty": "fl", "c": fixed([0, 0, 0, 1])},
            ],
        }
        found = read(document({**rectangle(), "shapes": [{"ty": "gr", "nm": "Line", "it": it}, box]}))
        names = sorted(loop.name.split()[-1] for loop in found.frame.loops)
        self.assertEqual(names, ["colour", "shape", "size", "trim", "width"])
        wide = next(loop for loop in found.frame.loops if loop.name.endswith("size"))
        self.assertEqual((wide.changes.w, wide.offset.shift_x), (40.0, -10.0))


class ThereAndBack(unittest.TestCase):
    def test_our_own_deliveries_come_back_to_the_pixel(self) -> None:
        project = shipped_demo()
        for part in project.parts:
            if not pose_of(part).loops:
                continue
            program = compile_still(pose_of(part), as_stage(project, part))
            delivery = lottie(program, project, QtLetters(), Wanted(name=part.name))
            if delivery.report.left_out:
                continue  # what was not delivered cannot come back
            found = read_lottie(next(iter(delivery.files.values())), part.name)
            again = compile_still(found.frame)
            with self.subTest(part.name):
                for ms in (0.0, 400.0, 1100.0):
                    one, other = (
                        rgba(ScenePainter(assets).render(p.from_start(ms), 1.0)).astype(float)
                        for p, assets in ((program, project.assets), (again, found.assets))
                    )
                    h, w = min(one.shape[0], other.shape[0]), min(one.shape[1], other.shape[1])
                    self.assertLess(float(np.abs(one[:h, :w] - other[:h, :w]).mean()), 0.5)


class Named(unittest.TestCase):
    def says(self, *layers: Json, **more: Any) -> str:
        return " ".join(note.says for note in read(document(*layers, **more)).frame.source.notes)

    def test_what_has_no_place_is_named(self) -> None:
        self.assertIn("effects", self.says({**rectangle(), "ef": [{"ty": 21}]}))
        self.assertIn("kind 13", self.says({"ty": 13, "nm": "Camera", "ks": {}}))
        self.assertIn(
            "outside", self.says({"ty": 2, "refId": "x", "ks": {}}, assets=[{"id": "x", "u": "img/", "p": "a.png"}])
        )
        self.assertIn("expression", self.says(rectangle(r={**keys((0, 0), (60, 9)), "x": "time*3"})))
        self.assertIn("takes away", self.says({**rectangle(), "masksProperties": [{"mode": "s", "pt": fixed({})}]}))
        self.assertIn("composition", self.says({"ty": 0, "refId": "gone", "ks": {}}))
        self.assertIn(
            "'rp'", self.says({**rectangle(), "shapes": [{"ty": "rp", "c": fixed(3)}, *rectangle()["shapes"]]})
        )

    def test_what_is_none_is_refused_in_a_sentence(self) -> None:
        for value in (
            b"{",
            b"[]",
            b'{"layers": 3}',
            json.dumps({**document(), "op": 0}).encode(),
            json.dumps({**document(), "fr": "x"}).encode(),
        ):
            with self.assertRaises(FormatError):
                read_lottie(value, "bad")
        circle = [{"id": "c", "layers": [{"ty": 0, "refId": "c", "ks": {}, "ind": 1}]}]
        with self.assertRaises(FormatError):
            read(document({"ty": 0, "refId": "c", "ks": {}}, assets=circle))

    def test_damaged_files_are_refused_or_sound(self) -> None:
        whole = document(rectangle(p=keys((0, [0, 0]), (60, [9, 9])), o=keys((0, 100), (60, 0))), rectangle())
        chance = random.Random(5)
        odd: list[Any] = [None, "x", -1, 1e308, [], {}, [[]], True, float(10**9)]

        def spoil(value: Any) -> Any:
            if isinstance(value, dict) and value:
                key = chance.choice(list(value))
                return {**value, key: spoil(value[key]) if chance.random() < 0.8 else chance.choice(odd)}
            if isinstance(value, list) and value:
                k = chance.randrange(len(value))
                return [*value[:k], spoil(value[k]) if chance.random() < 0.8 else chance.choice(odd), *value[k + 1 :]]
            return chance.choice(odd)

        for _ in range(400):
            made = spoil(spoil(copy.deepcopy(whole)))
            try:
                found = read(made)
            except AveltError:
                continue
            check(add_frames(new_project("p"), [found.frame], found.assets))

    def test_it_comes_in_as_a_screen_and_not_onto_the_shelf(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "wave.json"
            path.write_text(json.dumps(document(rectangle(r=keys((0, 0), (60, 90))))))
            found = read_screen(path)
            self.assertEqual((found.frame.name, len(found.frame.loops)), ("wave", 1))
            made = add_frames(new_project("p"), [found.frame], found.assets)
            self.assertEqual(made.frames[0].loops[0].layer, made.frames[0].layers[0].id)
            check(made)
            with self.assertRaises(FormatError) as caught:
                from_text(path.read_text(), "pasted")
        self.assertIn("Import screens", str(caught.exception))


if __name__ == "__main__":
    unittest.main()
