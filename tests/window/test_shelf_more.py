"""The shelf, further: favourites, used lately, what it moves, dragged onto things, edited on stand-ins, packs inspected."""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import QEvent, QPointF, Qt
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from avelt.core.edits.routes import set_duration
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import find_layer
from avelt.core.presets import packs
from avelt.core.presets.links import uses
from avelt.core.presets.moves import moves
from avelt.core.presets.picture import picture_of
from avelt.core.presets.pieces import pieces, without
from avelt.core.presets.shelf import built_in
from avelt.core.presets.stand_in import edited, stand_in, station_of
from avelt.core.presets.values import Preset, to_json
from avelt.core.timing.schedule import timed
from avelt.window.shelf.cards import dragged
from avelt.window.shelf.liking import ONLY
from avelt.window.shelf.save_form import SaveForm
from avelt.window.shelf.take_form import TakeForm
from tests.support import WindowCase, click, type_into


def built(name: str) -> Preset:
    return next(preset for preset in built_in() if preset.name == name)


def of_kind(kind: str) -> Preset:
    return next(preset for preset in built_in() if preset.kind == kind)


class OnStandIns(unittest.TestCase):
    def test_every_preset_comes_back_as_it_was(self) -> None:
        for preset in built_in():
            with self.subTest(preset.name):
                again = edited(preset, stand_in(preset))
                self.assertEqual((again.name, again.kind, again.when), (preset.name, preset.kind, preset.when))
                one, other = picture_of(preset), picture_of(again)
                self.assertAlmostEqual(one.duration, other.duration)
                for share in (0.0, 0.3, 0.7, 1.0):
                    a, b = (p.program.from_start(share * one.duration).vector for p in (one, other))
                    self.assertEqual(a.shape, b.shape)
                    self.assertLess(abs(a - b).max(initial=0.0), 1e-3)

    def test_what_was_left_out_stays_so(self) -> None:
        for preset in built_in():
            for piece in pieces(preset):
                with self.subTest(preset.name, piece=piece.key):
                    if len(pieces(preset)) == 1:
                        continue
                    less = without(preset, [piece.key])
                    again = edited(less, stand_in(less))
                    self.assertEqual(again.left_out, less.left_out)
                    self.assertNotIn(piece.key, [found.key for found in pieces(again)])

    def test_each_is_edited_where_its_kind_is(self) -> None:
        self.assertEqual(station_of(of_kind("loop")), "loops")
        self.assertEqual(station_of(of_kind("enter")), "timing")
        self.assertTrue({preset.kind for preset in built_in()} >= {"loop", "enter", "shared", "transition", "stagger"})

    def test_what_a_preset_moves(self) -> None:
        for preset in built_in():
            if preset.kind in ("enter", "leave", "loop"):
                self.assertTrue(moves(preset), preset.name)
        self.assertEqual(moves(replace(of_kind("curve"), cues=())), frozenset())


