"""A record that grows by what changed: replayed it is the project, however it was cut off."""

from __future__ import annotations

import random
import unittest
import zipfile
from io import BytesIO

from msgspec.structs import replace
from PIL import Image

from avelt.core.edits.frames import remove_frame, rename_frame
from avelt.core.errors import FormatError
from avelt.core.formats.journal import line_of, record_of, replayed
from avelt.core.formats.pictures_in import read_picture
from avelt.core.formats.project_file import pack
from avelt.core.model.values import Project
from avelt.demo.shipped import shipped_demo


def changed(project: Project, chance: random.Random) -> Project:
    """One edit of any kind."""
    frames, kind = project.frames, chance.randrange(7)
    if kind == 0 and len(frames) > 3:
        return remove_frame(project, chance.choice(frames).id)
    if kind == 1:
        return rename_frame(project, chance.choice(frames).id, f"Frame {chance.random()}")
    if kind == 2:
        return replace(project, frames=tuple(chance.sample(frames, len(frames))))
    if kind == 3:
        return replace(project, name=f"Project {chance.random()}", swatches=("#ffffff",) * chance.randrange(3))
    if kind == 4 and project.routes:
        return replace(project, routes=project.routes[1:])
    if kind == 5:
        return replace(project, assets=project.assets[1:], grid=8.0 if project.grid != 8.0 else 4.0)
    return replace(project, muted=(), tapes=project.tapes[:-1], next_id=project.next_id + 1)


class Journal(unittest.TestCase):
    @classmethod
    def setUpClass(cls) -> None:
        cls.demo = shipped_demo()

    def test_a_record_is_the_project_and_where_it_belongs(self) -> None:
        record, name = record_of(self.demo, "/somewhere/mine.avelt")
        project, note = replayed(record, b"", "here")
        self.assertEqual((project, note.path, note.of), (self.demo, "/somewhere/mine.avelt", name))

    def test_lines_give_every_project_on_the_way(self) -> None:
        chance = random.Random(4)
        for _ in range(6):
            project, lines = self.demo, b""
            record, name = record_of(project, None)
            for step in range(8):
                after = changed(project, chance)
                lines += line_of(project, after, name, f"/{step}")
                project = after
                if step % 3 == 2:
                    found, note = replayed(record, lines, "here")
                    self.assertEqual(found, project)
                    self.assertEqual(note.path, f"/{step}")

    def test_pictures_come_with_the_line_that_adds_them(self) -> None:
        stream = BytesIO()
        Image.new("RGB", (3, 2), "#0b6b64").save(stream, "PNG")
        with_picture = replace(self.demo, assets=(read_picture(stream.getvalue(), "a"),))
        record, name = record_of(self.demo, None)
        line = line_of(self.demo, with_picture, name, None)
        self.assertEqual(replayed(record, line, "here")[0], with_picture)
        record, name = record_of(with_picture, None)
        kept = replace(with_picture, name="Other")
        lines = line_of(with_picture, kept, name, None)
        self.assertLess(len(lines), 300)
        self.assertEqual(replayed(record, lines, "here")[0], kept)
        self.assertEqual(replayed(record, line_of(with_picture, self.demo, name, None), "here")[0], self.demo)

    def test_a_change_costs_what_it_touched(self) -> None:
        after = rename_frame(self.demo, self.demo.frames[-1].id, "Another")
        whole = len(pack(self.demo))
        self.assertLess(len(line_of(self.demo, after, "x", None)), whole / 4)
        self.assertLess(len(line_of(self.demo, replace(self.demo, name="Other"), "x", None)), 200)

    def test_what_was_cut_off_counts_for_nothing(self) -> None:
        first = replace(self.demo, name="First")
        second = replace(first, name="Second")
        record, name = record_of(self.demo, None)
        lines = line_of(self.demo, first, name, None)
        last = line_of(first, second, name, None)
        for length in range(len(last)):
            self.assertEqual(replayed(record, lines + last[:length], "here")[0].name, "First")
        self.assertEqual(replayed(record, lines + last, "here")[0].name, "Second")

    def test_after_a_damaged_line_nothing_counts(self) -> None:
        first, record, name = replace(self.demo, name="First"), *record_of(self.demo, None)
        line = line_of(self.demo, first, name, None)
        harmed = line[:40] + bytes([line[40] ^ 1]) + line[41:]
        self.assertEqual(replayed(record, harmed + line, "here")[0], self.demo)
        self.assertEqual(replayed(record, b"nothing of this\n" + line, "here")[0], self.demo)

    def test_lines_of_another_record_are_passed_over(self) -> None:
        first = replace(self.demo, name="First")
        _, older = record_of(self.demo, None)
        record, name = record_of(self.demo, None)
        old, new = line_of(self.demo, replace(self.demo, grid=3.0), older, None), line_of(self.demo, first, name, None)
        self.assertEqual(replayed(record, old + new, "here")[0], first)

    def test_anything_else_is_a_sentence(self) -> None:
        record, name = record_of(self.demo, None)
        line = line_of(self.demo, replace(self.demo, name="First"), name, None)
        for broken in (
            b"",
            record[:200],
            record[: len(record) // 2],
            pack(self.demo).replace(b"mimetype", b"mimetyre"),
        ):
            with self.assertRaises(FormatError) as caught:
                replayed(broken, line, "here")
            self.assertIn("here", str(caught.exception))
        dangling = line_of(self.demo, replace(self.demo, curves=()), name, None)
        with self.assertRaises(FormatError):
            replayed(record, dangling, "here")

    def test_a_record_of_before_is_read(self) -> None:
        found, note = replayed(pack(self.demo, more={"recovery.json": b'{"path": "/mine.avelt"}'}), b"", "here")
        self.assertEqual((found, note.path, note.of), (self.demo, "/mine.avelt", ""))
        with zipfile.ZipFile(BytesIO(record_of(self.demo, None)[0])) as archive:
            self.assertIn("recovery.json", archive.namelist())


if __name__ == "__main__":
    unittest.main()
