"""What a drag means on the board, without any widget: gestures, handles, marks that hold, tools, picking."""

import math
import unittest
from typing import Any

import msgspec
import numpy as np
from hypothesis import assume, given
from hypothesis import strategies as st

from avelt.core.edits.shapes import new_path
from avelt.core.geometry import affine, arc
from avelt.core.geometry.flatten import flatten
from avelt.core.geometry.place import local_of
from avelt.core.model.find import layer_index
from avelt.core.model.values import Conic, Frame, Linear, Path, Project, Radial, Stop
from avelt.window.common.picking import hit
from avelt.window.frames import gestures, picking
from avelt.window.frames.gestures import Keys
from avelt.window.frames.handles import GRIPS, HINTS, Handle, Shown, handles, nearest_handle
from avelt.window.frames.snapping import Marks, marks_of, snapped, snapped_point
from avelt.window.frames.tools import TOOLS, Pen, drawn, put
from tests.support import box, group, oval

replace = msgspec.structs.replace
STOPS = (Stop(0, "#ff0000"), Stop(0.5, "#00ff00"), Stop(1, "#0000ff"))
FREE = Keys(alt=True)
NO_MARKS = Marks((), ())


def project(*layers: Any, **own: Any) -> Project:
    return Project("P", frames=(Frame("F", "F", 200, 200, layers=layers, **own),), next_id=50)


def after(gesture: Any, work: Project, dx: float, dy: float, keys: Any = FREE) -> Project:
    return gesture.edit(dx, dy, keys)(work)


def corners(work: Project, ident: str) -> np.ndarray:
    flat = flatten(work.frames[0])
    return flat.corners(flat.index[ident])


class Moving(unittest.TestCase):
    def setUp(self) -> None:
        self.work = project(
            group("g", 10, 10, (box("a", 0, 0, 40, 30),), scale_x=2.0, rotation=20.0), box("b", 100, 100, 20, 20)
        )

    def move(self, ids: Any, dx: Any, dy: Any, keys: Any = FREE, marks: Any = NO_MARKS, near: Any = 5.0) -> Any:
        return after(gestures.Move("m", self.work.frames[0], ids, marks, near), self.work, dx, dy, keys)

    @given(st.floats(-80, 80), st.floats(-80, 80))
    def test_it_goes_as_far_as_the_pointer_whatever_it_lies_in(self, dx: Any, dy: Any) -> None:
        work = self.move(["a"], dx, dy)
        np.testing.assert_allclose(corners(work, "a") - corners(self.work, "a"), np.tile((dx, dy), (4, 1)), atol=1e-6)

    def test_shift_keeps_to_the_longer_way(self) -> None:
        work = self.move(["b"], 30, 12, Keys(shift=True, alt=True))
        self.assertEqual((layer_index(work.frames[0])["b"].x, layer_index(work.frames[0])["b"].y), (130, 100))

    def test_several_go_together_and_ctrl_leaves_them_there(self) -> None:
        work = self.move(["g", "b"], 7, 9)
        np.testing.assert_allclose(corners(work, "b")[0], (107, 109))
        np.testing.assert_allclose(corners(work, "a") - corners(self.work, "a"), np.tile((7.0, 9.0), (4, 1)), atol=1e-6)
        copied = self.move(["b"], 7, 9, Keys(ctrl=True, alt=True))
        self.assertEqual(len(copied.frames[0].layers), 3)
        np.testing.assert_allclose(corners(copied, "b")[0], (100, 100))

    def test_an_edge_near_a_mark_is_held_and_says_by_which(self) -> None:
        gesture = gestures.Move("m", self.work.frames[0], ["b"], Marks((50.0,), (10.0,)), 5.0)
        work = gesture.edit(-53, -60, Keys())(self.work)
        self.assertEqual(corners(work, "b")[0][0], 50.0)
        self.assertEqual((gesture.caught.lines_x, gesture.caught.lines_y), ((50.0,), ()))

    def test_the_same_gesture_goes_back_to_where_it_began(self) -> None:
        gesture = gestures.Move("m", self.work.frames[0], ["a"], NO_MARKS, 5.0)
        there = gesture.edit(40, 40, FREE)(self.work)
        back = gesture.edit(0, 0, FREE)(there)
        np.testing.assert_allclose(corners(back, "a"), corners(self.work, "a"), atol=1e-9)


