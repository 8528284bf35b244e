"""What is done in the Now view: layers dragged, ways shaped, layers dragged to where they come from."""

from __future__ import annotations

from PySide6.QtWidgets import QMenu, QWidget

from avelt.core.arrays import Floats, np
from avelt.core.edits.cues import change_cues, place_cue
from avelt.core.edits.ends import away_now, move_end, set_shift
from avelt.core.edits.keyframes import bend_motion_path, motion_path_points, set_motion_path, shape_motion_path
from avelt.core.errors import EditError
from avelt.core.geometry import affine
from avelt.core.geometry import motion_path as paths
from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import frame_of_layer, layer_index, route_by_id
from avelt.core.model.motion import CueKey, Keyframe, MotionPath
from avelt.core.model.values import Path, Project
from avelt.core.timing.alone import standing
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.schedule import Timed, timed
from avelt.core.timing.tracks import motion_path_of
from avelt.core.words import tr
from avelt.window.common.menus import open_under
from avelt.window.timing.context import TimingContext
from avelt.window.timing.controllers.base import Controller
from avelt.window.timing.controllers.keyframes import KeyframeController
from avelt.window.timing.now_view import NowView
from avelt.window.timing.strip import Strip

_COMES = 240.0  # ms that a layer dragged to where it comes from takes
_MOST_PATHS = 24  # in the menu of ways


