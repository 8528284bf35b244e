"""Paint order that flips: SVG paints in the order of its elements, so what changes its place is there twice."""

from __future__ import annotations

import math
from difflib import SequenceMatcher

from avelt.core.record import Record
from avelt.core.timing.program import Program

Span = tuple[float, float]


class Placed(Record, frozen=True):
    """A slot in the order of the elements, and the spans of time (ms) in which this copy of it is the one seen."""

    slot: int
    copy: int
    spans: tuple[Span, ...]


def placed(program: Program, parent: int) -> list[Placed]:
    """All children of a slot (-1: the frame) in an order that every moment's order is part of."""
    epochs = _epochs(program, parent)
    if not epochs:
        return []
    row: list[tuple[int, int]] = [(s, 0) for s in epochs[0][1]]
    seen: dict[tuple[int, int], list[Span]] = {}
    copies: dict[int, int] = {}
    now = list(row)
    for number, (start, order) in enumerate(epochs):
        end = epochs[number + 1][0] if number + 1 < len(epochs) else math.inf
        if number:
            now = _next(row, now, order, copies)
        for key in now:
            seen.setdefault(key, []).append((start, end))
    made = []
    for key in row:
        spans = _present(program, key[0], _joined(seen.get(key, [])))
        if spans:
            made.append(Placed(key[0], key[1], tuple(spans)))
    return made


def _epochs(program: Program, parent: int) -> list[tuple[float, tuple[int, ...]]]:
    """The children from moments on; the first holds from ever."""
    if program.clocks.stands or program.duration <= 0.0:
        return [(-math.inf, program.merged.after.get(parent, ()))]
    found = [(-math.inf, program.merged.before.get(parent, ()))]
    for moment, whole in program.orders:
        found.append((max(moment, 1e-6), whole.get(parent, ())))
    found.append((program.duration, program.merged.after.get(parent, ())))
    made: list[tuple[float, tuple[int, ...]]] = []
    for moment, order in found:
        if moment > program.duration:
            continue
        if made and made[-1][0] == moment:
            made.pop()
        if not made or made[-1][1] != order:
            made.append((moment, order))
    return made


def _next(
    row: list[tuple[int, int]], now: list[tuple[int, int]], order: tuple[int, ...], copies: dict[int, int]
) -> list[tuple[int, int]]:
    """The keys of the next order: what keeps its place among the others keeps its element."""
    before = [s for s, _ in now]
    kept: dict[int, tuple[int, int]] = {}
    for block in SequenceMatcher(a=before, b=list(order), autojunk=False).get_matching_blocks():
        for k in range(block.size):
            kept[order[block.b + k]] = now[block.a + k]
    made: list[tuple[int, int]] = []
    at = -1
    for s in order:
        if s in kept:
            made.append(kept[s])
            at = row.index(kept[s])
            continue
        copies[s] = copies.get(s, 0) + 1 if s in before or any(key[0] == s for key in row) else 0
        made.append((s, copies[s]))
        at += 1
        row.insert(at, made[-1])
    return made


def _joined(spans: list[Span]) -> list[Span]:
    made: list[Span] = []
    for start, end in spans:
        if made and made[-1][1] == start:
            made[-1] = (made[-1][0], end)
        else:
            made.append((start, end))
    return made


def _present(program: Program, slot: int, spans: list[Span]) -> list[Span]:
    """Without the time in which a layer that leaves is gone, or one that enters has not come."""
    if program.clocks.stands or program.duration <= 0.0:
        return spans
    entry = program.merged.slots[slot]
    low = 1e-6 if entry.left < 0 else -math.inf
    high = program.duration if entry.right < 0 else math.inf
    cut = [(max(a, low), min(b, high)) for a, b in spans]
    return [(a, b) for a, b in cut if b > a]
