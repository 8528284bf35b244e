"""How a preset is put on: the fields of the drawer that say slower or stronger, where to, when, and what of it."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from avelt.core.presets.adjusted import DIRECTIONS, How
from avelt.core.presets.pieces import pieces
from avelt.core.presets.values import Preset
from avelt.core.words import tr
from avelt.window.controls.fields import Choice, NumberField, button, column, label, row
from avelt.window.controls.painted import Pick, Tick
from avelt.window.controls.tick_menu import TickMenu
from avelt.window.shelf.start_field import StartField

_WIDE = 58


class Measure(QWidget):
    """Three rows of fields; ``also`` stand at the end of the last one. ``changed`` says that something else is said."""

    changed = Signal()

    def __init__(self, also: Sequence[QWidget]) -> None:
        super().__init__()
        self._held: Preset | None = None  # the one whose pieces the ticks are about
        self._several = False
        self.how = Choice(
            [tr("follow layers"), tr("as recorded")],
            [tr("Times as shares of this transition, shifts as shares of the layer"), tr("The recorded ms and px")],
        )
        self.stretch, self.strength = (NumberField("×", 0.1, low, high, 2) for low, high in ((0.01, 100), (0, 10)))
        self.start, self.step = StartField(), NumberField("ms", 10.0, 0.0, 60_000.0)
        self.step.setToolTip(tr("How much later each of several begins"))
        self.step_words = label(tr("Step"), "quiet")
        self.direction = Pick()
        self.direction.addItems([tr("own way"), *(tr(words) for words in DIRECTIONS)])
        self.direction.setToolTip(tr("Where the layer moves to"))
        self.linked = Tick(tr("linked"))
        self.linked.setToolTip(tr("What is put on changes with the preset; what you change on it stays its own"))
        self.holds = button(tr("All of it"), tr("What of the preset is put on; the rest stays as it is there"))
        self.holds_menu = TickMenu(self)
        self._lay_out(also)
        self._connect()

    def _lay_out(self, also: Sequence[QWidget]) -> None:
        for field in (self.stretch, self.strength):
            field.show_value(1.0)
        for field in (self.stretch, self.strength, self.start, self.step):
            field.setFixedWidth(_WIDE)
        times = ((tr("Time"), self.stretch), (tr("Strength"), self.strength), (tr("Start"), self.start))
        named = [entry for words, field in times for entry in (label(words, "quiet"), field, None)]
        rows = column(spacing=7)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.addLayout(row(self.how, self.linked, None, self.step_words, self.step, spacing=6))
        rows.addLayout(row(*named[:-1], spacing=6))
        rows.addLayout(row(self.direction, self.holds, None, *also, spacing=6))
        self.setLayout(rows)

    def _connect(self) -> None:
        self.how.picked.connect(self.changed)
        self.direction.activated.connect(self.changed)
        for field in (self.stretch, self.strength, self.start, self.step):
            field.scrubbed.connect(self.changed)
            field.committed.connect(self.changed)
        self.holds.clicked.connect(lambda: self.holds_menu.exec(self.holds.mapToGlobal(self.holds.rect().bottomLeft())))
        self.holds_menu.ticked.connect(self.changed)

    def aim_at_several(self, several: bool) -> None:
        """Whether it is put on several layers: only then one may begin after the other."""
        self._several = several
        for widget in (self.step_words, self.step):
            widget.setVisible(several)

    def show_pieces(self, preset: Preset | None) -> None:
        """What a preset carries, with ticks; another preset has all of them."""
        found = pieces(preset) if preset is not None else ()
        if preset != self._held:
            self._held = preset
            self.holds_menu.show_entries(found)
        gone = len(self.holds_menu.unticked)
        self.holds.setText(
            tr("{count} of {count2}", count=len(found) - gone, count2=len(found)) if gone else tr("All of it")
        )
        self.holds.setEnabled(len(found) > 1)

    def said(self) -> How:
        """How it is put on, as the fields say."""
        direction = DIRECTIONS[self.direction.currentIndex() - 1] if self.direction.currentIndex() > 0 else ""
        return How(
            follow=self.how.button(0).isChecked(),
            stretch=self.stretch.value,
            strength=self.strength.value,
            direction=direction,
            start=self.start.said,
            step=self.step.value if self._several else 0.0,
            left_out=self.holds_menu.unticked,
        )
