"""The shelf with a thousand presets of one's own: opened, searched as one types, all pictures moving."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable
from itertools import count
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from avelt.core.presets.shelf import Shelf, built_in
from bench.measure import Row, best

if TYPE_CHECKING:
    from avelt.window.shell.main_window import MainWindow

MANY = 1000
_TWO_TICKS = 0.0333
_TIMES = 7


def rows() -> list[Row]:
    """All of it."""
    from avelt.window.start import application

    app = application()
    with tempfile.TemporaryDirectory() as name:
        folder = Path(name)
        shelf = Shelf(folder / "many")
        given = built_in()
        for k in range(MANY):
            shelf.keep(replace(given[k % len(given)], name=f"Mine {k:04d}"))
        empty, many = _window(folder / "none"), _window(folder / "many")
        plain = _opened(empty, folder / "none", app.processEvents)
        fresh = _opened(many, folder / "many", app.processEvents)
        return [
            Row(
                f"the shelf opened with {MANY:,} presets", fresh, plain + _TWO_TICKS, 1, note="with none, and two ticks"
            ),
            *_open(many, app.processEvents),
        ]


def _window(folder: Path) -> MainWindow:
    from avelt.window.start import make_window

    window = make_window(None, True, False, Shelf(folder))
    window.resize(1280, 800)
    window.show()
    window.go("timing")
    return window


def _opened(window: MainWindow, folder: Path, draw: Callable[[], object]) -> float:
    """The best time until it is drawn; each time with a shelf that read nothing yet."""
    times = []
    for turn in range(_TIMES):
        window.workspace._shelf = Shelf(folder)
        started = time.perf_counter()
        window.open_shelf()
        draw()
        if turn:  # the first time makes the pictures of the cards
            times.append(time.perf_counter() - started)
        while window.shelf.cards.pictures.waiting() or window.workspace.shelf.read(0.0).more:
            draw()
        window.shelf.close_shelf()
        draw()
    return min(times)


def _open(window: MainWindow, draw: Callable[[], object]) -> list[Row]:
    window.open_shelf()
    draw()
    shelf, turn = window.shelf, count()

    def typed() -> None:
        shelf.search.setText("mine 0" if next(turn) % 2 else "mine")
        draw()

    def moving() -> None:
        shelf.clock.advance(16.0)
        draw()

    search = best(typed, 5, 0.2)
    shelf.search.clear()
    QTest.keyClick(shelf.cards, Qt.Key.Key_A)
    shelf.clock.stop()
    return [
        Row("  a letter typed into its search, until it is drawn", search, _TWO_TICKS, 1, note="two ticks"),
        Row("  all cards that are seen moving, one picture", best(moving, 5, 0.3), _TWO_TICKS, 1, note="two ticks"),
    ]
