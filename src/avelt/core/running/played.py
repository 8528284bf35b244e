"""Which triggers the player knows, and the one sentence about those that it does not know yet.

Routes, the stage and the log of Rehearse all read this. Who teaches the player a trigger adds it to ``PLAYED``.
"""

from __future__ import annotations

from collections.abc import Iterable

from avelt.core.model.find import frame_by_id
from avelt.core.model.triggers import (
    Crosses,
    DoubleTap,
    Ends,
    Hold,
    HoverIn,
    HoverOut,
    Key,
    Loading,
    Release,
    Signal,
    Tap,
    Timer,
    Trigger,
    trigger_row,
)
from avelt.core.model.values import Project, Route

_TOUCHES = (Tap, DoubleTap, Release, HoverIn, HoverOut, Key)
PLAYED: tuple[type[Trigger], ...] = (*_TOUCHES, Hold, Timer, Loading, Crosses, Signal, Ends)
IN_PHASES: tuple[type[Trigger], ...] = (*_TOUCHES, Timer, Crosses, Signal)  # what a rule of a phase can wait for


def is_played(trigger: Trigger) -> bool:
    """Whether the player starts a route by this trigger."""
    return isinstance(trigger, PLAYED)


def _unplayed(routes: Iterable[Route]) -> list[Route]:
    return [route for route in routes if not is_played(route.trigger)]


def unplayed_count(project: Project) -> str:
    """How many routes of a project start by triggers that the player does not know yet; empty when it knows all."""
    found = len(_unplayed(project.routes))
    return f"{found} of {len(project.routes)} routes: trigger not known" if found else ""


def unplayed_by_frame(project: Project) -> dict[str, str]:
    """What the player does not know yet, such as ``drag to Seat deck``, by the id of the frame that it leaves."""
    found: dict[str, list[str]] = {}
    for route in _unplayed(project.routes):
        words = f"{trigger_row(route.trigger).word} to {frame_by_id(project, route.arrives).name}"
        found.setdefault(route.leaves, []).append(words)
    return {frame_id: ", ".join(words) for frame_id, words in found.items()}


def unplayed_sentence(trigger: Trigger) -> str:
    """What is said about a route whose trigger the player does not know yet; empty when it knows it."""
    return "" if is_played(trigger) else f"Rehearse does not play “{trigger_row(trigger).word}” yet."
