"""Finding which layer of one frame is which layer of another.

Decisions by hand come first, then shared origins; the rest by an optimal assignment over evidence, groups
before what lies in them, so that a paired parent speaks for its children.
"""

from __future__ import annotations

from typing import Literal

from avelt.core.arrays import Floats, np
from avelt.core.model.values import Decision, Frame
from avelt.core.pairing import evidence
from avelt.core.pairing.candidates import couples
from avelt.core.pairing.facts import GROUP, Facts, gather
from avelt.core.pairing.joined import Joined
from avelt.core.pairing.leftovers import CERTAINTY, at_home, last_ones
from avelt.core.record import Mutable, Record, lazy
from avelt.core.turns import others_first

#: The least score of a pair: lower where a name, words, or look with spot identify it.
KNOWN_FLOOR = 0.48
PLAIN_FLOOR = 0.64
STRANGE_FLOOR = 0.8
_UNLIKE, _AT_HOME = 0.5, 0.7
_IDENTIFIES = 0.8
_LOOKS_SAME = 0.9
_HOLDS_SAME, _HOLDS_ALL = 0.55, 0.7


class Pair(Record, frozen=True):
    """A layer left and a layer arrived at, taken as one; ``scores`` as ``evidence.KINDS``, NaN = not applicable."""

    from_id: str
    to_id: str
    confidence: float
    by: Literal["origin", "hand", "evidence"]
    scores: tuple[float, ...]


class Candidate(Record, frozen=True):
    """Another layer that was looked at, and how well it fits."""

    layer: str
    score: float


class Pairing(Record, frozen=True):
    """The result. ``edges`` (i, j) with ``score`` are all couples that were weighed."""

    left: Facts
    right: Facts
    pairs: tuple[Pair, ...]
    leaves: tuple[str, ...]
    enters: tuple[str, ...]
    edge_i: np.ndarray
    edge_j: np.ndarray
    edge_score: Floats

    @lazy
    def to_of(self) -> dict[str, str]:
        """Layer arrived at, by the layer left."""
        return {pair.from_id: pair.to_id for pair in self.pairs}

    @lazy
    def joined(self) -> Joined:
        """The pairs, as a motion is worked out from them."""
        return Joined(self.left.flat, self.right.flat, self.to_of)

    @lazy
    def from_of(self) -> dict[str, str]:
        """Layer left, by the layer arrived at."""
        return {pair.to_id: pair.from_id for pair in self.pairs}

    @lazy
    def by_left(self) -> dict[str, Pair]:
        """The pairs by the layer left."""
        return {pair.from_id: pair for pair in self.pairs}

    @lazy
    def partners(self) -> tuple[np.ndarray, np.ndarray]:
        """The pair of each layer left (n,) and of each layer arrived at (m,), as rows; -1 for none."""
        partner, taken = np.full(self.left.count, -1), np.full(self.right.count, -1)
        for left_id, right_id in self.to_of.items():
            i, j = self.left.flat.index[left_id], self.right.flat.index[right_id]
            partner[i], taken[j] = j, i
        return partner, taken

    @lazy
    def kin(self) -> dict[tuple[int, int], tuple[np.ndarray, np.ndarray]]:
        """Rows of the pairs that lie in the same two groups (-1: the frame), by the groups' rows."""
        found: dict[tuple[int, int], list[tuple[int, int]]] = {}
        for i in np.flatnonzero(self.partners[0] >= 0).tolist():
            j = int(self.partners[0][i])
            found.setdefault((int(self.left.flat.parent[i]), int(self.right.flat.parent[j])), []).append((i, j))
        return {key: (np.array(rows)[:, 0], np.array(rows)[:, 1]) for key, rows in found.items()}

    def candidates(self, layer_id: str, side: Literal["from", "to"], most: int = 4) -> tuple[Candidate, ...]:
        """The best-fitting layers of the other frame, best first."""
        own, other = (self.left, self.right) if side == "from" else (self.right, self.left)
        row = own.flat.index.get(layer_id, -1)
        here, there = (self.edge_i, self.edge_j) if side == "from" else (self.edge_j, self.edge_i)
        rows = np.flatnonzero(here == row)
        best = rows[np.argsort(-self.edge_score[rows], kind="stable")][:most]
        return tuple(Candidate(other.flat.layers[there[e]].id, float(self.edge_score[e])) for e in best)


