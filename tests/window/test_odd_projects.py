"""Projects at the edge of sense, shown in every station: nothing falls over, nothing warns."""

import unittest

import msgspec
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from avelt.core.edits.loops import add_loop
from avelt.core.edits.routes import add_route
from avelt.core.model.curves import Line, Steps
from avelt.core.model.triggers import Tap, Timer
from avelt.core.model.values import Cue, Frame, Group, Layer, Path, Picture, Pose, Project, Subpath, Text, Transition
from avelt.window.shell.commands import STATIONS
from tests.support import WindowCase, box, click, group, oval, project_of, text

replace = msgspec.structs.replace


def odd_projects() -> dict[str, Project]:
    """One a kind of trouble."""
    nothing = Project("Nothing", frames=(Frame("A", "A"), Frame("B", "B")), first="A", next_id=9)
    nothing, _ = add_route(nothing, "A", "B")
    zero = project_of(
        (
            box("a", 5, 5, 0, 0, name="Point"),
            Layer("l", "l", "Line", Path((Subpath((0, 0, 0, 3, 0, 6, 0, 9)),)), 3, 3, 0, 9),
        ),
        (box("b", 50, 50, 10, 10, name="Point"), text("t", "", name="Empty words")),
    )
    at_once = project_of(
        (box("a", 0, 0, 9, 9, name="x"),), (box("b", 9, 9, 9, 9, name="x"),), Transition(0.0, Steps(3))
    )
    same_names = project_of(
        tuple(box(f"a{k}", k * 10, 0, 9, 9, name="Row") for k in range(12)),
        tuple(box(f"b{k}", k * 10, 9, 9, 9, name="Row") for k in range(9)),
    )
    far = project_of((box("a", -9e6, 9e6, 1e6, 1e6, name="Far"),), (box("b", 0, 0, 1, 1, name="Far"),))
    flat = project_of(
        (group("g", 0, 0, (oval("o", 0, 0, 9, 9),), scale_x=0.0, name="Flat"),),
        (group("h", 9, 9, (oval("p", 0, 0, 9, 9),), scale_y=-1.0, rotation=720.0, name="Flat"),),
    )
    empty_group = project_of((Layer("g", "g", "Empty", Group()),), (Layer("h", "h", "Empty", Group(clips=True)),))
    lost = replace(project_of((box("a", 0, 0, 9, 9, body=Picture("gone")),), ()), name="Lost picture")
    many_cues = project_of(
        (box("a", 0, 0, 9, 9, name="x"),),
        (box("b", 90, 9, 9, 9, name="x"),),
        Transition(
            None,
            Line(),
            (Cue("a", "b", "position", 500.0, 100.0), Cue("gone", "b", "", 1.0), Cue("a", "b", "", 0.0, 9000.0)),
        ),
    )
    timers = project_of((box("a", 0, 0, 9, 9, name="x"),), (box("b", 90, 9, 9, 9, name="x"),))
    timers = replace(timers, routes=(replace(timers.routes[0], trigger=Timer(0.0)),))
    timers, _ = add_route(timers, "B", "A", Timer(0.0), Transition(1.0))
    timers, _ = add_loop(timers, "A", "a", Pose(scale_x=-3, opacity=0.0))
    dangling = project_of((box("a", 0, 0, 9, 9),), ())
    dangling = replace(dangling, routes=(replace(dangling.routes[0], trigger=Tap("gone")),))
    words = project_of((Layer("t", "t", "T", Text((), size=0.0)),), (Layer("u", "u", "T", Text((), line_height=0.0)),))
    return {
        "frames without layers": nothing,
        "sizes of zero": zero,
        "no time": at_once,
        "one name for all": same_names,
        "far outside": far,
        "flattened": flat,
        "empty groups": empty_group,
        "a lost picture": lost,
        "cues that cross": many_cues,
        "timers of zero": timers,
        "a trigger that is gone": dangling,
        "no words": words,
    }


class OddProjects(WindowCase, unittest.TestCase):
    demo = False

    def test_every_station_shows_every_odd_project(self) -> None:
        for name, project in odd_projects().items():
            self.window.show_project(project, None)
            for ident, _ in STATIONS:
                with self.subTest(project=name, station=ident):
                    self.window.go(ident)
                    clock = self.window.clock()
                    if clock is not None:
                        clock.stop()
                        for _ in range(4):
                            clock.advance(90)
                    self.settle()
                    self.assertFalse(self.window.grab().isNull())

    def test_they_are_clicked_and_typed_into(self) -> None:
        for name, project in odd_projects().items():
            with self.subTest(name):
                self.window.show_project(project, None)
                first = next(iter(project.frames[0].layers), None)
                if first is not None:
                    self.workspace.choose(project.frames[0].id, first.id)
                board = self.window.stations["frames"].board
                click(board, QPointF(30, 60))
                QTest.keyClick(board, Qt.Key.Key_Right)
                self.window.do("next_state")
                self.window.go("timing")
                body = self.window.stations["timing"].sheet.body
                for key in (Qt.Key.Key_Down, Qt.Key.Key_Return, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Delete):
                    QTest.keyClick(body, key)
                self.window.go("pairs")
                self.window.stations["pairs"].next_unsure()
                self.window.go("rehearse")
                stage = self.window.stations["rehearse"].stage
                click(stage, QPointF(stage.width() / 2, stage.height() / 2))
                self.window.do("undo")
                self.settle()
