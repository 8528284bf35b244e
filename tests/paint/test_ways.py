"""Ways to leave and enter, what covers what, and contents that become each other: in programs and in pixels."""

import unittest
from typing import Any

import msgspec
import numpy as np

from avelt.core.edits import routes
from avelt.core.model.curves import Line
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Absent, Away, Frame, Path, Settled, Subpath, Transition
from avelt.core.timing.compile import compile_frames, compile_route, compile_still
from avelt.core.timing.content import choices
from avelt.core.timing.items import items
from avelt.core.timing.sampling import sample
from avelt.paint.painter import ScenePainter
from tests.support import box, group, oval, pixel, project_of, text

replace = msgspec.structs.replace


def leaving(layer: Any, away: Away, ms: float, *others: Any, pairs: Any = ()) -> Any:
    """The scene at a moment of 100 ms in which ``layer`` (and ``others`` not) leaves; others stay."""
    left = Frame("A", "A", 200, 200, "#ffffff", layers=(*others, layer))
    right = Frame("B", "B", 200, 200, "#ffffff", layers=tuple(replace(o, id=f"{o.id}2") for o in others))
    transition = Transition(100.0, Line(), absents=(Absent(layer.id, away),))
    return compile_frames(None, left, right, transition).at(ms)


def row(scene: Any, layer_id: str) -> Any:
    s = next(k for k, part in enumerate(scene.program.contents) if part.layer.id == layer_id)
    return scene.scalars[s]


class Ways(unittest.TestCase):
    def test_beyond_each_edge(self) -> None:
        layer = box("a", 30, 40, 50, 20)
        for edge, wanted in (("left", (-50, 40)), ("right", (200, 40)), ("top", (30, -20)), ("bottom", (30, 200))):
            found = row(leaving(layer, Away(edge=edge), 100), "a")
            self.assertEqual((found[0], found[1]), wanted, edge)

    def test_beyond_an_edge_out_of_a_turned_group(self) -> None:
        inner = box("a", 0, 0, 20, 10)
        home = group("g", 100, 100, (inner,), rotation=90.0)
        left = Frame("A", "A", 200, 200, layers=(home,))
        right = Frame("B", "B", 200, 200, layers=(replace(home, id="g2", body=replace(home.body, children=())),))
        program = compile_frames(
            None, left, right, Transition(100.0, Line(), absents=(Absent("a", Away(edge="left")),))
        )
        scene = program.at(99.999)
        s = next(k for k, part in enumerate(program.contents) if part.layer.id == "a")
        corners = scene.world()[s]
        xs = [corners[0] * x + corners[2] * y + corners[4] for x, y in ((0, 0), (20, 0), (20, 10), (0, 10))]
        self.assertAlmostEqual(max(xs), 0.0, delta=0.01)

    def test_growing_from_a_side_keeps_that_side(self) -> None:
        layer = box("a", 30, 40, 50, 20, rotation=30.0)
        start = compile_still(Frame("A", "A", 200, 200, layers=(layer,))).at(0).world()[0]
        for side, spot in (("left", (0, 10)), ("bottom", (25, 20)), ("top", (25, 0)), ("right", (50, 10))):
            end = leaving(layer, Away(scale_x=0.2, scale_y=0.5, side=side), 99.9999).world()[0]
            for m in (0, 1):
                self.assertAlmostEqual(
                    start[m] * spot[0] + start[m + 2] * spot[1] + start[m + 4],
                    end[m] * spot[0] + end[m + 2] * spot[1] + end[m + 4],
                    places=2,
                    msg=side,
                )

    def test_a_cut_from_a_side_in_pixels(self) -> None:
        painter = ScenePainter()
        image = painter.render(leaving(box("a", 0, 0, 100, 100, "#ff0000"), Away(cut=(0, 1, 0, 0)), 50))
        self.assertEqual((pixel(image, 40, 50), pixel(image, 60, 50)), ((255, 0, 0), (255, 255, 255)))
        image = painter.render(leaving(box("a", 0, 0, 100, 100, "#ff0000"), Away(cut=(0.6, 0, 0, 0)), 50))
        self.assertEqual((pixel(image, 50, 20), pixel(image, 50, 40)), ((255, 255, 255), (255, 0, 0)))

    def test_blur_is_added(self) -> None:
        self.assertEqual(row(leaving(box("a", 0, 0, 9, 9, blur=2.0), Away(blur=8.0), 50), "a")[COLUMN["blur"]], 6.0)

    def test_all_on_a_side_at_once_and_one_for_itself(self) -> None:
        left = (box("a", 0, 0, 20, 20), box("b", 50, 0, 20, 20))
        project = project_of(left, (box("c", 120, 150, 60, 20, "#00ff00"),))
        project = routes.set_all_absent(project, "R", "leave", Away(shift_x=10.0))
        project = routes.set_all_absent(project, "R", "enter", Away(shift_y=-30.0))
        project = routes.set_absent(project, "R", "b", Away(shift_x=70.0))
        scene = compile_route(project, project.routes[0]).at(50.0)
        self.assertEqual([row(scene, i)[0] for i in "ab"], [5.0, 85.0])
        self.assertEqual(row(scene, "c")[1], 135.0)
        kept = routes.set_all_absent(project, "R", "leave", Away(opacity=0.0), keep_own=False)
        self.assertEqual(kept.routes[0].transition.absents, ())

    def test_sampling_says_what_is_cut(self) -> None:
        program = leaving(box("a", 0, 0, 100, 100), Away(cut=(0, 0, 1, 0)), 25).program
        self.assertEqual(sample(program, 25.0)[0]["cut"], [0, 0, 0.25, 0])


