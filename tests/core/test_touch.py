"""What pointer and keys do: double taps, presses that last, releases, hovering, keys, and motions that end."""

import unittest
from typing import Any

from avelt.core.edits.project import new_project
from avelt.core.running.player import Player
from avelt.core.steps.read import applied
from tests.core.test_steps import SITE

Point = tuple[float, float]

STEPS: list[dict[str, Any]] = [
    {"do": "frame", "name": "a", "size": [200, 200]},
    {"do": "draw", "in": "a", "kind": "box", "name": "Card", "size": [100, 100]},
    {"do": "draw", "in": "a", "kind": "box", "name": "Star", "position": [10, 10], "size": [20, 20]},
    {"do": "frame", "name": "b", "copy": "a"},
    {"do": "frame", "name": "c", "copy": "a"},
    {"do": "input", "name": "n", "kind": "number"},
]


def player(*more: dict[str, Any]) -> Player:
    return Player(applied(new_project("Touch"), [*STEPS, *more], SITE))


def route(to: str, trigger: dict[str, Any], of: str = "a", **own: Any) -> dict[str, Any]:
    return {"do": "route", "from": of, "to": to, "trigger": trigger, "length": 0, "add": True, **own}


def says(made: Player) -> list[tuple[str, str]]:
    return [(entry.what, entry.says) for entry in made.log if entry.what not in ("arrives", "starts", "not played")]


