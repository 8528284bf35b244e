"""Timing: lengths, starts and curves, while it plays."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from avelt.core.curves.named import plain, title
from avelt.core.model.find import frame_by_id, frame_of_entrance
from avelt.core.model.motion import CueKey, PairKey
from avelt.core.model.values import Route
from avelt.core.timing.over import ends
from avelt.core.timing.schedule import duration_of, end_of, plan_of, timed
from avelt.core.words import tr
from avelt.window.common import station_keys
from avelt.window.common.menus import open_at
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.split import Split
from avelt.window.timing.code_panel import CodePanel
from avelt.window.timing.context import TimingContext
from avelt.window.timing.controllers.cues import CueController
from avelt.window.timing.controllers.curves import CurveController
from avelt.window.timing.controllers.entrances import EntranceController
from avelt.window.timing.controllers.keyframes import KeyframeController
from avelt.window.timing.controllers.motion_path import MotionPathController
from avelt.window.timing.controllers.picking import PickController
from avelt.window.timing.controllers.ties import TieController
from avelt.window.timing.controllers.tryouts import TryoutController
from avelt.window.timing.controllers.values import ValueController
from avelt.window.timing.keys import KEYS, RULER
from avelt.window.timing.rows import Row, Wanted, arranged, says, sheet_rows
from avelt.window.timing.selection import Selection
from avelt.window.timing.sheet import Sheet
from avelt.window.timing.stage import Stage
from avelt.window.timing.strip import Strip
from avelt.window.timing.top_bar import TimingBar, trigger_words
from avelt.window.timing.trail import Trail, lag_of, travel_words

_SPLIT = 0.55  # of the height, what plays
_GRID = 10.0  # ms


class TimingStation(QWidget):
    """The station: from, now, curve, to; the sheet under them. What is done with them is in the controllers."""

    save_preset = Signal(object)  # ends

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.clock = Clock(self)
        self.trail = Trail(self)
        self.context = TimingContext(workspace, self.clock, self)
        self.full = False
        self._opened: frozenset[PairKey] = frozenset()
        self._by_hand: tuple[PairKey, ...] = ()
        self._stale = True
        self.bar = TimingBar()
        self.length, self.base, self.roles, self.save = self.bar.length, self.bar.base, self.bar.roles, self.bar.save
        self.strip = Strip()
        self.search, self.shows, self.sorts = self.strip.search, self.strip.shows, self.strip.sorts
        self.stage = Stage(workspace, self.context, self.clock)
        self.now, self.panel, self.curve_editor = self.stage.now, self.stage.panel, self.stage.curve
        self.from_view, self.to_view = self.stage.left.view, self.stage.right.view
        self.quiet, self.play, self.speeds = self.panel.quiet, self.panel.play, self.panel.speeds
        self.sheet = Sheet(workspace.theme, self.context)
        self.empty = EmptyPlace(
            tr("There is no transition yet. Make one in Routes by clicking the cell between two frames."),
            tr("Go to Routes"),
            lambda: workspace.station_wanted.emit("routes"),
        )
        self.rows_area = QWidget()
        below = QVBoxLayout(self.rows_area)
        below.setContentsMargins(0, 4, 0, 0)
        below.setSpacing(8)
        below.addWidget(self.strip)
        self.code = CodePanel(self.context)
        beside = QHBoxLayout()
        beside.setSpacing(8)
        beside.addWidget(self.sheet, 1)
        beside.addWidget(self.code)
        below.addLayout(beside, 1)
        self.body = Split(self.stage, self.rows_area, workspace.remembered, "timing.split", _SPLIT)
        self.body.setContentsMargins(12, 8, 12, 12)
        lay_out(self, self.bar.frame, self.body, self.empty)
        self._control()
        self._connect()

    def _control(self) -> None:
        """What the parts ask for becomes edits in the controllers; each is handed what it wires."""
        context, sheet = self.context, self.sheet
        self.keyframes = KeyframeController(context, self, sheet.body, self.now)
        self.cues = CueController(context, self, sheet, self.curve_editor, self.bar, self.keyframes)
        self.curves = CurveController(context, self, self.curve_editor, self.cues)
        self.entrances = EntranceController(context, self, self.bar)
        self.motion_paths = MotionPathController(context, self, self.now, self.strip, self.keyframes)
        self.ties = TieController(
            context, self, sheet.body, self.strip, self.now, self.keyframes, self.cues, self.entrances
        )
        self.ties.straight_wanted.connect(self.motion_paths.straight)
        self.picking = PickController(context, self, self.stage, sheet.body, self.ties, self._turn)
        self.values = ValueController(context, self, sheet.body)
        self.tryouts = TryoutController(context, self, self.strip)
        layout = self.layout()
        if layout is not None:
            layout.addWidget(self.tryouts.panel)

    def _connect(self) -> None:
        workspace, context, body, strip = self.workspace, self.context, self.sheet.body, self.strip
        context.shown.connect(self._show_other)
        context.selected.connect(self._selected)
        context.measured.connect(self.measure)
        context.moment.connect(lambda: self.tick(self.clock.ms))
        context.row_wanted.connect(self.open_row)
        self.sheet.resized.connect(self._keep_in_sight, Qt.ConnectionType.QueuedConnection)
        context.refresh_wanted.connect(self.refresh)
        self.tryouts.closed.connect(body.setFocus)
        workspace.changed.connect(lambda change: self._outdated() if change.concerns(context.route) else None)
        workspace.routed.connect(self._routed)
        workspace.theme.changed.connect(self._outdated)
        self.clock.ticked.connect(self.tick)
        self.trail.moved.connect(lambda: self.tick(self.clock.ms))
        self.panel.full_wanted.connect(lambda: self.show_full(not self.full))
        self.save.clicked.connect(lambda: self.save_preset.emit(context.key.pair if context.key else None))
        self.sheet.head.scrubbed.connect(self._scrubbed)
        self.sheet.head.range_wanted.connect(self._set_range)
        self.sheet.head.menu_wanted.connect(lambda at: open_at(station_keys.menu_of(KEYS, RULER, self), at))
        body.picked.connect(self.pick)
        body.picked_also.connect(self.pick_also)
        body.ranged.connect(self.pick_range)
        body.toggled.connect(self.toggle)
        body.row_moved.connect(self._move_row)
        self.search.textChanged.connect(lambda _: self.refresh())
        for chooser in (self.shows, self.sorts):
            chooser.activated.connect(lambda _: self.refresh())
        strip.fit.clicked.connect(self.fit)
        strip.key.clicked.connect(self.keyframes.keyframe_here)
        strip.from_here.toggled.connect(lambda on: self.motion_paths.show_from(on))
        strip.keep.toggled.connect(lambda on: self.motion_paths.show_keep(on))
        strip.side_by_side.clicked.connect(self.try_out)
        strip.code.toggled.connect(lambda on: self.code.open() if on else self.code.hide())
        self.code.closed.connect(lambda: strip.code.setChecked(False))

    # Showing

    def enter(self) -> None:
        """The station comes to the front; without any route with the entrance of a frame, where there is one."""
        if self.context.route is None:
            living = (frame.id for frame in self.workspace.project.frames if frame.entrance is not None)
            self.context.show_entrance(next(living, ""))
        if self._stale:
            self.refresh()

    def leave(self) -> None:
        """Another station comes to the front."""
        self.clock.stop()

    def _outdated(self) -> None:
        self._stale = True
        if self.isVisible():
            self.refresh()

    def _routed(self) -> None:
        self.context.show_entrance("")

    def _show_other(self) -> None:
        """Another route, or entrance, is shown: nothing chosen, everything folded, all of it played."""
        self.context.select(Selection())
        self._opened, self._by_hand = frozenset(), ()
        self._set_range(None)
        self.strip.from_here.setChecked(False)
        self.tryouts.close()
        self.sheet.fit()
        self._outdated()

    def refresh(self) -> None:
        """Take everything over from the project."""
        self._stale = False
        route, project = self.context.route, self.workspace.project
        shown = self.body if not self.tryouts.open else self.tryouts.panel
        for part in (self.body, self.tryouts.panel):
            part.setVisible(route is not None and part is shown)
        self.bar.frame.setVisible(route is not None and not self.full)
        self.empty.setVisible(route is None)
        if route is None:
            self.context.program = None
            self.clock.stop()
            return
        self.context.ends = ends(project, route)
        self.context.program = self.workspace.program(route)
        self._show_names(route)
        self.measure()
        wanted = Wanted(self.search.text(), self.shows.currentData(), self.sorts.currentData())
        rows = sheet_rows(project, route, self.context.program, self._opened, wanted.deep, wanted.everything)
        rows = arranged(rows, wanted, self._by_hand)
        self._keep_choice(rows)
        plan = plan_of(project, route.transition)
        staggers = tuple((rule, len(plan.moved(rule))) for rule in route.transition.staggers)
        self.sheet.body.show_rows(rows, route.transition.ties, staggers)
        self.curves.follow()
        self.tryouts.refresh()
        self.show_key()
        self.tick(self.clock.ms)

    def measure(self) -> None:
        """How long everything is, for the clock and the sheet."""
        route, project = self.context.route, self.workspace.project
        if route is not None:
            whole = end_of(route.transition, project)
            self.clock.set_duration(max(whole, self.tryouts.longest()))
            self.sheet.set_duration(whole, duration_of(route.transition, project))

    def _show_names(self, route: Route) -> None:
        project, palette = self.workspace.project, self.workspace.theme.palette
        left, right = frame_by_id(project, route.leaves), frame_by_id(project, route.arrives)
        words = (tr("Before"), tr("After")) if frame_of_entrance(route.id) else (tr("From"), tr("To"))
        self.bar.show_route(project, route, self.tryouts.open)
        colours = (palette.leaves_text, palette.arrives_text)
        sides = (self.stage.left, self.stage.right)
        for side, colour, word, frame in zip(sides, colours, words, (left, right), strict=True):
            side.title.setText(f"<b style='color:{colour}'>{word}</b> {frame.name}")
        self.strip.side_by_side.setEnabled(not frame_of_entrance(route.id))

    def _keep_choice(self, rows: tuple[Row, ...]) -> None:
        """Keep what is chosen true to the rows; with nothing left, what changes most to look at is chosen."""
        self.context.rows = rows
        chosen = self.context.selection
        there = {entry.key for entry in rows}
        ends = {entry.ends for entry in rows}
        kept = tuple(key for key in chosen.cues[:-1] if key in there)
        key = chosen.key
        if key is None or key.pair not in ends:
            ranked = sorted(rows, key=lambda entry: (not entry.changes, entry.role != "both", not entry.timed.own_time))
            key = ranked[0].key if ranked else None
        cues = tuple(entry for entry in kept if entry != key) + ((key,) if key is not None else ())
        if cues != chosen.cues:
            same = chosen.key == key
            self.context.select(replace(chosen, cues=cues) if same else Selection(cues))

    def show_key(self) -> None:
        """Everything about the chosen cue."""
        route, project, key = self.context.route, self.workspace.project, self.context.key
        if route is None or self.context.program is None or self.context.ends is None:
            return
        for widget in (self.save, self.curve_editor, self.strip.key, self.strip.way):
            widget.setEnabled(key is not None)
        left_frame, right_frame = self.context.ends
        if key is None:
            self.from_view.show_frame(left_frame, "")
            self.to_view.show_frame(right_frame, "")
            self.now.choose(-1)
            self.quiet.setText(tr("Nothing moves here."))
            return
        left, right, prop = key
        self.from_view.show_frame(left_frame, left)
        self.to_view.show_frame(right_frame, right)
        self.now.choose(self.context.slot)
        when = self.context.timed(key)
        shift = next((s.shift for s in route.transition.settled if (s.from_id, s.to_id) == (left, right)), 0.0)
        self.curve_editor.show_own(prop, when, shift if left and right else None)
        self._show_curve(route, key)
        self.quiet.setText(says(project, route, key))
        self.quiet.setToolTip(self.quiet.text())  # for narrow places
        self.motion_paths.show()
        self._show_share()

    def _span(self, key: CueKey) -> tuple[float, float]:
        """From when to when the curve that is shown runs: the cue's time, or that before its chosen keyframe."""
        when = self.context.timed(key)
        keyframe, place = self.keyframes.keyframe(), self.context.selection.keyframe
        if keyframe is None:
            return when.start, when.end
        first = when.keyframes[place - 1].at if place else 0.0
        return when.start + first * when.duration, when.start + keyframe.at * when.duration

    def _show_curve(self, route: Route, key: CueKey) -> None:
        """The chosen cue's curve in the editor, or the curve into its chosen keyframe."""
        project, prop = self.workspace.project, key.prop
        left, right, _ = key
        when = self.context.timed(key)
        name = self.context.name(key)
        keyframe, place = self.keyframes.keyframe(), self.context.selection.keyframe
        if keyframe is not None:
            curve = keyframe.curve if keyframe.curve is not None else when.curve
            self.curve_editor.show_cue(
                project,
                tr("Into keyframe {place} of {name}", place=place + 1, name=name),
                tr("its own curve") if keyframe.curve is not None else tr("the cue's curve"),
                curve,
                plain(project, curve),
                when.plain if keyframe.curve is not None else None,
                *self._span(key),
                keyframe.curve is not None,
            )
            return
        above = timed(project, route.transition, left, right, "") if prop else None
        ghost = above.plain if above else plain(project, route.transition.curve)
        count = len(self.context.keys)
        self.curve_editor.show_cue(
            project,
            tr("Curve of {count} cues", count=count) if count > 1 else tr("Curve of {name}", name=name),
            tr("own curve") if when.own_curve else tr("inherits {project}", project=title(project, when.curve)),
            when.curve,
            when.plain,
            ghost if when.own_curve else None,
            when.start,
            when.end,
            when.own_curve or when.own_time,
        )

    def tick(self, ms: float) -> None:
        """Show a moment."""
        if self.context.program is None:
            return
        if self.tryouts.open:
            self.tryouts.tick(ms)
            return
        route, whole = self.context.route, max(self.clock.length, 1e-9)
        # Played it goes by the clock; driven by hand over its travel a motion that follows a value comes after.
        share = self.trail.drive(ms / whole, 0.0 if self.clock.playing else lag_of(route))
        there = share * whole if self.trail.catches_up else ms
        self.now.show_scene(self.motion_paths.standing() or self.context.program.at(there))
        self.panel.show_time(ms, self.clock.length, travel_words(route, ms / whole))
        self.sheet.set_now(ms, there if self.trail.catches_up else None)
        self._show_share()

    def _show_share(self) -> None:
        route = self.context.route
        if route is None or self.context.key is None:
            self.curve_editor.set_share(None)
            return
        first, last = self._span(self.context.key)
        self.curve_editor.set_share(min(1.0, max(0.0, (self.clock.ms - first) / max(last - first, 1e-9))))

    def _scrubbed(self, ms: float) -> None:
        self.clock.stop()
        self.clock.seek(ms)

    # Choosing

    def pick(self, key: CueKey) -> None:
        """Choose a row of the sheet, and its layer in the other stations."""
        self.context.select(Selection((key,)))
        self.picking.tell()

    def pick_also(self, key: CueKey) -> None:
        """One row more to what is chosen, or one less; the newest is shown in full."""
        self.context.select(self.context.selection.toggled(key))
        self.picking.tell()

    def _keep_in_sight(self) -> None:
        """The chosen row is seen when there is less room, too."""
        if self.context.key is not None:
            self.sheet.reveal(self.context.key)

    def _selected(self) -> None:
        """Show what is chosen now."""
        self.sheet.body.update()
        if self.context.key is not None:
            self.sheet.reveal(self.context.key)
        self.now.update()
        self.show_key()
        if self.now.watched or self.strip.from_here.isChecked():
            self.tick(self.clock.ms)

    def pick_range(self, keys: tuple[CueKey, ...]) -> None:
        """Choose several rows at once; the last is shown in full."""
        if keys:
            self.context.select(Selection(cues=keys))

    def toggle(self, ends: PairKey) -> None:
        """Open or close a layer's properties."""
        self._turn({ends})

    def _turn(self, ends: set[PairKey]) -> None:
        """Open what is closed of some layers, and close what is open."""
        self._opened = self._opened ^ ends
        self.refresh()

    def open_row(self, key: CueKey) -> None:
        """A property's row, with its layer opened."""
        if key.pair not in self._opened:
            self.toggle(key.pair)
        self.pick(key)

    def _move_row(self, ends: PairKey, before: PairKey | None) -> None:
        """A layer's rows stand before another's; only in this view."""
        order = [entry.ends for entry in self.sheet.body.rows if not entry.prop and entry.ends != ends]
        place = order.index(before) if before in order else len(order)
        self._by_hand = (*order[:place], ends, *order[place:])
        self.refresh()

    # What is seen

    def mark(self, what: str) -> None:
        """The part that plays begins ("in") or ends ("out") at the playhead; all plays again (empty)."""
        low, high = self.clock.play_range or (0.0, self.clock.length)
        ms = self.clock.ms
        if what == "in":
            self._set_range((ms, max(high, ms + 1.0)))
        elif what == "out":
            self._set_range((min(low, max(0.0, ms - 1.0)), ms))
        else:
            self._set_range(None)

    def _set_range(self, wanted: tuple[float, float] | None) -> None:
        self.clock.play_range = self.sheet.head.play_range = wanted
        self.sheet.head.update()

    def fit(self) -> None:
        """All of the time in the sheet, all of the frame in the Now view."""
        self.sheet.fit()
        self.now.set_zoom(1.0)

    def switch_grid(self) -> None:
        """What is dragged in the sheet snaps to a grid, or not."""
        body = self.sheet.body
        body.grid = 0.0 if body.grid else _GRID
        self.workspace.said.emit(
            tr("Ends snap to every {grid:.0f} ms.", grid=_GRID) if body.grid else tr("Ends snap to no grid.")
        )

    def show_full(self, on: bool) -> None:
        """Only the Now view, or everything."""
        self.full = on
        self.stage.show_only_now(on)
        self.rows_area.setVisible(not on)
        self.body.apply()
        self.panel.full.setText(tr("Back") if on else tr("Full"))
        self.refresh()

    def try_out(self) -> None:
        """Versions side by side, or back to the sheet."""
        self.tryouts.toggle()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Home:
            self.clock.seek(self.clock.reach()[0])
        elif event.key() == Qt.Key.Key_End:
            self.clock.seek(self.clock.reach()[1])
        elif event.key() == Qt.Key.Key_Escape and (self.full or self.tryouts.open):
            if self.tryouts.open:
                self.tryouts.toggle()
            else:
                self.show_full(False)
        elif not station_keys.press(KEYS, self, event):
            super().keyPressEvent(event)


__all__ = ["Row", "TimingStation", "trigger_words"]
