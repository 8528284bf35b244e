"""Writes docs/keys.md, every command with its keys, from the tables: ``python -m avelt.tools.keys``."""

from __future__ import annotations

import os
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from avelt.window.frames.actions import ACTIONS, MENUS
from avelt.window.frames.handles import HINTS
from avelt.window.frames.tools import TOOLS
from avelt.window.shell.commands import COMMANDS, STATIONS
from avelt.window.shell.station_keys import STATION_KEYS

PATH = Path(__file__).resolve().parents[3] / "docs" / "keys.md"


def text() -> str:
    """The whole page."""
    lines = [
        "# Commands and keys",
        "",
        "Made from the tables by `python -m avelt.tools.keys`.",
        "",
        "## Everywhere",
        "",
    ]
    lines += ["| command | keys |", "| --- | --- |"]
    lines += [f"| {c.words} | {c.keys} |" for c in COMMANDS]
    lines += [f"| {word} | Ctrl+{k} |" for k, (_, word) in enumerate(STATIONS, 1)]
    for menu in MENUS:
        lines += ["", f"## In Frames: {menu}", "", "| command | keys |", "| --- | --- |"]
        lines += [f"| {a.words} | {a.keys} |" for a in ACTIONS if a.menu == menu]
    for ident, keys in STATION_KEYS.items():
        lines += ["", f"## In {ident.capitalize()}", "", "| command | keys |", "| --- | --- |"]
        lines += [f"| {key.words} | {key.keys} |" for key in keys]
    lines += ["", "## Tools of Frames", "", "| tool | |", "| --- | --- |"]
    lines += [f"| {word} | {tip} |" for _, word, _, tip in TOOLS]
    lines += ["", "## Handles on the chosen layer", "", "| handle | |", "| --- | --- |"]
    lines += [f"| {kind} | {hint} |" for kind, hint in HINTS.items()]
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    PATH.write_text(text())
