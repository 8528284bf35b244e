"""Motion as values: cues with their keys and ways, ties, staggers, what leaves and enters, transitions.

Times are milliseconds, places inside a cue shares of its time, lengths pixels.
"""

from __future__ import annotations

from typing import Literal, NamedTuple

from avelt.core.model.curves import Curve, Named
from avelt.core.model.value import Value


class PairKey(NamedTuple):
    """A pair by the ids of its layers; ``None`` where the layer has no partner."""

    from_id: str | None
    to_id: str | None


class CueKey(NamedTuple):
    """What a cue belongs to: a pair, and one of its properties (empty: all of them)."""

    from_id: str | None
    to_id: str | None
    prop: str

    @property
    def pair(self) -> PairKey:
        """The pair alone."""
        return PairKey(self.from_id, self.to_id)

    def of(self, prop: str) -> CueKey:
        """The cue of another property of the same pair."""
        return CueKey(self.from_id, self.to_id, prop)


Moment = Literal["start", "end"]
#: The spaces that colours can be blended in (CSS Color 4, section 12).
Space = Literal["oklab", "oklch", "lab", "srgb", "srgb-linear"]


class Pose(Value, frozen=True):
    """How far a layer is from its state: shift in px, rotation added, scale and opacity multiplied."""

    shift_x: float = 0.0
    shift_y: float = 0.0
    rotation: float = 0.0
    scale_x: float = 1.0
    scale_y: float = 1.0
    opacity: float = 1.0


class Keyframe(Value, frozen=True):
    """A value on the way: passed at a share ``at`` of the cue's time, 0..1.

    ``value`` are the numbers of the property (see ``properties.KEYED``), or one share of the way where the cue has
    one. ``curve`` leads into it from the key before; ``None`` is the cue's own.
    """

    at: float
    value: tuple[float, ...]
    curve: Curve | None = None


class MotionPath(Value, frozen=True):
    """The path of a layer's pivot from the place left to the place arrived at, as cubic Beziers.

    Points are handle, handle, node, handle, handle, node ... handle, handle: both ends are the two places. Each is
    (u, dx, dy): the share u of the straight line between the ends, and px away from it, so that the shape stays when
    an end moves. ``rotates``: the layer rotates along it and is as its frames have it at both ends. ``pace``: at which
    share of its progress, 0..1, the layer comes by each node; empty is by length alone.
    """

    points: tuple[tuple[float, float, float], ...] = ((1 / 3, 0.0, 0.0), (2 / 3, 0.0, 0.0))
    rotates: bool = False
    pace: tuple[float, ...] = ()


class Cue(Value, frozen=True):
    """When and how one property (or all, ``prop`` empty) of one pair moves; ``None`` is inherited.

    ``shortest``: angles go the shortest way instead of the way they are typed. ``space``: where its colours blend.
    ``muted``: it does not move and is as arrived at only at the end. ``keyframes`` are in the order of their time.
    """

    from_id: str | None
    to_id: str | None
    prop: str = ""
    start: float | None = None
    end: float | None = None
    curve: Curve | None = None
    shortest: bool | None = None
    space: Space | None = None
    muted: bool = False
    keyframes: tuple[Keyframe, ...] = ()
    motion_path: MotionPath | None = None

    @property
    def key(self) -> CueKey:
        """What the cue belongs to."""
        return CueKey(self.from_id, self.to_id, self.prop)

    @property
    def empty(self) -> bool:
        """Nothing of its own."""
        return self == Cue(*self.key)


class Tie(Value, frozen=True):
    """One end of a cue hung on an end of another: ``cue``'s ``at`` is ``by`` ms after ``to``'s ``to_at``.

    A cue with one end tied keeps its length; with both it is stretched between them.
    """

    cue: CueKey
    to: CueKey
    at: Moment = "start"
    to_at: Moment = "end"
    by: float = 0.0


class Stagger(Value, frozen=True):
    """A rule that spreads the starts of several cues: each is put off by its share of the whole.

    The whole is ``ms`` in total, or ``ms`` a step; ``curve`` spreads the shares. ``cues`` are in the sheet's order.
    ``point`` is where "distance" is measured from, px in the frame.
    """

    id: str
    cues: tuple[CueKey, ...]
    order: Literal["sheet", "paint", "left to right", "top to bottom", "distance", "random"] = "sheet"
    reversed: bool = False
    ms: float = 40.0
    spread: Literal["step", "total"] = "step"
    curve: Curve = Named("steady")
    point: tuple[float, float] = (0.0, 0.0)
    seed: int = 1


class Decision(Value, frozen=True):
    """A pair made or taken apart by hand; it always wins."""

    from_id: str
    to_id: str
    together: bool


class Away(Pose, frozen=True):
    """How a layer is where it is absent: a pose, and what only ways to leave and enter can do.

    ``edge``: beyond that edge of the frame, wholly. ``side``: it grows and shrinks from that side of its box instead
    of the pivot. ``cut``: shares of its box cut off from the top, right, bottom and left. ``behind``: the layer below
    which it is painted while it comes or goes. ``blur`` is added, px.
    """

    blur: float = 0.0
    edge: Literal["", "top", "right", "bottom", "left"] = ""
    side: Literal["", "top", "right", "bottom", "left"] = ""
    cut: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 0.0)
    behind: str = ""


FADED = Away(opacity=0.0)


class Absent(Value, frozen=True):
    """How a layer looks where it is not there yet (enters) or no more (leaves)."""

    layer: str
    pose: Away = FADED


#: How two contents of one pair that have no common form turn into each other.
ContentChange = Literal["", "swap", "cross-fade", "roll", "reshape"]


class Settled(Value, frozen=True):
    """What was settled about one pair beside its cues.

    ``content``: how one content becomes the other (empty: as Avelt would). ``swap_at`` and ``order_at``: when the
    content swaps and when the paint order flips, as shares of the transition; ``None`` is half way. ``shift``:
    by which share of its length the start of the outline arrived at is moved on from where Avelt puts it.
    """

    from_id: str
    to_id: str
    content: ContentChange = ""
    swap_at: float | None = None
    order_at: float | None = None
    shift: float = 0.0


class Transition(Value, frozen=True):
    """What lies between two frames. Without a duration of its own it lasts as long as its last cue.

    ``leave`` and ``enter`` are how layers without a partner go and come; ``absents`` are those of single layers.
    ``leave_curve`` and ``enter_curve`` are the base curves of those layers; ``None`` is ``curve``.
    """

    duration: float | None = 300.0
    curve: Curve = Named("settle")
    cues: tuple[Cue, ...] = ()
    decisions: tuple[Decision, ...] = ()
    absents: tuple[Absent, ...] = ()
    leave: Away = FADED
    enter: Away = FADED
    settled: tuple[Settled, ...] = ()
    leave_curve: Curve | None = None
    enter_curve: Curve | None = None
    ties: tuple[Tie, ...] = ()
    staggers: tuple[Stagger, ...] = ()


class Tryout(Value, frozen=True):
    """A version of a transition that is kept beside it."""

    id: str
    name: str
    transition: Transition


class Entrance(Value, frozen=True):
    """How layers of a frame come after it was arrived at (the entrance): ``layers`` are absent until then.

    ``when``: as soon as the frame is arrived at, or once its loading is done. Cues are of (None, layer).
    """

    layers: tuple[str, ...]
    transition: Transition = Transition()
    when: Literal["on arrival", "after loading"] = "on arrival"
