"""A delivery played in a browser: its picture at any moment."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from contextlib import contextmanager

from avelt.browser.engines import Shown, opened
from avelt.core.arrays import np
from avelt.core.errors import FormatError
from avelt.core.handoff.delivery import Delivery
from avelt.core.stopping import temporary_folder
from avelt.core.timing.program import Program
from avelt.paint.painter import ScenePainter
from avelt.verify.compare import Verdict, difference, from_png, on_white, written

Size = tuple[float, float]
#: A browser paints what is animated a little softer: at each moment the state is taken over into the elements.
_SEEK = """(ms => {
  for (const a of window.held) { a.play(); a.pause(); a.currentTime = ms }
  const stays = []
  for (const a of window.held) { try { a.commitStyles(); stays.push(a) } catch (e) {} }
  for (const a of stays) a.cancel()
})(%s)"""
_HOLD = "window.held = document.getAnimations(); held.forEach(a => a.pause()); 0"
_ANIMATE = """(layers => {
  for (const layer of layers) for (const animation of layer.animations)
    document.querySelector(layer.selector).animate(animation.keyframes, animation.options)
})(%s.layers)"""
_MAIN = {"css": "index.html", "waapi": "still.svg"}


@contextmanager
def playing(
    kind: str, delivery: Delivery, size: Size, scale: float, browser: Shown | None = None, engine: str = "chromium"
) -> Iterator[Player]:
    """A delivery in a browser, opened as the file that it is and held still at 0. ``size`` is that of the frame."""
    if kind not in ("css", "svg", "waapi"):
        raise FormatError(f"{kind} is not played by a browser at moments.")
    with temporary_folder("avelt-look-") as folder, opened(browser, engine) as shown:
        written(delivery.files, folder)
        main = _MAIN.get(kind, delivery.main)
        if main not in delivery.files:
            raise FormatError(f"There is no {main} in the delivery.")
        w, h = _viewed(delivery.files[main]) if kind == "svg" else size
        shown.open(folder / main, w, h, scale)
        if kind == "waapi":
            shown.run(_ANIMATE % json.dumps(json.loads(delivery.files["motion.json"])))
        shown.run(_HOLD)
        yield Player(shown, (round(size[0] * scale), round(size[1] * scale)))


def _viewed(drawing: bytes) -> Size:
    """The size that an SVG without one is drawn for: that of its ``viewBox``."""
    found = re.search(rb'viewBox="0 0 ([\d.]+) ([\d.]+)"', drawing)
    if found is None:
        raise FormatError("The drawing has no viewBox.")
    return float(found[1]), float(found[2])


class Player:
    """What is played, at moments."""

    def __init__(self, browser: Shown, size: tuple[int, int]) -> None:
        self._browser, self._size = browser, size

    def at(self, ms: float) -> np.ndarray:
        """The picture (h, w, 3) of the frame at a moment."""
        self._browser.run(_SEEK % repr(float(ms)))
        w, h = self._size
        return from_png(self._browser.picture())[:h, :w]


def compared(
    kind: str,
    delivery: Delivery,
    program: Program,
    painter: ScenePainter,
    moments: list[float],
    scale: float = 2.0,
    browser: Shown | None = None,
    engine: str = "chromium",
) -> Verdict:
    """A delivery of a program against the program's own pictures."""
    found = []
    with playing(kind, delivery, (program.left.w, program.left.h), scale, browser, engine) as player:
        for ms in moments:
            designed = on_white(painter.render(program.from_start(ms), scale))
            found.append(difference(designed, player.at(ms), ms))
    return Verdict(tuple(found))
