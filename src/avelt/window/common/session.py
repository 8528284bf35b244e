"""How each project was left: station, frame and route, zoom; and the files that were open last."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

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
    memory.keep("recent", json.dumps(kept))


def left(memory: Remembered, path: Path) -> dict[str, Any]:
    """How a project was left; empty when nothing is known."""
    found = _read(memory, "left", dict).get(str(path.resolve()), {})
    return found if isinstance(found, dict) else {}


def leave(memory: Remembered, path: Path, how: dict[str, Any]) -> None:
    """A project is left."""
    known = _read(memory, "left", dict)
    known.pop(str(path.resolve()), None)
    known[str(path.resolve())] = how
    memory.keep("left", json.dumps(dict(list(known.items())[-_MOST_LEFT:])))


def _read(memory: Remembered, name: str, kind: type) -> Any:
    try:
        found = json.loads(memory.text(name, json.dumps(kind())))
    except ValueError:
        return kind()
    if isinstance(found, list) and kind is list:
        return [entry for entry in found if isinstance(entry, str)]
    return found if isinstance(found, kind) else kind()
