"""The stage at work in Loops: its running orders played by the station's clock, and what was set while they ran."""

from __future__ import annotations

from PySide6.QtCore import QObject, Signal

from avelt.core.errors import AveltError
from avelt.core.model.parts import fits
from avelt.core.model.triggers import InputValue
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.running.player import Player


class Told(Record, frozen=True):
    """An input that was set, or (no value) a signal that was sent, ms after the start."""

    at: float
    name: str
    value: InputValue | None = None


class Performance(QObject):
    """Plays a stage. What is set and sent is kept, so that the same can be tried again."""

    changed = Signal()  # the player is another one, or somebody did something
    refused = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.player: Player | None = None
        self.told: list[Told] = []
        self._waiting: list[Told] = []
        self._began = 0.0

    def start(self, project: Project, ms: float, again: bool = False) -> None:
        """Begin at a time of the clock; ``again``: with what was set and sent before, at the same times."""
        self._began = ms
        self._waiting, self.told = (list(self.told), []) if again else ([], [])
        self.player = Player(project) if project.frames else None
        self.changed.emit()

    def replace_project(self, project: Project, ms: float) -> None:
        """The stage was edited: it goes on in the same phases with the same inputs, where they are there still."""
        old = self.player
        if old is None or not project.frames:
            self.start(project, ms)
            return
        known = {entry.name: entry for entry in project.inputs if entry.kind != "signal"}
        inputs = {name: v for name, v in old.inputs.items() if name in known and fits(known[name], v)}
        running = {state.track: state.phase for state in old.world.tracks}
        told, waiting, began = self.told, self._waiting, self._began
        self._began = ms
        self.player = made = Player(project, inputs=inputs)
        for track, phase in running.items():
            here = {state.track: state.phase for state in made.world.tracks}
            if track in here and here[track] != phase:
                made.jump(track, phase)
        shift = ms - began
        self.told = [Told(entry.at - shift, entry.name, entry.value) for entry in told]
        self._waiting = [Told(entry.at - shift, entry.name, entry.value) for entry in waiting]
        self.changed.emit()

    def go_to(self, ms: float) -> None:
        """The clock is at a time: what was kept falls due, and time goes on."""
        player, now = self.player, max(0.0, ms - self._began)
        if player is None:
            return
        while self._waiting and self._waiting[0].at <= now:
            entry = self._waiting.pop(0)
            player.advance(max(player.now, entry.at))
            self._do(player, entry.name, entry.value)
        player.advance(now)

    def set_input(self, name: str, value: InputValue) -> None:
        """Somebody sets an input."""
        if self.player is not None:
            self._do(self.player, name, value)

    def send(self, name: str) -> None:
        """Somebody sends a signal."""
        if self.player is not None:
            self._do(self.player, name, None)

    def jump(self, track: str, phase: str) -> None:
        """A phase begins now."""
        if self.player is not None:
            self.player.jump(track, phase)
            self.changed.emit()

    def _do(self, player: Player, name: str, value: InputValue | None) -> None:
        try:
            if value is None:
                player.send(name)
            else:
                player.set_input(name, value)
        except AveltError as error:
            self.refused.emit(str(error))
            return
        self.told.append(Told(player.now, name, value))
        self.changed.emit()

    def phases(self) -> dict[str, str]:
        """Which phase runs on which track, by their ids."""
        return {state.track: state.phase for state in self.player.world.tracks} if self.player is not None else {}

    def fired(self) -> dict[str, int]:
        """Which rule of a phase led on last: by the phase's id, the rule's number."""
        states = self.player.world.tracks if self.player is not None else ()
        return {state.by[0]: state.by[1] for state in states if state.by[1] >= 0}
