"""A number that rolls to another: each place a strip of letters that goes past a window as high as a line."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from avelt.core.arrays import Floats, np
from avelt.core.blending.rolling import Column, columns
from avelt.core.curves.text import number
from avelt.core.handoff import inks
from avelt.core.handoff.courses import FINE, Of, Signal
from avelt.core.handoff.css_text import plain, px
from avelt.core.handoff.draft import Here
from avelt.core.handoff.letters import Glyph
from avelt.core.handoff.nodes import Node
from avelt.core.handoff.pieces import Piece, fixed_path
from avelt.core.model.kinds import words_of
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import BASELINE, Layer, Pattern, Text
from avelt.core.record import Record
from avelt.core.timing.slots import SlotContents
from avelt.core.words import tr

_TYPE = ("type_size", "letter_spacing", "line_height")
_DIGITS = "0123456789"
_MIX, _W = COLUMN["mix"], COLUMN["w"]


class _Set(Record, frozen=True):
    """The two contents as they are set: ``rooms`` how wide each letter is, ``digit`` the widest digit, ``line`` how
    high a line is and ``baseline`` where in it letters stand, all px."""

    first: str
    last: str
    align: str
    glyphs: dict[str, Glyph]
    rooms: dict[str, float]
    digit: float
    line: float
    baseline: float

    def room(self, letter: str) -> float:
        """The width of a place; digits are all of one width."""
        return self.digit if letter.isdigit() else self.rooms[letter]

    def every(self, rows: Floats) -> list[tuple[Column, ...]]:
        """The places at every moment, of a layer's numbers then (moments, SCALARS)."""
        return [columns(self.first, self.last, float(row[_MIX])) for row in rows]

    def lefts(self, rows: Floats) -> Floats:
        """Where each place begins (moments, places)."""
        made = []
        for row, places in zip(rows, self.every(rows), strict=True):
            wide = np.array([self.room(place.now) * place.seen for place in places])
            shift = {"left": 0.0, "center": (row[_W] - wide.sum()) / 2, "right": row[_W] - wide.sum()}[self.align]
            made.append(shift + np.concatenate([[0.0], np.cumsum(wide)[:-1]]))
        return np.array(made)

    def left_of(self, k: int) -> Of:
        """A place's shift."""
        return lambda rows, _: np.stack([self.lefts(rows)[:, k], np.zeros(len(rows))], -1)

    def seen_of(self, k: int) -> Of:
        """A place's opacity."""
        return lambda rows, _: np.array([[places[k].seen] for places in self.every(rows)])

    def up_of(self, k: int) -> Of:
        """The shift of a place's strip of digits."""

        def up(rows: Floats, _: Floats) -> Floats:
            return np.array([[0.0, -(int(places[k].now) + places[k].up) * self.line] for places in self.every(rows)])

        return up


def _set(here: Here, both: tuple[Layer, Layer], body: Text, size: float, spacing: float, line: float) -> _Set:
    first, last = words_of(both[0]), words_of(both[1])
    glyphs = {c: here.draft.letters.glyph(c, body, size, spacing) for c in {*_DIGITS, *first, *last}}
    rooms = {letter: glyph.advance for letter, glyph in glyphs.items()}
    seen = {letter: glyph for letter, glyph in glyphs.items() if letter.strip()}
    digit = max(rooms[c] for c in _DIGITS)
    return _Set(first, last, body.align, seen, rooms, digit, size * line, size * (line / 2 + BASELINE))


def rolling(
    here: Here, s: int, part: SlotContents, both: tuple[Layer, Layer], body: Text, tile: Callable[[Pattern], list[Node]]
) -> list[Node]:
    """The nodes of a number that rolls, one for each place."""
    width = len(COLUMN)
    start, end = (numbers[s * width : (s + 1) * width] for numbers in (here.program.start, here.program.end))
    if any(start[COLUMN[name]] != end[COLUMN[name]] for name in _TYPE):
        here.draft.lacks(
            here.name_of(s), tr("rolling digits that change their size"), tr("they roll at the size they arrive at")
        )
    size, spacing, line = (float(end[COLUMN[name]]) for name in _TYPE)
    all_set = _set(here, both, body, size, spacing, line)
    sides = {"x": number(-size, 2), "y": "0"}
    sides |= {"width": number(all_set.digit + 2 * size, 2), "height": number(all_set.line, 3)}
    window = here.draft.define(Node("clipPath", children=[Node("rect", attrs=sides)]))
    made = []
    for k, place in enumerate(columns(all_set.first, all_set.last, 0.5)):
        outer, strip = Node("g", attrs={"clip-path": f"url(#{window})"}), Node("g")
        here.put(outer, Signal("translate", s, ("mix", "w"), (), all_set.left_of(k), px()))
        here.put(outer, Signal("opacity", s, ("mix",), (), all_set.seen_of(k), plain, FINE), "1")
        outer.children = [strip]
        rolls = place.now.isdigit()
        if rolls:
            here.put(strip, Signal("translate", s, ("mix",), (), all_set.up_of(k), px()))
        for piece in _strip(all_set, _DIGITS + _DIGITS[0] if rolls else place.now):
            for paint in part.fills:
                node = piece.node(here)
                inks.paint(here, s, node, paint, "fill", piece, tile)
                strip.children.append(node)
        made.append(outer)
    return made


def _strip(all_set: _Set, letters: str) -> Iterator[Piece]:
    """Letters under each other, each in the middle of its place."""
    for n, letter in enumerate(letters):
        glyph = all_set.glyphs.get(letter)
        if glyph is not None:
            inset = (all_set.room(letter) - glyph.advance) / 2
            by = np.array([inset, all_set.baseline + n * all_set.line])
            yield fixed_path([(points + by, shut) for points, shut in glyph.outline], glyph.rule)
