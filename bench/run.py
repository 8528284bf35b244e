"""The budgets: each as a ratio against a yardstick measured in the same run.

``python -m bench.run`` prints the table; ``--write`` puts it into docs/performance.md.
"""

from __future__ import annotations

import io
import json
import os
import resource
import subprocess
import sys
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, cast
from unittest.mock import patch

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PySide6.QtCore import QPropertyAnimation, QRect
from PySide6.QtGui import QImage, QPainter, QTransform
from PySide6.QtWidgets import QWidget
from scipy.optimize import linear_sum_assignment

from avelt.core.edits.routes import set_cue
from avelt.core.formats.project_file import from_json, pack, to_json, unpack
from avelt.core.handoff.delivery import Wanted
from avelt.core.handoff.web import css_folder, moving_svg, web_animations
from avelt.core.model.curves import Handles
from avelt.core.model.values import Project
from avelt.core.pairing.engine import pair_frames
from avelt.core.pairing.facts import _gather
from avelt.core.timing.compile import compile_route
from avelt.core.timing.items import items
from avelt.core.timing.tracks import BlendTrack
from avelt.deliver.films import picture_loop
from avelt.deliver.shows import show_of
from avelt.demo.build import build_demo
from avelt.paint.fonts import measure_text
from avelt.paint.letters import QtLetters
from avelt.paint.moving import moments, to_pillow
from avelt.paint.outlines import own_transform
from avelt.paint.painter import ScenePainter
from avelt.paint.sheets import Canvas
from bench import grown, large, page, parts, replay, shelf
from bench.measure import HEAD, Row, best, pair
from bench.scenes import boxes, moving_project, screen, strangers, with_shadows

if TYPE_CHECKING:
    from avelt.window.timing.station import TimingStation

MARK, END = "<!-- measured -->", "<!-- end of measured -->"
ROOT = Path(__file__).resolve().parent.parent


def sampling() -> list[Row]:
    """program.at against the bare arithmetic, and against Qt's animations."""
    project = moving_project(1000)
    program = compile_route(project, project.routes[0])
    blend = next(track for track in program.tracks if isinstance(track, BlendTrack))
    a, b, cue, eased_at = blend.first, blend.last, blend.cue, blend.eased

    def bare() -> object:
        y = eased_at(np.asarray(200.0))[cue]
        return a + (b - a) * y

    ours, theirs = pair(lambda: program.at(200.0), bare)
    count = len(program.moving)
    rows = [
        Row(
            f"`program.at`, {count:,} numbers over 1,000 layers",
            ours,
            theirs,
            3,
            note="bare `a + (b - a) * y`, same curves",
        )
    ]
    holder = QWidget()
    animations = []
    for _ in range(count):
        animation = QPropertyAnimation(holder, b"windowOpacity")
        animation.setDuration(400)
        animation.setStartValue(0.0)
        animation.setEndValue(1.0)
        animations.append(animation)
    moment = iter(range(1, 10**9))

    def qt() -> None:
        ms = next(moment) % 400
        for animation in animations:
            animation.setCurrentTime(ms)

    rows.append(
        Row(
            "the same against animations of Qt",
            ours,
            best(qt, 3),
            20,
            True,
            f"{count:,} `QPropertyAnimation`s set to a time",
        )
    )
    program_at = program.at(200.0)
    rows.append(
        Row(
            "  with the colours of 1,000 layers too",
            best(lambda: program.at(200.0).colours),
            theirs,
            0,
            note="as above; no budget is set",
        )
    )
    assert program_at.colours is not None
    return rows


def growth() -> list[str]:
    """How sampling, and compiling anew after a cue was changed, grow with the count of numbers."""
    lines = ["| numbers | `program.at` | a number | compiled anew | a number |", "| --- | --- | --- | --- | --- |"]
    for layers in (10, 100, 1000):
        project = moving_project(layers)
        program = compile_route(project, project.routes[0])
        seconds = best(partial(program.at, 200.0), 5)
        count = len(program.moving)
        anew = best(_compiling(project), 5)
        lines.append(
            f"| {count:,} | {seconds * 1e6:.0f} µs | {seconds / count * 1e9:.0f} ns |"
            f" {anew * 1e3:.2f} ms | {anew / count * 1e6:.1f} µs |"
        )
    return lines


