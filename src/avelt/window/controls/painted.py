"""Standard controls whose marks are painted in our own hand: ticks, choosers, trees."""

from __future__ import annotations

from PySide6 import QtWidgets
from PySide6.QtCore import QEvent, QModelIndex, QPersistentModelIndex, QPointF, QRect, QRectF, Qt
from PySide6.QtGui import QColor, QHelpEvent, QPainter, QPaintEvent, QPalette, QPen, QPolygonF
from PySide6.QtWidgets import (
    QAbstractScrollArea,
    QCheckBox,
    QComboBox,
    QStyledItemDelegate,
    QTreeWidget,
    QTreeWidgetItem,
    QWidget,
)


class Tick(QCheckBox):
    """A check box with a tick in it."""

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        if not self.isChecked():
            return
        option = QtWidgets.QStyleOptionButton()
        self.initStyleOption(option)
        box = self.style().subElementRect(QtWidgets.QStyle.SubElement.SE_CheckBoxIndicator, option, self)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self.palette().color(QPalette.ColorRole.Base), 1.8))
        c = QPointF(box.center()) + QPointF(0.5, 0.5)
        painter.drawPolyline(QPolygonF([c + QPointF(-3.2, 0.2), c + QPointF(-0.9, 2.6), c + QPointF(3.4, -2.6)]))


_BESIDE = 30  # px of a choice beside its words


class Pick(QComboBox):
    """A choice of one, with a small arrow. Words that have no room end in dots, and the tip says them whole."""

    def is_short(self) -> bool:
        """Whether the chosen words have no room."""
        return self.fontMetrics().horizontalAdvance(self.currentText()) > self.width() - _BESIDE

    def initStyleOption(self, option: QtWidgets.QStyleOptionComboBox) -> None:
        super().initStyleOption(option)
        if self.is_short():
            room = max(0, self.width() - _BESIDE)
            elided = self.fontMetrics().elidedText(self.currentText(), Qt.TextElideMode.ElideRight, room)
            option.currentText = elided  # type: ignore[attr-defined]

    def event(self, event: QEvent) -> bool:
        if event.type() == QEvent.Type.ToolTip and self.is_short() and isinstance(event, QHelpEvent):
            tip = "\n".join(words for words in (self.currentText(), self.toolTip()) if words)
            QtWidgets.QToolTip.showText(event.globalPos(), tip, self)
            return True
        return super().event(event)

    def paintEvent(self, event: QPaintEvent) -> None:
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(self.palette().color(QPalette.ColorRole.PlaceholderText), 1.5))
        x, y = self.width() - 14.0, self.height() / 2
        painter.drawPolyline(QPolygonF([QPointF(x - 3.5, y - 1.8), QPointF(x, y + 1.8), QPointF(x + 3.5, y - 1.8)]))


def own_viewport(area: QAbstractScrollArea) -> None:
    """What a scrolled view shows its things on, made here. Asked for one that Qt made, PySide6 looks for its type among
    all widgets that there are, and makes the types of all of them: that is felt as a window opens."""
    made = QWidget()
    made.setBackgroundRole(QPalette.ColorRole.Base)
    made.setAutoFillBackground(True)
    area.setViewport(made)


class Tree(QTreeWidget):
    """A tree with small triangles before what can be opened."""

    def __init__(self) -> None:
        super().__init__()
        own_viewport(self)

    def drawBranches(self, painter: QPainter, rect: QRect, index: QModelIndex | QPersistentModelIndex) -> None:
        super().drawBranches(painter, rect, index)
        item = self.itemFromIndex(index)
        if item is None or not item.childCount():
            return
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(self.palette().color(QPalette.ColorRole.PlaceholderText))
        x, y = rect.right() - 6.0, rect.center().y() + 0.5
        opened = [(-4, -2), (4, -2), (0, 3)]
        closed = [(-2, -4), (3, 0), (-2, 4)]
        painter.drawPolygon(
            QPolygonF([QPointF(x + a, y + b) for a, b in (opened if self.isExpanded(index) else closed)])
        )
        painter.restore()

    def show_current(self, item: QTreeWidgetItem | None) -> None:
        """Choose an item, or none."""
        if item is None:
            self.clearSelection()
            self.setCurrentIndex(QModelIndex())
        else:
            self.setCurrentItem(item)
            self.scrollToItem(item)


class TintDelegate(QStyledItemDelegate):
    """Cells that show their own tint, which a style sheet would leave out."""

    def paint(
        self, painter: QPainter, option: QtWidgets.QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        tint = index.data(Qt.ItemDataRole.BackgroundRole)
        if isinstance(tint, QColor):
            painter.save()
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(tint)
            painter.drawRoundedRect(QRectF(option.rect).adjusted(1, 1, -8, -1), 5, 5)
            painter.restore()
        super().paint(painter, option, index)


class TickDelegate(QStyledItemDelegate):
    """List rows with a tick box in our own hand."""

    def paint(
        self, painter: QPainter, option: QtWidgets.QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex
    ) -> None:
        super().paint(painter, option, index)
        state = index.data(Qt.ItemDataRole.CheckStateRole)
        if state is None or not option.widget:
            return
        self.initStyleOption(option, index)
        box = option.widget.style().subElementRect(
            QtWidgets.QStyle.SubElement.SE_ItemViewItemCheckIndicator, option, option.widget
        )
        palette = option.widget.palette()
        on = Qt.CheckState(state) == Qt.CheckState.Checked
        painter.save()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        ink, paper = palette.color(QPalette.ColorRole.Text), palette.color(QPalette.ColorRole.Base)
        painter.setPen(QPen(ink if on else palette.color(QPalette.ColorRole.PlaceholderText), 1.0))
        painter.setBrush(ink if on else paper)
        c = QPointF(box.center()) + QPointF(0.5, 0.5)
        painter.drawRoundedRect(QRectF(c.x() - 7, c.y() - 7, 14, 14), 3, 3)
        if on:
            painter.setPen(QPen(paper, 1.8))
            painter.drawPolyline(QPolygonF([c + QPointF(-3.2, 0.2), c + QPointF(-0.9, 2.6), c + QPointF(3.4, -2.6)]))
        painter.restore()


def children_of(item: QTreeWidgetItem) -> list[QTreeWidgetItem]:
    """The items right inside an item."""
    found = (item.child(k) for k in range(item.childCount()))
    return [child for child in found if child is not None]
