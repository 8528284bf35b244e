"""The whole window in a language that nobody speaks: which words are not in it, and which are cut by it.

Run as a program of its own, since texts are looked up when modules are read:
``python -m tests.window.pseudo_walk [FOLDER]`` prints JSON; with a folder the pictures are written there.
"""

from __future__ import annotations

import json
import os
import re
import sys
import tempfile
from collections.abc import Iterator
from pathlib import Path
from typing import Any

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from avelt.core.words import translate_with
from avelt.tools.texts import CLOSES, OPENS, pseudo

translate_with(lambda text, one, n: pseudo(one if n == 1 else text))

from msgspec import to_builtins
from PySide6.QtCore import QModelIndex, QRect, QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QHeaderView,
    QLabel,
    QLineEdit,
    QMenu,
    QTableView,
    QTreeView,
    QWidget,
)

from avelt.core.presets.shelf import Shelf, built_in
from avelt.tools import shots
from avelt.window.controls.painted import Pick
from avelt.window.controls.short_label import ShortLabel
from avelt.window.shell.main_window import MainWindow
from avelt.window.start import application, make_window

_WRAPS = int(Qt.TextFlag.TextWordWrap)
_ARROW = 30  # px of a choice beside its words
_MARK = re.compile(r"<[^>]*>")
_SPOKEN = re.compile(f"{OPENS}.*{CLOSES}", re.DOTALL)
_CODE = re.compile(r"#[0-9a-f]{3,8}|\S+\.css|[a-z-]+\([^()]*(\([^()]*\))?[^()]*\)")  # of style sheets
_WORD = re.compile(r"[^\W\d_]{2,}")
#: Fields of the model that hold what people call things, and what they wrote.
_NAMED = ("name", "text", "words", "only_if", "value", "condition")
#: Not words of a language: units, keys, formats and what code is written in.
_SAME = re.compile(
    r"\b(none|ms|px|kB|MB|Ctrl|Shift|Alt|Esc|Escape|Del|Return|Space|Home|PgUp|PgDown|css|html|pdf|svg|json|png|gif|apng|webp|mp4|webm|GIF|APNG|WebP|MP4|"
    r"WebM|PNG|SVG|Up|Down|CSS|HTML|PDF|JSON|Avelt|FPS|URL)\b"
)


def words_of(widget: QWidget) -> Iterator[tuple[str, str]]:
    """What a widget says and where: its own words, its tip, what it is called."""
    if isinstance(widget, QLabel | QAbstractButton):
        yield "text", widget.whole if isinstance(widget, ShortLabel) else widget.text()
    if isinstance(widget, QLineEdit):
        yield "placeholder", widget.placeholderText()
    if isinstance(widget, QComboBox):
        for place in range(widget.count()):
            yield "entry", widget.itemText(place)
    if isinstance(widget, QMenu):
        for action in widget.actions():
            yield "action", action.text()
    if isinstance(widget, QAbstractItemView) and not isinstance(widget, QHeaderView):
        yield from _items(widget)
    if widget.isVisible() and (spoken := getattr(widget, "spoken", None)) is not None:
        for entry in spoken():
            yield "spoken", entry.words
    yield "tip", "" if isinstance(widget, ShortLabel) else widget.toolTip()
    yield "name", widget.accessibleName()


def _items(view: QAbstractItemView) -> Iterator[tuple[str, str]]:
    """Headers and entries of a list, tree or table, and their tips."""
    model = view.model()
    if model is None or isinstance(view.parent(), QComboBox) or view.window() is not view.nativeParentWidget():
        return
    columns = model.columnCount() if isinstance(view, QTreeView | QTableView) else 1  # a list's is private
    if columns > 1:
        for column in range(columns):
            yield "header", str(model.headerData(column, Qt.Orientation.Horizontal) or "")
    todo = [QModelIndex()]
    while todo:
        parent = todo.pop()
        for row in range(model.rowCount(parent)):
            for column in range(columns):
                place = model.index(row, column, parent)
                yield "item", str(place.data(Qt.ItemDataRole.DisplayRole) or "")
                yield "item tip", str(place.data(Qt.ItemDataRole.ToolTipRole) or "")
            todo.append(model.index(row, 0, parent))


def names_in(project: Any) -> set[str]:
    """Every text that the project holds: names and words that people gave."""
    found: set[str] = set()
    todo = [to_builtins(project)]
    while todo:
        entry = todo.pop()
        if isinstance(entry, dict):
            found.update(value for key, value in entry.items() if key in _NAMED and isinstance(value, str))
            todo += entry.values()
        elif isinstance(entry, list | tuple):
            todo += entry
    return found


def plain(text: str, names: list[str]) -> str:
    """What of a text is neither in the other language nor data."""
    text = _SPOKEN.sub(" ", _MARK.sub(" ", _CODE.sub(" ", text)))
    for name in names:
        text = text.replace(name, " ")
    return _SAME.sub(" ", text)


