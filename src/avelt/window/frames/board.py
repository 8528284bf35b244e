"""All frames side by side at one scale; layers are chosen, moved and resized on them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Protocol

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QTransform, QWheelEvent
from PySide6.QtWidgets import QWidget

from avelt.core.edits.frames import put_frame
from avelt.core.edits.layers import move_in_frame, set_box_in_frame
from avelt.core.geometry.flatten import flatten, layer_at
from avelt.core.model.find import frame_by_id
from avelt.core.model.values import Frame, Layer, Project
from avelt.core.timing.relatives import relatives
from avelt.window.controls.drawing import draw_frame, shortened
from avelt.window.controls.views import box_polygon
from avelt.window.shell.desk import Desk
from avelt.window.theme import font

_HEAD, _FOOT, _GAP = 24.0, 22.0, 24.0
_GRIP = 4.0
#: The eight grips: which share of the box each stands at, and so which sides it moves.
_GRIPS = ((0, 0), (0.5, 0), (1, 0), (1, 0.5), (1, 1), (0.5, 1), (0, 1), (0, 0.5))
_SNAP = 5.0  # widget px


class Gesture(Protocol):
    """Something done with the mouse on a layer: begun, moved, ended or given up."""

    label: str

    def edit(self, dx: float, dy: float, keys: Qt.KeyboardModifier) -> Callable[[Project], Project]:
        """The edit for a travel in px of the frame since the press."""


@dataclass
class MoveGesture:
    """A layer dragged to another place."""

    label: str
    frame: Frame
    layer: Layer
    near: float

    def edit(self, dx: float, dy: float, keys: Qt.KeyboardModifier) -> Callable[[Project], Project]:
        if keys & Qt.KeyboardModifier.ShiftModifier:
            dx, dy = (dx, 0.0) if abs(dx) > abs(dy) else (0.0, dy)
        if not keys & Qt.KeyboardModifier.AltModifier:
            dx, dy = snapped_move(self.frame, self.layer, round(dx), round(dy), self.near)
        return lambda project: put_frame(project, move_in_frame(self.frame, self.layer.id, dx, dy))


@dataclass
class ResizeGesture:
    """A layer resized by one of its grips."""

    label: str
    frame: Frame
    layer: Layer
    grip: tuple[float, float]
    box: tuple[float, float, float, float]

    def edit(self, dx: float, dy: float, keys: Qt.KeyboardModifier) -> Callable[[Project], Project]:
        x, y, w, h = self.box
        gx, gy = self.grip
        left, top, right, bottom = x, y, x + w, y + h
        if gx == 0:
            left = min(right - 1, left + dx)
        elif gx == 1:
            right = max(left + 1, right + dx)
        if gy == 0:
            top = min(bottom - 1, top + dy)
        elif gy == 1:
            bottom = max(top + 1, bottom + dy)
        if not keys & Qt.KeyboardModifier.AltModifier:
            left, top, right, bottom = (float(round(v)) for v in (left, top, right, bottom))
        nw, nh = max(1.0, right - left), max(1.0, bottom - top)
        if keys & Qt.KeyboardModifier.ShiftModifier and w > 0 and h > 0 and gx != 0.5 and gy != 0.5:
            factor = max(nw / w, nh / h)
            nw, nh = w * factor, h * factor
            left = right - nw if gx == 0 else left
            top = bottom - nh if gy == 0 else top
        box = (left, top, nw, nh)
        return lambda project: put_frame(project, set_box_in_frame(self.frame, self.layer.id, box))


def snapped_move(frame: Frame, layer: Layer, dx: float, dy: float, near: float) -> tuple[float, float]:
    """The travel, drawn to the frame's edges and middle and to the edges of the layer's siblings."""
    flat = flatten(frame)
    own = flat.index[layer.id]
    x, y, w, h = (float(v) for v in flat.bounds[own])
    others = [i for i in range(len(flat.layers)) if flat.parent[i] == flat.parent[own] and i != own]
    marks_x, marks_y = [0.0, frame.w / 2, frame.w], [0.0, frame.h / 2, frame.h]
    for i in others:
        bx, by, bw, bh = (float(v) for v in flat.bounds[i])
        marks_x += [bx, bx + bw / 2, bx + bw]
        marks_y += [by, by + bh / 2, by + bh]

    def pull(at: float, size: float, travel: float, marks: list[float]) -> float:
        best = 0.0
        reach = near
        for edge in (at, at + size / 2, at + size):
            for mark in marks:
                away = mark - (edge + travel)
                if abs(away) < reach:
                    reach, best = abs(away), away
        return travel + best

    return pull(x, w, dx, marks_x), pull(y, h, dy, marks_y)


class Board(QWidget):
    """The canvas. Plain wheel pans, Ctrl and wheel zooms."""

    removal_wanted = Signal()
    frame_named = Signal(str)  # a frame's name was double-clicked

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.zoom = 1.0  # on top of fitting the height
        self.pan = 0.0
        self._gesture: Gesture | None = None
        self._pressed = QPointF()
        self._frame_at_press = ""
        self._moved = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setMinimumHeight(160)
        self.setAccessibleName("Frames")
        desk.changed.connect(lambda _: self.update())
        desk.chose.connect(self._reveal)

    # Where things are

    def scale(self) -> float:
        """Widget px a frame px: the tallest frame fits the height."""
        tallest = max((frame.h for frame in self.desk.project.frames), default=640.0)
        return max(0.02, (self.height() - _HEAD - _FOOT - 6) / tallest) * self.zoom

    def places(self) -> list[tuple[Frame, QRectF]]:
        """Every frame and where it stands."""
        scale, x = self.scale(), 2.0 - self.pan
        found = []
        for frame in self.desk.project.frames:
            found.append((frame, QRectF(x, _HEAD, frame.w * scale, frame.h * scale)))
            x += frame.w * scale + _GAP
        return found

    def _extent(self) -> float:
        scale = self.scale()
        return sum(frame.w * scale + _GAP for frame in self.desk.project.frames) - _GAP + 4

    def _frame_under(self, point: QPointF) -> tuple[Frame, QRectF] | None:
        return next(((f, r) for f, r in self.places() if r.adjusted(0, -_HEAD, 0, _FOOT).contains(point)), None)

    def to_widget(self, frame: Frame, rect: QRectF) -> QTransform:
        """From a frame's px to the widget's."""
        scale = rect.width() / frame.w
        return QTransform(scale, 0, 0, scale, rect.left(), rect.top())

    def grips(self) -> list[tuple[QPointF, tuple[float, float]]]:
        """The chosen layer's grips; none for turned layers."""
        frame, layer = self.desk.frame, self.desk.layer
        rect = next((r for f, r in self.places() if f is frame), None)
        if frame is None or layer is None or rect is None:
            return []
        flat = flatten(frame)
        i = flat.index[layer.id]
        if abs(flat.world[i][1]) > 1e-9 or abs(flat.world[i][2]) > 1e-9:
            return []
        x, y, w, h = (float(v) for v in flat.bounds[i])
        to = self.to_widget(frame, rect)
        return [(to.map(QPointF(x + w * gx, y + h * gy)), (gx, gy)) for gx, gy in _GRIPS]

    def _reveal(self) -> None:
        rect = next((r for f, r in self.places() if f is self.desk.frame), None)
        if rect is not None and not (rect.right() > 40 and rect.left() < self.width() - 40):
            self.pan = max(0.0, self.pan + rect.left() - 20)
        self.update()

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        theme, project = self.desk.theme, self.desk.project
        frame, layer = self.desk.frame, self.desk.layer
        family = relatives(project, frame, layer) if frame is not None and layer is not None else {}
        ratio = self.devicePixelRatioF()
        for entry, rect in self.places():
            if rect.right() < 0 or rect.left() > self.width():
                continue
            chosen = entry is frame
            self._paint_head(painter, entry, rect, chosen, entry.id == project.first)
            image = self.desk.picture(entry, rect.width() / entry.w * ratio)
            draw_frame(painter, image, rect, theme.ink if chosen else theme.line, 1.6)
            painter.setFont(font(11))
            painter.setPen(theme.quiet)
            if layer is not None:
                words = "not here"
                if entry.id in family:
                    words = "holds it" if chosen else f"as {family[entry.id].name}"
                painter.drawText(
                    QRectF(rect.left(), rect.bottom() + 3, rect.width(), 18), Qt.AlignmentFlag.AlignLeft,
                    shortened(painter, words, rect.width()),
                )  # fmt: skip
            if entry.id in family:
                self._paint_outline(painter, entry, rect, family[entry.id], chosen)
        painter.setClipping(False)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        for point, _ in self.grips():
            painter.setPen(QPen(theme.now, 1.5))
            painter.setBrush(theme.sheet)
            painter.drawRect(QRectF(point.x() - _GRIP + 0.5, point.y() - _GRIP + 0.5, 2 * _GRIP - 1, 2 * _GRIP - 1))

    def _paint_head(self, painter: QPainter, frame: Frame, rect: QRectF, chosen: bool, first: bool) -> None:
        theme = self.desk.theme
        painter.setFont(font(12.5, 600 if chosen else 500))
        painter.setPen(theme.ink)
        room = rect.width() - (44 if first else 0)
        words = shortened(painter, frame.name, room)
        painter.drawText(QRectF(rect.left(), 0, rect.width(), _HEAD - 4), Qt.AlignmentFlag.AlignVCenter, words)
        if first:
            used = painter.fontMetrics().horizontalAdvance(words)
            painter.setFont(font(11))
            painter.setPen(theme.quiet)
            painter.drawText(QRectF(rect.left() + used + 7, 0, 60, _HEAD - 4), Qt.AlignmentFlag.AlignVCenter, "starts")

    def _paint_outline(self, painter: QPainter, frame: Frame, rect: QRectF, layer: Layer, chosen: bool) -> None:
        flat = flatten(frame)
        i = flat.index[layer.id]
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(rect.adjusted(-4, -4, 4, 4))
        pen = QPen(self.desk.theme.now, 1.8, Qt.PenStyle.SolidLine if chosen else Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(box_polygon(flat.to_frame(i), layer.w, layer.h, self.to_widget(frame, rect)))
        painter.restore()

    # The mouse

    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        self._moved, self._gesture, self._pressed = False, None, point
        if event.button() != Qt.MouseButton.LeftButton:
            return
        frame, layer = self.desk.frame, self.desk.layer
        if frame is not None and layer is not None:
            for grip_at, grip in self.grips():
                if (grip_at - point).manhattanLength() <= _GRIP * 2.2:
                    flat = flatten(frame)
                    x, y, w, h = (float(v) for v in flat.bounds[flat.index[layer.id]])
                    self._gesture = ResizeGesture(f"resize {layer.name}", frame, layer, grip, (x, y, w, h))
                    return
        found = self._frame_under(point)
        if found is None:
            return
        frame, rect = found
        back, _ = self.to_widget(frame, rect).inverted()
        spot = back.map(point)
        hit = self._hit(frame, spot, bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier))
        self.desk.choose(frame.id, hit.id if hit else "")
        if hit is not None and not hit.locked:
            self._gesture = MoveGesture(f"move {hit.name}", frame, hit, _SNAP / max(self.scale(), 1e-6))

    def _hit(self, frame: Frame, spot: QPointF, deep: bool) -> Layer | None:
        """What a click chooses: what is chosen already when it lies there, else the outermost group's
        child at hand; with Ctrl the innermost layer."""
        inner = layer_at(frame, spot.x(), spot.y())
        if inner is None or deep:
            return inner
        flat = flatten(frame)
        chain = [flat.index[inner.id]]
        while flat.parent[chain[-1]] >= 0:
            chain.append(int(flat.parent[chain[-1]]))
        chosen = self.desk.layer
        ids = [flat.layers[i].id for i in chain]
        if chosen is not None and chosen.id in ids:
            return chosen
        # A group that fills the frame is a container, not a thing: go one step in.
        for i in reversed(chain):
            layer = flat.layers[i]
            covers = flat.bounds[i][2] >= frame.w * 0.85 and flat.bounds[i][3] >= frame.h * 0.4
            if not (layer.children and covers and i != chain[0]):
                return layer
        return inner

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if self._gesture is None:
            near = any((at - point).manhattanLength() <= _GRIP * 2.2 for at, _ in self.grips())
            self.setCursor(Qt.CursorShape.SizeAllCursor if near else Qt.CursorShape.ArrowCursor)
            return
        travel = point - self._pressed
        if not self._moved and travel.manhattanLength() < 3:
            return
        self._moved = True
        scale = self.scale()
        edit = self._gesture.edit(travel.x() / scale, travel.y() / scale, event.modifiers())
        self.desk.gesture(self._gesture.label, edit, self)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._gesture is not None and self._moved:
            self.desk.end_gesture()
        self._gesture = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self._frame_under(event.position())
        if found is None:
            return
        frame, rect = found
        if event.position().y() < rect.top():
            self.frame_named.emit(frame.id)
            return
        back, _ = self.to_widget(frame, rect).inverted()
        spot = back.map(event.position())
        inner = self._one_deeper(frame, spot)
        self.desk.choose(frame.id, inner.id if inner else "")

    def _one_deeper(self, frame: Frame, spot: QPointF) -> Layer | None:
        """The layer one step further in than the chosen one, under the point."""
        inner = layer_at(frame, spot.x(), spot.y())
        chosen = self.desk.layer
        if inner is None or chosen is None:
            return inner
        flat = flatten(frame)
        chain = [flat.index[inner.id]]
        while flat.parent[chain[-1]] >= 0:
            chain.append(int(flat.parent[chain[-1]]))
        ids = [flat.layers[i].id for i in chain]
        if chosen.id in ids and ids.index(chosen.id) > 0:
            return flat.layers[chain[ids.index(chosen.id) - 1]]
        return inner

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.set_zoom(self.zoom * (1.15 if event.angleDelta().y() > 0 else 1 / 1.15))
            return
        delta = event.angleDelta()
        travel = delta.x() if delta.x() else delta.y()
        self.pan = min(max(0.0, self._extent() - self.width()), max(0.0, self.pan - travel / 2))
        self.update()

    def set_zoom(self, zoom: float) -> None:
        """Another zoom: 1 fits the height."""
        self.zoom = min(8.0, max(0.25, zoom))
        self.pan = min(max(0.0, self._extent() - self.width()), self.pan)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        moves = {
            Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1),
        }  # fmt: skip
        frame, layer = self.desk.frame, self.desk.layer
        if event.key() == Qt.Key.Key_Escape:
            if self._gesture is not None:
                self.desk.session.cancel_gesture()
                self._gesture = None
            elif frame is not None:
                self.desk.choose(frame.id)
        elif event.key() == Qt.Key.Key_Delete and frame is not None:
            self.removal_wanted.emit()
        elif event.key() in moves and frame is not None and layer is not None:
            step = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            dx, dy = (v * step for v in moves[Qt.Key(event.key())])
            frame_id, layer_id = frame.id, layer.id
            self.desk.do(
                f"move {layer.name}", lambda p: put_frame(p, move_in_frame(frame_by_id(p, frame_id), layer_id, dx, dy))
            )
        else:
            super().keyPressEvent(event)
