"""Running a story in a real window, on a display of its own."""

import os
import shutil
import subprocess
import sys
import unittest
from pathlib import Path

needs_xvfb = unittest.skipUnless(
    shutil.which("Xvfb") and "AVELT_IN_XVFB" not in os.environ, "Xvfb is not there, or this is the run in it"
)


IN_XVFB = "AVELT_IN_XVFB" in os.environ
_HANDS = ("Xvfb", "openbox", "xdotool")
_MISSING = [name for name in _HANDS if not shutil.which(name)]
#: Tests with real keys and a real mouse; where a program for them is missing, they are skipped, and it is named.
needs_hands = unittest.skipIf(IN_XVFB or _MISSING, f"{', '.join(_MISSING)} is not there, or this is the run in it")


def run_in_xvfb(case: unittest.TestCase, test: str, hands: bool = False) -> None:
    """Run a test in a process of its own under Xvfb; fails as it fails. ``hands``: beside a window manager."""
    reader, writer = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writer), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[writer],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    manager = None
    try:
        os.close(writer)
        with os.fdopen(reader) as stream:
            display = stream.readline().strip()
        case.assertTrue(display, "Xvfb did not start")
        env = {**os.environ, "DISPLAY": f":{display}", "QT_QPA_PLATFORM": "xcb", "AVELT_IN_XVFB": "1"}
        if hands:
            quiet = subprocess.DEVNULL
            manager = subprocess.Popen(["openbox", "--sm-disable"], env=env, stdout=quiet, stderr=quiet)
        done = subprocess.run(
            [sys.executable, "-m", "tests.run", test],
            env=env,
            capture_output=True,
            text=True,
            timeout=300,
            cwd=Path(__file__).parents[1],
        )
        case.assertEqual(done.returncode, 0, done.stdout + done.stderr)
    finally:
        if manager is not None:
            manager.terminate()
            manager.wait()
        server.terminate()
        server.wait()
