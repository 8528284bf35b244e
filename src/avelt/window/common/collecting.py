"""No garbage is collected in threads that work in the background.

Python collects in whatever thread happens to make something. Windows and widgets that were closed lie in rings of
references; one of them freed in another thread than the window's breaks the memory. What a thread makes is counted
while collecting is off, too: turned on there, it would collect at the very next thing made. So it is turned on by the
thread of the window only.
"""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock

from PySide6.QtCore import QCoreApplication, QObject, QThread, Signal

_lock = Lock()
_at_work = 0
_was_on = False  # whether it is turned on once nothing is at work


class _Window(QObject):
    """Lives in the thread of the window, and is told there that work has ended."""

    ended = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.ended.connect(self.turn_on)

    def turn_on(self) -> None:
        """Collect again: this is the thread of the window. What the work made is looked through between two pictures:
        left alone, it would be in the middle of the next one."""
        _turn_on()
        if gc.isenabled():
            gc.collect(0)


_window: list[_Window] = []


def watch() -> None:
    """Called in the thread of the window: from then on collecting is turned on there only."""
    if not _window:
        _window.append(_Window())


def allow() -> None:
    """Collect from now on; while something is at work, as soon as that has ended."""
    global _was_on
    _was_on = True
    _turn_on()


def _turn_on() -> None:
    """Collect again, if nothing is at work and it was on before."""
    global _was_on
    with _lock:
        if not _at_work and _was_on:
            _was_on = False
            gc.enable()


@contextmanager
def no_collecting() -> Iterator[None]:
    """Nothing is collected by itself while this or another such piece of work goes on."""
    global _at_work, _was_on
    with _lock:
        if not _at_work:
            _was_on = _was_on or gc.isenabled()
            gc.disable()
        _at_work += 1
    try:
        yield
    finally:
        with _lock:
            _at_work -= 1
        app = QCoreApplication.instance()
        if _window and app is not None and QThread.currentThread() is not app.thread():
            _window[0].ended.emit()  # and it is turned on where the window is
        else:
            _turn_on()
