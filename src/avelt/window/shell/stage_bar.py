"""Where we are while a part is open: the project, the parts down to the open one, and the way back."""

from __future__ import annotations

from PySide6.QtWidgets import QFrame, QHBoxLayout, QWidget

from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import button, label

_HEIGHT = 36


class StageBar(QFrame):
    """Hidden while nothing is open but the project. A name goes back to it."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.setProperty("role", "topbar")
        self.setFixedHeight(_HEIGHT)
        self.names: list[QWidget] = []
        self._shown: tuple[str, ...] = ()
        self.inside = QHBoxLayout(self)
        self.inside.setContentsMargins(14, 0, 14, 0)
        self.inside.setSpacing(6)
        self.inside.addStretch(1)
        self.back = button(tr("Out of the part"), tr("Back to what uses it (Ctrl+Shift+Return, in Frames Esc)"))
        self.back.setProperty("room", "low")
        self.back.clicked.connect(lambda: workspace.close_part())
        self.inside.addWidget(self.back)
        workspace.staged.connect(self.show_stage)
        workspace.changed.connect(lambda _: self.show_stage())
        self.show_stage()

    def show_stage(self) -> None:
        """Take over which parts are open, and what they are called."""
        names = self.workspace.stages.names(self.workspace.whole)
        self.setVisible(len(names) > 1)
        if names == self._shown:
            return
        self._shown = names
        for gone in self.names:
            self.inside.removeWidget(gone)
            gone.hide()
            gone.deleteLater()
        self.names = []
        for depth, name in enumerate(names[:-1]):
            step = button(name, tr("Back to {name}", name=name))
            step.setProperty("room", "low")
            step.clicked.connect(lambda _=False, depth=depth: self.workspace.close_part(depth))
            self.names += [step, label("/", "quiet")]
        self.names += [label(names[-1]), label(tr("part: its poses stand here as frames"), "caption")]
        for place, widget in enumerate(self.names):
            self.inside.insertWidget(place, widget)
