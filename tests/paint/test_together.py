"""What rests together is painted once; while something is scrolled, one thing a picture, and what is kept is moved."""

from __future__ import annotations

import unittest
from unittest import mock

from msgspec.structs import replace
from PySide6.QtGui import QImage

from avelt.core.edits.loops import add_loop
from avelt.core.model.values import Frame, Layer, Pose, Project, Shadow
from avelt.core.timing.compile import compile_still
from avelt.core.timing.program import Scene
from avelt.core.timing.scrolling import ACROSS, DOWN
from avelt.paint.painter import ScenePainter
from avelt.paint.together import Together
from tests.paint.test_kept_sheets import off_by
from tests.support import box, group, text

SOFT = (Shadow("#00000080", 0, 4, 5),)
SCALE = 1.25
WHOLE = 4.0 / SCALE  # px of the frame that are whole pixels


def rows(count: int) -> tuple[Layer, ...]:
    """A list: a card, its words and a group for each row."""
    found: list[Layer] = []
    for k in range(count):
        y = 60.0 * k
        inside = (box(f"ground{k}", 0, 0, 30, 20, "#22aa55"), text(f"mark{k}", "Free", 2, 2, 9))
        found += [
            box(f"card{k}", 8, y + 4, 180, 48, f"#{40 + 20 * (k % 9):02x}6699", shadows=SOFT),
            text(f"word{k}", f"Sailing {k}", 20, y + 12),
            group(f"group{k}", 150, y + 20, inside),
        ]
    return tuple(found)


