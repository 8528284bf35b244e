"""The view models: rows, values, cells and strips as pure functions, looked at without a widget."""

import unittest
from typing import Any

import msgspec

from avelt.core.edits.routes import add_route, set_cue, set_trigger
from avelt.core.errors import AveltError
from avelt.core.model.curves import Line, Named, Spring
from avelt.core.model.find import find_frame, find_layer, layer_index
from avelt.core.model.motion import CueKey
from avelt.core.model.triggers import Timer
from avelt.core.model.values import Cue, Linear, Loop, Pose, Solid, Stop, Transition
from avelt.core.timing.compile import compile_route
from avelt.demo.build import build_demo
from avelt.window.frames.values import set_from_text, value_rows
from avelt.window.loops.strip import pieces, shown_time
from avelt.window.routes.cells import table_of
from avelt.window.timing.rows import Wanted, arranged, moving_properties, says, sheet_rows
from tests.support import box, group, oval, project_of, text

replace = msgspec.structs.replace


def rows_of(project: Any, opened: Any = frozenset()) -> Any:
    route = project.routes[0]
    return sheet_rows(project, route, compile_route(project, route), frozenset(opened))


class SheetRows(unittest.TestCase):
    def setUp(self) -> None:
        left = (
            box("same", 0, 0, 9, 9, name="Same"),
            box("a", 10, 10, 20, 20, "#ff0000", name="Card"),
            text("t", "hi", 0, 0, 10, name="Label"),
            box("out", 50, 50, 9, 9, "#123123", name="Goes away"),
        )
        right = (
            box("same2", 0, 0, 9, 9, name="Same"),
            box("b", 60, 10, 20, 40, "#0000ff", name="Card"),
            text("u", "hi", 0, 0, 20, name="Label"),
        )
        self.project = project_of(left, right)

    def test_only_what_changes_is_listed_with_its_role(self) -> None:
        rows = rows_of(self.project)
        self.assertEqual(
            [(r.left_name, r.right_name, r.role) for r in rows],
            [("Card", "Card", "both"), ("Label", "Label", "both"), ("Goes away", "leaves", "leaves")],
        )

    def test_an_opened_layer_shows_its_properties_with_both_values(self) -> None:
        rows = {r.prop: (r.left_value, r.right_value) for r in rows_of(self.project, {("a", "b")}) if r.prop}
        self.assertEqual(
            rows, {"position": ("10, 10", "60, 10"), "size": ("20×20", "20×40"), "fill": ("#ff0000", "#0000ff")}
        )
        rows = {r.prop: (r.left_value, r.right_value) for r in rows_of(self.project, {("t", "u")}) if r.prop}
        self.assertEqual(rows["type"], ("10", "20"))
        rows = {r.prop: (r.left_value, r.right_value) for r in rows_of(self.project, {("out", None)}) if r.prop}
        self.assertEqual(rows, {"opacity": ("100 %", "0 %")})

    def test_own_and_inherited_are_told_apart(self) -> None:
        project = set_cue(self.project, "R", CueKey("a", "b", "size"), start=10.0, curve=Spring(0.1))
        rows = {r.prop: r.timed for r in rows_of(project, {("a", "b")}) if r.ends == ("a", "b")}
        self.assertEqual(
            [(rows[p].own_time, rows[p].own_curve) for p in ("", "position", "size")],
            [(False, False), (False, False), (True, True)],
        )
        self.assertEqual((rows["size"].start, rows["size"].end, rows["position"].start), (10, 100, 0))

    def test_layers_inside_fold_unless_they_have_a_cue_of_their_own(self) -> None:
        def card(p: Any, x: Any) -> Any:
            return group(
                p,
                x,
                0,
                (box(p + "1", 0, x / 10, 9, 9, name="In one"), box(p + "2", 20 + x / 10, 0, 9, 9, name="In two")),
                name="Card",
            )

        project = project_of((card("a", 0),), (card("b", 100),))
        self.assertEqual([r.left_name for r in rows_of(project)], ["Card"])
        self.assertEqual(
            [r.left_name for r in rows_of(project, {("a", "b")}) if not r.prop], ["Card", "In one", "In two"]
        )
        project = set_cue(project, "R", CueKey("a2", "b2", ""), start=5.0)
        self.assertEqual([(r.left_name, r.depth) for r in rows_of(project)], [("Card", 0), ("In two", 1)])

    def test_a_sentence_about_a_cue(self) -> None:
        self.assertEqual(
            says(self.project, self.project.routes[0], CueKey("a", "b", "")),
            "Card is 40 % there after 40 % of its time",
        )

    def test_gradients_and_reshaping_count_as_fill_and_shape(self) -> None:
        fill = Linear((Stop(0, "#fff"), Stop(1, "#000")))
        left, right = replace(box("a", 0, 0, 9, 9, name="x"), fills=(fill,)), box("b", 0, 0, 9, 9, "#fff", name="x")
        project = project_of((left,), (right,))
        self.assertEqual(moving_properties(compile_route(project, project.routes[0])), {0: ("fill",)})

    def test_the_demo_lists_each_of_its_cues(self) -> None:
        project = build_demo()
        listed = {row.ends for row in rows_of(project)}
        self.assertLessEqual({(cue.from_id, cue.to_id) for cue in project.routes[0].transition.cues}, listed)


