"""Starting the window."""

from __future__ import annotations

import os
import sys
from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication

from avelt.core.edits.frames import new_project
from avelt.core.edits.session import Session
from avelt.core.errors import AveltError
from avelt.core.formats.project_file import open_project
from avelt.core.presets.shelf import Shelf
from avelt.paint.fonts import measure_text
from avelt.window.common import faults
from avelt.window.common.workspace import Workspace
from avelt.window.shell.main_window import MainWindow
from avelt.window.shell.recovery import Recovery
from avelt.window.theme import Theme


def application() -> QApplication:
    """The application, made when there is none."""
    found = QApplication.instance()
    if isinstance(found, QApplication):
        return found
    # Asked for here, the style is not handed back: its many enumerations are not made.
    app = QApplication([*sys.argv[:1], "-style", "fusion"])
    app.setApplicationName("Avelt")
    app.setDesktopFileName("avelt")
    return app


def make_window(
    file: Path | None = None,
    demo: bool = False,
    dark: bool | None = None,
    shelf: Shelf | None = None,
    recovery: Recovery | None = None,
) -> MainWindow:
    """The window on a project file, the demo, or nothing. Raises ``AveltError`` when the file cannot be read."""
    app = application()
    theme = Theme()
    if dark is None:
        dark = QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark
    theme.use(app, dark)
    if demo:
        from avelt.demo.build import build_demo  # it reads SVG, which an empty window need not load
    if file is not None:
        project = open_project(file)
    else:
        project = build_demo(measure_text) if demo else new_project("Untitled")
    workspace = Workspace(Session(project), theme, shelf)
    workspace.path = file
    return MainWindow(workspace, recovery)


def start(file: Path | None, demo: bool) -> int:
    """Open the window and run until it is closed; gives the exit code."""
    if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")):
        raise AveltError("There is no display to open a window on.", hint="Try: avelt demo --out DIR")
    window = make_window(file, demo)
    faults.catch(window.say)
    window.show()
    window.tidy.start()
    window.offer_recovered()
    return application().exec()
