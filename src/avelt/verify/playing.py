"""A delivery played in a browser: its picture at any moment."""

from __future__ import annotations

import json
import tempfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from avelt.browser.headless import Browser, opened
from avelt.core.arrays import np
from avelt.core.errors import FormatError
from avelt.core.handoff.delivery import Delivery
from avelt.core.timing.program import Program
from avelt.paint.painter import ScenePainter
from avelt.verify.compare import Verdict, difference, from_png, on_white, written

#: A browser paints what is animated a little softer: at each moment the state is taken over into the elements.
_SEEK = """(ms => {
  for (const a of window.held) { a.play(); a.pause(); a.currentTime = ms }
  const stays = []
  for (const a of window.held) { try { a.commitStyles(); stays.push(a) } catch (e) {} }
  for (const a of stays) a.cancel()
})(%s)"""
_HOLD = "window.held = document.getAnimations(); held.forEach(a => a.pause()); 0"
_WAAPI = """<!doctype html><meta charset="utf-8"><style>html,body{margin:0}svg{display:block}</style>%s<script>
for (const layer of %s.layers) for (const animation of layer.animations)
  document.querySelector(layer.selector).animate(animation.keyframes, animation.options)
</script>"""


@contextmanager
def playing(
    kind: str, delivery: Delivery, w: float, h: float, scale: float, browser: Browser | None = None
) -> Iterator[Player]:
    """A delivery in a browser, held still at 0."""
    with tempfile.TemporaryDirectory(prefix="avelt-look-") as name, opened(browser) as shown:
        folder = Path(name)
        written(delivery.files, folder)
        page = folder / _page(kind, delivery, folder, w, h)
        shown.open(page, w, h, scale)
        shown.run(_HOLD)
        yield Player(shown)


def _page(kind: str, delivery: Delivery, folder: Path, w: float, h: float) -> str:
    if kind == "css":
        return delivery.main
    if kind == "svg":
        drawing = delivery.files[delivery.main].decode()
        # Started by hand: what waits for a pointer or a class waits for nobody here.
        (folder / "look.html").write_text(
            '<!doctype html><meta charset="utf-8"><style>html,body{margin:0}'
            f"svg{{display:block;width:{w}px;height:{h}px}}</style>{drawing}",
            encoding="utf-8",
        )
        return "look.html"
    if kind == "waapi":
        still, motion = delivery.files["still.svg"].decode(), delivery.files["motion.json"].decode()
        safe = json.dumps(json.loads(motion)).replace("</", "<\\/")
        (folder / "look.html").write_text(_WAAPI % (still, safe), encoding="utf-8")
        return "look.html"
    raise FormatError(f"{kind} is not played by a browser at moments.")


class Player:
    """What is played, at moments."""

    def __init__(self, browser: Browser) -> None:
        self._browser = browser

    def at(self, ms: float) -> np.ndarray:
        """The picture (h, w, 3) at a moment."""
        self._browser.run(_SEEK % repr(float(ms)))
        return from_png(self._browser.picture())


def compared(
    kind: str,
    delivery: Delivery,
    program: Program,
    painter: ScenePainter,
    moments: list[float],
    scale: float = 2.0,
    browser: Browser | None = None,
) -> Verdict:
    """A delivery of a program against the program's own pictures."""
    found = []
    with playing(kind, delivery, program.left.w, program.left.h, scale, browser) as player:
        for ms in moments:
            designed = on_white(painter.render(program.from_start(ms), scale))
            found.append(difference(designed, player.at(ms), ms))
    return Verdict(tuple(found))
