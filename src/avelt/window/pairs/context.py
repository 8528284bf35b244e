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
    chosen: Chosen = Chosen()  # what is shown in full
    also: tuple[Chosen, ...] = ()  # what is chosen beside it

    def choose(self, chosen: Chosen, also: tuple[Chosen, ...] = ()) -> None:
        """Look at one, with others beside it."""
        self.chosen = chosen
        self.also = tuple(entry for k, entry in enumerate(also) if entry != chosen and entry not in also[:k])

    @property
    def every(self) -> tuple[Chosen, ...]:
        """All that is chosen, what is shown in full last."""
        return (*self.also, self.chosen)

    @property
    def pairs(self) -> tuple[Chosen, ...]:
        """The chosen ones that are pairs."""
        known = self.pairing.to_of if self.pairing is not None else {}
        return tuple(entry for entry in self.every if entry.left and known.get(entry.left) == entry.right)

    @property
    def singles(self) -> tuple[str, ...]:
        """The chosen layers that stand alone, on the side of the one shown in full."""
        left = bool(self.chosen.left)
        return tuple(entry.alone for entry in self.every if entry.alone and bool(entry.left) == left)
