"""The shelf of a team: joining one, leaving it, and finding presets on all shelves."""

from __future__ import annotations

import shutil
from pathlib import Path
from typing import Literal
from urllib.parse import urlsplit

from avelt.core.errors import EditError, NotFound
from avelt.core.presets.shelf import Listing, Place, Shelf
from avelt.core.presets.team_state import STATE, Progress, State, TeamShelf, read_state
from avelt.core.presets.values import Preset
from avelt.core.words import tr


def team_folder(shelf: Shelf) -> Path:
    """Where what is known of the team's shelf is kept: beside the person's own."""
    return shelf.folder.parent / "team"


def watched(shelf: Shelf) -> tuple[Path, ...]:
    """The folders in which something changes when the team's shelf does, in whatever window."""
    folder = team_folder(shelf)
    return folder, *folder.glob("*.git/refs/*")


def team_of(shelf: Shelf) -> TeamShelf | None:
    """The team's shelf that was joined; ``None`` when none was."""
    folder = team_folder(shelf)
    state = read_state(folder)
    return None if state is None else _opened(folder, state, shelf)


def joined(shelf: Shelf) -> TeamShelf:
    """The same; ``NotFound`` in a sentence when none was."""
    found = team_of(shelf)
    if found is None:
        raise NotFound(tr("No team's shelf was joined yet: avelt shelf join URL or FOLDER."))
    return found


def _opened(folder: Path, state: State, shelf: Shelf) -> TeamShelf:
    if state.kind == "folder":
        from avelt.core.presets.folder_shelf import FolderShelf

        return FolderShelf(folder, state, shelf)
    from avelt.core.presets.git_shelf import GitShelf

    return GitShelf(folder, state)


def join(shelf: Shelf, where: str, name: str = "", progress: Progress = lambda words: None) -> TeamShelf:
    """Join a shelf: a git repository by its address or folder, or a plain folder. It is looked at once."""
    folder = team_folder(shelf)
    if read_state(folder) is not None:
        raise EditError(tr("Another shelf was joined already: leave it first."))
    if "://" in where and urlsplit(where).password:
        raise EditError(tr("The address has a password in it: leave that to git's own credentials."))
    state = State(_place(where), _kind(where), name)
    shutil.rmtree(folder, ignore_errors=True)  # a join or a leaving that was killed may have left something
    made = _opened(folder, state, shelf)
    try:
        made.sync(progress)
    except Exception:
        (folder / STATE).unlink(missing_ok=True)
        made.leave()
        raise
    return made


def _place(where: str) -> str:
    """An address as it is, a folder as a whole path."""
    return where if _is_address(where) else str(Path(where).expanduser().resolve())


def _is_address(where: str) -> bool:
    """Whether it is an address: one of a scheme, or as ssh has them (somebody@machine:path)."""
    return "://" in where or (":" in where and not Path(where).exists())


def _kind(where: str) -> Literal["git", "folder"]:
    """What it is: a folder is a repository when it has what repositories have."""
    if _is_address(where):
        return "git"
    folder = Path(where).expanduser()
    if not folder.is_dir():
        raise NotFound(tr("There is no such folder."), where)
    bare = (folder / "objects").is_dir() and (folder / "HEAD").is_file()
    return "git" if bare or (folder / ".git").exists() else "folder"


def leave(shelf: Shelf) -> None:
    """Leave it: what was published stays there, what is mine stays here."""
    team = joined(shelf)
    (team_folder(shelf) / STATE).unlink(missing_ok=True)  # first: without it there is none, whatever is left of it
    team.leave()


def find_preset(shelf: Shelf, name: str, where: Place | Literal["team"] = "") -> Preset:
    """The preset of a name: of the team before mine, of mine before what is built in, unless it is said where."""
    if where in ("", "team"):
        for preset in published(shelf):
            if preset.name.casefold() == name.strip().casefold():
                return preset
    if where == "team":
        raise NotFound(tr("There is no preset {name!r} on the team's shelf.", name=name))
    return shelf.find(name, where)


def listed(shelf: Shelf) -> Listing:
    """The presets of the team and what is none; nothing when no shelf was joined."""
    found = team_of(shelf)
    if found is None:
        return Listing(())
    listing = found.read()
    found.close()
    return listing


def published(shelf: Shelf) -> tuple[Preset, ...]:
    """The presets of the team."""
    return listed(shelf).presets
