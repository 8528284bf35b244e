"""Timing: lengths, starts and curves, while it plays."""

from __future__ import annotations

from PySide6.QtCore import Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QMenu, QVBoxLayout, QWidget

from avelt.core.curves.named import plain, title
from avelt.core.edits.cues import curve_cues, inherit_cues, shift_cues, time_cues, times_of
from avelt.core.edits.routes import edit_named_curve, set_base_curve, set_length
from avelt.core.edits.session import Change
from avelt.core.model import wording
from avelt.core.model.curves import Curve, Named, PlainCurve
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.properties import BY_KEY
from avelt.core.model.triggers import Timer
from avelt.core.model.values import Route
from avelt.core.presets.capture import Ends
from avelt.core.timing.over import ends
from avelt.core.timing.program import Program
from avelt.core.timing.schedule import end_of, length_of, timed
from avelt.window.controls.clock import SPEED_WORDS, SPEEDS, Clock
from avelt.window.controls.curve_pick import show_named
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import Choice, NumberField, add_all, bar, button, column, label, panel, row
from avelt.window.controls.painted import Pick, Tick
from avelt.window.controls.views import FrameView
from avelt.window.shell.desk import Desk
from avelt.window.timing.bench import Bench
from avelt.window.timing.naming import CurveNames
from avelt.window.timing.now_view import NowView
from avelt.window.timing.rows import SHOWN, SORTED, Row, Wanted, arranged, says, sheet_rows
from avelt.window.timing.sheet import Sheet

Key = tuple[str | None, str | None, str]


