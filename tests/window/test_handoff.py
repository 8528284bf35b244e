"""Hand-off in the window: kinds, sizes, the delivery beside the design, code, writing."""

import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QPointF, Qt, QThreadPool
from PySide6.QtGui import QGuiApplication
from PySide6.QtTest import QTest

from avelt.browser.headless import VARIABLE, has_browser
from avelt.core.handoff.delivery import Delivery, Wanted
from avelt.core.model.find import find_layer
from avelt.deliver.kinds import BY_KEY, KINDS
from avelt.window.common.remembered import Remembered
from avelt.window.controls.code_view import lines_of
from avelt.window.handoff.choices import Choices, remember, remembered
from avelt.window.handoff.code_view import code_of
from avelt.window.handoff.facts import rows_of
from tests.support import WindowCase, click

_QUICK = {kind.key for kind in KINDS if not kind.looks}


class HandOff(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("handoff")
        self.settle()
        self.station = self.window.stations["handoff"]
        self.station.folder.setText(self.folder.name)
        self.station._chosen(folder=self.folder.name)

    def tearDown(self) -> None:
        self.station.leave()
        QThreadPool.globalInstance().waitForDone(60_000)
        super().tearDown()

    def until(self, done: object, what: str = "") -> None:
        """Let the background work go on until something is so."""
        end = time.monotonic() + 60.0
        while not done():  # type: ignore[operator]
            self.assertLess(time.monotonic(), end, what or "it never came")
            QThreadPool.globalInstance().waitForDone(50)
            self.settle()

    def look_at(self, kind: str) -> None:
        """Click the row of a kind."""
        rect = self.station.kinds.row_rect(kind)
        spot = QPointF(rect.right() - 60, rect.center().y()).toPoint()
        QTest.mouseClick(self.station.kinds, Qt.MouseButton.LeftButton, pos=spot)
        self.settle()

    def test_sizes_are_true_before_anything_is_written(self) -> None:
        self.assertEqual(self.station.size_words("css"), "…")
        self.until(lambda: self.station.made.keys() >= _QUICK)
        made = self.station.made["css"].delivery
        self.assertEqual(self.station.size_words("css"), f"{made.size / 1000:.0f} kB")
        self.assertEqual(list(Path(self.folder.name).iterdir()), [])

    def test_what_is_typed_into_the_code_goes_into_the_sheet(self) -> None:
        self.look_at("css")
        self.until(lambda: self.station.delivery is not None and self.station.code.whole)
        code, route = self.station.code, self.project.routes[0]
        self.assertFalse(code.isReadOnly())
        before = code.whole
        line = next(row for row in before.split("\n") if "hero-card-position var(" in row)
        code.setPlainText(before.replace(line, line.replace("130ms", "100ms")))
        self.assertTrue(code.is_changed)
        QTest.keyClick(code, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.assertIn("Hero card", self.window.said.text())
        starts = {cue.start for cue in self.project.routes[0].transition.cues}
        self.assertIn(100.0, starts)
        self.until(lambda: "hero-card-position var(--length-2) var(--curve-1) 100ms" in code.whole)
        self.window.do("undo")
        self.assertEqual(self.project.routes[0], route)
        self.until(lambda: code.whole == before)
        code.setPlainText(before.replace("hero-card-position", "hero"))
        QTest.keyClick(code, Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        self.assertIn("Only lengths", self.window.said.text())
        QTest.keyClick(code, Qt.Key.Key_Escape)
        self.assertEqual(code.toPlainText(), before)
        self.look_at("svg")
        self.assertTrue(code.isReadOnly())

    def test_what_is_ticked_is_written_in_one_go(self) -> None:
        kinds = self.station.kinds
        self.station._chosen(ticked=("css",))
        spot = kinds.tick_rect("spec").center().toPoint()
        QTest.mouseClick(kinds, Qt.MouseButton.LeftButton, pos=spot)
        kinds.setFocus()
        self.look_at("gif")
        QTest.keyClick(kinds, Qt.Key.Key_Space)
        self.assertEqual(self.station.choices.ticked, ("css", "gif", "spec"))
        self.assertEqual(self.station.write.text(), "Write 3 kinds")
        steps: list[tuple[int, int]] = []
        click(self.station.write)
        self.station.writer.progressed.connect(lambda done, whole: steps.append((done, whole)))
        self.assertTrue(self.station.stop.isVisibleTo(self.station))
        self.until(lambda: self.station.writer.job is None)
        names = sorted(p.name for p in Path(self.folder.name).iterdir())
        self.assertEqual(
            names,
            ["sailings-to-sailing-detail-css", "sailings-to-sailing-detail-spec", "sailings-to-sailing-detail.gif"],
        )
        self.assertTrue(steps)
        self.assertIn("6 files are written", self.station.answer.text())

    def test_it_can_be_stopped_and_leaves_nothing(self) -> None:
        self.station._chosen(ticked=("webp", "apng"))
        self.station.make()
        click(self.station.stop)
        self.until(lambda: self.station.writer.job is None)
        self.assertIn("Nothing was written", self.station.answer.text())
        self.assertEqual(list(Path(self.folder.name).iterdir()), [])

    def test_a_folder_that_cannot_be(self) -> None:
        (Path(self.folder.name) / "file").write_bytes(b"")
        self.station._chosen(ticked=("svg",), folder=f"{self.folder.name}/file/none")
        self.station.folder.setText(f"{self.folder.name}/file/none")
        self.station.make()
        self.until(lambda: self.station.writer.job is None)
        self.assertIn("cannot be written", self.station.answer.text())

    @unittest.skipUnless(has_browser(), "there is no Chromium on this machine")
    def test_the_delivery_is_seen_beside_the_design(self) -> None:
        self.look_at("svg")
        self.station.moment.setValue(150)
        self.until(lambda: self.station.pictures.images[1] is not None)
        designed, delivered = self.station.pictures.images[:2]
        self.assertEqual(designed.size(), delivered.size())
        self.until(lambda: "svg" in self.station.verdicts)
        self.assertLess(self.station.verdicts["svg"].mean, 0.6)
        self.assertIn(("Compared at", "33 moments"), self.station.facts.rows)

    def test_space_plays_and_stops_the_pictures(self) -> None:
        self.look_at("spec")  # nothing is compared: only the design moves
        station, clock = self.station, self.station.clock
        station.code.clearFocus()
        station.pictures.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        station.pictures.setFocus()
        first = station.pictures.images[0]
        QTest.keyClick(station.pictures, Qt.Key.Key_Space)
        self.assertTrue(clock.playing)
        self.assertEqual(station.play.text(), "Stop")
        clock._timer.setInterval(1_000_000)  # no time but what the test gives
        start = clock.ms
        clock.advance(240.0 - start)
        self.assertEqual(
            (station.at.text(), station.moment.value()), ("240 ms", round(240_000 / 2480))
        )  # 480, and 2 s of loops
        self.assertNotEqual(station.pictures.images[0], first)
        QTest.keyClick(station.pictures, Qt.Key.Key_Space)
        self.assertFalse(clock.playing)
        self.assertEqual((clock.ms, station.play.text()), (240.0, "Play"))
        QTest.keyClick(station.pictures, Qt.Key.Key_Period)
        self.assertEqual(clock.ms, 250.0)
        station.moment.setValue(250)
        self.assertEqual((clock.ms, station.at.text()), (620.0, "620 ms"))
        click(station.play)
        self.window.go("loops")
        self.assertFalse(clock.playing)

    @unittest.skipUnless(has_browser(), "there is no Chromium on this machine")
    def test_while_playing_both_are_of_one_moment(self) -> None:
        self.look_at("svg")
        self.until(lambda: "svg" in self.station.verdicts)
        self.until(lambda: self.station.looker.job is None)
        before = self.station.pictures.images[:2]
        self.station.clock.play()
        self.station.clock._timer.setInterval(1_000_000)
        self.station.clock.advance(200.0)
        self.assertEqual(self.station.pictures.images[:2], before)  # the design waits for the delivery
        self.until(lambda: self.station.pictures.images[1] != before[1])
        self.assertNotEqual(self.station.pictures.images[0], before[0])

    def test_pictures_are_seen_beside_the_design(self) -> None:
        self.look_at("gif")
        self.until(lambda: self.station.pictures.images[2] is not None)
        self.assertEqual(self.station.pictures.images[0].size(), self.station.pictures.images[1].size())
        self.look_at("spec")
        self.assertIn("nothing to compare", self.station.pictures.whys[1])

    def test_without_a_browser_everything_else_works(self) -> None:
        with mock.patch.dict("os.environ", {VARIABLE: "no-such-program"}):
            self.look_at("waapi")
            self.until(lambda: "waapi" in self.station.made)
            self.assertIn("no Chromium", self.station.pictures.whys[1])
            self.assertIsNotNone(self.station.pictures.images[0])
            self.assertNotIn("Compared at", [words for words, _ in self.station.facts.rows])

    def test_the_code_is_live_marked_and_copied(self) -> None:
        self.look_at("css")
        self.until(lambda: bool(self.station.code.whole))
        frame = self.project.frames[0]
        self.workspace.choose(frame.id, find_layer(frame, "Header").id)
        self.settle()
        lines = self.station.code.toPlainText().split("\n")
        self.assertTrue(any(lines[k].endswith("#header {") for k in self.station.code.marked))
        click(self.station.copy)
        self.assertEqual(QGuiApplication.clipboard().text(), self.station.code.whole)
        route = self.workspace.route
        before = self.station.code.whole
        from avelt.core.edits.routes import set_duration

        self.workspace.do("Length", lambda project: set_duration(project, route.id, 900.0))
        self.until(lambda: self.station.code.whole not in ("", before))
        self.assertIn("900ms", self.station.code.whole)

    def test_settings_change_what_is_made(self) -> None:
        self.look_at("css")
        self.until(lambda: bool(self.station.code.whole))
        settings = self.station.settings
        settings.prefix.setFocus()
        QTest.keyClicks(settings.prefix, "Ferry")
        QTest.keyClick(settings.prefix, Qt.Key.Key_Return)
        settings.start.setCurrentIndex(1)
        settings.start.activated.emit(1)
        self.until(
            lambda: (
                ".ferry-sailings-to-sailing-detail.play" in self.station.code.whole
                or "play-state" in self.station.code.whole
            )
        )
        self.assertIn("#ferry-header", self.station.code.whole)
        self.assertEqual((self.station.choices.wanted.prefix, self.station.choices.wanted.start), ("ferry-", "class"))

    def test_other_things_than_routes(self) -> None:
        labels = [self.station.subjects.itemText(k) for k in range(self.station.subjects.count())]
        self.assertEqual(labels[-1], "Everything")
        place = labels.index("Sailing detail")
        self.station.subjects.setCurrentIndex(place)
        self.station.subjects.activated.emit(place)
        self.until(lambda: "css" in self.station.made)
        self.assertEqual(self.station.subject.name, "Sailing detail")
        self.assertGreater(self.station.subject.show.period, 0)


class Pieces(unittest.TestCase):
    def test_choices_are_remembered_for_each_project(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            memory = Remembered(Path(name) / "x.json")
            mine = Choices("route:R", ("svg", "png"), "png", "/tmp", Wanted(prefix="a-", fps=50.0))
            remember(memory, "one", mine)
            again = Remembered(Path(name) / "x.json")
            self.assertEqual(remembered(again, "one"), mine)
            self.assertEqual(remembered(again, "two"), Choices())
            for odd in ("{", '{"kind": "no"}', '{"ticked": ["no"]}', "[]"):
                again.keep("handoff one", odd)
                self.assertEqual(remembered(again, "one").kind, "css")

    def test_which_lines_are_about_a_layer(self) -> None:
        text = "/* Card */\n.it #card {\n  animation: x;\n}\n.it #card-row {\n}\n@keyframes card-position {\n  from { a }\n}"
        self.assertEqual(lines_of(text, "Card"), [1, 2, 3])
        self.assertEqual(lines_of(text, ""), [])
        self.assertEqual(lines_of('{"name": "Card 2"}', "Card 2"), [0])

    def test_each_kind_of_text_has_its_file(self) -> None:
        delivery = Delivery({"index.html": b"h", "motion.css": b"c"}, "index.html")
        self.assertEqual(code_of("css", delivery), ("motion.css", "c"))
        self.assertEqual(code_of("gif", delivery), ("", ""))
        self.assertEqual(rows_of(None, None, True), [("Compared at", "being compared")])
        self.assertTrue(all(BY_KEY[kind.key] is kind for kind in KINDS))


if __name__ == "__main__":
    unittest.main()
