"""What the drawing needs to know of type: given by whoever has fonts."""

from __future__ import annotations

from typing import Protocol

from avelt.core.arrays import Floats
from avelt.core.model.values import Paint, Text
from avelt.core.record import Record

Outline = list[tuple[Floats, bool]]


class SetWords(Record, frozen=True):
    """A run of text set in place, in the layer's own px: its outline, fill rule and paint (None: the layer's)."""

    outline: Outline
    rule: str
    fill: Paint | None


class Glyph(Record, frozen=True):
    """One letter at a size, its origin on the baseline at the left of its place, and how far it goes on (px)."""

    outline: Outline
    rule: str
    advance: float


class Letters(Protocol):
    """Sets type."""

    def words(self, text: Text, size: float, letter_spacing: float, line_height: float, width: float) -> list[SetWords]:
        """All runs of a text in a box of a width, px."""

    def font(self, family: str, weight: int, italic: bool, letters: str) -> bytes | None:
        """A font file (WOFF) with only some letters; ``None`` for a family whose file is not at hand."""

    def glyph(self, letter: str, text: Text, size: float, letter_spacing: float) -> Glyph:
        """One letter in the type of a text."""
