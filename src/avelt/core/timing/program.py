"""A compiled transition: every moving number in flat arrays, and the scene at any moment.

The numbers are one vector: the dense block (slots x SCALARS), then colours (count x 4, premultiplied
OKLab), then loose ones (gradients and outlines). ``moving`` are the places that change; each belongs to
one of a few cues, so a curve is evaluated once a cue, not once a number.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from avelt.core.blending import colour, spaces
from avelt.core.curves import easing
from avelt.core.curves.easing import CurveTable
from avelt.core.geometry import affine, tilt
from avelt.core.geometry.affine import Floats
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.model.values import Frame, Layer, Loop, Pattern, Pose
from avelt.core.timing.content import Change
from avelt.core.timing.layering import Order
from avelt.core.timing.merge import Merged
from avelt.core.timing.tracks import KeyframeTrack, MotionPathTrack

_AT_ONCE = 1e-9  # ms; a cue shorter than this jumps at its end
_X, _Y, _ROTATION, _OPACITY = COLUMN["x"], COLUMN["y"], COLUMN["rotation"], COLUMN["opacity"]
_SIZE = slice(COLUMN["w"], COLUMN["h"] + 1)
_ROTATION_X, _ROTATION_Y = COLUMN["rotation_x"], COLUMN["rotation_y"]
_SCALE_X, _SCALE_Y = COLUMN["scale_x"], COLUMN["scale_y"]


def _keep_possible(rows: Floats) -> None:
    """Numbers that speed alone carried beyond what there is, back in place: sizes below 0, opacities beyond 0..1."""
    np.maximum(rows[..., _SIZE], 0.0, out=rows[..., _SIZE])
    np.clip(rows[..., _OPACITY], 0.0, 1.0, out=rows[..., _OPACITY])


@dataclass(frozen=True)
class PaintSlot:
    """Where one layer of paint has its numbers: first colour and count, first loose number (stops at,
    matrix, focus x y r; none for solid). ``show``: whose it is when cross-faded."""

    kind: str
    colour: int
    count: int
    loose: int
    spread: str
    show: str
    pattern: Pattern | None = None


@dataclass(frozen=True)
class ShadowSlot:
    """Where a shadow has its numbers: its colour, and the first of three loose ones (x, y, blur)."""

    colour: int
    loose: int
    inner: bool


@dataclass(frozen=True)
class OutlineSlot:
    """Where an outline's numbers start and how many points each subpath has; ``unit``: shares of the box."""

    loose: int
    lengths: tuple[int, ...]
    closed: tuple[bool, ...]
    unit: bool


@dataclass(frozen=True)
class SlotContents:
    """What one slot shows, apart from its numbers."""

    left: Layer | None
    right: Layer | None
    fills: tuple[PaintSlot, ...]
    stroke: tuple[PaintSlot, ...]
    outline: OutlineSlot | None
    change: Change  # how two contents without a common form become each other
    shadows: tuple[ShadowSlot, ...] = ()
    dashes: tuple[int, int] | None = None  # first loose number and count, where dashes become others

    @property
    def layer(self) -> Layer:
        """The layer arrived at, or the one that leaves."""
        layer = self.right or self.left
        if layer is None:
            raise LookupError("a slot without a layer")
        return layer

    @property
    def both(self) -> tuple[Layer, Layer] | None:
        """The layer left and the layer arrived at; ``None`` for what only leaves or enters."""
        return (self.left, self.right) if self.left is not None and self.right is not None else None


@dataclass(frozen=True)
class LoopSlot:
    """A loop at work in a program: whose side it comes from and which slot it moves."""

    loop: Loop
    slot: int
    side: str  # "from" or "to"