class Covering(unittest.TestCase):
    def order(self, transition: Transition, ms: float) -> Any:
        left = (box("a", 0, 0, 50, 50), box("b", 10, 10, 50, 50), box("c", 20, 20, 50, 50))
        right = tuple(replace(layer, id=layer.id + "2") for layer in (left[2], left[0], left[1]))
        frames = [Frame(i, i, 200, 200, layers=layers) for i, layers in (("A", left), ("B", right))]
        scene = compile_frames(None, *frames, transition).at(ms)
        return "".join(item.layer.id[0] for item in items(scene))

    def test_the_flip_is_half_way_unless_told(self) -> None:
        plain = Transition(100.0, Line())
        self.assertEqual([self.order(plain, ms) for ms in (0, 49, 50, 100)], ["abc", "abc", "cab", "cab"])

    def test_a_flip_of_its_own(self) -> None:
        early = Transition(100.0, Line(), settled=(Settled("c", "c2", order_at=0.1),))
        self.assertEqual([self.order(early, ms) for ms in (0, 9, 10, 60)], ["abc", "abc", "cab", "cab"])
        late = Transition(100.0, Line(), settled=tuple(Settled(i, i + "2", order_at=0.9) for i in "abc"))
        self.assertEqual([self.order(late, ms) for ms in (60, 89, 90)], ["abc", "abc", "cab"])

    def test_the_ends_are_those_of_the_frames_whatever_is_set(self) -> None:
        for share in (0.0, 1.0):
            odd = Transition(100.0, Line(), settled=tuple(Settled(i, i + "2", order_at=share) for i in "abc"))
            self.assertEqual((self.order(odd, 0.0), self.order(odd, 100.0)), ("abc", "cab"))

    def test_falling_behind_a_neighbour(self) -> None:
        scene = leaving(box("a", 0, 0, 50, 50), Away(behind="b"), 10, box("b", 0, 0, 50, 50))
        self.assertEqual([item.layer.id for item in items(scene)], ["a", "b2"] if scene.at > 50 else ["a", "b"])
        self.assertEqual([i.layer.id for i in items(scene.program.at(0.0))], ["b", "a"])

    def test_falling_behind_something_outside_of_its_group(self) -> None:
        home = group("g", 0, 0, (box("a", 10, 10, 20, 20),))
        wall = box("wall", 0, 0, 90, 90)
        left = Frame("A", "A", 200, 200, layers=(wall, home))
        right = Frame("B", "B", 200, 200, layers=(replace(wall, id="w2"), group("g2", 0, 0, (), origin="g")))
        program = compile_frames(
            None, left, right, Transition(100.0, Line(), absents=(Absent("a", Away(behind="wall")),))
        )
        self.assertEqual([i.layer.id for i in items(program.at(10.0))][:2], ["a", "wall"])
        s = next(k for k, part in enumerate(program.contents) if part.layer.id == "a")
        np.testing.assert_allclose(program.at(10.0).world()[s][4:], [10, 10])

    def test_behind_what_is_not_there_changes_nothing(self) -> None:
        scene = leaving(box("a", 0, 0, 50, 50), Away(behind="nobody"), 10, box("b", 0, 0, 50, 50))
        self.assertEqual([item.layer.id for item in items(scene)], ["b", "a"])


