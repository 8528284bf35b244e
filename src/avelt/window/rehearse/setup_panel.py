"""What a rehearsal starts with and is fed with: inputs, how long pages load, the seed of chance, quieter motion."""

from __future__ import annotations

from collections.abc import Mapping

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QGridLayout, QVBoxLayout, QWidget

from avelt.core.model.tapes import MOST_SEED
from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Input
from avelt.core.words import tr
from avelt.window.controls.fields import NumberField, button, label, row, scrolled
from avelt.window.controls.live_inputs import LiveInputs
from avelt.window.controls.painted import Tick


class SetupPanel(QFrame):
    """The upper right of the station."""

    changed = Signal()  # how long pages load, the seed, or quieter motion
    ready = Signal()  # the page is ready now
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "panel")
        self.inputs = LiveInputs(sliders=True)
        self.loading = NumberField("ms", 50.0, 0.0, 60_000.0, 0)
        self.loading.setToolTip(tr("How long every page loads: what waits for that starts then"))
        self.now = button(tr("Now"), tr("The page is ready now (L)"))
        self.seed = NumberField("", 1.0, 0.0, float(MOST_SEED), 0)
        self.seed.show_value(1.0)
        self.seed.setToolTip(tr("Another seed gives other waits by chance; the same gives the same again"))
        self.quieter = Tick("")
        self.quieter.setToolTip(tr("What people see who asked for less motion: what moved fades, what repeated stands"))
        own = QWidget()
        grid = QGridLayout(own)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setVerticalSpacing(6)
        grid.setColumnStretch(1, 1)
        for field in (self.loading, self.seed):
            field.setFixedWidth(82)
        loading = QWidget()
        loading.setLayout(row(self.loading, self.now))
        loading.layout().setContentsMargins(0, 0, 0, 0)  # type: ignore[union-attr]
        rows: tuple[tuple[str, QWidget], ...] = (
            (tr("Page is ready after"), loading),
            (tr("Seed of chance"), self.seed),
            (tr("Quieter motion"), self.quieter),
        )
        for k, (words, widget) in enumerate(rows):
            widget.setAccessibleName(words)
            grid.addWidget(label(words), k, 0)
            grid.addWidget(widget, k, 1, Qt.AlignmentFlag.AlignRight)
        self.loading.setAccessibleName(tr("Page is ready after"))
        inner = QWidget()
        below = QVBoxLayout(inner)
        below.setContentsMargins(0, 0, 8, 0)
        below.setSpacing(6)
        below.addWidget(self.inputs)
        below.addWidget(own)
        below.addStretch(1)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(16, 12, 8, 12)
        inside.addWidget(label(tr("Inputs"), "heading"))
        inside.addWidget(scrolled(inner), 1)
        self.loading.committed.connect(lambda _: self.changed.emit())
        self.seed.committed.connect(lambda _: self.changed.emit())
        self.quieter.toggled.connect(lambda _: self.changed.emit())
        self.now.clicked.connect(self.ready)
        for field in (self.loading, self.seed):
            field.refused.connect(self.refused)
        self.inputs.refused.connect(self.refused)

    def show_values(self, known: tuple[Input, ...], values: Mapping[str, InputValue], loads: bool) -> None:
        """Which inputs there are, what they are, and whether the page loads."""
        self.inputs.show_inputs(known, values)
        self.now.setEnabled(loads)
