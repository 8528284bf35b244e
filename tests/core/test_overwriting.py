"""What is there is not written over unless it is meant, and what was half written goes."""

from __future__ import annotations

import contextlib
import io
import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

from msgspec.structs import replace

from avelt.cli import main
from avelt.core.edits.project import new_project
from avelt.core.errors import MOST_LETTERS, AveltError, FormatError
from avelt.core.formats import disk
from avelt.core.formats.project_file import open_project, save_project
from avelt.core.formats.sound import number_is_sound
from avelt.core.presets.packs import pack, unpack
from avelt.core.presets.shelf import Shelf, built_in, file_name
from avelt.core.presets.values import ENDING
from avelt.core.steps.read import applied
from avelt.deliver.sinks import DiskSink
from tests.core.test_steps import SITE
from tests.support import box, project_of

DRAWING = '<svg xmlns="http://www.w3.org/2000/svg" width="90" height="90"><rect id="r" width="9" height="9"/></svg>'


def run(*words: str | Path) -> tuple[int, str]:
    """A command; its exit code and what it says of what went wrong."""
    said = io.StringIO()
    with contextlib.redirect_stderr(said), contextlib.redirect_stdout(io.StringIO()):
        return main([str(word) for word in words]), said.getvalue()


class Folder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.project = self.folder / "it.avelt"
        frames = project_of((box("a", 0, 0, 9, 9),), (box("b", 9, 9, 9, 9, origin="a"),))
        save_project(frames, self.project)
        self.drawings = [self.folder / name for name in ("a.svg", "b.svg")]
        for path in self.drawings:
            path.write_text(DRAWING)


class Overwriting(Folder):
    def test_an_import_without_its_output_leaves_the_first_drawing(self) -> None:
        code, said = run("import", *self.drawings)
        self.assertEqual(code, 2)
        self.assertIn("avelt import NEW.avelt", said)
        self.assertEqual(self.drawings[0].read_text(), DRAWING)

    def test_a_project_or_an_empty_file_is_written_over(self) -> None:
        empty = self.folder / "new.avelt"
        empty.touch()
        for out in (self.project, empty):
            self.assertEqual(run("import", out, *self.drawings)[0], 0)
            self.assertEqual([frame.name for frame in open_project(out).frames], ["a", "b"])

    def test_edits_and_presets_do_not_go_over_other_files(self) -> None:
        steps = self.folder / "steps.json"
        steps.write_text("[]")
        self.assertEqual(run("edit", self.project, steps, "-o", steps)[0], 2)
        self.assertEqual(steps.read_text(), "[]")
        command = ("preset", "put", self.project, "A > B", "--layer", "a", "--preset", "Bobs up", "-o", steps)
        self.assertEqual(run(*command)[0], 2)
        self.assertEqual(steps.read_text(), "[]")

    def test_a_delivery_does_not_go_over_a_project(self) -> None:
        before = self.project.read_bytes()
        code, said = run("export", self.project, "--as", "svg", "--route", "A > B", "-o", self.project)
        self.assertEqual((code, "This is a project" in said), (2, True))
        self.assertEqual(self.project.read_bytes(), before)

    def test_frames_of_one_name_are_a_picture_each(self) -> None:
        project = open_project(self.project)
        twice = replace(project, frames=tuple(replace(f, name="Same/It") for f in project.frames))
        save_project(twice, self.project)
        for command in (("export", self.project, "--as", "png"), ("render", self.project, "--all-frames")):
            out = self.folder / command[0]
            self.assertEqual(run(*command, "-o", out)[0], 0)
            self.assertEqual(sorted(os.listdir(out)), ["Same_It 2.png", "Same_It.png"])

    def test_of_several_deliveries_all_are_written_or_none(self) -> None:
        out = self.folder / "out"
        self.assertEqual(run("export", self.project, "--as", "svg", "--all", "-o", out)[0], 0)
        self.assertEqual([name.endswith(".svg") for name in os.listdir(out)], [True])
        out = self.folder / "none"
        with DiskSink(self.folder / "half", single=False) as sink, sink.open("one") as stream:
            stream.write(b"1")
        with contextlib.suppress(AveltError), DiskSink(out, single=False) as sink:
            with sink.open("one") as stream:
                stream.write(b"1")
            raise FormatError("the second one fails")
        self.assertEqual((os.listdir(self.folder / "half"), os.listdir(out)), (["one"], []))


