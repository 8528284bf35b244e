"""From ms to x and back over the sheet's width, zoomed and moved along."""

from __future__ import annotations

from collections.abc import Iterable

LEFT, RIGHT = 300, 240  # px for names and values on either side
_STEPS = (1, 2, 5, 10, 20, 30, 60, 100, 120, 200, 300, 500, 1000, 2000, 5000, 10000, 30000, 60000, 300000, 600000)
_MOST = 40.0  # times


class Scale:
    """``length`` is the time of the sheet, ``zoom`` how much larger than fitted it is, ``first`` where it begins."""

    def __init__(self) -> None:
        self.length = 300.0
        self.zoom = 1.0
        self.first = 0.0

    @property
    def shown(self) -> float:
        """How many ms are seen at once."""
        return self.length / self.zoom

    def x(self, ms: float, width: int) -> float:
        """Where a moment stands."""
        return LEFT + (ms - self.first) / max(self.shown, 1e-9) * max(1, width - LEFT - RIGHT)

    def ms(self, x: float, width: int) -> float:
        """Which moment stands there, inside the sheet's time."""
        share = (x - LEFT) / max(1, width - LEFT - RIGHT)
        return min(self.length, max(0.0, self.first + share * self.shown))

    def mark_near(self, ms: float, marks: Iterable[float], reach: float, width: int) -> float | None:
        """The nearest mark that is at most ``reach`` px away, or none."""
        best = min(marks, key=lambda mark: abs(mark - ms), default=None)
        return best if best is not None and abs(best - ms) <= self.span(reach, width) else None

    def span(self, dx: float, width: int) -> float:
        """How many ms a travel in px is."""
        return dx / max(1, width - LEFT - RIGHT) * self.shown

    def ticks(self, width: int) -> list[float]:
        """The moments that the ruler names: about every 80 px."""
        wanted = self.span(72, width)
        step = next((s for s in _STEPS if s >= wanted), _STEPS[-1])
        first, last = int(-(-self.first // step)), int((self.first + self.shown) / step + 1e-9)
        return [k * float(step) for k in range(first, last + 1)]

    def magnify(self, factor: float, ms: float) -> None:
        """Larger or smaller about a moment that stays where it is."""
        zoom = min(_MOST, max(1.0, self.zoom * factor))
        share = (ms - self.first) / max(self.shown, 1e-9)
        self.zoom = zoom
        self.move_to(ms - share * self.shown)

    def move_to(self, first: float) -> None:
        """Begin at a moment, as far as there is time to show."""
        self.first = min(max(0.0, first), max(0.0, self.length - self.shown))

    def fit(self) -> None:
        """All of the time."""
        self.zoom, self.first = 1.0, 0.0

    @property
    def state(self) -> tuple[float, float, float]:
        """What makes two scales show the same."""
        return self.length, self.zoom, self.first
