"""Rounds of loops as keyframes: shares of one round, when loops come round together, what is held back."""

from __future__ import annotations

import math
from collections.abc import Sequence

from avelt.core.arrays import Floats, np
from avelt.core.curves import easing
from avelt.core.handoff.nodes import LINE
from avelt.core.model.curves import PlainCurve
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.model.values import Loop
from avelt.core.timing.loops import LoopCurve, round_duration
from avelt.core.timing.tracks import LoopTrack

MOST_PERIOD = 60_000.0  # ms that loops that seldom meet are followed for
CHANCE_ROUNDS = 12  # rounds of a loop with chance waits before it begins again
_WIDTH = len(SCALARS)


def telling(loop: Loop) -> list[float]:
    """Times since a loop began at which it is most likely away from its rest: on its way, not while it waits."""
    whole = round_duration(loop)
    if whole <= 0.0:
        return []
    lead = (loop.wait if loop.wait_when == "once" else 0.0) - loop.start_offset
    ways = [whole - loop.duration + share * loop.duration for share in (0.2, 0.4, 0.6, 0.8, 0.95)]
    if loop.jitter:
        ways += [share * whole for share in np.linspace(0.0, 1.0, 24, endpoint=False).tolist()]
    first = [max(0.0, lead) + way for way in ways]
    return first + [(lead + way) % whole for way in ways] if lead < 0.0 else first


def round_of(curve: LoopCurve) -> tuple[list[float], list[float], list[PlainCurve]]:
    """One round of a loop: shares of it, how far it is there, and the curves between."""
    loop, whole = curve.loop, round_duration(curve.loop)
    wait = (whole - loop.duration) / whole if whole > 0.0 else 0.0
    shares, far = [0.0], [0.0]
    curves: list[PlainCurve] = []
    if wait > 0.0:
        shares, far, curves = [0.0, wait], [curve.held, curve.held], [LINE]
        if curve.held:
            shares, far, curves = [*shares, wait], [*far, 0.0], [LINE, LINE]
    if loop.keyframes:
        for key, own in curve.keys:
            if key.at <= 0.0:
                if wait > 0.0 and not curve.held:  # it jumps there when its wait is over
                    shares, far, curves = [*shares, wait], [*far, 0.0], [*curves, LINE]
                far[-1] = key.far
                continue
            shares.append(wait + key.at * (1.0 - wait))
            far.append(key.far)
            curves.append(own)
        if shares[-1] < 1.0:
            shares.append(1.0)
            far.append(far[-1])
            curves.append(LINE)
    elif loop.direction == "one way":
        shares, far, curves = [*shares, 1.0], [*far, 1.0], [*curves, curve.curve]
    else:
        shares = [*shares, (1.0 + wait) / 2.0, 1.0]
        far, curves = [*far, 1.0, 0.0], [*curves, curve.curve, curve.curve]
    return shares, far, curves


def beyond(track: LoopTrack, rows: Floats, where: dict[int, int], places: np.ndarray) -> bool:
    """Whether a loop drives a size below nothing or an opacity beyond 0..1, where it is held back."""
    curves = round_of(track.curve)[2]
    over = any(easing.at(curve, np.linspace(0, 1, 33)).max() > 1.0 + 1e-9 for curve in curves)
    column = np.where(places < track.dense, places % _WIDTH, -1)
    bounded = np.isin(column, [COLUMN["w"], COLUMN["h"], COLUMN["opacity"]])
    touched = np.zeros(len(places), bool)
    touched[[where[p] for p in track.written.tolist() if p in where]] = True
    inside = rows[:, bounded & touched]
    limits = np.where(column[bounded & touched] == COLUMN["opacity"], 1.0, np.inf)
    return bool(inside.size and (over or (inside < 0.0).any() or (inside > limits).any()))


def common_period(loops: Sequence[Loop]) -> tuple[float, bool]:
    """After how many ms loops come round together, and whether they do within ``MOST_PERIOD``."""
    lengths = []
    for loop in loops:
        lengths.append(round_duration(loop) * (CHANCE_ROUNDS if loop.jitter else 1))
    chance = any(loop.jitter for loop in loops)
    micro = [max(1, round(length * 1000)) for length in lengths]
    period = math.lcm(*micro) / 1000.0
    if period > MOST_PERIOD:
        longest = max(lengths)
        return longest * max(1, math.floor(MOST_PERIOD / longest)), False
    return period, not chance
