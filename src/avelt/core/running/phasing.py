"""Running orders at work: phases entered, their rules read, events taken.

Everything is done on a ``Work``. What a rule sets or sends may let other rules hold: all that is done, one thing after
the other, before time goes on.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Protocol

from msgspec.structs import replace

from avelt.core.model.phases import Once, Phase, Rounds, Rule, ShowBlend, Track, Until
from avelt.core.model.triggers import Crosses, InputValue, SendSignal, SetInput, Trigger, hot_area
from avelt.core.model.values import Frame, Input
from avelt.core.running.crossing import crosses
from avelt.core.running.due import timers_of
from avelt.core.running.orders import Orders
from avelt.core.running.rules import Rules
from avelt.core.running.scenes import lead_into, share_of
from avelt.core.running.world import OnTrack, UnderWay, What, World
from avelt.core.timing.compile import compile_still
from avelt.core.timing.program import Program
from avelt.core.words import tr


class Work(Protocol):
    """The world being changed, as far as running orders are concerned (``work.Work`` is it)."""

    rules: Rules
    now: float
    inputs: dict[str, InputValue]
    halted: bool
    frame: Frame
    shown: Frame
    still: Program
    arrived: float
    motion: UnderWay | None
    tracks: dict[str, OnTrack]
    unread: dict[str, None]  # tracks whose rules are to be read
    events: list[Callable[[Trigger], bool]]  # what came while something was done
    reading: bool

    def world(self) -> World: ...
    def note(self, what: What, says: str, frame: str = "", phase: str = "", track: str = "") -> None: ...
    def counts(self, what: str) -> bool: ...
    def stay(self, action: SetInput | SendSignal) -> None: ...
    def shows(self) -> tuple[Frame, ...]: ...
    def keep_parts(self, *frames: Frame) -> None: ...
    def begin_parts(self, frame: Frame, at: float) -> None: ...


def begin(work: Work, pose: str = "") -> None:
    """Every track begins: the main one with a pose, where a phase begins with it."""
    orders = work.rules.orders
    if orders is None:
        return
    with _one_thing(work):
        for track in orders.tracks:
            _enter(work, orders, track, orders.first(track, pose if track is orders.main else ""), None)


def jump(work: Work, track_id: str, phase_id: str) -> None:
    """A phase begins now, whatever runs."""
    orders = work.rules.orders
    if orders is not None and orders.has(track_id, phase_id):
        with _one_thing(work):
            _change(work, orders, work.tracks[track_id], Rule(phase_id))


def became(work: Work, entry: Input, old: InputValue, new: InputValue) -> None:
    """An input has another value: blends follow it, rules are read, and it may have crossed what one waits for."""
    orders = work.rules.orders
    if orders is None:
        return
    for state in list(work.tracks.values()):
        work.tracks[state.track] = _aimed(work, orders.phase(state.track, state.phase), state)
        work.unread[state.track] = None
    happened(work, lambda on: isinstance(on, Crosses) and on.input == entry.id and crosses(on, old, new))


def happened(work: Work, fits: Callable[[Trigger], bool]) -> bool:
    """An event comes to every track; gives whether some rule waited for it. What none waits for is gone."""
    orders = work.rules.orders
    if orders is None:
        return False
    if work.reading:  # one thing after the other, so that a long chain is no deep one
        work.events.append(fits)
        return False
    with _one_thing(work):
        return _offer(work, orders, fits)


def _offer(work: Work, orders: Orders, fits: Callable[[Trigger], bool]) -> bool:
    """An event for every track: the first rule that waits for it takes it."""
    taken = False
    for track in list(work.tracks):
        state = work.tracks[track]
        phase = orders.phase(track, state.phase)
        waiting = (k for k, rule in enumerate(phase.then) if rule.on is not None and fits(rule.on))
        number = next((k for k in waiting if work.rules.holds(phase.then[k].only_if, work.inputs)), -1)
        if number >= 0:
            _take(work, orders, state, phase, number)
            taken = True
    return taken


def touched(work: Work, layers: tuple[str, ...], fits: Callable[[Trigger], bool]) -> str | None:
    """Something done on layers (ids, innermost first; ``""`` is anywhere): the one whose rule takes it, or ``None``."""
    rules = work.rules
    for ident in layers if rules.orders is not None else ():
        if happened(work, lambda on, i=ident: fits(on) and rules.origin(hot_area(on)) == rules.origin(i)):  # type: ignore[misc]
            return ident
    return None


@contextmanager
def _one_thing(work: Work) -> Iterator[None]:
    """What is done in it is done before anything that it makes happen; then all that is done, too."""
    outer, work.reading = work.reading, True
    yield
    work.reading = outer
    _go_on(work)


def fell_due(work: Work, track_id: str) -> None:
    """What falls due on a track is done: a round that was waited for, a timer, the end of its time."""
    orders, state = work.rules.orders, work.tracks[track_id]
    if orders is None:
        return
    with _one_thing(work):
        _due_on(work, orders, state, orders.phase(track_id, state.phase))


def _due_on(work: Work, orders: Orders, state: OnTrack, phase: Phase) -> None:
    timer = next((k for k, after in timers_of(phase, state) if state.began + after <= work.now), -1)
    if state.waits is not None and state.waits[1] <= work.now:
        _change(work, orders, state, phase.then[state.waits[0]])
    elif timer >= 0:
        work.tracks[state.track] = state = replace(state, fired=state.fired | {timer})
        if work.rules.holds(phase.then[timer].only_if, work.inputs):
            work.note("timer", tr("after {now:g} ms", now=work.now - state.began))
            _take(work, orders, state, phase, timer)
    else:
        work.tracks[state.track] = state = replace(state, ended=True)
        whole = isinstance(phase.lasts, Once | Rounds)
        number = _holding(work, phase)
        if number >= 0 and (whole or not phase.then[number].finish_round):
            _change(work, orders, state, phase.then[number])
        elif number >= 0:
            _take(work, orders, state, phase, number)


def _go_on(work: Work) -> None:
    """Offer the events that came meanwhile, and read the rules of all tracks that have something new to read."""
    orders = work.rules.orders
    if work.reading or orders is None:
        return
    work.reading = True
    while (work.unread or work.events) and not work.halted:
        if work.events:
            _offer(work, orders, work.events.pop(0))
            continue
        track = next(iter(work.unread))
        del work.unread[track]
        state = work.tracks.get(track)
        if state is None:
            continue
        phase = orders.phase(track, state.phase)
        if isinstance(phase.lasts, Until) or state.ended:
            number = _holding(work, phase)
            if number >= 0:
                _take(work, orders, state, phase, number)
    work.unread.clear()
    work.events.clear()
    work.reading = False


def _holding(work: Work, phase: Phase) -> int:
    """The number of the first rule that holds; -1 for none. Those that wait for an event do not."""
    rules = enumerate(phase.then)
    return next((k for k, r in rules if r.on is None and work.rules.holds(r.only_if, work.inputs)), -1)


def _take(work: Work, orders: Orders, state: OnTrack, phase: Phase, number: int) -> None:
    """A rule holds: its phase begins now, or when the round is over."""
    rule = phase.then[number]
    if not rule.finish_round:
        _change(work, orders, state, rule)
    elif state.waits is None:
        ends = state.began + orders.next_round(state.track, phase, work.now - state.began)
        if ends <= work.now:
            _change(work, orders, state, rule)
        else:
            work.tracks[state.track] = replace(state, waits=(number, ends))


def _change(work: Work, orders: Orders, state: OnTrack, rule: Rule) -> None:
    """From a phase to the one that follows."""
    if not orders.has(state.track, rule.to):
        return
    track, old = orders.track(state.track), orders.phase(state.track, state.phase)
    if not work.counts(f"{track.name}: {old.name}"):
        return
    for deed in old.leaving:
        work.stay(deed)
    _enter(work, orders, track, orders.phase(track.id, rule.to), rule)


def _enter(work: Work, orders: Orders, track: Track, phase: Phase, rule: Rule | None) -> None:
    """A phase begins, by a rule or as the first."""
    lead, old = None, work.tracks.get(track.id)
    if (
        rule is not None
        and rule.duration > 0.0
        and old is not None
        and old.lead is not None
        and old.lead.start == work.now
    ):
        # Nothing was seen of the phase that is left again at the moment that it began.
        lead = replace(old.lead, end=work.now + rule.duration, curve=rule.curve)
    elif rule is not None and rule.duration > 0.0 and old is not None:
        lead = lead_into(work.rules, work.world(), old, rule.duration, rule.curve)
    by = (old.phase, _place_of(orders, old, rule)) if old is not None and rule is not None else ("", -1)
    state = OnTrack(track.id, phase.id, work.now, lead, by=by)
    if isinstance(phase.shows, ShowBlend):
        share = work.rules.share(phase.shows.by, work.inputs)
        state = replace(state, wanted=share, share=share, since=work.now, lag=phase.shows.lag)
    work.tracks[track.id] = state
    work.unread[track.id] = None
    main = track is orders.main
    work.note("phase", phase.name if main else f"{track.name}: {phase.name}", phase=phase.name, track=track.name)
    if main:
        frame = orders.ends(track.id, phase)[1]
        work.frame = work.shown = frame
        work.still, work.arrived, work.motion = compile_still(frame, orders.project), work.now, None
    shows = work.shows()
    work.keep_parts(*shows)
    for frame in shows:
        work.begin_parts(frame, work.now)
    for deed in phase.entering:
        work.stay(deed)


def _place_of(orders: Orders, state: OnTrack, rule: Rule) -> int:
    """The number of a rule in the phase that is left; -1 when none led on."""
    rules = orders.phase(state.track, state.phase).then
    return next((k for k, known in enumerate(rules) if known is rule), -1)


def _aimed(work: Work, phase: Phase, state: OnTrack) -> OnTrack:
    """A blend that follows the inputs as they are now, from where it is."""
    if not isinstance(phase.shows, ShowBlend):
        return state
    wanted = work.rules.share(phase.shows.by, work.inputs)
    if wanted == state.wanted:
        return state
    return replace(state, wanted=wanted, share=share_of(state, work.now), since=work.now)


__all__ = ["became", "begin", "fell_due", "happened", "jump", "touched"]
