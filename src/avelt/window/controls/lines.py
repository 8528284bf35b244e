"""A row of controls that goes on in a second line where it has no room: words are longer in other languages."""

from __future__ import annotations

from PySide6.QtCore import QMargins, QPoint, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QSizePolicy, QSpacerItem, QWidget, QWidgetItem


class Lines(QLayout):
    """Controls beside each other, in as many lines as they need. ``gap`` keeps what comes after it at the right edge
    as long as all have room in one line. What ignores its own width (a hint) takes what is left, and makes no line."""

    def __init__(self, parent: QWidget | None = None, spacing: int = 6, between: int = 4) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._gaps: set[int] = set()
        self._between = between
        self.setSpacing(spacing)

    # Filling it

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)

    def add_space(self, wide: int) -> None:
        """Nothing, so wide; none at the start of a line."""
        self.addItem(QSpacerItem(wide, 0, QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Minimum))

    def add_gap(self) -> None:
        """What comes after it stands at the right edge."""
        self._gaps.add(len(self._items))

    # What Qt asks

    def count(self) -> int:
        return len(self._items)

    def itemAt(self, index: int) -> QLayoutItem | None:  # type: ignore[override]
        return self._items[index] if 0 <= index < len(self._items) else None

    def takeAt(self, index: int) -> QLayoutItem | None:  # type: ignore[override]
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:  # type: ignore[override]
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._place(QRect(0, 0, width, 0), test=True)

    def sizeHint(self) -> QSize:
        shown = self._shown()
        wide = sum(_wide(item) for _, item in shown) + self.spacing() * max(0, len(shown) - 1)
        high = max((item.sizeHint().height() for _, item in shown), default=0)
        margins: QMargins = self.contentsMargins()
        return QSize(wide + margins.left() + margins.right(), high + margins.top() + margins.bottom())

    def minimumSize(self) -> QSize:
        size = QSize()
        for _, item in self._shown():
            size = size.expandedTo(item.minimumSize())
        margins: QMargins = self.contentsMargins()
        return size + QSize(margins.left() + margins.right(), margins.top() + margins.bottom())

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._place(rect, test=False)

    # Placing

    def _shown(self) -> list[tuple[int, QLayoutItem]]:
        return [(k, item) for k, item in enumerate(self._items) if item.spacerItem() is not None or not item.isEmpty()]

    def _lines(self, wide: int) -> list[list[tuple[int, QLayoutItem]]]:
        lines: list[list[tuple[int, QLayoutItem]]] = [[]]
        shown, x = self._shown(), 0
        parts = sum(_wide(item) + self.spacing() for _, item in shown) - self.spacing() > wide
        for place, item in shown:
            w = _wide(item)
            if lines[-1] and (x + w > wide or (parts and place in self._gaps)):
                lines.append([])
                x = 0
            if not lines[-1] and isinstance(item, QSpacerItem):
                continue
            lines[-1].append((place, item))
            x += w + self.spacing()
        return lines

    def _place(self, rect: QRect, test: bool) -> int:
        margins = self.contentsMargins()
        room = rect.marginsRemoved(margins)
        lines = self._lines(room.width())
        y = room.top()
        for line in lines:
            high = max((item.sizeHint().height() for _, item in line), default=0)
            rest = room.width() - sum(_wide(item) for _, item in line) - self.spacing() * max(0, len(line) - 1)
            rest, x = max(0, rest), room.left()
            for k, (place, item) in enumerate(line):
                if k and any(line[k - 1][0] < gap <= place for gap in self._gaps):
                    x, rest = x + rest, 0
                size = item.sizeHint()
                if _takes_rest(item):
                    size, rest = QSize(rest, size.height()), 0
                if not test and isinstance(item, QWidgetItem):
                    item.setGeometry(QRect(QPoint(x, y + (high - size.height()) // 2), size))
                x += size.width() + self.spacing()
            y += high + self._between
        return y - self._between - rect.top() + margins.bottom()


def _takes_rest(item: QLayoutItem) -> bool:
    widget = item.widget()
    return widget is not None and widget.sizePolicy().horizontalPolicy() == QSizePolicy.Policy.Ignored


def _wide(item: QLayoutItem) -> int:
    return 0 if _takes_rest(item) else item.sizeHint().width()
