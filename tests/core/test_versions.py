"""Earlier versions of files: what is kept of them, and how few the old ones are."""

from __future__ import annotations

import tempfile
import unittest
from pathlib import Path
from unittest import mock

from avelt.core.errors import FileError
from avelt.core.formats import versions
from avelt.tools.torture import torture

HOUR, DAY = 3600.0, 86400.0


class Kept(unittest.TestCase):
    def setUp(self) -> None:
        self.room = tempfile.TemporaryDirectory()
        self.folder, self.file = Path(self.room.name) / "versions", Path(self.room.name) / "a.avelt"

    def tearDown(self) -> None:
        self.room.cleanup()

    def save(self, text: str, at: float) -> versions.Version | None:
        self.file.write_text(text)
        return versions.keep(self.folder, self.file, at)

    def test_each_other_content_once_the_newest_first(self) -> None:
        self.assertIsNone(versions.keep(self.folder, self.file, 1.0))
        self.save("one", 10_000.0)
        self.assertIsNone(self.save("one", 10_400.0))
        self.save("two", 10_800.0)
        found = versions.versions(self.folder, self.file)
        self.assertEqual([version.at for version in found], [10_800.0, 10_000.0])
        self.assertEqual(found[1].path.read_text(), "one")
        self.assertEqual(versions.versions(self.folder, self.file.with_name("b.avelt")), ())

    def test_the_older_the_fewer(self) -> None:
        now = 30 * DAY
        minutes = [now - 60.0 * k for k in range(60)]
        hours = [now - HOUR * k for k in range(1, 24)]
        days = [now - DAY * k for k in range(1, 12)]
        kept = versions.wanted_of([*minutes, *hours, *days], now)
        self.assertIn(now, kept)
        self.assertTrue(12 <= len([t for t in kept if now - t < HOUR]) <= 13)  # one each five minutes, and the newest
        self.assertTrue(20 <= len([t for t in kept if HOUR < now - t < DAY]) <= 24)
        self.assertTrue(6 <= len([t for t in kept if now - t >= DAY]) <= 7)
        self.assertEqual([t for t in kept if now - t > 7 * DAY], [])

    def test_the_only_one_stays_however_old(self) -> None:
        self.assertEqual(versions.wanted_of([0.0], 100 * DAY), {0.0})

    def test_what_is_not_wanted_goes_from_the_disk(self) -> None:
        for k in range(20):
            self.save(f"content {k}", 1_000_000.0 + 30.0 * k)
        found = versions.versions(self.folder, self.file)
        self.assertTrue(2 <= len(found) <= 4)
        self.assertEqual(found[0].path.read_text(), "content 19")

    def test_they_take_no_more_than_their_room(self) -> None:
        with mock.patch.object(versions, "MOST_BYTES", 2500):
            for k in range(6):
                self.save(str(k) * 1000, 1_000_000.0 + 400.0 * k)
        self.assertEqual(len(versions.versions(self.folder, self.file)), 2)

    def test_a_folder_that_cannot_be_made_is_said(self) -> None:
        self.folder.write_text("no folder")
        self.file.write_text("one")
        with self.assertRaises(FileError):
            versions.keep(self.folder, self.file, 1.0)


class Torture(unittest.TestCase):
    def test_three_rounds_hold(self) -> None:
        told: list[str] = []
        torture(3, 7, told.append)
        self.assertEqual(len(told), 3)


if __name__ == "__main__":
    unittest.main()
