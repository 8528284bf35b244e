"""Items' outlines, strokes and reach as Qt's."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QPainter, QPainterPath, QPainterPathStroker, QTransform

from avelt.core.arrays import Floats, np
from avelt.core.cache import Cache
from avelt.core.geometry.arc import trimmed
from avelt.core.timing.items import Matrix
from avelt.core.timing.painted import Item
from avelt.paint.brushes import qpen
from avelt.paint.by_thread import kept_by_thread

_FINE = 0.05  # px of the device that a stroke's outline may be off
_DASH_SCALE = 12.0
_WIDE = 3.0  # standard deviations of a blur that still leave ink
_MOST_BLUR = 200.0  # px of the device: a wider blur looks the same on any screen, and would take all memory


def own_transform(item: Item) -> QTransform:
    """From the item's px to its parent's."""
    return as_transform(item.matrix)


def as_transform(m: tuple[float, ...]) -> QTransform:
    """Six numbers, or the nine of a 3x3 matrix by rows, as Qt's."""
    if len(m) == 6:
        return QTransform(*m)
    return QTransform(m[0], m[3], m[6], m[1], m[4], m[7], m[2], m[5], m[8])


def as_path(outline: list[tuple[Floats, bool]], rule: str = "nonzero") -> QPainterPath:
    """Subpaths (points, closed) as a QPainterPath."""
    path = QPainterPath()
    path.setFillRule(Qt.FillRule.OddEvenFill if rule == "evenodd" else Qt.FillRule.WindingFill)
    for points, closed in outline:
        corners = points.tolist()
        path.moveTo(QPointF(*corners[0]))
        for k in range(1, len(corners) - 2, 3):
            (ax, ay), (bx, by), (x, y) = corners[k : k + 3]
            path.cubicTo(ax, ay, bx, by, x, y)
        if closed:
            path.closeSubpath()
    return path


def from_path(path: QPainterPath) -> list[tuple[Floats, bool]]:
    """A QPainterPath as subpaths of cubics (points, closed)."""
    made: list[tuple[Floats, bool]] = []
    points: list[tuple[float, float]] = []

    def finish() -> None:
        if len(points) > 1:
            array = np.array(points)
            made.append((array, bool(np.allclose(array[0], array[-1], atol=1e-6))))

    k = 0
    while k < path.elementCount():
        element = path.elementAt(k)
        kind = element.type
        at = (element.x, element.y)
        if kind == QPainterPath.ElementType.MoveToElement:
            finish()
            points = [at]
            k += 1
        elif kind == QPainterPath.ElementType.LineToElement:
            (x0, y0), (x1, y1) = points[-1], at
            points += [(x0 + (x1 - x0) / 3, y0 + (y1 - y0) / 3), (x0 + (x1 - x0) * 2 / 3, y0 + (y1 - y0) * 2 / 3), at]
            k += 1
        else:
            two = [path.elementAt(k + 1), path.elementAt(k + 2)]
            points += [at, *((e.x, e.y) for e in two)]
            k += 3
    finish()
    return made


def outline_path(item: Item) -> QPainterPath:
    """An item's outline as a QPainterPath in its own px; those that cannot change are made once."""
    outline = item.outline or []
    if len(outline) == 1 and not outline[0][0].flags.writeable:
        points, closed = outline[0]
        if closed:
            return kept_path(points, item.rule)
    return as_path(outline, item.rule)


def kept_path(points: Floats, rule: str = "nonzero") -> QPainterPath:
    """One closed subpath that never changes, made once."""
    return _paths().get((points,), rule, lambda: as_path([(points, True)], rule))


@kept_by_thread(1)
def _paths() -> Cache[QPainterPath]:
    return Cache(4096)


