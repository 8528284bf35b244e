"""Two parts over each other with a line between them that is dragged: kept in proportion to the window, remembered."""

from __future__ import annotations

from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QSplitter, QWidget

from avelt.core.words import tr
from avelt.window.common.remembered import Remembered


class Split(QSplitter):
    """``name`` is what its share is remembered by; ``usual`` the share of the upper part before it was dragged."""

    def __init__(self, upper: QWidget, lower: QWidget, remembered: Remembered, name: str, usual: float) -> None:
        super().__init__(Qt.Orientation.Vertical)
        self.remembered, self.name = remembered, name
        self.share = min(0.95, max(0.05, remembered.number(name, usual)))
        self.setChildrenCollapsible(False)
        self.setHandleWidth(9)
        for part in (upper, lower):
            self.addWidget(part)
        self.handle(1).setToolTip(tr("Drag to give one of them more room; double-click for the usual share"))
        self.handle(1).setAccessibleName(tr("Share of the upper part"))
        self.usual = usual
        self.splitterMoved.connect(self._moved)

    def set_share(self, share: float) -> None:
        """Another share for the upper part, remembered."""
        self.share = min(0.95, max(0.05, share))
        self.remembered.keep(self.name, round(self.share, 4))
        self.apply()

    def apply(self) -> None:
        """The room in that share."""
        room = max(1, self.contentsRect().height() - self.handleWidth())
        self.setSizes([round(room * self.share), round(room * (1.0 - self.share))])

    def _moved(self, *_: object) -> None:
        upper, lower = self.sizes()
        if upper and lower:
            self.share = upper / (upper + lower)
            self.remembered.keep(self.name, round(self.share, 4))

    def event(self, event: QEvent) -> bool:
        done = super().event(event)
        if event.type() == QEvent.Type.LayoutRequest:
            self.apply()  # a part that comes or goes must not change the share of the other for good
        return bool(done)

    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.apply()