def _compiling(project: Project) -> Callable[[], object]:
    """A cue changed, and the route compiled; never the same cue twice."""
    route = project.routes[0]
    key = route.transition.cues[0].key
    moment = iter(range(1, 10**9))

    def work() -> object:
        edited = set_cue(project, route.id, key, start=float(next(moment) % 90))
        return compile_route(edited, edited.routes[0])

    return work


def pairing() -> list[Row]:
    """Pairing strangers against one dense assignment of that size, and its growth."""

    def fresh(count: int) -> Callable[[], object]:
        left, right = strangers(count)

        def work() -> object:
            # Nothing is remembered from the round before.
            with patch("avelt.core.pairing.engine.gather", _gather):
                return pair_frames(left, right)

        return work

    costs = np.random.default_rng(9).random((1000, 1000))
    small, large = fresh(1000), fresh(4000)
    one, dense = pair(small, lambda: linear_sum_assignment(costs))
    four, again = pair(large, small)
    two = best(fresh(2000), 4)
    return [
        Row("pairing 1,000 x 1,000 layers", one, dense, 3, note="one dense `linear_sum_assignment`, random costs"),
        Row("pairing 2,000 x 2,000 layers", two, 0.3, 1, note="300 ms"),
        Row("pairing 4,000 x 4,000 layers", four, again, 6, note="1,000 x 1,000 layers"),
    ]


def painting() -> list[Row]:
    """A screen of 60 layers of which 10 move, against Qt painting the 10 and one picture."""
    rows = []
    for scale, where in ((1.0, "at 360 x 640"), (2.0, "at twice the size")):
        a, b = _painting(screen(10, 50), scale)
        note = "the 10 moving ones and one kept picture, by Qt"
        rows.append(Row(f"painting 60 layers, 10 moving, {where}", a, b, 1.5, note=note))
    c, d = _painting(with_shadows(screen(10, 50)), 2.0, screen(10, 50))
    note = "the same without shadows, by Qt; no budget is set"
    return [*rows, Row("  with a shadow under every box", c, d, 0, note=note)]


def _painting(project: Project, scale: float, bare: Project | None = None) -> tuple[float, float]:
    """Seconds of ours, and of Qt painting what moves of ``bare`` over one kept picture."""
    program, painter = compile_route(project, project.routes[0]), ScenePainter()
    plain_program = compile_route(bare, bare.routes[0]) if bare is not None else program
    painter.render(program.at(10.0), scale)
    moment = iter(range(1, 10**9))
    still = painter.render(program.at(0.0), scale)
    w, h = still.width(), still.height()
    base = QTransform.fromScale(scale, scale)

    def ours() -> object:
        return painter.render(program.at(1.0 + next(moment) % 140), scale)

    plain = ScenePainter()

    def theirs() -> object:
        scene = plain_program.at(1.0 + next(moment) % 140)
        image = QImage(w, h, QImage.Format.Format_ARGB32_Premultiplied)
        inner = QPainter(image)
        inner.setRenderHints(QPainter.RenderHint.Antialiasing)
        inner.drawImage(0, 0, still)
        canvas = Canvas(inner, QRect(0, 0, w, h), image)
        for item in items(scene)[50:]:
            plain.draw(canvas, item, own_transform(item) * base)
        inner.end()
        return image

    return pair(ours, theirs)


def exporting() -> list[Row]:
    """A GIF against painting its pictures and the encoder alone."""
    project = build_demo(measure_text)
    program = compile_route(project, project.routes[0])
    wanted, show = Wanted(), show_of(program)

    def parts() -> object:
        painter = ScenePainter()
        shots = [to_pillow(painter.render(program.at(ms))) for ms in moments(program.duration, wanted.fps)]
        small = [shot.quantize(256, 0) for shot in shots]
        with open(os.devnull, "wb") as sink:
            small[0].save(sink, "GIF", save_all=True, append_images=small[1:], duration=40, optimize=False)
        return None

    def ours() -> object:
        return picture_loop("gif", show, project, wanted, io.BytesIO(), lambda done, whole: True)

    a, b = pair(ours, parts, 6)
    return [
        Row("GIF of the demo's first route", a, b, 1.3, note="painting its pictures, and Pillow alone"),
        *_as_code(),
    ]


