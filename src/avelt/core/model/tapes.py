"""Tapes: what somebody did and when, as values. Times are ms since the start, places px of the frame as shown."""

from __future__ import annotations

from typing import Annotated

import msgspec

from avelt.core.model.triggers import InputValue
from avelt.core.model.value import Value

FORMAT = 1
MOST_EVENTS = 100_000
MOST_TAPES = 200  # in a project
MOST_SEED = 2**31 - 1
MOST_MS = 86_400_000.0  # a day
MOST_PX = 1e6
MOST_BYTES = 64 * 2**20


class Move(Value, frozen=True, tag_field="do", tag="move"):
    """The pointer moves, px of the frame as shown."""

    at: float
    x: float
    y: float


class Out(Value, frozen=True, tag_field="do", tag="out"):
    """The pointer leaves the screen."""

    at: float


class Press(Value, frozen=True, tag_field="do", tag="press"):
    """The pointer goes down."""

    at: float
    x: float
    y: float


class Release(Value, frozen=True, tag_field="do", tag="release"):
    """The pointer goes up."""

    at: float
    x: float
    y: float


class Scrolled(Value, frozen=True, tag_field="do", tag="scroll"):
    """The wheel, or a hand, scrolls by so many px."""

    at: float
    dx: float = 0.0
    dy: float = 0.0


class KeyDown(Value, frozen=True, tag_field="do", tag="key"):
    """A key goes down (UI Events KeyboardEvent key Values)."""

    at: float
    key: str


class Told(Value, frozen=True, tag_field="do", tag="input"):
    """An input gets a value; ``part``: that of a part, by a path of use names."""

    at: float
    name: str
    value: InputValue
    part: str = ""


class Sent(Value, frozen=True, tag_field="do", tag="signal"):
    """A signal is sent; ``part``: in a part, by a path of use names."""

    at: float
    name: str
    part: str = ""


class Loaded(Value, frozen=True, tag_field="do", tag="loaded"):
    """The loading of the frame that is shown is done."""

    at: float


Event = Move | Out | Press | Release | Scrolled | KeyDown | Told | Sent | Loaded


class Start(Value, frozen=True):
    """What a tape starts with: a frame by name (empty: the first), inputs by name, seed, how long frames load, ms."""

    frame: str = ""
    inputs: dict[str, InputValue] = {}
    seed: int = 1
    loading: float = 0.0


class Tape(Value, frozen=True):
    """Events in the order of their time, and until when it is played, ms."""

    format: int = FORMAT
    name: str = ""
    start: Start = Start()
    events: Annotated[tuple[Event, ...], msgspec.Meta(max_length=MOST_EVENTS)] = ()
    until: float = 0.0
