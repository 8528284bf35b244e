"""A tape as a moving picture, and two tapes compared: away from the window's thread."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from PySide6.QtGui import QImage

from avelt.core.errors import FormatError, Stopped
from avelt.core.formats.disk import write_atomically
from avelt.core.model.tapes import Tape
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.running.comparing import Parting, first_parting
from avelt.core.running.rehearsal import Rehearsal
from avelt.paint.moving import Moving, gif_of, moments
from avelt.paint.painter import ScenePainter
from avelt.window.common.jobs import Job

LONGEST = 60_000.0  # ms of a tape that become a moving picture


class TapeGif(Record, frozen=True):
    """What making one needs."""

    project: Project
    tape: Tape
    path: Path
    wanted: Moving


class TapeGifJob(Job):
    """Writes the GIF of a tape; the answer is a sentence."""

    def __init__(self, request: TapeGif) -> None:
        super().__init__(request)
        self.asked = request

    def work(self) -> str:
        asked = self.asked
        if asked.tape.until > LONGEST:
            raise FormatError(f"A moving picture of a tape is at most {LONGEST / 1000:.0f} s long.")
        rehearsal = Rehearsal(asked.project, asked.tape)
        first = rehearsal.player.scene().size
        asked.wanted.check(*first)
        painter = ScenePainter(asked.project.assets)
        times = moments(asked.tape.until, asked.wanted.rate)

        def images() -> Iterator[QImage]:
            for k, ms in enumerate(times):
                if not self.go_on(k, len(times)):
                    raise Stopped("Stopped. Nothing was written.")
                yield painter.render(rehearsal.seen(ms).scene(), asked.wanted.scale)

        data = gif_of(images(), times, asked.wanted)
        write_atomically(asked.path, data)
        return f"{asked.path.name} is written, {len(data) / 1000:.0f} kB."


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
