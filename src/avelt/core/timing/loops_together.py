"""Loops that are alike but for their numbers, worked out and added together: what many uses of a part cost.

They say the same as their tracks do one after the other. Arrays are small there, and each look at one costs.
"""

from __future__ import annotations

from collections import Counter

from avelt.core.arrays import Floats, np
from avelt.core.curves.easing import CurveTable
from avelt.core.timing.loops import round_duration
from avelt.core.timing.tracks import LoopTrack, Track, bounded, keep_possible


class LoopsTogether:
    """Those loops among tracks of which one curve says all, that wait evenly, and that write places of their own."""

    def __init__(self, tracks: tuple[Track, ...]) -> None:
        loops = [track for track in tracks if isinstance(track, LoopTrack)]
        written = Counter(place for track in loops for place in track.written.tolist())
        self.tracks = [
            track for track in loops if _alike(track) and all(written[p] == 1 for p in track.written.tolist())
        ]
        self.ids = frozenset(map(id, self.tracks))
        loop = [track.loop for track in self.tracks]
        self._clock = np.array([track.clock for track in self.tracks], np.intp)
        self._later = np.array([one.start_offset for one in loop])
        self._once = np.array([one.wait if one.wait_when == "once" else 0.0 for one in loop])
        self._whole = np.array([round_duration(one) for one in loop])
        self._duration = np.array([one.duration for one in loop])
        self._rounds = np.array([one.rounds or np.inf for one in loop])
        self._held = np.array([track.curve.held for track in self.tracks])
        self._one_way = np.array([one.direction == "one way" for one in loop])
        self._curves = CurveTable([track.curve.curve for track in self.tracks])
        self._places, self._added, self._adds = _joined([(track.places, track.added) for track in self.tracks])
        self._scaled, self._ratios, self._scales = _joined([(track.scaled, track.ratios) for track in self.tracks])
        places = np.concatenate([self._places, self._scaled])
        self._bounded = bounded(places, self.tracks[0].dense if self.tracks else 0)

    def put(self, out: Floats, times: Floats) -> None:
        """Add them to vectors (n, numbers) at times (n, clocks)."""
        far = self._far(times[:, self._clock])
        out[:, self._places] += self._added * far[:, self._adds]
        out[:, self._scaled] *= 1.0 + (self._ratios - 1.0) * far[:, self._scales]
        keep_possible(out, self._bounded)

    def _far(self, ms: Floats) -> Floats:
        """How far each is from its rest at times (n, loops); see ``LoopCurve.at``."""
        t = ms + self._later
        t = t - self._once
        runs = t >= 0.0
        t = np.where(runs, t, 0.0)
        number = np.floor(t / self._whole)
        share = (t - number * self._whole - (self._whole - self._duration)) / self._duration
        along = np.clip(share, 0.0, 1.0)
        there = along < 0.5
        back = np.clip(np.where(there, along * 2.0, along * 2.0 - 1.0), 0.0, 1.0)
        eased = self._curves.at(np.where(self._one_way, along, back))
        value = np.where(self._one_way | there, eased, 1.0 - eased)
        value = np.where(share < 0, np.where(number > 0, self._held, 0.0), value)
        value = np.where(t >= self._rounds * self._whole, self._held, value)
        return np.where(runs, value, 0.0)


def _alike(track: LoopTrack) -> bool:
    simple = not len(track.curve.keys) and not track.fades and track.course is None
    return simple and not track.loop.jitter and track.loop.duration > 0.0


def _joined(parts: list[tuple[np.ndarray, Floats]]) -> tuple[np.ndarray, Floats, np.ndarray]:
    """Places and numbers of several tracks behind each other, and whose each is."""
    nothing = np.zeros(0)
    places = np.concatenate([nothing, *(places for places, _ in parts)]).astype(np.intp)
    numbers = np.concatenate([nothing, *(numbers for _, numbers in parts)])
    return places, numbers, np.repeat(np.arange(len(parts)), [len(places) for places, _ in parts])
