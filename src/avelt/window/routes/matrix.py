"""The canvas of the matrix: it scrolls under heads that stay, zooms, and turns events into wishes."""

from __future__ import annotations

from collections.abc import Iterable, Iterator

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QAbstractScrollArea, QToolTip

from avelt.core.geometry.flatten import flatten, layer_at
from avelt.core.model.find import layer_index
from avelt.core.model.values import Frame
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.common.pinch import Pinch
from avelt.window.common.workspace import Workspace
from avelt.window.routes import cells as view
from avelt.window.routes.cells import Filter, RouteCell, Table, table_of
from avelt.window.routes.counting import PairCounts
from avelt.window.routes.faces import Faces
from avelt.window.routes.grid import Grid

_DRAG_AFTER = 5.0  # px of travel before a press is a drag
_A_PART = 0.34  # of the frame's area: larger groups are containers, not things to tap
_ZOOMS = (0.25, 0.35, 0.5, 0.7, 0.85, 1.0, 1.25, 1.5)


class Matrix(QAbstractScrollArea):
    """The matrix. What is wanted comes out as signals; nothing is changed here."""

    wanted = Signal(str, str, str)  # a route from a frame to another, on a layer ("" for none)
    chose = Signal(object)  # the chosen routes, the last one shown in full
    looked = Signal(str)  # the route under the pointer, or ""
    opened = Signal(str)  # a station
    removed = Signal()
    copied = Signal(str, str, str)  # a route's motion onto the cell of these frames
    moved = Signal(object, str)  # frames before another
    menu_wanted = Signal(object, object)  # (row, column) with -1 for a head, and where

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.table = Table((), {}, {})
        self.filter = Filter()
        self.chosen: list[str] = []
        self.spot = (0, 0)
        self.grid = Grid(0)
        self.faces = Faces(workspace)
        self.pairs = PairCounts(workspace, self._shown_ids, self)
        self.pairs.counted.connect(self.viewport().update)
        workspace.pictures.made.connect(self.viewport().update)
        self._corner = (0, 0)
        self._hover: tuple[int, int] | None = None
        self.gestures = GestureHost(self)
        Pinch(self.viewport(), lambda by, _: self.set_zoom(min(_ZOOMS[-1], max(_ZOOMS[0], self.grid.zoom * by))))
        self._press: tuple[QPointF, tuple[int, int] | None] | None = None
        self._drag: tuple[str, str] | None = None  # what is dragged: kind and id
        self._at = QPointF()
        self.setFrameShape(QAbstractScrollArea.Shape.NoFrame)
        self.viewport().setMouseTracking(True)
        self.viewport().setAutoFillBackground(False)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Routes"))

    # Taking over

    def refresh(self) -> None:
        """Take over the project and what is chosen."""
        self.table = table_of(self.workspace.project, self.filter)
        there = {route.id for route in self.workspace.project.routes}
        self.chosen = [ident for ident in self.chosen if ident in there]
        route = self.workspace.route
        if route is not None and route.id not in self.chosen:
            self.chosen = [route.id]
        self.grid = self.grid.of(len(self.table.frames))
        self._bounds()
        self.pairs.start()
        self.viewport().update()

    def show_filter(self, wanted: Filter) -> None:
        """Leave out what is not wanted now."""
        self.filter = wanted
        self.refresh()

    def set_zoom(self, zoom: float | None) -> None:
        """Larger or smaller cells; ``None`` fits them into the window."""
        self.grid = self.grid.zoomed(zoom)
        self._bounds()
        self.viewport().update()

    def step_zoom(self, steps: int) -> None:
        """The next larger or smaller zoom."""
        now = min(range(len(_ZOOMS)), key=lambda k: abs(_ZOOMS[k] - self.grid.zoom))
        self.set_zoom(_ZOOMS[min(len(_ZOOMS) - 1, max(0, now + steps))])

    def _bounds(self) -> None:
        self.grid = self.grid.within(self.viewport().width(), self.viewport().height())
        w, h = self.grid.size()
        for bar, whole, room in (
            (self.horizontalScrollBar(), w, self.viewport().width()),
            (self.verticalScrollBar(), h, self.viewport().height()),
        ):
            bar.setRange(0, max(0, round(whole - room)))
            bar.setPageStep(room)
            bar.setSingleStep(40)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self._bounds()

    def scrollContentsBy(self, dx: int, dy: int) -> None:
        self.pairs.start()
        self.viewport().update()

    def _offset(self) -> QPointF:
        return QPointF(self.horizontalScrollBar().value(), self.verticalScrollBar().value())

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Where a cell stands in the viewport."""
        return self.grid.cell(row, column).translated(-self._offset())

    def spoken(self) -> list[Spoken]:
        """The cells that have routes, for assistive technology."""
        made = []
        for row, left in enumerate(self.table.frames):
            for column, right in enumerate(self.table.frames):
                for cell in self.table.at(row, column):
                    words = tr(
                        "{left} to {right}, {trigger} {on}, {length:g} ms",
                        left=left.name,
                        right=right.name,
                        trigger=tr(cell.trigger),
                        on=cell.on,
                        length=cell.length,
                    )
                    made.append(Spoken(words, self.cell_rect(row, column), cell.route_id in self.chosen))
        if not made and self.table.frames:
            count = len(self.table.frames)
            words = tr("No routes yet between {n} frames", "No routes yet in the one frame", count)
            made.append(Spoken(words, QRectF(self.viewport().rect()), False))
        return made

    def row_head(self, row: int) -> QRectF:
        """Where a row's head stands in the viewport: it never scrolls sideways."""
        return self.grid.row_head(row).translated(0, -self._offset().y())

    def column_head(self, column: int) -> QRectF:
        """Where a column's head stands in the viewport: it never scrolls down."""
        return self.grid.column_head(column).translated(-self._offset().x(), 0)

    def _visible(self) -> tuple[range, range]:
        return self.grid.visible(self._offset(), self.viewport().width(), self.viewport().height())

    def _shown_ids(self) -> Iterator[str]:
        """The routes of the cells that can be seen."""
        rows, columns = self._visible()
        for row in rows:
            for column in columns:
                if row != column:
                    yield from (cell.route_id for cell in self.table.at(row, column))

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self.viewport())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        frames, faces, theme = self.table.frames, self.faces, self.workspace.theme
        rows, columns = self._visible()
        for row in rows:
            for column in columns:
                self._paint_cell(painter, row, column)
        faces.ground(painter, QRectF(0, 0, self.viewport().width(), self.grid.head_h))
        faces.ground(painter, QRectF(0, 0, self.grid.head_w, self.viewport().height()))
        painter.save()
        painter.setClipRect(QRectF(self.grid.head_w, 0, self.viewport().width(), self.viewport().height()))
        for column in columns:
            lit = self._hover is not None and self._hover[1] == column
            faces.column_head(painter, self.column_head(column), frames[column], lit)
        painter.restore()
        painter.save()
        painter.setClipRect(QRectF(0, self.grid.head_h, self.viewport().width(), self.viewport().height()))
        for row in rows:
            first = frames[row].id == self.workspace.project.first
            lit = self._hover is not None and self._hover[0] == row
            faces.row_head(
                painter, self.row_head(row), frames[row], first, self.table.notes.get(frames[row].id, ""), lit
            )
        painter.restore()
        faces.ground(painter, QRectF(0, 0, self.grid.head_w, self.grid.head_h))
        faces.corner(painter, QRectF(0, 0, self.grid.head_w, self.grid.head_h))
        if self._drag is not None:
            painter.setPen(QPen(theme.now, 2, Qt.PenStyle.DashLine))
            if self._press is None:
                return
            if self._drag[0] == "frame":
                faces.marker(painter, self._gap_line())
            else:
                painter.drawLine(self._press[0], self._at)

    def _paint_cell(self, painter: QPainter, row: int, column: int) -> None:
        rect = self.cell_rect(row, column)
        routes = self.table.at(row, column)
        faces = self.faces
        here = (row, column)
        hot = here == self._hover or (self.hasFocus() and here == self.spot)
        if row == column:
            faces.diagonal(painter, rect, self.table.frames[row], routes, self.chosen, hot)
            return
        if not routes:
            faces.free(painter, rect, hot, self._drag is not None, not self.filter.shows_all)
            return
        shown = next((c for c in reversed(routes) if c.route_id in self.chosen), routes[0])
        known = self.pairs.known(shown.route_id)
        chosen = shown.route_id in self.chosen
        faces.route(painter, rect, shown, routes, known, chosen, hot)

    # Where

    def place_at(self, point: QPointF) -> tuple[int, int] | None:
        """The cell at a point of the viewport; -1 stands for a head; ``None`` for nothing."""
        n = len(self.table.frames)
        rows, columns = self._visible()
        in_rows, in_columns = point.y() >= self.grid.head_h, point.x() >= self.grid.head_w
        if not in_rows and not in_columns:
            return None
        if not in_columns:
            return next(((row, -1) for row in rows if self.row_head(row).contains(point)), None)
        if not in_rows:
            return next(((-1, column) for column in columns if self.column_head(column).contains(point)), None)
        for row in rows:
            for column in columns:
                if row < n and column < n and self.cell_rect(row, column).contains(point):
                    return row, column
        return None

    def layer_under(self, point: QPointF) -> tuple[Frame, str] | None:
        """What is meant under a point in a thumbnail of a row's head: a layer, or the piece that it belongs to."""
        place = self.place_at(point)
        if place is None or place[1] != -1:
            return None
        frame = self.table.frames[place[0]]
        rect = self.faces.thumb(self.row_head(place[0]), frame)
        if not rect.contains(point):
            return None
        scale = rect.width() / frame.w
        layer = layer_at(frame, (point.x() - rect.left()) / scale, (point.y() - rect.top()) / scale)
        return (frame, piece_of(frame, layer.id)) if layer is not None else None

    # The mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.LeftButton:
            self._press = (event.position(), self.place_at(event.position()))
            self._drag = None
            self.gestures.begin(Drag(on_cancel=self._give_up))

    def _give_up(self) -> None:
        """Nothing is dragged any more, and nothing was changed."""
        self._press = self._drag = None
        self.viewport().update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._at = event.position()
        place = self.place_at(event.position())
        if place != self._hover:
            self._hover = place
            self.viewport().setCursor(Qt.CursorShape.PointingHandCursor if place else Qt.CursorShape.ArrowCursor)
            routes = self.table.at(*place) if place is not None and min(place) >= 0 else ()
            self.looked.emit(routes[0].route_id if routes else "")
            self.viewport().update()
        if self._press is not None and self._drag is None:
            travel = event.position() - self._press[0]
            if travel.manhattanLength() > _DRAG_AFTER:
                self._drag = self._begin_drag(*self._press)
        if self._drag is not None:
            self.viewport().update()

    def _begin_drag(self, point: QPointF, place: tuple[int, int] | None) -> tuple[str, str] | None:
        if place is None:
            return None
        if place[1] == -1:
            under = self.layer_under(point)
            if under is not None:
                return "layer", under[1]
            return "frame", self.table.frames[place[0]].id
        if place[0] == -1:
            return "frame", self.table.frames[place[1]].id
        routes = self.table.at(*place)
        return ("route", self._shown(routes).route_id) if routes and place[0] != place[1] else None

    def _shown(self, routes: tuple[RouteCell, ...]) -> RouteCell:
        return next((c for c in reversed(routes) if c.route_id in self.chosen), routes[0])

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)
        press, drag = self._press, self._drag
        self._press = self._drag = None
        if press is None:
            return
        place = self.place_at(event.position())
        if drag is not None:
            self._dropped(drag, press[1], place, event.position())
        elif place is not None and place == press[1]:
            self._clicked(place, event.modifiers())
        self.viewport().update()

    def _dropped(
        self, drag: tuple[str, str], start: tuple[int, int] | None, place: tuple[int, int] | None, point: QPointF
    ) -> None:
        if drag[0] == "frame":
            self.moved.emit([drag[1]], self._gap_before(point))
            return
        if place is None or place[1] < 0 or start is None:
            return
        frames = self.table.frames
        if drag[0] == "layer":
            if frames[place[1]].id != frames[start[0]].id:
                self.wanted.emit(frames[start[0]].id, frames[place[1]].id, drag[1])
        elif place[0] >= 0 and place != start and place[0] != place[1]:
            self.copied.emit(drag[1], frames[place[0]].id, frames[place[1]].id)

    def _gap(self, point: QPointF) -> tuple[bool, int]:
        """Whether rows are parted (else columns), and before which place."""
        down = point.x() < self.grid.head_w
        n = len(self.table.frames)
        for k in range(n):
            middle = self.row_head(k).center().y() if down else self.column_head(k).center().x()
            if (point.y() if down else point.x()) < middle:
                return down, k
        return down, n

    def _gap_before(self, point: QPointF) -> str:
        _, place = self._gap(point)
        return self.table.frames[place].id if place < len(self.table.frames) else ""

    def _gap_line(self) -> QRectF:
        down, place = self._gap(self._at)
        n = len(self.table.frames)
        if down:
            y = self.row_head(place).top() if place < n else self.row_head(n - 1).bottom()
            return QRectF(8, y - self.grid.gap / 2 - 1, self.grid.head_w - 16, 2)
        x = self.column_head(place).left() if place < n else self.column_head(n - 1).right()
        return QRectF(x - self.grid.gap / 2 - 1, 8, 2, self.grid.head_h - 16)

    def _clicked(self, place: tuple[int, int], keys: Qt.KeyboardModifier) -> None:
        more = bool(keys & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier))
        frames = self.table.frames
        if place[1] == -1:
            self.workspace.choose(frames[place[0]].id)
            self.choose(view.changed_choice(self.chosen, view.of_row(self.table, place[0]), more))
        elif place[0] == -1:
            self.workspace.choose(frames[place[1]].id)
            self.choose(view.changed_choice(self.chosen, view.of_column(self.table, place[1]), more))
        else:
            self.spot = self._corner = place
            self._use(place, more)

    def choose(self, chosen: Iterable[str]) -> None:
        """Choose routes."""
        chosen = list(chosen)
        if chosen:
            self.chosen = chosen
            self.chose.emit(chosen)
            self.viewport().update()

    def choose_all(self) -> None:
        """All routes that are shown."""
        self.choose(self.table.ids())

    def _use(self, place: tuple[int, int], more: bool = False) -> None:
        """Choose a cell's route, the next of several; or make one where there is none."""
        routes = self.table.at(*place)
        left, right = self.table.frames[place[0]], self.table.frames[place[1]]
        if not routes:
            if place[0] == place[1]:
                self.workspace.choose(left.id)
                self.opened.emit("loops")
            elif not more:
                self.wanted.emit(left.id, right.id, "")
            return
        ids = [cell.route_id for cell in routes]
        if more:
            self.choose(view.changed_choice(self.chosen, ids, True))
            return
        alone = self.chosen[-1] if self.chosen else ""
        at = ids.index(alone) if alone in ids and len(self.chosen) == 1 else -1
        self.choose([ids[(at + 1) % len(ids)]])

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        place = self.place_at(event.position())
        if place is not None and min(place) >= 0:
            self.opened.emit("timing" if place[0] != place[1] else "loops")

    def leaveEvent(self, event: object) -> None:
        self._hover = None
        self.looked.emit("")
        self.viewport().update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.step_zoom(1 if event.angleDelta().y() > 0 else -1)
            event.accept()
        elif event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            bar = self.horizontalScrollBar()
            bar.setValue(bar.value() - event.angleDelta().y() // 2)
        else:
            super().wheelEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        place = self.place_at(QPointF(event.pos()))
        if place is not None:
            if min(place) >= 0:
                self.spot = place
                routes = self.table.at(*place)
                if routes and not any(cell.route_id in self.chosen for cell in routes):
                    self.choose([routes[0].route_id])
            else:
                self.workspace.choose(self.table.frames[max(place)].id)
            self.menu_wanted.emit(place, event.globalPos())

    def viewportEvent(self, event: object) -> bool:
        if isinstance(event, QHelpEvent):
            words = self.tip_at(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), words, self)
            return True
        return bool(super().viewportEvent(event))  # type: ignore[arg-type]

    def tip_at(self, point: QPointF) -> str:
        """What is told about the place under the pointer."""
        under = self.layer_under(point)
        if under is not None:
            name = layer_index(under[0])[under[1]].name
            return tr("Drag {name} to a column to make a route on it", name=name)
        place = self.place_at(point)
        if place is None:
            return ""
        frames = self.table.frames
        if place[1] == -1:
            note = self.table.notes.get(frames[place[0]].id, "")
            return tr(
                "{frames}{also}. Click for its routes, drag to reorder",
                frames=frames[place[0]].name,
                also=": " + note if note else "",
            )
        if place[0] == -1:
            return tr("{frames}. Click for the routes that arrive, drag to reorder", frames=frames[place[1]].name)
        return "\n".join(self.faces.tip(cell) for cell in self.table.at(*place))

    # The keyboard

    def keyPressEvent(self, event: QKeyEvent) -> None:
        moves = {Qt.Key.Key_Left: (0, -1), Qt.Key.Key_Right: (0, 1), Qt.Key.Key_Up: (-1, 0), Qt.Key.Key_Down: (1, 0)}
        n = len(self.table.frames)
        key, keys = Qt.Key(event.key()), event.modifiers()
        if key in moves and n:
            if keys & Qt.KeyboardModifier.AltModifier:
                self._move_frame(*moves[key])
                return
            self._step(moves[key], bool(keys & Qt.KeyboardModifier.ShiftModifier))
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and n:
            self._use(self.spot)
        elif key == Qt.Key.Key_Menu and n:
            where = self.cell_rect(*self.spot).center().toPoint()
            self.menu_wanted.emit(self.spot, self.viewport().mapToGlobal(where))
        else:
            super().keyPressEvent(event)

    def _step(self, move: tuple[int, int], more: bool) -> None:
        n = len(self.table.frames)
        row, column = (min(n - 1, max(0, at + by)) for at, by in zip(self.spot, move, strict=True))
        self.spot = (row, column)
        if not more:
            self._corner = self.spot
        found = view.between(self.table, self._corner, self.spot) if more else []
        routes = self.table.at(row, column)
        if more and found:
            self.choose(found)
        elif routes:
            self.choose([routes[0].route_id])
        self._reveal()
        self.viewport().update()

    def _reveal(self) -> None:
        rect = self.cell_rect(*self.spot)
        low = QPoint(round(self.grid.head_w), round(self.grid.head_h))
        for bar, near, far, start, room in (
            (self.horizontalScrollBar(), rect.left(), rect.right(), low.x(), self.viewport().width()),
            (self.verticalScrollBar(), rect.top(), rect.bottom(), low.y(), self.viewport().height()),
        ):
            if near < start:
                bar.setValue(bar.value() - round(start - near) - 6)
            elif far > room:
                bar.setValue(bar.value() + round(far - room) + 6)

    def _move_frame(self, down: int, right: int) -> None:
        """The cursor's row one place up or down, or its column to the left or right."""
        frames = self.table.frames
        at = self.spot[0] if down else self.spot[1]
        by = down or right
        to = at + by
        if not 0 <= to < len(frames):
            return
        behind = to + 1 if by > 0 else to
        self.moved.emit([frames[at].id], frames[behind].id if behind < len(frames) else "")
        self.spot = (to, self.spot[1]) if down else (self.spot[0], to)


def piece_of(frame: Frame, layer_id: str) -> str:
    """The group that a layer is a piece of, as long as that is but a part of the frame: what one would tap."""
    flat = flatten(frame)
    i = flat.index[layer_id]
    up = int(flat.parent[i])
    while up >= 0 and flat.bounds[up][2] * flat.bounds[up][3] < frame.w * frame.h * _A_PART:
        i, up = up, int(flat.parent[up])
    return flat.layers[i].id
