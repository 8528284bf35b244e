"""Numbers of the page as differences: summed up again they are what they were."""

import unittest
from itertools import accumulate

from hypothesis import given
from hypothesis import strategies as st

from avelt.core.handoff.page_packing import SAME, channel_columns, differences, folded, layer_columns


def summed(values: list[int], times: int) -> list[int]:
    """What the page does."""
    for _ in range(times):
        values = list(accumulate(values))
    return values


class Differences(unittest.TestCase):
    @given(st.lists(st.integers(-(10**6), 10**6)), st.integers(0, 3))
    def test_they_are_summed_up_again(self, values: list[int], times: int) -> None:
        self.assertEqual(summed(differences(values, times), times), values)

    def test_what_goes_on_evenly_becomes_nothing(self) -> None:
        self.assertEqual(differences([5, 7, 9, 11], 2), [5, -3, 0, 0])


class Keyframes(unittest.TestCase):
    def test_columns_give_back_every_number(self) -> None:
        keys = [[0.0, "1px -2.5px", 1], [0.25, "1.25px 0px", 1], [1.0, "-.5px 3px", 2]]
        made = folded(keys)
        assert isinstance(made, dict)
        self.assertEqual((made["p"], made["f"], made["c"]), (["", "px ", "px"], 2, [1, 1, 2]))
        self.assertEqual([at / 1e7 for at in summed(made["o"], 1)], [0.0, 0.25, 1.0])
        columns = [[value / 100 for value in summed(column, 2)] for column in made["n"]]
        self.assertEqual(columns, [[1.0, 1.25, -0.5], [-2.5, 0.0, 3.0]])
        self.assertEqual(folded([[*key[:2], 4] for key in keys])["c"], 4)  # type: ignore[call-overload]

    def test_what_differs_in_more_than_numbers_stays(self) -> None:
        for texts in (
            ("none", "1px", "2px"),
            ("hidden", "hidden", "inherit"),
            ("1px", "2px", "2%"),
            ("1px", "1e-7px", "2px"),
            ("#123456", "#123457", "#123458"),
            ("1px", "2px"),
        ):
            keys = [[k / 2, text, 0] for k, text in enumerate(texts)]
            with self.subTest(texts):
                self.assertIs(folded(keys), keys)


class Columns(unittest.TestCase):
    def test_layers_and_channels(self) -> None:
        columns = layer_columns([(3, 7, 7, -1, 1), (5, 8, -1, 0, 2), (9, -1, 4, 1, 0)])
        self.assertEqual(columns, [[3, 2, 4], [7, 8, -1], [SAME, -1, 4], [-1, 0, 1], [1, 2, 0]])
        self.assertEqual(channel_columns([(4, 10), (4, 12), (9, 1)]), [[4, 0, 5], [10, 2, -11]])
        self.assertEqual((layer_columns([]), channel_columns([])), ([], []))


if __name__ == "__main__":
    unittest.main()
