"""Projects from outside with effects: what is sound is read again as it was, what is not is named by its place."""

import unittest
from typing import Any

import msgspec

from avelt.core.edits.clip import Clip, copied, from_bytes, pictures_in, to_bytes
from avelt.core.edits.frames import next_state
from avelt.core.edits.project import new_project
from avelt.core.edits.shapes import (
    add_picture,
    add_swatch,
    new_frame,
    remove_swatch,
    set_background,
    set_frame_clips,
    set_frame_size,
    set_perspective,
    used_colours,
)
from avelt.core.errors import AveltError, EditError, FormatError
from avelt.core.formats.checked import check
from avelt.core.formats.pictures_in import data_link, read_picture
from avelt.core.formats.project_file import from_json, pack, to_json, unpack
from avelt.core.formats.report import report_of
from avelt.core.model.find import layer_index
from avelt.core.model.values import (
    Conic,
    Frame,
    Layer,
    Note,
    Pattern,
    Picture,
    Radial,
    Shadow,
    Solid,
    Source,
    Stop,
    Stroke,
)
from tests.core.test_svg_in import EmbeddedPictures
from tests.support import box, group, project_of

replace = msgspec.structs.replace
ENDS = (Stop(0, "#ff0000"), Stop(1, "#0000ff"))


def picture() -> Any:
    return read_picture(data_link(f"data:image/png;base64,{EmbeddedPictures.PIXEL}"), "pixel")


def rich() -> Any:
    """A project that has everything that is new."""
    asset = picture()
    tile = Pattern((Layer("t", "t", "t", Picture(asset.id), w=4, h=4),), 4, 4)
    look = replace(
        box("a", 1, 2, 30, 40, rotation_x=20.0, rotation_y=-30.0, blend="overlay", blur=2.0, back_blur=3.0),
        fills=(Conic(ENDS), tile),
        shadows=(Shadow("#00000080", 1, 2, 3), Shadow("#ffffff", inner=True)),
        stroke=Stroke(Solid("#000000"), 2, trim_start=0.1, trim_end=0.6, trim_offset=0.2, under=True),
    )
    source = Source("a.svg", "x", "List", (look,), (Note("left out", "a thing", "g", 4),), (200.0, 200.0), "#eeeeee")
    project = project_of((look, group("g", 0, 0, (box("b", 0, 0, 5, 5),))), ())
    frame = replace(
        project.frames[0], source=source, perspective=500.0, isolates=True, guides_x=(10.0, 20.0), guides_y=(5.0,)
    )
    return replace(project, frames=(frame, project.frames[1]), assets=(asset,), swatches=("#ff0000",), grid=4.0)


class RoundTrips(unittest.TestCase):
    def test_everything_is_read_again_as_it_was(self) -> None:
        project = rich()
        self.assertEqual(unpack(pack(project), "x"), project)

    def test_older_files_have_the_defaults(self) -> None:
        project = project_of((box("a", 0, 0, 5, 5),), ())
        text = to_json(project)
        for word in (b"blend", b"shadows", b"perspective", b"trim", b"swatches", b"grid"):
            self.assertNotIn(word, text)
        self.assertEqual(from_json(text, "x").frames[0].layers[0].blend, "normal")

    def test_the_report_is_read_from_the_project(self) -> None:
        report = report_of(unpack(pack(rich()), "x").frames[0])
        self.assertEqual((report.file, report.counts), ("a.svg", {"box": 1}))
        self.assertIn("left out: a thing (g, line 4)", report.lines()[1])
        self.assertEqual(report_of(Frame("F", "F")).notes, ())

    def test_pictures_of_patterns_go_along_when_layers_are_copied(self) -> None:
        project = rich()
        clip = copied(project, "A", ["a"])
        self.assertEqual({asset.id for asset in clip.assets}, pictures_in(clip.layers))
        self.assertEqual(from_bytes(to_bytes(clip)), clip)
        with self.assertRaises(AveltError):
            from_bytes(to_bytes(Clip(clip.layers, ())))


