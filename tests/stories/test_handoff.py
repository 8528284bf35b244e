"""What was designed is what is delivered.

Somebody who has tuned a transition hands it to the people who build: she looks at the styles beside her design, sees that they
are the same, sets what starts them, ticks a film and a spec sheet beside, and writes all in one go; a client gets the whole
project as one page and clicks it, with nothing installed; code that came back is kept as a preset.
"""

import json
import tempfile
import time
import unittest
from pathlib import Path

from PySide6.QtCore import QPointF, Qt, QThreadPool
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest

from avelt.browser.headless import Browser, has_browser
from tests.support import WindowCase, click
from tests.xvfb import needs_xvfb, run_in_xvfb


class HandedOff(WindowCase, unittest.TestCase):
    """In one window, on the demo."""

    def test_the_afternoon(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.out = Path(folder.name) / "skerry-motion"
        self.walk(
            self.she_sees_kinds_with_their_sizes,
            self.sees_that_the_styles_are_her_design,
            self.sets_what_starts_them,
            self.writes_what_is_ticked_in_one_go,
            self.a_client_clicks_the_page,
            self.takes_code_that_came_back,
        )

    def tearDown(self) -> None:
        self.window.go("frames")
        QThreadPool.globalInstance().waitForDone(60_000)
        super().tearDown()

    def until(self, done: object) -> None:
        end = time.monotonic() + 90.0
        while not done():  # type: ignore[operator]
            self.assertLess(time.monotonic(), end)
            QThreadPool.globalInstance().waitForDone(50)
            self.settle()

    def look_at(self, kind: str) -> None:
        rect = self.station.kinds.row_rect(kind)
        click(self.station.kinds, QPointF(rect.right() - 70, rect.center().y()))

    def tick(self, kind: str) -> None:
        click(self.station.kinds, self.station.kinds.tick_rect(kind).center())

    def she_sees_kinds_with_their_sizes(self) -> None:
        click(self.window.top.stations["handoff"])
        self.station = self.window.stations["handoff"]
        self.until(lambda: {"css", "html", "svg"} <= self.station.made.keys())
        self.assertTrue(self.station.size_words("html").endswith("kB"))

    def sees_that_the_styles_are_her_design(self) -> None:
        if not has_browser():
            return
        self.station.moment.setValue(120)
        self.until(lambda: "css" in self.station.verdicts and self.station.pictures.images[2] is not None)
        facts = dict(self.station.facts.rows)
        self.assertLess(float(facts["Mean difference"].split()[0]), 0.6)
        self.assertEqual(facts["Left out"], "nothing")

    def sets_what_starts_them(self) -> None:
        chooser = self.station.settings.start
        place = chooser.findText("a class being added")
        chooser.setCurrentIndex(place)
        chooser.activated.emit(place)
        self.until(lambda: "play-state" in self.station.code.whole)
        self.assertIn(".play", self.station.code.whole)

    def writes_what_is_ticked_in_one_go(self) -> None:
        for kind in set(self.station.choices.ticked) ^ {"html", "css", "mp4", "spec"}:
            self.tick(kind)
        self.assertEqual(self.station.write.text(), "Write 4 kinds")
        field = self.station.folder
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, str(self.out))
        QTest.keyClick(field, Qt.Key.Key_Return)
        click(self.station.write)
        self.until(lambda: self.station.writer.job is None)
        names = {path.name for path in self.out.iterdir()}
        self.assertEqual(
            names,
            {
                "skerry-line.html",
                "sailings-to-sailing-detail-css",
                "sailings-to-sailing-detail.mp4",
                "sailings-to-sailing-detail-spec",
            },
        )
        self.assertIn("written into", self.station.answer.text())

    def a_client_clicks_the_page(self) -> None:
        if not has_browser():
            return
        with Browser() as browser:
            browser.open(self.out / "skerry-line.html", 360, 640, 1.0, "#hold")
            browser.run(
                "new Promise(d => { const w = setInterval(() => { if (window.avelt) { clearInterval(w); d(0) } }, 5) })"
            )
            browser.run("avelt.advance(100), avelt.press(180, 300), avelt.release(180, 300), avelt.advance(1000), 0")
            said = json.dumps(browser.run("avelt.log()"))
        self.assertIn("Sailing detail", said)

    def takes_code_that_came_back(self) -> None:
        self.window.go("timing")
        self.settle()
        self.window.do("shelf")
        self.settle()
        QGuiApplication.clipboard().setText(
            "@keyframes rise { from { opacity: 0; translate: 0 24px } }\n.card { animation: rise 320ms cubic-bezier(.2, 0, .1, 1) }"
        )
        self.window.shelf.cards.setFocus()
        QTest.keyClick(self.window.shelf, Qt.Key.Key_V, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.assertIn("rise", [entry.name for entry in self.window.shelf.cards.entries])
        self.assertEqual(self.workspace.shelf.find("rise").kind, "enter")


class OnARealDisplay(unittest.TestCase):
    @needs_xvfb
    def test_the_afternoon_in_a_real_window(self) -> None:
        run_in_xvfb(self, "tests.stories.test_handoff.HandedOff")


if __name__ == "__main__":
    unittest.main()
