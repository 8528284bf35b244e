"""A rolling number set in type: each place with what it shows and the window it shows through."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainterPath, QTransform

from avelt.core.blending.rolling import Column
from avelt.core.model.values import BASELINE, Text
from avelt.core.record import Record
from avelt.paint.fonts import BASE, glyphs


class Placed(Record, frozen=True):
    """Ink of one place in the layer's own px, what of it is let through, and its opacity."""

    path: QPainterPath
    window: QRectF
    seen: float


def set_rolling(
    text: Text, columns: tuple[Column, ...], size: float, letter_spacing: float, line_height: float, width: float
) -> list[Placed]:
    """The places of a rolling number in a box of a width (px). All digits are as wide as the widest."""
    factor = size / BASE
    spacing = round(letter_spacing / factor, 4) if factor else 0.0

    def glyph(letter: str) -> tuple[QPainterPath, float]:
        return glyphs(letter, text.family, text.weight, text.italic, spacing)

    digit = max(glyph(letter)[1] for letter in "0123456789")
    wide = [(digit if c.now.isdigit() else glyph(c.now)[1]) * factor * c.seen for c in columns]
    x = {"left": 0.0, "center": (width - sum(wide)) / 2, "right": width - sum(wide)}[text.align]
    baseline, line = size * (line_height / 2 + BASELINE), size * line_height
    placed: list[Placed] = []
    for column, room in zip(columns, wide, strict=True):
        ink = QPainterPath()
        ink.setFillRule(glyph("0")[0].fillRule())
        for letter, y in ((column.now, -column.up * line), (column.coming, (1.0 - column.up) * line)):
            if letter:
                path, advance = glyph(letter)
                inset = (room - advance * factor * column.seen) / 2
                ink.addPath(QTransform(factor, 0, 0, factor, x + inset, baseline + y).map(path))
        # Letters may stand out to the sides of their place; only up and down is the window's edge seen.
        placed.append(Placed(ink, QRectF(x - size, 0.0, room + 2 * size, line), column.seen))
        x += room
    return placed
