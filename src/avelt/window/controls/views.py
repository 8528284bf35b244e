"""Views of frames and of scenes: fitted into their widget, with a layer outlined."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from PySide6.QtCore import QPoint, QPointF, QRect, QRectF, QSizeF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QContextMenuEvent, QMouseEvent, QPainter, QPainterPath, QPaintEvent, QPen, QTransform
from PySide6.QtWidgets import QWidget

from avelt.core.geometry.flatten import flatten
from avelt.core.model.values import Frame
from avelt.core.running.hits import slots_at
from avelt.core.timing.program import Scene
from avelt.core.words import tr
from avelt.paint.painter import ScenePainter
from avelt.window.common.picking import hit, is_deeper
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import RADIUS, box_polygon, draw_frame


def fit(size: QSizeF, into: QRectF, top: bool = False) -> QRectF:
    """The largest rectangle of the size's shape in the middle (or at the top) of another."""
    if size.width() <= 0 or size.height() <= 0:
        return into
    factor = min(into.width() / size.width(), into.height() / size.height())
    w, h = size.width() * factor, size.height() * factor
    y = into.top() if top else into.top() + (into.height() - h) / 2
    return QRectF(into.left() + (into.width() - w) / 2, y, w, h)


def on_pixels(rect: QRectF, ratio: float) -> QRectF:
    """A rectangle moved by less than a pixel, and as many whole ones wide and high: a picture as large as it is shown
    as it was painted. Its height follows its width, as that of the picture does. ``ratio``: pixels to a px."""
    if rect.width() <= 0.0:
        return rect
    w = max(1, round(rect.width() * ratio))
    h = max(1, round(rect.height() * w / rect.width()))
    return QRectF(round(rect.left() * ratio) / ratio, round(rect.top() * ratio) / ratio, w / ratio, h / ratio)


