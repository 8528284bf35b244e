"""Every command that a key can be for, in one list: for the editor of keys, the sheet of keys, and conflicts."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cache

from PySide6.QtGui import QKeySequence

from avelt.core.record import Record
from avelt.window.shell.commands import COMMANDS, STATIONS

EVERYWHERE = "everywhere"


class KeyRow(Record, frozen=True):
    """One command: its name in the settings, where its keys count, what it does, and its usual keys."""

    ident: str
    scope: str
    words: str
    usual: str


@cache
def rows() -> tuple[KeyRow, ...]:
    """All of them."""
    from avelt.window.frames.actions import ACTIONS
    from avelt.window.shell.station_keys import STATION_KEYS

    made = [KeyRow(command.id, EVERYWHERE, command.words, command.keys) for command in COMMANDS]
    made += [KeyRow(f"go {ident}", EVERYWHERE, word, f"Ctrl+{k}") for k, (ident, word) in enumerate(STATIONS, 1)]
    made += [KeyRow(f"frames: {action.id}", "frames", action.words, action.keys) for action in ACTIONS]
    for ident, keys in STATION_KEYS.items():
        made += [KeyRow(f"{ident}: {key.words}", ident, key.words, key.keys) for key in keys]
    return tuple(made)


def conflicts(table: Sequence[KeyRow], keys_of: Callable[[str, str], str]) -> dict[str, tuple[str, ...]]:
    """By the name of each command whose keys are another's too, where both count: what the others do."""
    by_keys: dict[str, list[KeyRow]] = {}
    for row in table:
        if keys := written(keys_of(row.ident, row.usual)):
            by_keys.setdefault(keys, []).append(row)
    found: dict[str, tuple[str, ...]] = {}
    for sharing in by_keys.values():
        for row in sharing:
            others = tuple(o.words for o in sharing if o is not row and _meet(row.scope, o.scope))
            if others:
                found[row.ident] = others
    return found


def written(keys: str) -> str:
    """Keys in one spelling."""
    return QKeySequence(keys).toString() or keys


def _meet(one: str, other: str) -> bool:
    return one == other or EVERYWHERE in (one, other)
