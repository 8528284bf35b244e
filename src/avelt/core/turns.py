"""Who goes first: long work asks here, between its steps, whether somebody waits for the processor.

Two threads of one Python program take turns, and a picture of a window that is made beside a thread at work takes two
to three times as long. So the thread waits, where it can, until the picture is there. What works for itself alone (the
command line, a test) has nobody to wait for.
"""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager


class _Here(threading.local):
    wait: Callable[[], None] | None = None


_here = _Here()


def others_first() -> None:
    """A point between two steps of work that may take long: let those go first who shall."""
    if _here.wait is not None:
        _here.wait()


@contextmanager
def going_after(wait: Callable[[], None]) -> Iterator[None]:
    """What this thread does meanwhile goes after others: ``wait`` is called at each such point, and comes back when it
    may go on."""
    before, _here.wait = _here.wait, wait
    try:
        yield
    finally:
        _here.wait = before
