"""What plays, over the sheet: the frame left, the moment with its panel, the curve, the frame arrived at."""

from __future__ import annotations

from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QWidget

from avelt.core.words import tr
from avelt.window.common.remembered import Remembered
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.controls.fields import button, column, panel, row
from avelt.window.controls.short_label import ShortLabel
from avelt.window.controls.views import FrameView
from avelt.window.timing.context import TimingContext
from avelt.window.timing.curve_editor import CurveEditor
from avelt.window.timing.now_panel import NowPanel
from avelt.window.timing.now_view import NowView

_SIDE = (150, 0.5, 300)  # px at least, of the height, px at most
_FOLDED = 24
_CURVE = 520  # px that the curve has room for at most: what is left over is the Now view's


class Side(QWidget):
    """One of the two frames with its title; it can be folded to a strip."""

    def __init__(self, view: FrameView, remembered: Remembered) -> None:
        super().__init__()
        self.view, self.remembered = view, remembered
        self.title = ShortLabel()
        self.fold = button("‹", tr("Fold or unfold this frame (Shift+F)"))
        self.fold.setFixedSize(20, 20)
        self.fold.setProperty("room", "none")
        head = row(self.title, self.fold, spacing=2)
        inner = column(spacing=4)
        inner.addLayout(head)
        inner.addWidget(view, 1)
        inner.addStretch(0)
        inner.setContentsMargins(0, 0, 0, 0)
        self.setLayout(inner)
        self.folded = remembered.flag(self._name)
        self.wide = _SIDE[0]
        self.fold.clicked.connect(lambda: self.set_folded(not self.folded))
        self.set_folded(self.folded)

    @property
    def _name(self) -> str:
        return f"timing.{self.view.role}.folded"

    def set_folded(self, on: bool) -> None:
        """Only a strip, or the whole frame; remembered."""
        self.folded = on
        self.remembered.keep(self._name, on)
        self.view.setVisible(not on)
        self.title.setVisible(not on)
        inwards = self.view.role == "from"
        self.fold.setText("›" if on == inwards else "‹")
        words = (
            (tr("Unfold the frame left"), tr("Unfold the frame arrived at"))
            if on
            else (tr("Fold the frame left"), tr("Fold the frame arrived at"))
        )
        self.fold.setAccessibleName(words[0 if inwards else 1])
        self.set_wide(self.wide)

    def set_wide(self, px: int) -> None:
        """As wide as there is room for, unless it is folded."""
        self.wide = px
        self.setFixedWidth(_FOLDED if self.folded else px)


class Stage(QWidget):
    """Only widgets; the station connects them."""

    def __init__(self, workspace: Workspace, context: TimingContext, clock: Clock) -> None:
        super().__init__()
        remembered = workspace.remembered
        self.left, self.right = (
            Side(FrameView(workspace, "from"), remembered),
            Side(FrameView(workspace, "to"), remembered),
        )
        self.now = NowView(context)
        self.now.setMinimumWidth(190)
        self.panel = NowPanel(self.now, clock)
        self.curve = CurveEditor(workspace.theme)
        self.curve.setMaximumWidth(_CURVE)
        self.paper = panel()
        inside = QHBoxLayout(self.paper)
        inside.setContentsMargins(14, 10, 14, 10)
        inside.setSpacing(16)
        inside.addWidget(self.now, 3)
        inside.addWidget(self.panel)
        inside.addWidget(self.curve, 5)
        whole = QHBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(12)
        whole.addWidget(self.left)
        whole.addWidget(self.paper, 1)
        whole.addWidget(self.right)

    def show_only_now(self, on: bool) -> None:
        """The Now view with its panel, or everything."""
        for widget in (self.left, self.right, self.curve):
            widget.setVisible(not on)

    def fold(self) -> None:
        """Fold both frames, or unfold them."""
        on = not (self.left.folded and self.right.folded)
        for side in (self.left, self.right):
            side.set_folded(on)

    def resizeEvent(self, event: QResizeEvent) -> None:
        least, share, most = _SIDE
        for side in (self.left, self.right):
            side.set_wide(round(min(most, max(least, self.height() * share))))
