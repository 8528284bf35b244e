"""The same layer in other frames: by origin first, else by what pairing finds."""

from __future__ import annotations

from avelt.core.model.find import layer_index
from avelt.core.model.values import Frame, Layer, Project, Transition

_PLAIN = Transition()


def relatives(project: Project, frame: Frame, layer: Layer) -> dict[str, Layer]:
    """Frame id -> the layer's relative there (its own frame has itself). Routes' decisions by hand count."""
    found = {frame.id: layer}
    for other in project.frames:
        if other.id == frame.id:
            continue
        same = next((entry for entry in layer_index(other).values() if entry.origin == layer.origin), None)
        if same is None:
            ident = _by_pairing(project, frame, other, layer.id)
            same = layer_index(other).get(ident) if ident else None
        if same is not None:
            found[other.id] = same
    return found


def _by_pairing(project: Project, frame: Frame, other: Frame, layer_id: str) -> str | None:
    from avelt.core.timing.compile import paired

    for route in project.routes:
        if (route.leaves, route.arrives) == (frame.id, other.id):
            return paired(frame, other, route.transition).to_of.get(layer_id)
        if (route.leaves, route.arrives) == (other.id, frame.id):
            return paired(other, frame, route.transition).from_of.get(layer_id)
    return paired(frame, other, _PLAIN).to_of.get(layer_id)
