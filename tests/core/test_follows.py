"""What follows a value: drags, scrolling, the pointer, inputs; lag, letting go, interruptions; history."""

import json
import math
import random
import unittest
from typing import Any

import numpy as np

from avelt.core.checks.routes import troubles
from avelt.core.edits.project import new_project
from avelt.core.errors import AveltError
from avelt.core.formats.project_file import from_json, to_json
from avelt.core.model.properties import COLUMN
from avelt.core.model.values import Project
from avelt.core.running.following import CLOSE, LOOK_AHEAD, Following, let_go, settled
from avelt.core.running.player import Player
from avelt.core.running.tape import played, read_tape
from avelt.core.steps.read import applied
from tests.core.test_steps import SITE

BASE: list[dict[str, Any]] = [
    {"do": "frame", "name": "a", "size": [200, 400]},
    {
        "do": "draw",
        "in": "a",
        "kind": "box",
        "name": "Card",
        "position": [20, 40],
        "size": [160, 80],
        "fill": "#cc0000",
    },
    {"do": "draw", "in": "a", "kind": "box", "name": "Head", "position": [0, 0], "size": [200, 20], "fill": "#0000cc"},
    {"do": "frame", "name": "b", "copy": "a"},
    {"do": "set", "in": "b", "layer": "Card", "position": [20, 240]},
    {"do": "remove", "route": "a > b"},
]


def project_of(*steps: dict[str, Any]) -> Project:
    base = BASE
    made = applied(new_project("Follows"), base[:-1], SITE)
    if made.routes:
        made = applied(made, base[-1:], SITE)
    return applied(made, list(steps), SITE)


def drag(**own: Any) -> dict[str, Any]:
    trigger = {"drag": "Card", "along": "down", "travel": 200} | own
    return {"do": "route", "from": "a", "to": "b", "trigger": trigger, "length": 400, "curve": "linear"}


def of(player: Player, name: str, column: str) -> float:
    scene = player.scene()
    slot = next(s for s, content in enumerate(scene.program.contents) if content.layer.name == name)
    return float(scene.scalars[slot, COLUMN[column]])


def where(player: Player, name: str = "Card") -> tuple[float, float]:
    return of(player, name, "x"), of(player, name, "y")


def pulled(player: Player, *ys: float, every: float = 16.0) -> None:
    """Press the card and move by and by."""
    player.press(100, 80)
    for y in ys:
        player.advance(player.now + every)
        player.move(100, y)


