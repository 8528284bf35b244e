"""Scenes into pixels with QPainter."""

from __future__ import annotations

from collections import OrderedDict
from dataclasses import dataclass

import numpy as np
from PySide6.QtCore import QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPainterPath, QPainterPathStroker, QTransform

from avelt.core.model.values import Asset, Project
from avelt.core.timing.items import Item, items
from avelt.core.timing.program import Program, Scene
from avelt.paint.brushes import as_brush, colour, qbrush, qpen
from avelt.paint.fonts import ensure_gui, set_text

_FORMAT = QImage.Format.Format_ARGB32_Premultiplied
_HINTS = QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform
_KEPT_RUNS = 64
_FINE = 0.05  # px of the device that a stroke's outline may be off


@dataclass
class _Run:
    """Neighbours in paint order that stand still together, painted once."""

    image: QImage
    left: int
    top: int


class ScenePainter:
    """Paints scenes. What stands still in a program is painted once and kept."""

    def __init__(self, assets: tuple[Asset, ...] = ()) -> None:
        ensure_gui()
        self._assets = {asset.id: asset for asset in assets}
        self._pictures: dict[str, QImage] = {}
        self._runs: OrderedDict[tuple[object, ...], _Run] = OrderedDict()
        self._program: Program | None = None

    def use(self, project: Project) -> None:
        """Paint with this project's pictures."""
        if len(project.assets) != len(self._assets):
            self._assets = {asset.id: asset for asset in project.assets}

    def render(self, scene: Scene, scale: float = 1.0, background: bool = True) -> QImage:
        """The scene as a picture, ``scale`` pixels to a px."""
        w, h = max(1, round(scene.size[0] * scale)), max(1, round(scene.size[1] * scale))
        image = QImage(w, h, _FORMAT)
        image.fill(colour(scene.background) if background else Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.setRenderHints(_HINTS)
        self.paint(painter, scene, QTransform.fromScale(scale, scale), QRect(0, 0, w, h))
        painter.end()
        return image

    def paint(self, painter: QPainter, scene: Scene, base: QTransform, area: QRect) -> None:
        """The scene's layers onto a painter; ``base`` takes the frame to the device, ``area`` bounds it."""
        if scene.program is not self._program:
            self._program = scene.program
            self._runs.clear()
        # At the ends, and where all stands, nothing is kept: a kept run is blended once more, which rounds, and the
        # ends shall paint to the bit as the frames themselves do.
        if not scene.looping and not 0.0 < scene.at < scene.program.length:
            for item in items(scene):
                self._draw(painter, item, _own(item) * base, area)
            return
        flat: list[tuple[Item, QTransform, bool]] = []
        _flatten(items(scene), base, scene.program, flat)
        key = (base.m11(), base.m12(), base.m21(), base.m22(), base.dx(), base.dy(), area.getRect())
        still: list[tuple[Item, QTransform]] = []
        for item, matrix, is_still in flat:
            if is_still:
                still.append((item, matrix))
                continue
            self._paint_still(painter, still, key, area)
            still = []
            self._draw(painter, item, matrix, area)
        self._paint_still(painter, still, key, area)

    def _paint_still(
        self, painter: QPainter, still: list[tuple[Item, QTransform]], key: tuple[object, ...], area: QRect
    ) -> None:
        if not still:
            return
        own = (*key, tuple((item.slot, id(item.layer), item.opacity) for item, _ in still))
        run = self._runs.get(own)
        if run is None:
            run = self._make_run(still, area)
            self._runs[own] = run
            if len(self._runs) > _KEPT_RUNS:
                self._runs.popitem(last=False)
        if not run.image.isNull():
            painter.setTransform(QTransform())
            painter.setOpacity(1.0)
            painter.drawImage(run.left, run.top, run.image)

    def _make_run(self, still: list[tuple[Item, QTransform]], area: QRect) -> _Run:
        image, inner = self._sheet(area)
        for item, matrix in still:
            self._draw(inner, item, matrix, area)
        inner.end()
        alpha = _alpha(image)
        rows, columns = np.flatnonzero(alpha.any(1)), np.flatnonzero(alpha.any(0))
        if not len(rows):
            return _Run(QImage(), 0, 0)
        top, bottom, left, right = int(rows[0]), int(rows[-1]), int(columns[0]), int(columns[-1])
        cut = image.copy(left, top, right - left + 1, bottom - top + 1)
        return _Run(cut, area.x() + left, area.y() + top)

    # One item

    def _sheet(self, area: QRect) -> tuple[QImage, QPainter]:
        """An empty picture over the area, and a painter that paints it in the device's coordinates."""
        image = QImage(area.size(), _FORMAT)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        painter.setRenderHints(_HINTS)
        painter.setViewTransformEnabled(True)
        painter.setWindow(area)
        painter.setViewport(QRect(0, 0, area.width(), area.height()))
        return image, painter

    def _draw(self, painter: QPainter, item: Item, matrix: QTransform, area: QRect) -> None:
        layered = item.mask is not None or (
            item.opacity < 1.0 and (bool(item.children) or (bool(item.fills) and item.pen is not None))
        )
        upright = abs(matrix.m12()) < 1e-9 and abs(matrix.m21()) < 1e-9
        clip = item.clips and bool(item.children)
        if not layered and (not clip or upright):
            painter.setOpacity(item.opacity)
            if clip:
                painter.save()
                painter.setTransform(matrix)
                painter.setClipRect(QRectF(0, 0, item.w, item.h), Qt.ClipOperation.IntersectClip)
            self._content(painter, item, matrix, area)
            if clip:
                painter.restore()
            return
        area = _reach(item, matrix).toAlignedRect().adjusted(-2, -2, 2, 2).intersected(area)
        if area.isEmpty():
            return
        image, inner = self._sheet(area)
        self._content(inner, item, matrix, area)
        if clip:
            shape = QPainterPath()
            shape.addRect(QRectF(0, 0, item.w, item.h))
            self._keep_inside(inner, matrix.map(shape), area)
        if item.mask is not None:
            mask = self._mask(item.mask, _own(item.mask) * matrix, item.mask_by, area)
            inner.setTransform(QTransform())
            inner.setOpacity(1.0)
            inner.setCompositionMode(QPainter.CompositionMode.CompositionMode_DestinationIn)
            inner.drawImage(area.topLeft(), mask)
        inner.end()
        painter.setTransform(QTransform())
        painter.setOpacity(item.opacity)
        painter.drawImage(area.topLeft(), image)
        painter.setOpacity(1.0)

    def _keep_inside(self, painter: QPainter, shape: QPainterPath, area: QRect) -> None:
        mask, inner = self._sheet(area)
        inner.fillPath(shape, Qt.GlobalColor.black)
        inner.end()
        painter.setTransform(QTransform())
        painter.setOpacity(1.0)
        painter.setCompositionMode(QPainter.CompositionMode.CompositionMode_DestinationIn)
        painter.drawImage(area.topLeft(), mask)

    def _mask(self, item: Item, matrix: QTransform, by: str, area: QRect) -> QImage:
        image, inner = self._sheet(area)
        self._draw(inner, item, matrix, area)
        inner.end()
        if by == "luminance":
            pixels = np.asarray(image.bits()).reshape(image.height(), image.bytesPerLine() // 4, 4)
            # Premultiplied BGRA: the weighted sum is luminance times alpha already (SVG 1.1, masking).
            light = pixels[..., 2] * 0.2125 + pixels[..., 1] * 0.7154 + pixels[..., 0] * 0.0721
            pixels[...] = np.round(light)[..., None].astype(np.uint8)
        return image

    def _content(self, painter: QPainter, item: Item, matrix: QTransform, area: QRect) -> None:
        opacity = painter.opacity() if item.mask is None and not item.children else 1.0
        if item.children:
            for child in item.children:
                self._draw(painter, child, _own(child) * matrix, area)
            return
        painter.setTransform(matrix)
        painter.setOpacity(opacity)
        if item.outline is not None:
            self._outline(painter, item)
        elif item.text is not None:
            self._text(painter, item)
        elif item.picture is not None:
            self._picture(painter, item)

    def _outline(self, painter: QPainter, item: Item) -> None:
        assert item.outline is not None
        kind = item.layer.kind
        if kind in ("box", "oval") and (item.w <= 0.0 or item.h <= 0.0):
            return
        if kind == "box" and max(item.radii) <= 0.0 and item.pen is None:
            for brush in item.fills:
                painter.fillRect(QRectF(0, 0, item.w, item.h), qbrush(brush, item.w, item.h))
            return
        path = outline_path(item)
        for brush in item.fills:
            painter.fillPath(path, qbrush(brush, item.w, item.h))
        if item.pen is not None:
            _stroke(painter, path, item)

    def _text(self, painter: QPainter, item: Item) -> None:
        assert item.text is not None
        for run in set_text(item.text, item.type_size, item.tracking, item.line_height, item.w):
            brushes = item.fills if run.fill is None else [as_brush(run.fill)]
            for brush in brushes:
                painter.fillPath(run.path, qbrush(brush, item.w, item.h))
            if item.pen is not None:
                _stroke(painter, run.path, item)

    def _picture(self, painter: QPainter, item: Item) -> None:
        assert item.picture is not None
        image = self._loaded(item.picture.asset)
        if image.isNull() or item.w <= 0 or item.h <= 0:
            return
        target, source = fit_rects(image.width(), image.height(), item.w, item.h, item.picture.fit)
        shown = painter.transform().mapRect(target)
        if shown.width() < source.width() / 2 and source.width() >= 2:
            # Bilinear sampling skips pixels below half size: shrink by area first.
            factor = max(shown.width() / source.width(), 1.0 / source.width())
            small = image.copy(source.toAlignedRect()).scaled(
                max(1, round(source.width() * factor)),
                max(1, round(source.height() * factor)),
                Qt.AspectRatioMode.IgnoreAspectRatio,
                Qt.TransformationMode.SmoothTransformation,
            )
            painter.drawImage(target, small)
            return
        painter.drawImage(target, image, source)

    def _loaded(self, ident: str) -> QImage:
        if ident not in self._pictures:
            asset = self._assets.get(ident)
            image = QImage.fromData(asset.data) if asset is not None else QImage()
            self._pictures[ident] = image.convertToFormat(_FORMAT) if not image.isNull() else image
        return self._pictures[ident]


def _reach(item: Item, matrix: QTransform) -> QRectF:
    """Where an item can leave ink, in the device; a little too large rather than too small."""
    if item.children:
        reach = QRectF()
        for child in item.children:
            reach = reach.united(_reach(child, _own(child) * matrix))
        return reach
    box = QRectF(0, 0, item.w, item.h)
    if item.text is not None:
        # Fonts differ: words may be wider than the box that was measured for them.
        slack = item.w * 0.3 + item.type_size * 1.5
        box.adjust(-slack, -slack, slack, slack)
    elif item.outline is not None and item.layer.kind == "path":
        for points, _ in item.outline:
            (x0, y0), (x1, y1) = points.min(0).tolist(), points.max(0).tolist()
            box = box.united(QRectF(x0, y0, x1 - x0, y1 - y0))
    if item.pen is not None:
        edge = item.pen.width * (item.pen.miter if item.pen.join == "miter" else 1.5)
        box.adjust(-edge, -edge, edge, edge)
    return matrix.mapRect(box)


def _stroke(painter: QPainter, path: QPainterPath, item: Item) -> None:
    """A stroke as the outline of what it covers. Qt's own stroking flattens curves to polygons that show in
    small drawings painted large; the outline is made as fine as the device needs."""
    assert item.pen is not None
    transform = painter.transform()
    size = max(abs(transform.determinant()) ** 0.5, 1e-6)
    pen = qpen(item.pen, item.w, item.h)
    stroker = QPainterPathStroker(pen)
    stroker.setCurveThreshold(_FINE / size)
    outline = stroker.createStroke(path)
    outline.setFillRule(Qt.FillRule.WindingFill)
    painter.fillPath(outline, pen.brush())


def _alpha(image: QImage) -> np.ndarray:
    bits = np.asarray(image.constBits()).reshape(image.height(), image.bytesPerLine() // 4, 4)
    return bits[:, : image.width(), 3]


def _own(item: Item) -> QTransform:
    return QTransform(*item.matrix)


def _flatten(
    level: list[Item], base: QTransform, program: Program, out: list[tuple[Item, QTransform, bool]], fixed: bool = True
) -> None:
    """Items with their transform; plain groups that hold something moving are opened."""
    for item in level:
        matrix = _own(item) * base
        if item.children and not item.still and item.opacity >= 1.0 and item.mask is None and not item.clips:
            _flatten(item.children, matrix, program, out, fixed and bool(program.still[item.slot]))
        else:
            out.append((item, matrix, fixed and item.still))


def fit_rects(pw: int, ph: int, w: float, h: float, fit: str) -> tuple[QRectF, QRectF]:
    """Where in a box a picture goes, and which part of it, by how it fits."""
    whole = QRectF(0, 0, pw, ph)
    if fit == "inside":
        factor = min(w / pw, h / ph)
        return QRectF((w - pw * factor) / 2, (h - ph * factor) / 2, pw * factor, ph * factor), whole
    if fit == "cover":
        factor = max(w / pw, h / ph)
        sw, sh = w / factor, h / factor
        return QRectF(0, 0, w, h), QRectF((pw - sw) / 2, (ph - sh) / 2, sw, sh)
    return QRectF(0, 0, w, h), whole


def outline_path(item: Item) -> QPainterPath:
    """An item's outline as a QPainterPath in its own px."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill if item.rule == "evenodd" else Qt.FillRule.WindingFill)
    for points, closed in item.outline or []:
        corners = points.tolist()
        path.moveTo(QPointF(*corners[0]))
        for k in range(1, len(corners) - 2, 3):
            (ax, ay), (bx, by), (x, y) = corners[k : k + 3]
            path.cubicTo(ax, ay, bx, by, x, y)
        if closed:
            path.closeSubpath()
    return path
