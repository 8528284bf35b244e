"""What Loops does by keys, beside walking the rows of a running order."""

from __future__ import annotations

from avelt.core.words import tr
from avelt.window.common.station_keys import StationKey

KEYS = (
    StationKey(tr("The loops, or the running order"), "O", lambda s: s.show_order(not s.ordered)),
    StationKey(tr("New loop on the chosen layer"), "L", lambda s: s.loops.make()),
    StationKey(tr("New phase"), "P", lambda s: s.show_order(True) or s.orders.new_phase()),
    StationKey(tr("New side track"), "Shift+P", lambda s: s.show_order(True) or s.orders.new_track()),
    StationKey(tr("Try again with the same inputs"), "T", lambda s: s.try_again()),
    StationKey(tr("Remove the chosen loop, phase or follow"), "Del", lambda s: s.remove_chosen()),
    StationKey(tr("Copy the chosen loop"), "Ctrl+C", lambda s: s.loops.copy_chosen()),
    StationKey(tr("Paste the loop on the chosen layers"), "Ctrl+V", lambda s: s.loops.paste()),
)
