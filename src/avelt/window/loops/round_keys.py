"""Keyframes of a round as one line of text: how far at which share, ``20% 1, 60% 1, 100% 0``."""

from __future__ import annotations

import re

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QLineEdit

from avelt.core.model.values import RoundKey
from avelt.core.words import tr

_KEY = re.compile(r"\s*(\d+(?:\.\d+)?)\s*%\s*:?\s*(-?\d+(?:\.\d+)?)\s*$")


def keys_text(keys: tuple[RoundKey, ...]) -> str:
    """Keyframes as the line says them."""
    return ", ".join(f"{key.at * 100:g}% {key.far:g}" for key in keys)


def read_keys(text: str, old: tuple[RoundKey, ...] = ()) -> tuple[RoundKey, ...]:
    """Keyframes from a line; those that stay where they are keep their curves. ``ValueError`` with what is wrong."""
    curves = {round(key.at, 4): key.curve for key in old}
    found = []
    for part in text.split(",") if text.strip() else ():
        match = _KEY.match(part)
        if match is None:
            raise ValueError(
                tr("“{strip}” cannot be read. A keyframe is a share and how far, such as 20% 1.", strip=part.strip())
            )
        at = float(match.group(1)) / 100
        if at > 1.0:
            raise ValueError(tr("A round ends at 100%: {group}% is beyond it.", group=match.group(1)))
        found.append(RoundKey(at, float(match.group(2)), curves.get(round(at, 4))))
    return tuple(sorted(found, key=lambda key: key.at))


class RoundKeys(QLineEdit):
    """``meant`` comes with the keyframes, ``refused`` with what is wrong."""

    meant = Signal(object)
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self._keys: tuple[RoundKey, ...] = ()
        self.setPlaceholderText(tr("by its way: 20% 1, 60% 1, 100% 0"))
        self.setToolTip(tr("Shares of the round (without its wait) and how far: 0 is the layer, 1 its second pose"))
        self.setAccessibleName(tr("Keyframes of the round"))
        self.editingFinished.connect(self._typed)

    def show_keys(self, keys: tuple[RoundKey, ...]) -> None:
        """Show keyframes. What is being typed is left alone."""
        self._keys = keys
        if not (self.hasFocus() and self.isModified()):
            self.setText(keys_text(keys))
            self.setModified(False)

    def _typed(self) -> None:
        if not self.isModified():
            return
        self.setModified(False)
        try:
            keys = read_keys(self.text(), self._keys)
        except ValueError as error:
            self.refused.emit(str(error))
            self.setText(keys_text(self._keys))
            return
        if keys != self._keys:
            self.meant.emit(keys)
