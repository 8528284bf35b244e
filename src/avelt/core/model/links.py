"""Linked presets: what a project carries of them, and where each is put on."""

from __future__ import annotations

from avelt.core.model.motion import PairKey
from avelt.core.model.value import Value

MOST_LINKS = 20_000


class Carried(Value, frozen=True):
    """A preset that is linked to: its name and its document (JSON), as it was last taken."""

    name: str
    document: str


class Link(Value, frozen=True):
    """One use of a linked preset: on pairs of a route (or the whole of it), or as a loop of a frame. The rest is how it
    was put on (see ``core/presets/adjusted.py``)."""

    id: str
    preset: str
    route: str = ""
    pairs: tuple[PairKey, ...] = ()
    frame: str = ""
    loop: str = ""
    follow: bool = True
    stretch: float = 1.0
    strength: float = 1.0
    direction: str = ""
    start: float | None = None
    step: float = 0.0
    left_out: tuple[str, ...] = ()
