"""What moves in a frame to a second pose of its layer: loops, and layers that follow a value."""

from __future__ import annotations

from avelt.core.model.values import Follow, Frame, Loop

Moves = Loop | Follow


def moves_of(frame: Frame) -> tuple[Moves, ...]:
    """All of them, loops first."""
    return (*frame.loops, *frame.follows)
