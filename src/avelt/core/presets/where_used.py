"""In which project files presets are used (linked): what is remembered of files that were saved or opened here."""

from __future__ import annotations

from collections import Counter
from pathlib import Path

import msgspec

from avelt.core.errors import AveltError
from avelt.core.formats.disk import read_bytes, write_atomically
from avelt.core.model.parts import all_links
from avelt.core.model.values import Project

_MOST_BYTES, _MOST_FILES = 4_000_000, 2_000
_Counts = dict[str, dict[str, int]]  # by file, how often each preset


def default_file() -> Path:
    """Where it is remembered: under the XDG state folder."""
    from platformdirs import user_state_path

    return Path(user_state_path("avelt", appauthor=False)) / "presets-used.json"


def counts_in(project: Project) -> dict[str, int]:
    """How often each preset is linked to in a project and its parts."""
    return dict(Counter(link.preset for link in all_links(project)))


def remember(path: Path, project: Project, memory: Path | None = None) -> None:
    """A project was saved or opened: which presets it links to. What cannot be remembered is no trouble of a save."""
    memory = memory or default_file()
    known, place, counts = _read(memory), str(path.absolute()), counts_in(project)
    if known.get(place, {}) == counts:
        return
    rest = {file: found for file, found in known.items() if file != place}
    made = {place: counts, **rest} if counts else rest
    try:
        memory.parent.mkdir(parents=True, exist_ok=True)
        write_atomically(memory, msgspec.json.encode(dict(list(made.items())[:_MOST_FILES])))
    except (OSError, AveltError):
        return


def used(memory: Path | None = None) -> dict[str, dict[str, int]]:
    """By preset, the files that use it and how often. Files that are gone are not told."""
    made: dict[str, dict[str, int]] = {}
    for place, counts in _read(memory or default_file()).items():
        if Path(place).is_file():
            for name, count in counts.items():
                made.setdefault(name, {})[place] = count
    return made


def _read(memory: Path) -> _Counts:
    if not memory.is_file():
        return {}
    try:
        return msgspec.json.decode(read_bytes(memory, _MOST_BYTES), type=_Counts)
    except (AveltError, msgspec.DecodeError):
        return {}
