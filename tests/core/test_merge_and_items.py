"""One tree out of two, and scenes as things to paint."""

import unittest
from typing import Any

import msgspec
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.model.curves import Line
from avelt.core.model.values import Box, Frame, Group, Linear, Radial, Settled, Solid, Stop, Stroke, Transition
from avelt.core.pairing.engine import pair_frames
from avelt.core.running.hits import slots_at
from avelt.core.timing.compile import compile_frames, compile_route, compile_still
from avelt.core.timing.items import items
from avelt.core.timing.merge import merge
from tests.support import box, group, oval, project_of, text

replace = msgspec.structs.replace
letters = st.lists(st.sampled_from("abcdefgh"), unique=True, max_size=8)


def row(prefix: str, names: Any) -> tuple[Any, ...]:
    """A flat row of named boxes; the name is the origin."""
    return tuple(box(prefix + name, 10 * k, 0, 9, 9, name=name, origin=name) for k, name in enumerate(names))


class Merging(unittest.TestCase):
    @given(letters, letters)
    def test_every_layer_has_one_slot_and_both_orders_keep_their_frames_order(self, left: Any, right: Any) -> None:
        pairing = pair_frames(Frame("A", "A", layers=row("l", left)), Frame("B", "B", layers=row("r", right)))
        merged = merge(pairing.joined)
        self.assertEqual(len(merged.slots), len(left) + len(right) - len(pairing.pairs))
        for order, side, names in ((merged.before, "left", left), (merged.after, "right", right)):
            placed = order.get(-1, ())
            self.assertEqual(sorted(placed), list(range(len(merged.slots))))
            rows = [getattr(merged.slots[s], side) for s in placed if getattr(merged.slots[s], side) >= 0]
            self.assertEqual(rows, list(range(len(names))))

    def test_what_enters_stands_right_above_what_it_covers(self) -> None:
        pairing = pair_frames(Frame("A", "A", layers=row("l", "abc")), Frame("B", "B", layers=row("r", "axbcy")))
        merged = merge(pairing.joined)
        flat = pairing.right.flat
        names = [flat.layers[merged.slots[s].right].name for s in merged.before[-1]]
        self.assertEqual(names, list("axbcy"))

    def test_parents_come_before_children(self) -> None:
        left = (group("g", 0, 0, (box("a", 0, 0, 9, 9, name="In"),), name="Card"), box("c", 0, 0, 9, 9, name="Out"))
        right = (group("h", 0, 0, (box("d", 0, 0, 9, 9, name="Out"),), name="Card"), box("b", 0, 0, 9, 9, name="In"))
        merged = merge(pair_frames(Frame("A", "A", layers=left), Frame("B", "B", layers=right)).joined)
        for s, slot in enumerate(merged.slots):
            self.assertLess(slot.parent, s)
        self.assertEqual(sum(slot.lifted for slot in merged.slots), 2)


