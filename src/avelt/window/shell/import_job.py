"""Importing screens: reading files away from the window's thread, with progress and a stop."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from avelt.core.errors import AveltError
from avelt.core.record import Record
from avelt.paint.fonts import measure_text
from avelt.window.common.jobs import AT_ONCE as AT_ONCE
from avelt.window.common.jobs import Job

if TYPE_CHECKING:
    from avelt.core.formats.svg_in import Imported


class Read(Record, frozen=True):
    """What came of some files: their screens, and a sentence for each that cannot be read."""

    screens: tuple[Imported, ...] = ()
    troubles: tuple[str, ...] = ()
    stopped: bool = False


def read_screens(paths: Sequence[Path], go_on: Callable[[int], bool] = lambda done: True) -> Read:
    """Read files in order; ``go_on`` is told how many are done and may end it."""
    from avelt.core.formats.screen_file import read_screen  # XML and CSS are loaded with the first screen

    screens: list[Imported] = []
    troubles: list[str] = []
    stopped = False
    for done, path in enumerate(paths):
        if not go_on(done):
            stopped = True
            break
        try:
            imported = read_screen(path, measure_text)
        except AveltError as error:
            troubles.append(str(error))
            continue
        screens.append(imported)
    return Read(tuple(screens), tuple(troubles), stopped)


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
    """Reads files in the background; the request is their paths, the answer what was ``Read``."""

    def __init__(self, paths: Sequence[Path]) -> None:
        super().__init__(tuple(paths))
        self.paths = tuple(paths)

    def work(self) -> Read:
        return read_screens(self.paths, lambda done: self.go_on(done, len(self.paths)))
