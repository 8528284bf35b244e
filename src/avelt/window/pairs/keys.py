"""What Pairs does by keys."""

from __future__ import annotations

from avelt.core.words import tr
from avelt.window.common.station_keys import StationKey

KEYS = (
    StationKey(tr("Next unsure pair"), "N", lambda s: s.next_unsure()),
    StationKey(tr("Pair these layers"), "P", lambda s: s.pair(s.context.chosen.left, s.context.chosen.right)),
    StationKey(tr("Keep these layers apart"), "A", lambda s: s.keep_apart()),
    StationKey(tr("Forget what was decided about the chosen layers"), "Del", lambda s: s.forget_decision()),
    StationKey(tr("Accept all sure pairs"), "Shift+A", lambda s: s.accept_sure()),
    StationKey(tr("Show or hide ghosts"), "G", lambda s: s.show_ghosts.toggle()),
)
