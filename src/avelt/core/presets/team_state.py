"""What a team's shelf is, whatever it lies on: where it is, what waits, what is to be settled, who made what."""

from __future__ import annotations

import fcntl
from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import Literal, Protocol

import msgspec

from avelt.core.errors import AveltError, FileError, FormatError
from avelt.core.formats.disk import read_bytes, write_atomically
from avelt.core.model.limits import MAX_PRESET_BYTES
from avelt.core.model.value import Value
from avelt.core.presets.shelf import Listing
from avelt.core.presets.values import Preset
from avelt.core.record import Record
from avelt.core.words import tr

STATE, _LOCK = "shelf.json", "lock"
Keep = Literal["mine", "theirs", "both"]
Progress = Callable[[str], None]


class Offline(AveltError):
    """The shared shelf cannot be reached; everything else works on."""


class Settled(Value, frozen=True):
    """A choice between two versions of one file, which are named so that it holds for these only."""

    keep: Keep
    mine: str
    theirs: str


class State(Value, frozen=True):
    """What is remembered of a team's shelf between runs. Nothing secret is in it.

    ``seen``: in a plain folder, which content of each file was there last. ``rewritten``: the head of a history that is
    not a continuation of ours, until somebody says what shall be. ``removed``: files that are to be taken back there.
    """

    where: str
    kind: Literal["git", "folder"]
    name: str = ""
    branch: str = "main"
    last_sync: str = ""
    settled: dict[str, Settled] = {}
    seen: dict[str, str] = {}
    removed: tuple[str, ...] = ()
    rewritten: str = ""


class Conflict(Record, frozen=True):
    """Two versions of one preset; ``None`` where it was taken back."""

    name: str
    file: str
    mine: Preset | None
    theirs: Preset | None


class Version(Record, frozen=True):
    """One version of a preset: its id, who made it and when (ISO 8601, UTC), and what it was called then."""

    version: str
    who: str
    when: str
    name: str


class Status(Record, frozen=True):
    """How it stands: ``ahead`` and ``behind`` are versions, ``waiting`` the presets that wait to be sent."""

    where: str
    kind: Literal["git", "folder"]
    ahead: int
    behind: int
    waiting: tuple[str, ...]
    conflicts: tuple[Conflict, ...]
    last_sync: str
    rewritten: bool = False

    @property
    def words(self) -> str:
        """The state in words."""
        parts = []
        if self.rewritten:
            parts.append(tr("the history there was rewritten: say which shall be"))
        if self.waiting:
            parts.append(tr("{n} wait to be sent", "{n} waits to be sent", len(self.waiting)))
        if self.behind:
            parts.append(tr("{behind} to take", behind=self.behind))
        if self.conflicts:
            parts.append(tr("{count} to settle", count=len(self.conflicts)))
        return ", ".join(parts) if parts else tr("all is the same here and there")


class TeamShelf(Protocol):
    """What both kinds of shelf can do. ``AveltError`` in one sentence when it cannot be."""

    state: State

    def read(self) -> Listing:
        """The presets on it, as they were last seen, with what waits to be sent."""

    def publish(self, presets: list[Preset]) -> None:
        """Put presets on it: they wait to be sent."""

    def take_back(self, name: str) -> None:
        """Take a preset off it, for all."""

    def sync(self, progress: Progress) -> Status:
        """Send what waits and take what is new."""

    def status(self) -> Status:
        """How it stands, without asking anybody."""

    def history(self, name: str) -> tuple[Version, ...]:
        """The versions of a preset, newest first."""

    def version(self, name: str, version: str) -> Preset:
        """A preset as it was."""

    def restore(self, name: str, version: str) -> None:
        """An older version is put on it as a new one."""

    def settle(self, name: str, keep: Keep) -> None:
        """Choose between two versions."""

    def settle_history(self, keep: Keep) -> None:
        """Choose between two histories."""

    def leave(self) -> None:
        """Forget it here."""

    def close(self) -> None:
        """Let its files go."""


def read_state(folder: Path) -> State | None:
    """What is remembered; ``None`` when no shelf was joined."""
    path = folder / STATE
    if not path.is_file():
        return None
    try:
        return msgspec.json.decode(read_bytes(path, MAX_PRESET_BYTES), type=State)
    except msgspec.DecodeError as error:
        raise FormatError(
            tr("What is remembered of the team's shelf is broken: {error}.", error=error), str(path)
        ) from None


@contextmanager
def alone(folder: Path) -> Iterator[None]:
    """Only one window of this machine changes what is known of the team's shelf at a time; the others wait the moment
    that it takes. The system lets go of the lock of a program that is killed. ``FileError`` where nothing can be
    written."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
        lock = (folder / _LOCK).open("w")
    except OSError as error:
        raise FileError(
            tr("The team's shelf cannot be kept here: {strerror}.", strerror=error.strerror), str(folder)
        ) from None
    with lock:
        with suppress(OSError):  # some network file systems know no locks
            fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def remembered(folder: Path, state: State, changes: Mapping[str, object]) -> State:
    """What is remembered with some of it changed: of that what is on the disk, where another window may have written.
    To be called ``alone``."""
    made = msgspec.structs.replace(read_state(folder) or state, **changes)
    write_state(folder, made)
    return made


def write_state(folder: Path, state: State) -> None:
    """Remember it."""
    folder.mkdir(parents=True, exist_ok=True)
    write_atomically(folder / STATE, msgspec.json.format(msgspec.json.encode(state), indent=1))
