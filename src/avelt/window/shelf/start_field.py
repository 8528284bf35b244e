"""When a preset begins: typed in ms, or as it was recorded."""

from __future__ import annotations

from avelt.core.words import tr
from avelt.window.controls.fields import NumberField

_OWN, _SHOWN = -10.0, "\u2013"  # one step below 0 is as recorded


class StartField(NumberField):
    """A number of ms; empty (a dash) is the preset's own start."""

    def __init__(self) -> None:
        super().__init__("ms", -_OWN, _OWN, 60_000.0)
        self.setToolTip(tr("When it begins, ms; empty ({shown}): as the preset has it", shown=_SHOWN))
        self.show_value(_OWN)

    @property
    def said(self) -> float | None:
        """The start, or ``None`` for the preset's own."""
        return None if self.value < 0.0 else self.value

    def text_of(self, value: float) -> str:
        return _SHOWN if value < 0.0 else super().text_of(value)

    def _typed(self) -> None:
        if self.isModified() and self.text().strip() in ("", _SHOWN):
            self.setModified(False)
            self._commit(_OWN)
        else:
            super()._typed()
