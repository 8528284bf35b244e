"""What is chosen in Timing is kept once; stations redraw what an edit touched and leave the rest alone."""

from __future__ import annotations

import math
import unittest
from unittest import mock

from msgspec.structs import replace

from avelt.core.edits.layers import set_value
from avelt.core.edits.routes import set_trigger
from avelt.core.edits.shapes import add_swatch
from avelt.core.model.find import find_frame, find_layer, find_route
from avelt.core.model.motion import CueKey
from avelt.window.timing.selection import Selection
from tests.support import WindowCase

A, B, C = (CueKey(name, name, "") for name in "abc")


class Chosen(unittest.TestCase):
    def test_one_more_one_less_and_one_always_stays(self) -> None:
        one = Selection((A,))
        two = one.toggled(B)
        self.assertEqual((two.cues, two.key, two.also), ((A, B), B, {A}))
        self.assertEqual(two.toggled(B).cues, (A,))
        self.assertEqual(two.toggled(A).cues, (B,))
        self.assertEqual(one.toggled(A).cues, (A,))
        self.assertIsNone(Selection().key)

    def test_keyframes_belong_to_one_cue(self) -> None:
        chosen = Selection((A,)).with_point(3).with_keyframes(A, (0, 2))
        self.assertEqual(
            (chosen.keyframe, chosen.keyframes_at(A), chosen.keyframes_at(B), chosen.point), (2, (0, 2), (), -1)
        )
        of_position = Selection((A,)).with_keyframes(A.of("position"), (1,))
        self.assertEqual((of_position.keyframe, of_position.keyframes_at(A.of("position"))), (-1, (1,)))
        self.assertIsNone(chosen.with_keyframes(A, ()).keyframes_of)
        self.assertEqual(chosen.with_keyframes(A, ()).keyframe, -1)


class InTheWindow(WindowCase, unittest.TestCase):
    def setUp(self) -> None:
        super().setUp()
        self.window.go("timing")
        self.settle()
        self.station = self.window.stations["timing"]
        self.context = self.station.context

    def test_all_parts_show_the_same_choice(self) -> None:
        told: list[object] = []
        self.context.selected.connect(lambda: told.append(self.context.key))
        rows = [row.key for row in self.station.sheet.body.rows]
        self.station.pick(rows[2])
        self.station.pick_also(rows[4])
        self.assertEqual(told, [rows[2], rows[4]])
        self.context.select(self.context.selection)
        self.assertEqual(len(told), 2)
        self.assertEqual(self.context.keys, (rows[2], rows[4]))
        self.assertEqual(self.station.now.slot, self.context.slot)
        self.assertIn("2 cues", self.station.curve_editor.subject.text())

    def test_an_edit_elsewhere_leaves_the_sheet_alone(self) -> None:
        deck = find_frame(self.project, "Seat deck")
        plan = find_layer(deck, "Ship plan")
        sailings = find_frame(self.project, "Sailings")
        card = find_layer(sailings, "Grey Stack card")
        with mock.patch.object(self.station, "refresh") as refreshed:
            self.workspace.do("move", lambda p: set_value(p, deck.id, plan.id, "opacity", 0.5))
            self.workspace.do("swatch", lambda p: add_swatch(p, "#123456"))
            refreshed.assert_not_called()
            self.workspace.do("move", lambda p: set_value(p, sailings.id, card.id, "opacity", 0.5))
            refreshed.assert_called_once()

    def test_the_tree_of_layers_is_filled_only_when_it_is_another_one(self) -> None:
        self.window.go("frames")
        frames = self.window.stations["frames"]
        frame = find_frame(self.project, "Sailings")
        card = find_layer(frame, "Grey Stack card")
        self.workspace.choose(frame.id, card.id)
        with mock.patch.object(frames.tree, "fill", wraps=frames.tree.fill) as filled:
            self.workspace.do("fade", lambda p: set_value(p, frame.id, card.id, "opacity", 0.5))
            filled.assert_not_called()
            self.workspace.do("name", lambda p: set_value(p, frame.id, card.id, "name", "Harbour card"))
            filled.assert_called()
        self.assertIn("Harbour card", [item.text(0) for item in frames.tree.items()])


class Trails(WindowCase, unittest.TestCase):
    """The playhead driven by hand over the travel of a motion that follows a value."""

    def setUp(self) -> None:
        super().setUp()
        route = find_route(self.project, "Which deck > Which deck, top")
        self.workspace.do("x", lambda p: set_trigger(p, route.id, replace(route.trigger, lag=100.0)))
        self.workspace.choose_route(route.id)
        self.window.go("timing")
        self.settle()
        self.station = self.window.stations["timing"]
        self.station.clock.stop()
        self.station.clock.seek(0.0)
        self.station.trail.advance(5_000.0)

    def test_what_lags_comes_after_the_hand(self) -> None:
        station = self.station
        station._scrubbed(250.0)
        station.trail._timer.stop()
        station.trail._timer.start()
        station.trail.advance(100.0)
        self.assertAlmostEqual(station.now.scene.at, 250 * (1 - math.exp(-1)), delta=4.0)
        self.assertAlmostEqual(station.sheet.head.trail, station.now.scene.at)
        self.assertFalse(station.sheet.head.grab().isNull())
        self.assertEqual(station.panel.travel.text(), "122 of 244 px")
        station.trail.advance(1_000.0)
        self.assertEqual((station.now.scene.at, station.sheet.head.trail), (250.0, None))
        station.clock.seek(0.0)
        station.trail.advance(50.0)
        self.assertGreater(station.now.scene.at, 100.0)

    def test_played_it_goes_by_the_clock(self) -> None:
        station = self.station
        station.clock.play()
        station.clock.advance(80.0)
        self.assertEqual(station.now.scene.at, station.clock.ms)
        station.clock.stop()

    def test_a_motion_by_the_clock_has_none(self) -> None:
        self.workspace.choose_route(find_route(self.project, "Sailings > Sailing detail").id)
        self.settle()
        self.station._scrubbed(200.0)
        self.assertEqual((self.station.now.scene.at, self.station.panel.travel.text()), (200.0, ""))
