"""The rows of the cue sheet under the mouse and the keyboard. It emits what is wanted and changes nothing itself."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRect, QRectF, Qt, Signal
from PySide6.QtGui import QContextMenuEvent, QKeyEvent, QKeySequence, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QWidget

from avelt.core.model.motion import CueKey, Moment, Stagger, Tie
from avelt.core.words import tr
from avelt.window.common.accessible import Spoken
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.theme import Theme
from avelt.window.timing import threads
from avelt.window.timing.context import TimingContext
from avelt.window.timing.row_paint import MARK, ROW, keyframe_moments, keyframes, paint_row, ribbon_rect, value_rect
from avelt.window.timing.rows import Row
from avelt.window.timing.scale import LEFT, RIGHT, Scale
from avelt.window.timing.sheet_gestures import Grip, KeyframeDrag, RibbonDrag, RowDrag, TieDrag

_EDGE = 6  # px near a ribbon's end that stretch it
_SNAP = 6  # px within which an end snaps
_KEPT = 150  # pictures of rows


_RowLook = tuple[Row, bool, int]  # a row, whether it is chosen, and its chosen key or -1


def words_of(row: Row) -> str:
    """A row as it is said: what moves, from when to when."""
    name = row.right_name or row.left_name
    if row.role != "both":
        # The side that it is absent from says so in place of a name.
        name = f"{row.right_name if row.role == 'enters' else row.left_name} {tr(row.role)}"
    what = f"{name}, {row.prop}" if row.prop else name
    when = (
        tr("{start:.0f} to {end:.0f} ms", start=row.timed.start, end=row.timed.end)
        if row.changes
        else tr("does not change")
    )
    return f"{what}, {when}" + (tr(", muted") if row.timed.muted else "")


class SheetRows(QWidget):
    """The rows. Emits what the person does; changes nothing itself. What is chosen is the context's."""

    picked = Signal(object)  # row key
    picked_also = Signal(object)  # row key, put to the chosen ones or taken out
    ranged = Signal(object)  # the cues of several rows that are chosen together
    toggled = Signal(object)  # ends
    dragged = Signal(object, object, object)  # row key, start or None, end or None
    dropped = Signal()
    cancelled = Signal()  # a drag was given up
    nudged = Signal(object, float)
    tied = Signal(object, object, str, str)  # cue, the cue it is tied to, its end, that one's end
    tie_opened = Signal(object, QRect)
    stagger_opened = Signal(object, QRect)
    keyframe_picked = Signal(object, int)
    keyframe_dragged = Signal(object, int, float)  # row key, which, ms
    keyframe_opened = Signal(object, int, QRect)
    value_wanted = Signal(object, int, QRect)  # row key, side
    menu_wanted = Signal(object, object)  # row key, global point
    row_moved = Signal(object, object)  # ends, the ends it is put before (or None)

    def __init__(self, theme: Theme, scale: Scale, context: TimingContext) -> None:
        super().__init__()
        self.theme, self.scale, self.context = theme, scale, context
        self.gestures = GestureHost(self)
        self.rows: tuple[Row, ...] = ()
        self.ties: tuple[Tie, ...] = ()
        self.staggers: tuple[tuple[Stagger, int], ...] = ()  # each with how many of its cues were moved
        self.grid = 10.0  # ms; 0 is none
        self.now = 0.0
        self._places: dict[CueKey, int] = {}
        self._hover = -1
        self._kept_for: object = None  # the scale, size and theme that the kept rows are painted for
        self._kept: dict[int, tuple[_RowLook, QPixmap]] = {}
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName(tr("Cue sheet"))

    def show_rows(
        self, rows: tuple[Row, ...], ties: tuple[Tie, ...] = (), staggers: tuple[tuple[Stagger, int], ...] = ()
    ) -> None:
        """Show other rows, and what is tied to what among them; each stagger with how many of its cues were moved."""
        self.rows, self.ties, self.staggers = rows, ties, staggers
        self._places = {row.key: k for k, row in enumerate(rows)}
        self.setMinimumHeight(len(rows) * ROW + 4)
        self.update()

    def spoken(self) -> list[Spoken]:
        """The rows for assistive technology."""
        chosen = {*(self.context.keys or ()), self.context.key}
        return [
            Spoken(words_of(row), QRectF(0, k * ROW, self.width(), ROW), row.key in chosen)
            for k, row in enumerate(self.rows)
        ]

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
        return isinstance(self.gestures.active, RibbonDrag)

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
        gesture = self.gestures.active
        if isinstance(gesture, TieDrag):
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(QPen(self.theme.now, 1.6))
            painter.drawPath(threads.path_between(gesture.first, gesture.now))
            target = self._end_near(gesture.now, gesture.key)
            rect = self.rect_of(target[0]) if target is not None else None
            if target is not None and rect is not None:
                painter.drawEllipse(threads.end_point(rect, target[1]), 6, 6)
        elif not self.held and 0 <= self._hover < len(self.rows) and self.rows[self._hover].changes:
            threads.paint_knobs(painter, self.theme, self.ribbon_rect(self._hover))
        if isinstance(gesture, RowDrag) and gesture.place >= 0:
            painter.setPen(QPen(self.theme.now, 2))
            y = gesture.place * ROW
            painter.drawLine(QPointF(12, y), QPointF(LEFT - 8, y))

    def _row_picture(self, place: int) -> QPixmap:
        """A row as a picture, kept: playing changes none, and an edit only some."""
        row = self.rows[place]
        selection = self.context.selection
        chosen = row.key == selection.key
        look = (row, row.key in selection.cues, selection.keyframe if chosen else -1)
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
        return next((k for k, keyframe in enumerate(found) if (keyframe - point).manhattanLength() <= MARK + 4), -1)

    def _end_near(self, point: QPointF, own: CueKey) -> tuple[CueKey, Moment] | None:
        """The end of another ribbon that a tie would take hold of."""
        row = self.row_at(point.y())
        if row is None or not row.changes or row.key == own:
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
        if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self.ranged.emit(self._range_to(row.key))
            return
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier and self._grip_at(place, point.x()) is not Grip.END:
            self.picked_also.emit(row.key)
            return
        if self._press_on_threads(point) or self._press_on_knob(row, place, point):
            return
        keyframe = self._keyframe_at(place, point)
        if keyframe >= 0:
            self.picked.emit(row.key)
            self.keyframe_picked.emit(row.key, keyframe)
            self.gestures.begin(self._keyframe_drag(row.key))
            return
        several = row.key in self.context.selection.cues and len(self.context.selection.cues) > 1
        if not several:
            self.picked.emit(row.key)
        grip = self._grip_at(place, point.x())

        def clicked() -> None:
            if several:
                self.picked.emit(row.key)  # a click on one of several that was no drag chooses it alone

        if grip is not None:
            rate = self.scale.span(1.0, self.width())
            told = self.dragged.emit, self.dropped.emit, clicked, self.cancelled.emit
            self.gestures.begin(RibbonDrag(row, grip, point.x(), rate, self._snapped, *told))
        elif point.x() < LEFT - 130 and not row.prop:
            self.gestures.begin(RowDrag(row, point.y(), self._place_at, self._carried, clicked, self.update))
        elif several:
            self.gestures.begin(Drag(on_end=lambda _: clicked()))

    def _keyframe_drag(self, key: CueKey) -> KeyframeDrag:
        return KeyframeDrag(
            key,
            lambda: self.context.selection.keyframe,
            lambda x: self.scale.ms(x, self.width()),
            self._snapped,
            self.keyframe_dragged.emit,
            self.dropped.emit,
            self.cancelled.emit,
        )

    def _place_at(self, y: float) -> int:
        """Before which row something carried would go: never among the properties of a layer."""
        place = min(len(self.rows), max(0, round(y / ROW)))
        while place < len(self.rows) and self.rows[place].prop:
            place += 1
        return place

    def _carried(self, row: Row, place: int) -> None:
        before = self.rows[place].ends if place < len(self.rows) else None
        if before != row.ends:
            self.row_moved.emit(row.ends, before)

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
        first = threads.end_point(rect, moment)
        self.gestures.begin(TieDrag(row.key, moment, first, point, self._end_near, self.tied.emit, self.update))
        self.update()
        return True

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if not self.gestures.move(event):
            self._hovered(event.position())

    def _hovered(self, point: QPointF) -> None:
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

    def moments(self) -> list[float]:
        """Where the cues that are shown begin and end, and their keyframes, ms."""
        found: list[float] = []
        for timed in (row.timed for row in self.rows):
            found += [timed.start, timed.end, *keyframe_moments(timed)]
        return found

    def _snapped(self, ms: float, own: Row | None, free: bool) -> float:
        if free:
            return round(ms)
        marks = [self.now, 0.0, self.scale.length]
        for row in self.rows:
            if own is None or row.key != own.key:
                marks += [row.timed.start, row.timed.end]
        best = self.scale.mark_near(ms, marks, _SNAP, self.width())
        if best is None and self.grid > 0:
            best = self.scale.mark_near(ms, [round(ms / self.grid) * self.grid], _SNAP, self.width())
        return float(round(ms)) if best is None else best

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)
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
        if row.key not in self.context.selection.cues:
            self.picked.emit(row.key)
        self.menu_wanted.emit(row.key, event.globalPos())

    def _open_keyframe(self, place: int, keyframe: int) -> None:
        where = keyframes(self.scale, self.rows[place], place, self.width())[keyframe]
        self.keyframe_opened.emit(self.rows[place].key, keyframe, QRect(int(where.x()) - 5, int(where.y()) - 5, 10, 10))

    # The keyboard

    def _nudge(self, row: Row, by: float) -> None:
        """The chosen key, or else the chosen cues, some ms on."""
        if 0 <= self.context.selection.keyframe < len(row.timed.keyframes):
            at = row.timed.start + row.timed.keyframes[self.context.selection.keyframe].at * row.timed.duration
            self.keyframe_dragged.emit(row.key, self.context.selection.keyframe, at + by)
            self.dropped.emit()
        else:
            self.nudged.emit(row.key, by)

    def _range_to(self, key: CueKey) -> tuple[CueKey, ...]:
        """The rows from the one that is shown in full to another, that one last; the other alone when none is shown."""
        keys = [row.key for row in self.rows]
        if self.context.key not in keys:
            return (key,)
        first, last = keys.index(self.context.key), keys.index(key)
        between = self.rows[min(first, last) : max(first, last) + 1]
        others = [row.key for row in between if row.changes and row.key != key]
        return (*others, key)

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
        place = keys.index(self.context.key) if self.context.key in keys else -1
        keyframe = self.context.selection.keyframe
        if event.matches(QKeySequence.StandardKey.SelectAll):
            self.ranged.emit(tuple(row.key for row in self.rows if row.changes))
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self._carry_by(place, -1 if event.key() == Qt.Key.Key_Up else 1)
        elif event.key() in (Qt.Key.Key_Up, Qt.Key.Key_Down) and keys:
            step = -1 if event.key() == Qt.Key.Key_Up else 1
            other = keys[min(len(keys) - 1, max(0, place + step))]
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier and other != self.context.key:
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
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and place >= 0 and keyframe >= 0:
            self._open_keyframe(place, keyframe)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and place >= 0 and self.rows[place].opens:
            self.toggled.emit(self.rows[place].ends)
        else:
            super().keyPressEvent(event)
