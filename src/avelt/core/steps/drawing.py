"""Outlines in steps: SVG path data."""

from __future__ import annotations

import msgspec

from avelt.core.errors import FormatError
from avelt.core.formats.svg_in import read_svg
from avelt.core.model.values import Layer
from avelt.core.model.values import Path as PathBody

replace = msgspec.structs.replace


def drawn(d: str) -> Layer:
    """A path layer from SVG path data."""
    text = f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 9 9"><path d="{_quoted(d)}"/></svg>'
    found = read_svg(text.encode(), "path").frame.layers
    if len(found) != 1 or not isinstance(found[0].body, PathBody):
        raise FormatError("The path data draw nothing.")
    return replace(found[0], name="path")


def _quoted(text: str) -> str:
    return text.replace("&", "&amp;").replace('"', "&quot;").replace("<", "&lt;")


def outlined(layer: Layer, d: str) -> Layer:
    """A layer with another outline, in the px of what the layer lies in."""
    made = drawn(d)
    return replace(layer, body=made.body, x=made.x, y=made.y, w=made.w, h=made.h)
