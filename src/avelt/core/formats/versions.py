"""Earlier versions of project files: kept at each save, fewer the older they are.

Of the last hour one each five minutes is kept, of the last day one an hour, of the last week one a day. Each file has a
folder of its own, named by its path; what is in it are whole project files, named by when they were saved.
"""

from __future__ import annotations

import contextlib
import hashlib
import os
import shutil
from collections.abc import Iterable
from pathlib import Path

from avelt.core.errors import FileError
from avelt.core.record import Record
from avelt.core.words import tr

#: Up to which age (s) one version is kept in how long a stretch (s).
SPANS = ((3_600.0, 300.0), (86_400.0, 3_600.0), (7 * 86_400.0, 86_400.0))
MOST_BYTES = 200 * 2**20  # that the versions of one file take
_ENDING = ".avelt"


class Version(Record, frozen=True):
    """One version: where it lies, and when it was saved (s since 1970)."""

    path: Path
    at: float
    size: int


def default_folder() -> Path:
    """Where versions are kept: under the XDG state folder."""
    from platformdirs import user_state_path

    return Path(user_state_path("avelt", appauthor=False)) / "versions"


def folder_of(folder: Path, file: Path) -> Path:
    """The folder of a file's versions."""
    return folder / hashlib.sha256(os.fsencode(os.path.realpath(file))).hexdigest()[:24]


def versions(folder: Path, file: Path) -> tuple[Version, ...]:
    """A file's versions, the newest first."""
    found = []
    with contextlib.suppress(OSError):
        for entry in os.scandir(folder_of(folder, file)):
            name = entry.name.removesuffix(_ENDING)
            if entry.name.endswith(_ENDING) and name.isdigit():
                found.append(Version(Path(entry.path), int(name) / 1000.0, entry.stat().st_size))
    return tuple(sorted(found, key=lambda version: -version.at))


def keep(folder: Path, file: Path, at: float) -> Version | None:
    """Keep the file as it lies on the disk now, as of a time (s); ``None`` when it is not there or is kept already.

    ``FileError`` when it cannot be written: saving goes on without.
    """
    try:
        size = file.stat().st_size
    except OSError:
        return None
    known = versions(folder, file)
    if known and known[0].size == size and _same(known[0].path, file):
        return None
    home = folder_of(folder, file)
    target = home / f"{max(0, round(at * 1000))}{_ENDING}"
    try:
        home.mkdir(parents=True, exist_ok=True)
        part = target.with_suffix(".part")
        shutil.copyfile(file, part)
        os.replace(part, target)
    except OSError as error:
        raise FileError(
            tr("The version cannot be kept: {strerror}.", strerror=error.strerror or error), str(home)
        ) from None
    tidy(folder, file, at)
    return Version(target, at, size)


def _same(one: Path, other: Path) -> bool:
    try:
        return one.read_bytes() == other.read_bytes()
    except OSError:
        return False


def tidy(folder: Path, file: Path, now: float) -> None:
    """Take out the versions that are not wanted any more."""
    known = versions(folder, file)
    wanted = wanted_of([version.at for version in known], now)
    room = MOST_BYTES
    for version in known:
        room -= version.size
        if version.at not in wanted or (room < 0 and version is not known[0]):
            with contextlib.suppress(OSError):
                version.path.unlink()


def wanted_of(times: Iterable[float], now: float) -> set[float]:
    """The times (s) of versions that are kept: the newest always, and the first of each stretch.

    >>> sorted(wanted_of([0.0, 10.0, 20.0, 400.0], 450.0))
    [0.0, 400.0]
    """
    kept: set[float] = set()
    seen: set[tuple[float, int]] = set()
    ordered = sorted(times)
    for at in ordered:
        age = now - at
        stretch = next((step for most, step in SPANS if age <= most), None)
        if stretch is None:
            continue
        key = stretch, int(at // stretch)
        if key not in seen:
            seen.add(key)
            kept.add(at)
    if ordered:
        kept.add(ordered[-1])
    return kept
