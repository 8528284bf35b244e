"""What a preset would be put on, and how that is said."""

from __future__ import annotations

from avelt.core.presets.places import Where
from avelt.core.record import Record
from avelt.core.words import tr


class Target(Record, frozen=True):
    """What was chosen in the station in front: where a preset goes, in words, and the layers that are meant. ``also``:
    layers of further frames."""

    where: Where = Where()
    words: str = tr("Choose a layer's row in Timing, a route or a layer: a preset is put on that.")

    also: tuple[Where, ...] = ()

    @property
    def everywhere(self) -> tuple[Where, ...]:
        """All places, the one that is seen in the preview first."""
        return self.where, *self.also

    @property
    def any(self) -> bool:
        """Whether there is something to put a preset on."""
        return bool(self.where.routes or self.where.frame)

    @property
    def several(self) -> bool:
        """Whether it is put on several layers, which may begin one after the other."""
        return max(len(self.where.pairs), len(self.where.layers)) > 1
