"""The strip over the cue sheet: which rows are shown, and what is done with the chosen cues."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from avelt.window.controls.fields import button
from avelt.window.controls.painted import Pick
from avelt.window.timing.rows import SHOWN, SORTED


class Strip(QWidget):
    """Only widgets; the station connects them."""

    def __init__(self) -> None:
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(8)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find rows")
        self.search.setClearButtonEnabled(True)
        self.search.setFixedWidth(118)
        self.shows, self.sorts = Pick(), Pick()
        for chooser, entries, tip in (
            (self.shows, SHOWN, "Which rows are shown"),
            (self.sorts, SORTED, "What the rows are sorted by"),
        ):
            for key, words in entries:
                chooser.addItem(words, key)
            chooser.setToolTip(tip)
            chooser.setFixedWidth(132)
        self.fit = button("Fit", "All of the time (0); Ctrl+wheel, + and - zoom")
        self.follow = button("Tie…", "The chosen cues one after, with or before the other; or not tied any more")
        self.stagger = button("Stagger…", "Spread the starts of the chosen cues by a rule (G)")
        self.timing = button("Cue…", "Copy and mirror timing, mute, watch alone (also by right click)")
        self.way = button("Motion path…", "Straight, rotating along it, or along a path layer")
        self.key = button("Keyframe", "Keep the chosen property's value at the playhead (K)")
        self.keep = button("Record", "On: what is changed in the Now view becomes a keyframe (Shift+K)", checkable=True)
        self.from_here = button(
            "Arrive from here", "Drag layers to where they shall come from, or go to (H)", checkable=True
        )
        self.side_by_side = button("Try side by side", "Two to four versions playing in step (T)")
        for widget in (self.search, self.shows, self.sorts, self.fit):
            layout.addWidget(widget)
        layout.addStretch(1)
        for widget in (
            self.follow,
            self.stagger,
            self.timing,
            self.way,
            self.key,
            self.keep,
            self.from_here,
            self.side_by_side,
        ):
            layout.addWidget(widget)
