"""The layers of a frame: searched, chosen, renamed, hidden, locked, and dragged into another order."""

from __future__ import annotations

from collections import Counter
from typing import cast

from PySide6.QtCore import QEvent, QPoint, QPointF, QRect, QRectF, QSignalBlocker, Qt, Signal
from PySide6.QtGui import QBrush, QDropEvent, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QLineEdit, QTreeWidgetItem, QVBoxLayout, QWidget

from avelt.core.edits.layers import set_value
from avelt.core.edits.structure import children_of as layers_in
from avelt.core.edits.structure import move_layers
from avelt.core.model.find import by_identity, walk
from avelt.core.model.kinds import mask_of
from avelt.core.model.values import Frame, Group, Layer, Use
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.painted import Tree, children_of
from avelt.window.frames import layer_commands
from avelt.window.theme import font

_ID = Qt.ItemDataRole.UserRole
_SIGNS = 40  # px at the right of a row, for the two signs
_MASKED = tr("masks")


class LayerTree(Tree):
    """The tree widget: rows are layers, the topmost first, with a sign for hidden and one for locked."""

    sign_clicked = Signal(str, str)  # layer id, "hidden" or "locked"
    removal_wanted = Signal()
    moved = Signal(list, str, int)  # layer ids, parent id, place among its children

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.setHeaderHidden(True)
        self.setIndentation(14)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.setEditTriggers(QAbstractItemView.EditTrigger.EditKeyPressed | QAbstractItemView.EditTrigger.DoubleClicked)
        self.header().setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        self.setMouseTracking(True)
        self.setAccessibleName(tr("Layers"))

    def mousePressEvent(self, event: QMouseEvent) -> None:
        item = self.itemAt(event.position().toPoint())
        sign = self._sign_at(event.position().toPoint()) if item is not None else ""
        if item is not None and sign and event.button() == Qt.MouseButton.LeftButton:
            self.sign_clicked.emit(item.data(0, _ID), sign)
            return
        super().mousePressEvent(event)

    def _sign_at(self, point: QPoint) -> str:
        right = self.viewport().width()
        if point.x() >= right - _SIGNS // 2:
            return "locked"
        return "hidden" if point.x() >= right - _SIGNS else ""

    def viewportEvent(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip:
            point = event.pos()  # type: ignore[attr-defined]
            sign = self._sign_at(point)
            tips = {"hidden": tr("Hide or show (Ctrl+H)"), "locked": tr("Lock or unlock (Ctrl+L)")}
            self.viewport().setToolTip(tips.get(sign, ""))
        return super().viewportEvent(event)

    def drawRow(self, painter: QPainter, option: object, index: object) -> None:
        super().drawRow(painter, option, index)  # type: ignore[arg-type]
        layer = cast("Layer | None", index.data(_ID + 1))  # type: ignore[attr-defined]
        rect: QRect = option.rect  # type: ignore[attr-defined]
        if layer is None:
            return
        under = self.viewport().mapFromGlobal(self.cursor().pos())
        hovered = rect.contains(under) and self.underMouse()
        right = self.viewport().width()
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        among = index.data(_ID + 2)  # type: ignore[attr-defined]
        if among and not (layer.hidden or hovered):
            painter.setFont(font(10))
            painter.setPen(self.workspace.theme.quiet)
            place = QRectF(right - 70, rect.top(), 44 if layer.locked else 64, rect.height())
            painter.drawText(place, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, among)
        if layer.hidden or hovered:
            self._draw_eye(painter, QPointF(right - _SIGNS + 10, rect.center().y() + 0.5), layer.hidden)
        if layer.locked or hovered:
            self._draw_lock(painter, QPointF(right - 10, rect.center().y() + 0.5), layer.locked)
        painter.restore()

    def _draw_eye(self, painter: QPainter, at: QPointF, hidden: bool) -> None:
        theme = self.workspace.theme
        painter.setPen(QPen(theme.ink if hidden else theme.quiet, 1.3))
        path = QPainterPath(at + QPointF(-6, 0))
        path.quadTo(at + QPointF(0, -7), at + QPointF(6, 0))
        path.quadTo(at + QPointF(0, 7), at + QPointF(-6, 0))
        painter.drawPath(path)
        if hidden:
            painter.drawLine(at + QPointF(-5, 5), at + QPointF(5, -5))
        else:
            painter.drawEllipse(at, 1.7, 1.7)

    def _draw_lock(self, painter: QPainter, at: QPointF, locked: bool) -> None:
        theme = self.workspace.theme
        painter.setPen(QPen(theme.ink if locked else theme.quiet, 1.3))
        painter.setBrush(theme.ink if locked else Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(at.x() - 4, at.y() - 1, 8, 6), 1.2, 1.2)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        shift = 0 if locked else 3
        painter.drawArc(QRectF(at.x() - 2.5 + shift, at.y() - 5.5, 5, 8), 0, 180 * 16)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        super().mouseMoveEvent(event)
        self.viewport().update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.removal_wanted.emit()
            return
        super().keyPressEvent(event)

    def dropEvent(self, event: QDropEvent) -> None:
        """Say where the rows were dropped; the tree itself is filled anew from the project."""
        target = self.itemAt(event.position().toPoint())
        where = self.dropIndicatorPosition()
        ids = [item.data(0, _ID) for item in self.selectedItems()]
        event.setDropAction(Qt.DropAction.IgnoreAction)
        event.accept()
        if ids:
            self.drop_rows(ids, target, where)

    def drop_rows(
        self, ids: list[str], target: QTreeWidgetItem | None, where: QAbstractItemView.DropIndicatorPosition
    ) -> None:
        """Rows onto, above or below another row: above in the list is above in paint order."""
        kinds = QAbstractItemView.DropIndicatorPosition
        if target is None:
            self.moved.emit(ids, "", 0)
            return
        layer = target.data(0, _ID + 1)
        if where == kinds.OnItem and isinstance(layer.body, Group):
            self.moved.emit(ids, layer.id, len(layer.body.children))
            return
        up = target.parent()
        parent = up.data(0, _ID) if up is not None else ""
        frame = self.workspace.frame
        if frame is None:
            return
        order = [entry.id for entry in layers_in(frame, parent)]
        self.moved.emit(ids, parent, order.index(layer.id) + (0 if where == kinds.BelowItem else 1))


class TreePanel(QWidget):
    """The search field over the tree; what is done there is done to the project."""

    menu_wanted = Signal(QPoint)

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self._names: Counter[str] = Counter()
        self._parts: dict[str, str] = {}  # their names by id
        self._nth: Counter[str] = Counter()
        self._rows: dict[str, QTreeWidgetItem] = {}
        self._shown = ""
        self._listing: tuple[object, ...] = ()
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Search layers"))
        self.search.setClearButtonEnabled(True)
        self.tree = LayerTree(workspace)
        self.tree.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        inside = QVBoxLayout(self)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addWidget(self.search)
        inside.addWidget(self.tree)
        self.search.textChanged.connect(self._filter)
        self.tree.itemSelectionChanged.connect(self._picked)
        self.tree.itemChanged.connect(self._renamed)
        self.tree.sign_clicked.connect(lambda layer_id, name: layer_commands.flip_flag(workspace, name, layer_id))
        self.tree.moved.connect(self._move)
        self.tree.customContextMenuRequested.connect(
            lambda point: self.menu_wanted.emit(self.tree.viewport().mapToGlobal(point))
        )

    # Showing

    def outdated(self) -> bool:
        """Whether the list is another one than that of the frame as it is: an edit of values alone leaves it."""
        frame = self.workspace.frame
        return listing(frame) != self._listing if frame is not None else bool(self._listing)

    def fill(self) -> None:
        """The chosen frame's layers."""
        blocker = QSignalBlocker(self.tree)
        opened = {item.data(0, _ID) for item in self.items() if item.isExpanded()}
        self.tree.clear()
        frame = self.workspace.frame
        self._listing = listing(frame) if frame is not None else ()
        self._rows.clear()
        self._shown = frame.id if frame is not None else ""
        if frame is not None:
            self._parts = {part.id: part.name for part in self.workspace.project.parts}
            self._names = Counter(layer.name for layer in walk(frame.layers))
            self._nth.clear()
            for layer in reversed(frame.layers):
                self._add(self.tree.invisibleRootItem(), layer, opened, "")
        self._filter(self.search.text())
        del blocker
        self.show_choice()

    def _add(self, parent: QTreeWidgetItem, layer: Layer, opened: set[object], mask: str) -> None:
        item = QTreeWidgetItem(parent, [layer.name])
        self._rows[layer.id] = item
        item.setData(0, _ID, layer.id)
        item.setData(0, _ID + 1, layer)
        signs = [word for word, on in ((tr("hidden"), layer.hidden), (tr("locked"), layer.locked)) if on]
        signs += [_MASKED] if layer.id == mask else []
        if self._names[layer.name] > 1:
            self._nth[layer.name] += 1
            item.setData(0, _ID + 2, tr("{nth} of {count}", nth=self._nth[layer.name], count=self._names[layer.name]))
            signs.append(tr("{n} layers have this name", "{n} layer has this name", self._names[layer.name]))
        kind = tr(layer.kind)
        if isinstance(layer.body, Use):
            part = self._parts.get(layer.body.part, "")
            kind = tr("part {part}", part=part) if part else tr("a part that is not there any more")
            item.setData(0, _ID + 2, item.data(0, _ID + 2) or tr("part"))
        item.setToolTip(0, ", ".join([layer.name, kind, *signs]))
        flags = item.flags() | Qt.ItemFlag.ItemIsEditable
        if not isinstance(layer.body, Group):
            flags &= ~Qt.ItemFlag.ItemIsDropEnabled
        item.setFlags(flags)
        if layer.hidden:
            item.setForeground(0, QBrush(self.workspace.theme.quiet))
        if layer.id == mask:
            face = item.font(0)
            face.setItalic(True)
            item.setFont(0, face)
        own = layer.body.mask if isinstance(layer.body, Group) else ""
        for child in reversed(layer.children):
            self._add(item, child, opened, own)
        item.setExpanded(layer.id in opened)

    def items(self) -> list[QTreeWidgetItem]:
        """Every row."""
        found: list[QTreeWidgetItem] = []
        stack = [self.tree.topLevelItem(k) for k in range(self.tree.topLevelItemCount())]
        while stack:
            item = stack.pop()
            if item is not None:
                found.append(item)
                stack += children_of(item)
        return found

    def show_choice(self) -> None:
        """Mark the chosen layers; the main one comes into sight."""
        blocker = QSignalBlocker(self.tree)
        chosen = set(self.workspace.chosen_here)
        layer = self.workspace.layer
        self.tree.show_current(self._rows.get(layer.id) if layer is not None else None)
        for item in self.tree.selectedItems():
            if item.data(0, _ID) not in chosen:
                item.setSelected(False)
        for ident in chosen & self._rows.keys():
            self._rows[ident].setSelected(True)
        del blocker

    def shows(self, frame_id: str) -> bool:
        """Whether the rows are those of a frame."""
        return self._shown == frame_id

    def _filter(self, text: str) -> None:
        wanted = text.casefold().strip()

        def visit(item: QTreeWidgetItem, above: bool) -> bool:
            own = not wanted or wanted in item.text(0).casefold()
            inside = [visit(child, above or own) for child in children_of(item)]
            shown = own or above or any(inside)
            item.setHidden(not shown)
            if wanted and any(inside):
                item.setExpanded(True)
            return own or any(inside)

        for k in range(self.tree.topLevelItemCount()):
            item = self.tree.topLevelItem(k)
            if item is not None:
                visit(item, False)

    # Doing

    def _picked(self) -> None:
        frame = self.workspace.frame
        if frame is None:
            return
        ids = [item.data(0, _ID) for item in self.tree.selectedItems()]
        current = self.tree.currentItem()
        main = current.data(0, _ID) if current is not None else ""
        if main in ids:
            ids.remove(main)
            ids.append(main)
        self.workspace.choose_several([(frame.id, ident) for ident in ids])

    def rename_chosen(self) -> None:
        """Edit the chosen row's name in place."""
        item = self.tree.currentItem()
        if item is not None:
            self.tree.setFocus()
            self.tree.editItem(item, 0)

    def _renamed(self, item: QTreeWidgetItem, _: int) -> None:
        frame, ident, name = self.workspace.frame, item.data(0, _ID), item.text(0).strip()
        layer = item.data(0, _ID + 1)
        if frame is None or layer is None or name == layer.name:
            return
        if not name:
            self.fill()
            return
        self.workspace.do(tr("rename {layer}", layer=layer.name), lambda p: set_value(p, frame.id, ident, "name", name))

    def _move(self, ids: list[str], parent: str, place: int) -> None:
        frame = self.workspace.frame
        if frame is not None:
            self.workspace.do(
                tr("move {count} in the tree", count=len(ids)), lambda p: move_layers(p, frame.id, ids, parent, place)
            )
            self.fill()


def _listing_of(frame: Frame) -> tuple[object, ...]:
    return tuple((x.id, x.name, x.kind, x.hidden, x.locked, mask_of(x), len(x.children)) for x in walk(frame.layers))


#: All that the list shows of a frame's layers, remembered by the frame's identity.
listing = by_identity(_listing_of)
