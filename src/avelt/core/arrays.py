"""NumPy, loaded when something is first reckoned with it: a window opens without.

Every module takes ``np`` from here; loading NumPy costs as much as two thirds of an empty window. ``np`` is a module
that fills itself with all of NumPy at the first look at it, and from then on costs no more than NumPy's own name.
"""

from __future__ import annotations

from types import ModuleType
from typing import TYPE_CHECKING, Any

__all__ = ["ArrayLike", "Floats", "np"]

if TYPE_CHECKING:
    import numpy as np
    from numpy.typing import ArrayLike, NDArray

    Floats = NDArray[np.float64]
else:
    ArrayLike = Floats = Any
    np = ModuleType("numpy")

    def _fill(name: str) -> object:
        import numpy

        # NumPy's own way to its rarer pieces is left out, so that looking a name up stays quick: who needs one of them
        # (``numpy.random``, ``numpy.fft``) imports it where it is needed.
        vars(np).update({key: value for key, value in vars(numpy).items() if key != "__getattr__"})
        vars(np).pop("__getattr__", None)
        return getattr(np, name)

    np.__getattr__ = _fill
