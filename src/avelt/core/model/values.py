"""The project as one immutable value.

Everything is a frozen ``msgspec.Struct`` with tuples inside; an edit makes a new value and shares what
did not change. Times are milliseconds, lengths pixels with y down, angles degrees clockwise and kept as
typed, opacities 0..1, colours CSS Color 4 text.
"""

from __future__ import annotations

from typing import Literal

from avelt.core.model.curves import Curve, Handles, PlainCurve
from avelt.core.model.follows import Follow as Follow
from avelt.core.model.layers import BASELINE as BASELINE
from avelt.core.model.layers import IDENTITY as IDENTITY
from avelt.core.model.layers import KIND_WORDS as KIND_WORDS
from avelt.core.model.layers import Blend as Blend
from avelt.core.model.layers import Body as Body
from avelt.core.model.layers import Box as Box
from avelt.core.model.layers import Cap as Cap
from avelt.core.model.layers import Conic as Conic
from avelt.core.model.layers import Feed as Feed
from avelt.core.model.layers import Gradient as Gradient
from avelt.core.model.layers import Group as Group
from avelt.core.model.layers import Join as Join
from avelt.core.model.layers import Layer as Layer
from avelt.core.model.layers import Linear as Linear
from avelt.core.model.layers import Matrix as Matrix
from avelt.core.model.layers import Oval as Oval
from avelt.core.model.layers import Paint as Paint
from avelt.core.model.layers import PartChange as PartChange
from avelt.core.model.layers import Path as Path
from avelt.core.model.layers import Pattern as Pattern
from avelt.core.model.layers import Picture as Picture
from avelt.core.model.layers import Radial as Radial
from avelt.core.model.layers import Run as Run
from avelt.core.model.layers import Shadow as Shadow
from avelt.core.model.layers import Solid as Solid
from avelt.core.model.layers import Spread as Spread
from avelt.core.model.layers import Stop as Stop
from avelt.core.model.layers import Stroke as Stroke
from avelt.core.model.layers import Subpath as Subpath
from avelt.core.model.layers import Text as Text
from avelt.core.model.layers import Use as Use
from avelt.core.model.links import Carried as Carried
from avelt.core.model.links import Link as Link
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
from avelt.core.model.second import LayerChanges as LayerChanges
from avelt.core.model.tapes import Tape
from avelt.core.model.triggers import Action, Go, InputValue, Tap, Trigger
from avelt.core.model.value import Value

FORMAT = 9  # the version written into files; how older ones are read is in formats/migrate.py


class NamedCurve(Value, frozen=True):
    """A curve that many cues share: edit it once and all of them follow."""

    id: str
    name: str
    curve: PlainCurve
    feel: Literal["", "arrives", "leaves", "stays", "playful", "mechanical"] = ""
    note: str = ""


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
    come after it was arrived at (the entrance). ``content`` is how large it is where it is larger than what is seen of
    it; along the axes of ``scroll`` it is then scrolled when it is played. ``follows`` are layers that move with a
    value.
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
    content: tuple[float, float] = (0.0, 0.0)
    scroll: Literal["", "down", "right", "both"] = ""
    follows: tuple[Follow, ...] = ()


class Input(Value, frozen=True):
    """A value of the prototype that triggers and conditions read. A signal has no value."""

    id: str
    name: str
    kind: Literal["number", "yes/no", "text", "signal"] = "yes/no"
    start: InputValue = False


class Route(Value, frozen=True):
    """From one frame to another, on a trigger, by a transition.

    ``delay`` ms pass after the trigger before the motion starts. ``only_if`` is a condition (see ``expressions``).
    ``on_arrival``: whether loops and parts of the frame arrived at continue or restart. ``scroll``: whether the frame
    arrived at stays scrolled (as this one is, or as it was left) or begins at its top. ``tryouts`` are other versions
    of the transition that are kept beside it.
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
    scroll: Literal["keep", "reset"] = "keep"


CLEAR = "#ffffff00"  # the background of what has none of its own: a drawing, a pose


class Asset(Value, frozen=True):
    """A picture's bytes. In files they lie beside the document, under their hash."""

    id: str
    ext: str
    w: int
    h: int
    data: bytes = b""


class Part(Value, frozen=True):
    """A thing that is made once and used often: its poses are frames of its own size, with routes between them and
    inputs of its own. ``first`` is the pose that it starts with; ``tracks`` are its running orders, ``links`` the
    linked presets that are put on inside."""

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
    links: tuple[Link, ...] = ()


class Muted(Value, frozen=True):
    """Something that a check finds and that is meant so: the check's code, the ids of what it is about, and why."""

    code: str
    about: tuple[str, ...]
    reason: str


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
    tapes: tuple[Tape, ...] = ()
    presets: tuple[Carried, ...] = ()
    links: tuple[Link, ...] = ()
    muted: tuple[Muted, ...] = ()


#: The lists of a project, so that each thing is met before what refers to it.
LISTS = ("assets", "curves", "inputs", "presets", "parts", "frames", "routes", "tracks", "tapes", "links", "muted")
