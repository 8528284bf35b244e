"""Fonts and text outlines.

Text is painted from glyph outlines taken once at ``BASE`` px without hinting and scaled, so that type that
grows does not jitter.
"""

from __future__ import annotations

import os
from functools import lru_cache
from importlib.util import find_spec
from pathlib import Path

from PySide6.QtCore import QCoreApplication
from PySide6.QtGui import QFont, QFontDatabase, QFontMetricsF, QGuiApplication, QPainterPath, QTransform

from avelt.core.model.values import BASELINE, Paint, Text
from avelt.core.record import Record
from avelt.paint.by_thread import kept_by_thread

BASE = 100
_GENERIC = {
    "sans-serif": "Sans Serif",
    "serif": "Serif",
    "monospace": "Monospace",
    "system-ui": "Sans Serif",
    "ui-sans-serif": "Sans Serif",
}
HOUSE_FAMILY = "Hanken Grotesk"


def ensure_gui() -> QCoreApplication:
    """The running application, or one without a display: fonts need one."""
    app = QCoreApplication.instance()
    if app is None:
        if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY")):
            os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
        app = QGuiApplication(["avelt"])
    load_house_font()
    return app


@lru_cache(maxsize=1)
def load_house_font() -> bool:
    """Make Hanken Grotesk known; False when its package has no files (the system sans stands in)."""
    load_window_font()
    loaded = [QFontDatabase.addApplicationFont(path) for path in _font_files() if not _in_window(path)]
    return any(ident >= 0 for ident in loaded)


@lru_cache(maxsize=1)
def load_window_font() -> None:
    """Make known what of it the window itself is set in: the rest is for what is drawn."""
    for path in filter(_in_window, _font_files()):
        QFontDatabase.addApplicationFont(path)


def _in_window(path: str) -> bool:
    return path.endswith(("-Regular.otf", "-Medium.otf", "-SemiBold.otf", "-Bold.otf"))


@lru_cache(maxsize=1)
def _font_files() -> tuple[str, ...]:
    # The package is only looked for: importing it would load more than the files.
    found = find_spec("font_hanken_grotesk")
    folders = found.submodule_search_locations if found is not None else None
    return tuple(str(path) for folder in folders or () for path in sorted(Path(folder).rglob("HankenGrotesk-*.otf")))


_WEIGHTS = ("Thin", "ExtraLight", "Light", "Regular", "Medium", "SemiBold", "Bold", "ExtraBold", "Black")


def house_file(weight: int, italic: bool) -> str | None:
    """The file of the house font that is nearest to a weight; ``None`` when its package has none."""
    name = _WEIGHTS[min(8, max(0, round(weight / 100) - 1))]
    wanted = f"HankenGrotesk-{'' if name == 'Regular' and italic else name}{'Italic' if italic else ''}.otf"
    return next((path for path in _font_files() if path.endswith(wanted)), None)


@kept_by_thread(256)
def font(family: str, weight: int, italic: bool, letter_spacing: float) -> QFont:
    """A font at the base size; ``tracking`` in px at that size."""
    families = [_GENERIC.get(name.lower(), name) for name in (part.strip() for part in family.split(","))]
    made = QFont([*families, "Sans Serif"])
    made.setPixelSize(BASE)
    made.setWeight(QFont.Weight(min(1000, max(1, weight))))
    made.setItalic(italic)
    made.setHintingPreference(QFont.HintingPreference.PreferNoHinting)
    made.setStyleStrategy(QFont.StyleStrategy.PreferAntialias)
    made.setKerning(True)
    if letter_spacing:
        made.setLetterSpacing(QFont.SpacingType.AbsoluteSpacing, letter_spacing)
    return made


@kept_by_thread(4096)
def glyphs(text: str, family: str, weight: int, italic: bool, letter_spacing: float) -> tuple[QPainterPath, float]:
    """A run's outline at the base size with its origin on the baseline, and its advance."""
    face = font(family, weight, italic, letter_spacing)
    path = QPainterPath()
    path.addText(0.0, 0.0, face, text)
    return path, QFontMetricsF(face).horizontalAdvance(text)


class SetRun(Record, frozen=True):
    """A run in place: its outline in the layer's own px, its paint (None: the layer's)."""

    path: QPainterPath
    fill: Paint | None


def _lines(text: Text) -> list[list[tuple[str, int]]]:
    """Lines of (text, run number)."""
    lines: list[list[tuple[str, int]]] = [[]]
    for number, run in enumerate(text.runs):
        for place, part in enumerate(run.text.split("\n")):
            if place:
                lines.append([])
            if part:
                lines[-1].append((part, number))
    return lines


def set_text(text: Text, size: float, letter_spacing: float, line_height: float, width: float) -> list[SetRun]:
    """All runs placed in a box of a width (px), at a type size."""
    placed: list[SetRun] = []
    baseline = size * (line_height / 2 + BASELINE)
    for line in _lines(text):
        parts = []
        total = 0.0
        for words, number in line:
            run = text.runs[number]
            own = size * (run.size / text.size if run.size and text.size else 1.0)
            factor = own / BASE
            spacing = round(letter_spacing / factor, 4) if factor else 0.0
            path, advance = glyphs(
                words,
                run.family or text.family,
                run.weight or text.weight,
                text.italic if run.italic is None else run.italic,
                spacing,
            )
            parts.append((path, factor, total, run.fill))
            total += advance * factor
        shift = {"left": 0.0, "center": (width - total) / 2, "right": width - total}[text.align]
        for path, factor, x, fill in parts:
            where = QTransform(factor, 0, 0, factor, shift + x, baseline)
            placed.append(SetRun(where.map(path), fill))
        baseline += size * line_height
    return placed


def measure_text(text: Text) -> float:
    """The width in px of the widest line, by the fonts that are there (``svg_text.TextMeasure``)."""
    ensure_gui()
    widest = 0.0
    for line in _lines(text):
        total = 0.0
        for words, number in line:
            run = text.runs[number]
            factor = (run.size or text.size) / BASE
            if factor <= 0:
                continue
            _, advance = glyphs(
                words,
                run.family or text.family,
                run.weight or text.weight,
                text.italic if run.italic is None else run.italic,
                round(text.letter_spacing / factor, 4),
            )
            total += advance * factor
        widest = max(widest, total)  # with the space behind the last letter, as in browsers
    return max(0.0, widest)
