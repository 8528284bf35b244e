"""How a second pose of a layer differs from it."""

from __future__ import annotations

import msgspec

from avelt.core.model.layers import Body, Layer, Paint, Shadow, Stroke
from avelt.core.model.value import Value


class LayerChanges(Value, frozen=True):
    """What of a layer is another in a second pose of it; ``None`` is as the layer has it."""

    w: float | None = None
    h: float | None = None
    pivot: tuple[float, float] | None = None
    rotation_x: float | None = None
    rotation_y: float | None = None
    skew: float | None = None
    blur: float | None = None
    back_blur: float | None = None
    fills: tuple[Paint, ...] | None = None
    stroke: Stroke | None = None
    shadows: tuple[Shadow, ...] | None = None
    body: Body | None = None

    def of(self, layer: Layer) -> Layer:
        """The layer with these changes."""
        changed = {name: value for name in self.__struct_fields__ if (value := getattr(self, name)) is not None}
        return msgspec.structs.replace(layer, **changed) if changed else layer
