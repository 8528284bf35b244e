"""Every command of the window, declared once. Menus, shortcuts, Find and the docs are made from this table."""

from __future__ import annotations

from avelt.core.record import Record


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
    ("frames", "Frames"),
    ("routes", "Routes"),
    ("pairs", "Pairs"),
    ("timing", "Timing"),
    ("loops", "Loops"),
    ("rehearse", "Rehearse"),
    ("handoff", "Hand-off"),
)

COMMANDS = (
    Command("new", "New project", "Ctrl+N", "File"),
    Command("open", "Open…", "Ctrl+O", "File"),
    Command("save", "Save", "Ctrl+S", "File", True),
    Command("save_as", "Save as…", "Ctrl+Shift+S", "File"),
    Command("versions", "Versions…", "", "File"),
    Command("import", "Import screens…", "Ctrl+I", "File", True),
    Command("open_demo", "Open the demo", "", "File", True),
    Command("quit", "Quit", "Ctrl+Q", "File", True),
    Command("undo", "Undo", "Ctrl+Z", "Edit"),
    Command("redo", "Redo", "Ctrl+Shift+Z", "Edit"),
    Command("next_state", "Next state of this frame", "Ctrl+Shift+N", "Edit", True),
    Command("remove", "Remove what is chosen", "", "Edit"),
    Command("save_preset", "Save the chosen motion as preset…", "Ctrl+Shift+P", "Edit", True),
    Command("play", "Play or stop", "Space", "View"),
    Command("step_back", "One frame back", ",", "View"),
    Command("step_on", "One frame on", ".", "View"),
    Command("shelf", "Shelf", "Ctrl+Shift+F", "View", True),
    Command("checks", "Checks", "Ctrl+Shift+C", "View"),
    Command("find", "Find…", "Ctrl+K", "View"),
    Command("close_part", "Out of the open part", "Ctrl+Shift+Return", "View", True),
    Command("dark", "Dark or light", "Ctrl+Shift+D", "View", True),
    Command("settings", "Settings…", "Ctrl+Alt+S", "View"),
    Command("guide", "Guide: a first transition", "", "Help"),
    Command("keys", "Keys here", "?", "Help"),
    Command("words", "Words…", "F1", "Help"),
)
