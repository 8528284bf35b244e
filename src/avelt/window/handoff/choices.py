"""What is chosen in Hand-off, remembered for each project."""

from __future__ import annotations

import msgspec

from avelt.core.handoff.delivery import Wanted
from avelt.deliver.kinds import BY_KEY
from avelt.window.common.remembered import Remembered


class Choices(msgspec.Struct, frozen=True):
    """The subject (its key; empty: the chosen route), kinds that are ticked, the one that is looked at, the folder, and
    how deliveries shall be."""

    subject: str = ""
    ticked: tuple[str, ...] = ("css", "gif", "spec")
    kind: str = "css"
    folder: str = "~"
    wanted: Wanted = Wanted()


def remembered(memory: Remembered, project: str) -> Choices:
    """How it was left; the usual where nothing is known, or what is known is none."""
    try:
        found = msgspec.json.decode(memory.text(_key(project), "{}"), type=Choices)
    except (msgspec.DecodeError, UnicodeDecodeError):
        return Choices()
    if found.kind not in BY_KEY or any(kind not in BY_KEY for kind in found.ticked):
        return Choices(folder=found.folder)
    return found


def remember(memory: Remembered, project: str, choices: Choices) -> None:
    """Keep it."""
    memory.keep(_key(project), msgspec.json.encode(choices).decode())


def _key(project: str) -> str:
    return f"handoff {project}"
