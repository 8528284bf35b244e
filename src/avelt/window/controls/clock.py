"""A clock for playing: ms that go on by the screen's own pace, at a speed, once or round and round."""

from __future__ import annotations

from PySide6.QtCore import QElapsedTimer, QObject, Qt, QTimer, Signal

from avelt.window.common.pictures_first import pictures

SPEEDS = (1.0, 0.5, 0.25, 0.1)
SPEED_WORDS = {1.0: "1×", 0.5: "½×", 0.25: "¼×", 0.1: "⅒×"}
RATES = (24, 25, 30, 50, 60)  # frames a second that time may be told in
_DISPLAY = 60  # frames a second of the display, for stepping by hand
_LONGEST = 100.0  # ms that one tick may bring: after a pause of the machine nothing jumps
_REST = 500.0  # ms at the end before a loop begins again


class Clock(QObject):
    """``ticked`` comes on every change of time, ``played`` when it starts or stops."""

    ticked = Signal(float)
    played = Signal(bool)

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.ms = 0.0
        self.length = 0.0
        self.speed = 1.0
        self.rate: int | None = None  # frames a second in which time is told; none: in ms
        self.loop = True
        self.back = False  # there and back, round and round
        self.play_range: tuple[float, float] | None = None  # only this much of the time is played, ms
        self._way = 1.0
        self.endless = False  # runs on and on: loops and rehearsals
        self._rested = 0.0
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(16)
        self._timer.timeout.connect(self._tick)
        self._since = QElapsedTimer()

    @property
    def playing(self) -> bool:
        """Whether it runs."""
        return self._timer.isActive()

    def play(self) -> None:
        """Run from here, or from the start when it is at the end."""
        low, high = self.reach()
        if not self.endless and not low <= self.ms < high:
            self.ms = low
        self._rested, self._way = 0.0, 1.0
        self._since.start()
        self._timer.start()
        self.played.emit(True)

    def reach(self) -> tuple[float, float]:
        """Between which moments it plays."""
        if self.play_range is None:
            return 0.0, self.length
        return min(self.play_range[0], self.length), min(self.play_range[1], self.length)

    def stop(self) -> None:
        """Stand still."""
        if self.playing:
            self._timer.stop()
            if not self.endless:
                self.seek(float(round(self.ms)))  # a moment is a fraction only where somebody typed one
            self.played.emit(False)

    def toggle(self) -> None:
        """Play or stop."""
        if self.playing:
            self.stop()
        else:
            self.play()

    def seek(self, ms: float) -> None:
        """Go to a time."""
        self.ms = max(0.0, ms if self.endless else min(ms, self.length))
        self._rested = 0.0
        self.ticked.emit(self.ms)

    def step(self, frames: int) -> None:
        """Go frames on or back, standing: to the next whole one at the chosen rate, or of the display."""
        self.stop()
        rate = self.rate or _DISPLAY
        self.seek(float(round((round(self.ms * rate / 1000) + frames) * 1000 / rate)))

    def set_duration(self, length: float) -> None:
        """The time's end; the moment stays inside."""
        self.length = length
        if not self.endless and self.ms > length:
            self.seek(length)

    def _tick(self) -> None:
        pictures.begin()
        passed = min(_LONGEST, self._since.nsecsElapsed() / 1e6)
        self._since.start()
        self.advance(passed)

    def catch_up(self) -> bool:
        """While it runs: what has passed since the last tick passes now, and the next one comes a whole one later.
        What is done between two ticks is done at the moment that was seen, and seen to go on at once."""
        if self.playing:
            self._timer.start()
            self._tick()
        return self.playing

    def advance(self, passed: float) -> None:
        """Let real ms pass (the timer does; tests may)."""
        self.ms += passed * self.speed * self._way
        low, high = self.reach()
        if not self.endless and self._way < 0 and self.ms <= low:
            self.ms, self._way = low, 1.0
        elif not self.endless and self.ms >= high:
            self.ms = high
            if self.back or self.loop:
                self._rested += passed
                if self._rested >= _REST:
                    self._rested = 0.0
                    if self.back:
                        self._way = -1.0
                    else:
                        self.ms = low
            else:
                self.stop()
        self.ticked.emit(self.ms)
