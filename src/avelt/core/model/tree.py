"""Making trees of layers anew: pure, and sharing every branch that stays as it was."""

from __future__ import annotations

from collections.abc import Callable, Mapping

import msgspec

from avelt.core.model.values import Frame, Group, Layer


def map_layers(layers: tuple[Layer, ...], change: Mapping[str, Callable[[Layer], Layer | None]]) -> tuple[Layer, ...]:
    """Layers with the named ones changed, or taken out where the change gives ``None``."""
    made: list[Layer] = []
    touched = False
    for layer in layers:
        new: Layer | None = layer
        if isinstance(layer.body, Group) and layer.body.children:
            children = map_layers(layer.body.children, change)
            if children is not layer.body.children:
                new = msgspec.structs.replace(layer, body=msgspec.structs.replace(layer.body, children=children))
        if layer.id in change and new is not None:
            new = change[layer.id](new)
        touched = touched or new is not layer
        if new is not None:
            made.append(new)
    return tuple(made) if touched else layers


def change_layers(frame: Frame, change: Mapping[str, Callable[[Layer], Layer | None]]) -> Frame:
    """The frame with the named layers changed; the same frame when nothing did."""
    layers = map_layers(frame.layers, change)
    return frame if layers is frame.layers else msgspec.structs.replace(frame, layers=layers)
