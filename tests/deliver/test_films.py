"""Moving pictures: what is in the file is what was painted, for as long as it should be."""

import io
import json
import tempfile
import unittest
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from msgspec.structs import replace
from PIL import Image, ImageSequence

from avelt.core.errors import AveltError, FileError, FormatError, Stopped
from avelt.core.handoff.delivery import Wanted
from avelt.core.model.curves import Line
from avelt.core.model.motion import Pose
from avelt.core.model.tapes import Press, Release, Tape
from avelt.core.model.values import CLEAR, Frame, Loop, Project
from avelt.core.timing.compile import compile_route
from avelt.deliver.containers import changed_box
from avelt.deliver.films import Shot, film, is_clear, on_paper, picture_loop, rgba, sprite, stills
from avelt.deliver.kinds import BY_KEY, KINDS, Asked, delivery_of
from avelt.deliver.shows import cut_of, show_of
from avelt.deliver.sinks import DiskSink, MemorySink
from avelt.deliver.subjects import every_subject, file_names, find_subject, offers, subject_of
from avelt.deliver.writing import Order, write_all
from avelt.paint.letters import QtLetters
from avelt.verify.judging import decoded
from tests.support import box, oval, project_of


def on(done: int, whole: int) -> bool:
    """Never stop."""
    return True


def crossing() -> Project:
    """A red box that crosses a frame in 100 ms."""
    left, right = box("a", 0, 0, 50, 50, "#ff0000", name="C"), box("b", 150, 150, 50, 50, "#ff0000", name="C")
    return project_of((left,), (right,))


def looping(duration: float = 300.0, **own: Any) -> Project:
    """A frame with a ball that bobs."""
    ball = Loop("L", "L", "a", "bob", Pose(shift_y=40.0), duration, curve=Line(), **own)
    frame = Frame("A", "A", 80, 100, layers=(oval("a", 20, 10, 30, 30),), loops=(ball,))
    return replace(crossing(), frames=(frame, *crossing().frames[1:]), routes=())


class Cuts(unittest.TestCase):
    def test_a_motion_is_cut_at_its_rate_with_one_picture_at_the_very_end(self) -> None:
        project = crossing()
        show = show_of(compile_route(project, project.routes[0]))
        cut = cut_of(show, Wanted(fps=30.0, rest=200.0))
        self.assertEqual(len(cut.times), 4)
        self.assertAlmostEqual(cut.times[2], 2000 / 30)
        self.assertEqual(cut.times[-1], 100.0)
        self.assertAlmostEqual(cut.stays[-1], 1000 / 30 + 200)
        # Where the end lies on the grid it is not there twice.
        self.assertEqual(cut_of(show, Wanted(fps=20.0)).times, (0.0, 50.0, 100.0))

    def test_loops_close_after_whole_rounds(self) -> None:
        show = find_subject(looping(300.0), frame="A").show
        self.assertEqual((show.length, show.period), (0.0, 300.0))
        cut = cut_of(show, Wanted(fps=25.0, rounds=2))
        self.assertEqual(len(cut.times), 15)
        self.assertAlmostEqual(cut.length, 600.0)
        self.assertLess(cut.times[-1], 600.0)

    def test_what_cannot_be_made_is_refused(self) -> None:
        project = crossing()
        show = show_of(compile_route(project, project.routes[0]))
        for wanted in (
            Wanted(scale=99),
            Wanted(fps=0),
            Wanted(fps=90),
            Wanted(scale=0),
            Wanted(rounds=0),
            Wanted(rest=-1),
        ):
            with self.assertRaises(FormatError):
                picture_loop("gif", show, project, wanted, io.BytesIO(), on)
        with self.assertRaises(FormatError):
            cut_of(replace(show, length=1e9), Wanted())

    def test_only_what_changed_is_written(self) -> None:
        first = np.zeros((6, 8, 4), np.uint8)
        second = first.copy()
        second[2:4, 3:7] = 9
        self.assertEqual(changed_box(None, first), (0, 0, 8, 6))
        self.assertEqual(changed_box(first, second), (3, 2, 4, 2))
        self.assertEqual(changed_box(first, first), (0, 0, 1, 1))


