"""The window: the trail of stations, the commands, files, the shelf and Find over it all."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Protocol, cast

from msgspec import structs
from PySide6.QtCore import QEvent, Qt, QTimer, Signal
from PySide6.QtGui import QAction, QCloseEvent, QGuiApplication, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QLabel, QStackedWidget, QVBoxLayout, QWidget

from avelt.core.errors import AveltError
from avelt.core.record import lazy
from avelt.core.words import tr
from avelt.window.common import session
from avelt.window.common.tidy import Tidy
from avelt.window.controls.fields import button
from avelt.window.shell.checking import Checking
from avelt.window.shell.commands import COMMANDS, STATIONS
from avelt.window.shell.file_commands import FileCommands
from avelt.window.shell.help_commands import HelpCommands
from avelt.window.shell.key_routing import KeyRouting
from avelt.window.shell.landing import Landing
from avelt.window.shell.recovery import Keeper, Recovery
from avelt.window.shell.stage_bar import StageBar
from avelt.window.shell.stations import Stations
from avelt.window.shell.trail import TopBar

if TYPE_CHECKING:
    from avelt.core.edits.session import Change
    from avelt.window.common.fingers import Fingers
    from avelt.window.common.jobs import Latest
    from avelt.window.common.workspace import Workspace
    from avelt.window.controls.clock import Clock
    from avelt.window.frames.station import FramesStation
    from avelt.window.routes.station import RoutesStation
    from avelt.window.shelf.panel import ShelfPanel
    from avelt.window.timing.station import TimingStation

_UNSURE_AFTER = 400  # ms after opening: counting unsure pairs loads SciPy, the first picture comes first
_SAID_FOR = 6000  # ms that a sentence is lit
_FINGERS = 300  # ms after the window is active that fingers are heard: it opens faster without
_UNNAMED = "Untitled"
_LINE = 24  # px of the line under everything


def _let_go(others: list[MainWindow], window: MainWindow) -> None:
    """A window is closed: nothing keeps it or what it worked with any more."""
    if window in others:
        others.remove(window)
        # What is connected in Qt holds its functions, and they hold the window: only the end of both frees them.
        for part in (window, window.workspace):
            part.deleteLater()


class Station(Protocol):
    """What the shell needs of a station."""

    def enter(self) -> None: ...

    def leave(self) -> None: ...


class MainWindow(HelpCommands):
    """Puts the rooms together. What it does is named in ``commands.COMMANDS``."""

    closing = Signal()
    fingers: Fingers | None = None  # heard where there is a touch screen

    def __init__(self, workspace: Workspace, recovery: Recovery | None = None) -> None:
        super().__init__()
        self.workspace = workspace
        self.keeper = Keeper(workspace, recovery or Recovery())
        self.others: list[MainWindow] = []
        self.watches = False  # whether the file is looked at when one comes back to the window
        self.setWindowTitle("Avelt")
        self.resize(1280, 800)
        self.setMinimumSize(1080, 640)
        self.setAcceptDrops(True)
        self.top = TopBar(workspace.theme)
        self.stations = Stations(workspace, self._station_made)
        self.current = "frames"
        self.stack = QStackedWidget()
        self.landing = Landing()
        self.stack.addWidget(self.landing)
        holder = self.holder = QWidget()
        layout = QVBoxLayout(holder)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.top)
        layout.addWidget(StageBar(workspace))
        layout.addWidget(self.stack, 1)
        self.drawer = layout  # where the shelf stands under the station when it is open
        self.said = QLabel()
        self.said.setFixedHeight(_LINE)
        self.said.setAccessibleName(tr("Message"))
        self.checking = Checking(self, self)
        foot = QHBoxLayout()
        foot.setSpacing(0)
        self.offered = button("", "", "status")
        self.offered.hide()
        self.offered.clicked.connect(self._take_offer)
        self._offer: Callable[[], object] | None = None
        foot.addWidget(self.said, 1)
        foot.addWidget(self.offered)
        foot.addWidget(self.checking.button)
        layout.addLayout(foot)
        self.setCentralWidget(holder)
        self._said_timer = QTimer(self)
        self._said_timer.setSingleShot(True)
        self._said_timer.timeout.connect(self._hush)
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(_UNSURE_AFTER)
        self._later.timeout.connect(self._show_unsure)
        self.actions_by_id: dict[str, QAction] = {}
        self._make_actions()
        self.tidy = Tidy(self._plays, self)
        self._connect()
        self.use_settings()
        self._show_state()
        self.go("frames")
        self._later.start()
        self.keys = KeyRouting(self, self)

    def _make_actions(self) -> None:
        for command in COMMANDS:
            menu = self.top.menus[command.menu]
            if command.gap:
                menu.addSeparator()
            action = QAction(command.words, self)
            action.triggered.connect(lambda _=False, ident=command.id: self.do(ident))
            menu.addAction(action)
            self.addAction(action)
            self.actions_by_id[command.id] = action
        self.station_keys = {ident: QShortcut(self) for ident, _ in STATIONS}
        for ident, shortcut in self.station_keys.items():
            shortcut.activated.connect(lambda ident=ident: self.go(ident))

    def _connect(self) -> None:
        workspace = self.workspace
        workspace.changed.connect(self._changed)
        workspace.routed.connect(self._show_unsure)
        workspace.said.connect(self.say)
        workspace.chose.connect(self._aim_shelf)
        workspace.routed.connect(self._aim_shelf)
        workspace.station_wanted.connect(self.go)
        self.checking.told.connect(self._show_unsure)
        workspace.motion_wanted.connect(self._show_route)
        self.top.wanted.connect(self.go)
        self.landing.import_wanted.connect(lambda: self.do("import"))
        self.landing.dropped.connect(self.import_files)
        self.landing.blank_wanted.connect(self.make_blank)
        self.landing.open_wanted.connect(lambda: self.do("open"))
        self.landing.demo_wanted.connect(lambda: self.do("open_demo"))
        self.landing.guide_wanted.connect(lambda: self.do("guide"))
        self.landing.recent_wanted.connect(self.open_file)
        self.landing.show_recent(session.recent(workspace.remembered))
        workspace.settings.changed.connect(self.use_settings)
        QGuiApplication.styleHints().colorSchemeChanged.connect(self.use_theme)
        self.top.shelf.clicked.connect(lambda: self.do("shelf"))
        self.top.finder.clicked.connect(lambda: self.do("find"))

    def another_window(self) -> FileCommands:
        """One more window of this program, on an empty project."""
        from avelt.core.edits.project import new_project
        from avelt.core.edits.session import Session
        from avelt.window.common.workspace import Workspace

        workspace = Workspace(Session(new_project(_UNNAMED)), self.workspace.theme, self.workspace.shelf)
        workspace.remembered, workspace.settings = self.workspace.remembered, self.workspace.settings
        made = MainWindow(workspace, Recovery(self.keeper.recovery.folder))
        made.show()
        made.move(self.x() + 30, self.y() + 30)
        made.watches = self.watches
        if self.watches:
            made.tidy.start()
            made.checking.begin()
        made.others = others = self.others  # one list for all: whichever of them closes first
        others.append(made)
        made.closing.connect(lambda: _let_go(others, made))
        return made

    def _station_made(self, ident: str, station: QWidget) -> None:
        """A station was entered for the first time."""
        station.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.stack.addWidget(station)
        if "drops" in self.__dict__:
            self.drops.watch(ident, station)
        if ident == "frames":
            frames = cast("FramesStation", station)
            frames.import_wanted.connect(lambda: self.do("import"))
            frames.dropped.connect(self.import_files)
            frames.report_wanted.connect(self.show_report)
        elif ident == "timing":
            timing = cast("TimingStation", station)
            timing.save_preset.connect(lambda _: self.do("save_preset"))
            timing.context.selected.connect(self._aim_shelf)
        elif ident == "routes":
            cast("RoutesStation", station).matrix.chose.connect(lambda _: self._aim_shelf())

    @lazy
    def imports(self) -> Latest:
        """What reads screens in the background."""
        from avelt.window.common.jobs import Latest

        made = Latest(self)
        made.answered.connect(self._read)
        made.failed.connect(self.say)
        made.ended.connect(self._import_ended)
        return made

    @lazy
    def shelf(self) -> ShelfPanel:
        """The shelf, made when it is first wanted."""
        from avelt.window.shelf.panel import ShelfPanel
        from avelt.window.shell.preset_drops import PresetDrops

        panel = ShelfPanel(self.workspace, self.holder)
        self.drawer.insertWidget(3, panel)
        panel.closed.connect(self._shelf_closed)
        panel.edit_wanted.connect(self.edit_preset)
        self.drops = PresetDrops(self, self)
        for ident, station in self.stations.items():
            self.drops.watch(ident, station)
        return panel

    def put_from_shelf(self, name: str) -> None:
        """Put a preset on what is chosen now."""
        self._aim_shelf()
        self.shelf.choose(name)
        self.shelf.put_on(name)

    @property
    def _shelf_is_open(self) -> bool:
        return "shelf" in self.__dict__ and self.shelf.isVisible()

    def _aim_shelf(self) -> None:
        """Something else is chosen: an open shelf puts presets on that."""
        if self._shelf_is_open:
            from avelt.window.shell.shelf_target import target_of

            self.shelf.aim_at(target_of(self))

    # Where we are

    def go(self, ident: str) -> None:
        """Enter a station."""
        self._station(self.current).leave()
        self.current = ident
        self.stack.setCurrentWidget(self.front())
        self.top.show_station(ident)
        self._station(ident).enter()
        self.front().setFocus()
        if ident != "frames":
            self._show_unsure()
        if self._shelf_is_open:
            self.open_shelf()
        self.checking.entered()

    def _shelf_closed(self) -> None:
        self.top.shelf.setChecked(False)
        self.front().setFocus()

    def _station(self, ident: str) -> Station:
        """A station; Frames of a project without any is the landing."""
        if ident == "frames" and not self.workspace.project.frames:
            return self.landing
        station = self.stations[ident]
        return station  # type: ignore[return-value]

    def front(self) -> QWidget:
        """What is in front."""
        return cast("QWidget", self._station(self.current))

    def do(self, ident: str) -> None:
        """Do a command of the table."""
        getattr(self, f"do_{ident}")()

    def clock(self) -> Clock | None:
        """The clock of the station in front."""
        return getattr(self._station(self.current), "clock", None)

    def _plays(self) -> bool:
        clock = self.clock()
        return clock is not None and clock.playing

    def room(self) -> tuple[int, int]:
        """Width and height that a station has."""
        return self.width(), self.height() - self.top.height() - _LINE

    def say(self, sentence: str) -> None:
        """Tell the person something, for a while, in the line under everything: it hangs over nothing."""
        p = self.workspace.theme.palette
        self.said.setStyleSheet(f"background: {p.ink}; color: {p.sheet}; padding: 0 14px; font-size: 12.5px;")
        self.said.setText(sentence)
        self.said.setToolTip(sentence)
        self._said_timer.start(_SAID_FOR)
        self.offered.hide()

    def unsay(self) -> None:
        """What was said is about what is there no more."""
        self._said_timer.stop()
        self.said.clear()
        self.said.setToolTip("")
        self.said.setStyleSheet("")
        self.offered.hide()

    def offer(self, words: str, do: Callable[[], object]) -> None:
        """Beside what was just said: a button that does something about it, until something else is said."""
        self._offer = do
        self.offered.setText(words)
        self.offered.show()

    def _take_offer(self) -> None:
        self.offered.hide()
        if self._offer is not None:
            self._offer()

    def _hush(self) -> None:
        """What was said stays to be read, quietly."""
        p = self.workspace.theme.palette
        self.said.setStyleSheet(f"color: {p.quiet}; padding: 0 14px; font-size: 12.5px;")

    def _changed(self, change: Change) -> None:
        if not change.label:
            self.unsay()  # another project
        self._show_state()
        if self.current == "frames" and self.stack.currentWidget() is not self.front():
            self.go("frames")
        if change.concerns(self.workspace.route):
            # Pairing takes longer than a picture may, of large frames or of a project that was just opened: it waits
            # until the hand rests.
            if not change.label or self.workspace.is_large():
                self._later.start()
            else:
                self._show_unsure()

    def _show_state(self) -> None:
        session = self.workspace.session
        state = tr("not saved yet") if self.workspace.path is None else tr("saved")
        if session.changed:
            state = tr("changes not saved")
        if self.preset is not None:
            state = tr("preset, changed") if session.changed else tr("preset")
        name, path = session.project.name, self.workspace.path
        if name == _UNNAMED and path is not None:
            name = path.stem  # a project that was never given a name is called after its file
        self.top.show_project(name, state)
        undo, redo = self.actions_by_id["undo"], self.actions_by_id["redo"]
        undo.setEnabled(bool(session.undo_label))
        redo.setEnabled(bool(session.redo_label))
        undo.setText(tr("Undo {label}", label=session.undo_label).strip())
        redo.setText(tr("Redo {label}", label=session.redo_label).strip())
        self.setWindowTitle(tr("{project}{also} – Avelt", project=name, also="*" if session.changed else ""))

    def _show_unsure(self) -> None:
        counts = self.checking.counts()
        for ident, _ in STATIONS:
            unsure = self.workspace.unsure_pairs() if ident == "pairs" else 0
            self.top.show_trouble(ident, counts[ident] + unsure)

    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange and self.fingers is None:
            QTimer.singleShot(_FINGERS, self, self.hear_fingers)
        if self.watches and event.type() == QEvent.Type.ActivationChange and self.isActiveWindow():
            QTimer.singleShot(0, self.look_at_file)

    def hear_fingers(self) -> None:
        """Where there is a touch screen."""
        from avelt.window.common.fingers import touched

        self.fingers = self.fingers or touched(self)

    def closeEvent(self, event: QCloseEvent) -> None:
        if self.may_lose():
            self._station(self.current).leave()
            self.keep_session()
            self.closing.emit()
            self.checking.end()
            self.keeper.stop()
            event.accept()
        else:
            event.ignore()

    # Commands

    def do_quit(self) -> None:
        """Close the window."""
        self.close()

    def do_close_part(self) -> None:
        """Back to what uses the open part."""
        self.workspace.close_part()

    def do_undo(self) -> None:
        """Take back the last edit."""
        self.unsay()
        self.workspace.session.undo()

    def do_redo(self) -> None:
        """Do again what was taken back."""
        self.unsay()
        self.workspace.session.redo()

    def do_next_state(self) -> None:
        """The next state of the chosen frame."""
        frames = cast("FramesStation", self.stations["frames"])
        frames.commands.make_next()

    def do_remove(self) -> None:
        """Remove the chosen layer or frame."""
        frames = cast("FramesStation", self.stations["frames"])
        frames.commands.remove()

    def do_save_preset(self) -> None:
        """Keep motion on the shelf under a name: what of it, is asked."""
        from avelt.window.shelf.save_form import SaveForm
        from avelt.window.shell.shelf_target import offers

        found = offers(self)
        if not found:
            self.say(tr("Choose a row in Timing, a route or a loop first: its motion is what is kept."))
            return
        words, missing = [offer.words for offer in found], [offer.missing for offer in found]
        form = SaveForm(self, words, missing, lambda place: found[place].pieces())
        if self.ask(form):
            kept = form.kept()
            self.keep_preset(kept.name, kept.place, kept.tags, kept.left_out)

    def keep_preset(
        self, name: str, place: int = 0, tags: tuple[str, ...] = (), left_out: tuple[str, ...] = ()
    ) -> bool:
        """Keep the motion that is chosen on the shelf: the offer at this place, without what is left out of it."""
        from avelt.core.presets.pieces import without
        from avelt.window.shell.shelf_target import offers

        found = offers(self)
        if place >= len(found) or not name.strip():
            return False
        try:
            preset = structs.replace(without(found[place].take(name.strip()), left_out), tags=tags)
            self.workspace.shelf.keep(preset)
        except AveltError as error:
            self.say(str(error))
            return False
        self.shelf.show_mine(preset.name)
        self.open_shelf()
        return True

    def do_shelf(self) -> None:
        """The shelf comes or goes."""
        if self._shelf_is_open:
            self.shelf.close_shelf()
        else:
            self.open_shelf()

    def open_shelf(self) -> None:
        """Open the shelf on what is chosen."""
        from avelt.window.shell.shelf_target import target_of

        self.top.shelf.setChecked(True)
        self.shelf.open_for(target_of(self))

    def do_checks(self) -> None:
        """The list of what is wrong comes or goes."""
        self.checking.toggle()

    def take_presets(self, paths: Sequence[Path]) -> None:
        """Take presets and packs onto the shelf, which opens."""
        self.open_shelf()
        self.shelf.inspect(list(paths))

    def do_play(self) -> None:
        """Play or stop in the station in front."""
        clock = self.clock()
        if clock is not None:
            clock.toggle()

    def do_step_back(self) -> None:
        """One frame of the display back."""
        clock = self.clock()
        if clock is not None:
            clock.step(-1)

    def do_step_on(self) -> None:
        """One frame of the display on."""
        clock = self.clock()
        if clock is not None:
            clock.step(1)
