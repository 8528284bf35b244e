"""A picture costs what moves: only that is made into items again, and what rests is the same object from edit to edit."""

from __future__ import annotations

import unittest
from collections.abc import Iterator
from typing import Any
from unittest.mock import patch

from msgspec.structs import replace

from avelt.core.arrays import np
from avelt.core.edits.loops import add_loop, edit_loop
from avelt.core.edits.routes import set_cue
from avelt.core.geometry import affine
from avelt.core.model.curves import Line
from avelt.core.model.find import find_frame
from avelt.core.model.motion import CueKey
from avelt.core.model.properties import COLUMN, SCALARS
from avelt.core.model.second import LayerChanges
from avelt.core.model.triggers import ShowOver
from avelt.core.model.values import (
    Decision,
    Frame,
    Group,
    Layer,
    Linear,
    Part,
    Pose,
    Project,
    Radial,
    Shadow,
    Solid,
    Stop,
    Stroke,
    Transition,
    Use,
)
from avelt.core.running.player import Player
from avelt.core.timing import resting
from avelt.core.timing.alone import alone
from avelt.core.timing.compile import compile_frames, compile_route, compile_still
from avelt.core.timing.items import items
from avelt.core.timing.over import overlaid
from avelt.core.timing.painted import Item
from avelt.core.timing.program import Program, Scene
from avelt.core.timing.resting import Drawing, Going, Moving, Resting, Shown, drawing_of, looks_the_same, plan_of
from avelt.core.timing.scrolling import DOWN
from avelt.demo.build import build_demo
from tests.support import box, group, project_of, text

_OVER = Transition(100.0, Line(), decisions=(Decision("left", "right", True),))
Leaf = tuple[str, tuple[float, ...], float]


def leaves(item: Item, above: tuple[float, ...] = (), opacity: float = 1.0) -> Iterator[Leaf]:
    """What an item draws, in order: name, matrices from the frame down, opacity."""
    path = (*above, *item.matrix)
    for child in item.children:
        yield from leaves(child, path, opacity * item.opacity)
    if not item.children:
        yield item.layer.name, path, opacity * item.opacity


def drawn(program: Program, ms: float) -> list[Leaf]:
    """What is drawn at a moment."""
    return list(leaves_of(drawing_of(program.at(ms))))


def leaves_of(drawing: Drawing) -> Iterator[Leaf]:
    """What a drawing draws, in order."""
    for part in drawing.parts:
        if isinstance(part, Shown):
            placed = [(item, part.above) for item in part.items]
        else:
            placed = [(entry.item, entry.above) for entry in part.placed]
        for item, above in placed:
            yield from leaves(item, tuple(v for matrix in above for v in matrix))


class CostsWhatMoves(unittest.TestCase):
    def many(self) -> Project:
        left = tuple(box(f"a{k}", 3 * k, 0, 20, 20, name=f"N{k}") for k in range(40))
        right = tuple(box(f"b{k}", 3 * k, 50.0 * (k in (5, 17)), 20, 20, name=f"N{k}") for k in range(40))
        return project_of(left, right)

    def test_only_what_moves_is_made_again(self) -> None:
        project = self.many()
        program = compile_route(project, project.routes[0])
        drawing_of(program.at(10.0))
        with patch.object(resting, "item_of", wraps=resting.item_of) as made:
            drawing_of(program.at(20.0))
        self.assertEqual([call.args[1] for call in made.call_args_list], [5, 17])

    def test_what_rests_is_the_same_after_a_cue_was_changed(self) -> None:
        project = self.many()
        program = compile_route(project, project.routes[0])
        edited = set_cue(project, "R", CueKey("a5", "b5", "position"), start=30.0)
        before, after = (
            [part for part in drawing_of(p.at(40.0)).parts if isinstance(part, Resting)]
            for p in (program, compile_route(edited, edited.routes[0]))
        )
        self.assertEqual(list(map(id, before)), list(map(id, after)))
        self.assertEqual(len(before), 3)

    def test_it_draws_what_all_items_are(self) -> None:
        project = build_demo()
        for route in project.routes:
            program = compile_route(project, route)
            for share in (0.2, 0.5, 0.8):
                with self.subTest(route.id, share=share):
                    ms = program.duration * share
                    wanted = [leaf for item in items(program.at(ms)) for leaf in leaves(item)]
                    self.assertEqual(drawn(program, ms), wanted)


