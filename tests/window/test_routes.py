"""Routes: the matrix by mouse and keys, the card's fields, many at once, filters, dialogs."""

import unittest
from typing import Any
from unittest import mock

from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtTest import QTest

from avelt.core.edits.frames import remove_layer
from avelt.core.edits.routes import add_route
from avelt.core.edits.wiring import every_to_every
from avelt.core.model.curves import Named
from avelt.core.model.find import find_layer, find_route, route_by_id
from avelt.core.model.triggers import (
    TRIGGERS,
    DoubleTap,
    Drag,
    GoBack,
    Key,
    SetInput,
    ShowOver,
    Tap,
    Timer,
    trigger_row,
)
from avelt.core.model.values import Frame, Project
from avelt.core.timing.schedule import duration_of
from avelt.demo.build import build_demo
from avelt.window.routes.cells import (
    Filter,
    between,
    changed_choice,
    of_column,
    of_row,
    of_trigger,
    read_change,
    shared,
    table_of,
)
from avelt.window.routes.dialogs import EveryDialog, InputsDialog, proposed
from avelt.window.routes.glyphs import GLYPHS
from avelt.window.routes.grid import Grid
from avelt.window.routes.matrix import piece_of
from tests.support import WindowCase, box, click, drag, pixel, send, type_into

ALSO = Qt.KeyboardModifier.ControlModifier
MORE = Qt.KeyboardModifier.ShiftModifier


class Cells(unittest.TestCase):
    def setUp(self) -> None:
        self.project = build_demo()
        self.table = table_of(self.project)

    def test_the_demo_has_nine_screens_ten_kinds_and_no_trouble(self) -> None:
        words = {trigger_row(route.trigger).word for route in self.project.routes}
        self.assertEqual(len(self.table.frames), 9)
        self.assertGreaterEqual(len(self.project.routes), 9)
        self.assertGreaterEqual(len(words), 7)
        self.assertFalse([cell.trouble for cells in self.table.cells.values() for cell in cells if cell.trouble])

    def test_rows_columns_kinds_and_stretches(self) -> None:
        self.assertEqual(len(of_row(self.table, 0)), 5)
        self.assertEqual(len(of_column(self.table, 0)), 7)
        self.assertEqual(len(of_trigger(self.table, "drag")), 4)
        self.assertEqual(len(between(self.table, (0, 0), (1, 1))), 2)
        self.assertEqual(sorted(self.table.ids()), sorted(route.id for route in self.project.routes))

    def test_filters_by_name_trigger_and_trouble(self) -> None:
        self.assertEqual(
            [f.name for f in table_of(self.project, Filter("deck")).frames],
            ["Seat deck", "Which deck", "Which deck, top"],
        )
        self.assertEqual(len(table_of(self.project, Filter(trigger="timer")).ids()), 1)
        self.assertEqual(table_of(self.project, Filter(trouble=True)).ids(), [])
        card = find_layer(self.project.frames[0], "Grey Stack card")
        broken = remove_layer(self.project, self.project.frames[0].id, card.id)
        self.assertEqual(len(table_of(broken, Filter(trouble=True)).ids()), 1)

    def test_choosing_more_and_less(self) -> None:
        self.assertEqual(changed_choice(["a"], ["b"], False), ["b"])
        self.assertEqual(changed_choice(["a"], ["b", "a"], True), ["a", "b"])
        self.assertEqual(changed_choice(["a", "b"], ["b"], True), ["a"])
        self.assertEqual((shared([1, 1]), shared([1, 2]), shared([])), (1, None, None))

    def test_changes_of_length_as_they_are_typed(self) -> None:
        for text, wanted in (
            ("50", 50),
            ("50 ms", 50),
            ("0.4s", 400),
            ("1.2x", 240),
            ("1,5×", 300),
            ("80%", 160),
            ("+40", 240),
            ("-20 ms", 180),
        ):
            self.assertAlmostEqual(read_change(text)(200.0), wanted, msg=text)
        for text in ("", "fast", "x", "1.2.3", "ms"):
            with self.assertRaises(ValueError, msg=text):
                read_change(text)

    def test_what_is_tapped_is_the_piece_not_its_paper(self) -> None:
        sailings = self.project.frames[0]
        paper = find_layer(sailings, "Grey Stack time")
        self.assertEqual(piece_of(sailings, paper.id), find_layer(sailings, "Grey Stack card").id)

    def test_every_trigger_has_a_mark(self) -> None:
        self.assertEqual(set(GLYPHS), {row.word for row in TRIGGERS})


