"""A newcomer's hour with motion that waits, repeats and decides: three pulses in step, and a pull for news.

She lets one block pulse and copies that to the other two, a little later each; turns phases and waits on the dial and
the strip, closes a seam, draws a second pose on the board; makes a part of a boat, gives it poses, and builds its
running order row by row: it follows a pull, strains, lets go, runs until the news is in. She tries it with live inputs,
tries the same again, adds a side track, and takes all of it back.
"""

from __future__ import annotations

import unittest
from pathlib import Path
from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QSlider

from avelt.core.checks.table import findings
from avelt.core.edits.frames import next_state
from avelt.core.edits.inputs import add_input
from avelt.core.edits.layers import set_value
from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.edits.parts import feed, rename_part
from avelt.core.model.find import find_frame, find_layer
from avelt.core.model.phases import ShowBlend, ShowLoops, ShowMotion
from avelt.core.model.values import Pose, RoundKey
from avelt.core.timing.loops import distance
from avelt.window.controls.fields import NumberField
from avelt.window.loops.strip import pieces
from tests.support import WindowCase, click, drag, type_into
from tests.xvfb import needs_xvfb, run_in_xvfb

HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="240" height="320">'
QUAY = (
    f'{HEAD}<rect id="Ground" width="240" height="320" fill="#eef3f1"/>'
    + "".join(
        f'<rect id="{name}" x="{30 + 66 * k}" y="30" width="48" height="48" rx="8" fill="#0e7c74"/>'
        for k, name in enumerate(("First", "Second", "Third"))
    )
    + '<rect id="Hull" x="80" y="230" width="60" height="20" fill="#c9581c"/>'
    + '<rect id="Mast" x="108" y="190" width="4" height="40" fill="#14343a"/></svg>'
)
SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)