class Drags(unittest.TestCase):
    def test_the_motion_goes_with_the_hand_both_ways(self) -> None:
        player = Player(project_of(drag()))
        pulled(player, 130)
        self.assertAlmostEqual(where(player)[1], 90.0)
        self.assertEqual((player.frame.name, player.route), ("a", None))
        player.move(100, 230)
        self.assertAlmostEqual(where(player)[1], 190.0)
        player.move(100, 100)
        self.assertAlmostEqual(where(player)[1], 60.0)
        player.advance(5000)
        self.assertAlmostEqual(where(player)[1], 60.0)
        player.move(100, 999)
        self.assertAlmostEqual(where(player)[1], 240.0)
        player.advance(6000)
        self.assertEqual(player.frame.name, "a")  # it is still held
        self.assertEqual(player.release(100, 999), "drag")
        player.advance(7000)
        self.assertEqual(player.frame.name, "b")

    def test_let_go_it_goes_to_the_nearer_end(self) -> None:
        for y, ends_in, word in ((140, "a", "goes back"), (220, "b", "goes on")):
            player = Player(project_of(drag()))
            pulled(player, y)
            player.advance(1000)
            player.release(100, y)
            self.assertEqual(player.log[-1].says, f"at {(y - 80) / 200:.2f}, {word}")
            player.advance(2000)
            self.assertEqual(player.frame.name, ends_in)
            self.assertEqual(where(player)[1], {"a": 40.0, "b": 240.0}[ends_in])
            self.assertIsNone(player.under_way())

    def test_the_share_from_which_it_goes_on_can_be_another(self) -> None:
        player = Player(project_of(drag(let_go_at=0.2)))
        pulled(player, 130)
        player.advance(1000)
        player.release(100, 130)
        player.advance(2000)
        self.assertEqual(player.frame.name, "b")

    def test_let_go_by_its_speed(self) -> None:
        for ys, ends_in in (
            ((90, 100, 110, 120), "b"),
            ((90, 91, 92, 93), "a"),
            ((250,) * 8 + (245, 225, 205, 185), "a"),
        ):
            player = Player(project_of(drag(let_go="speed")))
            pulled(player, *ys)
            player.release(100, ys[-1])
            player.advance(3000)
            self.assertEqual(player.frame.name, ends_in, ys)

    def test_a_hand_that_stands_still_has_no_speed(self) -> None:
        player = Player(project_of(drag(let_go="speed")))
        pulled(player, 90, 100, 110, 120)
        player.advance(player.now + 60)
        player.release(100, 120)
        player.advance(3000)
        self.assertEqual(player.frame.name, "a")

    def test_it_can_go_back_or_stay(self) -> None:
        player = Player(project_of(drag(let_go="back")))
        pulled(player, 270)
        player.release(100, 270)
        player.advance(3000)
        self.assertEqual((player.frame.name, where(player)[1]), ("a", 40.0))
        player = Player(project_of(drag(let_go="stay")))
        pulled(player, 180)
        player.release(100, 180)
        player.advance(9000)
        self.assertAlmostEqual(where(player)[1], 140.0)
        player.press(100, 160)  # on the card where it is now
        player.advance(9100)
        player.move(100, 210)
        self.assertAlmostEqual(where(player)[1], 190.0)
        player.release(100, 210)
        player.advance(9900)
        self.assertEqual(player.frame.name, "a")

    def test_what_stays_at_an_end_is_there(self) -> None:
        player = Player(project_of(drag(let_go="stay")))
        pulled(player, 300)
        player.release(100, 300)
        player.advance(player.now + 1)
        self.assertEqual((player.frame.name, player.under_way()), ("b", None))

    def test_a_press_on_the_way_takes_over_from_what_is_on_screen(self) -> None:
        player = Player(project_of(drag()))
        pulled(player, 220)
        player.advance(500)
        player.release(100, 220)
        self.assertEqual(player.frame.name, "b")  # sure to arrive: its routes are live
        player.advance(player.now + 30)
        y = where(player)[1]
        self.assertTrue(180 < y < 240)
        player.press(100, y + 10)
        self.assertAlmostEqual(where(player)[1], y)
        self.assertEqual(player.frame.name, "a")
        player.advance(player.now + 500)
        self.assertAlmostEqual(where(player)[1], y)
        player.move(100, y + 10 - 100)
        self.assertAlmostEqual(where(player)[1], y - 100)
        player.release(100, y - 90)
        player.advance(player.now + 900)
        self.assertEqual(player.frame.name, "a")

    def test_a_press_without_travel_is_a_tap(self) -> None:
        tap = {"do": "route", "from": "a", "to": "b", "trigger": {"tap": "Card"}, "length": 100, "add": True}
        player = Player(project_of(drag(), tap))
        player.press(100, 80)
        player.advance(100)
        player.move(140, 80)  # across: nothing goes that way
        self.assertIsNotNone(player.release(140, 80))
        player.advance(500)
        self.assertEqual(player.frame.name, "b")
        player = Player(project_of(drag(), tap))
        pulled(player, 100)
        self.assertEqual(player.release(100, 100), "drag")
        player.advance(2000)
        self.assertEqual(player.frame.name, "a")

    def test_two_ways_of_one_layer(self) -> None:
        steps = [
            {"do": "frame", "name": "c", "copy": "a"},
            {"do": "set", "in": "c", "layer": "Card", "position": [20, -60]},
            drag(),
            drag(along="up", travel=100) | {"to": "c"},
        ]
        player = Player(project_of(*steps))
        pulled(player, 130)
        self.assertAlmostEqual(where(player)[1], 90.0)
        player.move(100, 50)
        self.assertAlmostEqual(where(player)[1], 10.0)
        player.move(100, 100)
        self.assertAlmostEqual(where(player)[1], 60.0)
        player.move(100, 0)
        player.release(100, 0)
        player.advance(3000)
        self.assertEqual(player.frame.name, "c")

    def test_along_a_path(self) -> None:
        steps = [
            {"do": "draw", "in": "a", "kind": "path", "name": "Way", "d": "M0 0 L0 300", "position": [150, 60]},
            drag(along="Way"),
        ]
        player = Player(project_of(*steps))
        pulled(player, 155)
        self.assertAlmostEqual(where(player)[1], 40.0 + 200.0 * 75.0 / 300.0, places=3)

    def test_lag_follows_its_law(self) -> None:
        tau = 120.0
        player = Player(project_of(drag(lag=tau)))
        player.press(100, 80)
        player.advance(100)
        player.move(100, 180)
        for ms in (0.0, 7.0, 60.0, 120.0, 400.0):
            player.advance(100 + ms)
            self.assertAlmostEqual((where(player)[1] - 40) / 200, 0.5 * (1 - math.exp(-ms / tau)), delta=1e-9)
        player.move(100, 80)
        began = (where(player)[1] - 40) / 200
        player.advance(player.now + 90)
        self.assertAlmostEqual((where(player)[1] - 40) / 200, began * math.exp(-90 / tau), delta=1e-9)

    def test_a_drag_of_a_route_that_stays_sets_its_input_at_its_end(self) -> None:
        steps = [
            {"do": "input", "name": "open"},
            {
                "do": "route",
                "from": "a",
                "to": "a",
                "trigger": {"drag": "Card", "travel": 100},
                "then": {"set": "open"},
            },
        ]
        player = Player(project_of(*steps))
        pulled(player, 170)
        self.assertIs(player.inputs["open"], False)
        player.move(100, 190)
        self.assertIs(player.inputs["open"], True)

    def test_a_timer_may_break_off_a_drag(self) -> None:
        timer = {"do": "route", "from": "a", "to": "b", "trigger": {"timer": 300}, "length": 200, "add": True}
        player = Player(project_of(drag(), timer))
        pulled(player, 130)
        player.advance(299)
        before = where(player)[1]
        player.advance(301)
        self.assertAlmostEqual(where(player)[1], before, delta=3)
        player.move(100, 150)
        player.advance(600)
        self.assertEqual((player.frame.name, where(player)[1]), ("b", 240.0))

    def test_in_a_part(self) -> None:
        steps = [
            {"do": "part", "in": "a", "layers": ["Card"], "name": "Slider"},
            {"do": "draw", "in": "Slider", "kind": "box", "name": "Knob", "position": [0, 0], "size": [20, 20]},
            {"do": "follow", "in": "Slider", "layer": "Knob", "value": {"drag": "Knob", "along": "right"}}
            | {"from": 0, "to": 100, "pose": {"position": [100, 0]}},
        ]
        player = Player(project_of(*steps))
        player.press(30, 50)
        player.advance(20)
        player.move(70, 300)  # far below the part: it is held all the same
        inside = next(iter(player.scene().inside.values()))
        slot = next(s for s, content in enumerate(inside.program.contents) if content.layer.name == "Knob")
        self.assertAlmostEqual(inside.scalars[slot, COLUMN["x"]], 40.0)
        self.assertEqual(player.release(70, 300), "drag")
        player.advance(2000)
        inside = next(iter(player.scene().inside.values()))
        self.assertAlmostEqual(inside.scalars[slot, COLUMN["x"]], 0.0)


