"""When things move: the cascade of property cue over layer cue over transition, then ties, then staggers."""

from __future__ import annotations

from functools import reduce

from msgspec.structs import replace

from avelt.core.cache import Cache
from avelt.core.curves.named import plain
from avelt.core.errors import EditError
from avelt.core.model.curves import Curve, PlainCurve
from avelt.core.model.find import by_identity
from avelt.core.model.motion import Cue, CueKey, Keyframe, Moment, MotionPath, Space, Stagger, Tie, Transition
from avelt.core.model.values import Frame, Project
from avelt.core.record import Record
from avelt.core.timing import stagger
from avelt.core.words import tr

DEFAULT_DURATION = 300.0
_MOVED = 0.5  # ms
Times = tuple[float, float]


class Timed(Record, frozen=True):
    """One cue worked out: ms, the curve as it is named and as it is, and what of it is its own."""

    start: float
    end: float
    curve: Curve
    plain: PlainCurve
    own_time: bool
    own_curve: bool
    shortest: bool = False
    space: Space = "oklab"
    muted: bool = False
    hung: bool = False  # its time comes from a tie or a stagger
    keyframes: tuple[Keyframe, ...] = ()
    motion_path: MotionPath | None = None

    @property
    def duration(self) -> float:
        """How long it moves, ms."""
        return self.end - self.start


def _by_key(transition: Transition) -> dict[CueKey, Cue]:
    return {cue.key: cue for cue in transition.cues}


#: The transition's cues by what they belong to.
cue_index = by_identity(_by_key)


class Plan:
    """The times of all cues of a transition between two frames; times are worked out when asked for."""

    def __init__(self, transition: Transition, frames: tuple[Frame, Frame] | None) -> None:
        self.cues = cue_index(transition)
        self.ties: dict[tuple[CueKey, Moment], Tie] = {(tie.cue, tie.at): tie for tie in transition.ties}
        self.late: dict[CueKey, float] = {}
        for entry in transition.staggers:
            for key, by in stagger.offsets(entry, frames).items():
                self.late[key] = self.late.get(key, 0.0) + by
        self.hung = {tie.cue for tie in transition.ties} | set(self.late)
        self._known: dict[CueKey, Times] = {}
        self.duration = transition.duration if transition.duration is not None else DEFAULT_DURATION
        if transition.duration is None:
            self.duration = max([cue.end for cue in transition.cues if cue.end is not None], default=DEFAULT_DURATION)
            self.duration = self._last(transition) or DEFAULT_DURATION
            self._known = {}
        #: When the last thing stops.
        self.end = max(self.duration, self._last(transition))

    def _last(self, transition: Transition) -> float:
        own = {cue.key for cue in transition.cues if cue.end is not None}
        return max((self.of(key)[1] for key in own | self.hung), default=0.0)

    def has_own(self, key: CueKey) -> bool:
        """Whether a cue has anything of its own, or is tied to something."""
        return key in self.cues or key in self.hung

    def of(self, key: CueKey, asked: tuple[CueKey, ...] = ()) -> Times:
        """Start and end of a cue, ms. A circle of ties, which no edit makes, is cut where it closes."""
        found = self._known.get(key)
        if found is None:
            found = self._worked_out(key, (*asked, key))
            if not asked:
                self._known[key] = found
        return found

    def _worked_out(self, key: CueKey, asked: tuple[CueKey, ...]) -> Times:
        start, end = self.base(key, asked)
        length = max(0.0, end - start)
        first, last = self._tied(key, "start", asked), self._tied(key, "end", asked)
        if first is not None:
            start, end = first, first + length if last is None else max(first, last)
        elif last is not None:
            start, end = max(0.0, last - length), last
        late = self.late.get(key, 0.0)
        return start + late, max(start, end) + late

    def base(self, key: CueKey, asked: tuple[CueKey, ...] = ()) -> Times:
        """The times without the ties and staggers of the cue itself: its own, or those that it inherits."""
        whole = key.of("")
        start, end = (0.0, self.duration) if key == whole or whole in asked else self.of(whole, asked)
        own = self.cues.get(key)
        if own is None:
            return start, end
        lasts = end - start
        # Where one end is its own and the other inherited, the inherited one is pushed: it never loses all its time.
        if own.start is not None:
            start, end = own.start, end if own.start < end else own.start + lasts
        if own.end is not None:
            start, end = start if own.start is not None or start < own.end else max(0.0, own.end - lasts), own.end
        return start, end

    def line(self, rule: Stagger) -> float:
        """Where the cues of a stagger begin before they are put off: where most of them do."""
        starts = [round(self.of(key)[0] - self.late.get(key, 0.0), 3) for key in rule.cues]
        return max(sorted(set(starts)), key=starts.count, default=0.0)

    def moved(self, rule: Stagger) -> tuple[CueKey, ...]:
        """The cues of a stagger that were moved by themselves: they do not stand where the rule alone puts them."""
        line = self.line(rule)
        return tuple(key for key in rule.cues if abs(self.of(key)[0] - self.late.get(key, 0.0) - line) > _MOVED)

    def _tied(self, key: CueKey, at: Moment, asked: tuple[CueKey, ...]) -> float | None:
        tie = self.ties.get((key, at))
        if tie is None or tie.to in asked:
            return None
        start, end = self.of(tie.to, asked)
        return max(0.0, (start if tie.to_at == "start" else end) + tie.by)


