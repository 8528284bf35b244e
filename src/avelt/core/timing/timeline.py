"""A program as data for exporters: elements, and what each of their numbers does when.

Where one track alone writes a property's numbers, its animation is exact: its keyframes and curves are those of the
track. Where several do (a motion path over a size that changes, the speed of an interrupted motion), it is sampled,
with straight lines between as few moments as hold the tolerance, and says its largest error. Names and meanings of
timing are those of Web Animations (delay, duration, iterations, direction).
"""

from __future__ import annotations

from avelt.core.arrays import Floats, np
from avelt.core.model.curves import Line, PlainCurve
from avelt.core.model.properties import PROPERTY_OF_COLUMN, SCALARS
from avelt.core.record import Record
from avelt.core.timing.followers import is_follow
from avelt.core.timing.lines import fewest, refined
from avelt.core.timing.loops import round_duration
from avelt.core.timing.program import Program
from avelt.core.timing.tracks import BlendTrack, KeyframeTrack, LoopTrack

LINE = Line()
TOLERANCE = 0.05  # px, degrees; of shares and colours a hundredth of it
_GRID = 240  # moments at which a sampled property is looked at, at least
_JUST = 1e-6  # ms
_FINE = 100.0  # how much smaller than a px the tolerance of shares and colours is


class TimedValue(Record, frozen=True):
    """A keyframe: at a share (0..1) of the animation's duration, values (n,) as they stand in the program's vector,
    and the curve that leads into it."""

    at: float
    values: tuple[float, ...]
    curve: PlainCurve = LINE


class Animation(Record, frozen=True):
    """Numbers at ``places`` (n,) of the vector that go over keyframes, ``delay`` ms after the transition began.

    ``error`` is 0 where it is exact, else the largest difference that was found. Before and after it the first and the
    last keyframe hold.
    """

    slot: int  # -1: the frame itself
    prop: str
    places: tuple[int, ...]
    delay: float
    duration: float
    keyframes: tuple[TimedValue, ...]
    error: float = 0.0

    @property
    def exact(self) -> bool:
        """Whether it is what the program does, and not near to it."""
        return self.error == 0.0


class LoopAnimation(Record, frozen=True):
    """A loop: how far it is from rest over one round, and what is added to the numbers at ``places`` at the whole
    distance, or how many times as large those at ``scaled`` are then.

    ``keyframes`` have one value, the distance 0..1. ``iterations`` may be infinite; ``delay`` is counted from when
    its clock begins (``begins`` ms on the transition's), and is negative for a loop that starts on its way. ``after``
    is the distance that stays when all is over. ``fades``: it dies down over the transition.
    ``path`` is what it goes along (px), ``chance`` the jitter of its waits and the seed of that.
    """

    slot: int
    begins: float
    delay: float
    duration: float
    iterations: float
    keyframes: tuple[TimedValue, ...]
    after: float
    fades: bool
    places: tuple[int, ...]
    added: tuple[float, ...]
    scaled: tuple[int, ...]
    ratios: tuple[float, ...]
    path: tuple[tuple[float, float], ...] = ()
    rotates: bool = False
    chance: tuple[float, int] = (0.0, 0)


class Element(Record, frozen=True):
    """What an exporter makes one element of: a slot, the one that it lies in (-1: the frame), and what it does."""

    slot: int
    parent: int
    name: str
    animations: tuple[Animation, ...]
    loops: tuple[LoopAnimation, ...]


class Timeline(Record, frozen=True):
    """All elements (parents before children) and what the frame itself does, over ``duration`` ms."""

    duration: float
    elements: tuple[Element, ...]
    frame: tuple[Animation, ...]

    @property
    def animations(self) -> tuple[Animation, ...]:
        """All that moves but loops."""
        return (*self.frame, *(entry for element in self.elements for entry in element.animations))


