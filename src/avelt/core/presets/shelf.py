"""The shelf: one file a preset, in a folder of the person's own (mine) and in one that comes with Avelt (built in)."""

from __future__ import annotations

import math
import os
import re
import time
from collections.abc import Collection
from functools import cache
from hashlib import sha256
from pathlib import Path
from typing import Literal

from msgspec.structs import replace

from avelt.core.errors import AveltError, FileError, NotFound
from avelt.core.formats.disk import read_bytes, write_atomically
from avelt.core.model.limits import MAX_PRESET_BYTES
from avelt.core.presets.values import ENDING, Preset, from_json, to_json
from avelt.core.record import Record
from avelt.core.words import tr

#: Where presets lie (empty: anywhere), and what becomes of two of one name.
Place = Literal["", "built-in", "mine"]
Same = Literal["keep", "replace", "skip"]


def default_folder() -> Path:
    """Where presets are kept: under the XDG data folder."""
    from platformdirs import user_data_path

    return Path(user_data_path("avelt", appauthor=False)) / "presets"


class Trouble(Record, frozen=True):
    """A file that is no preset, and why."""

    file: str
    says: str


class Listing(Record, frozen=True):
    """The presets of a folder, by name, and what is wrong with each file that is none."""

    presets: tuple[Preset, ...]
    troubles: tuple[Trouble, ...] = ()
    more: bool = False  # files are there that were not read yet


@cache
def built_in() -> tuple[Preset, ...]:
    """The catalogue that comes with Avelt, by name."""
    found = [from_json(path.read_bytes(), path.name) for path in catalogue_folder().glob(f"*{ENDING}")]
    return tuple(sorted(found, key=lambda preset: preset.name.casefold()))


def catalogue_folder() -> Path:
    """Where the files of the catalogue lie."""
    return Path(__file__).resolve().parents[2] / "catalogue"