class Fixed(unittest.TestCase):
    """What is the very same item as long as a transition runs."""

    def setUp(self) -> None:
        held = group("g", 0, 50, (text("in", "Harbour"), box("box", 0, 20, 9, 9)))
        self.layers = (text("word", "Skerry"), replace(text("asked", "Line"), only_if="open"), held)
        ends = (
            Frame(n, n, 200, 200, layers=(*self.layers, box("goes", x, 90, 9, 9))) for n, x in (("A", 0), ("B", 90))
        )
        self.program = compile_frames(None, *ends, Transition(100.0, Line()))

    def of(self, scene: Scene) -> dict[str, Item]:
        found, todo = {}, items(scene)
        while todo:
            item = todo.pop()
            found[item.layer.id] = item
            todo += item.children
        return found

    def test_layers_that_do_not_change_are(self) -> None:
        one, other = (self.of(self.program.at(ms)) for ms in (20.0, 30.0))
        same = {ident for ident in one if one[ident] is other[ident]}
        self.assertEqual(same, {"word", "in", "box"})
        self.assertEqual({ident for ident in one if one[ident].matrix != other[ident].matrix}, {"goes"})

    def test_but_not_where_numbers_are_put_in(self) -> None:
        self.of(self.program.at(20.0))
        vector = self.program.at(20.0).vector.copy()
        vector[: self.program.dense].reshape(-1, len(SCALARS))[:, COLUMN["opacity"]] = 0.5
        seen = self.of(self.program.scene_of(vector, 20.0))
        self.assertEqual({item.opacity for item in seen.values()}, {0.5})
        self.assertFalse([item for item in seen.values() if item.stays or item.whole])
        slot = next(s for s, part in enumerate(self.program.contents) if part.layer.id == "goes")
        found = self.of(alone(self.program.at(20.0), slot, 0.25))
        self.assertEqual({ident: found[ident].opacity for ident in ("word", "goes")}, {"word": 0.25, "goes": 1.0})

    def test_each_side_of_a_pair_is_its_own(self) -> None:
        left, right = text("left", "Harbour"), replace(text("right", "Harbour"), name="left")
        program = compile_frames(None, *(Frame(n, n, layers=(at,)) for n, at in (("A", left), ("B", right))), _OVER)
        shown = [items(program.at(ms))[0].layer.id for ms in (10.0, 20.0, 60.0, 70.0)]
        self.assertEqual(shown, ["left", "left", "right", "right"])

    def test_what_leaves_is_gone_at_the_end(self) -> None:
        inner = group("g", 0, 0, (text("in", "Harbour"),))
        program = compile_frames(None, Frame("A", "A", layers=(inner,)), Frame("B", "B"), _OVER)
        self.assertIn("in", self.of(program.at(50.0)))
        self.assertEqual(self.of(Scene(program, program.at(100.0).times, program.at(99.0).vector)), {})


