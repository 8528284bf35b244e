"""Which goes to which so that all together cost least: for a few things, without loading a library for many."""

from __future__ import annotations

from avelt.core.arrays import Floats, np

_FEW = 32


def assigned(cost: Floats) -> list[tuple[int, int]]:
    """Couples (row, column) of a table of finite costs (n, m) with the least sum, as many as its shorter side, by row.

    Shortest augmenting paths with potentials (Kuhn 1955; Jonker and Volgenant 1987).

    >>> assigned(np.array([[4.0, 1.0, 3.0], [2.0, 0.0, 5.0]]))
    [(0, 1), (1, 0)]
    """
    n, m = cost.shape
    if min(n, m) > _FEW:
        from scipy.optimize import linear_sum_assignment  # takes a quarter of a second to load

        rows, columns = linear_sum_assignment(cost)
        return [(int(i), int(j)) for i, j in zip(rows, columns, strict=True)]
    if n > m:
        return sorted((i, j) for j, i in assigned(cost.T))
    table = np.zeros((n + 1, m + 1))  # row and column 0 stand for nobody yet
    table[1:, 1:] = cost
    of_row, of_column = np.zeros(n + 1), np.zeros(m + 1)
    taken, before = np.zeros(m + 1, np.intp), np.zeros(m + 1, np.intp)
    for row in range(1, n + 1):
        taken[0], column = row, 0
        least, used = np.full(m + 1, np.inf), np.zeros(m + 1, bool)
        while True:
            used[column] = True
            here = int(taken[column])
            further = table[here] - of_row[here] - of_column
            nearer = ~used & (further < least)
            nearer[0] = False
            least[nearer], before[nearer] = further[nearer], column
            free = np.where(used, np.inf, least)
            free[0] = np.inf
            following = int(free.argmin())
            step = free[following]
            of_row[taken[used]] += step
            of_column[used] -= step
            least[~used] -= step
            column = following
            if taken[column] == 0:
                break
        while column:
            taken[column] = taken[before[column]]
            column = int(before[column])
    return sorted((int(taken[j]) - 1, j - 1) for j in range(1, m + 1) if taken[j])
