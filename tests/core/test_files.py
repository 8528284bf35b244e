"""Project files: round trips, and files that are not what they say."""

import io
import os
import tempfile
import unittest
import zipfile
from pathlib import Path
from typing import Any
from unittest import mock

import msgspec
from PIL import Image

from avelt.core.edits.project import new_project
from avelt.core.errors import AveltError
from avelt.core.formats.pictures_in import read_picture
from avelt.core.formats.project_file import MIMETYPE, open_project, pack, save_project, to_json, unpack
from avelt.core.formats.screen_file import read_screen
from avelt.core.model.curves import Handles
from avelt.core.model.values import Cue, Loop, Picture, Pose, Transition
from avelt.demo.build import build_demo
from tests.support import box, project_of

replace = msgspec.structs.replace


def png(w: int = 4, h: int = 3) -> bytes:
    """A small picture's bytes."""
    buffer = io.BytesIO()
    Image.new("RGB", (w, h), "teal").save(buffer, "PNG")
    return buffer.getvalue()


def archive(entries: dict[str, bytes]) -> bytes:
    """A ZIP of entries."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as made:
        for name, data in entries.items():
            made.writestr(name, data)
    return buffer.getvalue()


class RoundTrips(unittest.TestCase):
    def test_the_demo_comes_back_the_same(self) -> None:
        project = build_demo()
        self.assertEqual(unpack(pack(project), "x"), project)

    def test_the_same_project_gives_the_same_bytes(self) -> None:
        project = build_demo()
        self.assertEqual(pack(project), pack(project))

    def test_assets_lie_beside_under_their_hash(self) -> None:
        asset = read_picture(png(), "a.png")
        layer = box("p", 0, 0, 4, 3, body=Picture(asset.id))
        project = replace(project_of((layer,), ()), assets=(asset,))
        data = pack(project, b"PREVIEW")
        with zipfile.ZipFile(io.BytesIO(data)) as made:
            names = made.namelist()
            self.assertEqual(names[0], "mimetype")
            self.assertEqual(made.getinfo("mimetype").compress_type, zipfile.ZIP_STORED)
            self.assertIn(f"assets/{asset.id}.png", names)
            self.assertNotIn(b"data", made.read("project.json"))
        self.assertEqual(unpack(data, "x"), project)


class BadFiles(unittest.TestCase):
    def refuse(self, data: bytes, words: str) -> None:
        with self.assertRaises(AveltError) as caught:
            unpack(data, "bad.avelt")
        self.assertIn(words, str(caught.exception))
        self.assertNotIn("\n", str(caught.exception))

    def with_json(self, text: bytes) -> bytes:
        return archive({"mimetype": MIMETYPE, "project.json": text})

    def test_foreign_empty_and_truncated(self) -> None:
        whole = pack(build_demo())
        self.refuse(b"", "not an Avelt project")
        self.refuse(b"hello", "not an Avelt project")
        self.refuse(archive({"word/document.xml": b"x"}), "not an Avelt project")
        for share in (0.1, 0.5, 0.9, 0.999):
            self.refuse(whole[: int(len(whole) * share)], "bad.avelt")
        self.refuse(archive({"mimetype": MIMETYPE}), "no project")

    def test_damage_inside_is_found(self) -> None:
        whole = bytearray(pack(build_demo()))
        start = whole.index(b"project.json")
        for at in range(start + 30, len(whole) - 400, len(whole) // 60):
            with self.subTest(at):
                bad = bytearray(whole)
                bad[at] ^= 0xFF
                self.refuse(bytes(bad), "bad.avelt")

    def test_newer_and_wrong_formats(self) -> None:
        self.refuse(self.with_json(b'{"name":"a","format":99}'), "newer Avelt")
        self.refuse(self.with_json(b'{"name":"a","format":0}'), "format 0")
        self.refuse(self.with_json(b'{"name":3}'), "$.name")
        self.refuse(self.with_json(b"[1, 2"), "not an Avelt project")
        self.refuse(self.with_json(b'{"name":"a","first":"gone"}'), "gone")
        self.refuse(self.with_json(b"[" * 100_000), "bad.avelt")

    def test_bombs_are_not_unpacked(self) -> None:
        self.refuse(archive({"mimetype": MIMETYPE, "project.json": b" " * (200 * 2**20)}), "too much")
        self.refuse(archive({"mimetype": MIMETYPE, **{f"x{k}": b"" for k in range(5001)}}), "too many")

    def test_what_does_not_hold_together_is_named_with_its_place(self) -> None:
        good = project_of((box("a", 0, 0, 9, 9),), (box("b", 0, 0, 9, 9),))
        frame, route = good.frames[0], good.routes[0]

        def frames(layer: Any) -> Any:
            return replace(good, frames=(replace(frame, layers=(layer,)), good.frames[1]))

        def transition(**own: Any) -> Any:
            return replace(good, routes=(replace(route, transition=Transition(**own)),))

        loop = Loop("O1", "O1", "nobody", "loop", Pose())
        cases = (
            (frames(replace(frame.layers[0], w=-4.0)), "frames[0].layers[0].w"),
            (frames(replace(frame.layers[0], x=1e30)), "layers[0].x"),
            (frames(replace(frame.layers[0], opacity=2.0)), "opacity"),
            (frames(replace(frame.layers[0], id="b")), "twice"),
            (frames(replace(frame.layers[0], body=Picture("none"))), "asset"),
            (
                frames(
                    replace(
                        frame.layers[0],
                        fills=(
                            msgspec.convert({"paint": "solid", "color": "goo"}, type=type(frame.layers[0].fills[0])),
                        ),
                    )
                ),
                "colour",
            ),
            (replace(good, routes=(replace(route, arrives="Z"),)), "routes[0].arrives"),
            (replace(good, routes=(route, route)), "routes[1].id"),
            (transition(duration=-1.0), "duration"),
            (transition(cues=(Cue("a", "b", "", 5.0, -2.0),)), "cues[0]"),
            (transition(cues=(Cue("a", "b", "", curve=Handles(2, 0, 0, 1)),)), "curve"),
            (replace(good, frames=(replace(frame, loops=(loop,)), good.frames[1])), "loops[0].layer"),
            (replace(good, first="Z"), "first"),
        )
        for project, words in cases:
            with self.subTest(words):
                self.refuse(self.with_json(to_json(project)), words)

    def test_a_missing_or_exchanged_picture(self) -> None:
        asset = read_picture(png(), "a.png")
        project = replace(project_of((box("p", 0, 0, 4, 3, body=Picture(asset.id)),), ()), assets=(asset,))
        self.refuse(self.with_json(to_json(project)), "missing")
        other = archive({"mimetype": MIMETYPE, "project.json": to_json(project), f"assets/{asset.id}.png": png(9, 9)})
        self.refuse(other, "damaged")


class Saving(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        self.path = Path(self.folder.name) / "a.avelt"

    def test_save_and_open(self) -> None:
        save_project(new_project("Mine"), self.path)
        self.assertEqual(open_project(self.path), new_project("Mine"))

    def test_a_full_disk_leaves_the_old_file_whole(self) -> None:
        save_project(new_project("Old"), self.path)
        full = mock.patch("avelt.core.formats.disk.os.fsync", side_effect=OSError(28, "No space left on device"))
        with full, self.assertRaises(AveltError) as caught:
            save_project(build_demo(), self.path)
        self.assertIn("No space left", str(caught.exception))
        self.assertEqual(open_project(self.path).name, "Old")
        self.assertEqual(os.listdir(self.folder.name), ["a.avelt"])

    def test_places_that_cannot_be_used(self) -> None:
        for path in (Path(self.folder.name) / "no" / "a.avelt", Path(self.folder.name)):
            with self.assertRaises(AveltError):
                save_project(new_project("x"), path)
        with self.assertRaises(AveltError) as caught:
            open_project(Path(self.folder.name) / "nothing.avelt")
        self.assertIn("no such file", str(caught.exception))


class PictureFiles(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)

    def write(self, name: str, data: bytes) -> Path:
        path = Path(self.folder.name) / name
        path.write_bytes(data)
        return path

    def test_pictures_become_frames(self) -> None:
        for kind, name in (("PNG", "a.png"), ("JPEG", "b.jpg"), ("WEBP", "c.webp")):
            buffer = io.BytesIO()
            Image.new("RGB", (30, 20), "teal").save(buffer, kind)
            imported = read_screen(self.write(name, buffer.getvalue()))
            self.assertEqual((imported.frame.w, imported.frame.h, imported.frame.name), (30, 20, name[0]))
            self.assertEqual(imported.frame.layers[0].body.asset, imported.assets[0].id)

    def test_orientation_is_respected(self) -> None:
        picture = Image.new("RGB", (30, 20), "teal")
        exif = Image.Exif()
        exif[0x0112] = 6
        buffer = io.BytesIO()
        picture.save(buffer, "JPEG", exif=exif)
        imported = read_screen(self.write("turned.jpg", buffer.getvalue()))
        self.assertEqual((imported.frame.w, imported.frame.h), (20, 30))

    def test_what_is_no_picture(self) -> None:
        for name, data in (("a.png", b"not a picture"), ("b.png", png()[:40]), ("c.txt", b"hello"), ("d.jpg", b"")):
            with self.subTest(name), self.assertRaises(AveltError) as caught:
                read_screen(self.write(name, data))
            self.assertIn(name, str(caught.exception))


class Schemas(unittest.TestCase):
    def test_the_written_schemas_are_those_of_the_types(self) -> None:
        from avelt.tools.schemas import files

        for path, text in files().items():
            self.assertEqual(path.read_text(), text, "run python -m avelt.tools.schemas")
