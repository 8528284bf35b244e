"""Find, settings, keys, words and the guide: what helps to use the rest. The main window is one of these."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QAction, QGuiApplication, QKeySequence, QShortcut
from PySide6.QtWidgets import QApplication, QVBoxLayout, QWidget

from avelt.core.record import lazy
from avelt.core.words import tr
from avelt.window.common import session
from avelt.window.common.settings import SettingsKeeper
from avelt.window.shell.commands import CAUGHT, COMMANDS, STATIONS
from avelt.window.shell.take_commands import TakeCommands

if TYPE_CHECKING:
    from avelt.window.common.station_keys import StationKey
    from avelt.window.frames.station import FramesStation
    from avelt.window.shelf.panel import ShelfPanel
    from avelt.window.shell.find import FindPanel, Hit
    from avelt.window.shell.guide import GuideBar
    from avelt.window.shell.landing import Landing
    from avelt.window.shell.stations import Stations
    from avelt.window.timing.station import TimingStation

#: What the log calls that somebody touched something.
_DECORATION = QSize(8, 40)  # px that a window manager puts around a window, at most
_TOUCHES = frozenset(("tap", "double tap", "hold", "release", "hover", "key", "drag", "scroll"))


class HelpCommands(TakeCommands):
    """What a window does beside work. What it needs of the rest of the window is named first."""

    actions_by_id: dict[str, QAction]
    station_keys: dict[str, QShortcut]
    stations: Stations
    landing: Landing
    current: str
    drawer: QVBoxLayout
    holder: QWidget

    @lazy
    def shelf(self) -> ShelfPanel:
        """The shelf."""
        raise NotImplementedError

    def do(self, ident: str) -> None:
        """Do a command of the table."""
        raise NotImplementedError

    def open_shelf(self) -> None:
        """Open the shelf on what is chosen."""
        raise NotImplementedError

    @property
    def settings(self) -> SettingsKeeper:
        """This person's settings."""
        return self.workspace.settings

    def use_settings(self) -> None:
        """Take over the settings: keys, colours, decimal sign, how often work is kept aside."""
        from avelt.window.controls import number_text

        for command in COMMANDS:
            keys = self.settings.keys_of(command.id, command.keys)
            if command.id not in CAUGHT:
                self.actions_by_id[command.id].setShortcut(QKeySequence(keys))
        for place, (ident, _) in enumerate(STATIONS, 1):
            self.station_keys[ident].setKey(QKeySequence(self.settings.keys_of(f"go {ident}", f"Ctrl+{place}")))
        number_text.show_comma(self.settings.comma)
        self.keeper.keep_every(self.settings.value.autosave)
        self.use_theme()

    def use_theme(self) -> None:
        """The colours that are wanted: one's own, or the desktop's."""
        app = QApplication.instance()
        wanted = self.settings.value.theme
        if wanted == "system":
            dark = QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark
        else:
            dark = wanted == "dark"
        if isinstance(app, QApplication) and dark != self.workspace.theme.dark:
            self.workspace.theme.use(app, dark)

    def do_dark(self) -> None:
        """The other theme, kept."""
        self.settings.change(theme="light" if self.workspace.theme.dark else "dark")

    def do_settings(self) -> None:
        """The settings."""
        from avelt.window.shell.settings_form import SettingsForm

        self.ask(SettingsForm(self, self.settings, self.workspace.theme))

    def do_keys(self) -> None:
        """The keys that count here."""
        from avelt.window.shell.sheets import KeysSheet

        self.ask(KeysSheet(self, self.settings, self.current, dict(STATIONS)[self.current]))

    def do_words(self) -> None:
        """What the words mean."""
        self.explain("")

    def explain(self, word: str) -> None:
        """What a word means."""
        from avelt.window.shell.sheets import WordsSheet

        self.ask(WordsSheet(self, word))

    def word_hits(self) -> list[Hit]:
        """The words for Find."""
        from avelt.window.shell.find import Hit
        from avelt.window.shell.glossary import WORDS

        return [Hit(tr("What is {word}?", word=word), says, partial(self.explain, word)) for word, says in WORDS]

    # The guide

    @lazy
    def guide(self) -> GuideBar:
        """The guide, made when it is first wanted."""
        from avelt.window.shell.guide import guide_of

        made = guide_of(self)
        self.drawer.insertWidget(2, made)
        return made

    def do_guide(self) -> None:
        """A first transition, step by step. Work that is open is asked about first."""
        from avelt.core.edits.project import new_project

        if self.workspace.whole.frames and self.workspace.whole.routes:
            if not self.may_lose():
                return
            self.show_project(new_project("First transition"), None)
        self.guide.start()

    def bring_two(self) -> None:
        """Two screens of the demo, for the guide."""
        from importlib.resources import as_file, files

        from avelt.window.shell.import_job import read_screens

        folder = files("avelt.demo")
        with as_file(folder.joinpath("Sailings.svg")) as one, as_file(folder.joinpath("Sailing detail.svg")) as other:
            self.add_read(read_screens([one, other]))

    def touched(self) -> bool:
        """Whether something was started in Rehearse by touching it."""
        if "rehearse" not in self.stations:
            return False
        player = getattr(self.stations["rehearse"], "player", None)
        return player is not None and any(entry.what in _TOUCHES for entry in player.log)

    def make_blank(self) -> None:
        """A frame to draw on."""
        from avelt.core.edits.shapes import new_frame

        made = self.workspace.make(tr("new frame"), lambda project: new_frame(project, "Frame", 360.0, 640.0))
        if made is not None:
            self.workspace.choose(made)

    # How it was left

    def keep_session(self) -> None:
        """Remember how the window and the open project are left."""
        memory = self.workspace.remembered
        memory.keep("window", bytes(self.saveGeometry().toBase64().data()).decode())
        if self.workspace.path is None:
            return
        how: dict[str, Any] = {"station": self.current}
        if self.workspace.frame is not None:
            how["frame"] = self.workspace.frame.id
        if self.workspace.route is not None:
            how["route"] = self.workspace.route.id
        board = getattr(self.stations.get("frames"), "board", None)
        if board is not None:
            view = board.viewport
            how["zoom"] = [view.zoom, view.pan.x(), view.pan.y()]
        session.leave(memory, self.workspace.path, how)

    def take_session(self, path: Path) -> None:
        """Go on with a project where it was left."""
        how = session.left(self.workspace.remembered, path)
        route, frame, station = (how.get(name) for name in ("route", "frame", "station"))
        if any(entry.id == route for entry in self.workspace.project.routes):
            self.workspace.choose_route(str(route))
        if any(entry.id == frame for entry in self.workspace.project.frames):
            self.workspace.choose(str(frame))
        zoom = how.get("zoom")
        numbers = isinstance(zoom, list) and len(zoom) == 3 and all(isinstance(v, int | float) for v in zoom)
        if numbers and self.workspace.project.frames:
            self.stations["frames"].board.viewport.restore(*map(float, zoom))  # type: ignore[attr-defined, arg-type]
        if station in dict(STATIONS) and station != self.current:
            self.go(str(station))

    def restore_geometry(self) -> None:
        """The window as large and where it was; the first time no larger than the screen has room for."""
        from PySide6.QtCore import QByteArray

        kept = self.workspace.remembered.text("window")
        if kept:
            self.restoreGeometry(QByteArray.fromBase64(kept.encode()))
        elif QGuiApplication.platformName() != "offscreen":
            room = self.screen().availableGeometry().size() - _DECORATION
            self.resize(self.size().boundedTo(room))

    # Find

    @lazy
    def finder(self) -> FindPanel:
        """Find, made when it is first wanted."""
        from avelt.window.shell.find import FindPanel

        return FindPanel(self.holder, self._hits)

    def do_find(self) -> None:
        """Find anything."""
        self.finder.open()

    def _hits(self) -> list[Hit]:
        """Everything that Find reaches."""
        from avelt.core.presets.shelf import built_in
        from avelt.window.frames.actions import ACTIONS
        from avelt.window.shell.find import Hit, project_hits
        from avelt.window.shell.station_keys import STATION_KEYS

        project = self.workspace.project
        presets = [p.name for p in (*self.workspace.shelf.read().presets, *built_in())]
        return [
            *(Hit(word, "station", partial(self.go, ident)) for ident, word in STATIONS),
            *(Hit(c.words, f"command {c.keys}".strip(), partial(self.do, c.id)) for c in COMMANDS),
            *self.word_hits(),
            *(Hit(a.words, f"in Frames {a.keys}".strip(), partial(self._do_in_frames, a.id)) for a in ACTIONS),
            *(
                Hit(key.words, f"in {ident.capitalize()} {key.keys}", partial(self._do_in, ident, key))
                for ident, keys in STATION_KEYS.items()
                for key in keys
            ),
            *project_hits(project, self._show_layer, self._show_route),
            *(Hit(name, "preset", partial(self._show_preset, name)) for name in presets),
        ]

    def _do_in_frames(self, ident: str) -> None:
        self.go("frames")
        cast("FramesStation", self.stations["frames"]).do(ident)

    def _do_in(self, ident: str, key: StationKey) -> None:
        self.go(ident)
        key.do(self.stations[ident])

    def _show_layer(self, frame_id: str, layer_id: str) -> None:
        self.go("frames")
        self.workspace.choose(frame_id, layer_id)

    def _show_route(self, route_id: str) -> None:
        self.go("timing")
        cast("TimingStation", self.stations["timing"]).context.show(route_id)

    def _show_preset(self, name: str) -> None:
        self.shelf.show_mine(name)
        self.open_shelf()