def _as_code() -> list[Row]:
    """A route of 1,000 layers as CSS, SVG and JSON, against compiling it anew."""
    made = moving_project(1000)
    program = compile_route(made, made.routes[0])
    letters = QtLetters()

    def compiled() -> object:
        fresh = from_json(to_json(made), "bench")
        return compile_route(fresh, fresh.routes[0])

    rows = []
    for name, make in (("CSS", css_folder), ("SVG", moving_svg), ("JSON", web_animations)):
        a, b = pair(partial(make, program, made, letters, Wanted()), compiled, 5)
        rows.append(Row(f"{name} of a route of 1,000 layers", a, b, 5.0, note="reading and compiling it"))
    return rows


def opening() -> list[Row]:
    """A project of 2,000 layers against reading the same text as JSON."""
    project = moving_project(1000)
    text = to_json(project)
    data = pack(project)
    a, b = pair(lambda: unpack(data, "x"), lambda: json.loads(text))
    c, _ = pair(lambda: from_json(text, "x"), lambda: json.loads(text), 2)
    return [
        Row("opening 2,000 layers (unzip, read, check)", a, b, 4, note="`json.loads` of the same text"),
        Row("  of that, reading the document", c, b, 4, note="the same"),
    ]


EMPTY = """
from PySide6.QtWidgets import QApplication, QMainWindow
app = QApplication([]); window = QMainWindow(); window.resize(1280, 800); window.show()
app.processEvents(); window.grab()
"""
FIRST = """
from avelt.window import start
window = start._window(start.new_project("Untitled"), None, False)
if {demo}: start._show_last(window, None)
window.show(); start.application().processEvents(); window.grab()
"""
WHOLE = """
from avelt.window.start import application, open_window
window = open_window(None, {demo}, False)
application().processEvents(); window.grab()
"""


def starting() -> list[Row]:
    """Cold start to the first painted window and to everything, empty and with the demo: processor work."""

    env = {key: value for key, value in os.environ.items() if key != "PYTHONDONTWRITEBYTECODE"}

    def run(code: str) -> float:
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        code += "\nimport os; os._exit(0)"
        subprocess.run([sys.executable, "-c", code], check=True, capture_output=True, cwd=ROOT, env=env)
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        return after.ru_utime - before.ru_utime + after.ru_stime - before.ru_stime

    codes = {
        "empty": EMPTY,
        "first": FIRST.format(demo=False),
        "whole": WHOLE.format(demo=False),
        "first demo": FIRST.format(demo=True),
        "whole demo": WHOLE.format(demo=True),
    }
    times: dict[str, list[float]] = {name: [] for name in codes}
    # The first round compiles every module, as on a machine where it ran before, and closes the demo, whose pictures
    # are kept (twice: the first may give the window another size); then in turns, so that a slow moment hits all.
    for _ in range(2):
        run(codes["whole demo"] + "window.close()")
    for turn in range(8):
        for name, code in codes.items():
            took = run(code)
            if turn:
                times[name].append(took)
    best_of = {name: min(taken) for name, taken in times.items()}
    note = "an empty PySide6 main window; processor work"
    rows = (
        ("cold start to the first painted window", "first", 1.8),
        ("  to everything usable", "whole", 2.3),
        ("  to the first painted window, with the demo", "first demo", 2.0),
        ("  to everything usable, with the demo", "whole demo", 2.6),
    )
    return [Row(work, best_of[name], best_of["empty"], limit, note=note) for work, name, limit in rows]


