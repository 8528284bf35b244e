"""Rehearsals: recorded, gone back on, replayed, gone on from, compared; kept tapes; the quieter variant; chance."""

import json
import random
import tempfile
import unittest
from contextlib import redirect_stdout
from io import StringIO
from pathlib import Path

import numpy as np
from msgspec.structs import replace

from avelt.cli import main
from avelt.core.edits.frames import rename_frame
from avelt.core.edits.inputs import rename_input
from avelt.core.edits.tapes import keep_tape, put_tape, remove_tape, rename_tape, tape_named
from avelt.core.errors import AveltError, EditError, NotFound
from avelt.core.formats.checked import check
from avelt.core.formats.project_file import from_json, save_project, to_json
from avelt.core.model.properties import COLUMN
from avelt.core.model.tapes import Event, KeyDown, Move, Press, Release, Scrolled, Start, Tape, Told
from avelt.core.running.comparing import first_parting
from avelt.core.running.deeds import deeds_of, moved
from avelt.core.running.rehearsal import Rehearsal
from avelt.core.steps.read import applied
from avelt.core.timing.quieter import LONGEST, quieter
from avelt.demo.build import build_demo
from tests.core.test_follows import drag, of, project_of, where
from tests.core.test_steps import SITE

TAP = {"do": "route", "from": "a", "to": "b", "trigger": {"tap": "Head"}, "length": 400, "curve": "linear", "add": True}
BACK = {
    "do": "route",
    "from": "b",
    "to": "a",
    "trigger": {"tap": "Head"},
    "length": 400,
    "curve": "linear",
    "add": True,
}
PULL = {"do": "input", "name": "pull", "kind": "number", "start": 0}


def tapped(rehearsal: Rehearsal, at: float) -> None:
    rehearsal.do(Press(at, 100, 10))
    rehearsal.do(Release(at + 20, 100, 10))


class Recording(unittest.TestCase):
    def test_any_moment_is_shown_and_what_was_done_is_done_again(self) -> None:
        rehearsal = Rehearsal(project_of(TAP, BACK))
        tapped(rehearsal, 100)
        tapped(rehearsal, 900)
        rehearsal.advance(2000)
        for ms in (1500, 220, 1020, 0, 2000):
            fresh = Rehearsal(rehearsal.project, rehearsal.tape())
            self.assertTrue(np.array_equal(rehearsal.seen(ms).scene().vector, fresh.seen(ms).scene().vector), ms)
        self.assertEqual(rehearsal.seen(320).frame.name, "b")
        self.assertEqual(rehearsal.player.now, 2000)  # looking back changes nothing

    def test_something_else_done_in_the_past_takes_the_place_of_what_came(self) -> None:
        rehearsal = Rehearsal(project_of(TAP, BACK))
        tapped(rehearsal, 100)
        tapped(rehearsal, 900)
        rehearsal.advance(3000)
        rehearsal.do(KeyDown(700, "x"))
        rehearsal.advance(3000)
        self.assertEqual(rehearsal.player.frame.name, "b")
        self.assertEqual([type(event) for event in rehearsal.events], [Press, Release, KeyDown])

    def test_a_tape_plays_by_itself_until_somebody_takes_over(self) -> None:
        first = Rehearsal(project_of(TAP, BACK))
        tapped(first, 100)
        tapped(first, 900)
        first.advance(1500)
        again = Rehearsal(first.project, first.tape())
        again.advance(500)
        self.assertEqual(again.ends, 1500)
        again.advance(1500)
        self.assertEqual(again.player.log, first.player.log)

    def test_of_moves_that_nothing_feels_the_last_is_enough(self) -> None:
        rehearsal = Rehearsal(project_of(TAP, drag()))
        for k in range(50):
            rehearsal.do(Move(float(k), 100, 300 + k))
        self.assertEqual(len(rehearsal.events), 1)
        rehearsal.do(Press(60, 100, 80))
        for k in range(5):
            rehearsal.do(Move(61.0 + k, 100, 90 + 10 * k))
        self.assertEqual(len(rehearsal.events), 7)
        fresh = Rehearsal(rehearsal.project, rehearsal.tape())
        fresh.advance(70)
        rehearsal.advance(70)
        self.assertEqual(where(fresh.player), where(rehearsal.player))

    def test_the_tape_as_a_document_comes_back(self) -> None:
        rehearsal = Rehearsal(project_of(TAP, PULL), Tape(start=Start("a", {"pull": 2.0}, 5, 40.0)))
        tapped(rehearsal, 100)
        rehearsal.do(Told(300, "pull", 3.0))
        project, name = keep_tape(rehearsal.project, rehearsal.tape("Once"))
        self.assertEqual(from_json(to_json(project), "x").tapes, project.tapes)
        self.assertEqual((tape_named(project, name).start.seed, tape_named(project, name).until), (5, 300))

    def test_again_with_an_edited_project_at_the_same_moment(self) -> None:
        project = project_of(TAP, BACK, PULL)
        rehearsal = Rehearsal(project)
        tapped(rehearsal, 100)
        rehearsal.do(Told(200, "pull", 1.0))
        rehearsal.advance(320)
        edited = applied(project, [{"do": "set", "in": "b", "layer": "Card", "position": [20, 340]}], SITE)
        again = rehearsal.again(edited, 320)
        self.assertEqual((again.player.now, again.missed), (320, []))
        self.assertAlmostEqual(where(again.player)[1], 40 + 0.5 * 300)
        gone = applied(project, [{"do": "remove", "input": "pull"}], SITE)
        again = rehearsal.again(gone, 320)
        self.assertEqual(again.missed, ["Event 3: There is no input 'pull'."])
        self.assertAlmostEqual(where(again.player)[1], 140)

    def test_a_start_that_is_gone_is_said(self) -> None:
        made = Rehearsal(project_of(PULL), Tape(start=Start("nowhere", {"pull": True, "x": 1.0})))
        self.assertEqual(len(made.missed), 3)
        self.assertEqual((made.player.frame.name, made.player.inputs["pull"]), ("a", 0))


