"""The shelf: what is on it, what fits what is chosen, made to measure, seen before it is put, kept in order."""

import tempfile
import unittest
from contextlib import closing
from pathlib import Path
from typing import Any
from unittest import mock

from dulwich.repo import Repo
from msgspec.structs import replace
from PySide6.QtCore import Qt, QThreadPool
from PySide6.QtTest import QSignalSpy, QTest
from PySide6.QtWidgets import QInputDialog, QMenu

from avelt.core.edits.routes import set_cue
from avelt.core.model.find import find_frame, find_layer, route_by_id
from avelt.core.presets import record, team
from avelt.core.presets.files import read_file
from avelt.core.presets.shelf import Shelf as Mine
from avelt.core.presets.shelf import built_in
from avelt.core.presets.team import join, joined, published
from avelt.core.presets.values import KINDS, Preset
from avelt.core.timing.schedule import timed
from avelt.window.shelf.history_form import HistoryForm
from avelt.window.shelf.liking import ONLY
from avelt.window.shelf.settle_form import SettleForm
from tests.support import WindowCase, click, keeping, type_into


def built(name: str) -> Preset:
    """A preset of the catalogue."""
    return next(preset for preset in built_in() if preset.name == name)


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
        type_into(self.shelf.fields.stretch, "0.5")
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
        type_into(self.shelf.fields.strength, "2")
        self.shelf.fields.direction.setCurrentText("up")
        self.shelf.fields.direction.activated.emit(0)
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

    def test_loops_go_on_layers_of_several_frames_at_once(self) -> None:
        self.window.go("frames")
        first, second = self.project.frames[:2]
        spots = [(second.id, second.layers[0].id), (second.id, second.layers[1].id), (first.id, first.layers[0].id)]
        self.workspace.choose_several(spots)
        self.window.do("shelf")
        self.settle()
        self.assertIn("3 layers</b> in 2 frames", self.shelf.target.text())
        before = [len(frame.loops) for frame in self.project.frames[:2]]
        self.take("At anchor")
        click(self.shelf.use)
        after = [len(frame.loops) for frame in self.project.frames[:2]]
        self.assertEqual(after, [before[0] + 1, before[1] + 2])
        self.window.do("undo")  # one entry
        self.assertEqual([len(frame.loops) for frame in self.project.frames[:2]], before)

    def test_a_note_is_written_and_shown(self) -> None:
        self.workspace.shelf.keep(replace(built("Bobs up"), name="Mine", when=""))
        self.open_on("Board button")
        self.shelf.show_mine("Mine")
        self.shelf.refresh()
        note = next(a for a in self.shelf.more_menu().actions() if a.text() == "Note…")
        with mock.patch.object(QInputDialog, "getMultiLineText", return_value=(" For tickets only ", True)):
            note.trigger()
        self.assertEqual(self.workspace.shelf.find("Mine").note, "For tickets only")
        self.assertIn("For tickets only", self.shelf.about.text())

    def test_whole_transitions_go_on_all_chosen_routes(self) -> None:
        self.window.go("routes")
        routes = [route.id for route in self.project.routes[:3]]
        self.window.stations["routes"].matrix.choose(routes)
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

    def test_of_one_name_ones_own_comes_first(self) -> None:
        self.open_on("Board button")
        self.window.keep_preset("Bobs up")
        found = [entry for entry in self.shelf.cards.entries if entry.name == "Bobs up"]
        self.assertEqual([entry.place for entry in found], ["mine"])
        click(self.shelf.where.button(1))
        found = [entry for entry in self.shelf.cards.entries if entry.name == "Bobs up"]
        self.assertEqual([entry.place for entry in found], ["built in"])

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

    def test_keep_put_give_and_take(self) -> None:
        row = next(r for r in self.station.sheet.body.rows if r.right_name == "Board button")
        self.station.pick(row.key)
        with mock.patch.object(self.window, "ask", new=keeping("Tide in")):
            click(self.station.save)
        self.assertTrue(self.shelf.isVisible())
        other = next(r for r in self.station.sheet.body.rows if r.right_name == "Facts")
        self.shelf.close_shelf()
        self.station.pick(other.key)
        self.window.do("shelf")
        self.assertIn("Facts", self.shelf.target.text())
        click(self.shelf.use)
        new = timed(self.project, self.workspace.route.transition, *other.key)
        self.assertEqual((new.start, new.end), (280, 480))
        self.assertEqual(self.workspace.session.undo_label, "put Tide in on")
        path = Path(self.folder.name) / "given.avelt-preset"
        self.shelf.save_to(self.shelf.chosen.preset, path)
        menu = {action.text(): action for action in self.shelf.more_menu().actions()}
        menu["Remove from the shelf"].trigger()
        self.assertEqual(self.workspace.shelf.read().presets, ())
        self.shelf.put_back()
        self.assertEqual([p.name for p in self.workspace.shelf.read().presets], ["Tide in"])
        self.workspace.shelf.remove("Tide in")
        self.shelf.import_presets([path])
        self.assertEqual(self.shelf.cards.chosen, "Tide in")
        (Path(self.folder.name) / "bad.avelt-preset").write_text('{"name":"x","kind":"enter","length":1,"format":9}')
        self.shelf.import_presets([Path(self.folder.name) / "bad.avelt-preset"])
        self.assertIn("newer Avelt", self.window.said.text())

    def test_cards_move(self) -> None:
        self.window.keep_preset("One")
        first = self.shelf.cards.grab().toImage()
        self.shelf.clock.stop()
        self.shelf._ticked(300.0)
        self.settle()
        self.assertNotEqual(self.shelf.cards.grab().toImage(), first)
        QTest.keyClick(self.shelf, Qt.Key.Key_Escape)
        self.assertFalse(self.shelf.isVisible())


