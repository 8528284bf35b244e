"""Work that was not saved survives a stop that was no closing; files that others write are never overwritten unasked."""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import unittest
from datetime import datetime
from pathlib import Path
from typing import Any
from unittest import mock

import msgspec
from PySide6.QtCore import QThreadPool
from PySide6.QtWidgets import QFileDialog

from avelt.core.edits.frames import remove_frame
from avelt.core.errors import FileError
from avelt.core.formats import project_file
from avelt.core.formats.project_file import open_project, save_project
from avelt.window.shell import recovery
from avelt.window.shell.recovery import Recovery
from avelt.window.shell.versions_form import VersionsForm, when
from tests.support import WindowCase, click


class Case(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.file = Path(self.folder.name) / "mine.avelt"

    def change(self, name: str) -> None:
        self.workspace.do("rename", lambda p: msgspec.structs.replace(p, name=name))

    def look(self) -> bool:
        found = self.window.keeper.look()
        QThreadPool.globalInstance().waitForDone(30_000)
        return found

    def killed(self, name: str) -> None:
        """This window changes something and stops as after a crash; another one is opened."""
        self.change(name)
        self.assertTrue(self.look())
        self.window.keeper.abandon()
        self.close_window(self.window)
        self.window = self.open_window()

    def close_window(self, window: object) -> None:
        with mock.patch.object(window.keeper, "stop", window.keeper.stop if self._lives(window) else lambda: None):  # type: ignore[attr-defined]
            super().close_window(window)  # type: ignore[arg-type]

    def _lives(self, window: object) -> bool:
        return window.keeper.recovery.own in recovery._LIVE  # type: ignore[attr-defined]

    def offered(self, *answers: str) -> list[str]:
        """The questions asked, each answered."""
        with mock.patch.object(type(self.window), "choose", side_effect=[*answers, ""]) as asked:
            self.window.offer_recovered()
        return [call.args[1] for call in asked.call_args_list]


class Recovering(Case):
    def test_only_what_changed_is_kept_and_only_once(self) -> None:
        self.assertFalse(self.look())
        self.change("Tide table")
        self.assertTrue(self.look())
        self.assertFalse(self.look())
        self.assertEqual(open_project(self.window.keeper.recovery.file), self.project)
        self.change("Tide table 2")
        self.assertTrue(self.look())

    def test_after_a_crash_it_is_offered_and_counts_as_not_saved(self) -> None:
        save_project(self.project, self.file)
        self.window.belongs_to(self.file)
        self.killed("Half done")
        (words,) = self.offered("open")
        self.assertIn("“Half done” (mine.avelt)", words)
        self.assertEqual((self.project.name, self.workspace.path), ("Half done", self.file))
        self.assertTrue(self.workspace.session.changed)
        # Until it is saved it stands as this window's own.
        self.assertEqual(open_project(self.window.keeper.recovery.file).name, "Half done")
        self.assertEqual(self.offered(), [])
        self.window.save_to(self.file)
        self.assertFalse(self.window.keeper.recovery.file.exists())
        self.assertEqual(open_project(self.file).name, "Half done")

    def test_what_changed_since_stands_in_the_journal_and_comes_back_too(self) -> None:
        self.change("First")
        self.look()
        self.killed("Second")
        (kept,) = self.window.keeper.recovery.kept()
        self.assertEqual((open_project(kept.record).name, kept.project.name), ("First", "Second"))
        self.assertEqual(len(self.offered("open")), 1)
        self.assertEqual(self.project.name, "Second")
        # Taken over it stands as this window's own, both parts of it, until it is saved.
        own = self.window.keeper.recovery
        self.assertTrue(own.file.exists() and own.journal.exists())
        self.assertFalse(kept.record.exists())
        self.window.save_to(self.file)
        self.assertEqual([own.file.exists(), own.journal.exists()], [False, False])

    def test_a_long_journal_becomes_a_new_record(self) -> None:
        own = self.window.keeper.recovery
        with mock.patch.object(recovery, "_LONGEST", 0), mock.patch.object(recovery, "_SHORTEST", 500):
            sizes = []
            for number in range(6):
                self.change(f"Change {number}")
                self.look()
                sizes.append(own.journal.stat().st_size if own.journal.exists() else 0)
        self.assertLess(max(sizes), 500)
        self.assertGreater(sizes.count(0), 1)
        self.window.keeper.abandon()
        self.assertEqual([entry.project.name for entry in Recovery(own.folder).kept()], ["Change 5"])

    def test_where_nothing_can_be_added_all_is_written(self) -> None:
        own = self.window.keeper.recovery
        self.change("First")
        self.look()
        own.journal.mkdir()
        self.change("Second")
        self.look()
        self.assertEqual(open_project(own.file).name, "Second")

    def test_two_links_of_one_record_are_offered_once(self) -> None:
        self.killed("Linked")
        own = self.window.keeper.recovery
        (kept,) = own.kept()
        os.link(kept.record, kept.record.with_name("1-2-3.avelt"))
        self.assertEqual([entry.project.name for entry in own.kept()], ["Linked"])
        self.assertEqual(len([p for p in own.folder.iterdir() if p.suffix == ".avelt"]), 1)

    def test_asked_later_it_stays_and_refused_it_goes(self) -> None:
        self.killed("Perhaps")
        before = self.project
        self.assertEqual(len(self.offered("")), 1)
        self.assertEqual(len(self.offered("discard")), 1)
        self.assertIs(self.project, before)
        self.assertEqual(self.offered(), [])

    def test_two_windows_killed_give_both_back(self) -> None:
        self.killed("First")
        self.killed("Second")
        names = {words.split("“")[1].split("”")[0] for words in self.offered("open", "open")}
        self.assertEqual(names, {"First", "Second"})
        (other,) = self.window.others
        self.assertEqual({self.project.name, other.workspace.project.name}, {"First", "Second"})
        other.workspace.session.saved()
        other.close()

    def test_a_window_that_is_open_keeps_its_own(self) -> None:
        self.change("Mine")
        self.look()
        other = self.open_window()
        with mock.patch.object(type(other), "choose") as asked:
            other.offer_recovered()
        asked.assert_not_called()
        self.close_window(other)
        self.assertTrue(self.window.keeper.recovery.file.exists())

    def test_nothing_is_offered_that_was_saved_since(self) -> None:
        self.change("Saved")
        self.window.belongs_to(self.file)
        self.look()
        save_project(self.project, self.file)  # and then it stopped, before it could put its record away
        self.window.keeper.abandon()
        self.close_window(self.window)
        self.window = self.open_window()
        self.assertEqual(self.offered(), [])
        self.assertEqual([p.suffix for p in self.window.keeper.recovery.folder.iterdir() if p.suffix == ".avelt"], [])

    def test_closing_in_order_puts_it_away(self) -> None:
        self.change("Done")
        self.look()
        folder = self.window.keeper.recovery.folder
        self.close_window(self.window)
        self.assertEqual(os.listdir(folder), [])
        self.window = self.open_window()

    def test_a_record_that_cannot_be_read_is_put_aside_and_named(self) -> None:
        folder = self.window.keeper.recovery.folder
        folder.mkdir(parents=True, exist_ok=True)
        (folder / "1-1-1.avelt").write_bytes(b"half a file")
        said: list[str] = []
        with mock.patch.object(self.window, "say", said.append):
            self.assertEqual(self.offered(), [])
        self.assertIn("1-1-1.avelt.unreadable", said[0])
        self.assertTrue((folder / "1-1-1.avelt.unreadable").exists())

    def test_after_a_full_disk_it_is_tried_again(self) -> None:
        self.change("Full disk")
        with mock.patch.object(Recovery, "keep", side_effect=FileError("no room")):
            self.assertTrue(self.look())
        self.assertTrue(self.look())
        self.assertEqual(open_project(self.window.keeper.recovery.file).name, "Full disk")

    def test_a_folder_that_cannot_be_made_disturbs_nothing(self) -> None:
        blocked = Path(self.folder.name) / "file"
        blocked.write_text("in the way")
        self.window.keeper.recovery = Recovery(blocked / "state")
        self.change("Still here")
        self.assertTrue(self.look())
        self.assertEqual(self.project.name, "Still here")
        self.assertEqual(self.window.keeper.recovery.kept(), ())

    def test_numbers_of_processes_that_were_given_again_are_not_taken_for_living(self) -> None:
        self.assertFalse(recovery._is_alive(f"{os.getppid()}-1-1"))
        self.assertTrue(recovery._is_alive(f"{os.getppid()}-{recovery._began(os.getppid())}-1"))
        self.assertFalse(recovery._is_alive("nonsense"))


class Foreign(Case):
    def setUp(self) -> None:
        super().setUp()
        self.window.save_to(self.file)
        self.opened = self.project

    def shut(self, window: Any) -> None:
        """Close a window that this one opened: it has this one's theme."""
        window.workspace.session.saved()
        self.assertTrue(window.close())

    def written_by_another(self) -> None:
        theirs = remove_frame(self.opened, self.opened.frames[0].id)
        save_project(msgspec.structs.replace(theirs, name="Theirs"), self.file)

    def save(self, answer: str) -> tuple[bool, str]:
        with mock.patch.object(type(self.window), "choose", return_value=answer) as asked:
            done = self.window.do_save()
        return done, asked.call_args.args[1] if asked.called else ""

    def test_a_file_changed_meanwhile_is_asked_about(self) -> None:
        self.change("Mine")
        self.written_by_another()
        done, words = self.save("")
        self.assertFalse(done)
        self.assertIn("frame “Sailings” is only here", words)
        self.assertIn("more", words)
        self.assertEqual(open_project(self.file).name, "Theirs")
        self.assertTrue(self.workspace.session.changed)

    def test_both_can_be_kept(self) -> None:
        self.change("Mine")
        self.written_by_another()
        self.assertTrue(self.save("copy")[0])
        copy = self.file.with_name("mine 2.avelt")
        self.assertEqual((open_project(self.file).name, open_project(copy).name), ("Theirs", "Mine"))
        self.assertEqual(self.workspace.path, copy)
        self.change("Mine again")
        self.assertEqual(self.save("")[1], "")

    def test_or_the_other_replaced(self) -> None:
        self.change("Mine")
        self.written_by_another()
        self.assertTrue(self.save("replace")[0])
        self.assertEqual(open_project(self.file).name, "Mine")
        self.change("Mine, later")
        self.assertEqual(self.save("")[1], "")

    def test_a_read_only_file_is_asked_about(self) -> None:
        os.chmod(self.file, 0o444)
        self.change("Mine")
        done, words = self.save("")
        self.assertFalse(done)
        self.assertIn("read-only", words)
        self.assertTrue(self.save("replace")[0])
        self.assertEqual(open_project(self.file).name, "Mine")

    def test_a_second_window_on_one_file_says_so(self) -> None:
        other = self.open_window()
        said: list[str] = []
        with mock.patch.object(other, "say", said.append):
            other.open_file(self.file)
        self.assertIn("open in another window", said[0])
        self.close_window(other)
        again = self.open_window()
        self.close_window(self.window)
        with mock.patch.object(again, "say", said.append):
            again.open_file(self.file)
        self.assertEqual(len(said), 1)
        self.window = again

    def test_coming_back_to_the_window_one_is_told_once(self) -> None:
        self.written_by_another()
        with mock.patch.object(type(self.window), "choose", return_value="") as asked:
            self.window.look_at_file()
            self.window.look_at_file()
        self.assertEqual(asked.call_count, 1)
        self.assertIn("read", asked.call_args.args[2])
        self.assertIn("is only here", asked.call_args.args[1])
        self.assertEqual(self.project, self.opened)
        self.written_by_another()
        with mock.patch.object(type(self.window), "choose", return_value="read"):
            self.window.look_at_file()
        self.assertEqual(self.project.name, "Theirs")
        self.assertFalse(self.workspace.session.changed)

    def test_with_work_of_ones_own_it_is_opened_beside(self) -> None:
        self.change("Mine")
        self.written_by_another()
        with mock.patch.object(type(self.window), "choose", return_value="beside") as asked:
            self.window.look_at_file()
        self.assertNotIn("read", asked.call_args.args[2])
        self.assertEqual((self.project.name, self.window.others[0].workspace.whole.name), ("Mine", "Theirs"))
        self.shut(self.window.others[0])

    def test_a_file_that_went_is_work_that_is_not_saved(self) -> None:
        self.file.unlink()
        self.window.look_at_file()
        self.assertTrue(self.workspace.session.changed)
        self.assertIn("not there any more", self.window.said.text())

    def test_what_cannot_be_saved_there_is_saved_elsewhere(self) -> None:
        self.change("Mine")
        before, other = self.file.read_bytes(), self.file.with_name("other.avelt")
        real = project_file.save_project

        def full(project: Any, path: Path, *args: Any, **more: Any) -> None:
            if path == self.file:
                raise FileError("The file cannot be written: No space left on device.", str(path))
            real(project, path, *args, **more)

        with (
            mock.patch.object(project_file, "save_project", full),
            mock.patch.object(QFileDialog, "getSaveFileName", return_value=(str(other), "")),
        ):
            self.assertFalse(self.window.do_save())
            self.assertIn("No space left", self.window.said.text())
            self.assertTrue(self.workspace.session.changed)
            click(self.window.offered)
        self.assertEqual((self.file.read_bytes(), open_project(other).name), (before, "Mine"))
        self.assertEqual(self.workspace.path, other)

    def test_a_folder_that_vanished_keeps_the_work_open(self) -> None:
        gone = self.file.parent / "gone" / "a.avelt"
        self.assertFalse(self.window.save_to(gone))
        self.assertEqual(self.project, self.opened)
        self.assertIn("cannot be written", self.window.said.text())

    def test_versions_are_kept_and_opened_beside(self) -> None:
        self.change("Mine")
        self.assertTrue(self.window.do_save())
        form: list[VersionsForm] = []

        def answer(window: Any, dialog: Any) -> bool:
            form.append(dialog)
            dialog.list.setCurrentRow(dialog.list.count() - 1)
            return True

        with mock.patch.object(type(self.window), "ask", answer):
            self.window.do("versions")
        self.assertEqual(form[0].list.count(), 2)
        self.assertFalse(form[0].picture.pixmap().isNull())
        self.assertIn("name differs", form[0].says.text())
        older = self.window.others[0]
        self.assertEqual(older.workspace.whole.name, f"{self.opened.name}, earlier")
        self.assertEqual((older.workspace.path, older.workspace.session.changed), (None, True))
        self.assertEqual(self.project.name, "Mine")
        self.shut(older)

    def test_without_versions_it_is_said(self) -> None:
        self.window.show_project(self.opened, None)
        self.window.do("versions")
        self.assertIn("no earlier version", self.window.said.text())

    def test_when_in_words(self) -> None:
        noon = datetime(2026, 3, 4, 12, 0).timestamp()
        self.assertEqual(when(noon - 20, noon), "just now, 11:59")
        self.assertEqual(when(noon - 600, noon), "10 minutes ago, 11:50")
        self.assertEqual(when(noon - 2 * 3600, noon), "today, 10:00")
        self.assertEqual(when(noon - 13 * 3600, noon), "Tuesday 03 March, 23:00")

    def test_the_preview_of_an_enormous_frame_is_small(self) -> None:
        large = msgspec.structs.replace(self.project.frames[0], w=90_000.0, h=30_000.0)
        self.workspace.do("resize", lambda p: msgspec.structs.replace(p, frames=(large, *self.project.frames[1:])))
        self.assertTrue(self.window.save_to(self.file))


class Killed(unittest.TestCase):
    """A real process, killed in the middle."""

    CODE = """
import os, sys, msgspec
from pathlib import Path
from PySide6.QtCore import QThreadPool
from avelt.window.shell.recovery import Recovery
from avelt.window.start import make_window
window = make_window(None, True, False, None, Recovery(Path(sys.argv[1])))
window.workspace.do("rename", lambda p: msgspec.structs.replace(p, name=sys.argv[2]))
window.keeper.look()
QThreadPool.globalInstance().waitForDone(30_000)
os.kill(os.getpid(), 9)
"""

    def test_its_work_is_there_for_the_next(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            env = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}
            for name in ("One", "Two"):
                done = subprocess.run([sys.executable, "-c", self.CODE, folder, name], env=env, capture_output=True)
                self.assertEqual(done.returncode, -9, done.stderr)
            self.assertEqual([kept.project.name for kept in Recovery(Path(folder)).kept()], ["One", "Two"])


if __name__ == "__main__":
    unittest.main()
