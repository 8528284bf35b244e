"""What is painted sooner on the way looks as if it were not: groups that only fade, shadows, boxes that grow."""

from __future__ import annotations

import unittest
from typing import Any
from unittest import mock

from msgspec.structs import replace
from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QTransform

from avelt.core.arrays import np
from avelt.core.blending.rolling import Column
from avelt.core.model.curves import Line
from avelt.core.model.values import (
    Follow,
    Frame,
    Group,
    Layer,
    Linear,
    Loop,
    Pose,
    Shadow,
    Solid,
    Stop,
    Stroke,
    Transition,
)
from avelt.core.timing import resting
from avelt.core.timing.compile import compile_frames, compile_still
from avelt.core.timing.followers import WHOLE, clock_of
from avelt.core.timing.items import items
from avelt.core.timing.painted import Item
from avelt.core.timing.program import Program
from avelt.paint import painter as painting
from avelt.paint.effects import pixels
from avelt.paint.painter import ScenePainter
from avelt.paint.shades import (
    Short,
    as_painted,
    look_of,
    only_casts,
    scaled_by,
    sheet_key,
    what_is_drawn,
    without_middle,
)
from tests.support import box, group, oval, text

STRAIGHT = Transition(100.0, Line())
SOFT = (Shadow("#00000080", 0, 4, 5),)


def moves(left: tuple[Layer, ...], right: tuple[Layer, ...]) -> Program:
    frames = (Frame(name, name, 200, 200, layers=layers) for name, layers in (("A", left), ("B", right)))
    return compile_frames(None, *frames, STRAIGHT)


def off_by(one: QImage, other: QImage) -> int:
    """The largest difference of two pictures, in levels of 255."""
    return int(np.abs(pixels(one).astype(int) - pixels(other).astype(int)).max())


