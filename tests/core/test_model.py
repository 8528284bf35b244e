"""Finding things, and trees made anew that share what stays."""

import unittest
from typing import Any

import msgspec
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.errors import AveltError, FormatError, NotFound
from avelt.core.model.find import by_identity, frame_by_id, frame_of_layer, layer_index, route_by_id, walk
from avelt.core.model.tree import change_layers, map_layers
from avelt.core.model.values import KIND_WORDS, Box, Frame, Group, Layer, Oval, Path, Picture, Run, Text, Use
from tests.support import box, group, project_of

replace = msgspec.structs.replace


@st.composite
def trees(draw: Any, depth: int = 3) -> Any:
    """Layers with unique ids, some of them groups."""
    counter = draw(st.shared(st.builds(lambda: iter(range(10**6))), key="ids"))

    def layer(level: int) -> Layer:
        ident = f"n{next(counter)}"
        if level and draw(st.booleans()):
            return group(ident, 0, 0, tuple(layer(level - 1) for _ in range(draw(st.integers(0, 3)))))
        return box(ident, 0, 0, 9, 9)

    return tuple(layer(depth) for _ in range(draw(st.integers(0, 4))))


class Trees(unittest.TestCase):
    @given(trees(), st.data())
    def test_only_the_branch_of_a_change_is_new(self, layers: Any, data: Any) -> None:
        everything = list(walk(layers))
        if not everything:
            self.assertIs(map_layers(layers, {"x": lambda layer: layer}), layers)
            return
        chosen = data.draw(st.sampled_from(everything)).id
        new = map_layers(layers, {chosen: lambda layer: replace(layer, x=7.0)})
        on_the_way = {layer.id for layer in everything if chosen in {e.id for e in walk((layer,))}}
        before, after = {e.id: e for e in walk(layers)}, {e.id: e for e in walk(new)}
        self.assertEqual(list(before), list(after))
        for ident, layer in after.items():
            self.assertEqual(layer is before[ident], ident not in on_the_way)
        self.assertEqual(after[chosen].x, 7.0)

    @given(trees(), st.data())
    def test_taking_a_layer_out_takes_what_is_in_it(self, layers: Any, data: Any) -> None:
        everything = list(walk(layers))
        if not everything:
            return
        chosen = data.draw(st.sampled_from(everything))
        new = map_layers(layers, {chosen.id: lambda layer: None})
        gone = {chosen.id, *(e.id for e in walk(chosen.children))}
        self.assertEqual([e.id for e in walk(new)], [e.id for e in everything if e.id not in gone])

    def test_no_change_is_the_same_frame(self) -> None:
        frame = Frame("F", "F", layers=(box("a", 0, 0, 9, 9),))
        self.assertIs(change_layers(frame, {"other": lambda layer: replace(layer, x=1.0)}), frame)


class Finding(unittest.TestCase):
    def setUp(self) -> None:
        self.project = project_of((box("a", 0, 0, 9, 9),), (group("g", 0, 0, (box("b", 0, 0, 9, 9),)),))

    def test_by_id(self) -> None:
        self.assertEqual(frame_by_id(self.project, "B").name, "B")
        self.assertEqual(route_by_id(self.project, "R").leaves, "A")
        self.assertEqual(frame_of_layer(self.project, "b").id, "B")
        self.assertIsNone(frame_of_layer(self.project, "z"))
        for find in (frame_by_id, route_by_id):
            with self.assertRaises(NotFound):
                find(self.project, "z")

    def test_an_index_is_made_once_a_frame(self) -> None:
        self.assertIs(layer_index(self.project.frames[0]), layer_index(self.project.frames[0]))
        same = replace(self.project.frames[0])
        self.assertIsNot(layer_index(same), layer_index(self.project.frames[0]))

    def test_remembering_is_by_identity_and_bounded(self) -> None:
        calls = []
        remembered = by_identity(lambda value: calls.append(value) or len(calls))
        first = ["same"]
        self.assertEqual((remembered(first), remembered(first), remembered(["same"])), (1, 1, 2))
        many = [[k] for k in range(2000)]
        for entry in many:
            remembered(entry)
        self.assertGreater(remembered(first), 1)

    def test_every_body_has_its_word(self) -> None:
        bodies = (Box(), Oval(), Path(), Text((Run("x"),)), Picture("a"), Group(), Use("P"))
        self.assertEqual([Layer("i", "i", "n", body).kind for body in bodies], list(KIND_WORDS.values()))

    def test_errors_carry_place_and_hint(self) -> None:
        error = FormatError("It is wrong.", "line 3", "Try again.").at("file.svg")
        self.assertEqual(str(error), "file.svg, line 3: It is wrong. Try again.")
        self.assertIsInstance(error, FormatError)
        self.assertIsInstance(error, AveltError)
