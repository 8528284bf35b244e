"""A screen of two thousand layers is opened, edited, played, rehearsed and looked back over as if it were small."""

from __future__ import annotations

import unittest
import unittest.mock
from pathlib import Path

import numpy as np
from bench.scenes import large
from msgspec.structs import replace
from PySide6.QtGui import QImage

from avelt.cli import main as cli
from avelt.core.edits.layers import set_value
from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.formats.project_file import save_project
from avelt.core.model.curves import Line
from avelt.core.model.find import find_layer
from avelt.core.model.values import Pose
from avelt.core.timing import resting
from avelt.core.timing.compile import compile_still
from avelt.paint.painter import ScenePainter
from tests.support import WindowCase


class Engine(WindowCase, unittest.TestCase):
    """In one window, on a file of its own."""

    demo = False

    def test_the_large_screen(self) -> None:
        project, loop = add_loop(large(2000, 3), "F0", "c0.100", Pose(shift_x=24.0))
        project = edit_loop(project, "F0", loop, lambda old: replace(old, duration=800.0, curve=Line()))
        self.path = Path(self.folder.name) / "large.avelt"
        save_project(project, self.path)
        self.walk(
            self.open_it_and_see_the_first_frame_at_once,
            self.move_a_card_and_see_it_moved,
            self.play_what_moves,
            self.turn_round_half_way_and_look_back,
            self.hand_over_a_picture_in_which_the_loop_moves,
        )

    def open_it_and_see_the_first_frame_at_once(self) -> None:
        self.assertTrue(self.window.open_file(self.path))
        self.window.grab()
        pictures = self.workspace.pictures
        self.assertGreater(pictures.waiting(), 0)
        while pictures.waiting():
            pictures._next()
        self.assertEqual(pictures.waiting(), 0)

    def move_a_card_and_see_it_moved(self) -> None:
        frame = self.project.frames[0]
        card = find_layer(frame, "Card 50")
        before = self.window.grab().toImage()
        painter = self.workspace._board_painter[1]
        with unittest.mock.patch.object(painter, "_make_run", wraps=painter._make_run) as made:
            self.workspace.do("Move", lambda project: set_value(project, frame.id, card.id, "x", 150.0))
            after = self.window.grab().toImage()
        self.assertNotEqual(before, after)
        self.assertEqual(made.call_count, 1)
        self.window.do("undo")
        self.assertEqual(self.window.grab().toImage(), before)

    def play_what_moves(self) -> None:
        self.window.go("timing")
        self.workspace.choose_route("R0")
        self.settle()
        clock = self.window.clock()
        clock.stop()
        clock.seek(120.0)
        self.window.grab()
        with unittest.mock.patch.object(resting, "item_of", wraps=resting.item_of) as made:
            clock.seek(136.0)
            self.window.grab()
        self.assertTrue(0 < made.call_count < 60, made.call_count)

    def turn_round_half_way_and_look_back(self) -> None:
        self.window.go("rehearse")
        station = self.window.stations["rehearse"]
        station.clock.stop()
        player = station.player
        player.advance(300.0)
        player.tap(300, 5)
        player.advance(499.0)
        shortly_before = player.scene()
        player.advance(500.0)
        half = player.scene()
        player.tap(300, 5)
        self.assertIn("goes back", [entry.what for entry in player.log])
        after = player.scene()
        slot = next(s for s, part in enumerate(after.program.contents) if part.layer.name == "Card 0")
        other = next(s for s, part in enumerate(half.program.contents) if part.layer.name == "Card 0")
        np.testing.assert_allclose(after.scalars[slot, :2], half.scalars[other, :2], atol=1e-6)
        again = player.moment(499.0)
        np.testing.assert_array_equal(again.scene().vector, shortly_before.vector)
        self.window.grab()

    def hand_over_a_picture_in_which_the_loop_moves(self) -> None:
        made = []
        for ms in (0, 200):
            path = Path(self.folder.name) / f"{ms}.png"
            self.assertEqual(cli(["render", str(self.path), "--frame", "Frame 0", "--at", str(ms), "-o", str(path)]), 0)
            made.append(QImage(str(path)).convertToFormat(QImage.Format.Format_ARGB32_Premultiplied))
        self.assertNotEqual(made[0], made[1])
        frame = self.project.frames[0]
        self.assertEqual(made[0], ScenePainter().render(compile_still(frame).at(0.0)))
        self.assertEqual(made[1], ScenePainter().render(compile_still(frame).from_start(200.0)))


if __name__ == "__main__":
    unittest.main()
