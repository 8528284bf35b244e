"""Effects between two frames: what each moment has of blur, shadows, tilt, trim, patterns and blend modes."""

import unittest
from typing import Any

import msgspec
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from avelt.core.blending import colour
from avelt.core.blending.paints import couple, form, mean_colour
from avelt.core.model.curves import Line
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import (
    Absent,
    Away,
    Conic,
    Cue,
    Frame,
    Group,
    Layer,
    Linear,
    Pattern,
    Radial,
    Shadow,
    Solid,
    Stop,
    Stroke,
    Transition,
)
from avelt.core.running.hits import slots_at
from avelt.core.timing.compile import compile_frames, compile_still
from avelt.core.timing.items import items
from avelt.core.timing.sampling import sample
from avelt.core.timing.snapshot import snapshot
from avelt.window.timing.rows import moving_properties, value_text
from tests.support import box, group

replace = msgspec.structs.replace
STEADY = Transition(100.0, Line())
share = st.floats(0.0, 1.0)
ENDS = (Stop(0, "#ff0000"), Stop(1, "#0000ff"))
TILE = Pattern((box("t", 0, 0, 4, 4),), 8, 8)


def between(left: dict[str, Any], right: dict[str, Any], transition: Any = STEADY, **frames: Any) -> Any:
    """The program between two looks of one box."""
    a = box("a", 10, 10, 50, 40, origin="o", **left)
    b = box("b", 10, 10, 50, 40, origin="o", **right)
    return compile_frames(
        None, Frame("A", "A", 200, 200, layers=(a,)), Frame("B", "B", 200, 200, layers=(b,), **frames), transition
    )


def at(program: Any, ms: Any) -> Any:
    (item,) = items(program.at(ms))
    return item


class Numbers(unittest.TestCase):
    @given(share, st.floats(0, 50), st.floats(0, 50))
    def test_blurs_go_straight(self, t: Any, first: Any, last: Any) -> None:
        item = at(between({"blur": first, "back_blur": last}, {"blur": last, "back_blur": first}), 100 * t)
        self.assertAlmostEqual(item.blur, first + (last - first) * t, places=9)
        self.assertAlmostEqual(item.back_blur, last + (first - last) * t, places=9)

    def test_a_turn_about_x_is_kept_as_typed(self) -> None:
        program = between({}, {"rotation_x": 720.0})
        self.assertEqual(program.at(50.0).scalars[0, COLUMN["rotation_x"]], 360.0)
        self.assertEqual(len(at(program, 50.0).matrix), 9)
        self.assertEqual(len(at(program, 0.0).matrix), 6)

    def test_trim_goes_with_its_stroke(self) -> None:
        pen = Stroke(Solid("#000000"), 4.0, trim_end=0.0)
        item = at(between({"stroke": pen}, {"stroke": replace(pen, trim_end=1.0, trim_offset=0.5)}), 50.0)
        self.assertEqual(item.pen.trim, (0.0, 0.5, 0.25))
        lone = at(between({}, {"stroke": replace(pen, trim_end=0.4)}), 50.0)
        self.assertEqual((lone.pen.trim, lone.pen.width), ((0.0, 0.4, 0.0), 4.0))

    def test_blend_and_order_flip_half_way(self) -> None:
        program = between({"blend": "multiply"}, {"blend": "screen", "stroke": None})
        self.assertEqual(
            [at(program, ms).blend for ms in (0.0, 49.0, 51.0, 100.0)], ["multiply", "multiply", "screen", "screen"]
        )
        self.assertTrue(program.mixes)
        self.assertFalse(between({}, {}).mixes)

    def test_a_property_has_a_cue_of_its_own(self) -> None:
        cues = (Cue("a", "b", "blur", 50.0, 100.0), Cue("a", "b", "shadow", 0.0, 50.0))
        cast = (Shadow("#000000", 0, 10, 0),)
        program = between({}, {"blur": 8.0, "shadows": cast}, replace(STEADY, cues=cues))
        item = at(program, 50.0)
        self.assertEqual((item.blur, item.shades[0].colour[3]), (0.0, 1.0))
        self.assertEqual(at(program, 75.0).blur, 4.0)

    def test_still_layers_with_effects_stay_kept(self) -> None:
        look = {"blur": 3.0, "shadows": (Shadow("#000000", 0, 1, 2),)}
        self.assertTrue(between(look, look).stands.still[0])
        self.assertFalse(between(look, {**look, "shadows": (Shadow("#000000", 0, 1, 3),)}).stands.still[0])
        self.assertFalse(between(look, {**look, "blur": 4.0}).stands.still[0])