class MotionThatDecides(WindowCase, unittest.TestCase):
    demo = False

    def test_the_hour(self) -> None:
        self.walk(
            self.three_pulses_in_step,
            self.the_dial_and_the_strip_are_dragged,
            self.a_seam_is_seen_and_closed,
            self.a_second_pose_is_drawn_on_the_board,
            self.a_boat_becomes_a_part_with_poses,
            self.the_running_order_is_built_row_by_row,
            self.what_is_wrong_is_refused_with_its_place,
            self.it_runs_by_live_inputs_and_the_same_again,
            self.a_row_is_dragged_and_a_side_track_runs_beside,
            self.its_motion_has_a_cue_sheet,
            self.the_screen_shows_it_and_nothing_is_wrong,
        )
        self.take_all_back_and_again()

    # What is there

    @property
    def quay(self) -> Any:
        return find_frame(self.workspace.whole, "Quay")

    @property
    def station(self) -> Any:
        return self.window.stations["loops"]

    @property
    def editor(self) -> Any:
        return self.station.orders.editor

    def loop(self, name: str) -> Any:
        return next(loop for loop in self.quay.loops if loop.name == name)

    def phase(self, name: str) -> Any:
        return next(phase for track in self.project.tracks for phase in track.phases if phase.name == name)

    def names(self) -> list[str]:
        return [phase.name for track in self.project.tracks for phase in track.phases]

    def running(self) -> dict[str, str]:
        self.station.play_of.go_to(self.station.clock.ms)
        return self.station.play_of.player.phases()[""]

    def wait(self, ms: float) -> None:
        """Time goes on in the station."""
        clock = self.station.clock
        clock.ms += ms
        clock.ticked.emit(clock.ms)
        self.settle()

    # Steps

    def three_pulses_in_step(self) -> None:
        path = Path(self.folder.name) / "Quay.svg"
        path.write_text(QUAY, encoding="utf-8")
        self.window.import_files([path])
        while not self.project.frames:
            self.settle()
        self.workspace.choose(self.quay.id, find_layer(self.quay, "First").id)
        self.window.go("loops")
        self.settle()
        self.station.clock.stop()
        panel = self.station.loops
        click(panel.add)
        type_into(panel.fields["duration"], "600")
        type_into(panel.fields["wait"], "600")
        click(panel.wait_when.button(1))
        type_into(panel.fields["scale"], "130")
        for name in ("Second", "Third"):
            self.workspace.choose_also(self.quay.id, find_layer(self.quay, name).id)
        type_into(panel.step, "200")
        click(panel.copy)
        self.assertEqual([loop.name for loop in self.quay.loops], ["First loop", "Second loop", "Third loop"])
        # One pulses after the other, and after ten hours they still do, to a millionth of a round.
        for ms in (100.0, 700.0, 36_000_000.0 + 700.0):
            far = [float(distance(loop, ms + 200.0 * k)) for k, loop in enumerate(self.quay.loops)]
            self.assertLess(max(far) - min(far), 1e-6, ms)
        self.assertIn("One round of all: 1.2 s", self.station.period.text())

    def the_dial_and_the_strip_are_dragged(self) -> None:
        before = self.loop("First loop")
        strip = self.station.strip
        there = next(piece for piece in pieces(before, strip.span()) if piece[0] == "there")
        y = 22 + 20
        start = QPointF((strip.x_of(there[1]) + strip.x_of(there[2])) / 2, y)
        drag(strip, start, start + QPointF(strip.x_of(100) - strip.x_of(0), 0))
        self.assertAlmostEqual(self.loop("First loop").start_offset, 1200 - 100, delta=20)
        self.window.do("undo")
        self.assertEqual(self.loop("First loop"), before)
        wait = QPointF(strip.x_of(600), y)
        drag(strip, wait, QPointF(strip.x_of(700), y))
        self.assertAlmostEqual(self.loop("First loop").wait, 700, delta=20)
        self.window.do("undo")
        dial = self.station.dial
        middle, _ = dial._middle()
        r, _ = dial._ring(0)
        drag(dial, middle + QPointF(-r, 0.01), middle + QPointF(-r * 0.7071, -r * 0.7071))
        self.assertNotEqual(self.loop("First loop").start_offset, before.start_offset)
        self.window.do("undo")
        self.assertEqual(self.loop("First loop"), before)

    def a_seam_is_seen_and_closed(self) -> None:
        panel = self.station.loops
        self.station.choose(self.loop("First loop").id)
        self.settle()
        self.assertEqual(panel.seam.text(), "Seam closed.")
        click(panel.way.button(1))
        self.assertIn("scale", panel.seam.text())
        self.assertIn(self.loop("First loop").id, self.station.strip.jumps)
        click(panel.close_seam)
        self.assertEqual(self.loop("First loop").direction, "there and back")
        type_into(panel.keys, "20% 1, 70% 1, 100% 0.5")
        self.assertEqual(self.loop("First loop").keyframes[-1], RoundKey(1.0, 0.5))
        click(panel.close_seam)
        self.assertEqual(self.loop("First loop").keyframes[-1], RoundKey(1.0, 0.0))
        type_into(panel.keys, "20 percent 1")
        self.assertEqual(len(self.loop("First loop").keyframes), 3)  # refused: it stays as it was

    def a_second_pose_is_drawn_on_the_board(self) -> None:
        loop = self.loop("Second loop")
        self.station.choose(loop.id)
        self.settle()
        click(self.station.loops.pose_button)
        self.settle()
        self.assertEqual(self.window.current, "frames")
        self.assertIn("second pose", self.workspace.stages.names(self.workspace.whole)[-1])
        layer = find_layer(self.project.frames[0], "Second")
        self.assertEqual(layer.scale_x, 1.3)
        self.workspace.do("fill", lambda p: set_value(p, p.frames[0].id, layer.id, "fill", "#ff8800"))
        self.workspace.do("corners", lambda p: set_value(p, p.frames[0].id, layer.id, "x", 110))
        other = find_layer(self.project.frames[0], "Third")
        self.assertFalse(self.workspace.do("no", lambda p: set_value(p, p.frames[0].id, other.id, "fill", "#ff8800")))
        self.workspace.close_part()
        self.settle()
        made = self.loop("Second loop")
        self.assertEqual((made.offset.shift_x, made.offset.scale_x), (14.0, 1.3))
        self.assertIsNotNone(made.changes.fills)

    def a_boat_becomes_a_part_with_poses(self) -> None:
        self.window.go("frames")
        ids = [find_layer(self.quay, name).id for name in ("Hull", "Mast")]
        self.workspace.choose_several([(self.quay.id, ident) for ident in ids])
        board = self.window.stations["frames"].board
        board.setFocus()
        QTest.keyClick(board, Qt.Key.Key_P, CTRL)
        self.settle()
        part = self.workspace.whole.parts[0]
        self.workspace.do("name", lambda p: rename_part(p, part.id, "Boat"))
        self.workspace.open_part(part.id)
        for name, moved in (("drawn", (0, 30)), ("away", (50, 0))):
            first = self.project.frames[0]
            self.workspace.do(f"pose {name}", lambda p, f=first, n=name: next_state(p, f.id, n))
            pose = find_frame(self.project, name)
            for layer in pose.layers:
                for axis, by in zip("xy", moved, strict=True):
                    value = getattr(layer, axis) + by
                    self.workspace.do(
                        "move", lambda p, i=pose.id, k=layer.id, a=axis, v=value: set_value(p, i, k, a, v)
                    )
        for name, kind in (("pull", "number"), ("held", "yes/no"), ("news", "signal")):
            self.workspace.make("input", lambda p, n=name, k=kind: add_input(p, n, k))
        hull = find_layer(find_frame(self.project, "away"), "Hull")
        away = find_frame(self.project, "away")
        ident = self.workspace.make("loop", lambda p: add_loop(p, away.id, hull.id, Pose(shift_y=-6.0)))
        self.workspace.do("time", lambda p: edit_loop(p, away.id, ident, lambda o: replace(o, duration=500.0)))

    def the_running_order_is_built_row_by_row(self) -> None:
        self.window.go("loops")
        self.station.clock.stop()
        click(self.station.views.button(1))
        self.assertTrue(self.station.orders.empty.isVisible())
        for name in ("rest", "draw", "leap", "sail", "moor"):
            click(self.station.new_phase)
            type_into(self.editor.name, name)
        self.assertEqual(self.names(), ["rest", "draw", "leap", "sail", "moor"])
        first = self.project.frames[0].name
        self.open("draw")
        self.pick(self.editor.kind, "a blend")
        self.pick(self.editor.last, "drawn")
        type_into(self.editor.by, "pull / 100")
        shows = self.phase("draw").shows
        assert isinstance(shows, ShowBlend)
        self.assertEqual(shows.by, "pull / 100")
        self.open("leap")
        self.pick(self.editor.kind, "a motion")
        self.pick(self.editor.first, "drawn")
        self.pick(self.editor.last, "away")
        type_into(self.editor.duration, "400")
        self.assertIsInstance(self.phase("leap").shows, ShowMotion)
        self.open("sail")
        self.pick(self.editor.kind, "loops of")
        self.pick(self.editor.first, "away")
        self.assertIsInstance(self.phase("sail").shows, ShowLoops)
        self.open("moor")
        self.pick(self.editor.kind, "a motion")
        self.pick(self.editor.first, "away")
        self.pick(self.editor.last, first)
        for name, condition, to, finish in (
            ("rest", "held", "draw", False),
            ("draw", "not held and pull >= 70", "leap", False),
            ("draw", "not held", "rest", False),
            ("leap", "", "sail", False),
            ("sail", "", "moor", True),
            ("moor", "", "rest", False),
        ):
            self.open(name)
            click(self.editor.add_rule)
            line = self.editor.rules[-1]
            if condition:
                type_into(line.condition, condition)
            line = self.editor.rules[-1]
            self.pick(line.to, to)
            if finish:
                self.pick(line.event_pick, "news is sent")
                click(self.editor.rules[-1].finish, QPointF(8, 10))
        self.assertEqual(len(self.phase("draw").then), 2)
        self.assertTrue(self.phase("sail").then[0].finish_round)
        self.assertFalse([found for found in findings(self.workspace.whole) if found.trouble.phases])

    def open(self, name: str) -> None:
        """A click on a row opens it."""
        ident = self.phase(name).id
        if self.station.orders.chosen != ident:
            line = self.station.orders.lines[ident]
            self.station.orders.scroller.ensureWidgetVisible(line)
            click(line)
        self.assertEqual(self.station.orders.chosen, ident)

    def what_is_wrong_is_refused_with_its_place(self) -> None:
        said: list[str] = []
        self.workspace.said.connect(said.append)
        self.open("draw")
        field = self.editor.rules[0].condition
        type_into(field, "pul > 3")
        self.assertIn("“pul”: letter 1", said[-1])
        self.assertEqual((field.selectionStart(), field.text()), (0, "pul > 3"))
        type_into(field, "pull >> 3")
        self.assertIn("letter 7", said[-1])
        QTest.keyClick(field, Qt.Key.Key_Escape)
        self.assertEqual(field.text(), "not held and pull >= 70")
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, "not held and pu")
        popup = field._completer.popup()
        self.assertTrue(popup.isVisible())
        QTest.keyClick(popup, Qt.Key.Key_Return)
        QTest.keyClicks(field, " > 60")
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.assertEqual(self.phase("draw").then[0].only_if, "not held and pull > 60")

    def it_runs_by_live_inputs_and_the_same_again(self) -> None:
        station = self.station
        station.try_again()
        station.clock.stop()
        self.assertEqual(self.running(), {"main": "rest"})
        self.wait(200)
        click(station.inputs.rows["held"])
        self.assertEqual(self.running(), {"main": "draw"})
        self.assertTrue(station.orders.lines[self.phase("draw").id].runs)
        self.assertEqual(station.orders.lines[self.phase("rest").id].fired, 0)
        self.wait(100)
        slide, number = (station.inputs.rows["pull"].findChildren(kind)[0] for kind in self.slider_kinds())
        type_into(number, "80")
        slide.setValue(500)
        self.assertEqual(station.play_of.player.inputs["pull"], 40.0)
        slide.setValue(1000)
        hull = station.view.scene
        self.assertIsNotNone(hull)
        self.wait(100)
        click(station.inputs.rows["held"])
        self.assertEqual(self.running(), {"main": "leap"})
        self.wait(450)
        self.assertEqual(self.running(), {"main": "sail"})
        click(station.inputs.rows["news"])
        self.assertEqual(self.running(), {"main": "sail"})  # the round is finished first
        self.wait(500)
        self.assertEqual(self.running(), {"main": "moor"})
        log = [(entry.at, entry.phase) for entry in station.play_of.player.log if entry.phase]
        click(station.again)
        station.clock.stop()
        self.wait(1350)
        again = [(entry.at, entry.phase) for entry in station.play_of.player.log if entry.phase]
        self.assertEqual([name for _, name in again], [name for _, name in log])
        for (one, _), (two, _) in zip(log, again, strict=True):
            self.assertAlmostEqual(one, two, delta=1e-6)

    @staticmethod
    def slider_kinds() -> tuple[Any, Any]:
        return QSlider, NumberField

    def a_row_is_dragged_and_a_side_track_runs_beside(self) -> None:
        orders = self.station.orders
        orders.choose("")
        self.settle()
        line = orders.lines[self.phase("moor").id]
        orders.scroller.ensureWidgetVisible(line)
        drag(line, QPointF(200, 20), QPointF(200, 20 - 46))
        self.assertEqual(self.names(), ["rest", "draw", "leap", "moor", "sail"])
        QTest.keyClick(line, Qt.Key.Key_Down, ALT)
        self.assertEqual(self.names(), ["rest", "draw", "leap", "sail", "moor"])
        click(self.station.new_track)
        type_into(self.editor.name, "look out")
        self.assertEqual(len(self.project.tracks), 2)
        self.assertEqual(set(self.running()), {"main", "side track 1"})
        QTest.keyClick(orders.lines[self.phase("sail").id], Qt.Key.Key_Return, CTRL)
        self.station.clock.stop()
        self.assertEqual(self.running()["main"], "sail")  # a phase is jumped to

    def its_motion_has_a_cue_sheet(self) -> None:
        self.open("leap")
        click(self.editor.sheet)
        self.settle()
        self.assertEqual(self.window.current, "timing")
        timing = self.window.stations["timing"]
        self.assertEqual(timing.context.route_id, f"phase:{self.phase('leap').id}")
        self.assertTrue([row for row in timing.context.rows if row.changes])
        type_into(timing.bar.length, "500")
        shows = self.phase("leap").shows
        assert isinstance(shows, ShowMotion)
        self.assertEqual(shows.transition.duration, 500.0)

    def the_screen_shows_it_and_nothing_is_wrong(self) -> None:
        self.workspace.close_part()
        use = next(layer for layer in self.quay.layers if layer.kind == "use")
        for name, kind in (("finger", "number"), ("down", "yes/no"), ("news-came", "signal")):
            self.workspace.make("input", lambda p, n=name, k=kind: add_input(p, n, k))
        for name, by in (("pull", "finger * 100"), ("held", "down"), ("news", "news-came")):
            self.assertTrue(self.workspace.do("feed", lambda p, n=name, b=by: feed(p, self.quay.id, use.id, n, b)))
        self.window.go("rehearse")
        station = self.window.stations["rehearse"]
        station.clock.stop()
        station.player.set_input("down", True)
        station.player.set_input("finger", 0.9)
        station.player.advance(50)
        self.assertEqual(station.player.phases()[use.name]["main"], "draw")
        self.assertFalse([found.line for found in findings(self.workspace.whole) if found.check.severity == "error"])


class OnARealDisplay(unittest.TestCase):
    @needs_xvfb
    def test_the_hour_in_a_real_window(self) -> None:
        run_in_xvfb(self, "tests.stories.test_loops.MotionThatDecides")


if __name__ == "__main__":
    unittest.main()
