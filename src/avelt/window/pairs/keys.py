"""What Pairs does by keys."""

from __future__ import annotations

from avelt.window.common.station_keys import StationKey

KEYS = (
    StationKey("Next unsure pair", "N", lambda s: s.next_unsure()),
    StationKey("Pair these layers", "P", lambda s: s.pair(s.context.chosen.left, s.context.chosen.right)),
    StationKey("Keep these layers apart", "A", lambda s: s.keep_apart()),
    StationKey("Accept all sure pairs", "Shift+A", lambda s: s.accept_sure()),
    StationKey("Show or hide ghosts", "G", lambda s: s.show_ghosts.toggle()),
)