class PlainLeaves(unittest.TestCase):
    """What is simple is looked up sooner, and is the same to the bit."""

    def same(self, one: Item, other: Item) -> None:
        for name in Item.__struct_fields__:
            a, b = getattr(one, name), getattr(other, name)
            if name == "children":
                self.assertEqual(len(a), len(b))
                for child, twin in zip(a, b, strict=True):
                    self.same(child, twin)
            elif name == "fills":
                self.assertEqual([brush.colours.tolist() for brush in a], [brush.colours.tolist() for brush in b])
                self.assertEqual([brush.kind for brush in a], [brush.kind for brush in b])
            elif name == "outline" and a is not None:
                self.assertEqual([points.tolist() for points, _ in a], [points.tolist() for points, _ in b])
            elif name not in ("plain", "layer", "shades", "pen", "mask"):
                self.assertEqual(a, b, name)
        self.assertIs(one.layer, other.layer)

    def both(self, program: Program, ms: float) -> list[Item]:
        scene = program.from_start(ms)
        made = items(scene)
        with patch("avelt.core.timing.items.plain_leaves", lambda program: (None,) * len(program.contents)):
            slow = items(program.from_start(ms))
        self.assertEqual(len(made), len(slow))
        for one, other in zip(made, slow, strict=True):
            self.same(one, other)
        return made

    def test_the_demo_and_its_parts(self) -> None:
        project = build_demo()
        plain = 0
        for frame in (*project.frames, *(pose for part in project.parts for pose in part.poses)):
            program = compile_still(frame, project)
            for ms in (130.0, 777.0):
                found = self.both(program, ms)
                while found:
                    plain += sum(item.plain for item in found)
                    found = [child for item in found for child in item.children]
        self.assertGreater(plain, 100)

    def test_what_is_not_simple_is_not_plain(self) -> None:
        alike = box("p", 0, 0, 10, 10)
        stroked = replace(alike, stroke=Stroke(Solid("#000000"), 2.0))
        for layer, plain in (
            (alike, True),
            (replace(alike, opacity=0.0), None),
            (replace(alike, blend="multiply"), False),
            (replace(alike, blur=2.0), False),
            (replace(alike, fills=(*alike.fills, Solid("#123456"))), False),
            (replace(alike, fills=(Linear((Stop(0, "#000000"), Stop(1, "#ffffff"))),)), False),
            (stroked, False),
            (replace(alike, shadows=(Shadow("#000000", 0.0, 2.0, 3.0),)), False),
        ):
            made = self.both(compile_still(Frame("f", "F", 50, 50, layers=(layer,))), 0.0)
            self.assertEqual([item.plain for item in made], [] if plain is None else [plain])

    def test_a_loop_that_blurs_or_goes_round_is_no_hindrance(self) -> None:
        project = project_of((box("a", 0, 0, 10, 10),), (box("b", 0, 0, 10, 10),))
        project, loop = add_loop(project, "A", "a", Pose(shift_x=4.0))
        for changes, plain in ((LayerChanges(blur=3.0), False), (LayerChanges(w=30.0), True)):
            made = edit_loop(project, "A", loop, lambda old, c=changes: replace(old, changes=c))  # type: ignore[misc]
            found = self.both(compile_still(made.frames[0], made), 240.0)
            self.assertEqual([item.plain for item in found], [plain])


