"""What the parts of Pairs share: both frames, their pairing, and what of it is looked at. The choice is kept here."""

from __future__ import annotations

from avelt.core.model.values import Frame
from avelt.core.pairing.engine import Pairing
from avelt.core.record import Mutable, Record


class Chosen(Record, frozen=True):
    """The layers that are looked at: one of either side, or one alone."""

    left: str = ""
    right: str = ""

    @property
    def alone(self) -> str:
        """The one layer, when there is only one."""
        return "" if self.left and self.right else self.left or self.right


_NO_FRAMES = (Frame("", ""), Frame("", ""))  # before a route was shown


class PairsContext(Mutable):
    """The station fills it from the project; the parts read it when they paint."""

    pairing: Pairing | None = None
    frames: tuple[Frame, Frame] = _NO_FRAMES
    chosen: Chosen = Chosen()
