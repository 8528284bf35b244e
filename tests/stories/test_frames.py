"""A newcomer's ten minutes in Frames: three screens in, a fourth made from one, changed fast, kept true to its file.

She brings three drawings in, reads what was left out, looks at one card in all of them, makes the next state of a
screen, moves and turns things there, rounds a corner, gives the card a shadow and one value in all frames, draws a
badge, groups and carries it, cuts a window with one shape out of another; the drawing changes on the disk and she
takes in what she wants; it is saved, and opens as what it was.
"""

import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from avelt.core.geometry.flatten import flatten
from avelt.core.model.find import find_frame, find_layer, walk
from avelt.core.model.values import Group, Solid
from avelt.core.model.values import Path as Outline
from tests.support import WindowCase, click, drag
from tests.xvfb import needs_xvfb, run_in_xvfb

SCREEN = (
    '<svg xmlns="http://www.w3.org/2000/svg" width="360" height="640"><rect id="Sea" width="360" height="640" fill="{sea}"/>'
    '<g id="Card" transform="translate(20 {y})"><rect id="Paper" width="320" height="120" rx="12" fill="#fffdf8"/>'
    '<text id="Island" x="20" y="50" font-size="24" font-family="Hanken Grotesk">{island}</text>'
    '<circle id="Lamp" cx="280" cy="60" r="22" fill="#c9681c"/></g>'
    '<foreignObject id="Old widget"/></svg>'
)
SCREENS = (("Outer Holm", 80, "#dfe9ea"), ("Grey Stack", 240, "#d5e3e2"), ("Sandray", 420, "#e9e4d8"))
CTRL, SHIFT, ALT = (
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.AltModifier,
)


