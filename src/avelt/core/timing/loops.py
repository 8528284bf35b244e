"""How far a loop is from its rest at a time."""

from __future__ import annotations

import numpy as np
from numpy.typing import ArrayLike

from avelt.core.curves import easing
from avelt.core.curves.named import plain
from avelt.core.geometry.affine import Floats
from avelt.core.model.curves import PlainCurve
from avelt.core.model.values import Loop, Project
from avelt.core.record import Record


def round_duration(loop: Loop) -> float:
    """One round in ms, with the wait when that comes before each round."""
    return loop.duration + (loop.wait if loop.wait_when == "before each round" else 0.0)


def total_length(loop: Loop) -> float:
    """From the start to the end of the last round, ms; infinite when it is endless."""
    if loop.rounds == 0:
        return float("inf")
    once = loop.wait if loop.wait_when == "once" else 0.0
    return once + loop.rounds * round_duration(loop)


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
    return eased_distance(loop, plain(project, loop.curve), np.asarray(ms, float))


def eased_distance(loop: Loop, curve: PlainCurve, ms: Floats) -> Floats:
    """The same over a curve that was looked up; where no time is known (``nan``) it rests."""
    t = ms + loop.start_offset
    if loop.wait_when == "once":
        t = t - loop.wait
    whole = round_duration(loop)
    runs = t >= 0.0
    if whole <= 0 or loop.duration <= 0 or not runs.any():
        return np.zeros_like(t)
    t = np.where(runs, t, 0.0)
    wait = whole - loop.duration
    number = np.floor(t / whole)
    within = t - number * whole - wait
    share = np.clip(within / loop.duration, 0.0, 1.0)
    held = 1.0 if loop.direction == "one way" and loop.at_rest == "hold" else 0.0
    if loop.direction == "one way":
        value = np.where(within < 0, np.where(number > 0, held, 0.0), easing.at(curve, share))
    else:
        there = easing.at(curve, np.clip(share * 2.0, 0.0, 1.0))
        back = 1.0 - easing.at(curve, np.clip(share * 2.0 - 1.0, 0.0, 1.0))
        value = np.where(within < 0, 0.0, np.where(share < 0.5, there, back))
    if loop.rounds:
        value = np.where(t >= loop.rounds * whole, held, value)
    return np.where(runs, value, 0.0)


def stage_words(loop: Loop, ms: float) -> str:
    """Where a loop is, in words."""
    where = stage(loop, ms)
    if where.doing == "done":
        return "done"
    if where.doing == "waits":
        return f"waits {where.left / 1000:.1f} s more"
    endless = ", endless" if not loop.rounds else f" of {loop.rounds}"
    return f"round {where.round + 1}{endless}"
