"""What the station of loops says in a line: how many there are, and when all begin a round together."""

from __future__ import annotations

from avelt.core.model.values import Frame, Project
from avelt.core.timing.rounds import Period
from avelt.core.words import tr


def counted(project: Project, frame: Frame, ordered: bool, driven: bool) -> str:
    """How many phases, layers that follow, or loops there are."""
    if ordered:
        count = sum(len(track.phases) for track in project.tracks)
        poses = len(project.frames)
        return tr("{count} poses, {n} phases", "{count} poses, {n} phase", count, count=poses)
    if driven:
        count = len(frame.follows)
        return tr("{n} follow a value", "{n} follows a value", count) if count else tr("nothing follows yet")
    count = len(frame.loops)
    return tr("{n} loops", "{n} loop", count) if count else tr("no loop yet")


def period_words(period: Period) -> str:
    """When all loops begin a round together, in a sentence."""
    if period.ms:
        return tr("One round of all: {ms:g} s.", ms=period.ms / 1000)
    return tr("No common round below a minute; {nearest:g} s would nearly do.", nearest=period.nearest / 1000)