class Scrolled(unittest.TestCase):
    def setUp(self) -> None:
        layers = tuple(box(n, 10, 40.0 * k, 30, 30, name=n) for k, n in enumerate("abcdefg"))
        inside = group("held", 50, 0, (box("in", 0, 0, 9, 9), box("turns", 9, 0, 9, 9)))
        self.layers = (*layers, inside, box("stays", 0, 0, 9, 9, stays_put=True))

    def drawn(self, going: Going, *offsets: float, loops: str = "", **own: Any) -> Drawing:
        """What is drawn, scrolled so far one after the other."""
        frame = Frame("F", "F", 200, 200, layers=self.layers, content=(200.0, 900.0), scroll="down")
        project = Project("", frames=(replace(frame, **own),))
        for layer in loops.split():
            project, _ = add_loop(project, "F", layer, Pose(shift_x=5.0))
        program = compile_still(project.frames[0], project)
        for down in offsets:
            drawing = drawing_of(program.while_running(0.0, {DOWN: down}), going=going)
        return drawing

    def parts(self, drawing: Drawing) -> list[tuple[str, str]]:
        """What rests (R), is taken along (A) and is made anew (M), in paint order."""
        found = []
        for part in drawing.parts:
            if isinstance(part, Resting):
                names = "".join(placed.item.layer.id for placed in part.placed)
                found.append(("A" if part.scrolled else "R", names))
            else:
                found.append(("M", "".join(item.layer.id for item in part.items)))
        return found

    def test_what_goes_with_it_moves_or_is_taken_along_or_rests(self) -> None:
        alone = [("M", name) for name in (*"abcdefg", "held")]
        self.assertEqual(self.parts(self.drawn(Going.MOVES, 10.0, 20.0)), [*alone, ("R", "stays")])
        self.assertEqual(self.parts(self.drawn(Going.ALONG, 10.0, 20.0)), [("A", "abcdefgheld"), ("R", "stays")])
        self.assertEqual(self.parts(self.drawn(Going.RESTS, 10.0, 20.0)), [("A", "abcdefgheld"), ("R", "stays")])
        for going in Going:
            self.assertEqual(self.parts(self.drawn(going, 10.0, 0.0)), [("M", "abcdefgheldstays")])

    def test_what_is_taken_along_is_the_same_wherever_it_is_scrolled_to(self) -> None:
        frame = Frame("F", "F", 200, 200, layers=self.layers, content=(200.0, 900.0), scroll="down")
        scenes = [compile_still(frame).while_running(0.0, {DOWN: down}) for down in (10.0, 20.0, 35.5)]
        along = [drawing_of(scene, going=Going.ALONG).parts[0] for scene in scenes]
        self.assertEqual(len(set(map(id, along))), 1)
        self.assertEqual(along[0].scrolled, (0.0, 10.0))
        settled = [drawing_of(scene, going=Going.RESTS).parts[0] for scene in scenes]
        self.assertEqual([part.placed[0].item.matrix[5] for part in settled], [-10.0, -20.0, -35.5])
        self.assertEqual([placed.item.matrix[5] for placed in along[0].placed][:3], [-10.0, 30.0, 70.0])

    def test_at_the_top_nothing_goes(self) -> None:
        frame = Frame("F", "F", 200, 200, layers=self.layers, content=(200.0, 900.0), scroll="down")
        project, _ = add_loop(Project("", frames=(frame,)), "F", "c", Pose(shift_x=5.0))
        scene = compile_still(project.frames[0], project).from_start(100.0)
        for going in Going:
            found = self.parts(drawing_of(scene, going=going))
            self.assertEqual(found, [("A", "ab"), ("M", "c"), ("A", "defgheld"), ("R", "stays")])

    def test_what_is_scrolled_in_a_frame_that_is_shown_over_another(self) -> None:
        over = Frame("O", "O", 100, 100, layers=self.layers, content=(100.0, 900.0), scroll="down")
        both = overlaid(Frame("F", "F", 200, 200, layers=(box("below", 0, 0, 9, 9),)), over, ShowOver())
        drawing = drawing_of(compile_still(both).while_running(0.0, {DOWN: 15.0}), going=Going.ALONG)
        self.assertEqual([kind for kind, _ in self.parts(drawing)], ["R", "M"])
        self.assertIn(25.0, [where[-1] for name, where, _ in leaves_of(drawing) if name == "b"])

    def test_not_more_than_some_together(self) -> None:
        more = tuple(box(f"{k}", 0, 20.0 * k, 9, 9) for k in range(10))
        parts = self.parts(self.drawn(Going.ALONG, 10.0, layers=more))
        self.assertEqual(parts, [("A", "01234567"), ("A", "89")])

    def test_what_moves_by_itself_is_made_anew(self) -> None:
        parts = self.parts(self.drawn(Going.ALONG, 10.0, 20.0, loops="c turns"))
        self.assertEqual(parts, [("A", "ab"), ("M", "c"), ("A", "defgin"), ("M", "turns"), ("R", "stays")])
        parts = self.parts(self.drawn(Going.RESTS, 10.0, 20.0, loops="c turns"))
        self.assertEqual(parts, [("A", "ab"), ("M", "c"), ("A", "defgin"), ("M", "turns"), ("R", "stays")])
        turned = replace(self.layers[-2], rotation_x=20.0)
        frame = self.drawn(Going.ALONG, 10.0, layers=(self.layers[0], turned), loops="turns")
        self.assertEqual(self.parts(frame), [("A", "a"), ("M", "held")])
        tilted = replace(self.layers[1], rotation_x=20.0)
        parts = self.parts(self.drawn(Going.ALONG, 10.0, layers=(self.layers[0], tilted)))
        self.assertEqual(parts, [("A", "a"), ("M", "b")])

    def test_what_is_drawn_is_where_it_is_seen(self) -> None:
        for going in (Going.MOVES, Going.RESTS):
            found = list(leaves_of(self.drawn(going, 10.0, 25.0, loops="c turns")))
            self.assertEqual([where[-1] for _, where, _ in found][:3], [-25.0, 15.0, 55.0])
        along = {name: where[5] for name, where, _ in leaves_of(self.drawn(Going.ALONG, 10.0, 25.0, loops="turns"))}
        self.assertEqual((along["in"], along["turns"]), (-10.0, -25.0))  # what moves is where it is, in its group, too

    def test_what_was_cut_while_it_stood_is_taken_along(self) -> None:
        frame = Frame("F", "F", 200, 200, layers=self.layers, content=(200.0, 900.0), scroll="down")
        project, _ = add_loop(Project("", frames=(frame,)), "F", "c", Pose(shift_x=5.0))
        program = compile_still(project.frames[0], project)
        loop = program.clocks.origins[0]

        def at(down: float, going: Going, rested: tuple[float, ...] = ()) -> list[Resting]:
            scene = program.while_running(0.0, {DOWN: down, loop: 50.0})
            found = drawing_of(scene, going=going, rested=rested).parts
            return [part for part in found if isinstance(part, Resting)]

        stood = at(0.0, Going.RESTS)
        self.assertEqual(at(30.0, Going.ALONG, (0.0, 0.0)), stood)
        self.assertNotEqual(at(30.0, Going.ALONG, (0.0, 7.0)), stood)  # it never stood there
        self.assertNotEqual(at(30.0, Going.RESTS, (0.0, 0.0)), stood)
        self.assertNotEqual(at(30.0, Going.MOVES, (0.0, 0.0)), stood)


