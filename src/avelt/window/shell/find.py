"""Find: every command, frame, layer, route and preset by name."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QFrame, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from avelt.core.model.find import frame_by_id, walk
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.words import tr

_MOST = 12


class Hit(Record, frozen=True):
    """Something that can be found: its words, what it is, and what choosing it does."""

    words: str
    what: str
    do: Callable[[], object]


def ranked(hits: list[Hit], text: str, most: int = _MOST) -> list[Hit]:
    """The hits that fit the text, best first; what begins with it or holds it comes before what is like it."""
    wanted = text.casefold().strip()
    if not wanted:
        return hits[:most]
    from rapidfuzz import fuzz, process

    scored = process.extract(
        wanted, [hit.words.casefold() for hit in hits], scorer=fuzz.WRatio, limit=most * 4, score_cutoff=55
    )

    def key(entry: tuple[str, float, int]) -> tuple[int, float]:
        words, score, _ = entry
        return (0 if words.startswith(wanted) else 1 if wanted in words else 2, -score)

    return [hits[place] for _, _, place in sorted(scored, key=key)][:most]


def project_hits(
    project: Project, show_layer: Callable[[str, str], object], show_route: Callable[[str], object]
) -> list[Hit]:
    """Every frame, route and layer of a project."""
    hits = [Hit(frame.name, "frame", partial(show_layer, frame.id, "")) for frame in project.frames]
    for route in project.routes:
        left, right = frame_by_id(project, route.leaves), frame_by_id(project, route.arrives)
        hits.append(Hit(f"{left.name} → {right.name}", "route", partial(show_route, route.id)))
    for frame in project.frames:
        for layer in walk(frame.layers):
            hits.append(
                Hit(layer.name, tr("layer of {frame}", frame=frame.name), partial(show_layer, frame.id, layer.id))
            )
    return hits


class FindPanel(QFrame):
    """The field and the list, over the window."""

    def __init__(self, parent: QWidget, gather: Callable[[], list[Hit]]) -> None:
        super().__init__(parent)
        self.setProperty("role", "panel")
        self.gather = gather
        self.hits: list[Hit] = []
        self.field = QLineEdit()
        self.field.setPlaceholderText(tr("Find a command, frame, layer, route or preset"))
        self.list = QListWidget()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(12, 12, 12, 12)
        layout.addWidget(self.field)
        layout.addWidget(self.list)
        self.resize(520, 420)
        self.field.textChanged.connect(self._fill)
        self.field.installEventFilter(self)
        self.list.itemActivated.connect(lambda _: self._do())
        self.list.itemClicked.connect(lambda _: self._do())
        self.hide()

    def open(self) -> None:
        """Show it, ready for typing."""
        self._all = self.gather()
        self.field.clear()
        self._fill("")
        parent = self.parentWidget()
        if parent is not None:
            self.move((parent.width() - self.width()) // 2, 64)
        self.show()
        self.raise_()
        self.field.setFocus()

    def _fill(self, text: str) -> None:
        self.hits = ranked(self._all, text)
        self.list.clear()
        for hit in self.hits:
            QListWidgetItem(f"{hit.words}    ·  {hit.what}", self.list)
        self.list.setCurrentRow(0)

    def _do(self) -> None:
        place = self.list.currentRow()
        self.hide()
        if 0 <= place < len(self.hits):
            self.hits[place].do()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            key = event.key()
            if key in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.hits:
                step = 1 if key == Qt.Key.Key_Down else -1
                self.list.setCurrentRow((self.list.currentRow() + step) % len(self.hits))
                return True
            if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                self._do()
                return True
            if key == Qt.Key.Key_Escape:
                self.hide()
                return True
        if event.type() == QEvent.Type.FocusOut and not self.list.hasFocus() and watched is self.field:
            self.hide()
        return False
