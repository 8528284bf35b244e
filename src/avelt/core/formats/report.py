"""What an import did, and everything it left out or approximated, by element."""

from __future__ import annotations

from collections import Counter
from typing import Any, Literal

import msgspec

from avelt.core.model.find import walk
from avelt.core.model.values import Frame, Note, Source
from avelt.core.words import tr


class Report(msgspec.Struct, frozen=True, omit_defaults=True):
    """The report of one file."""

    file: str
    frame: str
    counts: dict[str, int]
    notes: tuple[Note, ...] = ()

    def lines(self) -> list[str]:
        """The report to read, counts first."""
        total = sum(self.counts.values())
        kinds = ", ".join(f"{n} {kind}" for kind, n in sorted(self.counts.items()))
        head = tr("{file}: frame “{frame}”, {total} layers", file=self.file, frame=self.frame, total=total) + (
            f" ({kinds})" if kinds else ""
        )
        out = [head]
        for note in self.notes:
            where = tr("line {line}", line=note.line) if note.line else ""
            where = ", ".join(part for part in (note.element, where) if part)
            out.append(f"  {note.what}: {note.says}" + (f" ({where})" if where else ""))
        return out

    def plain(self) -> dict[str, Any]:
        """For ``--json``."""
        built: dict[str, Any] = msgspec.to_builtins(self)
        built.setdefault("notes", [])
        return built


def report_of(frame: Frame) -> Report:
    """The report of the import that a frame came from, as the frame remembers it."""
    source = frame.source or Source("")
    counts = Counter(layer.kind for layer in walk(source.base))
    return Report(source.path, frame.name, dict(counts), source.notes)


class Notes:
    """Notes while an import runs; the same sentence about the same element once, and never without end."""

    MOST = 500

    def __init__(self) -> None:
        self.found: list[Note] = []
        self._seen: set[tuple[str, str, int]] = set()

    def add(self, what: Literal["left out", "approximated", "unreadable"], says: str, element: str, line: int) -> None:
        """Remember one thing."""
        key = (says, element, line)
        if key in self._seen or len(self.found) > self.MOST:
            return
        self._seen.add(key)
        if len(self.found) == self.MOST:
            self.found.append(Note("left out", tr("More was left out than is listed here.")))
            return
        self.found.append(Note(what, says, element, line))
