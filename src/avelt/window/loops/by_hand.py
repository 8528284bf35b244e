"""Follows of a frame driven by hand: what follows one value goes there, each with its lag."""

from __future__ import annotations

from avelt.core.model.follows import ByScroll
from avelt.core.model.values import Follow, Frame
from avelt.core.running.follow_work import share_between
from avelt.core.running.following import Following
from avelt.core.timing.followers import WHOLE, clock_of
from avelt.core.timing.scrolling import ACROSS, DOWN, most_scrolled


class ByHand:
    """How far each follow is, by its id."""

    def __init__(self) -> None:
        self._at: dict[str, Following] = {}
        self._scrolled: tuple[str, float] = ("", 0.0)  # along which clock, px

    @staticmethod
    def of_one_value(frame: Frame, follow: Follow | None) -> tuple[Follow, ...]:
        """Those of a frame that follow the same value as one of them."""
        return tuple(entry for entry in frame.follows if follow is not None and entry.by == follow.by)

    def drive(self, follows: tuple[Follow, ...], value: float, ms: float) -> None:
        """The value of some follows is elsewhere."""
        by = follows[0].by if follows else None
        if isinstance(by, ByScroll):
            self._scrolled = DOWN if by.axis == "down" else ACROSS, value
        else:
            self._scrolled = "", 0.0
        for follow in follows:
            share = share_between(value, follow.start, follow.end)
            known = self._at.get(follow.id, Following(lag=follow.lag))
            if known.wanted != share or known.lag != follow.lag:
                known = Following(known.wanted, known.at(ms), ms, follow.lag)
                self._at[follow.id] = known.aimed(ms, share)

    def shares(self, frame: Frame, ms: float) -> dict[str, float]:
        """How far each is at a time."""
        return {follow.id: self._at[follow.id].at(ms) for follow in frame.follows if follow.id in self._at}

    def clocks(self, frame: Frame, ms: float) -> dict[str, float]:
        """The same as clocks of a program."""
        shares = self.shares(frame, ms)
        found = {clock_of(follow): shares[follow.id] * WHOLE for follow in frame.follows if follow.id in shares}
        clock, value = self._scrolled
        if clock:
            most = most_scrolled(frame)[clock == DOWN]
            found |= {ACROSS: 0.0, DOWN: 0.0, clock: min(most, max(0.0, value))}
        return found
