"""Taking in what changed in a frame's file, and drawings that hold several screens."""

import unittest
from typing import Any

import msgspec

from avelt.core.edits.frames import add_frames, next_state
from avelt.core.edits.layers import move_in_frame, set_value
from avelt.core.edits.loops import add_loop
from avelt.core.edits.project import new_project
from avelt.core.edits.routes import add_route, set_cue
from avelt.core.edits.sources import differences, update_from_file
from avelt.core.formats.screens import apart, screens_in
from avelt.core.formats.svg_in import read_svg
from avelt.core.model.find import find_layer, walk
from avelt.core.model.motion import CueKey
from avelt.core.model.values import Solid

replace = msgspec.structs.replace
HEAD = '<svg xmlns="http://www.w3.org/2000/svg" width="200" height="300">'
BEFORE = (
    '<rect id="ground" width="200" height="300" fill="#eeeeee"/>'
    '<g id="card"><rect id="paper" x="20" y="20" width="160" height="80" rx="8" fill="#ffffff"/>'
    '<text id="title" x="30" y="50" font-size="16">Sandray</text></g><circle id="dot" cx="100" cy="200" r="20"/>'
)
AFTER = (
    '<rect id="ground" width="200" height="300" fill="#eeeeee"/>'
    '<g id="card"><rect id="paper" x="20" y="40" width="160" height="80" rx="8" fill="#ddeeff"/>'
    '<text id="title" x="30" y="70" font-size="16">Grey Stack</text><rect id="badge" x="150" y="45" width="20" height="20"/></g>'
)


def read(inner: str) -> Any:
    return read_svg(f"{HEAD}{inner}</svg>".encode(), "Screen", path="screen.svg")


def opened() -> Any:
    """A project with the screen as it was, a next state, a route, a cue and a loop."""
    imported = read(BEFORE)
    project = add_frames(new_project("P"), [imported.frame], imported.assets)
    project = next_state(project, project.frames[0].id)
    project, route = add_route(project, project.frames[0].id, project.frames[1].id)
    frame = project.frames[0]
    paper = find_layer(frame, "paper")
    other = find_layer(project.frames[1], "paper")
    project = set_cue(project, route, CueKey(paper.id, other.id, ""), start=120.0)
    project, _ = add_loop(project, frame.id, find_layer(frame, "dot").id)
    return project


class Differences(unittest.TestCase):
    def test_the_same_file_has_none(self) -> None:
        self.assertEqual(differences(opened().frames[0], read(BEFORE).frame), ())

    def test_new_gone_and_changed_with_words(self) -> None:
        found = {(c.kind, c.name): c for c in differences(opened().frames[0], read(AFTER).frame)}
        self.assertEqual(
            {("changed", "paper"), ("changed", "title"), ("new", "badge"), ("gone", "dot")} <= set(found), True
        )
        paper = found["changed", "paper"]
        self.assertIn("fill #ffffff → #ddeeff", paper.says)
        self.assertEqual(paper.by_hand, ())
        self.assertIn("words “Sandray” → “Grey Stack”", found["changed", "title"].says)

    def test_frames_without_a_file_have_none(self) -> None:
        self.assertEqual(differences(opened().frames[1], read(AFTER).frame), ())

    def test_a_renamed_layer_is_the_same_one(self) -> None:
        found = differences(opened().frames[0], read(BEFORE.replace('id="dot"', 'id="sun"')).frame)
        self.assertEqual([(c.kind, c.says) for c in found], [("changed", ("name dot → sun",))])


