"""Commands of a station that have a key of their own: declared once, used by the keyboard, Find and docs/keys.md."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QKeyCombination, Qt
from PySide6.QtGui import QKeyEvent, QKeySequence
from PySide6.QtWidgets import QMenu, QWidget

from avelt.core.record import Record


class StationKey(Record, frozen=True):
    """``keys`` in the words of Qt; ``do`` is given the station."""

    words: str
    keys: str
    do: Callable[[Any], object]


def menu_of(table: Sequence[StationKey], keys: Sequence[str], station: QWidget) -> QMenu:
    """A menu of what some keys are for, in that order, the keys beside; an empty one is a line."""
    menu = QMenu(station)
    found = {entry.keys: entry for entry in table}
    for key in keys:
        if key:
            # Told only: the station's table answers the key.
            action = menu.addAction(f"{found[key].words}\t{own_keys(found[key], station)}")
            action.triggered.connect(lambda _=False, entry=found[key]: entry.do(station))
        else:
            menu.addSeparator()
    return menu


def own_keys(entry: StationKey, station: object) -> str:
    """The keys of an entry: this person's own where there are some. A station's name is that of its room."""
    workspace = getattr(station, "workspace", None)
    room = type(station).__module__.split(".")[-2]
    return workspace.settings.keys_of(f"{room}: {entry.words}", entry.keys) if workspace is not None else entry.keys


def pressed_key(event: QKeyEvent) -> str:
    """A pressed key in the words of Qt, the same for both blocks of keys.

    Signs stand on other keys in other countries: what is written counts, not whether Shift was needed for it. With Ctrl
    and for Delete X11 writes control characters, which are no signs.
    """
    held = event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
    text = event.text()
    plain = not held & ~Qt.KeyboardModifier.ShiftModifier
    if plain and text and text.isprintable() and not text.isalnum() and not text.isspace():
        return text
    return QKeySequence(QKeyCombination(held, Qt.Key(event.key()))).toString()


def press(table: Sequence[StationKey], station: object, event: QKeyEvent) -> bool:
    """Do what a key is for; whether it is for anything."""
    pressed = pressed_key(event)
    for entry in table:
        if pressed and pressed == own_keys(entry, station):
            entry.do(station)
            return True
    return False