def _words(widget: QWidget) -> str:
    return widget.currentText() if isinstance(widget, QComboBox) else str(getattr(widget, "text", str)())


def cut(widget: QWidget) -> bool:
    """Whether a label or button is narrower than its words, or a folded label lower than its lines."""
    if isinstance(widget, QComboBox):  # ours end in dots, and their tips say the whole
        words = widget.currentText()
        room = widget.width() - _ARROW
        return not isinstance(widget, Pick) and OPENS in words and widget.fontMetrics().horizontalAdvance(words) > room
    if not isinstance(widget, QLabel | QAbstractButton) or OPENS not in widget.text():
        return False
    if isinstance(widget, ShortLabel):  # its tip says the whole
        return widget.text() != widget.whole and _MARK.sub("", widget.whole) != widget.toolTip()
    if isinstance(widget, QLabel) and widget.wordWrap():
        return widget.height() + 2 < widget.heightForWidth(widget.width()) and widget.toolTip() != widget.text()
    words = _MARK.sub("", widget.text()).split("\t")[0]
    wide = max(widget.fontMetrics().horizontalAdvance(line) for line in words.split("\n"))
    return widget.width() < wide


class Painted:
    """What the program's own views write with a painter, and where in the code."""

    def __init__(self) -> None:
        self.found: dict[str, str] = {}
        self.cut: dict[str, str] = {}
        draw: Any = QPainter.drawText

        def heard(painter: QPainter, *args: Any) -> Any:
            self._note(painter, *args)
            return draw(painter, *args)

        QPainter.drawText = heard  # type: ignore[method-assign,assignment]

    def _note(self, painter: QPainter, *args: Any) -> None:
        words = next((arg for arg in args if isinstance(arg, str)), "")
        caller = sys._getframe(2).f_code
        where = f"{Path(caller.co_filename).name}, {caller.co_name}"
        self.found[words] = where
        room = args[0] if isinstance(args[0], QRect | QRectF) else None
        wraps = any(isinstance(arg, Qt.TextFlag) or (isinstance(arg, int) and arg & _WRAPS) for arg in args[1:2])
        if room is not None and OPENS in words and not wraps:
            wide = painter.fontMetrics().horizontalAdvance(words)
            if wide > room.width() + 1:
                self.cut[words] = where

    def take(self) -> tuple[dict[str, str], dict[str, str]]:
        """What came since it was taken last: words and where, and those that had no room."""
        found, cut = self.found, self.cut
        self.found, self.cut = {}, {}
        return found, cut


def painted_plain(text: str, names: list[str]) -> str:
    """The same of what is painted, which may end in dots: then its beginning counts."""
    if not text.endswith("…"):
        return plain(text, names)
    begun = text[:-1].rstrip()
    if OPENS in begun and CLOSES not in begun[begun.rindex(OPENS) :]:
        begun += CLOSES
    return "" if any(name.startswith(begun) for name in names) else plain(begun, names)


def walk(window: MainWindow, folder: Path | None) -> dict[str, dict[str, list[str]]]:
    """Every picture of the documentation, and what is wrong in it."""
    app = QApplication.instance()
    assert app is not None
    known = {preset.name for preset in built_in()}
    same: dict[str, list[str]] = {}
    short: dict[str, list[str]] = {}
    painted = Painted()
    for shot in shots.SHOTS:
        shot(window)
        for _ in range(4):
            app.processEvents()
        if folder is not None:
            window.grab().save(str(folder / f"{shot.__name__}.png"))
        known |= {name for name in names_in(window.workspace.whole) if len(name) > 1}
        known |= {preset.name for preset in window.workspace.shelf.read().presets}
        names = sorted(known, key=len, reverse=True)
        for widget in [window, *window.findChildren(QWidget)]:
            where = f"{type(widget).__name__}"
            for kind, words in words_of(widget):
                if words and _WORD.search(plain(words, names)):
                    same.setdefault(f"{kind} of {where}: {words}", []).append(shot.__name__)
            if widget.isVisible() and cut(widget):
                short.setdefault(f"{where}: {_words(widget)}", []).append(shot.__name__)
        found, no_room = painted.take()
        for words, where in found.items():
            if where.startswith("spec_pdf.py"):  # what is delivered speaks as the command line does
                continue
            if _WORD.search(painted_plain(words, names)):
                same.setdefault(f"painted in {where}: {words}", []).append(shot.__name__)
        for words, where in no_room.items():
            short.setdefault(f"painted in {where}: {words}", []).append(shot.__name__)
    return {"same": same, "cut": short}


def main() -> None:
    """Walk, and print what was found."""
    folder = Path(sys.argv[1]) if len(sys.argv) > 1 else None
    application()
    with tempfile.TemporaryDirectory() as kept:
        window = make_window(None, True, False, Shelf(Path(kept)))
        window.resize(1280, 800)
        window.show()
        json.dump(walk(window, folder), sys.stdout, ensure_ascii=False, indent=1)
        sys.stdout.flush()
        os._exit(0)


if __name__ == "__main__":
    main()
