"""A compiled transition: every moving number in flat arrays, and the scene at any moment.

The numbers are one vector: the dense block (slots x SCALARS), then colours (count x 4, premultiplied
OKLab), then loose ones (gradients, outlines, and last the frame itself). Tracks write what moves of them, each by a
clock: the transition's, or one of its own.
"""

from __future__ import annotations

from collections.abc import Mapping
from copy import copy
from weakref import ref

from avelt.core.arrays import Floats, np
from avelt.core.blending import colour, conversions, spaces
from avelt.core.geometry import affine, tilt
from avelt.core.model.motion import PairKey
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.model.values import Frame, Use
from avelt.core.record import Record, lazy
from avelt.core.timing.clocks import Clocks
from avelt.core.timing.layering import Order
from avelt.core.timing.loops_together import LoopsTogether
from avelt.core.timing.merge import Merged
from avelt.core.timing.slots import FrameSlot, SlotContents, mixing
from avelt.core.timing.standing import Standing
from avelt.core.timing.tracks import BlendTrack, LoopTrack, ScrollTrack, StartVelocityTrack, Track

_OPACITY = COLUMN["opacity"]
_ROTATION_X, _ROTATION_Y = COLUMN["rotation_x"], COLUMN["rotation_y"]


#: The clock of the speed that a motion has over from the one that it took the place of, where it follows a value.
CARRIED = "\0carried"
#: What is worked out from the tracks once it is asked for.
_OF_TRACKS = ("_ground_stands", "touched", "_moving_colours", "changed_before", "stands", "carries")
_NONE_INSIDE: Mapping[int, Scene] = {}


class Scene(Record, frozen=True):
    """Everything on screen at one moment, as arrays over the program's slots.

    ``times`` (clocks,) ms; ``vector`` (numbers,) is all that was worked out. ``scalars`` (slots, SCALARS) and
    ``colours`` (count, 4) sRGB and alpha are parts of it. ``inside``: the scenes that stand in slots, each in the px of
    its slot's box. ``bent``: its numbers are others than the program has at these times.
    """

    program: Program
    times: Floats
    vector: Floats
    inside: Mapping[int, Scene] = {}
    bent: bool = False

    @property
    def at(self) -> float:
        """The transition's time, ms."""
        return float(self.times[0])

    @lazy
    def scalars(self) -> Floats:
        """The layers' numbers (slots, SCALARS)."""
        return self.vector[: self.program.dense].reshape(-1, len(SCALARS))

    @lazy
    def colours(self) -> Floats:
        """Colours (count, 4), sRGB and alpha."""
        return self.program.colours_of(self.vector)

    @property
    def loose(self) -> Floats:
        """The numbers of gradients, outlines and the frame."""
        return self.vector[self.program.colours_end :]

    @lazy
    def _frame(self) -> tuple[float, float, float, float]:
        w, h, perspective, flip = self.loose[self.program.frame.numbers].tolist()
        return w, h, perspective, flip

    @property
    def size(self) -> tuple[float, float]:
        """The frame's width and height now, px."""
        return self._frame[:2]

    @property
    def perspective(self) -> float:
        """The eye's distance now, px; 0 is very far away."""
        near = self._frame[2]
        return 1.0 / near if near > 0.0 else 0.0

    @property
    def isolates(self) -> bool:
        """Whether blend modes see only the layers of the frame, as the frame of this half says."""
        return (self.program.right if self.flipped else self.program.left).isolates

    @property
    def flipped(self) -> bool:
        """Whether what flips at half time (groups, contents without a common form) is that of the frame arrived at."""
        return self._frame[3] >= 0.5

    @lazy
    def looping(self) -> bool:
        """Whether some loop is away from its rest, or the frame from its top."""
        own = any(bool(loop.distance(self.times).any()) for loop in self.program.loops)
        return own or self.scrolled or any(child.looping for child in self.inside.values())

    @lazy
    def scrolled(self) -> bool:
        """Whether it is away from its top."""
        return any(bool(scroll.distance(self.times)) for scroll in self.program.scrolls)

    @property
    def offset(self) -> tuple[float, ...]:
        """How far it is scrolled, px across and down; empty for a program that cannot be."""
        return tuple(v for scroll in self.program.scrolls for v in scroll.offset(self.times))

    @property
    def background(self) -> Floats:
        """The frame's background (4,), sRGB and alpha."""
        return self.program.background_of(self.vector)

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