class Resizing(unittest.TestCase):
    def size(self, layer: Any, grip: Any, dx: Any, dy: Any, keys: Any = FREE, marks: Any = NO_MARKS) -> Any:
        work = project(layer)
        found = gestures.Resize("r", work.frames[0], layer, grip, marks, 5.0)
        return work, after(found, work, dx, dy, keys)

    @given(st.sampled_from(GRIPS), st.floats(-180, 180), st.floats(-15, 15), st.floats(-15, 15))
    def test_the_point_across_stays_however_it_is_turned(self, grip: Any, turn: Any, dx: Any, dy: Any) -> None:
        layer = box("a", 50, 60, 60, 40, rotation=turn)
        before, now = self.size(layer, grip, dx, dy)
        across = {(0, 0): 2, (1, 0): 3, (1, 1): 0, (0, 1): 1}.get(grip)
        if across is not None:
            np.testing.assert_allclose(corners(now, "a")[across], corners(before, "a")[across], atol=1e-6)
        self.assertAlmostEqual(now.frames[0].layers[0].rotation, turn, places=6)

    def test_an_upright_side_follows_the_pointer(self) -> None:
        _, now = self.size(box("a", 50, 60, 60, 40), (1, 0.5), 25, 99)
        self.assertEqual((now.frames[0].layers[0].w, now.frames[0].layers[0].h), (85, 40))

    def test_never_smaller_than_a_px(self) -> None:
        for grip in GRIPS:
            _, now = self.size(box("a", 50, 60, 60, 40), grip, 500 * (1 - 2 * grip[0]), 500 * (1 - 2 * grip[1]))
            self.assertGreaterEqual(min(now.frames[0].layers[0].w, now.frames[0].layers[0].h), 1.0)

    @given(st.floats(-30, 60), st.floats(-30, 60))
    def test_shift_keeps_the_proportions(self, dx: Any, dy: Any) -> None:
        _, now = self.size(oval("a", 50, 60, 60, 40), (1, 1), dx, dy, Keys(shift=True, alt=True))
        made = now.frames[0].layers[0]
        self.assertAlmostEqual(made.w / made.h, 1.5, places=6)
        self.assertEqual((made.x, made.y), (50, 60))

    def test_ctrl_grows_from_the_middle(self) -> None:
        before, now = self.size(box("a", 50, 60, 60, 40, rotation=30.0), (1, 0.5), 9, 5, Keys(ctrl=True, alt=True))
        np.testing.assert_allclose(corners(now, "a").mean(0), corners(before, "a").mean(0), atol=1e-6)

    def test_a_side_slides_along_with_ctrl_and_shift(self) -> None:
        before, now = self.size(box("a", 50, 60, 60, 40), (0.5, 1), 20, 0, Keys(ctrl=True, shift=True, alt=True))
        moved = corners(now, "a") - corners(before, "a")
        np.testing.assert_allclose(moved, [(0, 0), (0, 0), (20, 0), (20, 0)], atol=1e-6)
        before, now = self.size(box("a", 50, 60, 60, 40), (1, 0.5), 0, 12, Keys(ctrl=True, shift=True, alt=True))
        np.testing.assert_allclose((corners(now, "a") - corners(before, "a"))[[0, 3]], 0, atol=1e-6)
        np.testing.assert_allclose((corners(now, "a") - corners(before, "a"))[1], (0, 12), atol=1e-6)


class TurningAndPivots(unittest.TestCase):
    def test_turning_is_about_the_pivot_and_goes_on(self) -> None:
        layer = box("a", 50, 50, 60, 40, pivot=(0.0, 0.0))
        work = project(layer)
        gesture = gestures.Turn("t", work.frames[0], layer, (150.0, 50.0))
        for degrees in range(0, 721, 30):
            a = math.radians(degrees)
            now = gesture.edit(100 * math.cos(a) - 100, 100 * math.sin(a), FREE)(work)
        self.assertEqual(now.frames[0].layers[0].rotation, 720.0)
        np.testing.assert_allclose(corners(now, "a")[0], (50, 50), atol=1e-6)

    def test_shift_turns_by_steps(self) -> None:
        layer = box("a", 50, 50, 60, 40)
        work = project(layer)
        gesture = gestures.Turn("t", work.frames[0], layer, (180.0, 70.0))
        turned = gesture.edit(0, 37, Keys(shift=True))(work).frames[0].layers[0].rotation
        self.assertEqual(turned % 15, 0)
        self.assertGreater(turned, 0)

    @given(st.floats(-90, 90), st.floats(-60, 60), st.floats(-60, 60))
    def test_a_pivot_moves_nothing_else(self, turn: Any, dx: Any, dy: Any) -> None:
        layer = box("a", 50, 60, 60, 40, rotation=turn, scale_y=1.5)
        work = project(layer)
        now = after(gestures.Pivot("p", work.frames[0], layer), work, dx, dy)
        np.testing.assert_allclose(corners(now, "a"), corners(work, "a"), atol=0.02)

    def test_it_holds_at_nine_points_unless_told_not_to(self) -> None:
        layer = box("a", 0, 0, 100, 100)
        work = project(layer)
        held = after(gestures.Pivot("p", work.frames[0], layer), work, -48, 47, Keys())
        self.assertEqual(held.frames[0].layers[0].pivot, (0.0, 1.0))
        free = after(gestures.Pivot("p", work.frames[0], layer), work, -48, 47, FREE)
        self.assertEqual(free.frames[0].layers[0].pivot, (0.02, 0.97))


