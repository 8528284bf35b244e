"""Which couples of layers are looked at at all.

Small frames: all of them. Large ones: those that share a name, words, a picture or a place in a like tree,
those with near names, and the nearest in space, so that the work grows with the number of layers.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable

from avelt.core.arrays import np
from avelt.core.pairing.facts import GROUP, Facts

ALL_BELOW = 40_000  # couples; up to this many are all looked at
_SHARED = 6  # couples per layer from one shared key: the nearest in order
_NEAREST = 4
_NEAR_NAMES = 400  # distinct names on a side up to which near misses are searched


def couples(a: Facts, b: Facts, left: np.ndarray, right: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Index arrays (i, j) of couples between the given rows; a group never meets what is none."""
    found: list[np.ndarray] = []
    for groups in (True, False):
        p, q = left[(a.kind[left] == GROUP) == groups], right[(b.kind[right] == GROUP) == groups]
        if not len(p) or not len(q):
            continue
        if len(p) * len(q) <= ALL_BELOW:
            found.append(np.stack(np.meshgrid(p, q, indexing="ij"), -1).reshape(-1, 2))
        else:
            found.append(_sparse(a, b, p, q))
    if not found:
        return np.zeros(0, np.intp), np.zeros(0, np.intp)
    edges = np.concatenate(found)
    return edges[:, 0], edges[:, 1]


def _sparse(a: Facts, b: Facts, p: np.ndarray, q: np.ndarray) -> np.ndarray:
    chunks = [
        _by_key(_keys(a.names, p, a.named), _keys(b.names, q, b.named), p, q),
        _by_key(_keys(a.words, p), _keys(b.words, q), p, q),
        _by_key(_keys(a.assets, p), _keys(b.assets, q), p, q),
        _nearest(a, b, p, q),
        _near_names(a, b, p, q),
    ]
    edges = np.concatenate([chunk for chunk in chunks if len(chunk)] or [np.zeros((0, 2), np.intp)])
    code = np.unique(edges[:, 0] * b.count + edges[:, 1])
    return np.stack([code // b.count, code % b.count], -1)


def _keys(values: tuple[str, ...], rows: np.ndarray, wanted: np.ndarray | None = None) -> list[str]:
    return [values[r] if wanted is None or wanted[r] else "" for r in rows]


def _by_key(left: list[str], right: list[str], p: np.ndarray, q: np.ndarray) -> np.ndarray:
    """Couples of one key; where many share it, those nearest in order among them."""
    groups: dict[str, list[int]] = defaultdict(list)
    for row, key in zip(q.tolist(), right, strict=True):
        if key:
            groups[key].append(row)
    seen: dict[str, int] = defaultdict(int)
    edges: list[tuple[int, int]] = []
    for row, key in zip(p.tolist(), left, strict=True):
        others: Iterable[int] = groups.get(key, ()) if key else ()
        others = list(others)
        if not others:
            continue
        place = seen[key]
        seen[key] += 1
        low = max(0, min(place - _SHARED // 2, len(others) - _SHARED))
        edges += [(row, other) for other in others[low : low + _SHARED]]
    return np.array(edges, np.intp).reshape(-1, 2)


def _nearest(a: Facts, b: Facts, p: np.ndarray, q: np.ndarray) -> np.ndarray:
    """Each layer's nearest of the same kind, by spot, size and look."""
    from scipy.spatial import cKDTree  # loaded with the first large frame: see engine._match

    chunks = []
    for kind in np.unique(a.kind[p]):
        rows, others = p[a.kind[p] == kind], q[b.kind[q] == kind]
        if not len(rows) or not len(others):
            continue
        tree = cKDTree(np.concatenate([b.spot[others], b.look[others, :4] * 0.5], 1))
        count = min(_NEAREST, len(others))
        _, near = tree.query(np.concatenate([a.spot[rows], a.look[rows, :4] * 0.5], 1), k=count)
        near = near.reshape(len(rows), count)
        chunks.append(np.stack([np.repeat(rows, count), others[near.ravel()]], -1))
    return np.concatenate(chunks) if chunks else np.zeros((0, 2), np.intp)


def _near_names(a: Facts, b: Facts, p: np.ndarray, q: np.ndarray) -> np.ndarray:
    """Layers whose names differ by a letter or two, among names that the other side does not have."""
    left: dict[str, list[int]] = defaultdict(list)
    right: dict[str, list[int]] = defaultdict(list)
    for facts, rows, into in ((a, p, left), (b, q, right)):
        for row in rows.tolist():
            if facts.named[row]:
                into[facts.names[row]].append(row)
    first, second = sorted(set(left) - set(right)), sorted(set(right) - set(left))
    if not first or not second or len(first) > _NEAR_NAMES or len(second) > _NEAR_NAMES:
        return np.zeros((0, 2), np.intp)
    from rapidfuzz import process
    from rapidfuzz.distance import Levenshtein

    alike = process.cdist(first, second, scorer=Levenshtein.normalized_similarity, score_cutoff=0.7)
    edges = [
        (row, other)
        for u, v in zip(*np.nonzero(alike), strict=True)
        for row in left[first[u]][:_SHARED]
        for other in right[second[v]][:_SHARED]
    ]
    return np.array(edges, np.intp).reshape(-1, 2)
