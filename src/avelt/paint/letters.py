"""Type set by Qt's fonts, as outlines for whoever draws without them (``handoff.letters``)."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QPainterPath, QTransform

from avelt.core.handoff.letters import Glyph, SetWords
from avelt.core.model.values import Text
from avelt.paint.fonts import BASE, ensure_gui, glyphs, set_text
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

    def glyph(self, letter: str, text: Text, size: float, letter_spacing: float) -> Glyph:
        """One letter in the type of a text."""
        factor = size / BASE
        spacing = round(letter_spacing / factor, 4) if factor else 0.0
        path, advance = glyphs(letter, text.family, text.weight, text.italic, spacing)
        made = QTransform.fromScale(factor, factor).map(path)
        return Glyph(from_path(made), _rule(path), advance * factor)


def _rule(path: QPainterPath) -> str:
    return "evenodd" if path.fillRule() == Qt.FillRule.OddEvenFill else "nonzero"
