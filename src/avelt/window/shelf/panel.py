"""The shelf: presets with their moving pictures, in a drawer under any station."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from html import escape
from pathlib import Path

from msgspec.structs import replace
from PySide6.QtCore import QFileSystemWatcher, Qt, QTimer, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QGuiApplication, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QFileDialog, QHBoxLayout, QInputDialog, QLineEdit, QMenu, QVBoxLayout, QWidget

from avelt.core.errors import AveltError
from avelt.core.formats.disk import write_atomically
from avelt.core.model.parts import linked_names
from avelt.core.model.values import Project
from avelt.core.presets.files import as_file
from avelt.core.presets.links import put_linked
from avelt.core.presets.links import take_changed as take_preset
from avelt.core.presets.put_on import put_preset
from avelt.core.presets.roles import role_words
from avelt.core.presets.shelf import built_in, file_name
from avelt.core.presets.team import watched
from avelt.core.presets.values import KINDS, Preset
from avelt.core.words import tr
from avelt.window.common.naming import name_fields
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.controls.fields import Choice, button, column, label, row, scrolled
from avelt.window.controls.painted import Pick
from avelt.window.shelf.cards import Cards, Shown
from avelt.window.shelf.liking import ONLY, Liking
from avelt.window.shelf.linked import add_uses, take_changed
from avelt.window.shelf.measure import Measure
from avelt.window.shelf.preview import Preview
from avelt.window.shelf.taking import FILES, Taking
from avelt.window.shelf.target import Target
from avelt.window.shelf.team_control import TeamControl

_HIGH, _LEFT, _RIGHT = 216, 232, 356  # px of the drawer, and of the columns at its sides
_ALL, _BUILT_IN, _MINE, _TEAM = range(4)
_AT_ONCE = 0.008  # seconds that files are read for before they are shown; the rest fills in
_BETWEEN = 16  # ms until it goes on reading
_AFTER = 150  # ms after an edit until the preview is made anew
_ROLES = 3  # that are shown
_EMPTY = tr("Nothing of yours is kept yet. Choose a row in Timing and press “Save as preset”.")


class ShelfPanel(Taking):
    """A drawer under any station, which keeps its room: nothing of it is covered."""

    closed = Signal()
    edit_wanted = Signal(object)  # Preset

    def __init__(self, workspace: Workspace, parent: QWidget) -> None:
        super().__init__(parent)
        self.workspace = workspace
        self.aim = Target()
        self._removed: Preset | None = None
        self.setProperty("role", "panel")
        self.setFixedHeight(_HIGH)
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Find presets"))
        self.search.setAccessibleName(tr("Find a preset"))
        self.where = Choice(
            [tr("All"), tr("Built in"), tr("Mine"), tr("Team")],
            ["", tr("What comes with Avelt"), tr("What you kept or took in"), tr("What your team shares")],
        )
        self.team = TeamControl(workspace, self)
        self.team_button = button(tr("Team…"), tr("Join, send and take, settle, leave"))
        self.kind = Pick()
        self.kind.addItems([tr("every kind"), *(tr(words) for words in KINDS)])
        self.kind.setToolTip(tr("Only presets of one kind"))
        self.only = Pick()
        self.only.addItems([entry.words for entry in ONLY])
        self.only.setToolTip(tr("Favourites, used lately, where they are linked, by length or by what it moves"))
        self.liking = Liking(lambda: workspace.remembered, lambda: linked_names(workspace.whole))
        tip = tr("Take presets, packs, tokens or code from files; code can be pasted too (Ctrl+V), or dropped")
        self.bring = button(tr("Import…"), tip)
        self.close_button = button(tr("Close"), tr("Close the shelf (Esc)"))
        self.target = label("", "quiet")
        self.note = label("", "quiet")
        self.cards = Cards(workspace)
        self.scroller = scrolled(self.cards)
        self.name = label("", "heading")
        self.about = label("", "quiet")
        self.use = button(tr("Put on"), tr("Give what is chosen this motion (Return)"), "strong")
        self.more = button(tr("More…"), tr("Save to a file, rename, duplicate, remove"))
        self.fields = Measure((self.more, self.use))
        self.preview = Preview(workspace)
        self._lay_out()
        name_fields(self)
        self.clock = Clock(self)
        self.clock.endless = True
        self.watcher = QFileSystemWatcher(self)
        self._later = QTimer(self)  # a drag in the station does not make the preview anew at each step
        self._later.setSingleShot(True)
        self._later.setInterval(_AFTER)
        self._later.timeout.connect(self._measured)
        self._more = QTimer(self)
        self._more.setSingleShot(True)
        self._more.setInterval(_BETWEEN)
        self._more.timeout.connect(self.refresh)
        self._connect()
        self.setAcceptDrops(True)
        self.hide()

    def _lay_out(self) -> None:
        for words in (self.target, self.note, self.about):
            words.setWordWrap(True)
        left = column(spacing=7)
        left.addLayout(row(label(tr("Shelf"), "heading"), None, self.bring, self.close_button, spacing=6))
        self.only.setFixedWidth(104)
        left.addLayout(row(self.search, self.only, spacing=6))
        left.addLayout(row(self.where, None))
        left.addLayout(row(self.kind, None, self.team_button))
        left.addWidget(self.target)
        left.addWidget(self.note)
        left.addStretch(1)
        right = column(spacing=7)
        right.addWidget(self.name)
        right.addWidget(self.about, 1, Qt.AlignmentFlag.AlignTop)
        right.addWidget(self.fields)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 10, 16, 10)
        layout.setSpacing(14)
        layout.addWidget(_side(left, _LEFT))
        layout.addWidget(self.scroller, 1)
        layout.addWidget(_side(right, _RIGHT))
        layout.addWidget(self.preview)

    def _connect(self) -> None:
        self.clock.ticked.connect(self._ticked)
        self.search.textChanged.connect(self.refresh)
        self.where.picked.connect(self.refresh)
        self.kind.activated.connect(self.refresh)
        self.only.activated.connect(self.refresh)
        self.cards.liked.connect(self.like)
        self.cards.picked.connect(self.choose)
        self.cards.used.connect(self.put_on)
        self.fields.changed.connect(self._measured)
        self.use.clicked.connect(lambda: self.put_on(self.cards.chosen))
        self.more.clicked.connect(self._open_more)
        self.bring.clicked.connect(self._bring)
        self.close_button.clicked.connect(self.close_shelf)
        self.team.changed.connect(self._shelf_changed)
        self.team_button.clicked.connect(
            lambda: self.team.menu().exec(self.team_button.mapToGlobal(self.team_button.rect().topLeft()))
        )
        self.watcher.directoryChanged.connect(lambda _: self._shelf_changed())
        self.workspace.theme.changed.connect(self.refresh)
        self.workspace.changed.connect(lambda _: self._later.start())

    def open_for(self, aim: Target) -> None:
        """Come in, with what a preset would be put on."""
        self.aim_at(aim)
        self._watch()
        self.show()
        self.raise_()
        self.refresh()
        if not self.workspace.settings.less_motion:
            self.clock.play()
        self.cards.setFocus()

    def _watch(self) -> None:
        """Hear of what other windows and programs do to one's own shelf and to what is known of the team's."""
        folder = self.workspace.shelf.folder
        with suppress(OSError):
            folder.mkdir(parents=True, exist_ok=True)
        paths = [str(path) for path in (folder, *watched(self.workspace.shelf)) if path.is_dir()]
        new = [path for path in paths if path not in self.watcher.directories()]
        if new:
            self.watcher.addPaths(new)

    def like(self, name: str) -> None:
        """Make a preset a favourite, or none any more."""
        on = self.liking.toggle(name)
        self.workspace.said.emit(
            tr("{name} is {also}.", name=name, also=tr("a favourite now") if on else tr("no favourite any more"))
        )
        self.refresh()

    def show_mine(self, name: str) -> None:
        """Choose a preset of the person's own, whatever is being looked for."""
        self.search.clear()
        self.kind.setCurrentIndex(0)
        self.only.setCurrentIndex(0)
        if self._place() in (_BUILT_IN, _TEAM):
            self.where.show_picked(0)
        self.cards.chosen = name

    def aim_at(self, aim: Target) -> None:
        """Something else is chosen in the station."""
        self.aim = aim
        self.target.setText(aim.words)
        self.fields.aim_at_several(aim.several)
        if self.isVisible():
            self._show_chosen()

    def close_shelf(self) -> None:
        """Go away."""
        self.clock.stop()
        self.hide()
        self.closed.emit()

    def refresh(self) -> None:
        """Read the shelf again."""
        if not self.isVisible():
            return
        listing, shared, place = self.workspace.shelf.read(_AT_ONCE), self.team.read(), self._place()
        if listing.more:
            self._more.start()
        team = [Shown(preset, "team") for preset in shared.presets]
        published = {entry.name.casefold() for entry in team}  # once published, theirs is the one
        mine = [Shown(preset, "mine") for preset in listing.presets if place == _MINE or not _in(preset, published)]
        given = [Shown(preset, "built in") for preset in built_in()]
        order = {kind: k for k, kind in enumerate(KINDS)}
        given.sort(key=lambda entry: order[entry.preset.kind])
        taken = published | {preset.name.casefold() for preset in listing.presets}  # of one name one's own comes first
        others = [entry for entry in given if not _in(entry.preset, taken)]
        places = {_ALL: (*mine, *team, *others), _BUILT_IN: given, _MINE: mine, _TEAM: team}
        by_name = {entry.name: entry for entry in places[place] if self._wanted(entry.preset)}
        kept = ONLY[self.only.currentIndex()].keep([entry.preset for entry in by_name.values()], self.liking)
        entries = [by_name[preset.name] for preset in kept]
        self.cards.favourites = frozenset(self.liking.favourites())
        names = [entry.name for entry in entries]
        chosen = self.cards.chosen if self.cards.chosen in names else (names[0] if names else "")
        self.cards.show_entries(entries, chosen)
        trouble = " ".join(found.says for found in (*listing.troubles, *shared.troubles)[:2])
        empty = _EMPTY if place == _MINE and not listing.presets else tr("No preset fits these words.")
        words = self.team.words() if place == _TEAM else "" if entries else empty
        self.note.setText(trouble or words)
        self.note.setVisible(bool(trouble or words))
        self._show_chosen()

    def _shelf_changed(self) -> None:
        """Other presets lie there: linked uses change with theirs."""
        take_changed(self.workspace)
        self.refresh()

    def _place(self) -> int:
        return next(k for k in range(4) if self.where.button(k).isChecked())

    def _wanted(self, preset: Preset) -> bool:
        kind = self.kind.currentIndex()
        if kind > 0 and preset.kind != KINDS[kind - 1]:
            return False
        text = " ".join((preset.name, preset.kind, *preset.tags, preset.when, preset.note)).casefold()
        return all(word in text for word in self.search.text().casefold().split())

    def choose(self, name: str) -> None:
        """Choose a preset."""
        self.clock.ms = 0.0
        self.cards.chosen = name
        self.cards.update()
        place = next((k for k, entry in enumerate(self.cards.entries) if entry.name == name), None)
        if place is not None:
            rect = self.cards.card_rect(place)
            self.scroller.ensureVisible(int(rect.center().x()), int(rect.center().y()), 0, int(rect.height() / 2) + 4)
        self._show_chosen()

    @property
    def chosen(self) -> Shown | None:
        """The chosen preset, and where it lies."""
        return next((entry for entry in self.cards.entries if entry.name == self.cards.chosen), None)

    def _measured(self) -> None:
        if self.isVisible():
            self._show_chosen()

    def _show_chosen(self) -> None:
        found = self.chosen
        preset = found.preset if found is not None else None
        self.name.setText(preset.name if preset is not None else "")
        self.fields.show_pieces(preset)
        self.preview.show_preset(preset, self.aim, self.fields.said())
        words = ""
        if preset is not None:
            fits = self._roles(preset) or (escape(self.preview.says) if self.preview.program is not None else "")
            words = "<br>".join(part for part in (escape(preset.when or preset.note), fits) if part)
            self.about.setToolTip(tr("Not for: {not_when}", not_when=preset.not_when) if preset.not_when else "")
        self.about.setText(words)
        self.use.setEnabled(self.preview.program is not None)
        self.more.setEnabled(preset is not None)

    def _roles(self, preset: Preset) -> str:
        """Which layers play which role, for the first few."""
        if preset.kind != "shared" or not self.aim.where.routes:
            return ""
        rows = role_words(self.workspace.project, preset, self.aim.where)[:_ROLES]
        return ", ".join(
            tr("{role} is <b>{player}</b>", role=escape(role), player=escape(player) or tr("nobody"))
            for role, player in rows
        )

    def _ticked(self, ms: float) -> None:
        self.cards.go_on(ms)
        self.preview.go_on(ms)

    def put_on(self, name: str) -> None:
        """Put the chosen preset, which has this name, on what is chosen in the station."""
        found = self.chosen
        if found is None or found.name != name:
            return
        if not self.aim.any:
            self.workspace.said.emit(tr("Choose a layer's row in Timing first, then put the preset on it."))
            return
        preset, how, linked = found.preset, self.fields.said(), self.fields.linked.isChecked()

        def put(project: Project) -> tuple[Project, str]:
            said: list[str] = []
            for where in self.aim.everywhere:
                done = (put_linked if linked else put_preset)(project, preset, where, how)
                project, said = done.project, [*said, done.says]
            return project, " ".join(dict.fromkeys(words for words in said if words))

        def put_everywhere(whole: Project) -> tuple[Project, str]:
            # All uses, inside parts and outside, follow the same version.
            return self.workspace.stages.made(take_preset(whole, preset)[0] if linked else whole, put)

        says = self.workspace.make_of_all(tr("put {name} on", name=name), put_everywhere)
        if says is not None:
            self.liking.use(name)
        if says:
            self.workspace.said.emit(says)

    # What is done with a preset itself

    def _open_more(self) -> None:
        self.more_menu().exec(self.more.mapToGlobal(self.more.rect().topLeft()))

    def more_menu(self) -> QMenu:
        """What can be done with the chosen preset."""
        menu = QMenu(self)
        found = self.chosen
        mine = found is not None and found.mine
        joined = self.team.status() is not None
        liked = self.cards.chosen in self.liking.favourites()
        for words, act, there in (
            (
                (tr("No favourite any more") if liked else tr("Favourite")) + "\tF",
                lambda: self.like(self.cards.chosen),
                True,
            ),
            (tr("Edit on a stand-in…"), self._edit, True),
            (tr("Save to file…"), self._give, True),
            (tr("Rename…"), self._rename, mine),
            (tr("Tags…"), self._tag, mine),
            (tr("Note…"), self._note, mine),
            (tr("Duplicate"), self.duplicate, True),
            (tr("Remove from the shelf"), self._remove, mine),
            (tr("Send to the team"), self._publish, mine and joined),
            (tr("Take back from the team"), self._take_back, found is not None and found.place == "team"),
            (
                tr("Put back {also}", also=self._removed.name if self._removed else tr("what was removed")),
                self.put_back,
                self._removed,
            ),
        ):
            menu.addAction(words, act).setEnabled(bool(there))
        if found is not None and found.place == "team":
            menu.addMenu(self.team.versions(found.name))
            menu.addAction(tr("Versions, moving…"), lambda: self.team.show_history(found.preset, self.ask))
        if found is not None:
            add_uses(menu, self.workspace, found.name)
        return menu

    def _edit(self) -> None:
        if self.chosen is not None:
            self.edit_wanted.emit(self.chosen.preset)

    def _publish(self) -> None:
        found = self.chosen
        if found is not None:
            self.team.publish(found.preset)

    def _take_back(self) -> None:
        self.team.take_back(self.cards.chosen)

    def _give(self) -> None:
        found = self.chosen
        if found is None:
            return
        path, _ = QFileDialog.getSaveFileName(
            self, tr("Save the preset"), str(Path.home() / file_name(found.name)), FILES
        )
        if path:
            self.save_to(found.preset, Path(path))

    def save_to(self, preset: Preset, path: Path) -> None:
        """Write a file to give away: a preset, a pack or Design Tokens, as its ending says."""
        try:
            write_atomically(path, as_file(preset, path.name))
        except AveltError as error:
            self.workspace.said.emit(str(error))

    def _rename(self) -> None:
        name, ok = QInputDialog.getText(self, tr("Rename the preset"), tr("Name"), text=self.cards.chosen)
        if ok:
            self.rename(name)

    def rename(self, name: str) -> None:
        """Another name for the chosen preset, which is mine."""
        self._change(lambda preset: replace(preset, name=name.strip()))

    def _tag(self) -> None:
        found = self.chosen
        text, ok = QInputDialog.getText(
            self, tr("Tags"), tr("Words with commas between"), text=", ".join(found.preset.tags if found else ())
        )
        if ok:
            tags = tuple(dict.fromkeys(word.strip() for word in text.split(",") if word.strip()))
            self._change(lambda preset: replace(preset, tags=tags))

    def _note(self) -> None:
        found = self.chosen
        before = found.preset.note if found is not None else ""
        text, ok = QInputDialog.getMultiLineText(self, tr("Note"), tr("What to know about it"), before)
        if ok:
            self._change(lambda preset: replace(preset, note=text.strip()))

    def duplicate(self) -> None:
        """One more of the chosen preset, which is mine."""
        found, names = self.chosen, {preset.name.casefold() for preset in self.workspace.shelf.read().presets}
        if found is None:
            return
        number = next(n for n in range(1, len(names) + 3) if f"{found.name} copy {n}".casefold() not in names)
        self._kept(replace(found.preset, name=f"{found.name} copy {number}"))

    def _change(self, change: Callable[[Preset], Preset]) -> None:
        found = self.chosen
        if found is None or not found.mine:
            return
        made = change(found.preset)
        if not made.name or made == found.preset:
            return
        taken = {p.name.casefold() for p in self.workspace.shelf.read().presets} - {found.name.casefold()}
        if made.name.casefold() in taken:
            self.workspace.said.emit(tr("There is a preset {made!r} already.", made=made.name))
            return
        if self._kept(made) and made.name.casefold() != found.name.casefold():
            self._remove_named(found.name)

    def _kept(self, preset: Preset) -> bool:
        try:
            self.workspace.shelf.keep(preset)
        except AveltError as error:
            self.workspace.said.emit(str(error))
            return False
        self.cards.chosen = preset.name
        self.refresh()
        return True

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        if event.mimeData().hasUrls() or event.mimeData().hasText():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        given = event.mimeData()
        paths = [Path(url.toLocalFile()) for url in given.urls() if url.isLocalFile()]
        if paths:
            self.inspect(paths)
        elif given.hasText():
            self.take_text(given.text())
        event.acceptProposedAction()

    def _remove(self) -> None:
        found = self.chosen
        if found is not None and found.mine and self._remove_named(found.name):
            self._removed = found.preset
            self.workspace.said.emit(tr("{found} is off the shelf. More… puts it back.", found=found.name))

    def put_back(self) -> None:
        """What was removed last is on the shelf again."""
        if self._removed is not None and self._kept(self._removed):
            self._removed = None

    def _remove_named(self, name: str) -> bool:
        try:
            self.workspace.shelf.remove(name)
        except AveltError as error:
            self.workspace.said.emit(str(error))
            return False
        self.refresh()
        return True

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.close_shelf()
        elif event.matches(QKeySequence.StandardKey.Paste):
            self.take_text(QGuiApplication.clipboard().text())
        else:
            super().keyPressEvent(event)


def _in(preset: Preset, names: set[str]) -> bool:
    return preset.name.casefold() in names


def _side(layout: QVBoxLayout, wide: int) -> QWidget:
    holder = QWidget()
    layout.setContentsMargins(0, 0, 0, 0)
    holder.setLayout(layout)
    holder.setFixedWidth(wide)
    return holder