class Jumps(unittest.TestCase):
    """No jump of place or of speed where one motion takes the place of another, measured every 4 ms."""

    def smooth(self, player: Player, does: Any, name: str = "Card") -> None:
        places: list[float] = []
        for _ in range(3):
            player.advance(player.now + 1.0)
            places.append(where(player, name)[1])
        does()
        for _ in range(3):
            places.append(where(player, name)[1])
            player.advance(player.now + 1.0)
        self.assertAlmostEqual(places[3], places[2], delta=1e-6)
        before, after = places[2] - places[1], places[4] - places[3]
        self.assertAlmostEqual(after, before, delta=0.12 * max(1.0, abs(before)))

    def test_letting_go_keeps_the_speed(self) -> None:
        for lag in (0, 80):
            player = Player(project_of(drag(lag=lag)))
            pulled(player, *range(84, 200, 4), every=8)
            y = where(player)[1]
            player.release(100, 196)
            player.advance(player.now + 4)
            wanted = 4.0 / 8.0 * 4.0  # px in 4 ms
            self.assertAlmostEqual(where(player)[1] - y, wanted, delta=0.5)

    def test_a_tap_in_the_middle_of_what_lags(self) -> None:
        tap = {"do": "route", "from": "a", "to": "b", "trigger": {"tap": "Head"}, "length": 500, "add": True}
        player = Player(project_of(drag(lag=200, let_go="stay"), tap))
        pulled(player, 180)
        player.release(100, 180)
        player.advance(player.now + 40)
        self.smooth(player, lambda: self.assertIsNotNone(player.tap(100, 10)))
        player.advance(player.now + 900)
        self.assertEqual((player.frame.name, where(player)[1]), ("b", 240.0))

    def test_a_drag_takes_hold_of_a_timed_motion(self) -> None:
        back = {"do": "route", "from": "b", "to": "a", "trigger": {"drag": "Card", "along": "up", "travel": 200}}
        tap = {"do": "route", "from": "a", "to": "b", "trigger": {"tap": "Head"}, "length": 500, "curve": "linear"}
        player = Player(project_of(tap, back | {"length": 400, "curve": "linear"}))
        player.tap(100, 10)
        player.advance(200)
        y = where(player)[1]

        def touched() -> None:
            player.press(100, y + 30)
            player.move(100, y + 30 - 1e-6)

        self.smooth(player, touched)
        player.advance(player.now + 2000)
        self.assertEqual(player.frame.name, "b")
        player.release(100, y)
        player.advance(player.now + 2000)
        self.assertEqual((player.frame.name, where(player)[1]), ("b", 240.0))

    def test_the_step_of_the_clock_changes_nothing(self) -> None:
        project = project_of(drag(lag=90), drag(along="up", lag=30) | {"from": "b", "to": "a"})
        dice = random.Random(3)
        for _ in range(4):
            at, events = 0.0, []
            for _ in range(14):
                at += dice.choice((3.0, 16.0, 40.0, 300.0))
                do = dice.choice(("press", "move", "move", "move", "release"))
                events.append({"at": at, "do": do, "x": dice.uniform(30, 170), "y": dice.uniform(40, 330)})
            tape = read_tape(json.dumps({"events": events, "until": at + 600}).encode(), "t")
            moments = [k * 37.0 for k in range(int(at // 37.0))]
            one = [p.scene().vector for _, p in played(project, tape, moments)]
            many = [p.scene().vector for _, p in played(project, tape, moments, step=1.0)]
            for a, b in zip(one, many, strict=True):
                self.assertTrue(np.array_equal(a, b))


LIST: list[dict[str, Any]] = [
    {"do": "frame", "name": "list", "size": [200, 400], "background": "#ffffff"},
    *(
        {"do": "draw", "in": "list", "kind": "box", "name": f"Row {k}", "position": [0, 100 * k], "size": [200, 90]}
        for k in range(8)
    ),
    {"do": "draw", "in": "list", "kind": "box", "name": "Bar", "position": [0, 0], "size": [200, 60], "fill": "#00f"},
    {"do": "set", "in": "list", "layer": "Bar", "stays_put": True},
    {"do": "set", "in": "list", "content": [200, 800], "scroll": "down"},
]


def list_of(*steps: dict[str, Any]) -> Project:
    return applied(new_project("List"), [*LIST, *steps], SITE)


class Scrolling(unittest.TestCase):
    def test_what_goes_goes_and_what_stays_put_stays(self) -> None:
        player = Player(list_of())
        player.scroll(0, 130)
        self.assertEqual(where(player, "Row 3"), (0.0, 170.0))
        self.assertEqual(where(player, "Bar"), (0.0, 0.0))
        player.scroll(30, 9999)
        self.assertEqual(where(player, "Row 3"), (0.0, -100.0))
        player.scroll(0, -9999)
        self.assertEqual(where(player, "Row 3"), (0.0, 300.0))
        self.assertEqual(player.scene().vector.tolist(), player.scene().program.start.tolist())

    def test_a_tap_hits_what_is_seen_there(self) -> None:
        detail = [
            {"do": "frame", "name": "detail", "size": [200, 400]},
            {"do": "draw", "in": "detail", "kind": "box", "name": "Big", "position": [0, 0], "size": [200, 300]},
            {"do": "route", "from": "list", "to": "detail", "trigger": {"tap": "Row 5"}, "length": 400},
            {"do": "pair", "route": "list > detail", "layer": "Row 5", "with": "Big"},
            {"do": "route", "from": "detail", "to": "list", "trigger": {"tap": "Big"}, "then": "back", "length": 400},
        ]
        player = Player(list_of(*detail))
        self.assertIsNone(player.tap(100, 320))
        player.scroll(0, 250)
        self.assertIsNotNone(player.tap(100, 320))
        self.assertAlmostEqual(where(player, "Big")[1], 250.0)  # it grows from where it is on screen
        player.advance(1000)
        self.assertEqual(where(player, "Big")[1], 0.0)
        player.tap(100, 100)
        player.advance(2000)
        self.assertEqual((player.frame.name, where(player, "Row 5")[1]), ("list", 250.0))

    def test_the_place_is_kept_or_begins_anew(self) -> None:
        for scroll, y in (("keep", 100.0), ("reset", 300.0)):
            other = [
                {"do": "frame", "name": "other", "copy": "list"},
                {"do": "route", "from": "list", "to": "other", "trigger": {"tap": ""}, "scroll": scroll},
            ]
            player = Player(list_of(*other))
            player.scroll(0, 200)
            player.tap(100, 300)
            player.advance(100)
            at = where(player, "Row 3")[1]
            self.assertTrue(99.999 <= at <= 300.0)
            player.advance(2000)
            self.assertEqual((player.frame.name, where(player, "Row 3")[1]), ("other", y))

    def small(self, lag: float = 0.0) -> Project:
        steps = [
            {"do": "frame", "name": "small", "copy": "list"},
            {"do": "set", "in": "small", "layer": "Bar", "size": [200, 30]},
            {
                "do": "route",
                "from": "list",
                "to": "small",
                "trigger": {"scroll": "down", "start": 0, "end": 100, "lag": lag},
                "length": 300,
                "curve": "linear",
            },
        ]
        return list_of(*steps)

    def test_a_header_shrinks_with_it_both_ways(self) -> None:
        player = Player(self.small())
        player.scroll(0, 50)
        self.assertEqual((of(player, "Bar", "h"), where(player, "Row 3")[1]), (45.0, 250.0))
        self.assertEqual(player.frame.name, "list")
        player.advance(500)
        player.scroll(0, 70)
        player.advance(501)
        self.assertEqual((player.frame.name, of(player, "Bar", "h")), ("small", 30.0))
        self.assertEqual(where(player, "Row 3")[1], 180.0)
        player.advance(900)
        player.scroll(0, -60)
        self.assertEqual((of(player, "Bar", "h"), where(player, "Row 3")[1]), (42.0, 240.0))
        self.assertEqual(player.frame.name, "list")
        player.scroll(0, -60)
        player.advance(1000)
        self.assertEqual((of(player, "Bar", "h"), player.under_way()), (60.0, None))

    def test_it_comes_softly_even_when_the_wheel_jumps(self) -> None:
        player = Player(self.small(lag=100.0))
        player.advance(10)
        player.scroll(0, 100)
        self.assertEqual((of(player, "Bar", "h"), where(player, "Row 3")[1]), (60.0, 200.0))
        player.advance(110)
        self.assertAlmostEqual(of(player, "Bar", "h"), 60 - 30 * (1 - math.exp(-1)), delta=1e-3)
        player.advance(10 - 100 * math.log(CLOSE) + 1)
        self.assertEqual(player.frame.name, "small")

    def test_scrolling_makes_a_press_no_tap(self) -> None:
        tap = (
            {"do": "frame", "name": "other", "copy": "list"},
            {"do": "route", "from": "list", "to": "other", "trigger": {"tap": ""}},
        )
        player = Player(list_of(*tap))
        player.press(100, 200)
        player.scroll(0, 40)
        self.assertIsNone(player.release(100, 200))

    def test_parallax_several_layers_of_one_value(self) -> None:
        steps = [
            {
                "do": "follow",
                "in": "list",
                "layer": f"Row {k}",
                "name": f"p{k}",
                "value": {"scroll": "down"},
                "from": 0,
                "to": 200,
                "pose": {"position": [0, 20 * k], "opacity": 0.5},
                "lag": lag,
            }
            for k, lag in ((1, 0), (2, 100))
        ]
        player = Player(list_of(*steps))
        player.scroll(0, 100)
        self.assertEqual(where(player, "Row 1")[1], 10.0)  # 100 - 100 + 10
        self.assertEqual(where(player, "Row 2")[1], 100.0)
        player.advance(100)
        self.assertAlmostEqual(where(player, "Row 2")[1], 100.0 + 20 * (1 - math.exp(-1)), delta=1e-9)
        self.assertAlmostEqual(of(player, "Row 1", "opacity"), 0.75)
        player.scroll(0, -100)
        self.assertEqual(where(player, "Row 1")[1], 100.0)

    def test_what_is_shown_over_scrolls_by_itself(self) -> None:
        steps = [
            {"do": "frame", "name": "sheet", "size": [200, 200]},
            {"do": "draw", "in": "sheet", "kind": "box", "name": "Long", "position": [0, 0], "size": [200, 500]},
            {"do": "set", "in": "sheet", "content": [200, 500]},
            {
                "do": "route",
                "from": "list",
                "to": "sheet",
                "trigger": {"tap": "Bar"},
                "then": {"show over": {"at": "bottom"}},
            },
        ]
        player = Player(list_of(*steps))
        player.scroll(0, 200)
        player.tap(100, 20)
        player.advance(1000)
        self.assertEqual(where(player, "Row 3")[1], 100.0)
        player.scroll(0, 120)
        self.assertEqual((where(player, "Long")[1], where(player, "Row 3")[1]), (-120.0, 100.0))
        player.key("Escape")
        player.advance(2000)
        self.assertEqual((player.frame.name, where(player, "Row 3")[1]), ("list", 100.0))


class Values(unittest.TestCase):
    """Layers that follow the pointer, an input or a drag in their frame."""

    def test_an_input(self) -> None:
        project = project_of(
            {"do": "input", "name": "pull", "kind": "number", "start": 1},
            {
                "do": "follow",
                "in": "a",
                "layer": "Card",
                "value": {"input": "pull"},
                "from": 0,
                "to": 4,
                "pose": {"position": [0, 100]},
            },
        )
        player = Player(project)
        self.assertEqual(where(player)[1], 65.0)
        player.set_input("pull", 3.0)
        self.assertEqual(where(player)[1], 115.0)
        player.set_input("pull", 9.0)
        self.assertEqual(where(player)[1], 140.0)

    def test_the_pointer_over_a_layer_and_over_the_frame(self) -> None:
        follow = {"do": "follow", "in": "a", "layer": "Head", "pose": {"rotation": 90}}
        player = Player(project_of(follow | {"value": {"pointer": "Card"}}))
        player.move(60, 80)
        self.assertAlmostEqual(of(player, "Head", "rotation"), 90 * 0.25)
        player.move(60, 300)  # beside it: as it was
        self.assertAlmostEqual(of(player, "Head", "rotation"), 90 * 0.25)
        player = Player(project_of(follow | {"value": {"pointer": "", "axis": "down"}}))
        player.move(60, 300)
        self.assertAlmostEqual(of(player, "Head", "rotation"), 90 * 0.75)

    def test_a_drag_that_stays(self) -> None:
        follow = {
            "do": "follow",
            "in": "a",
            "layer": "Card",
            "value": {"drag": "Card", "along": "right", "let_go": "stay"},
            "from": 0,
            "to": 100,
            "pose": {"position": [100, 0]},
        }
        player = Player(project_of(follow))
        player.press(100, 80)
        player.advance(20)
        player.move(140, 200)
        self.assertAlmostEqual(where(player)[0], 60.0)
        player.release(140, 200)
        player.advance(500)
        self.assertAlmostEqual(where(player)[0], 60.0)
        player.press(140, 80)
        player.move(120, 80)
        self.assertAlmostEqual(where(player)[0], 40.0)

    def test_nothing_jumps_on_arrival_at_what_follows(self) -> None:
        project = project_of(
            {"do": "input", "name": "pull", "kind": "number", "start": 1},
            {
                "do": "follow",
                "in": "b",
                "layer": "Card",
                "value": {"input": "pull"},
                "from": 0,
                "to": 1,
                "pose": {"position": [50, 0]},
            },
            {"do": "route", "from": "a", "to": "b", "trigger": {"tap": ""}, "length": 100, "curve": "linear"},
        )
        player = Player(project)
        player.tap(100, 80)
        self.assertEqual(where(player)[0], 20.0)
        player.advance(99.99)
        self.assertAlmostEqual(where(player)[0], 70.0, delta=0.1)
        player.advance(101)
        self.assertEqual(where(player)[0], 70.0)

    def test_bad_follows_are_refused_and_the_file_keeps_good_ones(self) -> None:
        follow = {"do": "follow", "in": "a", "layer": "Card", "value": {"scroll": "down"}, "pose": {"rotation": 5}}
        for wrong, words in (
            ({"lag": 2000}, "lag"),
            ({"from": 5, "to": 5}, "two values"),
            ({"value": {"scrol": "down"}}, "followed"),
            ({"value": {"drag": "Card", "alon": 1}}, "alon"),
        ):
            with self.assertRaisesRegex(AveltError, words):
                project_of(follow | wrong)
        project = project_of(follow, {"do": "set", "in": "a", "content": [200, 900]}, drag(lag=40, let_go="speed"))
        self.assertEqual(from_json(to_json(project), "x").frames, project.frames)
        self.assertEqual(project.frames[0].scroll, "down")
        with self.assertRaisesRegex(AveltError, "stay put"):
            project_of(
                {"do": "group", "in": "a", "layers": ["Card", "Head"], "name": "G"},
                {"do": "set", "in": "a", "layer": "Card", "stays_put": True},
            )


class Checks(unittest.TestCase):
    def codes(self, *steps: dict[str, Any]) -> list[str]:
        return [trouble.code for trouble in troubles(project_of(*steps))]

    def test_what_is_gone_goes_nowhere_or_is_out_of_reach_is_said(self) -> None:
        follow = {"do": "follow", "in": "a", "layer": "Card", "name": "f", "value": {"scroll": "down"}}
        moves = {"pose": {"position": [0, 9]}}
        route = {"do": "route", "from": "a", "to": "b", "trigger": {"scroll": "down", "start": 0, "end": 160}}
        back = {"do": "route", "from": "b", "to": "a", "trigger": {"tap": ""}}
        short = {"do": "set", "in": "a", "content": [200, 500]}
        self.assertEqual(self.codes(follow | moves, route, back), [])
        self.assertEqual(self.codes(follow, route, back), ["goes nowhere"])
        self.assertEqual(self.codes(follow | moves, route, back, short), ["out of reach", "out of reach"])
        self.assertEqual(self.codes(follow | moves, route, back, short | {"content": [200, 900]}), [])
        pull = {"do": "input", "name": "pull", "kind": "number"}
        by = follow | moves | {"value": {"input": "pull"}, "from": 0, "to": 1}
        self.assertEqual(self.codes(pull, by, route, back), [])
        self.assertEqual(self.codes(pull, by, route, back, {"do": "remove", "input": "pull"}), ["input gone"])
        drag_it = follow | moves | {"layer": "Head", "value": {"drag": "Card", "along": "right"}}
        self.assertEqual(self.codes(drag_it, route, back), [])
        self.assertEqual(self.codes(drag_it, route, back, {"do": "remove", "in": "a", "layer": "Card"}), ["layer gone"])

    def test_a_delay_of_what_follows_a_value_is_in_vain(self) -> None:
        back = {"do": "route", "from": "b", "to": "a", "trigger": {"tap": ""}}
        self.assertEqual(self.codes(drag() | {"wait": 50}, back), ["delay in vain"])
        self.assertEqual(self.codes(drag(), back | {"wait": 50}), [])

    def test_several_ways_back_by_one_touch_are_no_trouble(self) -> None:
        steps = [
            {"do": "frame", "name": "c", "copy": "a"},
            {"do": "route", "from": "a", "to": "c", "trigger": {"key": "1"}},
            {"do": "route", "from": "b", "to": "c", "trigger": {"key": "1"}},
            {"do": "route", "from": "a", "to": "b", "trigger": {"key": "2"}},
            {"do": "route", "from": "c", "to": "a", "trigger": {"tap": ""}, "then": "back"},
            {"do": "route", "from": "c", "to": "b", "trigger": {"tap": ""}, "then": "back"},
        ]
        self.assertEqual(self.codes(*steps), [])
        steps[-1] |= {"then": "go"}
        self.assertEqual(self.codes(*steps), ["same trigger"])


class Law(unittest.TestCase):
    def test_settling_never_leaves_its_ends_and_keeps_its_speed(self) -> None:
        dice = random.Random(8)
        for _ in range(300):
            share, speed = dice.random(), dice.uniform(-0.02, 0.02)
            end = float(dice.randint(0, 1))
            if (speed < 0 and share < 0.01) or (speed > 0 and share > 0.99):
                continue
            way = settled(share, speed, end, 50.0, 400.0)
            shares = [way.at(50.0 + way.duration * k / 200) for k in range(201)]
            self.assertAlmostEqual(shares[-1], end)
            self.assertEqual(way.at(9e9), end)
            self.assertAlmostEqual(shares[0], share)
            self.assertTrue(all(-1e-9 <= s <= 1 + 1e-9 for s in shares))
            self.assertAlmostEqual(way.speed_at(50.0), speed)
            h = way.duration * 1e-4
            middle = 50.0 + way.duration / 3
            measured = (way.at(middle + h) - way.at(middle - h)) / (2 * h)
            self.assertAlmostEqual(way.speed_at(middle), measured, delta=1e-5 + abs(measured) * 1e-4)
            if speed * (end - share) >= 0:
                ups = np.diff(shares) * (1 if end else -1)
                self.assertTrue((ups >= -1e-9).all())

    def test_when_it_ends(self) -> None:
        lagging = Following(1.0, 0.2, 100.0, 50.0)
        self.assertAlmostEqual(abs(1.0 - lagging.at(lagging.ends_at())), CLOSE)
        self.assertEqual(Following(0.4).ends_at(), math.inf)
        self.assertEqual(Following(1.0, held=True).ends_at(), math.inf)
        self.assertEqual(Following(1.0, since=7.0).ends_at(), 7.0)
        thrown = let_go(Following(0.3, pace=0.4 / LOOK_AHEAD), 0.0, "speed", 0.5, 400.0)
        self.assertEqual(thrown.end, 1.0)
        lagging = let_go(Following(0.7, 0.0, 0.0, 500.0), 20.0, "nearer", 0.5, 400.0)
        self.assertEqual(lagging.end, 1.0)  # the hand decides, not what lags behind it
        self.assertAlmostEqual(lagging.at(20.0), 0.7 * (1 - math.exp(-20 / 500)))


class History(unittest.TestCase):
    def test_back_goes_to_the_frame_that_was_before(self) -> None:
        steps = [
            {"do": "frame", "name": "c", "copy": "a"},
            {"do": "route", "from": "a", "to": "c", "trigger": {"key": "c"}, "length": 0},
            {"do": "route", "from": "a", "to": "b", "trigger": {"key": "b"}, "length": 0},
            {"do": "route", "from": "b", "to": "c", "trigger": {"key": "c"}, "length": 0},
            {"do": "route", "from": "c", "to": "a", "trigger": {"key": "x"}, "then": "back", "length": 300},
            {"do": "route", "from": "c", "to": "b", "trigger": {"key": "x"}, "then": "back", "length": 700},
            {"do": "route", "from": "b", "to": "c", "trigger": {"key": "x"}, "then": "back", "length": 0, "add": True},
        ]
        player = Player(project_of(*steps))

        def pressed(key: str) -> str:
            player.key(key)
            player.advance(player.now + 1000)
            return player.frame.name

        self.assertEqual([pressed(key) for key in "cx"], ["c", "a"])
        self.assertEqual([pressed(key) for key in "bcxx"], ["b", "c", "b", "a"])
        player.key("b")
        player.advance(player.now + 10)
        player.key("c")
        player.advance(player.now + 10)
        player.key("x")  # the way back to b has a motion of its own
        self.assertEqual(player.log[-1].says, "to b, 700 ms")


if __name__ == "__main__":
    unittest.main()
