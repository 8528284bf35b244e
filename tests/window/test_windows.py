"""Several windows of one program: each ends when it is closed, whoever opened it."""

from __future__ import annotations

import gc
import unittest
import weakref

from tests.support import WindowCase


class Windows(WindowCase, unittest.TestCase):
    demo = False

    def free(self) -> None:
        for _ in range(3):
            self.settle()
            gc.collect()

    def test_of_ten_that_are_closed_none_stays(self) -> None:
        known = []
        for k in range(10):
            other = self.window.another_window()
            for ident in ("routes", "timing", "loops")[: k % 4]:
                other.go(ident)
            known.append(weakref.ref(other))
            other.close()
            del other
        self.free()
        self.assertEqual([ref() for ref in known if ref() is not None], [])
        self.assertEqual(self.window.others, [])

    def test_one_that_another_opened_stays_when_that_is_closed(self) -> None:
        second = self.window.another_window()
        third = weakref.ref(second.another_window())
        second.close()
        del second
        self.free()
        found = third()
        self.assertIsNotNone(found)
        assert found is not None
        self.assertTrue(found.isVisible())
        self.assertEqual(self.window.others, [found])
        found.close()


if __name__ == "__main__":
    unittest.main()
