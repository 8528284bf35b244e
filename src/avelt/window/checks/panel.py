"""The list of what the checks find, in a drawer under any station: it leads there, mends and mutes."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QIcon, QKeyEvent, QPainter, QPixmap, QPolygonF
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QLineEdit,
    QTreeWidget,
    QTreeWidgetItem,
    QVBoxLayout,
    QWidget,
)

from avelt.core.checks.table import Finding, Severity
from avelt.core.edits.mending import MENDS
from avelt.core.words import tr
from avelt.window.controls.fields import Choice, button, chosen_row, column, label, row
from avelt.window.theme import Theme

_HIGH, _RIGHT = 216, 300  # px
_WORDS: dict[Severity, str] = {"error": tr("wrong"), "warning": tr("most likely not meant"), "note": tr("worth a look")}
_ALL, _HERE, _MUTED = range(3)


class ChecksPanel(QFrame):
    """A drawer. What is to be done is said by signals, with the finding."""

    led = Signal(object)  # show where it is
    mended = Signal(object)
    muted = Signal(object, str)  # why; empty: not muted any more
    closed = Signal()

    def __init__(self, theme: Theme, names: dict[str, str], parent: QWidget) -> None:
        super().__init__(parent)
        self.theme, self.names = theme, names
        self.found: tuple[Finding, ...] = ()
        self._rows: list[Finding] = []
        self.station = ""
        self.setProperty("role", "panel")
        self.setFixedHeight(_HIGH)
        self.title = label(tr("Checks"), "heading")
        self.which = Choice(
            [tr("All"), tr("This station"), tr("Muted")],
            [tr("All that is found"), tr("What belongs to the station in front"), tr("What is meant so, and why")],
        )
        self.close_button = button(tr("Close"), tr("Close the list (Esc)"))
        self.list = QTreeWidget()
        self.list.setColumnCount(3)
        self.list.setHeaderHidden(True)
        self.list.setRootIsDecorated(False)
        self.list.setUniformRowHeights(True)
        self.list.setAccessibleName(tr("What the checks find"))
        self.list.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        header = self.list.header()
        header.setStretchLastSection(False)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.ResizeToContents)
        header.setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        header.setSectionResizeMode(2, QHeaderView.ResizeMode.ResizeToContents)
        self.says, self.about = label(""), label("", "quiet")
        self.go = button(tr("Show"), tr("Go to where it is (Return)"), "strong")
        self.mend = button("", tr("Mend it by itself; undo takes it back (Ctrl+M)"))
        self.reason = QLineEdit()
        self.reason.setPlaceholderText(tr("Why it is meant so"))
        self.reason.setAccessibleName(tr("Why it is meant so"))
        self.mute = button(tr("Mute"), tr("It is meant so: kept in the project with the reason, and not counted"))
        self._lay_out()
        self.which.picked.connect(self._fill)
        self.close_button.clicked.connect(self.closed)
        self.list.currentItemChanged.connect(lambda *_: self._show_chosen())
        self.list.itemActivated.connect(lambda *_: self._lead())
        self.go.clicked.connect(self._lead)
        self.mend.clicked.connect(self._mend)
        self.mute.clicked.connect(self._mute)
        self.reason.returnPressed.connect(self._mute)
        self.reason.textChanged.connect(lambda _: self._show_buttons())
        theme.changed.connect(self._fill)
        self.hide()

    def _lay_out(self) -> None:
        for words in (self.says, self.about):
            words.setWordWrap(True)
        left = column(spacing=6)
        left.addLayout(row(self.title, None, self.which, self.close_button, spacing=8))
        left.addWidget(self.list, 1)
        side = QWidget()
        side.setFixedWidth(_RIGHT)
        right = QVBoxLayout(side)
        right.setContentsMargins(0, 0, 0, 0)
        right.setSpacing(7)
        right.addWidget(self.says)
        right.addWidget(self.about)
        right.addStretch(1)
        right.addLayout(row(self.go, self.mend, None, spacing=6))
        right.addLayout(row(self.reason, self.mute, spacing=6))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(16, 10, 16, 10)
        layout.setSpacing(18)
        layout.addLayout(left, 1)
        layout.addWidget(side)

    # What is shown

    def show_found(self, found: Sequence[Finding], station: str) -> None:
        """Take over what is found, and the station in front."""
        if tuple(found) != self.found or station != self.station:
            self.found, self.station = tuple(found), station
            self._fill()

    @property
    def shown(self) -> list[Finding]:
        """The findings of the list, in its order: what is worst first, then in the order of the stations."""
        which = self.which.index
        rows = [entry for entry in self.found if bool(entry.reason) == (which == _MUTED)]
        if which == _HERE:
            rows = [entry for entry in rows if entry.check.station == self.station]
        order = list(_WORDS)
        places = list(self.names)
        return sorted(rows, key=lambda e: (order.index(e.check.severity), places.index(e.check.station)))

    @property
    def chosen(self) -> Finding | None:
        """The finding whose row is chosen."""
        return chosen_row(self.list, self._rows)

    def _fill(self, *_: object) -> None:
        before = self.chosen
        self._rows = self.shown
        self.list.clear()
        for entry in self._rows:
            item = QTreeWidgetItem(self.list, ["", entry.line, self.names[entry.check.station]])
            item.setIcon(0, _mark(entry.check.severity, self.theme))
            item.setToolTip(0, _WORDS[entry.check.severity])
            item.setToolTip(1, entry.line)
            item.setData(0, Qt.ItemDataRole.AccessibleTextRole, _WORDS[entry.check.severity])
            item.setForeground(2, QColor(self.theme.palette.quiet))
        same = next((k for k, e in enumerate(self._rows) if before and _key(e) == _key(before)), 0)
        if self._rows:
            self.list.setCurrentIndex(self.list.model().index(same, 0))
        count = sum(not entry.reason for entry in self.found)
        self.title.setText(tr("Checks: {count}", count=count) if count else tr("Checks: nothing is wrong"))
        self._show_chosen()

    def _show_chosen(self) -> None:
        entry = self.chosen
        self.says.setText(entry.line if entry is not None else "")
        self.about.setText(f"{_WORDS[entry.check.severity].capitalize()}: {entry.check.looks_for}." if entry else "")
        self.reason.setText(entry.reason if entry is not None else "")
        self._show_buttons()

    def _show_buttons(self) -> None:
        entry = self.chosen
        mend = MENDS.get(entry.check.code) if entry is not None else None
        for widget in (self.go, self.reason, self.mute):
            widget.setVisible(entry is not None)
        self.mend.setVisible(mend is not None)
        self.mend.setText(mend.words if mend is not None else "")
        muted = bool(entry is not None and entry.reason)
        self.mute.setText(tr("Count it again") if muted else tr("Mute"))
        self.reason.setReadOnly(muted)
        self.mute.setEnabled(muted or bool(self.reason.text().strip()))

    # What is done

    def _lead(self) -> None:
        if self.chosen is not None:
            self.led.emit(self.chosen)

    def _mend(self) -> None:
        if self.chosen is not None and self.chosen.check.code in MENDS:
            self.mended.emit(self.chosen)

    def _mute(self) -> None:
        entry = self.chosen
        if entry is not None and (entry.reason or self.reason.text().strip()):
            self.muted.emit(entry, "" if entry.reason else self.reason.text().strip())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.closed.emit()
        elif event.key() == Qt.Key.Key_M and event.modifiers() == Qt.KeyboardModifier.ControlModifier:
            self._mend()
        else:
            super().keyPressEvent(event)


def _key(entry: Finding) -> tuple[object, object]:
    return entry.check, entry.about


def _mark(severity: Severity, theme: Theme) -> QIcon:
    """A shape for how bad it is: a full square, a triangle, a ring. Not by colour alone."""
    ratio = 2.0
    image = QPixmap(round(14 * ratio), round(14 * ratio))
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    p = theme.palette
    if severity == "note":
        painter.setPen(QColor(p.quiet))
        painter.drawEllipse(QRectF(3, 3, 8, 8))
    else:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(p.trouble if severity == "error" else p.leaves_text))
        if severity == "error":
            painter.drawRect(QRectF(2.5, 2.5, 9, 9))
        else:
            painter.drawPolygon(QPolygonF([QPointF(7, 2), QPointF(12.5, 12), QPointF(1.5, 12)]))
    painter.end()
    return QIcon(image)
