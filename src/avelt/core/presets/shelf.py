"""The shelf on disk: one file a preset in a folder of the person's own."""

from __future__ import annotations

import re
from pathlib import Path

from avelt.core.errors import AveltError, FileError, NotFound
from avelt.core.formats.disk import read_bytes, write_atomically
from avelt.core.model.limits import MAX_PRESET_BYTES
from avelt.core.presets.values import ENDING, Preset, from_json, to_json
from avelt.core.record import Record


def default_folder() -> Path:
    """Where presets are kept: under the XDG data folder."""
    from platformdirs import user_data_path

    return Path(user_data_path("avelt", appauthor=False)) / "presets"


class Listing(Record, frozen=True):
    """The presets of a folder, by name, and a sentence for each file that is none."""

    presets: tuple[Preset, ...]
    troubles: tuple[str, ...]


class Shelf:
    """A folder of presets. It reads the folder each time: other programs may write there."""

    def __init__(self, folder: Path | None = None) -> None:
        self.folder = folder or default_folder()

    def read(self) -> Listing:
        """All presets, sorted by name."""
        presets: list[Preset] = []
        troubles: list[str] = []
        for path in sorted(self.folder.glob(f"*{ENDING}")) if self.folder.is_dir() else []:
            try:
                presets.append(read_preset(path))
            except AveltError as error:
                troubles.append(str(error))
        return Listing(tuple(sorted(presets, key=lambda p: p.name.casefold())), tuple(troubles))

    def find(self, name: str) -> Preset:
        """The preset of this name; the nearest is suggested."""
        presets = self.read().presets
        for preset in presets:
            if preset.name.casefold() == name.strip().casefold():
                return preset
        from rapidfuzz import process

        near = process.extractOne(name, [preset.name for preset in presets], score_cutoff=60)
        raise NotFound(f"There is no preset {name!r}.", hint=f"Did you mean {near[0]!r}?" if near else "")

    def keep(self, preset: Preset) -> Path:
        """Write a preset; one of the same name is replaced."""
        try:
            self.folder.mkdir(parents=True, exist_ok=True)
        except OSError as error:
            raise FileError(f"The shelf's folder cannot be made: {error.strerror}.", str(self.folder)) from None
        path = self.folder / file_name(preset.name)
        write_atomically(path, to_json(preset))
        return path

    def remove(self, name: str) -> None:
        """Take a preset off the shelf."""
        preset = self.find(name)
        try:
            (self.folder / file_name(preset.name)).unlink()
        except OSError as error:
            raise FileError(f"The preset cannot be removed: {error.strerror}.", preset.name) from None


def file_name(name: str) -> str:
    """A preset's file name: its name with what file systems do not like taken out."""
    plain = re.sub(r"[^\w -]+", "", name, flags=re.UNICODE).strip().replace(" ", "-").lower()
    return f"{plain[:80] or 'preset'}{ENDING}"


def read_preset(path: Path) -> Preset:
    """A preset from a file."""
    return from_json(read_bytes(path, MAX_PRESET_BYTES), str(path))
