"""A list of layers to choose one from, set in by how deep they lie."""

from __future__ import annotations

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QComboBox, QStyledItemDelegate, QStyleOptionViewItem

from avelt.core.model.values import Layer

_DEPTH = Qt.ItemDataRole.UserRole + 1


def with_depth(layers: tuple[Layer, ...], depth: int = 0) -> list[tuple[Layer, int]]:
    """Layers from the topmost down, each with how deep it lies."""
    found: list[tuple[Layer, int]] = []
    for layer in reversed(layers):
        found.append((layer, depth))
        found += with_depth(layer.children, depth + 1)
    return found


class DepthDelegate(QStyledItemDelegate):
    """Names in an open list, set in by how deep their layers lie."""

    def paint(
        self, painter: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        depth = index.data(_DEPTH)
        if depth:
            option.rect.adjust(12 * int(depth), 0, 0, 0)
        super().paint(painter, option, index)


def add_layers(pick: QComboBox, layers: tuple[Layer, ...], but: str = "") -> None:
    """All layers into a list (data: their ids), the topmost first; ``but`` one."""
    if not isinstance(pick.itemDelegate(), DepthDelegate):
        pick.setItemDelegate(DepthDelegate(pick))
    for layer, depth in with_depth(layers):
        if layer.id != but:
            pick.addItem(layer.name or layer.kind, layer.id)
            pick.setItemData(pick.count() - 1, depth, _DEPTH)
