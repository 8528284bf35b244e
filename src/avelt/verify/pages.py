"""A tape replayed in the page and in the core: the same log, the same pictures."""

from __future__ import annotations

import json
from typing import Any

from avelt.browser.engines import Shown, opened
from avelt.core.arrays import np
from avelt.core.handoff.delivery import Delivery
from avelt.core.model.tapes import KeyDown, Loaded, Move, Out, Press, Release, Scrolled, Sent, Start, Tape, Told
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.running.player import LogEntry
from avelt.core.running.tape import played
from avelt.core.stopping import temporary_folder
from avelt.core.timing.quieter import quieter
from avelt.paint.painter import ScenePainter
from avelt.verify.compare import Moment, Verdict, difference, from_png, on_white, written

_READY = """new Promise((done, failed) => {
  const wait = setInterval(() => { if (window.avelt) { clearInterval(wait); done(0) } }, 5)
  setTimeout(() => failed(new Error("the page does not begin")), 20000)
})"""
#: What of a log is compared: when (ms), what, in which words, and in which part.
Line = tuple[float, str, str, str]


class Replay(Record, frozen=True):
    """A tape played by both: the pictures compared, and both logs."""

    verdict: Verdict
    designed: tuple[Line, ...]
    delivered: tuple[Line, ...]

    @property
    def parts_at(self) -> int:
        """The first line of the logs that is another; -1 when they are the same."""
        pairs = zip(self.designed, self.delivered, strict=False)
        k = next((k for k, (a, b) in enumerate(pairs) if a != b), -1)
        if k < 0 and len(self.designed) != len(self.delivered):
            return min(len(self.designed), len(self.delivered))
        return k


def replayed(
    delivery: Delivery,
    project: Project,
    tape: Tape,
    moments: list[float],
    browser: Shown | None = None,
    keep: list[tuple[np.ndarray, np.ndarray, float]] | None = None,
    less_motion: bool = False,
    engine: str = "chromium",
) -> Replay:
    """Play a tape in both, and compare the pictures at moments (ms, going up); ``keep`` gets them.

    ``less_motion``: what the page shows to people who ask for that, against the project's quieter variant.
    """
    project = quieter(project) if less_motion else project
    painter = ScenePainter(project.assets)
    designed: list[np.ndarray] = []
    log: list[LogEntry] = []
    for _, player in played(project, tape, moments, missed=[]):
        designed.append(on_white(painter.render(player.scene(), 1.0)))
        log = player.log
    h, w = designed[0].shape[:2] if designed else (640, 360)
    with temporary_folder("avelt-look-") as folder, opened(browser, engine) as shown:
        written(delivery.files, folder)
        shown.open(folder / delivery.main, w, h, 1.0, "#hold-quieter" if less_motion else "#hold")
        shown.run(_READY)
        found = []
        for ms, mine_then, picture in zip(moments, designed, _pictures(shown, tape, moments), strict=True):
            found.append(difference(mine_then, picture, ms))
            if keep is not None:
                keep.append((mine_then, picture, ms))
        theirs = [_line(entry) for entry in shown.run("avelt.log()")]
    mine = [(round(e.at, 2), e.what, e.says, e.stage) for e in log if e.what != "not played"]
    return Replay(Verdict(tuple(_not_beside_events(found, tape))), tuple(mine), tuple(theirs))


def _line(entry: dict[str, Any]) -> Line:
    return round(float(entry["at"]), 2), entry["what"], entry["says"], entry["stage"]


def _not_beside_events(found: list[Moment], tape: Tape) -> list[Moment]:
    """Without the moments of an event itself, where something may flip."""
    times = [event.at for event in tape.events]
    return [m for m in found if not any(abs(m.at - at) < 1e-6 for at in times)]


def _pictures(browser: Shown, tape: Tape, moments: list[float]) -> list[np.ndarray]:
    browser.run(f"avelt.start({json.dumps(_start(tape.start))}), 0")
    made, place = [], 0
    for ms in moments:
        while place < len(tape.events) and tape.events[place].at <= ms:
            event = tape.events[place]
            _go(browser, event.at)
            browser.run(f"{_call(event)}, 0")
            place += 1
        _go(browser, ms)
        made.append(from_png(browser.picture()))
    while place < len(tape.events):
        _go(browser, tape.events[place].at)
        browser.run(f"{_call(tape.events[place])}, 0")
        place += 1
    _go(browser, tape.until)
    return made


def _go(browser: Shown, ms: float) -> None:
    browser.run(f"avelt.advance({ms!r} - avelt.now()), 0")


def _start(start: Start) -> dict[str, Any]:
    return {"frame": start.frame, "inputs": dict(start.inputs), "loading": start.loading, "seed": start.seed}


def _call(event: object) -> str:
    """An event as a call of the page."""
    if isinstance(event, Press | Move | Release):
        name = {Press: "press", Move: "move", Release: "release"}[type(event)]
        return f"avelt.{name}({event.x!r}, {event.y!r})"
    if isinstance(event, Scrolled):
        return f"avelt.scroll({event.dx!r}, {event.dy!r})"
    if isinstance(event, KeyDown):
        return f"avelt.key({json.dumps(event.key)})"
    if isinstance(event, Told):
        return f"avelt.input({json.dumps(event.name)}, {json.dumps(event.value)}, {json.dumps(event.part)})"
    if isinstance(event, Sent):
        return f"avelt.signal({json.dumps(event.name)}, {json.dumps(event.part)})"
    if isinstance(event, Loaded):
        return "avelt.loaded()"
    if isinstance(event, Out):
        return "avelt.out()"
    raise TypeError(f"{type(event).__name__} is no event of a page")
