"""The strip over the cue sheet: which rows are shown, and what is done with the chosen cues."""

from __future__ import annotations

from PySide6.QtWidgets import QLineEdit, QWidget

from avelt.core.words import tr
from avelt.window.controls.fields import button, label
from avelt.window.controls.lines import Lines
from avelt.window.controls.painted import Pick
from avelt.window.timing.rows import SHOWN, SORTED


class Strip(QWidget):
    """Only widgets; the station connects them."""

    def __init__(self) -> None:
        super().__init__()
        layout = Lines(self)
        layout.setContentsMargins(0, 0, 0, 0)
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Find rows"))
        self.search.setClearButtonEnabled(True)
        self.search.setFixedWidth(104)
        self.shows, self.sorts = Pick(), Pick()
        for chooser, entries, tip in (
            (self.shows, SHOWN, tr("Which rows are shown")),
            (self.sorts, SORTED, tr("What the rows are sorted by")),
        ):
            for key, words in entries:
                chooser.addItem(words, key)
            chooser.setToolTip(tip)
            chooser.setMinimumWidth(128)
        self.fit = button(tr("Fit"), tr("All of the time (0); Ctrl+wheel, + and - zoom"))
        self.follow = button(
            tr("Tie…"), tr("The chosen cues one after, with or before the other; or not tied any more")
        )
        self.stagger = button(tr("Stagger…"), tr("Spread the starts of the chosen cues by a rule (G)"))
        self.key = button(tr("Keyframe"), tr("Keep the chosen property's value at the playhead (K)"))
        self.keep = button(
            tr("Record"), tr("On: what is changed in the Now view becomes a keyframe (Shift+K)"), checkable=True
        )
        self.way = button(tr("Path…"), tr("The motion path: straight, rotating along it, or along a path layer"))
        self.from_here = button(
            tr("Arrive from here"), tr("Drag layers to where they shall come from, or go to (H)"), checkable=True
        )
        self.side_by_side = button(tr("Side by side"), tr("Two to four versions playing in step (T)"))
        self.code = button(tr("Code"), tr("The styles of this transition beside the sheet (Shift+C)"), checkable=True)
        for widget in (self.search, self.shows, self.sorts, self.fit):
            layout.addWidget(widget)
        layout.add_gap()
        for words, parts in (
            (tr("Order"), (self.follow, self.stagger)),
            (tr("On the way"), (self.key, self.keep, self.way)),
            (tr("Look"), (self.from_here, self.side_by_side, self.code)),
        ):
            layout.add_space(4)
            layout.addWidget(label(words, "quiet"))
            for widget in parts:
                layout.addWidget(widget)
