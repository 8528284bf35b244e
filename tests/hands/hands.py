"""Real X events on a real window: keys and a mouse as hands use them, through the display server.

Events that a test makes inside Qt carry what the test thinks a key writes; the server's carry what it does write.
"""

from __future__ import annotations

import subprocess
import time
import unittest
from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QEvent, QObject, QPoint, QPointF, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QApplication, QWidget

from tests.support import WindowCase
from tests.xvfb import IN_XVFB

#: A test case only in the process that runs under the display: elsewhere there is nothing to run.
Case: Any = unittest.TestCase if IN_XVFB else object
_LAST = "Pause"  # a key that does nothing, sent behind all others: when it arrives, they have
_PATIENCE = 20.0  # s until the server has failed
_SIGNS = {
    ",": "comma",
    ".": "period",
    "?": "question",
    "/": "slash",
    "+": "plus",
    "-": "minus",
    "Del": "Delete",
    "Return": "Return",
    "Space": "space",
    "Esc": "Escape",
    "Up": "Up",
    "Down": "Down",
}


def as_xdotool(keys: str) -> str:
    """Keys in Qt's words as the program that presses them reads them: ``Ctrl+Shift+S``, ``?``, ``Ctrl++``."""
    head, plus, last = keys.rpartition("+")
    if keys.endswith("+"):
        head, last = keys[:-1].rstrip("+"), "+"
    held = [part.lower() for part in head.split("+") if part] if plus or keys.endswith("+") else []
    return "+".join([*held, _SIGNS.get(last, last.lower() if len(last) == 1 else last)])


class _Arrived(QObject):
    """Counts the keys that end what was sent."""

    def __init__(self) -> None:
        super().__init__()
        self.count = 0

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if event.type() == QEvent.Type.KeyRelease and isinstance(event, QKeyEvent) and event.key() == Qt.Key.Key_Pause:
            self.count += 1
        return False


class Hands(WindowCase):
    """A window under a window manager, used by its real keys and a real mouse."""

    def setUp(self) -> None:
        super().setUp()
        self.arrived = _Arrived()
        self.app.installEventFilter(self.arrived)
        self.wait(lambda: self.window.isActiveWindow())
        self.window.move(0, 0)

    def tearDown(self) -> None:
        self.app.removeEventFilter(self.arrived)
        super().tearDown()

    def wait(self, until: Callable[[], bool]) -> None:
        """Let the window work until something is so; fails when it never is."""
        end = time.monotonic() + _PATIENCE
        while not until():
            if time.monotonic() > end:
                raise AssertionError("the display does not answer")
            self.app.processEvents()
        self.settle()

    def send(self, *words: str) -> None:
        """Commands for the server, and all that comes of them."""
        before = self.arrived.count
        subprocess.run(["xdotool", *words, "key", _LAST], check=True, capture_output=True)
        self.wait(lambda: self.arrived.count > before)

    def key(self, *keys: str) -> None:
        """Press keys one after the other, in Qt's words."""
        self.send(*(word for one in keys for word in ("key", as_xdotool(one))))

    def type(self, text: str) -> None:
        """Write a text."""
        subprocess.run(["xdotool", "type", "--delay", "1", text], check=True, capture_output=True)
        self.send()

    def point(self, widget: QWidget, at: QPoint | QPointF | None = None) -> tuple[str, str]:
        """A place on a widget as the server counts (its middle, unless it is said)."""
        place = widget.rect().center() if at is None else at.toPoint() if isinstance(at, QPointF) else at
        where = widget.mapToGlobal(place)
        return str(where.x()), str(where.y())

    def click(self, widget: QWidget, at: QPoint | QPointF | None = None, held: str = "", times: int = 1) -> None:
        """Click; with a key held, or several times."""
        down = ("keydown", held) if held else ()
        up = ("keyup", held) if held else ()
        moves = ("mousemove", *self.point(widget, at))
        self.send(*moves, *down, *("click", "--repeat", str(times), "--delay", "20", "1"), *up)

    def drag(self, widget: QWidget, start: QPoint | QPointF, end: QPoint | QPointF, steps: int = 6) -> None:
        """Press, move in a few steps, let go."""
        (x0, y0), (x1, y1) = (tuple(map(int, self.point(widget, at))) for at in (start, end))
        words = ["mousemove", str(x0), str(y0), "mousedown", "1"]
        for k in range(1, steps + 1):
            words += ["mousemove", str(x0 + (x1 - x0) * k // steps), str(y0 + (y1 - y0) * k // steps)]
        self.send(*words, "mouseup", "1")

    def focus(self) -> QWidget | None:
        """Who has the keys."""
        return QApplication.focusWidget()
