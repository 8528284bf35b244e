"""Settings, keys of one's own, the lists of keys and words, how a project was left, and the guide."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLineEdit

from avelt.core.edits.project import new_project
from avelt.core.edits.routes import add_route, set_duration
from avelt.core.formats.project_file import save_project
from avelt.core.model.find import find_layer
from avelt.core.model.triggers import Tap
from avelt.demo.shipped import shipped_demo
from avelt.window.common import session
from avelt.window.common.remembered import Remembered
from avelt.window.common.settings import ROWS, Settings, SettingsKeeper, desktop_wants_less
from avelt.window.controls import number_text
from avelt.window.shell.glossary import WORDS
from avelt.window.shell.guide import STEPS
from avelt.window.shell.key_table import EVERYWHERE, KeyRow, conflicts, rows
from avelt.window.shell.settings_form import SettingsForm
from avelt.window.shell.sheets import KeysSheet, WordsSheet
from tests.support import WindowCase, click


class Kept(unittest.TestCase):
    def setUp(self) -> None:
        self.room = tempfile.TemporaryDirectory()
        self.folder = Path(self.room.name)

    def tearDown(self) -> None:
        self.room.cleanup()

    def test_they_are_there_the_next_time(self) -> None:
        path = self.folder / "below" / "settings.json"
        keeper = SettingsKeeper(path)
        told: list[bool] = []
        keeper.changed.connect(lambda: told.append(True))
        keeper.change(theme="dark", autosave=60)
        keeper.set_keys("save", "Ctrl+Shift+X")
        keeper.change(theme="dark")
        self.assertEqual(len(told), 2)
        again = SettingsKeeper(path)
        self.assertEqual(again.value, keeper.value)
        self.assertEqual((again.keys_of("save", "Ctrl+S"), again.keys_of("undo", "Ctrl+Z")), ("Ctrl+Shift+X", "Ctrl+Z"))
        again.set_keys("save", None)
        self.assertEqual(again.value.keys, {})

    def test_a_broken_file_gives_the_usual_ones(self) -> None:
        path = self.folder / "settings.json"
        for text in ("{", '{"theme": "loud"}', "[]"):
            path.write_text(text)
            with self.assertLogs("avelt", "WARNING"):
                self.assertEqual(SettingsKeeper(path).value, Settings())

    def test_every_choice_of_a_row_is_one_of_its_setting(self) -> None:
        for row in ROWS:
            for value, _ in row.choices:
                keeper = SettingsKeeper(self.folder / "s.json")
                keeper.change(**{row.name: value})
                self.assertEqual(getattr(SettingsKeeper(self.folder / "s.json").value, row.name), value)

    def test_less_motion_as_the_desktop_says(self) -> None:
        self.assertFalse(desktop_wants_less(self.folder))
        (self.folder / "gtk-3.0").mkdir()
        (self.folder / "gtk-3.0" / "settings.ini").write_text("[Settings]\ngtk-enable-animations=false\n")
        self.assertTrue(desktop_wants_less(self.folder))
        (self.folder / "gtk-3.0" / "settings.ini").write_text("nonsense")
        self.assertFalse(desktop_wants_less(self.folder))
        (self.folder / "kdeglobals").write_text("[KDE]\nAnimationDurationFactor=0\n")
        self.assertTrue(desktop_wants_less(self.folder))
        keeper = SettingsKeeper()
        for wanted, less in (("full", False), ("less", True)):
            keeper.change(motion=wanted)
            self.assertEqual(keeper.less_motion, less)

    def test_how_projects_were_left(self) -> None:
        memory = Remembered(self.folder / "window.json")
        paths = [self.folder / f"{k}.avelt" for k in range(15)]
        for path in paths:
            path.write_text("x")
            session.was_open(memory, path)
            session.leave(memory, path, {"station": path.stem})
        paths[14].unlink()
        again = Remembered(self.folder / "window.json")
        self.assertEqual([path.stem for path in session.recent(again)[:2]], ["13", "12"])
        self.assertEqual(len(session.recent(again)), session.MOST_RECENT - 1)
        self.assertEqual(session.left(again, paths[3]), {"station": "3"})
        self.assertEqual(session.left(again, self.folder / "never.avelt"), {})
        for text in ("[", "3", '{"a": 3}'):
            again.keep("left", text)
            again.keep("recent", text)
            self.assertEqual((session.left(again, paths[3]), session.recent(again)), ({}, []))


class Keys(unittest.TestCase):
    def test_usual_keys_of_one_place_are_for_one_thing(self) -> None:
        self.assertEqual(conflicts(rows(), lambda ident, usual: usual), {})
        self.assertEqual(len({row.ident for row in rows()}), len(rows()))

    def test_conflicts_are_found_where_both_count(self) -> None:
        table = [
            KeyRow("a", EVERYWHERE, "A", "Ctrl+J"),
            KeyRow("b", "timing", "B", "ctrl+j"),
            KeyRow("c", "loops", "C", "K"),
        ]
        self.assertEqual(conflicts(table, lambda ident, usual: usual), {"a": ("B",), "b": ("A",)})
        self.assertEqual(conflicts(table, lambda ident, usual: "K" if ident == "b" else usual), {})
        self.assertEqual(conflicts(table, lambda ident, usual: ""), {})


class InTheWindow(WindowCase, unittest.TestCase):
    def tearDown(self) -> None:
        number_text.show_comma(False)
        super().tearDown()

    def form(self) -> SettingsForm:
        form = SettingsForm(self.window, self.window.settings, self.workspace.theme)
        form.show()
        self.settle()
        return form

    def choose(self, form: SettingsForm, words: str) -> None:
        form.search.setText(words)
        place = next(k for k, row in enumerate(form._rows) if row.words == words)
        form.list.setCurrentIndex(form.list.model().index(place, 0))

    def test_other_keys_do_it_and_the_old_ones_do_not(self) -> None:
        form = self.form()
        self.choose(form, "Dark or light")
        QTest.keyClick(form.keys, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
        form.keys.editingFinished.emit()
        self.assertEqual(self.window.settings.keys_of("dark", ""), "Ctrl+J")
        form.close()
        form.deleteLater()
        self.settle()
        self.window.activateWindow()
        self.window.setFocus()
        self.settle()
        dark = self.workspace.theme.dark
        QTest.keyClick(
            self.window, Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
        )
        self.assertEqual(self.workspace.theme.dark, dark)
        QTest.keyClick(self.window, Qt.Key.Key_J, Qt.KeyboardModifier.ControlModifier)
        self.assertNotEqual(self.workspace.theme.dark, dark)

    def test_a_conflict_is_shown_and_the_usual_keys_come_back(self) -> None:
        form = self.form()
        self.choose(form, "Shelf")
        form._set("Ctrl+K")
        self.assertIn("Find", form.says.text())
        self.assertIn("also: Find…", [form.list.topLevelItem(k).text(3) for k in range(form.list.topLevelItemCount())])
        click(form.usual)
        self.assertEqual((form.says.text(), self.window.settings.value.keys), ("", {}))
        form.close()

    def test_playing_and_stepping_have_keys_of_ones_own_too(self) -> None:
        form = self.form()
        for words, keys in (("Play or stop", "Ctrl+P"), ("One frame on", "N")):
            self.choose(form, words)
            form._set(keys)
        form.close()
        form.deleteLater()
        self.window.go("timing")
        self.window.activateWindow()
        station = self.window.stations["timing"]
        station.setFocus()
        self.settle()
        clock = self.window.clock()
        assert clock is not None
        clock.stop()
        clock.seek(100.0)
        QTest.keyClick(station, Qt.Key.Key_Period)
        self.assertEqual(clock.ms, 100.0)
        QTest.keyClick(station, Qt.Key.Key_N)
        self.assertGreater(clock.ms, 100.0)
        QTest.keyClick(station, Qt.Key.Key_Space)
        self.assertFalse(clock.playing)
        QTest.keyClick(station, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
        self.assertTrue(clock.playing)
        field = station.findChild(QLineEdit)
        field.setFocus()
        self.settle()
        at = clock.playing
        QTest.keyClick(field, Qt.Key.Key_N)
        self.assertEqual(field.text()[-1:], "n")
        QTest.keyClick(field, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
        self.assertNotEqual(clock.playing, at)

    def test_keys_of_a_station_and_of_frames(self) -> None:
        self.window.go("frames")
        self.window.settings.set_keys("frames: group", "Ctrl+Shift+J")
        shortcut = self.window.stations["frames"].shortcuts["group"]
        self.assertEqual(shortcut.key(), QKeySequence("Ctrl+Shift+J"))
        self.window.go("timing")
        station = self.window.stations["timing"]
        watch = next(row for row in rows() if row.scope == "timing" and row.usual == "W")
        self.window.settings.set_keys(watch.ident, "Q")
        with mock.patch.object(station.ties, "watch") as watched:
            QTest.keyClick(station, Qt.Key.Key_W)
            self.assertFalse(watched.called)
            QTest.keyClick(station, Qt.Key.Key_Q)
            self.assertTrue(watched.called)

    def test_decimals_with_a_comma(self) -> None:
        self.window.settings.change(numbers="comma")
        self.window.go("timing")
        self.settle()
        field = self.window.shelf.fields.stretch
        field.show_value(1.5)
        self.assertEqual(field.text(), "1,5 ×")
        self.window.settings.change(numbers="point")
        field.show_value(2.5)
        self.assertEqual(field.text(), "2.5 ×")

    def test_with_less_motion_nothing_plays_by_itself(self) -> None:
        self.window.settings.change(motion="less")
        self.window.go("loops")
        self.assertFalse(self.window.stations["loops"].clock.playing)
        self.window.do("shelf")
        self.assertFalse(self.window.shelf.clock.playing)
        self.window.settings.change(motion="full")
        self.window.go("frames")
        self.window.go("loops")
        self.assertTrue(self.window.stations["loops"].clock.playing)

    def test_autosave_and_colours(self) -> None:
        form = self.form()
        form.picks["autosave"].setCurrentIndex(2)
        form.picks["autosave"].activated.emit(2)
        self.assertEqual(self.window.keeper._timer.interval(), 60_000)
        form.picks["theme"].setCurrentIndex(2)
        form.picks["theme"].activated.emit(2)
        self.assertTrue(self.workspace.theme.dark)
        form.close()

    def test_the_keys_that_count_here(self) -> None:
        self.window.go("timing")
        sheet = KeysSheet(self.window, self.window.settings, "timing", "Timing")
        scopes = {row.scope for row in sheet.shown}
        self.assertEqual(scopes, {"timing", EVERYWHERE})
        with mock.patch.object(type(self.window), "ask") as asked:
            QTest.keyClicks(self.window.stations["timing"], "?")
            self.settle()
        self.assertEqual(asked.call_count, 1)

    def test_every_word_is_explained_and_found(self) -> None:
        self.assertEqual([word for word, _ in WORDS], sorted({word for word, _ in WORDS}))
        self.assertTrue(all(says.endswith(".") and len(says) < 130 for _, says in WORDS))
        sheet = WordsSheet(self.window, "tie")
        self.assertEqual(sheet.list.topLevelItem(0).text(0), "tie")
        self.window.do("find")
        QTest.keyClicks(self.window.finder.field, "what is stagger")
        with mock.patch.object(type(self.window), "ask") as asked:
            QTest.keyClick(self.window.finder.field, Qt.Key.Key_Return)
        self.assertEqual(asked.call_args.args[0].search.text(), "stagger")

    def test_a_project_goes_on_where_it_was_left(self) -> None:
        path = Path(self.folder.name) / "p.avelt"
        save_project(shipped_demo(), path)
        self.window.open_file(path)
        frame = self.workspace.project.frames[2]
        self.workspace.choose(frame.id)
        self.workspace.choose_route(self.workspace.project.routes[3].id)
        self.window.go("pairs")
        self.window.stations["frames"].board.viewport.restore(2.0, 30.0, 0.0)
        self.window.keep_session()
        self.window.show_project(new_project("other"), None)
        self.window.open_file(path)
        self.assertEqual((self.window.current, self.workspace.frame.id), ("pairs", frame.id))
        self.assertEqual(self.workspace.route.id, self.workspace.project.routes[3].id)
        self.assertEqual(self.window.stations["frames"].board.viewport.zoom, 2.0)
        self.assertEqual(session.recent(self.workspace.remembered), [path.resolve()])

    def test_what_was_left_and_is_gone_is_passed_over(self) -> None:
        path = Path(self.folder.name) / "p.avelt"
        save_project(shipped_demo(), path)
        how = {"station": "nowhere", "frame": "gone", "route": 3, "zoom": ["a", 1, 2]}
        session.leave(self.workspace.remembered, path, how)
        self.assertTrue(self.window.open_file(path))
        self.assertEqual(self.window.current, "frames")


class Beginning(WindowCase, unittest.TestCase):
    demo = False

    def test_the_empty_start_leads_on(self) -> None:
        path = Path(self.folder.name) / "last.avelt"
        save_project(shipped_demo(), path)
        self.window.landing.show_recent([path])
        click(self.window.landing.files.itemAt(1).widget())
        self.assertEqual(self.workspace.path, path)
        self.window.show_project(new_project("again"), None)
        self.assertIs(self.window.stack.currentWidget(), self.window.landing)
        click(self.window.landing.blank)
        self.settle()
        self.assertEqual(len(self.workspace.project.frames), 1)
        self.assertIs(self.window.stack.currentWidget(), self.window.stations["frames"])
        self.window.do("undo")
        self.assertIs(self.window.stack.currentWidget(), self.window.landing)
        click(self.window.landing.demo)
        self.assertGreater(len(self.workspace.project.routes), 5)

    def test_the_guide_walks_through_a_first_transition(self) -> None:
        click(self.window.landing.guide)
        guide = self.window.guide
        self.assertTrue(guide.isVisible())
        self.assertEqual((guide.number.text(), len(STEPS)), ("1 of 5", 5))
        click(guide.help)
        self.settle()
        self.assertEqual(guide.number.text(), "2 of 5")
        click(guide.help)
        self.assertEqual(self.window.current, "routes")
        ids = [frame.id for frame in self.workspace.project.frames]
        card = find_layer(self.workspace.project.frames[0], "Grey Stack card").id
        self.workspace.make("route", lambda p: add_route(p, ids[0], ids[1], Tap(card)))
        guide.look()
        self.assertEqual(guide.number.text(), "3 of 5")
        click(guide.help)
        self.assertEqual(guide.number.text(), "4 of 5")
        click(guide.help)
        self.assertEqual((self.window.current, guide.number.text()), ("timing", "4 of 5"))
        route = self.workspace.project.routes[0]
        self.workspace.do("longer", lambda p: set_duration(p, route.id, 450.0))
        guide.look()
        self.assertEqual(guide.number.text(), "5 of 5")
        click(guide.help)
        self.settle()
        station = self.window.stations["rehearse"]
        station.rehearsal.player.press(100.0, 250.0)
        station.rehearsal.player.release(100.0, 250.0)
        guide.look()
        self.assertEqual(guide.number.text(), "Done")
        click(guide.leave)
        self.assertFalse(guide.isVisible())

    def test_it_can_be_left_and_steps_skipped(self) -> None:
        self.window.do("guide")
        for _ in STEPS:
            click(self.window.guide.skip)
        self.assertEqual(self.window.guide.number.text(), "Done")
        self.assertEqual(self.workspace.project.frames, ())
        self.window.do("guide")
        click(self.window.guide.leave)
        self.assertFalse(self.window.guide._timer.isActive())


if __name__ == "__main__":
    unittest.main()