class Fading(unittest.TestCase):
    def setUp(self) -> None:
        inside = (box("ground", 0, 0, 80, 60, shadows=SOFT), text("word", "Harbour", 5, 5), oval("dot", 40, 30, 20, 20))
        self.card = group("card", 30, 30, inside)
        self.goes = (box("goes", 10, 150, 20, 20), box("goes", 150, 150, 20, 20))
        self.painter = ScenePainter()

    def painted(self, program: Program, *moments: float) -> int:
        """How many sheets are painted for pictures, each of which is what another painter makes of it."""
        sheets = self.painter._painted_sheet
        with mock.patch.object(self.painter, "_painted_sheet", wraps=sheets) as painted:
            for ms in moments:
                seen = self.painter.render(program.at(ms), 1.5)
                self.assertEqual(off_by(seen, ScenePainter().render(program.at(ms), 1.5)), 0, ms)
        return painted.call_count

    def fades(self, card: Layer) -> Program:
        return moves((card, self.goes[0]), (replace(card, opacity=0.2), self.goes[1]))

    def test_a_group_that_fades_is_painted_once(self) -> None:
        self.assertEqual(self.painted(self.fades(self.card), 20.0, 40.0, 60.0, 80.0), 1)

    def test_one_that_leaves_too(self) -> None:
        self.assertEqual(self.painted(moves((self.card, self.goes[0]), (self.goes[1],)), 20.0, 40.0, 60.0), 1)

    def test_a_motion_that_takes_over_finds_it(self) -> None:
        painted = self.painted(self.fades(replace(self.card, opacity=0.9)), 50.0)
        painted += self.painted(self.fades(replace(self.card, opacity=0.5)), 1.0)
        self.assertEqual(painted, 1)

    def test_one_that_goes_is_painted_anew(self) -> None:
        other = replace(self.card, x=60.0, opacity=0.2)
        self.assertEqual(self.painted(moves((self.card,), (other,)), 20.0, 40.0, 60.0), 3)

    def test_so_is_one_in_which_something_moves(self) -> None:
        first, *rest = self.card.children
        stirred = replace(self.card, opacity=0.2, body=Group((replace(first, w=90.0), *rest)))
        self.assertEqual(self.painted(moves((self.card,), (stirred,)), 20.0, 40.0, 60.0), 3)

    def test_or_deep_in_it(self) -> None:
        outer = group("outer", 10, 10, (self.card, box("more", 0, 0, 10, 10)))
        first, *rest = self.card.children
        stirred = replace(self.card, body=Group((replace(first, w=90.0), *rest)))
        after = replace(outer, opacity=0.2, body=Group((stirred, outer.children[1])))
        self.assertEqual(self.painted(moves((outer,), (after,)), 20.0, 40.0), 2)

    def test_or_its_mask_does(self) -> None:
        held = replace(self.card, body=Group(self.card.children, mask="dot"))
        *rest, dot = held.children
        after = replace(held, opacity=0.2, body=Group((*rest, replace(dot, w=40.0)), mask="dot"))
        self.assertEqual(self.painted(moves((held,), (after,)), 20.0, 40.0), 2)
        self.assertEqual(self.painted(self.fades(held), 20.0, 40.0), 1)

    def test_what_is_hidden_by_a_condition_is_another_sheet(self) -> None:
        first, *rest = self.card.children
        asked = replace(self.card, body=Group((first, replace(rest[0], only_if="open"), *rest[1:])))
        program = self.fades(asked)
        self.assertFalse(program.stands.whole[0])
        self.assertFalse(items(program.at(50.0))[0].whole)

    def test_of_two_groups_one_clips_for_both(self) -> None:
        inner = group("inner", 5, 5, (box("wide", 0, 0, 90, 20),))
        outer = replace(group("outer", 10, 10, (inner,)), opacity=0.9)
        clipped = replace(inner, body=replace(inner.body, clips=True))
        after = replace(outer, opacity=0.2, body=replace(outer.body, children=(clipped,)))
        self.assertEqual(moves((outer,), (after,)).stands.whole.tolist(), [False, False, True])
        self.assertEqual(self.fades(outer).stands.whole.tolist(), [False, True, True, False])

    def test_what_is_done_with_all_of_it_counts(self) -> None:
        (item, _) = items(self.fades(self.card).at(50.0))
        plain = sheet_key(item, QTransform(), (0, 0, 9, 9))
        others = (
            ("w", 81.0),
            ("h", 61.0),
            ("cut", (0.5, 0.0, 0.0, 0.0)),
            ("blur", 3.0),
            ("clips", True),
            ("mask_by", "luminance"),
            ("mask", item.children[0]),
            ("shades", item.children[0].shades),
        )
        for name, value in others:
            before = getattr(item, name)
            setattr(item, name, value)
            self.assertNotEqual(sheet_key(item, QTransform(), (0, 0, 9, 9)), plain, name)
            setattr(item, name, before)
        for place in (QTransform.fromTranslate(0.5, 0.0), QTransform.fromScale(1.0, 1.1)):
            self.assertNotEqual(sheet_key(item, place, (0, 0, 9, 9)), plain)
        self.assertNotEqual(sheet_key(item, QTransform(), (0, 0, 9, 8)), plain)
        item.opacity = 0.1
        self.assertEqual(sheet_key(item, QTransform(), (0, 0, 9, 9)), plain)

    def test_what_it_shows_are_its_layers(self) -> None:
        (item, _) = items(self.fades(self.card).at(50.0))
        self.assertEqual(set(map(id, what_is_drawn(item) or ())), set(map(id, self.card.children)))
        item.children[1].whole = False
        self.assertIsNone(what_is_drawn(item))
        self.assertEqual(what_is_drawn(item.children[0]), ())  # what a layer is stands in its key
        item.children[0].rolling = (Column("1"),)
        self.assertIsNone(what_is_drawn(item.children[0]))

    def test_a_layer_with_a_shadow_that_fades_too(self) -> None:
        row = box("row", 30, 30, 90, 40, shadows=SOFT)
        self.assertEqual(self.painted(self.fades(row), 20.0, 40.0, 60.0), 1)
        self.assertEqual(self.painted(self.fades(replace(row, opacity=0.5)), 20.0), 0)
        fade = (Linear((Stop(0.0, "#ff0000"), Stop(1.0, "#0000ff"))),)
        for further in (
            replace(row, x=50.0),
            replace(row, w=50.0),
            replace(row, fills=(Solid("#ff0000"),)),
            replace(row, body=replace(row.body, radii=(9.0,) * 4)),
            replace(row, shadows=(Shadow("#00000080", 0, 4, 8),)),
        ):
            self.assertEqual(self.painted(moves((row,), (replace(further, opacity=0.1),)), 20.0, 40.0), 2, further)
        for other in (replace(row, fills=fade), replace(row, stroke=Stroke(Solid("#000"), 2.0))):
            self.assertEqual(self.painted(self.fades(other), 20.0, 40.0), 2, other)

    def test_what_a_layer_looks_like_counts(self) -> None:
        row = box("row", 30, 30, 90, 40, shadows=SOFT)
        (item, _) = items(self.fades(row).at(50.0))
        plain = look_of(item)
        for name, value in (
            ("rule", "evenodd"),
            ("radii", (1.0,) * 4),
            ("free", True),
            ("outline", [(item.outline[0][0], False)]),  # type: ignore[index]
            ("text", text("t", "Harbour").body),
            ("fills", []),
        ):
            before = getattr(item, name)
            setattr(item, name, value)
            self.assertNotEqual(look_of(item), plain, name)
            setattr(item, name, before)
        (word, _) = items(self.fades(replace(text("t", "Harbour"), shadows=SOFT)).at(50.0))
        plain = look_of(word)
        for name in ("type_size", "letter_spacing", "line_height"):
            setattr(word, name, 3.0)
            self.assertNotEqual(look_of(word), plain, name)
            plain = look_of(word)

    def test_what_was_painted_ahead_is_kept_until_it_is_wanted(self) -> None:
        first, *rest = self.card.children
        other = self.fades(replace(self.card, body=Group((replace(first, w=70.0), *rest))))
        for _ in self.painter.painting_ahead(other.at(50.0), 1.5):
            pass
        self.assertEqual(self.painted(self.fades(self.card), 20.0, 40.0), 1)
        self.assertEqual(self.painted(other, 20.0, 40.0), 0)

    def test_a_picture_is_painted_ahead_part_by_part(self) -> None:
        rests = (box("one", 0, 0, 20, 20), box("two", 30, 0, 20, 20))
        program = moves((*rests, self.card, self.goes[0]), (*rests, replace(self.card, opacity=0.2), self.goes[1]))
        parts = resting.drawing_of(program.at(50.0)).parts
        self.assertEqual([type(part) for part in parts], [resting.Resting, resting.Shown, resting.Shown])
        with (
            mock.patch.object(self.painter, "_make_run", wraps=self.painter._make_run) as made,
            mock.patch.object(self.painter, "_painted_sheet", wraps=self.painter._painted_sheet) as painted,
        ):
            steps = self.painter.painting_ahead(program.at(50.0), 1.5)
            seen = [(made.call_count, painted.call_count) for _ in steps]
        self.assertEqual(seen, [(0, 0), (1, 0), (1, 1), (1, 1)])  # what to draw, and each part of it
        with mock.patch.object(self.painter, "_make_run") as made:
            self.assertEqual(self.painted(program, 50.0), 0)
        self.assertFalse(made.called)
        for at, _ in enumerate(self.painter.painting_ahead(program.at(50.0), 1.0)):  # others are painted meanwhile
            self.assertEqual(self.painted(self.fades(replace(self.card, x=float(at))), 20.0), 1)
        self.assertLessEqual(len(self.painter._kept.sheets), 3)

    def test_what_is_painted_at_a_time(self) -> None:
        drawing = resting.drawing_of(self.fades(self.card).at(0.0))
        self.assertEqual([len(part.items) for part in drawing.parts], [2])
        alone = list(drawing.apart())
        self.assertEqual([item.layer.id for one in alone for item in one.parts[0].items], ["card", "goes"])
        self.assertEqual([(len(one.parts), one.exact) for one in alone], [(1, True), (1, True)])
        first, *rest = self.card.children
        stirred = replace(self.card, body=Group((replace(first, w=90.0), *rest)))
        drawing = resting.drawing_of(moves((self.card,), (stirred,)).at(50.0))
        above = [part.above for part in drawing.parts if isinstance(part, resting.Shown)]
        self.assertEqual([len(matrices) for matrices in above], [1])  # in a group that rests
        alone = [one.parts[0] for one in drawing.apart()]
        self.assertEqual([part.above for part in alone if isinstance(part, resting.Shown)], above)

    def test_a_group_in_it_is_known_by_what_lies_in_it(self) -> None:
        outer = group("outer", 10, 10, (self.card, box("more", 0, 0, 10, 10)))
        self.assertEqual(self.painted(self.fades(outer), 50.0), 1)
        same = replace(self.card, name="made anew")
        for card, count in (
            (same, 0),
            (replace(same, x=31.0), 1),
            (replace(same, opacity=0.5), 2),
            (replace(same, blur=2.0), 2),
            (replace(same, scale_x=0.9), 1),
            (replace(same, body=replace(same.body, clips=True)), 1),
            (replace(same, body=Group(same.children[1:])), 1),
        ):
            made = replace(outer, body=Group((card, outer.children[1])))
            with self.subTest(x=card.x, opacity=card.opacity, blur=card.blur, count=count):
                self.assertEqual(self.painted(self.fades(made), 50.0), count)

    def test_what_follows_a_value_is_painted_anew_only_when_that_goes(self) -> None:
        follow = Follow("f", "f", "card", "Follows", offset=Pose(shift_x=30.0))
        clock = clock_of(follow)
        left = Frame("A", "A", 200, 200, layers=(self.card,), follows=(follow,))
        right = replace(left, id="B", layers=(replace(self.card, opacity=0.2),))
        program = compile_frames(None, left, right, STRAIGHT)
        self.assertEqual(program.stands.of_items[0], (False, True, False))
        self.assertEqual(program.stands.of_layers[0], (False, False))
        sheets = self.painter._painted_sheet
        with mock.patch.object(self.painter, "_painted_sheet", wraps=sheets) as painted:
            for ms, share in ((20.0, 0.0), (30.0, 0.0), (40.0, 0.5), (50.0, 0.5), (60.0, 0.5), (70.0, 0.0)):
                scene = program.while_running(ms, {clock: share * WHOLE})
                self.assertEqual(scene.scalars[0, 0], 30.0 + 30.0 * share)
                seen = self.painter.render(scene, 1.5)
                self.assertEqual(off_by(seen, ScenePainter().render(scene, 1.5)), 0, (ms, share))
        self.assertLessEqual(painted.call_count, 3)
        rests = compile_frames(None, left, left, Transition(0.0, Line()))
        self.assertFalse(rests.stands.of_items[0][1])  # there the value may go all the time

    def test_a_loop_beside_it_still_moves_it(self) -> None:
        follow = Follow("f", "f", "card", "Follows", offset=Pose(shift_x=30.0))
        loop = Loop("sways", "sways", "card", "Sways", Pose(shift_y=10.0))
        left = Frame("A", "A", 200, 200, layers=(self.card,), follows=(follow,), loops=(loop,))
        right = replace(left, id="B", layers=(replace(self.card, opacity=0.2),))
        self.assertFalse(compile_frames(None, left, right, STRAIGHT).stands.of_items[0][1])

    def test_in_something_that_goes_none_of_it_is_kept(self) -> None:
        outer = group("outer", 10, 10, (self.card, box("row", 0, 90, 90, 40, shadows=SOFT)))
        faded = tuple(replace(child, opacity=0.3) for child in outer.children)
        goes = replace(outer, x=60.0, body=Group(faded))
        self.painter.render(moves((outer,), (goes,)).at(50.0))
        self.assertEqual(len(self.painter._kept.sheets), 0)
        stays = replace(outer, body=Group(faded))
        self.painter.render(moves((outer, self.goes[0]), (stays, self.goes[1])).at(50.0))
        self.assertEqual(len(self.painter._kept.sheets), 2)

    def test_the_ends_are_painted_as_the_frames(self) -> None:
        self.painted(self.fades(self.card), 0.0, 100.0)
        self.assertEqual(len(self.painter._kept.sheets), 0)


