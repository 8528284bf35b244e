"""A frame's layers as the side of a pairing: who has a partner, who leaves or enters and how, and dragging to pair."""

from __future__ import annotations

from collections.abc import Collection

from PySide6.QtCore import (
    QEvent,
    QItemSelectionModel,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    QPoint,
    QPointF,
    QRect,
    QSignalBlocker,
    Qt,
    Signal,
)
from PySide6.QtGui import QMouseEvent, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTreeWidgetItem,
)

from avelt.core.model.values import Frame, Layer, Transition
from avelt.core.pairing.engine import Pairing
from avelt.core.timing.leave_enter import short_words, words_of
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.painted import Tree
from avelt.window.pairs.ghosts import pose_of

_ID = Qt.ItemDataRole.UserRole
_WORDS, _TINT = Qt.ItemDataRole.UserRole + 1, Qt.ItemDataRole.UserRole + 2


class SideWords(QStyledItemDelegate):
    """A row's name, and a word or two at its right end for which the name makes room."""

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        words = str(index.data(_WORDS) or "")
        if not words:
            super().paint(painter, option, index)
            return
        wide = option.fontMetrics.horizontalAdvance(words) + 12
        whole = QRect(option.rect)
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(whole, option.palette.highlight())
        option.rect = whole.adjusted(0, 0, -wide, 0)
        super().paint(painter, option, index)
        painter.setPen(index.data(_TINT))
        painter.drawText(
            whole.adjusted(0, 0, -6, 0), Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, words
        )


