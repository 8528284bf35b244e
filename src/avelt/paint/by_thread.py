"""Keeping what Qt draws with, one for each thread.

Fonts and painter paths are filled in lazily by Qt where they are used, also through a const reference: one that two
threads draw with at the same time breaks the memory. So a GIF that is made in the background has its own. They are also
made one after the other: memory was once found broken while type was set in one thread and painted in another.
"""

from __future__ import annotations

import threading
from collections.abc import Callable
from functools import lru_cache
from typing import TypeVar

R = TypeVar("R")
_making = threading.RLock()


def kept_by_thread(most: int) -> Callable[[Callable[..., R]], Callable[..., R]]:
    """``functools.lru_cache``, for each thread by itself."""

    def wrap(make: Callable[..., R]) -> Callable[..., R]:
        local = threading.local()

        def found(*args: object) -> R:
            kept: Callable[..., R] | None = getattr(local, "kept", None)
            if kept is None:
                kept = local.kept = lru_cache(maxsize=most)(make)
            with _making:
                return kept(*args)

        found.__doc__ = make.__doc__
        return found

    return wrap