class Loops(unittest.TestCase):
    def setUp(self) -> None:
        self.project = crossing()
        self.show = show_of(compile_route(self.project, self.project.routes[0]))

    def made(self, kind: str, wanted: Wanted) -> bytes:
        stream = io.BytesIO()
        picture_loop(kind, self.show, self.project, wanted, stream, on)
        return stream.getvalue()

    def painted(self, wanted: Wanted) -> list[np.ndarray]:
        shot = Shot(self.project, self.show, wanted)
        return [rgba(shot.picture(self.show, ms)) for ms in cut_of(self.show, wanted).times]

    def decoded(self, data: bytes) -> tuple[list[np.ndarray], list[float]]:
        with Image.open(io.BytesIO(data)) as image:
            found = [(np.asarray(f.convert("RGBA")), f.info["duration"]) for f in ImageSequence.Iterator(image)]
        return [picture for picture, _ in found], [stays for _, stays in found]

    def test_lossless_ones_are_to_the_pixel(self) -> None:
        for kind in ("apng", "webp"):
            for ground in (None, "none", "#88aa00"):
                wanted = Wanted(fps=40.0, scale=0.63, background=ground)
                pictures, stays = self.decoded(self.made(kind, wanted))
                painted = self.painted(wanted)
                with self.subTest(kind=kind, ground=ground):
                    self.assertEqual(len(pictures), len(painted))
                    for mine, theirs in zip(painted, pictures, strict=True):
                        seen = mine[..., 3] > 0
                        self.assertTrue((mine[seen] == theirs[seen]).all())
                        self.assertTrue((mine[..., 3] == theirs[..., 3]).all())
                    self.assertAlmostEqual(sum(stays), 125.0, delta=0.6)

    def test_a_gif_lasts_in_whole_hundredths_whose_sum_is_right(self) -> None:
        data = self.made("gif", Wanted(fps=30.0, rest=300.0))
        pictures, stays = self.decoded(data)
        self.assertEqual((data[:6], len(pictures)), (b"GIF89a", 4))
        self.assertTrue(all(v % 10 == 0 for v in stays))
        self.assertAlmostEqual(sum(stays), 4 * 1000 / 30 + 300, delta=5.0)
        for mine, theirs in zip(self.painted(Wanted(fps=30.0)), pictures, strict=True):
            self.assertLess(np.abs(mine.astype(int) - theirs.astype(int)).mean(), 2.0)

    def test_a_gif_can_be_clear_and_play_once(self) -> None:
        data = self.made("gif", Wanted(background="none", again=False))
        with Image.open(io.BytesIO(data)) as image:
            self.assertNotIn("loop", image.info)
            self.assertEqual(image.convert("RGBA").getpixel((199, 0))[3], 0)
            self.assertEqual(image.convert("RGBA").getpixel((10, 10)), (255, 0, 0, 255))
        with Image.open(io.BytesIO(self.made("gif", Wanted()))) as image:
            self.assertEqual(image.info["loop"], 0)

    def test_webp_with_loss_is_smaller(self) -> None:
        whole, lossy = self.made("webp", Wanted(fps=50.0)), self.made("webp", Wanted(fps=50.0, quality=40))
        self.assertEqual(lossy[:4] + lossy[8:12], b"RIFFWEBP")
        pictures, _ = self.decoded(lossy)
        for mine, theirs in zip(self.painted(Wanted(fps=50.0)), pictures, strict=True):
            self.assertLess(np.abs(mine.astype(int) - theirs.astype(int)).mean(), 3.0)
        self.assertNotEqual(len(whole), len(lossy))

    def test_the_same_project_gives_the_same_bytes(self) -> None:
        for kind in ("gif", "apng", "webp"):
            self.assertEqual(self.made(kind, Wanted()), self.made(kind, Wanted()))

    def test_stopping_stops(self) -> None:
        seen: list[int] = []
        with self.assertRaises(Stopped):
            picture_loop(
                "gif",
                self.show,
                self.project,
                Wanted(),
                io.BytesIO(),
                lambda done, _: bool(seen.append(done) or done < 1),
            )
        self.assertEqual(seen, [0, 1])


