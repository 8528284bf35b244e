"""What starts a route and what then happens, each declared once as a row of a table.

Menus, the card of a route, checks, docs and tests are made from ``TRIGGERS`` and ``ACTIONS``. To add one: a
struct, its place in the union, and a row. Layers, inputs and routes are named by their ids.
"""

from __future__ import annotations

from typing import Any, Literal

import msgspec

from avelt.core.model.value import Value
from avelt.core.record import Record
from avelt.core.words import tr

InputValue = bool | float | str  # what an input can be
Along = Literal["right", "left", "down", "up", "path"]
LetGo = Literal["nearer", "speed", "back", "stay"]
MOST_LAG = 1_000.0  # ms


class Tap(Value, frozen=True, tag_field="trigger", tag="tap"):
    """A press and a release on a layer, or anywhere when ``layer`` is empty."""

    layer: str = ""


class DoubleTap(Value, frozen=True, tag_field="trigger", tag="double tap"):
    """Two taps on a layer, the second at most ``within`` ms after the first."""

    layer: str = ""
    within: float = 300.0


class Hold(Value, frozen=True, tag_field="trigger", tag="hold"):
    """A press on a layer that has lasted ``after`` ms."""

    layer: str = ""
    after: float = 500.0


class Release(Value, frozen=True, tag_field="trigger", tag="release"):
    """The pointer goes up after it went down on a layer."""

    layer: str = ""


class HoverIn(Value, frozen=True, tag_field="trigger", tag="hover in"):
    """The pointer comes over a layer."""

    layer: str = ""


class HoverOut(Value, frozen=True, tag_field="trigger", tag="hover out"):
    """The pointer goes off a layer."""

    layer: str = ""


class Drag(Value, frozen=True, tag_field="trigger", tag="drag"):
    """The motion follows a drag of a layer: ``travel`` px along an axis, or the whole of a path layer.

    ``let_go`` is what comes when it is let go: to the ``nearer`` end (from the share ``lets_go`` on that is the end),
    by the ``speed`` that it has, ``back`` or it may ``stay``. ``lag``: it comes after the hand by so many ms (the time
    constant of an exponential).
    """

    layer: str = ""
    along: Along = "down"
    path: str = ""
    travel: float = 240.0
    lets_go: float = 0.5
    let_go: LetGo = "nearer"
    lag: float = 0.0


class Scroll(Value, frozen=True, tag_field="trigger", tag="scroll"):
    """The motion follows the scrolling of the frame from ``start`` to ``end`` px."""

    axis: Literal["down", "right"] = "down"
    start: float = 0.0
    end: float = 160.0
    lag: float = 0.0


class Pointer(Value, frozen=True, tag_field="trigger", tag="pointer"):
    """The motion follows where the pointer is over a layer (or the frame): shares of its width or height."""

    layer: str = ""
    axis: Literal["right", "down"] = "right"
    start: float = 0.0
    end: float = 1.0
    lag: float = 0.0


class Key(Value, frozen=True, tag_field="trigger", tag="key"):
    """A key goes down. Its name as in UI Events KeyboardEvent key Values, such as ``ArrowRight`` or ``a``."""

    key: str = "Enter"


class Timer(Value, frozen=True, tag_field="trigger", tag="timer"):
    """By itself, ``after`` ms after the frame was arrived at."""

    after: float = 1000.0


class Loading(Value, frozen=True, tag_field="trigger", tag="loading"):
    """On arrival: as the frame's loading starts, or when it is ready."""

    when: Literal["starts", "is ready"] = "is ready"


class Crosses(Value, frozen=True, tag_field="trigger", tag="crosses"):
    """An input goes past a value, or comes to it: rising, falling, or either way."""

    input: str = ""
    value: InputValue = 1.0
    way: Literal["rising", "falling", "either way"] = "rising"


class Signal(Value, frozen=True, tag_field="trigger", tag="signal"):
    """A signal is sent: one of the inputs of that kind."""

    input: str = ""


class Ends(Value, frozen=True, tag_field="trigger", tag="ends"):
    """Another motion ends: a route that arrived at this frame, or a loop of it."""

    motion: str = ""


Trigger = (
    Tap
    | DoubleTap
    | Hold
    | Release
    | HoverIn
    | HoverOut
    | Drag
    | Scroll
    | Pointer
    | Key
    | Timer
    | Loading
    | Crosses
    | Signal
    | Ends
)


