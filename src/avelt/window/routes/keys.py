"""What Routes does by keys, beside walking the matrix."""

from __future__ import annotations

from avelt.core.words import tr
from avelt.window.common.station_keys import StationKey

KEYS = (
    StationKey(tr("Return trip, mirrored curves"), "R", lambda s: s.go_back("mirrored")),
    StationKey(tr("Return trip, the same curves"), "Shift+R", lambda s: s.go_back("same")),
    StationKey(tr("Every frame to every other…"), "E", lambda s: s.every_to_every()),
    StationKey(tr("Inputs…"), "I", lambda s: s.show_inputs()),
    StationKey(tr("Choose all routes"), "Ctrl+A", lambda s: s.matrix.choose_all()),
    StationKey(tr("Remove the chosen routes"), "Del", lambda s: s.remove()),
    StationKey(tr("Larger cells"), "+", lambda s: s.matrix.step_zoom(1)),
    StationKey(tr("Smaller cells"), "-", lambda s: s.matrix.step_zoom(-1)),
    StationKey(tr("Fit the cells to the window"), "0", lambda s: s.matrix.set_zoom(None)),
    StationKey(tr("Find frames in the matrix"), "/", lambda s: s.search.setFocus()),
)