def timeline_of(program: Program, tolerance: float = TOLERANCE) -> Timeline:
    """The program as elements and animations."""
    found: dict[int, list[Animation]] = {}
    for (slot, prop), places in moving_groups(program).items():
        found.setdefault(slot, []).extend(_animations(program, slot, prop, places, tolerance))
    loops: dict[int, list[LoopAnimation]] = {}
    for track in (entry for entry in program.loops if not is_follow(entry.loop)):
        loops.setdefault(track.slot, []).append(_loop(program, track))
    elements = tuple(
        Element(s, int(program.parent[s]), part.layer.name, tuple(found.get(s, ())), tuple(loops.get(s, ())))
        for s, part in enumerate(program.contents)
    )
    return Timeline(program.last, elements, tuple(found.get(-1, ())))


def moving_groups(program: Program) -> dict[tuple[int, str], np.ndarray]:
    """The places that are touched, by slot and property."""
    owner = _Owners(program)
    groups: dict[tuple[int, str], list[int]] = {}
    for place in program.touched.tolist():
        groups.setdefault(owner(place), []).append(place)
    return {key: np.array(places, np.intp) for key, places in groups.items()}


class _Owners:
    """Which slot and property a place of the vector belongs to."""

    def __init__(self, program: Program) -> None:
        self.program = program
        self.slot = np.full(len(program.start), -1, np.intp)
        self.names = ["frame"]
        self.name = np.zeros(len(program.start), np.intp)
        for s, part in enumerate(program.contents):
            for k, paint in enumerate(part.fills):
                self._mark(s, f"fill {k}", 4 * paint.colour, 4 * paint.count, paint.loose, paint.count + 9)
            for paint in part.stroke:
                self._mark(s, "stroke", 4 * paint.colour, 4 * paint.count, paint.loose, paint.count + 9)
            for k, shadow in enumerate(part.shadows):
                self._mark(s, f"shadow {k}", 4 * shadow.colour, 4, shadow.loose, 3)
            if part.outline is not None:
                self._mark(s, "shape", 0, 0, part.outline.loose, 2 * sum(part.outline.lengths))
            if part.dashes is not None:
                self._mark(s, "stroke", 0, 0, *part.dashes)

    def _mark(self, s: int, name: str, colour: int, count: int, loose: int, length: int) -> None:
        if name not in self.names:
            self.names.append(name)
        program, number = self.program, self.names.index(name)
        for first, many in (
            (program.dense + colour, count),
            (program.colours_end + loose, length if loose >= 0 else 0),
        ):
            self.slot[first : first + many] = s
            self.name[first : first + many] = number

    def __call__(self, place: int) -> tuple[int, str]:
        if place < self.program.dense:
            return place // len(SCALARS), PROPERTY_OF_COLUMN[place % len(SCALARS)]
        return int(self.slot[place]), self.names[self.name[place]]


def _animations(program: Program, slot: int, prop: str, places: np.ndarray, tolerance: float) -> list[Animation]:
    """What the numbers of one property do: exact where one track alone writes them, else sampled."""
    writers: dict[int, list[int]] = {}
    for k, track in enumerate(program.tracks):
        if not isinstance(track, LoopTrack):
            for place in np.intersect1d(track.written, places).tolist():
                writers.setdefault(place, []).append(k)
    groups: dict[tuple[int, ...], list[int]] = {}
    for place, tracks in writers.items():
        # Keyframes stand in for the straight blend beneath them.
        over = [k for k in tracks if not isinstance(program.tracks[k], BlendTrack)]
        groups.setdefault(tuple(over or tracks), []).append(place)
    made: list[Animation] = []
    for numbers, mine in groups.items():
        only, own = program.tracks[numbers[0]], np.array(mine, np.intp)
        if len(numbers) == 1 and isinstance(only, BlendTrack):
            made += _blended(only, slot, prop, own)
        elif len(numbers) == 1 and isinstance(only, KeyframeTrack):
            made.append(_keyed(only, slot, prop, own))
        else:
            made.append(_sampled(program, slot, prop, own, tolerance))
    return made


