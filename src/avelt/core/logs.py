"""The log: a file under the XDG state folder, kept small; on the console too when that is wanted."""

from __future__ import annotations

import logging
import platform
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path

from platformdirs import user_state_path

_BYTES, _KEPT = 500_000, 2  # of each file, and how many older ones are kept
_FORMAT = "%(asctime)s %(levelname)s %(name)s: %(message)s"


def log_file() -> Path | None:
    """Where the log is written; ``None`` when it is not."""
    for handler in logging.getLogger("avelt").handlers:
        if isinstance(handler, RotatingFileHandler):
            return Path(handler.baseFilename)
    return None


def set_up(version: str, verbose: bool = False, folder: Path | None = None) -> None:
    """Begin to log. A folder that cannot be written to is no reason not to start."""
    logger = logging.getLogger("avelt")
    logger.setLevel(logging.DEBUG if verbose else logging.INFO)
    for handler in list(logger.handlers):
        logger.removeHandler(handler)
        handler.close()
    made: list[logging.Handler] = []
    try:
        folder = folder if folder is not None else Path(user_state_path("avelt", appauthor=False))
        folder.mkdir(parents=True, exist_ok=True)
        made.append(RotatingFileHandler(folder / "avelt.log", maxBytes=_BYTES, backupCount=_KEPT, encoding="utf-8"))
    except OSError:
        verbose = True
    if verbose:
        made.append(logging.StreamHandler(sys.stderr))
    for handler in made:
        handler.setFormatter(logging.Formatter(_FORMAT))
        logger.addHandler(handler)
    logger.info("Avelt %s, Python %s, %s", version, platform.python_version(), platform.platform())
