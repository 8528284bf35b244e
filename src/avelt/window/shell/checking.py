"""Checks in the window: looked for in the background after each edit, counted at the stations, led to from the list."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from typing import TYPE_CHECKING, Protocol, cast

from PySide6.QtCore import QObject, QTimer, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from avelt.core.model.find import frame_of_layer
from avelt.core.record import lazy
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.fields import button
from avelt.window.shell.commands import STATIONS
from avelt.window.shell.stations import Stations

if TYPE_CHECKING:
    from avelt.core.checks.table import Finding
    from avelt.core.model.values import Project
    from avelt.window.checks.panel import ChecksPanel
    from avelt.window.common.jobs import Latest
    from avelt.window.loops.station import LoopsStation
    from avelt.window.timing.station import TimingStation

AFTER = 900  # ms after an edit: what is being done comes first


class Front(Protocol):
    """What is needed of the window."""

    current: str
    workspace: Workspace
    stations: Stations
    holder: QWidget
    drawer: QVBoxLayout

    def go(self, ident: str) -> None: ...


class Checking(QObject):
    """Keeps what is found up to date; ``told`` says that it is."""

    told = Signal()

    def __init__(self, front: Front, parent: QObject) -> None:
        super().__init__(parent)
        self.front, self.workspace = front, front.workspace
        self.found: tuple[Finding, ...] = ()
        self.known = self._on = False
        self.button = button(tr("Checks"), tr("What is wrong with the project (Ctrl+Shift+C)"), "status")
        self._soon = QTimer(self)
        self._soon.setSingleShot(True)
        self._soon.setInterval(AFTER)
        self._soon.timeout.connect(self.look)
        self.workspace.changed.connect(self._changed)
        self.button.clicked.connect(self.toggle)

    @lazy
    def work(self) -> Latest:
        """What looks in the background, made when it is first wanted: a window opens faster without."""
        from avelt.window.common.jobs import Latest

        made = Latest(self)
        made.answered.connect(self._take)
        return made

    def look(self) -> None:
        """Look now."""
        from avelt.window.checks.job import CheckJob

        self._soon.stop()
        if self.workspace.whole.frames:
            self.work.start(CheckJob(self.workspace.whole))
        else:
            self.work.stop()
            self._take(())

    def begin(self) -> None:
        """From now on it is looked for by itself."""
        self._on = True
        self._soon.start()

    def _changed(self, _: object) -> None:
        if self._on:
            self._soon.start()

    def end(self) -> None:
        """The window closes."""
        self._soon.stop()
        if "work" in self.__dict__:
            self.work.stop()

    def _take(self, found: object) -> None:
        self.found = cast("tuple[Finding, ...]", found)
        self.known = True
        count = len(self.open)
        self.button.setText(tr("Checks  {count}", count=count) if count else tr("Nothing to mend"))
        if self.is_open:
            self.panel.show_found(self.found, self.front.current)
        self.told.emit()

    @property
    def open(self) -> list[Finding]:
        """What is found and not muted."""
        return [entry for entry in self.found if not entry.reason]

    def counts(self) -> Counter[str]:
        """How many findings each station has."""
        return Counter(entry.check.station for entry in self.open)

    # The list

    @lazy
    def panel(self) -> ChecksPanel:
        """The list, made when it is first wanted."""
        from avelt.window.checks.panel import ChecksPanel

        made = ChecksPanel(self.workspace.theme, dict(STATIONS), self.front.holder)
        self.front.drawer.insertWidget(self.front.drawer.count() - 1, made)
        made.closed.connect(self.close)
        made.led.connect(self.lead)
        made.mended.connect(self.mend)
        made.muted.connect(self.mute)
        return made

    @property
    def is_open(self) -> bool:
        """Whether the list is in sight."""
        return "panel" in self.__dict__ and self.panel.isVisible()

    def toggle(self) -> None:
        """The list comes or goes."""
        if self.is_open:
            self.close()
            return
        self.panel.show()
        if not self.known or self._soon.isActive():
            self.look()
        self.panel.show_found(self.found, self.front.current)
        self.panel.list.setFocus()

    def close(self) -> None:
        """The list goes."""
        if self.is_open:
            self.panel.hide()
            self.front.stations[self.front.current].setFocus()

    def entered(self) -> None:
        """Another station is in front."""
        if self.is_open:
            self.panel.show_found(self.found, self.front.current)

    # What can be done

    def lead(self, entry: Finding) -> None:
        """Go to where a finding is."""
        workspace, trouble = self.workspace, entry.trouble
        here = workspace.stages.part(workspace.whole)
        if (here.id if here is not None else "") != entry.part or workspace.stages.in_pose:
            workspace.close_part(0)
            if entry.part:
                workspace.open_part(entry.part)
        stage = workspace.project
        if trouble.routes and any(route.id == trouble.routes[0] for route in stage.routes):
            workspace.choose_route(trouble.routes[0])
        layer = next((i for i in trouble.layers if frame_of_layer(stage, i) is not None), "")
        home = frame_of_layer(stage, layer) if layer else None
        frame = home.id if home is not None else next(iter(trouble.frames), "")
        if frame and any(entry.id == frame for entry in stage.frames):
            workspace.choose(frame, layer)
        self.front.go(entry.check.station)
        station = self.front.stations[entry.check.station]
        if entry.check.station == "timing" and trouble.routes:
            cast("TimingStation", station).context.show(trouble.routes[0])
        if entry.check.station == "loops" and trouble.loops:
            cast("LoopsStation", station).choose(trouble.loops[0])
        if self.is_open:
            self.panel.list.setFocus()

    def mend(self, entry: Finding) -> None:
        """Mend a finding; one step to undo."""
        from avelt.core.edits.mending import MENDS, mended

        words = MENDS[entry.check.code].words
        if self._edit(words, lambda project: mended(project, entry.part, entry.trouble)):
            self.workspace.said.emit(tr("{words}: done. Undo takes it back.", words=words))

    def mute(self, entry: Finding, reason: str) -> None:
        """It is meant so, and why; without a reason it counts again."""
        from avelt.core.checks.table import mute

        self._edit(tr("mute a finding") if reason else tr("count a finding again"), lambda p: mute(p, entry, reason))

    def _edit(self, words: str, edit: Callable[[Project], Project]) -> bool:
        """An edit of the project, whatever part is open."""
        from avelt.core.errors import AveltError

        try:
            self.workspace.session.do(words, edit(self.workspace.whole))
        except AveltError as error:
            self.workspace.said.emit(str(error))
            return False
        self.look()
        return True
