"""What Routes does by keys, beside walking the matrix."""

from __future__ import annotations

from avelt.window.common.station_keys import StationKey

KEYS = (
    StationKey("Return trip, mirrored curves", "R", lambda s: s.go_back("mirrored")),
    StationKey("Return trip, the same curves", "Shift+R", lambda s: s.go_back("same")),
    StationKey("Every frame to every other…", "E", lambda s: s.every_to_every()),
    StationKey("Inputs…", "I", lambda s: s.show_inputs()),
    StationKey("Choose all routes", "Ctrl+A", lambda s: s.matrix.choose_all()),
    StationKey("Remove the chosen routes", "Del", lambda s: s.remove()),
    StationKey("Larger cells", "+", lambda s: s.matrix.step_zoom(1)),
    StationKey("Smaller cells", "-", lambda s: s.matrix.step_zoom(-1)),
    StationKey("Fit the cells to the window", "0", lambda s: s.matrix.set_zoom(None)),
    StationKey("Find frames in the matrix", "/", lambda s: s.search.setFocus()),
)
