"""Parts: made, used, dissolved; edited inside; refused in circles; at work in a player and in pictures."""

import random
import unittest
from pathlib import Path
from typing import Any

import msgspec

from avelt.core.edits import parts
from avelt.core.edits.curves import remove_curve
from avelt.core.edits.frames import put_frame
from avelt.core.edits.inputs import fed_in, rename_input
from avelt.core.edits.project import new_project
from avelt.core.errors import AveltError, EditError, FormatError, NotFound
from avelt.core.formats.checked import check
from avelt.core.formats.project_file import from_json, to_json
from avelt.core.model.find import find_frame, find_layer, find_route
from avelt.core.model.parts import MAX_DEPTH, as_stage, find_part, pose_of, used_by
from avelt.core.model.values import Feed, Use
from avelt.core.running.player import Player
from avelt.core.steps.read import applied
from avelt.core.steps.said import Site
from avelt.core.timing.compile import compile_route, compile_still
from avelt.core.timing.sampling import records_of, sample
from tests.core.test_play import outcome, tape

SITE = Site(Path("."))
replace = msgspec.structs.replace
DRAWN: list[dict[str, Any]] = [
    {"do": "frame", "name": "a", "size": [200, 200]},
    {"do": "draw", "in": "a", "kind": "box", "name": "Hull", "position": [40, 100], "size": [60, 20], "fill": "#a33"},
    {"do": "draw", "in": "a", "kind": "box", "name": "Mast", "position": [68, 60], "size": [4, 40], "fill": "#333"},
    {"do": "draw", "in": "a", "kind": "box", "name": "Quay", "position": [0, 120], "size": [200, 20], "fill": "#888"},
]
MADE: list[dict[str, Any]] = [
    *DRAWN,
    {"do": "input", "name": "wind", "kind": "number", "start": 0},
    {"do": "input", "name": "news", "kind": "signal"},
    {"do": "part", "in": "a", "layers": ["Hull", "Mast"], "name": "Boat", "pose": "calm"},
    {"do": "pose", "part": "Boat", "name": "windy", "copy": "calm"},
    {"do": "set", "in": "Boat/windy", "layer": "Mast", "rotation": 20},
    {"do": "input", "part": "Boat", "name": "blow", "kind": "number", "start": 0},
    {"do": "input", "part": "Boat", "name": "hail", "kind": "signal"},
    {
        "do": "route",
        "part": "Boat",
        "from": "calm",
        "to": "windy",
        "trigger": {"crosses": "blow", "value": 5},
        "length": 300,
        "curve": "linear",
    },
    {"do": "route", "part": "Boat", "from": "windy", "to": "calm", "trigger": {"tap": "Hull"}, "length": 200},
    {"do": "route", "part": "Boat", "from": "calm", "to": "windy", "trigger": {"signal": "hail"}, "add": True},
]
FED = {"do": "use", "in": "a", "layer": "Boat", "inputs": {"blow": "wind", "hail": "news"}}
BOBS = {"do": "loop", "in": "Boat/calm", "layer": "Hull", "name": "bob", "pose": {"position": [0, -8]}, "length": 800}


def drawn(*more: Any) -> Any:
    return applied(new_project("Parts"), [*DRAWN, *more], SITE)


def made(*more: Any) -> Any:
    return applied(new_project("Parts"), [*MADE, *more], SITE)


def boxes(project: Any, frame: str = "a") -> dict[str, Any]:
    """Where each painted layer stands in the frame, by name; groups and uses left out."""
    records = records_of(compile_still(find_frame(project, frame), project).at(0.0))
    return {r["name"]: r["matrix"] for r in records if r["kind"] not in ("group", "use")}


def player_of(project: Any) -> Any:
    return Player(project)


def turns(player: Any) -> list[float]:
    """The turn of each mast that is shown."""
    return [round(r["turn"], 9) for r in records_of(player.scene()) if r["name"] == "Mast"]


