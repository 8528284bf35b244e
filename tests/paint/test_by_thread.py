"""What Qt draws with is kept, and no two threads draw with the same."""

import threading
import unittest
from typing import Any

from avelt.core.timing.compile import compile_still
from avelt.core.timing.items import items
from avelt.paint import fonts
from avelt.paint.by_thread import kept_by_thread
from avelt.paint.outlines import outline_path
from avelt.window.start import application
from tests.support import box, project_of


def elsewhere(ask: Any) -> Any:
    """What another thread is given."""
    found: list[Any] = []
    thread = threading.Thread(target=lambda: found.append(ask()))
    thread.start()
    thread.join()
    return found[0]


class ByThread(unittest.TestCase):
    def setUp(self) -> None:
        application()

    def test_made_once_in_a_thread_and_again_in_another(self) -> None:
        made: list[int] = []
        keep = kept_by_thread(2)(lambda n: made.append(n) or object())
        first = keep(1)
        self.assertIs(keep(1), first)
        self.assertIsNot(elsewhere(lambda: keep(1)), first)
        self.assertIs(keep(1), first)
        self.assertEqual(made, [1, 1])
        keep(2), keep(3)
        self.assertIsNot(keep(1), first)  # two are kept

    def test_fonts_letters_and_outlines(self) -> None:
        frame = project_of((box("a", 0, 0, 30, 20),), ()).frames[0]
        item = items(compile_still(frame).at(0.0))[0]
        for ask in (
            lambda: fonts.font("sans-serif", 400, False, 0.0),
            lambda: fonts.glyphs("Pier", "sans-serif", 400, False, 0.0)[0],
            lambda: outline_path(item),
        ):
            mine = ask()
            self.assertIs(ask(), mine)
            self.assertIsNot(elsewhere(ask), mine)


if __name__ == "__main__":
    unittest.main()
