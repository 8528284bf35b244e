"""Tracks over clocks: loops reach every property, speeds of colours and outlines are carried, the frame is numbers too."""

from __future__ import annotations

import unittest
from typing import Any

import numpy as np
from msgspec.structs import replace

from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.edits.routes import add_route
from avelt.core.errors import FormatError
from avelt.core.formats.checked import check
from avelt.core.model.curves import Line, Named
from avelt.core.model.properties import COLUMN
from avelt.core.model.triggers import Tap
from avelt.core.model.values import (
    Frame,
    Group,
    Layer,
    LayerChanges,
    Linear,
    NamedCurve,
    Path,
    Pose,
    Project,
    Radial,
    Shadow,
    Solid,
    Stop,
    Stroke,
    Subpath,
    Transition,
)
from avelt.core.running.player import Player
from avelt.core.timing.compile import compile_frames, compile_route, compile_still
from avelt.core.timing.items import items
from avelt.core.timing.painted import Item
from avelt.core.timing.program import Program
from tests.support import box, project_of, tapped

RED, BLUE = Solid("#ff0000"), Solid("#0000ff")
HALF = 500.0  # ms: half of the way there, of a loop of 2000 ms there and back
LINE = Subpath((0, 0, 10, 0, 20, 0, 30, 0))
BENT = Subpath((0, 0, 10, 20, 20, 20, 30, 0))


def looping(layer: Layer, changes: LayerChanges, offset: Pose | None = None, **own: Any) -> Frame:
    """A frame with one layer and one even loop between it and a second pose."""
    frame = Frame("F", "F", 200, 200, layers=(layer,))
    project, ident = add_loop(Project(name="", frames=(frame,)), "F", layer.id, offset or Pose())
    edited = edit_loop(
        project, "F", ident, lambda old: replace(old, duration=2000.0, curve=Line(), changes=changes, **own)
    )
    return edited.frames[0]


def at(frame: Frame, ms: float = HALF) -> Item:
    """The one layer of a frame that stands, some time after its loop began."""
    (item,) = items(compile_still(frame).from_start(ms))
    return item