class FrameView(QWidget):
    """A still frame with one layer outlined; a click chooses the layer under it, a right click also asks for a menu."""

    picked = Signal(str)
    picked_also = Signal(str)  # with Shift
    menu_wanted = Signal(QPoint)  # in pixels of the screen

    def __init__(self, workspace: Workspace, role: str) -> None:
        super().__init__()
        self.workspace, self.role = workspace, role
        self.frame: Frame | None = None
        self.layer_id = ""
        self.counts: Callable[[str], bool] | None = None  # which layers a click is about
        self.setMinimumWidth(120)
        self.setAccessibleName(tr("{role} frame", role=role))
        workspace.pictures.made.connect(self.update)

    def show_frame(self, frame: Frame | None, layer_id: str | None) -> None:
        """Show a frame and outline a layer of it."""
        if frame is not self.frame or (layer_id or "") != self.layer_id:
            self.frame, self.layer_id = frame, layer_id or ""
            self.update()

    @property
    def colour(self) -> QColor:
        """The colour of this side."""
        theme = self.workspace.theme
        return QColor(theme.leaves if self.role == "from" else theme.arrives)

    def place(self) -> QRectF:
        """Where the frame stands in the widget."""
        if self.frame is None:
            return QRectF()
        area = QRectF(self.rect()).adjusted(2, 2, -2, -2)
        return on_pixels(fit(QSizeF(self.frame.w, self.frame.h), area, top=True), self.devicePixelRatioF())

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.frame is None:
            return
        painter = QPainter(self)
        rect = self.place()
        scale = rect.width() / self.frame.w
        ratio = self.devicePixelRatioF()
        draw_frame(painter, self.workspace.pictures.soon(self.frame, scale * ratio), rect, self.colour, 1.8)
        flat = flatten(self.frame)
        if self.layer_id in flat.index:
            i = flat.index[self.layer_id]
            to = QTransform(scale, 0, 0, scale, rect.left(), rect.top())
            shape = box_polygon(flat.to_frame(i), flat.layers[i].w, flat.layers[i].h, to)
            painter.setClipRect(rect.adjusted(-1, -1, 1, 1))
            painter.setPen(QPen(self.colour, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPolygon(shape)

    def _under(self, point: QPointF, deeper: bool) -> str:
        """The layer that a click takes at a point of the widget."""
        if self.frame is None:
            return ""
        rect = self.place()
        scale = rect.width() / self.frame.w
        chosen = (self.layer_id,) if self.layer_id else ()
        x, y = (point.x() - rect.left()) / scale, (point.y() - rect.top()) / scale
        layer = hit(self.frame, x, y, chosen, deeper, self.counts)
        return layer.id if layer is not None else ""

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._pick(event, is_deeper(event))

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        self._pick(event, True)

    def _pick(self, event: QMouseEvent, deeper: bool) -> None:
        found = self._under(event.position(), deeper)
        also = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        if found and event.button() == Qt.MouseButton.LeftButton:
            (self.picked_also if also else self.picked).emit(found)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        found = self._under(QPointF(event.pos()), False)
        if found:
            self.picked.emit(found)
            self.menu_wanted.emit(event.globalPos())


_SETTLES = 40  # ms: longer than from one picture to the next while something plays


class SceneView(QWidget):
    """A scene fitted into the widget. Clicks come out in the frame's px."""

    pressed = Signal(float, float)
    released = Signal(float, float)
    menu_wanted = Signal(float, float, QPoint)  # a right click: in the frame, and on the screen

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.scene: Scene | None = None
        self.clip = True
        self._assets = workspace.project.assets
        self.painter = ScenePainter(self._assets, live=True)
        self._settling = QTimer(self)  # while nothing plays the next picture is asked for here
        self._settling.setSingleShot(True)
        self._settling.setInterval(_SETTLES)
        self._settling.timeout.connect(self.update)

    def show_scene(self, scene: Scene | None) -> None:
        """Show a scene."""
        self.scene = scene
        if self._assets is not self.workspace.project.assets:
            self._assets = self.workspace.project.assets
            self.painter = ScenePainter(self._assets, live=True)
        self.update()

    def painting_ahead(self, scene: Scene) -> Iterator[None]:
        """Paint a scene that may come, as large as this one, step by step, and show nothing of it: what it needs is
        kept."""
        if self.scene is not None:
            scale = self.place().width() / self.scene.size[0] * self.devicePixelRatioF()
            yield from self.painter.painting_ahead(scene, scale)

    def keeps(self) -> tuple[float, int]:
        """While this stays as it is, what was painted ahead is kept: the width, and how many halves were made since."""
        return self.place().width(), int(2.0 * self.painter.filled)

    def place(self) -> QRectF:
        """Where the frame stands in the widget."""
        if self.scene is None:
            return QRectF()
        margin = 2 if self.clip else 34
        area = QRectF(self.rect()).adjusted(margin, margin, -margin, -margin)
        return on_pixels(fit(QSizeF(*self.scene.size), area), self.devicePixelRatioF())

    def to_widget(self) -> QTransform:
        """From the frame's px to the widget's."""
        rect = self.place()
        scale = rect.width() / self.scene.size[0] if self.scene else 1.0
        return QTransform(scale, 0, 0, scale, rect.left(), rect.top())

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.scene is None:
            return
        painter = QPainter(self)
        theme = self.workspace.theme
        rect = self.place()
        ratio = self.devicePixelRatioF()
        scale = rect.width() / self.scene.size[0] * ratio
        if self.clip:
            clear = float(self.scene.background[3]) < 1.0
            draw_frame(painter, self.painter.render(self.scene, scale), rect, theme.ink, 1.8, RADIUS, paper=clear)
        else:
            self._paint_open(painter, rect, scale / ratio)
        self.paint_over(painter, rect)
        self.settle()

    def settle(self) -> None:
        """Ask for another picture where this one is not the last of what it shows."""
        if self.painter.settles:
            self._settling.start()

    def _paint_open(self, painter: QPainter, rect: QRectF, scale: float) -> None:
        """The frame with what lies outside of it."""
        if self.scene is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if float(self.scene.background[3]) < 1.0:
            painter.fillRect(rect, Qt.GlobalColor.white)
        painter.fillRect(rect, QColor.fromRgbF(*self.scene.background.tolist()))
        area = QRect(0, 0, self.width(), self.height())
        painter.save()
        self.painter.paint(painter, self.scene, QTransform(scale, 0, 0, scale, rect.left(), rect.top()), area)
        painter.restore()
        outside = QPainterPath()
        outside.addRect(QRectF(area))
        inside = QPainterPath()
        inside.addRect(rect)
        veil = QColor(self.workspace.theme.sheet)
        veil.setAlphaF(0.72)
        painter.fillPath(outside.subtracted(inside), veil)
        painter.setPen(QPen(self.workspace.theme.ink, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect)

    def paint_over(self, painter: QPainter, rect: QRectF) -> None:
        """For subclasses: what stands over the scene."""

    def in_frame(self, event: QMouseEvent) -> tuple[float, float]:
        return self.spot(event.position())

    def spot(self, at: QPointF) -> tuple[float, float]:
        """A point of the widget in the frame."""
        back, ok = self.to_widget().inverted()
        point = back.map(at) if ok else QPointF()
        return point.x(), point.y()

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        if self.scene is not None:
            self.menu_wanted.emit(*self.spot(QPointF(event.pos())), event.globalPos())

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.scene is not None and event.button() == Qt.MouseButton.LeftButton:
            self.pressed.emit(*self.in_frame(event))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self.scene is not None and event.button() == Qt.MouseButton.LeftButton:
            self.released.emit(*self.in_frame(event))

    def slots_under(self, x: float, y: float) -> tuple[int, ...]:
        """The slots that lie in each other at a point of the frame, the outermost first; none for nothing."""
        return tuple(reversed(slots_at(self.scene, x, y))) if self.scene is not None else ()
