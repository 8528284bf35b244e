"""What a press on the rows of the cue sheet begins. Each is handed what it tells; none knows the widget."""

from __future__ import annotations

from collections.abc import Callable
from enum import Enum

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QMouseEvent

from avelt.core.model.motion import CueKey, Moment
from avelt.core.record import Mutable
from avelt.window.timing.rows import Row

_START = 3  # px of travel before a press on a name moves its row
Tell = Callable[[], object]
Snap = Callable[[float, Row | None, bool], float]  # ms, the row that does not count, free


class Grip(Enum):
    """What part of a ribbon is held."""

    ALL = 0
    START = 1
    END = 2


def free_of(event: QMouseEvent) -> bool:
    """Whether Alt keeps what is dragged from snapping."""
    return bool(event.modifiers() & Qt.KeyboardModifier.AltModifier)


class RibbonDrag(Mutable):
    """A ribbon, or an end of it, being dragged. ``rate`` is ms a px when it was pressed."""

    row: Row
    grip: Grip
    x: float
    rate: float
    snap: Snap
    dragged: Callable[[CueKey, float, float], object]
    dropped: Tell
    clicked: Tell
    cancelled: Tell
    moved: bool = False

    def move(self, event: QMouseEvent) -> None:
        """Start and end are where they were, shifted by the travel."""
        x = event.position().x()
        if not self.moved and abs(x - self.x) < 2:
            return
        self.moved = True
        was = self.row.timed
        start, end = self._shifted((x - self.x) * self.rate, free_of(event))
        both = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if both and self.grip is Grip.END:  # both ends at once, about the middle
            start = max(0.0, was.start - (end - was.end))
        elif both and self.grip is Grip.START:
            end = was.end - (start - was.start)
        self.dragged(self.row.key, min(start, end), max(start, end))

    def _shifted(self, travel: float, free: bool) -> tuple[float, float]:
        """New start and end; whole ms, snapped to the playhead, other ends and the grid unless ``free``."""
        first, last = self.row.timed.start, self.row.timed.end
        if self.grip is Grip.ALL:
            duration = last - first
            start = self.snap(first + travel, self.row, free)
            if start == round(first + travel) and not free:
                start = self.snap(first + travel + duration, self.row, free) - duration
            start = max(0.0, start)
            return start, start + duration
        if self.grip is Grip.START:
            return min(last, max(0.0, self.snap(first + travel, self.row, free))), last
        return first, max(first, self.snap(last + travel, self.row, free))

    def end(self, event: QMouseEvent) -> None:
        """One entry of undo; without travel it was a click."""
        if self.moved:
            self.dropped()
        else:
            self.clicked()

    def cancel(self) -> None:
        """As it was before the press."""
        if self.moved:
            self.cancelled()


class KeyframeDrag(Mutable):
    """A keyframe being dragged along its ribbon. ``place`` tells which one it is now: it may pass others."""

    key: CueKey
    place: Callable[[], int]
    ms_at: Callable[[float], float]
    snap: Snap
    dragged: Callable[[CueKey, int, float], object]
    dropped: Tell
    cancelled: Tell
    moved: bool = False

    def move(self, event: QMouseEvent) -> None:
        """It goes to the moment under the pointer."""
        self.moved = True
        self.dragged(self.key, self.place(), self.snap(self.ms_at(event.position().x()), None, free_of(event)))

    def end(self, event: QMouseEvent) -> None:
        """One entry of undo."""
        if self.moved:
            self.dropped()

    def cancel(self) -> None:
        """As it was before the press."""
        if self.moved:
            self.cancelled()


class TieDrag(Mutable):
    """A tie being drawn from an end of a ribbon; nothing changes before it is let go over another end."""

    key: CueKey
    moment: Moment
    first: QPointF
    now: QPointF
    target: Callable[[QPointF, CueKey], tuple[CueKey, Moment] | None]
    tied: Callable[[CueKey, CueKey, str, str], object]
    update: Tell

    def move(self, event: QMouseEvent) -> None:
        """The thread follows the pointer."""
        self.now = event.position()
        self.update()

    def end(self, event: QMouseEvent) -> None:
        """Tied to the end that it is over."""
        found = self.target(event.position(), self.key)
        self.update()
        if found is not None:
            self.tied(found[0], self.key, found[1], self.moment)

    def cancel(self) -> None:
        """No tie."""
        self.update()


class RowDrag(Mutable):
    """A layer's rows being carried to another place in the list; ``place`` is where they would go, or -1."""

    row: Row
    y: float
    place_at: Callable[[float], int]
    carried: Callable[[Row, int], object]
    clicked: Tell
    update: Tell
    place: int = -1

    def move(self, event: QMouseEvent) -> None:
        """A line shows where they would go."""
        if abs(event.position().y() - self.y) > _START:
            self.place = self.place_at(event.position().y())
            self.update()

    def end(self, event: QMouseEvent) -> None:
        """They go there; without travel it was a click."""
        if self.place >= 0:
            self.carried(self.row, self.place)
        else:
            self.clicked()
        self.update()

    def cancel(self) -> None:
        """They stay."""
        self.update()
