"""Presets that are dragged from the shelf onto a layer, a ribbon or a cell: what is under them is chosen, and they are
put on it as the shelf's own button does."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol, cast

from PySide6.QtCore import QEvent, QObject, QPointF
from PySide6.QtGui import QDropEvent
from PySide6.QtWidgets import QWidget

from avelt.core.geometry.flatten import layer_at
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.shelf.cards import name_in

if TYPE_CHECKING:
    from avelt.window.frames.station import FramesStation
    from avelt.window.routes.station import RoutesStation
    from avelt.window.timing.station import TimingStation


class Front(Protocol):
    """What is needed of the window."""

    workspace: Workspace

    def put_from_shelf(self, name: str) -> None: ...


Choose = Callable[[QPointF], bool]


class PresetDrops(QObject):
    """Watches the views that presets can be dropped on; each chooses what is at a point, or says that nothing is."""

    def __init__(self, front: Front, parent: QObject) -> None:
        super().__init__(parent)
        self.front = front
        self._choosers: dict[QObject, Choose] = {}

    def watch(self, ident: str, station: QWidget) -> None:
        """A station was made."""
        if ident == "frames":
            frames = cast("FramesStation", station)
            self._on(frames.board, lambda point: _layer(frames, point))
        elif ident == "routes":
            routes = cast("RoutesStation", station)
            self._on(routes.matrix.viewport(), lambda point: _cell(routes, point))
        elif ident == "timing":
            timing = cast("TimingStation", station)
            self._on(timing.sheet.body, lambda point: _ribbon(timing, point))

    def _on(self, view: QWidget, choose: Choose) -> None:
        view.setAcceptDrops(True)
        self._choosers[view] = choose
        view.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        kind = event.type()
        if kind not in (QEvent.Type.DragEnter, QEvent.Type.DragMove, QEvent.Type.Drop):
            return False
        drop = cast(QDropEvent, event)
        name = name_in(drop.mimeData())
        if not name:
            return False
        if kind == QEvent.Type.Drop:
            if self._choosers[watched](drop.position()):
                self.front.put_from_shelf(name)
            else:
                self.front.workspace.said.emit(tr("Drop a preset on a layer, a ribbon, or a cell that has a route."))
        drop.acceptProposedAction()
        return True


def _layer(station: FramesStation, point: QPointF) -> bool:
    viewport = station.board.viewport
    under = viewport.under(point)
    if under is None:
        return False
    frame, rect = under
    spot = viewport.spot(frame, rect, point)
    layer = layer_at(frame, spot.x(), spot.y())
    if layer is None:
        return False
    station.workspace.choose(frame.id, layer.id)
    return True


def _cell(station: RoutesStation, point: QPointF) -> bool:
    matrix = station.matrix
    place = matrix.place_at(point)
    if place is None or min(place) < 0:
        return False
    routes = matrix.table.at(*place)
    if not routes:
        return False
    if not any(cell.route_id in matrix.chosen for cell in routes):  # one of several that are chosen means all of them
        matrix.choose([routes[0].route_id])
    return True


def _ribbon(station: TimingStation, point: QPointF) -> bool:
    row = station.sheet.body.row_at(point.y())
    if row is None:
        return False
    if row.key not in (station.context.keys or ()):
        station.pick(row.key)
    return True
