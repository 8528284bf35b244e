"""A team's shelf in a plain folder that others can reach. What is published waits here until it is synced; what the
folder held last is kept here, so that everything works without it. It has no history: a git repository has."""

from __future__ import annotations

from datetime import UTC, datetime
from hashlib import sha256
from pathlib import Path

from msgspec.structs import replace

from avelt.core.errors import AveltError, EditError, FileError, NotFound
from avelt.core.formats.disk import read_bytes, write_atomically
from avelt.core.model.limits import MAX_PRESET_BYTES
from avelt.core.presets.shelf import Listing, Shelf, Trouble, file_name, read_preset
from avelt.core.presets.team_state import Conflict, Keep, Offline, Progress, State, Status, Version, alone, remembered
from avelt.core.presets.values import ENDING, Preset, from_json, to_json
from avelt.core.words import tr

_WAITING, _LAST = "waiting", tr("last seen")
_NO_HISTORY = tr("A plain folder keeps no history: a git repository does.")


class FolderShelf:
    """The shelf of ``state``; ``mine`` is where the version that lost is kept."""

    def __init__(self, folder: Path, state: State, mine: Shelf) -> None:
        self.folder, self.state, self.mine = folder, state, mine
        self.there = Path(state.where)

    def close(self) -> None:
        """Nothing is held open."""

    def _in(self, name: str) -> dict[str, Path]:
        """The preset files of one of the folders here, by name."""
        folder = self.folder / name
        return {path.name: path for path in sorted(folder.glob(f"*{ENDING}"))} if folder.is_dir() else {}

    def _there(self) -> dict[str, Path]:
        if not self.there.is_dir():
            raise Offline(tr("The team's folder cannot be reached."), str(self.there))
        return {path.name: path for path in sorted(self.there.glob(f"*{ENDING}")) if not path.is_symlink()}

    def read(self) -> Listing:
        """The presets on it as they were last seen, with what waits to be sent."""
        presets: list[Preset] = []
        troubles: list[Trouble] = []
        for name, path in (self._in(_LAST) | self._in(_WAITING)).items():
            if name in self.state.removed:
                continue
            try:
                presets.append(from_json(read_bytes(path, MAX_PRESET_BYTES), name))
            except AveltError as error:
                troubles.append(Trouble(name, str(error)))
        return Listing(tuple(sorted(presets, key=lambda preset: preset.name.casefold())), tuple(troubles))

    def _file_of(self, name: str) -> str:
        for file, path in (self._in(_LAST) | self._in(_WAITING)).items():
            preset = _known(path)
            if preset is not None and preset.name.casefold() == name.strip().casefold():
                return file
        raise NotFound(tr("There is no preset {name!r} on the team's shelf.", name=name))

    def publish(self, presets: list[Preset]) -> None:
        """Put presets with what waits to be sent."""
        for preset in presets:
            try:
                file = self._file_of(preset.name)
            except NotFound:
                file = file_name(preset.name, {*self._in(_LAST), *self._in(_WAITING)})
            self._write(_WAITING, file, to_json(preset))
            self._remember(removed=tuple(name for name in self.state.removed if name != file))

    def take_back(self, name: str) -> None:
        """Take a preset off it, for all: when it is synced."""
        file = self._file_of(name)
        self._in(_WAITING).get(file, self.folder / "none").unlink(missing_ok=True)
        if file in self._in(_LAST):
            self._remember(removed=tuple(dict.fromkeys((*self.state.removed, file))))

    def _write(self, where: str, file: str, data: bytes) -> None:
        (self.folder / where).mkdir(parents=True, exist_ok=True)
        write_atomically(self.folder / where / file, data)

    def _remember(self, **changes: object) -> None:
        with alone(self.folder):
            self.state = remembered(self.folder, self.state, changes)

    def sync(self, progress: Progress) -> Status:
        """Send what waits, where nobody changed it since; then see what is there."""
        there = self._there()
        progress(tr("Sending what waits"))
        for file, path in self._in(_WAITING).items():
            if self._clashes(file, there.get(file)):
                continue
            data = read_bytes(path, MAX_PRESET_BYTES)
            write_atomically(self.there / file, data)
            self._saw(file, data)
            path.unlink()
        for file in self.state.removed:
            if file in there and not self._clashes(file, there[file]):
                try:
                    there[file].unlink()
                except OSError as error:
                    raise FileError(
                        tr("It cannot be taken back: {strerror}.", strerror=error.strerror), str(there[file])
                    ) from None
        self._remember(removed=())
        progress(tr("Looking at what is new"))
        found = self._there()
        for file in self._in(_LAST).keys() - found.keys():
            (self.folder / _LAST / file).unlink(missing_ok=True)
        for file, path in found.items():
            try:
                data = read_bytes(path, MAX_PRESET_BYTES)
            except FileError:
                data = b""  # it is listed as what it is: no preset
            self._write(_LAST, file, data)
            if file not in self._in(_WAITING):
                self._saw(file, data)
        self._remember(last_sync=datetime.now(UTC).isoformat(timespec="seconds"))
        return self.status()

    def _saw(self, file: str, data: bytes) -> None:
        self._remember(seen=self.state.seen | {file: sha256(data).hexdigest()})

    def _clashes(self, file: str, path: Path | None) -> bool:
        """Whether a file there is neither what was seen last nor what waits here."""
        if path is None:
            return False
        try:
            data = read_bytes(path, MAX_PRESET_BYTES)
        except FileError:
            return True
        waits = self._in(_WAITING).get(file)
        if waits is not None and waits.read_bytes() == data:
            return False
        return self.state.seen.get(file) != sha256(data).hexdigest()

    def status(self) -> Status:
        """How it stands, as it was last seen."""
        waiting, last = self._in(_WAITING), self._in(_LAST)
        conflicts = []
        for file, path in waiting.items():
            if file in last and self._clashes(file, last[file]):
                ours, theirs = _known(path), _known(last[file])
                conflicts.append(Conflict(ours.name if ours is not None else file, file, ours, theirs))
        known = {file: _known(path) for file, path in (last | waiting).items()}
        names = [*waiting, *self.state.removed]
        titles = tuple(found.name if (found := known.get(name)) is not None else name for name in names)
        behind = self._behind(last)
        return Status(str(self.there), "folder", len(names), behind, titles, tuple(conflicts), self.state.last_sync)

    def _behind(self, last: dict[str, Path]) -> int:
        """How many files there are not as they were last seen; none where it cannot be reached."""
        try:
            there = self._there()
            names = there.keys() | last.keys()
            return sum(_bytes(there.get(name)) != _bytes(last.get(name)) for name in names)
        except (AveltError, OSError):
            return 0

    def settle(self, name: str, keep: Keep) -> None:
        """Choose between two versions; the one that lost stays under Mine."""
        wanted = name.strip().casefold()
        for clash in self.status().conflicts:
            if wanted not in (clash.name.casefold(), clash.file.casefold()):
                continue
            waits, theirs = self.folder / _WAITING / clash.file, self.folder / _LAST / clash.file
            if keep == "mine":
                if clash.theirs is not None:
                    self.mine.take(clash.theirs, "keep")
                self._saw(clash.file, theirs.read_bytes())
                return
            if clash.mine is not None and keep == "theirs":
                self.mine.take(clash.mine, "keep")
            waits.unlink(missing_ok=True)
            self._saw(clash.file, theirs.read_bytes())
            if clash.mine is not None and keep == "both":
                names = {*self._in(_LAST), *self._in(_WAITING)}
                title = next(t for n in range(2, 10_000) if file_name(t := f"{clash.mine.name} {n}") not in names)
                self._write(_WAITING, file_name(title), to_json(replace(clash.mine, name=title)))
            return
        raise NotFound(tr("Nothing is to be settled about {name!r}.", name=name))

    def settle_history(self, keep: Keep) -> None:
        """There is none."""
        raise EditError(_NO_HISTORY)

    def history(self, name: str) -> tuple[Version, ...]:
        """The one version that is there."""
        path = (self._in(_LAST) | self._in(_WAITING))[self._file_of(name)]
        when = datetime.fromtimestamp(path.stat().st_mtime, UTC).isoformat(timespec="seconds")
        found = _known(path)
        return (Version(sha256(path.read_bytes()).hexdigest()[:12], "", when, found.name if found else ""),)

    def version(self, name: str, version: str) -> Preset:
        """The one that is there."""
        raise EditError(_NO_HISTORY)

    def restore(self, name: str, version: str) -> None:
        """There is none."""
        raise EditError(_NO_HISTORY)

    def leave(self) -> None:
        """Forget it: what was published stays there."""
        for name in (_WAITING, _LAST):
            for path in self._in(name).values():
                path.unlink(missing_ok=True)


def _known(path: Path) -> Preset | None:
    try:
        return read_preset(path)
    except AveltError:
        return None


def _bytes(path: Path | None) -> bytes | None:
    return path.read_bytes() if path is not None and path.is_file() else None