_plans: Cache[Plan] = Cache(512)


def plan_of(project: Project | None, transition: Transition) -> Plan:
    """The plan of a transition, kept while neither it nor the frames that a stagger looks at change."""
    frames = None
    if project is not None and any(entry.order in stagger.SPATIAL for entry in transition.staggers):
        frames = stagger.frames_of(project, transition)
    return _plans.get((transition, *(frames or ())), None, lambda: Plan(transition, frames))


def duration_of(transition: Transition, project: Project | None = None) -> float:
    """The length in ms: its own, or the end of the last cue, or 300 when there is neither."""
    return transition.duration if transition.duration is not None else plan_of(project, transition).duration


def end_of(transition: Transition, project: Project | None = None) -> float:
    """When the last thing stops: the length, or a cue that goes on beyond it."""
    return plan_of(project, transition).end


def base_curve(transition: Transition, from_id: str | None, to_id: str | None) -> Curve:
    """The curve of a layer that has none of its own: what leaves and what enters may have another."""
    if from_id is not None and to_id is None:
        return transition.leave_curve or transition.curve
    if from_id is None and to_id is not None:
        return transition.enter_curve or transition.curve
    return transition.curve


def timed(project: Project, transition: Transition, from_id: str | None, to_id: str | None, prop: str) -> Timed:
    """The cue of one property of one pair (``prop`` empty: of the layer as a whole)."""
    return _timed(plan_of(project, transition), project, transition, CueKey(from_id, to_id, prop))


def _timed(plan: Plan, project: Project, transition: Transition, key: CueKey) -> Timed:
    layer_cue, own = plan.cues.get(key.of("")), plan.cues.get(key)
    start, end = plan.of(key)
    curve, shortest, muted = base_curve(transition, key.from_id, key.to_id), False, False
    space: Space = "oklab"
    for cue in (layer_cue, own):
        if cue is not None:
            curve = cue.curve if cue.curve is not None else curve
            shortest = cue.shortest if cue.shortest is not None else shortest
            space = cue.space if cue.space is not None else space
            muted = muted or cue.muted
    return Timed(
        start,
        end,
        curve,
        plain(project, curve),
        own is not None and (own.start is not None or own.end is not None),
        own is not None and own.curve is not None,
        shortest,
        space,
        muted,
        key in plan.hung,
        own.keyframes if own is not None else (),
        own.motion_path if own is not None else None,
    )


class Timings:
    """The cues of a transition as they are run, each worked out once. What is muted jumps at the very end, so that the
    frame arrived at is whole."""

    def __init__(self, project: Project, transition: Transition) -> None:
        self.project, self.transition = project, transition
        self.plan = plan_of(project, transition)
        self._known: dict[CueKey, Timed] = {}

    def of(self, from_id: str | None, to_id: str | None, prop: str) -> Timed:
        """The cue of one property of one pair."""
        key = CueKey(from_id, to_id, prop)
        found = self._known.get(key)
        if found is None:
            found = _timed(self.plan, self.project, self.transition, key)
            if found.muted:
                found = replace(found, start=self.plan.end, end=self.plan.end, keyframes=(), motion_path=None)
            self._known[key] = found
        return found

    def plain(self, curve: Curve) -> PlainCurve:
        """A curve without its name."""
        return plain(self.project, curve)


def circle(transition: Transition, new: Tie) -> tuple[CueKey, ...]:
    """The cues that would be tied to each other in a circle if the tie were made; empty when none would."""
    onto: dict[CueKey, set[CueKey]] = {}
    for tie in (*(t for t in transition.ties if (t.cue, t.at) != (new.cue, new.at)), new):
        onto.setdefault(tie.cue, set()).add(tie.to)

    def way_back(key: CueKey, seen: tuple[CueKey, ...]) -> tuple[CueKey, ...]:
        # A property is tied to its layer's cue too, which it inherits from.
        whole = key.of("")
        for other in (*onto.get(key, ()), *((whole,) if whole != key and whole in onto else ())):
            if other == new.cue:
                return seen
            if other not in seen and (found := way_back(other, (*seen, other))):
                return found
        return ()

    if new.to == new.cue:
        return (new.cue,)
    return way_back(new.to, (new.cue, new.to))


def refuse_circle(names: tuple[str, ...]) -> EditError:
    """The sentence for a circle, with the names in it."""
    if len(names) == 1:
        return EditError(tr("{names} cannot be tied to itself.", names=names[0]))
    words = reduce(
        lambda one, other: tr("{one} is tied to {other}", one=one, other=other), (*names[1:], names[0]), names[0]
    )
    return EditError(tr("That would be a circle: {words}.", words=words))
