"""What pairing looks at: each frame's layers as arrays and normalised words."""

from __future__ import annotations

import re
from collections import Counter

from avelt.core.arrays import Floats, np
from avelt.core.blending import conversions
from avelt.core.blending.paints import mean_colour
from avelt.core.geometry.flatten import Flat, flatten
from avelt.core.model.find import by_identity
from avelt.core.model.kinds import asset_of, words_of
from avelt.core.model.values import KIND_WORDS, Frame, Group, Layer
from avelt.core.record import Record

KIND_CODE = {kind: code for code, kind in enumerate(KIND_WORDS)}
GROUP = KIND_CODE[Group]
_KIND_WORD = (
    r"(box|oval|path|text|picture|group|rect(angle)?|ellipse|circle|line|poly(gon|line)|image|layer|shape|vector"
    r"|frame|star|mask|clip|union|bitmap|g|svg|use)"
)
_GENERIC = re.compile(rf"{_KIND_WORD}?[\s_.#-]*\d+|g|svg|use|")
_BARE = re.compile(_KIND_WORD)
_COPY = re.compile(r"[\s_-]*(copy|duplicate)([\s_-]*\d+)?$")
_PARTS = re.compile(r"[\s_./-]+")


def normal_name(name: str) -> str:
    """A name without case, "copy" tails, and differences of word separators.

    >>> normal_name("Grey_Stack-Card copy 2")
    'grey stack card'
    """
    spaced = re.sub(r"(?<=[a-z])(?=[A-Z])", " ", name)
    return _PARTS.sub(" ", _COPY.sub("", spaced.casefold().strip())).strip()


def is_generic(normal: str, words: str, count: int = 1) -> bool:
    """A name that says nothing of its own: a kind with a number, or the words of the text itself. A kind alone does
    when several layers (``count``) are called so: one layer called "box" was named by somebody."""
    if bool(_GENERIC.fullmatch(normal)) or (count > 1 and bool(_BARE.fullmatch(normal))):
        return True
    return bool(words) and normal in (words, f"text '{words}'")


class Facts(Record, frozen=True):
    """One frame's layers: n rows.

    ``spot`` (n, 4) centre x, y, width, height over the frame's size, ``inner_spot`` the same over the group's;
    ``look`` (n, 5) mean fill as premultiplied OKLab with alpha, and stroke width; ``order`` (n,) place among
    siblings, 0..1; ``before`` and ``after`` (n,) its neighbours' rows or -1; ``make`` (n, kinds) how many of each kind
    lie in it, ``leaves`` (n,) how many that are no groups; ``chains`` the groups that it lies in. ``twin`` is
    what it shares with layers just like it, ``twins`` (n,) how many they are, ``twin_spot`` (n, 4) its spot among them.
    """

    flat: Flat
    names: tuple[str, ...]
    named: np.ndarray
    paths: tuple[str, ...]
    words: tuple[str, ...]
    kind: np.ndarray
    spot: Floats
    look: Floats
    order: Floats
    assets: tuple[str, ...]
    inner: tuple[frozenset[str], ...]
    inner_spot: Floats
    before: np.ndarray
    after: np.ndarray
    make: Floats
    leaves: Floats
    chains: tuple[tuple[int, ...], ...]
    twin: tuple[object, ...]
    twins: np.ndarray
    twin_spot: Floats

    @property
    def count(self) -> int:
        """How many layers."""
        return len(self.names)


def _look(layer: Layer) -> list[float]:
    paint = layer.fills[-1] if layer.fills else None
    rgba = mean_colour(paint) if paint is not None else np.zeros(4)
    width = layer.stroke.width if layer.stroke else 0.0
    return [*rgba.tolist(), width]


