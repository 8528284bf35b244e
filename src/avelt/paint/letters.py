"""Type set by Qt's fonts, as outlines for whoever draws without them (``handoff.letters``)."""

from __future__ import annotations

import io

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainterPath, QTransform

from avelt.core.handoff.letters import Glyph, SetWords
from avelt.core.model.values import Text
from avelt.paint.fonts import BASE, HOUSE_FAMILY, ensure_gui, glyphs, house_file, set_text
from avelt.paint.outlines import from_path


class QtLetters:
    """Sets type as the painter does."""

    def __init__(self) -> None:
        ensure_gui()

    def words(self, text: Text, size: float, letter_spacing: float, line_height: float, width: float) -> list[SetWords]:
        """All runs of a text in a box of a width, px."""
        return [
            SetWords(from_path(run.path), _rule(run.path), run.fill)
            for run in set_text(text, size, letter_spacing, line_height, width)
        ]

    def font(self, family: str, weight: int, italic: bool, letters: str) -> bytes | None:
        """A font file (WOFF) with only some letters; ``None`` for a family whose file is not at hand."""
        names = [name.strip().strip("'\"").lower() for name in family.split(",")]
        path = house_file(weight, italic) if HOUSE_FAMILY.lower() in names else None
        if path is None:
            return None
        from fontTools import subset
        from fontTools.ttLib import TTFont

        font = TTFont(path, recalcTimestamp=False)
        options = subset.Options(layout_features=["kern", "liga", "mark", "mkmk", "ccmp", "locl"], notdef_outline=True)
        worker = subset.Subsetter(options)
        worker.populate(text=letters)
        worker.subset(font)
        font.flavor = "woff"
        buffer = io.BytesIO()
        font.save(buffer)
        return buffer.getvalue()

    def glyph(self, letter: str, text: Text, size: float, letter_spacing: float) -> Glyph:
        """One letter in the type of a text."""
        factor = size / BASE
        spacing = round(letter_spacing / factor, 4) if factor else 0.0
        path, advance = glyphs(letter, text.family, text.weight, text.italic, spacing)
        made = QTransform.fromScale(factor, factor).map(path)
        return Glyph(from_path(made), _rule(path), advance * factor)


def _rule(path: QPainterPath) -> str:
    return "evenodd" if path.fillRule() == Qt.FillRule.OddEvenFill else "nonzero"
