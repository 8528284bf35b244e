"""The catalogue that comes with Avelt: every preset plays, ends at rest, says when to use it, and has a quieter one."""

import unittest
from collections import Counter

import numpy as np

from avelt.core.model.values import Project
from avelt.core.presets.adjusted import How
from avelt.core.presets.picture import picture_of
from avelt.core.presets.places import Where
from avelt.core.presets.put_on import put_preset
from avelt.core.presets.shelf import built_in, catalogue_folder, file_name
from avelt.core.presets.values import ENDING, Preset, from_json, to_json
from avelt.core.timing.loops import total_length
from avelt.core.timing.program import Program
from avelt.core.timing.rounds import seam
from avelt.tools.catalogue import catalogue
from tests.core.test_preset_kinds import scene
from tests.support import box, project_of, text

#: How many of each there are at least, of the kinds that people choose from.
LEAST = {"enter": 10, "leave": 8, "loop": 14, "stagger": 4, "curve": 10}


class Catalogue(unittest.TestCase):
    presets: tuple[Preset, ...]

    @classmethod
    def setUpClass(cls) -> None:
        cls.presets = built_in()

    def test_there_are_enough_of_each(self) -> None:
        counts = Counter(preset.kind for preset in self.presets)
        self.assertGreaterEqual(len(self.presets), 48)
        for kind, least in LEAST.items():
            self.assertGreaterEqual(counts[kind], least, kind)  # type: ignore[index]
        self.assertGreaterEqual(counts["transition"] + counts["shared"] + counts["layer motion"], 10)
        self.assertEqual(len({file_name(preset.name) for preset in self.presets}), len(self.presets))

    def test_the_files_are_those_that_the_tool_makes(self) -> None:
        made = {file_name(preset.name): to_json(preset) for preset in catalogue()}
        files = {path.name: path.read_bytes() for path in catalogue_folder().glob(f"*{ENDING}")}
        self.assertEqual(files.keys(), made.keys())
        for name, data in made.items():
            self.assertEqual(from_json(files[name], name), from_json(data, name))

    def test_the_page_is_made_from_them(self) -> None:
        page = catalogue_folder().parents[2] / "docs" / "catalogue.md"
        for preset in self.presets:
            self.assertIn(f"| **{preset.name}** |", page.read_text())
            self.assertIn(preset.when, page.read_text())

    def test_each_says_when_and_when_not(self) -> None:
        for preset in self.presets:
            with self.subTest(preset.name):
                for words in (preset.when, preset.not_when):
                    self.assertTrue(words.endswith("."))
                    self.assertGreater(len(words), 4)

    def test_each_has_a_quieter_one_of_its_kind_or_is_quiet(self) -> None:
        by_name = {preset.name: preset for preset in self.presets}
        for preset in self.presets:
            with self.subTest(preset.name):
                if not preset.quieter:
                    self.assertIn("quiet", preset.tags)
                    continue
                quieter = by_name[preset.quieter]
                self.assertEqual((quieter.kind, quieter.quieter), (preset.kind, ""))

    def test_what_is_quiet_moves_nothing_about(self) -> None:
        """A quiet way or loop changes neither place nor size nor rotation: only how much is seen of it."""
        for preset in self.presets:
            if preset.quieter or preset.kind not in ("enter", "leave", "loop"):
                continue
            with self.subTest(preset.name):
                pose = preset.absent if preset.loop is None else preset.loop.loop.offset
                assert pose is not None
                self.assertEqual((pose.shift_x, pose.shift_y, pose.rotation), (0.0, 0.0, 0.0))
                self.assertEqual((pose.scale_x, pose.scale_y), (1.0, 1.0))

    def test_each_plays(self) -> None:
        for preset in self.presets:
            with self.subTest(preset.name):
                picture = picture_of(preset)
                program, span = picture.program, picture.duration
                self.assertGreater(span, 100.0)
                seen = [_numbers(program, span * share) for share in np.linspace(0.0, 1.0, 33)]
                self.assertTrue(any(not np.allclose(seen[0], other) for other in seen))

    def test_each_ends_at_rest(self) -> None:
        for preset in self.presets:
            program, span = picture_of(preset).program, picture_of(preset).duration
            with self.subTest(preset.name):
                if preset.loop is None:
                    end = _numbers(program, span)
                    np.testing.assert_allclose(_numbers(program, span + 5000.0), end, atol=1e-6)
                    if "mechanical" not in preset.tags:  # those may jump
                        np.testing.assert_allclose(_numbers(program, span - 1e-6), end, atol=0.05)
                    continue
                loop = preset.loop.loop
                start = _numbers(program, 0.0)
                if loop.rounds:
                    np.testing.assert_allclose(_numbers(program, total_length(loop) + 1.0), start, atol=1e-6)
                else:  # an endless one closes: the end of a round is where the next begins
                    self.assertEqual(seam(preset.loop.layer, loop), ())

    def test_each_can_be_put_on_something_else(self) -> None:
        project = scene()
        pairs = {"enter": ((None, "in"),), "leave": (("t", None),)}
        for preset in self.presets:
            where = Where(("R",), pairs.get(preset.kind, (("a", "b"), ("c", "d"))))  # type: ignore[arg-type]
            if preset.kind in ("loop",):
                where = Where(frame="A", layers=("a", "c"))
            elif preset.kind in ("transition", "shared"):
                where = Where(("R",))
            target = cards() if preset.kind == "shared" else project
            with self.subTest(preset.name):
                done = put_preset(target, preset, where, How(strength=1.5, stretch=0.5))
                self.assertNotEqual(done.project, target)
                self.assertEqual(done.says, "")


def cards() -> Project:
    """A card with a title that becomes a screen with details, all of other sizes than in the catalogue."""
    return project_of(
        (box("a", 10, 90, 100, 60, name="Card"), text("t", "Skua", 20, 100, name="Title")),
        (
            box("b", 0, 0, 200, 120, name="Card"),
            text("u", "Skua", 10, 10, 24, name="Title"),
            box("d", 0, 130, 200, 60, name="Details"),
        ),
    )


def _numbers(program: Program, ms: float) -> np.ndarray:
    """All numbers of all layers of a moment."""
    return np.nan_to_num(program.from_start(ms).vector)


if __name__ == "__main__":
    unittest.main()
