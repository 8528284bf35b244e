"""Evidence for two layers being one thing: each kind of it 0..1, or not applicable (NaN).

All scores are arrays over edges (i, j): layer i of the frame left, layer j of the frame arrived at.
"""

from __future__ import annotations

from collections import Counter

from avelt.core.arrays import Floats, np
from avelt.core.pairing.facts import GROUP, Facts
from avelt.core.turns import others_first

#: How much each kind of evidence weighs. The one table to tune.
WEIGHTS = {
    "name": 3.0,
    "name path": 0.8,
    "kind": 1.0,
    "text": 2.5,
    "look": 1.2,
    "inside": 2.8,
    "made of": 0.8,
    "place in the tree": 1.4,
    "shape and spot": 1.6,
}
KINDS = tuple(WEIGHTS)
#: How much of its weight a kind keeps where it says no. A name or words that are the same say more for two layers than
#: other ones say against them: people rename and translate.
AGAINST = {"name": 0.34, "text": 0.4, "look": 0.75, "inside": 0.7}
ONLY_NAME, ONLY_WORDS = 0.25, 0.12
_MANY_ALIKE = 3
WEIGHT = np.array([WEIGHTS[kind] for kind in KINDS])
NAME, PATH, KIND, TEXT, LOOK, INSIDE, MADE, TREE, SPOT = range(len(KINDS))
_KEEPS = np.array([AGAINST.get(kind, 1.0) for kind in KINDS])


def scores(a: Facts, b: Facts, i: np.ndarray, j: np.ndarray, partner: np.ndarray, taken: np.ndarray) -> Floats:
    """Evidence (edges, kinds). ``partner`` (n,) is the pair found so far for each layer left, or -1;
    ``taken`` (m,) the same seen from the other frame."""
    return placed(a, b, i, j, lasting(a, b, i, j), partner, taken)


def placed(
    a: Facts, b: Facts, i: np.ndarray, j: np.ndarray, marks: Floats, partner: np.ndarray, taken: np.ndarray
) -> Floats:
    """The lasting evidence with what follows from the pairs that are found so far."""
    others_first()
    out = marks.copy()
    if not len(i):
        return out
    rows = np.flatnonzero((a.kind[i] == GROUP) & (b.kind[j] == GROUP))
    if len(rows):
        shared = _shared_inside(a, b, i[rows], j[rows], partner)
        out[rows, INSIDE] = np.fmax(out[rows, INSIDE], shared)
    out[:, TREE] = _tree_likeness(a, b, i, j, partner, taken)
    others_first()
    out[:, SPOT] = _spot_likeness(a, b, i, j, partner)
    return out


def lasting(a: Facts, b: Facts, i: np.ndarray, j: np.ndarray) -> Floats:
    """The evidence (edges, kinds) that does not depend on what is paired already; the rest is not applicable yet."""
    out = np.full((len(i), len(KINDS)), np.nan)
    if not len(i):
        return out
    both_named = a.named[i] & b.named[j]
    out[:, NAME] = np.where(both_named, word_likeness(a.names, b.names, i, j), np.nan)
    others_first()
    path_a, path_b = np.array(a.paths, object)[i], np.array(b.paths, object)[j]
    out[:, PATH] = np.where(both_named & (path_a != "") & (path_b != ""), path_a == path_b, np.nan)
    out[:, KIND] = _kind_likeness(a.kind[i], b.kind[j])
    has_text = np.array([bool(w) for w in a.words])[i] & np.array([bool(w) for w in b.words])[j]
    rows = np.flatnonzero(has_text)
    out[rows, TEXT] = word_likeness(a.words, b.words, i[rows], j[rows])
    others_first()
    out[:, LOOK] = _look_likeness(a, b, i, j)
    rows = np.flatnonzero((a.kind[i] == GROUP) & (b.kind[j] == GROUP))
    rare = _rareness(a, b) if len(rows) else {}
    out[rows, INSIDE] = [_overlap(a.inner[p], b.inner[q], rare) for p, q in zip(i[rows], j[rows], strict=True)]
    out[rows, MADE] = _alike_counts(a.make[i[rows]], b.make[j[rows]])
    return out


def total(evidence: Floats) -> Floats:
    """The weighted mean of what applies, (edges,)."""
    known = np.nan_to_num(evidence)
    weight = np.where(np.isnan(evidence), 0.0, WEIGHT * (_KEEPS + (1.0 - _KEEPS) * known))
    return np.asarray((known * weight).sum(-1) / np.maximum(weight.sum(-1), 1e-9))