class Made(unittest.TestCase):
    def test_the_picture_stays_when_layers_become_a_part_and_when_it_is_dissolved(self) -> None:
        before = boxes(drawn())
        project, part, use = parts.make_part(drawn(), find_frame(drawn(), "a").id, self.ids("Hull", "Mast"))
        self.assertEqual(boxes(project).keys(), before.keys())
        for name, matrix in boxes(project).items():
            for now, was in zip(matrix, before[name], strict=True):
                self.assertAlmostEqual(now, was, 6)
        self.assertEqual(find_frame(project, "a").layers[0].id, use)
        self.assertEqual((project.parts[0].id, project.parts[0].w, project.parts[0].h), (part, 60.0, 60.0))
        again = parts.dissolve(project, find_frame(project, "a").id, use)
        self.assertEqual(
            {k: [round(x, 6) for x in v] for k, v in boxes(again).items()},
            {k: [round(x, 6) for x in v] for k, v in before.items()},
        )
        self.assertEqual(used_by(again, part), ())
        check(again)

    def ids(self, *names: str) -> list[str]:
        frame = find_frame(drawn(), "a")
        return [find_layer(frame, name).id for name in names]

    def test_a_use_of_another_size_scales_what_is_inside_and_dissolves_to_the_same(self) -> None:
        for turned in ({}, {"rotation": 30, "scale": [0.5, 2]}):
            project = made({"do": "set", "in": "a", "layer": "Boat", "size": [120, 30], "position": [10, 10], **turned})
            before = boxes(project)
            frame = find_frame(project, "a")
            after = boxes(parts.dissolve(project, frame.id, find_layer(frame, "Boat").id))
            for name, matrix in before.items():
                for now, was in zip(after[name], matrix, strict=True):
                    self.assertAlmostEqual(now, was, 6)
        hull = boxes(made({"do": "set", "in": "a", "layer": "Boat", "size": [120, 30], "position": [10, 10]}))["Hull"]
        self.assertAlmostEqual(hull[0], 2.0)

    def test_loops_and_hot_areas_go_along(self) -> None:
        project = drawn(
            {"do": "loop", "in": "a", "layer": "Hull", "pose": {"position": [0, -8]}, "length": 800},
            {"do": "frame", "name": "b", "copy": "a"},
            {"do": "route", "from": "a", "to": "b", "trigger": {"tap": "Mast"}},
            {"do": "part", "in": "a", "layers": ["Hull", "Mast"], "name": "Boat"},
        )
        use = find_layer(find_frame(project, "a"), "Boat")
        self.assertEqual(find_route(project, "a > b").trigger.layer, use.id)
        self.assertEqual((len(find_frame(project, "a").loops), len(pose_of(project.parts[0]).loops)), (0, 1))
        again = parts.dissolve(project, find_frame(project, "a").id, use.id)
        (loop,) = find_frame(again, "a").loops
        self.assertEqual(loop.layer, find_layer(find_frame(again, "a"), "Hull").id)
        check(again)

    def test_what_is_refused(self) -> None:
        project = made()
        frame = find_frame(project, "a")
        boat = project.parts[0].id
        for run in (
            lambda: parts.make_part(project, frame.id, []),
            lambda: parts.dissolve(project, frame.id, find_layer(frame, "Quay").id),
            lambda: parts.edit_use(project, frame.id, find_layer(frame, "Quay").id, lambda use: use),
            lambda: parts.feed(project, frame.id, find_layer(frame, "Boat").id, "nothing", 1.0),
            lambda: parts.rename_part(project, boat, "  "),
            lambda: parts.remove_part(project, boat),
            lambda: parts.in_stage(project, boat, lambda stage: replace(stage, frames=())),
        ):
            with self.assertRaises(EditError):
                run()
        with self.assertRaises(NotFound) as caught:
            find_part(project, "Boot")
        self.assertIn("Boat", caught.exception.hint)

    def test_names_are_told_apart(self) -> None:
        project = made({"do": "part", "name": "Buoy", "size": [20, 20]})
        with self.assertRaises(EditError):
            parts.rename_part(project, project.parts[1].id, "Boat")
        self.assertEqual(parts.rename_part(project, project.parts[1].id, "Float").parts[1].name, "Float")
        without = parts.remove_part(project, project.parts[1].id)
        self.assertEqual([part.name for part in without.parts], ["Boat"])
        frame = find_frame(project, "a")
        two, _, _ = parts.make_part(project, frame.id, [find_layer(frame, "Quay").id], "Boat")
        self.assertEqual(len({part.name for part in two.parts}), 3)


