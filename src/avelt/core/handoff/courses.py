"""From a program's numbers to what CSS properties do over time.

A signal reads numbers of the program and says what a property is. Where all that it reads goes by one cue, one set of
keyframes or one loop, and what it says follows in a straight line, its run has those very keyframes and curves. Where
not, it is sampled, with straight lines between as few moments as hold the tolerance.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import partial

from avelt.core.arrays import Floats, np
from avelt.core.curves import easing
from avelt.core.handoff.loop_rounds import MOST_PERIOD, beyond, common_period, round_of, telling
from avelt.core.handoff.nodes import LINE, Key, Moved, Run
from avelt.core.model.curves import PlainCurve
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.record import Record, lazy
from avelt.core.timing.followers import is_follow
from avelt.core.timing.lines import fewest, refined
from avelt.core.timing.loops import round_duration, total_length
from avelt.core.timing.program import Program
from avelt.core.timing.tracks import BlendTrack, KeyframeTrack, LoopTrack, MotionPathTrack

TOLERANCE = 0.05  # px, degrees; a signal says how much finer its own values are
EVEN = 1e-6  # px: corners that are nearer to each other are alike
STRAIGHT = 1e-3  # px: what may be away from a straight line and still be called one
FINE = 100.0  # how much smaller than a px the tolerance of shares and colours is
_STEP = 1000.0 / 120.0  # ms
_MOST_MOMENTS = 4000
_MOST_TELLING = 800  # moments of loops that are looked at
_JUST = 1e-6
_WIDTH = len(SCALARS)
_GRID, _FINE_CURVE = 129, 1e-6  # of a curve's table: its first places, and how far it may be off
_PROBES = np.array([0.0, 0.25, 0.5, 0.8, 1.0])
Texts = Callable[[Floats], list[str]]
Of = Callable[[Floats, Floats], Floats]


class Signal(Record, frozen=True):
    """A CSS property as a function of a slot's row (k, SCALARS) and other numbers (k, n) of the vector.

    ``columns`` are those of the row that it reads, ``more`` the places of the others. ``of`` gives values (k, m), and
    ``texts`` CSS for each row of them. ``fine``: how much smaller the tolerance of its values is than a px.
    ``even``: ``of`` is affine, so nothing bends between two moments. ``shared``: signals of the same name have the same
    ``of`` whatever their slot, read nothing but rows, and say numbers alike wherever these stand: they are worked out
    for all slots at once.
    """

    prop: str
    slot: int
    columns: tuple[str, ...]
    more: tuple[int, ...]
    of: Of
    texts: Texts
    fine: float = 1.0
    even: bool = False
    shared: str = ""


class Stage:
    """A program and how its time goes in the drawing: local = ms * speed + offset."""

    def __init__(self, program: Program, speed: float = 1.0, offset: float = 0.0) -> None:
        self.program, self.speed, self.offset = program, speed or 1e-9, offset
        #: The largest error of what was fitted, by (slot, property).
        self.fitted: dict[tuple[int, str], float] = {}
        #: Loops that were followed for a while only, by slot.
        self.cut_short: set[int] = set()
        self._cue_of = np.full(len(program.start), -1, np.intp)
        self._blend: BlendTrack | None = None
        self._others: list[KeyframeTrack | MotionPathTrack] = []
        for track in program.tracks:
            if isinstance(track, BlendTrack):
                self._blend = track
                self._cue_of[track.places] = track.cue
            elif isinstance(track, KeyframeTrack | MotionPathTrack):
                self._others.append(track)
        self._written = np.zeros(len(program.start), bool)
        for other in self._others:
            self._written[other.written] = True
        self.loops = [track for track in program.loops if not is_follow(track.loop)]
        self._looped = np.zeros(len(program.start), bool)
        for loop in self.loops:
            self._looped[loop.written] = True
        # The same as lists: a signal asks for a few of them, and there are many signals.
        self._cue_list = self._cue_of.tolist()
        self._odd = (self._written | self._looped).tolist()
        self._said: tuple[Signal, str] | None = None  # what the signal that was asked for last says at first
        self._tables: dict[str, tuple[Floats, list[bool]]] = {}
        self._grids: dict[tuple[float, float, bool], Floats] = {}
        self._eased: dict[PlainCurve, tuple[Floats, Floats]] = {}

    # What moves at all

    @lazy
    def last(self) -> float:
        """When the transition is over, on the local clock."""
        return 0.0 if self.program.clocks.stands else self.program.last

    @lazy
    def moments(self) -> Floats:
        """Local times when something begins or ends."""
        found = [np.array([0.0, self.last])]
        for track in self.program.tracks:
            if isinstance(track, BlendTrack):
                found += [track.begins, track.ends]
            elif isinstance(track, KeyframeTrack):
                found.append(track.moments)
            elif isinstance(track, MotionPathTrack):
                found.append(track.along.moments)
        whole = np.concatenate(found)
        return np.unique(np.clip(whole, 0.0, self.last))

    @lazy
    def looks(self) -> Floats:
        """Numbers at a few telling moments (moments, numbers): to see whether something is ever so."""
        times = np.unique(np.concatenate([np.linspace(0.0, self.last, 17), self.moments]))
        rest = [self.begins(track) + ms for track in self.loops for ms in telling(track.loop)]
        if len(times) > 200:
            times = times[np.linspace(0, len(times) - 1, 200).astype(int)]
        every = np.unique(np.concatenate([times, np.array(rest[:_MOST_TELLING])]))
        return self.program.numbers(self.program.clocks.started_at_zero(every))

    def looked(self, slot: int, *names: str) -> Floats:
        """Columns of a slot at the telling moments (moments, names)."""
        return np.asarray(self.looks[:, [slot * _WIDTH + COLUMN[name] for name in names]])

    def ever(self, slot: int, name: str, away_from: float) -> bool:
        """Whether a number of a slot is ever something else."""
        low, high = self._reach
        at = slot * _WIDTH + COLUMN[name]
        return low[at] < away_from - 1e-9 or high[at] > away_from + 1e-9

    @lazy
    def corners(self) -> tuple[list[bool], list[bool]]:
        """Of every slot whether its four corners are always alike, and whether none must give way to another."""
        slots = self.program.dense // _WIDTH
        rows = self.looks[:, : slots * _WIDTH].reshape(-1, slots, _WIDTH)
        radii = rows[..., COLUMN["radius_1"] : COLUMN["radius_4"] + 1]
        alike = np.asarray((np.abs(radii - radii[..., :1]) < EVEN).all((0, 2)))
        size = rows[..., [COLUMN["w"], COLUMN["h"]]].min(-1)
        fits = np.asarray(((radii[..., 0] <= size / 2 + EVEN) | (size <= 0.0)).all(0))
        return alike.tolist(), fits.tolist()

    def most(self, slot: int, name: str) -> float:
        """The most that a number of a slot is at the telling moments."""
        return self._reach[1][slot * _WIDTH + COLUMN[name]]

    @lazy
    def _reach(self) -> tuple[list[float], list[float]]:
        """The least and the most that every number is at the telling moments."""
        return self.looks.min(0).tolist(), self.looks.max(0).tolist()

    def begins(self, track: LoopTrack) -> float:
        """When a loop's clock begins, on the local one."""
        return self.program.clocks.begins[track.clock - 1]

    def numbers(self, places: np.ndarray, local: Floats) -> Floats:
        """The numbers at places (n,) of the vector at local times (k,): (k, n). Whole rows of slots only."""
        program = self.program
        where = np.full(len(program.start), -1, np.intp)
        where[places] = np.arange(len(places))
        out = np.repeat(program.start[None, places], len(local), 0)
        times = program.clocks.started_at_zero(local)
        for track in program.tracks:
            part = track.onto(where)
            if part is not None:
                part.put(out, times)
        return out

    @lazy
    def _at_zero(self) -> Floats:
        """The whole vector at local time 0."""
        out = self.program.start[None].copy()
        times = self.program.clocks.started_at_zero(np.array([0.0]))
        for track in self.program.tracks:
            track.put(out, times)
        return np.asarray(out[0])

    @lazy
    def _ends(self) -> Floats:
        """What a cue blends: the numbers at local time 0 and when every cue is over (2, n)."""
        last = self._at_zero.copy()
        if self._blend is not None:
            last[self._blend.places] = self._blend.last
        return np.stack([self._at_zero, last])

    # One signal

    def first(self, signal: Signal) -> str:
        """What it says before anything moves."""
        return self._said[1] if self._said is not None and self._said[0] is signal else self.at_rest(signal, 1)

    def at_rest(self, signal: Signal, times: int) -> str:
        """The same as it is written among several (where it is one of ``times``)."""
        start = self.program.start
        row = start[signal.slot * _WIDTH : (signal.slot + 1) * _WIDTH] if signal.slot >= 0 else start[:0]
        more = start[list(signal.more)] if signal.more else start[:0]
        said = np.asarray(signal.of(row[None], more[None]), float).reshape(1, -1)
        return signal.texts(np.repeat(said, times, 0))[0]

    def _values(self, signal: Signal, local: Floats) -> Floats:
        row = signal.slot * _WIDTH + np.arange(_WIDTH) if signal.slot >= 0 else np.zeros(0, np.intp)
        got = self.numbers(np.concatenate([row, np.array(signal.more, np.intp)]), local)
        return np.asarray(signal.of(got[:, : len(row)], got[:, len(row) :]), float).reshape(len(local), -1)

    def _texts(self, signal: Signal, local: Floats) -> list[str]:
        return signal.texts(self._values(signal, local))

    def moved(self, signal: Signal) -> Moved | None:
        """What a signal does over time; ``None`` when it always says the same."""
        read = [*(signal.slot * _WIDTH + COLUMN[name] for name in signal.columns), *signal.more]
        if not any(self._odd[place] for place in read):
            wanted = {self._cue_list[place] for place in read} - {-1}
            if not wanted:
                return None
            if len(wanted) == 1 and self._blend is not None:
                return self._whole(signal, self._by_cue(signal, self._blend, wanted.pop()))
        places = np.array(read, np.intp)
        looped = self._looped[places].any()
        cues = np.unique(self._cue_of[places[~self._written[places]]])
        cues = cues[cues >= 0]
        others = [o for o in self._others if np.isin(places, o.written).any()] if self._written[places].any() else []
        loops = [t for t in self.loops if np.isin(places, t.written).any()] if looped else []
        if not len(cues) and not others and not loops:
            return None
        runs: list[Run] | None = None
        if not len(cues) and len(others) == 1 and not loops and isinstance(others[0], KeyframeTrack):
            runs = self._by_keys(signal, others[0])
        elif not len(cues) and not others and len(loops) == 1:
            runs = self._by_loop(signal, loops[0])
        if runs is None:
            runs = self._sampled(signal, loops)
            now = self._texts(signal, np.zeros(1))[0] if loops and not runs else ""
            if now and now != self.at_rest(signal, 1):
                # It was over before it began to be seen, and stays where it arrived.
                runs = [Run(0.0, 1.0, (Key(0.0, now), Key(1.0, now)))]
        return self._whole(signal, runs)

    def _whole(self, signal: Signal, runs: list[Run]) -> Moved | None:
        if not runs:
            return None
        return Moved(signal.prop, tuple(runs if self._same_time else [self._outer(run) for run in runs]))

    @property
    def _same_time(self) -> bool:
        return self.speed == 1.0 and self.offset == 0.0

    def _outer(self, run: Run) -> Run:
        """A run of the local clock on the drawing's."""
        if self._same_time:
            return run
        return Run(
            (run.delay - self.offset) / self.speed, run.duration / self.speed, run.keys, run.iterations, run.error
        )

    def moved_in_steps(self, signal: Signal) -> Moved | None:
        """The same as ``moved``, with keyframes so near to each other that it does not matter how they are blended."""
        moved = self.moved(signal)
        if moved is None or self.last <= 0.0 or any(math.isinf(run.iterations) for run in moved.runs):
            return moved
        times = np.linspace(0.0, self.last, int(min(_MOST_MOMENTS, max(2, math.ceil(self.last / _STEP)))) + 1)
        keys = zip((times / self.last).tolist(), self._texts(signal, times), strict=True)
        return Moved(signal.prop, (self._outer(Run(0.0, self.last, tuple(Key(at, text) for at, text in keys))),))

    # Exact ones

    def _by_cue(self, signal: Signal, blend: BlendTrack, cue: int) -> list[Run]:
        """What one cue alone moves: its own curve where what is said goes evenly with it, else fitted lines."""
        begins, ends = float(blend.begins[cue]), float(blend.ends[cue])
        row = slice(signal.slot * _WIDTH, (signal.slot + 1) * _WIDTH) if signal.slot >= 0 else slice(0, 0)
        made: list[str] | None = None
        if signal.shared:
            said, straight = self._table(signal)
            if straight[signal.slot]:
                made = signal.texts(said[:, signal.slot])
                self._said = (signal, made[0])
        else:
            rows = np.concatenate([self._ends[:, row], self._ends[:, list(signal.more)]], -1)
            wide = row.stop - row.start
            if signal.even:
                made = signal.texts(np.asarray(signal.of(rows[:, :wide], rows[:, wide:]), float))
            else:
                made = self._straight(signal, wide, rows)
        curve = blend.curves.curves[cue]
        if made is None:
            first, last = np.concatenate([self._ends[:, row], self._ends[:, list(signal.more)]], -1)
            width, step = row.stop - row.start, last - first

            def values(local: Floats) -> Floats:
                share = ((local - begins) / max(ends - begins, 1e-9)).clip(0.0, 1.0)
                rows = first + self._share(curve, share)[:, None] * step
                return np.asarray(signal.of(rows[:, :width], rows[:, width:]), float).reshape(len(local), -1)

            run = self._lines(signal, values, 0.0, self.last, closes=False) if self.last > 0.0 else None
            return [run] if run is not None else []
        if made[0] == made[1]:
            return []
        return [Run(begins, ends - begins, (Key(0.0, made[0], curve), Key(1.0, made[1])))]

    def _table(self, signal: Signal) -> tuple[Floats, list[bool]]:
        """What a shared signal says of every slot at both ends (2, slots, m), and where nothing bends between."""
        found = self._tables.get(signal.shared)
        if found is None:
            slots = self.program.dense // _WIDTH
            rows = self._ends[:, : slots * _WIDTH].reshape(2, slots, _WIDTH)
            share = _PROBES[:, None, None]
            every = (rows[0] * (1.0 - share) + rows[1] * share).reshape(-1, _WIDTH)
            said = np.asarray(signal.of(every, every[:, :0]), float).reshape(len(_PROBES), slots, -1)
            line = said[0] * (1.0 - share) + said[-1] * share
            straight = np.abs(said - line).max((0, 2), initial=0.0) * signal.fine <= STRAIGHT
            found = self._tables[signal.shared] = (said[[0, -1]], (straight | signal.even).tolist())
        return found

    def _share(self, curve: PlainCurve, share: Floats) -> Floats:
        """How far a curve is, read off a table that is fine enough: it is asked for many moments of many signals."""
        found = self._eased.get(curve)
        if found is None:
            grid = np.linspace(0.0, 1.0, _GRID)
            shares, far = refined(grid, lambda at: np.asarray(easing.at(curve, at))[:, None], _FINE_CURVE)
            found = self._eased[curve] = (shares, far[:, 0])
        return np.interp(share, *found)

    def _straight(self, signal: Signal, width: int, rows: Floats) -> list[str] | None:
        """What a signal says at rows (k, n) of numbers; ``None`` where it bends between two of them."""
        share = _PROBES[None, :, None]
        between = (rows[:-1, None] * (1.0 - share) + rows[1:, None] * share).reshape(-1, rows.shape[1])
        said = np.asarray(signal.of(between[:, :width], between[:, width:]), float)
        said = said.reshape(len(rows) - 1, len(_PROBES), -1)
        line = said[:, :1] * (1.0 - share) + said[:, -1:] * share
        if (np.abs(said - line) * signal.fine).max(initial=0.0) > STRAIGHT:
            return None
        return signal.texts(np.concatenate([said[:1, 0], said[:, -1]]))

    def _by_keys(self, signal: Signal, track: KeyframeTrack) -> list[Run] | None:
        row = signal.slot * _WIDTH + np.arange(_WIDTH) if signal.slot >= 0 else np.zeros(0, np.intp)
        places = np.concatenate([row, np.array(signal.more, np.intp)])
        rows = np.repeat(self.program.start[None, places], len(track.moments), 0)
        where = {place: k for k, place in enumerate(places.tolist())}
        for k, place in enumerate(track.places.tolist()):
            if place in where:
                rows[:, where[place]] = track.values[:, k]
        made = self._straight(signal, len(row), rows)
        begins, span = float(track.moments[0]), float(track.moments[-1] - track.moments[0])
        if made is None or span <= 0.0 or begins < 0.0 or track.moments[-1] > track.until:
            return None
        shares = ((track.moments - begins) / span).tolist()
        curves = (*track.curves, LINE)
        return [Run(begins, span, tuple(Key(a, t, c) for a, t, c in zip(shares, made, curves, strict=True)))]

    def _by_loop(self, signal: Signal, track: LoopTrack) -> list[Run] | None:
        """A loop alone on what it moves: its own keyframes, as often as it goes round."""
        loop, begins = track.loop, self.begins(track)
        whole = round_duration(loop)
        lead = (loop.wait if loop.wait_when == "once" else 0.0) - loop.start_offset
        if track.fades or track.course is not None or loop.jitter or whole <= 0.0 or not math.isfinite(begins):
            return None
        if lead < 0.0 and begins > 0.0:
            return None  # it would be seen on its way before it begins
        shares, far, curves = round_of(track.curve)
        row = signal.slot * _WIDTH + np.arange(_WIDTH) if signal.slot >= 0 else np.zeros(0, np.intp)
        places = np.concatenate([row, np.array(signal.more, np.intp)])
        base = self.program.start[places]
        ways = np.array([*far, 0.0])  # and at rest
        rows = np.repeat(base[None], len(ways), 0)
        where = {place: k for k, place in enumerate(places.tolist())}
        for place, added in zip(track.places.tolist(), track.added.tolist(), strict=True):
            if place in where:
                rows[:, where[place]] += added * ways
        for place, ratio in zip(track.scaled.tolist(), track.ratios.tolist(), strict=True):
            if place in where:
                rows[:, where[place]] *= 1.0 + (ratio - 1.0) * ways
        if beyond(track, rows, where, places):
            return None
        made = self._straight(signal, len(row), rows)
        if made is None:
            return None
        if len(set(made)) == 1:
            return []
        *made, rest = made
        keys = [Key(a, t, c) for a, t, c in zip(shares, made, (*curves, LINE), strict=True)]
        if track.curve.held != far[-1] and loop.rounds:
            # After the last round it is back at rest at once.
            keys.append(Key(1.0, rest))
        rounds, start = float(loop.rounds) if loop.rounds else math.inf, begins + lead
        if far[0] == 0.0 or (start <= 0.0 and loop.duration == whole):
            return [Run(start, whole, tuple(keys), rounds)]
        # Until its first round moves it is at rest: neither where a round begins nor where it stays between rounds.
        if loop.duration == whole:
            still = Run(0.0, start, (Key(0.0, rest), Key(1.0, rest)))
            return [still, Run(start, whole, tuple(keys), rounds)]
        moves = keys[2:] if keys[2].text == rest else [Key(shares[1], rest), *keys[2:]]
        first = Run(start, whole, (Key(0.0, rest), *moves))
        later = Run(start + whole, whole, tuple(keys), rounds - 1.0)
        return [first, later] if rounds > 1.0 else [first]

    # Fitted ones

    def _sampled(self, signal: Signal, loops: Sequence[LoopTrack]) -> list[Run]:
        live = [t for t in loops if math.isfinite(self.begins(t)) and round_duration(t.loop) > 0.0]
        once = self.last if not self.program.clocks.stands else 0.0
        for track in live:
            if track.fades:
                continue
            once = max(once, self.begins(track))
            if track.loop.rounds:
                ends = self.begins(track) + total_length(track.loop) - track.loop.start_offset
                once = max(once, min(ends, MOST_PERIOD))
            else:
                lead = (track.loop.wait if track.loop.wait_when == "once" else 0.0) - track.loop.start_offset
                # What stays where it arrived between rounds waits otherwise before its first one.
                whole = round_duration(track.loop)
                first = whole if track.curve.held and track.loop.duration < whole else 0.0
                once = max(once, self.begins(track) + max(0.0, lead + first))
        endless = [t for t in live if not t.fades and not t.loop.rounds]
        values = partial(self._values, signal)
        runs = [run] if once > 0.0 and (run := self._lines(signal, values, 0.0, once, closes=False)) is not None else []
        if endless:
            period, meets = common_period([t.loop for t in endless])
            if not meets:
                self.cut_short.add(signal.slot)
            run = self._lines(signal, values, once, once + period, closes=True)
            if run is not None:
                runs.append(Run(run.delay, run.duration, run.keys, math.inf, run.error))
        return runs

    def _lines(
        self, signal: Signal, values_at: Callable[[Floats], Floats], start: float, end: float, closes: bool
    ) -> Run | None:
        """Straight lines between as few moments as hold the tolerance. ``closes``: at its end it begins again."""
        span = end - start
        grid = self._grids.get((start, end, closes))
        if grid is None:
            grid = self._grids[start, end, closes] = self._grid(start, end, closes)
        fine = signal.fine
        times, values = refined(grid, lambda at: values_at(at) * fine, TOLERANCE / 4)
        if np.abs(values - values[0]).max(initial=0.0) < STRAIGHT:
            return None
        kept = fewest(times, values, TOLERANCE)
        texts = signal.texts(values[kept] / fine)
        shares = np.clip((times[kept] - start) / span, 0.0, 1.0)
        shares[-1] = 1.0
        near_to = np.stack([np.interp(times, times[kept], values[kept, k]) for k in range(values.shape[1])], -1)
        error = float(np.abs(near_to - values).max(initial=0.0))
        key = (signal.slot, signal.prop)
        self.fitted[key] = max(self.fitted.get(key, 0.0), error / fine)
        keys = tuple(Key(at, text) for at, text in zip(shares.tolist(), texts, strict=True))
        return Run(start, span, keys, error=max(error, float(np.finfo(float).eps)))

    def _grid(self, start: float, end: float, closes: bool) -> Floats:
        """Moments of a stretch of time at which everything is looked at first."""
        count = int(min(_MOST_MOMENTS, max(48, math.ceil((end - start) / _STEP))))
        marks = np.concatenate([self.moments, *(self._turns(t, start, end) for t in self.loops)])
        marks = marks[(marks > start) & (marks < end)]
        near = np.concatenate([marks - _JUST, marks, marks + _JUST])
        # The last moment of a round is the one before the next begins.
        every = np.concatenate([np.linspace(start, end, count + 1)[:-1], [end - _JUST, end], near])
        return np.unique(np.clip(every, start, max(start, end - _JUST) if closes else end))

    def _turns(self, track: LoopTrack, start: float, end: float) -> Floats:
        """When a loop begins rounds, turns and waits within a stretch of time."""
        whole = round_duration(track.loop)
        begins = self.begins(track)
        if whole <= 0.0 or not math.isfinite(begins):
            return np.zeros(0)
        lead = begins + (track.loop.wait if track.loop.wait_when == "once" else 0.0) - track.loop.start_offset
        first = max(0, math.floor((start - lead) / whole) - 1)
        rounds = np.arange(first, first + min(400, math.ceil((end - start) / whole) + 3))
        shares, _, _ = round_of(track.curve)
        return np.asarray((lead + (rounds[:, None] + np.array(shares)[None]) * whole).ravel())