def pair_frames(left: Frame, right: Frame, decisions: tuple[Decision, ...] = ()) -> Pairing:
    """Pairs between two frames, with what leaves and enters, in the frames' paint order."""
    a, b = gather(left), gather(right)
    partner, taken = np.full(a.count, -1), np.full(b.count, -1)
    by: dict[int, Literal["origin", "hand", "evidence"]] = {}
    apart: set[tuple[int, int]] = set()
    for decision in decisions:
        i, j = a.flat.index.get(decision.from_id, -1), b.flat.index.get(decision.to_id, -1)
        if i < 0 or j < 0:
            continue
        if not decision.together:
            apart.add((i, j))
        elif partner[i] < 0 and taken[j] < 0 and (a.kind[i] == GROUP) == (b.kind[j] == GROUP):
            partner[i], taken[j], by[i] = j, i, "hand"
    _by_origin(a, b, partner, taken, by, apart)
    edges = {groups: _edges(a, b, partner, taken, apart, groups) for groups in (True, False)}
    sure: dict[int, float] = {}
    settled, settled_back = partner.copy(), taken.copy()
    # Groups first, so that they speak for what lies in them; then again, as what lies in them speaks for the groups.
    rounds = 2 if len(edges[True].i) and len(edges[False].i) else 1
    for _ in range(rounds):
        sure = {}
        for groups in (True, False):
            # Weighed with all that was found before, then assigned afresh.
            marks = evidence.placed(a, b, edges[groups].i, edges[groups].j, edges[groups].marks, partner, taken)
            of_i, of_j = (a.kind == GROUP) == groups, (b.kind == GROUP) == groups
            partner[of_i], taken[of_j] = settled[of_i], settled_back[of_j]
            _assign(edges[groups], marks, partner, taken, sure)
    others_first()
    for i, j in at_home(a, b, partner, taken):
        before = int(taken[j])
        if (i, j) not in apart and before in sure:
            sure[i] = min(CERTAINTY, sure.pop(before))
            partner[before], partner[i], taken[j] = -1, j, i
    others_first()
    for i, j in last_ones(a, b, partner, taken):
        if (i, j) not in apart:
            partner[i], taken[j], sure[i] = j, i, CERTAINTY
    for i in sure:
        by.setdefault(i, "evidence")
    weighed = [(e.i, e.j, e.score) for e in edges.values()]
    pairs = _make_pairs(a, b, partner, taken, by, sure)
    return Pairing(
        a,
        b,
        pairs,
        tuple(a.flat.layers[i].id for i in range(a.count) if partner[i] < 0),
        tuple(b.flat.layers[j].id for j in range(b.count) if taken[j] < 0),
        np.concatenate([w[0] for w in weighed]),
        np.concatenate([w[1] for w in weighed]),
        np.concatenate([w[2] for w in weighed]),
    )


def _by_origin(
    a: Facts,
    b: Facts,
    partner: np.ndarray,
    taken: np.ndarray,
    by: dict[int, Literal["origin", "hand", "evidence"]],
    apart: set[tuple[int, int]],
) -> None:
    origins = {layer.origin: j for j, layer in enumerate(b.flat.layers)}
    for i, layer in enumerate(a.flat.layers):
        j = origins.get(layer.origin, -1)
        if j < 0 or partner[i] >= 0 or taken[j] >= 0 or (i, j) in apart:
            continue
        if (a.kind[i] == GROUP) == (b.kind[j] == GROUP):
            partner[i], taken[j], by[i] = j, i, "origin"


class _Edges(Mutable):
    """Couples of free layers that are weighed, with the evidence that lasts and the newest score."""

    i: np.ndarray
    j: np.ndarray
    marks: Floats
    extra: Floats
    score: Floats


def _edges(
    a: Facts, b: Facts, partner: np.ndarray, taken: np.ndarray, apart: set[tuple[int, int]], groups: bool
) -> _Edges:
    free_i = np.flatnonzero((partner < 0) & ((a.kind == GROUP) == groups))
    free_j = np.flatnonzero((taken < 0) & ((b.kind == GROUP) == groups))
    others_first()
    i, j = couples(a, b, free_i, free_j)
    others_first()
    if apart and len(i):
        keep = np.array([(p, q) not in apart for p, q in zip(i.tolist(), j.tolist(), strict=True)], bool)
        i, j = i[keep], j[keep]
    return _Edges(i, j, evidence.lasting(a, b, i, j), evidence.only_ones(a, b, i, j), np.zeros(len(i)))


def _assign(edges: _Edges, marks: Floats, partner: np.ndarray, taken: np.ndarray, sure: dict[int, float]) -> None:
    """Pair the free rows optimally; writes into ``partner``, ``taken`` and ``sure``."""
    others_first()
    i, j = edges.i, edges.j
    score = edges.score = np.minimum(1.0, evidence.total(marks) + edges.extra)
    good = np.flatnonzero(score >= _floor(marks))
    if len(good):
        others_first()
        chosen = good[_match(i[good], j[good], score[good])]
        margin = _margins(i, j, score, chosen)
        for edge, gap in zip(chosen.tolist(), margin.tolist(), strict=True):
            partner[i[edge]], taken[j[edge]] = j[edge], i[edge]
            sure[int(i[edge])] = certainty(float(score[edge]), gap)