class Linked(WindowCase, unittest.TestCase):
    """A linked use changes with its preset, when the shelf changes and when the project is opened."""

    def setUp(self) -> None:
        super().setUp()
        self.window.go("timing")
        self.settle()
        self.station, self.shelf = self.window.stations["timing"], self.window.shelf
        body = self.station.sheet.body
        self.row = next(r for r in body.rows if r.right_name == "Board button" and not r.prop)
        self.station.pick(self.row.key)
        self.workspace.shelf.keep(replace(built("Bobs up"), name="Mine"))
        self.window.do("shelf")
        self.shelf.choose("Mine")
        click(self.shelf.fields.linked)
        click(self.shelf.use)

    def lasts(self) -> float:
        when = timed(self.project, self.workspace.route.transition, *self.row.key)
        return when.end - when.start

    def change(self) -> None:
        """The preset is improved: it takes half as long."""
        old = built("Bobs up")
        self.workspace.shelf.keep(replace(old, name="Mine", cues=(replace(old.cues[0], end=0.5),)))

    def test_it_follows_its_preset_and_can_be_undone(self) -> None:
        self.assertEqual([link.preset for link in self.project.links], ["Mine"])
        before = self.lasts()
        self.change()
        self.shelf._shelf_changed()
        self.assertAlmostEqual(self.lasts(), before / 2)
        self.assertIn("Mine", self.window.said.text())
        self.assertEqual(self.workspace.session.undo_label, "take changed presets")
        self.window.do("undo")
        self.assertAlmostEqual(self.lasts(), before)

    def test_where_it_is_linked(self) -> None:
        place = {entry.words: k for k, entry in enumerate(ONLY)}

        def found(words: str) -> list[str]:
            self.shelf.only.setCurrentIndex(place[words])
            self.shelf.only.activated.emit(place[words])
            return [entry.name for entry in self.shelf.cards.entries]

        self.assertEqual((found("linked in this file"), found("linked in any file")), (["Mine"], ["Mine"]))
        path = Path(self.folder.name) / "one.avelt"
        self.window.save_to(path)
        self.window.do("undo")
        self.assertEqual((found("linked in this file"), found("linked in any file")), ([], ["Mine"]))
        self.window.belongs_to(Path(self.folder.name) / "two.avelt")
        texts = [action.text() for action in self.shelf.more_menu().actions()]
        self.assertIn("In one.avelt: 1 use", texts)

    def test_another_window_is_heard_at_once(self) -> None:
        there = Path(self.folder.name) / "team.git"
        there.mkdir()
        Repo.init_bare(str(there)).close()
        mine = Mine(self.workspace.shelf.folder)  # as another window has it
        join(mine, str(there)).close()
        self.shelf.close_shelf()
        self.window.do("shelf")

        def heard(name: str) -> bool:
            for _ in range(20):
                if name in [entry.name for entry in self.shelf.cards.entries]:
                    return True
                QSignalSpy(self.shelf.watcher.directoryChanged).wait(500)
            return False

        mine.keep(replace(built("Bobs up"), name="From elsewhere"))
        self.assertTrue(heard("From elsewhere"))
        with closing(joined(mine)) as shared:
            shared.publish([replace(built("Bobs up"), name="For all")])
        self.assertTrue(heard("For all"))

    def test_it_follows_when_the_project_is_opened(self) -> None:
        before = self.lasts()
        path = Path(self.folder.name) / "linked.avelt"
        self.window.save_to(path)
        self.change()
        self.window.open_file(path)
        self.assertAlmostEqual(self.lasts(), before / 2)

    def test_own_changes_are_shown_and_taken_back(self) -> None:
        self.assertIn("as the preset", self.uses()[0].title())
        self.workspace.do("", lambda p: set_cue(p, self.workspace.route.id, self.row.key, end=400.0))
        (use,) = self.uses()
        self.assertIn("own times and curve", use.title())
        before = self.lasts()
        next(action for action in use.actions() if action.text() == "As the preset again").trigger()
        self.assertNotEqual(self.lasts(), before)
        self.assertIn("as the preset", self.uses()[0].title())
        next(action for action in self.uses()[0].actions() if action.text() == "Cut loose").trigger()
        self.assertEqual(self.project.links, ())
        self.assertEqual(self.uses(), [])

    def uses(self) -> list[QMenu]:
        return self.shelf.more_menu().findChildren(QMenu)


