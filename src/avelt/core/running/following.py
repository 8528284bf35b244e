"""How far something is that follows a value, solved between events: so that the step of the clock changes nothing.

The value says how far it shall be, p in 0..1. It is at q, with ``q' = (p - q) / lag``. Between events p does not
change, so ``q = p + (q0 - p) exp(-(t - t0) / lag)``. Let go it comes to an end by a cubic that begins with the speed
that it had: the Hermite basis, cut short where it would leave 0..1.
"""

from __future__ import annotations

import math

from msgspec.structs import replace

from avelt.core.model.triggers import LetGo
from avelt.core.record import Record

CLOSE = 5e-4  # so near to an end it is there
LOOK_AHEAD = 200.0  # ms: how far a speed carries what is let go, where that decides about the end
RESTS = 50.0  # ms without news of what is followed: it stands still
LEAST = 120.0  # ms that coming to an end takes at least, where the motion itself is not shorter
_MOST_SLOPE = 3.0  # of a cubic from 0 to 1 that never turns round (Fritsch and Carlson, 1980)
_DEEPEST = 27.0 / 4.0  # t (1 - t)^2 is at most 1 over this


class Settling(Record, frozen=True):
    """Let go at ``began`` (ms), at ``share`` with ``speed`` (shares a ms): it comes to ``end`` in ``duration`` ms."""

    began: float
    share: float
    speed: float
    end: float
    duration: float

    def at(self, now: float) -> float:
        """How far it is at a time."""
        if now >= self.began + self.duration:
            return self.end
        t = max(0.0, now - self.began) / self.duration
        far = (1.0 + 2.0 * t) * (1.0 - t) ** 2 * self.share + t * (1.0 - t) ** 2 * self.speed * self.duration
        return min(1.0, max(0.0, far + t * t * (3.0 - 2.0 * t) * self.end))

    def speed_at(self, now: float) -> float:
        """How fast it goes at a time, shares a ms."""
        if now >= self.began + self.duration or self.duration <= 0.0:
            return 0.0
        t = max(0.0, now - self.began) / self.duration
        way = (self.end - self.share) * 6.0 * t * (1.0 - t) / self.duration
        return way + (1.0 - t) * (1.0 - 3.0 * t) * self.speed


class Following(Record, frozen=True):
    """Where it is: at ``share`` at ``since`` (ms), and shall be at ``wanted``. ``pace`` is the speed of what it follows
    without lag, as it was then. ``held``: somebody holds it, so that it ends nowhere by itself."""

    wanted: float = 0.0
    share: float = 0.0
    since: float = 0.0
    lag: float = 0.0
    pace: float = 0.0
    held: bool = False
    settling: Settling | None = None

    def at(self, now: float) -> float:
        """How far it is at a time, 0..1."""
        if self.settling is not None:
            return self.settling.at(now)
        if self.lag <= 0.0:
            return self.wanted
        return self.wanted + (self.share - self.wanted) * math.exp(-max(0.0, now - self.since) / self.lag)

    def speed_at(self, now: float) -> float:
        """How fast it goes at a time, shares a ms."""
        if self.settling is not None:
            return self.settling.speed_at(now)
        if self.lag > 0.0:
            return (self.wanted - self.at(now)) / self.lag
        return self.pace if now - self.since <= RESTS else 0.0

    def aimed(self, now: float, wanted: float, pace: float = 0.0, held: bool = False) -> Following:
        """The same that from now on shall be elsewhere; it goes on from where it is."""
        wanted = min(1.0, max(0.0, wanted))
        pace = pace if 0.0 < wanted < 1.0 else 0.0  # at an end it stands, however fast the hand goes on
        return replace(self, wanted=wanted, share=self.at(now), since=now, pace=pace, held=held, settling=None)

    def ends_at(self) -> float:
        """When it is at an end and stays there, ms; never where it is held, or shall be between the ends."""
        if self.settling is not None:
            return self.settling.began + self.settling.duration
        if self.held or self.wanted not in (0.0, 1.0):
            return math.inf
        away = abs(self.share - self.wanted)
        return self.since if self.lag <= 0.0 or away <= CLOSE else self.since + self.lag * math.log(away / CLOSE)

    @property
    def end(self) -> float:
        """The end that it comes to, if it comes to one."""
        return self.settling.end if self.settling is not None else self.wanted


def let_go(following: Following, now: float, how: LetGo, lets_go: float, duration: float) -> Following:
    """What is held is let go, and stays or comes to one of its ends; all the way would take ``duration`` ms.

    The hand decides which end, not what lags behind it; that goes on from where it is, with its speed.
    """
    share, speed = following.at(now), following.speed_at(now)
    if how == "stay":
        return replace(following, pace=0.0, held=False)  # what lags still comes to where the hand was
    far = following.wanted
    if how == "speed" and now - following.since <= RESTS:
        far += following.pace * LOOK_AHEAD
    end = 0.0 if how == "back" or far < lets_go else 1.0
    return replace(following, held=False, settling=settled(share, speed, end, now, duration))


def settled(share: float, speed: float, end: float, now: float, duration: float) -> Settling:
    """How it comes to an end from where it is, with the speed that it has.

    >>> round(settled(0.5, 0.0, 1.0, 0.0, 400.0).at(100.0), 4)
    0.75
    """
    way = end - share
    takes = max(duration * abs(way), min(duration, LEAST))
    if speed * way > 0.0:  # it goes there already: not so slowly that it would go beyond and come back
        takes = min(takes, _MOST_SLOPE * abs(way) / abs(speed))
    elif speed:
        room = share if speed < 0.0 else 1.0 - share
        takes = min(takes, _DEEPEST * room / abs(speed))
    return Settling(now, share, speed, end, takes if abs(way) > 0.0 else 0.0)
