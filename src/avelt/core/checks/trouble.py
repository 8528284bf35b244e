"""What a check finds."""

from __future__ import annotations

from avelt.core.record import Record


class Trouble(Record, frozen=True):
    """One problem: a code, a sentence, and what it is about. ``mend`` names what can be done about it at once."""

    code: str
    says: str
    routes: tuple[str, ...] = ()
    frames: tuple[str, ...] = ()
    mend: str = ""
    phases: tuple[str, ...] = ()
