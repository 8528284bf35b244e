"""The transitions of a stage that are worth looking at, compiled."""

from __future__ import annotations

from collections.abc import Iterator

from avelt.core.arrays import np
from avelt.core.model.triggers import SendSignal, SetInput, trigger_row
from avelt.core.model.values import Project, Route
from avelt.core.timing.compile import compile_route
from avelt.core.timing.program import Program
from avelt.core.timing.tracks import BlendTrack, KeyframeTrack, MotionPathTrack

LARGE = 4_000  # slots; larger ones are looked at at fewer moments


def goes(route: Route) -> bool:
    """Whether a route leads anywhere, and not only sets or sends something."""
    return not isinstance(route.action, SetInput | SendSignal) and route.leaves != route.arrives


def by_the_clock(route: Route) -> bool:
    """Whether its motion goes by time, and not by a drag, the scrolling or the pointer."""
    return not trigger_row(route.trigger).follows


def transitions(project: Project) -> Iterator[tuple[Route, Program]]:
    """Every transition of a stage with its program."""
    for route in project.routes:
        if goes(route):
            yield route, compile_route(project, route)


def span_of_motion(program: Program) -> tuple[float, float] | None:
    """When the first thing begins to move and when the last one stops, ms; ``None`` when nothing moves."""
    begins, ends = [], []
    halves = program.colours_end + program.frame.numbers.stop - 1  # tells the halves apart, and is not seen
    for track in program.tracks:
        if isinstance(track, BlendTrack):
            used = np.unique(track.cue[(track.first != track.last) & (track.places != halves)])
            begins += track.begins[used].tolist()
            ends += track.ends[used].tolist()
        elif isinstance(track, KeyframeTrack | MotionPathTrack):
            moments = track.along.moments if isinstance(track, MotionPathTrack) else track.moments
            begins.append(float(moments[0]))
            ends.append(float(moments[-1]))
    flips = [ms for ms, _ in program.orders[1:]]
    return (min(begins), max(ends, default=0.0)) if begins else (min(flips), max(flips)) if flips else None
