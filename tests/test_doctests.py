"""The examples in docstrings run."""

import doctest
import unittest

from avelt.core.blending import colour
from avelt.core.curves import handles
from avelt.core.geometry import affine
from avelt.core.pairing import facts
from avelt.window.controls import number_text


class Examples(unittest.TestCase):
    def test_examples_hold(self) -> None:
        for module in (affine, handles, colour, facts, number_text):
            result = doctest.testmod(module)
            self.assertGreater(result.attempted, 0, module)
            self.assertEqual(result.failed, 0, module)