class InTheDrawer(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("timing")
        self.station = self.window.stations["timing"]
        self.window.do("shelf")
        self.settle()
        self.shelf = self.window.shelf

    def only(self, words: str) -> list[str]:
        place = next(k for k, entry in enumerate(ONLY) if entry.words == words)
        self.shelf.only.setCurrentIndex(place)
        self.shelf.only.activated.emit(place)
        return [entry.name for entry in self.shelf.cards.entries]

    def test_what_is_put_on_is_ticked(self) -> None:
        self.station.pick(
            next(row.key for row in self.station.sheet.body.rows if not row.prop and None not in row.key.pair)
        )
        self.shelf.choose("Calm crossing")
        words = [action.text() for action in self.shelf.fields.holds_menu.actions()]
        self.assertEqual([text.split(",")[0] for text in words], ["times", "curve"])
        self.shelf.fields.holds_menu.setActiveAction(self.shelf.fields.holds_menu.actions()[0])
        QTest.keyClick(self.shelf.fields.holds_menu, Qt.Key.Key_Space)
        self.assertEqual((self.shelf.fields.holds.text(), self.shelf.fields.said().left_out), ("1 of 2", ("times",)))
        key = self.station.context.key
        before = timed(self.project, self.workspace.route.transition, *key)
        self.shelf.put_on("Calm crossing")
        after = timed(self.project, self.workspace.route.transition, *key)
        self.assertEqual((before.start, before.end), (after.start, after.end))
        self.assertEqual(self.workspace.session.undo_label, "put Calm crossing on")
        self.shelf.choose("Goes, then grows")
        self.assertEqual((self.shelf.fields.holds.text(), self.shelf.fields.said().left_out), ("All of it", ()))
        for action in self.shelf.fields.holds_menu.actions():
            action.setChecked(False)
        self.assertFalse(self.shelf.use.isEnabled())
        self.assertIn("Nothing would be left", self.shelf.preview.says)

    def test_when_it_begins_and_how_much_later_each(self) -> None:
        rows = [row.key for row in self.station.sheet.body.rows if not row.prop and None not in row.key.pair][:2]
        self.station.pick(rows[0])
        self.shelf.choose("Calm crossing")
        self.assertFalse(self.shelf.fields.step.isVisible())
        self.assertEqual((self.shelf.fields.start.text(), self.shelf.fields.said().start), ("–", None))
        type_into(self.shelf.fields.start, "90")
        self.assertEqual(self.shelf.fields.said().start, 90.0)
        self.station.pick_also(rows[1])
        self.assertTrue(self.shelf.fields.step.isVisible())
        type_into(self.shelf.fields.step, "40 ms")
        self.shelf.put_on("Calm crossing")
        starts = [timed(self.project, self.workspace.route.transition, *key).start for key in rows]
        self.assertEqual(starts, [90.0, 130.0])
        self.shelf.fields.start.selectAll()
        for key in (Qt.Key.Key_Delete, Qt.Key.Key_Return):
            QTest.keyClick(self.shelf.fields.start, key)
        self.assertEqual((self.shelf.fields.start.text(), self.shelf.fields.said().start), ("–", None))
        QTest.keyClick(self.shelf.fields.start, Qt.Key.Key_Up)
        self.assertEqual(self.shelf.fields.said().start, 0.0)

    def test_what_is_kept_is_ticked(self) -> None:
        self.shelf.close_shelf()
        forms: list[SaveForm] = []

        def fill(form: SaveForm) -> bool:
            forms.append(form)
            form.what.setCurrentIndex(form.what.count() - 1)
            type_into(form.name, "Whole")
            tick = next(tick for key, tick in form.ticks if key == "length")
            tick.setChecked(False)
            self.assertIn("stays as it is", form.note.text())
            return True

        with mock.patch.object(self.window, "ask", fill):
            self.window.do("save_preset")
        self.assertEqual(self.workspace.shelf.find("Whole").left_out, ("length",))
        for _, tick in forms[0].ticks:
            tick.setChecked(False)
        self.assertFalse(forms[0].ok.isEnabled())
        forms[0].what.setCurrentIndex(0)
        self.assertTrue(forms[0].ok.isEnabled())

    def test_linked_inside_a_part_and_outside(self) -> None:
        self.shelf.close_shelf()
        self.window.go("frames")
        anchor = of_kind("loop")
        self.workspace.shelf.keep(replace(anchor, name="Mine"))

        def put() -> None:
            self.window.do("shelf")
            self.settle()
            self.shelf.choose("Mine")
            if not self.shelf.fields.linked.isChecked():
                click(self.shelf.fields.linked)
            click(self.shelf.use)
            self.shelf.close_shelf()

        frame = self.project.frames[0]
        self.workspace.choose(frame.id, frame.layers[0].id)
        put()
        part = self.workspace.whole.parts[0]
        self.workspace.open_part(part.id)
        pose = part.poses[0]
        self.workspace.choose(pose.id, pose.layers[0].id)
        put()
        self.workspace.close_part()
        names = [use.where.split(": ")[0] for use in uses(self.workspace.whole, "Mine")]
        self.assertEqual((len(names), names[1]), (2, part.name))
        assert anchor.loop is not None
        slower = replace(anchor.loop, loop=replace(anchor.loop.loop, duration=3333.0))
        self.workspace.shelf.keep(replace(anchor, name="Mine", loop=slower))
        self.workspace.open_part(part.id)  # it changes everywhere, whatever is open
        self.shelf._shelf_changed()
        self.workspace.close_part()
        whole = self.workspace.whole
        ends = [whole.frames[0].loops[-1].duration, whole.parts[0].poses[0].loops[-1].duration]
        self.assertEqual(ends, [3333.0, 3333.0])
        self.window.do("undo")
        self.assertNotEqual(self.workspace.whole.parts[0].poses[0].loops[-1].duration, 3333.0)

    def test_favourites(self) -> None:
        name = self.shelf.cards.entries[3].name
        self.shelf.choose(name)
        QTest.keyClick(self.shelf.cards, Qt.Key.Key_F)
        self.assertIn("favourite now", self.window.said.text())
        self.assertEqual(self.only("favourites"), [name])
        QTest.keyClick(self.shelf.cards, Qt.Key.Key_F)
        self.assertEqual(self.only("favourites"), [])
        self.assertEqual(len(self.only("all of them")), len(built_in()))

    def row(self, name: str) -> Any:
        return next(r for r in self.station.sheet.body.rows if r.right_name == name and not r.prop)

    def test_used_lately_the_last_one_first(self) -> None:
        self.station.pick(self.row("Board button").key)
        names = [preset.name for preset in built_in() if preset.kind == "enter"][:2]
        for name in names:
            self.shelf.choose(name)
            click(self.shelf.use)
        self.assertEqual(self.only("used lately"), names[::-1])

    def test_by_length_and_by_what_moves(self) -> None:
        short, long = set(self.only("up to 250 ms")), set(self.only("above 500 ms"))
        self.assertTrue(short and long and not short & long)
        for name in self.only("moves rotation"):
            self.assertIn("rotation", moves(built(name)))
        self.assertTrue(self.only("moves rotation"))

    def drop(self, view: QWidget, point: QPointF, name: str) -> None:
        data = dragged(name)
        button, none, copy = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, Qt.DropAction.CopyAction
        enter = QDragEnterEvent(point.toPoint(), copy, data, button, none)
        QApplication.sendEvent(view, enter)
        self.assertTrue(enter.isAccepted())
        drop = QDropEvent(point, copy, data, button, none, QEvent.Type.Drop)
        QApplication.sendEvent(view, drop)
        self.settle()

    def test_dropped_on_a_ribbon_it_is_put_on_that(self) -> None:
        row, body = self.row("Board button"), self.station.sheet.body
        place = body.rows.index(row)
        name = of_kind("enter").name
        before = self.workspace.project
        self.drop(body, body.ribbon_rect(place).center(), name)
        self.assertEqual(self.station.context.key, row.key)
        self.assertIsNot(self.workspace.project, before)
        self.assertEqual(self.workspace.session.undo_label, f"put {name} on")

    def test_dropped_on_a_cell_it_is_put_on_the_route(self) -> None:
        self.window.go("routes")
        self.settle()
        matrix = self.window.stations["routes"].matrix
        route = self.workspace.project.routes[0]
        ids = [frame.id for frame in matrix.table.frames]
        rect = matrix.cell_rect(ids.index(route.leaves), ids.index(route.arrives))
        preset = of_kind("transition")
        self.drop(matrix.viewport(), rect.center(), preset.name)
        self.assertEqual(matrix.chosen, [route.id])
        self.assertEqual(self.workspace.session.undo_label, f"put {preset.name} on")
        self.drop(matrix.viewport(), QPointF(2, 2), preset.name)
        self.assertIn("Drop a preset on", self.window.said.text())

    def test_dropped_on_a_layer_it_is_put_on_that(self) -> None:
        self.window.go("frames")
        self.settle()
        board = self.window.stations["frames"].board
        frame = self.workspace.project.frames[0]
        layer = find_layer(frame, "Title")
        x, y, w, h = flatten(frame).bounds[flatten(frame).index[layer.id]]
        at = board.viewport.to_widget(frame, board.viewport.rect_of(frame)).map(QPointF(x + w / 2, y + h / 2))
        count = len(frame.loops)
        self.drop(board, at, of_kind("loop").name)
        self.assertEqual(self.workspace.layer.id, layer.id)
        self.assertEqual(len(self.workspace.project.frames[0].loops), count + 1)

    def test_edited_on_a_stand_in_and_saved_back(self) -> None:
        preset = replace(of_kind("enter"), name="Mine comes", when="For notes.")
        self.workspace.shelf.keep(preset)
        self.shelf.refresh()
        self.shelf.choose("Mine comes")
        menu = self.shelf.more_menu()
        next(action for action in menu.actions() if action.text().startswith("Edit on")).trigger()
        window = self.window.others[-1]
        self.assertEqual((window.current, window.workspace.project.name), ("timing", "Mine comes"))
        route = window.workspace.project.routes[0]
        window.workspace.do("longer", lambda p: set_duration(p, route.id, preset.duration * 2))
        self.assertEqual(window.top.state.whole, "preset, changed")
        self.assertTrue(window.do_save())
        made = next(p for p in self.workspace.shelf.read().presets if p.name == "Mine comes")
        self.assertEqual((made.duration, made.when), (preset.duration * 2, "For notes."))
        self.assertEqual(window.top.state.text(), "preset")
        window.workspace.do("none", lambda p: replace(p, routes=()))
        self.assertFalse(window.do_save())
        self.assertIn("gone", window.said.text())
        window.workspace.session.saved()
        window.close()

    def test_a_pack_is_looked_into_first(self) -> None:
        mine = replace(built_in()[0], name="Clash", note="mine")
        self.workspace.shelf.keep(mine)
        theirs = [replace(built_in()[0], name="Clash", note="theirs"), replace(built_in()[1], name="Fresh"), mine]
        path = Path(self.folder.name) / "team.avelt-pack"
        path.write_bytes(packs.pack(theirs[:2], author="Ann", licence="CC0-1.0", notes="For the ferry."))
        forms: list[TakeForm] = []

        def answer(panel: Any, form: TakeForm) -> bool:
            forms.append(form)
            form.same.show_picked(1)
            return True

        with mock.patch.object(type(self.shelf), "ask", answer):
            self.shelf.inspect([path])
        self.assertEqual([entry.on_shelf for entry in forms[0].found], ["same name", "new"])
        known = {preset.name: preset.note for preset in self.workspace.shelf.read().presets}
        self.assertEqual((known["Clash"], "Fresh" in known), ("theirs", True))

    def test_what_is_not_ticked_and_what_is_cancelled_is_not_taken(self) -> None:
        path = Path(self.folder.name) / "two.avelt-pack"
        path.write_bytes(packs.pack([replace(built_in()[k], name=f"New {k}") for k in (0, 1)]))

        def untick(panel: Any, form: TakeForm) -> bool:
            form.list.topLevelItem(0).setCheckState(0, Qt.CheckState.Unchecked)
            return True

        with mock.patch.object(type(self.shelf), "ask", untick):
            self.shelf.inspect([path])
        names = [preset.name for preset in self.workspace.shelf.read().presets]
        self.assertEqual(names, ["New 1"])
        with mock.patch.object(type(self.shelf), "ask", return_value=False):
            self.shelf.inspect([path])
        self.assertEqual(len(self.workspace.shelf.read().presets), 1)

    def test_one_new_preset_needs_no_question(self) -> None:
        path = Path(self.folder.name) / "one.avelt-preset"
        path.write_bytes(to_json(replace(built_in()[0], name="Alone")))
        with mock.patch.object(type(self.shelf), "ask", side_effect=AssertionError):
            self.shelf.inspect([path])
        self.assertEqual([preset.name for preset in self.workspace.shelf.read().presets], ["Alone"])


if __name__ == "__main__":
    unittest.main()