def only_ones(a: Facts, b: Facts, i: np.ndarray, j: np.ndarray) -> Floats:
    """What is added (edges,) where both are the only layer of a name in their frame, or of some words.

    A name that stands once on either side is as good as a signature; the weighted mean alone would let
    two fair pairs outweigh it.
    """
    name_a, name_b = _once(a.names), _once(b.names)
    words_a, words_b = _once(a.words), _once(b.words)
    others_first()
    names_left, names_right = np.array(a.names, object)[i], np.array(b.names, object)[j]
    texts_left, texts_right = np.array(a.words, object)[i], np.array(b.words, object)[j]
    same_name = (names_left == names_right) & name_a[i] & name_b[j] & a.named[i] & b.named[j]
    same_words = (texts_left == texts_right) & words_a[i] & words_b[j]
    return np.where(same_name, ONLY_NAME, 0.0) + np.where(same_words, ONLY_WORDS, 0.0)


def _once(values: tuple[str, ...]) -> np.ndarray:
    counts = Counter(values)
    return np.array([bool(value) and counts[value] == 1 for value in values], bool)


def word_likeness(left: tuple[str, ...], right: tuple[str, ...], i: np.ndarray, j: np.ndarray) -> Floats:
    """How alike words are: 1 the same, about 0.9 a letter off, falling to 0."""
    if not len(i):
        return np.zeros(0)
    others_first()
    ids: dict[str, int] = {}
    left_id = np.array([ids.setdefault(left[k], len(ids)) for k in i.tolist()], dtype=np.int64)
    right_id = np.array([ids.setdefault(right[k], len(ids)) for k in j.tolist()], dtype=np.int64)
    words = list(ids)
    code = left_id * len(words) + right_id
    unique, back = np.unique(code, return_inverse=True)
    p, q = unique // len(words), unique % len(words)
    first, second = [words[k] for k in p], [words[k] for k in q]
    others_first()
    from rapidfuzz import process
    from rapidfuzz.distance import JaroWinkler, Levenshtein

    edits = process.cpdist(first, second, scorer=Levenshtein.normalized_similarity, dtype=np.float64)
    others_first()
    start = process.cpdist(first, second, scorer=JaroWinkler.normalized_similarity, dtype=np.float64)
    alike = np.where(p == q, 1.0, np.minimum(0.95, 0.6 * edits + 0.4 * np.maximum(0.0, start * 2.5 - 1.5)))
    return np.asarray(alike[back])


def _kind_likeness(a: np.ndarray, b: np.ndarray) -> Floats:
    """1 for the same kind, 0.5 among outlines (box, oval, path: codes 0..2), 0 otherwise."""
    return np.where(a == b, 1.0, np.where((a <= 2) & (b <= 2), 0.5, 0.0))


def _look_likeness(a: Facts, b: Facts, i: np.ndarray, j: np.ndarray) -> Floats:
    first, second = a.look[i], b.look[j]
    far = np.linalg.norm(first[:, :4] - second[:, :4], axis=1)
    paint = np.exp(-((far / 0.25) ** 2))
    thick = np.abs(first[:, 4] - second[:, 4]) / (1.0 + np.maximum(first[:, 4], second[:, 4]))
    look = paint * (1.0 - 0.5 * thick)
    art_a, art_b = np.array(a.assets, object)[i], np.array(b.assets, object)[j]
    pictures = (art_a != "") & (art_b != "")
    look = np.where(pictures, np.where(art_a == art_b, 1.0, 0.3), look)
    return np.where((a.kind[i] == GROUP) & (b.kind[j] == GROUP), np.nan, look)


def _rareness(a: Facts, b: Facts) -> dict[str, float]:
    """How much a name or words inside a group say: less the more groups hold the same."""
    counts: Counter[str] = Counter()
    for facts in (a, b):
        own: Counter[str] = Counter(token for tokens in facts.inner for token in tokens)
        for token, count in own.items():
            counts[token] = max(counts[token], count)
    return {token: 1.0 / count for token, count in counts.items()}


def _overlap(first: frozenset[str], second: frozenset[str], rare: dict[str, float]) -> float:
    if not first or not second:
        return float("nan")
    # Against both sizes: a list that holds everything is not the card that it holds (Ochiai's coefficient, weighted).
    shared = sum(rare[token] for token in first & second)
    whole = sum(rare[token] for token in first) * sum(rare[token] for token in second)
    return float(shared / np.sqrt(whole))


