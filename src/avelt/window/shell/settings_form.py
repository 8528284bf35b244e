"""The settings: what can be chosen from lists, and the keys of every command with what they conflict with."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QKeySequence
from PySide6.QtWidgets import (
    QDialog,
    QGridLayout,
    QHeaderView,
    QKeySequenceEdit,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from avelt.core.words import tr
from avelt.window.common.settings import SettingsKeeper, setting_rows
from avelt.window.controls.fields import button, chosen_row, label, row
from avelt.window.controls.painted import Pick
from avelt.window.shell.key_table import KeyRow, conflicts, rows, written
from avelt.window.theme import Theme


class SettingsForm(QDialog):
    """Every change counts at once, and is kept."""

    def __init__(self, parent: QWidget, settings: SettingsKeeper, theme: Theme) -> None:
        super().__init__(parent)
        self.settings, self.theme = settings, theme
        self.setWindowTitle(tr("Settings"))
        self.resize(620, 560)
        self.picks: dict[str, Pick] = {}
        grid = QGridLayout()
        grid.setHorizontalSpacing(14)
        grid.setVerticalSpacing(8)
        grid.setColumnStretch(2, 1)
        for k, entry in enumerate(setting_rows()):
            pick = Pick()
            for value, words in entry.choices:
                pick.addItem(words, value)
            pick.setCurrentIndex(max(0, pick.findData(getattr(settings.value, entry.name))))
            pick.setToolTip(entry.says)
            pick.setAccessibleName(entry.words)
            pick.activated.connect(lambda _, name=entry.name, p=pick: settings.change(**{name: p.currentData()}))
            self.picks[entry.name] = pick
            grid.addWidget(label(entry.words), k, 0)
            grid.addWidget(pick, k, 1)
            says = label(entry.says, "caption")
            says.setWordWrap(True)
            grid.addWidget(says, k, 2)
        self.search = QLineEdit()
        self.search.setPlaceholderText(tr("Find a command or keys"))
        self.search.setAccessibleName(tr("Find a command or keys"))
        self.search.setMinimumWidth(240)
        self.list = QTreeWidget()
        self.list.setHeaderLabels([tr("Command"), tr("Where"), tr("Keys"), tr("Also")])
        self.list.setRootIsDecorated(False)
        self.list.setAccessibleName(tr("Commands and their keys"))
        for column, mode in enumerate((tr("Stretch"), "ResizeToContents", "ResizeToContents", "ResizeToContents")):
            self.list.header().setSectionResizeMode(column, QHeaderView.ResizeMode[mode])
        self.keys = QKeySequenceEdit()
        self.keys.setMaximumSequenceLength(1)
        self.keys.setAccessibleName(tr("New keys"))
        self.usual = button(tr("The usual keys"), tr("What Avelt has for this command"))
        self.none = button(tr("No keys"), tr("The command has none"))
        self.says = label("", "trouble")
        close = button(tr("Close"), "", "strong")
        layout = QVBoxLayout(self)
        layout.setSpacing(10)
        layout.addLayout(grid)
        layout.addLayout(row(label(tr("Keys"), "heading"), None, self.search, spacing=10))
        layout.addWidget(self.list, 1)
        layout.addLayout(row(label(tr("Press new ones:"), "quiet"), self.keys, self.usual, self.none, None, spacing=8))
        layout.addWidget(self.says)
        layout.addLayout(row(None, close))
        close.clicked.connect(self.accept)
        self.search.textChanged.connect(lambda _: self._fill())
        self.list.currentItemChanged.connect(lambda *_: self._show_chosen())
        self.keys.editingFinished.connect(self._pressed)
        self.usual.clicked.connect(lambda: self._set(None))
        self.none.clicked.connect(lambda: self._set(""))
        self._rows: list[KeyRow] = []
        self._fill()

    @property
    def chosen(self) -> KeyRow | None:
        """The command whose row is chosen."""
        return chosen_row(self.list, self._rows)

    def _fill(self) -> None:
        before, wanted = self.chosen, self.search.text().casefold().strip()
        table = rows()
        clash = conflicts(table, self.settings.keys_of)
        self.list.clear()
        self._rows = []
        for entry in table:
            keys = self.settings.keys_of(entry.ident, entry.usual)
            if wanted and wanted not in f"{entry.words} {keys} {entry.scope}".casefold():
                continue
            self._rows.append(entry)
            shown = QKeySequence(keys).toString(QKeySequence.SequenceFormat.NativeText) or keys
            own = " (own)" if entry.ident in self.settings.value.keys else ""
            also = tr("also: {join}", join=", ".join(clash[entry.ident])) if entry.ident in clash else ""
            item = QTreeWidgetItem(self.list, [entry.words, entry.scope, shown + own, also])
            item.setForeground(3, QColor(self.theme.palette.trouble))
            item.setForeground(1, QColor(self.theme.palette.quiet))
        place = next((k for k, e in enumerate(self._rows) if before and e.ident == before.ident), 0)
        if self._rows:
            self.list.setCurrentIndex(self.list.model().index(place, 0))
        self._show_chosen()

    def _show_chosen(self) -> None:
        entry = self.chosen
        for widget in (self.keys, self.usual, self.none):
            widget.setEnabled(entry is not None)
        self.usual.setEnabled(entry is not None and entry.ident in self.settings.value.keys)
        clash = conflicts(rows(), self.settings.keys_of).get(entry.ident, ()) if entry is not None else ()
        keys = self.settings.keys_of(entry.ident, entry.usual) if entry is not None else ""
        self.says.setText(
            tr("{keys} is also for: {clash}.", keys=written(keys), clash=", ".join(clash)) if clash else ""
        )
        self.keys.clear()

    def _pressed(self) -> None:
        keys = self.keys.keySequence().toString()
        if keys:
            self._set(keys)

    def _set(self, keys: str | None) -> None:
        entry = self.chosen
        if entry is not None:
            usual = keys is not None and written(keys) == written(entry.usual)
            self.settings.set_keys(entry.ident, None if usual else keys)
            self._fill()
            self.list.setFocus(Qt.FocusReason.OtherFocusReason)
