"""Random prototypes under random hands: no jump where one motion takes the place of another, the same for every step of
the clock, and no end in sight is ever wrong."""

import json
import random
import unittest
from typing import Any

import numpy as np
from msgspec.structs import replace

from avelt.core.edits.project import new_project
from avelt.core.model.properties import COLUMN
from avelt.core.model.tapes import Move, Scrolled
from avelt.core.model.triggers import Timer
from avelt.core.model.values import Project
from avelt.core.running.player import Player
from avelt.core.running.rehearsal import Rehearsal
from avelt.core.running.tape import done, played, read_tape
from avelt.core.steps.read import applied
from tests.core.test_steps import SITE

LAYERS = ("Card", "Head", "Dot")
COLUMNS = [COLUMN[name] for name in ("x", "y", "w", "h", "opacity", "rotation")]


def prototype(dice: random.Random) -> Project:
    """Three frames of three layers, with routes of many kinds among them, follows and a part."""
    steps: list[dict[str, Any]] = [{"do": "frame", "name": "a", "size": [200, 400]}]
    for k, name in enumerate(LAYERS):
        steps.append(
            {"do": "draw", "in": "a", "kind": "box", "name": name, "position": [20, 30 + 110 * k], "size": [150, 90]}
        )
    for frame in "bc":
        steps.append({"do": "frame", "name": frame, "copy": "a"})
        for name in LAYERS:
            place = [dice.randint(0, 60), dice.randint(0, 280)]
            steps.append({"do": "set", "in": frame, "layer": name, "position": place, "opacity": dice.choice((0.4, 1))})
    if dice.random() < 0.5:
        steps.append({"do": "set", "in": "a", "content": [200, 700]})
        steps.append({"do": "set", "in": "b", "content": [200, 900]})
        steps.append({"do": "set", "in": "a", "layer": "Head", "stays_put": True})
    steps.append({"do": "input", "name": "pull", "kind": "number"})
    for _ in range(6):
        one, other = dice.sample("abc", 2)
        lag = dice.choice((0, 0, 60, 240))
        layer = dice.choice(LAYERS)
        trigger: dict[str, Any] = dice.choice(
            (
                {"tap": layer},
                {"drag": layer, "along": dice.choice(("up", "down", "left", "right")), "travel": 150, "lag": lag}
                | {"let_go": dice.choice(("nearer", "speed", "back", "stay"))},
                {"scroll": "down", "start": 0, "end": dice.choice((80, 150)), "lag": lag or 60},
                {"hover in": layer},
                {"timer": dice.choice((400, 900))},
                {"crosses": "pull", "value": 0.5, "way": "either way"},
                {"pointer": layer, "axis": "down", "lag": lag or 60},
            )
        )
        then = dice.choice(("go", "go", "back", {"show over": {"at": "middle"}}))
        length = dice.choice((200, 450))
        steps.append(
            {"do": "route", "from": one, "to": other, "trigger": trigger, "then": then, "length": length, "add": True}
        )
    for _ in range(2):
        value = dice.choice(({"scroll": "down"}, {"pointer": ""}, {"input": "pull"}, {"drag": "Dot", "along": "right"}))
        end = 120 if "scroll" in value or "drag" in value else 1
        pose = {"position": [dice.randint(-40, 40), 20]}
        steps.append(
            {"do": "follow", "in": dice.choice("abc"), "layer": dice.choice(LAYERS), "value": value, "to": end}
            | {"from": 0, "pose": pose, "lag": dice.choice((40, 150))}
        )
    return applied(new_project("Hands"), steps, SITE)


def events(dice: random.Random) -> list[dict[str, Any]]:
    """What hands do: taps, drags, turns of the wheel, inputs, in no order."""
    found: list[dict[str, Any]] = []
    at = 0.0

    def later() -> float:
        nonlocal at
        at += dice.choice((7.0, 16.0, 33.0, 120.0, 400.0))
        return at

    for _ in range(12):
        x, y = dice.uniform(20, 160), dice.uniform(30, 370)
        what = dice.choice(("tap", "drag", "drag", "scroll", "move", "input", "key"))
        if what == "tap":
            found += [{"at": later(), "do": "press", "x": x, "y": y}, {"at": later(), "do": "release", "x": x, "y": y}]
        elif what == "drag":
            found.append({"at": later(), "do": "press", "x": x, "y": y})
            for _ in range(dice.randint(1, 6)):
                x, y = x + dice.uniform(-40, 40), y + dice.uniform(-60, 60)
                found.append({"at": later(), "do": "move", "x": x, "y": y})
            found.append({"at": later(), "do": "release", "x": x, "y": y})
        elif what == "scroll":
            found.append({"at": later(), "do": "scroll", "dy": dice.uniform(-90, 120)})
        elif what == "move":
            found.append({"at": later(), "do": "move", "x": x, "y": y})
        elif what == "input":
            found.append({"at": later(), "do": "input", "name": "pull", "value": dice.choice((0.2, 0.8, 1.0))})
        else:
            found.append({"at": later(), "do": "key", "key": "Escape"})
    return found