class TimingStation(QWidget):
    """The station: from, now, bench, to; the sheet under them."""

    save_preset = Signal(object)  # ends

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.clock = Clock(self)
        self.program: Program | None = None
        self.key: Key | None = None
        self.also: tuple[Key, ...] = ()
        self._base: dict[Key, tuple[float, float]] = {}
        self._opened: frozenset[Ends] = frozenset()
        self._stale = True
        self._make_bar()
        self._make_middle()
        self.sheet = Sheet(desk.theme)
        self.empty = EmptyPlace(
            "There is no transition yet. Make one in Routes by clicking the cell between two frames.",
            "Go to Routes", lambda: desk.station_wanted.emit("routes"),
        )  # fmt: skip
        self.body = QWidget()
        inner = QVBoxLayout(self.body)
        inner.setContentsMargins(12, 8, 12, 12)
        inner.setSpacing(8)
        inner.addLayout(self.middle, 0)
        inner.addWidget(self.sheet, 1)
        lay_out(self, self.bar, self.body, self.empty)
        self._connect()

    # Making

    def _make_bar(self) -> None:
        self.bar, layout = bar()
        self.leaves_name, self.arrives_name = label("", "leaves"), label("", "arrives")
        self.trigger = label("", "quiet")
        self.other = button("Other route", "Choose another transition")
        self.length = NumberField("ms", 10.0, 0.0, 3_600_000.0, 0)
        self.length.setToolTip("How long the transition lasts; all cues are stretched with it")
        self.base = Pick()
        self.base.setToolTip("The curve of every cue that has none of its own")
        self.save = button("Save as preset", "Keep the chosen cue set on the shelf (Ctrl+Shift+P)")
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find rows")
        self.search.setClearButtonEnabled(True)
        self.search.setFixedWidth(112)
        self.shows, self.sorts = Pick(), Pick()
        for chooser, entries, tip in (
            (self.shows, SHOWN, "Which rows are shown"), (self.sorts, SORTED, "What the rows are sorted by"),
        ):  # fmt: skip
            for key, words in entries:
                chooser.addItem(words, key)
            chooser.setToolTip(tip)
            chooser.setFixedWidth(112)
        add_all(layout, self.leaves_name, label("→", "quiet"), self.arrives_name, self.trigger, self.other, None)
        add_all(layout, self.search, self.shows, self.sorts)
        add_all(layout, label("Length", "quiet"), self.length, label("Base curve", "quiet"), self.base, self.save)

    def _make_middle(self) -> None:
        self.from_view, self.to_view = FrameView(self.desk, "from"), FrameView(self.desk, "to")
        self.from_title, self.to_title = label(""), label("")
        self.now = NowView(self.desk)
        self.now.setMinimumWidth(190)
        self.big, self.of_length = label("0", "big"), label("", "quiet")
        self.play = button("Play", "Play or stop (Space)", "strong")
        self.loop = button("Loop", "Play round and round", checkable=True)
        self.loop.setChecked(True)
        self.speeds = Choice([SPEED_WORDS[s] for s in SPEEDS], [f"Play at {s:g} of the speed" for s in SPEEDS])
        self.paths, self.clips = Tick("Path and beats"), Tick("Clip to frame")
        self.paths.setToolTip("The way of the chosen layer, with dots at equal times")
        self.clips.setToolTip("Off shows what lies outside the frame")
        self.paths.setChecked(True)
        self.clips.setChecked(True)
        self.quiet = label("", "quiet")
        self.quiet.setWordWrap(True)
        self.bench = Bench(self.desk.theme)
        side = column(label("Now", "heading"), spacing=6)
        side.addLayout(row(self.big, self.of_length, None, spacing=5))
        side.addLayout(row(self.play, self.loop, None))
        side.addSpacing(2)
        side.addWidget(label("Speed", "quiet"))
        side.addWidget(self.speeds)
        side.addSpacing(4)
        side.addWidget(self.paths)
        side.addWidget(self.clips)
        side.addSpacing(4)
        side.addWidget(self.quiet)
        side.addStretch(1)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(176)
        side.setContentsMargins(0, 0, 0, 0)
        sheet = panel()
        inside = QHBoxLayout(sheet)
        inside.setContentsMargins(14, 10, 14, 10)
        inside.setSpacing(16)
        inside.addWidget(self.now, 3)
        inside.addWidget(holder)
        inside.addWidget(self.bench, 5)
        self.middle = QHBoxLayout()
        self.middle.setSpacing(14)
        for title_label, view in ((self.from_title, self.from_view), (None, None), (self.to_title, self.to_view)):
            if view is None or title_label is None:
                self.middle.addWidget(sheet, 1)
                continue
            side_holder = QWidget()
            inner = column(title_label, view, spacing=4)
            inner.setStretch(1, 1)
            inner.setContentsMargins(0, 0, 0, 0)
            side_holder.setLayout(inner)
            side_holder.setFixedWidth(184)
            self.middle.addWidget(side_holder)
        for widget in (sheet,):
            widget.setFixedHeight(352)

    def _connect(self) -> None:
        desk, clock = self.desk, self.clock
        desk.changed.connect(self._changed)
        desk.routed.connect(self._routed)
        desk.chose.connect(self._chose)
        desk.theme.changed.connect(self._restyle)
        clock.ticked.connect(self._ticked)
        clock.played.connect(lambda on: self.play.setText("Stop" if on else "Play"))
        self.play.clicked.connect(clock.toggle)
        self.loop.toggled.connect(lambda on: setattr(clock, "loop", on))
        self.speeds.picked.connect(lambda k: setattr(clock, "speed", SPEEDS[k]))
        self.paths.toggled.connect(self._options)
        self.clips.toggled.connect(self._options)
        self.other.clicked.connect(self._choose_route)
        self.length.committed.connect(self._set_length)
        self.length.refused.connect(desk.said)
        self.base.activated.connect(self._set_base)
        self.save.clicked.connect(lambda: self.save_preset.emit(self.key[:2] if self.key else None))
        self.from_view.picked.connect(lambda ident: self._pick_layer(ident, None))
        self.to_view.picked.connect(lambda ident: self._pick_layer(None, ident))
        self.now.pressed.connect(self._pick_in_now)
        head, body, bench = self.sheet.head, self.sheet.body, self.bench
        head.scrubbed.connect(self._scrubbed)
        body.picked.connect(self.pick)
        body.picked_also.connect(self.pick_also)
        body.toggled.connect(self.toggle)
        body.dragged.connect(self._drag_time)
        body.dropped.connect(self._dropped)
        body.reset.connect(self._inherit)
        body.nudged.connect(self._nudge)
        self.search.textChanged.connect(lambda _: self.refresh())
        for chooser in (self.shows, self.sorts):
            chooser.activated.connect(lambda _: self.refresh())
        bench.shaped.connect(self._shape)
        self.names = CurveNames(self)
        self.drawer = self.names.drawer
        self.drawer.taken.connect(lambda ident: self._choose_curve(Named(ident)))
        bench.settled.connect(desk.end_gesture)
        bench.chosen.connect(self._choose_curve)
        bench.inherited.connect(lambda: self._inherit(self.key))
        bench.timed.connect(self._set_times)
        bench.refused.connect(desk.said)

    # Showing

    @property
    def route(self) -> Route | None:
        """The route that is shown."""
        return self.desk.route

    def enter(self) -> None:
        """The station comes to the front."""
        if self._stale:
            self.refresh()

    def leave(self) -> None:
        """Another station comes to the front."""
        self.clock.stop()

    def _changed(self, change: Change) -> None:
        self._stale = True
        if self.isVisible():
            self.refresh()

    def _restyle(self) -> None:
        self._stale = True
        if self.isVisible():
            self.refresh()

    def _routed(self) -> None:
        self.key = None
        self._opened = frozenset()
        self._stale = True
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Take everything over from the project."""
        self._stale = False
        route, project = self.route, self.desk.project
        self.body.setVisible(route is not None)
        self.bar.setVisible(route is not None)
        self.empty.setVisible(route is None)
        if route is None:
            self.program = None
            self.clock.stop()
            return
        left, right = frame_by_id(project, route.leaves), frame_by_id(project, route.arrives)
        self._ends = ends(project, route)
        self.program = self.desk.program(route)
        self.leaves_name.setText(left.name)
        self.arrives_name.setText(right.name)
        self.trigger.setText(trigger_words(self.desk, route))
        self.from_title.setText(f"<b style='color:{self.desk.theme.palette.leaves_text}'>From</b> {left.name}")
        self.to_title.setText(f"<b style='color:{self.desk.theme.palette.arrives_text}'>To</b> {right.name}")
        self.length.show_value(length_of(route.transition, project))
        show_named(self.base, project, route.transition.curve)
        whole = end_of(route.transition, project)
        self.clock.set_length(whole)
        self.sheet.set_length(whole)
        wanted = Wanted(self.search.text(), self.shows.currentData(), self.sorts.currentData())
        rows = arranged(sheet_rows(project, route, self.program, self._opened, wanted.deep), wanted)
        if self.key is None or self.key[:2] not in {entry.ends for entry in rows}:
            ranked = sorted(rows, key=lambda entry: (entry.role != "both", not entry.timed.own_time))
            first = ranked[0] if ranked else None
            self.key = first.key if first else None
        there = {entry.key for entry in rows}
        self.also = tuple(entry for entry in self.also if entry in there and entry != self.key)
        self.sheet.body.chosen, self.sheet.body.also = self.key, frozenset(self.also)
        self.sheet.body.show_rows(rows)
        self.names.follow()
        self._show_key()
        self._ticked(self.clock.ms)

    def _show_key(self) -> None:
        """Everything about the chosen cue."""
        route, project = self.route, self.desk.project
        if route is None or self.program is None:
            return
        self.save.setEnabled(self.key is not None)
        self.bench.setEnabled(self.key is not None)
        if self.key is None:
            self.from_view.show_frame(self._ends[0], "")
            self.to_view.show_frame(self._ends[1], "")
            self.now.choose(-1)
            self.quiet.setText("Nothing moves here.")
            return
        left, right, prop = self.key
        self.from_view.show_frame(self._ends[0], left)
        self.to_view.show_frame(self._ends[1], right)
        when = timed(project, route.transition, *self.key)
        above = timed(project, route.transition, left, right, "") if prop else None
        ghost = above.plain if above else plain(project, route.transition.curve)
        frame = self._ends[0 if left else 1]
        layer = layer_index(frame).get(left or right or "")
        subject = (
            f"Feel of {len(self.keys())} cues"
            if self.also
            else f"Feel of {layer.name if layer else ''}{' · ' + BY_KEY[prop].label if prop else ''}"
        )
        where = "own curve" if when.own_curve else f"inherits {title(project, when.curve)}"
        self.bench.show_turning(prop in ("turn", "tilt"), when.shortest)
        self.bench.show_cue(
            project, subject, where, when.curve, when.plain, ghost if when.own_curve else None, when.start, when.end,
            when.own_curve or when.own_time,
        )  # fmt: skip
        self.quiet.setText(says(project, route, self.key))
        self.now.choose(self._slot_of(left, right))
        self._show_share()

    def _slot_of(self, left: str | None, right: str | None) -> int:
        assert self.program is not None
        for s, part in enumerate(self.program.parts):
            if ((part.left.id if part.left else None), (part.right.id if part.right else None)) == (left, right):
                return s
        return -1

    def _ticked(self, ms: float) -> None:
        if self.program is None:
            return
        self.now.show_scene(self.program.at(ms))
        self.big.setText(f"{ms:.0f}")
        self.of_length.setText(f"/ {self.clock.length:g} ms")
        self.sheet.set_now(ms)
        self._show_share()

    def _show_share(self) -> None:
        route = self.route
        if route is None or self.key is None:
            self.bench.set_share(None)
            return
        when = timed(self.desk.project, route.transition, *self.key)
        span = max(when.length, 1e-9)
        self.bench.set_share(min(1.0, max(0.0, (self.clock.ms - when.start) / span)))

    def _options(self) -> None:
        self.now.paths, self.now.clip = self.paths.isChecked(), self.clips.isChecked()
        self.now.update()

    def _scrubbed(self, ms: float) -> None:
        self.clock.stop()
        self.clock.seek(ms)

    # Choosing

    def pick(self, key: Key, tell: bool = True) -> None:
        """Choose a row of the sheet; ``tell`` the desk, unless the choice came from there."""
        self.key, self.also = key, ()
        self.sheet.body.chosen, self.sheet.body.also = key, frozenset()
        self.sheet.body.update()
        self.sheet.reveal(key)
        ident = key[0] or key[1]
        if ident and tell:
            self.desk.choose_layer(ident)
        self._show_key()

    def pick_also(self, key: Key) -> None:
        """One row more to what is chosen, or one less; the newest is shown on the bench."""
        before = [entry for entry in self.keys() if entry != key]
        now = before if key in self.keys() and before else [*before, key]
        self.pick(now[-1])
        self.also = tuple(now[:-1])
        self.sheet.body.also = frozenset(self.also)
        self.sheet.body.update()
        self._show_key()

    def keys(self) -> tuple[Key, ...]:
        """All chosen rows, the one on the bench last."""
        return (*self.also, self.key) if self.key is not None else ()

    def toggle(self, ends: Ends) -> None:
        """Open or close a layer's properties."""
        self._opened = self._opened ^ {ends}
        self.refresh()

    def _pick_layer(self, left: str | None, right: str | None, tell: bool = True) -> None:
        """Choose the row of a layer that was clicked in a frame, or of the group that it moves with."""
        if self.program is None:
            return
        for s, part in enumerate(self.program.parts):
            if (left and part.left and part.left.id == left) or (right and part.right and part.right.id == right):
                self._pick_slot(s, tell)

    def _pick_slot(self, slot: int, tell: bool = True) -> None:
        assert self.program is not None
        rows = {entry.ends: entry for entry in self.sheet.body.rows if not entry.prop}
        while slot >= 0:
            part = self.program.parts[slot]
            ends: Ends = (part.left.id if part.left else None, part.right.id if part.right else None)
            if ends in rows:
                self.pick(rows[ends].key, tell)
                return
            slot = int(self.program.parent[slot])

    def _pick_in_now(self, x: float, y: float) -> None:
        slot = self.now.slot_under(x, y)
        if slot >= 0:
            self._pick_slot(slot)

    def _chose(self) -> None:
        layer = self.desk.layer
        if not self.isVisible() or layer is None or (self.key and layer.id in self.key[:2]):
            return
        self._pick_layer(layer.id, layer.id, tell=False)

    def _choose_route(self) -> None:
        menu = QMenu(self)
        for route in self.desk.project.routes:
            left, right = (frame_by_id(self.desk.project, ident) for ident in (route.leaves, route.arrives))
            action = menu.addAction(f"{left.name} → {right.name}   {trigger_words(self.desk, route)}")
            action.triggered.connect(lambda _=False, ident=route.id: self.desk.choose_route(ident))
        menu.exec(self.other.mapToGlobal(self.other.rect().bottomLeft()))

    # Editing

    def _name(self, key: Key | None) -> str:
        found = next((entry for entry in self.sheet.body.rows if entry.key == key), None)
        return found.left_name if found and found.left_name != "enters" else found.right_name if found else "cue"

    def _words(self, key: Key | None) -> str:
        return self._name(key) if not self.also or key not in self.keys() else f"{len(self.keys())} cues"

    def _meant(self, key: Key) -> tuple[Key, ...]:
        return self.keys() if key in self.keys() else (key,)

    def _drag_time(self, key: Key, start: float, end: float) -> None:
        if self.route is None:
            return
        route_id, meant = self.route.id, self._meant(key)
        if not self._base or set(self._base) != set(meant):
            self._base = times_of(self.desk.project, route_id, meant)
        base = self._base
        by_start, by_end = start - base[key][0], end - base[key][1]
        self.desk.gesture(f"time {self._words(key)}", lambda p: shift_cues(p, route_id, base, by_start, by_end))

    def _dropped(self) -> None:
        self._base = {}
        self.desk.end_gesture()

    def _nudge(self, key: Key, by: float) -> None:
        if self.route is not None:
            route_id = self.route.id
            base = times_of(self.desk.project, route_id, self._meant(key))
            self.desk.do(f"time {self._words(key)}", lambda p: shift_cues(p, route_id, base, by, by))

    def _set_times(self, start: float, end: float) -> None:
        if self.route is not None and self.key is not None:
            route_id, keys = self.route.id, self.keys()
            self.desk.do(f"time {self._words(self.key)}", lambda p: time_cues(p, route_id, keys, start, end))

    def _shape(self, curve: PlainCurve) -> None:
        if self.route is not None and self.key is not None:
            route_id, key = self.route.id, self.key
            named = self.cue_curve()
            if isinstance(named, Named) and self.bench.for_all.isChecked():
                name = title(self.desk.project, named)
                self.desk.gesture(f"curve {name}, for all", lambda p: edit_named_curve(p, named.id, curve))
                return
            keys = self.keys()
            self.desk.gesture(f"curve of {self._words(key)}", lambda p: curve_cues(p, route_id, keys, curve))

    def _choose_curve(self, curve: Curve) -> None:
        if self.route is not None and self.key is not None:
            route_id, keys = self.route.id, self.keys()
            self.desk.do(f"curve of {self._words(self.key)}", lambda p: curve_cues(p, route_id, keys, curve))

    def cue_curve(self) -> Curve:
        """The chosen cue's curve as it is named, its own or inherited."""
        assert self.route is not None and self.key is not None
        return timed(self.desk.project, self.route.transition, *self.key).curve

    def _inherit(self, key: Key | None) -> None:
        if self.route is not None and key is not None:
            route_id, meant = self.route.id, self._meant(key)
            self.desk.do(f"inherit {self._words(key)}", lambda p: inherit_cues(p, route_id, meant))

    def _set_length(self, value: float) -> None:
        if self.route is not None:
            route_id = self.route.id
            self.desk.do("change length", lambda p: set_length(p, route_id, value))

    def _set_base(self, place: int) -> None:
        ident = self.base.itemData(place)
        if self.route is not None and ident is not None:
            route_id = self.route.id
            self.desk.do("change base curve", lambda p: set_base_curve(p, route_id, Named(ident)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Home:
            self.clock.seek(0.0)
        elif event.key() == Qt.Key.Key_End:
            self.clock.seek(self.clock.length)
        else:
            super().keyPressEvent(event)


def trigger_words(desk: Desk, route: Route) -> str:
    """What starts a route, in words."""
    word, about = wording.trigger_words(desk.project, route)
    if isinstance(route.trigger, Timer):
        return f"by itself {about}"
    does = wording.short_action(route.action)
    return f"on {word}: {about}" + (f", {does}" if does else "")


__all__ = ["Key", "Row", "TimingStation", "trigger_words"]
