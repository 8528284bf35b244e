"""A designer's first evening: two screens in, one tuned transition out, kept as a preset.

She brings two screens in, says that tapping the card goes to the detail, sees what is taken as the same,
watches slowly, gives one layer its own curve and a later start, keeps that motion and puts it on another
layer, lets the boat rock and a notice come by itself, tries it all by tapping, sends a GIF; undo goes all
the way back, and the saved file opens as the same project.
"""

import unittest
from importlib.resources import files
from pathlib import Path
from typing import Any
from unittest import mock

from PySide6.QtCore import QPointF, Qt, QThreadPool
from PySide6.QtTest import QTest

from avelt.core.geometry.flatten import flatten
from avelt.core.model.curves import Spring
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.triggers import Tap, Timer
from avelt.core.timing.schedule import timed
from tests.support import WindowCase, click, drag, keeping, type_into
from tests.xvfb import needs_xvfb, run_in_xvfb


class FirstEvening(WindowCase, unittest.TestCase):
    demo = False

    def bring_in(self) -> None:
        paths = [Path(str(files("avelt.demo").joinpath(f"{name}.svg"))) for name in ("Sailings", "Sailing detail")]
        names = [str(path) for path in paths]
        with mock.patch("PySide6.QtWidgets.QFileDialog.getOpenFileNames", return_value=(names, "")):
            click(self.window.stations["frames"].empty.button)
        self.assertEqual([f.name for f in self.project.frames], ["Sailings", "Sailing detail"])

    def board_spot(self, frame_name: str, layer_name: str) -> QPointF:
        board = self.window.stations["frames"].board
        frame, rect = next((f, r) for f, r in board.viewport.places() if f.name == frame_name)
        flat = flatten(frame)
        x, y, w, h = flat.bounds[flat.index[find_layer(frame, layer_name).id]]
        return board.viewport.to_widget(frame, rect).map(QPointF(x + w / 2, y + h / 2))

    def make_route(self) -> None:
        click(self.window.stations["frames"].board, self.board_spot("Sailings", "Grey Stack card"))
        self.assertEqual(self.workspace.layer.name, "Grey Stack card")
        click(self.window.top.stations["routes"])
        matrix = self.window.stations["routes"].matrix
        click(matrix.viewport(), matrix.cell_rect(0, 1).center())
        self.assertEqual(self.workspace.route.trigger, Tap(self.workspace.layer.id))
        type_into(self.window.stations["routes"].one.length, "480")

    def look_at_pairs(self) -> None:
        click(self.window.top.stations["pairs"])
        pairs = self.window.stations["pairs"]
        same = {
            (find_layer(self.project.frames[0], p.from_id).name, find_layer(self.project.frames[1], p.to_id).name)
            for p in pairs.context.pairing.pairs
        }
        self.assertLessEqual({("Grey Stack photo", "Grey Stack photo"), ("Grey Stack time", "Time")}, same)
        self.assertTrue(pairs.sheet.bars.entries)

    def row(self, name: str) -> Any:
        body = self.window.stations["timing"].sheet.body
        return next((k, r) for k, r in enumerate(body.rows) if name in (r.left_name, r.right_name) and not r.prop)

    def tune(self) -> None:
        click(self.window.top.stations["timing"])
        station = self.window.stations["timing"]
        click(station.speeds.button(2))
        click(station.play)
        station.clock.advance(100)
        self.assertTrue(station.clock.playing)
        self.assertEqual(station.clock.speed, 0.25)
        body, (place, row) = station.sheet.body, self.row("Grey Stack time")
        click(body, QPointF(100, place * 29 + 14))
        self.assertEqual(station.context.key, row.key)
        rect = body.ribbon_rect(place)
        later = body.scale.x(90.0, body.width())
        drag(
            body,
            QPointF(rect.left() + 1, rect.center().y()),
            QPointF(later, rect.center().y()),
            keys=Qt.KeyboardModifier.AltModifier,
        )
        kind = station.curve_editor.kind
        kind.setCurrentIndex(kind.findText("Spring"))
        kind.activated.emit(kind.currentIndex())
        type_into(station.curve_editor.numbers[0], "0.3")
        when = timed(self.project, self.workspace.route.transition, *row.key)
        self.assertAlmostEqual(when.start, 90, delta=3)
        self.assertEqual(when.curve, Spring(0.3))
        station.clock.stop()

    def keep_and_put(self) -> None:
        station = self.window.stations["timing"]
        with mock.patch.object(self.window, "ask", new=keeping("Late and springy")):
            click(station.save)
        self.assertTrue(self.window.shelf.isVisible())
        QTest.keyClick(self.window.shelf, Qt.Key.Key_Escape)
        place, row = self.row("Grey Stack name")
        click(station.sheet.body, QPointF(100, place * 29 + 14))
        click(self.window.top.shelf)
        self.assertIn("Grey Stack name", self.window.shelf.target.text())
        click(self.window.shelf.use)
        self.window.shelf.close_shelf()
        when = timed(self.project, self.workspace.route.transition, *row.key)
        self.assertEqual(when.curve, Spring(0.3))
        self.assertAlmostEqual(when.start, 90, delta=3)

    def rock_the_boat(self) -> None:
        detail = find_frame(self.project, "Sailing detail")
        self.workspace.choose(detail.id, find_layer(detail, "Boat").id)
        click(self.window.top.stations["loops"])
        loops = self.window.stations["loops"].loops
        click(loops.add)
        type_into(loops.fields["rotation"], "5")
        type_into(loops.fields["duration"], "2.4s")
        made = find_frame(self.project, "Sailing detail").loops[0]
        self.assertEqual((made.offset.rotation, made.duration, made.rounds), (5, 2400, 0))

    def let_the_notice_come(self) -> None:
        click(self.window.top.stations["frames"])
        self.workspace.choose(find_frame(self.project, "Sailing detail").id)
        click(self.window.stations["frames"].strip.next)
        late = self.project.frames[2]
        self.workspace.choose(late.id, find_layer(late, "Board button").id)
        table = self.window.stations["frames"].values.table
        rows = {table.item(r, 0).text(): r for r in range(table.rowCount())}
        table.item(rows["position"], 3).setText("20, 480")
        click(self.window.top.stations["routes"])
        routes = self.window.stations["routes"]
        click(routes.matrix.viewport(), routes.matrix.cell_rect(1, 2).center())
        place = routes.one.trigger.findText("timer")
        routes.one.trigger.setCurrentIndex(place)
        routes.one.trigger.activated.emit(place)
        type_into(routes.one.trigger_form.fields["after"], "2s")
        self.assertEqual(self.workspace.route.trigger, Timer(2000.0))

    def rehearse(self) -> None:
        click(self.window.top.stations["rehearse"])
        station = self.window.stations["rehearse"]
        station.clock.stop()
        station.start_over()
        stage = station.stage
        click(stage, stage.to_widget().map(QPointF(180, 320)))
        for _ in range(10):
            station.clock.advance(60)
        self.assertEqual([r.loop.name for r in station.player.running()], ["Boat loop"])
        for _ in range(40):
            station.clock.advance(60)
        self.assertEqual(station.player.frame.name, "Sailing detail, next")
        scene = station.player.scene()
        notice = next(s for s, part in enumerate(scene.program.contents) if part.layer.name == "Board button")
        self.assertAlmostEqual(scene.world()[notice][5], 480, delta=0.01)
        self.assertIn("timer", [entry.what for entry in station.log.entries])

    def send_a_gif(self) -> None:
        self.workspace.choose_route(self.project.routes[0].id)
        click(self.window.top.stations["handoff"])
        station = self.window.stations["handoff"]
        station.folder.setText(self.folder.name)
        click(station.write)
        QThreadPool.globalInstance().waitForDone(60_000)
        self.settle()
        self.assertTrue((Path(self.folder.name) / "sailings-to-sailing-detail.gif").read_bytes().startswith(b"GIF89a"))

    def test_the_evening(self) -> None:
        for step in (
            self.bring_in,
            self.make_route,
            self.look_at_pairs,
            self.tune,
            self.keep_and_put,
            self.rock_the_boat,
            self.let_the_notice_come,
            self.rehearse,
            self.send_a_gif,
        ):
            with self.subTest(step.__name__):
                step()
            self.assertFalse(self.window.grab().isNull())
        whole = self.project
        path = Path(self.folder.name) / "evening.avelt"
        self.assertTrue(self.window.save_to(path))
        count = 0
        while self.workspace.session.undo_label:
            self.window.do("undo")
            count += 1
        self.assertEqual((self.project.frames, self.project.routes), ((), ()))
        self.assertGreaterEqual(count, 12)
        for _ in range(count):
            self.window.do("redo")
        self.assertEqual(self.project, whole)
        self.assertTrue(self.window.open_file(path))
        self.assertEqual(self.project, whole)
        other = self.open_window()
        other.go("timing")
        other.do("shelf")
        self.assertEqual([e.name for e in other.shelf.cards.entries if e.mine], ["Late and springy"])
        self.close_window(other)


class OnARealDisplay(unittest.TestCase):
    @needs_xvfb
    def test_the_evening_in_a_real_window(self) -> None:
        run_in_xvfb(self, "tests.stories.test_thin_slice.FirstEvening")
