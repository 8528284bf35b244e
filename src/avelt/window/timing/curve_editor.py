"""The curve bench: how a cue feels, with handles, numbers, text, and its speed."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from avelt.core.curves import drawn, easing, text
from avelt.core.curves.measure import measure
from avelt.core.curves.named import used_by
from avelt.core.curves.numbers import numbers_of, with_number
from avelt.core.errors import FormatError
from avelt.core.model.curves import (
    Curve,
    Drawn,
    Drops,
    Handles,
    Hold,
    Line,
    Named,
    PlainCurve,
    Points,
    Ring,
    Spring,
    Steps,
)
from avelt.core.model.values import Project
from avelt.core.timing.schedule import Timed
from avelt.window.common.gestures import Drag, GestureHost
from avelt.window.controls.drawing import curve_path
from avelt.window.controls.fields import NumberField, button, column, label, row
from avelt.window.controls.painted import Pick, Tick
from avelt.window.theme import Theme, font

_LOW, _HIGH = -0.30, 1.30  # the part of the value axis that is shown
_BARS = 26
_HANDLE = 7.0
SPACE_WORDS = (
    ("blends in OKLab", "oklab"),
    ("blends in OKLCH", "oklch"),
    ("blends in Lab", "lab"),
    ("blends in sRGB", "srgb"),
    ("blends in linear light", "srgb-linear"),
)
#: The kinds a person can choose, and the curve each begins with.
KINDS: tuple[tuple[str, PlainCurve], ...] = (
    ("Line", Line()),
    ("Two handles", Handles(0.3, 0.0, 0.2, 1.0)),
    ("Points", Points(((0.0, 0.0), (0.35, 0.8), (0.6, 0.9), (1.0, 1.0)))),
    ("Steps", Steps(4, "end")),
    ("Drawn", Drawn()),
    ("Spring", Spring(0.22)),
    ("Drops", Drops()),
    ("Ring", Ring()),
    ("Hold", Hold()),
)


class CurveCanvas(QWidget):
    """The curve in its square, with what can be dragged, and the speed strip below."""

    shaped = Signal(object)  # the curve while it is dragged
    dropped = Signal()
    cancelled = Signal()  # a drag was given up

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self.curve: PlainCurve = Line()
        self.ghost: PlainCurve | None = None
        self.share: float | None = None  # where the playhead is in the cue
        self.times = ("", "")
        self._held = -1
        self.gestures = GestureHost(self)
        self._focus = 0
        self.setMinimumSize(200, 220)
        self.setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Curve")
        self.setToolTip(
            "Drag the handles; Tab chooses one, the arrow keys move it. Points and drawn curves: double-click for one"
            " more, Delete takes it away"
        )

    def area(self) -> QRectF:
        """The rectangle of 0..1 by 0..1."""
        whole = QRectF(8, 4, self.width() - 16, self.height() - 62)
        unit = whole.height() / (_HIGH - _LOW)
        return QRectF(whole.left(), whole.top() + (_HIGH - 1.0) * unit, whole.width(), unit)

    def _spots(self) -> list[tuple[float, float]]:
        """What can be dragged, in curve coordinates."""
        if isinstance(self.curve, Handles):
            return [(self.curve.x1, self.curve.y1), (self.curve.x2, self.curve.y2)]
        if isinstance(self.curve, Points):
            return [(at, value) for at, value in self.curve.points[1:-1]]
        if isinstance(self.curve, Drawn):
            return list(self.curve.points)
        if isinstance(self.curve, Hold):
            return [(self.curve.at, 0.5)]
        return []

    def place_of(self, spot: tuple[float, float]) -> QPointF:
        """Where a spot of the curve stands in the widget."""
        area = self.area()
        return QPointF(area.left() + spot[0] * area.width(), area.bottom() - spot[1] * area.height())

    def paintEvent(self, event: QPaintEvent) -> None:
        painter = QPainter(self)
        painter.fillRect(event.rect(), self.theme.sheet)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        area = self.area()
        painter.fillRect(area, self.theme.bar)
        painter.setPen(QPen(self.theme.line, 1))
        for k in range(5):
            x, y = area.left() + area.width() * k / 4, area.top() + area.height() * k / 4
            painter.drawLine(QPointF(x, area.top()), QPointF(x, area.bottom()))
            painter.drawLine(QPointF(area.left(), y), QPointF(area.right(), y))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.ghost is not None and self.ghost != self.curve:
            pen = QPen(self.theme.quiet, 1.4, Qt.PenStyle.DashLine)
            painter.setPen(pen)
            painter.drawPath(curve_path(self.ghost, area, 65))
        if self.share is not None:
            x = area.left() + self.share * area.width()
            painter.setPen(QPen(self.theme.now, 1.6))
            painter.drawLine(QPointF(x, 4), QPointF(x, self.height() - 58))
        painter.setPen(QPen(self.theme.arrives, 2.4))
        painter.drawPath(curve_path(self.curve, area, 129))
        self._paint_ends(painter, area)
        self._paint_handles(painter)
        self._paint_speed(painter, area)

    def _paint_ends(self, painter: QPainter, area: QRectF) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        for colour, point in ((self.theme.leaves, area.bottomLeft()), (self.theme.arrives, area.topRight())):
            painter.setBrush(colour)
            painter.drawEllipse(point, 5.5, 5.5)
        if self.share is not None:
            value = float(easing.at(self.curve, np.array(self.share)))
            painter.setBrush(self.theme.now)
            painter.drawEllipse(self.place_of((self.share, value)), 4.5, 4.5)
        painter.setFont(font(11))
        painter.setPen(self.theme.quiet)
        bottom = self.height() - 56
        painter.drawText(QRectF(area.left(), bottom, 120, 16), Qt.AlignmentFlag.AlignLeft, self.times[0])
        painter.drawText(QRectF(area.right() - 120, bottom, 120, 16), Qt.AlignmentFlag.AlignRight, self.times[1])

    def _paint_handles(self, painter: QPainter) -> None:
        spots = self._spots()
        if isinstance(self.curve, Handles):
            painter.setPen(QPen(self.theme.ink, 1))
            for spot, end in zip(spots, ((0.0, 0.0), (1.0, 1.0)), strict=True):
                painter.drawLine(self.place_of(end), self.place_of(spot))
        elif isinstance(self.curve, Drawn):
            painter.setPen(QPen(self.theme.ink, 1))
            for k in range(1, len(spots)):
                if k % 3 != 2:  # each handle is tied to its node, not on the other handle
                    painter.drawLine(self.place_of(spots[k - 1]), self.place_of(spots[k]))
        for k, spot in enumerate(spots):
            active = k == self._held or (self.hasFocus() and k == self._focus)
            painter.setPen(QPen(self.theme.now if active else self.theme.ink, 1.8))
            painter.setBrush(self.theme.sheet)
            place = self.place_of(spot)
            if isinstance(self.curve, Drawn) and k % 3 == 0:
                painter.drawRect(QRectF(place.x() - 4.5, place.y() - 4.5, 9, 9))
            else:
                painter.drawEllipse(place, 5.0, 5.0)

    def _paint_speed(self, painter: QPainter, area: QRectF) -> None:
        edges = easing.at(self.curve, np.linspace(0.0, 1.0, _BARS + 1))
        speed = np.abs(np.diff(edges)) * _BARS
        most = max(1.0, float(speed.max()))
        bottom, height = self.height() - 14, 24.0
        width = area.width() / _BARS
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.theme.ribbon_from)
        for k, value in enumerate(speed.tolist()):
            tall = value / most * height
            painter.drawRect(QRectF(area.left() + k * width + 0.5, bottom - tall, width - 1.5, tall))
        painter.setFont(font(11))
        painter.setPen(self.theme.quiet)
        painter.drawText(QRectF(area.left(), bottom, 200, 14), Qt.AlignmentFlag.AlignLeft, "speed")

    def _move(self, k: int, x: float, y: float) -> None:
        x, y = min(1.0, max(0.0, x)), min(4.0, max(-3.0, y))
        x, y = round(x, 3), round(y, 3)
        if isinstance(self.curve, Handles):
            c = self.curve
            self.curve = Handles(x, y, c.x2, c.y2) if k == 0 else Handles(c.x1, c.y1, x, y)
        elif isinstance(self.curve, Points):
            points = list(self.curve.points)
            low, high = points[k][0], points[k + 2][0]
            points[k + 1] = (min(high, max(low, x)), y)
            self.curve = Points(tuple(points))
        elif isinstance(self.curve, Drawn):
            self.curve = drawn.moved(self.curve, k, x, y)
        elif isinstance(self.curve, Hold):
            self.curve = Hold(x)
        self.update()
        self.shaped.emit(self.curve)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        spots = self._spots()
        if event.button() != Qt.MouseButton.LeftButton or not spots:
            return
        far = [(self.place_of(spot) - event.position()).manhattanLength() for spot in spots]
        nearest = int(np.argmin(far))
        if far[nearest] <= _HANDLE * 3:
            self._held = self._focus = nearest
            self.gestures.begin(Drag(self._drag_handle, self._let_go, self._give_up))
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.gestures.move(event)

    def _drag_handle(self, event: QMouseEvent) -> None:
        area, point = self.area(), event.position()
        self._move(self._held, (point.x() - area.left()) / area.width(), (area.bottom() - point.y()) / area.height())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        self.gestures.end(event)

    def _let_go(self, _: object) -> None:
        self._held = -1
        self.update()
        self.dropped.emit()

    def _give_up(self) -> None:
        self._held = -1
        self.update()
        self.cancelled.emit()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """One point more where it was clicked, on curves of points or drawn ones."""
        x = (event.position().x() - self.area().left()) / self.area().width()
        if not 0.0 < x < 1.0:
            return
        if isinstance(self.curve, Drawn):
            self._take(drawn.with_node(self.curve, x))
        elif isinstance(self.curve, Points):
            value = round(float(easing.at(self.curve, np.array(x))), 3)
            self._take(Points(tuple(sorted((*self.curve.points, (round(x, 3), value)), key=lambda p: p[0]))))

    def remove_point(self) -> None:
        """Without the point that is in focus."""
        if isinstance(self.curve, Drawn):
            self._take(drawn.without_node(self.curve, self._focus))
        elif isinstance(self.curve, Points) and self._spots():
            at = min(self._focus, len(self._spots()) - 1) + 1
            self._take(Points((*self.curve.points[:at], *self.curve.points[at + 1 :])))

    def _take(self, curve: PlainCurve) -> None:
        self._held, self._focus = -1, 0
        self.curve = curve
        self.update()
        self.shaped.emit(curve)
        self.dropped.emit()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        spots = self._spots()
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and isinstance(self.curve, Drawn | Points):
            self.remove_point()
            return
        moves = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        if spots and event.key() in moves:
            step = 0.1 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 0.01
            dx, dy = moves[Qt.Key(event.key())]
            x, y = spots[min(self._focus, len(spots) - 1)]
            self._move(min(self._focus, len(spots) - 1), x + dx * step, y + dy * step)
            self.dropped.emit()
        elif spots and event.key() == Qt.Key.Key_Space and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self._focus = (self._focus + 1) % len(spots)
            self.update()
        else:
            super().keyPressEvent(event)

    def focusNextPrevChild(self, forward: bool) -> bool:
        spots = self._spots()
        if spots and forward and self._focus < len(spots) - 1:
            self._focus += 1
            self.update()
            return True
        self._focus = 0
        return super().focusNextPrevChild(forward)


class CurveEditor(QWidget):
    """The canvas with kind, numbers and readouts beside it."""

    shaped = Signal(object)  # while a handle or number is dragged
    settled = Signal()  # the drag is over
    cancelled = Signal()  # the drag was given up
    chosen = Signal(object)  # another curve at once
    inherited = Signal()
    timed = Signal(str, object)  # "start", "end" or "length", and the Amount that was typed
    refused = Signal(str)
    drawer_wanted = Signal()
    shortest_wanted = Signal(bool)  # angles go the shortest way
    space_wanted = Signal(str)  # colours blend in it
    lean_wanted = Signal(bool)  # the layer rotates along the path
    shift_wanted = Signal(float)  # the outline begins a share of its length further on
    own_wanted = Signal()  # the named curve made this cue's own

    def __init__(self, theme: Theme) -> None:
        super().__init__()
        self.theme = theme
        self._curve: Curve = Line()
        self._named: list[str] = []
        self._length = 0.0
        self.subject = label("", "heading")
        self.origin = label("", "caption")
        self.canvas = CurveCanvas(theme)
        self.kind = Pick()
        self.kind.setToolTip("The kind of curve, or one of the project's named curves")
        self.kind.setMinimumWidth(110)
        self.numbers = [NumberField(step=0.01, digits=3) for _ in range(2)]
        self.number_labels = [label("", "quiet"), label("", "quiet")]
        self.words = QLineEdit()
        self.words.setToolTip(
            "The curve as text: cubic-bezier(), linear(), steps(), spring(), drops(), ring(), hold(), drawn()."
            " Type or paste one."
        )
        self.start, self.ends, self.lasts = (NumberField("ms", 5.0, 0.0, digits=0) for _ in range(3))
        self.drawer = button("All…", "The named curves with their pictures (C)")
        self.for_all = Tick("for all that use it")
        self.for_all.setToolTip("What is changed here changes the named curve, and all that use it follow")
        self.shortest = Tick("the shortest way")
        self.shortest.setToolTip("Off: as typed, so that 360 is one whole turn")
        self.lean = Tick("rotates along the path")
        self.lean.setToolTip("The layer rotates along its path; at both ends it is as its frames have it")
        self.space = Pick()
        for words, key in SPACE_WORDS:
            self.space.addItem(words, key)
        self.space.setToolTip("The space in which the colours blend")
        self.shift = NumberField("% on", 1.0, -100.0, 100.0, 1)
        self.shift.setToolTip("Where the outline arrived at begins, from where Avelt would begin it")
        self.make_own = button("Make own", "Keep the curve as it is now, whatever becomes of the name")
        self.back = button(
            "Inherit", "Back to what it inherits: give up this cue's own time and curve (Delete in the sheet)"
        )
        self.readout = [label("", "quiet"), label("", "quiet"), label("", "quiet")]
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        form = QGridLayout()
        form.setHorizontalSpacing(8)
        form.setVerticalSpacing(3)
        for place, (name, field) in enumerate((("Starts", self.start), ("Ends", self.ends), ("Duration", self.lasts))):
            form.addWidget(label(name, "quiet"), place, 0)
            form.addWidget(field, place, 1)
        for k in range(2):
            form.addWidget(self.number_labels[k], 3 + k, 0)
            form.addWidget(self.numbers[k], 3 + k, 1)
        side = column(spacing=5)
        side.addLayout(row(self.kind, self.drawer, spacing=5))
        for widget in (self.words, self.for_all, self.shortest, self.lean, self.space, self.shift):
            side.addWidget(widget)
        side.addSpacing(2)
        side.addLayout(form)
        side.addStretch(1)
        side.addLayout(row(self.make_own, self.back, spacing=5))
        holder = QWidget()
        holder.setLayout(side)
        side.setContentsMargins(0, 0, 0, 0)
        holder.setFixedWidth(178)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(6)
        whole.addLayout(row(self.subject, self.origin, None))
        body = QHBoxLayout()
        body.setSpacing(12)
        body.addWidget(self.canvas, 1)
        body.addWidget(holder)
        whole.addLayout(body, 1)
        whole.addLayout(row(*self.readout, None, spacing=16))

    def _connect(self) -> None:
        self.canvas.shaped.connect(self._shaped)
        self.canvas.dropped.connect(self.settled)
        self.canvas.cancelled.connect(self.cancelled)
        self.kind.activated.connect(self._kind_picked)
        self.words.editingFinished.connect(self._typed)
        self.back.clicked.connect(self.inherited)
        self.drawer.clicked.connect(self.drawer_wanted)
        self.make_own.clicked.connect(self.own_wanted)
        self.shortest.clicked.connect(self.shortest_wanted)
        self.lean.clicked.connect(self.lean_wanted)
        self.space.activated.connect(lambda place: self.space_wanted.emit(self.space.itemData(place)))
        self.shift.committed.connect(lambda value: self.shift_wanted.emit(value / 100.0))
        for k, field in enumerate(self.numbers):
            field.scrubbed.connect(lambda value, k=k: self._number(k, value, False))
            field.committed.connect(lambda value, k=k: self._number(k, value, True))
            field.cancelled.connect(self.cancelled)
            field.refused.connect(self.refused)
        self.start.committed.connect(lambda _: self.timed.emit("start", self.start.amount))
        self.ends.committed.connect(lambda _: self.timed.emit("end", self.ends.amount))
        self.lasts.committed.connect(lambda _: self.timed.emit("length", self.lasts.amount))

    def show_cue(
        self,
        project: Project,
        subject: str,
        origin: str,
        curve: Curve,
        plain: PlainCurve,
        ghost: PlainCurve | None,
        start: float,
        end: float,
        own: bool,
    ) -> None:
        """Show a cue's curve and time."""
        self._curve, self._length = curve, end - start
        self.subject.setText(subject)
        self.origin.setText(origin)
        self.canvas.curve, self.canvas.ghost = plain, ghost
        self.canvas.times = (f"{start:g} ms", f"{end:g} ms")
        self.back.setEnabled(own)
        self.start.show_value(start)
        self.ends.show_value(end)
        self.lasts.show_value(end - start)
        named = isinstance(curve, Named)
        count = used_by(project, curve.id) if isinstance(curve, Named) else 0
        self.for_all.setVisible(named)
        self.for_all.setText(f"for all {count} that use it" if count != 1 else "for the one that uses it")
        self.make_own.setEnabled(named)
        self._fill_kinds(project, curve)
        self._show_numbers(plain)
        self._show_readout(plain, start, end)
        if not self.words.hasFocus():
            self.words.setText(text.own(plain))
            self.words.setCursorPosition(0)
        self.canvas.update()

    def show_own(self, prop: str, when: Timed, shift: float | None) -> None:
        """What only cues of some properties have: how angles go, a lean, a colour space, an outline's start."""
        self.shortest.setVisible(prop in ("rotation", "rotation_xy"))
        self.shortest.setChecked(when.shortest)
        self.lean.setVisible(prop == "position" and when.motion_path is not None)
        self.lean.setChecked(when.motion_path is not None and when.motion_path.rotates)
        self.space.setVisible(prop in ("fill", "stroke", "shadow"))
        self.space.setCurrentIndex(self.space.findData(when.space))
        self.shift.setVisible(prop == "shape" and shift is not None)
        self.shift.show_value((shift or 0.0) * 100.0)

    def _fill_kinds(self, project: Project, curve: Curve) -> None:
        wanted = [entry.id for entry in project.curves]
        if wanted != self._named or self.kind.count() == 0:
            self._named = wanted
            self.kind.clear()
            for entry in project.curves:
                self.kind.addItem(entry.name, Named(entry.id))
                self.kind.setItemData(self.kind.count() - 1, entry.note, Qt.ItemDataRole.ToolTipRole)
            self.kind.insertSeparator(self.kind.count())
            for name, plain in KINDS:
                self.kind.addItem(name, plain)
        if isinstance(curve, Named) and curve.id in wanted:
            self.kind.setCurrentIndex(wanted.index(curve.id))
            return
        for k, (_, plain) in enumerate(KINDS):
            if type(plain) is type(curve):
                self.kind.setCurrentIndex(len(wanted) + 1 + k)

    def _show_numbers(self, plain: PlainCurve) -> None:
        found = numbers_of(plain)
        for k, field in enumerate(self.numbers):
            field.setVisible(k < len(found))
            self.number_labels[k].setVisible(k < len(found))
            if k < len(found):
                number, value = found[k]
                self.number_labels[k].setText(number.words)
                field.step_size, field.low, field.high = number.step, number.low, number.high
                field.show_value(value)

    def _show_readout(self, plain: PlainCurve, start: float, end: float) -> None:
        found = measure(plain)
        over = f"Overshoots {found.overshoot * 100:.0f} %" if found.overshoot > 0.0005 else "No overshoot"
        self.readout[0].setText(over)
        self.readout[1].setText(f"Settles at {start + found.settles * (end - start):.0f} ms")
        half = start + found.half * (end - start)
        self.readout[2].setText(f"Half at {half:.0f} ms, peak {found.peak_speed:.1f}×")

    def set_share(self, share: float | None) -> None:
        """Where the playhead is in the cue, 0..1."""
        if share != self.canvas.share:
            self.canvas.share = share
            self.canvas.update()

    def _shaped(self, curve: PlainCurve) -> None:
        self.shaped.emit(curve)

    def _kind_picked(self, place: int) -> None:
        curve = self.kind.itemData(place)
        if curve is not None:
            self.chosen.emit(curve)

    def _typed(self) -> None:
        if not self.words.isModified():
            return
        self.words.setModified(False)
        try:
            curve = text.parse(self.words.text())
        except FormatError as error:
            self.refused.emit(str(error))
            self.words.setText(text.own(self.canvas.curve))
            return
        self.chosen.emit(curve)

    def _number(self, k: int, value: float, final: bool) -> None:
        if k >= len(numbers_of(self.canvas.curve)):
            return
        self.shaped.emit(with_number(self.canvas.curve, k, value))
        if final:
            self.settled.emit()
