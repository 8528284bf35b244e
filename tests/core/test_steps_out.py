"""The project as steps and back, whole things in steps, and the quieter variant's pairs."""

from __future__ import annotations

import json
import unittest
from pathlib import Path

import msgspec

from avelt.core.edits.project import new_project
from avelt.core.errors import AveltError
from avelt.core.formats.project_file import unpack
from avelt.core.handoff.delivery import Wanted
from avelt.core.handoff.steps_out import steps_delivery
from avelt.core.model.find import frame_by_id, layer_index
from avelt.core.model.values import FORMAT, Project
from avelt.core.steps.read import applied, steps_of
from avelt.core.steps.said import Site
from avelt.core.timing.compile import pairing_of
from avelt.core.timing.quieter import quieter
from avelt.demo.shipped import shipped_demo

SITE = Site(Path("."))
OLD = Path(__file__).parents[1] / "files"


def again(project: Project) -> Project:
    """The project after a delivery as steps and an edit of an empty one."""
    delivery = steps_delivery(project, Wanted(name=project.name))
    return applied(new_project("empty"), steps_of(delivery.files[delivery.main], "steps"), SITE)


class ThereAndBack(unittest.TestCase):
    def test_the_demo_comes_back_as_it_was(self) -> None:
        project = shipped_demo()
        self.assertEqual(again(project), project)

    def test_pictures_links_and_old_files_come_back(self) -> None:
        for path in sorted(OLD.glob("format_*.avelt")):
            with self.subTest(path.name):
                project = unpack(path.read_bytes(), path.name)
                project = msgspec.structs.replace(project, format=FORMAT, first=project.frames[-1].id)
                self.assertEqual(again(project), project)

    def test_a_curve_that_was_taken_out_stays_out(self) -> None:
        project = new_project("bare")
        project = msgspec.structs.replace(project, curves=project.curves[:1], swatches=("#112233",))
        self.assertEqual(again(project), project)


class WholeThings(unittest.TestCase):
    def refused(self, *steps: object) -> str:
        with self.assertRaises(AveltError) as caught:
            applied(new_project("p"), list(steps), SITE)
        return str(caught.exception)

    def test_what_cannot_be_added_is_said_with_its_step(self) -> None:
        frame = {"id": "F1", "name": "a", "w": 10, "h": 10}
        self.assertIn("step 1", self.refused({"do": "add", "to": "frame", "value": frame}))
        self.assertIn("step 2", self.refused(*[{"do": "add", "to": "frames", "value": frame}] * 2))
        self.assertIn("frames", self.refused({"do": "add", "to": "frames", "value": {"name": 3}}))
        route = {"id": "R1", "leaves": "F1", "arrives": "F2"}
        lost = self.refused(
            {"do": "add", "to": "frames", "value": frame}, {"do": "add", "to": "routes", "value": route}
        )
        self.assertIn("steps", lost)

    def test_a_damaged_picture_is_refused(self) -> None:
        asset = {"id": "x" * 64, "ext": "png", "w": 1, "h": 1, "data": "AAAA"}
        self.assertIn("step 1", self.refused({"do": "add", "to": "assets", "value": asset}))

    def test_steps_by_name_go_on_from_there(self) -> None:
        delivery = steps_delivery(shipped_demo(), Wanted(name="x"))
        steps = json.loads(delivery.files[delivery.main])
        steps.append({"do": "rename", "frame": "Sailings", "name": "Every sailing"})
        made = applied(new_project("p"), steps, SITE)
        self.assertIn("Every sailing", [frame.name for frame in made.frames])


class LessMotion(unittest.TestCase):
    def test_no_pair_of_the_quieter_variant_moves(self) -> None:
        project = quieter(shipped_demo())
        for route in project.routes:
            if getattr(route.trigger, "lag", None) is not None:
                continue  # goes with the hand
            left, right = (layer_index(frame_by_id(project, ident)) for ident in (route.leaves, route.arrives))
            for pair in pairing_of(project, route).pairs:
                if pair.from_id not in left or pair.to_id not in right:
                    continue
                one, other = left[pair.from_id], right[pair.to_id]
                with self.subTest(route=route.id, layer=one.name):
                    self.assertEqual([one.x, one.y, one.w, one.h], [other.x, other.y, other.w, other.h])
                    self.assertEqual(one.kind, other.kind)


if __name__ == "__main__":
    unittest.main()
