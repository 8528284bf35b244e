"""Frames: all screens side by side, their layers, and the chosen layer's values frame by frame."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QKeySequence, QShortcut
from PySide6.QtWidgets import QHBoxLayout, QMenu, QVBoxLayout, QWidget

from avelt.core.edits.session import Change
from avelt.core.formats.disk import SCREEN_ENDINGS
from avelt.core.words import tr
from avelt.window.common.menus import open_at
from avelt.window.common.workspace import Workspace
from avelt.window.controls.empty import EmptyPlace, lay_out
from avelt.window.controls.fields import panel
from avelt.window.frames import layer_commands
from avelt.window.frames.actions import ACTIONS, BY_ID, CONTEXT
from avelt.window.frames.board import Board
from avelt.window.frames.colour_controller import ColourController
from avelt.window.frames.frame_commands import FrameCommands
from avelt.window.frames.source_controller import SourceController
from avelt.window.frames.strips import NodeStrip, Strip, ToolStrip
from avelt.window.frames.table import HEIGHT, ValueTable
from avelt.window.frames.tree import TreePanel


class FramesStation(QWidget):
    """The station. Files can be dropped anywhere on it."""

    workspace: Workspace
    board: Board
    tree: TreePanel

    import_wanted = Signal()
    dropped = Signal(list)  # paths
    report_wanted = Signal()

    def __init__(self, workspace: Workspace) -> None:
        super().__init__()
        self.workspace = workspace
        self.setAcceptDrops(True)
        self.strip, self.tools, self.node_strip = Strip(), ToolStrip(), NodeStrip()
        self.tree, self.board, self.values = TreePanel(workspace), Board(workspace), ValueTable(workspace)
        self.colours = ColourController(workspace, self)
        self.commands = FrameCommands(workspace, self.board.state, self)
        self.sources = SourceController(workspace, lambda dialog: self.commands.ask(dialog), self)
        self.table_panel = panel()
        # It keeps its room: what is chosen must not rescale the board under the pointer.
        self.table_panel.setFixedHeight(HEIGHT)
        self._lay_out()
        self._connect()
        self._make_shortcuts()
        self.setFocusProxy(self.board)

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
            tr("There is no screen yet. Import SVG files or pictures, or drop them here."),
            tr("Import screens…"),
            self.import_wanted.emit,
        )
        self.body = QWidget()
        inner = QVBoxLayout(self.body)
        inner.setContentsMargins(12, 8, 12, 12)
        inner.setSpacing(8)
        inner.addLayout(upper, 1)
        inner.addWidget(self.table_panel)
        lay_out(self, self.strip, self.body, self.empty)

    def _connect(self) -> None:
        board, strip, tools, commands = self.board, self.strip, self.tools, self.commands
        state, viewport = board.state, board.viewport
        strip.bring.clicked.connect(self.import_wanted)
        strip.next.clicked.connect(commands.make_next)
        strip.changes.clicked.connect(self.sources.show_changes)
        strip.first.clicked.connect(commands.set_first)
        strip.smaller.clicked.connect(lambda: viewport.zoom_at(1 / 1.25, board.rect().center().toPointF()))
        strip.larger.clicked.connect(lambda: viewport.zoom_at(1.25, board.rect().center().toPointF()))
        strip.fits.clicked.connect(viewport.fit)
        strip.actual.clicked.connect(lambda: viewport.set_scale(1.0))
        tools.picked.connect(self._use_tool)
        for name in ("snap", "grid", "rulers", "pivot"):
            tools.toggles[name].toggled.connect(partial(state.switch, name))
        tools.toggles["outside"].toggled.connect(self._show_outside)
        self.node_strip.wanted.connect(self._edit_node)
        state.tool_changed.connect(tools.show_tool)
        state.nodes_changed.connect(self.node_strip.setVisible)
        state.hinted.connect(tools.hint)
        board.zoomed.connect(lambda: strip.show_zoom(viewport.scale()))
        state.frame_named.connect(commands.rename)
        board.removal_wanted.connect(commands.remove)
        state.text_wanted.connect(commands.ask_text)
        board.menu_wanted.connect(self.open_menu)
        state.stop_wanted.connect(self.colours.open_stop)
        state.colour_picked.connect(self.colours.picked)
        self.colours.pick_wanted.connect(lambda: state.use("pick"))
        self.tree.menu_wanted.connect(self.open_menu)
        self.tree.tree.removal_wanted.connect(commands.remove)
        self.values.colour_wanted.connect(self.colours.open)
        self.values.paint_row_changed.connect(state.show_paint)
        self.sources.offered.connect(strip.show_offers)
        commands.rename_wanted.connect(self.tree.rename_chosen)
        commands.compare_wanted.connect(self.sources.look_again)
        commands.dropped.connect(self.dropped)
        commands.report_wanted.connect(self.report_wanted)
        self.workspace.changed.connect(self._changed)
        self.workspace.chose.connect(self._show_choice)
        self.workspace.theme.changed.connect(self.refresh)

    def _make_shortcuts(self) -> None:
        self.shortcuts: dict[str, QShortcut] = {}
        for action in ACTIONS:
            made = self.shortcuts[action.id] = QShortcut(self)
            made.setContext(Qt.ShortcutContext.WidgetWithChildrenShortcut)
            made.activated.connect(partial(self.do, action.id))
        self._use_keys()
        self.workspace.settings.changed.connect(self._use_keys)
        pivot = QShortcut(QKeySequence("Y"), self.board)
        pivot.setContext(Qt.ShortcutContext.WidgetShortcut)
        pivot.activated.connect(self.tools.toggles["pivot"].toggle)
        for number, tool in enumerate(("choose", "box", "oval", "line", "pen", "text", "picture"), 1):
            made = QShortcut(QKeySequence(str(number)), self.board)
            made.setContext(Qt.ShortcutContext.WidgetShortcut)
            made.activated.connect(partial(self._use_tool, tool))

    def do(self, ident: str) -> None:
        """One of the station's actions."""
        BY_ID[ident].do(self.commands)

    def enter(self) -> None:
        """The station comes to the front."""
        self.refresh()

    def leave(self) -> None:
        """Another station comes to the front."""
        self.board.state.finish_pen()
        self.colours.close_panel()

    # Showing

    def _changed(self, change: Change) -> None:
        """Take over what an edit touched: the tree only when it is another one, the rest when a frame is."""
        self.sources.offers.keep_to(self.workspace.project)
        fields = change.touched.fields
        if not self.isVisible() or not fields & {"frames", "first", "name", "grid", "swatches", "assets"}:
            return
        if self.tree.outdated() or not self.body.isVisible() or "first" in fields:
            self.refresh()
        else:
            self._show_choice()

    def refresh(self) -> None:
        """Take everything over from the project."""
        frames = self.workspace.project.frames
        self.body.setVisible(bool(frames))
        self.empty.setVisible(not frames)
        self.strip.show_frames(frames)
        self.strip.show_offers(len(self.sources.offers.by_frame))
        self.strip.show_zoom(self.board.viewport.scale())
        self.tree.fill()
        self._show_choice()

    def _show_choice(self) -> None:
        frame = self.workspace.frame
        self.strip.show_first(frame is not None, frame is not None and frame.id == self.workspace.project.first)
        if frame is not None and not self.tree.shows(frame.id):
            self.tree.fill()
        self.tree.show_choice()
        self.values.fill()
        self.colours.follow()
        self.board.update()

    def _show_outside(self, on: bool) -> None:
        self.board.frame_painter.outside = on
        self.board.update()

    # Tools

    def _use_tool(self, tool: str) -> None:
        if tool == "picture":
            self.tools.show_tool(self.board.state.tool)
            self.commands.ask_picture()
        else:
            self.board.state.use(tool)
            self.board.setFocus()

    def _edit_node(self, what: str) -> None:
        if what == "done":
            self.board.state.edit_nodes(False)
        else:
            layer_commands.on_node(self.workspace, what, self.board.state.node)
            if what in ("remove", "break"):
                self.board.state.node = None

    def _use_keys(self) -> None:
        settings = self.workspace.settings
        for action in ACTIONS:
            keys = settings.keys_of(f"frames: {action.id}", action.keys)
            self.shortcuts[action.id].setKey(QKeySequence(keys))
        self.tools.fill_menus(self.do, settings.keys_of)

    def open_menu(self, point: QPoint) -> None:
        """What can be done with the chosen layers."""
        menu = QMenu(self)
        for ident in CONTEXT:
            if not ident:
                menu.addSeparator()
                continue
            action = menu.addAction(BY_ID[ident].words)
            action.setShortcut(self.shortcuts[ident].key())
            action.triggered.connect(partial(self.do, ident))
        open_at(menu, point)

    # Dropping files

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls()]
        if any(path.suffix.lower() in SCREEN_ENDINGS for path in paths):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        self.dropped.emit([Path(url.toLocalFile()) for url in event.mimeData().urls()])