class Circles(unittest.TestCase):
    def test_a_part_in_itself_is_refused_with_the_names(self) -> None:
        project = made({"do": "part", "name": "Pier", "size": [90, 90]}, {"do": "use", "in": "Pier", "part": "Boat"})
        pier = find_part(project, "Pier").id

        def add(stage: Any) -> Any:
            return parts.add_use(stage, stage.first, pier)[0]

        with self.assertRaises(EditError) as caught:
            parts.in_stage(project, find_part(project, "Boat").id, add)
        self.assertIn("Boat in Pier in Boat", str(caught.exception))
        with self.assertRaises(AveltError):
            applied(project, [{"do": "use", "in": "Boat", "part": "Boat"}], SITE)

    def test_so_deep_and_no_deeper(self) -> None:
        steps: list[dict[str, Any]] = [{"do": "part", "name": "0", "size": [9, 9]}]
        for depth in range(1, MAX_DEPTH):
            steps.append({"do": "part", "name": f"{depth}", "size": [9, 9]})
            steps.append({"do": "use", "in": f"{depth}", "part": f"{depth - 1}"})
        project = applied(new_project("Deep"), steps, SITE)
        steps = [{"do": "part", "name": "top", "size": [9, 9]}, {"do": "use", "in": "top", "part": str(MAX_DEPTH - 1)}]
        with self.assertRaises(AveltError):
            applied(project, steps, SITE)

    def test_a_file_with_a_circle_is_refused(self) -> None:
        project = made()
        boat = project.parts[0]
        pose = pose_of(boat)
        use = replace(pose.layers[0], body=Use(boat.id))
        wrong = replace(project, parts=(replace(boat, poses=(replace(pose, layers=(use,)), *boat.poses[1:])),))
        with self.assertRaises(FormatError) as caught:
            check(wrong)
        self.assertIn("Boat in Boat", str(caught.exception))


class Files(unittest.TestCase):
    def test_round_trip(self) -> None:
        project = made(FED, BOBS, {"do": "use", "in": "a", "layer": "Boat", "clock": {"speed": 2, "offset": 50}})
        self.assertEqual(from_json(to_json(project), "t"), project)
        use = find_layer(find_frame(project, "a"), "Boat").body
        self.assertEqual((use.speed, use.offset), (2.0, 50.0))
        self.assertEqual([type(f) for f in use.feeds], [Feed, Feed])

    def test_wrong_values_say_where(self) -> None:
        project = made(FED)
        frame = find_frame(project, "a")
        use = find_layer(frame, "Boat").id
        boat = project.parts[0]
        for change, place in (
            (lambda body: replace(body, speed=float("nan")), "speed"),
            (lambda body: replace(body, offset=1e12), "offset"),
        ):
            with self.assertRaises(FormatError) as caught:
                check(parts.edit_use(project, frame.id, use, change))
            self.assertIn(place, str(caught.exception))
        for part in (replace(boat, poses=()), replace(boat, name=""), replace(boat, w=-1.0)):
            with self.assertRaises(FormatError):
                check(replace(project, parts=(part,)))
        with self.assertRaises(FormatError):
            check(replace(project, parts=(boat, boat)))


