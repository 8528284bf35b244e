"""Tests that keep nothing of this person's: a folder of their own, with the cache in it."""

from __future__ import annotations

import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from avelt.window.start import application


class OwnCache(unittest.TestCase):
    """``folder`` is gone afterwards; what is kept for the next opening lies below its ``cache``."""

    def setUp(self) -> None:
        application()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        patched = mock.patch.dict(os.environ, {"XDG_CACHE_HOME": str(self.folder / "cache")})
        patched.start()
        self.addCleanup(patched.stop)