def _blended(track: BlendTrack, slot: int, prop: str, places: np.ndarray) -> list[Animation]:
    made = []
    at = np.searchsorted(track.places, places)
    for cue in np.unique(track.cue[at]).tolist():
        mine = at[track.cue[at] == cue]
        begins, ends = float(track.begins[cue]), float(track.ends[cue])
        keyframes = (
            TimedValue(0.0, tuple(track.first[mine].tolist())),
            TimedValue(1.0, tuple(track.last[mine].tolist()), track.curves.curves[cue]),
        )
        made.append(Animation(slot, prop, tuple(track.places[mine].tolist()), begins, ends - begins, keyframes))
    return made


def _keyed(track: KeyframeTrack, slot: int, prop: str, places: np.ndarray) -> Animation:
    columns = [track.places.tolist().index(place) for place in places.tolist()]
    begins, ends = float(track.moments[0]), float(track.moments[-1])
    span = ends - begins
    keyframes = tuple(
        TimedValue(
            (float(moment) - begins) / span if span > 0.0 else float(k > 0),
            tuple(values[columns].tolist()),
            track.curves[k - 1] if k else LINE,
        )
        for k, (moment, values) in enumerate(zip(track.moments.tolist(), track.values, strict=True))
    )
    return Animation(slot, prop, tuple(places.tolist()), begins, span, keyframes)


def _sampled(program: Program, slot: int, prop: str, places: np.ndarray, tolerance: float) -> Animation:
    """Straight lines between as few moments as hold the tolerance."""
    times = np.unique(np.concatenate([np.linspace(0.0, program.last, _GRID + 1), _moments(program)]))
    fine = np.where(places < program.dense, 1.0, _FINE)
    # Where a number jumps or bends sharply between two moments, it is looked at closer.
    times, scaled = refined(times, lambda at: program.table(at)[:, places] * fine, tolerance / 4)
    kept, values = fewest(times, scaled, tolerance), scaled / fine
    near = np.stack([np.interp(times, times[kept], values[kept, k]) for k in range(len(places))], -1)
    span = program.last or 1.0
    keyframes = tuple(TimedValue(float(times[k]) / span, tuple(values[k].tolist())) for k in kept)
    error = float(np.abs(near - values).max(initial=0.0)) or float(np.finfo(float).eps)
    return Animation(slot, prop, tuple(places.tolist()), 0.0, program.last, keyframes, error)


def _moments(program: Program) -> Floats:
    """When something begins or ends, and just beside it: numbers may jump there."""
    found = [np.array([0.0, program.last])]
    for track in program.tracks:
        if isinstance(track, BlendTrack):
            found += [track.begins, track.ends]
        elif isinstance(track, KeyframeTrack):
            found.append(track.moments)
    whole = np.concatenate(found)
    return np.asarray(np.clip(np.concatenate([whole - _JUST, whole, whole + _JUST]), 0.0, program.last))


def _loop(program: Program, track: LoopTrack) -> LoopAnimation:
    loop, whole = track.loop, round_duration(track.loop)
    wait = (whole - loop.duration) / whole if whole > 0.0 else 0.0
    frames = [TimedValue(0.0, (0.0,))]
    if wait > 0.0:
        frames.append(TimedValue(wait, (0.0,)))
    if loop.keyframes:
        frames += [TimedValue(wait + key.at * (1.0 - wait), (key.far,), curve) for key, curve in track.curve.keys]
        frames.append(TimedValue(1.0, (loop.keyframes[-1].far,), Line()))
    elif loop.direction == "one way":
        frames.append(TimedValue(1.0, (1.0,), track.curve.curve))
    else:
        curve = track.curve.curve
        frames += [TimedValue((1.0 + wait) / 2, (1.0,), curve), TimedValue(1.0, (0.0,), curve)]
    once = loop.wait if loop.wait_when == "once" else 0.0
    return LoopAnimation(
        track.slot,
        program.clocks.begins[track.clock - 1],
        once - loop.start_offset,
        whole,
        float(loop.rounds) if loop.rounds else float("inf"),
        tuple(frames),
        track.curve.held,
        track.fades,
        tuple(track.places.tolist()),
        tuple(track.added.tolist()),
        tuple(track.scaled.tolist()),
        tuple(track.ratios.tolist()),
        loop.path,
        loop.rotates,
        (loop.jitter, loop.seed),
    )
