"""As designed, as delivered and the difference, beside each other at one moment."""

from __future__ import annotations

from PySide6.QtCore import QRectF, QSizeF, Qt
from PySide6.QtGui import QFont, QImage, QPainter, QPaintEvent
from PySide6.QtWidgets import QWidget

from avelt.core.arrays import np
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import RADIUS, draw_frame
from avelt.window.controls.views import fit
from avelt.window.theme import font

TITLES = (tr("As designed"), tr("As delivered"), tr("Difference"))
_HEAD = 26.0
_GAP = 20.0


class PicturesView(QWidget):
    """Three pictures; where one is not there yet, why."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.images: list[QImage | None] = [None, None, None]
        self.whys = ["", "", ""]
        self.shape = QSizeF(360, 640)
        self.setMinimumSize(300, 160)
        self.setAccessibleName(tr("Designed, delivered and difference"))

    def show_picture(self, place: int, picture: np.ndarray | None, why: str = "") -> None:
        """One of the three (h, w, 3), or why it is not there."""
        self.whys[place] = why
        self.images[place] = None
        if picture is not None:
            rows = np.ascontiguousarray(picture)
            h, w = rows.shape[:2]
            self.images[place] = QImage(rows.data, w, h, 3 * w, QImage.Format.Format_RGB888).copy()
            self.shape = QSizeF(w, h)
        self.update()

    def place(self, k: int) -> QRectF:
        """Where a picture stands."""
        w = (self.width() - 2 * _GAP) / 3
        area = QRectF(k * (w + _GAP) + 1, _HEAD, w - 2, self.height() - _HEAD - 2)
        made = fit(self.shape, area, top=True)
        made.moveLeft(area.left())
        return made

    def _step(self) -> float:
        return self.place(0).width() + _GAP

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        theme = self.workspace.theme
        for k, title in enumerate(TITLES):
            rect = self.place(0).translated(k * self._step(), 0)
            painter.setFont(font(12, QFont.Weight.DemiBold))
            painter.setPen(theme.ink)
            painter.drawText(
                QRectF(rect.left(), 0, rect.width() + _GAP, _HEAD - 4), int(Qt.AlignmentFlag.AlignTop), title
            )
            image = self.images[k]
            if image is not None:
                ratio = self.devicePixelRatioF()
                small = image.scaled(
                    max(1, round(rect.width() * ratio)),
                    max(1, round(rect.height() * ratio)),
                    Qt.AspectRatioMode.IgnoreAspectRatio,
                    Qt.TransformationMode.SmoothTransformation,
                )
                draw_frame(painter, small, rect, theme.ink, 1.4, RADIUS)
                continue
            painter.setPen(theme.line)
            painter.setBrush(theme.faint)
            painter.drawRoundedRect(rect, RADIUS, RADIUS)
            painter.setPen(theme.quiet)
            painter.setFont(font(12))
            inner = rect.adjusted(12, 12, -12, -12)
            painter.drawText(inner, int(Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap), self.whys[k])