class Shelf:
    """A folder of presets. It looks at the folder each time, as other programs may write there; a file that is as it
    was is not read again, and gives the very same preset."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or default_folder()
        self._known: dict[str, tuple[tuple[int, ...], Preset | Trouble]] = {}

    def read(self, within: float = math.inf) -> Listing:
        """All presets, sorted by name. Files that are not known yet are read for so many seconds; the next call goes on
        from there."""
        until = time.monotonic() + within
        more = False
        presets: list[Preset] = []
        troubles: list[Trouble] = []
        known: dict[str, tuple[tuple[int, ...], Preset | Trouble]] = {}
        for found in self._files():
            mark, before = _mark(found), self._known.get(found.name)
            if before is not None and mark and before[0] == mark:
                entry = before[1]
            elif time.monotonic() < until:
                entry = _read(Path(found.path))
            else:
                more = True
                continue
            known[found.name] = mark, entry
            if isinstance(entry, Preset):
                presets.append(entry)
            else:
                troubles.append(entry)
        self._known = known
        return Listing(tuple(sorted(presets, key=lambda p: p.name.casefold())), tuple(troubles), more)

    def _files(self) -> list[os.DirEntry[str]]:
        """The files of presets, by name."""
        try:
            with os.scandir(self.folder) as entries:
                return sorted((e for e in entries if e.name.endswith(ENDING)), key=lambda entry: entry.name)
        except OSError:
            return []

    def find(self, name: str, where: Place = "") -> Preset:
        """The preset of this name, of this shelf before the catalogue; the nearest is suggested."""
        mine = self.read().presets if where != "built-in" else ()
        presets = (*mine, *(built_in() if where != "mine" else ()))
        for preset in presets:
            if preset.name.casefold() == name.strip().casefold():
                return preset
        from rapidfuzz import process, utils

        names = [preset.name for preset in presets]
        near = process.extractOne(name, names, processor=utils.default_process, score_cutoff=60)
        raise NotFound(
            tr("There is no preset {name!r}.", name=name),
            hint=tr("Did you mean {near!r}?", near=near[0]) if near else "",
        )

    def take(self, preset: Preset, same: Same = "keep") -> tuple[Preset | None, str]:
        """Take a preset in from elsewhere. What is there already (the same but for its name) is not taken twice; of the
        same name and other content: keep both, replace, or skip. Gives what was written, and what happened in words."""
        mine = self.read().presets
        for known in mine:
            if replace(known, name="") == replace(preset, name=""):
                if known.name == preset.name:
                    return None, tr("{preset} is there already.", preset=preset.name)
                return None, tr("{preset} is there already, as {known}.", preset=preset.name, known=known.name)
        taken = {known.name.casefold() for known in mine}
        if preset.name.casefold() in taken and same == "skip":
            return None, tr("{preset} is left as it was.", preset=preset.name)
        if preset.name.casefold() in taken and same == "keep":
            number = next(n for n in range(2, len(taken) + 3) if f"{preset.name} {n}".casefold() not in taken)
            preset = replace(preset, name=f"{preset.name} {number}")
        self.keep(preset)
        return preset, tr("{preset} is on the shelf.", preset=preset.name)

    def keep(self, preset: Preset) -> Path:
        """Write a preset; one of the same name is replaced, and a file that holds another one never is.

        ``FormatError`` when what would be written could not be read again: then nothing is.
        """
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise FileError(
                tr("The shelf's folder cannot be made: {strerror}.", strerror=error.strerror), str(self.folder)
            ) from None
        data = to_json(preset)
        from_json(data, preset.name)
        path = self._path_of(preset.name) or self.folder / file_name(preset.name, self._taken())
        write_atomically(path, data)
        return path

    def _path_of(self, name: str) -> Path | None:
        """The file that holds the preset of a name; ``None`` when none does. Files that are named after something else
        are looked at only where they were read before."""
        stem = file_name(name).removesuffix(ENDING)
        for found in self._files():
            _, entry = self._known.get(found.name, ((), None))
            if found.name.startswith(stem):
                entry = _read(Path(found.path))
            if isinstance(entry, Preset) and entry.name.casefold() == name.casefold():
                return Path(found.path)
        return None

    def _taken(self) -> set[str]:
        """The names of all files on the shelf, also of those that are no presets."""
        return {entry.name for entry in self._files()}

    def remove(self, name: str) -> None:
        """Take a preset off the shelf."""
        preset = self.find(name, "mine")
        try:
            (self._path_of(preset.name) or self.folder / file_name(preset.name)).unlink()
        except OSError as error:
            raise FileError(
                tr("The preset cannot be removed: {strerror}.", strerror=error.strerror), preset.name
            ) from None


def _mark(entry: os.DirEntry[str]) -> tuple[int, ...]:
    """By what a file is known to be as it was; empty when that cannot be said."""
    try:
        found = entry.stat()
    except OSError:
        return ()
    return found.st_mtime_ns, found.st_size, found.st_ino, found.st_ctime_ns


def _read(path: Path) -> Preset | Trouble:
    try:
        return read_preset(path)
    except AveltError as error:
        return Trouble(path.name, str(error))


def file_name(name: str, taken: Collection[str] = ()) -> str:
    """A preset's file name: its name without what file systems do not like.

    Names that differ in such signs only would share a file: where the file name is ``taken``, the first digits of the
    name's SHA-256 follow.
    """
    plain = re.sub(r"[^\w -]+", "", name, flags=re.UNICODE).strip().replace(" ", "-").lower()[:80] or "preset"
    if f"{plain}{ENDING}" not in taken:
        return f"{plain}{ENDING}"
    digits = sha256(name.casefold().encode("utf-8", "surrogatepass")).hexdigest()
    return next(made for n in range(6, 65) if (made := f"{plain}-{digits[:n]}{ENDING}") not in taken)


def read_preset(path: Path) -> Preset:
    """A preset from a file."""
    return from_json(read_bytes(path, MAX_PRESET_BYTES), str(path))
