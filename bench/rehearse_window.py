"""How evenly Rehearse plays the demo in a real window, and how soon a press is seen:
``xvfb-run -a -s "-screen 0 1280x800x24" python -m bench.rehearse_window``, with the seconds to rest after each tape.

The yardstick is the same window painting one kept picture at the same pace, in the same run. What was played while
others had the processors (a machine may be shared) is counted apart, and played again.
"""

from __future__ import annotations

import os
import sys
import time
from functools import partial
from pathlib import Path
from threading import Event as Flag
from threading import Thread
from typing import TYPE_CHECKING, NamedTuple, cast

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QEventLoop, QPoint, QPointF, Qt, QTimer
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtTest import QTest

from avelt.core.geometry import affine
from avelt.core.model.find import frame_by_id
from avelt.core.model.properties import COLUMN
from avelt.core.model.tapes import Event, Move, Press, Release, Scrolled
from avelt.core.model.triggers import STAYS, Tap
from avelt.core.model.values import Frame, Route
from avelt.core.running.hits import slots_at
from avelt.core.running.player import Player
from avelt.core.timing.program import Scene

if TYPE_CHECKING:
    from avelt.core.running.rehearsal import Rehearsal
    from avelt.core.running.rules import Rules
    from avelt.window.rehearse.station import RehearseStation

SECONDS, TAPE = 60.0, 5.0  # of all tapes, and of one
MOST_TURNS, MOST_YARDSTICKS = 48, 10
OTHERS = 0.01  # of the processors: what others may have of them, so that it counts
YARDSTICK = 6.0
TAPS = 12
_APART = "tapes while others had the processors"
TICK = 16.0  # ms: the display's pace as the clock asks for it


def yardstick(window: object) -> np.ndarray:
    """Times between two pictures, ms, of a widget that paints one kept picture."""
    from PySide6.QtWidgets import QWidget

    picture = window.grab()  # type: ignore[attr-defined]
    times: list[float] = []

    class Kept(QWidget):
        def paintEvent(self, event: QPaintEvent) -> None:
            painter = QPainter(self)
            painter.drawPixmap(0, 0, picture)
            times.append(time.perf_counter())

    kept = Kept(window)  # type: ignore[arg-type]
    kept.resize(window.size())  # type: ignore[attr-defined]
    kept.show()
    timer = QTimer(kept)
    timer.setTimerType(Qt.TimerType.PreciseTimer)
    timer.timeout.connect(kept.update)
    timer.start(int(TICK))
    wait(YARDSTICK)
    timer.stop()
    kept.deleteLater()
    return np.diff(np.array(times))[30:] * 1000.0


class Tapped(NamedTuple):
    """How long after a tap the first picture is there that is not the one before, ms, how long of that the program
    worked, how long a piece of work took then that is always the same, and s that others had of each processor."""

    took: float
    worked: float
    piece: float
    others: float


def tap(station: RehearseStation, at: QPointF) -> Tapped:
    """A tap at a point of the frame."""
    stage = station.stage
    seen: list[tuple[float, float, Scene]] = []
    paint = stage.paintEvent

    def painted(event: QPaintEvent) -> None:
        paint(event)
        seen.append((time.perf_counter(), time.process_time(), cast(Scene, stage.scene)))

    stage.paintEvent = painted  # type: ignore[method-assign]
    spot = _press(station, at)
    before = cast(Scene, stage.scene)
    seen.clear()
    before_it = stolen()
    tapped, worked = time.perf_counter(), time.process_time()
    QTest.mouseRelease(stage, Qt.MouseButton.LeftButton, pos=spot)
    wait(0.2)
    others = stolen() - before_it
    stage.paintEvent = paint  # type: ignore[method-assign]
    scale = stage.place().width() / before.size[0]
    still = stage.painter.render(before, scale).copy()
    when, until = next((a, b) for a, b, scene in seen if stage.painter.render(scene, scale) != still)
    return Tapped((when - tapped) * 1000.0, (until - worked) * 1000.0, _piece(), others)


def _piece() -> float:
    """How fast the processor is just now: ms for a piece of work."""
    began = time.process_time()
    known: dict[int, int] = {}
    for k in range(60_000):
        known[k % 977] = k
    return (time.process_time() - began) * 1000.0


def tap_at_rest(station: RehearseStation) -> Tapped:
    """``tap`` at the start of a rehearsal."""
    station.start_over()
    wait(0.3)
    return tap(station, QPointF(180, 320))


