"""Timing two things in one run and giving their ratio: seconds differ from machine to machine, ratios less."""

from __future__ import annotations

import gc
import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass(frozen=True)
class Row:
    """One line of the table of budgets."""

    work: str
    seconds: float
    against: float
    limit: float
    faster: bool = False  # the limit is a factor by which we must be faster
    note: str = ""

    @property
    def ratio(self) -> float:
        """Ours over the yardstick, or reversed where faster is asked."""
        return self.against / self.seconds if self.faster else self.seconds / self.against

    @property
    def holds(self) -> bool:
        """Whether the budget is kept."""
        return self.ratio >= self.limit if self.faster else self.ratio <= self.limit

    def line(self) -> str:
        """The row as a line of a Markdown table."""
        sign = "≥" if self.faster else "≤"
        ours, theirs = f"{self.seconds * 1000:.3g} ms", f"{self.against * 1000:.3g} ms"
        mark = "kept" if self.holds else "NOT kept"
        limit = f"{sign} {self.limit:g}" if self.limit else "–"
        cells = (self.work, ours, theirs, f"{self.ratio:.2f}", limit, mark if self.limit else "–", self.note)
        return f"| {' | '.join(cells)} |"


HEAD = "| work | ours | yardstick | ratio | limit | | yardstick is |\n| --- | --- | --- | --- | --- | --- | --- |"


def best(work: Callable[[], object], rounds: int = 7, at_least: float = 0.05) -> float:
    """The best time of one call in seconds, over rounds of enough calls to be measured."""
    work()
    calls, passed = 1, 0.0
    while True:
        started = time.perf_counter()
        for _ in range(calls):
            work()
        passed = time.perf_counter() - started
        if passed >= at_least:
            break
        calls *= 2
    gc.disable()
    try:
        times = [passed / calls]
        for _ in range(rounds - 1):
            started = time.perf_counter()
            for _ in range(calls):
                work()
            times.append((time.perf_counter() - started) / calls)
    finally:
        gc.enable()
    return min(times)


def pair(ours: Callable[[], object], theirs: Callable[[], object], rounds: int = 5) -> tuple[float, float]:
    """Both measured in turns, so that a slow moment of the machine hits both."""
    first, second = [], []
    for _ in range(rounds):
        first.append(best(ours, 2))
        second.append(best(theirs, 2))
    return min(first), min(second)