class Scrolled(unittest.TestCase):
    def setUp(self) -> None:
        self.live, self.made = ScenePainter(live=True), list[str]()
        make = self.live._make_run

        def counted(standing, area):  # type: ignore[no-untyped-def]
            self.made.append(standing[0][0].layer.id)
            return make(standing, area)

        self.enterContext(mock.patch.object(self.live, "_make_run", counted))
        heading = box("heading", 0, 0, 200, 30, "#113355", stays_put=True)
        layers = (*rows(15), heading)
        self.show(Frame("F", "F", 200, 200, layers=layers, content=(200.0, 900.0), scroll="down"))

    def show(self, frame: Frame) -> None:
        """Another frame that can be scrolled."""
        self.frame, self.program = frame, compile_still(frame)
        self.made.clear()

    def at(self, down: float, across: float = 0.0) -> Scene:
        return self.program.while_running(0.0, {ACROSS: across, DOWN: down})

    def painted(self, down: float) -> QImage:
        return self.live.render(self.at(down), SCALE)

    def as_it_is(self, down: float) -> QImage:
        """The same by a painter that keeps nothing of it."""
        return ScenePainter().render(self.at(down), SCALE)

    def test_it_looks_the_same_wherever_it_is_scrolled_to(self) -> None:
        for step in range(1, 120):
            down = step * 2 * WHOLE
            self.assertLessEqual(off_by(self.painted(down), self.as_it_is(down)), 2, down)
        self.assertEqual(len(self.made), 7)

    def test_each_picture_paints_one_thing_to_be_kept_and_none_twice(self) -> None:
        counts = []
        for step in range(1, 120):
            before = len(self.made)
            self.painted(step * 2 * WHOLE)
            counts.append(len(self.made) - before)
        self.assertEqual(counts[:4], [1, 1, 1, 0])  # what is in sight: two parts of the list, and the heading
        self.assertEqual((max(counts), sum(counts)), (1, 7))
        self.assertEqual(self.made[:3], ["card0", "group2", "heading"])
        for step in range(120, 1, -1):
            self.painted(step * 2 * WHOLE)
        self.assertEqual(len(self.made), 7)

    def test_when_it_stands_it_is_painted_where_it_is(self) -> None:
        between = 20 * WHOLE + 0.3
        for step in range(1, 21):
            self.painted(step * WHOLE)
        wanted = self.as_it_is(between)
        seen = [off_by(self.painted(between), wanted) for _ in range(12)]
        self.assertGreater(min(seen[:5]), 9)  # on whole pixels, as long as it may go on and not all is kept
        self.assertLessEqual(max(seen[7:]), 2)

    def test_it_stands_where_it_is_at_last_also_where_not_all_can_be_kept(self) -> None:
        between = 20 * WHOLE + 0.3
        wanted = self.as_it_is(between)
        self.painted(20 * WHOLE)
        with mock.patch.object(Together, "prepare", return_value=False):
            seen = [off_by(self.painted(between), wanted) for _ in range(64)]
        self.assertGreater(min(seen[:60]), 9)
        self.assertLessEqual(max(seen[60:]), 2)

    def test_what_has_settled_is_kept_one_thing_a_picture(self) -> None:
        turning = add_loop(Project("", frames=(self.frame,)), "F", "word1", Pose(shift_x=5.0))[0]
        self.show(turning.frames[0])
        for _ in range(3):
            self.painted(20 * WHOLE)
        counts = []
        for _ in range(10):
            before = len(self.made)
            self.painted(33.3)
            counts.append(len(self.made) - before)
        self.assertEqual(counts, [0, 0, 0, 0, 2, 1, 0, 0, 0, 0])

    def test_what_was_kept_while_it_stood_is_taken_along(self) -> None:
        turning = add_loop(Project("", frames=(self.frame,)), "F", "word1", Pose(shift_x=5.0))[0]
        self.show(turning.frames[0])
        for start in (8 * WHOLE, 30 * WHOLE):
            for _ in range(10):
                self.live.render(self.program.while_running(0.0, {DOWN: start, self.loop(): 100.0}), SCALE)
            self.made.clear()
            for step in range(1, 4):
                scene = self.program.while_running(0.0, {DOWN: start + step * WHOLE, self.loop(): 100.0})
                self.assertLessEqual(off_by(self.live.render(scene, SCALE), ScenePainter().render(scene, SCALE)), 2)
            self.assertEqual(self.made, [], start)

    def loop(self) -> str:
        return self.frame.loops[0].origin

    def test_a_picture_is_painted_again_until_all_of_it_is_kept(self) -> None:
        turning = add_loop(Project("", frames=(self.frame,)), "F", "word1", Pose(shift_x=5.0))[0]
        self.show(turning.frames[0])
        with mock.patch.object(self.live, "_rendered", wraps=self.live._rendered) as painted:
            counts = []
            for _ in range(9):
                self.painted(33.3)
                counts.append(painted.call_count)
        # Four parts are in sight, and some of them kept in each picture. Where it stands they look as they did.
        self.assertEqual(counts, [1, 2, 3, 3, 3, 3, 4, 4, 4])

    def test_nothing_waits_where_nothing_is_scrolled(self) -> None:
        for goes, count in (("word1", 3), ("word3", 2)):  # the heading looks as before
            turning = add_loop(Project("", frames=(self.frame,)), "F", goes, Pose(shift_x=5.0))[0]
            self.show(turning.frames[0])
            self.live.render(self.program.from_start(200.0), SCALE)
            self.assertEqual(len(self.made), count)

    def test_only_what_is_painted_to_be_seen_stands_on_whole_pixels(self) -> None:
        seen, exact = self.as_it_is(20 * WHOLE + 0.3), ScenePainter()
        exact.render(self.at(20 * WHOLE), SCALE)
        self.painted(20 * WHOLE)
        self.assertEqual(off_by(exact.render(self.at(20 * WHOLE + 0.3), SCALE), seen), 0)
        self.assertGreater(off_by(self.painted(20 * WHOLE + 0.3), seen), 9)

    def test_what_is_much_larger_than_the_screen_is_painted_as_it_is(self) -> None:
        self.show(replace(self.frame, layers=(box("sky", -300, -300, 900, 1500, "#88aaee"), *self.frame.layers)))
        for step in range(1, 9):
            seen = self.painted(step * WHOLE)
        self.assertEqual(self.made, ["word2", "heading"])
        self.assertLessEqual(off_by(seen, self.as_it_is(8 * WHOLE)), 2)
        for _ in range(12):
            seen = self.painted(8 * WHOLE + 0.3)
        self.assertIn("sky", self.made)  # where it stands what is in sight of it is kept
        self.assertLessEqual(off_by(seen, self.as_it_is(8 * WHOLE + 0.3)), 2)

    def test_once_it_stands_nothing_of_it_goes_along_any_more(self) -> None:
        for _ in range(12):
            self.painted(33.3)
        with mock.patch.object(Together, "prepare", side_effect=AssertionError):
            self.painted(33.3)
            exact = ScenePainter()
            for _ in range(8):
                exact.render(self.at(33.3), SCALE)

    def test_another_frame_that_stands_there_is_prepared_itself(self) -> None:
        for _ in range(12):
            self.painted(33.3)
        self.show(replace(self.frame, layers=tuple(replace(layer, x=layer.x + 2) for layer in self.frame.layers)))
        self.painted(50.3)
        with mock.patch.object(Together, "prepare", return_value=True) as prepared:
            for _ in range(6):
                self.painted(33.3)
        self.assertEqual(prepared.call_count, 1)

    def test_across_and_at_another_size(self) -> None:
        self.show(replace(self.frame, content=(600.0, 900.0), scroll="both"))
        for step in range(1, 12):
            scene = self.at(step * WHOLE, 3 * step * WHOLE)
            for scale in (SCALE, 2 * SCALE):
                seen = self.live.render(scene, scale)
                self.assertLessEqual(off_by(seen, ScenePainter().render(scene, scale)), 3)


if __name__ == "__main__":
    unittest.main()
