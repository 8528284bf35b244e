"""The small dialogs of Frames: a grid of copies, frames to carry to, a frame's settings, the grid of the board."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QLineEdit, QWidget

from avelt.core.blending import colour
from avelt.core.edits.follows import Axes
from avelt.core.errors import AveltError
from avelt.core.model.values import Frame
from avelt.core.record import Record
from avelt.core.words import tr
from avelt.window.controls.fields import label
from avelt.window.controls.forms import Form
from avelt.window.controls.painted import Pick, Tick


class CopiesDialog(Form):
    """How many across and down, and the gaps."""

    def __init__(self, parent: QWidget, name: str) -> None:
        super().__init__(parent, tr("Repeat {name}", name=name), tr("Repeat"))
        self.across = self.number(tr("Across"), 3, "", 1, 400)
        self.down = self.number(tr("Down"), 1, "", 1, 400)
        self.gap_x = self.number(tr("Gap across"), 8, "px", -10_000, 10_000)
        self.gap_y = self.number(tr("Gap down"), 8, "px", -10_000, 10_000)

    def values(self) -> tuple[int, int, float, float]:
        """Across, down, and the gaps in px."""
        return round(self.across.value), round(self.down.value), self.gap_x.value, self.gap_y.value


class CarryDialog(Form):
    """Which frames a layer is carried to."""

    def __init__(self, parent: QWidget, words: str, frames: Sequence[Frame]) -> None:
        super().__init__(parent, tr("Carry {words}", words=words), tr("Carry"))
        self.fields.addRow(
            label(tr("It keeps its position and is the same thing there: it pairs for certain."), "quiet")
        )
        self.ticks: list[tuple[str, Tick]] = []
        for frame in frames:
            tick = Tick(frame.name)
            self.ticks.append((frame.id, tick))
            self.fields.addRow(tick)

    def wanted(self) -> list[str]:
        """The ids of the ticked frames."""
        return [frame_id for frame_id, tick in self.ticks if tick.isChecked()]


_AXES: tuple[Axes, ...] = ("", "down", "right", "both")


class FrameSettings(Record, frozen=True):
    """What the dialog gives back."""

    w: float
    h: float
    background: str
    perspective: float
    clips: bool
    content_w: float
    content_h: float
    scroll: Axes


class FrameDialog(Form):
    """A frame's size, what it holds and how it scrolls, background, perspective and clipping."""

    def __init__(self, parent: QWidget, frame: Frame) -> None:
        super().__init__(parent, tr("Settings of {frame}", frame=frame.name), tr("Set"))
        self.w = self.number(tr("Width"), frame.w, "px", 1, 100_000)
        self.h = self.number(tr("Height"), frame.h, "px", 1, 100_000)
        self.content_w = self.number(tr("Holds, width"), max(frame.w, frame.content[0]), "px", 1, 100_000)
        self.content_h = self.number(tr("Holds, height"), max(frame.h, frame.content[1]), "px", 1, 100_000)
        self.scrolls = Pick()
        self.scrolls.addItems([tr("not"), tr("down"), tr("to the right"), tr("both ways")])
        self.scrolls.setCurrentIndex(_AXES.index(frame.scroll))
        self.scrolls.setToolTip(tr("Along which way it is scrolled, where it holds more than is seen of it"))
        self.fields.addRow(tr("Scrolls"), self.scrolls)
        self.background = QLineEdit(frame.background)
        self.fields.addRow(tr("Background"), self.background)
        self.perspective = self.number(tr("Perspective"), frame.perspective, "px", 0, 1e6)
        self.perspective.setToolTip(tr("The eye's distance for rotation x and y; 0 is very far away"))
        self.clips = Tick(tr("Cut off what lies outside"))
        self.clips.setChecked(frame.clips)
        self.fields.addRow(self.clips)

    def values(self) -> FrameSettings:
        """What was set."""
        return FrameSettings(
            self.w.value,
            self.h.value,
            self.background.text().strip(),
            self.perspective.value,
            self.clips.isChecked(),
            self.content_w.value,
            self.content_h.value,
            _AXES[self.scrolls.currentIndex()],
        )

    def accept(self) -> None:
        try:
            colour.parse(self.background.text().strip())
        except AveltError as error:
            self.refuse(str(error))
            return
        super().accept()


class GridDialog(Form):
    """The grid's step and the chosen frame's guides."""

    def __init__(self, parent: QWidget, grid: float, frame: Frame | None) -> None:
        super().__init__(parent, tr("Grid and guides"), tr("Set"))
        self.grid = self.number(tr("Grid"), grid, "px", 0, 10_000)
        self.guides = {
            "x": QLineEdit(", ".join(f"{v:g}" for v in (frame.guides_x if frame else ()))),
            "y": QLineEdit(", ".join(f"{v:g}" for v in (frame.guides_y if frame else ()))),
        }
        self.fields.addRow(tr("Guides across (x)"), self.guides["x"])
        self.fields.addRow(tr("Guides down (y)"), self.guides["y"])

    def places(self, axis: str) -> list[float]:
        """The guides along an axis; ``ValueError`` when one is no number."""
        return [float(word) for word in self.guides[axis].text().replace(";", ",").split(",") if word.strip()]

    def accept(self) -> None:
        try:
            for axis in ("x", "y"):
                self.places(axis)
        except ValueError:
            self.refuse(tr("Guides are numbers parted by commas."))
            return
        super().accept()
