"""What of a loop a drag takes hold of, on the dial and on the strip: its duration, its wait or its phase."""

from __future__ import annotations

from typing import Literal

from msgspec.structs import replace

from avelt.core.edits.loops import shift_phase
from avelt.core.model.values import Loop
from avelt.core.timing.loops import round_duration

Grip = Literal["duration", "wait", "phase"]
_STEP = 10.0  # ms that a drag goes in; with Alt 1


def grip_at(loop: Loop, ms: float, near: float, until: float) -> Grip:
    """What lies at a time: the end of a round is its duration, the end of a wait its wait, all else its phase.

    ``near`` is how far from an end (ms) still takes hold of it.
    """
    whole = round_duration(loop)
    t = ms + loop.start_offset
    if loop.wait_when == "once":
        if abs(t - loop.wait) <= near and loop.wait > 0.0:
            return "wait"
        t -= loop.wait
    if whole <= 0.0 or t < -near:
        return "phase"
    within = t % whole
    wait = whole - loop.duration
    if wait > 0.0 and abs(within - wait) <= near:
        return "wait"
    if whole - within <= near or (within <= near and t > near and not wait):
        return "duration"
    return "phase"


def changed(loop: Loop, grip: Grip, travel: float, fine: bool = False) -> Loop:
    """A loop after a drag of so many ms, in whole steps."""
    step = 1.0 if fine else _STEP
    by = round(travel / step) * step
    if grip == "duration":
        return replace(loop, duration=max(step, round((loop.duration + by) / step) * step))
    if grip == "wait":
        return replace(loop, wait=max(0.0, round((loop.wait + by) / step) * step))
    return shift_phase(loop, by)
