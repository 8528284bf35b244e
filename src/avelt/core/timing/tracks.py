"""Tracks: what writes a program's numbers. Each puts its own into vectors (..., numbers) at times (..., clocks).

They are put one after the other: cues first, then keyframes and motion paths over them, then what adds to all of that
(loops, the speed of an interrupted motion).
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from msgspec.structs import replace

from avelt.core.arrays import Floats, np
from avelt.core.curves import easing
from avelt.core.curves.easing import CurveTable
from avelt.core.geometry.motion_path import ArcLengthPath
from avelt.core.model.curves import Curve, PlainCurve
from avelt.core.model.motion import Keyframe, MotionPath
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.model.values import Loop
from avelt.core.record import Record, lazy
from avelt.core.timing.loops import LoopCurve
from avelt.core.timing.schedule import Timed

Plain = Callable[[Curve], PlainCurve]
NOTHING = np.zeros(0, np.intp)
AT_ONCE = 1e-9  # ms; a cue shorter than this jumps at its end
_SIZE = (COLUMN["w"], COLUMN["h"])


class Track(Protocol):
    """Something that writes numbers of a program."""

    @property
    def written(self) -> np.ndarray:
        """The places that it writes."""

    def put(self, out: Floats, times: Floats) -> None:
        """Write them into vectors (..., numbers) at times (..., clocks)."""

    def onto(self, where: np.ndarray) -> Track | None:
        """The same for vectors that hold only some of the places: where each is now, -1 for what is left out.
        ``None`` when it writes nothing of them."""


class BlendTrack(Record, frozen=True):
    """Numbers that go from one value to another by cues.

    ``places``, ``first``, ``last`` and ``cue`` (n,) are the numbers; ``begins``, ``ends`` (cues,) ms and ``curves`` the
    cues. A curve is evaluated once a cue, not once a number.
    """

    places: np.ndarray
    first: Floats
    last: Floats
    cue: np.ndarray
    begins: Floats
    ends: Floats
    curves: CurveTable

    @property
    def written(self) -> np.ndarray:
        """The places that it writes."""
        return self.places

    def eased(self, ms: Floats) -> Floats:
        """How far each cue is at moments (...,): (..., cues), 0 before its start, 1 from its end on."""
        t = np.asarray(ms, float)[..., None]
        span = self.ends - self.begins
        share = np.clip((t - self.begins) / np.where(span > AT_ONCE, span, 1.0), 0.0, 1.0)
        value = self.curves.at(share)
        return np.where(t < self.begins, 0.0, np.where(t >= self.ends, 1.0, value))

    def put(self, out: Floats, times: Floats) -> None:
        """Write them into vectors (..., numbers) at times (..., clocks)."""
        eased = self.eased(times[..., 0])[..., self.cue]
        out[..., self.places] = self.first * (1.0 - eased) + self.last * eased

    def onto(self, where: np.ndarray) -> BlendTrack | None:
        """The same for vectors that hold only some of the places."""
        only = np.flatnonzero(where[self.places] >= 0)
        if not len(only):
            return None
        cues, cue = np.unique(self.cue[only], return_inverse=True)
        return BlendTrack(
            where[self.places[only]],
            self.first[only],
            self.last[only],
            cue,
            self.begins[cues],
            self.ends[cues],
            CurveTable([self.curves.curves[k] for k in cues.tolist()]),
        )


class KeyframeTrack(Record, frozen=True):
    """Numbers (places in the vector) that pass ``values`` (k, n) at ``moments`` (k,) ms, by k - 1 curves.

    They count inside the transition, 0 to ``until`` ms; at its ends stands what the frames say.
    """

    places: np.ndarray
    moments: Floats
    values: Floats
    curves: tuple[PlainCurve, ...]
    until: float = np.inf

    def at(self, ms: Floats) -> Floats:
        """Values (..., n) at moments (...,)."""
        ms = np.asarray(ms, float)
        segment = np.clip(np.searchsorted(self.moments, ms, side="right") - 1, 0, len(self.curves) - 1)
        first, last = self.moments[segment], self.moments[segment + 1]
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

    def put(self, out: Floats, times: Floats) -> None:
        """Write them into vectors (..., numbers) at times (..., clocks)."""
        ms = times[..., 0]
        inside = (ms > 0.0) & (ms < self.until)
        if inside.any():
            out[..., self.places] = np.where(inside[..., None], self.at(ms), out[..., self.places])

    def onto(self, where: np.ndarray) -> KeyframeTrack | None:
        """The same for vectors that hold only some of the places."""
        places = where[self.places]
        return replace(self, places=places) if (places >= 0).all() else None


class MotionPathTrack(Record, frozen=True):
    """A layer whose pivot follows a way. ``places`` are x, y, w, h, pivot x, pivot y and turn in the vector."""

    places: np.ndarray
    course: ArcLengthPath
    along: KeyframeTrack  # its share of the way
    turns: bool

    @property
    def written(self) -> np.ndarray:
        """The places that it writes: the size and the pivot are only read."""
        return self.places[[0, 1, 6]] if self.turns else self.places[:2]

    def put(self, out: Floats, times: Floats) -> None:
        """Write position (and rotation) into vectors (..., numbers) that have everything else."""
        ms = times[..., 0]
        inside = (ms > 0.0) & (ms < self.along.until)
        if not inside.any():
            return
        share = self.along.at(ms)[..., 0]
        there = self.course.at(share)
        x, y, w, h, px, py, rotation = (int(place) for place in self.places)
        out[..., x] = np.where(inside, there[..., 0] - out[..., px] * out[..., w], out[..., x])
        out[..., y] = np.where(inside, there[..., 1] - out[..., py] * out[..., h], out[..., y])
        if self.turns:
            out[..., rotation] += np.where(inside, self.course.lean(share), 0.0)

    def onto(self, where: np.ndarray) -> MotionPathTrack | None:
        """The same for vectors that hold only some of the places."""
        places = where[self.places]
        return replace(self, places=places) if (places >= 0).all() else None


class LoopTrack(Record, frozen=True):
    """A loop that adds to what else moves its layer, by its own clock (the place of it in the vector of clocks).

    At the whole distance ``added`` (n,) is added to the numbers at ``places`` and those at ``scaled`` are ``ratios``
    (k,) times as large. ``fades``: it is of the frame that is left, and dies down over ``duration`` ms.
    """

    loop: Loop
    slot: int
    clock: int
    curve: LoopCurve
    places: np.ndarray
    added: Floats
    scaled: np.ndarray
    ratios: Floats
    fades: bool
    duration: float
    dense: int  # how many numbers of the vector are those of layers
    course: ArcLengthPath | None = None  # a path that it follows, px from where the layer stands
    moved: np.ndarray = NOTHING  # then the places of x and y, and of the rotation where it turns along it

    @property
    def written(self) -> np.ndarray:
        """The places that it writes."""
        return np.concatenate([self.places, self.scaled, self.moved])

    @lazy
    def _bounded(self) -> tuple[np.ndarray, np.ndarray]:
        return bounded(self.written, self.dense)

    def distance(self, times: Floats) -> Floats:
        """How far it is from its rest at times (..., clocks): (...,)."""
        far = self.curve.at(times[..., self.clock])
        if not self.fades:
            return far
        share = np.clip(times[..., 0] / self.duration, 0.0, 1.0) if self.duration > 0.0 else 1.0
        return np.asarray(far * (1.0 - share * share * (3.0 - 2.0 * share)))

    def put(self, out: Floats, times: Floats) -> None:
        """Add it to vectors (..., numbers) at times (..., clocks)."""
        far = self.distance(times)[..., None]
        if not far.any():
            return
        out[..., self.places] += self.added * far
        out[..., self.scaled] *= 1.0 + (self.ratios - 1.0) * far
        if self.course is not None:
            self._follow(self.course, out, far[..., 0])
        keep_possible(out, self._bounded)

    def _follow(self, course: ArcLengthPath, out: Floats, far: Floats) -> None:
        there = course.at(far)
        for place, by in zip(self.moved.tolist(), (there[..., 0], there[..., 1]), strict=False):
            if place >= 0:
                out[..., place] += by
        if len(self.moved) > 2 and self.moved[2] >= 0:
            out[..., int(self.moved[2])] += course.lean(far)

    def onto(self, where: np.ndarray) -> LoopTrack | None:
        """The same for vectors that hold only some of the places."""
        plain, ratio = where[self.places] >= 0, where[self.scaled] >= 0
        if not plain.any() and not ratio.any() and not (where[self.moved] >= 0).any():
            return None
        return replace(
            self,
            places=where[self.places[plain]],
            added=self.added[plain],
            scaled=where[self.scaled[ratio]],
            ratios=self.ratios[ratio],
            moved=where[self.moved],
            dense=int((where[: self.dense] >= 0).sum()),
        )


class ScrollTrack(Record, frozen=True):
    """How far a frame is scrolled: taken from the places of x and y (n,) of the layers that go with it. Its clocks hold
    px across and down."""

    across: np.ndarray
    down: np.ndarray
    clock: int  # that of across; the other follows

    @property
    def written(self) -> np.ndarray:
        """The places that it writes."""
        return np.concatenate([self.across, self.down])

    def distance(self, times: Floats) -> Floats:
        """How far it is from the top at times (..., clocks), px: (...,)."""
        px = np.nan_to_num(times[..., self.clock : self.clock + 2])
        return np.asarray(np.abs(px).sum(-1))

    def offset(self, times: Floats) -> tuple[float, float]:
        """How far it is scrolled at times (clocks,), px across and down."""
        across, down = np.nan_to_num(times[self.clock : self.clock + 2]).tolist()
        return across, down

    def put(self, out: Floats, times: Floats) -> None:
        """Take it from vectors (..., numbers) at times (..., clocks)."""
        px = np.nan_to_num(times[..., self.clock : self.clock + 2])
        out[..., self.across] -= px[..., :1]
        out[..., self.down] -= px[..., 1:]

    def onto(self, where: np.ndarray) -> ScrollTrack | None:
        """The same for vectors that hold only some of the places."""
        across, down = where[self.across], where[self.down]
        return replace(self, across=across[across >= 0], down=down[down >= 0])


class StartVelocityTrack(Record, frozen=True):
    """The speed with which an interrupted motion goes on, over and above the new motion's own: (n,) a ms at its start,
    gone at the end of ``duration`` ms. It goes by time, also where the motion follows a value: by its own clock."""

    places: np.ndarray
    speed: Floats
    duration: float
    dense: int
    clock: int = 0

    @property
    def written(self) -> np.ndarray:
        """The places that it writes."""
        return self.places

    def put(self, out: Floats, times: Floats) -> None:
        """Add it to vectors (..., numbers) at times (..., clocks)."""
        ms = times[..., self.clock]
        inside = (ms >= 0.0) & (ms < self.duration)
        if not inside.any():
            return
        left = np.where(inside, ms * (1.0 - ms / max(self.duration, AT_ONCE)) ** 2, 0.0)
        out[..., self.places] += left[..., None] * self.speed
        keep_possible(out, bounded(self.places, self.dense))

    def onto(self, where: np.ndarray) -> StartVelocityTrack | None:
        """The same for vectors that hold only some of the places."""
        only = where[self.places] >= 0
        if not only.any():
            return None
        kept = int((where[: self.dense] >= 0).sum())
        return replace(self, places=where[self.places[only]], speed=self.speed[only], dense=kept)


def bounded(places: np.ndarray, dense: int) -> tuple[np.ndarray, np.ndarray]:
    """The sizes and the opacities among some places. The first ``dense`` numbers are whole rows of ``SCALARS``."""
    column = np.where(places < dense, places % len(SCALARS), -1)
    return places[np.isin(column, _SIZE)], places[column == COLUMN["opacity"]]


def keep_possible(out: Floats, within: tuple[np.ndarray, np.ndarray]) -> None:
    """Numbers (..., numbers) that were carried beyond what there is, back in place: sizes below 0, opacities beyond
    0..1."""
    sizes, opacities = within
    if len(sizes):
        out[..., sizes] = np.maximum(out[..., sizes], 0.0)
    if len(opacities):
        out[..., opacities] = np.clip(out[..., opacities], 0.0, 1.0)


def keyed(
    places: np.ndarray, first: Floats, last: Floats, values: list[Floats], when: Timed, plain: Plain, until: float
) -> KeyframeTrack:
    """The course of numbers from their first values over keys to their last."""
    moments = [when.start + key.at * when.duration for key in when.keyframes]
    return KeyframeTrack(
        places,
        np.array([when.start, *moments, when.end]),
        np.array([first, *values, last], float),
        (*(curve_into(key, when, plain) for key in when.keyframes), when.plain),
        until,
    )


def curve_into(key: Keyframe, when: Timed, plain: Plain) -> PlainCurve:
    """The curve that leads into a key: its own, or the cue's."""
    return plain(key.curve) if key.curve is not None else when.plain


