"""What can be done about a finding of the checks by one click: pure edits, by the finding's code."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol

from msgspec.structs import replace

from avelt.core.edits.follows import remove_follow
from avelt.core.edits.layers import edit_layer
from avelt.core.edits.loops import close_seam, edit_loop, remove_loop
from avelt.core.edits.parts import in_stage, remove_part
from avelt.core.edits.routes import (
    edit_transition,
    move_end,
    remove_route,
    set_delay,
    set_duration,
    set_trigger,
    settle,
)
from avelt.core.errors import EditError
from avelt.core.model.find import frame_by_id, frame_of_layer, layer_index, route_by_id
from avelt.core.model.motion import CueKey, Transition
from avelt.core.model.triggers import Timer
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.timing.rounds import common_period, in_step
from avelt.core.words import tr

COMFORTABLE = 600.0  # ms of a transition that was too long


class Found(Protocol):
    """What a mend needs of a trouble (see ``checks/trouble.py``)."""

    @property
    def code(self) -> str: ...
    @property
    def routes(self) -> tuple[str, ...]: ...
    @property
    def frames(self) -> tuple[str, ...]: ...
    @property
    def layers(self) -> tuple[str, ...]: ...
    @property
    def loops(self) -> tuple[str, ...]: ...
    @property
    def others(self) -> tuple[str, ...]: ...
    @property
    def cue(self) -> CueKey | None: ...
    @property
    def value(self) -> float: ...


class Mend(Record, frozen=True):
    """What the button says, and the edit of the stage that the trouble is in."""

    words: str
    edit: Callable[[Project, Found], Project]


def _timer(project: Project, found: Found) -> Project:
    return set_trigger(project, found.routes[0], Timer(found.value))


def _seam(project: Project, found: Found) -> Project:
    return edit_loop(project, found.frames[0], found.loops[0], close_seam)


def _in_step(project: Project, found: Found) -> Project:
    """The rounds of some loops made so that they begin together."""
    frame = frame_by_id(project, found.frames[0])
    loops = [loop for loop in frame.loops if loop.id in found.loops]
    for loop, one in zip(loops, common_period(loops).rounds, strict=True):
        project = edit_loop(project, frame.id, loop.id, lambda old, one=one: in_step(old, one))  # type: ignore[misc]
    return project


def _wait(project: Project, found: Found) -> Project:
    """All cues begin as much earlier as nothing moves."""
    by = found.value

    def earlier(value: float | None) -> float | None:
        return None if value is None else max(0.0, value - by)

    route = route_by_id(project, found.routes[0])
    old = route.transition
    cues = tuple(replace(cue, start=earlier(cue.start), end=earlier(cue.end)) for cue in old.cues)
    length = None if old.duration is None else max(0.0, old.duration - by)
    return edit_transition(project, route.id, lambda t: replace(t, cues=cues, duration=length))


def _cue(project: Project, found: Found) -> Project:
    def without(old: Transition) -> Transition:
        return replace(old, cues=tuple(cue for cue in old.cues if cue.key != found.cue))

    return edit_transition(project, found.routes[0], without)


def _name(project: Project, found: Found) -> Project:
    """The layer that enters is called as the one that leaves."""
    left, right = found.layers
    one, other = frame_of_layer(project, left), frame_of_layer(project, right)
    if one is None or other is None:
        raise EditError(tr("The layer is gone."))
    name = layer_index(one)[left].name
    return edit_layer(project, other.id, right, lambda layer: replace(layer, name=name))


def _fade(project: Project, found: Found) -> Project:
    return settle(project, found.routes[0], (found.layers[0], found.layers[1]), content="cross-fade")


MENDS: dict[str, Mend] = {
    "timer early": Mend(tr("Wait until it ends"), _timer),
    "seam open": Mend(tr("Close the seam"), _seam),
    "rounds apart": Mend(tr("Bring the loops in step"), _in_step),
    "loop idle": Mend(tr("Delete the loop"), lambda p, f: remove_loop(p, f.frames[0], f.loops[0])),
    "goes nowhere": Mend(tr("Delete the follow"), lambda p, f: remove_follow(p, f.frames[0], f.loops[0])),
    "same trigger": Mend(tr("Delete this route"), lambda p, f: remove_route(p, f.routes[0])),
    "delay in vain": Mend(tr("No delay"), lambda p, f: set_delay(p, f.routes[0], 0.0)),
    "near name": Mend(tr("Give both one name"), _name),
    "only cuts": Mend(tr("Cross-fade"), _fade),
    "cue idle": Mend(tr("Delete the cue"), _cue),
    "dead wait": Mend(tr("Begin at once"), _wait),
    "dead rest": Mend(tr("End with the last motion"), lambda p, f: move_end(p, f.routes[0], f.value)),
    "too long": Mend(
        tr("Take {comfortable:g} ms", comfortable=COMFORTABLE), lambda p, f: set_duration(p, f.routes[0], COMFORTABLE)
    ),
    "part unused": Mend(tr("Delete the part"), lambda p, f: remove_part(p, f.others[0])),
    "link gone": Mend(
        tr("Cut loose"), lambda p, f: replace(p, links=tuple(link for link in p.links if link.id not in f.others))
    ),
}


def mended(project: Project, part: str, found: Found) -> Project:
    """The project with a finding mended; ``EditError`` when there is nothing to be done by itself."""
    mend = MENDS.get(found.code)
    if mend is None:
        raise EditError(tr("This is mended by hand."))
    if part:
        return in_stage(project, part, lambda stage: mend.edit(stage, found))
    return mend.edit(project, found)
