"""The settings of this person, in one place as data: how it looks, what keys do. One file below the XDG config folder.

To add one: a field of ``Settings`` and, where it can be chosen from a list, a row of ``ROWS``.
"""

from __future__ import annotations

import logging
from pathlib import Path
from typing import Literal

import msgspec
from PySide6.QtCore import QObject, Signal

from avelt.core.errors import AveltError
from avelt.core.formats.disk import write_atomically
from avelt.core.record import Record
from avelt.core.words import tr

_log = logging.getLogger("avelt")
_MOST_BYTES = 1_000_000


class Settings(msgspec.Struct, frozen=True):
    """``language`` is the code of a translation that is there, ``en`` or ``system``. ``scale`` is how large everything
    is, in percent; both count from the next start on. ``autosave`` is how often work that is not saved is kept aside,
    in s. ``keys`` are keys of one's own by the command's id (empty: none)."""

    theme: Literal["system", "light", "dark"] = "system"
    numbers: Literal["system", "point", "comma"] = "system"
    motion: Literal["system", "full", "less"] = "system"
    language: str = "system"
    scale: int = 100
    autosave: int = 15
    keys: dict[str, str] = {}


class Row(Record, frozen=True):
    """A setting that is chosen from a list: (value, words) each."""

    name: str
    words: str
    says: str
    choices: tuple[tuple[object, str], ...]


ROWS = (
    Row(
        "theme",
        tr("Colours"),
        tr("Light or dark"),
        (("system", tr("as the desktop")), ("light", tr("light")), ("dark", tr("dark"))),
    ),
    Row(
        "scale",
        tr("Size of everything"),
        tr("Words, controls and pictures; counts from the next start"),
        ((100, tr("as the desktop")), (125, "125 %"), (150, "150 %"), (200, "200 %")),
    ),
    Row(
        "numbers",
        tr("Decimal sign"),
        tr("How numbers are shown in fields; both are understood when typed"),
        (("system", tr("as the desktop")), ("point", "0.5"), ("comma", "0,5")),
    ),
    Row(
        "motion",
        tr("Motion of the program"),
        tr("Less: pictures of presets and loops stand until they are asked to play"),
        (("system", tr("as the desktop")), ("full", tr("all of it")), ("less", tr("less"))),
    ),
    Row(
        "autosave",
        tr("Keep unsaved work aside"),
        tr("So that a crash takes nothing"),
        ((5, tr("every 5 s")), (15, tr("every 15 s")), (60, tr("every minute"))),
    ),
)


def setting_rows() -> tuple[Row, ...]:
    """``ROWS``, and the language where there is one to choose."""
    from avelt.window.common.language import SOURCE, SYSTEM, languages, name_of

    there = sorted(languages())
    if not there:
        return ROWS
    choices = ((SYSTEM, tr("as the desktop")), (SOURCE, name_of(SOURCE)), *((code, name_of(code)) for code in there))
    return *ROWS, Row("language", tr("Language"), tr("Counts from the next start"), choices)


class SettingsKeeper(QObject):
    """The settings, and where they lie. Without a file they last as long as the program."""

    changed = Signal()

    def __init__(self, path: Path | None = None) -> None:
        super().__init__()
        self.path = path
        self.value = Settings()
        if path is not None:
            self._read(path)

    def _read(self, path: Path) -> None:
        try:
            if path.is_file() and path.stat().st_size < _MOST_BYTES:
                self.value = msgspec.json.decode(path.read_bytes(), type=Settings)
        except (OSError, msgspec.DecodeError, UnicodeDecodeError) as error:
            # Settings that cannot be read are no reason to stop: the usual ones are taken, the file stays.
            _log.warning("the settings could not be read: %s", error)

    def change(self, **fields: object) -> None:
        """Another value for some of them, kept at once."""
        made = msgspec.structs.replace(self.value, **fields)  # type: ignore[arg-type]
        if made == self.value:
            return
        self.value = made
        if self.path is not None:
            try:
                self.path.parent.mkdir(parents=True, exist_ok=True)
                write_atomically(self.path, msgspec.json.format(msgspec.json.encode(made), indent=1))
            except (OSError, AveltError) as error:
                _log.warning("the settings could not be kept: %s", error)
        self.changed.emit()

    def keys_of(self, ident: str, usual: str) -> str:
        """The keys of a command: this person's own, or the usual ones."""
        return self.value.keys.get(ident, usual)

    def set_keys(self, ident: str, keys: str | None) -> None:
        """Keys of one's own for a command; ``None``: the usual ones again."""
        own = {key: value for key, value in self.value.keys.items() if key != ident}
        self.change(keys=own if keys is None else {**own, ident: keys})

    @property
    def less_motion(self) -> bool:
        """Whether nothing shall move that was not asked to."""
        wanted = self.value.motion
        return wanted == "less" or (wanted == "system" and desktop_wants_less(config_folder()))

    @property
    def comma(self) -> bool:
        """Whether decimals are shown with a comma."""
        if self.value.numbers != "system":
            return self.value.numbers == "comma"
        from PySide6.QtCore import QLocale

        return QLocale.system().decimalPoint() == ","


def config_folder() -> Path:
    """This person's config folder (XDG)."""
    from platformdirs import user_config_path

    return Path(user_config_path())


def desktop_wants_less(config: Path) -> bool:
    """Whether the desktop was told to show less motion: GTK's and KDE's own files say so."""
    from configparser import ConfigParser
    from configparser import Error as ConfigError

    for name, section, key, off in (
        ("gtk-4.0/settings.ini", "Settings", "gtk-enable-animations", ("0", "false")),
        ("gtk-3.0/settings.ini", "Settings", "gtk-enable-animations", ("0", "false")),
        ("kdeglobals", "KDE", "AnimationDurationFactor", ("0", "0.0")),
    ):
        found = ConfigParser(interpolation=None, strict=False)
        try:
            found.read(config / name, encoding="utf-8")
            if found.get(section, key, fallback="").strip().lower() in off:
                return True
        except (ConfigError, OSError, UnicodeDecodeError):
            continue
    return False