class MotionPathController(Controller):
    """For the chosen layer of a station."""

    def __init__(
        self, context: TimingContext, window: QWidget, now: NowView, strip: Strip, keyframes: KeyframeController
    ) -> None:
        super().__init__(context, window)
        self.now, self.strip, self.keyframes = now, strip, keyframes
        now.layer_dragged.connect(self._drag_layer)
        now.point_dragged.connect(self._drag_point)
        now.node_wanted.connect(self._add_node)
        now.track_dragged.connect(self._pull)
        now.node_removed.connect(
            lambda k: self._shape(tr("remove point"), lambda points: paths.without_node(points, k))
        )
        now.node_smoothed.connect(self._smooth)
        button = strip.way
        button.clicked.connect(lambda: open_under(self.menu(), button))

    def show(self) -> None:
        """The way and the keys of the chosen layer in the Now view."""
        cue, program, now = self.context.position_cue, self.context.program, self.now
        if cue is None or program is None or self.context.route is None or self.context.slot < 0:
            now.show_way(None, ())
            return
        when = self.context.timed(cue)
        points = (
            motion_path_points(program, self.context.slot, when.motion_path) if when.motion_path is not None else None
        )
        now.show_way(points, tuple(self._middle(program, self.context.slot, when, key) for key in when.keyframes))

    def _middle(self, program: Program, slot: int, when: Timed, key: Keyframe) -> tuple[float, float]:
        """Where a layer's middle (on a way its pivot) is in the frame at a key."""
        scene = program.at(when.start + key.at * when.duration)
        row = scene.scalars[slot]
        share = (row[4], row[5]) if when.motion_path is not None else (0.5, 0.5)
        x, y = affine.apply(scene.world()[slot], np.array([row[2] * share[0], row[3] * share[1]]))
        return float(x), float(y)

    # Layers in the Now view

    def _drag_layer(self, dx: float, dy: float) -> None:
        """Every chosen layer goes by so many px of the frame, each as it can at this moment."""
        base, cues = self.context.base(), self.context.position_cues
        if base is None or not cues or self.context.route is None:
            return
        project, program = base
        ms, words, said = self.context.clock.ms, "", []
        for cue in cues:
            by = self._in_parent(program, cue, ms, dx, dy)
            try:
                project, words, says = self._dragged(project, program, cue, ms, by)
            except EditError as error:
                says = str(error)
            said += [says] if says else []
        if words:
            made = project
            self.workspace.gesture(
                words if len(cues) == 1 else tr("move {count} layers", count=len(cues)), lambda _: made
            )
        if said:
            self.workspace.said.emit(said[-1])

    @staticmethod
    def _in_parent(program: Program, cue: CueKey, ms: float, dx: float, dy: float) -> tuple[float, float]:
        """Px of the frame as px of the space that a cue's layer lies in at a moment."""
        slot = program.slot_of(cue.from_id, cue.to_id)
        up = int(program.parent[slot]) if slot >= 0 else -1
        back = affine.invert(program.at(ms).world()[up]) if up >= 0 else affine.identity()
        if back is None:
            return 0.0, 0.0
        return float(back[0] * dx + back[2] * dy), float(back[1] * dx + back[3] * dy)

    def _dragged(
        self, project: Project, program: Program, cue: CueKey, ms: float, by: tuple[float, float]
    ) -> tuple[Project, str, str]:
        """One layer dragged by so many px of the space that it lies in: the project, the entry's words, and what is to
        be said."""
        when = self.context.timed(cue)
        name = self.context.name(cue.of(""))
        if self.strip.from_here.isChecked():
            return self._from(project, cue, *by, ms)
        if ms <= when.start and cue.from_id is not None:
            return self._in_frame(project, program, cue, 0, by)
        if ms >= when.end and cue.to_id is not None:
            return self._in_frame(project, program, cue, 1, by)
        if not when.start < ms < when.end:
            raise EditError(tr("{name} is absent here: drag it where it is, or turn on “Arrive from here”.", name=name))
        slot = program.slot_of(cue.from_id, cue.to_id)
        if self.strip.keep.isChecked():
            return self.keyframes.dragged(project, program, cue, when, slot, ms, *by), "keyframe", ""
        return bend_motion_path(project, self.route_id, cue, program, slot, ms, by), tr("bend the motion path"), ""

    def _in_frame(
        self, project: Project, program: Program, cue: CueKey, side: int, by: tuple[float, float]
    ) -> tuple[Project, str, str]:
        home = frame_of_layer(project, cue[side] or "")
        if home is None:
            raise EditError(tr("This layer is made by the route and has no position of its own."))
        name = layer_index(home)[cue[side] or ""].name
        made = move_end(project, self.route_id, cue, side, program, *by)
        return made, tr("move {name}", name=name), tr("{name} is moved in {home} itself.", name=name, home=home.name)

    # From here

    def show_keep(self, on: bool) -> None:
        """What is changed in the Now view becomes a keyframe, or not; lit while it does."""
        if on:
            self.strip.from_here.setChecked(False)
        self.now.lit = tr("what you drag becomes a keyframe") if on else ""
        self.now.grips = on
        self.now.update()

    def show_from(self, on: bool) -> None:
        """Layers can be dragged to where they come from or go to; the Now view shows the frame that has them."""
        if on:
            self.strip.keep.setChecked(False)
        self.now.lit = tr("drag layers to where they come from or go to") if on else ""
        self.context.moment.emit()

    def standing(self) -> Scene | None:
        """While layers are dragged to where they come from: the whole frame, with the chosen one where it is put."""
        program, key = self.context.program, self.context.key
        if program is None or key is None or not self.strip.from_here.isChecked():
            return None
        return standing(program, key)

    def _from(self, project: Project, cue: CueKey, dx: float, dy: float, ms: float) -> tuple[Project, str, str]:
        """A layer without a partner comes from, or goes to, so many px from where it did."""
        route = self.context.route
        if route is None or (cue.from_id is not None and cue.to_id is not None):
            raise EditError(
                tr("{name} is in both frames: it comes from where it was.", name=self.context.name(cue.of("")))
            )
        route_id, whole = self.route_id, cue.of("")
        pose = away_now(project, route_id, cue)
        when = timed(project, route_by_id(project, route_id).transition, *whole)
        lasts = when.duration if when.own_time else _COMES
        moment = ms if 0.0 < ms < self.context.clock.length else (when.end if cue.from_id is None else when.start)
        made = set_shift(project, route_id, cue, round(pose.shift_x + dx, 1), round(pose.shift_y + dy, 1))
        start, end = (max(0.0, moment - lasts), moment) if cue.from_id is None else (moment, moment + lasts)
        made = place_cue(made, route_id, whole, start, end)
        return made, tr("comes from here") if cue.from_id is None else tr("goes there"), ""

    # Ways

    def _shape(self, words: str, change: object, gesture: bool = False) -> None:
        cue, program = self.context.position_cue, self.context.program
        if cue is None or program is None or self.context.slot < 0:
            return
        slot = self.context.slot
        does = self.workspace.gesture if gesture else self.workspace.do
        does(words, lambda p: shape_motion_path(p, self.route_id, cue, program, slot, change))  # type: ignore[arg-type]

    def _drag_point(self, which: int, x: float, y: float) -> None:
        self._shape(tr("bend the motion path"), lambda points: paths.moved(points, which, (x, y)), gesture=True)

    def _pull(self, from_x: float, from_y: float, x: float, y: float) -> None:
        """The path pulled where it was pressed: one node more there, which is dragged along."""
        cue, base, slot = self.context.position_cue, self.context.base(), self.context.slot
        if cue is None or base is None or slot < 0:
            return
        project, program = base
        made: list[int] = []

        def change(points: Floats) -> Floats:
            new, k = paths.with_node(points, paths.ArcLengthPath(points).length_near(from_x, from_y))
            made[:] = [k]
            return paths.moved(new, k, (x, y))

        pulled = shape_motion_path(project, self.route_id, cue, program, slot, change)
        if self.context.selection.point != made[-1]:  # choosing ends a gesture: once, before it begins
            self.context.select(self.context.selection.with_point(made[-1]))
        self.workspace.gesture(tr("bend the motion path"), lambda _: pulled)

    def _add_node(self, x: float, y: float) -> None:
        back = affine.invert(self.now.parent_world())
        if back is None:
            return
        px, py = (float(v) for v in affine.apply(back, np.array([x, y])))
        made: list[int] = []

        def change(points: Floats) -> Floats:
            new, k = paths.with_node(points, paths.ArcLengthPath(points).length_near(px, py))
            made.append(k)
            return new

        self._shape(tr("add a point"), change)
        if made:
            self.context.select(self.context.selection.with_point(made[-1]))

    def _smooth(self, which: int) -> None:
        """Round or straight at a node, whichever it is not."""

        def change(points: Floats) -> Floats:
            round_ = paths.smoothed(points, which)
            return paths.straightened(points, which) if np.allclose(round_, points, atol=1e-3) else round_

        self._shape(tr("round or straight"), change)

    def path_points(self, ident: str) -> Floats | None:
        """The first outline of a path layer of either frame (1 + 3 n, 2), in the frame."""
        for frame in self.context.ends or ():
            flat = flatten(frame)
            i = flat.index.get(ident, -1)
            body = flat.layers[i].body if i >= 0 else None
            if isinstance(body, Path) and body.subpaths:
                points = np.array(body.subpaths[0].points, float).reshape(-1, 2)
                return affine.apply(flat.world[i], points)
        return None

    def path_layers(self) -> list[tuple[str, str]]:
        """Path layers of both frames: id and name, each once."""
        found = {
            layer.id: f"{layer.name} ({frame.name})"
            for frame in self.context.ends or ()
            for layer in layer_index(frame).values()
            if isinstance(layer.body, Path)
        }
        return list(found.items())[:_MOST_PATHS]

    def menu(self) -> QMenu:
        """How the chosen layer goes: straight, leaning, or along one of the frames' path layers."""
        cue = self.context.position_cue
        menu = QMenu(self.window)
        when = self.context.timed(cue) if cue is not None and self.context.route is not None else None
        straight = menu.addAction(tr("Straight"))
        straight.setEnabled(when is not None and when.motion_path is not None)
        straight.triggered.connect(lambda _=False: self.straight())
        leans = menu.addAction(tr("Rotates along the path"))
        leans.setCheckable(True)
        leans.setChecked(when is not None and when.motion_path is not None and when.motion_path.rotates)
        leans.triggered.connect(lambda on: self.lean(on))
        menu.addSeparator()
        found = self.path_layers()
        for ident, name in found:
            menu.addAction(tr("Along {name}", name=name)).triggered.connect(
                lambda _=False, ident=ident: self.take_path(ident)
            )
        if not found:
            menu.addAction(tr("No path layer in either frame")).setEnabled(False)
        return menu

    def straight(self) -> None:
        """The chosen layer goes straight again."""
        cue, program, slot = self.context.position_cue, self.context.program, self.context.slot
        if cue is None or program is None or slot < 0 or self.context.timed(cue).motion_path is None:
            self.workspace.said.emit(tr("The chosen layer has no motion path: it goes straight."))
        else:
            self.workspace.do(
                tr("straight path"), lambda p: set_motion_path(p, self.route_id, cue, program, slot, None)
            )

    def lean(self, on: bool) -> None:
        """Whether the layer rotates along the path."""
        cue = self.context.position_cue
        if cue is not None:
            when = self.context.timed(cue)
            way = when.motion_path if when.motion_path is not None else MotionPath()
            made = MotionPath(way.points, on, way.pace)
            self.workspace.do(
                tr("rotate along the path"), lambda p: change_cues(p, self.route_id, [cue], motion_path=made)
            )

    def take_path(self, ident: str) -> None:
        """A path layer of one of the frames as the way of the chosen layer."""
        cue, program, slot = self.context.position_cue, self.context.program, self.context.slot
        points = self.path_points(ident)
        back = affine.invert(self.now.parent_world())
        if cue is None or program is None or points is None or back is None or slot < 0:
            return
        when = self.context.timed(cue)
        way = motion_path_of(
            affine.apply(back, points), when.motion_path.rotates if when.motion_path is not None else False
        )
        self.workspace.do(tr("take a path"), lambda p: set_motion_path(p, self.route_id, cue, program, slot, way))