class Shaping(unittest.TestCase):
    def test_corners_grow_inwards_from_each_of_the_four(self) -> None:
        layer = box("a", 0, 0, 100, 60)
        for corner, (dx, dy) in enumerate(((10, 10), (-10, 10), (-10, -10), (10, -10))):
            work = project(layer)
            one = after(gestures.Corner("c", work.frames[0], layer, corner), work, dx, dy, FREE)
            radii = one.frames[0].layers[0].body.radii
            self.assertEqual([r > 0 for r in radii], [k == corner for k in range(4)])
            every = after(gestures.Corner("c", work.frames[0], layer, corner), work, dx * 50, dy * 50, Keys())
            self.assertEqual(every.frames[0].layers[0].body.radii, (30.0,) * 4)

    def test_gradient_ends_follow_and_stops_stay_in_order(self) -> None:
        for paint in (Linear(STOPS), Radial(STOPS), Conic(STOPS)):
            layer = replace(box("a", 20, 20, 100, 50), fills=(paint,))
            work = project(layer)
            shown = {h.kind: h for h in handles(Shown(work.frames[0], layer, 1.0, "fill"))}
            gesture = gestures.GradientEnd("g", work.frames[0], layer, "fill", "end", -1, shown["end"].at, 1.0)
            now = after(gesture, work, 12, -7)
            made = now.frames[0].layers[0]
            there = next(h for h in handles(Shown(now.frames[0], made, 1.0, "fill")) if h.kind == "end")
            np.testing.assert_allclose(there.at, np.add(shown["end"].at, (12, -7)), atol=1e-6)
        layer = replace(box("a", 0, 0, 100, 50), fills=(Linear(STOPS),))
        work = project(layer)
        gesture = gestures.GradientEnd("g", work.frames[0], layer, "fill", "stop", 1, (50.0, 0.0), 1.0)
        self.assertEqual(after(gesture, work, 400, 0).frames[0].layers[0].fills[0].stops[1].at, 1.0)
        self.assertEqual(len(after(gesture, work, 0, 40).frames[0].layers[0].fills[0].stops), 2)

    def test_a_smooth_nodes_handles_turn_together_unless_alt(self) -> None:
        pen = Pen("F")
        for spot, ahead in (((0, 0), (10, 0)), ((50, 0), (60, 10)), ((100, 40), (110, 40))):
            pen.press(spot, 1.0)
            pen.bend(ahead)
        layer = replace(pen.layer(False), id="a", origin="a")
        work = project(layer)
        points = np.array(layer.body.subpaths[0].points).reshape(-1, 2)
        at = affine.apply(local_of(layer), points[4])
        gesture = gestures.NodeMove("n", work.frames[0], layer, 0, 4, True, (float(at[0]), float(at[1])))
        turned = after(gesture, work, 0, 20, Keys()).frames[0].layers[0]
        loose = after(gesture, work, 0, 20, FREE).frames[0].layers[0]

        def angle(made: Any) -> Any:
            found = np.array(made.body.subpaths[0].points).reshape(-1, 2)
            a, b = found[3] - found[2], found[4] - found[3]
            return abs(math.degrees(math.atan2(a[0] * b[1] - a[1] * b[0], float(a @ b))))

        self.assertLess(angle(turned), 0.1)
        self.assertGreater(angle(loose), 10)

    def test_guides_come_go_and_hold(self) -> None:
        work = project(box("a", 30, 0, 20, 20), guides_x=(80.0,))
        frame = work.frames[0]
        new = gestures.GuideMove("g", frame, "x", None, 0.0, marks_of(frame, ()), 4.0)
        self.assertEqual(new.edit(52, 0, Keys())(work).frames[0].guides_x, (50.0, 80.0))
        moved = gestures.GuideMove("g", frame, "x", 80.0, 80.0, NO_MARKS, 4.0)
        self.assertEqual(moved.edit(-20, 0, FREE)(work).frames[0].guides_x, (60.0,))
        self.assertEqual(moved.edit(-200, 0, FREE)(work).frames[0].guides_x, ())


