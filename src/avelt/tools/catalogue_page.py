"""Writes the page of the catalogue into docs: what each preset is for, and a sheet of their pictures."""

from __future__ import annotations

import os
from collections.abc import Sequence
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter

from avelt.core.presets.picture import picture_of
from avelt.core.presets.shelf import built_in
from avelt.core.presets.values import KINDS, Preset
from avelt.paint.painter import ScenePainter
from avelt.paint.preset_picture import still_of
from avelt.window.start import application
from avelt.window.theme import font

DOCS = Path(__file__).resolve().parents[3] / "docs"
_COLUMNS, _WIDE, _HIGH, _WORDS, _GAP = 6, 200, 100, 24, 12  # px of a picture and its name
_HEADS = {
    "layer motion": "What one layer does that is on both screens",
    "enter": "How layers come",
    "leave": "How layers go",
    "shared": "Several layers that belong together",
    "transition": "Whole screens",
    "loop": "What moves by itself: answers, waits, life",
    "stagger": "One after the other",
    "curve": "Curves",
    "motion path": "Motion paths",
    "part": "Parts",
}


def in_order() -> list[Preset]:
    """The catalogue by kind, then by name."""
    return sorted(built_in(), key=lambda preset: (KINDS.index(preset.kind), preset.name.casefold()))


def page() -> str:
    """The page as Markdown."""
    lines = [
        "# The catalogue",
        "What comes with Avelt, made by `python -m avelt.tools.catalogue`; this page is made from it.",
        "",
        "![All of them](catalogue.png)",
    ]
    for kind in KINDS:
        rows = [preset for preset in in_order() if preset.kind == kind]
        if not rows:
            continue
        lines += ["", f"## {_HEADS[kind]} (`{kind}`)", "| name | ms | use it for | not for | quieter |"]
        lines.append("| --- | ---: | --- | --- | --- |")
        for preset in rows:
            length = f"{preset.duration:g}" if preset.duration else ""
            quieter = preset.quieter or "is quiet"
            lines.append(f"| **{preset.name}** | {length} | {preset.when} | {preset.not_when} | {quieter} |")
    return "\n".join(lines) + "\n"


def sheet(presets: Sequence[Preset]) -> QImage:
    """A still of each, with its name below."""
    rows = -(-len(presets) // _COLUMNS)
    whole = QImage(_COLUMNS * (_WIDE + _GAP) + _GAP, rows * (_HIGH + _WORDS + _GAP) + _GAP, QImage.Format.Format_RGB32)
    whole.fill(QColor("#FFFEFA"))
    onto, scene = QPainter(whole), ScenePainter()
    onto.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    onto.setFont(font(12))
    for k, preset in enumerate(presets):
        place = QRectF(
            _GAP + k % _COLUMNS * (_WIDE + _GAP), _GAP + k // _COLUMNS * (_HIGH + _WORDS + _GAP), _WIDE, _HIGH
        )
        picture = picture_of(preset)
        w, h = picture.program.at(0.0).size
        fit = min(_WIDE / w, _HIGH / h)
        image = still_of(preset, picture, scene, fit)
        onto.fillRect(place, QColor.fromRgbF(*picture.program.at(0.0).background.tolist()))
        inside = QRectF(0, 0, w * fit, h * fit)
        inside.moveCenter(place.center())
        onto.drawImage(inside, image, QRectF(image.rect()))
        onto.setPen(QColor("#22302E"))
        words = QRectF(place.left(), place.bottom(), _WIDE, _WORDS)
        onto.drawText(words, Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter, preset.name)
    onto.end()
    return whole


def main() -> None:
    """Write both."""
    application()
    (DOCS / "catalogue.md").write_text(page())
    sheet(in_order()).save(str(DOCS / "catalogue.png"))


if __name__ == "__main__":
    main()