class TakingIn(unittest.TestCase):
    def take(self, project: Any, after: Any = AFTER, keys: Any = None) -> Any:
        new = read(after)
        frame = project.frames[0]
        wanted = [c.key for c in differences(frame, new.frame) if keys is None or (c.kind, c.name) in keys]
        return update_from_file(project, frame.id, new.frame, new.assets, wanted)

    def test_everything_taken_in_is_the_file(self) -> None:
        project = self.take(opened())
        frame = project.frames[0]
        self.assertEqual([layer.name for layer in walk(frame.layers)], ["ground", "card", "paper", "title", "badge"])
        self.assertEqual(find_layer(frame, "paper").fills, (Solid("#ddeeff"),))
        self.assertEqual(find_layer(frame, "title").body.words, "Grey Stack")
        self.assertEqual(differences(frame, read(AFTER).frame), ())
        ids = [layer.id for f in project.frames for layer in walk(f.layers)]
        self.assertEqual(len(ids), len(set(ids)))

    def test_cues_stay_and_what_hung_on_the_gone_goes(self) -> None:
        before = opened()
        project = self.take(before)
        self.assertEqual(project.routes[0].transition.cues, before.routes[0].transition.cues)
        self.assertEqual(find_layer(project.frames[0], "paper").id, find_layer(before.frames[0], "paper").id)
        self.assertEqual((len(before.frames[0].loops), project.frames[0].loops), (1, ()))

    def test_what_was_changed_by_hand_stays_and_is_said(self) -> None:
        project = opened()
        frame = project.frames[0]
        paper = find_layer(frame, "paper")
        project = set_value(project, frame.id, paper.id, "fill", "#00ff00")
        found = {c.name: c for c in differences(project.frames[0], read(AFTER).frame)}
        self.assertEqual(found["paper"].by_hand, ("fill",))
        taken = find_layer(self.take(project).frames[0], "paper")
        self.assertEqual(taken.fills, (Solid("#00ff00"),))
        self.assertEqual(taken.y + find_layer(self.take(project).frames[0], "card").y, 40.0)

    def test_only_what_is_ticked_and_the_rest_is_offered_again(self) -> None:
        project = self.take(opened(), keys={("gone", "dot")})
        self.assertNotIn("dot", [layer.name for layer in walk(project.frames[0].layers)])
        left = {(c.kind, c.name) for c in differences(project.frames[0], read(AFTER).frame)}
        self.assertIn(("new", "badge"), left)
        self.assertNotIn(("gone", "dot"), left)
        self.assertEqual(find_layer(project.frames[0], "paper").fills, (Solid("#ffffff"),))

    def test_a_layer_moved_by_hand_keeps_its_place(self) -> None:
        project = opened()
        frame = project.frames[0]
        dot = find_layer(frame, "dot")
        moved = move_in_frame(frame, dot.id, 7, 7)
        project = replace(project, frames=(moved, project.frames[1]))
        after = BEFORE.replace('cx="100"', 'cx="140"').replace('r="20"/>', 'r="20" fill="#123456"/>')
        taken = find_layer(self.take(project, after).frames[0], "dot")
        self.assertEqual((taken.x, taken.fills), (dot.x + 7, (Solid("#123456"),)))

    def test_size_and_background(self) -> None:
        new = read_svg(f"{HEAD.replace('300', '340')}{BEFORE}</svg>".encode(), "Screen")
        project = opened()
        (change,) = differences(project.frames[0], new.frame)
        self.assertEqual((change.key, change.says), ("frame", ("height 300 → 340",)))
        self.assertEqual(update_from_file(project, project.frames[0].id, new.frame, (), ["frame"]).frames[0].h, 340)

    def test_a_new_group_around_old_layers_brings_only_what_is_new(self) -> None:
        after = BEFORE.replace(
            '<circle id="dot"',
            '<g id="wrap"><rect id="ring" x="70" y="170" width="60" height="60"/></g><circle id="dot"',
        )
        frame = self.take(opened(), after).frames[0]
        self.assertEqual([layer.name for layer in frame.layers], ["ground", "card", "wrap", "dot"])

    def test_a_renamed_group_is_the_same_group(self) -> None:
        found = differences(opened().frames[0], read(BEFORE.replace('id="card"', 'id="ticket"')).frame)
        self.assertEqual([(c.kind, c.says) for c in found], [("changed", ("name card → ticket",))])

    def test_layers_freed_from_a_group_that_is_gone_stay(self) -> None:
        after = BEFORE.replace('<g id="card">', "").replace("</g>", "")
        frame = self.take(opened(), after).frames[0]
        self.assertEqual([layer.name for layer in walk(frame.layers)], ["ground", "paper", "title", "dot"])
        paper = find_layer(frame, "paper")
        self.assertEqual((paper.x, paper.y), (20, 20))


