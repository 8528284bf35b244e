"""What follows from layers that went together, when all that speaks for itself is paired.

Of many like rows the one whose words became a page is the one whose ground and switch did, too. And of a card whose
words and picture became a page's, the only shape left in both that looks the same is one thing, whatever it is called.
"""

from __future__ import annotations

from collections import Counter, defaultdict

from avelt.core.arrays import np
from avelt.core.model.values import Path
from avelt.core.pairing.facts import Facts

LEAST_COMPANY = 2  # layers beside it that went together
ONE_OF_MANY = 0.25
SHARE = 0.5  # of those beside it
CERTAINTY = 0.8
_SAME_PAINT, _SAME_FORM = 0.08, 0.04  # in OKLab; of the box


def last_ones(a: Facts, b: Facts, partner: np.ndarray, taken: np.ndarray) -> list[tuple[int, int]]:
    """Rows that are paired by being left over; ``partner`` and ``taken`` as they are found so far."""
    company: Counter[tuple[int, int]] = Counter()
    for p in np.flatnonzero(partner >= 0).tolist():
        company[int(a.flat.parent[p]), int(b.flat.parent[int(partner[p])])] += 1
    beside_a, beside_b = Counter(a.flat.parent.tolist()), Counter(b.flat.parent.tolist())
    free_a, free_b = _free(a, partner), _free(b, taken)
    found: list[tuple[int, int]] = []
    for (up, over), count in company.most_common():
        smaller = min(beside_a[up] if up >= 0 else np.inf, beside_b[over] if over >= 0 else np.inf)
        if count < LEAST_COMPANY or (up < 0 and over < 0) or count < SHARE * (smaller - 1):
            continue
        mine, theirs = free_a.get(up, []), free_b.get(over, [])
        fits = {(i, j) for i in mine for j in theirs if _alike(a, i, b, j)}
        ways = Counter(i for i, _ in fits), Counter(j for _, j in fits)
        pairs = [(i, j) for i, j in sorted(fits) if ways[0][i] == 1 and ways[1][j] == 1]
        for i, j in pairs:
            mine.remove(i)
            theirs.remove(j)
        found += pairs
    return found


def at_home(a: Facts, b: Facts, partner: np.ndarray, taken: np.ndarray) -> list[tuple[int, int]]:
    """Rows (i, j) that are to be paired instead of what j is paired with: i is the like of it, beside the layers that
    became what lies beside j."""
    votes: dict[int, dict[int, float]] = defaultdict(lambda: defaultdict(float))
    words = Counter(a.words), Counter(b.words)
    for p in np.flatnonzero((partner >= 0) & (a.flat.parent >= 0)).tolist():
        q = int(partner[p])
        # Words that stand once in both frames say as much as two layers; one of many alike says hardly anything.
        only = bool(a.words[p]) and a.words[p] == b.words[q] and words[0][a.words[p]] == words[1][b.words[q]] == 1
        says = LEAST_COMPANY if only else ONE_OF_MANY if a.twins[p] > 1 else 1.0
        votes[int(b.flat.parent[q])][int(a.flat.parent[p])] += says
    inside: dict[int, list[int]] = defaultdict(list)
    for row, up in enumerate(a.flat.parent.tolist()):
        inside[up].append(row)
    now, back = partner.copy(), taken.copy()
    found: list[tuple[int, int]] = []
    for j in range(b.count):
        i, over = int(back[j]), int(b.flat.parent[j])
        if i < 0 or a.flat.parent[i] < 0:
            continue
        here = int(a.flat.parent[i])
        home = int(back[over]) if over >= 0 and back[over] >= 0 else -1
        if home < 0 and votes[over]:
            home, count = max(votes[over].items(), key=lambda entry: entry[1])
            if count < LEAST_COMPANY or count <= votes[over][here]:
                continue
        if home < 0 or home == here:
            continue
        like = [p for p in inside[home] if now[p] < 0 and a.twin[p] == a.twin[i]]
        if len(like) == 1:
            now[i], now[like[0]], back[j] = -1, j, like[0]
            found.append((like[0], j))
    return found


def _free(facts: Facts, partner: np.ndarray) -> dict[int, list[int]]:
    made: dict[int, list[int]] = defaultdict(list)
    for row in np.flatnonzero(partner < 0).tolist():
        made[int(facts.flat.parent[row])].append(row)
    return made


def _alike(a: Facts, i: int, b: Facts, j: int) -> bool:
    """Whether two layers look the same: kind, paint, words or picture, and the form of a path."""
    if a.kind[i] != b.kind[j] or a.words[i] != b.words[j] or a.assets[i] != b.assets[j]:
        return False
    if np.linalg.norm(a.look[i, :4] - b.look[j, :4]) > _SAME_PAINT or not np.array_equal(a.make[i], b.make[j]):
        return False
    one, two = a.flat.layers[i], b.flat.layers[j]
    if isinstance(one.body, Path) and isinstance(two.body, Path):
        return _same_form(one.body, one.w, one.h, two.body, two.w, two.h)
    return True


def _same_form(a: Path, aw: float, ah: float, b: Path, bw: float, bh: float) -> bool:
    if [len(sub.points) for sub in a.subpaths] != [len(sub.points) for sub in b.subpaths]:
        return False
    for one, two in zip(a.subpaths, b.subpaths, strict=True):
        first = np.array(one.points).reshape(-1, 2) / (aw or 1.0, ah or 1.0)
        second = np.array(two.points).reshape(-1, 2) / (bw or 1.0, bh or 1.0)
        if np.abs(first - second).max() > _SAME_FORM:
            return False
    return True
