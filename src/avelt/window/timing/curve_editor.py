"""The curve bench: how a cue feels, with handles, numbers, text, and its speed."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QLineEdit, QVBoxLayout, QWidget

from avelt.core.curves import text
from avelt.core.curves.fitting import fitted
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
from avelt.core.words import tr
from avelt.window.controls.fields import NumberField, button, column, label, row
from avelt.window.controls.painted import Pick, Tick
from avelt.window.controls.short_label import ShortLabel
from avelt.window.theme import Theme
from avelt.window.timing.curve_canvas import CurveCanvas

SPACE_WORDS = (
    (tr("blends in OKLab"), "oklab"),
    (tr("blends in OKLCH"), "oklch"),
    (tr("blends in Lab"), "lab"),
    (tr("blends in sRGB"), "srgb"),
    (tr("blends in linear light"), "srgb-linear"),
)
_EXACT = 0.0005  # what is nearer than this is called the same curve
#: The kinds a person can choose, and the curve each begins with.
KINDS: tuple[tuple[str, PlainCurve], ...] = (
    (tr("Line"), Line()),
    (tr("Two handles"), Handles(0.3, 0.0, 0.2, 1.0)),
    (tr("Points"), Points(((0.0, 0.0), (0.35, 0.8), (0.6, 0.9), (1.0, 1.0)))),
    (tr("Steps"), Steps(4, "end")),
    (tr("Drawn"), Drawn()),
    (tr("Spring"), Spring(0.22)),
    (tr("Drops"), Drops()),
    (tr("Ring"), Ring()),
    (tr("Hold"), Hold()),
)


def _how_near(kind: str, off: float) -> str:
    """What became of a curve that is another kind now."""
    if off < _EXACT:
        return tr("{kind}: the same curve.", kind=kind)
    return tr("{kind}: fitted to the curve, at most {off:.1f} % away from it.", kind=kind, off=off * 100)


class CurveEditor(QWidget):
    """The canvas with kind, numbers and readouts beside it."""

    shaped = Signal(object)  # while a handle or number is dragged
    settled = Signal()  # the drag is over
    cancelled = Signal()  # the drag was given up
    chosen = Signal(object)  # another curve at once
    inherited = Signal()
    timed = Signal(str, object)  # "start", "end" or "length", and the Amount that was typed
    refused = Signal(str)
    noted = Signal(str)  # what became of a choice
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
        self.kind.setToolTip(tr("The kind of curve, or one of the project's named curves"))
        self.kind.setMinimumWidth(110)
        self.numbers = [NumberField(step=0.01, digits=3) for _ in range(2)]
        self.number_labels = [label("", "quiet"), label("", "quiet")]
        self.words = QLineEdit()
        self.words.setToolTip(
            tr(
                "The curve as text: cubic-bezier(), linear(), steps(), spring(), drops(), ring(), "
                "hold(), drawn(). Type or paste one."
            )
        )
        self.start, self.ends, self.lasts = (NumberField("ms", 5.0, 0.0, digits=0) for _ in range(3))
        self.drawer = button(tr("All…"), tr("The named curves with their pictures (C)"))
        self.for_all = Tick(tr("for all that use it"))
        self.for_all.setToolTip(tr("What is changed here changes the named curve, and all that use it follow"))
        self.shortest = Tick(tr("the shortest way"))
        self.shortest.setToolTip(tr("Off: as typed, so that 360 is one whole turn"))
        self.lean = Tick(tr("rotates along the path"))
        self.lean.setToolTip(tr("The layer rotates along its path; at both ends it is as its frames have it"))
        self.space = Pick()
        for words, key in SPACE_WORDS:
            self.space.addItem(words, key)
        self.space.setToolTip(tr("The space in which the colours blend"))
        self.shift = NumberField(tr("% on"), 1.0, -100.0, 100.0, 1)
        self.shift.setToolTip(tr("Where the outline arrived at begins, from where Avelt would begin it"))
        self.make_own = button(tr("Make own"), tr("Keep the curve as it is now, whatever becomes of the name"))
        self.back = button(
            tr("Inherit"), tr("Back to what it inherits: give up this cue's own time and curve (Delete in the sheet)")
        )
        self.readout = [ShortLabel("quiet") for _ in range(3)]
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        form = QGridLayout()
        form.setHorizontalSpacing(8)
        form.setVerticalSpacing(3)
        for place, (name, field) in enumerate(
            ((tr("Starts"), self.start), (tr("Ends"), self.ends), (tr("Duration"), self.lasts))
        ):
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
        self.for_all.setText(
            tr("for all {count} that use it", count=count) if count != 1 else tr("for the one that uses it")
        )
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
        over = (
            tr("Overshoots {overshoot:.0f} %", overshoot=found.overshoot * 100)
            if found.overshoot > 0.0005
            else tr("No overshoot")
        )
        self.readout[0].setText(over)
        self.readout[1].setText(tr("Settles at {start:.0f} ms", start=start + found.settles * (end - start)))
        half = start + found.half * (end - start)
        self.readout[2].setText(
            tr("Half at {half:.0f} ms, peak {peak_speed:.1f}×", half=half, peak_speed=found.peak_speed)
        )

    def set_share(self, share: float | None) -> None:
        """Where the playhead is in the cue, 0..1."""
        if share != self.canvas.share:
            self.canvas.share = share
            self.canvas.update()

    def _shaped(self, curve: PlainCurve) -> None:
        self.shaped.emit(curve)

    def _kind_picked(self, place: int) -> None:
        wanted = self.kind.itemData(place)
        if isinstance(wanted, Named):
            self.chosen.emit(wanted)
        elif wanted is not None:
            before = self.canvas.curve
            curve, off = fitted(before, wanted)
            self.chosen.emit(curve)
            if type(before) is not type(curve) and not isinstance(before, Line):
                self.noted.emit(_how_near(self.kind.itemText(place), off))

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
