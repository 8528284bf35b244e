"""Chance in a rehearsal: another seed gives other waits, the same seed always the same."""

from __future__ import annotations

from msgspec.structs import replace

from avelt.core.model.tapes import MOST_SEED
from avelt.core.model.values import Frame, Loop, Project

USUAL = 1


def seeded(project: Project, seed: int) -> Project:
    """The project whose loops wait by another seed; the usual one changes nothing."""
    if seed == USUAL:
        return project
    parts = tuple(replace(part, poses=tuple(_frame(pose, seed) for pose in part.poses)) for part in project.parts)
    return replace(project, frames=tuple(_frame(frame, seed) for frame in project.frames), parts=parts)


def _frame(frame: Frame, seed: int) -> Frame:
    if not any(loop.jitter for loop in frame.loops):
        return frame
    return replace(frame, loops=tuple(_loop(loop, seed) for loop in frame.loops))


def _loop(loop: Loop, seed: int) -> Loop:
    return replace(loop, seed=(loop.seed + (seed - USUAL) * 7_919) % MOST_SEED) if loop.jitter else loop
