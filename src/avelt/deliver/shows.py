"""What is shown in a moving picture: a stretch of time with a scene at each moment."""

from __future__ import annotations

import math
from collections.abc import Callable

from avelt.core.errors import FormatError
from avelt.core.handoff.delivery import Wanted
from avelt.core.handoff.loop_rounds import common_period
from avelt.core.model.limits import MAX_PICTURE_PIXELS
from avelt.core.record import Record
from avelt.core.timing.program import Program, Scene
from avelt.core.words import tr

MOST_PICTURES = 20_000


class Show(Record, frozen=True):
    """``length`` is what happens once, ms; ``period`` after how long its loops come round (0: none). Scenes are asked
    for from the start on."""

    w: float
    h: float
    length: float
    period: float
    scene_at: Callable[[float], Scene]

    def whole(self, rounds: int) -> float:
        """How long a picture of it is, ms: what happens once, or whole rounds of its loops."""
        return self.length if self.length > 0.0 else max(1, rounds) * self.period


def show_of(program: Program) -> Show:
    """A program as it is shown."""
    loops = [t.loop for t in _every_loop(program) if not t.loop.rounds and not t.fades]  # type: ignore[attr-defined]
    period = common_period(loops)[0] if loops else 0.0
    length = 0.0 if program.clocks.stands else program.last
    return Show(program.left.w, program.left.h, length, period, program.from_start)


def _every_loop(program: Program) -> list[object]:
    found: list[object] = list(program.loops)
    for use in program.uses:
        found += _every_loop(use.program)
    return found


class Cut(Record, frozen=True):
    """The pictures of a show: when each is, and for how long it stays, ms."""

    times: tuple[float, ...]
    stays: tuple[float, ...]

    @property
    def length(self) -> float:
        """All together, ms."""
        return math.fsum(self.stays)


def cut_of(show: Show, wanted: Wanted) -> Cut:
    """Picture k is the moment k / fps; of what happens once there is one more at the very end. Loops are cut so that
    the last picture leads into the first."""
    step = 1000.0 / wanted.fps
    whole = show.whole(wanted.rounds)
    if whole <= 0.0:
        return Cut((0.0,), (max(step, wanted.rest),))
    if whole / step > MOST_PICTURES:
        raise FormatError(tr("That would be more than {most_pictures:,} pictures.", most_pictures=MOST_PICTURES))
    if show.length <= 0.0:
        count = max(1, round(whole / step))
        return Cut(tuple(whole * k / count for k in range(count)), (whole / count,) * count)
    count = math.ceil(whole / step - 1e-6)
    times = (*(k * step for k in range(count)), whole)
    return Cut(times, (*(step,) * count, step + wanted.rest))


def check_size(show: Show, wanted: Wanted, most_fps: float) -> tuple[int, int]:
    """The size of the pictures in pixels; ``FormatError`` for what cannot be made."""
    if not 0.05 <= wanted.scale <= 8:
        raise FormatError(tr("The size must be 0.05 to 8 times the frame."))
    if not 1 <= wanted.fps <= most_fps:
        raise FormatError(tr("This kind shows 1 to {most_fps:g} pictures a second.", most_fps=most_fps))
    if not 0 <= wanted.rest <= 60_000:
        raise FormatError(tr("The last picture may stay for 0 to 60,000 ms."))
    if not 1 <= wanted.rounds <= 100:
        raise FormatError(tr("There may be 1 to 100 rounds."))
    w, h = max(1, round(show.w * wanted.scale)), max(1, round(show.h * wanted.scale))
    if w * h > MAX_PICTURE_PIXELS / 4:
        raise FormatError(tr("The picture would be too large."))
    return w, h
