"""The one cache of Avelt: bounded, owned by whoever asks, keyed by the identity of values that it keeps alive."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

from avelt.core.turns import others_first

V = TypeVar("V")


class Cache(Generic[V]):
    """Keeps what was made from immutable values, the newest of them.

    Values are shared between edits, so identity is the cheap and right key: what an edit did not touch is found again.
    The entry holds the values, so that no id is given to another one while it counts. At most ``most`` entries are
    kept, and no more than ``room`` of what ``weigh`` says of them together; the newest stays whatever it weighs.

    >>> cache: Cache[int] = Cache(2)
    >>> value = ("a", "b")
    >>> cache.get((value,), "length", lambda: len(value)), len(cache)
    (2, 1)
    """

    def __init__(self, most: int, weigh: Callable[[V], float] = lambda _: 0.0, room: float = float("inf")) -> None:
        self._most, self._weigh, self._room = most, weigh, room
        self._kept: OrderedDict[Hashable, tuple[tuple[object, ...], V]] = OrderedDict()
        self._weight = 0.0
        self._lock = threading.Lock()  # held for the bookkeeping alone, never while something is made
        self._made, self._made_weight = 0, 0.0  # of all that was ever made

    def __len__(self) -> int:
        return len(self._kept)

    def get(self, held: tuple[object, ...], key: Hashable, make: Callable[[], V]) -> V:
        """What was made from the very values ``held`` and from ``key`` (compared), made now when it is not kept."""
        whole = (*map(id, held), key)
        kept = self._kept.get(whole)
        if kept is not None:
            try:  # noqa: SIM105 - this is asked for every layer of every picture
                self._kept.move_to_end(whole)
            except KeyError:  # another thread let it go meanwhile
                pass
            return kept[1]
        others_first()
        made = make()
        weight = self._weigh(made)
        with self._lock:
            kept = self._kept.get(whole)
            if kept is not None:  # another thread made it meanwhile: everybody gets the one that is kept
                return kept[1]
            self._kept[whole] = (held, made)
            self._weight += weight
            self._made, self._made_weight = self._made + 1, self._made_weight + weight
            while len(self._kept) > 1 and (len(self._kept) > self._most or self._weight > self._room):
                _, (_, gone) = self._kept.popitem(last=False)
                self._weight -= self._weigh(gone)
        return made

    def has(self, held: tuple[object, ...], key: Hashable) -> bool:
        """Whether something made from them is kept."""
        return (*map(id, held), key) in self._kept

    def drop(self, held: tuple[object, ...], key: Hashable) -> None:
        """Let go of something that will not be wanted again; it is as if it had never been made."""
        with self._lock:
            gone = self._kept.pop((*map(id, held), key), None)
            if gone is not None:
                weight = self._weigh(gone[1])
                self._weight -= weight
                self._made, self._made_weight = self._made - 1, self._made_weight - weight

    @property
    def filled(self) -> float:
        """How many times over it was filled since it is there: what was used when this was less by one half is kept."""
        return max(self._made / self._most, self._made_weight / self._room)

    def clear(self) -> None:
        """Keep nothing."""
        with self._lock:
            self._kept.clear()
            self._weight = 0.0
            self._made += self._most
