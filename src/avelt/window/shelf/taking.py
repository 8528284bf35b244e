"""Presets that are taken onto the shelf from files and code; what is in them is shown before."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QDialog, QFileDialog, QFrame

from avelt.core.errors import AveltError
from avelt.core.presets import packs, tokens
from avelt.core.presets.files import from_text, read_file
from avelt.core.presets.shelf import Trouble
from avelt.core.presets.values import ENDING, Preset
from avelt.core.words import tr
from avelt.window.common.workspace import Workspace
from avelt.window.shelf.cards import Cards
from avelt.window.shelf.take_form import Same, TakeForm, offered, read_all

FILES = tr(
    "Presets, packs, tokens, code (*{ending} *{pack_ending} *{tokens_ending} *.json *.css)",
    ending=ENDING,
    pack_ending=packs.PACK_ENDING,
    tokens_ending=tokens.TOKENS_ENDING,
)


class Taking(QFrame):
    """What the shelf does with files that come."""

    workspace: Workspace
    cards: Cards

    def refresh(self) -> None:
        """Read the shelf again."""
        raise NotImplementedError

    def _bring(self) -> None:
        paths, _ = QFileDialog.getOpenFileNames(self, tr("Import presets"), str(Path.home()), FILES)
        self.inspect([Path(path) for path in paths])

    def inspect(self, paths: list[Path]) -> None:
        """Take the presets of files onto the shelf. What is in a pack, or in several files, is shown before; and so is
        what has the name of one that is there."""
        presets, notes, troubles = read_all(paths)
        found = offered(presets, list(self.workspace.shelf.read().presets))
        if len(found) < 2 and not notes and all(entry.on_shelf != "same name" for entry in found):
            self.import_presets(paths)
            return
        form = TakeForm(self, found, notes, troubles)
        if self.ask(form):
            self._take([lambda: (tuple(form.wanted), ())], form.how)

    def ask(self, form: QDialog) -> bool:
        """Show a form until it is answered; whether it shall be done."""
        return form.exec() == QDialog.DialogCode.Accepted

    def import_presets(self, paths: list[Path]) -> None:
        """Take the presets of files onto the shelf; of those that are none, it is said why."""
        self._take([lambda p=path: read_file(p) for path in paths])  # type: ignore[misc]

    def take_text(self, text: str) -> None:
        """Take the presets of code that was pasted or dropped."""
        self._take([lambda: from_text(text, "pasted")])

    def _take(
        self, sources: list[Callable[[], tuple[tuple[Preset, ...], tuple[Trouble, ...]]]], same: Same = "keep"
    ) -> None:
        words: list[str] = []
        for read in sources:
            try:
                presets, troubles = read()
                words += [trouble.says for trouble in troubles]
                for preset in presets:
                    made, says = self.workspace.shelf.take(preset, same)
                    words.append(says)
                    self.cards.chosen = made.name if made is not None else self.cards.chosen
            except AveltError as error:
                words.append(str(error))
        self.refresh()
        if words:
            self.workspace.said.emit(" ".join(words))
