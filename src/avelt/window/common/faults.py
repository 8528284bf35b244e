"""Faults of Avelt itself: written to the log with all that is known, told to the person in one sentence, work kept."""

from __future__ import annotations

import logging
import sys
import traceback
from collections.abc import Callable
from types import TracebackType

from avelt.core.words import tr

_log = logging.getLogger("avelt")


def sentence() -> str:
    """What the person is told."""
    from avelt.core.logs import log_file

    where = log_file()
    place = tr(" What happened is written in {where}.", where=where) if where is not None else ""
    return tr("Something went wrong in Avelt; your work is as it was.{place}", place=place)


def catch(tell: Callable[[str], None]) -> None:
    """Send every error that nobody caught to the log and its sentence to ``tell``; slots and events included."""
    before = sys.excepthook

    def caught(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        if issubclass(kind, KeyboardInterrupt):
            before(kind, error, trace)
            return
        _log.error("not caught: %s", "".join(traceback.format_exception(kind, error, trace)))
        tell(sentence())

    sys.excepthook = caught
