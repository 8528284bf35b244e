"""How quickly a rehearsal is painted: late pictures counted, the slowest named."""

from __future__ import annotations

from time import perf_counter

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QWidget

from avelt.core.words import tr
from avelt.window.controls.fields import label
from avelt.window.controls.short_label import ShortLabel
from avelt.window.rehearse.preview import Preview

_LATE = 1.5 * 1000.0 / 60.0  # ms between two pictures


class Pace(QWidget):
    """Three lines under what runs now."""

    def __init__(self, stage: Preview) -> None:
        super().__init__()
        self.stage = stage
        self.count = self.late = 0
        self.slowest = (0.0, "")
        self._last: float | None = None
        self._said = 0.0
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 6, 0, 0)
        grid.setVerticalSpacing(2)
        grid.setColumnStretch(1, 1)
        self.painted, self.lates, self.longest = label(""), label(""), ShortLabel()
        for row, (name, words) in enumerate(
            ((tr("Painted in"), self.painted), (tr("Late pictures"), self.lates), (tr("Slowest after"), self.longest))
        ):
            words.setAlignment(Qt.AlignmentFlag.AlignRight)
            grid.addWidget(label(name, "quiet"), row, 0)
            grid.addWidget(words, row, 1)

    def begin(self) -> None:
        """Count anew."""
        self.count = self.late = 0
        self.slowest, self._last = (0.0, ""), None

    def tick(self, playing: bool, what: str) -> None:
        """A picture is shown while something runs."""
        now = perf_counter()
        if playing and self._last is not None:
            gap = (now - self._last) * 1000.0
            self.count += 1
            self.late += gap > _LATE
            if gap > self.slowest[0]:
                self.slowest = gap, what
        self._last = now if playing else None
        if now - self._said > 0.25:  # numbers that change at every picture cannot be read
            self._said = now
            self.show_words()

    def show_words(self) -> None:
        """Say it."""
        self.painted.setText(f"{self.stage.painted_in:.1f} ms")
        self.lates.setText(tr("{late} of {count}", late=self.late, count=self.count))
        gap, what = self.slowest
        self.longest.setText(tr("{gap:.0f} ms: {what}", gap=gap, what=what) if gap else "–")
