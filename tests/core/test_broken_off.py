"""What takes the place of a motion on its way: it begins with what is on screen, paired as the frames were drawn."""

from __future__ import annotations

import unittest
from collections.abc import Callable
from unittest import mock

from msgspec.structs import replace

from avelt.core.blending import colour
from avelt.core.geometry.flatten import flatten
from avelt.core.model.curves import Line
from avelt.core.model.properties import COLUMN
from avelt.core.model.triggers import STAYS, Loading, Tap, Timer
from avelt.core.model.values import (
    Conic,
    Cue,
    Decision,
    Frame,
    Layer,
    LayerChanges,
    Linear,
    Loop,
    Paint,
    Project,
    Radial,
    Route,
    Shadow,
    Solid,
    Stop,
    Stroke,
    Subpath,
    Transition,
)
from avelt.core.model.values import Path as Outline
from avelt.core.running.carrying import carried_speed
from avelt.core.running.foresight import motions_from, pairs_on_the_way
from avelt.core.running.player import Player
from avelt.core.running.step import passed
from avelt.core.running.work import Work
from avelt.core.timing import compile as compiling
from avelt.core.timing import layout
from avelt.core.timing.broken_off import from_screen, joined_on_screen
from avelt.core.timing.compile import compile_frames, paired
from avelt.core.timing.items import items
from avelt.core.timing.over import ends
from avelt.core.timing.program import Program
from avelt.core.timing.snapshot import snapshot
from avelt.demo.build import build_demo
from tests.support import box, group, oval, text

PLAIN = Transition(100.0, Line())


def frame(name: str, *layers: Layer, **own: object) -> Frame:
    return replace(Frame(name, name, 200, 200, layers=layers), **own)


def pairs(program: Program) -> set[tuple[str, str]]:
    """The ids of what is on both sides."""
    return {(part.left.id, part.right.id) for part in program.contents if part.left and part.right}


def turned(program: Program, right: Frame, transition: Transition = PLAIN, at: float = 50.0) -> Program:
    return from_screen(Project("Test"), program.at(at), program.right, right, transition)


