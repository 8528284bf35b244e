"""Projects that grew: 60 frames of 300 layers, 200 frames of 60, 500 rows in the sheet, 60 uses that loop. Opened,
entered, edited, undone, played; and memory over a long time of use."""

from __future__ import annotations

import gc
import random
import tempfile
import time
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import QCoreApplication, QEvent

from avelt.core.edits.frames import next_state
from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import add_route, set_duration
from avelt.core.formats.project_file import save_project
from avelt.window.common.tidy import collect_rarely
from bench.large import STATIONS, once
from bench.measure import Row
from bench.parts import with_uses
from bench.scenes import large, moving_project

if TYPE_CHECKING:
    from avelt.core.model.values import Project
    from avelt.window.shell.main_window import MainWindow

SIZES = ((300, 60), (60, 200))
EDITED = STATIONS[:-1]
_USES, _WARM = 1200, 900
_HOUR = f"memory after {_USES:,} more deeds, and after {_WARM}"


def rows() -> list[Row]:
    """All of it."""
    made: list[Row] = []
    for layers, frames in SIZES:
        made += _grown(f"{frames} frames of {layers} layers", large(layers, frames))
    made += _grown("a sheet of 500 rows", _sheet())
    made += _grown("60 uses of a part with 4 loops each", _moving_uses())
    return [*made, memory()]


def _sheet() -> Project:
    """A route of 500 layers, each with a row: one begins after the other, so that thirty move at once."""
    project = moving_project(500)
    (route,) = project.routes
    cues = tuple(replace(cue, start=10.0 * k) for k, cue in enumerate(route.transition.cues))
    transition = replace(route.transition, duration=5300.0, cues=cues)
    return replace(project, routes=(replace(route, transition=transition),))


def _moving_uses() -> Project:
    """A frame with them, and a transition to another in which they have moved."""
    project = with_uses(60)
    frame = project.frames[0]
    project = next_state(project, frame.id)
    there = project.frames[1]
    for layer in there.layers:
        project = set_value(project, there.id, layer.id, "y", layer.y + 30.0)
    return add_route(project, frame.id, there.id)[0]


def _grown(what: str, project: Project) -> list[Row]:
    window = _window()
    with tempfile.TemporaryDirectory() as name:
        file = Path(name) / "grown.avelt"
        save_project(project, file)
        opened = min(once(lambda: window.open_file(file)) for _ in range(2))
    entered, edited, undone = [], [], []
    for station in STATIONS:
        _settle(window)
        entered.append(once(lambda s=station: window.go(s)))  # type: ignore[misc]
    for station in EDITED:
        window.go(station)
        _settle(window)
        turn = iter(range(1, 10**9))
        edited.append(min(once(lambda: _edit(window, float(next(turn) % 90))) for _ in range(4)))  # noqa: B023
        undone.append(min(once(lambda: window.do("undo")) for _ in range(3)))
    window.go("timing")
    clock = window.clock()
    assert clock is not None
    clock.stop()
    played = sorted(once(lambda: clock.advance(16.0)) for _ in range(40))
    window.workspace.session.saved()
    window.close()
    return [
        Row(f"opening {what}", opened, 1.0, 1, note="1 s"),
        Row("  entering the slowest station", max(entered), 0.5, 1, note="500 ms"),
        Row("  an edit to its picture in the slowest station", max(edited), 0.15, 1, note="150 ms"),
        Row("  undone in the slowest station", max(undone), 0.15, 1, note="150 ms"),
        Row("  played in Timing, 95th of 100 pictures", played[int(0.95 * len(played))], 0.033, 1, note="33 ms"),
    ]


def _window() -> MainWindow:
    from avelt.window.start import application, make_window

    window = make_window(None, False, False)
    window.resize(1280, 800)
    window.show()
    collect_rarely()  # as in the program, which collects when nobody does anything
    application().processEvents()
    return window


def _settle(window: MainWindow) -> None:
    """What a station still had to do is not the next one's."""
    while window.workspace.pictures.waiting():
        once(lambda: time.sleep(0.02))
    once(lambda: time.sleep(0.3))


def _edit(window: MainWindow, x: float) -> None:
    workspace = window.workspace
    frame = workspace.project.frames[0]
    workspace.do("Move", lambda project: set_value(project, frame.id, frame.layers[0].id, "x", x))


def memory() -> Row:
    """Random deeds in the demo, as many as in an hour: the memory of the process (MB, in the place of ms)."""
    from avelt.window.start import application, make_window

    window, dice = make_window(None, True, False), random.Random(3)
    window.resize(1280, 800)
    window.show()

    def deed() -> None:
        workspace, chance = window.workspace, dice.random()
        if chance < 0.3:
            window.go(dice.choice(STATIONS))
        elif chance < 0.6:
            frame = dice.choice(workspace.project.frames)
            layer = dice.choice(frame.layers).id
            workspace.choose(frame.id, layer)
            workspace.do("Move", lambda project: set_value(project, frame.id, layer, "x", dice.uniform(0, 90)))
        elif chance < 0.7:
            route = dice.choice(workspace.project.routes).id
            workspace.choose_route(route)
            workspace.do("Duration", lambda project: set_duration(project, route, dice.uniform(200, 600)))
        elif chance < 0.85:
            window.do("undo")
        else:
            clock = window.clock()
            if clock is not None:
                clock.stop()
                for _ in range(5):
                    clock.advance(33.0)
        application().processEvents()
        QCoreApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)  # as an event loop does in between

    sizes = []
    for count in (_WARM, _USES):
        for _ in range(count):
            deed()
        gc.collect()
        sizes.append(_resident())
    window.workspace.session.saved()
    window.close()
    return Row(_HOUR, sizes[1] / 1000.0, sizes[0] / 1000.0, 1.15, note="MB, not ms: the same number for ever")


def _resident() -> float:
    """MB that the process has in memory (proc(5), statm)."""
    return int(Path("/proc/self/statm").read_text().split()[1]) * 4096 / 1e6
