"""Edits of several cues at once, also across layers."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

from avelt.core.edits.routes import inherit_cue, set_cue
from avelt.core.model.curves import Curve
from avelt.core.model.find import route_by_id
from avelt.core.model.values import CueKey, Project
from avelt.core.timing.schedule import timed

_ALIKE = 1e-6  # ms
Times = Mapping[CueKey, tuple[float, float]]


def times_of(project: Project, route_id: str, keys: Iterable[CueKey]) -> dict[CueKey, tuple[float, float]]:
    """When cues start and end now, ms, whether that is their own or inherited."""
    transition = route_by_id(project, route_id).transition
    found = {key: timed(project, transition, *key) for key in keys}
    return {key: (when.start, when.end) for key, when in found.items()}


def shift_cues(project: Project, route_id: str, base: Times, by_start: float, by_end: float) -> Project:
    """Starts and ends moved by so many ms from what they were (``base``); none begins before 0, or ends before that.

    When both move alike, a cue that meets the beginning keeps its length.
    """
    for key, (start, end) in base.items():
        new_start = max(0.0, start + by_start)
        kept = end - start if abs(by_start - by_end) < _ALIKE else 0.0
        project = set_cue(project, route_id, key, start=new_start, end=max(new_start + kept, end + by_end, new_start))
    return project


def time_cues(project: Project, route_id: str, keys: Iterable[CueKey], start: float, end: float) -> Project:
    """One start and end for several cues."""
    for key in keys:
        project = set_cue(project, route_id, key, start=start, end=max(start, end))
    return project


def curve_cues(project: Project, route_id: str, keys: Iterable[CueKey], curve: Curve) -> Project:
    """One curve for several cues."""
    for key in keys:
        project = set_cue(project, route_id, key, curve=curve)
    return project


def inherit_cues(project: Project, route_id: str, keys: Iterable[CueKey]) -> Project:
    """Several cues back to what they inherit."""
    for key in keys:
        project = inherit_cue(project, route_id, key)
    return project