@dataclass(frozen=True)
class Scene:
    """Everything on screen at one moment, as arrays over the program's slots.

    ``scalars`` (slots, SCALARS), ``colours`` (count, 4) sRGB and alpha (worked out when asked for),
    ``loose`` (count,), ``order`` the
    children of each slot (-1: the frame) in paint order, ``looping`` whether loops were given.
    """

    program: Program
    at: float
    scalars: Floats
    vector: Floats
    size: tuple[float, float]
    flipped: bool
    looping: bool

    @cached_property
    def colours(self) -> Floats:
        """Colours (count, 4), sRGB and alpha."""
        return self.program.colours_of(self.vector)

    @property
    def loose(self) -> Floats:
        """The numbers of gradients and outlines."""
        return self.vector[self.program.colours_end :]

    @property
    def background(self) -> Floats:
        """The frame's background (4,), sRGB and alpha."""
        return self.program.background_at(self.at)

    @property
    def order(self) -> dict[int, tuple[int, ...]]:
        """Children by parent slot, in paint order now."""
        return self.program.order_at(self.at)

    def local(self) -> Floats:
        """Transforms (slots, 6) to each parent."""
        return affine.compose(self.scalars[:, :10])

    def world(self) -> Floats:
        """Transforms (slots, 6) to the frame."""
        local = self.local()
        for rows in self.program.levels:
            local[rows] = affine.multiply(local[self.program.parent[rows]], local[rows])
        return local

    @property
    def perspective(self) -> float:
        """The eye's distance now, px."""
        share = self.at / self.program.duration if self.program.duration > 0 else 1.0
        share = min(1.0, max(0.0, share))
        return self.program.left.perspective * (1 - share) + self.program.right.perspective * share

    def own_tilts(self) -> dict[int, Floats]:
        """Slot -> transform (3, 3) to its parent, of those turned out of the plane."""
        turns = self.scalars[:, (_ROTATION_X, _ROTATION_Y)]
        found = np.flatnonzero((turns != 0.0).any(1)).tolist()
        eye = self.perspective
        return {s: tilt.tilted(self.scalars[s, :10], float(turns[s, 0]), float(turns[s, 1]), eye) for s in found}

    def tilts(self) -> dict[int, Floats]:
        """Slot -> transform (3, 3) to the frame, of those turned out of the plane or lying in such a group."""
        return tilt.worlds(
            self.local(),
            self.scalars[:, :10],
            self.scalars[:, (_ROTATION_X, _ROTATION_Y)],
            self.program.parent,
            self.perspective,
        )

    def world_opacity(self) -> Floats:
        """Opacities (slots,) with those of the parents."""
        opacity = self.scalars[:, _OPACITY].copy()
        for rows in self.program.levels:
            opacity[rows] *= opacity[self.program.parent[rows]]
        return opacity


