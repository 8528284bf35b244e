"""Small sheets that open beside what they change: a tie, a stagger, a key, the base curves."""

from __future__ import annotations

import msgspec
from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtWidgets import QFormLayout, QFrame, QVBoxLayout, QWidget

from avelt.core.edits.keyframes import HOLDS
from avelt.core.model.curves import Curve, Named
from avelt.core.model.motion import Keyframe, Stagger, Tie
from avelt.core.model.properties import KEYED
from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.window.controls.fields import NumberField, button, label, row
from avelt.window.controls.painted import Pick, Tick
from avelt.window.timing.threads import ORDER_WORDS


class Popover(QFrame):
    """A form over the window, closed by a click beside it or Esc."""

    def __init__(self, parent: QWidget, title: str) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.setProperty("role", "panel")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose, False)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(14, 12, 14, 12)
        whole.setSpacing(8)
        self.heading = label(title, "heading")
        whole.addWidget(self.heading)
        self.fields = QFormLayout()
        self.fields.setHorizontalSpacing(12)
        self.fields.setVerticalSpacing(6)
        whole.addLayout(self.fields)
        self.foot = row(None)
        whole.addLayout(self.foot)

    def number(self, words: str, unit: str, step: float, low: float, high: float, digits: int = 2) -> NumberField:
        """A number in a row of its own."""
        field = NumberField(unit, step, low, high, digits)
        self.fields.addRow(label(words, "quiet"), field)
        return field

    def choice(self, words: str, entries: list[tuple[str, object]]) -> Pick:
        """A choice in a row of its own."""
        made = Pick()
        for text, data in entries:
            made.addItem(text, data)
        made.setMinimumWidth(150)
        self.fields.addRow(label(words, "quiet"), made)
        return made

    def open_at(self, point: QPoint) -> None:
        """Open with its top left there, inside the window."""
        self.adjustSize()
        parent = self.parentWidget()
        if parent is not None:
            window = parent.window()
            corner = window.mapToGlobal(window.rect().bottomRight())
            point = QPoint(
                min(point.x(), corner.x() - self.width() - 8), min(point.y(), corner.y() - self.height() - 8)
            )
        self.move(point)
        self.show()


class TieForm(Popover):
    """The offset of a tie."""

    changed = Signal(float)
    undone = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, "")
        self.offset = self.number(tr("Offset"), "ms", 5.0, -3_600_000.0, 3_600_000.0, 0)
        self.offset.setToolTip(tr("How long after; below zero they overlap"))
        self.untie = button(tr("Untie"), tr("It stays where it is and follows no more"))
        self.foot.addWidget(self.untie)
        self.offset.committed.connect(self.changed)
        self.untie.clicked.connect(self.undone)

    def show_tie(self, tie: Tie, own: str, other: str) -> None:
        """What is tied to what."""
        verbs = {"start": tr("starts"), "end": tr("ends")}
        self.heading.setText(
            tr(
                "{own} {verbs} after {other} {verbs2}",
                own=own,
                verbs=verbs[tie.at],
                other=other,
                verbs2=verbs[tie.to_at],
            )
        )
        self.offset.show_value(tie.by)


class StaggerForm(Popover):
    """The rule of a stagger: all of it can be changed at any time."""

    changed = Signal(object)  # the rule
    undone = Signal()
    lined_up = Signal()  # those that were moved by themselves go back into line
    point_wanted = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, tr("Stagger"))
        self.rule: Stagger | None = None
        self.order = self.choice(tr("Order"), [(words.capitalize(), key) for key, words in ORDER_WORDS.items()])
        self.backwards = Tick(tr("reversed"))
        self.fields.addRow("", self.backwards)
        self.ms = self.number(tr("Time"), "ms", 5.0, 0.0, 3_600_000.0, 0)
        self.spread = self.choice(tr("Counted"), [(tr("for each step"), "step"), (tr("in all"), "total")])
        self.curve = self.choice(tr("Spread by"), [])
        self.point = button(
            tr("From a point…"), tr("Click the point in the Now view from which distances are measured")
        )
        self.seed = button(tr("New seed"), tr("Draw another order"))
        self.fields.addRow("", row(self.point, self.seed))
        self.undo = button(tr("Remove stagger"), tr("Every cue stays where it is, without the rule"))
        self.line_up = button(
            tr("Line up"), tr("Those that were moved by themselves start where the rule puts them again")
        )
        self.foot.addWidget(self.line_up)
        self.foot.addWidget(self.undo)
        self.line_up.clicked.connect(self.lined_up)
        for chooser in (self.order, self.spread, self.curve):
            chooser.activated.connect(lambda _: self._emit())
        self.backwards.clicked.connect(lambda _: self._emit())
        self.ms.committed.connect(lambda _: self._emit())
        self.seed.clicked.connect(self._again)
        self.point.clicked.connect(self.point_wanted)
        self.undo.clicked.connect(self.undone)

    def show_rule(self, project: Project, rule: Stagger, moved: int = 0) -> None:
        """The rule as it is, and how many of its cues were moved by themselves."""
        self.rule = rule
        self.heading.setText(
            tr("Stagger of {count} cues", count=len(rule.cues)) + (tr(", {moved} moved", moved=moved) if moved else "")
        )
        self.line_up.setVisible(moved > 0)
        if self.curve.count() != len(project.curves):
            self.curve.clear()
            for entry in project.curves:
                self.curve.addItem(entry.name, Named(entry.id))
        self.order.setCurrentIndex(self.order.findData(rule.order))
        self.backwards.setChecked(rule.reversed)
        self.ms.show_value(rule.ms)
        self.spread.setCurrentIndex(self.spread.findData(rule.spread))
        ids = [entry.id for entry in project.curves]
        if isinstance(rule.curve, Named) and rule.curve.id in ids:
            self.curve.setCurrentIndex(ids.index(rule.curve.id))
        self.point.setVisible(rule.order == "distance")
        self.seed.setVisible(rule.order == "random")
        self.adjustSize()

    def _emit(self, **own: object) -> None:
        if self.rule is not None:
            curve = self.curve.currentData()
            fields: dict[str, object] = {
                "order": self.order.currentData(),
                "reversed": self.backwards.isChecked(),
                "ms": self.ms.value,
                "spread": self.spread.currentData(),
                "curve": curve if curve is not None else self.rule.curve,
                **own,
            }
            self.changed.emit(msgspec.structs.replace(self.rule, **fields))

    def _again(self) -> None:
        if self.rule is not None:
            self._emit(seed=self.rule.seed + 1)


