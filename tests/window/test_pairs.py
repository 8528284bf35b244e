"""Pairs: trees, threads, settling, ghosts dragged by their grips, ways to leave and enter, contents."""

import math
import unittest
from typing import Any

from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtTest import QTest

from avelt.core.edits.frames import put_frame
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import find_frame, find_layer, find_route, layer_index
from avelt.core.model.tree import change_layers
from avelt.core.model.values import Away, Frame, Project, Run
from avelt.core.timing.compile import compile_route
from avelt.core.timing.leave_enter import WAYS
from avelt.core.timing.over import ends
from avelt.window.pairs.ghosts import dragged, ghost_of, outermost_alone
from avelt.window.pairs.threads import MANY
from tests.support import WindowCase, box, click, drag, pixel, send, type_into


class Station(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("pairs")
        self.settle()
        self.station = self.window.stations["pairs"]
        self.threads, self.sheet = self.station.threads, self.station.sheet
        self.left, self.right = self.project.frames[:2]

    def ident(self, frame: Frame, name: str) -> str:
        return find_layer(frame, name).id

    def spot(self, side: int, name: str) -> QPointF:
        frame = (self.left, self.right)[side]
        flat = flatten(frame)
        x, y, w, h = flat.bounds[flat.index[self.ident(frame, name)]]
        rect = self.threads.places()[side]
        return QPointF(
            rect.left() + (x + w / 2) * rect.width() / frame.w, rect.top() + (y + h / 2) * rect.height() / frame.h
        )

    def pose(self, layer_id: str) -> Away:
        return next(a.pose for a in self.workspace.route.transition.absents if a.layer == layer_id)


class Settling(Station):
    def test_why_apart_and_together_again(self) -> None:
        card, hero = self.ident(self.left, "Grey Stack card"), self.ident(self.right, "Hero card")
        self.station.choose("from", card)
        self.assertEqual(self.station.context.chosen.right, hero)
        self.assertGreater(len(self.sheet.bars.entries), 4)
        click(self.sheet.apart)
        self.assertNotIn(card, self.station.context.pairing.to_of)
        self.station.choose("from", card)
        self.assertIn("No partner", self.sheet.why.text())
        self.station.pair(card, hero)
        self.assertEqual(self.station.context.pairing.to_of[card], hero)
        self.assertEqual(next(p.by for p in self.station.context.pairing.pairs if p.from_id == card), "hand")
        self.window.do("undo")
        self.window.do("undo")
        self.assertEqual(self.workspace.route.transition.decisions, ())

    def test_dragging_from_frame_to_frame_pairs(self) -> None:
        drag(self.threads, self.spot(0, "Outer Holm time"), self.spot(1, "Price"))
        self.assertEqual(self.workspace.layer.name, "Outer Holm card")  # the group first, with a group
        self.window.do("undo")
        send(self.threads, QEvent.Type.MouseButtonDblClick, self.spot(0, "Outer Holm time"))
        drag(self.threads, self.spot(0, "Outer Holm time"), self.spot(1, "Price"))
        self.assertEqual(
            self.station.context.pairing.to_of[self.ident(self.left, "Outer Holm time")],
            self.ident(self.right, "Price"),
        )

    def drag_out(self, tree: Any, name: str, frame: Frame, where: QPoint) -> None:
        item = tree._items[self.ident(frame, name)]
        tree.scrollToItem(item)
        start = QPointF(tree.visualItemRect(item).center())
        view = tree.viewport()
        end = QPointF(view.mapFromGlobal(where))
        for kind, point in (
            (QEvent.Type.MouseButtonPress, start),
            (QEvent.Type.MouseMove, (start + end) / 2),
            (QEvent.Type.MouseMove, end),
            (QEvent.Type.MouseButtonRelease, end),
        ):
            send(view, kind, point)
        self.settle()

    def test_dragging_from_tree_to_tree_and_from_tree_to_frame(self) -> None:
        right = self.station.right_tree
        time, price = self.ident(self.left, "Grey Stack facts"), self.ident(self.right, "Price")
        item = right._items[price]
        right.scrollToItem(item)
        self.drag_out(
            self.station.left_tree,
            "Grey Stack facts",
            self.left,
            right.viewport().mapToGlobal(right.visualItemRect(item).center()),
        )
        self.assertEqual(self.station.context.pairing.to_of[time], price)
        arrow = self.ident(self.left, "Grey Stack arrow")
        where = self.threads.mapToGlobal(self.spot(1, "Price note").toPoint())
        self.drag_out(self.station.left_tree, "Grey Stack arrow", self.left, where)
        self.assertEqual(self.station.context.pairing.to_of[arrow], self.ident(self.right, "Price note"))

    def test_a_group_and_a_leaf_are_refused_with_a_sentence(self) -> None:
        self.station.pair(self.ident(self.left, "Header"), self.ident(self.right, "Price"))
        self.assertIn("group", self.window.said.text())

    def test_next_unsure_walks_and_trust_says_which(self) -> None:
        self.station.next_unsure()
        pair = next(p for p in self.station.context.pairing.pairs if p.from_id == self.station.context.chosen.left)
        self.assertLess(pair.confidence, 0.7)
        self.assertEqual(self.window.top.stations["pairs"].text(), "Pairs  1")
        type_into(self.station.trust, "0.96")
        count = sum(p.confidence < 0.96 for p in self.station.context.pairing.pairs)
        self.assertGreater(count, 1)
        self.assertIn(f"{count} to look at", self.station.summary.text())
        first = self.station.context.chosen
        QTest.keyClick(self.station, Qt.Key.Key_N)
        self.assertNotEqual(self.station.context.chosen, first)

    def test_accepting_what_is_sure_and_pairing_again(self) -> None:
        click(self.station.accept)
        sure = [p for p in self.station.context.pairing.pairs if p.by == "hand"]
        self.assertEqual(len(sure), 10)
        click(self.station.again)
        self.assertEqual(self.workspace.route.transition.decisions, ())

    def test_decisions_survive_a_rename_and_undo_comes_back(self) -> None:
        card, hero = self.ident(self.left, "Grey Stack card"), self.ident(self.right, "Hero card")
        self.station.pair(card, hero)
        self.workspace.do(
            "rename",
            lambda p: put_frame(
                p, change_layers(p.frames[0], {card: lambda e: __import__("msgspec").structs.replace(e, name="Zig")})
            ),
        )
        self.assertEqual(self.station.context.pairing.to_of[card], hero)

    def test_several_are_settled_together(self) -> None:
        tree, context = self.station.left_tree, self.station.context
        pairs = list(context.pairing.pairs)[:3]
        for k, pair in enumerate(pairs):
            item = tree._items[pair.from_id]
            tree.scrollToItem(item)
            keys = Qt.KeyboardModifier.ControlModifier if k else Qt.KeyboardModifier.NoModifier
            QTest.mouseClick(tree.viewport(), Qt.MouseButton.LeftButton, keys, tree.visualItemRect(item).center())
        self.assertEqual({entry.left for entry in context.every}, {p.from_id for p in pairs})
        self.assertEqual(set(self.station.right_tree.selected()), {p.to_id for p in pairs})
        self.assertIn("3 pairs chosen", self.sheet.why.text())
        click(self.sheet.apart)
        self.assertFalse({(p.from_id, p.to_id) for p in pairs} & set(context.pairing.to_of.items()))
        self.assertEqual(self.workspace.session.undo_label, "keep apart: 3")
        self.window.do("undo")
        header, lists = (self.ident(self.left, name) for name in ("Header", "Grey Stack arrow"))
        self.station.choose("from", header)
        self.station.choose_also("from", lists)
        self.assertEqual(context.singles, (header, lists))
        type_into(self.sheet.ways.fields["shift_x"], "33")
        absents = {e.layer: e.pose.shift_x for e in self.workspace.route.transition.absents}
        self.assertEqual([absents[ident] for ident in (header, lists)], [33, 33])
        click(self.sheet.ways.back)
        self.assertFalse({header, lists} & {e.layer for e in self.workspace.route.transition.absents})
        self.station.choose("from", pairs[0].from_id)
        self.station.choose_also("from", pairs[1].from_id)
        self.station.choose_also("from", pairs[0].from_id)
        self.assertEqual([entry.left for entry in context.every], [pairs[1].from_id])

    def test_choosing_shows_it_everywhere(self) -> None:
        click(self.threads, self.spot(0, "Grey Stack time"))
        self.assertEqual(self.workspace.layer.name, "Grey Stack card")
        send(self.threads, QEvent.Type.MouseButtonDblClick, self.spot(0, "Grey Stack time"))
        time = self.ident(self.right, "Time")
        self.assertEqual(self.station.context.chosen.right, time)
        self.assertEqual(self.station.right_tree.currentItem().text(0), "Time")
        self.assertEqual(self.workspace.layer.name, "Grey Stack time")
        self.assertIsNotNone(self.station._row_y("to", time))
        self.assertIn("size", self.sheet.changes.text())

    def test_another_candidate_is_looked_at(self) -> None:
        self.station.choose("from", self.ident(self.left, "Grey Stack card"))
        click(self.sheet.candidates[0])
        self.assertIn("might be", self.sheet.title.text())
        self.assertIn("If paired", self.sheet.changes_title.text())
        QTest.keyClick(self.station, Qt.Key.Key_P)
        self.assertEqual(
            next(p.by for p in self.station.context.pairing.pairs if p.from_id == self.station.context.chosen.left),
            "hand",
        )

    def test_many_pairs_show_only_the_chosen_threads(self) -> None:
        self.workspace.choose_route(find_route(self.project, "Sailings > Delay notice").id)
        self.assertGreater(len(self.station.context.pairing.pairs), MANY)
        left = ends(self.project, self.workspace.route)[0]
        self.station.choose("from", self.ident(left, "Grey Stack time"))
        self.assertFalse(self.threads.grab().isNull())


class Leaving(Station):
    def test_how_a_layer_leaves_is_typed(self) -> None:
        header = self.ident(self.left, "Header")
        self.station.choose("from", header)
        type_into(self.sheet.ways.fields["shift_y"], "-30")
        type_into(self.sheet.ways.fields["blur"], "6")
        type_into(self.sheet.ways.fields["cut"], "40")
        pose = self.pose(header)
        self.assertEqual((pose.shift_y, pose.opacity, pose.blur, pose.cut), (-30, 0, 6, (0, 0.4, 0, 0)))

    def test_every_ready_way_can_be_picked_alone_or_mixed(self) -> None:
        header = self.ident(self.left, "Header")
        self.station.choose("from", header)
        for way in WAYS:
            self.pick(self.sheet.ways.way, way.leaves)
            shown = next((a.pose for a in self.workspace.route.transition.absents if a.layer == header), None)
            self.assertEqual(shown, way.pose)
        self.pick(self.sheet.ways.way, "to the left edge")
        self.sheet.ways.mix.setChecked(True)
        self.pick(self.sheet.ways.way, "fades")
        self.assertEqual(self.pose(header), Away(edge="left", opacity=0.0))

    def test_a_way_for_all_and_one_that_keeps_its_own(self) -> None:
        header, tabs = self.ident(self.left, "Header"), self.ident(self.left, "Tab bar")
        self.station.choose("from", header)
        self.pick(self.sheet.ways.way, "to the right edge")
        click(self.sheet.ways.all)
        transition = self.workspace.route.transition
        self.assertEqual((transition.leave, self.pose(tabs)), (Away(edge="right"), Away(edge="bottom")))
        self.assertFalse([a for a in transition.absents if a.layer == header])
        self.assertEqual(self.sheet.ways.note.text(), "the shared one of all that leave")
        self.station.choose("from", tabs)
        click(self.sheet.ways.back)
        self.assertFalse([a for a in self.workspace.route.transition.absents if a.layer == tabs])

    def test_behind_a_named_layer(self) -> None:
        self.station.choose("from", self.ident(self.left, "Header"))
        behind = self.sheet.ways.behind
        place = behind.findData(self.ident(self.left, "Backdrop"))
        behind.setCurrentIndex(place)
        behind.activated.emit(place)
        program = self.workspace.program(self.workspace.route)
        order = [program.contents[s].layer.name for s in program.order_at(100.0)[-1]]
        self.assertLess(order.index("Header"), order.index("Backdrop"))
        self.assertEqual(program.contents[program.order_at(0.0)[-1][0]].layer.name, "Backdrop")


class Ghosts(Station):
    def setUp(self) -> None:
        super().setUp()
        self.header = self.ident(self.left, "Header")
        self.station.choose("from", self.header)

    def test_a_leaving_layers_ghost_stands_on_the_frame_arrived_at(self) -> None:
        ghost = self.threads.ghost
        self.assertEqual((ghost.side, ghost.layer.name, ghost.own), ("to", "Header", False))
        self.assertIn(self.header, outermost_alone(self.station.context.pairing))
        self.assertNotIn(self.ident(self.left, "Title"), outermost_alone(self.station.context.pairing))
        self.assertIsNone(
            ghost_of(
                self.workspace.program(self.workspace.route),
                self.station.context.pairing,
                self.workspace.route.transition,
                self.ident(self.left, "Grey Stack time"),
            )
        )

    def centre(self) -> QPointF:
        return self.threads._shape(self.threads.ghost).boundingRect().center()

    def test_dragging_the_ghost_is_one_entry_and_moves_the_motion(self) -> None:
        scale = self.threads.places()[1].width() / self.right.w
        drag(self.threads, self.centre(), self.centre() + QPointF(60, 24))
        pose = self.pose(self.header)
        self.assertAlmostEqual(pose.shift_x, 60 / scale, delta=0.01)
        self.assertAlmostEqual(pose.shift_y, 24 / scale, delta=0.01)
        self.assertEqual(self.workspace.session.undo_label, "drag ghost")
        program = compile_route(self.project, self.workspace.route)
        slot = next(s for s, part in enumerate(program.contents) if part.layer.id == self.header)
        moved = program.scene_of(program.end.copy(), program.duration).world()[slot][4]
        self.assertAlmostEqual(moved, find_layer(self.left, "Header").x + pose.shift_x, delta=0.01)
        self.window.do("undo")
        self.assertFalse([a for a in self.workspace.route.transition.absents if a.layer == self.header])

    def test_the_grips_resize_turn_and_fade(self) -> None:
        grips = self.threads.grips(self.threads.ghost)
        middle = self.centre()
        corner = grips["size 2"]
        drag(self.threads, corner, middle + (corner - middle) * 0.5, keys=Qt.KeyboardModifier.ShiftModifier)
        self.assertAlmostEqual(self.pose(self.header).scale_x, 0.5, delta=0.02)
        self.assertAlmostEqual(self.pose(self.header).scale_x, self.pose(self.header).scale_y, delta=1e-9)
        turn = self.threads.grips(self.threads.ghost)["rotation"]
        middle = self.centre()
        drag(self.threads, turn, middle + QPointF(abs((turn - middle).y()), 0))
        self.assertAlmostEqual(self.pose(self.header).rotation, 90.0, delta=2.0)
        fade = self.threads.grips(self.threads.ghost)["fade"]
        drag(self.threads, fade, fade + QPointF(20, 0))
        self.assertGreater(self.pose(self.header).opacity, 0.1)

    def test_the_arithmetic_of_grips(self) -> None:
        ghost = self.threads.ghost
        x, y = ghost.pivot
        self.assertAlmostEqual(dragged(ghost, "rotation", (x, y - 10), (x + 10, y - 1), True).rotation % 15.0, 0.0)
        half = dragged(ghost, "size", (x + 40, y + 20), (x + 20, y + 20), False)
        self.assertAlmostEqual(half.scale_x, 0.5)
        self.assertAlmostEqual(half.scale_y, 1.0)
        self.assertEqual(dragged(ghost, "move", (0, 0), (30, 9), True).shift_y, ghost.pose.shift_y)
        self.assertTrue(math.isfinite(dragged(ghost, "size", (x, y), (x + 5, y), False).scale_x))

    def test_ghosts_are_drawn_dashed_where_the_layer_is_absent(self) -> None:
        self.station.choose("to", self.ident(self.right, "Board button"))
        type_into(self.sheet.ways.fields["shift_x"], "0")
        self.pick(self.sheet.ways.way, "grows from its pivot")
        type_into(self.sheet.ways.fields["scale_x"], "50")
        type_into(self.sheet.ways.fields["scale_y"], "50")
        shape = self.threads._shape(self.threads.ghost).boundingRect()
        image = self.threads.grab().toImage()
        y = round(shape.top())
        row = [pixel(image, x, y) for x in range(int(shape.left()) + 2, int(shape.right()) - 2)]
        teal = self.workspace.theme.arrives
        near = [abs(r - teal.red()) + abs(g - teal.green()) + abs(b - teal.blue()) < 90 for r, g, b in row]
        self.assertGreater(sum(near), len(near) * 0.3)
        self.assertLess(sum(near), len(near) * 0.98)
        QTest.keyClick(self.station, Qt.Key.Key_G)
        self.assertEqual(self.threads.ghosts, ())


class Contents(Station):
    def test_other_words_are_said_and_chosen(self) -> None:
        time = self.ident(self.left, "Outer Holm time")
        price = self.ident(self.right, "Price")
        self.station.pair(time, price)
        self.station.choose("from", time)
        self.assertIn("words", self.sheet.changes.text())
        self.assertTrue(self.sheet.content_row.isVisible())
        self.pick(self.sheet.content, "swaps")
        type_into(self.sheet.swap_at, "80")
        settled = self.workspace.route.transition.settled[0]
        self.assertEqual((settled.content, settled.swap_at), ("swap", 0.8))

    def test_numbers_roll_by_themselves(self) -> None:
        def words(project: Project, layer_id: str, text: str) -> Project:
            import msgspec

            def change(layer: Any) -> Any:
                return msgspec.structs.replace(layer, body=msgspec.structs.replace(layer.body, runs=(Run(text),)))

            for frame in project.frames:
                if layer_id in layer_index(frame):
                    return put_frame(project, change_layers(frame, {layer_id: change}))
            return project

        facts, price = self.ident(self.left, "Grey Stack facts"), self.ident(self.right, "Price")
        self.workspace.do("x", lambda p: words(words(p, facts, "12"), price, "140"))
        self.station.pair(facts, price)
        self.assertEqual(self.sheet.content.currentText(), "rolls")

    def test_the_moment_of_the_order_flip(self) -> None:
        left = (box("a", 0, 0, 90, 90, name="One"), box("b", 20, 20, 90, 90, "#ff0000", name="Two"))
        right = (box("d", 20, 20, 90, 90, "#ff0000", name="Two"), box("c", 0, 0, 90, 90, name="One"))
        from tests.support import project_of

        self.workspace.session.do("load", project_of(left, right))
        self.settle()
        self.station.choose("from", "a")
        self.assertTrue(self.sheet.order_row.isVisible())
        type_into(self.sheet.order_at, "20")
        self.assertEqual(self.workspace.route.transition.settled[0].order_at, 0.2)


class OddFrames(WindowCase, unittest.TestCase):
    demo = False

    def test_none_and_five_thousand_layers(self) -> None:
        many = tuple(box(f"a{k}", k % 70, k // 70, 1, 1, name="Dot") for k in range(5000))
        from tests.support import project_of

        for left, right in (
            (many, ()),
            ((), ()),
            (many[:300], tuple(box(f"b{k}", 900 + k, -50, 1, 1, name="Dot") for k in range(300))),
        ):
            self.workspace.session.do("load", project_of(left, right))
            self.window.go("pairs")
            self.settle()
            station = self.window.stations["pairs"]
            self.assertEqual(len(station.context.pairing.pairs) + len(station.context.pairing.leaves), len(left))
            self.assertFalse(station.threads.grab().isNull())
            self.window.go("frames")

    def test_a_project_without_routes_says_where_to_go(self) -> None:
        self.window.go("pairs")
        station = self.window.stations["pairs"]
        self.assertTrue(station.empty.isVisible())
        self.assertIsNone(find_frame(self.project, "A") if self.project.frames else None)
