"""Thirty rehearsals, kept as they went: what happened and what was on screen, interruptions among them.

``python -m tests.core.test_tapes`` writes them anew; do that only for what was wrong before, and say so.
"""

from __future__ import annotations

import hashlib
import json
import random
import unittest
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from avelt.core.formats.project_file import open_project
from avelt.core.model.values import Project
from avelt.core.running.player import Player
from avelt.demo.build import build_demo

FILES = Path(__file__).resolve().parent.parent / "files"
KEPT = FILES / "tapes.json"
COUNT = 30


@lru_cache(maxsize=4)
def project_of(number: int) -> Project:
    return open_project(FILES / "format_4.avelt") if number % 3 == 0 else build_demo()


def tape(number: int) -> list[tuple[float, float, float]]:
    """Moments and places of taps: many while something is under way, some beside everything."""
    dice = random.Random(number)
    events, at = [], 0.0
    for _ in range(14):
        at += dice.choice((0.0, 40.0, 130.0, 260.0, 700.0, 2500.0)) + dice.random() * 20.0
        place = dice.choice(((180, 310), (180, 600), (24, 30), (40, 620), (180, 620), (310, 620)))
        jitter = dice.uniform(-15, 15), dice.uniform(-15, 15)
        events.append((round(at, 3), place[0] + jitter[0], place[1] + jitter[1]))
    return events


def digest(player: Player) -> str:
    """What is on screen, to three digits: the last ones are the processor's."""
    scene = player.scene()
    numbers = (np.round(scene.scalars, 3) + 0.0).astype(np.float32).tobytes()
    names = ",".join(content.layer.id for content in scene.program.contents)
    return hashlib.sha256(numbers + names.encode()).hexdigest()[:12]


def run(number: int) -> dict[str, Any]:
    """Play a tape: the log, and what was on screen before and after every tap."""
    player = Player(project_of(number), loading=300.0 if number % 5 == 0 else 0.0)
    seen: list[str] = []
    for at, x, y in tape(number):
        player.advance(at)
        seen.append(digest(player))
        player.tap(x, y)
        player.advance(at + 15.0)
        seen.append(digest(player))
    player.advance(player.now + 3000.0)
    seen.append(digest(player))
    log = [f"{entry.at:.2f} {entry.what} {entry.says}" for entry in player.log if entry.what != "not played"]
    return {"log": hashlib.sha256("\n".join(log).encode()).hexdigest()[:12], "entries": len(log), "seen": seen}


class Tapes(unittest.TestCase):
    def test_every_rehearsal_goes_as_it_went(self) -> None:
        kept = json.loads(KEPT.read_text())
        for number in range(COUNT):
            with self.subTest(tape=number):
                self.assertEqual(run(number), kept[number])

    def test_they_are_worth_keeping(self) -> None:
        player = Player(project_of(1))
        words = set()
        for number in range(COUNT):
            player = Player(project_of(number))
            for at, x, y in tape(number):
                player.advance(at)
                player.tap(x, y)
            words |= {entry.what for entry in player.log}
        self.assertLessEqual({"arrives", "tap", "timer", "goes back", "starts", "input"}, words)


if __name__ == "__main__":
    KEPT.write_text(json.dumps([run(number) for number in range(COUNT)], indent=1) + "\n")
