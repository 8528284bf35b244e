"""All frames side by side at one scale; layers are chosen, drawn, moved and shaped on them."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
    QTransform,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from avelt.core.blending import colour
from avelt.core.edits.arrange import move_layers_by
from avelt.core.edits.structure import fit_groups
from avelt.core.geometry.flatten import flatten
from avelt.core.model.values import Frame, Group, Layer, Path
from avelt.core.timing.relatives import relatives
from avelt.paint.brushes import colour as qcolour
from avelt.window.controls.drawing import shortened
from avelt.window.frames import deeds, picking
from avelt.window.frames.handles import Handle, Shown, handles, paint_shown
from avelt.window.frames.mouse import Mouse
from avelt.window.frames.pages import Pages
from avelt.window.frames.sheets import Sheets
from avelt.window.frames.tools import Pen, put
from avelt.window.shell.desk import Desk


class Board(QWidget):
    """The canvas. The wheel pans, Ctrl and the wheel zoom, the middle button drags."""

    removal_wanted = Signal()
    frame_named = Signal(str)  # a frame's name was double-clicked
    hinted = Signal(str)
    tool_changed = Signal(str)
    nodes_changed = Signal(bool)
    text_wanted = Signal(str, float, float)  # frame, and where its first line stands
    stop_wanted = Signal(int, QPoint)  # a gradient's colour was double-clicked
    colour_picked = Signal(str)
    menu_wanted = Signal(QPoint)
    zoomed = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.pages = Pages(self)
        self.sheets = Sheets(desk)
        self.tool = "choose"
        self.snap, self.grid, self.rulers = True, False, False
        self.paint_row = ""  # "fill" or "stroke": the gradient whose line is shown
        self.node_mode = False
        self.node: tuple[int, int] | None = None
        self.pen: Pen | None = None
        self.pointer = QPointF()
        self.mouse = Mouse(self)
        self._panned: QPointF | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumHeight(160)
        self.setAccessibleName("Frames")
        desk.changed.connect(lambda _: self._after_change())
        desk.chose.connect(self._after_choice)

    # State

    def use(self, tool: str) -> None:
        """Take another tool."""
        if tool != self.tool:
            self.finish_pen()
            self.tool = tool
            self.edit_nodes(False)
            self.tool_changed.emit(tool)
            self.setCursor(Qt.CursorShape.ArrowCursor if tool == "choose" else Qt.CursorShape.CrossCursor)
            self.update()

    def edit_nodes(self, on: bool) -> None:
        """Show the chosen path's nodes, or put them away."""
        layer = self.desk.layer
        on = on and layer is not None and isinstance(layer.body, Path) and not layer.locked
        if on != self.node_mode:
            self.node_mode, self.node = on, None
            self.nodes_changed.emit(on)
        self.update()

    def _after_change(self) -> None:
        layer = self.desk.layer
        if self.node_mode and (layer is None or not isinstance(layer.body, Path)):
            self.edit_nodes(False)
        self.update()

    def _after_choice(self) -> None:
        if self.node_mode:
            self.edit_nodes(False)
        self.paint_row = ""
        self.pages.reveal(self.desk.frame)
        self.update()

    # Where things are

    def scale(self) -> float:
        """Widget px a frame px."""
        return self.pages.scale()

    def places(self) -> list[tuple[Frame, QRectF]]:
        """Every frame and where it stands."""
        return self.pages.places()

    def to_widget(self, frame: Frame, rect: QRectF) -> QTransform:
        """From a frame's px to the widget's."""
        scale = rect.width() / frame.w
        return QTransform(scale, 0, 0, scale, rect.left(), rect.top())

    def spot(self, frame: Frame, rect: QRectF, point: QPointF) -> QPointF:
        """A point of the widget in a frame's px."""
        scale = rect.width() / frame.w
        return QPointF((point.x() - rect.left()) / scale, (point.y() - rect.top()) / scale)

    def handles(self) -> list[Handle]:
        """What can be grabbed now, in px of the chosen frame."""
        frame, layer = self.desk.frame, self.desk.layer
        if frame is None or layer is None or len(self.desk.chosen) > 1 or self.tool not in ("choose", "pick"):
            return []
        which = self.paint_row if self.paint_row in ("fill", "stroke") else ""
        return handles(Shown(frame, layer, self.scale(), which, self.node_mode, self.node))  # type: ignore[arg-type]

    def grip(self, kind: str, data: object = None) -> QPointF:
        """Where the handle of a kind (and of some data) stands in the widget."""
        return next(self.widget_point(h) for h in self.handles() if h.kind == kind and (data is None or h.data == data))

    def widget_point(self, handle: Handle) -> QPointF:
        """Where a handle stands in the widget."""
        frame = self.desk.frame
        assert frame is not None
        rect = self.pages.rect_of(frame)
        return self.to_widget(frame, rect).map(QPointF(*handle.at))

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        theme, project = self.desk.theme, self.desk.project
        frame, layer = self.desk.frame, self.desk.layer
        family = relatives(project, frame, layer) if frame is not None and layer is not None else {}
        for entry, rect in self.places():
            self.sheets.draw_outside(painter, entry, rect, self.devicePixelRatioF())
        for entry, rect in self.places():
            if rect.right() < 0 or rect.left() > self.width() or rect.bottom() < 0 or rect.top() > self.height():
                continue
            self.sheets.draw_page(painter, entry, rect, entry is frame, self.devicePixelRatioF())
            self.sheets.draw_marks(painter, entry, rect, self.grid)
            relative = family.get(entry.id)
            if layer is not None:
                words = "not here" if relative is None else "holds it" if entry is frame else f"as {relative.name}"
                self.sheets.draw_foot(painter, rect, shortened(painter, words, rect.width()))
            if relative is not None and entry is not frame:
                self.sheets.draw_box(painter, entry, relative, self.to_widget(entry, rect), rect, False)
            for frame_id, layer_id in self.desk.chosen:
                if frame_id == entry.id:
                    chosen = flatten(entry).layers[flatten(entry).index[layer_id]]
                    self.sheets.draw_box(painter, entry, chosen, self.to_widget(entry, rect), rect, True)
        self._paint_over(painter, frame)
        if self.rulers:
            rect = self.pages.rect_of(frame) if frame is not None else QRectF()
            self.sheets.draw_rulers(painter, QRectF(self.rect()), frame, rect, self.pointer)
        painter.setPen(theme.quiet)

    def _paint_over(self, painter: QPainter, frame: Frame | None) -> None:
        if frame is None:
            return
        rect = self.pages.rect_of(frame)
        to = self.to_widget(frame, rect)
        caught = self.mouse.caught()
        if caught is not None:
            self.sheets.draw_caught(painter, frame, rect, caught)
        layer = self.desk.layer
        if layer is not None and self.node_mode:
            self.sheets.draw_line(painter, frame, layer, to)
        gradient = paint_shown(layer, self.paint_row) if layer is not None else None
        tones = [qcolour(colour.parse(stop.color)) for stop in gradient.stops] if gradient is not None else []
        self.sheets.draw_handles(painter, self.handles(), to, tones, self.node)
        if self.mouse.marquee is not None:
            self.sheets.draw_marquee(painter, QRectF(self.mouse.marquee[1], self.mouse.marquee[2]).normalized())
        if self.pen is not None and self.pen.corners and self.pen.frame_id == frame.id:
            spot = self.spot(frame, rect, self.pointer)
            self.sheets.draw_pen(painter, self.pen, (spot.x(), spot.y()), to)

    def finish_pen(self, closed: bool = False) -> None:
        """The path that the pen has drawn becomes a layer."""
        pen, self.pen = self.pen, None
        layer = pen.layer(closed) if pen is not None else None
        if pen is not None and layer is not None:
            self.put(pen.frame_id, layer)
        self.update()

    def put(self, frame_id: str, layer: Layer) -> None:
        """A drawn layer onto a frame, chosen, with the choosing tool at hand."""
        before = self.desk.project.next_id
        if self.desk.do(f"draw a {layer.name.lower()}", put(frame_id, layer)):
            self.use("choose")
            self.desk.choose(frame_id, f"L{before}")

    # Events

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panned = event.position()
            self.setCursor(Qt.CursorShape.ClosedHandCursor)
        elif event.button() == Qt.MouseButton.LeftButton:
            self.mouse.press(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.pointer = event.position()
        if self._panned is not None:
            self.pages.pan_by(self._panned - self.pointer)
            self._panned = self.pointer
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
        self.zoomed.emit()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        self.menu_wanted.emit(event.globalPos())

    def wheelEvent(self, event: QWheelEvent) -> None:
        held = event.modifiers()
        if held & Qt.KeyboardModifier.ControlModifier:
            self.pages.zoom_at(1.15 if event.angleDelta().y() > 0 else 1 / 1.15, event.position())
            return
        self.pages.wheel(event.angleDelta(), bool(held & Qt.KeyboardModifier.ShiftModifier))

    # Keys

    def keyPressEvent(self, event: QKeyEvent) -> None:
        moves = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        frame = self.desk.frame
        held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if event.key() == Qt.Key.Key_Escape:
            self._escape()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and (self.pen is not None or self.node_mode):
            self.finish_pen()
            self.edit_nodes(False)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._go_in()
        elif event.key() in (Qt.Key.Key_PageUp, Qt.Key.Key_PageDown):
            self._walk(-1 if event.key() == Qt.Key.Key_PageUp else 1, bool(held & Qt.KeyboardModifier.ControlModifier))
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and frame is not None:
            self._delete()
        elif event.key() in moves and self.desk.chosen and not held & Qt.KeyboardModifier.ControlModifier:
            step = 10.0 if held & Qt.KeyboardModifier.ShiftModifier else 1.0
            step = 0.1 if held & Qt.KeyboardModifier.AltModifier else step
            dx, dy = (v * step for v in moves[Qt.Key(event.key())])
            self._nudge(dx, dy)
        else:
            super().keyPressEvent(event)

    def _walk(self, step: int, frames: bool) -> None:
        """The next or last layer beside the chosen one (the next node, the next frame)."""
        frame, layer = self.desk.frame, self.desk.layer
        if frame is None:
            return
        if self.node_mode and layer is not None and not frames:
            self.node = picking.next_node(layer, self.node, step)
            self.update()
        elif frames:
            order = list(self.desk.project.frames)
            self.desk.choose(order[(order.index(frame) + step) % len(order)].id)
        else:
            found = picking.beside(frame, layer, -step)  # down the list is down in paint order
            if found is not None:
                self.desk.choose(frame.id, found.id)

    def _nudge(self, dx: float, dy: float) -> None:
        layer = self.desk.layer
        assert layer is not None
        if self.node_mode and self.node is not None:
            deeds.nudge_node(self.desk, self.node, dx, dy)
            return
        spots = self.desk.chosen
        frames = list(dict.fromkeys(frame_id for frame_id, _ in spots))

        def change(project):  # type: ignore[no-untyped-def]
            for frame_id in frames:
                ids = [i for f, i in spots if f == frame_id]
                project = fit_groups(move_layers_by(project, frame_id, ids, dx, dy), frame_id, ids)
            return project

        self.desk.do(f"move {layer.name}" if len(spots) == 1 else f"move {len(spots)} layers", change)

    def _delete(self) -> None:
        if self.node_mode and self.node is not None:
            node, self.node = self.node, None
            deeds.remove_node_at(self.desk, node)
        else:
            self.removal_wanted.emit()

    def _go_in(self) -> None:
        """Return goes into a group, or to a path's nodes."""
        layer, frame = self.desk.layer, self.desk.frame
        if layer is None or frame is None:
            return
        if isinstance(layer.body, Group) and layer.body.children:
            self.desk.choose(frame.id, layer.body.children[-1].id)
        elif isinstance(layer.body, Path):
            self.edit_nodes(True)

    def _escape(self) -> None:
        """Back by one step: the gesture, the path, the tool, the nodes, the inner layer, the choice."""
        frame, layer = self.desk.frame, self.desk.layer
        if self.mouse.give_up():
            pass
        elif self.pen is not None:
            self.pen = None
        elif self.tool != "choose":
            self.use("choose")
        elif self.node_mode:
            self.edit_nodes(False)
        elif frame is not None and layer is not None:
            flat = flatten(frame)
            up = int(flat.parent[flat.index[layer.id]])
            self.desk.choose(frame.id, flat.layers[up].id if up >= 0 else "")
        self.update()