class ClearGrounds(unittest.TestCase):
    def test_a_clear_frame_stays_clear_where_the_kind_can_and_stands_on_white_where_not(self) -> None:
        project = crossing()
        frames = tuple(replace(frame, background=CLEAR) for frame in project.frames)
        project = replace(project, frames=frames)
        subject = find_subject(project)
        self.assertTrue(is_clear(subject.show, Wanted()))
        self.assertFalse(is_clear(subject.show, Wanted(background="#ffffff")))
        self.assertFalse(is_clear(find_subject(crossing()).show, Wanted()))
        for kind, clear in (("apng", True), ("gif", True), ("webp", True), ("mp4", False)):
            delivery = delivery_of(BY_KEY[kind], Asked(project, subject, Wanted(name="x", fps=20.0), QtLetters()))
            corner = next(iter(decoded(kind, delivery)))[190, 5]
            self.assertEqual(corner[3], 0 if clear else 255, kind)
            if not clear:
                self.assertGreaterEqual(min(corner[:3]), 250, kind)

    def test_on_paper(self) -> None:
        picture = np.array([[[0, 0, 0, 0], [10, 20, 30, 255], [0, 0, 0, 51]]], np.uint8)
        self.assertEqual(on_paper(picture).tolist(), [[[255, 255, 255], [10, 20, 30], [204, 204, 204]]])


class Films(unittest.TestCase):
    def test_films_show_what_was_painted(self) -> None:
        import av

        project = crossing()
        show = show_of(compile_route(project, project.routes[0]))
        for kind, ground in (("mp4", None), ("webm", None), ("webm", "none")):
            wanted = Wanted(fps=50.0, scale=0.505, background=ground)
            stream = io.BytesIO()
            film(kind, show, project, wanted, stream, on)
            with av.open(io.BytesIO(stream.getvalue()), "r") as found:
                track = found.streams.video[0]
                self.assertEqual((track.width, track.height), (102, 102))  # even, the edge repeated
                self.assertEqual(float(track.average_rate), 50.0)
                frames = [f.to_ndarray(format="rgb24", src_colorspace="ITU709") for f in found.decode(track)]
            self.assertEqual(len(frames), 6)
            shot = Shot(project, show, wanted)
            if ground is None:
                for ms, theirs in zip(cut_of(show, wanted).times, frames, strict=True):
                    mine = rgba(shot.picture(show, ms))[..., :3]
                    self.assertLess(np.abs(mine.astype(int) - theirs[:101, :101].astype(int)).mean(), 3.0)

    def test_pictures_on_one_sheet(self) -> None:
        project = crossing()
        show, sink = show_of(compile_route(project, project.routes[0])), MemorySink()
        wanted = Wanted(fps=40.0, scale=0.5)
        sprite(show, project, wanted, sink, on)
        found = json.loads(sink.files["sprite.json"])
        self.assertEqual((found["width"], found["height"], found["fps"], len(found["frames"])), (100, 100, 40, 5))
        shot = Shot(project, show, wanted)
        with Image.open(io.BytesIO(sink.files["sprite.png"])) as sheet:
            for spot in found["frames"]:
                part = sheet.crop((spot["x"], spot["y"], spot["x"] + 100, spot["y"] + 100))
                mine = rgba(shot.picture(show, spot["at"]))
                self.assertTrue((np.asarray(part) == mine).all())
        with self.assertRaises(FormatError):
            sprite(replace(show, length=90_000.0), project, Wanted(fps=50, scale=2), sink, on)

    def test_stills_are_numbered(self) -> None:
        project = crossing()
        show, sink = show_of(compile_route(project, project.routes[0])), MemorySink()
        stills(show, project, Wanted(fps=20.0), sink, on)
        self.assertEqual(sorted(sink.files), ["0000.png", "0001.png", "0002.png"])


