"""What an exporter gives: files as bytes, and a report. Writing them to disk is somebody else's."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, Literal

import msgspec

from avelt.core.handoff.nodes import Fitted, LeftOut
from avelt.core.record import Record
from avelt.core.words import tr

Start = Literal["load", "class", "hover", "click", "view"]
After = Literal["freeze", "restart"]
STARTS: dict[Start, str] = {
    "load": tr("being loaded"),
    "class": tr("a class being added"),
    "hover": tr("the pointer being over it"),
    "click": tr("a click on it"),
    "view": tr("coming into view"),
}
AFTERS: dict[After, str] = {"freeze": tr("stays as it is"), "restart": tr("begins again")}


class Wanted(Record, frozen=True):
    """How a delivery shall be. ``name`` is what it is called; ``background`` none, a CSS colour, or the frame's own.

    ``fps``, ``scale``, ``rest`` (ms that the last picture stays), ``rounds`` (of what loops), ``quality`` (of lossy
    kinds, 0..100; 0: lossless) are for moving pictures. ``calm``: the variant for people
    who ask for less motion.
    """

    name: str = "motion"
    prefix: str = ""
    start: Start = "load"
    after: After = "freeze"
    background: str | None = None
    words: Literal["", "outlines", "text"] = ""  # empty: as is usual for the kind
    fps: float = 25.0
    scale: float = 1.0
    rest: float = 0.0
    rounds: int = 1
    quality: int = 0
    again: bool = True
    calm: bool = False


class Report(Record, frozen=True):
    """What was drawn near to and how near, what was left out and why, and what else to know."""

    fitted: tuple[Fitted, ...] = ()
    left_out: tuple[LeftOut, ...] = ()
    notes: tuple[str, ...] = ()

    def and_also(self, other: Report) -> Report:
        """Both together."""
        return Report(
            self.fitted + other.fitted,
            self.left_out + tuple(e for e in other.left_out if e not in self.left_out),
            self.notes + tuple(note for note in other.notes if note not in self.notes),
        )


class Delivery(Record, frozen=True):
    """Files by their names (a name may have folders in it), the one to open first, and the report."""

    files: Mapping[str, bytes]
    main: str
    report: Report = Report()

    @property
    def size(self) -> int:
        """All files together, bytes."""
        return sum(map(len, self.files.values()))


def report_json(kind: str, delivery: Delivery) -> dict[str, Any]:
    """The report as other programs read it."""
    report = delivery.report
    return {
        "kind": kind,
        "main": delivery.main,
        "files": [{"name": name, "bytes": len(data)} for name, data in delivery.files.items()],
        "fitted": [
            {"layer": e.layer, "what": e.what, "error": round(e.error, 6), "unit": e.unit} for e in report.fitted
        ],
        "left_out": [{"layer": e.layer, "what": e.what, "why": e.why} for e in report.left_out],
        "notes": list(report.notes),
    }


def as_json(document: object) -> bytes:
    """A document as the bytes of a JSON file, the same every time."""
    return msgspec.json.format(msgspec.json.encode(document), indent=1) + b"\n"
