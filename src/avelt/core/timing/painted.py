"""What painters paint: items with their brushes, pens and shadows, as plain data."""

from __future__ import annotations

import msgspec

from avelt.core.arrays import Floats
from avelt.core.blending.rolling import Column
from avelt.core.model.values import Blend, Cap, Join, Layer, Pattern, Picture, Text
from avelt.core.record import Mutable


class Brush(Mutable):
    """Paint: ``kind`` as in ``blending.paints``; colours (k, 4) sRGB; matrix to fractions of the box."""

    kind: str
    colours: Floats
    at: Floats
    matrix: tuple[float, ...]
    focus: tuple[float, ...]
    spread: str
    pattern: Pattern | None = None


class Pen(Mutable):
    """A stroke: brush, width in px, how its ends and corners are, dashes in px, (start, end, offset) of its trim."""

    brush: Brush
    width: float
    cap: Cap
    join: Join
    miter: float
    dashes: tuple[float, ...]
    offset: float
    trim: tuple[float, float, float] = (0.0, 1.0, 0.0)
    under: bool = False


class Shade(Mutable):
    """A shadow: colour (4,) sRGB and alpha, shift and standard deviation in the layer's px."""

    colour: Floats
    x: float
    y: float
    blur: float
    inner: bool


#: A layer that is as simple as most (see ``plain_leaves``): opacity, the six numbers of its transform, width, height,
#: outline (none: the whole box), and its one colour.
Leaf = tuple[float, list[float], float, float, Floats | None, list[float]]


class Item(Mutable):
    """One thing to paint in its parent's space. ``outline``: subpaths (points (k, 2), closed).

    ``matrix`` has six numbers, or nine (rows of a 3x3 matrix) when it is turned out of the plane.
    ``still`` is true when neither it nor anything in it changes during the program.
    """

    slot: int
    layer: Layer
    matrix: tuple[float, ...]
    opacity: float
    w: float
    h: float
    fills: list[Brush] = msgspec.field(default_factory=list)
    pen: Pen | None = None
    outline: list[tuple[Floats, bool]] | None = None
    rule: str = "nonzero"
    radii: tuple[float, ...] = (0.0, 0.0, 0.0, 0.0)
    text: Text | None = None
    type_size: float = 0.0
    letter_spacing: float = 0.0
    line_height: float = 1.2
    picture: Picture | None = None
    children: list[Item] = msgspec.field(default_factory=list)
    leaves: tuple[Leaf, ...] = ()  # what lies in it instead of children, where many uses of a part play together
    clips: bool = False
    mask: Item | None = None
    mask_by: str = "alpha"
    still: bool = False
    stays: bool = False  # it stands in one place of its parent, and nothing of it changes but its opacity
    whole: bool = False  # all of it is as its layer was drawn
    blend: Blend = "normal"
    blur: float = 0.0
    back_blur: float = 0.0
    shades: list[Shade] = msgspec.field(default_factory=list)
    isolates: bool = False
    cut: tuple[float, ...] = ()  # shares cut off from the top, right, bottom and left
    rolling: tuple[Column, ...] = ()  # the places of a number on its way to another
    free: bool = False  # an outline that is neither a box nor an oval any more
    plain: bool = False  # a box or an oval with one solid fill and nothing else about it

    @property
    def form(self) -> str:
        """The kind of outline that is painted now."""
        return "path" if self.free else self.layer.kind
