"""Starting the window.

What an empty window shows is loaded first and painted; what reads and draws projects only when there is one to open.
"""

from __future__ import annotations

import gc

gc.disable()

import builtins
import os
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PySide6.QtCore import Qt, QThreadPool, QTimer
from PySide6.QtGui import QGuiApplication
from PySide6.QtWidgets import QApplication

# PySide6 reads the source of every module that is imported, to see whether it asks for one of its spellings of names.
# None here does, and reading them takes a sixth of the start.
builtins.__import__ = getattr(builtins, "__orig_import__", builtins.__import__)

from avelt.core.edits.project import new_project
from avelt.core.edits.session import Session
from avelt.core.errors import AveltError
from avelt.core.words import tr
from avelt.window.common.collecting import allow, watch
from avelt.window.common.language import own_folder, settings_file, speak_qt, spoken
from avelt.window.common.remembered import Remembered
from avelt.window.common.settings import SettingsKeeper
from avelt.window.common.workspace import Workspace
from avelt.window.shell.main_window import MainWindow
from avelt.window.shell.take_commands import TAKEN
from avelt.window.theme import Theme

if TYPE_CHECKING:
    from avelt.core.model.values import Project
    from avelt.core.presets.shelf import Shelf
    from avelt.window.shell.recovery import Recovery


#: s that work in the background keeps the interpreter once the window wants it. The window gives it away for each thing
#: that Qt does; with the 5 ms that Python leaves to others, a picture of a hundred such things takes half a second.
_TURN = 0.0001
_PATIENCE = 5000  # ms that the program waits at its end for work in the background
_AHEAD = 1200  # ms after the start that what pairs layers is loaded, in the background
_LISTENED = 400  # ms after the start that assistive technology is told of painted views: a window opens faster without


def _tell_of_views() -> None:
    from avelt.window.common.accessible_tree import install

    install()


def _load_ahead() -> None:
    from avelt.core.pairing.engine import load

    load()


def application() -> QApplication:
    """The application, made when there is none."""
    found = QApplication.instance()
    if isinstance(found, QApplication):
        return found
    # Asked for here, the style is not handed back: its many enumerations are not made.
    app = QApplication([*sys.argv[:1], "-style", "fusion"])
    app.setApplicationName("Avelt")
    sys.setswitchinterval(_TURN)
    if spoken():
        speak_qt(app, spoken())
    app.setDesktopFileName("org.avelt.Avelt")
    watch()
    QTimer.singleShot(_LISTENED, _tell_of_views)
    return app


def make_window(
    file: Path | None = None,
    demo: bool = False,
    dark: bool | None = None,
    shelf: Shelf | None = None,
    recovery: Recovery | None = None,
) -> MainWindow:
    """The window on a project file, the demo, or nothing. Raises ``AveltError`` when the file cannot be read."""
    window = _window(_project(file, demo), file, dark, shelf, recovery)
    allow()
    return window


def _project(file: Path | None, demo: bool) -> Project:
    if file is not None:
        from avelt.core.formats.project_file import open_project

        return open_project(file)
    if demo:
        from avelt.demo.shipped import shipped_demo

        return shipped_demo()
    return new_project("Untitled")


def _window(
    project: Project,
    file: Path | None,
    dark: bool | None,
    shelf: Shelf | None = None,
    recovery: Recovery | None = None,
    own: Path | None = None,
) -> MainWindow:
    """A window while nothing is collected. ``own``: the folder of this person's settings and of what windows remember;
    none: the usual ones."""
    app = application()
    settings = SettingsKeeper(settings_file(own) if own is not None else None)
    if dark is not None:
        settings.value = replace(settings.value, theme="dark" if dark else "light")  # for this window only
    theme = Theme()
    system = QGuiApplication.styleHints().colorScheme() == Qt.ColorScheme.Dark
    theme.use(app, system if settings.value.theme == "system" else settings.value.theme == "dark")
    workspace = Workspace(Session(project), theme, shelf)
    workspace.settings = settings
    if own is not None:
        workspace.remembered = Remembered(own / "window.json")
    window = MainWindow(workspace, recovery)
    if file is not None:
        window.belongs_to(file)
    return window