class Pairs(unittest.TestCase):
    def test_turned_round_it_goes_back_as_it_came(self) -> None:
        a = frame("A", box("sun", 10, 10, 40, 40, "#ffcc00"))
        b = frame("B", oval("moon", 120, 120, 20, 20, "#223355"))
        together = Transition(100.0, Line(), decisions=(Decision("sun", "moon", True),))
        came = compile_frames(None, a, b, together)
        self.assertEqual(pairs(came), {("sun", "moon")})
        self.assertEqual(paired(b, a, PLAIN).to_of, {})  # standing still they would be strangers
        self.assertEqual(pairs(turned(came, a)), {("moon", "sun")})

    def test_what_was_taken_apart_by_hand_stays_apart(self) -> None:
        a, b = frame("A", box("sun", 10, 10, 40, 40)), frame("B", box("moon", 12, 12, 40, 40, name="sun"))
        came = compile_frames(None, a, b, PLAIN)
        self.assertEqual(pairs(came), {("sun", "moon")})
        apart = Transition(100.0, Line(), decisions=(Decision("moon", "sun", False),))
        self.assertEqual(pairs(turned(came, a, apart)), set())
        self.assertEqual(pairs(turned(came, a)), {("moon", "sun")})

    def test_how_it_looks_on_the_way_makes_no_pair(self) -> None:
        # Half way the two are where, and as large as, the other one of C is: standing still they are far from it.
        a = frame("A", box("one", 0, 0, 20, 20, name="Buoy"), box("two", 180, 180, 20, 20, name="Boat"))
        b = frame("B", box("one B", 180, 0, 20, 20, name="Buoy"), box("two B", 0, 180, 20, 20, name="Boat"))
        c = frame("C", box("one C", 90, 90, 20, 20, name="Boat"), box("two C", 100, 0, 20, 20, name="Buoy"))
        came = compile_frames(None, a, b, PLAIN)
        self.assertEqual(turned(came, c).merged.slots[0].right, 1)
        self.assertEqual(pairs(turned(came, c)), {("one B", "two C"), ("two B", "one C")})

    def test_what_leaves_is_what_it_was(self) -> None:
        a = frame("A", box("flag", 10, 10, 40, 40, name="Flag"))
        b = frame("B", text("word", "Harbour", 100, 100))
        c = frame("C", box("flag C", 60, 60, 40, 40, name="Flag"))
        on_its_way = turned(compile_frames(None, a, b, PLAIN), c)
        self.assertEqual(pairs(on_its_way), {("flag", "flag C")})

    def test_of_two_what_is_arrived_at_has_the_first_word(self) -> None:
        # What leaves would be a pair as well: only one of them can have it.
        a = frame("A", box("old", 10, 10, 40, 40, name="Flag"))
        b = frame("B", box("new", 150, 150, 40, 40, name="Flag"))
        c = frame("C", box("last", 60, 60, 40, 40, name="Flag"))
        apart = Transition(100.0, Line(), decisions=(Decision("old", "new", False),))
        came = compile_frames(None, a, b, apart)
        self.assertEqual(pairs(came), set())
        self.assertEqual(pairs(turned(came, c)), {("new", "last")})

    def test_a_chain_remembers_where_it_began(self) -> None:
        frames = [frame("A", text("flag", "Flag")), *(frame(f"empty {k}") for k in range(10))]
        program = compile_frames(None, frames[0], frames[1], PLAIN)
        for there in frames[2:6]:
            program = turned(program, there, at=1.0)
        again = frame("again", text("flag again", "Flag", 100, 100))
        self.assertEqual(pairs(turned(program, again, at=1.0)), {("flag", "flag again")})
        for there in frames[6:]:
            program = turned(program, there, at=1.0)
        self.assertEqual(len(program.drawn), 8)  # and it is not kept for ever
        self.assertEqual(program.drawn[:2], (frames[10], frames[9]))

    def test_a_group_is_no_layer(self) -> None:
        a = frame("A", group("g", 10, 10, (text("in", "Harbour"),)))
        b = frame("B", box("b", 150, 150, 10, 10))
        came = compile_frames(None, a, b, PLAIN)
        home = frame("A", box("g", 10, 10, 80, 20))
        joined = joined_on_screen(came, snapshot(came.at(50.0), b), home, PLAIN)
        self.assertNotIn("g", joined.to_of)  # though the very id is there

    def test_the_pairs_say_what_leaves_and_enters(self) -> None:
        left, right = frame("A", box("a", 0, 0, 9, 9), box("b", 9, 0, 9, 9)), frame("B", box("c", 0, 0, 9, 9))
        joined = paired(left, right, Transition(decisions=(Decision("a", "c", True),))).joined
        self.assertEqual((joined.to_of, joined.leaves, joined.enters), ({"a": "c"}, ("b",), ()))
        lone = replace(joined, to_of={})
        self.assertEqual((lone.leaves, lone.enters), (("a", "b"), ("c",)))


