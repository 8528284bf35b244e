"""What the stations share: the session, what is chosen, the painter. Handed to each; nobody reaches round."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, TypeVar

from PySide6.QtCore import QObject, Signal

from avelt.core.cache import Cache
from avelt.core.edits.session import Change, Session
from avelt.core.errors import AveltError
from avelt.core.model.find import frame_of_layer, layer_index
from avelt.core.model.moves import moves_of
from avelt.core.model.values import Asset, Frame, Layer, Project, Route
from avelt.core.record import lazy
from avelt.window.common.remembered import Remembered
from avelt.window.common.settings import SettingsKeeper
from avelt.window.common.stages import Stages, pose_step
from avelt.window.theme import Theme

if TYPE_CHECKING:  # what draws is loaded when something is drawn: a window without frames opens without it
    from PySide6.QtGui import QImage

    from avelt.core.edits.values import Spot
    from avelt.core.presets.shelf import Shelf
    from avelt.core.timing.program import Program
    from avelt.paint.painter import ScenePainter
    from avelt.window.common.pictures import Pictures

T = TypeVar("T")
UNSURE = 0.70  # pairs below this want to be looked at, unless another trust is set
_LARGE = 600  # layers of a route's two frames together


class Workspace(QObject):
    """The shared state. Signals say what changed; ``said`` carries a sentence for the person."""

    changed = Signal(object)  # Change
    chose = Signal()  # another frame or layer
    routed = Signal()  # another route
    staged = Signal()  # another part is open, or none
    said = Signal(str)
    station_wanted = Signal(str)
    motion_wanted = Signal(str)  # a route, or an entrance, wants to be seen in Timing

    def __init__(self, session: Session, theme: Theme, shelf: Shelf | None = None) -> None:
        super().__init__()
        self.session = session
        self.theme = theme
        self._shelf = shelf
        self.remembered = Remembered()
        self.settings = SettingsKeeper()
        self.stages = Stages()
        self._come_back: list[tuple[str, str, str]] = []  # what was chosen in each stage above the open one
        self.path: Path | None = None
        self.trust = UNSURE
        self._frame_id = ""
        self._layer_id = ""
        self._also: tuple[Spot, ...] = ()
        self._route_id = ""
        self._board_painter: tuple[tuple[Asset, ...], ScenePainter] | None = None
        self._programs: Cache[Program] = Cache(24)
        session.listen(self._heard)
        self._mend()

    @property
    def shelf(self) -> Shelf:
        """The presets of this person."""
        if self._shelf is None:
            from avelt.core.presets.shelf import Shelf

            self._shelf = Shelf()
        return self._shelf

    @lazy
    def pictures(self) -> Pictures:
        """The pictures of frames."""
        from avelt.window.common.pictures import Pictures

        return Pictures(self._painted, self, lambda: self.whole.parts)

    # The project

    @property
    def project(self) -> Project:
        """What the window is about: the project as it is now, or the part that is open as one."""
        return self.stages.seen(self.session.project)

    @property
    def whole(self) -> Project:
        """The project, whatever is open of it: what is saved."""
        return self.session.project

    def open_part(self, part_id: str) -> None:
        """Go into a part: from now on the window is about it."""
        self._come_back.append((self._frame_id, self._layer_id, self._route_id))
        self._go_to_stage((*self.stages.path, part_id))

    def open_pose(self, frame_id: str, loop_id: str) -> None:
        """Open the second pose of a loop, or of what follows a value, on the board of Frames like any layer."""
        if self.stages.in_pose:
            return
        self._come_back.append((self._frame_id, self._layer_id, self._route_id))
        frame = next(frame for frame in self.project.frames if frame.id == frame_id)
        layer = next(entry.layer for entry in moves_of(frame) if entry.id == loop_id)
        self._go_to_stage((*self.stages.path, pose_step(frame_id, loop_id)), (frame_id, layer, ""))
        self.station_wanted.emit("frames")

    def close_part(self, depth: int = -1) -> None:
        """Back out of the open part, or of all down to a depth (0: the project); what was chosen there is again."""
        path = self.stages.path
        kept = path[:depth] if depth >= 0 else path[:-1]
        if kept == path:
            return
        back = self._come_back[len(kept)]
        del self._come_back[len(kept) :]
        self._go_to_stage(kept, back)

    def _go_to_stage(self, path: tuple[str, ...], chosen: tuple[str, str, str] = ("", "", "")) -> None:
        self.end_gesture()
        before = self.project
        self.stages.path = path
        self._frame_id, self._layer_id, self._route_id = chosen
        self._also = ()
        self._mend()
        self.staged.emit()
        self.changed.emit(Change(before, self.project, ""))
        self.chose.emit()
        self.routed.emit()

    def do(self, text: str, edit: Callable[[Project], Project], origin: object = None) -> bool:
        """Do an edit as one entry; what is wrong with it is said, and nothing changes."""
        try:
            self.session.do(text, self.stages.edited(self.whole, edit), origin)
        except AveltError as error:
            self.said.emit(str(error))
            return False
        return True

    def make(self, text: str, edit: Callable[[Project], tuple[Project, T]], origin: object = None) -> T | None:
        """Do an edit as one entry and give what it made beside the project; ``None`` when it cannot be done."""
        try:
            project, made = self.stages.made(self.whole, edit)
        except AveltError as error:
            self.said.emit(str(error))
            return None
        self.session.do(text, project, origin)
        return made

    def make_of_all(self, text: str, edit: Callable[[Project], tuple[Project, T]]) -> T | None:
        """The same for an edit of the whole project, whatever is open of it."""
        try:
            project, made = edit(self.whole)
        except AveltError as error:
            self.said.emit(str(error))
            return None
        self.session.do(text, project)
        return made

    def make_while(self, text: str, edit: Callable[[Project], tuple[Project, T]], origin: object = None) -> T | None:
        """The same while a drag or scrub goes on."""
        try:
            project, made = self.stages.made(self.whole, edit)
        except AveltError as error:
            self.said.emit(str(error))
            return None
        self.session.gesture(text, project, origin)
        return made

    def gesture(self, text: str, edit: Callable[[Project], Project], origin: object = None) -> bool:
        """Show an edit while a drag or scrub goes on."""
        try:
            self.session.gesture(text, self.stages.edited(self.whole, edit), origin)
        except AveltError as error:
            self.said.emit(str(error))
            return False
        return True

    def end_gesture(self) -> None:
        """The drag or scrub is over."""
        self.session.end_gesture()

    def cancel_gesture(self) -> bool:
        """The drag or scrub is given up: all is as before it; whether there was one."""
        return self.session.cancel_gesture()

    def _heard(self, change: Change) -> None:
        path = self.stages.path
        if not change.label:
            self.stages.path = ()  # another project
        self.stages.mend(change.after)
        if self.stages.path != path:
            del self._come_back[len(self.stages.path) :]
            self.staged.emit()
        self._mend()
        self.changed.emit(self.stages.change(change))

    def _mend(self) -> None:
        """Keep what is chosen true to the project."""
        frames = {frame.id for frame in self.project.frames}
        if self._frame_id not in frames:
            self._frame_id = self.project.first or (self.project.frames[0].id if self.project.frames else "")
            self._layer_id = ""
        if self._layer_id and frame_of_layer(self.project, self._layer_id) is None:
            self._layer_id = ""
        if self._also:
            by_id = {frame.id: frame for frame in self.project.frames}
            self._also = tuple(s for s in self._also if s[0] in by_id and s[1] in layer_index(by_id[s[0]]))
        if self._route_id not in {route.id for route in self.project.routes}:
            self._route_id = self.project.routes[0].id if self.project.routes else ""

    # What is chosen

    @property
    def frame(self) -> Frame | None:
        """The chosen frame."""
        return next((frame for frame in self.project.frames if frame.id == self._frame_id), None)

    @property
    def layer(self) -> Layer | None:
        """The chosen layer."""
        frame = self.frame
        return layer_index(frame).get(self._layer_id) if frame is not None else None

    @property
    def route(self) -> Route | None:
        """The chosen route."""
        return next((route for route in self.project.routes if route.id == self._route_id), None)

    @property
    def chosen(self) -> tuple[Spot, ...]:
        """All chosen layers as (frame id, layer id), the one that is shown in full last."""
        frame = self.frame
        if frame is None or self.layer is None:
            return ()
        first = (frame.id, self._layer_id)
        return (*(spot for spot in self._also if spot != first), first)

    @property
    def chosen_here(self) -> list[str]:
        """The ids of the chosen layers of the chosen frame."""
        return [layer_id for frame_id, layer_id in self.chosen if frame_id == self._frame_id]

    def choose(self, frame_id: str, layer_id: str = "") -> None:
        """Choose a frame, and a layer in it."""
        if (frame_id, layer_id) != (self._frame_id, self._layer_id) or self._also:
            self._frame_id, self._layer_id, self._also = frame_id, layer_id, ()
            self.chose.emit()

    def choose_several(self, spots: Sequence[Spot]) -> None:
        """Choose several layers; the last is the one that is shown in full."""
        if not spots:
            self.choose(self._frame_id)
        elif tuple(spots) != self.chosen:
            self._frame_id, self._layer_id = spots[-1]
            self._also = tuple(spots[:-1])
            self.chose.emit()

    def choose_also(self, frame_id: str, layer_id: str) -> None:
        """One chosen layer more, or one less."""
        spot = (frame_id, layer_id)
        if spot in self.chosen:
            rest = [other for other in self.chosen if other != spot]
            if rest:
                self.choose_several(rest)
            else:
                self.choose(frame_id)
        else:
            self.choose_several([*self.chosen, spot])

    def choose_layer(self, layer_id: str) -> None:
        """Choose a layer wherever it is."""
        frame = frame_of_layer(self.project, layer_id) if layer_id else None
        self.choose(frame.id if frame else self._frame_id, layer_id if frame else "")

    def choose_route(self, route_id: str) -> None:
        """Choose a route."""
        if route_id != self._route_id:
            self._route_id = route_id
            self.routed.emit()

    def unsure_pairs(self) -> int:
        """How many pairs of the chosen route want to be looked at."""
        if self.route is None:
            return 0
        from avelt.core.timing.compile import pairing_of

        return sum(pair.confidence < self.trust for pair in pairing_of(self.project, self.route).pairs)

    # Pictures

    def painter(self) -> ScenePainter:
        """A painter of one's own: each view keeps what stands still in its own program."""
        from avelt.paint.painter import ScenePainter

        return ScenePainter(self.project.assets)

    def picture(self, frame: Frame, scale: float) -> QImage:
        """A frame's picture, kept as long as the frame stays the same."""
        return self.pictures.picture(frame, scale)

    def _painted(self, frame: Frame, scale: float) -> QImage:
        from avelt.core.timing.compile import compile_still

        if self._board_painter is None or self._board_painter[0] is not self.project.assets:
            self._board_painter = (self.project.assets, self.painter())
        return self._board_painter[1].render(compile_still(frame, self.project).at(0.0), scale, pieces=True)

    def is_large(self) -> bool:
        """Whether the frames of the chosen route are so large that work on both of them is felt."""
        from avelt.core.geometry.flatten import flatten
        from avelt.core.timing.over import ends

        route = self.route
        return route is not None and sum(len(flatten(frame).layers) for frame in ends(self.project, route)) > _LARGE

    def program(self, route: Route) -> Program:
        """The route's program, compiled once an edit."""
        from avelt.core.timing.compile import compile_route

        project = self.project
        return self._programs.get((project,), route.id, lambda: compile_route(project, route))
