"""What the deeds of Timing share: what is chosen, its time, and the project as it was when a drag began."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QObject

from avelt.core.model.motion import CueKey
from avelt.core.model.values import Project
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import Timed, timed

if TYPE_CHECKING:
    from avelt.window.timing.station import TimingStation


class Deeds(QObject):
    """Carries out what the parts of a station ask for."""

    def __init__(self, station: TimingStation) -> None:
        super().__init__(station)
        self.station, self.workspace = station, station.workspace
        self._base: tuple[Project, Program] | None = None  # as it was when a drag began

    @property
    def route_id(self) -> str:
        """The id of the route, or entrance, that is shown; empty for none."""
        return self.station.route.id if self.station.route is not None else ""

    @property
    def place_cue(self) -> CueKey | None:
        """The cue of the chosen layer's place."""
        key = self.station.key
        return None if key is None else (key[0], key[1], "position")

    def timed(self, cue: CueKey) -> Timed:
        """When and how a cue goes."""
        assert self.station.route is not None
        return timed(self.workspace.project, self.station.route.transition, *cue)

    def begin(self) -> tuple[Project, Program]:
        """The project and its program as they were when the drag began: a drag is always from there."""
        if self._base is None:
            assert self.station.program is not None
            self._base = (self.workspace.project, self.station.program)
        return self._base

    def dropped(self) -> None:
        """The drag is over."""
        self._base = None
        self.workspace.end_gesture()
