"""The tools beside the application, and the documents that name what there is."""

import contextlib
import io
import re
import shutil
import sys
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from PIL import Image

from avelt.cli import COMMANDS as CLI_COMMANDS
from avelt.core.presets import packs
from avelt.core.presets.picture import picture_of
from avelt.core.presets.shelf import Shelf
from avelt.core.presets.team import join
from avelt.demo.shipped import shipped_demo
from avelt.tools import checks_page, demo_shelf, fidelity, keys, shots
from avelt.window.shell.commands import STATIONS
from tests import run

ROOT = Path(__file__).resolve().parent.parent


class Pictures(unittest.TestCase):
    def test_every_main_view_is_taken_at_its_size(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            shots.main(Path(folder))
            names = {path.stem for path in Path(folder).iterdir()}
            self.assertLessEqual({ident for ident, _ in STATIONS} | {"shelf", "dark"}, names)
            for path in Path(folder).iterdir():
                with Image.open(path) as image:
                    self.assertEqual(image.size, (1280, 800))
                    self.assertGreater(len(image.convert("RGB").getcolors(1 << 20) or ()), 50, path.name)

    def test_the_kept_pictures_are_those_views(self) -> None:
        kept = {path.stem for path in (ROOT / "docs" / "screenshots").glob("*.png")}
        self.assertEqual(kept, {shot.__name__ for shot in shots.SHOTS})


class Fidelity(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        (self.folder / "a.svg").write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><circle cx="5" cy="5" r="4" fill="teal"/>'
            '<path d="M1 1L9 9" stroke="#fff" stroke-width="2" stroke-linecap="round"/></svg>'
        )
        (self.folder / "b.svg").write_text("<svg")

    def test_ours_is_fitted_on_white_and_troubles_are_told(self) -> None:
        picture, seconds, trouble = fidelity.paint_ours(self.folder / "a.svg")
        self.assertEqual((picture.size, trouble), ((128, 128), ""))
        self.assertEqual((picture.getpixel((2, 2)), picture.getpixel((64, 20))), ((255, 255, 255), (0, 128, 128)))
        self.assertGreater(seconds, 0)
        self.assertIn("b.svg", fidelity.paint_ours(self.folder / "b.svg")[2])

    def test_without_a_browser_it_says_what_to_install(self) -> None:
        with mock.patch.object(shutil, "which", return_value=None), mock.patch("sys.argv", ["x", str(self.folder)]):
            err = io.StringIO()
            with contextlib.redirect_stderr(err):
                self.assertEqual(fidelity.main(), 2)
        self.assertIn("apt-get install chromium", err.getvalue())

    @unittest.skipUnless(fidelity.browser(), "there is no Chromium here")
    def test_a_browser_agrees(self) -> None:
        (found,) = fidelity.compare([self.folder / "a.svg"], fidelity.browser())
        self.assertLess(found.difference, 1.0)
        self.assertEqual(fidelity.sheet([found]).height, 154)


class DemoShelf(unittest.TestCase):
    def test_its_pack_and_its_repository_can_be_used_at_once(self) -> None:
        project = shipped_demo()
        _, presets, troubles = packs.unpack(demo_shelf.write_pack(project), demo_shelf.PACK)
        self.assertEqual((len(presets), troubles), (7, ()))
        for preset in presets:
            self.assertTrue(preset.when and preset.quieter)
            self.assertGreater(picture_of(preset).duration, 0.0)
        with tempfile.TemporaryDirectory() as name:
            for _ in range(2):  # written again, it is the same
                place = demo_shelf.write_repository(project, Path(name))
            with contextlib.closing(join(Shelf(Path(name) / "mine"), str(place))) as shelf:
                self.assertEqual(len(shelf.read().presets), 4)
                self.assertEqual(len(shelf.history("Sails in")), 2)
                self.assertEqual({version.who for version in shelf.history("Sails in")}, {"Skerry Line"})


class Documents(unittest.TestCase):
    def test_the_keys_are_those_of_the_tables(self) -> None:
        self.assertEqual(keys.PATH.read_text(), keys.text(), "run python -m avelt.tools.keys")

    def test_the_checks_are_those_of_the_tables(self) -> None:
        self.assertEqual(checks_page.PATH.read_text(), checks_page.text(), "run python -m avelt.tools.checks_page")

    def test_links_lead_somewhere(self) -> None:
        for page in [ROOT / "README.md", *(ROOT / "docs").glob("*.md")]:
            for target in re.findall(r"\]\(([^)#]+)\)", page.read_text()):
                self.assertTrue((page.parent / target).exists(), f"{page.name}: {target}")

    def test_the_guide_has_every_station_and_the_readme_every_command(self) -> None:
        guide = (ROOT / "docs" / "guide.md").read_text()
        for _, word in STATIONS:
            self.assertIn(f"## {word}", guide)
        readme = (ROOT / "README.md").read_text()
        for name, _, _ in CLI_COMMANDS:
            if name != "info":
                self.assertIn(f"avelt {name}", readme)

    def test_scripts_can_be_run(self) -> None:
        for name in ("run", "test", ".ci/run"):
            self.assertTrue((ROOT / name).stat().st_mode & 0o111, name)


class Runner(unittest.TestCase):
    def test_it_says_why_it_cannot_start(self) -> None:
        self.assertEqual(run.cannot_start(), "")
        with mock.patch.dict(sys.modules, {"hypothesis": None}):
            self.assertIn("The package hypothesis is missing", run.cannot_start())
        broken = ImportError("libEGL.so.1: cannot open shared object file")
        with mock.patch("builtins.__import__", side_effect=broken):
            self.assertIn("the system library libEGL.so.1 is missing", run.cannot_start())
