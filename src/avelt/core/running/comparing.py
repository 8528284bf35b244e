"""Two rehearsals in step: the first moment where they part."""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.arrays import np
from avelt.core.record import Record
from avelt.core.running.rehearsal import Rehearsal
from avelt.core.timing.sampling import records_of
from avelt.core.words import tr

STEP = 1000.0 / 60.0  # ms between the moments that are looked at
_FINE = 1.0  # ms to which the moment is known
_NEAR = 1e-6


class Parting(Record, frozen=True):
    """Where two rehearsals part: when, and in a sentence how."""

    at: float
    says: str


GoOn = Callable[[int, int], bool]


def first_parting(one: Rehearsal, other: Rehearsal, go_on: GoOn = lambda done, whole: True) -> Parting | None:
    """The first moment where two rehearsals show something else, to 1 ms; ``None`` where they never do.

    Both are gone through from their start at every picture of 60 a second and at every event. ``go_on`` hears how far
    it is, and may stop it.
    """
    until = max(one.ends, other.ends)
    moments = {k * STEP for k in range(int(until / STEP) + 1)} | {until}
    moments |= {event.at for rehearsal in (one, other) for event in rehearsal.events}
    last = 0.0
    ordered = sorted(moments)
    for k, ms in enumerate(ordered):
        if k % 16 == 0 and not go_on(k, len(ordered)):
            return None
        if difference(one, other, ms):
            low, high = last, ms
            while high - low > _FINE:
                middle = (low + high) / 2.0
                if difference(one, other, middle):
                    high = middle
                else:
                    low = middle
            return Parting(high, difference(one, other, high))
        last = ms
    return None


def difference(one: Rehearsal, other: Rehearsal, ms: float) -> str:
    """How two rehearsals differ at a moment, in a sentence; empty where they show the same."""
    left, right = one.seen(ms), other.seen(ms)
    if left.frame.name != right.frame.name:
        return tr("One is in {frame}, the other in {frame2}.", frame=left.frame.name, frame2=right.frame.name)
    a, b = left.scene(), right.scene()
    plain = a.program.contents is b.program.contents and not a.inside and not b.inside
    if plain and a.vector.shape == b.vector.shape and np.allclose(a.vector, b.vector, rtol=0.0, atol=_NEAR):
        return ""
    ones, others = records_of(a), records_of(b)
    for here, there in zip(ones, others, strict=False):
        if here.get("name") != there.get("name"):
            return tr("One has {get} where the other has {get2}.", get=here.get("name"), get2=there.get("name"))
        for key in here:
            if not _same(here[key], there.get(key)):
                word = str(key).replace("_", " ")
                return tr(
                    "{here}: {word} is {short} and {short2}.",
                    here=here["name"],
                    word=word,
                    short=_short(here[key]),
                    short2=_short(there.get(key)),
                )
    return (
        ""
        if len(ones) == len(others)
        else tr("One shows {count} layers, the other {count2}.", count=len(ones), count2=len(others))
    )


def _same(one: object, other: object) -> bool:
    if isinstance(one, float | int) and isinstance(other, float | int):
        return abs(one - other) <= _NEAR * max(1.0, abs(one))
    if isinstance(one, list | tuple) and isinstance(other, list | tuple):
        return len(one) == len(other) and all(map(_same, one, other))
    if isinstance(one, dict) and isinstance(other, dict):
        return one.keys() == other.keys() and all(_same(one[key], other[key]) for key in one)
    return one == other


def _short(value: object) -> str:
    if isinstance(value, float):
        return f"{value:.4g}"
    if isinstance(value, list | tuple) and all(isinstance(entry, float | int) for entry in value):
        return ", ".join(f"{entry:.4g}" for entry in value)
    text = str(value)
    return text if len(text) <= 40 else text[:39] + "…"
