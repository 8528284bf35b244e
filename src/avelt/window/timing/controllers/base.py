"""What every controller of Timing is."""

from __future__ import annotations

from PySide6.QtCore import QObject
from PySide6.QtWidgets import QWidget

from avelt.window.timing.context import TimingContext


class Controller(QObject):
    """Carries out what parts ask for. ``window`` is only what menus and forms are opened over."""

    def __init__(self, context: TimingContext, window: QWidget) -> None:
        super().__init__(window)
        self.context, self.workspace, self.window = context, context.workspace, window

    @property
    def route_id(self) -> str:
        """The id of the route, or entrance, that is shown; empty for none."""
        return self.context.route_id
