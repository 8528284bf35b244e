"""Numbers over time as straight lines between few moments."""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.arrays import Floats, np

_HALVINGS = 20  # of a step of the grid, where a number jumps


def refined(times: Floats, values_at: Callable[[Floats], Floats], tolerance: float) -> tuple[Floats, Floats]:
    """Times (n,) with more between them where values (n, k) bend or jump by more than the tolerance, and the values."""
    values = values_at(times)
    fresh = np.ones(max(0, len(times) - 1), bool)
    for _ in range(_HALVINGS):
        # Only what was just parted is looked at again.
        looked = np.flatnonzero(fresh)
        if not len(looked):
            break
        middles = (times[looked] + times[looked + 1]) / 2
        between = values_at(middles)
        far = (np.abs(between - (values[looked] + values[looked + 1]) / 2)).max(1) > tolerance
        if not far.any():
            break
        places = looked[far] + 1
        times = np.insert(times, places, middles[far])
        values = np.insert(values, places, between[far], axis=0)
        fresh = np.zeros(len(times) - 1, bool)
        new = places + np.arange(len(places))
        fresh[new - 1] = fresh[new] = True
    return times, values


def fewest(times: Floats, values: Floats, tolerance: float) -> list[int]:
    """Rows of values (n, k) between which straight lines stay within the tolerance (Douglas and Peucker, 1973)."""
    kept, todo = {0, len(times) - 1}, [(0, len(times) - 1)]
    while todo:
        first, last = todo.pop()
        if last - first < 2:
            continue
        inside = slice(first + 1, last)
        share = (times[inside] - times[first]) / (times[last] - times[first])
        straight = values[first] + share[:, None] * (values[last] - values[first])
        far = np.abs(values[inside] - straight).max(1)
        worst = int(far.argmax())
        if far[worst] > tolerance:
            middle = first + 1 + worst
            kept.add(middle)
            todo += [(first, middle), (middle, last)]
    return sorted(kept)