class Arithmetic(unittest.TestCase):
    def test_heads_and_cells_do_not_meet(self) -> None:
        grid = Grid(6).within(900, 600)
        self.assertGreaterEqual(grid.cell(0, 0).left(), grid.row_head(0).right())
        self.assertGreaterEqual(grid.cell(0, 0).top(), grid.column_head(0).bottom())
        self.assertGreater(grid.cell(0, 1).left(), grid.cell(0, 0).right())

    def test_only_what_is_seen_is_painted(self) -> None:
        grid = Grid(60).zoomed(1.0)
        rows, columns = grid.visible(QPointF(3000, 2000), 900, 600)
        self.assertLess(len(rows) * len(columns), 80)
        for k in (rows[0], rows[-1]):
            self.assertLess(abs(grid.cell(k, 0).top() - 2000 - 300), 600)


class Station(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("routes")
        self.settle()
        self.station = self.window.stations["routes"]
        self.matrix = self.station.matrix
        self.canvas = self.matrix.viewport()
        self.frames = self.project.frames

    def cell(self, row: int, column: int) -> QPointF:
        return self.matrix.cell_rect(row, column).center()


class Matrix(Station):
    def test_an_empty_cell_makes_a_route(self) -> None:
        self.workspace.choose(self.frames[0].id, find_layer(self.frames[0], "Sandray card").id)
        click(self.canvas, self.cell(0, 2))
        route = self.workspace.route
        self.assertEqual((route.leaves, route.arrives), (self.frames[0].id, self.frames[2].id))
        self.assertEqual(route.trigger, Tap(self.workspace.layer.id))
        self.assertTrue(self.station.clock.playing)

    def test_dragging_a_layer_of_a_thumbnail_to_a_column(self) -> None:
        rect = self.matrix.faces.thumb(self.matrix.row_head(0), self.frames[0])
        card = find_layer(self.frames[0], "Sandray card")
        where = QPointF(rect.left() + 200 / 360 * rect.width(), rect.top() + 480 / 640 * rect.height())
        self.assertIn("Sandray card", self.matrix.tip_at(where))
        drag(self.canvas, where, self.cell(0, 2))
        route = self.workspace.route
        self.assertEqual((route.arrives, route.trigger), (self.frames[2].id, Tap(card.id)))

    def test_keys_walk_extend_make_and_remove(self) -> None:
        self.matrix.setFocus()
        QTest.keyClick(self.matrix, Qt.Key.Key_Right)
        self.assertEqual(self.workspace.route, find_route(self.project, "Sailings > Sailing detail"))
        for _ in range(3):
            QTest.keyClick(self.matrix, Qt.Key.Key_Right, MORE)
        self.assertEqual(len(self.matrix.chosen), 3)
        QTest.keyClick(self.matrix, Qt.Key.Key_Delete)
        self.assertEqual(len(self.project.routes), 26)
        self.window.do("undo")
        QTest.keyClick(self.matrix, Qt.Key.Key_A, ALSO)
        self.assertEqual(len(self.matrix.chosen), 29)
        self.matrix.spot = (4, 3)
        QTest.keyClick(self.matrix, Qt.Key.Key_Return)
        self.assertEqual(len(self.project.routes), 30)

    def test_hovering_plays_a_route_and_leaving_goes_back(self) -> None:
        click(self.canvas, self.cell(0, 1))
        send(self.canvas, QEvent.Type.MouseMove, self.cell(1, 2), down=False)
        self.assertEqual(self.station.arrives_name.text(), "Boarding pass")
        self.assertIs(
            self.station.view.scene.program,
            self.workspace.program(find_route(self.project, "Sailing detail > Boarding pass")),
        )
        self.matrix.leaveEvent(None)
        self.assertEqual(self.station.arrives_name.text(), "Sailing detail")

    def test_several_in_one_cell_are_stepped_through(self) -> None:
        place = self.cell(4, 0)
        click(self.canvas, place)
        first = self.workspace.route
        click(self.canvas, place)
        self.assertNotEqual(self.workspace.route.id, first.id)
        click(self.canvas, place)
        self.assertEqual(self.workspace.route.id, first.id)

    def test_a_cell_dragged_onto_another_copies_its_motion(self) -> None:
        drag(self.canvas, self.cell(0, 1), self.cell(1, 3))
        target = find_route(self.project, "Sailing detail > Seat deck")
        self.assertEqual(duration_of(target.transition), 480)
        self.assertIn("found", self.window.said.text())
        drag(self.canvas, self.cell(0, 3), self.cell(3, 4))
        made = find_route(self.project, "Seat deck > Delay notice")
        self.assertEqual(duration_of(made.transition), 240)

    def test_heads_choose_whole_rows_and_frames_are_reordered(self) -> None:
        click(self.canvas, QPointF(30, self.matrix.row_head(0).center().y()))
        self.assertEqual(len(self.matrix.chosen), 5)
        drag(
            self.canvas,
            QPointF(30, self.matrix.row_head(3).center().y()),
            QPointF(30, self.matrix.row_head(0).top() + 4),
        )
        self.assertEqual([f.name for f in self.project.frames][:2], ["Seat deck", "Sailings"])
        self.window.do("undo")
        self.assertEqual(self.project.frames, self.frames)
        self.matrix.setFocus()
        self.matrix.spot = (1, 1)
        QTest.keyClick(self.matrix, Qt.Key.Key_Down, Qt.KeyboardModifier.AltModifier)
        self.assertEqual(self.project.frames[2].name, "Sailing detail")

    def test_the_first_frame_is_marked_from_a_heads_menu(self) -> None:
        menu = self.station.menu_of((1, -1))
        next(a for a in menu.actions() if a.text() == "Start with this frame").trigger()
        self.assertEqual(self.project.first, self.frames[1].id)

    def test_a_route_that_stays_is_made_on_the_diagonal(self) -> None:
        menu = self.station.menu_of((0, -1))
        next(a for a in menu.actions() if "stays" in a.text()).trigger()
        self.assertEqual(self.workspace.route.action, SetInput())
        self.assertIn("No input", self.station.one.trouble.text())

    def test_zoom_and_the_wheel(self) -> None:
        before = self.matrix.grid.zoom
        QTest.keyClick(self.matrix, Qt.Key.Key_Minus)
        self.assertLess(self.matrix.grid.zoom, before)
        QTest.keyClick(self.matrix, Qt.Key.Key_0)
        self.assertEqual(self.matrix.grid.zoom, before)
        click(self.station.larger)
        self.assertGreater(self.matrix.grid.zoom, before)

    def test_trouble_is_seen_in_cell_and_card_and_mended_there(self) -> None:
        card = find_layer(self.frames[0], "Grey Stack card")
        self.workspace.do("x", lambda p: remove_layer(p, p.frames[0].id, card.id))
        click(self.canvas, self.cell(0, 1))
        self.assertIn("not in Sailings any more", self.station.one.trouble.text())
        self.assertIn("to look at", self.station.summary.text())
        rect = self.matrix.cell_rect(0, 1)
        image = self.canvas.grab().toImage()
        near = [pixel(image, int(rect.right()) - k, int(rect.top()) + 12) for k in range(10, 50)]
        red = self.workspace.theme.trouble
        self.assertTrue(any(abs(r - red.red()) + abs(g - red.green()) + abs(b - red.blue()) < 90 for r, g, b in near))
        on = self.station.one.trigger_form.fields["layer"]
        self.pick(on, "Sandray card")
        self.assertFalse(self.station.one.trouble.isVisible())


class Card(Station):
    def setUp(self) -> None:
        super().setUp()
        click(self.canvas, self.cell(0, 1))
        self.one = self.station.one

    def test_every_kind_of_trigger_can_be_chosen_and_shows_its_fields(self) -> None:
        for row in TRIGGERS:
            self.pick(self.one.trigger, row.word)
            self.assertIsInstance(self.workspace.route.trigger, row.make)
            fields = set(self.one.trigger_form.fields)
            self.assertLessEqual(fields, {field.name for field in row.fields})
            self.assertGreaterEqual(len(fields), len(row.fields) - 1)

    def test_the_fields_of_a_drag(self) -> None:
        self.pick(self.one.trigger, "drag")
        self.pick(self.one.trigger_form.fields["along"], "up")
        type_into(self.one.trigger_form.fields["travel"], "2*90")
        type_into(self.one.trigger_form.fields["lets_go"], "30")
        self.assertEqual(
            self.workspace.route.trigger,
            Drag(find_layer(self.frames[0], "Grey Stack card").id, "up", travel=180.0, lets_go=0.3),
        )
        self.pick(self.one.trigger_form.fields["along"], "path")
        self.assertIn("path", self.one.trigger_form.fields)

    def test_a_key_is_pressed_a_wait_typed_and_parts_start_over(self) -> None:
        self.pick(self.one.trigger, "key")
        QTest.keyClick(self.one.trigger_form.fields["key"], Qt.Key.Key_Left)
        self.assertEqual(self.workspace.route.trigger, Key("ArrowLeft"))
        type_into(self.one.wait, "0.2s")
        self.pick(self.one.parts, "restart")
        self.assertEqual((self.workspace.route.delay, self.workspace.route.on_arrival), (200.0, "restart"))

    def test_timer_length_and_curve(self) -> None:
        self.pick(self.one.trigger, "timer")
        type_into(self.one.trigger_form.fields["after"], "1.5s")
        self.assertEqual(self.workspace.route.trigger, Timer(1500.0))
        type_into(self.one.length, "600")
        self.pick(self.one.curve, "Buoy")
        self.assertEqual(
            (self.workspace.route.transition.duration, self.workspace.route.transition.curve), (600, Named("buoy"))
        )

    def test_showing_over_by_hand(self) -> None:
        self.pick(self.one.action, "show over")
        self.pick(self.one.action_form.fields["at"], "by hand")
        type_into(self.one.action_form.fields["y"], "120")
        self.pick(self.one.action_form.fields["scrim"], "none")
        tick = self.one.action_form.fields["outside_closes"]
        click(tick, QPointF(8, tick.height() / 2))
        self.assertEqual(self.workspace.route.action, ShowOver("by hand", 0.0, 120.0, "", False))

    def test_conditions_are_taken_or_refused_with_a_sentence(self) -> None:
        type_into(self.one.only_if, "minutes-late > 5 and not boarded")
        self.assertEqual(self.workspace.route.only_if, "minutes-late > 5 and not boarded")
        type_into(self.one.only_if, "minuteslate > 5")
        self.assertIn("Did you mean “minutes-late”?", self.window.said.text())
        self.assertEqual(self.one.only_if.text(), "minutes-late > 5 and not boarded")

    def test_values_fit_the_kind_of_input(self) -> None:
        self.pick(self.one.trigger, "input crosses")
        self.pick(self.one.trigger_form.fields["input"], "minutes-late")
        type_into(self.one.trigger_form.fields["value"], "12")
        self.assertEqual(self.workspace.route.trigger.value, 12.0)
        self.pick(self.one.trigger_form.fields["input"], "boarded")
        self.pick(self.one.trigger_form.fields["value"], "no")
        self.assertIs(self.workspace.route.trigger.value, False)

    def test_the_return_trip_from_the_card_and_by_key(self) -> None:
        click(self.canvas, self.cell(1, 2))
        self.window.do("undo")
        self.pick(self.one.back, "with the same curves")
        back = self.workspace.route
        self.assertEqual((back.leaves, back.arrives, back.action), (self.frames[2].id, self.frames[1].id, GoBack()))
        QTest.keyClick(self.station, "r")
        self.assertIn("return trip", self.workspace.session.undo_label)


class Many(Station):
    def setUp(self) -> None:
        super().setUp()
        click(self.canvas, self.cell(0, 1))
        click(self.canvas, self.cell(0, 3), ALSO)
        click(self.canvas, self.cell(3, 0), MORE)
        self.many = self.station.many
        self.ids = list(self.matrix.chosen)

    def chosen(self) -> Any:
        return [route_by_id(self.project, ident) for ident in self.ids]

    def test_lengths_all_the_same_or_each_longer(self) -> None:
        self.assertIs(self.station.stack.currentWidget(), self.many)
        type_into(self.many.length, "1.2x")
        self.assertEqual([duration_of(r.transition) for r in self.chosen()], [576.0, 288.0, 288.0])
        type_into(self.many.length, "50 ms")
        self.assertEqual({duration_of(r.transition) for r in self.chosen()}, {50.0})
        self.window.do("undo")
        self.window.do("undo")
        self.assertEqual([duration_of(r.transition) for r in self.chosen()], [480.0, 240.0, 240.0])
        type_into(self.many.length, "quick")
        self.assertIn("no duration", self.window.said.text())

    def test_trigger_curve_condition_and_wait_together(self) -> None:
        self.pick(self.many.trigger, "double tap")
        self.pick(self.many.curve, "Steady")
        type_into(self.many.only_if, "not boarded")
        type_into(self.many.wait, "40")
        for route in self.chosen():
            self.assertIsInstance(route.trigger, DoubleTap)
            self.assertTrue(route.trigger.layer)
            self.assertEqual(
                (route.transition.curve, route.only_if, route.delay), (Named("steady"), "not boarded", 40.0)
            )

    def test_return_trips_and_removal_of_all(self) -> None:
        self.pick(self.many.back, "quicker, as one leaves")
        self.assertGreater(len(self.matrix.chosen), 1)
        self.window.do("undo")
        self.matrix.chosen = self.ids
        self.station.remove()
        self.assertEqual(len(self.project.routes), 26)

    def test_the_last_ones_motion_on_all(self) -> None:
        self.assertFalse(self.many.copy.isEnabled())  # the source is named, not guessed
        self.pick(self.many.source, self.many.source.itemText(self.many.source.findData(self.many.ids[-1])))
        click(self.many.copy)
        self.assertEqual({duration_of(r.transition) for r in self.chosen()}, {240.0})

    def test_filters_narrow_what_is_shown(self) -> None:
        type_into(self.station.search, "sail")
        self.assertEqual([f.name for f in self.matrix.table.frames], ["Sailings", "Sailing detail", "All sailings"])
        self.station.search.clear()
        self.pick(self.station.only, "drag")
        self.assertEqual(len(self.matrix.table.ids()), 4)


class Dialogs(Station):
    def test_every_tab_to_every_tab_finds_what_is_tapped(self) -> None:
        sailings, deck = self.frames[0], self.frames[3]
        found = proposed([sailings, deck])
        self.assertEqual(found[deck.id], find_layer(sailings, "Tab Deck").id)
        self.assertEqual(found[sailings.id], find_layer(deck, "Tab Sailings").id)

    def test_the_dialog_says_how_many_and_makes_them(self) -> None:
        dialog = EveryDialog(self.station, self.project, [self.frames[0].id, self.frames[3].id])
        self.assertIn("0 routes", dialog.says.text())
        self.assertFalse(dialog.ok.isEnabled())
        dialog.ticks[4].setChecked(True)
        self.assertIn("2 routes will be made; 4 are there", dialog.says.text())
        with (
            mock.patch("avelt.window.routes.station.EveryDialog", return_value=dialog),
            mock.patch.object(dialog, "exec", return_value=1),
        ):
            self.station.every_to_every()
        self.assertEqual(len(self.project.routes), 31)
        self.assertEqual(len(self.matrix.chosen), 2)

    def test_inputs_are_made_renamed_changed_and_removed(self) -> None:
        dialog = InputsDialog(self.station, self.workspace)
        click(dialog.add)
        self.assertEqual(self.project.inputs[-1].name, "input")
        type_into(dialog.names[-1], "deck")
        self.pick(dialog.kinds[-1], "text")
        self.assertEqual((self.project.inputs[-1].name, self.project.inputs[-1].kind), ("deck", "text"))
        type_into(dialog.names[-1], "boarded")
        self.assertIn("already", dialog.trouble.text())
        self.assertEqual(self.project.inputs[-1].name, "deck")
        dialog.close()


class Large(WindowCase, unittest.TestCase):
    demo = False

    def test_sixty_frames_stay_usable(self) -> None:
        frames = tuple(
            Frame(f"F{k}", f"Screen {k}", 200, 200, layers=(box(f"b{k}", k, k, 40, 40, name="Card"),))
            for k in range(60)
        )
        project = Project("Many", frames=frames, curves=self.project.curves, first="F0", next_id=1000)
        project, made = every_to_every(project, [f"F{k}" for k in range(12)])
        self.workspace.session.do("load", project)
        self.window.go("routes")
        self.settle()
        matrix = self.window.stations["routes"].matrix
        matrix.setFocus()
        self.assertEqual(len(made), 132)
        for _ in range(70):
            QTest.keyClick(matrix, Qt.Key.Key_Right)
            QTest.keyClick(matrix, Qt.Key.Key_Down)
        self.assertEqual(matrix.spot, (59, 59))
        self.assertTrue(QPointF(matrix.cell_rect(59, 59).center()).x() < matrix.viewport().width())
        self.assertLess(matrix.row_head(59).left(), 1.0)
        while matrix.grid.zoom > 0.26:
            QTest.keyClick(matrix, Qt.Key.Key_Minus)
        self.assertFalse(matrix.viewport().grab().isNull())
        self.assertGreater(len(matrix._visible()[0]), 18)

    def test_pairs_are_counted_when_there_is_time(self) -> None:
        frames = tuple(Frame(f"F{k}", f"S{k}", layers=(box(f"b{k}", 0, 0, 9, 9, name="Card"),)) for k in range(3))
        project = Project("P", frames=frames, curves=self.project.curves, first="F0", next_id=9)
        project, ident = add_route(project, "F0", "F1")
        self.workspace.session.do("load", project)
        self.window.go("routes")
        counts = self.window.stations["routes"].matrix.pairs
        for _ in range(10):
            self.settle()
        self.assertEqual(counts.known(ident), (1, 0))