class Shadows(unittest.TestCase):
    def test_they_meet_in_turn_and_fade_where_one_side_has_none(self) -> None:
        left = (Shadow("#000000", 0, 4, 6), Shadow("#ff0000", 0, 0, 2, True))
        right = (Shadow("#000000", 0, 8, 10), Shadow("#0000ff", 2, 2, 2))
        item = at(between({"shadows": left}, {"shadows": right}), 50.0)
        outer, second, inner = item.shades
        self.assertEqual((outer.y, outer.blur, outer.inner), (6.0, 8.0, False))
        self.assertEqual((second.x, round(float(second.colour[3]), 3)), (2.0, 0.5))
        self.assertEqual((inner.inner, round(float(inner.colour[3]), 3)), (True, 0.5))
        np.testing.assert_allclose(inner.colour[:3], (1, 0, 0), atol=1e-6)

    def test_at_the_ends_there_are_only_those_of_the_frame(self) -> None:
        program = between({"shadows": (Shadow("#000000", 1),)}, {})
        self.assertEqual((len(at(program, 0.0).shades), len(at(program, 100.0).shades)), (1, 0))

    def test_a_snapshot_has_what_is_on_screen(self) -> None:
        program = between({"shadows": (Shadow("#000000", 0, 4, 6),), "blur": 2.0}, {"rotation_y": 40.0})
        held = snapshot(program.at(50.0), program.right)
        (layer,) = held.layers
        self.assertEqual((layer.blur, layer.rotation_y, layer.shadows[0].blur), (1.0, 20.0, 6.0))
        self.assertAlmostEqual(colour.parse(layer.shadows[0].color)[3], 0.5, places=2)
        again = items(compile_still(held).at(0.0))[0]
        self.assertAlmostEqual(again.blur, at(program, 50.0).blur)

    def test_samples_and_the_sheet_name_them(self) -> None:
        program = between(
            {}, {"shadows": (Shadow("#00000080", 0, 4, 6),), "blur": 5.0, "rotation_x": 30.0, "back_blur": 2.0}
        )
        (record,) = sample(program, 100.0)
        self.assertEqual((record["blur"], record["back_blur"], record["turn_x"]), (5.0, 2.0, 30.0))
        self.assertEqual((record["shadows"][0]["y"], record["shadows"][0]["inner"]), (4.0, False))
        self.assertEqual(set(moving_properties(program)[0]), {"rotation_xy", "shadow", "blur"})
        flat = program.merged
        self.assertEqual(len(flat.slots), 1)

        texts = [
            [value_text(program, 0, p, side) for side in (0, 1)] for p in ("rotation_xy", "shadow", "blur", "trim")
        ]
        self.assertEqual(texts, [["0°, 0°", "30°, 0°"], ["none", "1 shadow"], ["0", "5"], ["0 to 100 %"] * 2])