class TenMinutes(WindowCase, unittest.TestCase):
    demo = False

    def setUp(self) -> None:
        super().setUp()
        self.drawings = tempfile.TemporaryDirectory()
        self.addCleanup(self.drawings.cleanup)
        self.paths = []
        for name, y, sea in SCREENS:
            path = Path(self.drawings.name) / f"{name}.svg"
            path.write_text(SCREEN.format(island=name, y=y, sea=sea))
            self.paths.append(path)

    @property
    def station(self) -> Any:
        return self.window.stations["frames"]

    @property
    def board(self) -> Any:
        return self.station.board

    def layer(self, name: str, frame: str) -> Any:
        return find_layer(find_frame(self.project, frame), name)

    def spot(self, name: str, frame: str) -> QPointF:
        found, rect = next((f, r) for f, r in self.board.viewport.places() if f.name == frame)
        flat = flatten(found)
        x, y, w, h = flat.bounds[flat.index[find_layer(found, name).id]]
        return self.board.viewport.to_widget(found, rect).map(QPointF(x + w / 2, y + h / 2))

    def at(self, x: float, y: float, frame: str) -> QPointF:
        found, rect = next((f, r) for f, r in self.board.viewport.places() if f.name == frame)
        return self.board.viewport.to_widget(found, rect).map(QPointF(x, y))

    def cell(self, row: str, column: int) -> Any:
        table = self.station.values.table
        return next(table.item(r, column) for r in range(table.rowCount()) if table.item(r, 0).text() == row)

    # The steps

    def bring_in(self) -> None:
        names = [str(path) for path in self.paths]
        with mock.patch("PySide6.QtWidgets.QFileDialog.getOpenFileNames", return_value=(names, "")):
            click(self.station.empty.button)
        self.assertEqual([f.name for f in self.project.frames], ["Outer Holm", "Grey Stack", "Sandray"])
        from avelt.window.shell.report import report_lines

        self.assertEqual(sum("foreignObject" in line for line in report_lines(self.project)), 3)

    def look(self) -> None:
        click(self.board, self.spot("Card", "Grey Stack"))
        self.assertEqual(self.workspace.layer.name, "Card")
        self.assertEqual([self.cell("position", c).text() for c in (1, 2, 3)], ["20, 80", "20, 240", "20, 420"])

    def next_state(self) -> None:
        click(self.station.strip.next)
        self.assertEqual(self.project.frames[2].name, "Grey Stack, next")

    def change_it(self) -> None:
        frame = "Grey Stack, next"
        click(self.board, self.spot("Card", frame))
        start = self.spot("Card", frame) + QPointF(-30, 0)
        drag(self.board, start, start + QPointF(0, -60) * self.board.viewport.scale(), keys=SHIFT | ALT)
        self.assertAlmostEqual(self.layer("Card", frame).y, 180, delta=2)
        turn = self.board.grip("rotation")
        drag(self.board, turn, turn + QPointF(40, 0), keys=SHIFT)
        self.assertGreater(self.layer("Card", frame).rotation, 0)
        QTest.keyClick(self.board, Qt.Key.Key_Return)  # into the group: its topmost layer
        self.assertEqual(self.workspace.layer.name, "Lamp")
        self.workspace.choose(self.workspace.frame.id, self.layer("Paper", frame).id)
        corner = self.board.grip("corner", 0)
        drag(self.board, corner, corner + QPointF(5, 5))
        self.assertGreater(self.layer("Paper", frame).body.radii[0], 12)

    def values(self) -> None:
        self.workspace.choose(self.workspace.frame.id, self.layer("Paper", "Grey Stack, next").id)
        click(self.station.values.show_which.button(1))
        self.cell("shadow", 3).setText("0 6 18 #0005")
        self.station.values.take_over(
            self.cell("shadow", 3), self.station.values.row_spots(self.cell("shadow", 3)), "same in all frames"
        )
        for frame in self.project.frames:
            self.assertEqual(len(find_layer(frame, "Paper").shadows), 1, frame.name)
        self.assertEqual(self.workspace.session.undo_label, "shadow same in all frames")
        click(self.station.values.show_which.button(0))

    def draw_and_carry(self) -> None:
        frame = "Outer Holm"
        self.workspace.choose(find_frame(self.project, frame).id)
        click(self.station.tools.choice.button(1))
        drag(self.board, self.at(40, 500, frame), self.at(140, 560, frame))
        badge = self.workspace.layer.id
        self.board.state.use("oval")
        drag(self.board, self.at(120, 520, frame), self.at(170, 570, frame))
        here = self.workspace.frame.id
        self.workspace.choose_several([(here, badge), (here, self.workspace.layer.id)])
        self.station.do("combine_subtract")
        self.assertIsInstance(self.workspace.layer.body, Outline)
        QTest.keyClick(self.board, Qt.Key.Key_G, CTRL)
        self.assertIsInstance(self.workspace.layer.body, Group)
        origin = self.workspace.layer.origin
        self.station.commands.ask = lambda dialog: [tick.setChecked(True) for _, tick in dialog.ticks] != []
        self.station.do("carry")
        for other in self.project.frames:
            self.assertIn(origin, [layer.origin for layer in other.layers], other.name)

    def update_from_file(self) -> None:
        path = self.paths[1]
        path.write_text(SCREEN.format(island="Grey Stack pier", y=240, sea="#112233"))
        self.workspace.choose(find_frame(self.project, "Grey Stack").id)
        ticks = []

        def answer(dialog: Any) -> Any:
            for k in range(dialog.list.count()):
                ticks.append(dialog.list.item(k).text())
                if "Sea" in ticks[-1]:
                    dialog.list.item(k).setCheckState(Qt.CheckState.Unchecked)
            return True

        self.station.commands.ask = answer
        self.station.do("look_again")
        self.assertEqual(sorted(ticks), ["Changed: Island", "Changed: Sea"])
        frame = find_frame(self.project, "Grey Stack")
        self.assertEqual(find_layer(frame, "Island").body.words, "Grey Stack pier")
        self.assertEqual(find_layer(frame, "Sea").fills, (Solid("#d5e3e2"),))
        self.assertEqual(len(find_layer(frame, "Paper").shadows), 1)

    def save(self) -> None:
        path = Path(self.folder.name) / "ten.avelt"
        self.assertTrue(self.window.save_to(path))
        whole = self.project
        self.assertTrue(self.window.open_file(path))
        self.assertEqual(self.project, whole)
        self.assertEqual(sum(1 for frame in whole.frames for _ in walk(frame.layers)), 28)

    def test_the_ten_minutes(self) -> None:
        for step in (
            self.bring_in,
            self.look,
            self.next_state,
            self.change_it,
            self.values,
            self.draw_and_carry,
            self.update_from_file,
        ):
            with self.subTest(step.__name__):
                step()
            self.assertFalse(self.window.grab().isNull())
        whole, count = self.project, 0
        while self.workspace.session.undo_label:
            self.window.do("undo")
            count += 1
        self.assertEqual(self.project.frames, ())
        for _ in range(count):
            self.window.do("redo")
        self.assertEqual(self.project, whole)
        self.save()


class OnARealDisplay(unittest.TestCase):
    @needs_xvfb
    def test_the_ten_minutes_in_a_real_window(self) -> None:
        run_in_xvfb(self, "tests.stories.test_frames.TenMinutes")
