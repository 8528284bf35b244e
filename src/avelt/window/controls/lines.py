"""A row of controls that goes on in a second line where it has no room: words are longer in other languages."""

from __future__ import annotations

from PySide6.QtCore import QMargins, QRect, QSize, Qt
from PySide6.QtWidgets import QLayout, QLayoutItem, QSizePolicy, QSpacerItem, QWidget, QWidgetItem

from avelt.core.record import Record


class _Shown(Record, frozen=True):
    place: int
    item: QLayoutItem
    wide: int  # 0 when it takes what is left
    high: int
    takes_rest: bool


class Lines(QLayout):
    """Controls beside each other, in as many lines as they need. ``gap`` keeps what comes after it at the right edge
    as long as all have room in one line. What ignores its own width (a hint) takes what is left, and makes no line."""

    def __init__(self, parent: QWidget | None = None, spacing: int = 6, between: int = 4) -> None:
        super().__init__(parent)
        self._items: list[QLayoutItem] = []
        self._gaps: set[int] = set()
        self._measured: list[_Shown] | None = None
        self._between = between
        self.setSpacing(spacing)

    # Filling it

    def addItem(self, item: QLayoutItem) -> None:
        self._items.append(item)
        self._measured = None

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
        self._measured = None
        return self._items.pop(index) if 0 <= index < len(self._items) else None

    def expandingDirections(self) -> Qt.Orientation:  # type: ignore[override]
        return Qt.Orientation(0)

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._place(QRect(0, 0, width, 0), test=True)

    def invalidate(self) -> None:
        self._measured = None
        super().invalidate()

    def sizeHint(self) -> QSize:
        shown = self._shown()
        wide = sum(item.wide for item in shown) + self.spacing() * max(0, len(shown) - 1)
        high = max((item.high for item in shown), default=0)
        margins: QMargins = self.contentsMargins()
        return QSize(wide + margins.left() + margins.right(), high + margins.top() + margins.bottom())

    def minimumSize(self) -> QSize:
        size = QSize()
        for shown in self._shown():
            size = size.expandedTo(shown.item.minimumSize())
        margins: QMargins = self.contentsMargins()
        return size + QSize(margins.left() + margins.right(), margins.top() + margins.bottom())

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._place(rect, test=False)

    # Placing

    def _shown(self) -> list[_Shown]:
        """What is seen, measured once until Qt says that something changed."""
        if self._measured is None:
            self._measured = [
                _measured(place, item)
                for place, item in enumerate(self._items)
                if item.spacerItem() is not None or not item.isEmpty()
            ]
        return self._measured

    def _lines(self, wide: int) -> list[list[_Shown]]:
        lines: list[list[_Shown]] = [[]]
        shown, x, spacing = self._shown(), 0, self.spacing()
        parts = sum(item.wide + spacing for item in shown) - spacing > wide
        for item in shown:
            if lines[-1] and (x + item.wide > wide or (parts and item.place in self._gaps)):
                lines.append([])
                x = 0
            if not lines[-1] and isinstance(item.item, QSpacerItem):
                continue
            lines[-1].append(item)
            x += item.wide + spacing
        return lines

    def _place(self, rect: QRect, test: bool) -> int:
        margins = self.contentsMargins()
        room, spacing = rect.marginsRemoved(margins), self.spacing()
        y = room.top()
        for line in self._lines(room.width()):
            high = max((shown.high for shown in line), default=0)
            rest = room.width() - sum(shown.wide for shown in line) - spacing * max(0, len(line) - 1)
            rest, x = max(0, rest), room.left()
            for k, shown in enumerate(line):
                if k and any(line[k - 1].place < gap <= shown.place for gap in self._gaps):
                    x, rest = x + rest, 0
                wide = shown.wide
                if shown.takes_rest:
                    wide, rest = rest, 0
                if not test and isinstance(shown.item, QWidgetItem):
                    shown.item.setGeometry(QRect(x, y + (high - shown.high) // 2, wide, shown.high))
                x += wide + spacing
            y += high + self._between
        return y - self._between - rect.top() + margins.bottom()


def _measured(place: int, item: QLayoutItem) -> _Shown:
    widget = item.widget()
    takes_rest = widget is not None and widget.sizePolicy().horizontalPolicy() == QSizePolicy.Policy.Ignored
    size = item.sizeHint()
    return _Shown(place, item, 0 if takes_rest else size.width(), size.height(), takes_rest)
