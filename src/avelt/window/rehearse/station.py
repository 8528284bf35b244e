"""Rehearse: the prototype as the user of the app meets it."""

from __future__ import annotations

from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from avelt.core.errors import AveltError
from avelt.core.model.phases import MAIN
from avelt.core.model.triggers import InputValue, Timer
from avelt.core.running.player import Player
from avelt.core.timing.loops import stage_words
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import SPEED_WORDS, SPEEDS, Clock
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import Choice, NumberField, bar, button, label, panel, row, scrolled
from avelt.window.controls.key_names import key_name
from avelt.window.controls.live_inputs import LiveInputs
from avelt.window.controls.painted import Tick
from avelt.window.rehearse.time_strip import TimeStrip
from avelt.window.rehearse.views import LogView, NowRuns, Preview

_UNSEEN = {"swatches", "grid", "next_id"}  # fields of a project that a rehearsal does not show


class RehearseStation(QWidget):
    """The station."""

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.player: Player | None = None
        self.clock = Clock(self)
        self.clock.endless = True
        strip = self._bar()
        self._build(workspace)
        lay_out(self, strip, self.body, self.empty)
        self._connect()

    def _bar(self) -> QWidget:
        strip, layout = bar()
        self.again = button("Restart", "Begin again with the first frame (Home)", "strong")
        self.hold = button("Hold", "Stop time, or let it go on (Space)", checkable=True)
        self.speeds = Choice([SPEED_WORDS[s] for s in SPEEDS])
        self.hot = Tick("show what can be tapped")
        self.hot.setChecked(True)
        self.loading = NumberField("ms", 50.0, 0.0, 60_000.0, 0)
        self.loading.setToolTip("How long every frame loads: what waits for that starts then")
        for widget in (
            self.again,
            self.hold,
            label("Speed", "quiet"),
            self.speeds,
            label("Loading takes", "quiet"),
            self.loading,
        ):
            layout.addWidget(widget)
        layout.addStretch(1)
        layout.addWidget(self.hot)
        return strip

    def _build(self, workspace: Workspace) -> None:
        self.stage = Preview(workspace)
        self.stage.setAccessibleName("The prototype")
        self.log = LogView(workspace)
        self.strip = TimeStrip(workspace, self.clock)
        scroll = self.scroller = scrolled(self.log)
        self.count = label("", "quiet")
        left = panel()
        left.setFixedWidth(318)
        inside = QVBoxLayout(left)
        inside.setContentsMargins(14, 12, 8, 12)
        inside.addLayout(row(label("What happened", "heading"), None, self.count))
        inside.addWidget(scroll, 1)
        self.runs = NowRuns(workspace)
        right = panel()
        right.setFixedWidth(300)
        below = QVBoxLayout(right)
        below.setContentsMargins(16, 12, 16, 12)
        below.addWidget(label("What runs now", "heading"))
        below.addWidget(self.runs, 1)
        self.inputs_head = label("Inputs", "heading")
        self.inputs = LiveInputs()
        below.addWidget(self.inputs_head)
        below.addWidget(self.inputs)
        self.body = QWidget()
        inner = QHBoxLayout(self.body)
        inner.setContentsMargins(12, 10, 12, 12)
        inner.setSpacing(12)
        inner.addWidget(left)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        middle.addWidget(self.stage, 1)
        middle.addWidget(self.strip)
        inner.addLayout(middle, 1)
        inner.addWidget(right)
        self.empty = EmptyPlace(
            "There is nothing to rehearse yet. Import screens first.",
            "Go to Frames",
            lambda: workspace.station_wanted.emit("frames"),
        )

    def _connect(self) -> None:
        workspace = self.workspace
        workspace.changed.connect(lambda change: self._forget() if change.touched.fields - _UNSEEN else None)
        workspace.theme.changed.connect(self.update)
        self.clock.ticked.connect(self._ticked)
        self.again.clicked.connect(self.start_over)
        self.hold.toggled.connect(lambda on: self.clock.stop() if on else self.clock.play())
        self.clock.played.connect(lambda on: self.hold.setChecked(not on))
        self.clock.played.connect(lambda on: self._go_on() if on else None)
        self.log.picked.connect(self._look_at)
        self.speeds.picked.connect(lambda k: setattr(self.clock, "speed", SPEEDS[k]))
        self.hot.toggled.connect(self._set_hot)
        self.loading.committed.connect(lambda _: self.start_over())
        self.loading.refused.connect(workspace.said)
        self.stage.pressed.connect(self._press)
        self.stage.released.connect(self._release)
        self.stage.moved.connect(self._move)
        self.stage.gone.connect(self._out)
        self.inputs.wanted.connect(self._set_input)
        self.inputs.sent.connect(self._send)
        self.inputs.refused.connect(workspace.said)

    def enter(self) -> None:
        """The station comes to the front; it goes on where it was, unless the project changed."""
        frames = bool(self.workspace.project.frames)
        self.body.setVisible(frames)
        self.empty.setVisible(not frames)
        if frames:
            if self.player is None:
                self.start_over()
            if not self.looks_back():
                self.clock.play()

    def leave(self) -> None:
        """Another station comes to the front: time stands still."""
        self.clock.stop()

    def start_over(self) -> None:
        """From the first frame."""
        try:
            self.player = Player(self.workspace.project, self.loading.value)
        except AveltError as error:
            self.player = None
            self.workspace.said.emit(str(error))
            return
        self.clock.ms = 0.0
        self._show()

    def _forget(self) -> None:
        self.player = None
        if self.isVisible():
            self.enter()

    def looks_back(self) -> bool:
        """Whether an earlier moment is looked at than the last one."""
        return self.player is not None and self.clock.ms < self.player.now

    def _look_at(self, ms: float) -> None:
        self.clock.stop()
        self.clock.seek(ms)

    def _go_on(self) -> None:
        """From the moment that is looked at; what came later is forgotten."""
        if self.player is not None and self.looks_back():
            self.player.rewind(self.clock.ms)

    def _ticked(self, ms: float) -> None:
        if self.player is not None:
            self.player.advance(ms)
            self._show()

    def _press(self, x: float, y: float) -> None:
        if self.player is not None:
            self._go_on()
            self.player.press(x, y)

    def _move(self, x: float, y: float) -> None:
        if self.player is not None and not self.looks_back():
            self.player.move(x, y)

    def _out(self) -> None:
        if self.player is not None and not self.looks_back():
            self.player.out()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """A key that the station has no use for is one of the prototype's."""
        name = key_name(event)
        if self.player is not None and name and not self.looks_back() and self.player.key(name) is not None:
            self._show()
            return
        super().keyPressEvent(event)

    def _release(self, x: float, y: float) -> None:
        if self.player is not None:
            self.player.release(x, y)
            self._show()

    def _set_input(self, name: str, value: InputValue) -> None:
        if self.player is not None:
            self._go_on()
            self.player.set_input(name, value)
            self._show()

    def _send(self, name: str) -> None:
        if self.player is not None:
            self._go_on()
            self.player.send(name)
            self._show()

    def _set_hot(self, on: bool) -> None:
        self.stage.show_hot = on
        self.stage.update()

    def _show(self) -> None:
        player = self.player
        if player is None:
            return
        seen = player.moment(self.clock.ms) if self.looks_back() else player
        self.stage.hot = seen.hot_areas()
        self.stage.show_scene(seen.scene())
        if len(player.log) != len(self.log.entries) or player.log[-1] != self.log.entries[-1]:
            self.log.show_entries(player.log)
            bar_ = self.scroller.verticalScrollBar()
            bar_.setValue(bar_.maximum())
        self.log.show_now(seen.now)
        self.strip.show_time(player.log, player.now)
        count = len(player.log)
        self.count.setText(f"{count} event{'s' if count != 1 else ''}")
        known = self.workspace.project.inputs
        self.inputs_head.setVisible(bool(known))
        self.inputs.show_inputs(known, seen.inputs)
        self.runs.lines = self._running(seen)
        self.runs.update()

    def _running(self, player: Player) -> list[tuple[str, str, float, str]]:
        lines: list[tuple[str, str, float, str]] = []
        under_way = player.under_way()
        if under_way is not None:
            words = f"to {player.frame.name}" if player.route is not None else f"{player.frame.name} (entrance)"
            lines.append((words, f"{under_way * 100:.0f} %", under_way, "route"))
        loads = player.still_loads()
        if loads is not None:
            lines.append(("loading", f"{loads / 1000:.1f} s more", 1.0 - loads / max(player.loading, 1e-9), "timer"))
        timer = player.next_timer()
        if timer is not None and isinstance(timer[0].trigger, Timer):
            left = timer[1] - player.now
            total = max(timer[0].trigger.after, 1e-9)
            lines.append(("timer", f"waits {left / 1000:.1f} s more", 1.0 - left / total, "timer"))
        for inside, tracks in player.phases().items():
            for track, phase in tracks.items():
                name = inside or player.project.name
                lines.append((name if track == MAIN else f"{name}, {track}", phase, 0.0, "phase"))
        for entry in player.running():
            since = player.now - entry.since
            part = entry.share
            name = f"{entry.inside}: {entry.loop.name}" if entry.inside else entry.loop.name
            lines.append((name, stage_words(entry.loop, since), part, "loop"))
        return lines
