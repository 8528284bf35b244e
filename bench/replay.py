"""Painting against Qt alone: the calls that paint what moves, recorded and replayed over one kept picture."""

from __future__ import annotations

from collections.abc import Callable
from itertools import count

from PySide6.QtCore import QRect
from PySide6.QtGui import QImage, QPainter, QPicture, QTransform

from avelt.core.model.values import Project, Route
from avelt.core.timing.compile import compile_route
from avelt.core.timing.items import items
from avelt.core.timing.painted import Item
from avelt.core.timing.program import Program
from avelt.core.timing.resting import opens
from avelt.demo.build import build_demo
from avelt.paint.effects import FORMAT
from avelt.paint.outlines import own_transform
from avelt.paint.painter import ScenePainter
from avelt.paint.sheets import Canvas
from bench.measure import Row, pair
from bench.scenes import screen

_HINTS = QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform
_MOMENTS = 12


def rows() -> list[Row]:
    """10 moving among 290 and 1,990, 60 moving, and the demo's routes."""
    made = []
    for moving, still in ((10, 290), (10, 1990), (60, 0)):
        project = screen(moving, still)
        ours, theirs = compared(project, project.routes[0], 1.0)
        what = f"painting {moving} moving among {still:,}" if still else f"painting {moving} moving"
        made.append(Row(what, ours, theirs, 2, note="the same calls replayed by Qt over one kept picture"))
    demo = build_demo()
    worst, seconds, plain = 0.0, 0.0, 1.0
    for route in demo.routes:
        if not compile_route(demo, route).duration:
            continue  # it stays where it is and sets an input
        ours, theirs = compared(demo, route, 1.0)
        if ours / theirs > worst:
            worst, seconds, plain = ours / theirs, ours, theirs
    note = "the same; the worst of all routes"
    return [*made, Row("painting the demo's routes", seconds, plain, 2.5, note=note)]


def compared(project: Project, route: Route, scale: float) -> tuple[float, float]:
    """Seconds of a picture of ours, and of Qt replaying the calls that paint what moves."""
    program, painter = compile_route(project, route), ScenePainter(project.assets)
    moments = [program.duration * (k + 0.5) / _MOMENTS for k in range(_MOMENTS)]
    recorded = [_recorded(program, painter, ms, scale) for ms in moments]
    for ms in moments:
        painter.render(program.at(ms), scale)
    turn = count()

    def ours() -> object:
        return painter.render(program.at(moments[next(turn) % _MOMENTS]), scale)

    def theirs() -> object:
        return recorded[next(turn) % _MOMENTS]()

    return pair(ours, theirs)


def _recorded(program: Program, painter: ScenePainter, ms: float, scale: float) -> Callable[[], QImage]:
    """What rests as one picture, and the calls that paint what moves over it."""
    scene = program.at(ms)
    w, h = (max(1, round(v * scale)) for v in scene.size)
    area, base = QRect(0, 0, w, h), QTransform.fromScale(scale, scale)
    kept = QImage(w, h, FORMAT)
    kept.fill(0)
    over = QPainter(kept)
    over.setRenderHints(_HINTS)
    calls = QPicture()
    inner = QPainter(calls)
    inner.setRenderHints(_HINTS)

    def visit(level: list[Item], base: QTransform) -> None:
        for item in level:
            matrix = own_transform(item) * base
            if item.still:
                painter.draw(Canvas(over, area, kept), item, matrix)
            elif program.stands.still[item.slot] and opens(item):
                visit(item.children, matrix)
            else:
                painter.draw(Canvas(inner, area), item, matrix)

    visit(items(scene), base)
    inner.end()
    over.end()

    def replay() -> QImage:
        image = QImage(w, h, FORMAT)
        image.fill(0xFFFFFFFF)
        onto = QPainter(image)
        onto.setRenderHints(_HINTS)
        onto.drawImage(0, 0, kept)
        calls.play(onto)
        onto.end()
        return image

    return replay
