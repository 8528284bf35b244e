"""The stations, each made when it is first entered: a window with one station opens faster than one with seven."""

from __future__ import annotations

from collections.abc import Callable
from importlib import import_module

from PySide6.QtWidgets import QWidget

from avelt.window.common.naming import name_fields
from avelt.window.common.workspace import Workspace

#: Station -> its module and class.
CLASSES = {
    "frames": ("avelt.window.frames.station", "FramesStation"),
    "routes": ("avelt.window.routes.station", "RoutesStation"),
    "pairs": ("avelt.window.pairs.station", "PairsStation"),
    "timing": ("avelt.window.timing.station", "TimingStation"),
    "loops": ("avelt.window.loops.station", "LoopsStation"),
    "rehearse": ("avelt.window.rehearse.station", "RehearseStation"),
    "handoff": ("avelt.window.handoff.station", "HandoffStation"),
}


class Stations(dict[str, QWidget]):
    """Asks for a station make it; ``made`` is told of each new one."""

    def __init__(self, workspace: Workspace, made: Callable[[str, QWidget], None]) -> None:
        super().__init__()
        self._desk, self._made = workspace, made

    def __missing__(self, ident: str) -> QWidget:
        module, name = CLASSES[ident]
        station: QWidget = getattr(import_module(module), name)(self._desk)
        name_fields(station)
        self[ident] = station
        self._made(ident, station)
        return station
