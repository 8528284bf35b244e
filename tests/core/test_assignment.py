"""A few things are given to each other at the least cost, as a library for many does it."""

from __future__ import annotations

import unittest

import numpy as np
from scipy.optimize import linear_sum_assignment

from avelt.core.geometry.assignment import assigned


class Assigned(unittest.TestCase):
    def test_the_sum_is_the_least_there_is(self) -> None:
        chance = np.random.default_rng(3)
        for _ in range(300):
            n, m = (int(v) for v in chance.integers(1, 12, 2))
            cost = chance.random((n, m)) * 100
            if chance.random() < 0.3:
                cost[chance.random((n, m)) < 0.4] = 1e6
            if chance.random() < 0.3:
                cost = cost.round(-1)  # many alike
            couples = assigned(cost)
            rows, columns = linear_sum_assignment(cost)
            self.assertEqual(len(couples), min(n, m))
            self.assertEqual(len({i for i, _ in couples}), len(couples))
            self.assertEqual(len({j for _, j in couples}), len(couples))
            self.assertAlmostEqual(sum(cost[i, j] for i, j in couples), float(cost[rows, columns].sum()), 6)
            self.assertEqual(couples, sorted(couples))

    def test_many_are_given_to_the_library(self) -> None:
        cost = np.random.default_rng(1).random((40, 50))
        rows, columns = linear_sum_assignment(cost)
        self.assertEqual(assigned(cost), list(zip(rows.tolist(), columns.tolist(), strict=True)))

    def test_nothing_to_give(self) -> None:
        self.assertEqual(assigned(np.zeros((0, 3))), [])
        self.assertEqual(assigned(np.zeros((2, 0))), [])


if __name__ == "__main__":
    unittest.main()
