"""Makes the pictures in docs/screenshots from the real window and the demo: ``python -m avelt.tools.shots``."""

from __future__ import annotations

import os
import sys
import tempfile
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, cast

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from avelt.core.model.find import find_frame, find_layer
from avelt.core.presets.shelf import Shelf
from avelt.window.shell.main_window import MainWindow
from avelt.window.start import application, make_window

if TYPE_CHECKING:
    from avelt.window.rehearse.station import RehearseStation
    from avelt.window.timing.station import TimingStation

FOLDER = Path(__file__).resolve().parents[3] / "docs" / "screenshots"


def frames(window: MainWindow) -> None:
    """The Grey Stack card chosen, with its relatives and values."""
    sailings = find_frame(window.desk.project, "Sailings")
    window.go("frames")
    window.desk.choose(sailings.id, find_layer(sailings, "Grey Stack card").id)


def routes(window: MainWindow) -> None:
    """The matrix, the first route half way in its card."""
    window.go("routes")
    _hold(window, 192.0)


def pairs(window: MainWindow) -> None:
    """The pair that wants to be looked at."""
    window.go("pairs")


def timing(window: MainWindow) -> None:
    """The moment 192 ms, one layer opened."""
    window.go("timing")
    station = cast("TimingStation", window.stations["timing"])
    row = next(r for r in station.sheet.body.rows if r.left_name == "Grey Stack card")
    station.pick(row.key)
    if not row.open:
        station.toggle(row.ends)
    place = next(r for r in station.sheet.body.rows if r.prop == "place")
    station.pick(place.key)
    _hold(window, 192.0)


def loops(window: MainWindow) -> None:
    """The boat, the swell and the blinking seat, unrolled."""
    detail = find_frame(window.desk.project, "Sailing detail")
    window.desk.choose(detail.id, find_layer(detail, "Boat").id)
    window.go("loops")
    _hold(window, 900.0)


def rehearse(window: MainWindow) -> None:
    """After a tap, with the notice on its way in."""
    window.go("rehearse")
    station = cast("RehearseStation", window.stations["rehearse"])
    station.clock.stop()
    station.start_over()
    station.clock.advance(80.0)
    assert station.player is not None
    station.player.tap(180.0, 320.0)
    for _ in range(26):
        station.clock.advance(100.0)


def handoff(window: MainWindow) -> None:
    """What the GIF will be like."""
    window.go("handoff")
    _hold(window, 192.0)


def shelf(window: MainWindow) -> None:
    """Three presets, kept from the demo's own motion."""
    window.go("timing")
    station = cast("TimingStation", window.stations["timing"])
    for name, layer in (("Card opens", "Hero card"), ("Tide in", "Board button"), ("Slip under", "Sandray card")):
        row = next(r for r in station.sheet.body.rows if not r.prop and layer in (r.left_name, r.right_name))
        station.pick(row.key)
        window.keep_preset(name)
    window.shelf.choose("Card opens")
    window.shelf.clock.stop()
    window.shelf.clock.seek(210.0)
    _hold(window, 192.0)


def dark(window: MainWindow) -> None:
    """Timing in the dark theme."""
    if window.shelf.isVisible():
        window.shelf.close_shelf()
    timing(window)
    window.do("dark")


def _hold(window: MainWindow, ms: float) -> None:
    clock = window.clock()
    assert clock is not None
    clock.stop()
    clock.seek(ms)


SHOTS: tuple[Callable[[MainWindow], None], ...] = (
    frames, routes, pairs, timing, loops, rehearse, handoff, shelf, dark,
)  # fmt: skip


def main(folder: Path = FOLDER) -> None:
    """Make all of them."""
    app = application()
    folder.mkdir(parents=True, exist_ok=True)
    with tempfile.TemporaryDirectory() as kept:
        window = make_window(None, True, False, Shelf(Path(kept)))
        window.resize(1280, 800)
        window.show()
        for shot in SHOTS:
            shot(window)
            for _ in range(4):
                app.processEvents()
            window.grab().save(str(folder / f"{shot.__name__}.png"))
        window.desk.session.saved()
        window.close()


if __name__ == "__main__":
    main(Path(sys.argv[1])) if len(sys.argv) > 1 else main()
