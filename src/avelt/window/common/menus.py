"""Opening menus: they never block, and are gone when they close."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QMenu, QWidget


def open_at(menu: QMenu, where: QPoint) -> None:
    """Open a menu at a point of the screen."""
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    menu.popup(where)


def open_under(menu: QMenu, button: QWidget) -> None:
    """Open a menu under the button that it belongs to."""
    open_at(menu, button.mapToGlobal(button.rect().bottomLeft()))
