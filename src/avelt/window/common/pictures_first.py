"""Pictures that play go first: what works in the background waits while one is made."""

from __future__ import annotations

from threading import Event
from time import perf_counter

from PySide6.QtCore import QTimer

_ALWAYS = 0.05  # s that a piece of work waits in any case
_SHARE = 8.0  # as long as it worked, that it waits then: where pictures take all the time there is it still gets on
_LONGEST = 0.1  # s that a picture is waited for at a time


class Pictures:
    """Knows, in the thread of the window, when a picture is being made: from ``begin`` until all that was to be painted
    is painted."""

    def __init__(self) -> None:
        self._none = Event()  # no picture is being made
        self._none.set()
        self._over: QTimer | None = None

    def begin(self) -> None:
        """Time has gone on: a picture is made now."""
        self._none.clear()
        if self._over is None:  # made here: it belongs to the thread of the window
            self._over = QTimer()
            self._over.setSingleShot(True)
            self._over.timeout.connect(self._none.set)
        self._over.start(0)  # it comes after what is to be painted

    @property
    def made(self) -> bool:
        """Whether none is being made now."""
        return self._none.is_set()

    def wait(self, longest: float) -> None:
        """Wait until none is being made, at most so many s."""
        self._none.wait(longest)


pictures = Pictures()


class Patience:
    """How long one piece of work waits for pictures: only so much of the time, whatever plays."""

    def __init__(self, first: Pictures = pictures) -> None:
        self._first = first
        self.begin()

    def begin(self) -> None:
        """The work begins now."""
        self._began, self._waited = perf_counter(), 0.0

    def wait(self) -> None:
        """Let a picture that is being made go first."""
        if self._first.made:
            return
        now = perf_counter()
        worked = now - self._began - self._waited
        if self._waited < _ALWAYS + _SHARE * worked:
            self._first.wait(_LONGEST)
            self._waited += perf_counter() - now
