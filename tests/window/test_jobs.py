"""Work in the background always ends and says what came of it; faults are logged and told."""

from __future__ import annotations

import gc
import logging
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QThreadPool

from avelt.core import logs
from avelt.core.errors import FileError
from avelt.window.common import collecting, faults, jobs
from avelt.window.common.collecting import no_collecting
from avelt.window.common.jobs import Answer, Job, Latest
from avelt.window.start import application


class Work(Job):
    """Does what it is told."""

    def work(self) -> object:
        if isinstance(self.request, BaseException):
            raise self.request
        return self.request


class Collecting(Job):
    """Says whether garbage may be collected while it works."""

    def work(self) -> object:
        return gc.isenabled()


class Jobs(unittest.TestCase):
    def setUp(self) -> None:
        application()
        if not gc.isenabled():  # as in a program that is under way
            gc.enable()
            self.addCleanup(gc.disable)
        self.told: list[object] = []
        self.parent = Latest(application())
        self.parent.answered.connect(lambda value: self.told.append(value))
        self.parent.failed.connect(lambda words: self.told.append(words))
        self.parent.ended.connect(lambda: self.told.append("ended"))

    def run_one(self, request: object) -> None:
        with mock.patch.object(Job, "start", Job.run):
            self.parent.start(Work(request))

    def test_nothing_is_collected_in_a_thread_that_works(self) -> None:
        job = Collecting(None)
        self.parent.start(job)
        QThreadPool.globalInstance().waitForDone(60_000)
        application().processEvents()
        self.assertEqual(self.told, [False, "ended"])
        self.assertTrue(gc.isenabled())

    def test_it_is_turned_on_in_the_thread_of_the_window_only(self) -> None:
        """What a thread makes is counted all the while: turned on there, it would collect there at once."""
        self.parent.start(Collecting(None))
        QThreadPool.globalInstance().waitForDone(60_000)
        self.assertFalse(gc.isenabled())
        application().processEvents()
        self.assertTrue(gc.isenabled())

    def test_what_it_made_is_looked_through_between_two_pictures(self) -> None:
        self.parent.start(Collecting(None))
        QThreadPool.globalInstance().waitForDone(60_000)
        with mock.patch.object(gc, "collect") as collected:
            application().processEvents()
            collected.assert_called_once_with(0)
            collected.reset_mock()
            with no_collecting():
                collecting._window[0].turn_on()
            self.assertFalse(collected.called)  # something is at work

    def test_it_waits_by_its_own_time(self) -> None:
        with mock.patch.object(jobs, "Patience") as patience:
            job = Work(1)
            self.assertFalse(patience().begin.called)  # it may stand in the queue
            job.run()
        patience().begin.assert_called_once_with()

    def test_two_at_once_and_faults_leave_it_as_it_was(self) -> None:
        with self.assertRaises(ValueError), no_collecting():
            with no_collecting():
                self.assertFalse(gc.isenabled())
            self.assertFalse(gc.isenabled())
            raise ValueError
        self.assertTrue(gc.isenabled())
        gc.disable()
        with no_collecting():
            pass
        self.assertFalse(gc.isenabled())
        gc.enable()

    def test_an_answer_and_the_end(self) -> None:
        self.run_one(7)
        self.assertEqual(self.told, [7, "ended"])
        self.assertIsNone(self.parent.job)

    def test_what_fails_on_purpose_says_its_own_sentence(self) -> None:
        self.run_one(FileError("The disk is full.", "x.gif"))
        self.assertEqual(self.told, ["x.gif: The disk is full.", "ended"])

    def test_what_fails_otherwise_ends_too_and_is_logged(self) -> None:
        with self.assertLogs("avelt", logging.ERROR) as log:
            self.run_one(ZeroDivisionError("of mine"))
        self.assertIn("Something went wrong", str(self.told[0]))
        self.assertEqual(self.told[1], "ended")
        self.assertIn("ZeroDivisionError: of mine", log.output[0])

    def test_no_memory_is_a_sentence(self) -> None:
        self.run_one(MemoryError())
        self.assertEqual(self.told, ["There is not enough memory for this.", "ended"])

    def test_a_late_answer_is_dropped(self) -> None:
        with mock.patch.object(Job, "start"):
            first, second = Work(1), Work(2)
            self.parent.start(first)
            self.parent.start(second)
        self.assertTrue(first._stop.is_set())
        self.assertFalse(first.go_on(1, 2))
        first.run()
        self.assertEqual(self.told, [])
        second.run()
        self.assertEqual(self.told, [2, "ended"])
        self.parent.take(Answer(second.number, 3))
        self.assertEqual(self.told, [2, "ended"])


class Log(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        logger = logging.getLogger("avelt")
        before = list(logger.handlers)
        self.addCleanup(self.restore, before)
        logger.handlers = []

    @staticmethod
    def restore(before: list[logging.Handler]) -> None:
        logger = logging.getLogger("avelt")
        for handler in list(logger.handlers):
            handler.close()
        logger.handlers = before

    def test_it_is_written_under_the_state_folder(self) -> None:
        logs.set_up("1.2", folder=Path(self.folder.name) / "deep")
        logging.getLogger("avelt.x").info("hello")
        path = logs.log_file()
        assert path is not None
        self.assertEqual(path.parent.name, "deep")
        text = path.read_text()
        self.assertIn("Avelt 1.2, Python", text)
        self.assertIn("hello", text)

    def test_where_nothing_can_be_written_it_goes_to_the_console(self) -> None:
        blocked = Path(self.folder.name) / "file"
        blocked.write_text("")
        logs.set_up("1.2", folder=blocked / "x")
        self.assertIsNone(logs.log_file())
        self.assertEqual(len(logging.getLogger("avelt").handlers), 1)

    def test_a_fault_is_logged_told_with_its_place_and_nothing_is_lost(self) -> None:
        logs.set_up("1.2", folder=Path(self.folder.name))
        told: list[str] = []
        before = sys.excepthook
        self.addCleanup(setattr, sys, "excepthook", before)
        faults.catch(told.append)
        try:
            raise KeyError("a slot of mine")
        except KeyError as error:
            sys.excepthook(KeyError, error, error.__traceback__)
        path = logs.log_file()
        assert path is not None
        self.assertIn(str(path), told[0])
        self.assertIn("your work is as it was", told[0])
        self.assertIn("a slot of mine", path.read_text())
