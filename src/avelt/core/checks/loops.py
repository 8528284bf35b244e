"""What is wrong with loops: seams that do not close, second poses that are none, timers that do not wait for them."""

from __future__ import annotations

import math
from collections.abc import Iterator

from avelt.core.checks.trouble import Trouble
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.motion import Pose
from avelt.core.model.second import LayerChanges
from avelt.core.model.triggers import Timer
from avelt.core.model.values import Frame, Project
from avelt.core.timing.loops import round_duration, total_length
from avelt.core.timing.rounds import beside, seam
from avelt.core.timing.schedule import end_of
from avelt.core.words import tr

_NEAR = 0.5  # ms


def open_seams(project: Project) -> Iterator[Trouble]:
    """Loops that jump where one round ends and the next begins, and are seen on both sides of it."""
    for frame in project.frames:
        layers = layer_index(frame)
        for loop in frame.loops:
            layer = layers.get(loop.layer)
            if layer is None:
                continue
            jumps = seam(layer, loop, project, beside(frame, loop))
            if jumps:
                says = tr("{loop} jumps where its round ends: {jumps}.", loop=loop.name, jumps=", ".join(jumps))
                yield Trouble("seam open", says, (), (frame.id,), layers=(layer.id,), loops=(loop.id,))


def idle_loops(project: Project) -> Iterator[Trouble]:
    """Loops whose second pose is the layer as it is."""
    for frame in project.frames:
        for loop in frame.loops:
            if loop.offset == Pose() and loop.changes == LayerChanges() and not loop.path:
                says = tr("{loop} moves nothing: its second pose is the layer as it is.", loop=loop.name)
                yield Trouble("loop idle", says, (), (frame.id,), layers=(loop.layer,), loops=(loop.id,))


def early_timers(project: Project) -> Iterator[Trouble]:
    """Timers that go off before what they seem to wait for is over: a loop, or the entrance of the frame."""
    for route in project.routes:
        if not isinstance(route.trigger, Timer):
            continue
        after = route.trigger.after + route.delay
        frame = frame_by_id(project, route.leaves)
        cut = min(_ends(project, frame, after), key=lambda entry: entry[1], default=None)
        if cut is not None:
            what, end = cut
            says = tr(
                "The timer goes off after {after:g} ms, {what} ends at {end:g} ms.", after=after, what=what, end=end
            )
            yield Trouble("timer early", says, (route.id,), (frame.id,), value=end - route.delay)


def _ends(project: Project, frame: Frame, after: float) -> list[tuple[str, float]]:
    """What of a frame is under way at a moment though it ends at a later one, and when that is, ms."""
    found: list[tuple[str, float]] = []
    if frame.entrance is not None and frame.entrance.when == "on arrival":
        found.append((tr("the entrance"), end_of(frame.entrance.transition, project)))
    for loop in frame.loops:
        one = round_duration(loop)
        if loop.muted or loop.until or one <= 0.0:
            continue
        begins = loop.wait if loop.wait_when == "once" else 0.0
        first = begins + one - loop.start_offset
        ends = total_length(loop) - loop.start_offset if loop.rounds else first
        name = loop.name if loop.rounds else tr("the first round of {loop}", loop=loop.name)
        if math.isfinite(ends) and ends > 0.0:
            found.append((name, ends))
    return [entry for entry in found if after < entry[1] - _NEAR]


RULES = (open_seams, idle_loops, early_timers)
