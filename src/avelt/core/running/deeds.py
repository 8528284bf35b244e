"""The events of a tape as what somebody did: a press until its release is one thing, however often it moved."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec.structs import replace

from avelt.core.model.tapes import Event, KeyDown, Loaded, Move, Press, Release, Scrolled, Sent, Told
from avelt.core.record import Record
from avelt.core.words import tr

_TOGETHER = 250.0  # ms between two turns of the wheel that are one


class Deed(Record, frozen=True):
    """What somebody did: its events from ``first`` to ``last`` (both in it), when, and in a word."""

    first: int
    last: int
    start: float
    end: float
    word: str
    says: str = ""


def deeds_of(events: Sequence[Event]) -> list[Deed]:
    """What somebody did, in order. Moves of the pointer between are no deeds."""
    found: list[Deed] = []
    pressed: int | None = None
    for k, event in enumerate(events):
        if isinstance(event, Press):
            pressed = k
        elif isinstance(event, Release) and pressed is not None:
            down = events[pressed]
            far = isinstance(down, Press) and (down.x - event.x) ** 2 + (down.y - event.y) ** 2 > 36.0
            word = "drag" if far else "tap" if event.at - down.at < 500.0 else "hold"
            found.append(Deed(pressed, k, down.at, event.at, word, f"{event.x:.0f}, {event.y:.0f}"))
            pressed = None
        elif isinstance(event, Scrolled):
            last = found[-1] if found else None
            if last is not None and last.word == "scroll" and event.at - last.end <= _TOGETHER:
                whole = events[last.first : k + 1]
                found[-1] = replace(last, last=k, end=event.at, says=_scrolled(whole))
            else:
                found.append(Deed(k, k, event.at, event.at, "scroll", _scrolled((event,))))
        elif isinstance(event, KeyDown):
            found.append(Deed(k, k, event.at, event.at, "key", event.key))
        elif isinstance(event, Told):
            found.append(Deed(k, k, event.at, event.at, "input", event.name))
        elif isinstance(event, Sent):
            found.append(Deed(k, k, event.at, event.at, "signal", event.name))
        elif isinstance(event, Loaded):
            found.append(Deed(k, k, event.at, event.at, "loaded"))
    if pressed is not None:
        found.append(Deed(pressed, len(events) - 1, events[pressed].at, events[-1].at, "press"))
    return sorted(found, key=lambda deed: deed.first)


def _scrolled(events: Sequence[Event]) -> str:
    """How far some turns of the wheel went."""
    turns = [event for event in events if isinstance(event, Scrolled)]
    down, right = sum(event.dy for event in turns), sum(event.dx for event in turns)
    words = [tr("{px:.0f} px down" if down > 0 else "{px:.0f} px up", px=abs(down))] if down else []
    words += [tr("{px:.0f} px right" if right > 0 else "{px:.0f} px left", px=abs(right))] if right else []
    return ", ".join(words) or tr("nowhere")


def moved(events: Sequence[Event], deed: Deed, by: float) -> tuple[Event, ...]:
    """The events with one deed some ms earlier or later; it stays between the deeds before and after it.

    Moves of the pointer between two deeds keep their share of the time between them.
    """
    deeds = deeds_of(events)
    place = next(k for k, known in enumerate(deeds) if known.first == deed.first)
    before = deeds[place - 1].end if place else 0.0
    after = deeds[place + 1].start if place + 1 < len(deeds) else float("inf")
    by = min(max(by, before - deed.start), after - deed.end)

    def at(k: int, event: Event) -> float:
        if deed.first <= k <= deed.last:
            return event.at + by
        if before < event.at < deed.start and k < deed.first:
            return before + (event.at - before) * (deed.start + by - before) / max(deed.start - before, 1e-9)
        if deed.end < event.at < after and k > deed.last:
            if after == float("inf"):
                return event.at + by
            return after - (after - event.at) * (after - deed.end - by) / max(after - deed.end, 1e-9)
        return event.at

    times = [at(k, event) for k, event in enumerate(events)]
    for k in range(1, len(times)):
        times[k] = max(times[k], times[k - 1])
    return tuple(replace(event, at=time) for event, time in zip(events, times, strict=True))


def is_idle(event: Event) -> bool:
    """Whether an event only says where the pointer is."""
    return isinstance(event, Move)
