"""What is wrong with layers that follow a value, and with scrolling that goes nowhere."""

from __future__ import annotations

from collections.abc import Iterator

from avelt.core.checks.trouble import Trouble
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.follows import ByDrag, ByInput, ByPointer, ByScroll
from avelt.core.model.motion import Pose
from avelt.core.model.second import LayerChanges
from avelt.core.model.triggers import Scroll, trigger_row
from avelt.core.model.values import Follow, Frame, Project
from avelt.core.timing.scrolling import most_scrolled
from avelt.core.words import tr


def what_is_gone(project: Project) -> Iterator[Trouble]:
    """Follows of an input, a layer or a path that is not there."""
    inputs = {entry.id for entry in project.inputs if entry.kind != "signal"}
    for frame in project.frames:
        layers = layer_index(frame)
        for follow in frame.follows:
            by = follow.by
            if isinstance(by, ByInput) and by.input not in inputs:
                yield _of(frame, follow, "input gone", tr("no input is chosen, or it is gone"))
            if isinstance(by, ByDrag | ByPointer) and by.layer and by.layer not in layers:
                yield _of(
                    frame,
                    follow,
                    "layer gone",
                    tr("the layer that it goes by is not in {frame} any more", frame=frame.name),
                )
            if isinstance(by, ByDrag) and by.along == "path" and by.path not in layers:
                yield _of(frame, follow, "path gone", tr("the path to drag along is not in {frame}", frame=frame.name))


def nowhere(project: Project) -> Iterator[Trouble]:
    """Follows whose second pose is the layer as it is."""
    for frame in project.frames:
        for follow in frame.follows:
            if follow.offset == Pose() and follow.changes == LayerChanges():
                yield _of(frame, follow, "goes nowhere", tr("its second pose is the layer as it is"))


def out_of_reach(project: Project) -> Iterator[Trouble]:
    """What begins only beyond what a frame can be scrolled."""
    for frame in project.frames:
        for follow in frame.follows:
            if isinstance(follow.by, ByScroll) and not _reached(frame, follow.by.axis, follow.start, follow.end):
                yield _of(frame, follow, "out of reach", _says(frame, follow.by.axis, follow.start, follow.end))
    for route in project.routes:
        on, frame = route.trigger, frame_by_id(project, route.leaves)
        if isinstance(on, Scroll) and not _reached(frame, on.axis, on.start, on.end):
            says = _says(frame, on.axis, on.start, on.end)
            yield Trouble("out of reach", f"{says[0].upper()}{says[1:]}.", (route.id,), (frame.id,))


def waits_in_vain(project: Project) -> Iterator[Trouble]:
    """Delays of routes that do not go by the clock."""
    for route in project.routes:
        if route.delay > 0.0 and trigger_row(route.trigger).follows:
            word = tr(trigger_row(route.trigger).word)
            says = tr("A motion that follows a {word} begins with it: its delay does nothing.", word=word)
            yield Trouble("delay in vain", says, (route.id,), (route.leaves,))


def _reached(frame: Frame, axis: str, start: float, end: float) -> bool:
    """Whether a frame can be scrolled over all of the way; one of which nothing goes is as far as it is followed."""
    most = most_scrolled(frame)[axis == "down"]
    return most <= 0.0 or max(start, end) <= most


def _says(frame: Frame, axis: str, start: float, end: float) -> str:
    most = most_scrolled(frame)[axis == "down"]
    return tr(
        "it goes to {start:g} px, and {frame} scrolls {most:g} px {axis} at most",
        start=max(start, end),
        frame=frame.name,
        most=most,
        axis=axis,
    )


def _of(frame: Frame, follow: Follow, what: str, says: str) -> Trouble:
    return Trouble(what, f"{follow.name}: {says}.", (), (frame.id,), loops=(follow.id,))


RULES = (what_is_gone, nowhere, out_of_reach, waits_in_vain)
