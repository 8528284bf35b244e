"""One layer watched alone: the rest of a scene fades."""

from __future__ import annotations

from dataclasses import replace

from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.timing.program import Scene

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
    for s in range(len(program.parts)):
        parent = int(program.parent[s])
        # What lies in the slot stays; of the rest the outermost fades, and what lies in it with it.
        if s not in kept and (parent < 0 or (parent in kept and parent != slot)):
            rows[s, _OPACITY] *= rest
    return replace(scene, scalars=rows, vector=vector)