class MarksAndHandles(unittest.TestCase):
    @given(st.floats(-100, 100), st.lists(st.floats(-200, 200), max_size=6), st.floats(0.5, 10))
    def test_nothing_is_pulled_further_than_near(self, travel: Any, places: Any, near: Any) -> None:
        found = snapped((10, 10, 30, 20), travel, travel, Marks(tuple(places), tuple(places)), near)
        self.assertLessEqual(abs(found.dx - travel), near)
        if found.lines_x:
            edges = [10 + found.dx, 25 + found.dx, 40 + found.dx]
            self.assertLess(min(abs(edge - found.lines_x[0]) for edge in edges), 1e-6)

    def test_the_grid_takes_what_nothing_else_holds(self) -> None:
        self.assertEqual(snapped((3, 3, 10, 10), 6, 0, Marks((), (), 8.0), 2.0).dx, 5.0)
        self.assertEqual(snapped_point(13, 5, Marks((12.0,), ()), 2.0).dx, 12.0)

    def test_marks_are_those_beside_and_of_the_frame(self) -> None:
        work = project(
            group("g", 10, 10, (box("a", 0, 0, 10, 10), box("b", 20, 0, 10, 10))),
            box("c", 123, 0, 10, 10, hidden=True),
            guides_y=(33.0,),
        )
        marks = marks_of(work.frames[0], ["a"])
        self.assertIn(30.0, marks.x)
        self.assertNotIn(123.0, marks.x)
        self.assertIn(33.0, marks.y)

    def test_locked_layers_and_tilted_ones(self) -> None:
        locked = box("a", 10, 10, 100, 80, locked=True)
        self.assertEqual(handles(Shown(project(locked).frames[0], locked, 1.0)), [])
        leaning = box("a", 10, 10, 100, 80, rotation_y=50.0)
        frame = project(leaning).frames[0]
        grip = next(h for h in handles(Shown(frame, leaning, 1.0)) if h.data == (1, 1))
        np.testing.assert_allclose(grip.at, corners(Project("P", frames=(frame,)), "a")[2], atol=1e-9)

    def test_every_kind_of_handle_has_a_hint(self) -> None:
        layer = box("a", 10, 10, 100, 80)
        kinds = {h.kind for h in handles(Shown(project(layer).frames[0], layer, 1.0, pivot=True))}
        self.assertEqual(kinds, {"grip", "rotation", "pivot", "corner"})
        self.assertLessEqual(kinds | {"start", "end", "stop", "node", "handle"}, set(HINTS))

    def test_the_pivot_is_there_only_when_it_is_shown_on_purpose(self) -> None:
        for layer in (box("a", 10, 10, 300, 300), box("a", 10, 10, 30, 30, pivot=(0.0, 1.0))):
            for shown in (False, True):
                kinds = {h.kind for h in handles(Shown(project(layer).frames[0], layer, 1.0, pivot=shown))}
                self.assertEqual("pivot" in kinds, shown)

    def test_the_nearest_wins(self) -> None:
        found = [Handle("pivot", (0, 0)), Handle("grip", (6, 0))]
        self.assertEqual(nearest_handle(found, 2.5, 0, 9).kind, "pivot")
        self.assertEqual(nearest_handle(found, 3.5, 0, 9).kind, "grip")
        self.assertIsNone(nearest_handle(found, 50, 0, 9))


class Tools(unittest.TestCase):
    def test_drags_of_each_tool_in_all_four_directions(self) -> None:
        for sx in (1, -1):
            for sy in (1, -1):
                made = drawn("box", (100, 100), (100 + 30 * sx, 100 + 20 * sy), Keys())
                self.assertEqual(
                    (made.x, made.y, made.w, made.h), (100 if sx > 0 else 70, 100 if sy > 0 else 80, 30, 20)
                )
        square = drawn("oval", (0, 0), (30, 20), Keys(shift=True))
        self.assertEqual((square.kind, square.w, square.h), ("oval", 30, 30))
        around = drawn("box", (50, 50), (60, 55), Keys(ctrl=True))
        self.assertEqual((around.x, around.y, around.w, around.h), (40, 45, 20, 10))
        self.assertIsNone(drawn("pen", (0, 0), (5, 5), Keys()))

    def test_a_line_by_steps(self) -> None:
        for end, wanted in (((50, 6), (50, 0)), ((6, 50), (0, 50)), ((50, 44), (50, 50))):
            line = drawn("line", (0, 0), end, Keys(shift=True))
            self.assertEqual((line.w, line.h), wanted)

    @given(st.lists(st.tuples(st.integers(0, 100), st.integers(0, 100)), min_size=3, max_size=6, unique=True))
    def test_the_pen_goes_through_its_corners(self, spots: Any) -> None:
        assume(all(abs(a[0] - spots[0][0]) + abs(a[1] - spots[0][1]) > 20 for a in spots[1:]))
        pen = Pen("F")
        for spot in spots:
            self.assertFalse(pen.press(spot, 1.0))
        self.assertTrue(pen.press(spots[0], 1.0))
        points = np.array(pen.points(True))
        np.testing.assert_allclose(points[::3], [*spots, spots[0]])
        self.assertIsNone(Pen("F").layer(False))

    def test_what_is_drawn_lies_on_top_with_a_name_of_its_own(self) -> None:
        work = put("F", drawn("box", (0, 0), (9, 9), Keys()))(project(box("a", 0, 0, 5, 5, name="Box")))[0]
        self.assertEqual([layer.name for layer in work.frames[0].layers], ["Box", "Box 2"])
        self.assertEqual(len({tool for tool, *_ in TOOLS}), len(TOOLS))


