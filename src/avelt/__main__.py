"""``python -m avelt`` and the ``avelt`` command."""

import signal
import sys


def run() -> int:
    """Load the command line and run it; an interrupt while it loads ends the process without a traceback."""
    signal.signal(signal.SIGINT, signal.SIG_DFL)
    from avelt.cli import main

    return main()


if __name__ == "__main__":
    sys.exit(run())