def open_window(file: Path | None, demo: bool, dark: bool | None = None) -> MainWindow:
    """The same, shown and painted at once: with how the project looked last, until it is there.

    Raises ``AveltError`` when the file cannot be read; then no window stays.
    """
    gc.disable()
    try:
        window = _window(new_project("Untitled"), None, dark, own=own_folder())
        window.restore_geometry()
        if file is not None or demo:
            _show_last(window, file)
        window.show()
        application().processEvents()
        _open(window, file, demo)
        gc.freeze()  # nothing of it is garbage: no need to look through it, until nothing happens (see ``Tidy``)
    finally:
        allow()
    return window


def _open(window: MainWindow, file: Path | None, demo: bool) -> None:
    if file is not None or demo:
        try:
            project = _project(file, demo)
        except AveltError:
            window.close()
            raise
        _keep_at_end(window, project, file)
        window.show_project(project, file)
        _take_pictures(window, project, file)
        window.landing.show_empty()
        if file is not None:
            window.take_session(file)
            window.take_changed_presets(file)


def _source(file: Path | None) -> Path:
    """The file that a project comes from: its own, or the one the demo is shipped in."""
    if file is not None:
        return file
    from avelt.demo.shipped import where

    return where()


def _take_pictures(window: MainWindow, project: Project, file: Path | None) -> None:
    """The pictures of the frames as they were painted when the window was closed."""
    from avelt.window.common import kept_pictures

    frames = {frame.id: frame for frame in project.frames}
    for frame_id, scale, image in kept_pictures.load(file, _source(file)):
        if frame_id in frames:
            window.workspace.pictures.take(frames[frame_id], scale, image)


def _keep_at_end(window: MainWindow, project: Project, file: Path | None) -> None:
    """How the project looks when its window is closed, and its frames' pictures where they are as the file has them."""

    def keep() -> None:
        from avelt.window.common import kept_pictures
        from avelt.window.shell import last_picture

        workspace = window.workspace
        if workspace.path != file or not workspace.project.frames:
            return
        last_picture.keep(file, workspace.theme.dark, window.stack.grab())
        if window.is_as_in_file() if file is not None else workspace.whole is project:
            kept_pictures.keep(file, _source(file), workspace.pictures.newest(workspace.whole.frames))

    window.closing.connect(keep)


def _show_last(window: MainWindow, file: Path | None) -> None:
    from avelt.window.shell import last_picture

    dark = window.workspace.theme.dark
    window.landing.show_opening(last_picture.load(file, dark, *window.room()))


def start(files: Sequence[Path], demo: bool) -> int:
    """Open the window and run until it is closed; gives the exit code. Projects get a window each; presets, packs and
    tapes are taken into the first one."""
    if not (os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY") or os.environ.get("QT_QPA_PLATFORM")):
        raise AveltError(tr("There is no display to open a window on."), hint=tr("Try: avelt demo --out DIR"))
    scale = SettingsKeeper(settings_file()).value.scale
    if scale != 100:
        os.environ.setdefault("QT_SCALE_FACTOR", f"{scale / 100:g}")  # Qt reads it when the application is made
    others = [path for path in files if path.suffix in TAKEN]
    projects = [path for path in files if path.suffix not in TAKEN]
    window = open_window(projects[0] if projects else None, demo)
    from avelt.window.common import faults

    faults.catch(window.say)
    window.tidy.start()
    QTimer.singleShot(_AHEAD, lambda: QThreadPool.globalInstance().start(_load_ahead))
    window.checking.begin()
    window.watches = True
    for path in projects[1:]:
        window.another_window().open_file(path)
    window.take_files(others)
    window.offer_recovered()
    code = application().exec()
    # What still works in the background ends before what it works with does.
    QThreadPool.globalInstance().waitForDone(_PATIENCE)
    return code
