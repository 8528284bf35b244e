"""Rehearse: the prototype as the user of the app meets it, on tape."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from avelt.core.edits.session import Change
from avelt.core.edits.tapes import keep_tape, put_tape, remove_tape, rename_tape
from avelt.core.errors import AveltError
from avelt.core.model.tapes import Event, KeyDown, Loaded, Move, Out, Press, Release, Scrolled, Sent, Start, Tape, Told
from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Project
from avelt.core.running.deeds import Deed, deeds_of, moved
from avelt.core.running.player import Player
from avelt.core.running.rehearsal import Rehearsal
from avelt.core.running.touch import Taken
from avelt.core.timing.quieter import quieter
from avelt.core.words import tr
from avelt.window.common.jobs import Latest
from avelt.window.common.pictures_first import pictures
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import SPEEDS, Clock
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import label, panel
from avelt.window.controls.key_names import key_name
from avelt.window.rehearse.ahead import Ahead
from avelt.window.rehearse.beside import Beside
from avelt.window.rehearse.leading import lead_to
from avelt.window.rehearse.log_view import with_scrolls
from avelt.window.rehearse.now_runs import Line, NowRuns
from avelt.window.rehearse.pace import Pace
from avelt.window.rehearse.preview import Preview
from avelt.window.rehearse.running_lines import lines_of
from avelt.window.rehearse.setup_panel import SetupPanel
from avelt.window.rehearse.tape_files import TapeFiles
from avelt.window.rehearse.tape_panel import BEFORE, TapePanel
from avelt.window.rehearse.time_strip import TimeStrip
from avelt.window.rehearse.top_bar import Size, TopBar

_UNSEEN = {"swatches", "grid", "next_id", "tapes"}  # fields of a project that a rehearsal does not show
_SLIPS = 6.0  # px that a finger may slip before it scrolls
_LINE = 40.0  # px that an arrow key scrolls


class RehearseStation(QWidget):
    """The station."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.rehearsal: Rehearsal | None = None
        self.before: Project | None = None  # the project before the last edit
        self.clock = Clock(self)
        self.clock.endless = True
        self.jobs = Latest(self)
        self._held: tuple[float, float, bool] | None = None  # a finger that is down, and whether it scrolls
        self._answers = False  # the next picture answers a touch
        self._told = 0  # how much had happened when the last picture was shown
        self._does = False  # the picture that is shown shows what is done just now
        self._deeds: tuple[Rehearsal | None, int, list[Deed]] = (None, -1, [])  # of a tape with so many events
        self._stale = False
        self.top = TopBar()
        self._build(workspace)
        self.ahead = Ahead(self, self.stage.painting_ahead, self._still, self.stage.keeps)
        self.files = TapeFiles(self, workspace, self.tape, self.jobs)
        lay_out(self, self.top, self.body, self.empty)
        self._connect()

    def _build(self, workspace: Workspace) -> None:
        self.stage = Preview(workspace)
        self.stage.setAccessibleName(tr("The prototype"))
        self.beside = Beside(workspace)
        self.strip = TimeStrip(workspace, self.clock)
        self.tape = TapePanel(workspace)
        self.log, self.scroller, self.count = self.tape.log, self.tape.scroller, self.tape.count
        self.setup = SetupPanel()
        self.inputs, self.loading = self.setup.inputs, self.setup.loading
        self.runs = NowRuns(workspace)
        self.pace = Pace(self.stage)
        self.right = QWidget()
        self.right.setFixedWidth(300)
        column = QVBoxLayout(self.right)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(12)
        runs = panel()
        below = QVBoxLayout(runs)
        below.setContentsMargins(16, 12, 16, 12)
        below.addWidget(label(tr("What runs now"), "heading"))
        below.addWidget(self.runs, 1)
        below.addWidget(self.pace)
        column.addWidget(self.setup, 6)
        column.addWidget(runs, 4)
        self.body = QWidget()
        inner = QHBoxLayout(self.body)
        inner.setContentsMargins(12, 10, 12, 12)
        inner.setSpacing(12)
        inner.addWidget(self.tape)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        stages = QHBoxLayout()
        stages.setSpacing(12)
        stages.addWidget(self.stage, 1)
        stages.addWidget(self.beside, 1)
        middle.addLayout(stages, 1)
        middle.addWidget(self.strip)
        inner.addLayout(middle, 1)
        inner.addWidget(self.right)
        self.empty = EmptyPlace(
            tr("There is nothing to rehearse yet. Import screens first."),
            tr("Go to Frames"),
            lambda: workspace.station_wanted.emit("frames"),
        )

    def _connect(self) -> None:
        workspace, top, tape = self.workspace, self.top, self.tape
        workspace.changed.connect(self._changed)
        workspace.theme.changed.connect(self.update)
        self.clock.ticked.connect(self._ticked)
        self.clock.played.connect(lambda on: top.hold.setChecked(not on))
        top.again.clicked.connect(self.start_over)
        top.hold.toggled.connect(lambda on: self.clock.stop() if on else self.clock.play())
        top.back.clicked.connect(lambda: self.clock.step(-1))
        top.on.clicked.connect(lambda: self.clock.step(1))
        top.speeds.picked.connect(lambda k: setattr(self.clock, "speed", SPEEDS[k]))
        top.hot.toggled.connect(self._set_hot)
        top.finger.toggled.connect(self._set_finger)
        top.sized.connect(self._set_size)
        top.whole.toggled.connect(self._set_whole)
        self.log.picked.connect(self._look_at)
        self.strip.retimed.connect(self._retime)
        self.stage.pressed.connect(self._press)
        self.stage.released.connect(self._release)
        self.stage.moved.connect(self._move)
        self.stage.gone.connect(self._out)
        self.stage.wheeled.connect(lambda dx, dy: self._do(lambda ms: Scrolled(ms, dx, dy)))
        self.setup.changed.connect(self._set_up)
        self.setup.ready.connect(lambda: self._do(Loaded))
        self.setup.refused.connect(workspace.said)
        self.inputs.wanted.connect(lambda name, value: self._tell(name, value))
        self.inputs.sent.connect(lambda name: self._do(lambda ms: Sent(ms, name)))
        self.runs.picked.connect(self._lead)
        tape.chosen.connect(self.open_tape)
        tape.kept.connect(self.keep)
        tape.replayed.connect(self.replay)
        tape.compared.connect(self.compare)
        tape.renamed.connect(self._rename)
        tape.removed.connect(self._remove)
        tape.exported.connect(self._export)
        tape.opened.connect(lambda: self.files.open(self._take_over))
        tape.stopped.connect(self.jobs.stop)
        self.jobs.progressed.connect(tape.show_busy)
        self.jobs.answered.connect(lambda words: workspace.said.emit(str(words)))
        self.jobs.failed.connect(workspace.said)
        self.jobs.ended.connect(lambda: tape.show_busy())
        self.beside.wanted.connect(self._look_at)

    # What is rehearsed

    @property
    def player(self) -> Player | None:
        """The player at the furthest moment; none where there is nothing to rehearse."""
        return self.rehearsal.player if self.rehearsal is not None else None

    @property
    def played(self) -> Project:
        """The project as it is rehearsed."""
        project = self.workspace.project
        return quieter(project) if self.setup.quieter.isChecked() else project

    def enter(self) -> None:
        """The station comes to the front; it goes on at the same moment, with the project as it is now."""
        frames = bool(self.workspace.project.frames)
        self.body.setVisible(frames)
        self.empty.setVisible(not frames)
        if not frames:
            return
        self.top.show_sizes(self.workspace.project)
        self.tape.show_project(self.workspace.project, self.tape.tape_name)
        looks_back = self.looks_back()
        if self.rehearsal is None:
            self.start_over()
        elif self._stale:
            self._again()
        if not looks_back:
            self.clock.play()

    def leave(self) -> None:
        """Another station comes to the front: time stands still."""
        self.clock.stop()

    def start_over(self) -> None:
        """From the first frame, with an empty tape."""
        self.tape.show_project(self.workspace.project, "")
        start = Start(seed=int(self.setup.seed.value), loading=self.loading.value)
        self._take(lambda: Rehearsal(self.played, Tape(start=start)), 0.0)

    def open_tape(self, name: str) -> None:
        """Rehearse by a kept tape; an empty name begins anew."""
        tape = next((entry for entry in self.workspace.project.tapes if entry.name == name), None)
        if tape is None:
            self.start_over()
        else:
            self.tape.show_project(self.workspace.project, name)
            self._take_over(tape)

    def _take_over(self, tape: Tape) -> None:
        self.setup.seed.show_value(float(tape.start.seed))
        self.loading.show_value(tape.start.loading)
        self._take(lambda: Rehearsal(self.played, tape), 0.0)
        self.clock.play()

    def _take(self, make: Callable[[], Rehearsal], ms: float) -> None:
        try:
            self.rehearsal = make()
        except AveltError as error:
            self.rehearsal = None
            self.workspace.said.emit(str(error))
            return
        self._stale, self._held = False, None
        self.pace.begin()
        self.clock.ms = ms
        self.tape.show_missed(self.rehearsal.missed)
        self._show()

    def _changed(self, change: Change) -> None:
        self.tape.show_project(self.workspace.project, self.tape.tape_name)
        if not change.touched.fields - _UNSEEN:
            return
        if not change.label:  # another project, or a part of it
            self.rehearsal = self.before = None
            self.compare("")
        else:
            if not self._stale:
                self.before = change.before
            self._stale = True
        if self.isVisible():
            self.enter()

    def _again(self) -> None:
        """The same tape at the same moment, with the edited project."""
        rehearsal, ms = self.rehearsal, self.clock.ms
        if rehearsal is None or not self.workspace.project.frames:
            self.rehearsal = None
            return
        self._take(lambda: rehearsal.again(self.played, rehearsal.player.now), ms)
        self.tape.may_compare_before = self.before is not None
        if self.beside.rehearsal is not None:
            self.compare(self.tape.comparing)

    def _set_up(self) -> None:
        """How long pages load, the seed or quieter motion was changed."""
        rehearsal = self.rehearsal
        start = Start(seed=int(self.setup.seed.value), loading=self.loading.value)
        if rehearsal is None or (rehearsal.start.seed, rehearsal.start.loading) != (start.seed, start.loading):
            self.start_over()
        else:
            self._again()

    # Time

    def looks_back(self) -> bool:
        """Whether something of the tape is still to come after the moment that is shown."""
        return self.rehearsal is not None and self.clock.ms < self.rehearsal.ends

    def replay(self) -> None:
        """Play the tape from its start."""
        self.clock.seek(0.0)
        self.clock.play()

    def _look_at(self, ms: float) -> None:
        self.clock.stop()
        self.clock.seek(ms)

    def _still(self) -> bool:
        return self.isVisible() and self.player is not None and not self.player.moves

    def _ticked(self, ms: float) -> None:
        if self.rehearsal is None:
            return
        self._show()
        if self._held is not None and not self._does:
            self.stage.repaint()
            self.ahead.foresee(self.rehearsal.player)

    # What is done

    def _do(self, make: Callable[[float], Event]) -> Taken:
        """Do something now, onto the tape."""
        if self.rehearsal is None:
            return None
        if self.rehearsal.full:
            self.workspace.said.emit(tr("The tape is full: keep it, and start over."))
        pictures.begin()
        try:
            taken = self.rehearsal.do(make(self.clock.ms))
        except AveltError as error:
            self.workspace.said.emit(str(error))
            return None
        self._answers = taken is not None and not self.rehearsal.player.holds
        self._does = True
        try:
            if not self.clock.catch_up():
                self._show()
        finally:
            self._does = False
        return taken

    @property
    def by_touch(self) -> bool:
        """Whether it is rehearsed as on a touch screen."""
        return self.top.hands.button(1).isChecked()

    def _press(self, x: float, y: float) -> None:
        self._held = (x, y, False)
        if not self.by_touch and not self.looks_back():
            self._do(lambda ms: Move(ms, x, y))
        self._do(lambda ms: Press(ms, x, y))

    def _move(self, x: float, y: float) -> None:
        if self.rehearsal is None or self.looks_back():
            return
        held = self._held
        if self.by_touch and held is None:
            return
        if self.by_touch and held is not None and not self.rehearsal.player.holds:
            dx, dy = held[0] - x, held[1] - y
            if held[2] or dx * dx + dy * dy > _SLIPS**2:
                self._held = (x, y, True)
                self._do(lambda ms: Scrolled(ms, dx, dy))
            return
        self._do(lambda ms: Move(ms, x, y))

    def _release(self, x: float, y: float) -> None:
        if self._held is None:
            return
        self._held = None
        if self._do(lambda ms: Release(ms, x, y)) is None:
            self.stage.missed()

    def _out(self) -> None:
        if not self.looks_back() and not self.by_touch and self._held is None and self.rehearsal is not None:
            self._do(Out)

    def _tell(self, name: str, value: InputValue) -> None:
        self._do(lambda ms: Told(ms, name, value))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """A key is the prototype's where that waits for it; then the arrows scroll, and letters are the station's."""
        name = key_name(event)
        rehearsal = self.rehearsal
        if rehearsal is None or not name or event.modifiers() & ~Qt.KeyboardModifier.ShiftModifier:
            super().keyPressEvent(event)
            return
        if not self.looks_back() and rehearsal.player.moment(rehearsal.player.now).key(name) is not None:
            self._do(lambda ms: KeyDown(ms, name))
            return
        page = rehearsal.player.scene().size[1] - _LINE
        down = {"ArrowDown": _LINE, "ArrowUp": -_LINE, "PageDown": page, "PageUp": -page}.get(name)
        if down is not None:
            self._do(lambda ms: Scrolled(ms, 0.0, down))
        elif name in (does := self._letters()):
            does[name]()
        else:
            super().keyPressEvent(event)

    def _letters(self) -> dict[str, Callable[[], None]]:
        top = self.top
        return {
            "h": top.hot.toggle,
            "f": top.finger.toggle,
            "w": top.whole.toggle,
            "k": self.keep,
            "r": self.replay,
            "l": self.setup.now.click,
        }

    # Tapes

    def keep(self) -> None:
        """Keep what was done as a tape of the project; a kept one takes over what was changed."""
        if self.rehearsal is None:
            return
        if self.workspace.stages.path:
            self.workspace.said.emit(tr("Tapes are kept by the project: go out of the part first."))
            return
        tape, name = self.rehearsal.tape(), self.tape.tape_name
        if name:
            self.workspace.do(tr("change tape"), lambda p: put_tape(p, name, tape))
            return
        made = self.workspace.make(tr("keep tape"), lambda p: keep_tape(p, tape))
        if made is not None:
            self.clock.stop()
            self.tape.show_project(self.workspace.project, made)
            self.tape.ask_name()

    def _rename(self, new: str) -> None:
        old = self.tape.tape_name
        if self.workspace.do(tr("rename tape"), lambda p: rename_tape(p, old, new)):
            self.tape.show_project(self.workspace.project, new)

    def _remove(self) -> None:
        name = self.tape.tape_name
        if self.workspace.do(tr("remove tape"), lambda p: remove_tape(p, name)):
            self.tape.show_project(self.workspace.project, "")

    def _retime(self, deed: Deed, by: float) -> None:
        """What was done is done earlier or later; all is played anew until the same moment."""
        rehearsal = self.rehearsal
        if rehearsal is None:
            return
        events, ms = moved(rehearsal.events, deed, by), self.clock.ms
        start = next((d.start for d in deeds_of(events) if d.first == deed.first), ms)
        on_it = deed.start - 0.5 <= ms <= deed.end + 0.5
        self._take(lambda: rehearsal.with_events(events, rehearsal.player.now), start if on_it else ms)
        name = self.tape.tape_name
        if name and self.rehearsal is not None:
            tape = self.rehearsal.tape()
            self.workspace.do(tr("move on tape"), lambda p: put_tape(p, name, tape))

    def compare(self, what: str) -> None:
        """Show another tape beside, or the same before the last edit; nothing ends it."""
        rehearsal, project = self.rehearsal, self.workspace.project
        self.tape.comparing = what
        tape = next((entry for entry in project.tapes if entry.name == what), None)
        if rehearsal is None or (tape is None and (what != BEFORE or self.before is None)):
            self.tape.comparing = ""
            self.beside.close_it()
            return
        own = rehearsal.tape()
        if tape is not None:
            self.beside.open(tape.name, (self.played, own), (self.played, tape))
        elif self.before is not None:
            self.beside.open("Before the last edit", (self.played, own), (self.before, own))
        self._show()

    def _export(self, kind: str) -> None:
        if self.rehearsal is not None:
            self.files.save(kind, self.played, self.rehearsal.tape(self.tape.tape_name or "Tape"))

    # What is shown

    def _set_hot(self, on: bool) -> None:
        self.stage.show_hot = on
        self.stage.update()

    def _set_finger(self, on: bool) -> None:
        self.stage.show_finger = on
        self.stage.update()

    def _set_size(self, size: Size) -> None:
        self.stage.size_mode = self.beside.stage.size_mode = size
        self.stage.update()

    def _set_whole(self, on: bool) -> None:
        for widget in (self.tape, self.right, self.strip):
            widget.setVisible(not on)
        self.stage.setFocus()

    def _lead(self, line: Line) -> None:
        if self.player is not None:
            lead_to(self.workspace, self.player, line)

    def _show(self) -> None:
        rehearsal = self.rehearsal
        if rehearsal is None:
            return
        seen = rehearsal.seen(self.clock.ms)
        world = seen.world
        self.stage.hot = seen.hot_areas()
        self.stage.finger = None if world.pointer is None else (*world.pointer, world.pressed is not None)
        self.stage.show_scene(seen.scene())
        if self._answers or len(rehearsal.player.log) != self._told:  # the screen first, then what stands beside it
            self._answers, self._told = False, len(rehearsal.player.log)
            self.stage.repaint()
        self.ahead.look(seen)
        self.beside.show_moment(self.clock.ms)
        if self._deeds[:2] != (rehearsal, len(rehearsal.events)):
            self._deeds = rehearsal, len(rehearsal.events), deeds_of(rehearsal.events)
        log = with_scrolls(rehearsal.player.log, self._deeds[2], rehearsal.player.now)
        if len(log) != len(self.log.entries) or (log and log[-1] != self.log.entries[-1]):
            self.log.show_entries(log)
            bar_ = self.scroller.verticalScrollBar()
            bar_.setValue(bar_.maximum())
        self.log.show_now(self.clock.ms)
        self.strip.mark = self.beside.parting.at if self.beside.parting is not None else None
        self.strip.show_time(log, rehearsal.ends, self._deeds[2])
        self.count.setText(
            tr("{ends:.2f} s, {n} events", "{ends:.2f} s, {n} event", len(log), ends=rehearsal.ends / 1000)
        )
        self.setup.show_values(self.workspace.project.inputs, seen.inputs, seen.still_loads() is not None)
        lines = lines_of(seen)
        self.runs.show_lines(lines)
        self.pace.tick(self.clock.playing, lines[0].name if lines else seen.frame.name)
