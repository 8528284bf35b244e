"""The clickable page of the demo in Chromium: the intervals between its pictures while it is tapped."""

from __future__ import annotations

import tempfile
from pathlib import Path

from avelt.browser.headless import Browser, has_browser
from avelt.core.handoff.delivery import Wanted
from avelt.core.handoff.page import page
from avelt.demo.shipped import shipped_demo
from avelt.paint.letters import QtLetters
from avelt.verify.compare import written
from bench.measure import Row

_SECONDS = 8
_AT = (180, 310)  # px: a card, and what lies there on the next frames
_TAPPED = """new Promise(done => {
  const at = [], svg = document.querySelector("svg");
  svg.setPointerCapture = () => {};
  const tap = () => ["pointermove", "pointerdown", "pointerup"].forEach(kind =>
    svg.dispatchEvent(new PointerEvent(kind, { clientX: %d, clientY: %d, bubbles: true, pointerId: 1 })));
  const next = now => {
    at.push(now);
    if (now - at[0] > %d) { done(at.slice(1).map((v, k) => v - at[k])); return; }
    if (at.length %% 60 === 20) tap();
    requestAnimationFrame(next);
  };
  requestAnimationFrame(next);
})"""


def rows() -> list[Row]:
    """The slowest of a hundred intervals, against those of an empty drawing; nothing where there is no browser."""
    if not has_browser():
        return []
    demo = shipped_demo()
    delivery = page(None, demo, QtLetters(), Wanted(name=demo.name))
    with tempfile.TemporaryDirectory() as name, Browser() as browser:
        folder = Path(name)
        written(delivery.files, folder)
        (folder / "empty.html").write_text("<!doctype html><svg></svg>")
        slow = []
        for file in ("empty.html", delivery.main):
            browser.open(folder / file, 360, 640, 1.0, "")
            browser.run("new Promise(done => setTimeout(() => done(0), 1000))")
            gone = sorted(browser.run(_TAPPED % (*_AT, _SECONDS * 1000)))
            slow.append(gone[int(0.99 * len(gone))] / 1000.0)
    return [
        Row("the demo's page while it is tapped, 99th of 100 intervals", slow[1], slow[0], 1.2, note="an empty page")
    ]
