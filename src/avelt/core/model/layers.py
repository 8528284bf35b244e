"""What lies on a frame: layers, what they are, and what they are painted with."""

from __future__ import annotations

from typing import Literal

from avelt.core.model.triggers import InputValue
from avelt.core.model.value import Value


class Stop(Value, frozen=True):
    """One colour of a gradient; ``at`` is 0..1 along it."""

    at: float
    color: str


Matrix = tuple[float, float, float, float, float, float]
IDENTITY: Matrix = (1.0, 0.0, 0.0, 1.0, 0.0, 0.0)
Spread = Literal["pad", "reflect", "repeat"]


class Solid(Value, frozen=True, tag_field="paint", tag="solid"):
    """One colour."""

    color: str


class Linear(Value, frozen=True, tag_field="paint", tag="linear"):
    """A linear gradient. ``matrix`` takes (t, any) of gradient space, t in 0..1, to fractions of the box."""

    stops: tuple[Stop, ...]
    matrix: Matrix = IDENTITY
    spread: Spread = "pad"


class Radial(Value, frozen=True, tag_field="paint", tag="radial"):
    """A radial gradient. ``matrix`` takes the unit circle to fractions of the box; focus in that circle."""

    stops: tuple[Stop, ...]
    matrix: Matrix = (0.5, 0.0, 0.0, 0.5, 0.5, 0.5)
    focus: tuple[float, float] = (0.0, 0.0)
    focus_radius: float = 0.0
    spread: Spread = "pad"


class Conic(Value, frozen=True, tag_field="paint", tag="conic"):
    """Colours round a point, clockwise from the top (CSS Images 4). ``matrix`` takes the unit circle to fractions of
    the box."""

    stops: tuple[Stop, ...]
    matrix: Matrix = (0.5, 0.0, 0.0, 0.5, 0.5, 0.5)


class Pattern(Value, frozen=True, tag_field="paint", tag="pattern"):
    """Layers on a tile of ``w`` x ``h`` px, repeated. ``matrix`` takes the tile's px to fractions of the box.

    With one picture on a tile as large as the box it is a picture fill.
    """

    layers: tuple[Layer, ...]
    w: float
    h: float
    matrix: Matrix = IDENTITY


Gradient = Linear | Radial | Conic
Paint = Solid | Linear | Radial | Conic | Pattern


Cap = Literal["butt", "round", "square"]
Join = Literal["miter", "round", "bevel"]


class Stroke(Value, frozen=True):
    """The line along an outline, centred on it.

    ``trim_start`` and ``trim_end`` are shares of each subpath's length that are drawn from and to, both shifted by
    ``trim_offset``. ``under``: painted before the fills.
    """

    paint: Paint
    width: float = 1.0
    cap: Cap = "butt"
    join: Join = "miter"
    miter: float = 4.0
    dashes: tuple[float, ...] = ()
    dash_offset: float = 0.0
    trim_start: float = 0.0
    trim_end: float = 1.0
    trim_offset: float = 0.0
    under: bool = False


class Shadow(Value, frozen=True):
    """A blurred copy in one colour behind the layer, or (``inner``) inside its edge, shifted by px.

    ``blur`` is the standard deviation in px, as in CSS and SVG filters.
    """

    color: str
    x: float = 0.0
    y: float = 0.0
    blur: float = 0.0
    inner: bool = False


#: How a layer is mixed with what lies beneath it (Compositing and Blending Level 1, ``mix-blend-mode``).
Blend = Literal[
    "normal",
    "multiply",
    "screen",
    "overlay",
    "darken",
    "lighten",
    "color-dodge",
    "color-burn",
    "hard-light",
    "soft-light",
    "difference",
    "exclusion",
    "hue",
    "saturation",
    "color",
    "luminosity",
    "plus-lighter",
]


class Box(Value, frozen=True, tag_field="kind", tag="box"):
    """A rectangle; radii clockwise from the top left, in px."""

    radii: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)


class Oval(Value, frozen=True, tag_field="kind", tag="oval"):
    """An ellipse that fills its box."""


class Subpath(Value, frozen=True):
    """Cubic Beziers in px from the box's top left: x0 y0, then c1x c1y c2x c2y x y for each."""

    points: tuple[float, ...]
    closed: bool = False


class Path(Value, frozen=True, tag_field="kind", tag="path"):
    """A free outline."""

    subpaths: tuple[Subpath, ...] = ()
    rule: Literal["nonzero", "evenodd"] = "nonzero"


class Run(Value, frozen=True):
    """A stretch of text; ``None`` means as the layer has it."""

    text: str
    fill: Paint | None = None
    weight: int | None = None
    size: float | None = None
    italic: bool | None = None
    family: str | None = None