class Deeds(unittest.TestCase):
    EVENTS: tuple[Event, ...] = (
        Move(10, 5, 5),
        Press(100, 100, 10),
        Release(160, 100, 10),
        Move(400, 50, 50),
        Press(500, 100, 80),
        Move(550, 100, 120),
        Release(700, 100, 200),
        Scrolled(900, 0, 30),
        Scrolled(1000, 0, 30),
        KeyDown(1500, "Enter"),
    )

    def test_events_as_what_somebody_did(self) -> None:
        found = [(deed.word, deed.start, deed.end) for deed in deeds_of(self.EVENTS)]
        self.assertEqual(found, [("tap", 100, 160), ("drag", 500, 700), ("scroll", 900, 1000), ("key", 1500, 1500)])

    def test_one_is_moved_between_its_neighbours(self) -> None:
        tap, pull, wheel, key = deeds_of(self.EVENTS)
        later = moved(self.EVENTS, pull, 100)
        self.assertEqual([event.at for event in later][4:], [600, 650, 800, 900, 1000, 1500])
        self.assertEqual([event.at for event in later][:3], [10, 100, 160])
        self.assertTrue(160 < later[3].at < 600)
        self.assertEqual([event.at for event in moved(self.EVENTS, pull, 900)][4:7], [700, 750, 900])
        self.assertEqual([event.at for event in moved(self.EVENTS, tap, -500)][1:3], [0, 60])
        self.assertEqual(moved(self.EVENTS, key, 500)[-1].at, 2000)
        self.assertEqual(moved(self.EVENTS, wheel, 0), self.EVENTS)

    def test_times_never_fall(self) -> None:
        dice = random.Random(4)
        for _ in range(200):
            deed = dice.choice(deeds_of(self.EVENTS))
            times = [event.at for event in moved(self.EVENTS, deed, dice.uniform(-900, 900))]
            self.assertEqual(times, sorted(times))


class Comparing(unittest.TestCase):
    def test_where_two_part(self) -> None:
        project = project_of(TAP)
        one = Rehearsal(project)
        tapped(one, 100)
        one.advance(1000)
        self.assertIsNone(first_parting(one, Rehearsal(project, one.tape())))
        slower = applied(project, [{"do": "route", "from": "a", "to": "b", "length": 800}], SITE)
        found = first_parting(one, Rehearsal(slower, one.tape()))
        assert found is not None
        self.assertTrue(120 <= found.at <= 122)
        self.assertIn("Card", found.says)
        later = Rehearsal(project)
        tapped(later, 400)
        later.advance(1000)
        found = first_parting(one, later)
        assert found is not None
        self.assertEqual((round(found.at), found.says), (120, "One is in b, the other in a."))

    def test_it_can_be_stopped(self) -> None:
        one = Rehearsal(project_of(TAP), Tape(until=60_000))
        asked: list[int] = []

        def go_on(done: int, whole: int) -> bool:
            asked.append(whole)
            return len(asked) < 3

        self.assertIsNone(first_parting(one, Rehearsal(project_of(TAP)), go_on))
        self.assertEqual(len(asked), 3)