class Arranging(unittest.TestCase):
    def setUp(self) -> None:
        self.project = build_demo()
        self.route = self.project.routes[0]
        program = compile_route(self.project, self.route)
        self.rows = sheet_rows(self.project, self.route, program, frozenset(), True)

    def names(self, **wanted: Any) -> Any:
        return [(row.left_name, row.right_name) for row in arranged(self.rows, Wanted(**wanted))]

    def test_search_looks_into_folded_groups_and_at_both_names(self) -> None:
        self.assertEqual(self.names(words="sun"), [("Grey Stack sun", "Grey Stack sun")])
        self.assertIn(("Grey Stack name", "Island"), self.names(words="ISLAND"))
        self.assertEqual(self.names(words="nothing of the sort"), [])

    def test_kinds_of_rows(self) -> None:
        self.assertTrue(all(right == "leaves" for _, right in self.names(show="leaves")))
        self.assertTrue(all(left == "enters" for left, _ in self.names(show="enters")))
        own = arranged(self.rows, Wanted(show="own"))
        self.assertEqual(
            {row.ends for row in own},
            {(c.from_id, c.to_id) for c in self.route.transition.cues} & {r.ends for r in self.rows},
        )
        every = sum(len(self.names(show=kind)) for kind in ("both", "leaves", "enters"))
        self.assertEqual(every, len(self.names()))

    def test_sorting_by_start_and_by_place(self) -> None:
        starts = [row.timed.start for row in arranged(self.rows, Wanted(sort="start"))]
        self.assertEqual(starts, sorted(starts))
        tops = [row.top for row in arranged(self.rows, Wanted(sort="position"))]
        self.assertEqual(tops, sorted(tops))
        self.assertEqual({row.depth for row in arranged(self.rows, Wanted(sort="position"))}, {0})

    def test_properties_stay_behind_their_layer(self) -> None:
        program = compile_route(self.project, self.route)
        opened = frozenset(row.ends for row in self.rows)
        rows = sheet_rows(self.project, self.route, program, opened, True)
        for sort in ("order", "start", "position"):
            last = None
            for row in arranged(rows, Wanted(sort=sort)):
                last = row.ends if not row.prop else last
                self.assertEqual(row.ends, last)

    def test_a_box_that_becomes_an_oval_is_listed(self) -> None:
        project = project_of((box("a", 0, 0, 10, 10, name="x"),), (oval("b", 0, 0, 30, 30, name="x"),))
        self.assertEqual(moving_properties(compile_route(project, project.routes[0])), {0: ("size", "fill", "shape")})


