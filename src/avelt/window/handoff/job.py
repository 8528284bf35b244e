"""Making a GIF away from the window's thread: a frozen request in, progress and one answer out."""

from __future__ import annotations

from pathlib import Path

from avelt.core.errors import Stopped
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.timing.program import Program
from avelt.paint.moving import Moving, save_gif
from avelt.window.common.jobs import Job


class GifRequest(Record, frozen=True):
    """Everything that making the GIF needs."""

    program: Program
    project: Project
    path: Path
    wanted: Moving


class GifJob(Job):
    """Makes one GIF in the background; the answer is a sentence."""

    def __init__(self, request: GifRequest) -> None:
        super().__init__(request)
        self.asked = request

    def work(self) -> str:
        asked = self.asked
        try:
            size = save_gif(asked.program, asked.project, asked.path, asked.wanted, self.go_on)
        except Stopped:
            raise Stopped("Stopped. Nothing was written.") from None
        return f"{asked.path.name} is written, {size / 1000:.0f} kB."
