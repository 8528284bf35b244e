"""Bringing in large screens: in the background, with progress and a stop."""

import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QThreadPool

from avelt.window.shell import import_job
from avelt.window.shell.import_job import read_screens, small
from tests.support import WindowCase

SCREEN = '<svg xmlns="http://www.w3.org/2000/svg" width="90" height="90"><rect id="Card" width="{}" height="20" fill="teal"/></svg>'


class InTheBackground(WindowCase, unittest.TestCase):
    demo = False

    def setUp(self) -> None:
        super().setUp()
        patch = mock.patch.object(import_job, "AT_ONCE", 0)
        patch.start()
        self.addCleanup(patch.stop)
        self.paths = []
        for k in range(3):
            path = Path(self.folder.name) / f"screen {k}.svg"
            path.write_text(SCREEN.format(10 + k))
            self.paths.append(path)

    def wait(self) -> None:
        QThreadPool.globalInstance().waitForDone(30_000)
        self.settle()

    def test_all_come_in_as_one_entry(self) -> None:
        (Path(self.folder.name) / "bad.svg").write_text("<svg")
        self.window.import_files([*self.paths, Path(self.folder.name) / "bad.svg"])
        self.assertEqual(self.project.frames, ())
        self.wait()
        self.assertEqual([f.name for f in self.project.frames], ["screen 0", "screen 1", "screen 2"])
        self.assertEqual(self.workspace.session.undo_label, "import 3 screens")
        self.assertIn("bad.svg", self.window.said.text())
        self.window.do("undo")
        self.assertEqual(self.project.frames, ())

    def test_stopped_nothing_comes_in(self) -> None:
        self.window.import_files(self.paths)
        job, dialog = self.window._import
        dialog.canceled.emit()
        job.stop()
        self.wait()
        if self.project.frames:  # the last file was read before the stop was heard: then all of them are in
            self.assertEqual(len(self.project.frames), 3)
        else:
            self.assertIn("Stopped", self.window.said.text())
        self.assertIsNone(self.window._import)

    def test_a_stop_between_files_gives_up_all(self) -> None:
        found = read_screens(self.paths, lambda done: done < 2)
        self.assertTrue(found.stopped)
        self.assertEqual(len(found.screens), 2)
        self.window._read(found)
        self.assertEqual(self.project.frames, ())

    def test_a_second_import_waits_its_turn(self) -> None:
        self.window.import_files(self.paths)
        self.window.import_files(self.paths)
        self.wait()
        self.assertEqual(len(self.project.frames), 3)

    def test_small_files_need_no_thread(self) -> None:
        self.assertFalse(small(self.paths))
        with mock.patch.object(import_job, "AT_ONCE", 10_000):
            self.assertTrue(small([*self.paths, Path("not there")]))
            self.window.import_files(self.paths)
            self.assertEqual(len(self.project.frames), 3)