def taps_on_the_way(station: RehearseStation, pause: float = 0.0) -> list[Tapped]:
    """``tap`` in the middle of every transition that a tap starts in the first frame, on all that leads on from there
    and is seen by then; ``pause`` seconds before each."""
    found: list[Tapped] = []
    station.start_over()
    player = cast(Player, station.player)
    rules, start = player.rules, player.frame
    for first in _taps(rules, start):
        for then in _taps(rules, frame_by_id(rules.project, first.arrives)):
            station.clock.stop()
            wait(pause)
            station.start_over()
            station.clock.play()
            wait(1.5)
            at = _spot(station, first)
            if at is None:
                continue
            spot = _press(station, at)
            QTest.mouseRelease(station.stage, Qt.MouseButton.LeftButton, pos=spot)
            wait(0.08)
            at = _spot(station, then)
            if at is None:
                continue
            took = tap(station, at)
            if cast(Player, station.player).frame.id != first.arrives:  # what was pressed was still there to be let go
                found.append(took)
    return found


def _press(station: RehearseStation, at: QPointF) -> QPoint:
    """Press at a point of the frame, for a moment; the point of the stage."""
    spot = station.stage.to_widget().map(at).toPoint()
    QTest.mousePress(station.stage, Qt.MouseButton.LeftButton, pos=spot)
    wait(0.06)
    return spot


def _taps(rules: Rules, frame: Frame) -> list[Route]:
    return [r for r in rules.routes_of(frame) if isinstance(r.trigger, Tap) and not isinstance(r.action, STAYS)]


def _spot(station: RehearseStation, route: Route) -> QPointF | None:
    """A point of the frame at which a tap takes a route now."""
    if not isinstance(route.trigger, Tap):
        return None
    scene = cast(Player, station.player).scene()
    slot = next((s for s, part in enumerate(scene.program.contents) if part.layer.id == route.trigger.layer), -1)
    if slot >= 0:
        world, (w, h) = scene.world()[slot], scene.scalars[slot, [COLUMN["w"], COLUMN["h"]]]
        for across, down in ((0.5, 0.5), (0.2, 0.2), (0.8, 0.8), (0.5, 0.9), (0.9, 0.1)):
            x, y = affine.apply(world, [w * across, h * down]).tolist()
            if 0.0 < x < scene.size[0] and 0.0 < y < scene.size[1] and slot in slots_at(scene, x, y):
                return QPointF(x, y)
    return None


def wait(seconds: float) -> None:
    """Let the window live; between events it sleeps, as it does for people."""
    loop = QEventLoop()
    QTimer.singleShot(round(seconds * 1000.0), loop.quit)
    loop.exec()


def played(station: RehearseStation, tape: str, by_hand: bool = False) -> np.ndarray:
    """Times between two pictures of a tape (n, 2), ms: as time went, and as the program worked. ``by_hand``: what is on
    the tape is done anew, when its time has come, as by somebody who touches the screen."""
    times: list[tuple[float, float]] = []
    paint = station.stage.paintEvent

    def painted(event: QPaintEvent) -> None:
        paint(event)
        times.append((time.perf_counter(), time.process_time()))

    station.stage.paintEvent = painted  # type: ignore[method-assign]
    station.open_tape(tape)
    if by_hand:
        _by_hand(station)
    times.clear()
    wait(TAPE)
    station.clock.stop()
    station.stage.paintEvent = paint  # type: ignore[method-assign]
    return np.diff(np.array(times), axis=0)[3:] * 1000.0


def _by_hand(station: RehearseStation) -> None:
    """Begin the tape that is open anew, and do what is on it at its times."""
    held = cast("Rehearsal", station.rehearsal)
    events, start = tuple(held.events), held.start
    station.setup.seed.show_value(float(start.seed))
    station.loading.show_value(start.loading)
    station.start_over()
    station.clock.play()
    for event in events:
        QTimer.singleShot(round(event.at), station, partial(_do, station, event))


def _do(station: RehearseStation, event: Event) -> None:
    if isinstance(event, Press):
        station.stage.pressed.emit(event.x, event.y)
    elif isinstance(event, Release):
        station.stage.released.emit(event.x, event.y)
    elif isinstance(event, Move):
        station.stage.moved.emit(event.x, event.y)
    elif isinstance(event, Scrolled):
        station.stage.wheeled.emit(event.dx, event.dy)
    else:
        station._do(lambda ms: replace(event, at=ms))


def beside_work(station: RehearseStation, tape: str) -> np.ndarray:
    """Times between two pictures of a tape (n,), ms, while a thread of the same program works all the time."""
    over = Flag()

    def work() -> None:
        while not over.is_set():
            _piece()

    worker = Thread(target=work)
    worker.start()
    try:
        return played(station, tape)[:, 0]
    finally:
        over.set()
        worker.join()


def stolen() -> float:
    """Seconds that others had of this machine's processors, per processor (0 where the system does not say)."""
    words = Path("/proc/stat").read_text().split() if Path("/proc/stat").exists() else []
    return float(words[8]) / os.sysconf("SC_CLK_TCK") / (os.cpu_count() or 1) if len(words) > 8 else 0.0


