"""A drawing as a tree of SVG elements, and what each of their CSS properties does over time: plain data from which
every delivery for browsers is written."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Iterator

import msgspec

from avelt.core.model.curves import Line, PlainCurve
from avelt.core.record import Mutable, Record

LINE = Line()


class Key(Record, frozen=True):
    """A keyframe: at a share (0..1) of its run, CSS text, and the curve that leads on from it to the next."""

    at: float
    text: str
    curve: PlainCurve = LINE


class Run(Record, frozen=True):
    """What one CSS property does in one go: Web Animations' ``delay``, ``duration`` (ms) and ``iterations``.

    Before its delay it holds the first keyframe if it is the property's first run; after its end the last holds.
    ``error`` is the largest difference that was found where it is fitted (px, degrees; shares hundredfold), else 0.
    """

    delay: float
    duration: float
    keys: tuple[Key, ...]
    iterations: float = 1.0
    error: float = 0.0


class Moved(Record, frozen=True):
    """A CSS property that moves: its runs in time, a later one stands over an earlier."""

    prop: str
    runs: tuple[Run, ...]


class Node(Mutable):
    """One element. ``name`` is what it is called (a class and an id); parts of a layer that need no name have none.

    ``style`` holds what its CSS properties are before anything moves. ``html``: it is of HTML, not of SVG.
    """

    tag: str
    name: str = ""
    attrs: dict[str, str] = msgspec.field(default_factory=dict)
    style: dict[str, str] = msgspec.field(default_factory=dict)
    moved: list[Moved] = msgspec.field(default_factory=list)
    children: list[Node] = msgspec.field(default_factory=list)
    text: str = ""
    html: bool = False
    layer: str = ""
    became: Node | None = None  # what it was put into, when it was the only one there

    def walk(self) -> Iterator[Node]:
        """It and all below it, in order."""
        yield self
        for child in self.children:
            yield from child.walk()


class Fitted(Record, frozen=True):
    """What a format cannot say exactly and is drawn near to: the largest error, in ``unit``."""

    layer: str
    what: str
    error: float
    unit: str


class LeftOut(Record, frozen=True):
    """What a format cannot say at all, or only roughly, and why."""

    layer: str
    what: str
    why: str


class Drawn(Record, frozen=True):
    """A drawing: its root's children, definitions, size, duration (ms) of what happens once, and what was not exact.

    ``period`` is after how many ms its loops come round together (0: nothing loops). ``fonts`` are the letters that are
    set as text, by family, weight and italic.
    """

    layers: tuple[Node, ...]
    defs: tuple[Node, ...]
    ground: Node
    root_moved: tuple[Moved, ...]
    w: float
    h: float
    most: tuple[float, float]
    duration: float
    period: float
    isolates: bool
    fitted: tuple[Fitted, ...]
    left_out: tuple[LeftOut, ...]
    fonts: dict[tuple[str, int, bool], str] = {}

    def walk(self) -> Iterator[Node]:
        """Every element."""
        for node in (self.ground, *self.defs, *self.layers):
            yield from node.walk()


_FIT = re.compile(r"[a-z](?:[a-z0-9]|-(?=[a-z0-9])){0,47}")
_UNFIT = re.compile(r"[^a-z0-9]+")


def slug(name: str, default: str = "layer") -> str:
    """A name as a class or file name: small Latin letters, digits and hyphens; letters of other scripts by their
    numbers.

    >>> slug("Grey Stack card"), slug("Überfahrt"), slug("!"), slug("9 o'clock")
    ('grey-stack-card', 'uberfahrt', 'layer', 'n9-o-clock')
    """
    if _FIT.fullmatch(name):
        return name
    spelled = name.lower()
    if not name.isascii():
        plain = unicodedata.normalize("NFKD", name).lower()
        kept = "".join(c for c in plain if not unicodedata.combining(c))
        spelled = "".join(c if ord(c) < 128 else f"u{ord(c):x}" if c.isalnum() else "-" for c in kept)
    made = _UNFIT.sub("-", spelled).strip("-")[:48].strip("-")
    if not made:
        return default
    return made if made[0].isalpha() else f"n{made}"


class Names:
    """Unique names: a second one of the same gets a number."""

    def __init__(self, prefix: str = "") -> None:
        self._prefix, self._used, self._next = prefix, set[str](), dict[str, int]()

    def of(self, name: str, default: str = "layer") -> str:
        """The next free name for something called so."""
        wanted = made = f"{self._prefix}{slug(name, default)}"
        number = self._next.get(wanted, 1)
        while made in self._used:
            number += 1
            made = f"{wanted}-{number}"
        self._next[wanted] = number
        self._used.add(made)
        return made
