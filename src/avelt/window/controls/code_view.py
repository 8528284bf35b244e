"""Code beside what it is made of: the lines of the chosen layer marked, typed into where it may be."""

from __future__ import annotations

import re
from collections.abc import Callable

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QColor, QFocusEvent, QFontDatabase, QGuiApplication, QKeyEvent, QTextCursor, QTextFormat
from PySide6.QtWidgets import QPlainTextEdit, QTextEdit

from avelt.core.edits.typed_code import take_typed
from avelt.core.errors import AveltError
from avelt.core.handoff.css_back import typed
from avelt.core.handoff.nodes import slug
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace

_MOST = 400_000  # characters that are shown


def lines_of(text: str, layer: str) -> list[int]:
    """The numbers of the lines (from 0) that are about a layer: those that name it, and rules that begin with it."""
    name = slug(layer)
    if not layer or not name:
        return []
    lines = text.split("\n")
    plain = re.compile(rf"(?<![\w-]){re.escape(name)}(-\d+)?(?![\w-])")
    found = _blocks(lines, lambda line: bool(plain.search(line)) or f'"{layer}"' in line)
    moved = {name for k in found for name in _ANIMATION.findall(lines[k])}
    return sorted({*found, *_blocks(lines, lambda line: line.startswith("@keyframes ") and line.split()[1] in moved)})


_ANIMATION = re.compile(r"([\w-]+) var\(--length-\d+\)")


def _blocks(lines: list[str], about: Callable[[str], bool]) -> list[int]:
    """The lines that are about something, and what they open."""
    found: list[int] = []
    inside = False
    for k, line in enumerate(lines):
        if about(line):
            found.append(k)
            inside = line.rstrip().endswith("{")
        elif inside:
            found.append(k)
            inside = not line.startswith("}")
    return found


class CodeView(QPlainTextEdit):
    """Long texts are cut off in the view, and whole when copied. Where it may be typed into, ``typed`` comes with the
    whole text when that is meant (Ctrl+Return, or the focus goes); Esc takes it back."""

    typed = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.whole = ""
        self.marked: list[int] = []
        self.setReadOnly(True)
        self.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        letters = QFontDatabase.systemFont(QFontDatabase.SystemFont.FixedFont)
        letters.setPixelSize(12)
        self.setFont(letters)
        self.setStyleSheet(f"font-family: '{letters.family()}'; font-size: 12px;")
        self.setAccessibleName(tr("Code"))

    def show_code(self, text: str, layer: str, open_to: bool = False) -> None:
        """Show a text and mark a layer in it; ``open_to``: it may be typed into. What is being typed is left alone."""
        cut = len(text) > _MOST
        self.setReadOnly(not open_to or cut)
        if text != self.whole:
            self.whole = text
            self.setPlainText(text[:_MOST] + (tr("\n… the rest is in the file") if cut else ""))
        self.mark(layer)

    def mark(self, layer: str) -> None:
        """Mark the lines of a layer, and bring the first into sight."""
        self.marked = lines_of(self.whole[:_MOST], layer)
        colour = QColor(self.workspace.theme.differs)
        selections = []
        for k in self.marked:
            selection = QTextEdit.ExtraSelection()
            selection.format.setBackground(colour)  # type: ignore[attr-defined]
            selection.format.setProperty(QTextFormat.Property.FullWidthSelection, True)  # type: ignore[attr-defined]
            selection.cursor = QTextCursor(self.document().findBlockByNumber(k))  # type: ignore[attr-defined]
            selections.append(selection)
        self.setExtraSelections(selections)
        if self.marked:
            cursor = QTextCursor(self.document().findBlockByNumber(self.marked[0]))
            self.setTextCursor(cursor)
            self.centerCursor()

    @property
    def is_changed(self) -> bool:
        """Whether something was typed that is not taken yet."""
        return not self.isReadOnly() and self.toPlainText() != self.whole

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape and self.is_changed:
            self.setPlainText(self.whole)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and event.modifiers() and self.is_changed:
            self.typed.emit(self.toPlainText())
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        super().focusOutEvent(event)
        if self.is_changed and event.reason() != Qt.FocusReason.PopupFocusReason:
            self.typed.emit(self.toPlainText())

    def copy_all(self) -> None:
        """All of it into the clipboard."""
        QGuiApplication.clipboard().setText(self.whole)


def take_code(workspace: Workspace, route_id: str, before: str, text: str) -> bool:
    """Lengths, delays and curves that were typed into the styles of a route go into the cues that they came from; what
    cannot be taken is said with its line. Whether all was taken."""
    try:
        changes = typed(before, text)
    except AveltError as error:
        workspace.said.emit(str(error))
        return False
    if not changes:
        return True
    if not workspace.do(tr("type code"), lambda project: take_typed(project, route_id, changes)):
        return False
    names = ", ".join(dict.fromkeys(change.layer for change in changes))
    workspace.said.emit(tr("Taken into the sheet: {names}.", names=names))
    return True
