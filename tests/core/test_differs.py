"""What differs between two versions of a preset, in words."""

import unittest

from msgspec.structs import replace

from avelt.core.model.curves import Spring
from avelt.core.presets.differs import differences
from avelt.core.presets.shelf import built_in
from avelt.core.presets.values import Preset


def by_name(name: str) -> Preset:
    return next(preset for preset in built_in() if preset.name == name)


class Differences(unittest.TestCase):
    def test_the_same_differs_in_nothing(self) -> None:
        for preset in built_in():
            self.assertEqual(differences(preset, preset), ())

    def test_lengths_names_and_tags(self) -> None:
        one = by_name("Bobs up")
        self.assertEqual(differences(one, replace(one, duration=900.0)), ("It lasts 900 ms, not 520 ms.",))
        self.assertEqual(
            differences(one, replace(one, name="X", tags=())), ("It is called X, not Bobs up.", "Its tags are others.")
        )

    def test_curves_and_starts(self) -> None:
        one = by_name("Bobs up")
        cue = replace(one.cues[0], curve=Spring(0.1), start=0.25)
        self.assertEqual(
            differences(one, replace(one, cues=(cue,))),
            ("Its curve is spring(0.1), not spring(0.35).", "It begins at 130 ms, not at 0 ms."),
        )

    def test_what_has_no_words_of_its_own_is_named(self) -> None:
        one = by_name("Row by row")
        assert one.stagger is not None
        other = replace(one, stagger=replace(one.stagger, reversed=True))
        self.assertEqual(differences(one, other), ("Something else in the stagger.",))


if __name__ == "__main__":
    unittest.main()
