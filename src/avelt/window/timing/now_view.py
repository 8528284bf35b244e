"""The Now view: the moment, with the chosen layer's path and its beats."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from avelt.core.geometry import affine
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.timing.program import Program
from avelt.window.controls.views import SceneView, box_polygon
from avelt.window.shell.desk import Desk

_BEATS = 12
_SMOOTH = 48


class NowView(SceneView):
    """A scene view that knows which slot is chosen."""

    def __init__(self, desk: Desk) -> None:
        super().__init__(desk)
        self.slot = -1
        self.paths = True
        self._track: tuple[Program, int, np.ndarray] | None = None

    def choose(self, slot: int) -> None:
        """Outline a slot and show its path."""
        self.slot = slot
        self.update()

    def paint_over(self, painter: QPainter, rect: QRectF) -> None:
        if self.scene is None or not 0 <= self.slot < len(self.scene.program.parts):
            return
        theme, to = self.desk.theme, self.to_widget()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(rect.adjusted(-1, -1, 1, 1) if self.clip else QRectF(self.rect()))
        row = self.scene.scalars[self.slot]
        world = self.scene.tilts().get(self.slot, self.scene.world()[self.slot])
        painter.setPen(QPen(theme.now, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(box_polygon(world, float(row[COLUMN["w"]]), float(row[COLUMN["h"]]), to))
        if not self.paths:
            return
        track = self._track_of(self.scene.program, self.slot)
        if np.ptp(track, axis=0).max() < 0.5:
            return
        points = [to.map(QPointF(float(x), float(y))) for x, y in track]
        path = QPainterPath(points[0])
        for point in points[1:]:
            path.lineTo(point)
        painter.drawPath(path)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.now)
        for point in points[:: _SMOOTH // _BEATS]:
            painter.drawEllipse(point, 2.6, 2.6)

    def _track_of(self, program: Program, slot: int) -> np.ndarray:
        """Where the slot's middle is at equal times (points, 2), in the frame."""
        if self._track is not None and self._track[0] is program and self._track[1] == slot:
            return self._track[2]
        chain = [slot]
        while program.parent[chain[-1]] >= 0:
            chain.append(int(program.parent[chain[-1]]))
        times = np.linspace(0.0, program.length, _SMOOTH + 1)
        table = program.table(times)[:, : program.dense].reshape(len(times), -1, len(SCALARS))
        own = table[:, slot]
        points = np.stack([own[:, COLUMN["w"]] / 2, own[:, COLUMN["h"]] / 2], -1)
        for s in chain:
            points = affine.apply(affine.compose(table[:, s, :10]), points)
        self._track = (program, slot, points)
        return points