class Screens(unittest.TestCase):
    def drawing(self, inner: Any, w: Any = 700, h: Any = 340) -> Any:
        return read_svg(
            f'<svg xmlns="http://www.w3.org/2000/svg" width="{w}" height="{h}">{inner}</svg>'.encode(), "Board"
        )

    def group(self, name: Any, x: Any) -> Any:
        return (
            f'<g id="{name}" transform="translate({x} 30)"><rect id="{name} ground" width="200" height="300" fill="#fff"/>'
            f'<rect id="{name} card" x="20" y="20" width="160" height="60" fill="#456"/></g>'
        )

    def test_groups_beside_each_other(self) -> None:
        imported = self.drawing(self.group("List", 10) + self.group("Detail", 240) + self.group("Pass", 470))
        screens = screens_in(imported.frame)
        self.assertEqual(
            [(s.name, s.box) for s in screens],
            [("List", (10, 30, 200, 300)), ("Detail", (240, 30, 200, 300)), ("Pass", (470, 30, 200, 300))],
        )
        made = apart(imported, screens)
        self.assertEqual(
            [(m.frame.name, m.frame.w, m.frame.h) for m in made],
            [("List", 200, 300), ("Detail", 200, 300), ("Pass", 200, 300)],
        )
        self.assertEqual(
            [(x.name, x.x, x.y) for x in made[1].frame.layers], [("Detail ground", 0, 0), ("Detail card", 20, 20)]
        )
        self.assertEqual(made[1].frame.source.screen, "Detail")

    def test_grounds_with_loose_layers_and_names_above(self) -> None:
        loose = "".join(
            f'<rect x="{x}" y="30" width="200" height="300" fill="#fff"/><circle cx="{x + 50}" cy="90" r="20"/>'
            f'<text x="{x}" y="20" font-size="12">{name}</text>'
            for name, x in (("One", 10), ("Two", 240))
        )
        imported = self.drawing(f"<g>{loose}</g>")
        screens = screens_in(imported.frame)
        self.assertEqual([(s.name, len(s.ids)) for s in screens], [("One", 2), ("Two", 2)])
        self.assertEqual([layer.kind for layer in apart(imported, screens)[0].frame.layers], ["box", "oval"])

    def test_parts_that_are_no_screens(self) -> None:
        def panels(*boxes: Any) -> str:
            return "".join(f'<rect x="{x}" y="{y}" width="{w}" height="{h}" fill="#fff"/>' for x, y, w, h in boxes)

        phone = self.drawing(panels((20, 80, 320, 240), (20, 340, 320, 240)), 360, 640)
        self.assertEqual(screens_in(phone.frame), ())  # a phone is one screen
        stacked = self.drawing(panels((20, 20, 700, 400), (20, 440, 700, 400)), 740, 860)
        self.assertEqual(screens_in(stacked.frame), ())  # sections, one under the other
        strips = self.drawing(panels((0, 0, 900, 200), (0, 220, 900, 200)), 900, 440)
        self.assertEqual(screens_in(strips.frame), ())
        outside = self.drawing(panels((10, 10, 360, 640), (1300, 10, 360, 640)), 1000, 700)
        self.assertEqual(screens_in(outside.frame), ())  # the second lies beyond the drawing's window
        beside = self.drawing(panels((10, 10, 360, 640), (400, 10, 360, 640)), 800, 700)
        self.assertEqual(len(screens_in(beside.frame)), 2)

    def test_one_screen_is_not_taken_apart(self) -> None:
        self.assertEqual(screens_in(read(BEFORE).frame), ())
        cards = "".join(f'<rect x="20" y="{y}" width="160" height="80" fill="#fff"/>' for y in (20, 120, 220))
        self.assertEqual(
            screens_in(self.drawing(f'<rect width="200" height="340" fill="#eee"/>{cards}', 200).frame), ()
        )