class PartsAtWork(unittest.TestCase):
    def setUp(self) -> None:
        self.project = build_demo()
        self.player = Player(self.project, first=find_frame(self.project, "All sailings").id)
        while self.player.moves:
            self.player.advance(self.player.now + 50.0)

    def drawing(self) -> Drawing:
        return drawing_of(self.player.scene(), going=Going.RESTS)

    def moved(self) -> list[str]:
        shown = [part.items for part in self.drawing().parts if isinstance(part, Shown)]
        return [items[0].layer.name for items in shown if items]

    def over(self, name: str) -> None:
        """The pointer goes over a layer."""
        scene = self.player.scene()
        slot = next(s for s, part in enumerate(scene.program.contents) if part.layer.name == name)
        x, y = affine.apply(scene.world()[slot], scene.scalars[slot, [COLUMN["w"], COLUMN["h"]]] / 2.0).tolist()
        self.player.move(x, y)

    def test_a_part_in_which_nothing_moves_rests_by_itself(self) -> None:
        before = self.drawing()
        stars = [
            part for part in before.parts if isinstance(part, Resting) and "Star" in part.placed[0].item.layer.name
        ]
        self.assertGreater(len(stars), 8)
        self.assertEqual([len(part.placed) for part in stars], [1] * len(stars))
        self.assertFalse(any(name.startswith("Star") for name in self.moved()))
        self.player.advance(self.player.now + 16.0)
        self.assertTrue(all(a is b for a, b in zip(before.parts, self.drawing().parts, strict=True) if a in stars))

    def test_what_begins_in_one_leaves_all_others_as_they_were(self) -> None:
        kept = [part for part in self.drawing().parts if isinstance(part, Resting)]
        still = self.moved()
        self.over("Star 2")
        self.player.advance(self.player.now + 60.0)
        self.assertTrue(self.player.moves)
        now = [part for part in self.drawing().parts if isinstance(part, Resting)]
        self.assertEqual(set(self.moved()) - set(still), {"Star 2"})
        self.assertEqual([part.placed[0].item.layer.name for part in kept if part not in now], ["Star 2"])
        self.assertTrue(all(part in kept for part in now))
        self.player.advance(self.player.now + 2000.0)
        self.assertEqual(self.moved(), still)

    def test_where_none_is_at_work_all_rests_together(self) -> None:
        """As in a transition that begins before any part has done something."""
        frame = find_frame(self.project, "All sailings")
        program = compile_still(frame, self.project)
        rests = {use.slot: use.rest for use in program.uses}
        scene = replace(program.from_start(300.0), inside=rests)
        alone = [part for part in plan_of(scene).parts if isinstance(part, Moving) and part.by_part]
        self.assertEqual(alone, [])
        one = next(iter(rests))
        other = replace(scene, inside={**rests, one: replace(rests[one])})
        alone = [part for part in plan_of(other).parts if isinstance(part, Moving) and part.by_part]
        self.assertEqual(len(alone), sum(bool(program.stands.still[slot]) for slot in rests))