class Contents(unittest.TestCase):
    def between(self, left: Any, right: Any, ms: float, **settled: Any) -> Any:
        extra = (Settled("a", "b", **settled),) if settled else ()
        project = project_of((left,), (right,), Transition(100.0, Line(), settled=extra))
        return items(compile_route(project, project.routes[0]).at(ms))

    def test_what_can_be_chosen(self) -> None:
        name = {"name": "x"}
        for left, right, keys in (
            (text("a", "12"), text("b", "15"), ["roll", "cross-fade", "swap"]),
            (text("a", "one"), text("b", "two"), ["cross-fade", "swap"]),
            (text("a", "one"), text("b", "one"), []),
            (box("a", 0, 0, 9, 9, **name), oval("b", 0, 0, 9, 9, **name), ["reshape", "cross-fade", "swap"]),
            (box("a", 0, 0, 9, 9), text("b", "one"), ["cross-fade", "swap"]),
        ):
            self.assertEqual([choice.key for choice in choices(left, right)], keys)

    def test_a_swap_at_its_moment(self) -> None:
        left, right = text("a", "one", name="x"), text("b", "two", name="x")
        for ms, words in ((0, "one"), (69, "one"), (70, "two"), (100, "two")):
            (item,) = self.between(left, right, ms, content="swap", swap_at=0.7)
            self.assertEqual((item.text.words, item.opacity), (words, 1.0))

    def test_a_choice_that_cannot_be_done_falls_back(self) -> None:
        left, right = text("a", "one", name="x"), text("b", "two", name="x")
        self.assertEqual(len(self.between(left, right, 50, content="roll")), 2)

    def test_a_number_rolls_and_ends_as_its_own_text(self) -> None:
        left, right = text("a", "10", name="x"), text("b", "30", name="x")
        (item,) = self.between(left, right, 47.5)
        self.assertEqual([c.now for c in item.rolling], ["1", "9"])
        for ms in (0, 100):
            self.assertEqual(self.between(left, right, ms)[0].rolling, ())
        image = ScenePainter().render(compile_route(p := project_of((left,), (right,)), p.routes[0]).at(33.0), 2.0)
        self.assertTrue(any(pixel(image, x, 20)[0] < 120 for x in range(60)))

    def test_a_box_reshapes_into_an_oval_and_a_path(self) -> None:
        left = box("a", 0, 0, 100, 100, "#000000", name="x")
        triangle = Path(
            (Subpath((50, 0, 66, 33, 83, 66, 100, 100, 66, 100, 33, 100, 0, 100, 16, 66, 33, 33, 50, 0), True),)
        )
        for right in (
            oval("b", 0, 0, 100, 100, "#000000", name="x"),
            box("b", 0, 0, 100, 100, "#000000", name="x", body=triangle),
        ):
            project = project_of((left,), (right,))
            program, painter = compile_route(project, project.routes[0]), ScenePainter()
            dark = []
            for ms in (0, 25, 50, 75, 100):
                image = painter.render(program.at(ms))
                dark.append(sum(pixel(image, x, y)[0] < 128 for x in range(0, 100, 4) for y in range(0, 100, 4)))
            self.assertEqual(dark, sorted(dark, reverse=True))
            for ms, layer in ((0, left), (100, right)):
                own = painter.render(compile_still(Frame("X", "X", 200, 200, layers=(layer,))).at(0.0))
                self.assertEqual(painter.render(program.at(ms)), own)
