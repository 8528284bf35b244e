"""How each project was left: station, frame and route, zoom; and the files that were open last."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec

from avelt.window.common.remembered import Remembered

MOST_RECENT = 12
_MOST_LEFT = 60


def recent(memory: Remembered) -> list[Path]:
    """The project files that were open last and are still there, the newest first."""
    return [path for path in map(Path, _read(memory, "recent", list)) if path.is_file()]


def was_open(memory: Remembered, path: Path) -> None:
    """A file was opened or saved."""
    now = str(path.resolve())
    kept = [now, *(other for other in _read(memory, "recent", list) if other != now)][:MOST_RECENT]
    memory.keep("recent", msgspec.json.encode(kept).decode())


def left(memory: Remembered, path: Path) -> dict[str, Any]:
    """How a project was left; empty when nothing is known."""
    found = _read(memory, "left", dict).get(str(path.resolve()), {})
    return found if isinstance(found, dict) else {}


def leave(memory: Remembered, path: Path, how: dict[str, Any]) -> None:
    """A project is left."""
    known = _read(memory, "left", dict)
    known.pop(str(path.resolve()), None)
    known[str(path.resolve())] = how
    memory.keep("left", msgspec.json.encode(dict(list(known.items())[-_MOST_LEFT:])).decode())


def _read(memory: Remembered, name: str, kind: type) -> Any:
    try:
        found = msgspec.json.decode(memory.text(name, "[]" if kind is list else "{}"))
    except (ValueError, msgspec.DecodeError):
        return kind()
    if isinstance(found, list) and kind is list:
        return [entry for entry in found if isinstance(entry, str)]
    return found if isinstance(found, kind) else kind()
