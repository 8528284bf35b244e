"""The Now view as it is seen: the moment, with paths and beats, skins of other moments, ghosts, handles."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSizeF, Qt
from PySide6.QtGui import QImage, QPainter, QPainterPath, QPaintEvent, QPen, QTransform

from avelt.core.arrays import Floats, np
from avelt.core.cache import Cache
from avelt.core.geometry import affine
from avelt.core.model.properties import COLUMN
from avelt.core.timing.alone import alone
from avelt.core.timing.program import Program, Scene
from avelt.core.words import tr
from avelt.window.controls.drawing import box_polygon
from avelt.window.controls.views import SceneView
from avelt.window.timing.context import TimingContext

_BEATS = 12
_SMOOTH = 48
_SKINS = 60  # pictures kept


class NowPicture(SceneView):
    """A scene view that knows which slot is chosen: its path, its keys, other moments of it."""

    def __init__(self, context: TimingContext) -> None:
        super().__init__(context.workspace)
        self.context = context
        self.slot = -1
        self.paths = True
        self.watched = False  # the chosen slot alone
        self.skins = 0  # how many moments before and after are shown
        self.skins_every = 60.0  # ms
        self.ghosts = False
        self.grips = False  # the chosen layer can be turned and sized by its corners
        self.lit = ""  # a word over the picture: what a drag does now
        self.way: Floats | None = None  # the way's points in the parent's space, when it has one
        self.keyframes: tuple[
            tuple[float, float], ...
        ] = ()  # keys of the place: the layer's middle there, in the frame
        self.zoom = 1.0
        self.shift = QPointF()
        self._track: tuple[Program, int, np.ndarray] | None = None
        self._skins: Cache[QImage] = Cache(_SKINS)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Now view"))
        # Its own ground, so that nothing beneath is painted for every picture of playing.
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    def choose(self, slot: int) -> None:
        """Outline a slot and show its path."""
        self.slot = slot
        self.update()

    @property
    def keyframes_chosen(self) -> tuple[int, ...]:
        """The chosen keyframes on the path."""
        chosen = self.context.selection.keyframes_at(self.context.position_cue)
        return tuple(k for k in chosen if k < len(self.keyframes))

    @property
    def point(self) -> int:
        """The chosen point of the motion path; -1 for none."""
        point = self.context.selection.point
        return point if self.way is not None and point < len(self.way) else -1

    def show_way(self, way: Floats | None, keyframes: tuple[tuple[float, float], ...]) -> None:
        """The way of the chosen slot and where its keys are."""
        self.way, self.keyframes = way, keyframes
        self.update()

    def show_scene(self, scene: Scene | None) -> None:
        if scene is not None and self.watched and self.slot >= 0:
            scene = alone(scene, self.slot)
        super().show_scene(scene)

    # Where things stand

    def place(self) -> QRectF:
        rect = super().place()
        if self.zoom == 1.0:
            return rect
        size = QSizeF(rect.width() * self.zoom, rect.height() * self.zoom)
        middle = rect.center() + self.shift
        return QRectF(QPointF(middle.x() - size.width() / 2, middle.y() - size.height() / 2), size)

    def set_zoom(self, zoom: float, about: QPointF | None = None) -> None:
        """Larger or smaller about a point of the widget; 1 is fitted."""
        before = self.place()
        point = about if about is not None else QPointF(self.rect().center())
        zoom = min(8.0, max(1.0, zoom))
        if zoom == 1.0:
            self.zoom, self.shift = 1.0, QPointF()
        elif before.width() > 0:
            share = QPointF((point.x() - before.left()) / before.width(), (point.y() - before.top()) / before.height())
            self.zoom = zoom
            after = self.place()
            at = QPointF(after.left() + share.x() * after.width(), after.top() + share.y() * after.height())
            self.shift += point - at
        self.update()

    def parent_world(self) -> Floats:
        """The transform (6,) from the space that the chosen slot lies in to the frame."""
        if self.scene is None or self.slot < 0:
            return np.array([1.0, 0, 0, 1.0, 0, 0])
        up = int(self.scene.program.parent[self.slot])
        return self.scene.world()[up] if up >= 0 else np.array([1.0, 0, 0, 1.0, 0, 0])

    def spots(self) -> list[QPointF]:
        """The way's points in the widget."""
        if self.way is None:
            return []
        to, world = self.to_widget(), self.parent_world()
        return [to.map(QPointF(float(x), float(y))) for x, y in affine.apply(world, self.way)]

    def keyframe_spots(self) -> list[QPointF]:
        """The keys on the path in the widget."""
        to = self.to_widget()
        return [to.map(QPointF(x, y)) for x, y in self.keyframes]

    def layer_grips(self) -> tuple[QPointF, QPointF] | None:
        """The knob that turns the chosen layer, and the one at its far corner that sizes it."""
        if not self.grips or self.scene is None or self.slot < 0:
            return None
        row, to = self.scene.scalars[self.slot], self.to_widget()
        w, h = float(row[COLUMN["w"]]), float(row[COLUMN["h"]])
        corners = affine.apply(self.scene.world()[self.slot], np.array([[w, 0.0], [w, h], [w / 2, h / 2]]))
        right, far, middle = (to.map(QPointF(float(x), float(y))) for x, y in corners)
        out = right - middle
        size = max(1.0, float(np.hypot(out.x(), out.y())))
        return right + out * (18.0 / size), far

    def turner(self) -> QPointF | None:
        """The knob that turns and spreads the chosen keys, when there are several."""
        if len(self.keyframes_chosen) < 2:
            return None
        spots = [self.keyframe_spots()[k] for k in self.keyframes_chosen]
        return QPointF(max(p.x() for p in spots) + 18, min(p.y() for p in spots) - 18)

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(event.rect(), self.workspace.theme.sheet)
        painter.end()
        super().paintEvent(event)

    def paint_over(self, painter: QPainter, rect: QRectF) -> None:
        if self.scene is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.ghosts:
            self._paint_ghosts(painter)
        if 0 <= self.slot < len(self.scene.program.contents):
            self._paint_chosen(painter, rect)
        if self.lit:
            self._paint_lit(painter)

    def _paint_chosen(self, painter: QPainter, rect: QRectF) -> None:
        if self.scene is None:
            return
        theme, to = self.workspace.theme, self.to_widget()
        painter.setClipRect(rect.adjusted(-1, -1, 1, 1) if self.clip else QRectF(self.rect()))
        if self.skins:
            self._paint_skins(painter, rect)
        row = self.scene.scalars[self.slot]
        world = self.scene.tilts().get(self.slot, self.scene.world()[self.slot])
        painter.setPen(QPen(theme.now, 1.4))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPolygon(box_polygon(world, float(row[COLUMN["w"]]), float(row[COLUMN["h"]]), to))
        if not self.paths:
            return
        track = self.track()
        if self._goes():
            points = [to.map(QPointF(float(x), float(y))) for x, y in track]
            path = QPainterPath(points[0])
            for point in points[1:]:
                path.lineTo(point)
            painter.drawPath(path)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.now)
            for point in points[:: _SMOOTH // _BEATS]:
                painter.drawEllipse(point, 2.6, 2.6)
        self._paint_handles(painter)

    def _paint_handles(self, painter: QPainter) -> None:
        theme, spots = self.workspace.theme, self.spots()
        painter.setPen(QPen(theme.ink, 1))
        for k in range(1, len(spots)):
            if k % 3 != 2:  # each handle is tied to its node
                painter.drawLine(spots[k - 1], spots[k])
        for k, spot in enumerate(spots):
            if k in (0, len(spots) - 1):
                continue
            painter.setPen(QPen(theme.now if k == self.point else theme.ink, 1.6))
            painter.setBrush(theme.sheet)
            if k % 3 == 0:
                painter.drawRect(QRectF(spot.x() - 4, spot.y() - 4, 8, 8))
            else:
                painter.drawEllipse(spot, 3.6, 3.6)
        for k, spot in enumerate(self.keyframe_spots()):
            painter.setPen(QPen(theme.now, 1.8))
            painter.setBrush(theme.now if k in self.keyframes_chosen else theme.sheet)
            painter.drawEllipse(spot, 5, 5)
        grips = self.layer_grips()
        if grips is not None:
            painter.setPen(QPen(theme.now, 1.8))
            painter.setBrush(theme.sheet)
            painter.drawEllipse(grips[0], 5, 5)
            painter.drawRect(QRectF(grips[1].x() - 4.5, grips[1].y() - 4.5, 9, 9))
        knob = self.turner()
        if knob is not None:
            chosen = [self.keyframe_spots()[k] for k in self.keyframes_chosen]
            middle = QPointF(sum(p.x() for p in chosen) / len(chosen), sum(p.y() for p in chosen) / len(chosen))
            painter.setPen(QPen(theme.now, 1, Qt.PenStyle.DotLine))
            painter.drawLine(middle, knob)
            painter.setPen(QPen(theme.now, 1.8))
            painter.setBrush(theme.sheet)
            painter.drawEllipse(knob, 5, 5)

    def _paint_skins(self, painter: QPainter, rect: QRectF) -> None:
        """The chosen layer at moments before and after, at whole multiples of the spacing."""
        if self.scene is None:
            return
        program, scale = self.scene.program, rect.width() / self.scene.size[0] * self.devicePixelRatioF()
        middle = self.scene.at / self.skins_every
        low, high = int(np.ceil(middle - self.skins)), int(np.floor(middle + self.skins))
        for k in range(low, high + 1):
            ms = k * self.skins_every
            if 0.0 <= ms <= program.last and abs(ms - self.scene.at) > 1.0:
                painter.setOpacity(0.42 * (1.0 - abs(k - middle) / (self.skins + 1)))
                painter.drawImage(rect, self._skin(program, ms, scale))
        painter.setOpacity(1.0)

    def _skin(self, program: Program, ms: float, scale: float) -> QImage:
        return self._skins.get(
            (program,), (self.slot, ms, round(scale, 3)), lambda: self._painted_skin(program, ms, scale)
        )

    def _painted_skin(self, program: Program, ms: float, scale: float) -> QImage:
        scene = alone(program.at(ms), self.slot, 0.0)
        width, height = (max(1, round(v * scale)) for v in scene.size)
        image = QImage(width, height, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        inner = QPainter(image)
        self.painter.paint(inner, scene, QTransform.fromScale(scale, scale), image.rect())
        inner.end()
        return image

    def _paint_ghosts(self, painter: QPainter) -> None:
        """Where layers come from and go to, dashed, in the colour of the side that does not have them.

        Those that only fade where they stand have none.
        """
        if self.scene is None:
            return
        program, theme, to = self.scene.program, self.workspace.theme, self.to_widget()
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for role, vector in (("enters", program.start), ("leaves", program.end)):
            scene = program.scene_of(vector.copy(), self.scene.at)
            worlds, there = scene.world(), (program.end if role == "enters" else program.start)
            placed = program.scene_of(there.copy(), self.scene.at).world()
            painter.setPen(QPen(theme.leaves if role == "enters" else theme.arrives, 1.2, Qt.PenStyle.DashLine))
            for s, part in enumerate(program.contents):
                up = int(program.parent[s])
                alone_here = part.left is None if role == "enters" else part.right is None
                inside = up >= 0 and (program.contents[up].left is None or program.contents[up].right is None)
                if alone_here and not inside and np.abs(worlds[s] - placed[s]).max() > 0.5:
                    row = scene.scalars[s]
                    painter.drawPolygon(box_polygon(worlds[s], float(row[COLUMN["w"]]), float(row[COLUMN["h"]]), to))

    def _paint_lit(self, painter: QPainter) -> None:
        theme = self.workspace.theme
        painter.setClipping(False)
        width = painter.fontMetrics().horizontalAdvance(self.lit) + 18
        rect = QRectF(self.width() / 2 - width / 2, 6, width, 22)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(theme.now)
        painter.drawRoundedRect(rect, 11, 11)
        painter.setPen(theme.sheet)
        painter.drawText(rect, Qt.AlignmentFlag.AlignCenter, self.lit)

    def _goes(self) -> bool:
        """Whether the chosen slot's middle moves at all."""
        return float(np.ptp(self.track(), axis=0).max()) >= 0.5

    def track(self) -> np.ndarray:
        """Where the chosen slot's middle (on a way: its pivot) is at equal times (points, 2), in the frame."""
        if self.scene is None:
            return np.zeros((1, 2))
        program, slot = self.scene.program, self.slot
        if self._track is not None and self._track[0] is program and self._track[1] == slot:
            return self._track[2]
        chain = [slot]
        while program.parent[chain[-1]] >= 0:
            chain.append(int(program.parent[chain[-1]]))
        times = np.linspace(0.0, program.last, _SMOOTH + 1)
        table = program.rows_of(chain, times)
        own = table[:, 0]
        share = (own[:, 4], own[:, 5]) if self.way is not None else (0.5, 0.5)
        points = np.stack([own[:, COLUMN["w"]] * share[0], own[:, COLUMN["h"]] * share[1]], -1)
        for k in range(len(chain)):
            points = affine.apply(affine.compose(table[:, k, :10]), points)
        self._track = (program, slot, points)
        return points