#: What somebody does to a layer.
TOUCHED: tuple[type[Trigger], ...] = (Tap, DoubleTap, Hold, Release, HoverIn, HoverOut, Drag, Pointer)
#: What a rule of a phase can wait for.
IN_PHASES: tuple[type[Trigger], ...] = (Tap, DoubleTap, Release, HoverIn, HoverOut, Key, Timer, Crosses, Signal)


class Go(Value, frozen=True, tag_field="does", tag="go"):
    """The other frame takes the place of this one."""


class GoBack(Value, frozen=True, tag_field="does", tag="back"):
    """Back to the frame that was before, when that is the one arrived at."""


#: Nine points of a frame, row by row, and a place of one's own.
Point = Literal[
    "top left", "top", "top right", "left", "middle", "right", "bottom left", "bottom", "bottom right", "by hand"
]
POINTS: tuple[Point, ...] = (
    "top left",
    "top",
    "top right",
    "left",
    "middle",
    "right",
    "bottom left",
    "bottom",
    "bottom right",
    "by hand",
)


class ShowOver(Value, frozen=True, tag_field="does", tag="show over"):
    """The other frame is shown over this one, at one of nine points or (``by hand``) at x, y px.

    ``scrim`` is the colour laid over what lies beneath; empty for none.
    """

    at: Point = "bottom"
    x: float = 0.0
    y: float = 0.0
    scrim: str = "rgb(10 24 28 / 0.45)"
    outside_closes: bool = True


class ReplaceOver(Value, frozen=True, tag_field="does", tag="replace over"):
    """The other frame takes the place of the one that is shown over another."""


class PutAway(Value, frozen=True, tag_field="does", tag="put away"):
    """The frame that is shown over another goes; the frame beneath stays."""


class SetInput(Value, frozen=True, tag_field="does", tag="set input"):
    """An input becomes a value. The frame stays."""

    input: str = ""
    value: InputValue = True


class SendSignal(Value, frozen=True, tag_field="does", tag="send signal"):
    """A signal goes out. The frame stays."""

    input: str = ""


Action = Go | GoBack | ShowOver | ReplaceOver | PutAway | SetInput | SendSignal
STAYS = (SetInput, SendSignal)  # what leaves the frame where it is: such a route stands on the diagonal

FieldKind = Literal["layer", "ms", "px", "share", "choice", "key", "input", "signal", "value", "motion", "path", "yes"]


class Field(Record, frozen=True):
    """One thing that a trigger or an action can be told: its name in the struct, its words, how it is edited."""

    name: str
    words: str
    kind: FieldKind
    choices: tuple[str, ...] = ()


class Row(Record, frozen=True):
    """One kind of trigger or action. ``follows``: the motion goes with a value, not by the clock."""

    make: type[Any]
    word: str
    says: str
    fields: tuple[Field, ...] = ()
    follows: bool = False


_ON = Field("layer", tr("On"), "layer")
TRIGGERS = (
    Row(Tap, "tap", tr("A press and a release on the same layer"), (_ON,)),
    Row(
        DoubleTap,
        "double tap",
        tr("Two taps, one soon after the other"),
        (_ON, Field("within", tr("Both within"), "ms")),
    ),
    Row(Hold, tr("press and hold"), tr("A press that lasts"), (_ON, Field("after", tr("Held for"), "ms"))),
    Row(Release, "release", tr("The pointer goes up after a press"), (_ON,)),
    Row(HoverIn, "hover in", tr("The pointer comes over a layer"), (_ON,)),
    Row(HoverOut, "hover out", tr("The pointer goes off a layer"), (_ON,)),
    Row(
        Drag,
        "drag",
        tr("The motion follows the pointer that drags"),
        (
            _ON,
            Field("along", tr("Along"), "choice", ("right", "left", "down", "up", "path")),
            Field("path", tr("Path"), "path"),
            Field("travel", tr("Travel"), "px"),
            Field("lets_go", tr("On from"), "share"),
            Field("let_go", tr("Let go, it goes"), "choice", ("nearer", "speed", "back", "stay")),
            Field("lag", tr("Lag"), "ms"),
        ),
        True,
    ),
    Row(
        Scroll,
        "scroll",
        tr("The motion follows the scrolling of the frame"),
        (
            Field("axis", tr("Along"), "choice", ("down", "right")),
            Field("start", tr("From"), "px"),
            Field("end", tr("To"), "px"),
            Field("lag", tr("Lag"), "ms"),
        ),
        True,
    ),
    Row(
        Pointer,
        "pointer",
        tr("The motion follows where the pointer is"),
        (
            _ON,
            Field("axis", tr("Along"), "choice", ("right", "down")),
            Field("start", tr("From"), "share"),
            Field("end", tr("To"), "share"),
            Field("lag", tr("Lag"), "ms"),
        ),
        True,
    ),
    Row(Key, "key", tr("A key of the keyboard goes down"), (Field("key", tr("Key"), "key"),)),
    Row(
        Timer, "timer", tr("By itself, some time after the frame was arrived at"), (Field("after", tr("After"), "ms"),)
    ),
    Row(
        Loading,
        "loading",
        tr("As the frame begins to load, or when it is ready"),
        (Field("when", tr("When it"), "choice", ("starts", "is ready")),),
    ),
    Row(
        Crosses,
        tr("input crosses"),
        tr("An input comes to a value or goes past it"),
        (
            Field("input", tr("Input"), "input"),
            Field("value", tr("Value"), "value"),
            Field("way", tr("When"), "choice", ("rising", "falling", "either way")),
        ),
    ),
    Row(Signal, "signal", tr("A signal is sent"), (Field("input", tr("Signal"), "signal"),)),
    Row(Ends, tr("motion ends"), tr("Another motion comes to its end"), (Field("motion", tr("Motion"), "motion"),)),
)