class Writing(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        self.path = Path(self.folder.name)
        self.project = replace(crossing(), frames=(looping().frames[0], *crossing().frames[1:]))
        self.letters = QtLetters()

    def test_all_kinds_of_all_that_moves(self) -> None:
        project = replace(
            self.project,
            tapes=(Tape(name="By hand", events=(Press(50.0, 5.0, 5.0), Release(90.0, 5.0, 5.0)), until=300.0),),
        )
        order = Order(project, "all", tuple(BY_KEY), Wanted(fps=10.0), self.path / "new" / "out")
        written = write_all(order, self.letters, on)
        self.assertTrue(all((order.folder / name).is_file() for name in written.names))
        self.assertEqual(written.size, sum(p.stat().st_size for p in order.folder.rglob("*") if p.is_file()))
        names = set(written.names)
        self.assertLessEqual(
            {"a-to-b.gif", "a.gif", "by-hand.mp4", "a-to-b-css/index.html", "test-spec/spec.pdf"}, names
        )
        self.assertNotIn("by-hand-css/index.html", names)

    def test_nothing_is_left_when_one_fails_or_is_stopped(self) -> None:
        (self.path / "a-to-b.gif").write_bytes(b"old")
        order = Order(self.project, "route:R", ("css", "gif", "apng"), Wanted(fps=80.0), self.path)
        with self.assertRaises(AveltError) as failed:
            write_all(order, self.letters, on)
        self.assertIn("Picture loop: This kind shows", str(failed.exception))
        with self.assertRaises(Stopped):
            write_all(replace(order, wanted=Wanted()), self.letters, lambda done, whole: done < whole * 0.8)
        self.assertEqual([p.name for p in self.path.iterdir()], ["a-to-b.gif"])
        self.assertEqual((self.path / "a-to-b.gif").read_bytes(), b"old")

    def test_places_that_cannot_be_written(self) -> None:
        file = self.path / "file"
        file.write_bytes(b"")
        for target, single in ((file / "x.gif", True), (file / "folder", False), (self.path, True)):
            with self.assertRaises(FileError), DiskSink(target, single):
                pass
        full_disk = mock.patch("os.fsync", side_effect=OSError(28, "No space left on device"))
        with (
            self.assertRaises(FileError) as full,
            DiskSink(self.path / "x.gif", True) as sink,
            full_disk,
            sink.open("x.gif") as stream,
        ):
            stream.write(b"x")
        self.assertIn("No space left", str(full.exception))
        self.assertEqual([p.name for p in self.path.iterdir()], ["file"])
        with self.assertRaises(ValueError), DiskSink(self.path / "out", False) as sink, sink.open("../x"):
            pass

    def test_what_is_offered_is_what_there_is(self) -> None:
        keys = [key for key, _ in offers(self.project)]
        self.assertEqual(keys, [subject.key for subject in every_subject(self.project)])
        self.assertEqual([subject_of(self.project, key).key for key in keys], keys)
        self.assertEqual(file_names(every_subject(self.project)), ["a-to-b", "a"])
        with self.assertRaises(AveltError):
            subject_of(self.project, "part:gone")
        self.assertEqual(find_subject(replace(self.project, routes=())).name, "A")
        with self.assertRaises(AveltError):
            find_subject(replace(self.project, routes=(), frames=()))

    def test_kinds_say_what_they_are(self) -> None:
        subject = find_subject(self.project)
        for kind in KINDS:
            delivery = delivery_of(kind, Asked(self.project, subject, Wanted(name="It", fps=10.0), self.letters))
            with self.subTest(kind=kind.key):
                self.assertIn(delivery.main, delivery.files)
                self.assertEqual(len(delivery.files) == 1 or kind.ending == "", True)
                self.assertGreater(delivery.size, 100)


if __name__ == "__main__":
    unittest.main()
