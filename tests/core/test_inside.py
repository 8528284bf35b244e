"""Scenes in scenes: what stands in a slot is drawn there, moves by its own clocks, and is hit by a path."""

from __future__ import annotations

import unittest
from dataclasses import dataclass
from typing import Any

from msgspec.structs import replace

from avelt.core.model.curves import Line
from avelt.core.model.values import Frame, Transition
from avelt.core.running.hits import path_at
from avelt.core.timing.compile import compile_frames, compile_still
from avelt.core.timing.items import items
from avelt.core.timing.program import Scene
from avelt.core.timing.resting import Resting, Shown, drawing_of
from tests.support import box


@dataclass
class Nested:
    """A box at 100, 50 in which a frame with two boxes stands."""

    scene: Scene
    child: Scene


def nested(ground: str = "#ffffff00", **own: Any) -> Nested:
    child = compile_still(
        Frame("C", "C", 60, 40, ground, False, layers=(box("low", 0, 0, 60, 40), box("top", 10, 10, 20, 20)))
    ).at(0.0)
    frame = Frame("F", "F", 300, 200, layers=(box("back", 0, 0, 300, 200), box("use", 100, 50, 60, 40, **own)))
    return Nested(replace(compile_still(frame).at(0.0), inside={1: child}), child)


class Inside(unittest.TestCase):
    def test_its_items_are_the_children_of_the_slots(self) -> None:
        made = items(nested().scene)
        self.assertEqual([item.layer.name for item in made], ["back", "use"])
        self.assertEqual([item.layer.name for item in made[1].children], ["low", "top"])
        self.assertIsNone(made[1].outline)
        self.assertEqual(items(compile_still(nested().scene.program.left).at(0.0))[1].children, [])

    def test_a_background_lies_beneath_and_a_frame_that_clips_does_so(self) -> None:
        use = items(nested("#0000ff").scene)[1]
        lowest = use.children[0]
        self.assertEqual((len(lowest.fills), lowest.w, lowest.h), (1, 60.0, 40.0))
        self.assertEqual((len(use.children), use.clips), (3, False))
        made = nested()
        left = replace(made.child.program.left, clips=True)
        clipped = replace(made.scene, inside={1: compile_still(left).at(0.0)})
        self.assertTrue(items(clipped)[1].clips)

    def test_hits_give_the_path_innermost_first(self) -> None:
        scene = nested().scene
        self.assertEqual(path_at(scene, 115, 65), ((1, 1), (1,)))
        self.assertEqual(path_at(scene, 102, 52), ((1, 0), (1,)))
        self.assertEqual(path_at(scene, 5, 5), ((0,),))
        self.assertEqual(path_at(scene, 500, 5), ())

    def test_a_turned_slot_turns_what_is_hit(self) -> None:
        scene = nested(rotation=180.0).scene
        self.assertEqual(path_at(scene, 115, 65)[0], (1, 0))
        self.assertEqual(path_at(scene, 145, 75)[0], (1, 1))

    def test_scenes_nest_further(self) -> None:
        deep = nested()
        scene = replace(deep.scene, inside={1: replace(deep.child, inside={1: deep.child})})
        self.assertEqual(path_at(scene, 111, 61), ((1, 1, 0), (1, 1), (1,)))

    def test_what_stands_inside_is_kept_by_itself_as_long_as_it_is_the_same(self) -> None:
        left = nested().scene.program.left
        right = replace(left, id="R", layers=(*left.layers[:1], left.layers[1], box("new", 0, 0, 5, 5)))
        program = compile_frames(None, left, right, Transition(100.0, Line()))
        plain = drawing_of(program.at(50.0)).parts
        self.assertEqual([type(part) for part in plain], [Resting, Shown])
        slot = program.slot_of("use", "use")
        child = nested().child

        def drawn(inner: Scene) -> tuple[Resting | Shown, ...]:
            return drawing_of(replace(program.at(50.0), inside={slot: inner})).parts

        parts = drawn(child)
        self.assertEqual([type(part) for part in parts], [Resting, Resting, Shown])
        assert isinstance(parts[1], Resting)
        self.assertEqual([placed.item.slot for placed in parts[1].placed], [slot])
        self.assertIs(drawn(child)[1], parts[1])
        other = drawn(replace(child, vector=child.vector * 0.5))
        self.assertIs(other[0], parts[0])
        self.assertIsNot(other[1], parts[1])


class Large(unittest.TestCase):
    def test_ten_thousand_layers_are_laid_out_and_drawn(self) -> None:
        def frame(ident: str, x: float) -> Frame:
            many = tuple(box(f"{ident}{k}", k % 97, k % 89, 3, 3, name=f"N{k}", origin=str(k)) for k in range(9_999))
            return Frame(ident, ident, 100, 100, layers=(*many, box(ident, x, 0, 9, 9, name="Moves", origin="m")))

        program = compile_frames(None, frame("L", 0.0), frame("R", 50.0), Transition(100.0, Line()))
        parts = drawing_of(program.at(50.0)).parts
        resting, shown = parts
        assert isinstance(resting, Resting) and isinstance(shown, Shown)
        self.assertEqual((len(resting.placed), len(shown.items)), (9_999, 1))
        self.assertEqual(shown.items[0].matrix[4], 25.0)
        self.assertEqual(len(items(compile_still(program.left).at(0.0))), 10_000)


if __name__ == "__main__":
    unittest.main()
