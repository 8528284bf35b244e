"""What the window remembers of how it was left: small values by name, in one file of this person's settings."""

from __future__ import annotations

import logging
from pathlib import Path

import msgspec

from avelt.core.errors import AveltError
from avelt.core.formats.disk import write_atomically

_log = logging.getLogger("avelt")
_MOST_BYTES = 1_000_000


class Remembered:
    """Values by name. Without a file they last as long as the program."""

    def __init__(self, path: Path | None = None) -> None:
        self.path = path
        self._values: dict[str, object] = {}
        try:
            if path is not None and path.is_file() and path.stat().st_size < _MOST_BYTES:
                read = msgspec.json.decode(path.read_bytes())
                self._values = read if isinstance(read, dict) else {}
        except (OSError, ValueError, msgspec.DecodeError) as error:
            _log.warning("what the window remembers could not be read: %s", error)

    def number(self, name: str, usual: float) -> float:
        """A number, or the usual one."""
        value = self._values.get(name)
        return float(value) if isinstance(value, int | float) and not isinstance(value, bool) else usual

    def flag(self, name: str) -> bool:
        """Whether something is on."""
        return self._values.get(name) is True

    def text(self, name: str, usual: str = "") -> str:
        """A text, or the usual one."""
        value = self._values.get(name)
        return value if isinstance(value, str) else usual

    def keep(self, name: str, value: float | bool | str) -> None:
        """Remember a value. A folder that cannot be written is no reason to stop."""
        if self._values.get(name) == value:
            return
        self._values[name] = value
        if self.path is None:
            return
        try:
            self.path.parent.mkdir(parents=True, exist_ok=True)
            write_atomically(
                self.path, msgspec.json.format(msgspec.json.encode(self._values, order="sorted"), indent=1)
            )
        except (OSError, AveltError) as error:
            _log.warning("what the window remembers could not be kept: %s", error)