class AsDrawn(unittest.TestCase):
    def test_what_does_not_move_is_the_very_layer(self) -> None:
        still, goes = box("still", 0, 0, 9, 9), box("goes", 20, 0, 9, 9)
        held = group("held", 0, 50, (box("in", 0, 0, 9, 9),))
        stirred = group("stirred", 0, 90, (box("calm", 0, 0, 9, 9), box("jumps", 20, 0, 9, 9)))
        a = frame("A", still, goes, held, stirred)
        jumped = replace(stirred, body=replace(stirred.body, children=(stirred.children[0], box("jumps", 40, 0, 9, 9))))
        b = frame("B", still, box("goes", 60, 0, 9, 9), held, jumped)
        seen = snapshot(compile_frames(None, a, b, PLAIN).at(50.0), b).layers
        self.assertIs(seen[0], still)
        self.assertEqual((seen[1].id, seen[1].x), ("goes", 40.0))
        self.assertIs(seen[2], held)
        self.assertIsNot(seen[3], jumped)
        self.assertIs(seen[3].children[0], stirred.children[0])
        self.assertEqual(seen[3].children[1].x, 30.0)

    def test_what_has_left_its_group_stands_where_it_is_seen(self) -> None:
        inner = box("in", 5, 5, 9, 9)
        a = frame("A", group("g", 50, 50, (inner, box("more", 0, 0, 9, 9))))
        b = frame("B", group("g", 50, 50, (box("more", 0, 0, 9, 9),)), box("in", 55, 55, 9, 9))
        program = compile_frames(None, a, b, PLAIN)
        seen = flatten(snapshot(program.at(50.0), b))
        self.assertEqual(seen.bounds[seen.index["in"]].tolist(), [55.0, 55.0, 9.0, 9.0])

    def test_what_was_scrolled_is_where_it_is_seen(self) -> None:
        a = frame("A", box("row", 0, 100, 50, 50), content=(200.0, 900.0), scroll="down")
        program = compile_frames(None, a, a, Transition(0.0, Line()))
        seen = snapshot(program.while_running(0.0, {"\0across": 0.0, "\0down": 30.0}), a)
        self.assertEqual(seen.layers[0].y, 70.0)

    def test_nothing_else_is_seen_than_before(self) -> None:
        project = build_demo()
        for route in project.routes[:10]:
            if isinstance(route.action, STAYS):
                continue
            program = compiling.compile_route(project, route)
            scene = program.at(program.duration * 0.4)
            held = compiling.compile_still(snapshot(scene, program.right), project).at(0.0)
            where = {part.layer.id: s for s, part in enumerate(scene.program.contents)}
            world, opacity = scene.world(), scene.world_opacity()
            for s, part in enumerate(held.program.contents):
                t = where[part.layer.id]
                self.assertLess(abs(held.world()[s] - world[t]).max(), 1e-6, (route.id, part.layer.name))
                self.assertAlmostEqual(float(held.world_opacity()[s]), float(opacity[t]), places=9)

    def test_what_only_fades_keeps_all_else(self) -> None:
        card = replace(
            box("card", 10, 10, 40, 40), stroke=Stroke(Solid("#000"), 2.0), shadows=(Shadow("#000", 0, 1, 2),)
        )
        a, b = frame("A", card), frame("B", replace(card, opacity=0.5))
        (seen,) = snapshot(compile_frames(None, a, b, PLAIN).at(50.0), b).layers
        self.assertEqual(seen, replace(card, opacity=0.75))
        self.assertTrue(all(getattr(seen, name) is getattr(card, name) for name in ("fills", "stroke", "shadows")))

    def test_paints_on_their_way_are_what_is_seen(self) -> None:
        def filled(*fills: Paint) -> Layer:
            return replace(box("card", 10, 10, 40, 40), fills=fills)

        def stops(red: str) -> tuple[Stop, ...]:
            return Stop(0.0, red), Stop(1.0, "#0000ff")

        for kind in (Linear, Radial, Conic):
            a, b = (frame(n, filled(kind(stops(red)))) for n, red in (("A", "#000000"), ("B", "#ff0000")))
            program = compile_frames(None, a, b, PLAIN)
            (seen,) = snapshot(program.at(40.0), b).layers
            (paint,) = seen.fills
            self.assertIsInstance(paint, kind)
            (item,) = items(program.at(40.0))
            self.assertEqual(paint.stops[0].color, colour.to_text(item.fills[0].colours[0]))
            self.assertNotIn(paint.stops[0].color, ("#000000", "#ff0000"))
            self.assertEqual(paint.stops[1].color, "#0000ff")
        a, b = (frame(n, filled(Solid(c))) for n, c in (("A", "#000000"), ("B", "#ff0000")))
        (seen,) = snapshot(compile_frames(None, a, b, PLAIN).at(100.0 - 1e-9), b).layers
        self.assertEqual(seen.fills, (Solid("#ff0000"),))

    def test_a_group_is_masked_on_the_way_as_it_was(self) -> None:
        held = group("g", 0, 0, (oval("hole", 0, 0, 30, 30), box("card", 0, 0, 40, 40)))
        held = replace(held, body=replace(held.body, mask="hole"))
        (seen,) = snapshot(
            compile_frames(None, frame("A", held), frame("B", replace(held, x=50.0)), PLAIN).at(50.0), frame("B")
        ).layers
        self.assertEqual((seen.x, seen.body.mask), (25.0, "hole"))
        self.assertEqual([layer.id for layer in seen.children], ["hole", "card"])

    def test_where_the_eye_comes_nearer_what_is_turned_is_on_its_way(self) -> None:
        layers = (box("turned", 0, 0, 9, 9, rotation_y=30.0), box("flat", 20, 0, 9, 9))
        near, far = (frame(n, *layers, perspective=eye) for n, eye in (("A", 300.0), ("B", 900.0)))
        stands = compile_frames(None, near, far, PLAIN).stands
        self.assertEqual((stands.unmoved.tolist(), stands.whole.tolist()), ([False, True], [False, True]))
        stands = compile_frames(None, near, replace(near, id="B"), PLAIN).stands
        self.assertEqual((stands.unmoved.tolist(), stands.whole.tolist()), ([True, True], [False, True]))

    def test_paints_that_fade_over_each_other_are_on_their_way(self) -> None:
        stops = (Stop(0.0, "#ff0000"), Stop(1.0, "#0000ff"))
        card = replace(box("card", 10, 10, 40, 40), fills=(Linear(stops),))
        held = group("g", 0, 0, (card,))
        other = replace(held, body=replace(held.body, children=(replace(card, fills=(Radial(stops),)),)))
        stands = compile_frames(None, frame("A", held), frame("B", other), PLAIN).stands
        for slots in (stands.unmoved, stands.stays, stands.as_drawn, stands.still):
            self.assertEqual(slots.tolist(), [True, False])
        self.assertEqual(stands.whole.tolist(), [False, False])


