"""Many uses of a part that is boxes and ovals: painted as leaves, to the pixel as their layers one by one."""

from __future__ import annotations

import random
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

from msgspec.structs import replace
from PySide6.QtGui import QImage

from avelt.core.edits.project import new_project
from avelt.core.model.values import Box, Project
from avelt.core.running.player import Player
from avelt.core.steps.read import applied
from avelt.core.steps.said import Site
from avelt.core.timing.items import items
from avelt.core.timing.painted import Item
from avelt.core.timing.program import Scene
from avelt.paint.fonts import ensure_gui
from avelt.paint.painter import ScenePainter


def with_uses(dice: random.Random, more: tuple[dict[str, Any], ...] = (), **of_uses: Any) -> Project:
    """Uses of a part whose layers loop: a box, an oval and a box with round corners. ``of_uses``: what the uses have."""
    steps: list[dict[str, Any]] = [
        {"do": "frame", "name": "a", "size": [120, 160]},
        {"do": "part", "name": "Buoy", "size": [30, 30]},
    ]
    for k in range(3):
        own = {
            "in": "Buoy",
            "position": [2 + 7 * k, 3 + 6 * k],
            "size": [12, 12],
            "fill": ("#0e7c74", "#c9581c80")[k % 2],
        }
        steps.append({"do": "draw", "kind": ("box", "oval", "box")[k], "name": f"L{k}", **own})
        pose = {"position": [3, -4], "rotation": 20, "scale": 1.3, "fill": "#c9581c", "opacity": 0.4}
        steps.append(
            {"do": "loop", "in": "Buoy", "layer": f"L{k}", "name": f"o{k}", "pose": pose, "length": 300 + 90 * k}
        )
    steps += more
    for k in range(8):
        place, clock = [dice.randrange(100), dice.randrange(140)], {"offset": dice.randrange(900)}
        steps.append({"do": "use", "in": "a", "part": "Buoy", "name": f"U{k}", "position": place, "clock": clock})
    project = applied(new_project("Uses"), steps, Site(Path()))
    (part,), frame = project.parts, project.frames[0]
    first, second, last, *others = part.poses[0].layers
    rounded = (first, second, replace(last, body=Box((3.0, 3.0, 3.0, 3.0))), *others)
    part = replace(part, poses=(replace(part.poses[0], layers=rounded),))
    uses = tuple(replace(use, **of_uses) for use in frame.layers)
    return replace(project, parts=(part,), frames=(replace(frame, layers=uses),))


def without_leaves(scene: Scene) -> Scene:
    """The same with its layers one by one."""
    for inner in scene.inside.values():
        inner.__dict__.pop("leaves", None)
    return scene


def all_items(found: list[Item]) -> list[Item]:
    return [entry for item in found for entry in (item, *all_items(item.children))]


class Leaves(unittest.TestCase):
    def setUp(self) -> None:
        ensure_gui()

    def moments(self, project: Project) -> list[tuple[QImage, QImage, bool]]:
        """Pictures with leaves and without, and whether there were any."""
        found = []
        for ms in (0.0, 137.0, 411.0, 900.0):
            player = Player(project)
            player.advance(ms)
            scene = player.scene()
            any_leaves = any(item.leaves for item in all_items(list(items(scene))))
            for scale in (1.0, 2.0):
                picture = ScenePainter().render(player.scene(), scale)
                found.append((picture, ScenePainter().render(without_leaves(player.scene()), scale), any_leaves))
        return found

    def check(self, project: Project, leaves: bool) -> None:
        for picture, wanted, any_leaves in self.moments(project):
            self.assertEqual(picture, wanted)
            self.assertEqual(any_leaves, leaves)

    def test_to_the_pixel(self) -> None:
        project = with_uses(random.Random(1))
        self.check(project, True)
        first, then = (picture for picture, _, _ in self.moments(project)[:4:2])
        self.assertNotEqual(first, then)

    def test_turned_and_larger_uses(self) -> None:
        self.check(with_uses(random.Random(2), rotation=30.0), True)
        self.check(with_uses(random.Random(3), w=45.0), False)

    def test_what_is_done_with_a_use_as_a_whole_is_not_lost(self) -> None:
        self.check(with_uses(random.Random(4), opacity=0.5), False)

    def test_a_part_with_more_than_boxes_and_ovals(self) -> None:
        line = {
            "do": "draw",
            "in": "Buoy",
            "kind": "text",
            "name": "Word",
            "text": "A",
            "position": [2, 20],
            "font_size": 9,
        }
        self.check(with_uses(random.Random(5), (line,)), False)

    def test_one_use_alone_is_as_it_was(self) -> None:
        project = with_uses(random.Random(6))
        frame = project.frames[0]
        alone = replace(project, frames=(replace(frame, layers=frame.layers[:1]),))
        self.check(alone, False)

    def test_outlines_are_made_once(self) -> None:
        player = Player(with_uses(random.Random(7)))
        painter = ScenePainter()
        player.advance(50.0)
        painter.render(player.scene())
        with mock.patch("avelt.paint.leaves.as_path", side_effect=AssertionError("made anew")):
            player.advance(90.0)
            painter.render(player.scene())


if __name__ == "__main__":
    unittest.main()
