"""Grouping, masks, order, copies: nothing moves on screen by them, and undo gives back the same value."""

import unittest
from itertools import pairwise
from typing import Any

import msgspec
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.edits.arrange import align, boxes_in_frame, distribute, move_layers_by, repeat
from avelt.core.edits.clip import copied, from_bytes, pasted, to_bytes
from avelt.core.edits.layers import set_value
from avelt.core.edits.loops import add_loop
from avelt.core.edits.routes import set_cue
from avelt.core.edits.structure import (
    carry,
    duplicate,
    fit_groups,
    group_layers,
    move_layers,
    remove_layers,
    reorder,
    topmost_chosen,
    ungroup,
    unmask,
    use_as_mask,
)
from avelt.core.errors import AveltError, EditError
from avelt.core.formats.svg_in import read_svg
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import layer_index, walk
from avelt.core.model.motion import CueKey
from avelt.core.pairing.engine import pair_frames
from avelt.core.timing.compile import compile_route
from avelt.window.timing.rows import moving_properties
from tests.support import box, group, oval, project_of

replace = msgspec.structs.replace


def scene(turn: Any = 30.0) -> Any:
    inner = group(
        "g", 20, 30, (box("a", 0, 0, 30, 20, rotation=turn), oval("b", 40, 10, 20, 20)), rotation=15.0, scale_x=1.5
    )
    return project_of((box("low", 0, 0, 90, 90), inner, box("top", 100, 5, 20, 20)), (box("z", 0, 0, 5, 5),))


def worlds(project: Any, ids: Any = ("a", "b", "low", "top")) -> Any:
    flat = flatten(project.frames[0])
    return np.array([flat.world[flat.index[ident]] for ident in ids])


def order(project: Any) -> Any:
    return [layer.id for layer in walk(project.frames[0].layers)]


class Groups(unittest.TestCase):
    @given(st.floats(-300, 300), st.sets(st.sampled_from(["a", "b", "low", "top"]), min_size=1))
    def test_grouping_and_ungrouping_leave_everything_where_it_is(self, turn: Any, chosen: Any) -> None:
        project = scene(turn)
        grouped, ident = group_layers(project, "A", sorted(chosen))
        np.testing.assert_allclose(worlds(grouped), worlds(project), atol=1e-6)
        freed = ungroup(grouped, "A", ident)
        np.testing.assert_allclose(worlds(freed), worlds(project), atol=1e-6)
        self.assertNotIn(ident, order(freed))

    def test_a_group_stands_where_its_topmost_stood_and_has_a_name_of_its_own(self) -> None:
        project, ident = group_layers(scene(), "A", ["low", "b"])
        self.assertEqual(order(project), ["g", "a", ident, "low", "b", "top"])
        self.assertEqual(layer_index(project.frames[0])[ident].name, "Group 2")

    def test_ungrouping_hands_opacity_on_and_drops_what_hung_on_the_group(self) -> None:
        project = scene()
        project, _ = add_loop(project, "A", "g")
        project = set_cue(project, "R", CueKey("g", None, ""), start=10.0)
        project = replace(
            project,
            frames=(
                replace(project.frames[0], layers=tuple(replace(x, opacity=0.5) for x in project.frames[0].layers)),
                project.frames[1],
            ),
        )
        freed = ungroup(project, "A", "g")
        self.assertEqual(layer_index(freed.frames[0])["b"].opacity, 0.5)
        self.assertEqual((freed.frames[0].loops, freed.routes[0].transition.cues), ((), ()))

    def test_what_lies_in_a_chosen_group_is_not_chosen_twice(self) -> None:
        self.assertEqual(topmost_chosen(scene().frames[0], ["b", "g", "top"]), ["g", "top"])

    def test_only_groups_can_be_taken_apart(self) -> None:
        with self.assertRaisesRegex(EditError, "is a box"):
            ungroup(scene(), "A", "low")

    def test_groups_follow_what_they_hold_and_nothing_moves_by_it(self) -> None:
        project = move_layers_by(scene(0.0), "A", ["a"], 60, 25)
        fitted = fit_groups(project, "A", ["a"])
        np.testing.assert_allclose(worlds(fitted), worlds(project), atol=1e-6)
        flat = flatten(fitted.frames[0])
        held = layer_index(fitted.frames[0])["g"]
        np.testing.assert_allclose(
            (held.w, held.h), np.array([(c.x + c.w, c.y + c.h) for c in held.children]).max(0), atol=1e-6
        )
        self.assertIs(fit_groups(fitted, "A", ["a"]), fitted)
        self.assertEqual(len(flat.layers), 5)
        clipped = project_of((group("g", 0, 0, (box("a", 0, 0, 9, 9),), clips=True),), ())
        moved = move_layers_by(clipped, "A", ["a"], 50, 0)
        self.assertIs(fit_groups(moved, "A", ["a"]), moved)