class UseSlot(Record, frozen=True):
    """A slot in which a part is used: the program of the pose that it starts with, and its clock. Where one part gives
    way to another, ``~slot`` is the place of the one that comes."""

    slot: int
    program: Program
    speed: float
    offset: float

    @lazy
    def rest(self) -> Scene:
        """The part as it stands before anything begins: always the same value."""
        return self.program.at(0.0)

    def local(self, ms: float) -> float:
        """The part's time when that of the stage above, counted since the use began, is ``ms``."""
        return ms * self.speed + self.offset


class Program:
    """A transition compiled. Make it with ``compile.compile_route``; nothing in it changes afterwards."""

    def __init__(
        self,
        *,
        left: Frame,
        right: Frame,
        merged: Merged,
        contents: tuple[SlotContents, ...],
        frame: FrameSlot,
        start: Floats,
        colours: int,
        tracks: tuple[Track, ...],
        duration: float,
        last: float,
        clocks: Clocks,
        orders: tuple[tuple[float, Order], ...],
        in_space: np.ndarray,
        drawn: tuple[Frame, ...],
        uses: tuple[UseSlot, ...] = (),
    ) -> None:
        #: The frames that what is seen comes from as they were drawn, the newest first.
        self.drawn = drawn
        #: The parts that stand in slots.
        self.uses = uses
        #: Whether another scene may stand in some slot.
        self.opens = any(isinstance(content.layer.body, Use) for content in contents)
        #: Slots that are seen only while a condition holds, with its text.
        self.conditions = tuple(
            (s, content.layer.only_if) for s, content in enumerate(contents) if content.layer.only_if
        )
        self.left, self.right, self.merged, self.contents, self.frame = left, right, merged, contents, frame
        self.duration = duration
        #: When the last cue ends, or the duration.
        self.last = last
        self.clocks, self.orders, self.tracks = clocks, orders, tracks
        self.loops = tuple(track for track in tracks if isinstance(track, LoopTrack))
        self.scrolls = tuple(track for track in tracks if isinstance(track, ScrollTrack))
        n = len(contents)
        self.dense = n * len(SCALARS)
        self.colours_end = self.dense + colours * 4
        self.parent, self.levels, self.lifts = merged.parent, merged.levels, merged.lifts
        #: The numbers as they are before anything moves (numbers,).
        self.start = start
        self._in_space = in_space
        #: Whether some layer must see what lies beneath it to be painted.
        self.mixes = mixing(contents)
        #: Outlines that do not change, by slot, with the size that they were cut for.
        self.kept_outlines: dict[int, tuple[tuple[float, float], list[tuple[Floats, bool]]]] = {}
        self._background = np.array([colour.parse(left.background), colour.parse(right.background)])
        self._last: ref[Scene] | None = None
        self._last_many: tuple[Floats, list[ref[Scene]]] = np.zeros((0, 0)), []

    @lazy
    def _base_colours(self) -> Floats:
        return self._to_colours(self.start[self.dense : self.colours_end].reshape(-1, 4), self._in_space)

    @lazy
    def end(self) -> Floats:
        """The numbers (numbers,) when everything is over."""
        out = self.start.copy()
        for track in self.tracks:
            if isinstance(track, BlendTrack):
                out[track.places] = track.last
        return out

    @lazy
    def moving(self) -> np.ndarray:
        """The places whose value at the end is another than at the start."""
        return np.flatnonzero(self.start != self.end)

    @lazy
    def touched(self) -> np.ndarray:
        """Every place that changes by the transition's clock: between its ends, over keyframes, or along a path."""
        written = [track.written for track in self.tracks if not isinstance(track, LoopTrack | ScrollTrack)]
        return np.unique(np.concatenate([np.zeros(0, np.intp), *written]))

    @lazy
    def _moving_colours(self) -> np.ndarray:
        written = np.concatenate([np.zeros(0, np.intp), *(track.written for track in self.tracks)])
        inside = written[(written >= self.dense) & (written < self.colours_end)]
        return np.unique((inside - self.dense) // 4)

    @lazy
    def changed_before(self) -> np.ndarray:
        """How many numbers before each place change by the transition's clock: (numbers + 1,)."""
        moves = np.zeros(len(self.start) + 1, np.intp)
        moves[self.touched + 1] = 1
        return np.cumsum(moves)

    def changing(self, first: np.ndarray, count: np.ndarray) -> np.ndarray:
        """Whether any number of stretches (n,) of the vector changes: (n,)."""
        return np.asarray(self.changed_before[first + count] > self.changed_before[first])

    def changes(self, first: int, count: int) -> bool:
        """Whether any number of a stretch of the vector changes."""
        return bool(self.changed_before[first + count] > self.changed_before[first])

    @lazy
    def stands(self) -> Standing:
        """Which slots stand."""
        return Standing(self)

    def carrying(self, speed: Floats, over: float = 0.0) -> Program:
        """The same motion begun with a speed of every number (numbers,), a ms, over and above its own.

        ``over``: the motion follows a value, and the speed dies down over so many ms by the clock ``CARRIED``.
        """
        places = np.flatnonzero(speed)
        if not len(places) or (self.duration <= 0.0 and over <= 0.0):
            return self
        made = copy(self)
        made.kept_outlines, made._last, made._last_many = {}, None, (np.zeros((0, 0)), [])
        clock = 0
        if over > 0.0:
            made.clocks = self.clocks.and_also(CARRIED)
            clock = len(made.clocks.origins)
        for name in _OF_TRACKS:
            made.__dict__.pop(name, None)
        made.tracks = (
            *self.tracks,
            StartVelocityTrack(places, speed[places], over or self.duration, self.dense, clock),
        )
        return made

    # Sampling

    def numbers(self, times: Floats) -> Floats:
        """The whole vector (..., numbers) at times (..., clocks). Where nothing moves it is ``start`` itself."""
        if times.ndim == 1 and not len(self.touched) and not self._away(times):
            return self.start
        out = np.empty((*times.shape[:-1], len(self.start)))
        out[...] = self.start
        together = self._together if times.ndim == 2 and len(self.loops) > 1 else None
        for track in self.tracks:
            if together is None or id(track) not in together.ids:
                track.put(out, times)
            elif track is together.tracks[0]:
                together.put(out, times)
        return out

    @lazy
    def _together(self) -> LoopsTogether:
        return LoopsTogether(self.tracks)

    def _away(self, times: Floats) -> bool:
        """Whether some loop is away from its rest at times (clocks,), or the frame from its top."""
        return any(bool(loop.distance(times)) for loop in self.loops) or any(
            bool(scroll.distance(times)) for scroll in self.scrolls
        )

    def table(self, ms: Floats) -> Floats:
        """The vector at many moments at once, loops at rest: (moments, numbers)."""
        return self.numbers(self.clocks.only(ms))

    def rows_of(self, slots: list[int], ms: Floats) -> Floats:
        """The dense numbers of a few slots at many moments, loops at rest: (moments, slots, SCALARS)."""
        width = len(SCALARS)
        kept = (np.array(slots, np.intp)[:, None] * width + np.arange(width)).ravel()
        where = np.full(len(self.start), -1, np.intp)
        where[kept] = np.arange(len(kept))
        times = self.clocks.only(ms)
        out = np.repeat(self.start[None, kept], len(times), 0)
        for track in self.tracks:
            part = track.onto(where)
            if part is not None:
                part.put(out, times)
        return out.reshape(len(times), -1, width)

    def at(self, ms: float) -> Scene:
        """The scene at a moment, loops at rest, parts as they start."""
        inside = {use.slot: use.rest for use in self.uses}
        return self.at_times(self.clocks.only(ms), inside)

    def from_start(self, ms: float) -> Scene:
        """The scene ``ms`` after everything began, as pictures and files show it: loops and parts move too."""
        inside = {use.slot: use.program.from_start(use.local(ms)) for use in self.uses}
        return self.at_times(self.clocks.started_at_zero(ms), inside)

    def while_running(self, ms: float, since: Mapping[str, float], inside: Mapping[int, Scene] | None = None) -> Scene:
        """The scene at a moment, with the loops (by origin) that run, and for how many ms each does; and the scenes
        that stand in slots (parts as they start where none is said)."""
        if self.uses:
            known = inside or {}
            inside = {use.slot: use.rest for use in self.uses if use.slot not in known} | dict(known)
        return self.at_times(self.clocks.running(ms, since), inside or {})

    def at_times(self, times: Floats, inside: Mapping[int, Scene] = _NONE_INSIDE) -> Scene:
        """The scene at times (clocks,), with others in its slots. That of the same moment again is the very same value
        as long as somebody holds it, with all that was worked out for it: what is touched is what was just painted."""
        last = self._last() if self._last is not None else None
        if last is None or not _same_times(last.times, times) or not _same_values(last.inside, inside):
            last = Scene(self, times, self.numbers(times), inside)
            self._last = ref(last)
        return last

    def scenes_at(self, times: Floats) -> tuple[list[Scene], Floats, Floats]:
        """Scenes at many times (n, clocks) at once, with their numbers (n, numbers) and colours (n, count, 4): of parts
        that are used often."""
        vectors = self.numbers(times)
        colours = self._colours_of_many(vectors)
        made = [Scene(self, row, vector) for row, vector in zip(times, vectors, strict=True)]
        for scene, its in zip(made, colours, strict=True):
            scene.__dict__["colours"] = its
        self._last_many = times, [ref(scene) for scene in made]
        return made, vectors, colours

    def last_scenes_at(self, times: Floats) -> list[Scene]:
        """What ``scenes_at`` gave last, where that was at these times and somebody holds it; else nothing."""
        known, kept = self._last_many
        if not _same_times(known, times):
            return []
        found = [scene for entry in kept if (scene := entry()) is not None]
        return found if len(found) == len(kept) else []

    def _colours_of_many(self, vectors: Floats) -> Floats:
        """The colours (n, count, 4) of vectors (n, numbers)."""
        out = np.repeat(self._base_colours[None], len(vectors), 0)
        moving = self._moving_colours
        if len(moving):
            block = vectors[:, self.dense : self.colours_end].reshape(len(vectors), -1, 4)[:, moving]
            spaces_of = np.tile(self._in_space[moving], len(vectors))
            out[:, moving] = self._to_colours(block.reshape(-1, 4), spaces_of).reshape(block.shape)
        return out

    def scene_of(self, vector: Floats, ms: float) -> Scene:
        """The scene that a vector of numbers (numbers,) means at a moment."""
        return Scene(self, self.clocks.only(ms), vector, bent=True)

    # What is where

    def ends_of(self, slot: int) -> PairKey:
        """The pair that a slot is of."""
        content = self.contents[slot]
        return PairKey(content.left.id if content.left else None, content.right.id if content.right else None)

    def slot_of(self, left: str | None, right: str | None) -> int:
        """The slot of a pair of layers (one of them for what leaves or enters); -1 when it has none."""
        for s, content in enumerate(self.contents):
            ends = content.left.id if content.left else None, content.right.id if content.right else None
            if ends == (left, right):
                return s
        return -1

    def stands_like(self, other: Program) -> bool:
        """Whether what stands still in both is alike: made from one layout, and not under way from another motion."""
        return self is other or (self.contents is other.contents and not self.carries and not other.carries)

    @lazy
    def carries(self) -> bool:
        """Whether it goes on with the speed of a motion that was interrupted."""
        return any(isinstance(track, StartVelocityTrack) for track in self.tracks)

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
        out = conversions.from_premultiplied_oklab(vectors)
        for k in np.unique(in_space[in_space > 0]).tolist() if in_space.any() else ():
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

    def background_of(self, vector: Floats) -> Floats:
        """The background (4,) that a vector holds, sRGB and alpha."""
        if self._ground_stands:
            return np.asarray(self._background[0])
        place = self.dense + 4 * self.frame.colour
        now, start, end = (numbers[place : place + 4] for numbers in (vector, self.start, self.end))
        # At its ends it is what the frames say, to the bit.
        if np.array_equal(now, start):
            return np.asarray(self._background[0])
        if np.array_equal(now, end):
            return np.asarray(self._background[1])
        return np.asarray(conversions.from_premultiplied_oklab(now[None])[0])

    @property
    def has_no_ground(self) -> bool:
        """Whether there is never a background."""
        return self._ground_stands and not self._background[:, 3].any()

    @lazy
    def _ground_stands(self) -> bool:
        """Whether nothing changes the background."""
        place = self.dense + 4 * self.frame.colour
        return not any(((track.written >= place) & (track.written < place + 4)).any() for track in self.tracks)

    def is_absent(self, slot: int, ms: float) -> bool:
        """A layer that left for good or has not come yet is not there at all."""
        entry = self.merged.slots[slot]
        return (entry.right < 0 and ms >= self.duration) or (entry.left < 0 and ms <= 0.0 and self.duration > 0)


def _same_values(one: Mapping[int, Scene], other: Mapping[int, Scene]) -> bool:
    """Whether the very same scenes stand in the same slots."""
    return len(one) == len(other) and all(other.get(slot) is scene for slot, scene in one.items())


def _same_times(one: Floats, other: Floats) -> bool:
    """Whether clocks are at the same times; those that do not run (``nan``) are alike, too."""
    return one.shape == other.shape and one.tobytes() == other.tobytes()
