"""Runs every test (or the modules that are named) and closes with the counts on a line of their own.

Unexpected warnings and messages of Qt fail the run. All of them are run by as many processes as there are cores, at
most four, each with modules of its own.
"""

from __future__ import annotations

import faulthandler
import gc
import os
import re
import subprocess
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


_COUNTS = re.compile(r"(-?\d+) passed, (\d+) failed, (\d+) skipped\s*\Z")
_WINDOW = 6  # a test of the window takes about as long as so many others


def main(names: list[str]) -> int:
    """Run; gives the exit code. ``--failfast`` before the names stops at the first failure."""
    missing = cannot_start()
    if missing:
        print(missing, file=sys.stderr)
        print("0 passed, 1 failed, 0 skipped", flush=True)
        return 1
    cores = min(4, os.cpu_count() or 1)
    return _run_apart(_shares(cores)) if not names and cores > 1 else _run_here(names)


def _shares(count: int) -> list[list[str]]:
    """All test modules in so many heaps of about the same work, the same ones every time."""
    heaps: list[tuple[int, list[str]]] = [(0, []) for _ in range(count)]
    weights = []
    for path in sorted((ROOT / "tests").rglob("test_*.py")):
        slow = path.parent.name in ("window", "stories")
        tests = path.read_text(encoding="utf-8").count("    def test_")
        weights.append((tests * (_WINDOW if slow else 1), ".".join(path.relative_to(ROOT).with_suffix("").parts)))
    for weight, name in sorted(weights, reverse=True):
        least = min(range(count), key=lambda k: heaps[k][0])
        heaps[least] = (heaps[least][0] + weight, [*heaps[least][1], name])
    return [names for _, names in heaps]


def _run_apart(shares: list[list[str]]) -> int:
    """Every heap in a process of its own; what each says is printed when it is done."""
    with tempfile.TemporaryDirectory() as folder:
        running = []
        for k, names in enumerate(shares):
            path = Path(folder) / f"{k}.txt"
            with path.open("w", encoding="utf-8") as said:
                command = [sys.executable, "-m", "tests.run", *names]
                running.append((subprocess.Popen(command, cwd=ROOT, stdout=said, stderr=subprocess.STDOUT), path))
        return _added([(process.wait(), path.read_text(encoding="utf-8")) for process, path in running])


def _added(ended: list[tuple[int, str]]) -> int:
    """Print what the processes said, and their counts as one; gives the exit code."""
    totals, broken = [0, 0, 0], 0
    for code, text in ended:
        broken += code != 0
        counts = _COUNTS.search(text)
        print(text[: counts.start()] if counts else text)
        # A process that came to no end counts as a failure of its own.
        found = [int(value) for value in counts.groups()] if counts else [0, 1, 0]
        totals = [a + b for a, b in zip(totals, found, strict=True)]
    print(f"{totals[0]} passed, {totals[1]} failed, {totals[2]} skipped", flush=True)
    return 1 if broken or totals[1] or not totals[0] else 0


def cannot_start() -> str:
    """Why no test can run here, with what to do about it; empty when they can."""
    if sys.version_info[:2] < (3, 11):  # noqa: UP036 - the runner may be started by another Python than the setup
        return f"The tests need Python 3.11 or newer; this is {sys.version.split()[0]}. ./test takes care of that."
    for module, package in (
        ("PySide6.QtWidgets", "PySide6-Essentials"),
        ("hypothesis", "hypothesis"),
        ("avelt", "avelt"),
    ):
        try:
            __import__(module)
        except ImportError as error:
            if "cannot open shared object" in str(error):
                library = str(error).split(":")[0]
                return f"Qt cannot start: the system library {library} is missing. ./test names the apt line."
            return f"The package {package} is missing ({error}). ./test installs it; or: pip install -e '.[dev]'"
    return ""


def _run_here(names: list[str]) -> int:
    with tempfile.TemporaryDirectory() as home:
        # Nothing of the person who runs the tests is read or written.
        for key in ("XDG_DATA_HOME", "XDG_STATE_HOME", "XDG_CONFIG_HOME", "XDG_CACHE_HOME"):
            os.environ[key] = home
        os.environ["HYPOTHESIS_STORAGE_DIRECTORY"] = str(Path(home) / "hypothesis")
        return _run(names)


def _run(names: list[str]) -> int:
    faulthandler.enable()  # a process that crashes says in which test
    failfast = "--failfast" in names
    names = [name for name in names if name != "--failfast"]
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
    result = unittest.TextTestRunner(verbosity=1, warnings="error", failfast=failfast).run(suite)
    for message in said:
        print(f"Qt said: {message}", file=sys.stderr)
    failed = len(result.failures) + len(result.errors) + len(result.unexpectedSuccesses) + bool(said)
    skipped = len(result.skipped)
    print(f"{result.testsRun - failed - skipped} passed, {failed} failed, {skipped} skipped", flush=True)
    return 1 if failed or not result.testsRun else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