class Text(Value, frozen=True, tag_field="kind", tag="text"):
    """Words. The first baseline lies ``size * (line_height / 2 + BASELINE)`` below the box's top."""

    runs: tuple[Run, ...] = ()
    family: str = "sans-serif"
    size: float = 16.0
    weight: int = 400
    italic: bool = False
    line_height: float = 1.2
    letter_spacing: float = 0.0
    align: Literal["left", "center", "right"] = "left"

    @property
    def words(self) -> str:
        """The whole text, lines parted by a newline."""
        return "".join(run.text for run in self.runs)


#: From the middle of a line of text to its baseline, as a share of the font size. A rule of our own
#: instead of the font's metrics, so that a text stands on the same baseline wherever it is painted.
BASELINE = 0.35


class Picture(Value, frozen=True, tag_field="kind", tag="picture"):
    """An asset in the box: stretched over it, whole inside it, or covering it."""

    asset: str
    fit: Literal["stretch", "inside", "cover"] = "stretch"


class Group(Value, frozen=True, tag_field="kind", tag="group"):
    """Layers that go together; first child is painted first. ``mask`` is the id of one of them.

    ``isolates``: blend modes of what lies in it see only the group.
    """

    children: tuple[Layer, ...] = ()
    clips: bool = False
    mask: str = ""
    mask_by: Literal["alpha", "luminance"] = "alpha"
    isolates: bool = False


class Feed(Value, frozen=True):
    """What an input of a part gets: the value of an input of the stage that the use stands in (by its name), what an
    expression of those works out, or where there is neither a value."""

    input: str
    name: str = ""
    value: InputValue = False
    expression: str = ""


class PartChange(Value, frozen=True):
    """What one use shows otherwise of a layer (by its origin) of its part; ``None`` is as the part has it."""

    origin: str
    text: str | None = None
    asset: str | None = None
    fills: tuple[Paint, ...] | None = None


class Use(Value, frozen=True, tag_field="kind", tag="use"):
    """A part at work in the box.

    ``fit``: it scales to the box, its layers are stretched to it as those of a group are, or it keeps its size.
    ``pose`` is what it starts with (empty: the part's first). Its clock goes ``speed`` times as fast as that of the
    stage above, and begins at ``offset`` ms.
    """

    part: str
    pose: str = ""
    feeds: tuple[Feed, ...] = ()
    speed: float = 1.0
    offset: float = 0.0
    fit: Literal["scale", "stretch", "keep"] = "scale"
    changes: tuple[PartChange, ...] = ()


Body = Box | Oval | Path | Text | Picture | Group | Use
KIND_WORDS = {Box: "box", Oval: "oval", Path: "path", Text: "text", Picture: "picture", Group: "group", Use: "use"}


class Layer(Value, frozen=True):
    """One thing on a frame. ``x, y`` is its box's top left in its parent, before rotation, skew and scale.

    ``rotation_x`` and ``rotation_y`` turn it out of the plane about its pivot, seen from the frame's perspective.
    ``blur`` and ``back_blur`` (of what lies beneath) are standard deviations in px. ``any_turn``: its rotation only
    says where it points (it came out of a matrix), so that motion takes the shorter way to it. ``only_if``: it is seen
    only while this condition holds (see ``expressions``). ``stays_put``: it stays where it is when its frame is
    scrolled (only what lies in no group).
    """

    id: str
    origin: str
    name: str
    body: Body
    x: float = 0.0
    y: float = 0.0
    w: float = 0.0
    h: float = 0.0
    pivot: tuple[float, float] = (0.5, 0.5)
    rotation: float = 0.0
    rotation_x: float = 0.0
    rotation_y: float = 0.0
    scale_x: float = 1.0
    scale_y: float = 1.0
    skew: float = 0.0
    opacity: float = 1.0
    hidden: bool = False
    locked: bool = False
    fills: tuple[Paint, ...] = ()
    stroke: Stroke | None = None
    blend: Blend = "normal"
    blur: float = 0.0
    back_blur: float = 0.0
    shadows: tuple[Shadow, ...] = ()
    any_turn: bool = False
    only_if: str = ""
    stays_put: bool = False

    @property
    def kind(self) -> str:
        """The word for what it is: box, oval, path, text, picture or group."""
        return KIND_WORDS[type(self.body)]

    @property
    def children(self) -> tuple[Layer, ...]:
        """A group's layers in paint order; nothing for all other kinds."""
        return self.body.children if isinstance(self.body, Group) else ()
