"""The project as one immutable value.

Everything is a frozen ``msgspec.Struct`` with tuples inside; an edit makes a new value and shares what
did not change. Times are milliseconds, lengths pixels with y down, angles degrees clockwise and kept as
typed, opacities 0..1, colours CSS Color 4 text.
"""

from __future__ import annotations

from typing import Literal

import msgspec

from avelt.core.model.curves import Curve, Handles, PlainCurve
from avelt.core.model.motion import FADED as FADED
from avelt.core.model.motion import Absent as Absent
from avelt.core.model.motion import Away as Away
from avelt.core.model.motion import ContentChange as ContentChange
from avelt.core.model.motion import Cue as Cue
from avelt.core.model.motion import CueKey as CueKey
from avelt.core.model.motion import Decision as Decision
from avelt.core.model.motion import Entrance as Entrance
from avelt.core.model.motion import Keyframe as Keyframe
from avelt.core.model.motion import MotionPath as MotionPath
from avelt.core.model.motion import Pose as Pose
from avelt.core.model.motion import Settled as Settled
from avelt.core.model.motion import Stagger as Stagger
from avelt.core.model.motion import Tie as Tie
from avelt.core.model.motion import Transition as Transition
from avelt.core.model.motion import Tryout as Tryout
from avelt.core.model.phases import Track
from avelt.core.model.triggers import Action, Go, InputValue, Tap, Trigger
from avelt.core.model.value import Value

FORMAT = 5  # the version written into files; how older ones are read is in formats/migrate.py


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
    only while this condition holds (see ``expressions``).
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

    @property
    def kind(self) -> str:
        """The word for what it is: box, oval, path, text, picture or group."""
        return KIND_WORDS[type(self.body)]

    @property
    def children(self) -> tuple[Layer, ...]:
        """A group's layers in paint order; nothing for all other kinds."""
        return self.body.children if isinstance(self.body, Group) else ()


class NamedCurve(Value, frozen=True):
    """A curve that many cues share: edit it once and all of them follow."""

    id: str
    name: str
    curve: PlainCurve
    feel: Literal["", "arrives", "leaves", "stays", "playful", "mechanical"] = ""
    note: str = ""


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


class RoundKey(Value, frozen=True):
    """How far a loop is at a share ``at`` of its round (its wait is not counted): 0 is the layer, 1 its second pose.

    ``curve`` leads into it from the one before; ``None`` is the loop's own.
    """

    at: float
    far: float
    curve: Curve | None = None


class Loop(Value, frozen=True):
    """Motion of one layer that repeats by itself, between the layer and a second pose of it.

    The second pose is the layer moved by ``offset``, with what ``changes`` says. ``duration`` is one round without
    its wait: the whole way there and back, or one way. ``rounds`` 0 is endless. ``at_rest`` says where a one-way loop
    stays between rounds and after the last. ``origin`` is what a copied frame's loop shares with its source, so that
    the motion runs on from frame to frame.

    With ``keyframes`` the round goes over those instead of there (and back). ``path``: instead of straight to the
    shift of the second pose it goes along cubic Beziers, in px from where the layer stands: handle, handle, node and so
    on; ``rotates``: turned along it. ``muted``: it does not run. ``jitter``: by which share of itself the wait before a
    round may be shorter, by chance from ``seed``; what it is shorter comes after the motion, so that rounds begin when
    they would. ``until``: played, it finishes its round and rests once this condition holds, and begins anew when it
    does not any more.
    """

    id: str
    origin: str
    layer: str
    name: str
    offset: Pose = Pose()
    duration: float = 1000.0
    direction: Literal["there and back", "one way"] = "there and back"
    wait: float = 0.0
    wait_when: Literal["once", "before each round"] = "once"
    rounds: int = 0
    start_offset: float = 0.0
    at_rest: Literal["jump", "hold"] = "jump"
    curve: Curve = Handles(0.37, 0.0, 0.63, 1.0)
    changes: LayerChanges = LayerChanges()
    keyframes: tuple[RoundKey, ...] = ()
    path: tuple[tuple[float, float], ...] = ()
    rotates: bool = False
    muted: bool = False
    jitter: float = 0.0
    seed: int = 0
    until: str = ""


