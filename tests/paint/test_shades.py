"""Which shadows are kept, and what they depend on."""

import unittest

from msgspec.structs import replace
from PySide6.QtGui import QTransform

from avelt.core.model.curves import Line
from avelt.core.model.values import Frame, Path, Shadow, Subpath, Transition
from avelt.core.timing.compile import compile_frames
from avelt.core.timing.items import items
from avelt.paint.kept import KeptShades
from avelt.paint.shades import shade_key
from tests.support import box


class Keeping(unittest.TestCase):
    def setUp(self) -> None:
        self.shades: KeptShades[str] = KeptShades(lambda _: 1.0)
        self.held = (object(),)
        self.made: list[str] = []

    def get(self, owner: str, key: str) -> str:
        def make() -> str:
            self.made.append(key)
            return key

        return self.shades.get(owner, self.held, key, make)

    def in_turn(self, *wanted: tuple[str, str]) -> list[str]:
        """What is made when each of them is wanted in a picture of its own."""
        for owner, key in wanted:
            self.shades.next_picture()
            self.assertEqual(self.get(owner, key), key)
        return self.made

    def test_one_that_is_wanted_again_stays(self) -> None:
        self.assertEqual(self.in_turn(("card", "a"), ("card", "a"), ("card", "b"), ("card", "a")), ["a", "b"])

    def test_one_of_a_single_picture_goes_with_the_next(self) -> None:
        self.assertEqual(self.in_turn(("card", "a"), ("card", "b"), ("card", "a")), ["a", "b", "a"])
        self.assertEqual(len(self.shades), 1)

    def test_two_at_once_of_one_owner_both_stay(self) -> None:
        for _ in range(3):
            self.shades.next_picture()
            for key in ("large", "small"):
                self.get("card", key)
        self.assertEqual(self.made, ["large", "small"])

    def test_twice_in_one_picture_is_not_again(self) -> None:
        self.shades.next_picture()
        self.get("card", "a")
        self.get("card", "a")
        self.assertEqual(self.in_turn(("card", "b"), ("card", "a")), ["a", "b", "a"])

    def test_owners_do_not_take_from_each_other(self) -> None:
        self.assertEqual(self.in_turn(("card", "a"), ("list", "b"), ("card", "a"), ("list", "b")), ["a", "b"])


class Keys(unittest.TestCase):
    def test_another_outline_of_the_same_size_has_another_shadow(self) -> None:
        def frame(ident: str, middle: float) -> Frame:
            points = (0.0, 0.0, 10.0, middle, 30.0, middle, 40.0, 40.0)
            shape = Path((Subpath(points),))
            layer = box(ident, 10, 10, 40, 40, origin="c", shadows=(Shadow("#000000", 0, 4, 5),))
            return Frame(ident, ident, 100, 100, layers=(replace(layer, body=shape),))

        program = compile_frames(None, frame("A", 0.0), frame("B", 40.0), Transition(100.0, Line()))
        keys = set()
        for ms in (20.0, 20.0, 60.0):
            (item,) = items(program.at(ms))
            self.assertEqual((item.w, item.h), (40.0, 40.0))
            keys.add(shade_key(item, QTransform(), item.shades[0]))
        self.assertEqual(len(keys), 2)


if __name__ == "__main__":
    unittest.main()
