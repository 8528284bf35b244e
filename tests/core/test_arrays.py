"""NumPy that is loaded when something is reckoned with it."""

from __future__ import annotations

import subprocess
import sys
import unittest
from types import ModuleType

import numpy

from avelt.core.arrays import np

LATE = """
import sys
from avelt.core.geometry import affine, flatten
from avelt.core.arrays import np
assert "numpy" not in sys.modules
print(affine.identity().tolist(), "numpy" in sys.modules, "__getattr__" in vars(np), type(np).__name__)
try:
    np.no_such_thing
except AttributeError:
    print("no")
"""


class Late(unittest.TestCase):
    def test_it_is_loaded_at_the_first_look_and_from_then_on_a_plain_module(self) -> None:
        found = subprocess.run([sys.executable, "-c", LATE], check=True, capture_output=True, text=True)
        self.assertEqual(found.stdout.splitlines(), ["[1.0, 0.0, 0.0, 1.0, 0.0, 0.0] True False module", "no"])

    def test_it_has_what_numpy_has(self) -> None:
        self.assertIs(np.ndarray, numpy.ndarray)
        wanted = [name for name in numpy.__all__ if not isinstance(getattr(numpy, name), ModuleType)]
        self.assertGreater(len(wanted), 300)
        self.assertEqual([name for name in wanted if getattr(np, name) is not getattr(numpy, name)], [])


if __name__ == "__main__":
    unittest.main()
