"""Numbers that do not go straight from one end to the other: keyframes, and positions that follow a path."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from avelt.core.curves import easing
from avelt.core.geometry.affine import Floats
from avelt.core.geometry.motion_path import ArcLengthPath
from avelt.core.model.curves import Curve, PlainCurve
from avelt.core.model.motion import Keyframe, MotionPath
from avelt.core.timing.schedule import Timed

Plain = Callable[[Curve], PlainCurve]


@dataclass(frozen=True)
class KeyframeTrack:
    """Numbers (places in the vector) that pass ``values`` (k, n) at ``times`` (k,) ms, by k - 1 curves."""

    places: np.ndarray
    times: Floats
    values: Floats
    curves: tuple[PlainCurve, ...]

    def at(self, ms: Floats) -> Floats:
        """Values (..., n) at moments (...,)."""
        ms = np.asarray(ms, float)
        segment = np.clip(np.searchsorted(self.times, ms, side="right") - 1, 0, len(self.curves) - 1)
        first, last = self.times[segment], self.times[segment + 1]
        span = last - first
        share = np.clip((ms - first) / np.where(span > 0, span, 1.0), 0.0, 1.0)
        eased = np.zeros_like(share)
        for k, curve in enumerate(self.curves):
            eased = np.where(segment == k, easing.at(curve, share), eased)
        eased = np.where(ms <= first, 0.0, np.where(ms >= last, 1.0, eased))[..., None]
        return np.asarray(self.values[segment] * (1.0 - eased) + self.values[segment + 1] * eased)

    @property
    def written(self) -> np.ndarray:
        """The places that it writes."""
        return self.places

    def put(self, out: Floats, ms: Floats) -> None:
        """Write them into vectors (..., numbers)."""
        out[..., self.places] = self.at(ms)


@dataclass(frozen=True)
class MotionPathTrack:
    """A layer whose pivot follows a way. ``places`` are x, y, w, h, pivot x, pivot y and turn in the vector."""

    places: np.ndarray
    course: ArcLengthPath
    along: KeyframeTrack  # its share of the way
    turns: bool

    @property
    def written(self) -> np.ndarray:
        """The places that it writes: the size and the pivot are only read."""
        return self.places[[0, 1, 6]] if self.turns else self.places[:2]

    def put(self, out: Floats, ms: Floats) -> None:
        """Write place (and turn) into vectors (..., numbers) that have everything else."""
        share = self.along.at(ms)[..., 0]
        there = self.course.at(share)
        w, h, px, py = (out[..., k] for k in self.places[2:6])
        out[..., self.places[0]] = there[..., 0] - px * w
        out[..., self.places[1]] = there[..., 1] - py * h
        if self.turns:
            out[..., self.places[6]] += self.course.lean(share)


def keyed(
    places: np.ndarray, first: Floats, last: Floats, values: list[Floats], when: Timed, plain: Plain
) -> KeyframeTrack:
    """The course of numbers from their first values over keys to their last."""
    moments = [when.start + key.at * when.duration for key in when.keyframes]
    return KeyframeTrack(
        places,
        np.array([when.start, *moments, when.end]),
        np.array([first, *values, last], float),
        (*(curve_into(key, when, plain) for key in when.keyframes), when.plain),
    )


def curve_into(key: Keyframe, when: Timed, plain: Plain) -> PlainCurve:
    """The curve that leads into a key: its own, or the cue's."""
    return plain(key.curve) if key.curve is not None else when.plain


def points_between(way: MotionPath, first: Floats, last: Floats) -> Floats:
    """The points (1 + 3 n, 2) of a way between two places (2,)."""
    inner = np.array(way.points, float).reshape(-1, 3)
    return np.concatenate([first[None], first + inner[:, :1] * (last - first) + inner[:, 1:], last[None]])


def followed(places: np.ndarray, first: Floats, last: Floats, when: Timed, plain: Plain) -> MotionPathTrack:
    """The course of a layer on its way. ``first`` and ``last`` are its x, y, w, h and pivot at the ends."""
    path = when.motion_path if when.motion_path is not None else MotionPath()
    begins, ends = (row[:2] + row[4:6] * row[2:4] for row in (first, last))
    shares = [np.array(key.value[:1], float) for key in when.keyframes]
    along = keyed(np.zeros(1, np.intp), np.zeros(1), np.ones(1), shares, when, plain)
    return MotionPathTrack(places, ArcLengthPath(points_between(path, begins, ends)), along, path.rotates)


def motion_path_of(points: Floats, turns: bool = False) -> MotionPath:
    """A way from its points (1 + 3 n, 2), the two ends among them.

    Each inner point is kept against the straight line between the ends, at its share of the points' own length.
    """
    steps = np.hypot(*np.diff(points, axis=0).T)
    whole = float(steps.sum())
    shares = np.cumsum(steps)[:-1] / whole if whole > 0 else np.linspace(0, 1, len(points))[1:-1]
    first, last = points[0], points[-1]
    away = points[1:-1] - (first + shares[:, None] * (last - first))
    inner = np.column_stack([shares, away])
    return MotionPath(tuple((float(u), float(dx), float(dy)) for u, dx, dy in np.round(inner, 6)), turns)


def pivots(program_start: Floats, program_end: Floats, slot: int) -> tuple[Floats, Floats]:
    """Where a slot's pivot is at both ends (2,), in its parent's space; rows (slots, SCALARS)."""
    rows = (program_start[slot], program_end[slot])
    first, last = (np.array([row[0] + row[4] * row[2], row[1] + row[5] * row[3]]) for row in rows)
    return first, last
