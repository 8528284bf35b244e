"""Runs every test (or the modules that are named) and closes with the counts on a line of their own.

Unexpected warnings and messages of Qt fail the run.
"""

from __future__ import annotations

import gc
import os
import sys
import tempfile
import traceback
import unittest
import warnings
from pathlib import Path
from types import TracebackType

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
ROOT = Path(__file__).resolve().parent.parent
#: Messages that Qt prints on machines like CI's and that say nothing about Avelt.
HARMLESS = (
    "propagateSizeHints",
    "XDG_RUNTIME_DIR",
    "Could not connect",
    "No such interface",
    "DBus",
    "This plugin does not",
)


def main(names: list[str]) -> int:
    """Run; gives the exit code."""
    with tempfile.TemporaryDirectory() as home:
        # Nothing of the person who runs the tests is read or written.
        for key in ("XDG_DATA_HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME"):
            os.environ[key] = home
        os.environ["HYPOTHESIS_STORAGE_DIRECTORY"] = str(Path(home) / "hypothesis")
        return _run(names)


def _run(names: list[str]) -> int:
    from hypothesis import HealthCheck, settings
    from PySide6.QtCore import QtMsgType, qInstallMessageHandler

    # The same cases every time: a failure on one machine is a failure on all.
    settings.register_profile(
        "avelt", deadline=None, derandomize=True, database=None, suppress_health_check=[HealthCheck.too_slow]
    )
    settings.load_profile("avelt")
    said: list[str] = []

    def hear(kind: QtMsgType, context: object, message: str) -> None:
        if kind != QtMsgType.QtDebugMsg and not any(part in message for part in HARMLESS):
            said.append(message)

    qInstallMessageHandler(hear)

    def fell(kind: type[BaseException], error: BaseException, trace: TracebackType | None) -> None:
        """An error inside a slot or an event reaches nobody else."""
        said.append("".join(traceback.format_exception(kind, error, trace)))

    sys.excepthook = fell
    from avelt.window.start import application

    application()  # one for all: the painting tests would make one without widgets
    warnings.simplefilter("error")
    gc.set_threshold(100_000, 20, 50)  # hundreds of windows and frames come and go: looking for rings costs more
    loader = unittest.TestLoader()
    if names:
        suite = loader.loadTestsFromNames(names)
    else:
        suite = loader.discover(str(ROOT / "tests"), top_level_dir=str(ROOT))
    result = unittest.TextTestRunner(verbosity=1, warnings="error").run(suite)
    for message in said:
        print(f"Qt said: {message}", file=sys.stderr)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses) + bool(said)
    skipped = len(result.skipped)
    print(f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
    return 1 if failed or not result.testsRun else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