class Items(unittest.TestCase):
    def still(self, *layers: Any) -> Any:
        return items(compile_still(Frame("F", "F", 100, 100, layers=tuple(layers))).at(0.0))

    def test_what_cannot_be_seen_is_left_out(self) -> None:
        seen = box("a", 0, 0, 9, 9)
        found = self.still(seen, replace(box("b", 0, 0, 9, 9), hidden=True), replace(box("c", 0, 0, 9, 9), opacity=0.0))
        self.assertEqual([item.layer.id for item in found], ["a"])
        self.assertTrue(found[0].still)

    def test_outlines_radii_and_pens(self) -> None:
        (item,) = self.still(
            replace(
                box("a", 0, 0, 20, 10),
                body=Box((99,) * 4),
                stroke=Stroke(Solid("#fff"), 3.0, "round", "bevel", 4, (5, 2), 1.0),
            )
        )
        self.assertEqual(item.radii, (5.0,) * 4)
        self.assertEqual((item.pen.width, item.pen.cap, item.pen.dashes, item.pen.offset), (3, "round", (5, 2), 1))
        self.assertEqual(item.outline[0][0].shape, (25, 2))
        (item,) = self.still(oval("o", 0, 0, 20, 10))
        np.testing.assert_allclose(item.outline[0][0].max(0), (20, 10))

    def test_a_stroke_without_width_or_paint_is_none(self) -> None:
        (item,) = self.still(replace(box("a", 0, 0, 9, 9), stroke=Stroke(Solid("#fff"), 0.0)))
        self.assertIsNone(item.pen)
        (item,) = self.still(replace(box("a", 0, 0, 9, 9), stroke=Stroke(Solid("transparent"), 2.0)))
        self.assertIsNone(item.pen)

    def test_clear_fills_are_left_out(self) -> None:
        (item,) = self.still(box("a", 0, 0, 9, 9, "rgb(0 0 0 / 0)"))
        self.assertEqual(item.fills, [])

    def test_a_mask_is_not_among_the_children(self) -> None:
        inner = (box("m", 0, 0, 9, 9), box("a", 0, 0, 9, 9))
        (item,) = self.still(replace(group("g", 0, 0, inner), body=Group(inner, mask="m")))
        self.assertEqual((item.mask.layer.id, [child.layer.id for child in item.children]), ("m", ["a"]))

    def test_linear_to_radial_shows_both_on_the_way(self) -> None:
        stops = (Stop(0, "#fff"), Stop(1, "#000"))
        left, right = (
            replace(box("a", 0, 0, 9, 9, name="x"), fills=(Linear(stops),)),
            replace(box("b", 0, 0, 9, 9, name="x"), fills=(Radial(stops),)),
        )
        project = project_of((left,), (right,))
        program = compile_route(project, project.routes[0])
        for ms, kinds in ((0.0, ["linear"]), (50.0, ["linear", "radial"]), (100.0, ["radial"])):
            self.assertEqual([brush.kind for brush in items(program.at(ms))[0].fills], kinds)

    def test_other_kinds_are_cross_faded_in_one_box(self) -> None:
        settled = (Settled("a", "b", "cross-fade"),)
        project = project_of(
            (box("a", 0, 0, 10, 10, name="x"),),
            (oval("b", 0, 0, 30, 30, name="x"),),
            Transition(100.0, Line(), settled=settled),
        )
        first, second = items(compile_route(project, project.routes[0]).at(50.0))
        self.assertEqual((first.layer.kind, second.layer.kind, first.w, second.w), ("box", "oval", 20, 20))
        self.assertAlmostEqual(first.opacity + second.opacity, 1.0)

    def test_a_stroke_that_only_one_side_has_fades_at_its_width(self) -> None:
        left = replace(box("a", 0, 0, 9, 9, name="x"), stroke=Stroke(Solid("#ff0000"), 4.0))
        project = project_of((left,), (box("b", 0, 0, 9, 9, name="x"),))
        (item,) = items(compile_route(project, project.routes[0]).at(50.0))
        self.assertEqual(item.pen.width, 4)
        self.assertAlmostEqual(float(item.pen.brush.colours[0, 3]), 0.5)

    def test_frames_of_other_sizes_and_grounds_go_over(self) -> None:
        a, b = Frame("A", "A", 100, 50, "#000000"), Frame("B", "B", 300, 150, "#ffffff")
        program = compile_frames(None, a, b, Transition(100.0, Line()))
        scene = program.at(50.0)
        self.assertEqual(scene.size, (200, 100))
        self.assertTrue(0.3 < scene.background[0] < 0.5)
        self.assertEqual([program.at(ms).background[0] for ms in (0.0, 100.0)], [0, 1])


class Hits(unittest.TestCase):
    def scene(self, *layers: Any) -> Any:
        return compile_still(Frame("F", "F", 100, 100, layers=tuple(layers))).at(0.0)

    def test_the_topmost_layer_and_what_it_lies_in(self) -> None:
        scene = self.scene(
            box("back", 0, 0, 100, 100), group("g", 20, 20, (box("in", 0, 0, 20, 20), text("t", "x", 50, 50)))
        )
        names = [scene.program.contents[slot].layer.id for slot in slots_at(scene, 25, 25)]
        self.assertEqual(names, ["in", "g"])
        self.assertEqual([scene.program.contents[s].layer.id for s in slots_at(scene, 95, 5)], ["back"])
        self.assertEqual(slots_at(scene, 500, 5), ())

    def test_clear_and_flat_layers_are_not_hit(self) -> None:
        scene = self.scene(
            box("a", 0, 0, 50, 50),
            replace(box("b", 0, 0, 50, 50), opacity=0.0),
            replace(box("c", 0, 0, 50, 50), scale_x=0.0),
        )
        self.assertEqual([scene.program.contents[s].layer.id for s in slots_at(scene, 10, 10)], ["a"])

    @given(st.floats(-180, 180), st.floats(0.3, 3))
    def test_turned_layers_are_hit_in_their_middle(self, turn: Any, scale: Any) -> None:
        scene = self.scene(replace(box("a", 30, 40, 20, 10), rotation=turn, scale_x=scale, scale_y=scale))
        self.assertEqual(slots_at(scene, 40, 45), (0,))