def points_between(way: MotionPath, first: Floats, last: Floats) -> Floats:
    """The points (1 + 3 n, 2) of a way between two places (2,)."""
    inner = np.array(way.points, float).reshape(-1, 3)
    return np.concatenate([first[None], first + inner[:, :1] * (last - first) + inner[:, 1:], last[None]])


def followed(
    places: np.ndarray, first: Floats, last: Floats, when: Timed, plain: Plain, until: float
) -> MotionPathTrack:
    """The course of a layer on its way. ``first`` and ``last`` are its x, y, w, h and pivot at the ends."""
    path = when.motion_path if when.motion_path is not None else MotionPath()
    begins, ends = (row[:2] + row[4:6] * row[2:4] for row in (first, last))
    shares = [np.array(key.value[:1], float) for key in when.keyframes]
    along = keyed(np.zeros(1, np.intp), np.zeros(1), np.ones(1), shares, when, plain, until)
    return MotionPathTrack(places, ArcLengthPath(points_between(path, begins, ends), path.pace), along, path.rotates)


def motion_path_of(points: Floats, turns: bool = False, pace: tuple[float, ...] = ()) -> MotionPath:
    """A way from its points (1 + 3 n, 2), the two ends among them.

    Each inner point is kept against the straight line between the ends, at its share of the points' own length.
    """
    steps = np.hypot(*np.diff(points, axis=0).T)
    whole = float(steps.sum())
    shares = np.cumsum(steps)[:-1] / whole if whole > 0 else np.linspace(0, 1, len(points))[1:-1]
    first, last = points[0], points[-1]
    away = points[1:-1] - (first + shares[:, None] * (last - first))
    inner = np.column_stack([shares, away])
    return MotionPath(tuple((float(u), float(dx), float(dy)) for u, dx, dy in np.round(inner, 6)), turns, pace)


def pivots(program_start: Floats, program_end: Floats, slot: int) -> tuple[Floats, Floats]:
    """Where a slot's pivot is at both ends (2,), in its parent's space; rows (slots, SCALARS)."""
    rows = (program_start[slot], program_end[slot])
    first, last = (np.array([row[0] + row[4] * row[2], row[1] + row[5] * row[3]]) for row in rows)
    return first, last
