"""What is saved opens, always; a file keeps what it is; nothing half-made stays."""

from __future__ import annotations

import os
import stat
import tempfile
import time
import unittest
from pathlib import Path
from unittest import mock

from msgspec.structs import replace

from avelt.core.edits.entrances import make_entrance
from avelt.core.edits.frames import next_state
from avelt.core.edits.routes import set_cue
from avelt.core.errors import FileError
from avelt.core.formats import disk
from avelt.core.formats.differences import differences
from avelt.core.formats.disk import is_read_only, stamp_of, write_atomically
from avelt.core.formats.project_file import open_project, save_project
from avelt.core.model.find import entrance_id
from avelt.core.model.motion import CueKey
from avelt.demo.build import build_demo
from tests.core.test_running import prototype


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.file = self.folder / "ferry.avelt"


class Whole(Folder):
    def test_what_would_not_open_is_not_saved(self) -> None:
        good = prototype()
        save_project(good, self.file)
        before = self.file.read_bytes()
        twice = replace(good, frames=(*good.frames, good.frames[0]))
        with self.assertRaisesRegex(FileError, "does not open again"):
            save_project(twice, self.file)
        self.assertEqual(self.file.read_bytes(), before)
        self.assertEqual(os.listdir(self.folder), ["ferry.avelt"])

    def test_a_disk_that_keeps_something_else_is_found_out(self) -> None:
        write_atomically(self.file, b"old")
        with (
            mock.patch.object(disk.os, "fdopen", side_effect=lambda *_: _Forgetful()),
            self.assertRaisesRegex(FileError, "did not keep"),
        ):
            write_atomically(self.file, b"new")
        self.assertEqual(self.file.read_bytes(), b"old")

    def test_an_entrance_and_its_next_state_open_again(self) -> None:
        project = prototype()
        frame = project.frames[0]
        layer = frame.layers[-1]
        project = make_entrance(project, frame.id, (layer.id,))
        project = set_cue(project, entrance_id(frame.id), CueKey(None, layer.id, "opacity"), start=20.0)
        project = next_state(project, frame.id)
        save_project(project, self.file)
        self.assertEqual(open_project(self.file), project)
        copy = project.frames[1]
        assert copy.entrance is not None
        self.assertEqual(copy.entrance.layers, (copy.layers[-1].id,))
        self.assertEqual({cue.key.to_id for cue in copy.entrance.transition.cues}, {copy.layers[-1].id})


class _Forgetful:
    """A stream that gives back nothing of what was written."""

    def __init__(self) -> None:
        self.file = tempfile.TemporaryFile()  # noqa: SIM115 (closed on leaving)

    def __enter__(self) -> _Forgetful:
        return self

    def __exit__(self, *_: object) -> None:
        self.file.close()

    def write(self, data: bytes) -> None: ...

    def flush(self) -> None: ...

    def fileno(self) -> int:
        return self.file.fileno()

    def seek(self, place: int) -> None: ...

    def read(self) -> bytes:
        return b""


class Kept(Folder):
    def mode(self, path: Path) -> int:
        return stat.S_IMODE(path.stat().st_mode)

    def test_the_mode_of_a_file_and_the_umask_for_a_new_one(self) -> None:
        before = os.umask(0o027)
        try:
            write_atomically(self.file, b"a")
        finally:
            os.umask(before)
        self.assertEqual(self.mode(self.file), 0o640)
        os.chmod(self.file, 0o664)
        write_atomically(self.file, b"b")
        self.assertEqual((self.mode(self.file), self.file.read_bytes()), (0o664, b"b"))

    def test_a_link_stays_a_link(self) -> None:
        (self.folder / "deep").mkdir()
        target = self.folder / "deep" / "real.avelt"
        target.write_bytes(b"a")
        self.file.symlink_to(target)
        write_atomically(self.file, b"b")
        self.assertTrue(self.file.is_symlink())
        self.assertEqual(target.read_bytes(), b"b")

    def test_read_only_files_are_asked_about(self) -> None:
        self.assertFalse(is_read_only(self.file))
        write_atomically(self.file, b"a")
        os.chmod(self.file, 0o444)
        self.assertTrue(is_read_only(self.file))
        with self.assertRaisesRegex(FileError, "read-only"):
            write_atomically(self.file, b"b")
        write_atomically(self.file, b"b", over_read_only=True)
        self.assertEqual((self.file.read_bytes(), self.mode(self.file)), (b"b", 0o444))

    def test_names_as_long_as_the_file_system_takes(self) -> None:
        path = self.folder / ("n" * 249 + ".avelt")
        write_atomically(path, b"a")
        self.assertEqual(path.read_bytes(), b"a")
        with self.assertRaisesRegex(FileError, "cannot be written"):
            write_atomically(self.folder / ("n" * 300), b"a")
        self.assertEqual(os.listdir(self.folder), [path.name])

    def test_what_an_earlier_stop_left_half_written_is_cleaned(self) -> None:
        old, new = self.folder / ".1.avelt-part", self.folder / ".2.avelt-part"
        for path in (old, new):
            path.write_bytes(b"half")
        long_ago = time.time() - 7200
        os.utime(old, (long_ago, long_ago))
        write_atomically(self.file, b"a")
        self.assertEqual(sorted(os.listdir(self.folder)), [new.name, "ferry.avelt"])

    def test_a_stamp_tells_whether_somebody_else_wrote(self) -> None:
        self.assertIsNone(stamp_of(self.file))
        write_atomically(self.file, b"a")
        before = stamp_of(self.file)
        self.assertEqual(before, stamp_of(self.file))
        write_atomically(self.file, b"a")
        self.assertNotEqual(before, stamp_of(self.file))


class Differences(unittest.TestCase):
    def test_in_a_few_words(self) -> None:
        demo = build_demo()
        self.assertEqual(differences(demo, demo), [])
        first = demo.frames[0]
        other = replace(demo, name="Other", frames=(replace(first, w=999.0), *demo.frames[2:]), routes=demo.routes[1:])
        found = differences(demo, other)
        self.assertIn("frame “Sailings” differs", found)
        self.assertIn("frame “Sailing detail” is only here", found)
        self.assertIn("route “Sailings > Sailing detail” is only here", found)
        self.assertIn("the name differs", found)
        self.assertIn("frame “Sailing detail” is only there", differences(other, demo))
        many = replace(demo, frames=(), routes=())
        self.assertRegex(differences(demo, many)[-1], r"and \d+ more")


if __name__ == "__main__":
    unittest.main()
