"""How evenly the demo plays in a real window: times between pictures, ``xvfb-run -a python -m bench.real_window``."""

from __future__ import annotations

import sys
import time

import numpy as np

SECONDS = 12.0
TICK = 16.0  # ms: the display's pace as the clock asks for it


def main() -> int:
    """Play Timing of the demo and print the percentiles of the time between two pictures."""
    from PySide6.QtCore import QTimer

    from avelt.window.start import application, open_window

    window = open_window(None, True, False)
    app = application()
    window.go("timing")
    window.tidy.start()
    clock = window.clock()
    assert clock is not None
    times: list[float] = []
    clock.ticked.connect(lambda _: times.append(time.perf_counter()))
    QTimer.singleShot(3500, clock.play)
    QTimer.singleShot(int((3.5 + SECONDS) * 1000), clock.stop)
    QTimer.singleShot(int((4.0 + SECONDS) * 1000), app.quit)
    app.exec()
    gaps = np.diff(np.array(times))[60:] * 1000.0
    found = np.percentile(gaps, [50, 95, 99, 100])
    print(f"{len(gaps)} pictures; ms between two: " + ", ".join(f"{value:.1f}" for value in found))
    print(f"of the tick of {TICK:g} ms: " + ", ".join(f"{value / TICK:.2f}x" for value in found), "(50, 95, 99, 100 %)")
    window.workspace.session.saved()
    window.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
