"""The bar above a rehearsal: time, what is shown of it, and on what it is rehearsed."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avelt.core.model.values import Project
from avelt.core.words import tr
from avelt.window.controls.clock import SPEED_WORDS, SPEEDS
from avelt.window.controls.fields import Choice, add_all, bar, button, label
from avelt.window.controls.painted import Pick, Tick

_MOST_SIZES = 8
Size = str | tuple[float, float]


class TopBar(QWidget):
    """The bar."""

    sized = Signal(object)  # "fit", "1:1" or a size in px

    def __init__(self) -> None:
        super().__init__()
        strip, layout = bar()
        self.again = button(tr("Start over"), tr("Begin again with the first frame (Home)"), "strong")
        self.hold = button(tr("Hold"), tr("Stop time, or let it go on (Space)"), checkable=True)
        self.back = button("‹", tr("One picture back (,)"))
        self.on = button("›", tr("One picture on (.)"))
        for one in (self.back, self.on):
            one.setFixedWidth(30)
        self.speeds = Choice([SPEED_WORDS[s] for s in SPEEDS])
        self.hot = Tick(tr("hot layers"))
        self.hot.setToolTip(
            tr("Outline what can be touched all the time, not only after a touch that meets nothing (H)")
        )
        self.finger = Tick(tr("fingertip"))
        self.finger.setToolTip(tr("Show where the pointer is, and when it is down (F)"))
        self.hands = Choice([tr("Mouse"), tr("Touch")], [tr("Hovering counts"), tr("No hovering; a drag scrolls")])
        self.sizes = Pick()
        self.sizes.setAccessibleName(tr("Size of the screen"))
        self.sizes.setToolTip(tr("The screen as the frame was designed, in its own px, or of another frame's size"))
        self.sizes.setFixedWidth(126)
        self.whole = button(tr("Whole window"), tr("Nothing but the screen (W)"), checkable=True)
        add_all(layout, self.again, self.hold, self.back, self.on, label(tr("Speed"), "quiet"), self.speeds, None)
        add_all(layout, self.hot, self.finger, self.hands, self.sizes, self.whole)
        holder = QVBoxLayout(self)
        holder.setContentsMargins(0, 0, 0, 0)
        holder.addWidget(strip)
        self._sizes: list[Size] = []
        self.sizes.activated.connect(lambda k: self.sized.emit(self._sizes[k]))

    def show_sizes(self, project: Project) -> None:
        """The sizes that the project's frames have."""
        found = list(dict.fromkeys((frame.w, frame.h) for frame in project.frames))[:_MOST_SIZES]
        sizes: list[Size] = ["fit", "1:1", *found]
        if sizes != self._sizes:
            self._sizes = sizes
            self.sizes.clear()
            self.sizes.addItems([tr("As designed"), "1:1", *(f"{w:g} × {h:g}" for w, h in found)])
