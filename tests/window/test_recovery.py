"""Work that was not saved survives a stop that was no closing."""

import os
import unittest
from pathlib import Path
from unittest import mock

import msgspec
from PySide6.QtCore import QThreadPool
from PySide6.QtWidgets import QMessageBox

from avelt.window.shell.recovery import Recovery
from tests.support import WindowCase


class Recovering(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.recovery = self.window.keeper.recovery

    def change(self, name: str) -> None:
        self.workspace.do("rename", lambda p: msgspec.structs.replace(p, name=name))

    def look(self) -> bool:
        found = self.window.keeper.look()
        QThreadPool.globalInstance().waitForDone(30_000)
        return found

    def test_only_what_changed_is_kept_and_only_once(self) -> None:
        self.assertFalse(self.look())
        self.change("Tide table")
        self.assertTrue(self.look())
        self.assertFalse(self.look())
        self.assertEqual(self.recovery.kept(), (self.project, None))
        self.change("Tide table 2")
        self.assertTrue(self.look())

    def test_after_a_crash_it_is_offered_and_counts_as_not_saved(self) -> None:
        self.change("Half done")
        self.workspace.path = Path(self.folder.name) / "mine.avelt"
        self.look()
        other = self.open_window()
        with mock.patch.object(QMessageBox, "question", return_value=QMessageBox.StandardButton.Yes) as asked:
            self.assertTrue(other.offer_recovered())
        self.assertIn("Half done", asked.call_args.args[2])
        self.assertEqual((other.workspace.project.name, other.workspace.path), ("Half done", self.workspace.path))
        self.assertTrue(other.workspace.session.changed)
        self.assertIsNone(self.recovery.kept())
        self.close_window(other)

    def test_it_can_be_declined(self) -> None:
        self.change("Not wanted")
        self.look()
        before = self.project
        with mock.patch.object(QMessageBox, "question", return_value=QMessageBox.StandardButton.No):
            self.assertFalse(self.window.offer_recovered())
        self.assertIs(self.project, before)
        self.assertIsNone(self.recovery.kept())

    def test_closing_in_order_puts_it_away(self) -> None:
        self.change("Done")
        self.look()
        self.close_window(self.window)
        self.assertIsNone(self.recovery.kept())
        self.assertEqual(os.listdir(self.recovery.folder), [])
        self.window = self.open_window()

    def test_what_cannot_be_read_or_written_disturbs_nothing(self) -> None:
        folder = Path(self.folder.name) / "broken"
        folder.mkdir()
        (folder / "recovery.avelt").write_bytes(b"half a file")
        self.assertIsNone(Recovery(folder).kept())
        blocked = Path(self.folder.name) / "file"
        blocked.write_text("in the way")
        self.window.keeper.recovery = Recovery(blocked / "state")
        self.change("Full disk")
        self.assertTrue(self.look())
        self.assertEqual(self.project.name, "Full disk")
