"""The rows of the cue sheet under the mouse and the keyboard. It emits what is wanted and changes nothing itself."""

from __future__ import annotations

from dataclasses import dataclass
from enum import Enum

from PySide6.QtCore import QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QWidget

from avelt.core.model.motion import CueKey, Moment, Stagger, Tie
from avelt.window.theme import Theme
from avelt.window.timing import threads
from avelt.window.timing.row_paint import PEG, ROW, keyframes, paint_row, ribbon_rect, value_rect
from avelt.window.timing.rows import Row
from avelt.window.timing.scale import LEFT, RIGHT, Scale

_EDGE = 6  # px near a ribbon's end that stretch it
_SNAP = 6  # px within which an end snaps
_KEPT = 150  # pictures of rows
_START = 3  # px of travel before a press on a name moves its row


class Grip(Enum):
    """What part of a ribbon is held."""

    ALL = 0
    START = 1
    END = 2


@dataclass
class _Drag:
    """A ribbon being dragged: where it was and what is held."""

    row: Row
    grip: Grip
    x: float
    start: float
    end: float
    rate: float  # ms a px when it was pressed
    moved: bool = False


@dataclass
class _Rope:
    """A tie being drawn from an end of a ribbon."""

    key: CueKey
    moment: Moment
    first: QPointF
    now: QPointF


_Look = tuple[Row, bool, int]  # a row, whether it is chosen, and its chosen key or -1