def _floor(marks: Floats) -> Floats:
    """The least score for each edge."""
    known = np.nan_to_num(marks)
    same_look = (known[:, evidence.LOOK] >= _LOOKS_SAME) & (known[:, evidence.SPOT] >= _LOOKS_SAME)
    named = (known[:, evidence.NAME] >= _IDENTIFIES) | (known[:, evidence.TEXT] >= _IDENTIFIES)
    # Two layers that both have names of their own, and other ones, must look and stand (or hold) quite the same.
    other_names = marks[:, evidence.NAME] < _IDENTIFIES
    named |= known[:, evidence.INSIDE] >= np.where(other_names, _HOLDS_ALL, _HOLDS_SAME)
    floor = np.where(named, KNOWN_FLOOR, np.where(same_look & ~other_names, KNOWN_FLOOR, PLAIN_FLOOR))
    # Names that have nothing to do with each other, in groups that are no pair: all else must say yes.
    strange = (marks[:, evidence.NAME] < _UNLIKE) & (known[:, evidence.TREE] < _AT_HOME) & ~named
    floor = np.where(strange, STRANGE_FLOOR, floor)
    # Kinds that share nothing (a text and a picture) are one thing only when the name says so.
    other_kind = (marks[:, evidence.KIND] == 0.0) & (known[:, evidence.NAME] < _IDENTIFIES)
    return np.where(other_kind, 2.0, floor)


def load() -> None:
    """Load what large frames are paired with: a third of a second that nobody needs to wait for."""
    import scipy.sparse.csgraph
    import scipy.spatial  # noqa: F401


def _match(i: np.ndarray, j: np.ndarray, score: Floats) -> np.ndarray:
    """The edges of the assignment with the greatest total score; a layer may stay alone.

    Jonker-Volgenant on the sparse graph (SciPy), with a private stand-in partner for each row.
    """
    # Loaded here: SciPy takes longer to load than a window to open, and the first window pairs nothing (see ``load``).
    from scipy.sparse import coo_array
    from scipy.sparse.csgraph import min_weight_full_bipartite_matching

    rows, row_of = np.unique(i, return_inverse=True)
    columns, column_of = np.unique(j, return_inverse=True)
    n, m = len(rows), len(columns)
    alone = 2.0 - KNOWN_FLOOR
    graph = coo_array(
        (
            np.concatenate([2.0 - score, np.full(n, alone)]),
            (np.concatenate([row_of, np.arange(n)]), np.concatenate([column_of, m + np.arange(n)])),
        ),
        shape=(n, m + n),
    )
    chosen_rows, chosen_columns = min_weight_full_bipartite_matching(graph.tocsr())
    real = chosen_columns < m
    wanted = np.unique(chosen_rows[real] * m + chosen_columns[real])
    return np.flatnonzero(np.isin(row_of * m + column_of, wanted))


def _margins(i: np.ndarray, j: np.ndarray, score: Floats, chosen: np.ndarray) -> Floats:
    """How far each chosen edge lies above the best other edge at either of its ends."""
    others = score.copy()
    others[chosen] = -1.0
    row_best, column_best = np.zeros(int(i.max()) + 1), np.zeros(int(j.max()) + 1)
    np.maximum.at(row_best, i, others)
    np.maximum.at(column_best, j, others)
    return np.asarray(score[chosen] - np.maximum(row_best[i[chosen]], column_best[j[chosen]]))


def certainty(score: float, margin: float) -> float:
    """Confidence 0..1 from a score and its margin over the next best."""
    x = 9.0 * (score - 0.56) + 7.0 * (min(margin, 0.3) - 0.04)
    return float(min(0.99, 1.0 / (1.0 + np.exp(-x))))


def _make_pairs(
    a: Facts,
    b: Facts,
    partner: np.ndarray,
    taken: np.ndarray,
    by: dict[int, Literal["origin", "hand", "evidence"]],
    sure: dict[int, float],
) -> tuple[Pair, ...]:
    i = np.flatnonzero(partner >= 0)
    j = partner[i]
    marks = evidence.scores(a, b, i, j, partner, taken).tolist()
    return tuple(
        Pair(a.flat.layers[p].id, b.flat.layers[q].id, 1.0 if by[p] != "evidence" else sure[p], by[p], tuple(marks[k]))
        for k, (p, q) in enumerate(zip(i.tolist(), j.tolist(), strict=True))
    )
