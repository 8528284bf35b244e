"""What the parts of Timing share: which motion is shown, what is chosen, the moment. It knows no widget.

The choice is kept here and nowhere else: parts ask for it when they paint, and hear when it becomes another.
"""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from avelt.core.edits.afterwards import cue_name
from avelt.core.model.curves import Curve
from avelt.core.model.find import entrance_route, frame_of_entrance, phase_of_motion, phase_route
from avelt.core.model.motion import CueKey
from avelt.core.model.values import Frame, Project, Route
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import Timed, timed
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.timing.rows import Row
from avelt.window.timing.selection import Selection


class TimingContext(QObject):
    """The state of the station, with signals. Controllers are handed it, and the widgets they wire."""

    shown = Signal()  # another route or entrance
    selected = Signal()
    measured = Signal()  # how long everything is may be another
    moment = Signal()  # the moment wants to be shown again
    row_wanted = Signal(object)  # the cue whose row shall be opened, chosen and seen
    refresh_wanted = Signal()

    def __init__(self, workspace: Workspace, clock: Clock, parent: QObject) -> None:
        super().__init__(parent)
        self.workspace, self.clock = workspace, clock
        self.entrance_id = ""  # the frame whose entrance is shown instead of the route
        self.phase_id = ""  # the phase of a running order whose motion is shown instead of it
        self.program: Program | None = None
        self.ends: tuple[Frame, Frame] | None = None
        self.rows: tuple[Row, ...] = ()
        self.selection = Selection()
        self._base: tuple[Project, Program] | None = None

    # What is shown

    @property
    def route(self) -> Route | None:
        """The route that is shown; an entrance, or the motion of a phase, as a route."""
        return self.entrance or self.phase or self.workspace.route

    @property
    def phase(self) -> Route | None:
        """The motion of a phase that is shown, as a route."""
        tracks = self.workspace.project.tracks if self.phase_id else ()
        found = (phase for track in tracks for phase in track.phases if phase.id == self.phase_id)
        return next((phase_route(phase) for phase in found), None)

    @property
    def entrance(self) -> Route | None:
        """The entrance that is shown, as a route in its frame."""
        frame = next((f for f in self.workspace.project.frames if f.id == self.entrance_id), None)
        return entrance_route(frame) if frame is not None and frame.entrance is not None else None

    @property
    def route_id(self) -> str:
        """The id of the route, or entrance, that is shown; empty for none."""
        route = self.route
        return route.id if route is not None else ""

    def show_entrance(self, frame_id: str) -> None:
        """Show a frame's entrance; an empty id shows the route again."""
        self.entrance_id, self.phase_id = frame_id, ""
        self.shown.emit()

    def show(self, route_id: str) -> None:
        """Show a route's transition, or an entrance or the motion of a phase by its id, whatever was shown."""
        frame_id = frame_of_entrance(route_id)
        if phase_id := phase_of_motion(route_id):
            self.entrance_id, self.phase_id = "", phase_id
            self.shown.emit()
            return
        if frame_id or self.entrance_id or self.phase_id:
            self.show_entrance(frame_id)
        if not frame_id:
            self.workspace.choose_route(route_id)

    def timed(self, cue: CueKey) -> Timed:
        """When and how a cue goes. There must be a route."""
        route = self.route
        if route is None:
            raise LookupError("no route is shown")
        return timed(self.workspace.project, route.transition, *cue)

    # What is chosen

    def select(self, selection: Selection) -> None:
        """Choose cues, keyframes, a point of the motion path: the only place where the choice is kept."""
        if selection != self.selection:
            self.selection = selection
            self.selected.emit()

    @property
    def key(self) -> CueKey | None:
        """The chosen cue that is shown in full."""
        return self.selection.key

    @property
    def keys(self) -> tuple[CueKey, ...]:
        """All chosen cues, the one that is shown in full last."""
        return self.selection.cues

    @property
    def position_cue(self) -> CueKey | None:
        """The cue of the chosen layer's position."""
        key = self.key
        return None if key is None else key.of("position")

    @property
    def position_cues(self) -> tuple[CueKey, ...]:
        """The cues of the position of all chosen layers, that of the one shown in full last."""
        found = [key.of("position") for key in self.keys]
        return tuple(cue for k, cue in enumerate(found) if cue not in found[k + 1 :])

    @property
    def slot(self) -> int:
        """The program's slot of the chosen layer; -1 for none."""
        key, program = self.key, self.program
        if key is None or program is None:
            return -1
        return program.slot_of(key.from_id, key.to_id)

    def name(self, key: CueKey | None) -> str:
        """A cue in words: its layer's name, and its property."""
        return "cue" if key is None or self.route is None else cue_name(self.workspace.project, self.route_id, key)

    def cue_curve(self) -> Curve | None:
        """The chosen cue's curve as it is named, its own or inherited."""
        return self.timed(self.key).curve if self.key is not None and self.route is not None else None

    # Drags

    def base(self) -> tuple[Project, Program] | None:
        """The project and its program as they were when the drag began: a drag is always from there."""
        if self._base is None and self.program is not None:
            self._base = (self.workspace.project, self.program)
        return self._base

    def end_drag(self) -> None:
        """The drag is over, and one entry of undo."""
        self._base = None
        self.workspace.end_gesture()

    def cancel_drag(self) -> bool:
        """The drag is given up: all is as it was before; whether there was one."""
        self._base = None
        return self.workspace.cancel_gesture()
