"""The properties of layers that can have a cue of their own, declared once.

``scalars`` are the numbers of the dense block that a property moves; paints and outlines, whose count
varies, are moved by ``fill``, ``stroke``, ``shadow`` and ``shape``.
"""

from __future__ import annotations

from avelt.core.record import Record
from avelt.core.words import tr


class Property(Record, frozen=True):
    """One row of the table. ``kinds`` are the kinds of layer that have it; empty means all."""

    key: str
    label: str
    scalars: tuple[str, ...] = ()
    kinds: tuple[str, ...] = ()


PROPERTIES = (
    Property("position", tr("position"), ("x", "y", "pivot_x", "pivot_y")),
    Property("size", tr("size"), ("w", "h")),
    Property("rotation", tr("rotation"), ("rotation",)),
    Property("rotation_xy", tr("rotation x, y"), ("rotation_x", "rotation_y")),
    Property("scale", tr("scale"), ("scale_x", "scale_y")),
    Property("skew", tr("skew"), ("skew",)),
    Property("corner", tr("corner"), ("radius_1", "radius_2", "radius_3", "radius_4"), ("box",)),
    Property("opacity", tr("opacity"), ("opacity",)),
    Property("fill", tr("fill")),
    Property("stroke", tr("stroke"), ("stroke_width", "dash_offset")),
    Property("trim", tr("trim"), ("trim_start", "trim_end", "trim_offset")),
    Property("shadow", tr("shadow")),
    Property("blur", tr("blur"), ("blur", "back_blur")),
    Property("cut", tr("cut off"), ("cut_top", "cut_right", "cut_bottom", "cut_left")),
    Property("type", tr("type size"), ("type_size", "letter_spacing", "line_height"), ("text",)),
    Property("shape", tr("shape"), ("mix",)),
)
BY_KEY = {prop.key: prop for prop in PROPERTIES}

#: What a keyframe holds, by property: columns of the dense block; of a fill red, green, blue and alpha, 0..1.
KEYED: dict[str, tuple[str, ...]] = {
    "position": ("x", "y"),
    "size": ("w", "h"),
    "rotation": ("rotation",),
    "rotation_xy": ("rotation_x", "rotation_y"),
    "scale": ("scale_x", "scale_y"),
    "skew": ("skew",),
    "corner": ("radius_1", "radius_2", "radius_3", "radius_4"),
    "opacity": ("opacity",),
    "stroke": ("stroke_width",),
    "trim": ("trim_start", "trim_end", "trim_offset"),
    "blur": ("blur", "back_blur"),
    "cut": ("cut_top", "cut_right", "cut_bottom", "cut_left"),
    "type": ("type_size", "letter_spacing", "line_height"),
    "fill": ("red", "green", "blue", "alpha"),
}

#: Columns of the dense block; the first ten are those of ``geometry.flatten.PARTS``.
SCALARS = (
    "x",
    "y",
    "w",
    "h",
    "pivot_x",
    "pivot_y",
    "rotation",
    "scale_x",
    "scale_y",
    "skew",
    "opacity",
    "radius_1",
    "radius_2",
    "radius_3",
    "radius_4",
    "stroke_width",
    "dash_offset",
    "type_size",
    "letter_spacing",
    "line_height",
    "rotation_x",
    "rotation_y",
    "trim_start",
    "trim_end",
    "trim_offset",
    "blur",
    "back_blur",
    "mix",
    "cut_top",
    "cut_right",
    "cut_bottom",
    "cut_left",
)
COLUMN = {name: i for i, name in enumerate(SCALARS)}
PROPERTY_OF_COLUMN = tuple(next(p.key for p in PROPERTIES if name in p.scalars) for name in SCALARS)
