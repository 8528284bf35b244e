"""Words as text: lines where the core sets them, letters in the font that comes with the delivery."""

from __future__ import annotations

from collections.abc import Callable

from avelt.core.arrays import Floats, np
from avelt.core.blending.paints import form
from avelt.core.curves.text import number
from avelt.core.handoff import inks
from avelt.core.handoff.courses import Signal
from avelt.core.handoff.css_text import px, rgb_text
from avelt.core.handoff.draft import Here
from avelt.core.handoff.escaping import css_families
from avelt.core.handoff.nodes import Node
from avelt.core.handoff.pieces import Piece
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import BASELINE, Pattern, Run, Text
from avelt.core.timing.slots import SlotContents
from avelt.core.words import tr

_ANCHORS = {"left": "start", "center": "middle", "right": "end"}
_SHARES = {"left": 0.0, "center": 0.5, "right": 1.0}


def set_words(here: Here, s: int, part: SlotContents, body: Text, tile: Callable[[Pattern], list[Node]]) -> list[Node]:
    """A line of text a node; each run of it with its own type."""
    size, line, width = (COLUMN[name] for name in ("type_size", "line_height", "w"))
    share = _SHARES[body.align]
    made = []
    for k, runs in enumerate(_lines(body)):
        if not runs:
            continue

        def place(row: Floats, _: Floats, k: int = k) -> Floats:
            down = row[:, size] * (row[:, line] / 2 + BASELINE) + k * row[:, size] * row[:, line]
            return np.stack([row[:, width] * share, down], -1)

        style = {"text-anchor": _ANCHORS[body.align], "text-rendering": "geometricPrecision"}
        node = Node("text", attrs={"xml:space": "preserve"}, style=style)
        columns = ("type_size", "line_height", *(() if share == 0.0 else ("w",)))
        here.put(node, Signal("translate", s, columns, (), place, px()))
        here.put(node, here.lengths("font-size", s, "type_size"))
        here.put(node, here.lengths("letter-spacing", s, "letter_spacing"), "0px")
        for paint in part.fills[-1:]:
            inks.paint(here, s, node, paint, "fill", Piece("text"), tile)
        if len(part.fills) > 1:
            here.draft.lacks(here.name_of(s), tr("a paint under another"), tr("as text it has the uppermost only"))
        node.style |= _type(here, body, Run(""))
        for words, run in runs:
            span = Node("tspan", text=words, style=_type(here, body, run, words))
            if run.size and body.size:
                span.style["font-size"] = f"{number(run.size / body.size, 4)}em"
            if run.fill is not None:
                span.style["fill"] = rgb_text(form(run.fill).colours[0].tolist())
            node.children.append(span)
        made.append(node)
    return made


def _lines(body: Text) -> list[list[tuple[str, Run]]]:
    made: list[list[tuple[str, Run]]] = [[]]
    for run in body.runs:
        for place, words in enumerate(run.text.split("\n")):
            if place:
                made.append([])
            if words:
                made[-1].append((words, run))
    return made


def _type(here: Here, body: Text, run: Run, words: str = "") -> dict[str, str]:
    """The font of a run, as CSS; what letters it needs is kept in mind."""
    family, weight = run.family or body.family, run.weight or body.weight
    italic = body.italic if run.italic is None else run.italic
    if words:
        here.draft.set.setdefault((family, weight, italic), set()).update(words)
    style = {"font-family": css_families(family), "font-weight": str(weight)}
    return style | ({"font-style": "italic"} if italic else {})