def _alike_counts(first: Floats, second: Floats) -> Floats:
    """How alike two counts of kinds are: what both have over what either has; 1 for two empty ones."""
    most = np.maximum(first, second).sum(1)
    return np.asarray(np.where(most > 0, np.minimum(first, second).sum(1) / np.maximum(most, 1e-9), 1.0))


def _shared_inside(a: Facts, b: Facts, i: np.ndarray, j: np.ndarray, partner: np.ndarray) -> Floats:
    """Of what lies in two groups, how much is paired with each other (Ochiai); NaN where nothing is paired yet."""
    votes: Counter[int] = Counter()
    for p in np.flatnonzero((partner >= 0) & (a.kind != GROUP)).tolist():
        ups = b.chains[int(partner[p])]
        for up in a.chains[p]:
            base = up * b.count
            for over in ups:
                votes[base + over] += 1
    if not votes:
        return np.full(len(i), np.nan)
    found = np.array([votes.get(code, 0) for code in (i * b.count + j).tolist()], float)
    sizes = np.sqrt(a.leaves[i] * b.leaves[j])
    return np.where(sizes > 0, found / np.maximum(sizes, 1e-9), np.nan)


def _tree_likeness(a: Facts, b: Facts, i: np.ndarray, j: np.ndarray, partner: np.ndarray, taken: np.ndarray) -> Floats:
    up, over = a.flat.parent[i], b.flat.parent[j]
    matched = np.where(up >= 0, partner[up], -1)
    back = np.where(over >= 0, taken[over], -1)
    parents = np.where(
        (up < 0) & (over < 0),
        1.0,
        np.where((matched >= 0) & (matched == over), 1.0, np.where((matched >= 0) | (back >= 0), 0.1, 0.5)),
    )
    order = 1.0 - np.abs(a.order[i] - b.order[j])
    beside = np.maximum(_beside(a.before, b.before, i, j, partner), _beside(a.after, b.after, i, j, partner))
    return np.asarray(0.65 * parents + 0.35 * np.fmax(order, beside))


def _beside(a: np.ndarray, b: np.ndarray, i: np.ndarray, j: np.ndarray, partner: np.ndarray) -> Floats:
    """1 where the neighbours of two layers are a pair, 0 otherwise."""
    p, q = a[i], b[j]
    return np.asarray((p >= 0) & (q >= 0) & (partner[p] == q), float)


def _spot_likeness(a: Facts, b: Facts, i: np.ndarray, j: np.ndarray, partner: np.ndarray) -> Floats:
    """By where a layer is in the frame, or in its group where both groups are a pair, whichever fits better."""
    far = _near(a.spot[i], b.spot[j])
    rows = np.flatnonzero((a.twins[i] >= _MANY_ALIKE) & (a.twins[i] == b.twins[j]))
    if len(rows):
        # As many alike on either side: what counts is the place among them, so that a list that was carried or
        # scrolled keeps its order.
        same = np.array([a.twin[p] == b.twin[q] for p, q in zip(i[rows].tolist(), j[rows].tolist(), strict=True)], bool)
        rows = rows[same]
        p, q = i[rows], j[rows]
        closer = np.maximum(1.0, a.twins[p] / 6.0)[:, None]
        one, two = a.twin_spot[p].copy(), b.twin_spot[q].copy()
        one[:, :2] *= closer
        two[:, :2] *= closer
        far[rows] = _near(one, two)
    up, over = a.flat.parent[i], b.flat.parent[j]
    kin = (up >= 0) & (over >= 0) & (partner[up] == over)
    return np.where(kin, np.maximum(far, _near(a.inner_spot[i], b.inner_spot[j])), far)


def _near(a: Floats, b: Floats) -> Floats:
    moved = np.hypot(a[:, 0] - b[:, 0], a[:, 1] - b[:, 1])
    small, large = np.minimum(a[:, 2:], b[:, 2:]), np.maximum(a[:, 2:], b[:, 2:])
    ratio = ((small + 0.01) / (large + 0.01)).prod(1)
    return np.asarray(0.35 * np.exp(-moved * 2.5) + 0.25 * np.exp(-moved * 15.0) + 0.4 * np.sqrt(ratio))