class ValueTable(unittest.TestCase):
    def setUp(self) -> None:
        self.project = build_demo()
        self.frame = find_frame(self.project, "Sailings")

    def rows(self, name: str) -> Any:
        layer = find_layer(self.frame, name)
        return {row.name: row for row in value_rows(self.project, self.frame, layer)}

    def test_a_column_a_frame_and_what_differs_from_the_left(self) -> None:
        rows = self.rows("Grey Stack time")
        self.assertEqual([cell.text for cell in rows["type"].cells], ["27", "46", "44", "—", "—", "—", "23", "—", "—"])
        self.assertEqual(
            [cell.differs for cell in rows["type"].cells], [False, True, True, False, False, False, True, False, False]
        )
        self.assertEqual(rows["fill"].cells[0].swatch, "#16323a")
        self.assertNotIn("corner", rows)

    def test_frames_without_it_have_a_dash(self) -> None:
        cells_of = self.rows("Sandray card")["position"].cells
        self.assertEqual([(cell.text, bool(cell.layer_id)) for cell in cells_of[1:]], [("—", False)] * 8)

    def test_typed_values_are_read_where_they_belong(self) -> None:
        layer = find_layer(self.frame, "Grey Stack paper")
        for name, typed, field, wanted in (
            ("size", "300 x 100", "w", 300),
            ("opacity", "25%", "opacity", 0.25),
            ("opacity", "0.5", "opacity", 0.5),
            ("rotation", "360°", "rotation", 360),
            ("scale", "150 %", "scale_y", 1.5),
            ("name", " Paper ", "name", "Paper"),
            ("fill", "teal", "fills", (Solid("#008080"),)),
            ("fill", "none", "fills", ()),
        ):
            with self.subTest(name=name, typed=typed):
                new = set_from_text(self.project, self.frame.id, layer.id, name, typed)
                self.assertEqual(getattr(layer_index(find_frame(new, "Sailings"))[layer.id], field), wanted)

    def test_nonsense_is_refused(self) -> None:
        layer = find_layer(self.frame, "Grey Stack paper")
        for name, typed in (
            ("position", "here"),
            ("position", "1"),
            ("size", "1,2,3"),
            ("fill", "blurple"),
            ("rotation", ""),
            ("type", "12"),
        ):
            with self.subTest(name=name, typed=typed), self.assertRaises(AveltError):
                set_from_text(self.project, self.frame.id, layer.id, name, typed)


class MatrixCells(unittest.TestCase):
    def test_what_a_cell_says(self) -> None:
        project = project_of((box("a", 0, 0, 9, 9, name="x"),), (box("b", 0, 0, 9, 9, name="x"),))
        project = set_trigger(project, "R", Timer(1500.0))
        project, second = add_route(project, "A", "B", transition=Transition(80.0, Named("buoy")))
        found = table_of(project).cells["A", "B"]
        self.assertEqual(
            (found[0].trigger, found[0].on, found[0].wait, found[0].length), ("timer", "after 1.5 s", 1500, 100)
        )
        self.assertEqual((found[1].route_id, found[1].on, found[1].trouble), (second, "anywhere", ()))
        self.assertEqual(found[1].curve, Spring(0.35))


class Strips(unittest.TestCase):
    def loop(self, **own: Any) -> Loop:
        return Loop("O", "O", "a", "x", Pose(), 100.0, curve=Line(), **own)

    def test_rounds_with_their_waits(self) -> None:
        each = self.loop(wait=40.0, wait_when="before each round")
        self.assertEqual(
            pieces(each, 200.0),
            [("waits", 0, 40), ("there", 40, 90), ("back", 90, 140), ("waits", 140, 180), ("there", 180, 200)],
        )
        once = self.loop(wait=40.0, direction="one way", rounds=1)
        self.assertEqual(pieces(once, 300.0), [("waits", 0, 40), ("there", 40, 140), ("rests", 140, 300)])

    def test_a_strip_is_never_endless_to_draw(self) -> None:
        self.assertLessEqual(len(pieces(replace(self.loop(), duration=1.0), 1e9)), 402)

    def test_three_rounds_are_shown(self) -> None:
        self.assertEqual(shown_time((self.loop(),), self.loop()), 300)
        self.assertEqual(shown_time((), None), 3000)
        self.assertEqual(shown_time((self.loop(wait=50.0, rounds=1),), None), 200)

    def test_a_cue_is_empty_only_without_anything_of_its_own(self) -> None:
        self.assertTrue(Cue("a", "b").empty)
        self.assertFalse(Cue("a", "b", curve=Line()).empty)