ACTIONS = (
    Row(Go, tr("go there"), tr("The frame arrived at takes the place of this one")),
    Row(GoBack, tr("go back"), tr("Back to where one came from, when that is this frame")),
    Row(
        ShowOver,
        "show over",
        tr("The frame is laid over this one"),
        (
            Field("at", tr("At"), "choice", POINTS),
            Field("x", tr("From left"), "px"),
            Field("y", tr("From top"), "px"),
            Field("scrim", tr("Scrim"), "choice"),
            Field("outside_closes", tr("Closes"), "yes", ("on a press outside",)),
        ),
    ),
    Row(
        ReplaceOver,
        tr("replace what is shown over"),
        tr("The frame takes the place of the one that is shown over another"),
    ),
    Row(PutAway, "put away", tr("What was shown over goes again")),
    Row(
        SetInput,
        "set input",
        tr("An input becomes a value; the frame stays"),
        (Field("input", tr("Input"), "input"), Field("value", tr("To"), "value")),
    ),
    Row(SendSignal, "send signal", tr("A signal goes out; the frame stays"), (Field("input", tr("Signal"), "signal"),)),
)
_TRIGGER_ROWS = {row.make: row for row in TRIGGERS}
_ACTION_ROWS = {row.make: row for row in ACTIONS}


def trigger_row(trigger: Trigger) -> Row:
    """The row of a trigger's kind."""
    return _TRIGGER_ROWS[type(trigger)]


def action_row(action: Action) -> Row:
    """The row of an action's kind."""
    return _ACTION_ROWS[type(action)]


def hot_area(trigger: Trigger) -> str:
    """The id of the layer that is touched; empty for the whole frame or no touch at all."""
    return str(getattr(trigger, "layer", ""))


def on_layer(trigger: Trigger, layer_id: str) -> Trigger:
    """The trigger on another layer; one that has no layer stays as it is."""
    made: Trigger = msgspec.structs.replace(trigger, layer=layer_id) if hasattr(trigger, "layer") else trigger
    return made


def as_kind(old: Trigger, row: Row) -> Trigger:
    """A trigger of another kind that keeps what both know (the layer, above all)."""
    same = {field.name: getattr(old, field.name) for field in row.fields if hasattr(old, field.name)}
    known = {field.name: field for field in _TRIGGER_ROWS[type(old)].fields}
    kept = {
        name: value
        for name, value in same.items()
        if name in known and known[name] == next(f for f in row.fields if f.name == name)
    }
    made: Trigger = row.make(**kept)
    return made


def same_touch(one: Trigger, other: Trigger) -> bool:
    """Whether two triggers of one frame are set off by the very same thing."""
    if isinstance(one, Timer | Drag) or type(one) is not type(other):
        if isinstance(one, Drag) and isinstance(other, Drag):
            return (one.layer, one.along, one.path) == (other.layer, other.along, other.path)
        return isinstance(one, Timer) and isinstance(other, Timer)
    if isinstance(one, Hold | DoubleTap | Pointer):
        return hot_area(one) == hot_area(other)
    return one == other