class LaidOut(unittest.TestCase):
    def assert_same(self, make: Callable[[], list[Program]]) -> list[Program]:
        """What is made is the same as when nothing is taken from an earlier layout."""

        def made() -> list[Program]:
            layout._layouts.clear()
            layout._blocks.clear()
            layout._drawn.clear()
            return make()

        sooner = made()
        with mock.patch.object(layout, "_drawn_alike", return_value=False):
            plain = made()
        for one, other in zip(sooner, plain, strict=True):
            for numbers in ("start", "end", "_in_space"):
                self.assertEqual(getattr(one, numbers).tobytes(), getattr(other, numbers).tobytes())
            for a, b in zip(one.contents, other.contents, strict=True):
                for name in ("fills", "stroke", "shadows", "outline", "dashes", "pen"):
                    self.assertEqual(getattr(a, name), getattr(b, name), a.layer.name)
            second = [
                [(loop.places.tolist(), loop.added.tolist()) for loop in program.loops] for program in (one, other)
            ]
            self.assertEqual(*second)
        return sooner

    def test_what_is_drawn_alike_is_laid_out_as_ever(self) -> None:
        project = build_demo()

        def turns() -> list[Program]:
            found: list[Program] = []
            for route in project.routes:
                came = compile_frames(project, *ends(project, route), route.transition)
                scene = came.at(came.duration * 0.4)
                found += [came, from_screen(project, scene, came.right, came.left, route.transition)]
            return found

        made = self.assert_same(turns)
        self.assertGreater(sum(part.both is None for one in made for part in one.contents), 200)

    def test_whatever_else_is_another(self) -> None:
        points = (0.0, 0.0, 20.0, 0.0, 40.0, 20.0, 40.0, 40.0, 20.0, 60.0, 0.0, 40.0, 0.0, 0.0)
        path = replace(box("a", 0, 0, 40, 60), body=Outline((Subpath(points, True),)), stroke=Stroke(Solid("#112233")))
        two = replace(path, id="b", x=90.0)
        fewer = Outline((Subpath((0.0, 0.0, 9.0, 0.0, 9.0, 9.0, 0.0, 0.0), True),))
        red = (Solid("#ff0000"),)
        loop = Loop("l", "l", "a", "Glows", changes=LayerChanges(fills=red))
        slow = Cue("a", "b", "size", 20.0, 60.0)
        for right, transition, loops in (
            (two, PLAIN, ()),
            (replace(two, shadows=(Shadow("#000000", 1.0, 2.0, 3.0),)), PLAIN, ()),
            (replace(two, fills=red), PLAIN, ()),
            (replace(two, stroke=Stroke(Solid("#445566"), 4.0)), PLAIN, ()),
            (replace(two, body=fewer), PLAIN, ()),
            (replace(two, body=Outline((Subpath(tuple(v * 1.1 for v in points), True),))), PLAIN, ()),
            (replace(two, w=80.0), replace(PLAIN, cues=(slow,)), ()),
            (two, replace(PLAIN, cues=(Cue("a", "b", "fill", space="oklch"),)), ()),
            (two, PLAIN, (loop,)),
        ):
            a, b = replace(frame("A", path), loops=loops), frame("B", right)
            made = self.assert_same(lambda a=a, b=b, t=transition: [compile_frames(None, a, b, t)])  # type: ignore[misc]
            self.assertEqual(len(made[0].contents), 1)

    def test_speed_stays_with_what_lies_in_the_same_group(self) -> None:
        shadow = (Shadow("#000000", 0.0, 0.0, 4.0),)
        card = replace(box("card", 0, 0, 40, 40, "#ff0000"), shadows=shadow)
        there = replace(card, x=90.0, shadows=(replace(shadow[0], x=9.0),))
        moves = compile_frames(None, frame("A", card), frame("B", there), PLAIN)
        stands = compile_frames(None, frame("A", card), frame("B", card), PLAIN)
        place = moves.contents[0].shadows[0].loose + moves.colours_end
        for old, new, px, of_shadow in (
            (moves, stands, 0.9, 0.09),
            (stands, moves, -0.9, -0.09),
            (moves, moves, 0.0, 0.0),
        ):
            speed = carried_speed(old, 50.0, new)
            self.assertAlmostEqual(speed[0], px)
            self.assertAlmostEqual(speed[place], of_shadow)
        inside = (frame(name, group("g", 0, 0, (one,))) for name, one in (("A", card), ("B", there)))
        grouped = compile_frames(None, *inside, PLAIN)
        self.assertFalse(carried_speed(grouped, 50.0, moves).any())

    def test_which_of_two_contents_is_seen_has_no_speed(self) -> None:
        a, b = frame("A", text("w", "one")), frame("B", text("v", "two", name="w"))
        came = compile_frames(None, a, b, PLAIN)
        self.assertGreater(came.at(50.0).scalars[0, COLUMN["mix"]], 0.4)
        speed = carried_speed(came, 50.0, compile_frames(None, b, b, PLAIN))
        self.assertEqual(speed[COLUMN["mix"]], 0.0)

    def test_numbers_that_move_keep_their_speed_and_others_have_none(self) -> None:
        a = frame("A", replace(box("card", 0, 0, 40, 40, "#ff0000"), shadows=(Shadow("#000000", 0.0, 0.0, 4.0),)))
        b = frame(
            "B",
            replace(box("card B", 90, 0, 40, 40, "#0000ff", name="card"), shadows=(Shadow("#000000", 9.0, 0.0, 4.0),)),
        )
        came = compile_frames(None, a, b, PLAIN)
        new = turned(came, a)
        speed = carried_speed(came, 50.0, new)
        place, x = new.dense, new.contents[0].shadows[0].loose + new.colours_end
        self.assertAlmostEqual(speed[0], 0.9 + 0.45)  # it went there by 0.9 px a ms, and goes back by 0.45
        self.assertAlmostEqual(speed[x], 0.09 + 0.045)
        self.assertTrue(speed[place : place + 3].any())  # of its colour
        self.assertEqual(speed[1], 0.0)
        still = compile_frames(None, a, replace(a, id="C"), PLAIN)
        self.assertFalse(carried_speed(still, 50.0, turned(still, a)).any())