class SecondPoses(unittest.TestCase):
    def test_numbers_of_every_kind_go_there_and_back(self) -> None:
        layer = box("a", 0, 0, 40, 40)
        changes = LayerChanges(w=60.0, h=20.0, pivot=(0.0, 1.0), rotation_x=30.0, skew=8.0, blur=4.0, back_blur=2.0)
        frame = looping(layer, changes)
        program = compile_still(frame)
        names = ("w", "h", "pivot_x", "pivot_y", "rotation_x", "skew", "blur", "back_blur")
        for ms, share in ((0.0, 0.0), (HALF, 0.5), (1000.0, 1.0), (1500.0, 0.5), (2000.0, 0.0)):
            row = program.from_start(ms).scalars[0]
            for name, first, last in zip(
                names, (40, 40, 0.5, 0.5, 0, 0, 0, 0), (60, 20, 0.0, 1.0, 30, 8, 4, 2), strict=True
            ):
                with self.subTest(name, ms=ms):
                    self.assertAlmostEqual(row[COLUMN[name]], first + (last - first) * share)

    def test_offset_and_changes_together(self) -> None:
        frame = looping(box("a", 5, 0, 40, 40), LayerChanges(w=60.0), Pose(10.0, 0.0, 90.0, 2.0, 1.0, 0.5))
        row = compile_still(frame).from_start(HALF).scalars[0]
        got = [row[COLUMN[name]] for name in ("x", "rotation", "scale_x", "opacity", "w")]
        np.testing.assert_allclose(got, [10.0, 45.0, 1.5, 0.75, 50.0])

    def test_a_colour_and_a_gradient(self) -> None:
        layer = replace(box("a", 0, 0, 40, 40), fills=(RED,))
        half = compile_frames(
            None,
            Frame("L", "L", layers=(layer,)),
            Frame("R", "R", layers=(replace(layer, id="b", fills=(BLUE,)),)),
            Transition(100.0, Line()),
        ).at(50.0)
        wanted = items(half)[0].fills[0].colours
        np.testing.assert_allclose(at(looping(layer, LayerChanges(fills=(BLUE,)))).fills[0].colours, wanted, atol=1e-9)
        fade = Linear((Stop(0.0, "#ff0000"), Stop(1.0, "#0000ff")))
        brush = at(looping(layer, LayerChanges(fills=(fade,)))).fills[0]
        self.assertEqual((brush.kind, len(brush.colours)), ("linear", 2))
        np.testing.assert_allclose(brush.colours[0], [1, 0, 0, 1], atol=1e-6)
        np.testing.assert_allclose(brush.colours[1], wanted[0], atol=1e-6)

    def test_paints_without_a_common_form_fade_over_each_other(self) -> None:
        stops = (Stop(0.0, "#ff0000"), Stop(1.0, "#0000ff"))
        layer = replace(box("a", 0, 0, 40, 40), fills=(Linear(stops),))
        frame = looping(layer, LayerChanges(fills=(Radial(stops),)))
        seen = [[(b.kind, round(float(b.colours[0, 3]), 3)) for b in at(frame, ms).fills] for ms in (0.0, HALF, 1000.0)]
        for shown, share in zip(seen, (0.0, 0.5, 1.0), strict=True):
            self.assertEqual(shown, [("linear", 1.0 - share), ("radial", share)])

    def test_a_fill_that_only_the_second_pose_has_fades_in(self) -> None:
        layer = replace(box("a", 0, 0, 40, 40), fills=(RED,))
        item = at(looping(layer, LayerChanges(fills=(RED, BLUE))))
        self.assertEqual([round(float(b.colours[0, 3]), 3) for b in item.fills], [1.0, 0.5])

    def test_stroke_and_shadow(self) -> None:
        layer = replace(box("a", 0, 0, 40, 40), stroke=Stroke(RED, 2.0), shadows=(Shadow("#000000", 0, 2, 4, False),))
        changes = LayerChanges(stroke=Stroke(BLUE, 6.0, trim_end=0.5), shadows=(Shadow("#000000", 4, 10, 8, False),))
        item = at(looping(layer, changes))
        assert item.pen is not None
        self.assertEqual((item.pen.width, item.pen.trim), (4.0, (0.0, 0.75, 0.0)))
        self.assertEqual([(s.x, s.y, s.blur) for s in item.shades], [(2.0, 6.0, 6.0)])
        plain = box("a", 0, 0, 40, 40)
        item = at(looping(plain, changes))
        assert item.pen is not None
        self.assertEqual((item.pen.width, round(float(item.shades[0].colour[3]), 3)), (3.0, 0.5))

    def test_outlines_of_the_same_and_of_another_structure(self) -> None:
        layer = replace(box("a", 0, 0, 30, 20), body=Path((LINE,)), fills=(), stroke=Stroke(RED, 1.0))
        item = at(looping(layer, LayerChanges(body=Path((BENT,)))))
        assert item.outline is not None
        np.testing.assert_allclose(item.outline[0][0], [(0, 0), (10, 10), (20, 10), (30, 0)])
        longer = Subpath((0, 0, 5, 0, 10, 0, 15, 10, 20, 20, 25, 20, 30, 20))
        for ms, there in ((0.0, 0.0), (1000.0, 20.0)):
            item = at(looping(layer, LayerChanges(body=Path((longer,)))), ms)
            assert item.outline is not None
            np.testing.assert_allclose(item.outline[0][0][-1], (30, there), atol=1e-9)

    def test_in_a_transition_it_dies_down_and_what_stands_is_known(self) -> None:
        layer = replace(box("a", 0, 0, 40, 40), fills=(RED,))
        left = looping(layer, LayerChanges(fills=(BLUE,)))
        right = Frame("R", "R", 200, 200, layers=(replace(layer, id="b"),))
        program = compile_frames(None, left, right, Transition(1000.0, Line()))
        np.testing.assert_allclose(program.from_start(0.0).colours[0], program.from_start(1000.0).colours[0])
        self.assertGreater(program.from_start(500.0).colours[0, 2], 0.05)
        self.assertFalse(program.stands.still[0])
        self.assertEqual(program.loops[0].fades, True)

    def test_rows_of_a_few_slots_are_those_of_the_whole(self) -> None:
        frame = looping(box("a", 0, 0, 40, 40), LayerChanges(w=90.0))
        two = replace(frame, layers=(box("z", 1, 2, 3, 4), *frame.layers))
        right = Frame("R", "R", 200, 200, layers=(box("z2", 9, 9, 9, 9, name="z"), box("a2", 7, 7, 8, 8, name="a")))
        program = compile_frames(None, two, right, Transition(100.0, Line()))
        slot = program.slot_of("a", "a2") if program.slot_of("a", "a2") >= 0 else 1
        times = np.array([0.0, 30.0, 100.0])
        whole = program.table(times)[:, : program.dense].reshape(3, -1, len(COLUMN))
        np.testing.assert_array_equal(program.rows_of([slot], times)[:, 0], whole[:, slot])

    def test_a_loop_may_use_a_named_curve_of_the_project(self) -> None:
        frame = looping(box("a", 0, 0, 40, 40), LayerChanges(w=80.0))
        loop = replace(frame.loops[0], curve=Named("own"))
        frame = replace(frame, loops=(loop,))
        project = Project(name="", frames=(frame,), curves=(NamedCurve("own", "Own", Line()),))
        self.assertAlmostEqual(compile_still(frame, project).from_start(HALF).scalars[0, COLUMN["w"]], 60.0)

    def test_a_file_with_an_impossible_second_pose_is_refused_with_its_place(self) -> None:
        for changes, place in (
            (LayerChanges(w=-1.0), r"loops\[0\].changes.w"),
            (LayerChanges(body=Group()), r"loops\[0\].changes.body"),
            (LayerChanges(fills=(Solid("no colour"),)), r"loops\[0\].changes.fills\[0\]"),
        ):
            frame = looping(box("a", 0, 0, 40, 40), changes)
            with self.assertRaisesRegex(FormatError, place):
                check(Project(name="", frames=(frame,)))