class Program:
    """A transition compiled. Make it with ``compile.compile_route``; nothing in it changes afterwards."""

    def __init__(
        self,
        *,
        left: Frame,
        right: Frame,
        merged: Merged,
        contents: tuple[SlotContents, ...],
        start: Floats,
        end: Floats,
        colours: int,
        cue_of: np.ndarray,
        cue_times: Floats,
        curves: CurveTable,
        duration: float,
        loops: tuple[LoopSlot, ...] = (),
        orders: tuple[tuple[float, Order], ...] = (),
        tracks: tuple[KeyframeTrack | MotionPathTrack, ...] = (),
        in_space: np.ndarray | None = None,
    ) -> None:
        self.left, self.right, self.merged, self.contents = left, right, merged, contents
        self.duration = duration
        self.loops = loops
        self.orders = orders or ((0.0, merged.before), (duration / 2, merged.after))
        n = len(contents)
        self.dense = n * len(SCALARS)
        self.colours_end = self.dense + colours * 4
        self.parent = np.array([slot.parent for slot in merged.slots], dtype=np.intp)
        self.levels = _levels(self.parent)
        #: Whether some pair lies in other groups before and after.
        self.lifts = any(slot.lifted for slot in merged.slots)
        self.start, self.end = start, end
        self.moving = np.flatnonzero(start != end)
        self._from, self._to = start[self.moving], end[self.moving]
        self._all_move = len(self.moving) == len(start)
        self._cue = cue_of[self.moving]
        self._cue_start = cue_times[:, 0]
        self._cue_end = cue_times[:, 1]
        span = cue_times[:, 1] - cue_times[:, 0]
        #: When the last cue ends, or the duration.
        self.last = max(duration, float(cue_times[:, 1].max(initial=0.0)))
        self._span = np.where(span > _AT_ONCE, span, 1.0)
        self._curves = curves
        self.tracks = tracks
        #: Every place that changes: between its ends, over keys, or along a way.
        self.touched = self.moving
        if tracks:
            self.touched = np.unique(np.concatenate([self.moving, *(track.written for track in tracks)]))
        in_colours = self.touched[(self.touched >= self.dense) & (self.touched < self.colours_end)]
        self._moving_colours = np.unique((in_colours - self.dense) // 4)
        self._in_space = np.zeros(colours, np.intp) if in_space is None else in_space
        self._base_colours = self._to_colours(start[self.dense : self.colours_end].reshape(-1, 4), self._in_space)
        self.start_velocity: Floats | None = None
        self.still = _still_slots(self)
        sides = [side for part in contents for side in (part.left, part.right) if side is not None]
        #: Whether some layer must see what lies beneath it to be painted.
        self.mixes = any(side.blend != "normal" or side.back_blur > 0.0 for side in sides)
        self._background = np.array([colour.parse(left.background), colour.parse(right.background)])
        self._background_lab = colour.premultiplied_oklab(self._background)

    # Sampling

    def eased(self, ms: Floats) -> Floats:
        """How far each cue is at moments (...,): (..., cues), 0 before its start, 1 from its end on."""
        t = np.asarray(ms, float)[..., None]
        share = np.clip((t - self._cue_start) / self._span, 0.0, 1.0)
        value = self._curves.at(share)
        return np.where(t < self._cue_start, 0.0, np.where(t >= self._cue_end, 1.0, value))

    def numbers(self, ms: float) -> Floats:
        """The whole vector at one moment."""
        out = self.start.copy()
        eased = self.eased(np.asarray(ms, float))[self._cue]
        moved = self._from * (1.0 - eased) + self._to * eased
        if self._all_move:
            out = moved
        else:
            out[self.moving] = moved
        for course in self.tracks:
            if 0.0 < ms < self.last:
                course.put(out, np.asarray(ms, float))
        if self.start_velocity is not None and 0.0 <= ms < self.duration:
            out[: self.dense] += self.start_velocity * (ms * (1.0 - ms / self.duration) ** 2)
            _keep_possible(out[: self.dense].reshape(-1, len(SCALARS)))
        return out

    def slot_of(self, left: str | None, right: str | None) -> int:
        """The slot of a pair of layers (one of them for what leaves or enters); -1 when it has none."""
        for s, content in enumerate(self.contents):
            ends = content.left.id if content.left else None, content.right.id if content.right else None
            if ends == (left, right):
                return s
        return -1

    def stands_like(self, other: Program) -> bool:
        """Whether what stands still in both is alike: made from one layout, and not under way from another motion."""
        return self is other or (
            self.contents is other.contents and self.start_velocity is None and other.start_velocity is None
        )

    def rows_of(self, slots: list[int], times: Floats) -> Floats:
        """The dense numbers of a few slots at many moments: (times, slots, SCALARS)."""
        times = np.asarray(times, float)
        width = len(SCALARS)
        out = np.repeat(self.start[None, : self.dense], len(times), 0)
        only = np.flatnonzero(np.isin(self.moving // width, slots) & (self.moving < self.dense))
        for cue in np.unique(self._cue[only]).tolist():
            mine = only[self._cue[only] == cue]
            first, last = self._cue_start[cue], self._cue_end[cue]
            eased = easing.at(self._curves.curves[cue], np.clip((times - first) / self._span[cue], 0.0, 1.0))
            eased = np.where(times < first, 0.0, np.where(times >= last, 1.0, eased))[:, None]
            out[:, self.moving[mine]] = self._from[mine] * (1.0 - eased) + self._to[mine] * eased
        inside = (times > 0.0) & (times < self.last)
        part = out[inside]
        for course in self.tracks:
            if course.places[0] < self.dense and course.places[0] // width in slots:
                course.put(part, times[inside])
        out[inside] = part
        return out.reshape(len(times), -1, width)[:, slots]

    def table(self, times: Floats) -> Floats:
        """The vector at many moments at once: (times, numbers)."""
        times = np.asarray(times, float)
        out = np.repeat(self.start[None, :], len(times), 0)
        eased = self.eased(times)[:, self._cue]
        out[:, self.moving] = self._from * (1.0 - eased) + self._to * eased
        inside = (times > 0.0) & (times < self.last)
        if self.tracks and inside.any():
            part = out[inside]
            for course in self.tracks:
                course.put(part, times[inside])
            out[inside] = part
        if self.start_velocity is not None:
            share = np.where(
                (times >= 0) & (times < self.duration), times * (1 - times / max(self.duration, 1e-9)) ** 2, 0.0
            )
            out[:, : self.dense] += share[:, None] * self.start_velocity
            _keep_possible(out[:, : self.dense].reshape(len(out), -1, len(SCALARS)))
        return out

    def at(self, ms: float, loops: Floats | None = None) -> Scene:
        """The scene at a moment. ``loops`` (len(self.loops),) is how far each loop is from its rest."""
        return self.scene_of(self.numbers(ms), ms, loops)

    def scene_of(self, vector: Floats, ms: float, loops: Floats | None = None) -> Scene:
        """The scene that a vector of numbers means."""
        scalars = vector[: self.dense].reshape(-1, len(SCALARS))
        if loops is not None:
            for entry, far in zip(self.loops, loops, strict=True):
                _add_pose(scalars, entry.slot, entry.loop.offset, float(far))
        share = min(1.0, max(0.0, ms / self.duration)) if self.duration > 0 else 1.0
        size = (self.left.w * (1 - share) + self.right.w * share, self.left.h * (1 - share) + self.right.h * share)
        return Scene(self, ms, scalars, vector, size, ms * 2 >= self.duration, loops is not None)

    def colours_of(self, vector: Floats) -> Floats:
        """The colours (count, 4) that a vector holds, sRGB and alpha."""
        colours = self._base_colours
        if len(self._moving_colours):
            colours = colours.copy()
            block = vector[self.dense : self.colours_end].reshape(-1, 4)
            colours[self._moving_colours] = self._to_colours(
                block[self._moving_colours], self._in_space[self._moving_colours]
            )
        return colours

    def _to_colours(self, vectors: Floats, in_space: np.ndarray) -> Floats:
        """Vectors (count, 4), each of its own space, as sRGB and alpha."""
        out = colour.from_premultiplied_oklab(vectors)
        for k in np.unique(in_space[in_space > 0]).tolist():
            rows = in_space == k
            out[rows] = spaces.colours(vectors[rows], spaces.SPACES[k])
        return out

    def order_at(self, ms: float) -> Order:
        """Children by parent slot, in paint order at a moment; at the ends as the frames have them."""
        if ms <= 0.0 and self.duration > 0.0:
            return self.merged.before
        if ms >= self.duration:
            return self.merged.after
        found = self.orders[0][1]
        for moment, order in self.orders[1:]:
            if ms >= moment:
                found = order
        return found

    def background_at(self, ms: float) -> Floats:
        """The background (4,) at a moment: it goes straight from frame to frame."""
        share = min(1.0, max(0.0, ms / self.duration)) if self.duration > 0 else 1.0
        if share <= 0.0 or self.left.background == self.right.background:
            return np.asarray(self._background[0])
        if share >= 1.0:
            return np.asarray(self._background[1])
        lab = self._background_lab
        return colour.from_premultiplied_oklab(lab[0] * (1 - share) + lab[1] * share)

    def is_absent(self, slot: int, ms: float) -> bool:
        """A layer that left for good or has not come yet is not there at all."""
        entry = self.merged.slots[slot]
        return (entry.right < 0 and ms >= self.duration) or (entry.left < 0 and ms <= 0.0 and self.duration > 0)


def _levels(parent: np.ndarray) -> tuple[np.ndarray, ...]:
    """Slots by depth below the top, so that parents are done before children."""
    depth = np.zeros(len(parent), dtype=np.intp)
    for s, up in enumerate(parent):
        depth[s] = depth[up] + 1 if up >= 0 else 0
    return tuple(np.flatnonzero(depth == level) for level in range(1, int(depth.max(initial=0)) + 1))


def _still_slots(program: Program) -> np.ndarray:
    """Slots of which nothing changes by itself (their parents may)."""
    still = np.ones(len(program.contents), bool)
    moves = np.zeros(len(program.start) + 1, bool)
    moves[program.touched] = True
    if len(still):
        still &= ~moves[: program.dense].reshape(len(still), -1).any(1)
    # Running totals answer "does any number of this stretch move" by two look-ups.
    total = np.concatenate([[0], np.cumsum(moves)])

    def any_in(first: int, count: int) -> bool:
        return bool(total[first + count] - total[first])

    for s, part in enumerate(program.contents):
        if (part.left is None) != (part.right is None):
            still[s] = False
        for paint in (*part.fills, *part.stroke):
            if any_in(program.dense + 4 * paint.colour, 4 * paint.count) or (
                paint.loose >= 0 and any_in(program.colours_end + paint.loose, paint.count + 9)
            ):
                still[s] = False
        for shadow in part.shadows:
            if any_in(program.dense + 4 * shadow.colour, 4) or any_in(program.colours_end + shadow.loose, 3):
                still[s] = False
        if part.dashes is not None and any_in(program.colours_end + part.dashes[0], part.dashes[1]):
            still[s] = False
        if part.outline is not None:
            first = program.colours_end + part.outline.loose
            still[s] &= not any_in(first, 2 * sum(part.outline.lengths))
    for entry in program.loops:
        still[entry.slot] = False
    return still


def _add_pose(scalars: Floats, slot: int, pose: Pose, far: float) -> None:
    row = scalars[slot]
    row[_X] += pose.shift_x * far
    row[_Y] += pose.shift_y * far
    row[_ROTATION] += pose.rotation * far
    row[_SCALE_X] *= 1.0 + (pose.scale_x - 1.0) * far
    row[_SCALE_Y] *= 1.0 + (pose.scale_y - 1.0) * far
    row[_OPACITY] = min(1.0, max(0.0, row[_OPACITY] * (1.0 + (pose.opacity - 1.0) * far)))
