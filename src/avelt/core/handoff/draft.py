"""What the makers of a drawing share: names, definitions, and putting signals on nodes."""

from __future__ import annotations

import math
from collections.abc import Callable

from avelt.core.arrays import Floats, np
from avelt.core.curves.text import number
from avelt.core.handoff.courses import FINE, Signal, Stage, Texts
from avelt.core.handoff.css_text import as_they_are, colour_signal, plain, px, stop_signal
from avelt.core.handoff.letters import Letters
from avelt.core.handoff.nodes import Fitted, Key, LeftOut, Moved, Names, Node, Run
from avelt.core.handoff.visibility import PROP as VISIBILITY
from avelt.core.handoff.visibility import Presence, run_of
from avelt.core.model.properties import COLUMN
from avelt.core.words import tr

_FINE_COLOUR = 25.0  # a tolerance of 0.002: half of a step of eight bits
#: What a fitted property is measured in.
_UNITS = {"opacity": "share", "fill": "share", "stroke": "share", "stop-color": "share", "rotate": "degrees"}


class Draft:
    """One drawing on its way."""

    def __init__(self, letters: Letters, prefix: str = "", words: str = "outlines", blends_oklab: bool = False) -> None:
        self.words = words
        #: The letters that are set as text, by family, weight and italic.
        self.set: dict[tuple[str, int, bool], set[str]] = {}
        self.letters = letters
        self.names = Names(prefix)
        self.ids = Names(f"{prefix}d-")
        self.defs: list[Node] = []
        self.left_out: list[LeftOut] = []
        self.fitted: list[Fitted] = []
        self.loops: list[tuple[Stage, object]] = []
        #: Whether whoever plays it blends OKLab itself, number by number, as the page's script does.
        self.blends_oklab = blends_oklab

    def define(self, node: Node) -> str:
        """Add a definition; gives its id."""
        node.attrs["id"] = self.ids.of(node.tag.lower())
        self.defs.append(node)
        return node.attrs["id"]

    def lacks(self, layer: str, what: str, why: str) -> None:
        """Say that something is not in it, once."""
        entry = LeftOut(layer, what, why)
        if entry not in self.left_out:
            self.left_out.append(entry)


class Here:
    """One program of a drawing: the stage that it plays on."""

    def __init__(self, draft: Draft, stage: Stage) -> None:
        self.draft, self.stage, self.program = draft, stage, stage.program

    def put(self, node: Node, signal: Signal, rest: str | None = None) -> None:
        """Let a signal say a property of a node; left out where it is always ``rest``."""
        moved = self.stage.moved(signal)
        first = self.stage.first(signal)
        if moved is None and first == rest:
            return
        node.style[signal.prop] = first
        if moved is not None:
            node.moved.append(moved)

    # Ready signals

    def lengths(self, prop: str, s: int, *columns: str, digits: int = 3) -> Signal:
        """Columns as they are, in px."""
        at = [COLUMN[name] for name in columns]
        return Signal(prop, s, columns, (), lambda row, _: row[:, at], px(digits), 1.0, True, f"{columns}")

    def size(self, prop: str, s: int, column: str, more: float = 0.0) -> Signal:
        """A length that is never below nothing, and so much more, px."""
        at = COLUMN[column]
        return Signal(
            prop,
            s,
            (column,),
            (),
            lambda row, _: np.maximum(row[:, [at]], 0.0) + more,
            px(),
            1.0,
            False,
            f"size {column} {more}",
        )

    def numbers(self, prop: str, s: int, *columns: str, fine: float = FINE) -> Signal:
        """Columns as they are, without a unit."""
        at = [COLUMN[name] for name in columns]
        return Signal(prop, s, columns, (), lambda row, _: row[:, at], plain, fine, True, f"{columns}")

    def colour(self, prop: str, place: int) -> Signal:
        """A colour by its number among the program's."""
        of, texts = self.colour_form(place, prop == "stop-color")
        first = self.program.dense + 4 * place
        fine = FINE * 2 if of is as_they_are or prop == "stop-color" else _FINE_COLOUR
        return Signal(
            prop, -1, (), tuple(range(first, first + 4)), lambda _, more: of(more), texts, fine, of is as_they_are
        )

    def colour_form(self, place: int, stop: bool = False) -> tuple[Callable[[Floats], Floats], Texts]:
        """How a colour, by its number among the program's, becomes values and texts.

        Engines blend ``oklab()`` in SVG paints and filters each in its own way, sRGB all alike: colours that go by
        OKLab are sampled as sRGB, which both blend the same, unless whoever plays them blends them itself.
        """
        form = colour_signal if self.draft.blends_oklab and not stop else stop_signal
        return form(int(self.program._in_space[place]))

    def texts(self, signal: Signal, texts: Texts) -> Signal:
        """The same signal written otherwise."""
        return Signal(signal.prop, signal.slot, signal.columns, signal.more, signal.of, texts, signal.fine)

    def flips(self, node: Node, prop: str, left: str, right: str, rest: str = "") -> None:
        """A property that is one thing in the first half and another in the second."""
        if left == right:
            if left != rest:
                node.style[prop] = left
            return
        node.style[prop] = left
        moment = self.outer(self.program.duration / 2)
        node.moved.append(Moved(prop, (Run(moment, 0.0, (Key(0.0, left), Key(1.0, right))),)))

    def outer(self, local: float) -> float:
        """A moment of the program on the drawing's clock."""
        return (local - self.stage.offset) / self.stage.speed

    def shown(self, node: Node, spans: list[tuple[float, float]]) -> None:
        """A node that is there only in spans of the program's time, ms; the first may begin, the last end, at
        infinity."""
        if len(spans) == 1 and math.isinf(spans[0][0]) and math.isinf(spans[0][1]):
            return
        there = any(math.isinf(a) and a < 0.0 for a, _ in spans)
        moments = sorted({t for span in spans for t in span if math.isfinite(t)})
        state, switches = there, []
        for moment in moments:
            if (now := any(a <= moment < b for a, b in spans)) != state:
                switches.append(self.outer(moment))
                state = now
        duration = max(1.0, self.program.duration) / self.stage.speed
        run = run_of(Presence(there, tuple(switches)), self.outer(0.0), duration)
        node.style[VISIBILITY] = run.keys[0].text
        node.moved.append(Moved(VISIBILITY, (run,)))

    def name_of(self, s: int) -> str:
        """What the layer in a slot is called."""
        return self.program.contents[s].layer.name if s >= 0 else self.program.right.name

    def close(self) -> None:
        """Take over what the stage fitted."""
        for (slot, prop), error in sorted(self.stage.fitted.items()):
            unit = _UNITS.get(prop, "px")
            self.draft.fitted.append(Fitted(self.name_of(slot), prop, error, unit))
        for slot in sorted(self.stage.cut_short):
            self.draft.lacks(
                self.name_of(slot),
                tr("its loops"),
                tr("they do not come round together, and begin again after a while"),
            )


__all__ = ["FINE", "Draft", "Here", "Signal", "number"]
