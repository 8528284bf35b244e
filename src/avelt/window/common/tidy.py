"""When garbage is collected: while nothing happens, never in the middle of a motion.

Python's own full collections walk everything that there is, and stop the picture for as long. What is old is put out of
their sight (frozen), and full ones are done here, when nobody touches anything and nothing plays.
"""

from __future__ import annotations

import gc
from collections.abc import Callable

from PySide6.QtCore import QElapsedTimer, QObject, QTimer
from PySide6.QtGui import QCursor

IDLE = 1500  # ms without a touch before anything is collected
LOOK = 2000  # ms between two looks
ANYWAY = 300_000  # ms after which it is done however busy it is
_YOUNG, _MIDDLE, _NEVER = 5_000, 200, 1_000_000  # thresholds of gc: full collections never come by themselves


def collect_rarely() -> None:
    """Full collections never come by themselves."""
    gc.set_threshold(_YOUNG, _MIDDLE, _NEVER)


class Tidy(QObject):
    """Collects when it is idle. ``busy`` says whether something plays."""

    def __init__(self, busy: Callable[[], bool], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._busy = busy
        self._touched, self._done = QElapsedTimer(), QElapsedTimer()
        self._touched.start()
        self._done.start()
        self._fresh = True
        self._spot = QCursor.pos()
        self._timer = QTimer(self)
        self._timer.setInterval(LOOK)
        self._timer.timeout.connect(self.look)

    def start(self) -> None:
        """From now on. What the program itself is made of is frozen at the first look."""
        collect_rarely()
        self._timer.start()

    def touch(self) -> None:
        """Somebody does something."""
        self._touched.restart()
        self._fresh = True

    def look(self) -> bool:
        """Collect if it is time for it; whether it was done. Nothing is done twice while nobody does anything."""
        spot = QCursor.pos()
        if spot != self._spot:
            self._spot = spot
            self.touch()
        idle = self._touched.elapsed() >= IDLE and not self._busy()
        if not (self._fresh and idle) and self._done.elapsed() < ANYWAY:
            return False
        gc.unfreeze()
        gc.collect()
        gc.freeze()
        self._fresh = False
        self._done.restart()
        return True
