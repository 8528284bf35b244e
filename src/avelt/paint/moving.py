"""Moving pictures: the frames of a transition, and GIF."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterable, Iterator
from itertools import pairwise
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtGui import QImage

from avelt.core.errors import FormatError, Stopped
from avelt.core.formats.disk import write_atomically
from avelt.core.model.limits import MAX_PICTURE_PIXELS
from avelt.core.model.values import Project
from avelt.core.record import Record
from avelt.core.timing.program import Program
from avelt.paint.painter import ScenePainter

if TYPE_CHECKING:
    from PIL import Image

#: Called with (frames done, frames in all); False stops the work.
Progress = Callable[[int, int], bool]
_TICK = 10.0  # a GIF counts time in hundredths of a second


class Moving(Record, frozen=True):
    """What a moving picture shall be like. ``rest`` is how long the last picture stays, ms."""

    scale: float = 1.0
    rate: float = 25.0
    loop: bool = True
    rest: float = 600.0

    def check(self, w: float, h: float) -> None:
        """Raise ``FormatError`` for what cannot be made."""
        if not 0.05 <= self.scale <= 8:
            raise FormatError("The size must be 0.05 to 8 times the frame.")
        if not 1 <= self.rate <= 50:
            raise FormatError("A GIF shows 1 to 50 pictures a second.")
        area = w * h * self.scale**2
        if area > MAX_PICTURE_PIXELS / 4:
            raise FormatError("The picture would be too large.")


def moments(length: float, rate: float) -> list[float]:
    """The times of all pictures in ms: from 0 to the end, the end always among them."""
    count = max(1, round(length * rate / 1000.0))
    return [length * k / count for k in range(count + 1)]


def pictures(
    program: Program, project: Project, painter: ScenePainter, wanted: Moving, progress: Progress | None = None
) -> Iterator[QImage]:
    """Every picture in turn; ``Stopped`` when ``progress`` says so. All have the size of the frame left."""
    times = moments(program.duration, wanted.rate)
    for k, ms in enumerate(times):
        if progress is not None and not progress(k, len(times)):
            raise Stopped()
        yield painter.render(program.from_start(ms), wanted.scale)


def to_pillow(image: QImage) -> Image.Image:
    """A QImage as an opaque Pillow picture."""
    from PIL import Image

    plain = image.convertToFormat(QImage.Format.Format_RGBX8888)
    bits = np.asarray(plain.constBits()).reshape(plain.height(), plain.bytesPerLine())
    return Image.frombytes(
        "RGBX", (plain.width(), plain.height()), bits.tobytes(), "raw", "RGBX", plain.bytesPerLine()
    ).convert("RGB")


def gif(program: Program, project: Project, wanted: Moving, progress: Progress | None = None) -> bytes:
    """The transition as a GIF's bytes. Colours are reduced to 256 a picture."""
    wanted.check(program.left.w, program.left.h)
    painter = ScenePainter(project.assets)
    times = moments(program.duration, wanted.rate)
    return gif_of(pictures(program, project, painter, wanted, progress), times, wanted)


def gif_of(images: Iterable[QImage], times: list[float], wanted: Moving) -> bytes:
    """Pictures, each shown from its time on, as a GIF's bytes. All get the size of the first."""
    from PIL import Image

    size: tuple[int, int] | None = None
    made: list[Image.Image] = []
    for image in images:
        picture = to_pillow(image)
        if size is None:
            size = picture.size
        elif picture.size != size:
            picture = picture.resize(size)
        made.append(picture.quantize(256, Image.Quantize.FASTOCTREE, dither=Image.Dither.NONE))
    marks = [round(ms / _TICK) for ms in times]
    durations = [max(2, b - a) * int(_TICK) for a, b in pairwise(marks)]
    durations.append(max(20, int(wanted.rest)))
    buffer = io.BytesIO()
    options = {"loop": 0} if wanted.loop else {}
    made[0].save(
        buffer, "GIF", save_all=True, append_images=made[1:], duration=durations, disposal=1, optimize=False, **options
    )
    return buffer.getvalue()


def save_gif(program: Program, project: Project, path: Path, wanted: Moving, progress: Progress | None = None) -> int:
    """Write the GIF atomically; gives its size in bytes. Nothing is left behind when it is stopped."""
    data = gif(program, project, wanted, progress)
    write_atomically(path, data)
    return len(data)


def png_bytes(image: QImage) -> bytes:
    """A picture as PNG."""
    from PySide6.QtCore import QBuffer, QIODevice

    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")  # type: ignore[call-overload]
    return bytes(buffer.data().data())
