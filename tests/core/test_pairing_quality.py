"""The quality of pairing on a small draw of the bench, with its own targets: a change for the worse shows at once."""

import random
import unittest

from bench.changes import CHANGES, built, nodes_of
from bench.pairing_quality import HONEST, NAMES, Count, judge, measure
from bench.screens import KINDS, screen

from avelt.core.model.find import layer_index


class Quality(unittest.TestCase):
    def test_targets_are_met_on_a_small_draw(self) -> None:
        whole = Count()
        for regime, kinds in measure(len(KINDS)).items():
            count = Count()
            for part in kinds.values():
                count.add(part)
            self.assertGreaterEqual(count.f1, NAMES[regime][2], regime)
            whole.add(count)
        self.assertGreaterEqual(whole.honesty, HONEST)


class Generator(unittest.TestCase):
    def test_the_truth_names_layers_of_both_frames(self) -> None:
        for seed in range(len(KINDS)):
            frame = screen(seed)
            for kind, change in CHANGES.items():
                rng = random.Random(f"{seed} {kind}")
                nodes = nodes_of(frame.layers)
                changed, truth = built(change(frame, nodes, rng, list(screen(seed + 1).layers)), nodes, rng)
                self.assertLessEqual(set(truth), set(layer_index(frame)), kind)
                self.assertEqual(len(set(truth.values())), len(truth), kind)
                self.assertLessEqual(set(truth.values()), set(layer_index(changed)), kind)
                least = 2 if kind == "grows into a page" else len(layer_index(frame)) / 5
                self.assertGreater(len(truth), least, kind)

    def test_judging_counts_what_is_wrong(self) -> None:
        frame = screen(1)
        nodes = nodes_of(frame.layers)
        other, truth = built(frame, nodes, random.Random(1))
        good = judge(frame, other, truth)
        self.assertEqual((good.f1, good.misses), (1.0, []))
        first, second = list(truth)[:2]
        lie = {**truth, first: truth[second], second: truth[first]}
        self.assertLess(judge(frame, other, lie).f1, 1.0)

    def test_one_seed_gives_one_screen(self) -> None:
        self.assertEqual(screen(5), screen(5))
        self.assertNotEqual(screen(5), screen(13))
