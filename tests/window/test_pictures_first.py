"""What works in the background waits while a picture is made, but not for ever."""

from __future__ import annotations

import unittest
from unittest import mock

from PySide6.QtCore import QCoreApplication, QEvent, QThreadPool

from avelt.core.turns import others_first
from avelt.window.common import pictures_first
from avelt.window.common.jobs import Job
from avelt.window.common.pictures_first import Patience, Pictures, pictures
from avelt.window.controls.clock import Clock
from avelt.window.start import application


class Spent:
    """Pictures that are always being made; each wait takes a while."""

    made = False

    def __init__(self) -> None:
        self.now, self.waits = 0.0, 0

    def wait(self, longest: float) -> None:
        self.waits += 1
        self.now += longest

    def clock(self) -> float:
        return self.now


class PicturesFirst(unittest.TestCase):
    def setUp(self) -> None:
        application()

    def test_a_picture_is_over_once_all_is_painted(self) -> None:
        mine = Pictures()
        self.assertTrue(mine.made)
        order: list[bool] = []
        mine.begin()
        self.assertFalse(mine.made)
        QCoreApplication.sendPostedEvents(None, QEvent.Type.UpdateRequest)
        order.append(mine.made)
        for _ in range(3):
            QCoreApplication.processEvents()
        order.append(mine.made)
        self.assertEqual(order, [False, True])
        mine.begin()
        mine.wait(0.0)  # nobody waits longer than told
        self.assertFalse(mine.made)

    def test_a_clock_that_plays_makes_pictures(self) -> None:
        clock = Clock()
        made: list[bool] = []
        clock.ticked.connect(lambda _: made.append(pictures.made))
        clock.endless = True
        clock.seek(5.0)  # by hand: nothing plays
        clock._since.start()
        clock._tick()
        self.assertEqual(made, [True, False])
        for _ in range(3):
            QCoreApplication.processEvents()
        self.assertTrue(pictures.made)

    def test_it_waits_only_so_much_of_its_time(self) -> None:
        busy = Spent()
        with mock.patch.object(pictures_first, "perf_counter", busy.clock):
            patience = Patience(busy)  # type: ignore[arg-type]
            for _ in range(400):
                busy.now += 0.001  # it works
                patience.wait()
        waited = busy.waits * 0.1
        self.assertLess(waited, 0.05 + 8.0 * 0.4 + 0.1)
        self.assertGreater(waited, 0.05 + 8.0 * 0.4 - 0.1)
        busy.made, before = True, busy.waits  # type: ignore[misc]
        patience.wait()
        self.assertEqual(busy.waits, before)  # no picture is made: nothing to wait for

    def test_its_time_begins_with_the_work(self) -> None:
        busy = Spent()
        with mock.patch.object(pictures_first, "perf_counter", busy.clock):
            patience = Patience(busy)  # type: ignore[arg-type]
            patience.wait()
            busy.now = 100.0  # it waited in the queue
            patience.begin()
            for _ in range(5):
                patience.wait()
        self.assertEqual(busy.waits, 2)

    def test_every_job_goes_after_pictures(self) -> None:
        asked: list[int] = []

        class Works(Job):
            def work(self) -> object:
                others_first()
                return self.go_on(1, 2)

            def between(self) -> None:
                asked.append(1)
                super().between()

        Works(None).start()
        QThreadPool.globalInstance().waitForDone(30_000)
        self.assertEqual(len(asked), 2)
