"""The team's shelf in the window: joining, sending and taking in the background, versions, settling."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import closing
from functools import partial
from typing import cast

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QDialog, QInputDialog, QMenu, QWidget

from avelt.core.errors import AveltError, Stopped
from avelt.core.presets import team
from avelt.core.presets.shelf import Listing, Shelf
from avelt.core.presets.team_state import Conflict, Keep, Status, TeamShelf
from avelt.core.presets.values import Preset
from avelt.core.words import tr
from avelt.window.common.jobs import Job, Latest
from avelt.window.common.workspace import Workspace
from avelt.window.shelf.settle_form import SettleForm

_VERSIONS = 12  # that a menu shows


class Syncing(Job):
    """Sends what waits and takes what is new; with an address, joins that shelf first."""

    def __init__(self, shelf: Shelf, where: str = "") -> None:
        super().__init__((shelf, where))

    def work(self) -> Status:
        """How it stands then."""
        shelf, where = cast("tuple[Shelf, str]", self.request)
        with closing(team.join(shelf, where, progress=self._step) if where else team.joined(shelf)) as made:
            return made.status() if where else made.sync(self._step)

    def _step(self, words: str) -> None:
        if not self.go_on(0, 0):
            raise Stopped()


class TeamControl(QObject):
    """``changed`` comes when other presets are on it, or it stands otherwise."""

    changed = Signal()

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.holder = parent
        self.jobs = Latest(self)
        self.jobs.answered.connect(self._synced)
        self.jobs.failed.connect(workspace.said)
        self.jobs.ended.connect(self.changed)

    @property
    def shelf(self) -> Shelf:
        """The person's own shelf."""
        return self.workspace.shelf

    def read(self) -> Listing:
        """The presets of the team; what is wrong with it is a trouble of the list."""
        try:
            return team.listed(self.shelf)
        except AveltError as error:
            self.workspace.said.emit(str(error))
            return Listing(())

    def status(self) -> Status | None:
        """How it stands; nothing when no shelf was joined."""
        try:
            found = team.team_of(self.shelf)
            if found is None:
                return None
            with closing(found):
                return found.status()
        except AveltError:
            return None

    def words(self) -> str:
        """How it stands, in words."""
        if self.jobs.job is not None:
            return tr("Asking the team's shelf …")
        status = self.status()
        return tr("No team's shelf was joined yet.") if status is None else f"{status.words.capitalize()}."

    def menu(self) -> QMenu:
        """What can be done with the shelf as a whole."""
        menu, status = QMenu(self.holder), self.status()
        if self.jobs.job is not None:
            menu.addAction(tr("Stop"), self.jobs.stop)
            return menu
        if status is None:
            menu.addAction(tr("Join a shelf…"), self._ask)
            return menu
        menu.addAction(tr("Send and take"), self.sync)
        for clash in status.conflicts:
            menu.addAction(tr("Settle {clash}…", clash=clash.name), partial(self._settle, clash))
        if status.rewritten:
            words = {
                "theirs": tr("Take the history there, with what was not sent on top"),
                "mine": tr("Put my history there"),
            }
            for keep, text in words.items():
                menu.addAction(text, partial(self.do, partial(_settle_history, keep=cast("Keep", keep))))
        menu.addSeparator()
        menu.addAction(tr("Leave it"), self.leave)
        return menu

    def do(self, change: Callable[[TeamShelf], None]) -> bool:
        """Change it; what is wrong is said."""
        try:
            with closing(team.joined(self.shelf)) as found:
                change(found)
        except AveltError as error:
            self.workspace.said.emit(str(error))
            return False
        self.changed.emit()
        return True

    def publish(self, preset: Preset) -> None:
        """Put a preset on it: it waits to be sent."""
        if self.do(lambda found: found.publish([preset])):
            self.workspace.said.emit(tr("{preset} waits to be sent to the team.", preset=preset.name))

    def take_back(self, name: str) -> None:
        """Take a preset off it, for all."""
        self.do(lambda found: found.take_back(name))

    def versions(self, name: str) -> QMenu:
        """The versions of a preset; choosing one puts it back as a new one."""
        menu = QMenu(tr("Versions"), self.holder)
        try:
            with closing(team.joined(self.shelf)) as found:
                for version in found.history(name)[:_VERSIONS]:
                    name = version.name or tr("taken back")
                    text = f"{version.when[:16].replace('T', ' ')}  {version.who}: {name}"
                    back = partial(self.restore, name, version.version)
                    menu.addAction(text, back).setEnabled(bool(version.name))
        except AveltError as error:
            menu.addAction(error.sentence).setEnabled(False)
        return menu

    def show_history(self, now: Preset, ask: Callable[[QDialog], bool]) -> None:
        """The versions of a preset, moving; the one that is chosen comes back as a new one."""
        from avelt.window.shelf.history_form import HistoryForm

        chosen = None
        try:
            with closing(team.joined(self.shelf)) as found:
                known = found.history(now.name)
                form = HistoryForm(self.workspace, self.holder, now, known, partial(found.version, now.name))
                chosen = form.chosen if ask(form) else None
        except AveltError as error:
            self.workspace.said.emit(str(error))
        if chosen is not None:
            self.restore(now.name, chosen.version)

    def restore(self, name: str, version: str) -> None:
        """An older version is put on it as a new one."""
        self.do(lambda found: found.restore(name, version))

    def sync(self) -> None:
        """Send what waits and take what is new, in the background."""
        self.jobs.start(Syncing(self.shelf))
        self.changed.emit()

    def _ask(self) -> None:
        where, ok = QInputDialog.getText(
            self.holder, tr("Join a team's shelf"), tr("Address of a git repository, or a folder that others can reach")
        )
        if ok and where.strip():
            self.join(where.strip())

    def join(self, where: str) -> None:
        """Join a shelf, in the background."""
        self.jobs.start(Syncing(self.shelf, where))
        self.changed.emit()

    def leave(self) -> None:
        """Leave it: what was published stays there."""
        try:
            team.leave(self.shelf)
        except AveltError as error:
            self.workspace.said.emit(str(error))
        self.changed.emit()

    def _synced(self, status: Status) -> None:
        self.workspace.said.emit(tr("The team's shelf: {status}.", status=status.words))

    def _settle(self, clash: Conflict) -> None:
        form = SettleForm(self.workspace, self.holder, clash)
        if form.exec():
            self.do(partial(_settle, name=clash.file, keep=form.keep))


def _settle(found: TeamShelf, name: str, keep: Keep) -> None:
    found.settle(name, keep)


def _settle_history(found: TeamShelf, keep: Keep) -> None:
    found.settle_history(keep)