class APartAlone(unittest.TestCase):
    """A list that can be scrolled, with a use of a part in it."""

    def setUp(self) -> None:
        self.pose = Frame("p", "Pose", 20, 20, layers=(box("lamp", 0, 0, 9, 9), box("dark", 9, 0, 9, 9)))
        self.last = box("z", 0, 90, 9, 9)

    def scene(self, down: float = 0.0, within: float | None = None, loop: str = "a", **own: Any) -> Scene:
        """``within``: since when a loop in the part runs, ms; else nothing in it moves."""
        use = replace(box("use", 10, 50, 20, 20), body=Use("P"), **own)
        layers = (box("a", 0, 0, 9, 9), use, self.last)
        frame = Frame("F", "F", 200, 200, layers=layers, content=(200.0, 900.0), scroll="down")
        inside, _ = add_loop(Project("", frames=(self.pose,)), "p", "lamp", Pose(shift_x=5.0))
        part = Part("P", "Lamp", 20, 20, (inside.frames[0],))
        project = Project("", frames=(frame,), parts=(part,))
        project, _ = add_loop(project, "F", loop, Pose(shift_x=5.0))
        program = compile_still(project.frames[0], project)
        scene = program.while_running(0.0, {project.frames[0].loops[0].origin: 50.0, DOWN: down})
        self.slot = next(s for s, content in enumerate(program.contents) if content.layer.id == "use")
        inner = compile_still(inside.frames[0], project)
        there = inner.while_running(0.0, {} if within is None else {inner.clocks.origins[0]: within})
        return replace(scene, inside={self.slot: replace(there)})  # no more the very one that it begins with

    def drawn(self, scene: Scene, going: Going = Going.RESTS) -> Resting | Shown:
        """How the use is drawn."""
        for part in drawing_of(scene, going=going).parts:
            items = part.items if isinstance(part, Shown) else [entry.item for entry in part.placed]
            if [item.layer.id for item in items] == ["use"]:
                return part
        raise AssertionError("it is not drawn alone")

    def test_it_rests_while_nothing_moves_in_it(self) -> None:
        scene = self.scene()
        resting = self.drawn(scene)
        assert isinstance(resting, Resting)
        self.assertIs(self.drawn(scene), resting)
        self.assertIs(self.drawn(replace(scene, inside={self.slot: replace(scene.inside[self.slot])})), resting)
        other = replace(scene.inside[self.slot], vector=scene.inside[self.slot].vector * 0.5)
        self.assertIsNot(self.drawn(replace(scene, inside={self.slot: other})), resting)

    def test_not_while_something_does(self) -> None:
        self.assertIsInstance(self.drawn(self.scene(within=50.0)), Shown)
        self.assertIsInstance(self.drawn(self.scene(loop="use")), Shown)
        scene = self.scene()
        gives_way = replace(scene, inside={**scene.inside, ~self.slot: scene.inside[self.slot]})
        self.assertIsInstance(self.drawn(gives_way), Shown)

    def test_it_is_taken_along(self) -> None:
        scene = self.scene(30.0)
        for going in (Going.RESTS, Going.ALONG):
            found = self.drawn(scene, going)
            assert isinstance(found, Resting)
            self.assertEqual(found.scrolled, (0.0, 30.0))
        self.assertIsInstance(self.drawn(scene, Going.MOVES), Shown)
        stays = self.drawn(self.scene(30.0, stays_put=True), Going.ALONG)
        assert isinstance(stays, Resting)
        self.assertEqual(stays.scrolled, ())
        self.assertIsInstance(self.drawn(self.scene(30.0, rotation_x=20.0), Going.ALONG), Shown)

    def test_not_where_something_mixes_with_what_is_beneath(self) -> None:
        self.last = replace(self.last, blend="multiply")
        self.assertTrue(self.scene().program.mixes)
        self.assertIsInstance(self.drawn(self.scene()), Shown)