class KeyframeForm(Popover):
    """A keyframe: its moment, its value, and how it is reached."""

    moved = Signal(float)  # ms
    valued = Signal(object)  # the numbers
    curved = Signal(object)  # the curve into it, or None
    removed = Signal()

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, tr("Keyframe"))
        self.moment = self.number(tr("At"), "ms", 5.0, 0.0, 3_600_000.0, 0)
        self.numbers = [self.number("", "", 1.0, -1e6, 1e6) for _ in range(4)]
        self.curve = self.choice(tr("Reached by"), [])
        self.remove = button(tr("Remove"), tr("Delete this keyframe (Delete)"))
        self.foot.addWidget(self.remove)
        self.key: Keyframe | None = None
        self._factors: list[float] = []
        self.moment.committed.connect(self.moved)
        for field in self.numbers:
            field.committed.connect(lambda _: self._emit())
        self.curve.activated.connect(lambda place: self.curved.emit(self.curve.itemData(place)))
        self.remove.clicked.connect(self.removed)

    def show_key(self, project: Project, key: Keyframe, prop: str, on_way: bool, ms: float) -> None:
        """The key as it is. Shares are shown in per cent."""
        self.key = key
        self.moment.show_value(ms)
        names = (tr("along the path"),) if on_way else tuple(name.replace("_", " ") for name in KEYED[prop])
        per_cent = on_way or prop in ("opacity", "scale", "trim", "cut", "fill")
        self._factors = [100.0 if per_cent else 1.0] * len(names)
        for k, field in enumerate(self.numbers):
            words = self.fields.labelForField(field)
            shown = k < len(names)
            field.setVisible(shown)
            words.setVisible(shown)
            if shown:
                words.setText(names[k])  # type: ignore[attr-defined]
                field.unit = "%" if per_cent else ""
                field.show_value(key.value[k] * self._factors[k])
        self.curve.clear()
        self.curve.addItem(tr("the cue's own curve"), None)
        self.curve.addItem(tr("a jump: it holds until then"), HOLDS)
        for entry in project.curves:
            self.curve.addItem(entry.name, Named(entry.id))
        places = [self.curve.itemData(k) for k in range(self.curve.count())]
        if key.curve in places:
            self.curve.setCurrentIndex(places.index(key.curve))
        else:
            self.curve.addItem(tr("a curve of its own"), key.curve)
            self.curve.setCurrentIndex(self.curve.count() - 1)

    def _emit(self) -> None:
        self.valued.emit(
            tuple(field.value / factor for field, factor in zip(self.numbers, self._factors, strict=False))
        )


class BaseCurves(Popover):
    """The curves of cues that have none of their own, by what becomes of their layers."""

    chosen = Signal(object, str)  # curve or None, role

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, tr("Curves of what has none of its own"))
        self.picks: dict[str, Pick] = {}
        for role, words in (("both", tr("What stays")), ("enters", tr("What enters")), ("leaves", tr("What leaves"))):
            chooser = self.choice(words, [])
            chooser.activated.connect(lambda place, role=role: self._chosen(role, place))
            self.picks[role] = chooser

    def _chosen(self, role: str, place: int) -> None:
        self.chosen.emit(self.picks[role].itemData(place), role)

    def show_curves(self, project: Project, curves: dict[str, Curve | None]) -> None:
        """The base curves as they are."""
        for role, chooser in self.picks.items():
            chooser.clear()
            if role != "both":
                chooser.addItem(tr("as what stays"), None)
            for entry in project.curves:
                chooser.addItem(entry.name, Named(entry.id))
            data = [chooser.itemData(k) for k in range(chooser.count())]
            wanted = curves[role]
            if wanted in data:
                chooser.setCurrentIndex(data.index(wanted))
            else:
                chooser.addItem(tr("a curve of its own"), wanted)
                chooser.setCurrentIndex(chooser.count() - 1)
