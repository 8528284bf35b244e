"""Bringing screens in: reading files away from the window's thread, with progress and a stop."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import Signal

from avelt.core.errors import AveltError
from avelt.paint.fonts import measure_text
from avelt.window.common.jobs import Job

if TYPE_CHECKING:
    from avelt.core.formats.svg_in import Imported

AT_ONCE = 150_000  # bytes in all that are read without a thread: a blink


@dataclass
class BroughtIn:
    """What came of some files: their screens, and a sentence for each that cannot be read."""

    screens: list[Imported] = field(default_factory=list)
    troubles: list[str] = field(default_factory=list)
    stopped: bool = False


def read_screens(paths: Sequence[Path], go_on: Callable[[int], bool] = lambda done: True) -> BroughtIn:
    """Read files in order; ``go_on`` is told how many are done and may end it."""
    from avelt.core.formats.bring_in import read_screen  # XML and CSS are loaded with the first screen

    found = BroughtIn()
    for done, path in enumerate(paths):
        if not go_on(done):
            found.stopped = True
            break
        try:
            imported = read_screen(path, measure_text)
        except AveltError as error:
            found.troubles.append(str(error))
            continue
        found.screens.append(imported)
    return found


def small(paths: Sequence[Path]) -> bool:
    """Whether the files are so small that reading them is not felt."""
    total = 0
    for path in paths:
        try:
            total += path.stat().st_size
        except OSError:
            continue
    return total <= AT_ONCE


class ImportJob(Job):
    """Reads files in the background."""

    done = Signal(object)  # BroughtIn

    def __init__(self, paths: Sequence[Path]) -> None:
        super().__init__()
        self.paths = tuple(paths)

    def work(self) -> None:
        self.done.emit(read_screens(self.paths, lambda done: self.go_on(done, len(self.paths))))
