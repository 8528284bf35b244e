"""What happens, one thing at a time: a world and what falls due (or what somebody does) give the next world.

Every function here is pure from outside: it takes a frozen ``World`` and gives another, with what is to be logged.
Inside, a working copy is changed and frozen again at the end.
"""

from __future__ import annotations

from msgspec.structs import replace

from avelt.core.model.triggers import Timer, hot_area
from avelt.core.running import phasing
from avelt.core.running.due import Due
from avelt.core.running.rules import Rules
from avelt.core.running.stage_work import MOST_STEPS, Step
from avelt.core.running.touch import Done, Taken, drags, key, move, out, press, release, scroll
from avelt.core.running.work import Work, begin, send, set_input, within
from avelt.core.running.world import World
from avelt.core.words import tr

__all__ = [
    "MOST_STEPS",
    "Done",
    "Step",
    "Taken",
    "begin",
    "drags",
    "jump",
    "key",
    "loaded",
    "move",
    "out",
    "passed",
    "press",
    "release",
    "scroll",
    "send",
    "set_input",
    "step",
    "within",
]


def step(rules: Rules, world: World, found: Due) -> Step:
    """Do what falls due. After ``MOST_STEPS`` of them at one moment the chain is cut, and the log says where."""
    work = Work(rules, world)
    work.now = max(world.now, found.at)
    if found.kind == "phase" and found.inner is None:
        phasing.fell_due(work, found.track)
    elif found.inner is not None:
        work.in_child(found.child, lambda rules, world: step(rules, world, found.inner))  # type: ignore[arg-type]
    elif not work.counts(tr("{frame}: what goes on by itself", frame=work.frame.name)):
        pass
    elif found.kind == "motion" and work.motion is not None:
        work.over()
    elif found.kind == "hold" and found.route is not None:
        work.holds = work.holds | {found.route.id}
        work.note(
            "hold", work.name_of(hot_area(found.route.trigger)) if hot_area(found.route.trigger) else tr("anywhere")
        )
        work.go(found.route)
    elif found.kind == "loop" and found.route is not None:
        work.fired = work.fired | {found.route.id}
        work.go(found.route)
    elif found.kind == "loading":
        work.loaded()
    elif found.route is not None and isinstance(found.route.trigger, Timer):
        work.fired = work.fired | {found.route.id}
        work.note("timer", tr("after {after:g} ms", after=found.route.trigger.after))
        work.go(found.route)
    return work.done()


def passed(world: World, to_ms: float) -> World:
    """Time goes on, and nothing falls due before. The same moment is the same world."""
    return world if to_ms <= world.now else replace(world, now=to_ms)


def loaded(rules: Rules, world: World) -> Step:
    """The loading of the frame that is shown is done now."""
    work = Work(rules, world)
    work.loaded()
    return work.done()


def jump(rules: Rules, world: World, track: str, phase: str) -> Step:
    """A phase of a running order (by their ids) begins now, whatever runs."""
    work = Work(rules, replace(world, halted=False, steps=0))
    phasing.jump(work, track, phase)
    return work.done()
