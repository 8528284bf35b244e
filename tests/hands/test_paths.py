"""The motion path in the Now view under a real mouse, on frames as drawing programs export them: one root group."""

from __future__ import annotations

import unittest
from pathlib import Path

from PySide6.QtCore import QPointF, Qt

from avelt.core.formats.project_file import save_project
from avelt.core.model.motion import CueKey
from avelt.core.timing.schedule import timed
from tests.hands.hands import Case, Hands
from tests.support import box, group, project_of
from tests.xvfb import needs_hands, run_in_xvfb


class Paths(Hands, Case):  # type: ignore[misc]
    demo = False

    def setUp(self) -> None:
        super().setUp()
        left, right = (
            group(
                f"root{n}",
                0,
                0,
                (
                    box(f"ground{n}", 0, 0, 200, 200, "#eeeeee", origin="ground"),
                    box(f"other{n}", 20, 150, 30, 30, "#338866", origin="other"),
                    box(f"dot{n}", *at, 20, 20, origin="dot"),
                ),
                origin="root",
            )
            for n, at in (("", (10, 10)), ("2", (170, 110)))
        )
        path = Path(self.folder.name) / "rooted.avelt"
        save_project(project_of((left,), (right,)), path)
        self.window.open_file(path)
        self.window.go("timing")
        self.settle()
        self.station = self.window.stations["timing"]
        self.now = self.station.now
        self.choose("dot")
        self.station.clock.seek(0.0)
        self.settle()

    def choose(self, ident: str) -> None:
        self.station.picking.pick_layer(0, ident)
        self.settle()

    def path(self) -> tuple[tuple[float, float, float], ...] | None:
        project = self.window.workspace.project
        found = timed(project, project.routes[0].transition, "dot", "dot2", "position").motion_path
        return found.points if found is not None else None

    def at(self, x: float, y: float) -> QPointF:
        return self.now.to_widget().map(QPointF(x, y))

    def test_a_double_click_on_the_path_adds_a_node_and_it_is_dragged(self) -> None:
        before = self.window.workspace.project.frames
        self.click(self.now, self.at(100, 70), times=2)
        self.assertIsNotNone(self.path())
        assert self.path() is not None
        self.assertEqual(self.station.context.key.pair, ("dot", "dot2"))
        count = len(self.path())
        self.drag(self.now, self.at(100, 70), self.at(120, 40))
        self.assertEqual((len(self.path()), self.window.workspace.project.frames), (count, before))
        x, y = self.now.way[self.station.context.selection.point]
        self.assertLess(abs(x - 120) + abs(y - 40), 3.0)

    def test_pulling_the_path_bends_it_in_one_step_of_undo(self) -> None:
        before = self.window.workspace.project
        self.drag(self.now, self.at(100, 70), self.at(90, 110))
        self.assertIsNotNone(self.path())
        self.assertEqual(self.window.workspace.project.frames, before.frames)
        self.key("Ctrl+Z")
        self.assertEqual(self.window.workspace.project, before)

    def test_a_click_beside_the_path_chooses_what_lies_there(self) -> None:
        self.click(self.now, self.at(35, 165))
        self.assertNotEqual(self.station.context.key.pair, ("dot", "dot2"))
        self.assertIsNone(self.path())

    def test_a_press_on_any_chosen_layer_keeps_all_chosen(self) -> None:
        keys = (CueKey("dot", "dot2", ""), CueKey("other", "other2", ""))
        for on in ((20, 20), (35, 165)):
            self.station.context.select(type(self.station.context.selection)(keys))
            self.settle()
            self.drag(self.now, self.at(*on), self.at(on[0] + 12, on[1]))
            self.assertEqual(set(self.station.context.keys), set(keys), on)

    def test_a_keyframe_of_two_rows_is_two(self) -> None:
        keys = (CueKey("dot", "dot2", ""), CueKey("other", "other2", ""))
        self.station.context.select(type(self.station.context.selection)(keys))
        self.station.clock.seek(50.0)
        self.now.setFocus(Qt.FocusReason.OtherFocusReason)
        self.key("K")
        project = self.window.workspace.project
        for key in keys:
            self.assertEqual(len(timed(project, project.routes[0].transition, *key.of("position")).keyframes), 1, key)


class OnARealDisplay(unittest.TestCase):
    @needs_hands
    def test_paths(self) -> None:
        run_in_xvfb(self, "tests.hands.test_paths.Paths", hands=True)


if __name__ == "__main__":
    unittest.main()