class Resting(unittest.TestCase):
    """What rests is painted once for all programs in which it looks the same."""

    def setUp(self) -> None:
        self.painter = ScenePainter()
        self.painted: list[str] = []

    def paint(self, rests: Layer | tuple[Layer, ...], goes: float) -> list[str]:
        """The names of what is painted for a picture in which some layers rest and something else goes."""
        gone = box("goes", 10, 150, 20, 20)
        rests = (rests,) if isinstance(rests, Layer) else rests
        self.check(moves((*rests, gone), (*rests, replace(gone, x=goes))))
        return self.painted

    def check(self, program: Program) -> None:
        make, self.painted = self.painter._make_run, []

        def made(standing: Any, area: Any) -> Any:
            self.painted += [item.layer.name for item, _ in standing]
            return make(standing, area)

        with mock.patch.object(self.painter, "_make_run", made):
            seen = self.painter.render(program.at(50.0), 1.5)
        self.assertEqual(off_by(seen, ScenePainter().render(program.at(50.0), 1.5)), 0)

    def test_no_more_is_laid_out_than_where_it_is(self) -> None:
        pen, wide = Stroke(Solid("#000000"), 6.0), QRectF(-900.0, -900.0, 1800.0, 1800.0)
        row = box("row", 30, 30, 90, 40, shadows=SOFT)
        goes = box("goes", 10, 150, 20, 20)
        for rests in (
            (row, text("word", "Harbour", 60, 90)),
            (replace(row, rotation=30.0),),
            (replace(row, stroke=pen), replace(oval("dot", 180, 20, 60, 60), stroke=pen)),  # half of it out of sight
            (group("card", -20, 30, (box("ground", 0, 0, 80, 60), text("word", "Quay", 5, 5)), opacity=0.5),),
            (box("away", 400, 30, 90, 40), box("flat", 30, 30, 0, 0)),
            (oval("dot", 30.4, 40.7, 61.3, 33.9),),
            (replace(box("line", 30, 40.3, 90, 0), stroke=pen),),
            (replace(row, skew=20.0, shadows=(), stroke=Stroke(Solid("#000000"), 9.0, join="miter")),),
            (group("turned", 60, 60, (replace(row, rotation=45.0), oval("dot", 0, 0, 9, 9)), rotation=-17.0),),
        ):
            scene = moves((*rests, goes), (*rests, replace(goes, x=60.0))).at(50.0)
            with mock.patch.object(painting, "sheet_over", wraps=painting.sheet_over) as laid_out:
                seen = ScenePainter().render(scene, 1.5)
            for call in laid_out.call_args_list:
                self.assertLess(call.args[0].width() * call.args[0].height(), 300 * 300 * 0.7, rests)
            with mock.patch.object(painting, "reach", return_value=wide):
                self.assertLessEqual(off_by(seen, ScenePainter().render(scene, 1.5)), 1, rests)

    def test_in_another_program_it_is_there(self) -> None:
        pen = Stroke(Solid("#000000"), 2.0)
        for rests in (
            box("row", 30, 30, 90, 40, shadows=SOFT),
            group("card", 30, 30, (box("ground", 0, 0, 80, 60), text("word", "Harbour", 5, 5)), opacity=0.5),
            replace(box("line", 30, 30, 90, 40), stroke=pen),
        ):
            self.assertEqual(self.paint(rests, 150.0), [rests.name])
            self.assertEqual(self.paint(rests, 120.0), [])
            made = replace(rests, name="made anew")
            self.assertEqual(self.paint(made, 90.0), ["made anew"] if rests.stroke is not None else [])

    def test_all_that_is_seen_of_it_counts(self) -> None:
        card = group("card", 30, 30, (box("ground", 0, 0, 80, 60), text("word", "Harbour", 5, 5)), opacity=0.5)
        for other in (
            replace(card, x=31.0),
            replace(card, opacity=0.6),
            replace(card, blur=2.0),
            replace(card, shadows=SOFT),
            replace(card, body=Group(card.children[:1])),
            replace(card, body=Group((replace(card.children[0], w=70.0), card.children[1]))),
        ):
            with self.subTest(other=other):
                self.painter = ScenePainter()
                self.paint(card, 150.0)
                self.assertEqual(self.paint(other, 120.0), ["card"])

    def test_so_does_in_which_group_it_lies(self) -> None:
        x, y, z = (box(name, 0, 0, 30, 30) for name in "xyz")
        for goes, one, other in ((100.0, (x, y), (z,)), (90.0, (y,), (z, x))):
            self.assertEqual(
                self.paint((group("a", 30, 30, one, opacity=0.5), group("b", 30, 30, other, opacity=0.5)), goes),
                ["a", "b"],
            )

    def test_what_is_not_known_by_its_layers_is_not_taken_for_something_else(self) -> None:
        row = box("row", 120, 30, 40, 40)
        for w in (50.0, 60.0):
            asked = group("asked", 30, 30, (replace(box("x", 0, 0, w, 30), only_if="open"), box("y", 0, 40, 20, 20)))
            self.assertEqual(self.paint((row, asked), 100.0 + w), ["row", "asked"])

    def test_so_do_the_groups_above(self) -> None:
        row = replace(box("row", 30, 30, 90, 40), stroke=Stroke(Solid("#000000"), 2.0))
        goes = box("goes", 0, 90, 20, 20)
        for x, painted in ((10.0, ["row"]), (20.0, ["row"]), (10.0, [])):
            left, right = (group("outer", x, 10, (row, gone)) for gone in (goes, replace(goes, x=x + 60.0)))
            self.check(moves((left,), (right,)))
            self.assertEqual(self.painted, painted)

    def test_how_it_mixes_counts(self) -> None:
        row = box("row", 30, 30, 90, 40)
        (item,) = items(moves((row,), (replace(row, opacity=0.2),)).at(50.0))
        plain = as_painted(item, QTransform(), ())
        for name, value in (("opacity", 0.25), ("blend", "multiply"), ("back_blur", 2.0), ("isolates", True)):
            before = getattr(item, name)
            setattr(item, name, value)
            self.assertNotEqual(as_painted(item, QTransform(), ()), plain, name)
            setattr(item, name, before)
        item.rolling = (Column("1"),)
        self.assertIsNone(as_painted(item, QTransform(), ()))
        item.whole = True
        self.assertIs((as_painted(item, QTransform(), ()) or ((),))[0][0], item.layer)
        item.leaves = ((1.0, [], 1.0, 1.0, None, []),)
        self.assertIsNone(as_painted(item, QTransform(), ()))


