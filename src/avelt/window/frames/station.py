"""Frames: all screens side by side, their layers, and the chosen layer's values frame by frame."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import QDialog, QFileDialog, QHBoxLayout, QInputDialog, QLineEdit, QMenu, QVBoxLayout, QWidget

from avelt.core.edits.arrange import boxes_in_frame, set_guides
from avelt.core.edits.frames import next_state, remove_frame, rename_frame, set_first
from avelt.core.edits.layers import fit_text
from avelt.core.edits.shapes import (
    add_layer,
    add_picture,
    new_frame,
    new_text,
    set_background,
    set_frame_clips,
    set_frame_size,
    set_perspective,
)
from avelt.core.edits.sources import take_in
from avelt.core.edits.structure import remove_layers
from avelt.core.errors import AveltError
from avelt.core.formats.disk import SCREEN_ENDINGS
from avelt.core.geometry.bezier import union
from avelt.core.model.find import frame_by_id
from avelt.core.model.values import Project
from avelt.paint.fonts import measure_text
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import panel
from avelt.window.controls.forms import ask
from avelt.window.frames import clipboard, deeds
from avelt.window.frames.actions import ACTIONS, BY_ID, CONTEXT
from avelt.window.frames.board import Board
from avelt.window.frames.changes import ChangesDialog, CompareJob, FoundChanges, Offers, Watcher, is_large, look
from avelt.window.frames.dialogs import CarryDialog, FrameDialog, GridDialog, RepeatDialog
from avelt.window.frames.inks import Inks
from avelt.window.frames.strips import NodeStrip, Strip, ToolStrip
from avelt.window.frames.table import ValueTable
from avelt.window.frames.tree import TreePanel
from avelt.window.shell.desk import Desk


class FramesStation(QWidget):
    """The station. Files can be dropped anywhere on it."""

    desk: Desk
    board: Board
    tree: TreePanel

    bring_in = Signal()
    dropped = Signal(list)  # paths
    report_wanted = Signal()

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.setAcceptDrops(True)
        self.strip, self.tools, self.node_strip = Strip(), ToolStrip(), NodeStrip()
        self.tree, self.board, self.values = TreePanel(desk), Board(desk), ValueTable(desk)
        self.inks = Inks(desk, self)
        self.watcher, self.offers = Watcher(desk), Offers()
        self.table_panel = panel()
        self.ask = _run
        self._lay_out()
        self._connect()
        self._make_shortcuts()
        self.setFocusProxy(self.board)
        self.refresh()

    def _lay_out(self) -> None:
        tree_panel = panel()
        tree_panel.setFixedWidth(214)
        inside = QVBoxLayout(tree_panel)
        inside.setContentsMargins(8, 8, 4, 8)
        inside.addWidget(self.tree)
        middle = QVBoxLayout()
        middle.setSpacing(6)
        middle.addWidget(self.tools)
        middle.addWidget(self.node_strip)
        middle.addWidget(self.board, 1)
        upper = QHBoxLayout()
        upper.setSpacing(14)
        upper.addWidget(tree_panel)
        upper.addLayout(middle, 1)
        below = QVBoxLayout(self.table_panel)
        below.setContentsMargins(1, 0, 1, 0)
        below.addWidget(self.values)
        self.empty = EmptyPlace(
            "There is no screen yet. Bring in SVG files or pictures, or drop them here.",
            "Bring in screens…",
            self.bring_in.emit,
        )
        self.body = QWidget()
        inner = QVBoxLayout(self.body)
        inner.setContentsMargins(12, 8, 12, 12)
        inner.setSpacing(8)
        inner.addLayout(upper, 1)
        inner.addWidget(self.table_panel)
        lay_out(self, self.strip, self.body, self.empty)

    def _connect(self) -> None:
        board, strip, tools = self.board, self.strip, self.tools
        strip.bring.clicked.connect(self.bring_in)
        strip.next.clicked.connect(self.make_next)
        strip.changes.clicked.connect(self.show_changes)
        strip.first.clicked.connect(self._set_first)
        strip.smaller.clicked.connect(lambda: board.pages.zoom_at(1 / 1.25, board.rect().center().toPointF()))
        strip.larger.clicked.connect(lambda: board.pages.zoom_at(1.25, board.rect().center().toPointF()))
        strip.fits.clicked.connect(board.pages.fit)
        strip.actual.clicked.connect(lambda: board.pages.set_scale(1.0))
        tools.picked.connect(self._use_tool)
        tools.fill_menus(self)
        for name in ("snap", "grid", "rulers"):
            tools.toggles[name].toggled.connect(partial(self._switch, name))
        tools.toggles["outside"].toggled.connect(self._show_outside)
        self.node_strip.wanted.connect(self._node_deed)
        board.tool_changed.connect(tools.show_tool)
        board.nodes_changed.connect(self.node_strip.setVisible)
        board.hinted.connect(tools.hint)
        board.zoomed.connect(lambda: strip.show_zoom(board.scale()))
        board.frame_named.connect(self.rename)
        board.removal_wanted.connect(self.remove)
        board.text_wanted.connect(self.ask_text)
        board.menu_wanted.connect(self.open_menu)
        board.stop_wanted.connect(self.inks.open_stop)
        board.colour_picked.connect(self.inks.picked)
        self.inks.pick_wanted.connect(lambda: board.use("pick"))
        self.tree.menu_wanted.connect(self.open_menu)
        self.values.colour_wanted.connect(self.inks.open)
        self.values.paint_row_changed.connect(self._show_paint)
        self.watcher.found.connect(self._found_changes)
        self.desk.changed.connect(self._changed)
        self.desk.chose.connect(self._show_choice)
        self.desk.theme.changed.connect(self.refresh)

    def _make_shortcuts(self) -> None:
        for action in ACTIONS:
            if action.keys:
                made = QShortcut(QKeySequence(action.keys), self)
                made.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
                made.activated.connect(partial(self.do, action.id))
        for number, tool in enumerate(("choose", "box", "oval", "line", "pen", "text", "picture"), 1):
            made = QShortcut(QKeySequence(str(number)), self.board)
            made.setContext(Qt.ShortcutContext.WidgetShortcut)
            made.activated.connect(partial(self._use_tool, tool))

    def do(self, ident: str) -> None:
        """One of the station's actions."""
        BY_ID[ident].do(self)

    def enter(self) -> None:
        """The station comes to the front."""
        self.refresh()

    def leave(self) -> None:
        """Another station comes to the front."""
        self.board.finish_pen()
        self.inks.close_panel()

    # Showing

    def _changed(self, _: object) -> None:
        self.offers.keep_to(self.desk.project)
        if self.isVisible():
            self.refresh()

    def refresh(self) -> None:
        """Take everything over from the project."""
        frames = self.desk.project.frames
        self.body.setVisible(bool(frames))
        self.empty.setVisible(not frames)
        self.strip.show_frames(frames)
        self.strip.show_offers(len(self.offers.by_frame))
        self.strip.show_zoom(self.board.scale())
        self.tree.fill()
        self._show_choice()

    def _show_choice(self) -> None:
        frame = self.desk.frame
        self.strip.show_first(frame is not None, frame is not None and frame.id == self.desk.project.first)
        if frame is not None and not self.tree.shows(frame.id):
            self.tree.fill()
        self.tree.show_choice()
        self.table_panel.setFixedHeight(self.values.wanted_height())
        self.values.fill()
        self.inks.follow()
        self.board.update()

    def _show_paint(self, row: str) -> None:
        self.board.paint_row = row
        self.board.update()

    def _switch(self, name: str, on: bool) -> None:
        setattr(self.board, name, on)
        self.board.update()

    def _show_outside(self, on: bool) -> None:
        self.board.sheets.outside = on
        self.board.update()

    # Tools

    def _use_tool(self, tool: str) -> None:
        if tool == "picture":
            self.tools.show_tool(self.board.tool)
            self.ask_picture()
        else:
            self.board.use(tool)
            self.board.setFocus()

    def _node_deed(self, deed: str) -> None:
        if deed == "done":
            self.board.edit_nodes(False)
        else:
            deeds.on_node(self.desk, deed, self.board.node)
            if deed in ("remove", "break"):
                self.board.node = None

    def ask_text(self, frame_id: str, x: float, y: float) -> None:
        """Words for a new text."""
        words, ok = QInputDialog.getMultiLineText(self, "New text", "Words")
        self.board.use("choose")
        if ok and words.strip():
            self.put_text(frame_id, x, y, words.strip())

    def put_text(self, frame_id: str, x: float, y: float, words: str) -> None:
        """A text on a frame."""
        layer = new_text(round(x), round(y), words, 0.0)
        layer = fit_text(layer, measure_text)
        before = self.desk.project.next_id
        if self.desk.do("put a text", lambda p: add_layer(p, frame_id, layer)[0]):
            self.desk.choose(frame_id, f"L{before}")

    def ask_picture(self) -> None:
        """A picture file for the chosen frame."""
        path, _ = QFileDialog.getOpenFileName(
            self, "Put a picture", str(Path.home()), "Pictures (*.png *.jpg *.jpeg *.webp *.gif)"
        )
        if path:
            self.put_picture(Path(path))

    def put_picture(self, path: Path) -> None:
        """A picture file on the chosen frame."""
        from avelt.core.formats.disk import read_bytes
        from avelt.core.formats.pictures_in import read_picture
        from avelt.core.model.limits import MAX_PICTURE_BYTES

        frame = self.desk.frame
        if frame is None:
            return

        def change(project: Project) -> Project:
            asset = read_picture(read_bytes(path, MAX_PICTURE_BYTES), str(path))
            return add_picture(project, frame.id, asset, path.stem, 0.0, 0.0)[0]

        before = self.desk.project.next_id
        if self.desk.do(f"put {path.name}", change):
            self.desk.choose(frame.id, f"L{before}")

    def open_menu(self, point: QPoint) -> None:
        """What can be done with the chosen layers."""
        menu = QMenu(self)
        for ident in CONTEXT:
            if not ident:
                menu.addSeparator()
                continue
            action = menu.addAction(BY_ID[ident].words)
            if BY_ID[ident].keys:
                action.setShortcut(QKeySequence(BY_ID[ident].keys))
            action.triggered.connect(partial(self.do, ident))
        menu.popup(point)

    # Frames

    def make_next(self) -> None:
        """The next state of the chosen frame."""
        frame = self.desk.frame
        if frame is None:
            return
        before = {entry.id for entry in self.desk.project.frames}
        self.desk.do(f"next state of {frame.name}", lambda p: next_state(p, frame.id))
        made = next((entry for entry in self.desk.project.frames if entry.id not in before), None)
        if made is not None:
            self.desk.choose(made.id)

    def add_frame(self) -> None:
        """An empty frame of the chosen one's size."""
        frame, before = self.desk.frame, self.desk.project.next_id
        w, h = (frame.w, frame.h) if frame is not None else (360.0, 640.0)
        if self.desk.do("add a frame", lambda p: new_frame(p, "Frame", w, h)[0]):
            self.desk.choose(f"F{before}")

    def _set_first(self) -> None:
        frame = self.desk.frame
        if frame is not None:
            self.desk.do(f"start with {frame.name}", lambda p: set_first(p, frame.id))
            self._show_choice()

    def rename(self, frame_id: str) -> None:
        """Ask for another name of a frame."""
        frame = frame_by_id(self.desk.project, frame_id)
        name, ok = QInputDialog.getText(self, "Rename frame", "Name", QLineEdit.EchoMode.Normal, frame.name)
        if ok:
            self.desk.do(f"rename {frame.name}", lambda p: rename_frame(p, frame_id, name))

    def rename_chosen_frame(self) -> None:
        """Ask for another name of the chosen frame."""
        if self.desk.frame is not None:
            self.rename(self.desk.frame.id)

    def remove(self) -> None:
        """Remove the chosen layers, or the chosen frame when no layer is chosen."""
        frame = self.desk.frame
        if frame is None:
            return
        if self.desk.chosen:
            deeds.remove(self.desk)
        else:
            count = sum(frame.id in (r.leaves, r.arrives) for r in self.desk.project.routes)
            words = f"{frame.name} has {count} route{'s' if count != 1 else ''}, which would go with it."
            if not count or ask(self, "Remove frame", words, "Remove it"):
                self.desk.do(f"remove frame {frame.name}", lambda p: remove_frame(p, frame.id))

    def flip_frame_clip(self) -> None:
        """Whether the chosen frame cuts off what lies outside."""
        frame = self.desk.frame
        if frame is not None:
            words = f"{'do not clip' if frame.clips else 'clip'} {frame.name}"
            self.desk.do(words, lambda p: set_frame_clips(p, frame.id, not frame.clips))

    def fit_chosen(self) -> None:
        """The chosen layers, or the frame, as large as the board can show them."""
        frame = self.desk.frame
        if frame is not None:
            ids = self.desk.chosen_here
            box = union(boxes_in_frame(frame, ids)) if ids else (0.0, 0.0, frame.w, frame.h)
            self.board.pages.fit_to(frame, box)

    # Dialogs

    def ask_repeat(self) -> None:
        """Rows and columns of the chosen layer."""
        layer = self.desk.layer
        if layer is not None:
            dialog = RepeatDialog(self, layer.name)
            if self.ask(dialog):
                deeds.repeat_chosen(self.desk, *dialog.values())

    def ask_carry(self) -> None:
        """Which frames the chosen layers go to."""
        frame, layer = self.desk.frame, self.desk.layer
        if frame is None or layer is None:
            self.desk.said.emit("Choose a layer first.")
            return
        others = [other for other in self.desk.project.frames if other.id != frame.id]
        dialog = CarryDialog(self, deeds.words_for(self.desk, "").strip(), others)
        if self.ask(dialog):
            deeds.carry_to(self.desk, dialog.wanted())

    def ask_frame(self) -> None:
        """The chosen frame's settings."""
        frame = self.desk.frame
        if frame is None:
            return
        dialog = FrameDialog(self, frame)
        if not self.ask(dialog):
            return
        wanted = dialog.values()

        def change(project: Project) -> Project:
            project = set_frame_size(project, frame.id, wanted.w, wanted.h)
            project = set_background(project, frame.id, wanted.background)
            project = set_perspective(project, frame.id, wanted.perspective)
            return set_frame_clips(project, frame.id, wanted.clips)

        self.desk.do(f"settings of {frame.name}", change)

    def ask_grid(self) -> None:
        """The grid's step, and the chosen frame's guides as numbers."""
        import msgspec

        frame = self.desk.frame
        dialog = GridDialog(self, self.desk.project.grid, frame)
        if not self.ask(dialog):
            return

        def change(project: Project) -> Project:
            project = msgspec.structs.replace(project, grid=dialog.grid.value)
            for axis in ("x", "y"):
                if frame is not None:
                    project = set_guides(project, frame.id, axis, dialog.places(axis))
            return project

        self.desk.do("set grid and guides", change)

    # Files that changed

    def show_report(self) -> None:
        """What the imports of the frames left out."""
        self.report_wanted.emit()

    def look_again(self) -> None:
        """Compare the chosen frame with its file, and offer what differs."""
        frame = self.desk.frame
        if frame is None:
            return
        if is_large(frame):
            self.desk.said.emit(f"Reading the file of {frame.name}…")
            self._job = CompareJob((frame,))
            self._job.looked.connect(self._looked)
            self._job.start()
        else:
            self._looked(look(frame))

    def _looked(self, looked: FoundChanges) -> None:
        frame = next((f for f in self.desk.project.frames if f.id == looked.frame_id), None)
        if frame is None:
            return
        if looked.trouble:
            self.desk.said.emit(looked.trouble)
        elif not looked.changes:
            self.desk.said.emit(f"The file of {frame.name} says nothing new.")
        else:
            self._found_changes(looked)
            self.offer(looked)

    def _found_changes(self, looked: FoundChanges) -> None:
        if looked.trouble:
            self.desk.said.emit(looked.trouble)
            return
        self.offers.put(looked)
        self.strip.show_offers(len(self.offers.by_frame))

    def show_changes(self) -> None:
        """Offer what changed in the files, frame by frame."""
        for looked in list(self.offers.by_frame.values()):
            self.offer(looked)

    def offer(self, looked: FoundChanges) -> None:
        """Show what a file says that its frame does not, and take in what is ticked."""
        frame = next((f for f in self.desk.project.frames if f.id == looked.frame_id), None)
        imported = looked.imported
        if frame is None or imported is None:
            return
        dialog = ChangesDialog(self, self.desk, frame, looked)
        if self.ask(dialog):
            keys = dialog.keys()
            self.desk.do(
                f"take in changes of {frame.name}",
                lambda p: take_in(p, frame.id, imported.frame, imported.assets, keys),
            )
            self.offers.put(FoundChanges(frame.id))
            self.strip.show_offers(len(self.offers.by_frame))

    # Clipboard

    def copy(self, cut: bool = False) -> None:
        """The chosen layers to the clipboard."""
        clip = deeds.clip_of(self.desk)
        if clip is None:
            self.desk.said.emit("Choose a layer to copy.")
            return
        clipboard.put(clip)
        if cut:
            deeds.on_each_frame(self.desk, "cut", remove_layers)

    def paste(self, as_frame: bool = False) -> None:
        """What is on the clipboard: layers, SVG or a picture onto the chosen frame, or as a new frame; files."""
        try:
            found = clipboard.take(measure_text)
        except AveltError as error:
            self.desk.said.emit(str(error))
            return
        if found is None:
            self.desk.said.emit("There is nothing on the clipboard that can be pasted here.")
        elif found.paths:
            self.dropped.emit(found.paths)
        elif as_frame or self.desk.frame is None:
            frame = clipboard.as_frame(found)
            before = len(self.desk.project.frames)
            self.desk.do("paste a frame", lambda p: clipboard.add(p, frame))
            self.desk.choose(self.desk.project.frames[before].id)
        else:
            deeds.paste(self.desk, clipboard.as_clip(found))

    # Dropping files

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls()]
        if any(path.suffix.lower() in SCREEN_ENDINGS for path in paths):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.dropped.emit([Path(url.toLocalFile()) for url in event.mimeData().urls()])


def _run(dialog: QDialog) -> bool:
    """Show a dialog until it is answered."""
    return dialog.exec() == QDialog.DialogCode.Accepted