class Kept(unittest.TestCase):
    def test_names_and_places(self) -> None:
        project = project_of(TAP, PULL)
        tape = Tape(name="Tour", start=Start("a", {"pull": 1.0}), events=(Told(5, "pull", 2.0),), until=10)
        project, name = keep_tape(project, tape)
        project, second = keep_tape(project, tape)
        self.assertEqual((name, second != name), ("Tour", True))
        with self.assertRaises(EditError):
            rename_tape(project, second, "Tour")
        with self.assertRaises(EditError):
            rename_tape(project, second, "  ")
        project = rename_tape(project, second, "Other")
        project = put_tape(project, "Other", Tape(until=99))
        self.assertEqual([(t.name, t.until) for t in project.tapes], [("Tour", 10), ("Other", 99)])
        project = remove_tape(project, "Other")
        with self.assertRaises(NotFound):
            tape_named(project, "Other")
        entry = next(entry for entry in project.inputs if entry.name == "pull")
        project = rename_input(project, entry.id, "tug")
        project = rename_frame(project, project.frames[0].id, "first")
        made = Rehearsal(project, project.tapes[0])
        self.assertEqual(made.missed, [])
        made.advance(10)
        self.assertEqual(made.player.inputs["tug"], 2.0)

    def test_a_file_with_a_bad_tape_is_refused_with_the_place(self) -> None:
        project, _ = keep_tape(project_of(), Tape(events=(KeyDown(50, "a"), KeyDown(60, "b")), until=100))
        document = json.loads(to_json(project))
        document["tapes"][0]["events"][1]["at"] = 3
        with self.assertRaisesRegex(AveltError, "event 2"):
            check(from_json(json.dumps(document).encode(), "x"))

    def test_avelt_play_knows_them_by_name_and_says_what_they_missed(self) -> None:
        project = project_of(TAP, PULL)
        project, _ = keep_tape(
            project, Tape(name="Tour", events=(Told(5, "pull", 2.0), Told(6, "gone", 1.0)), until=10)
        )
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.avelt"
            save_project(project, path)
            out = StringIO()
            with redirect_stdout(out):
                self.assertEqual(main(["play", str(path), "Tour", "--json"]), 0)
            document = json.loads(out.getvalue())
        self.assertEqual(document["samples"][0]["inputs"]["pull"], 2.0)
        self.assertEqual(document["missed"], ["event 2: There is no input 'gone'."])

    def test_a_step_keeps_one(self) -> None:
        step = {"do": "tape", "name": "T", "events": [{"at": 5, "do": "key", "key": "a"}], "until": 9}
        project = project_of(step, step | {"until": 12})
        self.assertEqual([(t.name, t.until) for t in project.tapes], [("T", 12)])
        with self.assertRaisesRegex(AveltError, "event 1"):
            project_of(step | {"events": [{"at": -5, "do": "key", "key": "a"}]})
        self.assertEqual(project_of(step, {"do": "remove", "tape": "T"}).tapes, ())


class Quieter(unittest.TestCase):
    def test_nothing_travels_and_the_same_is_reached(self) -> None:
        loop = {"do": "loop", "in": "a", "layer": "Card", "pose": {"position": [0, 40]}, "length": 500}
        blink = {"do": "loop", "in": "a", "layer": "Head", "pose": {"opacity": 0.5}, "length": 500}
        plain = project_of(TAP, loop, blink)
        rehearsal = Rehearsal(quieter(plain))
        tapped(rehearsal, 300)
        places = set()
        for ms in range(0, 1000, 20):
            rehearsal.advance(float(ms))
            scene = rehearsal.player.scene()
            for slot, content in enumerate(scene.program.contents):
                if content.layer.name == "Card" and scene.world_opacity()[slot] > 0.01:
                    places.add(float(scene.scalars[slot, COLUMN["y"]]))
        self.assertEqual(places, {40.0, 240.0})
        self.assertEqual(rehearsal.player.frame.name, "b")
        self.assertEqual(where(rehearsal.player)[1], 240.0)
        names = {entry.loop.name for entry in Rehearsal(quieter(plain)).player.running()}
        self.assertEqual(names, {"Head loop"})

    def test_fades_are_short_and_a_hand_is_followed(self) -> None:
        project = quieter(project_of(drag(lag=90), TAP | {"length": 900}))
        timed = next(route for route in project.routes if route.transition.duration == LONGEST)
        self.assertTrue(timed)
        rehearsal = Rehearsal(project)
        rehearsal.do(Press(0, 100, 80))
        rehearsal.do(Move(10, 100, 130))
        self.assertAlmostEqual(where(rehearsal.player)[1], 90.0)

    def test_of_the_demo(self) -> None:
        project = quieter(build_demo())
        self.assertTrue(all(frame.entrance is None for frame in project.frames))
        rehearsal = Rehearsal(project)
        rehearsal.advance(3000)
        self.assertEqual(rehearsal.player.frame.name, "Delay notice")


class Chance(unittest.TestCase):
    def test_another_seed_other_waits_the_same_seed_the_same(self) -> None:
        loop = {"do": "loop", "in": "a", "layer": "Card", "pose": {"position": [0, 40]}, "length": 300}
        project = project_of(loop | {"wait": 600, "wait_when": "each", "jitter": 0.9, "seed": 3})

        def seen(seed: int) -> list[float]:
            rehearsal = Rehearsal(project, Tape(start=Start(seed=seed)))
            found = []
            for ms in range(0, 4000, 50):
                rehearsal.advance(float(ms))
                found.append(of(rehearsal.player, "Card", "y"))
            return found

        self.assertEqual(seen(2), seen(2))
        self.assertNotEqual(seen(2), seen(1))
        self.assertEqual(Rehearsal(project).player.project, replace(project))


if __name__ == "__main__":
    unittest.main()
