"""Layers that follow a value are loops whose clock is not time: it says how far the value has come."""

from __future__ import annotations

from avelt.core.model.find import by_identity
from avelt.core.model.values import Follow, Frame, Loop

_MARK = "\0follow "
WHOLE = 1_000.0  # the clock of a follow that has come all the way


def clock_of(follow: Follow) -> str:
    """The clock that a follow hangs on."""
    return _MARK + follow.origin


def is_follow(loop: Loop) -> bool:
    """Whether a loop of a program is a layer that follows a value."""
    return loop.origin.startswith(_MARK)


def _as_loop(follow: Follow) -> Loop:
    return Loop(
        follow.id,
        clock_of(follow),
        follow.layer,
        follow.name,
        follow.offset,
        WHOLE,
        "one way",
        rounds=1,
        at_rest="hold",
        curve=follow.curve,
        changes=follow.changes,
        muted=follow.muted,
    )


def _moved_by_clocks(frame: Frame) -> tuple[Loop, ...]:
    return (*frame.loops, *(_as_loop(follow) for follow in frame.follows)) if frame.follows else frame.loops


#: All that moves in a frame by a clock of its own: loops, and layers that follow a value.
moved_by_clocks = by_identity(_moved_by_clocks)
