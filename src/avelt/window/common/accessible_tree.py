"""What assistive technology is told of a painted view: a list, and an item for each thing that is painted."""

from __future__ import annotations

from typing import cast

from PySide6.QtCore import QObject, QPoint, QRect, QRectF
from PySide6.QtGui import QAccessible, QAccessibleInterface, QColor, QWindow
from PySide6.QtWidgets import QAbstractScrollArea, QAccessibleWidget, QWidget
from shiboken6 import getCppPointer

from avelt.window.common.accessible import Speaks, Spoken


class Item(QAccessibleInterface):
    """One item of a view, by its place; it asks the view each time."""

    def __init__(self, view: QWidget, place: int) -> None:
        super().__init__()
        self._view, self._place = view, place

    def _now(self) -> Spoken:
        items = cast(Speaks, self._view).spoken()
        return items[self._place] if self._place < len(items) else Spoken("", QRectF())

    def isValid(self) -> bool:
        return self._place < len(cast(Speaks, self._view).spoken())

    def object(self) -> QObject:
        return cast(QObject, None)

    def window(self) -> QWindow:
        return cast(QWindow, None)

    def parent(self) -> QAccessibleInterface:
        return QAccessible.queryAccessibleInterface(self._view)

    def child(self, index: int) -> QAccessibleInterface:
        return cast(QAccessibleInterface, None)

    def childAt(self, x: int, y: int) -> QAccessibleInterface:
        return cast(QAccessibleInterface, None)

    def childCount(self) -> int:
        return 0

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return -1

    def text(self, which: QAccessible.Text) -> str:
        return self._now().words if which == QAccessible.Text.Name else ""

    def setText(self, which: QAccessible.Text, text: str) -> None:
        """Nothing can be written from outside."""

    def rect(self) -> QRect:
        shown = self._view.viewport() if isinstance(self._view, QAbstractScrollArea) else self._view
        place = self._now().rect.toAlignedRect()
        return QRect(shown.mapToGlobal(QPoint(place.x(), place.y())), place.size())

    def role(self) -> QAccessible.Role:
        return QAccessible.Role.ListItem

    def state(self) -> QAccessible.State:
        found = QAccessible.State()
        found.selectable = True
        found.selected = self._now().chosen
        return found

    def foregroundColor(self) -> QColor:
        return QColor()

    def backgroundColor(self) -> QColor:
        return QColor()


class View(QAccessibleWidget):
    """A painted view as a list of its items."""

    def __init__(self, widget: QWidget) -> None:
        super().__init__(widget, QAccessible.Role.List)
        self._widget = widget
        self._items: list[Item] = []

    def childCount(self) -> int:
        return len(cast(Speaks, self._widget).spoken())

    def child(self, index: int) -> QAccessibleInterface:
        if not 0 <= index < self.childCount():
            return cast(QAccessibleInterface, None)
        while len(self._items) <= index:
            self._items.append(Item(self._widget, len(self._items)))
        return self._items[index]

    def indexOfChild(self, child: QAccessibleInterface) -> int:
        return self._items.index(child) if child in self._items else -1  # type: ignore[arg-type]

    def childAt(self, x: int, y: int) -> QAccessibleInterface:
        for k in range(self.childCount()):
            found = self.child(k)
            if found.rect().contains(x, y):
                return found
        return cast(QAccessibleInterface, None)


made: dict[int, View] = {}  # Qt knows them as long as their widgets live, and so must we


def interface(_: str, thing: QObject) -> QAccessibleInterface | None:
    """What Qt is given for a painted view; ``None`` for all else."""
    if not isinstance(thing, QWidget) or not hasattr(thing, "spoken"):
        return None
    key = getCppPointer(thing)[0]  # its own while it lives; a wrapper of Python may be another one later
    made[key] = View(thing)
    thing.destroyed.connect(lambda *_: made.pop(key, None))
    return made[key]


_installed = False


def install() -> None:
    """From now on Qt is told of painted views. Once is enough."""
    global _installed
    if not _installed:
        _installed = True
        QAccessible.installFactory(interface)