def _tell_pictures(times: np.ndarray, of: str) -> None:
    """``times`` as ``played`` gives them."""
    gaps, worked = times.T
    late = gaps > 50.0
    print(
        f"{of}: {len(gaps)} pictures; ms between two: {_figures(gaps)}; {late.sum()} above 50"
        f" ({(worked[late] > 50.0).sum()} of these with more than 50 of work)"
    )
    print(
        f"of these ms the program worked at most {worked.max():.1f}; for the latest {worked[gaps.argmax()]:.1f}"
        f" of {gaps.max():.1f}"
    )


def _figures(times: np.ndarray) -> str:
    return ", ".join(f"{v:.1f}" for v in np.percentile(times, [50, 95, 99, 100]))


def _tell_taps(taps: list[Tapped], of: str) -> None:
    found, worked, piece, _ = np.array(taps).T
    found, worked = found / TICK, worked / TICK
    print(
        f"from {of}, to the first picture that has changed: {np.median(found):.2f} ticks"
        f" ({len(found)}; first {found[0]:.2f}, 90 % {np.percentile(found, 90):.2f}, worst {found.max():.2f};"
        f" the program worked at most {worked.max():.2f}, for the worst {worked[found.argmax()]:.2f})"
    )
    print(
        f"a piece of work took {piece.min():.1f} to {piece.max():.1f} ms meanwhile; had the processor always been"
        f" as fast as at its best: at most {(worked / piece).max() * piece.min():.2f} ticks"
    )


def _minute(
    station: RehearseStation, names: list[str], pause: float, by_hand: bool = False
) -> tuple[list[np.ndarray], list[np.ndarray]]:
    """Tapes for a minute in which others hardly had the processors, and those that were played while they had."""
    both: list[np.ndarray] = []
    apart: list[np.ndarray] = []
    while len(both) * TAPE < SECONDS and len(both) + len(apart) < MOST_TURNS:
        before = stolen()
        found = played(station, names[len(both) % len(names)], by_hand)
        (both if stolen() - before < OTHERS * TAPE else apart).append(found)
        wait(pause)
    return both, apart


def main(pause: float = 0.0) -> int:
    """Play both tapes of the demo round and round, then press, and print what was measured. ``pause`` seconds after
    each tape, and before each touch on the way: a machine that others pay for, too, is taken away from who uses it for
    long."""
    from avelt.window.rehearse.station import RehearseStation
    from avelt.window.start import application, open_window

    window = open_window(None, True, False)
    application()
    window.go("rehearse")
    window.tidy.start()
    station = cast(RehearseStation, window.stations["rehearse"])
    wait(3.0)
    station.clock.stop()
    wait(4.0)  # what is collected once nobody does anything is no part of either
    for _ in range(MOST_YARDSTICKS):
        before = stolen()
        plain = yardstick(window)
        if stolen() - before < OTHERS * YARDSTICK:
            break
    names = [tape.name for tape in window.workspace.project.tapes]
    both, apart = _minute(station, names, pause)
    hand, hand_apart = _minute(station, names, pause, by_hand=True)
    beside = np.percentile(np.concatenate([beside_work(station, name) for name in names]), [50, 95, 99, 100])
    station.clock.play()
    for turns, what in ((both, "tapes"), (apart, _APART), (hand, "tapes by hand"), (hand_apart, _APART + " by hand")):
        if turns:
            _tell_pictures(np.concatenate(turns), f"{len(turns)} {what}")
    if not both:
        print("Others had too much of the processors all the time: there is nothing to compare.")
        return 1
    found, usual = (np.percentile(gaps, [50, 95, 99, 100]) for gaps in (np.concatenate(both)[:, 0], plain))
    print(f"one kept picture: {len(plain)}; ms between two: {_figures(plain)}")
    print("ratio: " + ", ".join(f"{a / b:.2f}x" for a, b in zip(found, usual, strict=True)), "(50, 95, 99, 100 %)")
    print("while a thread works: " + ", ".join(f"{a / b:.2f}x" for a, b in zip(beside, found, strict=True)), "of alone")
    for name, taps in (
        ("a tap", [tap_at_rest(station) for _ in range(TAPS)]),
        ("a tap on the way", taps_on_the_way(station, pause)),
    ):
        for disturbed in (False, True):
            group = [one for one in taps if (one.others > 0.0) == disturbed]
            if group:
                _tell_taps(group, f"{name}, others had {'some' if disturbed else 'nothing'} of the processors")
    window.workspace.session.saved()
    window.close()
    return 0


if __name__ == "__main__":
    sys.exit(main(*map(float, sys.argv[1:2])))
