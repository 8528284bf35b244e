"""Every command of the window, declared once. Menus, shortcuts, Find and the docs are made from this table."""

from __future__ import annotations

from avelt.core.record import Record
from avelt.core.words import tr


class Command(Record, frozen=True):
    """``id`` is the name of the method of the main window that does it (with ``do_`` before it)."""

    id: str
    words: str
    keys: str = ""
    menu: str = ""
    gap: bool = False  # a line before it in its menu


#: Commands whose keys are caught where the focus is: text fields and buttons need the usual ones themselves.
CAUGHT = ("play", "step_back", "step_on")

STATIONS = (
    ("frames", tr("Frames")),
    ("routes", tr("Routes")),
    ("pairs", tr("Pairs")),
    ("timing", tr("Timing")),
    ("loops", tr("Loops")),
    ("rehearse", tr("Rehearse")),
    ("handoff", tr("Hand-off")),
)

COMMANDS = (
    Command("new", tr("New project"), "Ctrl+N", tr("File")),
    Command("open", tr("Open…"), "Ctrl+O", tr("File")),
    Command("save", tr("Save"), "Ctrl+S", tr("File"), True),
    Command("save_as", tr("Save as…"), "Ctrl+Shift+S", tr("File")),
    Command("versions", tr("Versions…"), "", tr("File")),
    Command("import", tr("Import screens…"), "Ctrl+I", tr("File"), True),
    Command("open_demo", tr("Open the demo"), "", tr("File"), True),
    Command("quit", tr("Quit"), "Ctrl+Q", tr("File"), True),
    Command("undo", tr("Undo"), "Ctrl+Z", tr("Edit")),
    Command("redo", tr("Redo"), "Ctrl+Shift+Z", tr("Edit")),
    Command("next_state", tr("Next state of this frame"), "Ctrl+Shift+N", tr("Edit"), True),
    Command("remove", tr("Remove what is chosen"), "", tr("Edit")),
    Command("save_preset", tr("Save the chosen motion as preset…"), "Ctrl+Shift+P", tr("Edit"), True),
    Command("play", tr("Play or stop"), "Space", tr("View")),
    Command("step_back", tr("One frame back"), ",", tr("View")),
    Command("step_on", tr("One frame on"), ".", tr("View")),
    Command("shelf", tr("Shelf"), "Ctrl+Shift+F", tr("View"), True),
    Command("checks", tr("Checks"), "Ctrl+Shift+C", tr("View")),
    Command("find", tr("Find…"), "Ctrl+K", tr("View")),
    Command("close_part", tr("Out of the open part"), "Ctrl+Shift+Return", tr("View"), True),
    Command("dark", tr("Dark or light"), "Ctrl+Shift+D", tr("View"), True),
    Command("settings", tr("Settings…"), "Ctrl+Alt+S", tr("View")),
    Command("guide", tr("Guide: a first transition"), "", tr("Help")),
    Command("keys", tr("Keys here"), "?", tr("Help")),
    Command("words", tr("Words…"), "F1", tr("Help")),
)