class Paints(unittest.TestCase):
    def test_conic_meets_conic_and_solid_and_fades_into_others(self) -> None:
        (one,) = couple((Conic(ENDS),), (Conic((Stop(0, "#fff"), Stop(0.3, "#000"), Stop(1, "#fff"))),))
        self.assertEqual((one.left.kind, len(one.left.at), len(one.right.at)), ("conic", 3, 3))
        (solid,) = couple((Conic(ENDS),), (Solid("#00ff00"),))
        self.assertEqual((solid.right.kind, solid.show), ("conic", "both"))
        self.assertEqual([c.show for c in couple((Conic(ENDS),), (Radial(ENDS),))], ["left", "right"])

    def test_a_pattern_moves_with_itself_and_fades_into_all_else(self) -> None:
        moved = replace(TILE, matrix=(1.0, 0.0, 0.0, 1.0, 0.5, 0.5))
        (one,) = couple((TILE,), (moved,))
        self.assertEqual((one.left.kind, one.show), ("pattern", "both"))
        other = replace(TILE, w=9.0)
        for right in (other, Solid("#ff0000"), Linear(ENDS)):
            self.assertEqual([c.show for c in couple((TILE,), (right,))], ["left", "right"])
        item = at(between({}, {}), 50.0)
        self.assertEqual(item.fills[0].kind, "solid")

    def test_what_a_pattern_shows_goes_into_the_scene(self) -> None:
        left = box("a", 0, 0, 20, 20, origin="o")
        right = replace(box("b", 0, 0, 20, 20, origin="o"), fills=(TILE,))
        program = compile_frames(None, Frame("A", "A", layers=(left,)), Frame("B", "B", layers=(right,)), STEADY)
        brushes = at(program, 25.0).fills
        self.assertEqual([brush.kind for brush in brushes], ["solid", "pattern"])
        self.assertIs(brushes[1].pattern, TILE)
        self.assertEqual([round(float(brush.colours[0, 3]), 3) for brush in brushes], [0.75, 0.25])

    def test_a_clear_stop_blends_by_its_own_colour(self) -> None:
        fade = Linear((Stop(0, "#ff0000"), Stop(1, "rgb(255 0 0 / 0)")))
        program = compile_still(Frame("A", "A", layers=(replace(box("a", 0, 0, 9, 9), fills=(fade,)),)))
        colours = at(program, 0.0).fills[0].colours
        np.testing.assert_allclose(colours[:, :3], [(1, 0, 0), (1, 0, 0)], atol=1e-6)
        self.assertLess(colours[1, 3], 1e-4)

    def test_mean_colours_stand_for_paints(self) -> None:
        np.testing.assert_allclose(mean_colour(Conic(ENDS)), (0.5, 0, 0.5, 1))
        self.assertEqual(form(TILE).kind, "pattern")


class Groups(unittest.TestCase):
    def test_effects_of_groups_and_isolation(self) -> None:
        inner = (box("a", 0, 0, 10, 10, blend="multiply"),)
        look = Layer("g", "g", "g", Group(inner, isolates=True), 0, 0, 10, 10, blur=4.0, shadows=(Shadow("#000000"),))
        (item,) = items(compile_still(Frame("F", "F", layers=(look,))).at(0.0))
        self.assertEqual(
            (item.blur, len(item.shades), item.isolates, item.children[0].blend), (4.0, 1, True, "multiply")
        )

    def test_a_tilted_group_takes_its_layers_along_and_is_hit_there(self) -> None:
        leaning = group("g", 50, 50, (box("a", 0, 0, 100, 100),), rotation_y=60.0)
        scene = compile_still(Frame("F", "F", 200, 200, layers=(leaning,))).at(0.0)
        self.assertEqual(set(scene.tilts()), {0, 1})
        self.assertEqual(slots_at(scene, 100, 100), (1, 0))
        self.assertEqual(slots_at(scene, 60, 100), ())

    def test_what_leaves_takes_its_effects_along(self) -> None:
        left = Frame("A", "A", 100, 100, layers=(box("a", 0, 0, 10, 10, blur=6.0, shadows=(Shadow("#000000", 3),)),))
        absent = (Absent("a", Away(opacity=0.5)),)
        program = compile_frames(None, left, Frame("B", "B", 100, 100), replace(STEADY, absents=absent))
        item = at(program, 50.0)
        self.assertEqual((item.blur, item.shades[0].x, item.opacity), (6.0, 3.0, 0.75))

    def test_the_eye_comes_nearer_from_frame_to_frame(self) -> None:
        program = between({"rotation_x": 10.0}, {"rotation_x": 10.0}, perspective=400.0)
        eyes = [program.at(ms).perspective for ms in (0.0, 50.0, 100.0)]
        np.testing.assert_allclose(eyes, [800.0, 2.0 / (1 / 800 + 1 / 400), 400.0])
