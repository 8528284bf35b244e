"""The mouse on the board: what a press begins, a move goes on with, and a release ends."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint, QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent

from avelt.core.edits.frames import put_frame
from avelt.core.edits.values import Spot
from avelt.core.geometry import tilt
from avelt.core.geometry.flatten import flatten, layers_at
from avelt.core.model.values import Frame, Path, Project, Use
from avelt.core.words import tr
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.common.picking import hit as hit_of
from avelt.window.frames import gestures, layer_commands, part_commands, picking
from avelt.window.frames.board_state import BoardState
from avelt.window.frames.handles import HINTS, MORE_HINT, nearest_handle
from avelt.window.frames.overlay import RULER
from avelt.window.frames.snapping import Snapped, marks_of
from avelt.window.frames.tools import CLICK_SIZE, Pen, drawn, put

_REACH = 9.0  # widget px from a handle that still grab it
_SNAP = 6.0  # widget px
_KEYS = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier
_EDGE = 2.5  # widget px from the outline of a chosen layer that still take hold of it


class Mouse:
    """Turns presses, moves and releases on a board into gestures."""

    def __init__(
        self,
        state: BoardState,
        host: GestureHost,
        to_screen: Callable[[QPoint], QPoint],
        shape: Callable[[Qt.CursorShape], None],
    ) -> None:
        """``to_screen`` takes a point of the widget to the screen's; ``shape`` gives the pointer a shape."""
        self.state, self.viewport, self.workspace = state, state.viewport, state.workspace
        self.host = host
        self._to_screen, self._shape = to_screen, shape
        self.marquee: tuple[Frame, QPointF, QPointF] | None = None
        self._gesture: gestures.Gesture | None = None
        self._drawing: tuple[Frame, QPointF] | None = None
        self._pressed = QPointF()
        self._less: Spot | None = None  # chosen no more on release, and chosen instead
        self._deeper: Spot | None = None
        self._moved = False

    def caught(self) -> Snapped | None:
        """What the gesture at work is held by."""
        return self._gesture.caught if self._gesture is not None and self._moved else None

    def _restore(self) -> None:
        """Leave the gesture at work as if it had not been."""
        self.workspace.cancel_gesture()
        self._gesture = self._drawing = self.marquee = self._less = self._deeper = None
        self.state.changed.emit()

    def press(self, event: QMouseEvent) -> None:
        """The left button goes down."""
        point = event.position()
        self._moved, self._gesture, self._pressed = False, None, point
        self.host.begin(Drag(on_cancel=self._restore))
        self._less = self._deeper = None
        if self.viewport.rulers and (point.x() < RULER or point.y() < RULER) and self._press_ruler(point):
            return
        if self.state.tool == "choose" and (self._press_handle(point) or self._press_more(point)):
            return
        found = self.viewport.under(point)
        if found is None:
            return
        frame, rect = found
        spot = self.viewport.spot(frame, rect, point)
        if self.state.tool == "choose":
            self._press_layer(frame, rect, spot, event)
        elif self.state.tool == "pick":
            self._pick_colour(frame, rect, point)
        else:
            self.workspace.choose(frame.id)
            self._press_tool(frame, spot)

    def _press_ruler(self, point: QPointF) -> bool:
        """A new guide out of a ruler, for the chosen frame."""
        frame = self.workspace.frame
        if frame is None:
            return False
        spot = self.viewport.spot(frame, self.viewport.rect_of(frame), point)
        axis = "y" if point.y() < RULER else "x"
        start = spot.y() if axis == "y" else spot.x()
        self._gesture = gestures.GuideMove(
            tr("add a guide"), frame, axis, None, start, marks_of(frame, ()), _SNAP / self.viewport.scale()
        )
        return True

    def _more_at(self, point: QPointF) -> str:
        """The handle at the edge of the chosen frame that lies under a point: ``down``, ``right`` or none."""
        frame = self.workspace.frame
        places = self.viewport.more(frame) if frame is not None and self.workspace.layer is None else {}
        return next((way for way, place in places.items() if place.adjusted(-5, -3, 5, 5).contains(point)), "")

    def _press_more(self, point: QPointF) -> bool:
        frame, way = self.workspace.frame, self._more_at(point)
        if frame is None or not way:
            return False
        self._gesture = gestures.ContentMove(
            tr("length of {frame}", frame=frame.name), frame, way, 8.0 / self.viewport.scale()
        )
        return True

    def _press_handle(self, point: QPointF) -> bool:
        frame, layer = self.workspace.frame, self.workspace.layer
        if frame is None or layer is None:
            return False
        rect = self.viewport.rect_of(frame)
        spot = self.viewport.spot(frame, rect, point)
        found = nearest_handle(self.state.handles(), spot.x(), spot.y(), _REACH / self.viewport.scale())
        if found is None:
            return False
        near, marks = (
            _SNAP / self.viewport.scale(),
            marks_of(frame, (layer.id,), self.workspace.project.grid if self.state.grid else 0.0),
        )
        name = layer.name
        if found.kind == "grip":
            self._gesture = gestures.Resize(tr("resize {name}", name=name), frame, layer, found.data, marks, near)
        elif found.kind == "rotation":
            self._gesture = gestures.Turn(tr("turn {name}", name=name), frame, layer, found.at)
        elif found.kind == "pivot":
            self._gesture = gestures.Pivot(tr("move the pivot of {name}", name=name), frame, layer)
        elif found.kind == "corner":
            self._gesture = gestures.Corner(tr("round {name}", name=name), frame, layer, found.data)
        elif found.kind in ("start", "end", "stop"):
            stop = found.data if found.kind == "stop" else -1
            self._gesture = gestures.GradientEnd(
                tr("gradient of {name}", name=name),
                frame,
                layer,
                self.state.paint_row,
                found.kind,
                stop,
                found.at,
                self.viewport.scale(),
            )
        elif found.kind == "node":
            self.state.node = found.data
            self._gesture = gestures.NodeMove(
                tr("move a node of {name}", name=name), frame, layer, found.data[0], found.data[1], False, found.at
            )
            self.state.changed.emit()
        else:
            self._gesture = gestures.NodeMove(
                tr("bend {name}", name=name), frame, layer, found.data[0], found.data[1], True, found.at
            )
        return True

    def _press_layer(self, frame: Frame, rect: QRectF, spot: QPointF, event: QMouseEvent) -> None:
        held = event.modifiers()
        guide = picking.guide_at(frame, spot.x(), spot.y(), 1 / self.viewport.scale()) if self.viewport.rulers else None
        if guide is not None:
            axis, at = guide
            self._gesture = gestures.GuideMove(
                tr("move a guide"), frame, axis, at, at, marks_of(frame, ()), _SNAP / self.viewport.scale()
            )
            return
        if self.state.node_mode:
            self.state.edit_nodes(False)
        spots = self.workspace.chosen
        ids = [layer_id for _, layer_id in spots]
        held_by_edge = picking.on_outline(frame, spot.x(), spot.y(), ids, _EDGE / self.viewport.scale())
        in_gap = None if held & _KEYS else picking.uncovered(frame, spot.x(), spot.y(), ids)
        hit = held_by_edge or in_gap or hit_of(frame, spot.x(), spot.y(), ids)
        if held & Qt.KeyboardModifier.ControlModifier:
            # With Ctrl what lies inside is chosen; a chosen one that is dragged with Ctrl is copied instead.
            inner = hit_of(frame, spot.x(), spot.y(), ids, True)
            if hit is not None and inner is not None and hit.id in ids:
                self._deeper = (frame.id, inner.id)
            else:
                hit = inner
        if held & Qt.KeyboardModifier.ShiftModifier and hit is not None:
            # One more; one that is chosen already goes on release, unless it is dragged.
            if (frame.id, hit.id) in spots:
                self._less = (frame.id, hit.id)
            else:
                self.workspace.choose_also(frame.id, hit.id)
        elif hit is not None and (frame.id, hit.id) in spots and len(spots) > 1:
            pass  # several are dragged together
        elif hit is None or not (held & Qt.KeyboardModifier.AltModifier and (frame.id, hit.id) in spots):
            self.workspace.choose(frame.id, hit.id if hit else "")
        if hit is None or hit.locked:
            self.marquee = (frame, self._pressed, self._pressed)
            return
        ids = self.workspace.chosen_here or [hit.id]
        marks = marks_of(frame, ids, self.workspace.project.grid if self.state.grid else 0.0)
        label = tr("move {hit}", hit=hit.name) if len(ids) == 1 else tr("move {count} layers", count=len(ids))
        self._gesture = gestures.Move(label, frame, ids, marks, _SNAP / max(self.viewport.scale(), 1e-6))

    def choose_for_menu(self, point: QPointF) -> None:
        """What a menu is asked for: what lies under the pointer, unless that is chosen already."""
        found = self.viewport.under(point)
        if found is None:
            return
        frame, rect = found
        spot = self.viewport.spot(frame, rect, point)
        hit = hit_of(frame, spot.x(), spot.y(), [ident for _, ident in self.workspace.chosen])
        if (frame.id, hit.id if hit is not None else "") not in self.workspace.chosen:
            self.workspace.choose(frame.id, hit.id if hit is not None else "")

    def _press_tool(self, frame: Frame, spot: QPointF) -> None:
        place = (spot.x(), spot.y())
        if self.state.tool == "pen":
            if self.state.pen is None or self.state.pen.frame_id != frame.id:
                self.state.pen = Pen(frame.id)
            if self.state.pen.press(place, self.viewport.scale()):
                self.state.finish_pen(closed=True)
            self.state.changed.emit()
        elif self.state.tool == "text":
            self.state.text_wanted.emit(frame.id, *place)
        else:
            self._drawing = (frame, spot)

    def _pick_colour(self, frame: Frame, rect: QRectF, point: QPointF) -> None:
        image = self.workspace.picture(frame, self.viewport.scale())
        x = min(image.width() - 1, max(0, int(point.x() - rect.left())))
        y = min(image.height() - 1, max(0, int(point.y() - rect.top())))
        tone = image.pixelColor(x, y)
        self.state.use("choose")
        self.state.colour_picked.emit(tone.name())

    def move(self, event: QMouseEvent) -> None:
        """The pointer moves, with the button down or not."""
        point = event.position()
        travel = point - self._pressed
        dragging = bool(event.buttons() & Qt.MouseButton.LeftButton)
        if not self._moved and dragging and travel.manhattanLength() < 3:
            return
        self._moved = self._moved or dragging
        scale = self.viewport.scale()
        if self._gesture is not None:
            edit = self._gesture.edit(travel.x() / scale, travel.y() / scale, _keys(self.state, event))
            self.workspace.gesture(self._gesture.label, edit, self)
        elif self._drawing is not None:
            self._draw_to(point, event)
        elif self.marquee is not None:
            self.marquee = (self.marquee[0], self.marquee[1], point)
        elif self.state.pen is not None and dragging and self.state.pen.corners:
            self._bend(point)
        elif not dragging:
            self._hover(point)
        if self.viewport.rulers or self.marquee is not None or self.state.pen is not None:
            self.state.changed.emit()

    def _bend(self, point: QPointF) -> None:
        frame = next(
            (f for f, _ in self.viewport.places() if self.state.pen is not None and f.id == self.state.pen.frame_id),
            None,
        )
        if frame is not None and self.state.pen is not None:
            spot = self.viewport.spot(frame, self.viewport.rect_of(frame), point)
            self.state.pen.bend((spot.x(), spot.y()))

    def _draw_to(self, point: QPointF, event: QMouseEvent) -> None:
        if self._drawing is None:
            return
        frame, start = self._drawing
        spot = self.viewport.spot(frame, self.viewport.rect_of(frame), point)
        keys = _keys(self.state, event)
        ends = [(round(v.x()), round(v.y())) for v in (start, spot)]
        layer = drawn(self.state.tool, ends[0], ends[1], keys)
        if layer is not None:
            base = frame

            def edit(project: Project) -> Project:
                return put(base.id, layer)(put_frame(project, base))[0]

            self.workspace.gesture(tr("draw a {tool}", tool=self.state.tool), edit, self)

    def _hover(self, point: QPointF) -> None:
        frame = self.workspace.frame
        handle = None
        if frame is not None and self.workspace.layer is not None:
            spot = self.viewport.spot(frame, self.viewport.rect_of(frame), point)
            handle = nearest_handle(self.state.handles(), spot.x(), spot.y(), _REACH / self.viewport.scale())
        shapes = {"rotation": Qt.CursorShape.PointingHandCursor, "grip": Qt.CursorShape.SizeAllCursor}
        if self.state.tool == "choose":
            self._shape(shapes.get(handle.kind, Qt.CursorShape.CrossCursor) if handle else Qt.CursorShape.ArrowCursor)
        more = self._more_at(point) if handle is None and self.state.tool == "choose" else ""
        if more:
            down = more == "down"
            self._shape(Qt.CursorShape.SizeVerCursor if down else Qt.CursorShape.SizeHorCursor)
        self.state.hinted.emit(HINTS[handle.kind] if handle else MORE_HINT if more else "")

    def release(self, event: QMouseEvent) -> None:
        """The button goes up."""
        if not self.host.end(event):
            return
        if self._drawing is not None:
            self._end_drawing()
        elif self.marquee is not None:
            self._end_marquee(event)
        elif self._gesture is not None and self._moved:
            self.workspace.end_gesture()
        elif self._less is not None:
            self.workspace.choose_also(*self._less)
        elif self._deeper is not None:
            self.workspace.choose(*self._deeper)
        elif self._gesture is not None and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self._choose_beneath(event.position())
        self._gesture = None

    def _end_drawing(self) -> None:
        if self._drawing is None:
            return
        (frame, start), self._drawing = self._drawing, None
        if not self._moved:
            size = CLICK_SIZE
            layer = drawn(
                self.state.tool, (start.x(), start.y()), (start.x() + size, start.y() + size), gestures.Keys()
            )
            if layer is not None:
                self.state.put(frame.id, layer)
            return
        self.workspace.end_gesture()
        made = next((f for f in self.workspace.project.frames if f.id == frame.id), None)
        self.state.use("choose")
        if made is not None and made.layers:
            self.workspace.choose(made.id, made.layers[-1].id)

    def _end_marquee(self, event: QMouseEvent) -> None:
        """Everything that lies wholly inside is chosen."""
        if self.marquee is None:
            return
        (frame, a, b), self.marquee = self.marquee, None
        if not self._moved:
            return
        rect = self.viewport.rect_of(frame)
        area = QRectF(self.viewport.spot(frame, rect, a), self.viewport.spot(frame, rect, b)).normalized()
        found = [(frame.id, ident) for ident in picking.inside(frame, area.getRect())]  # type: ignore[arg-type]
        if found:
            self.workspace.choose_several(found)

    def _choose_beneath(self, point: QPointF) -> None:
        """What lies beneath the chosen layer at a point; round again from the lowest to the topmost."""
        found = self.viewport.under(point)
        if found is None:
            return
        frame, rect = found
        spot = self.viewport.spot(frame, rect, point)
        pile = layers_at(frame, spot.x(), spot.y())
        if pile:
            ids = [layer.id for layer in pile]
            chosen = self.workspace.layer
            place = ids.index(chosen.id) if chosen is not None and chosen.id in ids else -1
            self.workspace.choose(frame.id, ids[(place + 1) % len(ids)])

    def double_click(self, event: QMouseEvent) -> None:
        """Twice: one step further in, a frame's name, a colour, a node."""
        if self.state.tool == "pen":
            self.state.finish_pen()
            return
        found = self.viewport.under(event.position())
        if found is None or self.state.tool != "choose":
            return
        frame, rect = found
        if event.position().y() < rect.top():
            self.state.frame_named.emit(frame.id)
            return
        spot = self.viewport.spot(frame, rect, event.position())
        layer = self.workspace.layer
        handle = nearest_handle(self.state.handles(), spot.x(), spot.y(), _REACH / self.viewport.scale())
        if handle is not None and handle.kind == "stop":
            self.state.stop_wanted.emit(handle.data, self._to_screen(event.position().toPoint()))
            return
        if self.state.node_mode or (self.state.paint_row and handle is None):
            self._add_where_clicked(frame, spot)
            return
        inner = hit_of(frame, spot.x(), spot.y(), [layer.id] if layer is not None else [], True)
        if inner is layer and inner is not None and isinstance(inner.body, Use):
            part_commands.open_chosen(self.workspace)
            return
        if inner is layer and inner is not None and isinstance(inner.body, Path):
            self.state.edit_nodes(True)
            return
        self.workspace.choose(frame.id, inner.id if inner else "")

    def _add_where_clicked(self, frame: Frame, spot: QPointF) -> None:
        """A node on the path's line, or a colour on the gradient's."""
        layer = self.workspace.layer
        if layer is None:
            return
        flat = flatten(frame)
        own = tilt.back_to(flat.to_frame(flat.index[layer.id]), spot.x(), spot.y())
        if own is None:
            return
        if self.state.node_mode:
            layer_commands.add_node_at(self.workspace, own, _REACH / self.viewport.scale())
        else:
            layer_commands.add_stop_at(self.workspace, self.state.paint_row, own)


def _keys(state: BoardState, event: QMouseEvent) -> gestures.Keys:
    held = event.modifiers()
    return gestures.Keys(
        bool(held & Qt.KeyboardModifier.ShiftModifier),
        bool(held & Qt.KeyboardModifier.ControlModifier),
        bool(held & Qt.KeyboardModifier.AltModifier) or not state.snap,
    )