class Picking(unittest.TestCase):
    def setUp(self) -> None:
        cards = tuple(
            group(f"c{k}", 10, 10 + 60 * k, (box(f"p{k}", 0, 0, 180, 50), oval(f"o{k}", 10, 10, 20, 20)))
            for k in range(3)
        )
        self.frame = project(box("ground", 0, 0, 200, 200), group("list", 0, 0, cards)).frames[0]

    def hit(self, x: Any, y: Any, chosen: Any = (), deep: Any = False) -> Any:
        found = hit(self.frame, x, y, chosen, deep)
        return found.id if found else None

    def test_groups_first_then_what_is_chosen_then_one_deeper(self) -> None:
        self.assertEqual(self.hit(30, 30), "c0")  # the list fills the frame: it is a container
        self.assertEqual(self.hit(30, 30, deep=True), "o0")
        self.assertEqual(self.hit(30, 30, ["o0"]), "o0")
        self.assertEqual(self.hit(30, 30, ["ground"]), "c0")  # what lies on top, whatever is chosen
        self.assertIsNone(self.hit(300, 300))

    def test_a_chosen_layer_is_held_by_its_outline(self) -> None:
        for x, y, wanted in ((0.5, 100, "ground"), (100, 199, "ground"), (30, 30, None), (198, 198, "ground")):
            found = picking.on_outline(self.frame, x, y, ["ground"], 2.5)
            self.assertEqual(found.id if found else None, wanted, (x, y))
        self.assertIsNone(picking.on_outline(self.frame, 0.5, 100, [], 2.5))
        self.assertIsNone(picking.on_outline(self.frame, 0.5, 100, ["gone"], 2.5))

    def test_locked_layers_let_clicks_through(self) -> None:
        frame = replace(self.frame, layers=(self.frame.layers[0], replace(self.frame.layers[1], locked=True)))
        self.assertEqual(hit(frame, 30, 30, ()).id, "ground")

    def test_one_deeper_beside_and_inside(self) -> None:
        self.assertEqual(self.hit(30, 30, ["c0"], True), "o0")
        self.assertEqual(self.hit(30, 30, ["list"], True), "c0")
        self.assertEqual(self.hit(30, 30, ["o0"], True), "o0")
        cards = layer_index(self.frame)
        self.assertEqual(picking.beside(self.frame, cards["c2"], 1).id, "c0")
        self.assertEqual(picking.beside(self.frame, None, 1).id, "list")
        self.assertEqual(picking.inside(self.frame, (-1, -1, 202, 202)), ["ground", "list"])
        self.assertEqual(picking.inside(self.frame, (50, 50, 20, 20)), [])

    def test_thin_lines_can_be_hit(self) -> None:
        line = replace(new_path([(0, 50), (30, 50), (60, 50), (90, 50)], False), id="l", origin="l")
        self.assertEqual(hit(project(line).frames[0], 40, 52, ()).id, "l")
        self.assertIsNone(hit(project(line).frames[0], 40, 58, ()))

    def test_nodes_are_walked_over_all_parts(self) -> None:
        layer = replace(new_path([(0, 0), (1, 0), (2, 0), (3, 0), (3, 1), (3, 2), (3, 3)], False), id="l")
        order, node = [], None
        for _ in range(4):
            node = picking.next_node(layer, node, 1)
            order.append(node)
        self.assertEqual(order, [(0, 0), (0, 1), (0, 2), (0, 0)])
        self.assertIsInstance(layer.body, Path)
        self.assertAlmostEqual(arc.length(np.array(layer.body.subpaths[0].points).reshape(-1, 2)), 6.0)
