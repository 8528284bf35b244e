"""Scenes made for looking, and paths that are bent by hand."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.geometry.motion_path import ArcLengthPath, drawn, polyline
from avelt.core.model.curves import Line
from avelt.core.model.motion import CueKey
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Away, Transition
from avelt.core.timing.alone import alone, standing
from avelt.core.timing.compile import compile_route
from tests.support import box, group, project_of, text

OPACITY = COLUMN["opacity"]


def program() -> Any:
    left = (box("a", 0, 0, 20, 20, name="Card"), box("out", 0, 60, 20, 20, name="Goes"))
    right = (
        box("b", 100, 0, 20, 20, name="Card"),
        text("new", "hello", 0, 30, name="Comes"),
        group("g", 50, 50, (box("e", 0, 0, 9, 9, name="Inner"),)),
    )
    motion = Transition(100.0, Line(), enter=Away(shift_x=40.0, opacity=0.0), leave=Away(shift_y=30.0, opacity=0.0))
    project = project_of(left, right, motion)
    return compile_route(project, project.routes[0])


def slot(made: Any, ident: str) -> int:
    return next(s for s, p in enumerate(made.contents) if ident in (p.left and p.left.id, p.right and p.right.id))


class Scenes(unittest.TestCase):
    def test_alone_the_rest_fades_and_nothing_moves(self) -> None:
        made = program()
        scene = made.at(100.0)
        seen = alone(scene, slot(made, "g"), 0.0).scalars
        self.assertEqual(seen[slot(made, "g"), OPACITY], scene.scalars[slot(made, "g"), OPACITY])
        self.assertEqual(seen[slot(made, "e"), OPACITY], scene.scalars[slot(made, "e"), OPACITY])
        self.assertEqual(seen[slot(made, "b"), OPACITY], 0.0)
        others = [k for k in range(seen.shape[1]) if k != OPACITY]
        np.testing.assert_array_equal(seen[:, others], scene.scalars[:, others])

    def test_standing_all_is_there_and_one_is_where_it_comes_from(self) -> None:
        made = program()
        rows = standing(made, CueKey(None, "new", "")).scalars
        self.assertEqual(rows[slot(made, "new"), 0], 40.0)
        self.assertEqual(rows[slot(made, "new"), OPACITY], 1.0)
        self.assertEqual(rows[slot(made, "b"), 0], 100.0)

    def test_what_leaves_is_where_it_goes_in_the_frame_that_has_it(self) -> None:
        made = program()
        rows = standing(made, CueKey("out", None, "")).scalars
        self.assertEqual(rows[slot(made, "out"), 1], 90.0)
        self.assertEqual(rows[slot(made, "out"), OPACITY], 1.0)
        self.assertEqual(rows[slot(made, "a"), 0], 0.0)


class Drawn(unittest.TestCase):
    @given(st.floats(0.1, 0.9), st.floats(-80, 80), st.floats(-80, 80))
    def test_it_is_there_when_it_is_drawn_there_and_keeps_its_ends(self, share: Any, dx: Any, dy: Any) -> None:
        path = polyline(np.array([[0.0, 0.0], [200.0, 100.0]]))
        spot = ArcLengthPath(path).at(np.array(share))
        made, pace = drawn(path, (), share, (float(spot[0]) + dx, float(spot[1]) + dy))
        np.testing.assert_array_equal(made[[0, -1]], path[[0, -1]])
        self.assertEqual((len(made), len(pace)), (len(path) + 3, 1))
        course = ArcLengthPath(made, pace)
        np.testing.assert_allclose(course.at(np.array(share)) - spot, (dx, dy), atol=0.05)
        np.testing.assert_allclose(course.at(np.array([0.0, 1.0])), path[[0, -1]], atol=1e-6)
        along = course.pace.lengths(np.linspace(0.0, 1.0, 301))  # type: ignore[union-attr]
        self.assertGreaterEqual(float(np.diff(along).min()), -1e-9)

    def test_a_node_that_is_near_is_moved_instead(self) -> None:
        path = polyline(np.array([[0.0, 0.0], [100.0, 0.0], [200.0, 0.0]]))
        made, pace = drawn(path, (), 0.51, (102.0, 30.0))
        self.assertEqual((len(made), pace), (len(path), (0.51,)))
        self.assertEqual(made[3].tolist(), [102.0, 30.0])

    def test_other_nodes_are_passed_when_they_were(self) -> None:
        path = polyline(np.array([[0.0, 0.0], [50.0, 0.0], [200.0, 0.0]]))
        made, pace = drawn(path, (), 0.7, (140.0, 60.0))
        self.assertEqual(pace, (0.25, 0.7))
        course = ArcLengthPath(made, pace)
        np.testing.assert_allclose(course.at(np.array([0.25, 0.7])), [[50.0, 0.0], [140.0, 60.0]], atol=0.05)
        for share in (0.1, 0.25, 0.6, 0.7, 0.95):
            x, y = course.at(np.array(share))
            self.assertAlmostEqual(course.share_near(x, y), share, delta=2e-3)
        rates = np.diff(course.pace.lengths(np.array([0.2499, 0.25, 0.2501])))  # type: ignore[union-attr]
        self.assertAlmostEqual(rates[0] / rates[1], 1.0, delta=0.01)


if __name__ == "__main__":
    unittest.main()
