"""How the data of a page is made small: numbers that go on evenly become small differences, which deflate well.

The page's script undoes it (``unfolded`` and ``View`` in player.js).
"""

from __future__ import annotations

import base64
import re
from collections.abc import Mapping, Sequence
from itertools import pairwise
from typing import Any

_NUMBER = re.compile(r"-?\d*\.?\d+(?:e[-+]?\d+)?")  # as player.js finds them
_WORDS = re.compile(r"inherit|hidden|none|#")
_AT = 10_000_000  # offsets have seven decimals
_FEW = 3  # keyframes that are not worth it
#: In place of the right layer of a slot: the same as the left one.
SAME = -2


#: Five of these digits hold four bytes, most significant first (as base85 of RFC 1924, without what ends a script or a
#: string in it).
DIGITS = "0123456789ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz!#$%,()*+-;.=>?@^_'{|}~"
_FROM_RFC = bytes.maketrans(b"&<`", b",.'")


def as_text(data: bytes) -> str:
    """Bytes as digits, a quarter longer; zeros fill the last four bytes."""
    return base64.b85encode(data, pad=True).translate(_FROM_RFC).decode()


def beside_their_likes(programs: Sequence[Mapping[str, Any]], count: int) -> list[int]:
    """The order in which programs after the first ``count`` stand behind that of the first that has most lines in
    common with them."""
    lines = [frozenset(program["m"]) for program in programs]
    behind: dict[int, list[int]] = {}
    for k in range(count, len(programs)):
        like = max(range(count), key=lambda i: len(lines[i] & lines[k]) / (len(lines[i] | lines[k]) or 1))
        behind.setdefault(like, []).append(k)
    return [place for k in range(count) for place in (k, *behind.get(k, ()))]


def differences(values: Sequence[int], times: int = 1) -> list[int]:
    """The first value, then by how much each is more than the one before; done so many times."""
    made = list(values)
    for _ in range(times):
        made = made[:1] + [b - a for a, b in pairwise(made)]
    return made


def folded(keys: list[list[Any]]) -> list[Any] | dict[str, Any]:
    """Keyframes [[offset, text, curve], ...] as columns, when their texts differ in their numbers only.

    ``{"p": what stands between the numbers, "f": decimals, "o": offsets, "c": a curve or one for each, "n": columns}``.
    """
    parts = _NUMBER.split(keys[0][1])
    if len(keys) < _FEW or len(parts) < 2 or _WORDS.match(keys[0][1]):
        return keys
    if any(_NUMBER.split(key[1]) != parts for key in keys):
        return keys
    rows = [_NUMBER.findall(key[1]) for key in keys]
    if any("e" in number for row in rows for number in row):
        return keys
    places = max(len(number.partition(".")[2]) for row in rows for number in row)
    columns = [[round(float(number) * 10**places) for number in column] for column in zip(*rows, strict=True)]
    curves = [key[2] for key in keys]
    return {
        "p": parts,
        "f": places,
        "o": differences([round(key[0] * _AT) for key in keys]),
        "c": curves[0] if len(set(curves)) == 1 else curves,
        "n": [differences(column, 2) for column in columns],
    }


def layer_columns(rows: Sequence[Sequence[int]]) -> list[list[int]]:
    """Rows (place, left, right, up, bits) of a program's layers as columns; places as differences."""
    if not rows:
        return []
    place, left, right, up, bits = (list(column) for column in zip(*rows, strict=True))
    same = [SAME if a == b else b for a, b in zip(left, right, strict=True)]
    return [differences(place), left, same, up, bits]


def channel_columns(pairs: Sequence[tuple[int, int]]) -> list[list[int]]:
    """Pairs (node, channel) as two columns of differences."""
    return [differences(column) for column in zip(*pairs, strict=True)] if pairs else []
