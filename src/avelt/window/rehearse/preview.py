"""The screen that is rehearsed on: at some size, with what can be touched outlined and a fingertip if wanted."""

from __future__ import annotations

from time import perf_counter

from PySide6.QtCore import QEvent, QPointF, QRectF, QSizeF, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent

from avelt.core.geometry.affine import box_bounds
from avelt.core.model.properties import COLUMN
from avelt.window.common.pinch import DIRECT
from avelt.window.common.workspace import Workspace
from avelt.window.controls.views import SceneView, fit, on_pixels

_SHOWN = 900  # ms that what can be touched is outlined after a miss
_FINGER = 15.0


class Preview(SceneView):
    """The screen. ``size_mode`` is ``fit``, ``1:1`` or a size in px that the screen has, whatever the frame's is."""

    moved = Signal(float, float)
    gone = Signal()  # the pointer left it
    wheeled = Signal(float, float)  # px

    def __init__(self, workspace: Workspace) -> None:
        super().__init__(workspace)
        self.setMouseTracking(True)
        self.setProperty(DIRECT, True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.hot: tuple[str, ...] = ()
        self.show_hot = False
        self.show_finger = False
        self.finger: tuple[float, float, bool] | None = None  # where, in the frame, and whether it is down
        self.size_mode: str | tuple[float, float] = "fit"
        self.painted_in = 0.0
        self._missed = QTimer(self)
        self._missed.setSingleShot(True)
        self._missed.timeout.connect(self.update)

    def missed(self) -> None:
        """A touch met nothing: what could be touched is shown for a moment."""
        self._missed.start(_SHOWN)
        self.update()

    @property
    def outlines(self) -> bool:
        """Whether what can be touched is outlined now."""
        return self.show_hot or self._missed.isActive()

    def screen_place(self) -> QRectF:
        """Where the screen stands in the widget."""
        if self.scene is None:
            return QRectF()
        size = QSizeF(*self.scene.size) if isinstance(self.size_mode, str) else QSizeF(*self.size_mode)
        area = QRectF(self.rect()).adjusted(2, 2, -2, -2)
        ratio = self.devicePixelRatioF()
        if self.size_mode == "1:1":
            rect = QRectF(0, 0, size.width() / ratio, size.height() / ratio)
            rect.moveCenter(area.center())
            if rect.height() > area.height():
                rect.moveTop(area.top())
            return on_pixels(rect, ratio)
        return on_pixels(fit(size, area), ratio)

    def place(self) -> QRectF:
        screen = self.screen_place()
        if self.scene is None or isinstance(self.size_mode, str):
            return screen
        # As wide as the screen is; what is higher goes beyond its lower edge.
        w, h = self.scene.size
        whole = QRectF(screen.left(), screen.top(), screen.width(), screen.width() * h / max(w, 1e-9))
        return on_pixels(whole, self.devicePixelRatioF())

    def paintEvent(self, event: QPaintEvent) -> None:
        began = perf_counter()
        if isinstance(self.size_mode, str) or self.scene is None:
            super().paintEvent(event)
        else:
            self._paint_on_screen()
        self.painted_in = (perf_counter() - began) * 1000.0

    def _paint_on_screen(self) -> None:
        """The frame on a screen of another size: as wide as that, cut off below; its background goes on."""
        scene = self.scene
        if scene is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        screen, rect = self.screen_place(), self.place()
        scale = rect.width() / scene.size[0] * self.devicePixelRatioF()
        painter.save()
        painter.setClipRect(screen)
        painter.fillRect(screen, Qt.GlobalColor.white)
        painter.fillRect(screen, QColor.fromRgbF(*scene.background.tolist()))
        painter.drawImage(rect, self.painter.render(scene, scale))
        painter.restore()
        painter.setPen(QPen(self.workspace.theme.ink, 1.8))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(screen)
        self.paint_over(painter, screen)
        self.settle()

    def paint_over(self, painter: QPainter, rect: QRectF) -> None:
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(rect)
        if self.scene is not None and self.outlines:
            self._paint_hot(painter)
        if self.finger is not None and self.show_finger:
            x, y, down = self.finger
            theme = self.workspace.theme
            colour = QColor(theme.now)
            colour.setAlphaF(0.45 if down else 0.16)
            painter.setPen(QPen(theme.now, 1.4))
            painter.setBrush(colour)
            size = _FINGER if down else _FINGER + 4
            painter.drawEllipse(self.to_widget().map(QPointF(x, y)), size, size)

    def _paint_hot(self, painter: QPainter) -> None:
        painter.setPen(QPen(self.workspace.theme.now, 1.8, Qt.PenStyle.DashLine))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for box in self._hot_boxes():
            painter.drawRoundedRect(self.to_widget().mapRect(box).adjusted(-3, -3, 3, 3), 8, 8)

    def _hot_boxes(self) -> list[QRectF]:
        """The boxes in the frame of what can be touched."""
        scene, hot, found = self.scene, set(self.hot), []
        if scene is None:
            return []
        world = scene.world()
        for slot, part in enumerate(scene.program.contents):
            here = {side.id for side in (part.left, part.right) if side is not None}
            if here & hot and not scene.program.is_absent(slot, scene.at):
                row = scene.scalars[slot]
                found.append(QRectF(*(float(v) for v in box_bounds(world[slot], row[COLUMN["w"]], row[COLUMN["h"]]))))
        return found

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self.scene is not None:
            self.moved.emit(*self.in_frame(event))

    def leaveEvent(self, event: QEvent) -> None:
        self.gone.emit()

    def wheelEvent(self, event: QWheelEvent) -> None:
        pixels, turned = event.pixelDelta(), event.angleDelta()
        scale = max(self.to_widget().m11(), 1e-9)
        if not pixels.isNull():
            self.wheeled.emit(-pixels.x() / scale, -pixels.y() / scale)
        elif not turned.isNull():
            self.wheeled.emit(-turned.x() / 120.0 * 48.0, -turned.y() / 120.0 * 48.0)
        event.accept()
