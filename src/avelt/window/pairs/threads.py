"""Both frames with a thread from layer to layer, from row to row of the trees, and ghosts where layers are absent."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QTransform,
)
from PySide6.QtWidgets import QWidget

from avelt.core.cache import Cache
from avelt.core.geometry.flatten import flatten, layer_at
from avelt.core.model.find import layer_index
from avelt.core.model.values import Away, Frame, Layer
from avelt.core.pairing.engine import Pair
from avelt.core.timing.compile import compile_still
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.common.picking import hit, is_deeper
from avelt.window.common.workspace import Workspace
from avelt.window.controls.drawing import box_polygon, draw_frame
from avelt.window.controls.views import fit
from avelt.window.pairs.context import PairsContext
from avelt.window.pairs.ghosts import Ghost, Grip, dragged
from avelt.window.theme import font

MANY = 36  # pairs; above it only threads of what is chosen, and unsure ones, are drawn
_BETWEEN, _SIDE = 170.0, 46.0  # px between the frames, and between them and the trees
_GRIP = 5.0
_ABOVE = 18.0  # px from a ghost to its turn grip, and to its fade bar
_SEEN_AT_LEAST = 0.32


class Threads(QWidget):
    """Turns presses into choices, drags from side to side into pairs, and drags of a ghost into poses."""

    picked_also = Signal(str, str)
    picked = Signal(str, str)  # side, layer id
    paired = Signal(str, str)  # dragged from one to the other
    cancelled = Signal()  # dragging the ghost was given up
    posed = Signal(object, bool)  # the ghost's new pose, and whether the drag is over

    def __init__(self, workspace: Workspace, context: PairsContext) -> None:
        super().__init__()
        self.workspace, self.context = workspace, context
        self.ghosts: tuple[Ghost, ...] = ()
        self.ghost: Ghost | None = None  # the chosen one
        self.row_y: Callable[[str, str], float | None] = lambda side, layer_id: None
        self.gestures = GestureHost(self)
        self._drag: tuple[str, str, QPointF] | None = None
        self._pull: tuple[Grip, Ghost, tuple[float, float]] | None = None
        self._pose: Away | None = None
        self._at = QPointF()
        self._pictures: Cache[QImage] = Cache(40)
        workspace.pictures.made.connect(self.update)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Both frames"))

    # Where

    def places(self) -> tuple[QRectF, QRectF]:
        """Where the two frames stand."""
        area = QRectF(self.rect()).adjusted(_SIDE, 14, -_SIDE, -14)
        between = min(_BETWEEN, area.width() * 0.3)
        half = (area.width() - between) / 2
        made = []
        for k, frame in enumerate(self.context.frames):
            room = QRectF(area.left() + k * (half + between), area.top(), half, area.height())
            made.append(fit(QRectF(0, 0, frame.w, frame.h).size(), room))
        return made[0], made[1]

    def to_widget(self, side: str) -> QTransform:
        """From a frame's px to the widget's."""
        k = 0 if side == "from" else 1
        rect = self.places()[k]
        scale = rect.width() / self.context.frames[k].w
        return QTransform(scale, 0, 0, scale, rect.left(), rect.top())

    def in_frame(self, side: str, point: QPointF) -> tuple[float, float]:
        """A point of the widget in a frame's px."""
        back, _ = self.to_widget(side).inverted()
        found = back.map(point)
        return found.x(), found.y()

    def spoken(self) -> list[Spoken]:
        """The pairs for assistive technology: what is one thing, and how sure that is."""
        pairing, chosen = self.context.pairing, self.context.chosen
        if pairing is None:
            return []
        left, right = (layer_index(frame) for frame in self.context.frames)
        made = []
        for pair in pairing.pairs:
            one, other = left.get(pair.from_id), right.get(pair.to_id)
            start, end = self._middle(0, pair.from_id), self._middle(1, pair.to_id)
            if one is None or other is None or start is None or end is None:
                continue
            words = tr(
                "{value} is {other}, sure by {confidence:.0%}",
                value=one.name,
                other=other.name,
                confidence=pair.confidence,
            )
            is_chosen = chosen is not None and (chosen.left, chosen.right) == (pair.from_id, pair.to_id)
            made.append(Spoken(words, QRectF(start, end).normalized(), is_chosen))
        return made

    def _middle(self, side: int, layer_id: str) -> QPointF | None:
        frame, rect = self.context.frames[side], self.places()[side]
        flat = flatten(frame)
        if layer_id not in flat.index:
            return None
        x, y, w, h = (float(v) for v in flat.bounds[flat.index[layer_id]])
        scale = rect.width() / frame.w
        return QPointF(
            min(rect.right(), max(rect.left(), rect.left() + (x + w / 2) * scale)),
            min(rect.bottom(), max(rect.top(), rect.top() + (y + h / 2) * scale)),
        )

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        if self.context.pairing is None:
            return
        painter = QPainter(self)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        theme = self.workspace.theme
        for frame, rect, colour in zip(self.context.frames, self.places(), (theme.leaves, theme.arrives), strict=True):
            scale = rect.width() / frame.w
            draw_frame(
                painter, self.workspace.pictures.soon(frame, scale * self.devicePixelRatioF()), rect, colour, 1.8
            )
        for ghost in self.ghosts:
            if self.ghost is None or ghost.layer.id != self.ghost.layer.id:
                self._paint_ghost(painter, ghost, False)
        self._outline_chosen(painter)
        self._paint_threads(painter)
        if self.ghost is not None:
            self._paint_ghost(painter, self.ghost, True)
        if self._drag is not None:
            painter.setPen(QPen(theme.now, 1.8, Qt.PenStyle.DashLine))
            painter.drawLine(self._drag[2], self._at)

    def _outline_chosen(self, painter: QPainter) -> None:
        if self.context.pairing is None:
            return
        for side, (frame, rect) in enumerate(zip(self.context.frames, self.places(), strict=True)):
            flat = flatten(frame)
            scale = rect.width() / frame.w
            to = QTransform(scale, 0, 0, scale, rect.left(), rect.top())
            painter.setClipRect(rect.adjusted(-2, -2, 2, 2))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for entry in self.context.every:
                i = flat.index.get((entry.left, entry.right)[side])
                if i is not None:
                    painter.setPen(QPen(self.workspace.theme.now, 2 if entry == self.context.chosen else 1.2))
                    painter.drawPolygon(box_polygon(flat.to_frame(i), flat.layers[i].w, flat.layers[i].h, to))
            painter.setClipping(False)

    def _paint_threads(self, painter: QPainter) -> None:
        if self.context.pairing is None:
            return
        few = len(self.context.pairing.pairs) <= MANY
        last: list[Pair] = []
        chosen = {entry.left for entry in self.context.every}
        for pair in self.context.pairing.pairs:
            if pair.from_id in chosen:
                last.append(pair)
            elif few or pair.confidence < self.workspace.trust:
                self._thread(painter, pair, False)
        for pair in last:
            self._thread(painter, pair, True)
        couple = self.context.chosen
        if couple.left and couple.right and couple not in self.context.pairs:
            self._candidate(painter)

    def _candidate(self, painter: QPainter) -> None:
        """A couple that is looked at and no pair: a dotted line between its layers."""
        start, end = self._middle(0, self.context.chosen.left), self._middle(1, self.context.chosen.right)
        if start is not None and end is not None:
            painter.setPen(QPen(self.workspace.theme.now, 1.6, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(_bent(start, end))

    def _thread(self, painter: QPainter, pair: Pair, chosen: bool) -> None:
        start, end = self._middle(0, pair.from_id), self._middle(1, pair.to_id)
        if start is None or end is None:
            return
        theme = self.workspace.theme
        unsure = pair.confidence < self.workspace.trust
        colour = QColor(theme.now if chosen else theme.trouble if unsure else theme.quiet)
        colour.setAlphaF(1.0 if chosen or unsure else 0.3)
        path = _bent(start, end)
        style = Qt.PenStyle.DashLine if unsure else Qt.PenStyle.SolidLine
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour, 2.2 if chosen else 1.8 if unsure else 1.1, style))
        painter.drawPath(path)
        self._to_trees(painter, pair, start, end, chosen)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour)
        for point in (start, end):
            painter.drawEllipse(point, 3, 3)
        if unsure or chosen:
            middle = path.pointAtPercent(0.5)
            pill = QRectF(middle.x() - 21, middle.y() - 11, 42, 22)
            painter.setBrush(theme.sheet)
            painter.setPen(QPen(colour, 1.4))
            painter.drawRoundedRect(pill, 11, 11)
            painter.setFont(font(11.5, 600))
            painter.drawText(pill, Qt.AlignmentFlag.AlignCenter, f"{pair.confidence:.2f}")

    def _to_trees(self, painter: QPainter, pair: Pair, start: QPointF, end: QPointF, chosen: bool) -> None:
        """The outer ends of a thread: from the tree's row to the layer, on either side."""
        theme = self.workspace.theme
        for side, point, x, ident in (("from", start, 0.0, pair.from_id), ("to", end, float(self.width()), pair.to_id)):
            y = self.row_y(side, ident)
            if y is None:
                continue
            colour = QColor(theme.now if chosen else theme.leaves if side == "from" else theme.arrives)
            colour.setAlphaF(0.9 if chosen else 0.35)
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(colour, 1.6 if chosen else 1.0))
            painter.drawPath(_bent(QPointF(x, y), point) if side == "from" else _bent(point, QPointF(x, y)))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour)
            painter.drawEllipse(QPointF(x, y), 4, 4)

    # Ghosts

    def _shape(self, ghost: Ghost) -> QPolygonF:
        to = self.to_widget(ghost.side)
        return QPolygonF([to.map(QPointF(float(x), float(y))) for x, y in ghost.corners()])

    def _paint_ghost(self, painter: QPainter, ghost: Ghost, chosen: bool) -> None:
        theme = self.workspace.theme
        shape = self._shape(ghost)
        colour = QColor(theme.leaves if ghost.side == "to" else theme.arrives)
        if chosen:
            self._paint_picture(painter, ghost)
        colour.setAlphaF(1.0 if chosen else 0.4)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour, 1.8 if chosen else 1.0, Qt.PenStyle.DashLine))
        painter.drawPolygon(shape)
        if not chosen:
            return
        grips = self.grips(ghost)
        painter.setPen(QPen(colour, 1.4))
        painter.setBrush(theme.sheet)
        box = shape.boundingRect()
        bar = QRectF(box.left(), box.bottom() + _ABOVE - 2, max(30.0, box.width()), 4)
        painter.drawLine(QPointF(grips["rotation"]), QPointF(box.center().x(), box.top()))
        painter.drawRoundedRect(bar, 2, 2)
        for key, point in grips.items():
            if key == "rotation" or key == "fade":
                painter.drawEllipse(point, _GRIP, _GRIP)
            else:
                painter.drawRect(QRectF(point.x() - 4, point.y() - 4, 8, 8))
        painter.setFont(font(11))
        painter.setPen(theme.quiet)
        painter.drawText(
            QRectF(bar.left(), bar.bottom() + 3, max(bar.width(), 90.0), 16),
            Qt.AlignmentFlag.AlignLeft,
            tr("{opacity:.0f} % opacity", opacity=ghost.pose.opacity * 100),
        )

    def _paint_picture(self, painter: QPainter, ghost: Ghost) -> None:
        """The layer itself, pale, as it is where it is absent."""
        image = self._picture(ghost)
        if image is None or ghost.w <= 0 or ghost.h <= 0:
            return
        a, b, c, d, e, f = (float(v) for v in ghost.matrix)
        painter.save()
        painter.setTransform(QTransform(a, b, c, d, e, f) * self.to_widget(ghost.side), True)
        painter.setOpacity(max(_SEEN_AT_LEAST, ghost.pose.opacity * 0.7))
        painter.drawImage(QRectF(0, 0, ghost.w, ghost.h), image, QRectF(image.rect()))
        painter.restore()

    def _picture(self, ghost: Ghost) -> QImage | None:
        layer = ghost.layer
        if layer.w < 1 or layer.h < 1 or layer.w * layer.h > 4e6:
            return None
        return self._pictures.get((layer,), None, lambda: self._bare(layer))

    def _bare(self, layer: Layer) -> QImage:
        """A layer alone, as it is before it is moved, turned or faded."""
        from msgspec.structs import replace

        bare = replace(layer, x=0.0, y=0.0, rotation=0.0, rotation_x=0.0, rotation_y=0.0, skew=0.0, opacity=1.0)
        bare = replace(bare, scale_x=1.0, scale_y=1.0)
        frame = Frame("ghost", "ghost", layer.w, layer.h, "#ffffff00", layers=(bare,))
        return self.workspace.painter().render(compile_still(frame, self.workspace.project).at(0.0), 1.5)

    def grips(self, ghost: Ghost) -> dict[str, QPointF]:
        """Where the chosen ghost is taken: four corners, above it to turn, below it to fade."""
        shape = self._shape(ghost)
        box = shape.boundingRect()
        found = {f"size {k}": shape.at(k) for k in range(4)}
        found["rotation"] = QPointF(box.center().x(), box.top() - _ABOVE)
        wide = max(30.0, box.width())
        found["fade"] = QPointF(box.left() + wide * min(1.0, max(0.0, ghost.pose.opacity)), box.bottom() + _ABOVE)
        return found

    def _taken(self, point: QPointF) -> Grip | None:
        """What a press takes of the chosen ghost."""
        if self.ghost is None:
            return None
        for key, place in self.grips(self.ghost).items():
            if (place - point).manhattanLength() <= 2 * _GRIP:
                return "size" if key.startswith("size") else "rotation" if key == "rotation" else "fade"
        shape = self._shape(self.ghost)
        return "move" if shape.containsPoint(point, Qt.FillRule.WindingFill) else None

    # The mouse

    def _under(self, point: QPointF, deeper: bool | None = False) -> tuple[str, str] | None:
        """The side and the layer that a click takes at a point; ``None`` for ``deeper``: the innermost."""
        if self.context.pairing is None:
            return None
        for side, (frame, rect) in zip(
            ("from", "to"), zip(self.context.frames, self.places(), strict=True), strict=True
        ):
            if rect.contains(point):
                at = self.in_frame(side, point)
                chosen = [getattr(entry, "left" if side == "from" else "right") for entry in self.context.every]
                layer = layer_at(frame, *at) if deeper is None else hit(frame, *at, chosen, deeper)
                return (side, layer.id) if layer is not None else None
        return None

    def drop_at(self, point: QPointF, side: str, layer_id: str) -> tuple[str, str] | None:
        """What a layer of a side is dropped on: for a group the group there, for any other the innermost layer."""
        flat = flatten(self.context.frames[0 if side == "from" else 1])
        holds = layer_id in flat.index and bool(flat.layers[flat.index[layer_id]].children)
        return self._under(point, False if holds else None)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        grip = self._taken(point)
        if grip is not None and self.ghost is not None:
            self._pull = (grip, self.ghost, self.in_frame(self.ghost.side, point))
            self._pose = None
            self.gestures.begin(Drag(on_cancel=self._give_up))
            return
        for ghost in self.ghosts:
            if self._under(point) is None and self._shape(ghost).containsPoint(point, Qt.FillRule.WindingFill):
                self.picked.emit("from" if ghost.side == "to" else "to", ghost.layer.id)
                return
        found = self._under(point, is_deeper(event))
        if found is not None and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.picked_also.emit(*found)
        elif found is not None:
            self.picked.emit(*found)
            self._drag = (*found, point)
            self._at = point
            self.gestures.begin(Drag(on_cancel=self._give_up))

    def _give_up(self) -> None:
        """As it was before the press."""
        posed = self._pull is not None and self._pose is not None
        self._pull = self._drag = self._pose = None
        if posed:
            self.cancelled.emit()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        found = self._under(event.position(), True)
        if found is not None:
            self.picked.emit(*found)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self._at = event.position()
        if self._pull is not None:
            grip, ghost, start = self._pull
            even = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            self._pose = dragged(ghost, grip, start, self.in_frame(ghost.side, self._at), even)
            self.posed.emit(self._pose, False)
        elif self._drag is not None:
            self.update()
        else:
            grip_here = self._taken(self._at)
            shapes = {"move": Qt.CursorShape.SizeAllCursor, "size": Qt.CursorShape.SizeFDiagCursor}
            self.setCursor(
                shapes.get(grip_here or "", Qt.CursorShape.PointingHandCursor)
                if grip_here
                else Qt.CursorShape.ArrowCursor
            )

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)
        if self._pull is not None:
            pose, self._pull, self._pose = self._pose, None, None
            if pose is not None:
                self.posed.emit(pose, True)
            return
        drag, self._drag = self._drag, None
        found = self.drop_at(event.position(), drag[0], drag[1]) if drag is not None else None
        if drag is not None and found is not None and found[0] != drag[0]:
            left, right = (drag[1], found[1]) if drag[0] == "from" else (found[1], drag[1])
            self.paired.emit(left, right)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        event.ignore()


