"""Frames: all screens side by side, their layers, and the chosen layer's values frame by frame."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QBrush, QColor, QDragEnterEvent, QDropEvent, QIcon, QPixmap
from PySide6.QtWidgets import (
    QAbstractItemView,
    QHBoxLayout,
    QHeaderView,
    QInputDialog,
    QLineEdit,
    QTableWidget,
    QTableWidgetItem,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)  # fmt: skip

from avelt.core.blending import colour
from avelt.core.edits.frames import next_state, remove_frame, remove_layer, rename_frame, set_first
from avelt.core.formats.disk import SCREEN_ENDINGS
from avelt.core.model.find import frame_by_id
from avelt.core.model.values import Layer
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import add_all, bar, button, label, panel
from avelt.window.controls.painted import TintDelegate, Tree, children_of
from avelt.window.frames.board import Board
from avelt.window.frames.values import set_from_text, value_rows
from avelt.window.shell.desk import Desk

_ID = Qt.ItemDataRole.UserRole


class FramesStation(QWidget):
    """The station. Files can be dropped anywhere on it."""

    bring_in = Signal()
    dropped = Signal(list)  # paths
    report_wanted = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.setAcceptDrops(True)
        strip = self._make_strip()
        tree_panel, table_panel = self._make_tree(), self._make_table()
        self.board = Board(desk)
        upper = QHBoxLayout()
        upper.setSpacing(14)
        upper.addWidget(tree_panel)
        upper.addWidget(self.board, 1)
        self.empty = EmptyPlace(
            "There is no screen yet. Bring in SVG files or pictures, or drop them here.", "Bring in screens…",
            self.bring_in.emit,
        )  # fmt: skip
        self.body = QWidget()
        inner = QVBoxLayout(self.body)
        inner.setContentsMargins(12, 10, 12, 12)
        inner.setSpacing(10)
        inner.addLayout(upper, 1)
        inner.addWidget(table_panel)
        lay_out(self, strip, self.body, self.empty)
        self._connect()
        self.refresh()

    def _make_strip(self) -> QWidget:
        strip, layout = bar()
        self.bring = button("Bring in screens…", "SVG, PNG, JPEG or WebP files as frames (Ctrl+I)")
        self.next = button("Next state of this frame", "A copy right behind it whose layers pair for certain (Ctrl+D)")
        self.summary = label("", "quiet")
        self.report = button("Import report", "What the last import left out or approximated")
        self.first = button("Starts here", "Rehearse begins with this frame", checkable=True)
        self.smaller, self.larger, self.fits = (
            button("−", "Smaller"),
            button("+", "Larger"),
            button("Fit", "Fit the height"),
        )
        add_all(layout, self.bring, self.next, self.summary, None)
        add_all(layout, self.report, self.first, self.smaller, self.larger, self.fits)
        return strip

    def _make_tree(self) -> QWidget:
        self.search = QLineEdit()
        self.search.setPlaceholderText("Search layers")
        self.tree = Tree()
        self.tree.setHeaderHidden(True)
        self.tree.setIndentation(14)
        self.tree.setAccessibleName("Layers")
        tree_panel = panel()
        tree_panel.setFixedWidth(190)
        inside = QVBoxLayout(tree_panel)
        inside.setContentsMargins(8, 8, 4, 8)
        inside.addWidget(self.search)
        inside.addWidget(self.tree)
        return tree_panel

    def _make_table(self) -> QWidget:
        self.table = QTableWidget()
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.setItemDelegate(TintDelegate(self.table))
        self.table.setAccessibleName("Values frame by frame")
        self.table_title, self.table_note = (
            label("", "heading"),
            label("tinted: differs from the frame to its left", "quiet"),
        )
        table_panel = self.table_panel = panel()
        below = QVBoxLayout(table_panel)
        below.setContentsMargins(1, 8, 1, 8)
        heads = QHBoxLayout()
        heads.setContentsMargins(14, 0, 14, 0)
        heads.addWidget(self.table_title)
        heads.addStretch(1)
        heads.addWidget(self.table_note)
        below.addLayout(heads)
        below.addWidget(self.table)
        return table_panel

    def _connect(self) -> None:
        self.bring.clicked.connect(self.bring_in)
        self.next.clicked.connect(self.make_next)
        self.report.clicked.connect(self.report_wanted)
        self.first.clicked.connect(self._set_first)
        self.smaller.clicked.connect(lambda: self.board.set_zoom(self.board.zoom / 1.25))
        self.larger.clicked.connect(lambda: self.board.set_zoom(self.board.zoom * 1.25))
        self.fits.clicked.connect(lambda: self.board.set_zoom(1.0))
        self.board.frame_named.connect(self.rename)
        self.board.removal_wanted.connect(self.remove)
        self.search.textChanged.connect(self._filter)
        self.tree.currentItemChanged.connect(self._picked_in_tree)
        self.table.itemChanged.connect(self._typed)
        self.desk.changed.connect(self._changed)
        self.desk.chose.connect(self._show_choice)
        self.desk.theme.changed.connect(self.refresh)

    def enter(self) -> None:
        """The station comes to the front."""
        self.refresh()

    def leave(self) -> None:
        """Another station comes to the front."""

    # Showing

    def _changed(self, _: object) -> None:
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Take everything over from the project."""
        frames = self.desk.project.frames
        self.body.setVisible(bool(frames))
        self.empty.setVisible(not frames)
        self.next.setEnabled(bool(frames))
        count = len(frames)
        sizes = {(frame.w, frame.h) for frame in frames}
        size = f", {frames[0].w:g} × {frames[0].h:g}" if len(sizes) == 1 else ""
        self.summary.setText(f"{count} frame{'s' if count != 1 else ''}{size}" if count else "")
        self._fill_tree()
        self._show_choice()

    def _fill_tree(self) -> None:
        blocker = QSignalBlocker(self.tree)
        opened = {item.data(0, _ID) for item in self._items() if item.isExpanded()}
        self.tree.clear()
        frame = self.desk.frame
        if frame is not None:
            for layer in reversed(frame.layers):
                self._add(self.tree.invisibleRootItem(), layer, opened)
        self._filter(self.search.text())
        del blocker

    def _add(self, parent: QTreeWidgetItem, layer: Layer, opened: set[object]) -> None:
        item = QTreeWidgetItem(parent, [layer.name])
        item.setData(0, _ID, layer.id)
        item.setToolTip(0, f"{layer.name}, {layer.kind}{', hidden' if layer.hidden else ''}")
        if layer.hidden:
            item.setForeground(0, QBrush(self.desk.theme.quiet))
        for child in reversed(layer.children):
            self._add(item, child, opened)
        item.setExpanded(layer.id in opened)

    def _items(self) -> list[QTreeWidgetItem]:
        found: list[QTreeWidgetItem] = []
        stack = [self.tree.topLevelItem(k) for k in range(self.tree.topLevelItemCount())]
        while stack:
            item = stack.pop()
            if item is not None:
                found.append(item)
                stack += children_of(item)
        return found

    def _filter(self, text: str) -> None:
        wanted = text.casefold().strip()
        for item in self._items():
            item.setHidden(False)
        if not wanted:
            return
        keep: set[int] = set()
        for item in self._items():
            if wanted in item.text(0).casefold():
                up: QTreeWidgetItem | None = item
                while up is not None:
                    keep.add(id(up))
                    up.setExpanded(True)
                    up = up.parent()
        for item in self._items():
            if (
                id(item) not in keep
                and not any(wanted in child.text(0).casefold() for child in _below(item))
                and wanted not in item.text(0).casefold()
            ):
                item.setHidden(True)

    def _show_choice(self) -> None:
        frame, layer = self.desk.frame, self.desk.layer
        self.first.setEnabled(frame is not None)
        self.first.setChecked(frame is not None and frame.id == self.desk.project.first)
        if frame is not None and self._tree_frame() != frame.id:
            self._fill_tree()
        blocker = QSignalBlocker(self.tree)
        wanted = [item for item in self._items() if layer is not None and item.data(0, _ID) == layer.id]
        self.tree.show_current(wanted[0] if wanted else None)
        del blocker
        self._fill_table()
        self.board.update()

    def _tree_frame(self) -> str:
        top = self.tree.topLevelItem(0)
        frame = self.desk.frame
        if top is None or frame is None:
            return ""
        return frame.id if any(top.data(0, _ID) == layer.id for layer in frame.layers) else ""

    def _fill_table(self) -> None:
        frame, layer = self.desk.frame, self.desk.layer
        blocker = QSignalBlocker(self.table)
        self.table.clear()
        self.table_panel.setFixedHeight(40 if layer is None else 276)
        self.table.setVisible(layer is not None)
        if frame is None or layer is None:
            self.table_title.setText("Choose a layer to see its values in every frame.")
            self.table_note.hide()
            self.table.setRowCount(0)
            self.table.setColumnCount(0)
            return
        self.table_title.setText(f"{layer.name}, frame by frame")
        self.table_note.show()
        rows = value_rows(self.desk.project, frame, layer)
        self.table.setRowCount(len(rows))
        self.table.setColumnCount(1 + len(self.desk.project.frames))
        self.table.setHorizontalHeaderLabels(["", *(entry.name for entry in self.desk.project.frames)])
        for place in range(self.table.columnCount()):
            head = self.table.horizontalHeaderItem(place) or QTableWidgetItem()
            head.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
        self.table.setColumnWidth(0, 178)
        theme = self.desk.theme
        for r, row in enumerate(rows):
            name = QTableWidgetItem(row.label)
            name.setFlags(Qt.ItemFlag.ItemIsEnabled)
            name.setForeground(QBrush(theme.quiet))
            self.table.setItem(r, 0, name)
            self.table.setRowHeight(r, 25)
            for c, cell in enumerate(row.cells):
                item = QTableWidgetItem(cell.text)
                item.setData(_ID, (row.name, cell.frame_id, cell.layer_id))
                if not cell.layer_id:
                    item.setFlags(Qt.ItemFlag.ItemIsEnabled)
                    item.setForeground(QBrush(theme.quiet))
                if cell.differs:
                    item.setBackground(QBrush(theme.differs))
                if cell.swatch:
                    item.setIcon(_swatch(cell.swatch))
                self.table.setItem(r, c + 1, item)
        del blocker

    # Doing

    def _picked_in_tree(self, item: QTreeWidgetItem | None, _: object = None) -> None:
        frame = self.desk.frame
        if item is not None and frame is not None:
            self.desk.choose(frame.id, item.data(0, _ID))

    def _typed(self, item: QTableWidgetItem) -> None:
        data = item.data(_ID)
        if not data or not data[2]:
            return
        name, frame_id, layer_id = data
        text = item.text()
        if not self.desk.do(f"set {name}", lambda p: set_from_text(p, frame_id, layer_id, name, text)):
            self._fill_table()

    def make_next(self) -> None:
        """The next state of the chosen frame."""
        frame = self.desk.frame
        if frame is None:
            return
        before = {entry.id for entry in self.desk.project.frames}
        self.desk.do(f"next state of {frame.name}", lambda p: next_state(p, frame.id))
        made = next((entry for entry in self.desk.project.frames if entry.id not in before), None)
        if made is not None:
            self.desk.choose(made.id)

    def _set_first(self) -> None:
        frame = self.desk.frame
        if frame is not None:
            self.desk.do(f"start with {frame.name}", lambda p: set_first(p, frame.id))
            self._show_choice()

    def rename(self, frame_id: str) -> None:
        """Ask for another name of a frame."""
        frame = frame_by_id(self.desk.project, frame_id)
        name, ok = QInputDialog.getText(self, "Rename frame", "Name", QLineEdit.EchoMode.Normal, frame.name)
        if ok:
            self.desk.do(f"rename {frame.name}", lambda p: rename_frame(p, frame_id, name))

    def remove(self) -> None:
        """Remove the chosen layer, or the chosen frame when no layer is chosen."""
        frame, layer = self.desk.frame, self.desk.layer
        if frame is None:
            return
        if layer is not None:
            self.desk.do(f"remove {layer.name}", lambda p: remove_layer(p, frame.id, layer.id))
        else:
            self.desk.do(f"remove frame {frame.name}", lambda p: remove_frame(p, frame.id))

    # Dropping files

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls()]
        if any(path.suffix.lower() in SCREEN_ENDINGS for path in paths):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.dropped.emit([Path(url.toLocalFile()) for url in event.mimeData().urls()])


def _below(item: QTreeWidgetItem) -> list[QTreeWidgetItem]:
    return [entry for child in children_of(item) for entry in (child, *_below(child))]


def _swatch(text: str) -> QIcon:
    pixmap = QPixmap(14, 14)
    pixmap.fill(QColor.fromRgbF(*colour.parse(text)))
    return QIcon(pixmap)
