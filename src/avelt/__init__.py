"""Avelt: choreograph how one screen of a prototype turns into the next."""

import os

__version__ = "0.1.0"
RELEASED = "2026-11-29"  # the day of this version

# NumPy's BLAS starts as many threads as there are cores, and they wait busily. Nothing here multiplies large matrices.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
