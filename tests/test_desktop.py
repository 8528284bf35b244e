"""What a desktop is given: menu entry, kinds of files, icons, thumbnails, manual, completion; and what it opens."""

from __future__ import annotations

import io
import shutil
import subprocess
import tempfile
import unittest
from contextlib import redirect_stdout
from pathlib import Path
from unittest import mock

from defusedxml.ElementTree import fromstring
from PySide6.QtCore import QMimeData, QPointF, Qt, QUrl
from PySide6.QtGui import QDropEvent, QImage
from PySide6.QtWidgets import QMessageBox

from avelt import __version__, cli
from avelt.core.formats.project_file import save_project
from avelt.core.formats.svg_in import read_svg
from avelt.core.presets import packs
from avelt.core.presets.shelf import built_in
from avelt.core.presets.values import to_json
from avelt.demo.shipped import shipped_demo
from avelt.desktop.files import desktop_entry, desktop_files
from avelt.desktop.kinds import APP_ID, KINDS
from avelt.desktop.table import Line
from tests.support import WindowCase

TABLE = cli.command_table()
FILES = desktop_files(TABLE, __version__, "2026-01-02")
TAPE = b'{"format": 1, "start": {"frame": "Sailings"}, "events": [], "until": 90}'


def every_command(line: Line) -> list[Line]:
    return [command for inner in line.below for command in ([inner] if not inner.below else every_command(inner))]


class Files(unittest.TestCase):
    def checked(self, program: str, *args: str) -> None:
        """A standard's own validator has nothing against it, where it is there."""
        if shutil.which(program):
            done = subprocess.run([program, *args], capture_output=True, text=True)
            self.assertEqual(done.returncode, 0, done.stdout + done.stderr)

    def test_the_menu_entry(self) -> None:
        text = FILES[f"applications/{APP_ID}.desktop"].decode()
        found = dict(line.split("=", 1) for line in text.partition("[Desktop Action")[0].splitlines()[1:] if line)
        self.assertEqual((found["Type"], found["Name"], found["Exec"]), ("Application", "Avelt", "avelt %F"))
        self.assertEqual(found["MimeType"].split(";")[:-1], [kind.mime for kind in KINDS])
        self.assertIn(f"icons/hicolor/scalable/apps/{found['Icon']}.svg", FILES)
        with tempfile.TemporaryDirectory() as folder:
            for program in ("avelt", "/home/some one/100% $bin/avelt"):
                path = Path(folder) / f"{APP_ID}.desktop"
                path.write_bytes(desktop_entry(program))
                self.checked("desktop-file-validate", str(path))

    def test_kinds_of_files_have_endings_and_icons(self) -> None:
        root = fromstring(FILES["mime/packages/avelt.xml"])
        space = "{http://www.freedesktop.org/standards/shared-mime-info}"
        types = {entry.get("type"): entry for entry in root}
        self.assertEqual(list(types), [kind.mime for kind in KINDS])
        for kind in KINDS:
            self.assertEqual(types[kind.mime].find(f"{space}glob").get("pattern"), f"*{kind.ending}")
            icon = types[kind.mime].find(f"{space}icon").get("name")
            drawing = FILES[f"icons/hicolor/scalable/mimetypes/{icon}.svg"]
            self.assertTrue(read_svg(drawing, "icon").frame.layers)

    def test_metadata(self) -> None:
        data = FILES[f"metainfo/{APP_ID}.metainfo.xml"]
        root = fromstring(data)
        self.assertEqual((root.find("id").text, root.find("launchable").text), (APP_ID, f"{APP_ID}.desktop"))
        self.assertEqual(root.find("releases")[0].attrib, {"version": __version__, "date": "2026-01-02"})
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / f"{APP_ID}.metainfo.xml"
            path.write_bytes(data)
            self.checked("appstreamcli", "validate", "--no-net", str(path))

    def test_the_manual_has_every_command_and_option(self) -> None:
        page = FILES["man/man1/avelt.1"].decode().replace("\\-", "-")
        commands = every_command(TABLE)
        self.assertGreater(len(commands), 25)
        for command in TABLE.below:
            self.assertIn(f".SS {command.name}", page)
        for command in commands:
            for option in command.options:
                for name in option.names:
                    if name not in ("-h", "--help"):
                        self.assertIn(f"\\fB{name}\\fR", page, command.name)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "avelt.1"
            path.write_bytes(FILES["man/man1/avelt.1"])
            if shutil.which("man"):
                done = subprocess.run(["man", "--warnings", "-l", str(path)], capture_output=True, text=True)
                self.assertEqual((done.returncode, done.stderr), (0, ""))

    def test_completion_for_three_shells(self) -> None:
        for shell, name in (
            ("bash", "bash-completion/completions/avelt"),
            ("zsh", "zsh/site-functions/_avelt"),
            ("fish", "fish/vendor_completions.d/avelt.fish"),
        ):
            text = FILES[name].decode()
            for word in ("export", "shelf", "settle", "quieter", "waapi"):
                self.assertIn(word, text, shell)
            if shutil.which(shell):
                with tempfile.NamedTemporaryFile("w", suffix=f".{shell}") as file:
                    file.write(text)
                    file.flush()
                    done = subprocess.run([shell, "-n", file.name], capture_output=True, text=True)
                    self.assertEqual((done.returncode, done.stderr), (0, ""), shell)

    def test_bash_offers_what_can_follow(self) -> None:
        script = FILES["bash-completion/completions/avelt"].decode()
        for words, wanted in (
            (("avelt", "ex"), "export"),
            (("avelt", "shelf", "se"), "settle"),
            (("avelt", "export", "x", "--as", "lo"), "lottie"),
            (("avelt", "preset", "put", "x", "--li"), "--linked"),
        ):
            line = " ".join(f'"{word}"' for word in words)
            ask = f'{script}\nCOMP_WORDS=({line}); COMP_CWORD={len(words) - 1}; _avelt; echo "${{COMPREPLY[@]}}"'
            done = subprocess.run(["bash", "-c", ask], capture_output=True, text=True)
            self.assertIn(wanted, done.stdout.split(), words)


