"""Making a GIF away from the window's thread: a frozen request in, progress and one answer out."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path

from PySide6.QtCore import Signal

from avelt.core.errors import AveltError, Stopped
from avelt.core.model.values import Project
from avelt.core.timing.program import Program
from avelt.paint.moving import Moving, save_gif
from avelt.window.common.jobs import Job


@dataclass(frozen=True)
class GifRequest:
    """Everything that making the GIF needs."""

    program: Program
    project: Project
    path: Path
    wanted: Moving


class GifJob(Job):
    """Makes one GIF in the background."""

    done = Signal(str)  # a sentence
    failed = Signal(str)

    def __init__(self, request: GifRequest) -> None:
        super().__init__()
        self.request = request

    def work(self) -> None:
        asked = self.request
        try:
            size = save_gif(asked.program, asked.project, asked.path, asked.wanted, self.go_on)
        except Stopped:
            self.failed.emit("Stopped. Nothing was written.")
        except (AveltError, MemoryError, ValueError, OSError) as error:
            self.failed.emit(str(error))
        else:
            self.done.emit(f"{asked.path.name} is written, {size / 1000:.0f} kB.")
