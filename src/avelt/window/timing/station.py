"""Timing: lengths, starts and curves, while it plays."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from avelt.core.curves.named import plain, title
from avelt.core.model.curves import Curve
from avelt.core.model.find import frame_by_id, frame_of_entrance, layer_index
from avelt.core.model.motion import CueKey
from avelt.core.model.properties import BY_KEY
from avelt.core.model.values import Frame, Route
from avelt.core.presets.capture import Ends
from avelt.core.timing.over import ends
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import duration_of, end_of, timed
from avelt.window.common import station_keys
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import column, label, panel
from avelt.window.controls.views import FrameView
from avelt.window.timing.bench import Bench
from avelt.window.timing.cue_deeds import CueDeeds
from avelt.window.timing.entrance_deeds import EntranceDeeds
from avelt.window.timing.hang_deeds import HangDeeds
from avelt.window.timing.key_deeds import KeyDeeds
from avelt.window.timing.keys import KEYS
from avelt.window.timing.naming import CurveNames
from avelt.window.timing.now_panel import NowPanel
from avelt.window.timing.now_view import NowView
from avelt.window.timing.rows import Row, Wanted, arranged, says, sheet_rows
from avelt.window.timing.sheet import Sheet
from avelt.window.timing.strip import Strip
from avelt.window.timing.top_bar import TimingBar, trigger_words
from avelt.window.timing.tryouts import TryoutDeeds
from avelt.window.timing.value_deeds import ValueDeeds
from avelt.window.timing.way_deeds import WayDeeds

_MIDDLE = 352  # px
_GRID = 10.0  # ms


class TimingStation(QWidget):
    """The station: from, now, bench, to; the sheet under them. What is done with them is in the deeds beside it."""

    save_preset = Signal(object)  # ends

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.clock = Clock(self)
        self.program: Program | None = None
        self.key: CueKey | None = None
        self.also: tuple[CueKey, ...] = ()
        self.full = False
        self._opened: frozenset[Ends] = frozenset()
        self._by_hand: tuple[Ends, ...] = ()
        self._stale = True
        self.bar = TimingBar()
        self.length, self.base, self.roles, self.save = self.bar.length, self.bar.base, self.bar.roles, self.bar.save
        self.strip = Strip()
        self.search, self.shows, self.sorts = self.strip.search, self.strip.shows, self.strip.sorts
        self._make_middle()
        self.sheet = Sheet(workspace.theme)
        self.empty = EmptyPlace(
            "There is no transition yet. Make one in Routes by clicking the cell between two frames.",
            "Go to Routes",
            lambda: workspace.station_wanted.emit("routes"),
        )
        self.body = QWidget()
        self._inner = QVBoxLayout(self.body)
        self._inner.setContentsMargins(12, 8, 12, 12)
        self._inner.setSpacing(8)
        self._inner.addLayout(self.middle, 0)
        self._inner.addWidget(self.strip)
        self._inner.addWidget(self.sheet, 1)
        lay_out(self, self.bar.frame, self.body, self.empty)
        self._connect()
        self.names, self.hang, self.ways = CurveNames(self), HangDeeds(self), WayDeeds(self)
        self.keyframes, self.values = KeyDeeds(self), ValueDeeds(self)
        self.cues, self.entrances, self.tryouts = CueDeeds(self), EntranceDeeds(self), TryoutDeeds(self)
        self.drawer = self.names.drawer
        self.drawer.taken.connect(self.cues.choose_named)

    # Making

    def _make_middle(self) -> None:
        self.from_view, self.to_view = FrameView(self.workspace, "from"), FrameView(self.workspace, "to")
        self.from_title, self.to_title = label(""), label("")
        self.now = NowView(self.workspace)
        self.now.setMinimumWidth(190)
        self.panel = NowPanel(self.now, self.clock)
        self.quiet, self.play, self.speeds = self.panel.quiet, self.panel.play, self.panel.speeds
        self.bench = Bench(self.workspace.theme)
        self.paper = panel()
        inside = QHBoxLayout(self.paper)
        inside.setContentsMargins(14, 10, 14, 10)
        inside.setSpacing(16)
        inside.addWidget(self.now, 3)
        inside.addWidget(self.panel)
        inside.addWidget(self.bench, 5)
        self.paper.setFixedHeight(_MIDDLE)
        self.middle = QHBoxLayout()
        self.middle.setSpacing(14)
        self._sides = [self._side(self.from_title, self.from_view), self._side(self.to_title, self.to_view)]
        self.middle.addWidget(self._sides[0])
        self.middle.addWidget(self.paper, 1)
        self.middle.addWidget(self._sides[1])

    @staticmethod
    def _side(title_label: QWidget, view: QWidget) -> QWidget:
        made = QWidget()
        inner = column(title_label, view, spacing=4)
        inner.setStretch(1, 1)
        inner.setContentsMargins(0, 0, 0, 0)
        made.setLayout(inner)
        made.setFixedWidth(184)
        return made

    def _connect(self) -> None:
        workspace, body, strip = self.workspace, self.sheet.body, self.strip
        workspace.changed.connect(lambda _: self._outdated())
        workspace.routed.connect(self._routed)
        workspace.chose.connect(self._chose)
        workspace.theme.changed.connect(self._outdated)
        self.clock.ticked.connect(self.tick)
        self.panel.full_wanted.connect(lambda: self.show_full(not self.full))
        self.save.clicked.connect(lambda: self.save_preset.emit(self.key[:2] if self.key else None))
        self.from_view.picked.connect(lambda ident: self._pick_layer(ident, None))
        self.to_view.picked.connect(lambda ident: self._pick_layer(None, ident))
        self.now.pressed.connect(self._pressed_in_now)
        self.sheet.head.scrubbed.connect(self._scrubbed)
        self.sheet.head.part_wanted.connect(self._set_part)
        body.picked.connect(self.pick)
        body.picked_also.connect(self.pick_also)
        body.toggled.connect(self.toggle)
        body.reset.connect(self.inherit)
        body.row_moved.connect(self._move_row)
        self.bench.inherited.connect(lambda: self.inherit(self.key))
        self.search.textChanged.connect(lambda _: self.refresh())
        for chooser in (self.shows, self.sorts):
            chooser.activated.connect(lambda _: self.refresh())
        strip.fit.clicked.connect(self.fit)
        strip.key.clicked.connect(lambda: self.keyframes.keyframe_here())
        strip.from_here.toggled.connect(lambda on: self.ways.show_from(on))
        strip.keep.toggled.connect(lambda on: self.ways.show_keep(on))
        strip.side_by_side.clicked.connect(self.try_out)

    # Showing

    @property
    def ends(self) -> tuple[Frame, Frame]:
        """What is on screen before and after."""
        return self._ends

    @property
    def route(self) -> Route | None:
        """The route that is shown; an entrance as a route in its frame."""
        return self.entrances.route or self.workspace.route

    def enter(self) -> None:
        """The station comes to the front."""
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
        self.entrances.frame_id = ""
        self.show_other()

    def show_other(self) -> None:
        """Another route, or entrance, is shown: nothing chosen, everything folded, all of it played."""
        self.key, self.also = None, ()
        self._opened, self._by_hand = frozenset(), ()
        self._set_part(None)
        self.strip.from_here.setChecked(False)
        self.tryouts.close()
        self.sheet.fit()
        self._outdated()

    def refresh(self) -> None:
        """Take everything over from the project."""
        self._stale = False
        route, project = self.route, self.workspace.project
        shown = self.body if not self.tryouts.open else self.tryouts.panel
        for part in (self.body, self.tryouts.panel):
            part.setVisible(route is not None and part is shown)
        self.bar.frame.setVisible(route is not None and not self.full)
        self.empty.setVisible(route is None)
        if route is None:
            self.program = None
            self.clock.stop()
            return
        self._ends = ends(project, route)
        self.program = self.workspace.program(route)
        self._show_names(route)
        self.measure()
        wanted = Wanted(self.search.text(), self.shows.currentData(), self.sorts.currentData())
        rows = sheet_rows(project, route, self.program, self._opened, wanted.deep, wanted.everything)
        rows = arranged(rows, wanted, self._by_hand)
        self._keep_choice(rows)
        self.sheet.body.show_rows(rows, route.transition.ties, route.transition.staggers)
        self.names.follow()
        self.tryouts.refresh()
        self.show_key()
        self.tick(self.clock.ms)

    def measure(self) -> None:
        """How long everything is, for the clock and the sheet."""
        route, project = self.route, self.workspace.project
        if route is not None:
            whole = end_of(route.transition, project)
            self.clock.set_duration(max(whole, self.tryouts.longest()))
            self.sheet.set_duration(whole, duration_of(route.transition, project))

    def _show_names(self, route: Route) -> None:
        project, palette = self.workspace.project, self.workspace.theme.palette
        left, right = frame_by_id(project, route.leaves), frame_by_id(project, route.arrives)
        words = ("Before", "After") if frame_of_entrance(route.id) else ("From", "To")
        self.bar.show_route(project, route, self.tryouts.open)
        self.from_title.setText(f"<b style='color:{palette.leaves_text}'>{words[0]}</b> {left.name}")
        self.to_title.setText(f"<b style='color:{palette.arrives_text}'>{words[1]}</b> {right.name}")
        self.strip.side_by_side.setEnabled(not frame_of_entrance(route.id))

    def _keep_choice(self, rows: tuple[Row, ...]) -> None:
        if self.key is None or self.key[:2] not in {entry.ends for entry in rows}:
            ranked = sorted(rows, key=lambda entry: (not entry.changes, entry.role != "both", not entry.timed.own_time))
            self.key = ranked[0].key if ranked else None
        there = {entry.key for entry in rows}
        self.also = tuple(entry for entry in self.also if entry in there and entry != self.key)
        self.sheet.body.chosen, self.sheet.body.also = self.key, frozenset(self.also)

    def show_key(self) -> None:
        """Everything about the chosen cue."""
        route, project = self.route, self.workspace.project
        if route is None or self.program is None:
            return
        for widget in (self.save, self.bench, self.strip.key, self.strip.timing, self.strip.way):
            widget.setEnabled(self.key is not None)
        if self.key is None:
            self.from_view.show_frame(self._ends[0], "")
            self.to_view.show_frame(self._ends[1], "")
            self.now.choose(-1)
            self.quiet.setText("Nothing moves here.")
            return
        left, right, prop = self.key
        self.from_view.show_frame(self._ends[0], left)
        self.to_view.show_frame(self._ends[1], right)
        self.now.choose(self._slot_of(left, right))
        when = timed(project, route.transition, *self.key)
        shift = next((s.shift for s in route.transition.settled if (s.from_id, s.to_id) == (left, right)), 0.0)
        self.bench.show_own(prop, when, shift if left and right else None)
        self._show_feel(self.key)
        self.quiet.setText(says(project, route, self.key))
        self.ways.show()
        self._show_share()

    def _span(self, key: CueKey) -> tuple[float, float]:
        """From when to when the curve on the bench runs: the cue's time, or that before its chosen key."""
        assert self.route is not None
        when = timed(self.workspace.project, self.route.transition, *key)
        keyframe, place = self.keyframes.keyframe(), self.sheet.body.keyframe
        if keyframe is None:
            return when.start, when.end
        first = when.keyframes[place - 1].at if place else 0.0
        return when.start + first * when.duration, when.start + keyframe.at * when.duration

    def _show_feel(self, key: CueKey) -> None:
        """The chosen cue's curve on the bench, or the curve into its chosen key."""
        route, project = self.route, self.workspace.project
        assert route is not None
        left, right, prop = key
        when = timed(project, route.transition, *key)
        name = f"{self.name((left, right, ''))}{' · ' + BY_KEY[prop].label if prop else ''}"
        keyframe, place = self.keyframes.keyframe(), self.sheet.body.keyframe
        if keyframe is not None:
            curve = keyframe.curve if keyframe.curve is not None else when.curve
            where = "its own curve" if keyframe.curve is not None else "the cue's curve"
            self.bench.show_cue(
                project,
                f"Into key {place + 1} of {name}",
                where,
                curve,
                plain(project, curve),
                when.plain if keyframe.curve is not None else None,
                *self._span(key),
                keyframe.curve is not None,
            )
            return
        above = timed(project, route.transition, left, right, "") if prop else None
        ghost = above.plain if above else plain(project, route.transition.curve)
        subject = f"Feel of {len(self.keys())} cues" if self.also else f"Feel of {name}"
        where = "own curve" if when.own_curve else f"inherits {title(project, when.curve)}"
        self.bench.show_cue(
            project,
            subject,
            where,
            when.curve,
            when.plain,
            ghost if when.own_curve else None,
            when.start,
            when.end,
            when.own_curve or when.own_time,
        )

    def _slot_of(self, left: str | None, right: str | None) -> int:
        assert self.program is not None
        for s, part in enumerate(self.program.contents):
            if ((part.left.id if part.left else None), (part.right.id if part.right else None)) == (left, right):
                return s
        return -1

    def tick(self, ms: float) -> None:
        """Show a moment."""
        if self.program is None:
            return
        if self.tryouts.open:
            self.tryouts.tick(ms)
            return
        self.now.show_scene(self.ways.standing() or self.program.at(ms))
        self.panel.show_time(ms, self.clock.length)
        self.sheet.set_now(ms)
        self._show_share()

    def _show_share(self) -> None:
        route = self.route
        if route is None or self.key is None:
            self.bench.set_share(None)
            return
        first, last = self._span(self.key)
        self.bench.set_share(min(1.0, max(0.0, (self.clock.ms - first) / max(last - first, 1e-9))))

    def _scrubbed(self, ms: float) -> None:
        self.clock.stop()
        self.clock.seek(ms)

    # Choosing

    def pick(self, key: CueKey, tell: bool = True) -> None:
        """Choose a row of the sheet; ``tell`` the workspace, unless the choice came from there."""
        self.key, self.also = key, ()
        body = self.sheet.body
        body.chosen, body.also, body.keyframe = key, frozenset(), -1
        body.update()
        self.sheet.reveal(key)
        ident = key[0] or key[1]
        if ident and tell:
            self.workspace.choose_layer(ident)
        self.show_key()
        if self.now.watched or self.strip.from_here.isChecked():
            self.tick(self.clock.ms)

    def pick_also(self, key: CueKey) -> None:
        """One row more to what is chosen, or one less; the newest is shown on the bench."""
        before = [entry for entry in self.keys() if entry != key]
        now = before if key in self.keys() and before else [*before, key]
        self.pick(now[-1])
        self.also = tuple(now[:-1])
        self.sheet.body.also = frozenset(self.also)
        self.sheet.body.update()
        self.show_key()

    def keys(self) -> tuple[CueKey, ...]:
        """All chosen rows, the one on the bench last."""
        return (*self.also, self.key) if self.key is not None else ()

    def toggle(self, ends: Ends) -> None:
        """Open or close a layer's properties."""
        self._opened = self._opened ^ {ends}
        self.refresh()

    def open_row(self, key: CueKey) -> None:
        """A property's row, with its layer opened."""
        if key[:2] not in self._opened:
            self.toggle(key[:2])
        self.pick(key)

    def _move_row(self, ends: Ends, before: Ends | None) -> None:
        """A layer's rows stand before another's; only in this view."""
        order = [entry.ends for entry in self.sheet.body.rows if not entry.prop and entry.ends != ends]
        place = order.index(before) if before in order else len(order)
        self._by_hand = (*order[:place], ends, *order[place:])
        self.refresh()

    def _pick_layer(self, left: str | None, right: str | None, tell: bool = True) -> None:
        """Choose the row of a layer that was clicked in a frame, or of the group that it moves with."""
        if self.program is None:
            return
        for s, part in enumerate(self.program.contents):
            if (left and part.left and part.left.id == left) or (right and part.right and part.right.id == right):
                self._pick_slot(s, tell)

    def _pick_slot(self, slot: int, tell: bool = True) -> None:
        assert self.program is not None
        rows = {entry.ends: entry for entry in self.sheet.body.rows if not entry.prop}
        while slot >= 0:
            part = self.program.contents[slot]
            ends: Ends = (part.left.id if part.left else None, part.right.id if part.right else None)
            if ends in rows:
                if self.key is None or self.key[:2] != ends:
                    self.pick(rows[ends].key, tell)
                return
            slot = int(self.program.parent[slot])

    def _pressed_in_now(self, x: float, y: float) -> None:
        if self.hang.take_point(x, y):
            return
        slot = self.now.slot_under(x, y)
        if slot >= 0:
            self._pick_slot(slot)

    def _chose(self) -> None:
        layer = self.workspace.layer
        if not self.isVisible() or layer is None or (self.key and layer.id in self.key[:2]):
            return
        self._pick_layer(layer.id, layer.id, tell=False)

    # For the deeds

    def name(self, key: CueKey | None) -> str:
        """A cue in words: its layer's name, and its property."""
        if key is None or self.route is None:
            return "cue"
        layers = layer_index(self._ends[0 if key[0] else 1])
        layer = layers.get(key[0] or key[1] or "")
        name = layer.name if layer is not None else "cue"
        return f"{name} · {BY_KEY[key[2]].label}" if key[2] else name

    def cue_curve(self) -> Curve:
        """The chosen cue's curve as it is named, its own or inherited."""
        assert self.route is not None and self.key is not None
        return timed(self.workspace.project, self.route.transition, *self.key).curve

    def inherit(self, key: CueKey | None) -> None:
        """The chosen key goes; without one, the cues go back to what they inherit."""
        if not self.keyframes.remove_keyframe():
            self.cues.inherit(key)

    # What is seen

    def watch(self) -> None:
        """The chosen layer alone, or all again."""
        self.now.watched = not self.now.watched
        self.workspace.said.emit(
            f"{self.name((*self.key[:2], ''))} alone; W shows all again."
            if self.now.watched and self.key
            else "All layers are shown."
        )
        self.tick(self.clock.ms)

    def mark(self, what: str) -> None:
        """The part that plays begins ("in") or ends ("out") at the playhead; all plays again (empty)."""
        low, high = self.clock.play_range or (0.0, self.clock.length)
        ms = self.clock.ms
        if what == "in":
            self._set_part((ms, max(high, ms + 1.0)))
        elif what == "out":
            self._set_part((min(low, max(0.0, ms - 1.0)), ms))
        else:
            self._set_part(None)

    def _set_part(self, part: tuple[float, float] | None) -> None:
        self.clock.play_range = self.sheet.head.part = part
        self.sheet.head.update()

    def fit(self) -> None:
        """All of the time in the sheet, all of the frame in the Now view."""
        self.sheet.fit()
        self.now.set_zoom(1.0)

    def switch_grid(self) -> None:
        """Ends snap to a grid, or not."""
        body = self.sheet.body
        body.grid = 0.0 if body.grid else _GRID
        self.workspace.said.emit(f"Ends snap to every {_GRID:.0f} ms." if body.grid else "Ends snap to no grid.")

    def show_full(self, on: bool) -> None:
        """Only the Now view, or everything."""
        self.full = on
        for widget in (*self._sides, self.bench, self.strip, self.sheet):
            widget.setVisible(not on)
        self.paper.setMinimumHeight(0 if on else _MIDDLE)
        self.paper.setMaximumHeight(16_777_215 if on else _MIDDLE)
        self._inner.setStretch(0, 1 if on else 0)
        self.panel.full.setText("Back" if on else "Full")
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
