"""The strip over the cue sheet: which rows are shown, and what is done with the chosen cues."""

from __future__ import annotations

from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QWidget

from avelt.window.controls.fields import button, label
from avelt.window.controls.painted import Pick
from avelt.window.timing.rows import SHOWN, SORTED


class Strip(QWidget):
    """Only widgets; the station connects them."""

    def __init__(self) -> None:
        super().__init__()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(6)
        self.search = QLineEdit()
        self.search.setPlaceholderText("Find rows")
        self.search.setClearButtonEnabled(True)
        self.search.setFixedWidth(104)
        self.shows, self.sorts = Pick(), Pick()
        for chooser, entries, tip in (
            (self.shows, SHOWN, "Which rows are shown"),
            (self.sorts, SORTED, "What the rows are sorted by"),
        ):
            for key, words in entries:
                chooser.addItem(words, key)
            chooser.setToolTip(tip)
            chooser.setFixedWidth(128)
        self.fit = button("Fit", "All of the time (0); Ctrl+wheel, + and - zoom")
        self.follow = button("Tie…", "The chosen cues one after, with or before the other; or not tied any more")
        self.stagger = button("Stagger…", "Spread the starts of the chosen cues by a rule (G)")
        self.key = button("Keyframe", "Keep the chosen property's value at the playhead (K)")
        self.keep = button("Record", "On: what is changed in the Now view becomes a keyframe (Shift+K)", checkable=True)
        self.way = button("Path…", "The motion path: straight, rotating along it, or along a path layer")
        self.from_here = button(
            "Arrive from here", "Drag layers to where they shall come from, or go to (H)", checkable=True
        )
        self.side_by_side = button("Side by side", "Two to four versions playing in step (T)")
        self.code = button("Code", "The styles of this transition beside the sheet (Shift+C)", checkable=True)
        for widget in (self.search, self.shows, self.sorts, self.fit):
            layout.addWidget(widget)
        layout.addStretch(1)
        for words, parts in (
            ("Order", (self.follow, self.stagger)),
            ("On the way", (self.key, self.keep, self.way)),
            ("Look", (self.from_here, self.side_by_side, self.code)),
        ):
            layout.addSpacing(10)
            layout.addWidget(label(words, "quiet"))
            for widget in parts:
                layout.addWidget(widget)
