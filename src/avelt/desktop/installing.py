"""Putting the files into a data folder, and taking them out again."""

from __future__ import annotations

import shutil
import subprocess
import sys
from collections.abc import Mapping
from pathlib import Path

from avelt.core.errors import FileError
from avelt.core.formats.disk import write_atomically

#: What keeps its own index of a folder, where it is there.
_INDEXES = (
    ("update-desktop-database", "applications"),
    ("update-mime-database", "mime"),
    ("gtk-update-icon-cache", "icons/hicolor"),
)


def data_folder() -> Path:
    """This person's data folder (XDG)."""
    from platformdirs import user_data_path

    return Path(user_data_path())


def program_path() -> str:
    """How this very program is called, so that a menu finds it: its whole path."""
    called = Path(sys.argv[0])
    if called.name == "avelt" and called.exists():
        return str(called.resolve())
    return shutil.which("avelt") or "avelt"


def install(files: Mapping[str, bytes], folder: Path) -> list[Path]:
    """Write the files below a folder; gives their paths."""
    made = []
    for name, data in sorted(files.items()):
        path = folder / name
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise FileError(f"The folder cannot be made: {error.strerror or error}.", str(path.parent)) from None
        write_atomically(path, data)
        made.append(path)
    refresh(folder)
    return made


def remove(names: Mapping[str, bytes], folder: Path) -> list[Path]:
    """Take them out again; gives those that were there."""
    gone = []
    for name in sorted(names):
        path = folder / name
        try:
            path.unlink()
        except FileNotFoundError:
            continue
        except OSError as error:
            raise FileError(f"The file cannot be removed: {error.strerror or error}.", str(path)) from None
        gone.append(path)
    refresh(folder)
    return gone


def refresh(folder: Path) -> None:
    """Let the desktop take notice."""
    for program, below in _INDEXES:
        found = shutil.which(program)
        if found is not None and (folder / below).is_dir():
            subprocess.run([found, str(folder / below)], capture_output=True, check=False, timeout=60)