class Masks(unittest.TestCase):
    def test_the_topmost_masks_the_others_until_it_is_let_go(self) -> None:
        project, ident = use_as_mask(scene(), "A", ["low", "top"])
        body = layer_index(project.frames[0])[ident].body
        self.assertEqual((body.mask, [c.id for c in body.children]), ("top", ["low", "top"]))
        self.assertEqual(layer_index(unmask(project, "A", ident).frames[0])[ident].body.mask, "")
        with self.assertRaises(EditError):
            use_as_mask(scene(), "A", ["low"])

    def test_taking_the_mask_out_of_its_group_ends_it(self) -> None:
        project, ident = use_as_mask(scene(), "A", ["low", "top"])
        moved = move_layers(project, "A", ["top"], "", 0)
        self.assertEqual(layer_index(moved.frames[0])[ident].body.mask, "")
        self.assertEqual(order(moved)[0], "top")


class Order(unittest.TestCase):
    def test_steps_and_ends(self) -> None:
        project = scene()
        self.assertEqual(order(reorder(project, "A", ["low"], "up")), ["g", "a", "b", "low", "top"])
        self.assertEqual(order(reorder(project, "A", ["low", "a"], "top")), ["g", "b", "a", "top", "low"])
        self.assertIs(reorder(project, "A", ["top"], "up"), project)

    @given(st.permutations(["low", "g", "top"]), st.integers(0, 3))
    def test_moving_into_a_group_keeps_the_place_on_screen(self, ids: Any, place: Any) -> None:
        project = scene()
        moved = move_layers(project, "A", [i for i in ids[:2] if i != "g"], "g", place)
        np.testing.assert_allclose(worlds(moved), worlds(project), atol=1e-6)

    def test_not_into_itself(self) -> None:
        with self.assertRaisesRegex(EditError, "itself"):
            move_layers(scene(), "A", ["g"], "g", 0)


class Copies(unittest.TestCase):
    def test_a_duplicate_is_a_thing_of_its_own_right_above(self) -> None:
        project, (ident,) = duplicate(scene(), "A", ["g"], 10, 5)
        index = layer_index(project.frames[0])
        copy = index[ident]
        self.assertEqual((copy.name, copy.origin, len(copy.children)), ("g 2", ident, 2))
        self.assertEqual((copy.x - index["g"].x, copy.y - index["g"].y), (10, 5))
        ids = order(project)
        self.assertEqual((len(ids), len(set(ids)), ids[4]), (8, 8, ident))

    def test_a_carried_layer_pairs_for_certain_at_the_same_place(self) -> None:
        project = carry(scene(), "A", ["g"], ["B"])
        left, right = project.frames
        pairing = pair_frames(left, right, ())
        by_origin = {pair.from_id for pair in pairing.pairs if pair.by == "origin"}
        self.assertEqual(by_origin, {"g", "a", "b"})
        flat_a, flat_b = flatten(left), flatten(right)
        np.testing.assert_allclose(flat_b.world[flat_b.index[pairing.to_of["b"]]], flat_a.world[flat_a.index["b"]])
        with self.assertRaisesRegex(EditError, "already"):
            carry(project, "A", ["g"], ["B"])

    def test_carried_into_the_relative_of_its_group(self) -> None:
        project = carry(scene(), "A", ["g"], ["B"])
        there = next(x for x in project.frames[1].layers if x.origin == "g")
        project = remove_layers(project, "B", [there.children[0].id])
        project = carry(project, "A", ["a"], ["B"])
        there = next(x for x in project.frames[1].layers if x.origin == "g")
        self.assertEqual([child.origin for child in there.children], ["b", "a"])

    def test_copy_and_paste_between_frames_and_projects(self) -> None:
        project = scene()
        clip = from_bytes(to_bytes(copied(project, "A", ["a", "top"])))
        same, ids = pasted(project, "A", clip, 4, 4)
        index = layer_index(same.frames[0])
        self.assertEqual([index[i].origin for i in ids], list(ids))
        other, ids = pasted(project, "B", clip)
        self.assertEqual([layer_index(other.frames[1])[i].origin for i in ids], ["a", "top"])
        flat, there = flatten(project.frames[0]), flatten(other.frames[1])
        np.testing.assert_allclose(there.world[there.index[ids[0]]], flat.world[flat.index["a"]], atol=1e-9)
        foreign, ids = pasted(project_of((), ()), "A", clip)
        self.assertNotIn("a", {layer.origin for layer in foreign.frames[0].layers})

    def test_nonsense_on_the_clipboard_is_refused(self) -> None:
        for data in (
            b"",
            b"{}",
            b"[1]",
            b'{"layers":[{"id":"a","origin":"a","name":"a","body":{"kind":"box"},"w":-1}]}',
            b"\xff",
        ):
            with self.assertRaises(AveltError):
                from_bytes(data)

    def test_removing_several(self) -> None:
        self.assertEqual(order(remove_layers(scene(), "A", ["g", "a", "top"])), ["low"])


