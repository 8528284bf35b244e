"""No garbage is collected in threads that work in the background.

Python collects in whatever thread happens to make something. Windows and widgets that were closed lie in rings of
references; one of them freed in another thread than the window's breaks the memory.
"""

from __future__ import annotations

import gc
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock

_lock = Lock()
_at_work = 0
_was_on = False


@contextmanager
def no_collecting() -> Iterator[None]:
    """Nothing is collected by itself while this or another such piece of work goes on."""
    global _at_work, _was_on
    with _lock:
        if not _at_work:
            _was_on = gc.isenabled()
            gc.disable()
        _at_work += 1
    try:
        yield
    finally:
        with _lock:
            _at_work -= 1
            if not _at_work and _was_on:
                gc.enable()
