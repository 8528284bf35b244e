"""Drawing the frames on the board: their pictures, what lies outside of them, names and marks."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QTransform

from avelt.core.blending import colour
from avelt.core.cache import Cache
from avelt.core.model.values import Frame, Layer
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import draw_frame, shortened
from avelt.window.frames import overlay
from avelt.window.frames.handles import Handle
from avelt.window.frames.snapping import Snapped
from avelt.window.frames.tools import Pen
from avelt.window.frames.viewport import GAP, HEAD
from avelt.window.theme import font

_FORMAT = QImage.Format.Format_ARGB32_Premultiplied
_KEPT = 12
_MOST_PIXELS = 6e6  # that a frame is painted whole with; larger ones are painted as far as they are seen
_PALE = 0.32  # how strongly what lies outside of a frame shows


class FramePainter:
    """Draws pages. What lies outside of frames is shown when ``outside`` is on, or where a frame does not clip."""

    def __init__(self, workspace: Workspace) -> None:
        self.workspace = workspace
        self.outside = False
        self._seen: Cache[QImage] = Cache(1)
        self._open: Cache[QImage] = Cache(_KEPT)

    def draw_page(self, painter: QPainter, frame: Frame, rect: QRectF, chosen: bool, ratio: float) -> None:
        """A frame with its name."""
        theme = self.workspace.theme
        self._head(painter, frame, rect, chosen, frame.id == self.workspace.project.first)
        scale = rect.width() / frame.w
        edge = theme.ink if chosen else theme.line
        if frame.w * frame.h * (scale * ratio) ** 2 > _MOST_PIXELS:
            self._near(painter, frame, rect, ratio, edge)
            return
        draw_frame(painter, self._picture(frame, scale * ratio, chosen), rect, edge, 1.6)
        painter.setClipping(False)

    def _picture(self, frame: Frame, scale: float, chosen: bool) -> QImage:
        """The frame that is worked on at once; the others may fill in."""
        pictures = self.workspace.pictures
        at_once = chosen and not pictures.was_taken(frame)
        return pictures.picture(frame, scale) if at_once else pictures.soon(frame, scale)

    def _near(self, painter: QPainter, frame: Frame, rect: QRectF, ratio: float, edge: QColor) -> None:
        """Only what is seen of a frame that is shown very large."""
        seen = rect.intersected(QRectF(painter.viewport())).toAlignedRect()
        if seen.isEmpty():
            return
        key = (rect.getRect(), seen.getRect(), ratio)
        made_from = self.workspace.pictures.made_from(frame)
        image = self._seen.get(made_from, key, lambda: self._painted_near(frame, rect, seen, ratio))
        if image.hasAlphaChannel():
            painter.fillRect(rect, Qt.GlobalColor.white)  # a clear background shows paper
        painter.drawImage(seen.topLeft(), image)
        painter.setPen(QPen(edge, 1.6))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(rect)

    def _painted_near(self, frame: Frame, rect: QRectF, seen: QRect, ratio: float) -> QImage:
        from avelt.core.timing.compile import compile_still

        image = QImage(round(seen.width() * ratio), round(seen.height() * ratio), _FORMAT)
        image.setDevicePixelRatio(ratio)
        image.fill(QColor.fromRgbF(*colour.parse(frame.background)))
        inner = QPainter(image)
        inner.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        scale = rect.width() / frame.w * ratio
        left, top = (rect.left() - seen.left()) * ratio, (rect.top() - seen.top()) * ratio
        area = QRect(0, 0, image.width(), image.height())
        base = QTransform(scale, 0, 0, scale, left, top)
        inner.setViewTransformEnabled(True)
        inner.setWindow(area)
        inner.setViewport(area)
        self.workspace.painter().paint(inner, compile_still(frame, self.workspace.project).at(0.0), base, area)
        inner.end()
        return image

    def draw_outside(self, painter: QPainter, frame: Frame, rect: QRectF, ratio: float) -> None:
        """What lies outside of a frame, when it is wanted; drawn before all frames, so that it covers none."""
        if not (self.outside or not frame.clips):
            return
        scale = rect.width() / frame.w
        image = self._with_outside(frame, scale * ratio)
        margin = self._margin(frame) * scale
        painter.setOpacity(1.0 if not frame.clips else _PALE)
        painter.drawImage(rect.adjusted(-margin, -margin, margin, margin), image, QRectF(image.rect()))
        painter.setOpacity(1.0)

    def _margin(self, frame: Frame) -> float:
        """How far around a frame is shown, px: as far as its neighbours leave room, or a quarter."""
        return max(GAP * 3, min(frame.w, frame.h) * 0.25)

    def _with_outside(self, frame: Frame, scale: float) -> QImage:
        margin = self._margin(frame)
        area_px = (frame.w + 2 * margin) * (frame.h + 2 * margin)
        scale = min(scale, (_MOST_PIXELS / area_px) ** 0.5)
        made_from = self.workspace.pictures.made_from(frame)
        return self._open.get(made_from, round(scale, 4), lambda: self._painted_outside(frame, scale, margin))

    def _painted_outside(self, frame: Frame, scale: float, margin: float) -> QImage:
        from avelt.core.timing.compile import compile_still

        w, h = round((frame.w + 2 * margin) * scale), round((frame.h + 2 * margin) * scale)
        image = QImage(max(1, w), max(1, h), _FORMAT)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        base = QTransform(scale, 0, 0, scale, margin * scale, margin * scale)
        area = QRect(0, 0, image.width(), image.height())
        self.workspace.painter().paint(painter, compile_still(frame, self.workspace.project).at(0.0), base, area)
        painter.end()
        return image

    def _head(self, painter: QPainter, frame: Frame, rect: QRectF, chosen: bool, first: bool) -> None:
        theme = self.workspace.theme
        painter.setFont(font(12.5, 600 if chosen else 500))
        painter.setPen(theme.ink)
        room = rect.width() - (44 if first else 0)
        words = shortened(painter, frame.name, room)
        top = rect.top() - HEAD
        painter.drawText(QRectF(rect.left(), top, rect.width(), HEAD - 4), Qt.AlignmentFlag.AlignVCenter, words)
        if first:
            used = painter.fontMetrics().horizontalAdvance(words)
            painter.setFont(font(11))
            painter.setPen(theme.quiet)
            place = QRectF(rect.left() + used + 7, top, 60, HEAD - 4)
            painter.drawText(place, Qt.AlignmentFlag.AlignVCenter, tr("starts"))

    def draw_marks(self, painter: QPainter, frame: Frame, rect: QRectF, grid: bool) -> None:
        """The grid and the guides."""
        if grid:
            overlay.draw_grid(painter, self.workspace.theme, frame, rect, self.workspace.project.grid)
        overlay.draw_guides(painter, self.workspace.theme, frame, rect)

    def draw_screen(self, painter: QPainter, frame: Frame, to: QTransform) -> None:
        """What is seen of a frame that scrolls, before it is scrolled; and which of its layers stay put."""
        theme = self.workspace.theme
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(theme.arrives, 1.4, Qt.PenStyle.DashLine))
        painter.drawRect(to.mapRect(QRectF(0.0, 0.0, frame.w, frame.h)))
        painter.setFont(font(10.5))
        painter.setPen(theme.arrives_text)
        corner = to.map(QPointF(frame.w, frame.h))
        words = tr("scrolls") if frame.scroll == "both" else tr("scrolls {scroll}", scroll=tr(frame.scroll))
        place = QRectF(corner.x() - 124, corner.y() + 2, 120, 15)
        painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words)
        for layer in frame.layers:
            if layer.stays_put:
                pin = to.map(QPointF(layer.x + layer.w, layer.y)) + QPointF(-7, 7)
                painter.setPen(QPen(theme.arrives, 1.4))
                painter.setBrush(theme.sheet)
                painter.drawEllipse(pin, 4, 4)
                painter.drawLine(pin, pin + QPointF(0, 8))

    def draw_more(self, painter: QPainter, places: list[QRectF]) -> None:
        """The handles at the edges of the chosen frame that make it longer or wider than what is seen of it."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.workspace.theme.quiet)
        for place in places:
            painter.drawRoundedRect(
                place.adjusted(0, 1, 0, -1) if place.width() > place.height() else place.adjusted(1, 0, -1, 0), 2, 2
            )

    def draw_foot(self, painter: QPainter, rect: QRectF, words: str) -> None:
        """What the frame has of the chosen layer."""
        painter.setFont(font(11))
        painter.setPen(self.workspace.theme.quiet)
        place = QRectF(rect.left(), rect.bottom() + 3, rect.width(), 18)
        painter.drawText(place, Qt.AlignmentFlag.AlignLeft, words)

    def draw_box(
        self, painter: QPainter, frame: Frame, layer: Layer, to: QTransform, rect: QRectF, chosen: bool
    ) -> None:
        """A layer's outline, kept near its frame."""
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not (chosen or self.outside):
            painter.setClipRect(rect.adjusted(-4, -4, 4, 4))
        overlay.draw_outline(painter, self.workspace.theme, frame, layer, to, chosen)
        painter.restore()

    def draw_line(self, painter: QPainter, frame: Frame, layer: Layer, to: QTransform) -> None:
        """A path's own line, while its nodes are edited."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        overlay.draw_path_line(painter, self.workspace.theme, frame, layer.id, to)

    def draw_handles(
        self, painter: QPainter, found: list[Handle], to: QTransform, tones: list[QColor], node: object
    ) -> None:
        """What can be grabbed."""
        overlay.draw_handles(painter, self.workspace.theme, found, to, tones, node)

    def draw_caught(self, painter: QPainter, frame: Frame, rect: QRectF, caught: Snapped) -> None:
        """What holds the gesture at work."""
        overlay.draw_caught(painter, self.workspace.theme, frame, rect, caught.lines_x, caught.lines_y)

    def draw_marquee(self, painter: QPainter, area: QRectF) -> None:
        """The rectangle that chooses what lies in it."""
        tone = QColor(self.workspace.theme.now)
        painter.setPen(QPen(tone, 1, Qt.PenStyle.DashLine))
        tone.setAlphaF(0.08)
        painter.setBrush(tone)
        painter.drawRect(area)
        painter.setBrush(Qt.BrushStyle.NoBrush)

    def draw_pen(self, painter: QPainter, pen: Pen, pointer: tuple[float, float], to: QTransform) -> None:
        """The pen's path so far, on to the pointer."""
        import numpy as np

        from avelt.paint.outlines import as_path

        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self.workspace.theme.now, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(to.map(as_path([(np.array(pen.points(False, pointer)), False)])))
        corners = [Handle("node", corner, (0, k)) for k, corner in enumerate(pen.corners)]
        overlay.draw_handles(painter, self.workspace.theme, corners, to, [], (0, len(pen.corners) - 1))

    def draw_rulers(self, painter: QPainter, size: QRectF, frame: Frame | None, rect: QRectF, pointer: QPointF) -> None:
        """Rulers along two sides of the board."""
        overlay.draw_rulers(painter, self.workspace.theme, size, frame, rect, pointer)
