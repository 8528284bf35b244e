"""The damped spring as a curve on 0..1.

x'' + 2 z x' + x = 1 with x(0) = 0 and z = 1 - bounce, in the spring's own time tau; t = 1 is the moment
after which x stays within ``SETTLED`` of 1. What is left there (at most 0.1 %) is spread evenly over the
way, so that the curve ends at exactly 1 without a step.
"""

from __future__ import annotations

import math
from functools import lru_cache

from avelt.core.arrays import Floats, np

SETTLED = 1e-3
MIN_DAMPING = 0.02  # a spring without damping would never settle


def position(damping: float, speed: float, tau: Floats) -> Floats:
    """x(tau) for a damping ratio and a start speed in the spring's own time."""
    if damping < 1.0 - 1e-9:
        wave = math.sqrt(1.0 - damping * damping)
        return 1.0 - np.exp(-damping * tau) * (np.cos(wave * tau) + (damping - speed) / wave * np.sin(wave * tau))
    if damping <= 1.0 + 1e-9:
        return 1.0 - np.exp(-tau) * (1.0 + (1.0 - speed) * tau)
    root = math.sqrt(damping * damping - 1.0)
    fast, slow = -damping - root, -damping + root
    share = (speed + fast) / (fast - slow)
    return 1.0 - share * np.exp(slow * tau) - (1.0 - share) * np.exp(fast * tau)


def _settling(damping: float, speed: float) -> float:
    slowest = damping if damping <= 1.0 else damping - math.sqrt(damping * damping - 1.0)
    end = (math.log(1.0 / SETTLED) + 3.0 + math.log1p(abs(speed))) / slowest
    tau = np.linspace(0.0, end, 8193)
    away = np.abs(position(damping, speed, tau) - 1.0) > SETTLED
    last = int(np.flatnonzero(away)[-1])
    low, high = float(tau[last]), float(tau[min(last + 1, len(tau) - 1)])
    for _ in range(50):
        middle = (low + high) / 2
        if abs(float(position(damping, speed, np.array(middle))) - 1.0) > SETTLED:
            low = middle
        else:
            high = middle
    return high


@lru_cache(maxsize=1024)
def natural(bounce: float, speed: float) -> tuple[float, float, float, float]:
    """(damping ratio, start speed in own time, settling time in own time, what is left there).

    ``speed`` is the slope of the finished curve at its start. The settling time depends on it and it on
    the settling time: a few rounds find both.
    """
    damping = max(MIN_DAMPING, 1.0 - bounce)
    own = 0.0
    settle = _settling(damping, own)
    if speed:
        for _ in range(24):
            new = speed / settle
            settle = _settling(damping, new)
            if abs(new - own) < 1e-9:
                break
            own = new
    left = 1.0 - float(position(damping, own, np.array(settle)))
    return damping, own, settle, left


def evaluate(bounce: float, speed: float, t: Floats) -> Floats:
    """Values at t; 0 before and 1 after."""
    damping, own, settle, left = natural(bounce, speed)
    inside = np.clip(t, 0.0, 1.0)
    value = position(damping, own, inside * settle) + left * inside
    return np.where(t <= 0.0, 0.0, np.where(t >= 1.0, 1.0, value))
