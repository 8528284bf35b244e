"""The strips of Frames: the one under the top bar, the tools over the board, and what is done to nodes."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Signal
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QFrame, QHBoxLayout, QMenu, QSizePolicy, QToolButton, QWidget

from avelt.core.model.values import Frame
from avelt.core.words import tr
from avelt.window.controls.fields import Choice, add_all, button, label
from avelt.window.controls.lines import Lines
from avelt.window.controls.short_label import ShortLabel
from avelt.window.frames.actions import ACTIONS, MENUS
from avelt.window.frames.tools import TOOLS


class Strip(QFrame):
    """Bringing in, next states, and how large the frames are shown."""

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("role", "bar")
        self.setFixedHeight(44)
        self.bring = button(tr("Import screens…"), tr("SVG, PNG, JPEG, WebP or GIF files as frames (Ctrl+I)"))
        self.next = button(
            tr("Next state of this frame"), tr("A copy right behind it whose layers pair for certain (Ctrl+Shift+N)")
        )
        self.summary = label("", "quiet")
        self.changes = button("", tr("Files that frames came from say something new"), "strong")
        self.first = button(tr("Starts here"), tr("Rehearse begins with this frame"), checkable=True)
        self.smaller, self.larger = button("−", tr("Smaller (Ctrl and the wheel)")), button("+", tr("Larger"))
        self.actual = button("100 %", tr("One px of a frame as one of the screen (Ctrl+9)"))
        self.fits = button(tr("Fit"), tr("Fit the height (Ctrl+0)"))
        self.actual.setMinimumWidth(58)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 0, 16, 0)
        layout.setSpacing(10)
        add_all(layout, self.bring, self.next, self.summary, None)
        add_all(layout, self.changes, self.first, self.smaller, self.actual, self.larger, self.fits)
        self.changes.hide()

    def show_frames(self, frames: Sequence[Frame]) -> None:
        """How many there are."""
        count = len(frames)
        sizes = {(frame.w, frame.h) for frame in frames}
        size = f", {frames[0].w:g} × {frames[0].h:g}" if len(sizes) == 1 else ""
        self.summary.setText(tr("{n} frames{size}", "{n} frame{size}", count, size=size) if count else "")
        self.next.setEnabled(bool(frames))

    def show_first(self, able: bool, on: bool) -> None:
        """Whether the chosen frame is where a rehearsal begins."""
        self.first.setEnabled(able)
        self.first.setChecked(on)

    def show_zoom(self, scale: float) -> None:
        """How large the frames are shown."""
        self.actual.setText(f"{scale * 100:.0f} %")

    def show_offers(self, count: int) -> None:
        """How many files changed."""
        self.changes.setVisible(count > 0)
        self.changes.setText(tr("{n} files changed…", "{n} file changed…", count))


class ToolStrip(QWidget):
    """The tools, the menus of what can be done, and what helps while drawing."""

    picked = Signal(str)

    def __init__(self) -> None:
        super().__init__()
        self.choice = Choice([word for _, word, _, _ in TOOLS], [tip for _, _, _, tip in TOOLS])
        self.choice.picked.connect(lambda place: self.picked.emit(TOOLS[place][0]))
        self.menus = {name: self._menu_button(name) for name in MENUS}
        self.toggles = {
            "snap": button(
                tr("Snap"),
                tr("Edges hold at layers, frame, guides and grid (Alt for a moment without)"),
                checkable=True,
            ),
            "grid": button(tr("Grid"), tr("Show the grid and hold at it"), checkable=True),
            "rulers": button(tr("Rulers"), tr("Rulers; drag guides out of them"), checkable=True),
            "pivot": button(tr("Pivot"), tr("Show the pivot of the chosen layer, to move it (Y)"), checkable=True),
            "outside": button(tr("Outside"), tr("Show what lies outside of the frames"), checkable=True),
        }
        self.toggles["snap"].setChecked(True)
        for made in self.toggles.values():
            made.setProperty("room", "narrow")
        self.words = ShortLabel("caption")
        self.words.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        layout = Lines(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(self.choice)
        layout.add_space(6)
        for menu in self.menus.values():
            layout.addWidget(menu)
        layout.addWidget(self.words)
        layout.add_gap()
        for made in self.toggles.values():
            layout.addWidget(made)

    def _menu_button(self, name: str) -> QToolButton:
        made = QToolButton()
        made.setText(f"{name} ▾")
        made.setProperty("role", "flat")
        made.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        made.setProperty("room", "tight")
        made.setMenu(QMenu(made))
        return made

    def fill_menus(self, run: Callable[[str], None], keys_of: Callable[[str, str], str]) -> None:
        """The actions in their menus; ``run`` does one, ``keys_of`` gives its keys (name and usual ones in)."""
        for tool in self.menus.values():
            tool.menu().clear()
        for action in ACTIONS:
            menu = self.menus[action.menu].menu()
            if action.gap:
                menu.addSeparator()
            # The keys belong to the station's shortcuts; here they are only shown.
            shown = QKeySequence(keys_of(f"frames: {action.id}", action.keys)).toString(
                QKeySequence.SequenceFormat.NativeText
            )
            made = menu.addAction(f"{action.words}\t{shown}" if shown else action.words)
            made.triggered.connect(partial(run, action.id))

    def show_tool(self, tool: str) -> None:
        """Mark the tool at hand."""
        self.choice.show_picked(next((k for k, entry in enumerate(TOOLS) if entry[0] == tool), 0))

    def hint(self, words: str) -> None:
        """One quiet sentence on what is under the pointer."""
        self.words.setText(words)


class NodeStrip(QWidget):
    """What can be done to the chosen node, while nodes are edited."""

    wanted = Signal(str)
    COMMANDS = (
        ("smooth", tr("Smooth"), tr("Handles in one line")),
        ("corner", tr("Corner"), tr("Straight in and out")),
        ("remove", tr("Remove"), tr("Without this node (Delete)")),
        ("break", tr("Break here"), tr("Open the outline at this node")),
        ("close", tr("Close"), tr("Join the ends of this part")),
        ("start", tr("Start here"), tr("A closed outline begins at this node: it matters when outlines are mixed")),
        ("done", tr("Done"), tr("Back to the layer (Esc or Return)")),
    )

    def __init__(self) -> None:
        super().__init__()
        layout = Lines(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(label(tr("Nodes: double-click the line for one more."), "quiet"))
        self.buttons = {}
        for ident, word, tip in self.COMMANDS:
            made = button(word, tip, "strong" if ident == "done" else "")
            made.clicked.connect(partial(self.wanted.emit, ident))
            self.buttons[ident] = made
            layout.addWidget(made)
        self.hide()
