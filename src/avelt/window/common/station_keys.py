"""Commands of a station that have a key of their own: declared once, used by the keyboard, Find and docs/keys.md."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtGui import QKeyEvent, QKeySequence

from avelt.core.record import Record


class StationKey(Record, frozen=True):
    """``keys`` in the words of Qt; ``do`` is given the station."""

    words: str
    keys: str
    do: Callable[[Any], object]


def press(table: Sequence[StationKey], station: object, event: QKeyEvent) -> bool:
    """Do what a key is for; whether it is for anything."""
    pressed = QKeySequence(event.keyCombination()).toString()
    if event.text() and not event.text().isalnum() and not event.text().isspace():
        # Signs stand on other keys in other countries: what is written counts, not whether Shift was needed for it.
        pressed = event.text()
    for entry in table:
        if pressed == entry.keys:
            entry.do(station)
            return True
    return False
