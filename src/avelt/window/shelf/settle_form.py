"""Two people changed one preset: both versions move beside each other, with what differs in words."""

from __future__ import annotations

from msgspec.structs import replace
from PySide6.QtWidgets import QDialog, QVBoxLayout, QWidget

from avelt.core.presets.differs import differences
from avelt.core.presets.team_state import Conflict, Keep
from avelt.core.presets.values import Preset
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.controls.clock import Clock
from avelt.window.controls.fields import button, column, label, row
from avelt.window.shelf.cards import CARD_HIGH, CARD_WIDE, Cards, Shown


class SettleForm(QDialog):
    """``keep`` is what was chosen, once it is accepted. Nothing is lost whichever it is."""

    def __init__(self, workspace: Workspace, parent: QWidget, clash: Conflict) -> None:
        super().__init__(parent)
        self.setWindowTitle(tr("Settle {clash}", clash=clash.name))
        self.keep: Keep = "both"
        self.clock = Clock(self)
        self.clock.endless = True
        sides = [
            self._side(workspace, words, preset)
            for words, preset in ((tr("Mine"), clash.mine), (tr("Theirs"), clash.theirs))
        ]
        self.words = label(_told(clash))
        self.words.setWordWrap(True)
        self.buttons = {
            "mine": button(tr("Keep mine")),
            "theirs": button(tr("Keep theirs")),
            "both": button(tr("Keep both"), tr("Theirs stays, mine gets a number behind its name"), "strong"),
        }
        for keep, made in self.buttons.items():
            made.clicked.connect(lambda _=False, keep=keep: self._chosen(keep))
        leave = button(tr("Later"), "Esc")
        leave.clicked.connect(self.reject)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(18, 16, 18, 14)
        whole.setSpacing(12)
        whole.addLayout(row(*sides, spacing=18))
        whole.addWidget(self.words)
        whole.addLayout(row(leave, None, *self.buttons.values()))
        self.clock.play()

    def _side(self, workspace: Workspace, words: str, preset: Preset | None) -> QWidget:
        holder = QWidget()
        layout = column(spacing=6)
        layout.setContentsMargins(0, 0, 0, 0)
        holder.setLayout(layout)
        layout.addWidget(label(words, "heading"))
        if preset is None:
            layout.addWidget(label(tr("It was taken back."), "quiet"))
            layout.addStretch(1)
            return holder
        cards = Cards(workspace)
        cards.setFixedSize(int(CARD_WIDE) + 4, int(CARD_HIGH) + 4)
        cards.show_entries([Shown(preset, "")], preset.name)
        self.clock.ticked.connect(cards.go_on)
        layout.addWidget(cards)
        return holder

    def _chosen(self, keep: Keep) -> None:
        self.keep = keep
        self.accept()


def _told(clash: Conflict) -> str:
    if clash.mine is None or clash.theirs is None:
        return tr("One of you changed it, the other took it back.")
    found = differences(clash.mine, replace(clash.theirs, format=clash.mine.format))
    return tr("Theirs: {found}", found=" ".join(found)) if found else tr("Both look the same.")
