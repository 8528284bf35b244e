"""How a delivery shall be: names and what starts it for browsers, size and rate for pictures."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QStackedWidget, QVBoxLayout, QWidget

from avelt.core.handoff.delivery import AFTERS, STARTS, Wanted
from avelt.core.words import tr
from avelt.deliver.kinds import Kind
from avelt.window.controls.fields import NumberField, label
from avelt.window.controls.painted import Pick, Tick

_SIZES = ((tr("half size"), 0.5), (tr("as designed"), 1.0), (tr("double"), 2.0), (tr("three times"), 3.0))
_RATES = (10.0, 12.5, 20.0, 25.0, 30.0, 50.0, 60.0)
_GROUNDS = ((tr("as in the frame"), None), (tr("none, clear"), "none"), (tr("white"), "#ffffff"))


class Settings(QWidget):
    """The fields; ``edited`` comes when the settings are others."""

    edited = Signal()

    def __init__(self) -> None:
        super().__init__()
        self.wanted = Wanted()
        self._pages = QStackedWidget()
        self._pages.addWidget(self._for_browsers())
        self._pages.addWidget(self._for_pictures())
        self._pages.addWidget(QWidget())
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.calm = Tick(tr("quieter motion"))
        self.calm.setToolTip(
            tr("The variant for people who ask for less motion: what moved fades, what repeated stands")
        )
        self.calm.toggled.connect(self._edited)
        layout.addWidget(self.calm)  # first: it stays where it is when another kind has other fields
        layout.addWidget(self._pages)

    def _for_browsers(self) -> QWidget:
        self.prefix = QLineEdit()
        self.prefix.setPlaceholderText(tr("nothing in front"))
        self.prefix.setToolTip(tr("Put in front of every class and id, so that they meet no others on a page"))
        self.start, self.after = Pick(), Pick()
        for start, words in STARTS.items():
            self.start.addItem(words, start)
        for after, words in AFTERS.items():
            self.after.addItem(words, after)
        self.start.setToolTip(tr("What starts it"))
        self.after.setToolTip(tr("What it does when what started it is over"))
        self.prefix.editingFinished.connect(self._edited)
        self.start.activated.connect(self._edited)
        self.after.activated.connect(self._edited)
        return _form(
            (tr("Names begin with"), self.prefix), (tr("Starts on"), self.start), (tr("Afterwards"), self.after)
        )

    def _for_pictures(self) -> QWidget:
        self.scale, self.fps, self.ground = Pick(), Pick(), Pick()
        for words, scale in _SIZES:
            self.scale.addItem(words, scale)
        for rate in _RATES:
            self.fps.addItem(tr("{rate:g} a second", rate=rate), rate)
        for words, ground in _GROUNDS:
            self.ground.addItem(words, ground)
        self.rest = NumberField("ms", 100.0, 0.0, 60_000.0, 0)
        self.rounds = NumberField("", 1.0, 1.0, 100.0, 0)
        self.again = Tick(tr("plays again and again"))
        for field in (self.scale, self.fps, self.ground):
            field.activated.connect(self._edited)
        self.rest.committed.connect(self._edited)
        self.rounds.committed.connect(self._edited)
        self.again.toggled.connect(self._edited)
        return _form(
            (tr("Size"), self.scale),
            (tr("Pictures"), self.fps),
            (tr("Ground"), self.ground),
            (tr("Rests at the end"), self.rest),
            (tr("Rounds of loops"), self.rounds),
            ("", self.again),
        )

    def show_wanted(self, wanted: Wanted, kind: Kind) -> None:
        """Show settings, those that a kind has."""
        self.wanted = wanted
        self._pages.setCurrentIndex(0 if kind.plays else 1 if kind.looks else 2)
        self.prefix.setText(wanted.prefix.removesuffix("-"))
        for pick, value in ((self.start, wanted.start), (self.after, wanted.after), (self.ground, wanted.background)):
            pick.setCurrentIndex(max(0, pick.findData(value)))
        self.scale.setCurrentIndex(max(0, self.scale.findData(wanted.scale)))
        self.fps.setCurrentIndex(max(0, self.fps.findData(wanted.fps)))
        self.rest.show_value(wanted.rest)
        self.rounds.show_value(wanted.rounds)
        for tick, checked in ((self.again, wanted.again), (self.calm, wanted.calm)):
            tick.blockSignals(True)
            tick.setChecked(checked)
            tick.blockSignals(False)

    def _edited(self, *_: object) -> None:
        from avelt.core.handoff.nodes import slug

        words = self.prefix.text().strip()
        made = replace(
            self.wanted,
            prefix=f"{slug(words)}-" if words else "",
            start=self.start.currentData(),
            after=self.after.currentData(),
            scale=self.scale.currentData(),
            fps=self.fps.currentData(),
            background=self.ground.currentData(),
            rest=self.rest.value,
            rounds=int(self.rounds.value),
            again=self.again.isChecked(),
            calm=self.calm.isChecked(),
        )
        if made != self.wanted:
            self.wanted = made
            self.edited.emit()


def _form(*rows: tuple[str, QWidget]) -> QWidget:
    made = QWidget()
    layout = QGridLayout(made)
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setHorizontalSpacing(10)
    layout.setVerticalSpacing(6)
    for k, (words, field) in enumerate(rows):
        layout.addWidget(label(words, "quiet"), k, 0)
        if isinstance(field, QComboBox):
            field.setMinimumContentsLength(6)  # its longest entry is no reason to cut what it is called
            field.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        layout.addWidget(field, k, 1)
    layout.setColumnStretch(1, 1)
    layout.setRowStretch(len(rows), 1)
    return made