def _bent(start: QPointF, end: QPointF) -> QPainterPath:
    path = QPainterPath(start)
    bend = max(24.0, (end.x() - start.x()) / 2)
    path.cubicTo(start + QPointF(bend, 0), end - QPointF(bend, 0), end)
    return path


class Bars(QWidget):
    """The evidence as bars with a sentence each."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.entries: list[tuple[str, float, str]] = []
        self.setAccessibleName(tr("Evidence"))

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.workspace.theme
        step = min(19.5, self.height() / max(1, len(self.entries)))
        for k, (what, score, says) in enumerate(self.entries):
            y = k * step
            painter.setFont(font(12))
            painter.setPen(theme.quiet)
            painter.drawText(QRectF(0, y, 116, 18), Qt.AlignmentFlag.AlignVCenter, what)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(theme.faint)
            painter.drawRoundedRect(QRectF(120, y + 6, 110, 7), 3.5, 3.5)
            painter.setBrush(theme.quiet)
            painter.drawRoundedRect(QRectF(120, y + 6, max(0.0, 110 * score), 7), 3.5, 3.5)
            painter.setPen(theme.ink)
            painter.drawText(QRectF(240, y, 34, 18), Qt.AlignmentFlag.AlignVCenter, f"{score:.2f}")
            room = self.width() - 282
            words = painter.fontMetrics().elidedText(says, Qt.TextElideMode.ElideRight, int(room))
            painter.drawText(QRectF(282, y, room, 18), Qt.AlignmentFlag.AlignVCenter, words)
