"""Paints every SVG in a folder with Avelt and with headless Chromium, and shows where they differ.

``python -m avelt.tools.fidelity DIR [--out SHEET.png] [--most N]`` prints the mean absolute difference
(0..255, over the whole picture) of each, worst first, and writes a contact sheet of the worst.
"""

from __future__ import annotations

import argparse
import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

from avelt.core.record import Record

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PIL import Image, ImageDraw
from PySide6.QtCore import QRect, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QTransform

from avelt.core.arrays import np
from avelt.core.blending import colour
from avelt.core.errors import AveltError
from avelt.core.formats.screen_file import read_screen
from avelt.core.timing.compile import compile_still
from avelt.paint.fonts import measure_text
from avelt.paint.moving import to_pillow
from avelt.paint.painter import ScenePainter

SIDE = 128
_ACROSS, _DOWN = 8, 12  # pictures in one page for the browser
_GOOD, _FAIR = 2.0, 6.0
_SLOW = 2.0  # seconds
_OPTIONS = (
    "headless",
    "no-sandbox",
    "disable-gpu",
    "disable-quic",
    "no-first-run",
    "disable-background-networking",
    "disable-component-update",
    "disable-sync",
    "hide-scrollbars",
    "allow-file-access-from-files",
)


class Compared(Record, frozen=True):
    """One file: both pictures, their mean difference, how long ours took, what was wrong."""

    path: Path
    ours: Image.Image
    theirs: Image.Image
    difference: float
    seconds: float
    trouble: str = ""


def browser() -> str:
    """Chromium's command, or an empty text."""
    return shutil.which("chromium") or shutil.which("chromium-browser") or ""


def paint_ours(path: Path) -> tuple[Image.Image, float, str]:
    """Avelt's picture on white, fitted into the square, the seconds it took, and an error's sentence."""
    started = time.perf_counter()
    square = QImage(SIDE, SIDE, QImage.Format.Format_ARGB32_Premultiplied)
    square.fill(Qt.GlobalColor.white)
    try:
        imported = read_screen(path, measure_text)
        frame = imported.frame
        scale = min(SIDE / frame.w, SIDE / frame.h)
        # Fitted as a browser fits it: in the middle, its edges on whole pixels.
        w, h = frame.w * scale, frame.h * scale
        left, top = round((SIDE - w) / 2), round((SIDE - h) / 2)
        right, bottom = round((SIDE + w) / 2), round((SIDE + h) / 2)
        there = QTransform((right - left) / frame.w, 0, 0, (bottom - top) / frame.h, left, top)
        painter = QPainter(square)
        painter.setRenderHints(QPainter.RenderHint.Antialiasing | QPainter.RenderHint.SmoothPixmapTransform)
        whole = there.mapRect(QRectF(0, 0, frame.w, frame.h))
        painter.setClipRect(whole)
        painter.fillRect(whole, QColor.fromRgbF(*colour.parse(frame.background)))
        area = QRect(0, 0, SIDE, SIDE)
        ScenePainter(imported.assets).paint(painter, compile_still(frame).at(0.0), there, area)
        painter.end()
    except AveltError as error:
        return to_pillow(square), time.perf_counter() - started, str(error)
    return to_pillow(square), time.perf_counter() - started, ""


