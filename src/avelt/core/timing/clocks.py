"""The clocks that a program is read by: number 0 is the transition's, then there is one for each loop that is at work.

Times are vectors (..., clocks) in ms since each clock began; ``nan`` is a clock that does not run, and what hangs on it
rests.
"""

from __future__ import annotations

from collections.abc import Mapping

from avelt.core.arrays import ArrayLike, Floats, np
from avelt.core.record import Record

NEVER = float("inf")


class Clocks(Record, frozen=True):
    """``origins`` (n,) of the loops with a clock of their own, and when each begins, ms on clock 0, if nobody says so:
    loops of the frame that is left begin with the transition, those of the frame arrived at with the arrival.
    ``stands``: the program is a frame at rest, whose clock 0 does not run. What begins ``NEVER`` is no time: how far a
    value has come, how far a frame is scrolled.
    """

    origins: tuple[str, ...] = ()
    begins: tuple[float, ...] = ()
    stands: bool = False

    def and_also(self, *origins: str) -> Clocks:
        """With more clocks that nothing begins by itself, behind the others."""
        return Clocks((*self.origins, *origins), (*self.begins, *(NEVER for _ in origins)), self.stands)

    def only(self, ms: ArrayLike) -> Floats:
        """Times (..., clocks) when only the transition's clock runs, at moments (...,)."""
        ms = np.asarray(ms, float)
        out = np.full((*ms.shape, 1 + len(self.origins)), np.nan)
        out[..., 0] = ms
        return out

    def running(self, ms: float, since: Mapping[str, float]) -> Floats:
        """Times (clocks,): the transition's, and for how long each loop (by origin) runs."""
        return np.array([ms, *(since.get(origin, np.nan) for origin in self.origins)], float)

    def started_at_zero(self, ms: ArrayLike) -> Floats:
        """Times (..., clocks) when everything began at 0, as pictures and files show it.

        >>> Clocks(("A", "B"), (0.0, 400.0)).started_at_zero(500.0).tolist()
        [500.0, 500.0, 100.0]
        """
        out = self.only(ms)
        for k, begins in enumerate(self.begins, 1):
            own = out[..., 0] - begins
            out[..., k] = np.where(own >= 0.0, own, np.nan)
        if self.stands:
            out[..., 0] = 0.0
        return out
