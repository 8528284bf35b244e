"""Curves that fall and bounce, swing and die away, or hold: each on 0..1, ending at exactly 1."""

from __future__ import annotations

from avelt.core.arrays import Floats, np
from avelt.core.model.curves import Drops, Hold, Ring


def drops(curve: Drops, t: Floats) -> Floats:
    """A fall from 0 to 1, then ``count`` bounces: parabolas of one gravity.

    A bounce to the height h lasts twice the time of a fall from it, and that goes with the root of h.
    """
    heights = curve.keep ** np.arange(1, curve.count + 1)
    lasts = np.concatenate([[1.0], 2.0 * np.sqrt(heights)])
    ends = np.cumsum(lasts) / lasts.sum()
    starts = np.concatenate([[0.0], ends[:-1]])
    inside = np.clip(t, 0.0, 1.0)
    i = np.minimum(np.searchsorted(ends, inside, side="right"), curve.count)
    share = (inside - starts[i]) / np.maximum(ends[i] - starts[i], 1e-12)
    up = np.concatenate([[0.0], heights])[i]
    value = np.where(i == 0, share * share, 1.0 - up * (1.0 - (2.0 * share - 1.0) ** 2))
    return np.where(t >= 1.0, 1.0, np.where(t <= 0.0, 0.0, value))


def ring(curve: Ring, t: Floats) -> Floats:
    """1 - exp(-decay t) cos(2 pi swings t); what is left at the end is spread evenly, as for springs."""
    inside = np.clip(t, 0.0, 1.0)

    def plain(at: Floats) -> Floats:
        return np.asarray(1.0 - np.exp(-curve.decay * at) * np.cos(2.0 * np.pi * curve.swings * at))

    left = 1.0 - float(plain(np.array(1.0)))
    return np.where(t <= 0.0, 0.0, np.where(t >= 1.0, 1.0, plain(inside) + left * inside))


def hold(curve: Hold, t: Floats) -> Floats:
    """0 before the moment, 1 from it on."""
    return np.where(t >= curve.at, 1.0, 0.0)
