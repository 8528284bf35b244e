"""The shelf: what is on it, what fits what is chosen, made to measure, seen before it is put, kept in order."""

import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from avelt.core.model.find import find_frame, find_layer, route_by_id
from avelt.core.presets import record
from avelt.core.presets.files import read_file
from avelt.core.presets.shelf import built_in
from avelt.core.presets.values import KINDS
from avelt.core.timing.schedule import timed
from tests.support import WindowCase, click, keeping, type_into


class Shelf(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("timing")
        self.settle()
        self.station = self.window.stations["timing"]
        self.shelf = self.window.shelf

    def row(self, name: str) -> Any:
        body = self.station.sheet.body
        return next(r for r in body.rows if name in (r.left_name, r.right_name) and not r.prop)

    def open_on(self, name: str) -> Any:
        row = self.row(name)
        self.station.pick(row.key)
        if not self.shelf.isVisible():
            self.window.do("shelf")
        self.settle()
        return row

    def take(self, name: str) -> None:
        self.shelf.choose(name)
        self.settle()

    def test_it_has_the_catalogue_and_finds_in_it(self) -> None:
        self.open_on("Board button")
        self.assertEqual(len(self.shelf.cards.entries), len(built_in()))
        type_into(self.shelf.search, "badge mark")
        names = [entry.name for entry in self.shelf.cards.entries]
        self.assertIn("Bobs up", names)
        self.assertNotIn("Rising tide", names)
        type_into(self.shelf.search, "nothing like this")
        self.assertEqual(self.shelf.cards.entries, ())
        self.assertIn("No preset", self.shelf.note.text())
        self.shelf.search.clear()
        self.shelf.kind.setCurrentIndex(1 + KINDS.index("stagger"))
        self.shelf.kind.activated.emit(0)
        self.assertEqual({entry.preset.kind for entry in self.shelf.cards.entries}, {"stagger"})
        click(self.shelf.where.button(2))
        self.assertEqual(self.shelf.cards.entries, ())

    def test_it_is_seen_on_the_layers_before_it_is_put_on(self) -> None:
        row = self.open_on("Board button")
        before = self.project
        self.take("Bobs up")
        self.assertIsNotNone(self.shelf.preview.program)
        first = self.shelf.preview.grab().toImage()
        self.shelf._ticked(400.0)
        self.settle()
        self.assertNotEqual(self.shelf.preview.grab().toImage(), first)
        self.assertIs(self.project, before)
        type_into(self.shelf.stretch, "0.5")
        click(self.shelf.use)
        self.assertIsNot(self.project, before)
        pose = next(e.pose for e in self.workspace.route.transition.absents if e.layer == row.key.to_id)
        self.assertEqual(pose.scale_x, 0.4)
        when = timed(self.project, self.workspace.route.transition, *row.key)
        self.assertEqual(when.end - when.start, 240.0)  # half of the 480 ms of the route
        self.window.do("undo")
        self.assertEqual(self.project, before)

    def test_strength_and_direction(self) -> None:
        row = self.open_on("Board button")
        self.take("Steps ashore")
        type_into(self.shelf.strength, "2")
        self.shelf.direction.setCurrentText("up")
        self.shelf.direction.activated.emit(0)
        click(self.shelf.use)
        pose = next(e.pose for e in self.workspace.route.transition.absents if e.layer == row.key.to_id)
        layer = find_layer(find_frame(self.project, "Sailing detail"), "Board button")
        self.assertAlmostEqual(pose.shift_y, 2 * 0.26 * layer.w * (layer.h / layer.w), delta=0.5)
        self.assertAlmostEqual(pose.shift_x, 0.0)

    def test_what_does_not_fit_is_said_and_cannot_be_put(self) -> None:
        self.open_on("Grey Stack photo")
        self.take("Bobs up")
        self.assertFalse(self.shelf.use.isEnabled())
        self.assertIn("comes or goes", self.shelf.preview.says)
        self.take("Calm crossing")
        self.assertTrue(self.shelf.use.isEnabled())
        self.open_on("Board button")
        self.assertIn("Board button", self.shelf.target.text())

    def test_loops_go_on_the_layers_of_a_frame(self) -> None:
        self.window.go("frames")
        frame = find_frame(self.project, "Sailing detail")
        self.workspace.choose(frame.id, find_layer(frame, "Boat").id)
        self.window.do("shelf")
        self.settle()
        self.assertIn("Boat", self.shelf.target.text())
        count = len(frame.loops)
        self.take("At anchor")
        click(self.shelf.use)
        loops = find_frame(self.project, "Sailing detail").loops
        self.assertEqual((len(loops), loops[-1].duration), (count + 1, 2800.0))

    def test_whole_transitions_go_on_all_chosen_routes(self) -> None:
        self.window.go("routes")
        routes = [route.id for route in self.project.routes[:3]]
        self.window.stations["routes"].matrix._choose(routes)
        self.window.do("shelf")
        self.settle()
        self.assertIn("3 routes", self.shelf.target.text())
        self.take("Next berth")
        click(self.shelf.use)
        self.assertEqual({route_by_id(self.project, ident).transition.duration for ident in routes}, {380.0})

    def test_several_kinds_can_be_kept(self) -> None:
        row = self.open_on("Grey Stack photo")
        with mock.patch.object(self.window, "ask", new=keeping("Its curve", 1, "photo, calm")):
            click(self.station.save)
        self.assertEqual(self.shelf.chosen.preset.kind, "curve")
        self.assertEqual(self.shelf.chosen.preset.tags, ("photo", "calm"))
        self.station.pick(row.key)
        self.station.pick_also(self.row("Grey Stack time").key)
        with mock.patch.object(self.window, "ask", new=keeping("Both")):
            click(self.station.save)
        self.assertEqual(self.shelf.chosen.preset.kind, "shared")
        self.assertIn("Grey Stack photo is", self.shelf._roles(self.shelf.chosen.preset).replace("<b>", ""))

    def test_names_tags_and_copies(self) -> None:
        self.open_on("Board button")
        self.window.keep_preset("One")
        self.shelf.rename("Two")
        self.assertEqual([p.name for p in self.workspace.shelf.read().presets], ["Two"])
        self.shelf.duplicate()
        self.assertEqual([p.name for p in self.workspace.shelf.read().presets], ["Two", "Two copy 1"])
        self.shelf.rename("two")
        self.assertIn("already", self.window.said.text())
        with mock.patch("PySide6.QtWidgets.QInputDialog.getText", return_value=("quick, quick, small", True)):
            self.shelf._tag()
        self.assertEqual(self.shelf.chosen.preset.tags, ("quick", "small"))
        self.take("Fade in")
        menu = {action.text(): action.isEnabled() for action in self.shelf.more_menu().actions()}
        self.assertFalse(menu["Rename…"])
        self.assertTrue(menu["Duplicate"])

    def test_packs_and_tokens_are_given_and_taken(self) -> None:
        self.open_on("Board button")
        preset = record.capture_transition(self.project, self.workspace.route.id, "All of it")
        with tempfile.TemporaryDirectory() as folder:
            for ending in (".avelt-pack", ".tokens.json", ".avelt-preset"):
                path = Path(folder) / f"given{ending}"
                self.shelf.save_to(preset, path)
                self.assertEqual(read_file(path), ((preset,), ()))
            self.shelf.import_presets([path])
            self.assertEqual(self.shelf.cards.chosen, "All of it")
            self.shelf.import_presets([path])
            self.assertIn("already", self.window.said.text())

    def test_keys(self) -> None:
        self.open_on("Board button")
        cards = self.shelf.cards
        cards.setFocus()
        first = cards.chosen
        QTest.keyClick(cards, Qt.Key.Key_Right)
        self.assertNotEqual(cards.chosen, first)
        QTest.keyClick(cards, Qt.Key.Key_A)
        self.assertTrue(cards.all_move)
        self.take("Bobs up")
        before = self.project
        QTest.keyClick(cards, Qt.Key.Key_Return)
        self.assertIsNot(self.project, before)

    def test_the_chosen_row_stays_in_sight(self) -> None:
        self.open_on("Board button")
        body, sheet = self.station.sheet.body, self.station.sheet
        place = next(k for k, r in enumerate(body.rows) if r.key == self.station.context.key)
        top = sheet.scroller.verticalScrollBar().value()
        self.assertLessEqual(top, place * 29)
        self.assertGreaterEqual(top + sheet.scroller.viewport().height(), place * 29 + 29)


if __name__ == "__main__":
    unittest.main()