class Arranging(unittest.TestCase):
    IDS = ("low", "g", "top")

    def test_edges_line_up(self) -> None:
        for how, side in (("left", 0), ("top", 1)):
            project = align(scene(), "A", self.IDS, how)
            self.assertEqual(len({round(b[side], 6) for b in boxes_in_frame(project.frames[0], self.IDS)}), 1)
        project = align(scene(), "A", self.IDS, "right")
        self.assertEqual(len({round(b[0] + b[2], 6) for b in boxes_in_frame(project.frames[0], self.IDS)}), 1)

    def test_one_alone_lines_up_with_its_frame(self) -> None:
        (found,) = boxes_in_frame(align(scene(), "A", ["top"], "centre").frames[0], ["top"])
        self.assertEqual(found[0] + found[2] / 2, 100)

    @given(st.lists(st.integers(0, 150), min_size=3, max_size=5))
    def test_gaps_become_equal_and_the_outer_two_stay(self, places: Any) -> None:
        layers = tuple(box(f"l{k}", x, 0, 10 + k, 10) for k, x in enumerate(places))
        ids = [layer.id for layer in layers]
        order = sorted(ids, key=lambda i: places[int(i[1:])] + (10 + int(i[1:])) / 2)
        project = distribute(project_of(layers, ()), "A", ids, 0)
        boxes = boxes_in_frame(project.frames[0], order)
        gaps = [b[0] - a[0] - a[2] for a, b in pairwise(boxes)]
        np.testing.assert_allclose(gaps, gaps[0], atol=1e-6)

    def test_a_grid(self) -> None:
        project, made = repeat(scene(), "A", "top", 3, 2, 4, 6)
        boxes = boxes_in_frame(project.frames[0], ["top", *made])
        self.assertEqual([b[:2] for b in boxes], [(100, 5), (124, 5), (148, 5), (100, 31), (124, 31), (148, 31)])
        with self.assertRaises(EditError):
            repeat(scene(), "A", "top", 0, 5, 0, 0)


class MaskBoxes(unittest.TestCase):
    """A masked group has the box of its mask, not of its contents."""

    def picture(self, x: float, w: float) -> Any:
        inner = (
            f'<defs><clipPath id="window"><rect x="20" y="20" width="{w}" height="60"/></clipPath></defs>'
            f'<g id="photo" clip-path="url(#window)"><rect id="sky" x="{x}" y="0" width="180" height="120"/>'
            f'<circle id="sun" cx="{x + 60}" cy="50" r="14" fill="#fc0"/></g>'
        )
        text = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 200 200">{inner}</svg>'
        return read_svg(text.encode(), "Photo").frame.layers

    def moving(self, left: Any, right: Any) -> Any:
        project = project_of(left, right)
        program = compile_route(project, project.routes[0])
        return {program.contents[s].layer.name: props for s, props in moving_properties(program).items()}

    def test_a_resting_mask_makes_no_cue(self) -> None:
        (photo,) = self.picture(0, 100)
        self.assertEqual((photo.x, photo.y, photo.w, photo.h), (20, 20, 100, 60))
        moved = self.moving(self.picture(0, 100), self.picture(-40, 100))
        self.assertEqual(moved, {"sky": ("position",), "sun": ("position",)})

    def test_a_mask_that_grows_in_one_direction_does_only_that(self) -> None:
        left, right = self.picture(0, 100), self.picture(0, 150)
        self.assertEqual(self.moving(left, right), {"photo": ("size",), "window": ("size",)})
        project = project_of(left, right)
        program = compile_route(project, project.routes[0])
        mask = next(s for s in range(len(program.contents)) if program.contents[s].layer.name == "window")
        widths = [tuple(program.at(ms).scalars[mask, 2:4].tolist()) for ms in (0.0, 50.0, 100.0)]
        self.assertEqual(widths, [(100, 60), (125, 60), (150, 60)])

    def test_made_by_hand_moved_and_given_up(self) -> None:
        layers = (box("ground", 0, 0, 200, 200), box("hole", 50, 60, 40, 30))
        project, ident = use_as_mask(project_of(layers, ()), "A", ["ground", "hole"])
        group = layer_index(project.frames[0])[ident]
        self.assertEqual((group.x, group.y, group.w, group.h), (50, 60, 40, 30))
        flat = flatten(project.frames[0])
        self.assertEqual(flat.bounds[flat.index["ground"]].tolist(), [0, 0, 200, 200])
        moved = fit_groups(set_value(project, "A", "hole", "w", 80), "A", ["hole"])
        self.assertEqual(layer_index(moved.frames[0])[ident].w, 80)
        group = layer_index(unmask(moved, "A", ident).frames[0])[ident]
        self.assertEqual((group.x, group.y, group.w, group.h), (0, 0, 200, 200))
