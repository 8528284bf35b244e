"""What an edit says that it touched."""

from __future__ import annotations

import unittest

from avelt.core.edits.frames import next_state, rename_frame
from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import add_route, set_duration
from avelt.core.edits.session import Change, Session, touched
from avelt.core.edits.shapes import add_swatch
from avelt.core.model.triggers import Tap
from avelt.core.model.values import Frame, Project
from tests.support import box


def three() -> Project:
    frames = tuple(Frame(k, k, 90, 90, layers=(box(f"{k}1", 0, 0, 9, 9),)) for k in "ABC")
    project = Project("P", frames=frames, first="A", next_id=50)
    project, _ = add_route(project, "A", "B", Tap())
    return add_route(project, "B", "C", Tap())[0]


class Touching(unittest.TestCase):
    def setUp(self) -> None:
        self.project = three()
        self.one, self.two = self.project.routes

    def change(self, after: Project) -> Change:
        return Change(self.project, after, "x")

    def test_a_value_of_a_layer_touches_its_frame_alone(self) -> None:
        found = touched(self.project, set_value(self.project, "A", "A1", "x", 5.0))
        self.assertEqual((found.frames, found.routes, found.fields), ({"A"}, frozenset(), {"frames"}))

    def test_a_frame_more_and_a_name(self) -> None:
        made = next_state(self.project, "B")
        new = next(frame.id for frame in made.frames if frame.id not in "ABC")
        self.assertEqual(touched(self.project, made).frames, {new})
        self.assertEqual(touched(self.project, rename_frame(self.project, "C", "Sea")).frames, {"C"})
        self.assertEqual(touched(made, self.project).frames, {new})

    def test_a_duration_touches_its_route_alone(self) -> None:
        found = touched(self.project, set_duration(self.project, self.two.id, 900.0))
        self.assertEqual((found.frames, found.routes), (frozenset(), {self.two.id}))

    def test_nothing_touched(self) -> None:
        found = touched(self.project, self.project)
        self.assertEqual((found.frames, found.routes, found.fields), (frozenset(), frozenset(), frozenset()))

    def test_a_route_is_concerned_by_its_frames_and_by_what_all_share(self) -> None:
        moved = self.change(set_value(self.project, "A", "A1", "x", 5.0))
        self.assertEqual([moved.concerns(route) for route in (self.one, self.two)], [True, False])
        self.assertTrue(moved.concerns(None))
        swatch = self.change(add_swatch(self.project, "#123456"))
        self.assertFalse(swatch.concerns(self.one))
        longer = self.change(set_duration(self.project, self.two.id, 900.0))
        self.assertTrue(longer.concerns(self.one))

    def test_who_began_it_is_told(self) -> None:
        session, heard = Session(self.project), []
        session.listen(heard.append)
        me = object()
        session.do("move", set_value(self.project, "A", "A1", "x", 5.0), me)
        session.undo()
        self.assertEqual([change.origin for change in heard], [me, None])
        self.assertEqual([sorted(change.touched.frames) for change in heard], [["A"], ["A"]])
