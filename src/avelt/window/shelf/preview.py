"""A preset on the very layers that it would be put on, before it is: small, moving, changing nothing."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from avelt.core.errors import AveltError
from avelt.core.model.find import frame_by_id, route_by_id
from avelt.core.presets.adjusted import How
from avelt.core.presets.put_on import put_preset
from avelt.core.presets.values import Preset
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import end_of
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.shelf.target import Target
from avelt.window.theme import font

_WIDE = 132
_REST_MS = 500.0
_LOOPS_MS = 4000.0  # of a frame whose loops go on and on


class Preview(QWidget):
    """The screens of the chosen route or frame with the preset on them. What does not fit is said in ``says``."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.says = ""
        self.program: Program | None = None
        self._painter, self._assets = workspace.painter(), workspace.project.assets
        self._duration = 0.0
        self._ms = 0.0
        self.setFixedWidth(_WIDE)
        self.setAccessibleName(tr("The preset on your layers"))

    def show_preset(self, preset: Preset | None, target: Target, how: How) -> None:
        """Show a preset on something else; nothing where it cannot be put."""
        self.program, self.says = None, ""
        if preset is not None and target.any:
            try:
                self._make(preset, target, how)
            except AveltError as error:
                self.says = error.sentence
        self.update()

    def _make(self, preset: Preset, target: Target, how: How) -> None:
        if self._assets is not self.workspace.project.assets:
            self._painter, self._assets = self.workspace.painter(), self.workspace.project.assets
        done = put_preset(self.workspace.project, preset, target.where, how)
        self.says, project = done.says, done.project
        if preset.kind in ("loop", "part"):
            self.program = compile_still(frame_by_id(project, target.where.frame), project)
            self._duration = max(preset.duration, _LOOPS_MS)
            return
        route = route_by_id(project, target.where.routes[0])
        self.program, self._duration = compile_route(project, route), end_of(route.transition, project)

    def go_on(self, ms: float) -> None:
        """Another moment."""
        self._ms = ms
        if self.program is not None:
            self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        theme, room = self.workspace.theme, QRectF(self.rect())
        if self.program is None:
            painter.setPen(theme.quiet)
            painter.setFont(font(11.5))
            words = self.says or tr("Here it moves on your own layers before you put it on.")
            painter.drawText(room, Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap, words)
            return
        ms = min(self._duration, self._ms % (self._duration + _REST_MS))
        scene = self.program.from_start(ms)
        w, h = scene.size
        fit = min(room.width() / w, room.height() / h)
        place = QRectF(0, 0, w * fit, h * fit)
        place.moveCenter(room.center())
        image = self._painter.render(scene, fit * self.devicePixelRatioF())
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.drawImage(place, image, QRectF(image.rect()))
        painter.setPen(theme.line)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(place)