class Inside(unittest.TestCase):
    def test_an_edit_inside_changes_every_user_and_nothing_else(self) -> None:
        project = made({"do": "frame", "name": "b", "size": [50, 50]}, {"do": "frame", "name": "c", "copy": "a"})
        boat = project.parts[0]
        after = applied(project, [{"do": "set", "in": "Boat/calm", "layer": "Hull", "opacity": 0.5}], SITE)
        same = {f.name for f, g in zip(project.frames, after.frames, strict=True) if f is g}
        self.assertEqual(same, {"b"})
        self.assertEqual(find_layer(pose_of(after.parts[0]), "Hull").opacity, 0.5)
        self.assertIs(parts.in_stage(project, boat.id, lambda stage: stage), project)
        self.assertEqual([f.name for f in as_stage(project, boat).frames], ["calm", "windy"])

    def test_a_feed_follows_the_name_of_its_input(self) -> None:
        project = made(FED)
        (ident,) = [entry.id for entry in project.inputs if entry.name == "wind"]
        after = rename_input(project, ident, "gale")
        feeds = find_layer(find_frame(after, "a"), "Boat").body.feeds
        self.assertEqual([feed.name for feed in feeds], ["gale", "news"])
        self.assertEqual(fed_in(after, ident), ("a",))
        by_id = applied(project, [{**FED, "inputs": {"blow": ident}}], SITE)
        self.assertEqual(by_id, project)

    def test_what_uses_a_user_is_another_value_too(self) -> None:
        project = made(
            {"do": "part", "name": "Pier", "size": [90, 90]},
            {"do": "use", "in": "Pier", "part": "Boat"},
            {"do": "part", "name": "Bay", "size": [90, 90]},
            {"do": "use", "in": "Bay", "part": "Pier"},
            {"do": "frame", "name": "b", "size": [90, 90]},
            {"do": "use", "in": "b", "part": "Bay"},
        )
        after = applied(project, [{"do": "set", "in": "Boat/calm", "layer": "Hull", "opacity": 0.5}], SITE)
        self.assertIsNot(find_frame(after, "b"), find_frame(project, "b"))
        self.assertIsNot(find_part(after, "Bay").poses[0], find_part(project, "Bay").poses[0])
        opacity = [r["opacity"] for r in records_of(compile_still(find_frame(after, "b"), after).at(0.0))]
        self.assertIn(0.5, opacity)

    def test_an_input_is_fed_by_one_of_its_kind(self) -> None:
        for name, by in (("blow", "news"), ("hail", "wind"), ("blow", True), ("blow", "nobody")):
            with self.assertRaises(AveltError) as caught:
                made({**FED, "inputs": {name: by}})
            self.assertIn(name, str(caught.exception))

    def test_a_curve_that_is_used_outside_stays(self) -> None:
        project = made(
            {"do": "frame", "name": "b", "copy": "a"},
            {"do": "route", "from": "a", "to": "b", "trigger": {"key": "x"}, "curve": "cork"},
        )
        boat = project.parts[0].id
        with self.assertRaises(EditError) as caught:
            parts.in_stage(project, boat, lambda stage: remove_curve(stage, "cork"))
        self.assertIn("outside", str(caught.exception))
        after = parts.in_stage(project, boat, lambda stage: remove_curve(stage, "pebble"))
        self.assertEqual(len(after.curves), len(project.curves) - 1)

    def test_the_size_of_a_part_is_that_of_its_first_pose(self) -> None:
        project = made()
        boat = project.parts[0]
        after = parts.in_stage(
            project, boat.id, lambda stage: put_frame(stage, replace(stage.frames[0], w=80.0, h=90.0))
        )
        self.assertEqual((after.parts[0].w, after.parts[0].h), (80.0, 90.0))

    def test_the_first_pose_may_go(self) -> None:
        project = made()
        boat = project.parts[0]
        after = parts.in_stage(project, boat.id, lambda stage: replace(stage, frames=stage.frames[1:], routes=()))
        self.assertEqual(pose_of(after.parts[0]).name, "windy")

    def test_samples_have_the_path_down_to_a_layer(self) -> None:
        project = made()
        records = sample(compile_still(find_frame(project, "a"), project), 0.0)
        self.assertIn("Boat", [r["name"] for r in records])
        self.assertIn(["Boat", "Mast"], [r.get("path") for r in records])

    def test_a_pair_of_uses_goes_on_like_any_layer(self) -> None:
        project = made(
            {"do": "frame", "name": "b", "copy": "a"},
            {"do": "set", "in": "b", "layer": "Boat", "position": [140, 60], "opacity": 0.5},
            {"do": "route", "from": "a", "to": "b", "trigger": {"key": "x"}, "length": 400, "curve": "linear"},
        )
        program = compile_route(project, project.routes[0])
        half = {r["name"]: r for r in records_of(program.at(200.0))}
        start = {r["name"]: r for r in records_of(program.at(0.0))}
        self.assertAlmostEqual(half["Hull"]["matrix"][4] - start["Hull"]["matrix"][4], 50.0, 3)