def _gather(frame: Frame) -> Facts:
    flat = flatten(frame)
    n = len(flat.layers)
    names = tuple(normal_name(layer.name) for layer in flat.layers)
    words = tuple(" ".join(words_of(layer).casefold().split()) for layer in flat.layers)
    counts = Counter(names)
    named = np.array([not is_generic(name, text, counts[name]) for name, text in zip(names, words, strict=True)], bool)
    paths: list[str] = []
    inner: list[set[str]] = [set() for _ in range(n)]
    siblings: dict[int, int] = {}
    for i in range(n):
        up = int(flat.parent[i])
        paths.append(f"{paths[up]}/{names[up]}" if up >= 0 else "")
        siblings[up] = siblings.get(up, 0) + 1
    for i in range(n - 1, -1, -1):
        up = int(flat.parent[i])
        if up >= 0:
            inner[up] |= inner[i]
            if named[i]:
                inner[up].add(names[i])
            if words[i]:
                inner[up].add("'" + words[i])
    order = np.array([flat.path[i][-1] / max(1, siblings[int(flat.parent[i])] - 1) for i in range(n)], float)
    look = np.array([_look(layer) for layer in flat.layers], float).reshape(n, 5)
    look[:, :4] = conversions.premultiplied_oklab(look[:, :4])
    box = flat.bounds.reshape(n, 4)
    scale = np.array([max(frame.w, 1e-9), max(frame.h, 1e-9)] * 2)
    spot = np.concatenate([box[:, :2] + box[:, 2:] / 2, box[:, 2:]], 1) / scale
    kinds = np.array([KIND_CODE[type(layer.body)] for layer in flat.layers], dtype=np.intp)
    make, leaves, chains = _insides(flat, kinds)
    before, after = _neighbours(flat)
    twin, twins, twin_spot = _twins(names, named, words, kinds, make, spot)
    return Facts(
        flat,
        names,
        named,
        tuple(paths),
        words,
        kinds,
        spot,
        look,
        order,
        tuple(asset_of(layer) for layer in flat.layers),
        tuple(frozenset(s) for s in inner),
        _inner_spots(flat, spot),
        before,
        after,
        make,
        leaves,
        chains,
        twin,
        twins,
        twin_spot,
    )


def _insides(flat: Flat, kinds: np.ndarray) -> tuple[Floats, Floats, tuple[tuple[int, ...], ...]]:
    """What lies in each layer by kind, how many of it are no groups, and the groups that each layer lies in."""
    n = len(flat.layers)
    make, leaves = np.zeros((n, len(KIND_CODE))), np.zeros(n)
    chains: list[tuple[int, ...]] = []
    for i in range(n):
        up = int(flat.parent[i])
        chains.append((*chains[up], up) if up >= 0 else ())
    for i in range(n - 1, -1, -1):
        up = int(flat.parent[i])
        if up >= 0:
            make[up] += make[i]
            make[up, kinds[i]] += 1
            leaves[up] += leaves[i] + (kinds[i] != GROUP)
    return make, leaves, tuple(chains)


def _twins(
    names: tuple[str, ...], named: np.ndarray, words: tuple[str, ...], kinds: np.ndarray, make: Floats, spot: Floats
) -> tuple[tuple[object, ...], np.ndarray, Floats]:
    """Layers that only their place tells apart: what they share, how many they are, and where each is among them."""
    n = len(names)
    keys: tuple[object, ...] = tuple(
        (int(kinds[i]), names[i] if named[i] else "", words[i], tuple(make[i].tolist())) for i in range(n)
    )
    sets: dict[object, list[int]] = {}
    for i, key in enumerate(keys):
        sets.setdefault(key, []).append(i)
    count, where = np.ones(n, np.intp), spot.copy()
    for rows in sets.values():
        if len(rows) == 1:
            continue
        middles = spot[rows, :2]
        low = middles.min(0)
        size = np.maximum(middles.max(0) - low, 1e-6)
        count[rows] = len(rows)
        # A column of rows has hardly a width: both directions are measured by the longer one.
        where[rows, :2] = (middles - low) / size.max()
    return keys, count, where


def _neighbours(flat: Flat) -> tuple[np.ndarray, np.ndarray]:
    """The sibling painted right before and right after each layer, or -1."""
    n = len(flat.layers)
    before, after = np.full(n, -1), np.full(n, -1)
    last: dict[int, int] = {}
    for i in range(n):
        up = int(flat.parent[i])
        if up in last:
            before[i], after[last[up]] = last[up], i
        last[up] = i
    return before, after


def _inner_spots(flat: Flat, spot: Floats) -> Floats:
    """Centre and size over the box of the group; over the frame's at the top."""
    up = flat.parent
    inside = up >= 0
    box = np.where(inside[:, None], spot[up], [0.5, 0.5, 1.0, 1.0])
    size = np.maximum(box[:, 2:], 1e-6)
    corner = box[:, :2] - box[:, 2:] / 2
    return np.concatenate([(spot[:, :2] - corner) / size, spot[:, 2:] / size], 1)


#: The facts of a frame, remembered by its identity.
gather = by_identity(_gather, 128)