class PairTree(Tree):
    """The tree of one side ("from" or "to")."""

    picked = Signal(object, str)  # the ids of all chosen layers, and of the one that is shown in full
    dropped = Signal(str, QPoint)  # a layer that was dragged out of the tree, and where on the screen

    def __init__(self, workspace: Workspace, side: str, name: str) -> None:
        super().__init__()
        self.workspace, self.side = workspace, side
        self._items: dict[str, QTreeWidgetItem] = {}
        self._pressed: tuple[str, QPointF] | None = None
        self.setHeaderHidden(True)
        self.setIndentation(11)
        self.setAccessibleName(name)
        self.setItemDelegate(SideWords(self))
        self.viewport().installEventFilter(self)
        self.setSelectionMode(QAbstractItemView.SelectionMode.ExtendedSelection)
        self.itemSelectionChanged.connect(self._tell)

    def _tell(self) -> None:
        ids = self.selected()
        item = self.currentItem()
        current = str(item.data(0, _ID)) if item is not None else ""
        if ids:
            self.picked.emit(ids, current if current in ids else ids[-1])

    def selected(self) -> tuple[str, ...]:
        """The ids of the chosen layers, as they are listed."""
        return tuple(ident for ident, item in self._items.items() if item.isSelected())

    def fill(self, frame: Frame, pairing: Pairing, transition: Transition) -> None:
        """Show a frame's layers, the topmost first."""
        known = pairing.to_of if self.side == "from" else pairing.from_of
        other = pairing.right if self.side == "from" else pairing.left
        sure = {(p.from_id if self.side == "from" else p.to_id): p.confidence for p in pairing.pairs}
        names = {layer.id: layer.name for layer in other.flat.layers}
        alone = set(pairing.leaves if self.side == "from" else pairing.enters)
        theme = self.workspace.theme
        opened = {ident for ident, item in self._items.items() if item.isExpanded()} if self._items else None
        blocker = QSignalBlocker(self)
        self.clear()
        self._items = {}
        holds = _holding(frame.layers, set(known))

        def add(parent: QTreeWidgetItem, layer: Layer, inside: bool) -> None:
            partner = known.get(layer.id)
            words = tip = ""
            pose, own = pose_of(transition, layer.id, self.side == "from")
            if partner is None and (own or not inside):
                words, tip = short_words(pose, self.side == "from"), words_of(pose, self.side == "from")
            elif partner is not None and sure[layer.id] < self.workspace.trust:
                words = f"{sure[layer.id]:.2f}"
            item = QTreeWidgetItem(parent, [layer.name or layer.kind])
            item.setData(0, _ID, layer.id)
            item.setData(0, _WORDS, words)
            if partner:
                says = tr("pairs with {names}", names=names[partner])
            else:
                leaves = self.side == "from"
                if tip:
                    says = ": ".join((tr("leaves") if leaves else tr("enters"), tip))
                else:
                    says = tr("leaves with its group") if leaves else tr("enters with its group")
            item.setToolTip(0, f"{layer.name} ({tr(layer.kind)}), {says}")
            if partner is None:
                item.setForeground(0, theme.quiet)
                item.setData(0, _TINT, theme.leaves_text if self.side == "from" else theme.arrives_text)
            else:
                item.setData(0, _TINT, theme.trouble)
            self._items[layer.id] = item
            for child in reversed(layer.children):
                add(item, child, inside or layer.id in alone)
            item.setExpanded(layer.id in opened if opened is not None else layer.id in holds)

        for layer in reversed(frame.layers):
            add(self.invisibleRootItem(), layer, False)
        del blocker

    def show_layers(self, ids: Collection[str], layer_id: str) -> None:
        """Choose layers, one of them to be shown in full, without telling anyone."""
        blocker = QSignalBlocker(self)
        item = self._items.get(layer_id)
        if set(self.selected()) != set(ids):
            self.clearSelection()
            for ident in ids:
                if ident in self._items:
                    self._items[ident].setSelected(True)
        index = self.indexFromItem(item) if item is not None else QModelIndex()
        self.selectionModel().setCurrentIndex(index, QItemSelectionModel.SelectionFlag.NoUpdate)
        if item is not None:
            self.scrollToItem(item)
        del blocker
        self.viewport().update()

    def row_middle(self, layer_id: str) -> QPoint | None:
        """Where a layer's row stands on the screen; that of the group it is folded into; ``None`` out of sight."""
        item = self._items.get(layer_id)
        if item is None:
            return None
        for up in _above(item):
            if not up.isExpanded():
                item = up
        rect = self.visualItemRect(item)
        if rect.isEmpty() or not self.viewport().rect().contains(rect.center()):
            return None
        return self.viewport().mapToGlobal(rect.center())

    def layer_at(self, where: QPoint) -> str:
        """The layer of the row at a point of the screen, or nothing."""
        point = self.viewport().mapFromGlobal(where)
        item = self.itemAt(point) if self.viewport().rect().contains(point) else None
        return str(item.data(0, _ID)) if item is not None else ""

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        if isinstance(event, QMouseEvent) and watched is self.viewport():
            if event.type() == QEvent.Type.MouseButtonPress and event.button() == Qt.MouseButton.LeftButton:
                item = self.itemAt(event.position().toPoint())
                self._pressed = (str(item.data(0, _ID)), event.position()) if item is not None else None
            elif event.type() == QEvent.Type.MouseMove and self._pressed is not None:
                far = (event.position() - self._pressed[1]).manhattanLength() >= QApplication.startDragDistance()
                self.viewport().setCursor(Qt.CursorShape.DragLinkCursor if far else Qt.CursorShape.ArrowCursor)
                return bool(far)  # a drag chooses no other rows on its way
            elif event.type() == QEvent.Type.MouseButtonRelease and self._pressed is not None:
                pressed, self._pressed = self._pressed, None
                self.viewport().unsetCursor()
                if not self.viewport().rect().contains(event.position().toPoint()):
                    self.dropped.emit(pressed[0], event.globalPosition().toPoint())
        return bool(super().eventFilter(watched, event))

    def open_around(self, layer_id: str) -> None:
        """Unfold the groups that a layer lies in."""
        item = self._items.get(layer_id)
        for up in _above(item) if item is not None else ():
            up.setExpanded(True)


def _above(item: QTreeWidgetItem) -> list[QTreeWidgetItem]:
    """The items that an item lies in, the nearest first."""
    found: list[QTreeWidgetItem] = []
    up = item.parent()
    while up is not None:
        found.append(up)
        up = up.parent()
    return found


def _holding(layers: tuple[Layer, ...], known: set[str]) -> set[str]:
    """Groups in which something has a partner."""
    found: set[str] = set()

    def look(layer: Layer) -> bool:
        inside = [look(child) for child in layer.children]
        if any(inside):
            found.add(layer.id)
        return layer.id in known or any(inside)

    for layer in layers:
        look(layer)
    return found
