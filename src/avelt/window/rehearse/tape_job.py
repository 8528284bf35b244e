"""A tape as a moving picture, and two tapes compared: away from the window's thread."""

from __future__ import annotations

from pathlib import Path

from avelt.core.errors import FormatError, Stopped
from avelt.core.handoff.delivery import Wanted
from avelt.core.model.tapes import Tape
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.running.comparing import Parting, first_parting
from avelt.core.running.rehearsal import Rehearsal
from avelt.core.words import tr
from avelt.deliver.films import picture_loop
from avelt.deliver.sinks import DiskSink
from avelt.deliver.subjects import of_tape
from avelt.window.common.jobs import Job

LONGEST = 60_000.0  # ms of a tape that become a moving picture


class TapeGif(Record, frozen=True):
    """What making one needs."""

    project: Project
    tape: Tape
    path: Path
    wanted: Wanted


class TapeGifJob(Job):
    """Writes the GIF of a tape; the answer is a sentence."""

    def __init__(self, request: TapeGif) -> None:
        super().__init__(request)
        self.asked = request

    def work(self) -> str:
        asked = self.asked
        if asked.tape.until > LONGEST:
            raise FormatError(tr("A moving picture of a tape is at most {longest:.0f} s long.", longest=LONGEST / 1000))
        show = of_tape(asked.project, asked.tape).show
        try:
            with DiskSink(asked.path, single=True) as sink, sink.open(asked.path.name) as stream:
                picture_loop("gif", show, asked.project, asked.wanted, stream, self.go_on)
        except Stopped:
            raise Stopped(tr("Stopped. Nothing was written.")) from None
        return tr(
            "{path} is written, {st_size:.0f} kB.", path=asked.path.name, st_size=asked.path.stat().st_size / 1000
        )


class Two(Record, frozen=True):
    """Two tapes, each with the project that it is played on."""

    one: tuple[Project, Tape]
    other: tuple[Project, Tape]


class CompareJob(Job):
    """Looks for the first moment where two tapes part; the answer is a ``Parting``, or ``None``."""

    def __init__(self, request: Two) -> None:
        super().__init__(request)
        self.asked = request

    def work(self) -> Parting | None:
        return first_parting(Rehearsal(*self.asked.one), Rehearsal(*self.asked.other), self.go_on)
