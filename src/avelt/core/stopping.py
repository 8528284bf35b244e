"""A command that is interrupted: what it has half written is removed, and the process ends at once.

An exception raised by a signal handler can come in the middle of a call of Qt or of an encoder and crash it, so
nothing is raised: whoever leaves something behind while it works says here how that is removed.
"""

from __future__ import annotations

import contextlib
import os
import signal
import tempfile
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

_removals: list[Callable[[], object]] = []


@contextmanager
def removed_on_stop(remove: Callable[[], object]) -> Iterator[None]:
    """While this runs, an interrupt calls ``remove`` before the process ends."""
    _removals.append(remove)
    try:
        yield
    finally:
        _removals.remove(remove)


@contextmanager
def temporary_folder(prefix: str) -> Iterator[Path]:
    """A folder of the system's temporary ones that also an interrupt leaves no trace of."""
    folder = tempfile.TemporaryDirectory(prefix=prefix, ignore_cleanup_errors=True)
    with folder as name, removed_on_stop(folder.cleanup):
        yield Path(name)


def end_on_signals() -> None:
    """From now on Ctrl+C and SIGTERM end this process: exit code 130 or 143, one word on standard error."""
    if threading.current_thread() is threading.main_thread():
        for number in (signal.SIGINT, signal.SIGTERM):
            signal.signal(number, _end)


def _end(number: int, _: object) -> None:
    for remove in tuple(reversed(_removals)):
        with contextlib.suppress(Exception):
            remove()
    with contextlib.suppress(OSError):
        os.write(2, b"Stopped.\n")
    os._exit(128 + number)
