"""The import report, to be read again later."""

from __future__ import annotations

from PySide6.QtWidgets import QDialog, QPlainTextEdit, QVBoxLayout, QWidget

from avelt.core.formats.report import report_of
from avelt.core.model.values import Project
from avelt.core.words import tr


def report_lines(project: Project) -> list[str]:
    """What the imports of all frames left out or did otherwise, as the project remembers it."""
    reports = [report_of(frame) for frame in project.frames if frame.source is not None]
    return [line for report in reports for line in report.lines()]


def show_report(parent: QWidget, project: Project) -> QDialog:
    """Open a window with the reports' lines; gives it."""
    dialog = QDialog(parent)
    dialog.setWindowTitle(tr("Import report"))
    dialog.resize(640, 420)
    text = QPlainTextEdit("\n".join(report_lines(project)) or tr("No frame here came from a file."))
    text.setReadOnly(True)
    QVBoxLayout(dialog).addWidget(text)
    dialog.open()
    return dialog
