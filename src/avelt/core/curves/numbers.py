"""The numbers of each kind of curve, declared once: the curve editor's fields are made from this table."""

from __future__ import annotations

import msgspec

from avelt.core.model.curves import Drops, Hold, PlainCurve, Ring, Spring, Steps
from avelt.core.record import Record
from avelt.core.words import tr


class Number(Record, frozen=True):
    """A field of a curve: its words, limits and step. ``whole``: no fractions."""

    name: str
    words: str
    low: float
    high: float
    step: float = 0.01
    whole: bool = False


NUMBERS: dict[type, tuple[Number, ...]] = {
    Spring: (Number("bounce", tr("Bounce"), -1.0, 1.0), Number("speed", tr("Start speed"), -20.0, 20.0, 0.1)),
    Steps: (Number("count", tr("Steps"), 1.0, 1000.0, 1.0, True),),
    Drops: (Number("count", tr("Bounces"), 0.0, 12.0, 1.0, True), Number("keep", tr("Keeps"), 0.0, 0.95)),
    Ring: (Number("swings", tr("Swings"), 0.0, 40.0, 0.1), Number("decay", tr("Dies away"), 0.0, 60.0, 0.1)),
    Hold: (Number("at", tr("Switches at"), 0.0, 1.0),),
}


def numbers_of(curve: PlainCurve) -> tuple[tuple[Number, float], ...]:
    """The curve's numbers with their values; none for those that are shaped by dragging."""
    return tuple((number, float(getattr(curve, number.name))) for number in NUMBERS.get(type(curve), ()))


def with_number(curve: PlainCurve, place: int, value: float) -> PlainCurve:
    """The curve with one number changed, inside its limits."""
    number = NUMBERS[type(curve)][place]
    low = 2.0 if isinstance(curve, Steps) and curve.jump == "none" else number.low
    value = min(number.high, max(low, value))
    made: PlainCurve = msgspec.structs.replace(curve, **{number.name: round(value) if number.whole else value})
    return made
