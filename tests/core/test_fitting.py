"""A curve that becomes another kind keeps its shape as well as the kind can."""

from __future__ import annotations

import unittest

from avelt.core.arrays import np
from avelt.core.curves import easing
from avelt.core.curves.fitting import fitted
from avelt.core.curves.text import own, parse
from avelt.core.model.curves import Drawn, Drops, Handles, Hold, Line, Points, Ring, Spring, Steps

KINDS = (Line(), Handles(0.3, 0, 0.2, 1), Points(((0, 0), (1, 1))), Steps(), Drawn(), Spring(), Drops(), Ring(), Hold())
EASE = Handles(0.42, 0.0, 0.58, 1.0)


class Fitting(unittest.TestCase):
    def test_the_kind_that_it_is_and_a_line_are_left(self) -> None:
        for kind in KINDS:
            self.assertEqual(fitted(kind, kind), (kind, 0.0))
            self.assertEqual(fitted(Line(), kind)[0], kind)
        self.assertEqual(fitted(Handles(0.1, 0.2, 0.3, 0.4), KINDS[1])[0], Handles(0.1, 0.2, 0.3, 0.4))

    def test_the_error_is_the_largest_difference(self) -> None:
        t = np.linspace(0, 1, 1001)
        for source in (EASE, Spring(0.4), Drops(), Points(((0, 0), (0.2, 0.7), (1, 1)))):
            for kind in KINDS:
                made, off = fitted(source, kind)
                self.assertIs(type(made), type(kind))
                self.assertIs(type(parse(own(made))), type(made), "it can be typed")
                seen = float(np.abs(easing.at(source, t) - easing.at(made, t)).max())
                if not isinstance(made, Steps | Hold) and not isinstance(source, Drops):
                    self.assertAlmostEqual(seen, off, delta=0.02)

    def test_what_a_kind_can_say_it_says(self) -> None:
        limits = {Handles: 0.0, Drawn: 1e-6, Points: 0.012, Spring: 0.44, Steps: 0.26, Hold: 0.51}
        for kind in KINDS:
            if type(kind) in limits:
                self.assertLessEqual(fitted(EASE, kind)[1], limits[type(kind)] + 1e-9, kind)
        for source, kind, most in (
            (Spring(0.3), Drawn(), 0.006),
            (Spring(0.3), Points(()), 0.012),
            (Ring(2.5, 5.0), Drawn(), 0.02),
            (Points(((0, 0), (0.3, 0.9), (1, 1))), Drawn(), 0.006),
            (Handles(0.3, 1.4, 0.6, 1.0), Drawn(), 1e-6),
        ):
            self.assertLessEqual(fitted(source, kind)[1], most, (source, kind))

    def test_a_kind_is_found_again_through_another(self) -> None:
        spring = Spring(0.35, 1.0)
        back, off = fitted(fitted(spring, Points(()))[0], Spring())
        self.assertLess(abs(back.bounce - 0.35) + abs(back.speed - 1.0), 1.5)
        self.assertLess(off, 0.05)
        self.assertEqual(fitted(fitted(Drops(2, 0.4), Points(()))[0], Drops())[0].count, 2)
        self.assertAlmostEqual(fitted(Handles(0.1, 0.9, 0.2, 1.0), Hold())[0].at, 0.09, delta=0.05)
        self.assertEqual(fitted(Hold(0.0), Steps(1))[0], Steps(1, "start"))


if __name__ == "__main__":
    unittest.main()
