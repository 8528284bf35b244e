"""Painted views for people who do not see them: what is painted is told to assistive technology as a list of items.

A view has a method ``spoken`` that gives its items; nothing else is needed. Qt asks only when something listens
(``accessible_tree.py``, which is loaded once the window stands).
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from PySide6.QtCore import QRectF

from avelt.core.record import Record


class Spoken(Record, frozen=True):
    """One item: what is said of it, where it is in the view (px), and whether it is chosen."""

    words: str
    rect: QRectF
    chosen: bool = False


class Speaks(Protocol):
    """What a painted view has."""

    def spoken(self) -> Sequence[Spoken]: ...
