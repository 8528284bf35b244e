"""What a delivery would show otherwise than people expect, whatever its kind."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from avelt.core.checks.trouble import Trouble
from avelt.core.model.triggers import HoverIn, HoverOut, Pointer
from avelt.core.model.values import Loop, Project
from avelt.core.timing.rounds import common_period
from avelt.core.words import tr


def endless(loops: Sequence[Loop]) -> list[Loop]:
    """Those that go round for ever in even rounds: a wait by chance is never the same, and nobody expects it to be."""
    return [loop for loop in loops if not loop.rounds and not loop.muted and not loop.jitter and loop.duration > 0.0]


def rounds_apart(project: Project) -> Iterator[Trouble]:
    """Loops of one frame that never begin a round together: what is delivered as one round of all jumps once."""
    for frame in project.frames:
        loops = endless(frame.loops)
        period = common_period(loops)
        if len(loops) > 1 and not period.ms:
            says = tr(
                "The loops of {frame} never begin together within a minute: pictures, films and styles of it jump "
                "where they begin again. {nearest:g} s would nearly do.",
                frame=frame.name,
                nearest=period.nearest / 1000,
            )
            yield Trouble("rounds apart", says, (), (frame.id,), loops=tuple(loop.id for loop in loops))


def hover_only(project: Project) -> Iterator[Trouble]:
    """Frames that only a hovering pointer leads to: on a screen that is touched nobody gets there."""
    for frame in project.frames:
        ways = [route for route in project.routes if route.arrives == frame.id and route.leaves != frame.id]
        if ways and all(isinstance(route.trigger, HoverIn | HoverOut | Pointer) for route in ways):
            says = tr(
                "Only hovering leads to {frame}: where one touches the screen, nobody gets there.", frame=frame.name
            )
            yield Trouble("hover only", says, tuple(route.id for route in ways), (frame.id,))


OF_STAGES, OF_PROJECT = (rounds_apart,), (hover_only,)
