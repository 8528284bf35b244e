"""The import report, to be read again later."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtWidgets import QDialog, QPlainTextEdit, QVBoxLayout, QWidget

from avelt.core.formats.report import Report


def show_report(parent: QWidget, reports: Sequence[Report]) -> QDialog:
    """Open a window with the reports' lines; gives it."""
    dialog = QDialog(parent)
    dialog.setWindowTitle("Import report")
    dialog.resize(640, 420)
    lines = [line for report in reports for line in report.lines()]
    text = QPlainTextEdit("\n".join(lines) or "Nothing was brought in yet.")
    text.setReadOnly(True)
    QVBoxLayout(dialog).addWidget(text)
    dialog.open()
    return dialog
