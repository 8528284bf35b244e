"""All frames side by side at one scale; layers are chosen, drawn, moved and shaped on them."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QRectF, QSizeF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from avelt.core.blending import colour
from avelt.core.edits.arrange import move_layers_by
from avelt.core.edits.structure import fit_groups
from avelt.core.geometry.flatten import flatten
from avelt.core.model.values import Frame, Gradient, Group, Path, Project, Use
from avelt.core.timing.relatives import relatives
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.gestures import GestureHost
from avelt.window.common.pinch import Pinch
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import shortened
from avelt.window.frames import layer_commands, part_commands, picking
from avelt.window.frames.board_state import BoardState
from avelt.window.frames.frame_painter import FramePainter
from avelt.window.frames.handles import paint_shown
from avelt.window.frames.mouse import Mouse
from avelt.window.frames.viewport import Viewport


class Board(QWidget):
    """The canvas. The wheel pans, Ctrl and the wheel zoom, the middle button drags."""

    removal_wanted = Signal()
    menu_wanted = Signal(QPoint)
    zoomed = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.viewport = Viewport(workspace, self)
        self.state = BoardState(workspace, self.viewport, self)
        self.frame_painter = FramePainter(workspace)
        Pinch(self, self.viewport.zoom_at)
        self.gestures = GestureHost(self)
        self.mouse = Mouse(self.state, self.gestures, self.mapToGlobal, self.setCursor)
        self._panned: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumHeight(160)
        self.setAccessibleName(tr("Frames"))
        self.state.changed.connect(self.update)
        self.state.tool_changed.connect(self._show_tool)
        self.viewport.moved.connect(self._moved)
        workspace.pictures.made.connect(self.update)

    def spoken(self) -> list[Spoken]:
        """The frames, and the layers of the chosen one, for assistive technology."""
        made: list[Spoken] = []
        workspace = self.workspace
        chosen = {layer for _, layer in workspace.chosen}
        for frame, rect in self.viewport.places():
            here = workspace.frame is not None and workspace.frame.id == frame.id
            made.append(
                Spoken(
                    tr("frame {frame}, {w:g} by {h:g}", frame=frame.name, w=frame.w, h=frame.h),
                    rect,
                    here and not chosen,
                )
            )
            if here:
                flat, place = flatten(frame), self.viewport.to_widget(frame, rect)
                for layer, bounds in zip(flat.layers, flat.bounds.tolist(), strict=True):
                    words = f"{tr(layer.kind)} {layer.name}" + (tr(", hidden") if layer.hidden else "")
                    made.append(Spoken(words, place.mapRect(QRectF(*bounds)), layer.id in chosen))
        return made

    def _show_tool(self, tool: str) -> None:
        self.setCursor(Qt.CursorShape.ArrowCursor if tool == "choose" else Qt.CursorShape.CrossCursor)

    def _moved(self) -> None:
        self.zoomed.emit()
        self.update()

    def grip(self, kind: str, data: object = None) -> QPointF:
        """Where the handle of a kind (and of some data) stands in the widget."""
        found = (h for h in self.state.handles() if h.kind == kind and (data is None or h.data == data))
        frame = self.workspace.frame
        handle = next(found)
        if frame is None:
            return QPointF()
        return self.viewport.to_widget(frame, self.viewport.rect_of(frame)).map(QPointF(*handle.at))

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        theme, project = self.workspace.theme, self.workspace.project
        frame, layer = self.workspace.frame, self.workspace.layer
        family = relatives(project, frame, layer) if frame is not None and layer is not None else {}
        for entry, rect in self.viewport.places():
            self.frame_painter.draw_outside(painter, self.viewport.page(entry), rect, self.devicePixelRatioF())
        for entry, rect in self.viewport.places():
            if rect.right() < 0 or rect.left() > self.width() or rect.bottom() < 0 or rect.top() > self.height():
                continue
            page = self.viewport.page(entry)
            self.frame_painter.draw_page(painter, page, rect, entry is frame, self.devicePixelRatioF())
            self.frame_painter.draw_marks(painter, page, rect, self.state.grid)
            if entry.scroll:
                self.frame_painter.draw_screen(painter, entry, self.viewport.to_widget(entry, rect))
            if entry is frame and layer is None and self.state.tool == "choose":
                self.frame_painter.draw_more(painter, list(self.viewport.more(entry).values()))
            relative = family.get(entry.id)
            if layer is not None:
                words = tr("not here") if relative is None else tr("as {layer}", layer=relative.name)
                words = tr("holds it") if entry is frame and relative is not None else words
                self.frame_painter.draw_foot(painter, rect, shortened(painter, words, rect.width()))
            if relative is not None and entry is not frame:
                self.frame_painter.draw_box(painter, entry, relative, self.viewport.to_widget(entry, rect), rect, False)
            for frame_id, layer_id in self.workspace.chosen:
                if frame_id == entry.id:
                    chosen = flatten(entry).layers[flatten(entry).index[layer_id]]
                    self.frame_painter.draw_box(
                        painter, entry, chosen, self.viewport.to_widget(entry, rect), rect, True
                    )
        self._paint_over(painter, frame)
        if self.viewport.rulers:
            rect = self.viewport.rect_of(frame) if frame is not None else QRectF()
            self.frame_painter.draw_rulers(painter, QRectF(self.rect()), frame, rect, self.state.pointer)
        painter.setPen(theme.quiet)

    def _paint_over(self, painter: QPainter, frame: Frame | None) -> None:
        if frame is None:
            return
        rect = self.viewport.rect_of(frame)
        to = self.viewport.to_widget(frame, rect)
        caught = self.mouse.caught()
        if caught is not None:
            self.frame_painter.draw_caught(painter, frame, rect, caught)
        layer = self.workspace.layer
        if layer is not None and self.state.node_mode:
            self.frame_painter.draw_line(painter, frame, layer, to)
        gradient = paint_shown(layer, self.state.paint_row) if layer is not None else None
        tones = _tones(gradient) if gradient is not None else []
        self.frame_painter.draw_handles(painter, self.state.handles(), to, tones, self.state.node)
        if self.mouse.marquee is not None:
            self.frame_painter.draw_marquee(painter, QRectF(self.mouse.marquee[1], self.mouse.marquee[2]).normalized())
        if self.state.pen is not None and self.state.pen.corners and self.state.pen.frame_id == frame.id:
            spot = self.viewport.spot(frame, rect, self.state.pointer)
            self.frame_painter.draw_pen(painter, self.state.pen, (spot.x(), spot.y()), to)

    # Events

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panned = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.LeftButton:
            self.mouse.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.state.pointer = event.position()
        if self._panned is not None:
            self.viewport.pan_by(self._panned - self.state.pointer)
            self._panned = self.state.pointer
            return
        self.mouse.move(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panned = None
            self.setCursor(Qt.CursorShape.ArrowCursor)
            return
        self.mouse.release(event)
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self.mouse.double_click(event)

    def resizeEvent(self, event: QResizeEvent) -> None:
        self.viewport.size = QSizeF(event.size())
        self.zoomed.emit()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.mouse.choose_for_menu(QPointF(event.pos()))
        self.menu_wanted.emit(event.globalPos())

    def wheelEvent(self, event: QWheelEvent) -> None:
        held = event.modifiers()
        if held & Qt.KeyboardModifier.ControlModifier:
            self.viewport.zoom_at(1.15 if event.angleDelta().y() > 0 else 1 / 1.15, event.position())
            return
        self.viewport.wheel(event.angleDelta(), bool(held & Qt.KeyboardModifier.ShiftModifier))

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        moves = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        frame = self.workspace.frame
        held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if event.key() == Qt.Key.Key_Escape:
            self._escape()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and (
            self.state.pen is not None or self.state.node_mode
        ):
            self.state.finish_pen()
            self.state.edit_nodes(False)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._go_in()
        elif event.key() in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self._walk(-1 if event.key() == Qt.Key.Key_PageUp else 1, bool(held & Qt.KeyboardModifier.ControlModifier))
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and frame is not None:
            self._delete()
        elif event.key() in moves and self.workspace.chosen and not held & Qt.KeyboardModifier.ControlModifier:
            step = 10.0 if held & Qt.KeyboardModifier.ShiftModifier else 1.0
            step = 0.1 if held & Qt.KeyboardModifier.AltModifier else step
            dx, dy = (v * step for v in moves[Qt.Key(event.key())])
            self._nudge(dx, dy)
        else:
            super().keyPressEvent(event)

    def _walk(self, step: int, frames: bool) -> None:
        """The next or last layer beside the chosen one (the next node, the next frame)."""
        frame, layer = self.workspace.frame, self.workspace.layer
        if frame is None:
            return
        if self.state.node_mode and layer is not None and not frames:
            self.state.node = picking.next_node(layer, self.state.node, step)
            self.update()
        elif frames:
            order = list(self.workspace.project.frames)
            self.workspace.choose(order[(order.index(frame) + step) % len(order)].id)
        else:
            found = picking.beside(frame, layer, -step)  # down the list is down in paint order
            if found is not None:
                self.workspace.choose(frame.id, found.id)

    def _nudge(self, dx: float, dy: float) -> None:
        layer = self.workspace.layer
        if layer is None:
            return
        if self.state.node_mode and self.state.node is not None:
            layer_commands.nudge_node(self.workspace, self.state.node, dx, dy)
            return
        spots = self.workspace.chosen
        frames = list(dict.fromkeys(frame_id for frame_id, _ in spots))

        def change(project: Project) -> Project:
            for frame_id in frames:
                ids = [i for f, i in spots if f == frame_id]
                project = fit_groups(move_layers_by(project, frame_id, ids, dx, dy), frame_id, ids)
            return project

        self.workspace.do(
            tr("move {layer}", layer=layer.name) if len(spots) == 1 else tr("move {count} layers", count=len(spots)),
            change,
        )

    def _delete(self) -> None:
        if self.state.node_mode and self.state.node is not None:
            node, self.state.node = self.state.node, None
            layer_commands.remove_node_at(self.workspace, node)
        else:
            self.removal_wanted.emit()

    def _go_in(self) -> None:
        """Return goes into a group or a part, or to a path's nodes."""
        layer, frame = self.workspace.layer, self.workspace.frame
        if layer is None or frame is None:
            return
        if isinstance(layer.body, Group) and layer.body.children:
            self.workspace.choose(frame.id, layer.body.children[-1].id)
        elif isinstance(layer.body, Path):
            self.state.edit_nodes(True)
        elif isinstance(layer.body, Use):
            part_commands.open_chosen(self.workspace)

    def _escape(self) -> None:
        """Back by one step: the path, the tool, the nodes, the inner layer, the choice, the open part."""
        frame, layer = self.workspace.frame, self.workspace.layer
        if self.state.pen is not None:
            self.state.pen = None
        elif self.state.tool != "choose":
            self.state.use("choose")
        elif self.state.node_mode:
            self.state.edit_nodes(False)
        elif frame is not None and layer is not None:
            flat = flatten(frame)
            up = int(flat.parent[flat.index[layer.id]])
            self.workspace.choose(frame.id, flat.layers[up].id if up >= 0 else "")
        else:
            self.workspace.close_part()
        self.update()


def _tones(gradient: Gradient) -> list[QColor]:
    from avelt.paint.brushes import colour as qcolour

    return [qcolour(colour.parse(stop.color)) for stop in gradient.stops]
