"""Painted views for people who do not see them: what is painted is told to assistive technology as a list of items.

A view has a method ``spoken`` that gives its items; nothing else is needed. Qt asks only when something listens.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from PySide6.QtCore import QRectF, QTimer

from avelt.core.record import Record

_AFTER = 400  # ms after the start: a window opens faster without


class Spoken(Record, frozen=True):
    """One item: what is said of it, where it is in the view (px), and whether it is chosen."""

    words: str
    rect: QRectF
    chosen: bool = False


class Speaks(Protocol):
    """What a painted view has."""

    def spoken(self) -> Sequence[Spoken]: ...


def install() -> None:
    """From now on Qt is told of painted views. Once is enough."""
    global _installed
    if _installed:
        return
    _installed = True
    from PySide6.QtGui import QAccessible

    from avelt.window.common.accessible_tree import interface

    QAccessible.installFactory(interface)


_installed = False


def install_soon() -> None:
    """The same, once the window stands."""
    QTimer.singleShot(_AFTER, install)