class Touches(unittest.TestCase):
    def test_a_double_tap(self) -> None:
        for gap, there in ((100.0, "b"), (300.0, "b"), (301.0, "a")):
            made = player(route("b", {"double tap": "Card"}))
            made.tap(50, 50)
            made.advance(gap)
            made.tap(50, 50)
            made.advance(gap + 1)
            self.assertEqual(made.frame.name, there, gap)
        made = player(route("b", {"double tap": "Star"}))
        made.tap(50, 50)  # the first was beside it
        made.tap(15, 15)
        self.assertEqual(made.frame.name, "a")
        made.tap(15, 15)
        self.assertEqual((made.frame.name, says(made)[-1]), ("b", ("double tap", "Star")))

    def test_three_taps_are_one_double_tap(self) -> None:
        count = {"set": "n", "value": 1}
        made = player(
            route("a", {"double tap": ""}, then=count), route("a", {"tap": ""}, then={"set": "n", "value": 2})
        )
        for ms in (0, 100, 200):
            made.advance(ms)
            made.tap(50, 50)
        self.assertEqual([what for what, _ in says(made) if what.endswith("tap")], ["tap", "double tap", "tap"])

    def test_a_press_that_lasts_is_no_tap(self) -> None:
        more = (route("b", {"hold": "Star", "after": 400}), route("c", {"tap": ""}))
        made = player(*more)
        made.press(15, 15)
        made.advance(399)
        self.assertEqual(made.frame.name, "a")
        made.advance(400)
        self.assertEqual((made.frame.name, says(made)[-1]), ("b", ("hold", "Star")))
        self.assertIsNone(made.release(15, 15))
        made = player(*more)
        made.press(15, 15)
        made.advance(300)
        made.release(15, 15)
        made.advance(900)
        self.assertEqual(made.frame.name, "c")
        made = player(*more)
        made.press(80, 80)  # beside it
        made.advance(900)
        self.assertEqual(made.frame.name, "a")

    def test_a_hold_that_stays_is_done_once_and_its_release_is_no_tap(self) -> None:
        made = player(
            route("a", {"hold": "Star", "after": 400}, then={"set": "n", "value": 1}), route("c", {"tap": ""})
        )
        made.press(15, 15)
        made.advance(3000)
        self.assertEqual([what for what, _ in says(made)], ["hold", "input"])
        made.release(15, 15)
        self.assertEqual(made.frame.name, "a")
        made.tap(15, 15)
        self.assertEqual(made.frame.name, "c")

    def test_a_release_counts_where_the_press_was(self) -> None:
        made = player(route("b", {"release": "Star"}))
        made.press(15, 15)
        made.release(180, 180)
        self.assertEqual((made.frame.name, says(made)), ("b", [("release", "Star")]))
        made = player(route("b", {"release": "Star"}), route("c", {"tap": "Star"}))
        made.tap(15, 15)
        self.assertEqual(made.frame.name, "c")  # a tap is done first

    def test_a_tap_is_on_what_it_went_down_on_when_the_pointer_stands_still(self) -> None:
        more = (
            {"do": "set", "in": "b", "layer": "Star", "position": [170, 170]},
            route("b", {"tap": "Card"}, length=1000),
            route("c", {"tap": "Star"}, of="b"),
        )
        for up, there in (((15, 15), "c"), ((15, 19), "c"), ((12, 18), "b")):
            self.assertEqual(self.pressed_on_the_way(more, (15, 15), up).frame.name, there, up)

    def test_what_the_pointer_came_over_meanwhile_is_not_tapped(self) -> None:
        made = player(route("b", {"tap": "Star"}), route("c", {"tap": "Card"}))
        made.press(50, 50)
        made.release(15, 15)
        self.assertEqual((made.frame.name, says(made)), ("a", [("tap", "nothing, nothing happens")]))
        made.press(50, 50)
        made.release(70, 70)
        self.assertEqual(made.frame.name, "c")  # it is still over it

    def test_so_it_is_in_a_part_that_moves_away(self) -> None:
        lamp = (
            {"do": "part", "name": "Lamp", "size": [50, 50], "pose": "off"},
            {"do": "draw", "in": "Lamp", "kind": "box", "name": "Bulb", "size": [50, 50]},
            {"do": "pose", "part": "Lamp", "name": "on"},
            {"do": "phase", "part": "Lamp", "name": "dark", "shows": {"pose": "off"},
             "then": [{"on": {"tap": "Bulb"}, "to": "lit"}]},
            {"do": "phase", "part": "Lamp", "name": "lit", "shows": {"pose": "on"}},
            {"do": "use", "in": "a", "part": "Lamp", "position": [0, 140]},
            {"do": "frame", "name": "d", "copy": "a"},
            {"do": "set", "in": "d", "layer": "Lamp", "position": [150, 140]},
            route("d", {"tap": "Card"}, length=1000),
        )  # fmt: skip
        for up, phase in (((20, 160), "lit"), ((20, 165), "dark"), ((170, 160), "lit")):
            self.assertEqual(self.pressed_on_the_way(lamp, (20, 160), up).phases()["Lamp"]["main"], phase, up)

    def pressed_on_the_way(self, more: tuple[dict[str, Any], ...], down: Point, up: Point) -> Player:
        """A press as a tap on the card has begun a motion, let go as that has nearly arrived."""
        made = player(*more)
        made.tap(90, 90)
        made.advance(1)
        made.press(*down)
        made.advance(950)
        made.release(*up)
        return made

    def test_hovering(self) -> None:
        made = player(route("b", {"hover in": "Star"}), route("a", {"hover out": "Star"}, of="b"))
        made.move(50, 50)
        self.assertEqual(made.frame.name, "a")
        made.move(15, 15)
        self.assertEqual((made.frame.name, says(made)), ("b", [("hover", "over Star")]))
        made.advance(10)
        made.move(16, 16)  # in the frame that came its layers are met anew
        made.move(50, 50)
        self.assertEqual((made.frame.name, says(made)[-1]), ("a", ("hover", "off Star")))
        made.advance(20)
        made.move(15, 15)
        made.advance(30)
        made.move(15, 16)
        made.out()
        self.assertEqual(made.frame.name, "a")

    def test_inside_a_group_one_stays_over_it(self) -> None:
        made = player(
            {"do": "draw", "in": "a", "kind": "box", "name": "Left", "position": [110, 110], "size": [30, 30]},
            {"do": "draw", "in": "a", "kind": "box", "name": "Right", "position": [140, 110], "size": [30, 30]},
            {"do": "group", "in": "a", "layers": ["Left", "Right"], "name": "Bar"},
            route("a", {"hover in": "Bar"}, then={"set": "n", "value": 1}),
            route("a", {"hover out": "Bar"}, then={"set": "n", "value": 2}),
        )
        for x in (120, 130, 150, 160, 125):
            made.move(x, 120)
        self.assertEqual([entry for entry in says(made) if entry[0] == "hover"], [("hover", "over Bar")])
        made.move(50, 50)
        self.assertEqual(says(made)[-2:], [("hover", "off Bar"), ("input", "n becomes 2")])

    def test_what_appears_under_a_resting_pointer_is_left_in_one_move(self) -> None:
        """By a timer or by hovering itself: an overlay that closes when the pointer leaves it."""
        overlay = [
            {"do": "frame", "name": "o", "size": [60, 60]},
            {"do": "draw", "in": "o", "kind": "box", "name": "Panel", "size": [60, 60]},
        ]
        show = {"show over": {"at": "middle", "scrim": "", "outside_closes": False}}
        away = route("a", {"hover out": "Panel"}, of="o", then="put away")
        for trigger in ({"timer": 50}, {"hover in": "Card"}):
            for leaves in ((190.0, 190.0), (135.0, 95.0), None):
                made = player(*overlay, route("o", trigger, then=show), away)
                made.move(95, 95)
                made.advance(100.0)
                self.assertEqual(made.frame.name, "o", trigger)
                if leaves is None:
                    made.out()
                else:
                    made.move(*leaves)
                self.assertEqual(made.frame.name, "a", (trigger, leaves))
                self.assertIn(("hover", "off Panel"), says(made))
                made.move(150, 150)
                self.assertEqual(made.frame.name, "a")
        stays = player(*overlay, route("o", {"timer": 50}, then=show), away)
        stays.move(95, 95)
        stays.advance(100.0)
        stays.move(100, 100)  # still on it
        self.assertEqual(stays.frame.name, "o")

    def test_keys(self) -> None:
        made = player(route("b", {"key": "ArrowRight"}), route("c", {"key": "a"}, only_if="n > 0"))
        self.assertIsNone(made.key("a"))
        self.assertIsNone(made.key("ArrowLeft"))
        self.assertIsNotNone(made.key("ArrowRight"))
        self.assertEqual((made.frame.name, says(made)), ("b", [("key", "ArrowRight")]))

    def test_a_motion_that_ends(self) -> None:
        first = {"do": "route", "from": "a", "to": "b", "trigger": {"tap": ""}, "length": 300}
        made = player(first, route("c", {"ends": "a > b"}, of="b", length=200))
        made.tap(50, 50)
        made.advance(299)
        self.assertEqual(made.frame.name, "b")
        made.advance(300)
        self.assertEqual((made.frame.name, made.under_way()), ("c", 0.0))
        made.advance(500)
        self.assertEqual(made.under_way(), None)

    def test_a_loop_that_ends(self) -> None:
        loop = {
            "do": "loop",
            "in": "a",
            "layer": "Star",
            "name": "twinkle",
            "pose": {"scale": 2},
            "length": 400,
            "rounds": 3,
        }
        made = player(loop, route("b", {"ends": "twinkle"}))
        made.advance(1199)
        self.assertEqual(made.frame.name, "a")
        made.advance(1200)
        self.assertEqual(made.frame.name, "b")
        made = player({**loop, "phase": 300}, route("b", {"ends": "twinkle"}))
        made.advance(899)
        self.assertEqual(made.frame.name, "a")
        made.advance(900)
        self.assertEqual(made.frame.name, "b")

    def test_in_parts_and_phases(self) -> None:
        part = [
            {"do": "part", "name": "Lamp", "size": [50, 50], "pose": "off"},
            {"do": "draw", "in": "Lamp", "kind": "box", "name": "Bulb", "size": [50, 50]},
            {"do": "pose", "part": "Lamp", "name": "on"},
            {"do": "use", "in": "a", "part": "Lamp", "position": [120, 120]},
            {"do": "phase", "part": "Lamp", "name": "dark", "shows": {"pose": "off"},
             "then": [{"on": {"hover in": "Bulb"}, "to": "lit"}, {"on": {"key": "l"}, "to": "lit"}]},
            {"do": "phase", "part": "Lamp", "name": "lit", "shows": {"pose": "on"},
             "then": [{"on": {"hover out": "Bulb"}, "to": "dark"}, {"on": {"double tap": ""}, "to": "dark"}]},
        ]  # fmt: skip
        made = player(*part)

        def phase() -> str:
            return made.phases()["Lamp"]["main"]

        made.move(140, 140)
        self.assertEqual(phase(), "lit")
        made.move(20, 20)
        self.assertEqual(phase(), "dark")
        made.key("l")
        self.assertEqual(phase(), "lit")
        made.tap(140, 140)
        made.advance(100)
        made.tap(140, 140)
        self.assertEqual(phase(), "dark")
        self.assertIn(("key", "l"), says(made))


if __name__ == "__main__":
    unittest.main()
