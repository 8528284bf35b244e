"""Whether a tape holds together: times that never fall, numbers in their limits."""

from __future__ import annotations

import math

from avelt.core.errors import FormatError
from avelt.core.model.tapes import MOST_MS, MOST_PX, MOST_SEED, Tape
from avelt.core.words import tr


def tape_is_sound(tape: Tape) -> None:
    """Raise ``FormatError`` with the number of the event (from 1) unless a tape can be played."""
    if not (math.isfinite(tape.until) and 0.0 <= tape.until <= MOST_MS):
        raise FormatError(tr("“until” is 0 to a day, in ms."))
    if not (math.isfinite(tape.start.loading) and 0.0 <= tape.start.loading <= MOST_MS):
        raise FormatError(tr("“loading” is 0 to a day, in ms."))
    if not 0 <= tape.start.seed <= MOST_SEED:
        raise FormatError(tr("“seed” is 0 to {most_seed}.", most_seed=MOST_SEED), "start")
    last = 0.0
    for number, event in enumerate(tape.events, 1):
        if not (math.isfinite(event.at) and 0.0 <= event.at <= MOST_MS):
            raise FormatError(tr("“at” is 0 to a day, in ms."), tr("event {number}", number=number))
        if event.at < last:
            raise FormatError(
                tr("Its time, {at:g}, is before that of the event before it, {last:g}.", at=event.at, last=last),
                tr("event {number}", number=number),
            )
        last = event.at
        for name in ("x", "y", "dx", "dy"):
            value = getattr(event, name, 0.0)
            if not abs(value) <= MOST_PX:
                raise FormatError(
                    tr("“{name}” is within a million px.", name=name), tr("event {number}", number=number)
                )
