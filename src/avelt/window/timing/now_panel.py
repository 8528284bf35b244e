"""The column beside the Now view: the moment, playing, and what is shown."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from avelt.core.words import tr
from avelt.window.controls.clock import RATES, SPEED_WORDS, SPEEDS, Clock
from avelt.window.controls.fields import Choice, NumberField, button, column, label, row
from avelt.window.controls.painted import Pick, Tick
from avelt.window.timing.now_view import NowView


class NowPanel(QWidget):
    """Drives a clock and a Now view; knows no project."""

    full_wanted = Signal()

    def __init__(self, now: NowView, clock: Clock) -> None:
        super().__init__()
        self.now, self.clock = now, clock
        self.big, self.of_length = NumberField("", 1.0, 0.0, 3_600_000.0, 3), label("", "quiet")
        self.big.setProperty("role", "big")
        self.big.setAccessibleName(tr("Playhead"))
        self.big.setToolTip(tr("The moment: type it or drag it"))
        self.rate = Pick()
        self.rate.addItem(tr("in ms"), None)
        for rate in RATES:
            self.rate.addItem(tr("at {rate}/s", rate=rate), rate)
        self.rate.setToolTip(tr("Time in ms, or in frames at so many a second"))
        self.play = button(tr("Play"), tr("Play or stop (Space)"), "strong")
        self.rounds = Pick()
        for words, key in ((tr("loop"), "round"), (tr("there and back"), "back"), (tr("once"), "once")):
            self.rounds.addItem(words, key)
        self.rounds.setToolTip(tr("How it plays"))
        self.full = button(tr("Full"), tr("Only the Now view (F)"))
        self.speeds = Choice([SPEED_WORDS[s] for s in SPEEDS], [tr("Play at {s:g} of the speed", s=s) for s in SPEEDS])
        self.paths, self.clips = Tick(tr("Path and beats")), Tick(tr("Clip to frame"))
        self.skins, self.ghosts = Tick(tr("Onion skin")), Tick(tr("Ghosts"))
        self.paths.setToolTip(tr("The motion path of the chosen layer, with dots at equal times"))
        self.clips.setToolTip(tr("Off shows what lies outside the frame"))
        self.skins.setToolTip(tr("The chosen layer at moments before and after"))
        self.ghosts.setToolTip(tr("Where layers come from and go to"))
        self.count, self.every = NumberField("", 1.0, 1.0, 12.0, 0), NumberField("ms", 5.0, 5.0, 10_000.0, 0)
        self.count.setToolTip(tr("How many moments before and after"))
        self.every.setToolTip(tr("How far they are apart"))
        self.count.show_value(3)
        self.every.show_value(60)
        self.count.setFixedWidth(30)
        self.every.setFixedWidth(54)
        self.paths.setChecked(True)
        self.clips.setChecked(True)
        self.quiet = label("", "quiet")
        self.quiet.setWordWrap(True)
        self._lay_out()
        self._connect()

    def _lay_out(self) -> None:
        side = column(spacing=6)
        side.addLayout(row(label(tr("Now"), "heading"), self.rate, None, self.full))
        side.addLayout(row(self.big, self.of_length, None, spacing=5))
        self.travel = label("", "quiet")
        self.travel.hide()
        side.addWidget(self.travel)
        side.addLayout(row(self.play, self.rounds, spacing=6))
        side.addLayout(row(self.speeds, None))
        side.addSpacing(2)
        for widget in (self.paths, self.clips, self.ghosts):
            side.addWidget(widget)
        side.addLayout(row(self.skins, None, self.count, self.every, spacing=4))
        side.addSpacing(2)
        side.addWidget(self.quiet)
        side.addStretch(1)
        side.setContentsMargins(0, 0, 0, 0)
        self.setLayout(side)
        self.setFixedWidth(188)

    def _connect(self) -> None:
        clock = self.clock
        clock.played.connect(lambda on: self.play.setText(tr("Stop") if on else tr("Play")))
        self.play.clicked.connect(clock.toggle)
        self.rate.activated.connect(lambda _: self._set_rate())
        self.big.scrubbed.connect(lambda told: self._go(round(told)))
        self.big.committed.connect(self._go)
        self.full.clicked.connect(self.full_wanted)
        self.rounds.activated.connect(lambda _: self._set_rounds())
        self.speeds.picked.connect(lambda k: setattr(clock, "speed", SPEEDS[k]))
        for tick in (self.paths, self.clips, self.skins, self.ghosts):
            tick.toggled.connect(lambda _: self._options())
        for field in (self.count, self.every):
            field.committed.connect(lambda _: self._options())
        self._options()

    def _set_rate(self) -> None:
        self.clock.rate = self.rate.currentData()
        self.show_time(self.clock.ms, self.clock.length)

    def _go(self, told: float) -> None:
        """To a moment as it is told: in ms, or in frames."""
        self.clock.stop()
        self.clock.seek(told if self.clock.rate is None else told * 1000 / self.clock.rate)
        self.show_time(self.clock.ms, self.clock.length)

    def _set_rounds(self) -> None:
        how = self.rounds.currentData()
        self.clock.loop, self.clock.back = how == "round", how == "back"

    def _options(self) -> None:
        now = self.now
        now.paths, now.clip, now.ghosts = self.paths.isChecked(), self.clips.isChecked(), self.ghosts.isChecked()
        now.skins = int(self.count.value) if self.skins.isChecked() else 0
        now.skins_every = self.every.value
        for field in (self.count, self.every):
            field.setVisible(self.skins.isChecked())
        now.update()

    def show_time(self, ms: float, length: float, travel: str = "") -> None:
        """The moment and the whole; and how far the value is that it follows."""
        rate = self.clock.rate
        told, whole = (ms, length) if rate is None else (ms * rate / 1000, length * rate / 1000)
        self.big.show_value(float(round(told)) if self.clock.playing or rate is not None else told)
        widest = max(self.big.text(), f"{whole:.0f}", "000", key=len)
        self.big.setFixedWidth(self.big.fontMetrics().horizontalAdvance(widest) + 12)
        self.of_length.setText(f"/ {whole:.0f} ms" if rate is None else tr("/ {whole:.1f} frames", whole=whole))
        self.travel.setText(travel)
        self.travel.setVisible(bool(travel))