class Ahead(unittest.TestCase):
    def test_a_touch_on_the_way_has_nothing_to_find(self) -> None:
        project = build_demo()
        stays = tuple(r for r in project.routes if not isinstance(r.trigger, Timer | Loading))
        project = replace(project, routes=stays)
        turns = 0
        for start in project.frames:
            player = Player(project, first=start.id)
            player.advance(3000.0)
            for _ in (*motions_from(player.rules, player.world), *pairs_on_the_way(player.rules, player.world)):
                pass
            for first, then in self.two_taps(player):
                begun = Work(player.rules, player.world)
                begun.go(first)
                work = Work(player.rules, passed(begun.world(), player.now + first.delay + 90.0))
                with mock.patch.object(compiling, "pair_frames", wraps=compiling.pair_frames) as found:
                    work.go(then)
                self.assertEqual(found.call_count, 0, (first.id, then.id))
                turns += 1
        self.assertGreater(turns, 20)

    def two_taps(self, player: Player) -> list[tuple[Route, Route]]:
        def taps(frame: Frame) -> list[Route]:
            routes = player.rules.routes_of(frame)
            return [r for r in routes if isinstance(r.trigger, Tap) and not isinstance(r.action, STAYS)]

        there = {frame.id: frame for frame in player.project.frames}
        return [(first, then) for first in taps(player.frame) for then in taps(there[first.arrives])]
