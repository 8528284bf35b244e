"""Loops: motion that repeats by itself, and running orders that wait and decide."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QMenu, QStackedWidget, QVBoxLayout, QWidget

from avelt.core.edits.follows import edit_follow
from avelt.core.edits.loops import edit_loop
from avelt.core.edits.session import Change
from avelt.core.model.phases import MAIN, poses_of
from avelt.core.model.values import Frame, Loop, Project
from avelt.core.timing.compile import compile_still
from avelt.core.timing.loops import round_duration
from avelt.core.timing.rounds import common_period, in_step, seams_in_words
from avelt.core.words import tr
from avelt.window.common.menus import open_at
from avelt.window.common.picking import taken
from avelt.window.common.station_keys import press
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import SPEED_WORDS, SPEEDS, Clock
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import Choice, add_all, bar, button, label, panel, row, scrolled
from avelt.window.controls.live_inputs import LiveInputs
from avelt.window.controls.painted import Pick
from avelt.window.loops.by_hand import ByHand
from avelt.window.loops.counted import counted, period_words
from avelt.window.loops.dial import Dial
from avelt.window.loops.follow_panel import FollowPanel
from avelt.window.loops.keys import KEYS
from avelt.window.loops.loop_panel import LoopPanel
from avelt.window.loops.order_panel import OrderPanel
from avelt.window.loops.performance import Performance
from avelt.window.loops.strip import Strip
from avelt.window.loops.travel import Travel
from avelt.window.loops.view import LoopView

_LEFT = 296


class LoopsStation(QWidget):
    """The station: what runs, its inputs and its dial on the left; loops or the running order, and the strip."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.clock = Clock(self)
        self.clock.endless = True
        self.play_of = Performance()
        self.ordered = False  # whether the running order is shown, and plays
        self.driven = False  # whether what follows a value is shown, driven by hand
        self._only: tuple[Frame, tuple[Loop, ...], Frame] | None = None  # the frame with one loop at work
        self._running: dict[str, str] = {}  # the phases whose loops are shown
        self._make()
        self._connect()
        self._restage()

    @property
    def loop_id(self) -> str:
        """The id of the chosen loop."""
        return self.loops.loop_id

    @loop_id.setter
    def loop_id(self, ident: str) -> None:
        self.loops.loop_id = ident

    def loop(self) -> Loop | None:
        """The chosen loop."""
        return self.loops.loop()

    def _make(self) -> None:
        strip_bar, layout = bar()
        self.views = Choice(
            [tr("Loops"), tr("Running order"), tr("Follows")],
            [tr("The loops of a frame or pose"), tr("Phases, and what comes then"), tr("Layers that go with a value")],
        )
        self.frames = Pick()
        self.frames.setMinimumWidth(170)
        self.frames.setToolTip(tr("The frame or pose whose loops are shown"))
        self.summary = label("", "quiet")
        self.new_phase = button(tr("New phase"), tr("A phase at the end (P)"))
        self.new_track = button(tr("New side track"), tr("Phases that run beside, on layers of their own (Shift+P)"))
        self.again = button(tr("Try again"), tr("From the start, with the same inputs at the same times (T)"))
        self.play = button(tr("Run it"), tr("Play or stop (Space)"), "strong")
        self.speeds = Choice([SPEED_WORDS[s] for s in SPEEDS])
        add_all(layout, self.views, self.frames, self.summary, None)
        add_all(layout, self.new_phase, self.new_track, self.speeds, self.again, self.play)
        self.loops = LoopPanel(self.workspace)
        self.orders = OrderPanel(self.workspace)
        self.panels = QStackedWidget()
        self.panels.addWidget(self.loops)
        order_panel = panel()
        inside = QVBoxLayout(order_panel)
        inside.setContentsMargins(1, 1, 1, 1)
        inside.addWidget(self.orders)
        self.panels.addWidget(order_panel)
        self.follows = FollowPanel(self.workspace)
        self.panels.addWidget(self.follows)
        self.right = right = QVBoxLayout()
        right.setSpacing(12)
        right.addWidget(self.panels)
        right.addWidget(self._make_strip())
        self.body = QWidget()
        inner = QHBoxLayout(self.body)
        inner.setContentsMargins(12, 12, 12, 12)
        inner.setSpacing(12)
        inner.addLayout(self._make_left())
        inner.addLayout(right, 1)
        self.empty = EmptyPlace(
            tr("There is no frame yet. Import screens first."),
            tr("Go to Frames"),
            lambda: self.workspace.station_wanted.emit("frames"),
        )
        lay_out(self, strip_bar, self.body, self.empty)

    def _make_left(self) -> QVBoxLayout:
        made = QVBoxLayout()
        made.setSpacing(12)
        self.view = LoopView(self.workspace)
        view_panel = panel()
        inside = QVBoxLayout(view_panel)
        inside.setContentsMargins(10, 10, 10, 10)
        inside.addWidget(self.view)
        self.inputs_panel = panel()
        below = QVBoxLayout(self.inputs_panel)
        below.setContentsMargins(14, 10, 14, 10)
        self.inputs = LiveInputs(sliders=True)
        self.no_inputs = label(tr("This stage has no inputs yet: Inputs… in Routes."), "quiet")
        self.no_inputs.setWordWrap(True)
        below.addWidget(label(tr("Inputs"), "heading"))
        below.addWidget(self.inputs)
        below.addWidget(self.no_inputs)
        dial_panel = panel()
        round_ = QVBoxLayout(dial_panel)
        round_.setContentsMargins(14, 10, 10, 10)
        self.dial = Dial(self.workspace)
        self.dial_title = label("", "heading")
        self.period = label("", "quiet")
        self.period.setWordWrap(True)
        self.fit = button(tr("Bring in step"), tr("Change the rounds a little, so that all begin together"))
        round_.addWidget(self.dial_title)
        round_.addWidget(self.dial, 1)
        round_.addWidget(self.period)
        round_.addWidget(self.fit, 0, Qt.AlignmentFlag.AlignLeft)
        self.left_panels = (view_panel, self.inputs_panel, dial_panel)
        for part, stretch in zip(self.left_panels, (4, 0, 3), strict=True):
            made.addWidget(part, stretch)
        return made

    def _make_strip(self) -> QWidget:
        made = panel()
        self.strip = Strip(self.workspace)
        self.travel = Travel(self.workspace)
        self.by_hand = ByHand()
        self.rows = QStackedWidget()
        for canvas in (self.strip, self.travel):
            self.rows.addWidget(scrolled(canvas))
        self.strip_title = label("", "heading")
        self.strip_note = label("", "quiet")
        below = QVBoxLayout(made)
        below.setContentsMargins(6, 10, 6, 8)
        heads = row(self.strip_title, None, self.strip_note)
        heads.setContentsMargins(12, 0, 12, 0)
        below.addLayout(heads)
        below.addWidget(self.rows, 1)
        return made

    def _connect(self) -> None:
        workspace = self.workspace
        workspace.changed.connect(self._changed)
        workspace.staged.connect(self._restage)
        workspace.theme.changed.connect(lambda: self.refresh() if self.isVisible() else None)
        self.clock.ticked.connect(self._ticked)
        self.clock.played.connect(lambda on: self.play.setText(tr("Stop") if on else tr("Run it")))
        self.play.clicked.connect(self.clock.toggle)
        self.again.clicked.connect(self.try_again)
        self.speeds.picked.connect(lambda k: setattr(self.clock, "speed", SPEEDS[k]))
        self.views.picked.connect(self.show_view)
        self.frames.activated.connect(self._pick_frame)
        self.new_phase.clicked.connect(lambda: self.orders.new_phase())
        self.new_track.clicked.connect(lambda: self.orders.new_track())
        self.view.clicked.connect(self._clicked)
        self.view.menu_wanted.connect(self._menu)
        self.loops.layers.activated.connect(lambda _: self._show_layer())
        self.loops.chose.connect(lambda _: self.refresh())
        self.loops.alone.clicked.connect(lambda _: self._ticked(self.clock.ms))
        self.loops.pose_button.clicked.connect(self._edit_pose)
        self.follows.layers.activated.connect(lambda _: self._show_layer())
        self.follows.chose.connect(lambda _: self.refresh())
        self.follows.pose_button.clicked.connect(self._edit_pose)
        self.travel.driven.connect(self._drive)
        self.travel.picked.connect(self.follows.choose)
        self.travel.dragging.connect(self._drag_follow)
        self.travel.dropped.connect(workspace.end_gesture)
        self.travel.cancelled.connect(workspace.cancel_gesture)
        self.orders.began.connect(self._begin)
        self.orders.chose.connect(lambda _: self._show_rounds())
        self.inputs.wanted.connect(self.play_of.set_input)
        self.inputs.sent.connect(self.play_of.send)
        self.inputs.refused.connect(workspace.said)
        self.play_of.refused.connect(workspace.said)
        self.play_of.changed.connect(self._show_player)
        self.strip.sought.connect(self._seek)
        self.fit.clicked.connect(self._bring_in_step)
        for canvas in (self.strip, self.dial):
            canvas.picked.connect(self.choose)
            canvas.dragging.connect(self._drag)
            canvas.dropped.connect(workspace.end_gesture)
            canvas.cancelled.connect(workspace.cancel_gesture)

    # Showing

    def enter(self) -> None:
        """The station comes to the front and runs."""
        self.refresh()
        if self.workspace.frame is not None and not self.workspace.settings.less_motion:
            self.clock.play()

    def leave(self) -> None:
        """Another station comes to the front."""
        self.clock.stop()

    def show_order(self, ordered: bool) -> None:
        """The running order, or the loops of a frame."""
        self.show_view(int(ordered))

    def show_view(self, place: int) -> None:
        """Loops (0), the running order (1), or what follows a value (2)."""
        self.views.show_picked(place)
        if (place == 1, place == 2) != (self.ordered, self.driven):
            self.ordered, self.driven = place == 1, place == 2
            self.refresh()

    def refresh(self) -> None:
        """Take everything over from the project."""
        frame, project = self.workspace.frame, self.workspace.project
        self.body.setVisible(frame is not None)
        self.empty.setVisible(frame is None)
        if frame is None:
            return
        self.frames.clear()
        for other in project.frames:
            self.frames.addItem(other.name, other.id)
        self.frames.setCurrentIndex(self.frames.findData(frame.id))
        self.panels.setCurrentIndex(1 if self.ordered else 2 if self.driven else 0)
        self.rows.setCurrentIndex(int(self.driven))
        self.left_panels[-1].setVisible(not self.driven)
        for place, share in enumerate((8, 4) if self.ordered else (6, 3) if self.driven else (5, 4)):
            self.right.setStretch(place, share)
        self.frames.setVisible(not self.ordered)
        for widget in (self.new_phase, self.new_track, self.again, self.inputs_panel):
            widget.setVisible(self.ordered)
        if self.ordered:
            self.orders.refresh()
            if self.play_of.player is None or self.play_of.player.project is not project:
                self._restart()
        elif self.driven:
            self.follows.refresh(frame)
        else:
            self.loops.refresh(frame)
        self.summary.setText(counted(project, frame, self.ordered, self.driven))
        self._show_rounds()
        self._ticked(self.clock.ms)
        self._show_layer()

    def _restart(self) -> None:
        """The player of another project, or of the one that was edited: it goes on where it was."""
        if self.play_of.player is None:
            self.play_of.start(self.workspace.project, self.clock.ms)
        else:
            self.play_of.replace_project(self.workspace.project, self.clock.ms)

    def shown_pose(self) -> Frame | None:
        """The frame or pose whose loops are shown: that of the chosen phase, or of the one that runs."""
        frame, project = self.workspace.frame, self.workspace.project
        if not self.ordered:
            return frame
        running = self.play_of.phases()
        phases = {phase.id: phase for track in project.tracks for phase in track.phases}
        main = next((track.id for track in project.tracks if track.name == MAIN), "")
        phase = phases.get(self.orders.chosen) or phases.get(running.get(main, ""))
        pose = poses_of(phase.shows)[-1] if phase is not None else project.first
        return next((entry for entry in project.frames if entry.id == pose), frame)

    def _show_rounds(self) -> None:
        """The dial and the strip, or the value that is driven by hand."""
        frame = self.shown_pose()
        if frame is None:
            return
        if self.driven:
            follow = self.follows.follow()
            self.travel.show_follows(self.by_hand.of_one_value(frame, follow), self.follows.follow_id)
            nothing = tr("Choose a layer and press New follow.")
            self.strip_title.setText(tr("Drive the value by hand") if follow is not None else nothing)
            self.strip_note.setText(tr("drag beside a bar; drag its ends") if follow is not None else "")
            self._drive(self.travel.value)
            return
        self.strip.show_loops(frame.loops, self.loop_id, seams_in_words(frame, self.workspace.project))
        self.dial.show_loops(frame.loops, self.loop_id)
        loop = next((entry for entry in frame.loops if entry.id == self.loop_id), None)
        title = loop.name if loop is not None else frame.name
        self.strip_title.setText(
            tr("“{title}” unrolled", title=title) if frame.loops else tr("Choose a layer and press New loop.")
        )
        self.strip_note.setText(tr("one round is {loop:g} ms", loop=round_duration(loop)) if loop is not None else "")
        whole = self.dial.whole() / 1000
        self.dial_title.setText(tr("One round, {whole:g} s", whole=whole) if frame.loops else tr("No loops here"))
        period = common_period(frame.loops)
        self.period.setText(period_words(period) if len(frame.loops) > 1 else "")
        self.period.setVisible(len(frame.loops) > 1)
        self.fit.setVisible(len(frame.loops) > 1 and not period.ms)

    def _ticked(self, ms: float) -> None:
        frame, project = self.workspace.frame, self.workspace.project
        if frame is None or not self.isVisible():
            return
        if self.ordered:
            self.play_of.go_to(ms)
            self._show_player()
        elif self.driven:
            self.view.show_scene(compile_still(frame, project).while_running(0.0, self.by_hand.clocks(frame, ms)))
            self.travel.show_shares(self.by_hand.shares(frame, ms))
        else:
            chosen = self.loop()
            if self.loops.alone.isChecked() and chosen is not None:
                only = tuple(replace(entry, muted=entry.id != chosen.id) for entry in frame.loops)
                frame = self._alone(frame, only)
            self.view.show_scene(compile_still(frame, project).from_start(ms))
        self.strip.now = self.dial.now = ms if not self.ordered else self._since(ms)
        self.strip.update()
        self.dial.update()

    def _alone(self, frame: Frame, loops: tuple[Loop, ...]) -> Frame:
        """The frame with one loop at work; the same value while nothing changes, so that its program is kept."""
        known = self._only
        if known is None or known[0] is not frame or known[1] != loops:
            self._only = known = (frame, loops, replace(frame, loops=loops))
        return known[2]

    def _since(self, ms: float) -> float:
        """For how long the shown phase runs."""
        player, frame = self.play_of.player, self.shown_pose()
        if player is None or frame is None:
            return ms
        orders = player.rules.orders
        for state in player.world.tracks:
            phase = orders.phase(state.track, state.phase) if orders is not None else None
            if phase is not None and frame.id in poses_of(phase.shows):
                return player.now - state.began
        return 0.0

    def _show_player(self) -> None:
        """What the running order shows now."""
        player = self.play_of.player
        if player is None or not self.ordered:
            return
        self.view.show_scene(player.scene())
        self.inputs.show_inputs(player.project.inputs, player.inputs)
        self.no_inputs.setVisible(not player.project.inputs)
        running = self.play_of.phases()
        self.orders.light(running, self.play_of.fired())
        self.again.setEnabled(bool(self.play_of.told))
        if not self.orders.chosen and running != self._running:
            self._running = running
            self._show_rounds()

    # Choosing in the view

    def _show_layer(self) -> None:
        """Outline the layer that is named in the list."""
        scene = self.view.scene
        ident = (self.follows if self.driven else self.loops).layers.currentData()
        self.view.slot = scene.program.slot_of(ident, ident) if scene is not None and not self.ordered else -1
        self.view.update()

    def _clicked(self, x: float, y: float, deeper: bool) -> None:
        """Choose the layer there, with its loop when it has one; in a running order, tap it."""
        player = self.play_of.player
        if self.ordered and player is not None:
            player.tap(x, y)
            self._show_player()
            return
        frame, scene = self.workspace.frame, self.view.scene
        chain = self.view.slots_under(x, y)
        if frame is None or scene is None or not chain:
            return
        ident = scene.program.ends_of(taken(chain, (self.view.slot,), deeper)).from_id
        if self.view.adds and ident:
            self.workspace.choose_also(frame.id, ident)
            return
        self.workspace.choose(frame.id, ident or "")
        self.loop_id = next((entry.id for entry in frame.loops if entry.layer == ident), self.loop_id)
        own = next((entry.id for entry in frame.follows if entry.layer == ident), "")
        self.follows.follow_id = own or self.follows.follow_id
        self.refresh()

    def _drive(self, value: float) -> None:
        """The value is elsewhere: what follows it goes there."""
        self.by_hand.drive(self.travel.follows, value, self.clock.ms)
        self._ticked(self.clock.ms)

    def _drag_follow(self, follow_id: str, name: str, value: float) -> None:
        frame = self.workspace.frame
        if frame is not None:
            change = {name: value}
            self.workspace.gesture(
                tr("travel"), lambda p: edit_follow(p, frame.id, follow_id, lambda old: replace(old, **change))
            )

    def _menu(self, x: float, y: float, where: QPoint) -> None:
        """A right click chooses what lies there first."""
        if self.ordered:
            return
        if self.view.slot not in self.view.slots_under(x, y):
            self._clicked(x, y, False)
        frame, layer = self.workspace.frame, self.workspace.layer
        if frame is None or layer is None:
            return
        menu = QMenu(self)
        menu.addAction(tr("New loop on {layer}", layer=layer.name)).triggered.connect(lambda _=False: self.loops.make())
        for entry in frame.loops:
            if entry.layer == layer.id:
                menu.addAction(tr("Show {entry}", entry=entry.name)).triggered.connect(
                    lambda _=False, e=entry: self.choose(e.id)
                )
        menu.addSeparator()
        menu.addAction(tr("Show in Frames")).triggered.connect(
            lambda _=False: self.workspace.station_wanted.emit("frames")
        )
        open_at(menu, where)

    # Doing

    def choose(self, loop_id: str) -> None:
        """Choose a loop."""
        frame = self.shown_pose()
        if self.ordered and frame is not None and self.workspace.frame is not frame:
            self.workspace.choose(frame.id)
        self.loops.choose(loop_id)

    def _pick_frame(self, place: int) -> None:
        self.workspace.choose(self.frames.itemData(place))
        self.loop_id = ""
        self.refresh()

    def _changed(self, change: Change) -> None:
        frame, touched = self.workspace.frame, change.touched
        concerned = frame is None or frame.id in touched.frames
        if touched.fields & {"curves", "assets", "parts"} or (self.ordered and touched.fields - {"next_id"}):
            concerned = True
        if self.isVisible() and concerned:
            self.refresh()

    def _restage(self) -> None:
        """Another part is open: a stage that is driven by a running order shows it."""
        self.play_of.player = None
        self.orders.chosen = ""
        self.show_order(any(track.phases for track in self.workspace.project.tracks))
        if self.isVisible():
            self.refresh()

    def _begin(self, track: str, phase: str) -> None:
        """A phase begins now, and it runs."""
        self.play_of.jump(track, phase)
        if not self.clock.playing:
            self.clock.play()

    def try_again(self) -> None:
        """From the start, with what was set and sent before."""
        self.play_of.start(self.workspace.project, self.clock.ms, again=True)
        if not self.clock.playing:
            self.clock.play()

    def _seek(self, ms: float) -> None:
        if not self.ordered:
            self.clock.stop()
            self.clock.seek(ms)

    def _drag(self, loop_id: str, wanted: Loop) -> None:
        """A loop is dragged on the dial or the strip."""
        frame = self.shown_pose()
        if frame is not None:
            names = ("duration", "wait", "start_offset")
            self.workspace.gesture(
                tr("time of {wanted}", wanted=wanted.name),
                lambda p: edit_loop(
                    p, frame.id, loop_id, lambda old: replace(old, **{name: getattr(wanted, name) for name in names})
                ),
            )

    def _bring_in_step(self) -> None:
        """The rounds of all loops made so that they begin together."""
        frame = self.shown_pose()
        if frame is None:
            return
        period = common_period(frame.loops)
        rounds = dict(zip((loop.id for loop in frame.loops), period.rounds, strict=False))

        def edit(project: Project) -> Project:
            for ident, one in rounds.items():
                project = edit_loop(project, frame.id, ident, lambda old, r=one: in_step(old, r))  # type: ignore[misc]
            return project

        self.workspace.do(tr("loops in step"), edit)

    def remove_chosen(self) -> None:
        """Remove what is chosen in the view that is shown: a loop, a phase or a follow."""
        shown = self.orders if self.ordered else self.follows if self.driven else self.loops
        if not shown.remove_chosen():
            self.workspace.said.emit(tr("Choose a loop, a phase or a follow first."))

    def _edit_pose(self) -> None:
        """The second pose of what is chosen, opened on the board of Frames."""
        frame, moves = self.workspace.frame, self.follows.follow() if self.driven else self.loop()
        if frame is not None and moves is not None:
            self.workspace.open_pose(frame.id, moves.id)

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)  # type: ignore[arg-type]
        for part in self.left_panels:
            part.setFixedWidth(max(_LEFT, round(self.width() * 0.22)))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if not press(KEYS, self, event):
            super().keyPressEvent(event)