class Leftovers(Folder):
    def test_of_a_killed_process_nothing_stays(self) -> None:
        code = (
            "from pathlib import Path; import sys, time; from avelt.deliver.sinks import DiskSink\n"
            "with DiskSink(Path(sys.argv[1]), False) as sink, sink.open('x') as stream:\n"
            "    print('ready', flush=True); time.sleep(60)\n"
        )
        started = subprocess.Popen([sys.executable, "-c", code, str(self.folder)], stdout=subprocess.PIPE)
        assert started.stdout is not None
        started.stdout.readline()
        mine = self.folder / ".1.avelt-part"
        mine.mkdir()
        old = time.time() - 60
        for entry in self.folder.glob(".*.avelt-part"):
            os.utime(entry, (old, old))
        disk.remove_leftovers(self.folder)
        self.assertEqual(len(list(self.folder.glob(".*.avelt-part"))), 1)  # it is still written into
        started.kill()
        started.wait()
        started.stdout.close()
        disk.remove_leftovers(self.folder)
        self.assertEqual(list(self.folder.glob(".*.avelt-part")), [])

    def test_an_interrupt_ends_it_with_one_word(self) -> None:
        code = (
            "from pathlib import Path; import sys, time; from avelt.core.stopping import *\n"
            "from avelt.deliver.sinks import DiskSink\nend_on_signals()\n"
            "with temporary_folder('avelt-test-') as t, DiskSink(Path(sys.argv[1]), False) as sink, sink.open('x'):\n"
            "    print(t, flush=True); time.sleep(60)\n"
        )
        for number in (signal.SIGINT, signal.SIGTERM):
            out = self.folder / f"out{number}"
            pipe = subprocess.PIPE
            started = subprocess.Popen([sys.executable, "-c", code, str(out)], stdout=pipe, stderr=pipe, text=True)
            assert started.stdout is not None
            temporary = Path(started.stdout.readline().strip())
            self.assertTrue(temporary.is_dir())
            started.send_signal(number)
            _, said = started.communicate(timeout=60)
            self.assertEqual((started.returncode, said), (128 + number, "Stopped.\n"))
            self.assertEqual((list(out.iterdir()), temporary.exists()), ([], False))


class PresetFiles(Folder):
    NAMES = ("Go!", "Go?", "Go", "go-", "G o", "G-o", "???", "!!!")

    def test_names_that_differ_in_signs_are_files_of_their_own(self) -> None:
        shelf = Shelf(self.folder / "shelf")
        for name in self.NAMES:
            shelf.take(replace(built_in()[0], name=name, duration=float(len(shelf.read().presets) + 100)))
        self.assertEqual({preset.name for preset in shelf.read().presets}, set(self.NAMES))
        again = replace(built_in()[0], name="Go?", duration=7.0)
        shelf.keep(again)
        self.assertEqual(len(shelf.read().presets), len(self.NAMES))
        self.assertEqual(shelf.find("Go?", "mine").duration, 7.0)
        shelf.remove("Go!")
        self.assertEqual({preset.name for preset in Shelf(shelf.folder).read().presets}, {*self.NAMES} - {"Go!"})

    def test_a_file_that_is_no_preset_is_not_written_over(self) -> None:
        shelf = Shelf(self.folder)
        foreign = self.folder / file_name("Go")
        foreign.write_bytes(b"mine")
        path = shelf.keep(replace(built_in()[0], name="Go"))
        self.assertEqual((foreign.read_bytes(), path.name.endswith(ENDING)), (b"mine", True))

    def test_a_pack_keeps_them_apart(self) -> None:
        presets = [replace(built_in()[0], name=name) for name in self.NAMES]
        self.assertEqual([p.name for p in unpack(pack(presets), "x")[1]], list(self.NAMES))

    def test_what_could_not_be_read_again_is_not_kept(self) -> None:
        shelf = Shelf(self.folder / "shelf")
        with self.assertRaises(FormatError):
            shelf.keep(replace(built_in()[0], note="n" * 100_000))
        self.assertEqual(shelf.read().presets, ())


class Sentences(unittest.TestCase):
    def test_a_number_without_end_is_refused(self) -> None:
        for value in (10**400, -(10**400), float("inf"), float("nan")):
            with self.assertRaises(FormatError) as caught:
                number_is_sound(value, "loops[0].seed")
            self.assertLessEqual(len(str(caught.exception)), MOST_LETTERS)

    def test_a_step_with_endless_brackets_is_refused_with_its_number(self) -> None:
        steps = [
            {"do": "frame", "name": "a", "size": [90, 90]},
            {"do": "draw", "in": "a", "kind": "box", "name": "B", "size": [9, 9], "fill": "(" * 100_000},
        ]
        with self.assertRaisesRegex(FormatError, "step 2"):
            applied(new_project("x"), steps, SITE)

    def test_they_are_short_whatever_they_quote(self) -> None:
        error = FormatError("a" * 4_000_000 + "b", "p" * 4_000_000, "h" * 4_000_000)
        self.assertLessEqual(len(str(error)), MOST_LETTERS)
        self.assertLessEqual(len(error.sentence), MOST_LETTERS)
        self.assertTrue(error.sentence.endswith("b"))
        self.assertLessEqual(len(str(error.at("q" * 999))), MOST_LETTERS)


if __name__ == "__main__":
    unittest.main()
