"""How far a loop is from its rest at a time."""

from __future__ import annotations

import math
from collections.abc import Callable

from avelt.core.arrays import ArrayLike, Floats, np
from avelt.core.curves import easing
from avelt.core.curves.named import plain
from avelt.core.model.curves import Curve, PlainCurve
from avelt.core.model.values import Loop, Project, RoundKey
from avelt.core.record import Record
from avelt.core.words import tr


def round_duration(loop: Loop) -> float:
    """One round in ms, with the wait when that comes before each round."""
    return loop.duration + (loop.wait if loop.wait_when == "before each round" else 0.0)


def total_length(loop: Loop) -> float:
    """From the start to the end of the last round, ms; infinite when it is endless."""
    if loop.rounds == 0:
        return float("inf")
    once = loop.wait if loop.wait_when == "once" else 0.0
    return once + loop.rounds * round_duration(loop)


def round_end(loop: Loop, ms: float) -> float:
    """When the round that runs at a time since its start is over; the start itself where none has begun."""
    lead = (loop.wait if loop.wait_when == "once" else 0.0) - loop.start_offset
    whole = round_duration(loop)
    if whole <= 0.0 or ms <= lead:
        return max(0.0, min(ms, lead))
    ends = lead + whole * math.ceil((ms - lead) / whole - 1e-9)
    return ends - 1e-6 if loop.at_rest == "hold" and loop.direction == "one way" else ends


class LoopState(Record, frozen=True):
    """Where a loop is: the round (from 0), and whether it waits, goes there, comes back or is done."""

    round: int
    doing: str  # "waits", "there", "back", "done"
    left: float  # ms until what it does now is over; infinite when done


def stage(loop: Loop, ms: float) -> LoopState:
    """What the loop does at one time since it started."""
    once = loop.wait if loop.wait_when == "once" else 0.0
    t = ms + loop.start_offset - once
    if t < 0:
        return LoopState(0, "waits", -t)
    whole = round_duration(loop)
    if whole <= 0 or (loop.rounds and t >= loop.rounds * whole):
        return LoopState(max(0, loop.rounds - 1), "done", float("inf"))
    number, within = int(t // whole), t % whole
    wait = whole - loop.duration
    if within < wait:
        return LoopState(number, "waits", wait - within)
    within -= wait
    if loop.direction == "one way":
        return LoopState(number, "there", loop.duration - within)
    half = loop.duration / 2
    return (
        LoopState(number, "there", half - within)
        if within < half
        else LoopState(number, "back", loop.duration - within)
    )


def distance(loop: Loop, ms: ArrayLike, project: Project | None = None) -> Floats:
    """How far towards its second pose (0..1, more when the curve overshoots) at times since the start.

    Before the first round it is at rest; after the last it rests too, but a one-way loop that holds
    stays where it arrived.
    """
    return LoopCurve(loop, lambda curve: plain(project, curve)).at(np.asarray(ms, float))


class LoopCurve:
    """How far a loop is over time, its curves looked up (by ``look``)."""

    def __init__(self, loop: Loop, look: Callable[[Curve], PlainCurve]) -> None:
        self.loop, self.curve = loop, look(loop.curve)
        keys = loop.keyframes
        if keys and keys[0].at > 0.0:
            keys = (RoundKey(0.0, 0.0), *keys)
        self._at = np.array([key.at for key in keys])
        self._far = np.array([key.far for key in keys])
        self._curves = [look(key.curve) if key.curve is not None else self.curve for key in keys]
        #: Where it stays between rounds and after the last.
        self.held = 0.0
        if loop.at_rest == "hold" and (keys or loop.direction == "one way"):
            self.held = float(self._far[-1]) if keys else 1.0

    @property
    def keys(self) -> list[tuple[RoundKey, PlainCurve]]:
        """The loop's keyframes with the curves that lead into them."""
        return list(zip(self.loop.keyframes, self._curves[-len(self.loop.keyframes) :], strict=True))

    def at(self, ms: Floats) -> Floats:
        """How far at times; where no time is known (``nan``) it rests."""
        loop = self.loop
        t = ms + loop.start_offset
        if loop.wait_when == "once":
            t = t - loop.wait
        whole = round_duration(loop)
        runs = t >= 0.0
        if whole <= 0 or loop.duration <= 0 or not runs.any():
            return np.zeros_like(t)
        t = np.where(runs, t, 0.0)
        number = np.floor(t / whole)
        within = t - number * whole - self._waits(number, whole - loop.duration)
        share = within / loop.duration
        value = self.along(np.clip(share, 0.0, 1.0))
        value = np.where(within < 0, np.where(number > 0, self.held, 0.0), value)
        if loop.jitter:
            value = np.where(share > 1.0, self.held, value)
        if loop.rounds:
            value = np.where(t >= loop.rounds * whole, self.held, value)
        return np.where(runs, value, 0.0)

    def along(self, share: Floats) -> Floats:
        """How far at shares (0..1) of one round without its wait."""
        if len(self._at):
            segment = np.clip(np.searchsorted(self._at, share, side="right") - 1, 0, len(self._at) - 1)
            after = np.minimum(segment + 1, len(self._at) - 1)
            span = self._at[after] - self._at[segment]
            part = np.clip((share - self._at[segment]) / np.where(span > 0.0, span, 1.0), 0.0, 1.0)
            eased = np.zeros_like(part)
            for k, curve in enumerate(self._curves):
                eased = np.where(after == k, easing.at(curve, part), eased)
            return np.asarray(self._far[segment] + eased * (self._far[after] - self._far[segment]))
        if self.loop.direction == "one way":
            return easing.at(self.curve, share)
        there = share < 0.5
        eased = easing.at(self.curve, np.clip(np.where(there, share * 2.0, share * 2.0 - 1.0), 0.0, 1.0))
        return np.where(there, eased, 1.0 - eased)

    def _waits(self, number: Floats, wait: float) -> Floats | float:
        """The wait of rounds (by their number), ms."""
        jitter = self.loop.jitter
        return wait * (1.0 - jitter * chance(self.loop.seed, number)) if jitter and wait else wait


def chance(seed: int, number: Floats) -> Floats:
    """Numbers from 0 to 1 by a seed and whole numbers: always the same, everywhere (the mixer of SplitMix64)."""
    with np.errstate(over="ignore"):
        z = number.astype(np.uint64) + np.uint64(seed) * np.uint64(0x9E3779B97F4A7C15) + np.uint64(0x9E3779B97F4A7C15)
        z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        z = z ^ (z >> np.uint64(31))
    return np.asarray((z >> np.uint64(11)).astype(float) / float(2**53))


def stage_words(loop: Loop, ms: float) -> str:
    """Where a loop is, in words."""
    where = stage(loop, ms)
    if where.doing == "done":
        return "done"
    if where.doing == "waits":
        return tr("waits {left:.1f} s more", left=where.left / 1000)
    if not loop.rounds:
        return tr("round {round}, endless", round=where.round + 1)
    return tr("round {round} of {rounds}", round=where.round + 1, rounds=loop.rounds)
