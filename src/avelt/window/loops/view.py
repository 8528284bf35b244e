"""The frame of the loops while they run: a click chooses a layer, which is outlined."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPen

from avelt.core.model.properties import COLUMN
from avelt.core.words import tr
from avelt.window.common.picking import is_deeper
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import box_polygon
from avelt.window.controls.views import SceneView


class LoopView(SceneView):
    """A scene with one slot outlined."""

    clicked = Signal(float, float, bool)  # where in the frame, whether one deeper

    def __init__(self, workspace: Workspace) -> None:
        super().__init__(workspace)
        self.slot = -1
        self.adds = False  # whether the click that is told now adds to what is chosen
        self.setAccessibleName(tr("Running frame"))

    def paint_over(self, painter: QPainter, rect: QRectF) -> None:
        if self.scene is None or not 0 <= self.slot < len(self.scene.program.contents):
            return
        row = self.scene.scalars[self.slot]
        world = self.scene.tilts().get(self.slot, self.scene.world()[self.slot])
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(rect.adjusted(-1, -1, 1, 1))
        painter.setPen(QPen(self.workspace.theme.now, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(box_polygon(world, float(row[COLUMN["w"]]), float(row[COLUMN["h"]]), self.to_widget()))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.scene is not None and event.button() == Qt.MouseButton.LeftButton:
            self.adds = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self.clicked.emit(*self.in_frame(event), is_deeper(event))
            self.adds = False

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.scene is not None and event.button() == Qt.MouseButton.LeftButton:
            self.clicked.emit(*self.in_frame(event), True)
