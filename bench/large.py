"""Projects of 300 and 2,000 layers in the real window: playing, dragging, editing, entering stations, autosave."""

from __future__ import annotations

import gc
import tempfile
import threading
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast

import msgspec

from avelt.core.edits.layers import set_value
from avelt.core.model.curves import Handles
from avelt.core.model.values import Project
from avelt.core.pairing.engine import load
from avelt.window.shell.recovery import Recovery
from bench.measure import Row, best
from bench.scenes import large

if TYPE_CHECKING:
    from avelt.window.shell.main_window import MainWindow
    from avelt.window.timing.station import TimingStation

STATIONS = ("frames", "routes", "pairs", "timing", "loops", "rehearse", "handoff")


def rows() -> list[Row]:
    """All rows, smaller projects first."""
    made: list[Row] = []
    for layers, limit in ((300, 0.033), (2000, 0.050)):
        window = _window(layers)
        entered = _entering(window)
        if layers == 2000:
            made += [Row(f"entering {name} at 2,000 layers", took, 0.5, 1, note="500 ms") for name, took in entered]
        made += _timing(window, layers, limit)
        if layers == 2000:
            made += [Row("an edit to its picture at 2,000 layers", _edit(window), 0.15, 1, note="150 ms")]
        window.workspace.session.saved()
        window.close()
    return made


def autosave() -> list[Row]:
    """The longest time for which the window's thread stands while 60 frames of 2,000 layers are kept aside."""
    with tempfile.TemporaryDirectory() as folder:
        recovery, project = Recovery(Path(folder)), large(2000, 60)
        gc.collect()
        gc.freeze()
        worst = []
        for _ in range(3):
            recovery.clear()  # so that all of it is written
            writer = threading.Thread(target=recovery.keep, args=(project, None))
            writer.start()
            longest, last = 0.0, time.perf_counter()
            while writer.is_alive():
                time.sleep(0.001)
                now = time.perf_counter()
                longest, last = max(longest, now - last - 0.001), now
            worst.append(longest)
        whole, edits = [], []
        for number in range(3):
            recovery.clear()
            whole.append(_spent(recovery, project))
            first = msgspec.structs.replace(project.frames[0], name=str(number))
            edits.append(_spent(recovery, msgspec.structs.replace(project, frames=(first, *project.frames[1:]))))
        gc.unfreeze()
    return [
        Row("autosave of 60 frames of 2,000 layers: the longest stall", min(worst), 0.03, 1, note="30 ms"),
        Row("keeping an edit of one of those frames, against keeping all", min(edits), min(whole), 0.1),
    ]


def _spent(recovery: Recovery, project: Project) -> float:
    began = time.process_time()
    recovery.keep(project, None)
    return time.process_time() - began


def _window(layers: int) -> MainWindow:
    from avelt.window.start import application, make_window

    window = make_window(None, False, False)
    window.resize(1280, 800)
    window.workspace.session.replace(large(layers))
    window.show()
    application().processEvents()
    load()  # as the program does by itself soon after its start
    return window


def once(work: Callable[[], object]) -> float:
    """How long one thing takes with all that follows from it, seconds."""
    from avelt.window.start import application

    started = time.perf_counter()
    work()
    application().processEvents()
    return time.perf_counter() - started


def _entering(window: MainWindow) -> list[tuple[str, float]]:
    made = []
    for name in STATIONS:
        # What an earlier station still had to do is not this one's.
        while window.workspace.pictures.waiting():
            once(lambda: time.sleep(0.02))
        once(lambda: time.sleep(0.4))
        once(lambda: None)
        made.append((name, once(partial(window.go, name))))
    return made


def _timing(window: MainWindow, layers: int, limit: float) -> list[Row]:
    from avelt.window.start import application

    window.go("timing")
    clock = window.clock()
    assert clock is not None
    clock.stop()

    def tick() -> None:
        clock.advance(16.0)
        application().processEvents()

    playing = best(tick, 5, 0.5)
    station = cast("TimingStation", window.stations["timing"])
    station.pick(station.sheet.body.rows[0].key)
    turn = iter(range(1, 10**9))

    def handle() -> None:
        station.curve_editor.shaped.emit(Handles(0.2, (next(turn) % 100) / 100, 0.1, 1.0))
        tick()

    dragging = best(handle, 5, 0.5)
    window.workspace.end_gesture()
    note = f"{limit * 1000:.0f} ms"
    return [
        Row(f"playing {layers:,} layers in Timing, one picture", playing, limit, 1, note=note),
        Row("  a curve's handle dragged while it plays", dragging, limit, 1, note=note),
    ]


def _edit(window: MainWindow) -> float:
    from avelt.window.start import application

    window.go("frames")
    workspace = window.workspace
    frame = workspace.project.frames[0].id
    turn = iter(range(1, 10**9))

    def work() -> None:
        x = float(next(turn) % 90)
        workspace.do("Move", lambda project: set_value(project, frame, "c0.3", "x", x))
        application().processEvents()

    return best(work, 3, 0.5)