class WithATeam(WindowCase, unittest.TestCase):
    """A repository that others can reach; somebody else is Ben."""

    def setUp(self) -> None:
        super().setUp()
        self.window.go("timing")
        self.settle()
        self.shelf = self.window.shelf
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder_of_all = Path(folder.name)
        self.where = self.folder_of_all / "team.git"
        self.where.mkdir()
        Repo.init_bare(str(self.where)).close()
        own = mock.patch.object(self.workspace.shelf, "folder", self.folder_of_all / "me" / "presets")
        own.start()
        self.addCleanup(own.stop)
        self.window.do("shelf")
        click(self.shelf.where.button(3))

    def joined(self) -> None:
        with mock.patch("PySide6.QtWidgets.QInputDialog.getText", return_value=(str(self.where), True)):
            self.act("Join a shelf…")
        self.finish()

    def act(self, words: str) -> None:
        """Choose something of the team's menu."""
        next(action for action in self.shelf.team.menu().actions() if action.text() == words).trigger()

    def finish(self) -> None:
        """Wait for what goes on in the background."""
        QThreadPool.globalInstance().waitForDone()
        self.settle()

    def menu(self) -> dict[str, Any]:
        return {action.text(): action for action in self.shelf.more_menu().actions()}

    def by_ben(self, *presets: Preset) -> None:
        """Ben sends presets."""
        ben = Mine(self.folder_of_all / "ben" / "presets")
        with closing(join(ben, str(self.where)) if not published(ben) else team.joined(ben)) as found:
            found.sync(str)
            found.publish(list(presets))
            found.sync(str)

    def test_joined_sent_and_taken(self) -> None:
        self.assertIn("No team", self.shelf.note.text())
        self.joined()
        self.assertIn("same here and there", self.shelf.note.text())
        self.window.keep_preset("Mine")
        self.settle()
        self.menu()["Send to the team"].trigger()
        click(self.shelf.where.button(3))
        self.assertIn("1 waits to be sent", self.shelf.note.text())
        self.act("Send and take")
        self.assertIn("Asking", self.shelf.note.text())
        self.finish()
        self.assertIn("same here and there", self.shelf.note.text())
        self.assertEqual([entry.name for entry in self.shelf.cards.entries], ["Mine"])
        self.by_ben(replace(built_in()[0], name="Ben's own"))
        self.act("Send and take")
        self.finish()
        self.assertEqual([entry.name for entry in self.shelf.cards.entries], ["Ben's own", "Mine"])
        self.shelf.choose("Mine")
        self.menu()["Take back from the team"].trigger()
        self.assertEqual([entry.name for entry in self.shelf.cards.entries], ["Ben's own"])
        self.act("Leave it")
        self.assertEqual(self.shelf.cards.entries, ())

    def test_an_older_version_is_put_back(self) -> None:
        self.joined()
        first = replace(built_in()[0], name="Tide", duration=100.0)
        self.shelf.team.publish(first)
        self.shelf.team.publish(replace(first, duration=200.0))
        self.shelf.choose("Tide")
        newest, oldest = self.shelf.team.versions("Tide").actions()
        self.assertIn("Tide", newest.text())
        oldest.trigger()
        self.assertEqual(self.shelf.chosen.preset.duration, 100.0)

    def test_versions_move_and_say_what_differs(self) -> None:
        self.joined()
        first = replace(built_in()[0], name="Tide", duration=100.0)
        self.shelf.team.publish(first)
        self.shelf.team.publish(replace(first, duration=200.0))
        self.shelf.choose("Tide")
        told: list[str] = []

        def answer(panel: Any, form: HistoryForm) -> bool:
            told.append(form.says.text())
            self.assertFalse(form.back.isEnabled())
            form.list.setCurrentRow(1)
            told.append(form.says.text())
            self.assertEqual(form.cards.entries[0].preset.duration, 100.0)
            self.assertTrue(form.back.isEnabled() and form.clock.playing)
            return True

        with mock.patch.object(type(self.shelf), "ask", answer):
            next(a for a in self.shelf.more_menu().actions() if a.text() == "Versions, moving…").trigger()
        self.assertIn("the same as now", told[0])
        self.assertIn("100", told[1])
        self.assertEqual(self.shelf.chosen.preset.duration, 100.0)

    def test_two_versions_are_settled_beside_each_other(self) -> None:
        self.joined()
        first = replace(built_in()[0], name="Tide", duration=100.0)
        self.shelf.team.publish(first)
        self.act("Send and take")
        self.finish()
        self.by_ben(replace(first, duration=300.0))
        self.shelf.team.publish(replace(first, duration=200.0))
        self.act("Send and take")
        self.finish()
        self.assertIn("1 to settle", self.shelf.note.text())
        (clash,) = self.shelf.team.status().conflicts
        form = SettleForm(self.workspace, self.window, clash)
        self.assertIn("It lasts 300 ms, not 200 ms.", form.words.text())
        form.show()
        click(form.buttons["both"])
        self.assertEqual((form.result(), form.keep), (1, "both"))
        with mock.patch.object(SettleForm, "exec", return_value=1):
            self.act("Settle Tide…")
        self.act("Send and take")
        self.finish()
        self.assertEqual([entry.name for entry in self.shelf.cards.entries], ["Tide", "Tide 2"])

    def test_offline_is_said_and_nothing_is_lost(self) -> None:
        self.joined()
        self.shelf.team.publish(replace(built_in()[0], name="Tide"))
        self.where.rename(self.folder_of_all / "away.git")
        self.act("Send and take")
        self.finish()
        self.assertIn("cannot be reached", self.window.said.text())
        self.assertIn("1 waits", self.shelf.note.text())
        self.assertEqual([entry.name for entry in self.shelf.cards.entries], ["Tide"])


if __name__ == "__main__":
    unittest.main()
