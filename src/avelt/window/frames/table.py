"""The table of values: a row a property, a column a frame; cells are edited one by one or several at once."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPoint, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QAction, QColor, QIcon, QKeyEvent, QPainter, QPixmap
from PySide6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QHBoxLayout,
    QHeaderView,
    QMenu,
    QStyleOptionViewItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from avelt.core.blending import colour
from avelt.core.edits.values import Spot, copy_value
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import Choice, label
from avelt.window.controls.painted import TintDelegate
from avelt.window.frames.values import OPEN_CHOICES, PAINTS, SHOWN, ValueRow, frame_rows, set_many, value_rows

_DATA = Qt.ItemDataRole.UserRole
_CHOICES = Qt.ItemDataRole.UserRole + 1
_LABELS = 178  # px of the first column
HEIGHT = 226


class _Delegate(TintDelegate):
    """Cells with few possible values are chosen from a list."""

    def createEditor(
        self, parent: QWidget, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> QWidget:
        choices = index.data(_CHOICES)
        if not choices:
            return super().createEditor(parent, option, index)
        editor = QComboBox(parent)
        editor.addItems(list(choices))
        editor.setEditable(index.data(_DATA)[0] in OPEN_CHOICES)
        kept = QPersistentModelIndex(index)
        editor.activated.connect(lambda _: self._chosen(editor, kept))
        return editor

    def _chosen(self, editor: QComboBox, index: QPersistentModelIndex) -> None:
        """Close first: taking the value over fills the table anew, and the editor would be gone with it."""
        text = editor.currentText()
        self.closeEditor.emit(editor)
        if index.isValid():
            index.model().setData(index, text)

    def setEditorData(self, editor: QWidget, index: QModelIndex | QPersistentModelIndex) -> None:
        if isinstance(editor, QComboBox):
            editor.setCurrentText(str(index.data(Qt.ItemDataRole.DisplayRole)))
        else:
            super().setEditorData(editor, index)

    def setModelData(self, editor: QWidget, model: object, index: QModelIndex | QPersistentModelIndex) -> None:
        if isinstance(editor, QComboBox):
            model.setData(index, editor.currentText())  # type: ignore[attr-defined]
        else:
            super().setModelData(editor, model, index)  # type: ignore[arg-type]


class ValueTable(QWidget):
    """The panel's inside: a heading, what is shown, and the table."""

    colour_wanted = Signal(str, QPoint)  # row and where
    paint_row_changed = Signal(str)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.rows: tuple[ValueRow, ...] = ()
        self.title = label("", "heading")
        self.note = label(tr("tinted: differs from the frame to its left"), "quiet")
        self.show_which = Choice(
            (tr("In use"), tr("All"), tr("Differs")),
            (
                tr("Values that something was done to"),
                tr("Every value it can have"),
                tr("What is not the same in all frames"),
            ),
        )
        self.table = QTableWidget()
        self.table.verticalHeader().hide()
        self.table.horizontalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.table.setShowGrid(False)
        self.table.setItemDelegate(_Delegate(self.table))
        self.table.setAccessibleName(tr("Values frame by frame"))
        self.table.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.table.setEditTriggers(
            QAbstractItemView.EditTrigger.DoubleClicked
            | QAbstractItemView.EditTrigger.EditKeyPressed
            | QAbstractItemView.EditTrigger.AnyKeyPressed
        )
        heads = QHBoxLayout()
        heads.setContentsMargins(14, 0, 10, 0)
        heads.addWidget(self.title)
        heads.addStretch(1)
        heads.addWidget(self.note)
        heads.addSpacing(8)
        heads.addWidget(self.show_which)
        below = QVBoxLayout(self)
        below.setContentsMargins(0, 6, 0, 6)
        below.setSpacing(4)
        below.addLayout(heads)
        below.addWidget(self.table)
        self.table.itemChanged.connect(self._typed)
        self.table.currentItemChanged.connect(self._current)
        self.table.itemClicked.connect(self._clicked)
        self.table.customContextMenuRequested.connect(self._menu)
        self._which = 0
        self.show_which.picked.connect(self._remember)

    def _remember(self, place: int) -> None:
        self._which = place
        self.fill()

    def fill(self) -> None:
        """The chosen layer's values in every frame."""
        frame, layer = self.workspace.frame, self.workspace.layer
        here = self.table.currentItem()
        kept = here.data(_DATA) if here is not None else None
        blocker = QSignalBlocker(self.table)
        self.table.clear()
        self.show_which.setVisible(frame is not None and layer is not None)
        if frame is None or layer is None:
            self.title.setText(tr("Frames side by side. Choose a layer to see its values in every frame."))
            self.rows = frame_rows(self.workspace.project)
        else:
            more = len(self.workspace.chosen) - 1
            self.title.setText(
                tr("{layer} and {more} more, frame by frame: what is typed goes to all", layer=layer.name, more=more)
                if more
                else tr("{layer}, frame by frame", layer=layer.name)
            )
            self.rows = value_rows(self.workspace.project, frame, layer, SHOWN[self._which])
        self.table.setRowCount(len(self.rows))
        self.table.setColumnCount(1 + len(self.workspace.project.frames))
        self.table.setHorizontalHeaderLabels(["", *(entry.name for entry in self.workspace.project.frames)])
        for place in range(self.table.columnCount()):
            head = self.table.horizontalHeaderItem(place) or QTableWidgetItem()
            head.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Fixed)
        self.table.setColumnWidth(0, _LABELS)
        for r, row in enumerate(self.rows):
            self._fill_row(r, row)
        if kept is not None:
            self._come_back(kept)
        del blocker

    def _fill_row(self, r: int, row: ValueRow) -> None:
        theme = self.workspace.theme
        name = QTableWidgetItem(row.label)
        name.setFlags(Qt.ItemFlag.ItemIsEnabled)
        name.setData(Qt.ItemDataRole.ForegroundRole, theme.quiet)  # a brush would make Qt name all its gradients
        self.table.setItem(r, 0, name)
        self.table.setRowHeight(r, 25)
        for c, cell in enumerate(row.cells):
            item = QTableWidgetItem(cell.text)
            item.setData(_DATA, (row.name, cell.frame_id, cell.layer_id))
            item.setData(_CHOICES, row.choices)
            item.setToolTip(cell.text if len(cell.text) > 24 else "")
            if not cell.layer_id:
                item.setFlags(Qt.ItemFlag.ItemIsEnabled)
                if cell.text == "—":
                    item.setData(Qt.ItemDataRole.ForegroundRole, theme.quiet)
            if cell.differs:
                item.setData(Qt.ItemDataRole.BackgroundRole, theme.differs)
            if cell.swatch:
                item.setIcon(_swatch(cell.swatch, theme.line))
            self.table.setItem(r, c + 1, item)

    def _come_back(self, kept: tuple[str, str, str]) -> None:
        """The current cell stays where it was by what it means."""
        for r, row in enumerate(self.rows):
            for c, cell in enumerate(row.cells):
                if (row.name, cell.frame_id) == kept[:2]:
                    self.table.setCurrentCell(r, c + 1)
                    return

    # Doing

    def spots_for(self, item: QTableWidgetItem) -> list[Spot]:
        """Whose value is meant by a cell: the selected cells of its row, or all chosen layers in its frame."""
        name, frame_id, layer_id = item.data(_DATA)
        spots = [
            (other.data(_DATA)[1], other.data(_DATA)[2])
            for other in self.table.selectedItems()
            if other.data(_DATA) and other.data(_DATA)[0] == name and other.data(_DATA)[2]
        ]
        if (frame_id, layer_id) not in spots:
            spots = [(frame_id, layer_id)]
        if (frame_id, layer_id) in self.workspace.chosen and len(self.workspace.chosen) > 1:
            spots += [spot for spot in self.workspace.chosen if spot not in spots]
        return spots

    def _typed(self, item: QTableWidgetItem) -> None:
        data = item.data(_DATA)
        if not data or not data[2]:
            return
        self.set_text(item, item.text())

    def set_text(self, item: QTableWidgetItem, text: str) -> None:
        """A value for the cell, and for those that are meant with it."""
        name, spots = item.data(_DATA)[0], self.spots_for(item)
        value = name.replace("_", " ")
        words = tr("set {value} of {n} layers", "set {value}", len(spots), value=value)
        if not self.workspace.do(words, lambda p: set_many(p, spots, name, text)):
            self.fill()

    def take_over(self, item: QTableWidgetItem, targets: list[Spot], words: str) -> None:
        """The cell's value for other layers."""
        name, frame_id, layer_id = item.data(_DATA)
        self.workspace.do(
            f"{name.replace('_', ' ')} {words}", lambda p: copy_value(p, (frame_id, layer_id), targets, name)
        )

    def row_spots(self, item: QTableWidgetItem, after: bool = False) -> list[Spot]:
        """The other layers of a cell's row; ``after``: those to its right."""
        name, frame_id, _ = item.data(_DATA)
        row = next(row for row in self.rows if row.name == name)
        cells = list(row.cells)
        place = next(k for k, cell in enumerate(cells) if cell.frame_id == frame_id)
        return [(c.frame_id, c.layer_id) for c in (cells[place + 1 :] if after else cells) if c.layer_id]

    def _current(self, item: QTableWidgetItem | None, _: object = None) -> None:
        data = item.data(_DATA) if item is not None else None
        name = data[0] if data else ""
        self.paint_row_changed.emit(name if name in PAINTS else "")

    def _clicked(self, item: QTableWidgetItem) -> None:
        """A click on a swatch opens the colours."""
        data = item.data(_DATA)
        if not data or data[0] not in PAINTS or not data[2]:
            return
        rect = self.table.visualItemRect(item)
        point = self.table.viewport().mapFromGlobal(self.cursor().pos())
        if point.x() <= rect.left() + 26 and rect.contains(point):
            self.open_colours(item)

    def open_colours(self, item: QTableWidgetItem) -> None:
        """Ask for the colours of a cell."""
        rect = self.table.visualItemRect(item)
        self.table.setCurrentItem(item)
        self.colour_wanted.emit(item.data(_DATA)[0], self.table.viewport().mapToGlobal(rect.topLeft()))

    def _menu(self, point: QPoint) -> None:
        item = self.table.itemAt(point)
        menu = self.menu_for(item) if item is not None else None
        if menu is not None:
            menu.popup(self.table.viewport().mapToGlobal(point))

    def menu_for(self, item: QTableWidgetItem) -> QMenu | None:
        """What can be done with a cell."""
        data = item.data(_DATA)
        if not data or not data[2]:
            return None
        menu = QMenu(self.table)
        if data[0] in PAINTS:
            menu.addAction(self._action(menu, tr("Colours…"), lambda: self.open_colours(item)))
            menu.addSeparator()
        right = self.row_spots(item, after=True)
        entries = (
            (
                tr("Same in all frames"),
                lambda: self.take_over(item, self.row_spots(item), tr("same in all frames")),
                True,
            ),
            (
                tr("Copy along the row to the right"),
                lambda: self.take_over(item, right, tr("to the right")),
                bool(right),
            ),
        )
        for words, do, able in entries:
            action = self._action(menu, words, do)
            action.setEnabled(able)
            menu.addAction(action)
        return menu

    def _action(self, menu: QMenu, words: str, do: object) -> QAction:
        made = QAction(words, menu)
        made.triggered.connect(lambda _=False: do())  # type: ignore[operator]
        return made

    def keyPressEvent(self, event: QKeyEvent) -> None:
        item = self.table.currentItem()
        held = event.modifiers()
        if item is not None and item.data(_DATA) and item.data(_DATA)[2] and held & Qt.KeyboardModifier.AltModifier:
            if event.key() == Qt.Key.Key_Down and item.data(_DATA)[0] in PAINTS:
                self.open_colours(item)
                return
            if event.key() == Qt.Key.Key_Right:
                self.take_over(item, self.row_spots(item, after=True), tr("to the right"))
                return
        super().keyPressEvent(event)


def _swatch(text: str, edge: QColor) -> QIcon:
    pixmap = QPixmap(28, 28)
    pixmap.setDevicePixelRatio(2)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setPen(edge)
    painter.setBrush(QColor.fromRgbF(*colour.parse(text)))
    painter.drawRoundedRect(0.5, 0.5, 13, 13, 3, 3)  # type: ignore[call-overload]
    painter.end()
    return QIcon(pixmap)