class Refusals(unittest.TestCase):
    def refuse(self, place: str, **changes: Any) -> None:
        project = rich()
        layer = replace(project.frames[0].layers[0], **changes)
        frame = replace(project.frames[0], layers=(layer,))
        with self.assertRaises(FormatError) as caught:
            check(replace(project, frames=(frame, project.frames[1])))
        self.assertIn(place, str(caught.exception))

    def test_numbers_of_effects(self) -> None:
        self.refuse("blur", blur=-1.0)
        self.refuse("back_blur", back_blur=float("inf"))
        self.refuse("rotation_y", rotation_y=float("nan"))
        self.refuse("shadows[0].blur", shadows=(Shadow("#000000", 0, 0, -2.0),))
        self.refuse("shadows[0].color", shadows=(Shadow("shadow", 0, 0, 2.0),))
        self.refuse("shadows[0]", shadows=(Shadow("#000000", 1e9),))
        self.refuse("stroke.trim_end", stroke=Stroke(Solid("#000000"), trim_end=float("nan")))

    def test_paints(self) -> None:
        self.refuse("fills[0]", fills=(Conic(()),))
        self.refuse("fills[0].focus", fills=(Radial(ENDS, focus=(float("nan"), 0.0)),))
        self.refuse("fills[0].w", fills=(Pattern((), 0.0, 5.0),))
        self.refuse("fills[0].matrix", fills=(Pattern((), 5.0, 5.0, (1, 0, 0, 1, float("inf"), 0)),))
        self.refuse("fills[0].layers[0]", fills=(Pattern((box("t", 0, 0, float("nan"), 1),), 5.0, 5.0),))
        missing = Layer("t", "t", "t", Picture("nowhere"), w=4, h=4)
        self.refuse("not in the file", fills=(Pattern((missing,), 5.0, 5.0),))

    def test_frames_sources_and_the_project(self) -> None:
        project = rich()
        frame = project.frames[0]
        for place, other in (
            ("perspective", replace(frame, perspective=-1.0)),
            ("guides", replace(frame, guides_x=(float("nan"),))),
            ("source.base", replace(frame, source=replace(frame.source, base=(box("z", float("inf"), 0, 1, 1),)))),
        ):
            with self.subTest(place), self.assertRaises(FormatError) as caught:
                check(replace(project, frames=(other, project.frames[1])))
            self.assertIn(place, str(caught.exception))
        for changes, place in (({"swatches": ("redd",)}, "swatches[0]"), ({"grid": -1.0}, "grid")):
            with self.subTest(place), self.assertRaises(FormatError) as caught:
                check(replace(project, **changes))
            self.assertIn(place, str(caught.exception))


class FramesAndColours(unittest.TestCase):
    def test_frames_are_made_and_set(self) -> None:
        project, ident = new_frame(new_project("P"), "Pass", 300, 500)
        self.assertEqual((project.first, project.frames[0].w), (ident, 300))
        project, second = new_frame(project, "Pass", 300, 500)
        self.assertEqual(project.frames[1].name, "Pass 2")
        project = set_frame_size(project, second, 320, 480)
        project = set_background(project, second, "rebeccapurple")
        project = set_perspective(project, second, -5)
        project = set_frame_clips(project, second, False)
        frame = project.frames[1]
        self.assertEqual((frame.w, frame.background, frame.perspective, frame.clips), (320, "#663399", 0, False))
        for size in ((0, 5), (5, 1e9)):
            with self.assertRaises(EditError):
                set_frame_size(project, second, *size)
        with self.assertRaises(FormatError):
            set_background(project, second, "sea")

    def test_swatches_are_kept_once(self) -> None:
        project = add_swatch(add_swatch(new_project("P"), "#F00"), "red")
        self.assertEqual(project.swatches, ("#ff0000",))
        self.assertEqual(remove_swatch(project, "#ff0000").swatches, ())

    def test_the_most_used_colours_come_first(self) -> None:
        layers = tuple(box(f"l{k}", 0, 0, 5, 5, "#112233" if k % 3 else "#445566") for k in range(7))
        self.assertEqual(used_colours(project_of(layers, ()))[:2], ("#112233", "#445566"))

    def test_a_picture_larger_than_its_frame_is_made_to_fit(self) -> None:
        asset = replace(picture(), w=800, h=400)
        project, ident = add_picture(project_of((), ()), "A", asset, "Sea", 0, 0)
        layer = layer_index(project.frames[0])[ident]
        self.assertEqual((layer.w, layer.h, project.assets), (200, 100, (asset,)))
        again, _ = add_picture(project, "A", asset, "Sea", 0, 0)
        self.assertEqual(len(again.assets), 1)

    def test_a_next_state_has_no_file_of_its_own(self) -> None:
        project = rich()
        made = next_state(project, "A").frames[1]
        self.assertIsNone(made.source)
        self.assertEqual((made.perspective, made.guides_x), (500.0, (10.0, 20.0)))
