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


def run_in_xvfb(case: unittest.TestCase, test: str) -> None:
    """Run a test in a process of its own under Xvfb; fails as it fails."""
    reader, writer = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(writer), "-screen", "0", "1280x800x24", "-nolisten", "tcp"],
        pass_fds=[writer],
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        os.close(writer)
        with os.fdopen(reader) as stream:
            display = stream.readline().strip()
        case.assertTrue(display, "Xvfb did not start")
        env = {**os.environ, "DISPLAY": f":{display}", "QT_QPA_PLATFORM": "xcb", "AVELT_IN_XVFB": "1"}
        done = subprocess.run(
            [sys.executable, "-m", "tests.run", test],
            env=env,
            capture_output=True,
            text=True,
            timeout=300,
            cwd=Path(__file__).parents[2],
        )
        case.assertEqual(done.returncode, 0, done.stdout + done.stderr)
    finally:
        server.terminate()
        server.wait()