class SheetBody(QWidget):
    """The rows. Emits what the person does; changes nothing itself."""

    picked = Signal(object)  # row key
    picked_also = Signal(object)  # row key, put to the chosen ones or taken out
    toggled = Signal(object)  # ends
    dragged = Signal(object, object, object)  # row key, start or None, end or None
    dropped = Signal()
    reset = Signal(object)
    nudged = Signal(object, float)
    tied = Signal(object, object, str, str)  # cue, the cue it hangs on, its end, that one's end
    tie_opened = Signal(object, QRect)
    stagger_opened = Signal(object, QRect)
    peg_picked = Signal(object, int)
    peg_dragged = Signal(object, int, float)  # row key, which, ms
    peg_opened = Signal(object, int, QRect)
    value_wanted = Signal(object, int, QRect)  # row key, side
    menu_wanted = Signal(object, object)  # row key, global point
    row_moved = Signal(object, object)  # ends, the ends it is put before (or None)

    def __init__(self, theme: Theme, scale: Scale) -> None:
        super().__init__()
        self.theme, self.scale = theme, scale
        self.rows: tuple[Row, ...] = ()
        self.ties: tuple[Tie, ...] = ()
        self.staggers: tuple[Stagger, ...] = ()
        self.chosen: CueKey | None = None
        self.also: frozenset[CueKey] = frozenset()
        self.keyframe: int = -1  # the chosen key of the chosen row
        self.grid = 10.0  # ms; 0 is none
        self.now = 0.0
        self._places: dict[CueKey, int] = {}
        self._drag: _Drag | None = None
        self._rope: _Rope | None = None
        self._held_peg: tuple[CueKey, int, bool] | None = None
        self._carried: tuple[Row, float, int] | None = None  # a row being moved: from which y, and where it would go
        self._hover = -1
        self._alone: CueKey | None = None
        self._kept_for: object = None  # the scale, size and theme that the kept rows are painted for
        self._kept: dict[int, tuple[_Look, QPixmap]] = {}
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Cue sheet")

    def show_rows(self, rows: tuple[Row, ...], ties: tuple[Tie, ...] = (), staggers: tuple[Stagger, ...] = ()) -> None:
        """Show other rows, and what hangs on what among them."""
        self.rows, self.ties, self.staggers = rows, ties, staggers
        self._places = {row.key: k for k, row in enumerate(rows)}
        self.setMinimumHeight(len(rows) * ROW + 4)
        self.update()

    def row_at(self, y: float) -> Row | None:
        """The row at a height."""
        place = int(y // ROW)
        return self.rows[place] if 0 <= place < len(self.rows) else None

    def ribbon_rect(self, place: int) -> QRectF:
        """Where a row's ribbon stands."""
        return ribbon_rect(self.scale, self.rows[place], place, self.width())

    def rect_of(self, key: CueKey) -> QRectF | None:
        """Where a cue's ribbon stands; ``None`` when its row is not shown."""
        place = self._places.get(key)
        return self.ribbon_rect(place) if place is not None else None

    @property
    def held(self) -> bool:
        """Whether a ribbon is being dragged."""
        return self._drag is not None

    def seen_ties(self) -> list[threads.Thread]:
        """The ties that are seen."""
        return threads.threads(self.ties, self.rect_of)

    def seen_staggers(self) -> list[threads.Marks]:
        """The staggers that are seen."""
        return threads.marks(self.staggers, self.rect_of)

    # Painting

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        area = event.rect()
        last = min(len(self.rows) - 1, area.bottom() // ROW)
        for place in range(max(0, area.top() // ROW), last + 1):
            painter.drawPixmap(0, place * ROW, self._row_picture(place))
        below = QRect(0, len(self.rows) * ROW, self.width(), self.height() - len(self.rows) * ROW)
        if below.intersects(area):
            self._paint_ground(painter, below)
        painter.save()
        painter.setClipRect(QRectF(LEFT - 8, 0, self.width() - LEFT - RIGHT + 16, self.height()))
        threads.paint_marks(painter, self.theme, self.seen_staggers())
        threads.paint_threads(painter, self.theme, self.seen_ties())
        painter.restore()
        self._paint_hand(painter)
        now = self.scale.x(self.now, self.width())
        if LEFT - 1 <= now <= self.width() - RIGHT + 1:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(self.theme.now, 1.6))
            painter.drawLine(QPointF(now, area.top()), QPointF(now, area.bottom()))

    def _paint_hand(self, painter: QPainter) -> None:
        """What the hand is at: knobs of the row under it, a tie being drawn, a row being moved."""
        if self._rope is not None:
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(self.theme.now, 1.6))
            painter.drawPath(threads.path_between(self._rope.first, self._rope.now))
            target = self._end_near(self._rope.now)
            if target is not None:
                rect = self.rect_of(target[0])
                if rect is not None:
                    painter.drawEllipse(threads.end_point(rect, target[1]), 6, 6)
        elif self._drag is None and 0 <= self._hover < len(self.rows) and self.rows[self._hover].changes:
            threads.paint_knobs(painter, self.theme, self.ribbon_rect(self._hover))
        if self._carried is not None and self._carried[2] >= 0:
            painter.setPen(QPen(self.theme.now, 2))
            y = self._carried[2] * ROW
            painter.drawLine(QPointF(12, y), QPointF(LEFT - 8, y))

    def _row_picture(self, place: int) -> QPixmap:
        """A row as a picture, kept: playing changes none, and an edit only some."""
        row = self.rows[place]
        chosen = row.key == self.chosen
        look = (row, chosen or row.key in self.also, self.keyframe if chosen else -1)
        frame = (self.scale.state, self.width(), self.devicePixelRatioF(), self.theme.dark)
        if frame != self._kept_for or len(self._kept) > _KEPT:
            self._kept_for, self._kept = frame, {}
        kept = self._kept.get(place)
        if kept is None or kept[0] != look:
            ratio = self.devicePixelRatioF()
            picture = QPixmap(round(self.width() * ratio), round(ROW * ratio))
            picture.setDevicePixelRatio(ratio)
            painter = QPainter(picture)
            painter.translate(0, -place * ROW)
            self._paint_ground(painter, QRect(0, place * ROW, self.width(), ROW))
            paint_row(painter, self.theme, self.scale, row, place, self.width(), look[1], look[2])
            painter.end()
            kept = self._kept[place] = (look, picture)
        return kept[1]

    def _paint_ground(self, painter: QPainter, area: QRect) -> None:
        """Paper with the lines of the ruler."""
        painter.fillRect(area, self.theme.sheet)
        painter.setPen(QPen(self.theme.faint, 1))
        for ms in self.scale.ticks(self.width()):
            x = self.scale.x(ms, self.width())
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom() + 1))

    # The mouse

    def _grip_at(self, place: int, x: float) -> Grip | None:
        if not self.rows[place].changes or not LEFT - _EDGE <= x <= self.width() - RIGHT + _EDGE:
            return None
        rect = self.ribbon_rect(place)
        if not rect.left() - _EDGE <= x <= rect.right() + _EDGE:
            return None
        edge = min(_EDGE, rect.width() / 4)
        if x <= rect.left() + edge:
            return Grip.START
        return Grip.END if x >= rect.right() - edge else Grip.ALL

    def _keyframe_at(self, place: int, point: QPointF) -> int:
        found = keyframes(self.scale, self.rows[place], place, self.width())
        return next((k for k, keyframe in enumerate(found) if (keyframe - point).manhattanLength() <= PEG + 4), -1)

    def _end_near(self, point: QPointF) -> tuple[CueKey, Moment] | None:
        """The end of another ribbon that a tie would take hold of."""
        row = self.row_at(point.y())
        if row is None or not row.changes or self._rope is None or row.key == self._rope.key:
            return None
        rect = self.ribbon_rect(int(point.y() // ROW))
        return row.key, "start" if point.x() < rect.center().x() else "end"

    def mousePressEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        row = self.row_at(point.y())
        if row is None or event.button() != Qt.MouseButton.LeftButton:
            return
        place = int(point.y() // ROW)
        if row.opens and point.x() < 44 + 14 * row.depth:
            self.toggled.emit(row.ends)
            return
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier or (
            event.modifiers() & Qt.KeyboardModifier.ControlModifier and self._grip_at(place, point.x()) is not Grip.END
        ):
            self.picked_also.emit(row.key)
            return
        if self._press_on_threads(point) or self._press_on_knob(row, place, point):
            return
        keyframe = self._keyframe_at(place, point)
        if keyframe >= 0:
            self.picked.emit(row.key)
            self.peg_picked.emit(row.key, keyframe)
            self._held_peg = (row.key, keyframe, False)
            return
        self._alone = row.key if row.key in self.also or (self.also and row.key == self.chosen) else None
        if self._alone is None:
            self.picked.emit(row.key)
        grip = self._grip_at(place, point.x())
        if grip is not None:
            self._drag = _Drag(row, grip, point.x(), row.timed.start, row.timed.end, self.scale.span(1.0, self.width()))
        elif point.x() < LEFT - 130 and not row.prop:
            self._carried = (row, point.y(), -1)

    def _press_on_threads(self, point: QPointF) -> bool:
        if not LEFT <= point.x() <= self.width() - RIGHT:
            return False
        for thread in self.seen_ties():
            if thread.label.contains(point):
                self.tie_opened.emit(thread.tie, thread.label.toRect())
                return True
        for entry in self.seen_staggers():
            if entry.label.contains(point):
                self.stagger_opened.emit(entry.rule, entry.label.toRect())
                return True
        return False

    def _press_on_knob(self, row: Row, place: int, point: QPointF) -> bool:
        if not row.changes:
            return False
        rect = self.ribbon_rect(place)
        moment = threads.knob_at(rect, point)
        if moment is None:
            return False
        self._rope = _Rope(row.key, moment, threads.end_point(rect, moment), point)
        self.update()
        return True

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        if self._rope is not None:
            self._rope.now = point
            self.update()
        elif self._held_peg is not None:
            key, keyframe, _ = self._held_peg
            self._held_peg = (key, keyframe, True)
            free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
            ms = self.scale.ms(point.x(), self.width())
            self.peg_dragged.emit(key, self.keyframe if self.keyframe >= 0 else keyframe, self._snapped(ms, None, free))
        elif self._carried is not None:
            self._carry(point)
        elif self._drag is not None:
            self._drag_ribbon(self._drag, event)
        else:
            self._look(point)

    def _look(self, point: QPointF) -> None:
        place = int(point.y() // ROW)
        inside = 0 <= place < len(self.rows)
        if self._hover != (place if inside else -1):
            self._hover = place if inside else -1
            self.update()
        shape = Qt.CursorShape.ArrowCursor
        if inside:
            on_knob = self.rows[place].changes and threads.knob_at(self.ribbon_rect(place), point) is not None
            grip = self._grip_at(place, point.x())
            if on_knob or self._keyframe_at(place, point) >= 0:
                shape = Qt.CursorShape.PointingHandCursor
            elif grip is not None:
                shape = Qt.CursorShape.OpenHandCursor if grip is Grip.ALL else Qt.CursorShape.SplitHCursor
        self.setCursor(shape)

    def leaveEvent(self, event: object) -> None:
        self._hover = -1
        self.update()

    def _carry(self, point: QPointF) -> None:
        assert self._carried is not None
        row, first, _ = self._carried
        if abs(point.y() - first) > _START:
            place = min(len(self.rows), max(0, round(point.y() / ROW)))
            while place < len(self.rows) and self.rows[place].prop:
                place += 1
            self._carried = (row, first, place)
            self.update()

    def _drag_ribbon(self, drag: _Drag, event: QMouseEvent) -> None:
        x = event.position().x()
        travel = (x - drag.x) * drag.rate
        if not drag.moved and abs(x - drag.x) < 2:
            return
        drag.moved = True
        free = bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)
        both = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        start, end = self._dragged_to(drag, travel, free)
        if both and drag.grip is Grip.END:  # both ends at once, about the middle
            start = max(0.0, drag.start - (end - drag.end))
        elif both and drag.grip is Grip.START:
            end = drag.end - (start - drag.start)
        self.dragged.emit(drag.row.key, min(start, end), max(start, end))

    def _dragged_to(self, drag: _Drag, travel: float, free: bool) -> tuple[float, float]:
        """New start and end; whole ms, snapped to the playhead, other ends and the grid unless ``free``."""
        if drag.grip is Grip.ALL:
            length = drag.end - drag.start
            start = self._snapped(drag.start + travel, drag.row, free)
            if start == round(drag.start + travel) and not free:
                end = self._snapped(drag.start + travel + length, drag.row, free)
                start = end - length
            start = max(0.0, start)
            return start, start + length
        if drag.grip is Grip.START:
            return min(drag.end, max(0.0, self._snapped(drag.start + travel, drag.row, free))), drag.end
        return drag.start, max(drag.start, self._snapped(drag.end + travel, drag.row, free))

    def _snapped(self, ms: float, own: Row | None, free: bool) -> float:
        if free:
            return round(ms)
        near = self.scale.span(_SNAP, self.width())
        marks = [self.now, 0.0, self.scale.length]
        for row in self.rows:
            if own is None or row.key != own.key:
                marks += [row.timed.start, row.timed.end]
        best = min(marks, key=lambda mark: abs(mark - ms))
        if abs(best - ms) <= near:
            return best
        if self.grid > 0:
            line = round(ms / self.grid) * self.grid
            if abs(line - ms) <= near:
                return line
        return float(round(ms))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._rope is not None:
            target = self._end_near(event.position())
            rope, self._rope = self._rope, None
            self.update()
            if target is not None:
                self.tied.emit(target[0], rope.key, target[1], rope.moment)
        elif self._held_peg is not None:
            if self._held_peg[2]:
                self.dropped.emit()
        elif self._carried is not None and self._carried[2] >= 0:
            row, _, place = self._carried
            before = self.rows[place].ends if place < len(self.rows) else None
            if before != row.ends:
                self.row_moved.emit(row.ends, before)
        elif self._drag is not None and self._drag.moved:
            self._drag = None  # let go before anyone measures the time anew
            self.dropped.emit()
        elif self._alone is not None:
            self.picked.emit(self._alone)  # a click on one of several that was no drag chooses it alone
        self._alone = self._drag = self._held_peg = self._carried = None
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        point = event.position()
        row, place = self.row_at(point.y()), int(point.y() // ROW)
        if row is None:
            return
        keyframe = self._keyframe_at(place, point) if row.changes else -1
        for side in (0, 1):
            rect = value_rect(side, place, self.width())
            if row.prop and rect.contains(point):
                self.value_wanted.emit(row.key, side, rect.toRect())
                return
        if keyframe >= 0:
            self._open_keyframe(place, keyframe)
        elif row.opens and point.x() < LEFT:
            self.toggled.emit(row.ends)

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        row = self.row_at(event.pos().y())
        if row is None:
            return
        if row.key != self.chosen and row.key not in self.also:
            self.picked.emit(row.key)
        self.menu_wanted.emit(row.key, event.globalPos())

    def _open_keyframe(self, place: int, keyframe: int) -> None:
        where = keyframes(self.scale, self.rows[place], place, self.width())[keyframe]
        self.peg_opened.emit(self.rows[place].key, keyframe, QRect(int(where.x()) - 5, int(where.y()) - 5, 10, 10))

    # The keyboard

    def _nudge(self, row: Row, by: float) -> None:
        """The chosen key, or else the chosen cues, some ms on."""
        if 0 <= self.keyframe < len(row.timed.keyframes):
            at = row.timed.start + row.timed.keyframes[self.keyframe].at * row.timed.duration
            self.peg_dragged.emit(row.key, self.keyframe, at + by)
            self.dropped.emit()
        else:
            self.nudged.emit(row.key, by)

    def _carry_by(self, place: int, step: int) -> None:
        """The chosen layer's rows before the layer above, or behind the layer below."""
        layers = [row.ends for row in self.rows if not row.prop]
        own = self.rows[place].ends if place >= 0 else None
        if own in layers:
            where = layers.index(own) + step + (1 if step > 0 else 0)
            if where >= 0:
                self.row_moved.emit(own, layers[where] if where < len(layers) else None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        keys = [row.key for row in self.rows]
        place = keys.index(self.chosen) if self.chosen in keys else -1
        if event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self._carry_by(place, -1 if event.key() == Qt.Key.Key_Up else 1)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and keys:
            step = -1 if event.key() == Qt.Key.Key_Up else 1
            other = keys[min(len(keys) - 1, max(0, place + step))]
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and other != self.chosen:
                self.picked_also.emit(other)
            else:
                self.picked.emit(other)
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and place >= 0:
            if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
                row = self.rows[place]
                if row.opens and row.open != (event.key() == Qt.Key.Key_Right):
                    self.toggled.emit(row.ends)
                return
            by = 10.0 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1.0
            self._nudge(self.rows[place], by if event.key() == Qt.Key.Key_Right else -by)
        elif event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and place >= 0:
            self.reset.emit(keys[place])
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and place >= 0 and self.keyframe >= 0:
            self._open_keyframe(place, self.keyframe)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and place >= 0 and self.rows[place].opens:
            self.toggled.emit(self.rows[place].ends)
        else:
            super().keyPressEvent(event)
