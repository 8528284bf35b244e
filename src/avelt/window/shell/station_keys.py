"""The keys of all stations that have some of their own."""

from __future__ import annotations

from avelt.window.loops.keys import KEYS as LOOPS_KEYS
from avelt.window.pairs.keys import KEYS as PAIRS_KEYS
from avelt.window.routes.keys import KEYS as ROUTES_KEYS
from avelt.window.timing.keys import KEYS as TIMING_KEYS

STATION_KEYS = {"routes": ROUTES_KEYS, "pairs": PAIRS_KEYS, "timing": TIMING_KEYS, "loops": LOOPS_KEYS}