class LooksTheSame(unittest.TestCase):
    def setUp(self) -> None:
        layers = (box("a", 0, 0, 30, 30), box("b", 0, 40, 30, 30))
        frame = Frame("F", "F", 200, 200, layers=layers, content=(200.0, 900.0), scroll="down")
        self.project, _ = add_loop(Project("", frames=(frame,)), "F", "a", Pose(shift_x=5.0))
        self.program = compile_still(self.project.frames[0], self.project)
        self.loop = self.program.clocks.origins[0]

    def at(self, ms: float, down: float = 0.0) -> Scene:
        return self.program.while_running(0.0, {self.loop: ms, DOWN: down})

    def test_by_its_numbers(self) -> None:
        self.assertTrue(looks_the_same(self.at(40.0), self.at(40.0)))
        self.assertFalse(looks_the_same(self.at(40.0), self.at(41.0)))
        self.assertFalse(looks_the_same(self.at(40.0), self.at(40.0, 5.0)))
        other = compile_still(replace(self.project.frames[0], name="G"), self.project)
        self.assertFalse(looks_the_same(self.at(40.0), other.while_running(0.0, {self.loop: 40.0, DOWN: 0.0})))

    def test_not_at_another_time_nor_where_a_loop_begins(self) -> None:
        a, b = Frame("L", "L", layers=(box("a", 0, 0, 9, 9),)), Frame("R", "R", layers=(box("a", 0, 0, 9, 9),))
        program = compile_frames(None, a, b, Transition(100.0, Line()))
        self.assertTrue(np.array_equal(program.at(40.0).vector[:-1], program.at(45.0).vector[:-1]))
        still = replace(program.at(45.0), vector=program.at(40.0).vector)
        self.assertFalse(looks_the_same(program.at(40.0), still))
        begins = replace(self.at(40.0), vector=self.at(0.0).vector)
        self.assertFalse(looks_the_same(self.at(0.0), begins))  # the one is drawn exactly
        further = replace(self.at(40.0, 7.0), vector=self.at(40.0, 5.0).vector)
        self.assertFalse(looks_the_same(self.at(40.0, 5.0), further))

    def test_with_what_stands_in_it(self) -> None:
        one, two = replace(self.at(40.0), inside={0: self.at(10.0)}), replace(self.at(40.0), inside={0: self.at(10.0)})
        self.assertTrue(looks_the_same(one, two))
        self.assertFalse(looks_the_same(one, replace(two, inside={0: self.at(11.0)})))
        self.assertFalse(looks_the_same(one, replace(two, inside={1: self.at(10.0)})))
        self.assertFalse(looks_the_same(one, self.at(40.0)))


class NotResting(unittest.TestCase):
    def moving(self, left: Frame, right: Frame) -> list[str]:
        program = compile_frames(None, left, right, Transition(100.0, Line()))
        parts = plan_of(program.at(50.0)).parts
        return [program.contents[part.slot].layer.name for part in parts if isinstance(part, Moving)]

    def test_paints_that_fade_over_each_other_by_time(self) -> None:
        stops = (Stop(0.0, "#ff0000"), Stop(1.0, "#0000ff"))
        one = replace(box("a", 0, 0, 9, 9, name="A"), fills=(Linear(stops),))
        two = replace(box("b", 0, 0, 9, 9, name="A"), fills=(Radial(stops),))
        self.assertEqual(self.moving(Frame("L", "L", layers=(one,)), Frame("R", "R", layers=(two,))), ["A"])

    def test_what_is_tilted_while_the_eye_moves(self) -> None:
        layers = (box("a", 0, 0, 9, 9, name="A", rotation_x=20.0), box("b", 20, 0, 9, 9, name="B"))
        right = tuple(replace(layer, id=layer.id + "2") for layer in layers)
        near, far = Frame("L", "L", layers=layers, perspective=300.0), Frame("R", "R", layers=right, perspective=900.0)
        self.assertEqual(self.moving(near, far), ["A"])
        self.assertEqual(self.moving(near, replace(far, perspective=300.0)), [])

    def test_a_loop_in_a_frame_that_stands(self) -> None:
        frame = Frame("F", "F", layers=(box("a", 0, 0, 9, 9, name="A"), box("b", 20, 0, 9, 9, name="B")))
        project, _ = add_loop(Project(name="", frames=(frame,)), "F", "b", Pose(shift_x=5.0))
        drawing = drawing_of(compile_still(project.frames[0]).from_start(100.0))
        self.assertFalse(drawing.exact)
        self.assertEqual([type(part) for part in drawing.parts], [Resting, Shown])
        self.assertTrue(drawing_of(compile_still(project.frames[0]).from_start(0.0)).exact)

    def test_a_mask_that_moves_takes_its_group_along(self) -> None:
        def frame(ident: str, x: float) -> Frame:
            inner = (box(ident + "p", 0, 0, 40, 40, name="P"), box(ident + "m", x, 0, 20, 20, name="M"))
            held = Layer(ident + "g", "g", "G", Group(inner, mask=ident + "m"), w=40, h=40)
            return Frame(ident, ident, layers=(held, box(ident + "z", 0, 50, 9, 9, name="Z")))

        self.assertEqual(self.moving(frame("L", 0.0), frame("R", 10.0)), ["G"])


if __name__ == "__main__":
    unittest.main()
