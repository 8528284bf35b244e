"""The cache: by identity, bounded, and never for a value that is gone."""

from __future__ import annotations

import gc
import threading
import unittest
from pathlib import Path

import avelt
from avelt.core.cache import Cache
from avelt.core.record import Record, lazy


class Threads(unittest.TestCase):
    def test_two_that_miss_at_a_time_get_one_object_and_count_it_once(self) -> None:
        cache: Cache[list[int]] = Cache(8, weigh=len, room=100.0)
        held = (["a"],)
        both = threading.Barrier(2, timeout=30)

        def make() -> list[int]:
            both.wait()  # neither goes on before the other makes it, too
            return [1, 2, 3]

        found: list[list[int]] = []
        threads = [threading.Thread(target=lambda: found.append(cache.get(held, "x", make))) for _ in range(2)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(30)
        self.assertIs(found[0], found[1])
        self.assertAlmostEqual(cache.filled, max(1 / 8, 3 / 100))

    def test_what_is_worked_out_once_keeps_nobody_from_another_instance(self) -> None:
        begun, go_on = threading.Event(), threading.Event()

        class Slow(Record, frozen=True):
            waits: bool

            @lazy
            def value(self) -> list[int]:
                if self.waits:
                    begun.set()
                    self_waits = go_on.wait(30)
                    assert self_waits
                return [1]

        slow, quick = Slow(True), Slow(False)
        thread = threading.Thread(target=lambda: slow.value)
        thread.start()
        self.assertTrue(begun.wait(30))
        self.assertEqual(quick.value, [1])  # while the other is still being worked out
        go_on.set()
        thread.join(30)
        self.assertIs(slow.value, slow.value)
        self.assertIs(quick.value, quick.value)

    def test_every_property_that_is_kept_is_one_without_a_lock(self) -> None:
        source = Path(avelt.__file__).parent
        found = [path.name for path in source.rglob("*.py") if "import cached_property" in path.read_text()]
        self.assertEqual(found, [])


class Kept(unittest.TestCase):
    def test_the_very_value_counts_not_an_equal_one(self) -> None:
        cache: Cache[int] = Cache(8)
        one, other = ["a"], ["a"]
        made: list[int] = []

        def make() -> int:
            made.append(len(made))
            return made[-1]

        self.assertEqual([cache.get((one,), "x", make) for _ in range(3)], [0, 0, 0])
        self.assertEqual(cache.get((other,), "x", make), 1)
        self.assertEqual(cache.get((one,), "y", make), 2)
        self.assertEqual(cache.get((one, other), "x", make), 3)

    def test_the_oldest_goes_and_what_was_asked_for_stays(self) -> None:
        cache: Cache[int] = Cache(2)
        values = [[k] for k in range(3)]
        for k in (0, 1, 0, 2):
            cache.get((values[k],), None, lambda k=k: k)  # type: ignore[misc]
        self.assertEqual(len(cache), 2)
        self.assertEqual(cache.get((values[0],), None, lambda: 9), 0)
        self.assertEqual(cache.get((values[1],), None, lambda: 9), 9)

    def test_weight_is_bounded_too_and_the_newest_stays(self) -> None:
        cache: Cache[int] = Cache(10, weigh=float, room=10.0)
        values = [[k] for k in range(4)]
        for k, size in enumerate((4, 4, 4)):
            cache.get((values[k],), None, lambda size=size: size)  # type: ignore[misc]
        self.assertEqual(len(cache), 2)
        self.assertEqual(cache.get((values[3],), None, lambda: 50), 50)
        self.assertEqual(len(cache), 1)

    def test_what_was_used_half_a_filling_ago_is_kept(self) -> None:
        for room, size in ((float("inf"), 1), (60.0, 10)):
            cache: Cache[int] = Cache(8, weigh=float, room=room)
            first = [0]
            cache.get((first,), None, lambda size=size: size)  # type: ignore[misc]
            then, values = cache.filled, [[k] for k in range(8)]
            for value in values:
                if cache.filled - then > 0.5:
                    break
                self.assertTrue(cache.has((first,), None))
                cache.get((value,), None, lambda size=size: size)  # type: ignore[misc]
            else:
                self.fail("it was never filled")
            cache.clear()
            self.assertGreater(cache.filled - then, 0.5)

    def test_what_is_dropped_counts_as_if_it_had_never_been_made(self) -> None:
        cache: Cache[int] = Cache(8, weigh=float, room=60.0)
        first, second = [0], [1]
        cache.get((first,), None, lambda: 20)
        filled = cache.filled
        cache.get((second,), None, lambda: 30)
        cache.drop((second,), None)
        cache.drop((second,), None)
        self.assertEqual((len(cache), cache.filled, cache.has((second,), None)), (1, filled, False))
        cache.get((second,), None, lambda: 40)
        self.assertEqual(len(cache), 2)  # there is room for it

    def test_an_id_that_is_given_again_is_not_taken_for_the_old_value(self) -> None:
        cache: Cache[str] = Cache(4)
        for k in range(200):
            value = [k]
            self.assertEqual(cache.get((value,), None, lambda k=k: f"of {k}"), f"of {k}")  # type: ignore[misc]
            del value
            gc.collect(0)

    def test_cleared(self) -> None:
        cache: Cache[int] = Cache(2)
        value = object()
        cache.get((value,), None, lambda: 1)
        cache.clear()
        self.assertEqual((len(cache), cache.get((value,), None, lambda: 2)), (0, 2))