def draw_stroke(painter: QPainter, path: QPainterPath, item: Item, brush: QBrush) -> None:
    """A stroke as the outline of what it covers. Qt's own stroking flattens curves to polygons that show in
    small drawings painted large; the outline is made as fine as the device needs."""
    if item.pen is None:
        return
    start, end, offset = item.pen.trim
    if abs(end - start) < 1.0:
        path = as_path(trimmed(item.outline or from_path(path), start, end, offset))
    transform = painter.transform()
    size = max(abs(transform.determinant()) ** 0.5, 1e-6)
    pen = qpen(item.pen)
    stroker = QPainterPathStroker(pen)
    if item.pen.dashes:
        # Dashes are measured on polygons of half a px: on a larger copy they fall where they should.
        more = _DASH_SCALE * size
        stroker.setWidth(pen.widthF() * more)
        larger = stroker.createStroke(QTransform.fromScale(more, more).map(path))
        outline = QTransform.fromScale(1 / more, 1 / more).map(larger)
    else:
        stroker.setCurveThreshold(_FINE / size)
        outline = stroker.createStroke(path)
    outline.setFillRule(Qt.FillRule.WindingFill)
    painter.fillPath(outline, brush)


def beneath(above: tuple[Matrix, ...], base: QTransform) -> QTransform:
    """From the space of the innermost of some groups to the device."""
    for matrix in above:
        base = as_transform(matrix) * base
    return base


def reach(item: Item, matrix: QTransform) -> QRectF:
    """Where an item can leave ink, in the device; a little too large rather than too small."""
    if item.children:
        whole = QRectF()
        for child in item.children:
            whole = whole.united(reach(child, own_transform(child) * matrix))
        return _spread(whole, item, matrix)
    box = QRectF(0, 0, item.w, item.h)
    for _, m, w, h, _, _ in item.leaves:
        box = box.united(QTransform(*m).mapRect(QRectF(0, 0, w, h)))
    if item.text is not None:
        box = about(item)
    elif item.outline is not None and item.form == "path":
        for points, _ in item.outline:
            (x0, y0), (x1, y1) = points.min(0).tolist(), points.max(0).tolist()
            box = box.united(QRectF(x0, y0, x1 - x0, y1 - y0))
    if item.pen is not None:
        edge = item.pen.width * (item.pen.miter if item.pen.join == "miter" else 1.5)
        box.adjust(-edge, -edge, edge, edge)
    return _spread(matrix.mapRect(box), item, matrix)


def about(item: Item) -> QRectF:
    """Where the words of a text are, in its own px. Fonts differ: words may be wider than the box that was measured
    for them."""
    slack = item.w * 0.3 + item.type_size * 1.5
    return QRectF(-slack, -slack, item.w + 2 * slack, item.h + 2 * slack)


def left_over(item: Item, size: float) -> QPainterPath:
    """What is left of an item that is cut off from its sides, in its own px. Sides that are not cut have no edge."""
    top, right, bottom, left = item.cut
    away = (max(item.w, item.h) + 100.0) * 4.0 + 100.0 / size
    x0, x1 = (left * item.w if left else -away), (item.w * (1.0 - right) if right else item.w + away)
    y0, y1 = (top * item.h if top else -away), (item.h * (1.0 - bottom) if bottom else item.h + away)
    path = QPainterPath()
    if x1 > x0 and y1 > y0:
        path.addRect(QRectF(x0, y0, x1 - x0, y1 - y0))
    return path


def _spread(box: QRectF, item: Item, matrix: QTransform) -> QRectF:
    """The box with what blur and shadows add around it."""
    if item.blur <= 0.0 and not item.shades:
        return box
    size = scale_of(matrix)
    grown = QRectF(box)
    for shade in item.shades:
        if not shade.inner:
            away = soft(shade.blur, size) * _WIDE
            dx, dy = shift_of(matrix, shade.x, shade.y)
            grown = grown.united(box.translated(dx, dy).adjusted(-away, -away, away, away))
    away = soft(item.blur, size) * _WIDE
    return grown.adjusted(-away, -away, away, away)


def scale_of(matrix: QTransform) -> float:
    """How much larger a length becomes under a transform, on the whole."""
    return float(max(abs(matrix.m11() * matrix.m22() - matrix.m12() * matrix.m21()) ** 0.5, 1e-6))


def soft(blur: float, size: float) -> float:
    """A blur's standard deviation in px of the device."""
    return min(_MOST_BLUR, blur * size)


def shift_of(matrix: QTransform, x: float, y: float) -> tuple[float, float]:
    """A shift in the item's px as one in the device's."""
    return matrix.m11() * x + matrix.m21() * y, matrix.m12() * x + matrix.m22() * y