def paint_theirs(paths: list[Path], command: str) -> list[Image.Image]:
    """Chromium's pictures of up to a page of files."""
    cells = "".join(f'<div><img src="{path.resolve().as_uri()}"></div>' for path in paths)
    style = (
        f"body{{margin:0;background:#fff;display:grid;grid-template-columns:repeat({_ACROSS},{SIDE}px)}}"
        f"div{{width:{SIDE}px;height:{SIDE}px;overflow:hidden}}"
        f"img{{width:{SIDE}px;height:{SIDE}px;object-fit:contain;display:block}}"
    )
    with tempfile.TemporaryDirectory() as folder:
        page, shot = Path(folder) / "page.html", Path(folder) / "shot.png"
        page.write_text(f"<!doctype html><meta charset=utf-8><style>{style}</style><body>{cells}")
        options = [f"--{name}" for name in _OPTIONS]
        size = f"--window-size={_ACROSS * SIDE},{_DOWN * SIDE}"
        command_line = [
            command,
            *options,
            size,
            f"--user-data-dir={folder}/profile",
            f"--screenshot={shot}",
            page.as_uri(),
        ]
        subprocess.run(command_line, check=True, capture_output=True, timeout=180)
        with Image.open(shot) as image:
            whole = image.convert("RGB")
    corners = [((k % _ACROSS) * SIDE, (k // _ACROSS) * SIDE) for k in range(len(paths))]
    return [whole.crop((x, y, x + SIDE, y + SIDE)) for x, y in corners]


def compare(paths: list[Path], command: str) -> list[Compared]:
    """All files compared, in order."""
    found: list[Compared] = []
    page = _ACROSS * _DOWN
    for first in range(0, len(paths), page):
        some = paths[first : first + page]
        for path, theirs in zip(some, paint_theirs(some, command), strict=True):
            ours, seconds, trouble = paint_ours(path)
            away = np.abs(np.asarray(ours, float) - np.asarray(theirs, float)).mean()
            found.append(Compared(path, ours, theirs, float(away), seconds, trouble))
        print(f"{min(first + page, len(paths))} of {len(paths)}", file=sys.stderr)
    return found


def sheet(worst: list[Compared]) -> Image.Image:
    """Ours, theirs and the difference of each, with its name."""
    across = 4
    rows = -(-len(worst) // across)
    whole = Image.new("RGB", (across * (3 * SIDE + 16), max(1, rows) * (SIDE + 26)), "#EFEBE2")
    draw = ImageDraw.Draw(whole)
    for k, entry in enumerate(worst):
        x, y = (k % across) * (3 * SIDE + 16), (k // across) * (SIDE + 26)
        away = np.abs(np.asarray(entry.ours, int) - np.asarray(entry.theirs, int)).astype(np.uint8)
        for place, image in enumerate((entry.ours, entry.theirs, Image.fromarray(255 - away))):
            whole.paste(image, (x + place * (SIDE + 2), y))
        draw.text((x + 2, y + SIDE + 4), f"{entry.difference:.2f}  {entry.path.name[:48]}", fill="#22302F")
    return whole


def main() -> int:
    """Compare a folder; gives 1 when a file could not be painted or took too long."""
    parser = argparse.ArgumentParser("avelt.tools.fidelity", description=__doc__)
    parser.add_argument("folder", type=Path)
    parser.add_argument("--out", type=Path, default=Path("fidelity.png"))
    parser.add_argument("--most", type=int, default=100_000)
    args = parser.parse_args()
    command = browser()
    if not command:
        print("There is no Chromium here: sudo apt-get install chromium", file=sys.stderr)
        return 2
    found = compare(sorted(args.folder.rglob("*.svg"))[: args.most], command)
    if not found:
        print("There is no SVG file in the folder.", file=sys.stderr)
        return 2
    found.sort(key=lambda entry: -entry.difference)
    sheet(found[:48]).save(args.out)
    for entry in found[:24]:
        print(f"{entry.difference:7.3f}  {entry.seconds:5.2f} s  {entry.path.name}  {entry.trouble[:100]}")
    good, fair = (sum(entry.difference < limit for entry in found) / len(found) for limit in (_GOOD, _FAIR))
    troubled = sum(bool(entry.trouble) for entry in found)
    slow = sum(entry.seconds > _SLOW for entry in found)
    print(f"{len(found)} files: {good:.2%} below {_GOOD}, {fair:.2%} below {_FAIR}; {troubled} refused, {slow} slow")
    return 1 if troubled or slow else 0


if __name__ == "__main__":
    sys.exit(main())
