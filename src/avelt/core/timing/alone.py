"""Scenes made for looking: one layer alone, and a frame standing complete with one layer where it is absent."""

from __future__ import annotations

from msgspec.structs import replace

from avelt.core.model.motion import CueKey
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.timing.program import Program, Scene

_FADED = 0.12
_OPACITY = COLUMN["opacity"]


def alone(scene: Scene, slot: int, rest: float = _FADED) -> Scene:
    """The scene with all but a slot (what lies in it, and the groups it lies in) at a share of its opacity."""
    program = scene.program
    kept = {slot}
    up = int(program.parent[slot])
    while up >= 0:
        kept.add(up)
        up = int(program.parent[up])
    vector = scene.vector.copy()
    rows = vector[: program.dense].reshape(-1, len(SCALARS))
    for s in range(len(program.contents)):
        parent = int(program.parent[s])
        # What lies in the slot stays; of the rest the outermost fades, and what lies in it with it.
        if s not in kept and (parent < 0 or (parent in kept and parent != slot)):
            rows[s, _OPACITY] *= rest
    return replace(scene, vector=vector, bent=True)


def standing(program: Program, cue: CueKey) -> Scene:
    """The frame that a cue's layer is in, complete, with that layer where it comes from or goes to.

    Of a layer in both frames it is the frame arrived at.
    """
    comes = cue.from_id is None or cue.to_id is not None
    here, there = (program.end, program.start) if comes else (program.start, program.end)
    vector = here.copy()
    rows, other = (v[: program.dense].reshape(-1, len(SCALARS)) for v in (vector, there))
    for s, part in enumerate(program.contents):
        absent = part.left is None if comes else part.right is None
        if absent and ((part.left and part.left.id), (part.right and part.right.id)) == cue.pair:
            rows[s, :2] = other[s, :2]
    # Just inside the ends: at an end itself the frame's own picture would be taken.
    return program.scene_of(vector, program.duration * (0.999 if comes else 0.001))