def editing() -> list[Row]:
    """A curve handle moved on the demo: edit, compile, sample and paint, against 33 ms."""
    project: Project = build_demo(measure_text)
    route = project.routes[0]
    painter = ScenePainter()
    key = route.transition.cues[0].key
    moment = iter(range(1, 10**9))

    def work() -> object:
        y = (next(moment) % 100) / 100
        edited = set_cue(project, route.id, key, curve=Handles(0.2, y, 0.1, 1.0))
        return painter.render(compile_route(edited, edited.routes[0]).at(200.0), 0.5)

    return [Row("a handle moved on the demo until the next picture", best(work, 5), 0.033, 1, note="33 ms")]


def playing() -> list[Row]:
    """One tick of playing the demo in the real Timing station, all of it painted."""
    from avelt.window.start import application, make_window

    window = make_window(None, True, False)
    window.show()
    window.go("timing")
    clock = window.clock()
    assert clock is not None
    clock.stop()

    def work() -> None:
        clock.advance(16.0)
        application().processEvents()

    seconds = best(work, 5, 0.5)
    station = cast("TimingStation", window.stations["timing"])
    row = next(r for r in station.sheet.body.rows if r.left_name == "Header")
    station.pick(row.key)
    moment = iter(range(1, 10**9))

    def ribbon() -> None:
        station.sheet.body.dragged.emit(row.key, row.timed.start, row.timed.end + next(moment) % 200)
        work()

    def handle() -> None:
        station.curve_editor.shaped.emit(Handles(0.2, (next(moment) % 100) / 100, 0.1, 1.0))
        work()

    def way() -> None:
        clock.ms = 184.0  # the moment stays, so that the card is always in between
        station.now.layer_dragged.emit(float(next(moment) % 60), 4.0)
        work()

    dragged = [("a ribbon", best(ribbon, 5, 0.5))]
    station.cues._dropped()
    dragged.append(("a curve's handle", best(handle, 5, 0.5)))
    window.workspace.end_gesture()
    hero = next(r for r in station.sheet.body.rows if r.right_name == "Hero card")
    station.pick(hero.key)
    clock.seek(200.0)
    clock.loop = False
    dragged.append(("the card in the Now view", best(way, 5, 0.5)))
    window.workspace.end_gesture()
    window.workspace.session.saved()
    window.close()
    return [
        Row("playing the demo in Timing, one picture", seconds, 0.033, 1, note="33 ms; 16.7 ms is the display's pace"),
        *(
            Row(f"  {what} dragged while it plays, one picture", took, 0.033, 1, note="33 ms: 30 pictures a second")
            for what, took in dragged
        ),
    ]


def many() -> list[Row]:
    """Projects of 300 and 2,000 layers in the window, and keeping 60 frames of them aside."""
    return [*large.rows(), *large.autosave()]


ROWS = (
    sampling,
    pairing,
    painting,
    replay.rows,
    parts.rows,
    exporting,
    opening,
    starting,
    editing,
    playing,
    shelf.rows,
    page.rows,
    many,
    grown.rows,
)


def _name_of(work: Callable[[], list[Row]]) -> str:
    """How a part of the table is called on the command line."""
    return work.__module__.rpartition(".")[2] if work.__name__ == "rows" else work.__name__


def main() -> int:
    """Measure all, or what is named."""
    names = [name for name in sys.argv[1:] if not name.startswith("--")]
    wanted = [row for row in ROWS if not names or _name_of(row) in names]
    from avelt.window.start import application

    application()
    boxes(1, 0, "x")
    lines = [HEAD]
    for work in wanted:
        for row in work():
            lines.append(row.line())
            print(row.line(), flush=True)
    if not names:
        lines += ["", "How sampling grows:", "", *growth()]
        print("\n".join(lines[-6:]))
    if "--write" in sys.argv:
        path = ROOT / "docs" / "performance.md"
        head, _, rest = path.read_text().partition(MARK)
        tail = rest.partition(END)[2]
        path.write_text(f"{head}{MARK}\n\n" + "\n".join(lines) + f"\n\n{END}{tail}")
    return 0


if __name__ == "__main__":
    sys.exit(main())
