"""What a check finds."""

from __future__ import annotations

from avelt.core.model.motion import CueKey
from avelt.core.record import Record


class Trouble(Record, frozen=True):
    """One problem: a code (a row of ``table.CHECKS``), a sentence, and what it is about, by ids.

    ``loops`` are follows, too, ``others`` parts, links and tapes. ``mend`` names what can be done about it by hand.
    ``cue`` and ``value`` (ms) are for mending by itself.
    """

    code: str
    says: str
    routes: tuple[str, ...] = ()
    frames: tuple[str, ...] = ()
    mend: str = ""
    phases: tuple[str, ...] = ()
    layers: tuple[str, ...] = ()
    loops: tuple[str, ...] = ()
    others: tuple[str, ...] = ()
    cue: CueKey | None = None
    value: float = 0.0

    @property
    def about(self) -> tuple[str, ...]:
        """The ids of all that it is about: with the code, which trouble it is while the project is edited."""
        cue = tuple(part or "" for part in self.cue) if self.cue is not None else ()
        return (*self.routes, *self.frames, *self.phases, *self.layers, *self.loops, *self.others, *cue)