def tape_of(dice: random.Random) -> Any:
    made = events(dice)
    return read_tape(json.dumps({"events": made, "until": made[-1]["at"] + 900}).encode(), "t")


def places(player: Player) -> dict[str, np.ndarray]:
    """Where each layer is, by its origin; of those that are seen, and once only (a frame over another has the same)."""
    scene = player.scene()
    found: dict[str, list[np.ndarray]] = {}
    for slot, content in enumerate(scene.program.contents):
        if content.layer.name in LAYERS and not scene.program.is_absent(slot, scene.at):
            inside = int(scene.program.parent[slot]) >= 0
            row = scene.scalars[slot][COLUMNS].copy()
            found.setdefault(content.layer.origin, []).extend([row, row] if inside else [row])
    return {origin: rows[0] for origin, rows in found.items() if len(rows) == 1}


class Hands(unittest.TestCase):
    def test_nothing_jumps_when_something_is_done(self) -> None:
        broken_off = 0
        for number in range(40):
            dice = random.Random(number)
            project, tape = prototype(dice), tape_of(dice)
            player = Player(project)
            for k, event in enumerate(tape.events, 1):
                player.advance(event.at)
                before, held = places(player), player.holds
                moving = player.world.actor.motion
                done(player, event)
                if isinstance(event, Scrolled) or (isinstance(event, Move) and held):
                    continue  # it goes with the hand
                after = places(player)
                for origin in before.keys() & after.keys():
                    with self.subTest(project=number, event=k):
                        np.testing.assert_allclose(after[origin], before[origin], atol=1e-6)
                broken_off += moving is not None and player.world.actor.motion is not moving
        self.assertGreater(broken_off, 12)

    def test_the_same_for_every_step_of_the_clock_to_the_bit(self) -> None:
        for number in range(16):
            dice = random.Random(100 + number)
            project, tape = prototype(dice), tape_of(dice)
            moments = [k * 61.0 for k in range(int(tape.until // 61.0))]
            kept = []
            for step in (0.0, 3.7, 20.0):
                seen, log = [], []
                for _, player in played(project, tape, moments, step=step):
                    seen.append(player.scene().vector.tobytes())
                    log = list(player.log)
                kept.append((seen, log))
            with self.subTest(project=number):
                self.assertEqual(kept[0], kept[1])
                self.assertEqual(kept[0], kept[2])

    def test_looking_back_and_going_on_shows_the_same(self) -> None:
        for number in range(12):
            dice = random.Random(200 + number)
            project, tape = prototype(dice), tape_of(dice)
            rehearsal = Rehearsal(project, tape)
            rehearsal.advance(tape.until)
            for ms in (tape.until * dice.random() for _ in range(6)):
                fresh = Rehearsal(project, tape)
                with self.subTest(project=number, ms=ms):
                    self.assertTrue(np.array_equal(rehearsal.seen(ms).scene().vector, fresh.seen(ms).scene().vector))

    def test_everything_comes_to_rest(self) -> None:
        for number in range(30):
            dice = random.Random(300 + number)
            project = prototype(dice)
            without = tuple(route for route in project.routes if not isinstance(route.trigger, Timer))
            player = Player(replace(project, routes=without))
            tape = tape_of(dice)
            for event in tape.events:
                player.advance(event.at)
                done(player, event)
            player.advance(player.now + 20_000.0)
            first = places(player)
            player.advance(player.now + 5_000.0)
            second = places(player)
            with self.subTest(project=number):
                self.assertEqual(first.keys(), second.keys())
                for origin in first:
                    np.testing.assert_allclose(second[origin], first[origin], atol=1e-3)


if __name__ == "__main__":
    unittest.main()
