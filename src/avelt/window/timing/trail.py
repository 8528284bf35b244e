"""Where a motion that follows a value with lag is, while the playhead is driven by hand over its travel."""

from __future__ import annotations

from PySide6.QtCore import QElapsedTimer, QObject, Qt, QTimer, Signal

from avelt.core.model.triggers import Drag, Pointer, Scroll
from avelt.core.model.values import Route
from avelt.core.running.following import Following
from avelt.core.words import tr

_THERE = 1e-3  # of the way


def lag_of(route: Route | None) -> float:
    """The lag of what a route follows, ms."""
    on = route.trigger if route is not None else None
    return on.lag if isinstance(on, Drag | Scroll | Pointer) else 0.0


def travel_words(route: Route | None, share: float) -> str:
    """How far the value is that a route follows, such as ``96 of 240 px``; empty for a motion by the clock."""
    on = route.trigger if route is not None else None
    if isinstance(on, Drag) and on.along != "path":
        return tr("{travel:.0f} of {travel2:.0f} px", travel=on.travel * share, travel2=on.travel)
    if isinstance(on, Drag):
        return tr("{share:.0f} % of the path", share=share * 100)
    if isinstance(on, Scroll):
        return tr("scrolled {start:.0f} px", start=on.start + (on.end - on.start) * share)
    if isinstance(on, Pointer):
        return tr("pointer at {start:.2f}", start=on.start + (on.end - on.start) * share)
    return ""


class Trail(QObject):
    """``moved`` comes while it catches up."""

    moved = Signal()

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._following = Following()
        self._now = 0.0  # ms since it was made
        self._since = QElapsedTimer()
        self._since.start()
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(16)
        self._timer.timeout.connect(lambda: self.advance(float(self._since.restart())))

    def drive(self, share: float, lag: float) -> float:
        """The playhead is at a share of the whole: how far the motion is. Without a lag it is there."""
        if lag <= 0.0:
            self._following = Following(share, share, self._now)
            self._timer.stop()
            return share
        if share != self._following.wanted or lag != self._following.lag:
            at = self._following.at(self._now)
            self._following = Following(at, at, self._now, lag).aimed(self._now, share)
        if abs(share - self._following.at(self._now)) > _THERE and not self._timer.isActive():
            self._since.restart()
            self._timer.start()
        return self._following.at(self._now)

    @property
    def catches_up(self) -> bool:
        """Whether it is still on its way."""
        return self._timer.isActive()

    def advance(self, passed: float) -> None:
        """Let ms pass (the timer does; tests may)."""
        self._now += passed
        if abs(self._following.wanted - self._following.at(self._now)) <= _THERE:
            self._timer.stop()
        self.moved.emit()
