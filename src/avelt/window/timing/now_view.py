"""The Now view under the hand: layers, ways and keys are dragged, clicked and moved by keys."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent

from avelt.core.arrays import np
from avelt.core.geometry import affine, tilt
from avelt.core.model.properties import COLUMN
from avelt.core.record import Mutable
from avelt.core.running.hits import paint_order
from avelt.window.common.gestures import GestureHost
from avelt.window.common.picking import is_deeper
from avelt.window.common.pinch import Pinch
from avelt.window.timing.context import TimingContext
from avelt.window.timing.now_picture import NowPicture
from avelt.window.timing.rows import lineage

_NEAR = 8.0  # px


class _Held(Mutable):
    """What is being dragged: "layer", "point", "keyframe", "keyframes", "rotation" or "size"; which; and where it was
    pressed (frame px)."""

    view: NowView

    what: str
    which: int
    press: tuple[float, float]
    pivot: np.ndarray  # of the chosen layer then, in the frame
    world: np.ndarray  # from its own space to the frame then
    up: np.ndarray  # from the space that it lies in to the frame then
    clicked: bool  # whether the press was a click already
    moved: bool = False

    def move(self, event: QMouseEvent) -> None:
        """Nothing before two px: a hand is never quite still."""
        here = self.view.in_frame(event)
        if self.moved or abs(here[0] - self.press[0]) + abs(here[1] - self.press[1]) >= 2.0:
            self.moved = True
            self.view.dragged(self, here)

    def end(self, event: QMouseEvent) -> None:
        """One entry of undo; without travel a click on what lies there."""
        if self.moved:
            self.view.dropped.emit()
        elif self.what == "layer" and not self.clicked and self.view.scene is not None:
            self.view.click(event, self.press, is_deeper(event))

    def cancel(self) -> None:
        """As it was before the press."""
        if self.moved:
            self.view.cancelled.emit()


class NowView(NowPicture):
    """Emits what is dragged; changes nothing itself."""

    clicked = Signal(float, float, bool, bool)  # where in the frame, whether one deeper, whether beside what is chosen
    layer_dragged = Signal(float, float)  # px of the frame, since the press
    point_dragged = Signal(int, float, float)  # which point of the way, and where to, in the parent's space
    layer_rotated = Signal(float)  # degrees since the press
    layer_sized = Signal(float, float)  # px of the layer's own space since the press
    keyframe_dragged = Signal(int, float, float)  # which key, and by how much since the press
    keyframes_rotated = Signal(float, float)  # degrees and factor since the press
    track_dragged = Signal(float, float, float, float)  # the path pulled from one point to another, parent's space
    node_wanted = Signal(float, float)  # one point more on the way, near there
    node_removed = Signal(int)
    node_smoothed = Signal(int)
    dropped = Signal()
    cancelled = Signal()  # a drag was given up

    def __init__(self, context: TimingContext) -> None:
        super().__init__(context)
        self.gestures = GestureHost(self)
        self._pan: QPointF | None = None
        Pinch(self, lambda by, at: self.set_zoom(self.zoom * by, at))

    # The mouse and the keyboard

    def _at(self, point: QPointF) -> tuple[str, int]:
        """What is at a point of the widget."""
        knob = self.turner()
        if knob is not None and (knob - point).manhattanLength() <= _NEAR:
            return "keyframes", 0
        for what, grip in zip(("rotation", "size"), self.layer_grips() or (), strict=False):
            if (grip - point).manhattanLength() <= _NEAR:
                return what, 0
        if self.paths:
            for what, first, spots in (("keyframe", 0, self.keyframe_spots()), ("point", 1, self.spots()[1:-1])):
                near = [((spot - point).manhattanLength(), k) for k, spot in enumerate(spots, first)]
                if near and min(near)[0] <= _NEAR:
                    return what, min(near)[1]
            if self._on_track(point) and not self._on_chosen(*self.spot(point)):
                return "track", -1
        return "layer", -1

    def _on_track(self, point: QPointF) -> bool:
        """Whether a point of the widget is on the path that the chosen layer takes."""
        if self.scene is None or self.slot < 0 or not self._goes():
            return False
        to, track = self.to_widget(), self.track()
        spots = np.array([to.map(QPointF(float(x), float(y))).toTuple() for x, y in track])
        here = np.array([point.x(), point.y()])
        along = np.diff(spots, axis=0)
        lengths = np.maximum((along**2).sum(1), 1e-12)
        share = np.clip(((here - spots[:-1]) * along).sum(1) / lengths, 0.0, 1.0)
        nearest = spots[:-1] + share[:, None] * along
        return bool(np.hypot(*(nearest - here).T).min() <= _NEAR)

    def chain_at(self, x: float, y: float) -> tuple[int, ...]:
        """The slots that lie in each other at a point of the frame, the outermost first, as the frames have them: what
        moves by itself for a while is still in its group."""
        found = self.slots_under(x, y)
        return lineage(self.scene.program, found[-1]) if found and self.scene is not None else ()

    def _on_chosen(self, x: float, y: float) -> bool:
        """Whether a press at a point of the frame is on one of the chosen layers, and nothing lies above it there."""
        if self.scene is None or self.slot < 0:
            return False
        chain = self.chain_at(x, y)
        program = self.scene.program
        found = (program.slot_of(*key.pair) for key in self.context.keys)
        slots = dict.fromkeys((self.slot, *(slot for slot in found if slot >= 0)))
        return any(slot in chain or self._above(slot, chain, x, y) for slot in slots)

    def _above(self, slot: int, chain: tuple[int, ...], x: float, y: float) -> bool:
        """Whether a point is in a slot's box, and what lies there is painted before it."""
        if self.scene is None:
            return False
        world = self.scene.tilts().get(slot, self.scene.world()[slot])
        there, row = tilt.back_to(world, x, y), self.scene.scalars[slot]
        inside = there is not None and 0 <= there[0] <= row[COLUMN["w"]] and 0 <= there[1] <= row[COLUMN["h"]]
        if not inside or not chain:
            return inside
        order = paint_order(self.scene)
        return slot in order and order.index(chain[-1]) < order.index(slot)

    def click(self, event: QMouseEvent, at: tuple[float, float], deeper: bool) -> None:
        """Say what a click wants."""
        self.clicked.emit(*at, deeper, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        if self.scene is None:
            return
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pan = event.position()
            return
        if event.button() != Qt.MouseButton.LeftButton:
            return
        what, which = self._at(event.position())
        here = self.in_frame(event)
        selection, cue, clicked = self.context.selection, self.context.position_cue, False
        if what == "keyframe":
            more = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            if more:
                chosen = tuple(sorted(set(self.keyframes_chosen) ^ {which}))
                self.context.select(selection.with_keyframes(cue, chosen))
            elif which not in self.keyframes_chosen:
                self.context.select(selection.with_keyframes(cue, (which,)))
        elif what == "point":
            self.context.select(selection.with_point(which))
        elif what == "layer":
            self.context.select(selection.with_keyframes(None, ()))
            # Where the chosen layer is on top a press may begin a drag of it: only a click chooses what lies there.
            if not self._on_chosen(*here):
                clicked = True
                self.click(event, here, is_deeper(event))
                if self.slot < 0 or not self._on_chosen(*here):
                    return
        self.gestures.begin(_Held(self, what, which, here, *self._stand(), self.parent_world(), clicked))
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._pan is not None:
            self.shift += event.position() - self._pan
            self._pan = event.position()
            self.update()
        elif not self.gestures.move(event) or self.scene is None:
            shape = Qt.CursorShape.ArrowCursor if self._at(event.position())[0] == "layer" else None
            self.setCursor(shape if shape is not None else Qt.CursorShape.PointingHandCursor)

    def dragged(self, held: _Held, here: tuple[float, float]) -> None:
        """Say what a drag that has come to a point of the frame wants."""
        back = affine.invert(held.up)
        if back is None:
            return
        there, first = affine.apply(back, np.array(here)), affine.apply(back, np.array(held.press))
        by = there - first
        if held.what == "point":
            self.point_dragged.emit(held.which, float(there[0]), float(there[1]))
        elif held.what == "keyframe":
            self.keyframe_dragged.emit(held.which, float(by[0]), float(by[1]))
        elif held.what == "keyframes":
            middle = np.mean([self.keyframes[k] for k in self.keyframes_chosen], axis=0)
            degrees, factor = _swung(middle, held.press, here)
            self.keyframes_rotated.emit(degrees, factor)
        elif held.what == "rotation":
            self.layer_rotated.emit(_swung(held.pivot, held.press, here)[0])
        elif held.what == "size":
            self._size(held, here)
        elif held.what == "track":
            self.track_dragged.emit(*first.tolist(), *there.tolist())
        elif self.slot >= 0:
            self.layer_dragged.emit(here[0] - held.press[0], here[1] - held.press[1])

    def _stand(self) -> tuple[np.ndarray, np.ndarray]:
        """The chosen layer's pivot in the frame, and its transform."""
        if self.scene is None or self.slot < 0:
            return np.zeros(2), np.array([1.0, 0, 0, 1.0, 0, 0])
        row, world = self.scene.scalars[self.slot], self.scene.world()[self.slot]
        return np.asarray(affine.apply(world, row[2:4] * row[4:6])), world.copy()

    def _size(self, held: _Held, here: tuple[float, float]) -> None:
        back = affine.invert(held.world)
        if back is not None:
            by = affine.apply(back, np.array(here)) - affine.apply(back, np.array(held.press))
            self.layer_sized.emit(float(by[0]), float(by[1]))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self._pan = None
        self.gestures.end(event)
        super().mouseReleaseEvent(event)

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        what, which = self._at(event.position())
        if what == "point" and which % 3 == 0:
            self.node_smoothed.emit(which)
        elif what in ("layer", "track") and self.scene is not None and event.button() == Qt.MouseButton.LeftButton:
            x, y = self.in_frame(event)
            if self.paths and self._on_track(event.position()):
                self.node_wanted.emit(x, y)
            else:
                self.click(event, (x, y), True)

    def wheelEvent(self, event: QWheelEvent) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.set_zoom(self.zoom * (1.25 if event.angleDelta().y() > 0 else 0.8), event.position())
            event.accept()
        elif self.zoom > 1.0:
            self.shift += QPointF(event.angleDelta()) / 2.0
            self.update()
            event.accept()
        else:
            super().wheelEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        steps = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, -1), Qt.Key.Key_Down: (0, 1)}
        by = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.point > 0:
            self.node_removed.emit(self.point)
        elif event.key() in steps and self.slot >= 0:
            dx, dy = (float(v) * by for v in steps[Qt.Key(event.key())])
            if self.point > 0 and self.way is not None:
                x, y = self.way[self.point]
                self.point_dragged.emit(self.point, float(x) + dx, float(y) + dy)
            elif self.keyframes_chosen:
                self.keyframe_dragged.emit(self.keyframes_chosen[-1], dx, dy)
            else:
                self.layer_dragged.emit(dx, dy)
            self.dropped.emit()
        else:
            super().keyPressEvent(event)


def _swung(about: np.ndarray, press: tuple[float, float], here: tuple[float, float]) -> tuple[float, float]:
    """By how many degrees, and how many times as far, a point went round another."""
    one, two = np.array(press) - about, np.array(here) - about
    sizes = float(np.hypot(*one)), float(np.hypot(*two))
    if min(sizes) < 1e-6:
        return 0.0, 1.0
    degrees = np.degrees(np.arctan2(two[1], two[0]) - np.arctan2(one[1], one[0]))
    return float((degrees + 180.0) % 360.0 - 180.0), sizes[1] / sizes[0]
