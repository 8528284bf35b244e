"""Parts: many uses playing at once against Qt painting the same, entering one, and editing it while its uses play."""

from __future__ import annotations

import random
from itertools import count
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

from PySide6.QtCore import QRect
from PySide6.QtGui import QImage, QPainter, QPicture, QTransform
from PySide6.QtWidgets import QApplication

from avelt.core.edits.layers import set_value
from avelt.core.edits.project import new_project
from avelt.core.model.values import Project
from avelt.core.running.player import Player
from avelt.core.steps.read import applied
from avelt.core.steps.said import Site
from avelt.core.timing.items import items
from avelt.paint.effects import FORMAT
from avelt.paint.outlines import own_transform
from avelt.paint.painter import ScenePainter
from avelt.paint.sheets import Canvas
from bench.measure import Row, best, pair

if TYPE_CHECKING:
    from avelt.window.frames.station import FramesStation
    from avelt.window.rehearse.station import RehearseStation

_HINTS = QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform
_MOMENTS = 12


def with_uses(uses: int, loops: int = 4) -> Project:
    """A frame with uses of one part in which every layer loops."""
    dice = random.Random(7)
    steps: list[dict[str, Any]] = [
        {"do": "frame", "name": "a", "size": [360, 640]},
        {"do": "part", "name": "Buoy", "size": [48, 48]},
    ]
    for k in range(loops):
        name = f"Layer {k}"
        own: dict[str, Any] = {"in": "Buoy", "position": [4 + 9 * k, 6 + 7 * k], "size": [14, 14], "fill": "#0e7c74"}
        steps.append({"do": "draw", "kind": ("box", "oval")[k % 2], "name": name, **own})
        pose = {"position": [3, -4], "rotation": 20, "scale": 1.3, "fill": "#c9581c"}
        length = 700 + 230 * k
        steps.append({"do": "loop", "in": "Buoy", "layer": name, "name": f"loop {k}", "pose": pose, "length": length})
    for _ in range(uses):
        place = [dice.randrange(310), dice.randrange(590)]
        clock = {"offset": dice.randrange(2000)}
        steps.append({"do": "use", "in": "a", "part": "Buoy", "position": place, "clock": clock})
    return applied(new_project("Uses"), steps, Site(Path()))


def rows() -> list[Row]:
    """All of it."""
    return [_painting(), *_in_the_window()]


def _painting() -> Row:
    """60 uses with four loops each: a picture of the player, and Qt replaying the calls that paint what moves."""
    player, painter = Player(with_uses(60)), ScenePainter()
    moments = [137.0 * k for k in range(1, _MOMENTS + 1)]
    players = [player.moment(0.0) for _ in moments]
    for ms, one in zip(moments, players, strict=True):
        one.advance(ms)
    recorded = [_calls(one, painter) for one in players]
    turn = count()

    def ours() -> object:
        return painter.render(players[next(turn) % _MOMENTS].scene(), 1.0)

    def theirs() -> object:
        image = QImage(360, 640, FORMAT)
        image.fill(0xFFFFFFFF)
        onto = QPainter(image)
        onto.setRenderHints(_HINTS)
        recorded[next(turn) % _MOMENTS].play(onto)
        onto.end()
        return image

    a, b = pair(ours, theirs)
    return Row("painting 60 uses of a part with 4 loops each", a, b, 2.5, note="the same calls replayed by Qt")


def _calls(player: Player, painter: ScenePainter) -> QPicture:
    calls = QPicture()
    inner = QPainter(calls)
    inner.setRenderHints(_HINTS)
    for item in items(player.scene()):
        painter.draw(Canvas(inner, QRect(0, 0, 360, 640)), item, own_transform(item) * QTransform())
    inner.end()
    return calls


def _in_the_window() -> list[Row]:
    """Entering a part, and editing it while 20 uses of it play: until the next picture is there."""
    from avelt.window.start import application, make_window

    application()
    window = make_window(None, False)
    window.show()
    workspace = window.workspace
    workspace.session.replace(with_uses(20))
    window.go("frames")
    board = cast("FramesStation", window.stations["frames"]).board
    QApplication.processEvents()
    part = workspace.whole.parts[0]

    def enter() -> None:
        workspace.open_part(part.id)
        board.repaint()
        workspace.close_part()

    entered = best(enter, 5, 0.5)
    window.go("rehearse")
    station = cast("RehearseStation", window.stations["rehearse"])
    station.clock.stop()
    turn = count(1)
    layer = part.poses[0].layers[0]

    def edit() -> None:
        # In the part, from outside: what plays begins anew with the edited one.
        value = 4.0 + next(turn) % 7
        workspace.stages.path = (part.id,)
        changed = workspace.stages.edited(workspace.whole, lambda p: set_value(p, p.frames[0].id, layer.id, "x", value))
        workspace.stages.path = ()
        workspace.session.do("move", changed)
        station.clock.advance(16.0)
        station.stage.repaint()

    edited = best(edit, 5, 0.5)
    workspace.session.saved()
    window.close()
    return [
        Row("entering a part until the next picture", entered, 0.033, 1, note="33 ms"),
        Row("editing a part while 20 uses of it play", edited, 0.033, 1, note="33 ms"),
    ]