class AtWork(unittest.TestCase):
    def mast(self, player: Any) -> float:
        return turns(player)[0]

    def test_an_input_of_the_project_feeds_one_inside(self) -> None:
        player = player_of(made(FED))
        player.set_input("wind", 4.0)
        player.advance(1000.0)
        self.assertEqual(self.mast(player), 0.0)
        player.set_input("wind", 6.0)
        player.advance(1150.0)
        self.assertAlmostEqual(self.mast(player), 10.0)
        player.advance(1300.0)
        self.assertAlmostEqual(self.mast(player), 20.0)

    def test_a_value_feeds_as_well_and_a_pose_can_be_the_first(self) -> None:
        project = made(
            {"do": "use", "in": "a", "layer": "Boat", "inputs": {"blow": 7}},
            {"do": "use", "in": "a", "part": "Boat", "pose": "windy", "name": "Second"},
        )
        player = player_of(project)
        player.advance(5000.0)
        self.assertEqual(turns(player), [0.0, 20.0])  # it is 7 from the beginning: nothing crosses 5
        (only,) = find_layer(find_frame(project, "a"), "Boat").body.feeds
        self.assertEqual((only.name, only.value), ("", 7.0))
        waits = applied(
            project,
            [
                {"do": "remove", "part": "Boat", "route": "calm > windy"},
                {
                    "do": "route",
                    "part": "Boat",
                    "from": "calm",
                    "to": "windy",
                    "trigger": {"timer": 50},
                    "only_if": "blow > 6",
                },
            ],
            SITE,
        )
        player = player_of(waits)
        player.advance(5000.0)
        self.assertEqual(turns(player), [20.0, 20.0])

    def test_the_innermost_has_the_tap_and_what_it_leaves_goes_up(self) -> None:
        project = made(
            FED,
            {"do": "frame", "name": "b", "copy": "a"},
            {"do": "route", "from": "a", "to": "b", "trigger": {"tap": "Boat"}, "length": 100},
        )
        player = player_of(project)
        player.send("news")
        player.advance(1000.0)
        player.press(70, 110)
        player.release(70, 110)
        player.advance(1500.0)
        self.assertEqual((player.frame.name, self.mast(player)), ("a", 0.0))
        player.press(70, 110)  # calm takes no tap
        player.release(70, 110)
        player.advance(2000.0)
        self.assertEqual(player.frame.name, "b")

    def test_a_clock_of_its_own(self) -> None:
        def shifts(**clock: Any) -> list[float]:
            player = player_of(made(BOBS, {"do": "use", "in": "a", "layer": "Boat", "clock": clock}))
            found = []
            for ms in (0.0, 100.0, 200.0, 300.0, 400.0):
                player.advance(ms)
                found.append({r["name"]: r for r in records_of(player.scene())}["Hull"]["matrix"][5])
            return found

        plain, double, later, still = shifts(), shifts(speed=2), shifts(offset=200), shifts(speed=0)
        self.assertAlmostEqual(double[1], plain[2], 6)
        self.assertAlmostEqual(double[2], plain[4], 6)
        self.assertAlmostEqual(later[0], plain[2], 6)
        self.assertEqual(len({round(y, 6) for y in still}), 1)
        self.assertNotAlmostEqual(plain[0], plain[2], 3)

    def test_the_step_of_the_clock_changes_nothing(self) -> None:
        rng = random.Random(5)
        project = made(FED, BOBS, {"do": "use", "in": "a", "layer": "Boat", "clock": {"speed": 1.7, "offset": 30}})
        events = [
            {"at": 100, "do": "input", "name": "wind", "value": 6},
            {"at": 600, "do": "press", "x": 70, "y": 110},
            {"at": 650, "do": "release", "x": 70, "y": 110},
            {"at": 1000, "do": "signal", "name": "news"},
        ]
        moments = sorted(rng.uniform(0, 1500) for _ in range(40))
        whole = outcome(project, tape(events, until=1500), moments)
        self.assertIn("windy", " ".join(says for _, _, says in whole[1]))
        for step in (1.0, 7.3, 16.6, 1500.0):
            self.assertEqual(outcome(project, tape(events, until=1500), moments, step), whole)

    def test_parts_end_with_their_frame_and_another_part_begins_anew(self) -> None:
        project = made(
            FED,
            {"do": "frame", "name": "b", "copy": "a"},
            {"do": "frame", "name": "c", "size": [200, 200]},
            {"do": "part", "name": "Buoy", "size": [20, 20]},
            {"do": "route", "from": "a", "to": "b", "trigger": {"timer": 500}, "length": 100},
            {"do": "route", "from": "b", "to": "c", "trigger": {"timer": 500}, "length": 100},
        )
        buoy, frame = find_part(project, "Buoy").id, find_frame(project, "b")
        boat = find_layer(frame, "Boat")
        other = parts.edit_use(project, frame.id, boat.id, lambda use: Use(buoy))
        for whole, part in ((project, "Boat"), (other, "Buoy")):
            player = player_of(whole)
            player.set_input("wind", 9.0)
            player.advance(400.0)
            self.assertEqual(turns(player), [20.0])
            player.advance(1000.0)
            self.assertEqual(player.frame.name, "b")
            self.assertEqual([child.use.part for child in player.world.children.values()], [find_part(whole, part).id])
            self.assertEqual(turns(player), [20.0] if part == "Boat" else [])  # the same goes on, another begins
            player.advance(2500.0)
            self.assertEqual((player.frame.name, dict(player.world.children)), ("c", {}))

    def test_a_part_that_went_leaves_its_place_empty(self) -> None:
        project = made(FED)
        without = replace(project, parts=())
        frame = find_frame(without, "a")
        names = [r["name"] for r in records_of(compile_still(frame, without).at(0.0))]
        self.assertIn("Quay", names)
        self.assertNotIn("Mast", names)
        player_of(without).advance(500.0)


if __name__ == "__main__":
    unittest.main()