class Words(unittest.TestCase):
    def painted(self, y: float) -> int:
        """How often words at a height are painted on their way."""
        word = text("word", "Harbour", 20.3, y, size=22)
        painter, program = ScenePainter(), moves((word,), (replace(word, x=50.0),))
        with mock.patch.object(painter, "_text", wraps=painter._text) as painted:
            painter.render(program.at(50.0), 1.3)
        return painted.call_count

    def test_those_out_of_sight_are_not_painted(self) -> None:
        self.assertEqual([self.painted(y) for y in (-200.0, -20.0, 100.0, 190.0, 300.0)], [0, 1, 1, 1, 0])

    def test_what_can_be_scrolled_stays_while_a_transition_runs(self) -> None:
        word = text("word", "Harbour", 20, 20)
        a, b = (
            Frame(n, n, 200, 200, layers=(w,), content=(200.0, 900.0), scroll="down")
            for n, w in (("A", word), ("B", replace(word, opacity=0.1)))
        )
        program = compile_frames(None, a, b, STRAIGHT)
        self.assertTrue(program.stands.of_items[0][1])
        at_rest = compile_frames(None, a, a, Transition(0.0, Line()))
        self.assertFalse(at_rest.stands.of_items[0][1])  # there somebody may scroll it all the time


class Shades(unittest.TestCase):
    def one(self, layer: Layer, further: Layer) -> Item:
        return items(moves((layer,), (further,)).at(50.0))[0]

    def pictures(self, program: Program, scale: float, **without: object) -> tuple[QImage, QImage]:
        """A picture, and the same painted with something of the painter's another way."""
        seen = ScenePainter().render(program.at(50.0), scale)
        with mock.patch.multiple(painting, **without):
            return seen, ScenePainter().render(program.at(50.0), scale)

    def test_a_shadow_without_its_middle_is_the_same(self) -> None:
        fade = (Linear((Stop(0.0, "#ff0000"), Stop(1.0, "#0000ff"))),)
        clear = (Linear((Stop(0.0, "#ff0000"), Stop(1.0, "#0000ff00"))),)
        made: list[bool] = []

        def watched(item: Item, matrix: QTransform, deviation: float) -> Short:
            short = without_middle(item, matrix, deviation)
            made.append(short.item is not item)
            return short

        for w, h, radius, blur, fills in (
            (130.0, 120.0, 16.0, 5.0, (Solid("#336699"),)),
            (130.3, 20.7, 4.0, 5.0, (Solid("#33669980"),)),
            (20.2, 140.6, 60.0, 3.0, fade),
            (150.0, 150.0, 12.0, 0.0, clear),
            (150.0, 150.0, 12.0, 4.0, clear),
            (30.0, 30.0, 12.0, 8.0, fade),
        ):
            own = {
                "shadows": (Shadow("#000000c0", 1, 4, blur),),
                "body": replace(box("x", 0, 0, 1, 1).body, radii=(radius,) * 4),
            }
            left = replace(box("a", 20, 20, w, h, **own), fills=fills)
            right = replace(left, x=25.0, w=w + 8.4)
            for scale in (1.0, 0.884, 2.3):
                with mock.patch.object(painting, "without_middle", watched):
                    seen, plain = self.pictures(
                        moves((left,), (right,)), scale, without_middle=lambda item, *_: Short(item)
                    )
                    self.assertLessEqual(off_by(seen, plain), 2, (w, h, scale))
        self.assertIn(True, made)
        self.assertIn(False, made)

    def test_of_what_is_scaled_one_serves_for_a_step_of_sizes(self) -> None:
        turned = QTransform().rotate(10.0)
        for matrix, scale, deviation in (
            (QTransform.fromScale(1.1, 1.1), 1.0, 1.9),  # an edge would be seen
            (QTransform.fromScale(1.1, 1.2), 1.0, 9.0),
            (QTransform.fromScale(-1.1, -1.1), 1.0, 9.0),
            (turned, 1.0, 9.0),
            (QTransform(1.1, 0.1, 0.0, 1.1, 0.0, 0.0), 1.0, 9.0),
            (QTransform.fromScale(0.884, 0.884), 0.884, 9.0),  # nothing is scaled but all of the frame
            (QTransform.fromScale(1.0 + 1e-12, 1.0 + 1e-12), 1.0, 9.0),
            (QTransform.fromScale(1.1, 1.1), -1.0, 9.0),
        ):
            self.assertEqual(scaled_by(matrix, scale, deviation), 1.0)
        kept: set[float] = set()
        for k in range(-7, 9):
            size = 0.884 * (1.0 + 0.021 * k)
            factor = scaled_by(QTransform.fromScale(size, size), 0.884, 2.0)
            self.assertTrue(0.8408 < factor <= 1.0, size)
            kept.add(round(size / factor / 0.884, 9))
        self.assertEqual(kept, {1.0, round(2.0**0.25, 9)})

    def test_a_shadow_that_was_kept_larger_is_the_same(self) -> None:
        row = box("row", 20, 20, 120, 60, shadows=(Shadow("#000000c0", 0, 0, 4),))
        row = replace(row, body=replace(row.body, radii=(12.0,) * 4))
        for larger, most in ((1.15, 1), (1.5, 3)):
            card = group("card", 10, 10, (row,))
            program = moves((card,), (replace(card, scale_x=larger, scale_y=larger),))
            for scale in (1.0, 0.884, 2.0):
                painter = ScenePainter()
                with mock.patch.object(painter, "_shadow", wraps=painter._shadow) as painted:
                    for ms in (10.0, 30.0, 50.0, 70.0, 90.0):
                        size = 1.0 + (larger - 1.0) * ms / 100.0
                        stands = Frame("A", "A", 200, 200, layers=(replace(card, scale_x=size, scale_y=size),))
                        exact = ScenePainter().render(compile_still(stands).at(0.0), scale)
                        self.assertLessEqual(off_by(painter.render(program.at(ms), scale), exact), 3, (ms, scale))
                self.assertEqual(painted.call_count, most)

    def test_only_flat_boxes_lose_their_middle(self) -> None:
        upright = QTransform()
        large = box("a", 20, 20, 150, 150, shadows=SOFT)
        further = replace(large, x=30.0)
        item = self.one(large, further)
        short = without_middle(item, upright, 5.0)
        self.assertEqual((short.item.w + short.across[1], short.item.h + short.down[1]), (150.0, 150.0))
        self.assertLess(short.item.w, 60.0)
        for turn in (QTransform().rotate(5.0), QTransform.fromScale(-1.0, 1.0), QTransform.fromScale(1.0, -1.0)):
            self.assertTrue(without_middle(item, turn, 5.0).item is item)
        for other in (
            replace(large, body=oval("o", 0, 0, 1, 1).body),
            replace(large, stroke=Stroke(Solid("#000"), 2.0)),
            replace(large, fills=()),
            replace(large, w=38.0, h=38.0),
        ):
            item = self.one(other, replace(other, x=30.0))
            self.assertTrue(without_middle(item, upright, 5.0).item is item)

    def test_a_layer_that_only_casts_needs_no_sheet(self) -> None:
        layers = (
            box("a", 20, 20, 60, 60, shadows=(*SOFT, Shadow("#ff000080", 8, 8, 2))),
            text("t", "Harbour", 100, 100, size=30),
        )
        layers = (layers[0], replace(layers[1], shadows=SOFT))
        further = tuple(replace(layer, x=layer.x + 11.3) for layer in layers)
        program = moves(layers, further)
        seen, plain = self.pictures(program, 1.3, only_casts=lambda _: False)
        self.assertLessEqual(off_by(seen, plain), 2)
        with mock.patch.object(painting, "sheet_over", wraps=painting.sheet_over) as sheets:
            painter = ScenePainter()
            painter.render(program.at(50.0))
            painter.render(program.at(51.0))
        self.assertEqual(sheets.call_count, 3)  # one for each shadow, and they are kept

    def test_what_is_out_of_sight_casts_nothing(self) -> None:
        far = box("a", 20, 400, 60, 60, shadows=SOFT)
        painter = ScenePainter()
        painter.render(moves((far,), (replace(far, x=40.0),)).at(50.0))
        self.assertEqual(len(painter._kept.shades), 0)

    def test_who_only_casts(self) -> None:
        layer = box("a", 20, 20, 60, 60, shadows=SOFT)
        item = self.one(layer, replace(layer, x=40.0))
        self.assertTrue(only_casts(item))
        for name, value in (
            ("shades", []),
            ("children", [item]),
            ("leaves", ((),)),
            ("opacity", 0.9),
            ("blend", "multiply"),
            ("mask", item),
            ("isolates", True),
            ("blur", 1.0),
            ("back_blur", 1.0),
            ("cut", (0.1, 0.0, 0.0, 0.0)),
        ):
            before = getattr(item, name)
            setattr(item, name, value)
            self.assertFalse(only_casts(item), name)
            setattr(item, name, before)
        item.shades[0].inner = True
        self.assertFalse(only_casts(item))


if __name__ == "__main__":
    unittest.main()
