"""Several windows of one program: each ends when it is closed, whoever opened it."""

from __future__ import annotations

import gc
import unittest
import weakref
from pathlib import Path

from avelt.core.model.curves import Line
from avelt.core.model.motion import PairKey
from avelt.core.timing.schedule import Timed
from avelt.window.timing.rows import Row
from avelt.window.timing.sheet_rows import words_of
from tests.support import WindowCase


class Windows(WindowCase, unittest.TestCase):
    demo = False

    def free(self) -> None:
        for _ in range(3):
            self.settle()
            gc.collect()

    def test_of_ten_that_are_closed_none_stays(self) -> None:
        known = []
        for k in range(10):
            other = self.window.another_window()
            for ident in ("routes", "timing", "loops")[: k % 4]:
                other.go(ident)
            known.append(weakref.ref(other))
            other.close()
            del other
        self.free()
        self.assertEqual([ref() for ref in known if ref() is not None], [])
        self.assertEqual(self.window.others, [])

    def test_one_that_another_opened_stays_when_that_is_closed(self) -> None:
        second = self.window.another_window()
        third = weakref.ref(second.another_window())
        second.close()
        del second
        self.free()
        found = third()
        self.assertIsNotNone(found)
        assert found is not None
        self.assertTrue(found.isVisible())
        self.assertEqual(self.window.others, [found])
        found.close()

    def test_the_header_has_the_name_of_the_file(self) -> None:
        path = Path(self.folder.name) / "ferries.avelt"
        self.window.make_blank()
        self.assertTrue(self.window.save_to(path))
        self.assertIn("ferries", self.window.windowTitle())
        self.assertTrue(self.window.open_file(path))
        self.assertIn("ferries", self.window.windowTitle())

    def test_a_file_that_is_no_project_is_not_saved_over(self) -> None:
        path = Path(self.folder.name) / "ferry.svg"
        path.write_text("<svg/>")
        self.window.make_blank()
        self.assertFalse(self.window.save_to(path))
        self.assertIn("no Avelt project", self.window.said.text())
        self.assertEqual(path.read_text(), "<svg/>")

    def test_a_message_goes_with_what_it_says(self) -> None:
        path = Path(self.folder.name) / "ferries.avelt"
        self.window.make_blank()
        self.window.say("One")
        self.window.do("undo")
        self.assertEqual(self.window.said.text(), "")
        self.window.say("Two")
        self.window.do("redo")
        self.assertEqual(self.window.said.text(), "")
        self.assertTrue(self.window.save_to(path))
        self.window.say("Three")
        self.assertTrue(self.window.open_file(path))
        self.assertEqual(self.window.said.text(), "")

    def test_with_one_frame_routes_shows_it_and_says_that_there_are_none(self) -> None:
        self.window.make_blank()
        self.window.go("routes")
        self.settle()
        routes = self.window.stations["routes"]
        self.assertTrue(routes.strip.isVisible())
        self.assertFalse(routes.empty.isVisible())
        self.assertEqual([entry.words for entry in routes.matrix.spoken()], ["No routes yet in the one frame"])

    def test_a_row_that_enters_is_spoken_by_its_name(self) -> None:
        when = Timed(0.0, 100.0, Line(), Line(), False, False)
        for role, names, said in (
            ("enters", ("enters", "Lantern"), "Lantern enters"),
            ("leaves", ("Lantern", "leaves"), "Lantern leaves"),
        ):
            row = Row(PairKey(None, "x"), "", role, *names, "", "", when, 0, True, False, False, 0.0, True)
            self.assertTrue(words_of(row).startswith(said), words_of(row))


if __name__ == "__main__":
    unittest.main()
