"""Which layer of one frame is which layer of another, and nothing of why: what a motion is worked out from."""

from __future__ import annotations

from avelt.core.geometry.flatten import Flat, flatten
from avelt.core.model.values import Frame
from avelt.core.record import Record, lazy


class Joined(Record, frozen=True):
    """Layers arrived at by the layers left, as ids, between two frames that are laid out flat."""

    before: Flat
    after: Flat
    to_of: dict[str, str]

    @lazy
    def leaves(self) -> tuple[str, ...]:
        """What has no partner in the frame arrived at, in paint order."""
        return tuple(layer.id for layer in self.before.layers if layer.id not in self.to_of)

    @lazy
    def enters(self) -> tuple[str, ...]:
        """What has no partner in the frame left, in paint order."""
        taken = set(self.to_of.values())
        return tuple(layer.id for layer in self.after.layers if layer.id not in taken)

    def within(self, left: Frame, right: Frame) -> Joined:
        """The same pairs between other states of the two frames, which hold the same layers."""
        return Joined(flatten(left), flatten(right), self.to_of)
