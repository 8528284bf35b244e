"""Edges that one changed condition would move: found by changing conditions and seeing no test fail."""

from __future__ import annotations

import unittest

from avelt.core.curves.text import parse
from avelt.core.edits.curves import rename_curve
from avelt.core.edits.nodes import move_handle
from avelt.core.edits.project import new_project
from avelt.core.edits.sources import differences
from avelt.core.errors import EditError, FormatError
from avelt.core.model.curves import Steps
from avelt.core.model.values import Frame, Path, Source, Subpath
from tests.support import box


class Curves(unittest.TestCase):
    def test_as_many_steps_as_allowed_and_not_one_more(self) -> None:
        self.assertEqual(parse("steps(1)"), Steps(1))
        self.assertEqual(parse("steps(2, jump-none)"), Steps(2, "none"))
        self.assertEqual(parse("steps(10000)"), Steps(10_000))
        for text in ("steps(0)", "steps(1, jump-none)", "steps(10001)"):
            with self.assertRaises(FormatError):
                parse(text)

    def test_a_name_that_another_curve_has_is_refused(self) -> None:
        project = new_project("x")
        first, second = project.curves[:2]
        with self.assertRaises(EditError):
            rename_curve(project, first.id, second.name)
        self.assertIs(rename_curve(project, first.id, first.name), project)
        self.assertEqual(rename_curve(project, first.id, "Mine").curves[0].name, "Mine")


class Handles(unittest.TestCase):
    def test_the_first_handle_of_a_closed_outline_turns_the_one_across_the_seam(self) -> None:
        points = (0.0, 0.0, 0.0, -10.0, 40.0, 0.0, 40.0, 40.0, 40.0, 50.0, -10.0, 0.0, 0.0, 0.0)
        layer = box("a", 0, 0, 50, 50, body=Path((Subpath(points, True),)))
        moved = move_handle(layer, 0, 1, 10.0, 0.0, True)
        assert isinstance(moved.body, Path)
        flat = moved.body.subpaths[0].points
        across, anchor = flat[-4:-2], flat[:2]
        # The handle before the seam lies straight across from the one that was moved, as far from the node as it was.
        self.assertAlmostEqual(anchor[0] - across[0], 10.0, places=6)
        self.assertAlmostEqual(across[1], anchor[1], places=6)

    def test_the_end_of_an_open_outline_has_no_handle_across(self) -> None:
        points = (0.0, 0.0, 10.0, -10.0, 30.0, -10.0, 40.0, 0.0)
        layer = box("a", 0, 0, 50, 50, body=Path((Subpath(points, False),)))
        moved = move_handle(layer, 0, 1, 5.0, -20.0, True)
        assert isinstance(moved.body, Path)
        flat = moved.body.subpaths[0].points
        self.assertAlmostEqual(flat[4] - flat[0], 30.0, places=6)


class Sources(unittest.TestCase):
    def test_a_switch_that_changed_in_the_file_is_said_as_yes_and_no(self) -> None:
        base = box("a", 0, 0, 9, 9)
        frame = Frame("F", "F", 90, 90, layers=(base,), source=Source("f.svg", base=(base,), size=(90.0, 90.0)))
        hidden = box("a", 0, 0, 9, 9, hidden=True)
        (change,) = differences(frame, Frame("", "F", 90, 90, layers=(hidden,)))
        self.assertIn("no → yes", str(change))