class Carried(unittest.TestCase):
    """What an interrupted motion does in the first ms is what it did in the last."""

    def player(self, *bodies: dict[str, Any]) -> Player:
        frames = tuple(
            Frame(ident, ident, 200, 200, layers=(replace(box(ident, 0, 0, 200, 200, name="Box", origin="o"), **own),))
            for ident, own in zip("ABC", bodies, strict=True)
        )
        player = Player(tapped(frames, ("A", "B", 100.0), ("B", "C", 900.0)))
        player.tap(5, 5)
        player.advance(50.0)
        player.tap(5, 5)
        return player

    def speeds(self, player: Player, read: Any) -> tuple[np.ndarray, np.ndarray]:
        # Either side of the moment: at it colours are rounded to what a frame can say.
        moment = player.now
        first, second = (np.asarray(read(player.moment(moment - ms).scene())) for ms in (0.02, 0.01))
        now = np.asarray(read(player.scene()))
        player.advance(moment + 0.01)
        return second - first, np.asarray(read(player.scene())) - now

    def test_the_speed_of_a_colour(self) -> None:
        player = self.player({"fills": (RED,)}, {"fills": (BLUE,)}, {"fills": (RED,)})
        before, after = self.speeds(player, lambda scene: scene.vector[scene.program.dense :][:4])
        self.assertGreater(np.abs(before).max(), 1e-6)
        np.testing.assert_allclose(after, before, rtol=0.02, atol=1e-9)

    def test_the_speed_of_an_outline(self) -> None:
        bodies: list[dict[str, Any]] = [
            {"body": Path((sub,)), "stroke": Stroke(RED, 1.0)} for sub in (LINE, BENT, LINE)
        ]
        player = self.player(*bodies)

        def nodes(scene: Any) -> np.ndarray:
            outline = items(scene)[0].outline
            assert outline is not None
            return np.asarray(outline[0][0])

        before, after = self.speeds(player, nodes)
        self.assertGreater(np.abs(before).max(), 1e-3)
        np.testing.assert_allclose(after, before, rtol=0.02, atol=1e-6)

    def test_what_only_speed_moves_is_not_taken_for_resting(self) -> None:
        player = self.player({"x": 0.0}, {"x": 90.0}, {"x": 45.0})
        program: Program = player.scene().program
        self.assertFalse(program.stands.still[0])
        self.assertIn(COLUMN["x"], program.touched.tolist())


class TheFrame(unittest.TestCase):
    def test_size_background_and_perspective_are_numbers(self) -> None:
        left = Frame("L", "L", 100, 200, "#ff0000", perspective=400.0)
        right = Frame("R", "R", 200, 100, "#0000ff", perspective=800.0)
        program = compile_frames(None, left, right, Transition(100.0, Line()))
        quarter = program.at(25.0)
        self.assertEqual(quarter.size, (125.0, 175.0))
        self.assertAlmostEqual(1.0 / quarter.perspective, 0.75 / 400 + 0.25 / 800)
        flat = compile_frames(None, replace(left, perspective=0.0), right, Transition(100.0, Line()))
        self.assertEqual([flat.at(ms).perspective for ms in (0.0, 50.0, 100.0)], [0.0, 1600.0, 800.0])
        self.assertEqual([program.at(ms).flipped for ms in (0.0, 49.9, 50.0, 100.0)], [False, False, True, True])
        np.testing.assert_array_equal(program.at(0.0).background, [1, 0, 0, 1])
        np.testing.assert_array_equal(program.at(100.0).background, [0, 0, 1, 1])
        self.assertTrue(0.1 < quarter.background[2] < 0.9)

    def test_a_transition_of_no_length_is_over_at_once(self) -> None:
        program = compile_route(*_no_length())
        scene = program.at(0.0)
        self.assertEqual((scene.size, scene.flipped), ((300.0, 300.0), True))


def _no_length() -> tuple[Project, Any]:
    project = replace(project_of((), ()), routes=())
    big = replace(project.frames[1], w=300.0, h=300.0)
    project = replace(project, frames=(project.frames[0], big))
    project, _ = add_route(project, "A", "B", Tap(), Transition(0.0, Line()))
    return project, project.routes[-1]


if __name__ == "__main__":
    unittest.main()