class Note(Value, frozen=True):
    """Something that an import left out or did otherwise: where it is in the file, and what became of it."""

    what: Literal["left out", "approximated", "unreadable", "named twice"]
    says: str
    element: str = ""
    line: int = 0


class Source(Value, frozen=True):
    """The file that a frame came from.

    ``screen`` names the part of the drawing when it held several screens. ``base`` are the layers as they were
    brought in, with the ids that they have in the frame, ``size`` and ``background`` those of the frame then: what
    was changed by hand differs from them.
    """

    path: str
    sha256: str = ""
    screen: str = ""
    base: tuple[Layer, ...] = ()
    notes: tuple[Note, ...] = ()
    size: tuple[float, float] = (0.0, 0.0)
    background: str = "#ffffff"


class Frame(Value, frozen=True):
    """One screen, or one state of a screen.

    ``perspective`` is the eye's distance in px for turns out of the plane (0: from very far). ``isolates``: blend
    modes do not see the background. Guides are places along x and along y in px. ``entrance``: how some of its layers
    come after it was arrived at (the entrance).
    """

    id: str
    name: str
    w: float = 360.0
    h: float = 640.0
    background: str = "#ffffff"
    clips: bool = True
    layers: tuple[Layer, ...] = ()
    loops: tuple[Loop, ...] = ()
    source: Source | None = None
    perspective: float = 800.0
    isolates: bool = False
    guides_x: tuple[float, ...] = ()
    guides_y: tuple[float, ...] = ()
    entrance: Entrance | None = None


class Input(Value, frozen=True):
    """A value of the prototype that triggers and conditions read. A signal has no value."""

    id: str
    name: str
    kind: Literal["number", "yes/no", "text", "signal"] = "yes/no"
    start: InputValue = False


class Route(Value, frozen=True):
    """From one frame to another, on a trigger, by a transition.

    ``delay`` ms pass after the trigger before the motion starts. ``only_if`` is a condition (see ``expressions``).
    ``on_arrival``: whether loops and parts of the frame arrived at continue or restart. ``tryouts`` are other
    versions of the transition that are kept beside it.
    """

    id: str
    leaves: str
    arrives: str
    trigger: Trigger = Tap()
    transition: Transition = Transition()
    action: Action = Go()
    delay: float = 0.0
    only_if: str = ""
    on_arrival: Literal["continue", "restart"] = "continue"
    tryouts: tuple[Tryout, ...] = ()


class Asset(Value, frozen=True):
    """A picture's bytes. In files they lie beside the document, under their hash."""

    id: str
    ext: str
    w: int
    h: int
    data: bytes = b""


class Part(Value, frozen=True):
    """A thing that is made once and used often: its poses are frames of its own size, with routes between them and
    inputs of its own. ``first`` is the pose that it starts with; ``tracks`` are its running orders."""

    id: str
    name: str
    w: float
    h: float
    poses: tuple[Frame, ...] = ()
    routes: tuple[Route, ...] = ()
    inputs: tuple[Input, ...] = ()
    first: str = ""
    note: str = ""
    tracks: tuple[Track, ...] = ()


class Project(Value, frozen=True):
    """Everything. ``next_id`` makes new ids without chance, so that edits are pure."""

    name: str
    format: int = FORMAT
    frames: tuple[Frame, ...] = ()
    routes: tuple[Route, ...] = ()
    curves: tuple[NamedCurve, ...] = ()
    assets: tuple[Asset, ...] = ()
    first: str = ""
    next_id: int = 1
    swatches: tuple[str, ...] = ()
    grid: float = 8.0
    inputs: tuple[Input, ...] = ()
    parts: tuple[Part, ...] = ()
    tracks: tuple[Track, ...] = ()