class Commands(unittest.TestCase):
    def run_cli(self, *args: str) -> tuple[int, str]:
        out = io.StringIO()
        with redirect_stdout(out):
            code = cli.main(list(args))
        return code, out.getvalue()

    def test_all_is_put_there_and_taken_away_again(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            self.assertEqual(self.run_cli("desktop", "install", "--to", folder)[0], 0)
            there = {str(p.relative_to(folder)) for p in Path(folder).rglob("*") if p.is_file()}
            self.assertTrue(set(FILES) <= there)
            code, text = self.run_cli("desktop", "remove", "--to", folder)
            self.assertEqual((code, len(text.splitlines())), (0, len(FILES)))
            self.assertEqual(self.run_cli("desktop", "remove", "--to", folder), (0, ""))

    def test_pictures_of_files(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            save_project(shipped_demo(), folder / "a.avelt")
            (folder / "b.avelt-preset").write_bytes(to_json(built_in()[0]))
            (folder / "c.avelt-pack").write_bytes(packs.pack(built_in()[:2]))
            for file in ("a.avelt", "b.avelt-preset", "c.avelt-pack"):
                out = folder / "out.png"
                self.assertEqual(self.run_cli("thumbnail", str(folder / file), str(out), "--size", "96")[0], 0)
                image = QImage(str(out))
                self.assertEqual(max(image.width(), image.height()), 96, file)
            (folder / "d.avelt").write_bytes(b"nothing")
            with mock.patch("sys.stderr", io.StringIO()) as said:
                self.assertEqual(self.run_cli("thumbnail", str(folder / "d.avelt"), str(folder / "no.png"))[0], 2)
            self.assertEqual(len(said.getvalue().splitlines()), 1)
            self.assertFalse((folder / "no.png").exists())


class Opened(WindowCase, unittest.TestCase):
    def drop(self, *paths: Path) -> None:
        data = QMimeData()
        data.setUrls([QUrl.fromLocalFile(str(path)) for path in paths])
        place, left = QPointF(600, 300), Qt.MouseButton.LeftButton
        event = QDropEvent(place, Qt.DropAction.CopyAction, data, left, Qt.KeyboardModifier.NoModifier)
        self.window.dropEvent(event)
        self.settle()

    def test_projects_dropped_on_the_window_open(self) -> None:
        from msgspec.structs import replace

        paths = [Path(self.folder.name) / f"{name}.avelt" for name in ("one", "two")]
        for path in paths:
            save_project(replace(shipped_demo(), name=path.stem), path)
        self.drop(*paths)
        self.assertEqual(self.workspace.whole.name, "one")
        self.assertEqual([w.workspace.whole.name for w in self.window.others], ["two"])
        self.window.others[0].close()

    def test_work_that_is_not_saved_is_asked_about_first(self) -> None:
        path = Path(self.folder.name) / "one.avelt"
        save_project(shipped_demo(), path)
        self.workspace.session.unsaved()
        with mock.patch.object(QMessageBox, "question", return_value=QMessageBox.StandardButton.Cancel):
            self.drop(path)
        self.assertIsNone(self.workspace.path)

    def test_a_tape_is_kept_in_the_project(self) -> None:
        path = Path(self.folder.name) / "tour.avelt-tape"
        path.write_bytes(TAPE)
        self.drop(path)
        self.assertIn("tour", [tape.name for tape in self.workspace.whole.tapes])
        self.assertEqual(self.window.current, "rehearse")
        self.window.do("undo")
        self.assertNotIn("tour", [tape.name for tape in self.workspace.whole.tapes])
        path.write_bytes(b"{")
        self.drop(path)
        self.assertIn("tour.avelt-tape", self.window.said.text())

    def test_a_preset_goes_onto_the_shelf(self) -> None:
        from msgspec.structs import replace

        path = Path(self.folder.name) / "mine.avelt-preset"
        path.write_bytes(to_json(replace(built_in()[0], name="Lands softly")))
        self.drop(path)
        self.assertTrue(self.window.shelf.isVisible())
        self.assertIn("Lands softly", [preset.name for preset in self.workspace.shelf.read().presets])

    def test_a_tape_without_a_project(self) -> None:
        from avelt.core.edits.project import new_project

        self.window.show_project(new_project("empty"), None)
        path = Path(self.folder.name) / "tour.avelt-tape"
        path.write_bytes(TAPE)
        self.drop(path)
        self.assertIn("open that first", self.window.said.text())


if __name__ == "__main__":
    unittest.main()
